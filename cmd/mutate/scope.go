package main

import (
	"bufio"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"coldtap/internal/mutate"
)

// scope is where faults are made: the core, and what publishes, keeps true or lets people in.
var scope = []string{
	"internal/core/",
	"internal/guide/standing/", "internal/guide/frozen/",
	"internal/app/accounts.go", "internal/app/publish.go", "internal/app/publishing.go", "internal/app/stops.go",
	"internal/app/keeping.go", "internal/app/updating.go", "internal/app/readers.go", "internal/app/corrections.go",
	"internal/app/drill_", "internal/app/drills.go", "internal/app/units.go", "internal/app/trials.go",
	"internal/people/", "internal/web/accounts/", "internal/web/reader/", "internal/web/review/", "internal/web/routes.go",
	"internal/web/site/session.go", "internal/web/site/site.go",
}

// grave are the files whose faults could hurt somebody: what warns, doses, drains, judges, teaches or lets through.
var grave = []string{
	"internal/core/amount/", "internal/core/flow/", "internal/core/fault/", "internal/core/words/position",
	"internal/core/proof/", "internal/core/run/", "internal/core/draft/", "internal/core/instruction/",
	"internal/core/chapter/override.go", "internal/core/chapter/danger",
	"internal/guide/standing/", "internal/app/stops.go", "internal/app/publish.go", "internal/app/publishing.go",
	"internal/app/drill_certificates.go",
}

func in(list []string, file string) bool {
	return slices.ContainsFunc(list, func(s string) bool { return strings.HasPrefix(file, s) })
}

// sources reads the files in which faults may be made.
func sources(only string) (files []mutate.Source, err error) {
	err = filepath.WalkDir("internal", func(path string, d fs.DirEntry, err error) error {
		path = filepath.ToSlash(path)
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") ||
			!in(scope, path) || !strings.Contains(path, only) {
			return err
		}
		text, err := os.ReadFile(path)
		files = append(files, mutate.Source{Path: path, Text: text})
		return err
	})
	return files, err
}

// drawing is what was drawn.
type drawing struct {
	possible, possibleGrave int
	list                    []mutate.Mutant // named ones, those of all, those of what can hurt; each once
	named, all, grave       map[string]bool // ids
}

// draw draws the faults that are tried, and takes the named ones in.
func draw(o options, files []mutate.Source) (*drawing, error) {
	var all, hurts []mutate.Mutant
	for _, f := range files {
		list, err := mutate.Mutants(f.Path, f.Text)
		if err != nil {
			return nil, err
		}
		all = append(all, list...)
		if in(grave, f.Path) {
			hurts = append(hurts, list...)
		}
	}
	named, err := readNamed(o.named, files)
	if err != nil {
		return nil, err
	}
	d := &drawing{possible: len(all), possibleGrave: len(hurts), named: map[string]bool{}, all: map[string]bool{},
		grave: map[string]bool{}}
	d.add(d.named, named)
	d.add(d.all, mutate.Draw(all, o.count, o.seed))
	d.add(d.grave, mutate.Draw(hurts, o.grave, o.seed))
	return d, nil
}

func (d *drawing) add(ids map[string]bool, list []mutate.Mutant) {
	for _, m := range list {
		if !d.named[m.ID] && !d.all[m.ID] && !d.grave[m.ID] {
			d.list = append(d.list, m)
		}
		ids[m.ID] = true
	}
}

// readNamed reads the named faults: three lines each, the file, what stands there once, what it becomes.
func readNamed(path string, files []mutate.Source) (list []mutate.Mutant, err error) {
	raw, err := os.ReadFile(path)
	if os.IsNotExist(err) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var lines []string
	for scan := bufio.NewScanner(strings.NewReader(string(raw))); scan.Scan(); {
		if text := strings.TrimSpace(scan.Text()); text != "" && !strings.HasPrefix(text, "#") {
			lines = append(lines, text)
		}
	}
	if len(lines)%3 != 0 {
		return nil, fmt.Errorf("%s: three lines are wanted for each: file, was, now", path)
	}
	for l := range slices.Chunk(lines, 3) {
		at := slices.IndexFunc(files, func(f mutate.Source) bool { return f.Path == l[0] })
		if at < 0 {
			continue // left out by what is asked for
		}
		m, err := mutate.Named(l[0], files[at].Text, l[1], l[2])
		if err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
		list = append(list, m)
	}
	return list, nil
}
