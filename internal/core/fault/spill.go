package fault

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// into is the flow into a part in the still scene, in litres a minute.
func (x *wrong) into(p *plumbing.Part) quantity.LitrePerMinute {
	if x.still == nil {
		return 0
	}
	sum := 0.0
	for i, l := range x.net.AllLinks() {
		q := float64(x.still.Flow[i])
		if l.Line == nil {
			continue
		}
		if x.net.Nodes[l.B].Part == p && q > 0 {
			sum += q
		} else if x.net.Nodes[l.A].Part == p && q < 0 {
			sum -= q
		}
	}
	return quantity.LitrePerMinute(sum)
}

// least is the flow below which nothing is seen to run, in litres a minute.
const least = 0.02

// tankGets tells of water that runs into a tank that is not to be filled.
func (x *wrong) tankGets(list []setting.Breach) {
	for _, b := range list {
		t := b.Clause.Target
		q := x.into(t)
		ids := []string{t.ID}
		rate := ""
		if q > least {
			rate = " at about " + quantity.Rough(q, x.sys)
		}
		switch {
		case x.a.Mode.ID == setting.Storage:
			x.say(Damage, ids, "What stands in the lines can run back into %s.", lower(t.Name))
		case x.fluid() == "antifreeze":
			x.say(Damage, ids, "Antifreeze runs into %s%s instead of to the outlets.%s", lower(t.Name), rate, x.neverStops(q))
		case x.a.Mode.PumpOn:
			x.say(Nuisance, ids, "The pump sends %s back into %s%s: less comes at the outlets.%s", x.fluid(), lower(t.Name), rate, x.neverStops(q))
		case x.fluid() == "air":
			x.say(Nuisance, ids, "Air escapes into %s.", lower(t.Name))
		default:
			full := ""
			if q > least {
				half := quantity.Second(float64(t.Data.Capacity.Value()) / 2 / float64(q) * 60)
				full = fmt.Sprintf("; half full, it overflows after about %s", quantity.Rough(half, x.sys))
			}
			x.say(Waste, ids, "%s fills by itself%s%s.", t.Name, rate, full)
		}
	}
}

// neverStops tells that a pump that keeps delivering is not stopped by its switch.
func (x *wrong) neverStops(q quantity.LitrePerMinute) string {
	if x.a.Mode.PumpOn && q > least {
		return " The pump never falls silent."
	}
	return ""
}

func (x *wrong) tankMisses(list []setting.Breach) {
	for _, b := range list {
		words := fmt.Sprintf("Nothing gets into %s.", lower(b.Clause.Target.Name))
		if x.dry() {
			words += " The pump runs without stopping and draws nothing" + x.dryLimit() + "."
		}
		x.say(Nuisance, []string{b.Clause.Target.ID}, "%s", words)
	}
}

// spills tells where something runs out, and how fast.
func (x *wrong) spills(list []setting.Breach) {
	seen := map[*plumbing.Part]bool{}
	for _, b := range list {
		p := b.Clause.Target
		if seen[p] {
			continue
		}
		seen[p] = true
		what := x.fluid()
		from := x.net.Nodes[b.Clause.From[0]].Part
		if from.Kind == plumbing.Tank {
			what = "water from " + lower(from.Name)
		}
		var q quantity.LitrePerMinute
		if x.still != nil {
			for node, out := range x.still.Out {
				if x.net.Nodes[node].Part == p && out > q {
					q = out
				}
			}
		}
		ids := []string{p.ID}
		g := Waste
		if what == "antifreeze" {
			g = Damage
		}
		loss := ""
		if h := x.heaterBehind(p); h != nil && x.a.Mode.ID != setting.HeaterAlone {
			loss = fmt.Sprintf(" %s loses its %s.", h.Name, h.Data.Capacity)
		}
		switch {
		case p.Kind == plumbing.Strainer && x.a.Mode.PumpOn:
			x.say(Nuisance, ids, "The pump draws air at %s: it spits and does not build up pressure.", lower(p.Name))
		case what == "air":
			x.say(Nuisance, ids, "Air escapes at %s.", lower(p.Name))
		case x.a.Mode.ID == setting.Storage:
			x.say(Damage, ids, "What stands in the lines runs out at %s.%s", lower(p.Name), loss)
		case q > least:
			x.say(g, ids, "%s runs out at %s, about %s.%s%s", plumbing.Upper(what), lower(p.Name), quantity.Rough(q, x.sys), loss, x.neverStops(q))
		case what == "water":
			x.say(Nuisance, ids, "A little water runs out at %s.%s", lower(p.Name), loss)
		default:
			x.say(g, ids, "%s can run out at %s.%s", plumbing.Upper(what), lower(p.Name), loss)
		}
	}
}

