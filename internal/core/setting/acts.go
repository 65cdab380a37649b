package setting

import (
	"cmp"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/state"
)

// switched is the act of switching each of some pumps, after the battery.
func (e *equipment) switched(pumps []*plumbing.Part, v state.Verb) []state.Act {
	var list []state.Act
	if v == state.On && len(pumps) > 0 {
		for _, i := range e.net.PartsOf(plumbing.RoleIsolator) {
			list = append(list, state.Act{Verb: state.On, Part: i})
		}
	}
	for _, p := range pumps {
		a := state.Act{Verb: v, Part: p}
		a.At, a.Control = e.net.ControlOf(p)
		list = append(list, a)
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
		if a.Part.Role() == plumbing.RoleIsolator {
			return "battery switched " + string(a.Verb)
		}
		return "pump switch " + string(a.Verb) + controlWords(a)
	case state.HeatOn:
		return "on" + byWords(a.By) + controlWords(a) + untilWords(a.Until) + lookWords(a.Part)
	case state.HeatOff:
		words := "off at every source" + heatWords(a.Part) + controlWords(a) + lookWords(a.Part)
		if a.Until == state.Cold {
			words += ", and cold; open its drain only when the pressure is out"
		}
		return words
	case state.Join:
		return joinWords(a) + untilWords(a.Until)
	case state.Part:
		return "hose off"
	case state.Catch:
		return "a bucket under it: no " + string(a.For) + " goes " + a.To
	case state.Rinse:
		return "emptied and rinsed first: " + string(a.For) + " goes into it only then"
	case state.Cap:
		if a.Part.Role() == plumbing.RoleInlet || a.Part.Role() == plumbing.RoleBarrel {
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
		switch {
		case a.Part.Role() == plumbing.RoleCoupling && a.To == "together":
			return "pushed together until it clicks"
		case a.Part.Role() == plumbing.RoleCoupling:
			return "parted, caps on; the lower one first"
		case a.Part.Role() == plumbing.RoleGas && a.To == "together":
			return "coupled last, then its valve opened: it can't be parted while that is open"
		case a.Part.Role() == plumbing.RoleGas:
			return "its valve shut and parted first"
		}
		return plumbing.PositionWords(a.Part, a.To)
	case state.TakeOut:
		switch a.Part.Fitted() {
		case plumbing.Aerator:
			return "aerator off"
		case plumbing.ShowerHead:
			return "shower head off"
		case plumbing.Screen:
			return "screen out, its check valve pressed until nothing more comes"
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
			name = plumbing.NoArticle(name)
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

// byWords name what heats, where that is known.
func byWords(by plumbing.Heat) string {
	if by == "" {
		return ""
	}
	return " by " + string(by)
}

// controlWords tell what a hand does at a panel or switch, and what shows it.
func controlWords(a state.Act) string {
	if a.Control == nil {
		return ""
	}
	how := a.Control.On
	off := a.Verb == state.Off || a.Verb == state.HeatOff
	if off {
		how = cmp.Or(a.Control.Off, how)
	}
	words := ", at " + lower(a.At.Name) + ": " + how
	if a.At.Place.Behind != "" {
		words += " (behind " + a.At.Place.Behind + ")"
	}
	switch {
	case a.Control.Shows == "":
	case off:
		words += "; " + a.Control.Shows + " gone"
	default:
		words += "; " + a.Control.Shows + " shows it"
	}
	return words
}

func joinWords(a state.Act) string {
	switch a.With.Kind {
	case state.Compressed:
		if a.Part.Role() != plumbing.RoleInlet {
			return "air connector on" + threadWords(a.Part) + ", a regulator before it, an air gun or shut-off in hand"
		}
		return "air adapter on, pressure regulated, an air gun or shut-off in hand"
	case state.HandPump:
		return "hand pump on, its hose in the " + string(a.With.Fluid) + " jug; the pump and its suction line stay unprotected"
	case state.Supply:
		switch a.Part.Role() {
		case plumbing.RoleFill:
			return "cap off, drinking-water hose in"
		case plumbing.RoleBarrel:
			return "barrel beside it, its pump lowered in, hose and plug into the socket"
		}
		return "drinking-water hose on, regulator before it, supply open"
	}
	if a.Part.Role() == plumbing.RoleHatch {
		return "clean " + string(a.With.Fluid) + " poured in from a jug"
	}
	if a.Part.Role() == plumbing.RoleJoint {
		return "tank hose off, short hose on in its place, its end in the " + string(a.With.Fluid) + " container"
	}
	return "cap off, end in the " + string(a.With.Fluid) + " container"
}

// lookWords tell a part from others that it could be.
func lookWords(p *plumbing.Part) string {
	if p.Look == "" {
		return ""
	}
	return " (told by: " + p.Look + ")"
}

func threadWords(p *plumbing.Part) string {
	if p.Thread == "" {
		return ""
	}
	return " (" + p.Thread + ")"
}

func untilWords(u state.Until) string {
	switch u {
	case state.CycleRan:
		return "; its hot cycle set for the night: look in the morning that it ran"
	case state.TankFull:
		return "; stay with it until the tank is full"
	case state.FloatShuts:
		return "; the float valve shuts when the tank is full, look after it all the same"
	}
	return ""
}
