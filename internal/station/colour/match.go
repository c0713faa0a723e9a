package colour

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Wearers tell what was read of a wearer's skin; wired to the brief.
type Wearers interface {
	SkinOf(ctx context.Context, performer uint64) ([]Target, error)
}

// Target is what was read of one place of a wearer's skin.
type Target struct {
	Region    string     `json:"region"`
	Text      string     `json:"text"`
	Side      string     `json:"side"`
	Lab       colour.Lab `json:"lab"`
	Readings  int        `json:"readings"`
	MCDM      float64    `json:"mcdm" doc:"mean ΔE00 of the readings to their mean"`
	Uncertain bool       `json:"uncertain"`
	Guess     bool       `json:"guess" doc:"some of it is from a camera or a screen"`
}

// Part is a pigment of a recipe.
type Part struct {
	Pigment string  `json:"pigment"`
	Name    string  `json:"name"`
	Per100  float64 `json:"per_100_g" doc:"g in 100 g of base as weighed"`
	Grams   float64 `json:"grams" doc:"for the batch, as it can be weighed"`
	Drops   int     `json:"drops,omitempty" doc:"about as many; 0 for what is only weighed"`
}

// Light is how a recipe does under one light.
type Light struct {
	Light string  `json:"light" enum:"D65,A,LED,FL11"`
	DE00  float64 `json:"de00"`
	Fails bool    `json:"fails" doc:"more than 2 off: seen side by side"`
}

// Proposal is one recipe for the body of a piece.
type Proposal struct {
	Parts    []Part     `json:"parts"`
	Lights   []Light    `json:"lights"`
	Opacity  float64    `json:"opacity" doc:"contrast ratio at the centre"`
	Load     float64    `json:"load" doc:"g of pigment in 100 g"`
	Rounding float64    `json:"rounding" doc:"what weighing in whole units costs, ΔE00 over the lights"`
	Centre   colour.Lab `json:"centre" doc:"as it will look at the centre, under daylight"`
	Edge     colour.Lab `json:"edge" doc:"and at its edge, over the same skin"`
}

// Matched is what a body may be coloured with, so that it looks like a wearer's skin.
type Matched struct {
	Targets   []Target   `json:"targets" doc:"what was read of the wearer"`
	Target    Target     `json:"target" doc:"the one that is matched"`
	Base      string     `json:"base" doc:"base of the library that the body is reckoned as"`
	Material  string     `json:"material" doc:"name of the body's product"`
	Over      string     `json:"over,omitempty" doc:"another body that lies under it: it is asked to hide that"`
	CentreMM  float64    `json:"centre_mm"`
	EdgeMM    float64    `json:"edge_mm"`
	BatchG    float64    `json:"batch_g"`
	Opacity   float64    `json:"opacity_min"`
	Proposals []Proposal `json:"proposals" doc:"the best first"`
	BaseOnly  float64    `json:"base_only" doc:"ΔE00 under daylight without any pigment"`
}

// failsFrom is from which difference on a light is named: side by side it is seen.
const failsFrom = 2.0

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

// Question is what is matched: a region that was read (the piece's own where it is
// empty), and how much base is mixed.
type Question struct {
	Region string
	Side   string
	BatchG float64
}

