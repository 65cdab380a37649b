package web

import (
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"regexp"
	"strconv"
	"strings"

	"coldtap/internal/web/site"
)

// asset is a file that ships with the application, ready to be sent: its bytes, and compressed
// where that makes it smaller.
type asset struct {
	kind, hash string
	raw, small []byte
}

// assets are all files by their path, /static/css/theme.css.
type assets map[string]*asset

// loadAssets reads the files, hashes them and compresses them once. In style sheets each address
// of another file gets the hash of that file, so that it may be kept for good too.
func loadAssets(files fs.FS, more map[string]string) (assets, error) {
	all := assets{}
	err := fs.WalkDir(files, "static", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(files, name)
		if err != nil {
			return err
		}
		all["/"+name] = &asset{kind: kindOf(name), raw: b}
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("files that ship with it: %w", err)
	}
	for name, text := range more {
		all[name] = &asset{kind: kindOf(name), raw: []byte(text)}
	}
	for _, sheets := range []bool{false, true} { // what a sheet names has its hash before it
		for name, a := range all {
			if strings.HasSuffix(name, ".css") != sheets {
				continue
			}
			if sheets {
				a.raw = all.versioned(path.Dir(name), a.raw)
			}
			sum := sha256.Sum256(a.raw)
			a.hash = hex.EncodeToString(sum[:])[:16]
			if a.small, err = compressed(a.raw); err != nil {
				return nil, err
			}
		}
	}
	return all, nil
}

var inSheet = regexp.MustCompile(`url\("?([^"():]+)"?\)`)

// versioned gives each address in a style sheet its hash.
func (all assets) versioned(dir string, sheet []byte) []byte {
	return inSheet.ReplaceAllFunc(sheet, func(b []byte) []byte {
		name := path.Join(dir, string(inSheet.FindSubmatch(b)[1]))
		if all[name] == nil {
			return b
		}
		return []byte(`url("` + all.address(name) + `")`)
	})
}

// address is where a file is found, for good: another version has another address.
func (all assets) address(name string) string {
	if a := all[name]; a != nil {
		return name + "?v=" + a.hash
	}
	return name
}

func kindOf(name string) string {
	switch ext := path.Ext(name); ext {
	case ".woff2":
		return "font/woff2"
	case ".txt":
		return "text/plain; charset=utf-8"
	default:
		return mime.TypeByExtension(ext)
	}
}

// compressed is a text as gzip, nil where that is not smaller.
func compressed(raw []byte) ([]byte, error) {
	var b bytes.Buffer
	w, err := gzip.NewWriterLevel(&b, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(raw); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	if b.Len() >= len(raw)*9/10 {
		return nil, nil
	}
	return b.Bytes(), nil
}

// ServeHTTP sends a file. At the address of its hash it may be kept for good; without, it is
// asked for again.
func (all assets) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	a, h := all[r.URL.Path], w.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	if a == nil {
		http.NotFound(w, r)
		return
	}
	h.Set("Content-Type", a.kind)
	h.Set("ETag", `"`+a.hash+`"`)
	h.Set("Vary", "Accept-Encoding")
	if r.URL.Query().Get("v") == a.hash {
		h.Set("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		h.Set("Cache-Control", "no-cache")
	}
	if r.Header.Get("If-None-Match") == `"`+a.hash+`"` {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	send := a.raw
	if a.small != nil && site.TakesGzip(r) {
		h.Set("Content-Encoding", "gzip")
		send = a.small
	}
	h.Set("Content-Length", strconv.Itoa(len(send)))
	if r.Method != http.MethodHead {
		w.Write(send)
	}
}
