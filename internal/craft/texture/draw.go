package texture

import "math"

// Chance is drawn from one stream per layer (handbook, section 1): never
// shared, never drawn in parallel, so that a seed makes the same plan on every
// machine. Products in what decides a branch stand in float64() of their own,
// so that no compiler fuses them with a sum.

const (
	gamma = 0x9E3779B97F4A7C15
	other = 0xC2B2AE3D27D4EB4F
)

// Stream is a SplitMix64 sequence (Steele, Lea and Flood 2014).
type Stream struct{ s uint64 }

// NewStream begins the stream of a label.
func NewStream(seed uint64, label string) *Stream {
	h := uint64(0xCBF29CE484222325)
	for i := range len(label) {
		h = (h ^ uint64(label[i])) * 0x100000001B3
	}
	return &Stream{seed ^ h}
}

func mix(z uint64) uint64 {
	z = (z ^ z>>30) * 0xBF58476D1CE4E5B9
	z = (z ^ z>>27) * 0x94D049BB133111EB
	return z ^ z>>31
}

// Unit is a draw as a number in [0, 1).
func Unit(x uint64) float64 { return float64(x>>11) * 0x1p-53 }

// State is where the stream stands.
func (s *Stream) State() uint64 { return s.s }

// Next is the next draw.
func (s *Stream) Next() uint64 {
	s.s += gamma
	return mix(s.s)
}

// U draws evenly from [0, 1).
func (s *Stream) U() float64 { return Unit(s.Next()) }

// logU spreads u evenly over the logarithm from a to b.
func logU(a, b, u float64) float64 { return a * math.Pow(b/a, u) }

// expo is e to the x, the same on every machine: the library's own takes
// another path where the processor can fuse a product and a sum. Reduction by
// ln 2 and the rational remainder of FreeBSD's e_exp.c.
func expo(x float64) float64 {
	const (
		ln2Hi = 6.93147180369123816490e-01
		ln2Lo = 1.90821492927058770002e-10
		p1    = 1.66666666666666657415e-01
		p2    = -2.77777777770155933842e-03
		p3    = 6.61375632143793436117e-05
		p4    = -1.65339022054652515390e-06
		p5    = 4.13813679705723846039e-08
	)
	switch {
	case math.IsNaN(x):
		return x
	case x > 700:
		return math.Inf(1)
	case x < -700:
		return 0
	}
	k := math.Floor(float64(x*math.Log2E) + 0.5)
	hi := x - float64(k*ln2Hi)
	lo := float64(k * ln2Lo)
	r := hi - lo
	t := float64(r * r)
	c := r - float64(t*(p1+float64(t*(p2+float64(t*(p3+float64(t*(p4+float64(t*p5)))))))))
	y := 1 - ((lo - float64(r*c)/(2-c)) - hi)
	return math.Ldexp(y, int(k))
}

// smooth is t²(3−2t), held within 0 and 1.
func smooth(t float64) float64 {
	t = math.Max(0, math.Min(1, t))
	return t * t * (3 - 2*t)
}
