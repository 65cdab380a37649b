package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/browser"
	"coldtap/internal/core/drill"
	"coldtap/internal/core/paper"
	"coldtap/internal/pretend/pupil"
	"coldtap/internal/store"
	"coldtap/internal/testworld"
)

const drilled = "marl-15-2027"

// openDrilled is open with the demo's drill results, and with what can be asked of one model.
func openDrilled(t testing.TB) (*served, *app.Drills) {
	t.Helper()
	w := openWith(t, banked)
	return w, drillsOf(w.store)
}

// banked is a world in which it is known what can be asked of the small model.
var banked = testworld.With("banked", worlds.Drilled, func(ctx context.Context, st *store.Store) error {
	_, err := drillsOf(st).MakeBank(ctx, drilled, "")
	return err
})

func drillsOf(st *store.Store) *app.Drills {
	docs := new(app.Docs)
	p := &app.Publishing{Store: st, Builds: &app.Builds{Pool: &pool, States: st, Docs: docs}, Docs: docs}
	return &app.Drills{Store: st, Publishing: p, Jobs: new(app.Jobs), Now: time.Now}
}

// someone is somebody of the demo world.
func someone(t testing.TB, w *served, login string) *app.Person {
	t.Helper()
	p, err := w.store.Login(context.Background(), login)
	require.NoError(t, err)
	return p
}

// course makes a course of some kinds on the small model.
func course(t testing.TB, w *served, d *app.Drills, count int, practical []string,
	kinds ...drill.Kind) *app.DrillCourse {
	t.Helper()
	c, err := d.AddCourse(context.Background(), by(t, w, "teku"), app.NewCourse{Name: "Marl 15: a first look",
		Models: []app.DrillModel{{Slug: drilled}}, Kinds: kinds, Count: count, PassMark: 70, Months: 12, Practical: practical})
	require.NoError(t, err)
	return c
}

// turnOf is the question that somebody's newest sitting stands at.
func turnOf(t testing.TB, w *served, d *app.Drills, login string) *app.DrillTurn {
	t.Helper()
	list, err := w.store.DrillSittings(context.Background(), app.DrillFilter{Person: someone(t, w, login).ID}, 1)
	require.NoError(t, err)
	turn, err := d.Turn(context.Background(), &list[0], -1)
	require.NoError(t, err)
	return turn
}

// enterAnswer puts an answer into the form of a question, as a hand does.
func enterAnswer(t testing.TB, p *browser.Page, x *paper.Paper, a drill.Answer) {
	t.Helper()
	index := func(id string) int {
		return slices.IndexFunc(x.Options, func(o paper.Option) bool { return o.ID == id })
	}
	switch {
	case x.Kind == drill.Valves:
		for id, pos := range a.Handles {
			if x.Start[id] != pos {
				require.NoError(t, p.Click(fmt.Sprintf(`[name="h-%s"][value="%s"]`, id, pos)))
			}
		}
		for _, id := range a.Pumps {
			require.NoError(t, p.Click(fmt.Sprintf(`[name=pump][value="%s"]`, id)))
		}
	case x.Kind == drill.Order: // by the buttons: each step in turn up to its place
		for place, i := range a.Order {
			for range 4 {
				require.NoError(t, p.Wait(fmt.Sprintf(`(() => { const li = [...document.querySelectorAll(".ordered li")];
					const at = li.findIndex((x) => x.querySelector("select").name === "at-%d");
					if (at > %d) li[at].querySelector(".up").click(); return true; })()`, i, place)))
			}
		}
	case x.Kind == drill.Amount:
		require.NoError(t, p.Fill("#text", a.Text))
	case x.Kind == drill.Fault:
		require.NoError(t, p.Choose("#pick", fmt.Sprint(index(a.Pick))))
	default:
		require.NoError(t, p.Click(fmt.Sprintf(`[name=pick][value="%d"]`, index(a.Pick))))
	}
}

