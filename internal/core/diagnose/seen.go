package diagnose

import (
	"cmp"
	"context"
	"maps"
	"math"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// SignKind is a kind of thing that a person sees, hears or feels.
type SignKind string

// The kinds of sign.
const (
	Stream SignKind = "stream" // what comes at the outlet
	Warmth SignKind = "warmth" // of it
	Sound  SignKind = "sound"  // of a pump
	Level  SignKind = "level"  // of a tank, by its gauge
	Wet    SignKind = "wet"    // water where none should be
	Stands SignKind = "stands" // how a handle or a switch stands
)

// Sign is one thing that is seen in a look, as a word of a small set, with the
// figure behind it.
type Sign struct {
	Kind  SignKind
	Part  *plumbing.Part
	Side  string
	Word  string
	Value float64
}

// Said tells a sign.
func (s *Sign) Said() fact.Fact {
	switch s.Kind {
	case Stream:
		return fact.Of("seen.stream." + s.Word)
	case Stands:
		if s.Word == "off" || s.Word == "on" {
			return fact.Of("seen.switch."+s.Word, s.Part)
		}
		return fact.Of("seen.stands", s.Part, plumbing.Standing{Part: s.Part, Position: s.Word})
	}
	return fact.Of("seen."+string(s.Kind)+"."+s.Word, s.Part)
}

// Seen is what a look shows.
type Seen struct {
	Signs   []Sign
	Dangers []proof.Breach // what it would do to somebody on a real unit
}

// clearly is by what share figures differ at least that are told apart.
const clearly = 0.2

// Apart reports whether a person tells two Seens of one look apart: other words,
// and not for a figure at the border between them.
func (s *Seen) Apart(o *Seen) bool {
	for i := range s.Signs {
		a := &s.Signs[i]
		b := o.sign(a)
		if b == nil || a.Word != b.Word && math.Abs(a.Value-b.Value) >=
			clearly*max(math.Abs(a.Value), math.Abs(b.Value)) {
			return true
		}
	}
	return slices.ContainsFunc(o.Signs, func(b Sign) bool { return s.sign(&b) == nil })
}

// sign is the sign of the same thing; nil for none.
func (s *Seen) sign(of *Sign) *Sign {
	for i := range s.Signs {
		if x := &s.Signs[i]; x.Kind == of.Kind && x.Part == of.Part && x.Side == of.Side {
			return x
		}
	}
	return nil
}

// Case is a mode that is set on a unit, in which one thing is wrong.
type Case struct {
	Net   *plumbing.Network
	Mode  *setting.Answer
	Limit proof.Limits // figures that rules go by
}

// half is how full tanks stand when somebody begins to look.
const half = 0.5

// start is how the system stands with a fault there; nil for none.
func (c *Case) start(f *fault.Fault) (*plumbing.Network, state.State) {
	n, s := c.Net, c.Mode.Mode.State(c.Mode.State.Handles)
	s.Open = nil
	s.Levels = maps.Clone(s.Levels)
	if s.Levels == nil {
		s.Levels = map[string]float64{}
	}
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		s.Levels[t.ID] = half
	}
	if f == nil {
		return n, s
	}
	return f.Network(n), f.In(s)
}

