package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"coldtap/internal/cache"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/house"
	"coldtap/internal/guide"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/guide/said"
	"coldtap/internal/guide/standing"
)

// Keeping keeps published guides true: it knows of each what no longer holds.
type Keeping struct {
	Publishing *Publishing
	Jobs       *Jobs
	Store      interface {
		Transactor
		PublishReader
		RuleReader
		BasisReader
	}
	mu    sync.Mutex
	soon  *time.Timer
	rests time.Time // until then no few guides are looked at

	begin   sync.Once
	carried cache.Cache[*chapter.Carried] // procedures, by all that they stand on
}

// carriedBytes is how much is kept of procedures that were carried out to look at guides, about perCarried for each
// build.
const (
	carriedBytes = 48 << 20
	perCarried   = 1 << 20
)

// carry carries out the procedures of a build that are not known: once for all models that are alike but for their
// names and
// years, as those of a maker are from year to year.
func (k *Keeping) carry(b *Build, h house.House, in draft.Inputs) (standing.Carry, error) {
	k.begin.Do(func() { k.carried.Most = carriedBytes })
	m := *b.Model
	m.ID, m.Name, m.Year, m.Notes, m.Retired = "", "", 0, "", nil
	m.Chapter, m.Accepted, m.Reported, m.Drawing = nil, nil, nil, nil
	raw, err := json.Marshal(&m)
	if err != nil {
		return nil, err
	}
	alike := frozen.Sum(raw) + h.Fingerprint()
	return func(ctx context.Context, known map[string]chapter.Look) (*chapter.Carried, error) {
		var name strings.Builder
		name.WriteString(alike)
		for _, id := range slices.Sorted(maps.Keys(known)) {
			fmt.Fprint(&name, " ", id, known[id].Told, known[id].Had)
		}
		return k.carried.Get(name.String(), func() (*chapter.Carried, int64, error) {
			c, err := chapter.Carry(ctx, in, known)
			return c, perCarried, err
		})
	}, nil
}

// rest waits for a while after the look before, longer than that took, so that who edits meanwhile does not wait for
// it, and gives what ends the look that begins.
func (k *Keeping) rest(ctx context.Context) (end func()) {
	k.mu.Lock()
	until := time.Until(k.rests)
	k.mu.Unlock()
	select {
	case <-time.After(until):
	case <-ctx.Done():
	}
	began := time.Now()
	return func() {
		k.mu.Lock()
		defer k.mu.Unlock()
		k.rests = time.Now().Add(restsFor * time.Since(began))
	}
}

// after is how long after a change published guides are held against how things are: others may follow it.
const after = 2 * time.Second

// Soon lets published guides be held against how things are, in a moment and once for all who ask.
func (k *Keeping) Soon() {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.soon != nil {
		k.soon.Stop()
	}
	k.soon = time.AfterFunc(after, func() {
		_, job, err := k.List(context.Background())
		if err != nil {
			slog.Warn("published guides", "error", err)
			return
		}
		if job == nil {
			return
		}
		<-job.finished
		if k.behind(job) {
			k.Soon() // something changed meanwhile
		}
	})
}

// behind reports whether published guides were changed under while a job looked at them.
func (k *Keeping) behind(job *Job) bool {
	if job.Err() != nil {
		return false
	}
	_, next, err := k.List(context.Background())
	return err == nil && next != nil
}

// BasisReader reads, for all models at once, what tells the states of their guides apart.
type BasisReader interface {
	// States are the hashes of the newest states, by model.
	States(ctx context.Context) (map[string]string, error)
	// PhotosByModel are the photographs of all models, without the images.
	PhotosByModel(ctx context.Context) (map[string][]Photo, error)
}

// Bases tells for every model what its guides are made of now.
func (k *Keeping) Bases(ctx context.Context) (map[string]string, error) {
	states, err := k.Store.States(ctx)
	if err != nil {
		return nil, err
	}
	rules, err := k.Store.HouseRules(ctx)
	if err != nil {
		return nil, err
	}
	photos, err := k.Store.PhotosByModel(ctx)
	if err != nil {
		return nil, err
	}
	list, of := map[string]string{}, fingerprints(rules)
	for slug, hash := range states {
		list[slug] = basisOf(hash, of(slug), photosOf(photos[slug]))
	}
	return list, nil
}

// Kept is a published guide with what of it no longer holds.
type Kept struct {
	PublishedGuide
	Standing *StandingRow // nil where it was never checked
	Fresh    bool         // it was held against how things are now
}

