package texture

import (
	"context"
	"fmt"
	"math"

	"yewmoor/internal/craft/colour"
)

// Scheme is what goes over a sculpt or a piece: on a sculpt, release and a
// peelable film first, so that the whole of it can be taken off again.
type Scheme struct {
	Release string  `json:"release,omitempty" maxLength:"80"`
	Film    string  `json:"film,omitempty" maxLength:"80"`
	Coats   int     `json:"film_coats,omitempty" minimum:"0" maximum:"20"`
	CoatMM  float64 `json:"film_coat_mm,omitempty" doc:"of one coat, dry; 0.02 when left out"`
	Layers  []Paint `json:"layers" maxItems:"16"`
	// Clay is the colour underneath.
	Clay colour.Lab `json:"clay"`
}

// PaintKinds are the ways of laying paint on, in their usual order.
var PaintKinds = []string{"base", "spatter", "wash", "dry brush", "glaze", "matt"}

// Paint is one layer of colour.
type Paint struct {
	Kind   string     `json:"kind" enum:"base,spatter,wash,dry brush,glaze,matt"`
	Name   string     `json:"name,omitempty" maxLength:"60"`
	Colour colour.Lab `json:"colour"`
	// Strength is how much of it covers where it lies at its strongest.
	Strength float64 `json:"strength" minimum:"0" maximum:"1"`
	// ReachMM is how wide a hollow a wash runs together from, or a ridge that a
	// dry brush catches; 3 mm when left out.
	ReachMM float64 `json:"reach_mm,omitempty"`
	// SizeMM and Share are those of spatter.
	SizeMM float64  `json:"size_mm,omitempty"`
	Share  float64  `json:"share,omitempty"`
	Seed   uint64   `json:"seed,omitempty" maximum:"9007199254740991"`
	On     []string `json:"on,omitempty" maxItems:"20"`
}

// DefaultFilmMM is one coat of peelable film, dry; ours.
const DefaultFilmMM = 0.02

// FilmMM is what release and film together lay over the relief.
func (s Scheme) FilmMM() float64 {
	if s.CoatMM == 0 {
		return DefaultFilmMM * float64(s.Coats)
	}
	return s.CoatMM * float64(s.Coats)
}

// WashOnFlat is how much of a wash's film stays where the ground is flat. Ours.
const WashOnFlat = 0.12

// washFullMM is how far a hollow lies below its surroundings for a wash to fill
// it wholly. Ours.
const washFullMM = 0.25

// Painted is a scheme over a relief: a colour for every pixel and how it reads.
type Painted struct {
	RGB []uint8 `json:"-"` // three a pixel, rows from the lowest up; clay outside the region
	// Reads is the spread of lightness that paint alone gives (standard
	// deviation of L*), and Relief what the relief alone gives in raking light.
	Reads  float64 `json:"paint_contrast" doc:"spread of L* from paint alone"`
	Relief float64 `json:"relief_contrast" doc:"spread of L* from the light alone, 20 degrees low"`
	// By area.
	Areas  []AreaReads `json:"areas"`
	FilmMM float64     `json:"film_mm"`
}

// AreaReads is how an area reads.
type AreaReads struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Paint  float64 `json:"paint_contrast"`
	Relief float64 `json:"relief_contrast"`
}

func (p Paint) check(field string) error {
	r := read{at: field}
	known := false
	for _, k := range PaintKinds {
		known = known || k == p.Kind
	}
	if !known {
		return bad(field+".kind", "There is no way of painting called “%.20s”.", p.Kind)
	}
	r.num("strength", p.Strength, 0, 1)
	r.num("reach_mm", p.ReachMM, 0, 60)
	r.num("size_mm", p.SizeMM, 0, 30)
	r.num("share", p.Share, 0, 1)
	r.num("colour.l", p.Colour.L, 0, 100)
	r.num("colour.a", p.Colour.A, -128, 128)
	r.num("colour.b", p.Colour.B, -128, 128)
	return r.err
}

