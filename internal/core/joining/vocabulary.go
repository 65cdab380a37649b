package joining

import (
	"slices"
	"strings"
	"unicode"

	"coldtap/internal/core/plumbing"
)

// meaning is what a name says of the part it names.
type meaning struct {
	Kind plumbing.Kind
	Type string // data.type, "" for none said
}

// trade is the words by which people name kinds of parts. The rule whose words stand
// furthest to the right in a name wins, for the last noun is what the thing is: a "pump
// check valve" is a check valve. Among those the one with more words wins.
var trade = []struct {
	words string // all of them, in this order, one after the other
	kind  plumbing.Kind
	typ   string
}{
	{"tee", plumbing.Tee, ""}, {"t piece", plumbing.Tee, ""}, {"t", plumbing.Tee, ""}, {"y", plumbing.Tee, ""},
	{"junction", plumbing.Tee, ""}, {"splitter", plumbing.Tee, ""},
	{"manifold", plumbing.Manifold, ""}, {"distributor", plumbing.Manifold, ""},
	{"strainer", plumbing.Strainer, ""}, {"pre filter", plumbing.Strainer, ""},
	{"filter", plumbing.Filter, "canister"}, {"canister", plumbing.Filter, "canister"},
	{"cartridge", plumbing.Filter, "canister"}, {"in line filter", plumbing.Filter, "in-line"},
	{"purifier", plumbing.Filter, "purified-water"}, {"softener", plumbing.Softener, ""},
	{"pump", plumbing.Pump, "fixed-speed"},
	{"accumulator", plumbing.Accumulator, ""}, {"accumulator tank", plumbing.Accumulator, ""},
	{"expansion vessel", plumbing.Accumulator, ""}, {"expansion tank", plumbing.Accumulator, ""},
	{"surge tank", plumbing.Accumulator, ""}, {"pressure vessel", plumbing.Accumulator, ""},
	{"heater", plumbing.Heater, "storage-steel"}, {"boiler", plumbing.Heater, "storage-steel"},
	{"calorifier", plumbing.Heater, "storage-clad"}, {"geyser", plumbing.Heater, "storage-steel"},
	{"hot water tank", plumbing.Heater, "storage-steel"}, {"on demand heater", plumbing.Heater, "on-demand"},
	{"tankless heater", plumbing.Heater, "on-demand"}, {"instant heater", plumbing.Heater, "on-demand"},
	{"tank", plumbing.Tank, "rigid"}, {"bladder", plumbing.Tank, "bladder"},
	{"grey tank", plumbing.WasteTank, "grey"}, {"gray tank", plumbing.WasteTank, "grey"},
	{"black tank", plumbing.WasteTank, "black"}, {"waste tank", plumbing.WasteTank, "grey"},
	{"holding tank", plumbing.WasteTank, "black"},
	{"check", plumbing.CheckValve, ""}, {"check valve", plumbing.CheckValve, ""},
	{"non return valve", plumbing.CheckValve, ""}, {"non return", plumbing.CheckValve, ""},
	{"nrv", plumbing.CheckValve, ""}, {"one way valve", plumbing.CheckValve, ""},
	{"backflow preventer", plumbing.CheckValve, ""},
	{"3 way", plumbing.ThreeWay, ""}, {"3 way valve", plumbing.ThreeWay, ""}, {"three way", plumbing.ThreeWay, ""},
	{"three way valve", plumbing.ThreeWay, ""}, {"diverter", plumbing.ThreeWay, ""},
	{"diverter valve", plumbing.ThreeWay, ""}, {"selector valve", plumbing.ThreeWay, ""},
	{"mixing valve", plumbing.MixingValve, ""}, {"tempering valve", plumbing.MixingValve, ""},
	{"thermostatic valve", plumbing.MixingValve, ""}, {"mixer valve", plumbing.MixingValve, ""},
	{"relief", plumbing.ReliefValve, ""}, {"relief valve", plumbing.ReliefValve, ""},
	{"t p valve", plumbing.ReliefValve, ""}, {"safety valve", plumbing.ReliefValve, ""},
	{"frost valve", plumbing.FrostValve, ""}, {"float valve", plumbing.FloatValve, ""},
	{"valve", plumbing.Valve, ""}, {"shut off", plumbing.Valve, ""}, {"shutoff", plumbing.Valve, ""},
	{"stop", plumbing.Valve, ""}, {"stopcock", plumbing.Valve, ""}, {"stop cock", plumbing.Valve, ""},
	{"isolator", plumbing.Valve, ""}, {"bypass", plumbing.Valve, ""},
	{"coupling", plumbing.Coupling, ""}, {"quick connect", plumbing.Coupling, ""}, {"union", plumbing.Union, ""},
	{"drain", plumbing.LowPoint, ""}, {"drain valve", plumbing.LowPoint, ""}, {"drain cock", plumbing.LowPoint, ""},
	{"drain plug", plumbing.LowPoint, ""}, {"petcock", plumbing.LowPoint, ""}, {"low point", plumbing.LowPoint, ""},
	{"low point valve", plumbing.LowPoint, ""}, {"low drain", plumbing.LowPoint, ""},
	{"vent", plumbing.OpenEnd, ""}, {"breather", plumbing.OpenEnd, ""}, {"overflow", plumbing.OpenEnd, ""},
	{"vent fitting", plumbing.OpenEnd, ""}, {"air vent", plumbing.OpenEnd, ""},
	{"filler", plumbing.GravityFill, ""}, {"fill", plumbing.GravityFill, ""}, {"fill port", plumbing.GravityFill, ""},
	{"fill point", plumbing.GravityFill, ""}, {"fill inlet", plumbing.GravityFill, ""},
	{"filler cap", plumbing.GravityFill, ""}, {"filler neck", plumbing.GravityFill, ""},
	{"gravity inlet", plumbing.GravityFill, ""},
	{"city water", plumbing.CityInlet, ""}, {"city inlet", plumbing.CityInlet, ""},
	{"city water inlet", plumbing.CityInlet, ""}, {"city connection", plumbing.CityInlet, ""},
	{"city", plumbing.CityInlet, ""}, {"mains", plumbing.CityInlet, ""}, {"mains inlet", plumbing.CityInlet, ""},
	{"shore inlet", plumbing.CityInlet, ""}, {"shore water", plumbing.CityInlet, ""},
	{"water inlet", plumbing.CityInlet, ""}, {"dockside inlet", plumbing.CityInlet, ""},
	{"hookup", plumbing.CityInlet, ""}, {"hook up", plumbing.CityInlet, ""},
	{"pick up", plumbing.ContainerPort, ""}, {"pick up hose", plumbing.ContainerPort, ""},
	{"pickup", plumbing.ContainerPort, ""}, {"pickup hose", plumbing.ContainerPort, ""},
	{"siphon", plumbing.ContainerPort, ""}, {"siphon hose", plumbing.ContainerPort, ""},
	{"winterizing hose", plumbing.ContainerPort, ""}, {"winterizing port", plumbing.ContainerPort, ""},
	{"winterizing kit", plumbing.ContainerPort, ""}, {"antifreeze port", plumbing.ContainerPort, ""},
	{"antifreeze hose", plumbing.ContainerPort, ""}, {"container port", plumbing.ContainerPort, ""},
	{"tap", plumbing.Outlet, "kitchen"}, {"faucet", plumbing.Outlet, "kitchen"},
	{"kitchen mixer", plumbing.Outlet, "kitchen"}, {"basin mixer", plumbing.Outlet, "basin"},
	{"sink", plumbing.Outlet, "kitchen"}, {"galley", plumbing.Outlet, "kitchen"}, {"basin", plumbing.Outlet, "basin"},
	{"basin tap", plumbing.Outlet, "basin"}, {"basin faucet", plumbing.Outlet, "basin"},
	{"lav", plumbing.Outlet, "basin"}, {"lavatory", plumbing.Outlet, "basin"}, {"lav tap", plumbing.Outlet, "basin"},
	{"lav faucet", plumbing.Outlet, "basin"}, {"lavatory faucet", plumbing.Outlet, "basin"},
	{"lavatory sink", plumbing.Outlet, "basin"}, {"bath sink", plumbing.Outlet, "basin"},
	{"bathroom sink", plumbing.Outlet, "basin"}, {"bathroom tap", plumbing.Outlet, "basin"},
	{"bathroom faucet", plumbing.Outlet, "basin"}, {"vanity", plumbing.Outlet, "basin"},
	{"shower", plumbing.Outlet, "shower"}, {"shower head", plumbing.Outlet, "shower"},
	{"shower mixer", plumbing.Outlet, "shower"}, {"shower faucet", plumbing.Outlet, "shower"},
	{"shower tap", plumbing.Outlet, "shower"}, {"outside shower", plumbing.Outlet, "outside-shower"},
	{"exterior shower", plumbing.Outlet, "outside-shower"}, {"outdoor shower", plumbing.Outlet, "outside-shower"},
	{"ext shower", plumbing.Outlet, "outside-shower"}, {"outside tap", plumbing.Outlet, "outside-tap"},
	{"outside faucet", plumbing.Outlet, "outside-tap"}, {"exterior tap", plumbing.Outlet, "outside-tap"},
	{"spigot", plumbing.Outlet, "outside-tap"}, {"hose bib", plumbing.Outlet, "outside-tap"},
	{"spray port", plumbing.Outlet, "outside-tap"}, {"toilet", plumbing.Outlet, "toilet"},
	{"wc", plumbing.Outlet, "toilet"}, {"closet", plumbing.Outlet, "toilet"}, {"commode", plumbing.Outlet, "toilet"},
	{"sprayer", plumbing.Outlet, "sprayer"}, {"toilet sprayer", plumbing.Outlet, "sprayer"},
	{"bidet", plumbing.Outlet, "sprayer"}, {"boot wash", plumbing.Outlet, "boot-wash"},
	{"washing machine", plumbing.Machine, "washing-machine"}, {"washer", plumbing.Machine, "washing-machine"},
	{"dishwasher", plumbing.Machine, "dishwasher"}, {"ice maker", plumbing.Machine, "ice-maker"},
	{"icemaker", plumbing.Machine, "ice-maker"}, {"rinse inlet", plumbing.RinseInlet, ""},
	{"tank rinse", plumbing.RinseInlet, ""}, {"tank flush", plumbing.RinseInlet, ""},
	{"barrel socket", plumbing.BarrelSocket, ""}, {"hatch", plumbing.Hatch, ""},
}

