package mix

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
	"yewmoor/internal/shelf"
)

// Plan writes a pour sheet down, ready for the bench: as one mix, or as many as its
// limits want.
func (s *Service) Plan(ctx context.Context, o Order) (View, error) {
	var first string
	err := s.DB.InTx(ctx, func(tx database.Tx) (err error) {
		first, err = s.planIn(ctx, tx, o)
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", first)
	if o.Piece != "" {
		s.Live.Tell(ctx, "pieces", o.Piece)
	}
	return s.View(ctx, first)
}

// planIn writes it down inside somebody's act, and answers the first of its mixes.
func (s *Service) planIn(ctx context.Context, tx database.Tx, o Order) (first string, err error) {
	sheet, err := s.sheet(ctx, tx, o)
	if err != nil {
		return "", err
	}
	p, number, err := s.mayPlan(ctx, tx, o, sheet)
	if err != nil {
		return "", err
	}
	if sheet.Short != "" {
		return "", problem.Conflict("short", "%s Nothing was recorded.", sheet.Short)
	}
	if err := whyNotFirst(sheet); err != nil {
		return "", err
	}
	for i, size := range sheet.Mixes.Sizes {
		code, err := s.write(ctx, tx, o, sheet, p, number, size)
		if err != nil {
			return "", err
		}
		if i == 0 {
			first = code
		}
	}
	if p.ID != 0 {
		return first, round.Forward(ctx, tx, p.ID, round.Mix)
	}
	return first, nil
}

// mayPlan asks the section and the rule book whether this may be mixed at all.
func (s *Service) mayPlan(ctx context.Context, tx database.Tx, o Order, sheet Sheet) (piece.Piece, int, error) {
	var stuff []string
	for _, l := range sheet.Lines {
		stuff = append(stuff, l.Material)
	}
	if o.Piece == "" {
		return piece.Piece{}, 0, s.Build.AskStuff(ctx, tx, piece.Piece{}, 0, "", stuff...)
	}
	p, err := piece.Find(ctx, tx, o.Piece)
	if err != nil {
		return p, 0, err
	}
	if p.SectionNumber == 0 {
		return p, 0, problem.Conflict("no_section", "The section of %s is not agreed yet: agree it first, so that what is poured is what was meant.", p.Code)
	}
	if err := s.Build.MayMix(ctx, tx, p, p.SectionNumber, sheet.Makes); err != nil {
		return p, 0, err
	}
	return p, p.SectionNumber, s.Build.AskStuff(ctx, tx, p, p.SectionNumber, "", stuff...)
}

// write writes one mix of some of the sheet's pours.
func (s *Service) write(ctx context.Context, tx database.Tx, o Order, sheet Sheet, p piece.Piece, section, pours int) (string, error) {
	who, _ := accounts.From(ctx)
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return "", err
	}
	part := sheet.Amount
	part.Pours, part.Grams = pours, sheet.Amount.Grams*float64(pours)/float64(sheet.Amount.Pours)
	targets, err := craft.PourSheet(sheet.Recipe.Mix(materials), part.Grams, s.divisionG())
	if err != nil {
		return "", err
	}
	grams, total := map[string]float64{}, 0.0
	for _, t := range targets {
		grams[t.ID] = t.Grams
		total += t.Grams
	}
	house, errR := json.Marshal(sheet.Recipe)
	amount, errA := json.Marshal(part)
	if errR != nil || errA != nil {
		return "", fmt.Errorf("writing the sheet: %w %w", errR, errA)
	}
	number, err := database.NextNumber(ctx, tx, "mix")
	if err != nil {
		return "", err
	}
	code, now := fmt.Sprintf("X-%04d", number), s.Clock.Now()
	var pieceID, sectionNumber any
	if p.ID != 0 {
		pieceID, sectionNumber = p.ID, section
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO mix (code, piece_id, section_number, material_id, recipe, recipe_slug, recipe_number, amount, planned_g, pours, water_c, planned_at, planned_by)
		SELECT ?,?,?,id,?,?,?,?,?,?,?,?,? FROM material WHERE slug = ?`, code, pieceID, sectionNumber, string(house), o.Recipe, sheet.Number, string(amount), math.Round(total*1e4)/1e4, pours,
		positive(o.WaterC), now, who.ID, sheet.Makes)
	if err != nil {
		return "", fmt.Errorf("writing the mix: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return "", err
	}
	lots := map[string]SheetLine{}
	for _, l := range sheet.Lines {
		lots[l.Ingredient] = l
	}
	for i, st := range sheet.Steps {
		if st.Act != recipe.Weigh {
			raw, err := json.Marshal(st)
			if err != nil {
				return "", err
			}
			if _, err := tx.ExecContext(ctx, `INSERT INTO mix_step (mix_id, seq, plan) VALUES (?,?,?)`, id, i+1, string(raw)); err != nil {
				return "", fmt.Errorf("writing the steps: %w", err)
			}
			continue
		}
		l := lots[st.Line]
		if _, err := tx.ExecContext(ctx, `INSERT INTO mix_line (mix_id, seq, ingredient, material_id, lot_id, planned_g, why_lot) SELECT ?,?,?,id,?,?,? FROM material WHERE slug = ?`,
			id, i+1, l.Ingredient, l.lotID, quantity.Grams(grams[l.Ingredient]), l.why, l.Material); err != nil {
			return "", fmt.Errorf("writing the sheet: %w", err)
		}
	}
	words := sheet.Name + ": " + part.Amount.String()
	for _, l := range sheet.Lines {
		if l.why != "" {
			words += fmt.Sprintf("; lot %s of %s: %s", l.Lot, l.Name, l.why)
		}
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "mix", Code: code, Act: "planned", Words: words})
	return code, err
}
