package demo

import (
	"embed"
	"io/fs"
	"path"
	"strings"
)

//go:embed lists/*.xlsx
var lists embed.FS

// List is a list of lines and tanks as engineering sends it, faults included.
type List struct {
	Model string // the model it belongs to
	Name  string // of the file
	File  []byte
}

// Lists reads the lists of the demo world.
func Lists() ([]List, error) {
	names, err := fs.Glob(lists, "lists/*.xlsx")
	if err != nil {
		return nil, err
	}
	var out []List
	for _, n := range names {
		raw, err := lists.ReadFile(n)
		if err != nil {
			return nil, err
		}
		name := path.Base(n)
		out = append(out, List{strings.TrimSuffix(name, "-lines.xlsx"), name, raw})
	}
	return out, nil
}
