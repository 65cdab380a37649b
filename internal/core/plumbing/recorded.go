package plumbing

import (
	"iter"
	"reflect"
	"strings"
	"sync"

	"coldtap/internal/core/quantity"
	"coldtap/internal/core/record"
)

// A recorded network tells what is read of it: fields of parts, lines and the
// model by Field and the methods here, how all is joined by the network's own
// lists. What is not recorded costs a comparison with nil.

// Recorded is the network that tells a recorder what is read of it. Parts,
// lines and places stay the same. It is for one goroutine.
func (n *Network) Recorded(rec *record.Recorder) *Network {
	c := *n
	c.rec, c.memo, c.fields = rec, newMemo(), map[fieldKey]record.Ref{}
	return &c
}

// mostRemembered is how many answers are remembered of one network.
const mostRemembered = 64

// Remember gives what is worked out of a network by a key, mostly from the
// second time on without working it out again; what was read for it counts as
// read each time. Nobody changes what it gives.
func Remember[T any](n *Network, key any, work func() T) T {
	if n.memo == nil {
		return work()
	}
	n.memo.mu.Lock()
	k, ok := n.memo.kept[key]
	n.memo.mu.Unlock()
	if !ok {
		k.from = n.rec.DuringRefs(func() { k.value = work() })
		n.memo.mu.Lock()
		if len(n.memo.kept) < mostRemembered {
			n.memo.kept[key] = k
		}
		n.memo.mu.Unlock()
	}
	n.rec.NoteRefs(k.from...)
	return k.value.(T)
}

// fieldKey tells a field of a model from others: by its address, and by its type
// where a field begins where the one around it does.
type fieldKey struct {
	at   uintptr
	kind reflect.Type
}

// fieldPaths names the fields of a struct by where in it they stand, as the model
// file has them.
type fieldPaths map[fieldKey]string

func pathsOf[T any]() fieldPaths {
	paths := fieldPaths{}
	paths.add(reflect.TypeFor[T](), 0, "")
	return paths
}

// add names every field of a struct. Lists of the model are named thing by
// thing.
func (paths fieldPaths) add(t reflect.Type, at uintptr, within string) {
	for f := range fieldsOf(t) {
		tag, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		path := within + tag
		paths[fieldKey{at + f.Offset, f.Type}] = path
		if f.Type.Kind() == reflect.Struct && f.Type.NumField() > 0 && f.Type.Field(0).IsExported() {
			paths.add(f.Type, at+f.Offset, path+".")
		}
	}
}

// fieldsOf goes through the exported fields of a struct.
func fieldsOf(t reflect.Type) iter.Seq[reflect.StructField] {
	return func(yield func(reflect.StructField) bool) {
		for i := range t.NumField() {
			if f := t.Field(i); f.IsExported() && !yield(f) {
				return
			}
		}
	}
}

// The fields of all that a model has, worked out once.
var (
	modelPaths      = sync.OnceValue(pathsOf[Model])
	partPaths       = sync.OnceValue(pathsOf[Part])
	linePaths       = sync.OnceValue(pathsOf[Line])
	consumablePaths = sync.OnceValue(pathsOf[Consumable])
)

// inputOf says which field of a model stands at an address.
func inputOf(m *Model, key fieldKey) record.Input {
	if in, ok := within(m.Parts, key, partPaths(), func(p *Part) string { return p.ID }); ok {
		return in
	}
	if in, ok := within(m.Lines, key, linePaths(), func(l *Line) string { return l.ID }); ok {
		return in
	}
	if in, ok := within(m.Consumables, key, consumablePaths(), func(c *Consumable) string { return c.ID }); ok {
		return in
	}
	if path, ok := modelPaths()[fieldKey{key.at - reflect.ValueOf(m).Pointer(), key.kind}]; ok {
		return record.Input{Kind: record.Field, Field: path}
	}
	return record.Input{Kind: record.Field, Of: "?", Field: key.kind.String()}
}

