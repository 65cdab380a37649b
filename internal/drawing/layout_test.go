package drawing

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/core/words"
	"coldtap/internal/rig"
)

func TestPlacesAreNumberedOnceAndApart(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		l := NewLayout(m)
		seen := map[int]bool{}
		var marks []mark
		for _, p := range l.Places() {
			assert.False(t, seen[p.Number], m.ID)
			seen[p.Number] = true
			x, y := float64(p.Part.Place.Front.Value())*l.scale, float64(p.Part.Place.Left.Value())*l.scale
			marks = append(marks, mark{p, x, y, x, y})
		}
		h := (l.wide-l.above)*l.scale + 2*layoutMargin
		spread(marks, h)
		for i, a := range marks {
			assert.True(t, a.y >= markRadius && a.y <= h-markRadius, "%s: %d is cut off", m.ID, a.place.Number)
			for _, b := range marks[:i] {
				assert.Greater(t, math.Hypot(a.x-b.x, a.y-b.y), 2*markRadius, "%s: %d and %d overlap", m.ID,
					a.place.Number, b.place.Number)
			}
		}
		plan, side := l.Plan(""), l.Side("")
		for _, p := range l.Places() {
			want := fmt.Sprintf(`aria-label="%d %s"`, p.Number, esc(p.Part.Name))
			assert.Contains(t, plan, want)
			assert.Contains(t, side, want)
		}
	}
}

// A jumper hose is drawn from end to end while it is on; a part that sits on
// another is joined to it without a line of the model.
func TestHosesAndSeatsAreDrawn(t *testing.T) {
	n := rig.Network(t, "air-port")
	s, err := NewSchematic(t.Context(), n, nil)
	require.NoError(t, err)
	at := state.Normal(n)
	assert.NotContains(t, s.SVG(Show{State: at}), `class="hose"`)
	h := n.HandleOf("jumper")
	at = at.With(h, n.Handles[h].Index("joined"))
	assert.Equal(t, 1, strings.Count(s.SVG(Show{State: at}), `class="hose"`))

	n = rig.Network(t, "barrel")
	s, err = NewSchematic(t.Context(), n, nil)
	require.NoError(t, err)
	svg := s.SVG(Show{State: state.Normal(n)})
	assert.Equal(t, 2, strings.Count(svg, `class="line seat"`), "the hatch and the bung")
	assert.Contains(t, svg, "Floor bung sits on Fresh tank")
	assert.Equal(t, len(n.Model.Lines), strings.Count(svg, `data-line="`))
}

// A selector and what it sets carry the same letter, and nothing else does.
func TestHandlesAreTiedToWhatTheySet(t *testing.T) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	s := &Schematic{net: n}
	letters := map[string]string{}
	for i := range b.Parts {
		if letter, _ := s.tie(&b.Parts[i]); letter != "" {
			letters[b.Parts[i].ID] = letter
		}
	}
	for i := range b.Parts {
		for _, c := range b.Parts[i].Selector {
			for id := range c.Sets {
				assert.Equal(t, letters[b.Parts[i].ID], letters[id], id)
			}
		}
	}
	assert.Len(t, letters, 8, "three handles, five valves")
	assert.Equal(t, "A1", letterOf(26))
}

// A plate handle stands nearer to a valve that it drives than half a drawing away.
func TestAPlateHandleStandsNearWhatItDrives(t *testing.T) {
	m, err := demo.Model("schist-31-2027")
	require.NoError(t, err)
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	s, err := NewSchematic(t.Context(), n, nil)
	require.NoError(t, err)
	for _, x := range s.boxes {
		if x.part.Role() != plumbing.RoleSelector {
			continue
		}
		nearest := s.w + s.h
		for _, v := range s.boxes {
			for _, c := range x.part.Selector {
				if c.Sets[v.part.ID] != "" {
					away := max(v.at.X-x.at.X, x.at.X-v.at.X) + max(v.at.Y-x.at.Y, x.at.Y-v.at.Y)
					nearest = min(nearest, away)
				}
			}
		}
		assert.Less(t, nearest*cell, 250, x.part.Name)
	}
}

