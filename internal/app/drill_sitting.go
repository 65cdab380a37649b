package app

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"strings"
	"time"

	"coldtap/internal/core/drill"
	"coldtap/internal/core/paper"
	"coldtap/internal/core/words"
)

// Practise begins practice on a model, of some kinds or all; what was begun of the same is gone on with.
func (d *Drills) Practise(ctx context.Context, who *Person, m DrillModel, kinds []drill.Kind, count int) (*DrillSitting,
	*Job, error) {
	if len(kinds) == 0 {
		kinds = drill.Kinds()
	}
	banks, job, err := d.Banks(ctx, []DrillModel{m})
	if err != nil || job != nil {
		return nil, job, err
	}
	title, err := d.titles(ctx, []DrillModel{m})
	if err != nil {
		return nil, nil, err
	}
	m.Build = banks[0].Build
	s, err := d.begin(ctx, who, &DrillSitting{Title: "Practice: " + title}, banks, []DrillModel{m}, kinds,
		max(1, min(count, mostQuestions)))
	return s, nil, err
}

// Begin begins a course, or goes on with what somebody began of it.
func (d *Drills) Begin(ctx context.Context, who *Person, code string) (*DrillSitting, *Job, error) {
	c, err := d.Store.DrillCourseByCode(ctx, code)
	if err != nil {
		return nil, nil, err
	}
	s, err := d.Store.OpenDrillSitting(ctx, who.ID, c.ID)
	if !errors.Is(err, ErrNotFound) {
		return s, nil, err
	}
	if c.State != DrillOpen {
		return nil, nil, refused("This course is closed: ask your trainer for the one that follows it.")
	}
	banks, job, err := d.Banks(ctx, c.Of())
	if err != nil || job != nil {
		return nil, job, err
	}
	s, err = d.begin(ctx, who, &DrillSitting{CourseID: c.ID, Title: c.Name}, banks, c.Of(), c.KindList(), c.Count)
	return s, nil, err
}

// begin keeps a sitting with its questions.
func (d *Drills) begin(ctx context.Context, who *Person, s *DrillSitting, banks []*DrillBank, models []DrillModel,
	kinds []drill.Kind, count int) (*DrillSitting, error) {
	s.Code = NewCode()
	list, err := d.pick(ctx, who.ID, banks, models, kinds, count, s.Code, s.CourseID == 0)
	if err != nil {
		return nil, err
	}
	return s, d.keepSitting(ctx, who, s, list)
}

func (d *Drills) keepSitting(ctx context.Context, who *Person, s *DrillSitting, list []DrillPlace) error {
	raw, err := json.Marshal(list)
	if err != nil {
		return err
	}
	s.Questions, s.Asked, s.State = string(raw), len(list), DrillOpen
	s.PersonID, s.PersonName, s.DealerID, s.CreatedAt = who.ID, who.Name, who.DealerID, d.Now().UTC()
	return d.Store.Do(ctx, func(tx Tx) error { return tx.AddDrillSitting(ctx, s) })
}

// Sitting is a sitting that somebody may see: their own, and all for trainers.
func (d *Drills) Sitting(ctx context.Context, who *Person, code string) (*DrillSitting, error) {
	if !IsCode(code) {
		return nil, ErrNotFound
	}
	s, err := d.Store.DrillSittingByCode(ctx, code)
	if err == nil && s.PersonID != who.ID && !who.Trains() {
		return nil, ErrNotFound
	}
	return s, err
}

// DrillTurn is a question of a sitting as somebody stands before it.
type DrillTurn struct {
	Sitting  *DrillSitting
	Place    int
	Question *DrillQuestion
	Paper    *paper.Paper
	Number   uint64 // of the state that it is marked on
	Try      DrillTry
	Answer   *DrillAnswer // nil while it is not answered
	Waits    bool         // of a class: for the trainer
}

