package table_test

import (
	"bytes"
	"reflect"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/core/plumbing"
	"coldtap/internal/core/table"
	"coldtap/internal/rig"
	"coldtap/internal/rig/told"
)

func model(t testing.TB, id string) *plumbing.Model {
	t.Helper()
	m, err := demo.Model(id)
	require.NoError(t, err)
	return m
}

func text(t testing.TB, m *plumbing.Model) string {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, plumbing.Write(&b, m))
	return b.String()
}

func TestListsReadBackTheSame(t *testing.T) {
	models, err := demo.Models()
	require.NoError(t, err)
	for _, m := range models {
		want := text(t, m)
		block := table.WriteBlock(table.LineRows(m))
		lines := table.Guess(table.Block(block))
		require.Equal(t, table.Lines, lines.What)
		done, rows, err := table.Replace(m, &lines)
		require.NoError(t, err, "%s %+v", m.ID, faulty(rows))
		assert.Equal(t, want, text(t, done.Model), m.ID)
		parts := table.Guess(table.PartRows(m))
		require.Equal(t, table.Parts, parts.What)
		for _, r := range judged(m, &parts) {
			assert.Equal(t, table.Same, r.State, "%s %s: %+v", m.ID, r.ID, r.Faults)
		}
	}
}

func faulty(rows []table.Row) (list []table.Row) {
	for _, r := range rows {
		if r.State == table.Faulty {
			list = append(list, r)
		}
	}
	return list
}

// judge pastes lines into the Gneiss.
func judge(t *testing.T, block string) (table.Table, []table.Row) {
	t.Helper()
	tab := table.Guess(table.Block(block))
	return tab, judged(model(t, "gneiss-24-2027"), &tab)
}

// Whatever a part or a line can say has a column, and a system written as two
// lists and read into nothing is the same system.
func TestListsSayAllThereIs(t *testing.T) {
	has := map[string]bool{}
	for _, f := range table.Fields(table.Parts) {
		has[f.Path] = true
	}
	for i := range reflect.TypeFor[plumbing.Data]().NumField() {
		name, _, _ := strings.Cut(reflect.TypeFor[plumbing.Data]().Field(i).Tag.Get("json"), ",")
		assert.True(t, has["data."+name], "no column for %s", name)
	}
	for _, name := range rig.Names() {
		if name == "unknowns" {
			continue // a list of lines without their lengths is refused
		}
		m, err := rig.Model(name)
		require.NoError(t, err)
		bare := *m
		bare.Parts, bare.Lines, bare.Consumables = []plumbing.Part{}, []plumbing.Line{}, nil
		got := &bare
		for _, rows := range [][][]string{table.PartRows(m), table.LineRows(m)} {
			tab := table.Guess(table.Block(table.WriteBlock(rows)))
			done, judged, err := table.Apply(got, &tab)
			require.NoError(t, err, name)
			require.Empty(t, faulty(judged), name)
			got = done.Model
		}
		for i := range m.Parts {
			assert.Equal(t, m.Parts[i], *got.Part(m.Parts[i].ID), name)
		}
		for i := range m.Lines {
			assert.Equal(t, m.Lines[i], *got.Line(m.Lines[i].ID), name)
		}
	}
}

func TestColumnsAreMatchedByTheirHeads(t *testing.T) {
	tab := table.Guess([][]string{{"Line list, rev. C"}, {}, {"Tag", "From", "To", "Nominal size", "Length (ft)",
		"Remarks", "LENGTH, m", "Length ft"}, {"trunk-1", "", "", "", "9", "", "", ""}})
	assert.Equal(t, table.Lines, tab.What)
	assert.Equal(t, 4, tab.First)
	var got []string
	for _, c := range tab.Columns {
		got = append(got, c.Field+" "+c.Unit)
	}
	assert.Equal(t, []string{"id ", "from ", "to ", "size ", "length ft", " ", "length m", " "}, got)
	none := table.Guess([][]string{{"1", "2"}, {"3"}})
	assert.Len(t, none.Columns, 2)
	assert.Empty(t, none.Columns[0].Field)
	assert.Len(t, none.Rows, 2)
}

