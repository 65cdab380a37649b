package cause

import (
	"cmp"
	"context"
	"errors"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/stat/distuv"

	"coldtap/internal/core/measure"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/run"
)

// Verdict is what a trial's measurements come to.
type Verdict string

// The verdicts.
const (
	Few         Verdict = "few"         // too little was measured to tell anything
	Agrees      Verdict = "agrees"      // what lies beside the computed is explained by how well it can be measured
	Named       Verdict = "named"       // a class of causes explains it, and nothing else that was tried
	Unexplained Verdict = "unexplained" // something is otherwise, and none of the causes tried explains it
)

// Fit is a cause with the size that fits the measurements best.
type Fit struct {
	Cause
	Misfit float64 // sum of squares of what is left, in standard deviations
	Says   map[string]float64
}

// Look is a way of telling causes apart for sure.
type Look string

// The looks.
const (
	ByProbe   Look = "probe"   // a measurement of the procedure that was not taken
	ByTape    Look = "tape"    // the lines of the class are measured by a tape
	ByEye     Look = "eye"     // somebody looks at which drop the colour is full
	ByAsking  Look = "asking"  // who was there is asked
	ByBucket  Look = "bucket"  // what the drain lets run is caught, or what stays in the tank is let out and caught
	ByWatch   Look = "watch"   // the hose fills a bucket by the watch
	ByHandle  Look = "handle"  // the handles are looked at
	ByStrip   Look = "strip"   // the batch is tested before it goes in
	ByWaiting Look = "waiting" // the hose stays on with the taps shut, and the level is looked at after a time
)

// looks are how each kind is told for sure.
var looks = map[Kind]Look{Line: ByTape, Overrun: ByEye, Helper: ByAsking, Drained: ByBucket, Heel: ByBucket,
	Supply: ByWatch, Strength: ByStrip, Left: ByHandle, Check: ByWaiting}

// byEase are the looks in the order in which somebody would try them: what it takes no work to know comes first.
var byEase = []Look{ByAsking, ByHandle, ByStrip, ByEye, ByWatch, ByWaiting, ByBucket, ByTape}

// Deciding is what would tell the causes of a class apart.
type Deciding struct {
	Look  Look
	Probe string // of ByProbe: its id
}

// Ranking is what could have made a trial come out as it did.
type Ranking struct {
	Verdict  Verdict
	Readings int
	Misfit   float64            // of the model as it is
	Says     map[string]float64 // of it
	Class    []Fit              // causes that the measurements can't tell apart, the likeliest first; nil where none is named
	Others   []Fit              // the next likely
	Deciding Deciding           // where a class is named
}

// Ranker ranks causes of what was measured on units that are alike.
type Ranker struct {
	subject Subject
	probes  []measure.Probe
	base    map[string]float64
	senses  map[string]run.Sense // what is waited for where a probe is
	tried   []tried
}

// tried is a cause with what a run says when it is there in its first size.
type tried struct {
	Cause
	says map[string]float64
	low  float64 // bounds of its size
	high float64
}

// NewRanker carries a procedure out once as it is and once with every cause.
func NewRanker(ctx context.Context, s Subject) (*Ranker, error) {
	pr, err := proof.Prove(ctx, s.Net, s.Proc)
	if err != nil {
		return nil, err
	}
	s = s.impatient(pr)
	r := &Ranker{subject: s, probes: measure.Probes(s.Net, s.Proc, pr)}
	r.base = measure.Says(s.Net, s.Proc, pr, r.probes)
	r.senses = map[string]run.Sense{}
	for i := range r.probes {
		r.senses[r.probes[i].ID()] = s.Proc.Steps[r.probes[i].Step].Until.Sense
	}
	for _, c := range Candidates(s) {
		says, err := r.run(ctx, c)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err != nil || !r.matters(says) {
			continue // it changes nothing that can be measured here
		}
		t := tried{Cause: c, says: says}
		t.low, t.high = bounds(s.Net, c)
		r.tried = append(r.tried, t)
	}
	return r, nil
}

// Probes are what can be measured.
func (r *Ranker) Probes() []measure.Probe { return r.probes }

// Base is what the model as it is says to each of them.
func (r *Ranker) Base() map[string]float64 { return r.base }

// Effects lists the causes that change what can be measured.
func (r *Ranker) Effects() (list []Cause) {
	for _, t := range r.tried {
		list = append(list, t.Cause)
	}
	return list
}

// run is what a run says with a cause.
func (r *Ranker) run(ctx context.Context, c Cause) (map[string]float64, error) {
	with, err := r.subject.With(c)
	if err != nil {
		return nil, err
	}
	pr, err := proof.Prove(ctx, with.Net, with.Proc)
	if err != nil {
		return nil, err
	}
	return measure.Says(with.Net, with.Proc, pr, r.probes), nil
}

// matters reports whether anything that can be measured is otherwise by more than half of how well it can be.
func (r *Ranker) matters(says map[string]float64) bool {
	for i := range r.probes {
		id := r.probes[i].ID()
		if math.Abs(says[id]-r.base[id]) > measure.Spread(r.probes[i].Kind, r.base[id])/2 {
			return true
		}
	}
	return false
}

