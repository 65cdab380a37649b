// Command testtold tells what `go test -json` says: the output of what failed, a line for each package, the ten tests
// that took longest, and how the run ended. It exits with 1 where something failed or the run broke off.
//
//	go test -json ./... | testtold
package main

import (
	"bufio"
	"cmp"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"os"
	"slices"
	"strings"
)

func main() {
	good, err := tell(os.Stdin, os.Stdout)
	if err != nil {
		fmt.Fprintln(os.Stderr, "testtold:", err)
	}
	if err != nil || !good {
		os.Exit(1)
	}
}

// event is a line of go test -json.
type event struct {
	Action, Package, Test, Output string
	ImportPath                    string // of what is built
	Elapsed                       float64
}

// slowest is how many tests are named.
const slowest = 10

// took is how long a test took, in seconds.
type took struct {
	name    string
	seconds float64
}

// tell reads events and tells of them; false where something failed.
func tell(from io.Reader, to io.Writer) (good bool, err error) {
	good = true
	lines := bufio.NewScanner(from)
	lines.Buffer(nil, 16<<20)
	said := map[string]*strings.Builder{} // by package and test, until it is known how that ended
	open := map[string]bool{}             // packages that have begun and not ended
	var all []took
	last := "" // the line of a package, told after the slowest tests if it is the last
	for lines.Scan() {
		var e event
		if json.Unmarshal(lines.Bytes(), &e) != nil {
			fmt.Fprintln(to, lines.Text())
			continue
		}
		of := e.Package + " " + e.Test
		switch e.Action {
		case "build-output":
			fmt.Fprint(to, e.Output)
		case "build-fail":
			good = false
		case "start":
			open[e.Package] = true
		case "output":
			if said[of] == nil {
				said[of] = new(strings.Builder)
			}
			said[of].WriteString(e.Output)
		case "pass", "fail", "skip":
			if e.Action == "fail" {
				good = false
			}
			if e.Test != "" {
				if e.Action != "fail" {
					delete(said, of) // of what failed the output is told with the package
				}
				if !strings.Contains(e.Test, "/") {
					all = append(all, took{strings.TrimPrefix(e.Package, "coldtap/") + " " + e.Test, e.Elapsed})
				}
				continue
			}
			delete(open, e.Package)
			if line := ended(to, e, said); line != "" { // else it has no tests
				fmt.Fprint(to, last)
				last = line
			}
		}
	}
	if err := lines.Err(); err != nil {
		return false, err
	}
	slices.SortStableFunc(all, func(a, b took) int { return cmp.Compare(b.seconds, a.seconds) })
	fmt.Fprintf(to, "\nThe %d slowest of %d tests:\n", min(slowest, len(all)), len(all))
	for _, x := range all[:min(slowest, len(all))] {
		fmt.Fprintf(to, "%7.1f s  %s\n", x.seconds, x.name)
	}
	fmt.Fprint(to, "\n", last)
	for _, p := range slices.Sorted(maps.Keys(open)) {
		good = false
		fmt.Fprintf(to, "FAIL\t%s\tbroke off\n%s", p, said[p+" "])
	}
	if last == "" {
		good = false
	}
	if !good {
		fmt.Fprintln(to, "FAIL")
	}
	return good, nil
}

// ended tells what failed in a package, and gives its line.
func ended(to io.Writer, e event, said map[string]*strings.Builder) string {
	own := said[e.Package+" "]
	delete(said, e.Package+" ")
	for _, of := range slices.Sorted(maps.Keys(said)) {
		if strings.HasPrefix(of, e.Package+" ") {
			if e.Action == "fail" {
				fmt.Fprint(to, said[of])
			}
			delete(said, of)
		}
	}
	line := ""
	if own != nil {
		for l := range strings.Lines(own.String()) {
			if strings.HasPrefix(l, "ok ") || strings.HasPrefix(l, "FAIL\t") || strings.HasPrefix(l, "?") {
				line = l
			} else if e.Action == "fail" && l != "FAIL\n" {
				fmt.Fprint(to, l)
			}
		}
	}
	if line == "" && e.Action == "fail" {
		line = fmt.Sprintf("FAIL\t%s\t%.3fs\n", e.Package, e.Elapsed)
	}
	if strings.HasPrefix(line, "?") { // it has no tests
		return ""
	}
	return line
}
