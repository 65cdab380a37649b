package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/crypto/bcrypt"

	"coldtap/internal/app"
	"coldtap/internal/backup"
	"coldtap/internal/mariadb"
	"coldtap/internal/store"
)

// database is which database a command works on.
type database struct{ data, dsn string }

func (d *database) flags(c *cobra.Command) {
	c.Flags().StringVar(&d.data, "data", env("COLDTAP_DATA", "var"), "folder of the private database (COLDTAP_DATA)")
	c.Flags().StringVar(&d.dsn, "dsn", env("COLDTAP_DSN", ""),
		"DSN of an existing MariaDB with its schema; no private one is started (COLDTAP_DSN)")
}

// use gives the DSN: the one that was named, or that of the private server, which
// is started for the time of work where it does not run.
func (d *database) use(ctx context.Context, work func(dsn string) error) error {
	if d.dsn != "" {
		return work(d.dsn)
	}
	dsn, stop, err := mariadb.Use(ctx, mariadb.Options{Dir: d.data})
	if err != nil {
		return err
	}
	return errors.Join(work(dsn), stop())
}

func (d *database) open(ctx context.Context, work func(st *store.Store) error) error {
	return d.use(ctx, func(dsn string) error {
		st, err := store.Open(ctx, dsn)
		if err != nil {
			return err
		}
		defer st.Close()
		return work(st)
	})
}

// onDatabase is a command that works on a database and on what its one argument
// names; where that fails the exit code is 1.
func onDatabase(use, short string, work func(c *cobra.Command, d *database, name string) error) *cobra.Command {
	var d database
	c := &cobra.Command{Use: use, Short: short, Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		if err := work(c, &d, args[0]); err != nil {
			return exit{1, err}
		}
		return nil
	}}
	d.flags(c)
	return c
}

func exportCommand() *cobra.Command {
	var passwords bool
	c := onDatabase("export DIR|FILE.zip", "Back everything up as JSON and CSV files, also while people work",
		func(c *cobra.Command, d *database, name string) error {
			return d.open(c.Context(), func(st *store.Store) error {
				return export(c.Context(), st, name, passwords, c.OutOrStdout())
			})
		})
	c.Flags().BoolVar(&passwords, "passwords", false, "with the hashes of passwords: keep it as safe as the database")
	return c
}

func export(ctx context.Context, st *store.Store, name string, passwords bool, out io.Writer) error {
	now := time.Now()
	place, err := backup.NewPlace(name, now)
	if err != nil {
		return err
	}
	if err := st.Export(ctx, place, passwords, now); err != nil {
		place.Leave()
		return err
	}
	if err := place.Finish(); err != nil {
		return err
	}
	fmt.Fprintf(out, "Backed up in %s.\n", name)
	return nil
}

func importCommand() *cobra.Command {
	return onDatabase("import DIR|FILE.zip", "Bring a back-up into an empty database",
		func(c *cobra.Command, d *database, name string) error {
			files, done, err := backup.OpenFiles(name)
			if err != nil {
				return err
			}
			defer done()
			a, err := backup.Open(files)
			if err != nil {
				return err
			}
			err = d.use(c.Context(), func(dsn string) error { return store.Import(c.Context(), dsn, a) })
			if err != nil {
				return err
			}
			out := c.OutOrStdout()
			fmt.Fprintf(out, "Brought in, as it was on %s.\n", a.Manifest.Made.Format("2 January 2006 at 15:04 UTC"))
			if !a.Manifest.Passwords {
				fmt.Fprintln(out, "Nobody has a password yet: give one with “coldtap password LOGIN”.")
			}
			return nil
		})
}

func passwordCommand() *cobra.Command {
	return onDatabase("password LOGIN", "Give an account a new password, which is printed, and end its sessions",
		func(c *cobra.Command, d *database, login string) error {
			return d.open(c.Context(), func(st *store.Store) error {
				return renew(c.Context(), st, login, c.OutOrStdout())
			})
		})
}

// renew gives an account a new password.
func renew(ctx context.Context, st *store.Store, login string, out io.Writer) error {
	p, err := st.Login(ctx, login)
	if errors.Is(err, app.ErrNotFound) {
		return fmt.Errorf("nobody signs in as %q", login)
	}
	if err != nil {
		return err
	}
	a := app.Accounts{Store: st, Cost: bcrypt.DefaultCost}
	password, err := a.Reset(ctx, &app.Person{Name: "command line"}, p)
	if err != nil {
		return err
	}
	if !p.Active {
		fmt.Fprintf(out, "The account of %s is shut; an admin opens it again.\n", p.Name)
	}
	fmt.Fprintf(out, "%s signs in as %q with the password %q.\n", p.Name, p.Login, password)
	return nil
}
