package app

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/core/drill"
)

// Two texts set a rule alike where they mean the same, however they are written; what sets nothing is like nothing.
func TestTextsThatSetARuleAlike(t *testing.T) {
	t.Parallel()
	assert.True(t, sameRule("target", "50 mg/L", "50 ppm"))
	assert.True(t, sameRule("target", "50 mg/L", " 50.0 mg/l"))
	assert.False(t, sameRule("target", "50 mg/L", "60 mg/L"))
	assert.False(t, sameRule("target", "soap", "50 mg/L"))
	assert.False(t, sameRule("target", "50 mg/L", "soap"))
}

// The counts of a bank are those of its questions, kind by kind, with what was refused.
func TestQuestionsAreCountedByKind(t *testing.T) {
	t.Parallel()
	refused := map[drill.Kind]map[drill.Refusal]int{drill.Amount: {drill.LooksAlike: 3}}
	got := countsOf(refused, []DrillQuestion{{Kind: drill.Amount}, {Kind: drill.Where, Trap: true},
		{Kind: drill.Amount, Trap: true}})
	assert.Len(t, got, len(drill.Kinds()))
	for _, c := range got {
		want := DrillCount{Kind: c.Kind, Refused: refused[c.Kind]}
		switch c.Kind {
		case drill.Amount:
			want.Asked, want.Traps = 2, 1
		case drill.Where:
			want.Asked, want.Traps = 1, 1
		}
		assert.Equal(t, want, c)
	}
}
