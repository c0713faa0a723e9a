// Package mouldmath works out what a mould takes: silicone of a glove, the
// fill of a block, gypsum and its water, a laminate jacket, shrinkage. It
// follows sections 6, 9 and 10 of the handbook's chapter on scans and moulds.
// Every quantity says by which rule it was found.
package mouldmath

import (
	"math"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/scan"
)

// Refusals.
const (
	BadWall      = "BAD_WALL"
	BadRatio     = "BAD_RATIO"
	BadShrinkage = "BAD_SHRINKAGE"
	BadParameter = "BAD_PARAMETER"
)

// Quantities of a mould round a surface, mm² and mm³.
type Quantities struct {
	// AreaXWall is a first guess for a glove: low on a convex form.
	AreaXWall float64 `json:"glove_area_x_wall"`
	// Offset is the glove by the offset formula: exact for convex bodies, folds
	// not removed elsewhere.
	Offset    float64 `json:"glove_offset"`
	OuterArea float64 `json:"outer_area"`
	BoxMM3    float64 `json:"box_volume"`
	FillMM3   float64 `json:"box_fill"`
	// UpperBound is true where the surface is open, so that the fill is known
	// only from above.
	UpperBound bool `json:"box_fill_is_upper_bound"`
}

// Around is what a mould of a wall's thickness takes round a surface; a block
// has 6 sides, or 5 when it is poured on a board.
func Around(m *scan.Mesh, wall float64, sides int) (Quantities, error) {
	if !(wall > 0 && wall < 1000) {
		return Quantities{}, refusal.New(BadWall, "wall", "The wall must be above 0 mm.")
	}
	if sides == 0 {
		sides = 6
	}
	if sides != 5 && sides != 6 {
		return Quantities{}, refusal.New(BadParameter, "sides", "A block has six sides, or five on a board.")
	}
	top := m.Topology()
	v := m.Volumes(top)
	bend := m.Bend()
	chi := 0.0
	if top.Watertight {
		chi = float64(top.Euler)
	}
	q := Quantities{AreaXWall: v.Area * wall, UpperBound: !top.Watertight}
	q.Offset = v.Area*wall + bend*wall*wall + chi/2*4*math.Pi/3*wall*wall*wall
	q.OuterArea = v.Area + 2*bend*wall + chi/2*4*math.Pi*wall*wall
	size := m.Box.Max
	for k := range 3 {
		size[k] += 2*wall - m.Box.Min[k]
	}
	if sides == 5 {
		size[2] -= wall
	}
	q.BoxMM3 = size[0] * size[1] * size[2]
	q.FillMM3 = q.BoxMM3 - math.Abs(v.MM3)
	return q, nil
}

// Plaster is gypsum and water for a volume.
type Plaster struct {
	PowderG       float64 `json:"powder_g"`
	WaterG        float64 `json:"water_g"`
	SlurryDensity float64 `json:"slurry_density" doc:"g/cm³"`
	DryDensity    float64 `json:"dry_density" doc:"g/cm³"`
	// LeavesG is the water that must leave before it is baked.
	LeavesG float64 `json:"leaves_g"`
}

// Batch is what gypsum is asked for. Zero values take the handbook's.
type Batch struct {
	VolumeMM3   float64  `json:"volume_mm3"`
	WaterPer100 float64  `json:"water_per_100" doc:"parts of water to 100 of powder, as the bag says"`
	Density     float64  `json:"powder_density,omitempty" doc:"2.63 g/cm³"`
	Expansion   float64  `json:"expansion,omitempty" doc:"of the set, 0 to 0.01"`
	Waste       *float64 `json:"waste,omitempty" doc:"factor on top, 1.05"`
	Purity      float64  `json:"purity,omitempty" doc:"0.95"`
}

// boundWater is what a gram of pure hemihydrate binds, in g.
const boundWater = 0.18617

// Gypsum works out powder and water (the rule of the drying chapter).
func Gypsum(b Batch) (Plaster, error) {
	def := func(v *float64, d float64) {
		if *v == 0 {
			*v = d
		}
	}
	def(&b.Density, 2.63)
	def(&b.Purity, 0.95)
	waste := 1.05
	if b.Waste != nil {
		waste = *b.Waste
	}
	for _, c := range []struct {
		field     string
		v, lo, hi float64
	}{{"volume_mm3", b.VolumeMM3, 1e-9, 1e12}, {"powder_density", b.Density, 1, 5}, {"expansion", b.Expansion, 0, 0.05}, {"waste", waste, 1, 3}, {"purity", b.Purity, 0.3, 1}} {
		if !(c.v >= c.lo && c.v <= c.hi) {
			return Plaster{}, refusal.New(BadParameter, c.field, "%s must lie between %g and %g.", c.field, c.lo, c.hi)
		}
	}
	r := b.WaterPer100 / 100
	if !(r >= boundWater*b.Purity && r <= 3) {
		return Plaster{}, refusal.New(BadRatio, "water_per_100", "So little water cannot set the powder: it binds %.1f parts to 100. Read the bag again.", 100*boundWater*b.Purity)
	}
	fills := 1/b.Density + r/0.998
	p := Plaster{SlurryDensity: (1 + r) / fills, DryDensity: (1 + boundWater*b.Purity) / fills}
	p.PowderG = b.VolumeMM3 / 1000 / (1 + b.Expansion) * waste / fills
	p.WaterG = r * p.PowderG
	p.LeavesG = (r - boundWater*b.Purity) * p.PowderG
	return p, nil
}

