// Package paper puts exercises in words: what is kept of them, and served
// without computing anything.
package paper

import (
	"coldtap/internal/core/drill"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
)

// Paper is an exercise in words.
type Paper struct {
	drill.Solution
	Key     string            `json:"key"`
	Ask     string            `json:"ask"`
	Told    []string          `json:"told,omitempty"`
	Steps   []string          `json:"steps,omitempty"`
	Gap     int               `json:"gap,omitempty"`
	Options []Option          `json:"options,omitempty"`
	Reasons map[string]Reason `json:"reasons,omitempty"`
	Shows   []Shown           `json:"shows,omitempty"` // what each of Looks shows
	Hints   []string          `json:"hints,omitempty"`
	Hard    int               `json:"hard"`
	About   []string          `json:"about,omitempty"`
	Traps   []string          `json:"traps,omitempty"`
	Task    string            `json:"task,omitempty"`
}

// Option is something that can be chosen.
type Option struct {
	ID    string   `json:"id"`
	Said  string   `json:"said"`
	Parts []string `json:"parts,omitempty"`
}

// Reason is why an answer is right or wrong.
type Reason struct {
	Said   []string `json:"said,omitempty"`
	Parts  []string `json:"parts,omitempty"`
	Danger bool     `json:"danger,omitempty"`
}

// Shown is what a look shows.
type Shown struct {
	Look string   `json:"look"`
	Seen []string `json:"seen,omitempty"`
}

// Of puts an exercise in words.
func Of(p *words.Printer, n *plumbing.Network, x *drill.Exercise) Paper {
	out := Paper{Solution: x.Solution, Key: x.Key, Ask: p.Tell(x.Ask), Told: p.TellAll(x.Told), Steps: p.TellAll(x.Steps),
		Gap: x.Gap, Hints: p.TellAll(x.Hints), Hard: x.Hard, About: x.About, Traps: x.Traps, Task: x.Task,
		Reasons: map[string]Reason{}}
	for _, o := range x.Options {
		said := p.Tell(o.Said)
		if o.Said.IsZero() {
			said = p.Effects(n, o.Effects)
		}
		out.Options = append(out.Options, Option{o.ID, said, o.Parts})
	}
	for id, r := range x.Reasons {
		out.Reasons[id] = ReasonOf(p, n, r)
	}
	for _, s := range x.Shows {
		out.Shows = append(out.Shows, Shown{p.Tell(s.Look), p.TellAll(s.Seen)})
	}
	return out
}

// Alike reports whether two choices read alike, or one reads like what is shown:
// nobody could tell them apart, whatever is behind them.
func (x *Paper) Alike() bool {
	said := map[string]bool{}
	for _, s := range x.Steps {
		said[s] = true
	}
	for _, o := range x.Options {
		if said[o.Said] {
			return true
		}
		said[o.Said] = true
	}
	return false
}

// ReasonOf puts a reason in words.
func ReasonOf(p *words.Printer, n *plumbing.Network, r drill.Reason) Reason {
	out := Reason{Said: p.TellAll(r.Said), Parts: r.Parts, Danger: r.Danger}
	if len(r.Effects) > 0 {
		out.Said = append(out.Said, p.Effects(n, r.Effects))
	}
	return out
}

// Gives tells what strength an amount comes to that somebody typed; "" where it is
// no dose.
func (x *Paper) Gives(p *words.Printer, typed string) string {
	litres, err := x.Litres(typed)
	if x.PerLitre == 0 || err != nil {
		return ""
	}
	return p.Tell(fact.Of("drill.gives", typed, quantity.MgPerLitre(litres*x.PerLitre)))
}
