package plumbing

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/quantity"
)

func at(front float64) Place {
	return Place{Front: quantity.Of(quantity.Metre(front), quantity.SI)}
}

func numbered() *Model {
	return (&Model{Parts: []Part{
		{ID: "sink", Kind: Outlet, Place: at(4)}, {ID: "tank", Kind: Tank, Place: at(1)},
		{ID: "joint", Kind: Tee, Place: at(2)}, {ID: "loose", Kind: OpenEnd},
	}}).WithNumbers()
}

func TestPlacesAreNumberedFromTheFront(t *testing.T) {
	assert.Equal(t, map[string]int{"tank": 1, "sink": 2, "loose": 3}, numbered().Numbers(),
		"a tee has none; what has no place comes last")
}

func TestANumberStaysWithItsPart(t *testing.T) {
	m := numbered()
	m.Parts[0].Place = at(0.1) // dragged to the front
	m.Parts = append(m.Parts, Part{ID: "first", Kind: Outlet})
	m = m.WithNumbers()
	assert.Equal(t, map[string]int{"tank": 1, "sink": 2, "loose": 3, "first": 4}, m.Numbers())
	m.Parts = m.Parts[:4] // the one with the highest number goes
	m.Parts = append(m.Parts, Part{ID: "other", Kind: Outlet})
	assert.Equal(t, 5, m.WithNumbers().Numbers()["other"], "a number that was printed is never given again")
	assert.Equal(t, 1, m.Renumbered().Numbers()["sink"])
}

func TestTwoPartsNeverShareANumber(t *testing.T) {
	m := numbered()
	m.Parts = append(m.Parts, Part{ID: "merged", Kind: Outlet, Number: 2})
	assert.Equal(t, map[string]int{"tank": 1, "sink": 2, "loose": 3, "merged": 4}, m.WithNumbers().Numbers())
}

func TestNumbersThatAreThereChangeNothing(t *testing.T) {
	m := numbered()
	assert.Same(t, m, m.WithNumbers())
}
