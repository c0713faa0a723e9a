package calc

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/refusal"
)

// What is asked of matches, corrections, batches and the calibration of pigments.

// asks reads what a match asks.
func (a *asking) asks() (colour.Asked, error) {
	var q colour.Asked
	var err error
	if q.Base, err = a.base("silicone"); err != nil {
		return q, err
	}
	if !a.has("target") {
		return q, refusal.New("E_FIELD", "target", "target is missing.")
	}
	if q.Target, err = a.colourAt("target", "", nil); err != nil {
		return q, err
	}
	if q.Surface, err = a.surface(); err != nil {
		return q, err
	}
	if q.Backing, err = a.innerBacking("backing", "target", &q.Target, q.Surface); err != nil {
		return q, err
	}
	for _, f := range []struct {
		name        string
		v           *float64
		def, lo, hi float64
	}{{"thickness_mm", &q.X, 3, 0.005, 50}, {"age", &q.Age, 0, 0, 1}, {"batch_base_g", &q.BatchG, 100, 0.5, 1e6},
		{"scale_resolution_g", &q.ResolutionG, 0.01, 1e-6, 100}, {"min_weigh_g", &q.MinWeighG, 0, 0, 1000},
		{"max_load", &q.MaxLoad, 0, 0, 100},
		{"opacity_min", &q.OpacityMin, 0, 0, 1}, {"opacity_max", &q.OpacityMax, 1, 0, 1},
		{"metamerism_weight", &q.Metamerism, 0.25, 0, 10}} {
		if *f.v, err = a.number(f.name, f.def, f.lo, f.hi); err != nil {
			return q, err
		}
	}
	most, err := a.number("max_pigments", 4, 1, 5)
	if err != nil {
		return q, err
	}
	q.Most = int(most)
	mode := "scale"
	if _, err := a.into("mode", &mode); err != nil {
		return q, err
	}
	q.Drops = mode == "drops"
	if mode != "drops" && mode != "scale" {
		return q, refusal.New("E_FIELD", "mode", "A recipe is weighed on a scale or counted in drops.")
	}
	if q.Fixed, err = a.doses("fixed"); err != nil {
		return q, err
	}
	q.Pigments, err = a.pigments()
	return q, err
}

func (a *asking) pigments() ([]*colour.Pigment, error) {
	var ids []string
	there, err := a.into("pigments", &ids)
	if err != nil {
		return nil, err
	}
	if there && len(ids) == 0 {
		return nil, refusal.New("E_NO_PIGMENT", "pigments", "Name at least one pigment that may be used.")
	}
	for _, id := range ids {
		if _, err := colour.PigmentOf(id, "pigments"); err != nil {
			return nil, err
		}
	}
	var out []*colour.Pigment
	for i := range colour.Pigments {
		if !there || slices.Contains(ids, colour.Pigments[i].ID) {
			out = append(out, &colour.Pigments[i])
		}
	}
	return out, nil
}

func lightsOf(e [4]float64) map[string]float64 {
	out := map[string]float64{}
	for k, name := range colour.LightNames {
		out[name] = e[k]
	}
	return out
}

func judgedOf(j colour.Judged) map[string]any {
	return map[string]any{"de00": lightsOf(j.DE00), "J": j.J, "score": j.Score, "contrast_ratio": j.Contrast, "load": j.Load}
}

func matchOf(ctx context.Context, a *asking) (any, error) {
	q, err := a.asks()
	if err != nil {
		return nil, err
	}
	found, err := q.Match(ctx)
	if err != nil {
		return nil, err
	}
	list := []map[string]any{}
	for _, alt := range found.Alternatives {
		m := judgedOf(alt.Judged)
		rounded := map[string]any{}
		for _, u := range alt.Rounded {
			rounded[u.Pigment] = map[string]any{"count": u.Count, "unit_g": u.UnitG, "g": float64(u.Count) * u.UnitG}
		}
		m["recipe"], m["grams"], m["rounded"], m["rounded_de00"], m["rounding_cost"] = grams(alt.Recipe), grams(alt.Grams), rounded, lightsOf(alt.RoundedDE00), alt.RoundingCost
		list = append(list, m)
	}
	return map[string]any{"alternatives": list, "base_only": judgedOf(found.BaseOnly), "reached": found.Reached}, nil
}

