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

	"github.com/spf13/cobra"
)

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
	os.Exit(2) // what was asked can't be understood
}

func run(ctx context.Context, args []string, out io.Writer) error {
	root := &cobra.Command{
		Use:           "coldtap",
		Short:         "Cold Tap computes model-specific water system guides for campers",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(serveCommand(), exportCommand(), importCommand(), passwordCommand(), checkCommand(), schemaCommand(),
		guideCommand())
	root.SetArgs(args)
	root.SetOut(out)
	return root.ExecuteContext(ctx)
}
