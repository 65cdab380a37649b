package demo

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"time"
)

//go:embed trials.json
var trials []byte

// Trial is a trial of the demo world, made on a pretended unit.
type Trial struct {
	Model   string    `json:"model"`
	Serial  string    `json:"serial"`
	Task    string    `json:"procedure"`
	By      string    `json:"by"` // who signs in
	Place   string    `json:"place"`
	Weather string    `json:"weather"`
	Begun   time.Time `json:"begun"`
	Helper  bool      `json:"helper"`
	Cause   string    `json:"cause"` // what is otherwise on the unit, as it was made
	Noise   string    `json:"noise"` // how far what was written down may lie beside the truth
	Notes   []Remark  `json:"notes,omitempty"`
	Entries []Entry   `json:"entries"`
}

// Remark is something in words; At is the step, "" for the first.
type Remark struct {
	Do   string `json:"do"`
	At   string `json:"at,omitempty"`
	Text string `json:"text"`
}

// Entry is a tick or a measurement, so many minutes after the beginning.
type Entry struct {
	Step   string  `json:"step"`
	Kind   string  `json:"kind"`
	Of     string  `json:"of,omitempty"`
	Value  float64 `json:"value,omitempty"`
	Minute float64 `json:"minute"`
}

// Trials are the trials of the demo world.
func Trials() (list []Trial, err error) {
	if err := json.Unmarshal(trials, &list); err != nil {
		return nil, fmt.Errorf("demo trials: %w", err)
	}
	return list, nil
}
