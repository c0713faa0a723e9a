package fit

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/refusal"
)

// Worn is a piece, film, paint or hair that is taken off.
type Worn struct {
	ID      string
	What    string
	Remover string
	WidthMM float64 // of the largest circle inside
	AreaCM2 float64
	Access  float64 // share of its rim that is reached
	FoamMM  float64 // unsealed foam
	Hair    bool
	Barrier bool
	NearEye bool
}

// Undressing is an evening: who takes off what, from whom.
type Undressing struct {
	Hands     int
	Sensitive bool
	WornH     float64
	Redness   int // 0 none … 3
	AirC      float64
	Pieces    []Worn
}

// Removal is how that is done.
type Removal struct {
	SoakMin    map[string]float64 `json:"soak_min"`
	OffMin     map[string]float64 `json:"off_min"`
	ApplyOrder []string           `json:"apply_order"`
	LiftOrder  []string           `json:"lift_order"`
	CleanMin   float64            `json:"clean_min"`
	TotalMin   float64            `json:"total_min"`
	ML         map[string]float64 `json:"ml"`
	LiftOnly   []string           `json:"lift_only" doc:"lifted only as it loosens"`
	Used       map[string]string  `json:"used"`
	Refused    map[string]string  `json:"refused"`
	RestH      *float64           `json:"rest_h" doc:"before glue goes there again; none where licensed advice comes first"`
	Warnings   []string           `json:"warnings"`
}

// soak is how long a remover creeps in, min.
func (w Worn) soak(d float64) float64 {
	path := w.WidthMM / 2 * math.Min(2, 1/w.Access)
	out := path * math.Min(path, solvents.FrontMM) / d
	if w.FoamMM > 0 {
		out = math.Min(out, w.FoamMM*w.FoamMM/solvents.FoamD+2)
	}
	return out
}

// by is the pair that takes a piece off: near an eye the first whose remover may go there.
func (w Worn) by() (pair, bool) {
	for _, p := range solvents.Pairs {
		if p.What != w.What {
			continue
		}
		r, _ := RemoverOf(p.Remover)
		asked, _ := RemoverOf(w.Remover)
		switch {
		case w.NearEye && asked.Eye == "no":
			if r.Eye != "no" {
				return p, true
			}
		case p.Remover == w.Remover:
			return p, true
		}
	}
	return pair{}, false
}

// TakeOff plans an evening. Refusal: contradiction at a piece's remover that does not take it off.
func TakeOff(u Undressing) (Removal, error) {
	out := Removal{SoakMin: map[string]float64{}, OffMin: map[string]float64{}, ApplyOrder: []string{}, LiftOrder: []string{},
		ML: map[string]float64{}, LiftOnly: []string{}, Used: map[string]string{}, Refused: map[string]string{}, Warnings: []string{}}
	warn := func(is bool, word string) {
		if is && !slices.Contains(out.Warnings, word) {
			out.Warnings = append(out.Warnings, word)
		}
	}
	area, hardest := 0.0, 0.0
	var done []Worn
	for i, w := range u.Pieces {
		if !slices.Contains(TakesOff(w.What), w.Remover) {
			return out, refusal.New(refusal.Contradiction, fmt.Sprintf("pieces[%d].remover", i), "%s does not take %s off.", w.Remover, w.What)
		}
		if slices.Contains([]string{"latex_film", "adhesive_gum", "adhesive_silicone", "adhesive_latex"}, w.What) || w.Hair || !w.Barrier || u.Sensitive {
			out.LiftOnly = append(out.LiftOnly, w.ID)
		}
		warn(u.Sensitive && !w.Barrier, "no_barrier")
		p, may := w.by()
		if !may {
			out.Refused[w.ID] = "eye"
			continue
		}
		r, _ := RemoverOf(p.Remover)
		out.Used[w.ID], out.SoakMin[w.ID] = p.Remover, w.soak(p.D)
		out.ML[p.Remover] += 0.08*w.AreaCM2 + 0.4*w.AreaCM2*w.FoamMM/10
		area += w.AreaCM2
		hardest = math.Max(hardest, map[string]float64{"normal": 2, "harsh": 6}[r.Skin])
		warn(r.Flammable, "flammable")
		warn(u.Sensitive && r.Skin == "harsh", "harsh_remover")
		warn(w.NearEye, "eyes_shut")
		done = append(done, w)
	}
	out.CleanMin = 5 + area/60
	out.TotalMin = out.CleanMin + out.hands(u.Hands, done)
	slices.Sort(out.LiftOnly)
	if u.Redness < 2 {
		rest := 8 + math.Max(0, u.WornH-6)/2 + hardest
		if u.Redness == 1 {
			rest += 12
		}
		if u.Sensitive {
			rest += 6
		}
		out.RestH = &rest
	}
	warn(u.Redness >= 2, "stop_licensed_advice")
	warn(u.WornH > longWearH, "long_wear")
	warn(u.AirC < 0, "cold")
	slices.Sort(out.Warnings)
	return out, nil
}

// hands says in which order so many hands wet and lift, and when the last is off, min.
func (r *Removal) hands(n int, pieces []Worn) float64 {
	free := make([]float64, n)
	first := func() int {
		at := 0
		for i, f := range free {
			if f < free[at] {
				at = i
			}
		}
		return at
	}
	slices.SortFunc(pieces, func(a, b Worn) int {
		return cmp.Or(cmp.Compare(r.SoakMin[b.ID], r.SoakMin[a.ID]), cmp.Compare(a.ID, b.ID))
	})
	loose := map[string]float64{}
	for _, w := range pieces {
		h := first()
		free[h] += 0.5 * w.AreaCM2 / 60
		loose[w.ID] = free[h] + r.SoakMin[w.ID]
		r.ApplyOrder = append(r.ApplyOrder, w.ID)
	}
	slices.SortFunc(pieces, func(a, b Worn) int {
		return cmp.Or(cmp.Compare(loose[a.ID], loose[b.ID]), cmp.Compare(a.ID, b.ID))
	})
	last := 0.0
	for _, w := range pieces {
		h, pace := first(), 1.5
		if w.Hair {
			pace = 3
		}
		free[h] = math.Max(free[h], loose[w.ID]) + pace*w.AreaCM2/60
		r.OffMin[w.ID] = free[h]
		r.LiftOrder = append(r.LiftOrder, w.ID)
		last = math.Max(last, free[h])
	}
	return last
}
