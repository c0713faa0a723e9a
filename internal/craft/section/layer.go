package section

import (
	"math"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/material"
)

// Wet is one coat of this latex layer as the drying model takes it.
func (l Layer) Wet(shelf material.Shelf) drying.Layer {
	p := shelf[l.Material]
	wet := drying.Layer{WetM: math.Max(2e-5, l.CoatMM/1000), Solids: p.Solids, FibreUptake: 8}
	if wet.Solids == 0 {
		wet.Solids = 0.60
	}
	if p.Family == material.LatexPaste {
		wet.FillerRatio = 0.4
	}
	if f := shelf[l.Fibre].Fibre; f != nil {
		wet.FibreKgM2, wet.FibreUptake = f.KgM2, f.Uptake
	}
	return wet
}

// CoatBuiltMM is the height that one coat of a film adds once it is dry.
func (l Layer) CoatBuiltMM(shelf material.Shelf) float64 {
	if l.Kind != Latex {
		return l.CoatMM
	}
	loft := 1.0
	if f := shelf[l.Fibre].Fibre; f != nil {
		loft = f.Loft
	}
	return l.Wet(shelf).DryThicknessM() * 1000 * loft
}

// coatsAt are the coats at a zone of the cut; zone -1 is past the edge.
func (l Layer) coatsAt(zone int) int {
	if len(l.ZoneCoats) == 0 {
		return l.Coats
	}
	if zone < 0 || zone >= len(l.ZoneCoats) {
		return l.ZoneCoats[len(l.ZoneCoats)-1]
	}
	return l.ZoneCoats[zone]
}

// MostCoats are the coats where it has most.
func (l Layer) MostCoats() int {
	most := l.Coats
	for i, n := range l.ZoneCoats {
		if i == 0 {
			most = 0
		}
		most = max(most, n)
	}
	return most
}

// end is where the layer ends, from the centre, in mm.
func (l Layer) end(c Cut) float64 {
	switch l.Extent {
	case CentreOnly:
		return l.StopMM
	case PastEdge:
		return c.HalfWidthMM + l.StopMM
	}
	return c.HalfWidthMM
}

// Reaches says whether the layer is there at x mm from the centre.
func (l Layer) Reaches(c Cut, x float64) bool { return x >= l.FromMM && x <= l.end(c)+1e-9 }

// zones are the breaks of the cut, one zone when it names none.
func (c Cut) zones() []Zone {
	if len(c.Zones) == 0 {
		return []Zone{{ToMM: c.HalfWidthMM}}
	}
	return c.Zones
}

// Thickness is the built height of a layer at the centre and at the edge.
func (l Layer) Thickness(c Cut, shelf material.Shelf) (centre, edge float64) {
	switch l.Kind.Is() {
	case Body:
		centre, edge = l.CentreMM, l.EdgeMM
	case Film:
		one := l.CoatBuiltMM(shelf)
		centre, edge = one*float64(l.coatsAt(0)), one*float64(l.coatsAt(len(c.zones())-1))
	case Things:
		return l.CentreMM, 0
	}
	if l.FromMM > 0 {
		centre = 0
	}
	if l.Extent == CentreOnly {
		edge = 0
	}
	return centre, edge
}

// bodyProfile falls from 1 at the centre to 0 at the edge without a step at
// either end, u being the distance from the centre over the half width.
func bodyProfile(u float64) float64 { return 1 - u*u*(3-2*u) }

// Over is the course of a body from centre to edge with heights added at even places,
// never below nothing: how a texture stands on it.
func (l Layer) Over(heightsMM []float64) []float64 {
	out := make([]float64, len(heightsMM))
	for i, mm := range heightsMM {
		u := float64(i) / float64(len(heightsMM)-1)
		out[i] = math.Round(100*math.Max(0, l.EdgeMM+(l.CentreMM-l.EdgeMM)*bodyProfile(u)+mm)) / 100
	}
	return out
}

// at is the thickness of a body at a distance from the centre.
func (l Layer) at(c Cut, x float64) float64 {
	span := c.HalfWidthMM
	if l.Extent == CentreOnly {
		span = math.Max(l.StopMM, 1e-9)
	}
	switch {
	case l.Measured != nil:
		return course(l.Measured.ProfileMM, x/span)
	case l.Shape != nil:
		return l.Shape.drawn(x / span)
	}
	return l.EdgeMM + (l.CentreMM-l.EdgeMM)*bodyProfile(math.Min(1, x/span))
}

