package words

import (
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/fault"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/state"
	"coldtap/internal/rig"
)

// german is a second language, as one file, with a few messages: what it lacks
// is said in English.
const german = `{
  "language": "de",
  "names": {"running": "%s", "lower": false},
  "messages": {
    "effect.nothing-into-tank": "In %[1]s kommt nichts.",
    "effect.lukewarm": "Lauwarm an %[1]s%[2]s.",
    "effect.lukewarm.share": ": etwa %[1]s %% laufen am Boiler vorbei",
    "side.hot": "heiß", "list.between": " und "
  }
}`

func in(t *testing.T, text string) *Printer {
	t.Helper()
	p, err := From(fstest.MapFS{"xx.json": {Data: []byte(text)}}, "xx.json", quantity.SI)
	require.NoError(t, err)
	return p
}

func TestASecondLanguageIsOneFile(t *testing.T) {
	n := rig.Network(t, "obsidian-33")
	var sides fault.Sides
	for i, node := range n.AllNodes() {
		if node.Part.Role() == plumbing.RoleOutlet && node.Port == "hot" && len(sides.Nodes) < 2 {
			sides.Nodes = append(sides.Nodes, i)
		}
	}
	tank := n.PartsOf(plumbing.RoleTank)[0]
	a, b := n.Nodes[sides.Nodes[0]].Part.Name, n.Nodes[sides.Nodes[1]].Part.Name
	list := []fault.Effect{{What: fault.NothingIntoTank, Part: tank}, {What: fault.Lukewarm, Sides: sides, Share: 0.25},
		{What: fault.AirIntoTank, Part: tank}}
	assert.Equal(t, "In "+tank.Name+" kommt nichts. Lauwarm an "+a+" heiß und "+b+" heiß: etwa 25 % laufen am "+
		"Boiler vorbei. Air escapes into "+tank.Name+".",
		in(t, german).Effects(n, list))
	assert.Equal(t, "Nothing gets into "+plumbing.Lower(tank.Name)+". Hot water comes lukewarm at "+
		plumbing.NoArticle(a)+" hot, "+plumbing.NoArticle(b)+
		" hot: about 25 % of the flow goes past the heater. Air escapes into "+plumbing.Lower(tank.Name)+".",
		English(quantity.SI).Effects(n, list))
}

func TestALanguageThatCantBeReadSaysWhere(t *testing.T) {
	for text, words := range map[string]string{
		`{`:                             "xx.json",
		`{"language": "no such thing"}`: "xx.json",
		`{"language": "de", "messages": {"effect.unheard-of": "…"}}`:                                `there is no message "effect.unheard-of"`,
		`{"language": "de", "messages": {"fluid.water": 7}}`:                                        "plural forms",
		`{"language": "de", "messages": {"fluid.water": {"one": "1"}}}`:                             `"other"`,
		`{"language": "de", "messages": {"fluid.water": "a", "side.hot": "b", "fluid.water": "c"}}`: `"fluid.water" is there twice`,
	} {
		_, err := From(fstest.MapFS{"xx.json": {Data: []byte(text)}}, "xx.json", quantity.SI)
		assert.ErrorContains(t, err, words, text)
	}
}

func TestPluralFormsFollowTheLanguage(t *testing.T) {
	base, err := english()
	require.NoError(t, err)
	was := base.Messages["side.hot"]
	defer func() { base.Messages["side.hot"] = was }()
	var jugs pattern
	require.NoError(t, json.Unmarshal([]byte(`{"one": "%[1]d jug", "other": "%[1]d jugs"}`), &jugs))
	base.Messages["side.hot"] = jugs
	p := in(t, `{"language": "pl", "messages": {"side.hot": {"one": "%[1]d kanister", "few": "%[1]d kanistry", "other": "%[1]d kanistrów"}}}`)
	assert.Equal(t, []string{"1 kanister", "3 kanistry", "5 kanistrów"},
		[]string{p.say("side.hot", 1), p.say("side.hot", 3), p.say("side.hot", 5)})
	en := in(t, `{"language": "en-GB"}`)
	assert.Equal(t, []string{"1 jug", "3 jugs"}, []string{en.say("side.hot", 1), en.say("side.hot", 3)})
}

