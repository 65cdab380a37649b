// Package turn lets heavy work go on beside other work: no more of it at a time
// than there are processors, and what is read leaves one of them to those who
// write.
package turn

import (
	"cmp"
	"context"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/semaphore"
)

// Turns are taken for heavy work. The zero value has as many as usual, and nil as many as are asked for.
type Turns struct {
	Most    int           // processors; 0 for those of the machine
	Longest time.Duration // how long one keeps others waiting: what takes longer goes on beside them; 0 as usual

	begin        sync.Once
	all, reading *semaphore.Weighted
}

type writing struct{}

// Writing says that what a context is for is waited for by somebody who writes.
func Writing(ctx context.Context) context.Context { return context.WithValue(ctx, writing{}, true) }

// longest is how long one usually keeps others waiting.
const longest = 150 * time.Millisecond

// Take waits for a turn, and gives what ends it. Who has one must not wait for somebody who waits
// for one. It fails where the context ends first.
func (t *Turns) Take(ctx context.Context) (end func(), err error) {
	if t == nil {
		return func() {}, nil
	}
	t.begin.Do(func() {
		most := t.Most
		if most == 0 {
			most = runtime.GOMAXPROCS(0)
		}
		t.all = semaphore.NewWeighted(int64(most))
		t.reading = semaphore.NewWeighted(int64(max(1, most-1)))
	})
	taken := []*semaphore.Weighted{t.reading, t.all}
	if ctx.Value(writing{}) != nil {
		taken = taken[1:]
	}
	for i, s := range taken {
		if err := s.Acquire(ctx, 1); err != nil {
			release(taken[:i])
			return nil, err
		}
	}
	var once sync.Once
	give := func() { once.Do(func() { release(taken) }) }
	late := time.AfterFunc(cmp.Or(t.Longest, longest), give)
	return func() { late.Stop(); give() }, nil
}

func release(taken []*semaphore.Weighted) {
	for _, s := range taken {
		s.Release(1)
	}
}
