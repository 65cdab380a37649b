package app

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"weak"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/singleflight"

	"coldtap/internal/core/plumbing"
)

// Builds keeps computed builds by their content and options, those that were
// asked for last, up to a number of bytes. The zero value keeps as many as
// usual.
type Builds struct {
	Most     int64         // bytes; 0 for the usual
	States   StateReader   // reads a state that was given without its document; nil for none
	Drawings DrawingKeeper // keeps drawings that took long; nil for none

	flights singleflight.Group
	mu      sync.Mutex
	kept    *simplelru.LRU[string, *Build]
	bytes   int64
	options *simplelru.LRU[string, *plumbing.Model] // a model's options, by the hash of its state
	latest  map[string]weak.Pointer[Build]          // by model and options: the build before
}

// usualBytes is how much is kept where nobody says otherwise.
const usualBytes = 512 << 20

// mostOptions is of how many states the options are kept.
const mostOptions = 4096

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
		return s.made(ctx, slug, done.After, optionsOf(doc, with), done.After.Read)
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
	if rev.Document == "" && s.States != nil {
		// Others may wait for what is read here when who asked first has left.
		whole, err := s.States.StateOf(context.WithoutCancel(ctx), slug, rev.Number)
		if err != nil {
			return nil, err
		}
		rev = whole
	}
	return rev.Read()
}

// optionsOf is a model that has the options of a state, and nothing else: by it an address is read
// before anything is computed.
func (s *Builds) optionsOf(ctx context.Context, slug string, rev *Revision) (*plumbing.Model, error) {
	s.mu.Lock()
	s.cache()
	m, ok := s.options.Get(rev.Hash)
	s.mu.Unlock()
	if ok {
		return m, nil
	}
	doc, err := s.read(ctx, slug, rev)
	if err != nil {
		return nil, err
	}
	m = &plumbing.Model{Options: doc.Options}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.options.Add(rev.Hash, m)
	return m, nil
}

// made is the build of a state with exactly some options. Those who ask for the same at the same
// time wait for one computation.
func (s *Builds) made(ctx context.Context, slug string, rev *Revision, with []string,
	read func() (*plumbing.Model, error)) (*Build, error) {
	key := rev.Hash + "?" + strings.Join(with, ",")
	s.mu.Lock()
	b, ok := s.cache().Get(key)
	s.mu.Unlock()
	if ok {
		return b, nil
	}
	v, err, _ := s.flights.Do(key, func() (any, error) {
		doc, err := read()
		if err != nil {
			return nil, trouble(slug, err)
		}
		b, err := newBuild(doc, with)
		if err != nil {
			return nil, trouble(slug, err)
		}
		b.key, b.drawings = key, s.Drawings
		b.Bytes = perPart * int64(len(doc.Parts)+len(doc.Lines)+1)
		s.keep(key, slug+"?"+strings.Join(b.With, ","), b)
		return b, nil
	})
	if err != nil {
		return nil, err
	}
	return v.(*Build), ctx.Err()
}

// cache is the kept builds; the lock is held.
func (s *Builds) cache() *simplelru.LRU[string, *Build] {
	if s.kept == nil {
		const most = 1 << 20 // by number there is no bound: bytes are
		s.kept, _ = simplelru.NewLRU(most, func(_ string, b *Build) { s.bytes -= b.Bytes })
		s.options, _ = simplelru.NewLRU[string, *plumbing.Model](mostOptions, nil)
		s.latest = map[string]weak.Pointer[Build]{}
	}
	return s.kept
}

func (s *Builds) keep(key, of string, b *Build) {
	s.mu.Lock()
	defer s.mu.Unlock()
	c := s.cache()
	b.before = s.latest[of]
	s.latest[of] = weak.Make(b)
	c.Add(key, b)
	s.bytes += b.Bytes
	most := s.Most
	if most == 0 {
		most = usualBytes
	}
	for s.bytes > most && c.Len() > 1 {
		c.RemoveOldest()
	}
}

// Bytes is about how much the kept builds take.
func (s *Builds) Bytes() int64 {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.bytes
}
