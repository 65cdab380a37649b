package drill

import (
	"slices"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
)

// Sign is something that is seen of a heater from outside.
type Sign string

// The signs.
const (
	Vessel    Sign = "vessel"     // an insulated tank behind the front
	Coil      Sign = "coil"       // no tank: a coil in a box
	Door      Sign = "door"       // a door with louvres in the outer wall
	HexPlug   Sign = "hex-plug"   // a large hexagon plug of metal low at the front, a rod on it
	ClearPlug Sign = "clear-plug" // a plug of plastic low at the front, nothing on it
	Lever     Sign = "lever"      // of a relief valve, high at the front
	Flue      Sign = "flue"       // a burner's
	Igniter   Sign = "igniter"    // clicks when water runs
	Couplings Sign = "couplings"  // quick couplings on hoses, and a handle to carry it by
	Dump      Sign = "dump"       // a valve beside it that opens by itself in the cold
	Ducts     Sign = "ducts"      // of warm air to the rooms
	Circuit   Sign = "circuit"    // two hoses of a heating circuit, with water in it that nobody drinks
	TwoPower  Sign = "two-power"  // a switch for gas and one for electric current
)

// signsOf are what is seen of each kind of heater, whoever made it.
// Source: how these kinds are built, as the trade describes them.
var signsOf = map[string][]Sign{
	"storage-steel": {Vessel, Door, HexPlug, Lever, Flue, TwoPower},
	"storage-clad":  {Vessel, Door, ClearPlug, Lever, Flue, TwoPower},
	"on-demand":     {Coil, Door, Flue, Igniter, Lever},
	"portable":      {Coil, Flue, Igniter, Couplings},
	"combi":         {Vessel, Dump, Ducts, Flue, TwoPower},
	"hydronic":      {Coil, Circuit},
}

// heaterTypes lists the kinds of heater in order.
func heaterTypes() []string { return plumbing.Heater.Info().Types }

// fits lists the kinds of heater of which all of some signs are seen.
func fits(signs []Sign) (types []string) {
	for _, t := range heaterTypes() {
		if !slices.ContainsFunc(signs, func(s Sign) bool { return !slices.Contains(signsOf[t], s) }) {
			types = append(types, t)
		}
	}
	return types
}

// seenOf are the signs of a heater of the model: those of its kind that its data
// do not rule out.
func seenOf(p *plumbing.Part) (signs []Sign) {
	for _, s := range signsOf[p.Data.Type] {
		heat := p.HeatBy()
		switch {
		case s == TwoPower && len(heat) > 0 &&
			!(slices.Contains(heat, plumbing.Gas) && slices.Contains(heat, plumbing.Electric)):
		case s == Flue && len(heat) > 0 && !slices.Contains(heat, plumbing.Gas) &&
			!slices.Contains(heat, plumbing.Diesel):
		case s == Door && p.Place.Reach != "" && !strings.Contains(strings.ToLower(p.Place.Reach), "outside"):
		default:
			signs = append(signs, s)
		}
	}
	return signs
}

// heaters asks what kind a heater is by what is seen of it: the model's own, and
// others fitted in its place.
func (k *maker) heaters() error {
	list := k.Net.PartsOf(plumbing.RoleHeater)
	if len(list) == 0 {
		return nil
	}
	for _, h := range list {
		k.looksOf(h, h.Data.Type, seenOf(h), true)
	}
	for _, t := range heaterTypes() {
		if t != list[0].Data.Type {
			k.looksOf(list[0], t, signsOf[t], false)
		}
	}
	return nil
}

// mostSigns is how many signs a question shows at most.
const mostSigns = 4

// looksOf asks for a kind of heater by some of its signs, in all ways in which
// they tell it.
func (k *maker) looksOf(h *plumbing.Part, kind string, signs []Sign, own bool) {
	types := len(heaterTypes())
	most := (Most + types - 1) / types
	var sets [][]Sign
	for set := 1; set < 1<<len(signs); set++ {
		var seen []Sign
		for i, s := range signs {
			if set&(1<<i) != 0 {
				seen = append(seen, s)
			}
		}
		switch found := fits(seen); {
		case len(seen) > mostSigns:
		case len(found) == 1:
			sets = append(sets, seen)
		default:
			k.refuse(LooksAlike)
		}
	}
	name := "heater " + h.ID + " " + kind
	for _, seen := range some(name, sets, most) {
		key := h.ID + "/" + kind
		told := []fact.Fact{}
		for _, s := range seen {
			key += "/" + string(s)
			told = append(told, fact.Of("drill.heater-sign."+string(s)))
		}
		x := Exercise{Key: key, Ask: fact.Of("drill.ask.heater.other", h), Told: told, About: []string{h.ID},
			Reasons: map[string]Reason{}, Hard: 1 + len(fits(seen[:len(seen)-1])),
			Inputs: []record.Input{{Kind: record.Field, Of: h.ID, Field: "data.type"},
				{Kind: record.Field, Of: h.ID, Field: "data.gas"},
				{Kind: record.Field, Of: h.ID, Field: "data.electric"},
				{Kind: record.Field, Of: h.ID, Field: "data.diesel"},
				{Kind: record.Field, Of: h.ID, Field: "place.reach"},
				{Kind: record.Field, Of: h.ID, Field: "name"}}}
		if own {
			x.Ask = fact.Of("drill.ask.heater.own", h)
		}
		for _, s := range seen {
			x.Signs = append(x.Signs, string(s))
		}
		x.Right = []string{kind}
		for _, t := range heaterTypes() {
			x.Options = append(x.Options, Option{ID: t, Said: fact.Of("drill.heater-kind." + t)})
			r := Reason{Parts: []string{h.ID}}
			for _, s := range seen {
				if !slices.Contains(signsOf[t], s) {
					r.Said = append(r.Said, fact.Of("drill.heater-lacks", fact.Of("drill.heater-kind."+t),
						fact.Of("drill.heater-sign."+string(s))))
				}
			}
			if t == kind {
				r.Said = []fact.Fact{fact.Of("drill.heater-then." + kind)}
			}
			x.Reasons[t] = r
		}
		x.Hints = []fact.Fact{fact.Of("drill.hint.sign", told[len(told)-1])}
		k.add(x)
	}
}
