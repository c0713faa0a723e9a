// Package gypsum says how plaster and stone are mixed, when they set, when they
// are dry and how hot they may be opened: section 8 of the handbook chapter
// "Drying, cure and thermal models" and the closed form mould_opening of its
// section 7. Masses in kg, times in s, volumes in m³, temperatures in °C.
package gypsum

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Bound is the water that a kilogram of pure hemihydrate takes up for good, kg.
const Bound = 0.18617

const waterDensity = 998.0 // kg/m³ at 20 °C

// Mix is gypsum and water for a volume, and what becomes of the water.
type Mix struct {
	PowderKG    float64 `json:"plaster_kg"`
	WaterKG     float64 `json:"water_kg"`
	PieceWetKG  float64 `json:"piece_wet_kg"`
	PieceDryKG  float64 `json:"piece_dry_kg"`
	FreeWaterKG float64 `json:"free_water_kg" doc:"must leave before it is baked"`
	DryDensity  float64 `json:"dry_density" doc:"kg/m³"`
	Porosity    float64 `json:"porosity"`
}

// Batch is what is asked for; zero values take the handbook's.
type Batch struct {
	VolumeM3    float64
	Consistency float64 // kg of water to a kg of powder
	Waste       float64 // share on top; 0.05
	PowderRho   float64 // kg/m³; 2630
	Purity      float64 // 0.95
}

// Mixed works out a batch. Less water than the powder binds is refused at
// "consistency".
func Mixed(b Batch) (Mix, error) {
	bound := Bound * b.Purity
	if b.Consistency < bound {
		return Mix{}, refusal.New(refusal.Contradiction, "consistency", "So little water cannot set the powder: it binds %.2f kg to the kilogram. Read the bag again.", bound)
	}
	m := b.VolumeM3 / (1/b.PowderRho + b.Consistency/waterDensity)
	out := Mix{PowderKG: m * (1 + b.Waste), PieceWetKG: m * (1 + b.Consistency), PieceDryKG: m * (1 + bound), FreeWaterKG: m * (b.Consistency - bound)}
	out.WaterKG = b.Consistency * out.PowderKG
	out.DryDensity = out.PieceDryKG / b.VolumeM3
	out.Porosity = out.FreeWaterKG / waterDensity / b.VolumeM3
	return out, nil
}

// Set is when a mix stiffens and when it is hard, from the water, in s.
type Set struct {
	Factor   float64  `json:"factor" doc:"on the bag's times at 20 °C"`
	InitialS float64  `json:"initial_s"`
	FinalS   float64  `json:"final_s"`
	Warnings []string `json:"warnings"`
}

// warmth is the factor of the water's temperature on the times of the bag.
var warmth = [][2]float64{{5, 1.35}, {10, 1.20}, {20, 1}, {30, 0.82}, {37, 0.75}, {45, 0.85}, {60, 1.60}}

// interpLog is linear in the logarithm of y between the points, held outside.
func interpLog(points [][2]float64, x float64) float64 {
	if x <= points[0][0] {
		return points[0][1]
	}
	for i := 1; i < len(points); i++ {
		if a, b := points[i-1], points[i]; x <= b[0] {
			share := (x - a[0]) / (b[0] - a[0])
			return math.Exp(math.Log(a[1]) + share*math.Log(b[1]/a[1]))
		}
	}
	return points[len(points)-1][1]
}

// Setting works the times out; thin is the consistency over that of the bag.
func Setting(waterC, thin, additive, initialS, finalS float64) Set {
	k := interpLog(warmth, waterC) * math.Pow(thin, 0.8) * additive
	out := Set{Factor: k, InitialS: k * initialS, FinalS: k * finalS, Warnings: []string{}}
	if waterC > 45 {
		out.Warnings = append(out.Warnings, "hot_water")
	}
	return out
}
