package plumbing

import "strings"

// Vehicle is what a water system is built into, and the words that go with it.
type Vehicle struct {
	ID     string   // in the catalogue of words
	Names  []string // words in the kind of a model, in small letters, that tell it
	Wheels bool     // it can roll, and is chocked
	Floats bool     // there is water under it
	Inlet  string   // what an inlet under pressure is called
	Short  string   // the same, in a name
	Supply string   // what comes in there
	Fill   string   // what a fill without pressure is called
	Under  string   // where what is under the floor is reached
	Left   string   // facing forward
	Right  string
	Front  string
	Datum  string // what heights are measured above
}

// camper are the words of all that is no boat.
var camper = Vehicle{ID: "camper", Inlet: "city water inlet", Short: "city inlet", Supply: "city water",
	Fill: "gravity fill", Under: "under the floor",
	Left: "left side", Right: "right side", Front: "front", Datum: "the ground"}

// vehicles are told by a word in a model's kind; the last is for all others.
var vehicles = []Vehicle{
	{ID: "boat", Names: []string{"boat", "yacht", "barge", "cabin cruiser", "motor cruiser"}, Floats: true,
		Inlet: "dockside inlet", Short: "dockside inlet",
		Supply: "dockside water", Fill: "deck fill", Under: "into the bilge", Left: "port side",
		Right: "starboard side", Front: "bow", Datum: "the waterline"},
	camper.as(false, "truck camper", "demountable", "cabin"),
	camper.as(true, ""),
}

// as is a vehicle with its own names.
func (v Vehicle) as(wheels bool, names ...string) Vehicle {
	v.Wheels, v.Names = wheels, names
	return v
}

// Vehicle is what the model is built into.
func (m *Model) Vehicle() *Vehicle {
	kind := strings.ToLower(m.Kind)
	for i := range vehicles {
		for _, name := range vehicles[i].Names {
			if strings.Contains(kind, name) {
				return &vehicles[i]
			}
		}
	}
	return nil // the last has an empty name, which every kind contains
}

// VehicleKinds are kinds of model that a form offers.
var VehicleKinds = []string{"travel trailer", "fifth wheel", "off-road trailer", "motorhome", "van", "truck camper",
	"boat"}
