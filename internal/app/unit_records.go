package app

import (
	"context"
	"encoding/json"
	"strings"
	"time"
	"unicode"

	"coldtap/internal/core/care"
	"coldtap/internal/core/measure"
	"coldtap/internal/core/trial"
	"coldtap/internal/people"
)

// Dealer sells and services units.
type Dealer struct {
	ID        uint64
	Name      string
	Place     string
	CreatedAt time.Time
}

// Scope is whose units somebody sees: all, or those of a dealer.
type Scope struct {
	All    bool
	Dealer uint64 // 0 for none at all
}

// Sees reports whether something of a dealer is seen.
func (s Scope) Sees(dealer uint64) bool { return s.All || s.Dealer != 0 && s.Dealer == dealer }

// Scope is whose units a person sees: technicians those of their dealer.
func (p *Person) Scope() Scope {
	if p.Role == people.Technician {
		return Scope{Dealer: p.DealerID}
	}
	return Scope{All: true}
}

// Unit is a camper that was built.
type Unit struct {
	ID        uint64
	Serial    string
	SerialKey string // by which it is found, however it is typed
	Code      string // of the link on its plate
	ModelID   uint64
	Slug      string
	Build     string // options that are fitted, as addresses name them
	DealerID  uint64
	Use       care.Use `gorm:"column:used_for"`
	MadeOn    time.Time
	Note      string
	Basis     string // what its dues follow from beside its log
	CreatedAt time.Time
	UpdatedAt time.Time
}

// SerialKey is a serial number without what people type differently.
func SerialKey(serial string) string {
	return strings.Map(func(r rune) rune {
		if r > unicode.MaxASCII || !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			return -1
		}
		return unicode.ToUpper(r)
	}, serial)
}

// UnitEntry is something that was done on a unit.
type UnitEntry struct {
	UnitID    uint64    `gorm:"primaryKey" json:"-"`
	Mark      string    `gorm:"primaryKey" json:"id"`
	On        time.Time `gorm:"column:on_day" json:"on"`
	Kind      care.Kind `json:"kind"`
	Of        string    `gorm:"column:what" json:"of,omitempty"`
	Value     float64   `json:"value,omitempty"`
	Words     string    `json:"words,omitempty"`
	ByID      uint64    `json:"-"`
	ByName    string    `json:"by"`
	TrialID   uint64    `json:"-"`
	GoneBy    string    `json:"-"` // who took it back; "" for nobody
	CreatedAt time.Time `json:"-"`
}

// UnitDue is something that is due on a unit.
type UnitDue struct {
	UnitID   uint64      `gorm:"primaryKey"`
	Kind     care.Kind   `gorm:"primaryKey"`
	Of       string      `gorm:"primaryKey;column:what"`
	On       time.Time   `gorm:"column:on_day"`
	Why      care.Reason `gorm:"column:why"`
	Last     *time.Time  `gorm:"column:last_day"`
	DealerID uint64
}

// DueRow is something that is due, with the unit that it is due on.
type DueRow struct {
	UnitDue
	Serial string
	Slug   string
	Build  string
	Use    care.Use
}

// Trial is a procedure that was taken to a unit.
type Trial struct {
	ID         uint64
	Code       string // in its addresses
	ModelID    uint64
	Slug       string
	Number     uint64 // of the model's state
	UnitID     uint64
	Serial     string
	Build      string
	Task       string
	Title      string
	DealerID   uint64
	State      string
	Place      string
	Weather    string
	ByID       uint64
	ByName     string
	Steps      string // TrialSteps as JSON
	Page       string // its steps as they are read, made when it began
	Verdict    string // what it came to when it was compared last, as cause.Verdict has it
	FinishedAt *time.Time
	CreatedAt  time.Time
	UpdatedAt  time.Time
}

// States of a trial.
const (
	TrialOpen     = "open"
	TrialFinished = "finished"
	TrialDropped  = "dropped"
)

