package web

import (
	"coldtap/internal/core/compare"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
)

// tell says a fact in the units of a model.
func tell(f fact.Fact, sys quantity.System) string { return words.English(sys).Tell(f) }

// words writes in the units of the model.
func (b *computed) words() *words.Printer { return words.English(b.Sys()) }

// toldFinding is a finding in words.
type toldFinding struct {
	Code     string
	Severity finding.Severity
	Parts    []string
	words.Finding
}

func (b *computed) told(f finding.Finding) toldFinding {
	return toldFinding{f.Code, f.Severity, f.Parts, b.words().Finding(f)}
}

func (b *computed) toldAll(list []finding.Finding) (told []toldFinding) {
	for _, f := range list {
		told = append(told, b.told(f))
	}
	return told
}

// toldFigure is a figure of two builds in words.
type toldFigure struct {
	Name          string
	Before, After string
	Differs       bool
}

// toldFigures writes the figures of two builds, each in its own units.
func toldFigures(list []compare.Figure, before, after quantity.System) (told []toldFigure) {
	for _, f := range list {
		told = append(told, toldFigure{tell(f.Name, after), tell(f.Before, before), tell(f.After, after), f.Differs})
	}
	return told
}

// missing says what the first of some missing figures is.
func missing(list []figure.Missing, sys quantity.System) string {
	if len(list) == 0 {
		return ""
	}
	return tell(list[0].Said(), sys)
}
