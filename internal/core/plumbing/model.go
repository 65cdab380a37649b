// Package plumbing describes a camper's water system: the model document with
// its parts, lines and options, how it is read and checked, and the network
// of one build that everything else is computed from.
package plumbing

import (
	"maps"
	"slices"

	"coldtap/internal/core/quantity"
)

// Format names the version of the model document that this package writes.
const Format = "coldtap-model/1"

// Short names for quantities as they stand in a document.
type (
	volume   = quantity.Given[quantity.Litre]
	length   = quantity.Given[quantity.Millimetre]
	height   = quantity.Given[quantity.Metre]
	pressure = quantity.Given[quantity.Kilopascal]
	flowRate = quantity.Given[quantity.LitrePerMinute]
	power    = quantity.Given[quantity.Kilowatt]
	current  = quantity.Given[quantity.Ampere]
	mass     = quantity.Given[quantity.Kilogram]
	duration = quantity.Given[quantity.Second]
	celsius  = quantity.Given[quantity.Celsius]
)

// Model is the water system of one model and year, as one document.
type Model struct {
	Format    string   `json:"format"`
	ID        string   `json:"id"`
	Name      string   `json:"name"`
	Year      int      `json:"year"`
	Kind      string   `json:"kind"`                // "travel trailer", "motorhome" …
	Maker     string   `json:"maker,omitempty"`     // the manufacturer's name
	Units     string   `json:"units"`               // "us" or "si": shown first
	DesignLow celsius  `json:"design_low,omitzero"` // coldest the parked camper must stand
	Body      Body     `json:"body,omitzero"`
	Carrying  mass     `json:"carrying_capacity,omitzero"`
	Notes     string   `json:"notes,omitempty"`
	Retired   *Retired `json:"retired,omitempty"` // no longer built; nil while it is
	Options   []Option `json:"options,omitempty"`
	Parts     []Part   `json:"parts"`
	Lines     []Line   `json:"lines"`

	Consumables []Consumable `json:"consumables,omitempty"`

	Drawing  map[string]Nudge `json:"drawing,omitempty"`  // part to where its symbol was moved by hand
	Numbered int              `json:"numbered,omitempty"` // highest place number ever given
	Kept     []Kept           `json:"kept,omitempty"`     // settings that a hand chose for a mode
	Amended  []Amended        `json:"amended,omitempty"`  // procedures whose steps a hand changed
	Chapter  *Written         `json:"chapter,omitempty"`  // what a hand changed in its guide
	Accepted []Accepted       `json:"accepted,omitempty"` // findings that somebody accepted
	Reported []Reported       `json:"reported,omitempty"` // what was found on units
}

// Reported is something that was found on a unit and stands as a finding until somebody accepts it as dealt with.
type Reported struct {
	ID   string `json:"id"`
	Part string `json:"part,omitempty"` // id of the part or line concerned
	Text string `json:"text"`
}

// Retired says that a model is no longer built.
type Retired struct {
	By     string `json:"by"`
	Reason string `json:"reason"`
}

// Accepted is a finding that somebody accepted, as it was then.
type Accepted struct {
	Code   string   `json:"code"`
	Parts  []string `json:"parts,omitempty"`
	Facts  string   `json:"facts"` // what it said
	Reason string   `json:"reason"`
	By     string   `json:"by"`
}

// Kept is a setting that a person chose for a mode instead of the one that was found.
type Kept struct {
	Mode    string            `json:"mode"`
	Handles map[string]string `json:"handles"` // part to the position of its handle
	Reason  string            `json:"reason"`
	By      string            `json:"by"` // who chose it
}

// Amended is what a hand changed in the steps of a procedure. Steps go by their keys.
type Amended struct {
	Procedure string               `json:"procedure"`
	Order     []string             `json:"order,omitempty"`
	Left      []string             `json:"left,omitempty"`  // steps that were taken out
	Words     map[string]string    `json:"words,omitempty"` // what is read in the place of a step's own words
	Added     map[string]AddedStep `json:"added,omitempty"`
}

// AddedStep is a step that a hand added: words, and where it does anything what is done at a part.
type AddedStep struct {
	Words   string  `json:"words,omitempty"`
	Verb    string  `json:"verb,omitempty"`
	Part    string  `json:"part,omitempty"`
	To      string  `json:"to,omitempty"`      // a position, or the side of an outlet
	Seconds float64 `json:"seconds,omitempty"` // that are waited
}

