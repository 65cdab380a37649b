package drill_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Twenty of each kind, of every demo model: but where the unit has fewer labels that can be checked.
func TestEveryModelHasTwentyOfEachKind(t *testing.T) {
	fewLabels := map[string]int{"tuff-9-2027": 5, "marl-15-2027": 0, "feldspar-c7-2027": 12}
	for _, id := range demos() {
		_, set := exercises(t, id)
		keys := map[string]bool{}
		for i := range set.Exercises {
			x := &set.Exercises[i]
			assert.False(t, keys[x.Key], "%s twice", x.Key)
			keys[x.Key] = true
			assert.True(t, strings.HasPrefix(x.Key, string(x.Kind)+"/"))
			assert.NotEmpty(t, x.Inputs, x.Key)
			assert.False(t, x.Ask.IsZero())
			assert.True(t, x.Hard >= 1 && x.Hard <= 5)
		}
		for _, k := range drill.Kinds() {
			least := 20
			if few, ok := fewLabels[id]; ok && k == drill.Label {
				least = few
			}
			assert.GreaterOrEqual(t, set.Count(k), least, "%s %s: refused %v", id, k, set.Refused[k])
		}
	}
}

// Each exercise has a right answer that is marked so, each other choice is marked wrong and says why.
func TestEveryChoiceIsMarkedAndSaysWhy(t *testing.T) {
	for _, id := range demos() {
		_, set := exercises(t, id)
		for i := range set.Exercises {
			x := &set.Exercises[i]
			switch x.Kind {
			case drill.Valves, drill.Order, drill.Amount:
				continue
			case drill.Where:
				if x.Photo != "" {
					continue
				}
			}
			require.Len(t, x.Right, 1, x.Key)
			require.Greater(t, len(x.Options), 1)
			said := map[string]bool{}
			for _, o := range x.Options {
				m, err := x.Mark(drill.Answer{Pick: o.ID})
				require.NoError(t, err)
				require.Equal(t, o.ID == x.Right[0], m.Right, "%s: %s", x.Key, o.ID)
				r := x.Reasons[m.Outcome]
				require.True(t, len(r.Said)+len(r.Effects) > 0, "%s: nothing says why %s", x.Key, o.ID)
				key := o.Said.Key()
				for e := range o.Effects {
					key += o.Effects[e].Key()
				}
				require.False(t, said[key], "%s: two answers read alike", x.Key)
				said[key] = true
			}
			_, err := x.Mark(drill.Answer{})
			require.Error(t, err, "no answer at all")
		}
	}
}

// The settings found are right, and how the unit stands is not.
func TestTheUnitHasToBeSet(t *testing.T) {
	for _, id := range demos() {
		in, set := exercises(t, id)
		for i := range set.Exercises {
			x := &set.Exercises[i]
			if x.Kind != drill.Valves {
				continue
			}
			m, _, err := x.MarkValves(in.Net, in.Plan, drill.Answer{Handles: x.Found, Pumps: x.Pumps})
			require.NoError(t, err)
			require.True(t, m.Right, x.Key)
			m, why, err := x.MarkValves(in.Net, in.Plan, drill.Answer{Handles: x.Start, Pumps: x.Pumps})
			require.NoError(t, err)
			require.False(t, m.Right, x.Key)
			require.NotEmpty(t, why.Said, x.Key)
			_, _, err = x.MarkValves(in.Net, in.Plan, drill.Answer{Handles: map[string]string{"nothing": "open"}})
			require.Error(t, err)
		}
	}
}