// spellings bring words to one spelling.
var spellings = map[string]string{"htr": "heater", "wtr": "water", "vlv": "valve", "vlve": "valve", "pt": "point",
	"lowpoint": "low point", "lp": "low point", "taps": "tap", "faucets": "faucet", "tees": "tee", "valves": "valve",
	"drains": "drain", "prefilter": "pre filter", "inline": "in line", "bypasss": "bypass", "byp": "bypass",
	"outdoor": "outside", "exterior": "outside", "ext": "outside", "pickup": "pick up", "wh": "water heater",
	"cw": "cold", "hw": "hot", "kit": "kit", "shut-off": "shut off", "checkvalve": "check valve", "fw": "fresh",
	"freshwater": "fresh", "gravityfill": "gravity fill", "tpiece": "t piece", "showerhead": "shower head"}

// tokens are the words of a name in small letters, brought to one spelling.
func tokens(name string) []string {
	var list []string
	for _, w := range strings.FieldsFunc(strings.ToLower(name), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}) {
		if s, ok := spellings[w]; ok {
			list = append(list, strings.Fields(s)...)
			continue
		}
		list = append(list, w)
	}
	return list
}

// said is the part of a name that tells what the thing is: what stands before words
// that only say where.
func said(name string) string {
	name = strings.ToLower(name)
	for _, sep := range []string{",", "(", " - ", " – ", " at ", " for ", " by ", " near ", " under ", " in ", " behind ",
		" next to ", " to ", " off ", " from "} {
		before, after, ok := strings.Cut(name, sep)
		if !ok || strings.TrimSpace(before) == "" {
			continue
		}
		if m, ok := rightmost(tokens(after)); ok && sep == " in " &&
			(m.Kind == plumbing.Tee || slices.Contains(fittings, m.Kind)) {
			continue // "Heater in tee": in is its port
		}
		name = before
	}
	return name
}

