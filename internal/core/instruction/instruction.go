// Package instruction makes what is read of a procedure from its steps, from
// what its run came to, and from the model's equipment: facts in their order,
// no words yet.
package instruction

import (
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
)

// Instruction is a procedure as it is read.
type Instruction struct {
	ID       string
	Name     fact.Fact
	Site     []fact.Fact // what must hold before the first step
	Ranges   []fact.Fact // what breaks where a unit or a site is not as the procedure takes it to be
	Hand     []fact.Fact // what to have at hand
	Takes    []fact.Fact // of that what is used up, in a few words
	Used     []Used
	Whole    []fact.Fact // what it comes to
	Steps    []Step
	TakenOff []TakenOff
	Tags     []fact.Fact // to be printed and hung up
	Elapsed  quantity.Second
	Attended quantity.Second // of it, somebody is busy
}

// Step is a step as it is read.
type Step struct {
	Head     fact.Fact   // what it is for
	Acts     []state.Act // what hands do, told by act and part
	Pour     []fact.Fact
	Until    fact.Fact
	Then     []state.Act
	Notes    []fact.Fact // what comes of it: time, litres, the next jug
	Cautions []Caution   // that stand here first
	Tools    []fact.Fact
	Parts    []*plumbing.Part // that it is at, each once
	Main     []*plumbing.Part // that its head names
	From     quantity.Second  // when it begins, in the time of the whole
	Took     quantity.Second  // hands included
	Attended quantity.Second
	Waits    quantity.Second // that pass before it is done
	Alone    bool            // nobody has to stay
	Who      fact.Fact       // where each of two stands; nothing where one is enough
	Came     bool            // what is waited for
	Breaches []proof.Breach  // that are first so here
}

// Used is something that is used up.
type Used struct {
	What  Stuff
	Litre quantity.Litre
	Count int // of strips
}

// Stuff is a kind of it.
type Stuff string

// What is used up.
const (
	UsedAntifreeze Stuff = "antifreeze"
	UsedBleach     Stuff = "bleach"
	UsedVinegar    Stuff = "vinegar"
	UsedStrips     Stuff = "strips"
)

// TakenOff is what a hand took off or out.
type TakenOff struct {
	Part      *plumbing.Part
	Cartridge bool // of a filter, which is changed when it is out
	At        int  // step, from 1
	Back      int  // the step that puts it back, 0 for none
}

// Of makes what is read of a procedure that was carried out.
func Of(n *plumbing.Network, rules house.House, p *proof.Procedure, pr *proof.Proof) *Instruction {
	w := &writer{n: n, rules: rules, proc: p, proof: pr, said: map[string]bool{},
		Instruction: &Instruction{ID: p.ID, Name: fact.Of("procedure." + p.ID)}}
	for i := range pr.Outcomes {
		w.step(i)
	}
	w.site()
	w.hand()
	w.tags()
	w.whole()
	return w.Instruction
}

// writer is an instruction in the making.
type writer struct {
	*Instruction
	n     *plumbing.Network
	rules house.House
	proc  *proof.Procedure
	proof *proof.Proof
	said  map[string]bool // cautions that stand somewhere already
	drawn quantity.Litre  // of antifreeze, from jugs
}

// step writes one step.
func (w *writer) step(i int) {
	s, o := &w.proc.Steps[i], w.proof.Outcomes[i]
	step := Step{Acts: told(s), Then: s.Then, Came: o.Came, From: w.Elapsed}
	step.Parts = partsOf(s)
	step.Main = mainOf(s)
	step.Head = fact.Of("step."+s.For, step.Main, sidesOf(s), s.Until.Litre, s.Until.For)
	if m := machine(s); m != nil {
		step.Head = fact.Of("step.machine", m, sidesOf(s))
	}
	if s.Words != "" {
		step.Head = fact.Of("step.by-hand", s.Words)
	}
	step.Until = w.until(s)
	for _, p := range s.Pour {
		step.Pour = append(step.Pour, w.pour(p))
	}
	hands := house.Handling.Of(w.rules) * quantity.Second(len(s.Acts)+len(s.Then)+len(s.Pour))
	step.Took = hands + o.Took
	step.Alone = o.Waited >= alone || o.Took >= alone && s.Until.Sense == run.AtOnce
	step.Attended, step.Waits = step.Took, o.Waited
	if step.Alone {
		step.Attended = hands
	}
	w.Elapsed += step.Took
	w.Attended += step.Attended
	step.Notes = w.notes(i)
	step.Cautions = w.cautions(i)
	step.Tools = tools(s)
	step.Who = w.who(i)
	w.takenOff(i)
	for _, b := range w.proof.Breaches {
		if b.Step == i {
			step.Breaches = append(step.Breaches, b)
		}
	}
	w.Steps = append(w.Steps, step)
}

