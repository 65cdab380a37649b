// Package pool puts what several trials measured together: how far the
// measured lies beside the computed, how much that varies, and what nobody has
// tried yet.
package pool

import (
	"cmp"
	"math"
	"slices"
	"time"
)

// Point is what one trial measured of something, beside what is computed for it.
type Point struct {
	Probe    string
	Computed float64
	Measured float64
	On       time.Time
	Trial    string // its code
}

// Pooled is what is known of one thing that can be measured.
type Pooled struct {
	Probe    string
	Computed float64 // in the newest trial
	Mean     float64 // of the measured
	Spread   float64 // their standard deviation; 0 where there is but one
	Ratio    float64 // measured by computed, in the mean; 0 where nothing is computed
	Count    int     // trials
	Last     time.Time
}

// Of pools points by what they are of, in the order in which the probes are
// given; those of which there is no point have a count of 0.
func Of(probes []string, points []Point) (list []Pooled) {
	by := map[string][]Point{}
	for _, p := range points {
		by[p.Probe] = append(by[p.Probe], p)
	}
	for _, id := range probes {
		x := Pooled{Probe: id, Count: len(by[id])}
		of := by[id]
		slices.SortStableFunc(of, func(a, b Point) int { return cmp.Or(a.On.Compare(b.On), cmp.Compare(a.Trial, b.Trial)) })
		ratios := 0
		for _, p := range of {
			x.Mean += p.Measured / float64(len(of))
			if p.Computed > 0 {
				x.Ratio += p.Measured / p.Computed
				ratios++
			}
			x.Computed, x.Last = p.Computed, p.On
		}
		if ratios > 0 {
			x.Ratio /= float64(ratios)
		}
		if len(of) > 1 {
			sum := 0.0
			for _, p := range of {
				sum += (p.Measured - x.Mean) * (p.Measured - x.Mean)
			}
			x.Spread = math.Sqrt(sum / float64(len(of)-1))
		}
		list = append(list, x)
	}
	return list
}
