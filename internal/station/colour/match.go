package colour

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Part is a pigment of a recipe.
type Part struct {
	Material string  `json:"material"`
	Name     string  `json:"name"`
	Per100   float64 `json:"per_100_g" doc:"g in 100 g of base as weighed"`
	Grams    float64 `json:"grams" doc:"for the batch, as it can be weighed"`
	Drops    int     `json:"drops,omitempty" doc:"about as many; 0 for what is only weighed"`
	Lot      string  `json:"lot,omitempty" doc:"from which it can be taken today; empty where none holds enough"`
	Once     bool    `json:"once" doc:"calibrated from one reading only, or never here"`
}

// Light is how a recipe does under one light.
type Light struct {
	Light string     `json:"light" doc:"daylight, tungsten, LED, tubes, or a set's own"`
	DE00  float64    `json:"de00"`
	Fails bool       `json:"fails" doc:"further off than is allowed"`
	Days  []string   `json:"days" doc:"shooting days under it, by date and place"`
	Aim   colour.Lab `json:"aim" doc:"how the target looks under it"`
	Piece colour.Lab `json:"piece" doc:"and how the piece does, at its centre"`
}

// Proposal is one recipe for the body of a piece.
type Proposal struct {
	Merit    string     `json:"merit" enum:"daylight,lamp,led,tubes,every_light,fewest,least,no_fibre,"`
	Rank     int        `json:"rank" doc:"1: the best of them at it"`
	Parts    []Part     `json:"parts"`
	Lights   []Light    `json:"lights"`
	Opacity  float64    `json:"opacity" doc:"contrast ratio at the centre"`
	Load     float64    `json:"load" doc:"g of pigment in 100 g of base"`
	Score    float64    `json:"score" doc:"differences over the lights with what each pigment has to earn; lower is better"`
	Rounding float64    `json:"rounding" doc:"what weighing in whole units costs, ΔE00 over the lights"`
	TrialG   float64    `json:"trial_g" doc:"least base in which it can be weighed well enough"`
	CostMin  int64      `json:"cost_minor" doc:"pigment for the batch, in hundredths of the shop's money"`
	Centre   colour.Lab `json:"centre" doc:"as it will look at the centre, under daylight"`
	Edge     colour.Lab `json:"edge" doc:"and at its edge, over the same skin"`
	EdgeOff  float64    `json:"edge_de00"`
	R        []float64  `json:"r" doc:"reflectance at the centre, 380 to 730 nm"`
}

// Matched is what a body may be coloured with, so that it looks like the target.
type Matched struct {
	Aim       Aim        `json:"aim"`
	AimR      []float64  `json:"aim_r" doc:"reflectance of the target, 380 to 730 nm"`
	Search    string     `json:"search" enum:"best,cheapest,shelf,last"`
	Layer     string     `json:"layer" doc:"of the section"`
	Section   int        `json:"section"`
	Base      string     `json:"base" doc:"base of the library that the body is reckoned as"`
	Material  string     `json:"material" doc:"name of the body's product"`
	Over      string     `json:"over,omitempty" doc:"another body that lies under it: it is asked to hide that"`
	CentreMM  float64    `json:"centre_mm"`
	EdgeMM    float64    `json:"edge_mm"`
	BatchG    float64    `json:"batch_g"`
	Opacity   float64    `json:"opacity_min"`
	MaxLoad   float64    `json:"max_load" doc:"most pigment in 100 g of this base"`
	Fixed     []Part     `json:"fixed" doc:"flocking that the section asks for"`
	Aged      float64    `json:"aged" doc:"how far the base has aged on the last day, 0 to 1"`
	Proposals []Proposal `json:"proposals" doc:"the best first"`
	BaseOnly  float64    `json:"base_only" doc:"ΔE00 under daylight without any pigment"`
	Days      []DayLight `json:"days"`
	Unknown   []string   `json:"unknown" doc:"pigments that go into it and of whose colour nobody knows anything"`
}

