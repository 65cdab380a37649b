package chapter

import (
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Family is a kind of figure by which models are put side by side.
type Family struct {
	ID   string
	Name fact.Fact
}

// families are how the ids of figures of a family begin and end; of a part's own figure its role.
var families = []struct {
	id           string
	role         plumbing.Role
	begins, ends string
}{
	{id: "fresh", role: plumbing.RoleTank}, {id: "heater", role: plumbing.RoleHeater}, {id: "waste", role: plumbing.RoleWaste},
	{id: "lines", begins: "content"}, {id: "bleach", begins: "dose/", ends: "/measured"}, {id: "soak", begins: "soak"},
	{id: "refills", begins: "flush/", ends: "/refills"}, {id: "flush-water", begins: "flush/", ends: "/water"},
	{id: "antifreeze", begins: "antifreeze/antifreeze/blown"}, {id: "jugs", begins: "antifreeze/antifreeze/blown/jugs"},
	{id: "weight", begins: "weight"}, {id: "left", begins: "weight/left"},
}

// Families lists the families in the order in which they are shown.
func Families() (list []Family) {
	for _, f := range families {
		list = append(list, Family{f.id, fact.Of("family." + f.id)})
	}
	return list
}

// InFamily are the figures of a model that belong to a family; of ways of flushing that of the house's.
func (in *Inputs) InFamily(id string) (list []Figure) {
	for _, x := range families {
		if x.id != id {
			continue
		}
		if x.role != "" {
			for _, p := range in.Net.PartsOf(x.role) {
				if v := in.capacity(p.ID); !v.IsZero() {
					list = append(list, Figure{ID: "part/" + p.ID, Name: fact.Of("named.holds", p), Value: v})
				}
			}
			continue
		}
		for _, f := range in.AllFigures() {
			exact := f.ID == x.begins || x.ends != "" && strings.HasPrefix(f.ID, x.begins) && strings.HasSuffix(f.ID, x.ends)
			if !exact || strings.HasPrefix(f.ID, "flush/") && !in.houseWay(f.ID) {
				continue
			}
			list = append(list, Figure{ID: f.ID, Name: f.Name, Value: f.Is})
		}
	}
	return list
}
