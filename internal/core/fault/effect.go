package fault

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// Effect is one thing that a person would notice or find later. Fields that
// its kind does not need are zero.
type Effect struct {
	What     What
	Severity Severity
	Fluid    state.Fluid             // that moves in the mode, where it matters
	Part     *plumbing.Part          // where it is noticed
	Sides    Sides                   // outlet sides where it is noticed
	From     *plumbing.Part          // the tank whose water it is, where it is not the mode's fluid
	Volume   quantity.Litre          // that a heater takes, a line keeps
	Flow     quantity.LitrePerMinute // that runs
	Before   quantity.LitrePerMinute // that would run
	Share    float64                 // of what flows, that goes the wrong way or comes from the wrong place

	Overflows  quantity.Second                 // from when the tank is half full
	Behind     Sides                           // get nothing until the heater is full
	Harm       Harm                            // of a heater without water
	Frost      *plumbing.Part                  // opens in the cold and lets it run out
	Loses      *plumbing.Part                  // a heater that runs empty by it
	NeverStops bool                            // the pump
	Dry        bool                            // the pump draws nothing
	DryFor     quantity.Given[quantity.Second] // that it stands that
	Places     []Place                         // where more water stays, the most first
}

// What is a kind of effect.
type What string

// Kinds of effect.
const (
	HeaterTakes        What = "heater-takes"         // what it should not have
	HeaterSeeps        What = "heater-seeps"         // by a check valve that fails
	HeaterBlown        What = "heater-blown"         // through, with air
	HeaterPours        What = "heater-pours"         // water out of its open drain
	HeaterDry          What = "heater-dry"           //
	StandingIntoHeater What = "standing-into-heater" // what stands in the lines
	StandingIntoTank   What = "standing-into-tank"   //
	StandingRunsOut    What = "standing-runs-out"    //
	NothingComes       What = "nothing-comes"        // at outlets
	NothingIntoTank    What = "nothing-into-tank"    //
	AllPastHeater      What = "all-past-heater"      //
	Lukewarm           What = "lukewarm"             //
	PumpedBack         What = "pumped-back"          // into a tank
	TankInstead        What = "tank-instead"         // of the outlets
	TankFills          What = "tank-fills"           // by itself
	AirIntoTank        What = "air-into-tank"        //
	AirEscapes         What = "air-escapes"          //
	RunsOut            What = "runs-out"             // so much
	LittleRunsOut      What = "little-runs-out"      //
	CanRunOut          What = "can-run-out"          //
	DrawsAir           What = "draws-air"            // a pump
	DrawsAirIfOpen     What = "draws-air-if-open"    //
	DrawsInstead       What = "draws-instead"        // from a tank
	DrawsAlso          What = "draws-also"           //
	Weaker             What = "weaker"               // flow
	MoreStays          What = "more-stays"           // after draining
	PressureFalls      What = "pressure-falls"       // back through a pump
	Ruined             What = "ruined"               // by what it shuns
	TanksParted        What = "tanks-parted"         // that should be one body of water
	TanksLevel         What = "tanks-level"          // that should be apart
	ThroughFilter      What = "through-filter"       // that should be passed
	FilterMissed       What = "filter-missed"        // gets no water
	StandsStill        What = "stands-still"         // a pump: nothing is heard
	PastFilter         What = "past-filter"          // comes at outlets
)

// ofFluid reports whether it matters to an effect which fluid moves.
func (w What) ofFluid() bool {
	switch w {
	case HeaterTakes, HeaterSeeps, NothingComes, PumpedBack, TankInstead, RunsOut, CanRunOut, DrawsInstead, DrawsAlso,
		Ruined:
		return true
	}
	return false
}

// Harm is what heat without water does to a heater.
type Harm string

// Kinds of harm.
const (
	NotLit            Harm = "not-lit"             // its flow switch keeps it off
	NoHeat            Harm = "no-heat"             //
	Burns             Harm = "burns"               // its element
	Overheats         Harm = "overheats"           // by its burner
	BurnsAndOverheats Harm = "burns-and-overheats" //
)

// Sides are outlet sides, and whether they are all there are.
type Sides struct {
	Nodes []plumbing.NodeID
	Every Every
}

// Every says that sides are all of a kind that a mode serves.
type Every string

// All of a kind.
const (
	Some        Every = ""
	EveryOutlet Every = "outlet"
	EveryHot    Every = "hot"
	EveryCold   Every = "cold"
)

// Place is a line or part in which more water stays.
type Place struct {
	ID   string
	Link plumbing.LinkID // of the network, where Part is nil
	Part *plumbing.Part
	More quantity.Litre
}

// Parts lists the ids of the parts and lines that an effect is about.
func (e *Effect) Parts(n *plumbing.Network) []string {
	var list []string
	if e.Part != nil {
		list = append(list, e.Part.ID)
	}
	for _, s := range e.Sides.Nodes {
		list = append(list, n.Nodes[s].Part.ID)
	}
	for _, p := range e.Places {
		list = append(list, p.ID)
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// Key is equal for effects that are equal: of the same kind, at the same
// parts, with figures that agree as far as flows are known, to two digits.
func (e *Effect) Key() string {
	var b strings.Builder
	part := func(p *plumbing.Part) string {
		if p == nil {
			return "-"
		}
		return p.ID
	}
	fmt.Fprintln(&b, e.What, e.Severity, e.Fluid, part(e.Part), e.Sides, part(e.From), part(e.Frost), part(e.Loses),
		e.Behind, e.Harm, e.NeverStops, e.Dry, e.DryFor)
	fmt.Fprintln(&b, twoDigits(e.Volume), twoDigits(e.Flow), twoDigits(e.Before), twoDigits(e.Share),
		twoDigits(e.Overflows))
	for _, p := range e.Places {
		fmt.Fprintln(&b, p.ID, twoDigits(p.More))
	}
	return b.String()
}

func twoDigits[F ~float64](v F) string { return fmt.Sprintf("%.1e", math.Abs(float64(v))) }

// keyOf is equal for equal lists of effects.
func keyOf(list []Effect) string {
	var b strings.Builder
	for i := range list {
		b.WriteString(list[i].Key())
	}
	return b.String()
}

// bySeverity puts the gravest first.
func bySeverity(list []Effect) {
	slices.SortStableFunc(list, func(x, y Effect) int { return cmp.Compare(y.Severity, x.Severity) })
}
