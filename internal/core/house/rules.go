package house

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/quantity"
)

// Keys of the rules.
var (
	Target         = Key[quantity.MgPerLitre]{"target"}  // of the sanitizer where it stands
	Ceiling        = Key[quantity.MgPerLitre]{"ceiling"} // no part may meet more
	Bleach         = Key[quantity.Percent]{"bleach"}     // available chlorine, g per 100 mL
	Over           = Key[float64]{"over"}                // share a household measure may lie above the dose
	Container      = Key[quantity.Litre]{"container"}    // that the bleach is thinned in
	Start          = Key[float64]{"start"}               // share of the tank that is full before it is dosed
	SupplyChlorine = Key[quantity.MgPerLitre]{"supply-chlorine"}
	FlushAbove     = Key[quantity.MgPerLitre]{"flush-above"} // how far above the supply flushing ends
	Drinking       = Key[quantity.MgPerLitre]{"drinking"}
	Overrun        = Key[quantity.Litre]{"overrun"}  // per outlet side, until fully coloured
	RunOut         = Key[quantity.Litre]{"run-out"}  // per low-point drain, with a helper at it
	Alone          = Key[float64]{"alone"}           // share that more runs out without a helper
	Helper         = Key[bool]{"helper"}             // somebody stands at the drains
	JugHeel        = Key[quantity.Litre]{"jug-heel"} // left in the jugs and drawn with air
	// share of swept lines that mixes at the front when they are full
	Smear       = Key[float64]{"smear"}
	Film        = Key[float64]{"film"}                // share of a line that stays on its walls after a blow
	Accumulator = Key[float64]{"accumulator"}         // share of an accumulator that fluid enters
	Jug         = Key[quantity.Litre]{"jug"}          // the size antifreeze is sold in
	Antifreeze  = Key[quantity.Celsius]{"antifreeze"} // burst protection printed on the product
	SoakLow     = Key[quantity.Second]{"soak-low"}
	SoakHigh    = Key[quantity.Second]{"soak-high"}
	SupplyFlow  = Key[quantity.LitrePerMinute]{"supply-flow"} // of a hose at the fill
	PumpOn      = Key[quantity.Second]{"pump-on"}             // duty cycle of a long run
	PumpOff     = Key[quantity.Second]{"pump-off"}
	Air         = Key[quantity.Kilopascal]{"air"}     // pressure for blowing out
	Anode       = Key[float64]{"anode"}               // share used at which it is replaced
	WaterTemp   = Key[quantity.Celsius]{"water-temp"} // of the supply
	HotTemp     = Key[quantity.Celsius]{"hot-temp"}   // of a heater that is ready
	SafeTemp    = Key[quantity.Celsius]{"safe-temp"}  // below which a heater may be opened

	WinterSchool = Key[string]{"winter-school"}      // id of the school that is printed
	Pale         = Key[float64]{"pale"}              // share of the strength that protects, at which colour is first seen
	Told         = Key[string]{"told"}               // by what somebody tells that sanitizer is there
	Strip        = Key[string]{"strip"}              // fields of a test strip, mg/L
	FlushWay     = Key[string]{"flush-way"}          // how the sanitizer is got out
	Nose         = Key[quantity.MgPerLitre]{"nose"}  // at which the nose answers
	Handling     = Key[quantity.Second]{"handling"}  // what a hand does at one part takes so long
	DryRun       = Key[quantity.Second]{"dry-run"}   // of a pump whose own figure is not given
	LeakTest     = Key[quantity.Second]{"leak-test"} // a pump stays silent that long where nothing leaks
	Spill        = Key[quantity.Litre]{"spill"}      // runs on when the air is out of a heater
	TripFill     = Key[float64]{"trip-fill"}         // share of the tanks that is filled for a journey
	VinegarShare = Key[float64]{"vinegar-share"}     // of a bath in a heater
	Vinegar      = Key[quantity.Percent]{"vinegar"}  // acid in vinegar as it is bought
	Descale      = Key[quantity.Second]{"descale"}   // vinegar stands in a heater, or in lines
	HotCycle     = Key[quantity.Second]{"hot-cycle"} // a hydronic heater heats its lines

	MakerName      = Key[string]{"maker-name"} // of the manufacturer, on every guide; "" for the model's own
	MakerMark      = Key[string]{"maker-mark"} // a short mark beside it
	Sides          = Key[string]{"sides"}      // what the sides of a vehicle are called
	Tone           = Key[string]{"tone"}       // how much is told with a step
	FixedCaution   = Key[string]{"fixed-caution"}
	WarrantyWinter = Key[string]{"warranty-winter"}
	WarrantyClean  = Key[string]{"warranty-clean"}
	WarrantyHeater = Key[string]{"warranty-heater"}
)

