// Package demo carries the demo world: the model files of Stonecrop
// Coachbuilders, a made-up maker of campers.
package demo

import (
	"embed"
	"fmt"
	"io/fs"
	"path"

	"coldtap/internal/core/plumbing"
)

//go:embed models/*.json
var files embed.FS

// Models reads every model of the demo world, in the order of file names.
func Models() ([]*plumbing.Model, error) {
	names, err := fs.Glob(files, "models/*.json")
	if err != nil {
		return nil, err
	}
	var list []*plumbing.Model
	for _, name := range names {
		m, err := read(name)
		if err != nil {
			return nil, fmt.Errorf("demo model %s: %w", path.Base(name), err)
		}
		list = append(list, m)
	}
	return list, nil
}

// Model reads one model of the demo world by its id.
func Model(id string) (*plumbing.Model, error) { return read("models/" + id + ".json") }

func read(name string) (*plumbing.Model, error) {
	f, err := files.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return plumbing.Read(f)
}
