package drill_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

// plain marks answers a second time, as plainly as can be: it shares no marking, no search and no reach with the
// package.
type plain struct {
	in drill.Inputs
	t  *testing.T
}

// gets follows water from node to node.
func (p plain) gets(handles map[string]string, pumps []string, c *setting.Clause) bool {
	n := p.in.Net
	wet := map[plumbing.NodeID]bool{}
	for _, f := range c.From {
		wet[f] = f >= 0
	}
	out := func(node plumbing.NodeID) bool { return slices.Contains(c.Without, n.Nodes[node].Part) }
	for again := true; again; {
		again = false
		for i := range n.Links {
			l := &n.Links[i]
			open := true
			if l.Handle != plumbing.None {
				h := n.Handles[l.Handle]
				open = l.Open&(1<<slices.Index(h.Positions, handles[h.Part.ID])) != 0
			}
			if l.Pump != plumbing.None && !l.Idle {
				open = open && slices.Contains(pumps, n.Pumps[l.Pump].ID)
			}
			if !open || out(l.A) || out(l.B) || c.Untempered && l.Tempers {
				continue
			}
			if wet[l.A] && !wet[l.B] {
				wet[l.B], again = true, true
			}
			if wet[l.B] && !wet[l.A] && !l.OneWay {
				wet[l.A], again = true, true
			}
		}
	}
	return slices.ContainsFunc(c.To, func(t plumbing.NodeID) bool { return wet[t] })
}

// valves is whether handles and pumps do what a mode asks for.
func (p plain) valves(x *drill.Exercise, handles map[string]string, on []string) bool {
	a := setting.ForMode(p.in.Plan, x.Mode)
	var running []string
	for i, pump := range p.in.Net.Pumps {
		if a.Mode.Start.Pumps.Has(plumbing.PumpID(i)) {
			running = append(running, pump.ID)
		}
	}
	for i := range a.Mode.Clauses {
		if c := &a.Mode.Clauses[i]; p.gets(handles, running, c) != c.Must {
			return false
		}
	}
	if a.Mode.Drains {
		s := a.Mode.State(nil)
		for _, h := range p.in.Net.Handles {
			s.Handles = append(s.Handles, 1<<slices.Index(h.Positions, handles[h.Part.ID]))
		}
		if flow.Drain(p.in.Net, s).Total() > flow.Drain(p.in.Net, a.State).Total()+0.02 {
			return false
		}
	}
	slices.Sort(on)
	slices.Sort(running)
	return slices.Equal(on, running)
}

// breaks lists what a procedure breaks, carried out from its beginning.
func (p plain) breaks(t *drill.Task, steps []proof.Step) map[string]bool {
	q := *t.Done
	q.Steps = steps
	pr, err := proof.Prove(p.t.Context(), p.in.Net, &q)
	require.NoError(p.t, err)
	list := map[string]bool{}
	for _, b := range pr.Breaches {
		if b.Severity != proof.Note {
			list[fmt.Sprint(b.Severity, b.Rule, " ", b.Part)] = true
		}
	}
	return list
}

// more is whether steps break something that the procedure as it is does not.
func (p plain) more(t *drill.Task, steps []proof.Step) bool {
	was := p.breaks(t, t.Done.Steps)
	for b := range p.breaks(t, steps) {
		if !was[b] {
			return true
		}
	}
	return false
}

func (p plain) task(id string) *drill.Task {
	i := slices.IndexFunc(p.in.Tasks, func(t drill.Task) bool { return t.ID == id })
	require.GreaterOrEqual(p.t, i, 0)
	return &p.in.Tasks[i]
}

// ordered is whether an order of the steps that are shown can be carried out without harm.
func (p plain) ordered(x *drill.Exercise, order []int) bool {
	t := p.task(x.Task)
	keys := amend.Keys(t.Done.Steps)
	own := strings.Split(strings.TrimPrefix(x.Key, "order/"+x.Task+"/"), ",")
	at := -1
	for i := range keys {
		if i+len(own) <= len(keys) && slices.Equal(keys[i:i+len(own)], own) {
			at = i
		}
	}
	require.GreaterOrEqual(p.t, at, 0, x.Key)
	steps := slices.Clone(t.Done.Steps)
	for place, shown := range order {
		head := x.Options[shown].Said.Key()
		for i := range own {
			if t.Read.Steps[at+i].Head.Key() == head {
				steps[at+place] = t.Done.Steps[at+i]
			}
		}
	}
	return !p.more(t, steps)
}

