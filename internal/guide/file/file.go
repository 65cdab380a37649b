// Package file writes a guide in the formats that it leaves Cold Tap in: a page,
// Markdown, topics, figures, and all of it together in one archive.
package file

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"slices"
	"time"

	"coldtap/internal/browser"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/guide/dita"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/html"
	"coldtap/internal/guide/md"
)

// Format is a format that a guide is written in.
type Format string

// The formats.
const (
	HTML Format = "html" // a page that stands alone
	MD   Format = "md"   // one file: in an archive where it has drawings
	DITA Format = "dita" // an archive
	PDF  Format = "pdf"
	Zip  Format = "zip" // everything
	CSV  Format = "csv" // figures
	JSON Format = "json"
)

// Formats lists the formats.
func Formats() []Format { return []Format{HTML, MD, DITA, PDF, Zip, CSV, JSON} }

// Type is the media type of a format's file, and the ending of its name.
func (f Format) Type() (media, ending string) {
	switch f {
	case HTML:
		return "text/html; charset=utf-8", ".html"
	case PDF:
		return "application/pdf", ".pdf"
	case CSV:
		return "text/csv; charset=utf-8", ".csv"
	case JSON:
		return "application/json", ".json"
	case MD:
		return "application/zip", "-md.zip"
	case DITA:
		return "application/zip", "-dita.zip"
	}
	return "application/zip", ".zip"
}

// Print makes a PDF of a page that stands alone.
type Print func(ctx context.Context, page []byte) ([]byte, error)

// Guide is a guide with what it was made of.
type Guide struct {
	Doc   *doc.Document
	In    chapter.Inputs
	Print Print // nil for none
}

// ErrNoPrinter says that nothing makes PDF here.
var ErrNoPrinter = errors.New("a PDF is made by the browser Chromium, which is not installed; " +
	"install the Debian package chromium-headless-shell, or print the page from your own browser")

// Write writes a guide in a format.
func (g *Guide) Write(ctx context.Context, to io.Writer, f Format) error {
	switch f {
	case HTML:
		return g.page(to)
	case PDF:
		return g.pdf(ctx, to)
	case CSV:
		return g.csv(to)
	case JSON:
		return g.json(to)
	case MD:
		return archive(to, g.markdown)
	case DITA:
		return archive(to, g.topics)
	case Zip:
		return archive(to, g.everything(ctx))
	}
	return fmt.Errorf("there is no format %q", f)
}

func (g *Guide) page(to io.Writer) error { return g.write(to, nil) }

// write writes the page, with the pages of print in its contents where they are known.
func (g *Guide) write(to io.Writer, pages map[string]int) error {
	return html.Page(to, g.Doc, html.Options{Cover: true, Pages: pages, Style: template.CSS(drawing.CSS())})
}

func (g *Guide) pdf(ctx context.Context, to io.Writer) error {
	if g.Print == nil {
		return ErrNoPrinter
	}
	var raw []byte
	var pages map[string]int
	for range 2 { // once to see on which page what stands, once with the pages in the contents
		var page bytes.Buffer
		if err := g.write(&page, pages); err != nil {
			return err
		}
		var err error
		if raw, err = g.Print(ctx, page.Bytes()); err != nil {
			return err
		}
		if pages = browser.PageOf(raw); len(pages) == 0 {
			break
		}
	}
	_, err := to.Write(raw)
	return err
}

// figure is a figure as a row or an object.
type figure struct {
	ID     string   `json:"id"`
	Name   string   `json:"name"`
	Value  string   `json:"value"`
	ByHand bool     `json:"by_hand,omitempty"`
	Reason string   `json:"reason,omitempty"`
	From   []string `json:"from"` // what it was computed from
}

func (g *Guide) figures() (list []figure) {
	tell := words.English(g.In.Net.Model.System())
	for _, r := range g.In.AllFigures() {
		f := figure{ID: r.ID, Name: tell.Tell(r.Name), Value: tell.Tell(r.Is), From: []string{}}
		for _, in := range r.From {
			f.From = append(f.From, in.String())
		}
		slices.Sort(f.From)
		if g.In.By != nil {
			if o, ok := g.In.By.Figures[r.ID]; ok && g.In.Judge(r.ID, o.Value) == nil {
				f.ByHand, f.Reason = true, o.Reason
			}
		}
		list = append(list, f)
	}
	return list
}

