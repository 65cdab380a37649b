package finding_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/words"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func find(t *testing.T, m *plumbing.Model, options ...string) []finding.Finding {
	t.Helper()
	b, err := m.Build(options...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	return finding.Find(n, rig.Plan(t, n))
}

// model reads a demo model, or a rig.
func model(t *testing.T, id string) *plumbing.Model {
	t.Helper()
	m, err := demo.Model(id)
	if slices.Contains(rig.Names(), id) {
		m, err = rig.Model(id)
	}
	require.NoError(t, err)
	return m
}

func read[U quantity.Unit](text string) quantity.Given[U] {
	g, err := quantity.Read[U](text)
	if err != nil {
		panic(err)
	}
	return g
}

// part and line change one thing of a model; cut takes parts or lines away.
func part(id string, change func(p *plumbing.Part)) func(m *plumbing.Model) {
	return func(m *plumbing.Model) { change(m.Part(id)) }
}

func line(id string, change func(l *plumbing.Line)) func(m *plumbing.Model) {
	return func(m *plumbing.Model) { change(m.Line(id)) }
}

// hand keeps a setting for everyday use in which a handle stands in a position.
func hand(id, position string) func(m *plumbing.Model) {
	return func(m *plumbing.Model) {
		m.Kept = []plumbing.Kept{{Mode: setting.Everyday, Handles: map[string]string{id: position},
			Reason: "as at the plant",
			By:     "Imre Valk"}}
	}
}

func cut(ids ...string) func(m *plumbing.Model) {
	return func(m *plumbing.Model) {
		m.Parts = slices.DeleteFunc(m.Parts, func(p plumbing.Part) bool { return slices.Contains(ids, p.ID) })
		m.Lines = slices.DeleteFunc(m.Lines, func(l plumbing.Line) bool { return slices.Contains(ids, l.ID) })
	}
}

const (
	gneiss, schist, ashlar = "gneiss-24-2027", "schist-31-2027", "ashlar-20-2027"
	marl, feldspar, tuff   = "marl-15-2027", "feldspar-c7-2027", "tuff-9-2027"
)

