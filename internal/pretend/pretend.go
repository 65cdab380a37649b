// Package pretend is a plain little camper with a plain little person: it does
// what the steps of a procedure say, on a unit that may be otherwise than its
// model, and writes down what a jug, a stop-watch, a gauge and a test strip
// would show. It has an arithmetic of its own, so that what reads trials is
// never tried on trials that it made itself: of the program it shares the model
// file and what a line and a part hold, nothing of flow, runs, worksheets or
// causes.
//
// It knows what is enough for a tank with a pump, a storage heater with its
// bypass, and outlets that are opened one after the other: fluid goes the
// shortest open way and pushes what stood there ahead of it.
package pretend

import (
	"math"
	"math/rand/v2"
	"slices"

	"coldtap/internal/core/plumbing"
)

// Job is a step as somebody does it.
type Job struct {
	Key     string   // of the step
	Do      Verb     // what is done until what
	Turns   []Turn   // handles that are turned first
	After   []Turn   // and at the end
	At      []string // outlet sides or openings, "kitchen.hot"
	Opens   []string // outlet sides that are opened for air
	From    string   // of jugs: the port that they stand at, "pickup.mouth"
	Tank    string   // id
	Level   float64  // it is filled to, as a share
	Pours   float64  // L that are poured into the tank
	Mg      float64  // of chlorine in them
	Seconds float64  // of a wait
	Litres  float64  // that run on
	Catch   string   // the opening below which a bucket stands
}

// Turn is a handle that is turned.
type Turn struct {
	Part, To string
	Tank     bool // it is the tank's own drain
	Drain    bool // it lets lines run out
}

// Verb is what a job does.
type Verb string

// The verbs.
const (
	Nothing  Verb = ""
	RunOut   Verb = "run-out"   // what is open runs out
	Fill     Verb = "fill"      // the tank, by a hose
	Colour   Verb = "colour"    // an outlet until antifreeze comes
	LowPoint Verb = "low-point" // a drain until antifreeze comes
	Dosed    Verb = "dosed"     // an outlet until sanitizer comes
	Flush    Verb = "flush"     // an outlet for some litres
	PumpOut  Verb = "pump-out"  // the tank by an outlet until it is empty
	Wait     Verb = "wait"
)

// Truth is how a unit and who works on it really are.
type Truth struct {
	Longer   map[string]float64 // m, by line
	Overrun  float64            // L more at each outlet side
	Alone    bool               // nobody stands at the low points
	Heel     float64            // L more that the tank keeps
	Supply   float64            // share by which the hose gives more
	Strength float64            // share by which the sanitizer is stronger
	NotDone  string             // key of a step whose handles are left as they stood
	Shut     string             // id of a drain that is not opened
	Seep     float64            // L/min that the pump's check valve lets back into the tank
}

// House is what the person goes by.
type House struct {
	RunOut, Alone float64 // L, and the share that more runs out alone
	Hose          float64 // L/min
	Start         float64 // share of the tank that is full at the beginning
	Fields        []float64
}

// Seen is something that was written down.
type Seen struct {
	Kind  string // "jug", "clock", "level", "strip", "caught"
	Key   string
	Of    string
	Value float64
}

// unit is a unit in the making.
type unit struct {
	n      *plumbing.Network
	truth  Truth
	house  House
	stands map[string]string           // positions by part
	filled map[plumbing.LinkID]float64 // mg/L in a link, or pink
	tank   *plumbing.Part
	holds  float64
	heel   float64
	litres float64
	mg     float64 // in the tank, per litre
	drawn  float64 // of antifreeze
	seen   []Seen
}

// pink stands for antifreeze.
const pink = -1

// Do does some jobs on a unit of a model, and gives what is to be written down, without any noise.
func Do(n *plumbing.Network, truth Truth, house House, jobs []Job) []Seen {
	u := &unit{n: n, truth: truth, house: house, stands: map[string]string{}, filled: map[plumbing.LinkID]float64{}}
	for i := range n.Handles {
		h := &n.Handles[i]
		u.stands[h.Part.ID] = h.Positions[h.Normal]
	}
	for i := range n.Model.Parts {
		if p := &n.Model.Parts[i]; p.Kind == plumbing.Tank {
			u.tank = p
			u.holds = float64(p.Data.Capacity.Value())
			u.heel = float64(p.Data.Heel.Value()) + truth.Heel
		}
	}
	u.litres = u.holds * house.Start
	for i := range jobs {
		u.job(&jobs[i])
	}
	return u.seen
}

