package app

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"coldtap/internal/cache"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/care"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/pool"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/core/trial"
	"coldtap/internal/core/words"
	"coldtap/internal/guide"
	"coldtap/internal/guide/html"
)

// Trials are procedures that are taken to units, and what they come to.
type Trials struct {
	Store interface {
		Transactor
		TrialReader
		UnitReader
		PublishReader
		RuleReader
		ModelReader
		ReaderReader
	}
	Units      *Units
	Publishing *Publishing
	Keeping    *Keeping
	Edits      *Edits
	Rules      *Rules
	Jobs       *Jobs
	Now        func() time.Time

	rankers cache.Cache[*cause.Ranker]
}

// onUnit is a procedure of a model as it is now, as it is carried out on a unit.
type onUnit struct {
	Present *Present
	Build   *Build
	Task    chapter.Task // with what is watched in a trial alone
	Subject cause.Subject
	Probes  []measure.Probe
	Base    map[string]float64
}

// TrialTask is a procedure of a trial by its name.
type TrialTask struct{ ID, Title string }

// TasksOf lists the procedures of a build that can be taken to a unit.
func (t *Trials) TasksOf(ctx context.Context, x *Present, build string) ([]TrialTask, error) {
	b, err := t.Publishing.Build(ctx, x, withOf(x.Doc, build))
	if err != nil {
		return nil, err
	}
	tasks, err := b.Tasks(ctx, x.House)
	if err != nil {
		return nil, err
	}
	p := words.English(x.Doc.System())
	var list []TrialTask
	for i := range tasks {
		if tasks[i].Done != nil {
			list = append(list, TrialTask{tasks[i].ID, p.Tell(tasks[i].Read.Name)})
		}
	}
	return list, nil
}

// ready carries a procedure out as it is done on a unit.
func (t *Trials) ready(ctx context.Context, x *Present, build, task string) (*onUnit, error) {
	b, err := t.Publishing.Build(ctx, x, withOf(x.Doc, build))
	if err != nil {
		return nil, err
	}
	tasks, err := b.Tasks(ctx, x.House)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(tasks, func(k chapter.Task) bool { return k.ID == task && k.Done != nil })
	if i < 0 {
		return nil, refused("This model can’t have the procedure.")
	}
	r := &onUnit{Present: x, Build: b, Task: tasks[i]}
	whole := measure.OnTrial(b.Net, r.Task.Done, r.Task.Proof)
	if whole != r.Task.Done {
		pr, err := proof.Prove(ctx, b.Net, whole)
		if err != nil {
			return nil, err
		}
		r.Task.Done, r.Task.Proof, r.Task.Read = whole, pr, instruction.Of(b.Net, x.House, whole, pr)
	}
	r.Subject = cause.Subject{Net: b.Net, Proc: r.Task.Done,
		Drains: func(n *plumbing.Network) map[*plumbing.Part]quantity.Second {
			_, drains := draft.Times(n, x.House)
			return drains
		}}
	r.Probes = measure.Probes(b.Net, r.Task.Done, r.Task.Proof)
	r.Base = measure.Says(b.Net, r.Task.Done, r.Task.Proof, r.Probes)
	return r, nil
}

// Begin takes a procedure to a unit.
func (t *Trials) Begin(ctx context.Context, by By, scope Scope, unit uint64, task, place, weather,
	units string) (*Trial, error) {
	u, err := t.Units.Get(ctx, scope, unit)
	if err != nil {
		return nil, err
	}
	if utf8.RuneCountInString(place) > 160 || utf8.RuneCountInString(weather) > 160 {
		return nil, refused("Where it is and what the weather is like have at most 160 letters each.")
	}
	x, err := t.Publishing.Present(ctx, u.Slug)
	if err != nil {
		return nil, err
	}
	r, err := t.ready(ctx, x, u.Build, task)
	if err != nil {
		return nil, err
	}
	sys := x.Doc.System()
	switch units {
	case "us":
		sys = quantity.US
	case "si":
		sys = quantity.SI
	default:
		units = map[quantity.System]string{quantity.US: "us", quantity.SI: "si"}[sys]
	}
	p := words.English(sys)
	what := r.steps(p, sys)
	what.Units = units
	raw, err := json.Marshal(what)
	if err != nil {
		return nil, err
	}
	page, err := r.page(ctx, guide.Units(units))
	if err != nil {
		return nil, err
	}
	one := &Trial{Code: NewCode(), ModelID: x.Row.ID, Slug: x.Row.Slug, Number: x.Rev.Number, UnitID: u.ID,
		Serial: u.Serial,
		Build:  u.Build, Task: task, Title: p.Tell(r.Task.Read.Name), DealerID: u.DealerID, State: TrialOpen,
		Place: strings.TrimSpace(place), Weather: strings.TrimSpace(weather), ByID: by.ID, ByName: by.Name,
		Steps: string(raw),
		Page:  page, CreatedAt: t.Now().UTC()}
	return one, t.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddTrial(ctx, one); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "began a trial", u.Slug, u.Serial+": "+task)
	})
}

