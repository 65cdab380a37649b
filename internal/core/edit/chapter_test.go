package edit_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/rig/told"
)

func refuses(t *testing.T, err error, says string) {
	t.Helper()
	assert.ErrorContains(t, err, says)
}

func xs(n int) string { return strings.Repeat("x", n) }

func TestBlocksAreMoved(t *testing.T) {
	t.Parallel()
	m := model(t, "gneiss-24-2027")
	c := edit.Chapter{Blocks: []string{"a", "b", "c", "d"}}
	for _, x := range []struct{ id, before, order, said string }{
		{"a", "c", "b a c d", ""}, {"a", "", "b c d a", ""}, {"d", "a", "d a b c", ""}, {"c", "b", "a c b d", ""},
	} {
		done, err := c.Move(m, x.id, x.before)
		require.NoError(t, err)
		assert.Equal(t, x.order, strings.Join(done.Model.Chapter.Order, " "), "%s before %s", x.id, x.before)
		assert.NotZero(t, done.Said)
	}
	for _, still := range [][2]string{{"b", "c"}, {"d", ""}} {
		done, err := c.Move(m, still[0], still[1])
		require.NoError(t, err)
		assert.Same(t, m, done.Model, "%s stands before %q already", still[0], still[1])
		assert.Zero(t, done.Said)
	}
	_, err := c.Move(m, "z", "a")
	refuses(t, err, "no longer there")
	_, err = c.Move(m, "a", "z")
	refuses(t, err, "no longer there")
	assert.Nil(t, m.Chapter, "the model it started from stays")
}

func TestBlocksAreLeftOutOfEditions(t *testing.T) {
	t.Parallel()
	m := model(t, "gneiss-24-2027")
	c := edit.Chapter{Blocks: []string{"a", "b"}}
	hidden := must(c.Hide(m, "b", "owner", true)).Model
	hidden = must(c.Hide(hidden, "a", "owner", true)).Model
	assert.Equal(t, map[string][]string{"owner": {"b", "a"}}, hidden.Chapter.Hidden)
	twice := must(c.Hide(hidden, "b", "owner", true)).Model
	assert.Equal(t, []string{"a", "b"}, twice.Chapter.Hidden["owner"], "once, however often")
	back := must(c.Hide(hidden, "b", "owner", false)).Model
	assert.Equal(t, map[string][]string{"owner": {"a"}}, back.Chapter.Hidden)
	assert.Nil(t, must(c.Hide(back, "a", "owner", false)).Model.Chapter, "nothing of a hand is left")
	_, err := c.Hide(m, "z", "owner", true)
	refuses(t, err, "no longer there")
}

// must is an edit that must go.
func must(done *edit.Done, err error) *edit.Done {
	if err != nil {
		panic(err)
	}
	return done
}

