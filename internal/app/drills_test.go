package app_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/people"
	"coldtap/internal/pretend/pupil"
	"coldtap/internal/rig"
	"coldtap/internal/store"
	"coldtap/internal/testworld"
)

// learnt is a database with a small model, what can be asked of it, a course and somebody who takes it.
func learnt(t *testing.T) (*store.Store, *app.Drills, *app.DrillCourse, *app.Person) {
	t.Helper()
	st := testworld.Open(t, testworld.Bare)
	m, err := rig.Model("heater-one-valve")
	require.NoError(t, err)
	require.NoError(t, (&app.Edits{Store: st}).Create(t.Context(), app.By{Name: "Imre Valk"}, m, "test"))
	p := &app.Person{Login: "pia", Name: "Pia Lund", Role: people.Technician, Active: true, Password: "x"}
	require.NoError(t, st.AddPerson(t.Context(), p))
	docs := new(app.Docs)
	d := &app.Drills{Store: st, Publishing: &app.Publishing{Store: st, Builds: &app.Builds{Pool: &pool, States: st, Docs: docs},
		Docs: docs},
		Jobs: new(app.Jobs), Now: time.Now}
	t.Cleanup(d.Jobs.Close)
	_, err = d.MakeBank(t.Context(), "heater-one-valve", "")
	require.NoError(t, err)
	c, err := d.AddCourse(t.Context(), imre, app.NewCourse{Name: "A first look",
		Models: []app.DrillModel{{Slug: "heater-one-valve"}},
		Kinds:  []drill.Kind{drill.Amount, drill.Where, drill.Heater, drill.Valves, drill.Happens},
		Count:  15, PassMark: 60, Months: 6})
	require.NoError(t, err)
	return st, d, c, p
}

// pass answers a whole sitting rightly.
func pass(t *testing.T, st *store.Store, d *app.Drills, c *app.DrillCourse, who *app.Person) *app.DrillSitting {
	t.Helper()
	rng := rand.New(rand.NewPCG(1, 1))
	s, job, err := d.Begin(t.Context(), who, c.Code)
	require.NoError(t, err)
	require.Nil(t, job)
	for place := range s.Asked {
		turn, err := d.Turn(t.Context(), s, place)
		require.NoError(t, err)
		a, err := d.Answer(t.Context(), who, s.Code, place, pupil.Answer(rng, turn.Paper, true))
		require.NoError(t, err)
		require.True(t, a.Right, turn.Paper.Key)
	}
	s, err = st.DrillSittingByCode(t.Context(), s.Code)
	require.NoError(t, err)
	require.Equal(t, app.DrillPassed, s.State)
	return s
}

