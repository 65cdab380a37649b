package joining

import (
	"slices"
	"strings"

	"coldtap/internal/core/edit"
	"coldtap/internal/core/plumbing"
)

func key(name string) string { return strings.Join(tokens(name), " ") }

// name finds the part that each end of each row means, and its kind.
func (r *reader) name() {
	r.ends = make([][2]end, len(r.rows))
	for i, row := range r.rows {
		for e, text := range []string{row.From, row.To} {
			other := []string{row.To, row.From}[e]
			if strings.TrimSpace(text) == "" {
				r.joints[i].Faults = append(r.joints[i].Faults, Fault{Code: "empty", End: e})
				continue
			}
			p, ports := r.meant(text, other)
			r.ends[i][e] = end{p, ports}
			p.ends = append(p.ends, at{i, e})
		}
		if a, b := r.ends[i][0].part, r.ends[i][1].part; a != nil && a == b {
			r.joints[i].Faults = append(r.joints[i].Faults, Fault{Code: "same-part", Part: a.name})
		}
	}
	r.alike()
	taken := map[string]bool{}
	for _, p := range r.order {
		if p.old != nil {
			continue
		}
		p.id = edit.ID(p.name, func(id string) bool { return r.model.Part(id) != nil || taken[id] })
		taken[p.id] = true
		r.kindOf(p)
	}
}

// meant is the part that a text means, and the ports that it says.
func (r *reader) meant(text, other string) (*part, []string) {
	text = strings.Join(strings.Fields(text), " ")
	if id, port := plumbing.PartOf(strings.ToLower(text)); port != "" && r.model.Part(id) != nil {
		return r.old(r.model.Part(id)), []string{port}
	}
	if old := r.find(text); old != nil {
		return r.old(old), nil
	}
	if name, ports, ok := portSaid(text); ok && key(name) != key(other) {
		if old := r.find(name); old != nil {
			if has := among(r.old(old).ports(), ports); has != nil {
				return r.old(old), has
			}
		} else if kind, _, ok := Meaning(name); ok && kind.Info().Role != plumbing.RoleJunction || r.parts[key(name)] != nil {
			if kind == plumbing.Valve && slices.Contains(ports, "com") {
				kind = plumbing.ThreeWay // only such a one has a common port
			}
			p := &part{kind: kind}
			if q := r.parts[key(name)]; q != nil && q.told {
				p = q
			}
			if p.kind != "" {
				if has := among(p.ports(), ports); has != nil {
					return r.new(name), has
				}
			}
		} else if r.nearly(name) {
			return r.new(name), ports
		}
	}
	return r.new(text), nil
}

// nearly reports whether a name is that of a part of the model but for a slip.
func (r *reader) nearly(name string) bool {
	return slices.ContainsFunc(r.model.Parts, func(p plumbing.Part) bool { return slip(tokens(name), tokens(p.Name)) })
}

func among(have, want []string) (list []string) {
	for _, w := range want {
		if slices.Contains(have, w) {
			list = append(list, w)
		}
	}
	return list
}

// find is the part of the model that a name means: by its id, or by the words of its
// name or label.
func (r *reader) find(name string) *plumbing.Part {
	k := key(name)
	var found *plumbing.Part
	for i := range r.model.Parts {
		p := &r.model.Parts[i]
		if p.ID == name || key(p.Name) == k {
			return p
		}
		if sameWords(p.Name, name) || p.Label != "" && key(p.Label) == k {
			if found != nil {
				return nil // two of them
			}
			found = p
		}
	}
	return found
}

// sameWords reports whether two names have the same words in another order.
func sameWords(a, b string) bool {
	x, y := tokens(a), tokens(b)
	slices.Sort(x)
	slices.Sort(y)
	return slices.Equal(x, y)
}

func (r *reader) old(p *plumbing.Part) *part {
	k := "\x00" + p.ID
	if r.parts[k] == nil {
		r.parts[k] = &part{key: k, name: p.Name, id: p.ID, kind: p.Kind, told: true, old: p}
		r.order = append(r.order, r.parts[k])
	}
	return r.parts[k]
}

func (r *reader) new(name string) *part {
	k := key(name)
	if r.parts[k] == nil {
		for _, p := range r.order {
			if p.old == nil && sameWords(p.name, name) {
				return p
			}
		}
		r.parts[k] = &part{key: k, name: plumbing.Upper(name)}
		r.order = append(r.order, r.parts[k])
	}
	return r.parts[k]
}

