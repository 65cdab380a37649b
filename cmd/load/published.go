package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"time"
)

// published is where the guide of the demo world is read that is published.
const published = "/read/gneiss-24-2027/A/plain/us"

// awaited is how long a server may take to publish it after its start.
const awaited = time.Minute

// open waits for the published guide, and begins a walk that two phones go through.
func (c *crowd) open(ctx context.Context, at string) error {
	p := newPerson(at, 9999)
	for end := time.Now().Add(awaited); ; time.Sleep(200 * time.Millisecond) {
		r, err := p.ask(ctx, http.MethodGet, published, nil, nil)
		if err == nil && r.status == http.StatusOK {
			break
		}
		if time.Now().After(end) {
			return errors.New("no guide is published")
		}
	}
	form := url.Values{"model": {"gneiss-24-2027"}, "letter": {"A"}, "build": {"plain"}, "task": {"sanitize"}}
	r, err := p.ask(ctx, http.MethodPost, "/readers/walk", form, http.Header{"Accept": {"application/json"}})
	if err != nil {
		return err
	}
	var got struct{ Code string }
	if err := json.Unmarshal([]byte(r.body), &got); err != nil || got.Code == "" {
		return fmt.Errorf("begin a walk: %d %s", r.status, r.body)
	}
	c.walk = got.Code
	return nil
}

// follow reads a published guide as an owner does, and ticks a step at times.
func (p *person) follow(ctx context.Context, walk string, t *tally) {
	switch n := p.rng.IntN(20); {
	case n < 8:
		p.timed(ctx, "published chapter", http.MethodGet, published+"/chapter", nil, nil, t)
	case n < 18:
		p.timed(ctx, "published steps", http.MethodGet, published+"/do/sanitize", nil, nil, t)
		p.timed(ctx, "its envelope", http.MethodGet, published+"/envelope.json", nil, nil, t)
	default:
		p.tick(ctx, walk, t)
	}
}

// tick sends a tick of a step to a walk.
func (p *person) tick(ctx context.Context, walk string, t *tally) {
	mark := fmt.Sprintf(`{"marks":[{"mark":"load-%016x","step":%d,"what":"done","at":%d,"side":"taps"}]}`, p.rng.Uint64(),
		1+p.rng.IntN(40), time.Now().UnixMilli())
	p.send(ctx, "tick of a step", "/readers/walk/"+walk+"/marks", mark, t)
}

// send sends JSON as a phone does, and notes how long that took.
func (p *person) send(ctx context.Context, what, path, body string, t *tally) {
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, p.at+path, strings.NewReader(body))
	if err != nil {
		return
	}
	req.Header.Set("Content-Type", "application/json")
	began := time.Now()
	resp, err := p.http.Do(req)
	if ctx.Err() != nil {
		return // the time is over
	}
	status := 0
	if err == nil {
		status = resp.StatusCode
		resp.Body.Close()
	}
	t.note(what, time.Since(began), status, false, err)
}
