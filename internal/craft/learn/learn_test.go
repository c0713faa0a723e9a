package learn

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// One that was wide of the mark hardly moves the guess; many of one kind do.
func TestOneOddFigureHardlyCounts(t *testing.T) {
	usual, err := From(Before{Median: 20}, []Observed{{Value: 21}, {Value: 19}, {Value: 20}, {Value: 22}})
	require.NoError(t, err)
	odd, err := From(Before{Median: 20}, []Observed{{Value: 21}, {Value: 19}, {Value: 20}, {Value: 22}, {Value: 300}})
	require.NoError(t, err)
	assert.InDelta(t, usual.Median, odd.Median, 1.5)
	left, err := From(Before{Median: 20}, []Observed{{Value: 21}, {Value: 19}, {Value: 20}, {Value: 22}, {Value: 300, Interrupted: true}})
	require.NoError(t, err)
	assert.Equal(t, usual, left)
	var many []Observed
	for range 40 {
		many = append(many, Observed{Value: 60, Units: 2})
	}
	moved, err := From(Before{Median: 20}, many)
	require.NoError(t, err)
	assert.Equal(t, recent, moved.N)
	assert.InDelta(t, 30, moved.Median, 1.5)
	assert.Less(t, moved.P10, moved.Median)
	assert.Greater(t, moved.P90, moved.Median)
}
