package chapter

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"reflect"
	"regexp"
	"strings"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/record"
	"coldtap/internal/core/setting"
)

// liveRef is what stands in a text for something that follows the model: [[content]], [[part:fresh]],
// [[position:valve-bypass@antifreeze]].
var liveRef = regexp.MustCompile(`\[\[([^\[\]\n]{1,120})\]\]`)

// Piece is a piece of a text: words, or a reference to something that follows the model.
type Piece struct{ Text, Ref string }

// Pieces cuts a text at its references.
func Pieces(text string) (list []Piece) {
	at := 0
	for _, m := range liveRef.FindAllStringSubmatchIndex(text, -1) {
		if m[0] > at {
			list = append(list, Piece{Text: text[at:m[0]]})
		}
		list = append(list, Piece{Ref: strings.TrimSpace(text[m[2]:m[3]])})
		at = m[1]
	}
	if at < len(text) {
		list = append(list, Piece{Text: text[at:]})
	}
	return list
}

// Live is what a reference in a text stands for; nothing where the model has no such thing.
func (in *Inputs) Live(ref string) fact.Fact {
	kind, rest, _ := strings.Cut(ref, ":")
	switch kind {
	case "part":
		if p := in.Net.Model.Part(rest); p != nil {
			return fact.Of("it", p)
		}
		return fact.Fact{}
	case "position":
		return in.livePosition(rest)
	}
	if strings.HasPrefix(ref, "part/") {
		return in.capacity(strings.TrimPrefix(ref, "part/"))
	}
	f := in.figure(ref)
	if f == nil {
		return fact.Fact{}
	}
	return in.said(f)
}

// capacity is what a part holds.
func (in *Inputs) capacity(id string) fact.Fact {
	p := in.Net.Model.Part(id)
	if p == nil {
		return fact.Fact{}
	}
	v := plumbing.Field(in.Net, &p.Data.Capacity)
	return fact.If(!v.IsZero(), fact.Of("it.both", v.Value()))
}

// livePosition is a handle as it stands in a way of use: "handle@mode".
func (in *Inputs) livePosition(ref string) fact.Fact {
	id, mode, _ := strings.Cut(ref, "@")
	a := setting.ForMode(in.Plan, mode)
	if a == nil || !a.Has() {
		return fact.Fact{}
	}
	in.Net.Note(a.From...)
	for i, h := range in.Net.AllHandles() {
		if h.Part.ID == id {
			return fact.Of("it", plumbing.Standing{Part: h.Part, Position: h.Positions[a.State.Position(i)]})
		}
	}
	return fact.Fact{}
}

// Ref is something that a text can have in it that follows the model.
type Ref struct {
	ID   string
	Name fact.Fact
	Is   fact.Fact // now
}

// AllRefs are all that a text can have in it: figures, parts, positions.
func (in *Inputs) AllRefs() (list []Ref) {
	for _, f := range in.AllFigures() {
		list = append(list, f.Ref)
	}
	for _, p := range in.Net.AllParts() {
		if v := in.capacity(p.ID); !v.IsZero() {
			list = append(list, Ref{"part/" + p.ID, fact.Of("named.holds", p), v})
		}
	}
	for _, p := range in.Net.AllParts() {
		list = append(list, Ref{"part:" + p.ID, fact.Of("named.part", p), fact.Of("it", p)})
	}
	for i := range in.Plan {
		a := &in.Plan[i]
		if !a.Has() || a.Mode.Measure {
			continue
		}
		for _, h := range in.Net.AllHandles() {
			ref := "position:" + h.Part.ID + "@" + a.Mode.ID
			list = append(list, Ref{ref, fact.Of("named.position", h.Part, a.Mode.Name), in.Live(ref)})
		}
	}
	return list
}

// longestKey is how long a sentence's key may be before the rest of it is told by a sum.
const longestKey = 120

// Key is by what a sentence is known whatever the amounts in it: its message, and the parts and words that it is
// about.
func Key(f fact.Fact) string {
	key := f.ID
	for _, a := range f.Args {
		if s := keyOf(a); s != "" {
			key += " " + s
		}
	}
	if len(key) > longestKey {
		sum := sha256.Sum256([]byte(key))
		key = key[:longestKey-17] + "~" + hex.EncodeToString(sum[:8])
	}
	return key
}

func keyOf(a any) string {
	switch a := a.(type) {
	case nil:
		return ""
	case fact.Fact:
		if a.IsZero() {
			return ""
		}
		return "(" + Key(a) + ")"
	case plumbing.Standing:
		return a.Part.ID // whatever its position
	case interface{ Ref() string }:
		return a.Ref()
	case fact.Name, fact.Word, fact.Field, string:
		return fmt.Sprint(a)
	}
	list := reflect.ValueOf(a)
	if list.Kind() != reflect.Slice {
		return "" // an amount
	}
	var all []string
	for _, x := range list.Seq2() {
		if s := keyOf(x.Interface()); s != "" {
			all = append(all, s)
		}
	}
	return strings.Join(all, ",")
}

// AllFigures are all figures of the report that have a name, and what was read for each.
func (in *Inputs) AllFigures() (list []NamedFigure) {
	if in.Report == nil {
		return nil
	}
	for i := range in.Report.Figures {
		f := &in.Report.Figures[i]
		if name := in.Named(f.ID); !name.IsZero() {
			list = append(list, NamedFigure{Ref{f.ID, name, in.said(f)}, f.Inputs})
		}
	}
	return list
}

// NamedFigure is a figure with its name and what was read for it.
type NamedFigure struct {
	Ref
	From []record.Input
}
