package standing_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/report"
	"coldtap/internal/guide"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/said"
	"coldtap/internal/guide/standing"
	"coldtap/internal/rig/drafted"
	"coldtap/internal/sample"
)

// now is a build of a model as it is, by some rules and with some photographs.
func now(t testing.TB, m *plumbing.Model, e chapter.Edition, rules map[string]string,
	photos []chapter.Photo) standing.Now {
	t.Helper()
	in := drafted.Inputs(t, m)
	var err error
	in.House, err = in.House.With("the house", rules)
	require.NoError(t, err)
	r := report.New(in.Net, in.Plan, in.House, report.Ask{})
	in.Report, in.Edition, in.Photos = &r, e, photos
	photo := func(_ context.Context, id string) (*doc.Photo, error) {
		return &doc.Photo{Name: "photo-" + id + ".jpg", Address: "photo/" + id}, nil
	}
	return standing.Now{In: in, Program: "test", Options: guide.Options{With: m.StandardOptions(), Photo: photo}}
}

func whole(t testing.TB, n standing.Now) *said.Guide {
	t.Helper()
	g, err := n.Said(t.Context())
	require.NoError(t, err)
	raw, err := json.Marshal(g)
	require.NoError(t, err)
	var back said.Guide // as it is kept
	require.NoError(t, json.Unmarshal(raw, &back))
	return &back
}

// told are differences as lines that can be compared.
func told(list []said.Difference) (all []string) {
	for _, d := range list {
		text := func(l *said.Line) string {
			if l == nil {
				return "nothing"
			}
			return fmt.Sprintf("%s %q %s", l.Kind, l.Text, l.Drawn)
		}
		all = append(all, d.Block+": "+text(d.Was)+" -> "+text(d.Now))
	}
	slices.Sort(all)
	return all
}

func toldOf(s *standing.Standing) []string {
	var list []said.Difference
	for _, b := range s.List {
		list = append(list, b.Difference)
	}
	return told(list)
}

// exact holds what Check tells of a change against a comparison of the whole guide before and after.
func exact(t testing.TB, was *said.Guide, n standing.Now) *standing.Standing {
	t.Helper()
	s, err := held(t.Context(), was, n)
	require.NoError(t, err)
	after := whole(t, n)
	require.Equal(t, told(said.Blocks(was.Blocks, after.Blocks, nil)), toldOf(s))
	for i, c := range s.Changed {
		require.NotContains(t, s.Changed[:i], c, "what changed is told once")
	}
	again, err := held(t.Context(), after, n)
	require.NoError(t, err)
	require.Empty(t, again.List, "nothing differs from what is up to date")
	require.Empty(t, again.Changed)
	return s
}

func edited(t testing.TB, m *plumbing.Model, edit func(*plumbing.Model)) *plumbing.Model {
	t.Helper()
	var text strings.Builder
	require.NoError(t, plumbing.Write(&text, m))
	c, err := plumbing.Read(strings.NewReader(text.String()))
	require.NoError(t, err)
	edit(c)
	return c
}

// A changed tank, rule, place, name and photograph: the list has all that is no longer true, and nothing else.
func TestTheListIsExact(t *testing.T) {
	m := drafted.Model(t, "gneiss-24-2027").WithNumbers()
	photos := []chapter.Photo{{ID: "1", Caption: "Behind the panel", Width: 400, Height: 300,
		Marks: []chapter.Mark{{Part: m.Part("fresh"), X: .5, Y: .5}}}}
	for _, e := range sample.Of(t, 1, chapter.Editions()) {
		before := whole(t, now(t, m, e, nil, photos))
		for _, c := range sample.Of(t, 3, []struct {
			name   string
			edit   func(*plumbing.Model)
			rules  map[string]string
			photos []chapter.Photo
			blocks []string // that are among those that no longer hold
			not    []string // that still do
			danger bool
			either bool // a danger to dealers, who are told of ways that owners are not
		}{
			{name: "nothing", photos: photos},
			{name: "tank of 40 gal", photos: photos, either: e == chapter.Dealer, edit: func(m *plumbing.Model) {
				m.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("40 gal")
			}, blocks: []string{"have", "before", "figures", "task-sanitize"}, not: []string{"stuff", "points", "photos",
				"bypass"}},
			{name: "tank of 50 gal", photos: photos, danger: true, edit: func(m *plumbing.Model) {
				m.Part("fresh").Data.Capacity, _ = quantity.Read[quantity.Litre]("50 gal")
			}, blocks: []string{"have", "before", "figures", "task-sanitize"}, not: []string{"stuff", "points", "photos",
				"bypass"}},
			{name: "target", photos: photos, danger: true, rules: map[string]string{"target": "65 mg/L"},
				blocks: []string{"figures", "task-sanitize"}, not: []string{"have", "task-winterize-air-then", "points"}},
			{name: "anode", photos: photos, rules: map[string]string{"anode": "50 %"}, blocks: []string{"calendar"},
				not: []string{"figures", "task-sanitize", "have"}},
			{name: "moved drain", photos: photos, edit: func(m *plumbing.Model) {
				m.Part("drain-tank").Place.Reach = "behind the rear left wheel"
			}, blocks: []string{"where"}, not: []string{"figures", "have", "stuff"}},
			{name: "renamed part", photos: photos, edit: func(m *plumbing.Model) {
				m.Part("kitchen").Name = "Galley tap"
			}, blocks: []string{"have", "where", "task-sanitize"}, not: []string{"figures", "stuff"}},
			{name: "replaced photograph", photos: []chapter.Photo{{ID: "2", Caption: "Behind the panel", Width: 400,
				Height: 300,
				Marks:  photos[0].Marks}}, blocks: []string{"photos"}, not: []string{"have", "where", "figures"}},
		}) {
			t.Run(string(e)+"/"+c.name, func(t *testing.T) {
				to := m
				if c.edit != nil {
					to = edited(t, m, c.edit)
				}
				s := exact(t, before, now(t, to, e, c.rules, c.photos))
				for _, id := range c.blocks {
					assert.Contains(t, s.Blocks(), id)
				}
				for _, id := range c.not {
					require.NotNil(t, before.Block(id), id)
					assert.NotContains(t, s.Blocks(), id)
				}
				if !c.either {
					assert.Equal(t, c.danger, s.Dangers() > 0)
				}
				if c.blocks == nil {
					assert.Empty(t, s.List)
				}
				for _, b := range s.List {
					assert.NotEmpty(t, b.Because, "%s: something that it stands on changed", b.Block)
				}
			})
		}
	}
}

