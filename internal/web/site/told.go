package site

import (
	"context"
	"errors"
	"strings"

	"coldtap/internal/app"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
)

// Tell says a fact in the units of a model.
func Tell(f fact.Fact, sys quantity.System) string { return words.English(sys).Tell(f) }

// Words writes in the units of the model.
func (b *Computed) Words() *words.Printer { return words.English(b.Sys()) }

// ToldFinding is a finding in words.
type ToldFinding struct {
	Code     string
	Severity finding.Severity
	Parts    []string
	words.Finding
}

// Told is a finding in words.
func (b *Computed) Told(f finding.Finding) ToldFinding {
	return ToldFinding{f.Code, f.Severity, f.Parts, b.Words().Finding(f)}
}

// ToldAll are some findings in words.
func (b *Computed) ToldAll(list []finding.Finding) (told []ToldFinding) {
	for _, f := range list {
		told = append(told, b.Told(f))
	}
	return told
}

// ToldFigure is a figure of two builds in words.
type ToldFigure struct {
	Name          string
	Before, After string
	Differs       bool
}

// ToldFigures writes the figures of two builds, each in its own units.
func ToldFigures(list []compare.Figure, before, after quantity.System) (told []ToldFigure) {
	for _, f := range list {
		told = append(told, ToldFigure{Tell(f.Name, after), Tell(f.Before, before), Tell(f.After, after), f.Differs})
	}
	return told
}

// missing says what the first of some missing figures is.
func missing(list []figure.Missing, sys quantity.System) string {
	if len(list) == 0 {
		return ""
	}
	return Tell(list[0].Said(), sys)
}

// Words are what of an error is for whoever uses the product: what the core says, and nothing of
// what the program is made of.
func Words(err error) string {
	switch {
	case errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return "this takes longer than it may; try again, or with a smaller system"
	case errors.As(err, new(*app.KeepError)):
		return "the database did not take or give it; try again in a moment"
	}
	return err.Error()
}

// UpperFirst begins a sentence with a text.
func UpperFirst(s string) string { return plumbing.Upper(s) }

// PlainCell is a text that no spreadsheet takes for a formula.
func PlainCell(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}
