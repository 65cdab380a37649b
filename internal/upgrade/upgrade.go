// Package upgrade keeps databases as released versions wrote them, and tells
// what stands in one, so that a test can see that a later version loses none
// of it.
package upgrade

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"time"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/people"
	"coldtap/internal/store"
	"coldtap/internal/world"
)

// Contents is everything a person put into a database, long texts and files
// by their hashes.
type Contents struct {
	People []Person
	Rules  []Rule
	Models []Model
	Notes  []string
	Guides []Guide `json:",omitempty"` // that were published
}

// Guide is a published guide: its files never change.
type Guide struct {
	Slug, Letter, State, Units, Hash string
	Files                            map[string]string // hashes by path
	Comments                         []string
	Reports                          []string
}

// Person is an account.
type Person struct {
	Login, Name, Role string
	Active            bool
}

// Rule is a house rule as somebody set it.
type Rule struct{ Scope, Rule, Value, Person string }

// Model is a model with its history and what hangs on it.
type Model struct {
	Slug      string
	Revision  uint64
	Revisions []Revision
	Held      []Held
	Imports   []Import
	Photos    []Photo
}

// Revision is one state of a model.
type Revision struct {
	Number, Content, Parent uint64
	Author, Reason, Hash    string
}

// Held is an edit that waits.
type Held struct {
	Base                   uint64
	Person, Reason, Sha256 string
}

// Import is a file that was brought in.
type Import struct{ Person, Name, File, State string }

// Photo is a photograph of a part.
type Photo struct {
	Part, Person, Image string
	MarkX, MarkY        float64
}

// Read tells what stands in a database.
func Read(ctx context.Context, st *store.Store) (*Contents, error) {
	c := &Contents{}
	list, err := st.People(ctx)
	if err != nil {
		return nil, err
	}
	for _, p := range list {
		c.People = append(c.People, Person{p.Login, p.Name, string(p.Role), p.Active})
	}
	rules, err := st.HouseRules(ctx)
	if err != nil {
		return nil, err
	}
	for _, r := range rules {
		c.Rules = append(c.Rules, Rule{r.Scope, r.Rule, r.Value, r.Person})
	}
	notes, err := st.AuditTrail(ctx, 1000)
	if err != nil {
		return nil, err
	}
	for _, n := range notes {
		c.Notes = append(c.Notes, fmt.Sprintf("%s: %s %s %s", n.Person, n.Action, n.Subject, n.Detail))
	}
	models, err := st.Models(ctx)
	if err != nil {
		return nil, err
	}
	for _, m := range models {
		one, err := readModel(ctx, st, m, list)
		if err != nil {
			return nil, fmt.Errorf("model %s: %w", m.Slug, err)
		}
		c.Models = append(c.Models, *one)
	}
	c.Guides, err = readGuides(ctx, st)
	return c, err
}

// readGuides also reads every file, so that one whose bytes are no longer those that were published is an error.
func readGuides(ctx context.Context, st *store.Store) (list []Guide, err error) {
	all, err := st.AllPublished(ctx)
	if err != nil {
		return nil, err
	}
	for _, p := range all {
		g := Guide{p.Slug, p.Letter, p.State, p.FromSerial + " to " + p.ToSerial, p.Hash, map[string]string{}, nil, nil}
		files, err := st.PublishedFiles(ctx, p.ID)
		if err != nil {
			return nil, err
		}
		for _, f := range files {
			raw, err := st.FrozenFile(ctx, p.ID, f.Path)
			if err != nil {
				return nil, err
			}
			g.Files[f.Path] = hash(raw)
		}
		if frozen.Hash(files) != p.Hash {
			return nil, fmt.Errorf("guide %s %s: its hash is not the one that was published", p.Slug, p.Letter)
		}
		comments, err := st.Comments(ctx, p.ModelID)
		if err != nil {
			return nil, err
		}
		for _, c := range comments {
			g.Comments = append(g.Comments, c.Person+": "+c.Text+" ("+c.State+")")
		}
		reports, err := st.ReportsOf(ctx, p.ModelID)
		if err != nil {
			return nil, err
		}
		for _, r := range reports {
			g.Reports = append(g.Reports, r.Task+": "+r.Words)
		}
		list = append(list, g)
	}
	return list, nil
}

