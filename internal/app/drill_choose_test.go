package app

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/drill"
)

func questions(models, each int) (all []asked) {
	id := uint64(0)
	for m := range models {
		for _, k := range drill.Kinds() {
			for i := range each {
				id++
				all = append(all, asked{DrillQuestion: DrillQuestion{ID: id, Slug: fmt.Sprint("m", m), Kind: k,
					Hard: 1 + i%5,
					Mark: fmt.Sprint(id), Task: fmt.Sprint("t", i), Trap: k == drill.Missing && i == 0}, number: 7})
			}
		}
	}
	return all
}

func nothing() *learned {
	return &learned{now: time.Now(), wrong: map[string]bool{}, right: map[string]time.Time{},
		memory: map[memoryKey]DrillMemory{},
		share:  map[string]float64{}, deviates: map[string]bool{}, level: 2}
}

// Nobody escapes the traps: whatever was learned and chosen, each model's is asked, each kind comes in turn, nothing
// twice.
func TestTrapsAreAlwaysAsked(t *testing.T) {
	t.Parallel()
	for seed := range uint64(200) {
		rng := rand.New(rand.NewPCG(seed, 5))
		all := questions(1+rng.IntN(3), 6)
		l := nothing()
		for i := range all {
			switch rng.IntN(4) {
			case 0:
				l.wrong[all[i].Mark] = true
			case 1:
				l.right[all[i].Mark] = l.now
			}
			l.share[all[i].Mark] = rng.Float64()
		}
		kinds := slices.Clone(drill.Kinds())
		rng.Shuffle(len(kinds), func(i, j int) { kinds[i], kinds[j] = kinds[j], kinds[i] })
		kinds = kinds[:1+rng.IntN(len(kinds))]
		count := 3 + rng.IntN(20)
		list := choose(slices.Clone(all), kinds, count, l, fmt.Sprint(seed), false)
		require.LessOrEqual(t, len(list), count)
		traps, seen := map[string]bool{}, map[uint64]bool{}
		for _, p := range list {
			require.False(t, seen[p.Question], "seed %d: asked twice", seed)
			seen[p.Question] = true
			q := all[slices.IndexFunc(all, func(q asked) bool { return q.ID == p.Question })]
			traps[q.Slug] = traps[q.Slug] || q.Trap
			require.True(t, q.Trap || slices.Contains(kinds, q.Kind), "seed %d", seed)
			require.Equal(t, uint64(7), p.Number)
		}
		for _, q := range all {
			require.True(t, traps[q.Slug], "seed %d: the trap of %s is not asked", seed, q.Slug)
		}
	}
}

// What somebody had wrong, what others miss, what trials deviate in and what is due comes before what they know.
func TestWhatIsNotKnownComesFirst(t *testing.T) {
	t.Parallel()
	first := func(change func(l *learned, q *asked)) int {
		hits := 0
		for seed := range 60 {
			all := questions(1, 12)
			all = slices.DeleteFunc(all, func(q asked) bool { return q.Kind != drill.Happens })
			for i := range all {
				all[i].Hard = 2
			}
			l := nothing()
			for i := range all {
				l.memory[memoryKey{"m0", drill.Happens}] = DrillMemory{DueOn: l.now.Add(time.Hour)}
				all[i].Trap = false
			}
			change(l, &all[5])
			want := all[5].ID
			if choose(all, []drill.Kind{drill.Happens}, 1, l, fmt.Sprint(seed), true)[0].Question == want {
				hits++
			}
		}
		return hits
	}
	assert.Less(t, first(func(*learned, *asked) {}), 20, "by chance")
	assert.Equal(t, 60, first(func(l *learned, q *asked) { l.wrong[q.Mark] = true }))
	assert.Equal(t, 60, first(func(l *learned, q *asked) { l.share[q.Mark] = 1 }))
	assert.Equal(t, 60, first(func(l *learned, q *asked) { l.deviates["m0/"+q.Task] = true }))
	assert.Equal(t, 0, first(func(l *learned, q *asked) { l.right[q.Mark] = l.now.Add(-time.Hour) }), "they know it")
}

// Boxes: right when it was due goes on, right before that proves nothing, wrong goes back to the beginning.
func TestSpacedRepetition(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC)
	var m DrillMemory
	for box, days := range []int{1, 2, 4, 9, 21, 50, 50} {
		m = m.after(true, now)
		require.Equal(t, now.AddDate(0, 0, days), m.DueOn, "after %d times", box+1)
		early := m.after(true, now.Add(time.Hour))
		require.Equal(t, m.DueOn, early.DueOn, "before it is due it proves nothing")
		require.Equal(t, m.Box, early.Box)
		now = m.DueOn
	}
	m = m.after(false, now)
	assert.Equal(t, 0, m.Box)
	assert.Equal(t, now, m.DueOn, "it is due at once")
	assert.Equal(t, 7, m.Rights)
	assert.Equal(t, 1, m.Wrongs)
}

// A number is found however it is typed; one letter wrong, or two exchanged, is none.
func TestCertificateNumbers(t *testing.T) {
	t.Parallel()
	for range 300 {
		n := newNumber()
		c := DrillCertificate{Number: n}
		require.Equal(t, n, CertificateNumber(c.Shown()))
		require.Equal(t, n, CertificateNumber(" "+n[:5]+" "+n[5:]))
		for at := range n {
			for _, letter := range []byte(certificateLetters) {
				if letter != n[at] {
					require.Empty(t, CertificateNumber(n[:at]+string(letter)+n[at+1:]), "%s with %c at %d", n,
						letter, at)
				}
			}
			if at+1 < len(n)-1 && n[at] != n[at+1] {
				require.Empty(t, CertificateNumber(n[:at]+string(n[at+1])+string(n[at])+n[at+2:]),
					"%s exchanged at %d", n, at)
			}
		}
	}
	for _, bad := range []string{"", "1", "O0IL-O0IL-O0IL-O0IL", "AAAA-AAAA-AAAA"} {
		assert.Empty(t, CertificateNumber(bad), bad)
	}
}

// recalled are the memories of somebody who answered nothing else.
type recalled struct {
	DrillReader
	TrialReader
	list []DrillMemory
}

func (r recalled) DrillMemories(context.Context, uint64) ([]DrillMemory, error) { return r.list, nil }

// Half right is level 2, all right level 5, nothing right level 1; who never answered begins at 2.
func TestTheLevelIsWhatSomebodyHasRight(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		list  []DrillMemory
		level float64
	}{
		{nil, 2},
		{[]DrillMemory{{Rights: 3, Wrongs: 3}}, 2},
		{[]DrillMemory{{Rights: 4}, {Rights: 2, Kind: drill.Order}}, 5},
		{[]DrillMemory{{Rights: 1, Wrongs: 1}, {Rights: 5, Wrongs: 3}}, 2.6},
		{[]DrillMemory{{Wrongs: 7}}, 1},
	} {
		d := &Drills{Now: time.Now, Store: struct {
			Transactor
			recalled
			UnitReader
			PersonReader
			ModelReader
		}{recalled: recalled{list: x.list}}}
		l, err := d.known(t.Context(), 1, nil)
		require.NoError(t, err)
		assert.InDelta(t, x.level, l.level, 1e-9, "%+v", x.list)
	}
}

// The share of wrong answers: one of four is a quarter, and what nobody was asked has none.
func TestTheShareOfWrongAnswers(t *testing.T) {
	t.Parallel()
	assert.InDelta(t, 0.25, DrillTally{Asked: 4, Wrongs: 1}.Share(), 1e-12)
	assert.Zero(t, DrillTally{}.Share())
}
