package plumbing

import (
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/quantity"
)

// Kind names what a part is.
type Kind string

// The kinds of part.
const (
	Tank          Kind = "tank"
	ContainerPort Kind = "container-port"
	GravityFill   Kind = "gravity-fill"
	CityInlet     Kind = "city-inlet"
	Pump          Kind = "pump"
	Strainer      Kind = "strainer"
	Filter        Kind = "filter"
	CheckValve    Kind = "check-valve"
	Valve         Kind = "valve"
	ThreeWay      Kind = "three-way"
	Selector      Kind = "selector"
	Tee           Kind = "tee"
	Manifold      Kind = "manifold"
	Heater        Kind = "heater"
	Accumulator   Kind = "accumulator"
	LowPoint      Kind = "drain"
	Outlet        Kind = "outlet"
	Machine       Kind = "machine"
	Coupling      Kind = "coupling"
	Union         Kind = "union"
	FloatValve    Kind = "float-valve"
	FrostValve    Kind = "frost-valve"
	ReliefValve   Kind = "relief-valve"
	OpenEnd       Kind = "open-end"
	Trap          Kind = "trap"
	WasteTank     Kind = "waste-tank"
	RinseInlet    Kind = "rinse-inlet"
	Softener      Kind = "softener"
	MixingValve   Kind = "mixing-valve"
	BarrelSocket  Kind = "barrel-socket"
	Hatch         Kind = "hatch"
	ThroughHull   Kind = "through-hull"
	JumperHose    Kind = "jumper-hose"
	GasCoupling   Kind = "gas-coupling"
	Panel         Kind = "control-panel"
	Switch        Kind = "switch"
	Isolator      Kind = "battery-isolator"
	Probe         Kind = "level-probe"
)

// Level says at what height of its part a port sits.
type Level int

const (
	Low Level = iota // at the part's own height
	Top              // at the part's height plus its inside height
)

// PortInfo is a port that a line may join.
type PortInfo struct {
	Name  string
	Level Level
}

// Seat reports whether a part sits on the port as a rule, and no line comes to it.
func (i PortInfo) Seat() bool {
	return PortKind(i.Name) == "hatch" || PortKind(i.Name) == "bung"
}

// PassageInfo joins two ports inside a part.
type PassageInfo struct {
	From, To string
	OneWay   bool     // always passes From → To only
	Check    bool     // one-way when the part's data say check_valve
	Running  bool     // passes only while the pump runs (or passes_idle)
	Tempers  bool     // adds cold water to hot, only as much as it is too hot
	In       []string // positions in which it is open; none means always
}

// KindInfo is all that the rest of the program knows about a kind.
type KindInfo struct {
	Kind      Kind
	Role      Role
	Name      string // in running text
	Glyph     string // key of its drawing; "" for what is not drawn
	Ports     []PortInfo
	Openings  []string               // nodes that lead outside: a hose or the air is there
	Inside    string                 // node within the part, where what it shuns would do harm; "" for none
	Shuns     []string               // fluids that it must not meet inside
	Fitted    map[string]FittingKind // what a hand takes out of it, by its type
	Passages  []PassageInfo
	Positions []string          // of its handle; none means it has no handle
	Says      map[string]string // what its handle looks like in a position, where no lever, knob or cap does
	Vessel    bool              // reach ends here: what arrives is inside
	Target    bool              // its ports are where water is wanted
	Lets      bool              // draining opens it: it lets water out, or air in
	Mere      bool              // nobody looks for it: it has no place among the places
	Plain     bool              // how its handle stands needs no telling
	Loss      float64           // coefficient of what water loses on its way through, customary values for small fittings
	May, Must []string          // data fields, by their names in the document
	Types     []string          // values of data.type
}

func port(names ...string) []PortInfo {
	ports := make([]PortInfo, len(names))
	for i, n := range names {
		ports[i] = PortInfo{Name: n}
	}
	return ports
}

var through = []PassageInfo{{From: "in", To: "out"}}

