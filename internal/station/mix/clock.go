package mix

import (
	"context"
	"errors"
	"math"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// working is how long the mix may be poured: along the room's log for what cures by
// a sheet, else by the recipe's clock.
func (s *Service) working(ctx context.Context, db database.Reader, house recipe.Recipe, materials material.Shelf, m row,
	lines []lineRow) (cure.WorkingTime, error) {
	if house.Clock == recipe.CureTime {
		sheet, tooMuch := cureSheet(house, materials, lines)
		if sheet == nil || tooMuch != nil && len(lines) == 0 {
			return cure.WorkingTime{}, tooMuch
		}
		return s.Build.WorkingTime(ctx, db, *sheet, m.ContactAt)
	}
	if house.Clock == recipe.NoClock {
		return cure.WorkingTime{}, nil
	}
	air, err := s.Build.RoomNow(ctx, db)
	if err != nil {
		return cure.WorkingTime{}, err
	}
	around := recipe.Around{RoomC: air.TempC, RH: air.RH, Dose: dose(house, materials, lines)}
	if m.RoomC != nil && m.RH != nil { // as it was when the clock began
		around.RoomC, around.RH = *m.RoomC, *m.RH
	}
	if m.WaterC != nil {
		around.WaterC = *m.WaterC
	}
	if house.Clock == recipe.GelTime {
		if around.Before, err = s.gelled(ctx, db); err != nil {
			return cure.WorkingTime{}, err
		}
	}
	pot, runs := house.Poured(materials, around)
	if !runs {
		return cure.WorkingTime{}, nil
	}
	out := cure.WorkingTime{TempC: around.RoomC, Measured: air.Measured, SheetS: pot.PotS, RefC: around.RoomC, LeftS: pot.PotS,
		LowS: pot.LowS, HighS: pot.HighS}
	if m.ContactAt != nil {
		gone := s.Clock.Now().Sub(*m.ContactAt).Seconds()
		out.Started = true
		out.LeftS, out.LowS, out.HighS = math.Max(0, pot.PotS-gone), math.Max(0, pot.LowS-gone), math.Max(0, pot.HighS-gone)
		out.Over = gone >= pot.PotS
	}
	return out, nil
}

// dose is how much of what sets a mix off is in it, relative to the recipe's.
func dose(house recipe.Recipe, materials material.Shelf, lines []lineRow) float64 {
	shares, err := house.Mix(materials).Shares()
	if err != nil || len(lines) == 0 {
		return 1
	}
	in, all := map[string]float64{}, 0.0
	for _, l := range lines {
		in[l.Ingredient] = l.InCupG
		all += l.InCupG
	}
	for i := len(house.Lines) - 1; i >= 0; i-- {
		l := house.Lines[i]
		if !l.Sets {
			continue
		}
		for _, sh := range shares {
			if sh.ID == l.ID && in[l.ID] > 0 && sh.Fraction > 0 {
				return in[l.ID] / all / sh.Fraction
			}
		}
		break
	}
	return 1
}

// cureSheet is the sheet by which a mix cures with what moves its cure: as it was
// weighed, what is not weighed yet as it is planned; without lines as the recipe
// has it. Of too much it gives the sheet of the most that is known, and says so.
func cureSheet(house recipe.Recipe, materials material.Shelf, lines []lineRow) (*material.CureSheet, error) {
	grams, whole := map[string]float64{}, 0.0
	note := func(slug string, g float64) {
		grams[slug] += g
		whole += g
	}
	for _, l := range lines {
		note(l.Material, math.Max(l.InCupG, 0))
		if !l.Done && l.InCupG < l.PlannedG {
			note(l.Material, l.PlannedG-math.Max(l.InCupG, 0))
		}
	}
	if len(lines) == 0 {
		shares, err := house.Mix(materials).Shares()
		if err != nil {
			return nil, err
		}
		for _, sh := range shares {
			l, _ := house.Of(sh.ID)
			note(l.Material, sh.Fraction)
		}
	}
	for slug := range grams {
		grams[slug] /= whole
	}
	sheet, err := materials.CureWith(house.Makes, grams)
	var no *refusal.Error
	if errors.As(err, &no) {
		err = problem.Invalid(no.Code, "additions", "%s", no.Detail)
	}
	return sheet, err
}
