package app

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"coldtap/internal/core/amount"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/compare"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/people"
)

// Effect is what a correction changes of a model.
type Effect struct {
	Slug, Title string
	Figures     []compare.Figure // that differ
	Guides      []GuideEffect    // published guides of it, of which more would not hold
	Lowers      []fact.Fact      // what it lowers that keeps people and lines safe
	Err         error            // why it can't be said; nil where it can
}

// GuideEffect is how many lines of a published guide would no longer hold, beside those that don't already.
type GuideEffect struct {
	Letter string
	Lines  int
}

// ofModel is the path of a correction of a rule that a model has for itself.
const ofModel = "model"

// changed is a model with a correction in it.
func changed(x *Present, slug string, c cause.Correction) (*Present, error) {
	y := *x
	rev := *x.Rev
	rev.Hash, rev.Document = "corrected "+c.ID()+" "+c.After+" "+x.Basis, ""
	y.Rev = &rev
	switch c.Where {
	case cause.InModel:
		if x.Row.Slug != slug {
			return nil, nil
		}
		done, err := setFigure(c)(x.Doc)
		if err != nil {
			return nil, err
		}
		y.Doc = done.Model
	case cause.InRule:
		scope := ByHouse
		if c.Path == ofModel {
			scope = ByModel
		}
		own := x.House.Row(c.Of).Scope == ByModel
		if scope == ByModel && x.Row.Slug != slug || scope == ByHouse && own {
			return nil, nil // the rule is not that of this model
		}
		var err error
		if y.House, err = x.House.With(scope, map[string]string{c.Of: c.After}); err != nil {
			return nil, err
		}
	default:
		return nil, nil
	}
	return &y, nil
}

// setFigure is the edit that a correction of a model is.
func setFigure(c cause.Correction) Operation {
	return func(m *plumbing.Model) (*edit.Done, error) {
		return edit.Set(m, thingOf(c), c.Of, map[string]string{c.Path: c.After})
	}
}

// thingOf is what a correction of a model is of.
func thingOf(c cause.Correction) edit.Thing {
	if c.Kind == cause.Line {
		return edit.OfLine
	}
	return edit.OfPart
}

// Effects says what a correction would change, of every model; models of which nothing changes are left out. It tells
// each model that it has looked at.
func (t *Trials) Effects(ctx context.Context, slug string, c cause.Correction, step func()) ([]Effect, error) {
	models, err := t.Store.Models(ctx)
	if err != nil {
		return nil, err
	}
	var list []Effect
	for i := range models {
		e, err := t.effect(ctx, models[i].Slug, slug, c)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err != nil {
			e = &Effect{Slug: models[i].Slug, Title: models[i].Name, Err: err}
		}
		if e != nil {
			list = append(list, *e)
		}
		step()
	}
	return list, nil
}

// effect is what a correction changes of one model; nil for nothing.
func (t *Trials) effect(ctx context.Context, of, slug string, c cause.Correction) (*Effect, error) {
	if c.Where == cause.InModel && of != slug {
		return nil, nil
	}
	x, err := t.Publishing.Present(ctx, of)
	if err != nil {
		return nil, err
	}
	y, err := changed(x, slug, c)
	if err != nil || y == nil {
		return nil, err
	}
	before, err := subjectOf(ctx, x)
	if err != nil {
		return nil, err
	}
	after, err := subjectOf(ctx, y)
	if err != nil {
		return nil, err
	}
	e := &Effect{Slug: of, Title: fmt.Sprintf("%s (%d)", x.Doc.Name, x.Doc.Year)}
	for _, f := range compare.Figures(before, after) {
		if f.Differs {
			e.Figures = append(e.Figures, f)
		}
	}
	e.Lowers = lowers(x.House, y.House, before, after)
	gone, err := t.cautionsGone(ctx, x, y)
	if err != nil {
		return nil, err
	}
	e.Lowers = append(e.Lowers, gone...)
	weaker, err := weaker(ctx, x, y)
	if err != nil {
		return nil, err
	}
	e.Lowers = append(e.Lowers, weaker...)
	guides, err := t.Store.PublishedOf(ctx, of)
	if err != nil {
		return nil, err
	}
	for i := range guides {
		if guides[i].State != Published {
			continue
		}
		n, err := t.wouldNotHold(ctx, &guides[i], x, y)
		if err != nil {
			return nil, err
		}
		if n > 0 {
			e.Guides = append(e.Guides, GuideEffect{guides[i].Letter, n})
		}
	}
	if e.Figures == nil && e.Guides == nil && e.Lowers == nil {
		return nil, nil
	}
	return e, nil
}

