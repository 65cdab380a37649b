package backup

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// A Place is where a back-up is written: a folder, or a .zip file. It is written
// beside and put in its place at the end, so that what is there is whole.
type Place struct {
	name, beside string
	archive      *zip.Writer // nil for a folder
	file         *os.File
	made         time.Time
}

// NewPlace begins a back-up at a path that is not there yet.
func NewPlace(name string, made time.Time) (*Place, error) {
	if _, err := os.Lstat(name); err == nil {
		return nil, fmt.Errorf("%s is there already; choose another name, or take it away first", name)
	}
	p := &Place{name: name, beside: name + ".unfinished", made: made}
	if err := os.RemoveAll(p.beside); err != nil {
		return nil, err
	}
	if !isZip(name) {
		return p, os.MkdirAll(p.beside, 0o700)
	}
	f, err := os.OpenFile(p.beside, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, err
	}
	p.file, p.archive = f, zip.NewWriter(f)
	return p, nil
}

func isZip(name string) bool { return strings.EqualFold(filepath.Ext(name), ".zip") }

// Create begins a file.
func (p *Place) Create(name string) (io.WriteCloser, error) {
	if !fs.ValidPath(name) {
		return nil, fmt.Errorf("%q is no name of a file", name)
	}
	if p.archive != nil {
		w, err := p.archive.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: p.made})
		return open{w}, err
	}
	at := filepath.Join(p.beside, filepath.FromSlash(name))
	if err := os.MkdirAll(filepath.Dir(at), 0o700); err != nil {
		return nil, err
	}
	return os.OpenFile(at, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
}

// open is a file of an archive, which ends where the next begins.
type open struct{ io.Writer }

func (open) Close() error { return nil }

// Finish puts the back-up in its place.
func (p *Place) Finish() error {
	if p.archive != nil {
		if err := errors.Join(p.archive.Close(), p.file.Sync(), p.file.Close()); err != nil {
			return err
		}
	}
	return os.Rename(p.beside, p.name)
}

// Leave takes away what was written of a back-up that failed.
func (p *Place) Leave() {
	if p.file != nil {
		p.file.Close()
	}
	os.RemoveAll(p.beside)
}

// OpenFiles opens a folder or a .zip file that is read; done closes it.
func OpenFiles(name string) (files fs.FS, done func() error, err error) {
	if !isZip(name) {
		if info, err := os.Stat(name); err != nil || !info.IsDir() {
			return nil, nil, fmt.Errorf("%s is neither a folder nor a .zip file", name)
		}
		return os.DirFS(name), func() error { return nil }, nil
	}
	z, err := zip.OpenReader(name)
	if err != nil {
		return nil, nil, fmt.Errorf("%s can't be opened: %w", name, err)
	}
	return z, z.Close, nil
}
