// Package card makes what is printed at true size: the valve card inside an
// access panel, the quick card, tags to hang up.
package card

import (
	"bytes"
	"cmp"
	_ "embed"
	"fmt"
	"html/template"
	"strings"

	"rsc.io/qr"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/guide/html"
)

// Kind is a kind of card.
type Kind string

// The kinds.
const (
	Valve Kind = "card"
	Quick Kind = "quick"
	Tags  Kind = "tags"
)

// Kinds lists the kinds.
func Kinds() []Kind { return []Kind{Valve, Quick, Tags} }

//go:embed card.html
var text string

//go:embed card.css
var css string

// CSS is the style sheet of cards, for screen and print.
func CSS() string { return css }

var templates = template.Must(template.New("card").Funcs(template.FuncMap{
	"svg": func(s string) template.HTML { return template.HTML(s) }, // drawn by us, texts escaped
}).Parse(text))

// Card writes a card as an article, for a page around it. Address is where its code leads; "" for no code.
func Card(k Kind, in chapter.Inputs, address string) ([]byte, error) {
	m := in.Net.Model
	w := writer{words.English(m.System()), &in, m.Numbers()}
	code, err := codeOf(address)
	if err != nil {
		return nil, err
	}
	view := map[string]any{"Title": m.Title(), "Maker": cmp.Or(house.MakerName.Of(in.House), m.Maker), "Code": code, "Address": address}
	switch k {
	case Valve:
		view["Card"] = w.valve()
	case Quick:
		view["Front"], view["Back"] = w.front(), w.back()
	case Tags:
		view["Tags"] = w.tags()
	default:
		return nil, fmt.Errorf("there is no card %q", k)
	}
	var b bytes.Buffer
	err = templates.ExecuteTemplate(&b, string(k), view)
	return b.Bytes(), err
}

// Page writes a card as a page that stands alone.
func Page(k Kind, in chapter.Inputs, address string) ([]byte, error) {
	article, err := Card(k, in, address)
	if err != nil {
		return nil, err
	}
	faces, err := html.Faces()
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = templates.ExecuteTemplate(&b, "page", map[string]any{"Title": in.Net.Model.Title(), "Kind": k,
		"CSS": template.CSS(faces + drawing.CSS() + css), "Article": template.HTML(article)}) // written by a template of ours
	return b.Bytes(), err
}

// codeOf draws a QR code (ISO/IEC 18004) of an address.
func codeOf(address string) (string, error) {
	if address == "" {
		return "", nil
	}
	c, err := qr.Encode(address, qr.M)
	if err != nil {
		return "", fmt.Errorf("code of %q: %w", address, err)
	}
	const quiet = 4 // modules around it, by the standard
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="code" viewBox="0 0 %d %[1]d" role="img" aria-label="Code that leads to %s">`, c.Size+2*quiet,
		template.HTMLEscapeString(address))
	b.WriteString(`<path d="`)
	for y := range c.Size {
		for x := range c.Size {
			if c.Black(x, y) {
				fmt.Fprintf(&b, "M%d %dh1v1h-1z", x+quiet, y+quiet)
			}
		}
	}
	b.WriteString(`"/></svg>`)
	return b.String(), nil
}

type writer struct {
	*words.Printer
	in      *chapter.Inputs
	numbers map[string]int
}

func (w *writer) say(id string, about ...any) string { return w.Tell(fact.Of(id, about...)) }

// part is a part as a card names it.
type part struct {
	Number      int // in the plan, 0 for none
	Name, Label string
}

func (w *writer) part(p *plumbing.Part) part { return part{w.numbers[p.ID], p.Name, p.Label} }

// valveCard is a valve card.
type valveCard struct {
	Title, Mode, Beside string
	Handles             []part
	Settings            []settingRow
	Notes               []string
	Rule                string
}

// settingRow is a setting with the modes that share it.
type settingRow struct {
	Cells []handle
	Modes []mode
}

// handle is a handle as it stands.
type handle struct {
	SVG, Says string
	Differs   bool
}

type mode struct {
	Name   string
	Beside []string
}

func (w *writer) valve() valveCard {
	c := chapter.CardOf(w.in.Inputs)
	v := valveCard{Title: w.say("card.title"), Mode: w.say("head.way"), Beside: w.say("head.beside"), Rule: w.say("card.rule")}
	for _, p := range c.Handles {
		v.Handles = append(v.Handles, w.part(p))
	}
	for i, s := range c.Settings {
		var row settingRow
		for k, x := range c.Cells[i] {
			row.Cells = append(row.Cells, handle{drawing.Handle(c.Handles[k], x.Position), w.Position(c.Handles[k], x.Position),
				x.Differs})
		}
		for _, x := range append([]chapter.Column{s}, s.Also...) {
			row.Modes = append(row.Modes, mode{w.Tell(x.Name), w.beside(x.Acts)})
		}
		v.Settings = append(v.Settings, row)
	}
	v.Notes = w.TellAll(c.Notes)
	return v
}