// ring is the share of a round piece's area between two distances from its
// centre; past the edge it goes on above 1.
func (c Cut) ring(from, to float64) float64 {
	if to <= from {
		return 0
	}
	return (to*to - from*from) / (c.HalfWidthMM * c.HalfWidthMM)
}

// cover is how many times a film covers the area of the piece, coats counted.
func (l Layer) cover(c Cut) float64 {
	sum, start, end := 0.0, 0.0, l.end(c)
	for i, z := range c.zones() {
		sum += float64(l.coatsAt(i)) * c.ring(math.Max(start, l.FromMM), math.Min(z.ToMM, end))
		start = z.ToMM
	}
	sum += float64(l.coatsAt(-1)) * c.ring(math.Max(c.HalfWidthMM, l.FromMM), end)
	return sum * l.sided()
}

// sided is the share of the piece that a layer on one side takes.
func (l Layer) sided() float64 {
	if l.Side != "" {
		return 0.5
	}
	return 1
}

// mean is the thickness averaged over a round patch, ∫ t(x) 2x/W² dx by
// Simpson's rule for bodies, plus what lies on the skin outside the edge.
func (l Layer) mean(c Cut, shelf material.Shelf) float64 {
	switch l.Kind.Is() {
	case Film:
		return l.CoatBuiltMM(shelf) * l.cover(c)
	case Body:
		end := math.Min(l.end(c), c.HalfWidthMM)
		const n = 240 // a multiple of the steps in which scans are measured and shapes drawn
		sum, h := 0.0, (end-l.FromMM)/n
		for i := range n {
			a := l.FromMM + float64(i)*h
			f := func(x float64) float64 { return l.at(c, x) * 2 * x / (c.HalfWidthMM * c.HalfWidthMM) }
			sum += h / 6 * (f(a) + 4*f(a+h/2) + f(a+h))
		}
		return (sum + l.EdgeMM*c.ring(c.HalfWidthMM, l.end(c))) * l.sided()
	}
	return 0
}

// One hair of 0.07 mm across weighs this much a mm, g.
const hairGMM = 5.0e-6

// Hairs is how many hairs a layer holds.
func (l Layer) Hairs(c Cut) float64 {
	return l.HairsCM2 * c.AreaCM2 * c.ring(l.FromMM, l.end(c)) * l.sided()
}

// mass of a layer in g: cm² · mm/10 · g/cm³; the solids alone where fibre
// keeps air in.
func (l Layer) mass(c Cut, shelf material.Shelf, meanMM float64) float64 {
	switch {
	case l.Kind.Is() == Things:
		return float64(l.Count) * l.EachG
	case l.Kind == Hair:
		return l.Hairs(c) * l.LengthMM * hairGMM
	case l.Kind == Latex:
		return l.Wet(shelf).DrySolidsKgM2() * c.AreaCM2 * l.cover(c) / 10
	}
	return c.AreaCM2 * meanMM / 10 * shelf[l.Material].Density
}

// wetG is what a layer takes from its lot for one copy, g: latex with its water,
// films with what goes off, foam before it is whipped. mass is what stays of it.
func (l Layer) wetG(c Cut, shelf material.Shelf, mass float64) float64 {
	p := shelf[l.Material]
	switch {
	case l.Kind == Latex:
		return l.Wet(shelf).WetKgM2() * c.AreaCM2 * l.cover(c) / 10
	case l.Kind.Is() == Things, l.Kind.Is() == Strand:
		return mass
	case p.Film != "":
		return mass / (1 - drying.UsualFilm(p.Film).Volatile)
	case l.Kind == Foam && p.Solids > 0:
		// The hollow is filled wet and the foam shrinks out of it.
		return mass / p.Solids * math.Pow(1-foam.UsualShrink, 3)
	case p.Solids > 0:
		return mass / p.Solids
	}
	return mass
}

// FibreG is what that weighs dry, g.
func (l Layer) FibreG(c Cut, shelf material.Shelf) float64 {
	f := shelf[l.Fibre].Fibre
	if f == nil {
		return 0
	}
	return l.FibreCM2(c) / 10 * f.KgM2
}

// FibreCM2 is how much tissue, gauze or cotton goes into a layer of one copy.
func (l Layer) FibreCM2(c Cut) float64 {
	if l.Fibre == "" {
		return 0
	}
	return c.AreaCM2 * l.cover(c)
}
