// Package colour holds the colorimetry of the craft. So far: CIELAB under D65
// to the sRGB of a screen or a printer, for showing a reading.
package colour

import "math"

// SRGB turns CIELAB (D65, 2°) into 8-bit sRGB, clipped to what a screen shows
// (IEC 61966-2-1).
func SRGB(l, a, b float64) (r, g, bl int) {
	fy := (l + 16) / 116
	fx, fz := fy+a/500, fy-b/200
	inverse := func(f float64) float64 {
		if f > 6.0/29 {
			return f * f * f
		}
		return 3 * 36.0 / 841 * (f - 4.0/29)
	}
	x, y, z := 0.95047*inverse(fx), inverse(fy), 1.08883*inverse(fz)
	encode := func(v float64) int {
		v = math.Max(0, math.Min(1, v))
		if v <= 0.0031308 {
			v *= 12.92
		} else {
			v = 1.055*math.Pow(v, 1/2.4) - 0.055
		}
		return int(math.Round(255 * v))
	}
	return encode(3.2404542*x - 1.5371385*y - 0.4985314*z), encode(-0.9692660*x + 1.8760108*y + 0.0415560*z), encode(0.0556434*x - 0.2040259*y + 1.0572252*z)
}
