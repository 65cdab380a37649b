package drill

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"coldtap/internal/core/quantity"
)

// Solution is what is right of an exercise, by ids alone: it is kept as it is.
type Solution struct {
	Kind  Kind     `json:"kind"`
	Right []string `json:"right,omitempty"` // options that are right

	Mode  string            `json:"mode,omitempty"`  // of Valves and Fault
	Start map[string]string `json:"start,omitempty"` // of Valves: part to the position that its handle stands in
	Pumps []string          `json:"pumps,omitempty"` // of Valves: that are to be on
	Found map[string]string `json:"found,omitempty"` // of Valves: a setting that is right
	Stays float64           `json:"stays,omitempty"` // of Valves in a mode that drains: L that stay in it

	Orders map[string]string `json:"orders,omitempty"` // of Order: "2013" to its outcome, "" for right

	Looks  []LookOf `json:"looks,omitempty"`  // of Fault
	Fewest int      `json:"fewest,omitempty"` // of Fault: looks that a best plan makes for it

	Bands []Band  `json:"bands,omitempty"` // of Amount, rising
	Piece float64 `json:"piece,omitempty"` // of Amount: L of what is counted; 0 where nothing is

	Marks map[string][2]float64 `json:"marks,omitempty"` // of Where on a photograph
	Photo string                `json:"photo,omitempty"`

	Number   int      `json:"number,omitempty"`    // of Where: the place on the layout that is asked about
	Signs    []string `json:"signs,omitempty"`     // of Heater: what is seen
	PerLitre float64  `json:"per_litre,omitempty"` // of Amount: mg/L that a litre of the product gives; 0 where it is no dose
}

// LookOf is a look that can be made.
type LookOf struct {
	ID     string `json:"id"`
	Kind   string `json:"kind"`
	Part   string `json:"part,omitempty"`
	Danger bool   `json:"danger,omitempty"`
	Free   bool   `json:"free,omitempty"` // the complaint: it was made already
}

// Band is a range of amounts that come to the same.
type Band struct {
	Below   float64 `json:"below,omitempty"` // L; 0 for no end
	Outcome string  `json:"outcome,omitempty"`
}

// Answer is what somebody answers.
type Answer struct {
	Pick    string            `json:"pick,omitempty"`
	Order   []int             `json:"order,omitempty"`
	Handles map[string]string `json:"handles,omitempty"`
	Pumps   []string          `json:"pumps,omitempty"`
	Text    string            `json:"text,omitempty"`
	At      *[2]float64       `json:"at,omitempty"`
	Looks   []string          `json:"looks,omitempty"` // in the order in which they were made
	Hints   int               `json:"hints,omitempty"`
}

// Marked is what an answer comes to.
type Marked struct {
	Right   bool   `json:"right"`
	Danger  bool   `json:"danger,omitempty"`
	Outcome string `json:"outcome,omitempty"` // of the reasons, which holds
	Points  int    `json:"points"`            // 0 to 100
	Looks   int    `json:"looks,omitempty"`
}

// What a hint and a look beyond the fewest cost, in points; a right answer keeps
// at least so many.
const (
	HintCosts = 25
	lookCosts = 10
	keepsLeft = 30
)

// RightOutcome is the outcome of a right answer.
const RightOutcome = "right"

// DangerOf is the outcome of a look that would hurt somebody.
func DangerOf(look string) string { return "danger " + look }

// An AnswerError says that something is no answer to an exercise, and what one would be.
type AnswerError struct{ Why string }

func (e *AnswerError) Error() string { return e.Why }

// Mark marks an answer; setting valves is marked by MarkValves. What is no answer
// at all is an AnswerError.
func (s *Solution) Mark(a Answer) (m Marked, err error) {
	switch s.Kind {
	case Valves:
		return m, &AnswerError{"This is marked on the plumbing."}
	case Order:
		m.Outcome, err = s.ordered(a.Order)
		m.Right = m.Outcome == ""
	case Amount:
		m.Outcome, err = s.measured(a.Text)
		m.Right = m.Outcome == ""
	case Fault:
		m, err = s.looked(a)
	case Where:
		if s.Photo != "" {
			m.Outcome, err = s.pointed(a.At)
			m.Right = m.Outcome == ""
			break
		}
		fallthrough
	default:
		if a.Pick == "" {
			return m, &AnswerError{"Choose one of the answers."}
		}
		m.Right, m.Outcome = slices.Contains(s.Right, a.Pick), a.Pick
	}
	if m.Right && m.Outcome == "" {
		m.Outcome = RightOutcome
	}
	s.Points(&m, a.Hints)
	return m, err
}

