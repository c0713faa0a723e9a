package mix

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/recipes"
	"yewmoor/internal/round"
	"yewmoor/internal/shelf"
)

// Sheet works out a pour sheet without saving it.
func (s *Service) Sheet(ctx context.Context, o Order) (Sheet, error) {
	out, err := s.sheet(ctx, s.DB, o)
	if err != nil {
		return out, err
	}
	out.Learned, err = s.learned(ctx, s.DB, o.Recipe)
	return out, err
}

// bowlFull is how full a bowl is filled at most: what is whisked or degassed rises.
const bowlFull = 0.85

func (s *Service) sheet(ctx context.Context, db database.Reader, o Order) (Sheet, error) {
	list, materials, err := shelf.Both(ctx, db)
	if err != nil {
		return Sheet{}, err
	}
	house, number, err := recipes.Agreed(ctx, db, o.Recipe, materials)
	if err != nil {
		return Sheet{}, err
	}
	if o.Piece != "" {
		if _, err := piece.Find(ctx, db, o.Piece); err != nil {
			return Sheet{}, err
		}
	}
	if house, err = o.with(house, materials); err != nil {
		return Sheet{}, err
	}
	out := Sheet{Name: house.Name, Makes: house.Makes, Number: number, Recipe: house, Steps: house.Order(), Follows: house.Follow(list, materials), Lines: []SheetLine{}}
	makes := materials[house.Makes]
	rise := o.rise(house)
	if o.Amount.Density == 0 {
		// A hollow takes foam by what it weighs once it has risen.
		o.Amount.Density = makes.Mixed() / rise
	}
	if out.Amount, err = o.Amount.Work(); err != nil {
		return Sheet{}, err
	}
	recipeG := house.Mix(materials)
	targets, err := craft.PourSheet(recipeG, out.Amount.Grams, s.divisionG())
	if err != nil {
		return Sheet{}, atLine(err, house)
	}
	grams := map[string]float64{}
	for _, t := range targets {
		grams[t.ID] = t.Grams
		out.TotalG += t.Grams
	}
	out.VolumeML = out.TotalG / makes.Mixed() * rise
	if err := s.lines(ctx, db, &out, o, materials, grams); err != nil {
		return Sheet{}, err
	}
	if out.Working, err = s.working(ctx, db, house, materials, row{WaterC: positive(o.WaterC)}, nil); err != nil {
		return Sheet{}, err
	}
	out.Mixes, err = o.split(out, rise)
	return out, err
}

func positive(x float64) *float64 {
	if x > 0 {
		return &x
	}
	return nil
}

func (o Order) rise(house recipe.Recipe) float64 {
	if o.Rise >= 1 {
		return o.Rise
	}
	return math.Max(1, house.Rise)
}

// with is the recipe with what the order changes of it, checked.
func (o Order) with(house recipe.Recipe, materials material.Shelf) (recipe.Recipe, error) {
	into := materials[house.Makes].Family
	var more []recipe.Line
	for i, a := range o.Additions {
		p, known := materials[a.Material]
		_, has := house.Of(a.Material)
		limit := p.StirLimit(into)
		at := func(field string) string { return fmt.Sprintf("additions[%d].%s", i, field) }
		switch {
		case !known || limit == 0 && !has:
			return house, problem.Invalid("unknown_value", at("material"), "Choose what may be stirred into it.")
		case a.Percent < 0 || limit > 0 && a.Percent > limit:
			return house, problem.Invalid("out_of_range", at("percent"), "%s: above 0 and at most %g %%.", p.Name, limit)
		case a.Percent == 0 && !has:
			return house, problem.Invalid("out_of_range", at("percent"), "%s: above 0 and at most %g %%.", p.Name, limit)
		}
		more = append(more, recipe.Line{ID: a.Material, Material: a.Material, Percent: a.Percent, Of: a.Of})
	}
	return house.With(more...), nil
}

