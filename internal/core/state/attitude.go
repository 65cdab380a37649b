package state

import "math"

// Attitude is how a parked camper stands, in degrees; the zero value is level.
type Attitude struct {
	NoseUp float64 // the front above the rear; negative for nose down
	LeftUp float64 // the left side above the right; negative for right up
}

// OffLevel is how far off level a camper is taken to stand, in degrees.
const OffLevel = 2

// Attitudes lists the ways of standing that draining is worked out for, level
// first.
func Attitudes() []Attitude {
	return []Attitude{{}, {NoseUp: OffLevel}, {NoseUp: -OffLevel}, {LeftUp: OffLevel}, {LeftUp: -OffLevel}}
}

// Rise is how much higher than on level ground a place stands that lies so far
// from the front and from the left side, in metres. Only differences count.
func (a Attitude) Rise(front, left float64) float64 {
	return -front*math.Tan(a.NoseUp*math.Pi/180) - left*math.Tan(a.LeftUp*math.Pi/180)
}