// Ways of telling a step, for Tone.
const (
	ToneFull  = "full"  // with what comes of it
	ToneTerse = "terse" // what to do, and until when
)

// Rule is one choice of the house: what it is called, what it is for, which
// values are usual.
type Rule struct {
	ID, Name, Group, Why string
	Schools              []string // usual values, to choose among
	Free                 bool     // a text of the house's own, or none

	usual func(quantity.System) any
	text  func(v any, sys quantity.System) string
	read  func(text string) (any, error)
}

// amountRule is a rule whose value is a quantity within bounds. The usual
// value is the same in both systems, or another in SI.
func amountRule[U quantity.Unit](k Key[U], name, group, why string, us, si, least, most U, schools ...string) Rule {
	return Rule{ID: k.ID, Name: name, Group: group, Why: why, Schools: schools,
		usual: func(sys quantity.System) any {
			if sys == quantity.SI {
				return si
			}
			return us
		},
		text: func(v any, sys quantity.System) string { u, _ := v.(U); return plain(quantity.Neat(u, sys)) },
		read: func(text string) (any, error) {
			v, err := quantity.Parse[U](text)
			if err != nil {
				return nil, err
			}
			if v < least || v > most {
				return nil, fmt.Errorf("%q lies outside what is sensible here, from %s to %s", text,
					quantity.Show(least, quantity.SI), quantity.Show(most, quantity.SI))
			}
			return v, nil
		}}
}

// shareRule is a rule whose value is a share, written in per cent.
func shareRule(k Key[float64], name, group, why string, usual float64, most quantity.Percent, schools ...string) Rule {
	return Rule{ID: k.ID, Name: name, Group: group, Why: why, Schools: schools,
		usual: func(quantity.System) any { return usual },
		text: func(v any, _ quantity.System) string {
			share, _ := v.(float64)
			return plain(quantity.Neat(quantity.Percent(share*100), quantity.SI))
		},
		read: func(text string) (any, error) {
			v, err := quantity.Parse[quantity.Percent](text)
			if err != nil {
				return nil, err
			}
			if v < 0 || v > most {
				return nil, fmt.Errorf("%q lies outside what is sensible here, from 0 %% to %v %%", text, float64(most))
			}
			return float64(v) / 100, nil
		}}
}

// yesRule is a rule that holds or does not.
func yesRule(k Key[bool], name, group, why string, usual bool) Rule {
	return Rule{ID: k.ID, Name: name, Group: group, Why: why, Schools: []string{"yes", "no"},
		usual: func(quantity.System) any { return usual },
		text: func(v any, _ quantity.System) string {
			if v == true {
				return "yes"
			}
			return "no"
		},
		read: func(text string) (any, error) {
			if text != "yes" && text != "no" {
				return nil, fmt.Errorf("%q is neither yes nor no", text)
			}
			return text == "yes", nil
		}}
}

// longestText is how long a text of the house may be, in bytes.
const longestText = 600

// textRule is a rule whose value is a text of the house's own, or none.
func textRule(k Key[string], name, group, why string) Rule {
	return Rule{ID: k.ID, Name: name, Group: group, Why: why, Free: true,
		usual: func(quantity.System) any { return "" },
		text:  func(v any, _ quantity.System) string { s, _ := v.(string); return s },
		read: func(text string) (any, error) {
			text = strings.Join(strings.Fields(text), " ")
			if len(text) > longestText {
				return nil, fmt.Errorf("a text of the house has at most %d letters", longestText)
			}
			return text, nil
		}}
}

// choiceRule is a rule whose value is one of some words.
func choiceRule(k Key[string], name, group, why, usual string, schools ...string) Rule {
	return Rule{ID: k.ID, Name: name, Group: group, Why: why, Schools: schools,
		usual: func(quantity.System) any { return usual },
		text:  func(v any, _ quantity.System) string { s, _ := v.(string); return s },
		read: func(text string) (any, error) {
			text = strings.ToLower(strings.TrimSpace(text))
			if !slices.Contains(schools, text) {
				return nil, fmt.Errorf("%q is none of %s", text, strings.Join(schools, ", "))
			}
			return text, nil
		}}
}

func plain(s string) string {
	return strings.ReplaceAll(strings.ReplaceAll(s, "\u00a0", " "), "−", "-")
}

// Fields are the fields of the house's test strip, in mg/L, rising.
func Fields(h House) (list []quantity.MgPerLitre) {
	for _, text := range strings.Fields(Strip.Of(h)) {
		if v, err := strconv.ParseFloat(text, 64); err == nil {
			list = append(list, quantity.MgPerLitre(v))
		}
	}
	return list
}

// Rules lists the house's rules in the order they are shown.
func Rules() []Rule { return slices.Clone(rules) }

