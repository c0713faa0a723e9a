package stock

import (
	"math/big"

	"yewmoor/internal/craft/refusal"
)

// NegativeStock is the refusal of an issue of more than there is.
const NegativeStock = "E_NEG_STOCK"

// Value is what is on hand and what it is worth: a moving average, carried as two
// whole numbers so that nothing is lost to rounding. Qty in ten-thousandths of a
// gram, as the ledger keeps it; Minor in hundredths of the shop's money.
type Value struct {
	Qty   int64
	Minor int64
}

// Receive adds a delivery.
func (v Value) Receive(qty, minor int64) Value { return Value{v.Qty + qty, v.Minor + minor} }

// Issue takes a quantity out and says what it was worth: its share rounded half
// up, and the whole rest with the last of it.
func (v Value) Issue(qty int64) (rest Value, minor int64, err error) {
	if qty > v.Qty || qty < 0 {
		return v, 0, refusal.New(NegativeStock, "qty", "More is taken out than there is.")
	}
	if qty == v.Qty {
		return Value{}, v.Minor, nil
	}
	// ⌊(2·value·q + qty) / (2·qty)⌋, exact whatever the size.
	n := new(big.Int).Mul(big.NewInt(2*v.Minor), big.NewInt(qty))
	n.Add(n, big.NewInt(v.Qty))
	minor = n.Div(n, big.NewInt(2*v.Qty)).Int64()
	return Value{v.Qty - qty, v.Minor - minor}, minor, nil
}

// PerKg is the average in minor units a kilogram, 0 for nothing.
func (v Value) PerKg() float64 {
	if v.Qty == 0 {
		return 0
	}
	return float64(v.Minor) / (float64(v.Qty) / 1e4) * 1000
}
