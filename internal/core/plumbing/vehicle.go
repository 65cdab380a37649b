package plumbing

import "strings"

// Vehicle is what a water system is built into, and the words that go with it.
type Vehicle struct {
	Names   []string // words in the kind of a model, in small letters, that tell it
	Wheels  bool     // it can roll, and is chocked
	Floats  bool     // there is water under it
	Inlet   string   // what an inlet under pressure is called
	Supply  string   // what comes in there
	Under   string   // where what is under the floor is reached
	Outside string   // where what runs out goes, unless it is caught
	Sides   [2]string
	Ends    [2]string // front and rear
}

// vehicles are told by a word in a model's kind; the last is for all others.
var vehicles = []Vehicle{
	{Names: []string{"boat", "yacht", "cruiser", "barge", "launch"}, Floats: true, Inlet: "dockside inlet", Supply: "dockside water", Under: "in the bilge", Outside: "the bilge",
		Sides: [2]string{"port", "starboard"}, Ends: [2]string{"bow", "stern"}},
	{Names: []string{"truck camper", "demountable", "cabin"}, Inlet: "city water inlet", Supply: "city water", Under: "under the floor", Outside: "the ground",
		Sides: [2]string{"left", "right"}, Ends: [2]string{"front", "rear"}},
	{Names: []string{""}, Wheels: true, Inlet: "city water inlet", Supply: "city water", Under: "under the floor", Outside: "the ground",
		Sides: [2]string{"left", "right"}, Ends: [2]string{"front", "rear"}},
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
var VehicleKinds = []string{"travel trailer", "fifth wheel", "off-road trailer", "motorhome", "van", "truck camper", "boat"}
