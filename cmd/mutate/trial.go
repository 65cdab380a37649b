package main

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"coldtap/internal/mutate"
	"coldtap/internal/mutate/on"
)

const (
	mostSeconds  = 60 // that tests run against a fault
	mostPackages = 3  // that are built for a fault that needs a build of its own
)

// outcome is what became of a fault.
type outcome struct {
	mutate.Mutant
	Caught  bool
	By      string  // the package and test that noticed
	Reached int     // how many tests come to it
	Ran     int     // how many of them were run
	Seconds float64 // that it took
	Void    string  // why it is no fault: what the compiler says
}

func (o options) env() []string { return []string{fmt.Sprintf("COLDTAP_SEED=%d", o.seed), "GOGC=300"} }

// try tries faults and keeps what comes of each.
func (w *works) try(ctx context.Context, list []*mutate.Mutant) error {
	tests, err := w.reach(ctx)
	if err != nil {
		return err
	}
	k := &keeper{path: w.state}
	var faults []mutate.Fault
	for i, m := range list {
		faults = append(faults, mutate.Fault{Mutant: m, Number: i})
	}
	void := func(f mutate.Fault, why string) { k.keep(outcome{Mutant: *f.Mutant, Void: why}) }
	overlay, in, alone, err := w.builtIn(ctx, faults, void)
	if err != nil {
		return err
	}
	slog.Info("built", "with faults in", len(in), "to be built alone", len(alone))
	bins := &binaries{ctx: ctx, dir: filepath.Join(w.dir, "bin"), overlay: overlay}
	begun := time.Now()
	var mu sync.Mutex
	count := 0
	told := func(o outcome) {
		mu.Lock()
		defer mu.Unlock()
		count++
		slog.Info("tried", "of", fmt.Sprintf("%d/%d", count, len(in)+len(alone)), "at", fmt.Sprintf("%s:%d", o.File, o.Line),
			"caught", o.Caught, "by", o.By, "took", time.Duration(o.Seconds*1e9).Round(time.Millisecond*100), "since",
			time.Since(begun).Round(time.Second))
		k.keep(o)
	}
	err = each(ctx, w.workers, in, func(ctx context.Context, f mutate.Fault) error {
		o, err := w.attempt(ctx, f, tests, bins.of)
		if err == nil {
			told(o)
		}
		return err
	})
	for _, f := range alone {
		if err != nil {
			break
		}
		var o outcome
		if o, err = w.attemptAlone(ctx, f, tests); err == nil {
			told(o)
		}
	}
	return errors.Join(err, k.err)
}

// attempt runs the tests that come to a fault, the quickest first, until one fails.
func (w *works) attempt(ctx context.Context, f mutate.Fault, tests []mutate.Test,
	binary func(string) (string, error)) (outcome, error) {
	uses, err := mutate.Uses(f.Mutant, w.files)
	if err != nil {
		return outcome{}, err
	}
	reaching := mutate.Reaching(tests, f.Mutant, uses)
	o := outcome{Mutant: *f.Mutant, Reached: len(reaching)}
	env := append(w.env(), fmt.Sprintf("%s=%d", on.Env, f.Number))
	var spent time.Duration
	for _, r := range mutate.Plan(reaching, mostSeconds) {
		path, err := binary(r.Package)
		if err != nil {
			return o, err
		}
		rest := mostSeconds*time.Second - spent
		if rest <= 0 {
			break
		}
		// What takes ten times as long as ever goes on for good.
		limited, cancel := context.WithTimeout(ctx, min(rest, time.Duration((10*r.Seconds+10)*1e9)))
		args := []string{"-test.failfast", "-test.run", "^(" + strings.Join(r.Tests, "|") + ")$"}
		begun := time.Now()
		got, err := runTests(limited, path, r.Package, env, args...)
		cancel()
		if err != nil || ctx.Err() != nil {
			return o, errorOf(ctx, err)
		}
		spent += time.Since(begun)
		o.Ran += len(r.Tests)
		if got.failed && got.by == "time" && spent >= mostSeconds*time.Second {
			break // not known to be slower than without it
		}
		if got.failed && browsed(r.Package) { // such tests go by deadlines: without the fault it must be right
			again, err := runTests(ctx, path, r.Package, w.env(), args...)
			if err != nil || ctx.Err() != nil {
				return o, errorOf(ctx, err)
			}
			got.failed = !again.failed
		}
		if got.failed {
			o.Caught, o.By = true, r.Package+" "+got.by
			break
		}
	}
	o.Seconds = spent.Seconds()
	return o, nil
}

func browsed(folder string) bool {
	return slices.Contains([]string{"internal/web", "cmd/coldtap", "internal/browser", "internal/guide/file"}, folder)
}

// attemptAlone builds a fault in by itself, for the packages whose tests are the quickest to come to it.
func (w *works) attemptAlone(ctx context.Context, f mutate.Fault, tests []mutate.Test) (outcome, error) {
	replace := map[string]string{}
	at := slices.IndexFunc(w.files, func(s mutate.Source) bool { return s.Path == f.File })
	if err := w.place(replace, "_alone", f.File, f.Apply(w.files[at].Text)); err != nil {
		return outcome{}, err
	}
	overlay := filepath.Join(w.dir, "alone.json")
	if err := writeOverlay(overlay, replace); err != nil {
		return outcome{}, err
	}
	uses, err := mutate.Uses(f.Mutant, w.files)
	if err != nil {
		return outcome{}, err
	}
	bins := &binaries{ctx: ctx, dir: filepath.Join(w.dir, "alone"), overlay: overlay}
	chosen := few(mutate.Reaching(tests, f.Mutant, uses), filepath.ToSlash(filepath.Dir(f.File)))
	o, err := w.attempt(ctx, f, chosen, bins.of)
	var not *buildError
	if errors.As(err, &not) {
		o.Void, err = strings.TrimSpace(not.said), nil
	}
	return o, err
}

// few keeps the tests of a few packages: the fault's own, and those that come to it soonest.
func few(tests []mutate.Test, own string) (list []mutate.Test) {
	packages := []string{own}
	for _, t := range tests {
		if len(packages) < mostPackages && !slices.Contains(packages, t.Package) {
			packages = append(packages, t.Package)
		}
	}
	for _, t := range tests {
		if slices.Contains(packages, t.Package) {
			list = append(list, t)
		}
	}
	return list
}

// keeper keeps outcomes in a file, a line each.
type keeper struct {
	path string
	mu   sync.Mutex
	err  error
}

func (k *keeper) keep(o outcome) {
	k.mu.Lock()
	defer k.mu.Unlock()
	f, err := os.OpenFile(k.path, os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err == nil {
		err = errors.Join(json.NewEncoder(f).Encode(o), f.Close())
	}
	k.err = errors.Join(k.err, err)
}

// readOutcomes reads what was tried, the last of each.
func readOutcomes(path string) (map[string]outcome, error) {
	done := map[string]outcome{}
	f, err := os.Open(path)
	if os.IsNotExist(err) {
		return done, nil
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	scan := bufio.NewScanner(f)
	scan.Buffer(nil, 1<<20)
	for n := 1; scan.Scan(); n++ {
		var o outcome
		if err := json.Unmarshal(scan.Bytes(), &o); err != nil {
			return nil, fmt.Errorf("%s, line %s: %w", path, strconv.Itoa(n), err)
		}
		done[o.ID] = o
	}
	return done, scan.Err()
}
