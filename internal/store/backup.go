package store

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/pressly/goose/v3"

	"coldtap/internal/backup"
)

// transient tables hold what no back-up needs: who is signed in, tries, answers
// to requests of pages that are open, and what belongs to the tables themselves.
var transient = []string{"sessions", "sign_in_tries", "answers", "drawings", "known_browsers", "reader_tries",
	"start_lock",
	goose.DefaultTablename}

// secrets are the columns that a back-up has only where they are asked for.
const secretTable, secretColumn = "people", "password"

// querier is a database or a transaction in it.
type querier interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
	ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error)
}

// Export writes everything that is kept as it is at this moment, while others go
// on writing. The hashes of passwords are in it where they are asked for.
func (s *Store) Export(ctx context.Context, to backup.Files, passwords bool, now time.Time) error {
	db, err := open(patient(s.cfg))
	if err != nil {
		return err
	}
	defer db.Close()
	tx, err := db.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	defer tx.Rollback()
	var version int64
	err = tx.QueryRowContext(ctx,
		"SELECT MAX(version_id) FROM "+goose.DefaultTablename+" WHERE is_applied").Scan(&version)
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	tables, err := tablesOf(ctx, tx)
	if err != nil {
		return err
	}
	m := backup.Manifest{Schema: version, Made: now.UTC().Truncate(time.Second), Passwords: passwords}
	return backup.Write(ctx, to, &snapshot{tx, tables, passwords}, m)
}

// snapshot is the source of a back-up: a transaction that sees one moment.
type snapshot struct {
	tx        *sql.Tx
	tables    []backup.Table
	passwords bool
}

func (s *snapshot) Tables() []backup.Table { return s.tables }

func (s *snapshot) Each(ctx context.Context, t backup.Table, row func([]backup.Cell) error) error {
	rows, err := s.tx.QueryContext(ctx, "SELECT "+columnList(t)+" FROM "+quoted(t.Name)+" ORDER BY "+columnList(keyOf(t)))
	if err != nil {
		return err
	}
	defer rows.Close()
	raw, cells := make([]any, len(t.Columns)), make([]backup.Cell, len(t.Columns))
	for i := range raw {
		raw[i] = new(any)
	}
	for rows.Next() {
		if err := rows.Scan(raw...); err != nil {
			return err
		}
		for i, c := range t.Columns {
			cells[i] = cellOf(*raw[i].(*any))
			if !s.passwords && t.Name == secretTable && c.Name == secretColumn {
				cells[i] = backup.Cell{}
			}
		}
		if err := row(cells); err != nil {
			return err
		}
	}
	return rows.Err()
}

// cellOf writes a value as text; a time as RFC 3339 has it.
func cellOf(v any) backup.Cell {
	switch v := v.(type) {
	case nil:
		return backup.Cell{Null: true}
	case []byte:
		return backup.Cell{Bytes: v}
	case time.Time:
		return backup.Cell{Bytes: v.UTC().AppendFormat(nil, time.RFC3339Nano)}
	}
	return backup.Cell{Bytes: fmt.Append(nil, v)}
}

// tablesOf are all tables that are kept, models before what hangs on them.
func tablesOf(ctx context.Context, db querier) ([]backup.Table, error) {
	rows, err := db.QueryContext(ctx, `SELECT table_name, column_name, is_nullable = 'YES',
			data_type IN ('longtext', 'blob', 'mediumblob', 'longblob'), data_type = 'datetime', column_key = 'PRI'
		FROM information_schema.columns WHERE table_schema = DATABASE()
		ORDER BY table_name <> 'models', table_name, column_key <> 'PRI', ordinal_position`)
	if err != nil {
		return nil, fmt.Errorf("look at the tables: %w", err)
	}
	defer rows.Close()
	var list []backup.Table
	for rows.Next() {
		var table string
		var c backup.Column
		if err := rows.Scan(&table, &c.Name, &c.Null, &c.File, &c.Time, &c.Key); err != nil {
			return nil, err
		}
		if slices.Contains(transient, table) {
			continue
		}
		if len(list) == 0 || list[len(list)-1].Name != table {
			list = append(list, backup.Table{Name: table})
		}
		t := &list[len(list)-1]
		t.Columns = append(t.Columns, c)
	}
	return list, rows.Err()
}

func quoted(name string) string { return "`" + strings.ReplaceAll(name, "`", "``") + "`" }

// keyOf is a table's key.
func keyOf(t backup.Table) backup.Table {
	t.Columns = slices.DeleteFunc(slices.Clone(t.Columns), func(c backup.Column) bool { return !c.Key })
	return t
}

func columnList(t backup.Table) string {
	var names []string
	for _, c := range t.Columns {
		names = append(names, quoted(c.Name))
	}
	return strings.Join(names, ", ")
}

// A FullError says that a back-up can't be brought into a database because there
// is something in it.
type FullError struct {
	Rows  int64
	Table string
}

func (e *FullError) Error() string {
	return fmt.Sprintf("the database is not empty: it has %d rows of %s; a back-up goes into an empty one: "+
		"name another --data folder, or another schema", e.Rows, e.Table)
}

