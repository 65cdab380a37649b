package edit

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// ID makes an id of a name: "Cold tee, kitchen" becomes "cold-tee-kitchen",
// "Öltank" becomes "oltank". A number is added where taken says that it is used.
func ID(name string, taken func(id string) bool) string {
	plain := transform.Chain(norm.NFKD, runes.Remove(runes.In(unicode.Mn)), cases.Lower(language.Und))
	text, _, err := transform.String(plain, name)
	if err != nil {
		text = name // nothing that it can't read stays in an id anyway
	}
	base := strings.Join(strings.FieldsFunc(text, func(r rune) bool {
		return (r < 'a' || r > 'z') && (r < '0' || r > '9')
	}), "-")
	if base == "" {
		base = "part"
	}
	id := base
	for n := 2; taken(id); n++ {
		id = fmt.Sprintf("%s-%d", base, n)
	}
	return id
}

// PartID makes an id for a part of a model.
func PartID(m *plumbing.Model, name string) string {
	return ID(name, func(id string) bool { return m.Part(id) != nil })
}

// LineID makes an id for a line of a model from the parts that it joins.
func LineID(m *plumbing.Model, from, to string) string {
	a, _ := plumbing.PartOf(from)
	b, _ := plumbing.PartOf(to)
	return ID(a+" "+b, func(id string) bool { return m.Line(id) != nil })
}

// Remove takes parts and lines away, and the lines that ended at the parts.
func Remove(m *plumbing.Model, ids ...string) (*Done, error) {
	c := clone(m)
	var gone []any
	for _, id := range ids {
		switch p, l := c.Part(id), c.Line(id); {
		case p != nil:
			gone = append(gone, fact.Name(p.Name))
		case l != nil:
			gone = append(gone, fact.Of("edit.line", id))
		default:
			return nil, fault("", "there is no part or line %q any more", id)
		}
		c.Parts = slices.DeleteFunc(c.Parts, func(p plumbing.Part) bool { return p.ID == id })
		c.Lines = slices.DeleteFunc(c.Lines, func(l plumbing.Line) bool {
			return l.ID == id || strings.HasPrefix(l.From, id+".") || strings.HasPrefix(l.To, id+".")
		})
		delete(c.Drawing, id)
		forget(c, id)
	}
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.removed", gone)}, nil
}

// forget lets go of a part that is taken away: what sat on it, the rows of
// panels that switched it, what was used up in it.
func forget(c *plumbing.Model, id string) {
	for i := range c.Parts {
		p := &c.Parts[i]
		if strings.HasPrefix(p.On, id+".") {
			p.On = ""
		}
		p.Controls = slices.DeleteFunc(slices.Clone(p.Controls), func(x plumbing.Control) bool { return x.Part == id })
	}
	c.Consumables = slices.Clone(c.Consumables)
	for i := range c.Consumables {
		if c.Consumables[i].Part == id {
			c.Consumables[i].Part = ""
		}
	}
}

// Add puts a part in that nothing is joined to yet.
func Add(m *plumbing.Model, p plumbing.Part) (*Done, error) {
	c := clone(m)
	if p.ID == "" {
		p.ID = PartID(c, p.Name)
	}
	c.Parts = append(c.Parts, p)
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.added", p.Name)}, nil
}

// IntoLine before the id of a line, in place of a port, asks for a tee in the middle
// of that line.
const IntoLine = "line:"

// Join puts a line between two ports. Where a port has a line already, a tee
// is put into that line.
func Join(m *plumbing.Model, from, to string, l plumbing.Line) (*Done, error) {
	c := clone(m)
	for _, end := range []*string{&from, &to} {
		ref, err := openPort(c, *end)
		if err != nil {
			return nil, err
		}
		*end = ref
	}
	l.ID, l.From, l.To = LineID(c, from, to), from, to
	if l.Side == "" {
		l.Side = SideOf(c, from, to)
	}
	c.Lines = append(c.Lines, l)
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.joined", from, to)}, nil
}

// openPort gives a port to join to: the one asked for, or that of a tee put
// into the line that is there.
func openPort(c *plumbing.Model, ref string) (string, error) {
	if line, ok := strings.CutPrefix(ref, IntoLine); ok {
		return TeeInto(c, line, 0.5, "Tee")
	}
	id, port := plumbing.PartOf(ref)
	p := c.Part(id)
	if p == nil || !slices.ContainsFunc(p.Ports(), func(i plumbing.PortInfo) bool { return i.Name == port }) {
		return "", fault("", "there is no port %q", ref)
	}
	for i := range c.Lines {
		if l := &c.Lines[i]; l.From == ref || l.To == ref {
			share := 0.9
			if l.From == ref {
				share = 0.1
			}
			return TeeInto(c, l.ID, share, "Tee, "+plumbing.NoArticle(p.Name))
		}
	}
	return ref, nil
}

// TeeInto puts a tee into a line of c, at a share of its length, and gives the
// tee's free port. The model is changed in place.
func TeeInto(c *plumbing.Model, line string, share float64, name string) (string, error) {
	i := slices.IndexFunc(c.Lines, func(l plumbing.Line) bool { return l.ID == line })
	if i < 0 {
		return "", fault("", "there is no line %q any more", line)
	}
	tee := plumbing.Part{ID: PartID(c, name), Kind: plumbing.Tee, Name: name}
	tee.Place = between(c, &c.Lines[i], share)
	tee.Option, tee.Without = c.Lines[i].Option, c.Lines[i].Without
	c.Parts = append(c.Parts, tee)
	cut(c, i, share, tee.ID+".a", tee.ID+".b")
	return tee.ID + ".c", nil
}

