// Package house holds a manufacturer's choices and allowances: rules that are
// read by their key, through one door that notes each read.
package house

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"time"

	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
)

// House is a set of rules with a value each. Those that nobody set are as
// usual in the trade. The zero value has none: begin with Usual.
type House struct {
	rows map[string]Row
	rec  *record.Recorder
}

// Row is what a rule is set to, by whom, when and why.
type Row struct {
	Value   any    // of the rule's type
	Set     string // as it was typed; "" where nobody set it
	Scope   string // for what it was set: "the house", "this model"; "" where nobody set it
	Who     string
	When    time.Time
	Why     string
	Version int // counts the times the rule was set in its scope, from 1
}

// Key finds a rule whose values are of one type.
type Key[T comparable] struct{ ID string }

// Of is the rule's value in a house.
func (k Key[T]) Of(h House) T {
	h.rec.Note(record.Input{Kind: record.Rule, Of: k.ID})
	v, _ := h.rows[k.ID].Value.(T)
	return v
}

// With is the house with the rule set to a value, whatever its bounds.
func (k Key[T]) With(h House, v T) House {
	row := h.rows[k.ID]
	row.Value = v
	return h.with(k.ID, row)
}

func (h House) with(id string, row Row) House {
	rows := make(map[string]Row, len(h.rows)+1)
	for k, r := range h.rows {
		rows[k] = r
	}
	rows[id] = row
	return House{rows, h.rec}
}

// Usual is what is usual in the trade where people measure in a system. The
// allowances are starting values that trials on real units correct.
func Usual(sys quantity.System) House {
	h := House{rows: map[string]Row{}}
	for i := range rules {
		h.rows[rules[i].ID] = Row{Value: rules[i].usual(sys)}
	}
	return h
}

// Recorded is the house that tells a recorder what is read of it.
func (h House) Recorded(rec *record.Recorder) House { return House{h.rows, rec} }

// Row is what a rule is set to.
func (h House) Row(id string) Row { return h.rows[id] }

// By says who set a rule.
func (h House) By(id string) string {
	if s := h.rows[id].Scope; s != "" {
		return s
	}
	return "usual in the trade"
}

// Text writes what a rule is set to, in a system of units.
func (h House) Text(id string, sys quantity.System) string {
	r := RuleByID(id)
	if r == nil {
		return ""
	}
	return r.text(h.rows[id].Value, sys)
}

// With is the house with some rules set in a scope, by their texts. The first
// that can't be set is an error that says which.
func (h House) With(scope string, values map[string]string) (House, error) {
	rows := map[string]Row{}
	for id, text := range values {
		rows[id] = Row{Set: text}
	}
	return h.WithRows(scope, rows)
}

// WithRows is With for rows that say who set them, when and why; of each the
// text is read.
func (h House) WithRows(scope string, rows map[string]Row) (House, error) {
	for _, r := range rules {
		row, ok := rows[r.ID]
		text := strings.TrimSpace(row.Set)
		if !ok || text == "" {
			continue
		}
		v, err := r.read(text)
		if err != nil {
			return h, fmt.Errorf("%s: %w", r.Name, err)
		}
		row.Value, row.Set, row.Scope = v, text, scope
		h = h.with(r.ID, row)
	}
	quiet := h.Recorded(nil)
	if SoakHigh.Of(quiet) < SoakLow.Of(quiet) {
		return h, errors.New("the longest soak is shorter than the shortest")
	}
	return h, nil
}

// Fingerprint is the same for houses in which every rule is set alike, by the
// same.
func (h House) Fingerprint() string {
	sum := sha256.New()
	for i := range rules {
		r := h.rows[rules[i].ID]
		fmt.Fprintf(sum, "%s=%v by %s\n", rules[i].ID, r.Value, r.Scope)
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}
