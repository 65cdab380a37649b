package guide_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/guide"
	"coldtap/internal/guide/doc"
	"coldtap/internal/rig"
	"coldtap/internal/rig/drafted"
	"coldtap/internal/sample"
)

func section(t *testing.T, d *doc.Document, id string) doc.Section {
	t.Helper()
	for _, s := range d.Sections {
		if s.ID == id {
			return s
		}
	}
	require.Fail(t, "no section "+id)
	return doc.Section{}
}

// A text of a hand's own has figures, parts and positions in it that follow the model; what the model has not is
// marked.
func TestATextFollowsTheModel(t *testing.T) {
	m := drafted.Model(t, "gneiss-24-2027")
	in := drafted.Inputs(t, m)
	text := "The tank holds [[part/fresh]]; [[position:valve-bypass@heater-bypassed]] at the [[part:valve-bypass]]. " +
		"Of [[no/such]] nothing, of [[position:valve-bypass@nowhere]] nothing."
	p := guide.Prose(in, text)
	assert.Contains(t, p.Markdown, "The tank holds 43.0\u00a0gal (163\u00a0L); open: lever upright, along the pipe at "+
		"the Bypass valve.")
	assert.Equal(t, []string{"no/such", "position:valve-bypass@nowhere"}, p.Lost)
	assert.Contains(t, p.HTML, `<span class="live" data-ref="part/fresh">43.0`)
	assert.Contains(t, p.HTML, `<span class="live lost" data-ref="no/such">`)

	m.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("40 gal")
	assert.Contains(t, guide.Prose(drafted.Inputs(t, m), text).Markdown, "holds 40.0\u00a0gal")
	nasty := guide.Prose(in, "<b onclick=x>[[part/fresh]]</b> \ue0000\ue001 [[<script>]]")
	assert.NotContains(t, nasty.HTML, "onclick")
	assert.NotContains(t, nasty.HTML, "<script")
	assert.Equal(t, 1, strings.Count(nasty.HTML, "43.0"))
}

// A reworded sentence keeps what it is about: a changed figure stands in it.
func TestARewordedSentenceFollowsTheModel(t *testing.T) {
	m := drafted.Model(t, "gneiss-24-2027")
	in := drafted.Inputs(t, m)
	d, err := guide.New(t.Context(), in, guide.Options{})
	require.NoError(t, err)
	first := section(t, d, "have").Nodes[0].(doc.List).Items[0]
	assert.Equal(t, "Fresh tank: 43.0\u00a0gal (163\u00a0L)", first.Text())
	m.Chapter = &plumbing.Written{Words: map[string]string{first.Key: "You carry {2:b} in {1:r}, [[weight]] in all"}}
	in = drafted.Inputs(t, m)
	d, err = guide.New(t.Context(), in, guide.Options{})
	require.NoError(t, err)
	own := section(t, d, "have").Nodes[0].(doc.List).Items[0]
	assert.Equal(t, "You carry 43.0\u00a0gal (163\u00a0L) in the fresh tank, 452\u00a0lb (205\u00a0kg) in all", own.Text())
	assert.True(t, own.Own)
	assert.Equal(t, first.Key, own.Key)
	m.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("40 gal")
	d, err = guide.New(t.Context(), drafted.Inputs(t, m), guide.Options{})
	require.NoError(t, err)
	assert.Contains(t, section(t, d, "have").Nodes[0].(doc.List).Items[0].Text(), "You carry 40.0\u00a0gal")
}

// Every sentence of a guide that has a key is found by it, so that it can be reworded.
func TestSentencesAreFoundByTheirKeys(t *testing.T) {
	in := drafted.Inputs(t, drafted.Model(t, "schist-31-2027"))
	d, err := guide.New(t.Context(), in, guide.Options{})
	require.NoError(t, err)
	list, err := chapter.Draft(t.Context(), in)
	require.NoError(t, err)
	keys := map[string]bool{}
	for _, b := range list {
		chapter.Each(b.Body, func(f fact.Fact) { keys[chapter.Key(f)] = true })
	}
	seen := 0
	for _, l := range lines(d) {
		if l.Key != "" && !strings.HasPrefix(l.Key, "guide.") && !strings.HasPrefix(l.Key, "stuff.tool") {
			seen++
			assert.True(t, keys[l.Key], l.Key)
		}
	}
	assert.Greater(t, seen, 50)
}

// lines are all lines of a document that stand in lists and tables.
func lines(d *doc.Document) (all []doc.Line) {
	for _, s := range d.Sections {
		for _, n := range s.Nodes {
			switch n := n.(type) {
			case doc.List:
				all = append(all, n.Items...)
			case doc.Table:
				for _, r := range n.Rows {
					for _, c := range r.Cells {
						all = append(append(all, c.Lines...), c.Items...)
					}
				}
			}
		}
	}
	return all
}

