// Package compare lays one picture of a piece over another by landmarks, measures what
// differs in shape and colour, and says what that means at a finish grade: section 6 of
// the handbook chapter "Finish and fit". Points are in pixels or mm.
package compare

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"yewmoor/internal/craft/refusal"
)

// P is a point.
type P = [2]float64

// Move takes points of one picture to another: [[a, b, x], [c, d, y]].
type Move [2][3]float64

// Of moves a point.
func (m Move) Of(p P) P {
	return P{m[0][0]*p[0] + m[0][1]*p[1] + m[0][2], m[1][0]*p[0] + m[1][1]*p[1] + m[1][2]}
}

// Back is the move that undoes it; false where it cannot be undone.
func (m Move) Back() (Move, bool) {
	det := m[0][0]*m[1][1] - m[0][1]*m[1][0]
	if math.Abs(det) < 1e-15 {
		return Move{}, false
	}
	a, b, c, d := m[1][1]/det, -m[0][1]/det, -m[1][0]/det, m[0][0]/det
	return Move{{a, b, -(a*m[0][2] + b*m[1][2])}, {c, d, -(c*m[0][2] + d*m[1][2])}}, true
}

// Models of a registration.
const (
	Similarity = "similarity"
	Affine     = "affine"
)

// Registered is how two pictures lie over each other.
type Registered struct {
	Matrix    Move      `json:"matrix"`
	Scale     float64   `json:"scale"`
	Rotation  float64   `json:"rotation_deg"`
	Residuals []float64 `json:"residuals"`
	RMS       float64   `json:"rms"`
	Max       float64   `json:"max"`
	Worst     int       `json:"worst"`
	Suspect   *int      `json:"suspect" doc:"a landmark that lies off what all the others say"`
	Points    []P       `json:"points"`
	Warnings  []string  `json:"warnings" doc:"mirrored, stretched, suspect_point, turned"`
}

func mean(list []P) (m P) {
	for _, p := range list {
		m[0], m[1] = m[0]+p[0], m[1]+p[1]
	}
	n := float64(len(list))
	return P{m[0] / n, m[1] / n}
}

// spread are the singular values of centred points, the larger first.
func spread(list []P) (first, second float64) {
	m := mean(list)
	var xx, xy, yy float64
	for _, p := range list {
		x, y := p[0]-m[0], p[1]-m[1]
		xx, xy, yy = xx+x*x, xy+x*y, yy+y*y
	}
	half, root := (xx+yy)/2, math.Hypot((xx-yy)/2, xy)
	return math.Sqrt(half + root), math.Sqrt(math.Max(0, half-root))
}

// spans says whether points lie apart enough for a model.
func spans(list []P, model string) bool {
	first, second := spread(list)
	m := mean(list)
	if first <= 1e-12*(1+math.Hypot(m[0], m[1])) {
		return false
	}
	return model == Similarity || second >= 1e-6*first
}

// OnLine says whether points lie so nearly on one line that what lies off it is not told:
// they spread less than a fiftieth across it.
func OnLine(list []P) bool {
	first, second := spread(list)
	return second < first/50
}

// fit is the least-squares move.
func fit(from, to []P, model string) Move {
	mf, mt := mean(from), mean(to)
	var ss, dot, cross float64
	var a, s [2][2]float64 // Σ d sᵀ, Σ s sᵀ
	for i := range from {
		sx, sy := from[i][0]-mf[0], from[i][1]-mf[1]
		dx, dy := to[i][0]-mt[0], to[i][1]-mt[1]
		ss += sx*sx + sy*sy
		dot += sx*dx + sy*dy
		cross += sx*dy - sy*dx
		a[0][0], a[0][1], a[1][0], a[1][1] = a[0][0]+dx*sx, a[0][1]+dx*sy, a[1][0]+dy*sx, a[1][1]+dy*sy
		s[0][0], s[0][1], s[1][1] = s[0][0]+sx*sx, s[0][1]+sx*sy, s[1][1]+sy*sy
	}
	var l [2][2]float64
	if model == Similarity {
		l = [2][2]float64{{dot / ss, -cross / ss}, {cross / ss, dot / ss}}
	} else {
		det := s[0][0]*s[1][1] - s[0][1]*s[0][1]
		b := [2][2]float64{{s[1][1] / det, -s[0][1] / det}, {-s[0][1] / det, s[0][0] / det}}
		for i := range 2 {
			for j := range 2 {
				l[i][j] = a[i][0]*b[0][j] + a[i][1]*b[1][j]
			}
		}
	}
	return Move{{l[0][0], l[0][1], mt[0] - l[0][0]*mf[0] - l[0][1]*mf[1]}, {l[1][0], l[1][1], mt[1] - l[1][0]*mf[0] - l[1][1]*mf[1]}}
}

