package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"runtime"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"coldtap/internal/core/amend"
	"coldtap/internal/core/amount"
	"coldtap/internal/core/draft"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/proof"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
)

// Listing keeps what lists of models show: columns worked out once for each
// state of a model, the house's rules and the program, and kept. What is being
// worked out says so; what is kept for anything else is not shown.
type Listing struct {
	Store interface {
		Transactor
		RuleReader
		ModelReader
		ColumnReader
	}
	Jobs *Jobs
}

// Columns is what a list shows of a model.
type Columns struct {
	System     quantity.System
	Tank       quantity.Litre // 0 for a model without one
	Lines      quantity.Litre
	Antifreeze quantity.Litre // lines drained; 0 where no setting carries it
	Met, Modes int            // modes that have a setting, of how many
	Errors     int
	Warnings   int
	Notes      int
	Procedures *Proofs `json:",omitempty"` // nil while they are being carried out
	Retired    bool    // no longer built
	Trouble    string  `json:",omitempty"` // why nothing could be worked out
}

// Proofs are what the procedures of a model came to.
type Proofs struct {
	Proven int
	Told   int // not proven, by a rule that is no danger
	Danger int // of those that are advised
}

// Thing is a part or line that a search can find.
type Thing struct {
	ID, Name string
	Words    string   // what it is, to be shown
	Texts    []string // that are looked through
}

// Listed is a model in a list.
type Listed struct {
	Model
	Columns *Columns // nil while they are being worked out
	Things  []Thing  // where they were asked for
}

// ListedRow is a model with the columns that are kept for its newest state.
type ListedRow struct {
	Model
	RevisionID uint64
	ForHouse   string
	ForCore    string
	Shown      string // Columns as JSON; "" where none are kept
	Things     string // []Thing as JSON; "" where they were not asked for
}

// ColumnReader reads kept columns.
type ColumnReader interface {
	Listed(ctx context.Context, things bool) ([]ListedRow, error)
}

// ColumnWriter keeps them.
type ColumnWriter interface {
	SaveColumns(ctx context.Context, row ListedRow) error
}

// List lists all models, things of theirs too where somebody searches. Those
// whose columns are not kept are worked out by a job, which it gives; nil
// where none has to be.
func (l *Listing) List(ctx context.Context, things bool) ([]Listed, *Job, error) {
	rules, err := l.Store.HouseRules(ctx)
	if err != nil {
		return nil, nil, err
	}
	rows, err := l.Store.Listed(ctx, things)
	if err != nil {
		return nil, nil, err
	}
	house := fingerprints(rules)
	var list []Listed
	var stale, unproved []ListedRow
	for _, row := range rows {
		x := Listed{Model: row.Model}
		if row.Shown != "" && row.ForHouse == house(row.Slug) && row.ForCore == coreVersion() {
			x.Columns = new(Columns)
			if err := json.Unmarshal([]byte(row.Shown), x.Columns); err != nil {
				return nil, nil, fmt.Errorf("columns of %s: %w", row.Slug, err)
			}
			if x.Columns.Procedures == nil && x.Columns.Trouble == "" {
				unproved = append(unproved, row)
			}
			if row.Things != "" {
				if err := json.Unmarshal([]byte(row.Things), &x.Things); err != nil {
					return nil, nil, fmt.Errorf("things of %s: %w", row.Slug, err)
				}
			}
		} else {
			row.ForHouse, row.ForCore = house(row.Slug), coreVersion()
			stale = append(stale, row)
		}
		list = append(list, x)
	}
	if job := l.refresh(stale, rules); job != nil {
		return list, job, nil
	}
	return list, l.prove(unproved, rules), nil
}

// fingerprints gives for a model what tells its house's rules from others.
func fingerprints(rules []HouseRule) func(slug string) string {
	words := map[string]string{}
	for _, r := range rules { // in order of scope and rule
		words[r.Scope] += fmt.Sprintf("%s=%s\n", r.Rule, r.Value)
	}
	return func(slug string) string {
		sum := sha256.Sum256([]byte(words[""] + "\n" + words[slug]))
		return hex.EncodeToString(sum[:12])
	}
}

