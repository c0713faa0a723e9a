package stores

import (
	"context"
	"fmt"
	"math"
	"strings"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shelf"
)

// CanMake is the question what can still be made from what is here.
type CanMake struct {
	Piece  string  `json:"piece,omitempty" maxLength:"24" doc:"so many copies of it"`
	Recipe string  `json:"recipe,omitempty" maxLength:"80" doc:"or so much by a recipe"`
	Copies int     `json:"copies,omitempty" minimum:"0" maximum:"1000"`
	Grams  float64 `json:"grams,omitempty" minimum:"0" maximum:"1000000"`
	Body   bool    `json:"body,omitempty" doc:"of a piece only what its copies are made of"`
}

// Covered is one material of the answer.
type Covered struct {
	Material string  `json:"material"`
	Name     string  `json:"name"`
	NeedG    float64 `json:"need_g"`
	Lot      string  `json:"lot,omitempty"`
	Until    string  `json:"until,omitempty"`
	LacksG   float64 `json:"lacks_g"`
	By       string  `json:"by,omitempty" doc:"mixed here: the recipe that makes it"`
}

// Makeable is the answer.
type Makeable struct {
	Yes   bool      `json:"yes"`
	Until string    `json:"until,omitempty" doc:"the last day on which it is true"`
	Words string    `json:"words"`
	Lines []Covered `json:"lines"`
}

// Can answers whether something can be made from what is here and not spoken for.
func (s *Service) Can(ctx context.Context, q CanMake) (Makeable, error) {
	out := Makeable{Lines: []Covered{}}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	kept, err := recipes.All(ctx, s.DB, materials)
	if err != nil {
		return out, err
	}
	var needs []need
	switch {
	case q.Piece != "":
		if q.Copies < 1 {
			return out, problem.Invalid("out_of_range", "copies", "How many copies? At least one.")
		}
		wants, err := s.Work.PieceWants(ctx, q.Piece, q.Copies)
		if err != nil {
			return out, err
		}
		for _, w := range wants {
			if w.Body || !q.Body {
				needs = append(needs, need{w.Material, w.Grams})
			}
		}
	case q.Recipe != "":
		r, _, err := recipes.Agreed(ctx, s.DB, q.Recipe, materials)
		if err != nil {
			return out, err
		}
		if !(q.Grams > 0) {
			return out, problem.Invalid("out_of_range", "grams", "How much of it? Above nothing.")
		}
		needs = ingredients(r, q.Grams, materials)
	default:
		return out, problem.Invalid("missing", "piece", "What is to be made? A piece, or a recipe.")
	}
	lots, err := s.lots(ctx, s.DB, `WHERE l.used_up_at IS NULL`)
	if err != nil {
		return out, err
	}
	return s.answer(materials, kept, s.free(ctx, lots), needs), nil
}

// free are the lots less what mixes on the bench will still take of them.
func (s *Service) free(ctx context.Context, lots []Lot) map[string][]stock.Lot {
	var taken []struct {
		Lot   uint64
		Grams float64
	}
	_ = s.DB.SelectContext(ctx, &taken, `SELECT n.lot_id AS lot, SUM(GREATEST(0, n.planned_g - COALESCE((SELECT SUM(w.grams) FROM weigh_in w WHERE w.mix_line_id = n.id), 0))) AS grams
		FROM mix x JOIN mix_line n ON n.mix_id = x.id WHERE x.state IN ('planned','weighing') AND n.lot_id IS NOT NULL GROUP BY n.lot_id`)
	reserved := map[uint64]float64{}
	for _, t := range taken {
		reserved[t.Lot] = t.Grams
	}
	out := map[string][]stock.Lot{}
	for _, l := range lots {
		st := s.stock(l)
		st.OnHandG = math.Max(0, st.OnHandG-reserved[l.ID])
		out[l.Material] = append(out[l.Material], st)
	}
	return out
}

func (s *Service) answer(materials material.Shelf, kept []recipes.Kept, lots map[string][]stock.Lot, needs []need) Makeable {
	today := clock.DayNumber(s.Clock.Now())
	out := Makeable{Yes: true, Lines: []Covered{}}
	until := math.MaxInt
	var lacking []string
	cover := func(n need, by string) Covered {
		p := materials[n.slug]
		a, b := 0.0, 0.0
		if p.Ratio != nil {
			a, b = ratio(p)
		}
		c := stock.Covers(lots[n.slug], a, b, n.grams, today)
		line := Covered{Material: n.slug, Name: p.Name, NeedG: n.grams, Lot: c.Lot, LacksG: c.LacksG, By: by}
		if c.Lot != "" {
			line.Until = dayText(c.Until)
			until = min(until, c.Until)
		}
		return line
	}
	add := func(line Covered) {
		out.Lines = append(out.Lines, line)
		if line.Lot == "" {
			out.Yes = false
			lacking = append(lacking, fmt.Sprintf("%s lacks %s", line.Name, quantity.FormatMass(line.LacksG)))
		}
	}
	for _, n := range needs {
		p := materials[n.slug]
		if p.Tap || n.grams <= 0 {
			continue
		}
		line := cover(n, "")
		made := recipes.Of(kept, n.slug)
		if line.Lot != "" || len(made) == 0 || p.Ratio != nil {
			add(line)
			continue
		}
		for _, in := range ingredients(made[0].Recipe, n.grams, materials) {
			add(cover(in, made[0].Recipe.Name))
		}
	}
	switch {
	case len(out.Lines) == 0:
		out.Yes, out.Words = false, "Nothing in it is kept in the stores."
	case out.Yes:
		out.Until = dayText(until)
		out.Words = "Yes, until " + time.Unix(int64(until)*86400, 0).UTC().Format("Monday 2 January") + "."
	default:
		out.Words = "No: " + strings.Join(lacking, "; ") + "."
	}
	return out
}
