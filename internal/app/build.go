package app

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"
	"weak"

	"golang.org/x/sync/errgroup"
	"golang.org/x/sync/singleflight"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fault"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/report"
	"coldtap/internal/core/setting"
	"coldtap/internal/drawing"
	"coldtap/internal/turn"
)

// Build is a computed build: a document with some of its options, and what is
// computed of it, each part when it is first asked for. Everything in it can
// be computed again, and nothing of it changes.
type Build struct {
	Doc     *plumbing.Model // all options
	Model   *plumbing.Model // the build
	Net     *plumbing.Network
	With    []string // its options
	Options []Option
	Bytes   int64 // about what it takes in memory, all parts computed
	before  weak.Pointer[Build]
	flights singleflight.Group

	key      string      // the state's content and the options
	turns    *turn.Turns // for what is computed on every edit; nil for none
	patience time.Duration
	drawings DrawingKeeper
	arranged atomic.Int64 // hundredths of the drawing that are done

	mu    sync.Mutex
	parts map[string]any
}

// Key tells the build from every other: the state's content and the options.
func (b *Build) Key() string { return b.key }

// Option is an option of the model and whether the build has it.
type Option struct {
	Option plumbing.Option
	On     bool
}

// workTime is how long one part may take, whoever waits for it, where nobody says otherwise.
const workTime = 20 * time.Second

// part gives a part of a build. Those who ask at the same time wait for one
// computation, which goes on when one of them leaves.
func part[T any](ctx context.Context, b *Build, name string, work func(context.Context) (T, error)) (T, error) {
	return partIn(ctx, b, nil, name, work)
}

// GuidePart begins the names of parts that follow from what a hand wrote in the guide too.
const GuidePart = "guide/"

// Of is something that follows from a build, made when it is first asked for, by a name of its own.
func Of[T any](ctx context.Context, b *Build, name string, work func(context.Context) (T, error)) (T, error) {
	return part(ctx, b, name, work)
}

// partIn is part whose work takes a turn.
func partIn[T any](ctx context.Context, b *Build, turns *turn.Turns, name string,
	work func(context.Context) (T, error)) (T, error) {
	b.mu.Lock()
	v, ok := b.parts[name]
	b.mu.Unlock()
	if ok {
		return v.(T), nil
	}
	done := b.flights.DoChan(name, func() (any, error) {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), cmp.Or(b.patience, workTime))
		defer cancel()
		end, err := turns.Take(ctx)
		if err != nil {
			return nil, err
		}
		defer end()
		v, err := work(ctx)
		if err == nil {
			b.mu.Lock()
			b.parts[name] = v
			b.mu.Unlock()
		}
		return v, err
	})
	select {
	case r := <-done:
		v, _ := r.Val.(T)
		return v, r.Err
	case <-ctx.Done():
		var none T
		return none, ctx.Err()
	}
}

// NewBuild makes a build of a document with some options, "" for the standard
// ones, "none" for none. Options that the model does not have are left out.
func NewBuild(doc *plumbing.Model, with string) (*Build, error) {
	return newBuild(doc, optionsOf(doc, with))
}

// besides is a build of a document that differs from another build's in its guide alone: all that is computed of
// that one holds for it, and is not computed again. nil where they differ in more.
func besides(doc *plumbing.Model, before *Build) *Build {
	if before == nil || !sameButGuide(doc, before.Doc) {
		return nil
	}
	b := &Build{Doc: doc, Model: before.Model, Net: before.Net, With: before.With, Options: before.Options}
	b.arranged.Store(before.arranged.Load())
	before.mu.Lock()
	defer before.mu.Unlock()
	b.parts = maps.Clone(before.parts)
	b.forget(GuidePart)
	return b
}

// sameButGuide reports whether two documents differ in what a hand wrote in the guide alone.
func sameButGuide(a, b *plumbing.Model) bool {
	one, other := *a, *b
	one.Chapter, other.Chapter = nil, nil
	return !reflect.DeepEqual(a.Chapter, b.Chapter) && reflect.DeepEqual(&one, &other)
}

func newBuild(doc *plumbing.Model, with []string) (*Build, error) {
	b := &Build{Doc: doc, With: with, parts: map[string]any{}}
	var err error
	if b.Model, err = doc.Build(b.With...); err != nil {
		return nil, err
	}
	if b.Net, err = plumbing.NewNetwork(b.Model); err != nil {
		return nil, err
	}
	for _, o := range doc.Options {
		b.Options = append(b.Options, Option{o, slices.Contains(b.With, o.ID)})
	}
	return b, nil
}

// optionsOf reads the options of a build from an address. Of two that can't be fitted
// together the first stays.
func optionsOf(m *plumbing.Model, with string) []string {
	if with == "" {
		return m.StandardOptions()
	}
	var list []string
	for _, o := range m.Options {
		shut := slices.ContainsFunc(list, func(other string) bool { return m.Shut(o.ID, other) })
		if slices.Contains(strings.Split(with, ","), o.ID) && !shut {
			list = append(list, o.ID)
		}
	}
	return list
}

