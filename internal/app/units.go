package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"coldtap/internal/core/care"
	"coldtap/internal/core/chapter"
	"coldtap/internal/core/house"
	"coldtap/internal/core/instruction"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/guide/frozen"
)

// Units keeps the units that were built, what was done on them and what is due.
type Units struct {
	Store interface {
		Transactor
		UnitReader
		PublishReader
		RuleReader
	}
	Publishing *Publishing
	Jobs       *Jobs
	Now        func() time.Time

	mu    sync.Mutex
	specs map[string]*specOf // by model and build
	looks time.Time          // until then the dues are not looked at again
}

// specOf is what a build of a model has that is cared for.
type specOf struct {
	care.Spec
	hash  string            // of it
	basis string            // what it was worked out from
	Names map[string]string // of parts
}

// AddDealer opens a dealer.
func (u *Units) AddDealer(ctx context.Context, by By, name, place string) error {
	name, place = strings.TrimSpace(name), strings.TrimSpace(place)
	if name == "" || utf8.RuneCountInString(name) > 120 || utf8.RuneCountInString(place) > 160 {
		return refused("A dealer has a name of at most 120 letters, and a place of at most 160.")
	}
	return u.Store.Do(ctx, func(tx Tx) error {
		if err := tx.AddDealer(ctx, &Dealer{Name: name, Place: place}); errors.Is(err, ErrExists) {
			return refused("There is a dealer of the name %s already.", name)
		} else if err != nil {
			return err
		}
		return tx.Audit(ctx, by, "added dealer", name, place)
	})
}

// Assign says which dealer somebody belongs to; 0 for none.
func (u *Units) Assign(ctx context.Context, by By, p *Person, dealer uint64) error {
	return u.Store.Do(ctx, func(tx Tx) error {
		name, err := dealerName(ctx, tx, dealer)
		if err != nil {
			return err
		}
		if err := tx.SetDealer(ctx, p.ID, dealer); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "set dealer", p.Login, name)
	})
}

// dealerName is what a dealer is called; one that there is not is refused.
func dealerName(ctx context.Context, st UnitReader, id uint64) (string, error) {
	if id == 0 {
		return "none", nil
	}
	list, err := st.Dealers(ctx)
	if err != nil {
		return "", err
	}
	for _, d := range list {
		if d.ID == id {
			return d.Name, nil
		}
	}
	return "", refused("There is no such dealer.")
}

// Get is a unit that a scope sees; ErrNotFound otherwise.
func (u *Units) Get(ctx context.Context, scope Scope, id uint64) (*Unit, error) {
	x, err := u.Store.Unit(ctx, id)
	if err == nil && !scope.Sees(x.DealerID) {
		return nil, ErrNotFound
	}
	return x, err
}

// Find is a unit by its serial number, however it is typed.
func (u *Units) Find(ctx context.Context, scope Scope, serial string) (*Unit, error) {
	x, err := u.Store.UnitBySerial(ctx, SerialKey(serial))
	if err == nil && !scope.Sees(x.DealerID) {
		return nil, ErrNotFound
	}
	return x, err
}

// NewUnit is what somebody says of a unit that is not kept yet.
type NewUnit struct {
	Serial string
	Slug   string // of its model; "" for what the published guides say of the number
	Build  string
	Dealer uint64
	Use    care.Use
	MadeOn time.Time
}

