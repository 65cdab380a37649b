package app_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/app"
	"coldtap/internal/core/care"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
	"coldtap/internal/testworld"
)

// no is that something is refused, and says why.
func no(t *testing.T, err error, says string) {
	t.Helper()
	var refused *app.RefusedError
	require.ErrorAs(t, err, &refused, says)
	assert.Contains(t, refused.Words, says)
}

func letters(n int) string { return strings.Repeat("x", n) }

// Each refusal around a published guide, and what comes as near to it as can be and goes.
func TestWhatIsRefusedOfAPublishedGuide(t *testing.T) {
	t.Parallel()
	p := opened(t)
	ctx := t.Context()
	publish := func(units app.Range) error {
		_, err := p.Publish(ctx, gneiss, imre, units, "", func() {})
		return err
	}
	no(t, publish(app.Range{From: letters(61)}), "at most 60 letters")
	no(t, publish(app.Range{To: letters(61)}), "at most 60 letters")
	no(t, publish(app.Range{From: "G24-20", To: "G24-10"}), "ends before it begins")
	no(t, publish(app.Range{From: "G24-10", To: "H24-20"}), "not written alike")
	require.ErrorIs(t, publish(app.Range{From: "G24-20", To: "G24-20"}), app.ErrNotPassed, "a range of one")
	require.ErrorIs(t, publish(app.Range{From: letters(60)}), app.ErrNotPassed)

	require.NoError(t, func() error { p.publish(t, app.Range{From: "G24-1", To: "G24-9"}); return nil }())
	no(t, p.Withdraw(ctx, gneiss, "A", odile, " \n"), "what readers are to do")
	no(t, p.Withdraw(ctx, gneiss, "A", odile, letters(4001)), "at most 4000 letters")
	no(t, p.Notify(ctx, gneiss, "A", odile, letters(4001)), "at most 4000 letters")
	require.ErrorIs(t, p.Withdraw(ctx, gneiss, "B", odile, "Ask your dealer."), app.ErrNotFound)
	require.NoError(t, p.Notify(ctx, gneiss, "A", odile, letters(4000)))
	require.NoError(t, p.Notify(ctx, gneiss, "A", odile, ""), "a notice is taken off")
	g, err := p.PublishedGuide(ctx, gneiss, "A")
	require.NoError(t, err)
	assert.Equal(t, app.Published, g.State)
	assert.Empty(t, g.Notice)
	require.NoError(t, p.Withdraw(ctx, gneiss, "A", odile, "Ask your dealer."))
	no(t, p.Withdraw(ctx, gneiss, "A", odile, "Ask your dealer."), "withdrawn already")
	g, err = p.PublishedGuide(ctx, gneiss, "A")
	require.NoError(t, err)
	assert.Equal(t, []string{app.Withdrawn, "Ask your dealer."}, []string{g.State, g.Notice})
}

