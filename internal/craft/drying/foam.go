package drying

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Of washed foam (section 7 of the handbook chapter): the surface stays wet until
// this share of its water is left; heat goes in through the dry layer, and vapour out
// of it.
const (
	wetUntil            = 0.4
	foamConduct         = 0.05   // W/(m K)
	foamVapour          = 1.5e-5 // m²/s
	waterRatioUsual     = 1.5
	foamResidualUsual   = 0.03
	washedDensityUsual  = 150.0
	bothFaces, oneFaced = 2, 1
)

// Washed is a foam piece that was washed and squeezed: its thickness in m, from
// how many faces it dries, what it weighs dry in kg/m³, its water in kg a kg of dry
// foam, and the share of that water at which it counts as dry.
type Washed struct {
	ThicknessM, DryDensity, WaterRatio, Residual float64
	Faces                                        int
}

// UsualWash is a piece of a thickness as it is squeezed out by hand, drying from
// both faces.
func UsualWash(thicknessM float64) Washed {
	return Washed{ThicknessM: thicknessM, DryDensity: washedDensityUsual, WaterRatio: waterRatioUsual, Residual: foamResidualUsual, Faces: bothFaces}
}

// WashedCourse is how washed foam dries, in s and kg/m² of a face.
type WashedCourse struct {
	Evaporation float64 `json:"evaporation_kg_m2_s"`
	SurfaceC    float64 `json:"surface_c"`
	Water       float64 `json:"water_kg_m2_face"`
	WetS        float64 `json:"surface_wet_s"`
	InnerS      float64 `json:"inner_s"`
	DryS        float64 `json:"dry_s"`
}

// Foam tells when washed foam is dry in this place: with a wet surface first, then
// behind a front that recedes, at its mean depth.
func (p Place) Foam(w Washed) (WashedCourse, error) {
	p.Conduct = 0 // nothing warms it from behind
	if w.Faces != oneFaced && w.Faces != bothFaces {
		return WashedCourse{}, refusal.New(refusal.OutOfRange, "faces", "It dries from one face or from both.")
	}
	flux, surface := p.flux(1)
	if flux <= 0 {
		return WashedCourse{}, refusal.New(refusal.NeverDries, "rh", "In this air nothing dries: it gives water rather than taking it.")
	}
	depth := w.ThicknessM / float64(w.Faces)
	out := WashedCourse{Evaporation: flux, SurfaceC: surface, Water: w.DryDensity * w.ThicknessM * w.WaterRatio / float64(w.Faces)}
	out.WetS = out.Water * (1 - math.Max(wetUntil, w.Residual)) / flux
	if x := 1 - w.Residual/wetUntil; x > 0 {
		inner := p.front(depth * x / 2)
		if inner <= 0 {
			return WashedCourse{}, refusal.New(refusal.NeverDries, "rh", "In this air its inside never dries.")
		}
		out.InnerS = wetUntil * out.Water * x / inner
	}
	out.DryS = out.WetS + out.InnerS
	return out, nil
}

// Stay is a time in one place, s.
type Stay struct {
	Place
	S float64
}

// WashedAlong is how far washed foam is after its stays, 0 to 1 and more, and how long it
// still takes in the last place, s: each place takes its share of what it would take
// alone. Refusals as of Foam.
func WashedAlong(w Washed, stays []Stay) (far, leftS float64, err error) {
	for i, stay := range stays {
		c, err := stay.Foam(w)
		if err != nil {
			return 0, 0, err
		}
		far += stay.S / c.DryS
		if i == len(stays)-1 {
			leftS = math.Max(0, 1-far) * c.DryS
		}
	}
	return far, leftS, nil
}

// front is the evaporation at a front z m deep in dry foam, kg/(m² s): heat that
// reaches it and vapour that leaves it in balance, by halving.
func (p Place) front(z float64) float64 {
	h := 1090*p.Km + 5.5
	vapour := func(t float64) float64 {
		return waterMolar / (GasConstant * Kelvin(p.AirC)) * (SaturationPressure(t) - p.airPressure()) / (1/p.Km + z/foamVapour)
	}
	low, high := -20.0, p.AirC
	for range 80 {
		t := (low + high) / 2
		if (p.AirC-t)/(1/h+z/foamConduct) > waterLatent*vapour(t) {
			low = t
		} else {
			high = t
		}
	}
	return vapour((low + high) / 2)
}

// Of a foam in its mould (section 5): walls of stone, wet foam between them.
const (
	wallM, wallHeat      = 0.025, 1600 * 1000.0 // J/(m³ K)
	wetHeat, wetConduct  = 250 * 2800.0, 0.060
	ovenH, ovenC         = 12.0, 95.0
	foamEnergy, foamRefC = 85e3, 90.0
	curedRefS            = 5400.0
	ovenTauS, foamOpenC  = 3600.0, 40.0
	foamGelS             = 900.0 // at 20 °C; its reference points replace it
)

// BakeS is about how long foam latex of a thickness takes from the pour until its
// mould may be opened, s: it gels, the walls and then the foam heat through, it
// cures at its coldest place, and cools in the shut oven. A closed form in place of
// the run through its slabs: one time constant for the walls with half the foam,
// one for the foam itself.
func BakeS(thicknessM, roomC float64) float64 {
	walls := (wallM*wallHeat + thicknessM/2*wetHeat) * (1/ovenH + wallM/2/0.60)
	core := thicknessM * thicknessM * wetHeat / (math.Pi * math.Pi * wetConduct)
	reach := (walls + core) * math.Log((ovenC-roomC)/5)
	cure := curedRefS / Arrhenius(foamEnergy, ovenC-5, foamRefC)
	cool := (ovenTauS + core) * math.Log((ovenC-roomC)/(foamOpenC-roomC))
	if roomC > foamOpenC-5 {
		cool = (ovenTauS + core) * math.Log((ovenC-roomC)/5)
	}
	gel := foamGelS * math.Exp(-0.060*(roomC-20))
	return gel + reach + cure + cool
}
