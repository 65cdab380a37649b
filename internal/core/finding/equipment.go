package finding

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// equipmentRules look for equipment that is missing.
var equipmentRules = []Rule{
	{Code: "heater-no-bypass", Severity: Warning, Why: "Antifreeze and chlorine can't be kept out of the heater.",
		Remedy: "Fit a bypass: shut-offs at inlet, outlet and tube, or 3-way valves.",
		find: each(func(s *survey, p *plumbing.Part) string {
			hot := s.net.Node(p.ID + ".hot")
			if !s.reach(s.sources()).Node(hot) || s.hotWithout(p) {
				return ""
			}
			return "Every way to the hot side runs through " + p.Name + "."
		}, plumbing.RoleHeater)},
	{Code: "bypass-useless", Severity: Warning, Why: "A valve on the tube alone never shuts the heater off.",
		Remedy: "Add shut-offs at the heater's inlet and outlet, or a 3-way valve.",
		find: each(func(s *survey, p *plumbing.Part) string {
			a := setting.ForMode(s.plan, setting.Sanitize)
			if a == nil || a.OK || a.Mode.LeftOut != "" || !s.hotWithout(p) || !s.conflicts(a, p) {
				return ""
			}
			return p.Name + " has a way around it, but no position of the handles keeps it out."
		}, plumbing.RoleHeater)},
	{Code: "tank-no-vent", Severity: Error, Why: "It can't be filled or emptied, and a pump may crush it.",
		Remedy: "Describe the vent or the overflow tube.",
		find: each(func(s *survey, p *plumbing.Part) string {
			if s.joined(p, "vent") || s.joined(p, "overflow") {
				return ""
			}
			return p.Name + " has neither a vent nor an overflow."
		}, plumbing.RoleTank)},
	{Code: "tank-no-overflow", Severity: Note,
		Why:    "Filled too far it is put under pressure, or runs over where nobody looks.",
		Remedy: "Describe the overflow tube, or that the vent serves as one.",
		find: each(func(s *survey, p *plumbing.Part) string {
			if s.joined(p, "overflow") || !s.joined(p, "fill") && !s.joined(p, "return") {
				return ""
			}
			return p.Name + " has no overflow of its own."
		}, plumbing.RoleTank)},
	{Code: "pickup-missing", Severity: Warning,
		Why:    "Antifreeze can't be drawn through it: the pump and its lines stay as they are.",
		Remedy: "Describe a winter pick-up, or the joint at the pump where a hose goes on.",
		find: each(func(s *survey, p *plumbing.Part) string {
			var from []plumbing.NodeID
			for _, x := range s.parts(plumbing.RolePickUp, plumbing.RoleJoint) {
				from = append(from, s.net.Node(x.ID+".mouth"))
			}
			if s.reach(from).Node(s.net.Node(p.ID + ".in")) {
				return ""
			}
			return p.Name + " can't draw from a container."
		}, plumbing.RolePump)},
	{Code: "tank-no-fill", Severity: Warning, Why: "No way of filling it can be described.",
		Remedy: "Describe the gravity fill or the filling line.",
		find: each(func(s *survey, p *plumbing.Part) string {
			if s.joined(p, "fill") || s.joined(p, "return") || s.joined(p, "link") || s.joined(p, "hatch") {
				return ""
			}
			return p.Name + " has nothing to be filled by."
		}, plumbing.RoleTank)},
	{Code: "overflow-small", Severity: Warning, Why: "The tank is put under pressure while it fills.",
		Remedy: "Fit a larger overflow, or tell the reader to fill slowly.",
		find:   each(overflow, plumbing.RoleTank)},
	{Code: "pump-no-strainer", Severity: Warning, Why: "Grit from the tank stops the pump's valves.",
		Remedy: "Describe the strainer ahead of the pump.",
		find: each(func(s *survey, p *plumbing.Part) string {
			strainers := s.parts(plumbing.RoleStrainer)
			for _, t := range s.parts(plumbing.RoleTank) {
				if s.reach([]plumbing.NodeID{s.net.Node(t.ID + ".supply")}, strainers...).Node(s.net.Node(p.ID + ".in")) {
					return p.Name + " draws from " + t.Name + " without a strainer."
				}
			}
			return ""
		}, plumbing.RolePump)},
	{Code: "city-no-check", Severity: Error,
		Why:    "The pump would push the tank's water out of the inlet, or into the supply.",
		Remedy: "Describe the inlet's check valve, or fit one.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.CheckValve {
				return ""
			}
			return p.Name + " has no check valve."
		}, plumbing.RoleInlet, plumbing.RoleBarrel)},
	{Code: "heater-look-missing", Severity: Warning,
		Why:    "Units are built with one heater or another: who reads the guide must know which one is theirs.",
		Remedy: "Say what it is told by on the unit: its cover, its knob, its lights.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Look != "" || p.Option == "" && p.Without == "" {
				return ""
			}
			return p.Name + " is in some builds only, and nothing is said of how it looks."
		}, plumbing.RoleHeater)},
	{Code: "jumper-foul", Severity: Error,
		Why:    "Drinking water is never joined to rinse, waste or coolant, not even for a moment.",
		Remedy: "Take the jumper hose out, or join its end to a drinking-water port.",
		find: each(func(s *survey, p *plumbing.Part) string {
			if foul := setting.FoulEnd(s.net.Model, p); foul != nil {
				return p.Name + " leads to " + lower(foul.Name) + "."
			}
			return ""
		}, plumbing.RoleJumper)},
	{Code: "hull-low", Severity: Note,
		Why:    "Opened, it may let the sea in: it is neither a drain nor a way in for air.",
		Remedy: "Say that it lies above the waterline, if it always does.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.AboveWaterline {
				return ""
			}
			return p.Name + " is not said to lie above the waterline: no guide opens it."
		}, plumbing.RoleHull)},
	{Code: "rinse-no-check", Severity: Error, Why: "Black-tank water could be drawn back into the supply.",
		Remedy: "Describe the check valve or vacuum breaker of the rinse inlet.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.CheckValve {
				return ""
			}
			return p.Name + " has no check valve."
		}, plumbing.RoleRinse)},
	{Code: "low-point-missing", Severity: Warning, Why: "The side can only be emptied through its taps.",
		Remedy: "Describe the low-point drain of this side.",
		find:   lowPoints},
	{Code: "trap-missing", Severity: Note, Why: "A trap that is forgotten freezes.",
		Remedy: "Describe the traps with their seals.",
		find: func(s *survey) []hit {
			need := 0
			for _, o := range s.parts(plumbing.RoleOutlet) {
				if w := s.net.Model.Part(o.Data.Waste); w != nil && w.Data.Type == "grey" {
					need++
				}
			}
			if have := len(s.parts(plumbing.RoleTrap)); need > 0 && have == 0 {
				return []hit{{nil, fmt.Sprintf("%d outlets drain into a grey tank, but no trap is described.", need)}}
			}
			return nil
		}},
	{Code: "engine-heat-unmixed", Severity: Warning,
		Why:    "The engine's coolant runs at 80 to 95 °C: water as hot as that scalds at once.",
		Remedy: "Put a thermostatic mixing valve behind the heater.",
		find: each(func(s *survey, p *plumbing.Part) string {
			if !p.Data.Engine {
				return ""
			}
			r := s.reach([]plumbing.NodeID{s.net.Node(p.ID + ".hot")}, s.parts(plumbing.RoleMixer)...)
			for i, n := range s.net.AllNodes() {
				if n.Port == "hot" && n.Part.Kind.Info().Target && r.Node(i) {
					return fmt.Sprintf("%s is heated by the engine as well, and no mixing valve stands between it and %s.", p.Name, lower(n.Part.Name))
				}
			}
			return ""
		}, plumbing.RoleHeater)},
	{Code: "engine-coolant", Severity: Note, Why: "Coolant is poison: where the coil leaks it gets into the hot water.",
		Remedy: "Say in the guide that hot water which smells sweet or is coloured is not drunk, and that the coil is a licensed trade's work.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if !p.Data.Engine {
				return ""
			}
			return p.Name + " is heated by the engine's coolant as well; nothing that carries that is ever joined to drinking water."
		}, plumbing.RoleHeater)},
	{Code: "waste-missing", Severity: Note, Why: "Whether the waste tanks can take a rinse can't be worked out.",
		Remedy: "Say which waste tank it drains to.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if p.Data.Waste != "" || !slices.Contains([]string{"kitchen", "basin", "shower", "toilet", "washing-machine", "dishwasher"}, p.Data.Type) || strings.Contains(p.Place.Reach, "outside") {
				return ""
			}
			return p.Name + " drains nowhere."
		}, plumbing.RoleOutlet, plumbing.RoleMachine)},
}

