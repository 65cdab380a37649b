// Package record notes what is read while something is worked out, so that
// a figure can say what it was really computed from.
package record

import (
	"cmp"
	"slices"
	"strings"
)

// Kind is a kind of thing that is read.
type Kind string

// What a figure may be computed from.
const (
	Field    Kind = "field"    // of a part, a line or the model: a figure or a word that somebody gave
	Plumbing Kind = "plumbing" // which parts there are, how they are joined, what their handles do
	Rule     Kind = "rule"     // of the house
	Constant Kind = "constant" // of nature or of the trade
	Setting  Kind = "setting"  // the positions found for a mode
	Figure   Kind = "figure"   // another figure
	Photo    Kind = "photo"    // photographs, with their marks
	Hand     Kind = "hand"     // what a hand wrote in the guide
	Program  Kind = "program"  // its computations and its words
)

// Input is one thing that was read.
type Input struct {
	Kind  Kind
	Of    string // id of the part, line, rule, constant, mode or figure; "" for the model itself
	Field string // as the model file names it: "data.capacity"
}

// String is the input as exports name it: "rule overrun", "field fresh
// data.capacity".
func (in Input) String() string {
	return strings.Join(slices.DeleteFunc([]string{string(in.Kind), in.Of, in.Field}, func(s string) bool {
		return s == ""
	}), " ")
}

// Compare puts inputs in order: by kind, what they are of, field.
func Compare(a, b Input) int {
	return cmp.Or(cmp.Compare(a.Kind, b.Kind), cmp.Compare(a.Of, b.Of), cmp.Compare(a.Field, b.Field))
}

// Recorder keeps what is read. A nil Recorder keeps nothing, so that what
// nobody asks about costs nothing. It is not for several goroutines at once.
type Recorder struct {
	open   []page
	kept   []Kept
	has    map[string]bool
	inputs []Input // by their Ref
	refs   map[Input]Ref
	whole  []int // how many pages were open when each Whole began
}

// Ref stands for an input in one Recorder, for what is noted over and over.
type Ref int32

// Ref is what stands for an input.
func (r *Recorder) Ref(in Input) Ref {
	ref, ok := r.refs[in]
	if !ok {
		if r.refs == nil {
			r.refs = map[Input]Ref{}
		}
		ref = Ref(len(r.inputs))
		r.refs[in] = ref
		r.inputs = append(r.inputs, in)
	}
	return ref
}

// Kept is something that was worked out, with what was read for it.
type Kept struct {
	ID     string
	Value  any
	Sheet  any // how it was worked out; nil where nothing says so
	Inputs []Input
}

// Keep keeps what was worked out, in the order in which that is done. What is
// worked out again is the same again.
func (r *Recorder) Keep(k Kept) {
	if r == nil || r.has[k.ID] {
		return
	}
	if r.has == nil {
		r.has = map[string]bool{}
	}
	r.has[k.ID] = true
	r.kept = append(r.kept, k)
}

// Whole lets whatever is around some work stand on every figure that is worked out there, whichever of it is looked
// at.
func (r *Recorder) Whole(work func()) {
	if !r.On() {
		work()
		return
	}
	r.whole = append(r.whole, len(r.open))
	defer func() { r.whole = r.whole[:len(r.whole)-1] }()
	work()
}

// Worked tells that a figure was worked out.
func (r *Recorder) Worked(id string) {
	if n := len(r.wholes()); n > 0 && r.whole[n-1] == len(r.open) {
		r.Note(Input{Kind: Figure, Of: id})
	}
}

func (r *Recorder) wholes() []int {
	if r == nil {
		return nil
	}
	return r.whole
}

// Kept lists what was kept.
func (r *Recorder) Kept() []Kept {
	if r == nil {
		return nil
	}
	return slices.Clone(r.kept)
}

// Note tells that something is read.
func (r *Recorder) Note(inputs ...Input) {
	if !r.On() {
		return
	}
	top := &r.open[len(r.open)-1]
	for _, in := range inputs {
		top.note(r.Ref(in))
	}
}

// NoteRefs is Note of what stands for inputs.
func (r *Recorder) NoteRefs(refs ...Ref) {
	if !r.On() {
		return
	}
	top := &r.open[len(r.open)-1]
	for _, ref := range refs {
		top.note(ref)
	}
}

// On reports whether anybody wants to know what is read.
func (r *Recorder) On() bool { return r != nil && len(r.open) > 0 }

// During gives what is read while some work is done, in the order in which it
// is read first. What is around it does not take it for its own: it notes the
// result instead.
func (r *Recorder) During(work func()) []Input {
	refs := r.DuringRefs(work)
	if refs == nil {
		return nil
	}
	inputs := make([]Input, len(refs))
	for i, ref := range refs {
		inputs[i] = r.inputs[ref]
	}
	return inputs
}

// DuringRefs is During with what stands for the inputs.
func (r *Recorder) DuringRefs(work func()) []Ref {
	if r == nil {
		work()
		return nil
	}
	r.open = append(r.open, page{})
	defer func() { r.open = r.open[:len(r.open)-1] }()
	work()
	return r.open[len(r.open)-1].list
}

// page is what was read during some work.
type page struct {
	has  []uint64 // a bit for each Ref
	list []Ref
}

func (p *page) note(ref Ref) {
	word, bit := int(ref)/64, uint64(1)<<(ref%64)
	for len(p.has) <= word {
		p.has = append(p.has, 0)
	}
	if p.has[word]&bit == 0 {
		p.has[word] |= bit
		p.list = append(p.list, ref)
	}
}
