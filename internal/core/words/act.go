package words

import (
	"cmp"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Act tells what is done at an act's part: "pump switch on".
func (p *Printer) Act(a state.Act) string {
	switch a.Verb {
	case state.On, state.Off:
		if a.Part.Role() == plumbing.RoleIsolator {
			return p.say("act.battery." + string(a.Verb))
		}
		return p.say("act.pump."+string(a.Verb)) + p.control(a)
	case state.HeatOn:
		return p.say("act.heat-on"+by(a.By), string(a.By)) + p.control(a) + p.until(a) + p.look(a.Part)
	case state.HeatOff:
		return p.say("act.heat-off") + p.sources(a.Part) + p.control(a) + p.look(a.Part) + p.until(a)
	case state.Join:
		return p.join(a) + p.until(a)
	case state.Catch:
		return p.say("act.catch", p.say("fluid."+string(a.For)), p.say("waste."+a.To))
	case state.Rinse, state.KeepShut:
		return p.say("act."+string(a.Verb), p.say("fluid."+string(a.For)))
	case state.Cap:
		if a.Part.Role() == plumbing.RoleInlet || a.Part.Role() == plumbing.RoleBarrel {
			return p.say("act.cap.hose")
		}
		return p.say("act.cap")
	case state.Open:
		if len(a.Sides) > 1 {
			return p.say("act.open.half-way")
		}
		return p.say("act.open")
	case state.Turn:
		return p.turn(a)
	case state.TakeOut:
		return p.say("act.take-out." + string(cmp.Or(a.Part.Fitted(), plumbing.Cartridge)))
	}
	return p.say("act." + string(a.Verb)) // part, plug: the same whatever it is done at
}

func by(source plumbing.Heat) string {
	if source == "" {
		return ""
	}
	return ".by"
}

// turn tells how a handle is to stand; couplings have their own ways.
func (p *Printer) turn(a state.Act) string {
	switch a.Part.Role() {
	case plumbing.RoleCoupling:
		return p.say("act.couple." + a.To)
	case plumbing.RoleGas:
		return p.say("act.couple-gas." + a.To)
	}
	return p.Position(a.Part, a.To)
}

// join tells what is joined to a port, and how.
func (p *Printer) join(a state.Act) string {
	fluid := p.say("fluid." + string(a.With.Fluid))
	role := a.Part.Role()
	switch a.With.Kind {
	case state.Compressed:
		if role != plumbing.RoleInlet {
			return p.say("act.join.air-port", p.thread(a.Part))
		}
		return p.say("act.join.air")
	case state.HandPump:
		return p.say("act.join.hand-pump", fluid)
	case state.Supply:
		switch role {
		case plumbing.RoleFill:
			return p.say("act.join.fill")
		case plumbing.RoleBarrel:
			return p.say("act.join.barrel")
		}
		return p.say("act.join.hose")
	}
	switch role {
	case plumbing.RoleHatch:
		return p.say("act.join.hatch", fluid)
	case plumbing.RoleJoint:
		return p.say("act.join.joint", fluid)
	}
	return p.say("act.join.container", fluid)
}

// until tells how long an act is kept up, and how much goes in meanwhile.
func (p *Printer) until(a state.Act) string {
	if a.Until == state.Done {
		return ""
	}
	words := p.say("until." + string(a.Until))
	if a.Amount > 0 {
		words += p.say("until.amount", quantity.Both(a.Amount, p.sys))
	}
	return words
}

// control tells what a hand does at a panel or switch, and what shows it.
func (p *Printer) control(a state.Act) string {
	if a.Control == nil {
		return ""
	}
	how, off := a.Control.On, a.Verb == state.Off || a.Verb == state.HeatOff
	if off {
		how = a.Control.Off
	}
	if how == "" { // a finding says that nobody wrote it down; on is never off
		return ""
	}
	words := p.say("act.control", p.running(a.At.Name), how)
	if a.At.Place.Behind != "" {
		words += p.say("act.control.behind", a.At.Place.Behind)
	}
	switch {
	case a.Control.Shows == "":
	case off:
		words += p.say("act.control.gone", a.Control.Shows)
	default:
		words += p.say("act.control.shows", a.Control.Shows)
	}
	return words
}

// sources name what heats a heater, where that is known.
func (p *Printer) sources(heater *plumbing.Part) string {
	var list []string
	for _, source := range heater.HeatBy() {
		list = append(list, p.say("heat."+string(source)))
	}
	if list == nil {
		return ""
	}
	return p.say("in-brackets", p.list(list))
}

// look tells a part from others that it could be.
func (p *Printer) look(part *plumbing.Part) string {
	if part.Look == "" {
		return ""
	}
	return p.say("act.told-by", part.Look)
}

func (p *Printer) thread(part *plumbing.Part) string {
	if part.Thread == "" {
		return ""
	}
	return p.say("in-brackets", part.Thread)
}

// Beside is what is done alike at some parts beside the handles.
type Beside struct {
	Parts []*plumbing.Part
	What  string
	names []string
}

// Names joins the names of the parts.
func (b *Beside) Names() string { return strings.Join(b.names, ", ") }

// Together gathers acts that are told in the same words, in the order in which
// they come.
func (p *Printer) Together(acts []state.Act) []Beside {
	var list []Beside
	for _, a := range acts {
		what := p.Act(a)
		i := slices.IndexFunc(list, func(b Beside) bool { return b.What == what })
		if i < 0 {
			i = len(list)
			list = append(list, Beside{What: what})
		}
		name := a.Part.Name
		if len(list[i].names) > 0 {
			name = p.bare(name)
		}
		list[i].Parts, list[i].names = append(list[i].Parts, a.Part), append(list[i].names, name)
	}
	return list
}
