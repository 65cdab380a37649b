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
	alike := unchanged(base, mine, theirs)
	docs := make([]map[string]object, 3)
	for i, m := range []*plumbing.Model{base, mine, theirs} {
		d, err := takeApart(m, alike)
		if err != nil {
			return nil, err
		}
		docs[i] = d
	}
	keys := map[string]bool{}
	for _, d := range docs {
		for k := range d {
			keys[k] = true
		}
	}
	r := &Result{}
	out := outcome{mine: mine, theirs: theirs, of: map[string]side{}, mixed: map[string]object{}}
	for _, key := range slices.Sorted(maps.Keys(keys)) {
		v := r.thing(key, docs[0][key], docs[1][key], docs[2][key])
		switch {
		case v == nil:
			out.of[key] = none
		case reflect.DeepEqual(v, docs[2][key]):
			out.of[key] = asTheirs
		case reflect.DeepEqual(v, docs[1][key]):
			out.of[key] = asMine
		default:
			out.mixed[key] = v
		}
	}
	m, err := out.model()
	if err != nil {
		return nil, err
	}
	r.Model = m
	return r, nil
}

type object = document.Object

const head = "model"

func partKey(p *plumbing.Part) string { return "part " + p.ID }
func lineKey(l *plumbing.Line) string { return "line " + l.ID }

// unchanged are the parts and lines that all have as they were: most of them, and they need not be
// looked at any closer.
func unchanged(base, mine, theirs *plumbing.Model) map[string]bool {
	alike := map[string]bool{}
	same(alike, base.Parts, mine.Parts, theirs.Parts, partKey)
	same(alike, base.Lines, mine.Lines, theirs.Lines, lineKey)
	return alike
}

func same[T any](alike map[string]bool, base, mine, theirs []T, key func(*T) string) {
	a, b := byKey(mine, key), byKey(theirs, key)
	for i := range base {
		k := key(&base[i])
		if a[k] != nil && b[k] != nil && reflect.DeepEqual(&base[i], a[k]) && reflect.DeepEqual(&base[i], b[k]) {
			alike[k] = true
		}
	}
}

func byKey[T any](list []T, key func(*T) string) map[string]*T {
	of := make(map[string]*T, len(list))
	for i := range list {
		of[key(&list[i])] = &list[i]
	}
	return of
}

// takeApart is a model with the head, each part and each line under a key of its own, but for those
// that are alike.
func takeApart(m *plumbing.Model, alike map[string]bool) (map[string]object, error) {
	rest := *m
	rest.Parts = slices.DeleteFunc(slices.Clone(m.Parts), func(p plumbing.Part) bool { return alike[partKey(&p)] })
	rest.Lines = slices.DeleteFunc(slices.Clone(m.Lines), func(l plumbing.Line) bool { return alike[lineKey(&l)] })
	all, err := document.Of(&rest)
	if err != nil {
		return nil, err
	}
	things := map[string]object{head: all}
	for _, list := range []string{"parts", "lines"} {
		for _, o := range document.List(all, list) {
			things[strings.TrimSuffix(list, "s")+" "+o["id"].(string)] = o
		}
		delete(all, list)
	}
	return things, nil
}

// side is whose a thing of an outcome is.
type side int

const (
	asTheirs side = iota
	asMine
	none // it was taken away
)

// outcome is what a merge comes to: each thing as one side has it, or mixed from both.
type outcome struct {
	mine, theirs *plumbing.Model
	of           map[string]side // theirs where nothing is said
	mixed        map[string]object
}

func (o outcome) model() (*plumbing.Model, error) {
	m := *o.theirs
	if o.of[head] == asMine {
		m = *o.mine
	}
	m.Parts = chosen(o, o.mine.Parts, o.theirs.Parts, partKey)
	m.Lines = chosen(o, o.mine.Lines, o.theirs.Lines, lineKey)
	if len(o.mixed) == 0 {
		if m.CheckJoined() == nil {
			return &m, nil
		}
		// The words of an edit tell why not.
	}
	all, err := document.Of(&m)
	if err != nil {
		return nil, err
	}
	for _, list := range []string{"parts", "lines"} {
		things := document.List(all, list)
		for i := range things {
			if v, ok := o.mixed[strings.TrimSuffix(list, "s")+" "+things[i]["id"].(string)]; ok {
				all[list].([]any)[i] = v
			}
		}
	}
	if h, ok := o.mixed[head]; ok {
		h = maps.Clone(h)
		h["parts"], h["lines"] = all["parts"], all["lines"]
		all = h
	}
	raw, err := document.Raw(all)
	if err != nil {
		return nil, err
	}
	return edit.Read(raw)
}

// chosen is a list of an outcome: theirs, in their order, then what mine has beside. Of what is
// mixed it has one of the two.
func chosen[T any](o outcome, mine, theirs []T, key func(*T) string) []T {
	mines, there := byKey(mine, key), byKey(theirs, key)
	list := make([]T, 0, len(theirs))
	for i := range theirs {
		switch k := key(&theirs[i]); o.of[k] {
		case asTheirs:
			list = append(list, theirs[i])
		case asMine:
			list = append(list, *mines[k])
		}
	}
	for i := range mine {
		if k := key(&mine[i]); there[k] == nil && o.of[k] == asMine {
			list = append(list, mine[i])
		}
	}
	return list
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