// fills is whether a step mends what is broken without the one that was taken out.
func (p plain) fills(x *drill.Exercise, pick string) bool {
	t := p.task(x.Task)
	keys := amend.Keys(t.Done.Steps)
	at := slices.Index(keys, x.Right[0])
	steps := slices.Clone(t.Done.Steps)
	if pick != x.Right[0] {
		id, key, _ := strings.Cut(pick, "/")
		o := p.task(id)
		steps[at] = o.Done.Steps[slices.Index(amend.Keys(o.Done.Steps), key)]
	}
	return !p.more(t, steps)
}

// doses is whether bleach brings a tank to its target and no further than the ceiling, worked out by hand.
func (p plain) doses(x *drill.Exercise, litres float64) bool {
	var percent, target float64
	_, err := fmt.Sscanf(x.Key[strings.LastIndex(x.Key, "]")+1:], "/%f/%f", &percent, &target)
	require.NoError(p.t, err, x.Key)
	a := setting.ForMode(p.in.Plan, setting.Sanitize)
	for _, d := range amount.PlanDoses(p.in.Net, a, p.in.House) {
		if d.Tanks[0].Tank.ID != x.About[0] {
			continue
		}
		full := litres * 1000 * percent * 10 / float64(d.Tank) // mL × mg/mL over L
		end := full * (1 - float64(d.Drawn)/float64(d.Tank))
		return end >= 0.97*target && end < 1.25*target && full < float64(d.Ceiling)
	}
	p.t.Fatal(x.Key)
	return false
}

// protects is whether so many litres at the pick-up are enough, and one jug fewer is not.
func (p plain) protects(x *drill.Exercise, litres float64) bool {
	t := p.task(x.Task)
	with := func(v float64) bool {
		steps := slices.Clone(t.Done.Steps)
		for i := range steps {
			steps[i].Acts = slices.Clone(steps[i].Acts)
			for k := range steps[i].Acts {
				if a := &steps[i].Acts[k]; a.Verb == state.Join && a.With.Fluid == state.Antifreeze &&
					a.With.Kind != state.Capped {
					a.With.Volume = quantity.Litre(v)
				}
			}
		}
		return !p.more(t, steps)
	}
	jugs := math.Round(litres / x.Piece)
	return jugs >= 1 && with(jugs*x.Piece) && (jugs == 1 || !with((jugs-1)*x.Piece))
}

// right is whether an answer is right.
func (p plain) right(x *drill.Exercise, a drill.Answer) bool {
	switch x.Kind {
	case drill.Valves:
		return p.valves(x, a.Handles, a.Pumps)
	case drill.Order:
		return p.ordered(x, a.Order)
	case drill.Missing:
		return p.fills(x, a.Pick)
	case drill.Amount:
		v, err := x.Litres(a.Text)
		require.NoError(p.t, err)
		if x.Piece > 0 {
			return p.protects(x, v)
		}
		return p.doses(x, v)
	case drill.Where:
		if x.Photo != "" {
			own := x.Marks[x.About[0]]
			d := func(m [2]float64) float64 { return math.Hypot(m[0]-a.At[0], m[1]-a.At[1]) }
			for id, m := range x.Marks {
				if id != x.About[0] && d(m) < d(own) {
					return false
				}
			}
			return d(own) <= 0.08
		}
		part := p.in.Net.Model.Part(a.Pick)
		if x.Number > 0 {
			return part.Number == x.Number
		}
		return "where/number/"+part.ID == x.Key
	case drill.Happens:
		mode := setting.ForMode(p.in.Plan, x.Mode)
		entries, err := fault.InMode(p.t.Context(), p.in.Net, mode, p.in.Plan)
		require.NoError(p.t, err)
		of := func(id string) int {
			return slices.IndexFunc(entries, func(e fault.Entry) bool {
				return slices.ContainsFunc(e.Faults, func(f fault.Fault) bool { return f.ID() == id })
			})
		}
		return of(strings.TrimPrefix(x.Key, "happens/"+x.Mode+"/")) == of(a.Pick)
	case drill.Fault:
		at := strings.Split(x.Key, "/")
		return at[2] == a.Pick
	case drill.Label:
		return a.Pick == x.Right[0] // the lie itself is held against the finding in a test of its own
	case drill.Heater:
		return strings.HasPrefix(strings.SplitN(x.Key, "/", 3)[2]+"/", a.Pick+"/")
	}
	p.t.Fatal(x.Kind)
	return false
}