// answerAll answers all questions of somebody's newest sitting in the browser.
func answerAll(t testing.TB, w *served, d *app.Drills, p *browser.Page, login string,
	right func(i int) bool) (seen []drill.Kind) {
	t.Helper()
	rng := rand.New(rand.NewPCG(1, 2))
	for i := 0; ; i++ {
		turn := turnOf(t, w, d, login)
		seen = append(seen, turn.Paper.Kind)
		enterAnswer(t, p, turn.Paper, pupil.Answer(rng, turn.Paper, right(i)))
		require.NoError(t, p.Click("[data-answer]"), "%s", turn.Paper.Key)
		want := regexp.MustCompile(`Wrong|Failed: that would hurt`)
		if right(i) {
			want = regexp.MustCompile(`Right`)
		}
		if err := p.WaitText("#marked", " points"); err != nil {
			page, _ := p.Text("body")
			require.NoError(t, err, "%s: %s", turn.Paper.Key, page)
		}
		marked, err := p.Text("#marked")
		require.NoError(t, err)
		assert.Regexp(t, want, marked, turn.Paper.Key)
		require.NoError(t, p.Click("[data-next]"))
		if i+1 == turn.Sitting.Asked {
			return seen
		}
		if err := p.WaitText(".count-of", fmt.Sprintf("Question %d of", i+2)); err != nil {
			page, _ := p.Text("body")
			require.NoError(t, err, "%s: %s", turn.Paper.Key, page)
		}
	}
}

// A technician passes on the phone, with every kind of question; the trainer reads it, and the certificate's number
// checks out. One fails, and repeats with other questions.
func TestTechniciansTakeACourseOnThePhone(t *testing.T) {
	t.Parallel()
	w, d := openDrilled(t)
	kinds := slices.DeleteFunc(drill.Kinds(), func(k drill.Kind) bool { return k == drill.Label }) // it has no labels to check
	c := course(t, w, d, 8, nil, kinds...)
	pia := newPage(t, 390, 844)
	enter(t, pia, w.url, client(t, w.url, "pia"))
	require.NoError(t, pia.Open(w.url+"/drills/courses/"+c.Code))
	require.NoError(t, pia.Click(`form[action$="/begin"] button`))
	require.NoError(t, pia.WaitText(".count-of", "Question 1 of 8"))
	found, err := pia.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)

	// Interrupted, it is taken up again where it was.
	require.NoError(t, pia.Open(w.url+"/drills"))
	require.NoError(t, pia.Click(".goon a"))
	seen := answerAll(t, w, d, pia, "pia", func(int) bool { return true })
	for _, k := range kinds {
		assert.Contains(t, seen, k)
	}
	require.NoError(t, pia.WaitText(".marked", "Passed"))
	number, err := pia.Text(".marked a")
	require.NoError(t, err)

	// Everybody can check the number, and sees nothing else.
	nobody := newPage(t, 390, 844)
	require.NoError(t, nobody.Open(w.url+"/certificates"))
	require.NoError(t, nobody.Fill("#number", strings.ToLower(strings.ReplaceAll(number, "-", " "))))
	require.NoError(t, nobody.Click("button"))
	require.NoError(t, nobody.WaitText("main", "Yes, it holds"))
	text, err := nobody.Text("main")
	require.NoError(t, err)
	for _, has := range []string{"Pia Lund", "Marl 15: a first look", number} {
		assert.Contains(t, text, has)
	}
	for _, not := range []string{"Highpass", "right", "100"} {
		assert.NotContains(t, text, not)
	}
	wrong := []byte(number)
	if wrong[0]++; wrong[0] == 'I' || wrong[0] == 'L' || wrong[0] == 'O' || wrong[0] == ':' || wrong[0] == '[' {
		wrong[0] = '2'
	}
	require.NoError(t, nobody.Open(w.url+"/certificates/"+string(wrong)))
	require.NoError(t, nobody.WaitText("main", "no number of a certificate"))
	resp, err := client(t, w.url, "pia").Get(w.url + "/drills/certificates/" + number)
	require.NoError(t, err)
	raw, err := io.ReadAll(resp.Body)
	resp.Body.Close()
	require.NoError(t, err)
	assert.Equal(t, "%PDF-", string(raw[:5]))
	resp, err = client(t, w.url, "sam").Get(w.url + "/drills/certificates/" + number)
	require.NoError(t, err)
	resp.Body.Close()
	assert.Equal(t, http.StatusNotFound, resp.StatusCode, "it is hers")

	// Sam has all wrong, reads why, and begins again with other questions.
	sam := newPage(t, 390, 844)
	enter(t, sam, w.url, client(t, w.url, "sam"))
	require.NoError(t, sam.Open(w.url+"/drills/courses/"+c.Code))
	require.NoError(t, sam.Click(`form[action$="/begin"] button`))
	require.NoError(t, sam.WaitText(".count-of", "Question 1 of 8"))
	first := turnOf(t, w, d, "sam").Sitting.Questions
	answerAll(t, w, d, sam, "sam", func(int) bool { return false })
	require.NoError(t, sam.WaitText(".marked", "Not passed"))
	require.NoError(t, sam.Click(".marked button"))
	require.NoError(t, sam.WaitText(".count-of", "Question 1 of 8"))
	assert.NotEqual(t, first, turnOf(t, w, d, "sam").Sitting.Questions)
	answerAll(t, w, d, sam, "sam", func(int) bool { return true })
	require.NoError(t, sam.WaitText(".marked", "Passed"))

	// The trainer sees who, what, and why.
	teku := newPage(t, 1280, 800)
	enter(t, teku, w.url, client(t, w.url, "teku"))
	require.NoError(t, teku.Open(w.url+"/drills/results?by=question&model="+drilled))
	answers, err := w.store.DrillAnswers(context.Background(),
		app.DrillFilter{Person: someone(t, w, "sam").ID, Slug: drilled}, 100)
	require.NoError(t, err)
	require.Len(t, answers, 16)
	why := answers[len(answers)-1].Why().Said[0]
	require.NoError(t, teku.WaitText("main", squeeze(why)))
	found, err = teku.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)
	require.NoError(t, teku.Open(w.url+"/drills/courses/"+c.Code))
	require.NoError(t, teku.WaitText("main", "Pia Lund"))

	// Technicians see their own results alone.
	_, page := getAs(t, w, "sam", "/drills/results?by=person&person=1")
	assert.NotContains(t, page, "Pia Lund")
	_, file := getAs(t, w, "sam", "/drills/results/file/csv")
	assert.Contains(t, file, "Sam Okoro")
	assert.NotContains(t, file, "Pia Lund")
	_, ical := getAs(t, w, "pia", "/drills/results/file/ics")
	assert.Contains(t, ical, "Marl 15: a first look expires")
}