// Points gives the points of a marked answer.
func (s *Solution) Points(m *Marked, hints int) {
	m.Points = 0
	if m.Right && !m.Danger {
		beyond := 0
		if s.Kind == Fault {
			beyond = max(0, m.Looks-s.Fewest)
		}
		m.Points = max(keepsLeft, 100-HintCosts*max(0, hints)-lookCosts*beyond)
	}
}

func (s *Solution) ordered(order []int) (outcome string, err error) {
	key := ""
	for _, i := range order {
		key += strconv.Itoa(i)
	}
	outcome, ok := s.Orders[key]
	if !ok {
		return "", &AnswerError{"Put each of the steps in its place once."}
	}
	return outcome, nil
}

// measured is the outcome of an amount, as it was typed: with a unit, or without
// one where pieces are counted.
func (s *Solution) measured(text string) (outcome string, err error) {
	v, err := s.Litres(text)
	if err != nil {
		return "", err
	}
	for _, b := range s.Bands {
		if b.Below == 0 || v < b.Below {
			return b.Outcome, nil
		}
	}
	return "", fmt.Errorf("no band holds %g L", v)
}

// Litres reads an amount that was typed.
func (s *Solution) Litres(text string) (float64, error) {
	if s.Piece > 0 {
		number := strings.TrimSpace(strings.TrimRight(strings.TrimSpace(text), "abcdefghijklmnopqrstuvwxyz"))
		if n, err := strconv.ParseFloat(number, 64); err == nil && n == math.Trunc(n) && n >= 0 && n < 1000 &&
			(number == strings.TrimSpace(text) || strings.Contains(text, "jug")) {
			return n * s.Piece, nil
		}
	}
	v, err := quantity.Parse[quantity.Litre](text)
	if err != nil {
		return 0, &AnswerError{err.Error()}
	}
	if v < 0 || math.IsInf(float64(v), 0) || math.IsNaN(float64(v)) {
		return 0, &AnswerError{"An amount is not less than nothing."}
	}
	if s.Piece > 0 { // a jug that is opened is a jug
		v = quantity.Litre(math.Ceil(float64(v)/s.Piece-1e-9) * s.Piece)
	}
	return float64(v), nil
}

// looked marks a fault that was named after some looks. A look that would hurt
// somebody ends it, whatever was named.
func (s *Solution) looked(a Answer) (m Marked, err error) {
	for _, id := range a.Looks {
		i := slices.IndexFunc(s.Looks, func(l LookOf) bool { return l.ID == id })
		if i < 0 {
			return m, &AnswerError{"There is no such look: " + id}
		}
		if !s.Looks[i].Free {
			m.Looks++
		}
		if s.Looks[i].Danger {
			m.Danger, m.Outcome = true, DangerOf(id)
			return m, nil
		}
	}
	if a.Pick == "" {
		return m, &AnswerError{"Name what is wrong."}
	}
	m.Right, m.Outcome = slices.Contains(s.Right, a.Pick), a.Pick
	return m, nil
}

// nearEnough is how far from its mark somebody may point, as a share of the
// photograph.
const nearEnough = 0.08

// pointed is the outcome of a point on a photograph: right where it lies nearest
// to the mark that is asked for, and near enough.
func (s *Solution) pointed(at *[2]float64) (outcome string, err error) {
	if at == nil || at[0] < 0 || at[0] > 1 || at[1] < 0 || at[1] > 1 {
		return "", &AnswerError{"Point at a place on the photograph."}
	}
	nearest, how := "", math.Inf(1)
	for id, m := range s.Marks {
		if d := math.Hypot(m[0]-at[0], m[1]-at[1]); d < how || d == how && id < nearest {
			nearest, how = id, d
		}
	}
	switch {
	case how > nearEnough:
		return "nowhere", nil
	case slices.Contains(s.Right, nearest):
		return "", nil
	}
	return nearest, nil
}
