package trials

import (
	"encoding/csv"
	"encoding/json"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"coldtap/internal/app"
	"coldtap/internal/core/trial"
	"coldtap/internal/web/site"
)

// File writes a trial as CSV or JSON.
func (s View) File(c *gin.Context) {
	t := s.trial(c)
	if t == nil {
		return
	}
	all, err := s.Trials.Entries(c, t)
	if err != nil {
		s.Trouble(c, err)
		return
	}
	name := "trial-" + app.SerialKey(t.Serial) + "-" + t.Task
	switch c.Param("kind") {
	case "json":
		site.Download(c, "application/json", name+".json")
		e := json.NewEncoder(c.Writer)
		e.SetIndent("", "  ")
		_ = e.Encode(fileOf(t, all))
	case "csv":
		site.Download(c, "text/csv; charset=utf-8", name+".csv")
		w := csv.NewWriter(c.Writer)
		_ = w.Write([]string{"time", "who", "step", "kind", "of", "value", "unit", "text", "holds"})
		holds := map[string]bool{}
		for _, e := range trial.Holds(all) {
			holds[e.ID] = true
		}
		for _, e := range all {
			value := strconv.FormatFloat(e.Value, 'f', -1, 64)
			at := time.UnixMilli(e.At).UTC().Format(time.RFC3339)
			_ = w.Write([]string{at, site.PlainCell(e.Who), site.PlainCell(e.Step), string(e.Kind), site.PlainCell(e.Of), value, unitOf(e.Kind),
				site.PlainCell(e.Text), strconv.FormatBool(holds[e.ID])})
		}
		w.Flush()
	default:
		s.NotFound(c, "Trials are written as csv and json.")
	}
}

// unitOf is the unit that values of a kind have.
func unitOf(k trial.Kind) string {
	switch k {
	case "jug", "caught":
		return "L"
	case "clock", trial.Rest:
		return "s"
	case "strip", trial.Chlorine:
		return "mg/L"
	case "level", trial.StartLevel, trial.Anode:
		return "share"
	case trial.HoseFlow:
		return "L/min"
	case trial.Outside, trial.Temperature:
		return "°C"
	case trial.Pressure:
		return "kPa"
	}
	return ""
}

// trialFile is a trial as it is written as JSON.
type trialFile struct {
	Format   string         `json:"format"`
	Model    string         `json:"model"`
	State    uint64         `json:"model_state"`
	Serial   string         `json:"serial"`
	Build    string         `json:"build"`
	Task     string         `json:"procedure"`
	Place    string         `json:"place,omitempty"`
	Weather  string         `json:"weather,omitempty"`
	Begun    time.Time      `json:"begun"`
	By       string         `json:"by"`
	Finished *time.Time     `json:"finished,omitempty"`
	Steps    app.TrialSteps `json:"measured_at"`
	Entries  []trial.Entry  `json:"entries"`
}

func fileOf(t *app.Trial, all []trial.Entry) trialFile {
	return trialFile{"coldtap-trial/1", t.Slug, t.Number, t.Serial, t.Build, t.Task, t.Place, t.Weather, t.CreatedAt,
		t.ByName,
		t.FinishedAt, t.What(), all}
}
