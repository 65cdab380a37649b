package golden_test

import (
	"bytes"
	"fmt"
	"maps"
	"math/rand/v2"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/finding"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/report"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/golden"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

// The order of parts, lines and options in the file changes nothing.
func TestOrderInTheFileChangesNothing(t *testing.T) {
	all := builds(t)
	for _, name := range sample.Of(t, 5, slices.Sorted(maps.Keys(all))) {
		build := all[name]
		want, err := golden.Told(t.Context(), build)
		require.NoError(t, err)
		for _, seed := range sample.Seeds(t, 1, 3) {
			rng := rand.New(rand.NewPCG(seed, 64))
			rng.Shuffle(len(build.Parts), func(i, j int) {
				build.Parts[i], build.Parts[j] = build.Parts[j], build.Parts[i]
			})
			rng.Shuffle(len(build.Lines), func(i, j int) {
				build.Lines[i], build.Lines[j] = build.Lines[j], build.Lines[i]
			})
			got, err := golden.Told(t.Context(), build)
			require.NoError(t, err)
			require.Equal(t, want, got, name)
		}
	}
}

// copyOf makes a copy of a model that shares nothing with it.
func copyOf(t *testing.T, m *plumbing.Model) *plumbing.Model {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, plumbing.Write(&b, m))
	c, err := plumbing.Read(&b)
	require.NoError(t, err)
	return c
}

// renamed gives every part and line another id. Those of ids that keep their
// order keep the order of ties, too.
func renamed(t *testing.T, m *plumbing.Model, id func(string) string) *plumbing.Model {
	c := copyOf(t, m)
	ref := func(r string) string {
		part, port := plumbing.PartOf(r)
		return id(part) + "." + port
	}
	for i := range c.Parts {
		p := &c.Parts[i]
		p.ID = id(p.ID)
		if p.Data.Serves != "" {
			p.Data.Serves = id(p.Data.Serves)
		}
		if p.On != "" {
			p.On = ref(p.On)
		}
		p.Ends, p.Controls = slices.Clone(p.Ends), slices.Clone(p.Controls)
		for k := range p.Ends {
			p.Ends[k] = ref(p.Ends[k])
		}
		for k := range p.Controls {
			p.Controls[k].Part = id(p.Controls[k].Part)
		}
		if p.Data.Waste != "" {
			p.Data.Waste = id(p.Data.Waste)
		}
		for k := range p.Selector {
			sets := map[string]string{}
			for v, pos := range p.Selector[k].Sets {
				sets[id(v)] = pos
			}
			p.Selector[k].Sets = sets
		}
	}
	for i := range c.Lines {
		l := &c.Lines[i]
		l.ID, l.From, l.To = id(l.ID), ref(l.From), ref(l.To)
	}
	for i := range c.Consumables {
		if x := &c.Consumables[i]; x.Part != "" {
			x.Part = id(x.Part)
		}
	}
	c.Drawing = nil
	return copyOf(t, c)
}

func planOf(t *testing.T, m *plumbing.Model) (*plumbing.Network, []setting.Answer) {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	return n, rig.Plan(t, n)
}

// turned counts the handles that an answer turns away from everyday, or from how
// they normally stand where everyday use has no setting.
func turned(n *plumbing.Network, plan []setting.Answer, a *setting.Answer) int {
	if !a.Has() {
		return -1
	}
	base := state.Normal(n)
	if e := setting.ForMode(plan, setting.Everyday); e.OK {
		base = e.State
	}
	count := 0
	for i := range a.State.Handles {
		if a.State.Handles[i] != base.Handles[i] {
			count++
		}
	}
	return count
}

