package reading

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"coldtap/internal/rig/drafted"
)

// How near a figure must be to what the model gives: by itself to a hundredth, or within its last digit where that is
// no more than a fortieth; "about so much" to a twenty-fifth.
func TestHowNearAFigureMustBe(t *testing.T) {
	is := target{low: 100, high: 100}
	for _, x := range []struct {
		v, digits float64
		about     bool
		agrees    bool
	}{
		{100.9, 0, false, true}, {101.1, 0, false, false}, {99.1, 0, false, true}, {98.9, 0, false, false},
		{102, 5, false, true}, {103, 5, false, false}, {102, 1, false, false},
		{103.9, 0, true, true}, {104.1, 0, true, false}, {110, 0, true, false}, {96.1, 0, true, true}, {90, 0, true, false},
	} {
		assert.Equal(t, x.agrees, is.agrees(x.v, x.v, x.digits, x.about), "%+v", x)
	}
	ranges := target{low: 4, high: 8}
	assert.True(t, ranges.agrees(6, 6, 0, false), "within a range")
	assert.False(t, ranges.agrees(8.2, 8.2, 0, false))
	assert.False(t, ranges.agrees(3.9, 3.9, 0, false))
	assert.True(t, ranges.agrees(4, 8, 0, false))
	assert.False(t, ranges.agrees(4, 12, 0, false))
}

// A recipe agrees from a hundredth below what the house asks for up to what it lets pass: 5.25 % bleach makes 52 500 mg a
// litre; for 50 mg/L a litre of water takes 0.952 mL.
func TestARecipeHasItsStrength(t *testing.T) {
	in := drafted.Inputs(t, drafted.Model(t, "gneiss-24-2027"))
	for text, want := range map[string]Verdict{
		"Use 96 mL of bleach to 100 L of water.":     Agrees,  // 50.4
		"Use 95 mL of bleach to 100 L of water.":     Agrees,  // 49.9
		"Use 93 mL of bleach to 100 L of water.":     Differs, // 48.8
		"Use 48 mL of bleach to 100 L of water.":     Differs, // half as strong
		"Use 200 mL of bleach to 100 litres of tank": Differs,
	} {
		found := false
		for _, s := range Read(in, text) {
			for _, c := range s.Claims {
				if c.About.ID == "about.recipe" {
					found = true
					assert.Equal(t, want, c.Verdict, text)
				}
			}
		}
		assert.True(t, found, text)
	}
}

// A sentence goes on at its marks and joining words, but not within brackets.
func TestWhereASentenceGoesOn(t *testing.T) {
	t.Parallel()
	parts := func(s string) (list []string) {
		from := 0
		for _, b := range breaks(s) {
			list = append(list, s[from:b[0]])
			from = b[1]
		}
		return append(list, s[from:])
	}
	assert.Equal(t, []string{"open the tap", "shut the valve"}, parts("open the tap, shut the valve"))
	assert.Equal(t, []string{"open it", "wait", "shut it"}, parts("open it and wait then shut it"))
	assert.Equal(t, []string{"43 gal (163 L, or so)", "full"}, parts("43 gal (163 L, or so), full"))
	assert.Equal(t, []string{"one"}, parts("one"))
	assert.Equal(t, []string{"the tap", "the hot one"}, parts("the tap – the hot one"))
}

// A name is a word or several, with or without an s; it is none within another word.
func TestANameIsAWordOfItsOwn(t *testing.T) {
	t.Parallel()
	for text, is := range map[string]bool{"tap": true, "taps": true, "the tap.": true, "tapz": false, "tapa": false,
		"xtap": false, "ztap": false, "tapst": false, "tap2": true, "étap": false} {
		from := strings.Index(text, "tap")
		assert.Equal(t, is, wordAt(text, from, from+3), text)
	}
}