// wouldNotHold counts the lines of a published guide that hold now and would not any more.
func (t *Trials) wouldNotHold(ctx context.Context, g *PublishedGuide, now, then *Present) (n int, err error) {
	for _, of := range g.Of().Builds {
		was, err := t.Keeping.checkBuild(ctx, now, g, of)
		if err != nil {
			return 0, err
		}
		would, err := t.Keeping.checkBuild(ctx, then, g, of)
		if err != nil {
			return 0, err
		}
		had := map[string]bool{}
		for i := range was {
			for k := range was[i].List {
				had[was[i].key(k)] = true
			}
		}
		for i := range would {
			for k := range would[i].List {
				if !had[would[i].key(k)] {
					n++
				}
			}
		}
	}
	return n, nil
}

// weaker tells where the weakest place of a winterized system would have less antifreeze.
func weaker(ctx context.Context, now, then *Present) (list []fact.Fact, err error) {
	was, err := weakestOf(ctx, now)
	if err != nil || was == nil {
		return nil, err
	}
	is, err := weakestOf(ctx, then)
	if err != nil || is == nil || is.Share >= was.Share-1e-9 {
		return nil, err
	}
	return []fact.Fact{fact.Of("lowers", fact.Word("lowers.protection"), quantity.Percent(100*is.Share))}, nil
}

// weakestOf is the weakest place of a model when antifreeze has gone through drained lines; nil where none goes.
func weakestOf(ctx context.Context, x *Present) (*amount.Weakest, error) {
	s, plan, err := planned(ctx, x)
	if err != nil {
		return nil, err
	}
	a := setting.ForMode(plan, setting.Antifreeze)
	if !a.Has() {
		return nil, nil
	}
	w, err := amount.WeakestPoint(s, plan, a, amount.Drained, x.House)
	if err != nil {
		return nil, nil // nothing is known of it, before or after
	}
	return w, nil
}

// cautionsGone are the cautions of a model's procedures that a correction would take away.
func (t *Trials) cautionsGone(ctx context.Context, now, then *Present) (list []fact.Fact, err error) {
	b, err := t.Publishing.Build(ctx, now, now.Doc.StandardOptions()) // what is known of the model as it is is kept
	if err != nil {
		return nil, err
	}
	was, err := cautionsOf(ctx, b, now.House)
	if err != nil {
		return nil, err
	}
	if b, err = newBuild(then.Doc, then.Doc.StandardOptions()); err != nil {
		return nil, err
	}
	is, err := cautionsOf(ctx, b, then.House)
	if err != nil {
		return nil, err
	}
	for _, key := range slices.Sorted(maps.Keys(was)) {
		if _, ok := is[key]; !ok {
			list = append(list, fact.Of("lowers.caution", was[key]))
		}
	}
	return list, nil
}

// cautionsOf are the cautions of a model's procedures, each by its procedure and what it is about, whatever figures it
// tells.
func cautionsOf(ctx context.Context, b *Build, rules house.House) (map[string]fact.Fact, error) {
	tasks, err := b.Tasks(ctx, rules)
	if err != nil {
		return nil, err
	}
	all := map[string]fact.Fact{}
	for i := range tasks {
		if !tasks[i].Has() {
			continue
		}
		for _, s := range tasks[i].Read.Steps {
			for _, c := range s.Cautions {
				key := tasks[i].ID + " " + c.Said.ID
				for _, a := range c.Said.Args {
					if p, ok := a.(*plumbing.Part); ok {
						key += " " + p.ID
					}
				}
				all[key] = c.Said
			}
		}
	}
	return all, nil
}

func subjectOf(ctx context.Context, x *Present) (compare.Subject, error) {
	n, plan, err := planned(ctx, x)
	if err != nil {
		return compare.Subject{}, err
	}
	return compare.SubjectOf(n, plan, x.House), nil
}

// planned is the standard build of a model with the positions found for it.
func planned(ctx context.Context, x *Present) (*plumbing.Network, []setting.Answer, error) {
	b, err := x.Doc.Build(x.Doc.StandardOptions()...)
	if err != nil {
		return nil, nil, err
	}
	n, err := plumbing.NewNetwork(b)
	if err != nil {
		return nil, nil, err
	}
	plan, err := setting.Plan(ctx, n)
	return n, plan, err
}

