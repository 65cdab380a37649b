// Package demotrials makes the trials of the demo world: each on a pretended
// unit, with a cause that is stated, and noise.
package demotrials

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"time"

	"coldtap/demo"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/run"
	"coldtap/internal/core/setting"
	"coldtap/internal/pretend"
	"coldtap/internal/pretend/script"
)

// made is a trial that is to be made.
type made struct {
	demo.Trial
	truth pretend.Truth
	skip  func(pretend.Seen) bool
}

func list() []made {
	on := func(text string) time.Time {
		t, err := time.Parse(time.RFC3339, text)
		if err != nil {
			panic(err) // it stands in this file
		}
		return t
	}
	jugs := func(s pretend.Seen) bool { return s.Kind != "jug" && s.Kind != "level" }
	return []made{
		{demo.Trial{Model: "gneiss-24-2027", Serial: "G24-2700123", Task: "winterize-air-then", By: "pia", Helper: true,
			Place: "workshop yard, Highpass", Weather: "dry, 4 °C, no wind", Begun: on("2026-10-06T09:10:00Z"), Cause: "none",
			Notes: []demo.Remark{{Do: "note", Text: "Blue handle of the hot low point is hard to reach with gloves."}}},
			pretend.Truth{}, jugs},
		{demo.Trial{Model: "gneiss-24-2027", Serial: "G24-2700131", Task: "sanitize", By: "sam", Place: "Lakeside, bay 2",
			Weather: "inside, 18 °C", Begun: on("2026-09-14T08:30:00Z"), Cause: "none"},
			pretend.Truth{}, func(s pretend.Seen) bool { return s.Kind == "caught" || strings.HasPrefix(s.Key, "pump-out") }},
		{demo.Trial{Model: "gneiss-24-2027", Serial: "G24-2700140", Task: "winterize-air-then", By: "pia", Helper: true,
			Place: "workshop yard, Highpass", Weather: "snow, −3 °C", Begun: on("2026-11-12T13:05:00Z"),
			Cause: "hot line to the outside shower is 8 m longer than listed",
			Notes: []demo.Remark{{Do: "instead", At: "blow@outside-shower.hot",
				Text: "The shower hose was frozen to its holder: blew through with the head taken off, hose left coiled."}}},
			pretend.Truth{Longer: map[string]float64{"h-outside": 8}}, jugs},
	}
}

// Make makes them, the same every time.
func Make(ctx context.Context) ([]byte, error) {
	rng := rand.New(rand.NewPCG(24, 2027))
	var all []demo.Trial
	for _, m := range list() {
		t, err := m.make(ctx, rng)
		if err != nil {
			return nil, fmt.Errorf("%s on %s: %w", m.Task, m.Serial, err)
		}
		all = append(all, *t)
	}
	raw, err := json.MarshalIndent(all, "", " ")
	return append(raw, '\n'), err
}

func (m *made) make(ctx context.Context, rng *rand.Rand) (*demo.Trial, error) {
	doc, err := demo.Model(m.Model)
	if err != nil {
		return nil, err
	}
	b, err := doc.Build(doc.StandardOptions()...)
	if err != nil {
		return nil, err
	}
	n, err := plumbing.NewNetwork(b)
	if err != nil {
		return nil, err
	}
	rules := house.Usual(doc.System())
	plan, err := setting.Plan(ctx, n)
	if err != nil {
		return nil, err
	}
	d := draft.NewMaker(draft.Inputs{Net: n, Plan: plan, House: rules}).Make(ctx, m.Task)
	if d.Procedure == nil {
		return nil, fmt.Errorf("there is no such procedure")
	}
	h := pretend.House{RunOut: float64(house.RunOut.Of(rules)), Alone: house.Alone.Of(rules), Start: 1,
		Hose: float64(n.PartsOf(plumbing.RoleFill)[0].Data.Flow.Value())}
	for _, f := range house.Fields(rules) {
		h.Fields = append(h.Fields, float64(f))
	}
	jobs := script.Of(n, d.Procedure)
	t := m.Trial
	t.Noise = "jug marks ± 0.1 gal, stop-watch ± 3 s, gauge ± 5 %, strips by their fields"
	at := minutes(d.Procedure, jobs)
	for _, j := range jobs {
		t.Entries = append(t.Entries, demo.Entry{Step: j.Key, Kind: "done", Minute: at[j.Key]})
	}
	for _, s := range pretend.Usual.Blur(rng, pretend.Do(n, m.truth, h, jobs)) {
		if !m.skip(s) {
			t.Entries = append(t.Entries, demo.Entry{Step: s.Key, Kind: s.Kind, Of: s.Of,
				Value:  math.Round(s.Value*1000) / 1000,
				Minute: at[s.Key]})
		}
	}
	return &t, nil
}

// minutes is when each step was done: a few minutes each, and long for what waits.
func minutes(p *proof.Procedure, jobs []pretend.Job) map[string]float64 {
	at, now := map[string]float64{}, 0.0
	for i, j := range jobs {
		now += 1.5 + waits(&p.Steps[i])
		at[j.Key] = math.Round(now*10) / 10
	}
	return at
}

// waits is how many minutes a step waits by itself.
func waits(s *proof.Step) float64 {
	if s.Until.Sense == run.Passed {
		return float64(s.Until.For) / 60
	}
	return 0
}
