package joining

import (
	"coldtap/internal/core/plumbing"
)

// existing finds the rows that mean a line that is there: where one line joins the two
// parts, it is that line. Other ports that have lines are taken.
func (r *reader) existing() {
	for _, p := range r.order {
		p.used = map[string]bool{}
	}
	byID := map[string]*part{}
	for _, p := range r.order {
		if p.old != nil {
			byID[p.id] = p
		}
	}
	claimed := map[string]bool{}
	for i := range r.rows {
		a, b := r.ends[i][0], r.ends[i][1]
		if a.part == nil || b.part == nil || a.part.old == nil || b.part.old == nil {
			continue
		}
		var fits []*plumbing.Line
		for k := range r.model.Lines {
			if l := &r.model.Lines[k]; joins(l, a, b) || joins(l, b, a) {
				fits = append(fits, l)
			}
		}
		if len(fits) != 1 || claimed[fits[0].ID] {
			continue
		}
		l := fits[0]
		claimed[l.ID] = true
		from, to := l.From, l.To
		if !joins(l, a, b) {
			from, to = to, from
		}
		r.joints[i].Line = l.ID
		for e, ref := range []string{from, to} {
			_, port := plumbing.PartOf(ref)
			r.joints[i].Ends[e] = End{Part: r.ends[i][e].part.id, Port: port}
		}
	}
	for k := range r.model.Lines {
		for _, ref := range []string{r.model.Lines[k].From, r.model.Lines[k].To} {
			id, port := plumbing.PartOf(ref)
			if p := byID[id]; p != nil {
				p.used[port] = true
			}
		}
	}
}

// joins reports whether a line runs from one end to the other, by the ports where they
// say one.
func joins(l *plumbing.Line, from, to end) bool {
	return fits(l.From, from) && fits(l.To, to)
}

func fits(ref string, e end) bool {
	id, port := plumbing.PartOf(ref)
	if id != e.part.id {
		return false
	}
	for _, p := range e.ports {
		if p == port {
			return true
		}
	}
	return len(e.ports) == 0
}
