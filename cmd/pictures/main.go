// Command pictures takes the pictures of the main views from the demo world:
// pictures FOLDER. It needs the DSN that withdb gives.
package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"golang.org/x/crypto/bcrypt"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/edit"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/words"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
	"coldtap/internal/web"
	"coldtap/internal/world"
)

// shots are the views that have a picture.
var shots = []struct {
	name, path    string
	width, height int64
}{
	{"bench", "/", 1280, 800},
	{"system", "/models/gneiss-24-2027?part=valve-bypass", 1280, 800},
	{"system-phone", "/models/gneiss-24-2027", 390, 844},
	{"layout", "/models/gneiss-24-2027/layout?part=outside-shower", 1280, 800},
	{"settings", "/models/gneiss-24-2027/settings?mode=everyday&set=valve-bypass.open&open=kitchen.hot", 1280, 800},
	{"drill", "/drills/sit/{drill}", 1280, 800},
	{"procedure", "/models/gneiss-24-2027/procedures/winterize-air-then", 1280, 800},
	{"valve-card", "/models/ashlar-20-2027/guide/card/card", 1280, 1150},
	{"grid", "/models/gneiss-24-2027/grid", 1280, 800},
	{"import", "/models/ashlar-20-2027/imports/1", 1280, 800},
	{"review", "/models/gneiss-24-2027/review", 1280, 800},
	{"amounts", "/models/gneiss-24-2027/amounts?from=20:30", 1280, 2300},
	{"no-longer-true", "/models/gneiss-24-2027/published/A/standing", 1280, 900},
	{"guide", "/models/gneiss-24-2027/guide", 1280, 800},
	{"trial", "/trials/{trial}/compare", 1280, 800},
	{"trial-phone", "/trials/{trial}", 390, 844},
	{"unit", "/units/1", 1280, 900},
	{"reader-step", "/read/gneiss-24-2027/A/plain/us/do/sanitize", 390, 844},
	{"house", "/house?target=65+mg/L", 1280, 900},
}

// acts are what a hand does on a page before its picture is taken, each waited for.
var acts = map[string][]string{
	"/gneiss-24-2027/review": {`/no longer\s+hold/.test(document.body.textContent)`},
	"/published/A/standing":  {`!!document.querySelector(".differs-of")`},
	"/do/sanitize": {
		`(document.querySelector("#done").click(), true)`, `(document.querySelector("#done").click(), true)`,
		`(document.querySelector("#done").click(), true)`, `(document.querySelector("#done").click(), true)`,
		`(document.activeElement.blur(), document.getAnimations().length === 0)`,
	},
	"/guide":                {`document.body.textContent.includes("Winterize: air")`},
	"/house?target=65+mg/L": {`!document.querySelector("progress")`},
	"/compare":              {`document.body.textContent.includes("To decide")`},
	"/trials/{trial}": {
		`(() => { const i = document.trial.what.steps.findIndex((x) => (x.probes || []).some((p) => p.kind === "jug"));
			document.trial.kept.at = i + 1; document.trial.save(); document.dispatchEvent(new Event("trial:changed")); return true; })()`,
		`document.querySelector("#told").textContent.includes("All is kept")`,
		`(document.querySelector(".stride.now .jug-of").scrollIntoView({ block: "center" }), document.getAnimations().length === 0)`,
	},
}