// Whatever changes, the list is what a comparison of everything gives.
func TestTheListIsExactWhateverChanges(t *testing.T) {
	for _, m := range sample.Of(t, 3, drafted.Campers(t)) {
		if m.ID == "basalt-28" || m.ID == "pumice-9" || strings.HasPrefix(m.ID, "schist") {
			continue // their procedures take seconds
		}
		m = m.WithNumbers()
		before := whole(t, now(t, m, chapter.Dealer, nil, nil))
		for _, seed := range sample.Seeds(t, 1, 2) {
			rnd := rand.New(rand.NewPCG(seed, uint64(len(m.Parts))))
			to, rules, what := changed(t, m, rnd)
			if to == nil {
				continue
			}
			t.Run(fmt.Sprintf("%s/%d %s", m.ID, seed, what), func(t *testing.T) {
				exact(t, before, now(t, to, chapter.Dealer, rules, nil))
			})
		}
	}
}

// changed makes one change of a model or a rule; nil where it leads to no model.
func changed(t testing.TB, m *plumbing.Model, rnd *rand.Rand) (to *plumbing.Model, rules map[string]string,
	what string) {
	if rnd.IntN(3) == 0 {
		list := house.Rules()
		r := list[rnd.IntN(len(list))]
		for _, text := range []string{"2", "20 %", "3 gal", "45 psi", "60 mg/L", "3 h", "yes", "no", "A word"} {
			if _, err := house.Usual(m.System()).With("the house", map[string]string{r.ID: text}); err == nil {
				return m, map[string]string{r.ID: text}, r.ID + " " + text
			}
		}
		return nil, nil, ""
	}
	var text strings.Builder
	require.NoError(t, plumbing.Write(&text, m))
	var raw map[string]any
	require.NoError(t, json.Unmarshal([]byte(text.String()), &raw))
	list := raw["parts"].([]any)
	if rnd.IntN(3) == 0 {
		list = raw["lines"].([]any)
	}
	thing := list[rnd.IntN(len(list))].(map[string]any)
	fields := thing
	if data, ok := thing["data"].(map[string]any); ok && rnd.IntN(2) == 0 {
		fields = data
	}
	if place, ok := thing["place"].(map[string]any); ok && rnd.IntN(4) == 0 {
		fields = place
	}
	var names []string
	for name, v := range fields {
		if _, ok := v.(string); ok && name != "id" && name != "from" && name != "to" && name != "kind" {
			names = append(names, name)
		}
	}
	if names == nil {
		return nil, nil, ""
	}
	slices.Sort(names)
	name := names[rnd.IntN(len(names))]
	was := fields[name].(string)
	var n float64
	var unit string
	if _, err := fmt.Sscanf(was, "%g %s", &n, &unit); err == nil {
		fields[name] = fmt.Sprintf("%g %s", n*(0.8+0.1*float64(rnd.IntN(5))), unit)
	} else {
		fields[name] = was + " x"
	}
	out, err := json.Marshal(raw)
	require.NoError(t, err)
	if to, err = plumbing.Read(strings.NewReader(string(out))); err != nil {
		return nil, nil, ""
	}
	return to, nil, fmt.Sprintf("%v %s", thing["id"], name)
}

// Procedures that were carried out on a model that is alike but for its name say the same of one that is.
func TestModelsAlikeShareTheirProcedures(t *testing.T) {
	m := drafted.Model(t, "gneiss-24-2027").WithNumbers()
	twin := edited(t, m, func(m *plumbing.Model) { m.ID, m.Name, m.Year = "gneiss-25-2028", "Gneiss 25", 2028 })
	was := whole(t, now(t, twin, chapter.Dealer, nil, nil))
	rules := map[string]string{"target": "65 mg/L"}
	alone, shared := now(t, twin, chapter.Dealer, rules, nil), now(t, twin, chapter.Dealer, rules, nil)
	shared.Carry = func(ctx context.Context, known map[string]chapter.Look) (*chapter.Carried, error) {
		return chapter.Carry(ctx, now(t, m, chapter.Dealer, rules, nil).In.Inputs, known)
	}
	one, err := held(t.Context(), was, alone)
	require.NoError(t, err)
	other, err := held(t.Context(), was, shared)
	require.NoError(t, err)
	require.NotEmpty(t, one.List)
	assert.Equal(t, toldOf(one), toldOf(other))
	assert.Equal(t, one.Dangers(), other.Dangers())
}

// held is what no longer holds of one edition.
func held(ctx context.Context, was *said.Guide, now standing.Now) (*standing.Standing, error) {
	list, err := standing.CheckAll(ctx, []*said.Guide{was}, []chapter.Edition{now.In.Edition}, now)
	if err != nil {
		return nil, err
	}
	return list[0], nil
}
