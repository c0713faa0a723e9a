package mix

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
	"yewmoor/internal/shelf"
)

// Sheet works out a pour sheet without saving it.
func (s *Service) Sheet(ctx context.Context, o Order) (Sheet, error) {
	return s.sheet(ctx, s.DB, o)
}

func (s *Service) sheet(ctx context.Context, db database.Reader, o Order) (Sheet, error) {
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return Sheet{}, err
	}
	body, known := materials[o.Material]
	if !known || body.Ratio == nil || body.Cure == nil {
		return Sheet{}, problem.Invalid("unknown_value", "material", "Choose a two-part silicone.")
	}
	if _, err := piece.Find(ctx, db, o.Piece); err != nil {
		return Sheet{}, err
	}
	recipe, err := recipeOf(body, o.Additions, materials)
	if err != nil {
		return Sheet{}, err
	}
	if o.Amount.Density == 0 {
		o.Amount.Density = body.Density
	}
	out := Sheet{Recipe: recipe, Cautions: []string{}}
	if out.Amount, err = o.Amount.Work(); err != nil {
		return Sheet{}, err
	}
	targets, err := craft.PourSheet(recipe, out.Amount.Grams, s.divisionG())
	if err != nil {
		return Sheet{}, err
	}
	today := clock.DayNumber(s.Clock.Now())
	byID := map[string]float64{}
	for _, t := range targets {
		byID[t.ID] = t.Grams
		out.TotalG += t.Grams
	}
	kit, kitLots, err := s.chooseKit(ctx, db, body, o.Kit, recipe, byID["A"]+byID["B"], today)
	if err != nil {
		return Sheet{}, err
	}
	out.add(body, SheetLine{Ingredient: "A", Name: "Part A, " + body.Name, Grams: byID["A"], Lot: kit.Code, Choice: kit, lotID: kitLots["A"]})
	for i, a := range o.Additions {
		p := materials[a.Material]
		choice, id, err := s.chooseLot(ctx, db, p, a.Lot, byID[a.Material], today, fmt.Sprintf("additions[%d].lot", i))
		if err != nil {
			return Sheet{}, err
		}
		line := SheetLine{Ingredient: a.Material, Name: p.Name, Grams: byID[a.Material], Lot: choice.Code, Choice: choice, lotID: id}
		if d, needs := craft.NeedsLetDown(line.Grams, s.divisionG()); needs {
			line.LetDown = letDownWords(p.Name, d, byID["softener"], s.divisionG())
		}
		out.add(p, line)
	}
	out.add(body, SheetLine{Ingredient: "B", Name: "Part B, " + body.Name, Grams: byID["B"], Lot: kit.Code, Choice: kit, lotID: kitLots["B"]})
	out.Working, err = s.Build.WorkingTime(ctx, db, *body.Cure, nil)
	return out, err
}

// divisionG is what the scale of this bench tells apart, g.
func (s *Service) divisionG() float64 {
	if g := s.Scale.DivisionG(); g > 0 {
		return g
	}
	return craft.UsualResolutionG
}

// letDownWords says how a little of something gets into the cup.
func letDownWords(name string, d craft.LetDown, softenerG, divisionG float64) string {
	carrier := "part A"
	if softenerG > d.LessG {
		carrier = "the softener"
	}
	return fmt.Sprintf("Too little for a scale that shows %g g: stir one part of %s into %g of %s, weigh %s of that here, and %s less of %s. Or read it off a finer scale.",
		divisionG, strings.ToLower(name), d.Parts, carrier, quantity.FormatMass(d.WeighG), quantity.FormatMass(d.LessG), carrier)
}

func (s *Sheet) add(p material.Product, l SheetLine) {
	s.Lines = append(s.Lines, l)
	if l.Choice.Short != "" && s.Short == "" {
		s.Short = l.Name + ": " + l.Choice.Short
	}
	if p.Caution != "" && !slices.Contains(s.Cautions, p.Caution) {
		s.Cautions = append(s.Cautions, p.Caution)
	}
}

func recipeOf(body material.Product, additions []Addition, shelf material.Shelf) (craft.Recipe, error) {
	r := craft.Recipe{ByVolume: body.Ratio.ByVolume, Parts: []craft.Part{
		{ID: "A", Parts: body.Ratio.A, Density: body.Ratio.DensityA}, {ID: "B", Parts: body.Ratio.B, Density: body.Ratio.DensityB}}}
	for i, a := range additions {
		p, known := shelf[a.Material]
		limit := p.StirLimit(body.Family)
		if !known || limit == 0 {
			return r, problem.Invalid("unknown_value", fmt.Sprintf("additions[%d].material", i), "Choose a softener, a pigment or a flock.")
		}
		if a.Percent <= 0 || a.Percent > limit {
			return r, problem.Invalid("out_of_range", fmt.Sprintf("additions[%d].percent", i), "%s: above 0 and at most %g %%.", p.Name, limit)
		}
		r.Additions = append(r.Additions, craft.Addition{ID: a.Material, Percent: a.Percent, Of: a.Of})
	}
	return r, nil
}

