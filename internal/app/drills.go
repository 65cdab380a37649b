package app

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/figure"
	"coldtap/internal/core/paper"
	"coldtap/internal/core/record"
	"coldtap/internal/core/words"
)

// Drills are the exercises by which dealers learn models, and what came of them.
type Drills struct {
	Store interface {
		Transactor
		DrillReader
		TrialReader
		UnitReader
		PersonReader
		ModelReader
	}
	Publishing *Publishing
	Jobs       *Jobs
	Now        func() time.Time
}

// sumOf is a short name for a text, the same for the same.
func sumOf(text []byte) string {
	h := sha256.Sum256(text)
	return hex.EncodeToString(h[:12])
}

// DrillMark is the mark of a question's key.
func DrillMark(key string) string { return sumOf([]byte(key)) }

// drillSteps is in how many steps a bank is made.
const drillSteps = 12

// Bank finds what can be asked of a build of a model as it is now, or begins to make it: then it is nil, and the job
// says how far it is. "" is the standard build.
func (d *Drills) Bank(ctx context.Context, slug, build string) (*DrillBank, *Job, error) {
	x, err := d.Publishing.Present(ctx, slug)
	if err != nil {
		return nil, nil, err
	}
	if build, err = buildName(x.Doc, build); err != nil {
		return nil, nil, err
	}
	b, err := d.Store.DrillBank(ctx, slug, build, x.Basis)
	if !errors.Is(err, ErrNotFound) {
		return b, nil, err
	}
	key := "drills " + slug + " " + build + " " + x.Basis
	job := d.Jobs.Find(key, "Drills of "+x.Doc.Title(), "", drillSteps,
		func(ctx context.Context, step func()) (any, error) {
			return d.makeBank(ctx, x, build, step)
		})
	if !job.Wait(ctx, bankWait) {
		return nil, job, nil
	}
	made, _ := job.Result().(*DrillBank)
	return made, nil, job.Err()
}

// bankWait is how long somebody waits for a bank before they are told how far it is.
const bankWait = 100 * time.Millisecond

// MakeBank makes what can be asked of a build, unless that is made already.
func (d *Drills) MakeBank(ctx context.Context, slug, build string) (*DrillBank, error) {
	x, err := d.Publishing.Present(ctx, slug)
	if err != nil {
		return nil, err
	}
	if build, err = buildName(x.Doc, build); err != nil {
		return nil, err
	}
	b, err := d.Store.DrillBank(ctx, slug, build, x.Basis)
	if !errors.Is(err, ErrNotFound) {
		return b, err
	}
	return d.makeBank(ctx, x, build, func() {})
}

