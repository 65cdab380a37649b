package assembly

import (
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

var barrel = Kind{ID: "barrel", Name: "Barrel socket", Questions: []Question{
	{Name: "to", Ask: "Feeds", Choice: []Choice{{"lines", "the lines, beside the pump"}, {"tank", "the tank"}},
		Usual: "lines"},
	{Name: "flow", Ask: "The barrel's pump gives", Usual: "2.6 gal/min|10 L/min"},
	{Name: "cutout", Ask: "and at most", Usual: "8 psi|0.6 bar"},
	{Name: "cold", Ask: "Joins the cold side at", Port: plumbing.Cold},
}, build: func(b *builder) error {
	flow, err := given[quantity.LitrePerMinute](b, "flow")
	if err != nil {
		return err
	}
	cutout, err := given[quantity.Kilopascal](b, "cutout")
	if err != nil {
		return err
	}
	socket := func() string {
		return b.part(plumbing.BarrelSocket, "Barrel socket", data(func(d *plumbing.Data) {
			d.Flow, d.CutOut, d.CheckValve, d.Cap = flow, cutout, true, "cap"
		}))
	}
	if b.get("to") == "tank" {
		if b.tank("") == nil {
			return faultf("Feeds", "there is no tank yet; add a tank set first")
		}
		from := socket() + ".out" // before the tank is asked for again: it moves as parts are put in
		return b.intoTank(b.tank(""), "return", from, "4 ft|1.2 m")
	}
	place, err := b.coldPlace("cold")
	if err != nil {
		return err
	}
	return b.join(place, socket()+".out", plumbing.Cold, "Barrel tee", "3 ft|0.9 m")
}}

// tank finds a tank by its id, or the first where none is asked for.
func (b *builder) tank(id string) *plumbing.Part {
	i := slices.IndexFunc(b.m.Parts, func(p plumbing.Part) bool {
		return p.Role() == plumbing.RoleTank && (id == "" || p.ID == id)
	})
	if i < 0 {
		return nil
	}
	return &b.m.Parts[i]
}

// intoTank leads a line to a free port of a tank; where the one of its kind is
// taken, the tank gets one more.
func (b *builder) intoTank(tank *plumbing.Part, port, from, length string) error {
	used := map[string]bool{}
	for i := range b.m.Lines {
		used[b.m.Lines[i].From], used[b.m.Lines[i].To] = true, true
	}
	name := port
	for n := 2; used[tank.ID+"."+name]; n++ {
		if n > 9 {
			return faultf("", "%s has no room for another %s", tank.Name, port)
		}
		if name = fmt.Sprint(port, n); !slices.ContainsFunc(tank.Ports(), func(i plumbing.PortInfo) bool {
			return i.Name == name
		}) {
			tank.Data.MorePorts = joinWords(tank.Data.MorePorts, name)
		}
	}
	b.line(from, tank.ID+"."+name, plumbing.Supply, length)
	return nil
}

func joinWords(a, b string) string {
	if a == "" {
		return b
	}
	return a + " " + b
}

var hatch = Kind{ID: "hatch", Name: "Hatch and bung", Questions: []Question{
	{Name: "what", Ask: "In the tank", Choice: []Choice{{"hatch", "a hatch in its top"},
		{"bung", "a bung in its floor"}}, Usual: "hatch,bung", Many: true},
	{Name: "tank", Ask: "Tank", Hint: "its id; the first is usual"},
}, build: func(b *builder) error {
	tank := b.tank(b.get("tank"))
	if tank == nil {
		return faultf("Tank", "there is no such tank yet; add a tank set first")
	}
	id, place := tank.ID, tank.Place
	for _, what := range b.many("what") {
		seat := func(p *plumbing.Part) { p.On, p.Place = id+"."+what, place }
		switch what {
		case "hatch":
			b.part(plumbing.Hatch, "Hatch", seat, func(p *plumbing.Part) {
				p.Normal = "closed"
			}, data(func(d *plumbing.Data) { d.Bore = must[quantity.Millimetre]("100 mm") }))
		case "bung":
			b.part(plumbing.LowPoint, "Floor bung", seat, handle("plug", "level", "closed"),
				data(func(d *plumbing.Data) { d.Closure, d.Bore = "plug", must[quantity.Millimetre]("25 mm") }))
		default:
			return faultf("In the tank", "%q is neither a hatch nor a bung", what)
		}
	}
	return nil
}}

var panel = Kind{ID: "panel", Name: "Control panel and switches", Questions: []Question{
	{Name: "kind", Ask: "Pump and heater are switched", Choice: []Choice{{"panel", "at a panel with a menu"},
		{"switch", "by a switch each"}}, Usual: "panel"},
	{Name: "isolator", Ask: "Battery isolator", Choice: []Choice{{"yes", "yes"}, {"no", "no"}}, Usual: "yes"},
}, build: func(b *builder) error {
	var all []*plumbing.Part
	for i := range b.m.Parts {
		if p := &b.m.Parts[i]; p.Role() == plumbing.RolePump || p.Role() == plumbing.RoleHeater &&
			p.Data.Type != "portable" {
			all = append(all, p)
		}
	}
	if all == nil {
		return faultf("", "there is nothing to switch yet; add a pump set first")
	}
	var controls []plumbing.Control
	for _, p := range all {
		on, off := "menu, "+plumbing.NoArticle(p.Name)+", ON", "menu, "+plumbing.NoArticle(p.Name)+", OFF"
		if b.get("kind") == "switch" {
			on, off = "rocker to ON", "rocker to OFF"
		}
		controls = append(controls, plumbing.Control{Part: p.ID, On: on, Off: off, Shows: "its light"})
	}
	if b.get("kind") == "switch" {
		names := make([]string, len(all)) // putting parts in moves the list that all points into
		for i, p := range all {
			names[i] = p.Name
		}
		for i, c := range controls {
			b.part(plumbing.Switch, "Switch of "+plumbing.Lower(names[i]), func(p *plumbing.Part) {
				p.Controls = []plumbing.Control{c}
			})
		}
	} else {
		b.part(plumbing.Panel, "Control panel", func(p *plumbing.Part) { p.Controls = controls })
	}
	if b.get("isolator") == "yes" {
		b.part(plumbing.Isolator, "Battery isolator")
	}
	return nil
}}

var probes = Kind{ID: "probes", Name: "Level probes", Questions: []Question{
	{Name: "tank", Ask: "Tank", Hint: "its id; the first is usual"},
	{Name: "heights", Ask: "Above the tank's bottom, inside, with commas between",
		Usual: "1 in, 5 in, 9 in|25 mm, 125 mm, 225 mm"},
}, build: func(b *builder) error {
	tank := b.tank(b.get("tank"))
	if tank == nil {
		return faultf("Tank", "there is no such tank yet; add a tank set first")
	}
	id, name := tank.ID, tank.Name
	for i, text := range b.many("heights") {
		at, err := quantity.Read[quantity.Millimetre](text)
		if err != nil {
			return faultf("Above the tank's bottom", "%v", err)
		}
		b.part(plumbing.Probe, fmt.Sprintf("Probe %d of %s", i+1, plumbing.Lower(name)), data(func(d *plumbing.Data) {
			d.Serves, d.At = id, at
		}))
	}
	return nil
}}

var hull = Kind{ID: "hull", Name: "Through-hull fitting", Questions: []Question{
	{Name: "above", Ask: "Always above the waterline", Choice: []Choice{{"yes", "yes: it may be opened to drain"},
		{"no", "no, or not sure: it is never opened"}}, Usual: "yes"},
	{Name: "cold", Ask: "Cold from", Port: plumbing.Cold},
}, build: func(b *builder) error {
	place, err := b.coldPlace("cold")
	if err != nil {
		return err
	}
	id := b.part(plumbing.ThroughHull, "Through-hull fitting", handle("lever", "level", "closed"),
		data(func(d *plumbing.Data) { d.AboveWaterline = b.get("above") == "yes" }))
	return b.join(place, id+".in", plumbing.Drain, "Hull tee", "2 ft|0.6 m")
}}

var airPort = Kind{ID: "air-port", Name: "Threaded air port", Questions: []Question{
	{Name: "thread", Ask: "Thread", Usual: "1/4 in pipe thread|G 1/4"},
	{Name: "rating", Ask: "Rated to", Usual: "100 psi|7 bar"},
	{Name: "cold", Ask: "Joins the cold side at", Port: plumbing.Cold},
}, build: func(b *builder) error {
	rating, err := given[quantity.Kilopascal](b, "rating")
	if err != nil {
		return err
	}
	place, err := b.coldPlace("cold")
	if err != nil {
		return err
	}
	id := b.part(plumbing.ContainerPort, "Air port", func(p *plumbing.Part) { p.Thread = b.get("thread") },
		data(func(d *plumbing.Data) { d.Rating, d.CheckValve, d.Cap = rating, true, "threaded cap" }))
	return b.join(place, id+".out", plumbing.Cold, "Air port tee", "2 ft|0.6 m")
}}

var jumper = Kind{ID: "jumper", Name: "Jumper hose", Questions: []Question{
	{Name: "one", Ask: "From", Hint: "part.port; an outlet outside is usual"},
	{Name: "other", Ask: "To", Hint: "part.mouth; the inlet is usual"},
}, build: func(b *builder) error {
	from, to := b.get("one"), b.get("other")
	outside := from != "" // or one that was asked for
	for i := range b.m.Parts {
		switch p := &b.m.Parts[i]; {
		case p.Role() == plumbing.RoleOutlet && (from == "" || !outside && strings.HasPrefix(p.Data.Type, "outside")):
			outside = strings.HasPrefix(p.Data.Type, "outside")
			from = p.ID + ".cold"
		case to == "" && (p.Role() == plumbing.RoleInlet || p.Role() == plumbing.RoleBarrel):
			to = p.ID + ".mouth"
		}
	}
	if from == "" || to == "" {
		return faultf("", "there is no outlet or no inlet yet to join; write which two ports the hose joins")
	}
	b.part(plumbing.JumperHose, "Jumper hose", func(p *plumbing.Part) {
		p.Normal, p.Ends = "stowed", []string{from, to}
	})
	return nil
}}
