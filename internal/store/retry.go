package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"io"
	"math/rand/v2"
	"net"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
	"gorm.io/gorm"

	"coldtap/internal/app"
)

// Do carries out some writes together, or none of them. What passes by itself
// is tried again: two that wait for each other, a lock that took too long, a
// node of a cluster that certifies another write first or is about to leave.
// In a transaction that has begun it is a part of it, and is not tried alone.
func (s *Store) Do(ctx context.Context, work func(tx app.Tx) error) error {
	if s.within {
		return work(s)
	}
	for try := 0; ; try++ {
		committing, err := s.once(ctx, work)
		if err == nil || try == mostTries || !passes(err, committing) {
			return own(err)
		}
		s.renew(err)
		if !pause(ctx, try) {
			return own(errors.Join(err, ctx.Err()))
		}
	}
}

// own marks an error of the database or of the line to it as such, where it is not yet.
func own(err error) error {
	var told *mysql.MySQLError
	var line *net.OpError
	if errors.As(err, &told) || errors.As(err, &line) || err != nil && broken(err) || errors.Is(err, errTaken) ||
		errors.Is(err, sql.ErrTxDone) {
		return wrap("write", err)
	}
	return err
}

// once carries writes out, and reports whether they had all been made when
// they failed: of a connection that breaks then nobody knows what came of them.
func (s *Store) once(ctx context.Context, work func(tx app.Tx) error) (committing bool, err error) {
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		err := work(&Store{db: tx, within: true})
		committing = err == nil
		return err
	})
	return committing, err
}

// Tries, and the waits between them: each up to twice as long as the one
// before, in all about two seconds.
const (
	mostTries = 8
	firstWait = 8 * time.Millisecond
)

// pause waits before the next try; false where the context ends.
func pause(ctx context.Context, try int) bool {
	most := firstWait << try
	timer := time.NewTimer(most/2 + rand.N(most))
	defer timer.Stop()
	select {
	case <-timer.C:
		return true
	case <-ctx.Done():
		return false
	}
}

// Numbers of errors that pass by themselves; see the MariaDB error codes.
const (
	errCheckRead   = 1020 // the row has changed since it was read
	errLockWait    = 1205
	errDeadlock    = 1213 // also: another write was certified first
	errNotPrepared = 1047 // a node that is joining or leaving its cluster
	errInterrupted = 1317 // a write that gave way to one from another node
)

// errTaken says that a state's number was taken by another node of the cluster, whose write came
// between this one's look and its own.
var errTaken = errors.New("another node was faster")

// passes reports whether what failed can be tried again without doing it twice.
func passes(err error, committing bool) bool {
	if errors.Is(err, errTaken) {
		return true
	}
	var told *mysql.MySQLError
	if errors.As(err, &told) {
		switch told.Number {
		case errCheckRead, errLockWait, errDeadlock, errNotPrepared, errInterrupted:
			return true
		}
		return false
	}
	return !committing && broken(err)
}

// broken reports whether a connection broke, or could not be made.
func broken(err error) bool {
	var op *net.OpError
	if errors.As(err, &op) && op.Timeout() {
		return false // it hangs: another try would hang as well
	}
	return errors.Is(err, mysql.ErrInvalidConn) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, io.EOF) ||
		errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, syscall.ECONNREFUSED) || errors.Is(err, syscall.ECONNRESET) ||
		errors.Is(err, syscall.EPIPE)
}