// page are the steps as they are read on the phone.
func (r *onUnit) page(ctx context.Context, units guide.Units) (string, error) {
	in, err := r.Present.Inputs(ctx, r.Build, true)
	if err != nil {
		return "", err
	}
	in.Edition, in.Tasks, in.Looks = chapter.Dealer, []chapter.Task{r.Task}, nil
	in.Blocks = func(id string) bool { return id == "task-"+r.Task.ID }
	if in.By != nil { // the trial is of the procedure, also where an edition leaves it out
		by := *in.By
		in.By = &by
	}
	walks, err := guide.Walks(ctx, in, guide.Options{With: r.Build.With, Units: units, Writing: true})
	if err != nil {
		return "", err
	}
	plan := guide.NewPlan(&in)
	for i := range walks {
		if walks[i].ID == r.Task.ID {
			var page bytes.Buffer
			err := html.Walk(&page, &walks[i], &html.Plan{Width: plan.Width, Height: plan.Height, SVG: plan.SVG})
			return page.String(), err
		}
	}
	return "", refused("This procedure is left out of the dealer’s edition: put it back there first.")
}

// steps are the steps as they are measured at.
func (r *onUnit) steps(p *words.Printer, sys quantity.System) (x TrialSteps) {
	n, rules := r.Build.Net, r.Present.House
	keys := amend.Keys(r.Task.Done.Steps)
	x.Jug = float64(house.Jug.Of(rules))
	for _, f := range house.Fields(rules) {
		x.Fields = append(x.Fields, float64(f))
	}
	x.Ranges = map[string]trial.Range{}
	for _, k := range []trial.Kind{trial.StartLevel, trial.HoseFlow, trial.Chlorine, trial.Outside, trial.Pressure,
		trial.Temperature, trial.Rest} {
		x.Ranges[string(k)] = trial.RangeOf(k, 0, sys)
	}
	for _, t := range n.PartsOf(plumbing.RoleTank) {
		x.Tanks = append(x.Tanks, TrialOf{ID: t.ID, Name: t.Name})
	}
	for i := range r.Task.Read.Steps {
		s := &r.Task.Done.Steps[i]
		step := TrialStep{Key: keys[i], Head: p.Step(&r.Task.Read.Steps[i]).Head}
		for _, a := range s.Acts {
			switch {
			case a.Verb == state.Turn && a.Part.Role() == plumbing.RoleDrain:
				step.Drains = append(step.Drains, TrialOf{ID: a.Part.ID, Name: a.Part.Name})
				if h := heaterOf(n, a.Part); h != nil && !h.Data.AnodeNew.IsZero() {
					x.Ranges["diameter "+h.ID] = trial.Diameter(h.Data.AnodeNew.Value(), sys)
					step.Anodes = append(step.Anodes, TrialOf{ID: h.ID, Name: h.Name, New: float64(h.Data.AnodeNew.Value()),
						Core: float64(h.Data.AnodeCore.Value())})
				}
			case a.Verb == state.On && a.Part.Role() == plumbing.RolePump:
				step.Pumps = append(step.Pumps, TrialOf{ID: a.Part.ID, Name: a.Part.Name})
			}
		}
		for k := range r.Probes {
			if m := &r.Probes[k]; m.Step == i {
				v := r.Base[m.ID()]
				most := map[measure.Kind]float64{measure.Jug: max(20, 4*v), measure.Caught: max(20, 2*v),
					measure.Clock: max(3600, 4*v)}[m.Kind]
				step.Probes = append(step.Probes, TrialProbe{Kind: m.Kind, Of: m.Of, Name: nameOf(p, m), Computed: v,
					Spread: measure.Spread(m.Kind, v), Range: trial.RangeOf(trial.Kind(m.Kind), most, sys)})
			}
		}
		x.Steps = append(x.Steps, step)
	}
	return x
}

// heaterOf is the heater whose drain a part shuts; nil for none.
func heaterOf(n *plumbing.Network, drain *plumbing.Part) *plumbing.Part {
	for i := range n.Links {
		l := &n.Links[i]
		a, b := n.Nodes[l.A].Part, n.Nodes[l.B].Part
		for _, pair := range [][2]*plumbing.Part{{a, b}, {b, a}} {
			if l.Line != nil && pair[0] == drain && pair[1].Role() == plumbing.RoleHeater {
				return pair[1]
			}
		}
	}
	return nil
}

