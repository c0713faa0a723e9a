// Package colour is the colour of the craft (handbook, "Colour"): spectra under
// four lights, CIELAB, sRGB and CIEDE2000, readings of one skin, skin as a model,
// films of pigments in their bases after Kubelka and Munk, layers and mottle,
// recipes that match a target, what to add to a batch that came out wrong, a
// shop's own pigments, and stage blood. On synthetic data made for this project.
package colour

import "math"

// Lab is CIELAB 1976 under D65, 2° observer.
type Lab struct {
	L float64 `json:"l" minimum:"0" maximum:"100"`
	A float64 `json:"a" minimum:"-150" maximum:"150"`
	B float64 `json:"b" minimum:"-150" maximum:"150"`
}

// The white of sRGB (chromaticity 0.3127, 0.3290) and its matrix (IEC
// 61966-2-1).
var white = [3]float64{0.95045593, 1, 1.08905775}

var toLinear = [3][3]float64{
	{3.24096994, -1.53738318, -0.49861076}, {-0.96924364, 1.87596750, 0.04155506}, {0.05563008, -0.20397696, 1.05697151},
}

// toXYZ is the inverse of toLinear.
var toXYZ = invert(toLinear)

func invert(m [3][3]float64) (out [3][3]float64) {
	minor := func(i, j int) float64 {
		a, b, c, d := (i+1)%3, (i+2)%3, (j+1)%3, (j+2)%3
		return m[a][c]*m[b][d] - m[a][d]*m[b][c]
	}
	det := m[0][0]*minor(0, 0) + m[0][1]*minor(0, 1) + m[0][2]*minor(0, 2)
	for i := range 3 {
		for j := range 3 {
			out[j][i] = minor(i, j) / det
		}
	}
	return out
}

func times(m [3][3]float64, v [3]float64) (out [3]float64) {
	for i := range 3 {
		out[i] = m[i][0]*v[0] + m[i][1]*v[1] + m[i][2]*v[2]
	}
	return out
}

// linear is the light of a colour in sRGB's primaries, outside 0…1 where a
// screen cannot show it.
func (c Lab) linear() [3]float64 {
	fy := (c.L + 16) / 116
	inverse := func(f float64) float64 {
		if f*f*f > 216.0/24389 {
			return f * f * f
		}
		return (116*f - 16) * 27 / 24389
	}
	return times(toLinear, [3]float64{white[0] * inverse(fy+c.A/500), white[1] * inverse(fy), white[2] * inverse(fy-c.B/200)})
}

func inGamut(v [3]float64) bool {
	for _, x := range v {
		if x < -1e-9 || x > 1+1e-9 {
			return false
		}
	}
	return true
}

// SRGB is the colour as 8-bit sRGB. Where a screen cannot show it, lightness
// and hue stay and the chroma is lowered until it can; ok is then false.
func (c Lab) SRGB() (rgb [3]int, ok bool) {
	v := c.linear()
	ok = inGamut(v)
	if !ok {
		lo, hi := 0.0, 1.0
		for range 40 {
			mid := (lo + hi) / 2
			if inGamut(Lab{c.L, c.A * mid, c.B * mid}.linear()) {
				lo = mid
			} else {
				hi = mid
			}
		}
		v = Lab{c.L, c.A * lo, c.B * lo}.linear()
	}
	for i, x := range v {
		rgb[i] = encode(math.Max(0, math.Min(1, x)))
	}
	return rgb, ok
}

// encode is the 8-bit code value of a linear share of light, 0 to 1.
func encode(x float64) int {
	if x <= 0.0031308 {
		x *= 12.92
	} else {
		x = 1.055*math.Pow(x, 1/2.4) - 0.055
	}
	return int(255*x + 0.5)
}

// Decode turns one 8-bit code value, 0…255, into its linear share of light.
func Decode(code float64) float64 {
	e := code / 255
	if e <= 0.04045 {
		return e / 12.92
	}
	return math.Pow((e+0.055)/1.055, 2.4)
}