// Ids renamed: the same goals are met at the same cost, and where ids keep
// their order, with the same handles.
func TestOtherIdsGiveTheSameAnswers(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 81))
	all := builds(t)
	for _, name := range sample.Of(t, 8, slices.Sorted(maps.Keys(all))) {
		build := all[name]
		m, want := planOf(t, build)
		order := map[string]string{}
		other := func(id string) string {
			if order[id] == "" {
				order[id] = fmt.Sprintf("%04d-%s", rng.IntN(10000), strings.ReplaceAll(id, "-", ""))
			}
			return order[id]
		}
		n, got := planOf(t, renamed(t, build, other))
		for i := range want {
			w, g := &want[i], &got[i]
			require.Equal(t, w.OK, g.OK, "%s %s", name, w.Mode.ID)
			require.Equal(t, w.Mode.LeftOut.IsZero(), g.Mode.LeftOut.IsZero(), "%s %s", name, w.Mode.ID)
			if w.OK && !w.Mode.Drains && w.Mode.Base == "" {
				require.Equal(t, turned(m, want, w), turned(n, got, g), "%s %s: the same cost", name, w.Mode.ID)
			}
			if w.Has() && w.Mode.Drains {
				stays := func(n *plumbing.Network, s state.State) float64 {
					return float64(flow.Drain(n, s).Total())
				}
				require.InDelta(t, stays(m, w.State), stays(n, g.State), 0.01, "%s: as much stays", name)
			}
		}
		// With the same order of ids it is the same handles.
		same := func(id string) string { return "z" + id }
		n, got = planOf(t, renamed(t, build, same))
		for i := range want {
			if !want[i].Has() {
				continue
			}
			for h := range m.Handles {
				k := n.HandleOf("z" + m.Handles[h].Part.ID)
				require.Equal(t, want[i].State.Handles[h], got[i].State.Handles[k], "%s %s %s", name, want[i].Mode.ID,
					m.Handles[h].Part.ID)
			}
		}
	}
}

// inOtherUnits writes every quantity of a model in the other system of units;
// which the model shows first stays as it is.
func inOtherUnits(t *testing.T, m *plumbing.Model) *plumbing.Model {
	c := copyOf(t, m)
	for i := range c.Parts {
		swapUnits(reflect.ValueOf(&c.Parts[i].Data).Elem())
		swapUnits(reflect.ValueOf(&c.Parts[i].Place).Elem())
		for port, h := range c.Parts[i].Heights {
			c.Parts[i].Heights[port] = exact(h)
		}
	}
	for i := range c.Lines {
		swapUnits(reflect.ValueOf(&c.Lines[i]).Elem())
		for k := range c.Lines[i].Spots {
			swapUnits(reflect.ValueOf(&c.Lines[i].Spots[k]).Elem())
		}
	}
	return copyOf(t, c)
}

// exact writes a length or volume to nine digits in the other system.
func exact[U quantity.Unit](g quantity.Given[U]) quantity.Given[U] {
	var text string
	switch v := any(g.Value()).(type) {
	case quantity.Litre:
		text = fmt.Sprintf("%.9f gal", float64(v/quantity.USGallon))
	case quantity.Millimetre:
		text = fmt.Sprintf("%.9f in", float64(v)/25.4)
	case quantity.Metre:
		text = fmt.Sprintf("%.9f ft", float64(v)/0.3048)
	case quantity.Kilopascal:
		text = fmt.Sprintf("%.9f psi", float64(v)/6.894757)
	case quantity.LitrePerMinute:
		text = fmt.Sprintf("%.9f gal/min", float64(v)/3.785411784)
	default:
		return g
	}
	if strings.Contains(g.String(), "gal") || strings.Contains(g.String(), "in") ||
		strings.Contains(g.String(), "ft") || strings.Contains(g.String(), "psi") {
		switch v := any(g.Value()).(type) {
		case quantity.Litre:
			text = fmt.Sprintf("%.9f L", float64(v))
		case quantity.Millimetre:
			text = fmt.Sprintf("%.9f mm", float64(v))
		case quantity.Metre:
			text = fmt.Sprintf("%.9f m", float64(v))
		case quantity.Kilopascal:
			text = fmt.Sprintf("%.9f kPa", float64(v))
		case quantity.LitrePerMinute:
			text = fmt.Sprintf("%.9f L/min", float64(v))
		}
	}
	other, err := quantity.Read[U](text)
	if err != nil {
		panic(err)
	}
	return other
}

func swapUnits(v reflect.Value) {
	for i := range v.NumField() {
		switch g := v.Field(i).Addr().Interface().(type) {
		case *quantity.Given[quantity.Litre]:
			swap(g)
		case *quantity.Given[quantity.Millimetre]:
			swap(g)
		case *quantity.Given[quantity.Metre]:
			swap(g)
		case *quantity.Given[quantity.Kilopascal]:
			swap(g)
		case *quantity.Given[quantity.LitrePerMinute]:
			swap(g)
		}
	}
}

func swap[U quantity.Unit](g *quantity.Given[U]) {
	if !g.IsZero() {
		*g = exact(*g)
	}
}

