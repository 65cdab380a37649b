package main

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"runtime"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"coldtap/internal/people"
)

// drilled is the model that technicians are drilled on.
const drilled = "marl-15-2027"

// drill lets technicians answer questions, all of them at once.
func (p *plan) drill(ctx context.Context) (ok bool, err error) {
	s, err := serve(ctx, p.server, p.metrics)
	if err != nil {
		return false, err
	}
	defer s.stop()
	list, err := technicians(ctx, s.url, p.technicians)
	if err != nil {
		return false, fmt.Errorf("sign technicians in: %w", err)
	}
	if err := list[0].ready(ctx); err != nil {
		return false, err
	}
	t := newTally()
	work, done := context.WithTimeout(ctx, p.lasts)
	defer done()
	began := time.Now()
	var all sync.WaitGroup
	for _, one := range list {
		all.Go(func() { one.learn(work, p.think, t) })
	}
	all.Wait()
	fmt.Printf("## Drills\n\n%d technicians answer questions at once, %v between two of one, %v, on %s with %d processors, server and "+
		"people on the same machine. `go run ./cmd/load -technicians 200` measures anew.\n\n", p.technicians, p.think,
		time.Since(began).Round(time.Second), runtime.Version(), runtime.NumCPU())
	return t.report(os.Stdout, time.Since(began)), nil
}

// technicians makes accounts and signs them in.
func technicians(ctx context.Context, at string, count int) (list []*person, err error) {
	keeper := newPerson(at, 0)
	if err := keeper.signIn(ctx, account(people.Admin)); err != nil {
		return nil, err
	}
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(atOnce)
	for i := range count {
		p := newPerson(at, i+1)
		list = append(list, p)
		group.Go(func() error {
			a, err := keeper.open(ctx, fmt.Sprintf("tech%d", i+1), people.Technician)
			if err != nil {
				return err
			}
			return p.signIn(ctx, a)
		})
	}
	return list, group.Wait()
}

var practice = url.Values{"model": {drilled}, "kind": {"where", "heater", "happens", "missing"}, "count": {"40"}}

// ready waits until the model's questions are made.
func (p *person) ready(ctx context.Context) error {
	for end := time.Now().Add(2 * time.Minute); time.Now().Before(end); time.Sleep(time.Second) {
		r, err := p.ask(ctx, http.MethodPost, "/drills/practise", practice, nil)
		if err != nil {
			return err
		}
		if r.status == http.StatusSeeOther {
			return nil
		}
	}
	return errors.New("no questions are made")
}

var (
	number = regexp.MustCompile(`name="n"\s+value="(\d+)"`)
	picks  = regexp.MustCompile(`name="pick"\s+value="(\d+)"`)
)

// learn answers one question after the other until the time is over.
func (p *person) learn(ctx context.Context, think time.Duration, t *tally) {
	at := ""
	for p.pause(ctx, think) {
		if at == "" {
			r, err := p.ask(ctx, http.MethodPost, "/drills/practise", practice, nil)
			if err == nil && r.status == http.StatusSeeOther {
				at = r.header.Get("Location")
			}
			continue
		}
		began := time.Now()
		r, err := p.ask(ctx, http.MethodGet, at, nil, nil)
		if ctx.Err() != nil {
			return
		}
		t.note("question", time.Since(began), r.status, false, err)
		n, pick := number.FindStringSubmatch(r.body), picks.FindAllStringSubmatch(r.body, -1)
		if n == nil || pick == nil {
			at = "" // it is over
			continue
		}
		if !p.pause(ctx, think) {
			return
		}
		began = time.Now()
		r, err = p.ask(ctx, http.MethodPost, at+"/answer",
			url.Values{"n": {n[1]}, "pick": {pick[p.rng.IntN(len(pick))][1]}}, nil)
		if ctx.Err() != nil {
			return
		}
		if r.status == http.StatusSeeOther && strings.Contains(r.header.Get("Location"), "?n=") {
			r.status = http.StatusOK // it leads back to the question, which says whether it is right
		}
		t.note("answer", time.Since(began), r.status, false, err)
	}
}
