package pupil

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
	"coldtap/internal/world"
)

// about is the model that the demo's technicians were drilled on.
const about = "gneiss-24-2027"

// sat is a sitting of a demo technician: how many of ten they know.
type sat struct {
	login string
	days  int // after the first
	knows int
}

// Drilled lets the technicians of the demo world take a course, in a database that has that world, and gives what
// came of it as demo/drills.json has it.
func Drilled(ctx context.Context, st interface {
	app.Transactor
	app.DrillReader
	app.PersonReader
}, d *app.Drills) ([]byte, error) {
	at := time.Date(2026, 9, 14, 8, 30, 0, 0, time.UTC)
	d.Now = func() time.Time { at = at.Add(47 * time.Second); return at }
	if _, err := d.MakeBank(ctx, about, ""); err != nil {
		return nil, err
	}
	people, err := st.People(ctx)
	if err != nil {
		return nil, err
	}
	who := map[string]*app.Person{}
	for i := range people {
		who[people[i].Login] = &people[i]
	}
	course, err := d.AddCourse(ctx, who["teku"].By(), app.NewCourse{Name: "Gneiss 24: handing over and winter",
		Note: "Before the first unit is handed over, and again after two years.", Models: []app.DrillModel{{Slug: about}},
		Kinds: drill.Kinds(), Count: 10, PassMark: 70, Months: 24})
	if err != nil {
		return nil, err
	}
	course.Code = "GNEISSDRILLSABCDEFGHIJKLM2"
	out := world.Drills{Course: course}
	seen, stands := map[uint64]bool{}, map[string]bool{}
	first := at
	for i, s := range []sat{{"sam", 0, 2}, {"pia", 1, 7}, {"sam", 9, 3}, {"pia", 10, 10}, {"sam", 24, 5}} {
		at = first.AddDate(0, 0, s.days)
		rng := rand.New(rand.NewPCG(uint64(i), 18))
		t, err := sit(ctx, st, d, rng, who[s.login], s.knows)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", s.login, err)
		}
		t.Login = s.login
		for _, a := range t.Answers {
			if seen[a.QuestionID] {
				continue
			}
			seen[a.QuestionID] = true
			q, err := st.DrillQuestion(ctx, a.QuestionID)
			if err != nil {
				return nil, err
			}
			out.Questions = append(out.Questions, *q)
			if stands[q.Stands] {
				continue
			}
			stands[q.Stands] = true
			x, err := st.DrillStand(ctx, q.Stands)
			if err != nil {
				return nil, err
			}
			out.Stands = append(out.Stands, *x)
		}
		out.Sittings = append(out.Sittings, *t)
	}
	return json.MarshalIndent(out, "", " ")
}

// sit lets somebody take the demo course once.
func sit(ctx context.Context, st app.DrillReader, d *app.Drills, rng *rand.Rand, who *app.Person,
	knows int) (*world.Sitting,
	error) {
	courses, err := st.DrillCourses(ctx)
	if err != nil {
		return nil, err
	}
	t, job, err := d.Begin(ctx, who, courses[0].Code)
	if err != nil || job != nil {
		return nil, errors.Join(err, errors.New("the bank is made already"))
	}
	for place := range t.Asked {
		turn, err := d.Turn(ctx, t, place)
		if err != nil {
			return nil, err
		}
		for _, look := range Looks(rng, turn.Paper, min(3, turn.Paper.Fewest+rng.IntN(2))) {
			if err := d.Look(ctx, who, t.Code, place, look); err != nil {
				return nil, err
			}
		}
		right := rng.IntN(10) < knows
		if _, err := d.Answer(ctx, who, t.Code, place, Answer(rng, turn.Paper, right)); err != nil {
			return nil, err
		}
	}
	if t, err = st.DrillSittingByCode(ctx, t.Code); err != nil {
		return nil, err
	}
	out := &world.Sitting{DrillSitting: *t}
	if out.Answers, err = st.DrillAnswersOf(ctx, t.ID); err != nil {
		return nil, err
	}
	certificates, err := st.DrillCertificates(ctx, app.DrillFilter{Person: who.ID}, 10)
	for i := range certificates {
		if certificates[i].SittingID == t.ID {
			out.Certificate = &certificates[i]
		}
	}
	return out, err
}
