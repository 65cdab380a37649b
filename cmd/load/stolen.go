package main

import (
	"os"
	"strconv"
	"strings"
)

// ticks is how long the processors worked, in all and for others on the same host.
type ticks struct{ all, stolen float64 }

// processors reads /proc/stat, see proc(5); zero where there is none.
func processors() (t ticks) {
	b, err := os.ReadFile("/proc/stat")
	if err != nil {
		return t
	}
	line, _, _ := strings.Cut(string(b), "\n")
	for i, field := range strings.Fields(line) {
		n, err := strconv.ParseFloat(field, 64)
		if err != nil || i > stealField {
			continue
		}
		if t.all += n; i == stealField {
			t.stolen = n
		}
	}
	return t
}

// stealField is where the line has the time that the host gave to others.
const stealField = 8

// stolenSince is that share of the time since then, in percent.
func (t ticks) stolenSince(before ticks) float64 {
	return 100 * (t.stolen - before.stolen) / max(1, t.all-before.all)
}
