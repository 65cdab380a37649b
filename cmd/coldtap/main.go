// Command coldtap serves Cold Tap and works on model files.
package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"
)

const usage = `Cold Tap computes model-specific water system guides for campers.

  coldtap serve [--demo] [--addr HOST:PORT] [--data DIR] [--dsn DSN]
  coldtap check MODEL.json [--json]
  coldtap schema
  coldtap guide MODEL.json [-o FILE]

Run a command with --help for its settings.
`

// exit carries the exit code of an error.
type exit struct {
	code int
	err  error
}

func (e exit) Error() string { return e.err.Error() }

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	err := run(ctx, os.Args[1:], os.Stdout)
	if err == nil {
		return
	}
	if err.Error() != "" {
		fmt.Fprintln(os.Stderr, "coldtap:", err)
	}
	var e exit
	if errors.As(err, &e) {
		os.Exit(e.code)
	}
	os.Exit(1)
}

func run(ctx context.Context, args []string, out io.Writer) error {
	if len(args) == 0 {
		fmt.Fprint(out, usage)
		return nil
	}
	switch args[0] {
	case "serve":
		return serve(ctx, args[1:], out)
	case "check":
		return check(ctx, args[1:], out)
	case "schema":
		return schema(out)
	case "guide":
		return writeGuide(ctx, args[1:], out)
	case "help", "-h", "--help":
		fmt.Fprint(out, usage)
		return nil
	}
	return exit{2, fmt.Errorf("there is no command %q; run coldtap --help", args[0])}
}
