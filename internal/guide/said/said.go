// Package said lists what a guide says, line by line and in both orders of
// units, with what each block of it stands on, and tells what differs between
// two states of it.
package said

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"slices"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/record"
	"coldtap/internal/guide/doc"
)

// Guide is what a guide says and what it stands on.
type Guide struct {
	Inputs  []Input  `json:"inputs"`
	Blocks  []Block  `json:"blocks"`
	Looks   []Look   `json:"looks"` // at procedures, told or not
	Figures []Number `json:"figures"`
}

// Input is something that a guide stands on, as it was when the guide was made.
type Input struct {
	Kind  record.Kind `json:"kind"`
	Of    string      `json:"of,omitempty"`
	Field string      `json:"field,omitempty"`
	Is    string      `json:"is"`
}

// Record is what was read.
func (x Input) Record() record.Input { return record.Input{Kind: x.Kind, Of: x.Of, Field: x.Field} }

// Number is a figure in its own unit, from and to.
type Number struct {
	ID   string  `json:"id"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Block is a block of a guide.
type Block struct {
	ID    string    `json:"id"`
	Title [2]string `json:"title"` // by unit order: US, SI
	From  []int     `json:"from"`  // numbers of inputs
	Lines []Line    `json:"lines"`
}

// Look is what was seen of a procedure, and the numbers of the inputs it stands on.
type Look struct {
	chapter.Look
	On []int `json:"on"`
}

// Kind is what a line is to a reader.
type Kind string

// The kinds of line, in the order in which what differs is told.
const (
	Caution  Kind = "caution"
	Position Kind = "position"
	Figure   Kind = "figure"
	Step     Kind = "step"
	Picture  Kind = "picture"
	Words    Kind = "words"
)

// Line is a sentence, a cell, a handle as it stands, a picture.
type Line struct {
	Kind  Kind      `json:"kind"`
	Key   string    `json:"key,omitempty"`   // by which it is known whatever the amounts
	Level string    `json:"level,omitempty"` // of a caution
	Ref   string    `json:"ref,omitempty"`   // of a figure, its id
	Of    string    `json:"of,omitempty"`    // what it is said of: the head of its row, the step that it is in
	Text  [2]string `json:"text"`            // by unit order: US, SI
	Drawn string    `json:"drawn,omitempty"` // sum of the picture beside it
}

// same reports whether two lines say the same.
func (l *Line) same(other *Line) bool {
	return l.Kind == other.Kind && l.Text == other.Text && l.Drawn == other.Drawn
}

// Head is the id of what stands around the blocks of a guide: title, maker, what holds for all of it.
const Head = "guide"

// ErrApart says that the two orders of units do not say the same.
var ErrApart = errors.New("a guide has other lines in the other order of units")

// Of lists what a guide says in its two orders of units. What each block stands on it takes from the first.
func Of(us, si *doc.Document, is func(record.Input) (string, error), looks []chapter.Look) (*Guide, error) {
	if len(us.Sections) != len(si.Sections) {
		return nil, ErrApart
	}
	g := new(Guide)
	numbers := map[record.Input]int{}
	number := func(list []record.Input) (all []int, err error) {
		for _, x := range list {
			n, ok := numbers[x]
			if !ok {
				now, err := is(x)
				if err != nil {
					return nil, err
				}
				n = len(g.Inputs)
				numbers[x] = n
				g.Inputs = append(g.Inputs, Input{x.Kind, x.Of, x.Field, now})
			}
			all = append(all, n)
		}
		return all, nil
	}
	head := func(d *doc.Document) []Line {
		c := collector{}
		for _, text := range []string{d.Title, d.Sub, d.Maker, d.Mark} {
			c.line(Words, "", doc.Of(text))
		}
		c.line(Caution, "", doc.Of(d.Caution))
		c.lines(Words, "", d.Foot)
		return c.list
	}
	add := func(id string, title [2]string, from []record.Input, a, b []Line) error {
		lines, err := both(a, b)
		if err != nil {
			return err
		}
		on, err := number(from)
		g.Blocks = append(g.Blocks, Block{id, title, on, lines})
		return err
	}
	if err := add(Head, [2]string{us.Title, si.Title}, headFrom(), head(us), head(si)); err != nil {
		return nil, err
	}
	for i := range us.Sections {
		s, other := &us.Sections[i], &si.Sections[i]
		if err := add(s.ID, [2]string{s.Title, other.Title}, s.From, linesOf(s), linesOf(other)); err != nil {
			return nil, err
		}
	}
	for _, l := range looks {
		on, err := number(l.From)
		if err != nil {
			return nil, err
		}
		g.Looks = append(g.Looks, Look{l, on})
	}
	return g, nil
}

// headFrom is what the head of a guide stands on.
func headFrom() []record.Input {
	list := []record.Input{{Kind: record.Plumbing}, {Kind: record.Program}}
	for _, id := range []string{"maker-name", "maker-mark", "fixed-caution"} {
		list = append(list, record.Input{Kind: record.Rule, Of: id})
	}
	return list
}

// both brings the lines of two orders of units together.
func both(a, b []Line) ([]Line, error) {
	if len(a) != len(b) {
		return nil, ErrApart
	}
	for i := range a {
		a[i].Text[1] = b[i].Text[0]
	}
	return a, nil
}

// Known are the looks of a guide by procedure, for those of which nothing changed.
func (g *Guide) Known(changed []bool) map[string]chapter.Look {
	known := map[string]chapter.Look{}
	for _, l := range g.Looks {
		if !l.stands(changed) {
			continue
		}
		look := l.Look
		for _, n := range l.On {
			look.From = append(look.From, g.Inputs[n].Record())
		}
		known[l.ID] = look
	}
	return known
}

func (l *Look) stands(changed []bool) bool {
	return !slices.ContainsFunc(l.On, func(n int) bool { return changed[n] })
}

// Changed tells of each input whether it is another now.
func (g *Guide) Changed(is func(record.Input) (string, error)) (changed []bool, now []string, err error) {
	changed, now = make([]bool, len(g.Inputs)), make([]string, len(g.Inputs))
	for i, x := range g.Inputs {
		if now[i], err = is(x.Record()); err != nil {
			return nil, nil, err
		}
		changed[i] = now[i] != x.Is
	}
	return changed, now, nil
}

// Touched reports whether a block stands on something that changed.
func (b *Block) Touched(changed []bool) bool {
	return slices.ContainsFunc(b.From, func(n int) bool { return changed[n] })
}

// Block finds a block; nil where there is none.
func (g *Guide) Block(id string) *Block {
	for i := range g.Blocks {
		if g.Blocks[i].ID == id {
			return &g.Blocks[i]
		}
	}
	return nil
}

func sumOf(text string) string {
	h := sha256.Sum256([]byte(text))
	return hex.EncodeToString(h[:8])
}

// linesOf are the lines of a section in their order.
func linesOf(s *doc.Section) []Line {
	c := collector{}
	c.line(Words, "", doc.Of(s.Title))
	if s.Only != "" {
		c.line(Words, "", doc.Of(s.Only))
	}
	for _, n := range s.Nodes {
		c.node(n)
	}
	return c.list
}

// collector collects lines.
type collector struct{ list []Line }

func (c *collector) line(k Kind, of string, l doc.Line) {
	if text := l.Text(); text != "" {
		one := Line{Kind: k, Key: l.Key, Of: of, Text: [2]string{text}}
		for _, s := range l.Spans {
			if s.Style == doc.Live && one.Ref == "" {
				one.Ref = s.Ref
			}
		}
		c.list = append(c.list, one)
	}
}

func (c *collector) lines(k Kind, of string, list []doc.Line) {
	for _, l := range list {
		c.line(k, of, l)
	}
}

func (c *collector) picture(p *doc.Picture, of string) {
	l := Line{Kind: Picture, Of: of, Text: [2]string{p.Alt}, Drawn: sumOf(p.SVG)}
	if p.Photo != nil {
		l.Key, l.Drawn = p.Photo.Name, sumOf(p.Photo.Name+p.SVG)
	}
	c.list = append(c.list, l)
}

func (c *collector) node(n doc.Node) {
	switch n := n.(type) {
	case doc.Para:
		c.line(Words, "", n.Line)
	case doc.Heading:
		c.line(Words, "", doc.Of(n.Text))
	case doc.List:
		c.lines(Words, "", n.Items)
	case doc.Caution:
		c.caution(n, "")
	case doc.Needs:
		for _, x := range n.Lists {
			c.lines(Words, x.Title, x.Items)
		}
	case doc.Figure:
		c.picture(&n.Picture, "")
		c.lines(Words, "", n.Below)
	case doc.Prose:
		c.line(Words, "", doc.Of(n.HTML))
	case doc.Table:
		c.table(&n)
	case doc.Steps:
		for i := range n.List {
			c.step(&n.List[i])
		}
	}
}

func (c *collector) caution(n doc.Caution, of string) {
	l := n.Line
	if n.Head != "" && !l.Empty() {
		l = doc.Line{Spans: append([]doc.Span{{Text: n.Head + " "}}, l.Spans...), Key: l.Key}
	}
	before := len(c.list)
	c.line(Caution, of, l)
	c.lines(Caution, of, n.Items)
	for i := before; i < len(c.list); i++ {
		c.list[i].Level = n.Level
	}
}

func (c *collector) table(t *doc.Table) {
	kind := Words
	switch t.Class {
	case "valves", "bypass":
		kind = Position
	case "figures", "sheet-lines":
		kind = Figure
	}
	for _, r := range slices.Concat(t.Rows, t.Foot) {
		head := ""
		for i, cell := range r.Cells {
			of := head
			if i > 0 && i < len(t.Head) {
				of += " · " + t.Head[i]
			}
			k := kind
			if i == 0 {
				k = Words
			}
			c.cell(k, of, &cell)
			if i == 0 && len(cell.Lines) > 0 {
				head = cell.Lines[0].Text()
			}
		}
	}
}

func (c *collector) cell(k Kind, of string, cell *doc.Cell) {
	for i, l := range cell.Lines {
		c.line(k, of, l)
		if i == 0 && cell.Picture != nil && len(c.list) > 0 {
			c.list[len(c.list)-1].Drawn = sumOf(cell.Picture.SVG)
		}
	}
	c.lines(k, of, cell.Items)
}

func (c *collector) step(s *doc.Step) {
	of := s.Do.Text()
	for _, x := range s.Cautions {
		c.caution(x, of)
	}
	c.line(Step, of, s.Do)
	c.line(Step, of, s.Until)
	c.lines(Step, of, s.Does)
	for _, t := range s.Turns {
		name := ""
		if len(t.Lines) > 0 {
			name = t.Lines[0].Text()
		}
		for i, l := range t.Lines {
			k := Position
			if i != 1 { // its name, and how it is reached
				k = Words
			}
			before := len(c.list)
			c.line(k, cmp.Or(name, of), l)
			if i == 1 && len(c.list) > before {
				c.list[before].Drawn = sumOf(t.Picture.SVG)
			}
		}
	}
	c.lines(Step, of, s.After)
	for _, l := range []doc.Line{s.Then, s.Notes, s.Who, s.Tools} {
		c.line(Step, of, l)
	}
}
