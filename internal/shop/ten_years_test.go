package shop_test

import (
	"fmt"
	"testing"
	"yewmoor/internal/piece"
	"yewmoor/internal/production"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhatIsOverIsPutAwayAndFoundAgain(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), map[string]any{"day": "2026-01-23", "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/days", map[string]any{"day_ids": []uint64{days[0].ID}}, nil)
	copyCode := b.Poured(code)[0]
	assert.Equal(t, "on_the_bench", b.As["ivo"].No("POST", "/api/pieces/"+code+"/away", map[string]any{"away": true}).Code)

	b.Clock.Set(shoptest.Monday.AddDate(0, 0, 90))
	require.NoError(t, b.S.Pieces.PutAwayWhatIsOver(t.Context()))
	assert.Equal(t, []string{code}, b.InWork(), "a copy is still curing")
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/pots/%d/out", b.Pot(copyCode).ID), map[string]any{}, nil)
	b.As["ivo"].Yes("POST", "/api/copies/"+copyCode+"/verdict", map[string]any{"verdict": "scrap", "reason": "bubbles"}, nil)
	require.NoError(t, b.S.Pieces.PutAwayWhatIsOver(t.Context()))
	assert.Empty(t, b.InWork())
	assert.Equal(t, "piece "+code, b.Found(code)[0], "search finds it all the same")
	assert.Contains(t, b.Found("che"), "piece "+code, "by the beginning of a word")
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/away", map[string]any{"away": false}, nil)
	assert.Equal(t, []string{code}, b.InWork())
}
