package app

import (
	"bytes"
	"context"
	"encoding/json"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"coldtap/internal/cache"
	"coldtap/internal/core/amend"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/plumbing"
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

	begin   sync.Once
	rankers cache.Cache[*cause.Ranker] // by all that they follow from
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
			case a.Verb == state.Join && a.Part.Role() == plumbing.RoleFill:
				x.Hose = true
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
