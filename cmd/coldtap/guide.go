package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"coldtap/internal/browser"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/fact"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	figures "coldtap/internal/core/report"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/guide"
	"coldtap/internal/guide/card"
	"coldtap/internal/guide/file"
)

// guideFlags are what the guide command is told.
type guideFlags struct {
	builds
	edition, format, paper, to, address string
	together                            bool
	unproven                            []string // what of the guides that were written is not proven
}

// allFigures is the edition with the figures of all models in one table.
const allFigures = "figures"

func (f *guideFlags) isCard() bool { return slices.Contains(card.Kinds(), card.Kind(f.edition)) }

// writer is what writes an edition in a format.
type writer interface {
	Write(ctx context.Context, to io.Writer, f file.Format) error
}

// cardFile is a card as a page or a PDF.
type cardFile struct {
	page  []byte
	print file.Print
}

// Write implements writer.
func (c *cardFile) Write(ctx context.Context, to io.Writer, f file.Format) error {
	raw := c.page
	if f == file.PDF {
		var err error
		if raw, err = c.print(ctx, raw); err != nil {
			return err
		}
	}
	_, err := to.Write(raw)
	return err
}

// figures writes the figures of all asked models in one table.
func (f *guideFlags) figures(ctx context.Context, files []string, out io.Writer) error {
	printer := &browser.Printer{}
	defer printer.Close()
	var all []chapter.Inputs
	for _, name := range files {
		err := f.each(ctx, name, func(_ []string, in draft.Inputs) error {
			r := figures.New(in.Net, in.Plan, in.House, figures.Ask{})
			all = append(all, chapter.Inputs{Inputs: in, Report: &r, Edition: chapter.Dealer, By: in.Net.Model.Chapter})
			return nil
		})
		if err != nil {
			return err
		}
	}
	g := &file.Table{Doc: guide.Figures(all), All: all, Print: f.printed(printer)}
	write := func(w io.Writer) error { return g.Write(ctx, w, file.Format(f.format)) }
	if f.to == "" {
		return write(out)
	}
	return written(f.to, write)
}

// printed prints on the asked paper; nil where there is no browser.
func (f *guideFlags) printed(printer *browser.Printer) file.Print {
	if _, err := browser.Find(); err != nil && f.format != string(file.PDF) {
		return nil
	}
	return func(ctx context.Context, page []byte) ([]byte, error) {
		return printer.Print(ctx, page, browser.Paper(f.paper))
	}
}

func guideCommand() *cobra.Command {
	var f guideFlags
	var formats, editions []string
	for _, x := range file.Formats() {
		formats = append(formats, string(x))
	}
	for _, x := range chapter.Editions() {
		editions = append(editions, string(x))
	}
	for _, x := range card.Kinds() {
		editions = append(editions, string(x))
	}
	editions = append(editions, allFigures)
	c := &cobra.Command{
		Use:   "guide MODEL.json...",
		Short: "Write an edition of the guide: a page that stands alone, PDF, Markdown, DITA topics, figures, or everything",
		Args:  cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, files []string) error {
			if !slices.Contains(editions, f.edition) {
				return exit{2, fmt.Errorf("there is no edition %q: %s", f.edition, strings.Join(editions, ", "))}
			}
			if !slices.Contains(formats, f.format) {
				return exit{2, fmt.Errorf("there is no format %q: %s", f.format, strings.Join(formats, ", "))}
			}
			if f.isCard() && f.format != string(file.HTML) && f.format != string(file.PDF) {
				return exit{2, fmt.Errorf("the edition %q is a page or a PDF: --format html or pdf", f.edition)}
			}
			if f.edition == allFigures {
				return f.figures(c.Context(), files, c.OutOrStdout())
			}
			return f.guides(c.Context(), files, c.OutOrStdout())
		},
	}
	f.flags(c)
	c.Flags().StringVar(&f.edition, "edition", string(chapter.Owner), "for whom: "+strings.Join(editions, ", "))
	c.Flags().StringVar(&f.format, "format", string(file.HTML), "one of "+strings.Join(formats, ", "))
	c.Flags().StringVar(&f.paper, "paper", string(browser.A4), "of a PDF: A4 or Letter")
	c.Flags().BoolVar(&f.together, "together", false,
		"one guide for every build that the options allow; it says what holds for which where builds differ")
	c.Flags().StringVar(&f.address, "address", "", "where the code on a valve card leads; none for no code")
	c.Flags().StringVarP(&f.to, "out", "o", "",
		"file to write, or a folder for several guides; none writes to the screen")
	return c
}

