package plumbing

import (
	"reflect"
	"slices"
	"sync"

	"coldtap/internal/core/record"
)

// structure keeps what is worked out of how a network is joined and of what its
// handles do, whatever its lines hold. Networks that differ in the lengths of
// their lines alone share it, so that a changed length works none of it out
// anew.
type structure struct {
	mu   sync.Mutex
	kept map[any]structural
}

// mostStructural is how much is kept of one structure: the searches of every
// mode, and as many drainings as an edit asks for.
const mostStructural = 512

type structural struct {
	value    any
	from     []record.Input
	recorded bool // from is known
}

// Alike reports whether two models differ at most in the lengths of their
// lines.
func Alike(a, b *Model) bool {
	bare := func(l Line) Line {
		l.Length = Line{}.Length
		return l
	}
	return slices.EqualFunc(a.Lines, b.Lines, func(x, y Line) bool { return reflect.DeepEqual(bare(x), bare(y)) }) &&
		reflect.DeepEqual(a.Parts, b.Parts) && a.Kind == b.Kind && a.Units == b.Units
}

// Share makes the network use what was worked out of another's structure, where
// their models are alike. It comes before anything is asked of it.
func (n *Network) Share(other *Network) {
	if n != other && Alike(n.Model, other.Model) {
		n.structure = other.structure
	}
}

// Structural gives what is worked out of a network's structure by a key, once
// for all networks that share it. What it gives holds no part or line of its
// model, only their numbers, and nobody changes it. It is not kept where work
// says so.
func Structural[T any](n *Network, key any, work func() (value T, keep bool)) T {
	s := n.structure
	if s == nil {
		v, _ := work()
		return v
	}
	s.mu.Lock()
	k, ok := s.kept[key]
	s.mu.Unlock()
	if ok && (k.recorded || !n.rec.On()) {
		n.rec.Note(k.from...)
		return k.value.(T)
	}
	var value T
	keep := false
	from := n.rec.During(func() { value, keep = work() })
	n.rec.Note(from...)
	if keep {
		s.mu.Lock()
		if len(s.kept) < mostStructural {
			s.kept[key] = structural{value, from, n.rec.On()}
		}
		s.mu.Unlock()
	}
	return value
}

func newStructure() *structure { return &structure{kept: map[any]structural{}} }
