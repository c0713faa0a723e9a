package mouldmath

import "yewmoor/internal/craft/material"

// Limit is how thick and how thin an appliance of a material may be, mm.
type Limit struct {
	EdgeMM  float64 `json:"edge_mm" doc:"a good edge is no thicker"`
	ThickMM float64 `json:"thick_mm" doc:"thicker spots are told"`
	ThinMM  float64 `json:"thin_mm" doc:"thinner spots off the edge are told"`
}

// thin is the least that is cast off the edge, mm: ours, by what tears when it
// is demoulded; thick is the handbook's (scans and moulds, section 5).
var limits = map[material.Family]Limit{
	material.SiliconeAddition: {ThickMM: 15, ThinMM: 0.5}, material.SiliconeCondensation: {ThickMM: 15, ThinMM: 0.5},
	material.Gelatin: {ThickMM: 12, ThinMM: 0.6}, material.FoamLatex: {ThickMM: 15, ThinMM: 0.8}, material.Latex: {ThickMM: 3, ThinMM: 0.3},
}

// LimitOf is the limit of a family; for one without figures that of silicone.
func LimitOf(family string) Limit {
	l, known := limits[material.Family(family)]
	if !known {
		family = string(material.SiliconeAddition)
		l = limits[material.SiliconeAddition]
	}
	l.EdgeMM = material.EdgeLimit(material.Family(family), false)
	return l
}

// Weight is what a volume weighs in a material.
type Weight struct {
	Name     string     `json:"name"`
	Grams    float64    `json:"grams"`
	Range    [2]float64 `json:"range_g"`
	OrderG   float64    `json:"order_g" doc:"with 15 % for cups and flashing"`
	ShrinkPC float64    `json:"shrinkage_pc"`
	// EnlargePC is how much larger the sculpt has to be to come out right.
	EnlargePC float64 `json:"enlarge_pc"`
}

// loss is what stays in cups and flashing.
const loss = 0.15

// InEach is what a volume in mm³ weighs in each cast material. The mass is that
// of the volume as it was sculpted; a piece that shrinks keeps its mass.
func InEach(mm3 float64) []Weight {
	out := []Weight{}
	for _, d := range Densities {
		if d.Name == "mould silicone" || d.Name == "alginate" {
			continue
		}
		g, order := Mass(mm3, d.GCM3, loss)
		w := Weight{Name: d.Name, Grams: g, OrderG: order, ShrinkPC: d.ShrinkPC}
		for k := range 2 {
			w.Range[k], _ = Mass(mm3, d.Range[k], 0)
		}
		if s, err := Shrink(d.ShrinkPC / 100); err == nil {
			w.EnlargePC = 100 * (s.EnlargeLinear - 1)
		}
		out = append(out, w)
	}
	return out
}