// getAs reads a page as somebody.
func getAs(t testing.TB, w *served, login, path string) (int, string) {
	t.Helper()
	resp, err := client(t, w.url, login).Get(w.url + path)
	require.NoError(t, err)
	return answer(t, resp)
}

// Looks show what the run says; a look that hurts somebody ends the question, whatever is named then; a hint costs.
func TestAFaultIsLookedForAndDangerEnds(t *testing.T) {
	t.Parallel()
	w, d := openDrilled(t)
	pia := someone(t, w, "pia")
	ctx := context.Background()
	begin := func() *app.DrillTurn {
		s, job, err := d.Practise(ctx, pia, app.DrillModel{Slug: drilled}, []drill.Kind{drill.Fault}, 12)
		require.NoError(t, err)
		require.Nil(t, job)
		turn, err := d.Turn(ctx, s, 0)
		require.NoError(t, err)
		return turn
	}
	turn := begin()
	x, code := turn.Paper, turn.Sitting.Code
	harmless := slices.IndexFunc(x.Looks, func(l drill.LookOf) bool { return !l.Danger && !l.Free })
	c := client(t, w.url, "pia")
	post := func(path string, form url.Values) string {
		resp, err := c.PostForm(w.url+"/drills/sit/"+code+path, form)
		require.NoError(t, err)
		resp.Body.Close()
		_, page := getAs(t, w, "pia", "/drills/sit/"+code+"?n="+form.Get("n"))
		return page
	}
	page := post("/look", url.Values{"n": {"1"}, "look": {fmt.Sprint(harmless)}})
	for _, seen := range x.Shows[harmless].Seen {
		assert.Contains(t, page, escaped(seen))
	}
	assert.NotContains(t, page, x.Right[0]+`"`, "the page tells nobody what is right")
	cost := 0
	if len(x.Hints) > 0 {
		page = post("/hint", url.Values{"n": {"1"}})
		assert.Contains(t, page, escaped(x.Hints[0]))
		cost = 25
	}
	right := slices.IndexFunc(x.Options, func(o paper.Option) bool { return o.ID == x.Right[0] })
	page = post("/answer", url.Values{"n": {"1"}, "pick": {fmt.Sprint(right)}})
	over := max(0, 1-x.Fewest)
	assert.Contains(t, page, fmt.Sprintf("%d points", 100-cost-10*over))

	// Some question has a look that hurts somebody.
	for place := 1; place < turn.Sitting.Asked; place++ {
		next, err := d.Turn(ctx, turn.Sitting, place)
		require.NoError(t, err)
		at := slices.IndexFunc(next.Paper.Looks, func(l drill.LookOf) bool { return l.Danger })
		if at < 0 {
			continue
		}
		n := fmt.Sprint(place + 1)
		page = post("/look", url.Values{"n": {n}, "look": {fmt.Sprint(at)}})
		assert.Contains(t, page, "that would hurt somebody")
		a, err := w.store.DrillAnswer(ctx, turn.Sitting.ID, place)
		require.NoError(t, err)
		assert.True(t, a.Danger && !a.Right && a.Points == 0)
		assert.NotEmpty(t, a.Why().Said)
		return
	}
	t.Log("no question of this sitting has a dangerous look") // the coupling of a portable heater holds no storage
}