// Paint lays the recipe's scheme over the relief. A wash is taken up by
// hollows: where the ground lies below its own surroundings. A dry brush is
// caught by ridges, and by slopes less. Colours are mixed in CIELAB, which is
// right for judging and not for weighing pigment.
func (s *Sheet) Paint(ctx context.Context, scheme Scheme) (*Painted, error) {
	f := s.Field
	n := f.NX * f.NY
	out := &Painted{RGB: make([]uint8, 3*n), FilmMM: scheme.FilmMM(), Areas: []AreaReads{}}
	lab := make([]colour.Lab, n)
	for k := range lab {
		lab[k] = scheme.Clay
	}
	relief := map[float64][]float64{}
	for i, p := range scheme.Layers {
		field := fmt.Sprintf("paint.layers[%d]", i)
		if err := p.check(field); err != nil {
			return nil, err
		}
		reach := p.ReachMM
		if reach == 0 {
			reach = 3
		}
		var over []float64
		if p.Kind == "wash" || p.Kind == "dry brush" {
			if relief[reach] == nil {
				var err error
				if relief[reach], err = f.overSurroundings(ctx, reach); err != nil {
					return nil, err
				}
			}
			over = relief[reach]
		}
		var spots []float64
		if p.Kind == "spatter" {
			var err error
			if spots, err = s.spatter(ctx, p, i); err != nil {
				return nil, err
			}
		}
		var areas []*shape
		for _, id := range p.On {
			if s.ground.areas[id] == nil {
				return nil, bad(field+".on", "There is no area “%.24s”.", id)
			}
			areas = append(areas, s.ground.areas[id])
		}
		if err := f.lay(ctx, lab, p, over, spots, areas); err != nil {
			return nil, err
		}
	}
	if err := byRows(ctx, f.NY, func(b band) {
		for k := b.from * f.NX; k < b.to*f.NX; k++ {
			rgb, _ := lab[k].SRGB()
			out.RGB[3*k], out.RGB[3*k+1], out.RGB[3*k+2] = uint8(rgb[0]), uint8(rgb[1]), uint8(rgb[2])
		}
	}); err != nil {
		return nil, err
	}
	s.reads(out, lab)
	return out, nil
}

// overSurroundings is how far each place stands over the mean of its
// surroundings, in mm; below 0 in hollows.
func (f *Field) overSurroundings(ctx context.Context, reach float64) ([]float64, error) {
	mean := append([]float64(nil), f.Z...)
	if err := f.soften(ctx, mean, make([]float64, len(mean)), reach/2); err != nil {
		return nil, err
	}
	for k := range mean {
		mean[k] = f.Z[k] - mean[k]
	}
	return mean, nil
}

// lay puts one layer of paint over what is there.
func (f *Field) lay(ctx context.Context, lab []colour.Lab, p Paint, over, spots []float64, areas []*shape) error {
	return byRows(ctx, f.NY, func(b band) {
		var on []bool
		for j := b.from; j < b.to; j++ {
			if areas != nil {
				on = f.onAreas(on, areas, f.y(j))
			}
			for i := range f.NX {
				k := j*f.NX + i
				if !f.In[k] || areas != nil && !on[i] {
					continue
				}
				share := p.Strength
				switch p.Kind {
				case "wash":
					// A film of it stays on the flat; hollows fill.
					share *= WashOnFlat + (1-WashOnFlat)*smooth(-over[k]/washFullMM)
				case "dry brush":
					share *= smooth((over[k]-0.02)/0.2) * f.level(i, j)
				case "spatter":
					share *= spots[k]
				case "matt":
					// Matting lifts the darks a little and takes nothing else.
					lab[k].L += 4 * share * (1 - lab[k].L/100)
					continue
				}
				c := &lab[k]
				c.L += share * (p.Colour.L - c.L)
				c.A += share * (p.Colour.A - c.A)
				c.B += share * (p.Colour.B - c.B)
			}
		}
	})
}

