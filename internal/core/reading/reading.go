// Package reading holds a text that somebody else wrote against a model:
// sentence by sentence it says what agrees, what differs and what can't be
// told. Nothing is guessed: what can't be tied to one part, figure or position
// of the model can't be told.
package reading

import (
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
)

// Verdict is how a sentence stands to the model.
type Verdict string

// Verdicts. A sentence that says nothing of the system has none.
const (
	Agrees   Verdict = "agrees"
	Differs  Verdict = "differs"
	CantTell Verdict = "cant-tell"
)

// Sentence is a sentence of the text with what it claims.
type Sentence struct {
	Text    string
	Heading bool
	Verdict Verdict // the worst of its claims; "" where it claims nothing
	Claims  []Claim
}

// Claim is a figure, a position or a part that a sentence is about.
type Claim struct {
	From, To int // bytes of the sentence that say it
	Verdict  Verdict
	Ref      string    // by which a text of ours follows the model there; "" for none
	After    string    // what stands behind that: " times" for "twice"
	Handle   string    // of a position: name of its handle, by which it is told anew where it differs
	About    fact.Fact // what it is tied to
	Is       fact.Fact // what the model gives
	Slip     fact.Fact // what was likely mistaken; nothing where that can't be told
	Why      fact.Fact // why it can't be told
}

// Longest is how long a text may be, in bytes.
const Longest = 100_000

// Read holds a text against a model.
func Read(in chapter.Inputs, text string) (list []Sentence) {
	r := newReader(in)
	heading := ""
	for _, s := range split(text) {
		if s.Heading {
			heading = s.Text
			list = append(list, s)
			continue
		}
		r.read(&s, heading)
		list = append(list, s)
	}
	return list
}

// Taken is a sentence as it is taken over: with what follows the model in the place of its figures, told anew where a
// handle stands otherwise. What differs and can't be put right so is not taken over: nothing then.
func (s *Sentence) Taken() string {
	text := s.Text
	var anew []string
	for i := len(s.Claims) - 1; i >= 0; i-- {
		c := s.Claims[i]
		switch {
		case c.Verdict == Differs && c.Ref == "":
			return ""
		case c.Verdict == Differs && c.Handle != "":
			anew = append([]string{c.Handle + ": [[" + c.Ref + "]]."}, anew...)
		case c.Ref != "" && c.Handle == "":
			text = text[:c.From] + "[[" + c.Ref + "]]" + c.After + text[c.To:]
		}
	}
	if anew != nil {
		return strings.Join(anew, " ")
	}
	return text
}

// judge is the verdict of a sentence by its claims.
func (s *Sentence) judge() {
	for _, c := range s.Claims {
		switch {
		case c.Verdict == Differs || s.Verdict == Differs:
			s.Verdict = Differs
		case c.Verdict == CantTell || s.Verdict == CantTell:
			s.Verdict = CantTell
		default:
			s.Verdict = Agrees
		}
	}
}

// reader reads sentences against a model.
type reader struct {
	in    chapter.Inputs
	names []naming
}

// naming is a way of naming a part.
type naming struct {
	words string // in small letters
	parts []*plumbing.Part
}

// read finds what a sentence claims. Who speaks of some campers only, or of what might be, claims nothing of this one.
func (r *reader) read(s *Sentence, heading string) {
	low := lowered(s.Text)
	parts := r.parts(low)
	found := quantities(s.Text)
	positions := r.positions(s, low, heading, parts)
	lacks := r.lacking(low)
	if why := r.conditional(low); !why.IsZero() {
		if len(found)+len(positions)+len(lacks)+len(parts) > 0 {
			s.Claims = append(s.Claims, Claim{To: len(s.Text), Verdict: CantTell, Why: why})
			s.judge()
		}
		return
	}
	s.Claims = append(s.Claims, r.figures(s, low, parts, found)...)
	s.Claims = append(s.Claims, positions...)
	s.Claims = append(s.Claims, lacks...)
	if len(s.Claims) == 0 && len(parts) > 0 {
		at := parts[0]
		s.Claims = append(s.Claims, Claim{From: at.from, To: at.to, Verdict: CantTell, About: at.about(),
			Why: fact.Of("unread.only-named")})
	}
	sortClaims(s.Claims)
	s.judge()
}

// lowered is a text in small letters, byte for byte where it was: what has another length small stays as it is.
func lowered(s string) string {
	return strings.Map(func(c rune) rune {
		if c < 128 && c >= 'A' && c <= 'Z' {
			return c + 'a' - 'A'
		}
		return c
	}, s)
}
