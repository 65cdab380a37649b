package draft_test

import (
	"context"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

func inputs(t testing.TB, m *plumbing.Model, options ...string) draft.Inputs {
	t.Helper()
	built, err := m.Build(options...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(built)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	return draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}
}

// drafted are the procedures that a model can have, by their ids.
func drafted(ctx context.Context, in draft.Inputs) map[string]*proof.Procedure {
	list := map[string]*proof.Procedure{}
	for _, d := range draft.All(ctx, in) {
		if d.Procedure != nil {
			list[d.ID] = d.Procedure
		}
	}
	return list
}

// cannot says which procedures each demo model does not have; it has all others. What of them is not
// proven stands in unproven.
var cannot = map[string][]string{
	"ashlar-20-2026": {"heater-coupled", "heater-stowed", "fill-by-hatch", "fill-under-pressure",
		"fill-from-barrel", "hot-cycle", "storage"},
	"ashlar-20-2027": {"heater-coupled", "heater-stowed", "fill-by-hatch", "fill-under-pressure",
		"fill-from-barrel", "hot-cycle", "storage"},
	"feldspar-c7-2027": {"use-city", "heater-coupled", "heater-stowed", "fill-by-hatch",
		"fill-from-barrel", "back-fill", "fill-from-container", "hot-cycle", "winterize-air-then",
		"winterize-hand-pump", "winterize-air", "storage"},
	"gneiss-24-2027": {"heater-coupled", "heater-stowed", "fill-by-hatch", "fill-under-pressure",
		"fill-from-barrel", "back-fill", "fill-from-container", "hot-cycle", "storage"},
	"marl-15-2027": {"use-city", "fill-by-hatch", "fill-under-pressure", "fill-from-barrel",
		"heater-start", "back-fill", "fill-from-container", "sanitize-lines", "heater-care", "descale-heater", "descale-lines",
		"hot-cycle",
		"winterize-air-then", "winterize-pump", "winterize-hand-pump", "winterize-air", "storage"},
	"schist-31-2027": {"heater-coupled", "heater-stowed", "fill-by-gravity", "fill-by-hatch",
		"fill-under-pressure", "fill-from-barrel", "keep-fresh", "heater-care", "descale-heater",
		"hot-cycle", "winterize-tank", "storage", "flush-through"},
	"tuff-9-2027": {"use-city", "heater-coupled", "heater-stowed", "fill-by-hatch",
		"fill-under-pressure", "fill-from-barrel", "back-fill", "fill-from-container", "heater-care",
		"descale-heater", "winterize-air-then", "winterize-hand-pump", "winterize-air", "storage"},
}

// unproven says by which rules a draft of a demo model is not proven, and is told to be: antifreeze is
// thinned by what stays in the lines, a little of it freezes in a check valve; draining alone leaves
// pockets; through the tank is not advised.
var unproven = map[string][]string{
	"ashlar-20-2026 winterize-air-then":  {"too-weak"},
	"ashlar-20-2026 winterize-pump":      {"too-weak"},
	"ashlar-20-2026 winterize-hand-pump": {"too-weak"},
	"ashlar-20-2026 winterize-tank":      {"too-weak"},
	"ashlar-20-2026 winterize-drain":     {"frost"},
	"ashlar-20-2026 winterize-again":     {"too-weak"},
	"ashlar-20-2027 winterize-air-then":  {"too-weak"},
	"ashlar-20-2027 winterize-pump":      {"too-weak"},
	"ashlar-20-2027 winterize-hand-pump": {"too-weak"},
	"ashlar-20-2027 winterize-tank":      {"too-weak"},
	"ashlar-20-2027 winterize-drain":     {"frost"},
	"ashlar-20-2027 winterize-again":     {"too-weak"},
	"feldspar-c7-2027 winterize-pump":    {"too-weak"},
	"feldspar-c7-2027 winterize-tank":    {"too-weak"},
	"feldspar-c7-2027 winterize-drain":   {"frost"},
	"feldspar-c7-2027 winterize-again":   {"too-weak"},
	"gneiss-24-2027 winterize-pump":      {"too-weak"},
	"gneiss-24-2027 winterize-hand-pump": {"too-weak"},
	"gneiss-24-2027 winterize-tank":      {"too-weak"},
	"gneiss-24-2027 winterize-drain":     {"frost"},
	"marl-15-2027 winterize-tank":        {"never-coloured", "too-weak"},
	"schist-31-2027 winterize-air-then":  {"too-weak"},
	"schist-31-2027 winterize-pump":      {"too-weak"},
	"schist-31-2027 winterize-hand-pump": {"too-weak"},
	"schist-31-2027 winterize-drain":     {"frost"},
	"schist-31-2027 winterize-again":     {"too-weak"},
	"tuff-9-2027 winterize-pump":         {"too-weak"},
	"tuff-9-2027 winterize-tank":         {"too-weak"},
	"tuff-9-2027 winterize-again":        {"too-weak"},
}

func prove(t testing.TB, in draft.Inputs, p *proof.Procedure) *proof.Proof {
	t.Helper()
	pr, err := proof.Prove(t.Context(), in.Net, p)
	require.NoError(t, err)
	return pr
}

func told(p *proof.Procedure, pr *proof.Proof) (list []string) {
	for _, b := range pr.Breaches {
		what := "end"
		if b.Step < len(p.Steps) {
			what = p.Steps[b.Step].For
		}
		list = append(list, fmt.Sprintf("step %d (%s): %s %s %s", b.Step+1, what, b.Severity, b.Rule, b.Part))
	}
	return list
}

func TestDemoModelsHaveProceduresProvenOrTold(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	require.Len(t, models, len(cannot))
	for _, m := range models {
		builds := [][]string{m.StandardOptions()}
		for _, o := range m.Options {
			if !o.Standard {
				builds = append(builds, append(m.StandardOptions(), o.ID))
			}
		}
		for _, options := range builds {
			in := inputs(t, m, options...)
			have := drafted(t.Context(), in)
			for _, id := range draft.IDs() {
				p := have[id]
				if slices.Contains(cannot[m.ID], id) {
					assert.Nil(t, p, "%s %v: %s", m.ID, options, id)
					continue
				}
				if !assert.NotNil(t, p, "%s %v: %s", m.ID, options, id) {
					continue
				}
				pr := prove(t, in, p)
				rules := map[string]bool{}
				for _, b := range pr.Breaches {
					rules[b.Rule] = true
				}
				assert.ElementsMatch(t, unproven[m.ID+" "+id], slices.Collect(maps.Keys(rules)), "%s %v: %s: %v", m.ID,
					options, id, told(p, pr))
			}
		}
	}
}

// knownFile has what drafts for the campers of the tests are known to break: by procedure its rules, below the reason.
const knownFile = "testdata/known.txt"

// known reads it: the rules by camper and procedure.
func known(t *testing.T) map[string][]string {
	t.Helper()
	raw, err := os.ReadFile(knownFile)
	require.NoError(t, err)
	list, why := map[string][]string{}, ""
	for line := range strings.Lines(string(raw)) {
		line = strings.TrimSpace(line)
		of, rules, ok := strings.Cut(line, ": ")
		switch {
		case line == "":
			why = ""
		case strings.HasPrefix(line, "# "):
			why = line
		default:
			require.True(t, ok, line)
			require.NotEmpty(t, why, "%s has no reason above it", of)
			list[of] = strings.Split(rules, ", ")
		}
	}
	return list
}

// Campers of other kinds than those of the demo: what can't be done right there is told, by the rules
// that are known and by no other.
func TestOtherCampersHaveProceduresOrHearWhyNot(t *testing.T) {
	told, met := known(t), map[string]bool{}
	for _, name := range sample.Of(t, 9, rig.Names()) {
		m, err := rig.Model(name)
		require.NoError(t, err)
		in := inputs(t, m, m.StandardOptions()...)
		for id, p := range drafted(t.Context(), in) {
			for _, b := range prove(t, in, p).Breaches {
				if b.Rule == "too-weak" && strings.HasPrefix(id, "winterize-") {
					continue // so it is on most campers where nothing was blown out before
				}
				if b.Rule == "waste-unnamed" { // most of these campers have no waste tank
					assert.Empty(t, in.Net.Model.Part(b.Part).Data.Waste)
					continue
				}
				assert.Contains(t, told[name+" "+id], b.Rule, "%s %s, step %d, at %s", name, id, b.Step+1, b.Part)
				met[name+" "+id+": "+b.Rule] = true
			}
		}
	}
	if !sample.Whole() {
		return
	}
	for of, rules := range told {
		for _, r := range rules {
			assert.True(t, met[of+": "+r], "%s no longer breaks %s: it goes from %s", of, r, knownFile)
		}
	}
}

// What antifreeze a run takes agrees with the worksheet: content of the lines it runs through,
// overrun at each outlet side, run-out at each low point; machines, traps, seals and what is left in
// jugs are counted apart.
func TestTheRunTakesWhatTheWorksheetSays(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		in := inputs(t, m, m.StandardOptions()...)
		p := draft.NewMaker(in).Make(t.Context(), "winterize-pump").Procedure
		if p == nil {
			continue
		}
		a := setting.ForMode(in.Plan, setting.Antifreeze)
		sheet := amount.Antifreeze(in.Net, a, amount.Drained, in.House)
		pr := prove(t, in, p)
		apart := house.JugHeel.Of(in.House)
		for _, r := range sheet.Rows {
			part := in.Net.Model.Part(r.Part)
			if part != nil && (part.Role() == plumbing.RoleAccumulator ||
				part.Role() != plumbing.RoleTrap && r.What.ID == "row.seal") {
				apart += r.Litre
			}
		}
		share := quantity.Litre(p.Start.Fluids[state.Antifreeze].Glycol)
		last := pr.Systems[len(pr.Systems)-1].Account()
		took := last.Came.Glycol / share
		end := pr.Systems[len(pr.Systems)-1]
		for _, machine := range in.Net.PartsOf(plumbing.RoleMachine) { // what it let out, and what stands in it
			for sink, sum := range last.Out {
				if sink.Part == machine.ID {
					took -= sum.Glycol / share
				}
			}
			for _, x := range end.Inside(machine) {
				took -= x.Liquid() * quantity.Litre(x.Mix.Glycol) / share
			}
		}
		for i, s := range p.Steps { // a lever that opens several low points lets the nearer run longer
			for _, at := range s.Until.At {
				if len(s.Until.At) > 1 {
					took -= max(0, pr.Outcomes[i].Ran[at]-s.Until.Litre)
				}
			}
		}
		want, got := float64(sheet.Total-apart), float64(took)
		t.Logf("%s: worksheet %.2f L, run %.2f L", m.ID, want, got)
		assert.InEpsilon(t, want, got, 0.05, m.ID)
	}
}