// Meaning tells what kind of part a name in the words of the trade means; ok is false
// where it tells none.
func Meaning(name string) (kind plumbing.Kind, typ string, ok bool) {
	m, ok := meaningOf(tokens(said(name)))
	if !ok {
		m, ok = meaningOf(tokens(name))
	}
	return m.Kind, m.Type, ok
}

// Fittings stand in lines, appliances at their ends. A name that begins with one and
// ends with the other ("drain heater") may mean either, and tells nothing.
var fittings = []plumbing.Kind{plumbing.Valve, plumbing.CheckValve, plumbing.LowPoint, plumbing.OpenEnd,
	plumbing.Filter, plumbing.Strainer, plumbing.ThreeWay, plumbing.ReliefValve, plumbing.GravityFill}
var appliances = []plumbing.Kind{plumbing.Pump, plumbing.Heater, plumbing.Tank, plumbing.Outlet, plumbing.Machine,
	plumbing.WasteTank}

// weak words name a place; they mean its tap where nothing else in the name means a part.
var weak = map[string]string{"kitchen": "kitchen", "bathroom": "basin", "bath": "basin", "ensuite": "basin",
	"restroom": "basin"}

func meaningOf(words []string) (meaning, bool) {
	if len(words) == 0 {
		return meaning{}, false
	}
	if w := words[0]; w == "tee" || w == "t" && (len(words) == 1 || number(words[1])) ||
		strings.HasPrefix(w, "t") && number(w[1:]) {
		return meaning{Kind: plumbing.Tee}, true // "Tee shower", "T3"
	}
	last, ok := rightmost(words)
	if !ok {
		for _, w := range words {
			if typ := weak[w]; typ != "" {
				return meaning{plumbing.Outlet, typ}, true
			}
		}
		return meaning{}, false
	}
	if slices.Contains(appliances, last.Kind) {
		if first, ok := rightmost(words[:1]); ok && slices.Contains(fittings, first.Kind) {
			return meaning{}, false
		}
	}
	return last, true
}