// A changed model voids the answers that stand on what changed, and no others; their certificate is due again.
func TestAChangeVoidsOnlyWhatItTouches(t *testing.T) {
	t.Parallel()
	st, d, c, pia := learnt(t)
	s := pass(t, st, d, c, pia)
	answers, err := st.DrillAnswersOf(t.Context(), s.ID)
	require.NoError(t, err)
	require.True(t, slices.ContainsFunc(answers, func(a app.DrillAnswer) bool { return a.Kind == drill.Amount }))

	edits := &app.Edits{Store: st}
	change := func(words string, how func(m *plumbing.Model)) {
		row, _, err := st.Current(t.Context(), "heater-one-valve")
		require.NoError(t, err)
		_, err = edits.Change(t.Context(), "heater-one-valve", row.Revision, imre,
			func(m *plumbing.Model) (*edit.Done, error) {
				how(m)
				return &edit.Done{Model: m, Said: fact.Of("it", words)}, nil
			})
		require.NoError(t, err)
		_, err = d.MakeBank(t.Context(), "heater-one-valve", "")
		require.NoError(t, err)
	}
	void := func() (list []drill.Kind) {
		answers, err := st.DrillAnswersOf(t.Context(), s.ID)
		require.NoError(t, err)
		for _, a := range answers {
			if a.VoidWhy != "" {
				list = append(list, a.Kind)
			}
		}
		return list
	}
	change("a note", func(m *plumbing.Model) { m.Notes = "Nothing that anybody is asked about." })
	assert.Empty(t, void(), "a note touches nothing")
	list, err := st.DrillCertificates(t.Context(), app.DrillFilter{Person: pia.ID}, 5)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.True(t, list[0].Holds(time.Now()))
	assert.False(t, list[0].Holds(time.Now().AddDate(0, 7, 0)), "it expires")

	change("a larger tank", func(m *plumbing.Model) {
		for i := range m.Parts {
			if p := &m.Parts[i]; p.Role() == plumbing.RoleTank {
				p.Data.Capacity = quantity.Of(2*p.Data.Capacity.Value(), quantity.SI)
			}
		}
	})
	got := void()
	assert.Contains(t, got, drill.Amount)
	for _, k := range got {
		assert.NotContains(t, []drill.Kind{drill.Where, drill.Heater, drill.Valves}, k,
			"the tank's size is no matter there")
	}
	list, err = st.DrillCertificates(t.Context(), app.DrillFilter{Person: pia.ID}, 5)
	require.NoError(t, err)
	assert.False(t, list[0].Holds(time.Now()), "what it stands on was changed")
	assert.Contains(t, list[0].VoidWhy, "data")

	// Due again: who passes the new questions has a certificate that holds.
	pass(t, st, d, c, pia)
	list, err = st.DrillCertificates(t.Context(), app.DrillFilter{Person: pia.ID}, 5)
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.True(t, list[0].Holds(time.Now()))
}

// Sent twice is as once; nobody answers for others; what is over is over.
func TestAnswersAreKeptOnce(t *testing.T) {
	t.Parallel()
	st, d, c, pia := learnt(t)
	s, _, err := d.Begin(t.Context(), pia, c.Code)
	require.NoError(t, err)
	again, _, err := d.Begin(t.Context(), pia, c.Code)
	require.NoError(t, err)
	assert.Equal(t, s.Code, again.Code, "what was begun is gone on with")
	turn, err := d.Turn(t.Context(), s, 0)
	require.NoError(t, err)
	rng := rand.New(rand.NewPCG(1, 1))
	right, wrong := pupil.Answer(rng, turn.Paper, true), pupil.Answer(rng, turn.Paper, false)
	first, err := d.Answer(t.Context(), pia, s.Code, 0, wrong)
	require.NoError(t, err)
	second, err := d.Answer(t.Context(), pia, s.Code, 0, right)
	require.NoError(t, err)
	assert.Equal(t, first.Answer, second.Answer, "what was answered stays")
	assert.False(t, second.Right)
	list, err := st.DrillAnswersOf(t.Context(), s.ID)
	require.NoError(t, err)
	assert.Len(t, list, 1)

	odile := &app.Person{Login: "odile", Name: "Odile Brandt", Role: people.Reviewer, Active: true, Password: "x"}
	require.NoError(t, st.AddPerson(t.Context(), odile))
	_, err = d.Answer(t.Context(), odile, s.Code, 1, right)
	assert.ErrorIs(t, err, app.ErrNotFound, "it is somebody else's")
	_, err = d.Answer(t.Context(), pia, s.Code, 99, right)
	assert.Error(t, err)
	require.NoError(t, d.CloseCourse(t.Context(), imre, c.Code, true))
	_, _, err = d.Begin(t.Context(), odile, c.Code)
	assert.ErrorContains(t, err, "closed")
	_, _, err = d.Begin(t.Context(), pia, c.Code)
	assert.NoError(t, err, "what was begun can be ended")

	// Results stay when a person leaves.
	_, err = st.SetActive(t.Context(), pia.ID, false)
	require.NoError(t, err)
	answers, err := st.DrillAnswers(t.Context(), app.DrillFilter{Person: pia.ID}, 10)
	require.NoError(t, err)
	assert.Len(t, answers, 1)
	assert.Equal(t, "Pia Lund", answers[0].PersonName)
}

