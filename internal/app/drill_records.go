package app

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"coldtap/internal/core/drill"
	"coldtap/internal/core/paper"
	"coldtap/internal/core/record"
	"coldtap/internal/people"
)

// DrillBank is what can be asked of a build of a model as it was in one state.
type DrillBank struct {
	ID        uint64
	ModelID   uint64
	Slug      string
	Build     string // as units name it
	Number    uint64 // of the state
	Basis     string // what it was made from
	Counts    string // DrillCounts as JSON
	CreatedAt time.Time
}

// DrillCount is how many questions of a kind there are, and why others are not asked.
type DrillCount struct {
	Kind    drill.Kind            `json:"kind"`
	Asked   int                   `json:"asked"`
	Traps   int                   `json:"traps,omitempty"`
	Refused map[drill.Refusal]int `json:"refused,omitempty"`
}

// Kinds are the counts of a bank.
func (b *DrillBank) Kinds() (list []DrillCount) {
	_ = json.Unmarshal([]byte(b.Counts), &list) // written by this program
	return list
}

// DrillQuestion is a question in words.
type DrillQuestion struct {
	ID        uint64
	Slug      string
	Build     string
	Mark      string // of its key: the same in every state of the model
	Hash      string // of what it says and what is right
	Kind      drill.Kind
	Hard      int
	Trap      bool
	Task      string
	Ask       string
	Paper     string // as JSON
	Stands    string // hash of what it stands on
	CreatedAt time.Time
}

// DrillStand is what questions stand on.
type DrillStand struct {
	Hash   string `gorm:"primaryKey"`
	Inputs string // DrillInputs as JSON
}

// DrillInput is something that a question stands on, with what it was.
type DrillInput struct {
	Kind  record.Kind `json:"kind"`
	Of    string      `json:"of,omitempty"`
	Field string      `json:"field,omitempty"`
	Is    string      `json:"is"`
}

// Read is the question as it is asked.
func (q *DrillQuestion) Read() (*paper.Paper, error) {
	p := new(paper.Paper)
	return p, json.Unmarshal([]byte(q.Paper), p)
}

// DrillModel is a build of a model that a course is about.
type DrillModel struct {
	Slug  string `json:"slug"`
	Build string `json:"build"`
}

// DrillCourse is models and kinds of question together, with what it takes to pass.
type DrillCourse struct {
	ID        uint64
	Code      string // in its addresses
	Name      string
	Note      string
	Models    string // DrillModels as JSON
	Kinds     string // separated by spaces
	Count     int    // questions in a sitting
	PassMark  int    // per cent of the points
	Months    int    // for which it holds; 0 for good
	Practical string // procedures to be seen at a unit, as "slug/task", separated by spaces
	State     string
	ByID      uint64
	ByName    string
	CreatedAt time.Time
	UpdatedAt time.Time
}

// States of courses, sittings and classes.
const (
	DrillOpen   = "open"
	DrillClosed = "closed"
	DrillPassed = "passed"
	DrillFailed = "failed"
	DrillDone   = "done" // of practice
)

// Of are the models of a course.
func (c *DrillCourse) Of() (list []DrillModel) {
	_ = json.Unmarshal([]byte(c.Models), &list) // written by this program
	return list
}

// KindList are the kinds of a course.
func (c *DrillCourse) KindList() (list []drill.Kind) {
	for _, k := range strings.Fields(c.Kinds) {
		list = append(list, drill.Kind(k))
	}
	return list
}

// PracticalList are the procedures of a course that are to be seen at a unit.
func (c *DrillCourse) PracticalList() []string { return strings.Fields(c.Practical) }

// DrillSitting is somebody who sits a course, or practises.
type DrillSitting struct {
	ID         uint64
	Code       string
	CourseID   uint64 // 0 for practice
	ClassID    uint64 // 0 for alone
	Title      string
	PersonID   uint64
	PersonName string
	DealerID   uint64
	Questions  string // DrillPlaces as JSON
	Asked      int
	Answered   int
	Rights     int
	Points     int
	MissedTrap bool
	State      string
	EndedAt    *time.Time
	CreatedAt  time.Time
	UpdatedAt  time.Time
}

// DrillPlace is a question of a sitting, with the state of the model that it is marked on.
type DrillPlace struct {
	Question uint64 `json:"q"`
	Number   uint64 `json:"n"`
}

// Places are the questions of a sitting in order.
func (s *DrillSitting) Places() []DrillPlace { return placesOf(s.Questions) }

func placesOf(text string) (list []DrillPlace) {
	_ = json.Unmarshal([]byte(text), &list) // written by this program
	return list
}

// Percent is what was reached of all points, 0 to 100.
func (s *DrillSitting) Percent() int {
	if s.Asked == 0 {
		return 0
	}
	return s.Points / s.Asked
}

