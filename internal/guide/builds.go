package guide

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/words"
	"coldtap/internal/guide/doc"
)

// Variant is the guide of one build.
type Variant struct {
	With []string // its options
	Doc  *doc.Document
}

// Together brings the guides of several builds of a model into one. What holds for all stands once, without a word of
// builds; what holds for some says for which.
func Together(m *plumbing.Model, list []Variant) *doc.Document {
	b := builds{m: m, list: list, tell: words.English(m.System())}
	d := *list[0].Doc
	d.Sections = nil
	d.About = b.about()
	for _, id := range b.order() {
		d.Sections = append(d.Sections, b.sections(id)...)
	}
	return &d
}

// About is what a guide of one build of a model is for: its options with the units that can have them.
func About(m *plumbing.Model, with []string) []doc.Line {
	b := builds{m: m, tell: words.English(m.System())}
	return []doc.Line{doc.Of(b.tell.Tell(b.name(with)))}
}

// builds are the builds that are brought together.
type builds struct {
	m    *plumbing.Model
	list []Variant
	tell *words.Printer
}

// about is what the guide is for.
func (b *builds) about() (lines []doc.Line) {
	for _, v := range b.list {
		lines = append(lines, doc.Of(b.tell.Tell(b.name(v.With))))
	}
	return lines
}

// name is what a build is fitted with.
func (b *builds) name(with []string) fact.Fact {
	if len(with) == 0 {
		return fact.Of("builds.plain")
	}
	var all []fact.Fact
	for _, id := range with {
		all = append(all, b.option(id))
	}
	return fact.Of("builds.fitted", all)
}

// option is an option with the units that can have it.
func (b *builds) option(id string) fact.Fact {
	o := b.m.Option(id)
	switch {
	case o.FromSerial != "" && o.ToSerial != "":
		return fact.Of("builds.serials", o.Name, o.FromSerial, o.ToSerial)
	case o.FromSerial != "":
		return fact.Of("builds.from-serial", o.Name, o.FromSerial)
	case o.ToSerial != "":
		return fact.Of("builds.to-serial", o.Name, o.ToSerial)
	case o.FromDate != "" && o.ToDate != "":
		return fact.Of("builds.dates", o.Name, o.FromDate, o.ToDate)
	case o.FromDate != "":
		return fact.Of("builds.from-date", o.Name, o.FromDate)
	case o.ToDate != "":
		return fact.Of("builds.to-date", o.Name, o.ToDate)
	}
	return fact.Of("it", o.Name)
}

// order are the ids of all sections: those that only some builds have stand behind what they follow there.
func (b *builds) order() (ids []string) {
	for _, v := range b.list {
		at := 0
		for _, s := range v.Doc.Sections {
			if i := slices.Index(ids, s.ID); i >= 0 {
				at = i + 1
				continue
			}
			ids = slices.Insert(ids, at, s.ID)
			at++
		}
	}
	return ids
}

// said is a section as some builds have it.
type said struct {
	section doc.Section
	of      []int // builds
}

// sections are the sections of an id: one where all builds say the same, or where what differs can be told within it.
func (b *builds) sections(id string) (list []doc.Section) {
	var groups []said
	for i, v := range b.list {
		k := slices.IndexFunc(v.Doc.Sections, func(s doc.Section) bool { return s.ID == id })
		if k < 0 {
			continue
		}
		s := v.Doc.Sections[k]
		same := slices.IndexFunc(groups, func(g said) bool { return reflect.DeepEqual(g.section.Nodes, s.Nodes) })
		if same < 0 {
			groups = append(groups, said{section: s})
			same = len(groups) - 1
		}
		groups[same].of = append(groups[same].of, i)
	}
	if len(groups) > 1 {
		if one, ok := b.within(groups); ok {
			return []doc.Section{one}
		}
	}
	for k, g := range groups {
		if k > 0 {
			g.section.ID = fmt.Sprintf("%s-%d", id, k+1)
		}
		if len(g.of) < len(b.list) && g.section.Only == "" {
			g.section.Only = b.tell.Tell(fact.Of("builds.only", b.which(g.of)))
		}
		list = append(list, g.section)
	}
	return list
}

// within tells in one section what differs between builds: lists and tables whose lines and rows say for which they
// hold. It can't where something else differs.
func (b *builds) within(groups []said) (one doc.Section, ok bool) {
	one = groups[0].section
	one.Nodes = slices.Clone(one.Nodes)
	var has []int
	for _, g := range groups {
		has = append(has, g.of...)
		if len(g.section.Nodes) != len(one.Nodes) {
			return one, false
		}
	}
	if len(has) < len(b.list) {
		slices.Sort(has)
		one.Only = b.tell.Tell(fact.Of("builds.only", b.which(has)))
	}
	for i := range one.Nodes {
		var nodes []doc.Node
		for _, g := range groups {
			nodes = append(nodes, g.section.Nodes[i])
		}
		if one.Nodes[i], ok = b.node(nodes, groups, len(has)); !ok {
			return one, false
		}
	}
	return one, true
}