func (g *Guide) csv(to io.Writer) error {
	w := csv.NewWriter(to)
	_ = w.Write([]string{"Model", "Figure", "Name", "Value", "Set by hand", "Reason"}) // told by Error
	for _, f := range g.figures() {
		byHand := ""
		if f.ByHand {
			byHand = "yes"
		}
		_ = w.Write([]string{g.In.Net.Model.Title(), f.ID, f.Name, f.Value, byHand, f.Reason})
	}
	w.Flush()
	return w.Error()
}

func (g *Guide) json(to io.Writer) error {
	return indented(to, map[string]any{"model": g.In.Net.Model.ID, "title": g.In.Net.Model.Title(), "figures": g.figures()})
}

func indented(to io.Writer, v any) error {
	enc := json.NewEncoder(to)
	enc.SetIndent("", "  ")
	return enc.Encode(v)
}

// put writes a file of an archive.
type put func(name string, write func(io.Writer) error) error

// archive writes files into a zip archive; the same files give the same bytes.
func archive(to io.Writer, fill func(put) error) error {
	z := zip.NewWriter(to)
	err := fill(func(name string, write func(io.Writer) error) error {
		f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate,
			Modified: time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)})
		if err != nil {
			return err
		}
		return write(f)
	})
	return errors.Join(err, z.Close())
}

func text(s string) func(io.Writer) error {
	return func(w io.Writer) error {
		_, err := io.WriteString(w, s)
		return err
	}
}

func putPictures(put put, folder string, p *doc.Pictures) error {
	for _, name := range p.Names {
		if err := put(folder+name, text(p.Files[name])); err != nil {
			return err
		}
	}
	return nil
}

func (g *Guide) markdown(put put) error {
	pictures := &doc.Pictures{Alone: drawing.Alone}
	err := put("guide.md", func(w io.Writer) error { return md.Write(w, g.Doc, pictures) })
	return errors.Join(err, putPictures(put, md.Folder, pictures))
}

func (g *Guide) topics(put put) error {
	pictures := &doc.Pictures{Alone: drawing.Alone}
	for _, f := range dita.Write(g.Doc, pictures) {
		if err := put(f.Name, text(f.Text)); err != nil {
			return err
		}
	}
	return putPictures(put, dita.Folder, pictures)
}

// everything is the guide in all formats, the model, the rules: to be read without Cold Tap.
func (g *Guide) everything(ctx context.Context) func(put) error {
	return func(put put) error {
		in := func(folder string) func(string, func(io.Writer) error) error {
			return func(name string, write func(io.Writer) error) error { return put(folder+name, write) }
		}
		steps := []func() error{
			func() error { return put("README.txt", text(about(g))) },
			func() error { return put("guide.html", g.page) },
			func() error { return g.markdown(in("text/")) },
			func() error { return g.topics(in("topics/")) },
			func() error { return put("figures.csv", g.csv) },
			func() error { return put("figures.json", g.json) },
			func() error {
				return put("model.json", func(w io.Writer) error { return plumbing.Write(w, g.In.Net.Model) })
			},
			func() error {
				return put("model.schema.json", func(w io.Writer) error { return indented(w, plumbing.Schema()) })
			},
			func() error { return put("rules.json", g.rules) },
		}
		if g.Print != nil {
			steps = append(steps, func() error {
				return put("guide.pdf", func(w io.Writer) error { return g.pdf(ctx, w) })
			})
		}
		for _, step := range steps {
			if err := step(); err != nil {
				return err
			}
		}
		return ctx.Err()
	}
}

// rules are the house's rules that the guide follows.
func (g *Guide) rules(to io.Writer) error {
	type rule struct {
		ID    string `json:"id"`
		Name  string `json:"name"`
		Value string `json:"value"`
		By    string `json:"by"`
		Why   string `json:"why,omitempty"`
	}
	var list []rule
	for _, r := range house.Rules() {
		list = append(list, rule{r.ID, r.Name, g.In.House.Text(r.ID, g.In.Net.Model.System()), g.In.House.By(r.ID), r.Why})
	}
	return indented(to, list)
}

// about tells what is in the archive.
func about(g *Guide) string {
	return g.Doc.Title + ", " + g.Doc.Sub + `

guide.html         the guide; any browser shows it, nothing is loaded from elsewhere
guide.pdf          the same, to print (where it could be made)
text/guide.md      the same as Markdown, its drawings as SVG in text/pictures
topics/            the same as DITA topics; topics/guide.ditamap is their map
figures.csv, .json every figure, with what it was computed from
model.json         the plumbing that it was computed from; model.schema.json says how it is written (JSON Schema)
rules.json         the house's rules that it follows

All texts are UTF-8.
`
}