// Each refusal in a round of review, by the round's state and by whose it is.
func TestWhatIsRefusedInAReview(t *testing.T) {
	t.Parallel()
	p := opened(t)
	ctx := t.Context()
	basis, r := p.basis(t), p.reviews
	require.ErrorIs(t, r.TakeBack(ctx, gneiss, imre), app.ErrRound, "nothing was sent")
	require.ErrorIs(t, r.SendBack(ctx, gneiss, odile, "mend it"), app.ErrRound)
	no(t, r.Send(ctx, gneiss, imre, basis, letters(4001)), "at most 4000 letters")
	require.NoError(t, r.Send(ctx, gneiss, imre, basis, letters(4000)))
	no(t, r.SendBack(ctx, gneiss, odile, ""), "what is to be done")
	no(t, r.SendBack(ctx, gneiss, odile, letters(4001)), "at most 4000 letters")
	no(t, r.Approve(ctx, gneiss, odile, basis, basis, 1, ""), "1 things stand in the way")
	require.NoError(t, r.SendBack(ctx, gneiss, odile, "mend it"))
	require.ErrorIs(t, r.Approve(ctx, gneiss, odile, basis, basis, 0, ""), app.ErrRound, "it was sent back")
	require.NoError(t, r.Send(ctx, gneiss, imre, basis, ""))
	require.NoError(t, r.TakeBack(ctx, gneiss, imre))
	require.ErrorIs(t, r.Approve(ctx, gneiss, odile, basis, basis, 0, ""), app.ErrRound, "it was taken back")

	say := func(c app.Comment) error { return r.Comment(ctx, gneiss, odile, "reviewer", c) }
	no(t, say(app.Comment{Block: "have"}), "Write what you want to say")
	no(t, say(app.Comment{Block: "have", Text: letters(4001)}), "at most 4000 letters")
	no(t, say(app.Comment{Block: "have", Text: "x", Quote: letters(4001)}), "no line of the guide")
	no(t, say(app.Comment{Block: "have", Text: "x", Line: letters(201)}), "no line of the guide")
	no(t, say(app.Comment{Block: letters(121), Text: "x"}), "no line of the guide")
	require.ErrorIs(t, say(app.Comment{Text: "x", OnID: 4711}), app.ErrNotFound)
	require.NoError(t, say(app.Comment{Block: letters(120), Text: letters(4000), Quote: letters(4000), Line: letters(200)}))
	row, _, err := p.Head(ctx, gneiss)
	require.NoError(t, err)
	state := func() string {
		list, err := p.Comments(ctx, row.ID)
		require.NoError(t, err)
		return list[0].State
	}
	list, err := p.Comments(ctx, row.ID)
	require.NoError(t, err)
	id := list[0].ID
	no(t, r.Settle(ctx, gneiss, imre, "author", id, true), "by who made it, or by a reviewer")
	no(t, r.Settle(ctx, gneiss, imre, "author", id, false), "by who made it, or by a reviewer")
	require.NoError(t, r.Comment(ctx, gneiss, imre, "author", app.Comment{OnID: id, Text: "So it is."}))
	assert.Equal(t, app.CommentAnswered, state())
	require.NoError(t, say(app.Comment{OnID: id, Text: "And the heel?"}))
	assert.Equal(t, app.CommentOpen, state(), "who asked asks on")
	require.NoError(t, r.Settle(ctx, gneiss, app.By{ID: 9, Name: "Another"}, "reviewer", id, true))
	assert.Equal(t, app.CommentDone, state())
	require.NoError(t, r.Comment(ctx, gneiss, imre, "author", app.Comment{OnID: id, Text: "Good."}))
	assert.Equal(t, app.CommentDone, state(), "what is settled stays so")
	require.NoError(t, r.Settle(ctx, gneiss, odile, "author", id, false), "her own, whatever she is by now")
	assert.Equal(t, app.CommentOpen, state())
}

// Each refusal of an account.
func TestWhatIsRefusedOfAnAccount(t *testing.T) {
	t.Parallel()
	st := testworld.Open(t, testworld.Bare)
	ctx := t.Context()
	a := &app.Accounts{Store: st, Cost: bcrypt.MinCost}
	add := func(login, name string, role people.Role) error {
		_, err := a.Add(ctx, odile, login, name, role)
		return err
	}
	for _, login := range []string{"", "m", "Mira", "1mira", "mira holt", letters(41), "mirä"} {
		no(t, add(login, "Mira Holt", people.Author), "sign-in name")
	}
	no(t, add("mira", "", people.Author), "the person's name")
	no(t, add("mira", letters(81), people.Author), "the person's name")
	no(t, add("mira", "Mira Holt", "owner"), "Choose a role")
	require.NoError(t, add("mi", letters(80), people.Author))
	no(t, add("mi", "Mira Holt", people.Author), "signs in as “mi” already")
	require.NoError(t, add("odile", "Odile Brandt", people.Reviewer))
	find := func(login string) *app.Person {
		p, err := st.Login(ctx, login)
		require.NoError(t, err)
		return p
	}
	me, mira := find("odile"), find("mi")
	no(t, a.SetRole(ctx, me, me, people.Author), "your own can't be changed")
	no(t, a.SetRole(ctx, me, mira, "owner"), "Choose a role")
	no(t, a.SetActive(ctx, me, me, false), "your own account")
	before := mira.Epoch
	require.NoError(t, a.SetRole(ctx, me, mira, people.Technician))
	require.NoError(t, a.SetActive(ctx, me, mira, false))
	after := find("mi")
	assert.Equal(t, people.Technician, after.Role)
	assert.False(t, after.Active)
	assert.Greater(t, after.Epoch, before, "whoever is signed in as that is out")

	stale := find("mi")
	_, err := a.Reset(ctx, me, find("mi"))
	require.NoError(t, err)
	_, err = a.Reset(ctx, me, stale)
	no(t, err, "changed by somebody else in the meantime")
	fresh, err := a.Reset(ctx, me, find("mi"))
	require.NoError(t, err)
	no(t, a.ChangePassword(ctx, find("mi"), "not it at all", "a kettle in the snow"), "present password is not right")
	no(t, a.ChangePassword(ctx, find("mi"), fresh, "short"), "")
	require.NoError(t, a.ChangePassword(ctx, find("mi"), fresh, "a kettle in the snow"))
	assert.True(t, people.Fits(find("mi").Password, "a kettle in the snow"))
}

