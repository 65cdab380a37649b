package fault

import (
	"fmt"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Words are the effects of an entry as one text.
func (e *Entry) Words(n *plumbing.Network) string {
	var list []string
	for i := range e.Effects {
		list = append(list, e.Effects[i].Words(n))
	}
	return strings.Join(list, " ")
}

// Words tell an effect as a person would notice it.
func (e *Effect) Words(n *plumbing.Network) string {
	w := telling{e, n, n.Model.System()}
	return w.main() + w.loss() + w.frost() + w.pump()
}

// telling puts an effect into words.
type telling struct {
	*Effect
	net *plumbing.Network
	sys quantity.System
}

func (w *telling) main() string {
	fluid, part := string(w.Fluid), ""
	if w.Part != nil {
		part = lower(w.Part.Name)
	}
	switch w.What {
	case HeaterTakes:
		return w.heaterTakes()
	case HeaterSeeps:
		return fmt.Sprintf("%s seeps into %s, up to about %s.", plumbing.Upper(fluid), part, quantity.Rough(w.Flow, w.sys))
	case HeaterBlown:
		return fmt.Sprintf("%s is blown through as well: the lines behind it get less air.", w.Part.Name)
	case HeaterPours:
		return fmt.Sprintf("Water comes into %s while its drain is open: it pours out over whoever works there.", part)
	case HeaterDry:
		return fmt.Sprintf("%s gets no water: %s", w.Part.Name, harmWords[w.Harm])
	case StandingIntoHeater:
		return fmt.Sprintf("What stands in the lines can run into %s.", part)
	case StandingIntoTank:
		return fmt.Sprintf("What stands in the lines can run back into %s.", part)
	case StandingRunsOut:
		return fmt.Sprintf("What stands in the lines runs out at %s.", part)
	case NothingComes:
		return w.nothingComes()
	case NothingIntoTank:
		return fmt.Sprintf("Nothing gets into %s.", part)
	case AllPastHeater:
		return fmt.Sprintf("Cold water comes at %s: all of it goes past the heater.", w.names(w.Sides))
	case Lukewarm:
		return fmt.Sprintf("Hot water comes lukewarm at %s%s.", w.names(w.Sides), w.share("of the flow goes past the heater"))
	case PumpedBack:
		return fmt.Sprintf("The pump sends %s back into %s%s: less comes at the outlets.", fluid, part, w.rate())
	case TankInstead:
		return fmt.Sprintf("Antifreeze runs into %s%s instead of to the outlets.", part, w.rate())
	case TankFills:
		full := ""
		if w.Overflows > 0 {
			full = fmt.Sprintf("; half full, it overflows after about %s", quantity.Rough(w.Overflows, w.sys))
		}
		return fmt.Sprintf("%s fills by itself%s%s.", w.Part.Name, w.rate(), full)
	case AirIntoTank:
		return fmt.Sprintf("Air escapes into %s.", part)
	case AirEscapes:
		return fmt.Sprintf("Air escapes at %s.", part)
	case RunsOut:
		return fmt.Sprintf("%s runs out at %s, about %s.", w.what(), part, quantity.Rough(w.Flow, w.sys))
	case LittleRunsOut:
		return fmt.Sprintf("A little water runs out at %s.", part)
	case CanRunOut:
		return fmt.Sprintf("%s can run out at %s.", w.what(), part)
	case DrawsAir:
		return fmt.Sprintf("The pump draws air at %s: it spits and does not build up pressure.", part)
	case DrawsAirIfOpen:
		return fmt.Sprintf("The pump draws air at %s if that is open: it spits and does not build up pressure.", part)
	case DrawsInstead:
		return fmt.Sprintf("The pump draws water from %s instead of the %s: it runs as usual, and every outlet gives plain water.", part, fluid)
	case DrawsAlso:
		return fmt.Sprintf("The pump also draws water from %s%s. It thins the %s.", part, w.share("of what it draws"), fluid)
	case Weaker:
		side := w.net.Nodes[w.Sides.Nodes[0]]
		return fmt.Sprintf("Weaker flow: %s %s gives about %s instead of %s.", w.Part.Name, side.Port, quantity.Rough(w.Flow, w.sys), quantity.Rough(w.Before, w.sys))
	case MoreStays:
		return w.moreStays()
	case TanksParted:
		return fmt.Sprintf("%s and %s are not joined: each fills and runs empty by itself.", w.From.Name, part)
	case TanksLevel:
		return fmt.Sprintf("Water runs between %s and %s until both stand level.", lower(w.From.Name), part)
	case ThroughFilter:
		return fmt.Sprintf("Water runs through %s as well.", part)
	case StandsStill:
		return fmt.Sprintf("%s does not run: nothing is heard.", w.Part.Name)
	case FilterMissed:
		return fmt.Sprintf("No water runs through %s.", part)
	case PastFilter:
		return fmt.Sprintf("Unfiltered water comes at %s.", w.names(w.Sides))
	case Ruined:
		return fmt.Sprintf("%s gets into %s and ruins it.", plumbing.Upper(fluid), part)
	case PressureFalls:
		return fmt.Sprintf("The pressure falls back through %s: with every outlet shut it starts again and again.", part)
	}
	return string(w.What)
}

var harmWords = map[Harm]string{
	NotLit:            "its flow switch keeps it from lighting, and no hot water comes.",
	NoHeat:            "no hot water comes. No heat until the air is out.",
	Burns:             "switched on while it is empty, its element burns out.",
	Overheats:         "switched on while it is empty, it overheats and is ruined.",
	BurnsAndOverheats: "switched on while it is empty, its element burns out and its burner overheats it.",
}

func (w *telling) heaterTakes() string {
	behind := ""
	if len(w.Behind.Nodes) > 0 {
		gets := map[state.Fluid]string{state.Antifreeze: "stays clear", state.Sanitizer: "gets none", state.Water: "stays without water"}[w.Fluid]
		behind = fmt.Sprintf("; %s %s until it is full", w.names(w.Behind), gets)
	}
	much := quantity.Rough(w.Volume, w.sys)
	switch w.Fluid {
	case state.Sanitizer:
		return fmt.Sprintf("About %s of sanitizer gets into %s and attacks its metal%s.", much, lower(w.Part.Name), behind)
	case state.Antifreeze:
		return fmt.Sprintf("%s takes about %s of antifreeze%s.", w.Part.Name, much, behind)
	}
	return fmt.Sprintf("%s fills with about %s of water%s.", w.Part.Name, much, behind)
}

func (w *telling) nothingComes() string {
	who, stays := w.names(w.Sides), quantity.Rough(w.Volume, w.sys)
	switch w.Fluid {
	case state.Antifreeze:
		return fmt.Sprintf("No antifreeze comes: %s. About %s of line keeps what was in it and bursts.", who, stays)
	case state.Sanitizer:
		return fmt.Sprintf("No sanitizer comes: %s. About %s of line is not treated.", who, stays)
	case state.Air:
		return fmt.Sprintf("No air comes: %s. About %s of water may stay in the lines.", who, stays)
	}
	return fmt.Sprintf("No water comes: %s.", who)
}

func (w *telling) moreStays() string {
	var words []string
	for i, p := range w.Places {
		if i == 3 {
			break
		}
		words = append(words, fmt.Sprintf("%s in %s", quantity.Rough(p.More, w.sys), w.place(p)))
	}
	rest := ""
	if len(w.Places) > 3 {
		rest = " and more elsewhere"
	}
	return fmt.Sprintf("About %s more water stays: %s%s. Frost bursts what is full.", quantity.Rough(w.Volume, w.sys), strings.Join(words, ", "), rest)
}

// place names a part, or a line by its ends.
func (w *telling) place(p Place) string {
	if p.Part != nil {
		return lower(p.Part.Name)
	}
	l := &w.net.Links[p.Link]
	return fmt.Sprintf("the line from %s to %s", lower(w.net.Nodes[l.A].Part.Name), lower(w.net.Nodes[l.B].Part.Name))
}

// what is the fluid that runs out, or whose water it is.
func (w *telling) what() string {
	if w.From != nil {
		return "Water from " + lower(w.From.Name)
	}
	return plumbing.Upper(string(w.Fluid))
}

func (w *telling) rate() string {
	if w.Flow == 0 {
		return ""
	}
	return " at about " + quantity.Rough(w.Flow, w.sys)
}

func (w *telling) share(of string) string {
	if w.Share == 0 {
		return ""
	}
	return fmt.Sprintf(": about %s %% %s", quantity.Figure(100*w.Share, 2, 0), of)
}

func (w *telling) loss() string {
	if w.Loses == nil {
		return ""
	}
	return fmt.Sprintf(" %s loses its %s.", w.Loses.Name, w.Loses.Data.Capacity)
}

func (w *telling) frost() string {
	if w.Frost == nil {
		return ""
	}
	return fmt.Sprintf(" Below %s %s opens by itself and lets it run out.", w.Frost.Data.OpensBelow, lower(w.Frost.Name))
}

func (w *telling) pump() string {
	words := ""
	if w.Dry {
		words = " The pump runs without stopping and draws nothing"
		if !w.DryFor.IsZero() {
			words += fmt.Sprintf("; it stands that for %s", w.DryFor)
		}
		words += "."
	}
	if w.NeverStops {
		words += " The pump never falls silent."
	}
	return words
}

// names joins sides: "kitchen tap hot, basin tap hot", or all of a kind at once.
func (w *telling) names(s Sides) string {
	switch s.Every {
	case EveryOutlet:
		return "every outlet"
	case EveryHot, EveryCold:
		return "every " + string(s.Every) + " side"
	}
	var list []string
	for _, side := range s.Nodes {
		n := w.net.Nodes[side]
		list = append(list, plumbing.NoArticle(n.Part.Name)+" "+n.Port)
	}
	return strings.Join(list, ", ")
}

func lower(name string) string { return plumbing.Lower(name) }
