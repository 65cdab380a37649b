package edit

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// longestReported is how many letters a finding from a unit has at most.
const longestReported = 400

// Report makes something that was found on a unit a finding of the model, on a part or a line; "" for none.
func Report(m *plumbing.Model, part, text string) (*Done, error) {
	text = strings.Join(strings.Fields(text), " ")
	switch {
	case text == "":
		return nil, fault("Text", "say what was found")
	case len([]rune(text)) > longestReported:
		return nil, fault("Text", "at most 400 letters")
	}
	c := clone(m)
	id := ""
	for n := 1; id == "" || slices.ContainsFunc(m.Reported, func(r plumbing.Reported) bool { return r.ID == id }); n++ {
		id = fmt.Sprintf("reported-%d", n)
	}
	c.Reported = append(slices.Clone(m.Reported), plumbing.Reported{ID: id, Part: part, Text: text})
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, fact.Of("edit.reported", text)}, nil
}
