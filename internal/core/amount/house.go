package amount

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/quantity"
)

// House holds the manufacturer's choices and allowances. Whose says for each
// rule who set it; rules that nobody set are as usual in the trade.
type House struct {
	TargetStrength  quantity.MgPerLitre // of the sanitizer where it stands
	BatchCeiling    quantity.MgPerLitre // no part may meet more
	Bleach          quantity.Percent    // available chlorine, g per 100 mL
	OverMeasure     float64             // share a household measure may lie above the dose
	Container       quantity.Litre      // that the bleach is thinned in
	StartLevel      float64             // share of the tank that is full before it is dosed
	SupplyChlorine  quantity.MgPerLitre // of the water that is filled in
	FlushAbove      quantity.MgPerLitre // how far above the supply flushing ends
	DrinkingLimit   quantity.MgPerLitre
	Overrun         quantity.Litre // per outlet side, until fully coloured
	LowPointRunOut  quantity.Litre // per low-point drain, with a helper at it
	RunOutAlone     float64        // times as much without a helper
	Helper          bool
	JugHeel         quantity.Litre // left in the jugs and drawn with air
	FrontSmear      float64        // share of swept lines that mixes at the front when they are full
	Film            float64        // share of a line that stays on its walls after a blow
	AccumulatorFill float64        // share of an accumulator that fluid enters
	JugSizes        []quantity.Litre
	Antifreeze      quantity.Celsius // burst protection printed on the product
	SoakLow         quantity.Second
	SoakHigh        quantity.Second
	SupplyFlow      quantity.LitrePerMinute // of a hose at the fill
	PumpOn, PumpOff quantity.Second         // duty cycle of a long run
	AirSchool       quantity.Kilopascal     // pressure for blowing out
	AnodeAt         float64                 // share used at which it is replaced
	WaterTemp       quantity.Celsius        // of the supply
	HotTemp         quantity.Celsius        // of a heater that is ready
	SafeTemp        quantity.Celsius        // below which a heater may be opened

	Whose map[string]string // rule to who set it
}

// DefaultHouse is what a manufacturer starts with. The allowances are
// starting values that trials on real units correct.
func DefaultHouse(sys quantity.System) House {
	h := House{
		TargetStrength: 50, BatchCeiling: 200, Bleach: 5.25, OverMeasure: 0.10, Container: 5 * quantity.USGallon, StartLevel: 0.25, FlushAbove: 1, DrinkingLimit: 4,
		Overrun: 0.15, LowPointRunOut: 0.1, RunOutAlone: 1, Helper: true, JugHeel: 0.1, FrontSmear: 0.10, Film: flow.Film, AccumulatorFill: 0.5,
		JugSizes: []quantity.Litre{quantity.USGallon}, Antifreeze: -50*5./9 - 160./9, SoakLow: 4 * 3600, SoakHigh: 8 * 3600,
		SupplyFlow: 4 * quantity.LitrePerMinute(quantity.USGallon), PumpOn: 20 * 60, PumpOff: 20 * 60,
		AirSchool: 40 * quantity.PSI, AnodeAt: 0.75, WaterTemp: 10, HotTemp: 60, SafeTemp: 40,
	}
	if sys == quantity.SI {
		h.JugSizes, h.Container, h.SupplyFlow = []quantity.Litre{5}, 20, 15
	}
	return h
}

// Rule is one choice of the house: how it is written and what it is for.
type Rule struct {
	ID, Name, Group, Why string
	Schools              []string // usual values, to choose among
	get                  func(*House, quantity.System) string
	set                  func(*House, string) error
}

// Get writes a rule's value.
func (r *Rule) Get(h House, sys quantity.System) string { return r.get(&h, sys) }

func rule[U quantity.Unit](id, name, group, why string, field func(*House) *U, least, most U, schools ...string) Rule {
	return Rule{id, name, group, why, schools,
		func(h *House, sys quantity.System) string { return plain(quantity.Neat(*field(h), sys)) },
		func(h *House, text string) error {
			v, err := quantity.Parse[U](text)
			if err != nil {
				return err
			}
			if v < least || v > most {
				return fmt.Errorf("%q lies outside what is sensible here, from %s to %s", text, quantity.Show(least, quantity.SI), quantity.Show(most, quantity.SI))
			}
			*field(h) = v
			return nil
		}}
}

