// Package assembly puts whole groups of parts into a model at once: a tank
// with its fill and vent, a pump with its kind of pick-up, a heater with its
// kind of bypass. They arrive joined to what is there, with usual sizes and
// lengths to be corrected.
package assembly

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Question is what an assembly asks for.
type Question struct {
	Name   string
	Ask    string
	Choice []Choice // of a choice; none for a text
	Usual  string
	Hint   string
	Port   plumbing.Side // of a place to join to: ports and lines of this side
	Many   bool          // several choices may be made
}

// Choice is one answer to a question.
type Choice struct{ Value, Words string }

// Kind is a kind of assembly.
type Kind struct {
	ID        string
	Name      string
	Questions []Question
	build     func(b *builder) error
}

// Kinds lists the assemblies in the order in which a system is described.
func Kinds() []Kind {
	return []Kind{tankSet, pumpSet, cityInlet, dockingPlate, heaterSet, branch, machine, lowPoint, filter, softener,
		mixer, accumulator, couplings, barrel, hatch,
		airPort, jumper, panel, probes, wasteTanks, rinse, hull}
}

// ByID finds a kind of assembly; nil if there is none.
func ByID(id string) *Kind {
	for _, k := range Kinds() {
		if k.ID == id {
			return &k
		}
	}
	return nil
}

// Add puts an assembly into a model. Answers are by question; what is not
// answered is taken as usual.
func Add(m *plumbing.Model, k *Kind, answers map[string]string) (*edit.Done, error) {
	c := *m
	c.Options, c.Parts, c.Lines = slices.Clone(m.Options), slices.Clone(m.Parts), slices.Clone(m.Lines)
	b := &builder{m: &c, answers: answers, kind: k, sys: m.System()}
	if err := b.checkAnswers(); err != nil {
		return nil, err
	}
	if err := k.build(b); err != nil {
		return nil, err
	}
	b.assume(m)
	after, err := edit.Check(&c)
	if err != nil {
		return nil, err
	}
	return &edit.Done{Model: after, Said: fact.Of("assembly.added", fact.Name(k.Name), b.added)}, nil
}

// builder changes a model's copy.
type builder struct {
	m       *plumbing.Model
	kind    *Kind
	answers map[string]string
	sys     quantity.System
	added   []string
}

func (b *builder) checkAnswers() error {
	for _, q := range b.kind.Questions {
		if q.Choice == nil || q.Many {
			continue
		}
		v := b.get(q.Name)
		if !slices.ContainsFunc(q.Choice, func(c Choice) bool { return c.Value == v }) {
			return &edit.FaultError{Faults: []plumbing.Fault{{Path: q.Ask,
				Why: fmt.Sprintf("%q is not one of the choices", v)}}}
		}
	}
	return nil
}

// get is an answer, or what is usual.
func (b *builder) get(name string) string {
	if v := strings.TrimSpace(b.answers[name]); v != "" {
		return v
	}
	for _, q := range b.kind.Questions {
		if q.Name == name {
			return usual(q, b.sys)
		}
	}
	return ""
}

// many are the answers to a question that takes several.
func (b *builder) many(name string) []string {
	return slices.DeleteFunc(strings.Split(b.get(name), ","), func(s string) bool { return s == "" })
}

// part puts a part in and gives its id.
func (b *builder) part(kind plumbing.Kind, name string, with ...func(*plumbing.Part)) string {
	p := plumbing.Part{ID: edit.PartID(b.m, name), Kind: kind, Name: b.free(name)}
	for _, w := range with {
		w(&p)
	}
	b.m.Parts = append(b.m.Parts, p)
	if kind != plumbing.Tee {
		b.added = append(b.added, p.Name)
	}
	return p.ID
}

// free makes a name that no part has.
func (b *builder) free(name string) string {
	out := name
	for n := 2; slices.ContainsFunc(b.m.Parts, func(p plumbing.Part) bool { return p.Name == out }); n++ {
		out = fmt.Sprintf("%s %d", name, n)
	}
	return out
}

// line joins two ports with a usual length.
func (b *builder) line(from, to string, side plumbing.Side, length string) {
	us, si, _ := strings.Cut(length, "|")
	if b.sys == quantity.SI && si != "" {
		us = si
	}
	g, err := quantity.Read[quantity.Millimetre](us)
	if err != nil {
		panic("assembly: " + err.Error()) // lengths are written in this package
	}
	size, material := b.size(side, to)
	b.m.Lines = append(b.m.Lines, plumbing.Line{ID: edit.LineID(b.m, from, to), From: from, To: to, Side: side,
		Size: size, Material: material, Length: g})
}

