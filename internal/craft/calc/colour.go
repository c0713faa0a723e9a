package calc

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"

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
		}{{"melanin", &s.Melanin, 0, 0.6}, {"blood", &s.Blood, 0, 0.15}, {"oxygenation", &s.Oxygenation, 0, 1}, {"yellow", &s.Yellow, 0, 20}, {"scatter", &s.Scatter, 0.4, 1.8}} {
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
	out := map[string]any{"lab_D65": [3]float64{c.L, c.A, c.B}, "lch_D65": c.LCh(), "srgb": rgb, "srgb_in_gamut": in, "ita": deg, "ita_valid": valid, "ita_class": class}
	if c.L == 50 && c.B == 0 {
		out["ita"] = nil
	}
	return out
}

func colourOf(_ context.Context, a *asking) (any, error) {
	if a.has("lab") && !a.has("R") {
		c, err := a.lab("lab")
		if err != nil {
			return nil, err
		}
		return shown(c), nil
	}
	p, err := a.colour()
	if err != nil {
		return nil, err
	}
	return described(&p.r), nil
}

func de00Of(_ context.Context, a *asking) (any, error) {
	p, err := a.lab("lab1")
	if err != nil {
		return nil, err
	}
	q, err := a.lab("lab2")
	if err != nil {
		return nil, err
	}
	return map[string]any{"de00": colour.DE00(p, q)}, nil
}

func srgbToLab(_ context.Context, a *asking) (any, error) {
	c, err := a.srgb()
	if err != nil {
		return nil, err
	}
	return map[string]any{"lab_D65": [3]float64{c.L, c.A, c.B}}, nil
}

func skinOf(_ context.Context, a *asking) (any, error) {
	region := ""
	if _, err := a.into("region", &region); err != nil {
		return nil, err
	}
	steps, err := a.number("tan_steps", 0, -6, 12)
	if err != nil {
		return nil, err
	}
	s, limit, err := a.skin(region, steps)
	if err != nil {
		return nil, err
	}
	r := s.Reflectance()
	out := described(&r)
	out["skin"], out["clamped"] = s, limit
	return out, nil
}

func tanOf(_ context.Context, a *asking) (any, error) {
	steps, err := a.number("steps", 0, -6, 12)
	if err != nil {
		return nil, err
	}
	region := ""
	if _, err := a.into("region", &region); err != nil {
		return nil, err
	}
	if !a.has("target") {
		return nil, refusal.New("E_FIELD", "target", "target is missing.")
	}
	sub, err := asked(a.m["target"], "target")
	if err != nil {
		return nil, err
	}
	p, err := sub.colour()
	if err != nil {
		return nil, err
	}
	if err := sub.done(); err != nil {
		return nil, err
	}
	r, limit := p.r, false
	if p.skin != nil {
		s, err := p.skin.In(region)
		if err != nil {
			return nil, err
		}
		s, limit = s.Tanned(steps)
		r = s.Reflectance()
	} else if r, limit, err = colour.Shifted(p.r, region, steps); err != nil {
		return nil, err
	}
	out := described(&r)
	out["clamped"], out["de00_shift"] = limit, colour.DE00(p.r.Lab(colour.D65), r.Lab(colour.D65))
	return out, nil
}

func reconstructOf(_ context.Context, a *asking) (any, error) {
	var err error
	method := "auto"
	if _, err := a.into("method", &method); err != nil {
		return nil, err
	}
	var c colour.Lab
	if a.has("srgb") {
		c, err = a.srgb()
	} else {
		c, err = a.lab("lab")
	}
	if err != nil {
		return nil, err
	}
	rebuilt, err := colour.Rebuild(c, method)
	if err != nil {
		return nil, err
	}
	out := described(&rebuilt.R)
	out["method"] = rebuilt.Method
	if rebuilt.Method == "skin" {
		out["skin"], out["skin_de00"] = rebuilt.Skin, rebuilt.Left
	}
	return out, nil
}

func skinFit(_ context.Context, a *asking) (any, error) {
	if a.has("R") {
		var v []float64
		if err := a.need("R", &v); err != nil {
			return nil, err
		}
		r, err := colour.Measured(v, "R")
		if err != nil {
			return nil, err
		}
		s, rms := colour.SkinFromSpectrum(&r)
		m := s.Reflectance()
		return map[string]any{"skin": s, "rms_ln": rms, "de00": colour.DE00(r.Lab(colour.D65), m.Lab(colour.D65))}, nil
	}
	c, err := a.lab("lab")
	if err != nil {
		return nil, err
	}
	s, left := colour.SkinFromLab(c)
	return map[string]any{"skin": s, "de00": left}, nil
}

func readingsOf(_ context.Context, a *asking) (any, error) {
	var labs []colour.Lab
	var spectra []colour.Spectrum
	if a.has("spectra") {
		var list [][]float64
		if err := a.need("spectra", &list); err != nil {
			return nil, err
		}
		for i, v := range list {
			s, err := colour.Measured(v, fmt.Sprintf("spectra[%d]", i))
			if err != nil {
				return nil, err
			}
			spectra = append(spectra, s)
			labs = append(labs, s.Lab(colour.D65))
		}
	} else {
		var list [][]float64
		if err := a.need("labs", &list); err != nil {
			return nil, err
		}
		for i, v := range list {
			c, err := labOf(v, fmt.Sprintf("labs[%d]", i))
			if err != nil {
				return nil, err
			}
			labs = append(labs, c)
		}
	}
	r, err := colour.Readings(labs)
	if err != nil {
		return nil, err
	}
	out := map[string]any{"kept": r.Kept, "rejected": r.Rejected, "mcdm": r.MCDM, "max_de00": r.Max, "cut": r.Cut, "uncertain": r.Uncertain,
		"mean_lab": [3]float64{r.Mean.L, r.Mean.A, r.Mean.B}, "sd_lab": [3]float64{r.SD.L, r.SD.A, r.SD.B}}
	if spectra != nil {
		var mean colour.Spectrum
		for _, i := range r.Kept {
			for b := range mean {
				mean[b] += spectra[i][b] / float64(len(r.Kept))
			}
		}
		c := mean.Lab(colour.D65)
		out["R"], out["mean_lab"] = mean, [3]float64{c.L, c.A, c.B}
	}
	return out, nil
}

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

// asked reads what a match asks.
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
		{"scale_resolution_g", &q.ResolutionG, 0.01, 1e-6, 100}, {"min_weigh_g", &q.MinWeighG, 0, 0, 1000}, {"max_load", &q.MaxLoad, 0, 0, 100},
		{"opacity_min", &q.OpacityMin, 0, 0, 1}, {"opacity_max", &q.OpacityMax, 1, 0, 1}, {"metamerism_weight", &q.Metamerism, 0.25, 0, 10}} {
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
	return map[string]any{"before": judgedOf(out.Before), "after": judgedOf(out.After), "add_g": grams(out.Add), "add_base_g": out.AddBaseG, "rounded_g": grams(out.Rounded),
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
