package texture

import (
	"context"
	"fmt"
	"math"

	"yewmoor/internal/craft/refusal"
)

// Sheet is a texture made: the relief, and the marks that make it.
type Sheet struct {
	Recipe Recipe
	Flat   *Flat
	Field  *Field
	Layers []*Marks
	// PlanPitchMM is the pitch that the plan is meant for, when it is drawn
	// coarser to be looked at.
	PlanPitchMM float64
	ground      *ground
}

// expand writes macros out: bark is cracks and fibre.
func (r *Recipe) expand() ([]*Marks, error) {
	if len(r.Layers) == 0 {
		return nil, refusal.New(NoLayers, "layers", "There is no texture yet. Add one.")
	}
	var out []*Marks
	add := func(from int, l Layer) {
		out = append(out, &Marks{Index: len(out), From: from, Kind: l.Kind, layer: l})
	}
	for i, l := range r.Layers {
		known := false
		for _, k := range Kinds {
			known = known || k == l.Kind
		}
		if !known {
			return nil, refusal.New(UnknownLayer, fmt.Sprintf("layers[%d].kind", i), "There is no texture called “%.20s”.", l.Kind)
		}
		for _, id := range l.On {
			found := false
			for _, a := range r.Areas {
				found = found || a.ID == id
			}
			if !found {
				return nil, bad(fmt.Sprintf("layers[%d].on", i), "There is no area “%.24s”.", id)
			}
		}
		if l.Off {
			continue
		}
		if l.Kind != "bark" {
			add(i, l)
			continue
		}
		crack, fibre, err := bark(l, fmt.Sprintf("layers[%d]", i))
		if err != nil {
			return nil, err
		}
		add(i, crack)
		add(i, fibre)
	}
	return out, nil
}

func bark(l Layer, field string) (Layer, Layer, error) {
	r := read{at: field}
	grain := r.num("grain", or(l.Grain, 90), -3600, 3600)
	plate := r.pos("plate", or(l.Plate, 7), 1000)
	groove := r.pos("groove", or(l.Groove, 1.6), 100)
	depth := r.pos("depth", or(l.Depth, Span{1.8, 1.8})[0], 50)
	fibre := r.pos("fibre", or(l.Fibre, 1.5), 1000)
	if r.err != nil {
		return l, l, r.err
	}
	crack, lines := l, l
	crack.Kind, crack.Lattice, crack.Pitch = "cracks", "hex", &plate
	crack.Jitter, crack.Stretch, crack.StretchDir = Ptr(or(l.Jitter, 0.8)), Ptr(or(l.Stretch, 4)), grain
	crack.Width, crack.Depth, crack.Skip, crack.Soften = &groove, &Span{depth, depth}, Ptr(or(l.Skip, 0.15)), Ptr(or(l.Soften, 0.2))
	lines.Kind, lines.Soften = "hatch", nil
	lines.Families = []Family{{Angle: grain, Spacing: Span{fibre, fibre}, Jitter: 0.6, Wiggle: &Span{0.6, 18}, Depth: 0.2 * depth, Width: math.Min(0.6, fibre/2)}}
	return crack, lines, nil
}

// Lay makes the marks of every layer without drawing them.
func (r Recipe) Lay(ctx context.Context) (*Sheet, error) {
	g, err := r.lay(ctx)
	if err != nil {
		return nil, err
	}
	layers, err := r.expand()
	if err != nil {
		return nil, err
	}
	// Every layer draws from streams of its own: they can be made side by side.
	faults := make([]error, len(layers))
	if err := eachOf(ctx, len(layers), func(i int) { faults[i] = g.fill(layers[i]) }); err != nil {
		return nil, err
	}
	for _, err := range faults {
		if err != nil {
			return nil, err
		}
	}
	s := &Sheet{Recipe: r, Flat: g.flat, Layers: layers, ground: g}
	return s, nil
}

// fill makes the marks of one layer on its own stream.
func (g *ground) fill(m *Marks) error {
	draw := NewStream(g.seed(m), m.label(""))
	var err error
	l := &m.layer
	r := read{at: m.field()}
	r.num("soften", or(l.Soften, 0), 0, 20)
	r.num("density", or(l.Density, 1), 0, 1)
	r.num("thin_out_mm", l.ThinOutMM, 0, 1000)
	r.word("combine", l.Combine, "add", "min", "max")
	if r.err != nil {
		return r.err
	}
	switch m.Kind {
	case "hatch":
		err = g.hatch(m, draw)
	case "scales":
		err = g.scales(m, draw)
	case "pores", "droplets", "barnacles", "rot":
		err = g.scatter(m, draw)
	case "wrinkles":
		err = g.wrinkles(m, draw)
	case "cracks":
		err = g.cracks(m, draw)
	case "lines":
		err = g.lines(m)
	case "field":
		if l.Field == nil || !(l.Field.MMPP > 0.001 && l.Field.MMPP < 100) {
			err = bad(m.field()+".field", "Say which height field, and how large its pixels are.")
		}
	}
	if err != nil {
		return err
	}
	if err := g.mirrored(m); err != nil {
		return err
	}
	g.thin(m)
	return nil
}