// lowers is what a correction lowers that keeps people and lines safe: overrun and soak by their rules, a dose, the
// antifreeze that protects.
func lowers(before, after house.House, was, is compare.Subject) (list []fact.Fact) {
	add := func(name string, x, y float64, said fact.Fact) {
		if y < x-1e-9 {
			list = append(list, fact.Of("lowers", fact.Word("lowers."+name), said))
		}
	}
	overrun, soak := house.Overrun.Of(after), house.SoakLow.Of(after)
	add("overrun", float64(house.Overrun.Of(before)), float64(overrun), fact.Of("it.both", overrun))
	add("soak", float64(house.SoakLow.Of(before)), float64(soak), fact.Of("it.both", soak))
	if a, b := was.Report.Chosen, is.Report.Chosen; a != nil && b != nil {
		add("antifreeze", float64(a.Total), float64(b.Total), fact.Of("it.both", b.Total))
	}
	for i := range was.Report.Doses {
		if i < len(is.Report.Doses) {
			a, b := &was.Report.Doses[i], &is.Report.Doses[i]
			add("dose", float64(a.Measured.Litre), float64(b.Measured.Litre), fact.Of("it", b.Measured))
		}
	}
	return list
}

// Ask keeps what a trial asks to be corrected, and takes it over at once where that lowers nothing that keeps people and
// lines safe: else it waits for the reviewer. It gives what became of it.
func (t *Trials) Ask(ctx context.Context, who *Person, x *Trial, c cause.Correction, lowers string) (*Correction,
	error) {
	if c.Where != cause.InModel && c.Where != cause.InRule || c.After == "" || c.After == c.Before {
		return nil, refused("There is nothing to be corrected in the model or in a rule.")
	}
	row := &Correction{TrialID: x.ID, ModelID: x.ModelID, Slug: x.Slug, Cause: string(c.Kind), Place: string(c.Where),
		What: c.Of, Path: c.Path, Before: c.Before, After: c.After, Lowers: lowers, State: CorrectionAsked,
		ByID: who.ID, ByName: who.Name}
	err := t.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddCorrection(ctx, row); err != nil {
			return err
		}
		return tx.Audit(ctx, who.By(), "asked for a correction", x.Slug, row.text())
	})
	if err != nil || lowers != "" && who.Role != people.Reviewer {
		return row, err
	}
	return row, t.TakeOver(ctx, who, row.ID)
}

// text is what a correction changes.
func (x *Correction) text() string {
	return fmt.Sprintf("%s %s: %s to %s", x.What, x.Path, x.Before, x.After)
}

// correction is it as the core has it.
func (x *Correction) correction() cause.Correction {
	return cause.Correction{Cause: cause.Cause{Kind: cause.Kind(x.Cause)}, Where: cause.Where(x.Place), Of: x.What,
		Path: x.Path, Before: x.Before, After: x.After}
}

// mayDecide refuses who may not take a correction over.
func mayDecide(who *Person, x *Correction) error {
	switch {
	case x.Lowers == "" && (who.Role == people.Author || who.Role == people.Reviewer):
		return nil
	case who.Role != people.Reviewer:
		return refused("It lowers what keeps people and lines safe (%s): the reviewer takes it over.", x.Lowers)
	case x.ByID == who.ID:
		return refused("Nobody takes over what they asked for themselves, where it lowers what keeps people and lines safe.")
	}
	return nil
}

// TakeOver makes a correction in the model or the rule that it is of, with the trial as the reason. What was changed
// there since it was asked for is not overwritten.
func (t *Trials) TakeOver(ctx context.Context, who *Person, id uint64) error {
	x, err := t.Store.Correction(ctx, id)
	if err != nil {
		return err
	}
	if x.State != CorrectionAsked {
		return refused("This correction is %s already.", x.State)
	}
	if err := mayDecide(who, x); err != nil {
		return err
	}
	one, err := t.Store.Trial(ctx, x.TrialID)
	if err != nil {
		return err
	}
	x.State, x.DecidedByID, x.DecidedBy = CorrectionTaken, who.ID, who.Name
	why := fmt.Sprintf("trial of %s on %s", one.Title, one.Serial)
	return t.write(ctx, who.By(), x, CorrectionAsked, x.Before, x.After, why)
}

