// Package merge brings two changes of one model together that were made side
// by side: what does not collide goes in, what does is told with both values.
package merge

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"coldtap/internal/core/document"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

// Conflict is a value that both sides changed, each in its own way.
type Conflict struct {
	Thing, ID, Path    string
	Base, Mine, Theirs string
}

// Change is a value that only one side changed.
type Change struct {
	Thing, ID, Path string
	Before, After   string
}

// Result is what came of a merge. Where the sides collide, Model has theirs.
type Result struct {
	Model     *plumbing.Model
	Taken     []Change // of mine, that went in
	Conflicts []Conflict
}

// Merge applies to theirs what mine changed since base. It fails where the
// outcome can't be read, for instance where mine joined a line to a part that
// theirs took away.
func Merge(base, mine, theirs *plumbing.Model) (*Result, error) {
	docs := make([]apart, 3)
	for i, m := range []*plumbing.Model{base, mine, theirs} {
		d, err := takeApart(m)
		if err != nil {
			return nil, err
		}
		docs[i] = d
	}
	r := &Result{}
	merged := apart{things: map[string]object{}, order: docs[2].order}
	for _, key := range docs[1].order {
		if _, there := docs[2].things[key]; !there {
			merged.order = append(merged.order, key)
		}
	}
	keys := map[string]bool{}
	for _, d := range docs {
		for k := range d.things {
			keys[k] = true
		}
	}
	for _, key := range slices.Sorted(maps.Keys(keys)) {
		mine, theirs := docs[1].things[key], docs[2].things[key]
		v := r.thing(key, docs[0].things[key], mine, theirs)
		if v == nil {
			continue
		}
		merged.things[key] = v
		merged.mixed = merged.mixed || !reflect.DeepEqual(v, mine) && !reflect.DeepEqual(v, theirs)
	}
	m, err := merged.model()
	if err != nil {
		return nil, err
	}
	r.Model = m
	return r, nil
}

type object = document.Object

// apart is a model taken apart: the head, each part and each line under a key
// of its own.
type apart struct {
	things map[string]object
	order  []string // keys of parts and lines as they stand in the file
	mixed  bool     // a thing of it is neither as one side has it nor as the other
}

const head = "model"

func takeApart(m *plumbing.Model) (apart, error) {
	all, err := document.Of(m)
	if err != nil {
		return apart{}, err
	}
	d := apart{things: map[string]object{head: all}}
	for _, list := range []string{"parts", "lines"} {
		for _, o := range document.List(all, list) {
			key := strings.TrimSuffix(list, "s") + " " + o["id"].(string)
			d.things[key] = o
			d.order = append(d.order, key)
		}
		delete(all, list)
	}
	return d, nil
}

func (d apart) model() (*plumbing.Model, error) {
	all := maps.Clone(d.things[head])
	parts, lines := []any{}, []any{}
	for _, key := range d.order {
		o, ok := d.things[key]
		switch {
		case !ok:
		case strings.HasPrefix(key, "part "):
			parts = append(parts, o)
		default:
			lines = append(lines, o)
		}
	}
	all["parts"], all["lines"] = parts, lines
	raw, err := document.Raw(all)
	if err != nil {
		return nil, err
	}
	if d.mixed {
		return edit.Read(raw)
	}
	m, err := plumbing.ReadJoined(raw)
	if err != nil {
		return edit.Read(raw) // which tells why in the words of an edit
	}
	return m, nil
}

// thing merges one part, one line or the head; nil takes it away.
func (r *Result) thing(key string, base, mine, theirs object) object {
	kind, id, _ := strings.Cut(key, " ")
	told := func(o object) string {
		if o == nil {
			return ""
		}
		return "there"
	}
	switch {
	case reflect.DeepEqual(mine, base):
		return theirs
	case base != nil && mine != nil && theirs != nil:
		return r.fields(kind, id, "", base, mine, theirs)
	case reflect.DeepEqual(theirs, base) || reflect.DeepEqual(theirs, mine):
		r.Taken = append(r.Taken, Change{kind, id, "", told(base), told(mine)})
		return mine
	default:
		r.Conflicts = append(r.Conflicts, Conflict{kind, id, "", told(base), told(mine), told(theirs)})
		return theirs
	}
}

