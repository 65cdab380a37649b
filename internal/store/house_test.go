package store_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/testdb"
)

func TestHouseRulesAreSetChangedAndTakenBack(t *testing.T) {
	s := open(t, testdb.DSN(t))
	set := func(scope, person string, values map[string]string) error {
		return s.SetHouseRules(t.Context(), scope, person, values)
	}
	require.NoError(t, set("", "Imre Valk", map[string]string{"target": "65 mg/L", "jug": "5 L"}))
	require.NoError(t, set("gneiss-24-2027", "Odile Brandt", map[string]string{"target": "55 mg/L"}))
	require.NoError(t, set("", "Odile Brandt", map[string]string{"target": "60 mg/L", "jug": ""}))
	list, err := s.HouseRules(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, []string{"", "target", "60 mg/L", "Odile Brandt"}, []string{list[0].Scope, list[0].Rule, list[0].Value, list[0].Person})
	assert.Equal(t, []string{"gneiss-24-2027", "target", "55 mg/L"}, []string{list[1].Scope, list[1].Rule, list[1].Value})

	// All are set, or none.
	require.Error(t, set("", "Imre Valk", map[string]string{"target": "70 mg/L", "jug": strings.Repeat("9", 200)}))
	list, err = s.HouseRules(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "60 mg/L", list[0].Value)
}
