package world

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"coldtap/demo"
	"coldtap/internal/app"
)

// Drills are a course of the demo world, the questions that were asked, and who answered what.
type Drills struct {
	Course    *app.DrillCourse
	Questions []app.DrillQuestion
	Stands    []app.DrillStand
	Sittings  []Sitting
}

// Sitting is one sitting of somebody, by the name that they sign in with.
type Sitting struct {
	Login        string
	DrillSitting app.DrillSitting
	Answers      []app.DrillAnswer
	Certificate  *app.DrillCertificate
}

// Drill puts the demo's course and what came of it into a database: all of it or nothing, and nothing where there is
// a course already.
func Drill(ctx context.Context, st app.Transactor) error {
	var d Drills
	if err := json.Unmarshal(demo.Drills(), &d); err != nil {
		return fmt.Errorf("demo drills: %w", err)
	}
	if d.Course == nil {
		return nil
	}
	return st.Do(ctx, func(tx app.Tx) error {
		row, _, err := tx.Head(ctx, published)
		if errors.Is(err, app.ErrNotFound) {
			return nil // it is no database of the demo world
		} else if err != nil {
			return err
		}
		there, err := tx.DrillCourses(ctx)
		if err != nil || len(there) > 0 {
			return err
		}
		return d.load(ctx, tx, row)
	})
}

func (d *Drills) load(ctx context.Context, tx app.Tx, row *app.Model) error {
	old := map[string]uint64{} // of questions, by their marks
	for i := range d.Questions {
		old[d.Questions[i].Mark], d.Questions[i].ID = d.Questions[i].ID, 0
	}
	// The bank of the file is of no basis: what can be asked of the model is made when somebody asks for it.
	bank := &app.DrillBank{ModelID: row.ID, Slug: row.Slug, Build: d.Questions[0].Build, Number: 1, Basis: "demo",
		Counts: "[]"}
	if err := tx.AddDrillStands(ctx, d.Stands); err != nil {
		return err
	}
	if err := tx.AddDrillBank(ctx, bank, d.Questions); err != nil {
		return err
	}
	ids := map[uint64]uint64{}
	for i := range d.Questions {
		ids[old[d.Questions[i].Mark]] = d.Questions[i].ID
	}
	trainer, err := by(ctx, tx, "teku")
	if err != nil {
		return err
	}
	c := d.Course
	c.ID, c.ByID, c.ByName = 0, trainer.ID, trainer.Name
	if err := tx.AddDrillCourse(ctx, c); err != nil {
		return err
	}
	for i := range d.Sittings {
		if err := d.Sittings[i].load(ctx, tx, c, ids); err != nil {
			return fmt.Errorf("demo sitting of %s: %w", d.Sittings[i].Login, err)
		}
	}
	return nil
}

// load keeps a sitting as its person's.
func (s *Sitting) load(ctx context.Context, tx app.Tx, c *app.DrillCourse, ids map[uint64]uint64) error {
	who, err := tx.Login(ctx, s.Login)
	if err != nil {
		return err
	}
	places := s.DrillSitting.Places()
	for i := range places {
		places[i].Question, places[i].Number = ids[places[i].Question], 1
	}
	raw, err := json.Marshal(places)
	if err != nil {
		return err
	}
	t := &s.DrillSitting
	t.ID, t.CourseID, t.Questions = 0, c.ID, string(raw)
	t.PersonID, t.PersonName, t.DealerID = who.ID, who.Name, who.DealerID
	if err := tx.AddDrillSitting(ctx, t); err != nil {
		return err
	}
	for i := range s.Answers {
		a := &s.Answers[i]
		a.SittingID, a.QuestionID = t.ID, ids[a.QuestionID]
		a.PersonID, a.PersonName, a.DealerID = who.ID, who.Name, who.DealerID
		if _, err := tx.AddDrillAnswer(ctx, a); err != nil {
			return err
		}
		if err := app.Remember(ctx, tx, a, a.CreatedAt); err != nil {
			return err
		}
	}
	if x := s.Certificate; x != nil {
		x.ID, x.CourseID, x.SittingID, x.PersonID, x.DealerID = 0, c.ID, t.ID, who.ID, who.DealerID
		return tx.AddDrillCertificate(ctx, x)
	}
	return nil
}
