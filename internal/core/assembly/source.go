package assembly

import (
	"fmt"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

var tankSet = Kind{ID: "tank", Name: "Tank set", Questions: []Question{
	{Name: "tanks", Ask: "Tanks", Choice: []Choice{{"one", "one"}, {"linked", "two, linked: they act as one"},
		{"apart", "two, each with its own fill"}}, Usual: "one"},
	{Name: "capacity", Ask: "Capacity of each", Usual: "40 gal|100 L"},
	{Name: "fill", Ask: "Fill", Choice: []Choice{{"gravity", "gravity fill"},
		{"float", "gravity, and under pressure through a float valve"}, {"none", "no own fill"}}, Usual: "gravity"},
}, build: buildTanks}

func buildTanks(b *builder) error {
	capacity, err := given[quantity.Litre](b, "capacity")
	if err != nil {
		return err
	}
	names := []string{""}
	if b.get("tanks") != "one" {
		names = []string{"Left ", "Right "}
	}
	var ids []string
	for i, side := range names {
		name := func(s string) string {
			if side == "" {
				return s
			}
			return side + plumbing.NoArticle(s)
		}
		tank := b.part(plumbing.Tank, name(map[bool]string{true: "Fresh tank", false: "Tank"}[side == ""]),
			data(func(d *plumbing.Data) { d.Type, d.Capacity = "rigid", capacity }))
		ids = append(ids, tank)
		if i == 0 || b.get("tanks") == "apart" {
			if b.get("fill") != "none" {
				fill := b.part(plumbing.GravityFill, name(plumbing.Upper(b.m.Vehicle().Fill)))
				b.line(fill+".out", tank+".fill", plumbing.Supply, "4 ft|0.8 m")
			}
			overflow := b.part(plumbing.OpenEnd, name("Tank overflow"))
			b.line(tank+".overflow", overflow+".in", plumbing.Air, "3 ft|0.9 m")
		}
		vent := b.part(plumbing.OpenEnd, name("Tank vent"))
		b.line(tank+".vent", vent+".in", plumbing.Air, "4 ft|0.8 m")
		drain := b.part(plumbing.LowPoint, name("Tank drain"), handle("lever", "upright", "closed"),
			data(func(d *plumbing.Data) { d.Closure = "valve" }))
		b.line(tank+".drain", drain+".in", plumbing.Drain, "14 in|0.3 m")
	}
	if b.get("tanks") == "linked" {
		b.line(ids[0]+".link", ids[1]+".link", plumbing.Supply, "4 ft|1.2 m")
	}
	if b.get("fill") == "float" {
		in := b.part(plumbing.CityInlet, "Pressure fill", data(func(d *plumbing.Data) { d.CheckValve = true }))
		float := b.part(plumbing.FloatValve, "Float valve")
		b.line(in+".out", float+".in", plumbing.Supply, "2 ft|0.7 m")
		b.line(float+".out", ids[0]+".return", plumbing.Supply, "8 in|0.2 m")
	}
	return nil
}

var pumpSet = Kind{ID: "pump", Name: "Pump set", Questions: []Question{
	{Name: "tank", Ask: "Draws from", Port: plumbing.Supply,
		Hint: "the tank's id; the first tank with a free supply is usual"},
	{Name: "pickup", Ask: "Pick-up", Choice: []Choice{
		{"hose", "winter pick-up: 3-way valve and capped hose"},
		{"none", "none fitted: the hose comes off the pump's inlet"},
		{"port", "outside container port on a 3-way valve"},
		{"four", "manifold of four valves: two for the suction, two for the delivery"},
		{"three", "manifold of one 3-way and two valves"},
		{"plain", "none, and nothing to take apart"}}, Usual: "hose"},
	{Name: "flow", Ask: "Free flow", Usual: "3.0 gal/min|10 L/min"},
	{Name: "cutout", Ask: "Cut-out pressure", Usual: "55 psi|2.1 bar"},
	{Name: "fuse", Ask: "Fuse", Usual: "7.5 A"},
}, build: buildPump}

func buildPump(b *builder) error {
	flow, err := given[quantity.LitrePerMinute](b, "flow")
	if err != nil {
		return err
	}
	cutout, err := given[quantity.Kilopascal](b, "cutout")
	if err != nil {
		return err
	}
	fuse, err := given[quantity.Ampere](b, "fuse")
	if err != nil {
		return err
	}
	tank, err := b.supply(b.get("tank"))
	if err != nil {
		return err
	}
	strainer := b.part(plumbing.Strainer, "Pump strainer", func(p *plumbing.Part) {
		p.Tool = "by hand, towel under it"
	},
		data(func(d *plumbing.Data) { d.HoldUp, d.FrostSensitive = must[quantity.Litre]("2 fl oz"), true }))
	pump := b.part(plumbing.Pump, "Water pump", data(func(d *plumbing.Data) {
		d.Type, d.Flow, d.CutOut, d.Fuse = "fixed-speed", flow, cutout, fuse
		d.HoldUp, d.FrostSensitive = must[quantity.Litre]("4 fl oz"), true
	}))
	b.pickUp(tank, strainer, pump)
	if b.get("pickup") != "none" {
		b.line(strainer+".out", pump+".in", plumbing.Supply, "6 in|0.12 m")
	}
	if p := b.get("pickup"); p == "four" || p == "three" {
		b.backToTank(tank, pump)
	}
	return nil
}

// pickUp joins a pump's strainer to the tank, by whatever lets it draw from a
// container.
func (b *builder) pickUp(tank, strainer, pump string) {
	suction := strainer + ".in"
	switch pickup := b.get("pickup"); pickup {
	case "plain":
		b.line(tank, suction, plumbing.Supply, "2 ft|0.4 m")
	case "none":
		joint := b.part(plumbing.Union, "Pump inlet joint", func(p *plumbing.Part) {
			p.Normal, p.Tool = "together", "by hand"
		})
		shut := b.part(plumbing.Valve, "Tank shut-off", handle("lever", "level", "open"))
		b.line(tank, shut+".a", plumbing.Supply, "2 ft|0.4 m")
		b.line(shut+".b", suction, plumbing.Supply, "8 in|0.2 m")
		b.line(strainer+".out", joint+".a", plumbing.Supply, "4 in|0.1 m")
		b.line(joint+".b", pump+".in", plumbing.Supply, "4 in|0.1 m")
	case "four":
		port := b.part(plumbing.ContainerPort, "Container port", data(func(d *plumbing.Data) {
			d.Cap = "threaded cap"
		}))
		tee := b.part(plumbing.Tee, "Suction tee")
		fromTank := b.part(plumbing.Valve, "Tank suction valve", handle("lever", "level", "open"))
		fromPort := b.part(plumbing.Valve, "Port suction valve", handle("lever", "level", "closed"))
		b.line(tank, fromTank+".a", plumbing.Supply, "2 ft|0.4 m")
		b.line(fromTank+".b", tee+".a", plumbing.Supply, "5 in|0.1 m")
		b.line(port+".out", fromPort+".a", plumbing.Supply, "4 ft|1.2 m")
		b.line(fromPort+".b", tee+".b", plumbing.Supply, "5 in|0.1 m")
		b.line(tee+".c", suction, plumbing.Supply, "5 in|0.1 m")
	default:
		name, mouth := "Pick-up valve", "Winter pick-up hose"
		if pickup != "hose" {
			name, mouth = "Suction valve", "Container port"
		}
		valve := b.part(plumbing.ThreeWay, name, handle("pointer", "level", "a"))
		port := b.part(plumbing.ContainerPort, mouth, data(func(d *plumbing.Data) { d.Cap = "cap" }))
		b.line(tank, valve+".a", plumbing.Supply, "2 ft|0.4 m")
		b.line(port+".out", valve+".b", plumbing.Supply, "4 ft|1.2 m")
		b.line(valve+".com", suction, plumbing.Supply, "10 in|0.15 m")
	}
}

// backToTank gives a pump's delivery a way back into the tank.
func (b *builder) backToTank(tank, pump string) {
	tee := b.part(plumbing.Tee, "Delivery tee")
	taps := b.part(plumbing.Valve, "Taps valve", handle("lever", "level", "open"))
	back := b.part(plumbing.Valve, "Tank valve", handle("lever", "upright", "closed"))
	ret, _ := plumbing.PartOf(tank)
	b.line(pump+".out", tee+".a", plumbing.Cold, "6 in|0.15 m")
	b.line(tee+".b", back+".a", plumbing.Supply, "5 in|0.1 m")
	b.line(back+".b", ret+".return", plumbing.Supply, "4 ft|1.2 m")
	b.line(tee+".c", taps+".a", plumbing.Cold, "5 in|0.1 m")
	end := b.part(plumbing.Tee, "Trunk tee")
	b.line(taps+".b", end+".a", plumbing.Cold, "6 in|0.15 m")
}

// supply is the supply port of the tank asked for, or of the first tank that
// has it free.
func (b *builder) supply(id string) (string, error) {
	used := map[string]bool{}
	for i := range b.m.Lines {
		used[b.m.Lines[i].From], used[b.m.Lines[i].To] = true, true
	}
	for i := range b.m.Parts {
		p := &b.m.Parts[i]
		if ref := p.ID + ".supply"; p.Role() == plumbing.RoleTank && (id == "" || p.ID == id) && !used[ref] {
			return ref, nil
		}
	}
	return "", faultf("Draws from", "there is no tank whose supply is free; add a tank set first")
}

var cityInlet = Kind{ID: "city", Name: "City water inlet", Questions: []Question{
	{Name: "to", Ask: "Joins the cold side at", Port: plumbing.Cold},
	{Name: "regulator", Ask: "Regulator set to", Usual: "48 psi|3 bar"},
	{Name: "check", Ask: "Check valve", Choice: []Choice{{"yes", "built in"}, {"no", "none"}}, Usual: "yes"},
}, build: func(b *builder) error {
	regulator, err := given[quantity.Kilopascal](b, "regulator")
	if err != nil {
		return err
	}
	place, err := b.coldPlace("to")
	if err != nil {
		return err
	}
	city := b.part(plumbing.CityInlet, plumbing.Upper(b.m.Vehicle().Inlet), func(p *plumbing.Part) {
		p.Thread = "3/4 in garden hose"
	},
		data(func(d *plumbing.Data) { d.CheckValve, d.Regulator = b.get("check") == "yes", regulator }))
	if p, port := plumbing.PartOf(place); port == "out" && b.m.Part(p) != nil {
		// The end of the trunk: a tee that leaves a port open to go on from.
		tee := b.part(plumbing.Tee, "City water tee")
		b.line(place, tee+".a", plumbing.Cold, "2 ft|0.6 m")
		b.line(city+".out", tee+".b", plumbing.Cold, "8 ft|2 m")
		return nil
	}
	return b.join(place, city+".out", plumbing.Cold, "City water tee", "8 ft|2 m")
}}

var dockingPlate = Kind{ID: "plate", Name: "Docking plate", Questions: []Question{
	{Name: "words", Ask: "Words printed on the plate, source and delivery", Usual: "SOURCE, TO"},
}, build: buildPlate}

// buildPlate puts a plate with a source handle and a delivery handle onto a
// pump that stands on a 3-way suction valve.
func buildPlate(b *builder) error {
	out, suctionID, tank, err := b.beforePlate()
	if err != nil {
		return err
	}
	mains := b.part(plumbing.CityInlet, "Mains inlet", func(p *plumbing.Part) { p.Thread = "3/4 in garden hose" },
		data(func(d *plumbing.Data) {
			d.CheckValve, d.Regulator = true, must[quantity.Kilopascal](map[bool]string{true: "48 psi",
				false: "3 bar"}[b.sys == quantity.US])
		}))
	mainsValve := b.part(plumbing.Valve, "Mains valve")
	delivery := b.part(plumbing.ThreeWay, "Delivery valve")
	tee := b.part(plumbing.Tee, "Mains tee")
	end := b.part(plumbing.Tee, "Trunk tee")
	b.line(out, tee+".a", plumbing.Cold, "8 in|0.2 m")
	b.line(mains+".out", mainsValve+".a", plumbing.Supply, "8 in|0.2 m")
	b.line(mainsValve+".b", tee+".b", plumbing.Supply, "14 in|0.35 m")
	b.line(tee+".c", delivery+".com", plumbing.Cold, "8 in|0.2 m")
	b.line(delivery+".b", tank+".return", plumbing.Supply, "8 ft|2.4 m")
	b.line(delivery+".a", end+".a", plumbing.Cold, "8 in|0.2 m")
	b.part(plumbing.Selector, "Source handle", handle("pointer", "level", "tank"), func(p *plumbing.Part) {
		p.Label = "SOURCE"
		p.Selector = []plumbing.Choice{
			{ID: "mains", Label: "CITY", Sets: map[string]string{mainsValve: "open", suctionID: "a"}},
			{ID: "tank", Label: "TANK", Sets: map[string]string{mainsValve: "closed", suctionID: "a"}},
			{ID: "port", Label: "PORT", Sets: map[string]string{mainsValve: "closed", suctionID: "b"}}}
	})
	b.part(plumbing.Selector, "Delivery handle", handle("pointer", "level", "taps"), func(p *plumbing.Part) {
		p.Label = "TO"
		p.Selector = []plumbing.Choice{
			{ID: "taps", Label: "TAPS", Sets: map[string]string{delivery: "a"}},
			{ID: "tank", Label: "TANK", Sets: map[string]string{delivery: "b"}}}
	})
	// The plate's handles turn these now.
	for _, id := range []string{suctionID, mainsValve, delivery} {
		p := b.m.Part(id)
		p.Reading = plumbing.Reading{}
	}
	return nil
}

// beforePlate finds what a docking plate stands between: the pump's outlet, its
// suction valve, a tank.
func (b *builder) beforePlate() (out, suctionValve, tankID string, err error) {
	var pump, suction *plumbing.Part
	for i := range b.m.Parts {
		switch p := &b.m.Parts[i]; p.Role() {
		case plumbing.RolePump:
			pump = p
		case plumbing.RoleDiverter:
			if p.Name == "Suction valve" {
				suction = p
			}
		}
	}
	if pump == nil || suction == nil {
		return "", "", "", faultf("",
			"a docking plate needs a pump set with an outside container port on a 3-way valve; add that first")
	}
	out = pump.ID + ".out"
	for i := range b.m.Lines {
		if b.m.Lines[i].From == out || b.m.Lines[i].To == out {
			return "", "", "", faultf("", "the pump's delivery is joined already; put the plate in before the trunk")
		}
	}
	tank := ""
	for i := range b.m.Parts {
		if b.m.Parts[i].Role() == plumbing.RoleTank && tank == "" {
			tank = b.m.Parts[i].ID
		}
	}
	return out, suction.ID, tank, nil
}

func faultf(path, format string, args ...any) error {
	return refused(path, fmt.Sprintf(format, args...))
}
