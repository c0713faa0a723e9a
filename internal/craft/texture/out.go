package texture

import (
	"context"
	"fmt"
	"math"

	"yewmoor/internal/craft/refusal"
)

// Paper is a page size in mm.
type Paper struct {
	Name string
	W, H float64
}

// Papers that are printed on.
var Papers = []Paper{{"A4", 210, 297}, {"Letter", 215.9, 279.4}}

// Of a page (handbook, section 7).
const (
	MarginMM  = 10.0
	OverlapMM = 10.0
)

// Tiling is how many pages a picture takes.
type Tiling struct {
	Across, Down int
	Landscape    bool
}

// Turn is the word for how the pages lie.
func (t Tiling) Turn() string {
	if t.Landscape {
		return "landscape"
	}
	return "portrait"
}

// Tile says how a picture of a size in mm lies on pages: the fewer sheets, and
// upright when both are as few.
func (p Paper) Tile(w, h float64) Tiling {
	along := func(size, page float64) int {
		free := page - 2*MarginMM
		if size <= free {
			return 1
		}
		return int(math.Ceil((size - OverlapMM) / (free - OverlapMM)))
	}
	up := Tiling{along(w, p.W), along(h, p.H), false}
	flat := Tiling{along(w, p.H), along(h, p.W), true}
	if flat.Across*flat.Down < up.Across*up.Down {
		return flat
	}
	return up
}

// PaperOf finds a page size by name.
func PaperOf(name string) (Paper, error) {
	for _, p := range Papers {
		if p.Name == name {
			return p, nil
		}
	}
	return Paper{}, bad("page", "Print on A4 or Letter.")
}

// steps are the mm that one count of a 16-bit picture can stand for.
var steps = []float64{0.0001, 0.0002, 0.0005, 0.001, 0.002, 0.005}

// ZeroCount is the count of height 0.
const ZeroCount = 32768

// CountMM is the finest step that holds the whole relief in 16 bits.
func (f *Field) CountMM() (float64, error) {
	var most float64
	for _, z := range f.Z {
		most = math.Max(most, math.Abs(z))
	}
	for _, s := range steps {
		if most <= 32767*s {
			return s, nil
		}
	}
	return 0, refusal.New(TooDeep, "layers", "The relief is %.0f mm deep; a 16-bit picture holds up to 163 mm.", most)
}

// Count is a height as a 16-bit picture holds it.
func Count(mm, step float64) uint16 {
	return uint16(math.Max(0, math.Min(65535, ZeroCount+math.Floor(mm/step+0.5))))
}

// Light is where the light comes from: clockwise from up, and how high.
type Light struct {
	Azimuth  float64 `json:"azimuth"`
	Altitude float64 `json:"altitude"`
}

// Raking is the usual light of relief.
var Raking = Light{315, 45}

// Shade is how light a pixel is, 0 to 255, by the slope of the ground there.
func (f *Field) Shade(i, j int, l Light) uint8 {
	slope := func(a, b int, n float64) float64 { return (f.Z[b] - f.Z[a]) / (n * f.H) }
	left, right := max(0, i-1), min(f.NX-1, i+1)
	low, high := max(0, j-1), min(f.NY-1, j+1)
	var gx, gy float64
	if right > left {
		gx = slope(j*f.NX+left, j*f.NX+right, float64(right-left))
	}
	if high > low {
		gy = slope(low*f.NX+i, high*f.NX+i, float64(high-low))
	}
	sinA, cosA := math.Sincos(l.Azimuth * math.Pi / 180)
	sinH, cosH := math.Sincos(l.Altitude * math.Pi / 180)
	dot := (-gx*sinA*cosH - gy*cosA*cosH + sinH) / math.Sqrt(gx*gx+gy*gy+1)
	return uint8(math.Min(255, math.Floor(255*math.Max(0, dot)+0.5)))
}

// DefaultBaseMM is the thickness under the relief of a tile.
const DefaultBaseMM = 8.0

// Solid is a relief as a closed body.
type Solid struct {
	NX, NY int
	HMM    float64
	Base   float64
	Z      []float64
}

// Solid makes a body of every n-th pixel on a flat base.
func (f *Field) Solid(base float64, n int) (Solid, error) {
	n = max(1, n)
	s := Solid{NX: (f.NX-1)/n + 1, NY: (f.NY-1)/n + 1, HMM: f.H * float64(n), Base: base}
	if s.NX < 2 || s.NY < 2 {
		return s, bad("every", "So few pixels make no body.")
	}
	least := 0.0
	for j := range s.NY {
		for i := range s.NX {
			z := f.Z[j*n*f.NX+i*n]
			least = math.Min(least, z)
			s.Z = append(s.Z, z)
		}
	}
	if base+least <= 0.2 {
		return s, refusal.New(BaseTooThin, "base_mm", "Under the deepest place only %.2f mm would be left. Take a base above %.1f mm.", base+least, 0.2-least)
	}
	return s, nil
}