// TrialStep is a step as it is measured at, made when the trial began.
type TrialStep struct {
	Key    string       `json:"key"`
	Head   string       `json:"head"`
	Probes []TrialProbe `json:"probes,omitempty"`
	Drains []TrialOf    `json:"drains,omitempty"` // that it opens
	Pumps  []TrialOf    `json:"pumps,omitempty"`  // that run in it
	Anodes []TrialOf    `json:"anodes,omitempty"` // that are looked at
}

// TrialOf is a part, by its id and its name.
type TrialOf struct {
	ID   string  `json:"id"`
	Name string  `json:"name"`
	New  float64 `json:"new,omitempty"`  // of an anode: mm when new
	Core float64 `json:"core,omitempty"` // of its wire
}

// TrialProbe is something that can be measured at a step.
type TrialProbe struct {
	Kind     measure.Kind `json:"kind"`
	Of       string       `json:"of,omitempty"`
	Name     string       `json:"name,omitempty"` // of the place
	Computed float64      `json:"computed"`
	Spread   float64      `json:"spread"`
	Range    trial.Range  `json:"range"`
}

// TrialSteps are the steps of a trial, with what can be said of the whole.
type TrialSteps struct {
	Steps  []TrialStep            `json:"steps"`
	Tanks  []TrialOf              `json:"tanks,omitempty"`
	Hose   bool                   `json:"hose,omitempty"` // a tank is filled by one
	Jug    float64                `json:"jug"`            // L
	Fields []float64              `json:"fields"`         // of the strip
	Ranges map[string]trial.Range `json:"ranges"`
	Units  string                 `json:"units"` // that stand first
}

// What reads the steps of a trial.
func (t *Trial) What() (x TrialSteps) {
	_ = json.Unmarshal([]byte(t.Steps), &x) // it was written by the program
	return x
}

// TrialEntry is an entry of a trial as it is kept.
type TrialEntry struct {
	TrialID   uint64 `gorm:"primaryKey"`
	Mark      string `gorm:"primaryKey"`
	At        int64
	Step      string
	Kind      trial.Kind
	Of        string `gorm:"column:what"`
	Value     float64
	Words     string
	ByID      uint64
	ByName    string
	CreatedAt time.Time
}

// Entry is it as phones have it.
func (e *TrialEntry) Entry() trial.Entry {
	return trial.Entry{ID: e.Mark, At: e.At, Who: e.ByName, Step: e.Step, Kind: e.Kind, Of: e.Of, Value: e.Value,
		Text: e.Words}
}

// TrialPhoto is a photograph that was taken in a trial.
type TrialPhoto struct {
	TrialID   uint64 `gorm:"primaryKey"`
	Mark      string `gorm:"primaryKey"`
	Mime      string
	Body      []byte
	CreatedAt time.Time
}

// Correction is what a trial asked to be corrected.
type Correction struct {
	ID          uint64
	TrialID     uint64
	ModelID     uint64
	Slug        string
	Cause       string // its kind
	Place       string // where it is, as cause.Where has it
	What        string // id of the part, the line or the rule
	Path        string // of the model's: the field
	Before      string `gorm:"column:before_text"`
	After       string `gorm:"column:after_text"`
	Lowers      string // what it lowers, in words; "" for nothing: then no reviewer is asked
	State       string
	ByID        uint64
	ByName      string
	DecidedByID uint64
	DecidedBy   string
	Number      uint64 // of the model's state that came of it
	Version     int    // of the rule that came of it
	CreatedAt   time.Time
	UpdatedAt   time.Time
}

// States of a correction.
const (
	CorrectionAsked  = "asked" // it waits for the reviewer
	CorrectionTaken  = "taken over"
	CorrectionUndone = "undone"
	CorrectionNo     = "turned down"
)

