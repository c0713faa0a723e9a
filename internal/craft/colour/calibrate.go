package colour

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"yewmoor/internal/craft/refusal"
)

// Pair is K and S of one film, x mm, over two backings, exactly; opaque are the bands where
// it hides so well that only K/S is known. Refuses E_SINGULAR where the backings are too
// alike.
func Pair(x float64, overA, overB, a, b Spectrum) (out Coefficients, opaque []int, err error) {
	for i := range Bands {
		if math.Abs(a[i]-b[i]) < 0.1 {
			return out, nil, refusal.New("E_SINGULAR", "white",
				"The two backings are too alike at %d nm to tell absorption from scattering.", 380+10*i)
		}
	}
	for i := range Bands {
		r1, g1, r2, g2 := overA[i], a[i], overB[i], b[i]
		// u (R + g) − v (1 + R g) = g − R
		a11, a12, b1 := r1+g1, -(1 + r1*g1), g1-r1
		a21, a22, b2 := r2+g2, -(1 + r2*g2), g2-r2
		det := a11*a22 - a12*a21
		u, v := (b1*a22-a12*b2)/det, (a11*b2-b1*a21)/det
		ratio := u / v
		root := math.Sqrt(math.Max(0, ratio*ratio-1))
		if math.Abs(r1-r2) < 0.002 || v <= 0 || root*v >= 0.9999 {
			opaque = append(opaque, i)
			r := (r1 + r2) / 2
			out.S[i] = 1
			out.K[i] = (1 - r) * (1 - r) / (2 * r)
			continue
		}
		if root < 1e-6 {
			out.S[i] = v / x
		} else {
			out.S[i] = math.Atanh(root*v) / (root * x)
		}
		out.K[i] = out.S[i] * (ratio - 1)
	}
	return out, opaque, nil
}

// Drawdown is a pigment drawn down: g of it in 100 g of base with what else is known in
// it, x mm thick, read over backings.
type Drawdown struct {
	Amount float64
	Known  []Dose
	X      float64
	Over   []Over
}

// Over is a reading over a backing.
type Over struct{ Backing, R Spectrum }

// Calibrated is a pigment from its drawdowns. Weak are bands where they hardly tell K and
// S apart.
type Calibrated struct {
	Coefficients
	RMS  float64
	Weak []int
}

// Calibrate finds a pigment's K and S from all readings together. Refuses E_READINGS for
// fewer than two.
func Calibrate(base *Base, drawn []Drawdown) (Calibrated, error) {
	var out Calibrated
	n := 0
	for _, d := range drawn {
		n += len(d.Over)
	}
	if n < 2 {
		return out, refusal.New("E_READINGS", "drawdowns", "Two readings at least, over two backings or of two films.")
	}
	grounds := make([]Coefficients, len(drawn))
	for j, d := range drawn {
		var err error
		if grounds[j], err = base.Mixed(d.Known, 0); err != nil {
			return out, err
		}
	}
	total := 0.0
	for i := range Bands {
		of := func(x, r []float64) {
			at := 0
			for j, d := range drawn {
				for _, o := range d.Over {
					v, _, _ := film(grounds[j].K[i]+d.Amount*base.FK*x[0], grounds[j].S[i]+d.Amount*base.FS*x[1], d.X, o.Backing[i])
					r[at] = v - o.R[i]
					at++
				}
			}
		}
		best, x := math.Inf(1), []float64{0, 0}
		for _, k := range []float64{0.02, 0.3, 3} {
			for _, s := range []float64{0.05, 0.5, 3} {
				try := []float64{k, s}
				if c := least(try, []float64{0, 0}, []float64{1e4, 1e4}, n, 80, of); c < best {
					best, x = c, try
				}
			}
		}
		out.K[i], out.S[i] = x[0], x[1]
		total += best
		if weakest(x, n, of) < 2e-4 {
			out.Weak = append(out.Weak, i)
		}
	}
	out.RMS = math.Sqrt(total / float64(n*Bands))
	return out, nil
}

// weakest is the smallest singular value of the slopes, each times its unknown.
func weakest(x []float64, m int, of func(x, r []float64)) float64 {
	jac := mat.NewDense(m, len(x), nil)
	up, down, xt := make([]float64, m), make([]float64, m), make([]float64, len(x))
	for j := range x {
		h := 1e-5 * math.Max(1e-4, x[j])
		copy(xt, x)
		xt[j] = x[j] + h
		of(xt, up)
		xt[j] = math.Max(0, x[j]-h)
		step := x[j] + h - xt[j]
		of(xt, down)
		for i := range m {
			jac.Set(i, j, x[j]*(up[i]-down[i])/step)
		}
	}
	var svd mat.SVD
	if !svd.Factorize(jac, mat.SVDNone) {
		return 0
	}
	v := svd.Values(nil)
	return v[len(v)-1]
}

// scattering is what a class of pigment scatters where nobody measured it, 1/mm for each g
// in 100 g.
var scattering = map[string]float64{"white": 2.4, "inorganic": 0.5, "organic": 0.1, "black": 0.12, "blend": 1.5, "fibre": 0.2,
	"extender": 0.6}

// Single is a pigment from one reading, with S of its class and K for each band; clamped
// are bands where even no absorption is too dark. Refuses E_FIELD at class.
func Single(base *Base, class string, d Drawdown) (out Coefficients, clamped []int, err error) {
	s, known := scattering[class]
	if !known {
		return out, nil, refusal.New("E_FIELD", "class", "There is no class %s of pigment.", class)
	}
	if len(d.Over) == 0 {
		return out, nil, refusal.New("E_READINGS", "drawdowns", "One reading at least.")
	}
	ground, err := base.Mixed(d.Known, 0)
	if err != nil {
		return out, nil, err
	}
	out.S = flat(s)
	for i := range Bands {
		k, ok := absorption(ground.S[i]+d.Amount*base.FS*s, d.X, d.Over[0].Backing[i], d.Over[0].R[i])
		k = (k - ground.K[i]) / (d.Amount * base.FK)
		if !ok || k < 0 {
			k = 0
			clamped = append(clamped, i)
		}
		out.K[i] = k
	}
	return out, clamped, nil
}

// absorption is the K of a film whose S is known that reads r over rg; false where it reads
// brighter than without any.
func absorption(s, x, rg, r float64) (float64, bool) {
	if top, _, _ := film(0, s, x, rg); r > top {
		return 0, false
	}
	lo, hi := 0.0, 1.0
	for v, _, _ := film(hi, s, x, rg); v > r && hi < 1e7; v, _, _ = film(hi, s, x, rg) {
		hi *= 4
	}
	for range 200 {
		mid := (lo + hi) / 2
		if v, _, _ := film(mid, s, x, rg); v > r {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2, true
}
