package texture

import (
	"context"
	"math"
	"slices"
)

// Course is the mean height of a drawn relief from the middle of its outline to the
// edge, in mm at so many even places, as a round patch of the same area has it: each
// pixel stands as far out as the share of area that lies further in than it.
func (s *Sheet) Course(ctx context.Context, places int) ([]float64, error) {
	f := *s.Field
	w, h := s.Flat.Size()
	if err := f.measureEdges(ctx, []*shape{&s.Flat.shape}, math.Hypot(w, h)); err != nil {
		return nil, err
	}
	var in []int
	for k, on := range f.In {
		if on {
			in = append(in, k)
		}
	}
	slices.SortFunc(in, func(a, b int) int {
		switch {
		case f.Edge[a] > f.Edge[b]:
			return -1
		case f.Edge[a] < f.Edge[b]:
			return 1
		}
		return a - b
	})
	sum, weight := make([]float64, places), make([]float64, places)
	for i, k := range in {
		u := math.Sqrt((float64(i) + 0.5) / float64(len(in)))
		at := int(math.Round(u * float64(places-1)))
		// By 1/u, so that every stretch of the way out counts alike within its place.
		sum[at] += f.Z[k] / u
		weight[at] += 1 / u
	}
	out := make([]float64, places)
	for i := range out {
		switch {
		case weight[i] > 0:
			out[i] = sum[i] / weight[i]
		case i > 0:
			out[i] = out[i-1]
		}
	}
	return out, nil
}
