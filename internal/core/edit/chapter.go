package edit

import (
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Chapter is a change in a model's guide, whose blocks stand in an order of ids.
type Chapter struct{ Blocks []string }

// written changes what a hand wrote, and says what was done.
func written(m *plumbing.Model, said fact.Fact, change func(*plumbing.Written)) (*Done, error) {
	c := clone(m)
	w := plumbing.Written{}
	if old := m.Chapter; old != nil {
		w = plumbing.Written{Order: slices.Clone(old.Order), Hidden: maps.Clone(old.Hidden), Prose: maps.Clone(old.Prose),
			Words: maps.Clone(old.Words), Figures: maps.Clone(old.Figures), Only: maps.Clone(old.Only)}
	}
	change(&w)
	w.Prune()
	c.Chapter = &w
	if reflect.DeepEqual(w, plumbing.Written{}) {
		c.Chapter = nil
	}
	after, err := Check(c)
	if err != nil {
		return nil, err
	}
	return &Done{after, said}, nil
}

// write is written with the blocks in their order.
func (s Chapter) write(m *plumbing.Model, said fact.Fact, change func(*plumbing.Written)) (*Done, error) {
	return written(m, said, func(w *plumbing.Written) {
		w.Order = slices.Clone(s.Blocks)
		change(w)
	})
}

func (s Chapter) has(id string) (int, error) {
	if i := slices.Index(s.Blocks, id); i >= 0 {
		return i, nil
	}
	return 0, fault("Block", "this block is no longer there; load the page again")
}

// Move puts a block before another; "" for the end.
func (s Chapter) Move(m *plumbing.Model, id, before string) (*Done, error) {
	from, to, err := places(s.has, len(s.Blocks), id, before)
	if err != nil {
		return nil, err
	}
	if to == from || to == from+1 {
		return &Done{Model: m}, nil
	}
	said := fact.Of("edit.block-moved", strconv.Itoa(from+1), strconv.Itoa(to+1))
	return s.write(m, said, func(w *plumbing.Written) { w.Order = reordered(w.Order, from, to) })
}

// Hide leaves a block out of an edition, or brings it back.
func (s Chapter) Hide(m *plumbing.Model, id, edition string, hide bool) (*Done, error) {
	at, err := s.has(id)
	if err != nil {
		return nil, err
	}
	said := fact.Of("edit.block-shown", strconv.Itoa(at+1), edition)
	if hide {
		said = fact.Of("edit.block-hidden", strconv.Itoa(at+1), edition)
	}
	return written(m, said, func(w *plumbing.Written) {
		list := slices.DeleteFunc(slices.Clone(w.Hidden[edition]), func(o string) bool { return o == id })
		if hide {
			list = append(list, id)
		}
		if w.Hidden == nil {
			w.Hidden = map[string][]string{}
		}
		if w.Hidden[edition] = list; len(list) == 0 {
			delete(w.Hidden, edition)
		}
	})
}

// Write puts a text of a hand's own behind a block, or in the place of one that a hand wrote before; without words
// that is taken out.
func (s Chapter) Write(m *plumbing.Model, after, id string, text plumbing.Prose) (*Done, error) {
	text.Title, text.Text = strings.TrimSpace(text.Title), strings.TrimSpace(text.Text)
	if utf8.RuneCountInString(text.Text) > plumbing.MaxProse {
		return nil, fault("Text", "at most 20 000 characters; put what is more into a text of its own")
	}
	if len(text.Title) > 200 {
		return nil, fault("Title", "at most 200 characters")
	}
	if id != "" {
		return s.rewrite(m, id, text)
	}
	if text == (plumbing.Prose{}) {
		return nil, fault("Text", "write something, choose a drawing or a photograph, or leave it")
	}
	at := 0
	if after != "" {
		i, err := s.has(after)
		if err != nil {
			return nil, err
		}
		at = i + 1
	}
	return s.write(m, fact.Of("edit.block-written", strconv.Itoa(at+1)), func(w *plumbing.Written) {
		if w.Prose == nil {
			w.Prose = map[string]plumbing.Prose{}
		}
		for i := 1; id == ""; i++ {
			if _, taken := w.Prose["text-"+strconv.Itoa(i)]; !taken {
				id = "text-" + strconv.Itoa(i)
			}
		}
		w.Prose[id] = text
		w.Order = slices.Insert(w.Order, at, id)
	})
}

// Append puts a text at the end of one that a hand wrote before, in a paragraph of its own; without such a one it
// stands in a new one, with a title, at the end.
func (s Chapter) Append(m *plumbing.Model, id string, text plumbing.Prose) (*Done, error) {
	if m.Chapter == nil || m.Chapter.Prose[id] == (plumbing.Prose{}) {
		last := ""
		if n := len(s.Blocks); n > 0 {
			last = s.Blocks[n-1]
		}
		return s.Write(m, last, "", text)
	}
	whole := m.Chapter.Prose[id]
	whole.Text = strings.TrimSpace(whole.Text + "\n\n" + text.Text)
	return s.Write(m, "", id, whole)
}

// rewrite changes a text that a hand wrote.
func (s Chapter) rewrite(m *plumbing.Model, id string, text plumbing.Prose) (*Done, error) {
	at, err := s.has(id)
	if err != nil {
		return nil, err
	}
	if m.Chapter == nil || m.Chapter.Prose[id] == (plumbing.Prose{}) {
		return nil, fault("Block", "nobody wrote this block; it is made of the model")
	}
	if text == (plumbing.Prose{}) {
		return s.write(m, fact.Of("edit.block-removed", strconv.Itoa(at+1)), func(w *plumbing.Written) {
			delete(w.Prose, id)
			w.Order = slices.Delete(w.Order, at, at+1)
		})
	}
	return written(m, fact.Of("edit.block-reworded", strconv.Itoa(at+1)), func(w *plumbing.Written) { w.Prose[id] = text })
}

// longestSentence is how long a reworded sentence may be, in bytes.
const longestSentence = 1000

// Reword puts other words in the place of a sentence, by its key; none bring the drafted ones back.
func (Chapter) Reword(m *plumbing.Model, key, words string) (*Done, error) {
	words = strings.Join(strings.Fields(words), " ")
	if len(words) > longestSentence {
		return nil, fault("Sentence", "at most 1 000 characters; put what is more into a text of its own")
	}
	had := ""
	if m.Chapter != nil {
		had = m.Chapter.Words[key]
	}
	if words == had {
		return &Done{Model: m}, nil
	}
	said := fact.Of("edit.sentence-reworded", words)
	if words == "" {
		said = fact.Of("edit.sentence-back", had)
	}
	return written(m, said, func(w *plumbing.Written) {
		if words == "" {
			delete(w.Words, key)
			return
		}
		if w.Words == nil {
			w.Words = map[string]string{}
		}
		w.Words[key] = words
	})
}

// SetFigure puts a value by hand in the place of a figure, with a reason; no value brings the computed one back.
func (Chapter) SetFigure(m *plumbing.Model, id string, to plumbing.Override) (*Done, error) {
	to.Value, to.Reason = strings.TrimSpace(to.Value), strings.TrimSpace(to.Reason)
	switch {
	case to.Value != "" && to.Reason == "":
		return nil, fault("Reason", "say why this figure is other than the model gives it")
	case len(to.Value) > 60:
		return nil, fault("Value", "at most 60 characters: a figure with its unit")
	case len(to.Reason) > 500:
		return nil, fault("Reason", "at most 500 characters")
	case to.Value == "" && (m.Chapter == nil || m.Chapter.Figures[id] == (plumbing.Override{})):
		return &Done{Model: m}, nil
	case to.Value == "":
		return written(m, fact.Of("edit.figure-back", id), func(w *plumbing.Written) { delete(w.Figures, id) })
	}
	return written(m, fact.Of("edit.figure-set", id, to.Value, to.Reason), func(w *plumbing.Written) {
		if w.Figures == nil {
			w.Figures = map[string]plumbing.Override{}
		}
		w.Figures[id] = to
	})
}

// Restrict says for which units a block holds; an empty condition lets it hold for all.
func (s Chapter) Restrict(m *plumbing.Model, id string, to plumbing.Condition) (*Done, error) {
	at, err := s.has(id)
	if err != nil {
		return nil, err
	}
	to.FromSerial, to.ToSerial = strings.TrimSpace(to.FromSerial), strings.TrimSpace(to.ToSerial)
	for _, list := range [][]string{to.With, to.Without} {
		for _, o := range list {
			if m.Option(o) == nil {
				return nil, fault("Option", "this model has no option %q", o)
			}
		}
	}
	for _, o := range to.With {
		if slices.Contains(to.Without, o) {
			return nil, fault("Option", "no unit has %s and has it not", m.Option(o).Name)
		}
	}
	if len(to.FromSerial) > 40 || len(to.ToSerial) > 40 {
		return nil, fault("Serial number", "at most 40 characters")
	}
	said := fact.Of("edit.block-restricted", strconv.Itoa(at+1))
	return written(m, said, func(w *plumbing.Written) {
		if to.IsZero() {
			delete(w.Only, id)
			return
		}
		if w.Only == nil {
			w.Only = map[string]plumbing.Condition{}
		}
		w.Only[id] = to
	})
}
