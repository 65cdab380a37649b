package table

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
)

// line completes a row of a list of lines: what it joins, its size by the table of sizes,
// its id.
func (r *Row) line(m *plumbing.Model, t *Table, seen map[string]int) {
	old := m.Line(r.fields["id"])
	if r.joint != nil {
		if j := r.joint; j.Line != "" && old == nil {
			old = m.Line(j.Line)
			r.fields["id"] = old.ID
		}
		r.ends(t)
	} else if old == nil {
		for _, end := range []string{"from", "to"} {
			if r.fields[end] == "" {
				r.fault(t.column(end), "the line's %s end is missing", end)
			}
		}
	}
	r.size(t)
	if at := t.column("length"); at >= 0 && r.fields["length"] == "" && r.joint != nil {
		if old == nil {
			r.note(at, "the length is missing; the line goes in without, and a finding asks for it")
		} else {
			r.note(at, "the length is missing; the line keeps its %s", old.Length)
		}
	}
	r.ID = r.fields["id"]
	if old == nil && r.ID != "" && !idLike(r.ID) {
		r.ID = edit.ID(r.ID, func(string) bool { return false })
		old = m.Line(r.ID)
	}
	counted := strings.Trim(r.ID, "0123456789-") == "" // a mere number names nothing
	if old == nil && len(r.Faults) == 0 && (counted || seen[r.ID] > 0) {
		if !counted {
			r.note(t.column("id"), "%q stands in row %d too; this line is called by what it joins", r.ID, seen[r.ID])
		}
		r.ID = lineID(m, r.fields["from"], r.fields["to"], seen)
		old = m.Line(r.ID)
	}
	r.isNew = old == nil
	if !r.isNew {
		r.assume = nil
	}
	delete(r.fields, "id")
}

// ends takes over what a row joins, or says why it can't be told.
func (r *Row) ends(t *Table) {
	j := r.joint
	for _, f := range j.Faults {
		column := t.column([]string{"from", "to"}[f.End])
		switch f.Code {
		case "empty":
			r.fault(column, "the line's %s end is missing", []string{"from", "to"}[f.End])
		case "same-part":
			r.fault(-1, "both ends name %s", f.Part)
		case "no-port":
			r.fault(column, "%s has no port %q; its ports are %s", f.Part, f.Said, strings.Join(f.Ports, ", "))
		case "crowded":
			have := ""
			if f.Have > 0 {
				have = fmt.Sprintf(" and has %d", f.Have)
			}
			r.fault(column, "%s takes lines at %d ports%s, and rows %s come to it; name another part, or put a tee in", f.Part,
				f.Most, have, numbers(f.Rows, t.First))
		}
	}
	for i, end := range []string{"from", "to"} {
		if e := j.Ends[i]; e.Part != "" {
			r.fields[end] = e.Part + "." + e.Port
			if e.Inferred {
				r.assume = append(r.assume, end)
			}
		}
	}
	r.fields["side"] = string(j.Side)
	if j.SideInferred {
		r.assume = append(r.assume, "side")
	}
}

// numbers lists rows by their numbers in the sheet.
func numbers(rows []int, first int) string {
	var list []string
	for _, i := range rows {
		list = append(list, strconv.Itoa(first+i))
	}
	return strings.Join(list, ", ")
}

// lineID is the id of the line that joins two ports, or one for a new line that no row
// before has.
func lineID(m *plumbing.Model, from, to string, seen map[string]int) string {
	for i := range m.Lines {
		l := &m.Lines[i]
		if l.From == from && l.To == to || l.From == to && l.To == from {
			return l.ID
		}
	}
	a, _ := plumbing.PartOf(from)
	b, _ := plumbing.PartOf(to)
	return edit.ID(a+" "+b, func(id string) bool { return m.Line(id) != nil || seen[id] > 0 })
}

func idLike(s string) bool {
	return s != "" && strings.IndexFunc(s, func(c rune) bool {
		return !(c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c == '-')
	}) < 0
}

// size puts a size as people write it into the words of the table of sizes.
func (r *Row) size(t *Table) {
	text := r.fields["size"]
	if text == "" {
		return
	}
	for _, name := range sizeNames(text, r.fields["material"]) {
		if s, err := plumbing.FindSize(name); err == nil {
			r.fields["size"] = s.Name
			return
		}
	}
	if r.fields["inside"] != "" {
		return // its own diameter says what it holds
	}
	_, err := plumbing.FindSize(text)
	r.fault(t.column("size"), "%v", err)
}

// sizeNames lists what a size may mean: "1/2 in PEX", "½\"" with the material
// beside it, "12 mm".
func sizeNames(text, material string) []string {
	clean := strings.NewReplacer("½", "1/2", "¾", "3/4", "⅜", "3/8", "\"", " in", "″", " in", "inch",
		"in").Replace(text)
	words := strings.Fields(clean)
	figure, kind := "", strings.ToLower(material)
	for _, w := range words {
		switch lw := strings.ToLower(w); lw {
		case "in", "nom", "nominal", "od", "o.d.":
		case "pex", "hose", "semi-rigid", "pex,":
			kind = strings.TrimSuffix(lw, ",") + " " + kind
		default:
			figure = strings.TrimSpace(figure + " " + w)
		}
	}
	list := []string{text, clean}
	if strings.Contains(kind, "hose") {
		list = append(list, "hose "+figure+" in", "hose "+figure)
	}
	if strings.Contains(figure, "mm") || strings.Contains(kind, "rigid") {
		mm := strings.TrimSpace(strings.TrimSuffix(figure, "mm"))
		return append(list, "semi-rigid "+mm+" mm", "semi-rigid "+figure)
	}
	return append(list, "PEX "+figure)
}