// UnitWriter keeps units and what is done on them.
type UnitWriter interface {
	UnitReader
	AddDealer(ctx context.Context, d *Dealer) error
	SetDealer(ctx context.Context, personID, dealerID uint64) error
	AddUnit(ctx context.Context, u *Unit) error
	SetUnit(ctx context.Context, u *Unit) error
	// LockUnit is Unit of one that nobody else changes until the transaction ends.
	LockUnit(ctx context.Context, id uint64) (*Unit, error)
	// AddUnitEntries keeps entries that are not kept yet.
	AddUnitEntries(ctx context.Context, list []UnitEntry) error
	// RemoveUnitEntries takes away what a trial said in a unit's log.
	RemoveUnitEntries(ctx context.Context, unitID, trialID uint64) error
	TakeBackUnitEntry(ctx context.Context, unitID uint64, mark, by string) error
	// SetDues keeps what is due on a unit in the place of what was.
	SetDues(ctx context.Context, unitID uint64, basis string, list []UnitDue) error
}

// UnitReader reads them.
type UnitReader interface {
	Dealers(ctx context.Context) ([]Dealer, error)
	Unit(ctx context.Context, id uint64) (*Unit, error)
	UnitBySerial(ctx context.Context, key string) (*Unit, error)
	UnitByCode(ctx context.Context, code string) (*Unit, error)
	// Units lists those that a scope sees whose serial numbers begin with a key, in their order.
	Units(ctx context.Context, scope Scope, key string, most int) ([]Unit, error)
	UnitEntries(ctx context.Context, unitID uint64) ([]UnitEntry, error)
	DuesOf(ctx context.Context, unitID uint64) ([]UnitDue, error)
	// Dues lists what is due until a day on units that a scope sees, the soonest first.
	Dues(ctx context.Context, scope Scope, until time.Time, kind care.Kind, most int) ([]DueRow, error)
	CountDues(ctx context.Context, scope Scope, until time.Time) (int64, error)
	// UnitsBehind lists units of a build whose dues follow from something else than a basis.
	UnitsBehind(ctx context.Context, modelID uint64, build, basis string, most int) ([]Unit, error)
	// BuildsWithUnits lists which builds of which models there are units of: of each one.
	BuildsWithUnits(ctx context.Context) ([]Unit, error)
}

// TrialWriter keeps trials.
type TrialWriter interface {
	TrialReader
	AddTrial(ctx context.Context, t *Trial) error
	SetTrial(ctx context.Context, t *Trial) error
	SetVerdict(ctx context.Context, id uint64, verdict string) error
	// AddTrialEntries keeps entries that are not kept yet.
	AddTrialEntries(ctx context.Context, list []TrialEntry) error
	AddTrialPhoto(ctx context.Context, p *TrialPhoto) error
	AddCorrection(ctx context.Context, x *Correction) error
	// SetCorrection sets what became of a correction that is in a state; ErrStale otherwise.
	SetCorrection(ctx context.Context, x *Correction, from string) error
}

// TrialReader reads them.
type TrialReader interface {
	TrialByCode(ctx context.Context, code string) (*Trial, error)
	Trial(ctx context.Context, id uint64) (*Trial, error)
	// TrialsOf lists a model's trials that a scope sees, the newest first, without pages.
	TrialsOf(ctx context.Context, modelID uint64, scope Scope) ([]Trial, error)
	TrialsOfUnit(ctx context.Context, unitID uint64) ([]Trial, error)
	TrialEntries(ctx context.Context, trialID uint64) ([]TrialEntry, error)
	CountTrialEntries(ctx context.Context, trialID uint64) (int, error)
	TrialPhoto(ctx context.Context, trialID uint64, mark string) (*TrialPhoto, error)
	CountTrials(ctx context.Context) (map[uint64]int, error) // that are finished, by model
	CountBeside(ctx context.Context) (map[uint64]int, error) // of them, that came out otherwise than computed
	Correction(ctx context.Context, id uint64) (*Correction, error)
	CorrectionsOf(ctx context.Context, modelID uint64) ([]Correction, error)
	CorrectionsAsked(ctx context.Context) ([]Correction, error)
}
