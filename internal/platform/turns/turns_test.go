package turns

import (
	"context"
	"errors"
	"testing"
	"testing/synctest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/problem"
)

func TestSoManyWorkSoManyWaitAndTheRestIsToldToComeAgain(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := New("a picture", 1, 1)
		first, err := q.Take(t.Context())
		require.NoError(t, err)
		got := make(chan func(), 1)
		go func() {
			second, err := q.Take(t.Context())
			assert.NoError(t, err)
			got <- second
		}()
		synctest.Wait()
		_, err = q.Take(t.Context())
		var p *problem.Problem
		require.ErrorAs(t, err, &p)
		assert.Equal(t, 503, p.Status)
		assert.Contains(t, p.Detail, "a picture")
		first()
		(<-got)()
		again, err := q.Take(t.Context())
		require.NoError(t, err, "all were given back")
		again()
	})
}

func TestWhoeverGoesAwayGivesThePlaceUp(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		q := New("a relief", 1, 1)
		free, err := q.Take(t.Context())
		require.NoError(t, err)
		ctx, leave := context.WithCancel(t.Context())
		gone := make(chan error, 1)
		go func() {
			_, err := q.Take(ctx)
			gone <- err
		}()
		synctest.Wait()
		leave()
		require.True(t, errors.Is(<-gone, context.Canceled))
		free()
		assert.Zero(t, q.waiting.Load())
	})
}