// Each model's trap is met by some exercise.
func TestEveryTrapIsAsked(t *testing.T) {
	for id, trap := range map[string]struct{ kind, part string }{
		"gneiss-24-2027":   {"missing", "outside-shower"}, // its loop dips below its low point
		"schist-31-2027":   {"label", "plate-filter"},     // its plate says BYPASS
		"ashlar-20-2027":   {"happens", "valve-suction"},  // the hose behind the 3-way
		"marl-15-2027":     {"valves", "crossover"},       // the boot wash drains only with it open
		"feldspar-c7-2027": {"missing", "boiler"},         // its frost valve loses antifreeze when it is not bypassed
		"tuff-9-2027":      {"missing", "strainer"},       // stays full unless opened
	} {
		if !slices.Contains(demos(), id) {
			continue
		}
		_, set := exercises(t, id)
		assert.True(t, slices.ContainsFunc(set.Exercises, func(x drill.Exercise) bool {
			return string(x.Kind) == trap.kind && slices.Contains(x.About, trap.part)
		}), "%s: nothing asks for %s", id, trap.part)
		assert.True(t, slices.ContainsFunc(set.Exercises, func(x drill.Exercise) bool { return len(x.Traps) > 0 }), id)
	}
}

// A look that hurts somebody ends the exercise as failed, whatever is named; looks beyond the fewest cost.
func TestLooksAreCountedAndDangerEnds(t *testing.T) {
	_, set := exercises(t, "gneiss-24-2027")
	dangers := 0
	for i := range set.Exercises {
		x := &set.Exercises[i]
		if x.Kind != drill.Fault {
			continue
		}
		var harmless []string
		for _, l := range x.Looks {
			if l.Danger {
				dangers++
				m, err := x.Mark(drill.Answer{Pick: x.Right[0], Looks: []string{l.ID}})
				require.NoError(t, err)
				require.True(t, m.Danger && !m.Right && m.Points == 0, "%s: %s", x.Key, l.ID)
				require.True(t, x.Reasons[m.Outcome].Danger)
			} else if !l.Free {
				harmless = append(harmless, l.ID)
			}
		}
		best, err := x.Mark(drill.Answer{Pick: x.Right[0], Looks: harmless[:x.Fewest]})
		require.NoError(t, err)
		require.Equal(t, 100, best.Points)
		more, err := x.Mark(drill.Answer{Pick: x.Right[0], Looks: harmless[:x.Fewest+3], Hints: 1})
		require.NoError(t, err)
		require.Equal(t, 100-3*10-25, more.Points)
		_, err = x.Mark(drill.Answer{Pick: x.Right[0], Looks: []string{"no-look"}})
		require.Error(t, err)
	}
	require.Greater(t, dangers, 20)
}

// By hand: 43 gal hold 162.77 L and 5.30 L are drawn off; 6 % bleach has 60 000 mg in a litre. For 50 mg/L in the end
// it takes 50·162.77/(60 000·(1 − 5.30/162.77)) = 0.1402 L: 140 mL, 4.74 fl oz. Units confused are caught.
func TestADoseIsMarkedByTheStrengthItGives(t *testing.T) {
	_, set := exercises(t, "gneiss-24-2027")
	i := slices.IndexFunc(set.Exercises, func(x drill.Exercise) bool { return x.Key == "amount/dose/[fresh]/6/50" })
	require.GreaterOrEqual(t, i, 0)
	x := &set.Exercises[i]
	assert.InDelta(t, 50/0.1402, x.PerLitre, 1)
	for text, outcome := range map[string]string{"140 mL": drill.RightOutcome, "4.7 fl oz": drill.RightOutcome,
		"9 1/2 tbsp": drill.RightOutcome, "137 mL": drill.RightOutcome,
		"135 mL": "weak", "120 mL": "weak", "4.7 mL": "far-weak", "1 cup": "strong", "4.7 cups": "ceiling"} {
		m, err := x.Mark(drill.Answer{Text: text})
		require.NoError(t, err, text)
		assert.Equal(t, outcome, m.Outcome, text)
	}
	for _, text := range []string{"", "plenty", "-1 mL", "5"} {
		_, err := x.Mark(drill.Answer{Text: text})
		var no *drill.AnswerError
		assert.ErrorAs(t, err, &no, text)
	}
}

