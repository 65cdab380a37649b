package cause_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"coldtap/demo"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/pretend"
	"coldtap/internal/pretend/script"
	"coldtap/internal/sample"
)

// bed is a procedure of a demo model, ready to be tried.
type bed struct {
	ranker *cause.Ranker
	n      *plumbing.Network
	jobs   []pretend.Job
	house  pretend.House
	keys   []string
	proc   *proof.Procedure
	skip   func(pretend.Seen) bool // what is not measured
}

// made are the procedures of a model under house rules, by id.
type made struct {
	n     *plumbing.Network
	rules house.House
	maker *draft.Maker
}

func make1(t *testing.T, model string, rules map[string]string) *made {
	t.Helper()
	m, err := demo.Model(model)
	require.NoError(t, err)
	b, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(b)
	require.NoError(t, err)
	h, err := house.Usual(m.System()).With("the house", rules)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	return &made{n, h, draft.NewMaker(draft.Inputs{Net: n, Plan: plan, House: h})}
}

// bed makes a procedure ready, with the tank as full at the beginning as is said.
func (m *made) bed(t *testing.T, id string, start float64, skip func(pretend.Seen) bool) *bed {
	t.Helper()
	d := m.maker.Make(t.Context(), id)
	require.NotNil(t, d.Procedure, id)
	pr, err := proof.Prove(t.Context(), m.n, d.Procedure)
	require.NoError(t, err)
	proc := measure.OnTrial(m.n, d.Procedure, pr)
	s := cause.Subject{Net: m.n, Proc: proc}
	if start < 1 {
		s = s.Under(cause.Conditions{Start: map[string]float64{"fresh": start}})
	}
	r, err := cause.NewRanker(t.Context(), s)
	require.NoError(t, err)
	h := pretend.House{RunOut: float64(house.RunOut.Of(m.rules)), Alone: house.Alone.Of(m.rules), Start: start}
	h.Hose = float64(m.n.PartsOf(plumbing.RoleFill)[0].Data.Flow.Value())
	for _, f := range house.Fields(m.rules) {
		h.Fields = append(h.Fields, float64(f))
	}
	return &bed{r, m.n, script.Of(m.n, proc), h, amend.Keys(proc.Steps), proc, skip}
}

// longer are the lines that a unit takes more antifreeze by when they are so many metres longer, as the simulator has
// it.
func (b *bed) longer(by float64) (list []string) {
	last := func(truth pretend.Truth) (v float64) {
		for _, s := range pretend.Do(b.n, truth, b.house, b.jobs) {
			if s.Kind == "jug" {
				v = s.Value
			}
		}
		return v
	}
	right := last(pretend.Truth{})
	for i := range b.n.Model.Lines {
		id := b.n.Model.Lines[i].ID
		if last(pretend.Truth{Longer: map[string]float64{id: by}}) > right+0.5 {
			list = append(list, id)
		}
	}
	return list
}

// read are the readings of what was seen on a unit, but for those that are skipped.
func (b *bed) read(seen []pretend.Seen) (list []measure.Reading) {
	probes := b.ranker.Probes()
	for _, s := range seen {
		for i := range probes {
			p := &probes[i]
			if p.ID() == idOf(s) && !b.skip(s) {
				var fields []quantity.MgPerLitre
				for _, f := range b.house.Fields {
					fields = append(fields, quantity.MgPerLitre(f))
				}
				list = append(list, measure.Of(p, s.Value, fields))
			}
		}
	}
	return list
}

// kindOfTrial is a kind of cause as the simulator makes it.
type kindOfTrial struct {
	name string
	size string
	bed  *bed
	make func(rng *rand.Rand) (pretend.Truth, cause.Cause) // what is true, and how the ranker calls it
}