// kinds is the table that the schema, the reading, the network and the forms
// are derived from.
var kinds = []KindInfo{
	{Kind: Tank, Role: RoleTank, Glyph: "tank", Name: "fresh tank", Vessel: true,
		Ports: []PortInfo{{"supply", Low}, {"drain", Low}, {"link", Low}, {"bung", Low},
			{"fill", Top}, {"return", Top}, {"vent", Top}, {"overflow", Top}, {"hatch", Top}},
		May: []string{"type", "heel", "inside_length", "inside_width", "inside_height", "bore", "rating",
			"more_ports"},
		Must:  []string{"capacity"},
		Types: []string{"rigid", "bladder"}},
	{Kind: ContainerPort, Role: RolePickUp, Glyph: "pick-up", Loss: 0.5, Name: "container port", Ports: port("out"),
		Openings: []string{"mouth"},
		Passages: []PassageInfo{{From: "mouth", To: "out", Check: true}},
		May:      []string{"cap", "rating", "check_valve", "opens_at", "seep", "low_end", "high_end"}},
	{Kind: GravityFill, Role: RoleFill, Glyph: "gravity", Loss: 0.5, Name: "gravity fill", Ports: port("out"),
		Openings: []string{"mouth"},
		Passages: []PassageInfo{{From: "mouth", To: "out"}}, May: []string{"cap", "flow"}},
	{Kind: CityInlet, Role: RoleInlet, Glyph: "pressure", Loss: 2.5, Name: "city water inlet", Ports: port("out"),
		Openings: []string{"mouth"},
		Fitted:   map[string]FittingKind{"": Screen},
		Passages: []PassageInfo{{From: "mouth", To: "out", Check: true}},
		May: []string{"check_valve", "limit", "regulator", "flow", "cap", "hold_up", "rating", "opens_at",
			"seep"}},
	{Kind: Pump, Role: RolePump, Glyph: "pump", Name: "pump", Ports: port("in", "out"),
		Passages: []PassageInfo{{From: "in", To: "out", OneWay: true, Running: true}},
		May: []string{"cut_in", "fuse", "dry_run", "hold_up", "passes_idle", "rating", "frost_sensitive", "type",
			"opens_at", "seep"},
		Must:  []string{"flow", "cut_out"},
		Types: []string{"fixed-speed", "variable-speed"}},
	{Kind: Strainer, Role: RoleStrainer, Plain: true, Glyph: "strainer", Loss: 3, Name: "strainer",
		Ports: port("in", "out"), Openings: []string{"bowl"}, Positions: []string{"closed", "open"},
		Says:     map[string]string{"closed": "bowl on", "open": "bowl off"},
		Passages: []PassageInfo{{From: "in", To: "out"}, {From: "out", To: "bowl", In: []string{"open"}}},
		May:      []string{"hold_up", "rating", "frost_sensitive"}},
	{Kind: Filter, Role: RoleFilter, Glyph: "filter", Loss: 8, Name: "filter", Ports: port("in", "out"),
		Passages: through,
		Shuns:    []string{"antifreeze", "sanitizer"},
		Fitted: map[string]FittingKind{"canister": Cartridge, "in-line": Cartridge, "purified-water": Cartridge,
			"": Cartridge},
		May:   []string{"capacity", "cartridge", "rating", "type", "frost_sensitive"},
		Types: []string{"canister", "in-line", "purified-water", "reverse-osmosis"}},
	{Kind: CheckValve, Role: RoleCheck, Glyph: "check", Loss: 2.5, Name: "check valve", Ports: port("in", "out"),
		Passages: []PassageInfo{{From: "in", To: "out", OneWay: true}},
		May:      []string{"rating", "hold_up", "opens_at", "seep"}},
	{Kind: Valve, Role: RoleShutOff, Glyph: "valve", Loss: 0.5, Name: "valve", Ports: port("a", "b"),
		Positions: []string{"open", "closed"},
		Passages:  []PassageInfo{{From: "a", To: "b", In: []string{"open"}}}, May: []string{"rating", "motor"}},
	{Kind: ThreeWay, Role: RoleDiverter, Glyph: "three-way", Loss: 1, Name: "3-way valve",
		Ports: port("com", "a", "b"), Positions: []string{"a", "b"},
		Passages: []PassageInfo{{From: "com", To: "a", In: []string{"a"}}, {From: "com", To: "b", In: []string{"b"}}},
		May:      []string{"rating", "motor"}},
	{Kind: Selector, Role: RoleSelector, Glyph: "selector", Name: "selector"},
	{Kind: Tee, Role: RoleJunction, Glyph: "tee", Mere: true, Name: "tee", Ports: port("a", "b", "c"),
		Passages: []PassageInfo{{From: "a", To: "b"}, {From: "b", To: "c"}}, May: []string{"rating"}},
	{Kind: Manifold, Role: RoleJunction, Glyph: "manifold", Name: "manifold", Ports: port("in"),
		May: []string{"rating", "hold_up"}, Must: []string{"ways"}},
	{Kind: Heater, Role: RoleHeater, Glyph: "heater", Loss: 2, Name: "heater",
		Ports:    []PortInfo{{"cold", Low}, {"hot", Top}, {"drain", Low}, {"relief", Top}},
		Passages: []PassageInfo{{From: "cold", To: "hot"}, {From: "cold", To: "drain"}, {From: "hot", To: "relief"}},
		May: []string{"heel", "inside_height", "electric", "gas", "anode_new", "anode_core", "socket", "rating",
			"bore", "insulation", "flow_switch", "diesel", "engine"},
		Must:  []string{"capacity", "type"},
		Types: []string{"storage-steel", "storage-clad", "on-demand", "portable", "combi", "hydronic"}},
	{Kind: Accumulator, Role: RoleAccumulator, Glyph: "accumulator", Name: "accumulator", Ports: port("in"),
		May: []string{"rating"}, Must: []string{"capacity"}},
	{Kind: LowPoint, Role: RoleDrain, Glyph: "drain", Name: "low-point drain", Lets: true, Ports: port("in"),
		Openings: []string{"mouth"}, Positions: []string{"closed", "open"},
		Passages: []PassageInfo{{From: "in", To: "mouth", In: []string{"open"}}},
		May:      []string{"closure", "bore", "socket", "waste"}},
	{Kind: Outlet, Role: RoleOutlet, Glyph: "outlet", Name: "outlet", Target: true, Ports: port("cold", "hot"),
		Must: []string{"type"},
		May:  []string{"flow", "rated_at", "waste", "seal", "hold_up", "frost_sensitive", "low_end", "high_end"},
		Fitted: map[string]FittingKind{"kitchen": Aerator, "basin": Aerator, "shower": ShowerHead,
			"outside-shower": ShowerHead},
		Types: []string{"kitchen", "basin", "shower", "outside-shower", "outside-tap", "toilet", "sprayer", "purified",
			"boot-wash"}},
	{Kind: BarrelSocket, Role: RoleBarrel, Glyph: "barrel", Loss: 2.5, Name: "barrel socket", Ports: port("out"),
		Openings: []string{"mouth"},
		Passages: []PassageInfo{{From: "mouth", To: "out", Check: true}}, Must: []string{"flow", "cut_out"},
		May: []string{"check_valve", "fuse", "cap", "rating", "opens_at", "seep"}},
	{Kind: Hatch, Role: RoleHatch, Plain: true, Glyph: "hatch", Name: "hatch", Ports: port("in"),
		Openings: []string{"mouth"}, Positions: []string{"closed", "open"},
		Says:     map[string]string{"closed": "lid on", "open": "lid off"},
		Passages: []PassageInfo{{From: "in", To: "mouth", In: []string{"open"}}}, May: []string{"bore"}},
	{Kind: ThroughHull, Role: RoleHull, Glyph: "hull", Name: "through-hull fitting", Lets: true, Ports: port("in"),
		Openings:  []string{"mouth"},
		Positions: []string{"closed", "open"},
		Passages:  []PassageInfo{{From: "in", To: "mouth", In: []string{"open"}}},
		May:       []string{"above_waterline", "bore"}},
	{Kind: JumperHose, Role: RoleJumper, Plain: true, Name: "jumper hose", Positions: []string{"stowed", "joined"},
		Says: map[string]string{"stowed": "stowed away", "joined": "on"}},
	{Kind: GasCoupling, Role: RoleGas, Plain: true, Name: "gas coupling", Positions: []string{"together", "apart"},
		Must: []string{"serves"}},
	{Kind: Panel, Role: RoleControl, Name: "control panel"},
	{Kind: Switch, Role: RoleControl, Name: "switch"},
	{Kind: Isolator, Role: RoleIsolator, Name: "battery isolator"},
	{Kind: Probe, Role: RoleProbe, Name: "level probe", Must: []string{"serves", "at"}},
	{Kind: Machine, Role: RoleMachine, Glyph: "machine", Name: "machine", Target: true, Ports: port("cold", "hot"),
		Must:  []string{"type"},
		May:   []string{"cycle", "waste", "hold_up", "flow", "frost_sensitive"},
		Types: []string{"washing-machine", "dishwasher", "ice-maker"}},
	{Kind: Coupling, Role: RoleCoupling, Plain: true, Glyph: "halves", Loss: 3, Name: "quick coupling",
		Ports: port("a", "b"), Positions: []string{"together", "apart"},
		Passages: []PassageInfo{{From: "a", To: "b", In: []string{"together"}}}, May: []string{"rating"}},
	{Kind: Union, Role: RoleJoint, Plain: true, Glyph: "halves", Loss: 0.5, Name: "union", Ports: port("a", "b"),
		Openings: []string{"mouth", "loose"}, Positions: []string{"together", "apart"},
		Passages: []PassageInfo{{From: "a", To: "b", In: []string{"together"}},
			{From: "mouth", To: "b", In: []string{"apart"}}, {From: "a", To: "loose", In: []string{"apart"}}},
		May: []string{"rating"}},
	{Kind: FloatValve, Role: RoleFloat, Glyph: "float", Loss: 5, Name: "float valve", Ports: port("in", "out"),
		Passages: through, May: []string{"rating", "flow"}},
	{Kind: FrostValve, Role: RoleFrost, Glyph: "drain", Name: "frost valve", Lets: true, Ports: port("in"),
		Openings: []string{"mouth"}, Positions: []string{"closed", "open"},
		Passages: []PassageInfo{{From: "in", To: "mouth", In: []string{"open"}}},
		May:      []string{"opens_below", "bore", "waste"}},
	{Kind: ReliefValve, Role: RoleRelief, Glyph: "relief", Name: "relief valve", Lets: true, Ports: port("in"),
		Openings: []string{"mouth"}, Positions: []string{"closed", "open"},
		Says:     map[string]string{"closed": "lever down", "open": "lever lifted"},
		Passages: []PassageInfo{{From: "in", To: "mouth", In: []string{"open"}}},
		May:      []string{"opens_at", "bore", "rating", "waste"}},
	{Kind: OpenEnd, Role: RoleVent, Glyph: "vent", Name: "open end", Ports: port("in"), Openings: []string{"mouth"},
		Passages: []PassageInfo{{From: "in", To: "mouth"}}, May: []string{"bore", "waste"}},
	{Kind: Trap, Role: RoleTrap, Name: "trap", May: []string{"waste"}, Must: []string{"seal"}},
	{Kind: WasteTank, Role: RoleWaste, Glyph: "waste", Name: "waste tank", Vessel: true, Ports: port("rinse"),
		Must: []string{"type"}, May: []string{"capacity", "bore"},
		Types: []string{"grey", "black", "sump", "overboard", "bilge", "ground"}},
	{Kind: RinseInlet, Role: RoleRinse, Glyph: "rinse", Loss: 2.5, Name: "black-tank rinse inlet", Ports: port("out"),
		Openings: []string{"mouth"},
		Passages: []PassageInfo{{From: "mouth", To: "out", Check: true}},
		May:      []string{"check_valve", "limit", "opens_at", "seep"}},
	{Kind: Softener, Role: RoleSoftener, Glyph: "softener", Loss: 8, Name: "water softener", Ports: port("in", "out"),
		Inside:    "bed",
		Positions: []string{"service", "bypass"}, Shuns: []string{"antifreeze", "sanitizer"},
		Passages: []PassageInfo{{From: "in", To: "bed", In: []string{"service"}},
			{From: "bed", To: "out", In: []string{"service"}}, {From: "in", To: "out", In: []string{"bypass"}}},
		May: []string{"rating", "frost_sensitive"}, Must: []string{"capacity"}},
	{Kind: MixingValve, Role: RoleMixer, Glyph: "mixer", Loss: 5, Name: "thermostatic mixing valve",
		Ports: port("hot", "cold", "mixed"),
		Passages: []PassageInfo{{From: "hot", To: "mixed", OneWay: true},
			{From: "cold", To: "mixed", OneWay: true, Tempers: true}},
		May: []string{"rating", "hold_up", "opens_at", "seep"}},
}

