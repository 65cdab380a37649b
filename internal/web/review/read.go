package review

import (
	"bytes"
	"context"
	"html/template"
	"net/http"
	"net/url"
	"strings"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/chapter"
	"coldtap/internal/guide"
	"coldtap/internal/guide/doc"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/guide/html"
	"coldtap/internal/people"
	"coldtap/internal/web/site"
)

// thread is a comment with the answers to it.
type thread struct {
	app.Comment
	Answers []app.Comment
	May     bool // who looks may settle it
}

// beside is what stands beside a block for who reviews it.
type beside struct {
	Slug, Block, Title string
	Threads            []thread
	Changed            bool // it says something else since who looks has seen it
	New                bool
	Comments           bool // who looks may comment
	Back               string
}

// threads are the comments by block.
func threads(all []app.Comment, who *app.Person) map[string][]thread {
	answers := map[uint64][]app.Comment{}
	for _, c := range all {
		if c.OnID > 0 {
			answers[c.OnID] = append(answers[c.OnID], c)
		}
	}
	by := map[string][]thread{}
	for _, c := range all {
		if c.OnID == 0 {
			by[c.Block] = append(by[c.Block], thread{c, answers[c.ID], c.PersonID == who.ID || who.Role == people.Reviewer})
		}
	}
	return by
}

// edition is the edition that a request asks for.
func edition(c *gin.Context) chapter.Edition {
	if c.Query("edition") == string(chapter.Dealer) || c.PostForm("edition") == string(chapter.Dealer) {
		return chapter.Dealer
	}
	return chapter.Owner
}

// drafted is an edition of the standard build as it is now, in pieces.
func (s View) drafted(ctx context.Context, x *app.Present, e chapter.Edition, o html.Options) (*doc.Document,
	[]html.Piece, string, error) {
	with := x.Doc.StandardOptions()
	b, err := s.Publishing.Build(ctx, x, with)
	if err != nil {
		return nil, nil, "", err
	}
	in, err := x.Inputs(ctx, b, true)
	if err != nil {
		return nil, nil, "", err
	}
	in.Edition = e
	photo := func(_ context.Context, id string) (*doc.Photo, error) {
		return &doc.Photo{Name: "photo-" + id + ".jpg", Address: "/models/" + url.PathEscape(x.Row.Slug) + "/photos/" + id +
			"/image"}, nil
	}
	d, err := guide.New(ctx, in, guide.Options{With: with, Draw: x.Draw(b), Photo: photo})
	if err != nil {
		return nil, nil, "", err
	}
	contents, pieces, err := html.Pieces(d, o)
	return d, pieces, contents, err
}

// sums tell what blocks say from what they said.
func sums(pieces []html.Piece) map[string]string {
	list := map[string]string{}
	for _, p := range pieces {
		list[p.ID] = frozen.Sum([]byte(p.HTML))[:16]
	}
	return list
}

type readBody struct {
	Slug, Basis    string
	Edition        chapter.Edition
	Owner, Dealer  string
	Changed        int
	Seen           bool // somebody has seen it before
	Inside         template.HTML
	Open           int
	Gone           []thread // on blocks that are no longer there
	Comments, Look bool
}

// Read is the guide as it is now with comments beside it, and marks at what changed since who looks has seen it.
func (s View) Read(c *gin.Context) {
	x := s.begin(c)
	if x == nil {
		return
	}
	b, e, who := s.Model(c), edition(c), site.Who(c)
	if b == nil {
		return
	}
	_, pieces, _, err := s.drafted(c, x, e, html.Options{})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	look, err := s.Store.LookOf(c, x.Row.ID, who.ID, string(e))
	if err != nil {
		s.Trouble(c, err)
		return
	}
	all, err := s.Store.Comments(c, x.Row.ID)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	base := "/models/" + url.PathEscape(x.Row.Slug) + "/review/read"
	body := readBody{Slug: x.Row.Slug, Basis: x.Basis, Edition: e, Owner: base + "?edition=owner", Dealer: base +
		"?edition=dealer",
		Seen: look != nil, Comments: mayComment(who), Look: mayComment(who)}
	seen, now, by := look.Seen(), sums(pieces), threads(all, who)
	there := map[string]bool{}
	tools := func(x2 *doc.Section) (template.HTML, error) {
		there[x2.ID] = true
		t := beside{Slug: x.Row.Slug, Block: x2.ID, Title: x2.Title, Threads: by[x2.ID], Comments: body.Comments,
			Back: base + "?edition=" + string(e) + "#b-" + x2.ID}
		if look != nil && seen[x2.ID] != now[x2.ID] {
			t.Changed, t.New = seen[x2.ID] != "", seen[x2.ID] == ""
			body.Changed++
		}
		for _, one := range t.Threads {
			if one.State != app.CommentDone {
				body.Open++
			}
		}
		var text bytes.Buffer
		err := s.Write(&text, "reviewbeside", site.Page{Body: t})
		return template.HTML(text.String()), err // written by a template of ours
	}
	d, marked, contents, err := s.drafted(c, x, e, html.Options{Tools: tools})
	if err != nil {
		s.Trouble(c, err)
		return
	}
	var text bytes.Buffer
	if err := html.Around(&text, d, html.Options{}, contents, marked); err != nil {
		s.Trouble(c, err)
		return
	}
	for block, list := range by {
		if !there[block] {
			body.Gone = append(body.Gone, list...)
		}
	}
	body.Inside = template.HTML(text.String()) // written by templates of ours
	s.Show(c, http.StatusOK, "reviewread.html", site.Page{Title: "Read and comment: " + b.Model.Title(), Model: b,
		Tab: "review", Body: body})
}

func mayComment(p *app.Person) bool { return p.Role == people.Author || p.Role == people.Reviewer }

// Seen keeps that who looks has seen the guide as it is now.
func (s View) Seen(c *gin.Context) {
	x := s.begin(c)
	if x == nil {
		return
	}
	e := edition(c)
	if c.PostForm("basis") != x.Basis {
		s.settled(c, x, "", app.ErrChanged)
		return
	}
	_, pieces, _, err := s.drafted(c, x, e, html.Options{})
	if err == nil {
		err = s.Reviews.Look(c, x.Row.Slug, site.By(c), string(e), sums(pieces))
	}
	s.settled(c, x, "", err)
}

// Frozen is a published guide as it was frozen, for those inside: the dealers' edition too.
func (s View) Frozen(c *gin.Context) {
	b := s.Model(c)
	if b == nil {
		return
	}
	g, err := s.Store.PublishedGuide(c, b.Row.Slug, c.Param("letter"))
	if err != nil {
		s.NotFound(c, "This revision was never published.")
		return
	}
	about := g.Of()
	build := g.Build(c.Query("build"))
	if build == nil {
		build = &about.Builds[0]
	}
	unit := guide.Units(about.Units)
	raw, err := s.Store.FrozenFile(c, g.ID, frozen.ChapterPath(build.Name, edition(c), unit))
	if err != nil {
		s.Trouble(c, err)
		return
	}
	s.Show(c, http.StatusOK, "frozen.html", site.Page{Title: "Revision " + g.Letter + ": " + g.Title(), Model: b,
		Tab: "review",
		Body: map[string]any{"G": g, "Build": build, "Builds": about.Builds, "Edition": string(edition(c)),
			// addresses of photographs in it are beside the reader's page
			"Inside": template.HTML(strings.ReplaceAll(string(raw), `"photo/`,
				`"/read/`+url.PathEscape(g.Slug)+"/"+g.Letter+"/"+build.Name+
					"/"+string(unit)+`/photo/`))}})
}