// kindOf tells the kind of a new part, or asks for it.
func (r *reader) kindOf(p *part) {
	id := string(AskKind) + ":" + p.key
	if answer := r.answers[id]; answer != "" {
		kind, typ, _ := strings.Cut(answer, "/")
		if plumbing.Kind(kind).Info() != nil {
			p.kind, p.typ, p.told = plumbing.Kind(kind), typ, true
			return
		}
	}
	if p.kind, p.typ, p.told = Meaning(p.name); p.told {
		if p.kind == plumbing.Valve && len(p.ends) == 3 {
			p.kind = plumbing.ThreeWay // it has three lines
		}
		return
	}
	if slices.ContainsFunc(
		r.questions,
		func(q Question) bool { return q.What == AskSame && (q.Part == p.name || q.Other == p.name) },
	) {
		return // it may be another's name
	}
	r.ask(Question{ID: id, What: AskKind, Part: p.name}, p.rows()...)
}

// alike asks whether names that differ by a slip of the pen mean one part.
func (r *reader) alike() {
	for _, p := range slices.Clone(r.order) { // parts of the model that no row names as they are
		for i := range r.model.Parts {
			if old := &r.model.Parts[i]; p.old == nil && (slip(words(p), tokens(old.Name)) ||
				shorter(p, &part{name: old.Name, kind: old.Kind, old: old})) {
				r.old(old)
			}
		}
	}
	for i := 0; i < len(r.order); i++ {
		for j := i + 1; j < len(r.order); j++ {
			a, b := r.order[i], r.order[j]
			if a.old != nil && b.old != nil || !slip(words(a), words(b)) && !shorter(a, b) {
				continue
			}
			id := string(AskSame) + ":" + a.name + "|" + b.name
			switch r.answers[id] {
			case "yes":
				if b.old != nil {
					a, b = b, a
				}
				r.unite(a, b)
				r.order = slices.DeleteFunc(r.order, func(p *part) bool { return p == b })
				i, j = -1, len(r.order)
			case "no":
			default:
				r.ask(Question{ID: id, What: AskSame, Part: a.name, Other: b.name, Options: yesNo},
					slices.Concat(a.rows(), b.rows())...)
			}
		}
	}
}

func words(p *part) []string { return tokens(p.name) }

// unite makes one part of two names.
func (r *reader) unite(a, b *part) {
	for _, e := range b.ends {
		r.ends[e.row][e.end].part = a
		a.ends = append(a.ends, e)
	}
	r.parts[b.key] = a
}

// single kinds are mostly there once: a shorter name for one is likely the same.
var single = []plumbing.Kind{plumbing.Pump, plumbing.Heater, plumbing.CityInlet, plumbing.GravityFill,
	plumbing.Accumulator, plumbing.Tank}

// shorter reports whether one name of two is the other with words left out, of a kind
// that is mostly there once.
func shorter(a, b *part) bool {
	kind := func(p *part) plumbing.Kind {
		if p.old != nil {
			return p.kind
		}
		k, _, _ := Meaning(p.name)
		return k
	}
	if kind(a) != kind(b) || !slices.Contains(single, kind(a)) {
		return false
	}
	x, y := words(a), words(b)
	if len(x) > len(y) {
		x, y = y, x
	}
	return len(x) < len(y) && !slices.ContainsFunc(x, func(w string) bool { return !slices.Contains(y, w) })
}

// slip reports whether two names differ in one word only, and in that by a slip: not by
// a number, nor by a word that tells parts apart.
func slip(a, b []string) bool {
	if len(a) != len(b) {
		return false
	}
	differ := 0
	for i := range a {
		if a[i] == b[i] {
			continue
		}
		if differ++; differ > 1 || min(len(a[i]), len(b[i])) < 4 || strings.ContainsAny(a[i]+b[i], "0123456789") ||
			distance(a[i], b[i]) > 2 || known(a[i]) && known(b[i]) {
			return false
		}
	}
	return differ == 1
}

// known reports whether a word is one of the trade's, and so no slip of another.
func known(w string) bool {
	if portWords[w] != nil || weak[w] != "" {
		return true
	}
	for _, rule := range trade {
		if slices.Contains(strings.Fields(rule.words), w) {
			return true
		}
	}
	return false
}

// distance is how many letters must be changed, put in or taken out to make one word of
// another (V. I. Levenshtein, 1965).
func distance(a, b string) int {
	x, y := []rune(a), []rune(b)
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		before := row[0]
		row[0] = i + 1
		for j := range y {
			cost := before
			if x[i] != y[j] {
				cost++
			}
			before = row[j+1]
			row[j+1] = min(cost, row[j]+1, row[j+1]+1)
		}
	}
	return row[len(y)]
}
