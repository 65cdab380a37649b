package procedures

import (
	"bytes"
	"fmt"
	"html/template"
	"io"
	"log/slog"
	"net/http"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/gin-gonic/gin"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/planner"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/words"
	"coldtap/internal/guide"
	"coldtap/internal/guide/html"
	"coldtap/internal/spreadsheet"
	"coldtap/internal/web/site"
)

// File is a procedure as a check list to print, as Markdown, as a table, or as a calendar.
func (s View) File(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	d, ok := s.find(c, b)
	if !ok {
		return
	}
	if d.Procedure == nil {
		s.NotFound(c, "This model can't have that procedure: there is nothing to write. "+b.Words().Tell(d.Why))
		return
	}
	p, pr := carriedOut(c, b, d)
	if pr == nil {
		s.Trouble(c, c.Err())
		return
	}
	in := instruction.Of(b.Net, b.House, p, pr)
	if kind := c.Param("kind"); kind == "print" || kind == "md" {
		ranged, err := proof.InRanges(c, b.Net, p, pr)
		if err != nil {
			s.Trouble(c, err)
			return
		}
		in.Ranges = instruction.Ranges(ranged)
	}
	name := b.Row.Slug + "-" + d.ID
	switch c.Param("kind") {
	case "print":
		var page bytes.Buffer
		from := chapter.Inputs{Inputs: b.Inputs(), By: b.Doc.Chapter}
		if err := html.Checklist(&page, guide.Checklist(from, in, pr)); err != nil {
			s.Trouble(c, err)
			return
		}
		s.Show(c, http.StatusOK, "checklist.html", site.Page{Title: b.Words().Tell(in.Name) + ": " + b.Model.Title(),
			Model: b, Tab: "procedures", Body: template.HTML(page.String())}) // written by a template of ours
	case "md":
		site.Download(c, "text/markdown; charset=utf-8", name+".md")
		markdown(c.Writer, b.Words(), b.Model.Title(), in, pr)
	case "csv":
		site.Download(c, "text/csv; charset=utf-8", name+".csv")
		if err := spreadsheet.WriteCSV(c.Writer, []spreadsheet.Table{table(b.Words(), in)}); err != nil {
			slog.Error("csv", "error", err)
		}
	case "ics":
		asked, err := readPlan(c, time.Now())
		if err != nil {
			s.Show(c, http.StatusUnprocessableEntity, "message.html",
				site.Page{Title: "Calendar", Model: b, Body: site.Say("This can't be laid out", err.Error()+".")})
			return
		}
		slots := planner.Lay(planner.Blocks(in), asked.Units, asked.People)
		site.Download(c, "text/calendar; charset=utf-8", name+".ics")
		fmt.Fprint(c.Writer, calendar(b, in, slots, asked.begin(slots), time.Now()))
	default:
		s.NotFound(c, "Procedures are written as print, md, csv and ics.")
	}
}

// escaped is text that Markdown takes as it is.
func escaped(s string) string {
	return strings.NewReplacer("\\", "\\\\", "*", "\\*", "_", "\\_", "`", "\\`", "<", "&lt;", "#", "\\#").Replace(s)
}