func TestTextsOfAHandAreWritten(t *testing.T) {
	t.Parallel()
	m := model(t, "gneiss-24-2027")
	c := edit.Chapter{Blocks: []string{"a", "b"}}
	_, err := c.Write(m, "", "", plumbing.Prose{Title: " ", Text: "\n"})
	refuses(t, err, "write something")
	_, err = c.Write(m, "", "", plumbing.Prose{Text: xs(20_001)})
	refuses(t, err, "at most 20 000 characters")
	_, err = c.Write(m, "", "", plumbing.Prose{Title: xs(201), Text: "x"})
	refuses(t, err, "at most 200 characters")
	_, err = c.Write(m, "z", "", plumbing.Prose{Text: "x"})
	refuses(t, err, "no longer there")
	one := must(c.Write(m, "a", "", plumbing.Prose{Title: xs(200), Text: " " + xs(20_000)})).Model
	assert.Equal(t, []string{"a", "text-1", "b"}, one.Chapter.Order)
	assert.Equal(t, plumbing.Prose{Title: xs(200), Text: xs(20_000)}, one.Chapter.Prose["text-1"])
	c.Blocks = one.Chapter.Order
	two := must(c.Write(one, "", "", plumbing.Prose{Text: "At the head."})).Model
	assert.Equal(t, []string{"text-2", "a", "text-1", "b"}, two.Chapter.Order)

	c.Blocks = two.Chapter.Order
	again := must(c.Write(two, "", "text-2", plumbing.Prose{Text: "Another."})).Model
	assert.Equal(t, "Another.", again.Chapter.Prose["text-2"].Text)
	assert.Equal(t, two.Chapter.Order, again.Chapter.Order)
	gone := must(c.Write(again, "", "text-2", plumbing.Prose{})).Model
	assert.Equal(t, []string{"a", "text-1", "b"}, gone.Chapter.Order)
	assert.NotContains(t, gone.Chapter.Prose, "text-2")
	_, err = c.Write(two, "", "a", plumbing.Prose{Text: "x"})
	refuses(t, err, "nobody wrote this block")
	_, err = c.Write(m, "", "a", plumbing.Prose{Text: "x"})
	refuses(t, err, "nobody wrote this block")
	_, err = c.Write(two, "", "z", plumbing.Prose{Text: "x"})
	refuses(t, err, "no longer there")

	// What is taken over from another's text stands at the end of the same text, or in a new one at the end.
	end := must(edit.Chapter{Blocks: []string{"a", "b"}}.Append(m, "text-1", plumbing.Prose{Title: "T",
		Text: "One."})).Model
	assert.Equal(t, []string{"a", "b", "text-1"}, end.Chapter.Order)
	more := must(edit.Chapter{Blocks: end.Chapter.Order}.Append(end, "text-1", plumbing.Prose{Text: "Two."})).Model
	assert.Equal(t, plumbing.Prose{Title: "T", Text: "One.\n\nTwo."}, more.Chapter.Prose["text-1"])
	other := must(edit.Chapter{Blocks: end.Chapter.Order}.Append(end, "text-9", plumbing.Prose{Text: "Two."})).Model
	assert.Equal(t, []string{"a", "b", "text-1", "text-2"}, other.Chapter.Order)
}

func TestSentencesAndFiguresOfAHand(t *testing.T) {
	t.Parallel()
	m := model(t, "gneiss-24-2027")
	var c edit.Chapter
	_, err := c.Reword(m, "k", xs(1001))
	refuses(t, err, "at most 1 000 characters")
	said := must(c.Reword(m, "k", " Mind  the\nwater. ")).Model
	assert.Equal(t, map[string]string{"k": "Mind the water."}, said.Chapter.Words)
	assert.Same(t, said, must(c.Reword(said, "k", "Mind the water.")).Model, "it says so already")
	assert.Same(t, m, must(c.Reword(m, "k", "")).Model)
	assert.Nil(t, must(c.Reword(said, "k", "")).Model.Chapter)
	must(c.Reword(m, "k", xs(1000)))

	set := func(m *plumbing.Model, value, reason string) (*edit.Done, error) {
		return c.SetFigure(m, "content", plumbing.Override{Value: value, Reason: reason})
	}
	_, err = set(m, "3 L", " ")
	refuses(t, err, "say why")
	_, err = set(m, xs(61), "measured")
	refuses(t, err, "at most 60 characters")
	_, err = set(m, "3 L", xs(501))
	refuses(t, err, "at most 500 characters")
	by := must(set(m, xs(60), xs(500))).Model
	assert.Equal(t, xs(60), by.Chapter.Figures["content"].Value)
	assert.Nil(t, must(set(by, "", "")).Model.Chapter)
	assert.Same(t, m, must(set(m, "", "")).Model, "the computed one stands already")
	assert.Same(t, by, must(c.SetFigure(by, "other", plumbing.Override{})).Model)
}

