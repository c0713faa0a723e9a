package section

import (
	"math"

	"yewmoor/internal/craft/material"
)

// Outline is a band as it is drawn: its upper and lower line in mm, across from
// the centre and up from the skin.
type Outline struct {
	ID     string
	Name   string
	Words  string
	Family material.Family
	Upper  [][2]float64
	Lower  [][2]float64
}

// outlineSteps is in how many steps a cut is drawn across.
const outlineSteps = 160

// Outlines lays the bands of a cut on each other. up stretches heights, 1 for
// true scale; least is the least height in mm of a film, so that it can be seen,
// 0 for true scale.
func (c Cut) Outlines(shelf material.Shelf, up, least float64) []Outline {
	reach := c.HalfWidthMM
	for _, l := range c.Layers {
		reach = math.Max(reach, l.end(c))
	}
	floor := make([]float64, outlineSteps+1)
	var out []Outline
	for _, l := range c.Layers {
		if l.Kind == Skin {
			continue
		}
		p := shelf[l.Material]
		r := LayerResult{}
		r.CentreMM, r.EdgeMM = l.Thickness(c, shelf)
		o := Outline{ID: l.ID, Name: p.Name, Words: l.words(shelf, r), Family: p.Family}
		for i := range floor {
			x := reach * float64(i) / outlineSteps
			h := l.heightAt(c, shelf, x) * up
			if h > 0 && l.Kind.Is() != Body {
				h = math.Max(h, least)
			}
			if h == 0 && len(o.Upper) == 0 || h == 0 && x > l.end(c) {
				continue
			}
			o.Lower = append(o.Lower, [2]float64{x, floor[i]})
			floor[i] += h
			o.Upper = append(o.Upper, [2]float64{x, floor[i]})
		}
		out = append(out, o)
	}
	return out
}

// heightAt is the built height of a layer at x mm from the centre. Hair stands
// for half a millimetre.
func (l Layer) heightAt(c Cut, shelf material.Shelf, x float64) float64 {
	if !l.Reaches(c, x) {
		return 0
	}
	switch l.Kind.Is() {
	case Body:
		return l.at(c, math.Min(x, c.HalfWidthMM))
	case Things:
		return l.CentreMM
	case Strand:
		return 0.5
	}
	for i, z := range c.zones() {
		if x <= z.ToMM {
			return l.CoatBuiltMM(shelf) * float64(l.coatsAt(i))
		}
	}
	return l.CoatBuiltMM(shelf) * float64(l.coatsAt(-1))
}
