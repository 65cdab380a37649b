package setting_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/rig"
)

// longer is a model whose lines are all longer, some much.
func longer(m *plumbing.Model) *plumbing.Model {
	c := *m
	c.Lines = append([]plumbing.Line(nil), m.Lines...)
	for i := range c.Lines {
		if v := c.Lines[i].Length.Value(); v > 0 {
			c.Lines[i].Length = quantity.Of(v*quantity.Millimetre(1+i%4), quantity.SI)
		}
	}
	return &c
}

func models(t *testing.T) []*plumbing.Model {
	t.Helper()
	list, err := demo.Models()
	require.NoError(t, err)
	for _, name := range rig.Names() {
		m, err := rig.Model(name)
		require.NoError(t, err)
		list = append(list, m)
	}
	return list
}

func networkOf(t *testing.T, m *plumbing.Model) *plumbing.Network {
	t.Helper()
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	return n
}

// A model whose lengths alone were changed uses the searches of the one before,
// and gets the plan that it would have found by itself.
func TestAChangedLengthSearchesNothingAnew(t *testing.T) {
	for _, m := range models(t) {
		before, alone, shared := networkOf(t, m), networkOf(t, longer(m)), networkOf(t, longer(m))
		rig.Plan(t, before)
		shared.Share(before)
		want, got := rig.Plan(t, alone), rig.Plan(t, shared)
		require.Len(t, got, len(want))
		for i := range want {
			w, g := &want[i], &got[i]
			assert.Equal(t, w.OK, g.OK, "%s %s", m.ID, w.Mode.ID)
			assert.Equal(t, w.State.Handles, g.State.Handles, "%s %s", m.ID, w.Mode.ID)
			assert.Equal(t, w.Either, g.Either, "%s %s", m.ID, w.Mode.ID)
			assert.Equal(t, w.SameAs, g.SameAs, "%s %s", m.ID, w.Mode.ID)
			assert.Equal(t, w.Why.Key(), g.Why.Key(), "%s %s", m.ID, w.Mode.ID)
			assert.Len(t, g.Broken, len(w.Broken))
			assert.Len(t, g.Turns, len(w.Turns))
			if g.Mode.Source != nil {
				assert.Same(t, shared.Model.Part(g.Mode.Source.ID), g.Mode.Source,
					"its parts are those of its own model")
			}
		}
	}
}

// What a mode that does not drain reads is no length of a line: that is why the
// search of one model is that of the other.
func TestNoSearchReadsALength(t *testing.T) {
	for _, m := range models(t) {
		n := networkOf(t, m).Recorded(&record.Recorder{})
		n.Recorder().During(func() {
			for _, a := range rig.Plan(t, n) {
				for _, in := range a.From {
					of := n.Model.Line(in.Of) != nil && (in.Field == "length" || strings.HasPrefix(in.Field, "spots"))
					require.False(t, of && !a.Mode.Drains && a.Turns == nil, "%s: %s reads %s", m.ID, a.Mode.ID, in)
				}
			}
		})
	}
}

// Models that differ in anything else share nothing.
func TestOnlyLengthsMayDiffer(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	assert.True(t, plumbing.Alike(m, longer(m)))
	for name, change := range map[string]func(c *plumbing.Model){
		"a part's height": func(c *plumbing.Model) {
			c.Parts[3].Place.Height = quantity.Of(quantity.Metre(9), quantity.SI)
		},
		"a line's side": func(c *plumbing.Model) { c.Lines[5].Side = plumbing.Hot },
		"an end":        func(c *plumbing.Model) { c.Lines[5].To = c.Lines[6].To },
		"a line less":   func(c *plumbing.Model) { c.Lines = c.Lines[1:] },
		"a part less":   func(c *plumbing.Model) { c.Parts = c.Parts[1:] },
		"the kind":      func(c *plumbing.Model) { c.Kind = "boat" },
	} {
		c := *m
		c.Parts, c.Lines = append([]plumbing.Part(nil), m.Parts...), append([]plumbing.Line(nil), m.Lines...)
		change(&c)
		assert.False(t, plumbing.Alike(m, &c), name)
	}
}
