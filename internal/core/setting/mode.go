package setting

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Ids of the modes.
const (
	Everyday      = "everyday"
	City          = "city"
	Bypassed      = "heater-bypassed"
	Coupled       = "heater-coupled"
	CityCoupled   = "city-heater-coupled"
	TanksJoined   = "tanks-joined"
	TanksApart    = "tanks-apart"
	FilterPassed  = "filter-passed"
	FilterThrough = "filter-through"
	FromBarrel    = "from-barrel"
	Stowed        = "heater-stowed"
	FillBarrel    = "fill-from-barrel"
	FillHatch     = "fill-by-hatch"
	HotCycle      = "hot-cycle"
	JumperOn      = "jumper-on"
	FillGravity   = "fill-by-gravity"
	FillPressure  = "fill-under-pressure"
	FillContainer = "fill-from-container"
	BackFill      = "back-fill"
	Sanitize      = "sanitize"
	DoseTank      = "tank-from-container"
	DoseLines     = "lines-from-container"
	Flush         = "flush"
	HeaterAlone   = "heater-alone"
	DrainDown     = "drain-down"
	Blow          = "air"
	Antifreeze    = "antifreeze"
	HandPump      = "antifreeze-by-hand-pump"
	Storage       = "storage"
	ThroughHeater = "antifreeze-through-heater"
)

// Group is what a mode is for.
type Group string

// The groups of modes, in the order they are shown.
const (
	Use    Group = "Use"
	Fill   Group = "Fill"
	Clean  Group = "Clean"
	Winter Group = "Winter"
)

// Groups lists the groups in the order they are shown.
func Groups() []Group { return []Group{Use, Fill, Clean, Winter} }

// Modes makes the modes of a network from its equipment. Those that the
// equipment does not have say why in LeftOut.
func Modes(n *plumbing.Network) []Mode {
	e := survey(n)
	modes := []Mode{
		e.everyday(), e.city(), e.fromBarrel(), e.bypassed(), e.coupled(), e.cityCoupled(), e.stowed(), e.tanksJoined(),
		e.tanksApart(),
		e.filterThrough(), e.filterPassed(), e.jumperOn(),
		e.fillByGravity(), e.fillByHatch(), e.fillUnderPressure(), e.fillFromBarrel(), e.fillFromContainer(),
		e.backFill(),
		e.sanitize(), e.tankFromContainer(), e.linesFromContainer(), e.flush(), e.heaterAlone(), e.hotCycle(),
		e.drainDown(), e.blow(), e.antifreeze(), e.handPump(), e.storage(), e.throughHeater(),
	}
	for i := range modes {
		modes[i].Name = fact.Of("mode."+modes[i].ID, e.called("supply"), e.called("short"))
		e.spare(&modes[i])
		// What is wanted comes before what is not: a reader asks for it first.
		slices.SortStableFunc(modes[i].Clauses, func(a, b Clause) int {
			switch {
			case a.Must == b.Must:
				return 0
			case a.Must:
				return -1
			}
			return 1
		})
	}
	return modes
}

// ByID finds a mode; nil if there is none.
func ByID(modes []Mode, id string) *Mode {
	for i := range modes {
		if modes[i].ID == id {
			return &modes[i]
		}
	}
	return nil
}
