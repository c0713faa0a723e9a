package wax

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// The case of the handbook itself runs through package calc.
func TestFirmerWaxHoldsMoreAndWarmerLess(t *testing.T) {
	w := AsWorn(0.006, 21)
	soft, hard := Kinds["soft"].Holding(w), Kinds["hard"].Holding(w)
	assert.Greater(t, hard.MarginK, soft.MarginK)
	assert.Equal(t, "holds", hard.Class)
	hot := w
	hot.AirC = 45
	assert.Less(t, Kinds["soft"].Holding(hot).MarginK, soft.MarginK)
	lip := w
	lip.OverhangM = 0.03
	assert.Equal(t, "sags", Kinds["soft"].Holding(lip).Class, "30 mm of it hang free")
}

func TestTheLongestOverhangIsWhereItJustSags(t *testing.T) {
	for name, k := range Kinds {
		w := AsWorn(0.006, 21)
		w.OverhangM = k.Holding(w).OverhangM
		h := k.Holding(w)
		assert.InDelta(t, h.ServiceC, h.SagC, 1e-6, name)
	}
}
