package chapter

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/figure"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
)

// Stands is what a block stands on, figures followed to what they were computed from, in order. It takes in what
// words are made of too: how parts are called, what a hand wrote, the program; and what was read besides to put it in
// words. Looks must be there.
func (in *Inputs) Stands(b *Block, read ...record.Input) []record.Input {
	from := with(b.From, read)
	add := func(list ...record.Input) { from = with(from, list) }
	switch b.Body.(type) {
	case Have, Places, Album, Stuff:
	case Task:
		add(allData(in.Net)...) // a run moves all of it
	default: // ways of use are looked at as a whole
		for i := range in.Plan {
			add(record.Input{Kind: record.Setting, Of: in.Plan[i].Mode.ID})
		}
		add(allData(in.Net)...) // what acts and effects are told with
	}
	for _, l := range in.Looks {
		if usesTask(b.Body, l.ID) {
			add(l.From...)
		}
	}
	if _, writes := b.Body.(Written); writes && in.Report != nil {
		for i := range in.Report.Figures { // what it names may be any
			add(in.Report.Figures[i].Inputs...)
		}
	}
	switch b.Body.(type) {
	case Album, Written:
		add(record.Input{Kind: record.Photo})
	}
	switch b.Body.(type) {
	case Stuff, Calendar:
		for i := range in.Net.Model.Consumables {
			c := &in.Net.Model.Consumables[i]
			for _, field := range []string{"name", "order", "life_months"} {
				add(record.Input{Kind: record.Field, Of: c.ID, Field: field})
			}
		}
	}
	add(record.Input{Kind: record.Plumbing}, record.Input{Kind: record.Hand}, record.Input{Kind: record.Program})
	var base []record.Input
	var figures []string
	for _, x := range from {
		if x.Kind == record.Figure {
			figures = append(figures, x.Of)
		} else {
			base = append(base, x)
		}
	}
	if figures != nil && in.Report != nil {
		base = with(base, figure.Reads(in.Report.Figures, figures...))
	}
	slices.SortFunc(base, record.Compare)
	return base
}

// allData are the figures of all parts and lines, those of a part together.
func allData(n *plumbing.Network) (list []record.Input) {
	for i := range n.Model.Parts {
		list = append(list, record.Input{Kind: record.Field, Of: n.Model.Parts[i].ID, Field: "data"})
	}
	for i := range n.Model.Lines {
		for _, field := range []string{"length", "inside", "size"} {
			list = append(list, record.Input{Kind: record.Field, Of: n.Model.Lines[i].ID, Field: field})
		}
	}
	return list
}

// usesTask reports whether a block tells something of a procedure that is not its own.
func usesTask(b Body, id string) bool {
	switch b.(type) {
	case Calendar, Times:
		return true
	case Lines, FigureTable, Sheets, Written: // that it can be had, and its refills
		return id == "sanitize"
	}
	return false
}

// Is what inputs are now, each as a text that is the same as long as it is. Program tells this program from others.
type Is struct {
	in      *Inputs
	program string
	things  map[string]map[string]any // fields of parts, lines and consumables; "" for the model
	joined  string
}

