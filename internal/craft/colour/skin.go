package colour

import (
	"math"

	"yewmoor/internal/craft/refusal"
)

// Skin is a skin by what is in it (section 3).
type Skin struct {
	Melanin     float64 `json:"melanin" doc:"melanosome share of the epidermis, 0 to 0.6"`
	Blood       float64 `json:"blood" doc:"share of the dermis, 0 to 0.15"`
	Oxygenation float64 `json:"oxygenation" doc:"0 to 1"`
	Yellow      float64 `json:"yellow" doc:"carotene, bilirubin; 0 to 20"`
	Scatter     float64 `json:"scatter" doc:"0.4 to 1.8"`
}

// UsualSkin is one in the middle.
var UsualSkin = Skin{0.07, 0.0144, 0.7, 0.4, 1}

var (
	skinLow  = Skin{0, 0, 0, 0, 0.4}
	skinHigh = Skin{0.6, 0.15, 1, 20, 1.8}
	basis    = columns("skin-basis")
)

func (s Skin) list() []float64 {
	return []float64{s.Melanin, s.Blood, s.Oxygenation, s.Yellow, s.Scatter}
}

func skinOf(v []float64) Skin { return Skin{v[0], v[1], v[2], v[3], v[4]} }

// within clamps a skin to what skins are; clamped says whether it had to.
func (s Skin) within() (out Skin, clamped bool) {
	v, lo, hi := s.list(), skinLow.list(), skinHigh.list()
	for i := range v {
		c := math.Min(hi[i], math.Max(lo[i], v[i]))
		clamped = clamped || c != v[i]
		v[i] = c
	}
	return skinOf(v), clamped
}

var (
	hbOxy, hbDeoxy, bMelanin     = basis["hb_oxy"], basis["hb_deoxy"], basis["melanin"]
	bYellow, bBase               = basis["yellow"], basis["base_absorption"]
	dermisScatter, epidermisScat = basis["dermis_scatter"], basis["epidermis_scatter"]
)

// Reflectance is how it looks.
func (s Skin) Reflectance() (r Spectrum) {
	for i := range r {
		k := 2 * (bBase[i] + s.Blood*(s.Oxygenation*hbOxy[i]+(1-s.Oxygenation)*hbDeoxy[i]) + s.Yellow*bYellow[i])
		dermis := endless(k, s.Scatter*dermisScatter[i])
		r[i], _, _ = film(s.Melanin*bMelanin[i], s.Scatter*epidermisScat[i], 1, dermis)
	}
	return r
}

func (s Skin) ita() float64 {
	r := s.Reflectance()
	deg, _, _ := r.Lab(D65).ITA()
	return deg
}

// AtITA is the skin with as much melanin as gives an angle, degrees. Refuses E_UNREACHABLE
// at ita beyond what melanin can do.
func (s Skin) AtITA(ita float64) (Skin, error) {
	lo, hi := s, s
	lo.Melanin, hi.Melanin = 0, 0.6
	top, bottom := lo.ita(), hi.ita()
	if ita > top || ita < bottom {
		return s, refusal.New("E_UNREACHABLE", "ita", "Melanin alone goes from %.1f to %.1f degrees with this skin; %.1f is outside.",
			bottom, top, ita)
	}
	a, b := 0.0, 0.6
	for range 60 {
		s.Melanin = (a + b) / 2
		if s.ita() > ita {
			a = s.Melanin
		} else {
			b = s.Melanin
		}
	}
	s.Melanin = (a + b) / 2
	return s, nil
}

// TanStep is one step of tan, degrees of ITA along melanin alone.
const TanStep = 5.0

// Tanned is the skin so many steps darker; clamped where melanin came to its end.
func (s Skin) Tanned(steps float64) (out Skin, clamped bool) {
	if steps == 0 {
		return s, false
	}
	want := s.ita() - TanStep*steps
	out, err := s.AtITA(want)
	if err != nil {
		out = s
		out.Melanin = 0.6
		if steps < 0 {
			out.Melanin = 0
		}
		return out, true
	}
	return out, false
}