func (u *unit) note(kind string, j *Job, of string, v float64) {
	u.seen = append(u.seen, Seen{kind, j.Key, of, v})
}

func (u *unit) job(j *Job) {
	if j.Key != u.truth.NotDone {
		u.turn(j.Turns)
	}
	switch j.Do {
	case RunOut:
		if slices.ContainsFunc(j.Turns, func(t Turn) bool { return t.Tank && t.Part != u.truth.Shut }) && u.litres > u.heel {
			for _, t := range j.Turns {
				if t.Tank {
					u.note("caught", j, t.Part+".mouth", u.litres-u.heel)
				}
			}
			u.litres = u.heel
			u.note("level", j, u.tank.ID, u.litres/u.holds)
		}
		if j.Catch != "" {
			open := map[plumbing.NodeID]bool{}
			for _, t := range j.Turns {
				if t.Drain && !t.Tank && t.Part != u.truth.Shut {
					open[u.n.Node(t.Part+".mouth")] = true
				}
			}
			u.note("caught", j, j.Catch, u.runsOut(open, j.Opens))
		}
	case Fill:
		u.fill(j)
	case Colour, LowPoint:
		u.colour(j)
	case Dosed:
		u.dosed(j)
	case Flush:
		u.dosed(j)
	case PumpOut:
		u.litres = u.heel
		u.note("level", j, u.tank.ID, u.litres/u.holds)
	case Wait:
		if u.truth.Seep > 0 && j.From != "" {
			u.litres = min(u.holds, u.litres+u.truth.Seep*j.Seconds/60)
		}
		u.note("level", j, u.tank.ID, u.litres/u.holds)
		if u.mg > 1 {
			u.note("strip", j, u.tank.ID, u.field(u.mg))
		}
	}
	u.turn(j.After)
}

func (u *unit) turn(list []Turn) {
	for _, t := range list {
		if t.Part != u.truth.Shut {
			u.stands[t.Part] = t.To
		}
	}
}

// fill fills the tank by the hose, after something was poured into it.
func (u *unit) fill(j *Job) {
	if j.Pours > 0 {
		mg := u.mg*u.litres + j.Mg*(1+u.truth.Strength)
		u.litres += j.Pours
		u.mg = mg / u.litres
	}
	want := j.Level*u.holds - u.litres
	if want <= 0 {
		return
	}
	u.mg = u.mg * u.litres / (u.litres + want)
	u.litres += want
	u.note("clock", j, "", want/(u.house.Hose*(1+u.truth.Supply))*60)
	u.note("level", j, u.tank.ID, u.litres/u.holds)
}

// colour lets antifreeze run to a place until it comes there.
func (u *unit) colour(j *Job) {
	way, ok := u.way(j.From, j.At[0])
	before := u.drawn
	if !ok {
		u.note("jug", j, "", u.drawn) // nothing comes, and somebody gives up
		if j.Do == LowPoint {
			u.note("caught", j, j.At[0], 0)
		}
		return
	}
	for _, l := range way {
		if u.filled[l] != pink {
			u.drawn += u.content(l)
			u.filled[l] = pink
		}
	}
	switch {
	case j.Do == LowPoint && u.truth.Alone:
		u.drawn += u.house.RunOut * (1 + u.house.Alone)
	case j.Do == LowPoint:
		u.drawn += u.house.RunOut
	default:
		u.drawn += max(0, j.Litres+u.truth.Overrun)
	}
	u.note("jug", j, "", u.drawn)
	if j.Do == LowPoint {
		u.note("caught", j, j.At[0], u.drawn-before)
	}
}

