package app_test

import (
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/store"
)

// press publishes guides for tests.
type press struct {
	*store.Store
	edits   *app.Edits
	reviews *app.Reviews
	*app.Publishing
	keeping *app.Keeping
}

func opened(t *testing.T) *press {
	t.Helper()
	st := open(t)
	docs := new(app.Docs)
	p := &app.Publishing{Store: st, Builds: &app.Builds{Pool: &pool, States: st, Drawings: st, Docs: docs}, Docs: docs}
	k := &app.Keeping{Publishing: p, Jobs: new(app.Jobs), Store: st}
	t.Cleanup(k.Jobs.Close)
	return &press{st, &app.Edits{Store: st, Docs: docs}, &app.Reviews{Store: st}, p, k}
}

func (p *press) basis(t *testing.T) string {
	t.Helper()
	x, err := p.Present(t.Context(), gneiss)
	require.NoError(t, err)
	return x.Basis
}

// publish takes the guide as it is through review to readers.
func (p *press) publish(t *testing.T, units app.Range) *app.PublishedGuide {
	t.Helper()
	basis := p.basis(t)
	require.NoError(t, p.reviews.Send(t.Context(), gneiss, imre, basis, "please"))
	require.NoError(t, p.reviews.Approve(t.Context(), gneiss, odile, basis, basis, 0, "good"))
	g, err := p.Publish(t.Context(), gneiss, imre, units, "", func() {})
	require.NoError(t, err)
	return g
}

func (p *press) change(t *testing.T, change func(*plumbing.Model)) {
	t.Helper()
	row, _, err := p.Head(t.Context(), gneiss)
	require.NoError(t, err)
	_, err = p.edits.Change(t.Context(), gneiss, row.Revision, imre, func(m *plumbing.Model) (*edit.Done, error) {
		c := *m
		c.Parts = append([]plumbing.Part(nil), m.Parts...)
		change(&c)
		return &edit.Done{Model: &c, Said: fact.Of("it", "changed")}, nil
	})
	require.NoError(t, err)
}

func (p *press) check(t *testing.T, g *app.PublishedGuide) *app.StandingRow {
	t.Helper()
	row, err := p.keeping.Check(t.Context(), g)
	require.NoError(t, err)
	return row
}

