package draft

import (
	"maps"
	"slices"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// pushing are the acts by which what pushes now is made to push, and those by which it stops: pumps that are on, and
// what is joined to ports and presses.
func (d *draft) pushing() (begin, stop []state.Act) {
	for i, p := range d.Net.Pumps {
		if d.at.Pumps.Has(plumbing.PumpID(i)) {
			on := state.Act{Verb: state.On, Part: p}
			on.At, on.Control = d.Net.ControlOf(p)
			off := on
			off.Verb = state.Off
			begin, stop = append(begin, on), append(stop, off)
		}
	}
	for _, at := range slices.Sorted(maps.Keys(d.at.Joined)) {
		switch c := d.at.Joined[at]; c.Kind {
		case state.Supply, state.HandPump, state.Compressed:
			p := d.Net.Nodes[at].Part
			begin = append(begin, state.Act{Verb: state.Join, Part: p, With: c})
			stop = append(stop, state.Act{Verb: state.Part, Part: p})
		}
	}
	return begin, stop
}

// now are some acts where they are still to be done.
func now(acts []state.Act, still bool) []state.Act {
	if still {
		return acts
	}
	return nil
}

// pressedAt reports whether some parts are still under pressure.
func (d *draft) pressedAt(parts []*plumbing.Part) bool {
	for i, node := range d.Net.Nodes {
		if slices.Contains(parts, node.Part) && d.now().Pressed(plumbing.NodeID(i)) {
			return true
		}
	}
	return false
}

// letOut makes what pushes stop, and lets the pressure out at outlets.
func (d *draft) letOut(stop []state.Act) {
	acts, shut := slices.Clone(stop), []state.Act(nil)
	for _, o := range d.reliefs() {
		acts = append(acts, state.Act{Verb: state.Open, Part: o, Sides: d.Net.SidesOf(o)})
		shut = append(shut, state.Act{Verb: state.Shut, Part: o})
	}
	if shut == nil { // no outlet gets to it, or there is none
		d.step(d.stopID(acts), run.Step{Acts: acts})
		return
	}
	d.step("pressure-off", run.Step{Acts: acts, Until: run.Until{Sense: run.Dry}, Then: shut})
}

// stopID is what a step is for in which what pushes stops; as it stands before.
func (d *draft) stopID(acts []state.Act) string {
	pumps, hoses, air := false, false, false
	for _, a := range acts {
		blown := a.Verb == state.Part && d.at.Joined[d.Net.Node(a.Part.ID+".mouth")].Kind == state.Compressed
		pumps, air, hoses = pumps || a.Verb == state.Off, air || blown, hoses || a.Verb != state.Off && !blown
	}
	switch {
	case air:
		return "compressor-off"
	case pumps && hoses:
		return "supply-off"
	case hoses:
		return "hose-off"
	}
	return "pump-off"
}

// startID is what a step is for in which it pushes again.
func startID(acts []state.Act) string {
	for _, a := range acts {
		switch {
		case a.Verb == state.Join && a.With.Kind == state.Compressed:
			return "compressor-on"
		case a.Verb == state.Join:
			return "hose-on"
		}
	}
	return "pump-on"
}

// atLowPoints lets something run at low points, one after the other. What comes off in a hand is taken off with nothing
// that pushes and no pressure behind it, and is put on again before anything pushes; goOn says that it pushes on after
// the last.
func (d *draft) atLowPoints(list []tapped, goOn bool, step func(t tapped) (what string, s run.Step)) {
	begin, stop := d.pushing()
	on := true
	for _, t := range list {
		what, s := step(t)
		s.Acts = append(slices.Clone(s.Acts), t.open)
		switch {
		case !t.open.Part.ComesOff():
			if !on {
				d.step(startID(begin), run.Step{Acts: begin})
			}
			s.Then, on = append(slices.Clone(s.Then), t.shut), true
		default:
			if d.pressedAt(t.parts) {
				d.letOut(now(stop, on))
			}
			s.Acts = append(s.Acts, begin...)
			s.Then, on = slices.Concat(s.Then, stop, []state.Act{t.shut}), false
		}
		d.step(what, s)
	}
	if !on && goOn {
		d.step(startID(begin), run.Step{Acts: begin})
	}
}
