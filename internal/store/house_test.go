package store_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/testworld"
)

func TestHouseRulesAreSetChangedAndTakenBack(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	rules := &app.Rules{Store: s}
	seen := map[string]int{} // versions by scope and rule
	set := func(scope, person string, values map[string]string) error {
		var changes []app.RuleChange
		for rule, v := range values {
			changes = append(changes, app.RuleChange{Rule: rule, Value: v, From: seen[scope+rule]})
		}
		err := rules.Set(t.Context(), app.By{Name: person}, scope, changes, "because "+person+" says so")
		if err == nil {
			for rule := range values {
				seen[scope+rule]++
			}
		}
		return err
	}
	require.NoError(t, set("", "Imre Valk", map[string]string{"target": "65 mg/L", "jug": "5 L"}))
	require.NoError(t, set("gneiss-24-2027", "Odile Brandt", map[string]string{"target": "55 mg/L"}))
	require.NoError(t, set("", "Odile Brandt", map[string]string{"target": "60 mg/L", "jug": ""}))
	list, err := s.HouseRules(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, []string{"", "target", "60 mg/L", "Odile Brandt"},
		[]string{list[0].Scope, list[0].Rule, list[0].Value, list[0].Person})
	assert.Equal(t, []string{"gneiss-24-2027", "target", "55 mg/L"},
		[]string{list[1].Scope, list[1].Rule, list[1].Value})

	// All are set, or none.
	require.Error(t, set("", "Imre Valk", map[string]string{"target": "70 mg/L", "jug": strings.Repeat("9", 200)}))
	list, err = s.HouseRules(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "60 mg/L", list[0].Value)

	// Each time it was set is kept, with who and why; one that failed is none.
	changes, err := s.HouseChanges(t.Context(), "")
	require.NoError(t, err)
	var told []string
	for _, c := range changes {
		told = append(told, fmt.Sprint(c.Rule, " ", c.Version, " ", c.Value, " ", c.Why))
	}
	assert.ElementsMatch(t, []string{
		"target 1 65 mg/L because Imre Valk says so", "jug 1 5 L because Imre Valk says so",
		"target 2 60 mg/L because Odile Brandt says so", "jug 2  because Odile Brandt says so",
	}, told)
	trail, err := s.AuditTrail(t.Context(), 50)
	require.NoError(t, err)
	assert.Len(t, trail, 5, "an audit line for each rule that was set, and none for what failed")
	require.ErrorIs(t, set("", "Imre Valk", map[string]string{"colour": "blue"}), app.ErrNotFound)

	// Whoever saw an older version is told what it is now, a version that never was too.
	for _, from := range []int{0, 1, 3} {
		err = rules.Set(t.Context(), app.By{Name: "Imre Valk"}, "", []app.RuleChange{{Rule: "target", Value: "80 mg/L",
			From: from}}, "")
		var stale *app.RuleStaleError
		require.ErrorAs(t, err, &stale)
		assert.Equal(t, []string{"60 mg/L", "Odile Brandt"}, []string{stale.Now.Value, stale.Now.Person})
	}
}