// machine is the machine that a step lets run by its own cycle; nil for none.
func machine(s *proof.Step) *plumbing.Part {
	for _, a := range s.Acts {
		if a.Verb == state.Open && a.Part.Role() == plumbing.RoleMachine {
			return a.Part
		}
	}
	return nil
}

// alone is how long a wait is in which nobody stays.
const alone quantity.Second = 600

// told are the acts that the head of a step does not tell by itself: all but the opening of one outlet. Where handles are
// turned as well everything is told, in the order of hands.
func told(s *proof.Step) (list []state.Act) {
	opens, turns := 0, 0
	for _, a := range s.Acts {
		switch a.Verb {
		case state.Open:
			opens++
		case state.Turn:
			turns++
		}
	}
	for _, a := range s.Acts {
		if a.Verb == state.Open && opens == 1 && turns == 0 && s.Until.Sense != run.AtOnce {
			continue
		}
		list = append(list, a)
	}
	return list
}

// partsOf are the parts that a step is at, each once, in the order of its acts.
func partsOf(s *proof.Step) (list []*plumbing.Part) {
	add := func(p *plumbing.Part) {
		if p != nil && !slices.Contains(list, p) {
			list = append(list, p)
		}
	}
	for _, a := range s.Acts {
		add(a.Part)
	}
	for _, p := range s.Pour {
		add(p.Into)
	}
	add(s.Until.Tank)
	for _, a := range s.Then {
		add(a.Part)
	}
	return list
}

// mainOf are the parts that the head of a step names: what it waits at, else
// what it opens or pours into, else all.
func mainOf(s *proof.Step) (list []*plumbing.Part) {
	add := func(p *plumbing.Part) {
		if p != nil && !slices.Contains(list, p) {
			list = append(list, p)
		}
	}
	for _, a := range s.Acts {
		if a.Verb == state.Open || a.Verb == state.Catch && len(s.Until.At) > 0 {
			add(a.Part)
		}
	}
	if list == nil {
		add(s.Until.Tank)
	}
	for _, p := range s.Pour {
		add(p.Into)
	}
	if list == nil {
		return partsOf(s)
	}
	return list
}

// sidesOf is which side of its outlet a step opens; nothing where it has but one.
func sidesOf(s *proof.Step) fact.Fact {
	for _, a := range s.Acts {
		if a.Verb == state.Open {
			if len(a.Sides) == 1 && len(a.Part.Ports()) > 1 {
				return fact.Of("step-side", fact.Word("side."+a.Sides[0]))
			}
			return fact.Fact{}
		}
	}
	return fact.Fact{}
}

// until is what a step waits for, as a person can tell it.
func (w *writer) until(s *proof.Step) fact.Fact {
	switch {
	case s.Until.Room:
		return fact.Of("till.room", w.sensed(&s.Until))
	case s.For == "hand-pump":
		return fact.Of("till.firm")
	}
	return w.sensed(&s.Until)
}

// sensed is what tells that a step is done.
func (w *writer) sensed(u *run.Until) fact.Fact {
	switch u.Sense {
	case run.AtOnce:
		return fact.Fact{}
	case run.Full:
		level := quantity.Percent(u.Level * 100)
		if u.Level > 0.95 {
			return fact.Of("till.full", u.Tank)
		}
		return fact.Of("till.level", u.Tank, level)
	case run.Empty:
		return fact.Of("till.empty", u.Tank)
	case run.Passed:
		return fact.Of("till.passed", u.For)
	case run.Ran:
		return fact.Of("till.ran", u.Litre)
	case run.Strong:
		return fact.Of("till.strong", u.Least.Chlorine, more(u))
	case run.Clear:
		switch {
		case u.Gone == state.Sanitizer:
			return fact.Of("till.gone.sanitizer", u.Least.Chlorine, more(u))
		case u.Gone != "" && u.Gone != state.Antifreeze:
			return fact.Of("till.gone."+string(u.Gone), more(u))
		}
		return fact.Of("till.clear", more(u))
	case run.Coloured, run.Sour, run.Solid, run.Smelled:
		return fact.Of("till."+string(u.Sense), more(u))
	}
	return fact.Of("till." + string(u.Sense))
}

// more is what runs on when what is waited for is there.
func more(u *run.Until) fact.Fact {
	return fact.If(u.Litre > 0.01, fact.Of("till.more", u.Litre))
}