// A guide goes through review to readers; who made it can't approve it, and what changed since is not published.
func TestAGuideIsReviewedAndPublished(t *testing.T) {
	t.Parallel()
	p := opened(t)
	ctx := t.Context()
	basis := p.basis(t)
	_, err := p.Publish(ctx, gneiss, imre, app.Range{}, "", func() {})
	require.ErrorIs(t, err, app.ErrNotPassed, "nobody has approved it")
	require.ErrorIs(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, ""), app.ErrRound)
	require.NoError(t, p.reviews.Send(ctx, gneiss, imre, basis, "first"))
	require.ErrorIs(t, p.reviews.Send(ctx, gneiss, imre, basis, "again"), app.ErrRound)
	require.ErrorIs(t, p.reviews.Approve(ctx, gneiss, imre, basis, basis, 0, ""), app.ErrOwn)
	require.Error(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 1, ""), "something stands in the way")
	require.ErrorIs(t, p.reviews.Approve(ctx, gneiss, odile, basis, "another", 0, ""), app.ErrChanged)

	require.NoError(t, p.reviews.Comment(ctx, gneiss, odile, "reviewer", app.Comment{Block: "have",
		Text: "Is this all?"}))
	require.Error(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, ""), "a comment is open")
	row, _, err := p.Head(ctx, gneiss)
	require.NoError(t, err)
	list, err := p.Comments(ctx, row.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.NoError(t, p.reviews.Comment(ctx, gneiss, imre, "author", app.Comment{OnID: list[0].ID, Text: "It is."}))
	list, err = p.Comments(ctx, row.ID)
	require.NoError(t, err)
	assert.Equal(t, app.CommentAnswered, list[0].State)
	assert.Equal(t, "have", list[1].Block)
	require.Error(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, ""), "it is answered, and not settled")
	require.Error(t, p.reviews.Settle(ctx, gneiss, imre, "author", list[0].ID, true), "another's comment")
	require.NoError(t, p.reviews.Settle(ctx, gneiss, odile, "reviewer", list[0].ID, true))
	require.NoError(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, "good"))

	p.change(t, func(m *plumbing.Model) { m.Part("kitchen").Name = "Galley" })
	_, err = p.Publish(ctx, gneiss, imre, app.Range{}, "", func() {})
	require.ErrorIs(t, err, app.ErrNotPassed, "it changed since")
	_, err = p.PublishedGuide(ctx, gneiss, "A")
	require.ErrorIs(t, err, app.ErrNotFound)

	basis = p.basis(t)
	require.NoError(t, p.reviews.Send(ctx, gneiss, imre, basis, "once more"))
	third := app.By{ID: 3, Name: "Third"}
	require.NoError(t, p.reviews.Approve(ctx, gneiss, third, basis, basis, 0, "good"))
	g, err := p.Publish(ctx, gneiss, imre, app.Range{From: "G24-1", To: "G24-900"}, "", func() {})
	require.NoError(t, err)
	assert.Equal(t, "A", g.Letter)

	// Who wrote states before the guide was last published may approve what another wrote since.
	row, _, err = p.Head(ctx, gneiss)
	require.NoError(t, err)
	_, err = p.edits.Change(ctx, gneiss, row.Revision, odile, func(m *plumbing.Model) (*edit.Done, error) {
		return edit.Set(m, edit.OfPart, "kitchen", map[string]string{"name": "Kitchen sink"})
	})
	require.NoError(t, err)
	basis = p.basis(t)
	require.NoError(t, p.reviews.Send(ctx, gneiss, odile, basis, "mine"))
	require.ErrorIs(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, ""), app.ErrOwn)
	require.NoError(t, p.reviews.Approve(ctx, gneiss, imre, basis, basis, 0, "good"))
	assert.Subset(t, actions(t, p.Store), []string{"sent guide to review", "commented on guide", "answered a comment",
		"settled a comment", "approved guide", "published guide"})
}

// What changes while the files of a guide are made is not published: neither another state, nor a state that was approved
// meanwhile though another was made ready.
func TestWhatChangesWhileAGuideIsMadeIsNotPublished(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	for name, meanwhile := range map[string]func(p *press){
		"the model changes": func(p *press) {
			p.change(t, func(m *plumbing.Model) { m.Part("kitchen").Name = "Galley" })
		},
		"the model changes and that is approved": func(p *press) {
			p.change(t, func(m *plumbing.Model) { m.Part("kitchen").Name = "Galley" })
			basis := p.basis(t)
			require.NoError(t, p.reviews.Send(ctx, gneiss, imre, basis, "once more"))
			require.NoError(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, "good"))
		},
		"a rule of the house changes and that is approved": func(p *press) { // the model's state is the same
			require.NoError(t, (&app.Rules{Store: p.Store}).Set(ctx, imre, "", []app.RuleChange{{Rule: "target",
				Value: "60 mg/L"}}, ""))
			basis := p.basis(t)
			require.NoError(t, p.reviews.Send(ctx, gneiss, imre, basis, "once more"))
			require.NoError(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, "good"))
		},
		"it is sent back": func(p *press) {
			require.NoError(t, p.reviews.Send(ctx, gneiss, imre, p.basis(t), "once more"))
		},
	} {
		p := opened(t)
		basis := p.basis(t)
		require.NoError(t, p.reviews.Send(ctx, gneiss, imre, basis, "please"))
		require.NoError(t, p.reviews.Approve(ctx, gneiss, odile, basis, basis, 0, "good"))
		var once sync.Once
		_, err := p.Publish(ctx, gneiss, imre, app.Range{}, "", func() { once.Do(func() { meanwhile(p) }) })
		require.ErrorIs(t, err, app.ErrNotPassed, name)
		_, err = p.PublishedGuide(ctx, gneiss, "A")
		require.ErrorIs(t, err, app.ErrNotFound, name)
	}
}

