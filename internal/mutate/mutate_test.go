package mutate_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/mutate"
)

const source = `package p

const limit = 2.5

func f(a, b float64) (float64, bool) {
	if a < limit && b != 3 {
		return a + b*2, true
	}
	return min(a, b), false
}

func not(a bool) bool { return !a }

func words(s string) string { return "x" + s }
`

func TestFaultsAreMadeOneAtATime(t *testing.T) {
	list, err := mutate.Mutants("p.go", []byte(source))
	require.NoError(t, err)
	var got []string
	ids := map[string]bool{}
	for i := range list {
		m := &list[i]
		got = append(got, m.Kind+": "+m.Was+" → "+m.Now)
		assert.False(t, ids[m.ID], "the same id twice")
		ids[m.ID] = true
		again, err := mutate.Mutants("p.go", m.Apply([]byte(source)))
		require.NoError(t, err, "%s: it must still be Go", got[len(got)-1])
		assert.NotEqual(t, list, again)
	}
	assert.ElementsMatch(t, []string{
		"constant: 2.5 → 3.75", "dropped term: a < limit && b != 3 → a < limit", "comparison: < → <=",
		"comparison: != → ==", "constant: 3 → 4",
		"sign: + → -", "dropped term: a + b*2 → a", "sign: * → /", "dropped term: b*2 → b", "constant: 2 → 3",
		"swapped return: true → false",
		"comparison: min → max", "swapped return: false → true", "dropped not: !a → a",
	}, got)
}

func TestTheSeedDecidesWhatIsDrawn(t *testing.T) {
	list, err := mutate.Mutants("p.go", []byte(source))
	require.NoError(t, err)
	assert.Equal(t, mutate.Draw(list, 5, 7), mutate.Draw(list, 5, 7))
	assert.NotEqual(t, mutate.Draw(list, 5, 7), mutate.Draw(list, 5, 8))
	less := mutate.Draw(list[1:], len(list), 7)
	all := slices.DeleteFunc(mutate.Draw(list, len(list), 7), func(m mutate.Mutant) bool { return m.ID == list[0].ID })
	assert.Equal(t, all, less, "what is drawn of the rest does not depend on one that is gone")
	assert.Len(t, mutate.Draw(list, 500, 1), len(list))
}

func TestAFaultKeepsItsNameWhenAnotherFunctionChanges(t *testing.T) {
	ids := func(source string) (ids []string) {
		list, err := mutate.Mutants("p.go", []byte(source))
		require.NoError(t, err)
		for _, m := range list {
			ids = append(ids, m.ID)
		}
		return ids
	}
	was, now := ids(source), ids(strings.Replace(source, "b != 3", "b != 4", 1))
	require.Len(t, now, len(was))
	assert.Equal(t, was[0], now[0], "of the constant before it")
	assert.NotEqual(t, was[1], now[1], "of the function that changed")
	assert.Equal(t, was[len(was)-1], now[len(now)-1], "of the function behind it")
}
