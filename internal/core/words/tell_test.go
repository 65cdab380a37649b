package words

import (
	"encoding/json"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/fact"
	"coldtap/internal/core/finding"
	"coldtap/internal/core/flow"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/setting"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// with is English with one message more.
func with(t *testing.T, text string, sys quantity.System) *Printer {
	t.Helper()
	base, err := english()
	require.NoError(t, err)
	was := base.Messages["it"]
	defer func() { base.Messages["it"] = was }()
	base.Messages["it"] = pattern{text: text}
	p, err := From(fstest.MapFS{"en.json": {Data: []byte(`{"language": "en"}`)}}, "en.json", sys)
	require.NoError(t, err)
	return p
}

// Each verb of the catalogue picks its form, of whatever a fact is about.
func TestTheCatalogueChoosesTheForms(t *testing.T) {
	tank, pump := &plumbing.Part{ID: "t", Name: "Fresh tank"}, &plumbing.Part{ID: "p", Name: "USB pump"}
	both := []*plumbing.Part{tank, pump}
	gal := quantity.USGallon
	for _, c := range []struct {
		text  string
		about any
		want  string
	}{
		{"%[1]s", tank, "Fresh tank"}, {"%[1]r", tank, "the fresh tank"}, {"%[1]n", tank, "fresh tank"},
		{"%[1]r", pump, "the USB pump"},
		{"%[1]r", fact.Name("Low tee"), "the low tee"}, {"%[1]s", &plumbing.Line{ID: "line-1"}, "line-1"},
		{"%[1]s", both, "Fresh tank, USB pump"}, {"%[1]R", both, "the fresh tank and the USB pump"},
		{"%[1]N", both, "fresh tank and USB pump"},
		{"%[1]e", both, "Fresh tank and USB pump"}, {"%[1]j", both, "Fresh tank; USB pump"},
		{"%[1]w", []any{"a", "b"}, "ab"},
		{"%[1]s", 5 * gal, "5.00\u00a0gal"}, {"%[1]b", 5 * gal, "5.00\u00a0gal (18.9\u00a0L)"},
		{"%[1]A", 5 * gal, "5.0\u00a0gal"}, {"%[1]U", 5 * gal, "5.00\u00a0gal (18.9\u00a0L)"},
		{"%[1]s", quantity.Kilopascal(276), quantity.Show(quantity.Kilopascal(276), quantity.US)},
		{"%[1]b", quantity.Kilogram(10), quantity.Both(quantity.Kilogram(10), quantity.US)},
		{"%[1]k", quantity.Second(90), quantity.Neat(quantity.Second(90), quantity.US)},
		{"%[1]s", plumbing.Hot, "hot"}, {"%[1]u", state.Antifreeze, "Antifreeze"},
		{"%[1]s", state.Attitude{NoseUp: -2}, "nose down"}, {"%[1]s", flow.DeadEnd, "gets no air: a dead end"},
		{"%[1]s", 90 * time.Minute, "1 h 30 min"}, {"%[1]s", 2 * time.Hour, "2 h"}, {"%[1]s", 5 * time.Minute, "5 min"},
		{"%[1]s", fact.Word("side.cold"), "cold"}, {"%[1]r", fact.Of("subject.side", tank, plumbing.Hot),
			"the fresh tank, hot"},
		{"%[1]s", plumbing.Standing{Part: &plumbing.Part{Kind: plumbing.LowPoint,
			Reading: plumbing.Reading{Handle: "cap"}}, Position: "open"}, "cap off"},
		{"%[1]s %%", "50", "50 %"},
	} {
		assert.Equal(t, c.want, with(t, c.text, quantity.US).Tell(fact.Of("it", c.about)), "%s of %v", c.text, c.about)
	}
	assert.Equal(t, "18.9\u00a0L (5.00\u00a0gal)", with(t, "%[1]b", quantity.SI).Tell(fact.Of("it", 5*gal)))
	assert.Empty(t, English(quantity.US).Tell(fact.Fact{}))
	for n, want := range map[int]string{1: "1 jug", 2: "2 jugs"} {
		assert.Equal(t, want, English(quantity.US).Tell(fact.Of("jugs.count", n)))
	}
}

// Every attitude, reason, aim and mode has its words, and every rule of
// findings why it matters and what would mend it.
func TestEveryKindOfFactHasItsWords(t *testing.T) {
	p := English(quantity.SI)
	has := func(id string) {
		t.Helper()
		assert.NotEqual(t, id, p.say(id, "", "", ""), "%s has no words", id)
	}
	for _, a := range state.Attitudes() {
		assert.NotContains(t, p.attitude(a), ".")
	}
	for r := flow.Empties; r <= flow.NotKnown; r++ {
		has("stays." + r.String())
	}
	for a := setting.Served; a <= setting.OnlyByFilter; a++ {
		has("clause." + a.String())
		has("breach." + a.String())
	}
	for _, name := range rig.Names() {
		for _, m := range setting.Modes(rig.Network(t, name)) {
			has("mode." + m.ID)
		}
	}
	for _, r := range finding.Rules() {
		has("finding." + r.Code + ".why")
		has("finding." + r.Code + ".remedy")
	}
}

// What the core says has a message, and every message is said: no id is
// misspelt, none is left over. Ids that are put together from pieces are known
// by how they begin.
func TestMessagesAndFactsMatch(t *testing.T) {
	base, err := english()
	require.NoError(t, err)
	source := read(t, "../..")
	said := regexp.MustCompile(`(?:fact\.Of|fact\.Word|\bsay)\("([a-z][a-z0-9.-]*[a-z0-9])"[,)]`)
	for _, m := range said.FindAllStringSubmatch(source, -1) {
		assert.Contains(t, base.Messages, m[1], "no message")
	}
	literals := map[string]bool{}
	var begins []string
	for _, m := range regexp.MustCompile(`"([a-z][a-z0-9.-]*)"`).FindAllStringSubmatch(source, -1) {
		literals[m[1]] = true
		if strings.HasSuffix(m[1], ".") {
			begins = append(begins, m[1])
		}
	}
	for id := range base.Messages {
		found := literals[id]
		for _, b := range begins {
			found = found || strings.HasPrefix(id, b)
		}
		for at := strings.LastIndex(id, "."); at > 0 && !found; at = strings.LastIndex(id[:at], ".") {
			found = literals[id[:at]] && literals[id[at:]] // a variant: an id with more behind it
		}
		assert.True(t, found, "nothing says %s", id)
	}
}

// read is the source of all packages, without tests.
func read(t *testing.T, root string) string {
	t.Helper()
	var b strings.Builder
	require.NoError(t, filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		text, err := os.ReadFile(path)
		b.Write(text)
		return err
	}))
	return b.String()
}

