package app

import (
	"cmp"
	"context"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"coldtap/internal/core/cause"
	"coldtap/internal/core/drill"
)

// asked is what is known of a question before somebody is asked it.
type asked struct {
	DrillQuestion
	number uint64 // of the state
	weight float64
}

// learned is what is known of somebody before they are asked.
type learned struct {
	now      time.Time
	wrong    map[string]bool      // marks that they had wrong the last time
	right    map[string]time.Time // marks that they had right, and when
	memory   map[memoryKey]DrillMemory
	share    map[string]float64 // by mark, of wrong answers of all, where enough were given
	deviates map[string]bool    // procedures that trials deviate in, as "slug/task"
	level    float64            // 1 to 5: how hard questions may be
}

type memoryKey struct {
	slug string
	kind drill.Kind
}

// Weights of what speaks for a question.
const (
	forWrong    = 60 // they had it wrong the last time
	forTrial    = 45 // trials deviate in its procedure
	forOthers   = 40 // others get it wrong, by their share
	forDue      = 30 // its kind is due again
	forNew      = 20 // its kind was never asked
	againstSoon = 80 // they had it right within the last weeks
	forLevel    = 6  // a step of difficulty off their level
	forChance   = 12
	soonAgain   = 21 * 24 * time.Hour
	enoughTold  = 5 // answers that tell how hard a question is for others
)

// weigh is how much speaks for asking a question.
func (l *learned) weigh(q *asked, rng *rand.Rand) float64 {
	w := rng.Float64() * forChance
	if l.wrong[q.Mark] {
		w += forWrong
	}
	if q.Task != "" && l.deviates[q.Slug+"/"+q.Task] {
		w += forTrial
	}
	w += forOthers * l.share[q.Mark]
	switch m, known := l.memory[memoryKey{q.Slug, q.Kind}]; {
	case !known:
		w += forNew
	case !m.DueOn.After(l.now):
		w += forDue
	}
	if at, ok := l.right[q.Mark]; ok && l.now.Sub(at) < soonAgain {
		w -= againstSoon
	}
	return w - forLevel*math.Abs(float64(q.Hard)-l.level)
}

// choose picks questions: of each model a trap first, then in turn from each model and kind what most speaks for. Who
// is free practises what they chose.
func choose(all []asked, kinds []drill.Kind, count int, l *learned, seed string, free bool) (list []DrillPlace) {
	h := fnv.New64a()
	h.Write([]byte(seed))
	rng := rand.New(rand.NewPCG(h.Sum64(), 1))
	for i := range all {
		all[i].weight = l.weigh(&all[i], rng)
	}
	slices.SortStableFunc(all, func(a, b asked) int { return cmp.Compare(b.weight, a.weight) })
	taken := map[uint64]bool{}
	take := func(q *asked) {
		taken[q.ID] = true
		list = append(list, DrillPlace{Question: q.ID, Number: q.number})
	}
	var models []string
	for i := range all {
		if !slices.Contains(models, all[i].Slug) {
			models = append(models, all[i].Slug)
		}
	}
	slices.Sort(models)
	for _, slug := range models { // nobody escapes the trap: of the kinds that are asked, or of any
		trap := slices.IndexFunc(all, func(q asked) bool {
			return q.Slug == slug && q.Trap && slices.Contains(kinds, q.Kind)
		})
		if trap < 0 && len(kinds) < len(drill.Kinds()) && free {
			continue // practice of some kinds is of these alone
		}
		if trap < 0 {
			trap = slices.IndexFunc(all, func(q asked) bool { return q.Slug == slug && q.Trap })
		}
		if trap >= 0 && len(list) < count {
			take(&all[trap])
		}
	}
	round := func(once map[drill.Kind]bool) (more bool) {
		for _, k := range kinds {
			for _, slug := range models {
				if once[k] {
					continue // a trap was of this kind
				}
				i := slices.IndexFunc(all, func(q asked) bool { return q.Slug == slug && q.Kind == k && !taken[q.ID] })
				if i >= 0 && len(list) < count {
					take(&all[i])
					more = true
				}
			}
		}
		return more
	}
	traps := map[drill.Kind]bool{}
	for i := range all {
		traps[all[i].Kind] = traps[all[i].Kind] || taken[all[i].ID]
	}
	for more := round(traps) || len(traps) > 0; more && len(list) < count; {
		more = round(nil)
	}
	rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	return list
}

// known is what is known of somebody and of the questions of some models.
func (d *Drills) known(ctx context.Context, person uint64, models []DrillModel) (*learned, error) {
	l := &learned{now: d.Now().UTC(), wrong: map[string]bool{}, right: map[string]time.Time{},
		memory: map[memoryKey]DrillMemory{}, share: map[string]float64{}, deviates: map[string]bool{}, level: 2}
	memories, err := d.Store.DrillMemories(ctx, person)
	if err != nil {
		return nil, err
	}
	rights, all := 0, 0
	for _, m := range memories {
		l.memory[memoryKey{m.Slug, m.Kind}] = m
		rights, all = rights+m.Rights, all+m.Rights+m.Wrongs
	}
	if all > 0 { // half right is level 2, all right is level 5
		l.level = min(5, max(1, 6*float64(rights)/float64(all)-1))
	}
	for _, m := range models {
		answers, err := d.Store.DrillAnswers(ctx, DrillFilter{Person: person, Slug: m.Slug}, 1000)
		if err != nil {
			return nil, err
		}
		for i := range slices.Backward(answers) { // the oldest first
			a := &answers[i]
			delete(l.right, a.Mark)
			if l.wrong[a.Mark] = !a.Right; a.Right {
				l.right[a.Mark] = a.CreatedAt
			}
		}
		tallies, err := d.Store.DrillTallies(ctx, m.Slug)
		if err != nil {
			return nil, err
		}
		for _, t := range tallies {
			if t.Asked >= enoughTold {
				l.share[t.Mark] = t.Share()
			}
		}
		row, _, err := d.Store.Head(ctx, m.Slug)
		if err != nil {
			return nil, err
		}
		trials, err := d.Store.TrialsOf(ctx, row.ID, Scope{All: true})
		if err != nil {
			return nil, err
		}
		for i := range trials {
			if v := cause.Verdict(trials[i].Verdict); v == cause.Named || v == cause.Unexplained {
				l.deviates[m.Slug+"/"+trials[i].Task] = true
			}
		}
	}
	return l, nil
}

// pick picks the questions of a sitting from banks.
func (d *Drills) pick(ctx context.Context, person uint64, banks []*DrillBank, models []DrillModel, kinds []drill.Kind,
	count int, seed string, free bool) ([]DrillPlace, error) {
	var all []asked
	for _, b := range banks {
		heads, err := d.Store.DrillHeads(ctx, b.ID)
		if err != nil {
			return nil, err
		}
		for _, h := range heads {
			all = append(all, asked{DrillQuestion: h, number: b.Number})
		}
	}
	l, err := d.known(ctx, person, models)
	if err != nil {
		return nil, err
	}
	list := choose(all, kinds, count, l, seed, free)
	if len(list) == 0 {
		return nil, refused("Nothing of these kinds can be asked of this model.")
	}
	return list, nil
}
