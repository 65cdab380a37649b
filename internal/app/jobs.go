package app

import (
	"cmp"
	"context"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"time"
)

// Jobs are long work that can be left and found again. The zero value has
// none.
type Jobs struct {
	mu    sync.Mutex
	next  uint64
	byKey map[string]*Job
}

// Job is one piece of long work.
type Job struct {
	ID     uint64
	Key    string // what it was begun under
	What   string // in words
	Person string // who began it; "" for the program itself
	Began  time.Time

	mu       sync.Mutex
	done     int
	total    int
	ended    time.Time
	result   any
	err      error
	finished chan struct{}
	stop     context.CancelFunc
}

// keptJobs is how many jobs that ended are remembered.
const keptJobs = 100

// Work is what a job does; it tells each step.
type Work func(ctx context.Context, step func()) (any, error)

// Find begins work under a key, or finds what was begun under it, running or
// ended without an error: what comes of it is the same as long as the key is.
func (s *Jobs) Find(key, what, person string, total int, work Work) *Job {
	return s.begin(key, what, person, total, work, func(j *Job) bool { return j.Err() == nil })
}

// Start begins work under a key, or finds what is running under it.
func (s *Jobs) Start(key, what, person string, total int, work Work) *Job {
	return s.begin(key, what, person, total, work, func(j *Job) bool { return !j.Ended() })
}

// begin begins work unless what was begun before will do. It goes on when
// whoever began it leaves.
func (s *Jobs) begin(key, what, person string, total int, work Work, willDo func(*Job) bool) *Job {
	s.mu.Lock()
	defer s.mu.Unlock()
	if j := s.byKey[key]; j != nil && willDo(j) {
		return j
	}
	s.next++
	ctx, stop := context.WithCancel(context.Background())
	j := &Job{ID: s.next, Key: key, What: what, Person: person, Began: time.Now(), total: total, finished: make(chan struct{}),
		stop: stop}
	if s.byKey == nil {
		s.byKey = map[string]*Job{}
	}
	s.byKey[key] = j
	s.forget()
	go func() {
		defer stop()
		result, err := Safely(func() (any, error) { return work(ctx, j.step) })
		j.mu.Lock()
		j.result, j.err, j.ended = result, err, time.Now()
		j.mu.Unlock()
		close(j.finished)
	}()
	return j
}

// Safely does work beside a request, which must not end the program with it: a panic is its error, and told.
func Safely[T any](work func() (T, error)) (result T, err error) {
	defer func() {
		if r := recover(); r != nil {
			slog.Error("work beside a request", "panic", r, "stack", string(debug.Stack()))
			err = fmt.Errorf("a fault in the program: %v", r)
		}
	}()
	return work()
}

// forget lets the oldest jobs go that ended; the lock is held.
func (s *Jobs) forget() {
	if len(s.byKey) <= keptJobs {
		return
	}
	for key, j := range s.byKey {
		if j.Ended() && s.next-j.ID > keptJobs/2 {
			delete(s.byKey, key)
		}
	}
}

// List lists the jobs, the newest first.
func (s *Jobs) List() []*Job {
	s.mu.Lock()
	defer s.mu.Unlock()
	var list []*Job
	for _, j := range s.byKey {
		list = append(list, j)
	}
	slices.SortFunc(list, func(a, b *Job) int { return cmp.Compare(b.ID, a.ID) })
	return list
}

// Close stops all jobs and waits for them.
func (s *Jobs) Close() {
	for _, j := range s.List() {
		j.stop()
		<-j.finished
	}
}

func (j *Job) step() {
	j.mu.Lock()
	j.done++
	j.mu.Unlock()
}

// Progress is how much is done of how much.
func (j *Job) Progress() (done, total int) {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.done, j.total
}

// Done and Total are Progress, for templates.
func (j *Job) Done() int { done, _ := j.Progress(); return done }

// Total is described at Done.
func (j *Job) Total() int { _, total := j.Progress(); return total }

// Ended reports whether it has.
func (j *Job) Ended() bool {
	select {
	case <-j.finished:
		return true
	default:
		return false
	}
}

// Err is why it failed; nil while it runs.
func (j *Job) Err() error {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.err
}

// Wait waits for the end for at most a time, and reports whether it came.
func (j *Job) Wait(ctx context.Context, most time.Duration) bool {
	timer := time.NewTimer(most)
	defer timer.Stop()
	select {
	case <-j.finished:
		return true
	case <-timer.C:
	case <-ctx.Done():
	}
	return false
}

// Result is what came of a job that ended.
func (j *Job) Result() any {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.result
}