// Written is what a hand changed in a model's guide. Blocks go by their ids.
type Written struct {
	Order   []string             `json:"order,omitempty"`
	Hidden  map[string][]string  `json:"hidden,omitempty"`  // by edition, blocks that it does not have
	Prose   map[string]Prose     `json:"prose,omitempty"`   // blocks that a hand wrote
	Words   map[string]string    `json:"words,omitempty"`   // sentences that a hand reworded, by their keys
	Figures map[string]Override  `json:"figures,omitempty"` // figures that a hand set, by their ids
	Only    map[string]Condition `json:"only,omitempty"`    // for which units a block holds, where not for all
}

// Prune lets go of what is empty.
func (w *Written) Prune() {
	maps.DeleteFunc(w.Hidden, func(_ string, list []string) bool { return len(list) == 0 })
	if len(w.Hidden) == 0 {
		w.Hidden = nil
	}
	if len(w.Prose) == 0 {
		w.Prose = nil
	}
	if len(w.Words) == 0 {
		w.Words = nil
	}
	if len(w.Figures) == 0 {
		w.Figures = nil
	}
	if len(w.Only) == 0 {
		w.Only = nil
	}
}

// Condition says for which units something holds.
type Condition struct {
	With       []string `json:"with,omitempty"`        // options that they have
	Without    []string `json:"without,omitempty"`     // options that they have not
	FromSerial string   `json:"from_serial,omitempty"` // first serial number
	ToSerial   string   `json:"to_serial,omitempty"`
}

// Holds reports whether it can hold for a build with some options.
func (c Condition) Holds(with []string) bool {
	has := func(id string) bool { return slices.Contains(with, id) }
	return !slices.ContainsFunc(c.With, func(id string) bool { return !has(id) }) && !slices.ContainsFunc(c.Without, has)
}

// IsZero reports whether it holds for all.
func (c Condition) IsZero() bool {
	return len(c.With) == 0 && len(c.Without) == 0 && c.FromSerial == "" && c.ToSerial == ""
}

// Override is a figure that somebody set by hand.
type Override struct {
	Value  string `json:"value"` // as it is printed, with its unit
	Reason string `json:"reason"`
	By     string `json:"by"`
}

// Prose is a text that somebody wrote.
type Prose struct {
	Title string `json:"title,omitempty"`
	Text  string `json:"text"`            // Markdown
	Mode  string `json:"mode,omitempty"`  // way of use in which the schematic stands below it
	Photo string `json:"photo,omitempty"` // photograph that stands below it
}

// AmendedOf is what a hand changed in a procedure; nil for nothing.
func (m *Model) AmendedOf(procedure string) *Amended {
	for i := range m.Amended {
		if m.Amended[i].Procedure == procedure {
			return &m.Amended[i]
		}
	}
	return nil
}

// Nudge is how far a symbol was moved in the schematic, in steps of its grid.
type Nudge struct {
	X int `json:"x,omitempty"`
	Y int `json:"y,omitempty"`
}

// System is the unit system the model shows first.
func (m *Model) System() quantity.System {
	if m.Units == "si" {
		return quantity.SI
	}
	return quantity.US
}

// Title is the name with the model year.
func (m *Model) Title() string { return m.Name + " (" + itoa(m.Year) + ")" }

// Body is the camper's outline, for the plan and the side view.
type Body struct {
	Length length `json:"length,omitzero"`
	Width  length `json:"width,omitzero"`
	Floor  height `json:"floor,omitzero"` // top of the floor above ground
	Roof   height `json:"roof,omitzero"`  // top of the roof above ground
}

// Option is equipment that some builds have. Parts and lines name the option
// they come with, or the option that takes them away.
type Option struct {
	ID         string `json:"id"`
	Name       string `json:"name"`
	Note       string `json:"note,omitempty"`
	Standard   bool   `json:"standard,omitempty"`    // fitted unless left out
	FromSerial string `json:"from_serial,omitempty"` // first unit that can have it
	ToSerial   string `json:"to_serial,omitempty"`
	FromDate   string `json:"from_date,omitempty"` // YYYY-MM-DD
	ToDate     string `json:"to_date,omitempty"`

	Excludes []string `json:"excludes,omitempty"` // options that it can't be fitted with
}

// Option finds an option by id; nil if there is none.
func (m *Model) Option(id string) *Option {
	for i := range m.Options {
		if m.Options[i].ID == id {
			return &m.Options[i]
		}
	}
	return nil
}

