package draft_test

import (
	"fmt"
	"maps"
	"math"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/state"
)

// safety are steps of which none may be left out unnoticed.
var safety = []string{"heater-off", "pressure-off", "winter-position", "sanitizing-position", "pick-up", "colour",
	"strong", "soak", "pump-on", "cap", "back"}

// seen is what a run leaves and what is noticed on the way, told without any rule: how everything
// stands at the end, what stands where, what each step saw.
func seen(n *plumbing.Network, pr *proof.Proof) (end, way string) {
	x := pr.Systems[len(pr.Systems)-1]
	var b strings.Builder
	fmt.Fprint(&b, x.State.Handles, x.State.Pumps, x.State.Heat)
	fmt.Fprint(&b, slices.Sorted(maps.Keys(x.State.Open)), slices.Sorted(maps.Keys(x.State.Joined)),
		slices.Sorted(maps.Keys(x.State.Out)))
	for _, h := range n.PartsOf(plumbing.RoleHeater) {
		fmt.Fprint(&b, x.Hot(h))
	}
	for _, p := range x.Pieces() {
		// As far as it matters: how full, whether it freezes, whether it may be drunk.
		fmt.Fprintf(&b, " %.0f/%d/%d", math.Round(10*(1-p.Gas)), class(p.Mix.Glycol, 0.05, 0.25),
			class(float64(p.Mix.Chlorine), 2.5, 10))
	}
	var w strings.Builder
	for _, o := range pr.Outcomes {
		for _, at := range slices.Sorted(maps.Keys(o.Arrived)) {
			p := o.Arrived[at]
			fmt.Fprintf(&w, " %d:%v/%.1f/%.2f/%.0f", at, o.Came, p.Gas, p.Mix.Glycol, float64(p.Mix.Chlorine))
		}
	}
	return b.String(), w.String()
}

// worse reports whether a proof has a breach that another does not have.
func worse(a, b *proof.Proof) bool {
	return slices.ContainsFunc(a.Breaches, func(x proof.Breach) bool {
		return !slices.ContainsFunc(b.Breaches, func(y proof.Breach) bool { return x.Rule == y.Rule && x.Part == y.Part })
	})
}

// class is in which of some ranges a value lies.
func class(v float64, limits ...float64) (k int) {
	for _, l := range limits {
		if v > l {
			k++
		}
	}
	return k
}

// without is a procedure without a step.
func without(p *proof.Procedure, i int) *proof.Procedure {
	q := *p
	q.Steps = slices.Delete(slices.Clone(p.Steps), i, i+1)
	return &q
}

func swapped(p *proof.Procedure, i int) *proof.Procedure {
	q := *p
	q.Steps = slices.Clone(p.Steps)
	q.Steps[i], q.Steps[i+1] = q.Steps[i+1], q.Steps[i]
	return &q
}

// keeping is a procedure in which a step leaves one handle, switch or fitting as it was.
func keeping(p *proof.Procedure, i, k int) *proof.Procedure {
	q := *p
	q.Steps = slices.Clone(p.Steps)
	q.Steps[i].Acts = slices.Delete(slices.Clone(p.Steps[i].Acts), k, k+1)
	return &q
}

