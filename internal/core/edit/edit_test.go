package edit_test

import (
	"bytes"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func model(t *testing.T, id string) *plumbing.Model {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	return m
}

func text(t *testing.T, m *plumbing.Model) string {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, plumbing.Write(&b, m))
	return b.String()
}

func TestFieldsAreSetAndToldInWords(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	before := text(t, m)
	done, err := edit.Set(m, edit.OfPart, "pump", map[string]string{"data.fuse": "10 A", "place.reach": "",
		"data.passes_idle": "yes", "name": "Water pump"})
	require.NoError(t, err)
	assert.Equal(t, "Water pump: fuse 7.5 A → 10 A, free flow while off yes, access taken away", told.Fact(done.Said))
	assert.Equal(t, "10 A", done.Model.Part("pump").Data.Fuse.String())
	assert.True(t, done.Model.Part("pump").Data.PassesIdle)
	assert.Equal(t, before, text(t, m), "the model it started from stays")
	back, err := edit.Set(done.Model, edit.OfPart, "pump", map[string]string{"data.fuse": "7.5 A",
		"place.reach": m.Part("pump").Place.Reach, "data.passes_idle": "no"})
	require.NoError(t, err)
	assert.Equal(t, before, text(t, back.Model))
	nothing, err := edit.Set(m, edit.OfPart, "pump", map[string]string{"data.fuse": "7.5 A"})
	require.NoError(t, err)
	assert.Zero(t, nothing.Said)
}

func TestWhatCantBeReadIsRefusedWithItsPlace(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	for _, c := range []struct {
		what            edit.Thing
		id, path, value string
		words           string
	}{
		{edit.OfLine, "trunk-1", "length", "long", `"long"`},
		{edit.OfLine, "trunk-1", "spots", "12 in", "is not a spot"},
		{edit.OfLine, "trunk-1", "from", "pump.side", `a pump has no port "side"`},
		{edit.OfPart, "pump", "data.capacity", "3 L", "unknown field"},
		{edit.OfPart, "pump", "data.passes_idle", "perhaps", "neither yes nor no"},
		{edit.OfPart, "pump", "id", "heater", `there is a part "heater" already`},
		{edit.OfPart, "nobody", "name", "X", `there is no part "nobody" any more`},
		{edit.OfModel, "", "year", "soon", "not a whole number"},
		{edit.OfModel, "", "units", "metric", `write one of "us", "si"`},
	} {
		_, err := edit.Set(m, c.what, c.id, map[string]string{c.path: c.value})
		require.Error(t, err, c.path)
		assert.Contains(t, err.Error(), c.words)
	}
}

func TestAnIdIsChangedWhereverItIsNamed(t *testing.T) {
	m := model(t, "schist-31-2027")
	done, err := edit.Set(m, edit.OfPart, "valve-suction", map[string]string{"id": "suction-3-way"})
	require.NoError(t, err)
	assert.Nil(t, done.Model.Part("valve-suction"))
	assert.Equal(t, "suction-3-way.a", done.Model.Line("suction-tank").To)
	assert.Equal(t, "a", done.Model.Part("plate-source").Selector[0].Sets["suction-3-way"])
	done, err = edit.Set(done.Model, edit.OfPart, "black", map[string]string{"id": "foul"})
	require.NoError(t, err)
	assert.Equal(t, "foul", done.Model.Part("toilet").Data.Waste)
}

