// Package script reads what the steps of a procedure ask of a person, as jobs
// of package pretend. It reads the steps as they are written, not what a run of
// them came to.
package script

import (
	"slices"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/run"
	"coldtap/internal/core/state"
	"coldtap/internal/pretend"
)

// Of are the jobs of a procedure.
func Of(n *plumbing.Network, p *proof.Procedure) (jobs []pretend.Job) {
	keys, jugs, hose := amend.Keys(p.Steps), "", ""
	for i := range p.Steps {
		s := &p.Steps[i]
		j := pretend.Job{Key: keys[i], Turns: turns(n, s.Acts), After: turns(n, s.Then)}
		for _, a := range s.Acts {
			for _, side := range a.Sides {
				j.Opens = append(j.Opens, a.Part.ID+"."+side)
			}
			switch {
			case a.Verb == state.Join && a.With.Fluid == state.Antifreeze:
				jugs = a.Part.ID + ".mouth"
			case a.Verb == state.Join && a.Part.Role() == plumbing.RoleInlet && a.With.Kind == state.Supply:
				hose = a.Part.ID
			case a.Verb == state.Part && a.Part.ID == hose:
				hose = ""
			}
		}
		for _, at := range s.Until.At {
			j.At = append(j.At, n.Nodes[at].Name())
		}
		for _, x := range s.Pour {
			if x.Into.Kind == plumbing.Tank {
				j.Tank, j.Pours = x.Into.ID, j.Pours+float64(x.Litre)
				j.Mg += float64(x.Litre) * float64(x.Mix.Chlorine)
			}
		}
		j.Litres, j.Seconds, j.Level = float64(s.Until.Litre), float64(s.Until.For), s.Until.Level
		switch s.Until.Sense {
		case run.Dry:
			j.Do = pretend.RunOut
			j.Catch = lowest(n, s.Acts)
		case run.Full:
			j.Do = pretend.Fill
		case run.Coloured:
			j.Do, j.From = pretend.Colour, jugs
			if slices.ContainsFunc(s.Until.At,
				func(at plumbing.NodeID) bool { return n.Nodes[at].Part.Role() == plumbing.RoleDrain }) {
				j.Do = pretend.LowPoint
			}
		case run.Strong:
			j.Do = pretend.Dosed
		case run.Ran:
			j.Do = pretend.Flush
		case run.Empty:
			j.Do = pretend.PumpOut
		case run.Passed:
			j.Do, j.From = pretend.Wait, hose
		}
		jobs = append(jobs, j)
	}
	return jobs
}

func turns(n *plumbing.Network, acts []state.Act) (list []pretend.Turn) {
	for _, a := range acts {
		if a.Verb == state.Turn {
			list = append(list, pretend.Turn{Part: a.Part.ID, To: a.To, Tank: atTank(n, a.Part),
				Drain: a.Part.Role() == plumbing.RoleDrain})
		}
	}
	return list
}

// atTank reports whether a line joins a part to a tank's drain.
func atTank(n *plumbing.Network, p *plumbing.Part) bool {
	return slices.ContainsFunc(n.Links, func(l plumbing.Link) bool {
		a, b := n.Nodes[l.A].Part, n.Nodes[l.B].Part
		return l.Line != nil && (a == p && b.Kind == plumbing.Tank || b == p && a.Kind == plumbing.Tank)
	})
}

// lowest is the opening of the lowest drain of lines that a step opens.
func lowest(n *plumbing.Network, acts []state.Act) (name string) {
	least := 0.0
	for _, a := range acts {
		at := n.Node(a.Part.ID + ".mouth")
		if a.Verb != state.Turn || a.Part.Role() != plumbing.RoleDrain || at == plumbing.None || atTank(n, a.Part) {
			continue
		}
		if z, ok := n.PortHeight(a.Part, "mouth"); ok && (name == "" || float64(z) < least) {
			name, least = n.Nodes[at].Name(), float64(z)
		}
	}
	return name
}
