// Package store keeps models and their revisions in MariaDB. A model's
// document is an append-only row of revisions; the last one is the model.
package store

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

	"github.com/pressly/goose/v3"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"coldtap/internal/app"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database.
type Store struct{ db *gorm.DB }

// Open opens the database of the DSN and brings its tables up to date.
func Open(ctx context.Context, dsn string) (*Store, error) {
	db, err := gorm.Open(gormmysql.Open(dsn), &gorm.Config{
		Logger: logger.Discard, TranslateError: true,
		NowFunc: func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) },
	})
	if err != nil {
		return nil, fmt.Errorf("open the database: %w", err)
	}
	s := &Store{db}
	sqlDB, err := db.DB()
	if err != nil {
		return nil, err
	}
	sqlDB.SetMaxOpenConns(20)
	sqlDB.SetMaxIdleConns(20) // else all but two are closed after each use
	sqlDB.SetConnMaxIdleTime(5 * time.Minute)
	if err := migrate(ctx, sqlDB); err != nil {
		sqlDB.Close()
		return nil, err
	}
	return s, nil
}

func migrate(ctx context.Context, db *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectMySQL, db, dir)
	if err != nil {
		return fmt.Errorf("migrations: %w", err)
	}
	done, err := p.Up(ctx)
	if err != nil {
		return fmt.Errorf("bring the tables up to date: %w", err)
	}
	for _, r := range done {
		slog.Debug("migrated", "step", r.Source.Path)
	}
	return nil
}

// Close closes the database.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// Do carries out some writes together, or none of them.
func (s *Store) Do(ctx context.Context, work func(tx app.Tx) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return work(&Store{tx}) })
}

// Ping reports whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.PingContext(ctx)
}
