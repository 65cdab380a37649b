package run

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSumsAddUpInEachSubstance(t *testing.T) {
	t.Parallel()
	a, b := Sum{Liquid: 8, Glycol: 4, Chlorine: 2, Acid: 1}, Sum{Liquid: 5, Glycol: 3, Chlorine: 1.5, Acid: 0.25}
	assert.Equal(t, Sum{Liquid: 3, Glycol: 1, Chlorine: 0.5, Acid: 0.75}, a.Less(b))
	assert.Equal(t, Sum{Liquid: 13, Glycol: 7, Chlorine: 3.5, Acid: 1.25}, a.plus(b))
	assert.Equal(t, a, a.plus(b).Less(b))
}