// Turn is a question of a sitting; place -1 is the first that is not answered, or the last where all are.
func (d *Drills) Turn(ctx context.Context, s *DrillSitting, place int) (*DrillTurn, error) {
	list := s.Places()
	class, err := d.classOf(ctx, s)
	if err != nil {
		return nil, err
	}
	if place < 0 {
		place = min(s.Answered, len(list)-1)
		if class != nil {
			place = class.Place
		}
	}
	if place >= len(list) {
		return nil, ErrNotFound
	}
	t := &DrillTurn{Sitting: s, Place: place, Number: list[place].Number}
	if t.Question, err = d.Store.DrillQuestion(ctx, list[place].Question); err != nil {
		return nil, err
	}
	if t.Paper, err = t.Question.Read(); err != nil {
		return nil, err
	}
	switch try, err := d.Store.DrillTry(ctx, s.ID, place); {
	case err == nil:
		t.Try = *try
	case !errors.Is(err, ErrNotFound):
		return nil, err
	}
	t.Try.SittingID, t.Try.Place = s.ID, place
	switch a, err := d.Store.DrillAnswer(ctx, s.ID, place); {
	case err == nil:
		t.Answer = a
	case !errors.Is(err, ErrNotFound):
		return nil, err
	}
	if class != nil && class.State == DrillOpen {
		t.Waits = place == class.Place && (class.Shown || t.Answer != nil)
	}
	return t, nil
}

// classOf is the class of a sitting; nil for one alone.
func (d *Drills) classOf(ctx context.Context, s *DrillSitting) (*DrillClass, error) {
	if s.ClassID == 0 {
		return nil, nil
	}
	return d.Store.DrillClass(ctx, s.ClassID)
}

// open is a question that may still be answered.
func (d *Drills) open(ctx context.Context, who *Person, code string, place int) (*DrillTurn, error) {
	s, err := d.Sitting(ctx, who, code)
	if err != nil {
		return nil, err
	}
	if s.PersonID != who.ID {
		return nil, refused("Only %s answers here.", s.PersonName)
	}
	t, err := d.Turn(ctx, s, place)
	if err != nil || t.Answer != nil {
		return t, err
	}
	if s.State != DrillOpen {
		return nil, refused("This is over: begin it again.")
	}
	if class, err := d.classOf(ctx, s); err != nil {
		return nil, err
	} else if class != nil && (class.State != DrillOpen || class.Place != place || class.Shown) {
		return nil, refused("The class has gone on: answer the question that is on the screen.")
	}
	return t, nil
}

// Hint gives one hint more.
func (d *Drills) Hint(ctx context.Context, who *Person, code string, place int) error {
	t, err := d.open(ctx, who, code, place)
	if err != nil || t.Answer != nil || t.Try.Hints >= len(t.Paper.Hints) {
		return err
	}
	t.Try.Hints++
	return d.Store.Do(ctx, func(tx Tx) error { return tx.SetDrillTry(ctx, &t.Try) })
}

// Look makes a look. One that would hurt somebody ends the question as failed.
func (d *Drills) Look(ctx context.Context, who *Person, code string, place int, look string) error {
	t, err := d.open(ctx, who, code, place)
	if err != nil || t.Answer != nil {
		return err
	}
	i := slices.IndexFunc(t.Paper.Looks, func(l drill.LookOf) bool { return l.ID == look })
	if t.Paper.Kind != drill.Fault || i < 0 {
		return refused("There is no such look.")
	}
	made := t.Try.LookList()
	if slices.Contains(made, look) {
		return nil // it shows the same again
	}
	t.Try.Looks = strings.Join(append(made, look), "\n")
	if err := d.Store.Do(ctx, func(tx Tx) error { return tx.SetDrillTry(ctx, &t.Try) }); err != nil {
		return err
	}
	if t.Paper.Looks[i].Danger {
		_, err = d.Answer(ctx, who, code, place, drill.Answer{})
	}
	return err
}

