package cause

import (
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Where is what a correction changes.
type Where string

// What corrections change.
const (
	InModel Where = "model" // a figure of a part or a line
	InRule  Where = "rule"  // an allowance of the house
	OnUnit  Where = "unit"  // nothing that is written: the unit is repaired
	InTrial Where = "trial" // nothing that is written: the trial was made otherwise, and is repeated
)

// Correction is what would make computed and measured agree.
type Correction struct {
	Cause
	Where  Where
	Of     string // id of the part or the line; of a rule its id
	Path   string // of InModel: the field
	Before string // as it is written now
	After  string // as it would be written
}

// Correct is what a cause asks for.
func Correct(n *plumbing.Network, rules house.House, c Cause) Correction {
	x, sys := Correction{Cause: c, Of: c.Of}, n.System()
	switch c.Kind {
	case Line:
		x.Where, x.Path = InModel, "length"
		for i := range n.Model.Lines {
			if l := &n.Model.Lines[i]; l.ID == c.Of {
				x.Before = l.Length.String()
				x.After = quantity.Neat(l.Length.Value()+quantity.Millimetre(c.Size), sys)
			}
		}
	case Heel:
		x.Where, x.Path = InModel, "data.heel"
		if t := n.Model.Part(c.Of); t != nil {
			x.Before = t.Data.Heel.String()
			x.After = quantity.Neat(t.Data.Heel.Value()+quantity.Litre(c.Size), sys)
		}
	case Supply:
		x.Where, x.Path = InModel, "data.flow"
		for _, p := range n.PartsOf(plumbing.RoleFill) {
			if v := p.Data.Flow.Value(); v > 0 {
				x.Of, x.Before = p.ID, p.Data.Flow.String()
				x.After = quantity.Neat(v*quantity.LitrePerMinute(1+c.Size), sys)
				return x
			}
		}
		x.Where, x.Path = InTrial, ""
	case Overrun:
		x.Where, x.Of = InRule, house.Overrun.ID
		x.Before = rules.Text(x.Of, sys)
		x.After = quantity.Neat(max(0, house.Overrun.Of(rules)+quantity.Litre(c.Size)), sys)
	case Helper:
		x.Where, x.Of, x.Before, x.After = InRule, house.Helper.ID, "yes", "no"
		if !house.Helper.Of(rules) {
			x.Before, x.After = "no", "yes"
		}
	case Check:
		x.Where = OnUnit
	default:
		x.Where = InTrial
	}
	return x
}
