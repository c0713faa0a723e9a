package colour

import (
	"math"

	"gonum.org/v1/gonum/mat"

	"yewmoor/internal/craft/refusal"
)

// Patch is a field of a grey or colour card as a picture shows it and as it is, in sRGB
// code values.
type Patch struct{ Seen, Is [3]float64 }

// Card is a picture's light as it was found from a card that lies in it, and how well that
// puts the card itself right.
type Card struct {
	Model    string // gain, matrix, affine
	Matrix   [3][3]float64
	Offset   [3]float64
	LeftOut  []int   // patches that the picture shows at its end
	RMS      float64 // of linear light, unclamped
	Before   float64 // mean ΔE00 of the patches as they were seen
	Mean     float64 // and put right
	Max      float64
	Quality  string // good, usable, poor
	Warnings []string
}

// leastPatches of each model.
var leastPatches = map[string]int{"gain": 1, "matrix": 4, "affine": 5}

// CardOf finds the light of a picture from its card: gains a channel, a matrix, or a matrix
// with an offset; "auto" takes the matrix where the card has enough fields of different
// colours, else gains. Refusals: not_enough_data and contradiction at patches, unknown_value at model.
func CardOf(patches []Patch, model string) (Card, error) {
	var out Card
	var used []Patch
	for i, p := range patches {
		end := false
		for c := range 3 {
			if !(p.Seen[c] >= 0 && p.Seen[c] <= 255 && p.Is[c] >= 0 && p.Is[c] <= 255) {
				return out, refusal.New(refusal.OutOfRange, "patches", "Values of sRGB lie between 0 and 255.")
			}
			end = end || p.Seen[c] >= 252 || p.Seen[c] <= 3
		}
		if end {
			out.LeftOut = append(out.LeftOut, i)
			continue
		}
		used = append(used, p)
	}
	if len(out.LeftOut) > 0 {
		out.Warnings = append(out.Warnings, "patch_clipped")
	}
	auto := model == "auto" || model == ""
	if auto {
		model = "gain"
		if len(used) >= leastPatches["matrix"] {
			model = "matrix"
		}
	}
	least, known := leastPatches[model]
	switch {
	case !known:
		return out, refusal.New(refusal.UnknownValue, "model", "There is no way “%.12s” of putting a picture right.", model)
	case len(used) < least:
		return out, refusal.New("not_enough_data", "patches", "This takes %d fields of a card that are not burnt out; there are %d.",
			least, len(used))
	}
	apart, err := out.fit(model, used)
	// A card of greys tells its three channels apart by nothing but the rounding of its
	// code values: a matrix fitted to that puts the greys right and every colour wrong.
	if auto && (err != nil || model == "matrix" && apart < leastApart) {
		_, err = out.fit("gain", used)
	}
	if err != nil {
		return out, err
	}
	out.judge(used)
	return out, nil
}

func linearOf(code [3]float64) (v [3]float64) {
	for c := range 3 {
		v[c] = Decode(code[c])
	}
	return v
}

// leastApart is how far, of the largest singular value of a card's fields, the least must be
// for "auto" to take a matrix. Greys with their rounding come to 0.003, colour cards to 0.1. Ours.
const leastApart = 0.02

// fit finds the model's figures; apart is the least singular value of the fields against
// the largest, 1 for gains.
func (k *Card) fit(model string, used []Patch) (apart float64, err error) {
	k.Model, k.Matrix, k.Offset = model, [3][3]float64{}, [3]float64{}
	if model == "gain" {
		for c := range 3 {
			num, den := 0.0, 0.0
			for _, p := range used {
				s, t := Decode(p.Seen[c]), Decode(p.Is[c])
				num += s * t
				den += s * s
			}
			k.Matrix[c][c] = num / den
		}
		return 1, nil
	}
	width := 3
	if model == "affine" {
		width = 4
	}
	seen, is := mat.NewDense(len(used), width, nil), mat.NewDense(len(used), 3, nil)
	for i, p := range used {
		s, t := linearOf(p.Seen), linearOf(p.Is)
		for c := range 3 {
			seen.Set(i, c, s[c])
			is.Set(i, c, t[c])
		}
		if width == 4 {
			seen.Set(i, 3, 1)
		}
	}
	var svd mat.SVD
	if !svd.Factorize(seen, mat.SVDThin) {
		return 0, refusal.New(refusal.Contradiction, "patches", "These fields do not tell the light.")
	}
	values := svd.Values(nil)
	if apart = values[len(values)-1] / values[0]; apart < 1e-4 {
		return apart, refusal.New(refusal.Contradiction, "patches",
			"These fields are too alike to tell one channel from another: take a card with colours, or grey alone.")
	}
	var x mat.Dense
	svd.SolveTo(&x, is, width)
	for to := range 3 {
		for from := range 3 {
			k.Matrix[to][from] = x.At(from, to)
		}
		if width == 4 {
			k.Offset[to] = x.At(3, to)
		}
	}
	return apart, nil
}

// light is linear light put right, unclamped.
func (k *Card) light(seen [3]float64) [3]float64 { return k.unclamped(linearOf(seen)) }

// Linear is linear light, 0 to 1, put right and held within what a screen shows.
func (k *Card) Linear(v [3]float64) [3]float64 {
	out := k.unclamped(v)
	for c := range out {
		out[c] = math.Min(1, math.Max(0, out[c]))
	}
	return out
}

func (k *Card) unclamped(v [3]float64) (out [3]float64) {
	for to := range 3 {
		out[to] = k.Offset[to]
		for from := range 3 {
			out[to] += k.Matrix[to][from] * v[from]
		}
	}
	return out
}

// Right is a pixel put right: its colour, its sRGB code values, and how many channels were
// beyond what a screen shows.
func (k *Card) Right(seen [3]float64) (lab Lab, code [3]int, clamped int) {
	v := k.light(seen)
	for c := range 3 {
		if v[c] < 0 || v[c] > 1 {
			clamped++
		}
		v[c] = math.Min(1, math.Max(0, v[c]))
		code[c] = encode(v[c])
	}
	return FromLinear(v), code, clamped
}

func (k *Card) judge(used []Patch) {
	sum := 0.0
	for _, p := range used {
		is, v := linearOf(p.Is), k.light(p.Seen)
		for c := range 3 {
			sum += (v[c] - is[c]) * (v[c] - is[c])
		}
		want := FromLinear(is)
		k.Before += DE00(FromLinear(linearOf(p.Seen)), want) / float64(len(used))
		lab, _, _ := k.Right(p.Seen)
		off := DE00(lab, want)
		k.Mean += off / float64(len(used))
		k.Max = math.Max(k.Max, off)
	}
	k.RMS = math.Sqrt(sum / float64(3*len(used)))
	switch {
	case k.Mean <= 2 && k.Max <= 4:
		k.Quality = "good"
	case k.Mean <= 4:
		k.Quality = "usable"
	default:
		k.Quality = "poor"
	}
	for c := range 3 {
		if k.Matrix[c][c] < 0.4 || k.Matrix[c][c] > 2.5 {
			k.Warnings = append(k.Warnings, "extreme_light")
			break
		}
	}
}