// share is a rule whose value is a share, written in per cent.
func share(id, name, group, why string, field func(*House) *float64, most quantity.Percent, schools ...string) Rule {
	return Rule{id, name, group, why, schools,
		func(h *House, _ quantity.System) string {
			return plain(quantity.Neat(quantity.Percent(*field(h)*100), quantity.SI))
		},
		func(h *House, text string) error {
			v, err := quantity.Parse[quantity.Percent](text)
			if err != nil {
				return err
			}
			if v < 0 || v > most {
				return fmt.Errorf("%q lies outside what is sensible here, from 0 %% to %v %%", text, float64(most))
			}
			*field(h) = float64(v) / 100
			return nil
		}}
}

func plain(s string) string {
	return strings.ReplaceAll(strings.ReplaceAll(s, "\u00a0", " "), "−", "-")
}

// rules in the order they are shown.
var rules = []Rule{
	rule("target", "Strength of the sanitizer", "Sanitizing", "where it stands, in the tank and in every line", func(h *House) *quantity.MgPerLitre { return &h.TargetStrength }, 10, 150, "50 mg/L", "55 mg/L", "65 mg/L", "100 mg/L"),
	rule("bleach", "Bleach", "Sanitizing", "available chlorine, g per 100 mL, as printed", func(h *House) *quantity.Percent { return &h.Bleach }, 1, 15, "5.25 %", "6 %", "7.5 %", "8.25 %"),
	share("over", "A measure may lie above the dose by", "Sanitizing", "so that cups and spoons can be used", func(h *House) *float64 { return &h.OverMeasure }, 25, "10 %"),
	rule("ceiling", "Ceiling for parts", "Sanitizing", "no tank, seal or line meets more, not even a batch on its way", func(h *House) *quantity.MgPerLitre { return &h.BatchCeiling }, 100, 400, "200 mg/L"),
	rule("container", "Container for batches", "Sanitizing", "the bleach is thinned in it before it goes in", func(h *House) *quantity.Litre { return &h.Container }, 1, 30, "1 gal", "5 gal", "10 L", "20 L"),
	share("start", "Tank before it is dosed", "Sanitizing", "part full, so that the dose mixes as it fills", func(h *House) *float64 { return &h.StartLevel }, 90, "0 %", "25 %", "50 %"),
	rule("soak-low", "Soak, at least", "Sanitizing", "", func(h *House) *quantity.Second { return &h.SoakLow }, 1800, 86400, "3 h", "4 h", "8 h", "12 h"),
	rule("soak-high", "Soak, at most", "Sanitizing", "", func(h *House) *quantity.Second { return &h.SoakHigh }, 1800, 2*86400, "4 h", "8 h", "12 h", "24 h"),
	rule("supply-chlorine", "Chlorine of the supply", "Flushing", "flushing can't end below it", func(h *House) *quantity.MgPerLitre { return &h.SupplyChlorine }, 0, 10, "0 mg/L", "0.5 mg/L", "1 mg/L"),
	rule("flush-above", "Flushing ends above the supply by", "Flushing", "by taste; a smaller figure takes more water", func(h *House) *quantity.MgPerLitre { return &h.FlushAbove }, 0.1, 10, "1 mg/L", "2 mg/L"),
	rule("drinking", "Drinking limit for chlorine", "Flushing", "local law decides", func(h *House) *quantity.MgPerLitre { return &h.DrinkingLimit }, 0.1, 10, "4 mg/L"),
	rule("antifreeze", "Antifreeze protects from bursting to", "Winterizing", "as printed on the ready-to-use product", func(h *House) *quantity.Celsius { return &h.Antifreeze }, -73, -5, "-50 °F", "-70 °F"),
	rule("overrun", "Overrun at each outlet side", "Winterizing", "until it is fully coloured; trials correct it", func(h *House) *quantity.Litre { return &h.Overrun }, 0, 2, "5 fl oz", "150 mL"),
	rule("run-out", "Run-out at each low point", "Winterizing", "with a helper at the drain", func(h *House) *quantity.Litre { return &h.LowPointRunOut }, 0, 2, "100 mL"),
	{"helper", "A helper stands at the drains", "Winterizing", "alone, more runs out before the drain is shut", []string{"yes", "no"},
		func(h *House, _ quantity.System) string { return map[bool]string{true: "yes", false: "no"}[h.Helper] },
		func(h *House, text string) error {
			if text != "yes" && text != "no" {
				return fmt.Errorf("%q is neither yes nor no", text)
			}
			h.Helper = text == "yes"
			return nil
		}},
	share("alone", "Alone, more runs out by", "Winterizing", "before the drain is shut by somebody who comes from the tap", func(h *House) *float64 { return &h.RunOutAlone }, 500, "100 %"),
	rule("jug-heel", "Left in the jugs", "Winterizing", "and drawn with air", func(h *House) *quantity.Litre { return &h.JugHeel }, 0, 2, "100 mL"),
	share("accumulator", "An accumulator is filled to", "Winterizing", "share of it that fluid enters", func(h *House) *float64 { return &h.AccumulatorFill }, 100, "50 %"),
	rule("jug", "Jug", "Winterizing", "the size antifreeze is sold in", func(h *House) *quantity.Litre { return &h.JugSizes[0] }, 0.5, 30, "1 gal", "5 L"),
	share("smear", "Mixing at the front", "Winterizing", "share of lines that are full when antifreeze comes", func(h *House) *float64 { return &h.FrontSmear }, 50, "10 %"),
	share("film", "Film after a blow", "Winterizing", "share of a line that stays on its walls", func(h *House) *float64 { return &h.Film }, 20, "3 %"),
	rule("air", "Air for blowing out", "Pressure", "never over the model's own ceiling", func(h *House) *quantity.Kilopascal { return &h.AirSchool }, 69, 345, "20 psi", "40 psi", "45 psi", "50 psi"),
	rule("supply-flow", "Flow of the hose at the fill", "Times", "", func(h *House) *quantity.LitrePerMinute { return &h.SupplyFlow }, 1, 60, "4 gal/min", "15 L/min"),
	rule("pump-on", "Pump runs for at most", "Times", "its duty cycle on a long run", func(h *House) *quantity.Second { return &h.PumpOn }, 60, 7200, "20 min"),
	rule("pump-off", "and then rests for", "Times", "", func(h *House) *quantity.Second { return &h.PumpOff }, 0, 7200, "20 min"),
	rule("water-temp", "Water comes in at", "Heater", "", func(h *House) *quantity.Celsius { return &h.WaterTemp }, 0, 35, "50 °F", "10 °C"),
	rule("hot-temp", "A heater is ready at", "Heater", "", func(h *House) *quantity.Celsius { return &h.HotTemp }, 40, 80, "140 °F", "60 °C"),
	rule("safe-temp", "A heater may be opened below", "Heater", "", func(h *House) *quantity.Celsius { return &h.SafeTemp }, 25, 50, "104 °F", "40 °C"),
	share("anode", "Anode is replaced at", "Heater", "share used; at half if it is out anyway", func(h *House) *float64 { return &h.AnodeAt }, 95, "75 %", "50 %"),
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

// With is the house with some rules set by somebody. The first that can't be
// set is an error that says which.
func (h House) With(who string, values map[string]string) (House, error) {
	whose := map[string]string{}
	for k, v := range h.Whose {
		whose[k] = v
	}
	h.Whose, h.JugSizes = whose, slices.Clone(h.JugSizes)
	for _, r := range rules {
		text, ok := values[r.ID]
		if !ok || strings.TrimSpace(text) == "" {
			continue
		}
		if err := r.set(&h, strings.TrimSpace(text)); err != nil {
			return h, fmt.Errorf("%s: %w", r.Name, err)
		}
		whose[r.ID] = who
	}
	if h.SoakHigh < h.SoakLow {
		return h, fmt.Errorf("the longest soak is shorter than the shortest")
	}
	return h, nil
}

// By says who set a rule.
func (h House) By(id string) string {
	if w := h.Whose[id]; w != "" {
		return w
	}
	return "usual in the trade"
}

// source says which rule a row used, and whose.
func (h House) source(id string) string { return "rule: " + h.By(id) }