// cases change a demo model so that a finding on some parts comes, or goes.
var cases = []struct {
	code   string
	model  string
	about  string // id of a part or line concerned; "" for none
	change func(m *plumbing.Model)
	goes   bool // the model as it is has the finding, the change mends it
}{
	{"reported", gneiss, "kitchen", func(m *plumbing.Model) {
		m.Reported = []plumbing.Reported{{ID: "reported-1", Part: "kitchen", Text: "The hot side stays cold."}}
	}, false},
	{"length-missing", gneiss, "trunk-1", line("trunk-1", func(l *plumbing.Line) {
		l.Length = quantity.Given[quantity.Millimetre]{}
	}), false},
	{"length-odd", gneiss, "trunk-1", line("trunk-1", func(l *plumbing.Line) {
		l.Length = read[quantity.Millimetre]("96 ft")
	}), false},
	{"diameter-missing", gneiss, "trunk-1", line("trunk-1", func(l *plumbing.Line) { l.Size = "" }), false},
	{"diameter-odd", gneiss, "trunk-1", line("trunk-1", func(l *plumbing.Line) {
		l.Inside = read[quantity.Millimetre]("0.5 mm")
	}), false},
	{"diameter-odd", gneiss, "trunk-1", line("trunk-1", func(l *plumbing.Line) {
		l.Inside = read[quantity.Millimetre]("61 mm")
	}), false},
	{"pair-disagrees", gneiss, "fresh", part("fresh", func(p *plumbing.Part) {
		p.Data.Capacity = read[quantity.Litre]("38 gal (118 L)")
	}), false},
	{"pair-disagrees", gneiss, "fresh", part("fresh", func(p *plumbing.Part) {
		p.Data.Capacity = read[quantity.Litre]("43 gal (167.8 L)")
	}), false}, // 3 %
	{"capacity-odd", gneiss, "fresh", part("fresh", func(p *plumbing.Part) {
		p.Data.Capacity = read[quantity.Litre]("37 gal")
	}), false},
	{"fuse-missing", gneiss, "pump", part("pump", func(p *plumbing.Part) {
		p.Data.Fuse = quantity.Given[quantity.Ampere]{}
	}), false},
	{"dry-run-missing", gneiss, "pump", part("pump", func(p *plumbing.Part) {
		p.Data.DryRun = quantity.Given[quantity.Second]{}
	}), false},
	{"regulator-missing", gneiss, "city", part("city", func(p *plumbing.Part) {
		p.Data.Regulator = quantity.Given[quantity.Kilopascal]{}
	}), false},
	{"anode-missing", gneiss, "heater", part("heater", func(p *plumbing.Part) {
		p.Data.AnodeCore = quantity.Given[quantity.Millimetre]{}
	}), false},
	{"height-missing", gneiss, "shower", part("shower", func(p *plumbing.Part) {
		p.Place.Height = quantity.Given[quantity.Metre]{}
	}), false},
	{"assumed", gneiss, "shower", part("shower", func(p *plumbing.Part) {
		p.Assumed = []string{"place.height"}
	}), false},
	{"holds-missing", gneiss, "pump", part("pump", func(p *plumbing.Part) {
		p.Data.HoldUp = quantity.Given[quantity.Litre]{}
	}), false},
	{"holds-missing", gneiss, "fresh", part("fresh", func(p *plumbing.Part) {
		p.Data.Heel = quantity.Given[quantity.Litre]{}
	}), false},
	{"height-odd", gneiss, "shower", part("shower", func(p *plumbing.Part) {
		p.Place.Height = read[quantity.Metre]("-2 in")
	}), false},
	{"height-odd", gneiss, "shower", part("shower", func(p *plumbing.Part) {
		p.Place.Height = read[quantity.Metre]("40 ft")
	}), false},
	{"heater-look-missing", gneiss, "heater", part("heater", func(p *plumbing.Part) {
		p.Without = "gas-heater"
	}), false},
	{"heater-no-bypass", gneiss, "heater", cut("valve-bypass", "tube-1", "tube-2"), false},
	{"bypass-useless", gneiss, "heater", func(m *plumbing.Model) {
		m.Line("heater-in").To, m.Line("heater-out").From = "heater.cold", "heater.hot"
		cut("valve-heater-in", "valve-heater-out", "heater-cold", "heater-hot")(m)
	}, false},
	{"heater-cant-empty", gneiss, "heater", cut("anode", "heater-plug"), false},
	{"heater-cant-empty", tuff, "heater", cut("coil-drain", "coil-plug"), false},
	{"heater-cant-empty", "heater-one-valve", "heater", cut("plug", "line-14", "low", "line-07"), false},
	{"tank-no-vent", gneiss, "fresh", cut("vent", "overflow", "vent-end", "overflow-end"), false},
	{"tank-no-drain", gneiss, "fresh", cut("tank-drain", "drain-tank"), false},
	{"tank-no-fill", gneiss, "fresh", cut("fill", "gravity-fill"), false},
	{"overflow-small", gneiss, "fresh", line("overflow", func(l *plumbing.Line) { l.Size = "hose 1 1/2 in" }), true},
	{"pump-no-strainer", gneiss, "pump", func(m *plumbing.Model) {
		cut("strainer", "strainer-pump")(m)
		m.Line("valve-strainer").To = "pump.in"
	}, false},
	{"city-no-check", gneiss, "city", part("city", func(p *plumbing.Part) { p.Data.CheckValve = false }), false},
	{"rinse-no-check", gneiss, "rinse", part("rinse", func(p *plumbing.Part) { p.Data.CheckValve = false }), false},
	{"low-point-missing", gneiss, "", cut("drain-hot", "h-drain", "valve-bypass", "tube-1", "tube-2"), false},
	{"trap-missing", gneiss, "", cut("trap-kitchen", "trap-basin", "trap-shower"), false},
	{"waste-missing", gneiss, "kitchen", part("kitchen", func(p *plumbing.Part) { p.Data.Waste = "" }), false},
	{"outlet-dry", marl, "galley", cut("h-galley"), true},
	{"no-everyday", gneiss, "", cut("suction"), false},
	{"part-loose", gneiss, "kitchen", cut("c-kitchen", "h-kitchen"), false},
	{"port-open", gneiss, "tee-c-kitchen", cut("c-kitchen"), false},
	{"hot-cold-mixed", gneiss, "tee-c-basin", line("c-basin", func(l *plumbing.Line) { l.Side = plumbing.Hot }), false},
	{"outlet-side-odd", gneiss, "c-basin", line("c-basin", func(l *plumbing.Line) { l.Side = plumbing.Hot }), false},
	{"rating-low", gneiss, "heater", part("heater", func(p *plumbing.Part) {
		p.Data.Rating = read[quantity.Kilopascal]("50 psi")
	}), false},
	{"colour-mismatch", marl, "heater-cold", line("heater-cold", func(l *plumbing.Line) { l.Colour = "red" }), false},
	{"two-pumps-joined", marl, "pump-left", cut("cross-1", "cross-2", "crossover"), true},
	{"reading-missing", gneiss, "valve-bypass", part("valve-bypass", func(p *plumbing.Part) {
		p.Reading.Handle = ""
	}), false},
	{"normal-odd", gneiss, "valve-bypass", part("valve-bypass", func(p *plumbing.Part) { p.Normal = "open" }), false},
	{"label-misleads", schist, "plate-filter", part("plate-filter", func(p *plumbing.Part) {
		p.Label = "FILTER"
		p.Selector[1].Label = "PAST"
		p.Reading.Says["past"] = "PAST"
	}), true},
	{"kept-refused", gneiss, "", hand("valve-heater-in", "closed"), false},
	{"kept-breaks", gneiss, "", hand("valve-bypass", "open"), false},
	{"driven-nothing", schist, "plate-filter", part("plate-filter", func(p *plumbing.Part) {
		for i := range p.Selector {
			p.Selector[i].Sets = nil
		}
	}), false},
	{"motor-undriven", tuff, "diverter", cut("heater-switch"), false},
	{"motor-valve", tuff, "diverter", part("diverter", func(p *plumbing.Part) { p.Data.Motor = false }), true},
	{"tool-missing", gneiss, "anode", part("anode", func(p *plumbing.Part) { p.Tool = "" }), false},
	{"loop-below-drain", gneiss, "c-outside", line("c-outside", func(l *plumbing.Line) { l.Spots = nil }), true},
	{"drain-high", gneiss, "drain-cold", func(m *plumbing.Model) {
		m.Part("drain-cold").Place.Height = read[quantity.Metre]("30 in")
		cut("drain-hot", "h-drain")(m) // or all would run out there
	}, false},
	{"city-pocket", gneiss, "city", part("city", func(p *plumbing.Part) { p.Data.CheckValve = false }), true},
	{"port-hose-holds", ashlar, "port-hose", cut("port", "port-hose"), true},
	{"pickup-missing", gneiss, "pump", cut("pickup", "pickup-hose"), false},
	{"tank-no-overflow", gneiss, "fresh", cut("overflow", "overflow-end"), false},
	{"shut-in", schist, "tank-return", cut("tank-return"), true},
	{"pocket", gneiss, "trunk-1", part("pump", func(p *plumbing.Part) { p.Data.PassesIdle = true }), true},
	{"pump-holds", gneiss, "pump", cut("pump", "strainer-pump", "pump-out"), true},
	{"off-level", gneiss, "", func(m *plumbing.Model) {
		for i := range m.Parts {
			m.Parts[i].Place.Front, m.Parts[i].Place.Left = quantity.Given[quantity.Metre]{},
				quantity.Given[quantity.Metre]{}
		}
	}, true},
	{"label-misleads", gneiss, "valve-pickup", part("valve-pickup", func(p *plumbing.Part) {
		p.Reading.Says["a"], p.Reading.Says["b"] = "HOSE", "TANK"
	}), false},
	{"label-misleads", gneiss, "drain-hot", part("drain-hot", func(p *plumbing.Part) { p.Label = "COLD" }), false},
	{"label-misleads", gneiss, "drain-tank", part("drain-tank", func(p *plumbing.Part) { p.Label = "HOT" }), false},
	{"label-misleads", gneiss, "drain-cold", part("drain-cold", func(p *plumbing.Part) { p.Label = "FRESH" }), false},
	{"label-misleads", gneiss, "valve-bypass", part("valve-bypass", func(p *plumbing.Part) {
		p.Reading.Says = map[string]string{"open": "CLOSED"}
	}), false},
	{"machine-cycle", schist, "ice-maker", cut("ice-maker", "c-ice"), true},
	{"frost-valve", feldspar, "frost", cut("frost", "frost-line"), true},
	{"strainer-holds", tuff, "strainer", cut("strainer", "suction-2", "strainer-joint"), true},
	{"rinse-line-holds", gneiss, "rinse", cut("rinse", "rinse-line"), true},
	{"hull-low", "hull", "below", part("below", func(p *plumbing.Part) { p.Data.AboveWaterline = true }), true},
	{"gas-uncoupled", "gas-coupling", "portable", part("gas", func(p *plumbing.Part) { p.Data.Serves = "" }), false},
	{"control-no-off", "gas-coupling", "panel", part("panel", func(p *plumbing.Part) {
		p.Controls[1].Off = "turn the knob to the dot"
	}), true},
	{"jumper-foul", "air-port", "jumper", func(m *plumbing.Model) {
		m.Parts = append(m.Parts, plumbing.Part{ID: "rinse", Kind: plumbing.RinseInlet, Name: "Rinse inlet"})
		m.Part("jumper").Ends[1] = "rinse.mouth"
	}, false},
	{"engine-coolant", "heater-one-valve", "heater", part("heater", func(p *plumbing.Part) {
		p.Data.Engine = true
	}), false},
	{"engine-heat-unmixed", "heater-one-valve", "heater", part("heater", func(p *plumbing.Part) {
		p.Data.Engine = true
	}), false},
}

