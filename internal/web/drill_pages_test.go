package web_test

import (
	"context"
	"encoding/csv"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/core/drill"
)

// A course that is refused says why, and the form has all that was typed.
func TestARefusedCourseLosesNothing(t *testing.T) {
	t.Parallel()
	w, d := openDrilled(t)
	c := course(t, w, d, 4, nil, drill.Happens)
	teku := client(t, w.url, "teku")
	form := url.Values{"name": {"Another name"}, "note": {"Bring a jug."}, "model": {drilled}, "kind": {"where", "order"},
		"count": {"7"}, "pass": {"101"}, "months": {"3"}}
	for _, at := range []string{"/drills/courses", "/drills/courses/" + c.Code} {
		resp, err := teku.PostForm(w.url+at, form)
		require.NoError(t, err)
		status, page := answer(t, resp)
		assert.Equal(t, http.StatusUnprocessableEntity, status, at)
		for _, s := range []string{"from 1 to 100", `value="Another name"`, "Bring a jug.", `value="101"`, `value="7"`,
			`value="` + drilled + `" checked`, `value="where" checked`, `value="order" checked`} {
			assert.Contains(t, page, s, at)
		}
		assert.NotContains(t, page, `value="happens" checked`, at)
	}
	kept, err := w.store.DrillCourseByCode(context.Background(), c.Code)
	require.NoError(t, err)
	assert.Equal(t, c.Name, kept.Name, "what is refused changes nothing")
	resp, err := teku.PostForm(w.url+"/drills/courses/no-such", form)
	require.NoError(t, err)
	status, _ := answer(t, resp)
	assert.Equal(t, http.StatusNotFound, status)
}

// A file of results has every answer once, and no text that a spreadsheet would carry out; it holds no more than
// somebody sees.
func TestResultsAsAFile(t *testing.T) {
	t.Parallel()
	w, _ := openDrilled(t)
	ctx := context.Background()
	pia := someone(t, w, "pia")
	s := &app.DrillSitting{Code: app.NewCode(), Title: "x", PersonID: pia.ID, PersonName: "=HYPERLINK(1)",
		DealerID: pia.DealerID, Questions: "[]", Asked: 1, State: app.DrillDone}
	require.NoError(t, w.store.AddDrillSitting(ctx, s))
	_, err := w.store.AddDrillAnswer(ctx, &app.DrillAnswer{SittingID: s.ID, Slug: drilled, Kind: drill.Where, Ask: "+1?",
		PersonID: pia.ID, PersonName: s.PersonName, DealerID: pia.DealerID, Answer: "{}", Said: "{}",
		CreatedAt: time.Now().UTC()})
	require.NoError(t, err)
	all, err := w.store.DrillAnswers(ctx, app.DrillFilter{}, 10_000)
	require.NoError(t, err)
	_, file := getAs(t, w, "teku", "/drills/results/file/csv")
	rows, err := csv.NewReader(strings.NewReader(file)).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, 1+len(all))
	assert.Equal(t, []string{"'=HYPERLINK(1)", "Highpass Service", drilled}, rows[1][1:4], "the newest first")
	assert.Equal(t, "'+1?", rows[1][7])
	_, file = getAs(t, w, "sam", "/drills/results/file/csv")
	assert.NotContains(t, file, "HYPERLINK", "another technician's")
	status, _ := getAs(t, w, "teku", "/drills/results/file/xls")
	assert.Equal(t, http.StatusNotFound, status)
}

// Results are counted by what is asked for: the sums of each way are the same, and what is void counts in none.
func TestResultsAreCountedByEachOf(t *testing.T) {
	t.Parallel()
	w, _ := openDrilled(t)
	all, err := w.store.DrillAnswers(context.Background(), app.DrillFilter{}, 10_000)
	require.NoError(t, err)
	_, err = w.store.VoidDrillAnswers(context.Background(), all[0].QuestionID, "how it is built")
	require.NoError(t, err)
	void, people := 0, map[string]int{}
	for _, a := range all {
		if a.QuestionID == all[0].QuestionID {
			void++
		} else {
			people[a.PersonName]++
		}
	}
	for _, by := range []string{"person", "dealer", "model", "kind", "question"} {
		asked, voids := 0, 0
		_, page := getAs(t, w, "teku", "/drills/results?by="+by)
		for _, row := range resultRows(page) {
			asked, voids = asked+number(row[1]), voids+number(row[4])
			if by == "person" {
				assert.Equal(t, people[row[0]], number(row[1]), row[0])
			}
		}
		assert.Equal(t, len(all)-void, asked, by)
		assert.Equal(t, void, voids, by)
	}
}

var (
	bodies = regexp.MustCompile(`(?s)class="table results">.*?<tbody>(.*?)</tbody>`)
	cells  = regexp.MustCompile(`(?s)<t[hd][^>]*>(.*?)</t[hd]>`)
)

// resultRows are the cells of the results' first table, as text.
func resultRows(page string) (rows [][]string) {
	for _, tr := range strings.Split(bodies.FindStringSubmatch(page)[1], "<tr>")[1:] {
		var row []string
		for _, c := range cells.FindAllStringSubmatch(tr, -1) {
			row = append(row, strings.TrimSpace(tags.ReplaceAllString(c[1], "")))
		}
		rows = append(rows, row)
	}
	return rows
}

// number is a cell's number; a dash is none.
func number(cell string) int {
	n, _ := strconv.Atoi(cell)
	return n
}