// Import brings a back-up into an empty database: all of it or nothing. Tables
// are first made as they were when it was written, and then brought up to date.
func Import(ctx context.Context, dsn string, a *backup.Archive) error {
	cfg, err := settled(dsn)
	if err != nil {
		return err
	}
	cfg = patient(cfg)
	cfg.InterpolateParams = false // pictures go as they are
	db, err := open(cfg)
	if err != nil {
		return err
	}
	defer db.Close()
	if err := suits(ctx, db); err != nil {
		return err
	}
	return alone(ctx, db, func(ctx context.Context) error {
		if err := emptied(ctx, db); err != nil {
			return err
		}
		if err := convert(ctx, db); err != nil {
			return err
		}
		p, err := migrator(ctx, db)
		if err != nil {
			return err
		}
		sources := p.ListSources()
		if newest := sources[len(sources)-1].Version; a.Manifest.Schema > newest {
			return backup.ErrNewer
		}
		if _, err := p.UpTo(ctx, a.Manifest.Schema); err != nil {
			return fmt.Errorf("make the tables: %w", err)
		}
		if err := load(ctx, db, a); err != nil {
			return err
		}
		_, err = p.Up(ctx)
		return err
	})
}

// emptied takes empty tables away, and refuses a database that has something in it.
func emptied(ctx context.Context, db *sql.DB) error {
	tables, err := tablesOf(ctx, db)
	if err != nil {
		return err
	}
	for _, t := range tables {
		var n int64
		if err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM "+quoted(t.Name)).Scan(&n); err != nil {
			return err
		}
		if n > 0 {
			return &FullError{n, t.Name}
		}
	}
	for _, name := range transient {
		tables = append(tables, backup.Table{Name: name})
	}
	tables = slices.DeleteFunc(tables, func(t backup.Table) bool { return t.Name == "start_lock" }) // it is held
	return unordered(ctx, db, func(conn *sql.Conn) error {
		for _, t := range tables {
			if _, err := conn.ExecContext(ctx, "DROP TABLE IF EXISTS "+quoted(t.Name)); err != nil {
				return err
			}
		}
		return nil
	})
}

// unordered works on a connection on which rows may come before those that they
// hang on: at its end all are there.
func unordered(ctx context.Context, db *sql.DB, work func(*sql.Conn) error) error {
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	if _, err := conn.ExecContext(ctx, "SET SESSION foreign_key_checks = 0"); err != nil {
		return err
	}
	defer conn.ExecContext(context.WithoutCancel(ctx), "SET SESSION foreign_key_checks = 1")
	return work(conn)
}

// load brings all rows in by one transaction.
func load(ctx context.Context, db *sql.DB, a *backup.Archive) error {
	return unordered(ctx, db, func(conn *sql.Conn) error {
		tx, err := conn.BeginTx(ctx, nil)
		if err != nil {
			return err
		}
		defer tx.Rollback()
		tables, err := tablesOf(ctx, tx)
		if err != nil {
			return err
		}
		in := &rowsIn{tx: tx}
		if err := a.Read(ctx, in, tables); err != nil {
			return err
		}
		if err := in.send(ctx); err != nil {
			return err
		}
		return tx.Commit()
	})
}

// rowsIn takes rows, and sends some together.
type rowsIn struct {
	tx    *sql.Tx
	table backup.Table
	args  []any
	bytes int
	rows  int
}

// rowsMost and bytesMost are how many rows go in one statement.
const (
	rowsMost  = 200
	bytesMost = 1 << 20
)

func (in *rowsIn) Insert(ctx context.Context, t backup.Table, row []backup.Cell) error {
	if t.Name != in.table.Name {
		if err := in.send(ctx); err != nil {
			return err
		}
		in.table = t
	}
	for i, c := range row {
		in.bytes += len(c.Bytes)
		v, err := argument(t.Columns[i], c)
		if err != nil {
			return err
		}
		in.args = append(in.args, v)
	}
	if in.rows++; in.rows >= rowsMost || in.bytes >= bytesMost {
		return in.send(ctx)
	}
	return nil
}

// argument is a value as a statement takes it.
func argument(column backup.Column, c backup.Cell) (any, error) {
	switch {
	case c.Null:
		return nil, nil
	case column.Time:
		at, err := time.Parse(time.RFC3339Nano, string(c.Bytes))
		if err != nil {
			return nil, fmt.Errorf("%s: %q is no time as 2027-01-31T08:15:00Z", column.Name, c.Bytes)
		}
		return at.UTC(), nil
	}
	return string(c.Bytes), nil
}

func (in *rowsIn) send(ctx context.Context) error {
	if in.rows == 0 {
		return nil
	}
	one := "(" + strings.TrimSuffix(strings.Repeat("?, ", len(in.table.Columns)), ", ") + ")"
	query := "INSERT INTO " + quoted(in.table.Name) + " (" + columnList(in.table) + ") VALUES " +
		strings.TrimSuffix(strings.Repeat(one+", ", in.rows), ", ")
	_, err := in.tx.ExecContext(ctx, query, in.args...)
	in.args, in.bytes, in.rows = in.args[:0], 0, 0
	return err
}