// Look carries a look out with a fault there, nil for none; usual is what runs
// where all is as it should be. The error is the context's.
func (c *Case) Look(ctx context.Context, f *fault.Fault, l *Look, usual float64) (*Seen, error) {
	n, s := c.start(f)
	if l.Kind == See {
		return c.see(f, l, s), nil
	}
	until := run.Until{Sense: run.Passed, For: l.For}
	if l.Kind == Wait && s.Pumps != 0 {
		until.Sense = run.Races // nobody lets it race on
	}
	p := &proof.Procedure{Start: proof.Start{State: s, Hot: true}, Limit: c.Limit,
		Steps: []proof.Step{{Step: run.Step{Acts: l.Acts, Until: until}}}}
	if f != nil && f.Off != 0 {
		off := f.Off
		p.Wrong = func(s state.State) state.State { s.Pumps &^= off; return s }
	}
	pr, err := proof.Prove(ctx, n, p)
	if err != nil {
		return nil, err
	}
	seen := &Seen{}
	for _, b := range pr.Breaches {
		if b.Severity == proof.Danger && b.Step == 0 {
			seen.Dangers = append(seen.Dangers, b)
		}
	}
	if len(pr.Outcomes) == 0 {
		return seen, nil
	}
	before, after, o := pr.Systems[0], pr.Systems[len(pr.Systems)-1], pr.Outcomes[0]
	steady, err := flow.SteadyFlow(ctx, n, after.State)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err != nil {
		steady = nil
	}
	if l.Side != plumbing.None {
		seen.stream(n, l, o, steady, usual)
	}
	seen.sounds(n, o, steady, c.starved(n, after.State, l))
	if l.Kind == Wait {
		seen.levels(n, before, after, o)
	}
	seen.elsewhere(n, l, o)
	return seen, nil
}

// see is how a handle or a switch stands, seen without touching it.
func (c *Case) see(f *fault.Fault, l *Look, s state.State) *Seen {
	sign := Sign{Kind: Stands, Part: l.Part, Word: "on"}
	if h := c.Net.HandleOf(l.Part.ID); h != plumbing.None {
		sign.Word = c.Net.Handles[h].Positions[s.Position(h)]
		sign.Value = 1 + float64(s.Position(h))
	} else if f != nil && f.Part == l.Part && f.Off != 0 {
		sign.Word, sign.Value = "off", 1
	}
	return &Seen{Signs: []Sign{sign}}
}

// flowOf is what a look lets run in a minute.
func flowOf(l *Look, o *run.Outcome) float64 {
	if o.Took <= 0 {
		return 0
	}
	return float64(o.Ran[l.Side]) / float64(o.Took) * 60
}

// Shares of the usual stream at which another word is used for it.
const (
	trickles = 0.03
	weakens  = 0.3
	usually  = 0.75
	gushes   = 1.35
)

// stream is what comes at the outlet, and how warm.
func (s *Seen) stream(n *plumbing.Network, l *Look, o *run.Outcome, steady *flow.Steady, usual float64) {
	ran := flowOf(l, o)
	share := ran
	if usual > 0 {
		share = ran / usual
	}
	sign := Sign{Kind: Stream, Part: n.Nodes[l.Side].Part, Side: n.Nodes[l.Side].Port, Word: "usual", Value: share}
	arrived, there := o.Arrived[l.Side]
	switch {
	case share < trickles:
		sign.Word, sign.Value = "nothing", 0
	case there && arrived.Gas > 0.5:
		sign.Word = "spits"
	case share < weakens:
		sign.Word = "trickle"
	case share < usually:
		sign.Word = "weak"
	case share > gushes:
		sign.Word = "strong"
	}
	s.Signs = append(s.Signs, sign)
	if sign.Word == "nothing" || sign.Word == "spits" || sign.Side != "hot" || steady == nil {
		return
	}
	hot := heated(n, steady)[l.Side]
	warm := Sign{Kind: Warmth, Part: sign.Part, Side: sign.Side, Word: "lukewarm", Value: hot}
	switch {
	case hot < 0.15:
		warm.Word, warm.Value = "cold", 0
	case hot > 0.85:
		warm.Word, warm.Value = "hot", 1
	}
	s.Signs = append(s.Signs, warm)
}