// Add keeps a unit.
func (u *Units) Add(ctx context.Context, by By, scope Scope, n NewUnit) (*Unit, error) {
	n.Serial = strings.TrimSpace(n.Serial)
	x := &Unit{Serial: n.Serial, SerialKey: SerialKey(n.Serial), Code: NewCode(), DealerID: n.Dealer, Use: n.Use,
		MadeOn: n.MadeOn}
	switch {
	case utf8.RuneCountInString(n.Serial) > 60 || len(x.SerialKey) < 3:
		return nil, refused("Type the serial number as on the plate: at least three letters and digits, at most 60.")
	case !slices.Contains(care.Uses(), n.Use):
		return nil, refused("Say how the unit is used.")
	case !scope.Sees(n.Dealer):
		return nil, refused("You keep the units of your own dealer only.")
	}
	if _, err := u.Store.UnitBySerial(ctx, x.SerialKey); err == nil {
		return nil, refused("The serial number %s is kept already.", n.Serial)
	} else if !errors.Is(err, ErrNotFound) {
		return nil, err
	}
	if n.Slug == "" {
		all, err := u.Store.AllPublished(ctx)
		if err != nil {
			return nil, err
		}
		g, builds := ForSerial(all, n.Serial)
		if g == nil {
			return nil, refused("No published guide is for the serial number %s: choose its model.", n.Serial)
		}
		n.Slug = g.Slug
		if len(builds) == 1 {
			n.Build = builds[0].Name
		}
	}
	p, err := u.Publishing.Present(ctx, n.Slug)
	if errors.Is(err, ErrNotFound) {
		return nil, refused("There is no such model.")
	} else if err != nil {
		return nil, err
	}
	if x.Build, err = buildName(p.Doc, n.Build); err != nil {
		return nil, err
	}
	x.ModelID, x.Slug = p.Row.ID, n.Slug
	if x.MadeOn.IsZero() {
		x.MadeOn = u.Now().UTC().Truncate(24 * time.Hour)
	}
	spec, err := u.spec(ctx, p, x.Build)
	if err != nil {
		return nil, err
	}
	return x, u.Store.Do(ctx, func(tx Tx) error {
		if _, err := dealerName(ctx, tx, n.Dealer); err != nil {
			return err
		}
		if err := tx.AddUnit(ctx, x); errors.Is(err, ErrExists) {
			return refused("The serial number %s is kept already.", n.Serial)
		} else if err != nil {
			return err
		}
		if err := u.due(ctx, tx, x, spec); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "added unit", x.Serial, n.Slug+" "+x.Build)
	})
}

// buildName is the build of a model that some options make, as units name it; "" is the standard one.
func buildName(doc *plumbing.Model, name string) (string, error) {
	if name == "" {
		return frozen.Name(doc.StandardOptions()), nil
	}
	for _, with := range doc.Builds() {
		if frozen.Name(with) == name {
			return name, nil
		}
	}
	return "", refused("%s has no build of this kind.", doc.Name)
}

// withOf are the options of a build by its name.
func withOf(doc *plumbing.Model, name string) []string {
	for _, with := range doc.Builds() {
		if frozen.Name(with) == name {
			return with
		}
	}
	return doc.StandardOptions()
}

// Change sets what may change of a unit.
func (u *Units) Change(ctx context.Context, by By, scope Scope, id uint64, change func(*Unit)) error {
	x, err := u.Get(ctx, scope, id)
	if err != nil {
		return err
	}
	change(x)
	p, err := u.Publishing.Present(ctx, x.Slug)
	if err != nil {
		return err
	}
	switch {
	case !slices.Contains(care.Uses(), x.Use):
		return refused("Say how the unit is used.")
	case !scope.Sees(x.DealerID):
		return refused("You keep the units of your own dealer only.")
	}
	if x.Build, err = buildName(p.Doc, x.Build); err != nil {
		return err
	}
	spec, err := u.spec(ctx, p, x.Build)
	if err != nil {
		return err
	}
	return u.Store.Do(ctx, func(tx Tx) error {
		if _, err := tx.LockUnit(ctx, id); err != nil {
			return err
		}
		if _, err := dealerName(ctx, tx, x.DealerID); err != nil {
			return err
		}
		if err := tx.SetUnit(ctx, x); err != nil {
			return err
		}
		if err := u.due(ctx, tx, x, spec); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "changed unit", x.Serial, fmt.Sprintf("%s %s, dealer %d", x.Build, x.Use, x.DealerID))
	})
}

