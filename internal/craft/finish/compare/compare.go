package compare

import (
	"math"
	"slices"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/tables"
	"yewmoor/internal/craft/refusal"
)

// Modes of a comparison.
const (
	Reference = "reference"
	Mirror    = "mirror"
)

// Mark is a landmark on both: a on the copy and b on the reference, or a on the left
// and b on the right. One that is meant to differ is exempt.
type Mark struct {
	ID     string `json:"id"`
	A      P      `json:"a"`
	B      P      `json:"b"`
	Exempt bool   `json:"exempt,omitempty"`
}

// Tone is the colour of one place on both.
type Tone struct {
	ID string     `json:"id"`
	A  colour.Lab `json:"a"`
	B  colour.Lab `json:"b"`
}

// Asked is what is compared, at which grade.
type Asked struct {
	Grade     string
	Mode      string
	MMPerUnit float64 // of b
	Marks     []Mark
	Tones     []Tone
	Edge      *float64 // visibility
	SeamMM    *float64
}

// Verdicts that the figures point to. A person decides.
const (
	Accept    = "accept"
	Repair    = "repair"
	Downgrade = "downgrade"
	Scrap     = "scrap"
)

// Compared is what differs and what that means; figures that were not asked for are nil.
type Compared struct {
	Diffs    map[string]float64 `json:"diffs_mm"`
	RMS      *float64           `json:"rms_mm"`
	Max      *float64           `json:"max_mm"`
	Worst    *string            `json:"worst"`
	Axis     *float64           `json:"axis_deg" doc:"of the line that it is mirrored at"`
	DEMean   *float64           `json:"de_mean"`
	DEP95    *float64           `json:"de_p95"`
	DEMax    *float64           `json:"de_max"`
	Fails    []string           `json:"fails"`
	PassesAs string             `json:"passes_as" enum:"full,good,plain,hidden,none"`
	Verdict  string             `json:"verdict" enum:"accept,repair,downgrade,scrap"`
}

// figure is one measured value with the grade's limit for it.
type figure struct {
	name  string
	value *float64
	limit func(tables.Grade) *float64
}

func (c *Compared) figures(a Asked) []figure {
	return []figure{
		{"rms_mm", c.RMS, func(g tables.Grade) *float64 { return g.RMS }},
		{"max_mm", c.Max, func(g tables.Grade) *float64 { return g.Max }},
		{"de_mean", c.DEMean, func(g tables.Grade) *float64 { return g.DEMean }},
		{"de_max", c.DEMax, func(g tables.Grade) *float64 { return g.DEMax }},
		{"edge", a.Edge, func(g tables.Grade) *float64 { return g.Edge }},
		{"seam_mm", a.SeamMM, func(g tables.Grade) *float64 { return g.Seam }},
	}
}

func fails(list []figure, g tables.Grade) (names []string, within2 bool) {
	names, within2 = []string{}, true
	for _, f := range list {
		limit := f.limit(g)
		if f.value == nil || limit == nil || *f.value <= *limit+1e-9 {
			continue
		}
		names = append(names, f.name)
		within2 = within2 && *f.value <= 2**limit+1e-9
	}
	slices.Sort(names)
	return names, within2
}

// Compare measures. Refusals: unknown_value at grade, missing, not_enough_data and
// contradiction at marks.
func Compare(a Asked) (Compared, error) {
	grade, ok := tables.GradeOf(a.Grade)
	if !ok {
		return Compared{}, refusal.New(refusal.UnknownValue, "grade", "There is no finish grade %s.", a.Grade)
	}
	out := Compared{Diffs: map[string]float64{}}
	if len(a.Marks) == 0 && len(a.Tones) == 0 && a.Edge == nil && a.SeamMM == nil {
		return out, refusal.New(refusal.Missing, "marks", "There is nothing to compare yet.")
	}
	if len(a.Marks) > 0 {
		if err := out.shape(a); err != nil {
			return Compared{}, err
		}
	}
	out.colour(a.Tones)
	list := out.figures(a)
	var near bool
	out.Fails, near = fails(list, grade)
	out.PassesAs = "none"
	for _, g := range tables.Grades() {
		if f, _ := fails(list, g); len(f) == 0 {
			out.PassesAs = g.ID
			break
		}
	}
	switch {
	case len(out.Fails) == 0:
		out.Verdict = Accept
	case near:
		out.Verdict = Repair
	case out.PassesAs != "none":
		out.Verdict = Downgrade
	default:
		out.Verdict = Scrap
	}
	return out, nil
}