// What is frozen stays byte for byte, and the hash is that of its files.
func TestAPublishedGuideNeverChanges(t *testing.T) {
	t.Parallel()
	p := opened(t)
	g := p.publish(t, app.Range{})
	files := func() map[string]string {
		list, err := p.PublishedFiles(t.Context(), g.ID)
		require.NoError(t, err)
		assert.Equal(t, g.Hash, frozen.Hash(list))
		got := map[string]string{}
		for _, f := range list {
			raw, err := p.FrozenFile(t.Context(), g.ID, f.Path)
			require.NoError(t, err)
			assert.Equal(t, f.Sum, frozen.Sum(raw), f.Path)
			got[f.Path] = string(raw)
		}
		return got
	}
	before := files()
	for _, path := range []string{frozen.AboutPath, frozen.ModelPath, frozen.RulesPath, frozen.WordsPath,
		frozen.StylePath,
		"builds/plain/owner-us.html", "builds/plain/owner-si.html", "builds/plain/dealer-us.html",
		"builds/plain/said-owner.json",
		"builds/plain/do-sanitize-us.html", "builds/plain/do-sanitize-si.html", "builds/plain/home-us.json",
		"builds/plain/card.html"} {
		assert.Contains(t, before, path)
	}
	assert.Contains(t, before["builds/plain/owner-us.html"], "43.0\u00a0gal (163\u00a0L)")
	assert.Contains(t, before["builds/plain/owner-si.html"], "163\u00a0L (43.0\u00a0gal)")
	for path, text := range before {
		if frozen.Public(path) {
			assert.NotContains(t, text, "Imre", path)
			assert.NotContains(t, text, "/models/", path)
		}
	}
	p.change(t, func(m *plumbing.Model) {
		m.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("40 gal")
	})
	require.NoError(t, (&app.Rules{Store: p.Store}).Set(t.Context(), imre, "", []app.RuleChange{{Rule: "target",
		Value: "60 mg/L"}}, ""))
	next := p.publish(t, app.Range{})
	assert.Equal(t, "B", next.Letter)
	assert.NotEqual(t, g.Hash, next.Hash)
	assert.Equal(t, before, files())
	old, err := p.PublishedGuide(t.Context(), gneiss, "A")
	require.NoError(t, err)
	assert.Equal(t, app.Superseded, old.State)
}

// What no longer holds is known; one action takes it over into the draft; a new guide leaves nothing open.
func TestAPublishedGuideIsKeptTrue(t *testing.T) {
	t.Parallel()
	p := opened(t)
	ctx := t.Context()
	g := p.publish(t, app.Range{})
	assert.Zero(t, p.check(t, g).Broken)
	p.change(t, func(m *plumbing.Model) {
		m.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("50 gal")
	})
	row := p.check(t, g)
	assert.Positive(t, row.Broken)
	assert.Positive(t, row.Dangers)
	list := row.List()
	require.NotEmpty(t, list)
	assert.Equal(t, "plain", list[0].Build)
	u, err := p.keeping.Update(ctx, p.edits, gneiss, imre)
	require.NoError(t, err)
	assert.Equal(t, row.Broken, u.Lines)
	all, _, err := p.keeping.List(ctx)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Zero(t, all[0].Outstanding(), "the draft has taken all of it over")
	assert.Equal(t, row.Broken, all[0].Standing.Broken, "what readers have still says it")
	p.change(t, func(m *plumbing.Model) { m.Part("kitchen").Name = "Galley" })
	p.check(t, g)
	all, _, err = p.keeping.List(ctx)
	require.NoError(t, err)
	assert.Positive(t, all[0].Outstanding(), "something else changed since")
	next := p.publish(t, app.Range{})
	assert.Zero(t, p.check(t, next).Broken)
	all, _, err = p.keeping.List(ctx)
	require.NoError(t, err)
	require.Len(t, all, 1, "the one before is superseded")
	assert.Equal(t, "B", all[0].Letter)
	assert.True(t, all[0].Fresh, "it was just held against how things are")
}

