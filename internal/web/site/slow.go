package site

import (
	"bytes"
	"cmp"
	"context"
	"log/slog"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
)

// Slow keeps parts of pages that take long to work out. While somebody changes a model the newest part
// there is is shown, with the state that it is of, and another is worked out meanwhile, one at a time and
// with rests, so that it slows nobody. The zero value keeps nothing yet.
type Slow struct {
	mu   sync.Mutex
	of   map[string]*slowPart
	rest time.Time  // before which no other is begun
	busy sync.Mutex // one is worked out at a time

	Patience time.Duration // how long one may take; 0 for the usual
}

// slowPart is the newest part of a page of one model, and what is known of the next.
type slowPart struct {
	name   string
	state  uint64
	leaf   *Leaf
	making bool
}

// slowMost is how many parts are kept; restFor is how long a rest is, in times that a part took.
const (
	slowMost = 200
	restFor  = 5
)

// Shown is a part of a page as it can be shown.
type Shown struct {
	Leaf    *Leaf
	State   uint64 // that it is of
	Current bool   // nothing has changed since
}

// Part is a part of a page of something, by a name that says all that it follows from. The first there
// ever is is waited for.
func (s *Slow) Part(ctx context.Context, of, name string, state uint64,
	write func(context.Context) (*Leaf, error)) (Shown, error) {
	s.mu.Lock()
	p := s.of[of]
	if p != nil && p.leaf != nil {
		shown := Shown{p.leaf, p.state, p.name == name}
		if !shown.Current && !p.making && time.Now().After(s.rest) {
			p.making, s.rest = true, time.Now().Add(slowTime) // until it is known how long it takes
			go s.make(context.WithoutCancel(ctx), p, name, state, write)
		}
		s.mu.Unlock()
		return shown, nil
	}
	if p == nil {
		if s.of == nil || len(s.of) >= slowMost {
			s.of = map[string]*slowPart{}
		}
		p = &slowPart{}
		s.of[of] = p
	}
	p.making = true
	s.mu.Unlock()
	if err := s.make(context.WithoutCancel(ctx), p, name, state, write); err != nil {
		return Shown{}, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	return Shown{p.leaf, p.state, p.name == name}, nil
}

// ShowSlow answers with a slow part of the page of a build: as a page of its own, or for one that holds it.
func (s *Site) ShowSlow(c *gin.Context, p Page, what string, write func(context.Context, *bytes.Buffer) error) {
	b := p.Model
	shown, err := s.Slow.Part(c.Request.Context(), what+" of "+b.Row.Slug+"?"+b.Chosen(), b.Named(what), b.Row.Revision,
		func(ctx context.Context) (*Leaf, error) {
			var text bytes.Buffer
			if err := write(ctx, &text); err != nil {
				return nil, err
			}
			return s.packer.leaf(text.Bytes())
		})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	p.User, p.Body = Who(c), slowBody{!shown.Current, shown.State, c.Request.URL.RequestURI(), "#main"}
	var head, foot bytes.Buffer
	parts := []string{"head", "slow", "foot"}
	if c.GetHeader("HX-Request") != "" {
		parts = []string{"slow"}
		if into := c.GetHeader("HX-Target"); into != "" { // it asks again for where it stands
			body := p.Body.(slowBody)
			body.Into = "#" + into
			p.Body = body
		}
	}
	for _, name := range parts {
		to := &head
		if name == "foot" {
			to = &foot
		}
		if err := s.templates.ExecuteTemplate(to, name, p); err != nil {
			s.Trouble(c, err)
			return
		}
	}
	s.sendLeaf(c, head, shown.Leaf, foot)
}

// slowBody says whether a newer part is being made, of which state the one is that is shown, and where to
// ask again.
type slowBody struct {
	Older bool
	State uint64
	Again string
	Into  string // selector of what it stands in
}

// slowTime is how long a part may take as a rule.
const slowTime = 30 * time.Second

// make works a part out; one that can't be is tried again by whoever asks next.
func (s *Slow) make(ctx context.Context, p *slowPart, name string, state uint64,
	write func(context.Context) (*Leaf, error)) error {
	s.busy.Lock()
	defer s.busy.Unlock()
	ctx, cancel := context.WithTimeout(ctx, cmp.Or(s.Patience, slowTime))
	defer cancel()
	began := time.Now()
	leaf, err := app.Safely(func() (*Leaf, error) { return write(ctx) })
	if err == nil {
		err = ctx.Err()
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	p.making, s.rest = false, time.Now().Add(restFor*time.Since(began))
	if err != nil {
		slog.Warn("a part of a page can't be worked out", "error", err)
		return err
	}
	p.name, p.state, p.leaf = name, state, leaf
	return nil
}
