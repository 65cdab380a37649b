package store

import (
	"context"
	"database/sql"
	"errors"

	"gorm.io/gorm"
)

// reads is a pool of connections whose queries outside of transactions are
// tried again where the connection breaks: they change nothing.
type reads struct {
	*sql.DB
	connections int
}

// QueryContext asks the database.
func (r reads) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	for try := 0; ; try++ {
		rows, err := r.DB.QueryContext(ctx, query, args...)
		if err == nil || try == mostTries || !passes(err, false) {
			return rows, err
		}
		if outside(err) {
			forget(r.DB, r.connections)
		}
		if !pause(ctx, try) {
			return rows, err
		}
	}
}

// BeginTx begins a transaction.
func (r reads) BeginTx(ctx context.Context, opts *sql.TxOptions) (gorm.ConnPool, error) {
	return r.DB.BeginTx(ctx, opts)
}

// GetDBConn is the pool itself.
func (r reads) GetDBConn() (*sql.DB, error) {
	if r.DB == nil {
		return nil, errors.New("the database is not open")
	}
	return r.DB, nil
}
