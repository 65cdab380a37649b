// Command benchtable turns the output of go test -bench on its standard input
// into docs/benchmarks.md: what was measured beside the figure to reach.
package main

import (
	"bufio"
	"fmt"
	"io"
	"maps"
	"os"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"
)

// figure is one to reach, by benchmark and unit.
type figure struct{ name, unit, what, atMost string }

// wanted are the figures in the order they are shown.
var wanted = []figure{
	{"FindLargestDemoModel", "ns/op", "one mode's setting, largest demo model", "≤ 0.5 ms"},
	{"TryingAllLargestDemoModel", "ns/op", "the same by trying all", ""},
	{"Find24TwoWayValves", "ns/op", "one mode's setting, 24 two-way valves, made-up", "≤ 5 ms"},
	{"Find24HandlesTwoPumps", "ns/op", "one mode's setting, 24 handles, two pumps, made-up", "≤ 5 ms"},
	{"Sequence24Handles", "ns/op", "a sequence of settings, 24 handles, made-up", "≤ 50 ms"},
	{"PlanLargestDemoModel", "ns/op", "all modes with proofs, largest demo model", ""},
	{"PlanAfterALength", "ns/op", "the same after a changed length", ""},
	{"SteadyFlow200Lines", "ns/op", "steady flow, 200 lines with loops, most of them shut", ""},
	{"SteadyFlow/ladder_of_200_lines", "ns/op", "steady flow, all outlets open, ladder of 200 lines", "≤ 1.2 ms"},
	{"SteadyFlow/grid_of_200_lines", "ns/op", "grid of 200 lines", "≤ 1.2 ms"},
	{"SteadyFlow/ladder_of_1000_lines", "ns/op", "ladder of 1 000 lines", "≤ 12 ms"},
	{"SteadyFlow/grid_of_1000_lines", "ns/op", "grid of 1 000 lines", "≤ 12 ms"},
	{"SteadyFlow/ladder_of_3000_lines", "ns/op", "ladder of 3 000 lines", "≤ 40 ms"},
	{"SteadyFlow/grid_of_3000_lines", "ns/op", "grid of 3 000 lines", "≤ 40 ms"},
	{"DrainLargestDemoModel", "ns/op", "what stays after draining, largest demo model", ""},
	{"OneThingWrongLargestDemoModel", "ns/op", "one thing wrong, every mode, largest demo model", ""},
	{"OneThingWrongGrows/332-lines", "ns/op", "the same, 332 lines with 69 handles", ""},
	{"Proofs/winterize-pump/prove", "ns/op", "winterizing by the pump carried out and judged, largest demo model", "≤ 10 ms"},
	{"EverythingForOneModel", "ns/op", "findings, modes, one thing wrong, amounts, all procedures proved, one model", "≤ 300 ms"},
	{"TurnedHandle", "p95-ms", "a handle turned, answer with new drawing, at the server, p95", "≤ 50 ms"},
	{"EditBy20", "p95-ms", "a changed length, 20 people who think for 5 s, at the server, p95", "≤ 50 ms"},
	{"ListOf500", "p95-ms", "list of 500 models, warm, p95", "≤ 100 ms"},
	{"ListOf500", "restarted-ms", "the same by a server that was just started", "≤ 300 ms"},
	{"ListOf500", "first-s", "what it shows worked out for the first time", ""},
	{"Felt/handle", "p95-ms", "a handle turned, as felt in the browser, largest demo model, p95", "≤ 100 ms"},
	{"Felt/inspector", "p95-ms", "a field of the inspector, as felt, p95", "≤ 100 ms"},
	{"Felt/cell", "p95-ms", "a cell of the grid, as felt, p95", "≤ 100 ms"},
	{"Felt/undo", "p95-ms", "undo, as felt, p95", "≤ 100 ms"},
	{"Felt/figure", "p95-ms", "a figure of the guide set by hand, as felt, p95", "≤ 100 ms"},
	{"OpenGuide/changed", "p95-ms", "a guide opened after a change of its model, p95", "≤ 150 ms"},
	{"OpenGuide/whole", "p95-ms", "a guide opened with its procedures, p95", "≤ 150 ms"},
	{"GuidesAfterARule/anode", "list-ms",
		"what 500 published guides (932 builds, models of seven kinds) say that no longer holds, after a rule of the calendar", "≤ 60 s"},
	{"GuidesAfterARule/target", "list-ms", "the same after a rule on which three procedures of each build stand", "≤ 60 s"},
	{"ChapterPDF", "ms/op", "PDF of the dealer's chapter of the largest demo model", "≤ 10 s"},
	{"Units/log", "p95-ms", "log of a unit, of 10 000 units with 20 entries each, p95", "≤ 100 ms"},
	{"Units/due", "p95-ms", "what is due on them, p95", "≤ 100 ms"},
	{"PageFor50Users", "p95-ms", "any page, 50 users, p95", "≤ 100 ms"},
}

func main() {
	got, cpu := read(os.Stdin)
	if err := write(os.Stdout, got, cpu); err != nil {
		fmt.Fprintln(os.Stderr, "benchtable:", err)
		os.Exit(1)
	}
}

// read takes the figures of each benchmark by unit.
func read(in io.Reader) (got map[string]map[string]float64, cpu string) {
	got = map[string]map[string]float64{}
	lines := bufio.NewScanner(in)
	for lines.Scan() {
		if rest, ok := strings.CutPrefix(lines.Text(), "cpu: "); ok {
			cpu = rest
		}
		f := strings.Fields(lines.Text())
		if len(f) < 4 || !strings.HasPrefix(f[0], "Benchmark") {
			continue
		}
		name := strings.TrimPrefix(f[0], "Benchmark")
		if i := strings.LastIndex(name, "-"); i > 0 {
			name = name[:i] // the number of processors
		}
		units := map[string]float64{}
		for i := 2; i+1 < len(f); i += 2 {
			if v, err := strconv.ParseFloat(f[i], 64); err == nil {
				units[f[i+1]] = v
			}
		}
		got[name] = units
	}
	return got, cpu
}

func write(out io.Writer, got map[string]map[string]float64, cpu string) error {
	_, err := fmt.Fprintf(out,
		"# Benchmarks\n\nMeasured on %s with %s, %d cores of %s. `make bench` measures anew.\n\n| what | measured | to reach |\n|---|---|---|\n",
		time.Now().Format("2 January 2006"), runtime.Version(), runtime.NumCPU(), cpu)
	list := wanted
	for _, name := range slices.Sorted(maps.Keys(got)) {
		if family, ok := strings.CutPrefix(name, "HardFamilies/"); ok {
			what := "all modes with proofs, 28 handles: " + strings.ReplaceAll(family, "_", " ")
			list = append(list, figure{name, "ns/op", what, "≤ 50 ms"})
		}
	}
	for _, w := range list {
		units, ok := got[w.name]
		if !ok {
			continue
		}
		v := units[w.unit]
		switch {
		case w.unit == "ns/op":
			v /= 1e6
		case strings.HasSuffix(w.unit, "-s"):
			v *= 1000
		}
		fmt.Fprintf(out, "| %s | %.3g ms | %s |\n", w.what, v, w.atMost)
	}
	if a, b := got["TryingAllLargestDemoModel"]["ns/op"], got["FindLargestDemoModel"]["ns/op"]; b > 0 {
		fmt.Fprintf(out, "\nThe search is %.0f times as fast as trying all settings of the largest demo model.\n", a/b)
	}
	return err
}
