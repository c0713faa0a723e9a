package mouldmath

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Ways of taking a life cast.
const (
	Alginate     = "alginate"
	SkinSilicone = "skin silicone"
	TwoSilicones = "two silicones"
)

// LifeCast is what a life cast is planned from. Zero values take the usual ones.
type LifeCast struct {
	Way         string  `json:"way" enum:"alginate,skin silicone,two silicones"`
	Face        bool    `json:"face" doc:"mouth and nose lie under it"`
	AreaCM2     float64 `json:"area_cm2"`
	ThicknessMM float64 `json:"thickness_mm,omitempty"`
	WaterRatio  float64 `json:"water_ratio,omitempty" doc:"parts of water to one of alginate by mass"`
	WaterC      float64 `json:"water_c,omitempty"`
	Bandage     int     `json:"bandage_layers,omitempty"`
	Hair        string  `json:"hair,omitempty" doc:"how hair, brows and lashes are kept free"`
}

// Layer is one layer of a life cast and what it is for.
type Layer struct {
	What string `json:"what"`
	Role string `json:"role"`
}

// LifePlan is a life cast made ready.
type LifePlan struct {
	LifeCast
	Lines    []Line   `json:"lines"`
	Layers   []Layer  `json:"stack"`
	Checks   []Item   `json:"checks" doc:"all of them are seen before the clock starts"`
	WorkingS float64  `json:"working_s" doc:"until it may no longer be moved"`
	WorkLowS float64  `json:"working_low_s"`
	SetS     float64  `json:"set_s"`
	JacketS  float64  `json:"jacket_s"`
	OnBodyS  float64  `json:"on_body_s" doc:"from the first spoonful to free skin"`
	Cautions []string `json:"cautions"`
}

// Touching are the materials, by their slugs, that a plan puts on a body.
func (p LifePlan) Touching() []string {
	out := []string{"prep-jelly", "life-silicone"}
	if p.Way == Alginate {
		out[1] = "alginate"
	}
	if p.Bandage > 0 {
		out = append(out, "plaster-bandage")
	}
	return out
}

// alginateCold is how the times of alginate stretch with each kelvin that the
// water is colder than 20 °C: ours, a doubling in about 12 K; a spoonful tried
// first replaces it.
const alginateCold = 0.058

