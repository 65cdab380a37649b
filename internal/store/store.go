// Package store keeps models and their revisions in MariaDB. A model's
// document is an append-only row of revisions; the last one is the model.
package store

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"time"

	"github.com/go-sql-driver/mysql"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database, or a transaction in one.
type Store struct {
	db     *gorm.DB
	cfg    *mysql.Config // nil in a transaction
	within bool          // it is a transaction

	connections int // at most
}

// Connections is how many there are at most to the database where nobody says
// otherwise, and how many stay open: all but a few would be closed after each
// use otherwise.
const Connections = 20

// Open opens the database of the DSN and brings its tables up to date.
func Open(ctx context.Context, dsn string) (*Store, error) { return OpenWith(ctx, dsn, Connections) }

// OpenWith is Open with a number of connections.
func OpenWith(ctx context.Context, dsn string, connections int) (*Store, error) {
	if connections < 2 {
		return nil, fmt.Errorf("%d connections to the database are too few; 2 are the least", connections)
	}
	cfg, err := settled(dsn)
	if err != nil {
		return nil, err
	}
	if err := prepare(ctx, cfg); err != nil {
		return nil, err
	}
	pool, err := open(cfg)
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(connections)
	pool.SetMaxIdleConns(connections)
	pool.SetConnMaxIdleTime(5 * time.Minute)
	pool.SetConnMaxLifetime(time.Hour) // behind one address the nodes of a cluster change
	db, err := gorm.Open(gormmysql.New(gormmysql.Config{Conn: reads{pool, connections}}), &gorm.Config{
		Logger: logger.Discard, TranslateError: true, DisableAutomaticPing: true,
		NowFunc: func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) },
	})
	if err != nil {
		pool.Close()
		return nil, fmt.Errorf("open the database: %w", err)
	}
	return &Store{db: db, cfg: cfg, connections: connections}, nil
}

func open(cfg *mysql.Config) (*sql.DB, error) {
	c, err := connector(cfg)
	if err != nil {
		return nil, err
	}
	return sql.OpenDB(c), nil
}

// prepare brings the tables up to date.
func prepare(ctx context.Context, cfg *mysql.Config) error {
	db, err := open(patient(cfg))
	if err != nil {
		return err
	}
	defer db.Close()
	return migrate(ctx, db)
}

// Close closes the database.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// Ping reports whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.PingContext(ctx)
}

// Pool is the pool of connections, for whoever counts them.
func (s *Store) Pool() (*sql.DB, error) { return s.db.DB() }
