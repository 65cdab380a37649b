package main

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"runtime/debug"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/mariadb"
	"coldtap/internal/people"
	"coldtap/internal/store"
	"coldtap/internal/web"
)

func env(name, or string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return or
}

// serving is what serve is told on the command line.
type serving struct {
	addr, data, dsn string
	demo, secure    bool
}

func serveCommand() *cobra.Command {
	var s serving
	c := &cobra.Command{
		Use:   "serve",
		Short: "Serve the application until it is stopped",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if err := s.run(c.Context(), c.OutOrStdout()); err != nil {
				return exit{1, err}
			}
			return nil
		},
	}
	f := c.Flags()
	f.StringVar(&s.addr, "addr", env("COLDTAP_ADDR", "127.0.0.1:8080"), "address to listen on (COLDTAP_ADDR)")
	f.StringVar(&s.data, "data", env("COLDTAP_DATA", "var"), "folder of the private database (COLDTAP_DATA)")
	f.StringVar(&s.dsn, "dsn", env("COLDTAP_DSN", ""),
		"DSN of an existing MariaDB with its schema; no private one is started (COLDTAP_DSN)")
	f.BoolVar(&s.demo, "demo", env("COLDTAP_DEMO", "") != "",
		"load the demo world if the database is empty (COLDTAP_DEMO)")
	f.BoolVar(&s.secure, "secure-cookies", env("COLDTAP_SECURE", "") != "",
		"send cookies over HTTPS only (COLDTAP_SECURE)")
	return c
}

// The collector of garbage: an edit makes some megabytes of it in a few
// milliseconds, and then there is none for seconds. Collected at four times
// what is in use rather than at twice, hardly any edit waits for it; near the
// limit it is collected as often as must be.
const (
	collectAt   = 400     // percent
	memoryLimit = 3 << 29 // bytes, 1.5 GiB
)

// collectSeldom sets the collector, but where the environment says how.
func collectSeldom() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(collectAt)
	}
	if os.Getenv("GOMEMLIMIT") == "" {
		debug.SetMemoryLimit(memoryLimit)
	}
}

// run serves the application until the context ends.
func (s *serving) run(ctx context.Context, out io.Writer) error {
	collectSeldom()
	if s.dsn == "" {
		db, err := mariadb.Start(ctx, mariadb.Options{Dir: s.data})
		if err != nil {
			return err
		}
		defer db.Stop()
		if s.dsn, err = mariadb.WithSchema(ctx, db.DSN, "coldtap"); err != nil {
			return err
		}
	}
	st, err := store.Open(ctx, s.dsn)
	if err != nil {
		return err
	}
	defer st.Close()
	if s.demo {
		if err := loadDemo(ctx, st); err != nil {
			return fmt.Errorf("load the demo world: %w", err)
		}
	}
	jobs := new(app.Jobs)
	defer jobs.Close()
	options := web.Options{Secure: s.secure, Jobs: jobs}
	if s.demo {
		options.Demo = demo.People()
	}
	if err := accounts(ctx, st, s.demo, out); err != nil {
		return err
	}
	handler, err := web.New(st, options)
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", s.addr)
	if err != nil {
		return fmt.Errorf("%w; choose another address with --addr", err)
	}
	srv := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 30 * time.Second,
		WriteTimeout: 60 * time.Second, IdleTimeout: 2 * time.Minute}
	fmt.Fprintf(out, "Cold Tap serves on http://%s\n", l.Addr())
	failed := make(chan error, 1)
	go func() { failed <- srv.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	slog.Info("stopping")
	end, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return srv.Shutdown(end)
}

// accounts sees to it that somebody can sign in: the people of the demo world,
// or one keeper whose password is printed once.
func accounts(ctx context.Context, st *store.Store, withDemo bool, out io.Writer) error {
	list, err := st.People(ctx)
	if err != nil || len(list) > 0 {
		return err
	}
	wanted := []people.Account{{Login: "keeper", Name: "Keeper", Password: people.NewPassword(), Role: people.Admin}}
	if withDemo {
		wanted = demo.People()
	} else {
		fmt.Fprintf(out, "Sign in as %q with the password %q and change it.\n", wanted[0].Login, wanted[0].Password)
	}
	return (&app.Accounts{Store: st, Cost: bcrypt.DefaultCost}).SignUp(ctx, wanted)
}

// loadDemo puts the demo world into an empty database.
func loadDemo(ctx context.Context, st *store.Store) error {
	models, err := demo.Models()
	if err != nil {
		return err
	}
	seeded, err := st.Seed(ctx, models, app.By{Name: "Imre Valk"}, "demo world")
	if err != nil || !seeded {
		return err
	}
	lists, err := demo.Lists()
	if err != nil {
		return err
	}
	for _, l := range lists {
		if _, err := (&app.Lists{Store: st}).Upload(ctx, l.Model, app.By{Name: "Odile Brandt"}, l.Name, l.File); err != nil {
			return err
		}
	}
	return nil
}