// What sits on a part, is switched at a panel, serves it or is used up in it
// goes with its id, and is let go when it is taken away.
func TestWhatNamesAPartGoesWithIt(t *testing.T) {
	m := rigModel(t, "gas-coupling")
	done, err := edit.Set(m, edit.OfModel, "",
		map[string]string{"consumables": "cells | torch | Cells of the lighter | portable | 4711 | 12\nsanitizer | " +
			"tabs | Tablets | | 12-b | | form=tablets, treats=20 L, measure=tablet"})
	require.NoError(t, err)
	assert.Equal(t, "portable", done.Model.Consumables[0].Part)
	assert.Equal(t, 12, done.Model.Consumables[0].Life)
	done, err = edit.Set(done.Model, edit.OfPart, "portable", map[string]string{"id": "carried"})
	require.NoError(t, err)
	assert.Equal(t, "carried", done.Model.Part("gas").Data.Serves)
	assert.Equal(t, "carried", done.Model.Part("panel").Controls[1].Part)
	assert.Equal(t, "carried", done.Model.Consumables[0].Part)
	assert.Equal(t, "pump | hold PUMP for 2 s | press PUMP | a green light\ncarried | turn the knob to the flame",
		edit.Texts(done.Model, edit.OfPart, "panel", []string{"controls"})["controls"])
	gone, err := edit.Remove(done.Model, "gas", "carried")
	require.NoError(t, err)
	assert.Len(t, gone.Model.Part("panel").Controls, 1)
	assert.Empty(t, gone.Model.Consumables[0].Part)
	assert.Len(t, done.Model.Part("panel").Controls, 2, "the model it was taken from stays as it was")
	_, err = edit.Set(m, edit.OfPart, "panel", map[string]string{"controls": "pump | on | off | light | more"})
	assert.ErrorContains(t, err, "is more than a row has")

	m = rigModel(t, "barrel")
	done, err = edit.Set(m, edit.OfPart, "fresh", map[string]string{"id": "tank", "data.more_ports": "fill2 supply2"})
	require.NoError(t, err)
	assert.Equal(t, "tank.bung", done.Model.Part("bung").On)
	gone, err = edit.Remove(done.Model, "tank")
	require.NoError(t, err)
	assert.Empty(t, gone.Model.Part("bung").On)
	_, err = edit.Set(m, edit.OfPart, "fresh", map[string]string{"data.more_ports": "fill fill2"})
	assert.ErrorContains(t, err, "with a number behind it")

	m = rigModel(t, "air-port")
	done, err = edit.Set(m, edit.OfPart, "port", map[string]string{"id": "air"})
	require.NoError(t, err)
	assert.Equal(t, []string{"outside.cold", "air.mouth"}, done.Model.Part("jumper").Ends)
	assert.Equal(t, "outside.cold, air.mouth", edit.Texts(done.Model, edit.OfPart, "jumper", []string{"ends"})["ends"])
	_, err = edit.Set(m, edit.OfPart, "jumper", map[string]string{"ends": "outside.cold"})
	assert.ErrorContains(t, err, "are not two ports")
}

// Joined to a port that has a line, a tee goes into that line a tenth of its
// length from the port, from whichever end the line is written.
func TestATeeStandsBesideThePortItServes(t *testing.T) {
	for _, c := range []struct{ port, line string }{{"pump.out", "line-03"}, {"tap.cold", "line-06"}} {
		m := rigModel(t, "barrel")
		whole := float64(m.Line(c.line).Length.Value())
		m.Parts = append(m.Parts, plumbing.Part{ID: "more", Kind: plumbing.Accumulator, Name: "More",
			Data: plumbing.Data{Capacity: m.Part("fresh").Data.Heel}})
		done, err := edit.Join(m, c.port, "more.in", plumbing.Line{})
		require.NoError(t, err)
		for _, l := range done.Model.Lines {
			if l.From == c.port || l.To == c.port {
				assert.InDelta(t, whole/10, float64(l.Length.Value()), 1, c.port)
			}
		}
	}
}

func rigModel(t *testing.T, name string) *plumbing.Model {
	t.Helper()
	m, err := rig.Model(name)
	require.NoError(t, err)
	return m
}

// Where a part was put in the drawing goes with its id, and with no other's.
func TestANudgeGoesWithTheId(t *testing.T) {
	done, err := edit.Nudge(model(t, "gneiss-24-2027"), "kitchen", 2, -1)
	require.NoError(t, err)
	want := map[string]plumbing.Nudge{"kitchen": {X: 2, Y: -1}}
	done, err = edit.Set(done.Model, edit.OfPart, "basin", map[string]string{"id": "basin-tap"})
	require.NoError(t, err)
	assert.Equal(t, want, done.Model.Drawing)
	done, err = edit.Set(done.Model, edit.OfPart, "kitchen", map[string]string{"id": "galley"})
	require.NoError(t, err)
	assert.Equal(t, map[string]plumbing.Nudge{"galley": {X: 2, Y: -1}}, done.Model.Drawing)
}

func TestSelectorsAndSpotsInOneLine(t *testing.T) {
	m := model(t, "schist-31-2027")
	was := edit.Texts(m, edit.OfPart, "plate-to", []string{"positions"})["positions"]
	assert.Contains(t, was, "taps | NORMAL | valve-to=a")
	done, err := edit.Set(m, edit.OfPart, "plate-to", map[string]string{"positions": was})
	require.NoError(t, err)
	assert.Zero(t, done.Said)
	g := model(t, "gneiss-24-2027")
	assert.Equal(t, "4 ft @ 12 in", edit.Texts(g, edit.OfLine, "c-outside", []string{"spots"})["spots"])
}

