package edit

import (
	"slices"

	"coldtap/internal/core/document"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Confirm takes fields of a part or line for given that were assumed; all that
// are assumed of it where no path is named.
func Confirm(m *plumbing.Model, what Thing, id string, paths ...string) (*Done, error) {
	list, i, thing, err := one(m, what, id)
	if err != nil {
		return nil, err
	}
	node, err := document.Of(thing)
	if err != nil {
		return nil, err
	}
	if len(paths) == 0 {
		paths = assumedOf(node)
	}
	var confirmed []any
	for _, path := range paths {
		if settle(node, path) {
			confirmed = append(confirmed, fact.Field(path))
		}
	}
	if confirmed == nil {
		return &Done{Model: m}, nil
	}
	raw, err := document.Raw(node)
	if err != nil {
		return nil, err
	}
	after, err := plumbing.ReadChanged(m, list, i, raw)
	if err != nil {
		return nil, asFault(err)
	}
	return &Done{after, fact.Of("edit.confirmed", nameOf(node, what), confirmed)}, nil
}

// assumedOf lists the paths of a thing's fields that are assumed.
func assumedOf(node document.Object) (paths []string) {
	list, _ := node["assumed"].([]any)
	for _, path := range list {
		if text, ok := path.(string); ok {
			paths = append(paths, text)
		}
	}
	return paths
}

// settle takes a field for given, and reports whether it was assumed.
func settle(node document.Object, path string) bool {
	list, _ := node["assumed"].([]any)
	at := slices.Index(list, any(path))
	if at < 0 {
		return false
	}
	if len(list) == 1 {
		delete(node, "assumed")
	} else {
		node["assumed"] = slices.Delete(slices.Clone(list), at, at+1)
	}
	return true
}

// ConfirmAll takes every field of the model for given that was assumed.
func ConfirmAll(m *plumbing.Model) (*Done, error) {
	c, n := clone(m), 0
	for i := range c.Parts {
		n += len(c.Parts[i].Assumed)
		c.Parts[i].Assumed = nil
	}
	for i := range c.Lines {
		n += len(c.Lines[i].Assumed)
		c.Lines[i].Assumed = nil
	}
	if n == 0 {
		return &Done{Model: m}, nil
	}
	return &Done{c, fact.Of("edit.confirmed-all", n)}, nil
}