// sideWord reads a side as people write it.
func sideWord(text string) plumbing.Side {
	switch t := strings.ToLower(strings.TrimSpace(text)); t {
	case "c", "cold water":
		return plumbing.Cold
	case "h", "hot water":
		return plumbing.Hot
	case "vent", "overflow":
		return plumbing.Air
	case "suction", "fill", "feed":
		return plumbing.Supply
	default:
		if slices.Contains(plumbing.Sides, plumbing.Side(t)) {
			return plumbing.Side(t)
		}
	}
	return ""
}

// byName finds a part by id or by its name, in any case.
func byName(m *plumbing.Model, name string) *plumbing.Part {
	if name == "" {
		return nil
	}
	for i := range m.Parts {
		if p := &m.Parts[i]; p.ID == name || strings.EqualFold(p.Name, name) {
			return p
		}
	}
	return nil
}

// part completes a row of a list of parts: the part it changes, or a new one.
func (r *Row) part(m *plumbing.Model, t *Table) {
	r.kind(m, t)
	p := m.Part(r.fields["id"])
	if p == nil {
		p = byName(m, r.fields["name"])
	}
	switch {
	case p != nil:
		r.ID = p.ID
		if id := r.fields["id"]; id != "" {
			r.ID = id // renamed
		}
	case r.fields["name"] == "":
		r.fault(t.column("name", "id"), "there is no part %q, and a new one needs a name", r.fields["id"])
		return
	case r.fields["kind"] == "":
		r.fault(t.column("kind", "name"), "there is no part %q; to add it, say what kind it is", r.fields["name"])
		return
	default:
		r.isNew = true
		r.usual(m)
		r.ID = r.fields["id"]
		if r.ID == "" {
			r.ID = edit.PartID(m, r.fields["name"])
		}
	}
	if r.isNew {
		delete(r.fields, "id")
	}
}

// kind reads what kind of part a row lists: as the kinds are called here or in the words
// of the trade, or by the name of the part.
func (r *Row) kind(m *plumbing.Model, t *Table) {
	name := r.fields["name"]
	known := m.Part(r.fields["id"]) != nil || byName(m, name) != nil
	byItsName, typ, named := joining.Meaning(name)
	text := strings.ToLower(r.fields["kind"])
	if text == "" {
		if named && !known {
			r.fields["kind"], r.assume = string(byItsName), append(r.assume, "kind")
			r.typed(byItsName, typ)
		}
		return
	}
	for _, info := range plumbing.Kinds() {
		if text == info.Name || text == string(info.Kind) || text == strings.ReplaceAll(string(info.Kind), "-", " ") {
			r.fields["kind"] = string(info.Kind)
			if !known && named && byItsName == info.Kind {
				r.typed(info.Kind, typ)
			}
			return
		}
	}
	if kind, itsType, ok := joining.Meaning(text); ok {
		if r.fields["kind"] = string(kind); named && byItsName == kind {
			itsType = typ // "Tap" of the name "Shower"
		}
		if !known {
			r.typed(kind, itsType)
		}
	}
}

// typed takes over the type that the words tell, where none is given.
func (r *Row) typed(kind plumbing.Kind, typ string) {
	if typ != "" && r.fields["data.type"] == "" && slices.Contains(kind.Info().Must, "type") {
		r.fields["data.type"], r.assume = typ, append(r.assume, "data.type")
	}
}

// usual gives a new part the figures that it must have and that the list does not give,
// marked as assumed.
func (r *Row) usual(m *plumbing.Model) {
	kind := plumbing.Kind(r.fields["kind"])
	if kind.Info() == nil {
		return
	}
	raw, err := json.Marshal(edit.Usual(m, kind))
	var usual map[string]any
	if err == nil {
		err = json.Unmarshal(raw, &usual)
	}
	if err != nil {
		return
	}
	for _, field := range kind.Info().Must {
		if path := "data." + field; r.fields[path] == "" && usual[field] != nil {
			r.fields[path], r.assume = fmt.Sprint(usual[field]), append(r.assume, path)
		}
	}
}

// LineRows writes a model's lines as a table that reads back the same, its
// heads first.
func LineRows(m *plumbing.Model) [][]string {
	var ids []string
	for i := range m.Lines {
		ids = append(ids, m.Lines[i].ID)
	}
	return rowsOf(m, Lines, ids)
}

// PartRows writes a model's parts as a table that reads back the same, its
// heads first. Columns that no part fills are left out.
func PartRows(m *plumbing.Model) [][]string {
	var ids []string
	for i := range m.Parts {
		ids = append(ids, m.Parts[i].ID)
	}
	return rowsOf(m, Parts, ids)
}

func rowsOf(m *plumbing.Model, w What, ids []string) [][]string {
	all := allTexts(m, w)
	var fields []Field
	for _, f := range Fields(w) {
		if slices.ContainsFunc(ids, func(id string) bool { return all[id][f.Path] != "" }) {
			fields = append(fields, f)
		}
	}
	head := make([]string, len(fields))
	for i, f := range fields {
		head[i] = f.Title
	}
	rows := [][]string{head}
	for _, id := range ids {
		row := make([]string, len(fields))
		for k, f := range fields {
			row[k] = strings.ReplaceAll(all[id][f.Path], "\n", " ;; ") // in one cell
		}
		rows = append(rows, row)
	}
	return rows
}
