package amount

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// WinterSchool is one way of making a model ready for the winter, with what it
// takes here.
type WinterSchool struct {
	ID      string
	Name    fact.Fact
	For     fact.Fact
	Against fact.Fact
	Sheet   *AntifreezeSheet // nil where it takes none
	Weakest *Weakest         // nil where no antifreeze stands in the lines
	Stays   quantity.Litre   // plain water that stays, where it is known
	Cant    fact.Fact        // why this model can't do it; nothing if it can
	Wrong   fact.Fact        // what stays wrong with the best there is; nothing if all is right
	Advised bool             // not recommended where false
}

// WinterSchools works the schools out side by side.
func WinterSchools(n *plumbing.Network, plan []setting.Answer, rules house.House) []WinterSchool {
	list := []WinterSchool{{ID: "air"}, {ID: "pump"}, {ID: "hand-pump"}, {ID: "air-then"}, {ID: "tank"}}
	for i := range list {
		w := &list[i]
		w.Name = fact.Of("winter."+w.ID, fact.Word("vehicle."+n.Model.Vehicle().ID+".short"))
		w.Against, w.Advised = fact.Of("winter."+w.ID+".against"), w.ID != "tank"
		w.For = fact.If(w.Advised, fact.Of("winter."+w.ID+".for"))
	}
	modes := map[string]string{"air": setting.Blow, "pump": setting.Antifreeze, "hand-pump": setting.HandPump,
		"air-then": setting.Antifreeze, "tank": setting.Sanitize}
	states := map[string]LineState{"pump": Drained, "hand-pump": Drained, "air-then": Blown, "tank": Drained}
	for i := range list {
		w := &list[i]
		a := answer(n, plan, modes[w.ID])
		if !a.Has() {
			w.Cant = fact.Of("winter.no-setting")
			if a != nil {
				w.Cant = a.Why
			}
			continue
		}
		before := states[w.ID]
		if air := answer(n, plan, setting.Blow); before == Blown && !air.Has() {
			w.Cant = fact.Of("winter.no-air", air.Why)
			continue
		}
		w.Wrong = a.Why
		if w.ID == "air" {
			w.Stays = figure.Work(n, "stays/air", figure.Of, func() (sum quantity.Litre) {
				for _, p := range leftBefore(n, plan, Blown, rules).Pieces {
					if !p.Vessel || p.Stays() > plumbing.Field(n, &p.Part.Data.Heel).Value() {
						sum += p.Stays()
					}
				}
				return sum
			}).Value()
			continue
		}
		sheet := Antifreeze
		if w.ID == "tank" {
			sheet = ThroughTank
		}
		takes := sheet(n, a, before, rules)
		w.Sheet = &takes
		if weak, err := WeakestPoint(n, plan, a, before, rules); err == nil {
			w.Weakest = weak
		}
	}
	return list
}

// JugStop is an outlet in the order in which antifreeze comes to it.
type JugStop struct {
	Name  fact.Fact
	Takes quantity.Litre // until it is fully coloured
	Sum   quantity.Litre
	Next  bool // the next jug is due after it
}

// Order says with which outlet antifreeze begins.
type Order int

// The orders that are taught.
const (
	FarthestFirst Order = iota
	NearestFirst
)

// ID is the order as figures and addresses call it.
func (o Order) ID() string { return [...]string{"far", "near"}[o] }

// TurnOf is the turn of a mode in which an outlet's side is served, 0 for the
// first and where there is only one.
func TurnOf(a *setting.Answer, side plumbing.NodeID) int {
	return max(0, slices.IndexFunc(a.Turns, func(t setting.Turn) bool {
		return slices.ContainsFunc(t.Meets, func(c setting.Clause) bool {
			return c.Aim == setting.Served && c.To[0] == side
		})
	}))
}

// JugStops says what each outlet takes in turn, and after which the next jug
// is due. The first pays for the trunk line.
func JugStops(n *plumbing.Network, a *setting.Answer, order Order, rules house.House) []JugStop {
	due := func(list []JugStop) figure.Value {
		var at []string
		for i := range list {
			if list[i].Next {
				at = append(at, strconv.Itoa(i+1))
			}
		}
		return figure.Choice(strings.Join(at, ","))
	}
	return figure.Work(n, "jug-due/"+order.ID(), due, func() []JugStop { return jugStops(n, a, order, rules) }).Value()
}

// Ends are the outlet sides that a mode's fluid gets to, in an order by how far they are, turn by
// turn, and the low-point drains that it gets to.
func Ends(n *plumbing.Network, a *setting.Answer, order Order) (outlets, drains []plumbing.NodeID) {
	c := courseOf(n, a)
	outlets, drains = ends(n, a)
	far := map[plumbing.NodeID]float64{}
	for _, node := range outlets {
		for _, li := range c.path(node) {
			if l := n.Links[li].Line; l != nil {
				far[node] += float64(plumbing.Field(n, &l.Length).Value())
			}
		}
	}
	slices.SortStableFunc(outlets, func(x, y plumbing.NodeID) int {
		if by := cmp.Compare(TurnOf(a, x), TurnOf(a, y)); by != 0 {
			return by
		}
		by := cmp.Compare(far[y], far[x])
		if order == NearestFirst {
			by = -by
		}
		return cmp.Or(by, cmp.Compare(n.Nodes[x].Name(), n.Nodes[y].Name()))
	})
	return outlets, drains
}

func jugStops(n *plumbing.Network, a *setting.Answer, order Order, rules house.House) []JugStop {
	c := courseOf(n, a)
	outlets, drains := Ends(n, a, order)
	filled, cycled := make([]bool, len(n.Links)), map[*plumbing.Part]bool{}
	var list []JugStop
	var sum quantity.Litre
	jugs := 1
	for _, node := range slices.Concat(outlets, drains) {
		takes := house.Overrun.Of(rules)
		switch p := n.Nodes[node].Part; {
		case p.Role() == plumbing.RoleDrain:
			takes = house.RunOut.Of(rules)
		case p.Role() == plumbing.RoleMachine && cycled[p]:
			takes = 0
		case p.Role() == plumbing.RoleMachine:
			takes, cycled[p] = plumbing.Field(n, &p.Data.Cycle).Value(), true
		}
		for i, yes := range c.swept(a.Mode.From, []plumbing.NodeID{node}) {
			if yes && !filled[i] && n.Content(&n.Links[i]) > 0 {
				filled[i] = true
				takes += n.Content(&n.Links[i])
			}
		}
		sum += takes
		stop := JugStop{Name: fact.Of("subject.side", n.Nodes[node].Part, plumbing.Side(n.Nodes[node].Port)),
			Takes: takes, Sum: sum}
		if n.Nodes[node].Part.Role() == plumbing.RoleDrain {
			stop.Name = itself(n.Nodes[node].Part)
		}
		if due := int(math.Floor(float64((sum+house.Overrun.Of(rules))/house.Jug.Of(rules)))) + 1; due > jugs {
			stop.Next, jugs = true, due
		}
		list = append(list, stop)
	}
	return list
}

// CountSaid is how many jugs.
func (j Jugs) CountSaid() fact.Fact { return fact.Of("jugs.count", j.Count) }

// Said is how many jugs, and what is left over.
func (j Jugs) Said() fact.Fact { return fact.Of("jugs.left-over", j.CountSaid(), j.Size, j.Left) }
