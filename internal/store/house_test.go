package store_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/testdb"
)

func TestHouseRulesAreSetChangedAndTakenBack(t *testing.T) {
	s := open(t, testdb.DSN(t))
	rules := &app.Rules{Store: s}
	set := func(scope, person string, values map[string]string) error {
		return rules.Set(t.Context(), person, scope, values, "because "+person+" says so")
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
}