// cared is a unit that a scope sees, with what it has that is cared for.
func (u *Units) cared(ctx context.Context, scope Scope, id uint64) (*Unit, *specOf, error) {
	x, err := u.Get(ctx, scope, id)
	if err != nil {
		return nil, nil, err
	}
	p, err := u.Publishing.Present(ctx, x.Slug)
	if err != nil {
		return nil, nil, err
	}
	spec, err := u.spec(ctx, p, x.Build)
	return x, spec, err
}

// Write keeps what was done on a unit. An entry that is kept already is the same sent again.
func (u *Units) Write(ctx context.Context, by By, scope Scope, id uint64, list ...UnitEntry) error {
	x, spec, err := u.cared(ctx, scope, id)
	if err != nil {
		return err
	}
	for i := range list {
		e := &list[i]
		e.UnitID, e.ByID, e.ByName = id, by.ID, by.Name
		if err := u.check(spec, e); err != nil {
			return err
		}
	}
	return u.Store.Do(ctx, func(tx Tx) error {
		if _, err := tx.LockUnit(ctx, id); err != nil {
			return err
		}
		if err := tx.AddUnitEntries(ctx, list); err != nil {
			return err
		}
		if err := u.due(ctx, tx, x, spec); err != nil {
			return err
		}
		for _, e := range list {
			if err := tx.Audit(ctx, by, "wrote in a unit’s log", x.Serial, fmt.Sprintf("%s %s %s", e.On.Format("2006-01-02"),
				e.Kind, e.Of)); err != nil {
				return err
			}
		}
		return nil
	})
}

// ofTrial keeps what a trial says in the log of its unit in the place of what it said before, together with some more.
func (u *Units) ofTrial(ctx context.Context, by By, scope Scope, of *Trial, list []UnitEntry, more func(Tx) error) error {
	x, spec, err := u.cared(ctx, scope, of.UnitID)
	if err != nil {
		return err
	}
	for i := range list {
		e := &list[i]
		e.UnitID, e.TrialID, e.ByID, e.ByName = x.ID, of.ID, by.ID, by.Name
		if err := u.check(spec, e); err != nil {
			return err
		}
	}
	return u.Store.Do(ctx, func(tx Tx) error {
		if _, err := tx.LockUnit(ctx, x.ID); err != nil {
			return err
		}
		if err := tx.RemoveUnitEntries(ctx, x.ID, of.ID); err != nil {
			return err
		}
		if len(list) > 0 {
			if err := tx.AddUnitEntries(ctx, list); err != nil {
				return err
			}
		}
		if err := u.due(ctx, tx, x, spec); err != nil {
			return err
		}
		return more(tx)
	})
}

// check refuses an entry that can't be so.
func (u *Units) check(spec *specOf, e *UnitEntry) error {
	e.Words = strings.TrimSpace(e.Words)
	known := slices.Contains(care.Kinds(), e.Kind) || e.Kind == care.Tried
	switch {
	case !markPattern.MatchString(e.Mark) || !known:
		return refused("Choose what was done.")
	case e.On.IsZero() || e.On.After(u.Now().Add(36*time.Hour)):
		return refused("Say on which day it was done; that is not in the future.")
	case e.On.Year() < 1990:
		return refused("The day %s is long before there was such a unit.", e.On.Format("2 January 2006"))
	case utf8.RuneCountInString(e.Words) > 1200 || len(e.Of) > 120:
		return refused("Write at most 1200 letters.")
	case e.Kind == care.Winterized && (e.Value < 0 || e.Value > 60):
		return refused("So many jugs: a number from 0 to 60.")
	case e.Kind == care.AnodeLook && (e.Value < 0 || e.Value > 1):
		return refused("The share of an anode that is used is from 0 to 100 %%.")
	case (e.Kind == care.AnodeLook || e.Kind == care.AnodeNew) && !slices.Contains(spec.Anodes, e.Of):
		return refused("Choose the heater whose anode it is.")
	case e.Kind == care.Changed && !slices.ContainsFunc(spec.Consumables,
		func(c care.Consumable) bool { return c.ID == e.Of }):
		return refused("Choose what was changed.")
	case e.Kind == care.Noted && e.Words == "", e.Kind == care.Repaired && e.Words == "":
		return refused("Write what was done.")
	}
	return nil
}