// markdown writes a procedure as a list to tick off.
func markdown(w io.Writer, p *words.Printer, title string, in *instruction.Instruction, pr *proof.Proof) {
	say := func(format string, args ...any) {
		for i, a := range args {
			if text, ok := a.(string); ok {
				args[i] = escaped(text)
			}
		}
		fmt.Fprintf(w, format, args...)
	}
	say("# %s\n\n%s\n\n", p.Tell(in.Name), title)
	if pr.Proven() {
		say("Proven on this model's plumbing.\n\n")
	}
	for _, b := range pr.Breaches {
		say("> %s\n\n", p.Tell(b.Said))
	}
	list := func(head string, lines []string) {
		if len(lines) > 0 {
			say("## %s\n\n", head)
			for _, l := range lines {
				say("- %s\n", l)
			}
			say("\n")
		}
	}
	list("Before you begin", p.TellAll(in.Site))
	list("Where it does not hold", p.TellAll(in.Ranges))
	list("What it comes to", p.TellAll(in.Whole))
	list("At hand", p.TellAll(in.Hand))
	say("## Steps\n\n")
	for i := range in.Steps {
		s := p.Step(&in.Steps[i])
		for _, c := range s.Cautions {
			say("> **%s:** %s\n\n", c.Level, c.Words)
		}
		fmt.Fprintf(w, "%d. [ ] ", i+1)
		say("%s.", strings.TrimSuffix(s.Head, "."))
		if s.Until != "" {
			say(" *Until %s.*", s.Until)
		}
		say("\n")
		for _, d := range s.Does {
			say("   - %s: %s\n", d.Names(), d.What)
		}
		for _, l := range s.Pour {
			say("   - %s\n", l)
		}
		if s.Who != "" {
			say("   - %s\n", s.Who)
		}
		for _, d := range s.Then {
			if d.Names() == "" {
				say("   - then %s\n", d.What)
			} else {
				say("   - then %s: %s\n", d.Names(), d.What)
			}
		}
		if len(s.Notes) > 0 {
			say("   - %s\n", strings.Join(s.Notes, "; "))
		}
	}
	say("\n")
	var off []string
	for _, t := range in.TakenOff {
		if t.Back != t.At {
			off = append(off, fmt.Sprintf("%s, step %d, lies: ____", t.Part.Name, t.At))
		}
	}
	list("Taken off", off)
	list("To hang up", p.TellAll(in.Tags))
}

// table is a procedure with a row for each step.
func table(p *words.Printer, in *instruction.Instruction) spreadsheet.Table {
	sheet := spreadsheet.Table{Name: p.Tell(in.Name), Head: []string{"Step", "Begins (s)", "Takes (s)", "Busy (s)",
		"Step text", "Until", "What is done", "Then", "Poured", "Notes", "Cautions", "Who", "Tools",
		"Breaches"}}
	deeds := func(list []words.Beside) string {
		var all []string
		for _, d := range list {
			all = append(all, strings.TrimPrefix(d.Names()+": "+d.What, ": "))
		}
		return strings.Join(all, "; ")
	}
	for i := range in.Steps {
		x := &in.Steps[i]
		s := p.Step(x)
		var cautions, breaches []string
		for _, c := range s.Cautions {
			cautions = append(cautions, c.Level+": "+c.Words)
		}
		for _, b := range x.Breaches {
			breaches = append(breaches, b.Severity.String()+": "+p.Tell(b.Said))
		}
		sheet.Rows = append(sheet.Rows, []any{i + 1, float64(x.From), float64(x.Took), float64(x.Attended), s.Head, s.Until,
			deeds(s.Does), deeds(s.Then), strings.Join(s.Pour, "; "), strings.Join(s.Notes, "; "),
			strings.Join(cautions, " "), s.Who, strings.Join(s.Tools, ", "), strings.Join(breaches, "; ")})
	}
	return sheet
}

// calendar writes slots as an iCalendar of one event each, at the clock times of wherever it is read.
func calendar(b *site.Computed, in *instruction.Instruction, slots []planner.Slot, begin, now time.Time) string {
	const floating = "20060102T150405"
	at := func(t float64) string { return begin.Add(time.Duration(t * float64(time.Second))).Format(floating) }
	cal := ics.NewCalendar()
	cal.SetProductId("-//Cold Tap//procedures//EN")
	for _, s := range slots {
		e := cal.AddEvent(fmt.Sprintf("%s-%s-%s-%d-%d@coldtap", b.Row.Slug, in.ID, begin.Format(floating), s.Unit, s.First))
		e.SetDtStampTime(now)
		e.SetProperty(ics.ComponentPropertyDtStart, at(float64(s.From)))
		e.SetProperty(ics.ComponentPropertyDtEnd, at(float64(s.To)))
		e.SetSummary(fmt.Sprintf("%s, unit %d: %s", b.Words().Tell(in.Name), s.Unit, slotWords(b.Words(), in, s)))
		if !s.Busy {
			e.SetDescription("Nobody has to be there.")
		}
	}
	return cal.Serialize()
}

// slotWords tell what is done in a slot.
func slotWords(p *words.Printer, in *instruction.Instruction, s planner.Slot) string {
	first := p.Step(&in.Steps[s.First-1]).Head
	if !s.Busy {
		return "wait (" + first + ")"
	}
	if s.First == s.Last {
		return fmt.Sprintf("step %d, %s", s.First, first)
	}
	return fmt.Sprintf("steps %d to %d, from: %s", s.First, s.Last, first)
}
