package reading

import (
	"regexp"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// topic is something that a figure in a text can be about.
type topic struct {
	kind  kind
	words []*regexp.Regexp // all of them stand around the figure
	none  *regexp.Regexp   // none of this does; nil for nothing
	roles []plumbing.Role  // of the part that must be named; nil where none need be
	sole  bool             // the part need not be named where there is but one of its role
	bound bool             // it is a bound: "at most", "at least"
	of    func(r *reader, p *plumbing.Part, around string) []target
}

// target is what the model gives for a topic.
type target struct {
	ref       string // by which a text of ours follows it; "" for none
	low, high float64
	about, is fact.Fact
}

// kind reads an amount as one of a kind.
type kind func(a amount) (low, high, digits float64, ok bool)

// counting reads bare counts of some things.
func counting(units ...string) kind {
	return func(a amount) (low, high, digits float64, ok bool) {
		for _, u := range units {
			if a.unit == u {
				return a.count, a.count, 0, true
			}
		}
		return 0, 0, 0, false
	}
}

func re(words string) *regexp.Regexp { return regexp.MustCompile(`\b(` + words + `)`) }

func all(words ...string) (list []*regexp.Regexp) {
	for _, w := range words {
		list = append(list, re(w))
	}
	return list
}

// fluids are words for what goes into water, by which a figure of water is told from one of these.
var fluids = re(`bleach|chlorine|antifreeze|vinegar|sanitizer|weigh|per\b|every|each|flush|rinse|refill|jug|heel|left|` +
	`remain|run out`)

// topics are all that a figure can be about.
var topics = []topic{
	{kind: as[quantity.Litre], words: all(`hold|capacity|contain|volume|takes|size|tank of|tank:|tank is`),
		none:  fluids,
		roles: []plumbing.Role{plumbing.RoleTank, plumbing.RoleHeater, plumbing.RoleWaste}, of: capacity},
	{kind: as[quantity.Litre], words: all(`lines|pipes|plumbing`, `hold|contain|content|water in`),
		none: re(`bleach|antifreeze|vinegar|tank`), of: figures("content")},
	{kind: as[quantity.Litre], words: all(`bleach`),
		none: re(`per\b|every|each|for every|keep|fresh|sweet|batch|vinegar|to a|to \d`),
		of:   dose},
	{kind: as[quantity.Litre], words: all(`antifreeze`),
		none: re(`per\b|left over|spare|trap|each|every|jug holds|of \d`), of: antifreeze},
	{kind: counting("jug"), words: all(`antifreeze|jug`), none: re(`left over|spare`), of: jugs},
	{kind: as[quantity.Second], words: all(`soak|stand|sit\b|leave it|leave the (solution|sanitizer)`),
		none: re(`vinegar|descal|antifreeze|heater|cool|pump`), of: figures("soak")},
	{kind: as[quantity.Second], words: all(`fill`, `tank|take`), none: re(`drain|heater|refill`), sole: true,
		roles: []plumbing.Role{plumbing.RoleTank}, of: timed("fill")},
	{kind: as[quantity.Second], words: all(`drain|empt|run out|runs out`), none: re(`fill|heater|pump`),
		roles: []plumbing.Role{plumbing.RoleTank}, of: timed("drain")},
	{kind: as[quantity.Second], words: all(`cool`), roles: []plumbing.Role{plumbing.RoleHeater}, sole: true,
		of: timed("cool")},
	{kind: as[quantity.Second], words: all(`heat up|heats up|warm|hot water is ready|to heat`), none: re(`cool`),
		roles: []plumbing.Role{plumbing.RoleHeater}, sole: true, of: timed("warm")},
	{kind: as[quantity.Kilopascal], words: all(`air|blow|compress`), none: re(`city|regulat|pump|hose`),
		of: figures("air")},
	{kind: as[quantity.Kilopascal], words: all(`air|blow|compress`), none: re(`city|regulat|pump|hose`), bound: true,
		of: figures("air/ceiling")},
	{kind: as[quantity.Kilopascal], words: all(`regulat`), none: re(`air|blow`),
		roles: []plumbing.Role{plumbing.RoleInlet},
		sole:  true, of: data(func(p *plumbing.Part) (float64, fact.Fact) {
			return float64(p.Data.Regulator.Value()), said(p.Data.Regulator)
		})},
	{kind: as[quantity.Kilopascal], words: all(`cuts? out|cut-out|shuts off|switches off|stops at`),
		roles: []plumbing.Role{plumbing.RolePump}, sole: true, of: data(func(p *plumbing.Part) (float64, fact.Fact) {
			return float64(p.Data.CutOut.Value()), said(p.Data.CutOut)
		})},
	{kind: as[quantity.Ampere], words: all(`fuse`), roles: []plumbing.Role{plumbing.RolePump}, sole: true,
		of: data(func(p *plumbing.Part) (float64, fact.Fact) { return float64(p.Data.Fuse.Value()), said(p.Data.Fuse) })},
	{kind: as[quantity.LitrePerMinute], words: all(`pump`), none: re(`city|hose|tap`),
		roles: []plumbing.Role{plumbing.RolePump},
		sole:  true, of: data(func(p *plumbing.Part) (float64, fact.Fact) {
			return float64(p.Data.Flow.Value()), said(p.Data.Flow)
		})},
	{kind: as[quantity.Kilogram], words: all(`weigh`, `full|all|total`),
		none: re(`per\b|each|every|left|remain`), of: figures("weight")},
	{kind: as[quantity.Kilogram], words: all(`carrying|cargo|payload`, `left|remain`), of: figures("weight/left")},
	{kind: counting("times", "refill", "rinse"), words: all(`refill|rinse|flush|fill and drain`),
		none: re(`pump|turn`), of: refills},
	{kind: as[quantity.Litre], words: all(`flush|rins`, `water`), none: re(`bleach|antifreeze|tank holds`),
		of: flushWater},
	{kind: as[quantity.MgPerLitre], words: all(`chlorine|sanitiz|bleach|strength`),
		none: re(`drink|limit|ceiling`), of: strength},
	{kind: as[quantity.Percent], words: all(`bleach`), none: re(`anode|vinegar`),
		of: func(r *reader, _ *plumbing.Part, _ string) []target {
			v := house.Bleach.Of(r.in.House)
			return []target{{"", float64(v), float64(v), fact.Of("about.product"), fact.Of("it", v)}}
		}},
	{kind: as[quantity.Percent], words: all(`anode`, `used|worn|gone|replace`),
		of: func(r *reader, _ *plumbing.Part, _ string) []target {
			v := quantity.Percent(100 * house.Anode.Of(r.in.House))
			return []target{{"", float64(v), float64(v), fact.Of("about.anode"), fact.Of("it", v)}}
		}},
	{kind: as[quantity.Celsius], words: all(`antifreeze`, `protect|burst|rated`),
		of: func(r *reader, _ *plumbing.Part, _ string) []target {
			v := house.Antifreeze.Of(r.in.House)
			return []target{{"", float64(v), float64(v), fact.Of("about.protection"), fact.Of("it.both", v)}}
		}},
	{kind: counting("container", "jerrycan"), words: all(`fill|tank`), roles: []plumbing.Role{plumbing.RoleTank},
		sole: true,
		of:   func(r *reader, p *plumbing.Part, _ string) []target { return r.figure("loads/" + p.ID) }},
	{kind: as[quantity.Litre], words: all(`bleach`, `keep|fresh|sweet`), none: re(`per\b|every`),
		of: figures("keep-fresh")},
	{kind: as[quantity.Litre], words: all(`vinegar`), none: re(`per\b|every`),
		roles: []plumbing.Role{plumbing.RoleHeater}, sole: true,
		of: func(r *reader, p *plumbing.Part, _ string) []target { return r.figure("descale/" + p.ID) }},
	{kind: as[quantity.Second], words: all(`silent|quiet|leak`, `pump|leak`),
		of: func(r *reader, _ *plumbing.Part, _ string) []target {
			v := house.LeakTest.Of(r.in.House)
			return []target{{"", float64(v), float64(v), fact.Of("about.leak-test"), fact.Of("it.neat", v)}}
		}},
}

// said is a figure of a part, as far as it is given.
func said[U quantity.Unit](g quantity.Given[U]) fact.Fact {
	return fact.If(!g.IsZero(), fact.Of("it.both", g.Value()))
}

// figure is a figure of the report as a target.
func (r *reader) figure(id string) []target {
	low, high, ok := r.in.Numbers(id)
	if !ok {
		return nil
	}
	return []target{{id, low, high, r.in.Named(id), r.in.Live(id)}}
}

func figures(id string) func(*reader, *plumbing.Part, string) []target {
	return func(r *reader, _ *plumbing.Part, _ string) []target { return r.figure(id) }
}

func timed(what string) func(*reader, *plumbing.Part, string) []target {
	return func(r *reader, p *plumbing.Part, _ string) []target { return r.figure("time/" + what + "-" + p.ID) }
}

// data is a figure of a part itself.
func data(get func(*plumbing.Part) (float64, fact.Fact)) func(*reader, *plumbing.Part, string) []target {
	return func(_ *reader, p *plumbing.Part, _ string) []target {
		v, is := get(p)
		if is.IsZero() {
			return nil
		}
		return []target{{"", v, v, fact.Of("it", p), is}}
	}
}

func capacity(r *reader, p *plumbing.Part, _ string) []target {
	v := p.Data.Capacity
	if v.IsZero() {
		return nil
	}
	holds := float64(v.Value())
	return []target{{"part/" + p.ID, holds, holds, fact.Of("named.holds", p), fact.Of("it.both", v.Value())}}
}

// dose is the bleach for the tanks; of several bodies of water none is meant.
func dose(r *reader, _ *plumbing.Part, _ string) []target {
	if len(r.in.Report.Doses) != 1 || len(r.in.Report.Doses[0].Tanks) != 1 {
		return nil
	}
	return r.figure("dose/" + r.in.Report.Doses[0].Tanks[0].Tank.ID + "/measured")
}

// states are words for how the lines are before antifreeze comes.
var (
	blown   = re(`blown|blow|air`)
	drained = re(`drained|draining`)
	through = re(`not bypassed|heater in\b|left in|without bypass|through the heater`)
)

// sheets are the ids of the worksheets of antifreeze that a text may mean; several where it does not say which and it
// matters.
func (r *reader) sheets(around string) []string {
	switch {
	case through.MatchString(around):
		return []string{"antifreeze/antifreeze-through-heater/drained"}
	case blown.MatchString(around):
		return []string{"antifreeze/antifreeze/blown"}
	case drained.MatchString(around):
		return []string{"antifreeze/antifreeze/drained"}
	}
	a, _, one := r.in.Numbers("antifreeze/antifreeze/blown")
	b, _, other := r.in.Numbers("antifreeze/antifreeze/drained")
	if one && other && !same(a, b, 0.005) {
		return nil
	}
	return []string{"antifreeze/antifreeze/drained"}
}

// antifreeze is what the lines take; a text may also say what is bought for it, whole jugs.
func antifreeze(r *reader, _ *plumbing.Part, around string) (list []target) {
	for _, id := range r.sheets(around) {
		list = append(list, r.figure(id)...)
		if n, _, ok := r.in.Numbers(id + "/jugs"); ok && len(list) > 0 {
			bought := n * float64(house.Jug.Of(r.in.House))
			list = append(list, target{"", bought, bought, list[0].about, list[0].is})
		}
	}
	return list
}

func jugs(r *reader, _ *plumbing.Part, around string) (list []target) {
	for _, id := range r.sheets(around) {
		list = append(list, r.figure(id+"/jugs")...)
	}
	return list
}

func refills(r *reader, _ *plumbing.Part, _ string) []target {
	return r.figure("flush/" + house.FlushWay.Of(r.in.House) + "/refills")
}

func flushWater(r *reader, _ *plumbing.Part, _ string) []target {
	return r.figure("flush/" + house.FlushWay.Of(r.in.House) + "/water")
}

// strength is what the house asks for; what the dose comes to in the tank is right too.
func strength(r *reader, _ *plumbing.Part, _ string) (list []target) {
	v := house.Target.Of(r.in.House)
	list = append(list, target{"", float64(v), float64(v), fact.Of("about.target"), fact.Of("it", v)})
	if len(r.in.Report.Doses) == 1 {
		f := float64(r.in.Report.Doses[0].Filled)
		list = append(list, target{"", f, f, list[0].about, list[0].is})
	}
	return list
}