func number(s string) bool {
	return s != "" && strings.IndexFunc(s, func(r rune) bool { return r < '0' || r > '9' }) < 0
}

// rightmost is the meaning of the rule that ends furthest to the right.
func rightmost(words []string) (best meaning, ok bool) {
	end, length := -1, 0
	for _, rule := range trade {
		want := strings.Fields(rule.words)
		for i := 0; i+len(want) <= len(words); i++ {
			if !slices.Equal(words[i:i+len(want)], want) {
				continue
			}
			if at := i + len(want); at > end || at == end && len(want) > length {
				best, end, length, ok = meaning{rule.kind, rule.typ}, at, len(want), true
			}
		}
	}
	return best.refined(words), ok
}

// refined tells the type of a tap by the place its name tells.
func (m meaning) refined(words []string) meaning {
	if m.Kind != plumbing.Outlet || m.Type != "kitchen" {
		return m
	}
	for _, w := range words {
		switch w {
		case "basin", "lav", "lavatory", "vanity", "bath", "bathroom":
			m.Type = "basin"
		case "outside":
			m.Type = "outside-tap"
		case "shower":
			m.Type = "shower"
		case "purified", "drinking":
			m.Type = "purified"
		}
	}
	return m
}

// portWords are what people call ports, by the names they may mean.
var portWords = map[string][]string{
	"in": {"in"}, "inlet": {"in", "cold"}, "suction": {"in"}, "entry": {"in"},
	"out": {"out"}, "outlet": {"out", "hot", "supply"}, "discharge": {"out"}, "delivery": {"out"}, "exit": {"out"},
	"cold": {"cold"}, "hot": {"hot"}, "mixed": {"mixed"}, "mix": {"mixed"},
	"common": {"com"}, "com": {"com"}, "a": {"a"}, "b": {"b"}, "c": {"c"},
	"supply": {"supply"}, "feed": {"supply"}, "vent": {"vent"}, "overflow": {"overflow"}, "fill": {"fill"},
	"drain": {"drain"}, "relief": {"relief"}, "return": {"return"}, "link": {"link"},
}

// things are port words that name a part as often as a port: "tank drain". They are a
// port only where something sets them off.
var things = []string{"drain", "vent", "overflow", "fill", "relief"}

// portSaid splits a name into a part's name and the ports that its end may say; ok is
// false where it says none.
func portSaid(name string) (part string, ports []string, ok bool) {
	plain := strings.TrimSpace(name)
	for _, sep := range []string{"(", " - ", " – ", ":", ".", ",", "/"} {
		i := strings.LastIndex(plain, sep)
		if i <= 0 {
			continue
		}
		if ports := portsOf(tokens(plain[i:])); ports != nil {
			return strings.TrimSpace(plain[:i]), ports, true
		}
	}
	fields := strings.Fields(plain)
	for n := min(3, len(fields)-1); n > 0; n-- {
		tail := tokens(strings.Join(fields[len(fields)-n:], " "))
		ports := portsOf(tail)
		if ports == nil || slices.Contains(things, tail[0]) && len(tail) == 1 {
			continue // "tank drain" is a drain; "tank drain port" is a port
		}
		return strings.Join(fields[:len(fields)-n], " "), ports, true
	}
	return "", nil, false
}

// portsOf are the ports that some words mean together: "cold inlet" is the cold port.
func portsOf(words []string) (ports []string) {
	words = slices.DeleteFunc(slices.Clone(words), noise)
	for i, w := range words {
		may := portWords[w]
		switch {
		case may == nil:
			return nil
		case i == 0:
			ports = may
		default:
			if ports = among(ports, may); ports == nil {
				return nil
			}
		}
	}
	return ports
}

// noise is a word that adds nothing to a port's name.
func noise(w string) bool {
	return slices.Contains([]string{"port", "side", "connection", "fitting", "end", "stub", "barb", "nipple"}, w)
}
