package trials

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"strings"

	"coldtap/internal/app"
	"coldtap/internal/core/cause"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/trial"
	"coldtap/internal/core/words"
)

type remark struct{ When, Who, Head, Text, Photo string }

// lead says how much longer one of some lines is; of one alone, which.
func (b *compareBody) lead(got *app.Compared, p *words.Printer) {
	least, most := math.Inf(1), math.Inf(-1)
	for _, f := range got.Ranking.Class {
		if f.Kind == cause.Line {
			least, most = min(least, f.Size), max(most, f.Size)
		}
	}
	way := "longer"
	if most < 0 {
		way, least, most = "shorter", -most, -least
	}
	sys := got.Subject.Net.System()
	by := "about " + quantity.Both(quantity.Millimetre(most), sys)
	if most > 1.1*least {
		by = quantity.Neat(quantity.Millimetre(least), sys) + " to " + quantity.Neat(quantity.Millimetre(most), sys)
	}
	switch len(b.Lines) {
	case 0:
	case 1:
		b.Lead = fmt.Sprintf("One line is %s %s than listed", by, way)
	default:
		b.Lead = fmt.Sprintf("One of these %d lines is %s %s than listed", len(b.Lines), by, way)
	}
}

// probe is a measurement in words.
func (s View) probe(t *app.Trial, id string) string {
	for _, step := range t.What().Steps {
		for _, m := range step.Probes {
			name := strings.TrimSpace(string(m.Kind) + " " + step.Key + " " + m.Of)
			if name == id {
				return strings.TrimSpace(fmt.Sprintf("%s at “%s” %s", strings.ToLower(kindNames[m.Kind]), step.Head, m.Name))
			}
		}
	}
	return id
}

// what is what a correction would change, in words.
func what(got *app.Compared, x cause.Correction) string {
	if x.Where == cause.InRule {
		return fmt.Sprintf("%s: %s instead of %s", ruleName(x.Of), x.After, x.Before)
	}
	name := x.Of
	if x.Kind == cause.Line {
		name = "Line " + words.English(quantity.US).Tell(cause.NameOfLine(got.Subject.Net, x.Of))
	} else if p := got.Subject.Net.Model.Part(x.Of); p != nil {
		name = p.Name
	}
	return fmt.Sprintf("%s, %s: %s instead of %s", name, words.English(quantity.US).Field(x.Path), x.After,
		cmp.Or(x.Before, "nothing"))
}

// written tells what was written down beside measurements.
func (s View) written(ctx context.Context, body *compareBody) error {
	all, err := s.Trials.Entries(ctx, body.Trial)
	if err != nil {
		return err
	}
	x := body.Trial.What()
	heads, names := map[string]string{}, map[string]string{}
	for _, st := range x.Steps {
		heads[st.Key] = st.Head
		for _, list := range [][]app.TrialOf{st.Drains, st.Pumps, st.Anodes} {
			for _, o := range list {
				names[o.ID] = o.Name
			}
		}
	}
	for _, o := range x.Tanks {
		names[o.ID] = o.Name
	}
	body.Steps = len(x.Steps)
	seen := map[string]bool{}
	for _, e := range all {
		if e.Who != "" && !seen[e.Who] {
			seen[e.Who] = true
			body.People = append(body.People, e.Who)
		}
	}
	for _, e := range trial.Holds(all) {
		r := remark{When: moment(e.At), Who: e.Who, Head: heads[e.Step], Text: e.Text}
		switch e.Kind {
		case trial.Done:
			body.Done++
		case trial.Instead:
			body.Instead = append(body.Instead, r)
		case trial.Note:
			body.Notes = append(body.Notes, r)
		case trial.Photo:
			r.Photo = "/trials/" + body.Trial.Code + "/photo/" + e.ID
			body.Notes = append(body.Notes, r)
		default:
			if text := said(e, names, x.Units); text != "" {
				if e.Step != "" {
					r.Text = text
					body.Notes = append(body.Notes, r)
				} else {
					body.Like = append(body.Like, text)
				}
			}
		}
	}
	if body.Few, err = s.few(ctx, body.Trial); err != nil {
		return err
	}
	if body.Reports, err = s.reports(ctx, body.Trial.ModelID, body.Trial.Task, x); err != nil {
		return err
	}
	made, err := s.Store.CorrectionsOf(ctx, body.Trial.ModelID)
	for _, m := range made {
		if m.TrialID == body.Trial.ID {
			body.Made = append(body.Made, m)
		}
	}
	return err
}

// enough is how many trials of a procedure there are to go by.
const enough = 3

// few says how few trials of a procedure there are to go by.
func (s View) few(ctx context.Context, t *app.Trial) (string, error) {
	list, err := s.Store.TrialsOf(ctx, t.ModelID, app.Scope{All: true})
	units := map[uint64]bool{}
	for _, x := range list {
		if x.Task == t.Task && x.State == app.TrialFinished {
			units[x.UnitID] = true
		}
	}
	switch n := len(units); {
	case n < 2:
		return "One trial tells of one unit. A second on another unit tells whether it is this unit or the model.", err
	case n < enough:
		return fmt.Sprintf("Only %d units were tried so far: few to tell the model by.", n), err
	}
	return "", err
}

// warmth are how warm a pump is, in words.
var warmth = []string{"cold", "hand-warm", "hot", "too hot to touch"}

// said is an entry that is no measurement, in words; "" for one that says nothing by itself.
func said(e trial.Entry, names map[string]string, units string) string {
	sys := quantity.US
	if units == "si" {
		sys = quantity.SI
	}
	name := cmp.Or(names[e.Of], e.Of)
	switch e.Kind {
	case trial.StartLevel:
		return fmt.Sprintf("%s was %.0f %% full", name, 100*e.Value)
	case trial.HoseFlow:
		return "The hose gave " + quantity.Both(quantity.LitrePerMinute(e.Value), sys)
	case trial.Chlorine:
		return "The supply had " + quantity.Show(quantity.MgPerLitre(e.Value), sys)
	case trial.Helper:
		if e.Value > 0 {
			return "Somebody stood at the low points"
		}
		return "Nobody stood at the low points"
	case trial.Left:
		return "This step was left out"
	case trial.Shut:
		return name + " was not opened"
	case trial.Outside:
		return "It was " + quantity.Both(quantity.Celsius(e.Value), sys) + " outside"
	case trial.Pressure:
		return strings.TrimSpace(quantity.Both(quantity.Kilopascal(e.Value), sys) + " " + e.Text)
	case trial.Temperature:
		return strings.TrimSpace(quantity.Both(quantity.Celsius(e.Value), sys) + " " + e.Text)
	case trial.Warm:
		return name + " was " + warmth[max(0, min(3, int(e.Value)))]
	case trial.CutOut:
		return name + " stopped by itself"
	case trial.Rest:
		return "The pump rested for " + quantity.Both(quantity.Second(e.Value), sys)
	case trial.Anode:
		return fmt.Sprintf("The anode of %s is %.0f %% used, %s", name, 100*e.Value, e.Text)
	case trial.Smelt:
		if e.Value > 0 {
			return cmp.Or(e.Text, "somebody") + " smelt it"
		}
		return cmp.Or(e.Text, "somebody") + " did not smell it, and used a strip"
	}
	return ""
}