// atLine moves a refusal of the arithmetic to the field of the recipe's line.
func atLine(err error, house recipe.Recipe) error {
	var no *refusal.Error
	if errors.As(err, &no) && (strings.HasPrefix(no.Field, "parts") || strings.HasPrefix(no.Field, "additions")) {
		return problem.Invalid(no.Code, "recipe", "%s: %s", house.Name, no.Detail)
	}
	return err
}

// lines finds a lot for every line, in the order of pouring.
func (s *Service) lines(ctx context.Context, db database.Reader, out *Sheet, o Order, materials material.Shelf, grams map[string]float64) error {
	taken := map[string]Taken{}
	for _, t := range o.Lots {
		taken[t.Line] = t
	}
	today := clock.DayNumber(s.Clock.Now())
	shares, err := out.Recipe.Mix(materials).Shares()
	if err != nil {
		return err
	}
	share := map[string]float64{}
	for _, sh := range shares {
		share[sh.ID] = sh.Fraction
	}
	kits := map[string]kit{}
	for _, st := range out.Steps {
		if st.Act != recipe.Weigh {
			continue
		}
		l, _ := out.Recipe.Of(st.Line)
		p := materials[l.Material]
		line := SheetLine{Ingredient: l.ID, Material: l.Material, Name: nameOf(l, p), Of: of(l, materials, out.Recipe), Grams: grams[l.ID], Tap: p.Tap, TopUp: l.TopUp}
		switch {
		case p.Tap:
		case l.Kit != "":
			k, chosen := kits[l.Material]
			if !chosen {
				if k, err = s.chooseKit(ctx, db, out.Recipe, l.Material, share, grams, taken, today); err != nil {
					return err
				}
				kits[l.Material] = k
			}
			line.Lot, line.Choice, line.lotID, line.why = k.choice.Code, k.choice, k.ids[l.Kit], k.why
		default:
			t := taken[l.ID]
			choice, id, err := s.chooseLot(ctx, db, p, t, line.Grams, today)
			if err != nil {
				return err
			}
			line.Lot, line.Choice, line.lotID, line.why = choice.Code, choice, id, t.Why
		}
		if d, needs := craft.NeedsLetDown(line.Grams, s.divisionG()); needs && !l.TopUp {
			carrier, carrierG := carrierOf(out.Recipe, l.ID, grams)
			line.LetDown = letDownWords(line.Name, d, carrier, carrierG, s.divisionG(), materials)
			for _, h := range recipe.Library() {
				if at, has := h.Of(l.Material); has && at.Parts > 0 && h.Group == "Let-downs" && h.Makes != l.Material {
					line.LetDownRecipe = h.Slug
				}
			}
		}
		out.Lines = append(out.Lines, line)
		if line.Choice.Short != "" && out.Short == "" {
			out.Short = line.Name + ": " + line.Choice.Short
		}
	}
	return nil
}

func nameOf(l recipe.Line, p material.Product) string {
	switch {
	case l.Kit != "":
		return "Part " + l.Kit + ", " + p.Name
	case l.TopUp:
		return p.Name + ", topped up"
	}
	return p.Name
}

// of says what a line is of the recipe: its parts, or a percentage and of what.
func of(l recipe.Line, materials material.Shelf, r recipe.Recipe) string {
	unit := "parts"
	if l.Parts == 1 {
		unit = "part"
	}
	if r.ByVolume {
		unit += " by volume"
	}
	switch {
	case l.TopUp:
		return "as the weigh-back says"
	case l.Parts > 0:
		return fmt.Sprintf("%g %s", l.Parts, unit)
	case l.Of == craft.OfTotal:
		return fmt.Sprintf("%g %% of the whole", l.Percent)
	}
	if part, is := r.Of(l.Of); is {
		return fmt.Sprintf("%g %% of %s", l.Percent, nameOf(part, materials[part.Material]))
	}
	if len(r.Lines) > 1 && r.Lines[0].Kit != "" {
		return fmt.Sprintf("%g %% of A and B", l.Percent)
	}
	return fmt.Sprintf("%g %% of the parts", l.Percent)
}

