package assembly

import (
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// outlets are what a branch can serve: the data's type, the usual name, the
// short name for its tees, its sides, and its trap.
var outlets = []struct {
	typ, name, short string
	hot              bool
	trap, seal       string
	frail            bool
}{
	{"kitchen", "Kitchen tap", "kitchen", true, "Kitchen trap", "", false},
	{"basin", "Basin tap", "basin", true, "Basin trap", "", false},
	{"shower", "Shower", "shower", true, "Shower trap", "", false},
	{"outside-shower", "Outside shower", "outside shower", true, "", "", false},
	{"toilet", "Toilet", "toilet", false, "", "1 pt", true},
	{"sprayer", "Toilet sprayer", "sprayer", false, "", "", true},
	{"outside-tap", "Outside tap", "outside tap", false, "", "", true},
	{"boot-wash", "Boot wash", "boot wash", false, "", "", false},
	{"purified", "Purified-water tap", "purified water", false, "", "", false},
}

func outletChoices() []Choice {
	var list []Choice
	for _, o := range outlets {
		words := o.name + ", cold"
		if o.hot {
			words += " and hot"
		}
		list = append(list, Choice{o.typ, words})
	}
	return list
}

var branch = Kind{ID: "branch", Name: "Branch with outlets", Questions: []Question{
	{Name: "outlets", Ask: "Outlets, in the order in which they are joined", Choice: outletChoices(), Usual: "kitchen",
		Many: true},
	{Name: "cold", Ask: "Cold from", Port: plumbing.Cold},
	{Name: "hot", Ask: "Hot from", Port: plumbing.Hot},
	{Name: "flow", Ask: "Rated flow of each", Usual: "1.8 gal/min|6 L/min"},
}, build: buildBranch}

func buildBranch(b *builder) error {
	flow, err := given[quantity.LitrePerMinute](b, "flow")
	if err != nil {
		return err
	}
	for i, typ := range b.many("outlets") {
		found := false
		for _, o := range outlets {
			if o.typ != typ {
				continue
			}
			found = true
			id := b.part(plumbing.Outlet, o.name, data(func(d *plumbing.Data) {
				d.Type, d.Flow, d.FrostSensitive = o.typ, flow, o.frail
				d.Waste = b.waste(typ == "toilet" || typ == "sprayer")
				if o.seal != "" {
					d.Seal = must[quantity.Litre](o.seal)
				}
			}))
			for _, side := range []struct {
				name string
				side plumbing.Side
				is   bool
			}{{"cold", plumbing.Cold, true}, {"hot", plumbing.Hot, o.hot}} {
				if !side.is {
					continue
				}
				place := b.at(side.name, side.side)
				if i > 0 { // the next is joined beside the one before
					place = ""
					if list := Places(b.m, side.side); len(list) > 0 {
						place = list[0].Value
					}
				}
				if err := b.join(place, id+"."+side.name, side.side, plumbing.Upper(side.name)+" tee, "+o.short,
					"4 ft|1 m"); err != nil {
					return err
				}
			}
			if o.trap != "" {
				b.part(plumbing.Trap, o.trap, data(func(d *plumbing.Data) {
					d.Seal, d.Waste = must[quantity.Litre]("8 fl oz"), b.waste(false)
				}))
			}
		}
		if !found {
			return faultf("Outlets", "%q is no outlet", typ)
		}
	}
	return nil
}

// waste is the first waste tank of a kind, "" if there is none yet.
func (b *builder) waste(black bool) string {
	want := "grey"
	if black {
		want = "black"
	}
	for i := range b.m.Parts {
		if p := &b.m.Parts[i]; p.Role() == plumbing.RoleWaste && p.Data.Type == want {
			return p.ID
		}
	}
	return ""
}

var machine = Kind{ID: "machine", Name: "Machine", Questions: []Question{
	{Name: "type", Ask: "Machine", Choice: []Choice{{"washing-machine", "washing machine, cold and hot"},
		{"dishwasher", "dishwasher, cold"}, {"ice-maker", "ice maker, cold"}}, Usual: "washing-machine"},
	{Name: "cycle", Ask: "Water of a short cycle", Usual: "6 gal|18 L"},
	{Name: "cold", Ask: "Cold from", Port: plumbing.Cold},
	{Name: "hot", Ask: "Hot from", Port: plumbing.Hot},
}, build: func(b *builder) error {
	cycle, err := given[quantity.Litre](b, "cycle")
	if err != nil {
		return err
	}
	typ := b.get("type")
	name := plumbing.Upper(strings.ReplaceAll(typ, "-", " "))
	id := b.part(plumbing.Machine, name, data(func(d *plumbing.Data) {
		d.Type, d.Cycle, d.Waste, d.FrostSensitive = typ, cycle, b.waste(false), true
	}))
	if err := b.join(b.at("cold", plumbing.Cold), id+".cold", plumbing.Cold, "Cold tee, "+plumbing.NoArticle(name),
		"4 ft|1 m"); err != nil {
		return err
	}
	if typ != "washing-machine" {
		return nil
	}
	return b.join(b.at("hot", plumbing.Hot), id+".hot", plumbing.Hot, "Hot tee, "+plumbing.NoArticle(name), "4 ft|1 m")
}}

var lowPoint = Kind{ID: "drain", Name: "Low-point drains", Questions: []Question{
	{Name: "sides", Ask: "Sides", Choice: []Choice{{"cold", "cold"}, {"hot", "hot"}}, Usual: "cold,hot", Many: true},
	{Name: "closure", Ask: "Closed by", Choice: []Choice{{"cap", "a cap"}, {"valve", "a valve"}, {"plug", "a plug"},
		{"toggle", "a toggle"}}, Usual: "cap"},
	{Name: "cold", Ask: "Cold from", Port: plumbing.Cold},
	{Name: "hot", Ask: "Hot from", Port: plumbing.Hot},
}, build: func(b *builder) error {
	closure := b.get("closure")
	kind := map[string]string{"valve": "lever"}[closure]
	if kind == "" {
		kind = closure
	}
	for _, side := range b.many("sides") {
		of := plumbing.Side(side)
		place := b.at(side, of)
		if place == "" {
			return faultf("Sides", "there is no %s line yet to drain", side)
		}
		word := plumbing.Upper(string(side))
		id := b.part(plumbing.LowPoint, word+" low-point drain", handle(kind, "upright", "closed"),
			data(func(d *plumbing.Data) { d.Closure = closure }))
		if err := b.join(place, id+".in", plumbing.Drain, word+" tee, low point", "10 in|0.2 m"); err != nil {
			return err
		}
	}
	return nil
}}
