// Package proof carries a procedure out on a network and holds it against rules:
// what must not happen on the way, what must be so at the end. A rule sees the
// system before and after a step and what happened between; it knows no step by
// its name.
package proof

import (
	"context"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Procedure is a job as data: its steps in order, how the system stands before,
// what must be so when it is done.
type Procedure struct {
	ID    string
	After *Procedure // that was carried out before, on the same system; nil where Start says all
	Start Start
	Steps []Step
	Goal  Goal
	Limit Limits
	Wrong func(state.State) state.State // how a unit stands whatever hands do; nil for one that is as it should be
}

// Step is a step with what it is for.
type Step struct {
	run.Step
	For   string // id of what it is for: "drain", "colour"; words and lists go by it, no rule does
	Key   string // by which it is known again when it is made anew; "" where nobody asked
	Words string // what is read in the place of its own words; "" for those
	Pool  int    // of a machine: jugs that are poured together, for a cycle draws more than one; 0 for none
}

// Start is how a system stands when a procedure begins.
type Start struct {
	State  state.State
	Hot    bool    // its heaters are in use
	Supply run.Mix // water that comes by hoses
	Fluids map[state.Fluid]run.Mix
}

// Limits are figures that rules go by.
type Limits struct {
	Film    float64                            // share of a line that a blow leaves
	Smear   float64                            // share of a line that a front mixes over in it
	Cools   map[*plumbing.Part]quantity.Second // as run.Carrier has them
	Drains  map[*plumbing.Part]quantity.Second
	Jug     quantity.Litre      // what a jug of antifreeze holds; 0 for no matter
	Helper  bool                // somebody else stands at the low points
	Alone   float64             // alone so much more runs out there, as a share
	Duty    run.Duty            // of pumps
	Ceiling quantity.MgPerLitre // of chlorine, for any part
	Dry     quantity.Second     // how long a pump may draw air where its own figure is not given
	Air     quantity.Kilopascal // of compressed air, at most; 0 for no bound
}

func (l *Limits) carrier() run.Carrier {
	return run.Carrier{Film: l.Film, Smear: l.Smear, Cools: l.Cools, Drains: l.Drains, Duty: l.Duty}
}

// Carrier carries the steps of a procedure out as its proof does.
func (p *Procedure) Carrier() run.Carrier {
	c := p.Limit.carrier()
	c.Wrong = p.Wrong
	return c
}

// Goal is what must be so at the end. Zero fields ask for nothing.
type Goal struct {
	State      *state.State        // how handles, switches, ports, outlets and fittings stand
	Freeze     float64             // share of glycol below which a liquid that fills a place bursts it; 0 for no frost
	Coloured   []plumbing.NodeID   // outlet sides that it must have been seen at
	Strong     []plumbing.NodeID   // outlet sides that sanitizer must have come to
	Target     quantity.MgPerLitre // of it
	Limit      quantity.MgPerLitre // most chlorine that stays; 0 for no bound
	Clear      []plumbing.NodeID   // outlet sides that must have been seen clear in the end
	Soak       quantity.Second     // how long every tank must have stood full at the target; 0 for no soak
	Dry        bool                // nothing stays that fills its place
	Filled     bool                // every heater is full
	Wet        []plumbing.NodeID   // outlet sides where water without air must have been seen
	Full       []*plumbing.Part    // tanks that are full at the end, as far as Level says
	Level      float64             // 0 to 1; 0 for all of it
	Fresh      quantity.MgPerLitre // of chlorine, least in the tanks that are to be full; 0 for none asked
	Drinkable  quantity.MgPerLitre // of chlorine, most in any tank; 0 for no bound
	Traps      []*plumbing.Part    // whose seals must not freeze
	Emptied    []*plumbing.Part    // heaters that must have run out on the way
	Acid       []*plumbing.Part    // heaters in which vinegar must have stood
	Steeped    []plumbing.NodeID   // outlet sides that something must have come to, and then have stood
	SteepLeast run.Mix             // how strong it must have come there
	SteepFor   quantity.Second     // how long it, or the vinegar, must have stood
	NoAcid     bool                // none of it stays anywhere
	HotFor     quantity.Second     // how long a heater must have heated at a stretch; 0 for none asked
	Sheet      quantity.Litre      // of antifreeze, by the worksheet; 0 for none
	FlushBound quantity.Litre      // of water for flushing, at most by the worksheet; 0 for none
	Weakest    *amount.Weakest     // the place that frost harms first, water from before mixed in; nil for none
	Untreated  map[string]bool     // parts and lines that somebody answers for: they are told elsewhere
}

// Severity is how grave a breach is.
type Severity int

// The severities.
const (
	Note Severity = iota
	Wrong
	Danger // keeps a procedure from being approved
)

// String is the severity's name.
func (s Severity) String() string { return [...]string{"note", "wrong", "danger"}[s] }

// Breach is a rule that a procedure breaks.
type Breach struct {
	Rule     string
	Severity Severity
	Step     int    // from 0; the number of steps for the end
	Part     string // id of a part or a line, "" for none
	Said     fact.Fact
}

// Proof is what a procedure came to.
type Proof struct {
	Outcomes []*run.Outcome
	Systems  []*run.System // before the first step, and after each
	Breaches []Breach
}

// Proven reports whether no rule is broken.
func (p *Proof) Proven() bool { return len(p.Breaches) == 0 }

// Worst is the gravest severity of its breaches, Note where there are none.
func (p *Proof) Worst() (worst Severity) {
	for _, b := range p.Breaches {
		worst = max(worst, b.Severity)
	}
	return worst
}

// moment is what a rule sees.
type moment struct {
	net           *plumbing.Network
	proc          *Procedure
	at            int
	step          *Step
	out           *run.Outcome
	before, after *run.System
	proof         *Proof     // all that happened; nil on the way
	stands        []run.Plug // what pieces gives; nil before it is asked for
}

// pieces are what stands in each piece afterwards.
func (m *moment) pieces() []run.Plug {
	if m.stands == nil {
		m.stands = m.after.Pieces()
	}
	return m.stands
}

// found is one thing that a rule finds.
type found struct {
	part string
	said fact.Fact
}

func about(p *plumbing.Part, more ...any) found {
	return found{part: p.ID, said: fact.Of("", append([]any{p}, more...)...)}
}

// Begin is the system as it stands when a procedure begins.
func Begin(ctx context.Context, n *plumbing.Network, p *Procedure) *run.System {
	if p.After != nil {
		x := Begin(ctx, n, p.After)
		carrier := p.After.Limit.carrier()
		for i := range p.After.Steps {
			if _, err := carrier.Carry(ctx, x, p.After.Steps[i].Step); err != nil {
				break // its own proof tells of it
			}
		}
		if p.Wrong != nil {
			x.State = p.Wrong(x.State)
		}
		return stand(x, p)
	}
	start := p.Start.State
	if p.Wrong != nil {
		start = p.Wrong(start)
	}
	x := run.New(n, start, p.Start.Supply)
	for f, m := range p.Start.Fluids {
		x.Bring(f, m)
	}
	if p.Start.Hot {
		for _, h := range n.PartsOf(plumbing.RoleHeater) {
			x.Heat(h)
		}
	}
	return x
}

// Run is a procedure carried out.
type Run struct {
	Outcomes []*run.Outcome
	Systems  []*run.System // before the first step, and after each
	Broke    error         // why its last step can't be carried out; nil where all were
}

// Prove carries a procedure out and judges the run. A step that can't be carried out is a breach
// of its own and ends the run; the error is the context's.
func Prove(ctx context.Context, n *plumbing.Network, p *Procedure) (*Proof, error) {
	x := Begin(ctx, n, p)
	carrier := p.Carrier()
	r := Run{Systems: []*run.System{x.Clone()}}
	for i := range p.Steps {
		out, err := carrier.Carry(ctx, x, p.Steps[i].Step)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		r.Outcomes, r.Systems, r.Broke = append(r.Outcomes, out), append(r.Systems, x.Clone()), err
		if err != nil {
			break
		}
	}
	return Judge(n, p, r), nil
}

// Judge holds a procedure that was carried out against the rules.
func Judge(n *plumbing.Network, p *Procedure, r Run) *Proof { return judge(n, p, r, true) }

// JudgeSoFar holds the first steps of a procedure against the rules for what happens on the way: what must be so at the
// end is not asked.
func JudgeSoFar(n *plumbing.Network, p *Procedure, r Run) *Proof { return judge(n, p, r, false) }

func judge(n *plumbing.Network, p *Procedure, r Run, ended bool) *Proof {
	proof := &Proof{Outcomes: r.Outcomes, Systems: r.Systems}
	said := map[string]bool{}
	judge := func(m *moment, list []rule) {
		for _, r := range list {
			for _, f := range r.watch(m) {
				if key := r.code + " " + f.part; !said[key] { // it is told where it first was so
					said[key] = true
					proof.Breaches = append(proof.Breaches,
						Breach{r.code, r.severity, m.at, f.part, fact.Of("rule."+r.code, f.said.Args...)})
				}
			}
		}
	}
	for i, out := range r.Outcomes {
		judge(&moment{n, p, i, &p.Steps[i], out, r.Systems[i], r.Systems[i+1], nil, nil}, onTheWay)
	}
	if last := len(r.Outcomes); r.Broke != nil {
		part := ""
		if acts := p.Steps[last-1].Acts; len(acts) > 0 && acts[0].Part != nil {
			part = acts[0].Part.ID
		}
		proof.Breaches = append(proof.Breaches,
			Breach{"cant-do", Wrong, last - 1, part, fact.Of("rule.cant-do", r.Broke.Error())})
	} else if ended {
		judge(&moment{n, p, last, nil, nil, r.Systems[0], r.Systems[last], proof, nil}, atTheEnd)
	}
	slices.SortStableFunc(proof.Breaches, func(a, b Breach) int { return a.Step - b.Step })
	return proof
}