func (r *Result) fields(kind, id, path string, base, mine, theirs object) object {
	out := object{}
	keys := map[string]bool{}
	for _, o := range []object{base, mine, theirs} {
		for k := range o {
			keys[k] = true
		}
	}
	for _, k := range slices.Sorted(maps.Keys(keys)) {
		if v := r.value(kind, id, document.Path(path, k), base[k], mine[k], theirs[k]); v != nil {
			out[k] = v
		}
	}
	return out
}

func (r *Result) value(kind, id, path string, base, mine, theirs any) any {
	if reflect.DeepEqual(mine, base) {
		return theirs
	}
	a, okA := mine.(object)
	b, okB := theirs.(object)
	if okA && okB {
		was, _ := base.(object)
		return r.fields(kind, id, path, was, a, b)
	}
	if reflect.DeepEqual(theirs, base) || reflect.DeepEqual(theirs, mine) {
		r.Taken = append(r.Taken, Change{kind, id, path, text(base), text(mine)})
		return mine
	}
	if merged, ok := r.list(kind, id, path, base, mine, theirs); ok {
		return merged
	}
	r.Conflicts = append(r.Conflicts, Conflict{kind, id, path, text(base), text(mine), text(theirs)})
	return theirs
}

// sets are lists of texts in which the order says nothing.
var sets = map[string]bool{"assumed": true, "excludes": true}

// list merges lists whose entries are told apart: objects by what names them,
// and texts of a set. Others are one value.
func (r *Result) list(kind, id, path string, base, mine, theirs any) (any, bool) {
	var named [3]entries
	for i, v := range []any{base, mine, theirs} {
		list, isList := v.([]any)
		if v != nil && !isList {
			return nil, false
		}
		var ok bool
		if named[i], ok = entriesOf(list, sets[path[strings.LastIndex(path, ".")+1:]]); !ok {
			return nil, false
		}
	}
	was, a, b := named[0], named[1], named[2]
	order := slices.Clone(b.order)
	for _, key := range a.order {
		if _, there := b.of[key]; !there {
			order = append(order, key)
		}
	}
	var out []any
	for _, key := range order {
		if v := r.entry(kind, id, document.Path(path, key), was.of[key], a.of[key], b.of[key]); v != nil {
			out = append(out, v)
		}
	}
	if out == nil {
		return nil, true
	}
	return out, true
}

// entry merges one entry of a list; nil takes it away.
func (r *Result) entry(kind, id, path string, base, mine, theirs any) any {
	if mine != nil && theirs != nil {
		return r.value(kind, id, path, base, mine, theirs)
	}
	switch {
	case reflect.DeepEqual(mine, base):
		return theirs
	case reflect.DeepEqual(theirs, base):
		r.Taken = append(r.Taken, Change{kind, id, path, text(base), text(mine)})
		return mine
	}
	r.Conflicts = append(r.Conflicts, Conflict{kind, id, path, text(base), text(mine), text(theirs)})
	return theirs
}

// entries are those of a list by what tells them apart.
type entries struct {
	of    map[string]any
	order []string
}

// entriesOf tells the entries of a list apart; false where that can't be done.
func entriesOf(list []any, set bool) (entries, bool) {
	e := entries{of: map[string]any{}}
	for _, v := range list {
		key, ok := nameOf(v, set)
		if _, double := e.of[key]; !ok || double {
			return e, false
		}
		e.of[key] = v
		e.order = append(e.order, key)
	}
	return e, true
}

// nameOf is what tells an entry of a list from the others.
func nameOf(v any, set bool) (string, bool) {
	switch v := v.(type) {
	case string:
		return v, set
	case object:
		for _, field := range []string{"id", "mode", "name"} {
			if name, ok := v[field].(string); ok {
				return name, true
			}
		}
		if code, ok := v["code"].(string); ok {
			return code + " " + text(v["parts"]), true
		}
	}
	return "", false
}

func text(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	}
	b, err := json.Marshal(v)
	if err != nil {
		return fmt.Sprint(v)
	}
	return string(b)
}