func apart(m Move, from, to P) float64 {
	p := m.Of(from)
	return math.Hypot(p[0]-to[0], p[1]-to[1])
}

// left are the distances that are left, their root mean square, the largest and the
// first that is as large.
func left(m Move, from, to []P) (each []float64, rms, most float64, worst int) {
	for i := range from {
		d := apart(m, from[i], to[i])
		each = append(each, d)
		rms += d * d
		most = math.Max(most, d)
	}
	worst = slices.IndexFunc(each, func(d float64) bool { return d >= most-1e-9 })
	return each, math.Sqrt(rms / float64(len(from))), most, worst
}

// Register lays from over to. Refusals: contradiction at to or from, not_enough_data
// at from.
func Register(from, to []P, model string, points []P) (Registered, error) {
	least := map[string]int{Similarity: 2, Affine: 3}[model]
	switch {
	case len(from) != len(to):
		return Registered{}, refusal.New(refusal.Contradiction, "to", "There are %d landmarks on one picture and %d on the other.", len(from), len(to))
	case len(from) < least:
		return Registered{}, refusal.New(refusal.NotEnoughData, "from", "At least %d landmarks are needed on both pictures.", least)
	case !spans(from, model):
		return Registered{}, refusal.New(refusal.Contradiction, "from", "The landmarks lie on one point or one line: set one well off it.")
	}
	m := fit(from, to, model)
	out := Registered{Matrix: m, Points: []P{}, Warnings: []string{}}
	out.Residuals, out.RMS, out.Max, out.Worst = left(m, from, to)
	det := m[0][0]*m[1][1] - m[0][1]*m[1][0]
	out.Scale = math.Sqrt(math.Abs(det))
	// A pure mirror has no rotation: both sums are nothing but rounding then.
	if sin, cos := m[1][0]-m[0][1], m[0][0]+m[1][1]; math.Hypot(sin, cos) > 1e-9*out.Scale {
		out.Rotation = math.Atan2(sin, cos) * 180 / math.Pi
	}
	out.suspect(from, to, model)
	for _, p := range points {
		out.Points = append(out.Points, m.Of(p))
	}
	var svd mat.SVD
	svd.Factorize(mat.NewDense(2, 2, []float64{m[0][0], m[0][1], m[1][0], m[1][1]}), mat.SVDNone)
	sv := svd.Values(nil)
	for word, is := range map[string]bool{"mirrored": det < 0, "turned": math.Abs(out.Rotation) > 45+1e-9, "stretched": sv[0] > 1.25*sv[1]+1e-9, "suspect_point": out.Suspect != nil} {
		if is {
			out.Warnings = append(out.Warnings, word)
		}
	}
	slices.Sort(out.Warnings)
	return out, nil
}

// suspect asks whether the worst landmark lies off what the others say.
func (r *Registered) suspect(from, to []P, model string) {
	if len(from) < map[string]int{Similarity: 5, Affine: 6}[model] {
		return
	}
	f, t := slices.Delete(slices.Clone(from), r.Worst, r.Worst+1), slices.Delete(slices.Clone(to), r.Worst, r.Worst+1)
	if !spans(f, model) {
		return
	}
	m := fit(f, t, model)
	_, rms, _, _ := left(m, f, t)
	if apart(m, from[r.Worst], to[r.Worst]) > math.Max(3*rms, 2) {
		at := r.Worst
		r.Suspect = &at
	}
}
