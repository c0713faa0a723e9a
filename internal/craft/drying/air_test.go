package drying

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Air of 4 °C at 85 % heated to 20 °C holds 0.69 kPa of 2.34 kPa: three tenths, as every psychrometric chart has it.
func TestHeatedAirIsDrier(t *testing.T) {
	assert.InDelta(t, 0.295, Indoors(4, 0.85, 20, 0), 0.003)
	assert.InDelta(t, 0.85, Indoors(20, 0.85, 20, 0), 1e-9, "nothing is heated")
	assert.Greater(t, Indoors(4, 0.85, 20, 500), Indoors(4, 0.85, 20, 0))
	assert.InDelta(t, 0.95, Indoors(30, 0.95, 15, 0), 1e-9)
}
