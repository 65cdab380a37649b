// Command sample is what faults are built into by the tests.
package main

import "fmt"

const step = 2

var table = []func(int) int{
	func(n int) int { return n + 1 },
	func(n int) int { return n * step },
}

var most float64 = 12

func clamp(v float64) (out float64) {
	if v > most {
		return most
	}
	out = v
	return
}

type sum struct{ total int }

func (s *sum) add(list ...int) {
	for _, n := range list {
		s.total += n
	}
	// a comment at the end
}

func firstOver(list []int, limit int) (at int, ok bool) {
outer:
	for i, n := range list {
		switch {
		case n > limit:
			at, ok = i, true
			break outer
		}
	}
	return at, ok
}

func main() {
	s := &sum{}
	for _, f := range table {
		s.add(f(3), f(4))
	}
	at, ok := firstOver([]int{1, 5, 9}, 4)
	fmt.Println(s.total, clamp(20), clamp(7), at, ok)
}
