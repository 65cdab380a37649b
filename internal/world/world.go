// Package world puts the demo world into a database.
package world

import (
	"context"
	"fmt"

	"coldtap/demo"
	"coldtap/internal/app"
)

// Load puts the people, models and lists of the demo world into a database
// that has none of them: all together, or nothing. Cost is that of the hashes
// of passwords.
func Load(ctx context.Context, st app.Transactor, cost int) error {
	return st.Do(ctx, func(tx app.Tx) error {
		if err := people(ctx, tx, cost); err != nil {
			return err
		}
		there, err := tx.Models(ctx)
		if err != nil || len(there) > 0 {
			return err
		}
		author, err := by(ctx, tx, "imre")
		if err != nil {
			return err
		}
		reviewer, err := by(ctx, tx, "odile")
		if err != nil {
			return err
		}
		models, err := demo.Models()
		if err != nil {
			return err
		}
		for _, m := range models {
			if _, err := tx.Create(ctx, m, author, "demo world"); err != nil {
				return fmt.Errorf("demo model %s: %w", m.ID, err)
			}
		}
		lists, err := demo.Lists()
		if err != nil {
			return err
		}
		for _, l := range lists {
			if _, err := (&app.Lists{Store: tx}).Upload(ctx, l.Model, reviewer, l.Name, l.File); err != nil {
				return fmt.Errorf("demo list %s: %w", l.Name, err)
			}
		}
		return nil
	})
}

func people(ctx context.Context, tx app.Tx, cost int) error {
	there, err := tx.People(ctx)
	if err != nil || len(there) > 0 {
		return err
	}
	if err := (&app.Accounts{Store: tx, Cost: cost}).SignUp(ctx, demo.People()); err != nil {
		return err
	}
	return Dealers(ctx, tx)
}

// Dealers opens the dealers of the demo world, with those who work there.
func Dealers(ctx context.Context, tx app.Tx) error {
	for _, d := range demo.Dealers() {
		row := &app.Dealer{Name: d.Name, Place: d.Place}
		if err := tx.AddDealer(ctx, row); err != nil {
			return err
		}
		for _, login := range d.People {
			p, err := tx.Login(ctx, login)
			if err != nil {
				return err
			}
			if err := tx.SetDealer(ctx, p.ID, row.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// by is somebody of the demo world; by name alone where there is no such
// account.
func by(ctx context.Context, tx app.Tx, login string) (app.By, error) {
	people, err := tx.People(ctx)
	for _, p := range people {
		if p.Login == login {
			return p.By(), err
		}
	}
	for _, a := range demo.People() {
		if a.Login == login {
			return app.By{Name: a.Name}, err
		}
	}
	return app.By{}, err
}
