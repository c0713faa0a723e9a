// Package gelatin says when gelatin melts, sets and softens on a wearer: the
// models of section 6 of the handbook chapter "Drying, cure and thermal
// models". Temperatures in °C, lengths in m, masses in kg.
package gelatin

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

const gas = 8.314462618 // J/(mol K)

// Recipe is what a base is made from, in kg; sorbitol dry.
type Recipe struct {
	Gelatin  float64 `json:"gelatin_kg"`
	Glycerin float64 `json:"glycerin_kg"`
	Sorbitol float64 `json:"sorbitol_kg"`
	Water    float64 `json:"water_kg"`
	Bloom    float64 `json:"bloom,omitempty" doc:"strength of the gelatin, 80 to 350; 250 when left out"`
}

// density kg/m³, heat J/(kg K), conductivity W/(m K) of the four parts.
var parts = [4][3]float64{{1350, 1500, 0.20}, {1260, 2400, 0.285}, {1490, 1900, 0.30}, {998, 4180, 0.60}}

func (r Recipe) total() float64 { return r.Gelatin + r.Glycerin + r.Sorbitol + r.Water }

// body is density, heat and conductivity of the mix.
func (r Recipe) body() (rho, c, k float64) {
	volume := 0.0
	for i, m := range [4]float64{r.Gelatin, r.Glycerin, r.Sorbitol, r.Water} {
		volume += m / parts[i][0]
		c += m * parts[i][1]
		k += m * parts[i][2]
	}
	return r.total() / volume, c / r.total(), k / r.total()
}

func (r Recipe) melt(water float64) float64 {
	bloom := r.Bloom
	if bloom == 0 {
		bloom = 250
	}
	x := r.Gelatin / (r.Gelatin + water)
	inverse := 1/306.15 - gas/220000*math.Log(x/0.10)
	return 1/inverse - 273.15 + 12*(r.Glycerin+r.Sorbitol)/(r.Gelatin+r.Glycerin+r.Sorbitol+water) + 0.02*(bloom-250)
}

// MeltC is where the base melts, ± 4 K; a pot test of the batch replaces it.
func (r Recipe) MeltC() float64 { return r.melt(r.Water) }

// Worn is how a piece is worn.
type Worn struct {
	ThicknessM, SkinC, AirC, H float64
	RadiantWM2, SweatKgM2H     float64
	Hours, Barrier             float64
}

// AsWorn fills what is not known: 6 mm on skin of 34 °C in calm air, four
// hours, little sweat, a barrier that keeps four fifths of it away.
func AsWorn(airC float64) Worn {
	return Worn{ThicknessM: 0.006, SkinC: 34, AirC: airC, H: 10, SweatKgM2H: 0.05, Hours: 4, Barrier: 0.8}
}

// Softening is what heat and sweat do to a worn piece.
type Softening struct {
	MeltC    float64 `json:"melt_c"`
	WornC    float64 `json:"worn_melt_c" doc:"the melting point after the sweat it took up"`
	SoftenC  float64 `json:"soften_c"`
	ServiceC float64 `json:"service_c" doc:"the hottest place of it"`
	OuterC   float64 `json:"outer_c"`
	Uptake   float64 `json:"water_uptake_fraction"`
	MarginK  float64 `json:"margin_k"`
	Class    string  `json:"class" enum:"comfortable,tight,unsuitable"`
}

// Softening works it out.
func (r Recipe) Softening(w Worn) Softening {
	rho, _, k := r.body()
	side := k / w.ThicknessM
	out := Softening{MeltC: r.MeltC()}
	out.OuterC = (side*w.SkinC + w.H*w.AirC + w.RadiantWM2) / (side + w.H)
	out.ServiceC = math.Max(w.SkinC, out.OuterC)
	out.Uptake = w.SweatKgM2H * w.Hours * (1 - w.Barrier) / (rho * w.ThicknessM)
	out.WornC = out.MeltC + r.melt(r.Water+out.Uptake*r.total()) - r.melt(r.Water)
	out.SoftenC = out.WornC - 5
	out.MarginK = out.SoftenC - out.ServiceC
	switch {
	case out.MarginK >= 6:
		out.Class = "comfortable"
	case out.MarginK >= 2:
		out.Class = "tight"
	default:
		out.Class = "unsuitable"
	}
	return out
}

// Check refuses a base that cannot be one, at the field.
func (r Recipe) Check(field string) error {
	share := r.Gelatin / r.total()
	if !(r.Gelatin > 0) || !(r.Water > 0) || share < 0.03 || share > 0.60 {
		return refusal.New(refusal.Contradiction, field, "Gelatin and water must be in it, and gelatin is 3 to 60 %% of the mass.")
	}
	return nil
}
