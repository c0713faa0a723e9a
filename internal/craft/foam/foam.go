// Package foam is the arithmetic of foam latex at the bowl: how much liquid a
// hollow wants at a rise, what it weighs then, and when it gels; section 7 of the
// handbook chapter "Drying, cure and thermal models". kg, m³, s, °C.
package foam

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"yewmoor/internal/craft/refusal"
)

// Rise is what a whipped batch stands at: how many times its volume, its solids,
// how much it shrinks along a line, and how much more than the hollow is filled in.
type Rise struct {
	VolumeRise, MixKg, Solids, Shrink, Overfill, CavityM3 float64
}

// The usual figures of a foam.
const (
	UsualSolids   = 0.60
	UsualShrink   = 0.05
	UsualOverfill = 1.15
	UsualRise     = 5.0
)

// Density is what follows from a rise.
type Density struct {
	MixDensity float64 `json:"mix_density"`
	FoamM3     float64 `json:"foam_volume_m3"`
	Wet        float64 `json:"wet_density"`
	Dry        float64 `json:"dry_density"`
	NeededKg   float64 `json:"needed_mix_kg"`
	Fills      float64 `json:"fills"`
}

// Of works it out; kg/m³.
func Of(r Rise) Density {
	out := Density{MixDensity: 1 / (r.Solids/930 + (1-r.Solids)/998)}
	out.FoamM3 = r.MixKg / out.MixDensity * r.VolumeRise
	out.Wet = out.MixDensity / r.VolumeRise
	out.Dry = out.MixDensity * r.Solids / (r.VolumeRise * math.Pow(1-r.Shrink, 3))
	if r.CavityM3 > 0 {
		out.NeededKg = r.CavityM3 * r.Overfill * out.Wet
		out.Fills = out.FoamM3 / (r.CavityM3 * r.Overfill)
	}
	return out
}

// Gelled is a batch of before: when it gelled after the gelling agent went in.
// Dose is relative to the recipe's.
type Gelled struct {
	RoomC, RH, Dose, GelS float64
}

// Gel is when it gels, with a 90 % band.
type Gel struct {
	GelS       float64 `json:"gel_s"`
	LowS       float64 `json:"low_s"`
	HighS      float64 `json:"high_s"`
	References int     `json:"references"`
}

// What is believed before any batch was noted: ln 900 s at 20 °C and half humid
// air with the recipe's dose, and what a degree, a per cent and a dose move it by.
var (
	gelMean  = [4]float64{math.Log(900), -0.060, 0, -1.1}
	gelSd    = [4]float64{0.5, 0.02, 0.006, 0.3}
	gelNoise = 0.12
)

const z95 = 1.6448536269514722

func (g Gelled) row() []float64 {
	return []float64{1, g.RoomC - 20, 100 * (g.RH - 0.5), math.Log(g.Dose)}
}

// When predicts the gel of a batch from the batches of before.
func When(now Gelled, before []Gelled) (Gel, error) {
	p := mat.NewSymDense(4, nil)
	right := mat.NewVecDense(4, nil)
	for i := range 4 {
		w := 1 / (gelSd[i] * gelSd[i])
		p.SetSym(i, i, w)
		right.SetVec(i, w*gelMean[i])
	}
	for _, b := range before {
		x, w := b.row(), 1/(gelNoise*gelNoise)
		for i := range 4 {
			right.SetVec(i, right.AtVec(i)+w*x[i]*math.Log(b.GelS))
			for j := i; j < 4; j++ {
				p.SetSym(i, j, p.At(i, j)+w*x[i]*x[j])
			}
		}
	}
	var chol mat.Cholesky
	if !chol.Factorize(p) {
		return Gel{}, refusal.New(refusal.Contradiction, "references", "These batches do not fit together.")
	}
	beta, side, x := mat.NewVecDense(4, nil), mat.NewVecDense(4, nil), mat.NewVecDense(4, now.row())
	if err := chol.SolveVecTo(beta, right); err != nil {
		return Gel{}, err
	}
	if err := chol.SolveVecTo(side, x); err != nil {
		return Gel{}, err
	}
	mid := mat.Dot(beta, x)
	band := z95 * math.Sqrt(mat.Dot(x, side)+gelNoise*gelNoise)
	return Gel{GelS: math.Exp(mid), LowS: math.Exp(mid - band), HighS: math.Exp(mid + band), References: len(before)}, nil
}
