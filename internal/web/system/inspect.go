package system

import (
	"slices"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
	"coldtap/internal/web/site"
)

// input is a field of the inspector's form.
type input struct {
	Path, Label, Value string
	Choice             []string // of a choice; none for a text
	Lines              int      // of a text of several lines
	YesNo              bool
	Hint               string
	Options            []choiceOf // the choice in words
	Broad              bool       // a text that needs the whole width
	Assumed            bool       // nobody has confirmed it yet
}

// choiceOf is a value that can be chosen, in plain words.
type choiceOf struct{ Value, Words string }

// inWords says what the values of a choice mean: parts and options by their names,
// positions as they stand, the rest in the words of the catalogue.
func inWords(m *plumbing.Model, id string, in *input) (list []choiceOf) {
	printer := words.English(m.System())
	for _, v := range in.Choice {
		o := choiceOf{v, printer.Choice(v)}
		switch p := m.Part(id); {
		case v == "":
			o.Words = "–"
		case in.Path == "normal" && p != nil:
			o.Words = printer.Position(p, v)
		case m.Part(v) != nil && (in.Path == "data.waste" || in.Path == "data.serves"):
			o.Words = m.Part(v).Name
		case m.Option(v) != nil && (in.Path == "option" || in.Path == "without"):
			o.Words = m.Option(v).Name
		}
		list = append(list, o)
	}
	return list
}

// group is the inputs of one pane of the rail.
type group struct {
	ID, Name string
	Inputs   []input
}

// form is what can be changed of a part or line; values are those typed where
// a change was refused.
type form struct {
	What, ID string
	Groups   []group
	Ports    []portRow // of a part
	Assumed  []string  // paths of fields that nobody has confirmed yet
}

type portRow struct {
	Ref    string
	Name   string
	Line   string // id, "" where nothing is joined
	Other  string // name of what it leads to
	Height string
}

func partForm(m *plumbing.Model, p *plumbing.Part, typed map[string]string) *form {
	f := &form{What: "part", ID: p.ID, Assumed: p.Assumed}
	above := "above " + m.Vehicle().Datum
	f.Groups = []group{
		{"figures", "Figures", slices.Concat(mainInputs(p), figureInputs(m, p), options(m))},
		{"place", "Place", placeInputs(p, above)},
		{"look", "Look", readingInputs(p)},
	}
	f.fill(m, edit.OfPart, typed)
	f.Ports = portRows(m, p)
	return f
}

// mainInputs are what a part is called, and what it does.
func mainInputs(p *plumbing.Part) []input {
	main := []input{{Path: "name", Broad: true}, {Path: "label"},
		{Path: "id", Hint: "a-z 0-9 -"}}
	if list := p.Positions(); len(list) > 0 {
		main = append(main, input{Path: "normal", Choice: append([]string{""}, list...)})
	}
	switch p.Role() {
	case plumbing.RoleSelector:
		main = append(main, input{Path: "positions", Lines: 4,
			Hint: "a line each: id | printed | valve=position, valve=position"})
	case plumbing.RoleControl, plumbing.RoleIsolator:
		main = append(main, input{Path: "controls", Lines: 4,
			Hint: "a line each: part | what a hand does to switch it on | off, where that differs | what shows it is on"})
	case plumbing.RoleJumper:
		main = append(main, input{Path: "ends", Broad: true, Hint: "two ports: outside-tap.cold, inlet.mouth"})
	}
	if len(p.Ports()) == 1 && p.Role() != plumbing.RoleTank {
		main = append(main,
			input{Path: "on", Hint: "part, port, where it has no line: Fresh tank, hatch"})
	}
	return main
}

// figureInputs are the figures that a part of its kind may have.
func figureInputs(m *plumbing.Model, p *plumbing.Part) (figures []input) {
	info := p.Kind.Info()
	for _, field := range append(slices.Clone(info.Must), info.May...) {
		in := input{Path: "data." + field, YesNo: edit.IsYesNo("data." + field)}
		switch {
		case field == "type" && len(info.Types) > 0:
			in.Choice = info.Types
		case field == "closure":
			in.Choice = []string{"", "valve", "cap", "plug", "toggle"}
		case field == "waste":
			in.Choice = append([]string{""}, idsOf(m, plumbing.RoleWaste)...)
		case field == "serves" && p.Role() == plumbing.RoleGas:
			in.Choice = idsOf(m, plumbing.RoleHeater)
		case field == "serves":
			in.Choice = idsOf(m, plumbing.RoleTank, plumbing.RoleWaste)
		case field == "low_end" || field == "high_end":
			in.Hint = "above " + m.Vehicle().Datum
		case field == "at":
			in.Hint = "inside"
		case field == "more_ports":
			in.Hint = "beside one of each: fill2 supply2"
		}
		figures = append(figures, in)
	}
	return figures
}

// placeInputs are where a part and its ports are; above says what heights are
// measured from.
func placeInputs(p *plumbing.Part, above string) []input {
	place := []input{{Path: "place.front"}, {Path: "place.left"},
		{Path: "place.height", Hint: above}, {Path: "place.key", Hint: "what unlocks it"},
		{Path: "place.reach", Broad: true}, {Path: "place.behind", Broad: true}}
	for _, port := range p.Ports() {
		place = append(place, input{Path: "port_heights." + port.Name,
			Hint: above + ", where it is not the part's"})
	}
	return place
}

