package drying

// What one layer of a stack is: its water, how it moves and how far it is.

import (
	"math"
)

// stratum is a layer in the simulation.
type stratum struct {
	film
	u0, d, kappa, rho, uSw, uFilm float64
	from, to                      int     // its cells
	sigma                         float64 // how formed it was when it was covered
	covered                       bool
	dry                           *LayerTimes
	same                          bool // of one material with the one below
}

func (l Layer) stratum() stratum {
	f := l.hold()
	r := l.FillerRatio
	mix := l.WetKgM2()
	rubber := mix * l.Solids / (1 + r)
	other := f.solids - rubber
	s := stratum{film: f, u0: f.water / f.solids, d: math.Exp(f.lnD / f.dry), rho: f.solids / f.dry}
	s.kappa = math.Log(dWet / s.d)
	s.uSw = (0.03*rubber + 0.35*other) / f.solids
	s.uFilm = (0.08*rubber + 0.20*other) / f.solids
	return s
}

// at is Φ(u) in m²/s and D(u), with one exponential.
func (s *stratum) at(u float64) (phi, d float64) {
	if s.kappa < 1e-9 {
		return s.d * u, s.d
	}
	switch {
	case u <= 0:
		return s.d * u, s.d
	case u < uKnee:
		d = s.d * math.Exp(s.kappa*u/uKnee)
		return uKnee / s.kappa * (d - s.d), d
	}
	return uKnee/s.kappa*(dWet-s.d) + dWet*(u-uKnee), dWet
}

// isotherm is the water ratio in balance with an activity, activity the inverse.
func (f film) isotherm(a float64) float64 { return -f.ua * math.Log(1-math.Min(a, 0.999999)) }
func (f film) activity(u float64) float64 { return 1 - math.Exp(-math.Max(u, 0)/f.ua) }

// cellsOf is how many cells a layer has, by how many layers there are in all.
func cellsOf(layers int) int {
	switch {
	case layers <= 1:
		return 12
	case layers <= 4:
		return 8
	case layers <= 8:
		return 6
	case layers <= 16:
		return 4
	}
	return 3
}

// alike says whether two layers are of one material, so that water moves between them
// as inside of one.
func (l Layer) alike(other Layer) bool {
	return l.Solids == other.Solids && l.FillerRatio == other.FillerRatio && l.FibreKgM2 == 0 && other.FibreKgM2 == 0 ||
		l.Solids == other.Solids && l.FillerRatio == other.FillerRatio && l.FibreUptake == other.FibreUptake && l.FibreKgM2*other.WetM == other.FibreKgM2*l.WetM
}

// free is the share of a layer's free water that is left at u.
func (b *bench) free(i int, u []float64) float64 {
	s := &b.strata[i]
	sum := 0.0
	for c := s.from; c < s.to; c++ {
		sum += u[c] * b.width[c]
	}
	// What is free is so to the room as it is now; in a very damp one little is.
	e := math.Min(s.isotherm(b.place().RH), 0.9*s.u0)
	return (sum/s.film.dry - e) / (s.u0 - e)
}

// mean is a layer's mean water ratio.
func (b *bench) mean(s *stratum) float64 {
	sum := 0.0
	for c := s.from; c < s.to; c++ {
		sum += b.u[c] * b.width[c]
	}
	return sum / s.film.dry
}
