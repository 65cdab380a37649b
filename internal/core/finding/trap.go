package finding

import (
	"fmt"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
)

// trapRules tell the places that keep water when all is drained as well as it
// can be. Each full place is told once, by the first of these that fits.
var trapRules = []Rule{
	{Code: "loop-below-drain", Severity: Warning, Why: "Water stays there when the low points are open, bore-full, and frost bursts it.",
		Remedy: "Blow the branch out, treat it, or move the drain below it.", find: pocketsOf(dipWords, dips)},
	{Code: "drain-high", Severity: Warning, Why: "It can't empty what lies below it.", Remedy: "Put the drain below the lowest line, or correct the heights.",
		find: each(func(s *survey, p *plumbing.Part) string {
			d := s.drained()
			own, ok := p.PortHeight("in")
			if d == nil || !ok {
				return ""
			}
			for _, l := range s.at(p) {
				for _, ref := range []string{l.From, l.To} {
					id, port := plumbing.PartOf(ref)
					x := s.net.Model.Part(id)
					h, has := x.PortHeight(port)
					if stays := d.left.Stays(s.net, l.ID); x != p && has && h < own-0.001 && stays > 0 {
						return fmt.Sprintf("%s stands at %s, above %s at %s: %s stay below it.", p.Name, s.height(own), lower(x.Name), s.height(h), s.litres(stays))
					}
				}
			}
			return ""
		}, plumbing.RoleDrain)},
	{Code: "city-pocket", Severity: Note, Why: "Antifreeze from the pump never reaches the water at the inlet's check valve; the plastic there breaks.",
		Remedy: "Let it out by hand at the end of winterizing.", find: pocketsOf(func(s *survey, p *pocket) string {
			return fmt.Sprintf("%s keeps %s: water stands at the inlet's check valve.", s.nameOf(p), s.litres(p.stays))
		}, atInlet)},
	{Code: "port-hose-holds", Severity: Warning, Why: "Nothing flows through it in everyday use, and nothing drains it.",
		Remedy: "Empty it by hand after use, or draw antifreeze through it.", find: pocketsOf(func(s *survey, p *pocket) string {
			return fmt.Sprintf("%s keeps %s after use: it hangs down to %s.", s.nameOf(p), s.litres(p.stays), s.height(p.low))
		}, atPort)},
	{Code: "shut-in", Severity: Warning, Why: "Shut at both ends it keeps its water, and frost bursts it.", Remedy: "Open one end while the system is drained, or treat it.",
		find: pocketsOf(func(s *survey, p *pocket) string {
			return fmt.Sprintf("%s keeps %s, shut in by %s when all else is drained.", s.nameOf(p), s.litres(p.stays), s.handlesAt(p))
		}, shutIn)},
	{Code: "pocket", Severity: Warning, Why: "What gets no air, or no way out, stays full, and frost bursts it.", Remedy: "Describe or fit a drain there, or treat it with antifreeze.",
		find: pocketsOf(func(s *survey, p *pocket) string {
			return fmt.Sprintf("%s keeps %s: %s.", s.nameOf(p), s.litres(p.stays), because(p.why))
		}, deadEnd)},
	{Code: "pump-holds", Severity: Note, Why: "Nothing runs back through an idle pump.", Remedy: "Run it until it spits, or draw antifreeze through it.",
		find: pocketsOf(func(s *survey, p *pocket) string {
			return fmt.Sprintf("%s keeps %s behind the pump.", s.nameOf(p), s.litres(p.stays))
		}, atPump)},
	{Code: "strainer-holds", Severity: Note, Why: "Its bowl stays full when the lines are drained, and breaks on little.", Remedy: "Open it by hand, with a towel under it.",
		find: func(s *survey) []hit {
			d := s.drained()
			var list []hit
			for _, p := range s.parts(plumbing.RoleStrainer) {
				if d != nil && d.left.Stays(s.net, p.ID) > 0 {
					list = append(list, hit{[]string{p.ID}, p.Name + " stays full unless it is opened."})
				}
			}
			return list
		}},
	{Code: "rinse-line-holds", Severity: Note, Why: "Nothing pumped reaches it; it is often forgotten.", Remedy: "Blow it out when winterizing.",
		find: func(s *survey) []hit {
			var list []hit
			for _, p := range s.parts(plumbing.RoleRinse) {
				list = append(list, hit{[]string{p.ID}, p.Name + ": its line keeps water after use."})
			}
			return list
		}},
	{Code: "heater-cant-empty", Severity: Error, Why: "A heater that keeps water splits in the frost.",
		Remedy: "Describe its drain plug, coil drain or dump valve, and the relief valve that lets air in.", find: heatersFull},
	{Code: "tank-no-drain", Severity: Warning, Why: "What the pump can't draw stays in it.", Remedy: "Describe the tank's drain, at its lowest place.",
		find: func(s *survey) []hit {
			var list []hit
			for _, p := range s.parts(plumbing.RoleTank) {
				switch v, known := s.staysIn(p); {
				case p.Place.Height.IsZero() && s.joined(p, "drain"):
				case !known || v >= p.Data.Capacity.Value():
					list = append(list, hit{[]string{p.ID}, p.Name + ": nothing drains it."})
				case v > p.Data.Heel.Value()+0.02*p.Data.Capacity.Value():
					list = append(list, hit{[]string{p.ID}, fmt.Sprintf("%s keeps %s below its drain.", p.Name, s.litres(v))})
				}
			}
			return list
		}},
	{Code: "off-level", Severity: Note, Why: "A camper seldom stands level; water stays in another place then.", Remedy: "Say how it is best parked to be drained.", find: offLevel},
	{Code: "machine-cycle", Severity: Note, Why: "Only its own cycle brings antifreeze or sanitizer into it.", Remedy: "Put the cycle into the procedures.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			return p.Name + " draws water by its own cycle only."
		}, plumbing.RoleMachine)},
	{Code: "frost-valve", Severity: Note, Why: "It opens by itself in the cold and lets out what is in the boiler, antifreeze too.", Remedy: "Bypass the boiler before antifreeze goes in.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			return fmt.Sprintf("%s opens by itself below %s.", p.Name, p.Data.OpensBelow)
		}, plumbing.RoleFrost)},
}