// Triangles is how many the closed body has.
func (s Solid) Triangles() int { return 4*(s.NX-1)*(s.NY-1) + 4*(s.NX-1) + 4*(s.NY-1) }

// Volume is that of the body, mm³.
func (s Solid) Volume() float64 {
	var sum float64
	for j := range s.NY - 1 {
		for i := range s.NX - 1 {
			a, b, c, d := s.Z[j*s.NX+i], s.Z[j*s.NX+i+1], s.Z[(j+1)*s.NX+i+1], s.Z[(j+1)*s.NX+i]
			sum += ((a + b + c) + (a + c + d)) / 6
		}
	}
	return sum*s.HMM*s.HMM + s.Base*float64(s.NX-1)*float64(s.NY-1)*s.HMM*s.HMM
}

// MaxTriangles is the most of one file; beyond it every second, third … pixel
// is taken.
const MaxTriangles = 1_000_000

// Thinning is the least n for which a body of every n-th pixel stays within
// MaxTriangles.
func (f *Field) Thinning() int {
	n := 1
	for (Solid{NX: (f.NX-1)/n + 1, NY: (f.NY-1)/n + 1}).Triangles() > MaxTriangles {
		n++
	}
	return n
}

// NumbersOf are what is known of a relief by itself.
type Relief struct {
	NX           int     `json:"nx"`
	NY           int     `json:"ny"`
	PitchMM      float64 `json:"pitch_mm"`
	AreaMM2      float64 `json:"area_mm2" doc:"of the outline"`
	PerimeterMM  float64 `json:"perimeter_mm"`
	MaskMM2      float64 `json:"mask_mm2" doc:"of the pixels in it"`
	MinMM        float64 `json:"min_mm"`
	MaxMM        float64 `json:"max_mm"`
	MeanMM       float64 `json:"mean_mm"`
	RMSMM        float64 `json:"rms_mm"`
	Coverage     float64 `json:"coverage" doc:"share with 0.02 mm of relief or more"`
	DisplacedMM3 float64 `json:"displaced_mm3" doc:"below 0 where clay is taken away"`
	AddedMM3     float64 `json:"added_mm3"`
	TakenMM3     float64 `json:"taken_mm3"`
	EdgeMM       float64 `json:"edge_mm" doc:"the highest step at the outline"`
}

// coverMM is what counts as relief.
const coverMM = 0.02

type reliefRow struct {
	n, covered                       int
	sum, squares, up, min, max, edge float64
}

func (f *Field) row(j int) reliefRow {
	var r reliefRow
	for k := j * f.NX; k < (j+1)*f.NX; k++ {
		if !f.In[k] {
			continue
		}
		z := f.Z[k]
		r.n++
		r.sum += z
		r.squares += z * z
		if z > 0 {
			r.up += z
		}
		if math.Abs(z) >= coverMM {
			r.covered++
		}
		r.min, r.max = min(r.min, z), max(r.max, z)
		if float64(f.Edge[k]) <= f.H {
			r.edge = max(r.edge, math.Abs(z))
		}
	}
	return r
}

func (s *Sheet) relief() Relief {
	f := s.Field
	r := Relief{NX: f.NX, NY: f.NY, PitchMM: f.H, AreaMM2: s.Flat.Area(), PerimeterMM: s.Flat.Perimeter()}
	// Summed row by row, so that the number of processors changes no digit.
	rows := make([]reliefRow, f.NY)
	_ = byRows(context.Background(), f.NY, func(b band) {
		for j := b.from; j < b.to; j++ {
			rows[j] = f.row(j)
		}
	})
	var sum, squares, up float64
	n, covered := 0, 0
	for _, row := range rows {
		n, covered = n+row.n, covered+row.covered
		sum, squares, up = sum+row.sum, squares+row.squares, up+row.up
		r.MinMM, r.MaxMM, r.EdgeMM = min(r.MinMM, row.min), max(r.MaxMM, row.max), max(r.EdgeMM, row.edge)
	}
	px := f.H * f.H
	r.MaskMM2 = float64(n) * px
	if n > 0 {
		r.MeanMM, r.RMSMM, r.Coverage = sum/float64(n), math.Sqrt(squares/float64(n)), float64(covered)/float64(n)
	}
	r.DisplacedMM3, r.AddedMM3, r.TakenMM3 = sum*px, up*px, (up-sum)*px
	return r
}

// name of a line tool: kind and width.
func tool(kind string, width float64) string { return fmt.Sprintf("%s %.2f mm", kind, width) }
