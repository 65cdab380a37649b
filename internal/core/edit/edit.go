// Package edit changes a model document: fields of parts and lines, parts put
// in, joined and taken away. Every change gives a new document that has been
// read as strictly as a file, or says where and why it can't be.
package edit

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/document"
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
	return Read(b.Bytes())
}

// Read reads a document; what keeps it from being read is a FaultError.
func Read(raw []byte) (*plumbing.Model, error) {
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
	if what == OfLine {
		fields = renamedWith(m, id, fields)
	}
	if to := strings.TrimSpace(fields["id"]); what == OfModel || to != "" && to != id {
		return setInAll(m, what, id, fields)
	}
	list, i, thing, err := one(m, what, id)
	if err != nil {
		return nil, err
	}
	node, err := document.Of(thing)
	if err != nil {
		return nil, err
	}
	said, err := setFields(node, what, id, fields)
	if err != nil {
		return nil, err
	}
	raw, err := document.Raw(node)
	if err != nil {
		return nil, err
	}
	after, err := plumbing.ReadChanged(m, list, i, raw)
	if err != nil {
		return nil, asFault(err)
	}
	return done(after, nameOf(node, what), said), nil
}

// one finds a part or line: the list it stands in and at which place.
func one(m *plumbing.Model, what Thing, id string) (list string, i int, thing any, err error) {
	if what == OfPart {
		if i = slices.IndexFunc(m.Parts, func(p plumbing.Part) bool { return p.ID == id }); i >= 0 {
			return "parts", i, &m.Parts[i], nil
		}
	} else if i = slices.IndexFunc(m.Lines, func(l plumbing.Line) bool { return l.ID == id }); i >= 0 {
		return "lines", i, &m.Lines[i], nil
	}
	return "", 0, nil, fault("", "there is no %s %q any more", what, id)
}

// setInAll is Set where the whole document is read anew: of fields of the model
// itself, and of an id that others may name.
func setInAll(m *plumbing.Model, what Thing, id string, fields map[string]string) (*Done, error) {
	doc, err := document.Of(m)
	if err != nil {
		return nil, err
	}
	node, err := find(doc, what, id)
	if err != nil {
		return nil, err
	}
	name := nameOf(node, what)
	said, err := setFields(node, what, id, fields)
	if err != nil {
		return nil, err
	}
	if to := strings.TrimSpace(fields["id"]); what != OfModel && to != "" && to != id {
		if err := rename(doc, what, id, to); err != nil {
			return nil, err
		}
		said = append(said, fact.Of("edit.renamed", id, to))
	}
	raw, err := document.Raw(doc)
	if err != nil {
		return nil, err
	}
	after, err := Read(raw)
	if err != nil {
		return nil, err
	}
	return done(after, name, said), nil
}

func done(after *plumbing.Model, name string, said []fact.Fact) *Done {
	if len(said) == 0 {
		return &Done{Model: after}
	}
	return &Done{after, fact.Of("edit.set", name, said)}
}

// setFields changes the fields of a thing but its id, and says which.
func setFields(node document.Object, what Thing, id string, fields map[string]string) (said []fact.Fact, err error) {
	for _, path := range slices.Sorted(maps.Keys(fields)) {
		value := strings.TrimSpace(fields[path])
		before := textAt(node, path)
		if path == "id" && what != OfModel || before == value || IsYesNo(path) && before == "" && value == "no" {
			continue
		}
		v, err := valueOf(path, value)
		if err != nil {
			return nil, fault(string(what)+" "+strconv.Quote(id)+", "+path, "%v", err)
		}
		document.Put(node, path, v)
		settle(node, path)
		said = append(said, change(path, before, value))
	}
	return said, nil
}

// change is what became of a field.
func change(path, before, after string) fact.Fact {
	name := fact.Field(path)
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
	head := *m // its own fields are asked for, not all that is in its lists
	head.Parts, head.Lines = nil, nil
	var thing any = &head
	if what != OfModel {
		_, _, thing, _ = one(m, what, id)
	}
	texts := map[string]string{}
	if node, err := document.Of(thing); err == nil {
		for _, p := range paths {
			texts[p] = textAt(node, p)
		}
	}
	return texts
}

// AllTexts are some fields of every part or line, by id.
func AllTexts(m *plumbing.Model, what Thing, paths []string) (map[string]map[string]string, error) {
	doc, err := document.Of(m)
	if err != nil {
		return nil, err
	}
	all := map[string]map[string]string{}
	for _, o := range document.List(doc, string(what)+"s") {
		texts := make(map[string]string, len(paths))
		for _, p := range paths {
			texts[p] = textAt(o, p)
		}
		id, _ := o["id"].(string)
		all[id] = texts
	}
	return all, nil
}

// find gives the object of a thing.
func find(doc document.Object, what Thing, id string) (document.Object, error) {
	if what == OfModel {
		return doc, nil
	}
	for _, o := range document.List(doc, string(what)+"s") {
		if o["id"] == id {
			return o, nil
		}
	}
	return nil, fault("", "there is no %s %q any more", what, id)
}

// nameOf is how a thing is called where a change of it is told.
func nameOf(node document.Object, what Thing) string {
	name, named := node["name"].(string)
	switch {
	case what == OfModel:
		return "Model"
	case named:
		return name
	}
	return fmt.Sprintf("Line %v", node["id"])
}

// moveRefs gives another id to a part where fields name it, or a port of it.
func moveRefs(o document.Object, from, to string, fields ...string) {
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
func rename(doc document.Object, what Thing, from, to string) error {
	for _, o := range document.List(doc, string(what)+"s") {
		if o["id"] == to {
			return fault("", "there is a %s %q already", what, to)
		}
	}
	node, err := find(doc, what, from)
	if err != nil {
		return err
	}
	node["id"] = to
	if what != OfPart {
		return nil
	}
	for _, o := range document.List(doc, "lines") {
		moveRefs(o, from, to, "from", "to")
	}
	for _, o := range document.List(doc, "consumables") {
		moveRefs(o, from, to, "part")
	}
	for _, o := range document.List(doc, "kept") {
		if handles, ok := o["handles"].(document.Object); ok && handles[from] != nil {
			handles[to] = handles[from]
			delete(handles, from)
		}
	}
	for _, o := range document.List(doc, "accepted") {
		if parts, ok := o["parts"].([]any); ok {
			for i := range parts {
				if parts[i] == from {
					parts[i] = to
				}
			}
		}
	}
	renameLines(doc, from, to)
	for _, o := range document.List(doc, "parts") {
		moveRefs(o, from, to, "on")
		if data, ok := o["data"].(document.Object); ok {
			moveRefs(data, from, to, "waste", "serves")
		}
		for _, c := range document.List(o, "controls") {
			moveRefs(c, from, to, "part")
		}
		if ends, ok := o["ends"].([]any); ok {
			for i := range ends {
				ends[i] = moved(ends[i], from, to)
			}
		}
		for _, c := range document.List(o, "positions") {
			if sets, ok := c["sets"].(document.Object); ok && sets[from] != nil {
				sets[to] = sets[from]
				delete(sets, from)
			}
		}
	}
	if nudges, ok := doc["drawing"].(document.Object); ok && nudges[from] != nil {
		nudges[to] = nudges[from]
		delete(nudges, from)
	}
	return nil
}
