package texture

import (
	"context"
	"fmt"
	"strconv"

	"yewmoor/internal/craft/refusal"
)

// ground is where layers are laid: the region with all that keeps marks off.
type ground struct {
	ctx    context.Context
	recipe *Recipe
	flat   *Flat
	clear  []*shape
	areas  map[string]*shape
	guides []guide
}

func digits(i int) string { return strconv.Itoa(i) }

// field names a layer in a refusal, by its place in the recipe.
func (m *Marks) field() string { return "layers[" + digits(m.From) + "]" }

// label names a layer's stream.
func (m *Marks) label(second string) string {
	s := digits(m.Index) + ":" + m.Kind
	if second != "" {
		s += ":" + second
	}
	return s
}

func (g *ground) seed(m *Marks) uint64 {
	if m.layer.Seed != nil {
		return *m.layer.Seed
	}
	return g.recipe.Seed
}

func (g *ground) guide(i int, field string) (*guide, error) {
	if i < 0 || i >= len(g.guides) {
		return nil, refusal.New(BadGuide, field, "There is no guide %d.", i+1)
	}
	return &g.guides[i], nil
}

// takes tells whether a mark may stand at a place.
func (g *ground) takes(p P, m *Marks) bool {
	if !g.flat.shape.holds(p) {
		return false
	}
	for _, c := range g.clear {
		if c.holds(p) {
			return false
		}
	}
	if len(m.layer.On) == 0 {
		return true
	}
	on := false
	for _, id := range m.layer.On {
		on = on || g.areas[id].holds(p)
	}
	return on != m.layer.Outside
}

// clip cuts a line to where the layer may be.
func (g *ground) clip(line []P, m *Marks) [][]P {
	pieces := g.flat.shape.clip(line, true)
	cut := func(s *shape, within bool) {
		var next [][]P
		for _, p := range pieces {
			next = append(next, s.clip(p, within)...)
		}
		pieces = next
	}
	for _, c := range g.clear {
		cut(c, false)
	}
	if len(m.layer.On) == 0 {
		return pieces
	}
	if m.layer.Outside {
		for _, id := range m.layer.On {
			cut(g.areas[id], false)
		}
		return pieces
	}
	// Areas may lie over each other: what the first has, the next does not.
	var out [][]P
	rest := pieces
	for _, id := range m.layer.On {
		pieces = rest
		cut(g.areas[id], true)
		out = append(out, pieces...)
		pieces = rest
		cut(g.areas[id], false)
		rest = pieces
	}
	return out
}

func (r *Recipe) lay(ctx context.Context) (*ground, error) {
	if r.Seed > 1<<53-1 {
		return nil, bad("seed", "A seed lies between 0 and 2^53 - 1.")
	}
	flat, err := r.Region.Lay()
	if err != nil {
		return nil, err
	}
	g := &ground{ctx: ctx, recipe: r, flat: flat, areas: map[string]*shape{}}
	smoothing := or(r.GuideSmoothing, 3)
	if smoothing < 0 || smoothing > 6 {
		return nil, bad("guide_smoothing", "Corners of guides are cut 0 to 6 times.")
	}
	for i, p := range r.Guides {
		one, err := newGuide(p, smoothing, fmt.Sprintf("guides[%d]", i))
		if err != nil {
			return nil, err
		}
		g.guides = append(g.guides, one)
	}
	for i, c := range r.Clear {
		rings, err := checkRings(c.Polygon, nil)
		if err != nil {
			return nil, at(err, fmt.Sprintf("clear[%d]", i))
		}
		s := newShape(rings)
		g.clear = append(g.clear, &s)
	}
	for i, l := range r.Landmarks {
		if !finite(l.At[0]) || !finite(l.At[1]) || !(l.RadiusMM >= 0 && l.RadiusMM < 1000) {
			return nil, refusal.New(BadNumber, fmt.Sprintf("landmarks[%d]", i), "A landmark needs a place, and a radius that is not below 0.")
		}
		if l.RadiusMM > 0 {
			s := newShape([]ring{ellipse(l.At[0], l.At[1], l.RadiusMM, l.RadiusMM)})
			g.clear = append(g.clear, &s)
		}
	}
	for i, a := range r.Areas {
		rings, err := checkRings(a.Polygon, nil)
		if err != nil {
			return nil, at(err, fmt.Sprintf("areas[%d]", i))
		}
		if a.ID == "" || g.areas[a.ID] != nil {
			return nil, bad(fmt.Sprintf("areas[%d].id", i), "Every area needs a name of its own.")
		}
		s := newShape(rings)
		g.areas[a.ID] = &s
	}
	for i, f := range r.Fade {
		if _, err := g.guide(f.Guide, fmt.Sprintf("fade[%d].guide", i)); err != nil {
			return nil, err
		}
		if !(f.OverMM > 0 && f.OverMM < 1000) {
			return nil, bad(fmt.Sprintf("fade[%d].over_mm", i), "The way over which it fades must be above 0 mm.")
		}
	}
	if !(r.FeatherMM >= 0 && r.FeatherMM < 1000) {
		return nil, bad("feather_mm", "The feather must be 0 mm or more.")
	}
	return g, nil
}

// at puts a refusal of a ring at the field that it stands in.
func at(err error, field string) error {
	if no, ok := err.(*refusal.Error); ok {
		return refusal.New(no.Code, field, "%s", no.Detail)
	}
	return err
}