func TestRowsAreChangedByIdOrByTheirEnds(t *testing.T) {
	_, rows := judge(t, "Line\tLength (ft)\ntrunk-1\t9\ntrunk-2\t3 ft 6 in\ntrunk-3\t\n")
	assert.Equal(t, []table.State{table.Changes, table.Same, table.Same},
		[]table.State{rows[0].State, rows[1].State, rows[2].State})
	_, rows = judge(t, "From\tTo\tSize\tLength\nWater pump\tCity water tee, a\t½ in PEX\t26 in\n")
	assert.Equal(t, table.Changes, rows[0].State, "%+v", rows[0].Faults)
	assert.Equal(t, "pump-out", rows[0].ID)
	_, rows = judge(t, "From\tTo\tSize\tLength\ntee-city.a\tpump.out\t½ in PEX\t26 in\n")
	assert.Equal(t, "pump-out", rows[0].ID, "written from its other end it is the same line")
	_, rows = judge(t, "From\tTo\tSize\tLength\npump.in\tkitchen.hot\t½ in PEX\t26 in\n")
	assert.NotEqual(t, "pump-out", rows[0].ID)
}

func TestFaultsAreToldAtTheirCell(t *testing.T) {
	head := "Line\tFrom\tTo\tSize\tLength (ft)\n"
	for _, c := range []struct {
		row    string
		column int
		words  string
	}{
		{"x1\tCity water tee\tkitchen.cold\tPEX 1/2\t3", 1, "City water tee takes lines at 3 ports and has 3, and rows 2 come to it"},
		{"x1\tpump.outlet\tkitchen.cold\tPEX 1/2\t3", 1, `Water pump has no port "outlet"; its ports are in, out`},
		{"x1\t\tkitchen.cold\tPEX 1/2\t3", 1, "the line's from end is missing"},
		{"x1\tpump.out\tkitchen.cold\tPEX 5/8\t3", 3, "is not a size in the table"},
		{"x1\tpump.out\tkitchen.cold\tPEX 1/2\tabout three", 4, `"about three"`},
		{"x1\tpump.out\tkitchen.cold\tPEX 1/2\t#REF!", 4, "its formula failed"},
		{"x1\tpump.out\tkitchen.cold\tPEX 1/2\t3", 1,
			`line "pump-out" already joins pump.out; a port takes one line, put a tee in`},
		{"trunk-1\t\t\t\t9\ntrunk-1\t\t\t\t8", 0, `"trunk-1" stands in row 2 too`},
	} {
		_, rows := judge(t, head+c.row+"\n")
		r := rows[len(rows)-1]
		require.Equal(t, table.Faulty, r.State, c.row)
		assert.Equal(t, c.column, r.Faults[0].Column, c.row)
		assert.Contains(t, r.Faults[0].Words, c.words, c.row)
	}
	_, rows := judge(t, head+"trunk-1\t\t\t\t2.7 m\n")
	assert.Equal(t, table.Changes, rows[0].State)
	assert.Contains(t, rows[0].Notes[0].Words, "unit of its own in a column of ft")
}

func TestNewPartsAreToldByTheWordsOfTheTrade(t *testing.T) {
	tab := table.Guess([][]string{{"Part", "Class"}, {"Galley faucet", "Tap"}, {"Low pt, front", ""}, {"Gizmo", ""}})
	m := model(t, "gneiss-24-2027")
	done, rows, err := table.Apply(m, &tab)
	require.NoError(t, err)
	tap, low := done.Model.Part("galley-faucet"), done.Model.Part("low-pt-front")
	assert.Equal(t, []string{"outlet", "kitchen"}, []string{string(tap.Kind), tap.Data.Type})
	assert.Equal(t, []string{"data.type"}, tap.Assumed)
	assert.Equal(t, plumbing.LowPoint, low.Kind)
	assert.Equal(t, []string{"kind"}, low.Assumed)
	assert.Contains(t, rows[2].Faults[0].Words, "say what kind it is")
}

