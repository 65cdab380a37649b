package table

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

// line completes a row of a list of lines: its ends by part and port, its
// size by the table of sizes, its id.
func (r *Row) line(m *plumbing.Model, t *Table) {
	old := m.Line(r.fields["id"])
	if old == nil {
		for _, end := range []string{"from", "to"} {
			if r.fields[end] == "" {
				r.fault(t.column(end), "the line's %s end is missing", end)
			}
		}
	}
	side := sideWord(r.fields["side"])
	if side == "" && r.fields["side"] != "" {
		r.fault(t.column("side"), "%q is no side; write supply, cold, hot, drain or air", r.fields["side"])
	}
	for _, end := range []string{"from", "to"} {
		text := r.fields[end]
		if text == "" {
			continue
		}
		ref, err := resolve(m, text, end, side)
		if err != nil {
			r.fault(t.column(end), "%v", err)
			continue
		}
		r.fields[end] = ref
	}
	if side == "" && old == nil && len(r.Faults) == 0 {
		side = edit.SideOf(m, r.fields["from"], r.fields["to"])
	}
	if side != "" {
		r.fields["side"] = string(side)
	}
	r.size(t)
	// A list that says where a line runs should say how long it is.
	if t.column("length") >= 0 && r.fields["length"] == "" && (old == nil || r.fields["from"] != "") {
		r.fault(t.column("length"), "the length is missing; measure it or ask engineering")
	}
	r.ID = r.fields["id"]
	if r.ID == "" && len(r.Faults) == 0 {
		r.ID = joining(m, r.fields["from"], r.fields["to"])
		old = m.Line(r.ID)
	} else if r.ID != "" && old == nil && !idLike(r.ID) {
		r.ID = edit.ID(r.ID, func(string) bool { return false })
		old = m.Line(r.ID)
	}
	r.isNew = old == nil
	delete(r.fields, "id")
}

// joining is the id of the line that joins two ports, or one for a new line.
func joining(m *plumbing.Model, from, to string) string {
	for i := range m.Lines {
		l := &m.Lines[i]
		if l.From == from && l.To == to || l.From == to && l.To == from {
			return l.ID
		}
	}
	return edit.LineID(m, from, to)
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

// resolve finds the port that the end of a line means: "pump.out", "Water
// pump, out", or the part alone where one port suits.
func resolve(m *plumbing.Model, text, end string, side plumbing.Side) (string, error) {
	if id, port := plumbing.PartOf(strings.ToLower(text)); port != "" && m.Part(id) != nil {
		return onPart(m.Part(id), port)
	}
	if p := byName(m, text); p != nil {
		return onlyPort(m, p, end, side)
	}
	for _, sep := range []string{" / ", "/", ".", ":", ",", " "} {
		i := strings.LastIndex(text, sep)
		if i <= 0 {
			continue
		}
		if p := byName(m, strings.TrimSpace(text[:i])); p != nil {
			return onPart(p, strings.ToLower(strings.TrimSpace(text[i+len(sep):])))
		}
	}
	return "", fmt.Errorf("there is no part %q; add it first, or mend its name%s", text, likeIt(m, text))
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

// likeIt suggests parts that share a word with a name.
func likeIt(m *plumbing.Model, text string) string {
	var list []string
	for i := range m.Parts {
		p := &m.Parts[i]
		for _, w := range strings.Fields(strings.ToLower(text)) {
			if len(w) > 3 && strings.Contains(strings.ToLower(p.Name), w) && len(list) < 3 &&
				!slices.Contains(list, p.Name) {
				list = append(list, p.Name)
			}
		}
	}
	if list == nil {
		return ""
	}
	return " (like it: " + strings.Join(list, ", ") + ")"
}

func portNames(p *plumbing.Part) []string {
	var list []string
	for _, i := range p.Ports() {
		list = append(list, i.Name)
	}
	return list
}

func onPart(p *plumbing.Part, port string) (string, error) {
	if !slices.Contains(portNames(p), port) {
		return "", fmt.Errorf("%s has no port %q; its ports are %s", p.Name, port, strings.Join(portNames(p), ", "))
	}
	return p.ID + "." + port, nil
}

// onlyPort picks the port of a part that is named without one: a line comes
// from a pump's out and goes to its in.
func onlyPort(m *plumbing.Model, p *plumbing.Part, end string, side plumbing.Side) (string, error) {
	ports := portNames(p)
	if slices.Contains(ports, "in") && slices.Contains(ports, "out") {
		return p.ID + map[string]string{"from": ".out", "to": ".in"}[end], nil
	}
	if slices.Contains(ports, string(side)) {
		return p.ID + "." + string(side), nil
	}
	open := edit.OpenPorts(m)
	free := slices.DeleteFunc(slices.Clone(ports), func(name string) bool {
		return !slices.Contains(open, p.ID+"."+name)
	})
	for _, list := range [][]string{ports, free} {
		if len(list) == 1 {
			return p.ID + "." + list[0], nil
		}
	}
	return "", fmt.Errorf("say which port of %s: write %s.%s or one of %s", p.Name, p.ID, ports[0],
		strings.Join(ports[1:], ", "))
}

// part completes a row of a list of parts: the part it changes, or a new one.
func (r *Row) part(m *plumbing.Model, t *Table) {
	if kind := r.fields["kind"]; kind != "" {
		k := strings.ToLower(kind)
		for _, info := range plumbing.Kinds() {
			if k == info.Name || k == strings.ReplaceAll(string(info.Kind), "-", " ") {
				k = string(info.Kind)
			}
		}
		r.fields["kind"] = k
	}
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
		r.ID = r.fields["id"]
		if r.ID == "" {
			r.ID = edit.PartID(m, r.fields["name"])
		}
	}
	if r.isNew {
		delete(r.fields, "id")
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