func TestEachRuleComesAndGoes(t *testing.T) {
	tested := map[string]bool{}
	for _, c := range cases {
		t.Run(c.code, func(t *testing.T) {
			has := func(m *plumbing.Model) bool {
				return slices.ContainsFunc(find(t, m), func(f finding.Finding) bool {
					return f.Code == c.code && (c.about == "" || slices.Contains(f.Parts, c.about))
				})
			}
			as, changed := model(t, c.model), model(t, c.model)
			c.change(changed)
			assert.Equal(t, c.goes, has(as), "as it is")
			assert.Equal(t, !c.goes, has(changed), "changed")
		})
		tested[c.code] = true
	}
	for _, r := range finding.Rules() {
		assert.True(t, tested[r.Code], "%s has no test", r.Code)
		w := words.English(quantity.US).Finding(finding.Finding{Code: r.Code})
		assert.NotContains(t, w.Why+w.Remedy, "finding.", r.Code)
	}
	assert.GreaterOrEqual(t, len(finding.Rules()), 25)
}

// A splash above the heel is not told, a cup is: of a tank of 90 L in 300 mm
// with a heel of 2 L, a rim of 11 mm keeps 3.3 L, one of 16 mm 4.8 L, and 2 %
// of the tank are 1.8 L.
func TestARimIsToldFromTwoPerCentOn(t *testing.T) {
	for rim, has := range map[string]bool{"511 mm": false, "514 mm": true, "516 mm": true} {
		m := model(t, "tank-rim")
		m.Part("fresh").Heights["drain"] = read[quantity.Metre](rim)
		list := find(t, m)
		assert.Equal(t, has, slices.ContainsFunc(list, func(f finding.Finding) bool {
			return slices.Contains(f.Parts, "fresh") && strings.Contains(told.Fact(f.Said), "below its drain")
		}), rim)
	}
}