// DrillAnswer is what somebody answered, as it was marked then.
type DrillAnswer struct {
	SittingID  uint64 `gorm:"primaryKey"`
	Place      int    `gorm:"primaryKey"` // from 0
	QuestionID uint64
	Slug       string
	Build      string
	Mark       string
	Kind       drill.Kind
	Task       string
	Trap       bool
	Ask        string
	PersonID   uint64
	PersonName string
	DealerID   uint64
	Answer     string // drill.Answer as JSON
	Right      bool   `gorm:"column:rightly"`
	Danger     bool
	Points     int
	Hints      int
	Looks      int
	Fewest     int
	Said       string // DrillSaid as JSON: why it is right or wrong
	VoidWhy    string // what changed since that it stood on; "" for nothing
	CreatedAt  time.Time
}

// DrillSaid is why an answer is right or wrong.
type DrillSaid struct {
	Said  []string `json:"said,omitempty"`
	Right string   `json:"right,omitempty"` // what would have been right, of a wrong answer
	Parts []string `json:"parts,omitempty"`
}

// Why reads it.
func (a *DrillAnswer) Why() (s DrillSaid) {
	_ = json.Unmarshal([]byte(a.Said), &s) // written by this program
	return s
}

// DrillTry is how far somebody is with a question.
type DrillTry struct {
	SittingID uint64 `gorm:"primaryKey"`
	Place     int    `gorm:"primaryKey"`
	Hints     int
	Looks     string // ids, one a line
	UpdatedAt time.Time
}

// LookList are the looks that were made, in order.
func (t *DrillTry) LookList() []string {
	if t.Looks == "" {
		return nil
	}
	return strings.Split(t.Looks, "\n")
}

// DrillMemory is when somebody is asked again.
type DrillMemory struct {
	PersonID  uint64     `gorm:"primaryKey"`
	Slug      string     `gorm:"primaryKey"`
	Kind      drill.Kind `gorm:"primaryKey"`
	Box       int
	DueOn     time.Time
	Rights    int
	Wrongs    int
	UpdatedAt time.Time
}

// DrillCertificate says that somebody passed a course.
type DrillCertificate struct {
	ID         uint64
	Number     string
	CourseID   uint64
	SittingID  uint64
	Title      string
	About      string // the models, in words
	PersonID   uint64
	PersonName string
	DealerID   uint64
	Dealer     string
	Percent    int
	ExpiresOn  time.Time
	VoidWhy    string // what changed since that it stood on; "" for nothing
	CreatedAt  time.Time
	UpdatedAt  time.Time
}

// DrillSignoff says that somebody was seen to do a procedure on a unit as it is written.
type DrillSignoff struct {
	TrialID    uint64 `gorm:"primaryKey"`
	PersonID   uint64 `gorm:"primaryKey"`
	PersonName string
	Slug       string
	Task       string
	Title      string
	Serial     string
	ByID       uint64
	ByName     string
	Note       string
	CreatedAt  time.Time
}

