package figure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/rig"
)

func TestAFigureSaysItsValueOrWhatItLacks(t *testing.T) {
	t.Parallel()
	lacks := []figure.Missing{{Part: "fresh", Name: fact.Of("it", "Fresh tank"), Field: "capacity"}}
	litres := figure.Of(quantity.Litre(3))
	for _, x := range []struct {
		name string
		f    figure.Figure
		key  string
	}{
		{"nothing", figure.Figure{}, "figure.unknown"},
		{"a value", figure.Figure{Value: litres}, "it.both"},
		{"a value that lacks something", figure.Figure{Value: litres, Missing: lacks}, "figure.at-least"},
		{"no value", figure.Figure{Missing: lacks}, "figure.not-known"},
	} {
		assert.Equal(t, x.key, x.f.Said().ID, x.name)
	}
	assert.Equal(t, "missing", lacks[0].Said().ID)
	assert.Equal(t, litres, figure.Or(quantity.Litre(3), nil))
	assert.Equal(t, figure.AtLeast{V: litres, Missing: lacks}, figure.Or(quantity.Litre(3), lacks))
	assert.Equal(t, "value.at-least", figure.AtLeast{V: litres}.Said().ID)
	assert.Equal(t, "value.band", figure.Band[quantity.Litre]{Low: 1, High: 2}.Said().ID)
	assert.Equal(t, figure.Choice("yes"), figure.YesNo(true))
	assert.Equal(t, figure.Choice("no"), figure.YesNo(false))
	assert.Equal(t, fact.Of("it", "4"), figure.Count(4).Said())
	assert.Equal(t, fact.Of("it", quantity.Percent(50)), figure.Share(0.5).Said())
}

// Work keeps what was worked out with what it read; another figure that uses it stands on it, and by Reads on all
// behind it.
func TestAFigureStandsOnWhatItRead(t *testing.T) {
	t.Parallel()
	var rec record.Recorder
	n := rig.Network(t, "heater-one-valve").Recorded(&rec)
	in := func(of string) record.Input { return record.Input{Kind: record.Rule, Of: of} }
	value := func(v quantity.Litre) figure.Value { return figure.Or(v, nil) }
	inner := figure.Work(n, "inner/a", value, func() quantity.Litre { n.Note(in("x"), in("y")); return 2 })
	outer := figure.Work(n, "outer/a", value, func() quantity.Litre { n.Note(in("z")); return 2 * inner.Of(n) })
	assert.Equal(t, "outer/a", outer.ID())
	assert.Equal(t, quantity.Litre(4), outer.Value())
	assert.Equal(t, quantity.Litre(7), figure.Given(quantity.Litre(7)).Of(n))

	list := figure.List(&rec)
	require.Len(t, list, 2)
	assert.Equal(t, []record.Input{in("x"), in("y")}, list[0].Inputs)
	assert.Equal(t, []record.Input{in("z"), figure.Input("inner/a")}, list[1].Inputs)
	assert.Equal(t, figure.Of(quantity.Litre(4)), list[1].Value)
	assert.Equal(t, []record.Input{in("x"), in("y"), in("z")}, figure.Reads(list, "outer/"))
	assert.Equal(t, []record.Input{in("x"), in("y")}, figure.Reads(list, "inner/"))
	assert.Empty(t, figure.Reads(list, "other/"))

	rec.Keep(record.Kept{ID: "lacks", Value: figure.AtLeast{V: figure.Count(1), Missing: []figure.Missing{{Part: "p"}}}})
	list = figure.List(&rec)
	assert.Equal(t, figure.Count(1), list[2].Value)
	assert.Equal(t, []figure.Missing{{Part: "p"}}, list[2].Missing)
}
