package edit

import (
	"maps"
	"strings"

	"coldtap/internal/core/document"
	"coldtap/internal/core/plumbing"
)

// joinedName is the id that a line has from the parts at its ends.
func joinedName(from, to string) string {
	a, _ := plumbing.PartOf(from)
	b, _ := plumbing.PartOf(to)
	return ID(a+" "+b, func(string) bool { return false })
}

// isJoinedName reports whether an id is made of what a line joins, with a number after
// it or without.
func isJoinedName(id, from, to string) bool {
	rest, ok := strings.CutPrefix(id, joinedName(from, to))
	return ok && strings.Trim(rest, "-0123456789") == ""
}

// renamedWith adds a new id to the fields of a line whose id is made of what it joins,
// where they change that.
func renamedWith(m *plumbing.Model, id string, fields map[string]string) map[string]string {
	l := m.Line(id)
	if l == nil || strings.TrimSpace(fields["id"]) != "" && fields["id"] != id || !isJoinedName(id, l.From, l.To) {
		return fields
	}
	from, to := l.From, l.To
	if v := strings.TrimSpace(fields["from"]); v != "" {
		from = v
	}
	if v := strings.TrimSpace(fields["to"]); v != "" {
		to = v
	}
	if isJoinedName(id, from, to) {
		return fields
	}
	fields = maps.Clone(fields)
	fields["id"] = LineID(m, from, to)
	return fields
}

// renameLines gives lines whose id is made of a part's old id one of its new id; their
// ends have been moved already.
func renameLines(doc document.Object, from, to string) {
	lines := document.List(doc, "lines")
	taken := map[string]bool{}
	for _, l := range lines {
		if id, ok := l["id"].(string); ok {
			taken[id] = true
		}
	}
	old := func(ref any) string {
		text, _ := ref.(string)
		if id, port := plumbing.PartOf(text); id == to {
			return from + "." + port
		}
		return text
	}
	for _, l := range lines {
		id, _ := l["id"].(string)
		a, _ := l["from"].(string)
		b, _ := l["to"].(string)
		if wasA, wasB := old(a), old(b); (wasA != a || wasB != b) && isJoinedName(id, wasA, wasB) {
			delete(taken, id)
			now := ID(joinedName(a, b), func(id string) bool { return taken[id] })
			l["id"], taken[now] = now, true
		}
	}
}
