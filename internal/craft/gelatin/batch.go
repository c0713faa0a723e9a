package gelatin

import (
	"fmt"
	"math"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/refusal"
)

// Batch is a pot of base over its re-melts: solids never leave but in a pour, only
// water does. kg.
type Batch struct {
	Solids float64 `json:"solids_kg"`
	Water  float64 `json:"water_kg"`
	start  float64 // kg water per kg solids as it was mixed
}

// NewBatch is the base as it was mixed.
func NewBatch(r Recipe) Batch {
	s := r.Gelatin + r.Glycerin + r.Sorbitol
	return Batch{Solids: s, Water: r.Water, start: r.Water / s}
}

// Again is a batch that is known by its solids and water now and by the ratio that
// it was mixed at.
func Again(solids, water, start float64) Batch { return Batch{solids, water, start} }

// Mass is what it weighs.
func (b Batch) Mass() float64 { return b.Solids + b.Water }

// Ratio is kg water per kg solids.
func (b Batch) Ratio() float64 { return b.Water / b.Solids }

// Start is the ratio it was mixed at.
func (b Batch) Start() float64 { return b.start }

// TopUp is the water that brings it back to the ratio it was mixed at.
func (b Batch) TopUp() float64 { return math.Max(0, b.start*b.Solids-b.Water) }

// Excess is the water that it has too much.
func (b Batch) Excess() float64 { return math.Max(0, b.Water-b.start*b.Solids) }

// UsualLoss is the share of its water that a melt in a covered pot costs.
const UsualLoss = 0.06

// gap is by how much a weighing may lie above what is known: what a scale errs.
const gap = 0.002

// Melted loses a share of its water.
func (b Batch) Melted(share float64, field string) (Batch, error) {
	if share < 0 || share > 0.5 {
		return b, refusal.New(refusal.OutOfRange, field, "A melt costs between none and half of the water.")
	}
	b.Water *= 1 - share
	return b, nil
}

// Open is a pot that is kept warm with its surface open: °C, m², s, the room's air,
// and the mass transfer over it in m/s.
type Open struct {
	TempC, AreaM2, DurationS, RoomC, RH, KM float64
}

// KeptOpen loses what its surface gives to the air.
func (b Batch) KeptOpen(o Open, field string) (Batch, error) {
	lost := o.KM * 0.018015 / (gas * (o.RoomC + 273.15)) * (0.85*drying.SaturationPressure(o.TempC) - o.RH*drying.SaturationPressure(o.RoomC)) * o.AreaM2 * o.DurationS
	lost = math.Max(0, lost)
	if lost >= b.Water {
		return b, refusal.New(refusal.Contradiction, field, "It would have lost all its water: %.0f g of %.0f g.", lost*1000, b.Water*1000)
	}
	b.Water -= lost
	return b, nil
}

// Weighed is what the pot weighs now: what is missing is water.
func (b Batch) Weighed(kg float64, field string) (Batch, error) {
	switch {
	case kg <= b.Solids:
		return b, refusal.New(refusal.Contradiction, field, "It weighs no more than its solids, %.0f g: is the pot's own weight taken off twice?", b.Solids*1000)
	case kg > b.Mass()*(1+gap):
		return b, refusal.New(refusal.Contradiction, field, "It weighs more than it did, %.0f g: is the pot's own weight taken off?", b.Mass()*1000)
	}
	b.Water = kg - b.Solids
	return b, nil
}

// PouredOff takes solids and water out in proportion.
func (b Batch) PouredOff(kg float64, field string) (Batch, error) {
	if kg > b.Mass()*(1+1e-9) || kg < 0 {
		return b, refusal.New(refusal.Contradiction, field, "There are only %.0f g of it.", b.Mass()*1000)
	}
	rest := math.Max(0, 1-kg/b.Mass())
	b.Solids *= rest
	b.Water *= rest
	return b, nil
}

// WithWater is topped up.
func (b Batch) WithWater(kg float64) Batch {
	b.Water += kg
	return b
}

// Say says what a weigh-back asks for.
func (b Batch) Say() string {
	switch top, over := b.TopUp()*1000, b.Excess()*1000; {
	case top >= 0.5:
		return fmt.Sprintf("Add %.1f g of hot water: so much has gone since it was mixed.", top)
	case over >= 0.5:
		return fmt.Sprintf("It holds %.1f g more water than it was mixed with: warm it open for a while, and weigh again.", over)
	}
	return "It holds the water that it was mixed with."
}
