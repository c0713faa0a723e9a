package section

import (
	"math"

	"yewmoor/internal/craft/material"
)

// Believe puts the volume of the body that is believed in place of what is drawn:
// mass, material and cost of the body follow it, the drawing does not. A volume
// of 0 changes nothing.
func (s Section) Believe(r Result, volumeML float64, shelf material.Shelf) Result {
	drawn := r.Body.VolumeML
	if volumeML <= 0 || drawn <= 0 {
		return r
	}
	k := volumeML / drawn
	r.Layers, r.Materials, r.Cuts = append([]LayerResult{}, r.Layers...), append([]MaterialNeed{}, r.Materials...), append([]CutResult{}, r.Cuts...)
	at := 0
	for n, c := range s.Cuts() {
		for _, l := range c.Layers {
			i := at
			at++
			p := shelf[l.Material]
			if l.Kind == Skin || !l.Kind.IsAppliance() || string(p.Family) != r.Cuts[n].Family {
				continue
			}
			more := (k - 1) * r.Layers[i].MassG
			minor := int64(math.Round(more / 1000 * float64(p.PriceMinorKg)))
			r.Layers[i].MassG += more
			r.Layers[i].Minor += minor
			r.Cuts[n].WornG += more
			r.WornG += more
			r.Minor += minor
			for m := range r.Materials {
				if r.Materials[m].Slug == p.Slug {
					r.Materials[m].Grams += more
					r.Materials[m].Minor += minor
				}
			}
		}
	}
	r.Body.VolumeML = volumeML
	if r.Body.AreaCM2 > 0 {
		r.Body.MeanMM = 10 * volumeML / r.Body.AreaCM2
	}
	return r
}