// Kinds lists every kind of part.
func Kinds() []KindInfo { return slices.Clone(kinds) }

var kindIndex = func() map[Kind]*KindInfo {
	m := make(map[Kind]*KindInfo, len(kinds))
	for i := range kinds {
		m[kinds[i].Kind] = &kinds[i]
	}
	return m
}()

// Info is the table's row for k, or nil.
func (k Kind) Info() *KindInfo { return kindIndex[k] }

// Ports lists the ports of a part; a manifold's depend on its ways.
func (p *Part) Ports() []PortInfo {
	ports := p.Kind.Info().Ports
	if p.Kind == Manifold {
		ports = slices.Clone(ports)
		for i := range p.Data.Ways {
			ports = append(ports, PortInfo{Name: "out" + itoa(i+1)})
		}
	}
	for _, more := range strings.Fields(p.Data.MorePorts) {
		for _, like := range p.Kind.Info().Ports {
			if like.Name == PortKind(more) {
				ports = append(slices.Clip(ports), PortInfo{more, like.Level})
			}
		}
	}
	return ports
}

// PortKind is what a numbered port is for: a tank's "fill2" is a "fill".
func PortKind(port string) string { return strings.TrimRight(port, "0123456789") }

// Lets reports whether draining opens the part. What may lie under the sea is
// never opened for that.
func (p *Part) Lets() bool {
	return p.Kind.Info().Lets && (p.Role() != RoleHull || p.Data.AboveWaterline)
}

