package planner_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/instruction"
	"coldtap/internal/core/planner"
	"coldtap/internal/core/quantity"
)

func TestBlocksJoinWhatIsBusyAndWhatWaits(t *testing.T) {
	in := &instruction.Instruction{Steps: []instruction.Step{
		{Took: 60, Attended: 60}, {Took: 30, Attended: 30}, {Took: 3620, Attended: 20}, {Took: 600},
		{Took: 10, Attended: 10}}}
	assert.Equal(t, []planner.Block{{1, 3, 110, true}, {3, 4, 4200, false}, {5, 5, 10, true}}, planner.Blocks(in))
}

// By hand: each unit takes 10 min of hands, an hour of soak, 5 min of hands. Alone the second is begun
// when the first soaks; it ends 10 min later than one alone would. Two people do both at once.
func TestOnePersonFillsTheWaitsOfTheOthers(t *testing.T) {
	blocks := []planner.Block{{1, 2, 600, true}, {3, 3, 3600, false}, {4, 5, 300, true}}
	assert.Equal(t, quantity.Second(4500), planner.Whole(planner.Lay(blocks, 1, 1)))
	assert.Equal(t, quantity.Second(5100), planner.Whole(planner.Lay(blocks, 2, 1)))
	assert.Equal(t, quantity.Second(4500), planner.Whole(planner.Lay(blocks, 2, 2)))
	ready := time.Date(2027, 4, 1, 17, 0, 0, 0, time.UTC)
	assert.Equal(t, ready.Add(-85*time.Minute), planner.Begin(planner.Lay(blocks, 2, 1), ready))
}

// What begins at the same time stands by unit, whatever was laid first.
func TestWhatBeginsTogetherStandsByUnit(t *testing.T) {
	blocks := []planner.Block{{1, 1, 60, false}, {2, 2, 60, false}, {3, 3, 60, false}}
	var units []int
	for _, s := range planner.Lay(blocks, 3, 1) {
		units = append(units, s.Unit)
	}
	assert.Equal(t, []int{1, 2, 3, 1, 2, 3, 1, 2, 3}, units)
}

// Nobody is busy with two at a time, a unit's blocks follow one another, and none is left out.
func TestNobodyIsInTwoPlaces(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	for range 200 {
		var blocks []planner.Block
		for i := range 1 + r.IntN(6) {
			blocks = append(blocks, planner.Block{i, i, quantity.Second(1 + r.IntN(900)), r.IntN(2) == 0})
		}
		units, people := 1+r.IntN(5), 1+r.IntN(3)
		list := planner.Lay(blocks, units, people)
		assert.Len(t, list, units*len(blocks))
		for i, a := range list {
			for _, b := range list[i+1:] {
				apart := a.To <= b.From || b.To <= a.From
				assert.True(t, apart || a.Unit != b.Unit, "unit %d", a.Unit)
				assert.True(t, apart || a.Person == 0 || a.Person != b.Person, "person %d", a.Person)
			}
		}
	}
}
