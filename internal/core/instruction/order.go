package instruction

import (
	"cmp"
	"fmt"
	"iter"
	"maps"
	"slices"

	"coldtap/internal/core/run"
)

// inOrder goes through a map by its keys, so that sums come out the same to the last bit.
func inOrder[K cmp.Ordered, V any](m map[K]V) iter.Seq2[K, V] {
	return func(yield func(K, V) bool) {
		for _, k := range slices.Sorted(maps.Keys(m)) {
			if !yield(k, m[k]) {
				return
			}
		}
	}
}

// sinks goes through what ran out, by where it ran to.
func sinks[V any](m map[run.Sink]V) iter.Seq2[run.Sink, V] {
	return func(yield func(run.Sink, V) bool) {
		keys := slices.SortedFunc(maps.Keys(m), func(a, b run.Sink) int {
			return cmp.Compare(fmt.Sprint(a), fmt.Sprint(b))
		})
		for _, k := range keys {
			if !yield(k, m[k]) {
				return
			}
		}
	}
}
