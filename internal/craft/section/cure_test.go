package section

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/material"
)

// The time that a section gives a silicone is the one that its pot counts down.
func TestPanelAndPotAgree(t *testing.T) {
	list, err := material.Library()
	require.NoError(t, err)
	for _, p := range list {
		if p.Cure == nil {
			continue
		}
		of, err := cure.Facts{System: p.Cure.System, PotS: p.Cure.PotS, GelS: p.Cure.GelS, DemouldS: p.Cure.DemouldS, FullS: p.Cure.FullS, RefC: p.Cure.RefC}.Sheet()
		require.NoError(t, err)
		for _, temp := range []float64{12, 18, 21, 23, 30} {
			left, err := of.Left(cure.StageDemould, [][2]float64{{0, temp}}, nil)
			require.NoError(t, err)
			assert.InEpsilon(t, left.RemainingS, demouldIn(*p.Cure, temp), 1e-3, "%s at %g °C", p.Slug, temp)
		}
	}
}