func evaluateOf(_ context.Context, a *asking) (any, error) {
	q, err := a.asks()
	if err != nil {
		return nil, err
	}
	recipe, err := a.doses("recipe")
	if err != nil {
		return nil, err
	}
	j, err := q.Judge(recipe)
	if err != nil {
		return nil, err
	}
	return judgedOf(j), nil
}

func correctOf(ctx context.Context, a *asking) (any, error) {
	var err error
	var b colour.Batched
	if b.Asked, err = a.asks(); err != nil {
		return nil, err
	}
	if b.Recipe, err = a.doses("recipe"); err != nil {
		return nil, err
	}
	most, err := a.number("max_additions", 3, 1, 5)
	if err != nil {
		return nil, err
	}
	b.Most = int(most)
	if b.MostBaseG, err = a.number("max_extra_base_g", 0, 0, 1e6); err != nil {
		return nil, err
	}
	if !a.has("measured") {
		return nil, refusal.New("E_FIELD", "measured", "measured is missing.")
	}
	sub, err := asked(a.m["measured"], "measured")
	if err != nil {
		return nil, err
	}
	if b.ReadX, err = sub.number("thickness_mm", b.X, 0.005, 50); err != nil {
		return nil, err
	}
	if b.ReadOver = b.Backing; sub.has("backing") {
		if b.ReadOver, err = sub.innerBacking("backing", "black", nil, b.Surface); err != nil {
			return nil, err
		}
	}
	if sub.has("R") {
		var v []float64
		if err := sub.need("R", &v); err != nil {
			return nil, err
		}
		r, err := colour.Measured(v, "measured.R")
		if err != nil {
			return nil, err
		}
		r = b.Surface.Inside(r)
		b.Read = &r
	} else if b.ReadLab, err = sub.lab("lab"); err != nil {
		return nil, err
	}
	if err := sub.done(); err != nil {
		return nil, err
	}
	out, err := b.Correct(ctx)
	if err != nil {
		return nil, err
	}
	return map[string]any{"before": judgedOf(out.Before), "after": judgedOf(out.After), "add_g": grams(out.Add),
		"add_base_g": out.AddBaseG, "rounded_g": grams(out.Rounded),
		"rounded_de00_D65": out.RoundedD65, "amount_factor": grams(out.Factors), "clamped_bands": len(out.Clamped), "load": out.Load, "score": out.Score, "verdict": out.Verdict}, nil
}

func batchOf(_ context.Context, a *asking) (any, error) {
	recipe, err := a.doses("recipe")
	if err != nil {
		return nil, err
	}
	base, err := a.number("batch_base_g", 0, 0, 1e6)
	if err != nil {
		return nil, err
	}
	total, err := a.number("batch_total_g", 0, 0, 1e6)
	if err != nil {
		return nil, err
	}
	if (base > 0) == (total > 0) {
		return nil, refusal.New("E_FIELD", "batch_base_g", "Give the base or the whole.")
	}
	b, list, all := colour.Batch(recipe, base, total)
	return map[string]any{"base_g": b, "grams": grams(list), "total_g": all}, nil
}

func (a *asking) spectrum(name string) (colour.Spectrum, error) {
	var v []float64
	if err := a.need(name, &v); err != nil {
		return colour.Spectrum{}, err
	}
	return colour.Measured(v, a.path(name))
}

func pairOf(_ context.Context, a *asking) (any, error) {
	x, err := a.number("thickness_mm", 1, 0.005, 50)
	if err != nil {
		return nil, err
	}
	var s [4]colour.Spectrum
	for i, name := range []string{"over_white", "over_black", "white", "black"} {
		if s[i], err = a.spectrum(name); err != nil {
			return nil, err
		}
	}
	c, opaque, err := colour.Pair(x, s[0], s[1], s[2], s[3])
	if err != nil {
		return nil, err
	}
	return map[string]any{"K": c.K, "S": c.S, "opaque_bands": append([]int{}, opaque...)}, nil
}

