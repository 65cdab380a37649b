package main

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"time"
)

// try begins a trial that many phones write in, and finds the unit that it is on.
func (c *crowd) try(ctx context.Context) error {
	p := c.editors[0]
	form := url.Values{"serial": {"G24-2700123"}, "task": {"winterize-air-then"}}
	for end := time.Now().Add(awaited); ; time.Sleep(300 * time.Millisecond) {
		r, err := p.ask(ctx, http.MethodPost, "/models/gneiss-24-2027/trials", form, nil)
		if err != nil {
			return err
		}
		if at := r.header.Get("Location"); strings.HasPrefix(at, "/trials/") {
			c.trial = at
			break
		}
		if time.Now().After(end) {
			return errors.New("no trial can be begun")
		}
	}
	r, err := p.ask(ctx, http.MethodGet, "/units?find=G24-2700123", nil, nil)
	c.unit = r.header.Get("Location")
	return err
}

// workOnUnits writes in a trial and in a log, and looks at what is due, as a technician does.
func (p *person) workOnUnits(ctx context.Context, c *crowd, t *tally) {
	switch n := p.rng.IntN(20); {
	case n < 12:
		p.write(ctx, c.trial, t)
	case n < 15:
		p.timed(ctx, "what is due", http.MethodGet, "/units", nil, nil, t)
	case n < 18:
		p.timed(ctx, "log of a unit", http.MethodGet, c.unit, nil, nil, t)
	default:
		form := url.Values{"do": {"write"}, "mark": {fmt.Sprintf("load-%016x", p.rng.Uint64())}, "kind": {"noted"},
			"on": {time.Now().UTC().Format(time.DateOnly)}, "words": {"looked at it"}}
		began := time.Now()
		r, err := p.ask(ctx, http.MethodPost, c.unit, form, nil)
		if ctx.Err() != nil {
			return // the time is over
		}
		if r.status == http.StatusSeeOther {
			r.status = http.StatusOK // it leads back to the log
		}
		t.note("entry in a log", time.Since(began), r.status, false, err)
	}
}

// write sends an entry of a trial as a phone does.
func (p *person) write(ctx context.Context, trial string, t *tally) {
	entry := fmt.Sprintf(`{"entries":[{"id":"load-%016x","at":%d,"step":"drain-tank@drain-tank","kind":"note","text":"load"}]}`,
		p.rng.Uint64(), time.Now().UnixMilli())
	if p.rng.IntN(40) > 0 { // most ticks are of the same things again: a trial has a bounded number of entries
		entry = fmt.Sprintf(`{"entries":[{"id":"load-tick-%03d","at":%d,"step":"drain-tank@drain-tank","kind":"done"}]}`,
			p.rng.IntN(200), time.Now().UnixMilli())
	}
	p.send(ctx, "entry of a trial", trial+"/entries", entry, t)
}
