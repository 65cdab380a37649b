package web_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"coldtap/internal/core/compare"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/table"
	"coldtap/internal/rig"
)

// computed is everything that is worked out of a model, as texts.
func computed(t *testing.T, m *plumbing.Model) []string {
	t.Helper()
	n, err := plumbing.NewNetwork(m)
	require.NoError(t, err)
	plan := rig.Plan(t, n)
	var list []string
	for _, f := range finding.Find(n, plan) {
		list = append(list, f.Code+": "+f.Said.Key())
	}
	for _, a := range plan {
		text := fmt.Sprint(a.Mode.ID, a.OK, a.Why.Key())
		if a.OK {
			for i, h := range n.AllHandles() {
				text += fmt.Sprintf(" %s=%s", h.Part.ID, h.Positions[a.State.Position(i)])
			}
		}
		list = append(list, text)
	}
	all := compare.SubjectOf(n, plan, house.Usual(m.System()))
	for _, f := range compare.Figures(all, all) {
		list = append(list, f.Name.Key()+": "+f.Before.Key())
	}
	return list
}

// partsBlock is a model's list of parts as a spreadsheet has it.
func partsBlock(t *testing.T, m *plumbing.Model) string {
	t.Helper()
	return table.WriteBlock(table.PartRows(m))
}

func linesBlock(m *plumbing.Model) string { return table.WriteBlock(table.LineRows(m)) }