// hotWithout reports whether some hot side is reached with the heater taken out.
func (s *survey) hotWithout(heater *plumbing.Part) bool {
	r := flow.Reach(s.net, s.wide, flow.Query{From: s.sources(), Without: []*plumbing.Part{heater}, Untempered: true})
	for i, n := range s.net.AllNodes() {
		if n.Port == "hot" && n.Part.Kind.Info().Target && r.Node(i) {
			return true
		}
	}
	return false
}

// conflicts reports whether keeping a heater out is part of why a mode has no
// setting.
func (s *survey) conflicts(a *setting.Answer, heater *plumbing.Part) bool {
	for _, c := range a.Clash {
		if c.Aim == setting.HeaterOut && c.Target == heater {
			return true
		}
	}
	return false
}

// overflow compares what a tank's overflow carries with 50 mm of head, by the
// orifice law with a coefficient of 0.62, with what the fill brings.
func overflow(s *survey, p *plumbing.Part) string {
	const head, cd, g = 0.05, 0.62, 9.81
	var out, in quantity.LitrePerMinute
	for _, l := range s.lines() {
		if l.From == p.ID+".overflow" || l.To == p.ID+".overflow" {
			d, _ := l.InsideDiameter()
			out = quantity.LitrePerMinute(cd * math.Pi / 4 * float64(d) * float64(d) * 1e-6 * math.Sqrt(2*g*head) * 60000)
		}
	}
	if out == 0 {
		return ""
	}
	for _, f := range s.parts(plumbing.RoleFill, plumbing.RoleFloat) {
		if s.reach(s.nodes(f)).Node(s.net.Node(p.ID+".fill")) || s.reach(s.nodes(f)).Node(s.net.Node(p.ID+".return")) {
			in = max(in, f.Data.Flow.Value())
		}
	}
	if in <= out {
		return ""
	}
	sys := s.net.Model.System()
	return fmt.Sprintf("%s: the overflow carries about %s, the fill brings %s.", p.Name, quantity.Show(out, sys), quantity.Show(in, sys))
}

// lowPoints finds sides of which no water gets to a drain but through a tank
// or a heater.
func lowPoints(s *survey) []hit {
	var list []hit
	for _, port := range []string{"cold", "hot"} {
		var from []plumbing.NodeID
		for i, n := range s.net.AllNodes() {
			if n.Port == port && n.Part.Kind.Info().Target && s.net.Joined(i) {
				from = append(from, i)
			}
		}
		r := s.reach(from, s.parts(plumbing.RoleTank, plumbing.RoleHeater)...)
		drained := false
		for _, d := range s.parts(plumbing.RoleDrain, plumbing.RoleFrost) {
			drained = drained || r.Part(d)
		}
		for _, d := range s.parts(plumbing.RoleHull) {
			drained = drained || d.Lets() && r.Part(d)
		}
		if len(from) > 0 && !drained {
			list = append(list, hit{nil, fmt.Sprintf("The %s side has no low-point drain.", port)})
		}
	}
	return list
}