func TestATeeSharesALineOut(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	content := func(m *plumbing.Model) float64 {
		n, err := plumbing.NewNetwork(m)
		require.NoError(t, err)
		return float64(amount.Contents(n, m.System()).Total)
	}
	before := content(m)
	done, err := edit.Join(m, "tee-c-kitchen.c", "heater.drain", plumbing.Line{})
	require.NoError(t, err)
	assert.Len(t, done.Model.Parts, len(m.Parts)+2, "a tee in each line that was there")
	assert.Len(t, done.Model.Lines, len(m.Lines)+3)
	assert.InDelta(t, before, content(done.Model), 0.002, "the lines were shared out, the new one has no length yet")
	c := *m
	ref, err := edit.TeeInto(&c, "c-outside", 0.75, "Loop tee")
	require.NoError(t, err)
	assert.Equal(t, "loop-tee.c", ref)
	a, b := c.Line("c-outside"), c.Line("loop-tee-outside-shower")
	assert.InDelta(t, 6.75, float64(a.Length.Value())/304.8, 0.05)
	assert.InDelta(t, 2.25, float64(b.Length.Value())/304.8, 0.05)
	assert.Len(t, a.Spots, 1)
	assert.Empty(t, b.Spots)
	assert.False(t, math.IsNaN(float64(c.Part("loop-tee").Place.Height.Value())))
}

func TestTakingAPartAwayTakesItsLines(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	done, err := edit.Remove(m, "rinse", "trap-kitchen")
	require.NoError(t, err)
	assert.Nil(t, done.Model.Line("rinse-line"))
	assert.Equal(t, "took away Black-tank rinse inlet, Kitchen trap", told.Fact(done.Said))
	_, err = edit.Remove(m, "grey")
	assert.ErrorContains(t, err, `"grey" is not a waste tank of this model`, "what names it must be changed first")
	_, err = edit.Remove(m, "nothing")
	assert.ErrorContains(t, err, "any more")
}

func TestPutInto(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	done, err := edit.InsertInto(m, "trunk-1", plumbing.Part{Kind: plumbing.Valve, Name: "Trunk valve", Normal: "open"},
		"a", "b")
	require.NoError(t, err)
	assert.Equal(t, "trunk-valve.a", done.Model.Line("trunk-1").To)
	done, err = edit.Nudge(done.Model, "trunk-valve", 2, -1)
	require.NoError(t, err)
	assert.Equal(t, plumbing.Nudge{X: 2, Y: -1}, done.Model.Drawing["trunk-valve"])
	done, err = edit.Nudge(done.Model, "trunk-valve", -2, 1)
	require.NoError(t, err)
	assert.Nil(t, done.Model.Drawing)
}

func TestRowsThatFailAreLeftOut(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	after, faults, err := edit.Batch(m, edit.OfLine, []edit.Row{
		{ID: "trunk-1", Fields: map[string]string{"length": "9 ft"}},
		{ID: "trunk-2", Fields: map[string]string{"length": "nine"}},
		{ID: "extra", New: true, Fields: map[string]string{"from": "pump.out", "to": "kitchen.cold", "side": "cold"}},
		{ID: "trunk-3", Fields: map[string]string{"spots": "here"}},
	})
	require.NoError(t, err)
	assert.Equal(t, "9 ft", after.Line("trunk-1").Length.String())
	assert.Equal(t, "3 ft 6 in", after.Line("trunk-2").Length.String())
	assert.Equal(t, "length", faults[1][0].Path)
	assert.Contains(t, faults[2][0].Why, "a port takes one line")
	assert.Contains(t, faults[3][0].Why, "not a spot")
	assert.Nil(t, faults[0])
}

// A name in any script of letters with marks makes an id that can be read; one
// without any letter makes some id all the same.
func TestIdsAreMadeOfNames(t *testing.T) {
	taken := map[string]bool{"water-pump": true, "water-pump-2": true}
	for name, id := range map[string]string{
		"Cold tee, kitchen": "cold-tee-kitchen", "Öltank": "oltank", "  Élan — 3/8 in  ": "elan-3-8-in", "ﬁll": "fill",
		"Water pump": "water-pump-3", "水箱": "part", "": "part",
	} {
		assert.Equal(t, id, edit.ID(name, func(id string) bool { return taken[id] }), name)
	}
}

// A change of the model itself is told as the model's, that of a line by its name or its id.
func TestAChangeIsToldOfWhatItIsOf(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	done, err := edit.Set(m, edit.OfModel, "", map[string]string{"name": "Gneiss 25"})
	require.NoError(t, err)
	assert.Regexp(t, `^Model: .*Gneiss 25`, told.Fact(done.Said))
	done, err = edit.Set(m, edit.OfPart, "pump", map[string]string{"data.fuse": "10 A"})
	require.NoError(t, err)
	assert.Regexp(t, `^Water pump: `, told.Fact(done.Said))
}

// A new waste tank has forty litres until somebody says what it holds.
func TestANewWasteTankHoldsForty(t *testing.T) {
	for _, k := range []plumbing.Kind{plumbing.WasteTank} {
		d := edit.Usual(model(t, "gneiss-24-2027"), k)
		assert.InDelta(t, 40, float64(d.Capacity.Value()), 0)
	}
}
