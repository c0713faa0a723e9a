package texture

import (
	"context"
	"math"
)

// Draw makes the relief of the marks that were laid.
func (s *Sheet) Draw(ctx context.Context) error {
	f, err := newField(s.Flat, or(s.Recipe.PitchMM, DefaultPitchMM))
	if err != nil {
		return err
	}
	s.Field = f
	if err := f.fillMask(ctx, &s.Flat.shape, s.ground.clear); err != nil {
		return err
	}
	n := f.NX * f.NY
	f.Z = make([]float64, n)
	layer, scratch := make([]float64, n), []float64(nil)
	for i, m := range s.Layers {
		if i > 0 {
			clear(layer)
		}
		if scratch == nil && (m.layer.Buff > 0 || or(m.layer.Soften, 0) > 0) {
			scratch = make([]float64, n)
		}
		if err := (canvas{f, layer}).layer(ctx, s.ground, m, scratch); err != nil {
			return err
		}
		if err := f.combine(ctx, layer, m, s.ground); err != nil {
			return err
		}
	}
	return s.fade(ctx)
}

// layer draws the marks of one layer into an empty height.
func (c canvas) layer(ctx context.Context, g *ground, m *Marks, scratch []float64) error {
	l := &m.layer
	var err error
	width := func(s *Spot) float64 { return s.Diameter / 2 }
	switch m.Kind {
	case "hatch":
		err = c.grooves(ctx, m.Strokes)
		if err == nil && m.Lumps != nil {
			err = c.spots(ctx, m.Lumps, width, dome)
		}
		if err == nil && l.Buff > 0 {
			err = c.soften(ctx, c.z, scratch, l.Buff)
		}
		if err == nil {
			err = c.grooves(ctx, m.Rescored)
		}
	case "cracks":
		err = c.grooves(ctx, m.Strokes)
	case "scales":
		err = c.scales(ctx, m, or(l.Depth, Span{0.5, 0.5})[0], or(l.Groove, 0.8), l.Dome)
	case "pores":
		el := math.Sqrt(or(l.Elongation, or(l.Stretch, 1)))
		err = c.spots(ctx, m.Spots, func(s *Spot) float64 { return s.Diameter / 2 * math.Max(el, 1/el) }, pit(l))
	case "droplets":
		err = c.spots(ctx, m.Spots, width, drop(or(l.HeightRatio, 0.3)))
	case "barnacles":
		err = c.spots(ctx, m.Spots, width, barnacle(l, g.sagging()))
	case "rot":
		fray := or(l.Fray, 0.25)
		reach := func(s *Spot) float64 { return s.Diameter / 2 * (1 + fray + 0.7) }
		err = c.spots(ctx, m.Spots, reach, hole(or(l.Depth, Span{1, 1})[0], fray))
		if err == nil && l.Lip > 0 {
			err = c.spots(ctx, m.Spots, reach, lipOf(l.Lip, fray, g.sagging()))
		}
	case "wrinkles", "lines":
		up := 1.0
		if l.Raise {
			up = -1
		}
		if len(m.Strokes) > 0 {
			err = c.folds(ctx, m, up)
		}
	case "field":
		err = c.brought(ctx, l.Field)
	}
	if sigma := or(l.Soften, 0); err == nil && sigma > 0 {
		err = c.soften(ctx, c.z, scratch, sigma)
	}
	return err
}

// brought lays a height field that was brought in, between its pixels.
func (c canvas) brought(ctx context.Context, b *Brought) error {
	h := b.Heights
	if h == nil || h.NX < 2 || h.NY < 2 || len(h.MM) != h.NX*h.NY {
		return bad("field", "The height field is not there.")
	}
	times := b.Times
	if times == 0 {
		times = 1
	}
	return byRows(ctx, c.NY, func(rows band) {
		for j := rows.from; j < rows.to; j++ {
			y := (c.y(j)-b.At[1])/b.MMPP - 0.5
			fj := math.Floor(y)
			if fj < 0 || int(fj)+1 >= h.NY {
				continue
			}
			for i := range c.NX {
				x := (c.x(i)-b.At[0])/b.MMPP - 0.5
				fi := math.Floor(x)
				if fi < 0 || int(fi)+1 >= h.NX {
					continue
				}
				tx, ty := x-fi, y-fj
				k := int(fj)*h.NX + int(fi)
				c.z[j*c.NX+i] = times * ((1-ty)*((1-tx)*float64(h.MM[k])+tx*float64(h.MM[k+1])) + ty*((1-tx)*float64(h.MM[k+h.NX])+tx*float64(h.MM[k+h.NX+1])))
			}
		}
	})
}