// bounds are within which the size of a cause may lie.
func bounds(n *plumbing.Network, c Cause) (low, high float64) {
	switch c.Kind {
	case Line:
		for i := range n.Model.Lines {
			if l := &n.Model.Lines[i]; l.ID == c.Of {
				v := float64(l.Length.Value())
				return -v / 2, max(2*v, 10_000)
			}
		}
	case Overrun:
		return -1, 1
	case Heel:
		holds := float64(n.Model.Part(c.Of).Data.Capacity.Value())
		return -holds, holds / 5
	case Supply:
		return -0.6, 1
	case Strength:
		return -0.9, 1
	case Check:
		return 0, 10
	}
	return 0, 0
}

// How sure a cause must be before it is named.
const (
	falseAlarm = 0.02  // chance that noise names any cause
	tooFar     = 0.001 // chance below which what is left is not noise
	apart      = 9.0   // by so much likelier is a cause told from another: about a hundred to one
	fewest     = 3     // measurements below which nothing that is quiet says that it is right
	hopeless   = 4.0   // by less a cause that wins is never named
	near       = 0.3   // so near to what was guessed a misfit is as good
	worth      = 4     // a measurement is worth it that tells one in so many pairs of causes apart
	splits     = 4.0   // standard deviations by which a measurement tells two causes apart
)

// Rank ranks the causes by what was measured.
func (r *Ranker) Rank(ctx context.Context, readings []measure.Reading) (*Ranking, error) {
	got := &Ranking{Says: r.base, Verdict: Few}
	readings = slices.DeleteFunc(slices.Clone(readings), func(x measure.Reading) bool {
		_, ok := r.base[x.Probe]
		return !ok
	})
	got.Readings = len(readings)
	got.Misfit = r.misfit("", readings, r.base)
	fits, err := r.fits(ctx, readings)
	if err != nil {
		return nil, err
	}
	free := math.Log(float64(len(readings))) // what a size that is fitted costs
	score := func(f Fit) float64 {
		if f.Kind.Sized() {
			return f.Misfit + free
		}
		return f.Misfit
	}
	slices.SortStableFunc(fits, func(a, b Fit) int { return cmp.Compare(score(a), score(b)) })
	chance := func(x float64, dof int) float64 {
		return 1 - distuv.ChiSquared{K: float64(max(1, dof))}.CDF(x)
	}
	won := 0.0
	if len(fits) > 0 {
		won = got.Misfit - fits[0].Misfit
	}
	sure := distuv.ChiSquared{K: 1}.Quantile(1 - falseAlarm/float64(max(1, len(r.tried))))
	switch {
	case won < sure && len(readings) < fewest:
		return got, nil
	case won < sure && chance(got.Misfit, len(readings)) > tooFar:
		got.Verdict, got.Others = Agrees, top(fits)
		return got, nil
	case won < sure || chance(fits[0].Misfit, len(readings)-1) < tooFar:
		got.Verdict, got.Others = Unexplained, top(fits)
		return got, nil
	}
	got.Verdict = Named
	for _, f := range fits {
		if score(f)-score(fits[0]) <= apart {
			got.Class = append(got.Class, f)
		}
	}
	slices.SortStableFunc(got.Class, func(a, b Fit) int { // who explains as much goes by what is likely of itself
		return cmp.Compare(score(a)+2*math.Log1p(r.times(a.Cause)), score(b)+2*math.Log1p(r.times(b.Cause)))
	})
	got.Others = top(fits[len(got.Class):])
	got.Deciding = r.deciding(got.Class, readings)
	return got, nil
}

// times is how many times its listed length a line is longer: of two lines that explain as much, the one that changes
// less is the likelier one. 0 for other causes.
func (r *Ranker) times(c Cause) float64 {
	if c.Kind == Line {
		for i := range r.subject.Net.Model.Lines {
			if l := &r.subject.Net.Model.Lines[i]; l.ID == c.Of {
				return math.Abs(c.Size) / float64(l.Length.Value())
			}
		}
	}
	return 0
}

// top are the first few of a list.
func top(list []Fit) []Fit { return list[:min(5, len(list))] }

// fits are the causes with the sizes that fit best.
func (r *Ranker) fits(ctx context.Context, readings []measure.Reading) (list []Fit, err error) {
	best, base := math.Inf(1), r.misfit("", readings, r.base)
	guesses := make([]float64, len(r.tried))
	misfits := make([]float64, len(r.tried))
	for i, t := range r.tried {
		guesses[i], misfits[i] = r.guess(t, readings)
		best = min(best, misfits[i])
	}
	for i, t := range r.tried {
		f := Fit{Cause: t.Cause, Misfit: misfits[i], Says: t.says}
		if t.Kind.Sized() {
			f.Size = guesses[i]
			// What is far from the best, or wins next to nothing, is not looked at more closely.
			if misfits[i]-best < 3*apart && base-misfits[i] > hopeless {
				if f, err = r.refine(ctx, t, f, readings); err != nil {
					return nil, err
				}
			} else {
				f.Says = t.at(r.base, f.Size)
			}
		}
		list = append(list, f)
	}
	return list, nil
}

