package kept_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/kept"
)

func TestAnAnswerIsWorkedOutOnceAndWhatNobodyAsksForIsForgotten(t *testing.T) {
	a := kept.Answers[int]{Most: 2}
	worked := 0
	ask := func(q int) int {
		n, err := a.Get(q, func() (int, error) { worked++; return 10 * q, nil })
		require.NoError(t, err)
		return n
	}
	assert.Equal(t, []int{10, 20, 10, 20}, []int{ask(1), ask(2), ask(1), ask(2)})
	assert.Equal(t, 2, worked)
	ask(1)
	ask(3)
	ask(1)
	assert.Equal(t, 3, worked, "1 is older, but it was asked for")
	ask(2)
	assert.Equal(t, 4, worked, "2 was forgotten")
}

func TestAFailureIsNotKept(t *testing.T) {
	a := kept.Answers[string]{Most: 2}
	_, err := a.Get("q", func() (string, error) { return "", errors.New("away") })
	require.Error(t, err)
	got, err := a.Get("q", func() (string, error) { return "yes", nil })
	require.NoError(t, err)
	assert.Equal(t, "yes", got)
	_, err = a.Get(func() {}, func() (string, error) { return "", nil })
	assert.Error(t, err, "a question without a name")
}
