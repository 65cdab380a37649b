package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"coldtap/internal/mutate"
)

const (
	waitDelay   = 5 * time.Second
	longestTest = 5 * time.Minute
)

// reached is what the tests of a package came to when each was run by itself.
type reached struct {
	Of    string // hash of the files that faults are made in
	Tests []mutate.Test
}

// reach tells what each test reaches, by running each alone. As long as the files that faults are made in are as they
// were only new tests are run.
func (w *works) reach(ctx context.Context) (tests []mutate.Test, err error) {
	folders, err := packages(ctx)
	if err != nil {
		return nil, err
	}
	var cover []string
	for _, f := range w.files {
		if p := module + "/" + filepath.ToSlash(filepath.Dir(f.Path)); !slices.Contains(cover, p) {
			cover = append(cover, p)
		}
	}
	all := sha256.New()
	for _, f := range w.files {
		fmt.Fprintf(all, "%s %d\n%s", f.Path, len(f.Text), f.Text)
	}
	of := hex.EncodeToString(all.Sum(nil))
	for _, folder := range folders {
		r, err := w.reachOf(ctx, folder, of, strings.Join(cover, ","))
		if err != nil {
			return nil, err
		}
		tests = append(tests, r.Tests...)
	}
	return tests, nil
}

func (w *works) reachOf(ctx context.Context, folder, of, cover string) (*reached, error) {
	r, kept := &reached{}, filepath.Join(w.dir, "reach", strings.ReplaceAll(folder, "/", "-")+".json")
	if raw, err := os.ReadFile(kept); err == nil {
		if err := json.Unmarshal(raw, r); err != nil || r.Of != of && !w.stale {
			*r = reached{}
		}
	}
	r.Of = of
	names, err := testsOf(folder)
	if err != nil {
		return nil, err
	}
	r.Tests = slices.DeleteFunc(r.Tests, func(t mutate.Test) bool { return !slices.Contains(names, t.Name) })
	names = slices.DeleteFunc(names, func(name string) bool {
		return slices.ContainsFunc(r.Tests, func(t mutate.Test) bool { return t.Name == name })
	})
	if len(names) == 0 {
		return r, nil
	}
	binary, err := filepath.Abs(filepath.Join(w.dir, "cover.test"))
	if err != nil {
		return nil, err
	}
	if err := build(ctx, folder, binary, "-cover", "-covermode=set", "-coverpkg="+cover); err != nil {
		return nil, err
	}
	slog.Info("what tests reach", "package", folder, "tests", len(names))
	var mu sync.Mutex
	err = each(ctx, w.workers, names, func(ctx context.Context, test string) error {
		t, err := w.runAlone(ctx, binary, folder, test)
		if err != nil || t == nil {
			return err
		}
		mu.Lock()
		defer mu.Unlock()
		r.Tests = append(r.Tests, *t)
		return nil
	})
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(r)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(filepath.Dir(kept), 0o755); err != nil {
		return nil, err
	}
	return r, os.WriteFile(kept, raw, 0o644)
}

var testRE = regexp.MustCompile(`(?m)^func ((?:Test|Example|Fuzz)\w*)\(`)

// testsOf lists the tests of a package by its sources; those of a build tag are run by their own command.
func testsOf(folder string) (names []string, err error) {
	paths, err := filepath.Glob(filepath.Join(folder, "*_test.go"))
	if err != nil {
		return nil, err
	}
	for _, path := range paths {
		text, err := os.ReadFile(path)
		if err != nil {
			return nil, err
		}
		for _, m := range testRE.FindAllSubmatch(text, -1) {
			if name := string(m[1]); name != "TestMain" && !bytes.HasPrefix(text, []byte("//go:build")) {
				names = append(names, name)
			}
		}
	}
	return names, nil
}

// runAlone runs one test; nil where it fails without any fault.
func (w *works) runAlone(ctx context.Context, binary, folder, test string) (*mutate.Test, error) {
	profile, err := os.CreateTemp("", "reach")
	if err != nil {
		return nil, err
	}
	defer os.Remove(profile.Name())
	defer profile.Close()
	limited, cancel := context.WithTimeout(ctx, longestTest)
	defer cancel()
	begun := time.Now()
	got, err := runTests(limited, binary, folder, w.env(), "-test.run", "^"+test+"$", "-test.coverprofile",
		profile.Name())
	if err != nil || ctx.Err() != nil {
		return nil, errorOf(ctx, err)
	}
	if got.failed {
		slog.Warn("fails by itself", "package", folder, "test", test)
		return nil, nil
	}
	lines, err := mutate.Profile(profile, module)
	if err != nil {
		return nil, err
	}
	return &mutate.Test{Package: folder, Name: test, Seconds: time.Since(begun).Seconds(), Reached: lines}, nil
}

func errorOf(ctx context.Context, err error) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	return err
}

// each does something for all of a list, so many at once, until one fails.
func each[T any](ctx context.Context, workers int, list []T, do func(context.Context, T) error) error {
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(workers)
	for _, x := range list {
		if ctx.Err() != nil {
			break
		}
		g.Go(func() error { return do(ctx, x) })
	}
	return g.Wait()
}