// Each refusal of what a trainer signs, and of courses, sittings and classes.
func TestWhatIsRefusedOfDrills(t *testing.T) {
	t.Parallel()
	st, d, c, pia := learnt(t)
	ctx := t.Context()
	person := func(login, name string, role people.Role) *app.Person {
		p := &app.Person{Login: login, Name: name, Role: role, Active: true, Password: "x"}
		require.NoError(t, st.AddPerson(ctx, p))
		return p
	}
	vera, jon := person("vera", "Vera Soll", people.Trainer), person("jon", "Jon Reyle", people.Technician)
	x := &app.Trial{ID: 1, State: app.TrialFinished, Slug: "heater-one-valve", Task: "winterize", Serial: "H1"}
	no(t, d.SignOff(ctx, jon, x, pia.ID, ""), "A trainer signs off")
	no(t, d.TakeSignOffBack(ctx, jon, x, pia.ID), "A trainer signs off")
	no(t, d.SignOff(ctx, vera, &app.Trial{ID: 1, State: "open"}, pia.ID, ""), "not finished yet")
	no(t, d.SignOff(ctx, vera, x, pia.ID, letters(401)), "at most 400 letters")
	no(t, d.SignOff(ctx, vera, x, 4711, ""), "no such person")
	no(t, d.SignOff(ctx, vera, x, vera.ID, ""), "Nobody signs off what they did themselves")

	s, job, err := d.Begin(ctx, pia, c.Code)
	require.NoError(t, err)
	require.Nil(t, job)
	_, err = d.Sitting(ctx, jon, s.Code)
	require.ErrorIs(t, err, app.ErrNotFound, "another's")
	_, err = d.Sitting(ctx, pia, "no code")
	require.ErrorIs(t, err, app.ErrNotFound)
	seen, err := d.Sitting(ctx, vera, s.Code)
	require.NoError(t, err, "trainers see all")
	assert.Equal(t, s.ID, seen.ID)
	no(t, d.Hint(ctx, vera, s.Code, 0), "Only Pia Lund answers here")
	no(t, d.Look(ctx, pia, s.Code, 0, "no such"), "no such look")
	require.NoError(t, d.Hint(ctx, pia, s.Code, 0))
	_, err = d.Turn(ctx, s, s.Asked)
	require.ErrorIs(t, err, app.ErrNotFound, "behind the last")

	no(t, d.Decide(ctx, imre, "heater-one-valve", "m", "perhaps", "so"), "taken over, or left")
	no(t, d.Decide(ctx, imre, "heater-one-valve", "m", app.ProposalLeft, " "), "Say what was changed")
	no(t, d.Decide(ctx, imre, "heater-one-valve", "m", app.ProposalLeft, letters(401)), "at most 400 letters")
	require.ErrorIs(t, d.Decide(ctx, imre, "heater-one-valve", "m", app.ProposalLeft, "It is right."), app.ErrNotFound)

	_, err = d.AddCourse(ctx, imre, app.NewCourse{Name: letters(120), Note: letters(400), Count: 1, PassMark: 100, Months: 120,
		Models: []app.DrillModel{{Slug: "heater-one-valve"}}, Kinds: []drill.Kind{drill.Amount}})
	require.NoError(t, err, "all at its bound")
	_, err = d.AddCourse(ctx, imre, app.NewCourse{Name: "x", Count: 1, PassMark: 1, Kinds: []drill.Kind{drill.Amount},
		Models: []app.DrillModel{{Slug: "heater-one-valve"}}, Practical: []string{letters(401)}})
	no(t, err, "too much to be seen at units")
}