// aimed is a procedure in which what a step does at one part is done at another of its kind; nil where
// that can't be done.
func aimed(n *plumbing.Network, p *proof.Procedure, i int, from *plumbing.Part) *proof.Procedure {
	var to *plumbing.Part
	for _, other := range n.PartsOf(from.Role()) {
		if other != from && other.Kind == from.Kind {
			to = other
			break
		}
	}
	if to == nil {
		return nil
	}
	q := *p
	q.Steps = slices.Clone(p.Steps)
	s := &q.Steps[i]
	node := func(at plumbing.NodeID) plumbing.NodeID { return n.Node(to.ID + "." + n.Nodes[at].Port) }
	aim := func(list []state.Act) []state.Act {
		list = slices.Clone(list)
		for k := range list {
			if a := &list[k]; a.Part == from {
				a.Part = to
				a.Sides = slices.DeleteFunc(slices.Clone(a.Sides), func(side string) bool {
					at := n.Node(to.ID + "." + side)
					return at == plumbing.None || !n.Joined(at)
				})
				if a.Verb == state.Open && len(a.Sides) == 0 {
					a.Sides = n.SidesOf(to)
				}
			}
		}
		return list
	}
	s.Acts, s.Then = aim(s.Acts), aim(s.Then)
	s.Until.At = slices.Clone(s.Until.At)
	for k, at := range s.Until.At {
		if n.Nodes[at].Part == from {
			if s.Until.At[k] = node(at); s.Until.At[k] == plumbing.None {
				s.Until.At[k] = n.Node(to.ID + "." + n.SidesOf(to)[0])
			}
		}
	}
	return &q
}

// Each step left out, aimed at another part, each neighbouring pair swapped, each act of each step left
// out: the rules notice it, or it does no harm: the same stands where at the end, nothing happens on the way, and
// the same is seen.
func TestFaultsInProceduresAreNoticed(t *testing.T) {
	if testing.Short() {
		t.Skip("it carries out some thousand procedures")
	}
	models, err := demo.Models()
	require.NoError(t, err)
	caught, harmless, missed := 0, 0, 0
	var list, grave []string
	var lock sync.Mutex
	var pool errgroup.Group
	pool.SetLimit(runtime.NumCPU())
	for _, m := range models {
		in := inputs(t, m, m.StandardOptions()...)
		have := drafted(t.Context(), in)
		for _, id := range slices.Sorted(maps.Keys(have)) {
			p := have[id]
			whole := prove(t, in, p)
			end, way := seen(in.Net, whole)
			judge := func(q *proof.Procedure, what string, safe bool) {
				pool.Go(func() error {
					pr := prove(t, in, q)
					e, w := seen(in.Net, pr)
					lock.Lock()
					defer lock.Unlock()
					switch {
					case worse(pr, whole):
						caught++
					case e == end && (w == way || !safe):
						harmless++
					default:
						missed++
						list = append(list, fmt.Sprintf("%s %s: %s", m.ID, id, what))
						if safe {
							grave = append(grave, list[len(list)-1])
						}
					}
					return nil
				})
			}
			for i, s := range p.Steps {
				judge(without(p, i), fmt.Sprintf("without step %d (%s)", i+1, s.For),
					id != "winterize-tank" && slices.Contains(safety, s.For) &&
						(s.For != "heater-off" || len(in.Net.PartsOf(plumbing.RoleHeater)) > 0))
				if i+1 < len(p.Steps) {
					judge(swapped(p, i), fmt.Sprintf("steps %d and %d swapped (%s, %s)", i+1, i+2, s.For, p.Steps[i+1].For), false)
				}
				seen := map[*plumbing.Part]bool{}
				for _, a := range s.Acts {
					if a.Verb == state.Catch || seen[a.Part] {
						continue
					}
					seen[a.Part] = true
					if q := aimed(in.Net, p, i, a.Part); q != nil {
						judge(q, fmt.Sprintf("step %d (%s) at another part than %s", i+1, s.For, a.Part.ID), false)
					}
				}
				for k, a := range s.Acts {
					if len(s.Acts) > 1 && a.Verb != state.Catch {
						judge(keeping(p, i, k), fmt.Sprintf("step %d (%s) without %s %s", i+1, s.For, a.Verb, a.Part.ID), false)
					}
				}
			}
		}
	}
	require.NoError(t, pool.Wait())
	slices.Sort(list)
	all := caught + harmless + missed
	t.Logf("%d caught, %d harmless, %d missed of %d", caught, harmless, missed, all)
	for _, l := range list {
		t.Log(l)
	}
	assert.Empty(t, grave)
	assert.LessOrEqual(t, float64(missed)/float64(all), 0.05)
}