// within is inputOf for a field of one of a list's things.
func within[T any](list []T, key fieldKey, paths fieldPaths, id func(*T) string) (record.Input, bool) {
	if len(list) == 0 {
		return record.Input{}, false
	}
	size, first := reflect.TypeFor[T]().Size(), reflect.ValueOf(&list[0]).Pointer()
	i := (key.at - first) / size
	if key.at < first || i >= uintptr(len(list)) {
		return record.Input{}, false
	}
	path, ok := paths[fieldKey{(key.at - first) % size, key.kind}]
	return record.Input{Kind: record.Field, Of: id(&list[i]), Field: path}, ok
}

// Field is a field of a part, a line, a consumable or the model of a network.
func Field[T any](n *Network, f *T) T {
	if n.rec.On() {
		key := fieldKey{reflect.ValueOf(f).Pointer(), reflect.TypeFor[T]()}
		ref, ok := n.fields[key]
		if !ok {
			ref = n.rec.Ref(inputOf(n.Model, key))
			n.fields[key] = ref
		}
		n.rec.NoteRefs(ref)
	}
	return *f
}

// noteJoined tells that it is read which parts there are and how they are
// joined.
func (n *Network) noteJoined() {
	if n.rec.On() {
		n.rec.Note(record.Input{Kind: record.Plumbing})
	}
}

// Note tells that something else is read while something is worked out of the
// network: a constant, a setting, a figure.
func (n *Network) Note(inputs ...record.Input) { n.rec.Note(inputs...) }

// Recorder is who wants to know what is read, nil for nobody.
func (n *Network) Recorder() *record.Recorder { return n.rec }

// HoldsOf is Part.Holds.
func (n *Network) HoldsOf(p *Part) quantity.Litre {
	if h := Field(n, &p.Data.HoldUp); !h.IsZero() {
		return h.Value()
	}
	return Field(n, &p.Data.Capacity).Value()
}

// InsideDiameter is a line's, and where it is from.
func (n *Network) InsideDiameter(l *Line) (quantity.Millimetre, string) {
	if n.rec.On() && Field(n, &l.Inside).IsZero() {
		Field(n, &l.Size)
	}
	return l.InsideDiameter()
}

// Content is what a link holds.
func (n *Network) Content(l *Link) quantity.Litre {
	if n.rec.On() {
		switch {
		case l.Line != nil:
			n.InsideDiameter(l.Line)
			Field(n, &l.Line.Length)
		case l.Part != nil && !l.Seat:
			n.HoldsOf(l.Part)
		}
	}
	return l.Content
}

// Holds is what a piece holds.
func (n *Network) Holds(i PieceID) quantity.Litre {
	p := &n.Pieces[i]
	if n.rec.On() {
		switch {
		case p.Link == None && p.Vessel:
			Field(n, &p.Part.Data.Capacity)
		case p.Link == None:
			Field(n, &p.Part.Data.HoldUp)
		default:
			n.Content(&n.Links[p.Link])
			n.Spots(n.Links[p.Link].Line)
		}
	}
	return p.Holds
}

// Spots are the high and low spots of a line from its From end on; none of
// nil.
func (n *Network) Spots(l *Line) []Spot {
	if l == nil {
		return nil
	}
	if n.rec.On() && len(Field(n, &l.Spots)) > 0 {
		Field(n, &l.Length)
	}
	return l.SpotsInOrder()
}

// PortHeight is Part.PortHeight.
func (n *Network) PortHeight(p *Part, port string) (quantity.Metre, bool) {
	if n.rec.On() {
		if _, own := Field(n, &p.Heights)[port]; !own {
			Field(n, &p.Place.Height)
			Field(n, &p.Data.InsideHeight) // a port at the part's top is as much higher
		}
	}
	return p.PortHeight(port)
}

// OpeningPressure is Part.OpeningPressure.
func (n *Network) OpeningPressure(p *Part) quantity.Kilopascal {
	if p.Kind != ReliefValve {
		Field(n, &p.Data.OpensAt)
	}
	return p.OpeningPressure()
}

// System is the unit system that the model shows first.
func (n *Network) System() quantity.System {
	Field(n, &n.Model.Units)
	return n.Model.System()
}
