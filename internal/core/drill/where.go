package drill

import (
	"maps"
	"math"
	"slices"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
)

// apartBy is how far a place lies at least from every other that could be taken
// for it.
const apartBy quantity.Metre = 0.15

// placed are the parts that somebody looks for and whose place is known.
func placed(n *plumbing.Network) (list []*plumbing.Part) {
	for _, p := range n.AllParts() {
		at := &p.Place
		if p.Number > 0 && !p.Kind.Info().Mere && !at.Front.IsZero() && !at.Left.IsZero() && !at.Height.IsZero() {
			list = append(list, p)
		}
	}
	return list
}

func distance(a, b *plumbing.Part) quantity.Metre {
	d := func(x, y quantity.Given[quantity.Metre]) float64 { return float64(x.Value() - y.Value()) }
	return quantity.Metre(math.Hypot(math.Hypot(d(a.Place.Front, b.Place.Front), d(a.Place.Left, b.Place.Left)),
		d(a.Place.Height, b.Place.Height)))
}

// wheres asks for places: which number a part has on the layout, which part a
// number is, and where on a photograph a part is.
func (k *maker) wheres() error {
	all := placed(k.Net)
	var far []*plumbing.Part
	for _, p := range all {
		if slices.ContainsFunc(all, func(o *plumbing.Part) bool { return o != p && distance(o, p) < apartBy }) {
			k.refuse(TooNear)
			continue
		}
		far = append(far, p)
	}
	for _, p := range some("where "+k.Net.Model.ID, far, Most/2) {
		k.whichNumber(p, all)
	}
	for _, p := range some("what "+k.Net.Model.ID, far, Most/2) {
		k.whatIsAt(p, far)
	}
	for _, p := range k.Photos {
		for _, id := range slices.Sorted(maps.Keys(p.Marks)) {
			k.onPhoto(&p, id)
		}
	}
	return nil
}

func placeOf(p *plumbing.Part) []record.Input {
	return []record.Input{{Kind: record.Field, Of: p.ID, Field: "place"}, {Kind: record.Field, Of: p.ID, Field: "name"},
		{Kind: record.Field, Of: p.ID, Field: "number"}}
}

// reachedAt tells the place of a part.
func reachedAt(p *plumbing.Part) fact.Fact { return fact.Of("drill.is-at", p, p.Number, p.Place) }

func (k *maker) whichNumber(p *plumbing.Part, all []*plumbing.Part) {
	if len(all) <= wrongs {
		k.refuse(FewWrong)
		return
	}
	x := Exercise{Key: "number/" + p.ID, Ask: fact.Of("drill.ask.where", p), About: []string{p.ID}, Hard: 2,
		Reasons: map[string]Reason{}, Inputs: placeOf(p)}
	x.Right = []string{p.ID}
	for _, o := range all {
		x.Options = append(x.Options, Option{ID: o.ID, Said: fact.Of("drill.number", o.Number), Parts: []string{o.ID}})
		r := Reason{Said: []fact.Fact{fact.Of("drill.number-is", o.Number, o), reachedAt(p)}, Parts: []string{p.ID}}
		if o == p {
			r.Said = []fact.Fact{reachedAt(p)}
		}
		x.Reasons[o.ID] = r
		if o != p && distance(o, p) < 3*apartBy {
			x.Hard = 3
		}
	}
	slices.SortFunc(x.Options, func(a, b Option) int {
		return k.Net.Model.Part(a.ID).Number - k.Net.Model.Part(b.ID).Number
	})
	if p.Place.Behind != "" {
		x.Hints = []fact.Fact{fact.Of("drill.hint.behind", p.Place.Behind)}
		x.Hard++
	}
	k.add(x)
}

// whatIsAt asks which part a number is. Beside it stand the parts that lie
// nearest.
func (k *maker) whatIsAt(p *plumbing.Part, far []*plumbing.Part) {
	x := Exercise{Key: "what/" + p.ID, Ask: fact.Of("drill.ask.what-is-at", p.Number), About: []string{p.ID}, Hard: 1,
		Reasons: map[string]Reason{}, Inputs: placeOf(p)}
	near := slices.DeleteFunc(slices.Clone(far), func(o *plumbing.Part) bool { return o == p || o.Name == p.Name })
	if len(near) < wrongs {
		k.refuse(FewWrong)
		return
	}
	slices.SortStableFunc(near, func(a, b *plumbing.Part) int {
		if d := distance(a, p) - distance(b, p); d < 0 {
			return -1
		} else if d > 0 {
			return 1
		}
		return 0
	})
	x.Right = []string{p.ID}
	for _, o := range append([]*plumbing.Part{p}, near[:wrongs]...) {
		x.Options = append(x.Options, Option{ID: o.ID, Said: fact.Of("drill.part", o), Parts: []string{o.ID}})
		x.Reasons[o.ID] = Reason{Said: []fact.Fact{reachedAt(o)}, Parts: []string{o.ID}}
		x.Inputs = append(x.Inputs, placeOf(o)...)
	}
	chance(x.Key).Shuffle(len(x.Options), func(i, j int) { x.Options[i], x.Options[j] = x.Options[j], x.Options[i] })
	x.Number = p.Number
	k.add(x)
}

// onPhoto asks for a part on a photograph. Marks that a finger can't tell apart
// are not asked.
func (k *maker) onPhoto(photo *Photo, id string) {
	p := k.Net.Model.Part(id)
	if p == nil {
		return
	}
	at := photo.Marks[id]
	for o, m := range photo.Marks {
		if o != id && math.Hypot(m[0]-at[0], m[1]-at[1]) < nearEnough {
			k.refuse(TooNear)
			return
		}
	}
	x := Exercise{Key: "photo/" + photo.ID + "/" + id, Ask: fact.Of("drill.ask.on-photo", p), About: []string{id},
		Hard: 2, Reasons: map[string]Reason{}, Inputs: append(placeOf(p), record.Input{Kind: record.Photo})}
	x.Photo, x.Marks, x.Right = photo.ID, photo.Marks, []string{id}
	for o := range photo.Marks {
		if other := k.Net.Model.Part(o); other != nil && o != id {
			x.Reasons[o] = Reason{Said: []fact.Fact{fact.Of("drill.points-at", other)}, Parts: []string{o}}
		}
	}
	x.Reasons["nowhere"] = Reason{Said: []fact.Fact{fact.Of("drill.points-nowhere")}}
	x.Reasons[RightOutcome] = Reason{Said: []fact.Fact{reachedAt(p)}, Parts: []string{id}}
	k.add(x)
}
