package standing

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/chapter"
	"coldtap/internal/guide/said"
	"coldtap/internal/rig/drafted"
)

// What of a printed guide is a danger when it no longer holds, and what comes near to that and is none.
func TestEachDangerComesAndGoes(t *testing.T) {
	in := drafted.Inputs(t, drafted.Model(t, "gneiss-24-2027"))
	in.Tasks = []chapter.Task{{ID: "winterize-pump", Known: true, Had: true}}
	line := func(kind said.Kind, key, text string) *said.Line {
		return &said.Line{Kind: kind, Key: key, Level: "danger", Text: [2]string{text, text}}
	}
	from := func(kind said.Kind, was, now string) said.Difference {
		return said.Difference{Was: line(kind, was, "x"), Now: line(kind, now, "y")}
	}
	figure := func(id string, times float64) (*said.Line, said.Number) {
		low, high, ok := in.Numbers(id)
		require.True(t, ok, id)
		return &said.Line{Kind: said.Figure, Ref: id, Text: [2]string{"1", "1"}},
			said.Number{ID: id, Low: low * times, High: high * times}
	}
	const antifreeze = "antifreeze/antifreeze/drained"
	note := line(said.Caution, "a", "x")
	note.Level = "note"
	tenth, tenthOf := figure(antifreeze, 0.9)
	near, nearOf := figure(antifreeze, 0.985)
	for name, c := range map[string]struct {
		danger bool
		block  string
		d      said.Difference
		told   []*said.Line // that the guide has
		was    []said.Number
	}{
		"a caution that is new":       {true, "have", said.Difference{Now: line(said.Caution, "a", "x")}, nil, nil},
		"a note that is new":          {false, "have", said.Difference{Now: note}, nil, nil},
		"a caution elsewhere":         {false, "have", said.Difference{Now: line(said.Caution, "a", "x"), Moved: true}, nil, nil},
		"a caution in other words":    {false, "have", from(said.Caution, "a", "a"), nil, nil},
		"another caution":             {true, "have", from(said.Caution, "a", "b"), nil, nil},
		"a caution that is gone":      {false, "have", said.Difference{Was: line(said.Caution, "a", "x")}, nil, nil},
		"a handle that is turned":     {true, "have", from(said.Position, "a", "a"), nil, nil},
		"a handle that is gone":       {true, "have", said.Difference{Was: line(said.Position, "a", "x")}, nil, nil},
		"a handle that is new":        {false, "have", said.Difference{Now: line(said.Position, "a", "x")}, nil, nil},
		"a handle elsewhere":          {false, "have", said.Difference{Was: line(said.Position, "a", "x"), Moved: true}, nil, nil},
		"a procedure that is gone":    {true, "task-sanitize", said.Difference{Was: line(said.Step, "a", "x")}, nil, nil},
		"a procedure that is there":   {false, "task-winterize-pump", said.Difference{Was: line(said.Step, "a", "x")}, nil, nil},
		"too little antifreeze":       {true, "figures", said.Difference{Was: tenth}, []*said.Line{tenth}, []said.Number{tenthOf}},
		"a little less antifreeze":    {false, "figures", said.Difference{Was: near}, []*said.Line{near}, []said.Number{nearOf}},
		"too little that is not told": {false, "figures", said.Difference{Was: tenth}, nil, []said.Number{tenthOf}},
		"a step with too little": {true, "task-winterize-pump", from(said.Step, "a", "a"),
			[]*said.Line{tenth}, []said.Number{tenthOf}},
		"a step with enough": {false, "task-winterize-pump", from(said.Step, "a", "a"),
			[]*said.Line{near}, []said.Number{nearOf}},
		"another step": {false, "task-winterize-pump", from(said.Step, "a", "b"),
			[]*said.Line{tenth}, []said.Number{tenthOf}},
		"a step of another procedure": {false, "have", from(said.Step, "a", "a"),
			[]*said.Line{tenth}, []said.Number{tenthOf}},
	} {
		c.d.Block = c.block
		s := Standing{List: []Broken{{Difference: c.d}}}
		was := &said.Guide{Figures: c.was, Blocks: []said.Block{{ID: "figures"}}}
		for _, l := range c.told {
			was.Blocks[0].Lines = append(was.Blocks[0].Lines, *l)
		}
		s.judge(was, &in)
		assert.Equal(t, c.danger, s.List[0].Danger, name)
	}
}

// Which figures make a step of a procedure a danger.
func TestFiguresBelongToProcedures(t *testing.T) {
	for block, of := range map[string][]string{
		"before":            {"weight/total"},
		"task-sanitize":     {"dose/fresh/measured", "batch/lines/bleach", "flush/drained/refills"},
		"task-keep-fresh":   {"keep-fresh"},
		"task-winterize":    {"antifreeze/antifreeze/drained", "air/ceiling", "time/heater/cool-down"},
		"task-heater-care":  {"time/heater/cool-down"},
		"have":              nil,
		"task-use-city":     {"time/heater/cool-down"},
		"task-sanitize-now": {"dose/fresh/measured"},
	} {
		for _, id := range []string{"weight/total", "dose/fresh/measured", "batch/lines/bleach", "flush/drained/refills",
			"keep-fresh", "antifreeze/antifreeze/drained", "air/ceiling", "time/heater/cool-down"} {
			why := refusedIn(block, map[string]string{id: "too weak"})
			if block == "task-sanitize-now" && id != "dose/fresh/measured" {
				continue
			}
			assert.Equal(t, contains(of, id), why == "too weak", "%s in %s", id, block)
		}
	}
}

func contains(list []string, id string) bool {
	for _, x := range list {
		if x == id {
			return true
		}
	}
	return false
}
