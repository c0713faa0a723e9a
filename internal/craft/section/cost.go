package section

import (
	"fmt"
	"math"

	"yewmoor/internal/craft/material"
)

// Parts of what a copy costs in material.
const (
	CostLayers  = "layers"  // what its layers are made of
	CostFibre   = "fibre"   // tissue, gauze and cotton in them
	CostRelease = "release" // on mould and core, for every copy
	CostWaste   = "waste"   // what stays in the cup and is trimmed away
	CostMould   = "mould"   // its share of the mould
)

// CostPart is one part of what a copy costs in material, in hundredths of the
// shop's money.
type CostPart struct {
	Part  string `json:"part" enum:"layers,fibre,release,waste,mould"`
	Minor int64  `json:"cost_minor"`
	Note  string `json:"note,omitempty"`
}

// releaseGCM2 is how much release goes on a cm² of mould and of core for one copy.
const releaseGCM2 = 0.004

// count adds what no layer says: release, waste, and the parts of the cost.
func (r *Result) count(s Section, shelf material.Shelf, at map[string]int, fibre int64) {
	layers := -fibre
	for _, m := range r.Materials {
		layers += m.Minor
	}
	release := int64(0)
	if p, known := shelf[s.Made.Release]; known && r.MadeOn == InMould {
		grams := 2 * releaseGCM2 * r.Body.AreaCM2
		release = price(grams, p)
		r.add(at, p, MaterialNeed{Grams: grams, Minor: release})
	}
	waste := int64(math.Round(material.UsualWaste * float64(layers)))
	for _, part := range []CostPart{{Part: CostLayers, Minor: layers}, {Part: CostFibre, Minor: fibre}, {Part: CostRelease, Minor: release}, {Part: CostWaste, Minor: waste, Note: fmt.Sprintf("%.0f %% in cups and trimmings", 100*material.UsualWaste)}} {
		r.Spend(part)
	}
}

// Spend adds a part to what a copy costs; nothing for nothing.
func (r *Result) Spend(part CostPart) {
	if part.Minor == 0 && part.Part != CostLayers {
		return
	}
	r.Cost = append(r.Cost, part)
	r.Minor += part.Minor
}

func price(grams float64, p material.Product) int64 {
	return int64(math.Round(grams / 1000 * float64(p.PriceMinorKg)))
}

// Own is what of an amount of a layer is its material itself, without what is stirred
// in, g.
func (l Layer) Own(grams float64) float64 { return Mixed(l.Material, l.With, grams)[0].Grams }

// Taken is a share of a layer by its product, g.
type Taken struct {
	Material string  `json:"material"`
	Grams    float64 `json:"grams"`
}

// Mixed divides an amount in g into a material and what is stirred into it, the
// material first.
func Mixed(material string, with []Stir, grams float64) []Taken {
	whole := 1.0
	for _, w := range with {
		whole += w.Percent / 100
	}
	list := []Taken{{material, grams / whole}}
	for _, w := range with {
		list = append(list, Taken{w.Material, grams / whole * w.Percent / 100})
	}
	return list
}

func (r *Result) addMixed(at map[string]int, l Layer, of LayerResult, shelf material.Shelf) {
	for _, in := range Mixed(l.Material, l.With, of.WetG) {
		r.add(at, shelf[in.Material], MaterialNeed{Grams: in.Grams, Minor: price(in.Grams, shelf[in.Material])})
	}
}

func (r *Result) add(at map[string]int, p material.Product, need MaterialNeed) {
	i, known := at[p.Slug]
	if !known {
		i = len(r.Materials)
		at[p.Slug] = i
		r.Materials = append(r.Materials, MaterialNeed{Slug: p.Slug, Name: p.Name, Default: p.Sources["price_minor_kg"] == ""})
	}
	r.Materials[i].Grams += need.Grams
	r.Materials[i].CM2 += need.CM2
	r.Materials[i].Minor += need.Minor
}