// RuleByID finds a rule; nil if there is none.
func RuleByID(id string) *Rule {
	for i := range rules {
		if rules[i].ID == id {
			return &rules[i]
		}
	}
	return nil
}

const hour = 3600 // s

// leftRight are the usual names of a vehicle's sides, facing forward.
const leftRight = "left side, right side"

// SideNames are what the sides of a vehicle are called, the left one first; nothing where as usual.
func SideNames(h House) (left, right string) {
	text := Sides.Of(h)
	if text == leftRight {
		return "", ""
	}
	left, right, _ = strings.Cut(text, ", ")
	return left, right
}

// rules in the order they are shown.
var rules = []Rule{
	amountRule(Target, "Strength of the sanitizer", "Sanitizing", "where it stands, in the tank and in every line",
		50, 50, 10, 150, "50 mg/L", "55 mg/L", "65 mg/L", "100 mg/L"),
	amountRule(Bleach, "Bleach", "Sanitizing", "available chlorine, g per 100 mL, as printed",
		5.25, 5.25, 1, 15, "5.25 %", "6 %", "7.5 %", "8.25 %"),
	shareRule(Over, "A measure may lie above the dose by", "Sanitizing", "so that cups and spoons can be used", 0.10,
		25, "10 %"),
	amountRule(Ceiling, "Ceiling for parts", "Sanitizing",
		"no tank, seal or line meets more, not even a batch on its way",
		200, 200, 100, 400, "200 mg/L"),
	amountRule(Container, "Container for batches", "Sanitizing", "the bleach is thinned in it before it goes in",
		5*quantity.USGallon, 20, 1, 30, "1 gal", "5 gal", "10 L", "20 L"),
	shareRule(Start, "Tank before it is dosed", "Sanitizing", "part full, so that the dose mixes as it fills", 0.25, 90,
		"0 %", "25 %", "50 %"),
	amountRule(SoakLow, "Soak, at least", "Sanitizing", "",
		4*hour, 4*hour, 1800, 86400, "3 h", "4 h", "8 h", "12 h"),
	amountRule(SoakHigh, "Soak, at most", "Sanitizing", "",
		8*hour, 8*hour, 1800, 2*86400, "4 h", "8 h", "12 h", "24 h"),
	amountRule(SupplyChlorine, "Chlorine of the supply", "Flushing", "flushing can't end below it",
		0, 0, 0, 10, "0 mg/L", "0.5 mg/L", "1 mg/L"),
	choiceRule(FlushWay, "Flushing out", "Flushing",
		"lines-pushed: the tank drained, the lines pushed through; drained: the lines drained too; through: filled while "+
			"it is pumped out", "lines-pushed", "lines-pushed", "drained", "through"),
	amountRule(FlushAbove, "Flushing ends above the supply by", "Flushing",
		"by taste; a smaller figure takes more water",
		1, 1, 0.1, 10, "1 mg/L", "2 mg/L"),
	amountRule(Drinking, "Drinking limit for chlorine", "Flushing", "local law decides",
		4, 4, 0.1, 10, "4 mg/L"),
	amountRule(Antifreeze, "Antifreeze protects from bursting to", "Winterizing",
		"as printed on the ready-to-use product",
		-50*5./9-160./9, -50*5./9-160./9, -73, -5, "-50 °F", "-70 °F"),
	amountRule(Overrun, "Overrun at each outlet side", "Winterizing", "until it is fully coloured; trials correct it",
		0.15, 0.15, 0, 2, "5 fl oz", "150 mL"),
	amountRule(RunOut, "Run-out at each low point", "Winterizing", "with a helper at the drain",
		0.1, 0.1, 0, 2, "100 mL"),
	yesRule(Helper, "A helper stands at the drains", "Winterizing", "alone, more runs out before the drain is shut",
		true),
	shareRule(Alone, "Alone, more runs out by", "Winterizing",
		"before the drain is shut by somebody who comes from the tap", 1, 500, "100 %"),
	amountRule(JugHeel, "Left in the jugs", "Winterizing", "and drawn with air",
		0.1, 0.1, 0, 2, "100 mL"),
	shareRule(Accumulator, "An accumulator is filled to", "Winterizing", "share of it that fluid enters", 0.5, 100,
		"50 %"),
	amountRule(Jug, "Jug", "Winterizing", "the size antifreeze is sold in",
		quantity.USGallon, 5, 0.5, 30, "1 gal", "5 L"),
	shareRule(Smear, "Mixing at the front", "Winterizing", "share of lines that are full when antifreeze comes", 0.10,
		50, "10 %"),
	shareRule(Film, "Film after a blow", "Winterizing", "share of a line that stays on its walls", 0.03, 20, "3 %"),
	choiceRule(WinterSchool, "School", "Winterizing",
		"air: drain and air only; pump, hand-pump: antifreeze; air-then: air, then antifreeze by the pump; "+
			"tank: antifreeze through the tank, not recommended",
		"air-then", "air-then", "pump", "hand-pump", "air", "tank"),
	amountRule(Air, "Air for blowing out", "Pressure", "never over the model's own ceiling",
		40*quantity.PSI, 40*quantity.PSI, 69, 345, "20 psi", "40 psi", "45 psi", "50 psi"),
	amountRule(SupplyFlow, "Flow of the hose at the fill", "Times", "",
		4*quantity.LitrePerMinute(quantity.USGallon), 15, 1, 60, "4 gal/min", "15 L/min"),
	choiceRule(Told, "Sanitizer is told by", "Sanitizing", "some people can't smell it; a nose answers far below the target",
		"strip", "strip", "nose"),
	choiceRule(Strip, "Fields of the test strip", "Sanitizing", "mg/L; it shows the highest that is reached",
		"0 10 25 50 100 200", "0 10 25 50 100 200", "0 25 50 100 200", "0 50 100 200", "0 5 10 50 100"),
	amountRule(Nose, "A nose tells sanitizer from", "Sanitizing", "cautiously low",
		1, 1, 0.2, 20, "1 mg/L", "2 mg/L"),
	shareRule(Pale, "Colour is first seen at", "Winterizing", "share of the strength that protects; pale does not protect yet",
		0.5, 100, "50 %", "100 %"),
	amountRule(Handling, "What a hand does at a part takes", "Times", "a handle turned, a hose joined, an outlet opened",
		20, 20, 1, 300, "20 s"),
	amountRule(DryRun, "A pump may draw air for", "Times", "where its own figure is not given",
		30, 30, 5, 600, "30 s"),
	amountRule(LeakTest, "A tight system is silent for", "Times", "with every tap shut and the pump on",
		600, 600, 60, 7200, "10 min", "30 min"),
	shareRule(TripFill, "Tank filled for a journey to", "Times", "the water's weight counts against the load", 0.33, 100,
		"25 %", "33 %", "50 %", "100 %"),
	amountRule(PumpOn, "Pump runs for at most", "Times", "its duty cycle on a long run",
		20*60, 20*60, 60, 7200, "20 min"),
	amountRule(PumpOff, "and then rests for", "Times", "",
		20*60, 20*60, 0, 7200, "20 min"),
	amountRule(WaterTemp, "Water comes in at", "Heater", "",
		10, 10, 0, 35, "50 °F", "10 °C"),
	amountRule(HotTemp, "A heater is ready at", "Heater", "",
		60, 60, 40, 80, "140 °F", "60 °C"),
	amountRule(SafeTemp, "A heater may be opened below", "Heater", "",
		40, 40, 25, 50, "104 °F", "40 °C"),
	amountRule(Spill, "Runs on when the air is out", "Heater", "at the hot tap, while the heater fills",
		1, 1, 0.1, 20, "1 L"),
	amountRule(Descale, "Vinegar stands for", "Heater", "in the heater, or in lines and taps",
		8*hour, 8*hour, 3600, 86400, "8 h", "12 h"),
	shareRule(VinegarShare, "Of a bath vinegar is", "Heater", "the rest is water", 0.5, 100, "50 %"),
	amountRule(Vinegar, "Vinegar has", "Heater", "as it is bought; above 10 % gloves and goggles",
		5, 5, 4, 25, "5 %", "10 %"),
	amountRule(HotCycle, "Hot cycle runs for", "Heater", "of a hydronic heater, over night",
		8*hour, 8*hour, 3600, 86400, "8 h"),
	shareRule(Anode, "Anode is replaced at", "Heater", "share used; at half if it is out anyway", 0.75, 95, "75 %",
		"50 %"),
	textRule(MakerName, "Name of the manufacturer", "Words", "on every guide and card; where none is set, the model's own"),
	textRule(MakerMark, "Mark of the manufacturer", "Words", "a few letters beside the name"),
	choiceRule(Sides, "Sides of a vehicle", "Words", "on plans, the left one first, facing forward; a boat has port and starboard",
		leftRight, leftRight, "driver's side, kerb side", "kerb side, driver's side", "near side, off side",
		"road side, kerb side"),
	choiceRule(Tone, "Steps are told", "Words", "full: with the time it takes and what runs out; terse: without",
		ToneFull, ToneFull, ToneTerse),
	textRule(FixedCaution, "Caution on every guide", "Words", "stands at its head, word for word"),
	textRule(WarrantyWinter, "Warranty at winter work", "Words", "stands below winterizing and spring work"),
	textRule(WarrantyClean, "Warranty at sanitizing", "Words", "stands below sanitizing"),
	textRule(WarrantyHeater, "Warranty at heater work", "Words", "stands below work on a heater"),
}
