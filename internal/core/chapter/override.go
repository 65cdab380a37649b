package chapter

import (
	"fmt"
	"strconv"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// said is a figure as the guide tells it: as a hand set it, else as the run has it, else as the worksheet has it.
func (in *Inputs) said(f *figure.Figure) fact.Fact {
	if o, ok := in.byHand(f.ID); ok {
		return fact.Of("figure.by-hand", o.Value)
	}
	return in.computed(f)
}

// computed is a figure as the model gives it.
func (in *Inputs) computed(f *figure.Figure) fact.Fact {
	if n, ok := in.rounds(f.ID); ok {
		return fact.Of("it", strconv.Itoa(n))
	}
	return f.Said()
}

// byHand is what a hand set for a figure, where one did and that is no danger as things are now.
func (in *Inputs) byHand(id string) (o plumbing.Override, ok bool) {
	if in.By == nil {
		return o, false
	}
	o, ok = in.By.Figures[id]
	return o, ok && in.Judge(id, o.Value) == nil
}

// DangerError says that a figure set by hand would be a danger.
type DangerError struct{ Said fact.Fact }

func (e *DangerError) Error() string { return "a figure set by hand is a danger: " + e.Said.ID }

// UnreadError says that a figure set by hand can't be read as one of its kind.
type UnreadError struct {
	ID  string
	Err error
}

func (e *UnreadError) Error() string { return fmt.Sprintf("figure %s: %v", e.ID, e.Err) }

// Unwrap gives what was wrong with the text.
func (e *UnreadError) Unwrap() error { return e.Err }

// Judge holds a value that a hand sets for a figure against the rules that procedures are held against: a *DangerError
// where it would hurt somebody or break something, an *UnreadError where it is no such figure.
func (in *Inputs) Judge(id, text string) error {
	f := in.figure(id)
	if f == nil || f.Value == nil {
		return &UnreadError{id, fmt.Errorf("the model gives no such figure")}
	}
	v, err := read(f.Value, text)
	if err != nil {
		return &UnreadError{id, err}
	}
	if said := in.danger(f, v); !said.IsZero() {
		return &DangerError{said}
	}
	return nil
}

// Danger is what is dangerous where a figure has other numbers than the model gives, as Judge has it; nothing where
// nothing is, or where the model gives no such figure any more.
func (in *Inputs) Danger(id string, low, high float64) fact.Fact {
	f := in.figure(id)
	if f == nil || f.Value == nil || f.Missing != nil {
		return fact.Fact{}
	}
	return in.danger(f, span{low, high})
}

// span is a figure as numbers in its own unit: from, to.
type span struct{ low, high float64 }

// read reads a text as a value of the kind of another.
func read(like figure.Value, text string) (span, error) {
	one := func(v float64, err error) (span, error) { return span{v, v}, err }
	switch like.(type) {
	case figure.Amount[quantity.Litre], figure.Measure:
		return one(as[quantity.Litre](text))
	case figure.Amount[quantity.Second]:
		return one(as[quantity.Second](text))
	case figure.Amount[quantity.Kilogram]:
		return one(as[quantity.Kilogram](text))
	case figure.Amount[quantity.Kilopascal]:
		return one(as[quantity.Kilopascal](text))
	case figure.Amount[quantity.MgPerLitre]:
		return one(as[quantity.MgPerLitre](text))
	case figure.Amount[quantity.Celsius]:
		return one(as[quantity.Celsius](text))
	case figure.Share:
		v, err := as[quantity.Percent](text)
		return span{v / 100, v / 100}, err
	case figure.Count:
		var n int
		if _, err := fmt.Sscanf(strings.TrimSpace(text), "%d", &n); err != nil || n < 0 {
			return span{}, fmt.Errorf("%q is no count; write a whole number", text)
		}
		return span{float64(n), float64(n)}, nil
	case figure.Band[quantity.Litre]:
		return band[quantity.Litre](text)
	case figure.Band[quantity.Second]:
		return band[quantity.Second](text)
	case figure.Band[quantity.MgPerLitre]:
		return band[quantity.MgPerLitre](text)
	}
	return span{}, fmt.Errorf("this figure is not set by hand")
}

func as[U quantity.Unit](text string) (float64, error) {
	v, err := quantity.Parse[U](text)
	return float64(v), err
}

// band reads "4 h to 8 h".
func band[U quantity.Unit](text string) (span, error) {
	low, high, two := strings.Cut(text, " to ")
	a, err := as[U](low)
	if err != nil || !two {
		return span{a, a}, err
	}
	b, err := as[U](high)
	return span{a, b}, err
}

// number is a figure in its own unit; what has none is nought.
func number(v figure.Value) span {
	switch v := v.(type) {
	case figure.Amount[quantity.Litre]:
		return span{float64(v.V), float64(v.V)}
	case figure.Measure:
		return span{float64(v.V.Litre), float64(v.V.Litre)}
	case figure.Amount[quantity.Second]:
		return span{float64(v.V), float64(v.V)}
	case figure.Amount[quantity.Kilogram]:
		return span{float64(v.V), float64(v.V)}
	case figure.Amount[quantity.Kilopascal]:
		return span{float64(v.V), float64(v.V)}
	case figure.Amount[quantity.MgPerLitre]:
		return span{float64(v.V), float64(v.V)}
	case figure.Amount[quantity.Celsius]:
		return span{float64(v.V), float64(v.V)}
	case figure.Share:
		return span{float64(v), float64(v)}
	case figure.Count:
		return span{float64(v), float64(v)}
	case figure.Band[quantity.Litre]:
		return span{float64(v.Low), float64(v.High)}
	case figure.Band[quantity.Second]:
		return span{float64(v.Low), float64(v.High)}
	case figure.Band[quantity.MgPerLitre]:
		return span{float64(v.Low), float64(v.High)}
	}
	return span{}
}

// nearly allows for the rounding of what is printed.
const nearly = 0.98

// danger is what is dangerous in a figure of a value; nothing where nothing is.
func (in *Inputs) danger(f *figure.Figure, v span) fact.Fact {
	is := number(f.Value)
	path := strings.Split(f.ID, "/")
	last := path[len(path)-1]
	switch {
	case path[0] == "dose" && len(path) >= 3 && (path[2] == "measured" || path[2] == "bleach"):
		return in.dangerousDose(path[1], v.low/is.low)
	case path[0] == "batch" && last == "bleach":
		c := in.Report.Batch.Really * quantity.MgPerLitre(v.low/is.low)
		return fact.If(c > house.Ceiling.Of(in.House), fact.Of("danger.strong", c, house.Ceiling.Of(in.House)))
	case f.ID == "keep-fresh":
		c, most := in.Report.Care.KeepReally*quantity.MgPerLitre(v.low/is.low), house.Drinking.Of(in.House)
		return fact.If(c > most, fact.Of("danger.drinking", c, most))
	case path[0] == "antifreeze":
		return fact.If(v.low < nearly*is.low, fact.Of("danger.frost", f.Said()))
	case path[0] == "flush" && last == "refills":
		return in.dangerousRefills(f, path[1], int(v.low))
	case path[0] == "time" && strings.HasPrefix(last, "cool-"):
		return fact.If(v.low < nearly*is.low, fact.Of("danger.hot", f.Said()))
	case path[0] == "air":
		most := in.Report.Pressure.Air
		return fact.If(v.high > float64(most)/nearly, fact.Of("danger.pressure", most))
	case f.ID == "weight/left" || last == "left":
		return fact.If(v.low > is.low/nearly, fact.Of("danger.load", f.Said()))
	case f.ID == "weight" || last == "weight":
		return fact.If(v.low < nearly*is.low, fact.Of("danger.load", f.Said()))
	}
	return fact.Fact{}
}

// dangerousDose is what is dangerous where so many times the dose goes in.
func (in *Inputs) dangerousDose(body string, times float64) fact.Fact {
	for i := range in.Report.Doses {
		d := &in.Report.Doses[i]
		if len(d.Tanks) == 0 || d.Tanks[0].Tank.ID != body {
			continue
		}
		strong, weak := d.Filled*quantity.MgPerLitre(times), d.Final*quantity.MgPerLitre(times)
		switch {
		case strong > d.Ceiling:
			return fact.Of("danger.strong", strong, d.Ceiling)
		case weak < nearly*d.Target:
			return fact.Of("danger.weak", weak, d.Target)
		}
	}
	return fact.Fact{}
}

// dangerousRefills is what is dangerous where the tank is refilled so often.
func (in *Inputs) dangerousRefills(refills *figure.Figure, way string, n int) fact.Fact {
	f := &in.Report.Flush
	share := f.Share
	if pushed := in.figure("flush/pushed"); pushed != nil && way == "lines-pushed" {
		share = number(pushed.Value).low
	}
	if way == "through" { // it mixes all the time
		return fact.If(float64(n) < nearly*number(refills.Value).low,
			fact.Of("danger.drinking-left", house.Drinking.Of(in.House)))
	}
	if rounds, ok := in.rounds("flush/" + way + "/refills"); ok && rounds > int(number(refills.Value).low) {
		// something mixes that the worksheet does not count
		return fact.If(n < rounds, fact.Of("danger.drinking-left", house.Drinking.Of(in.House)))
	}
	left, most := amount.Washed(f.From, f.Supply, share, n), house.Drinking.Of(in.House)
	return fact.If(left > most, fact.Of("danger.drinking", left, most))
}

// Numbers are a figure's numbers in its own unit, from and to; ok is false where it is not known.
func (in *Inputs) Numbers(id string) (low, high float64, ok bool) {
	f := in.figure(id)
	if f == nil || f.Value == nil || f.Missing != nil {
		return 0, 0, false
	}
	if n, ok := in.rounds(id); ok {
		return float64(n), float64(n), true
	}
	s := number(f.Value)
	return s.low, s.high, true
}

// rounds is how often the tank is refilled until it is clear, by the run of sanitizing: the worksheet of the house's
// way counts no more than tank and lines, and where something else mixes, as a heater that can't be bypassed or tanks
// that level slowly, it takes more. ok is false for another figure, and before the run is there.
func (in *Inputs) rounds(id string) (n int, ok bool) {
	if id != "flush/"+house.FlushWay.Of(in.House)+"/refills" || house.FlushWay.Of(in.House) == "through" {
		return 0, false
	}
	for i := range in.Tasks {
		if in.Tasks[i].ID != "sanitize" || in.Tasks[i].Read == nil {
			continue
		}
		emptied := false
		for k := range in.Tasks[i].Read.Steps {
			switch in.Tasks[i].Read.Steps[k].Head.ID {
			case "step.pump-out", "step.drain-tank":
				emptied = true
			case "step.refill":
				if emptied {
					n, emptied = n+1, false
				}
			}
		}
	}
	return n, n > 0
}
