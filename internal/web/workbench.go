package web

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"sync"

	"coldtap/internal/app"

	"github.com/gin-gonic/gin"

	"coldtap/internal/core/compare"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/procedure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/drawing"
)

// bench is a model's current revision with what is computed from it once.
type bench struct {
	Row       *app.Model
	Rev       *app.Revision
	Doc       *plumbing.Model // the document, all options
	Model     *plumbing.Model // the build
	Net       *plumbing.Network
	Plan      []setting.Answer
	Schematic *drawing.Schematic
	House     house.House
	Findings  []finding.Finding
	Places    []drawing.Place
	Options   []optionBox
	with      []string // the options of the build
	faults    *faultCache
}

// faultCache keeps what one thing wrong leads to, by mode, worked out when
// asked for.
type faultCache struct {
	mu     sync.Mutex
	byMode map[string][]fault.Entry
}

// Faults is what one thing wrong leads to in a mode.
func (b *bench) Faults(ctx context.Context, a *setting.Answer) ([]fault.Entry, error) {
	c := b.faults
	c.mu.Lock()
	defer c.mu.Unlock()
	list, ok := c.byMode[a.Mode.ID]
	if !ok {
		var err error
		if list, err = fault.InMode(ctx, b.Net, a, b.Plan); err != nil {
			return nil, err
		}
		c.byMode[a.Mode.ID] = list
	}
	return list, nil
}

// optionBox is an option of the model and whether this build has it.
type optionBox struct {
	Option plumbing.Option
	On     bool
}

// Build is the part of an address that names the build, "" for the standard one.
func (b *bench) Build() string {
	if slices.Equal(b.with, b.standard()) {
		return ""
	}
	if len(b.with) == 0 {
		return "with=none"
	}
	return "with=" + url.QueryEscape(strings.Join(b.with, ","))
}

func (b *bench) standard() []string {
	var list []string
	for _, o := range b.Model.Options {
		if o.Standard {
			list = append(list, o.ID)
		}
	}
	return list
}

// Link is the address of one of the model's views for this build; more is
// added to its query.
func (b *bench) Link(view, more string) string {
	link := "/models/" + url.PathEscape(b.Row.Slug)
	if view != "" {
		link += "/" + view
	}
	query := b.Build()
	if query != "" && more != "" {
		query += "&"
	}
	if query += more; query != "" {
		link += "?" + query
	}
	return link
}

// Number is a part's number in the layout, 0 for none.
func (b *bench) Number(id string) int {
	for _, p := range b.Places {
		if p.Part.ID == id {
			return p.Number
		}
	}
	return 0
}

// Sys is the unit system the model shows first.
func (b *bench) Sys() quantity.System { return b.Model.System() }

func (b *bench) inputs() procedure.Inputs {
	return procedure.Inputs{Net: b.Net, Plan: b.Plan, House: b.House}
}

// subject is what is compared with another build.
func (b *bench) subject() compare.Subject {
	return compare.Subject{Net: b.Net, Plan: b.Plan, House: b.House}
}

// newBench computes a build of a revision. The drawing is arranged anew only
// where it differs from the one before.
func newBench(ctx context.Context, row *app.Model, rev *app.Revision, before *bench, with func(*plumbing.Model) []string) (*bench, error) {
	doc, err := rev.Read()
	if err != nil {
		return nil, err
	}
	options := with(doc)
	m, err := doc.Build(options...)
	if err != nil {
		return nil, err
	}
	n, err := plumbing.NewNetwork(m)
	if err != nil {
		return nil, err
	}
	plan, err := setting.Plan(ctx, n)
	if err != nil {
		return nil, err
	}
	var sch *drawing.Schematic
	if before != nil {
		sch, _ = before.Schematic.Over(n)
	}
	if sch == nil {
		if sch, err = drawing.NewSchematic(n); err != nil {
			return nil, err
		}
	}
	b := &bench{Row: row, Rev: rev, Doc: doc, Model: m, Net: n, Plan: plan, Schematic: sch,
		House: house.Usual(m.System()), Places: drawing.Places(m), with: options,
		faults: &faultCache{byMode: map[string][]fault.Entry{}}}
	b.Findings = finding.Of(n, b.Plan)
	for _, o := range m.Options {
		b.Options = append(b.Options, optionBox{o, slices.Contains(options, o.ID)})
	}
	return b, nil
}

// benchCache keeps what was computed for the newest revision of each model and
// build. It holds no state: everything can be computed again.
type benchCache struct {
	mu   sync.Mutex
	byID map[string]*bench
}

const cacheSize = 600 // builds; past it the cache starts anew

func (c *benchCache) get(ctx context.Context, row *app.Model, rev *app.Revision, with string) (*bench, error) {
	key := row.Slug + "?" + with
	c.mu.Lock()
	b := c.byID[key]
	c.mu.Unlock()
	if b != nil && b.Rev.Hash == rev.Hash && b.Rev.ID == rev.ID {
		return b, nil
	}
	b, err := newBench(ctx, row, rev, b, func(m *plumbing.Model) []string { return buildOf(m, with) })
	if err != nil {
		return nil, fmt.Errorf("model %s: %w", row.Slug, err)
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.byID == nil || len(c.byID) > cacheSize {
		c.byID = map[string]*bench{}
	}
	c.byID[key] = b
	return b, nil
}

// buildOf reads the options of a build from an address: "" is the standard
// build, "none" the base alone; options that the model does not have are left out.
func buildOf(m *plumbing.Model, with string) []string {
	if with == "" {
		return m.StandardOptions()
	}
	var list []string
	for _, o := range m.Options {
		if slices.Contains(strings.Split(with, ","), o.ID) {
			list = append(list, o.ID)
		}
	}
	return list
}

// model finds the request's model, or answers the request and gives nil.
func (s *Server) model(c *gin.Context) *bench {
	row, rev, err := s.store.Current(c, c.Param("model"))
	switch {
	case errors.Is(err, app.ErrNotFound):
		s.notFound(c, "There is no such model. It may have another name now; look in the list.")
		return nil
	case err != nil:
		s.trouble(c, err)
		return nil
	}
	b, err := s.worked(c, row, rev, strings.Join(c.QueryArray("with"), ","))
	if err != nil {
		s.trouble(c, err)
		return nil
	}
	return b
}
