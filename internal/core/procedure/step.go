// Package procedure generates the steps of each job from a model's equipment,
// its settings and its amounts. A step is data; its words come from templates
// by act and equipment.
package procedure

import (
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
)

// Act is what a step does.
type Act string

// The acts.
const (
	Prepare Act = "prepare"
	Switch  Act = "switch"
	Set     Act = "set"
	Attach  Act = "attach"
	Open    Act = "open"
	Close   Act = "close"
	Drain   Act = "drain"
	Pour    Act = "pour"
	Fill    Act = "fill"
	Wait    Act = "wait"
	Look    Act = "look"
)

// Caution is a warning that stands at its step.
type Caution struct {
	Level string // "danger", "warning", "note"
	Words string
}

// HandlePosition is a handle and the position a step turns it to.
type HandlePosition struct {
	Part     *plumbing.Part
	Position string
}

// Step is one step of a procedure.
type Step struct {
	Act      Act
	Words    string
	Parts    []*plumbing.Part // what it is done to
	Turn     []HandlePosition
	Until    string
	Amount   quantity.Litre
	Tools    []string
	Cautions []Caution
}

// End is the step's until-condition where its words do not tell it already.
func (s Step) End() string {
	if strings.Contains(s.Words, s.Until) {
		return ""
	}
	return s.Until
}

// Procedure is a job: its steps in an order that is safe.
type Procedure struct {
	ID     string
	Name   string
	Needs  []string // what to have at hand, with amounts
	Steps  []Step
	CantDo string // why the job can't be done on this model; "" if it can
}

// Inputs are what procedures are generated from.
type Inputs struct {
	Net   *plumbing.Network
	Plan  []setting.Answer
	House house.House
}

// generator builds a procedure step by step.
type generator struct {
	Inputs
	sys  quantity.System
	at   state.State // where the handles stand after the steps so far
	proc Procedure
}

func newGenerator(in Inputs, id, name string) *generator {
	g := &generator{Inputs: in, sys: in.Net.Model.System(), at: state.Normal(in.Net),
		proc: Procedure{ID: id, Name: name}}
	if a := setting.ForMode(in.Plan, setting.Everyday); a != nil && a.OK {
		g.at = a.State
	}
	return g
}

func (g *generator) step(s Step) { g.proc.Steps = append(g.proc.Steps, s) }

func (g *generator) show(l quantity.Litre) string { return quantity.Both(l, g.sys) }

// turnTo adds a step that turns the handles from where they stand to a
// setting; handles that stay are not named.
func (g *generator) turnTo(s state.State, words string) {
	var turn []HandlePosition
	var parts []*plumbing.Part
	for i, h := range g.Net.AllHandles() {
		if s.Handles[i] != g.at.Handles[i] {
			turn = append(turn, HandlePosition{h.Part, h.Positions[s.Position(i)]})
			parts = append(parts, h.Part)
		}
	}
	g.at = s
	if len(turn) > 0 {
		g.step(Step{Act: Set, Words: words, Turn: turn, Parts: parts})
	}
}

// openings are a step that opens or closes drains and plugs.
func (g *generator) openings(act Act, parts []*plumbing.Part, position, words, until string, cautions ...Caution) {
	s := Step{Act: act, Words: words, Until: until, Parts: parts, Cautions: cautions}
	if !slices.ContainsFunc(parts, func(p *plumbing.Part) bool { return !strings.Contains(p.Place.Reach, "inside") }) {
		under := g.reachUnder() // nobody reaches under the floor for what is inside
		s.Cautions = slices.DeleteFunc(s.Cautions, func(c Caution) bool { return c == under })
	}
	for _, p := range parts {
		s.Turn = append(s.Turn, HandlePosition{p, position})
		if p.Tool != "" {
			s.Tools = append(s.Tools, p.Tool)
		}
	}
	if len(parts) > 0 {
		g.step(s)
	}
}

func (g *generator) tell(f fact.Fact) string { return words.English(g.sys).Tell(f) }

// best says what the best setting there is does not do on this model.
func (g *generator) best(a *setting.Answer) {
	why := g.tell(a.Why)
	if a.Breaks(setting.HeaterOut) && a.Mode.Fluid == "sanitizer" {
		why += " Ask the heater's maker before you sanitize."
	}
	g.step(Step{Act: Look, Words: "On this model this is the best there is: " +
		strings.Join(words.English(g.sys).TellAll(a.Wrong(g.Net)), " "), Cautions: []Caution{{"warning", why}}})
}
