package chapter_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
	"coldtap/internal/core/report"
	"coldtap/internal/rig/drafted"
	"coldtap/internal/sample"
)

// says are the sentences of each block, by its id.
func says(list []chapter.Block) map[string]string {
	got := map[string]string{}
	for _, b := range list {
		var all []string
		chapter.Each(b.Body, func(f fact.Fact) { all = append(all, f.Key()) })
		got[b.ID] = strings.Join(all, "\n")
	}
	return got
}

// A block that says something else after a change has what was changed among what it was made from: by itself, or by a
// figure that it tells.
func TestABlockKnowsWhatItStandsOn(t *testing.T) {
	drafted := func(m *plumbing.Model, rules map[string]string) ([]chapter.Block, *report.Report) {
		in := drafted.Inputs(t, m)
		var err error
		in.House, err = in.House.With("the house", rules)
		require.NoError(t, err)
		r := report.New(in.Net, in.Plan, in.House, report.Ask{})
		in.Report = &r
		in.Tasks, err = chapter.Tasks(t.Context(), in.Inputs)
		require.NoError(t, err)
		list, err := chapter.Draft(t.Context(), in)
		require.NoError(t, err)
		return list, &r
	}
	read := func(edit func(*plumbing.Model)) *plumbing.Model {
		m, err := demo.Model("gneiss-24-2027")
		require.NoError(t, err)
		edit(m)
		return m
	}
	before, r := drafted(read(func(*plumbing.Model) {}), nil)
	was := says(before)
	for _, c := range sample.Of(t, 2, []struct {
		input record.Input
		edit  func(*plumbing.Model)
		rules map[string]string
		least []string // blocks that say something else
	}{
		{input: record.Input{Kind: record.Field, Of: "fresh", Field: "data.capacity"}, edit: func(m *plumbing.Model) {
			m.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("40 gal")
		}, least: []string{"have", "before", "figures", "task-sanitize", "task-fill-by-gravity"}},
		{input: record.Input{Kind: record.Field, Of: "pump", Field: "data.fuse"}, edit: func(m *plumbing.Model) {
			m.Part("pump").Data.Fuse, _ = quantity.Read[quantity.Ampere]("10 A")
		}, least: []string{"before", "trouble"}},
		{input: record.Input{Kind: record.Rule, Of: house.Target.ID}, edit: func(*plumbing.Model) {},
			rules: map[string]string{"target": "65 mg/L"}, least: []string{"figures", "task-sanitize"}},
		{input: record.Input{Kind: record.Rule, Of: house.Anode.ID}, edit: func(*plumbing.Model) {},
			rules: map[string]string{"anode": "50 %"}, least: []string{"calendar"}},
	}) {
		list, _ := drafted(read(c.edit), c.rules)
		now := says(list)
		var other []string
		for _, b := range before {
			if now[b.ID] == was[b.ID] {
				continue
			}
			other = append(other, b.ID)
			from := slices.Clone(b.From)
			for _, in := range b.From {
				if in.Kind == record.Figure {
					from = append(from, figure.Reads(r.Figures, in.Of)...)
				}
			}
			assert.Contains(t, from, c.input, "%s says something else", b.ID)
		}
		assert.Subset(t, other, c.least, c.input)
		assert.Less(t, len(other), len(before), "not everything follows from %s", c.input)
	}
}
