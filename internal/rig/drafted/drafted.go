// Package drafted makes, for tests, what the guide of a build is drafted from.
package drafted

import (
	"context"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/report"
	"coldtap/internal/core/setting"
	"coldtap/internal/rig"
)

// Model is a model of the demo world.
func Model(t testing.TB, id string) *plumbing.Model {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	return m
}

// Campers are the models of the demo world and the campers that are there for tests.
func Campers(t testing.TB) []*plumbing.Model {
	t.Helper()
	list, err := demo.Models()
	require.NoError(t, err)
	for _, name := range rig.Names() {
		m, err := rig.Model(name)
		require.NoError(t, err)
		list = append(list, m)
	}
	return list
}

// Inputs are what the guide of the standard build of a model is drafted from, but for its procedures, which take long.
func Inputs(t testing.TB, m *plumbing.Model) chapter.Inputs {
	t.Helper()
	return Of(t, m, m.StandardOptions())
}

// Of is Inputs for a build with some options.
func Of(t testing.TB, m *plumbing.Model, with []string) chapter.Inputs {
	t.Helper()
	built, err := m.Build(with...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(built)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	in := draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}
	r := report.New(n, plan, in.House, report.Ask{})
	return chapter.Inputs{Inputs: in, Report: &r, By: m.Chapter}
}

// Whole is Of with the procedures. All who ask for the same read the same: nobody may change what it refers to.
func Whole(t testing.TB, m *plumbing.Model, with []string) chapter.Inputs {
	t.Helper()
	var doc strings.Builder
	require.NoError(t, plumbing.Write(&doc, m))
	v, _ := kept.LoadOrStore(doc.String()+strings.Join(with, ","), new(carried))
	c := v.(*carried)
	c.once.Do(func() {
		c.in = Of(t, m, with)
		c.in.Tasks, c.err = chapter.Tasks(context.WithoutCancel(t.Context()), c.in.Inputs)
	})
	require.NoError(t, c.err)
	return c.in
}

// carried is what was drafted from once.
type carried struct {
	once sync.Once
	in   chapter.Inputs
	err  error
}

var kept sync.Map // by the document and the options
