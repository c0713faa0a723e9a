package mix

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"

	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shelf"
)

// Sheet works out a pour sheet without saving it.
func (s *Service) Sheet(ctx context.Context, o Order) (Sheet, error) {
	out, err := s.sheet(ctx, s.DB, o)
	if err != nil {
		return out, err
	}
	out.Learned, err = s.learned(ctx, s.DB, o, out.Makes)
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
	out := Sheet{Name: house.Name, Makes: house.Makes, Number: number, Recipe: house, Steps: house.Order(),
		Follows: house.Follow(list, materials), Lines: []SheetLine{}}
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
	if out.BowlML = o.Split.BowlML; out.BowlML == 0 {
		if out.BowlML, err = s.largestBowl(ctx, db); err != nil {
			return Sheet{}, err
		}
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
func (s *Service) lines(ctx context.Context, db database.Reader, out *Sheet, o Order, materials material.Shelf,
	grams map[string]float64) error {
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
		line := SheetLine{Ingredient: l.ID, Material: l.Material, Name: nameOf(l, p), Of: of(l, materials, out.Recipe),
			Grams: grams[l.ID], Tap: p.Tap, TopUp: l.TopUp}
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
	b := craft.Batches{VolumeML: sheet.VolumeML / float64(sheet.Amount.Pours), Pieces: sheet.Amount.Pours, Expansion: rise,
		BowlML:  sheet.BowlML * bowlFull,
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
func letDownWords(name string, d craft.LetDown, carrier recipe.Line, carrierG, divisionG float64,
	materials material.Shelf) string {
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
