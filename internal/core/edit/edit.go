// Package edit changes a model document: fields of parts and lines, parts put
// in, joined and taken away. Every change gives a new document that has been
// read as strictly as a file, or says where and why it can't be.
package edit

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/fact"

	"coldtap/internal/core/plumbing"
)

// Done is a changed document and what was changed, for the history.
type Done struct {
	Model *plumbing.Model
	Said  fact.Fact
}

// FaultError says why a change was refused, field by field.
type FaultError struct{ Faults []plumbing.Fault }

func (e *FaultError) Error() string {
	var list []string
	for _, f := range e.Faults {
		list = append(list, f.String())
	}
	return strings.Join(list, "; ")
}

// fault makes a FaultError of one fault.
func fault(path, format string, args ...any) error {
	return &FaultError{[]plumbing.Fault{{Path: path, Why: fmt.Sprintf(format, args...)}}}
}

// Check reads a model as strictly as a file. Changes made on the document's
// types go through it.
func Check(m *plumbing.Model) (*plumbing.Model, error) {
	var b bytes.Buffer
	if err := plumbing.Write(&b, m); err != nil {
		return nil, err
	}
	return read(b.Bytes())
}

func read(raw []byte) (*plumbing.Model, error) {
	m, err := plumbing.Read(bytes.NewReader(raw))
	return m, asFault(err)
}

// asFault makes a FaultError of what kept a document from being read.
func asFault(err error) error {
	var re *plumbing.ReadError
	if errors.As(err, &re) {
		return &FaultError{re.Faults}
	}
	return err
}

// clone copies a model so that its parts and lines can be changed.
func clone(m *plumbing.Model) *plumbing.Model {
	c := *m
	c.Options, c.Parts, c.Lines = slices.Clone(m.Options), slices.Clone(m.Parts), slices.Clone(m.Lines)
	c.Drawing = maps.Clone(m.Drawing)
	return &c
}

// Thing names what a change is about.
type Thing string

// The things of a document that have fields.
const (
	OfModel Thing = "model"
	OfPart  Thing = "part"
	OfLine  Thing = "line"
)

// Set changes fields of the model itself, a part or a line. A field is its
// path in the document ("data.capacity", "place.height"); an empty text takes
// the field away. Some are written in one line: "spots" as "4 ft @ 12 in;
// 6 ft @ 20 in", "positions" as "id | label | valve=position, …" a line each.
func Set(m *plumbing.Model, what Thing, id string, fields map[string]string) (*Done, error) {
	doc, err := tree(m)
	if err != nil {
		return nil, err
	}
	node, name, err := find(doc, what, id)
	if err != nil {
		return nil, err
	}
	var said []fact.Fact
	newID := ""
	for _, path := range slices.Sorted(maps.Keys(fields)) {
		value := strings.TrimSpace(fields[path])
		if path == "id" && what != OfModel {
			newID = value
			continue
		}
		before := textAt(node, path)
		if before == value || IsYesNo(path) && before == "" && value == "no" {
			continue
		}
		v, err := valueOf(path, value)
		if err != nil {
			return nil, fault(string(what)+" "+strconv.Quote(id)+", "+path, "%v", err)
		}
		put(node, strings.Split(path, "."), v)
		said = append(said, change(path, before, value))
	}
	if newID != "" && newID != id {
		if err := rename(doc, what, id, newID); err != nil {
			return nil, err
		}
		said = append(said, fact.Of("edit.renamed", id, newID))
	}
	raw, err := json.Marshal(doc)
	if err != nil {
		return nil, err
	}
	after, err := again(raw, doc, node, what, newID != "" && newID != id)
	if err != nil {
		return nil, err
	}
	if len(said) == 0 {
		return &Done{Model: after}, nil
	}
	return &Done{after, fact.Of("edit.set", name, said)}, nil
}

// again reads a document in which a node was changed; all of it where that is
// the model itself, or where ids that others name were changed.
func again(raw []byte, doc, node map[string]any, what Thing, renamed bool) (*plumbing.Model, error) {
	list := listAt(doc, string(what)+"s")
	i := slices.IndexFunc(list, func(x any) bool { return x.(map[string]any)["id"] == node["id"] })
	if what == OfModel || renamed || i < 0 {
		return read(raw)
	}
	m, err := plumbing.ReadChanged(raw, string(what)+"s", i)
	return m, asFault(err)
}

// change is what became of a field.
func change(path, before, after string) fact.Fact {
	name := strings.ReplaceAll(strings.TrimPrefix(strings.TrimPrefix(path, "data."), "place."), "_", " ")
	before, after = strings.ReplaceAll(before, "\n", "; "), strings.ReplaceAll(after, "\n", "; ")
	switch {
	case before == "":
		return fact.Of("edit.field.new", name, after)
	case after == "":
		return fact.Of("edit.field.gone", name)
	}
	return fact.Of("edit.field", name, before, after)
}