// carrierOf is the line that a little of something is let down in: the largest
// other one that does not set anything off, else the largest.
func carrierOf(r recipe.Recipe, id string, grams map[string]float64) (recipe.Line, float64) {
	var best recipe.Line
	most := -1.0
	for _, l := range r.Lines {
		if l.ID == id || l.TopUp {
			continue
		}
		rank := grams[l.ID]
		if l.Sets {
			rank /= 1000
		}
		if rank > most {
			best, most = l, rank
		}
	}
	return best, grams[best.ID]
}

// split divides the pours over mixes under bowl, pot life, hands and moulds.
func (o Order) split(sheet Sheet, rise float64) (craft.BatchPlan, error) {
	b := craft.Batches{VolumeML: sheet.VolumeML / float64(sheet.Amount.Pours), Pieces: sheet.Amount.Pours, Expansion: rise, BowlML: o.Split.BowlML * bowlFull,
		PourMin: o.Split.PourMin, Pourers: o.Split.Hands, MouldsFree: o.Split.Moulds}
	if sheet.Working.LeftS > 0 {
		b.PotLifeMin = sheet.Working.LeftS / 60
	}
	plan, err := b.Plan()
	var no *refusal.Error
	if errors.As(err, &no) && (no.Field == "bowl_ml" || no.Field == "pot_life_min") {
		field := map[string]string{"bowl_ml": "split.bowl_ml", "pot_life_min": "split.pour_min"}[no.Field]
		return plan, problem.Invalid(no.Code, field, "%s", no.Detail)
	}
	return plan, err
}

// divisionG is what the scale of this bench tells apart, g.
func (s *Service) divisionG() float64 {
	if g := s.Scale.DivisionG(); g > 0 {
		return g
	}
	return craft.UsualResolutionG
}

// letDownWords says how a little of something gets into the cup.
func letDownWords(name string, d craft.LetDown, carrier recipe.Line, carrierG, divisionG float64, materials material.Shelf) string {
	in := strings.ToLower(materials[carrier.Material].Name)
	if carrier.Kit != "" {
		in = "part " + carrier.Kit
	}
	if carrierG < d.LessG {
		return fmt.Sprintf("Too little for a scale that shows %g g: read it off a finer scale, or mix more.", divisionG)
	}
	return fmt.Sprintf("Too little for a scale that shows %g g: stir one part of %s into %g of %s, weigh %s of that here, and %s less of %s. Or read it off a finer scale.",
		divisionG, strings.ToLower(name), d.Parts, in, quantity.FormatMass(d.WeighG), quantity.FormatMass(d.LessG), in)
}

// kit is a pair of lots that was chosen.
type kit struct {
	choice stock.Choice
	ids    map[string]*uint64
	why    string
}

// chooseKit finds the lot pair: first expired first out, or the one asked for
// unless it may not be used.
func (s *Service) chooseKit(ctx context.Context, db database.Reader, r recipe.Recipe, slug string, share, grams map[string]float64, taken map[string]Taken, today int) (kit, error) {
	lots, err := s.Stores.LotsOf(ctx, db, slug)
	if err != nil {
		return kit{}, err
	}
	var a, b recipe.Line
	for _, l := range r.Lines {
		if l.Material == slug && l.Kit == "A" {
			a = l
		}
		if l.Material == slug && l.Kit == "B" {
			b = l
		}
	}
	plain := make([]stock.Lot, len(lots))
	for i, l := range lots {
		plain[i] = l.Lot
	}
	out := kit{ids: map[string]*uint64{}}
	out.choice = stock.Pair(plain, share[a.ID], share[b.ID], grams[a.ID]+grams[b.ID], today)
	t, asked := taken[a.ID]
	if !asked {
		t = taken[b.ID]
	}
	out.why = t.Why
	if err := insist(&out.choice, t, a.ID); err != nil {
		return out, err
	}
	for _, l := range lots {
		if l.Code == out.choice.Code {
			id := l.ID
			out.ids[l.Part] = &id
		}
	}
	return out, nil
}

