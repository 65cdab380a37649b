package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/people"
)

// crowd is everybody who works.
type crowd struct {
	editors, readers []*person
	models           []*plumbing.Model
	walk             string // that two phones go through
	trial, unit      string // addresses of a trial that phones write in, and of the unit that it is on
}

// person is somebody with a browser: a session, and pages that are kept for as
// long as they are not changed.
type person struct {
	http *http.Client
	at   string
	rng  *rand.Rand
	tags map[string]string // ETag of each page that is kept
	from map[string]string // state of each model that was seen last
	on   *plumbing.Model   // that an editor works on
}

// at once is how many sign in at the same time: hashing passwords is slow on purpose.
const atOnce = 4

// sessions is how many of the readers sign in; the others go on in their sessions.
const sessions = 25

// admit makes accounts, and signs everybody in.
func admit(ctx context.Context, at string, editors, readers int) (*crowd, error) {
	models, err := demo.Models()
	if err != nil {
		return nil, err
	}
	c := &crowd{models: models}
	keeper := newPerson(at, 0)
	if err := keeper.signIn(ctx, account(people.Admin)); err != nil {
		return nil, err
	}
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(atOnce)
	for i := range editors {
		p := newPerson(at, i+1)
		c.editors = append(c.editors, p)
		group.Go(func() error {
			a, err := keeper.open(ctx, fmt.Sprintf("editor%d", i+1), people.Author)
			if err != nil {
				return err
			}
			return p.signIn(ctx, a)
		})
	}
	for i := range readers {
		p := newPerson(at, 1000+i)
		c.readers = append(c.readers, p)
		if i < sessions {
			group.Go(func() error { return p.signIn(ctx, account(people.Trainer)) })
		} else {
			p.http.Jar = c.readers[i%sessions].http.Jar // hashing all their passwords would take longer than the work
		}
	}
	return c, group.Wait()
}

// account is that of the demo world for a role.
func account(role people.Role) people.Account {
	for _, a := range demo.People() {
		if a.Role == role {
			return a
		}
	}
	return people.Account{}
}

