package finding

import (
	"slices"

	"coldtap/internal/core/plumbing"
)

// Done is a finding that somebody accepted.
type Done struct {
	Finding
	plumbing.Accepted
}

// Acceptance is what is kept of a finding that somebody accepts.
func (f *Finding) Acceptance(reason, by string) plumbing.Accepted {
	return plumbing.Accepted{Code: f.Code, Parts: f.Parts, Facts: f.Said.Key(), Reason: reason, By: by}
}

// Split parts what is open from what was accepted. An accepted finding comes back when
// what it says changes; a danger is never accepted.
func Split(list []Finding, accepted []plumbing.Accepted) (open []Finding, done []Done) {
	for _, f := range list {
		i := slices.IndexFunc(accepted, func(a plumbing.Accepted) bool {
			return !f.Danger && a.Code == f.Code && slices.Equal(a.Parts, f.Parts) && a.Facts == f.Said.Key()
		})
		if i < 0 {
			open = append(open, f)
		} else {
			done = append(done, Done{f, accepted[i]})
		}
	}
	return open, done
}