func main() {
	if err := run(context.Background(), os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "pictures:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context, args []string) error {
	if len(args) < 1 {
		return errors.New("no folder given")
	}
	st, err := store.Open(ctx, os.Getenv(testdb.Env))
	if err != nil {
		return err
	}
	defer st.Close()
	if err := world.Load(ctx, st, bcrypt.MinCost); err != nil {
		return err
	}
	if err := world.Publish(ctx, st); err != nil {
		return err
	}
	if err := world.Try(ctx, st); err != nil {
		return err
	}
	if err := world.Drill(ctx, st); err != nil {
		return err
	}
	if err := someWork(ctx, st); err != nil {
		return err
	}
	h, err := web.New(st, web.Options{Cost: bcrypt.MinCost, Demo: demo.People()})
	if err != nil {
		return err
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	go http.Serve(l, h)
	b, err := browser.Start(ctx)
	if err != nil {
		return err
	}
	defer b.Close()
	base := "http://" + l.Addr().String()
	cookies, err := signIn(base)
	if err != nil {
		return err
	}
	code, err := newestTrial(ctx, st)
	if err != nil {
		return err
	}
	sitting, err := faultLookedFor(ctx, st)
	if err != nil {
		return err
	}
	codes := strings.NewReplacer("{trial}", code, "{drill}", sitting)
	for _, s := range shots {
		if len(args) > 1 && args[1] != s.name {
			continue
		}
		if err := shoot(b, cookies, base, codes.Replace(s.path), filepath.Join(args[0], s.name+".png"), s.width,
			s.height); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
	}
	return nil
}

// newestTrial is the word in the address of the trial of the demo world that deviates.
func newestTrial(ctx context.Context, st *store.Store) (string, error) {
	row, _, err := st.Head(ctx, "gneiss-24-2027")
	if err != nil {
		return "", err
	}
	list, err := st.TrialsOf(ctx, row.ID, app.Scope{All: true})
	if err != nil || len(list) == 0 {
		return "", errors.Join(err, errors.New("there is no trial"))
	}
	return list[0].Code, nil
}

// faultLookedFor is a sitting of the author's in which a fault is looked for, two looks made.
func faultLookedFor(ctx context.Context, st *store.Store) (code string, err error) {
	docs := new(app.Docs)
	p := &app.Publishing{Store: st, Builds: &app.Builds{States: st, Docs: docs}, Docs: docs}
	d := &app.Drills{Store: st, Publishing: p, Jobs: new(app.Jobs), Now: time.Now}
	const model = "marl-15-2027"
	if _, err := d.MakeBank(ctx, model, ""); err != nil {
		return "", err
	}
	who, err := st.Login(ctx, demo.People()[0].Login)
	if err != nil {
		return "", err
	}
	s, _, err := d.Practise(ctx, who, app.DrillModel{Slug: model}, []drill.Kind{drill.Fault}, 10)
	if err != nil {
		return "", err
	}
	turn, err := d.Turn(ctx, s, 0)
	if err != nil {
		return "", err
	}
	looks := 0
	for _, l := range turn.Paper.Looks {
		if l.Danger || l.Free || looks == 2 {
			continue
		}
		looks++
		if err := d.Look(ctx, who, s.Code, 0, l.ID); err != nil {
			return "", err
		}
	}
	return s.Code, nil
}

func shoot(b *browser.Browser, cookies []*http.Cookie, base, path, file string, width, height int64) error {
	p, err := b.NewPage(width, height)
	if err != nil {
		return err
	}
	defer p.Close()
	for _, c := range cookies {
		if err := p.Cookie(c, base); err != nil {
			return err
		}
	}
	if err := p.Open(base + path); err != nil {
		return err
	}
	if strings.Contains(path, "/procedures/") { // a moment of the run
		if err := p.Wait(`document.querySelector("#play").dataset.ready > 1`); err != nil {
			return err
		}
		if err := p.Click(`[data-jump="34"]`); err != nil {
			return err
		}
		time.Sleep(400 * time.Millisecond) // levels have come to rest
	}
	for at, act := range acts {
		if !strings.HasSuffix(path, at) {
			continue
		}
		for _, js := range act {
			if err := p.Wait(js); err != nil {
				return err
			}
		}
	}
	png, err := p.Screenshot()
	if err != nil {
		return err
	}
	return os.WriteFile(file, png, 0o644)
}

// signIn signs the author in and gives the cookies of the session.
func signIn(base string) ([]*http.Cookie, error) {
	a := demo.People()[0]
	c := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	resp, err := c.PostForm(base+"/sign-in", url.Values{"login": {a.Login}, "password": {a.Password}})
	if err != nil {
		return nil, err
	}
	defer resp.Body.Close()
	return resp.Cookies(), nil
}

// someWork makes a change, so that there is something to show.
func someWork(ctx context.Context, st *store.Store) error {
	m, err := demo.Model("gneiss-24-2027")
	if err != nil {
		return err
	}
	done, err := edit.Set(m, edit.OfLine, "trunk-1", map[string]string{"length": "9 ft"})
	if err != nil {
		return err
	}
	row, _, err := st.Head(ctx, m.ID)
	if err != nil {
		return err
	}
	_, _, err = st.Save(ctx, done.Model, row.Revision, app.By{Name: "Imre Valk"},
		words.English(quantity.US).Tell(done.Said))
	return err
}
