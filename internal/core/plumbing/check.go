package plumbing

import (
	"fmt"
	"slices"
	"strings"
)

// check finds what the schema can't: references, ports, double ids.
func (m *Model) check() []Fault {
	c := checker{m: m, parts: map[string]*Part{}, ports: map[string][]*Line{}}
	c.options()
	for i := range m.Parts {
		c.part(i)
	}
	for i := range m.Parts {
		c.references(i)
		c.seats(i)
		c.serves(i)
	}
	c.consumables()
	lines := map[string]bool{}
	for i := range m.Lines {
		l := &m.Lines[i]
		if lines[l.ID] {
			c.fault(linePath(i, l), "the id stands twice; give one of the lines another")
		}
		lines[l.ID] = true
		c.line(i)
	}
	for _, id := range sortedKeys(m.Drawing) {
		if c.parts[id] == nil {
			c.fault("/drawing", "there is no part %q", id)
		}
	}
	return c.faults
}

type checker struct {
	m      *Model
	faults []Fault
	parts  map[string]*Part
	ports  map[string][]*Line // lines at each port
	opts   map[string]bool
}

func (c *checker) fault(path, format string, args ...any) {
	c.faults = append(c.faults, Fault{path, fmt.Sprintf(format, args...)})
}

func partPath(i int, p *Part) string { return fmt.Sprintf("/parts/%d (part %q)", i, p.ID) }
func linePath(i int, l *Line) string { return fmt.Sprintf("/lines/%d (line %q)", i, l.ID) }

func (c *checker) options() {
	c.opts = map[string]bool{}
	for i, o := range c.m.Options {
		if c.opts[o.ID] {
			c.fault(fmt.Sprintf("/options/%d (option %q)", i, o.ID), "the id stands twice")
		}
		c.opts[o.ID] = true
	}
	for i, o := range c.m.Options {
		for _, other := range o.Excludes {
			if !c.opts[other] || other == o.ID {
				c.fault(fmt.Sprintf("/options/%d (option %q)/excludes", i, o.ID), "there is no other option %q", other)
			}
		}
	}
}

func (c *checker) optionRefs(path string, ids ...string) {
	for _, id := range ids {
		if id != "" && !c.opts[id] {
			c.fault(path, "there is no option %q", id)
		}
	}
}

func (c *checker) part(i int) {
	p := &c.m.Parts[i]
	path := partPath(i, p)
	if c.parts[p.ID] != nil {
		c.fault(path, "the id stands twice; give one of the parts another")
	}
	c.parts[p.ID] = p
	c.optionRefs(path, p.Option, p.Without)
	for name := range p.Heights {
		if !p.hasPort(name) {
			c.fault(path+"/port_heights", "a %s has no port %q; its ports are %s", p.Kind.Info().Name, name,
				portNames(p))
		}
	}
	for name := range p.Reading.Says {
		if !slices.Contains(p.Positions(), name) {
			c.fault(path+"/reading/says", "there is no position %q; the positions are %s", name, quoted(p.Positions()))
		}
	}
	if p.Kind == Selector && !slices.Contains(p.Positions(), p.NormalPosition()) {
		c.fault(path+"/normal", "there is no position %q; the positions are %s", p.Normal, quoted(p.Positions()))
	}
}

// references checks what a part says of other parts.
func (c *checker) references(i int) {
	p := &c.m.Parts[i]
	path := partPath(i, p)
	if w := p.Data.Waste; w != "" && (c.parts[w] == nil || c.parts[w].Kind != WasteTank) {
		c.fault(path+"/data/waste", "%q is not a waste tank of this model", w)
	}
	if len(p.Selector) > mostPositions {
		c.fault(path+"/positions", "a selector has at most %d positions", mostPositions)
	}
	seen := map[string]bool{}
	for _, choice := range p.Selector {
		if seen[choice.ID] {
			c.fault(path+"/positions", "the position %q stands twice", choice.ID)
		}
		seen[choice.ID] = true
		for _, id := range sortedKeys(choice.Sets) {
			pos, v := choice.Sets[id], c.parts[id]
			switch {
			case v == nil || len(v.Positions()) == 0 || v.Kind == Selector:
				c.fault(path+"/positions", "%q is not a valve that a selector could drive", id)
			case !slices.Contains(v.Positions(), pos):
				c.fault(path+"/positions", "%q has no position %q; write one of %s", id, pos, quoted(v.Positions()))
			}
		}
	}
}

func (c *checker) line(i int) {
	l := &c.m.Lines[i]
	path := linePath(i, l)
	c.optionRefs(path, l.Option, l.Without)
	if l.From == l.To {
		c.fault(path, "both ends are at %q", l.From)
	}
	for _, end := range []struct{ field, ref string }{{"from", l.From}, {"to", l.To}} {
		id, port, _ := strings.Cut(end.ref, ".")
		p := c.parts[id]
		if p == nil {
			c.fault(path+"/"+end.field, "there is no part %q", id)
			continue
		}
		if !p.hasPort(port) {
			c.fault(path+"/"+end.field, "a %s has no port %q; its ports are %s", p.Kind.Info().Name, port, portNames(p))
			continue
		}
		for _, other := range c.ports[end.ref] {
			if together(l, other) {
				c.fault(path+"/"+end.field, "line %q already joins %s; a port takes one line, put a tee in", other.ID,
					end.ref)
			}
		}
		c.ports[end.ref] = append(c.ports[end.ref], l)
	}
	if l.Size != "" {
		if _, err := FindSize(l.Size); err != nil && l.Inside.IsZero() {
			c.fault(path+"/size", "%v, or give the line its own \"inside\" diameter", err)
		}
	}
	for _, s := range l.Spots {
		if !l.Length.IsZero() && s.At.Value() > l.Length.Value() {
			c.fault(path+"/spots", "a spot at %s lies beyond the line's length of %s", s.At, l.Length)
		}
	}
}

// together reports whether two lines can be present in one build.
func together(a, b *Line) bool {
	clash := func(x, y *Line) bool { return x.Option != "" && x.Option == y.Without }
	return !clash(a, b) && !clash(b, a)
}

func portNames(p *Part) string {
	var names []string
	for _, i := range p.Ports() {
		names = append(names, i.Name)
	}
	if names == nil {
		return "none"
	}
	return quoted(names)
}
