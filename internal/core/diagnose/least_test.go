package diagnose

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// So many looks tell so many classes apart: two things a look tell 2, 4, 8; three tell 3, 9, 27.
func TestHowManyLooksItTakesAtLeast(t *testing.T) {
	t.Parallel()
	for _, x := range [][3]int{{1, 2, 0}, {2, 2, 1}, {3, 2, 2}, {4, 2, 2}, {5, 2, 3}, {3, 3, 1}, {4, 3, 2}, {9, 3,
		2}, {10, 3, 3},
		{5, 1, 0}, {5, 0, 0}, {0, 2, 0}} {
		assert.Equal(t, x[2], atLeast(x[0], x[1]), "%v", x)
	}
}
