// Package guide makes the documents that readers get from a model's settings,
// amounts and procedures.
package guide

import (
	"context"
	_ "embed"
	"fmt"
	"html/template"
	"io"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
)

// Owner is the owner's chapter of one model.
type Owner struct {
	Model      *plumbing.Model
	Sys        quantity.System
	Modes      []ModeColumn
	Handles    []HandleRow
	Figures    []Figure
	Procedures []Chapter
	Plan       template.HTML
	Places     []drawing.Place
	Slot       template.HTML // stands in the place of procedures that come later
	Blocks     Blocks
	List       []Item // blocks in their order
}

// Number is a part's number in the plan, 0 for none.
func (o *Owner) Number(p *plumbing.Part) int {
	for _, x := range o.Places {
		if x.Part == p {
			return x.Number
		}
	}
	return 0
}

// ModeColumn is a way of using the system on the valve card.
type ModeColumn struct {
	Name   string
	Also   []ModeColumn // modes with the same positions, each with what stands beside them in it
	Attach []string
	Why    string // why it can't be done
}

// HandleRow is a handle with its position in every mode.
type HandleRow struct {
	Part  *plumbing.Part
	Cells []HandleCell
}

// HandleCell is a handle as it stands in a mode.
type HandleCell struct {
	Part     *plumbing.Part
	Position string
	Mode     string
	Differs  bool // from everyday
}

// Figure is an amount an owner needs.
type Figure struct{ Name, Value, Note string }

// New puts an edition of the chapter together; the error is the context's.
func New(ctx context.Context, in draft.Inputs, edition chapter.Edition) (*Owner, error) {
	o, err := NewFront(ctx, in, edition, false)
	if err != nil {
		return nil, err
	}
	o.chapters(ctx, in, edition)
	return o, ctx.Err()
}

// NewProcedures are the procedures of an edition alone.
func NewProcedures(ctx context.Context, in draft.Inputs, edition chapter.Edition) (*Owner, error) {
	o := &Owner{Model: in.Net.Model, Sys: in.Net.Model.System()}
	o.Places = drawing.NewLayout(in.Net.Model).Places()
	o.chapters(ctx, in, edition)
	return o, ctx.Err()
}

// WriteProcedures writes them as sections.
func (o *Owner) WriteProcedures(w io.Writer) error {
	return ownerTemplate.ExecuteTemplate(w, "procedures", o)
}

// NewFront is an edition of the chapter without its procedures, which take longer; for who writes it with what a hand
// left out. The error is the context's.
func NewFront(ctx context.Context, in draft.Inputs, edition chapter.Edition, writing bool) (*Owner, error) {
	n := in.Net
	o := &Owner{Model: n.Model, Sys: n.Model.System()}
	answers := o.columns(in.Plan)
	for i, h := range n.AllHandles() {
		if h.Part.Role() == plumbing.RoleDrain {
			continue // drains are named in the steps that open them
		}
		row := HandleRow{Part: h.Part}
		for _, a := range answers {
			cell := HandleCell{Part: h.Part, Position: h.Positions[a.State.Position(i)], Mode: o.tell(a.Mode.Name)}
			cell.Differs = len(row.Cells) > 0 && cell.Position != row.Cells[0].Position
			row.Cells = append(row.Cells, cell)
		}
		o.Handles = append(o.Handles, row)
	}
	o.figures(in)
	layout := drawing.NewLayout(n.Model)
	o.Plan, o.Places = template.HTML(layout.Plan("")), layout.Places()
	return o, o.blocks(ctx, in, edition, writing)
}

// Title is the title of a block, by its id.
func (o *Owner) Title(id string) string { return o.tell(fact.Of("block." + id)) }

func (o *Owner) tell(f fact.Fact) string { return words.English(o.Sys).Tell(f) }