// level is 1 on the flat and falls with the slope: a dry brush slides off.
func (f *Field) level(i, j int) float64 {
	l, r, d, u := max(0, i-1), min(f.NX-1, i+1), max(0, j-1), min(f.NY-1, j+1)
	gx := (f.Z[j*f.NX+r] - f.Z[j*f.NX+l]) / (float64(max(1, r-l)) * f.H)
	gy := (f.Z[u*f.NX+i] - f.Z[d*f.NX+i]) / (float64(max(1, u-d)) * f.H)
	return 1 / math.Sqrt(1+gx*gx+gy*gy)
}

// spatter scatters flecks on a stream of its own.
func (s *Sheet) spatter(ctx context.Context, p Paint, layer int) ([]float64, error) {
	size, share := p.SizeMM, p.Share
	if size == 0 {
		size = 1
	}
	if share == 0 {
		share = 0.15
	}
	w, h := s.Flat.Size()
	n := math.Ceil(share * w * h / (math.Pi / 4 * size * size))
	if n > MaxPieces {
		return nil, bad(fmt.Sprintf("paint.layers[%d].size_mm", layer), "These flecks are more than %d. Take larger ones or fewer.", MaxPieces)
	}
	draw := NewStream(p.Seed^s.Recipe.Seed, fmt.Sprintf("paint:%d:spatter", layer))
	spots := make([]Spot, int(n))
	for i := range spots {
		spots[i].At = P{s.Flat.X0 + w*draw.U(), s.Flat.Y0 + h*draw.U()}
		spots[i].Diameter = logU(size/2, 2*size, draw.U())
	}
	c := canvas{s.Field, make([]float64, len(s.Field.Z))}
	err := c.spots(ctx, spots, func(s *Spot) float64 { return s.Diameter / 2 }, func(s *Spot, x, y, before float64) float64 {
		f := 2 * math.Sqrt(x*x+y*y) / s.Diameter
		return math.Max(before, smooth(4*(1-f)))
	})
	return c.z, err
}

// reads finds how much of the look comes from paint and how much from relief.
func (s *Sheet) reads(out *Painted, lab []colour.Lab) {
	f := s.Field
	low := Light{315, 20}
	type sum struct{ n, p, p2, r, r2 float64 }
	add := func(t *sum, paint, light float64) {
		t.n++
		t.p += paint
		t.p2 += paint * paint
		t.r += light
		t.r2 += light * light
	}
	var all sum
	areas := make([]sum, len(s.Recipe.Areas))
	var on []bool
	for j := range f.NY {
		inArea := make([][]bool, len(areas))
		for a := range areas {
			on = f.onAreas(nil, []*shape{s.ground.areas[s.Recipe.Areas[a].ID]}, f.y(j))
			inArea[a] = on
		}
		for i := range f.NX {
			k := j*f.NX + i
			if !f.In[k] {
				continue
			}
			paint := lab[k].L
			// L* of a grey that reflects in proportion to the light on it.
			light := 116*math.Cbrt(math.Max(0.008856, float64(f.Shade(i, j, low))/255)) - 16
			add(&all, paint, light)
			for a := range areas {
				if inArea[a][i] {
					add(&areas[a], paint, light)
				}
			}
		}
	}
	sd := func(n, x, x2 float64) float64 {
		if n == 0 {
			return 0
		}
		return math.Sqrt(math.Max(0, x2/n-(x/n)*(x/n)))
	}
	out.Reads, out.Relief = sd(all.n, all.p, all.p2), sd(all.n, all.r, all.r2)
	for a, t := range areas {
		out.Areas = append(out.Areas, AreaReads{s.Recipe.Areas[a].ID, s.Recipe.Areas[a].Name, sd(t.n, t.p, t.p2), sd(t.n, t.r, t.r2)})
	}
}
