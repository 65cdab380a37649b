package app_test

import (
	"context"
	"fmt"
	"runtime/debug"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"coldtap/demo"
	"coldtap/internal/app"
	"coldtap/internal/guide/frozen"
	"coldtap/internal/store"
	"coldtap/internal/testdb"
)

// many are how many guides are published.
const many = 500

// BenchmarkGuidesAfterARule is how long it takes until it is known what 500 published guides say that no longer
// holds, after one rule of the house was changed: how much of an anode may be used, which the calendar tells; how
// strong sanitizer is, for which three procedures are carried out again for every build.
func BenchmarkGuidesAfterARule(b *testing.B) {
	debug.SetGCPercent(400) // as the server has it
	ctx := b.Context()
	st, err := store.Open(ctx, testdb.DSN(b))
	require.NoError(b, err)
	b.Cleanup(func() { st.Close() })
	docs := new(app.Docs)
	builds := &app.Builds{Pool: &app.BuildPool{Most: 64 << 20}, States: st, Drawings: st, Docs: docs}
	p := &app.Publishing{Store: st, Builds: builds, Docs: docs}
	k := &app.Keeping{Publishing: p, Jobs: new(app.Jobs), Store: st}
	b.Cleanup(k.Jobs.Close)
	publishMany(b, st, p)
	check := func() time.Duration {
		began := time.Now()
		_, job, err := k.List(ctx)
		require.NoError(b, err)
		require.NotNil(b, job)
		require.True(b, job.Wait(ctx, 10*time.Minute))
		require.NoError(b, job.Err())
		return time.Since(began)
	}
	check()
	for _, rule := range []struct {
		id     string
		values [2]string
	}{{"anode", [2]string{"50 %", "60 %"}}, {"target", [2]string{"65 mg/L", "60 mg/L"}}} {
		version := 0
		b.Run(rule.id, func(b *testing.B) {
			for b.Loop() {
				change := app.RuleChange{Rule: rule.id, Value: rule.values[version%2], From: version}
				require.NoError(b, (&app.Rules{Store: st}).Set(ctx, imre, "", []app.RuleChange{change}, ""))
				version++
				took := check()
				rows, err := st.Standings(ctx)
				require.NoError(b, err)
				broken := 0
				for _, r := range rows {
					if r.Broken > 0 {
						broken++
					}
				}
				require.Positive(b, broken)
				b.ReportMetric(float64(took.Milliseconds()), "list-ms")
				b.ReportMetric(float64(broken), "guides")
			}
		})
	}
}

// publishMany publishes the guides of models that are like those of the demo world: one of each kind is frozen, the
// others have the same files, for they say the same.
func publishMany(b *testing.B, st *store.Store, p *app.Publishing) {
	b.Helper()
	ctx := context.Background()
	models, err := demo.Models()
	require.NoError(b, err)
	type kind struct {
		files  []frozen.File
		listed []frozen.Listed
		about  string
	}
	kinds := map[string]kind{}
	for i := range many {
		base := models[i%len(models)]
		m := *base
		m.ID, m.Options = fmt.Sprintf("copy-%d-%s", i, base.ID), base.Options
		require.NoError(b, (&app.Edits{Store: st}).Create(ctx, imre, &m, "bench"))
		x, err := p.Present(ctx, m.ID)
		require.NoError(b, err)
		k, ok := kinds[base.ID]
		if !ok {
			k.files, err = p.Freeze(ctx, x, "", func() {})
			require.NoError(b, err)
			for _, f := range k.files {
				k.listed = append(k.listed, frozen.Listed{Path: f.Path, Sum: frozen.Sum(f.Body)})
				if f.Path == frozen.AboutPath {
					k.about = string(f.Body)
				}
			}
			require.NoError(b, st.Do(ctx, func(tx app.Tx) error { return tx.AddFrozen(ctx, k.files) }))
			k.files = nil
			kinds[base.ID] = k
		}
		g := &app.PublishedGuide{ModelID: x.Row.ID, Slug: m.ID, Name: m.Name, Year: m.Year, Letter: "A", Number: 1,
			State: app.Published,
			Hash:  frozen.Hash(k.listed), About: k.about, PublishedBy: "bench", Version: 1}
		require.NoError(b, st.Do(ctx, func(tx app.Tx) error { return tx.AddPublished(ctx, g, k.listed) }))
	}
}
