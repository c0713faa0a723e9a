package calc

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/refusal"
)

// What is asked of films, mixes, coats over one another and a mottle.

// list reads a number or a list of them.
func (a *asking) list(name string) ([]float64, error) {
	var one float64
	if a.has(name) && json.Unmarshal(a.m[name], &one) == nil {
		return []float64{one}, nil
	}
	var many []float64
	if err := a.need(name, &many); err != nil {
		return nil, err
	}
	return many, nil
}

func filmOf(_ context.Context, a *asking) (any, error) {
	var err error
	var in [3][]float64
	n := 1
	for i, name := range []string{"K", "S", "Rg"} {
		if in[i], err = a.list(name); err != nil {
			return nil, err
		}
		n = max(n, len(in[i]))
		for _, v := range in[i] {
			if v < 0 || math.IsNaN(v) {
				return nil, refusal.New("E_RANGE", name, "%s is not below 0.", name)
			}
		}
	}
	var word string
	endless := a.has("thickness_mm") && json.Unmarshal(a.m["thickness_mm"], &word) == nil && word == "inf"
	x := 0.0
	if !endless {
		if x, err = a.number("thickness_mm", 1, 0, 50); err != nil {
			return nil, err
		}
	}
	r, dk, ds := make([]float64, n), make([]float64, n), make([]float64, n)
	at := func(v []float64, i int) float64 { return v[min(i, len(v)-1)] }
	for i := range n {
		if endless {
			if r[i], err = colour.Endless(at(in[0], i), at(in[1], i)); err != nil {
				return nil, err
			}
			continue
		}
		r[i], dk[i], ds[i] = colour.Film(at(in[0], i), at(in[1], i), x, at(in[2], i))
	}
	return map[string]any{"R": r, "dR_dK": dk, "dR_dS": ds}, nil
}

// doses reads a recipe in the order of the pigment list.
func (a *asking) doses(name string) ([]colour.Dose, error) {
	var m map[string]float64
	if _, err := a.into(name, &m); err != nil {
		return nil, err
	}
	var out []colour.Dose
	for i := range colour.Pigments {
		if g, there := m[colour.Pigments[i].ID]; there {
			if g < 0 || math.IsNaN(g) || math.IsInf(g, 0) {
				return nil, refusal.New("E_RANGE", a.path(name), "An amount is not below 0.")
			}
			out = append(out, colour.Dose{Pigment: colour.Pigments[i].ID, G: g})
			delete(m, colour.Pigments[i].ID)
		}
	}
	for id := range m {
		return nil, refusal.New("E_UNKNOWN_PIGMENT", a.path(name), "There is no pigment %s.", id)
	}
	return out, nil
}

func grams(list []colour.Dose) map[string]float64 {
	out := map[string]float64{}
	for _, d := range list {
		out[d.Pigment] = d.G
	}
	return out
}

func (a *asking) base(def string) (*colour.Base, error) {
	id := def
	if _, err := a.into("base", &id); err != nil {
		return nil, err
	}
	return colour.BaseOf(id)
}

func (a *asking) surface() (*colour.Surface, error) {
	if !a.has("saunderson") {
		return nil, nil
	}
	s := colour.Surface{K1: 0.04, K2: 0.40}
	if _, err := a.into("saunderson", &s); err != nil {
		return nil, err
	}
	if s.K1 < 0 || s.K1 >= 1 || s.K2 < 0 || s.K2 >= 1 {
		return nil, refusal.New("E_RANGE", "saunderson", "k1 and k2 lie between 0 and 1.")
	}
	return &s, nil
}

func mixOf(_ context.Context, a *asking) (any, error) {
	base, err := a.base("silicone")
	if err != nil {
		return nil, err
	}
	recipe, err := a.doses("recipe")
	if err != nil {
		return nil, err
	}
	x, err := a.number("thickness_mm", 3, 0, 50)
	if err != nil {
		return nil, err
	}
	age, err := a.number("age", 0, 0, 1)
	if err != nil {
		return nil, err
	}
	surface, err := a.surface()
	if err != nil {
		return nil, err
	}
	mixed, err := base.Mixed(recipe, age)
	if err != nil {
		return nil, err
	}
	backing, err := a.innerBacking("backing", "black", nil, surface)
	if err != nil {
		return nil, err
	}
	r := mixed.Over(x, &backing)
	for i := range r {
		r[i] = surface.Seen(r[i])
	}
	out := described(&r)
	load := colour.Load(recipe)
	out["K"], out["S"], out["contrast_ratio"], out["load"], out["over_limit"] = mixed.K, mixed.S, mixed.Opacity(x), load, load > base.MaxLoad
	return out, nil
}