// DrillClass is a course on one screen, answered on phones.
type DrillClass struct {
	ID        uint64
	Code      string
	CourseID  uint64
	Title     string
	Questions string
	Place     int  // that is asked
	Shown     bool // its answer is shown
	State     string
	ByID      uint64
	ByName    string
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Places are the questions of a class in order.
func (c *DrillClass) Places() []DrillPlace { return placesOf(c.Questions) }

// DrillProposal is what most get wrong, and what became of it.
type DrillProposal struct {
	Slug      string `gorm:"primaryKey"`
	Mark      string `gorm:"primaryKey"`
	Asked     int
	Wrongs    int
	State     string
	Words     string
	ByID      uint64
	ByName    string
	CreatedAt time.Time
	UpdatedAt time.Time
}

// States of a proposal.
const (
	ProposalOpen  = "open"
	ProposalTaken = "taken over"
	ProposalLeft  = "left"
)

// DrillTally is how often a question was answered, and how often wrongly.
type DrillTally struct {
	Slug, Mark string
	Kind       drill.Kind
	Task, Ask  string
	Asked      int
	Wrongs     int
}

// Share is the share of wrong answers, 0 to 1.
func (t DrillTally) Share() float64 {
	if t.Asked == 0 {
		return 0
	}
	return float64(t.Wrongs) / float64(t.Asked)
}

// DrillFilter picks answers and sittings.
type DrillFilter struct {
	Person uint64 // 0 for all
	Dealer uint64
	Slug   string
	Kind   drill.Kind
	Course uint64
	Mark   string
}

// DrillWriter keeps what is learned.
type DrillWriter interface {
	DrillReader
	AddDrillBank(ctx context.Context, b *DrillBank, questions []DrillQuestion) error
	// AddDrillStands keeps what questions stand on, where it is not kept yet.
	AddDrillStands(ctx context.Context, list []DrillStand) error
	AddDrillCourse(ctx context.Context, c *DrillCourse) error
	SetDrillCourse(ctx context.Context, c *DrillCourse) error
	AddDrillSitting(ctx context.Context, s *DrillSitting) error
	// LockDrillSitting reads a sitting that nobody else changes until the transaction ends.
	LockDrillSitting(ctx context.Context, id uint64) (*DrillSitting, error)
	SetDrillSitting(ctx context.Context, s *DrillSitting) error
	// AddDrillAnswer keeps an answer unless there is one in its place already, and reports whether it did.
	AddDrillAnswer(ctx context.Context, a *DrillAnswer) (bool, error)
	SetDrillTry(ctx context.Context, t *DrillTry) error
	SetDrillMemory(ctx context.Context, m *DrillMemory) error
	AddDrillCertificate(ctx context.Context, c *DrillCertificate) error
	AddDrillSignoff(ctx context.Context, s *DrillSignoff) error
	RemoveDrillSignoff(ctx context.Context, trialID, personID uint64) error
	AddDrillClass(ctx context.Context, c *DrillClass) error
	LockDrillClass(ctx context.Context, id uint64) (*DrillClass, error)
	SetDrillClass(ctx context.Context, c *DrillClass) error
	SetDrillProposal(ctx context.Context, p *DrillProposal) error
	// VoidDrillAnswers marks the answers to a question as standing on what has changed, and the certificates that
	// they led to.
	VoidDrillAnswers(ctx context.Context, questionID uint64, why string) (answers int64, err error)
}

// DrillReader reads it.
type DrillReader interface {
	DrillBank(ctx context.Context, slug, build, basis string) (*DrillBank, error)
	// DrillHeads are the questions of a bank without what they say.
	DrillHeads(ctx context.Context, bankID uint64) ([]DrillQuestion, error)
	DrillQuestion(ctx context.Context, id uint64) (*DrillQuestion, error)
	DrillQuestions(ctx context.Context, ids []uint64) ([]DrillQuestion, error)
	DrillStand(ctx context.Context, hash string) (*DrillStand, error)
	// AnsweredDrills are the questions of a build that somebody answered and whose answers still hold.
	AnsweredDrills(ctx context.Context, slug, build string) ([]DrillQuestion, error)
	DrillCourses(ctx context.Context) ([]DrillCourse, error)
	DrillCourse(ctx context.Context, id uint64) (*DrillCourse, error)
	DrillCourseByCode(ctx context.Context, code string) (*DrillCourse, error)
	DrillSittingByCode(ctx context.Context, code string) (*DrillSitting, error)
	DrillSittings(ctx context.Context, f DrillFilter, most int) ([]DrillSitting, error)
	DrillSittingsOfClass(ctx context.Context, classID uint64) ([]DrillSitting, error)
	OpenDrillSitting(ctx context.Context, personID, courseID uint64) (*DrillSitting, error)
	DrillAnswersOf(ctx context.Context, sittingIDs ...uint64) ([]DrillAnswer, error)
	DrillAnswer(ctx context.Context, sittingID uint64, place int) (*DrillAnswer, error)
	DrillAnswers(ctx context.Context, f DrillFilter, most int) ([]DrillAnswer, error)
	DrillTry(ctx context.Context, sittingID uint64, place int) (*DrillTry, error)
	DrillMemories(ctx context.Context, personID uint64) ([]DrillMemory, error)
	// DrillTallies counts answers by question, those that hold; of all models where slug is "".
	DrillTallies(ctx context.Context, slug string) ([]DrillTally, error)
	DrillCertificates(ctx context.Context, f DrillFilter, most int) ([]DrillCertificate, error)
	DrillCertificate(ctx context.Context, number string) (*DrillCertificate, error)
	DrillSignoffs(ctx context.Context, personID uint64) ([]DrillSignoff, error)
	DrillSignoffsOf(ctx context.Context, trialID uint64) ([]DrillSignoff, error)
	DrillClassByCode(ctx context.Context, code string) (*DrillClass, error)
	DrillClass(ctx context.Context, id uint64) (*DrillClass, error)
	DrillProposals(ctx context.Context, slug string) ([]DrillProposal, error)
}

// Trains reports whether somebody trains others: makes courses and sees all results.
func (p *Person) Trains() bool { return p.Role == people.Trainer }

// DrillScope is whose results somebody sees: trainers all, everybody else their own.
func (p *Person) DrillScope() DrillFilter {
	if p.Trains() {
		return DrillFilter{}
	}
	return DrillFilter{Person: p.ID}
}

// Given is what was answered.
func (a *DrillAnswer) Given() (x drill.Answer) {
	_ = json.Unmarshal([]byte(a.Answer), &x) // written by this program
	return x
}