// heaterBehind is the heater that an open drain or frost valve empties.
func (x *wrong) heaterBehind(p *plumbing.Part) *plumbing.Part {
	for _, h := range x.net.PartsOf(plumbing.Heater) {
		drain := x.net.Node(h.ID + ".drain")
		for _, li := range x.net.Nodes[drain].Links {
			if h.Data.Type != "portable" && x.net.Nodes[x.net.Links[li].Other(drain)].Part == p {
				return h
			}
		}
	}
	return nil
}

// drawsElse tells what else the pump draws.
func (x *wrong) drawsElse(list []setting.Breach) {
	for _, b := range list {
		p := b.Clause.Target
		ids := []string{p.ID}
		if p.Kind != plumbing.Tank {
			if p.Kind == plumbing.CityInlet {
				continue // told as what runs out there
			}
			x.say(Nuisance, ids, "The pump draws air at %s if that is open: it spits and does not build up pressure.", lower(p.Name))
			continue
		}
		share := ""
		if x.running != nil {
			own, total := 0.0, 0.0
			for i, l := range x.net.AllLinks() {
				if l.Part != nil && l.Part.Kind == plumbing.Pump {
					total += float64(x.running.Flow[i])
				}
				if l.Line != nil && (x.net.Nodes[l.A].Part == p || x.net.Nodes[l.B].Part == p) && l.Line.Side == plumbing.Supply {
					own += abs(float64(x.running.Flow[i]))
				}
			}
			if total > 0 && own > 0.99*total {
				x.say(Damage, ids, "The pump draws water from %s instead of the %s: it runs as usual, and every outlet gives plain water.", lower(p.Name), x.fluid())
				continue
			}
			if total > 0 && own > 0 {
				share = fmt.Sprintf(": about %s %% of what it draws", quantity.Figure(min(100, 100*own/total), 2, 0))
			}
		}
		g := Nuisance
		if x.fluid() == "antifreeze" {
			g = Damage
		}
		x.say(g, ids, "The pump also draws water from %s%s. It thins the %s.", lower(p.Name), share, x.fluid())
	}
}

// weaker tells of an outlet that still gets water, but much less of it.
func (x *wrong) weaker() {
	if x.flow == nil || x.open < 0 {
		return
	}
	now := x.run(x.net, x.set, x.open, nil)
	if now == nil {
		return
	}
	before, after := x.flow.Out[x.open], now.Out[x.open]
	if after < before*0.75 {
		n := x.net.Nodes[x.open]
		x.say(Nuisance, []string{n.Part.ID}, "Weaker flow: %s %s gives about %s instead of %s.", n.Part.Name, n.Port, quantity.Rough(after, x.sys), quantity.Rough(before, x.sys))
	}
}

// drained tells what more stays when something is wrong while draining.
func (x *wrong) drained() {
	const worth = 0.02 // L: a splash more is not worth telling
	was := x.left
	now := flow.Drain(x.net, x.set, flow.Openings(x.net, x.set, nil))
	more := now.Total() - was.Total()
	if more < worth {
		return
	}
	type place struct {
		id, name string
		more     quantity.Litre
	}
	var list []place
	seen := map[string]bool{}
	for _, p := range now.Pieces {
		id := p.ID(x.net)
		if seen[id] {
			continue
		}
		seen[id] = true
		if d := now.Stays(x.net, id) - was.Stays(x.net, id); d > worth/2 {
			list = append(list, place{id, pieceName(x.net, p), d})
		}
	}
	slices.SortStableFunc(list, func(a, b place) int { return cmp.Compare(b.more, a.more) })
	var ids, words []string
	for i, p := range list {
		ids = append(ids, p.id)
		if i < 3 {
			words = append(words, fmt.Sprintf("%s in %s", quantity.Rough(p.more, x.sys), p.name))
		}
	}
	rest := ""
	if len(list) > 3 {
		rest = " and more elsewhere"
	}
	x.say(Damage, ids, "About %s more water stays: %s%s. Frost bursts what is full.", quantity.Rough(more, x.sys), strings.Join(words, ", "), rest)
}

// pieceName names the part, or the line by its ends.
func pieceName(n *plumbing.Network, p flow.Left) string {
	if p.Part != nil {
		return lower(p.Part.Name)
	}
	l := &n.Links[p.Link]
	return fmt.Sprintf("the line from %s to %s", lower(n.Nodes[l.A].Part.Name), lower(n.Nodes[l.B].Part.Name))
}
