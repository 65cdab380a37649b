package testdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"

	"coldtap/internal/mariadb"
)

// Original is a schema that is filled once a run, by whichever test of whichever package asks first, and copied for
// each test that asks.
type Original struct {
	Name string    // of letters and digits, different from all others
	From *Original // what there is before it is filled; nil for nothing
	Fill func(ctx context.Context, dsn string) error

	once   sync.Once
	err    error
	tables []string // by name
	create []string // the statement that makes each
}

// Copy gives the DSN of a schema of a test's own with what is in the original.
func (o *Original) Copy(t testing.TB) string {
	t.Helper()
	ctx := context.WithoutCancel(t.Context()) // others may wait for what is filled here
	require.NoError(t, o.ready(ctx, server(t)))
	dsn := DSN(t)
	require.NoError(t, o.copyTo(ctx, dsn))
	return dsn
}

func (o *Original) ready(ctx context.Context, base string) error {
	o.once.Do(func() { o.err = o.make(ctx, base) })
	return o.err
}

// doneTable is in an original that is complete: the process that filled it may have been killed. Its name is the last.
const doneTable = "original_is_complete"

func (o *Original) schema() string { return "t_original_" + o.Name }

// make fills the original where no other process of this run did, and looks at its tables.
func (o *Original) make(ctx context.Context, base string) error {
	if o.From != nil {
		if err := o.From.ready(ctx, base); err != nil {
			return err
		}
	}
	db, err := sql.Open("mysql", base)
	if err != nil {
		return err
	}
	defer db.Close()
	c, err := db.Conn(ctx) // a lock is a connection's
	if err != nil {
		return err
	}
	defer c.Close()
	var got sql.NullInt64
	if err := c.QueryRowContext(ctx, "SELECT GET_LOCK(?, 600)", o.schema()).Scan(&got); err != nil || got.Int64 != 1 {
		return errors.Join(fmt.Errorf("wait for %s", o.schema()), err)
	}
	defer c.ExecContext(ctx, "DO RELEASE_LOCK(?)", o.schema())
	if o.tables, err = tablesOf(ctx, c, o.schema()); err != nil {
		return err
	}
	if len(o.tables) == 0 || o.tables[len(o.tables)-1] != doneTable {
		if err := o.fill(ctx, c, base); err != nil {
			return fmt.Errorf("fill %s: %w", o.schema(), err)
		}
		if o.tables, err = tablesOf(ctx, c, o.schema()); err != nil {
			return err
		}
	}
	o.tables = o.tables[:len(o.tables)-1]
	o.create = make([]string, len(o.tables))
	for i, table := range o.tables {
		row := c.QueryRowContext(ctx, "SHOW CREATE TABLE `"+o.schema()+"`.`"+table+"`")
		if err := row.Scan(&table, &o.create[i]); err != nil {
			return err
		}
	}
	return nil
}

func (o *Original) fill(ctx context.Context, c *sql.Conn, base string) error {
	if _, err := c.ExecContext(ctx, "DROP DATABASE IF EXISTS `"+o.schema()+"`"); err != nil {
		return err
	}
	dsn, err := mariadb.WithSchema(ctx, base, o.schema())
	if err != nil {
		return err
	}
	if o.From != nil {
		if err := o.From.copyTo(ctx, dsn); err != nil {
			return err
		}
	}
	if err := o.Fill(ctx, dsn); err != nil {
		return err
	}
	_, err = c.ExecContext(ctx, "CREATE TABLE `"+o.schema()+"`."+doneTable+" (id INT)")
	return err
}

// tablesOf are the tables of a schema, the one that says that it is complete last.
func tablesOf(ctx context.Context, c *sql.Conn, schema string) (list []string, err error) {
	rows, err := c.QueryContext(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = ? "+
		"ORDER BY table_name = ?, table_name", schema, doneTable)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		list = append(list, name)
	}
	return list, rows.Err()
}

// copyTo makes the tables anew in an empty schema and fills them.
func (o *Original) copyTo(ctx context.Context, dsn string) error {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return err
	}
	cfg.MultiStatements = true
	by, err := mysql.NewConnector(cfg)
	if err != nil {
		return err
	}
	db := sql.OpenDB(by)
	defer db.Close()
	var b strings.Builder
	b.WriteString("SET foreign_key_checks = 0, unique_checks = 0, autocommit = 0;\n")
	for i, table := range o.tables {
		fmt.Fprintf(&b, "%s;\nINSERT INTO `%s` SELECT * FROM `%s`.`%s`;\n", o.create[i], table, o.schema(), table)
	}
	b.WriteString("COMMIT")
	if _, err := db.ExecContext(ctx, b.String()); err != nil {
		return fmt.Errorf("copy %s: %w", o.schema(), err)
	}
	return nil
}