// PlanLifeCast works a life cast out.
func PlanLifeCast(in LifeCast) (LifePlan, error) {
	def := func(v *float64, d float64) {
		if *v == 0 {
			*v = d
		}
	}
	p := LifePlan{}
	switch in.Way {
	case Alginate:
		def(&in.ThicknessMM, 10)
		def(&in.WaterRatio, 4.5)
		def(&in.WaterC, 20)
	case SkinSilicone, TwoSilicones:
		def(&in.ThicknessMM, 4)
		def(&in.WaterC, 20)
	default:
		return p, refusal.New(refusal.UnknownValue, "way", "Choose how it is taken: alginate, or silicone sold for life casting.")
	}
	if in.Bandage == 0 {
		in.Bandage = 4
	}
	for _, c := range []struct {
		field, says string
		v, lo, hi   float64
	}{
		{"area_cm2", "The area lies between 10 and 20 000 cm².", in.AreaCM2, 10, 20000}, {"thickness_mm", "The layer lies between 1 and 40 mm.", in.ThicknessMM, 1, 40},
		{"water_c", "Water on skin lies between 10 and 38 °C.", in.WaterC, 10, 38}, {"bandage_layers", "A jacket has 3 to 8 layers of bandage.", float64(in.Bandage), 3, 8},
	} {
		if !(c.v >= c.lo && c.v <= c.hi) {
			return p, refusal.New(refusal.OutOfRange, c.field, "%s", c.says)
		}
	}
	if in.Way == Alginate && !(in.WaterRatio >= 3 && in.WaterRatio <= 7) {
		return p, refusal.New(refusal.OutOfRange, "water_ratio", "Alginate takes 3 to 7 parts of water; 4 to 5 is usual, the packet says.")
	}
	p.LifeCast = in
	mm3 := in.AreaCM2 * 100 * in.ThicknessMM
	add := func(what string, need, more float64, price int, rule string) {
		p.Lines = append(p.Lines, Line{what, need, need * more, minor(need*more, price), rule})
	}
	if in.Way == Alginate {
		g := 1.08 * mm3 / 1000
		powder := g / (1 + in.WaterRatio)
		add("alginate", powder, 1.2, 1400, "area × thickness at 1.08 g/ml, 20 % for the bowl")
		add("water", powder*in.WaterRatio, 1.2, 0, "by mass, to the powder")
		k := math.Exp(alginateCold * (20 - in.WaterC))
		p.WorkLowS, p.WorkingS, p.SetS = 180*k, 270*k, 420*k
	} else {
		half := 1.1 * mm3 / 1000 / 2
		add("skin-safe silicone A", half, 1.15, 5200, "area × thickness at 1.10 g/ml, 1 : 1, 15 % for cups")
		add("skin-safe silicone B", half, 1.15, 5200, "1 : 1 to A")
		p.WorkLowS, p.WorkingS, p.SetS = 180, 270, 480
	}
	bandage := in.AreaCM2 / 1e4 * 1.15 * float64(in.Bandage) * 900
	add("plaster bandage", bandage, 1.1, 600, "area, 15 % overlap, 900 g/m² a layer (ours)")
	p.JacketS = 750
	p.OnBodyS = p.SetS + p.JacketS + 180
	p.stack()
	p.checks()
	p.Cautions = []string{
		"Plaster bandage goes only over the set layer, thin, never bare on skin: it heats (SAF-13). Never enclose a hand, limb or head in setting plaster.",
		"Only alginate or silicone sold for skin touches skin (SAF-15); patch-test 24 to 48 h ahead.",
		"Stop at the first sign: the agreed hand signal means off, at once. A doctor's word goes before any schedule.",
	}
	return p, nil
}

func (p *LifePlan) stack() {
	add := func(what, role string) { p.Layers = append(p.Layers, Layer{what, role}) }
	hair := p.Hair
	if hair == "" {
		hair = "a cap, and release cream worked into brows, lashes and stubble"
	}
	add(hair, "keeps hair out of what sets: it cannot be freed from it")
	switch p.Way {
	case Alginate:
		add("alginate, thin first, then built up", "takes the detail; dries out, so the cast is poured within 30 minutes")
	case SkinSilicone:
		add("skin silicone, one brushed coat, then thickened", "takes the detail; may be cast from more than once")
	case TwoSilicones:
		add("an oily silicone on hair and edges", "lets hair slide out")
		add("skin silicone that bonds to it", "takes the detail and holds the shape")
	}
	add("plaster bandage with ribs", "temporary stiff jacket, so that nothing sags when it comes off")
	add("a shell laid up in the impression, later", "the cast itself, when the form is to be light and last")
}

func (p *LifePlan) checks() {
	add := func(key, text, why string) { p.Checks = append(p.Checks, Item{key, text, why}) }
	add("sold-for-skin", "What touches skin is sold for skin, and its patch test is clear", "SAF-15, SAF-2")
	add("no-plaster", "No bare plaster on skin; bandage only over the set layer, and thin", "SAF-13")
	add("two-people", "A second person stands by from the first spoonful to the last", "SAF-14")
	add("signal", "The hand signal for off is agreed and was tried", "SAF-14")
	add("way-off", "A quick way off is ready: seam, scissors, water, towel", "SAF-14")
	if p.Face {
		add("nostrils", "Both nostrils are free and somebody watches them all the time", "SAF-14")
		add("eyes-mouth", "Eyes shut over a barrier; mouth shut; no fear of closed spaces", "SAF-3, SAF-4")
	}
	add("hair", "Hair, brows and lashes are covered or creamed, surplus wiped off skin", "hair that sets in cannot be freed")
	add("jewellery", "Lenses, jewellery and false lashes are out", "they tear or cut")
	add("weighed", "Everything is weighed out and the clock is in sight", "there is no time later")
}
