package app_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/app"
)

// What a list shows is worked out once, kept for whoever starts next, and
// worked out anew for another state of the model and for other rules; what is
// kept for anything else is never shown.
func TestColumnsAreKeptAndNeverStale(t *testing.T) {
	t.Parallel()
	st := open(t)
	ctx := t.Context()
	edits, rules := &app.Edits{Store: st}, &app.Rules{Store: st}
	list := func(l *app.Listing) (app.Listed, *app.Job) {
		rows, job, err := l.List(ctx, true)
		require.NoError(t, err)
		require.Len(t, rows, 1)
		return rows[0], job
	}
	settled := func(l *app.Listing) app.Listed {
		t.Helper()
		row, job := list(l)
		require.Nil(t, row.Columns, "it is not there yet, and says so")
		require.True(t, job.Wait(ctx, patience))
		require.NoError(t, job.Err())
		done, total := job.Progress()
		assert.Equal(t, total, done)
		row, job = list(l)
		require.Nil(t, row.Columns.Procedures, "these take longer, and come after")
		require.Equal(t, app.Proving, job.Key)
		require.True(t, job.Wait(ctx, patience))
		require.NoError(t, job.Err())
		row, job = list(l)
		require.Nil(t, job)
		return row
	}
	l := &app.Listing{Store: st, Jobs: new(app.Jobs)}
	first := settled(l)
	assert.InDelta(t, 162.8, float64(first.Columns.Tank), 0.1, "43 gal")
	assert.Positive(t, first.Columns.Antifreeze)
	assert.NotEmpty(t, first.Things)
	assert.Greater(t, first.Columns.Procedures.Proven, 15)
	assert.Positive(t, first.Columns.Procedures.Told, "antifreeze by the pump alone is too weak")
	assert.Zero(t, first.Columns.Procedures.Danger)

	again, job := list(&app.Listing{Store: st, Jobs: new(app.Jobs)})
	assert.Nil(t, job, "a program that starts anew finds it kept")
	assert.Equal(t, first, again)

	_, err := edits.Change(ctx, gneiss, 1, app.By{Name: "Imre Valk"}, named("pump", "Pump one"))
	require.NoError(t, err)
	assert.Equal(t, "Pump one", thing(settled(l), "pump"), "of another state")
	require.NoError(t, rules.Set(ctx, app.By{Name: "Imre Valk"}, "", []app.RuleChange{{Rule: "overrun", Value: "500 mL"}}, ""))
	other := settled(l)
	assert.Greater(t, other.Columns.Antifreeze, first.Columns.Antifreeze, "by other rules")
	require.NoError(t, rules.Set(ctx, app.By{Name: "Imre Valk"}, "tuff-9-2027", []app.RuleChange{{Rule: "overrun", Value: "200 mL"}}, ""))
	_, job = list(l)
	assert.Nil(t, job, "another model's rules are no matter")
}

func thing(l app.Listed, id string) string {
	for _, x := range l.Things {
		if x.ID == id {
			return x.Name
		}
	}
	return ""
}

func TestAJobIsFoundAgain(t *testing.T) {
	t.Parallel()
	var jobs app.Jobs
	goOn := make(chan struct{})
	work := func(ctx context.Context, step func()) (any, error) {
		step()
		select {
		case <-goOn:
		case <-ctx.Done():
			return nil, ctx.Err()
		}
		step()
		return "done", nil
	}
	j := jobs.Find("a", "Something", "Imre Valk", 2, work)
	assert.Same(t, j, jobs.Find("a", "Something", "Odile Brandt", 2, work))
	assert.False(t, j.Wait(t.Context(), time.Millisecond))
	assert.False(t, j.Ended())
	close(goOn)
	require.True(t, j.Wait(t.Context(), patience))
	assert.Equal(t, "done", j.Result())
	assert.Same(t, j, jobs.Find("a", "Something", "Imre Valk", 2, work), "its result is the same as long as its key is")
	assert.NotSame(t, j, jobs.Start("a", "Something", "Imre Valk", 2, work))

	broken := jobs.Find("b", "Something else", "", 1, func(context.Context, func()) (any, error) {
		return nil, errors.New("no")
	})
	require.True(t, broken.Wait(t.Context(), patience))
	require.Error(t, broken.Err())
	assert.NotSame(t, broken, jobs.Find("b", "Something else", "", 1, work), "what failed is begun anew")

	never := jobs.Find("c", "A third", "", 1, func(ctx context.Context, _ func()) (any, error) {
		<-ctx.Done()
		return nil, ctx.Err()
	})
	jobs.Close()
	assert.True(t, never.Ended())
	require.ErrorIs(t, never.Err(), context.Canceled)
	assert.Len(t, jobs.List(), 3)
}

// A job that panics fails, and the program goes on.
func TestAJobThatPanicsFails(t *testing.T) {
	t.Parallel()
	var jobs app.Jobs
	j := jobs.Start("faulty", "a faulty job", "", 1, func(context.Context, func()) (any, error) {
		var list []int
		return list[3], nil
	})
	require.True(t, j.Wait(t.Context(), patience))
	assert.ErrorContains(t, j.Err(), "a fault in the program")
}
