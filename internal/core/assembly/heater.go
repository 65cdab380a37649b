package assembly

import (
	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

func refused(path, why string) error {
	return &edit.FaultError{Faults: []plumbing.Fault{{Path: path, Why: why}}}
}

var heaterSet = Kind{ID: "heater", Name: "Heater", Questions: []Question{
	{Name: "kind", Ask: "Kind", Choice: []Choice{
		{"storage-steel", "storage, steel with anode rod"}, {"storage-clad", "storage, clad aluminium"},
		{"on-demand", "fixed on-demand"},
		{"combi", "combi boiler with dump valve"}, {"hydronic", "hydronic"}}, Usual: "storage-steel"},
	{Name: "capacity", Ask: "Capacity", Usual: "10 gal|12 L"},
	{Name: "bypass", Ask: "Bypass", Choice: []Choice{
		{"three", "3 valves: inlet, outlet and tube"}, {"two", "2 valves: a 3-way at each side"},
		{"one", "1 valve: a 3-way at the cold inlet, a check at the hot outlet"},
		{"lever", "single lever: one handle turns both 3-ways"}, {"none", "none"}}, Usual: "three"},
	{Name: "cold", Ask: "Cold from", Port: plumbing.Cold},
}, build: buildHeater}

func buildHeater(b *builder) error {
	capacity, err := given[quantity.Litre](b, "capacity")
	if err != nil {
		return err
	}
	place, err := b.coldPlace("cold")
	if err != nil {
		return err
	}
	kind, name := b.get("kind"), "Water heater"
	switch kind {
	case "combi":
		name = "Boiler"
	case "on-demand":
		name = "On-demand heater"
	case "hydronic":
		name = "Hydronic heater"
	}
	heater := b.part(plumbing.Heater, name, data(func(d *plumbing.Data) { d.Type, d.Capacity = kind, capacity }))
	feed := b.bypass(heater)
	switch kind {
	case "storage-steel":
		d := b.part(plumbing.LowPoint, "Heater drain and anode rod", handle("plug", "level", "closed"),
			data(func(d *plumbing.Data) { d.Closure = "plug" }))
		b.line(heater+".drain", d+".in", plumbing.Drain, "1 in|25 mm")
	case "storage-clad", "on-demand":
		d := b.part(plumbing.LowPoint, "Heater drain plug", handle("plug", "level", "closed"),
			data(func(d *plumbing.Data) { d.Closure = "plug" }))
		b.line(heater+".drain", d+".in", plumbing.Drain, "1 in|25 mm")
	case "hydronic":
		d := b.part(plumbing.LowPoint, "Heater coil drain", handle("plug", "level", "closed"),
			data(func(d *plumbing.Data) { d.Closure = "plug" }))
		b.line(heater+".drain", d+".in", plumbing.Drain, "1 in|25 mm")
	case "combi":
		d := b.part(plumbing.FrostValve, "Frost valve", handle("button", "upright", "closed"),
			data(func(d *plumbing.Data) { d.OpensBelow = must[quantity.Celsius]("4 °C") }))
		b.line(heater+".drain", d+".in", plumbing.Drain, "10 in|0.25 m")
	}
	relief := b.part(plumbing.ReliefValve, "Heater relief valve", handle("lever", "level", "closed"))
	b.line(heater+".relief", relief+".in", plumbing.Drain, "1 in|25 mm")
	return b.join(place, feed, plumbing.Cold, "Heater supply tee", "1 ft|0.3 m")
}

// bypass joins a heater's ports in one of the usual ways and gives the port
// that cold water goes to. A tee at the hot end is left open to go on from.
func (b *builder) bypass(heater string) (feed string) {
	hot := func(from string) {
		end := b.part(plumbing.Tee, "Hot trunk tee")
		b.line(from, end+".a", plumbing.Hot, "3 ft|1 m")
	}
	switch b.get("bypass") {
	case "none":
		hot(heater + ".hot")
		return heater + ".cold"
	case "one":
		v := b.part(plumbing.ThreeWay, "Heater bypass valve", handle("pointer", "level", "a"))
		check := b.part(plumbing.CheckValve, "Hot outlet check valve")
		t := b.part(plumbing.Tee, "Bypass tee, hot")
		b.line(v+".a", heater+".cold", plumbing.Cold, "8 in|0.25 m")
		b.line(heater+".hot", check+".in", plumbing.Hot, "6 in|0.15 m")
		b.line(check+".out", t+".a", plumbing.Hot, "5 in|0.1 m")
		b.line(v+".b", t+".b", plumbing.Hot, "10 in|0.25 m")
		return v + ".com"
	case "two", "lever":
		v := b.part(plumbing.ThreeWay, "Heater bypass valve, cold", handle("pointer", "level", "a"))
		w := b.part(plumbing.ThreeWay, "Heater bypass valve, hot", handle("pointer", "level", "a"))
		b.line(v+".a", heater+".cold", plumbing.Cold, "1 ft|0.3 m")
		b.line(heater+".hot", w+".a", plumbing.Hot, "1 ft|0.3 m")
		b.line(v+".b", w+".b", plumbing.Hot, "10 in|0.25 m")
		hot(w + ".com")
		if b.get("bypass") == "lever" {
			b.part(plumbing.Selector, "Heater bypass lever", handle("lever", "level", "heater"),
				func(p *plumbing.Part) {
					p.Selector = []plumbing.Choice{{ID: "heater", Label: "HEATER", Sets: map[string]string{v: "a", w: "a"}},
						{ID: "bypass", Label: "BYPASS", Sets: map[string]string{v: "b", w: "b"}}}
				})
			b.m.Part(v).Reading, b.m.Part(w).Reading = plumbing.Reading{}, plumbing.Reading{}
		}
		return v + ".com"
	default:
		t := b.part(plumbing.Tee, "Bypass tee, cold")
		in := b.part(plumbing.Valve, "Heater inlet valve", handle("lever", "level", "open"))
		tube := b.part(plumbing.Valve, "Bypass valve", handle("lever", "upright", "closed"))
		out := b.part(plumbing.Valve, "Heater outlet valve", handle("lever", "level", "open"))
		u := b.part(plumbing.Tee, "Bypass tee, hot")
		b.line(t+".b", in+".a", plumbing.Cold, "5 in|0.15 m")
		b.line(in+".b", heater+".cold", plumbing.Cold, "8 in|0.2 m")
		b.line(t+".c", tube+".a", plumbing.Cold, "5 in|0.15 m")
		b.line(tube+".b", u+".b", plumbing.Hot, "5 in|0.15 m")
		b.line(heater+".hot", out+".a", plumbing.Hot, "8 in|0.2 m")
		b.line(out+".b", u+".a", plumbing.Hot, "5 in|0.15 m")
		return t + ".a"
	}
}
