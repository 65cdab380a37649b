// Package frozen makes the files of a published guide: all that its readers
// and those who keep it true will ever need of it, the same bytes for the same
// guide, with one hash over all.
package frozen

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/house"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/words"
	"coldtap/internal/drawing"
	"coldtap/internal/guide"
	"coldtap/internal/guide/card"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/html"
	"coldtap/internal/guide/standing"
	"coldtap/internal/picture"
)

// File is a file of a published guide.
type File struct {
	Path string
	Body []byte
}

// Sum is the hash of a file's bytes (SHA-256).
func Sum(body []byte) string {
	h := sha256.Sum256(body)
	return hex.EncodeToString(h[:])
}

// Listed is a file by its path and hash.
type Listed struct{ Path, Sum string }

// Hash is the hash of a guide: over the paths and hashes of its files, in the order of paths.
func Hash(files []Listed) string {
	list := slices.Clone(files)
	slices.SortFunc(list, func(a, b Listed) int { return strings.Compare(a.Path, b.Path) })
	var b strings.Builder
	for _, f := range list {
		fmt.Fprintf(&b, "%s  %s\n", f.Sum, f.Path)
	}
	return Sum([]byte(b.String()))
}

// Build is a build of the model, with its procedures and the looks at them.
type Build struct {
	With []string
	In   chapter.Inputs
	Draw guide.Draw
}

// Name is a build in paths and addresses: its options, "plain" for none.
func Name(with []string) string {
	if len(with) == 0 {
		return "plain"
	}
	return strings.Join(with, ".")
}

// Guide is what is frozen.
type Guide struct {
	Model   *plumbing.Model
	House   house.House
	Photos  map[string][]byte // JPEG, by id
	Program string            // tells this program from others
	Address string            // where the code of a card leads; "" for no code
}

// About is what a published guide is of.
type About struct {
	Model  string    `json:"model"`
	Name   string    `json:"name"`
	Year   int       `json:"year"`
	Units  string    `json:"units"` // that stand first where a reader chose none
	Maker  string    `json:"maker,omitempty"`
	Builds []AboutOf `json:"builds"`
}

// AboutOf is a build of it.
type AboutOf struct {
	Name    string     `json:"name"`
	Title   string     `json:"title"` // what it is fitted with
	With    []string   `json:"with,omitempty"`
	Options []OptionOf `json:"options,omitempty"`
}

// OptionOf is an option that the build has.
type OptionOf struct {
	ID         string `json:"id"`
	Name       string `json:"name"`
	Note       string `json:"note,omitempty"`
	Standard   bool   `json:"standard,omitempty"`
	FromSerial string `json:"from_serial,omitempty"`
	ToSerial   string `json:"to_serial,omitempty"`
}

// Home is what a build's guide begins with, in one order of units.
type Home struct {
	Title   string   `json:"title"`
	Sub     string   `json:"sub"`
	Maker   string   `json:"maker,omitempty"`
	Mark    string   `json:"mark,omitempty"`
	Caution string   `json:"caution,omitempty"`
	For     []string `json:"for,omitempty"` // builds and serial numbers
	Tasks   []TaskOf `json:"tasks"`
	Foot    []string `json:"foot"`
}

// TaskOf is a procedure of it.
type TaskOf struct {
	ID    string `json:"id"`
	Part  string `json:"part"`
	Title string `json:"title"`
	Steps int    `json:"steps"` // 0 where it can't be had
}

// AboutPath, and others, are where files are.
const (
	AboutPath = "about.json"
	ModelPath = "model.json"
	RulesPath = "rules.json"
	WordsPath = "words.json"
	StylePath = "style.css"
)

// ChapterPath is where a chapter is, in an order of units.
func ChapterPath(build string, e chapter.Edition, u guide.Units) string {
	return fmt.Sprintf("builds/%s/%s-%s.html", build, e, u)
}

// WalkPath is where a procedure is, step by step.
func WalkPath(build, task string, u guide.Units) string {
	return fmt.Sprintf("builds/%s/do-%s-%s.html", build, task, u)
}

// HomePath is where a build's guide begins.
func HomePath(build string, u guide.Units) string {
	return fmt.Sprintf("builds/%s/home-%s.json", build, u)
}

// SaidPath is where is what an edition says and stands on.
func SaidPath(build string, e chapter.Edition) string {
	return fmt.Sprintf("builds/%s/said-%s.json", build, e)
}

// PhotoPath is where a photograph is.
func PhotoPath(id string, small bool) string {
	if small {
		return "photos/" + id + "-small.jpg"
	}
	return "photos/" + id + ".jpg"
}

// Public reports whether the file of a path is for everybody: others have names of people in them, or are for dealers.
func Public(path string) bool {
	name := path[strings.LastIndexByte(path, '/')+1:]
	switch {
	case strings.HasPrefix(path, "photos/"), path == StylePath:
		return true
	case strings.HasPrefix(path, "builds/"):
		return strings.HasPrefix(name, "owner-") || strings.HasPrefix(name, "do-")
	}
	return false
}

