package system

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/assembly"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/table"
	"coldtap/internal/web/site"
)

// fieldPrefix marks the inputs of a form that are fields of the document.
const fieldPrefix = "f."

// fieldsOf gathers the document's fields from a form.
func fieldsOf(c *gin.Context) (map[string]string, error) {
	if err := c.Request.ParseForm(); err != nil {
		return nil, err
	}
	fields := map[string]string{}
	for name, values := range c.Request.PostForm {
		if path, ok := strings.CutPrefix(name, fieldPrefix); ok && len(values) > 0 {
			fields[path] = values[len(values)-1] // a ticked box comes after its hidden "no"
		}
	}
	return fields, nil
}

// SetForm reads fields that were changed.
func SetForm(what edit.Thing) func(c *gin.Context) (app.Operation, error) {
	return func(c *gin.Context) (app.Operation, error) {
		fields, err := fieldsOf(c)
		if err != nil {
			return nil, err
		}
		id := c.Param("id")
		return func(m *plumbing.Model) (*edit.Done, error) { return edit.Set(m, what, id, readRefs(m, fields)) }, nil
	}
}

// ConfirmForm reads fields that were assumed and are right; all where none is
// named.
func ConfirmForm(what edit.Thing) func(c *gin.Context) (app.Operation, error) {
	return func(c *gin.Context) (app.Operation, error) {
		id, paths := c.Param("id"), c.PostFormArray("path")
		return func(m *plumbing.Model) (*edit.Done, error) { return edit.Confirm(m, what, id, paths...) }, nil
	}
}

// ConfirmAllForm confirms everything that was assumed.
func ConfirmAllForm(*gin.Context) (app.Operation, error) { return edit.ConfirmAll, nil }

// RemoveForm reads what is taken away.
func RemoveForm(c *gin.Context) (app.Operation, error) {
	ids := strings.Split(c.PostForm("ids"), ",")
	return func(m *plumbing.Model) (*edit.Done, error) { return edit.Remove(m, ids...) }, nil
}

// JoinForm reads a line that joins two ports.
func JoinForm(c *gin.Context) (app.Operation, error) {
	from, to := strings.TrimSpace(c.PostForm("port-from")), strings.TrimSpace(c.PostForm("port-to"))
	l := plumbing.Line{Size: strings.TrimSpace(c.PostForm("size")), Side: plumbing.Side(c.PostForm("side"))}
	var err error
	if l.Length, err = quantity.Read[quantity.Millimetre](strings.TrimSpace(c.PostForm("length"))); err != nil {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Length", Why: err.Error()}}}
	}
	return func(m *plumbing.Model) (*edit.Done, error) {
		return edit.Join(m, readRef(m, from), readRef(m, to), l)
	}, nil
}

// AddForm reads a part that is put in.
func AddForm(c *gin.Context) (app.Operation, error) {
	kind, name, line := plumbing.Kind(c.PostForm("kind")), strings.TrimSpace(c.PostForm("name")), c.PostForm("line")
	info := kind.Info()
	if info == nil {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Kind", Why: "choose what kind of part it is"}}}
	}
	if name == "" {
		name = site.UpperFirst(info.Name)
	}
	p := plumbing.Part{Kind: kind, Name: name}
	if len(info.Positions) > 0 {
		p.Normal = info.Positions[0]
	}
	if info.Role == plumbing.RoleSelector {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Kind",
			Why: "a selector needs positions; add a docking plate, or import its part with them"}}}
	}
	return func(m *plumbing.Model) (*edit.Done, error) {
		p := p
		p.Data = edit.Usual(m, kind)
		if line == "" {
			return edit.Add(m, p)
		}
		if info.Mere {
			return teeIn(m, line, name)
		}
		for _, ends := range [][2]string{{"in", "out"}, {"a", "b"}} {
			if has(&p, ends[0]) && has(&p, ends[1]) {
				return edit.InsertInto(m, line, p, ends[0], ends[1])
			}
		}
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Kind",
			Why: fmt.Sprintf("a %s has no two ends to stand in a line; add it alone and join it", info.Name)}}}
	}, nil
}

func teeIn(m *plumbing.Model, line, name string) (*edit.Done, error) {
	c := *m
	c.Parts, c.Lines = append([]plumbing.Part(nil), m.Parts...), append([]plumbing.Line(nil), m.Lines...)
	if _, err := edit.TeeInto(&c, line, 0.5, name); err != nil {
		return nil, err
	}
	after, err := edit.Check(&c)
	if err != nil {
		return nil, err
	}
	return &edit.Done{Model: after, Said: fact.Of("edit.tee", line)}, nil
}

func has(p *plumbing.Part, port string) bool {
	for _, i := range p.Ports() {
		if i.Name == port {
			return true
		}
	}
	return false
}

// NudgeForm reads where a symbol was moved to.
func NudgeForm(c *gin.Context) (app.Operation, error) {
	dx, errX := strconv.Atoi(c.PostForm("dx"))
	dy, errY := strconv.Atoi(c.PostForm("dy"))
	if errX != nil || errY != nil || max(dx, -dx, dy, -dy) > 200 {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Why: "a symbol is moved by whole steps"}}}
	}
	id := c.PostForm("part")
	return func(m *plumbing.Model) (*edit.Done, error) { return edit.Nudge(m, id, dx, dy) }, nil
}

