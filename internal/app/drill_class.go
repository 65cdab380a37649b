package app

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
)

// OpenClass lets a course be answered on phones, one question after the other on one screen.
func (d *Drills) OpenClass(ctx context.Context, by *Person, code string) (*DrillClass, *Job, error) {
	c, err := d.Store.DrillCourseByCode(ctx, code)
	if err != nil {
		return nil, nil, err
	}
	banks, job, err := d.Banks(ctx, c.Of())
	if err != nil || job != nil {
		return nil, job, err
	}
	x := &DrillClass{Code: NewCode(), CourseID: c.ID, Title: c.Name, State: DrillOpen, ByID: by.ID, ByName: by.Name}
	list, err := d.pick(ctx, 0, banks, c.Of(), c.KindList(), c.Count, x.Code, false)
	if err != nil {
		return nil, nil, err
	}
	raw, err := json.Marshal(list)
	if err != nil {
		return nil, nil, err
	}
	x.Questions = string(raw)
	return x, nil, d.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddDrillClass(ctx, x); err != nil {
			return err
		}
		return tx.Audit(ctx, by.By(), "opened a class", c.Name, x.Code)
	})
}

// Join lets somebody take part in a class; who did already goes on.
func (d *Drills) Join(ctx context.Context, who *Person, code string) (*DrillSitting, error) {
	c, err := d.Store.DrillClassByCode(ctx, code)
	if err != nil {
		return nil, err
	}
	all, err := d.Store.DrillSittingsOfClass(ctx, c.ID)
	if err != nil {
		return nil, err
	}
	if i := slices.IndexFunc(all, func(s DrillSitting) bool { return s.PersonID == who.ID }); i >= 0 {
		return &all[i], nil
	}
	if c.State != DrillOpen {
		return nil, refused("This class is over.")
	}
	s := &DrillSitting{Code: NewCode(), CourseID: c.CourseID, ClassID: c.ID, Title: c.Title}
	return s, d.keepSitting(ctx, who, s, c.Places())
}

// Move lets a class go on: "show" the answer, "next" question, or "end" it. Sent twice is as once: at is the place
// that the screen showed.
func (d *Drills) Move(ctx context.Context, by *Person, code, to string, at int) error {
	c, err := d.Store.DrillClassByCode(ctx, code)
	if err != nil {
		return err
	}
	return d.Store.Do(ctx, func(tx Tx) error {
		c, err := tx.LockDrillClass(ctx, c.ID)
		if err != nil {
			return err
		}
		if c.State != DrillOpen || c.Place != at {
			return nil // it has gone on already
		}
		last := at == len(c.Places())-1
		switch {
		case to == "show":
			c.Shown = true
		case to == "next" && c.Shown && !last:
			c.Place, c.Shown = at+1, false
		case to == "end" || to == "next" && c.Shown && last:
			return d.endClass(ctx, tx, by, c)
		case to == "next":
			return refused("Show the answer first.")
		default:
			return refused("A class shows the answer, goes on, or ends.")
		}
		return tx.SetDrillClass(ctx, c)
	})
}

// endClass ends a class: what nobody answered is no point.
func (d *Drills) endClass(ctx context.Context, tx Tx, by *Person, c *DrillClass) error {
	c.State, c.Shown = DrillClosed, true
	if err := tx.SetDrillClass(ctx, c); err != nil {
		return err
	}
	all, err := tx.DrillSittingsOfClass(ctx, c.ID)
	if err != nil {
		return err
	}
	for i := range all {
		s, err := tx.LockDrillSitting(ctx, all[i].ID)
		if err != nil {
			return err
		}
		if s.State != DrillOpen {
			continue
		}
		if err := d.end(ctx, tx, s); err != nil && !errors.Is(err, ErrExists) {
			return err
		}
	}
	return tx.Audit(ctx, by.By(), "ended a class", c.Title, c.Code)
}
