package world

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/core/care"
	"coldtap/internal/core/trial"
)

// Try puts the units of the demo world into a database, with what was done on them and the trials that were made: all
// of
// it or nothing, and nothing where there is a unit already. It takes a second or two.
func Try(ctx context.Context, st app.Transactor) error {
	return st.Do(ctx, func(tx app.Tx) error {
		if _, _, err := tx.Head(ctx, published); errors.Is(err, app.ErrNotFound) {
			return nil // it is no database of the demo world
		} else if err != nil {
			return err
		}
		there, err := tx.Units(ctx, app.Scope{All: true}, "", 1)
		if err != nil || len(there) > 0 {
			return err
		}
		docs := new(app.Docs)
		p := &app.Publishing{Store: tx, Builds: &app.Builds{States: tx, Docs: docs}, Docs: docs}
		u := &app.Units{Store: tx, Publishing: p, Now: time.Now}
		if err := units(ctx, tx, u); err != nil {
			return fmt.Errorf("demo units: %w", err)
		}
		return trials(ctx, tx, &app.Trials{Store: tx, Units: u, Publishing: p})
	})
}

// Compare works out what the trials of the demo world came to, as the page of each does; nothing where that is known.
func Compare(ctx context.Context, st app.Tx) error {
	row, _, err := st.Head(ctx, published)
	if errors.Is(err, app.ErrNotFound) {
		return nil // it is no database of the demo world
	} else if err != nil {
		return err
	}
	list, err := st.TrialsOf(ctx, row.ID, everywhere)
	if err != nil {
		return err
	}
	docs := new(app.Docs)
	p := &app.Publishing{Store: st, Builds: &app.Builds{States: st, Docs: docs}, Docs: docs}
	t := &app.Trials{Store: st, Publishing: p}
	for i := range list {
		if list[i].Verdict != "" || list[i].State != app.TrialFinished {
			continue
		}
		got, err := t.Compare(ctx, &list[i])
		if err != nil {
			return err
		}
		if err := st.SetVerdict(ctx, list[i].ID, string(got.Ranking.Verdict)); err != nil {
			return err
		}
	}
	return nil
}

var everywhere = app.Scope{All: true}

func units(ctx context.Context, tx app.Tx, u *app.Units) error {
	author, err := by(ctx, tx, "imre")
	if err != nil {
		return err
	}
	dealers, err := tx.Dealers(ctx)
	if err != nil {
		return err
	}
	ids, who := map[string]uint64{}, map[string]app.By{}
	for _, d := range dealers {
		ids[d.Name] = d.ID
	}
	for _, d := range demo.Dealers() {
		if who[d.Name], err = by(ctx, tx, d.People[0]); err != nil {
			return err
		}
	}
	for _, x := range demo.Units() {
		made, err := time.Parse(time.DateOnly, x.Made)
		if err != nil {
			return err
		}
		one, err := u.Add(ctx, author, everywhere, app.NewUnit{Serial: x.Serial, Slug: x.Model, Dealer: ids[x.Dealer],
			Use: care.Use(x.Use), MadeOn: made})
		if err != nil {
			return fmt.Errorf("%s: %w", x.Serial, err)
		}
		for i, l := range x.Log {
			on, err := time.Parse(time.DateOnly, l.On)
			if err != nil {
				return err
			}
			e := app.UnitEntry{Mark: fmt.Sprintf("demo-%s-%d", one.SerialKey, i), On: on, Kind: care.Kind(l.Kind), Of: l.Of,
				Value: l.Value, Words: l.Words}
			if err := u.Write(ctx, who[x.Dealer], everywhere, one.ID, e); err != nil {
				return fmt.Errorf("%s: %w", x.Serial, err)
			}
		}
	}
	return nil
}

func trials(ctx context.Context, tx app.Tx, t *app.Trials) error {
	list, err := demo.Trials()
	if err != nil {
		return err
	}
	for _, x := range list {
		t.Now = func() time.Time { return x.Begun }
		unit, err := tx.UnitBySerial(ctx, app.SerialKey(x.Serial))
		if err != nil {
			return err
		}
		who, err := by(ctx, tx, x.By)
		if err != nil {
			return err
		}
		one, err := t.Begin(ctx, who, everywhere, unit.ID, x.Task, x.Place, x.Weather, "")
		if err != nil {
			return fmt.Errorf("demo trial on %s: %w", x.Serial, err)
		}
		entries := entriesOf(&x)
		ended := time.UnixMilli(entries[len(entries)-1].At)
		for len(entries) > 0 {
			n := min(len(entries), 200)
			if _, err := t.Join(ctx, who, everywhere, one.Code, entries[:n]); err != nil {
				return fmt.Errorf("demo trial on %s: %w", x.Serial, err)
			}
			entries = entries[n:]
		}
		t.Now = func() time.Time { return ended }
		if err := t.Finish(ctx, who, everywhere, one.Code, app.TrialFinished); err != nil {
			return err
		}
	}
	return nil
}

// entriesOf are the entries of a trial of the demo world as a phone has them.
func entriesOf(x *demo.Trial) (list []trial.Entry) {
	add := func(e trial.Entry, minute float64) {
		e.ID = fmt.Sprintf("demo-%s-%d", strings.ToLower(x.Serial), len(list))
		e.At = x.Begun.Add(time.Duration(minute * float64(time.Minute))).UnixMilli()
		list = append(list, e)
	}
	if x.Helper {
		add(trial.Entry{Kind: trial.Helper, Value: 1}, 0)
	}
	last := 0.0
	for _, e := range x.Entries {
		add(trial.Entry{Step: e.Step, Kind: trial.Kind(e.Kind), Of: e.Of, Value: e.Value}, e.Minute)
		last = max(last, e.Minute)
	}
	for _, r := range x.Notes {
		add(trial.Entry{Step: r.At, Kind: trial.Kind(r.Do), Text: r.Text}, last)
	}
	return list
}
