package colour

import (
	"embed"
	"encoding/csv"
	"fmt"
	"math"
	"strconv"

	"yewmoor/internal/craft/refusal"
)

// Bands is how many bands a spectrum has: 380 to 730 nm in steps of 10.
const Bands = 36

// Spectrum is a figure at each band: a reflectance 0…1, or K or S in 1/mm.
type Spectrum [Bands]float64

// Light is one that colours are judged under.
type Light int

// The lights: daylight, incandescent, phosphor white and narrow-band fluorescent.
const (
	D65 Light = iota
	A
	LED
	FL11
	lights
)

// LightNames are the lights by their names in an answer.
var LightNames = [lights]string{"D65", "A", "LED", "FL11"}

//go:embed data/*.csv
var data embed.FS

// table reads a data file: its header, and its rows without the remarks.
func table(name string) (head map[string]int, rows [][]string) {
	f, err := data.Open("data/" + name + ".csv")
	if err != nil {
		panic(err) // it is part of the program
	}
	defer f.Close()
	r := csv.NewReader(f)
	r.Comment = '#'
	all, err := r.ReadAll()
	if err != nil {
		panic(fmt.Errorf("reading %s: %w", name, err))
	}
	head = map[string]int{}
	for i, h := range all[0] {
		head[h] = i
	}
	return head, all[1:]
}

func number(text string) float64 {
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		panic(err)
	}
	return v
}

// columns reads a file of one row a band.
func columns(name string) map[string]Spectrum {
	head, rows := table(name)
	out := map[string]Spectrum{}
	for h, at := range head {
		if h == "nm" {
			continue
		}
		var s Spectrum
		for i, row := range rows {
			s[i] = number(row[at])
		}
		out[h] = s
	}
	return out
}

// sums are the tristimulus weights of each light, S·x̄, S·ȳ and S·z̄ times k, 1/100 of
// XYZ a unit of reflectance; whites what they add up to.
var (
	observer [3]Spectrum
	sums     [lights][3]Spectrum
	whites   [lights][3]float64
)

func init() {
	bars, power := columns("observer"), columns("illuminants")
	for c, bar := range []string{"xbar", "ybar", "zbar"} {
		observer[c] = bars[bar]
	}
	for k, name := range LightNames {
		sums[k], whites[k] = weighed(power[name])
	}
}

// weighed are the tristimulus weights of a light by its power, and its white.
func weighed(power Spectrum) (w [3]Spectrum, white [3]float64) {
	total := 0.0
	for i := range Bands {
		total += power[i] * observer[1][i]
	}
	for c := range 3 {
		for i := range Bands {
			w[c][i] = 100 / total * power[i] * observer[c][i]
			white[c] += w[c][i]
		}
	}
	return w, white
}

// XYZ is what a reflectance gives under a light, 100 for white.
func (r *Spectrum) XYZ(k Light) (xyz [3]float64) { return r.seen(&sums[k]) }

func (r *Spectrum) seen(weights *[3]Spectrum) (xyz [3]float64) {
	for c := range 3 {
		w := &weights[c]
		for i := range Bands {
			xyz[c] += w[i] * r[i]
		}
	}
	return xyz
}

// cbrt is f of section 2 with its slope.
func cbrt(t float64) (f, slope float64) {
	if t > 216.0/24389 {
		f = math.Cbrt(t)
		return f, 1 / (3 * f * f)
	}
	return (24389.0/27*t + 16) / 116, 24389.0 / 27 / 116
}

// Lab is the colour of a reflectance under a light, with that light's own white.
func (r *Spectrum) Lab(k Light) Lab { return labOf(r.XYZ(k), &whites[k]) }

func labOf(xyz [3]float64, white *[3]float64) Lab {
	x, _ := cbrt(xyz[0] / white[0])
	y, _ := cbrt(xyz[1] / white[1])
	z, _ := cbrt(xyz[2] / white[2])
	return Lab{116*y - 16, 500 * (x - y), 200 * (y - z)}
}

// LCh is lightness, chroma and hue in degrees 0…360.
func (c Lab) LCh() [3]float64 {
	h := math.Atan2(c.B, c.A) * 180 / math.Pi
	if h < 0 {
		h += 360
	}
	return [3]float64{c.L, math.Hypot(c.A, c.B), h}
}

// tristimulus is the inverse of Lab under D65, 100 for white.
func (c Lab) tristimulus() (xyz [3]float64) {
	fy := (c.L + 16) / 116
	for i, f := range []float64{fy + c.A/500, fy, fy - c.B/200} {
		t := f * f * f
		if t <= 216.0/24389 {
			t = (116*f - 16) * 27 / 24389
		}
		xyz[i] = t * whites[D65][i]
	}
	return xyz
}

// The narrowest and widest that a reflectance is reckoned with.
const darkest, brightest = 0.0005, 0.9995

// Measured takes a spectrum as an instrument gave it: 36 bands from −0.01 to 1.02, clipped.
// Refusals at field: E_BANDS, E_NOT_FINITE, E_PERCENT, E_RANGE.
func Measured(values []float64, field string) (Spectrum, error) {
	var out Spectrum
	if len(values) != Bands {
		return out, refusal.New("E_BANDS", field, "A spectrum has 36 bands, 380 to 730 nm in steps of 10; this has %d.", len(values))
	}
	for i, v := range values {
		switch {
		case math.IsNaN(v) || math.IsInf(v, 0):
			return out, refusal.New("E_NOT_FINITE", fmt.Sprintf("%s[%d]", field, i), "A number is missing at %d nm.", 380+10*i)
		case v > 1.5:
			return out, refusal.New("E_PERCENT", field, "A reflectance lies between 0 and 1; %g at %d nm looks like per cent.", v,
				380+10*i)
		}
	}
	for i, v := range values {
		if v < -0.01 || v > 1.02 {
			return out, refusal.New("E_RANGE", fmt.Sprintf("%s[%d]", field, i),
				"A reflectance lies between 0 and 1; %g at %d nm does not.", v, 380+10*i)
		}
		out[i] = clip(v)
	}
	return out, nil
}

func clip(v float64) float64 { return math.Min(brightest, math.Max(darkest, v)) }

// flat is the same at every band.
func flat(v float64) (s Spectrum) {
	for i := range s {
		s[i] = v
	}
	return s
}

// The named backings.
var (
	Black = flat(0.01)
	White = flat(0.80)
)

// residual is CIEDE2000 as a vector: its length is the difference.
func residual(p, q Lab) [3]float64 {
	x, y, z, rt := parts00(p, q)
	return [3]float64{x, y + rt/2*z, math.Sqrt(1-rt*rt/4) * z}
}
