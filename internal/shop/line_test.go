package shop_test

import (
	"testing"
	"yewmoor/internal/shop/shoptest"

	"github.com/stretchr/testify/assert"
)

func TestTheJournalCannotBeChanged(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Begun()
	_, err := b.S.DB.Exec(`UPDATE journal SET words = 'never was'`)
	assert.ErrorContains(t, err, "only ever added")
	_, err = b.S.DB.Exec(`DELETE FROM journal`)
	assert.ErrorContains(t, err, "only ever added")
}

func TestTheSameAnswerOverHTTPAsOnTheCommandLine(t *testing.T) {
	b := shoptest.New(t, nil)
	var out map[string]any
	b.As["pip"].Yes("POST", "/api/calc/drying-and-cure", map[string]any{"model": "cure", "input": map[string]any{"system": "addition", "pot_s": 1200, "demould_s": 14400, "temp_c": 30}}, &out)
	assert.InDelta(t, 8842.68, out["demould_s"], 8842.68*0.003)
	no := b.As["pip"].No("POST", "/api/calc/drying-and-cure", map[string]any{"model": "cure", "input": map[string]any{"system": "addition", "pot_s": 14400, "demould_s": 14400, "temp_c": 23}})
	assert.Equal(t, "contradiction", no.Code)
	assert.Equal(t, "demould_s", no.Field)
	b.As["pip"].Yes("POST", "/api/calc/mix", map[string]any{"op": "amount", "args": map[string]any{"area": map[string]any{"area_cm2": 34, "mean_mm": 2}, "copies": 2, "waste": 0, "density": 1}}, &out)
	assert.InDelta(t, 13.6, out["grams"], 1e-9)
}
