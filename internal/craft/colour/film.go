package colour

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// laid is what a film of K, S in 1/mm and X mm does over any backing (section 6): safe for
// every K, S and X from 0 on.
type laid struct{ s, p, t, tk, ts float64 }

func lay(k, s, x float64) (f laid) {
	g2 := k * (k + 2*s)
	gamma := math.Sqrt(g2)
	gx := gamma * x
	var sech2 float64
	if gx < 1e-4 {
		f.t, sech2 = x*(1-gx*gx/3), 1-gx*gx
	} else {
		e := math.Exp(-2 * gx)
		f.t, sech2 = (1-e)/((1+e)*gamma), 4*e/((1+e)*(1+e))
	}
	var q float64
	if gx < 1e-3 {
		q = x * x * x * (-2.0/3 + 8.0/15*gx*gx)
	} else {
		q = (x*sech2 - f.t) / g2
	}
	f.s, f.p = s, k+s
	f.tk, f.ts = q*f.p, q*k
	return f
}

// over is its reflectance over a backing.
func (f *laid) over(rg float64) float64 {
	return (rg + f.t*(f.s-rg*f.p)) / (1 + f.t*(f.p-rg*f.s))
}

// slopes are those of over by K and by S; r is what over gave.
func (f *laid) slopes(rg, r float64) (dk, ds float64) {
	a, b := f.s-rg*f.p, f.p-rg*f.s
	d := 1 / (1 + f.t*b)
	return (f.tk*a - f.t*rg - r*(f.tk*b+f.t)) * d, (f.ts*a + f.t*(1-rg) - r*(f.ts*b+f.t*(1-rg))) * d
}

// film is the reflectance of a film over rg, with its slopes by K and S.
func film(k, s, x, rg float64) (r, dk, ds float64) {
	f := lay(k, s, x)
	r = f.over(rg)
	dk, ds = f.slopes(rg, r)
	return r, dk, ds
}

// endless is the reflectance of an endless layer; not for S = 0.
func endless(k, s float64) float64 {
	q := k / s
	return 1 / (1 + q + math.Sqrt(q*q+2*q))
}

// Surface is Saunderson's correction for what the outermost surface throws back.
type Surface struct {
	K1       float64 `json:"k1"`
	K2       float64 `json:"k2"`
	Included bool    `json:"included"`
}

// out turns an inner reflectance into what an instrument reads, with its slope.
func (s *Surface) out(r float64) (rm, slope float64) {
	if s == nil {
		return r, 1
	}
	first := 0.0
	if s.Included {
		first = s.K1
	}
	d := 1 - s.K2*r
	return first + (1-s.K1)*(1-s.K2)*r/d, (1 - s.K1) * (1 - s.K2) / (d * d)
}

// in is the inverse of out, for what was measured in air.
func (s *Surface) in(r Spectrum) Spectrum {
	if s == nil {
		return r
	}
	for i, rm := range r {
		m := rm
		if s.Included {
			m -= s.K1
		}
		r[i] = clip(m / ((1-s.K1)*(1-s.K2) + s.K2*m))
	}
	return r
}

// Coefficients are the absorption and scattering of a material, 1/mm.
type Coefficients struct{ K, S Spectrum }

// Over is the material x mm thick over a backing.
func (c *Coefficients) Over(x float64, rg *Spectrum) (r Spectrum) {
	for i := range r {
		f := lay(c.K[i], c.S[i], x)
		r[i] = f.over(rg[i])
	}
	return r
}

// Opacity is its contrast ratio: over black to over white, under D65.
func (c *Coefficients) Opacity(x float64) float64 {
	black, white := c.Over(x, &Black), c.Over(x, &White)
	return black.XYZ(D65)[1] / white.XYZ(D65)[1]
}

// Film is the reflectance of a film of K and S, 1/mm, x mm thick over rg, with its slopes
// by K and by S.
func Film(k, s, x, rg float64) (r, dk, ds float64) { return film(k, s, x, rg) }

// Endless is the reflectance of an endless layer. Refuses E_SINGULAR where it does not
// scatter.
func Endless(k, s float64) (float64, error) {
	if s <= 0 {
		return 0, refusal.New("E_SINGULAR", "S", "An endless layer that does not scatter has no colour of its own.")
	}
	return endless(k, s), nil
}

// Seen is what an instrument reads of an inner reflectance.
func (s *Surface) Seen(r float64) float64 {
	out, _ := s.out(r)
	return out
}

// Inside is the inner reflectance of what was measured in air.
func (s *Surface) Inside(r Spectrum) Spectrum { return s.in(r) }