// guess is some answer to an exercise, often a right one.
func guess(rng *rand.Rand, in drill.Inputs, x *drill.Exercise) drill.Answer {
	switch x.Kind {
	case drill.Valves:
		a := drill.Answer{Handles: map[string]string{}, Pumps: slices.Clone(x.Pumps)}
		for _, h := range in.Net.Handles {
			a.Handles[h.Part.ID] = x.Found[h.Part.ID]
			if rng.IntN(12) == 0 {
				a.Handles[h.Part.ID] = h.Positions[rng.IntN(len(h.Positions))]
			}
		}
		if rng.IntN(8) == 0 {
			a.Pumps = nil
		}
		return a
	case drill.Order:
		return drill.Answer{Order: rng.Perm(len(x.Options))}
	case drill.Amount:
		if x.Piece > 0 {
			return drill.Answer{Text: strconv.Itoa(1 + rng.IntN(6))}
		}
		return drill.Answer{Text: fmt.Sprintf("%d mL", 20+rng.IntN(400))}
	case drill.Where:
		if x.Photo != "" {
			m := x.Marks[x.About[0]]
			return drill.Answer{At: &[2]float64{m[0] + 0.3*(rng.Float64()-0.3), m[1] + 0.2*(rng.Float64()-0.5)}}
		}
	}
	return drill.Answer{Pick: x.Options[rng.IntN(len(x.Options))].ID}
}

// A thousand answers, marked twice: right is right, wrong is wrong.
func TestMarkingAgreesWithAPlainOne(t *testing.T) {
	models := demos()
	rights := map[drill.Kind]int{}
	wrongs := map[drill.Kind]int{}
	for _, seed := range sample.Seeds(t, 200, 1000) {
		rng := rand.New(rand.NewPCG(seed, 3))
		in, set := exercises(t, models[rng.IntN(len(models))])
		kind := drill.Kinds()[rng.IntN(len(drill.Kinds()))]
		var own []*drill.Exercise
		for i := range set.Exercises {
			if set.Exercises[i].Kind == kind {
				own = append(own, &set.Exercises[i])
			}
		}
		if own == nil {
			continue
		}
		x := own[rng.IntN(len(own))]
		a := guess(rng, in, x)
		var got drill.Marked
		var err error
		if kind == drill.Valves {
			got, _, err = x.MarkValves(in.Net, in.Plan, a)
		} else {
			got, err = x.Mark(a)
		}
		require.NoError(t, err)
		want := plain{in, t}.right(x, a)
		require.Equal(t, want, got.Right, "seed %d: %s answered with %+v", seed, x.Key, a)
		require.Equal(t, want && !got.Danger, got.Points > 0)
		if want {
			rights[kind]++
		} else {
			wrongs[kind]++
		}
	}
	for _, k := range drill.Kinds() {
		if !sample.Whole() {
			break // each kind is met a few times
		}
		require.Greater(t, rights[k], 3, "%s: too few right answers were tried", k)
		require.Greater(t, wrongs[k], 3, "%s: too few wrong answers were tried", k)
	}
}