// Match finds recipes for the body of a piece, at its thickness, over the wearer's skin.
func (s *Service) Match(ctx context.Context, code string, ask Question) (Matched, error) {
	out := Matched{Proposals: []Proposal{}, Targets: []Target{}, BatchG: ask.BatchG}
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return out, err
	}
	if p.PerformerID == nil {
		return out, problem.Conflict("no_wearer", "%s has no wearer yet: their skin is what it is matched to.", code)
	}
	if out.Targets, err = s.Wearers.SkinOf(ctx, *p.PerformerID); err != nil {
		return out, err
	}
	if err := out.choose(p.Region, ask); err != nil {
		return out, err
	}
	doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil {
		return out, err
	}
	if number == 0 {
		return out, problem.Conflict("no_section", "The section of %s is not agreed yet: its body and its thickness are what is coloured.", code)
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	if err := out.body(doc, materials); err != nil {
		return out, err
	}
	target, err := colour.Rebuild(out.Target.Lab, "auto")
	if err != nil {
		return out, err
	}
	base, err := colour.BaseOf(out.Base)
	if err != nil {
		return out, err
	}
	q := colour.Asked{Target: target.R, Backing: target.R, Base: base, X: math.Max(0.05, out.CentreMM), Pigments: colour.All(),
		Most: 4, BatchG: ask.BatchG,
		ResolutionG: 0.01, OpacityMin: out.Opacity, OpacityMax: 1, Metamerism: 0.25}
	found, err := q.Match(ctx)
	if err != nil {
		return out, err
	}
	out.BaseOnly = found.BaseOnly.DE00[colour.D65]
	for _, alt := range found.Alternatives {
		v, err := out.proposal(q, alt)
		if err != nil {
			return out, err
		}
		out.Proposals = append(out.Proposals, v)
	}
	return out, nil
}

// choose takes the target: the region that was asked for, else the piece's own, else the
// first that was read.
func (m *Matched) choose(own string, ask Question) error {
	if len(m.Targets) == 0 {
		return problem.Conflict("no_reading", "Nobody has read this wearer's skin: read it in Brief, three times a place.")
	}
	for _, region := range []string{ask.Region, own} {
		for _, t := range m.Targets {
			if t.Region == region && (ask.Side == "" || t.Side == ask.Side) {
				m.Target = t
				return nil
			}
		}
		if ask.Region != "" {
			return problem.Invalid("unknown_value", "region", "Nobody has read the %s of this wearer.", ask.Region)
		}
	}
	m.Target = m.Targets[0]
	return nil
}

// overDark is how opaque a body is asked to be where it lies over another: what is under it
// is not the wearer's skin, and must not show.
const overDark = 0.95

// body finds what is coloured: the thickest body of the section that the library has a base
// for.
func (m *Matched) body(doc section.Section, materials material.Shelf) error {
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
			m.Material, m.Base, m.Opacity, m.CentreMM, m.EdgeMM = product.Name, base, opacity, centre, edge
		}
	})
	switch {
	case len(bodies) == 0:
		return problem.Conflict("no_body", "The section has no body that could be coloured through.")
	case m.Base == "":
		return problem.Conflict("no_base", "The library has no base for %s: nothing is reckoned with what nobody measured.",
			strings.Join(unknown, " or "))
	case bodies[0] != m.Material: // from skin to air: something else lies under it
		m.Over, m.Opacity = bodies[0], math.Max(m.Opacity, overDark)
	}
	return nil
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

// proposal writes a recipe out, with how it looks at the edge.
func (m *Matched) proposal(q colour.Asked, alt colour.Alternative) (Proposal, error) {
	out := Proposal{Opacity: alt.Contrast, Load: alt.Load, Rounding: alt.RoundingCost, Centre: alt.R.Lab(colour.D65),
		Parts: []Part{}}
	for i, d := range alt.Recipe {
		p, err := colour.PigmentOf(d.Pigment, "recipe")
		if err != nil {
			return out, err
		}
		u := alt.Rounded[i]
		part := Part{d.Pigment, p.Name, d.G, float64(u.Count) * u.UnitG, 0}
		if p.DropG > 0 {
			part.Drops = int(math.Round(part.Grams / p.DropG))
		}
		out.Parts = append(out.Parts, part)
	}
	for k, name := range colour.LightNames {
		out.Lights = append(out.Lights, Light{name, alt.DE00[k], alt.DE00[k] > failsFrom})
	}
	edge, err := q.Base.Mixed(alt.Recipe, 0)
	if err != nil {
		return out, fmt.Errorf("looking at the edge: %w", err)
	}
	thin := edge.Over(math.Max(0.01, m.EdgeMM), &q.Backing)
	out.Edge = thin.Lab(colour.D65)
	return out, nil
}
