package assembly

import (
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

// Blank is a kind of system to begin with: assemblies that hold together.
type Blank struct {
	ID, Name string
	steps    []step
}

type step struct {
	kind    string
	answers map[string]string
}

// Blanks lists what a model can begin with; the first is empty.
func Blanks() []Blank {
	sides := map[string]string{"sides": "cold,hot"}
	waste := step{"waste", nil}
	taps := step{"branch", map[string]string{"outlets": "shower,toilet,basin,kitchen"}}
	return []Blank{
		{"empty", "Empty: nothing yet", nil},
		{"trailer", "Trailer: one tank, winter pick-up, city water, storage heater with three valves",
			[]step{{"tank", nil}, {"pump", nil}, {"city", nil}, {"heater", nil}, taps, {"drain", sides}, waste}},
		{"manifold", "Trailer with a pump manifold of one 3-way and two valves, heater with one valve",
			[]step{{"tank", nil}, {"pump", map[string]string{"pickup": "three"}}, {"city", nil},
				{"heater", map[string]string{"kind": "storage-clad", "capacity": "6 gal", "bypass": "one"}}, taps,
				{"drain", sides}, waste}},
		{"plate", "Fifth wheel with a docking plate and an on-demand heater",
			[]step{{"tank", nil}, {"pump", map[string]string{"pickup": "port"}}, {"plate", nil},
				{"heater", map[string]string{"kind": "on-demand", "capacity": "0.4 gal", "bypass": "two"}}, taps,
				{"drain", sides}, waste}},
		{"motorhome", "Motorhome: float valve, combi boiler, drains by toggles",
			[]step{{"tank", map[string]string{"fill": "float"}}, {"pump", nil},
				{"heater", map[string]string{"kind": "combi", "capacity": "12 L", "bypass": "two"}}, taps,
				{"drain", map[string]string{"sides": "cold,hot", "closure": "toggle"}}, waste}},
		{"van", "Van: no pick-up fitted, hydronic heater with a single lever",
			[]step{{"tank", nil}, {"pump", map[string]string{"pickup": "none"}},
				{"heater", map[string]string{"kind": "hydronic", "capacity": "1.2 L", "bypass": "lever"}},
				{"branch", map[string]string{"outlets": "outside-shower,kitchen"}}, {"drain", sides},
				{"waste", map[string]string{"tanks": "grey"}}}},
		{"two-tanks", "Two tanks apart, portable heater on couplings",
			[]step{{"tank", map[string]string{"tanks": "apart"}}, {"pump", map[string]string{"pickup": "plain"}},
				{"branch", map[string]string{"outlets": "kitchen"}}, {"pump", map[string]string{"pickup": "plain"}},
				{"branch", map[string]string{"outlets": "boot-wash"}}, {"couplings", nil},
				{"drain", map[string]string{"sides": "cold"}}}},
	}
}

// Begin makes a model of a blank. The model's head is given: id, name, year,
// kind, units.
func Begin(head plumbing.Model, blank string) (*plumbing.Model, error) {
	m := &head
	m.Format = plumbing.Format
	m.Parts, m.Lines = []plumbing.Part{}, []plumbing.Line{}
	for _, b := range Blanks() {
		if b.ID != blank {
			continue
		}
		for _, s := range b.steps {
			done, err := Add(m, ByID(s.kind), s.answers)
			if err != nil {
				return nil, err
			}
			m = done.Model
		}
		return edit.Check(m)
	}
	return nil, refused("Begin with", "there is no such kind of system to begin with")
}
