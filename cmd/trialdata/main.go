// Command trialdata writes the trials of the demo world: made on pretended
// units, with a stated cause and stated noise.
//
//	go run ./cmd/trialdata demo/trials.json
package main

import (
	"context"
	"fmt"
	"os"

	"coldtap/internal/pretend/demotrials"
)

func main() {
	if len(os.Args) != 2 {
		fmt.Fprintln(os.Stderr, "usage: trialdata FILE")
		os.Exit(2)
	}
	raw, err := demotrials.Make(context.Background())
	if err == nil {
		err = os.WriteFile(os.Args[1], raw, 0o644)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}