// bases are what a body is reckoned as by its family, with how opaque it is asked for.
var bases = []struct {
	families []material.Family
	base     string
	opacity  float64
}{
	{[]material.Family{material.SiliconeAddition, material.SiliconeCondensation}, "silicone", 0.70},
	{[]material.Family{material.Gelatin}, "gelatin", 0.70},
	{[]material.Family{material.Latex, material.LatexPaste}, "latex", 0.90},
	{[]material.Family{material.FoamLatex}, "foam", 0.90},
	{[]material.Family{material.Wax}, "wax", 0.70},
}

// Question is how a body is to be matched.
type Question struct {
	BatchG  float64
	Drops   bool
	Search  string
	Opacity float64 // 0: what the body is usually asked for
}

// searches, by which pigments are taken.
const (
	best     = "best"
	cheapest = "cheapest"
	onShelf  = "shelf"
	likeLast = "last"
)

// matching is a match while it is worked out.
type matching struct {
	Matched
	q       colour.Asked
	list    []Pigment // that may be stirred in
	lights  []SetLight
	product material.Product
	soft    float64 // what else is in the base, in shares of its parts
}

// Match finds recipes for the body of a piece, at its thickness, over the wearer's skin, as
// it will be on the day.
func (s *Service) Match(ctx context.Context, code string, ask Question) (Matched, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Matched{}, err
	}
	m, err := s.matching(ctx, s.DB, p, ask)
	if err != nil {
		return Matched{}, err
	}
	list, err := s.search(ctx, p, m, ask.Search)
	if err != nil {
		return m.Matched, err
	}
	merits := colour.BestAt(list, func(id string) bool {
		i := slices.IndexFunc(m.list, func(v Pigment) bool { return v.Material == id })
		return i >= 0 && m.list[i].Fibre
	})
	for i, alt := range list {
		v, err := m.proposal(alt)
		if err != nil {
			return m.Matched, err
		}
		v.Merit, v.Rank = merits[i].At, merits[i].Rank
		m.Proposals = append(m.Proposals, v)
	}
	return m.Matched, nil
}

// matching reads everything that a match follows from.
func (s *Service) matching(ctx context.Context, db database.Reader, p piece.Piece, ask Question) (*matching, error) {
	m := &matching{Matched: Matched{Proposals: []Proposal{}, Fixed: []Part{}, Unknown: []string{}, BatchG: ask.BatchG,
		Search: cmp.Or(ask.Search, best)}}
	skins, err := s.skinsOf(ctx, p)
	if err != nil {
		return m, err
	}
	if m.Aim, err = s.aim(ctx, db, p, skins); err != nil {
		return m, err
	}
	m.AimR = m.Aim.r[:]
	if m.lights, err = lightsNow(ctx, db); err != nil {
		return m, err
	}
	if m.Days, err = daysOf(ctx, db, p, m.lights); err != nil {
		return m, err
	}
	doc, _, number, err := piece.AgreedSection(ctx, db, p)
	if err != nil {
		return m, err
	}
	if number == 0 {
		return m, problem.Conflict("no_section", "The section of %s is not agreed yet: its body and its thickness are what is coloured.", p.Code)
	}
	m.Section = number
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return m, err
	}
	layer, err := m.body(doc, materials)
	if err != nil {
		return m, err
	}
	base, err := colour.BaseOf(m.Base)
	if err != nil {
		return m, err
	}
	m.MaxLoad = base.MaxLoad
	if n := len(m.Days); n > 0 {
		m.Aged = base.Aged(math.Max(0, m.Days[n-1].Day.Sub(s.Clock.Now()).Hours()/24/30.4))
	}
	if ask.Opacity > 0 {
		m.Opacity = ask.Opacity
	}
	all, err := pigments(ctx, db, materials)
	if err != nil {
		return m, err
	}
	m.soft = soft(layer, materials)
	m.list = into(all, m.product, materials, base, m.soft)
	if err := s.stocked(ctx, db, m.list); err != nil {
		return m, err
	}
	m.fix(layer, materials)
	for _, v := range all {
		if !v.Known && materials[v.Material].StirLimit(m.product.Family) > 0 {
			m.Unknown = append(m.Unknown, v.Name)
		}
	}
	if len(m.list) == 0 {
		return m, problem.Conflict("no_pigment", "No pigment of the shop goes into %s, or nobody knows their colour: put one on the shelf in Stores, and say what it is.", m.Material)
	}
	m.q = colour.Asked{Target: m.Aim.r, Backing: m.Aim.under, Base: base, Age: m.Aged, X: math.Max(0.05, m.CentreMM), Most: 4,
		BatchG:      ask.BatchG,
		ResolutionG: 0.01, Drops: ask.Drops, OpacityMin: m.Opacity, OpacityMax: 1, Metamerism: 0.25}
	for _, f := range m.Fixed {
		m.q.Fixed = append(m.q.Fixed, colour.Dose{Pigment: f.Material, G: f.Per100})
	}
	m.q.Pigments = m.candidates(func(Pigment) bool { return true })
	m.q.Palette = palette(m.list)
	return m, nil
}