// Laminate is a jacket of cloth and resin.
type Laminate struct {
	ClothM2     float64 `json:"cloth_area_m2"`
	ClothG      float64 `json:"cloth_g"`
	ResinG      float64 `json:"resin_g"`
	OrderClothG float64 `json:"order_cloth_g"`
	OrderResinG float64 `json:"order_resin_g"`
	ThicknessMM float64 `json:"thickness_mm"`
}

// Jacket is what a laminate is asked for. Zero values take the handbook's.
type Jacket struct {
	AreaMM2 float64 `json:"area_mm2"`
	Layers  int     `json:"layers,omitempty" doc:"3"`
	GSM     float64 `json:"gsm,omitempty" doc:"300 g/m²"`
	Fibre   float64 `json:"fibre_fraction,omitempty" doc:"share of fibre by mass, 0.33"`
	Overlap float64 `json:"overlap,omitempty" doc:"factor, 1.15"`
	Waste   float64 `json:"waste,omitempty" doc:"factor on what is ordered, 1.10"`
}

// Laid works out a jacket.
func Laid(j Jacket) (Laminate, error) {
	def := func(v *float64, d float64) {
		if *v == 0 {
			*v = d
		}
	}
	def(&j.GSM, 300)
	def(&j.Fibre, 0.33)
	def(&j.Overlap, 1.15)
	def(&j.Waste, 1.1)
	if j.Layers == 0 {
		j.Layers = 3
	}
	for _, c := range []struct {
		field     string
		v, lo, hi float64
	}{{"area_mm2", j.AreaMM2, 1e-9, 1e10}, {"layers", float64(j.Layers), 1, 50}, {"gsm", j.GSM, 10, 3000}, {"fibre_fraction", j.Fibre, 0.05, 0.9}, {"overlap", j.Overlap, 1, 3}, {"waste", j.Waste, 1, 3}} {
		if !(c.v >= c.lo && c.v <= c.hi) {
			return Laminate{}, refusal.New(BadParameter, c.field, "%s must lie between %g and %g.", c.field, c.lo, c.hi)
		}
	}
	m2 := j.AreaMM2 / 1e6
	l := Laminate{ClothM2: m2 * j.Overlap * float64(j.Layers)}
	l.ClothG = l.ClothM2 * j.GSM
	l.ResinG = l.ClothG * (1 - j.Fibre) / j.Fibre
	l.OrderClothG, l.OrderResinG = l.ClothG*j.Waste, l.ResinG*j.Waste
	// Where pieces overlap it is thicker; this is between. g over g/cm³ and m² is
	// a thousandth of a mm.
	l.ThicknessMM = (l.ClothG/2.55 + l.ResinG/1.12) / m2 / j.Overlap / 1000
	return l, nil
}

// Shrinkage says how much larger a sculpt has to be.
type Shrinkage struct {
	Volumetric    float64 `json:"volumetric"`
	EnlargeLinear float64 `json:"enlarge_linear"`
	EnlargeVolume float64 `json:"enlarge_volume"`
}

// Shrink works it out of a linear shrinkage, below 0 for expansion.
func Shrink(s float64) (Shrinkage, error) {
	if !(math.Abs(s) < 0.5) {
		return Shrinkage{}, refusal.New(BadShrinkage, "s", "A linear shrinkage lies between −0.5 and 0.5; 0.04 is 4 %%.")
	}
	k := 1 - s
	return Shrinkage{1 - k*k*k, 1 / k, 1 / (k * k * k)}, nil
}

// Density of a cast material and how much it shrinks (handbook, section 6).
type Density struct {
	Name     string     `json:"name"`
	GCM3     float64    `json:"g_cm3"`
	Range    [2]float64 `json:"range"`
	ShrinkPC float64    `json:"shrinkage_pc"`
}

// Densities are trade ranges; a shop's own test piece overrides them.
var Densities = []Density{
	{"oil clay", 1.6, [2]float64{1.2, 1.9}, 0}, {"foam latex, cured", 0.17, [2]float64{0.12, 0.25}, 4}, {"slip latex, dry", 0.95, [2]float64{0.93, 1.2}, 2},
	{"addition silicone", 1.08, [2]float64{1, 1.12}, 0.05}, {"condensation silicone", 1.12, [2]float64{1.05, 1.3}, 0.4}, {"gelatin mix", 1.24, [2]float64{1.15, 1.28}, 1},
	{"mould silicone", 1.15, [2]float64{1.05, 1.3}, 0.05}, {"alginate", 1.08, [2]float64{1, 1.15}, 0},
}

// Mass of a volume in a material, and what to order with losses.
func Mass(volumeMM3, density, loss float64) (grams, order float64) {
	grams = density * volumeMM3 / 1000
	return grams, grams * (1 + loss)
}
