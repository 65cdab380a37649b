package main

import (
	"context"
	"fmt"
	"io"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/words"
)

// procedureReport is a procedure with what its run on the model's own plumbing came to.
type procedureReport struct {
	ID       string         `json:"id"`
	Proven   bool           `json:"proven"`
	Cant     string         `json:"cannot,omitempty"`  // why this model can't have it
	Instead  string         `json:"instead,omitempty"` // what it can have
	Steps    []stepReport   `json:"steps,omitempty"`
	Breaches []breachReport `json:"breaches,omitempty"`
	danger   bool
}

type stepReport struct {
	For     string             `json:"for"`
	Acts    []string           `json:"acts,omitempty"`
	Then    []string           `json:"then,omitempty"`
	Until   string             `json:"until,omitempty"`
	Came    bool               `json:"came"`
	Seconds float64            `json:"seconds,omitempty"`
	Ran     map[string]float64 `json:"ran_litres,omitempty"`  // by outlet side or opening
	Drew    map[string]float64 `json:"drew_litres,omitempty"` // by source
}

type breachReport struct {
	Rule     string `json:"rule"`
	Severity string `json:"severity"`
	Step     int    `json:"step,omitempty"` // from 1; absent for the end
	Part     string `json:"part,omitempty"`
	Words    string `json:"words"`
}

// newProcedureReports drafts the procedures of a model and carries them out.
func newProcedureReports(ctx context.Context, in draft.Inputs) ([]procedureReport, error) {
	var list []procedureReport
	tell := words.English(in.Net.Model.System())
	for _, d := range draft.All(ctx, in) {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if d.Procedure == nil {
			list = append(list, procedureReport{ID: d.ID, Cant: tell.Tell(d.Why), Instead: d.Instead})
			continue
		}
		p, pr, err := amend.Carried(ctx, in.Net, d.Procedure, d.Run)
		if err != nil {
			return nil, err
		}
		// A school that is shown beside others and not advised is no danger to anybody.
		r := procedureReport{ID: p.ID, Proven: pr.Proven(), danger: pr.Worst() == proof.Danger && d.Advised}
		for i, o := range pr.Outcomes {
			s := &p.Steps[i]
			step := stepReport{For: s.For, Until: string(s.Until.Sense), Came: o.Came, Seconds: float64(o.Took)}
			for _, a := range s.Acts {
				step.Acts = append(step.Acts, a.Part.Name+": "+tell.Act(a))
			}
			for _, a := range s.Then {
				step.Then = append(step.Then, a.Part.Name+": "+tell.Act(a))
			}
			for at, v := range o.Ran {
				step.Ran = with(step.Ran, in.Net, at, float64(v))
			}
			for at, v := range o.Drew {
				step.Drew = with(step.Drew, in.Net, at, float64(v))
			}
			r.Steps = append(r.Steps, step)
		}
		for _, b := range pr.Breaches {
			told := breachReport{b.Rule, b.Severity.String(), b.Step + 1, b.Part, tell.Tell(b.Said)}
			if b.Step == len(p.Steps) {
				told.Step = 0
			}
			r.Breaches = append(r.Breaches, told)
		}
		list = append(list, r)
	}
	return list, nil
}

func with(m map[string]float64, n *plumbing.Network, at plumbing.NodeID, v float64) map[string]float64 {
	if m == nil {
		m = map[string]float64{}
	}
	m[n.Nodes[at].Name()] += v
	return m
}

// text tells a procedure in lines.
func (r *procedureReport) text(out io.Writer) {
	state := "proven"
	if r.Cant != "" {
		fmt.Fprintf(out, "  %s: can't be had. %s\n", r.ID, r.Cant)
		return
	}
	if !r.Proven {
		state = "not proven"
	}
	fmt.Fprintf(out, "  %s: %s, %d steps\n", r.ID, state, len(r.Steps))
	for _, b := range r.Breaches {
		where := "at the end"
		if b.Step > 0 {
			where = fmt.Sprintf("step %d", b.Step)
		}
		fmt.Fprintf(out, "    %s, %s: %s\n", where, b.Severity, b.Words)
	}
}
