package drill_test

import (
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/rig"
	"coldtap/internal/sample"
)

// inputs are what exercises are made of for the standard build of a model.
func inputs(t testing.TB, m *plumbing.Model) drill.Inputs {
	t.Helper()
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	rec := &record.Recorder{}
	in := drill.Inputs{Inputs: draft.Inputs{Net: n.Recorded(rec), Plan: rig.Plan(t, n),
		House: house.Usual(m.System()).Recorded(rec)}}
	tasks, err := chapter.Tasks(t.Context(), draft.Inputs{Net: n, Plan: in.Plan, House: house.Usual(m.System())})
	require.NoError(t, err)
	for i := range tasks {
		if x := &tasks[i]; x.Done != nil {
			in.Tasks = append(in.Tasks, drill.Task{ID: x.ID, Done: x.Done, Proof: x.Proof, Read: x.Read,
				Inputs: x.Inputs})
		}
	}
	return in
}

// demos are the demo models that exercises are made of: all in the long run, else the one that is worked out by hand
// and the smallest.
func demos() []string {
	few := []string{"gneiss-24-2027", "marl-15-2027"}
	if !sample.Whole() {
		return few
	}
	return append(few, "schist-31-2027", "ashlar-20-2026", "ashlar-20-2027", "feldspar-c7-2027", "tuff-9-2027")
}

// made is what was made of a model, once for all tests.
type made struct {
	once sync.Once
	in   drill.Inputs
	set  *drill.Set
	err  error
}

var all sync.Map // by model

// exercises are those of a demo model.
func exercises(t testing.TB, id string) (drill.Inputs, *drill.Set) {
	t.Helper()
	v, _ := all.LoadOrStore(id, new(made))
	x := v.(*made)
	x.once.Do(func() {
		m, err := demo.Model(id)
		require.NoError(t, err)
		x.in = inputs(t, m)
		x.in.Photos = []drill.Photo{photo(x.in.Net)}
		x.set, x.err = drill.Make(t.Context(), x.in)
	})
	require.NoError(t, x.err)
	return x.in, x.set
}

// photo has marks of a few parts, two of them so near that no finger tells them apart.
func photo(n *plumbing.Network) drill.Photo {
	p := drill.Photo{ID: "7", Marks: map[string][2]float64{}}
	for i, part := range n.PartsOf(plumbing.RoleOutlet, plumbing.RoleDrain) {
		if i < 5 {
			p.Marks[part.ID] = [2]float64{0.1 + 0.2*float64(i), 0.5}
		}
		if i == 5 {
			p.Marks[part.ID] = [2]float64{0.12, 0.52}
		}
	}
	return p
}