// readModel also reads every document, so that one the program can no longer
// understand is an error.
func readModel(ctx context.Context, st *store.Store, m app.Model, people []app.Person) (*Model, error) {
	one := &Model{Slug: m.Slug, Revision: m.Revision}
	for number := uint64(1); number <= m.Revision; number++ {
		r, err := st.StateOf(ctx, m.Slug, number)
		if err != nil {
			return nil, err
		}
		if _, err := r.Read(); err != nil {
			return nil, fmt.Errorf("revision %d: %w", number, err)
		}
		if got := hash([]byte(r.Document)); got != r.Hash {
			return nil, fmt.Errorf("revision %d: its document is not the one that was kept", number)
		}
		one.Revisions = append(one.Revisions, Revision{r.Number, r.Content, r.Parent, r.Author, r.Reason, r.Hash})
	}
	err := one.readHeld(ctx, st, people)
	if err == nil {
		err = one.readImports(ctx, st)
	}
	if err == nil {
		err = one.readPhotos(ctx, st)
	}
	return one, err
}

func (one *Model) readHeld(ctx context.Context, st *store.Store, people []app.Person) error {
	for _, p := range people {
		held, err := st.HeldEdits(ctx, one.Slug, p.By())
		if err != nil {
			return err
		}
		for _, row := range held {
			h, err := st.HeldEdit(ctx, one.Slug, row.ID)
			if err != nil {
				return err
			}
			one.Held = append(one.Held, Held{h.Base, h.Person, h.Reason, hash([]byte(h.Document))})
		}
	}
	return nil
}

func (one *Model) readImports(ctx context.Context, st *store.Store) error {
	imports, err := st.Imports(ctx, one.Slug)
	if err != nil {
		return err
	}
	for _, row := range imports {
		im, err := st.Import(ctx, one.Slug, row.ID)
		if err != nil {
			return err
		}
		one.Imports = append(one.Imports, Import{im.Person, im.FileName, hash(im.File), hash([]byte(im.State))})
	}
	return nil
}

// photoOf is a photograph with the mark of the part that it was taken of.
func photoOf(p *app.Photo) Photo {
	one := Photo{p.Part, p.Person, hash(p.Image), 0.5, 0.5}
	if m := p.Mark(p.Part); m != nil {
		one.MarkX, one.MarkY = m.X, m.Y
	}
	return one
}

func (one *Model) readPhotos(ctx context.Context, st *store.Store) error {
	_, rev, err := st.Current(ctx, one.Slug)
	if err != nil {
		return err
	}
	doc, err := rev.Read()
	if err != nil {
		return err
	}
	for i := range doc.Parts {
		photos, err := st.Photos(ctx, one.Slug, doc.Parts[i].ID)
		if err != nil {
			return err
		}
		for _, row := range photos {
			p, err := st.Photo(ctx, one.Slug, row.ID)
			if err != nil {
				return err
			}
			one.Photos = append(one.Photos, photoOf(p))
		}
	}
	return nil
}