// soft is what is stirred into a body that is no colour, in shares of its parts.
func soft(l section.Layer, materials material.Shelf) (share float64) {
	for _, w := range l.With {
		if f := materials[w.Material].Family; f != material.Pigment && f != material.Flock {
			share += w.Percent / 100
		}
	}
	return share
}

// fix takes the flocking that the section asks for as given.
func (m *matching) fix(l section.Layer, materials material.Shelf) {
	for _, w := range l.With {
		i := slices.IndexFunc(m.list, func(v Pigment) bool { return v.Material == w.Material })
		if i < 0 || materials[w.Material].Family != material.Flock {
			continue
		}
		per := w.Percent / (1 + m.soft)
		m.Fixed = append(m.Fixed, Part{Material: w.Material, Name: m.list[i].Name, Per100: per, Grams: per * m.BatchG / 100,
			Lot: m.list[i].Lot})
	}
}

// candidates are the pigments that a search may take.
func (m *matching) candidates(may func(Pigment) bool) []*colour.Pigment {
	var out []*colour.Pigment
	for _, v := range m.list {
		fixed := slices.ContainsFunc(m.Fixed, func(f Part) bool { return f.Material == v.Material })
		if !fixed && may(v) && len(out) < mostSearched {
			out = append(out, v.p)
		}
	}
	return out
}

// mostSearched is how many pigments a search takes at once.
const mostSearched = 16

// search finds recipes by what was asked to be found.
func (s *Service) search(ctx context.Context, p piece.Piece, m *matching, which string) ([]colour.Alternative, error) {
	done, err := s.Turns.Take(ctx)
	if err != nil {
		return nil, err
	}
	defer done()
	q := m.q
	switch which {
	case onShelf:
		q.Pigments = m.candidates(func(v Pigment) bool { return v.UsableG > 0 })
		if len(q.Pigments) == 0 {
			return nil, problem.Conflict("no_pigment", "No pigment that goes into %s may be taken from the shelf today.", m.Material)
		}
	case likeLast:
		last, err := lastRecipe(ctx, s.DB, p)
		if err != nil {
			return nil, err
		}
		q.Pigments = m.candidates(func(v Pigment) bool {
			return slices.ContainsFunc(last.Parts, func(x Part) bool { return x.Material == v.Material })
		})
		if len(q.Pigments) == 0 {
			return nil, problem.Conflict("no_last", "Nothing was mixed before for %s or its wearer that goes into %s.", p.Code, m.Material)
		}
	case cheapest:
		return m.cheapest(ctx)
	}
	found, err := q.Match(ctx)
	if err != nil {
		return nil, err
	}
	m.BaseOnly = found.BaseOnly.DE00[colour.D65]
	return found.Alternatives, nil
}

