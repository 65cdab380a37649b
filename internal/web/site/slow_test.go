package site_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/web/site"
)

func writes(leaf *site.Leaf) func(context.Context) (*site.Leaf, error) {
	return func(context.Context) (*site.Leaf, error) { return leaf, nil }
}

// The first is waited for; of a newer state the older part is shown at once, and the newer when it is made.
func TestTheNewestPartThereIsIsShown(t *testing.T) {
	var s site.Slow
	one, two := new(site.Leaf), new(site.Leaf)
	got, err := s.Part(t.Context(), "a", "a1", 1, writes(one))
	require.NoError(t, err)
	assert.Same(t, one, got.Leaf)
	assert.True(t, got.Current)
	hold := make(chan bool)
	second := func(context.Context) (*site.Leaf, error) { // which of those who ask begins it is open: there are rests
		<-hold
		return two, nil
	}
	got, err = s.Part(t.Context(), "a", "a2", 2, second)
	require.NoError(t, err)
	assert.Same(t, one, got.Leaf)
	assert.False(t, got.Current)
	assert.EqualValues(t, 1, got.State)
	close(hold)
	require.Eventually(t, func() bool {
		got, err := s.Part(t.Context(), "a", "a2", 2, second)
		return err == nil && got.Current && got.Leaf == two
	}, time.Minute, time.Millisecond)
}

func TestAPartThatFailsIsTriedAgain(t *testing.T) {
	var s site.Slow
	_, err := s.Part(t.Context(), "a", "a1", 1, func(context.Context) (*site.Leaf, error) {
		return nil, errors.New("no")
	})
	require.Error(t, err)
	got, err := s.Part(t.Context(), "a", "a1", 1, writes(new(site.Leaf)))
	require.NoError(t, err)
	assert.True(t, got.Current)
}