// Each refusal of a unit and its log, and of a unit of another dealer.
func TestWhatIsRefusedOfAUnit(t *testing.T) {
	t.Parallel()
	st, d, _, pia := learnt(t)
	ctx := t.Context()
	u := &app.Units{Store: st, Publishing: d.Publishing, Jobs: d.Jobs, Now: time.Now}
	no(t, u.AddDealer(ctx, odile, " ", "Marl"), "A dealer has a name")
	no(t, u.AddDealer(ctx, odile, letters(121), "Marl"), "A dealer has a name")
	no(t, u.AddDealer(ctx, odile, "x", letters(161)), "a place of at most 160")
	require.NoError(t, u.AddDealer(ctx, odile, letters(120), letters(160)))
	require.NoError(t, u.AddDealer(ctx, odile, "Lund & Tochter", "Marl"))
	no(t, u.AddDealer(ctx, odile, "Lund & Tochter", "Tuff"), "of the name Lund & Tochter already")
	list, err := st.Dealers(ctx)
	require.NoError(t, err)
	require.Len(t, list, 2)
	one, two := list[0].ID, list[1].ID
	no(t, u.Assign(ctx, odile, pia, 4711), "no such dealer")
	require.NoError(t, u.Assign(ctx, odile, pia, one))
	require.NoError(t, u.Assign(ctx, odile, pia, 0))

	mine, all := app.Scope{Dealer: one}, app.Scope{All: true}
	good := app.NewUnit{Serial: "H1-001", Slug: "heater-one-valve", Dealer: one, Use: care.Uses()[0]}
	add := func(scope app.Scope, change func(*app.NewUnit)) (*app.Unit, error) {
		n := good
		change(&n)
		return u.Add(ctx, by(pia), scope, n)
	}
	for says, change := range map[string]func(*app.NewUnit){
		"as on the plate":            func(n *app.NewUnit) { n.Serial = "H-1" },
		"at most 60":                 func(n *app.NewUnit) { n.Serial = letters(61) },
		"how the unit is used":       func(n *app.NewUnit) { n.Use = "sometimes" },
		"your own dealer only":       func(n *app.NewUnit) { n.Dealer = two },
		"choose its model":           func(n *app.NewUnit) { n.Slug = "" },
		"There is no such model":     func(n *app.NewUnit) { n.Slug = "none" },
		"has no build of this kind.": func(n *app.NewUnit) { n.Build = "gold" },
	} {
		_, err := add(mine, change)
		no(t, err, says)
	}
	_, err = add(all, func(n *app.NewUnit) { n.Dealer = 4711 })
	no(t, err, "no such dealer")
	x, err := add(mine, func(*app.NewUnit) {})
	require.NoError(t, err)
	_, err = add(mine, func(n *app.NewUnit) { n.Serial = "h1 001" })
	no(t, err, "is kept already")

	other := app.Scope{Dealer: two}
	_, err = u.Get(ctx, other, x.ID)
	require.ErrorIs(t, err, app.ErrNotFound)
	_, err = u.Find(ctx, other, "H1001")
	require.ErrorIs(t, err, app.ErrNotFound)
	found, err := u.Find(ctx, mine, "h1 001")
	require.NoError(t, err)
	assert.Equal(t, x.ID, found.ID)
	require.ErrorIs(t, u.Change(ctx, by(pia), other, x.ID, func(*app.Unit) {}), app.ErrNotFound)
	no(t, u.Change(ctx, by(pia), mine, x.ID, func(x *app.Unit) { x.Use = "sometimes" }), "how the unit is used")
	no(t, u.Change(ctx, by(pia), mine, x.ID, func(x *app.Unit) { x.DealerID = two }), "your own dealer only")
	no(t, u.Change(ctx, by(pia), mine, x.ID, func(x *app.Unit) { x.Build = "gold" }), "no build of this kind")
	writes(t, u, by(pia), mine, x.ID)
	require.ErrorIs(t, u.Write(ctx, by(pia), other, x.ID, app.UnitEntry{Mark: app.NewCode(), Kind: care.Noted,
		On: time.Now(), Words: "x"}), app.ErrNotFound, "a unit of another dealer")
}

func by(p *app.Person) app.By { return p.By() }

