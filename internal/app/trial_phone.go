package app

import (
	"context"
	"strings"
	"time"

	"coldtap/internal/core/care"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/trial"
)

// Get is a trial that a scope sees; ErrNotFound otherwise.
func (t *Trials) Get(ctx context.Context, scope Scope, code string) (*Trial, error) {
	if !IsCode(code) {
		return nil, ErrNotFound
	}
	x, err := t.Store.TrialByCode(ctx, code)
	if err == nil && !scope.Sees(x.DealerID) {
		return nil, ErrNotFound
	}
	return x, err
}

// Bounds of a trial: entries, entries that come at once, photographs.
const (
	mostTrialEntries = 5000
	mostEntriesSent  = 500
	mostTrialPhotos  = 60
)

// Join keeps what a phone wrote down and gives all that there is. Entries that are kept already are the same sent
// again; those that come when the trial is finished are kept as well: a phone may have been away.
func (t *Trials) Join(ctx context.Context, by By, scope Scope, code string, entries []trial.Entry) ([]trial.Entry,
	error) {
	x, err := t.Get(ctx, scope, code)
	if err != nil {
		return nil, err
	}
	if len(entries) > mostEntriesSent {
		return nil, refused("Send at most %d entries at once.", mostEntriesSent)
	}
	var rows []TrialEntry
	for _, e := range entries {
		if err := e.Check(); err != nil {
			return nil, refused("%s.", err)
		}
		rows = append(rows, TrialEntry{TrialID: x.ID, Mark: e.ID, At: e.At, Step: e.Step, Kind: e.Kind, Of: e.Of,
			Value: e.Value, Words: e.Text, ByID: by.ID, ByName: by.Name})
	}
	if len(rows) > 0 {
		err := t.Store.Do(ctx, func(tx Tx) error {
			kept, err := tx.CountTrialEntries(ctx, x.ID)
			if err != nil {
				return err
			}
			if kept+len(rows) > mostTrialEntries {
				return ErrTooMany
			}
			return tx.AddTrialEntries(ctx, rows)
		})
		if err != nil {
			return nil, err
		}
	}
	return t.Entries(ctx, x)
}

// Entries are all that was written down in a trial.
func (t *Trials) Entries(ctx context.Context, x *Trial) ([]trial.Entry, error) {
	rows, err := t.Store.TrialEntries(ctx, x.ID)
	list := make([]trial.Entry, len(rows))
	for i := range rows {
		list[i] = rows[i].Entry()
	}
	return trial.Join(list, nil), err
}

// Photo keeps a photograph, whose entry has the same name.
func (t *Trials) Photo(ctx context.Context, scope Scope, code string, p *TrialPhoto) error {
	x, err := t.Get(ctx, scope, code)
	if err != nil {
		return err
	}
	if !markPattern.MatchString(p.Mark) {
		return refused("A photograph has a name of its own.")
	}
	p.TrialID = x.ID
	return t.Store.Do(ctx, func(tx Tx) error {
		rows, err := tx.TrialEntries(ctx, x.ID)
		if err != nil {
			return err
		}
		photos := 0
		for i := range rows {
			if rows[i].Kind == trial.Photo && rows[i].Mark != p.Mark {
				photos++
			}
		}
		if photos >= mostTrialPhotos {
			return refused("A trial has at most %d photographs.", mostTrialPhotos)
		}
		return tx.AddTrialPhoto(ctx, p)
	})
}

// Finish ends a trial, opens it again, or drops it. A trial that is finished stands in the unit's log, with what it was
// a trial of; one that is not does not.
func (t *Trials) Finish(ctx context.Context, by By, scope Scope, code, to string) error {
	x, err := t.Get(ctx, scope, code)
	if err != nil {
		return err
	}
	if !oneOf(to, []string{TrialOpen, TrialFinished, TrialDropped}) {
		return refused("A trial is open, finished or dropped.")
	}
	entries, err := t.Entries(ctx, x)
	if err != nil {
		return err
	}
	now := t.Now().UTC()
	if x.State = to; to == TrialFinished {
		x.FinishedAt = &now
	} else {
		x.FinishedAt = nil
	}
	var list []UnitEntry
	if to == TrialFinished {
		list = logged(x, entries, now)
	}
	err = t.Units.ofTrial(ctx, by, scope, x, list, func(tx Tx) error {
		if err := tx.SetTrial(ctx, x); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "set a trial "+to, x.Slug, x.Serial+": "+x.Task)
	})
	if err != nil {
		return err
	}
	return t.Tell(ctx, x.Slug)
}

// logged is what stands in the unit's log of a trial that is finished; each by a name that it always has.
func logged(x *Trial, entries []trial.Entry, now time.Time) (list []UnitEntry) {
	on := now
	for _, e := range entries {
		if at := time.UnixMilli(e.At).UTC(); at.Before(on) && at.Year() > 2000 {
			on = at
		}
	}
	add := func(name string, k care.Kind, of string, v float64) {
		list = append(list, UnitEntry{Mark: "trial-" + x.Code[:20] + "-" + name, On: on, Kind: k, Of: of, Value: v,
			Words: x.Title, TrialID: x.ID})
	}
	add("t", care.Tried, x.Task, 0)
	jug := x.What().Jug
	switch {
	case x.Task == "sanitize":
		add("s", care.Sanitized, "", 0)
	case strings.HasPrefix(x.Task, "winterize"):
		most := 0.0
		for _, e := range trial.Holds(entries) {
			if e.Kind == trial.Kind(measure.Jug) {
				most = max(most, e.Value)
			}
		}
		jugs := 0
		if jug > 0 {
			jugs = quantity.RoundUp(most / jug)
		}
		add("w", care.Winterized, x.Task, float64(jugs))
	case x.Task == "de-winterize":
		add("d", care.DeWinterized, "", 0)
	case x.Task == "descale-heater":
		add("d", care.Descaled, "", 0)
	}
	for _, e := range trial.Holds(entries) {
		if e.Kind == trial.Anode {
			add("a-"+e.Of[:min(8, len(e.Of))], care.AnodeLook, e.Of, e.Value)
		}
	}
	return list
}