func (d *Drills) makeBank(ctx context.Context, x *Present, build string, step func()) (*DrillBank, error) {
	b, err := d.Publishing.Build(ctx, x, withOf(x.Doc, build))
	if err != nil {
		return nil, err
	}
	in, err := x.Inputs(ctx, b, true)
	if err != nil {
		return nil, err
	}
	step()
	rec := &record.Recorder{}
	from := drill.Inputs{Inputs: in.Inputs, Step: step}
	from.Net, from.House = b.Net.Recorded(rec), x.House.Recorded(rec)
	for i := range in.Tasks {
		if t := &in.Tasks[i]; t.Done != nil {
			from.Tasks = append(from.Tasks, drill.Task{ID: t.ID, Done: t.Done, Proof: t.Proof, Read: t.Read,
				Inputs: t.Inputs})
		}
	}
	for _, p := range in.Photos {
		of := drill.Photo{ID: p.ID, Marks: map[string][2]float64{}}
		for _, m := range p.Marks {
			of.Marks[m.Part.ID] = [2]float64{m.X, m.Y}
		}
		from.Photos = append(from.Photos, of)
	}
	set, err := drill.Make(ctx, from)
	if err != nil {
		return nil, err
	}
	is, err := chapter.NewIs(&in, Program())
	if err != nil {
		return nil, err
	}
	all := figure.List(rec)
	questions := make([]DrillQuestion, 0, len(set.Exercises))
	stands := map[string]string{}
	p := words.English(x.Doc.System())
	for i := range set.Exercises {
		told := paper.Of(p, b.Net, &set.Exercises[i])
		if told.Alike() {
			set.Refuse(told.Kind, drill.LooksAlike)
			continue
		}
		q, err := questionOf(told, set.Exercises[i].Inputs, all, is)
		if err != nil {
			return nil, err
		}
		q.Slug, q.Build = x.Row.Slug, build
		stands[sumOf([]byte(q.Stands))], q.Stands = q.Stands, sumOf([]byte(q.Stands))
		questions = append(questions, *q)
	}
	step()
	counts, err := json.Marshal(countsOf(set.Refused, questions))
	if err != nil {
		return nil, err
	}
	bank := &DrillBank{ModelID: x.Row.ID, Slug: x.Row.Slug, Build: build, Number: x.Rev.Number, Basis: x.Basis,
		Counts: string(counts)}
	err = d.Store.Do(ctx, func(tx Tx) error {
		var list []DrillStand
		for hash, inputs := range stands {
			list = append(list, DrillStand{hash, inputs})
		}
		if err := tx.AddDrillStands(ctx, list); err != nil {
			return err
		}
		if err := tx.AddDrillBank(ctx, bank, questions); err != nil {
			return err
		}
		return d.void(ctx, tx, bank, questions, is)
	})
	step()
	return bank, err
}

// questionOf is a question as it is kept.
func questionOf(p paper.Paper, inputs []record.Input, figures []figure.Figure, is *chapter.Is) (*DrillQuestion, error) {
	raw, err := json.Marshal(p)
	if err != nil {
		return nil, err
	}
	stands, err := standsOn(inputs, figures, is)
	if err != nil {
		return nil, err
	}
	return &DrillQuestion{Mark: DrillMark(p.Key), Hash: sumOf(raw), Kind: p.Kind, Hard: p.Hard, Trap: len(p.Traps) > 0,
		Task: p.Task, Ask: p.Ask, Paper: string(raw), Stands: stands}, nil
}

// standsOn is what some inputs are now, figures followed to what they were worked out from.
func standsOn(inputs []record.Input, figures []figure.Figure, is *chapter.Is) (string, error) {
	var base []record.Input
	var ids []string
	for _, x := range inputs {
		if x.Kind == record.Figure {
			ids = append(ids, x.Of)
		} else {
			base = append(base, x)
		}
	}
	if ids != nil {
		base = append(base, figure.Reads(figures, ids...)...)
	}
	slices.SortFunc(base, record.Compare)
	var list []DrillInput
	for _, x := range slices.Compact(base) {
		if x.Kind == record.Figure || x.Of == "?" {
			continue
		}
		text, err := briefly(is, x)
		if err != nil {
			return "", err
		}
		list = append(list, DrillInput{Kind: x.Kind, Of: x.Of, Field: x.Field, Is: text})
	}
	raw, err := json.Marshal(list)
	return string(raw), err
}

// briefly is what an input is now, a long text by its sum.
func briefly(is *chapter.Is, x record.Input) (string, error) {
	text, err := is.Of(x)
	if len(text) > 60 {
		text = sumOf([]byte(text))
	}
	return text, err
}

// void marks the answers that stand on what has changed: their question is not asked as it was, and something that it
// stands on is not what it was.
func (d *Drills) void(ctx context.Context, tx Tx, bank *DrillBank, now []DrillQuestion, is *chapter.Is) error {
	same := map[string]bool{}
	for _, q := range now {
		same[q.Mark+q.Hash] = true
	}
	answered, err := tx.AnsweredDrills(ctx, bank.Slug, bank.Build)
	if err != nil {
		return err
	}
	for i := range answered {
		q := &answered[i]
		if same[q.Mark+q.Hash] {
			continue
		}
		stands, err := tx.DrillStand(ctx, q.Stands)
		if err != nil {
			return err
		}
		why, err := stands.changed(is)
		if err != nil {
			return err
		}
		if why == "" {
			continue // it is only not among those that are asked
		}
		if _, err := tx.VoidDrillAnswers(ctx, q.ID, why); err != nil {
			return err
		}
	}
	return nil
}