// writes tries what a log takes and what not.
func writes(t *testing.T, u *app.Units, who app.By, mine app.Scope, id uint64) {
	t.Helper()
	good := app.UnitEntry{Kind: care.Noted, On: time.Now(), Words: "The tap drips."}
	write := func(change func(*app.UnitEntry)) error {
		e := good
		e.Mark = app.NewCode()
		change(&e)
		return u.Write(t.Context(), who, mine, id, e)
	}
	for says, change := range map[string]func(*app.UnitEntry){
		"Choose what was done":   func(e *app.UnitEntry) { e.Kind = "danced" },
		"what was done":          func(e *app.UnitEntry) { e.Mark = "x" },
		"not in the future":      func(e *app.UnitEntry) { e.On = time.Now().Add(37 * time.Hour) },
		"on which day":           func(e *app.UnitEntry) { e.On = time.Time{} },
		"long before":            func(e *app.UnitEntry) { e.On = time.Date(1989, 12, 31, 0, 0, 0, 0, time.UTC) },
		"at most 1200":           func(e *app.UnitEntry) { e.Words = letters(1201) },
		"1200 letters":           func(e *app.UnitEntry) { e.Of = letters(121) },
		"from 0 to 60":           func(e *app.UnitEntry) { e.Kind, e.Value = care.Winterized, 61 },
		"a number from 0":        func(e *app.UnitEntry) { e.Kind, e.Value = care.Winterized, -1 },
		"from 0 to 100 %":        func(e *app.UnitEntry) { e.Kind, e.Value = care.AnodeLook, 1.01 },
		"that is used is from 0": func(e *app.UnitEntry) { e.Kind, e.Value = care.AnodeLook, -0.01 },
		"the heater whose anode": func(e *app.UnitEntry) { e.Kind, e.Of = care.AnodeLook, "pump" },
		"Choose the heater":      func(e *app.UnitEntry) { e.Kind, e.Of = care.AnodeNew, "pump" },
		"what was changed":       func(e *app.UnitEntry) { e.Kind, e.Of = care.Changed, "roof" },
		"Write what was done":    func(e *app.UnitEntry) { e.Words = "" },
		"what was done.":         func(e *app.UnitEntry) { e.Kind, e.Words = care.Repaired, " " },
	} {
		no(t, write(change), says)
	}
	require.NoError(t, write(func(e *app.UnitEntry) { e.Kind, e.Value = care.Winterized, 60 }))
	require.NoError(t, write(func(e *app.UnitEntry) { e.Kind, e.Value = care.Winterized, 0 }))
	require.NoError(t, write(func(e *app.UnitEntry) { e.Words = letters(1200) }))
	require.NoError(t, write(func(e *app.UnitEntry) { e.On = time.Now().Add(35 * time.Hour) }), "it is later there")
}

