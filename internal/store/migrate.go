package store

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"strings"

	"github.com/pressly/goose/v3"

	"coldtap/internal/picture"
)

// migrate brings the tables up to date, one instance at a time. Each step is
// one statement that can be met half-done, so that a killed start is gone on
// with by the next.
func migrate(ctx context.Context, db *sql.DB) error {
	if err := suits(ctx, db); err != nil {
		return err
	}
	return alone(ctx, db, func(ctx context.Context) error {
		if err := convert(ctx, db); err != nil {
			return err
		}
		p, err := migrator(ctx, db)
		if err != nil {
			return err
		}
		done, err := p.Up(ctx)
		if err != nil {
			return fmt.Errorf("bring the tables up to date: %w", err)
		}
		for _, r := range done {
			slog.Debug("migrated", "step", r.Source.Path)
		}
		return measure(ctx, db)
	})
}

// measure notes the size of pictures that were kept without it.
func measure(ctx context.Context, db *sql.DB) error {
	rows, err := db.QueryContext(ctx, "SELECT id FROM photos WHERE width = 0")
	if err != nil {
		return fmt.Errorf("measure photographs: %w", err)
	}
	defer rows.Close()
	var ids []uint64
	for rows.Next() {
		var id uint64
		if err := rows.Scan(&id); err != nil {
			return err
		}
		ids = append(ids, id)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, id := range ids {
		var image []byte
		if err := db.QueryRowContext(ctx, "SELECT image FROM photos WHERE id = ?", id).Scan(&image); err != nil {
			return fmt.Errorf("measure photograph %d: %w", id, err)
		}
		w, h, err := picture.Size(bytes.NewReader(image))
		if err != nil {
			slog.Warn("photograph", "id", id, "error", err)
			continue
		}
		if _, err := db.ExecContext(ctx, "UPDATE photos SET width = ?, height = ? WHERE id = ?", w, h, id); err != nil {
			return fmt.Errorf("measure photograph %d: %w", id, err)
		}
	}
	return nil
}

// suits reports why a database is none that the application can use.
func suits(ctx context.Context, db *sql.DB) error {
	var version string
	if err := db.QueryRowContext(ctx, "SELECT VERSION()").Scan(&version); err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	if !strings.Contains(version, "MariaDB") {
		return fmt.Errorf("the database is %q; Cold Tap needs a MariaDB", version)
	}
	return nil
}

// convert gives a schema that was made with another character set the
// application's, and its tables too.
func convert(ctx context.Context, db *sql.DB) error {
	var schema, set, order string
	err := db.QueryRowContext(ctx, `SELECT schema_name, default_character_set_name, default_collation_name
		FROM information_schema.schemata WHERE schema_name = DATABASE()`).Scan(&schema, &set, &order)
	if err != nil {
		return fmt.Errorf("look at the schema: %w", err)
	}
	if order != collation {
		if err := alter(ctx, db, "ALTER DATABASE %s CHARACTER SET "+charset+" COLLATE "+collation, schema); err != nil {
			return fmt.Errorf("the schema %s has the character set %s and can't be converted to %s: %w", schema, set, charset, err)
		}
	}
	rows, err := db.QueryContext(ctx, `SELECT table_name FROM information_schema.tables
		WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' AND table_collation NOT LIKE 'utf8mb4%'`)
	if err != nil {
		return fmt.Errorf("look at the tables: %w", err)
	}
	defer rows.Close()
	var names []string
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return err
		}
		names = append(names, name)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, name := range names {
		if err := alter(ctx, db, "ALTER TABLE %s CONVERT TO CHARACTER SET "+charset+" COLLATE "+collation, name); err != nil {
			return fmt.Errorf("the table %s can't be converted to %s: %w", name, charset, err)
		}
	}
	return nil
}

func alter(ctx context.Context, db *sql.DB, statement, name string) error {
	_, err := db.ExecContext(ctx, fmt.Sprintf(statement, "`"+strings.ReplaceAll(name, "`", "``")+"`"))
	return err
}

// migrator knows the steps that make the tables.
func migrator(ctx context.Context, db *sql.DB) (*goose.Provider, error) {
	if err := versionTable(ctx, db); err != nil {
		return nil, fmt.Errorf("bring the tables up to date: %w", err)
	}
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	p, err := goose.NewProvider(goose.DialectMySQL, db, dir)
	if err != nil {
		return nil, fmt.Errorf("migrations: %w", err)
	}
	return p, nil
}

// versionTable makes the table of the migrations as goose does, in steps that
// can be met half-done.
func versionTable(ctx context.Context, db *sql.DB) error {
	const table = goose.DefaultTablename
	_, err := db.ExecContext(ctx, `CREATE TABLE IF NOT EXISTS `+table+` (
		id BIGINT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
		version_id BIGINT NOT NULL,
		is_applied BOOLEAN NOT NULL,
		tstamp DATETIME NULL DEFAULT CURRENT_TIMESTAMP)`)
	if err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, `INSERT INTO `+table+` (version_id, is_applied)
		SELECT 0, TRUE FROM DUAL WHERE NOT EXISTS (SELECT 1 FROM `+table+` WHERE version_id = 0)`)
	return err
}

// Alone runs work that no two instances do at once on one database: at a start.
func (s *Store) Alone(ctx context.Context, work func(ctx context.Context) error) error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return alone(ctx, db, work)
}

// errLost says that an instance no longer has the lock of its start.
var errLost = errors.New("the lock of this start was lost to another instance; start again")
