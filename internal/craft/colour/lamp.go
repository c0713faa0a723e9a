package colour

import "yewmoor/internal/craft/refusal"

// Lamp is a light that a set is lit with, by its power at each band, on any scale.
type Lamp struct {
	weights [3]Spectrum
	white   [3]float64
}

// LampOf is the light of a power at each band. Refuses E_RANGE at power for what shines
// nowhere, or less than not at all.
func LampOf(power Spectrum) (*Lamp, error) {
	seen := 0.0
	for i, v := range power {
		if !(v >= 0) {
			return nil, refusal.New("E_RANGE", "power", "A lamp shines no less than nothing; %g at %d nm does not.", v, nm(i))
		}
		seen += v * observer[1][i]
	}
	if seen <= 0 {
		return nil, refusal.New("E_RANGE", "power", "Nothing of this light can be seen.")
	}
	var l Lamp
	l.weights, l.white = weighed(power)
	return &l, nil
}

// Standard is one of the standard lights as a lamp.
func Standard(k Light) *Lamp { return &Lamp{sums[k], whites[k]} }

// Under is the colour of a reflectance under a lamp, with the lamp's own white.
func (r *Spectrum) Under(l *Lamp) Lab { return labOf(r.seen(&l.weights), &l.white) }

// nm is the centre of a band.
func nm(band int) int { return 380 + 10*band }

// Tint is white paper under the lamp as a camera balanced for daylight records it: linear
// sRGB, the brightest channel 1, none below 0.
func (l *Lamp) Tint() [3]float64 {
	v := times(toLinear, l.white)
	most := max(v[0], v[1], v[2])
	for i := range v {
		v[i] = max(0, v[i]/most)
	}
	return v
}
