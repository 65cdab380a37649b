package plumbing

import (
	"fmt"
	"slices"
	"strings"
)

// allBuilds is up to how many options all builds are looked at; with more, those
// in which at most two differ from none or from the standard ones.
const allBuilds = 6

// Builds lists the options of the builds in which a model is checked.
func (m *Model) Builds() [][]string {
	var ids []string
	for _, o := range m.Options {
		ids = append(ids, o.ID)
	}
	var list [][]string
	add := func(has func(id string) bool) {
		var with []string
		for _, id := range ids {
			if has(id) && !slices.ContainsFunc(with, func(other string) bool { return m.Shut(id, other) }) {
				with = append(with, id)
			}
		}
		if !slices.ContainsFunc(list, func(have []string) bool { return slices.Equal(have, with) }) {
			list = append(list, with)
		}
	}
	standard := m.StandardOptions()
	add(func(id string) bool { return slices.Contains(standard, id) })
	if len(ids) <= allBuilds {
		for set := range 1 << len(ids) {
			add(func(id string) bool { return set&(1<<slices.Index(ids, id)) != 0 })
		}
		return list
	}
	for _, base := range [][]string{nil, standard} {
		for i, a := range ids {
			for _, b := range ids[i:] { // a by itself is the first
				add(func(id string) bool { return slices.Contains(base, id) != (id == a || id == b) })
			}
		}
	}
	return list
}

// A LooseEndError says what of a build leads to a port that the build does not have.
type LooseEndError struct{ What, Port string } // what it is and how it stands there, and where

func (e *LooseEndError) Error() string {
	return fmt.Sprintf("%s %s, which this build does not have", e.What, e.Port)
}

// A BuildError says that a build of a model can't be made, and why.
type BuildError struct {
	With []string // its options
	Why  error
}

func (e *BuildError) Error() string {
	with := "without options"
	if len(e.With) > 0 {
		with = "with " + strings.Join(e.With, ", ")
	}
	return fmt.Sprintf("built %s, %v", with, e.Why)
}

func (e *BuildError) Unwrap() error { return e.Why }

// CheckBuilds makes the network of every build that is checked, so that no page
// meets one that can't be made: a *BuildError tells the first.
func (m *Model) CheckBuilds() error {
	for _, with := range m.Builds() {
		build, err := m.Build(with...)
		if err == nil {
			_, err = NewNetwork(build)
		}
		if err != nil {
			return &BuildError{with, err}
		}
	}
	return nil
}