func (s *Service) chooseLot(ctx context.Context, db database.Reader, p material.Product, t Taken, needG float64, today int) (stock.Choice, *uint64, error) {
	lots, err := s.Stores.LotsOf(ctx, db, p.Slug)
	if err != nil {
		return stock.Choice{}, nil, err
	}
	plain := make([]stock.Lot, len(lots))
	for i, l := range lots {
		plain[i] = l.Lot
	}
	choice := stock.Single(plain, needG, today)
	if err := insist(&choice, t, t.Line); err != nil {
		return choice, nil, err
	}
	for _, l := range lots {
		if l.Code == choice.Code {
			id := l.ID
			return choice, &id, nil
		}
	}
	return choice, nil, nil
}

// insist takes the lot that a person asked for, or refuses it with the reason.
func insist(c *stock.Choice, t Taken, line string) error {
	if t.Lot == "" {
		return nil
	}
	field := "lots." + line
	for _, o := range c.Options {
		if o.Code != t.Lot {
			continue
		}
		if o.Refused != "" {
			return problem.Invalid("lot_refused", field, "Lot %s may not be used: %s.", t.Lot, o.Refused)
		}
		c.Code, c.Short = t.Lot, ""
		return nil
	}
	return problem.Invalid("unknown_value", field, "There is no lot %s of this material.", t.Lot)
}

// whyNotFirst asks for a reason where a lot was chosen that is not the first to expire.
func whyNotFirst(sheet Sheet) error {
	for _, l := range sheet.Lines {
		i := slices.IndexFunc(l.Choice.Options, func(o stock.Option) bool { return o.Refused == "" })
		if l.Lot != "" && i >= 0 && l.Choice.Options[i].Code != l.Lot && strings.TrimSpace(l.why) == "" {
			return problem.Invalid("missing", "lots."+l.Ingredient, "Lot %s runs out first. Say why %s is taken.", l.Choice.Options[i].Code, l.Lot)
		}
	}
	return nil
}

// Plan writes a pour sheet down, ready for the bench: as one mix, or as many as its
// limits want.
func (s *Service) Plan(ctx context.Context, o Order) (View, error) {
	var first string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		sheet, err := s.sheet(ctx, tx, o)
		if err != nil {
			return err
		}
		p, number, err := s.mayPlan(ctx, tx, o, sheet)
		if err != nil {
			return err
		}
		if sheet.Short != "" {
			return problem.Conflict("short", "%s Nothing was recorded.", sheet.Short)
		}
		if err := whyNotFirst(sheet); err != nil {
			return err
		}
		for i, size := range sheet.Mixes.Sizes {
			code, err := s.write(ctx, tx, o, sheet, p, number, size)
			if err != nil {
				return err
			}
			if i == 0 {
				first = code
			}
		}
		if p.ID != 0 {
			return round.Forward(ctx, tx, p.ID, round.Mix)
		}
		return nil
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

// working is how long the mix may be poured: along the room's log for what cures by
// a sheet, else by the recipe's clock.
func (s *Service) working(ctx context.Context, db database.Reader, house recipe.Recipe, materials material.Shelf, m row, lines []lineRow) (cure.WorkingTime, error) {
	if house.Clock == recipe.CureTime {
		sheet := materials[house.Makes].Cure
		if sheet == nil {
			return cure.WorkingTime{}, nil
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
	out := cure.WorkingTime{TempC: around.RoomC, Measured: air.Measured, SheetS: pot.PotS, RefC: around.RoomC, LeftS: pot.PotS, LowS: pot.LowS, HighS: pot.HighS}
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
