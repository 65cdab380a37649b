package testdb

import (
	"compress/gzip"
	"context"
	"database/sql"
	"io"
	"os"

	"github.com/go-sql-driver/mysql"
)

// Load puts the dump of a release into an empty schema.
func Load(ctx context.Context, dsn, dump string) error {
	f, err := os.Open(dump)
	if err != nil {
		return err
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		return err
	}
	text, err := io.ReadAll(z)
	if err != nil {
		return err
	}
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return err
	}
	cfg.MultiStatements = true
	db, err := sql.Open("mysql", cfg.FormatDSN())
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.ExecContext(ctx, string(text))
	return err
}