// A manifold's spare way is plugged; a tee's is not.
func TestASpareWayOfAManifoldIsNoOpenPort(t *testing.T) {
	open := func(id string) bool {
		m := model(t, "obsidian-33")
		for i := range m.Parts {
			if p := &m.Parts[i]; p.ID == id && p.Data.Ways > 0 {
				p.Data.Ways++
			}
		}
		return slices.ContainsFunc(find(t, m), func(f finding.Finding) bool {
			return f.Code == "port-open" && slices.Contains(f.Parts, id)
		})
	}
	assert.False(t, open("cold"))
}

// By how much two figures for one thing differ is said in per cent.
func TestPairsSayByHowMuchTheyDiffer(t *testing.T) {
	m := model(t, gneiss)
	m.Part("fresh").Data.Capacity = read[quantity.Litre]("38 gal (118 L)") // 143.8 L
	list := find(t, m)
	i := slices.IndexFunc(list, func(f finding.Finding) bool { return f.Code == "pair-disagrees" })
	require.GreaterOrEqual(t, i, 0)
	assert.Contains(t, told.Fact(list[i].Said), "differs by 18 %")
}

// Engine heat behind a mixing valve is no finding; past it, it is.
func TestEngineHeatIsTempered(t *testing.T) {
	hot := func(change func(m *plumbing.Model)) bool {
		m := model(t, "mixing-valve")
		m.Part("heater").Data.Engine = true
		change(m)
		return slices.ContainsFunc(find(t, m), func(f finding.Finding) bool { return f.Code == "engine-heat-unmixed" })
	}
	assert.False(t, hot(func(*plumbing.Model) {}))
	assert.True(t, hot(func(m *plumbing.Model) {
		for i := range m.Lines {
			if m.Lines[i].To == "mixer.hot" {
				m.Lines[i].To = "split.a"
			}
		}
		m.Parts = append(m.Parts,
			plumbing.Part{ID: "split", Kind: plumbing.Tee, Name: "Split", Place: m.Part("mixer").Place},
			plumbing.Part{ID: "basin", Kind: plumbing.Outlet, Name: "Basin tap", Place: m.Part("tap").Place,
				Data: plumbing.Data{Type: "basin"}})
		for id, ends := range map[string][2]string{"x1": {"split.b", "mixer.hot"}, "x2": {"split.c", "basin.hot"}} {
			m.Lines = append(m.Lines, plumbing.Line{ID: id, From: ends[0], To: ends[1], Side: plumbing.Hot,
				Size: "semi-rigid 12 mm", Length: read[quantity.Millimetre]("0.5 m")})
		}
	}))
	// Nor is the cold leg taken for a bypass: a heater without its own is one.
	bare := model(t, "mixing-valve")
	cut("tube", "hin", "hout")(bare)
	bare.Lines = slices.DeleteFunc(bare.Lines, func(l plumbing.Line) bool {
		return strings.HasPrefix(l.From, "tube.") || strings.HasPrefix(l.To, "tube.") || l.To == "hin.a" ||
			l.From == "hout.b" || l.To == "t2.a" || l.From == "t2.c"
	})
	for i := range bare.Lines {
		switch l := &bare.Lines[i]; {
		case l.From == "hin.b":
			l.From = "hin-tee.b"
		case l.To == "hout.a":
			l.To = "mixer.hot"
		}
	}
	assert.True(t, slices.ContainsFunc(find(t, bare), func(f finding.Finding) bool {
		return f.Code == "heater-no-bypass"
	}))
}

