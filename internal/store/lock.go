package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"time"
)

// alone runs work under a lock of the database: others wait for it. On one
// server the lock belongs to a connection, and ends with it; in a cluster, where
// such a lock holds for one node only, it is a row with an end.
func alone(ctx context.Context, db *sql.DB, work func(ctx context.Context) error) error {
	var cluster string
	err := db.QueryRowContext(ctx, "SELECT IFNULL((SELECT variable_value FROM information_schema.global_variables "+
		"WHERE variable_name = 'WSREP_ON'), 'OFF')").Scan(&cluster)
	if err != nil {
		return fmt.Errorf("the lock of the start: %w", err)
	}
	if cluster == "ON" {
		return aloneInCluster(ctx, db, work)
	}
	conn, err := db.Conn(ctx)
	if err != nil {
		return fmt.Errorf("the lock of the start: %w", err)
	}
	defer conn.Close()
	for got := 0; got != 1; {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		// One second at a time, so that the wait ends when it is no longer wanted.
		err := conn.QueryRowContext(ctx, "SELECT IFNULL(GET_LOCK(CONCAT('coldtap ', DATABASE()), 1), 0)").Scan(&got)
		if err != nil {
			return fmt.Errorf("the lock of the start: %w", err)
		}
	}
	defer conn.ExecContext(context.WithoutCancel(ctx), "DO RELEASE_LOCK(CONCAT('coldtap ', DATABASE()))")
	return work(ctx)
}

// A lock that is a row: how long it holds unless it is taken again, and how
// often that is done.
const (
	lease = 10 * time.Second
	renew = 2 * time.Second
)

func aloneInCluster(ctx context.Context, db *sql.DB, work func(ctx context.Context) error) error {
	for _, q := range []string{
		"CREATE TABLE IF NOT EXISTS start_lock (name VARCHAR(20) NOT NULL PRIMARY KEY, holder CHAR(26) NOT NULL, " +
			"until DATETIME(6) NOT NULL)",
		"INSERT IGNORE INTO start_lock (name, holder, until) VALUES ('start', '', '2000-01-01')",
	} {
		if err := certified(ctx, func() error { _, err := db.ExecContext(ctx, q); return err }); err != nil {
			return fmt.Errorf("the lock of the start: %w", err)
		}
	}
	holder := rand.Text()
	take := func(ctx context.Context) (got bool, err error) {
		err = certified(ctx, func() error {
			r, err := db.ExecContext(ctx, "UPDATE start_lock SET holder = ?, until = UTC_TIMESTAMP(6) + INTERVAL ? SECOND "+
				"WHERE name = 'start' AND (holder = ? OR until < UTC_TIMESTAMP(6))", holder, lease.Seconds(), holder)
			if err != nil {
				return err
			}
			n, err := r.RowsAffected()
			got = n == 1
			return err
		})
		return got, err
	}
	for {
		got, err := take(ctx)
		if err != nil {
			return fmt.Errorf("the lock of the start: %w", err)
		}
		if got {
			break
		}
		select {
		case <-time.After(renew / 4):
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	ctx, lose := context.WithCancelCause(ctx)
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		for {
			select {
			case <-time.After(renew):
			case <-ctx.Done():
				return
			}
			if got, err := take(ctx); err == nil && !got {
				lose(errLost)
			}
		}
	}()
	err := work(ctx)
	if cause := context.Cause(ctx); cause != nil {
		err = errors.Join(err, cause)
	}
	lose(nil)
	<-ended
	_, _ = db.ExecContext(context.WithoutCancel(ctx), "UPDATE start_lock SET until = '2000-01-01' WHERE holder = ?", holder)
	return err
}

// certified tries again what another node of the cluster was faster with.
func certified(ctx context.Context, work func() error) error {
	for try := 0; ; try++ {
		err := work()
		if err == nil || try == mostTries || !passes(err, false) || !pause(ctx, try) {
			return err
		}
	}
}