// Shut reports whether two options can't be fitted together.
func (m *Model) Shut(a, b string) bool {
	one, other := m.Option(a), m.Option(b)
	return one != nil && other != nil && (slices.Contains(one.Excludes, b) || slices.Contains(other.Excludes, a))
}

// Part is one thing in the system.
type Part struct {
	ID       string            `json:"id"`
	Kind     Kind              `json:"kind"`
	Number   int               `json:"number,omitempty"`  // its place number, for good; 0 until one is given
	Name     string            `json:"name"`              // what the guide calls it
	Label    string            `json:"label,omitempty"`   // what is printed on the unit
	Option   string            `json:"option,omitempty"`  // present only with this option
	Without  string            `json:"without,omitempty"` // present only without this option
	Place    Place             `json:"place,omitzero"`
	Heights  map[string]height `json:"port_heights,omitempty"` // where a port is not at the part's height
	Reading  Reading           `json:"reading,omitzero"`
	Normal   string            `json:"normal,omitempty"` // position the handle normally stands in
	Colours  map[string]string `json:"colours,omitempty"`
	Thread   string            `json:"thread,omitempty"`
	Adapter  string            `json:"adapter,omitempty"`
	Tool     string            `json:"tool,omitempty"`
	Data     Data              `json:"data,omitzero"`
	Look     string            `json:"look,omitempty"`      // what it is told from others of its kind by
	On       string            `json:"on,omitempty"`        // "part.port" that it sits on without a line
	Ends     []string          `json:"ends,omitempty"`      // "part.port" of the two ports that a jumper hose joins
	Controls []Control         `json:"controls,omitempty"`  // of a panel, a switch or a battery isolator
	Selector []Choice          `json:"positions,omitempty"` // of a selector
	Assumed  []string          `json:"assumed,omitempty"`   // paths of fields that nobody has confirmed yet
}

// Control is how something is switched at a panel, a switch or an isolator.
type Control struct {
	Part  string `json:"part"`            // id of the pump or heater that it switches
	On    string `json:"on"`              // what a hand does: "hold PUMP for 2 s", "Menu, Water, Pump, OK"
	Off   string `json:"off,omitempty"`   // what switches it off again
	Shows string `json:"shows,omitempty"` // how one sees or hears that it is on: "green light, one beep"
}

// Place says where a part is on the level camper.
type Place struct {
	Front  height `json:"front,omitzero"`   // distance from the front of the body
	Left   height `json:"left,omitzero"`    // distance from the left side, facing forward
	Height height `json:"height,omitzero"`  // above the ground
	Reach  string `json:"reach,omitempty"`  // where it is reached from
	Behind string `json:"behind,omitempty"` // the panel or hatch in front of it
	Key    string `json:"key,omitempty"`    // what unlocks that, or the part itself
}

// Reading says how a handle is mounted and what its positions look like.
type Reading struct {
	Handle string            `json:"handle,omitempty"` // lever, tee, knob, pointer, toggle, cap, plug, motor
	Pipe   string            `json:"pipe,omitempty"`   // level or upright
	Says   map[string]string `json:"says,omitempty"`   // what is printed at a position
}

// Choice is one position of a selector: the positions it gives the valves
// that it drives.
type Choice struct {
	ID    string            `json:"id"`
	Label string            `json:"label,omitempty"` // as printed on the plate
	Sets  map[string]string `json:"sets"`            // valve id to position
}

