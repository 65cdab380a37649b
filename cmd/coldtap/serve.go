package main

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/pprof"
	"os"
	"runtime/debug"
	"strings"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"github.com/spf13/cobra"
	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/mariadb"
	"coldtap/internal/people"
	"coldtap/internal/store"
	"coldtap/internal/web"
	"coldtap/internal/world"
)

func env(name, or string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return or
}

// log says how the log is written: to the standard error, as text or as JSON.
func (s *serving) log() {
	o := &slog.HandlerOptions{}
	if s.verbose {
		o.Level = slog.LevelDebug
	}
	var h slog.Handler = slog.NewTextHandler(os.Stderr, o)
	if s.json {
		h = slog.NewJSONHandler(os.Stderr, o)
	}
	slog.SetDefault(slog.New(h))
}

// count serves what is counted on an address of its own.
func (s *serving) count(ctx context.Context, st *store.Store) (*prometheus.Registry, error) {
	pool, err := st.Pool()
	if err != nil {
		return nil, err
	}
	r := prometheus.NewRegistry()
	r.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		collectors.NewDBStatsCollector(pool, "coldtap"))
	l, err := net.Listen("tcp", s.metrics)
	if err != nil {
		return nil, fmt.Errorf("%w; choose another address with --metrics", err)
	}
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", promhttp.HandlerFor(r, promhttp.HandlerOpts{}))
	mux.HandleFunc("GET /debug/pprof/", pprof.Index)
	mux.HandleFunc("GET /debug/pprof/profile", pprof.Profile)
	srv := &http.Server{Handler: mux, ReadHeaderTimeout: 10 * time.Second}
	context.AfterFunc(ctx, func() { srv.Close() })
	go srv.Serve(l)
	slog.Info("metrics", "address", "http://"+l.Addr().String()+"/metrics")
	return r, nil
}

// split reads a list that stands in one word.
func split(list string) []string {
	return strings.FieldsFunc(list, func(r rune) bool { return r == ',' || r == ' ' })
}

// tidy takes away hourly what has had its time.
func tidy(ctx context.Context, st *store.Store) {
	for {
		if err := st.Tidy(ctx); err != nil && ctx.Err() == nil {
			slog.Warn("tidy", "error", err)
		}
		select {
		case <-time.After(time.Hour):
		case <-ctx.Done():
			return
		}
	}
}

// serving is what serve is told on the command line.
type serving struct {
	database
	addr         string
	demo, secure bool
	proxies      []string
	metrics      string // address; "" for none
	connections  int
	verbose      bool
	json         bool
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
	s.flags(c)
	f := c.Flags()
	f.StringVar(&s.addr, "addr", env("COLDTAP_ADDR", "127.0.0.1:8080"), "address to listen on (COLDTAP_ADDR)")
	f.BoolVar(&s.demo, "demo", env("COLDTAP_DEMO", "") != "",
		"load the demo world if the database is empty (COLDTAP_DEMO)")
	f.BoolVar(&s.secure, "secure-cookies", env("COLDTAP_SECURE", "") != "",
		"send cookies over HTTPS only (COLDTAP_SECURE)")
	f.StringVar(&s.metrics, "metrics", env("COLDTAP_METRICS", ""),
		"address of its own to serve /metrics on, for those who run it, as 127.0.0.1:9090 (COLDTAP_METRICS)")
	f.IntVar(&s.connections, "connections", store.Connections, "connections to the database at most")
	f.BoolVar(&s.verbose, "verbose", false, "write every request down")
	f.BoolVar(&s.json, "log-json", env("COLDTAP_LOG_JSON", "") != "", "write the log as JSON (COLDTAP_LOG_JSON)")
	f.StringSliceVar(&s.proxies, "proxies", split(env("COLDTAP_PROXIES", "")),
		"addresses or networks of proxies that say where a request comes from, as 10.0.0.0/8 (COLDTAP_PROXIES)")
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
	s.log()
	if s.dsn == "" {
		db, err := mariadb.Start(ctx, mariadb.Options{Dir: s.data})
		if err != nil {
			return err
		}
		defer db.Stop()
		s.dsn = db.DSN
	}
	st, err := store.OpenWith(ctx, s.dsn, s.connections)
	if err != nil {
		return err
	}
	defer st.Close()
	if err := first(ctx, st, s.demo, out); err != nil {
		return err
	}
	jobs := new(app.Jobs)
	defer jobs.Close()
	printer := new(browser.Printer)
	defer printer.Close()
	options := web.Options{Secure: s.secure, Jobs: jobs, Printer: printer, Shown: demo.People(), Proxies: s.proxies}
	if s.demo {
		options.Demo = demo.People()
	}
	if options.Pulse, err = st.Pulse(ctx); err != nil {
		return err
	}
	if s.metrics != "" {
		if options.Metrics, err = s.count(ctx, st); err != nil {
			return err
		}
	}
	handler, err := web.New(st, options)
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", s.addr)
	if err != nil {
		return fmt.Errorf("%w; choose another address with --addr", err)
	}
	go tidy(ctx, st)
	if s.demo {
		go publish(ctx, st)
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

// publish publishes the guides of the demo world while it serves already: that takes some seconds, and is all there
// or nothing.
func publish(ctx context.Context, st app.Tx) {
	if err := world.Publish(ctx, st); err != nil && ctx.Err() == nil {
		slog.Warn("publish the guides of the demo world", "error", err)
	}
	if err := world.Try(ctx, st); err != nil && ctx.Err() == nil {
		slog.Warn("make the trials of the demo world", "error", err)
	}
	if err := world.Drill(ctx, st); err != nil && ctx.Err() == nil {
		slog.Warn("keep the drills of the demo world", "error", err)
	}
	if err := world.Compare(ctx, st); err != nil && ctx.Err() == nil {
		slog.Warn("compare the trials of the demo world", "error", err)
	}
}

// first sees to it that an empty database has what a start needs: the demo
// world, or one keeper whose password is printed once. Of several instances one
// does it; killed, it leaves nothing half done.
func first(ctx context.Context, st *store.Store, withDemo bool, out io.Writer) error {
	return st.Alone(ctx, func(ctx context.Context) error {
		if withDemo {
			if err := world.Load(ctx, st, bcrypt.DefaultCost); err != nil {
				return fmt.Errorf("load the demo world: %w", err)
			}
		}
		return keeper(ctx, st, out)
	})
}

// keeper adds an account that keeps the others where there is none.
func keeper(ctx context.Context, st app.Transactor, out io.Writer) error {
	k := people.Account{Login: "keeper", Name: "Keeper", Password: people.NewPassword(), Role: people.Admin}
	return st.Do(ctx, func(tx app.Tx) error {
		there, err := tx.People(ctx)
		if err != nil || len(there) > 0 {
			return err
		}
		// Told before it is kept: a kill in between leaves no account without a password.
		fmt.Fprintf(out, "Sign in as %q with the password %q and change it.\n", k.Login, k.Password)
		return (&app.Accounts{Store: tx, Cost: bcrypt.DefaultCost}).SignUp(ctx, []people.Account{k})
	})
}