// ComesOff reports whether a hand takes the part off, out or apart to open it: a cap, a plug, a bowl, a joint, a
// coupling. What stands behind it under pressure comes at whoever holds it.
func (p *Part) ComesOff() bool {
	off := func(what string) bool { return what == "cap" || what == "plug" }
	switch p.Role() {
	case RoleStrainer, RoleJoint, RoleCoupling:
		return true
	case RoleDrain:
		return off(p.Data.Closure) || p.Data.Closure == "" && off(p.Reading.Handle)
	}
	return false
}

// passages lists the passages of a part.
func (p *Part) passages() []PassageInfo {
	if p.Kind != Manifold {
		return p.Kind.Info().Passages
	}
	var list []PassageInfo
	for i := range p.Data.Ways {
		list = append(list, PassageInfo{From: "in", To: "out" + itoa(i+1)})
	}
	return list
}

// Positions lists the positions of the part's handle; none for a part
// without one.
func (p *Part) Positions() []string {
	if p.Kind == Selector {
		var list []string
		for _, c := range p.Selector {
			list = append(list, c.ID)
		}
		return list
	}
	return p.Kind.Info().Positions
}

// NormalPosition is the stated one, or the first.
func (p *Part) NormalPosition() string {
	if p.Normal != "" {
		return p.Normal
	}
	if list := p.Positions(); len(list) > 0 {
		return list[0]
	}
	return ""
}

func (p *Part) hasPort(name string) bool {
	return slices.ContainsFunc(p.Ports(), func(i PortInfo) bool { return i.Name == name })
}

// PortHeight is the height of a port above the ground; ok is false where
// neither the part nor the port has one.
func (p *Part) PortHeight(name string) (h quantity.Metre, ok bool) {
	if own, ok := p.Heights[name]; ok {
		return own.Value(), true
	}
	if p.Place.Height.IsZero() {
		return 0, false
	}
	h = p.Place.Height.Value()
	for _, info := range p.Ports() {
		if info.Name == name && info.Level == Top {
			h += quantity.Metre(p.Data.InsideHeight.Value() / 1000)
		}
	}
	return h, true
}

// IsLow reports whether a port is at the bottom of its part.
func (p *Part) IsLow(port string) bool {
	return slices.ContainsFunc(p.Ports(), func(i PortInfo) bool { return i.Name == port && i.Level == Low })
}

func itoa(n int) string { return strconv.Itoa(n) }
