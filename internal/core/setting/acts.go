package setting

import (
	"cmp"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// switched is the act of switching each of some pumps.
func switched(pumps []*plumbing.Part, v state.Verb) []state.Act {
	var list []state.Act
	for _, p := range pumps {
		list = append(list, state.Act{Verb: v, Part: p})
	}
	return list
}

// joined is the act of joining what usually feeds a port.
func joined(p *plumbing.Part, f state.Fluid, until state.Until) state.Act {
	return state.Act{Verb: state.Join, Part: p, With: state.Usual(p, f), Until: until}
}

// ActWords tell what is done at an act's part: "pump switch on".
func ActWords(a state.Act) string {
	switch a.Verb {
	case state.On, state.Off:
		return "pump switch " + string(a.Verb)
	case state.HeatOff:
		words := "off at every source" + heatWords(a.Part)
		if a.Until == state.Cold {
			words += ", and cold; open its drain only when the pressure is out"
		}
		return words
	case state.Join:
		return joinWords(a) + untilWords(a.Until)
	case state.Part:
		return "hose off"
	case state.Cap:
		if a.Part.Role() == plumbing.RoleInlet {
			return "hose off, cap on"
		}
		return "emptied and capped"
	case state.Plug:
		return "the tank's end held up and plugged"
	case state.Open:
		if len(a.Sides) > 1 {
			return "open, left half-way between cold and hot"
		}
		return "open"
	case state.Turn:
		if a.Part.Role() == plumbing.RoleCoupling && a.To == "together" {
			return "pushed together until it clicks"
		}
		return plumbing.PositionWords(a.Part, a.To)
	case state.TakeOut:
		switch a.Part.Fitted() {
		case plumbing.Aerator:
			return "aerator off"
		case plumbing.ShowerHead:
			return "shower head off"
		}
		return "cartridge out, empty bowl back on"
	case state.KeepShut:
		return "sealed: leave what is behind it shut; " + string(a.For) + " ruins it, its care is the dealer's"
	}
	return string(a.Verb)
}

// Beside is what is done alike at some parts beside the handles.
type Beside struct {
	Parts []*plumbing.Part
	What  string
}

// Names joins the names of the parts.
func (b *Beside) Names() string {
	var list []string
	for i, p := range b.Parts {
		name := p.Name
		if i > 0 {
			name = plumbing.Bare(name)
		}
		list = append(list, name)
	}
	return strings.Join(list, ", ")
}

// Together gathers acts that are told in the same words, in the order in which
// they come.
func Together(acts []state.Act) []Beside {
	var list []Beside
	for _, a := range acts {
		what := ActWords(a)
		i := slices.IndexFunc(list, func(b Beside) bool { return b.What == what })
		if i < 0 {
			i = len(list)
			list = append(list, Beside{What: what})
		}
		list[i].Parts = append(list[i].Parts, a.Part)
	}
	return list
}

// heatWords name what heats a heater, where that is known.
func heatWords(p *plumbing.Part) string {
	names := map[plumbing.Heat]string{plumbing.Engine: "engine coil, its valves shut"}
	var list []string
	for _, by := range p.HeatBy() {
		list = append(list, cmp.Or(names[by], string(by)))
	}
	if list == nil {
		return ""
	}
	return " (" + strings.Join(list, ", ") + ")"
}

func joinWords(a state.Act) string {
	switch a.With.Kind {
	case state.Compressed:
		return "air adapter on, pressure regulated, an air gun or shut-off in hand"
	case state.HandPump:
		return "hand pump on, its hose in the " + string(a.With.Fluid) + " jug; the pump and its suction line stay unprotected"
	case state.Supply:
		if a.Part.Role() == plumbing.RoleFill {
			return "cap off, drinking-water hose in"
		}
		return "drinking-water hose on, regulator before it, supply open"
	}
	if a.Part.Role() == plumbing.RoleJoint {
		return "tank hose off, short hose on in its place, its end in the " + string(a.With.Fluid) + " container"
	}
	return "cap off, end in the " + string(a.With.Fluid) + " container"
}

func untilWords(u state.Until) string {
	switch u {
	case state.TankFull:
		return "; stay with it until the tank is full"
	case state.FloatShuts:
		return "; the float valve shuts when the tank is full, look after it all the same"
	}
	return ""
}