// Each refusal of what strangers send.
func TestWhatIsRefusedOfReaders(t *testing.T) {
	t.Parallel()
	p := opened(t)
	ctx := context.WithoutCancel(t.Context())
	g := p.publish(t, app.Range{})
	now := time.Now()
	r := &app.Readers{Store: p.Store, Now: func() time.Time { return now }}
	build := g.Of().Builds[0].Name
	good := app.Report{Build: build, Task: "winterize", Step: 3, Words: "The lever stands the other way."}
	send := func(place string, change func(*app.Report)) error {
		x := good
		x.Code = app.NewCode()
		change(&x)
		return r.Send(ctx, g, x, place)
	}
	for says, change := range map[string]func(*app.Report){
		"Write a few words":    func(x *app.Report) { x.Words = " " },
		"at most 1200":         func(x *app.Report) { x.Words = letters(1201) },
		"no step of":           func(x *app.Report) { x.Code = "short" },
		"This is no step of":   func(x *app.Report) { x.Build = "gold" },
		"no step of the":       func(x *app.Report) { x.Step = -1 },
		"step of the guide":    func(x *app.Report) { x.Step = 501 },
		"no step of the guide": func(x *app.Report) { x.Task = letters(81) },
	} {
		no(t, send("192.0.2.1", change), says)
	}
	for range 10 {
		require.NoError(t, send("192.0.2.2", func(*app.Report) {}))
	}
	require.ErrorIs(t, send("192.0.2.2", func(*app.Report) {}), app.ErrTooMany, "ten an hour from one place")
	require.NoError(t, send("192.0.2.3", func(x *app.Report) { x.Words, x.Step = letters(1200), 500 }))
	now = now.Add(61 * time.Minute)
	require.NoError(t, send("192.0.2.2", func(*app.Report) {}), "an hour later")

	no(t, r.Settle(ctx, gneiss, imre, 1, app.ReportAnswered, "", ""), "Write an answer")
	no(t, r.Settle(ctx, gneiss, imre, 1, app.ReportAnswered, letters(4001), ""), "at most 4000 letters")
	require.ErrorIs(t, r.Settle(ctx, gneiss, imre, 4711, app.ReportAnswered, "So it is.", ""), app.ErrNotFound)

	_, err := r.Begin(ctx, g, "gold", "winterize", "192.0.2.4")
	require.ErrorIs(t, err, app.ErrNotFound)
	_, err = r.Begin(ctx, g, build, "", "192.0.2.4")
	require.ErrorIs(t, err, app.ErrNotFound)
	w, err := r.Begin(ctx, g, build, "winterize", "192.0.2.4")
	require.NoError(t, err)
	mark := func(change func(*app.WalkMark)) error {
		m := app.WalkMark{Mark: app.NewCode(), Step: 1, What: "done"}
		change(&m)
		_, err := r.Join(ctx, w.Code, []app.WalkMark{m})
		return err
	}
	no(t, mark(func(m *app.WalkMark) { m.Mark = "x" }), "no tick of a step")
	no(t, mark(func(m *app.WalkMark) { m.What = "danced" }), "no tick of a step")
	no(t, mark(func(m *app.WalkMark) { m.Step = 501 }), "no tick of a step")
	no(t, mark(func(m *app.WalkMark) { m.Step = -1 }), "no tick of a step")
	no(t, mark(func(m *app.WalkMark) { m.Side = "roof" }), "no tick of a step")
	require.NoError(t, mark(func(m *app.WalkMark) { m.Step, m.Side = 500, "taps" }))
	_, err = r.Join(ctx, app.NewCode(), nil)
	require.ErrorIs(t, err, app.ErrNotFound)
	_, err = r.Join(ctx, "x", nil)
	require.ErrorIs(t, err, app.ErrNotFound)
	many := make([]app.WalkMark, 2000)
	for i := range many {
		many[i] = app.WalkMark{Mark: app.NewCode(), What: "done"}
	}
	_, err = r.Join(ctx, w.Code, many)
	require.ErrorIs(t, err, app.ErrTooMany, "one is kept already")
	kept, err := r.Join(ctx, w.Code, many[:1999])
	require.NoError(t, err)
	assert.Len(t, kept, 2000)
}

// What is due on units follows from the model as it is when it is worked out again; a trial takes the procedure along as
// it is read.
func TestUnitsFollowTheirModel(t *testing.T) {
	t.Parallel()
	st, d, _, pia := learnt(t)
	ctx := t.Context()
	u := &app.Units{Store: st, Publishing: d.Publishing, Jobs: d.Jobs, Now: time.Now}
	require.NoError(t, u.AddDealer(ctx, odile, "Lund & Tochter", "Marl"))
	list, err := st.Dealers(ctx)
	require.NoError(t, err)
	scope := app.Scope{All: true}
	x, err := u.Add(ctx, by(pia), scope, app.NewUnit{Serial: "H1-001", Slug: "heater-one-valve", Dealer: list[0].ID,
		Use: care.Uses()[0]})
	require.NoError(t, err)
	basis := func() string {
		require.NoError(t, u.Refresh(ctx))
		now, err := u.Get(ctx, scope, x.ID)
		require.NoError(t, err)
		return now.Basis
	}
	first := basis()
	require.NotEmpty(t, first)
	row, _, err := st.Head(ctx, "heater-one-valve")
	require.NoError(t, err)
	_, err = (&app.Edits{Store: st, Docs: d.Publishing.Docs}).Change(ctx, "heater-one-valve", row.Revision, imre,
		func(m *plumbing.Model) (*edit.Done, error) {
			return edit.Set(m, edit.OfPart, "heater", map[string]string{"data.anode_new": "19 mm"})
		})
	require.NoError(t, err)
	next := basis()
	assert.NotEqual(t, first, next, "it has an anode to look at")
	assert.Equal(t, next, basis())

	trials := &app.Trials{Store: st, Units: u, Publishing: d.Publishing, Jobs: d.Jobs, Now: time.Now}
	one, err := trials.Begin(ctx, by(pia), scope, x.ID, "sanitize", "yard", "dry", "si")
	require.NoError(t, err)
	assert.Contains(t, one.Page, "Fresh tank")
	assert.Contains(t, one.Page, "<svg")
}
