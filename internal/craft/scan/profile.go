package scan

import (
	"math"
	"slices"
	"sort"
)

// Profile is how thick an appliance is from its centre out to its edge: mean
// thicknesses in mm at steps+1 places u = 0 … 1 of a round piece of the same
// area, what lies furthest from the edge line counting as the centre. Inside the
// rim it is scaled so that its RoundMean is the measured mean: area × mean stays
// what it is. The last place is the rim as measured, or 0 where the sculpt runs
// out on to the core, thinner there than the scan can tell. After Work; nil when
// there is no edge or nothing over the core.
func (f *Field) Profile(out *Thickness, steps int) []float64 {
	tree, has := edgeTree(out.EdgeLine)
	if !has || steps < 2 {
		return nil
	}
	type place struct{ d2, t, w float64 }
	var list []place
	stack := make([]int32, 0, 128)
	for i, t := range f.T {
		if f.low(int32(i)) || f.outside[i] || f.areas[i] <= 0 {
			continue
		}
		if c, ok := tree.nearestPlace(f.Core.V[i], math.Inf(1), stack); ok {
			list = append(list, place{c.d2, t, f.areas[i]})
		}
	}
	if len(list) == 0 {
		return nil
	}
	slices.SortStableFunc(list, func(a, b place) int {
		switch {
		case a.d2 > b.d2:
			return -1
		case a.d2 < b.d2:
			return 1
		}
		return 0
	})
	// Area and volume from the centre on, so that no step can be empty however
	// coarse the core is.
	area, volume := make([]float64, len(list)+1), make([]float64, len(list)+1)
	for i, p := range list {
		area[i+1], volume[i+1] = area[i]+p.w, volume[i]+p.w*p.t
	}
	total := area[len(list)]
	within := func(u float64) float64 {
		a := total * math.Pow(math.Min(1, math.Max(0, u)), 2)
		i := min(sort.SearchFloat64s(area[1:], a), len(list)-1)
		return volume[i] + (a-area[i])*list[i].t
	}
	profile := make([]float64, steps+1)
	for k := range steps {
		from, to := math.Max(0, float64(k)-0.5)/float64(steps), (float64(k)+0.5)/float64(steps)
		profile[k] = (within(to) - within(from)) / (total * (to*to - from*from))
	}
	if out.EdgeMode == "boundary" {
		profile[steps] = out.EdgeMean
	}
	rim := make([]float64, steps+1)
	rim[steps] = profile[steps]
	if all, edge := RoundMean(profile), RoundMean(rim); all > edge && out.Mean > edge {
		for k := range steps {
			profile[k] *= (out.Mean - edge) / (all - edge)
		}
	}
	return profile
}

// RoundMean is the mean in mm over a round piece of thicknesses at even places
// from its centre to its edge, straight lines between them: ∫ t(u) 2u du.
func RoundMean(profile []float64) float64 {
	sum, h := 0.0, 1/float64(len(profile)-1)
	for k := range len(profile) - 1 {
		a, b := float64(k)*h, float64(k+1)*h
		sum += h / 3 * (profile[k]*(2*a+b) + profile[k+1]*(a+2*b))
	}
	return sum
}