func escaped(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", `"`, "&#34;", "'", "&#39;").Replace(s)
}

// Five answer on their phones what one screen asks; the screen goes on for all, and nobody is told before it shows
// what is right.
func TestAClassOfFiveOnOneScreen(t *testing.T) {
	t.Parallel()
	w, d := openDrilled(t)
	c := course(t, w, d, 3, nil, drill.Happens, drill.Missing)
	screen := newPage(t, 1280, 800)
	enter(t, screen, w.url, client(t, w.url, "teku"))
	require.NoError(t, screen.Open(w.url+"/drills/courses/"+c.Code))
	require.NoError(t, screen.Click(`form[action$="/class"] button`))
	require.NoError(t, screen.WaitText(".class-head", "Question 1 of 3"))
	link, err := screen.Text(".plate-code p")
	require.NoError(t, err)
	join := regexp.MustCompile(`http\S+/join/[A-Z2-7]{26}`).FindString(link)
	phones := map[string]*browser.Page{}
	logins := []string{"pia", "sam", "imre", "odile", "keeper"}
	for _, login := range logins {
		p := newPage(t, 390, 844)
		enter(t, p, w.url, client(t, w.url, login))
		require.NoError(t, p.Open(join))
		require.NoError(t, p.WaitText(".count-of", "Question 1 of 3"))
		phones[login] = p
	}
	require.NoError(t, screen.WaitText(".members", "0 of 5 answered"))
	rng := rand.New(rand.NewPCG(3, 4))
	for n := 1; n <= 3; n++ {
		require.NoError(t, screen.WaitText(".class-head", fmt.Sprintf("Question %d of 3", n)))
		for i, login := range logins {
			turn := turnOf(t, w, d, login)
			require.Equal(t, n-1, turn.Place)
			p := phones[login]
			require.NoError(t, p.WaitText(".count-of", fmt.Sprintf("Question %d of 3", n)))
			enterAnswer(t, p, turn.Paper, pupil.Answer(rng, turn.Paper, i != 1))
			require.NoError(t, p.Click("[data-answer]"))
			require.NoError(t, p.WaitText("main", "Your answer is kept"))
			told, err := browser.Eval[bool](p, `!!document.querySelector(".marked, .choice.right, .choice.wrong")`)
			require.NoError(t, err)
			assert.False(t, told, "%s is told nothing before the screen shows it", login)
		}
		require.NoError(t, screen.WaitText(".members", "5 of 5 answered"))
		require.NoError(t, screen.Click("[value=show]"))
		require.NoError(t, screen.WaitText(".class .marked", "4 of 5 right"))
		require.NoError(t, phones["sam"].WaitText("#marked", "Wrong"))
		require.NoError(t, phones["pia"].WaitText("#marked", "Right"))
		require.NoError(t, screen.Click("[value=next]"))
	}
	require.NoError(t, screen.WaitText(".class-head", "It is over"))
	require.NoError(t, screen.WaitText(".ranked", "Pia Lund 300 points"))
	require.NoError(t, phones["pia"].WaitText(".marked", "Passed"))
	require.NoError(t, phones["sam"].WaitText(".marked", "Not passed"))
	found, err := screen.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)
}

// A practical part: the certificate waits until a trainer has signed off what was done at a unit, on its trial.
func TestThePracticalPartIsSignedOffOnATrial(t *testing.T) {
	t.Parallel()
	w, d := openDrilled(t)
	ctx := context.Background()
	pia, teku := someone(t, w, "pia"), someone(t, w, "teku")
	var trial *app.Trial
	for _, code := range trialCodes(t, w) {
		x, err := w.store.TrialByCode(ctx, code)
		require.NoError(t, err)
		if x.DealerID == pia.DealerID && x.State == app.TrialFinished {
			trial = x
		}
	}
	require.NotNil(t, trial)
	c := course(t, w, d, 2, []string{trial.Slug + "/" + trial.Task}, drill.Happens)
	s, _, err := d.Begin(ctx, pia, c.Code)
	require.NoError(t, err)
	rng := rand.New(rand.NewPCG(1, 1))
	for place := range s.Asked {
		turn, err := d.Turn(ctx, s, place)
		require.NoError(t, err)
		_, err = d.Answer(ctx, pia, s.Code, place, pupil.Answer(rng, turn.Paper, true))
		require.NoError(t, err)
	}
	mine := func() []app.DrillCertificate {
		all, err := w.store.DrillCertificates(ctx, app.DrillFilter{Person: pia.ID, Course: c.ID}, 10)
		require.NoError(t, err)
		return all
	}
	assert.Empty(t, mine(), "the practical part is open")
	_, page := getAs(t, w, "pia", "/drills/sit/"+s.Code)
	assert.Contains(t, page, "when a trainer has seen this at a unit")

	p := newPage(t, 1280, 800)
	enter(t, p, w.url, client(t, w.url, "teku"))
	require.NoError(t, p.Open(w.url+"/trials/"+trial.Code+"/compare"))
	require.NoError(t, p.Choose("#so-who", fmt.Sprint(pia.ID)))
	require.NoError(t, p.Click(`#signed button:not([name=do])`))
	require.NoError(t, p.WaitText("#signed", "Pia Lund was seen to do this"))
	require.Len(t, mine(), 1)
	assert.True(t, mine()[0].Holds(time.Now()))

	assert.Error(t, d.SignOff(ctx, pia, trial, pia.ID, ""), "a technician signs nobody off")
	assert.Error(t, d.SignOff(ctx, teku, trial, teku.ID, ""), "a trainer does not sign off what they did themselves")
	assert.Error(t, d.SignOff(ctx, teku, &app.Trial{State: app.TrialOpen}, pia.ID, ""),
		"nothing is signed off before it is done")
}

