package fit

import (
	"math"
	"slices"
)

// Segment is a stretch of the day.
type Segment struct {
	Hours    float64
	AirC     float64
	Sweat    string // none, light, heavy
	Exertion string // still, acting, walking, running
}

// Sweats and Exertions are the words of a segment, calmest first.
var (
	Sweats    = []string{"none", "light", "heavy"}
	Exertions = []string{"still", "acting", "walking", "running"}
)

var exertions = map[string]float64{"still": 0.85, "acting": 1, "walking": 1.25, "running": 1.8}

// UsualDay is the day that medians are quoted for.
func UsualDay() Segment { return Segment{Hours: 1, AirC: 22, Sweat: "light", Exertion: "acting"} }

// Part is a stretch of rim that is glued on.
type Part struct {
	ID       string
	Adhesive string
	EdgeMM   float64
	Strain   float64
	Prep     bool // the skin was prepared
	InWindow bool // it was pressed on while the adhesive gripped
	Double   bool
	Rub      bool
	Mouth    bool
	LengthCM float64
}

// UsualEdgeMM is how thick a good rim is.
const UsualEdgeMM = 0.1

// longWearH is over which a wearer is warned, in h.
const longWearH = 14

// Touching is how a part is touched up: when its survival has fallen to At, and what share of its age goes.
type Touching struct{ At, Restore float64 }

// UsualTouching is a touch-up where nobody says more.
var UsualTouching = Touching{0.9, 0.7}

const touchesMost = 20

// Lasting is how long a look holds.
type Lasting struct {
	LookP        float64              `json:"look_p" doc:"chance that every part lasts the day untouched"`
	LookPTouched float64              `json:"look_p_touched"`
	Weakest      string               `json:"weakest"`
	Parts        map[string]PartLasts `json:"parts"`
	TouchH       map[string][]float64 `json:"touch_h" doc:"when to look at and touch up, hours after it went on"`
	Kit          TouchKit             `json:"kit"`
	Warnings     []string             `json:"warnings"`
}

// PartLasts is how long a part holds.
type PartLasts struct {
	Rate     float64 `json:"rate" doc:"how much faster it ages than a good rim"`
	MedianH  float64 `json:"median_h"`
	PLast    float64 `json:"p_last"`
	PTouched float64 `json:"p_touched"`
	Touches  int     `json:"touches"`
}

// TouchKit is what is carried for touching up, in g.
type TouchKit struct {
	Adhesive float64 `json:"adhesive_g"`
	Colour   float64 `json:"colour_g"`
	Powder   float64 `json:"powder_g"`
}

func rate(a Adhesive, s Segment) float64 {
	return math.Pow(a.Q10, math.Max(0, s.AirC-22)/10) * a.Sweat[slices.Index(Sweats, s.Sweat)] * exertions[s.Exertion]
}

func (p Part) own(a Adhesive) float64 {
	out := (1 + p.Strain/a.Strain2) * (1 + math.Max(0, p.EdgeMM-0.1)/0.3)
	for _, f := range []struct {
		is bool
		by float64
	}{{!p.Prep, 2.5}, {!p.InWindow, 2}, {p.Double, 0.6}, {p.Rub, 1.8}, {p.Mouth, 1.5}} {
		if f.is {
			out *= f.by
		}
	}
	return out
}

// eta is the scale of the Weibull course, in h of age.
func eta(a Adhesive) float64 { return a.T50H / math.Pow(math.Ln2, 1/a.K) }

func survival(a Adhesive, age float64) float64 { return math.Exp(-math.Pow(age/eta(a), a.K)) }

// clockAt is when, in h, a part has aged by age since it went on; the last segment goes on.
func clockAt(segments []Segment, a Adhesive, own, age float64) float64 {
	at, aged := 0.0, 0.0
	for i, s := range segments {
		r := rate(a, s) * own
		if step := r * s.Hours; i < len(segments)-1 && aged+step < age {
			at, aged = at+s.Hours, aged+step
			continue
		}
		return at + (age-aged)/r
	}
	return at
}

// Last is how long parts last over a day, and when each is touched up.
func Last(segments []Segment, parts []Part, t Touching) Lasting {
	out := Lasting{LookP: 1, LookPTouched: 1, Parts: map[string]PartLasts{}, TouchH: map[string][]float64{}, Warnings: []string{}}
	least, hours := math.Inf(1), 0.0
	for _, s := range segments {
		hours += s.Hours
		if s.AirC < 0 && !slices.Contains(out.Warnings, "cold") {
			out.Warnings = append(out.Warnings, "cold")
		}
	}
	if hours > longWearH {
		out.Warnings = append(out.Warnings, "long_wear")
	}
	grams := 0.0
	for _, p := range parts {
		a, _ := AdhesiveOf(p.Adhesive)
		own, total := p.own(a), 0.0
		for _, s := range segments {
			total += rate(a, s) * own * s.Hours
		}
		one := PartLasts{Rate: own, MedianH: clockAt(segments, a, own, a.T50H), PLast: survival(a, total)}
		touches, hazard := t.course(a, total)
		at := make([]float64, len(touches))
		for i, age := range touches {
			at[i] = clockAt(segments, a, own, age)
		}
		one.PTouched, one.Touches = math.Exp(-hazard), len(at)
		out.Parts[p.ID], out.TouchH[p.ID] = one, at
		out.LookP *= one.PLast
		out.LookPTouched *= one.PTouched
		if one.PLast < least || one.PLast == least && p.ID < out.Weakest {
			least, out.Weakest = one.PLast, p.ID
		}
		grams += 1.5 * float64(max(1, len(at))) * p.LengthCM
	}
	out.Kit = TouchKit{0.01 * grams, 0.02 * grams, 0.03 * grams}
	return out
}

// course is at which age since it went on a part is touched up, and the hazard that it runs through in
// all. None is touched up from the last shot on.
func (t Touching) course(a Adhesive, total float64) (touches []float64, hazard float64) {
	n := eta(a)
	risk := func(age float64) float64 { return math.Pow(age/n, a.K) }
	start, gone := 0.0, 0.0
	for len(touches) < touchesMost {
		x := n * math.Pow(risk(start)-math.Log(t.At), 1/a.K)
		if gone+x-start >= total-1e-12 {
			break
		}
		gone += x - start
		touches = append(touches, gone)
		hazard -= math.Log(t.At)
		start = (1 - t.Restore) * x
	}
	return touches, hazard + risk(start+total-gone) - risk(start)
}