// thin leaves marks out by density and towards the outline.
func (g *ground) thin(m *Marks) {
	density, out := or(m.layer.Density, 1), m.layer.ThinOutMM
	if density >= 1 && out <= 0 {
		return
	}
	draw := NewStream(g.seed(m), m.label("density"))
	stays := func(p P) bool {
		share := density
		if out > 0 {
			share *= smooth(g.flat.shape.distance(p) / out)
		}
		return draw.U() < share
	}
	m.Strokes = keep(m.Strokes, func(s Stroke) bool { return stays(s.Line[len(s.Line)/2]) })
	m.Impressions = keep(m.Impressions, func(s Impression) bool { return stays(s.At) })
	m.Spots = keep(m.Spots, func(s Spot) bool { return stays(s.At) })
	m.Lumps = keep(m.Lumps, func(s Spot) bool { return stays(s.At) })
	if m.Rescored != nil {
		m.Rescored = keep(m.Rescored, func(s Stroke) bool { return stays(s.Line[len(s.Line)/2]) })
	}
	if m.wholes != nil {
		left := map[int]bool{}
		for _, s := range m.Strokes {
			left[s.Number] = true
		}
		var wholes [][]P
		for i, w := range m.wholes {
			if left[i] {
				wholes = append(wholes, w)
			}
		}
		m.wholes = wholes
	}
}

func keep[T any](list []T, pass func(T) bool) []T {
	var out []T
	for _, x := range list {
		if pass(x) {
			out = append(out, x)
		}
	}
	return out
}

// MakeWithin makes a recipe with at most so many pixels: for looking at, where
// the plan's own pitch would be finer. Marks and counts are the same.
func MakeWithin(ctx context.Context, r Recipe, pixels int) (*Sheet, error) {
	s, err := r.Lay(ctx)
	if err != nil {
		return nil, err
	}
	pitch := or(r.PitchMM, DefaultPitchMM)
	s.PlanPitchMM = pitch
	w, h := s.Flat.Size()
	if least := math.Sqrt(w * h / float64(max(pixels, 16))); pitch > 0 && least > pitch {
		s.Recipe.PitchMM = &least
	}
	return s, s.Draw(ctx)
}

// Make lays and draws a recipe. A grid that is too large is refused before
// anything is laid on it.
func Make(ctx context.Context, r Recipe) (*Sheet, error) {
	flat, err := r.Region.Lay()
	if err != nil {
		return nil, err
	}
	if _, err := newField(flat, or(r.PitchMM, DefaultPitchMM)); err != nil {
		return nil, err
	}
	s, err := r.Lay(ctx)
	if err != nil {
		return nil, err
	}
	return s, s.Draw(ctx)
}

// Check refuses a recipe that cannot be made, without drawing it.
func (r Recipe) Check(ctx context.Context) error {
	s, err := r.Lay(ctx)
	if err != nil {
		return err
	}
	if _, err := newField(s.Flat, or(r.PitchMM, DefaultPitchMM)); err != nil {
		return err
	}
	if _, err := s.fineOf(1); err != nil {
		return err
	}
	if _, err := r.pairs(); err != nil {
		return err
	}
	if r.Paint != nil {
		for i, p := range r.Paint.Layers {
			if err := p.check(fmt.Sprintf("paint.layers[%d]", i)); err != nil {
				return err
			}
		}
	}
	for i, p := range r.Passes {
		if Residue(p.Tool).Words == "" {
			return bad(fmt.Sprintf("passes[%d].tool", i), "There is no way of softening called “%.40s”.", p.Tool)
		}
		if p.Times < 1 || p.Times > 20 {
			return bad(fmt.Sprintf("passes[%d].times", i), "Once to twenty times over.")
		}
	}
	return nil
}

// Guides are the guides as they are followed, smoothed.
func (s *Sheet) Guides() [][]P {
	out := make([][]P, len(s.ground.guides))
	for i, g := range s.ground.guides {
		out[i] = g.p
	}
	return out
}