// What stands on a drawbar or at a transom is drawn outside the body, and the
// body keeps its measures.
func TestWhatStandsOutsideIsDrawnOutside(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	shell := func(l *Layout) (x, w float64) {
		_, after, _ := strings.Cut(l.Plan(""), `<rect class="shell" x="`)
		_, err := fmt.Sscanf(after, fmt.Sprintf(`%%f" y="%g" width="%%f"`, layoutMargin), &x, &w)
		require.NoError(t, err)
		return x, w
	}
	x, w := shell(NewLayout(m))
	assert.Equal(t, layoutMargin, x)
	m.Part("city").Place.Front = quantity.Of(quantity.Metre(-0.8), quantity.SI)
	l := NewLayout(m)
	outside, smaller := shell(l)
	assert.InDelta(t, layoutMargin+l.scale, outside, 0.1, "0.8 m of drawbar and 0.2 m of room")
	assert.Less(t, smaller, w)
	assert.InDelta(t, float64(m.Body.Length.Value())/1000*l.scale, smaller, 0.1)
	assert.InDelta(t, layoutMargin+0.2*l.scale, l.x(-0.8), 0.1)
	m.Part("city").Place.Front = quantity.Of(quantity.Metre(float64(m.Body.Length.Value())/1000+0.5), quantity.SI)
	l = NewLayout(m)
	behind, short := shell(l)
	assert.Equal(t, layoutMargin, behind)
	assert.Less(t, short, w)
}

func TestATrapsDipIsDrawnInTheSideView(t *testing.T) {
	for id, lines := range map[string][]string{"gneiss-24-2027": {"c-outside", "h-outside"},
		"ashlar-20-2027": {"port-hose"}} {
		m, err := demo.Model(id)
		require.NoError(t, err)
		l := NewLayout(m)
		same := func(v float64) float64 { return v }
		for _, name := range lines {
			line := m.Line(name)
			d := l.profile(line, same, same)
			require.Equal(t, 2, strings.Count(d, "L"), "%s runs through its low spot", name)
			var x0, y0, x1, y1, x2, y2 float64
			_, err := fmt.Sscanf(strings.NewReplacer("M", "", "L", " ").Replace(d), "%g %g %g %g %g %g", &x0, &y0, &x1,
				&y1, &x2, &y2)
			require.NoError(t, err)
			assert.Less(t, y1, min(y0, y2), "the spot lies below both ends")
		}
	}
}

func TestHandlesTellPositionsApart(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		for i := range m.Parts {
			p := &m.Parts[i]
			seen := map[string]string{}
			for _, pos := range p.Positions() {
				picture, words := Handle(p, pos), words.English(quantity.US).Position(p, pos)
				assert.NotContains(t, seen, words, "%s %s: two positions with the same words", m.ID, p.ID)
				seen[words] = picture
			}
			for a, x := range seen {
				for b, y := range seen {
					assert.True(t, a == b || body(x) != body(y), "%s %s: %q and %q look the same", m.ID, p.ID, a, b)
				}
			}
		}
	}
}

// body is a picture without its spoken name.
func body(svg string) string {
	_, rest, _ := strings.Cut(svg, ">")
	return rest
}

func TestPlainSymbolsTellOpenFromClosed(t *testing.T) {
	for _, k := range []plumbing.Kind{plumbing.Valve, plumbing.LowPoint, plumbing.Coupling, plumbing.ThreeWay,
		plumbing.Union, plumbing.FrostValve} {
		part := &plumbing.Part{ID: "x", Kind: k, Name: "X"}
		x := &box{part: part, sym: symbolOf(part, 0)}
		seen := map[string]bool{}
		for _, pos := range k.Info().Positions {
			var b svg
			glyph(&b, x, pos)
			assert.False(t, seen[b.String()], "%s: positions look the same", k)
			seen[b.String()] = true
		}
	}
}

// Whoever is asked what is where is told no name, not even by pointing at a place.
func TestALayoutWithoutNamesTellsNone(t *testing.T) {
	m, err := demo.Model("gneiss-24-2027")
	require.NoError(t, err)
	b, err := m.Build()
	require.NoError(t, err)
	l := NewLayout(b)
	quiet := l.Unnamed()
	for _, svg := range []string{quiet.Plan(""), quiet.Side("")} {
		assert.Contains(t, svg, `data-no="10"`)
		for _, p := range l.Places() {
			assert.NotContains(t, svg, p.Part.Name)
			assert.NotContains(t, svg, `"`+p.Part.ID+`"`)
		}
		for i := range b.Lines {
			assert.NotContains(t, svg, b.Lines[i].ID)
		}
	}
	assert.Contains(t, l.Plan(""), "Kitchen tap", "others are told")
}