// asked is an argument that a message asks for, by its number.
var asked = regexp.MustCompile(`%\[(\d+)\]`)

// asks is the highest number of an argument that a message asks for.
func (p *pattern) asks() (most int) {
	texts := []string{p.text}
	for _, t := range p.forms {
		texts = append(texts, t)
	}
	for _, t := range texts {
		for _, m := range asked.FindAllStringSubmatch(t, -1) {
			n, _ := strconv.Atoi(m[1])
			most = max(most, n)
		}
	}
	return most
}

// Wherever a fact is made, it has as many arguments as its message asks for.
func TestEachUseHasItsArguments(t *testing.T) {
	base, err := english()
	require.NoError(t, err)
	uses := 0
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		set := token.NewFileSet()
		tree, err := parser.ParseFile(set, path, nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		ast.Inspect(tree, func(n ast.Node) bool {
			call, ok := n.(*ast.CallExpr)
			if !ok || call.Ellipsis != token.NoPos || len(call.Args) == 0 {
				return true
			}
			f, ok := call.Fun.(*ast.SelectorExpr)
			id, isText := call.Args[0].(*ast.BasicLit)
			if of, isName := f, ok; !isName || fmt.Sprint(of.X) != "fact" || of.Sel.Name != "Of" && of.Sel.Name != "Word" || !isText {
				return true
			}
			key, err := strconv.Unquote(id.Value)
			require.NoError(t, err)
			if m, known := base.Messages[key]; known {
				uses++
				assert.LessOrEqual(t, m.asks(), len(call.Args)-1, "%s: %s has fewer arguments than its message asks for",
					set.Position(n.Pos()), key)
			}
			return true
		})
		return nil
	}))
	assert.Greater(t, uses, 500)
}

// No message asks for an argument that its fact does not have: what every rig
// says has no sign of one missing, left over or of the wrong kind.
func TestNothingSaidIsBroken(t *testing.T) {
	for _, name := range rig.Names() {
		n := rig.Network(t, name)
		plan := rig.Plan(t, n)
		p := English(n.Model.System())
		for _, f := range finding.Find(n, plan) {
			assert.NotContains(t, p.Tell(f.Said), "%!", "%s %s", name, f.Code)
		}
		for i := range plan {
			a := &plan[i]
			for _, words := range append(p.TellAll(a.Wrong(n)), p.Tell(a.Why), p.Tell(a.Mode.Name),
				p.Tell(a.Mode.LeftOut)) {
				assert.NotContains(t, words, "%!", "%s %s", name, a.Mode.ID)
			}
			for _, c := range a.Mode.Clauses {
				assert.NotContains(t, p.Tell(c.Said(a.Mode.Fluid)), "%!")
			}
		}
	}
}

// A message of plural forms counts its first argument.
func TestPluralMessagesCountTheirFirstArgument(t *testing.T) {
	base, err := english()
	require.NoError(t, err)
	for id, p := range base.Messages {
		if p.forms != nil {
			raw, err := json.Marshal(p.forms)
			require.NoError(t, err)
			assert.True(t, strings.Contains(string(raw), "%[1]d") || len(p.forms) == 2, id)
		}
	}
}
