package plumbing

import (
	"reflect"
	"strings"

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
	c.fields = Once(n, func() fieldNames { return namesOf(n.Model) })
	c.rec, c.memo = rec, newMemo()
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
		k.from = n.rec.During(func() { k.value = work() })
		n.memo.mu.Lock()
		if len(n.memo.kept) < mostRemembered {
			n.memo.kept[key] = k
		}
		n.memo.mu.Unlock()
	}
	n.rec.Note(k.from...)
	return k.value.(T)
}

// fieldNames are the names of fields, by their address.
type fieldNames map[any]record.Input

func namesOf(m *Model) fieldNames {
	names := fieldNames{}
	names.add(reflect.ValueOf(m).Elem(), "", "")
	for i := range m.Parts {
		names.add(reflect.ValueOf(&m.Parts[i]).Elem(), m.Parts[i].ID, "")
	}
	for i := range m.Lines {
		names.add(reflect.ValueOf(&m.Lines[i]).Elem(), m.Lines[i].ID, "")
	}
	for i := range m.Consumables {
		names.add(reflect.ValueOf(&m.Consumables[i]).Elem(), m.Consumables[i].ID, "")
	}
	return names
}

// add names every field of a struct as the model file has it. Lists of the
// model are named thing by thing.
func (names fieldNames) add(v reflect.Value, of, within string) {
	for i := range v.NumField() {
		f := v.Type().Field(i)
		if !f.IsExported() {
			continue
		}
		tag, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		path := within + tag
		names[v.Field(i).Addr().Interface()] = record.Input{Kind: record.Field, Of: of, Field: path}
		if f.Type.Kind() == reflect.Struct && f.Type.NumField() > 0 && f.Type.Field(0).IsExported() {
			names.add(v.Field(i), of, path+".")
		}
	}
}

// Field is a field of a part, a line, a consumable or the model of a network.
func Field[T any](n *Network, f *T) T {
	if n.rec.On() {
		in, ok := n.fields[f]
		if !ok {
			in = record.Input{Kind: record.Field, Of: "?", Field: reflect.TypeFor[T]().String()}
		}
		n.rec.Note(in)
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