// On small models every setting there is is marked as the plain reach has it.
func TestEverySettingOfSmallModelsIsMarkedRightly(t *testing.T) {
	for _, name := range []string{"no-bypass", "mica-5", "heater-one-valve"} {
		m, err := rig.Model(name)
		require.NoError(t, err)
		in := inputs(t, m)
		set, err := drill.Make(t.Context(), drill.Inputs{Inputs: in.Inputs})
		require.NoError(t, err)
		modes := map[string]bool{}
		tried := 0
		for i := range set.Exercises {
			x := &set.Exercises[i]
			if x.Kind != drill.Valves || modes[x.Mode] || len(modes) == 4 {
				continue
			}
			modes[x.Mode] = true
			right := 0
			everyHandle(in.Net, func(handles map[string]string) {
				a := drill.Answer{Handles: handles, Pumps: slices.Clone(x.Pumps)}
				got, _, err := x.MarkValves(in.Net, in.Plan, a)
				require.NoError(t, err)
				want := plain{in, t}.valves(x, handles, a.Pumps)
				require.Equal(t, want, got.Right, "%s %s: %v", name, x.Mode, handles)
				tried++
				if want {
					right++
				}
			})
			require.Positive(t, right, "%s %s", name, x.Mode)
		}
		require.NotEmpty(t, modes, name)
		t.Logf("%s: %d settings of %d ways of use", name, tried, len(modes))
	}
}

// everyHandle goes through all positions of all handles.
func everyHandle(n *plumbing.Network, see func(map[string]string)) {
	var next func(i int, so map[string]string)
	next = func(i int, so map[string]string) {
		if i == len(n.Handles) {
			see(so)
			return
		}
		for _, pos := range n.Handles[i].Positions {
			so[n.Handles[i].Part.ID] = pos
			next(i+1, so)
		}
	}
	next(0, map[string]string{})
}

// Of all orders of the steps of an exercise exactly those are right that a run from the beginning carries out without
// harm.
func TestEveryOrderIsMarkedAsItsRunHasIt(t *testing.T) {
	in, set := exercises(t, "marl-15-2027")
	done := 0
	for i := range set.Exercises {
		x := &set.Exercises[i]
		if x.Kind != drill.Order || done == 6 {
			continue
		}
		done++
		for key, outcome := range x.Orders {
			var order []int
			for _, c := range key {
				order = append(order, int(c-'0'))
			}
			require.Equal(t, plain{in, t}.ordered(x, order), outcome == "", "%s in the order %s", x.Key, key)
		}
	}
	require.Equal(t, 6, done)
}

// A label exercise has one lie by the finding of the unit as it is labelled in it, and no other of those shown.
func TestExactlyOneLabelLies(t *testing.T) {
	for _, id := range demos() {
		in, set := exercises(t, id)
		m, err := demo.Model(id)
		require.NoError(t, err)
		for i := range set.Exercises {
			x := &set.Exercises[i]
			if x.Kind != drill.Label {
				continue
			}
			relabelled, err := m.Build(m.StandardOptions()...)
			require.NoError(t, err)
			if change := strings.TrimPrefix(x.Key, "label/"); change != "as-it-stands" {
				slot, word, _ := strings.Cut(change, "=")
				id, position, _ := strings.Cut(slot, ".")
				part := relabelled.Part(id)
				if position == "" {
					part.Label = word
				} else {
					says := map[string]string{}
					for k, v := range part.Reading.Says {
						says[k] = v
					}
					if says[position] != "" {
						says[position] = word
					}
					part.Reading.Says = says
					part.Selector = slices.Clone(part.Selector)
					for c := range part.Selector {
						if part.Selector[c].ID == position && part.Selector[c].Label != "" {
							part.Selector[c].Label = word
						}
					}
				}
			}
			n, err := plumbing.NewNetwork(relabelled)
			require.NoError(t, err)
			lies := map[string]bool{}
			for _, f := range finding.Find(n, in.Plan) {
				if f.Code == "label-misleads" {
					lies[f.Parts[0]] = true
				}
			}
			for _, o := range x.Options {
				require.Equal(t, o.ID == x.Right[0], lies[o.ID], "%s %s: %s", id, x.Key, o.ID)
			}
		}
	}
}