// at is what a cause of a size would say if it went by its size.
func (t *tried) at(base map[string]float64, size float64) map[string]float64 {
	says := make(map[string]float64, len(base))
	for id, v := range base {
		says[id] = v + (t.says[id]-v)*size/t.Size
	}
	return says
}

// guess is the size of a cause that fits best if what it changes goes by its size.
func (r *Ranker) guess(t tried, readings []measure.Reading) (size, left float64) {
	if !t.Kind.Sized() {
		return 0, r.misfit(t.Kind, readings, t.says)
	}
	return smallest(t.low, t.high, func(size float64) float64 { return r.misfit(t.Kind, readings, t.at(r.base, size)) })
}

// smallest is where a function that has one lowest place is lowest, by golden sections from a grid that finds the
// valley.
func smallest(low, high float64, f func(float64) float64) (at, value float64) {
	const grid = 40
	at, value = low, f(low)
	for i := 1; i <= grid; i++ {
		x := low + (high-low)*float64(i)/grid
		if v := f(x); v < value {
			at, value = x, v
		}
	}
	step := (high - low) / grid
	a, b := max(low, at-step), min(high, at+step)
	golden := (math.Sqrt(5) - 1) / 2
	for range 40 {
		c, d := b-golden*(b-a), a+golden*(b-a)
		if f(c) < f(d) {
			b = d
		} else {
			a = c
		}
	}
	x := (a + b) / 2
	if v := f(x); v < value {
		return x, v
	}
	return at, value
}

// refine carries the procedure out with the size that was guessed, and guesses again from there.
func (r *Ranker) refine(ctx context.Context, t tried, f Fit, readings []measure.Reading) (Fit, error) {
	var kept *Fit
	for range 2 {
		c := t.Cause
		if c.Size = f.Size; c.Size == 0 {
			break
		}
		says, err := r.run(ctx, c)
		if errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded) {
			return f, err
		}
		if err != nil {
			f.Misfit = math.Inf(1)
			return f, nil
		}
		now := Fit{Cause: c, Misfit: r.misfit(t.Kind, readings, says), Says: says}
		if kept == nil || now.Misfit < kept.Misfit {
			kept = &now
		}
		if math.Abs(now.Misfit-f.Misfit) < near {
			break
		}
		t.Cause, t.says = c, says
		next, _ := r.guess(t, readings)
		if math.Abs(next-c.Size) < 0.02*math.Abs(c.Size) {
			break
		}
		f.Size = next
	}
	if kept == nil {
		f.Size, f.Misfit, f.Says = 0, r.misfit(t.Kind, readings, r.base), r.base
		return f, nil
	}
	return *kept, nil
}

// rough is how far what a cause changes may lie beside what a run says of it, as a share: real lines, heaters and
// hands
// are never quite as they are described. Nobody knows how high the rest of a longer line lies: whether its water runs
// out can't be told.
func rough(k Kind, of measure.Kind, sense run.Sense) float64 {
	if k == Line && (of == measure.Caught || of == measure.Clock && sense == run.Dry) {
		return 1
	}
	return 0.1
}

// misfit is the sum of squares of how far readings lie beside what is said with a cause, in standard deviations.
func (r *Ranker) misfit(k Kind, readings []measure.Reading, says map[string]float64) (sum float64) {
	for i := range readings {
		x := &readings[i]
		v := says[x.Probe] // 0 where nothing comes
		off := x.Off(v)
		sum += off * off / (1 + math.Pow(rough(k, x.Kind, r.senses[x.Probe])*(v-r.base[x.Probe])/x.Spread, 2))
	}
	return sum
}

// deciding is what would tell the causes of a class apart: the measurement of this procedure that was not taken and
// that tells most of them apart, else the look that takes the least work.
func (r *Ranker) deciding(class []Fit, readings []measure.Reading) Deciding {
	best, most := "", 0
	for i := range r.probes {
		p := &r.probes[i]
		id := p.ID()
		if slices.ContainsFunc(readings, func(x measure.Reading) bool { return x.Probe == id }) {
			continue
		}
		pairs := 0
		for a := range class {
			for b := range a {
				if max(rough(class[a].Kind, p.Kind, r.senses[id]), rough(class[b].Kind, p.Kind, r.senses[id])) == 1 {
					continue // nobody knows what it would show
				}
				va, vb := class[a].Says[id], class[b].Says[id]
				if math.Abs(va-vb) > splits*measure.Spread(p.Kind, max(va, vb)) {
					pairs++
				}
			}
		}
		if pairs > most || pairs == most && pairs > 0 && strings.Compare(id, best) < 0 {
			best, most = id, pairs
		}
	}
	if most > 0 && most >= len(class)*(len(class)-1)/2/worth {
		return Deciding{Look: ByProbe, Probe: best}
	}
	for _, l := range byEase {
		if slices.ContainsFunc(class, func(f Fit) bool { return looks[f.Kind] == l }) {
			return Deciding{Look: l}
		}
	}
	return Deciding{}
}
