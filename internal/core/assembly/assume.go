package assembly

import (
	"reflect"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// assume marks what an assembly brought that nobody gave: every quantity of a
// new part or line, and the size of a new line, but those that stand in an
// answer other than the usual one.
func (b *builder) assume(before *plumbing.Model) {
	given := map[string]bool{}
	for _, q := range b.kind.Questions {
		if v := strings.TrimSpace(b.answers[q.Name]); v != "" && v != usual(q, b.sys) {
			given[v] = true
		}
	}
	note := func(list []string, path, text string) []string {
		if text == "" || given[text] {
			return list
		}
		return append(list, path)
	}
	for i := range b.m.Parts {
		p := &b.m.Parts[i]
		if before.Part(p.ID) != nil {
			continue
		}
		for _, from := range []struct {
			path   string
			fields any
		}{{"place.", p.Place}, {"data.", p.Data}} {
			for name, text := range quantities(from.fields) {
				p.Assumed = note(p.Assumed, from.path+name, text)
			}
		}
		slices.Sort(p.Assumed)
	}
	for i := range b.m.Lines {
		l := &b.m.Lines[i]
		if before.Line(l.ID) == nil {
			l.Assumed = note(note(l.Assumed, "length", l.Length.String()), "size", l.Size)
		}
	}
}

// quantities are the quantities of a struct of the document that are given, as
// they are written.
func quantities(of any) map[string]string {
	list := map[string]string{}
	v := reflect.ValueOf(of)
	for i := range v.NumField() {
		g, ok := v.Field(i).Interface().(interface {
			IsZero() bool
			String() string
		})
		if !ok || g.IsZero() {
			continue
		}
		name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		list[name] = g.String()
	}
	return list
}

// usual is what an answer is without being asked otherwise: of two, the one in
// the model's units.
func usual(q Question, sys quantity.System) string {
	us, si, two := strings.Cut(q.Usual, "|")
	if two && sys == quantity.SI {
		return si
	}
	return us
}