// NewIs looks at what the inputs of a chapter are.
func NewIs(in *Inputs, program string) (*Is, error) {
	s := &Is{in: in, program: program, things: map[string]map[string]any{}}
	m := *in.Net.Model
	keep := func(id string, v any) error {
		raw, err := json.Marshal(v)
		if err != nil {
			return fmt.Errorf("fields of %q: %w", id, err)
		}
		fields := map[string]any{}
		s.things[id] = fields
		return json.Unmarshal(raw, &fields)
	}
	for i := range m.Parts {
		if err := keep(m.Parts[i].ID, &m.Parts[i]); err != nil {
			return nil, err
		}
	}
	for i := range m.Lines {
		if err := keep(m.Lines[i].ID, &m.Lines[i]); err != nil {
			return nil, err
		}
	}
	for i := range m.Consumables {
		if err := keep(m.Consumables[i].ID, &m.Consumables[i]); err != nil {
			return nil, err
		}
	}
	m.ID, m.Chapter, m.Accepted, m.Reported, m.Drawing, m.Notes, m.Retired = "", nil, nil, nil, nil, "", nil
	m.Parts, m.Lines, m.Consumables = slices.Clone(m.Parts), slices.Clone(m.Lines), slices.Clone(m.Consumables)
	bare := m
	bare.Parts, bare.Lines, bare.Consumables = nil, nil, nil
	if err := keep("", &bare); err != nil {
		return nil, err
	}
	// Amounts are inputs of their own: what is left is which parts there are, how they are joined, called, reached.
	m.Carrying = plumbing.Model{}.Carrying
	for i := range m.Parts {
		m.Parts[i].Data, m.Parts[i].Assumed = plumbing.Part{}.Data, nil
	}
	for i := range m.Lines {
		l := &m.Lines[i]
		l.Length, l.Inside, l.Size, l.Assumed = plumbing.Line{}.Length, plumbing.Line{}.Inside, "", nil
	}
	for i := range m.Consumables {
		m.Consumables[i] = plumbing.Consumable{ID: m.Consumables[i].ID}
	}
	raw, err := json.Marshal(&m)
	s.joined = sum(raw)
	return s, err
}

func sum(raw []byte) string {
	h := sha256.Sum256(raw)
	return hex.EncodeToString(h[:12])
}

// Of is what an input is.
func (s *Is) Of(x record.Input) (string, error) {
	switch x.Kind {
	case record.Field:
		return s.field(x)
	case record.Plumbing:
		return s.joined, nil
	case record.Rule:
		return s.in.House.Text(x.Of, s.in.Net.Model.System()), nil
	case record.Setting:
		return s.setting(x.Of), nil
	case record.Photo:
		var b strings.Builder
		for _, p := range s.in.Photos {
			fmt.Fprintf(&b, "%s %q %d×%d", p.ID, p.Caption, p.Width, p.Height)
			for _, m := range p.Marks {
				fmt.Fprintf(&b, " %s %.4f %.4f", m.Part.ID, m.X, m.Y)
			}
			b.WriteByte('\n')
		}
		return sum([]byte(b.String())), nil
	case record.Hand:
		raw, err := json.Marshal(s.in.By)
		return sum(raw), err
	case record.Constant, record.Program:
		return s.program, nil
	}
	return "", fmt.Errorf("nothing says what %s is", x)
}

func (s *Is) field(x record.Input) (string, error) {
	var v any = s.things[x.Of]
	for _, name := range strings.Split(x.Field, ".") {
		fields, ok := v.(map[string]any)
		if !ok {
			return "", nil
		}
		v = fields[name]
	}
	return Text(v), nil
}

// Text is a value of a document as a text; of what is not a text, its JSON.
func Text(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	}
	raw, err := json.Marshal(v)
	if err != nil { // it was read from JSON
		return fmt.Sprint(v)
	}
	return string(raw)
}

// setting is a way of use as it stands: handles and switches, and what comes of them.
func (s *Is) setting(id string) string {
	a := setting.ForMode(s.in.Plan, id)
	if a == nil {
		return ""
	}
	var b strings.Builder
	fmt.Fprint(&b, a.OK, a.SameAs, " ", a.Why.Key())
	quiet := s.in.Net.Recorded(nil)
	for _, st := range a.States() {
		for i, h := range quiet.AllHandles() {
			if int(i) < len(st.Handles) { // none where there is no setting
				fmt.Fprintf(&b, "; %s %d", h.Part.ID, st.Handles[i])
			}
		}
		fmt.Fprint(&b, " pumps ", st.Pumps)
	}
	for _, k := range a.Keeps {
		fmt.Fprintf(&b, "; %s keeps %.4f", k.Part.ID, float64(k.Stays))
	}
	for _, act := range a.Mode.Acts {
		fmt.Fprintf(&b, "; %s %s", act.Verb, act.To)
		if act.Part != nil {
			b.WriteString(" " + act.Part.ID)
		}
	}
	return b.String()
}
