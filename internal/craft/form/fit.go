package form

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"yewmoor/internal/craft/refusal"
)

// warp is a template changed by its knobs: scaled as a whole, then moved by
// each knob's shift.
type warp struct {
	base  *grid
	scale float64
	knobs []knob
	by    []float64 // mm, beside knobs
	place map[string]Point
	rings map[string][]Point
}

func still(base *grid, part string) *warp {
	return &warp{base: base, scale: 1, place: landmarks(part), rings: rings(part)}
}

func (w *warp) move(p Vec) Vec {
	out := p.scale(w.scale)
	for i, k := range w.knobs {
		if w.by[i] != 0 {
			out = out.add(k.shift(p).scale(w.by[i]))
		}
	}
	return out
}

func (w *warp) landmark(name string) Vec {
	p := w.place[name]
	return w.move(w.base.at(p.U, p.V))
}

// tape is the length of the hull of a ring in its plane: a tape pulled tight
// bridges hollows.
func (w *warp) tape(name string) float64 {
	ring := w.rings[name]
	flat := make([][2]float64, len(ring))
	for i, p := range ring {
		at := w.move(w.base.at(p.U, p.V))
		flat[i] = [2]float64{at.X, at.Z}
	}
	return hullLength(flat)
}

// hullLength is the circumference of the convex hull (Andrew's monotone chain).
func hullLength(p [][2]float64) float64 {
	slices.SortFunc(p, func(a, b [2]float64) int {
		if a[0] != b[0] {
			if a[0] < b[0] {
				return -1
			}
			return 1
		}
		if a[1] < b[1] {
			return -1
		}
		return 1
	})
	turn := func(o, a, b [2]float64) float64 { return (a[0]-o[0])*(b[1]-o[1]) - (a[1]-o[1])*(b[0]-o[0]) }
	var hull [][2]float64
	half := func(points [][2]float64) {
		from := len(hull)
		for _, q := range points {
			for len(hull) >= from+2 && turn(hull[len(hull)-2], hull[len(hull)-1], q) <= 0 {
				hull = hull[:len(hull)-1]
			}
			hull = append(hull, q)
		}
		hull = hull[:len(hull)-1]
	}
	half(p)
	slices.Reverse(p)
	half(p)
	var sum float64
	for i, a := range hull {
		b := hull[(i+1)%len(hull)]
		sum += math.Hypot(a[0]-b[0], a[1]-b[1])
	}
	return sum
}

// sizing are the measurements that say how large the whole part is; what is not
// measured follows them in proportion. A thick neck makes no larger face.
var sizing = []string{"head_girth", "head_breadth", "head_height", "face_height", "face_breadth", "hand_length", "hand_breadth", "forearm_length"}

// fitTolerance is how near every measurement must come, in mm.
const fitTolerance = 0.1

// fit turns the knobs of the measurements given until each reads what was
// measured: Newton's method with differences, damped.
func fit(base *grid, part string, given map[string]float64) (*warp, error) {
	w := still(base, part)
	var want []float64
	var ratio float64
	var sized int
	for _, m := range Measures() {
		value, ok := given[m.Name]
		if !ok || m.Part != part {
			continue
		}
		if math.IsNaN(value) || value < m.Least || value > m.Most {
			return nil, refusal.New(refusal.OutOfRange, m.Name, "“%s”: %.0f mm cannot be meant; %.0f to %.0f mm can.", m.Text, value, m.Least, m.Most)
		}
		i := slices.IndexFunc(knobs, func(k knob) bool { return k.name == m.Name })
		w.knobs, want = append(w.knobs, knobs[i]), append(want, value)
		if slices.Contains(sizing, m.Name) {
			ratio += math.Log(value / m.Usual)
			sized++
		}
	}
	n := len(want)
	w.by = make([]float64, n)
	if n == 0 {
		return w, nil
	}
	if sized > 0 {
		w.scale = math.Exp(ratio / float64(sized))
	}
	off := func() (residual []float64, worst float64, at int) {
		residual = make([]float64, n)
		for i, k := range w.knobs {
			residual[i] = want[i] - k.read(w)
			if math.Abs(residual[i]) > worst {
				worst, at = math.Abs(residual[i]), i
			}
		}
		return residual, worst, at
	}
	residual, worst, at := off()
	for round := 0; worst > fitTolerance/10 && round < 40; round++ {
		slope := mat.NewDense(n, n, nil)
		for k := range n {
			w.by[k]++
			changed, _, _ := off()
			w.by[k]--
			for i := range n {
				slope.Set(i, k, residual[i]-changed[i])
			}
		}
		var step mat.VecDense
		if err := step.SolveVec(slope, mat.NewVecDense(n, residual)); err != nil {
			break
		}
		before, damp := slices.Clone(w.by), 1.0
		for range 8 {
			for i := range n {
				w.by[i] = before[i] + damp*step.AtVec(i)
			}
			if r, now, where := off(); now < worst {
				residual, worst, at = r, now, where
				break
			}
			damp /= 2
		}
	}
	if worst > fitTolerance {
		m := w.knobs[at]
		return nil, refusal.New(refusal.Contradiction, m.name, "“%s”: %.0f mm does not go with the other measurements. Take it again, or leave it out.", m.text, want[at])
	}
	return w, nil
}

// Read gives every measurement as the form fitted to those given would measure
// it, in mm by name. It refuses what Fit refuses.
func Read(given map[string]float64) (map[string]float64, error) {
	out := map[string]float64{}
	for _, part := range []string{"head", "hand", "forearm", "belly"} {
		base := template(part)
		w, err := fit(&base, part, given)
		if err != nil {
			return nil, err
		}
		for _, k := range knobs {
			if k.part == part {
				out[k.name] = k.read(w)
			}
		}
	}
	return out, nil
}
