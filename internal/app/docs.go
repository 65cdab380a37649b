package app

import (
	"sync"

	"coldtap/internal/cache"
	"coldtap/internal/core/plumbing"
)

// Docs keeps documents that were read, by their content. Nobody may change one:
// an edit makes another. The zero value keeps as many as usual, nil none.
type Docs struct {
	begin sync.Once
	kept  cache.Cache[*plumbing.Model]
}

// docsBytes is how much is kept: perByte for each byte of a document, which is about what it takes when it
// is read.
const (
	docsBytes = 64 << 20
	perByte   = 3
)

// Read is the document of a state.
func (d *Docs) Read(rev *Revision) (*plumbing.Model, error) {
	if d == nil {
		return rev.Read()
	}
	d.start()
	return d.kept.Get(rev.Hash, func() (*plumbing.Model, int64, error) {
		m, err := rev.Read()
		return m, perByte * int64(len(rev.Document)), err
	})
}

// find is the document of a state where it is kept; nil where it is not.
func (d *Docs) find(rev *Revision) *plumbing.Model {
	if d == nil {
		return nil
	}
	d.start()
	m, _ := d.kept.Find(rev.Hash)
	return m
}

// keep keeps the document that a state was made of.
func (d *Docs) keep(rev *Revision, m *plumbing.Model) {
	if d != nil {
		d.start()
		d.kept.Keep(rev.Hash, m, perByte*int64(len(rev.Document)))
	}
}

func (d *Docs) start() { d.begin.Do(func() { d.kept.Most = docsBytes }) }