// shape measures how far the landmarks lie apart once one lies over the other.
func (c *Compared) shape(a Asked) error {
	var from, to []P
	for _, m := range a.Marks {
		if !m.Exempt {
			from, to = append(from, m.A), append(to, m.B)
		}
	}
	if len(from) < 3 {
		return refusal.New(refusal.NotEnoughData, "marks", "At least three landmarks that count are needed.")
	}
	var over Move
	if a.Mode == Mirror {
		m, axis, ok := reflection(from, to)
		if !ok {
			return refusal.New(refusal.Contradiction, "marks", "These landmarks name no line to mirror at.")
		}
		over, c.Axis = m, &axis
	} else {
		if !spans(from, Similarity) {
			return refusal.New(refusal.Contradiction, "marks", "All the landmarks lie on one point.")
		}
		over = fit(from, to, Similarity)
	}
	sum, most, n := 0.0, 0.0, 0
	for _, m := range a.Marks {
		d := apart(over, m.A, m.B) * a.MMPerUnit
		c.Diffs[m.ID] = d
		if !m.Exempt {
			sum, most, n = sum+d*d, math.Max(most, d), n+1
		}
	}
	rms := math.Sqrt(sum / float64(n))
	c.RMS, c.Max = &rms, &most
	for _, m := range a.Marks {
		if !m.Exempt && c.Diffs[m.ID] >= most-1e-9 {
			id := m.ID
			c.Worst = &id
			break
		}
	}
	return nil
}

// reflection is the best mirror of left to right: normal n is the eigenvector of the
// smaller eigenvalue of 4Σμμᵀ − Σddᵀ.
func reflection(a, b []P) (m Move, axisDeg float64, ok bool) {
	mids := make([]P, len(a))
	for i := range a {
		mids[i] = P{(a[i][0] + b[i][0]) / 2, (a[i][1] + b[i][1]) / 2}
	}
	mid := mean(mids)
	var xx, xy, yy, scale float64
	for i := range a {
		ux, uy := mids[i][0]-mid[0], mids[i][1]-mid[1]
		dx, dy := a[i][0]-b[i][0], a[i][1]-b[i][1]
		xx, xy, yy = xx+4*ux*ux-dx*dx, xy+4*ux*uy-dx*dy, yy+4*uy*uy-dy*dy
		scale += 4*(ux*ux+uy*uy) + dx*dx + dy*dy
	}
	gap := math.Hypot((xx-yy)/2, xy)
	if gap <= 1e-12*math.Max(scale, 1e-300) || scale == 0 {
		return m, 0, false
	}
	// The smaller eigenvalue's eigenvector stands across the larger one's.
	angle := math.Atan2(xy, (xx-yy)/2) / 2
	ny, nx := math.Cos(angle), -math.Sin(angle)
	off := nx*mid[0] + ny*mid[1]
	m = Move{{1 - 2*nx*nx, -2 * nx * ny, 2 * off * nx}, {-2 * nx * ny, 1 - 2*ny*ny, 2 * off * ny}}
	axisDeg = math.Mod(math.Atan2(nx, -ny)*180/math.Pi+360, 180)
	return m, axisDeg, true
}

func (c *Compared) colour(tones []Tone) {
	if len(tones) == 0 {
		return
	}
	var all []float64
	sum := 0.0
	for _, t := range tones {
		d := colour.DE00(t.A, t.B)
		all = append(all, d)
		sum += d
	}
	slices.Sort(all)
	n := len(all)
	mean, p95, most := sum/float64(n), all[int(math.Ceil(0.95*float64(n)-1e-9))-1], all[n-1]
	c.DEMean, c.DEP95, c.DEMax = &mean, &p95, &most
}

// Sampled is how many copies of many to look at.
type Sampled struct {
	Check int     `json:"check"`
	Bad   int     `json:"bad"`
	PFind float64 `json:"p_find"`
}

// Sample is the least number to look at so that with this confidence a bad one is
// found, if that share is bad.
func Sample(copies int, badShare, confidence float64) Sampled {
	bad := max(1, int(math.Ceil(badShare*float64(copies)-1e-9)))
	out := Sampled{Bad: bad}
	none := 1.0
	for k := 0; k <= copies; k++ {
		if 1-none >= confidence-1e-9 {
			out.Check, out.PFind = k, 1-none
			return out
		}
		if k < copies {
			none *= math.Max(0, float64(copies-bad-k)) / float64(copies-k)
		}
	}
	out.Check, out.PFind = copies, 1
	return out
}
