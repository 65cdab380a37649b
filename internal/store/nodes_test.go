package store_test

import (
	"net"
	"strings"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"

	"coldtap/internal/store"
	"coldtap/internal/testdb"
)

// Of several servers the first that answers is taken, and another when that one is gone.
func TestAnotherServerIsTakenWhereOneIsAway(t *testing.T) {
	t.Parallel()
	base := testdb.DSN(t)
	closed, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	away := closed.Addr().String()
	closed.Close()
	one, two := testdb.NewCable(t, base), testdb.NewCable(t, base)
	address := func(c *testdb.Cable) string {
		x, err := mysql.ParseDSN(c.DSN)
		require.NoError(t, err)
		return x.Addr
	}
	dsn := strings.Replace(one.DSN, address(one), strings.Join([]string{away, address(one), address(two)}, ","), 1)
	st, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer st.Close()
	_, err = st.Models(t.Context())
	require.NoError(t, err)
	one.Pull()
	_, err = st.Models(t.Context())
	require.NoError(t, err)
	two.Pull()
	one.Plug()
	_, err = st.Models(t.Context())
	require.NoError(t, err)
}