// staysIn is what a part keeps when all is drained; known is false where
// nothing is drained at all.
func (s *survey) staysIn(p *plumbing.Part) (v quantity.Litre, known bool) {
	d := s.drained()
	if d == nil {
		return 0, false
	}
	return d.left.Stays(s.net, p.ID), true
}

// heatersFull finds heaters that water comes to and that can't be emptied.
func heatersFull(s *survey) []hit {
	wet := s.wet()
	var list []hit
	for _, h := range s.parts(plumbing.RoleHeater) {
		if h.Data.Type == "portable" || !wet.Part(h) || h.Place.Height.IsZero() {
			continue // what drains can't be told without its height: a finding of its own
		}
		v, known := s.staysIn(h)
		if known && v <= h.Data.Heel.Value()+0.02*h.Data.Capacity.Value() {
			continue
		}
		words := fmt.Sprintf("%s can't be emptied", h.Name)
		if known {
			words += ": it keeps " + s.litres(v)
			d := s.drained()
			for i, p := range d.left.Pieces {
				if p.Part == h && d.why[i] != flow.Heel {
					words += ", " + because(d.why[i])
					break
				}
			}
		}
		list = append(list, hit{[]string{h.ID}, words + "."})
	}
	return list
}

func (s *survey) height(m quantity.Metre) string { return quantity.Show(m, s.net.Model.System()) }

// offLevel tells of the attitude in which most more stays, and of the one in
// which least does.
func offLevel(s *survey) []hit {
	d := s.drained()
	if d == nil || len(d.left.Unknown) == len(s.net.Model.Parts) {
		return nil
	}
	const worth quantity.Litre = 0.02
	level := d.left.Total()
	worst, best := level, level
	var worstAt, bestAt state.Attitude
	for _, a := range state.Attitudes()[1:] {
		tilted := d.state
		tilted.Attitude = a
		switch v := flow.Drain(s.net, tilted).Total(); {
		case v > worst+1e-9:
			worst, worstAt = v, a
		case v < best-1e-9:
			best, bestAt = v, a
		}
	}
	if worst-level < worth && level-best < worth {
		return nil
	}
	words := fmt.Sprintf("Drained level it keeps %s", s.litres(level))
	if worst-level >= worth {
		words += fmt.Sprintf(", %s %s", worstAt.Words(), s.litres(worst))
	}
	if level-best >= worth {
		words += fmt.Sprintf("; %s it keeps least, %s", bestAt.Words(), s.litres(best))
	}
	return []hit{{nil, words + "."}}
}
