package trials

import (
	"context"
	"fmt"

	"coldtap/internal/app"
	"coldtap/internal/core/house"
)

func ruleName(id string) string {
	if r := house.RuleByID(id); r != nil {
		return r.Name
	}
	return id
}

// poolOf is what trials of a procedure came to together.
type poolOf struct {
	Title   string
	Trials  int
	Untried int
	Rows    []poolRow
}

type poolRow struct {
	What, Head, Name string
	Computed, Mean   string
	Spread, Ratio    string
	Count            int
}

// together fills in what the trials of a model come to, what they ask for and what owners report.
func (s View) together(ctx context.Context, x *app.Present, trials []app.Trial, body *listBody) error {
	pools, untried, err := s.Trials.Pool(ctx, x, trials)
	if err != nil {
		return err
	}
	body.Untried = untried
	sys := x.Doc.System()
	for _, p := range pools {
		one := poolOf{Title: p.Title, Trials: p.Trials, Untried: p.Untried}
		for _, r := range p.Rows {
			row := poolRow{What: kindNames[r.Kind], Head: r.Head, Name: r.Name, Computed: Show(r.Kind, r.Computed, sys),
				Mean: Show(r.Kind, r.Mean, sys), Count: r.Count}
			if r.Count > 1 {
				row.Spread = Show(r.Kind, r.Spread, sys)
			}
			if r.Ratio > 0 {
				row.Ratio = fmt.Sprintf("%.0f %%", 100*r.Ratio)
			}
			one.Rows = append(one.Rows, row)
		}
		body.Pools = append(body.Pools, one)
	}
	all, err := s.Store.CorrectionsOf(ctx, x.Row.ID)
	if err != nil {
		return err
	}
	for _, c := range all {
		if c.State == app.CorrectionAsked {
			body.Asked = append(body.Asked, c)
		} else {
			body.Past = append(body.Past, c)
		}
	}
	body.Reports, err = s.reports(ctx, x.Row.ID, "", app.TrialSteps{})
	return err
}