// nameOf is where something is measured, in words.
func nameOf(p *words.Printer, m *measure.Probe) string {
	if m.At == nil {
		return ""
	}
	if _, side, ok := strings.Cut(m.Of, "."); ok && (side == "hot" || side == "cold") && len(m.At.Ports()) > 1 {
		return m.At.Name + ", " + p.Choice(side)
	}
	return m.At.Name
}

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
			Value: e.Value,
			Words: e.Text, ByID: by.ID, ByName: by.Name})
	}
	if len(rows) > 0 {
		err := t.Store.Do(ctx, func(tx Tx) error {
			kept, err := tx.TrialEntries(ctx, x.ID)
			if err != nil {
				return err
			}
			if len(kept)+len(rows) > mostTrialEntries {
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

// Finish ends a trial, opens it again, or drops it. A trial that is finished stands in the unit's log, with what it
// was a
// trial of.
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
	err = t.Store.Do(ctx, func(tx Tx) error {
		if err := tx.SetTrial(ctx, x); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "set a trial "+to, x.Slug, x.Serial+": "+x.Task)
	})
	if err != nil {
		return err
	}
	if err := t.Tell(ctx, x.Slug); err != nil || to != TrialFinished {
		return err
	}
	return t.Units.Write(ctx, by, scope, x.UnitID, logged(x, entries, now)...)
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

// Measured is something that was measured, beside what is computed.
type Measured struct {
	Probe    string
	Kind     measure.Kind
	Step     string // its key
	Head     string
	Name     string
	Value    float64
	Computed float64
	Off      float64 // in standard deviations
	Spread   float64
	At       time.Time
}

// Compared is what a trial came to.
type Compared struct {
	Trial   *Trial
	Rows    []Measured
	Lost    []trial.Entry // measurements of steps that the procedure has no more
	Build   *Build
	Subject cause.Subject
	Ranking *cause.Ranking
	Asks    []cause.Correction // of the class, in its order
	Basis   string
}

// rankerBytes is how much is kept of procedures that were carried out with every cause, about perRanker each.
const (
	rankerBytes = 64 << 20
	perRanker   = 3 << 20
)

// Compare holds what a trial measured against its procedure, carried out on the model as it is now as the trial was
// made.
func (t *Trials) Compare(ctx context.Context, x *Trial) (*Compared, error) {
	p, err := t.Publishing.Present(ctx, x.Slug)
	if err != nil {
		return nil, err
	}
	entries, err := t.Entries(ctx, x)
	if err != nil {
		return nil, err
	}
	r, err := t.ready(ctx, p, x.Build, x.Task)
	if err != nil {
		return nil, err
	}
	conditions := trial.Conditions(entries)
	r.Subject = r.Subject.Under(conditions)
	raw, err := json.Marshal(conditions)
	if err != nil {
		return nil, err
	}
	t.rankers.Most = rankerBytes
	ranker, err := t.rankers.Get(p.Basis+" "+x.Build+" "+x.Task+" "+string(raw), func() (*cause.Ranker, int64, error) {
		k, err := cause.NewRanker(ctx, r.Subject)
		return k, perRanker, err
	})
	if err != nil {
		return nil, err
	}
	c := &Compared{Trial: x, Build: r.Build, Subject: r.Subject, Basis: p.Basis}
	readings := trial.Readings(entries, ranker.Probes(), house.Fields(p.House))
	c.fill(entries, ranker, readings, r.steps(words.English(p.Doc.System()), p.Doc.System()))
	if c.Ranking, err = ranker.Rank(ctx, readings); err != nil {
		return nil, err
	}
	for _, f := range c.Ranking.Class {
		ask := cause.Correct(r.Build.Net, p.House, f.Cause)
		if ask.Where == cause.InRule && p.House.Row(ask.Of).Scope == ByModel {
			ask.Path = ofModel
		}
		c.Asks = append(c.Asks, ask)
	}
	return c, nil
}

// fill puts each reading beside what is computed.
func (c *Compared) fill(entries []trial.Entry, k *cause.Ranker, readings []measure.Reading, steps TrialSteps) {
	heads, names := map[string]string{}, map[string]string{}
	for _, s := range steps.Steps {
		heads[s.Key] = s.Head
		for _, p := range s.Probes {
			names[string(p.Kind)+" "+s.Key+" "+p.Of] = p.Name
		}
	}
	next := 0
	for _, e := range trial.Holds(entries) {
		if !slices.Contains(measure.Kinds(), measure.Kind(e.Kind)) {
			continue
		}
		if next < len(readings) && readingOf(readings[next].Probe, e) {
			r := &readings[next]
			next++
			says := k.Base()[r.Probe]
			c.Rows = append(c.Rows, Measured{Probe: r.Probe, Kind: r.Kind, Step: e.Step, Head: heads[e.Step],
				Name: names[string(e.Kind)+" "+e.Step+" "+e.Of], Value: e.Value, Computed: says, Off: r.Off(says),
				Spread: r.Spread, At: time.UnixMilli(e.At).UTC()})
			continue
		}
		c.Lost = append(c.Lost, e)
	}
	order := map[string]int{}
	for i, s := range steps.Steps {
		order[s.Key] = i
	}
	slices.SortStableFunc(c.Rows, func(a, b Measured) int { return order[a.Step] - order[b.Step] })
}

func readingOf(probe string, e trial.Entry) bool {
	id := string(e.Kind) + " " + e.Step
	if e.Of != "" {
		id += " " + e.Of
	}
	return probe == id
}

// Comparison begins to compare a trial, or finds where that is.
func (t *Trials) Comparison(ctx context.Context, x *Trial) (*Job, error) {
	p, err := t.Publishing.Present(ctx, x.Slug)
	if err != nil {
		return nil, err
	}
	rows, err := t.Store.TrialEntries(ctx, x.ID)
	if err != nil {
		return nil, err
	}
	last := ""
	for i := range rows {
		last = max(last, rows[i].Mark)
	}
	key := fmt.Sprintf("trial %s %s %d %s", x.Code, p.Basis, len(rows), last)
	return t.Jobs.Find(key, "Comparing a trial on "+x.Serial, "", 1, func(ctx context.Context, step func()) (any, error) {
		defer step()
		got, err := t.Compare(ctx, x)
		if err != nil {
			return nil, err
		}
		return got, t.Store.Do(ctx, func(tx Tx) error { return tx.SetVerdict(ctx, x.ID, string(got.Ranking.Verdict)) })
	}), nil
}

// Pool is what the finished trials of a procedure measured together.
type Pool struct {
	Task, Title string
	Trials      int
	Rows        []PoolRow
	Untried     int // measurements of it that nobody took yet
}

// PoolRow is one thing that was measured.
type PoolRow struct {
	pool.Pooled
	Kind       measure.Kind
	Head, Name string
}

// Pool puts together what the finished trials of a model measured, by procedure, beside what is computed now for each
// as it was made; procedures that nobody has tried are listed by their names.
func (t *Trials) Pool(ctx context.Context, x *Present, list []Trial) (pools []Pool, untried []string, err error) {
	tasks, err := t.TasksOf(ctx, x, "")
	if err != nil {
		return nil, nil, err
	}
	p := words.English(x.Doc.System())
	for _, task := range tasks {
		one := Pool{Task: task.ID, Title: task.Title}
		var points []pool.Point
		var first *onUnit
		for i := range list {
			if list[i].Task != task.ID || list[i].State != TrialFinished {
				continue
			}
			r, err := t.ready(ctx, x, list[i].Build, task.ID)
			if err != nil {
				continue // the build has it no more
			}
			entries, err := t.Entries(ctx, &list[i])
			if err != nil {
				return nil, nil, err
			}
			one.Trials++
			got, err := r.points(ctx, &list[i], entries)
			if err != nil {
				return nil, nil, err
			}
			points = append(points, got...)
			if first == nil {
				first = r
			}
		}
		if one.Trials == 0 {
			untried = append(untried, task.Title)
			continue
		}
		one.rows(first, points, p)
		pools = append(pools, one)
	}
	return pools, untried, nil
}

// points are the measurements of a trial beside what is computed for it as it was made.
func (r *onUnit) points(ctx context.Context, x *Trial, entries []trial.Entry) (list []pool.Point, err error) {
	s := r.Subject.Under(trial.Conditions(entries))
	pr, err := proof.Prove(ctx, s.Net, s.Proc)
	if err != nil {
		return nil, err
	}
	says := measure.Says(s.Net, s.Proc, pr, r.Probes)
	for _, m := range trial.Readings(entries, r.Probes, house.Fields(r.Present.House)) {
		on := x.CreatedAt
		if x.FinishedAt != nil {
			on = *x.FinishedAt
		}
		list = append(list, pool.Point{Probe: m.Probe, Computed: says[m.Probe], Measured: m.Low, On: on, Trial: x.Code})
	}
	return list, nil
}

// rows are what was measured, in the order of the steps.
func (o *Pool) rows(r *onUnit, points []pool.Point, p *words.Printer) {
	var ids []string
	by := map[string]*measure.Probe{}
	for i := range r.Probes {
		ids = append(ids, r.Probes[i].ID())
		by[r.Probes[i].ID()] = &r.Probes[i]
	}
	for _, x := range pool.Of(ids, points) {
		if x.Count == 0 {
			o.Untried++
			continue
		}
		m := by[x.Probe]
		o.Rows = append(o.Rows, PoolRow{Pooled: x, Kind: m.Kind, Head: p.Step(&r.Task.Read.Steps[m.Step]).Head,
			Name: nameOf(p, m)})
	}
}