// Undo takes a correction back that was taken over: the figure is as it was before.
func (t *Trials) Undo(ctx context.Context, who *Person, id uint64) error {
	x, err := t.Store.Correction(ctx, id)
	if err != nil {
		return err
	}
	if x.State != CorrectionTaken {
		return refused("This correction is %s.", x.State)
	}
	if who.Role != people.Author && who.Role != people.Reviewer {
		return ErrNotYours
	}
	x.State, x.DecidedByID, x.DecidedBy = CorrectionUndone, who.ID, who.Name
	return t.write(ctx, who.By(), x, CorrectionTaken, x.After, x.Before, "a correction by a trial is taken back")
}

// TurnDown says that a correction is not made.
func (t *Trials) TurnDown(ctx context.Context, who *Person, id uint64) error {
	x, err := t.Store.Correction(ctx, id)
	if err != nil {
		return err
	}
	if err := mayDecide(who, x); err != nil {
		return err
	}
	x.State, x.DecidedByID, x.DecidedBy = CorrectionNo, who.ID, who.Name
	return t.Store.Do(ctx, func(tx Tx) error {
		if err := tx.SetCorrection(ctx, x, CorrectionAsked); err != nil {
			return err
		}
		return tx.Audit(ctx, who.By(), "turned a correction down", x.Slug, x.text())
	})
}

// write changes a figure from one text to another, together with what becomes of the correction.
func (t *Trials) write(ctx context.Context, by By, x *Correction, state, from, to, why string) error {
	moved := func(now string) error {
		return refused("It was %s when the trial was looked at, and is %s now: look at the trial again.", from, now)
	}
	set := func(tx Tx) error {
		if err := tx.SetCorrection(ctx, x, state); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "a correction is "+x.State, x.Slug, x.text())
	}
	if cause.Where(x.Place) == cause.InRule {
		scope := ""
		if x.Path == ofModel {
			scope = x.Slug
		}
		return t.Store.Do(ctx, func(tx Tx) error {
			rules, err := tx.HouseRules(ctx)
			if err != nil {
				return err
			}
			i := slices.IndexFunc(rules, func(r HouseRule) bool { return r.Scope == scope && r.Rule == x.What })
			change := RuleChange{Rule: x.What, Value: to}
			switch {
			case i >= 0 && rules[i].Value != from && !sameRule(x.What, rules[i].Value, from):
				return moved(rules[i].Value)
			case i >= 0:
				change.From = rules[i].Version
			case x.State == CorrectionUndone:
				return moved("not set")
			}
			if x.State == CorrectionUndone && !x.wasSet() {
				change.Value = "" // nobody had set it
			}
			if err := (&Rules{Store: tx}).Set(ctx, by, scope, []RuleChange{change}, why); err != nil {
				return err
			}
			x.Version = change.From + 1
			return set(tx)
		})
	}
	c := x.correction()
	c.Before, c.After = from, to
	_, rev, err := t.Store.Current(ctx, x.Slug)
	if err != nil {
		return err
	}
	doc, err := rev.Read()
	if err != nil {
		return err
	}
	if now := edit.Texts(doc, thingOf(c), c.Of, []string{c.Path})[c.Path]; now != from {
		return moved(now)
	}
	op := func(m *plumbing.Model) (*edit.Done, error) {
		done, err := setFigure(c)(m)
		if err == nil {
			done.Said = fact.Of("edit.by-trial", done.Said, why)
		}
		return done, err
	}
	_, err = t.Edits.Change(ctx, x.Slug, rev.Number, by, op, func(tx Tx) error {
		row, _, err := tx.Head(ctx, x.Slug)
		if err != nil {
			return err
		}
		x.Number = row.Revision
		return set(tx)
	})
	return err
}

// wasSet reports whether somebody had set the rule before: else its text is what is usual in the trade.
func (x *Correction) wasSet() bool { return x.Version > 1 }

// sameRule reports whether two texts set a rule alike.
func sameRule(id, a, b string) bool {
	x, err := house.Usual(quantity.US).With("", map[string]string{id: a})
	if err != nil {
		return false
	}
	y, err := house.Usual(quantity.US).With("", map[string]string{id: b})
	return err == nil && strings.EqualFold(x.Text(id, quantity.US), y.Text(id, quantity.US))
}
