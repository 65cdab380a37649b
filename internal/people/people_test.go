package people_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/people"
)

func TestPasswords(t *testing.T) {
	assert.ErrorContains(t, people.CheckPassword("imre", "short"), "at least 10")
	assert.ErrorContains(t, people.CheckPassword("imre", "imre-and-more"), "sign-in name")
	assert.ErrorContains(t, people.CheckPassword("imre", strings.Repeat("x", 73)), "at most 72")
	assert.NoError(t, people.CheckPassword("imre", "windy plateau"))
	h, err := people.Hash("windy plateau", bcrypt.MinCost)
	require.NoError(t, err)
	assert.True(t, people.Fits(h, "windy plateau"))
	assert.False(t, people.Fits(h, "windy plateaux"))
	assert.NotEqual(t, people.NewPassword(), people.NewPassword())
	assert.NoError(t, people.CheckPassword("admin", people.NewPassword()))
}

func TestRoles(t *testing.T) {
	for _, r := range people.Roles() {
		assert.True(t, r.Valid())
	}
	assert.False(t, people.Public.Valid())
	assert.False(t, people.Role("owner").Valid())
}
