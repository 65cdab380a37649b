package app

import (
	"cmp"
	"context"
	"fmt"
	"strings"
	"sync"
	"time"
	"weak"

	"coldtap/internal/cache"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/turn"
)

// Builds gives computed builds. The zero value keeps as many as usual.
type Builds struct {
	Pool     *BuildPool    // where they are kept; nil for one of its own
	States   StateReader   // reads a state that was given without its document; nil for none
	Drawings DrawingKeeper // keeps drawings that took long; nil for none
	Docs     *Docs         // documents that were read; nil for none
	Turns    *turn.Turns   // for what is computed on every edit; nil for none

	own BuildPool
}

// BuildPool keeps computed builds by their content and options, those that were asked for last, up to a number of bytes.
// Several Builds may share one, whatever store each of them reads from: a build follows from its document alone. The
// zero value keeps as many as usual.
type BuildPool struct {
	Most     int64         // bytes; 0 for the usual
	Patience time.Duration // how long one part of a build may take, whoever waits for it; 0 for the usual

	begin   sync.Once
	kept    cache.Cache[*Build]
	options cache.Cache[*plumbing.Model] // a model's options, by the hash of its state

	mu     sync.Mutex
	latest map[string]weak.Pointer[Build] // by model and options: the build before
}

// usualBytes is how much is kept where nobody says otherwise.
const usualBytes = 512 << 20

// optionsBytes is how many bytes of options are kept, about perOption for each.
const (
	optionsBytes = 4 << 20
	perOption    = 500
)

// perPart is about how many bytes a build takes for each of its parts and lines: on the demo
// world, all that is computed and the faults of every mode, a model of 90 takes 1.7 MB.
const perPart = 19_000

// NoOptionError says that a model has no such option.
type NoOptionError struct{ Option string }

func (e *NoOptionError) Error() string { return fmt.Sprintf("this model has no option %q", e.Option) }

// Get is a state of a model with some options: "" for the standard ones, "none" for none. A
// *NoOptionError where the model does not have one of them.
func (s *Builds) Get(ctx context.Context, slug string, rev *Revision, with string) (*Build, error) {
	options, err := s.optionsOf(ctx, slug, rev)
	if err != nil {
		return nil, trouble(slug, err)
	}
	for _, id := range strings.Split(with, ",") {
		if id != "" && id != "none" && options.Option(id) == nil {
			return nil, &NoOptionError{id}
		}
	}
	return s.made(ctx, slug, rev, optionsOf(options, with),
		func() (*plumbing.Model, error) { return s.read(ctx, slug, rev) })
}

// After is Get of the state that a change made. Options that the change took away are left out.
func (s *Builds) After(ctx context.Context, slug string, done *Changed, with string) (*Build, error) {
	if done.Doc == nil {
		doc, err := s.optionsOf(ctx, slug, done.After)
		if err != nil {
			return nil, trouble(slug, err)
		}
		return s.made(ctx, slug, done.After, optionsOf(doc, with),
			func() (*plumbing.Model, error) { return s.Docs.Read(done.After) })
	}
	return s.made(ctx, slug, done.After, optionsOf(done.Doc, with),
		func() (*plumbing.Model, error) { return done.Doc, nil })
}

// StateReader reads states of models.
type StateReader interface {
	StateOf(ctx context.Context, slug string, number uint64) (*Revision, error)
}

// read reads a state's document, which is fetched where it was left out.
func (s *Builds) read(ctx context.Context, slug string, rev *Revision) (*plumbing.Model, error) {
	if doc := s.Docs.find(rev); doc != nil {
		return doc, nil
	}
	if rev.Document == "" && s.States != nil {
		// Others may wait for what is read here when who asked first has left.
		whole, err := s.States.StateOf(context.WithoutCancel(ctx), slug, rev.Number)
		if err != nil {
			return nil, err
		}
		rev = whole
	}
	return s.Docs.Read(rev)
}

// optionsOf is a model that has the options of a state, and nothing else: by it an address is read
// before anything is computed.
func (s *Builds) optionsOf(ctx context.Context, slug string, rev *Revision) (*plumbing.Model, error) {
	return s.pool().options.Get(rev.Hash, func() (*plumbing.Model, int64, error) {
		doc, err := s.read(ctx, slug, rev)
		if err != nil {
			return nil, 0, err
		}
		return &plumbing.Model{Options: doc.Options}, perOption * int64(1+len(doc.Options)), nil
	})
}

// pool is where builds are kept; how much is kept is said before anything is.
func (s *Builds) pool() *BuildPool {
	p := s.Pool
	if p == nil {
		p = &s.own
	}
	p.begin.Do(func() { p.kept.Most, p.options.Most = cmp.Or(p.Most, usualBytes), optionsBytes })
	return p
}

// made is the build of a state with exactly some options. Those who ask for the same at the same
// time wait for one computation.
func (s *Builds) made(ctx context.Context, slug string, rev *Revision, with []string,
	read func() (*plumbing.Model, error)) (*Build, error) {
	p, key := s.pool(), rev.Hash+"?"+strings.Join(with, ",")
	b, err := p.kept.Get(key, func() (*Build, int64, error) {
		doc, err := read()
		if err != nil {
			return nil, 0, trouble(slug, err)
		}
		of := slug + "?" + strings.Join(with, ",")
		b := besides(doc, p.last(of))
		if b == nil {
			if b, err = newBuild(doc, with); err != nil {
				return nil, 0, trouble(slug, err)
			}
		}
		b.Bytes = perPart * int64(len(doc.Parts)+len(doc.Lines)+1)
		b.key, b.drawings, b.turns, b.patience = key, s.Drawings, s.Turns, p.Patience
		p.follow(of, b)
		return b, b.Bytes, nil
	})
	if err != nil {
		return nil, err
	}
	return b, ctx.Err()
}

// Kept is the build of a state with some options where it is kept; nil where it is not.
func (s *Builds) Kept(rev *Revision, with []string) *Build {
	b, _ := s.pool().kept.Find(rev.Hash + "?" + strings.Join(with, ","))
	return b
}

// last is the build of a model with some options that was made last; nil for none.
func (p *BuildPool) last(of string) *Build {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.latest[of].Value()
}

// follow lets a build know the one before of the same model and options.
func (p *BuildPool) follow(of string, b *Build) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.latest == nil {
		p.latest = map[string]weak.Pointer[Build]{}
	}
	b.before = p.latest[of]
	p.latest[of] = weak.Make(b)
}

// Bytes is about how much the kept builds take.
func (s *Builds) Bytes() int64 { return s.pool().kept.Bytes() }
