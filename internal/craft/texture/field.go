package texture

import (
	"context"
	"math"
	"runtime"
	"sync"

	"yewmoor/internal/craft/refusal"
)

// DefaultPitchMM is the side of a pixel when nobody says.
const DefaultPitchMM = 0.1

// MaxPixels are the most of one field.
const MaxPixels = 1 << 24

// Field is relief over a region: Z holds NX × NY heights in mm, the lowest row
// first; pixels whose centre lies outside the region are 0 and not In.
type Field struct {
	NX, NY int
	H      float64 // side of a pixel, mm
	X0, Y0 float64 // lower left corner
	Z      []float64
	In     []bool
	// Edge is the distance of each pixel's centre to the outline or a hole, mm,
	// as far as it was needed and no further than reach.
	Edge  []float32
	reach float64
}

func newField(f *Flat, h float64) (*Field, error) {
	if !(h > 0) || !finite(h) {
		return nil, refusal.New(BadPitch, "pitch_mm", "The side of a pixel must be above 0 mm.")
	}
	w, tall := f.Size()
	nx, ny := math.Ceil(w/h-1e-9), math.Ceil(tall/h-1e-9)
	if nx*ny > MaxPixels {
		return nil, refusal.New(GridTooLarge, "pitch_mm", "%.0f × %.0f pixels are more than %d million. Take a coarser pitch.", nx, ny, MaxPixels>>20)
	}
	nx, ny = math.Max(1, nx), math.Max(1, ny)
	return &Field{NX: int(nx), NY: int(ny), H: h, X0: f.X0, Y0: f.Y0}, nil
}

// x and y are the centre of a pixel.
func (f *Field) x(i int) float64 { return f.X0 + float64((float64(i)+0.5)*f.H) }
func (f *Field) y(j int) float64 { return f.Y0 + float64((float64(j)+0.5)*f.H) }

// columns are those whose centres may lie in [x0, x1].
func (f *Field) columns(x0, x1 float64) (int, int) {
	return max(0, int(math.Floor((x0-f.X0)/f.H-0.5))), min(f.NX-1, int(math.Ceil((x1-f.X0)/f.H-0.5)))
}

func (f *Field) rows(y0, y1 float64, b band) (int, int) {
	return max(b.from, int(math.Floor((y0-f.Y0)/f.H-0.5))), min(b.to-1, int(math.Ceil((y1-f.Y0)/f.H-0.5)))
}

// band is a run of rows that one worker writes.
type band struct{ from, to int }

// byRows splits the rows over the processors. What a band writes depends on its
// rows alone, so that any number of them gives the same field.
func byRows(ctx context.Context, ny int, work func(b band)) error {
	workers := runtime.GOMAXPROCS(0)
	high := max(8, (ny+4*workers-1)/(4*workers))
	var wg sync.WaitGroup
	gate := make(chan struct{}, workers)
	for from := 0; from < ny; from += high {
		if ctx.Err() != nil {
			break
		}
		gate <- struct{}{}
		wg.Go(func() {
			defer func() { <-gate }()
			work(band{from, min(ny, from+high)})
		})
	}
	wg.Wait()
	return ctx.Err()
}

// eachOf does n things side by side.
func eachOf(ctx context.Context, n int, work func(i int)) error {
	var wg sync.WaitGroup
	gate := make(chan struct{}, runtime.GOMAXPROCS(0))
	for i := range n {
		if ctx.Err() != nil {
			break
		}
		gate <- struct{}{}
		wg.Go(func() {
			defer func() { <-gate }()
			work(i)
		})
	}
	wg.Wait()
	return ctx.Err()
}

// fillMask marks the pixels whose centre lies in the region and in none of the
// clear places.
func (f *Field) fillMask(ctx context.Context, in *shape, clear []*shape) error {
	f.In = make([]bool, f.NX*f.NY)
	return byRows(ctx, f.NY, func(b band) {
		var cuts []float64
		for j := b.from; j < b.to; j++ {
			row := f.In[j*f.NX : (j+1)*f.NX]
			y := f.y(j)
			cuts = in.across(cuts[:0], y)
			for k := 0; k+1 < len(cuts); k += 2 {
				f.run(row, cuts[k], cuts[k+1], true)
			}
			for _, c := range clear {
				cuts = c.across(cuts[:0], y)
				for k := 0; k+1 < len(cuts); k += 2 {
					f.run(row, cuts[k], cuts[k+1], false)
				}
			}
		}
	})
}

func (f *Field) run(row []bool, x0, x1 float64, to bool) {
	i0, i1 := f.columns(x0, x1)
	for i := i0; i <= i1; i++ {
		if x := f.x(i); x >= x0 && x < x1 {
			row[i] = to
		}
	}
}

