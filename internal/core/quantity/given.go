package quantity

import (
	"encoding/json"
	"fmt"
	"math"
	"strings"
)

// Given is a quantity as somebody gave it: the text, kept as typed, and what
// it comes to. The zero value means that nothing was given. A second figure
// for the same thing may stand in brackets: "43 gal (163 L)".
type Given[U Unit] struct {
	text   string
	value  U
	second U
	paired bool
}

// Read makes a Given of a text; an empty text is the zero value.
func Read[U Unit](text string) (Given[U], error) {
	g := Given[U]{text: text}
	if text == "" {
		return g, nil
	}
	main, rest, paired := strings.Cut(text, "(")
	var err error
	if g.value, err = Parse[U](main); err != nil {
		return Given[U]{}, err
	}
	if paired {
		inner, ok := strings.CutSuffix(strings.TrimSpace(rest), ")")
		if !ok {
			return Given[U]{}, &ParseError{Input: text, Why: "the bracket is not closed", Want: "43 gal (163 L)"}
		}
		if g.second, err = Parse[U](inner); err != nil {
			return Given[U]{}, err
		}
		g.paired = true
	}
	return g, nil
}

// Of makes a Given of a value, written in the given system.
func Of[U Unit](v U, sys System) Given[U] {
	text := strings.ReplaceAll(strings.ReplaceAll(Show(v, sys), "\u00a0", " "), "−", "-")
	g, err := Read[U](text)
	if err != nil { // Show writes only what Parse reads; see the round-trip test
		panic(fmt.Sprintf("quantity: %q does not read back: %v", text, err))
	}
	return g
}

// Value is what the text comes to, in the unit of U; 0 when nothing was given.
func (g Given[U]) Value() U { return g.value }

// String is the text as typed.
func (g Given[U]) String() string { return g.text }

// IsZero reports whether nothing was given; encoding/json asks it for omitzero.
func (g Given[U]) IsZero() bool { return g.text == "" }

// Or is the value, or another one when nothing was given.
func (g Given[U]) Or(other U) U {
	if g.IsZero() {
		return other
	}
	return g.value
}

// Disagreement is the relative difference between the two figures given for
// the same thing, 0 when there is only one.
func (g Given[U]) Disagreement() float64 {
	if !g.paired {
		return 0
	}
	top := math.Max(math.Abs(float64(g.value)), math.Abs(float64(g.second)))
	if top == 0 {
		return 0
	}
	return math.Abs(float64(g.value-g.second)) / top
}

// Second is the figure in brackets, as a value.
func (g Given[U]) Second() (U, bool) { return g.second, g.paired }

// MarshalJSON writes the text as typed.
func (g Given[U]) MarshalJSON() ([]byte, error) { return json.Marshal(g.text) }

// UnmarshalJSON reads a text; a bare number has no unit and is refused.
func (g *Given[U]) UnmarshalJSON(b []byte) error {
	var text string
	if err := json.Unmarshal(b, &text); err != nil {
		return &ParseError{Input: string(b), Why: "a quantity is a text with its unit",
			Want: `"` + dimensionOf[U]().examples + `"`}
	}
	got, err := Read[U](text)
	if err != nil {
		return err
	}
	*g = got
	return nil
}

// Format is the name of the kind of amount ("volume", "length" …), as the
// model schema's "format" has it.
func (Given[U]) Format() string { return dimensionOf[U]().name }

// Check reports whether a text reads as this kind of amount.
func (Given[U]) Check(text string) error {
	_, err := Read[U](text)
	return err
}
