package habits_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/joining"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/table"
	"coldtap/internal/rig/habits"
	"coldtap/internal/spreadsheet"
)

func file(t *testing.T, l habits.List) []byte {
	t.Helper()
	raw, err := l.File()
	require.NoError(t, err)
	return raw
}

func first(rows []table.Row, _ []joining.Question) []table.Row { return rows }

// taken is what came of a list: the model, and the actions that it took.
type taken struct {
	model   *plumbing.Model
	actions int
	asked   []string
}

// take brings a list into an empty model as a person would: answers what is asked and
// takes the rows in, sheet by sheet.
func take(t *testing.T, l habits.List) taken {
	t.Helper()
	sheets, err := spreadsheet.Read(file(t, l))
	require.NoError(t, err)
	out := taken{model: &plumbing.Model{Format: plumbing.Format, ID: "basalt-18-2028", Name: "Basalt 18", Year: 2028,
		Kind: "travel trailer", Units: "us", Parts: []plumbing.Part{}, Lines: []plumbing.Line{}}}
	for _, s := range sheets {
		tab := table.Guess(s.Rows)
		tab.Answers = map[string]string{}
		for {
			_, questions := table.Read(out.model, &tab)
			for _, r := range first(table.Read(out.model, &tab)) {
				assert.NotEqual(
					t,
					table.Faulty,
					r.State,
					"%s row %d, while it is asked: %+v",
					l.Name,
					r.Number,
					r.Faults,
				)
			}
			open := slices.IndexFunc(questions, func(q joining.Question) bool { return tab.Answers[q.ID] == "" })
			if open < 0 {
				break
			}
			answer := l.Answers[questions[open].ID]
			require.NotEmpty(t, answer, "%s asks %+v", l.Name, questions[open])
			tab.Answers[questions[open].ID] = answer
			out.asked = append(out.asked, questions[open].ID)
			out.actions++
		}
		rows, _ := table.Read(out.model, &tab)
		for _, r := range rows {
			assert.NotEqual(t, table.Faulty, r.State, "%s row %d: %+v", l.Name, r.Number, r.Faults)
		}
		done, _, err := table.Apply(out.model, &tab)
		require.NoError(t, err)
		out.model = done.Model
		out.actions++
	}
	return out
}

// network writes what a model joins, one line each, ports that are alike as one.
func network(m *plumbing.Model, name func(id string) string) (list []string) {
	port := func(ref string) string {
		id, port := plumbing.PartOf(ref)
		switch m.Part(id).Kind {
		case plumbing.Tee, plumbing.Valve, plumbing.Manifold, plumbing.Coupling:
			port = "*"
		case plumbing.ThreeWay:
			if port != "com" {
				port = "*"
			}
		}
		return name(id) + "." + port
	}
	for _, l := range m.Lines {
		ends := []string{port(l.From), port(l.To)}
		slices.Sort(ends)
		length := "-"
		if !l.Length.IsZero() {
			length = fmt.Sprintf("%.1f", float64(l.Length.Value()/quantity.Foot))
		}
		list = append(list, strings.ToLower(fmt.Sprintf("%s %s %s %s", ends[0], ends[1], l.Side, length)))
	}
	slices.Sort(list)
	return list
}

func intended(l habits.List) (list []string) {
	missing := map[int]bool{}
	if l.Missing > 0 {
		missing = map[int]bool{7: true, 30: true}
	}
	for i, x := range habits.Lines {
		ends := []string{x.From + "." + x.FromPort, x.To + "." + x.Port}
		slices.Sort(ends)
		length := fmt.Sprintf("%.1f", x.Length)
		if missing[i] {
			length = "-"
		}
		list = append(list, strings.ToLower(fmt.Sprintf("%s %s %s %s", ends[0], ends[1], x.Side, length)))
	}
	slices.Sort(list)
	return list
}

// Every habit is taken in as it was meant, ports and ways included, in at most one action
// for every five rows.
func TestHabitsAreTakenInAsTheyAreMeant(t *testing.T) {
	for _, l := range habits.All() {
		t.Run(l.Name, func(t *testing.T) {
			got := take(t, l)
			assert.Equal(t, intended(l), network(got.model, func(id string) string {
				return got.model.Part(id).Name
			}))
			for name, want := range habits.Parts {
				i := slices.IndexFunc(
					got.model.Parts,
					func(p plumbing.Part) bool { return strings.EqualFold(p.Name, name) },
				)
				if assert.GreaterOrEqual(t, i, 0, name) {
					assert.Equal(t, want[0], string(got.model.Parts[i].Kind), name)
					if want[1] != "" {
						assert.Equal(t, want[1], got.model.Parts[i].Data.Type, name)
					}
				}
			}
			assert.Equal(t, l.Asks, len(got.asked) > 1, "%v", got.asked)
			assert.LessOrEqual(t, got.actions*5, len(habits.Lines))
			t.Logf("%d rows, none wrong, %d actions, asked %v", len(habits.Lines), got.actions, got.asked)
		})
	}
}
