package mix

import (
	"context"
	"fmt"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shelf"
)

// Listed is a recipe in the list of the mixing room.
type Listed struct {
	Slug      string  `json:"slug"`
	Name      string  `json:"name"`
	Group     string  `json:"group"`
	Makes     string  `json:"makes"`
	MakesName string  `json:"makes_name"`
	Family    string  `json:"family"`
	Number    int     `json:"number" doc:"agreed version; 0 as it came"`
	Touch     string  `json:"touch" enum:"mouth,skin,off_skin"`
	KeepH     float64 `json:"keep_h"`
	Like      string  `json:"like,omitempty"`
}

// Recipes lists what the shop can mix.
func (s *Service) Recipes(ctx context.Context) ([]Listed, error) {
	list, materials, kept, err := s.all(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]Listed, len(kept))
	for i, k := range kept {
		p := materials[k.Recipe.Makes]
		out[i] = Listed{Slug: k.Slug, Name: k.Recipe.Name, Group: k.Recipe.Group, Makes: k.Recipe.Makes, MakesName: p.Name, Family: string(p.Family), Number: k.Number,
			Touch: k.Recipe.Follow(list, materials).Touch, KeepH: k.Recipe.KeepH, Like: k.Recipe.Like}
	}
	return out, nil
}

func (s *Service) all(ctx context.Context) (substance.List, material.Shelf, []recipes.Kept, error) {
	list, materials, err := shelf.Both(ctx, s.DB)
	if err != nil {
		return nil, nil, nil, err
	}
	kept, err := recipes.All(ctx, s.DB, materials)
	return list, materials, kept, err
}

// Wanted are the materials that a piece's agreed section takes, each with the
// recipes that make it: what a sheet is begun from.
func (s *Service) Wanted(ctx context.Context, code string) ([]Wanted, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	list, err := s.Build.Wanted(ctx, p)
	if err != nil {
		return nil, err
	}
	_, _, kept, err := s.all(ctx)
	if err != nil {
		return nil, err
	}
	for i := range list {
		list[i].Recipes = []Choice{}
		for _, k := range recipes.Of(kept, list[i].Material) {
			list[i].Recipes = append(list[i].Recipes, Choice{k.Slug, k.Recipe.Name})
		}
		// What the section stirs in by itself is put into the product's own sheet.
		if len(list[i].With) > 0 || list[i].Body {
			preferSheet(list[i].Recipes, recipes.SheetOf(list[i].Material))
		}
	}
	return list, nil
}

// preferSheet puts a product's own sheet first.
func preferSheet(list []Choice, sheet string) {
	for i, c := range list {
		if c.Slug == sheet {
			copy(list[1:i+1], list[:i])
			list[0] = c
			return
		}
	}
}

// Exposed is how long somebody spent with fumes or dust on a day.
type Exposed struct {
	Person  string  `db:"person" json:"person"`
	What    string  `db:"what" json:"what"`
	Day     string  `db:"day" json:"day"`
	Minutes float64 `db:"minutes" json:"minutes"`
	Open    bool    `db:"open" json:"open" doc:"it is still going on"`
}

// Exposures are the minutes of the last days: everybody's for a lead, one's own for
// others.
func (s *Service) Exposures(ctx context.Context, days int) ([]Exposed, error) {
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	since := now.Add(-time.Duration(max(1, days)) * 24 * time.Hour)
	person := who.ID
	if who.Role == accounts.Lead {
		person = 0
	}
	out := []Exposed{}
	err := s.DB.SelectContext(ctx, &out, `SELECT p.name AS person, e.what, DATE_FORMAT(e.began_at, '%Y-%m-%d') AS day, SUM(TIMESTAMPDIFF(SECOND, e.began_at, COALESCE(e.ended_at, ?))) / 60 AS minutes, MAX(e.ended_at IS NULL) AS open
		FROM exposure e JOIN person p ON p.id = e.person_id WHERE e.began_at >= ? AND (? = 0 OR e.person_id = ?) GROUP BY p.name, e.what, day ORDER BY day DESC, p.name, e.what`, now, since, person, person)
	if err != nil {
		return nil, fmt.Errorf("reading the minutes: %w", err)
	}
	return out, nil
}
