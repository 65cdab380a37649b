package golden_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/setting"
	"coldtap/internal/golden"
	"coldtap/internal/rig"
)

// list has what lists that people keep have: names with and without a port,
// mixed units, a figure twice, faults of each sort.
const list = `Plumbing list, Tuff 9
Line	From	To	Size	Length (ft)	Note
new-1	Gravity fill	Fresh tank	hose 1 1/4 in	3	the fill
new-2	Water pump	Kitchen tap cold	½ in PEX	26 in	
new-3	Water pump, out	Hydronic heater	semi-rigid 12 mm	1 m	which port?
new-4	Pump	Kitchen	semi-rigid 12 mm	1 m	near a name
new-5	Nowhere	Fresh tank	semi-rigid 12 mm	1 m	
new-6	Fresh tank.supply	Fresh tank.link	semi-rigid 14 mm	1 m	
suction	fresh.supply	tank-valve.a	semi-rigid 12 mm	7 miles	
trunk-1			semi-rigid 12 mm	1.5	shorter
trunk-1			semi-rigid 12 mm	1.7	again
trunk-2				-3	
`

const parts = `Part	Kind	Name	Capacity	Capacity (gal)	Normal	Height (cm)
fresh			84 L	22.2		
grey			40 L	12		
new-tap	outlet	New tap				80
new-valve	valve	New valve			ajar	60
new-drain	low point drain	New drain			closed	20 cm
	valve	Unnamed			open	
fresh		Fresh tank			open	
`

func tuff(t *testing.T) *plumbing.Model {
	t.Helper()
	m, err := demo.Model("tuff-9-2027")
	require.NoError(t, err)
	return m
}

func TestGoldenChanges(t *testing.T) {
	m, err := rig.Model("mica-5")
	require.NoError(t, err)
	compare(t, "edits", golden.Edits(m))
	compare(t, "import-lines", golden.Import(tuff(t), list))
	compare(t, "import-parts", golden.Import(tuff(t), parts))
}

func TestGoldenMerge(t *testing.T) {
	set := func(m *plumbing.Model, what edit.Thing, id string, fields map[string]string) *plumbing.Model {
		done, err := edit.Set(m, what, id, fields)
		require.NoError(t, err)
		return done.Model
	}
	base := tuff(t)
	mine := set(base, edit.OfLine, "trunk-1", map[string]string{"length": "9 ft", "colour": "blue"})
	mine = set(mine, edit.OfPart, "fresh", map[string]string{"data.capacity": "80 L"})
	theirs := set(base, edit.OfLine, "trunk-1", map[string]string{"length": "11 ft"})
	theirs = set(theirs, edit.OfPart, "kitchen", map[string]string{"name": "Galley tap"})
	done, err := edit.Remove(theirs, "shower")
	require.NoError(t, err)
	got, err := golden.Compared(base, mine, done.Model, func(m *plumbing.Model) (*plumbing.Network, []setting.Answer) {
		return planOf(t, m)
	})
	require.NoError(t, err)
	compare(t, "merge", got)
}