// Data holds the figures of a part. Which of them a kind may and must carry
// is in Kinds.
type Data struct {
	Type         string   `json:"type,omitempty"`
	Capacity     volume   `json:"capacity,omitzero"`
	Heel         volume   `json:"heel,omitzero"`    // can't be drained
	HoldUp       volume   `json:"hold_up,omitzero"` // water a small part holds
	InsideLength length   `json:"inside_length,omitzero"`
	InsideWidth  length   `json:"inside_width,omitzero"`
	InsideHeight length   `json:"inside_height,omitzero"`
	Bore         length   `json:"bore,omitzero"` // of the opening water leaves by
	Flow         flowRate `json:"flow,omitzero"` // free flow of a pump, rated flow of an outlet or supply
	RatedAt      pressure `json:"rated_at,omitzero"`
	CutIn        pressure `json:"cut_in,omitzero"`
	CutOut       pressure `json:"cut_out,omitzero"`
	Limit        pressure `json:"limit,omitzero"`     // highest supply pressure allowed
	Regulator    pressure `json:"regulator,omitzero"` // set pressure
	Rating       pressure `json:"rating,omitzero"`    // what the part stands
	Fuse         current  `json:"fuse,omitzero"`
	DryRun       duration `json:"dry_run,omitzero"` // longest a pump may run dry
	Electric     power    `json:"electric,omitzero"`
	Gas          power    `json:"gas,omitzero"`
	AnodeNew     length   `json:"anode_new,omitzero"`
	AnodeCore    length   `json:"anode_core,omitzero"`
	Socket       string   `json:"socket,omitempty"`
	OpensBelow   celsius  `json:"opens_below,omitzero"` // a frost valve
	// a check valve or an idle pump lets water on from here, a relief valve lets it out
	OpensAt        pressure `json:"opens_at,omitzero"`
	Seep           flowRate `json:"seep,omitzero"`       // what a failed check valve lets back at 300 kPa
	Insulation     length   `json:"insulation,omitzero"` // thickness of a heater's jacket
	Diesel         power    `json:"diesel,omitzero"`
	Engine         bool     `json:"engine,omitempty"`      // the engine's coolant heats it too, while it runs
	FlowSwitch     bool     `json:"flow_switch,omitempty"` // an on-demand heater burns only while water flows
	CheckValve     bool     `json:"check_valve,omitempty"`
	Cap            string   `json:"cap,omitempty"`
	Closure        string   `json:"closure,omitempty"` // of a drain: valve, cap, plug, toggle
	Motor          bool     `json:"motor,omitempty"`
	Ways           int      `json:"ways,omitempty"` // outlets of a manifold
	Waste          string   `json:"waste,omitempty"`
	Seal           volume   `json:"seal,omitzero"` // water that must stay to seal it
	Cycle          volume   `json:"cycle,omitzero"`
	Cartridge      string   `json:"cartridge,omitempty"`
	PassesIdle     bool     `json:"passes_idle,omitempty"` // a pump that lets water through when off
	FrostSensitive bool     `json:"frost_sensitive,omitempty"`
	MorePorts      string   `json:"more_ports,omitempty"` // of a tank: "fill2 supply2", beside one of each
	// id of the part that a probe or a gas coupling belongs to
	Serves string `json:"serves,omitempty"`
	At     length `json:"at,omitzero"` // of a probe: above the tank's bottom
	// of an outlet or a pick-up on a hose: how low its end may lie
	LowEnd         height `json:"low_end,omitzero"`
	HighEnd        height `json:"high_end,omitzero"`         // how high it can be held
	AboveWaterline bool   `json:"above_waterline,omitempty"` // a through-hull fitting that never lets the sea in
}

// Line joins two ports.
type Line struct {
	ID       string `json:"id"`
	Option   string `json:"option,omitempty"`
	Without  string `json:"without,omitempty"`
	From     string `json:"from"` // "part.port"
	To       string `json:"to"`
	Side     Side   `json:"side"`
	Size     string `json:"size,omitempty"`
	Inside   length `json:"inside,omitzero"` // own inside diameter, before the table's
	Length   length `json:"length,omitzero"`
	Material string `json:"material,omitempty"`
	Colour   string `json:"colour,omitempty"`
	Spots    []Spot `json:"spots,omitempty"`

	Assumed []string `json:"assumed,omitempty"` // paths of fields that nobody has confirmed yet
}

// Side tells what a line carries.
type Side string

// The sides of a system.
const (
	Supply Side = "supply" // from where water comes in to the pump
	Cold   Side = "cold"
	Hot    Side = "hot"
	Drain  Side = "drain"
	Air    Side = "air" // vent and overflow
)

// Sides lists all sides in the order they are shown.
var Sides = []Side{Supply, Cold, Hot, Drain, Air}

// Spot is a high or low place between a line's ends.
type Spot struct {
	At     length `json:"at"` // along the line from its From end
	Height height `json:"height"`
}

// Part finds a part by id.
func (m *Model) Part(id string) *Part {
	for i := range m.Parts {
		if m.Parts[i].ID == id {
			return &m.Parts[i]
		}
	}
	return nil
}

// Line finds a line by id.
func (m *Model) Line(id string) *Line {
	for i := range m.Lines {
		if m.Lines[i].ID == id {
			return &m.Lines[i]
		}
	}
	return nil
}
