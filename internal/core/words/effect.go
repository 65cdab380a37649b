package words

import (
	"strings"

	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Effects tells the effects of one thing wrong as one text.
func (p *Printer) Effects(n *plumbing.Network, list []fault.Effect) string {
	var words []string
	for i := range list {
		words = append(words, p.Effect(n, &list[i]))
	}
	return strings.Join(words, " ")
}

// Effect tells an effect as a person would notice it.
func (p *Printer) Effect(n *plumbing.Network, e *fault.Effect) string {
	w := effect{p, e, n}
	return w.main() + w.loses() + w.frost() + w.pump()
}

// effect is an effect that is being told.
type effect struct {
	*Printer
	*fault.Effect
	net *plumbing.Network
}

// main tells what happens. The arguments of each message are in the order in
// which the catalogue numbers them.
func (w *effect) main() string {
	key := "effect." + string(w.What)
	switch w.What {
	case fault.HeaterTakes:
		name := w.Part.Name
		if w.Fluid == state.Sanitizer {
			name = w.running(name)
		}
		return w.say(key+"."+w.drunk(), name, quantity.Rough(w.Volume, w.sys), w.behind())
	case fault.NothingComes:
		return w.say(key+"."+string(w.fluidOr(state.Water)), w.sides(w.Sides), quantity.Rough(w.Volume, w.sys))
	case fault.HeaterSeeps:
		return w.say(key, w.begin(w.fluid()), w.part(), quantity.Rough(w.Flow, w.sys))
	case fault.HeaterDry:
		return w.say(key, w.Part.Name, w.say("harm."+string(w.Harm)))
	case fault.HeaterBlown, fault.StandsStill:
		return w.say(key, w.Part.Name)
	case fault.AllPastHeater, fault.PastFilter:
		return w.say(key, w.sides(w.Sides))
	case fault.Lukewarm:
		return w.say(key, w.sides(w.Sides), w.share())
	case fault.PumpedBack:
		return w.say(key, w.fluid(), w.part(), w.rate())
	case fault.TankInstead:
		return w.say(key, w.part(), w.rate())
	case fault.TankFills:
		return w.say(key, w.Part.Name, w.rate(), w.overflows())
	case fault.RunsOut:
		return w.say(key, w.whose(), w.part(), quantity.Rough(w.Flow, w.sys))
	case fault.CanRunOut:
		return w.say(key, w.whose(), w.part())
	case fault.DrawsInstead:
		return w.say(key, w.part(), w.fluid())
	case fault.DrawsAlso:
		return w.say(key, w.part(), w.share(), w.fluid())
	case fault.Weaker:
		port := w.net.Nodes[w.Sides.Nodes[0]].Port
		return w.say(key, w.Part.Name, w.side(port), quantity.Rough(w.Flow, w.sys), quantity.Rough(w.Before, w.sys))
	case fault.MoreStays:
		return w.moreStays(key)
	case fault.TanksParted:
		return w.say(key, w.From.Name, w.part())
	case fault.TanksLevel:
		return w.say(key, w.running(w.From.Name), w.part())
	case fault.Ruined:
		return w.say(key, w.begin(w.fluid()), w.part())
	}
	return w.say(key, w.part()) // all others are about their part alone
}

func (w *effect) part() string {
	if w.Part == nil {
		return ""
	}
	return w.running(w.Part.Name)
}

func (w *effect) fluid() string { return w.say("fluid." + string(w.Fluid)) }

// fluidOr is the fluid where the catalogue has a message of its own for it.
func (w *effect) fluidOr(other state.Fluid) state.Fluid {
	switch w.Fluid {
	case state.Antifreeze, state.Sanitizer, state.Air:
		return w.Fluid
	}
	return other
}

// drunk is what a heater takes.
func (w *effect) drunk() string {
	if f := w.fluidOr(state.Water); f != state.Air {
		return string(f)
	}
	return string(state.Water)
}

func (w *effect) behind() string {
	if len(w.Behind.Nodes) == 0 {
		return ""
	}
	return w.say("effect.behind."+w.drunk(), w.sides(w.Behind))
}

func (w *effect) overflows() string {
	if w.Overflows <= 0 {
		return ""
	}
	return w.say("effect.overflows", quantity.Rough(w.Overflows, w.sys))
}

func (w *effect) rate() string {
	if w.Flow == 0 {
		return ""
	}
	return w.say("effect.rate", quantity.Rough(w.Flow, w.sys))
}

func (w *effect) share() string {
	if w.Share == 0 {
		return ""
	}
	return w.say("effect."+string(w.What)+".share", quantity.Figure(100*w.Share, 2, 0))
}

// whose is the fluid that runs out, or whose water it is.
func (w *effect) whose() string {
	if w.From != nil {
		return w.say("effect.water-from", w.running(w.From.Name))
	}
	return w.begin(w.fluid())
}

// mostPlaces is how many places are named before the rest is summed up.
const mostPlaces = 3

func (w *effect) moreStays(key string) string {
	var list []string
	for _, x := range w.Places[:min(mostPlaces, len(w.Places))] {
		list = append(list, w.say(key+".place", quantity.Rough(x.More, w.sys), w.place(x)))
	}
	rest := ""
	if len(w.Places) > mostPlaces {
		rest = w.say(key + ".rest")
	}
	return w.say(key, quantity.Rough(w.Volume, w.sys), w.list(list), rest)
}

// place names a part, or a line by its ends.
func (w *effect) place(x fault.Place) string {
	if x.Part != nil {
		return w.running(x.Part.Name)
	}
	l := &w.net.Links[x.Link]
	return w.say("place.line", w.running(w.net.Nodes[l.A].Part.Name), w.running(w.net.Nodes[l.B].Part.Name))
}

func (w *effect) loses() string {
	if w.Loses == nil {
		return ""
	}
	return w.say("effect.loses", w.Loses.Name, w.Loses.Data.Capacity.String())
}

func (w *effect) frost() string {
	if w.Frost == nil {
		return ""
	}
	return w.say("effect.frost-valve", w.Frost.Data.OpensBelow.String(), w.running(w.Frost.Name))
}

func (w *effect) pump() (words string) {
	switch {
	case w.Dry && !w.DryFor.IsZero():
		words = w.say("effect.dry.for", w.DryFor.String())
	case w.Dry:
		words = w.say("effect.dry")
	}
	if w.NeverStops {
		words += w.say("effect.never-stops")
	}
	return words
}

// sides names outlet sides: "kitchen tap hot, basin tap hot", or all of a kind
// at once.
func (w *effect) sides(s fault.Sides) string {
	if s.Every != fault.Some {
		return w.say("every." + string(s.Every))
	}
	var list []string
	for _, side := range s.Nodes {
		n := w.net.Nodes[side]
		list = append(list, w.bare(n.Part.Name)+" "+w.side(n.Port))
	}
	return w.list(list)
}

// side names a side of an outlet; another port goes by its own name.
func (p *Printer) side(port string) string {
	if port == "cold" || port == "hot" {
		return p.say("side." + port)
	}
	return port
}

// list joins things that are listed.
func (p *Printer) list(things []string) string { return strings.Join(things, p.say("list.between")) }