// changed tells what is not what it was; "" for nothing.
func (s *DrillStand) changed(is *chapter.Is) (string, error) {
	var list []DrillInput
	if err := json.Unmarshal([]byte(s.Inputs), &list); err != nil {
		return "", err
	}
	var names []string
	for _, x := range list {
		if x.Kind == record.Constant || x.Kind == record.Program {
			continue // another program says the same of the same plumbing
		}
		text, err := briefly(is, record.Input{Kind: x.Kind, Of: x.Of, Field: x.Field})
		if err != nil {
			return "", err
		}
		if text != x.Is {
			names = append(names, x.said())
		}
	}
	slices.Sort(names)
	if names = slices.Compact(names); len(names) > 5 {
		names = append(names[:5], "and more")
	}
	return strings.Join(names, ", "), nil
}

// said is what an input is called.
func (x DrillInput) said() string {
	switch x.Kind {
	case record.Plumbing:
		return "how it is built"
	case record.Setting:
		return "the setting “" + x.Of + "”"
	case record.Rule:
		return "the rule “" + x.Of + "”"
	case record.Photo:
		return "its photographs"
	case record.Hand:
		return "its guide"
	}
	return strings.TrimSpace(x.Of + " " + x.Field)
}

// countsOf is how many questions of each kind are asked, and how many were refused.
func countsOf(refused map[drill.Kind]map[drill.Refusal]int, questions []DrillQuestion) (list []DrillCount) {
	for _, k := range drill.Kinds() {
		c := DrillCount{Kind: k, Refused: refused[k]}
		for i := range questions {
			if q := &questions[i]; q.Kind == k {
				c.Asked++
				if q.Trap {
					c.Traps++
				}
			}
		}
		list = append(list, c)
	}
	return list
}

// DrillNames are the kinds of question in words.
func DrillNames() map[drill.Kind]string {
	return map[drill.Kind]string{drill.Valves: "Set the valves", drill.Order: "Put the steps in order",
		drill.Fault: "Find the fault", drill.Amount: "Work out the amount", drill.Where: "Where is it",
		drill.Label: "Which label lies", drill.Heater: "Which heater is this", drill.Happens: "What happens if",
		drill.Missing: "What is missing"}
}

// NewCourse is what somebody says of a course.
type NewCourse struct {
	Name, Note string
	Models     []DrillModel
	Kinds      []drill.Kind
	Count      int
	PassMark   int
	Months     int
	Practical  []string
}

// Bounds of a course.
const (
	mostQuestions = 60
	mostMonths    = 120
)

// check refuses a course that can't be sat.
func (n *NewCourse) check() error {
	n.Name, n.Note = strings.TrimSpace(n.Name), strings.TrimSpace(n.Note)
	switch {
	case n.Name == "" || len([]rune(n.Name)) > 120:
		return refused("A course has a name, of at most 120 letters.")
	case len([]rune(n.Note)) > 400:
		return refused("The note has at most 400 letters.")
	case len(n.Models) == 0:
		return refused("Choose at least one model.")
	case len(n.Kinds) == 0:
		return refused("Choose at least one kind of question.")
	case n.Count < len(n.Models) || n.Count > mostQuestions:
		return refused("A sitting has at least one question a model, and at most %d.", mostQuestions)
	case n.PassMark < 1 || n.PassMark > 100:
		return refused("The pass mark is a number of per cent from 1 to 100.")
	case n.Months < 0 || n.Months > mostMonths:
		return refused("A certificate holds for at most %d months; 0 is for good.", mostMonths)
	}
	for _, k := range n.Kinds {
		if !slices.Contains(drill.Kinds(), k) {
			return refused("There is no kind of question “%s”.", k)
		}
	}
	return nil
}

