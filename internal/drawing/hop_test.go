package drawing

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func run(points ...point) *wire { return &wire{route: &route{points: points}} }

func TestALevelRunHopsOverAnUprightOne(t *testing.T) {
	level := run(point{0, 2}, point{1, 2}, point{2, 2}, point{3, 2}, point{4, 2})
	upright := run(point{2, 0}, point{2, 1}, point{2, 2}, point{2, 3}, point{2, 4})
	hop([]*wire{level, upright})
	assert.Equal(t, "M0 20L16 20A4 4 0 0 1 24 20L40 20", level.path())
	assert.Equal(t, "M20 0L20 40", upright.path(), "the upright one goes on")
}

func TestAHopGoesUpWhicheverWayTheRunIsDrawn(t *testing.T) {
	level := run(point{4, 2}, point{3, 2}, point{2, 2}, point{1, 2}, point{1, 1}, point{1, 0})
	upright := run(point{3, 0}, point{3, 1}, point{3, 2}, point{3, 3})
	hop([]*wire{level, upright})
	assert.Equal(t, "M40 20L34 20A4 4 0 0 0 26 20L14 20Q10 20 10 16L10 0", level.path())
	assert.Equal(t, 1, strings.Count(level.path(), "A"))
}

func TestRunsThatMeetDoNotHop(t *testing.T) {
	level := run(point{0, 2}, point{1, 2}, point{2, 2})
	bent := run(point{2, 2}, point{2, 3}, point{2, 4})
	hop([]*wire{level, bent})
	assert.Empty(t, level.hops)
}
