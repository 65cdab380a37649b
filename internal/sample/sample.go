// Package sample lets tests that would try everything try a part of it, chosen by a seed that is told where one fails.
// What a sample is taken from is what the long run tries whole: where that is green, every sample is.
package sample

import (
	"hash/fnv"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"sync"
	"testing"
	"time"
)

// What the environment says of it.
const (
	SeedEnv = "COLDTAP_SEED" // a number; without it each run has another
	LongEnv = "COLDTAP_LONG" // anything: everything is tried
)

// Whole reports whether everything is tried.
func Whole() bool { return os.Getenv(LongEnv) != "" }

// Seed is that of this run.
var Seed = sync.OnceValue(func() uint64 {
	seed, err := strconv.ParseUint(os.Getenv(SeedEnv), 10, 64)
	if err != nil {
		return uint64(time.Now().UnixNano()) % 1_000_000
	}
	return seed
})

// Rand gives the random numbers of a test: the same for a seed and a name, whatever other tests ask for.
func Rand(t testing.TB) *rand.Rand {
	t.Helper()
	t.Cleanup(func() {
		if t.Failed() {
			t.Logf("again with %s=%d", SeedEnv, Seed())
		}
	})
	h := fnv.New64a()
	h.Write([]byte(t.Name()))
	return rand.New(rand.NewPCG(Seed(), h.Sum64()))
}

// Of is so many of a list, in their order; all of them in the long run.
func Of[T any](t testing.TB, most int, list []T) []T {
	t.Helper()
	if Whole() || len(list) <= most {
		return list
	}
	at := Rand(t).Perm(len(list))[:most]
	slices.Sort(at)
	some := make([]T, most)
	for i, k := range at {
		some[i] = list[k]
	}
	return some
}

// Seeds is so many of the numbers from 0 to below all, in their order; all of them in the long run.
func Seeds(t testing.TB, most, all int) []uint64 {
	t.Helper()
	list := make([]uint64, all)
	for i := range list {
		list[i] = uint64(i)
	}
	return Of(t, most, list)
}