// innerBacking is a backing inside of a surface: named ones are that already, what was
// measured in air is turned back.
func (a *asking) innerBacking(name, def string, target *colour.Spectrum, surface *colour.Surface) (colour.Spectrum, error) {
	r, err := a.colourAt(name, def, target)
	if err != nil {
		return r, err
	}
	word := def
	if a.has(name) {
		word = ""
		_ = json.Unmarshal(a.m[name], &word)
	}
	if word == "black" || word == "white" {
		return r, nil
	}
	return surface.Inside(r), nil
}

func stackOf(_ context.Context, a *asking) (any, error) {
	surface, err := a.surface()
	if err != nil {
		return nil, err
	}
	backing, err := a.innerBacking("backing", "black", nil, surface)
	if err != nil {
		return nil, err
	}
	var list []json.RawMessage
	if err := a.need("layers", &list); err != nil {
		return nil, err
	}
	if len(list) > 40 {
		return nil, refusal.New("E_RANGE", "layers", "Forty layers at most.")
	}
	var coats []colour.Coat
	for i, l := range list {
		sub, err := asked(l, fmt.Sprintf("layers[%d]", i))
		if err != nil {
			return nil, err
		}
		c, err := coatOf(sub)
		if err != nil {
			return nil, err
		}
		coats = append(coats, c)
	}
	r, steps := colour.Stack(backing, coats, surface)
	out := described(&r)
	said := []map[string]any{}
	for _, s := range steps {
		said = append(said, map[string]any{"lab_D65": [3]float64{s.Lab.L, s.Lab.A, s.Lab.B}, "covered": s.Covered})
	}
	out["steps"] = said
	return out, nil
}

func coatOf(a *asking) (colour.Coat, error) {
	var c colour.Coat
	base, err := a.base("clear")
	if err != nil {
		return c, err
	}
	recipe, err := a.doses("recipe")
	if err != nil {
		return c, err
	}
	if c.X, err = a.number("thickness_mm", 0.03, 0, 50); err != nil {
		return c, err
	}
	if c.Coverage, err = a.number("coverage", 1, 0, 1); err != nil {
		return c, err
	}
	passes, err := a.number("passes", 1, 1, 100)
	if err != nil {
		return c, err
	}
	age, err := a.number("age", 0, 0, 1)
	if err != nil {
		return c, err
	}
	c.Passes = int(passes)
	if c.Coefficients, err = base.Mixed(recipe, age); err != nil {
		return c, err
	}
	return c, a.done()
}

func mottleOf(_ context.Context, a *asking) (any, error) {
	var list []json.RawMessage
	if err := a.need("patches", &list); err != nil {
		return nil, err
	}
	var patches []colour.Spectrum
	var shares []float64
	for i, l := range list {
		sub, err := asked(l, fmt.Sprintf("patches[%d]", i))
		if err != nil {
			return nil, err
		}
		f, err := sub.number("fraction", 0, 0, 1)
		if err != nil {
			return nil, err
		}
		r, err := sub.colourAt("colour", "", nil)
		if err != nil {
			return nil, err
		}
		patches, shares = append(patches, r), append(shares, f)
	}
	out := map[string]any{}
	if a.has("target") {
		if len(patches) != 2 {
			return nil, refusal.New("E_FIELD", "patches", "For a target there are two patches.")
		}
		target, err := a.colourAt("target", "", nil)
		if err != nil {
			return nil, err
		}
		share, left := colour.Share(patches[0], patches[1], target.Lab(colour.D65))
		shares = []float64{1 - share, share}
		out["fraction"], out["de00"] = share, left
	}
	r, index, err := colour.Mottle(patches, shares)
	if err != nil {
		return nil, err
	}
	for k, v := range described(&r) {
		out[k] = v
	}
	out["mottle_index"] = index
	return out, nil
}