// AddCourse makes a course.
func (d *Drills) AddCourse(ctx context.Context, by By, n NewCourse) (*DrillCourse, error) {
	c := &DrillCourse{Code: NewCode(), State: DrillOpen, ByID: by.ID, ByName: by.Name, CreatedAt: d.Now().UTC()}
	if err := d.fill(ctx, c, n); err != nil {
		return nil, err
	}
	return c, d.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddDrillCourse(ctx, c); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "made a course", c.Name, c.Models)
	})
}

func (d *Drills) fill(ctx context.Context, c *DrillCourse, n NewCourse) error {
	if err := n.check(); err != nil {
		return err
	}
	for i := range n.Models {
		x, err := d.Publishing.Present(ctx, n.Models[i].Slug)
		if errors.Is(err, ErrNotFound) {
			return refused("There is no model “%s”.", n.Models[i].Slug)
		} else if err != nil {
			return err
		}
		if n.Models[i].Build, err = buildName(x.Doc, n.Models[i].Build); err != nil {
			return err
		}
	}
	models, err := json.Marshal(n.Models)
	if err != nil {
		return err
	}
	kinds := make([]string, len(n.Kinds))
	for i, k := range n.Kinds {
		kinds[i] = string(k)
	}
	c.Name, c.Note, c.Models, c.Kinds = n.Name, n.Note, string(models), strings.Join(kinds, " ")
	c.Count, c.PassMark, c.Months, c.Practical = n.Count, n.PassMark, n.Months, strings.Join(n.Practical, " ")
	if len(c.Practical) > 400 {
		return refused("That is too much to be seen at units for one course.")
	}
	return nil
}

// ChangeCourse says otherwise what a course is; sittings that are begun go on as they were.
func (d *Drills) ChangeCourse(ctx context.Context, by By, code string, n NewCourse) error {
	c, err := d.Store.DrillCourseByCode(ctx, code)
	if err != nil {
		return err
	}
	if err := d.fill(ctx, c, n); err != nil {
		return err
	}
	return d.Store.Do(ctx, func(tx Tx) error {
		if err := tx.SetDrillCourse(ctx, c); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "changed a course", c.Name, c.Models)
	})
}

// CloseCourse lets nobody begin a course any more, or opens it again.
func (d *Drills) CloseCourse(ctx context.Context, by By, code string, closed bool) error {
	c, err := d.Store.DrillCourseByCode(ctx, code)
	if err != nil {
		return err
	}
	c.State = map[bool]string{true: DrillClosed, false: DrillOpen}[closed]
	return d.Store.Do(ctx, func(tx Tx) error {
		if err := tx.SetDrillCourse(ctx, c); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "course "+c.State, c.Name, "")
	})
}

// Banks are the banks of a course as its models are now; where some are still being made it is nil, and the first of
// their jobs says how far that is.
func (d *Drills) Banks(ctx context.Context, models []DrillModel) (list []*DrillBank, job *Job, err error) {
	for _, m := range models {
		b, j, err := d.Bank(ctx, m.Slug, m.Build)
		if err != nil {
			return nil, nil, err
		}
		job = cmp.Or(job, j)
		list = append(list, b)
	}
	if job != nil {
		return nil, job, nil
	}
	return list, nil, nil
}

// titles are what models are called, by their slugs.
func (d *Drills) titles(ctx context.Context, models []DrillModel) (string, error) {
	var names []string
	for _, m := range models {
		row, _, err := d.Store.Head(ctx, m.Slug)
		if err != nil {
			return "", err
		}
		names = append(names, fmt.Sprintf("%s (%d)", row.Name, row.Year))
	}
	return strings.Join(names, ", "), nil
}
