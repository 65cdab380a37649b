package system

import (
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
)

// sayRef writes a port in plain words: the name of its part, and the port after a comma.
// A name that two parts have tells neither; there the port stands by its id.
func sayRef(m *plumbing.Model, ref string) string {
	id, port := plumbing.PartOf(ref)
	p := m.Part(id)
	if p == nil || named(m, p.Name) != 1 {
		return ref
	}
	return p.Name + ", " + port
}

// readRef reads a port as it is shown, or by the id of its part; what is neither is left
// to be refused where it is put in.
func readRef(m *plumbing.Model, text string) string {
	text = strings.TrimSpace(text)
	i := strings.LastIndexByte(text, ',')
	if i < 0 {
		return text
	}
	name, port := strings.TrimSpace(text[:i]), strings.ToLower(strings.TrimSpace(text[i+1:]))
	at := slices.IndexFunc(m.Parts, func(p plumbing.Part) bool { return strings.EqualFold(p.Name, name) })
	if at < 0 || named(m, name) != 1 {
		return text
	}
	return m.Parts[at].ID + "." + port
}

// named counts the parts of a name.
func named(m *plumbing.Model, name string) (n int) {
	for i := range m.Parts {
		if strings.EqualFold(m.Parts[i].Name, name) {
			n++
		}
	}
	return n
}

// refs are the fields that name a port.
var refs = []string{"from", "to", "on"}

// readRefs reads the ports among some fields.
func readRefs(m *plumbing.Model, fields map[string]string) map[string]string {
	out := make(map[string]string, len(fields))
	for path, text := range fields {
		if slices.Contains(refs, path) {
			text = readRef(m, text)
		}
		out[path] = text
	}
	return out
}