// cheapest looks among the cheapest pigments first, one more at a time, and keeps what
// comes within what is allowed, by what it costs.
func (m *matching) cheapest(ctx context.Context) ([]colour.Alternative, error) {
	by := slices.Clone(m.list)
	slices.SortStableFunc(by, func(a, b Pigment) int { return cmp.Compare(a.PriceKg, b.PriceKg) })
	seen := map[string]bool{}
	var out []colour.Alternative
	var last error
	for n := 2; n <= len(by); n++ {
		if n < len(by) && by[n].PriceKg == by[n-1].PriceKg {
			continue // all of one price come in together
		}
		q := m.q
		q.Pigments = m.candidates(func(v Pigment) bool {
			return slices.ContainsFunc(by[:n], func(c Pigment) bool { return c.Material == v.Material })
		})
		if len(q.Pigments) == 0 {
			continue
		}
		found, err := q.Match(ctx)
		if err != nil {
			if ctx.Err() != nil {
				return nil, err
			}
			last = err
			continue
		}
		m.BaseOnly = found.BaseOnly.DE00[colour.D65]
		for _, a := range found.Alternatives {
			key := ""
			for _, d := range a.Recipe {
				key += d.Pigment + " "
			}
			if a.DE00[colour.D65] <= m.Aim.Allowed && !seen[key] {
				seen[key] = true
				out = append(out, a)
			}
		}
	}
	if len(out) == 0 {
		if last != nil {
			return nil, last
		}
		return nil, problem.Conflict("none_near", "No recipe of the shop's pigments comes within %.1f.", m.Aim.Allowed)
	}
	slices.SortStableFunc(out, func(a, b colour.Alternative) int { return cmp.Compare(m.cost(a.Recipe), m.cost(b.Recipe)) })
	return out[:min(5, len(out))], nil
}

// cost is the pigment of a batch, in hundredths of the shop's money.
func (m *matching) cost(recipe []colour.Dose) int64 {
	total := 0.0
	for _, d := range recipe {
		for _, v := range m.list {
			if v.Material == d.Pigment {
				total += d.G * m.BatchG / 100 / 1000 * float64(v.PriceKg)
			}
		}
	}
	return int64(math.Round(total))
}

// skinsOf is what was read of a piece's wearer; nothing where there is none yet.
func (s *Service) skinsOf(ctx context.Context, p piece.Piece) ([]Target, error) {
	if p.PerformerID == nil {
		return []Target{}, nil
	}
	return s.Wearers.SkinOf(ctx, *p.PerformerID)
}

// skins is the same where a wearer is asked for.
func (s *Service) skins(ctx context.Context, p piece.Piece) ([]Target, error) {
	if p.PerformerID == nil {
		return nil, noWearer(p)
	}
	return s.Wearers.SkinOf(ctx, *p.PerformerID)
}

func noWearer(p piece.Piece) error {
	return problem.Conflict("no_wearer", "%s has no wearer yet: their skin is what it is matched to.", p.Code)
}

// overDark is how opaque a body is asked to be where it lies over another: what is under it
// is not the wearer's skin, and must not show.
const overDark = 0.95

// body finds what is coloured: the thickest body of the section that the library has a base
// for.
func (m *matching) body(doc section.Section, materials material.Shelf) (found section.Layer, err error) {
	var bodies, unknown []string
	doc.All(func(c section.Cut, _ int, l section.Layer) {
		if !l.Kind.IsAppliance() || l.Kind != section.Latex && l.Kind.Is() != section.Body {
			return
		}
		product := materials[l.Material]
		bodies = append(bodies, product.Name)
		base, opacity := baseOf(product.Family)
		if base == "" {
			unknown = append(unknown, product.Name)
			return
		}
		if centre, edge := l.Thickness(c, materials); centre > m.CentreMM {
			found, m.product = l, product
			m.Layer, m.Material, m.Base, m.Opacity, m.CentreMM, m.EdgeMM = l.ID, product.Name, base, opacity, centre, edge
		}
	})
	switch {
	case len(bodies) == 0:
		return found, problem.Conflict("no_body", "The section has no body that could be coloured through.")
	case m.Base == "":
		return found, problem.Conflict("no_base", "The library has no base for %s: nothing is reckoned with what nobody measured.",
			strings.Join(unknown, " or "))
	case bodies[0] != m.Material: // from skin to air: something else lies under it
		m.Over, m.Opacity = bodies[0], math.Max(m.Opacity, overDark)
	}
	return found, nil
}