// TakeBack marks an entry as not so; it stays to be seen.
func (u *Units) TakeBack(ctx context.Context, by By, scope Scope, id uint64, mark string) error {
	x, spec, err := u.cared(ctx, scope, id)
	if err != nil {
		return err
	}
	return u.Store.Do(ctx, func(tx Tx) error {
		if _, err := tx.LockUnit(ctx, id); err != nil {
			return err
		}
		if err := tx.TakeBackUnitEntry(ctx, id, mark, by.Name); err != nil {
			return err
		}
		if err := u.due(ctx, tx, x, spec); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "took an entry of a unit’s log back", x.Serial, mark)
	})
}

// EntriesOf are entries as the core has them, without those that were taken back.
func EntriesOf(list []UnitEntry) (entries []care.Entry) {
	for _, e := range list {
		if e.GoneBy == "" {
			entries = append(entries, care.Entry{On: e.On, Kind: e.Kind, Of: e.Of, Value: e.Value})
		}
	}
	return entries
}

// due works out what is due on a unit, and keeps it.
func (u *Units) due(ctx context.Context, tx Tx, x *Unit, spec *specOf) error {
	log, err := tx.UnitEntries(ctx, x.ID)
	if err != nil {
		return err
	}
	var rows []UnitDue
	for _, d := range care.Of(spec.Spec, x.Use, x.MadeOn, EntriesOf(log)) {
		row := UnitDue{UnitID: x.ID, Kind: d.What, Of: d.Of, On: d.On, Why: d.Why, DealerID: x.DealerID}
		if !d.Last.IsZero() {
			row.Last = &d.Last
		}
		rows = append(rows, row)
	}
	return tx.SetDues(ctx, x.ID, spec.hash, rows)
}

// Spec is what a unit has that is cared for, and what its parts are called.
func (u *Units) Spec(ctx context.Context, x *Unit) (care.Spec, map[string]string, error) {
	p, err := u.Publishing.Present(ctx, x.Slug)
	if err != nil {
		return care.Spec{}, nil, err
	}
	spec, err := u.spec(ctx, p, x.Build)
	if err != nil {
		return care.Spec{}, nil, err
	}
	return spec.Spec, maps.Clone(spec.Names), nil // theirs to add to
}

// mostSpecs is of how many builds it is remembered what is cared for.
const mostSpecs = 2000

// spec is what a build has that is cared for, as it was worked out last: its procedures are not carried out again while
// somebody waits because the model was changed. Refresh does that.
func (u *Units) spec(ctx context.Context, p *Present, build string) (*specOf, error) {
	u.mu.Lock()
	s := u.specs[p.Row.Slug+" "+build]
	u.mu.Unlock()
	if s != nil {
		return s, nil
	}
	return u.worked(ctx, p, build)
}

// worked is what a build has that is cared for, as the model and the rules are now.
func (u *Units) worked(ctx context.Context, p *Present, build string) (*specOf, error) {
	key := p.Row.Slug + " " + build
	u.mu.Lock()
	s := u.specs[key]
	u.mu.Unlock()
	if s != nil && s.basis == p.Basis {
		return s, nil
	}
	b, err := u.Publishing.Build(ctx, p, withOf(p.Doc, build))
	if err != nil {
		return nil, err
	}
	tasks, err := b.Tasks(ctx, p.House)
	if err != nil {
		return nil, err
	}
	s = &specOf{Spec: specOfBuild(b, tasks, p.House), basis: p.Basis, Names: map[string]string{}}
	raw, err := json.Marshal(s.Spec)
	if err != nil {
		return nil, err
	}
	s.hash = frozen.Sum(raw)
	for _, part := range b.Net.AllParts() {
		s.Names[part.ID] = part.Name
	}
	u.mu.Lock()
	defer u.mu.Unlock()
	if u.specs == nil || len(u.specs) > mostSpecs {
		u.specs = map[string]*specOf{}
	}
	u.specs[key] = s
	return s, nil
}

