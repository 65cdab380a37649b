// Command mutate makes deliberate faults in the core and in what publishes or lets people in, one at a time, runs the
// tests that reach each, and writes down which went unnoticed.
//
//	mutate --seed 7 --count 200 --grave 400
//
// It can be stopped, tells what came of it so far, and goes on when it is started again: what was tried is kept in the
// state file, for as long as the function that it was tried on is the same.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"os"
	"os/signal"

	"coldtap/internal/mutate"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	if err := run(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "mutate:", err)
		os.Exit(1)
	}
}

// options are what the flags say.
type options struct {
	seed         uint64
	count, grave int
	dir, state   string // where binaries and what tests reach are kept, and what was tried
	report       string
	equal, named string
	only         string
	again, stale bool
	tell         bool
	workers      int
}

func flags() (o options) {
	flag.Uint64Var(&o.seed, "seed", 1, "decides which faults are tried")
	flag.IntVar(&o.count, "count", 200, "how many are tried of all")
	flag.IntVar(&o.grave, "grave", 400, "how many are tried of what can hurt")
	flag.StringVar(&o.dir, "dir", "var/mutate", "where what is worked with is kept")
	flag.StringVar(&o.state, "state", "docs/mutation-tried.jsonl", "where what was tried is kept")
	flag.BoolVar(&o.stale, "stale", false, "take what tests reach as it was, though sources have changed since")
	flag.StringVar(&o.report, "report", "docs/mutation.md", "where the report goes")
	flag.StringVar(&o.equal, "equal", "docs/mutation-equal.txt",
		"faults argued to change nothing: an id and the reason on each line")
	flag.StringVar(&o.named, "named", "docs/mutation-named.txt",
		"faults that are always tried: file, what it was and what it becomes")
	flag.StringVar(&o.only, "only", "", "only files whose path contains this")
	flag.BoolVar(&o.again, "again", false, "try those again that went unnoticed")
	flag.BoolVar(&o.tell, "tell", false, "try none, tell what came of those that were tried")
	flag.IntVar(&o.workers, "workers", 2, "how many are tried at once")
	flag.Parse()
	return o
}

func run(ctx context.Context) error {
	o := flags()
	if err := os.MkdirAll(o.dir, 0o755); err != nil {
		return err
	}
	files, err := sources(o.only)
	if err != nil {
		return err
	}
	drawn, err := draw(o, files)
	if err != nil {
		return err
	}
	done, err := readOutcomes(o.state)
	if err != nil {
		return err
	}
	var left []*mutate.Mutant
	for i := range drawn.list {
		m := &drawn.list[i]
		if was, ok := done[m.ID]; !ok || o.again && !was.Caught && was.Void == "" {
			left = append(left, m)
		}
	}
	slog.Info("faults", "possible", drawn.possible, "drawn", len(drawn.list), "to try", len(left))
	if len(left) > 0 && !o.tell {
		w := &works{options: o, files: files}
		if err := w.try(ctx, left); err != nil && !errors.Is(err, context.Canceled) {
			return err // who stops it hears what came of the rest
		}
	}
	if done, err = readOutcomes(o.state); err != nil {
		return err
	}
	reasons, err := argued(o.equal)
	if err != nil {
		return err
	}
	return write(o, drawn, done, reasons)
}