// coreVersion tells this program from others, by its bytes.
var coreVersion = sync.OnceValue(func() string {
	path, err := os.Executable()
	if err != nil {
		return "unknown"
	}
	f, err := os.Open(path)
	if err != nil {
		return "unknown"
	}
	defer f.Close()
	sum := sha256.New()
	if _, err := io.Copy(sum, f); err != nil {
		return "unknown"
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
})

// refresh works columns out, one set of them at a time; nil for none.
func (l *Listing) refresh(stale []ListedRow, rules []HouseRule) *Job {
	if len(stale) == 0 {
		return nil
	}
	return l.Jobs.Start("columns", "Working out what the list of models shows", "", len(stale),
		func(ctx context.Context, step func()) (any, error) {
			var group errgroup.Group // one that fails does not stop the others
			group.SetLimit(runtime.GOMAXPROCS(0))
			for _, row := range stale {
				group.Go(func() error {
					defer step()
					return l.work(ctx, row, rules)
				})
			}
			return nil, group.Wait()
		})
}

// prove carries the procedures of models out, one model after the other and with a longer rest after each, so that
// nobody who works meanwhile waits for it; nil for none.
func (l *Listing) prove(unproved []ListedRow, rules []HouseRule) *Job {
	if len(unproved) == 0 {
		return nil
	}
	return l.Jobs.Start(Proving, "Carrying out procedures", "", len(unproved),
		func(ctx context.Context, step func()) (any, error) {
			for _, row := range unproved {
				began := time.Now()
				if err := l.proveOne(ctx, row, rules); err != nil {
					return nil, err
				}
				step()
				select {
				case <-ctx.Done():
					return nil, ctx.Err()
				case <-time.After(restsFor * time.Since(began)):
				}
			}
			return nil, nil
		})
}

// restsFor is how long it rests, in times that a model took.
const restsFor = 4

// Proving is the key of the job that carries procedures out.
const Proving = "procedures"

// proveOne carries the procedures of one model out and keeps what they came to, unless somebody changed the model
// meanwhile.
func (l *Listing) proveOne(ctx context.Context, row ListedRow, rules []HouseRule) error {
	rev, err := l.Store.StateOf(ctx, row.Slug, row.Revision)
	if err != nil {
		return err
	}
	var c Columns
	if err := json.Unmarshal([]byte(row.Shown), &c); err != nil {
		return fmt.Errorf("columns of %s: %w", row.Slug, err)
	}
	doc, err := rev.Read()
	if err != nil {
		return err
	}
	b, err := NewBuild(doc, "")
	if err != nil {
		return err
	}
	plan, err := b.Plan(ctx)
	if err != nil {
		return err
	}
	h, err := HouseOf(rules, row.Slug, c.System)
	if err != nil {
		return err
	}
	if c.Procedures, err = proofsOf(ctx, draft.Inputs{Net: b.Net, Plan: plan, House: h}); err != nil {
		return err
	}
	shown, err := json.Marshal(c)
	if err != nil {
		return err
	}
	things, err := json.Marshal(thingsOf(doc)) // the row has them only where somebody searched
	if err != nil {
		return err
	}
	row.RevisionID, row.Shown, row.Things = rev.ID, string(shown), string(things)
	return l.Store.Do(ctx, func(tx Tx) error { return tx.SaveColumns(ctx, row) })
}

// proofsOf counts what the procedures of a model come to, as hands left them.
func proofsOf(ctx context.Context, in draft.Inputs) (*Proofs, error) {
	var c Proofs
	maker := draft.NewMaker(in)
	for _, id := range draft.IDs() {
		d := maker.Make(ctx, id)
		if d.Procedure == nil {
			continue
		}
		_, pr, err := amend.Carried(ctx, in.Net, d.Procedure, d.Run)
		switch {
		case err != nil:
			return nil, err
		case pr.Proven():
			c.Proven++
		case pr.Worst() == proof.Danger && d.Advised:
			c.Danger++
		default:
			c.Told++
		}
	}
	return &c, ctx.Err()
}

// work works the columns of one model out and keeps them.
func (l *Listing) work(ctx context.Context, row ListedRow, rules []HouseRule) error {
	if ctx.Err() != nil {
		return ctx.Err()
	}
	rev, err := l.Store.StateOf(ctx, row.Slug, row.Revision)
	if err != nil {
		return err
	}
	columns, things, err := columnsOf(ctx, rev, row.Slug, rules)
	if err != nil {
		return err
	}
	shown, err := json.Marshal(columns)
	if err != nil {
		return err
	}
	found, err := json.Marshal(things)
	if err != nil {
		return err
	}
	row.RevisionID, row.Shown, row.Things = rev.ID, string(shown), string(found)
	return l.Store.Do(ctx, func(tx Tx) error { return tx.SaveColumns(ctx, row) })
}

// columnsOf works out what a list shows of a state of a model. That there was no
// time for it is an error; what can't be worked out at all is a column too.
func columnsOf(ctx context.Context, rev *Revision, slug string, rules []HouseRule) (*Columns, []Thing, error) {
	c := new(Columns)
	doc, err := rev.Read()
	if err != nil {
		c.Trouble = err.Error()
		return c, nil, nil
	}
	things := thingsOf(doc)
	c.System = doc.System()
	c.Retired = doc.Retired != nil
	b, err := NewBuild(doc, "")
	if err == nil {
		err = c.fill(ctx, b, slug, rules)
	}
	switch {
	case errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return nil, nil, err
	case err != nil:
		c.Trouble = err.Error()
	}
	return c, things, nil
}

func (c *Columns) fill(ctx context.Context, b *Build, slug string, rules []HouseRule) error {
	plan, err := b.Plan(ctx)
	if err != nil {
		return err
	}
	findings, err := b.Findings(ctx)
	if err != nil {
		return err
	}
	h, err := HouseOf(rules, slug, c.System)
	if err != nil {
		return err
	}
	for _, t := range b.Net.PartsOf(plumbing.RoleTank) {
		c.Tank += t.Data.Capacity.Value()
	}
	c.Lines = amount.Contents(b.Net, c.System).Total
	if a := setting.ForMode(plan, setting.Antifreeze); a != nil && a.OK {
		c.Antifreeze = amount.Antifreeze(b.Net, a, amount.Drained, h).Total
	}
	for i := range plan {
		if !plan[i].Mode.Measure {
			c.Modes++
			if plan[i].OK {
				c.Met++
			}
		}
	}
	for _, f := range findings {
		switch f.Severity {
		case finding.Error:
			c.Errors++
		case finding.Warning:
			c.Warnings++
		default:
			c.Notes++
		}
	}
	return nil
}

// thingsOf lists what a search can find in a document: names, ids, kinds and
// what is printed on the unit.
func thingsOf(m *plumbing.Model) []Thing {
	var list []Thing
	for i := range m.Parts {
		p := &m.Parts[i]
		t := Thing{ID: p.ID, Name: p.Name, Words: p.Kind.Info().Name,
			Texts: []string{p.Name, p.ID, p.Label, p.Kind.Info().Name}}
		if p.Label != "" {
			t.Words += ", marked “" + p.Label + "”"
		}
		for _, c := range p.Selector {
			t.Texts = append(t.Texts, c.Label)
		}
		for _, says := range p.Reading.Says {
			t.Texts = append(t.Texts, says)
		}
		list = append(list, t)
	}
	for i := range m.Lines {
		l := &m.Lines[i]
		list = append(list, Thing{ID: l.ID, Name: l.ID, Words: "line, " + l.Size, Texts: []string{l.ID, l.Size}})
	}
	return list
}
