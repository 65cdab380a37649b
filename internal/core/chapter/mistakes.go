package chapter

import (
	"context"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/house"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
)

// Mistakes are what hands get wrong at work, what it leads to and what it costs.
type Mistakes struct{ Rows []Mistake }

// Mistake is one of them, or several that lead to the same.
type Mistake struct {
	Mode    fact.Fact
	Said    []fact.Fact
	Effects []fault.Effect
	Costs   fact.Fact // nothing where it is put right at once
}

func (m Mistakes) empty() bool { return len(m.Rows) == 0 }

// mistakes are those at filling, cleaning and winter work: handles and switches left otherwise.
func mistakes(ctx context.Context, in Inputs) (m Mistakes, err error) {
	for i := range in.Plan {
		a := &in.Plan[i]
		if a.Mode.Group == setting.Use || a.Mode.Measure || !a.OK && !(a.Mode.Drains && a.Has()) {
			continue
		}
		entries, err := fault.InMode(ctx, in.Net, a, in.Plan)
		if err != nil {
			return m, err
		}
		for _, e := range entries {
			row := Mistake{Mode: a.Mode.Name, Effects: e.Effects, Costs: in.costs(&e)}
			for k := range e.Faults {
				if e.Faults[k].Turns != nil || e.Faults[k].Off != 0 {
					row.Said = append(row.Said, e.Faults[k].Said)
				}
			}
			if row.Said != nil && e.Severity > fault.Nuisance {
				m.Rows = append(m.Rows, row)
			}
		}
	}
	return m, nil
}

// costs is the worst of what an entry costs.
func (in *Inputs) costs(e *fault.Entry) fact.Fact {
	var said fact.Fact
	for i := range e.Effects {
		x := &e.Effects[i]
		switch {
		case x.Harm == fault.Burns || x.Harm == fault.Overheats || x.Harm == fault.BurnsAndOverheats:
			return fact.Of("costs.heater", x.Part)
		case x.What == fault.Ruined:
			return fact.Of("costs.part", x.Part)
		case x.What == fault.HeaterTakes && x.Fluid == state.Antifreeze && x.Volume > 0:
			jug := house.Jug.Of(in.House)
			said = fact.Of("costs.jugs", quantity.RoundUp(float64(x.Volume/jug)), jug)
		case x.What == fault.MoreStays && said.IsZero():
			said = fact.Of("costs.frost")
		case said.IsZero():
			said = fact.Of("costs.again")
		}
	}
	return said
}

func shareOf(share float64) quantity.Percent { return quantity.Percent(100 * share) }