// baseOf is what a family is reckoned as, and how opaque it is asked to be; "" for none.
func baseOf(family material.Family) (base string, opacity float64) {
	for _, b := range bases {
		if slices.Contains(b.families, family) {
			return b.base, b.opacity
		}
	}
	return "", 0
}

// proposal writes a recipe out, with how it looks at the edge and under every light.
func (m *matching) proposal(alt colour.Alternative) (Proposal, error) {
	out := Proposal{Opacity: alt.Contrast, Load: alt.Load, Score: alt.Score, Rounding: alt.RoundingCost,
		Centre: alt.R.Lab(colour.D65), Parts: []Part{},
		CostMin: m.cost(alt.Recipe), R: alt.R[:]}
	for i, d := range alt.Recipe {
		u := alt.Rounded[i]
		part, err := m.part(d, float64(u.Count)*u.UnitG)
		if err != nil {
			return out, err
		}
		out.Parts = append(out.Parts, part)
	}
	out.Lights = m.under(&alt.R)
	var err error
	if out.TrialG, err = m.q.LeastWeighable(alt.Recipe, wellWeighed); err != nil {
		return out, err
	}
	all := append(slices.Clone(m.q.Fixed), alt.Recipe...)
	edge, err := m.q.Base.MixedOf(m.q.Palette, all, m.Aged)
	if err != nil {
		return out, fmt.Errorf("looking at the edge: %w", err)
	}
	thin := edge.Over(math.Max(0.01, m.EdgeMM), &m.q.Backing)
	out.Edge = thin.Lab(colour.D65)
	out.EdgeOff = colour.DE00(out.Edge, m.Aim.Lab)
	return out, nil
}

// wellWeighed is what weighing in whole units may cost, ΔE00 over the lights.
const wellWeighed = 0.3

// part is a pigment of a recipe with what the shop has of it.
func (m *matching) part(d colour.Dose, grams float64) (Part, error) {
	i := slices.IndexFunc(m.list, func(v Pigment) bool { return v.Material == d.Pigment })
	if i < 0 {
		return Part{}, problem.Invalid("unknown_value", "parts", "%s does not go into %s.", d.Pigment, m.Material)
	}
	v := m.list[i]
	out := Part{Material: v.Material, Name: v.Name, Per100: d.G, Grams: grams, Once: v.Own == nil || v.Own.Way == "single"}
	if v.UsableG >= grams {
		out.Lot = v.Lot
	}
	if v.DropG > 0 {
		out.Drops = int(math.Round(grams / v.DropG))
	}
	return out, nil
}

// under is how a colour does beside the target under every light, with the days of each.
func (m *matching) under(r *colour.Spectrum) []Light {
	out := make([]Light, 0, len(m.lights))
	for _, l := range m.lights {
		v := Light{Light: l.Name, Aim: m.Aim.r.Under(l.lamp), Piece: r.Under(l.lamp), Days: []string{}}
		v.DE00 = colour.DE00(v.Aim, v.Piece)
		v.Fails = v.DE00 > m.Aim.Allowed
		for _, d := range m.Days {
			if d.Known && d.Name == l.Name {
				v.Days = append(v.Days, d.Day.Format("2 Jan")+", "+d.Place)
			}
		}
		out = append(out, v)
	}
	return out
}