// guides writes the guide of each asked build: one to a file or the screen,
// several into a folder.
func (f *guideFlags) guides(ctx context.Context, files []string, out io.Writer) error {
	several := len(files) > 1 || f.all
	f.all = f.all || f.together
	if several && f.to == "" {
		return exit{2, errors.New("several guides need a folder to go into: give it by --out")}
	}
	if several {
		if err := os.MkdirAll(f.to, 0o755); err != nil {
			return exit{2, err}
		}
	}
	printer := &browser.Printer{}
	defer printer.Close()
	for _, name := range files {
		write := func(g writer, id string) error {
			if f.to == "" {
				return g.Write(ctx, out, file.Format(f.format))
			}
			to := f.to
			if several {
				_, ending := file.Format(f.format).Type()
				to = filepath.Join(to, id+ending)
			}
			return written(to, func(w io.Writer) error { return g.Write(ctx, w, file.Format(f.format)) })
		}
		m, err := readModel(name) // with all its options
		if err != nil {
			return err
		}
		var all []guide.Variant
		var first *file.Guide
		err = f.each(ctx, name, func(options []string, in draft.Inputs) error {
			g, err := f.made(ctx, m, in, options, printer)
			if err != nil {
				return err
			}
			if whole, ok := g.(*file.Guide); ok && f.together {
				all = append(all, guide.Variant{With: options, Doc: whole.Doc})
				first = cmp.Or(first, whole)
				return nil
			}
			return write(g, strings.Join(append([]string{in.Net.Model.ID}, options...), "+"))
		})
		if err == nil && first != nil {
			first.Doc = guide.Together(m, all)
			err = write(first, m.ID)
		}
		if errors.Is(err, browser.ErrMissing) {
			return exit{2, err}
		}
		if err != nil {
			return err
		}
	}
	if f.unproven != nil {
		return exit{1, fmt.Errorf("written, but not all of it is proven:\n  %s", strings.Join(f.unproven, "\n  "))}
	}
	return nil
}

// note keeps what of a build's guide is not proven.
func (f *guideFlags) note(m *plumbing.Model, tasks []chapter.Task) {
	p := words.English(m.System())
	for i := range tasks {
		t := &tasks[i]
		why := t.Wrong
		if !t.Has() && (t.Worst > proof.Note || !t.Why.IsZero()) {
			why = []fact.Fact{t.Why}
		}
		if len(why) == 0 {
			continue
		}
		line := m.ID + ": " + p.Tell(fact.Of("procedure."+t.ID)) + ": " + strings.Join(p.TellAll(why), "; ")
		if !slices.Contains(f.unproven, line) {
			f.unproven = append(f.unproven, line)
		}
	}
}

// made makes the guide of a build.
func (f *guideFlags) made(ctx context.Context, whole *plumbing.Model, in draft.Inputs, with []string,
	printer *browser.Printer) (writer, error) {
	r := figures.New(in.Net, in.Plan, in.House, figures.Ask{})
	tasks, err := chapter.Tasks(ctx, in)
	if err != nil {
		return nil, err
	}
	f.note(in.Net.Model, tasks)
	from := chapter.Inputs{Inputs: in, Report: &r, Tasks: tasks, Edition: chapter.Edition(f.edition),
		By: in.Net.Model.Chapter}
	if f.isCard() {
		page, err := card.Page(card.Kind(f.edition), from, f.address)
		return &cardFile{page, f.printed(printer)}, err
	}
	d, err := guide.New(ctx, from, guide.Options{With: with, Draw: func(ctx context.Context, mode string) (string, error) {
		drawn, err := drawing.NewSchematic(ctx, in.Net, nil)
		if err != nil {
			return "", err
		}
		return guide.DrawMode(ctx, in, drawn, mode)
	}})
	if err != nil {
		return nil, err
	}
	d.About = guide.About(whole, with)
	return &file.Guide{Doc: d, In: from, Print: f.printed(printer)}, nil
}

// written writes a file; what could not be written whole is not left behind.
func written(name string, write func(io.Writer) error) error {
	f, err := os.Create(name)
	if err != nil {
		return exit{2, err}
	}
	if err := errors.Join(write(f), f.Close()); err != nil {
		_ = os.Remove(name) // what went wrong is told already
		return err
	}
	return nil
}