// Jugs may be counted, or given in litres: a jug that is opened is a jug.
func TestJugsAreCounted(t *testing.T) {
	s := drill.Solution{Kind: drill.Amount, Piece: 5, Bands: []drill.Band{{Below: 2.5, Outcome: "none"},
		{Below: 7.5, Outcome: "short-1"}, {Below: 12.5}, {Outcome: "over"}}}
	for text, outcome := range map[string]string{"2": drill.RightOutcome, "2 jugs": drill.RightOutcome,
		"7 L": drill.RightOutcome, "1": "short-1", "5 L": "short-1", "3": "over", "0": "none", "0 L": "none"} {
		m, err := s.Mark(drill.Answer{Text: text})
		require.NoError(t, err, text)
		assert.Equal(t, outcome, m.Outcome, text)
	}
}

// The same model gives the same exercises, whatever the order of its parts in the file.
func TestTheOrderOfPartsChangesNothing(t *testing.T) {
	m, err := demo.Model("marl-15-2027")
	require.NoError(t, err)
	_, set := exercises(t, "marl-15-2027")
	turned := *m.WithNumbers()
	turned.Parts, turned.Lines = slices.Clone(turned.Parts), slices.Clone(turned.Lines)
	slices.Reverse(turned.Parts)
	slices.Reverse(turned.Lines)
	in := inputs(t, &turned)
	in.Photos = []drill.Photo{photo(in.Net)}
	other, err := drill.Make(t.Context(), in)
	require.NoError(t, err)
	keys := func(s *drill.Set) (list []string) {
		for i := range s.Exercises {
			x := &s.Exercises[i]
			list = append(list, x.Key+" "+strings.Join(x.Right, ",")+" "+x.Ask.Key())
		}
		return list
	}
	assert.Equal(t, keys(set), keys(other))
}

// Places that a finger can't tell apart are not asked for.
func TestPlacesTooNearAreNotAsked(t *testing.T) {
	in, set := exercises(t, "gneiss-24-2027")
	near := map[string]bool{}
	parts := in.Net.AllParts()
	for _, a := range parts {
		for _, b := range parts {
			if a != b && a.Number > 0 && b.Number > 0 && !a.Place.Front.IsZero() && !b.Place.Front.IsZero() &&
				within(a, b, 0.15) {
				near[a.ID] = true
			}
		}
	}
	require.NotEmpty(t, near)
	for i := range set.Exercises {
		if x := &set.Exercises[i]; x.Kind == drill.Where && x.Photo == "" {
			assert.False(t, near[x.About[0]], x.Key)
		}
	}
	assert.Positive(t, set.Refused[drill.Where][drill.TooNear])
}

func within(a, b *plumbing.Part, metres float64) bool {
	d := func(x, y quantity.Given[quantity.Metre]) float64 {
		v := float64(x.Value() - y.Value())
		return v * v
	}
	return d(a.Place.Front, b.Place.Front)+d(a.Place.Left, b.Place.Left)+
		d(a.Place.Height, b.Place.Height) < metres*metres
}

func BenchmarkMake(b *testing.B) {
	m, err := demo.Model("marl-15-2027")
	require.NoError(b, err)
	in := inputs(b, m)
	for b.Loop() {
		if _, err := drill.Make(b.Context(), in); err != nil {
			b.Fatal(err)
		}
	}
}

// Each kind of heater is asked for about as often as any other, no more than fits into what is made of a kind; what is
// found with more looks is harder.
func TestHeatersAndFaultsAreSharedOut(t *testing.T) {
	_, set := exercises(t, "gneiss-24-2027")
	of := map[string]int{}
	for i := range set.Exercises {
		switch x := &set.Exercises[i]; x.Kind {
		case drill.Heater:
			of[x.Right[0]]++
		case drill.Fault:
			assert.GreaterOrEqual(t, x.Hard, 1+min(3, x.Fewest), x.Key)
		}
	}
	types := len(plumbing.Heater.Info().Types)
	assert.Len(t, of, types)
	for kind, n := range of {
		assert.LessOrEqual(t, n, drill.Most/types, kind)
	}
}