func (w *writer) beside(acts []state.Act) (list []string) {
	for _, b := range w.Together(acts) {
		list = append(list, b.Names()+": "+b.What+".")
	}
	return list
}

// column is a procedure in short.
type column struct {
	Title string
	Why   string   // why it can't be had
	Lacks string   // over Wrong
	Wrong []string // what it does not reach
	Needs []string
	Steps []short
}

// short is a step in short.
type short struct {
	From, To int
	Cautions []caution
	Do       string
	Outlets  string
	Rest     []string
	Turns    []turned
	After    []string // when the handles are turned
}

type caution struct{ Level, Head, Words string }

// turned is a handle that a step turns.
type turned struct {
	part
	SVG, Says string
}

// side is a side of the quick card.
type side struct {
	Columns []column
	Size    string // class of the type size by which it fits on its page
}

// front is winter and spring, back sanitizing.
func (w *writer) front() (s side) {
	for _, p := range []chapter.Part{chapter.Winter, chapter.Spring} {
		for _, t := range w.in.Tasks {
			if t.Part == p && t.ID != "winterize-again" && t.ID != "storage" {
				s.Columns = append(s.Columns, w.column(t))
			}
		}
	}
	s.Size = sizeOf(s)
	return s
}

func (w *writer) back() (s side) {
	for _, t := range w.in.Tasks {
		if t.ID == "sanitize" {
			s.Columns = append(s.Columns, w.column(t))
		}
	}
	s.Size = sizeOf(s)
	return s
}

func (w *writer) column(t chapter.Task) column {
	c := column{Title: w.say("procedure." + t.ID), Why: w.Tell(t.Why)}
	if t.Read == nil {
		return c
	}
	c.Needs = w.TellAll(t.Read.Takes)
	c.Lacks, c.Wrong = w.say("guide.wrong"), w.TellAll(t.Wrong)
	for _, s := range chapter.Shorts(t.Read) {
		c.Steps = append(c.Steps, w.short(&s))
	}
	return c
}

// cautionLevels are the ids of severities in the catalogue and the style sheet; notes are left to the guide.
var cautionLevels = map[proof.Severity]string{proof.Danger: "danger", proof.Wrong: "warning"}

func (w *writer) short(s *chapter.Short) short {
	one := *s.Step
	one.Acts = nil
	x := short{From: s.First, To: s.Last}
	var after []state.Act
	for _, a := range s.Step.Acts {
		switch {
		case a.Verb == state.Turn:
			x.Turns = append(x.Turns, turned{w.part(a.Part), drawing.Handle(a.Part, a.To), w.Position(a.Part, a.To)})
		case x.Turns != nil:
			after = append(after, a)
		default:
			one.Acts = append(one.Acts, a)
		}
	}
	told := w.Step(&one)
	x.Do = told.Head + "."
	if s.Outlets != nil {
		x.Do, x.Outlets = w.say("short.outlets"), w.say("short.list", s.Outlets)
	}
	for _, c := range s.Step.Cautions {
		if level, told := cautionLevels[c.Level]; told {
			x.Cautions = append(x.Cautions, caution{level, w.say("level." + level), w.Tell(c.Said)})
		}
	}
	for _, d := range told.Does {
		x.Rest = append(x.Rest, d.Names()+": "+d.What)
	}
	rest := &x.Rest
	if x.Turns != nil { // in the order of hands
		rest = &x.After
	}
	for _, d := range w.Together(after) {
		*rest = append(*rest, d.Names()+": "+d.What)
	}
	*rest = append(*rest, told.Pour...)
	if told.Until != "" {
		*rest = append(*rest, w.say("guide.until", told.Until))
	}
	for _, d := range told.Then {
		*rest = append(*rest, strings.TrimPrefix(d.Names()+": ", ": ")+d.What)
	}
	return x
}

// tag is a tag to be hung up.
type tag struct{ Words, From string }

func (w *writer) tags() (list []tag) {
	for _, t := range chapter.TagsOf(w.in.Tasks) {
		list = append(list, tag{w.Tell(t.Said), w.say("procedure." + t.Task)})
	}
	return list
}
