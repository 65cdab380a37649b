// Command load lets made-up people work on a server of its own on loopback, for
// a bounded time, and tells how long each waited: editors who change lengths,
// readers who read guides and look at lists. It ends with 1 where somebody got
// an error or waited longer than may be.
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"os/signal"
	"runtime"
	"time"
)

// plan is how many people work, how, and for how long.
type plan struct {
	editors, readers int
	think, lasts     time.Duration
	server           string // the program that serves
	metrics          string // address for its metrics; "" for none
	technicians      int    // that answer questions, and nobody does anything else; 0 for none
}

// most is how long the program runs at most, whatever was asked for.
const most = 10 * time.Minute

func main() {
	var p plan
	flag.IntVar(&p.editors, "editors", 50, "people who change models")
	flag.IntVar(&p.readers, "readers", 500, "people who read")
	flag.DurationVar(&p.think, "think", 5*time.Second, "between two requests of one of them, on average")
	flag.DurationVar(&p.lasts, "for", 3*time.Minute, "how long they work")
	flag.StringVar(&p.server, "server", "bin/coldtap", "the program that serves")
	flag.StringVar(&p.metrics, "metrics", "", "address on which the server tells how it works")
	flag.IntVar(&p.technicians, "technicians", 0, "people who answer questions at once, in the place of all others")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	ctx, cancel := context.WithTimeout(ctx, most)
	defer cancel()
	work := p.run
	if p.technicians > 0 {
		work = p.drill
	}
	ok, err := work(ctx)
	if err != nil {
		fmt.Fprintln(os.Stderr, "load:", err)
		os.Exit(2)
	}
	if !ok {
		os.Exit(1)
	}
}

func (p *plan) run(ctx context.Context) (ok bool, err error) {
	s, err := serve(ctx, p.server, p.metrics)
	if err != nil {
		return false, err
	}
	defer s.stop()
	crowd, err := admit(ctx, s.url, p.editors, p.readers)
	if err != nil {
		return false, fmt.Errorf("sign people in: %w", err)
	}
	if err := crowd.open(ctx, s.url); err != nil {
		return false, err
	}
	if err := crowd.try(ctx); err != nil {
		return false, err
	}
	ours, theirs, size, err := usual.run(ctx, s.url)
	if err != nil {
		return false, err
	}
	t := newTally()
	work, done := context.WithTimeout(ctx, p.lasts)
	defer done()
	began, before := time.Now(), processors()
	crowd.work(work, p.think, t)
	stolen := processors().stolenSince(before)
	fmt.Printf("# Load\n\n%d editors and %d readers on the demo world, %v between two requests of one, %v, on %s with "+
		"%d processors, server and people on the same machine. `make load` measures anew.\n\n", p.editors, p.readers,
		p.think, time.Since(began).Round(time.Second), runtime.Version(), runtime.NumCPU())
	ok = t.report(os.Stdout, time.Since(began))
	fmt.Printf("\nA published chapter of %d bytes, %d clients that ask as fast as they are answered, in turns of %v in the same run: "+
		"%.0f requests a second, nginx with the same bytes %.0f: %.2f times as many (to reach: 0.5).\n", size, usual.Clients,
		usual.Turn, ours, theirs, ours/theirs)
	ok = ok && ours >= theirs/2
	fmt.Printf("\nThe machine's host took %.0f %% of the processors' time for others meanwhile.\n", stolen)
	return ok, nil
}