// regionShift is how a region differs from the forehead.
type regionShift struct{ melanin, blood, oxygenation, yellow, scatter float64 }

var regionShifts = func() map[string]regionShift {
	head, rows := table("regions")
	out := map[string]regionShift{}
	for _, r := range rows {
		out[r[head["region"]]] = regionShift{number(r[head["melanin_x"]]), number(r[head["blood_x"]]),
			number(r[head["oxygenation_add"]]),
			number(r[head["yellow_add"]]), number(r[head["scatter_x"]])}
	}
	return out
}()

// In is the skin of another region of the same person. Refuses E_UNKNOWN_REGION.
func (s Skin) In(region string) (Skin, error) {
	if region == "" {
		return s, nil
	}
	h, known := regionShifts[region]
	if !known {
		return s, refusal.New("E_UNKNOWN_REGION", "region", "There is no shift for %s.", region)
	}
	out, _ := Skin{s.Melanin * h.melanin, s.Blood * h.blood, s.Oxygenation + h.oxygenation, s.Yellow + h.yellow,
		s.Scatter * h.scatter}.within()
	return out, nil
}

// Shifted is the skin with its blood and scattering times something, and its oxygen, yellow
// and melanin more or less, within what skins are.
func (s Skin) Shifted(bloodX, oxygen, yellow, melanin, scatterX float64) Skin {
	out, _ := Skin{s.Melanin + melanin, s.Blood * bloodX, s.Oxygenation + oxygen, s.Yellow + yellow, s.Scatter * scatterX}.within()
	return out
}

// SkinFromLab finds the skin that looks like a colour, by melanin, blood and yellow, and
// the ΔE00 that is left.
func SkinFromLab(want Lab) (Skin, float64) {
	best, cost := UsualSkin, math.Inf(1)
	at := func(x []float64) Skin { return Skin{x[0], x[1], UsualSkin.Oxygenation, x[2], UsualSkin.Scatter} }
	for _, m := range []float64{0.03, 0.10, 0.25} {
		x := []float64{m, 0.015, 0.5}
		c := least(x, []float64{0, 0, 0}, []float64{0.6, 0.15, 20}, 3, 60, func(x, r []float64) {
			s := at(x).Reflectance()
			v := residual(want, s.Lab(D65))
			copy(r, v[:])
		})
		if c < cost {
			best, cost = at(x), c
		}
	}
	return best, math.Sqrt(cost)
}

// SkinFromSpectrum finds the skin of a spectrum by all five, with the rms of ln R.
func SkinFromSpectrum(want *Spectrum) (Skin, float64) {
	start, _ := SkinFromLab(want.Lab(D65))
	x := start.list()
	cost := least(x, skinLow.list(), skinHigh.list(), Bands, 120, func(x, r []float64) {
		s := skinOf(x).Reflectance()
		for i := range r {
			r[i] = math.Log(s[i] / want[i])
		}
	})
	return skinOf(x), math.Sqrt(cost / Bands)
}

// Shifted is a measured skin moved to another region and tan by the ratio of the model.
func Shifted(r Spectrum, region string, steps float64) (out Spectrum, clamped bool, err error) {
	from, _ := SkinFromSpectrum(&r)
	to, err := from.In(region)
	if err != nil {
		return r, false, err
	}
	to, clamped = to.Tanned(steps)
	return from.moved(r, to), clamped, nil
}

// Tans are a measured skin so many steps darker each, fitted once.
func Tans(r Spectrum, steps ...float64) []Spectrum {
	from, _ := SkinFromSpectrum(&r)
	out := make([]Spectrum, len(steps))
	for i, n := range steps {
		to, _ := from.Tanned(n)
		out[i] = from.moved(r, to)
	}
	return out
}

// moved is a measured skin that was fitted by this one, as it is when it is the other.
func (s Skin) moved(r Spectrum, to Skin) (out Spectrum) {
	a, b := s.Reflectance(), to.Reflectance()
	for i := range r {
		out[i] = clip(r[i] * b[i] / a[i])
	}
	return out
}