// pour is a liquid that goes in by hand.
func (w *writer) pour(p run.Pour) fact.Fact {
	switch {
	case p.Mix.Chlorine > w.proc.Start.Supply.Chlorine+someChlorine:
		mg := float64(p.Litre) * float64(p.Mix.Chlorine-w.proc.Start.Supply.Chlorine)
		product := house.Bleach.Of(w.rules)
		bleach := quantity.Household(quantity.Litre(mg/(float64(product)*10_000)), 0.1, w.n.System())
		return fact.Of("pour.bleach", p.Into, bleach, p.Litre, p.Mix.Chlorine, product)
	case p.Mix.Glycol > 0:
		return fact.Of("pour.antifreeze", p.Into, p.Litre)
	case p.Mix.Acid > 0:
		return fact.Of("pour.vinegar", p.Into, p.Litre, quantity.Percent(100*p.Mix.Acid))
	}
	return fact.Of("pour.water", p.Into, p.Litre)
}

// someChlorine is more than what any supply is topped up by.
const someChlorine quantity.MgPerLitre = 0.01

// notes are what comes of a step: how long it takes, how much runs, which jug is next.
func (w *writer) notes(i int) (list []fact.Fact) {
	s, o := &w.proc.Steps[i], w.proof.Outcomes[i]
	if o.Took >= 1 && s.Until.Sense != run.Passed {
		list = append(list, fact.Of("note.took", rounded(o.Took)))
	}
	if s.Until.Sense == run.Full {
		var in quantity.Litre
		for _, v := range inOrder(o.Drew) {
			in += v
		}
		list = append(list, fact.If(in > 0, fact.Of("note.goes-in", in)))
	} else {
		var out quantity.Litre
		for _, at := range s.Until.At {
			out += o.Ran[at]
		}
		list = append(list, fact.If(out > 0.01 && s.Until.Sense != run.Ran, fact.Of("note.runs", out)))
		for at, v := range inOrder(o.Drew) {
			if w.joined(i, at).Volume > 0 {
				list = append(list, fact.Of("note.draws", v))
			}
		}
	}
	if m := machine(s); m != nil && s.Pool > 1 {
		list = append(list, fact.Of("note.pool", s.Pool, plumbing.Field(w.n, &m.Data.Cycle).Value()))
	}
	if o.Rests > 0 {
		list = append(list, fact.Of("note.rests", w.proc.Limit.Duty.On, w.proc.Limit.Duty.Off))
	}
	if jug := house.Jug.Of(w.rules); jug > 0 {
		before := w.drawn
		for at, v := range inOrder(o.Drew) {
			if w.proof.Systems[i+1].State.Joined[at].Fluid == state.Antifreeze ||
				w.proof.Systems[i].State.Joined[at].Fluid == state.Antifreeze {
				w.drawn += v
			}
		}
		if next := int(w.drawn / jug); next > int(before/jug) {
			list = append(list, fact.Of("note.jug", next+1))
		}
	}
	return slices.DeleteFunc(list, fact.Fact.IsZero)
}

// rounded is a time as somebody would say it.
func rounded(t quantity.Second) quantity.Second {
	step := quantity.Second(5)
	switch {
	case t >= 3600:
		step = 600
	case t >= 600:
		step = 60
	case t >= 120:
		step = 30
	}
	return max(step, quantity.Second(int(t/step+0.5))*step)
}

// tools are the tools of the parts that a step turns or takes out.
func tools(s *proof.Step) (list []fact.Fact) {
	seen := map[string]bool{}
	for _, a := range s.Acts {
		if t := a.Part.Tool; t != "" && (a.Verb == state.Turn || a.Verb == state.TakeOut) && !seen[t] {
			seen[t] = true
			list = append(list, fact.Of("tool.own", t))
		}
		if a.Verb == state.Catch && !seen["bucket"] {
			seen["bucket"] = true
			list = append(list, fact.Of("tool.bucket"))
		}
	}
	return list
}

// takenOff keeps what hands take off, and when it is put back.
func (w *writer) takenOff(i int) {
	s := &w.proc.Steps[i]
	for _, a := range slices.Concat(s.Acts, s.Then) {
		switch {
		case a.Verb == state.TakeOut || a.Verb == state.Turn && removes(a):
			w.TakenOff = append(w.TakenOff, TakenOff{Part: a.Part, At: i + 1, Cartridge: a.Verb == state.TakeOut &&
				a.Part.Role() == plumbing.RoleFilter})
		case a.Verb == state.PutBack || a.Verb == state.Turn:
			for k := range w.TakenOff {
				if t := &w.TakenOff[k]; t.Part == a.Part && t.Back == 0 {
					t.Back = i + 1
				}
			}
		}
	}
}

// removes reports whether a turn takes something off: a plug, a rod or a cap is out, a joint apart.
func removes(a state.Act) bool {
	switch a.Part.Reading.Handle {
	case "plug", "cap":
		return a.To == "open" || a.To == "off"
	}
	return a.Part.Role() == plumbing.RoleJoint && a.To == "apart"
}
