package web_test

import (
	"fmt"
	"math/rand/v2"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
	"coldtap/internal/core/care"
)

// many are units with logs: 10 000 of 20 entries each, on the demo models, for two dealers.
const (
	manyUnits   = 10_000
	manyEntries = 20
)

// fillUnits puts them into a database as the program keeps them, and lets it work out what is due.
func fillUnits(b *testing.B, w *served) {
	b.Helper()
	rng := rand.New(rand.NewPCG(10, 20))
	models, err := w.store.Models(b.Context())
	require.NoError(b, err)
	uses, kinds := care.Uses(), []care.Kind{care.Sanitized, care.Winterized, care.DeWinterized, care.Repaired,
		care.Noted, care.AnodeLook}
	made := time.Date(2023, 5, 1, 0, 0, 0, 0, time.UTC)
	for from := 0; from < manyUnits; from += 500 {
		require.NoError(b, w.store.Do(b.Context(), func(tx app.Tx) error {
			for i := from; i < from+500; i++ {
				m := models[i%len(models)]
				u := &app.Unit{Serial: fmt.Sprintf("U%d-%05d", i%7, i), Code: app.NewCode(), ModelID: m.ID, Slug: m.Slug,
					Build:    "plain",
					DealerID: uint64(1 + i%2), Use: uses[rng.IntN(len(uses))], MadeOn: made.AddDate(0, 0, rng.IntN(900))}
				u.SerialKey = app.SerialKey(u.Serial)
				if m.Slug == "ashlar-20-2026" || m.Slug == "ashlar-20-2027" {
					u.Build = "winter-pack"
				}
				if err := tx.AddUnit(b.Context(), u); err != nil {
					return err
				}
				list := make([]app.UnitEntry, manyEntries)
				for k := range list {
					list[k] = app.UnitEntry{UnitID: u.ID, Mark: fmt.Sprintf("many-%d-%d", i, k), On: u.MadeOn.AddDate(0, 0,
						rng.IntN(1000)),
						Kind: kinds[rng.IntN(len(kinds))], Of: "heater", Value: rng.Float64(), Words: "as last year", ByName: "Pia Lund"}
				}
				if err := tx.AddUnitEntries(b.Context(), list); err != nil {
					return err
				}
			}
			return nil
		}))
	}
	p := &app.Publishing{Store: w.store, Builds: &app.Builds{States: w.store, Docs: new(app.Docs)}, Docs: new(app.Docs)}
	began := time.Now()
	require.NoError(b, (&app.Units{Store: w.store, Publishing: p, Now: time.Now}).Refresh(b.Context()))
	b.ReportMetric(time.Since(began).Seconds(), "refresh-s")
}

// BenchmarkUnits asks for logs of units and for what is due, among ten thousand units of twenty entries each, as a
// technician and as the specialist.
func BenchmarkUnits(b *testing.B) {
	w := open(b)
	fillUnits(b, w)
	rng := rand.New(rand.NewPCG(1, 1))
	people := []*http.Client{client(b, w.url, "pia"), client(b, w.url, "imre")}
	ids := func(int) string { return fmt.Sprintf("/units/%d", 1+2*rng.IntN(manyUnits/2)) }
	for name, path := range map[string]func(int) string{
		"log":   ids,
		"due":   func(int) string { return fmt.Sprintf("/units?ahead=%d", []int{0, 30, 90, 365}[rng.IntN(4)]) },
		"found": func(int) string { return fmt.Sprintf("/units?find=u%d-%03d", rng.IntN(7), rng.IntN(100)) },
	} {
		b.Run(name, func(b *testing.B) {
			for range 40 { // what belongs to models is worked out once
				looked(b, people[1], w.url+path(1))
			}
			var took []time.Duration
			for i := 0; b.Loop(); i++ {
				began := time.Now()
				looked(b, people[i%2], w.url+path(i%2))
				took = append(took, time.Since(began))
			}
			p95(b, took)
		})
	}
}

func looked(b *testing.B, c *http.Client, address string) {
	b.Helper()
	resp, err := c.Get(address)
	require.NoError(b, err)
	status, body := answer(b, resp)
	require.Contains(b, []int{http.StatusOK, http.StatusSeeOther, http.StatusNotFound}, status, body)
}
