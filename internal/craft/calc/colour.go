package calc

import (
	"context"
	"encoding/json"
	"math"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/refusal"
)

// The operations of the colour chapter, section 14. A case is one flat object with its op.

func colourOps() map[string]solver {
	return map[string]solver{
		"colour":            said(colourOf),
		"de00":              said(de00Of),
		"srgb_to_lab":       said(srgbToLab),
		"skin":              said(skinOf),
		"tan":               said(tanOf),
		"reconstruct":       said(reconstructOf),
		"skin_fit":          said(skinFit),
		"readings":          said(readingsOf),
		"film":              said(filmOf),
		"mix":               said(mixOf),
		"stack":             said(stackOf),
		"mottle":            said(mottleOf),
		"match":             said(matchOf),
		"evaluate":          said(evaluateOf),
		"correct":           said(correctOf),
		"batch":             said(batchOf),
		"calibrate_pair":    said(pairOf),
		"calibrate_pigment": said(calibrateOf),
		"calibrate_single":  said(singleOf),
		"blood":             said(bloodColourOf),
	}
}

// said answers a request; what nobody read of it is refused.
func said(do func(ctx context.Context, a *asking) (any, error)) solver {
	return func(ctx context.Context, raw json.RawMessage) (any, error) {
		a, err := asked(raw, "")
		if err != nil {
			return nil, err
		}
		out, err := do(ctx, a)
		if err != nil {
			return nil, err
		}
		return out, a.done()
	}
}

// asking reads a request; what it does not know is refused.
type asking struct {
	m    map[string]json.RawMessage
	at   string
	read map[string]bool
}

func asked(raw json.RawMessage, at string) (*asking, error) {
	var m map[string]json.RawMessage
	if err := json.Unmarshal(raw, &m); err != nil || m == nil {
		return nil, refusal.New("E_TYPE", at, "This is no object.")
	}
	return &asking{m: m, at: at, read: map[string]bool{"op": true}}, nil
}

func (a *asking) path(name string) string {
	if a.at == "" {
		return name
	}
	return a.at + "." + name
}

func (a *asking) has(name string) bool {
	a.read[name] = true
	raw, there := a.m[name]
	return there && string(raw) != "null"
}

// into reads a field of its kind; false where it is not there.
func (a *asking) into(name string, v any) (bool, error) {
	if !a.has(name) {
		return false, nil
	}
	if err := json.Unmarshal(a.m[name], v); err != nil {
		return false, refusal.New("E_TYPE", a.path(name), "%s is of the wrong kind.", name)
	}
	return true, nil
}

// need is into of what must be there.
func (a *asking) need(name string, v any) error {
	there, err := a.into(name, v)
	if err == nil && !there {
		return refusal.New("E_FIELD", a.path(name), "%s is missing.", name)
	}
	return err
}

// number reads a figure between two others, def where it is not there.
func (a *asking) number(name string, def, lo, hi float64) (float64, error) {
	v := def
	if _, err := a.into(name, &v); err != nil {
		return 0, err
	}
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, refusal.New("E_NOT_FINITE", a.path(name), "%s is no number.", name)
	}
	if v < lo || v > hi {
		return 0, refusal.New("E_RANGE", a.path(name), "%s lies between %g and %g.", name, lo, hi)
	}
	return v, nil
}

// done refuses what nobody read.
func (a *asking) done() error {
	for name := range a.m {
		if !a.read[name] {
			return refusal.New("E_FIELD", a.path(name), "%s is not known here.", name)
		}
	}
	return nil
}

func (a *asking) lab(name string) (colour.Lab, error) {
	var v []float64
	if err := a.need(name, &v); err != nil {
		return colour.Lab{}, err
	}
	return labOf(v, a.path(name))
}

func labOf(v []float64, at string) (colour.Lab, error) {
	if len(v) != 3 {
		return colour.Lab{}, refusal.New("E_FIELD", at, "A colour has L*, a* and b*.")
	}
	if v[0] < 0 || v[0] > 100 {
		return colour.Lab{}, refusal.New("E_RANGE", at, "L* lies between 0 and 100.")
	}
	return colour.Lab{L: v[0], A: v[1], B: v[2]}, nil
}

// painted is a colour object: its reflectance, or only its Lab.
type painted struct {
	r     colour.Spectrum
	lab   colour.Lab
	skin  *colour.Skin
	only  bool // no spectrum was given: r is rebuilt
	limit bool // melanin came to its end
}

var colourKinds = []string{"R", "lab", "srgb", "skin", "ita"}

