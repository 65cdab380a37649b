package flow

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Pieces that hold nothing are not full.
func TestNothingHeldIsNotFull(t *testing.T) {
	assert.Zero(t, (Left{}).Share())
	assert.InDelta(t, 0.5, (Left{holds: 2, stays: 1}).Share(), 1e-12)
}