// Texts are some fields of a thing as Set takes them.
func Texts(m *plumbing.Model, what Thing, id string, paths []string) map[string]string {
	texts := map[string]string{}
	doc, err := tree(m)
	if err != nil {
		return texts
	}
	if node, _, err := find(doc, what, id); err == nil {
		for _, p := range paths {
			texts[p] = textAt(node, p)
		}
	}
	return texts
}

// AllTexts are some fields of every part or line, by id.
func AllTexts(m *plumbing.Model, what Thing, paths []string) (map[string]map[string]string, error) {
	doc, err := tree(m)
	if err != nil {
		return nil, err
	}
	all := map[string]map[string]string{}
	for _, x := range listAt(doc, string(what)+"s") {
		o := x.(map[string]any)
		texts := make(map[string]string, len(paths))
		for _, p := range paths {
			texts[p] = textAt(o, p)
		}
		id, _ := o["id"].(string)
		all[id] = texts
	}
	return all, nil
}

// tree is a model as its document's objects and lists.
func tree(m *plumbing.Model) (map[string]any, error) {
	b, err := json.Marshal(m)
	if err != nil {
		return nil, err
	}
	var doc map[string]any
	return doc, json.Unmarshal(b, &doc)
}

// find gives the object of a thing and its name for words.
func find(doc map[string]any, what Thing, id string) (map[string]any, string, error) {
	if what == OfModel {
		return doc, "Model", nil
	}
	for _, x := range listAt(doc, string(what)+"s") {
		if o := x.(map[string]any); o["id"] == id {
			if name, ok := o["name"].(string); ok {
				return o, name, nil
			}
			return o, "Line " + id, nil
		}
	}
	return nil, "", fault("", "there is no %s %q any more", what, id)
}

func listAt(doc map[string]any, key string) []any {
	list, _ := doc[key].([]any)
	return list
}

// put sets or removes the value at a path; objects on the way are made, and
// taken away again when they are left empty.
func put(o map[string]any, path []string, v any) {
	if len(path) == 1 {
		if v == nil {
			delete(o, path[0])
		} else {
			o[path[0]] = v
		}
		return
	}
	inner, ok := o[path[0]].(map[string]any)
	if !ok {
		if v == nil {
			return
		}
		inner = map[string]any{}
		o[path[0]] = inner
	}
	put(inner, path[1:], v)
	if len(inner) == 0 {
		delete(o, path[0])
	}
}

// moveRefs gives another id to a part where fields name it, or a port of it.
func moveRefs(o map[string]any, from, to string, fields ...string) {
	for _, f := range fields {
		if o[f] != nil {
			o[f] = moved(o[f], from, to)
		}
	}
}

// moved is a reference to a part or a port of it, with the part's new id.
func moved(ref any, from, to string) any {
	text, _ := ref.(string)
	if rest, ok := strings.CutPrefix(text, from); ok && (rest == "" || rest[0] == '.') {
		return to + rest
	}
	return ref
}

// rename gives a part or line another id, wherever it is named.
func rename(doc map[string]any, what Thing, from, to string) error {
	for _, x := range listAt(doc, string(what)+"s") {
		if x.(map[string]any)["id"] == to {
			return fault("", "there is a %s %q already", what, to)
		}
	}
	node, _, err := find(doc, what, from)
	if err != nil {
		return err
	}
	node["id"] = to
	if what != OfPart {
		return nil
	}
	for _, x := range listAt(doc, "lines") {
		moveRefs(x.(map[string]any), from, to, "from", "to")
	}
	for _, x := range listAt(doc, "consumables") {
		moveRefs(x.(map[string]any), from, to, "part")
	}
	for _, x := range listAt(doc, "parts") {
		o := x.(map[string]any)
		moveRefs(o, from, to, "on")
		if data, ok := o["data"].(map[string]any); ok {
			moveRefs(data, from, to, "waste", "serves")
		}
		for _, c := range listAt(o, "controls") {
			moveRefs(c.(map[string]any), from, to, "part")
		}
		for i, end := range listAt(o, "ends") {
			listAt(o, "ends")[i] = moved(end, from, to)
		}
		for _, c := range listAt(o, "positions") {
			if sets, ok := c.(map[string]any)["sets"].(map[string]any); ok && sets[from] != nil {
				sets[to] = sets[from]
				delete(sets, from)
			}
		}
	}
	if nudges, ok := doc["drawing"].(map[string]any); ok && nudges[from] != nil {
		nudges[to] = nudges[from]
		delete(nudges, from)
	}
	return nil
}
