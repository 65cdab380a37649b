package record_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/record"
)

func field(of string) record.Input {
	return record.Input{Kind: record.Field, Of: of, Field: "data.capacity"}
}

func TestInputsAreNamedAndOrdered(t *testing.T) {
	t.Parallel()
	assert.Equal(t, "field fresh data.capacity", field("fresh").String())
	assert.Equal(t, "rule overrun", record.Input{Kind: record.Rule, Of: "overrun"}.String())
	assert.Equal(t, "field year", record.Input{Kind: record.Field, Field: "year"}.String(), "of the model itself")
	list := []record.Input{{Kind: record.Rule, Of: "a"}, field("pump"), {Kind: record.Field, Of: "fresh", Field: "name"},
		field("fresh")}
	slices.SortFunc(list, record.Compare)
	assert.Equal(t, []record.Input{field("fresh"), {Kind: record.Field, Of: "fresh", Field: "name"}, field("pump"),
		{Kind: record.Rule, Of: "a"}}, list)
	assert.Zero(t, record.Compare(field("fresh"), field("fresh")))
}

func TestWhatIsReadIsNotedOnceInItsOrder(t *testing.T) {
	t.Parallel()
	var r record.Recorder
	got := r.During(func() {
		r.Note(field("b"), field("a"))
		r.Note(field("b"))
		for i := range 200 { // more than fit into one word of bits
			r.Note(record.Input{Kind: record.Rule, Of: string(rune('A' + i))})
		}
		r.Note(record.Input{Kind: record.Rule, Of: "A"})
	})
	assert.Len(t, got, 202)
	assert.Equal(t, []record.Input{field("b"), field("a")}, got[:2])
	assert.False(t, r.On())
	r.Note(field("c"))
	assert.Empty(t, r.During(func() {}), "what is noted while nobody asks is nobody's")
}

func TestWorkWithinWorkIsItsOwn(t *testing.T) {
	t.Parallel()
	var r record.Recorder
	var inner []record.Input
	outer := r.During(func() {
		r.Note(field("a"))
		inner = r.During(func() { r.Note(field("b")) })
		r.Note(field("c"))
	})
	assert.Equal(t, []record.Input{field("b")}, inner)
	assert.Equal(t, []record.Input{field("a"), field("c")}, outer)

	ref := r.Ref(field("b"))
	assert.Equal(t, ref, r.Ref(field("b")), "the same each time")
	assert.NotEqual(t, ref, r.Ref(field("z")))
	assert.Equal(t, []record.Ref{ref}, r.DuringRefs(func() { r.NoteRefs(ref, ref) }))
	r.NoteRefs(ref)
	assert.False(t, r.On())
}

func TestWhatIsWorkedOutIsKeptOnce(t *testing.T) {
	t.Parallel()
	var r record.Recorder
	r.Keep(record.Kept{ID: "x", Value: 1})
	r.Keep(record.Kept{ID: "y", Value: 2})
	r.Keep(record.Kept{ID: "x", Value: 3})
	kept := r.Kept()
	assert.Equal(t, []record.Kept{{ID: "x", Value: 1}, {ID: "y", Value: 2}}, kept)
	kept[0].ID = "changed"
	assert.Equal(t, "x", r.Kept()[0].ID, "what is given out is a copy")
}

// Whatever stands around some work by Whole stands on each figure that is worked out right there, and on none that
// is worked out within another.
func TestAWholeStandsOnItsFigures(t *testing.T) {
	t.Parallel()
	var r record.Recorder
	got := r.During(func() {
		r.Worked("before")
		r.Whole(func() {
			r.Worked("a")
			r.During(func() { r.Worked("within") })
			r.Worked("b")
		})
		r.Worked("behind")
	})
	assert.Equal(t, []record.Input{{Kind: record.Figure, Of: "a"}, {Kind: record.Figure, Of: "b"}}, got)
	ran := false
	r.Whole(func() { ran = true; r.Worked("c") })
	assert.True(t, ran, "it is done also where nobody asks")
}

func TestNobodyKeepsNothing(t *testing.T) {
	t.Parallel()
	var r *record.Recorder
	ran := 0
	assert.Nil(t, r.During(func() { ran++; r.Note(field("a")); r.Worked("x") }))
	assert.Nil(t, r.DuringRefs(func() { ran++ }))
	r.Whole(func() { ran++ })
	r.Keep(record.Kept{ID: "x"})
	assert.Equal(t, 3, ran)
	assert.Empty(t, r.Kept())
	assert.False(t, r.On())
}