func specOfBuild(b *Build, tasks []chapter.Task, h house.House) care.Spec {
	s := care.Spec{AnodeAt: house.Anode.Of(h)}
	has := map[string]bool{}
	for i := range tasks {
		t := &tasks[i]
		has[t.ID] = t.Has()
		if !t.Has() || t.Part != chapter.Winter || t.ID == "winterize-again" || t.ID == "storage" || s.Winter != "" {
			continue
		}
		s.Winter = t.ID
		for _, used := range t.Read.Used {
			if jug := house.Jug.Of(h); used.What == instruction.UsedAntifreeze && jug > 0 {
				s.Jugs = quantity.RoundUp(float64((used.Litre + house.JugHeel.Of(h)) / jug))
			}
		}
	}
	s.Sanitize = has["sanitize"]
	for _, p := range b.Net.PartsOf(plumbing.RoleHeater) {
		if !p.Data.AnodeNew.IsZero() {
			s.Anodes = append(s.Anodes, p.ID)
		}
		if has["descale-heater"] && p.Vessel() {
			s.Descale = append(s.Descale, p.ID)
		}
		if has["hot-cycle"] && p.Data.Type == "hydronic" {
			s.HotCycles = append(s.HotCycles, p.ID)
		}
	}
	for _, c := range b.Model.Consumables {
		if c.Part == "" || b.Model.Part(c.Part) != nil {
			s.Consumables = append(s.Consumables, care.Consumable{ID: c.ID, Name: c.Name, What: c.What, Order: c.Order,
				Life: c.Life})
		}
	}
	return s
}

// Pause between looks at what is due, and how many units are worked out in one transaction.
const (
	duesRest = time.Minute
	duesPart = 50
)

// Soon lets it be worked out again what is due on units whose models or rules have changed. It gives the work while it
// goes on; nil where nothing is to be done.
func (u *Units) Soon() *Job {
	u.mu.Lock()
	defer u.mu.Unlock()
	if u.Now().Before(u.looks) {
		return nil
	}
	u.looks = u.Now().Add(duesRest)
	return u.Jobs.Start("dues", "Working out what is due on units", "", 1, func(ctx context.Context, step func()) (any,
		error) {
		defer step()
		return nil, u.Refresh(ctx)
	})
}

// Refresh works out what is due on every unit whose model or rules have changed since.
func (u *Units) Refresh(ctx context.Context) error {
	models, err := u.Store.BuildsWithUnits(ctx)
	if err != nil {
		return err
	}
	for _, m := range models {
		p, err := u.Publishing.Present(ctx, m.Slug)
		if err != nil {
			return err
		}
		spec, err := u.worked(ctx, p, m.Build)
		if err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			slog.WarnContext(ctx, "what is due can't be worked out", "model", m.Slug, "err", err)
			continue
		}
		for {
			list, err := u.Store.UnitsBehind(ctx, m.ModelID, m.Build, spec.hash, duesPart)
			if err != nil {
				return err
			}
			if len(list) == 0 {
				break
			}
			for i := range list {
				err := u.Store.Do(ctx, func(tx Tx) error {
					x, err := tx.LockUnit(ctx, list[i].ID)
					if err != nil {
						return err
					}
					return u.due(ctx, tx, x, spec)
				})
				if err != nil {
					return err
				}
			}
		}
	}
	return nil
}