// FromSRGB is the colour that a screen shows for sRGB code values 0…255. From
// a camera it is a guess, unless a grey card stood in the picture.
func FromSRGB(r, g, b float64) Lab { return FromLinear([3]float64{Decode(r), Decode(g), Decode(b)}) }

// FromLinear is the colour of light given in sRGB's primaries, 0…1.
func FromLinear(v [3]float64) Lab {
	xyz := times(toXYZ, v)
	f := func(t float64) float64 {
		if t > 216.0/24389 {
			return math.Cbrt(t)
		}
		return (24389.0/27*t + 16) / 116
	}
	x, y, z := f(xyz[0]/white[0]), f(xyz[1]/white[1]), f(xyz[2]/white[2])
	return Lab{116*y - 16, 500 * (x - y), 200 * (y - z)}
}

// ITA is the individual typology angle of a skin in degrees, and its class.
// ok is false where b* is not above 0: no skin reads like that.
func (c Lab) ITA() (degrees float64, class string, ok bool) {
	degrees = math.Atan2(c.L-50, c.B) * 180 / math.Pi
	for _, limit := range []struct {
		above float64
		class string
	}{{55, "very light"}, {41, "light"}, {28, "intermediate"}, {10, "tan"}, {-30, "brown"}} {
		if degrees > limit.above {
			return degrees, limit.class, c.B > 0
		}
	}
	return degrees, "dark", c.B > 0
}

// DE00 is the colour difference CIEDE2000 with kL = kC = kH = 1 (CIE 142, in
// the form of Sharma, Wu and Dalal 2005).
func DE00(p, q Lab) float64 {
	x, y, z, rt := parts00(p, q)
	return math.Sqrt(x*x + y*y + z*z + rt*y*z)
}

// parts00 are ΔL′/SL, ΔC′/SC, ΔH′/SH and RT of CIEDE2000.
func parts00(p, q Lab) (x, y, z, rt float64) {
	rad, deg := math.Pi/180, 180/math.Pi
	mean := (math.Hypot(p.A, p.B) + math.Hypot(q.A, q.B)) / 2
	seventh := math.Pow(mean, 7)
	g := 0.5 * (1 - math.Sqrt(seventh/(seventh+6103515625)))
	pa, qa := (1+g)*p.A, (1+g)*q.A
	pc, qc := math.Hypot(pa, p.B), math.Hypot(qa, q.B)
	hue := func(a, b float64) float64 {
		h := math.Atan2(b, a) * deg
		if h < 0 {
			h += 360
		}
		return h
	}
	ph, qh := hue(pa, p.B), hue(qa, q.B)
	var dh, hMean float64
	switch apart := math.Abs(ph - qh); {
	case pc == 0 || qc == 0:
		hMean = ph + qh
	case apart <= 180+1e-9:
		dh, hMean = qh-ph, (ph+qh)/2
	default:
		dh = qh - ph
		if dh > 0 {
			dh -= 360
		} else {
			dh += 360
		}
		hMean = (ph + qh) / 2
		if ph+qh < 360 {
			hMean += 180
		} else {
			hMean -= 180
		}
	}
	dL, dC := q.L-p.L, qc-pc
	dH := 2 * math.Sqrt(pc*qc) * math.Sin(dh/2*rad)
	l, c := (p.L+q.L)/2, (pc+qc)/2
	t := 1 - 0.17*math.Cos((hMean-30)*rad) + 0.24*math.Cos(2*hMean*rad) + 0.32*math.Cos((3*hMean+6)*rad) - 0.20*math.Cos((4*hMean-63)*rad)
	sl := 1 + 0.015*(l-50)*(l-50)/math.Sqrt(20+(l-50)*(l-50))
	sc, sh := 1+0.045*c, 1+0.015*c*t
	c7 := math.Pow(c, 7)
	rt = -2 * math.Sqrt(c7/(c7+6103515625)) * math.Sin(60*math.Exp(-math.Pow((hMean-275)/25, 2))*rad)
	return dL / sl, dC / sc, dH / sh, rt
}
