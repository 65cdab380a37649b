package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"coldtap/internal/mutate"
)

const module = "coldtap"

// works builds faults in and tries them.
type works struct {
	options
	files []mutate.Source
}

// packages lists the folders that have tests, those of the tool itself left out.
func packages(ctx context.Context) (list []string, err error) {
	out, err := exec.CommandContext(ctx, "go", "list", "-f",
		"{{if or .TestGoFiles .XTestGoFiles}}{{.ImportPath}}{{end}}", "./cmd/...", "./internal/...").Output()
	if err != nil {
		return nil, fmt.Errorf("list packages: %w", err)
	}
	for p := range strings.FieldsSeq(string(out)) {
		if folder := strings.TrimPrefix(p, module+"/"); !strings.HasPrefix(folder, "internal/mutate") &&
			folder != "cmd/mutate" {
			list = append(list, folder)
		}
	}
	return list, nil
}

// build builds the test binary of a package; what the compiler says against it is in the error.
func build(ctx context.Context, folder, to string, more ...string) error {
	args := append([]string{"test", "-c", "-vet=off", "-o", to}, more...)
	out, err := exec.CommandContext(ctx, "go", append(args, "./"+folder)...).CombinedOutput()
	if err != nil {
		return &buildError{string(out)}
	}
	return nil
}

type buildError struct{ said string }

func (e *buildError) Error() string { return "build: " + e.said }

// schemata writes the files with faults in them and an overlay that puts them in place; it gives the faults that need
// a build of their own.
func (w *works) schemata(faults []mutate.Fault) (overlay string, made map[string]*mutate.Schema, alone []mutate.Fault,
	err error) {
	byFile := map[string][]mutate.Fault{}
	for _, f := range faults {
		byFile[f.File] = append(byFile[f.File], f)
	}
	made = map[string]*mutate.Schema{}
	replace := map[string]string{}
	for _, src := range w.files {
		list := byFile[src.Path]
		if list == nil {
			continue
		}
		s, err := mutate.Build(src.Path, src.Text, list)
		if err != nil {
			return "", nil, nil, err
		}
		alone = append(alone, s.Alone...)
		if len(s.Alone) == len(list) {
			continue
		}
		made[src.Path] = s
		if err := w.place(replace, "_schema", src.Path, s.Source); err != nil {
			return "", nil, nil, err
		}
	}
	overlay = filepath.Join(w.dir, "schema.json")
	return overlay, made, alone, writeOverlay(overlay, replace)
}

// place writes a text that stands for a file, in a folder that Go takes for no package.
func (w *works) place(replace map[string]string, kind, path string, text []byte) error {
	to, err := filepath.Abs(filepath.Join(w.dir, kind, path))
	if err != nil {
		return err
	}
	from, err := filepath.Abs(path)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o755); err != nil {
		return err
	}
	replace[from] = to
	return os.WriteFile(to, text, 0o644)
}

func writeOverlay(path string, replace map[string]string) error {
	text, err := json.Marshal(map[string]map[string]string{"Replace": replace})
	if err != nil {
		return err
	}
	return os.WriteFile(path, text, 0o644)
}

var saidRE = regexp.MustCompile(`(?m)^(\S+?\.go):(\d+):\d+: (.*)$`)

// builtIn builds all packages with as many of the faults in them as can be: what does not compile is no fault, it is
// told as such. It gives those that are built in, and those that need a build of their own.
func (w *works) builtIn(ctx context.Context, faults []mutate.Fault, void func(mutate.Fault, string)) (overlay string,
	in, alone []mutate.Fault, err error) {
	for {
		overlay, made, apart, err := w.schemata(faults)
		if err != nil {
			return "", nil, nil, err
		}
		alone = append(alone, apart...)
		faults = slices.DeleteFunc(faults, func(f mutate.Fault) bool {
			return slices.ContainsFunc(apart, func(a mutate.Fault) bool { return a.Number == f.Number })
		})
		out, err := exec.CommandContext(ctx, "go", "build", "-overlay", overlay, "./cmd/...", "./internal/...").
			CombinedOutput()
		if err == nil {
			return overlay, faults, alone, nil
		}
		broken := map[int]string{}
		for _, m := range saidRE.FindAllSubmatch(out, -1) {
			path, line := string(m[1]), 0
			fmt.Sscan(string(m[2]), &line)
			for file, s := range made {
				if strings.HasSuffix(path, file) {
					if n := s.At(line); n >= 0 {
						broken[n] = string(m[3])
					}
				}
			}
		}
		if len(broken) == 0 {
			return "", nil, nil, fmt.Errorf("build with faults: %w\n%s", err, out)
		}
		slog.Info("not Go", "faults", len(broken))
		faults = slices.DeleteFunc(faults, func(f mutate.Fault) bool {
			why, is := broken[f.Number]
			if is {
				void(f, why)
			}
			return is
		})
	}
}

// binaries are test binaries that are built when they are first asked for.
type binaries struct {
	ctx     context.Context
	dir     string
	overlay string
	made    once[string, string]
}

// of is the path of the test binary of a package.
func (b *binaries) of(folder string) (string, error) {
	return b.made.get(folder, func() (string, error) {
		to, err := filepath.Abs(filepath.Join(b.dir, strings.ReplaceAll(folder, "/", "-")+".test"))
		if err != nil {
			return "", err
		}
		return to, build(b.ctx, folder, to, "-overlay", b.overlay)
	})
}

// running is how a test binary ended.
type running struct {
	failed bool
	by     string // the first test that failed, "time" or "panic"
}

var failRE = regexp.MustCompile(`(?m)^\s*--- FAIL: (\S+)`)

// runTests runs tests of a package in its folder.
func runTests(ctx context.Context, binary, folder string, env []string, args ...string) (running, error) {
	cmd := exec.CommandContext(ctx, binary, args...)
	cmd.Dir, cmd.Env = folder, append(os.Environ(), env...)
	cmd.WaitDelay = waitDelay
	out, err := cmd.CombinedOutput()
	var exit *exec.ExitError
	switch {
	case ctx.Err() != nil:
		return running{true, "time"}, nil
	case err == nil:
		return running{}, nil
	case errors.Is(err, exec.ErrWaitDelay):
		return running{true, "time"}, nil
	case !errors.As(err, &exit):
		return running{}, err
	}
	if bytes.Contains(out, []byte("panic: test timed out")) {
		return running{true, "time"}, nil
	}
	if m := failRE.FindSubmatch(out); m != nil {
		return running{true, string(m[1])}, nil
	}
	return running{true, "panic"}, nil
}
