package amount

import (
	"slices"

	"coldtap/internal/core/constant"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// LineState is how the lines are when antifreeze goes in.
type LineState int

const (
	Drained LineState = iota // emptied at the low points
	Full                     // still full of water
	Blown                    // drained and blown out with air
)

// LineStates lists them in the order they are shown.
func LineStates() []LineState { return []LineState{Drained, Blown, Full} }

// ID is the state as figures and addresses call it.
func (s LineState) ID() string { return [...]string{"drained", "full", "blown"}[s] }

// AntifreezeSheet is the worksheet of one way of putting antifreeze in.
type AntifreezeSheet struct {
	Worksheet
	State    LineState
	Bypassed bool
	Cycles   Worksheet // what machines draw by their own cycles, apart from the total
	Jugs     []Jugs    // for the total and the cycles
}

// Jugs is a number of jugs of one size and what is left over.
type Jugs struct {
	Size  quantity.Litre
	Count int
	Left  quantity.Litre
}

// Antifreeze works out what a setting takes when antifreeze is drawn from the
// mode's source to every outlet in turn.
func Antifreeze(n *plumbing.Network, a *setting.Answer, before LineState, rules house.House) AntifreezeSheet {
	return counted(n, "antifreeze/"+a.Mode.ID+"/"+before.ID(), rules, func() AntifreezeSheet {
		return antifreeze(n, a, before, rules)
	})
}

// ThroughTank is Antifreeze through the fresh tank, whose heel it fills and is
// thinned by.
func ThroughTank(n *plumbing.Network, a *setting.Answer, before LineState, rules house.House) AntifreezeSheet {
	return counted(n, "antifreeze/tank/"+before.ID(), rules, func() AntifreezeSheet {
		sheet, heel := antifreeze(n, a, before, rules), heelVolume(n)
		sheet.add(Row{What: fact.Of("row.heel-twice"), Formula: fact.Of("formula.heel-twice"), Inputs: shown(heel),
			Litre:  2 * heel,
			Source: fact.Of("source.heel-twice")})
		return sheet
	})
}

// counted is a sheet as a figure, and the jugs that it takes as another.
func counted(n *plumbing.Network, id string, rules house.House, work func() AntifreezeSheet) AntifreezeSheet {
	total := figure.Work(n, id, func(s AntifreezeSheet) figure.Value { return figure.Or(s.Total, s.Missing) }, work)
	sheet := total.Value()
	jugs := figure.Work(n, id+"/jugs", func(j Jugs) figure.Value { return figure.Count(j.Count) }, func() Jugs {
		s := total.Of(n)
		size, whole := house.Jug.Of(rules), s.Total+s.Cycles.Total
		count := quantity.RoundUp(float64(whole / size))
		return Jugs{Size: size, Count: count, Left: size*quantity.Litre(count) - whole}
	})
	sheet.Jugs = []Jugs{jugs.Value()}
	return sheet
}

func antifreeze(n *plumbing.Network, a *setting.Answer, before LineState, rules house.House) AntifreezeSheet {
	sys := n.Model.System()
	sheet := AntifreezeSheet{State: before, Bypassed: true}
	sheet.Title = fact.Of("sheet.antifreeze", fact.Word("lines."+before.ID()))
	c := courseOf(n, a)
	outlets, drains := ends(n, a)
	swept := c.swept(a.Mode.From, slices.Concat(outlets, drains))
	var lines quantity.Litre
	for i, l := range n.AllLinks() {
		switch {
		case !swept[i]:
		case l.Part != nil && l.Part.Role() == plumbing.RoleHeater:
			sheet.Bypassed = false
			r := linkRow(n, l, sys)
			if before == Full {
				r.Formula, r.Litre = fact.Of("formula.mixes"), n.Content(l)*quantity.Litre(constant.MixedThrough.Of(n.Recorder()))
				r.Source = fact.Of("source.mixes")
			}
			sheet.add(r)
		default:
			lines += n.Content(l)
			sheet.addLink(n, l, sys)
		}
	}
	if !sheet.Bypassed {
		sheet.Title = fact.Of("sheet.antifreeze.heater-in", fact.Word("lines."+before.ID()))
	}
	if before == Full {
		sheet.add(Row{What: fact.Of("row.mixing"), Formula: fact.Of("formula.share-lines"),
			Inputs: share(house.Smear.Of(rules), lines),
			Litre:  lines * quantity.Litre(house.Smear.Of(rules)), Source: source(rules, "smear")})
	}
	sheet.allowances(c, outlets, drains, rules)
	sheet.untreated(c, swept)
	return sheet
}

// ends lists the outlet sides and the low-point drains that a mode's fluid
// gets to, drains of tank and heater left aside.
func ends(n *plumbing.Network, a *setting.Answer) (outlets, drains []plumbing.NodeID) {
	all, past := courseOf(n, a), courseOf(n, a, n.PartsOf(plumbing.RoleHeater)...)
	for i, node := range n.AllNodes() {
		switch {
		case node.Part.Kind.Info().Target && all.node(i):
			outlets = append(outlets, i)
		case node.Part.Role() == plumbing.RoleDrain && node.Port == "in" && all.node(i) &&
			(past.node(i) || !besideHeater(n, i)):
			drains = append(drains, i)
		}
	}
	return outlets, drains
}

// besideHeater reports whether a line joins the node to a heater.
func besideHeater(n *plumbing.Network, node plumbing.NodeID) bool {
	for _, li := range n.Nodes[node].Links {
		if n.Nodes[n.Links[li].Other(node)].Part.Role() == plumbing.RoleHeater {
			return true
		}
	}
	return false
}

func (sheet *AntifreezeSheet) allowances(c course, outlets, drains []plumbing.NodeID, rules house.House) {
	n := c.net
	for _, p := range n.PartsOf(plumbing.RoleAccumulator) {
		if c.part(p) {
			sheet.add(accumulatorRow(n, p, rules))
		}
	}
	sheet.Cycles.Title = fact.Of("sheet.cycles")
	for _, o := range outlets {
		p := n.Nodes[o].Part
		if p.Role() == plumbing.RoleMachine {
			sheet.cycle(n, p)
			continue
		}
		sheet.add(Row{Part: p.ID, What: fact.Of("row.until-fully-coloured", p, plumbing.Side(n.Nodes[o].Port)),
			Formula: fact.Of("formula.overrun"),
			Inputs:  shown(house.Overrun.Of(rules)), Litre: house.Overrun.Of(rules), Source: source(rules, "overrun")})
	}
	runOut, who := house.RunOut.Of(rules), "who.helper"
	if !house.Helper.Of(rules) {
		runOut, who = runOut*quantity.Litre(1+house.Alone.Of(rules)), "who.alone"
	}
	for _, d := range drains {
		sheet.add(Row{Part: n.Nodes[d].Part.ID, What: fact.Of("row.until-coloured", n.Nodes[d].Part),
			Formula: fact.Of("formula.run-out"),
			Inputs:  fact.Of("inputs.run-out", runOut, fact.Word(who)), Litre: runOut, Source: source(rules, "run-out")})
	}
	for _, p := range n.PartsOf(plumbing.RoleOutlet, plumbing.RoleTrap) {
		if !plumbing.Field(n, &p.Data.Seal).IsZero() {
			sheet.add(Row{Part: p.ID, What: fact.Of("row.seal", p), Formula: fact.Of("formula.seal"),
				Inputs: given(plumbing.Field(n, &p.Data.Seal)), Litre: plumbing.Field(n, &p.Data.Seal).Value(),
				Source: fact.Of("source.part")})
		}
	}
	sheet.add(Row{What: fact.Of("row.jug-heel"), Formula: fact.Of("formula.heel"),
		Inputs: shown(house.JugHeel.Of(rules)), Litre: house.JugHeel.Of(rules), Source: source(rules, "jug-heel")})
}

// cycle adds what a machine's cycle draws, once for both its sides.
func (sheet *AntifreezeSheet) cycle(n *plumbing.Network, p *plumbing.Part) {
	c := &sheet.Cycles
	if slices.ContainsFunc(c.Rows, func(r Row) bool { return r.Part == p.ID }) ||
		slices.ContainsFunc(c.Missing, func(m Missing) bool { return m.Part == p.ID }) {
		return
	}
	if plumbing.Field(n, &p.Data.Cycle).IsZero() {
		c.Missing = append(c.Missing, lacks(p, "cycle"))
		return
	}
	c.add(Row{Part: p.ID, What: fact.Of("row.cycle", p), Formula: fact.Of("formula.cycle"),
		Inputs: given(plumbing.Field(n, &p.Data.Cycle)), Litre: plumbing.Field(n, &p.Data.Cycle).Value(),
		Source: fact.Of("source.part")})
}

// untreated lists the lines that stay as they were, and why.
func (sheet *AntifreezeSheet) untreated(c course, swept []bool) {
	n := c.net
	for i, l := range n.AllLinks() {
		if l.Line == nil || swept[i] || l.Line.Side == plumbing.Air || n.FillHose(i) {
			continue
		}
		why := fact.Of("left-out.not-reached")
		if c.node(l.A) || c.node(l.B) {
			why = fact.Of("left-out.dead-end")
		}
		sheet.LeftOut = append(sheet.LeftOut, LeftOut{Part: l.Line.ID, What: LineName(n, l), Why: why})
	}
}

// share is a share of an amount.
func share[U any](of float64, amount U) fact.Fact {
	return fact.Of("inputs.share", quantity.Figure(100*of, 9, 0), amount)
}
