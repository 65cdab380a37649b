package finding

import (
	"fmt"
	"math"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// trapRules find places where water stays that everyone forgets.
var trapRules = []Rule{
	{Code: "loop-below-drain", Severity: Warning, Why: "Water stays in the loop when the low points are open.", Mend: "Blow the branch out, treat it, or move the drain below the loop.",
		find: eachLine(belowDrain)},
	{Code: "drain-high", Severity: Warning, Why: "It can't empty what lies below it.", Mend: "Put the drain below the lowest line, or correct the heights.",
		find: each(func(s *survey, d *plumbing.Part) string {
			own, ok := d.PortHeight("in")
			for _, l := range s.at(d) {
				for _, ref := range []string{l.From, l.To} {
					id, port := plumbing.PartOf(ref)
					p := s.net.Model.Part(id)
					if h, has := p.PortHeight(port); p != d && ok && has && h < own-0.001 {
						return fmt.Sprintf("%s stands at %s, above %s at %s.", d.Name, s.height(own), strings.ToLower(p.Name), s.height(h))
					}
				}
			}
			return ""
		}, plumbing.LowPoint)},
	{Code: "city-pocket", Severity: Note, Why: "Antifreeze from the pump never reaches the water ahead of the check valve; the plastic there breaks.", Mend: "Let it out by hand at the end of winterizing.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			if !p.Data.CheckValve {
				return ""
			}
			return p.Name + ": water stands ahead of its check valve."
		}, plumbing.CityInlet)},
	{Code: "port-hose-holds", Severity: Warning, Why: "Nothing flows through it in everyday use, and nothing drains it.", Mend: "Empty it by hand after use, or draw antifreeze through it.",
		find: eachLine(func(s *survey, l *plumbing.Line) string {
			port := s.net.Model.Part(first(plumbing.PartOf(l.From)))
			other := s.net.Model.Part(first(plumbing.PartOf(l.To)))
			if other.Kind == plumbing.ContainerPort {
				port, other = other, port
			}
			low := math.Inf(1)
			for _, spot := range l.Spots {
				low = min(low, float64(spot.Height.Value()))
			}
			a, okA := port.PortHeight("out")
			b, okB := other.PortHeight("a")
			if port.Kind != plumbing.ContainerPort || !okA || !okB || low >= min(float64(a), float64(b)) {
				return ""
			}
			return fmt.Sprintf("%s hangs down to %s, below both its ends: it holds water behind %s.", s.lineName(l), s.height(quantity.Metre(low)), strings.ToLower(other.Name))
		})},
	{Code: "machine-cycle", Severity: Note, Why: "Only its own cycle brings antifreeze or sanitizer into it.", Mend: "Put the cycle into the procedures.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			return p.Name + " draws water by its own cycle only."
		}, plumbing.Machine)},
	{Code: "frost-valve", Severity: Note, Why: "It opens by itself in the cold and lets out what is in the boiler, antifreeze too.", Mend: "Bypass the boiler before antifreeze goes in.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			return fmt.Sprintf("%s opens by itself below %s.", p.Name, p.Data.OpensBelow)
		}, plumbing.FrostValve)},
	{Code: "strainer-holds", Severity: Note, Why: "Its bowl stays full when the lines are drained, and breaks on little.", Mend: "Open it by hand, with a towel under it.",
		find: each(func(s *survey, p *plumbing.Part) string {
			h, ok := p.PortHeight("in")
			for _, l := range s.at(p) {
				for _, ref := range []string{l.From, l.To} {
					id, port := plumbing.PartOf(ref)
					x := s.net.Model.Part(id)
					if other, has := x.PortHeight(port); x != p && ok && has && x.Kind == plumbing.LowPoint && other < h {
						return ""
					}
				}
			}
			return p.Name + " stays full unless it is opened."
		}, plumbing.Strainer)},
	{Code: "rinse-line-holds", Severity: Note, Why: "Nothing pumped reaches it; it is often forgotten.", Mend: "Blow it out when winterizing.",
		find: each(func(_ *survey, p *plumbing.Part) string {
			return p.Name + ": its line keeps water after use."
		}, plumbing.RinseInlet)},
}

func first(a, _ string) string { return a }

func (s *survey) height(m quantity.Metre) string { return quantity.Show(m, s.net.Model.System()) }

// belowDrain compares a line's lowest spot with the lowest low-point drain
// that its water can get to.
func belowDrain(s *survey, l *plumbing.Line) string {
	if len(l.Spots) == 0 || l.Side == plumbing.Air || l.Side == plumbing.Supply {
		return ""
	}
	low := quantity.Metre(math.Inf(1))
	for _, spot := range l.Spots {
		low = min(low, spot.Height.Value())
	}
	r := s.reach([]int{s.net.Node(l.From), s.net.Node(l.To)})
	drain, best := (*plumbing.Part)(nil), quantity.Metre(math.Inf(1))
	for _, d := range s.parts(plumbing.LowPoint) {
		if h, ok := d.PortHeight("in"); ok && r.Part(d) && h < best {
			drain, best = d, h
		}
	}
	if drain == nil || low >= best {
		return ""
	}
	return fmt.Sprintf("%s dips to %s; the lowest drain it runs to, %s, stands at %s.", s.lineName(l), s.height(low), strings.ToLower(drain.Name), s.height(best))
}