// Outstanding is how many lines no longer hold that the draft has not taken over yet.
func (k *Kept) Outstanding() int {
	if k.Standing == nil {
		return 0
	}
	return max(0, k.Standing.Broken-len(k.Standing.taken()))
}

// taken are the keys of the lines that the draft has taken over.
func (r *StandingRow) taken() (keys []string) {
	if r != nil && r.Taken != "" {
		_ = json.Unmarshal([]byte(r.Taken), &keys) // it was written by the program
	}
	return keys
}

// List lists the guides that are published, with what no longer holds; those that were not held against how things
// are now are checked by a job, which it gives; nil where none has to be.
func (k *Keeping) List(ctx context.Context) ([]Kept, *Job, error) {
	all, err := k.Store.AllPublished(ctx)
	if err != nil {
		return nil, nil, err
	}
	if len(all) == 0 {
		return nil, nil, nil
	}
	rows, err := k.Store.Standings(ctx)
	if err != nil {
		return nil, nil, err
	}
	bases, err := k.Bases(ctx)
	if err != nil {
		return nil, nil, err
	}
	byID := map[uint64]*StandingRow{}
	for i := range rows {
		byID[rows[i].PublishedID] = &rows[i]
	}
	var list []Kept
	var stale []PublishedGuide
	for _, p := range all {
		if p.State != Published {
			continue
		}
		x := Kept{PublishedGuide: p, Standing: byID[p.ID]}
		x.Fresh = x.Standing != nil && x.Standing.OfState == bases[p.Slug]
		if !x.Fresh {
			stale = append(stale, p)
		}
		list = append(list, x)
	}
	return list, k.check(stale), nil
}

// few are so few guides that one processor is enough for them.
const few = 12

// Checking is the key of the job that holds published guides against how things are.
const Checking = "standing"

// check holds some guides against how things are now, as many at a time as there are processors; nil for none.
func (k *Keeping) check(list []PublishedGuide) *Job {
	if len(list) == 0 {
		return nil
	}
	return k.Jobs.Start(Checking, "Looking what published guides say that no longer holds", "", len(list),
		func(ctx context.Context, step func()) (any, error) {
			var group errgroup.Group // one that fails does not stop the others
			group.SetLimit(runtime.GOMAXPROCS(0))
			if len(list) <= few {
				group.SetLimit(1)
				defer k.rest(ctx)()
			}
			for _, p := range list {
				group.Go(func() error {
					defer step()
					if ctx.Err() != nil {
						return ctx.Err()
					}
					return k.look(ctx, &p)
				})
			}
			return nil, group.Wait()
		})
}

// lookTime is how long a look at one guide may take.
const lookTime = time.Minute

// look is Check that comes to an end: of a guide of which it can't be worked out whether it still holds, that is what
// is
// told.
func (k *Keeping) look(ctx context.Context, p *PublishedGuide) error {
	short, cancel := context.WithTimeout(ctx, lookTime)
	defer cancel()
	_, err := k.Check(short, p)
	if err == nil || ctx.Err() != nil || errors.As(err, new(*KeepError)) {
		return err
	}
	slog.Warn("published guide", "model", p.Slug, "revision", p.Letter, "error", err)
	x, err := k.Publishing.Present(ctx, p.Slug)
	if err != nil {
		return err
	}
	whole := said.Line{Kind: said.Words, Text: [2]string{p.Title(), p.Title()}}
	broken := standing.Broken{Difference: said.Difference{Block: said.Head, Title: whole.Text, Was: &whole, Now: &whole},
		Why: "As the model is described now it can’t be worked out whether the guide still holds."}
	row := &StandingRow{PublishedID: p.ID, OfState: x.Basis, Broken: 1}
	builds := []BuildStanding{{Build: p.Of().Builds[0].Name, Edition: string(chapter.Owner),
		Standing: standing.Standing{List: []standing.Broken{broken}}}}
	if row.Body, err = marshal(builds); err != nil {
		return err
	}
	return k.Store.Do(ctx, func(tx Tx) error { return tx.SaveStanding(ctx, row) })
}