func TestTwoFiguresForOneCapacityMustAgree(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	tab := table.Guess([][]string{{"Item", "Capacity gal", "Capacity (L)"}, {"Fresh tank", "38", "118"},
		{"Grey tank", "39", "147.6"}})
	require.Equal(t, table.Parts, tab.What)
	rows := judged(m, &tab)
	require.Equal(t, table.Faulty, rows[0].State)
	assert.Equal(t, 2, rows[0].Faults[0].Column)
	assert.Contains(t, strings.ReplaceAll(rows[0].Faults[0].Words, "\u00a0", " "),
		"118 l is not 38 gal, which is 144 L (38.0 gal)")
	assert.Equal(t, table.Changes, rows[1].State)
	done, _, err := table.Apply(m, &tab)
	require.NoError(t, err)
	assert.Equal(t, "39 gal (147.6 l)", done.Model.Part("grey").Data.Capacity.String())
	assert.Equal(t, "43 gal (163 L)", done.Model.Part("fresh").Data.Capacity.String(), "the faulty row waits")
	assert.Equal(t, "took in parts: 0 new, 1 changed", told.Fact(done.Said))
}

func TestGoodRowsGoInAndBadOnesWait(t *testing.T) {
	m := model(t, "gneiss-24-2027")
	m.Lines = m.Lines[:0:0]
	tab := table.Guess(table.Block("From\tTo\tLength\nfresh.supply\tvalve-pickup.a\t2 ft\nnothing\tpump.in\t1 " +
		"ft\nvalve-pickup.com\tstrainer.in\t10 in\n"))
	done, rows, err := table.Apply(m, &tab)
	require.NoError(t, err)
	assert.Len(t, done.Model.Lines, 2)
	assert.Equal(t, table.Asks, rows[1].State, "what \"nothing\" is has to be asked")
	assert.Equal(t, plumbing.Supply, done.Model.Lines[0].Side)
	_, _, err = table.Replace(m, &tab)
	assert.ErrorContains(t, err, "row 3 can't be read")
}

func TestPastedBlocks(t *testing.T) {
	assert.Equal(t, [][]string{{"a", "b"}, {"1/2\"", "x\ty"}, {"\"q\"", ""}},
		table.Block("a\tb\r\n1/2\"\t\"x\ty\"\n\"\"\"q\"\"\"\t\n"))
	assert.Equal(t, [][]string{{`12" pipe`, `7'4"`}}, table.Block("12\" pipe\t7'4\""))
	assert.Equal(t, [][]string{{`12"" pipe`, "b"}}, table.Block(`"12"""" pipe"`+"\tb"),
		"a doubled quote inside a cell in quotes")
	assert.Equal(t, [][]string{{`"`, "b"}, {"c"}}, table.Block("\"\tb\nc"), "a quote that nothing ends is a quote")
	assert.Equal(t, [][]string{{`a"`}}, table.Block(`"a"""`))
	assert.Nil(t, table.Block(""))
}

func FuzzBlock(f *testing.F) {
	f.Add("From\tTo\tLength\npump.out\tkitchen.cold\t3 ft\n")
	f.Add("\"a\"\"b\"\t\n\t\t\"")
	m := model(f, "tuff-9-2027")
	f.Fuzz(func(t *testing.T, s string) {
		if !utf8.ValidString(s) || strings.Contains(s, "\r") {
			return
		}
		cells := table.Block(s)
		if again := table.Block(table.WriteBlock(cells)); cells != nil {
			require.Equal(t, cells, again)
		}
		tab := table.Guess(cells)
		for _, r := range judged(m, &tab) {
			if r.State == table.Faulty {
				require.NotEmpty(t, r.Faults)
			}
		}
	})
}

// A name that is no id becomes one; one that is stays as it is.
func TestANameOfALineBecomesAnId(t *testing.T) {
	head := "Line\tFrom\tTo\tSize\tLength\n"
	for name, id := range map[string]string{"line-9": "line-9", "Main 2": "main-2", "a~b": "a-b", "a{b": "a-b",
		"0.5": "0-5", "x/y": "x-y", "9:1": "9-1"} {
		_, rows := judge(t, head+name+"\tfresh.link\tfresh.return\tPEX 1/2\t1 m\n")
		assert.Equal(t, id, rows[0].ID, "%s: %+v", name, rows[0].Faults)
	}
}

// judged is what would become of each row.
func judged(m *plumbing.Model, tab *table.Table) []table.Row {
	rows, _ := table.Read(m, tab)
	return rows
}