func (a *asking) drawdowns() ([]colour.Drawdown, error) {
	var list []json.RawMessage
	if err := a.need("drawdowns", &list); err != nil {
		return nil, err
	}
	var out []colour.Drawdown
	for i, raw := range list {
		sub, err := asked(raw, fmt.Sprintf("drawdowns[%d]", i))
		if err != nil {
			return nil, err
		}
		var d colour.Drawdown
		if d.Amount, err = sub.number("amount", 0, 1e-6, 100); err != nil {
			return nil, err
		}
		if d.X, err = sub.number("thickness_mm", 1, 0.005, 50); err != nil {
			return nil, err
		}
		if d.Known, err = sub.doses("known"); err != nil {
			return nil, err
		}
		var readings []json.RawMessage
		if err := sub.need("readings", &readings); err != nil {
			return nil, err
		}
		for j, raw := range readings {
			r, err := asked(raw, fmt.Sprintf("%s.readings[%d]", sub.at, j))
			if err != nil {
				return nil, err
			}
			var o colour.Over
			if o.Backing, err = r.colourAt("backing", "black", nil); err != nil {
				return nil, err
			}
			if o.R, err = r.spectrum("R"); err != nil {
				return nil, err
			}
			if err := r.done(); err != nil {
				return nil, err
			}
			d.Over = append(d.Over, o)
		}
		if err := sub.done(); err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, nil
}

func calibrateOf(_ context.Context, a *asking) (any, error) {
	base, err := a.base("silicone")
	if err != nil {
		return nil, err
	}
	drawn, err := a.drawdowns()
	if err != nil {
		return nil, err
	}
	c, err := colour.Calibrate(base, drawn)
	if err != nil {
		return nil, err
	}
	return map[string]any{"K": c.K, "S": c.S, "rms": c.RMS, "weak_bands": append([]int{}, c.Weak...)}, nil
}

func singleOf(_ context.Context, a *asking) (any, error) {
	base, err := a.base("silicone")
	if err != nil {
		return nil, err
	}
	class := ""
	if err := a.need("class", &class); err != nil {
		return nil, err
	}
	drawn, err := a.drawdowns()
	if err != nil {
		return nil, err
	}
	if len(drawn) != 1 {
		return nil, refusal.New("E_READINGS", "drawdowns", "One drawdown with one reading.")
	}
	c, clamped, err := colour.Single(base, class, drawn[0])
	if err != nil {
		return nil, err
	}
	return map[string]any{"K": c.K, "S": c.S, "clamped_bands": append([]int{}, clamped...)}, nil
}

func bloodColourOf(_ context.Context, a *asking) (any, error) {
	var id string
	if err := a.need("type", &id); err != nil {
		return nil, err
	}
	b, err := colour.BloodOf(id)
	if err != nil {
		return nil, err
	}
	depth, err := a.number("depth_mm", 0.3, 0, 20)
	if err != nil {
		return nil, err
	}
	age, err := a.number("age", b.Age, 0, 1)
	if err != nil {
		return nil, err
	}
	top, err := a.number("from_top_mm", 50, 0, 1e4)
	if err != nil {
		return nil, err
	}
	backing, err := a.colourAt("backing", "white", nil)
	if err != nil {
		return nil, err
	}
	syrup, err := colour.BaseOf("syrup")
	if err != nil {
		return nil, err
	}
	mixed, err := syrup.Mixed(b.Recipe, age)
	if err != nil {
		return nil, err
	}
	r := mixed.Over(depth, &backing)
	out := described(&r)
	out["recipe"], out["viscosity_Pas"], out["viscosity_class"], out["stay_depth_mm"] = grams(b.Recipe), b.Viscosity, b.Class, b.StayMM
	if a.has("seconds") {
		seconds, err := a.number("seconds", 1, 0.01, 1e6)
		if err != nil {
			return nil, err
		}
		out["drained_depth_mm"] = b.Drained(seconds, top)
	}
	return out, nil
}