func kinds(t *testing.T) []kindOfTrial {
	m := make1(t, "gneiss-24-2027", map[string]string{"run-out": "500 mL"})
	winter := m.bed(t, "winterize-air-then", 1, func(s pretend.Seen) bool {
		return s.Kind == "caught" && !strings.HasPrefix(s.Key, "drain@")
	})
	clean := m.bed(t, "sanitize", 1, func(s pretend.Seen) bool {
		return strings.HasPrefix(s.Key, "pump-out") || s.Kind == "caught"
	})
	city := m.bed(t, "use-city", 0.5, func(pretend.Seen) bool { return false })
	lines := []string{"trunk-1", "trunk-4", "c-outside", "h-outside", "h-trunk-3", "c-kitchen", "h-basin", "pickup-hose",
		"h-trunk-4", "c-toilet"}
	turning := ""
	for _, k := range winter.keys {
		if strings.HasPrefix(k, "air-position") {
			turning = k
		}
	}
	require.NotEmpty(t, turning)
	check := ""
	for _, c := range city.ranker.Effects() {
		if c.Kind == cause.Check && strings.HasPrefix(c.Of, "check.pump") {
			check = c.Of
		}
	}
	require.NotEmpty(t, check)
	jugs := func(s pretend.Seen) bool { return s.Kind != "jug" }
	ashlar := make1(t, "ashlar-20-2026", nil).bed(t, "winterize-air-then", 1, jugs)
	tuff := make1(t, "tuff-9-2027", nil).bed(t, "winterize-pump", 1, jugs)
	metric := tuff.longer(8)
	require.Greater(t, len(metric), 5)
	return []kindOfTrial{
		{"overrun, another trailer", "0.15 L a side", ashlar, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Overrun: 0.15}, cause.Cause{Kind: cause.Overrun, Size: 0.15}
		}},
		{"line longer, a metric van", "8 m", tuff, func(rng *rand.Rand) (pretend.Truth, cause.Cause) {
			l := metric[rng.IntN(len(metric))]
			return pretend.Truth{Longer: map[string]float64{l: 8}}, cause.Cause{Kind: cause.Line, Of: l, Size: 8000}
		}},
		{"line longer", "8 m", winter, func(rng *rand.Rand) (pretend.Truth, cause.Cause) {
			l := lines[rng.IntN(len(lines))]
			return pretend.Truth{Longer: map[string]float64{l: 8}}, cause.Cause{Kind: cause.Line, Of: l, Size: 8000}
		}},
		{"overrun", "0.15 L a side", winter, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Overrun: 0.15}, cause.Cause{Kind: cause.Overrun, Size: 0.15}
		}},
		{"no helper", "0.5 L a low point", winter, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Alone: true}, cause.Cause{Kind: cause.Helper}
		}},
		{"line not drained", "hot low point shut", winter, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Shut: "drain-hot"}, cause.Cause{Kind: cause.Drained, Of: "drain-hot"}
		}},
		{"bypass left", "heater in", winter, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{NotDone: turning}, cause.Cause{Kind: cause.Left, Of: turning}
		}},
		{"heel", "8 L", clean, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Heel: 8}, cause.Cause{Kind: cause.Heel, Of: "fresh", Size: 8}
		}},
		{"supply flow", "-20 %", clean, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Supply: -0.2}, cause.Cause{Kind: cause.Supply, Size: -0.2}
		}},
		{"weak sanitizer", "-60 %", clean, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Strength: -0.6}, cause.Cause{Kind: cause.Strength}
		}},
		{"leaking check", "1.5 L/min", city, func(*rand.Rand) (pretend.Truth, cause.Cause) {
			return pretend.Truth{Seep: 1.5}, cause.Cause{Kind: cause.Check, Of: check, Size: 1.5}
		}},
	}
}

// TestCausesAreNamedRight tries made-up trials of every kind of cause, made by a simulator with an arithmetic of its
// own: jug marks ± 0.1 gal, stop-watch ± 3 s, gauge ± 5 %, bucket ± 0.2 L in ten, strips by their fields.
func TestCausesAreNamedRight(t *testing.T) {
	var trials []trial
	list := kinds(t)
	some := sample.Of(t, 3, list)
	for _, k := range some {
		for n := range uint64(20) {
			rng := rand.New(rand.NewPCG(n, uint64(2026+len(k.name))))
			truth, want := k.make(rng)
			trials = append(trials, newTrial(rng, k.name, k.bed, truth, want))
		}
	}
	nones := sample.Seeds(t, 25, 100)
	for _, i := range nones {
		rng := rand.New(rand.NewPCG(17, 2026+i))
		trials = append(trials, newTrial(rng, "none", list[i%uint64(len(list))].bed, pretend.Truth{}, cause.Cause{}))
	}
	rankAll(t, trials)

	table := "| cause | size | right | wrong | not named | in a class | deciding is right |\n"
	for _, k := range some {
		right, wrong, decided, members, off := 0, 0, 0, 0, 0.0
		for _, x := range trials {
			switch {
			case x.name != k.name || x.got.Verdict != cause.Named:
			case !has(x.got.Class, x.want):
				wrong++
				t.Logf("%s %v: named %v %v", x.name, x.want, x.got.Class[0].ID(), x.got.Class[0].Misfit)
				for _, f := range x.got.Others {
					t.Logf("     %s %.3f %v", f.ID(), f.Size, f.Misfit)
				}
			default:
				right++
				members += len(x.got.Class)
				off += x.sizeOff()
				if x.decides(t) {
					decided++
				}
			}
		}
		table += fmt.Sprintf("| %s | %s | %d | %d | %d | %.1f | %d |\n", k.name, k.size, right, wrong, 20-right-wrong,
			float64(members)/float64(max(1, right)), decided)
		assert.GreaterOrEqual(t, decided, 16, "%s: recall, with the measurement that decides", k.name)
		assert.LessOrEqual(t, wrong, 1, "%s: wrong class", k.name)
		assert.LessOrEqual(t, off/float64(max(1, right)), 0.25, "%s: sizes come out within a quarter in the mean", k.name)
	}
	quiet := 0
	for _, x := range trials {
		if x.name == "none" && x.got.Verdict != cause.Named {
			quiet++
		}
	}
	table += fmt.Sprintf("| none | | %d of %d | | | | |\n", quiet, len(nones))
	assert.GreaterOrEqual(t, quiet, len(nones)-5, "nothing is concluded from noise")
	t.Log("\n" + table)
}

