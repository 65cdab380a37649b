// Package measure says what can be measured on a unit while a procedure is
// carried out there, what a run of the procedure says it would be, and how far
// such a measurement lies beside the truth.
package measure

import (
	"maps"
	"math"
	"slices"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Kind is a kind of measurement.
type Kind string

// What is measured, each in the unit that values of it have.
const (
	Jug     Kind = "jug"     // L of antifreeze drawn so far, at the marks of the jug
	Clock   Kind = "clock"   // s that a step took, by a stop-watch
	Level   Kind = "level"   // share of a tank, by its gauge or a rod
	Strip   Kind = "strip"   // mg/L, the highest field of a test strip that is reached
	Caught  Kind = "caught"  // L that ran out at a place, caught in a bucket
	Refills Kind = "refills" // how often a tank was filled until what comes is clear
)

// Kinds lists them.
func Kinds() []Kind { return []Kind{Jug, Clock, Level, Strip, Caught, Refills} }

// Probe is one thing that can be measured at a step.
type Probe struct {
	Kind Kind
	Step int            // from 0
	Key  string         // of the step, as amend.Keys has it
	Of   string         // what it is measured at: "kitchen.hot", the id of a tank; "" where the step says it
	At   *plumbing.Part // where that is; nil for nowhere in particular
	node plumbing.NodeID
}

// ID tells a probe from the others of a procedure, in whichever network it is carried out.
func (p *Probe) ID() string {
	id := string(p.Kind) + " " + p.Key
	if p.Of != "" {
		id += " " + p.Of
	}
	return id
}

// leastTimed is how long a step takes that a stop-watch is worth for.
const leastTimed quantity.Second = 15

// leastCaught is how much runs out that a bucket is worth for.
const leastCaught quantity.Litre = 0.4

// Probes lists what can be measured while a procedure is carried out as a run
// of it went, in the order of its steps.
func Probes(n *plumbing.Network, p *proof.Procedure, pr *proof.Proof) (list []Probe) {
	keys := amend.Keys(p.Steps)
	dosed := p.Start.State.Levels != nil && carries(pr.Systems[0])
	for i := range pr.Outcomes {
		s, o := &p.Steps[i], pr.Outcomes[i]
		add := func(k Kind, of string, at *plumbing.Part, node plumbing.NodeID) {
			list = append(list, Probe{k, i, keys[i], of, at, node})
		}
		if slices.Contains(timed, s.Until.Sense) && o.Took >= leastTimed {
			add(Clock, "", nil, plumbing.None)
		}
		if drew(pr, i) > 0 {
			add(Jug, "", nil, plumbing.None)
		}
		for _, at := range caught(n, s, o) {
			add(Caught, n.Nodes[at].Name(), n.Nodes[at].Part, at)
		}
		for _, t := range n.PartsOf(plumbing.RoleTank) {
			before, after := pr.Systems[i].Vessel(t), pr.Systems[i+1].Vessel(t)
			if before == nil || after == nil || after.Holds <= 0 {
				continue
			}
			share := float64((after.Liquid.Litre - before.Liquid.Litre) / after.Holds)
			if math.Abs(share) > 0.02 || s.Until.Sense == run.Passed && pressed(pr.Systems[i+1]) {
				add(Level, t.ID, t, plumbing.None)
			}
			dosed = dosed || after.Liquid.Mix.Chlorine > p.Start.Supply.Chlorine+1
			if s.Until.Sense == run.Passed && after.Liquid.Mix.Chlorine > p.Start.Supply.Chlorine+1 {
				add(Strip, t.ID, t, plumbing.None)
			}
		}
		if dosed && strips(s) {
			for _, at := range s.Until.At {
				add(Strip, n.Nodes[at].Name(), n.Nodes[at].Part, at)
			}
		}
	}
	if len(p.Goal.Clear) > 0 && dosed && len(list) > 0 {
		last := len(pr.Outcomes) - 1
		list = append(list, Probe{Kind: Refills, Step: last, Key: keys[last], node: plumbing.None})
	}
	return list
}

// timed are the senses whose waiting a stop-watch tells something of.
var timed = []run.Sense{run.Full, run.Dry, run.Empty, run.Races, run.Ran, run.Clear, run.Coloured, run.Solid}

// strips reports whether a strip tells anything at the places of a step.
func strips(s *proof.Step) bool {
	return slices.Contains([]run.Sense{run.Strong, run.Smelled, run.Clear, run.Ran}, s.Until.Sense)
}

// pressed reports whether a hose stands under pressure at a port.
func pressed(x *run.System) bool {
	for _, c := range x.State.Joined {
		if c.Kind == state.Supply {
			return true
		}
	}
	return false
}

func carries(x *run.System) bool {
	return slices.ContainsFunc(x.Vessels(), func(v run.Vessel) bool { return v.Liquid.Mix.Chlorine > 1 })
}

// drew is how much antifreeze came from jugs in a step.
func drew(pr *proof.Proof, step int) (sum quantity.Litre) {
	o := pr.Outcomes[step]
	for _, at := range slices.Sorted(maps.Keys(o.Drew)) {
		before, after := pr.Systems[step].State.Joined[at], pr.Systems[step+1].State.Joined[at]
		for _, c := range []state.Connection{after, before} {
			if c.Fluid == state.Antifreeze && (c.Kind == state.Container || c.Kind == state.HandPump) {
				sum += o.Drew[at]
				break
			}
		}
	}
	return sum
}

// caught are the openings below which a bucket tells something: those that let run out as much, and that no waste
// tank takes.
func caught(n *plumbing.Network, s *proof.Step, o *run.Outcome) (list []plumbing.NodeID) {
	if s.Until.Sense != run.Dry && s.Until.Sense != run.Coloured {
		return nil
	}
	for _, at := range slices.Sorted(maps.Keys(o.Ran)) {
		if p := n.Nodes[at].Part; o.Ran[at] >= leastCaught && p.Role() == plumbing.RoleDrain {
			list = append(list, at)
		}
	}
	return list
}

// Value is what a run says that a probe would measure; false where it tells nothing.
func (p *Probe) Value(n *plumbing.Network, proc *proof.Procedure, pr *proof.Proof) (float64, bool) {
	if p.Step >= len(pr.Outcomes) {
		return 0, false
	}
	o := pr.Outcomes[p.Step]
	switch p.Kind {
	case Jug:
		var sum quantity.Litre
		for i := range p.Step + 1 {
			sum += drew(pr, i)
		}
		return float64(sum), true
	case Clock:
		return float64(o.Took), true
	case Caught:
		return float64(o.Ran[p.node]), true
	case Level:
		if v := vessel(n, pr.Systems[p.Step+1], p.Of); v != nil {
			return float64(v.Liquid.Litre / v.Holds), true
		}
	case Strip:
		if v := vessel(n, pr.Systems[p.Step+1], p.Of); v != nil {
			return float64(v.Liquid.Mix.Chlorine), true
		}
		if x, ok := o.Arrived[p.node]; ok && x.Liquid() > 0 {
			return float64(x.Mix.Chlorine), true
		}
	case Refills:
		return float64(refills(proc, pr)), true
	}
	return 0, false
}

func vessel(n *plumbing.Network, x *run.System, id string) *run.Vessel {
	if t := n.Model.Part(id); t != nil {
		return x.Vessel(t)
	}
	return nil
}

// refills is after how many fillings everything that comes is clear; one more than there are where it never is.
func refills(proc *proof.Procedure, pr *proof.Proof) int {
	came, fills, dosed := map[plumbing.NodeID]quantity.MgPerLitre{}, 0, carries(pr.Systems[0])
	limit := proc.Goal.Limit
	for i, o := range pr.Outcomes {
		s := &proc.Steps[i]
		for _, p := range s.Pour {
			dosed = dosed || p.Mix.Chlorine > limit
		}
		soaked := slices.ContainsFunc(proc.Goal.Clear, func(at plumbing.NodeID) bool { return came[at] > limit })
		if s.Until.Sense == run.Full && dosed && (soaked || carries(pr.Systems[0])) && len(s.Pour) == 0 &&
			!strong(pr.Systems[i], s.Until.Tank) {
			fills++
		}
		for _, at := range s.Until.At {
			if x, ok := o.Arrived[at]; ok && x.Liquid() > 0 {
				came[at] = x.Mix.Chlorine
			}
		}
		if fills > 0 && !slices.ContainsFunc(proc.Goal.Clear, func(at plumbing.NodeID) bool { return came[at] > limit }) {
			return fills
		}
	}
	return fills + 1
}

// strong reports whether a tank still stands nearly full, of which a filling is but a top-up.
func strong(x *run.System, t *plumbing.Part) bool {
	if t == nil {
		return false
	}
	v := x.Vessel(t)
	return v != nil && v.Liquid.Litre > v.Holds/2
}

// Reading is what was measured by a probe.
type Reading struct {
	Probe  string // its id
	Kind   Kind
	Low    float64 // of a strip: the field that is reached, and the next one
	High   float64 // of others both are what was read
	Spread float64 // standard deviation of such a measurement, in its unit
}

// Half widths within which a careful reading lies: of a jug between its marks, of a hand at a stop-watch, of a tank's
// gauge, of a bucket. A reading lies anywhere within them alike, so that its standard deviation is the half
// width by √3 (JCGM 100:2008, 4.3.7).
const (
	JugHalf    quantity.Litre  = 0.1 * quantity.USGallon
	ClockHalf  quantity.Second = 3
	LevelHalf                  = 0.05
	CaughtHalf quantity.Litre  = 0.2   // of each bucket of 10 L
	clockShare                 = 0.015 // of a time, for flows are known to two digits
	stripShare                 = 0.15  // of a field's strength that its colour may be off by
)

// Spread is the standard deviation of a measurement that gave a value.
func Spread(k Kind, value float64) float64 {
	switch k {
	case Jug:
		return float64(JugHalf) / math.Sqrt(3)
	case Clock:
		return math.Hypot(float64(ClockHalf)/math.Sqrt(3), clockShare*value)
	case Level:
		return LevelHalf / math.Sqrt(3)
	case Caught:
		return float64(CaughtHalf) * math.Sqrt(max(1, math.Ceil(value/10))/3)
	case Strip:
		return max(1, stripShare*value)
	}
	return 0.5 / math.Sqrt(3)
}

// Of is a reading of a probe; fields are those of the strip, rising.
func Of(p *Probe, value float64, fields []quantity.MgPerLitre) Reading {
	r := Reading{Probe: p.ID(), Kind: p.Kind, Low: value, High: value, Spread: Spread(p.Kind, value)}
	if p.Kind == Strip {
		r.High = math.Inf(1)
		for _, f := range fields {
			if float64(f) > value {
				r.High = float64(f)
				break
			}
		}
	}
	return r
}

// Off is how far what a run says lies beside a reading, in standard deviations;
// 0 within the fields of a strip.
func (r *Reading) Off(says float64) float64 {
	switch {
	case says < r.Low:
		return (r.Low - says) / r.Spread
	case says > r.High:
		return (r.High - says) / r.Spread
	}
	return 0
}

// Says is what a run says to each of some probes, by their ids.
func Says(n *plumbing.Network, p *proof.Procedure, pr *proof.Proof, probes []Probe) map[string]float64 {
	said := make(map[string]float64, len(probes))
	for i := range probes {
		if v, ok := probes[i].Value(n, p, pr); ok {
			said[probes[i].ID()] = v
		}
	}
	return said
}

// Watched is how long a hose stays on in a trial with every tap shut.
const Watched quantity.Second = 1800

// OnTrial is a procedure as it is carried out on a unit: where it ends with a hose under pressure and every tap shut,
// that is watched for a time.
func OnTrial(n *plumbing.Network, p *proof.Procedure, pr *proof.Proof) *proof.Procedure {
	last := pr.Systems[len(pr.Systems)-1]
	at := slices.ContainsFunc(slices.Sorted(maps.Keys(last.State.Joined)), func(at plumbing.NodeID) bool {
		return last.State.Joined[at].Kind == state.Supply && n.Nodes[at].Part.Role() == plumbing.RoleInlet
	})
	if !at || len(pr.Outcomes) < len(p.Steps) {
		return p
	}
	q := *p
	q.Steps = append(slices.Clone(p.Steps), proof.Step{For: "leaks", Key: "watched",
		Step: run.Step{Until: run.Until{Sense: run.Passed, For: Watched}}})
	return &q
}
