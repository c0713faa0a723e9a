package colour

import (
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Pigment is a preparation: K and S in 1/mm for each g in 100 g of clear silicone.
type Pigment struct {
	ID, Name, Class, Form string
	DropG                 float64 // of one drop; 0 for what is only weighed
	Most                  float64 // g in 100 g of silicone
	Coefficients
}

// Base is what pigments are mixed into: its own K and S, what ageing adds to K, and how
// strong pigments are in it.
type Base struct {
	ID, Name  string
	FK, FS    float64
	MaxLoad   float64 // g of pigment in 100 g
	CapTimes  float64 // on a pigment's own most
	Density   float64 // g/cm³, finished
	AgeMonths float64 // time constant; 0 for what does not age
	KAge      Spectrum
	Coefficients
}

// Dose is so many g of a pigment in 100 g of base as weighed.
type Dose struct {
	Pigment string
	G       float64
}

// Library are the pigments and bases that come with the program, in their order.
var (
	Pigments []Pigment
	Bases    []Base
)

func init() {
	head, rows := table("pigment-list")
	for _, r := range rows {
		Pigments = append(Pigments, Pigment{ID: r[head["pigment"]], Name: r[head["name"]], Class: r[head["class"]],
			Form:  r[head["form"]],
			DropG: number(r[head["drop_g"]]), Most: number(r[head["max_g_per_100g"]])})
	}
	head, rows = table("base-list")
	for _, r := range rows {
		Bases = append(Bases, Base{ID: r[head["base"]], Name: r[head["name"]], FK: number(r[head["fK"]]), FS: number(r[head["fS"]]),
			MaxLoad: number(r[head["max_load"]]), CapTimes: number(r[head["cap_x"]]), Density: number(r[head["density"]]), AgeMonths: number(r[head["age_tau_months"]])})
	}
	head, rows = table("pigments")
	for _, r := range rows {
		p := &Pigments[slices.IndexFunc(Pigments, func(p Pigment) bool { return p.ID == r[head["pigment"]] })]
		i := (int(number(r[head["nm"]])) - 380) / 10
		p.K[i], p.S[i] = number(r[head["K"]]), number(r[head["S"]])
	}
	head, rows = table("bases")
	for _, r := range rows {
		b := &Bases[slices.IndexFunc(Bases, func(b Base) bool { return b.ID == r[head["base"]] })]
		i := (int(number(r[head["nm"]])) - 380) / 10
		b.K[i], b.S[i], b.KAge[i] = number(r[head["K"]]), number(r[head["S"]]), number(r[head["K_age"]])
	}
}

// All are the pigments of the library, in their order.
func All() []*Pigment {
	out := make([]*Pigment, len(Pigments))
	for i := range Pigments {
		out[i] = &Pigments[i]
	}
	return out
}

// PigmentOf is a pigment by its id; E_UNKNOWN_PIGMENT at field.
func PigmentOf(id, field string) (*Pigment, error) {
	for i := range Pigments {
		if Pigments[i].ID == id {
			return &Pigments[i], nil
		}
	}
	return nil, refusal.New("E_UNKNOWN_PIGMENT", field, "There is no pigment %s.", id)
}

// BaseOf is a base by its id; E_UNKNOWN_BASE.
func BaseOf(id string) (*Base, error) {
	for i := range Bases {
		if Bases[i].ID == id {
			return &Bases[i], nil
		}
	}
	return nil, refusal.New("E_UNKNOWN_BASE", "base", "There is no base %s.", id)
}

// Aged is how far a base has aged after so many months, 0 to 1.
func (b *Base) Aged(months float64) float64 {
	if b.AgeMonths <= 0 {
		return 0
	}
	return 1 - math.Exp(-months/b.AgeMonths)
}

// Cap is the most of a pigment in a base, g in 100 g.
func (b *Base) Cap(p *Pigment) float64 { return p.Most * b.CapTimes }

// bare is a base without pigment at an age 0 to 1.
func (b *Base) bare(age float64) Coefficients {
	out := b.Coefficients
	for i := range out.K {
		out.K[i] += age * b.KAge[i]
	}
	return out
}

// add puts g of a pigment in 100 g into a material of a base.
func (c *Coefficients) add(b *Base, p *Coefficients, g float64) {
	for i := range c.K {
		c.K[i] += b.FK * g * p.K[i]
		c.S[i] += b.FS * g * p.S[i]
	}
}

// Mixed is a base with a recipe of the library's pigments at an age 0 to 1.
func (b *Base) Mixed(recipe []Dose, age float64) (Coefficients, error) {
	return b.MixedOf(nil, recipe, age)
}

// Palette are pigments that recipes are made of: a shop's own, by what it calls them. None
// is the library.
type Palette []*Pigment

// Find is a pigment of the palette by its id; E_UNKNOWN_PIGMENT at field.
func (p Palette) Find(id, field string) (*Pigment, error) {
	if p == nil {
		return PigmentOf(id, field)
	}
	if i := slices.IndexFunc(p, func(x *Pigment) bool { return x.ID == id }); i >= 0 {
		return p[i], nil
	}
	return nil, refusal.New("E_UNKNOWN_PIGMENT", field, "Nobody knows what %s does to a colour.", id)
}

// MixedOf is a base with a recipe of a palette at an age 0 to 1.
func (b *Base) MixedOf(palette Palette, recipe []Dose, age float64) (Coefficients, error) {
	out := b.bare(age)
	for _, d := range recipe {
		p, err := palette.Find(d.Pigment, "recipe")
		if err != nil {
			return out, err
		}
		if d.G < 0 {
			return out, refusal.New("E_RANGE", "recipe."+d.Pigment, "Nothing can be taken out of a base.")
		}
		out.add(b, &p.Coefficients, d.G)
	}
	return out, nil
}

// Load is the pigment in a recipe, g in 100 g.
func Load(recipe []Dose) (g float64) {
	for _, d := range recipe {
		g += d.G
	}
	return g
}

// Coat is a layer that is put on: its material, mm wet, how much of the place it covers
// and how often.
type Coat struct {
	Coefficients
	X, Coverage float64
	Passes      int
}

// Step is a place after a layer.
type Step struct {
	Lab     Lab
	Covered float64 // share that the layer covers after its passes
	R       Spectrum
}

// Stack puts layers over a backing, from the innermost out; the surface's own reflection
// once, at the end.
func Stack(backing Spectrum, coats []Coat, surface *Surface) (Spectrum, []Step) {
	r := surface.in(backing)
	var steps []Step
	seen := func() Spectrum {
		out := r
		for i := range out {
			out[i], _ = surface.out(out[i])
		}
		return out
	}
	for _, c := range coats {
		for range max(1, c.Passes) {
			over := c.Over(c.X, &r)
			for i := range r {
				r[i] = c.Coverage*over[i] + (1-c.Coverage)*r[i]
			}
		}
		now := seen()
		steps = append(steps, Step{now.Lab(D65), 1 - math.Pow(1-c.Coverage, float64(max(1, c.Passes))), now})
	}
	return seen(), steps
}

// Mottle is patches beside one another, by their shares: what they look like from afar,
// and how spotted they are close up.
func Mottle(patches []Spectrum, shares []float64) (r Spectrum, index float64, err error) {
	total := 0.0
	for _, f := range shares {
		total += f
	}
	if math.Abs(total-1) > 1e-6 {
		return r, 0, refusal.New("E_FRACTION", "patches", "The shares add up to %.3f, not to 1.", total)
	}
	for j, p := range patches {
		for i := range r {
			r[i] += shares[j] * p[i]
		}
	}
	mean := r.Lab(D65)
	for j, p := range patches {
		index += shares[j] * DE00(p.Lab(D65), mean)
	}
	return r, index, nil
}

// Share is how much of the second of two patches beside the first comes nearest to a target.
func Share(a, b Spectrum, target Lab) (share, de00 float64) {
	off := func(f float64) float64 {
		r, _, _ := Mottle([]Spectrum{a, b}, []float64{1 - f, f})
		return DE00(r.Lab(D65), target)
	}
	best, at := math.Inf(1), 0.0
	for i := range 201 {
		if d := off(float64(i) / 200); d < best {
			best, at = d, float64(i)/200
		}
	}
	lo, hi := math.Max(0, at-1.0/200), math.Min(1, at+1.0/200)
	golden := (math.Sqrt(5) - 1) / 2
	for range 60 {
		x, y := hi-golden*(hi-lo), lo+golden*(hi-lo)
		if off(x) < off(y) {
			hi = y
		} else {
			lo = x
		}
	}
	share = (lo + hi) / 2
	return share, off(share)
}

// Batch is what a recipe weighs, from the base's mass or from the whole, g.
func Batch(recipe []Dose, baseG, totalG float64) (base float64, grams []Dose, total float64) {
	base = baseG
	if totalG > 0 {
		base = totalG / (1 + Load(recipe)/100)
	}
	total = base
	for _, d := range recipe {
		g := d.G * base / 100
		grams = append(grams, Dose{d.Pigment, g})
		total += g
	}
	return base, grams, total
}

// BloodType is a stage blood: what is in it, and when it stands still.
type BloodType struct {
	ID, Name               string
	SyrupG, WaterG, ThickG float64 // of 100 g
	YieldPa, Age           float64
	Recipe                 []Dose
	Viscosity, StayMM      float64 // Pa s; mm that stay on a wall
	Class                  string  // thin, pouring, thick, paste
}

// BloodTypes are those that come with the program.
var BloodTypes []BloodType

const (
	bloodDensity = 1350.0
	gravity      = 9.81
)

func init() {
	head, rows := table("blood")
	for _, r := range rows {
		b := BloodType{ID: r[head["type"]], Name: r[head["name"]], SyrupG: number(r[head["syrup_g"]]),
			WaterG: number(r[head["water_g"]]),
			ThickG: number(r[head["thickener_g"]]), YieldPa: number(r[head["yield_Pa"]]), Age: number(r[head["age"]])}
		for _, id := range []string{"RO", "QR", "BU", "UB", "CB", "AY"} {
			if g := number(r[head[id]]); g > 0 {
				b.Recipe = append(b.Recipe, Dose{id, g})
			}
		}
		b.Viscosity = math.Exp(b.SyrupG/100*math.Log(60) + b.WaterG/100*math.Log(0.001) + b.ThickG)
		b.StayMM = 1000 * b.YieldPa / (bloodDensity * gravity)
		switch {
		case b.Viscosity < 0.2:
			b.Class = "thin"
		case b.Viscosity < 2:
			b.Class = "pouring"
		case b.Viscosity < 20:
			b.Class = "thick"
		default:
			b.Class = "paste"
		}
		BloodTypes = append(BloodTypes, b)
	}
}

// BloodOf is a blood by its id; E_UNKNOWN_BLOOD.
func BloodOf(id string) (*BloodType, error) {
	for i := range BloodTypes {
		if BloodTypes[i].ID == id {
			return &BloodTypes[i], nil
		}
	}
	return nil, refusal.New("E_UNKNOWN_BLOOD", "type", "There is no blood %s.", id)
}

// Drained is the film that is left after it ran for seconds, so many mm below its top, mm.
func (b *BloodType) Drained(seconds, fromTopMM float64) float64 {
	return math.Max(b.StayMM, 1000*math.Sqrt(b.Viscosity*fromTopMM/1000/(bloodDensity*gravity*seconds)))
}

// BloodOver is a blood so many mm deep over something. E_UNKNOWN_BLOOD.
func BloodOver(id string, mm float64, under *Spectrum) (Spectrum, error) {
	b, err := BloodOf(id)
	if err != nil {
		return *under, err
	}
	syrup, err := BaseOf("syrup")
	if err != nil {
		return *under, err
	}
	film, err := syrup.Mixed(b.Recipe, b.Age)
	if err != nil {
		return *under, err
	}
	return film.Over(mm, under), nil
}
