package drill

import (
	"fmt"
	"slices"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Strengths as sold, and targets of the usual schools, that doses are asked for.
// Source: what household bleach is sold as; the schools of the house's amounts.
var (
	soldAs  = []quantity.Percent{5.25, 6, 7.5, 8.25}
	targets = []quantity.MgPerLitre{50, 52, 55, 58, 60, 65}
)

// How far from the target a dose may come out: a measure is read to so much, and
// a quarter more does nothing but take longer to flush.
const (
	mayLack = 0.03
	mayPass = 0.25
)

// amounts asks for doses and jugs, with figures in units that do not go together.
func (k *maker) amounts() error {
	a := setting.ForMode(k.Plan, setting.Sanitize)
	if a != nil && a.Has() && a.Mode.LeftOut.IsZero() {
		k.doses(a)
	}
	for i := range k.Tasks {
		if err := k.jugs(&k.Tasks[i]); err != nil {
			return err
		}
	}
	return nil
}

func (k *maker) doses(a *setting.Answer) {
	var plans []amount.DosePlan
	reads := k.reads(func() { plans = amount.PlanDoses(k.Net, a, k.House) })
	reads = with(reads, ofSetting(a.Mode.ID), record.Input{Kind: record.Plumbing})
	reads = slices.DeleteFunc(reads, func(x record.Input) bool { return x.Kind == record.Figure })
	for i := range plans {
		p := &plans[i]
		if len(p.Tanks) == 0 || p.Tank <= 0 || p.Drawn >= p.Tank || p.Drawn <= 0 {
			k.refuse(NotKnown)
			continue
		}
		own := slices.Clone(reads)
		for _, t := range p.Tanks {
			own = with(own, record.Input{Kind: record.Field, Of: t.Tank.ID, Field: "data"})
		}
		for _, l := range k.Net.Model.Lines { // what is drawn off stands on all of them
			own = with(own, record.Input{Kind: record.Field, Of: l.ID, Field: "length"},
				record.Input{Kind: record.Field, Of: l.ID, Field: "size"},
				record.Input{Kind: record.Field, Of: l.ID, Field: "inside"})
		}
		own = with(own, record.Input{Kind: record.Rule, Of: house.Ceiling.ID},
			record.Input{Kind: record.Rule, Of: house.Overrun.ID})
		for _, product := range soldAs {
			for _, target := range targets {
				k.dose(p, product, target, own)
			}
		}
	}
}

// dose asks how much of a product brings a body of tank water to a target.
func (k *maker) dose(p *amount.DosePlan, product quantity.Percent, target quantity.MgPerLitre, reads []record.Input) {
	var names []string
	for _, t := range p.Tanks {
		names = append(names, t.Tank.ID)
	}
	x := Exercise{Key: fmt.Sprintf("dose/%v/%v/%v", names, product, target), Hard: 3, Inputs: reads,
		Ask: fact.Of("drill.ask.dose", product, target, p.Name()), Reasons: map[string]Reason{}, About: names}
	// Both figures are needed, and they stand in units of different systems.
	one, other := quantity.US, quantity.SI
	if chance(x.Key).IntN(2) == 0 {
		one, other = other, one
	}
	x.Told = []fact.Fact{fact.Of("drill.tank-holds", p.Name(), quantity.Show(p.Tank, one)),
		fact.Of("drill.drawn-off", quantity.Show(p.Drawn, other)), fact.Of("drill.topped-up")}
	filled := float64(amount.Strength(1, p.Tank, product)) // mg/L by a litre
	x.PerLitre = filled * float64(1-p.Drawn/p.Tank)
	low := float64(target) * (1 - mayLack) / x.PerLitre
	high := float64(target) * (1 + mayPass) / x.PerLitre
	most := float64(p.Ceiling) / filled
	if most <= low {
		k.refuse(OutOfReach)
		return
	}
	high = min(high, most)
	x.Bands = []Band{{low / 2, "far-weak"}, {low, "weak"}, {high, ""}}
	if high < most {
		x.Bands = append(x.Bands, Band{most, "strong"})
	}
	x.Bands = append(x.Bands, Band{0, "ceiling"})
	exact := quantity.Litre(float64(target) / x.PerLitre)
	needs := fact.Of("drill.dose-is", exact)
	x.Reasons["far-weak"] = Reason{Said: []fact.Fact{fact.Of("drill.dose-far-weak"), needs}}
	x.Reasons["weak"] = Reason{Said: []fact.Fact{fact.Of("drill.dose-weak"), needs}}
	x.Reasons["strong"] = Reason{Said: []fact.Fact{fact.Of("drill.dose-strong"), needs}}
	x.Reasons["ceiling"] = Reason{Said: []fact.Fact{fact.Of("drill.dose-ceiling", p.Ceiling), needs}, Danger: true}
	x.Reasons[RightOutcome] = Reason{Said: []fact.Fact{needs}}
	x.Hints = []fact.Fact{fact.Of("drill.hint.dose", p.Tank), fact.Of("drill.hint.start", target)}
	k.add(x)
}

// Jugs that antifreeze is sold in.
// Source: usual sizes of the trade.
var jugSizes = []struct {
	litre  quantity.Litre
	system quantity.System
}{{quantity.USGallon, quantity.US}, {2 * quantity.USGallon, quantity.US}, {2.5 * quantity.USGallon, quantity.US},
	{2, quantity.SI}, {5, quantity.SI}, {10, quantity.SI}}

// mostJugs is how many jugs are counted at most.
const mostJugs = 9

// jugs asks how many jugs a procedure takes: it is carried out with each number of
// them at its pick-up.
func (k *maker) jugs(t *Task) error {
	var at []plumbing.NodeID
	for i := range t.Done.Steps {
		for _, a := range t.Done.Steps[i].Acts {
			if pickUp(&a) {
				at = append(at, k.Net.NodesOf(a.Part, "mouth")...)
			}
		}
	}
	var drawn quantity.Litre
	for _, o := range t.Proof.Outcomes {
		for _, node := range at {
			drawn += o.Drew[node]
		}
	}
	if drawn < 0.1 || t.Proof.Worst() > proof.Note {
		return nil
	}
	for _, size := range jugSizes {
		if float64(drawn/size.litre) > mostJugs-1 {
			continue
		}
		if err := k.jugsOf(t, k.Net.Nodes[at[0]].Part, size.litre, size.system, drawn); err != nil {
			return err
		}
	}
	return nil
}

// pickUp reports whether an act joins a container of antifreeze.
func pickUp(a *state.Act) bool {
	return a.Verb == state.Join && a.With.Fluid == state.Antifreeze &&
		(a.With.Kind == state.Container || a.With.Kind == state.HandPump)
}

func (k *maker) jugsOf(t *Task, at *plumbing.Part, size quantity.Litre, sys quantity.System,
	drawn quantity.Litre) error {
	x := Exercise{Key: fmt.Sprintf("jugs/%s/%.2f", t.ID, float64(size)), Task: t.ID, Hard: 3,
		Ask:  fact.Of("drill.ask.jugs", t.Read.Name, quantity.Show(size, sys), at),
		Told: []fact.Fact{fact.Of("drill.jugs-whole")}, Reasons: map[string]Reason{}, About: []string{at.ID},
		Inputs: taskReads(t)}
	x.Piece = float64(size)
	x.Bands = []Band{{x.Piece / 2, "none"}}
	x.Reasons["none"] = Reason{Said: []fact.Fact{fact.Of("drill.jugs-none")}}
	first := slices.IndexFunc(t.Done.Steps, func(s proof.Step) bool {
		return slices.ContainsFunc(s.Acts, func(a state.Act) bool { return pickUp(&a) })
	})
	for j := 1; ; j++ {
		if j > mostJugs+1 {
			k.refuse(OutOfReach)
			return nil
		}
		steps := slices.Clone(t.Done.Steps)
		for i := range steps {
			steps[i].Acts = slices.Clone(steps[i].Acts)
			for n := range steps[i].Acts {
				if a := &steps[i].Acts[n]; pickUp(a) {
					a.With.Volume = quantity.Litre(j) * size
				}
			}
		}
		pr, err := rerun(k.ctx, k.Net, t, first, steps, 0)
		if err != nil {
			return err
		}
		below := (float64(j) + 0.5) * x.Piece
		broken := t.fresh(pr)
		if len(broken) == 0 {
			x.Bands = append(x.Bands, Band{below, ""}, Band{0, "over"})
			x.Reasons[RightOutcome] = Reason{Said: []fact.Fact{fact.Of("drill.jugs-are", j, drawn)}}
			x.Reasons["over"] = Reason{Said: []fact.Fact{fact.Of("drill.jugs-over", j, drawn)}}
			break
		}
		short := fmt.Sprint("short-", j)
		x.Bands = append(x.Bands, Band{below, short})
		r := reasonOf(broken)
		r.Said = append([]fact.Fact{fact.Of("drill.jugs-short", j)}, r.Said...)
		x.Reasons[short] = r
	}
	x.Hints = []fact.Fact{fact.Of("drill.hint.drawn", quantity.Show(drawn, other(sys)))}
	k.add(x)
	return nil
}

func other(sys quantity.System) quantity.System {
	if sys == quantity.US {
		return quantity.SI
	}
	return quantity.US
}