func TestABlockHoldsForSomeUnits(t *testing.T) {
	t.Parallel()
	m := model(t, "ashlar-20-2026")
	require.GreaterOrEqual(t, len(m.Options), 2)
	a, b := m.Options[0].ID, m.Options[1].ID
	c := edit.Chapter{Blocks: []string{"x"}}
	only := func(to plumbing.Condition) error { _, err := c.Restrict(m, "x", to); return err }
	refuses(t, only(plumbing.Condition{With: []string{"gold"}}), "no option")
	refuses(t, only(plumbing.Condition{Without: []string{"gold"}}), "no option")
	refuses(t, only(plumbing.Condition{With: []string{b, a}, Without: []string{a}}), "no unit has")
	refuses(t, only(plumbing.Condition{FromSerial: xs(41)}), "at most 40 characters")
	refuses(t, only(plumbing.Condition{ToSerial: xs(41)}), "at most 40 characters")
	_, err := c.Restrict(m, "z", plumbing.Condition{With: []string{a}})
	refuses(t, err, "no longer there")
	held := must(c.Restrict(m, "x", plumbing.Condition{With: []string{a}, Without: []string{b}, FromSerial: " G-1 ",
		ToSerial: xs(40)})).Model
	assert.Equal(t, plumbing.Condition{With: []string{a}, Without: []string{b}, FromSerial: "G-1", ToSerial: xs(40)},
		held.Chapter.Only["x"])
	assert.Nil(t, must(c.Restrict(held, "x", plumbing.Condition{})).Model.Chapter)
}

// A finding is accepted once, whatever it said; what was accepted is opened again, and nothing else.
func TestFindingsAreAccepted(t *testing.T) {
	t.Parallel()
	m := model(t, "gneiss-24-2027")
	one := plumbing.Accepted{Code: "pocket", Parts: []string{"trunk-1"}, Reason: "it is drained by hand"}
	_, err := edit.Accept(m, plumbing.Accepted{Code: "pocket", Parts: []string{"trunk-1"}}, fact.Of("it", "x"))
	refuses(t, err, "say why it is accepted")
	had := len(m.Accepted)
	after := must(edit.Accept(m, one, fact.Of("it", "x"))).Model
	assert.Len(t, after.Accepted, had+1)
	one.Reason = "it is short"
	again := must(edit.Accept(after, one, fact.Of("it", "x"))).Model
	assert.Len(t, again.Accepted, had+1)
	assert.Equal(t, "it is short", again.Accepted[had].Reason)
	for _, other := range []plumbing.Accepted{{Code: "pocket", Parts: []string{"trunk-2"}}, {Code: "trap", Parts: one.Parts}} {
		assert.Same(t, again, must(edit.Reopen(again, other, fact.Of("it", "x"))).Model)
	}
	open := must(edit.Reopen(again, one, fact.Of("it", "x")))
	assert.Equal(t, text(t, m), text(t, open.Model))
	assert.NotEmpty(t, told.Fact(open.Said))
}

func TestSettingsAreKeptByHand(t *testing.T) {
	t.Parallel()
	m := model(t, "gneiss-24-2027")
	k := plumbing.Kept{Mode: "everyday", Handles: map[string]string{"valve-bypass": "closed"}, Reason: "as the house has it"}
	_, err := edit.Keep(m, plumbing.Kept{Mode: "everyday"}, fact.Of("it", "x"))
	refuses(t, err, "say why")
	kept := must(edit.Keep(m, k, fact.Of("it", "x"))).Model
	k.Reason = "as dealers know it"
	kept = must(edit.Keep(kept, k, fact.Of("it", "x"))).Model
	require.Len(t, kept.Kept, 1, "one for a mode")
	assert.Equal(t, "as dealers know it", kept.Kept[0].Reason)
	assert.Same(t, kept, must(edit.LetGo(kept, "city", fact.Of("it", "x"))).Model, "nothing was kept for it")
	free := must(edit.LetGo(kept, "everyday", fact.Of("it", "x")))
	assert.Equal(t, text(t, m), text(t, free.Model))
	assert.NotZero(t, free.Said)
}