// A model that can't be made any more leaves a published guide of which that is told, and the look at it ends.
func TestAGuideOfWhichNothingCanBeWorkedOut(t *testing.T) {
	t.Parallel()
	p := opened(t)
	g := p.publish(t, app.Range{})
	_, err := p.keeping.Check(t.Context(), g)
	require.NoError(t, err)
	assert.Nil(t, (*app.StandingRow)(nil).List())
	assert.NotNil(t, (*app.StandingRow)(nil).Open(), "of what was never looked at nothing is taken over")
	p.change(t, func(m *plumbing.Model) { m.Part("fresh").Data.Capacity = plumbing.Part{}.Data.Capacity })
	_, job, err := p.keeping.List(t.Context())
	require.NoError(t, err)
	require.True(t, job.Wait(t.Context(), 3*time.Minute))
	require.NoError(t, job.Err())
	all, job, err := p.keeping.List(t.Context())
	require.NoError(t, err)
	assert.Nil(t, job, "it is not looked at for ever")
	require.Len(t, all, 1)
	assert.Positive(t, all[0].Standing.Broken)
}

// A figure that a hand set and that became a danger is let go when the draft is brought up to date.
func TestUpdatingLetsGoWhatNoLongerHolds(t *testing.T) {
	t.Parallel()
	p := opened(t)
	p.change(t, func(m *plumbing.Model) {
		m.Chapter = &plumbing.Written{Figures: map[string]plumbing.Override{
			"antifreeze/drained/total": {Value: "9 gal", Reason: "asked for", By: "Imre Valk"}},
			Words: map[string]string{"have.part no-such-part": "A sentence of nothing."}}
	})
	p.publish(t, app.Range{})
	u, err := p.keeping.Update(t.Context(), p.edits, gneiss, imre)
	require.NoError(t, err)
	assert.Equal(t, []string{"have.part no-such-part"}, u.Sentences)
	require.NotNil(t, u.Done)
	_, rev, err := p.Current(t.Context(), gneiss)
	require.NoError(t, err)
	m, err := rev.Read()
	require.NoError(t, err)
	if m.Chapter != nil {
		assert.Empty(t, m.Chapter.Words)
	}
}

func TestLetters(t *testing.T) {
	t.Parallel()
	for n, want := range map[int]string{0: "A", 1: "B", 25: "Z", 26: "AA", 27: "AB", 51: "AZ", 52: "BA", 701: "ZZ",
		702: "AAA"} {
		assert.Equal(t, want, app.Letter(n))
	}
}

// A serial number finds the guide of its range, the newest first, and the builds that the unit can be.
func TestASerialNumberFindsTheBuild(t *testing.T) {
	t.Parallel()
	about := `{"builds":[{"name":"plain"},
		{"name":"winter","options":[{"id":"winter","from_serial":"A20-500"}]},
		{"name":"moved","options":[{"id":"moved","standard":true,"from_serial":"A20-700"}]},
		{"name":"winter.moved","options":[{"id":"winter","from_serial":"A20-500"},{"id":"moved","standard":true,"from_serial":"A20-700"}]}]}`
	list := []app.PublishedGuide{
		{Letter: "C", State: app.Published, About: about},
		{Letter: "W", State: app.Withdrawn, FromSerial: "W20-1", ToSerial: "W20-99", About: about},
		{Letter: "B", State: app.Published, FromSerial: "A20-600", About: about},
		{Letter: "A", State: app.Published, FromSerial: "A20-1", ToSerial: "A20-9999", About: about},
		{Letter: "X", State: app.Withdrawn, FromSerial: "A20-1", ToSerial: "A20-9999", About: about},
	}
	for number, want := range map[string]struct {
		letter string
		builds []string
	}{
		"A20-10":  {"A", []string{"plain"}},
		"a20-550": {"A", []string{"plain", "winter"}},
		"A20-650": {"B", []string{"plain", "winter"}},
		"A20-800": {"B", []string{"moved", "winter.moved"}},
		"B20-800": {"", nil},
		"W20-5":   {"", nil}, // what was withdrawn is not found
		"":        {"", nil},
	} {
		g, builds := app.ForSerial(list, number)
		if want.letter == "" {
			assert.Nil(t, g, number)
			continue
		}
		require.NotNil(t, g, number)
		assert.Equal(t, want.letter, g.Letter, number)
		var names []string
		for _, b := range builds {
			names = append(names, b.Name)
		}
		assert.Equal(t, want.builds, names, number)
	}
}