func hash(b []byte) string {
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// Fill puts into an empty database one of everything that people can leave
// there: the demo world with its people and lists, edits, undo and redo, held
// edits, house rules for the house and for a model, photographs.
func Fill(ctx context.Context, st *store.Store, passwordCost int) error {
	if err := world.Load(ctx, st, passwordCost); err != nil {
		return err
	}
	zoe := people.Account{Login: "zoë", Name: "Zoë Ünal", Password: "ice on the gravel road", Role: people.Author}
	if err := (&app.Accounts{Store: st, Cost: passwordCost}).SignUp(ctx, []people.Account{zoe}); err != nil {
		return err
	}
	models, err := demo.Models()
	if err != nil {
		return err
	}
	list, err := st.People(ctx)
	if err != nil {
		return err
	}
	byName := map[string]app.By{}
	for _, p := range list {
		byName[p.Name] = p.By()
	}
	for _, m := range models {
		if err := fillModel(ctx, st, m, byName); err != nil {
			return fmt.Errorf("model %s: %w", m.ID, err)
		}
	}
	err = (&app.Rules{Store: st}).Set(ctx, byName["Odile Brandt"], "", []app.RuleChange{
		{Rule: "target", Value: "55 mg/L"}, {Rule: "overrun", Value: "6 fl oz"}, {Rule: "air", Value: "45 psi"}},
		"as agreed with the dealers")
	if err != nil {
		return err
	}
	return fillGuides(ctx, st, byName)
}

// fillGuides publishes guides and lets a reader report on one.
func fillGuides(ctx context.Context, st *store.Store, byName map[string]app.By) error {
	if err := world.Publish(ctx, st); err != nil {
		return err
	}
	list, err := st.AllPublished(ctx)
	if err != nil || len(list) == 0 {
		return err
	}
	g := list[0]
	readers := &app.Readers{Store: st, Now: time.Now}
	report := app.Report{Code: app.NewCode(), Build: "plain", Task: "sanitize", Step: 3,
		Words: "Là où il est écrit, il n’y a rien."}
	if err := readers.Send(ctx, &g, report, "192.0.2.1"); err != nil {
		return err
	}
	return (&app.Reviews{Store: st}).Comment(ctx, g.Slug, byName["Odile Brandt"], "reviewer",
		app.Comment{Block: "have", Text: "Über alles gelesen."})
}

func fillModel(ctx context.Context, st *store.Store, m *plumbing.Model, byName map[string]app.By) error {
	imre, zoe := byName["Imre Valk"], byName["Zoë Ünal"]
	_, rev, err := st.Current(ctx, m.ID)
	if err != nil {
		return err
	}
	first, err := rev.Read()
	if err != nil {
		return err
	}
	for i, name := range []string{"Kitchen end, cold", "Kitchen end, cold (2)"} {
		m.Parts[0].Label = name
		if _, _, err := st.Save(ctx, m, uint64(i+1), imre, "label "+name); err != nil {
			return err
		}
	}
	row, err := st.Undo(ctx, m.ID, 3, imre, false)
	if err != nil {
		return err
	}
	if _, err := st.Redo(ctx, m.ID, row.Row.Revision, imre, false); err != nil {
		return err
	}
	first.Notes += " Notiz für später."
	var b bytes.Buffer
	if err := plumbing.Write(&b, first); err != nil {
		return err
	}
	if err := st.Hold(ctx, m.ID, &app.Held{Base: 1, PersonID: zoe.ID, Person: zoe.Name, Reason: "a note",
		Document: b.String()}); err != nil {
		return err
	}
	if err := (&app.Rules{Store: st}).Set(ctx, imre, m.ID, []app.RuleChange{{Rule: "run-out", Value: "120 mL"}},
		""); err != nil {
		return err
	}
	pic := image.NewRGBA(image.Rect(0, 0, 40, 30))
	for i := range 40 * 30 {
		pic.Set(i%40, i/40, color.RGBA{uint8(i), uint8(len(m.ID)), 90, 255})
	}
	b.Reset()
	if err := jpeg.Encode(&b, pic, nil); err != nil {
		return err
	}
	err = st.AddPhoto(ctx, m.ID, &app.Photo{Part: m.Parts[1].ID, Person: "Imre Valk", Image: b.Bytes(),
		Marks: []app.PhotoMark{{Part: m.Parts[1].ID, X: 0.4, Y: 0.6}}})
	if err != nil {
		return err
	}
	return st.Audit(ctx, imre, "photograph added", m.ID, m.Parts[1].ID)
}
