// Package doc is a guide in words and in order, whatever it is written to:
// sections of paragraphs, lists, tables, steps and pictures.
package doc

import (
	"strings"

	"coldtap/internal/core/record"
)

// Document is a guide.
type Document struct {
	Language string // of its words, as BCP 47 names it
	Maker    string
	Mark     string // of the maker; "" for none
	Caution  string // at its head, word for word as the house has it; "" for none
	Title    string
	Sub      string
	About    []Line // what it is for: builds, serial numbers, state of the model
	Sections []Section
	Foot     []Line
}

// Section is a block of a guide.
type Section struct {
	ID      string // of the block
	Part    string // title of the part of the guide that it is in
	Title   string
	Kind    Kind
	Nodes   []Node
	Written bool           // by a hand
	Left    bool           // out of this edition; shown to who writes
	Hidden  []string       // editions that a hand left it out of
	Only    string         // for which builds it holds; "" for all
	From    []record.Input // what it stands on, where somebody asked
}

// Kind is a kind of section.
type Kind string

// Kinds of section.
const (
	Concept   Kind = "concept"
	Task      Kind = "task"
	Reference Kind = "reference"
	Trouble   Kind = "trouble"
)

// Node is a paragraph, a list, a table …: a type of this package that Shape names.
type Node interface{ Shape() string }

// Line is a run of spans, and the sentence that it is.
type Line struct {
	Spans []Span
	Key   string // of the sentence, by which it can be reworded; "" for one that can't be
	Own   bool   // a hand reworded it
}

// Span is a piece of a line in one style.
type Span struct {
	Style Style
	Text  string
	Ref   string // of a live one, what it stands for
}

// Style is how a span is shown.
type Style string

// Styles.
const (
	Plain  Style = ""
	Strong Style = "strong"
	Soft   Style = "soft"   // beside the matter
	Plate  Style = "plate"  // as printed on the unit
	Number Style = "number" // of a place
	Blank  Style = "blank"  // to be filled in by hand
	Box    Style = "box"    // to be ticked
	Live   Style = "live"   // follows the model
	Lost   Style = "lost"   // should follow the model, which has no such thing
)

// Of is a line of one plain span.
func Of(text string) Line { return Line{Spans: []Span{{Text: text}}} }

// Bold is a line of one strong span.
func Bold(text string) Line { return Line{Spans: []Span{{Strong, text, ""}}} }

// And is a line with more spans behind it.
func (l Line) And(more ...Span) Line {
	l.Spans = append(l.Spans[:len(l.Spans):len(l.Spans)], more...)
	return l
}

// Join is a line with others behind it, and something between.
func Join(lines []Line, between string) (all Line) {
	for i, l := range lines {
		if i > 0 {
			all.Spans = append(all.Spans, Span{Text: between})
		}
		all.Spans = append(all.Spans, l.Spans...)
	}
	return all
}

// Text is a line without its styles.
func (l Line) Text() string {
	var b strings.Builder
	for _, s := range l.Spans {
		b.WriteString(s.Text)
	}
	return b.String()
}

// Empty reports whether a line says nothing.
func (l Line) Empty() bool { return l.Text() == "" && len(l.Spans) == 0 }

// Para is a paragraph.
type Para struct {
	Class string
	Line
}

// Heading is a title within a section.
type Heading struct{ Text string }

// List is a list of lines.
type List struct {
	Class   string
	Ordered bool
	Items   []Line
}

// Table is a table; its first cell of each row is the row's head.
type Table struct {
	Class string
	Name  string // what it is a table of
	Head  []string
	Rows  []Row
	Foot  []Row
}

// Row is a row of a table.
type Row struct{ Cells []Cell }

// Cell is a cell of a table.
type Cell struct {
	Lines   []Line
	Items   []Line // a list below them
	Picture *Picture
	Marked  bool
	Label   string // head of its column, where the table is shown by rows
}

// Picture is a drawing.
type Picture struct {
	Class string
	Alt   string
	SVG   string // drawn by us, its texts escaped; of a photograph what lies over it
	Photo *Photo // nil for a drawing
}

// Photo is a photograph: by its address, or with its bytes where a file stands alone.
type Photo struct {
	Name    string // of its file
	Address string // "" where it stands alone
	Small   string // address of a small one
	JPEG    []byte
}

// Figure is a picture with what stands below it.
type Figure struct {
	Picture
	Below []Line
}

// Caution is a caution: danger, warning or note.
type Caution struct {
	Level string
	Head  string
	Line
	Items []Line
}

// Steps are what is done, one after the other.
type Steps struct {
	List   []Step
	Boxes  bool // to be ticked
	Signed bool // by whoever did it
}

// Step is one of them.
type Step struct {
	Cautions []Caution
	Do       Line
	Until    Line
	Does     []Line
	Turns    []Turn
	After    []Line // what hands do when the handles are turned
	Then     Line
	Notes    Line
	Who      Line
	Tools    Line
}

// Walk is a procedure as somebody goes through it, one step at a time.
type Walk struct {
	ID, Title, Part string
	Cant            Line   // why it can't be had; empty where it can
	Wrong           []Line // what its proof found
	Needs           []Need // before the first step
	Steps           []Stride
	Off, Tags       []Line // at the end: what was taken off, what is hung up
	Foot            []Line
}

// Stride is a step of a walk.
type Stride struct {
	Step
	Spots []Spot // where it is done
	Waits int    // seconds that pass by themselves; 0 for none
	Alone bool   // nobody has to stay meanwhile
	At    Stand  // who of two does it
	Jug   Line   // that is due next; empty for none
}

// Stand is where one of two people stands.
type Stand string

// Where two people stand.
const (
	ByBoth      Stand = "both"
	AtContainer Stand = "container"
	AtTaps      Stand = "taps"
)

// Spot is a place of a step: on a photograph where there is one, else on the plan.
type Spot struct {
	Number int // in the plan; 0 for none
	Name   string
	Plate  string // as printed there
	Where  string
	X, Y   float64 // on the plan
	Photo  *Photo  // nil for none
	Marks  string  // over it, as SVG
	Alt    string
}

// Turn is a handle to be turned, as it is to stand.
type Turn struct {
	Picture Picture
	Lines   []Line
}

// Needs are what must be there before the first step.
type Needs struct{ Lists []Need }

// Need is a list of such things.
type Need struct {
	Title string
	Items []Line
}

// Prose is a text that a hand wrote: as it was typed, and as HTML that does nothing.
type Prose struct {
	Markdown string
	HTML     string
	Lost     []string // what it stands for that the model has not
}

// Shape implements Node.
func (Para) Shape() string { return "para" }

// Shape implements Node.
func (Heading) Shape() string { return "heading" }

// Shape implements Node.
func (List) Shape() string { return "list" }

// Shape implements Node.
func (Table) Shape() string { return "table" }

// Shape implements Node.
func (Figure) Shape() string { return "figure" }

// Shape implements Node.
func (Caution) Shape() string { return "caution" }

// Shape implements Node.
func (Steps) Shape() string { return "steps" }

// Shape implements Node.
func (Needs) Shape() string { return "needs" }

// Shape implements Node.
func (Prose) Shape() string { return "prose" }
