// Command releasedump writes a database as this version leaves it: a dump and
// a list of what stands in it, for the upgrade test of later versions.
//
//	releasedump internal/upgrade/testdata/NAME
package main

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"regexp"
	"strings"

	"github.com/go-sql-driver/mysql"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/mariadb"
	"coldtap/internal/store"
	"coldtap/internal/upgrade"
)

func main() {
	if err := run(context.Background(), os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "releasedump:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, args []string) error {
	if len(args) != 1 {
		return errors.New("say where to: releasedump internal/upgrade/testdata/NAME")
	}
	dir, err := os.MkdirTemp("", "coldtap-dump")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	server, err := mariadb.Start(ctx, mariadb.Options{Dir: dir, Tests: true})
	if err != nil {
		return err
	}
	defer server.Stop()
	dsn := server.DSN
	st, err := store.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := upgrade.Fill(ctx, st, bcrypt.MinCost); err != nil {
		return err
	}
	contents, err := upgrade.Read(ctx, st)
	if err != nil {
		return err
	}
	list, err := json.MarshalIndent(contents, "", "\t")
	if err != nil {
		return err
	}
	if err := os.WriteFile(args[0]+".json", append(list, '\n'), 0o644); err != nil {
		return err
	}
	return dump(ctx, dsn, args[0]+".sql.gz")
}

// sandbox is a line that only the client program of the server that wrote it
// understands.
var sandbox = regexp.MustCompile(`(?m)^/\*M?!999999.*$`)

func dump(ctx context.Context, dsn, file string) error {
	cfg, err := mysql.ParseDSN(dsn)
	if err != nil {
		return err
	}
	host, port, _ := strings.Cut(cfg.Addr, ":")
	cmd := exec.CommandContext(ctx, "mariadb-dump", "--no-defaults", "--host="+host, "--port="+port, "--user="+cfg.User,
		"--skip-comments", "--skip-dump-date", "--single-transaction", "--hex-blob", cfg.DBName)
	cmd.Env = append(os.Environ(), "MYSQL_PWD="+cfg.Passwd)
	var out, fault bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &fault
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("mariadb-dump: %w: %s", err, fault.String())
	}
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	if _, err := z.Write(sandbox.ReplaceAll(out.Bytes(), nil)); err != nil {
		return err
	}
	if err := z.Close(); err != nil {
		return err
	}
	return os.WriteFile(file, packed.Bytes(), 0o644)
}
