package mix

import (
	"context"
	"errors"
	"net/http"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// usualPourMin is how long one copy is poured, minutes, where nobody says: our own figure.
const usualPourMin = 4

// Divided is in how many mixes so many copies of a piece are poured by one pair of hands: under the pot life of what its body is made
// of, the shop's largest bowl and the moulds that may be filled; 0 moulds where none is taken. bar says why nobody can say.
func (s *Service) Divided(ctx context.Context, piece string, copies, moulds int) (out mix.BatchPlan, bar string, err error) {
	list, err := s.Wanted(ctx, piece)
	if err != nil {
		return out, "", err
	}
	i := slices.IndexFunc(list, func(w Wanted) bool { return w.Body && len(w.Recipes) > 0 && w.EachG > 0 })
	if i < 0 || copies < 1 {
		return out, "", nil
	}
	o := Order{Piece: piece, Recipe: list[i].Recipes[0].Slug, Split: Split{PourMin: usualPourMin, Hands: 1, Moulds: moulds}}
	o.Amount.Each = &struct {
		Grams float64 `json:"grams"`
	}{list[i].EachG}
	o.Amount.Copies, o.Amount.Waste = copies, material.UsualWaste
	sheet, err := s.sheet(ctx, s.DB, o)
	var no *problem.Problem
	if errors.As(problem.From(err), &no) && no.Status == http.StatusUnprocessableEntity {
		return out, no.Detail, nil
	}
	return sheet.Mixes, "", err
}

// largestBowl is what the largest bowl of the shop holds to the brim, ml; 0 where nobody said.
func (s *Service) largestBowl(ctx context.Context, db database.Reader) (float64, error) {
	var ml float64
	err := db.GetContext(ctx, &ml, `SELECT COALESCE(MAX(holds_ml), 0) FROM tool WHERE kind = 'bowl' AND held > 0`)
	return ml, err
}