// heated is, by node, the share of what comes there that ran through a heater.
// Parts that join lines without loss mix what comes to them.
func heated(n *plumbing.Network, steady *flow.Steady) []float64 {
	place, count := flow.Places(n)
	in, hot, share := make([]float64, count), make([]float64, count), make([]float64, count)
	for range count {
		clear(in)
		clear(hot)
		for i, l := range n.AllLinks() {
			from, to, q := place[l.A], place[l.B], float64(steady.Flow[i])
			if q < 0 {
				from, to, q = to, from, -q
			}
			if q == 0 || from == to {
				continue
			}
			in[to] += q
			if l.Part != nil && l.Part.Role() == plumbing.RoleHeater {
				hot[to] += q
			} else {
				hot[to] += q * share[from]
			}
		}
		most := 0.0
		for p := range share {
			if in[p] > 0 {
				most = max(most, math.Abs(hot[p]/in[p]-share[p]))
				share[p] = hot[p] / in[p]
			}
		}
		if most < 1e-6 {
			break
		}
	}
	nodes := make([]float64, len(n.Nodes))
	for i := range nodes {
		nodes[i] = share[place[i]]
	}
	return nodes
}

// starved are the pumps that are on and get nothing to draw, once an outlet has let
// the pressure fall: their switch never stops them.
func (c *Case) starved(n *plumbing.Network, s state.State, l *Look) map[string]bool {
	list := map[string]bool{}
	if l.Side == plumbing.None {
		return list
	}
	from := slices.Clone(c.Mode.Mode.From)
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		from = append(from, n.NodesOf(t, "supply")...)
	}
	r := flow.Reach(n, s, flow.Query{From: from})
	for i, p := range n.Pumps {
		list[p.ID] = s.Pumps.Has(plumbing.PumpID(i)) && !r.Node(n.Node(p.ID+".in"))
	}
	return list
}

// sounds are what is heard of each pump.
func (s *Seen) sounds(n *plumbing.Network, o *run.Outcome, steady *flow.Steady, starved map[string]bool) {
	for _, p := range n.Pumps {
		sign := Sign{Kind: Sound, Part: p, Word: "runs", Value: 1}
		ran := 0.0
		if o.Took > 0 {
			ran = float64(o.Pumps[p.ID] / o.Took)
		}
		switch {
		case o.Dry[p.ID] > 3:
			sign.Word, sign.Value = "races", 3
		case starved[p.ID]:
			sign.Word, sign.Value = "dry", 4
		case ran < 0.001:
			sign.Word, sign.Value = "silent", 0
		case steady != nil && steady.Pumps[p.ID] == flow.Cycling:
			sign.Word, sign.Value = "on-off", 2
		}
		s.Signs = append(s.Signs, sign)
	}
}

// gaugeShows is the share of a tank by which its level must have changed to be
// seen on a gauge.
const gaugeShows = 0.1

// levels are what the gauges of tanks show after a wait.
func (s *Seen) levels(n *plumbing.Network, before, after *run.System, o *run.Outcome) {
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		was, is := before.Vessel(t), after.Vessel(t)
		if was == nil || is == nil || was.Holds <= 0 {
			continue
		}
		d := float64((is.Liquid.Litre - was.Liquid.Litre) / was.Holds)
		sign := Sign{Kind: Level, Part: t, Word: "stays", Value: d}
		switch {
		case o.Spilled[t] > 0.2:
			sign.Word, sign.Value = "over", 1
		case d > gaugeShows:
			sign.Word = "rises"
		case d < -gaugeShows:
			sign.Word = "falls"
		}
		s.Signs = append(s.Signs, sign)
	}
}

// splash is how much water is seen where none should be.
const splash quantity.Litre = 0.2

// elsewhere is where water runs out that nobody opened.
func (s *Seen) elsewhere(n *plumbing.Network, l *Look, o *run.Outcome) {
	wet := map[*plumbing.Part]quantity.Litre{}
	for at, ran := range o.Ran {
		if p := n.Nodes[at].Part; at != l.Side && p != l.Part {
			wet[p] += ran
		}
	}
	byID := func(a, b *plumbing.Part) int { return cmp.Compare(a.ID, b.ID) }
	for _, p := range slices.SortedFunc(maps.Keys(wet), byID) {
		if wet[p] > splash {
			s.Signs = append(s.Signs, Sign{Kind: Wet, Part: p, Word: "runs", Value: float64(wet[p])})
		}
	}
}