// Check holds a published guide against how things are now, and keeps what no longer holds.
func (k *Keeping) Check(ctx context.Context, p *PublishedGuide) (*StandingRow, error) {
	x, err := k.Publishing.Present(ctx, p.Slug)
	if err != nil {
		return nil, err
	}
	row := &StandingRow{PublishedID: p.ID, OfState: x.Basis}
	var list []BuildStanding
	for _, b := range p.Of().Builds {
		some, err := k.checkBuild(ctx, x, p, b)
		if err != nil {
			return nil, fmt.Errorf("%s revision %s, build %s: %w", p.Slug, p.Letter, b.Name, err)
		}
		list = append(list, some...)
	}
	for _, s := range list {
		row.Broken += len(s.List)
		row.Dangers += s.Dangers()
	}
	if row.Body, err = marshal(list); err != nil {
		return nil, err
	}
	earlier, err := k.Store.Standing(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	if row.Taken, err = stillTaken(earlier, row); err != nil {
		return nil, err
	}
	err = k.Store.Do(ctx, func(tx Tx) error { return tx.SaveStanding(ctx, row) })
	return row, err
}

// checkBuild holds the editions of a build of a published guide against how it is now.
func (k *Keeping) checkBuild(ctx context.Context, x *Present, p *PublishedGuide, of frozen.AboutOf) ([]BuildStanding,
	error) {
	for _, id := range of.With {
		if x.Doc.Option(id) == nil {
			gone := said.Line{Kind: said.Words, Text: [2]string{of.Title, of.Title}}
			broken := standing.Broken{Difference: said.Difference{Block: said.Head, Title: gone.Text, Was: &gone}, Danger: true}
			return []BuildStanding{{of.Name, string(chapter.Owner), standing.Standing{List: []standing.Broken{broken}}}}, nil
		}
	}
	var was []*said.Guide
	for _, e := range chapter.Editions() {
		g, err := k.Said(ctx, p.ID, of.Name, e)
		if err != nil {
			return nil, err
		}
		was = append(was, g)
	}
	b := k.Publishing.Builds.Kept(x.Rev, of.With)
	if b == nil {
		var err error
		if b, err = newBuild(x.Doc, of.With); err != nil { // nobody keeps it: many are checked, none is asked for again
			return nil, err
		}
	}
	in, err := x.Inputs(ctx, b, false)
	if err != nil {
		return nil, err
	}
	carry, err := k.carry(b, x.House, in.Inputs)
	if err != nil {
		return nil, err
	}
	now := standing.Now{In: in, Program: Program(), Carry: carry, Options: guide.Options{With: of.With, Draw: x.Draw(b),
		Photo: PhotoBeside}}
	got, err := standing.CheckAll(ctx, was, chapter.Editions(), now)
	if err != nil {
		return nil, err
	}
	var list []BuildStanding
	for i, e := range chapter.Editions() {
		if len(got[i].List) > 0 {
			list = append(list, BuildStanding{of.Name, string(e), *got[i]})
		}
	}
	return list, nil
}

// Said is what an edition of a published guide says and stands on.
func (k *Keeping) Said(ctx context.Context, id uint64, build string, e chapter.Edition) (*said.Guide, error) {
	raw, err := k.Store.FrozenFile(ctx, id, frozen.SaidPath(build, e))
	if err != nil {
		return nil, err
	}
	g := new(said.Guide)
	if err := json.Unmarshal(raw, g); err != nil {
		return nil, fmt.Errorf("what a published guide says: %w", err)
	}
	return g, nil
}

// key tells a line that no longer holds from others, and from the same line that differs in another way.
func (b *BuildStanding) key(i int) string {
	d := &b.List[i]
	text := func(l *said.Line) string {
		if l == nil {
			return "-"
		}
		return l.Text[0] + "\t" + l.Drawn
	}
	return b.Build + "/" + b.Edition + "/" + d.Block + ": " + text(d.Was) + " -> " + text(d.Now)
}

// keysOf are keys of all lines that no longer hold.
func keysOf(r *StandingRow) (keys []string) {
	for _, b := range r.List() {
		for i := range b.List {
			keys = append(keys, b.key(i))
		}
	}
	return keys
}

// stillTaken are the lines that the draft has taken over and that still differ in the same way; "" for none.
func stillTaken(earlier, now *StandingRow) (string, error) {
	if earlier == nil {
		return "", nil
	}
	taken := earlier.taken()
	still := slices.DeleteFunc(keysOf(now), func(key string) bool { return !slices.Contains(taken, key) })
	if len(still) == 0 {
		return "", nil
	}
	return marshal(still)
}

// Open tells which lines the draft has not taken over yet.
func (r *StandingRow) Open() func(b *BuildStanding, i int) bool {
	taken := r.taken()
	return func(b *BuildStanding, i int) bool { return !slices.Contains(taken, b.key(i)) }
}
