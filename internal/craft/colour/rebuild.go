package colour

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"yewmoor/internal/craft/refusal"
)

// Rebuilt is a reflectance that was found for a colour without a spectrum: it cannot know
// metamerism.
type Rebuilt struct {
	R      Spectrum
	Method string // smooth or skin
	Skin   Skin
	Left   float64 // ΔE00 that the skin left
}

// Rebuild finds the smoothest reflectance of a colour: smooth from grey, skin from the skin
// that looks most like it, auto (or "") by skin where that comes within 1 ΔE00. Refusals:
// E_RANGE at lab, E_UNREACHABLE where no reflectance has that colour, E_FIELD at method.
func Rebuild(want Lab, method string) (Rebuilt, error) {
	if !(want.L >= 1 && want.L <= 99) {
		return Rebuilt{}, refusal.New("E_RANGE", "lab", "A colour is rebuilt from L* 1 to 99; %.1f is not in it.", want.L)
	}
	out := Rebuilt{Method: method}
	if method != "smooth" {
		if method != "skin" && method != "auto" && method != "" {
			return out, refusal.New("E_FIELD", "method", "A colour is rebuilt smooth, by skin or auto.")
		}
		out.Skin, out.Left = SkinFromLab(want)
		if method != "skin" {
			out.Method = "smooth"
			if out.Left <= 1 {
				out.Method = "skin"
			}
		}
	}
	var z0 Spectrum
	if out.Method == "skin" {
		r := out.Skin.Reflectance()
		for i := range z0 {
			z0[i] = math.Atanh(2*r[i] - 1)
		}
	}
	var err error
	out.R, err = smoothest(want, z0, out.Method == "skin")
	return out, err
}

// smoothest is the reflectance of a colour whose z = atanh(2R − 1) differs most smoothly
// from z0, by Newton on z and three multipliers.
func smoothest(want Lab, z0 Spectrum, anchored bool) (Spectrum, error) {
	const n = Bands + 3
	xyz := want.tristimulus()
	var h [Bands][Bands]float64 // 2 DᵀD
	for i := range Bands - 1 {
		h[i][i] += 2
		h[i+1][i+1] += 2
		h[i][i+1] -= 2
		h[i+1][i] -= 2
	}
	if anchored {
		for i := range Bands {
			h[i][i] += 1e-9
		}
	}
	unreachable := refusal.New("E_UNREACHABLE", "lab", "No reflectance between 0 and 1 has this colour.")
	x := make([]float64, n)
	copy(x, z0[:])
	reflect := func(x []float64) (r Spectrum) {
		for i := range r {
			r[i] = (1 + math.Tanh(x[i])) / 2
		}
		return r
	}
	fill := func(x, f []float64, jac *mat.Dense) float64 {
		r := reflect(x)
		norm := 0.0
		for i := range Bands {
			sech2 := 1 - (2*r[i]-1)*(2*r[i]-1)
			wl := 0.0
			for c := range 3 {
				wl += sums[D65][c][i] * x[Bands+c]
			}
			f[i] = sech2 / 2 * wl
			for j := range Bands {
				f[i] += h[i][j] * (x[j] - z0[j])
				if jac != nil {
					jac.Set(i, j, h[i][j])
				}
			}
			if jac != nil {
				jac.Set(i, i, h[i][i]-(2*r[i]-1)*sech2*wl)
				for c := range 3 {
					jac.Set(i, Bands+c, sech2/2*sums[D65][c][i])
					jac.Set(Bands+c, i, sech2/2*sums[D65][c][i])
				}
			}
			norm += f[i] * f[i]
		}
		got := r.XYZ(D65)
		for c := range 3 {
			f[Bands+c] = got[c] - xyz[c]
			norm += f[Bands+c] * f[Bands+c]
		}
		return math.Sqrt(norm)
	}
	f, ft, xt := make([]float64, n), make([]float64, n), make([]float64, n)
	for range 200 {
		jac := mat.NewDense(n, n, nil)
		norm := fill(x, f, jac)
		if norm < 1e-10 {
			return reflect(x), nil
		}
		var d mat.VecDense
		if err := d.SolveVec(jac, mat.NewVecDense(n, f)); err != nil && math.IsNaN(d.AtVec(0)) {
			return Spectrum{}, unreachable
		}
		most := 0.0
		for i := range Bands {
			most = math.Max(most, math.Abs(d.AtVec(i)))
		}
		step := math.Min(1, 2/math.Max(most, 1e-300))
		for try := 0; ; try++ {
			for i := range x {
				xt[i] = x[i] - step*d.AtVec(i)
			}
			if after := fill(xt, ft, nil); after <= norm || try > 40 {
				if try > 40 && norm < 1e-8 { // as near as numbers come
					return reflect(x), nil
				}
				break
			}
			step /= 2
		}
		copy(x, xt)
		for i := range Bands {
			if math.Abs(x[i]) > 40 || math.IsNaN(x[i]) {
				return Spectrum{}, unreachable
			}
		}
	}
	return Spectrum{}, unreachable
}