// Common are the files that all builds share.
func (g *Guide) Common(builds [][]string) (list []File, err error) {
	add := func(path string, body []byte, wrong error) {
		list = append(list, File{path, body})
		if err == nil && wrong != nil {
			err = fmt.Errorf("%s: %w", path, wrong)
		}
	}
	a := About{Model: g.Model.ID, Name: g.Model.Name, Year: g.Model.Year, Units: g.Model.Units,
		Maker: house.MakerName.Of(g.House)}
	if a.Maker == "" {
		a.Maker = g.Model.Maker
	}
	for _, with := range builds {
		a.Builds = append(a.Builds, g.aboutOf(with))
	}
	raw, wrong := indented(a)
	add(AboutPath, raw, wrong)
	var text bytes.Buffer
	wrong = plumbing.Write(&text, g.Model)
	add(ModelPath, text.Bytes(), wrong)
	raw, wrong = g.rules()
	add(RulesPath, raw, wrong)
	raw, wrong = words.Catalogue()
	add(WordsPath, raw, wrong)
	add(StylePath, []byte(html.CSS()+drawing.CSS()), nil)
	for id, jpeg := range g.Photos {
		add(PhotoPath(id, false), jpeg, nil)
		small, wrong := picture.Small(jpeg, smallSide, smallBytes)
		add(PhotoPath(id, true), small, wrong)
	}
	return list, err
}

// smallSide and smallBytes bound small photographs: a step of a reader on a slow network has one.
const (
	smallSide  = 420
	smallBytes = 11_000
)

func (g *Guide) aboutOf(with []string) AboutOf {
	b := AboutOf{Name: Name(with), With: with}
	for _, l := range guide.About(g.Model, with) {
		b.Title = l.Text()
	}
	for _, id := range with {
		o := g.Model.Option(id)
		b.Options = append(b.Options, OptionOf{o.ID, o.Name, o.Note, o.Standard, o.FromSerial, o.ToSerial})
	}
	return b
}

func (g *Guide) rules() ([]byte, error) {
	type rule struct {
		ID    string `json:"id"`
		Name  string `json:"name"`
		Value string `json:"value"`
		Scope string `json:"scope"`
	}
	var list []rule
	for _, r := range house.Rules() {
		list = append(list, rule{r.ID, r.Name, g.House.Text(r.ID, g.Model.System()), g.House.By(r.ID)})
	}
	return indented(list)
}

func indented(v any) ([]byte, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetIndent("", " ")
	enc.SetEscapeHTML(false)
	err := enc.Encode(v)
	return b.Bytes(), err
}

// Files are the files of one build.
func (g *Guide) Files(ctx context.Context, b Build) (list []File, err error) {
	name := Name(b.With)
	add := func(path string, body []byte) { list = append(list, File{path, body}) }
	for _, e := range chapter.Editions() {
		in := b.In
		in.Edition = e
		o := guide.Options{With: b.With, Draw: b.Draw, Photo: photoAt("photo/")}
		us, si, err := guide.Both(ctx, in, o)
		if err != nil {
			return nil, err
		}
		for u, d := range map[guide.Units]*doc.Document{guide.US: us, guide.SI: si} {
			d.About = guide.About(g.Model, b.With)
			var page bytes.Buffer
			if err := html.Article(&page, d, html.Options{}); err != nil {
				return nil, err
			}
			add(ChapterPath(name, e, u), page.Bytes())
		}
		now := standing.Now{In: in, Options: o, Program: g.Program}
		said, err := now.Said(ctx)
		if err != nil {
			return nil, err
		}
		raw, err := json.Marshal(said)
		if err != nil {
			return nil, err
		}
		add(SaidPath(name, e), raw)
		if e == chapter.Owner {
			walks, err := g.walks(ctx, b, in, map[guide.Units]*doc.Document{guide.US: us, guide.SI: si})
			if err != nil {
				return nil, err
			}
			list = append(list, walks...)
		}
	}
	for _, k := range card.Kinds() {
		page, err := card.Page(k, b.In, g.Address)
		if err != nil {
			return nil, err
		}
		add(fmt.Sprintf("builds/%s/%s.html", name, k), page)
	}
	return list, ctx.Err()
}

// walks are the procedures of a build step by step, and what its guide begins with.
func (g *Guide) walks(ctx context.Context, b Build, in chapter.Inputs,
	docs map[guide.Units]*doc.Document) (list []File, err error) {
	plan := guide.NewPlan(&in)
	drawn := &html.Plan{Width: plan.Width, Height: plan.Height, SVG: plan.SVG}
	for _, u := range []guide.Units{guide.US, guide.SI} {
		walks, err := guide.Walks(ctx, in, guide.Options{With: b.With, Photo: photoAt("../photo/"), Units: u})
		if err != nil {
			return nil, err
		}
		d := docs[u]
		home := Home{Title: d.Title, Sub: d.Sub, Maker: d.Maker, Mark: d.Mark, Caution: d.Caution, Tasks: []TaskOf{},
			Foot: []string{}}
		for _, l := range d.Foot {
			home.Foot = append(home.Foot, l.Text())
		}
		for _, l := range d.About {
			home.For = append(home.For, l.Text())
		}
		for i := range walks {
			w := &walks[i]
			home.Tasks = append(home.Tasks, TaskOf{w.ID, w.Part, w.Title, len(w.Steps)})
			var page bytes.Buffer
			if err := html.Walk(&page, w, drawn); err != nil {
				return nil, err
			}
			list = append(list, File{WalkPath(Name(b.With), w.ID, u), page.Bytes()})
		}
		raw, err := indented(home)
		if err != nil {
			return nil, err
		}
		list = append(list, File{HomePath(Name(b.With), u), raw})
	}
	return list, nil
}

// photoAt gives photographs by their addresses beside a page.
func photoAt(folder string) func(context.Context, string) (*doc.Photo, error) {
	return func(_ context.Context, id string) (*doc.Photo, error) {
		return &doc.Photo{Name: "photo-" + id + ".jpg", Address: folder + id + ".jpg", Small: folder + id + "-small.jpg"},
			nil
	}
}