// readingInputs are what is seen of a part on the unit.
func readingInputs(p *plumbing.Part) []input {
	reading := []input{{Path: "reading.handle", Choice: append([]string{""}, plumbing.HandleKinds...)},
		{Path: "reading.pipe", Choice: []string{"", "level", "upright"}}}
	for _, pos := range p.Positions() {
		reading = append(reading, input{Path: "reading.says." + pos})
	}
	for _, of := range []string{"handle", "cap", "hose", "port", "coupling"} {
		reading = append(reading, input{Path: "colours." + of})
	}
	return append(reading, input{Path: "look", Broad: true}, input{Path: "tool"},
		input{Path: "thread"}, input{Path: "adapter"})
}

// portRows are the ports of a part and what is joined to each.
func portRows(m *plumbing.Model, p *plumbing.Part) (rows []portRow) {
	for _, port := range p.Ports() {
		row := portRow{Ref: p.ID + "." + port.Name, Name: port.Name}
		for i := range m.Lines {
			l := &m.Lines[i]
			other := ""
			switch row.Ref {
			case l.From:
				other = l.To
			case l.To:
				other = l.From
			default:
				continue
			}
			id, _ := plumbing.PartOf(other)
			row.Line, row.Other = l.ID, m.Part(id).Name
		}
		rows = append(rows, row)
	}
	return rows
}

// idsOf lists the ids of a model's parts of some roles.
func idsOf(m *plumbing.Model, roles ...plumbing.Role) (ids []string) {
	for i := range m.Parts {
		if slices.Contains(roles, m.Parts[i].Role()) {
			ids = append(ids, m.Parts[i].ID)
		}
	}
	return ids
}

// options are the fields that bind a thing to the options of its model.
func options(m *plumbing.Model) []input {
	if len(m.Options) == 0 {
		return nil
	}
	ids := []string{""}
	for _, o := range m.Options {
		ids = append(ids, o.ID)
	}
	return []input{{Path: "option", Choice: ids},
		{Path: "without", Choice: ids}}
}

func lineForm(m *plumbing.Model, l *plumbing.Line, typed map[string]string) *form {
	var sides, sizes []string
	for _, s := range plumbing.Sides {
		sides = append(sides, string(s))
	}
	for _, s := range plumbing.LineSizes {
		sizes = append(sizes, s.Name)
	}
	f := &form{What: "line", ID: l.ID, Assumed: l.Assumed, Groups: []group{
		{"figures", "Line", slices.Concat([]input{{Path: "length"}, {Path: "inside"},
			{Path: "size", Broad: true, Hint: strings.Join(sizes, ", ") + ", or hose and its inside diameter"},
			{Path: "side", Choice: sides}, {Path: "material"}, {Path: "spots", Broad: true,
				Hint: "how far along @ how high above " + m.Vehicle().Datum + ", like 4 ft @ 12 in; 6 ft @ 20 in"},
			{Path: "from", Broad: true, Hint: "part, port"}, {Path: "to", Broad: true, Hint: "part, port"},
			{Path: "id"}, {Path: "colour"}}, options(m))},
	}}
	f.fill(m, edit.OfLine, typed)
	return f
}

// headForm is what can be changed of the model itself.
func headForm(m *plumbing.Model, typed map[string]string) *form {
	above := "above " + m.Vehicle().Datum
	f := &form{What: "head", Groups: []group{{"model", "Model", []input{
		{Path: "name", Broad: true}, {Path: "year"}, {Path: "kind"}, {Path: "maker"},
		{Path: "units", Choice: []string{"us", "si"}},
		{Path: "design_low"}, {Path: "carrying_capacity"},
		{Path: "notes", Lines: 3},
		{Path: "consumables", Lines: 4,
			Hint: "a line each: anode, cartridge, cells, antifreeze or sanitizer | id | name | part | order number | months | " +
				"more: form=liquid, strength=8.25"},
		{Path: "body.length"}, {Path: "body.width"}, {Path: "body.floor", Hint: above},
		{Path: "body.roof", Hint: above}}}}}
	f.fill(m, edit.OfModel, typed)
	return f
}

// fill puts the values of the document, or those typed, into the inputs.
func (f *form) fill(m *plumbing.Model, what edit.Thing, typed map[string]string) {
	var paths []string
	for _, g := range f.Groups {
		for _, in := range g.Inputs {
			paths = append(paths, in.Path)
		}
	}
	texts := edit.Texts(m, what, f.ID, paths)
	for g := range f.Groups {
		for i := range f.Groups[g].Inputs {
			in := &f.Groups[g].Inputs[i]
			in.Label = site.UpperFirst(words.English(quantity.US).Field(in.Path))
			in.Value = texts[in.Path]
			if slices.Contains(refs, in.Path) && in.Value != "" {
				in.Value = sayRef(m, in.Value)
			}
			in.Options = inWords(m, f.ID, in)
			in.Assumed = slices.Contains(f.Assumed, in.Path)
			if v, ok := typed[in.Path]; ok && v != in.Value {
				in.Value = v
			}
		}
	}
}