func TestSchistsPlateWordIsReported(t *testing.T) {
	var words []string
	for _, f := range find(t, model(t, schist)) {
		if f.Code == "label-misleads" {
			words = append(words, told.Fact(f.Said))
		}
	}
	assert.Equal(t, []string{"Filter handle is marked “BYPASS”, but does not bypass the heater: it turns water " +
		"past whole-house canister."}, words)
}

func TestOptionsChangeTheBuild(t *testing.T) {
	m := model(t, ashlar)
	plain, err := m.Build()
	require.NoError(t, err)
	winter, err := m.Build("winter-pack")
	require.NoError(t, err)
	washer, err := m.Build("washing-machine")
	require.NoError(t, err)
	assert.NotNil(t, plain.Part("drain-cold"))
	assert.Nil(t, winter.Part("drain-cold"))
	assert.NotNil(t, winter.Part("drain-cold-inside"))
	assert.Len(t, washer.Parts, len(plain.Parts)+3)
	assert.Len(t, washer.Lines, len(plain.Lines)+4)
	codes := func(options ...string) (list []string) {
		for _, f := range find(t, m, options...) {
			list = append(list, f.Code)
		}
		return list
	}
	assert.NotContains(t, codes(), "machine-cycle")
	assert.Contains(t, codes("washing-machine"), "machine-cycle")
	_, err = m.Build("sun-roof")
	assert.ErrorContains(t, err, "no option")
}

func TestNoDemoModelHasAnError(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	assert.Len(t, models, 7)
	for _, m := range models {
		for _, f := range find(t, m) {
			assert.Less(t, f.Severity, finding.Error, "%s: %s", m.ID, told.Fact(f.Said))
		}
		assert.GreaterOrEqual(t, len(m.Lines), 25, m.ID)
		assert.LessOrEqual(t, len(m.Lines), 70, m.ID)
	}
}

func TestOrderOfPartsChangesNoFinding(t *testing.T) {
	m := model(t, schist)
	want := find(t, m)
	slices.Reverse(m.Parts)
	slices.Reverse(m.Lines)
	assert.ElementsMatch(t, want, find(t, m))
}

// A drain is too high where what keeps water lies lower, not where it lies as high as the drain itself.
func TestADrainAsHighAsItsLineIsNotTooHigh(t *testing.T) {
	for height, high := range map[string]bool{"24 in": false, "24.02 in": false, "24.1 in": true, "30 in": true} {
		m := model(t, gneiss)
		m.Part("drain-cold").Place.Height = read[quantity.Metre](height)
		m.Line("c-drain").Spots = []plumbing.Spot{}
		cut("drain-hot", "h-drain")(m)
		list := find(t, m)
		assert.Equal(t, high, slices.ContainsFunc(list, func(f finding.Finding) bool { return f.Code == "drain-high" }), height)
	}
}