func newPerson(at string, seed int) *person {
	jar, _ := cookiejar.New(nil) // it can't fail without options
	return &person{at: at, rng: rand.New(rand.NewPCG(uint64(seed), 13)), tags: map[string]string{},
		from: map[string]string{}, http: &http.Client{Jar: jar, Timeout: 30 * time.Second, Transport: transport,
			CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

// transport keeps a connection for everybody, as browsers do.
var transport = &http.Transport{MaxIdleConns: 2000, MaxIdleConnsPerHost: 2000, DisableCompression: false}

func (p *person) signIn(ctx context.Context, a people.Account) error {
	r, err := p.ask(ctx, http.MethodPost, "/sign-in", url.Values{"login": {a.Login}, "password": {a.Password}}, nil)
	if err == nil && r.status != http.StatusSeeOther {
		err = fmt.Errorf("%s can't sign in: %d", a.Login, r.status)
	}
	return err
}

var printed = regexp.MustCompile(`with the password ([a-z0-9]+)`)

// open opens an account of a role.
func (p *person) open(ctx context.Context, login string, role people.Role) (people.Account, error) {
	form := url.Values{"login": {login}, "name": {login}, "role": {string(role)}}
	r, err := p.ask(ctx, http.MethodPost, "/people", form, nil)
	if err != nil {
		return people.Account{}, err
	}
	m := printed.FindStringSubmatch(strings.Join(strings.Fields(r.body), " "))
	if m == nil {
		return people.Account{}, errors.New("no account was opened for " + login)
	}
	return people.Account{Login: login, Password: m[1]}, nil
}

// reply is what came of a request.
type reply struct {
	status int
	body   string
	header http.Header
}

func (p *person) ask(ctx context.Context, method, path string, form url.Values, header http.Header) (reply, error) {
	req, err := http.NewRequestWithContext(ctx, method, p.at+path, strings.NewReader(form.Encode()))
	if err != nil {
		return reply{}, err
	}
	if header != nil {
		req.Header = header
	}
	if method == http.MethodPost {
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	resp, err := p.http.Do(req)
	if err != nil {
		return reply{}, err
	}
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	return reply{resp.StatusCode, string(b), resp.Header}, err
}

// work lets everybody work until the context ends.
func (c *crowd) work(ctx context.Context, think time.Duration, t *tally) {
	var all sync.WaitGroup
	each := func(list []*person, deed func(*person)) {
		for _, p := range list {
			all.Go(func() {
				// People come in one after the other, not all at once.
				if !p.pause(ctx, time.Duration(p.rng.Float64()*2*float64(think))) {
					return
				}
				for deed(p); p.pause(ctx, think); {
					deed(p)
				}
			})
		}
	}
	// An editor works on one model for a while, and then on another.
	for _, p := range c.editors {
		p.on = c.models[p.rng.IntN(len(c.models))]
	}
	each(c.editors, func(p *person) {
		if p.rng.IntN(20) == 0 {
			p.on = c.models[p.rng.IntN(len(c.models))]
			delete(p.from, p.on.ID) // the page is opened anew
		}
		p.edit(ctx, p.on, t)
	})
	each(c.readers, func(p *person) {
		if p.rng.IntN(12) == 0 {
			p.workOnUnits(ctx, c, t)
			return
		}
		if p.rng.IntN(10) > 0 { // most read what is published, some what is being written
			p.follow(ctx, c.walk, t)
			return
		}
		p.read(ctx, c.models[p.rng.IntN(len(c.models))].ID, t)
	})
	all.Wait()
}

// pause thinks: half to one and a half times as long as is usual.
func (p *person) pause(ctx context.Context, think time.Duration) bool {
	select {
	case <-time.After(time.Duration(float64(think) * (0.5 + p.rng.Float64()))):
		return true
	case <-ctx.Done():
		return false
	}
}

var state = regexp.MustCompile(`name="from"\s+value="(\d+)"`)

// fields are what editors change.
var fields = map[string][]string{"part": {"label", "place.front", "place.left", "place.reach", "place.behind", "tool"},
	"line": {"length", "material", "colour"}}

// value is what somebody types into a field.
func (p *person) value(field string) string {
	switch field {
	case "length":
		return fmt.Sprintf("%d ft", 2+p.rng.IntN(30))
	case "place.front", "place.left":
		return fmt.Sprintf("%d in", 10+p.rng.IntN(60))
	}
	return fmt.Sprintf("word %d", p.rng.IntN(1000))
}

// thing picks a part or line of a model and a field of it, each as likely as any other.
func (p *person) thing(m *plumbing.Model) (path, id, field string) {
	parts, lines := len(m.Parts)*len(fields["part"]), len(m.Lines)*len(fields["line"])
	if n := p.rng.IntN(parts + lines); n < parts {
		id, field = m.Parts[n%len(m.Parts)].ID, fields["part"][n/len(m.Parts)]
		return "/edit/part/" + id, id, field
	} else {
		n -= parts
		id, field = m.Lines[n%len(m.Lines)].ID, fields["line"][n/len(m.Lines)]
		return "/edit/line/" + id, id, field
	}
}

// edit changes a field of a part or line, from the state that was seen last.
func (p *person) edit(ctx context.Context, m *plumbing.Model, t *tally) {
	path := "/models/" + m.ID
	if p.from[m.ID] == "" {
		p.timed(ctx, "System", http.MethodGet, path, nil, nil, t)
	}
	if p.from[m.ID] == "" {
		return
	}
	to, id, field := p.thing(m)
	form := url.Values{"from": {p.from[m.ID]}, "part": {id}, "f." + field: {p.value(field)}}
	word := fmt.Sprintf("load-%016x", p.rng.Uint64())
	p.timed(ctx, "edit", http.MethodPost, path+to, form,
		http.Header{"Hx-Request": {"true"}, "X-Request": {word}}, t)
}

// read reads a guide mostly, and looks at the list or at figures at times.
func (p *person) read(ctx context.Context, model string, t *tally) {
	switch n := p.rng.IntN(10); {
	case n < 6:
		p.timed(ctx, "guide", http.MethodGet, "/models/"+model+"/guide", nil, nil, t)
		p.timed(ctx, "its procedures", http.MethodGet, "/models/"+model+"/guide/whole", nil,
			http.Header{"Hx-Request": {"true"}}, t)
	case n < 8:
		p.timed(ctx, "list of models", http.MethodGet, "/", nil, nil, t)
	case n < 9 && p.rng.IntN(4) == 0:
		p.timed(ctx, "Procedures", http.MethodGet, "/models/"+model+"/procedures/drain-down", nil, nil, t)
	case n < 9:
		p.timed(ctx, "Settings", http.MethodGet, "/models/"+model+"/settings", nil, nil, t)
	default:
		p.timed(ctx, "Amounts", http.MethodGet, "/models/"+model+"/amounts", nil, nil, t)
	}
}

// timed asks for something, notes how long it took and whether it went well, and which state
// of the model it showed.
func (p *person) timed(ctx context.Context, what, method, path string, form url.Values, header http.Header,
	t *tally) reply {
	if header == nil {
		header = http.Header{}
	}
	if tag := p.tags[path]; tag != "" && method == http.MethodGet {
		header.Set("If-None-Match", tag)
	}
	began := time.Now()
	r, err := p.ask(ctx, method, path, form, header)
	if ctx.Err() != nil {
		return reply{} // the time is over
	}
	t.note(what, time.Since(began), r.status, strings.Contains(r.body, `id="late"`), err)
	if tag := r.header.Get("ETag"); tag != "" {
		p.tags[path] = tag
	}
	if m := state.FindStringSubmatch(r.body); m != nil {
		p.from[strings.Split(path, "/")[min(2, strings.Count(path, "/"))]] = m[1]
	}
	return r
}