// dosed lets what the tank holds run to a place.
func (u *unit) dosed(j *Job) {
	for _, at := range j.At {
		way, ok := u.way(u.tank.ID+".supply", at)
		if !ok {
			u.note("strip", j, at, 0)
			continue
		}
		runs := 0.0
		for _, l := range way {
			if u.filled[l] != u.mg {
				runs += u.content(l)
				u.filled[l] = u.mg
			}
		}
		if j.Do == Dosed {
			runs += max(0, j.Litres+u.truth.Overrun)
		} else {
			runs = max(runs, j.Litres)
		}
		u.litres = max(u.heel, u.litres-runs)
		u.note("strip", j, at, u.field(u.mg))
	}
}

// field is what a test strip shows of a strength: the highest field that is reached.
func (u *unit) field(mg float64) (at float64) {
	for _, f := range u.house.Fields {
		if mg >= f-1e-9 {
			at = f
		}
	}
	return at
}

// content is what a line or a passage of this unit holds, in L: a heater what is in it.
func (u *unit) content(l plumbing.LinkID) float64 {
	k := &u.n.Links[l]
	if k.Line == nil {
		if k.Part.Kind == plumbing.Heater && k.Part.Vessel() {
			return float64(k.Part.Data.Capacity.Value())
		}
		return float64(k.Content)
	}
	v := float64(k.Content)
	if more, ok := u.truth.Longer[k.Line.ID]; ok {
		v *= 1 + more*1000/float64(k.Line.Length.Value())
	}
	return v
}

// way is the shortest open way from one place to another, by its links; it leads through no tank, and through no other
// outlet.
func (u *unit) way(from, to string) ([]plumbing.LinkID, bool) {
	begin, end := u.n.Node(from), u.n.Node(to)
	if begin < 0 || end < 0 {
		return nil, false
	}
	came := map[plumbing.NodeID]plumbing.LinkID{begin: plumbing.None}
	for queue := []plumbing.NodeID{begin}; len(queue) > 0; queue = queue[1:] {
		at := queue[0]
		if at == end {
			break
		}
		for _, id := range u.n.Nodes[at].Links {
			l := &u.n.Links[id]
			next := l.A
			if l.A == at {
				next = l.B
			} else if l.OneWay {
				continue
			}
			if _, been := came[next]; been || !u.open(l) || l.Part != nil && l.Part.Kind == plumbing.Tank {
				continue
			}
			came[next] = id
			queue = append(queue, next)
		}
	}
	if _, ok := came[end]; !ok {
		return nil, false
	}
	var way []plumbing.LinkID
	for at := end; at != begin; {
		id := came[at]
		way = append(way, id)
		if l := &u.n.Links[id]; l.A == at {
			at = l.B
		} else {
			at = l.A
		}
	}
	slices.Reverse(way)
	return way, true
}

func (u *unit) open(l *plumbing.Link) bool {
	if l.Handle == plumbing.None {
		return true
	}
	h := &u.n.Handles[l.Handle]
	return l.Open.Has(h.Index(u.stands[h.Part.ID]))
}

// Noise is how far what is written down may lie beside the truth: anywhere
// within these half widths, all alike.
type Noise struct {
	Jug    float64 // L
	Clock  float64 // s
	Level  float64 // share
	Caught float64 // L, of each ten that are caught
}

// Usual is what a careful person reads: jug marks to 0.1 gal, a stop-watch to
// 3 s, a gauge to a twentieth, a bucket of 10 L to 0.2 L. Strips are read by their fields.
var Usual = Noise{0.1 * 3.785411784, 3, 0.05, 0.2}

// Blur is what is written down with noise.
func (n Noise) Blur(rng *rand.Rand, seen []Seen) []Seen {
	off := func(half float64) float64 { return (2*rng.Float64() - 1) * half }
	list := slices.Clone(seen)
	for i := range list {
		s := &list[i]
		switch s.Kind {
		case "jug":
			s.Value = max(0, s.Value+off(n.Jug))
		case "clock":
			s.Value = math.Round(max(0, s.Value+off(n.Clock)))
		case "caught":
			for v := s.Value; v > 0; v -= 10 {
				s.Value += off(n.Caught)
			}
			s.Value = max(0, s.Value)
		case "level":
			s.Value = min(1, max(0, s.Value+off(n.Level)))
		}
	}
	return list
}
