// Package cases has vehicles and small systems for tests that were described by hands other than those that wrote the
// program: whole vehicles that were worked out on paper, and a few parts each that showed an error once. Their makers are
// made up for testing.
package cases

import (
	"bytes"
	"embed"
	"fmt"
	"io/fs"
	"path"
	"strings"

	"coldtap/internal/core/plumbing"
)

//go:embed whole/*.json small/*.json
var files embed.FS

// Whole are the names of whole vehicles; some are one of the others with an error that it showed.
func Whole() []string { return names("whole") }

// Small are the names of small systems.
func Small() []string { return names("small") }

func names(folder string) (list []string) {
	found, err := fs.Glob(files, folder+"/*.json")
	if err != nil {
		panic(err) // the patterns are constants
	}
	for _, f := range found {
		list = append(list, strings.TrimSuffix(path.Base(f), ".json"))
	}
	return list
}

// Model reads one of them.
func Model(name string) (*plumbing.Model, error) {
	for _, folder := range []string{"whole/", "small/"} {
		raw, err := files.ReadFile(folder + name + ".json")
		if err != nil {
			continue
		}
		m, err := plumbing.Read(bytes.NewReader(raw))
		if err != nil {
			return nil, fmt.Errorf("case %s: %w", name, err)
		}
		return m, nil
	}
	return nil, fmt.Errorf("there is no case %s", name)
}