// colour reads a colour object.
func (a *asking) colour() (painted, error) {
	var out painted
	given := ""
	for _, kind := range colourKinds {
		if !a.has(kind) {
			continue
		}
		if given != "" {
			return out, refusal.New("E_FIELD", a.path(kind), "A colour is given one way: here stand %s and %s.", given, kind)
		}
		given = kind
	}
	region, method := "", "auto"
	if _, err := a.into("region", &region); err != nil {
		return out, err
	}
	if _, err := a.into("method", &method); err != nil {
		return out, err
	}
	steps, err := a.number("tan_steps", 0, -6, 12)
	if err != nil {
		return out, err
	}
	switch given {
	case "":
		return out, refusal.New("E_FIELD", a.at, "A colour is given by R, lab, srgb, skin or ita.")
	case "skin", "ita":
		s, limit, err := a.skin(region, steps)
		if err != nil {
			return out, err
		}
		out.skin, out.limit, out.r = &s, limit, s.Reflectance()
		out.lab = out.r.Lab(colour.D65)
		return out, nil
	case "R":
		var v []float64
		if err := a.need("R", &v); err != nil {
			return out, err
		}
		if out.r, err = colour.Measured(v, a.path("R")); err != nil {
			return out, err
		}
	default:
		if given == "lab" {
			out.lab, err = a.lab("lab")
		} else {
			out.lab, err = a.srgb()
		}
		if err != nil {
			return out, err
		}
		rebuilt, err := colour.Rebuild(out.lab, method)
		if err != nil {
			return out, err
		}
		out.r, out.only = rebuilt.R, true
	}
	if region != "" || steps != 0 {
		if out.r, out.limit, err = colour.Shifted(out.r, region, steps); err != nil {
			return out, err
		}
	}
	if !out.only || region != "" || steps != 0 {
		out.lab = out.r.Lab(colour.D65)
	}
	return out, nil
}

func (a *asking) srgb() (colour.Lab, error) {
	var v []float64
	if err := a.need("srgb", &v); err != nil {
		return colour.Lab{}, err
	}
	if len(v) != 3 {
		return colour.Lab{}, refusal.New("E_FIELD", a.path("srgb"), "A screen's colour has three values.")
	}
	for _, x := range v {
		if x < 0 || x > 255 {
			return colour.Lab{}, refusal.New("E_RANGE", a.path("srgb"), "A screen's values lie between 0 and 255.")
		}
	}
	return colour.FromSRGB(v[0], v[1], v[2]), nil
}

// skin reads skin parameters, or a typology angle, with region and tan.
func (a *asking) skin(region string, steps float64) (colour.Skin, bool, error) {
	s := colour.UsualSkin
	if a.has("skin") {
		p, err := asked(a.m["skin"], a.path("skin"))
		if err != nil {
			return s, false, err
		}
		for _, f := range []struct {
			name   string
			v      *float64
			lo, hi float64
		}{{"melanin", &s.Melanin, 0, 0.6}, {"blood", &s.Blood, 0, 0.15}, {"oxygenation", &s.Oxygenation, 0, 1},
			{"yellow", &s.Yellow, 0, 20}, {"scatter", &s.Scatter, 0.4, 1.8}} {
			if *f.v, err = p.number(f.name, *f.v, f.lo, f.hi); err != nil {
				return s, false, err
			}
		}
		if err := p.done(); err != nil {
			return s, false, err
		}
	}
	if a.has("ita") {
		ita, err := a.number("ita", 0, -90, 90)
		if err != nil {
			return s, false, err
		}
		if s, err = s.AtITA(ita); err != nil {
			return s, false, err
		}
	}
	s, err := s.In(region)
	if err != nil {
		return s, false, err
	}
	s, limit := s.Tanned(steps)
	return s, limit, nil
}

// colourAt reads a colour object in a field; backings may be named.
func (a *asking) colourAt(name, def string, target *colour.Spectrum) (colour.Spectrum, error) {
	if !a.has(name) {
		return named(def, target), nil
	}
	var word string
	if json.Unmarshal(a.m[name], &word) == nil {
		switch word {
		case "black", "white", "target":
			return named(word, target), nil
		}
		return colour.Spectrum{}, refusal.New("E_FIELD", a.path(name), "There is no backing %s.", word)
	}
	sub, err := asked(a.m[name], a.path(name))
	if err != nil {
		return colour.Spectrum{}, err
	}
	p, err := sub.colour()
	if err != nil {
		return colour.Spectrum{}, err
	}
	return p.r, sub.done()
}

func named(word string, target *colour.Spectrum) colour.Spectrum {
	switch {
	case word == "white":
		return colour.White
	case word == "target" && target != nil:
		return *target
	}
	return colour.Black
}

// described is what a colour comes to.
func described(r *colour.Spectrum) map[string]any {
	out := shown(r.Lab(colour.D65))
	labs := map[string][3]float64{}
	for k, name := range colour.LightNames {
		c := r.Lab(colour.Light(k))
		labs[name] = [3]float64{c.L, c.A, c.B}
	}
	out["lab"], out["XYZ_D65"], out["R"] = labs, r.XYZ(colour.D65), r
	return out
}

func shown(c colour.Lab) map[string]any {
	rgb, in := c.SRGB()
	deg, class, valid := c.ITA()
	out := map[string]any{"lab_D65": [3]float64{c.L, c.A, c.B}, "lch_D65": c.LCh(), "srgb": rgb, "srgb_in_gamut": in, "ita": deg,
		"ita_valid": valid, "ita_class": class}
	if c.L == 50 && c.B == 0 {
		out["ita"] = nil
	}
	return out
}
