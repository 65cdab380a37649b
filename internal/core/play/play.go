// Package play shows a procedure's run as a film: what stands in each line,
// tank and heater, what comes out where, from moment to moment.
package play

import (
	"context"
	"math"
	"strconv"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Film is a run from frame to frame. Each frame says what has changed since
// the one before; the first says everything.
type Film struct {
	Frames []Frame `json:"frames"`
	Needs  float64 `json:"needs"` // share of glycol that protects; 0 where nothing has to
}

// Frame is a moment.
type Frame struct {
	Step    int                `json:"s"`           // from 0; of the first frame -1
	Time    float64            `json:"t"`           // seconds since the procedure began
	Lines   map[string]string  `json:"l,omitempty"` // line to what stands in it from its first end, as Fluids writes it
	Vessels map[string]Level   `json:"v,omitempty"` // tank or heater
	Outlets map[string]string  `json:"o,omitempty"` // part to what runs out there, "" for nothing any more
	Waste   map[string]float64 `json:"w,omitempty"` // waste tank to litres
	Jugs    map[string]float64 `json:"j,omitempty"` // port to litres drawn from what is joined there
	Handles map[string]string  `json:"h,omitempty"` // part to the position that its handle stands in
	Pumps   map[string]bool    `json:"p,omitempty"`
	Open    map[string]bool    `json:"e,omitempty"` // outlets that are open
	Joined  map[string]string  `json:"c,omitempty"` // ports to what is joined there
	Out     map[string]bool    `json:"x,omitempty"` // what is taken out
	Heat    map[string]bool    `json:"a,omitempty"` // heaters that are on
}

// Level is how full a vessel is, and of what.
type Level struct {
	Full  float64 `json:"f"` // 0 to 1
	Fluid string  `json:"k"`
}

// most is how many frames a step has at most.
const most = 12

// Of plays a procedure whose run is known: how long each step takes spaces its frames.
func Of(ctx context.Context, n *plumbing.Network, p *proof.Procedure, r *proof.Proof) (*Film, error) {
	f := &film{n: n, Film: &Film{Needs: p.Goal.Freeze}, last: blank(), drew: map[plumbing.NodeID]quantity.Litre{}}
	x := proof.Begin(ctx, n, p)
	f.shoot(-1, x, nil)
	carrier := p.Carrier()
	for i := range r.Outcomes {
		shown, every := 0, float64(r.Outcomes[i].Took)/most
		next := every
		carrier.Watch = func(x *run.System, m *run.Moved) {
			if float64(m.Took) >= next && shown < most {
				f.shoot(i, x, m)
				shown++
				next = float64(m.Took) + every
			}
		}
		o, err := carrier.Carry(ctx, x, p.Steps[i].Step)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		f.shoot(i, x, &o.Moved)
		for at, drew := range o.Drew {
			f.drew[at] += drew
		}
		if err != nil {
			break // its proof tells of it
		}
	}
	return f.Film, nil
}

// film is a film in the making.
type film struct {
	*Film
	n    *plumbing.Network
	last Frame
	drew map[plumbing.NodeID]quantity.Litre // from what is joined to ports, in the steps before
}

func blank() Frame {
	return Frame{Lines: map[string]string{}, Vessels: map[string]Level{}, Outlets: map[string]string{},
		Waste: map[string]float64{}, Jugs: map[string]float64{}, Handles: map[string]string{},
		Pumps: map[string]bool{}, Open: map[string]bool{},
		Joined: map[string]string{}, Out: map[string]bool{}, Heat: map[string]bool{}}
}

// Fluid is a letter for what something is, and how much of it as a digit: "w" water, "a" air, "g" glycol,
// "c" chlorine, "v" vinegar.
func Fluid(m run.Mix) string {
	digit := func(letter string, share float64) string {
		return letter + strconv.Itoa(min(9, max(0, int(math.Ceil(share*10))-1)))
	}
	switch {
	case m.Glycol > 0.005:
		return digit("g", m.Glycol/0.4)
	case m.Acid > 0.0005:
		return digit("v", m.Acid/0.05)
	case m.Chlorine > 4:
		return digit("c", float64(m.Chlorine)/60)
	}
	return "w"
}

// shoot takes a frame.
func (f *film) shoot(step int, x *run.System, m *run.Moved) {
	now := blank()
	now.Step, now.Time = step, float64(x.Clock())
	for i, l := range f.n.AllLinks() {
		if q := x.Stretch(i); q != nil {
			now.Lines[l.Line.ID] = stretch(q)
		}
	}
	for _, v := range x.Vessels() {
		if v.Holds > 0 {
			now.Vessels[v.Part.ID] = Level{round(float64(v.Liquid.Litre/v.Holds), 3), Fluid(v.Liquid.Mix)}
		}
	}
	if m != nil {
		for at, p := range m.Arrived {
			kind := "a"
			if p.Gas < 0.5 {
				kind = Fluid(p.Mix)
			}
			now.Outlets[f.n.Nodes[at].Part.ID] = kind
		}
	}
	for _, t := range f.n.PartsOf(plumbing.RoleWaste) {
		now.Waste[t.ID] = round(float64(x.Waste(t).Stands.Litre), 2)
	}
	for at, drew := range f.drew {
		now.Jugs[f.n.Nodes[at].Part.ID] = round(float64(drew), 2)
	}
	if m != nil {
		for at, drew := range m.Drew {
			now.Jugs[f.n.Nodes[at].Part.ID] = round(float64(f.drew[at]+drew), 2)
		}
	}
	f.stands(&now, &x.State)
	f.Frames = append(f.Frames, f.changed(now))
	f.last = now
}

// stands adds how handles, switches and ports stand.
func (f *film) stands(now *Frame, s *state.State) {
	for i, h := range f.n.AllHandles() {
		now.Handles[h.Part.ID] = h.Positions[s.Position(i)]
	}
	for i, p := range f.n.Pumps {
		now.Pumps[p.ID] = s.Pumps.Has(plumbing.PumpID(i))
	}
	for at, open := range s.Open {
		now.Open[f.n.Nodes[at].Part.ID] = now.Open[f.n.Nodes[at].Part.ID] || open
	}
	for at, c := range s.Joined {
		now.Joined[f.n.Nodes[at].Part.ID] = [...]string{"", "hose", "container", "hand-pump", "air", "open", "plug"}[c.Kind]
	}
	for i, out := range s.Out {
		now.Out[f.n.Fittings[i].Part.ID] = out
	}
	for i, h := range f.n.Heat {
		now.Heat[h.Part.ID] = now.Heat[h.Part.ID] || s.Heat.Has(plumbing.HeatID(i))
	}
}

// changed is what of a frame differs from the one before.
func (f *film) changed(now Frame) Frame {
	return Frame{Step: now.Step, Time: round(now.Time, 1), Lines: differ(now.Lines, f.last.Lines),
		Vessels: differ(now.Vessels, f.last.Vessels), Outlets: differ(now.Outlets, f.last.Outlets),
		Waste: differ(now.Waste, f.last.Waste), Jugs: differ(now.Jugs, f.last.Jugs),
		Handles: differ(now.Handles, f.last.Handles),
		Pumps:   differ(now.Pumps, f.last.Pumps), Open: differ(now.Open, f.last.Open),
		Joined: differ(now.Joined, f.last.Joined), Out: differ(now.Out, f.last.Out), Heat: differ(now.Heat, f.last.Heat)}
}

// differ is what is new in a map; what is no longer there is there with nothing.
func differ[V comparable](now, was map[string]V) map[string]V {
	list := map[string]V{}
	for k, v := range now {
		if old, ok := was[k]; !ok || old != v {
			list[k] = v
		}
	}
	for k := range was {
		if _, ok := now[k]; !ok {
			var zero V
			list[k] = zero
		}
	}
	return list
}

// stretch writes what stands in a line from its first end: each fluid and the hundredth of the line up to
// which it stands: "w.40 a.55 g9.100".
func stretch(q []run.Plug) string {
	var sum, at quantity.Litre
	for _, p := range q {
		sum += p.Litre
	}
	if sum <= 0 {
		return ""
	}
	type piece struct {
		kind string
		to   int
	}
	var list []piece
	for _, p := range q {
		at += p.Litre
		kind := "a"
		if p.Gas < 0.9 {
			kind = Fluid(p.Mix)
		}
		to := int(math.Round(100 * float64(at/sum)))
		// A film, or a splash among air, is drawn as the share of the stretch that it fills.
		if liquid := p.Liquid() / p.Litre; p.Gas > 0.1 && p.Gas < 0.9 {
			from := 0
			if len(list) > 0 {
				from = list[len(list)-1].to
			}
			list = append(list, piece{kind, from + int(float64(to-from)*float64(liquid))}, piece{"a", to})
			continue
		}
		if last := len(list) - 1; last >= 0 && list[last].kind == kind {
			list[last].to = to
			continue
		}
		list = append(list, piece{kind, to})
	}
	text := ""
	for _, p := range list {
		text += p.kind + "." + strconv.Itoa(p.to) + " "
	}
	return text[:max(0, len(text)-1)]
}

func round(v float64, digits int) float64 {
	by := math.Pow(10, float64(digits))
	return math.Round(v*by) / by
}