func BenchmarkProofs(b *testing.B) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(b, err)
	in := inputs(b, m, m.StandardOptions()...)
	for id, p := range drafted(b.Context(), in) {
		b.Run(id+"/draft", func(b *testing.B) {
			for b.Loop() {
				draft.NewMaker(in).Make(b.Context(), id)
			}
		})
		b.Run(id+"/prove", func(b *testing.B) {
			for b.Loop() {
				if _, err := proof.Prove(b.Context(), in.Net, p); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// A run that was carried out while the procedure was made is the run that a proof carries out anew.
func TestADraftsRunIsItsProofs(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		in := inputs(t, m, m.StandardOptions()...)
		for _, d := range draft.All(t.Context(), in) {
			if d.Procedure == nil {
				continue
			}
			again, kept := prove(t, in, d.Procedure), proof.Judge(in.Net, d.Procedure, *d.Run)
			require.Len(t, kept.Outcomes, len(again.Outcomes), "%s %s", m.ID, d.ID)
			assert.Equal(t, told(d.Procedure, again), told(d.Procedure, kept), "%s %s", m.ID, d.ID)
			end, way := seen(in.Net, again)
			keptEnd, keptWay := seen(in.Net, kept)
			assert.Equal(t, []string{end, way}, []string{keptEnd, keptWay}, "%s %s", m.ID, d.ID)
		}
	}
}

// Where nobody waits any longer, or a step can't be done, drafts end without more ado: at whatever moment that is.
func TestDraftsEndWhenNobodyWaits(t *testing.T) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	in := inputs(t, m, m.StandardOptions()...)
	for _, after := range sample.Seeds(t, 10, 40) {
		ctx := &counted{Context: t.Context(), left: int(after * after)}
		maker := draft.NewMaker(draft.Inputs{Net: in.Net.Changed(), Plan: in.Plan, House: in.House})
		for _, d := range maker.All(ctx) {
			if d.Procedure != nil {
				proof.Judge(in.Net, d.Procedure, *d.Run)
			}
		}
	}
}

// counted is a context that is over when it was asked so often.
type counted struct {
	context.Context
	left int
}

func (c *counted) Err() error {
	if c.left--; c.left < 0 {
		return context.Canceled
	}
	return nil
}