// across are the places at which the edges cross a height, in order.
func (s *shape) across(out []float64, y float64) []float64 {
	if y < s.y0 || y > s.y1 {
		return out
	}
	for _, i := range s.slabs[s.slab(y)] {
		e := &s.edges[i]
		if (e.a[1] > y) != (e.b[1] > y) {
			x := float64((e.b[0]-e.a[0])*(y-e.a[1]))/(e.b[1]-e.a[1]) + e.a[0]
			k := len(out)
			out = append(out, x)
			for ; k > 0 && out[k-1] > x; k-- {
				out[k-1], out[k] = out[k], out[k-1]
			}
		}
	}
	return out
}

// measureEdges fills Edge up to reach: what lies further in is left at reach.
func (f *Field) measureEdges(ctx context.Context, shapes []*shape, reach float64) error {
	f.reach = reach
	f.Edge = make([]float32, f.NX*f.NY)
	return byRows(ctx, f.NY, func(b band) {
		for k := b.from * f.NX; k < b.to*f.NX; k++ {
			f.Edge[k] = float32(reach * reach)
		}
		for _, s := range shapes {
			for i := range s.edges {
				f.near(b, s.edges[i], reach)
			}
		}
		for k := b.from * f.NX; k < b.to*f.NX; k++ {
			f.Edge[k] = float32(math.Sqrt(float64(f.Edge[k])))
		}
	})
}

func (f *Field) near(b band, e edge, reach float64) {
	j0, j1 := f.rows(math.Min(e.a[1], e.b[1])-reach, math.Max(e.a[1], e.b[1])+reach, b)
	if j0 > j1 {
		return
	}
	i0, i1 := f.columns(math.Min(e.a[0], e.b[0])-reach, math.Max(e.a[0], e.b[0])+reach)
	for j := j0; j <= j1; j++ {
		y := f.y(j)
		for i := i0; i <= i1; i++ {
			k := j*f.NX + i
			if !f.In[k] {
				continue
			}
			if d := float32(toSegment2(P{f.x(i), y}, e.a, e.b)); d < f.Edge[k] {
				f.Edge[k] = d
			}
		}
	}
}

// soften is a Gaussian of σ mm, cut at 3σ, its weights made to sum to one and
// the border repeated.
func (f *Field) soften(ctx context.Context, z, scratch []float64, sigma float64) error {
	radius := int(math.Floor(3*sigma/f.H + 0.5))
	if radius < 1 {
		return ctx.Err()
	}
	weights := make([]float64, 2*radius+1)
	var sum float64
	for k := range weights {
		x := float64(k-radius) * f.H / sigma
		weights[k] = expo(-x * x / 2)
		sum += weights[k]
	}
	for k := range weights {
		weights[k] /= sum
	}
	err := byRows(ctx, f.NY, func(b band) {
		wide := make([]float64, f.NX+2*radius)
		for j := b.from; j < b.to; j++ {
			row := z[j*f.NX : (j+1)*f.NX]
			copy(wide[radius:], row)
			for k := range radius {
				wide[k], wide[radius+f.NX+k] = row[0], row[f.NX-1]
			}
			out := scratch[j*f.NX : (j+1)*f.NX]
			centre := weights[radius]
			for i := range out {
				out[i] = centre * wide[radius+i]
			}
			for k := 1; k <= radius; k++ {
				w, left, right := weights[radius+k], wide[radius-k:], wide[radius+k:]
				for i := range out {
					out[i] += w * (left[i] + right[i])
				}
			}
		}
	})
	if err != nil {
		return err
	}
	return byRows(ctx, f.NY, func(b band) {
		line := func(j int) []float64 {
			j = max(0, min(f.NY-1, j))
			return scratch[j*f.NX : (j+1)*f.NX]
		}
		for j := b.from; j < b.to; j++ {
			out, mid, centre := z[j*f.NX:(j+1)*f.NX], line(j), weights[radius]
			for i := range out {
				out[i] = centre * mid[i]
			}
			for k := 1; k <= radius; k++ {
				w, low, high := weights[radius+k], line(j-k), line(j+k)
				for i := range out {
					out[i] += w * (low[i] + high[i])
				}
			}
		}
	})
}

// At is the height at a place, between the four pixels round it; ok is false
// beside the region.
func (f *Field) At(p P) (mm float64, ok bool) {
	x, y := (p[0]-f.X0)/f.H-0.5, (p[1]-f.Y0)/f.H-0.5
	i, j := int(math.Floor(x)), int(math.Floor(y))
	if i < 0 || j < 0 || i+1 >= f.NX || j+1 >= f.NY || !f.In[j*f.NX+i] {
		return 0, false
	}
	tx, ty := x-float64(i), y-float64(j)
	k := j*f.NX + i
	return (1-ty)*((1-tx)*f.Z[k]+tx*f.Z[k+1]) + ty*((1-tx)*f.Z[k+f.NX]+tx*f.Z[k+f.NX+1]), true
}