// Every effect, harm and fluid has its message, and every message all its
// arguments, in their order.
func TestEnglishIsComplete(t *testing.T) {
	base, err := english()
	require.NoError(t, err)
	for _, what := range whats(t) {
		found := false
		for key := range base.Messages {
			found = found || key == "effect."+what || strings.HasPrefix(key, "effect."+what+".")
		}
		assert.True(t, found, "effect %s has no message", what)
	}
	for _, h := range []fault.Harm{fault.NotLit, fault.NoHeat, fault.Burns, fault.Overheats, fault.BurnsAndOverheats} {
		assert.Contains(t, base.Messages, "harm."+string(h))
	}
	bare := regexp.MustCompile(`%[^\[%]`)
	for key, p := range base.Messages {
		assert.Empty(t, bare.FindString(strings.ReplaceAll(p.text, "%%", "")), "%s: arguments are numbered", key)
	}
}

func TestNamesInRunningText(t *testing.T) {
	p := English(quantity.US)
	for name, running := range map[string]string{"Water heater": "the water heater", "USB pump": "the USB pump",
		"Älter Tank": "the älter Tank", "": "the ", "P": "the p"} {
		assert.Equal(t, running, p.running(name))
		assert.Equal(t, plumbing.Lower(name), p.running(name), "as everywhere else")
	}
	assert.Equal(t, "Éau", p.begin("éau"))
}

// Every act of every mode of every rig has its words, and none shows a key.
func TestEveryActHasItsWords(t *testing.T) {
	seen := map[state.Verb]bool{}
	for _, name := range rig.Names() {
		n := rig.Network(t, name)
		p := English(n.Model.System())
		for _, a := range rig.Plan(t, n) {
			for _, x := range a.Mode.Acts {
				words := p.Act(x)
				seen[x.Verb] = true
				assert.NotEmpty(t, words)
				assert.NotRegexp(t, `act\.|until\.|fluid\.|waste\.|heat\.|%!`, words, "%s of %s in %s", x.Verb,
					x.Part.ID, name)
			}
		}
	}
	assert.GreaterOrEqual(t, len(seen), 10)
	tank := &plumbing.Part{ID: "x", Name: "Tank", Kind: plumbing.Tank}
	for _, v := range []state.Verb{state.Part, state.Plug, state.Shut, state.PutBack, state.Cap, state.Open} {
		assert.NotContains(t, English(quantity.SI).Act(state.Act{Verb: v, Part: tank}), "act.", v)
	}
}

// Acts that are told alike are told once, with all their parts.
func TestActsToldAlikeStandTogether(t *testing.T) {
	a, b := &plumbing.Part{ID: "a", Name: "Front pump", Kind: plumbing.Pump},
		&plumbing.Part{ID: "b", Name: "Rear pump", Kind: plumbing.Pump}
	list := English(quantity.SI).Together([]state.Act{{Verb: state.On, Part: a}, {Verb: state.Off, Part: b},
		{Verb: state.On, Part: b}})
	require.Len(t, list, 2)
	assert.Equal(t, []string{"Front pump, rear pump", "pump switch on", "Rear pump", "pump switch off"},
		[]string{list[0].Names(), list[0].What, list[1].Names(), list[1].What})
}

// whats are the kinds of effect, as the sources name them.
func whats(t *testing.T) (list []string) {
	t.Helper()
	files, err := filepath.Glob("../fault/*.go")
	require.NoError(t, err)
	for _, path := range files {
		tree, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		ast.Inspect(tree, func(n ast.Node) bool {
			v, ok := n.(*ast.ValueSpec)
			if !ok {
				return true
			}
			if id, typed := v.Type.(*ast.Ident); typed && id.Name == "What" {
				for _, x := range v.Values {
					list = append(list, strings.Trim(x.(*ast.BasicLit).Value, `"`))
				}
			}
			return false
		})
	}
	require.NotEmpty(t, list)
	return list
}
