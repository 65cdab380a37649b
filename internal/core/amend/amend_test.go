package amend_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
)

func made(t *testing.T, id, procedure string) (*plumbing.Model, *plumbing.Network, *proof.Procedure) {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	built, err := m.Build(m.StandardOptions()...)
	require.NoError(t, err)
	n, err := plumbing.NewNetwork(built)
	require.NoError(t, err)
	plan, err := setting.Plan(t.Context(), n)
	require.NoError(t, err)
	d := draft.NewMaker(draft.Inputs{Net: n, Plan: plan, House: house.Usual(m.System())}).Make(t.Context(), procedure)
	require.NotNil(t, d.Procedure)
	return m, n, d.Procedure
}

func keys(p *proof.Procedure) (list []string) {
	for i := range p.Steps {
		list = append(list, p.Steps[i].Key)
	}
	return list
}

// Each step of each procedure has a key of its own; without amendments nothing changes.
func TestKeysTellStepsApart(t *testing.T) {
	_, n, p := made(t, "schist-31-2027", "sanitize")
	k := amend.Keys(p.Steps)
	sorted := slices.Sorted(slices.Values(k))
	assert.Equal(t, sorted, slices.Compact(slices.Clone(sorted)))
	assert.Equal(t, k, keys(amend.Apply(n, p, nil)))
}

// What a hand did holds when the procedure is made anew with a step more, and one less.
func TestAmendmentsOutliveAChange(t *testing.T) {
	m, n, p := made(t, "gneiss-24-2027", "use-tank")
	k := amend.Keys(p.Steps)
	s := edit.Steps{Procedure: p.ID, Name: fact.Of("procedure.use-tank"), Keys: k}
	done, err := s.Move(m, k[3], k[1])
	require.NoError(t, err)
	s.Keys = keys(amend.Apply(n, p, done.Model.AmendedOf(p.ID)))
	require.Equal(t, []string{k[0], k[3], k[1], k[2]}, s.Keys[:4])
	done, err = s.Leave(done.Model, k[4])
	require.NoError(t, err)
	s.Keys = keys(amend.Apply(n, p, done.Model.AmendedOf(p.ID)))
	require.NotContains(t, s.Keys, k[4])
	done, err = s.Add(done.Model, k[0], plumbing.AddedStep{Words: "Listen", Verb: "off", Part: "pump"})
	require.NoError(t, err)
	by := done.Model.AmendedOf(p.ID)

	fewer := *p // the second outlet is gone, and something new comes before the last
	fewer.Steps = slices.Delete(slices.Clone(p.Steps), 1, 2)
	last := len(fewer.Steps) - 1
	fewer.Steps = slices.Insert(fewer.Steps, last, proof.Step{For: "new"})
	got := amend.Apply(n, &fewer, by)
	have := keys(got)
	assert.Equal(t, []string{k[0], "by-hand-1", k[3], k[2]}, have[:4])
	assert.NotContains(t, have, k[1])
	assert.NotContains(t, have, k[4])
	assert.Equal(t, slices.Index(have, k[len(k)-2])+1, slices.Index(have, "new"))
	assert.Equal(t, "Listen", got.Steps[1].Words)
	require.Len(t, got.Steps[1].Acts, 1)
	assert.Equal(t, "pump", got.Steps[1].Acts[0].Part.ID)
}

// A document with amendments is read as it was written.
func TestAmendmentsAreKeptWithTheModel(t *testing.T) {
	m, _, p := made(t, "gneiss-24-2027", "use-tank")
	s := edit.Steps{Procedure: p.ID, Name: fact.Of("procedure.use-tank"), Keys: amend.Keys(p.Steps)}
	done, err := s.Reword(m, s.Keys[0], "Switch it on")
	require.NoError(t, err)
	var text strings.Builder
	require.NoError(t, plumbing.Write(&text, done.Model))
	again, err := plumbing.ReadKept(text.String())
	require.NoError(t, err)
	assert.Equal(t, done.Model.AmendedOf(p.ID), again.AmendedOf(p.ID))
	for i := range 3 {
		_, err := s.Move(m, "nothing", s.Keys[i])
		assert.Error(t, err)
	}
}

// A step of words may wait, if only for a second; one of neither words nor time is refused.
func TestAStepOfAHandMayWait(t *testing.T) {
	m, n, p := made(t, "gneiss-24-2027", "use-tank")
	s := edit.Steps{Procedure: p.ID, Name: fact.Of("procedure.use-tank"), Keys: amend.Keys(p.Steps)}
	done, err := s.Add(m, s.Keys[0], plumbing.AddedStep{Words: "Listen", Seconds: 1})
	require.NoError(t, err)
	got := amend.Apply(n, p, done.Model.AmendedOf(p.ID))
	assert.Equal(t, run.Until{Sense: run.Passed, For: 1}, got.Steps[1].Until)
	require.NoError(t, amend.Check(n, &plumbing.AddedStep{Seconds: 1}))
	assert.Error(t, amend.Check(n, &plumbing.AddedStep{Words: " "}))
}