// A course says what is wrong with it, and is not kept.
func TestCoursesAreChecked(t *testing.T) {
	t.Parallel()
	_, d, _, _ := learnt(t)
	good := app.NewCourse{Name: "x", Models: []app.DrillModel{{Slug: "heater-one-valve"}}, Kinds: drill.Kinds(),
		Count: 5, PassMark: 80}
	for want, change := range map[string]func(n *app.NewCourse){
		"has a name":   func(n *app.NewCourse) { n.Name = " " },
		"one model":    func(n *app.NewCourse) { n.Models = nil },
		"one kind":     func(n *app.NewCourse) { n.Kinds = nil },
		"no kind":      func(n *app.NewCourse) { n.Kinds = []drill.Kind{"riddle"} },
		"one question": func(n *app.NewCourse) { n.Count = 0 },
		"per cent":     func(n *app.NewCourse) { n.PassMark = 101 },
		"months":       func(n *app.NewCourse) { n.Months = -1 },
		"no model":     func(n *app.NewCourse) { n.Models = []app.DrillModel{{Slug: "none"}} },
		"no build":     func(n *app.NewCourse) { n.Models = []app.DrillModel{{Slug: "heater-one-valve", Build: "x"}} },
		"at most 400":  func(n *app.NewCourse) { n.Note = strings.Repeat("x", 401) },
	} {
		n := good
		change(&n)
		_, err := d.AddCourse(t.Context(), imre, n)
		var no *app.RefusedError
		require.ErrorAs(t, err, &no, want)
		assert.Contains(t, no.Words, want)
	}
}

// A photograph with marks is asked about: who points at the mark is right, at another place wrong, and the reason
// says where it is.
func TestPhotographsAreAskedAbout(t *testing.T) {
	t.Parallel()
	st, d, _, pia := learnt(t)
	row, _, err := st.Current(t.Context(), "heater-one-valve")
	require.NoError(t, err)
	p := &app.Photo{ModelID: row.ID, Image: []byte("x"), Width: 4, Height: 3, Person: "Imre Valk", Part: "heater"}
	require.NoError(t, st.AddPhoto(t.Context(), row.Slug, p))
	doc, err := rig.Model("heater-one-valve")
	require.NoError(t, err)
	var marked []string
	for i := range doc.Parts {
		if x := &doc.Parts[i]; len(marked) < 2 && x.Kind.Info().Target || x.Role() == plumbing.RoleHeater {
			marked = append(marked, x.ID)
		}
	}
	require.GreaterOrEqual(t, len(marked), 2)
	for i, part := range marked[:2] {
		require.NoError(t, st.MarkPhoto(t.Context(),
			app.PhotoMark{PhotoID: p.ID, Part: part, X: 0.2 + 0.5*float64(i), Y: 0.5}))
	}
	bank, err := d.MakeBank(t.Context(), row.Slug, "")
	require.NoError(t, err)
	heads, err := st.DrillHeads(t.Context(), bank.ID)
	require.NoError(t, err)
	asked := 0
	for i := range heads {
		if !strings.Contains(heads[i].Ask, "on this photograph") {
			continue
		}
		for _, right := range []bool{true, false} {
			asked++
			s := &app.DrillSitting{Code: app.NewCode(), Title: "x", PersonID: pia.ID, PersonName: pia.Name, Asked: 1,
				State: app.DrillOpen, Questions: fmt.Sprintf(`[{"q":%d,"n":%d}]`, heads[i].ID, bank.Number)}
			require.NoError(t, st.AddDrillSitting(t.Context(), s))
			turn, err := d.Turn(t.Context(), s, 0)
			require.NoError(t, err)
			a, err := d.Answer(t.Context(), pia, s.Code, 0,
				pupil.Answer(rand.New(rand.NewPCG(1, 1)), turn.Paper, right))
			require.NoError(t, err)
			assert.Equal(t, right, a.Right)
			assert.NotEmpty(t, a.Why().Said)
		}
	}
	assert.Equal(t, 4, asked, "both marks, rightly and wrongly")
}