// InsertInto puts a part with two ports into a line.
func InsertInto(m *plumbing.Model, line string, p plumbing.Part, in, out string) (*Done, error) {
	c := clone(m)
	i := slices.IndexFunc(c.Lines, func(l plumbing.Line) bool { return l.ID == line })
	if i < 0 {
		return nil, fault("", "there is no line %q any more", line)
	}
	if p.ID == "" {
		p.ID = PartID(c, p.Name)
	}
	p.Place = between(c, &c.Lines[i], 0.5)
	c.Parts = append(c.Parts, p)
	cut(c, i, 0.5, p.ID+"."+in, p.ID+"."+out)
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.inserted", p.Name, line)}, nil
}

// cut makes two lines of one: from its start to a port, and from another port
// to its end. Its length is shared out; its high and low spots stay where they
// were.
func cut(c *plumbing.Model, i int, share float64, a, b string) {
	first := c.Lines[i]
	second := first
	first.To, second.From = a, b
	second.ID = LineID(c, b, second.To)
	sys := c.System()
	if whole := first.Length.Value(); whole > 0 {
		at := whole * quantity.Millimetre(share)
		first.Length, second.Length = quantity.Of(at, sys), quantity.Of(whole-at, sys)
		first.Spots, second.Spots = nil, nil
		for _, s := range c.Lines[i].Spots {
			if s.At.Value() <= at {
				first.Spots = append(first.Spots, s)
			} else {
				s.At = quantity.Of(s.At.Value()-at, sys)
				second.Spots = append(second.Spots, s)
			}
		}
	}
	c.Lines[i] = first
	c.Lines = slices.Insert(c.Lines, i+1, second)
}

// between is a place on the way of a line, where both its ends have one.
func between(c *plumbing.Model, l *plumbing.Line, share float64) plumbing.Place {
	a, b := partAt(c, l.From), partAt(c, l.To)
	if a.Place.Height.IsZero() || b.Place.Height.IsZero() {
		return plumbing.Place{}
	}
	mid := func(x, y quantity.Given[quantity.Metre]) quantity.Given[quantity.Metre] {
		return quantity.Of(x.Value()+(y.Value()-x.Value())*quantity.Metre(share), c.System())
	}
	return plumbing.Place{Front: mid(a.Place.Front, b.Place.Front), Left: mid(a.Place.Left, b.Place.Left),
		Height: mid(a.Place.Height, b.Place.Height)}
}

func partAt(c *plumbing.Model, ref string) *plumbing.Part {
	id, _ := plumbing.PartOf(ref)
	return c.Part(id)
}

// SideOf guesses what a line between two ports carries, from the ports' names
// and the lines beside them.
func SideOf(m *plumbing.Model, refs ...string) plumbing.Side {
	for _, ref := range refs {
		p, port := partAt(m, ref), ""
		_, port = plumbing.PartOf(ref)
		switch {
		case p == nil:
		case p.Role() == plumbing.RoleVent, port == "vent", port == "overflow":
			return plumbing.Air
		case p.Lets(), p.Role() == plumbing.RoleRinse:
			return plumbing.Drain
		case port == "hot":
			return plumbing.Hot
		case port == "supply", port == "fill", port == "return", p.Role() == plumbing.RolePickUp,
			p.Role() == plumbing.RoleFill, p.Role() == plumbing.RolePump && port == "in":
			return plumbing.Supply
		}
	}
	for _, ref := range refs {
		p := partAt(m, ref)
		for i := range m.Lines {
			if l := &m.Lines[i]; p != nil && (partAt(m, l.From) == p || partAt(m, l.To) == p) &&
				l.Side != plumbing.Drain {
				return l.Side
			}
		}
	}
	return plumbing.Cold
}

// OpenPorts lists the ports of a model that no line ends at.
func OpenPorts(m *plumbing.Model) []string {
	used := map[string]bool{}
	for i := range m.Lines {
		used[m.Lines[i].From], used[m.Lines[i].To] = true, true
	}
	var list []string
	for i := range m.Parts {
		used[m.Parts[i].On] = true
		for _, port := range m.Parts[i].Ports() {
			if ref := m.Parts[i].ID + "." + port.Name; !used[ref] && !port.Seat() && m.Parts[i].On == "" {
				list = append(list, ref)
			}
		}
	}
	return list
}

// Nudge moves a part's symbol in the schematic by some steps of its grid from
// where it was put by itself.
func Nudge(m *plumbing.Model, id string, dx, dy int) (*Done, error) {
	p := m.Part(id)
	if p == nil {
		return nil, fault("", "there is no part %q any more", id)
	}
	c := clone(m)
	if c.Drawing == nil {
		c.Drawing = map[string]plumbing.Nudge{}
	}
	n := c.Drawing[id]
	n.X, n.Y = n.X+dx, n.Y+dy
	if n == (plumbing.Nudge{}) {
		delete(c.Drawing, id)
	} else {
		c.Drawing[id] = n
	}
	if len(c.Drawing) == 0 {
		c.Drawing = nil
	}
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.moved", p.Name)}, nil
}

// Renumber gives the places their numbers anew, from the front to the back.
func Renumber(m *plumbing.Model) (*Done, error) {
	after := m.Renumbered()
	for id, number := range after.Numbers() {
		if m.Part(id).Number != number {
			return &Done{after, fact.Of("edit.renumbered")}, nil
		}
	}
	return &Done{Model: m}, nil
}