// PlaceForm sets where a part is, from a drag in the layout: metres, written
// in the model's units.
func PlaceForm(c *gin.Context) (app.Operation, error) {
	metres := map[string]float64{}
	for _, name := range []string{"front", "left", "height"} {
		if text := c.PostForm(name); text != "" {
			v, err := strconv.ParseFloat(text, 64)
			if err != nil || v < -5 || v > 40 {
				return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: site.UpperFirst(name),
					Why: fmt.Sprintf("%q is not a place on a camper", text)}}}
			}
			metres[name] = v
		}
	}
	id := c.PostForm("part")
	return func(m *plumbing.Model) (*edit.Done, error) {
		fields := map[string]string{}
		p := m.Part(id)
		for name, v := range metres {
			if p != nil && math.Abs(float64(placeOf(p, name).Value())-v) < unmoved && !placeOf(p, name).IsZero() {
				continue // it stays as it was written
			}
			fields["place."+name] = quantity.Of(quantity.Metre(v), m.System()).String()
		}
		return edit.Set(m, edit.OfPart, id, fields)
	}, nil
}

// unmoved is how many metres a place may seem to have moved by rounding.
const unmoved = 0.002

func placeOf(p *plumbing.Part, name string) quantity.Given[quantity.Metre] {
	switch name {
	case "front":
		return p.Place.Front
	case "left":
		return p.Place.Left
	}
	return p.Place.Height
}

// RenumberForm numbers the places anew.
func RenumberForm(*gin.Context) (app.Operation, error) { return edit.Renumber, nil }

// RetireForm reads why a model is retired.
func RetireForm(c *gin.Context) (app.Operation, error) {
	reason, who := strings.TrimSpace(c.PostForm("reason")), site.Who(c).Name
	return func(m *plumbing.Model) (*edit.Done, error) { return edit.Retire(m, reason, who) }, nil
}

// BringBackForm takes it back that a model is retired.
func BringBackForm(*gin.Context) (app.Operation, error) { return edit.BringBack, nil }

// ShiftForm reads by how much all heights are moved.
func ShiftForm(c *gin.Context) (app.Operation, error) {
	text := strings.TrimSpace(c.PostForm("by"))
	plain, down := strings.CutPrefix(text, "-")
	by, err := quantity.Read[quantity.Metre](strings.TrimPrefix(plain, "+"))
	if err != nil {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Path: "Move all heights by", Why: err.Error()}}}
	}
	v := by.Value()
	if down {
		v = -v
	}
	return func(m *plumbing.Model) (*edit.Done, error) { return edit.ShiftHeights(m, v) }, nil
}

// AssemblyForm adds an assembly from its answers.
func AssemblyForm(c *gin.Context) (app.Operation, error) {
	k := assembly.ByID(c.Param("kind"))
	if k == nil {
		return nil, &edit.FaultError{Faults: []plumbing.Fault{{Why: "there is no such assembly"}}}
	}
	answers := map[string]string{}
	for _, q := range k.Questions {
		answers[q.Name] = strings.Join(c.PostFormArray(q.Name), ",")
	}
	return func(m *plumbing.Model) (*edit.Done, error) { return assembly.Add(m, k, answers) }, nil
}

// PasteForm takes a block from a spreadsheet into the lines or the parts.
func PasteForm(c *gin.Context) (app.Operation, error) {
	block := c.PostForm("block")
	if len(block) > 1<<20 {
		return nil, &edit.FaultError{
			Faults: []plumbing.Fault{{Why: "the block is larger than 1 MiB; paste it in pieces"}},
		}
	}
	whole := c.PostForm("whole") != ""
	return func(m *plumbing.Model) (*edit.Done, error) {
		t := table.Guess(table.Block(block))
		if len(t.Rows) > table.MaxRows {
			return nil, &edit.FaultError{
				Faults: []plumbing.Fault{{Why: fmt.Sprintf("the block has %d rows; %d go in at "+
					"once", len(t.Rows), table.MaxRows)}},
			}
		}
		if !matched(&t) {
			return nil, &edit.FaultError{
				Faults: []plumbing.Fault{{Why: "no row of heads was found; copy the block with " +
					"its heads: From, To, Size, Length for lines, Name, Kind for parts"}},
			}
		}
		var done *edit.Done
		var rows []table.Row
		var err error
		if whole && t.What == table.Lines {
			done, rows, err = table.Replace(m, &t)
		} else {
			done, rows, err = table.Apply(m, &t)
		}
		var faults []plumbing.Fault
		for _, r := range rows {
			for _, f := range r.Faults {
				at := fmt.Sprintf("Row %d", r.Number)
				if f.Column >= 0 && f.Column < len(t.Columns) {
					at += ", " + t.Columns[f.Column].Head
				}
				faults = append(faults, plumbing.Fault{Path: at, Why: f.Words})
			}
			if r.State == table.Asks {
				faults = append(faults, plumbing.Fault{Path: fmt.Sprintf("Row %d", r.Number),
					Why: "its ports can't be told safely; name them, like pump.out, or bring the list under Import a list, " +
						"which asks"})
			}
		}
		if len(faults) > 0 {
			return nil, &edit.FaultError{Faults: faults}
		}
		return done, err
	}, nil
}

func matched(t *table.Table) bool {
	for _, c := range t.Columns {
		if c.Field != "" {
			return true
		}
	}
	return false
}

// cutUsual splits "US text|SI text".
func cutUsual(s string) (us, si string, ok bool) { return strings.Cut(s, "|") }