// chooseKit finds the lot pair: first expired first out, or the one asked for
// unless it may not be used.
func (s *Service) chooseKit(ctx context.Context, db database.Reader, p material.Product, wanted string, r craft.Recipe, needG float64, today int) (stock.Choice, map[string]uint64, error) {
	lots, err := s.Stores.LotsOf(ctx, db, p.Slug)
	if err != nil {
		return stock.Choice{}, nil, err
	}
	shares, err := r.Shares()
	if err != nil {
		return stock.Choice{}, nil, err
	}
	plain := make([]stock.Lot, len(lots))
	for i, l := range lots {
		plain[i] = l.Lot
	}
	choice := stock.Pair(plain, shares[0].Fraction, shares[1].Fraction, needG, today)
	if err := insist(&choice, wanted, "kit"); err != nil {
		return choice, nil, err
	}
	ids := map[string]uint64{}
	for _, l := range lots {
		if l.Code == choice.Code {
			ids[l.Part] = l.ID
		}
	}
	return choice, ids, nil
}

func (s *Service) chooseLot(ctx context.Context, db database.Reader, p material.Product, wanted string, needG float64, today int, field string) (stock.Choice, uint64, error) {
	lots, err := s.Stores.LotsOf(ctx, db, p.Slug)
	if err != nil {
		return stock.Choice{}, 0, err
	}
	plain := make([]stock.Lot, len(lots))
	for i, l := range lots {
		plain[i] = l.Lot
	}
	choice := stock.Single(plain, needG, today)
	if err := insist(&choice, wanted, field); err != nil {
		return choice, 0, err
	}
	for _, l := range lots {
		if l.Code == choice.Code {
			return choice, l.ID, nil
		}
	}
	return choice, 0, nil
}

// insist takes the lot that a person asked for, or refuses it with the reason.
func insist(c *stock.Choice, wanted, field string) error {
	if wanted == "" {
		return nil
	}
	for _, o := range c.Options {
		if o.Code != wanted {
			continue
		}
		if o.Refused != "" {
			return problem.Invalid("lot_refused", field, "Lot %s may not be used: %s.", wanted, o.Refused)
		}
		c.Code, c.Short = wanted, ""
		return nil
	}
	return problem.Invalid("unknown_value", field, "There is no lot %s of this material.", wanted)
}

// Plan writes a pour sheet down as a mix, ready for the bench.
func (s *Service) Plan(ctx context.Context, o Order) (View, error) {
	who, _ := accounts.From(ctx)
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, o.Piece)
		if err != nil {
			return err
		}
		if p.SectionNumber == 0 {
			return problem.Conflict("no_section", "The section of %s is not agreed yet: agree it first, so that what is poured is what was meant.", p.Code)
		}
		if err := s.Build.MayMix(ctx, tx, p, p.SectionNumber, o.Material); err != nil {
			return err
		}
		stuff := []string{o.Material}
		for _, a := range o.Additions {
			stuff = append(stuff, a.Material)
		}
		if err := s.Build.AskStuff(ctx, tx, p, p.SectionNumber, "", stuff...); err != nil {
			return err
		}
		sheet, err := s.sheet(ctx, tx, o)
		if err != nil {
			return err
		}
		if sheet.Short != "" {
			return problem.Conflict("short", "%s Nothing was recorded.", sheet.Short)
		}
		recipe, errR := json.Marshal(sheet.Recipe)
		amount, errA := json.Marshal(sheet.Amount)
		if errR != nil || errA != nil {
			return fmt.Errorf("writing the sheet: %w %w", errR, errA)
		}
		number, err := database.NextNumber(ctx, tx, "mix")
		if err != nil {
			return err
		}
		code = fmt.Sprintf("X-%04d", number)
		now := s.Clock.Now()
		res, err := tx.ExecContext(ctx, `INSERT INTO mix (code, piece_id, section_number, material_id, recipe, amount, planned_g, pours, planned_at, planned_by)
			SELECT ?,?,?,id,?,?,?,?,?,? FROM material WHERE slug = ?`, code, p.ID, p.SectionNumber, string(recipe), string(amount), math.Round(sheet.TotalG*1e4)/1e4, sheet.Amount.Pours, now, who.ID, o.Material)
		if err != nil {
			return fmt.Errorf("writing the mix: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		for i, l := range sheet.Lines {
			if _, err := tx.ExecContext(ctx, `INSERT INTO mix_line (mix_id, seq, ingredient, lot_id, planned_g) VALUES (?,?,?,?,?)`, id, i+1, l.Ingredient, l.lotID, quantity.Grams(l.Grams)); err != nil {
				return fmt.Errorf("writing the sheet: %w", err)
			}
		}
		if err := round.Forward(ctx, tx, p.ID, round.Mix); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "mix", Code: code, Act: "planned", Words: sheet.Amount.Amount.String()})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", code)
	s.Live.Tell(ctx, "pieces", o.Piece)
	return s.View(ctx, code)
}