// What stands in the way of an approval: a reworded caution and a step of words alone until a reviewer settled a
// comment on
// them, a figure and positions by hand without a reason, an open finding that is an error.
func TestStops(t *testing.T) {
	t.Parallel()
	p := opened(t)
	kinds := func() map[app.StopKind]int {
		x, err := p.Present(t.Context(), gneiss)
		require.NoError(t, err)
		comments, err := p.Comments(t.Context(), x.Row.ID)
		require.NoError(t, err)
		list, err := p.Stops(t.Context(), x, comments)
		require.NoError(t, err)
		order := []app.StopKind{app.StopDanger, app.StopCaution, app.StopFinding, app.StopUnproven, app.StopEdited,
			app.StopReason,
			app.StopComment}
		assert.True(t, slices.IsSortedFunc(list, func(a, b app.Stop) int {
			return slices.Index(order, a.Kind) - slices.Index(order, b.Kind)
		}), "the gravest first")
		got := map[app.StopKind]int{}
		for _, s := range list {
			got[s.Kind]++
		}
		return got
	}
	assert.Empty(t, kinds())
	p.change(t, func(m *plumbing.Model) {
		m.Chapter = &plumbing.Written{Words: map[string]string{"caution.scald": "Mind the water."},
			Figures: map[string]plumbing.Override{"content": {Value: "1.3 gal", By: "Imre Valk"}}}
		m.Amended = []plumbing.Amended{{Procedure: "drain-down", Order: []string{"by-hand-1"},
			Added: map[string]plumbing.AddedStep{"by-hand-1": {Words: "Sing."}}}}
	})
	got := kinds()
	assert.Positive(t, got[app.StopCaution], "at each procedure that has it")
	assert.Equal(t, 1, got[app.StopReason])
	assert.Equal(t, 1, got[app.StopEdited])
	x, err := p.Present(t.Context(), gneiss)
	require.NoError(t, err)
	require.NoError(t, p.reviews.Comment(t.Context(), gneiss, odile, "reviewer", app.Comment{Block: "task-sanitize",
		Line: "caution.scald",
		Text: "Short, and right."}))
	assert.Equal(t, 1, kinds()[app.StopComment])
	for _, block := range []string{"have", "points"} {
		require.NoError(t, p.reviews.Comment(t.Context(), gneiss, odile, "reviewer", app.Comment{Block: block, Text: "Shorter."}))
	}
	assert.Equal(t, 3, kinds()[app.StopComment], "the same said of two blocks is two things to settle")
	list, err := p.Comments(t.Context(), x.Row.ID)
	require.NoError(t, err)
	for _, c := range list {
		require.NoError(t, p.reviews.Settle(t.Context(), gneiss, odile, "reviewer", c.ID, true))
	}
	got = kinds()
	assert.Zero(t, got[app.StopCaution], "a reviewer has looked at it")
	assert.Zero(t, got[app.StopComment])
	p.change(t, func(m *plumbing.Model) {
		m.Lines = slices.Clone(m.Lines)
		m.Line("trunk-1").Length = plumbing.Line{}.Length
	})
	assert.Positive(t, kinds()[app.StopFinding])
}
