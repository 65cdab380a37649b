package assembly

import (
	"cmp"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

var filter = Kind{ID: "filter", Name: "Filter", Questions: []Question{
	{Name: "type", Ask: "Kind", Choice: []Choice{{"canister", "whole-house canister"}, {"in-line", "in-line"},
		{"purified-water", "purified-water cartridge"}}, Usual: "canister"},
	{Name: "capacity", Ask: "Holds", Usual: "0.45 gal|1.5 L"},
	{Name: "line", Ask: "Goes into the line", Port: plumbing.Cold},
}, build: func(b *builder) error {
	capacity, err := given[quantity.Litre](b, "capacity")
	if err != nil {
		return err
	}
	name := map[string]string{"canister": "Whole-house canister", "in-line": "In-line filter",
		"purified-water": "Purified-water cartridge"}[b.get("type")]
	p := plumbing.Part{Kind: plumbing.Filter, Name: b.free(name), Tool: "by hand",
		Data: plumbing.Data{Type: b.get("type"), Capacity: capacity, Cartridge: "as fitted"}}
	return b.insert(p, plumbing.Cold, "in", "out")
}}

var softener = Kind{ID: "softener", Name: "Water softener", Questions: []Question{
	{Name: "capacity", Ask: "Holds", Usual: "2 gal|8 L"},
	{Name: "line", Ask: "Goes into the line", Port: plumbing.Cold},
}, build: func(b *builder) error {
	capacity, err := given[quantity.Litre](b, "capacity")
	if err != nil {
		return err
	}
	p := plumbing.Part{Kind: plumbing.Softener, Name: b.free("Water softener"), Normal: "service",
		Data: plumbing.Data{Capacity: capacity}}
	p.Reading.Handle = "knob"
	return b.insert(p, plumbing.Cold, "in", "out")
}}

var mixer = Kind{ID: "mixer", Name: "Thermostatic mixing valve", Questions: []Question{
	{Name: "line", Ask: "Goes into the hot line", Port: plumbing.Hot},
	{Name: "cold", Ask: "Cold from", Port: plumbing.Cold},
}, build: func(b *builder) error {
	name := b.free("Mixing valve")
	if err := b.insert(plumbing.Part{Kind: plumbing.MixingValve, Name: name}, plumbing.Hot, "hot",
		"mixed"); err != nil {
		return err
	}
	id := b.m.Parts[len(b.m.Parts)-1].ID
	return b.join(b.at("cold", plumbing.Cold), id+".cold", plumbing.Cold, "Mixing valve tee", "2 ft|0.5 m")
}}

// insert puts a part with two ends into the line of a side that was chosen.
func (b *builder) insert(p plumbing.Part, side plumbing.Side, in, out string) error {
	line, ok := strings.CutPrefix(b.get("line"), "line:")
	if !ok {
		for _, c := range Places(b.m, side) {
			if line, ok = strings.CutPrefix(c.Value, "line:"); ok {
				break
			}
		}
	}
	if !ok {
		return faultf(cmp.Or(map[plumbing.Side]string{plumbing.Hot: "Goes into the hot line"}[side],
			"Goes into the line"), "there is no %s line yet", side)
	}
	done, err := edit.InsertInto(b.m, line, p, in, out)
	if err != nil {
		return err
	}
	b.m.Parts, b.m.Lines = done.Model.Parts, done.Model.Lines
	b.added = append(b.added, p.Name)
	return nil
}

var accumulator = Kind{ID: "accumulator", Name: "Accumulator", Questions: []Question{
	{Name: "capacity", Ask: "Volume", Usual: "0.3 gal|1 L"},
	{Name: "cold", Ask: "Joins the cold side at", Port: plumbing.Cold},
}, build: func(b *builder) error {
	capacity, err := given[quantity.Litre](b, "capacity")
	if err != nil {
		return err
	}
	id := b.part(plumbing.Accumulator, "Accumulator", data(func(d *plumbing.Data) { d.Capacity = capacity }))
	return b.join(b.at("cold", plumbing.Cold), id+".in", plumbing.Cold, "Accumulator tee", "6 in|0.15 m")
}}

var couplings = Kind{ID: "couplings", Name: "Coupling pair", Questions: []Question{
	{Name: "cold", Ask: "Cold from", Port: plumbing.Cold},
	{Name: "capacity", Ask: "The portable heater holds", Usual: "0.3 gal|1 L"},
	{Name: "gas", Ask: "Its gas", Choice: []Choice{{"coupled", "on a coupling beside them"},
		{"own", "from a bottle of its own"}}, Usual: "coupled"},
}, build: func(b *builder) error {
	capacity, err := given[quantity.Litre](b, "capacity")
	if err != nil {
		return err
	}
	place := b.at("cold", plumbing.Cold) // before there are lines of its own to choose
	apart := func(colour string) func(*plumbing.Part) {
		return func(p *plumbing.Part) { p.Normal, p.Colours = "apart", map[string]string{"coupling": colour} }
	}
	cold := b.part(plumbing.Coupling, "Cold coupling", apart("blue"))
	hot := b.part(plumbing.Coupling, "Hot coupling", apart("red"))
	heater := b.part(plumbing.Heater, "Portable heater", data(func(d *plumbing.Data) {
		d.Type, d.Capacity = "portable", capacity
	}))
	shower := b.part(plumbing.Outlet, "Outside shower", data(func(d *plumbing.Data) { d.Type = "outside-shower" }))
	if b.get("gas") == "coupled" {
		b.part(plumbing.GasCoupling, "Gas coupling", apart("yellow"), data(func(d *plumbing.Data) {
			d.Serves = heater
		}))
	}
	b.line(cold+".b", heater+".cold", plumbing.Cold, "4 ft|1.2 m")
	b.line(heater+".hot", hot+".a", plumbing.Hot, "4 ft|1.2 m")
	b.line(hot+".b", shower+".hot", plumbing.Hot, "5 ft|1.5 m")
	for i := range b.m.Lines {
		switch l := &b.m.Lines[i]; {
		case l.From == cold+".b":
			l.Colour = "blue"
		case l.To == hot+".a":
			l.Colour = "red"
		}
	}
	return b.join(place, cold+".a", plumbing.Cold, "Coupling tee", "8 in|0.2 m")
}}

var wasteTanks = Kind{ID: "waste", Name: "Waste tanks", Questions: []Question{
	{Name: "tanks", Ask: "Tanks", Choice: []Choice{{"grey", "grey"}, {"black", "black"},
		{"sump", "a sump, pumped overboard"}, {"overboard", "none: it goes overboard"}}, Usual: "grey,black",
		Many: true},
	{Name: "grey", Ask: "Grey tank holds", Usual: "39 gal|60 L"},
	{Name: "black", Ask: "Black tank holds", Usual: "37 gal|50 L"},
	{Name: "sump", Ask: "The sump holds", Usual: "1.3 gal|5 L"},
}, build: func(b *builder) error {
	for _, kind := range b.many("tanks") {
		names := map[string]string{"grey": "Grey tank", "black": "Black tank", "sump": "Sump",
			"overboard": "Overboard outlet"}
		if names[kind] == "" {
			return faultf("Tanks", "%q is neither grey, black, a sump nor overboard", kind)
		}
		var d plumbing.Data
		if d.Type = kind; kind != "overboard" {
			var err error
			if d.Capacity, err = given[quantity.Litre](b, kind); err != nil {
				return err
			}
		}
		id := b.part(plumbing.WasteTank, names[kind], data(func(of *plumbing.Data) { *of = d }))
		// Outlets that drain nowhere yet drain here.
		for i := range b.m.Parts {
			p := &b.m.Parts[i]
			foul := p.Data.Type == "toilet" || p.Data.Type == "sprayer"
			if inside := p.Role() == plumbing.RoleOutlet && !strings.HasPrefix(p.Data.Type, "outside") &&
				p.Data.Type != "boot-wash"; (inside || p.Role() == plumbing.RoleTrap ||
				p.Role() == plumbing.RoleMachine && p.Data.Type != "ice-maker") &&
				p.Data.Waste == "" && foul == (kind == "black") {
				p.Data.Waste = id
			}
		}
	}
	return nil
}}

var rinse = Kind{ID: "rinse", Name: "Black-tank rinse inlet", build: func(b *builder) error {
	tank := b.waste(true)
	if tank == "" {
		return faultf("", "there is no black tank yet; add waste tanks first")
	}
	id := b.part(plumbing.RinseInlet, "Black-tank rinse inlet", func(p *plumbing.Part) {
		p.Thread = "3/4 in garden hose"
	}, data(func(d *plumbing.Data) { d.CheckValve = true }))
	b.line(id+".out", tank+".rinse", plumbing.Drain, "7 ft|2 m")
	return nil
}}
