package web

import (
	"errors"
	"fmt"
	"sync"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/procedure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/drawing"
	"coldtap/internal/store"
)

// bench is a model's current revision with what is computed from it once.
type bench struct {
	Row       *store.Model
	Rev       *store.Revision
	Model     *plumbing.Model
	Net       *plumbing.Network
	Plan      []setting.Answer
	Schematic *drawing.Schematic
	House     amount.House
}

// Sys is the unit system the model shows first.
func (b *bench) Sys() quantity.System { return b.Model.System() }

func (b *bench) inputs() procedure.Inputs {
	return procedure.Inputs{Net: b.Net, Plan: b.Plan, House: b.House}
}

// newBench computes a build with the model's standard options.
func newBench(row *store.Model, rev *store.Revision) (*bench, error) {
	doc, err := rev.Read()
	if err != nil {
		return nil, err
	}
	m, err := doc.Build(doc.StandardOptions()...)
	if err != nil {
		return nil, err
	}
	n, err := plumbing.NewNetwork(m)
	if err != nil {
		return nil, err
	}
	sch, err := drawing.NewSchematic(n)
	if err != nil {
		return nil, err
	}
	return &bench{Row: row, Rev: rev, Model: m, Net: n, Plan: setting.Plan(n), Schematic: sch, House: amount.DefaultHouse(m.System())}, nil
}

// benchCache keeps what was computed for the newest revision of each model.
// It holds no state: everything can be computed again.
type benchCache struct {
	mu   sync.Mutex
	byID map[string]*bench
}

func (c *benchCache) get(row *store.Model, rev *store.Revision) (*bench, error) {
	c.mu.Lock()
	b := c.byID[row.Slug]
	c.mu.Unlock()
	if b != nil && b.Rev.Hash == rev.Hash && b.Rev.ID == rev.ID {
		return b, nil
	}
	b, err := newBench(row, rev)
	if err != nil {
		return nil, fmt.Errorf("model %s: %w", row.Slug, err)
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.byID == nil {
		c.byID = map[string]*bench{}
	}
	c.byID[row.Slug] = b
	return b, nil
}

// model finds the request's model, or answers the request and gives nil.
func (s *Server) model(c *gin.Context) *bench {
	row, rev, err := s.store.Current(c, c.Param("model"))
	switch {
	case errors.Is(err, store.ErrNotFound):
		s.notFound(c, "There is no such model. It may have another name now; look in the list.")
		return nil
	case err != nil:
		s.trouble(c, err)
		return nil
	}
	b, err := s.benches.get(row, rev)
	if err != nil {
		s.trouble(c, err)
		return nil
	}
	return b
}
