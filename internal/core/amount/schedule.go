package amount

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
)

// Stage is a stretch of a procedure's time.
type Stage struct {
	Name     fact.Fact
	Lasts    quantity.Second
	Attended bool      // somebody has to be there
	Unknown  fact.Fact // what is missing to know how long it lasts; then Lasts is at least
}

// Timed is a stage with its clock times.
type Timed struct {
	Stage
	From, To time.Time
}

// Schedule is the stages of a procedure on the clock.
type Schedule struct {
	Stages []Timed
	Start  time.Time
	Ready  time.Time
}

// Forwards sets stages on the clock from a start.
func Forwards(stages []Stage, start time.Time) Schedule {
	s := Schedule{Start: start, Ready: start}
	for _, st := range stages {
		end := s.Ready.Add(time.Duration(float64(st.Lasts) * float64(time.Second)).Round(time.Minute))
		s.Stages = append(s.Stages, Timed{st, s.Ready, end})
		s.Ready = end
	}
	return s
}

// Backwards sets stages on the clock so that all is ready at a time.
func Backwards(stages []Stage, ready time.Time) Schedule {
	var whole time.Duration
	for _, st := range stages {
		whole += time.Duration(float64(st.Lasts) * float64(time.Second)).Round(time.Minute)
	}
	return Forwards(stages, ready.Add(-whole))
}

// Attended and Whole sum the stages up.
func (s Schedule) Attended() (d time.Duration) {
	for _, st := range s.Stages {
		if st.Attended {
			d += st.To.Sub(st.From)
		}
	}
	return d
}

// Whole is the time from start to ready.
func (s Schedule) Whole() time.Duration { return s.Ready.Sub(s.Start) }

// Unknown is what is missing to know how long it takes; nothing if all is known.
func (s Schedule) Unknown() fact.Fact {
	for _, st := range s.Stages {
		if !st.Unknown.IsZero() {
			return st.Unknown
		}
	}
	return fact.Fact{}
}

// Said is how long it takes, and how much of it somebody is there.
func (s Schedule) Said() fact.Fact {
	lasts := fact.Of("schedule.lasts", s.Whole(), s.Attended())
	if u := s.Unknown(); !u.IsZero() {
		return fact.Of("schedule.at-least", lasts, u)
	}
	return lasts
}

// Clock reads a time of day, "18:30" or "6:30 pm", on a day.
func Clock(text string, day time.Time) (time.Time, error) {
	t := strings.ToLower(strings.TrimSpace(text))
	noon := 0
	if rest, ok := strings.CutSuffix(t, "pm"); ok {
		t, noon = strings.TrimSpace(rest), 12
	} else if rest, ok := strings.CutSuffix(t, "am"); ok {
		t, noon = strings.TrimSpace(rest), -12
	}
	hours, minutes, _ := strings.Cut(strings.ReplaceAll(t, ".", ":"), ":")
	h, err := strconv.Atoi(hours)
	m := 0
	if err == nil && minutes != "" {
		m, err = strconv.Atoi(minutes)
	}
	if noon > 0 && h < 12 || noon < 0 && h == 12 {
		h += noon
	}
	if err != nil || h < 0 || h > 23 || m < 0 || m > 59 {
		return time.Time{}, fmt.Errorf("%q is not a time of day; write 18:30 or 6:30 pm", text)
	}
	return time.Date(day.Year(), day.Month(), day.Day(), h, m, 0, 0, day.Location()), nil
}

// SanitizeStages are the stretches of sanitizing a model: dosing and filling,
// running the outlets, soaking, and then those of flushing.
func SanitizeStages(n *plumbing.Network, times []Figure, outlets, soak quantity.Second, flush *FlushWay) []Stage {
	list := []Stage{
		{Name: fact.Of("stage.begin"), Lasts: 900, Attended: true},
		{Name: fact.Of("stage.fill"), Lasts: TimeOf(n, times, "fill-"), Attended: true,
			Unknown: UnknownOf(times, "fill-")},
		{Name: fact.Of("stage.outlets"), Lasts: outlets, Attended: true},
		{Name: fact.Of("stage.soak"), Lasts: soak},
	}
	flush.chosen.Of(n)
	flush.time.Of(n) // all its stages
	list = append(list, flush.Stages...)
	return append(list, Stage{Name: fact.Of("stage.end"), Lasts: TimeOf(n, times, "heater-fill-") + 300,
		Attended: true})
}
