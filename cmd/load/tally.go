package main

import (
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"
	"sync"
	"time"
)

// limits are how long 95 of 100 wait at most.
var limits = map[string]time.Duration{"guide": 250 * time.Millisecond, "edit": 250 * time.Millisecond,
	"list of models": 250 * time.Millisecond}

// heldMost is how many of 100 edits are held at most.
const heldMost = 3

// tally is what happened.
type tally struct {
	mu     sync.Mutex
	waits  map[string][]time.Duration
	same   map[string]int // answered with 304
	errors map[string]int
	late   int
}

func newTally() *tally {
	return &tally{waits: map[string][]time.Duration{}, same: map[string]int{}, errors: map[string]int{}}
}

// note keeps a request; held says that it was an edit that is held for its author, which is no error.
func (t *tally) note(what string, took time.Duration, status int, held bool, err error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.waits[what] = append(t.waits[what], took)
	switch {
	case held:
		t.late++
	case err != nil:
		t.errors[fmt.Sprintf("%s: %v", what, err)]++
	case status == http.StatusNotModified:
		t.same[what]++
	case status != http.StatusOK:
		t.errors[fmt.Sprintf("%s: status %d", what, status)]++
	}
}

// report writes what happened, and whether it is within the limits.
func (t *tally) report(to io.Writer, took time.Duration) (ok bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	ok = true
	fmt.Fprintf(to, "| what | requests | a second | p50 | p95 | longest | not changed (304) | to reach |\n")
	fmt.Fprintf(to, "|---|---|---|---|---|---|---|---|\n")
	for _, what := range slices.Sorted(maps.Keys(t.waits)) {
		w := t.waits[what]
		slices.Sort(w)
		at := func(share float64) time.Duration { return w[int(share*float64(len(w)-1))] }
		reach := ""
		if most, bound := limits[what]; bound {
			reach = fmt.Sprintf("p95 ≤ %d ms", most.Milliseconds())
			ok = ok && at(0.95) <= most
		}
		fmt.Fprintf(to, "| %s | %d | %.1f | %s | %s | %s | %d | %s |\n", what, len(w), float64(len(w))/took.Seconds(),
			ms(at(0.5)), ms(at(0.95)), ms(at(1)), t.same[what], reach)
	}
	edits := len(t.waits["edit"])
	share := 100 * float64(t.late) / max(1, float64(edits))
	fmt.Fprintf(to, "\n%d of %d edits were held for their author: %.1f %% (to reach: under %d %%).\n", t.late, edits,
		share, heldMost)
	ok = ok && share < heldMost
	if len(t.errors) == 0 {
		fmt.Fprintf(to, "\nNobody got an error.\n")
		return ok
	}
	fmt.Fprintf(to, "\nErrors:\n\n")
	for _, what := range slices.Sorted(maps.Keys(t.errors)) {
		fmt.Fprintf(to, "- %d × %s\n", t.errors[what], what)
	}
	return false
}

func ms(d time.Duration) string { return fmt.Sprintf("%.3g ms", float64(d.Microseconds())/1000) }