// Units of the file changed: the same findings but for what they quote, the
// same settings, and every amount within rounding.
func TestOtherUnitsGiveTheSameAnswers(t *testing.T) {
	all := builds(t)
	for _, name := range sample.Of(t, 8, slices.Sorted(maps.Keys(all))) {
		build := all[name]
		other := inOtherUnits(t, build)
		n, want := planOf(t, build)
		m, got := planOf(t, other)
		for i := range want {
			require.Equal(t, want[i].OK, got[i].OK, "%s %s", name, want[i].Mode.ID)
			require.Equal(t, want[i].State.Handles, got[i].State.Handles, "%s %s", name, want[i].Mode.ID)
			require.Equal(t, want[i].Either, got[i].Either, "%s %s", name, want[i].Mode.ID)
		}
		codes := func(list []finding.Finding) (out []string) {
			for _, f := range list {
				// Two figures in brackets are one after rewriting.
				if f.Code != "pair-disagrees" {
					out = append(out, fmt.Sprint(f.Code, f.Parts))
				}
			}
			return out
		}
		assert.Equal(t, codes(finding.Find(n, want)), codes(finding.Find(m, got)), name)
		rules := house.Usual(build.System())
		a, b := report.New(n, want, rules, report.Ask{}), report.New(m, got, rules, report.Ask{})
		near := func(x, y float64, what string) {
			t.Helper()
			require.InEpsilon(t, 1+x, 1+y, 1e-6, "%s: %s", name, what)
		}
		near(float64(a.Content.Total), float64(b.Content.Total), "content")
		near(float64(a.Dose.Exact), float64(b.Dose.Exact), "dose")
		near(a.Flush.Share, b.Flush.Share, "what a refill leaves")
		require.Len(t, b.Antifreeze, len(a.Antifreeze))
		for i := range a.Antifreeze {
			near(float64(a.Antifreeze[i].Total), float64(b.Antifreeze[i].Total), a.Antifreeze[i].State.ID())
		}
		require.Len(t, b.Times, len(a.Times))
		for i := range a.Times {
			near(float64(a.Times[i].Takes), float64(b.Times[i].Takes), a.Times[i].ID)
		}
		for i := range a.Winter {
			if w := a.Winter[i].Weakest; w != nil {
				require.Equal(t, w.ID, b.Winter[i].Weakest.ID, name)
				near(w.Share, b.Winter[i].Weakest.Share, "weakest point")
			}
		}
	}
}

// Whichever part comes first, the same is said: what is counted from 0 is no
// less there for being the first.
func TestNoPlaceIsLostByBeingTheFirst(t *testing.T) {
	for _, name := range []string{"check-head", "heater-one-valve", "sealed-filter", "no-bypass"} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			m, err := rig.Model(name)
			require.NoError(t, err)
			want := said(t, m)
			var ids []string
			for i := range m.Parts {
				ids = append(ids, m.Parts[i].ID)
			}
			for _, first := range sample.Of(t, 4, ids) {
				again := renamed(t, m, func(id string) string {
					if id == first {
						return "0-" + id
					}
					return id
				})
				assert.Equal(t, want, said(t, again), first)
			}
		})
	}
}

// said is all that is said of a build, its rows in order of the alphabet and
// its parts by the names they had. Steps lose their numbers and faults told
// together their order; which outlet is open in a picture is left out, and of procedures all but which
// there are and what is found in them: they take outlets that are equally far by their ids.
func said(t *testing.T, m *plumbing.Model) []string {
	t.Helper()
	text, err := golden.Told(t.Context(), m)
	require.NoError(t, err)
	var rows []string
	steps := false
	breach := regexp.MustCompile(`^\d+ (danger|wrong|note) `)
	for _, row := range strings.Split(strings.ReplaceAll(text, "0-", ""), "\n") {
		if strings.HasPrefix(row, "== ") {
			steps = strings.HasPrefix(row, "== procedure:")
		}
		if strings.HasSuffix(row, "L/min") || steps && !strings.HasPrefix(row, "== ") && !breach.MatchString(row) {
			continue
		}
		gravity, faults, _ := strings.Cut(strings.TrimLeft(row, "0123456789 "), "] ")
		list := strings.Split(faults, " / ")
		slices.Sort(list)
		rows = append(rows, gravity+strings.Join(list, " / "))
	}
	slices.Sort(rows)
	return rows
}