// size is the usual one of the country's trade for what a line carries.
func (b *builder) size(side plumbing.Side, to string) (size, material string) {
	_, port := plumbing.PartOf(to)
	switch {
	case side == plumbing.Air:
		size = "hose 1/2 in"
		if b.sys == quantity.SI {
			size = "hose 12 mm"
		}
		return size, "reinforced hose"
	case port == "fill":
		size = "hose 1 1/4 in"
		if b.sys == quantity.SI {
			size = "hose 40 mm"
		}
		return size, "reinforced hose"
	case b.sys == quantity.SI:
		return "semi-rigid 12 mm", ""
	}
	return "PEX 1/2", ""
}

// join joins a port to a place that was chosen: an open port, or a line into
// which a tee is put.
func (b *builder) join(place, to string, side plumbing.Side, teeName, length string) error {
	if place == "" {
		return nil // left open on purpose
	}
	from := place
	if line, ok := strings.CutPrefix(place, "line:"); ok {
		ref, err := edit.TeeInto(b.m, line, 0.5, b.free(teeName))
		if err != nil {
			return err
		}
		from = ref
	} else if p, port := plumbing.PartOf(place); b.m.Part(p) == nil || port == "" {
		return &edit.FaultError{Faults: []plumbing.Fault{{Why: fmt.Sprintf("there is no place %q to join to any more",
			place)}}}
	}
	b.line(from, to, side, length)
	return nil
}

// at is the place chosen for a question, or the one that suits best.
func (b *builder) at(name string, side plumbing.Side) string {
	switch v := b.get(name); v {
	case "":
		if list := Places(b.m, side); len(list) > 0 {
			return list[0].Value
		}
		return ""
	case "none":
		return ""
	default:
		return v
	}
}

// ask is how a question is put.
func (b *builder) ask(name string) string {
	for _, q := range b.kind.Questions {
		if q.Name == name {
			return q.Ask
		}
	}
	return name
}

// coldPlace is where something joins the cold side, or why it can't.
func (b *builder) coldPlace(question string) (string, error) {
	if place := b.at(question, plumbing.Cold); place != "" {
		return place, nil
	}
	return "", faultf(b.ask(question), "there is no cold line yet; add a pump set first")
}

// Places lists where something on a side can be joined to: open ports first,
// then lines, the newest first.
func Places(m *plumbing.Model, side plumbing.Side) []Choice {
	var list []Choice
	for _, ref := range edit.OpenPorts(m) {
		id, port := plumbing.PartOf(ref)
		p := m.Part(id)
		ok := false
		switch {
		case p.Role() == plumbing.RoleTank || p.Role() == plumbing.RoleOutlet || p.Role() == plumbing.RoleWaste ||
			p.Role() == plumbing.RoleMachine:
		case side == plumbing.Hot:
			ok = port == "hot" || edit.SideOf(m, ref) == plumbing.Hot
		default:
			ok = port != "hot" && port != "drain" && edit.SideOf(m, ref) != plumbing.Hot &&
				edit.SideOf(m, ref) != plumbing.Air
			ok = ok && (port == "out" && p.Role() == plumbing.RolePump || p.Role() == plumbing.RoleJunction ||
				p.Role() == plumbing.RoleFilter)
		}
		if ok {
			list = append(list, Choice{ref, p.Name + ", open port " + port})
		}
	}
	for i := len(m.Lines) - 1; i >= 0; i-- {
		l := &m.Lines[i]
		if l.Side != side {
			continue
		}
		from, to := m.Part(first(plumbing.PartOf(l.From))), m.Part(first(plumbing.PartOf(l.To)))
		list = append(list, Choice{"line:" + l.ID, "a tee between " + plumbing.NoArticle(from.Name) + " and " +
			plumbing.NoArticle(to.Name)})
	}
	return list
}

func first(a, _ string) string { return a }

// Settings of parts, to be given to builder.part.

func data(set func(*plumbing.Data)) func(*plumbing.Part) {
	return func(p *plumbing.Part) { set(&p.Data) }
}

func handle(kind, pipe, normal string) func(*plumbing.Part) {
	return func(p *plumbing.Part) {
		p.Reading.Handle, p.Reading.Pipe, p.Normal = kind, pipe, normal
	}
}

// given reads an answer as a quantity, or says what is wrong with it.
func given[U quantity.Unit](b *builder, name string) (quantity.Given[U], error) {
	g, err := quantity.Read[U](b.get(name))
	if err == nil {
		return g, nil
	}
	return g, refused(b.ask(name), err.Error())
}

func must[U quantity.Unit](text string) quantity.Given[U] {
	g, err := quantity.Read[U](text)
	if err != nil {
		panic("assembly: " + err.Error())
	}
	return g
}
