// Package on tells which of the faults that are built into a program is made while it runs. It is used by sources
// that cmd/mutate writes, and by nothing else.
package on

import (
	"os"
	"strconv"
)

// Env names the environment variable that holds the number of the fault.
const Env = "COLDTAP_MUTANT"

var number = func() int {
	n, err := strconv.Atoi(os.Getenv(Env))
	if err != nil {
		return -1
	}
	return n
}()

// This reports whether a fault is the one that is made.
func This(n int) bool { return n == number }

// Pick gives a value with a fault where that is the one that is made, and else the right one.
func Pick[T any](n int, fault, right T) T {
	if This(n) {
		return fault
	}
	return right
}
