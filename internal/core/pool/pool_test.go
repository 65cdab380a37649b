package pool

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestTrialsArePooled(t *testing.T) {
	at := time.Date(2026, 9, 1, 0, 0, 0, 0, time.UTC)
	list := Of([]string{"jug", "clock", "strip"}, []Point{{"jug", 5, 5.5, at, "a"}, {"jug", 5, 6.5, at.AddDate(0, 1, 0),
		"b"},
		{"jug", 4, 6, at.AddDate(0, 2, 0), "c"}, {"strip", 0, 3, at, "a"}})
	assert.Len(t, list, 3)
	jug := list[0]
	assert.InDelta(t, 6, jug.Mean, 1e-9)
	assert.InDelta(t, 0.5, jug.Spread, 1e-9)
	assert.InDelta(t, (1.1+1.3+1.5)/3, jug.Ratio, 1e-9)
	assert.Equal(t, 4.0, jug.Computed, "the newest trial's")
	assert.Equal(t, 3, jug.Count)
	assert.Zero(t, list[1].Count, "nobody has tried it")
	assert.Zero(t, list[2].Ratio, "nothing is computed")
	assert.Zero(t, list[2].Spread, "one trial has no spread")
}
