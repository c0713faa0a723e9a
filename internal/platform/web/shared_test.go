package web

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestASharedAnswerIsWorkedOutOnceForAll(t *testing.T) {
	var s Shared[[]int]
	var n atomic.Int32
	gate := make(chan struct{})
	slow := func(context.Context) ([]int, error) { n.Add(1); <-gate; return []int{7}, nil }
	var all sync.WaitGroup
	for range 20 {
		all.Add(1)
		go func() {
			defer all.Done()
			out, err := s.Get(context.Background(), 1, slow)
			assert.NoError(t, err)
			assert.Equal(t, []int{7}, out)
		}()
	}
	for n.Load() == 0 {
	}
	close(gate)
	all.Wait()
	assert.EqualValues(t, 1, n.Load())

	// After a change the answer from before is nobody's any more.
	out, err := s.Get(context.Background(), 2, func(context.Context) ([]int, error) { return nil, nil })
	assert.NoError(t, err)
	assert.NotNil(t, out, "lists are never null here either")
	assert.Empty(t, out)
}

func TestASharedFailureIsNotKept(t *testing.T) {
	var s Shared[int]
	_, err := s.Get(context.Background(), 1, func(context.Context) (int, error) { return 0, errors.New("away") })
	assert.Error(t, err)
	out, err := s.Get(context.Background(), 1, func(context.Context) (int, error) { return 3, nil })
	assert.NoError(t, err)
	assert.Equal(t, 3, out)

	// Who asks and goes away does not take the answer from the others.
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	out, err = s.Get(gone, 2, func(ctx context.Context) (int, error) { return 5, ctx.Err() })
	assert.NoError(t, err)
	assert.Equal(t, 5, out)
}