// A figure that a hand set is told in the place of the computed one, unless it would be a danger.
func TestAFigureByHandIsNoDanger(t *testing.T) {
	in := drafted.Inputs(t, drafted.Model(t, "gneiss-24-2027"))
	for _, c := range []struct {
		id, value string
		danger    string // message of the danger; "" for none, "unread" for what is no such figure
	}{
		{"dose/fresh/measured", "11 tbsp", ""},
		{"dose/fresh/measured", "12 tbsp", ""},
		{"dose/fresh/measured", "3 cups", "danger.strong"}, // 4.4 times the dose: 229 mg/L
		{"dose/fresh/measured", "5 tbsp", "danger.weak"},
		{"dose/fresh/measured", "a few", "unread"},
		{"antifreeze/antifreeze/drained", "2 gal", ""},
		{"antifreeze/antifreeze/drained", "1 gal", "danger.frost"},
		{"flush/drained/refills", "2", ""},
		{"flush/drained/refills", "0", "danger.drinking"},
		{"time/cool-heater", "2 h", "danger.hot"},
		{"air", "60 psi", "danger.pressure"},
		{"air", "30 psi", ""},
		{"weight/left", "1500 lb", "danger.load"},
		{"keep-fresh", "1 cup", "danger.drinking"},
		{"soak", "6 h to 12 h", ""},
		{"no/such", "1 gal", "unread"},
	} {
		err := in.Judge(c.id, c.value)
		var danger *chapter.DangerError
		switch {
		case c.danger == "":
			assert.NoError(t, err, "%s %s", c.id, c.value)
		case c.danger == "unread":
			assert.ErrorAs(t, err, new(*chapter.UnreadError), "%s %s", c.id, c.value)
		case assert.ErrorAs(t, err, &danger, "%s %s", c.id, c.value):
			assert.Equal(t, c.danger, danger.Said.ID, "%s %s", c.id, c.value)
		}
	}
	table := func(value string) string {
		m := drafted.Model(t, "gneiss-24-2027")
		m.Chapter = &plumbing.Written{Figures: map[string]plumbing.Override{
			"dose/fresh/measured": {Value: value, Reason: "a measuring cup comes with it", By: "Imre Valk"}}}
		d, err := guide.New(t.Context(), drafted.Inputs(t, m), guide.Options{})
		require.NoError(t, err)
		for _, r := range section(t, d, "figures").Nodes[0].(doc.Table).Rows {
			if r.Cells[1].Lines[0].Spans[0].Ref == "dose/fresh/measured" {
				return r.Cells[1].Lines[0].Text()
			}
		}
		return ""
	}
	assert.Equal(t, "12 tbsp", table("12 tbsp"))

	// Refills by hand are told too, marked, with what the run has beside them; fewer than it takes where the worksheet
	// does not count all that mixes are a danger.
	by := &plumbing.Written{Figures: map[string]plumbing.Override{"flush/lines-pushed/refills": {Value: "5",
		Reason: "to be sure", By: "Imre Valk"}}}
	mixes, err := rig.Model("no-bypass")
	require.NoError(t, err)
	run := drafted.Whole(t, mixes, mixes.StandardOptions())
	run.By = by
	d, err := guide.New(t.Context(), run, guide.Options{})
	require.NoError(t, err)
	figures := plainSection(section(t, d, "figures"))
	assert.Contains(t, figures, "| 5 | set by hand: to be sure; the model gives 4 |")
	assert.NotContains(t, figures, "Imre Valk")
	assert.NoError(t, run.Judge("flush/lines-pushed/refills", "4"))
	assert.ErrorAs(t, run.Judge("flush/lines-pushed/refills", "1"), new(*chapter.DangerError))
	assert.Equal(t, "11\u00a0tbsp", table("3 cups"), "what became a danger is not told")
}

// No guide says of a camper what it has not: words for parts against its parts.
func TestTextAgainstParts(t *testing.T) {
	has := func(n *plumbing.Network, roles ...plumbing.Role) bool { return len(n.PartsOf(roles...)) > 0 }
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range sample.Of(t, 2, models) {
		in := drafted.Whole(t, m, m.StandardOptions())
		for _, e := range chapter.Editions() {
			in.Edition = e
			d, err := guide.New(t.Context(), in, guide.Options{})
			require.NoError(t, err)
			text := strings.ToLower(plain(d))
			hot := false
			for _, p := range in.Net.PartsOf(plumbing.RoleOutlet) {
				for _, s := range in.Net.SidesOf(p) {
					hot = hot || s == "hot"
				}
			}
			for words, is := range map[string]bool{
				`hot tap`: hot, `city water`: setting.ForMode(in.Plan, setting.City).Has(), `anode`: strings.Contains(names(in.Net), "anode"),
				`grey tank|black tank`:      has(in.Net, plumbing.RoleWaste),
				`ice maker|washing machine`: has(in.Net, plumbing.RoleMachine),
				`strainer`:                  has(in.Net, plumbing.RoleStrainer), `heater`: has(in.Net, plumbing.RoleHeater),
			} {
				found := regexp.MustCompile(words).FindString(text)
				if !is {
					assert.Empty(t, found, "%s %s says %q", m.ID, e, around(text, found))
				}
			}
			for _, p := range in.Net.PartsOf(plumbing.RoleTank, plumbing.RoleHeater, plumbing.RoleOutlet, plumbing.RoleInlet,
				plumbing.RoleDrain, plumbing.RoleFill, plumbing.RoleFilter, plumbing.RoleWaste, plumbing.RoleMachine) {
				assert.Contains(t, text, strings.ToLower(p.Name), "%s %s says nothing of it", m.ID, e)
			}
		}
	}
}

func names(n *plumbing.Network) string {
	var all []string
	for _, p := range n.AllParts() {
		all = append(all, strings.ToLower(p.Name))
	}
	return strings.Join(all, "\n")
}

func around(text, found string) string {
	i := strings.Index(text, found)
	return text[max(0, i-60):min(len(text), i+60)]
}
