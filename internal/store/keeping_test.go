package store_test

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/testworld"
)

var imre = app.By{ID: 1, Name: "Imre Valk"}

// Two that wait for each other: the database ends one of them, it begins anew,
// and both are done, once each.
func TestADeadlockIsNotSeen(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	models, err := demo.Models()
	require.NoError(t, err)
	a, b := models[0].ID, models[1].ID
	for _, m := range models[:2] {
		_, err := s.Create(t.Context(), m, imre, "test")
		require.NoError(t, err)
	}
	var tries atomic.Int64
	met := make(chan bool) // both have their first lock
	var all sync.WaitGroup
	for i, order := range [][2]string{{a, b}, {b, a}} {
		all.Add(1)
		go func() {
			defer all.Done()
			first := true
			assert.NoError(t, s.Do(context.Background(), func(tx app.Tx) error {
				tries.Add(1)
				if _, _, err := tx.Lock(t.Context(), order[0]); err != nil {
					return err
				}
				if first {
					first = false
					if i == 0 {
						met <- true
					} else {
						<-met
					}
				}
				if _, _, err := tx.Lock(t.Context(), order[1]); err != nil {
					return err
				}
				return tx.Audit(t.Context(), imre, "locked", order[0], "")
			}))
		}()
	}
	all.Wait()
	assert.EqualValues(t, 3, tries.Load(), "they did wait for each other")
	trail, err := s.AuditTrail(t.Context(), 10)
	require.NoError(t, err)
	locked := 0
	for _, n := range trail {
		if n.Action == "locked" {
			locked++
		}
	}
	assert.Equal(t, 2, locked)
}

// What is written is there together with its audit line, or neither is.
func TestAWriteThatFailsLeavesNoLine(t *testing.T) {
	t.Parallel()
	s := open(t, testworld.Bare.Copy(t))
	broken := errors.New("broken")
	err := s.Do(t.Context(), func(tx app.Tx) error {
		if err := tx.Audit(t.Context(), imre, "did", "it", ""); err != nil {
			return err
		}
		return tx.Do(t.Context(), func(app.Tx) error { return broken })
	})
	require.ErrorIs(t, err, broken)
	trail, err := s.AuditTrail(t.Context(), 10)
	require.NoError(t, err)
	assert.Empty(t, trail)
}

func TestOneInstanceAtATimeStarts(t *testing.T) {
	t.Parallel()
	dsn := testdb.DSN(t)
	var inside, most, done atomic.Int64
	var all sync.WaitGroup
	for range 6 {
		s := open(t, dsn) // each an instance of its own, with tables to be made
		all.Add(1)
		go func() {
			defer all.Done()
			assert.NoError(t, s.Alone(context.Background(), func(context.Context) error {
				n := inside.Add(1)
				for m := most.Load(); n > m && !most.CompareAndSwap(m, n); m = most.Load() {
				}
				err := s.Ping(context.Background())
				inside.Add(-1)
				done.Add(1)
				return err
			}))
		}()
	}
	all.Wait()
	assert.EqualValues(t, 1, most.Load())
	assert.EqualValues(t, 6, done.Load())
}

func TestManyInstancesMigrateAnEmptyDatabaseAtOnce(t *testing.T) {
	t.Parallel()
	dsn := testdb.DSN(t)
	var all sync.WaitGroup
	for range 6 {
		all.Add(1)
		go func() {
			defer all.Done()
			s, err := store.Open(context.Background(), dsn)
			if assert.NoError(t, err) {
				_, err = s.Models(context.Background())
				assert.NoError(t, err)
				s.Close()
			}
		}()
	}
	all.Wait()
}

// A schema of another character set is converted; what stands in it stays.
func TestALatin1SchemaIsConverted(t *testing.T) {
	t.Parallel()
	dsn := testdb.DSN(t)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	exec := func(q string, args ...any) {
		t.Helper()
		_, err := db.ExecContext(t.Context(), q, args...)
		require.NoError(t, err)
	}
	var schema string
	require.NoError(t, db.QueryRowContext(t.Context(), "SELECT DATABASE()").Scan(&schema))
	exec("ALTER DATABASE `" + schema + "` CHARACTER SET latin1 COLLATE latin1_swedish_ci")
	exec(`CREATE TABLE models (id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, slug VARCHAR(80) NOT NULL UNIQUE,
		name VARCHAR(120) NOT NULL, year SMALLINT NOT NULL, kind VARCHAR(60) NOT NULL,
		revision BIGINT UNSIGNED NOT NULL DEFAULT 0, created_at DATETIME(6) NOT NULL, updated_at DATETIME(6) NOT NULL)`)
	exec("INSERT INTO models (slug, name, year, kind, created_at, updated_at) VALUES ('x', ?, 2027, 'trailer', NOW(), NOW())",
		"Zoë")
	s := open(t, dsn)
	list, err := s.Models(t.Context())
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "Zoë", list[0].Name)
	m := gneiss(t)
	m.Name = "Gneiss ⛺ 24"
	_, err = s.Create(t.Context(), m, imre, "first")
	require.NoError(t, err)
	row, _, err := s.Current(t.Context(), m.ID)
	require.NoError(t, err)
	assert.Equal(t, "Gneiss ⛺ 24", row.Name)
}

// Any DSN works, or is refused in words.
func TestDSNs(t *testing.T) {
	t.Parallel()
	dsn := testdb.DSN(t)
	cfg, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	bare := cfg.User + ":" + cfg.Passwd + "@tcp(" + cfg.Addr + ")/"
	for _, more := range []string{"", "?charset=latin1", "?parseTime=false&loc=Local", "?collation=latin1_swedish_ci"} {
		s, err := store.Open(t.Context(), bare+cfg.DBName+more)
		require.NoError(t, err, more)
		_, err = s.Create(t.Context(), gneiss(t), app.By{Name: "Zoë Ünal ⛺"}, "x")
		if !errors.Is(err, app.ErrExists) {
			require.NoError(t, err, more)
		}
		_, rev, err := s.Current(t.Context(), "gneiss-24-2027")
		require.NoError(t, err, more)
		assert.Equal(t, "Zoë Ünal ⛺", rev.Author, more)
		s.Close()
	}
	for dsn, words := range map[string]string{bare: "names no schema", "nonsense": "it looks like NAME:PASSWORD@tcp(",
		strings.Replace(bare, cfg.Addr, "127.0.0.1:1", 1) + "x": "does not answer"} {
		_, err := store.Open(t.Context(), dsn)
		require.ErrorContains(t, err, words)
	}
}