// What most get wrong becomes a proposal to the author, who says what became of it; it is open again where it goes on
// being missed.
func TestWhatMostGetWrongIsProposedToTheAuthor(t *testing.T) {
	t.Parallel()
	w, d := openDrilled(t)
	ctx := context.Background()
	rng := rand.New(rand.NewPCG(9, 9))
	bank, _, err := d.Bank(ctx, drilled, "")
	require.NoError(t, err)
	heads, err := w.store.DrillHeads(ctx, bank.ID)
	require.NoError(t, err)
	miss := func(q *app.DrillQuestion, logins ...string) {
		raw, err := json.Marshal([]app.DrillPlace{{Question: q.ID, Number: bank.Number}})
		require.NoError(t, err)
		for _, login := range logins {
			who := someone(t, w, login)
			s := &app.DrillSitting{Code: app.NewCode(), Title: "x", PersonID: who.ID, PersonName: who.Name,
				Questions: string(raw), Asked: 1,
				State: app.DrillOpen}
			require.NoError(t, w.store.AddDrillSitting(ctx, s))
			turn, err := d.Turn(ctx, s, 0)
			require.NoError(t, err)
			_, err = d.Answer(ctx, who, s.Code, 0, pupil.Answer(rng, turn.Paper, false))
			require.NoError(t, err)
		}
	}
	i := slices.IndexFunc(heads, func(q app.DrillQuestion) bool { return q.Kind == drill.Missing })
	miss(&heads[i], "pia", "sam", "keeper", "odile")
	list, err := d.Proposals(ctx, drilled)
	require.NoError(t, err)
	assert.Empty(t, list, "four answers are too few to say anything")
	miss(&heads[i], "teku")

	p := newPage(t, 1280, 800)
	enter(t, p, w.url, client(t, w.url, "imre"))
	require.NoError(t, p.Open(w.url+"/models/"+drilled+"/drills"))
	require.NoError(t, p.WaitText("main", "5 of 5 answers are wrong"))
	require.NoError(t, p.Click("[value='taken over']"))
	require.NoError(t, p.WaitText("main", "Say what was changed"))
	require.NoError(t, p.Fill(".revision-card input[name=words]", "The step says so in its first words now."))
	require.NoError(t, p.Click("[value='taken over']"))
	require.NoError(t, p.WaitText("main", "taken over: The step says so"))
	found, err := p.Axe("testdata/axe.min.js")
	require.NoError(t, err)
	assert.Empty(t, found)

	miss(&heads[i], "pia", "sam", "keeper", "odile", "imre")
	list, err = d.Proposals(ctx, drilled)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, app.ProposalOpen, list[0].State)
}