// Plan is the settings of all modes.
func (b *Build) Plan(ctx context.Context) ([]setting.Answer, error) {
	return partIn(ctx, b, b.turns, "plan", func(ctx context.Context) ([]setting.Answer, error) {
		if before := b.before.Value(); before != nil {
			b.Net.Share(before.Net)
		}
		return setting.Plan(ctx, b.Net)
	})
}

// Findings is what is missing, odd or dangerous, and not accepted.
func (b *Build) Findings(ctx context.Context) ([]finding.Finding, error) {
	plan, err := b.Plan(ctx)
	if err != nil {
		return nil, err
	}
	all, err := partIn(ctx, b, b.turns, "findings", func(context.Context) ([]finding.Finding, error) {
		return finding.Find(b.Net, plan), nil
	})
	if err != nil {
		return nil, err
	}
	open, _ := finding.Split(all, b.Model.Accepted)
	return open, nil
}

// Accepted are the findings that somebody accepted and that still say the same.
func (b *Build) Accepted(ctx context.Context) ([]finding.Done, error) {
	if _, err := b.Findings(ctx); err != nil {
		return nil, err
	}
	all, err := part(ctx, b, "findings", func(context.Context) ([]finding.Finding, error) { return nil, nil })
	_, done := finding.Split(all, b.Model.Accepted)
	return done, err
}

// Places are the numbered places of the layout.
func (b *Build) Places() []drawing.Place {
	list, _ := part(context.Background(), b, "places", func(context.Context) ([]drawing.Place, error) {
		return drawing.Places(b.Model), nil
	})
	return list
}

// Faults is what one thing wrong leads to in a mode.
func (b *Build) Faults(ctx context.Context, a *setting.Answer) ([]fault.Entry, error) {
	plan, err := b.Plan(ctx)
	if err != nil {
		return nil, err
	}
	return part(ctx, b, "faults/"+a.Mode.ID, func(ctx context.Context) ([]fault.Entry, error) {
		return fault.InMode(ctx, b.Net, a, plan)
	})
}

// workSoon is how long an edit waits for the drawing that follows.
const workSoon = 300 * time.Millisecond

// Work computes what follows from an edit, side by side where that can be:
// findings, figures, the drawing.
func (b *Build) Work(ctx context.Context, rules house.House) error {
	if _, err := b.Plan(ctx); err != nil {
		return err
	}
	var all errgroup.Group
	all.Go(func() error { _, err := b.Findings(ctx); return err })
	all.Go(func() error { _, err := b.Report(ctx, rules); return err })
	all.Go(func() error { _, _, err := b.SchematicSoon(ctx, workSoon); return err })
	return all.Wait()
}

// Report is every figure, by some rules and with nothing asked beside them.
func (b *Build) Report(ctx context.Context, rules house.House) (*report.Report, error) {
	plan, err := b.Plan(ctx)
	if err != nil {
		return nil, err
	}
	name := reportPart + rules.Fingerprint()
	return partIn(ctx, b, b.turns, name, func(context.Context) (*report.Report, error) {
		r := report.New(b.Net, plan, rules, report.Ask{})
		b.forget(reportPart)
		return &r, nil
	})
}

// Tasks are the procedures that guides tell, carried out by some rules.
func (b *Build) Tasks(ctx context.Context, rules house.House) ([]chapter.Task, error) {
	plan, err := b.Plan(ctx)
	if err != nil {
		return nil, err
	}
	c, err := part(ctx, b, tasksPart+rules.Fingerprint(), func(ctx context.Context) (*chapter.Carried, error) {
		c, err := chapter.Carry(ctx, draft.Inputs{Net: b.Net, Plan: plan, House: rules}, nil)
		if err == nil {
			b.forget(tasksPart)
		}
		return c, err
	})
	if err != nil {
		return nil, err
	}
	return c.Tasks, nil
}

// CarriedNow is what came of the procedures where they were carried out before; nil where they were not.
func (b *Build) CarriedNow(rules house.House) *chapter.Carried {
	b.mu.Lock()
	defer b.mu.Unlock()
	c, _ := b.parts[tasksPart+rules.Fingerprint()].(*chapter.Carried)
	return c
}

// TasksNow are Tasks where they were carried out before; nil where they were not.
func (b *Build) TasksNow(rules house.House) []chapter.Task {
	if c := b.CarriedNow(rules); c != nil {
		return c.Tasks
	}
	return nil
}

const (
	reportPart = "report/"
	tasksPart  = "tasks/"
)

// forget lets go what was made by other rules: whoever changes the rules does
// not ask for it again.
func (b *Build) forget(parts string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	maps.DeleteFunc(b.parts, func(name string, _ any) bool { return strings.HasPrefix(name, parts) })
}

// Standard reports whether it is the build with the standard options.
func (b *Build) Standard() bool { return slices.Equal(b.With, b.Doc.StandardOptions()) }

func trouble(slug string, err error) error { return fmt.Errorf("model %s: %w", slug, err) }