// node brings the same node of several groups of builds together.
func (b *builds) node(nodes []doc.Node, groups []said, all int) (doc.Node, bool) {
	if !slices.ContainsFunc(nodes, func(n doc.Node) bool { return !reflect.DeepEqual(n, nodes[0]) }) {
		return nodes[0], true
	}
	switch first := nodes[0].(type) {
	case doc.List:
		var lists [][]doc.Line
		for _, n := range nodes {
			l, ok := n.(doc.List)
			if !ok {
				return nil, false
			}
			lists = append(lists, l.Items)
		}
		first.Items = union(lists, groups, all, b.marked, doc.Line.Text)
		return first, true
	case doc.Table:
		var lists [][]doc.Row
		for _, n := range nodes {
			t, ok := n.(doc.Table)
			if !ok || !slices.Equal(t.Head, first.Head) || t.Foot != nil {
				return nil, false
			}
			lists = append(lists, t.Rows)
		}
		first.Rows = union(lists, groups, all, b.markedRow, rowText)
		return first, true
	}
	return nil, false
}

// union is what several lists have, in their order; what not all builds have is marked with which.
func union[T any](lists [][]T, groups []said, all int, mark func(T, []int) T, text func(T) string) (got []T) {
	type item struct {
		value T
		of    []int
	}
	var items []item
	for g, list := range lists {
		at := 0
		for _, x := range list {
			i := slices.IndexFunc(items, func(o item) bool { return reflect.DeepEqual(o.value, x) })
			if i < 0 {
				// behind what it follows, and behind what other builds say of the same
				for at < len(items) && text(items[at].value) == text(x) {
					at++
				}
				items = slices.Insert(items, at, item{value: x})
				i = at
			}
			items[i].of = append(items[i].of, groups[g].of...)
			at = i + 1
		}
	}
	for _, x := range items {
		if len(x.of) < all {
			slices.Sort(x.of)
			x.value = mark(x.value, x.of)
		}
		got = append(got, x.value)
	}
	return got
}

func rowText(r doc.Row) string {
	var b strings.Builder
	for _, l := range r.Cells[0].Lines {
		b.WriteString(l.Text())
	}
	return b.String()
}

func (b *builds) marked(l doc.Line, of []int) doc.Line {
	return l.And(doc.Span{Style: doc.Soft, Text: " " + b.tell.Tell(fact.Of("builds.mark", b.which(of)))})
}

func (b *builds) markedRow(r doc.Row, of []int) doc.Row {
	r.Cells = slices.Clone(r.Cells)
	r.Cells[0].Lines = append(slices.Clone(r.Cells[0].Lines), soft(b.tell.Tell(fact.Of("builds.mark", b.which(of)))))
	return r
}

// literal is an option that builds have or have not.
type literal struct {
	id  string
	has bool
}

// which tells some builds from the others by their options, as shortly as that can be done: by one option, by two
// together, or each by itself.
func (b *builds) which(of []int) fact.Fact {
	var literals []literal
	for _, o := range b.m.Options {
		literals = append(literals, literal{o.ID, true}, literal{o.ID, false})
	}
	holds := func(i int, l literal) bool { return slices.Contains(b.list[i].With, l.id) == l.has }
	exact := func(test func(i int) bool) bool {
		for i := range b.list {
			if test(i) != slices.Contains(of, i) {
				return false
			}
		}
		return true
	}
	for _, l := range literals {
		if exact(func(i int) bool { return holds(i, l) }) {
			return b.literal(l)
		}
	}
	for i, x := range literals {
		for _, y := range literals[i+1:] {
			if exact(func(i int) bool { return holds(i, x) && holds(i, y) }) {
				return fact.Of("builds.both", b.literal(x), b.literal(y))
			}
			if exact(func(i int) bool { return holds(i, x) || holds(i, y) }) {
				return fact.Of("builds.either", b.literal(x), b.literal(y))
			}
		}
	}
	var each []fact.Fact
	for _, i := range of {
		each = append(each, b.name(b.list[i].With))
	}
	return fact.Of("builds.each", each)
}

func (b *builds) literal(l literal) fact.Fact {
	name := b.m.Option(l.id).Name
	if l.has {
		return fact.Of("builds.with", name)
	}
	return fact.Of("builds.without", name)
}
