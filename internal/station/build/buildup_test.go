package build_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
)

func builtUp(b *shoptest.Bench, run string) (coats []build.Band, all build.Buildup) {
	b.T.Helper()
	b.As["pip"].Yes("GET", "/api/runs/"+run+"/buildup", nil, &all)
	for _, band := range all.Bands {
		if band.Coat > 0 {
			coats = append(coats, band)
		}
	}
	return coats, all
}

// The work sheet shows each coat with what it was put on and the water that is still in
// it: a tide that sinks, and is shut in where the next coat was too early.
func TestTheWorkSheetShowsTheWaterOfEachCoat(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := latexRun(b, "NA")
	coats, all := builtUp(b, r.Code)
	require.Greater(t, len(coats), 2)
	assert.Equal(t, "skin", all.On)
	assert.Equal(t, "wet", coats[0].State)
	assert.InDelta(t, 1, coats[0].Water, 0.02, "just put on")
	assert.Equal(t, "planned", coats[1].State)
	assert.Nil(t, coats[1].OnAt)
	assert.NotEmpty(t, coats[0].From, "the lot that it was taken from")
	assert.Greater(t, coats[0].HighMM, 0.05)

	before := 1.1
	for range 6 {
		b.Clock.Set(b.Clock.Now().Add(time.Minute))
		coats, _ = builtUp(b, r.Code)
		assert.LessOrEqual(t, coats[0].Water, before, "the tide sinks")
		before = coats[0].Water
	}
	// The next one early: what stood below is kept, and is told.
	r = b.Done("ivo", r.Code, r.Next, m{"reason": "the camera waits"})
	coats, _ = builtUp(b, r.Code)
	assert.Regexp(t, `coat 1 with \d+ % of its water`, coats[1].Below)
	below := coats[1].Below
	assert.Equal(t, "ivo", coats[1].By)
	require.NotNil(t, coats[0].DryAt)
	b.Clock.Set(b.Clock.Now().Add(20 * time.Hour))
	coats, _ = builtUp(b, r.Code)
	assert.Equal(t, below, coats[1].Below, "what it was put on does not change with the hour")
	for _, c := range coats[:2] {
		assert.Equal(t, "dry", c.State)
		assert.LessOrEqual(t, c.Water, 0.02)
	}
	b.As["pip"].No("GET", "/api/runs/R-9999/buildup", nil)
}
