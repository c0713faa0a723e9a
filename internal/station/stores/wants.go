package stores

import (
	"context"
	"fmt"
	"slices"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/recipes"
)

// Want is what planned work takes of a material, and when.
type Want struct {
	For      string    `json:"for" doc:"a mix, a kit that is packed, a run, or a piece with the copies that are missing"`
	Material string    `json:"material"`
	Grams    float64   `json:"grams"`
	On       time.Time `json:"on"`
	Body     bool      `json:"-"` // it is what a copy is made of, not what is put on it afterwards
}

// Work tells the stores what runs and pieces will take.
type Work interface {
	// Wants are those of open runs and of copies that days still ask for.
	Wants(ctx context.Context, db database.Reader) ([]Want, error)
	// PieceWants is what so many copies of one piece take.
	PieceWants(ctx context.Context, piece string, copies int) ([]Want, error)
}

// wants are what mixes on the bench still take, runs that are open, and the copies
// that days ask for. What a recipe makes and the shelf does not hold is wanted as its
// ingredients.
func (s *Service) wants(ctx context.Context, materials material.Shelf, lots []Lot) ([]Want, error) {
	var mixes []struct {
		Code     string
		Material string
		Grams    float64
	}
	err := s.DB.SelectContext(ctx, &mixes, `SELECT x.code, m.slug AS material, SUM(GREATEST(0, n.planned_g - COALESCE((SELECT SUM(w.grams) FROM weigh_in w WHERE w.mix_line_id = n.id), 0))) AS grams
		FROM mix x JOIN mix_line n ON n.mix_id = x.id JOIN material m ON m.id = n.material_id WHERE x.state IN ('planned','weighing') AND n.lot_id IS NOT NULL AND n.done = FALSE GROUP BY x.code, m.slug`)
	if err != nil {
		return nil, fmt.Errorf("reading what mixes take: %w", err)
	}
	now := s.Clock.Now()
	var out []Want
	for _, m := range mixes {
		out = append(out, Want{For: m.Code, Material: m.Material, Grams: m.Grams, On: now})
	}
	kits, err := s.kitWants(ctx)
	if err != nil {
		return nil, err
	}
	out = append(out, kits...)
	work, err := s.Work.Wants(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	kept, err := recipes.All(ctx, s.DB, materials)
	if err != nil {
		return nil, err
	}
	have := map[string]float64{}
	for _, l := range lots {
		if l.Refused == "" {
			have[l.Material] += l.OnHandG
		}
	}
	for _, w := range work {
		if w.Grams <= 0 {
			continue
		}
		if have[w.Material] >= w.Grams || materials[w.Material].Ratio != nil {
			have[w.Material] -= w.Grams
			out = append(out, w)
			continue
		}
		made := recipes.Of(kept, w.Material)
		if len(made) == 0 {
			out = append(out, w)
			continue
		}
		for _, n := range ingredients(made[0].Recipe, w.Grams, materials) {
			out = append(out, Want{For: w.For, Material: n.slug, Grams: n.grams, On: w.On})
		}
	}
	return out, nil
}

type need struct {
	slug  string
	grams float64
}

// ingredients are what so much of a recipe takes of each material that lots are kept
// of.
func ingredients(r recipe.Recipe, grams float64, materials material.Shelf) []need {
	sheet, err := mix.PourSheet(r.Mix(materials), grams, 0.01)
	if err != nil {
		return nil
	}
	var out []need
	for _, t := range sheet {
		l, _ := r.Of(t.ID)
		if materials[l.Material].Tap {
			continue
		}
		if i := slices.IndexFunc(out, func(n need) bool { return n.slug == l.Material }); i >= 0 {
			out[i].grams += t.Grams
		} else {
			out = append(out, need{l.Material, t.Grams})
		}
	}
	return out
}