// trainer is somebody who trains.
func trainer(t *testing.T, st *store.Store) *app.Person {
	t.Helper()
	p := &app.Person{Login: "vera", Name: "Vera Soll", Role: people.Trainer, Active: true, Password: "x"}
	require.NoError(t, st.AddPerson(t.Context(), p))
	return p
}

// A class goes on when its answer was shown, once however often that is sent, and not behind its last question; at its
// end whoever takes part has what they answered.
func TestAClassGoesOn(t *testing.T) {
	t.Parallel()
	st, d, c, pia := learnt(t)
	ctx := t.Context()
	vera := trainer(t, st)
	class, job, err := d.OpenClass(ctx, vera, c.Code)
	require.NoError(t, err)
	require.Nil(t, job)
	s, err := d.Join(ctx, pia, class.Code)
	require.NoError(t, err)
	stands := func(place int, shown bool, state string, why string) {
		t.Helper()
		now, err := st.DrillClassByCode(ctx, class.Code)
		require.NoError(t, err)
		assert.Equal(t, place, now.Place, why)
		assert.Equal(t, shown, now.Shown, why)
		assert.Equal(t, state, now.State, why)
	}
	move := func(to string, at int) { require.NoError(t, d.Move(ctx, vera, class.Code, to, at)) }
	no(t, d.Move(ctx, vera, class.Code, "next", 0), "Show the answer first")
	stands(0, false, app.DrillOpen, "the answer comes first")
	move("show", 0)
	stands(0, true, app.DrillOpen, "shown")
	move("next", 0)
	stands(1, false, app.DrillOpen, "the next question")
	move("next", 0)
	move("show", 0)
	stands(1, false, app.DrillOpen, "sent again from the screen before")
	last := len(class.Places()) - 1
	for at := 1; at < last; at++ {
		move("show", at)
		move("next", at)
	}
	move("show", last)
	move("next", last)
	stands(last, true, app.DrillClosed, "behind the last it is over")
	move("show", 0)
	stands(last, true, app.DrillClosed, "it stays over")
	s, err = st.DrillSittingByCode(ctx, s.Code)
	require.NoError(t, err)
	assert.Equal(t, app.DrillFailed, s.State, "nothing was answered")
	_, err = d.Join(ctx, vera, class.Code)
	no(t, err, "This class is over.")
}

// What is seen at a unit gives the certificates of all courses that waited for it.
func TestASignOffCertifiesAllThatWaited(t *testing.T) {
	t.Parallel()
	st, d, c, pia := learnt(t)
	ctx := t.Context()
	vera := trainer(t, st)
	for _, name := range []string{"One", "Two"} {
		c2, err := d.AddCourse(ctx, imre, app.NewCourse{Name: name, Models: c.Of(), Kinds: c.KindList(), Count: c.Count,
			PassMark: c.PassMark, Months: c.Months, Practical: []string{"heater-one-valve/sanitize"}})
		require.NoError(t, err)
		pass(t, st, d, c2, pia)
	}
	certificates := func() int {
		list, err := st.DrillCertificates(ctx, app.DrillFilter{Person: pia.ID}, 10)
		require.NoError(t, err)
		return len(list)
	}
	assert.Zero(t, certificates(), "the work was not seen yet")
	require.NoError(t, d.SignOff(ctx, vera, &app.Trial{ID: 1, State: app.TrialFinished, Slug: "heater-one-valve",
		Task: "sanitize", Serial: "H1"}, pia.ID, "well done"))
	assert.Equal(t, 2, certificates())
}