// Answer marks an answer and keeps it. What was answered before stays: sent twice is as once.
func (d *Drills) Answer(ctx context.Context, who *Person, code string, place int, a drill.Answer) (
	*DrillAnswer, error) {
	t, err := d.open(ctx, who, code, place)
	if err != nil {
		return nil, err
	}
	if t.Answer != nil {
		return t.Answer, nil
	}
	a.Hints, a.Looks = t.Try.Hints, t.Try.LookList()
	m, said, err := d.mark(ctx, t, a)
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(a)
	if err != nil {
		return nil, err
	}
	why, err := json.Marshal(said)
	if err != nil {
		return nil, err
	}
	q := t.Question
	row := &DrillAnswer{SittingID: t.Sitting.ID, Place: place, QuestionID: q.ID, Slug: q.Slug, Build: q.Build,
		Mark: q.Mark, Kind: q.Kind, Task: q.Task, Trap: q.Trap, Ask: q.Ask,
		PersonID: who.ID, PersonName: who.Name, DealerID: who.DealerID,
		Answer: string(raw), Right: m.Right, Danger: m.Danger, Points: m.Points, Hints: a.Hints, Looks: m.Looks,
		Fewest: t.Paper.Fewest, Said: string(why), CreatedAt: d.Now().UTC()}
	err = d.Store.Do(ctx, func(tx Tx) error {
		s, err := tx.LockDrillSitting(ctx, t.Sitting.ID)
		if err != nil {
			return err
		}
		new, err := tx.AddDrillAnswer(ctx, row)
		if err != nil {
			return err
		}
		if !new {
			had, err := tx.DrillAnswer(ctx, s.ID, place)
			if err == nil {
				*row = *had
			}
			return err
		}
		if err := Remember(ctx, tx, row, d.Now().UTC()); err != nil {
			return err
		}
		return d.count(ctx, tx, s)
	})
	return row, err
}

// count counts what was answered in a sitting, and ends it where all is.
func (d *Drills) count(ctx context.Context, tx Tx, s *DrillSitting) error {
	answers, err := tx.DrillAnswersOf(ctx, s.ID)
	if err != nil {
		return err
	}
	s.Answered, s.Rights, s.Points, s.MissedTrap = len(answers), 0, 0, false
	for i := range answers {
		a := &answers[i]
		s.Points += a.Points
		if a.Right {
			s.Rights++
		} else {
			s.MissedTrap = s.MissedTrap || a.Trap
		}
	}
	if s.Answered >= s.Asked && s.ClassID == 0 { // that of a class ends with the class
		return d.end(ctx, tx, s)
	}
	return tx.SetDrillSitting(ctx, s)
}

// end ends a sitting: passed or not, with a certificate where nothing else is asked for.
func (d *Drills) end(ctx context.Context, tx Tx, s *DrillSitting) error {
	now := d.Now().UTC()
	s.EndedAt, s.State = &now, DrillDone
	if s.CourseID == 0 {
		return tx.SetDrillSitting(ctx, s)
	}
	c, err := tx.DrillCourse(ctx, s.CourseID)
	if err != nil {
		return err
	}
	if s.Answered < s.Asked { // a trap that nobody answered is missed too
		left, err := unanswered(ctx, tx, s)
		if err != nil {
			return err
		}
		s.MissedTrap = s.MissedTrap || slices.ContainsFunc(left, func(q DrillQuestion) bool { return q.Trap })
	}
	s.State = DrillFailed
	if s.Percent() >= c.PassMark && !s.MissedTrap {
		s.State = DrillPassed
	}
	if err := tx.SetDrillSitting(ctx, s); err != nil {
		return err
	}
	if s.State == DrillPassed {
		return d.certify(ctx, tx, c, s)
	}
	return nil
}

// unanswered are the questions of a sitting that have no answer.
func unanswered(ctx context.Context, tx Tx, s *DrillSitting) ([]DrillQuestion, error) {
	answers, err := tx.DrillAnswersOf(ctx, s.ID)
	if err != nil {
		return nil, err
	}
	var ids []uint64
	for i, p := range s.Places() {
		if !slices.ContainsFunc(answers, func(a DrillAnswer) bool { return a.Place == i }) {
			ids = append(ids, p.Question)
		}
	}
	return tx.DrillQuestions(ctx, ids)
}

// boxes are after how long somebody is asked again, by how often they were right in a row.
var boxes = []time.Duration{0, day, 2 * day, 4 * day, 9 * day, 21 * day, 50 * day}

const day = 24 * time.Hour

