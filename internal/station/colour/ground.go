package colour

// What a paint schedule is laid on, and what is asked about it there.

import (
	"context"
	"slices"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/paintwork"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// ground is what the schedule is laid on: the body as it was mixed last, else the body
// without colour over the wearer's skin, else the skin itself where there is no body.
func (s *Service) ground(ctx context.Context, db database.Reader, p piece.Piece, aim *Aim, known bool) (colour.Spectrum, string,
	error) {
	under := colour.UsualSkin.Reflectance()
	if known {
		under = aim.under
	}
	list, err := s.recipesOf(ctx, db, p)
	if err != nil {
		return under, "", err
	}
	if len(list) > 0 {
		if look, err := s.lookOf(ctx, db, list[0]); err == nil {
			return look, "the body as " + list[0].Code + " colours it", nil
		}
	}
	doc, _, number, err := piece.AgreedSection(ctx, db, p)
	if err != nil {
		return under, "", err
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil || number == 0 {
		return under, "the skin itself", err
	}
	m := &matching{}
	layer, err := m.body(doc, materials)
	if err != nil {
		return under, "the skin itself", nil // no body that the library knows
	}
	base, err := colour.BaseOf(m.Base)
	if err != nil {
		return under, "", err
	}
	all, err := pigments(ctx, db, materials)
	if err != nil {
		return under, "", err
	}
	stirred := into(all, m.product, materials, base, soft(layer, materials))
	var doses []colour.Dose
	for _, w := range layer.With {
		if slices.ContainsFunc(stirred, func(x Pigment) bool { return x.Material == w.Material }) {
			doses = append(doses, colour.Dose{Pigment: w.Material, G: w.Percent / (1 + soft(layer, materials))})
		}
	}
	mixed, err := base.MixedOf(palette(stirred), doses, 0)
	if err != nil {
		return under, "", err
	}
	words := m.Material + ", bare"
	if len(doses) > 0 {
		words = m.Material + " with what its section stirs in"
	}
	return mixed.Over(max(0.05, m.CentreMM), &under), words, nil
}

// waits tells how long a film of a medium dries in the shop's air.
func (s *Service) waits(ctx context.Context, db database.Reader, materials material.Shelf) func(string, float64) float64 {
	air, _, err := s.Pieces.Air.Now(ctx, db)
	if err != nil {
		return nil
	}
	at := drying.PlaceIn("still", "skin", air.TempC, air.RH)
	return func(slug string, mm float64) float64 {
		name := materials[slug].Film
		if !slices.Contains(drying.Films, name) {
			return 0 // nobody knows how this film dries
		}
		wet := drying.UsualFilm(name)
		wet.WetM = mm / 1000
		course, err := at.Film(name, wet)
		if err != nil {
			return 0
		}
		return course.Times["dry"]
	}
}

// says asks the rule book about the schedule as it would lie on the agreed section: its
// colours take the place of those that the section has.
func (s *Service) says(ctx context.Context, db database.Reader, p piece.Piece, doc paintwork.Schedule,
	materials material.Shelf) ([]rules.Finding, error) {
	out := []rules.Finding{}
	sec, _, number, err := piece.AgreedSection(ctx, db, p)
	if err != nil {
		return out, err
	}
	if number == 0 {
		// A look of paint alone: the colours lie on bare skin.
		sec = section.Start(0)
	}
	painted := doc.InSection(materials)
	ids := map[string]bool{}
	for _, l := range painted {
		ids[l.ID] = true
	}
	sec.Cut = repainted(sec.Cut, painted)
	sec.More = nil
	c, err := s.Pieces.Work(ctx, db, p, sec)
	if err != nil {
		return out, err
	}
	for _, f := range c.Findings {
		if ids[f.Above] || ids[f.Below] {
			out = append(out, f)
		}
	}
	return out, nil
}

// repainted is a cut with other colours: those and what set them go out, the others in
// where they lay, else on top.
func repainted(cut section.Cut, painted []section.Layer) section.Cut {
	at := -1
	var layers []section.Layer
	for i, l := range cut.Layers {
		follows := i > 0 && cut.Layers[i-1].Kind == section.Paint && (l.Kind == section.Powder || l.Kind == section.Seal)
		if l.Kind == section.Paint && !l.ShowsThrough || follows {
			if at < 0 {
				at = len(layers)
			}
			continue
		}
		layers = append(layers, l)
	}
	if at < 0 {
		at = len(layers)
	}
	cut.Layers = slices.Insert(layers, at, painted...)
	return cut
}