// trial is a made-up trial and what came of it.
type trial struct {
	name  string
	bed   *bed
	truth pretend.Truth
	want  cause.Cause
	seen  []pretend.Seen // as the unit is
	read  []measure.Reading
	got   *cause.Ranking
}

// sizeOff is by which share the fitted size of the true cause lies beside the true one; 0 where it has none.
func (x *trial) sizeOff() float64 {
	if x.want.Size == 0 {
		return 0
	}
	for _, f := range x.got.Class {
		if f.Kind == x.want.Kind && f.Of == x.want.Of {
			return math.Abs(f.Size/x.want.Size - 1)
		}
	}
	return 1
}

func newTrial(rng *rand.Rand, name string, b *bed, truth pretend.Truth, want cause.Cause) trial {
	seen := pretend.Do(b.n, truth, b.house, b.jobs)
	return trial{name: name, bed: b, truth: truth, want: want, seen: seen, read: b.read(pretend.Usual.Blur(rng, seen))}
}

// rankAll ranks the causes of trials, some at once.
func rankAll(t *testing.T, trials []trial) {
	g, ctx := errgroup.WithContext(t.Context())
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i := range trials {
		g.Go(func() (err error) {
			trials[i].got, err = trials[i].bed.ranker.Rank(ctx, trials[i].read)
			return err
		})
	}
	require.NoError(t, g.Wait())
}

// looksFor are the looks that tell each kind of cause for sure.
var looksFor = map[cause.Kind]cause.Look{cause.Line: cause.ByTape, cause.Overrun: cause.ByEye,
	cause.Helper: cause.ByAsking, cause.Drained: cause.ByBucket, cause.Heel: cause.ByBucket, cause.Supply: cause.ByWatch,
	cause.Strength: cause.ByStrip, cause.Left: cause.ByHandle, cause.Check: cause.ByWaiting}

// decides reports whether the deciding measurement of a trial is right: a look leaves a smaller class or tells the one
// kind that there is, a measurement, taken on the unit as it really is, leaves a smaller class with the truth still in
// it.
func (x *trial) decides(t *testing.T) bool {
	d := x.got.Deciding
	if d.Look != cause.ByProbe { // what the look tells is true, or is not: what is left still has the truth
		left := slices.DeleteFunc(slices.Clone(x.got.Class), func(f cause.Fit) bool {
			return (looksFor[f.Kind] == d.Look) != (looksFor[x.want.Kind] == d.Look)
		})
		ofOne := !slices.ContainsFunc(left, func(f cause.Fit) bool { return f.Kind != x.want.Kind })
		return has(left, x.want) && (len(left) < len(x.got.Class) || ofOne && looksFor[x.want.Kind] == d.Look)
	}
	more := *x.bed
	more.skip = func(s pretend.Seen) bool { return idOf(s) != d.Probe }
	read := slices.Concat(x.read, more.read(x.seen))
	if len(read) == len(x.read) {
		t.Logf("%s: %v can't be taken here", x.name, d.Probe)
		return false
	}
	got, err := x.bed.ranker.Rank(t.Context(), read)
	require.NoError(t, err)
	return has(got.Class, x.want) && len(got.Class) < len(x.got.Class)
}

func idOf(s pretend.Seen) string { return strings.TrimSpace(s.Kind + " " + s.Key + " " + s.Of) }

func has(list []cause.Fit, want cause.Cause) bool {
	return slices.ContainsFunc(list, func(f cause.Fit) bool { return f.Kind == want.Kind && f.Of == want.Of })
}