// Remember keeps when somebody is asked a kind of question again.
func Remember(ctx context.Context, tx Tx, a *DrillAnswer, now time.Time) error {
	all, err := tx.DrillMemories(ctx, a.PersonID)
	if err != nil {
		return err
	}
	m := DrillMemory{PersonID: a.PersonID, Slug: a.Slug, Kind: a.Kind}
	for i := range all {
		if all[i].Slug == a.Slug && all[i].Kind == a.Kind {
			m = all[i]
		}
	}
	m = m.after(a.Right, now)
	return tx.SetDrillMemory(ctx, &m)
}

// after is the memory after an answer more: what was right before it was due is no proof that it is remembered.
func (m DrillMemory) after(right bool, now time.Time) DrillMemory {
	switch {
	case !right:
		m.Wrongs++
		m.Box = 0
	case m.Box == 0 || !now.Before(m.DueOn):
		m.Rights++
		m.Box = min(m.Box+1, len(boxes)-1)
	default:
		m.Rights++
		return m
	}
	m.DueOn = now.Add(boxes[m.Box])
	return m
}

// mark marks an answer, with the reason in words.
func (d *Drills) mark(ctx context.Context, t *DrillTurn, a drill.Answer) (m drill.Marked, said DrillSaid, err error) {
	x := t.Paper
	if x.Kind == drill.Valves {
		return d.markValves(ctx, t, a)
	}
	if m, err = x.Mark(a); err != nil {
		return m, said, answerRefused(err)
	}
	r := x.Reasons[m.Outcome]
	m.Danger = m.Danger || r.Danger && !m.Right
	said.Said, said.Parts = r.Said, r.Parts
	if x.PerLitre > 0 {
		p, err := d.printer(ctx, t.Question.Slug)
		if err != nil {
			return m, said, err
		}
		said.Said = append([]string{x.Gives(p, a.Text)}, said.Said...)
	}
	if !m.Right {
		said.Right = RightOf(x)
	}
	return m, said, nil
}

// RightOf is what would have been right; "" where the reason says it.
func RightOf(x *paper.Paper) string {
	switch x.Kind {
	case drill.Order:
		for _, key := range slices.Sorted(maps.Keys(x.Orders)) {
			if x.Orders[key] == "" {
				var steps []string
				for _, c := range key {
					steps = append(steps, x.Options[c-'0'].Said)
				}
				return strings.Join(steps, " → ")
			}
		}
	case drill.Amount, drill.Valves:
		return ""
	}
	for _, o := range x.Options {
		if slices.Contains(x.Right, o.ID) {
			return o.Said
		}
	}
	return ""
}

// markValves marks a setting on the plumbing as it was when the question was made.
func (d *Drills) markValves(ctx context.Context, t *DrillTurn, a drill.Answer) (
	m drill.Marked, said DrillSaid, err error) {
	b, err := d.BuildOf(ctx, t.Question, t.Number)
	if err != nil {
		return m, said, err
	}
	plan, err := b.Plan(ctx)
	if err != nil {
		return m, said, err
	}
	m, why, err := t.Paper.MarkValves(b.Net, plan, a)
	if err != nil {
		return m, said, answerRefused(err)
	}
	r := paper.ReasonOf(words.English(b.Model.System()), b.Net, why)
	said.Said, said.Parts = r.Said, r.Parts
	return m, said, nil
}

// BuildOf is the build that a question is about, as it was in a state.
func (d *Drills) BuildOf(ctx context.Context, q *DrillQuestion, number uint64) (*Build, error) {
	rev, err := d.Store.StateOf(ctx, q.Slug, number)
	if err != nil {
		return nil, err
	}
	with := strings.ReplaceAll(q.Build, ".", ",")
	if with == "plain" {
		with = "none"
	}
	return d.Publishing.Builds.Get(ctx, q.Slug, rev, with)
}

func (d *Drills) printer(ctx context.Context, slug string) (*words.Printer, error) {
	x, err := d.Publishing.Present(ctx, slug)
	if err != nil {
		return nil, err
	}
	return words.English(x.Doc.System()), nil
}

// answerRefused is what is no answer at all, as the page says it.
func answerRefused(err error) error {
	var no *drill.AnswerError
	if errors.As(err, &no) {
		return refused("%s", no.Why)
	}
	return err
}