// combine lays a layer over what is there, within the region and the layer's
// areas.
func (f *Field) combine(ctx context.Context, layer []float64, m *Marks, g *ground) error {
	how := m.layer.Combine
	var areas []*shape
	for _, id := range m.layer.On {
		areas = append(areas, g.areas[id])
	}
	return byRows(ctx, f.NY, func(b band) {
		var on []bool
		for j := b.from; j < b.to; j++ {
			if areas != nil {
				on = f.onAreas(on, areas, f.y(j))
			}
			for i := range f.NX {
				k := j*f.NX + i
				if !f.In[k] || areas != nil && on[i] == m.layer.Outside {
					continue
				}
				switch how {
				case "min":
					f.Z[k] = math.Min(f.Z[k], layer[k])
				case "max":
					f.Z[k] = math.Max(f.Z[k], layer[k])
				default:
					f.Z[k] += layer[k]
				}
			}
		}
	})
}

func (f *Field) onAreas(on []bool, areas []*shape, y float64) []bool {
	if on == nil {
		on = make([]bool, f.NX)
	}
	clear(on)
	var cuts []float64
	for _, a := range areas {
		cuts = a.across(cuts[:0], y)
		for k := 0; k+1 < len(cuts); k += 2 {
			f.run(on, cuts[k], cuts[k+1], true)
		}
	}
	return on
}

// fade brings the relief to nothing at outline, holes, clear places and the
// guides that say so.
func (s *Sheet) fade(ctx context.Context) error {
	f, feather := s.Field, s.Recipe.FeatherMM
	shapes := append([]*shape{&s.Flat.shape}, s.ground.clear...)
	if err := f.measureEdges(ctx, shapes, math.Max(feather, 2*f.H)); err != nil {
		return err
	}
	if feather <= 0 && len(s.Recipe.Fade) == 0 {
		return nil
	}
	return byRows(ctx, f.NY, func(b band) {
		var near []float64
		if len(s.Recipe.Fade) > 0 {
			near = make([]float64, (b.to-b.from)*f.NX)
		}
		if feather > 0 {
			for k := b.from * f.NX; k < b.to*f.NX; k++ {
				if d := float64(f.Edge[k]); d < feather {
					f.Z[k] *= smooth(d / feather)
				}
			}
		}
		for _, fade := range s.Recipe.Fade {
			g := s.ground.guides[fade.Guide]
			over2 := fade.OverMM * fade.OverMM
			for k := range near {
				near[k] = over2
			}
			c := canvas{f, near}
			for i := 0; i+1 < len(g.p); i++ {
				c.nearGuide(b, g.p[i], g.p[i+1], fade.OverMM)
			}
			for k, d2 := range near {
				if d2 < over2 {
					f.Z[b.from*f.NX+k] *= smooth(math.Sqrt(d2) / fade.OverMM)
				}
			}
		}
	})
}

func (c canvas) nearGuide(b band, p, q P, reach float64) {
	j0, j1 := c.rows(math.Min(p[1], q[1])-reach, math.Max(p[1], q[1])+reach, b)
	i0, i1 := c.columns(math.Min(p[0], q[0])-reach, math.Max(p[0], q[0])+reach)
	for j := j0; j <= j1; j++ {
		for i := i0; i <= i1; i++ {
			k := (j-b.from)*c.NX + i
			c.z[k] = math.Min(c.z[k], toSegment2(P{c.x(i), c.y(j)}, p, q))
		}
	}
}