// columns gathers the modes that can be used; modes with the same positions
// share a column.
func (o *Owner) columns(plan []setting.Answer) []setting.Answer {
	var answers []setting.Answer
	at := map[string]int{}
	for _, a := range setting.Unroll(plan) {
		if a.Mode.Measure || !a.OK && a.Kept == nil {
			continue
		}
		c := ModeColumn{Name: o.tell(a.Mode.Name)}
		if a.Kept != nil {
			c.Attach = append(c.Attach, o.tell(fact.Of("setting.by-hand", a.Kept.By, a.Kept.Reason)))
		}
		for _, h := range a.Mode.Acts {
			c.Attach = append(c.Attach, h.Part.Name+": "+words.English(o.Sys).Act(h))
		}
		if i, ok := at[a.SameAs]; ok && a.SameAs != "" {
			o.Modes[i].Also = append(o.Modes[i].Also, c)
			continue
		}
		at[a.Mode.ID] = len(o.Modes)
		o.Modes = append(o.Modes, c)
		answers = append(answers, a)
	}
	return answers
}

func (o *Owner) figures(in draft.Inputs) {
	add := func(name string, v quantity.Litre, note string) {
		o.Figures = append(o.Figures, Figure{name, quantity.Both(v, o.Sys), note})
	}
	for _, k := range []plumbing.Role{plumbing.RoleTank, plumbing.RoleHeater, plumbing.RoleWaste} {
		for _, p := range in.Net.PartsOf(k) {
			add(p.Name, p.Data.Capacity.Value(), "")
		}
	}
	add("Water in the lines", amount.Contents(in.Net, o.Sys).Total, "")
	if a := setting.ForMode(in.Plan, setting.Antifreeze); a.Has() {
		s := amount.Antifreeze(in.Net, a, amount.Drained, in.House)
		add("Antifreeze, heater bypassed", s.Total, jugWords(s, o.Sys))
	}
	if a := setting.ForMode(in.Plan, setting.ThroughHeater); a.Has() {
		s := amount.Antifreeze(in.Net, a, amount.Drained, in.House)
		if !s.Bypassed {
			add("The same with the heater left in", s.Total, jugWords(s, o.Sys))
		}
	}
	if a := setting.ForMode(in.Plan, setting.Sanitize); a.Has() {
		for _, d := range amount.PlanDoses(in.Net, a, in.House) {
			for _, t := range d.Tanks {
				o.Figures = append(o.Figures, Figure{
					"Bleach of " + quantity.Show(d.Product, o.Sys) + ", " + t.Tank.Name, t.Measured.String(),
					fmt.Sprintf("leaves %s after topping up; %s asked for", quantity.Show(d.Final, o.Sys),
						quantity.Show(d.Target, o.Sys))})
			}
		}
	}
}

func jugWords(s amount.AntifreezeSheet, sys quantity.System) string {
	text := ""
	for i, j := range s.Jugs {
		if i > 0 {
			text += " or "
		}
		text += words.English(sys).Tell(j.Said())
	}
	return text
}

//go:embed owner.html
var ownerHTML string

//go:embed guide.css
var css string

// CSS is the style sheet of guides, for screen and print.
func CSS() string { return css }

var funcs = template.FuncMap{
	"handle": func(p *plumbing.Part, position string) template.HTML {
		return template.HTML(drawing.Handle(p, position)) // drawn by us, texts escaped
	},
	"place":  words.English(quantity.US).Place,
	"stands": words.English(quantity.US).Position,
	"both":   func(l quantity.Litre, sys quantity.System) string { return quantity.Both(l, sys) },
	"css":    func() template.CSS { return template.CSS(css) },
}

var ownerTemplate = template.Must(template.New("owner").Funcs(funcs).Parse(ownerHTML))

// WaterWeighs tells what a gallon weighs, or where the model is metric a litre.
func (o *Owner) WaterWeighs() string {
	said := fact.Of("guide.gallon-weighs", quantity.Kilogram(quantity.USGallon*quantity.WaterDensity))
	if o.Sys == quantity.SI {
		said = fact.Of("guide.litre-weighs", quantity.Kilogram(quantity.WaterDensity))
	}
	return words.English(o.Sys).Tell(said)
}

// WriteArticle writes the chapter as an article element, for a page around it.
func (o *Owner) WriteArticle(w io.Writer) error {
	return ownerTemplate.ExecuteTemplate(w, "article", o)
}

// WriteHTML writes the chapter as a page that stands alone.
func (o *Owner) WriteHTML(w io.Writer) error { return ownerTemplate.ExecuteTemplate(w, "page", o) }
