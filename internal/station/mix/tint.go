package mix

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shelf"
)

// Tint is a body that is mixed with its colour: so many g of base as it is weighed, with so
// many g of each pigment in 100 g of that.
type Tint struct {
	Piece    string
	Layer    string // of the piece's agreed section
	Material string
	BaseG    float64
	Pigments []TintPart
}

// TintPart is a pigment in 100 g of base.
type TintPart struct {
	Material string
	Per100G  float64
}

// Tinted writes a coloured body down as a mix, inside somebody's act: by the product's own
// sheet where it has one, else by the house recipe that makes it, else as it comes. What
// the section stirs in besides pigments comes in as well.
func (s *Service) Tinted(ctx context.Context, tx database.Tx, t Tint) (string, error) {
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return "", err
	}
	o := Order{Piece: t.Piece}
	if o.Recipe, err = s.recipeFor(ctx, tx, t.Material, materials); err != nil {
		return "", err
	}
	house, _, err := recipes.Agreed(ctx, tx, o.Recipe, materials)
	if err != nil {
		return "", err
	}
	p, err := piece.Find(ctx, tx, t.Piece)
	if err != nil {
		return "", err
	}
	doc, _, _, err := piece.AgreedSection(ctx, tx, p)
	if err != nil {
		return "", err
	}
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		for _, w := range l.With {
			if _, has := house.Of(w.Material); l.ID == t.Layer && !isPigment(materials[w.Material]) && !has {
				o.Additions = append(o.Additions, Addition{Material: w.Material, Percent: w.Percent, Of: "parts"})
			}
		}
	})
	// Its own colour makes way for this one.
	for _, l := range house.Lines {
		taken := slices.ContainsFunc(t.Pigments, func(x TintPart) bool { return x.Material == l.Material })
		if l.Parts == 0 && isPigment(materials[l.Material]) && !taken {
			o.Additions = append(o.Additions, Addition{Material: l.Material})
		}
	}
	if house, err = o.with(house, materials); err != nil {
		return "", err
	}
	base, parts, err := baseOfParts(house, materials)
	if err != nil {
		return "", err
	}
	load := 0.0
	for _, x := range t.Pigments {
		o.Additions = append(o.Additions, Addition{Material: x.Material, Percent: x.Per100G * base / parts, Of: "parts"})
		load += x.Per100G
	}
	o.Amount.Mass = &struct {
		Grams float64 `json:"grams"`
	}{t.BaseG * (1 + load/100)}
	o.Amount.Copies = 1
	return s.planIn(ctx, tx, o)
}

// recipeFor is the recipe by which a body is mixed.
func (s *Service) recipeFor(ctx context.Context, db database.Reader, slug string, materials material.Shelf) (string, error) {
	list, err := recipes.All(ctx, db, materials)
	if err != nil {
		return "", err
	}
	of := recipes.Of(list, slug)
	sheet := recipes.SheetOf(slug)
	if len(of) == 0 || slices.ContainsFunc(of, func(k recipes.Kept) bool { return k.Slug == sheet }) {
		return sheet, nil
	}
	return of[0].Slug, nil
}

func isPigment(p material.Product) bool {
	return p.Family == material.Pigment || p.Family == material.Flock
}

// baseOfParts is what a mix weighs without its pigments, and what its parts do: pigments
// are counted of the base as it is weighed, additions of the parts.
func baseOfParts(house recipe.Recipe, materials material.Shelf) (base, parts float64, err error) {
	shares, err := house.Mix(materials).Shares()
	if err != nil {
		return 0, 0, err
	}
	for _, sh := range shares {
		l, _ := house.Of(sh.ID)
		if !isPigment(materials[l.Material]) {
			base += sh.Fraction
		}
		if l.Parts > 0 {
			parts += sh.Fraction
		}
	}
	if parts <= 0 {
		return 0, 0, problem.Conflict("no_parts", "%s has no parts that a percentage could be counted of.", house.Name)
	}
	return base, parts, nil
}

// InCup is what was really weighed into a mix.
type InCup struct {
	State  string
	Ended  bool // poured, put by, used or abandoned
	Done   bool // everything that was planned is in
	BaseG  float64
	Colour []Weighed
}

// Weighed is a pigment that is in a cup, g.
type Weighed struct {
	Material string
	Grams    float64
}

// InCupOf reads what is in the cup of a mix.
func (s *Service) InCupOf(ctx context.Context, db database.Reader, code string) (InCup, error) {
	r, err := readRow(ctx, db, code)
	if err != nil {
		return InCup{}, err
	}
	c, err := readCup(ctx, db, r)
	if err != nil {
		return InCup{}, err
	}
	out := InCup{State: r.State, Ended: r.State != "planned" && r.State != "weighing", Done: true}
	for _, l := range c.lines {
		out.Done = out.Done && !c.open(l)
		if !isPigment(c.materials[l.Material]) {
			out.BaseG += l.InCupG * c.Share
			continue
		}
		i := slices.IndexFunc(out.Colour, func(w Weighed) bool { return w.Material == l.Material })
		if i < 0 {
			i = len(out.Colour)
			out.Colour = append(out.Colour, Weighed{Material: l.Material})
		}
		out.Colour[i].Grams += l.InCupG * c.Share
	}
	return out, nil
}

// PutInto writes down what is to come into a finished cup beyond its sheet; it is weighed
// at the bench like every line. The rule book, the hands and the lots are asked as when it
// was planned.
func (s *Service) PutInto(ctx context.Context, tx database.Tx, code string, more []Weighed, why string) error {
	c, err := lockFinished(ctx, tx, code)
	if err != nil {
		return err
	}
	if c.ParentID != nil {
		return problem.Conflict("divided", "%s was divided from another cup: put it into that.", code)
	}
	var p piece.Piece
	if c.Piece != "" {
		if p, err = piece.Find(ctx, tx, c.Piece); err != nil {
			return err
		}
	}
	var stuff []string
	for _, m := range more {
		stuff = append(stuff, m.Material)
	}
	if err := s.Build.AskStuff(ctx, tx, p, c.Section, code, stuff...); err != nil {
		return err
	}
	seq := 0
	for _, l := range c.lines {
		seq = max(seq, l.Seq)
	}
	for _, t := range c.steps {
		seq = max(seq, t.Seq)
	}
	words := why
	for _, m := range more {
		product := c.materials[m.Material]
		choice, id, err := s.chooseLot(ctx, tx, product, Taken{}, m.Grams, clock.DayNumber(s.Clock.Now()))
		if err != nil {
			return err
		}
		if choice.Short != "" {
			return problem.Conflict("short", "%s: %s Nothing was recorded.", product.Name, choice.Short)
		}
		seq++
		line := recipe.Line{ID: fmt.Sprintf("%.56s+%d", m.Material, seq), Material: m.Material, TopUp: true, Note: why}
		c.house.Lines = append(c.house.Lines, line)
		if _, err := tx.ExecContext(ctx, `INSERT INTO mix_line (mix_id, seq, ingredient, material_id, lot_id, planned_g, why_lot) SELECT ?,?,?,id,?,?,'' FROM material WHERE slug = ?`,
			c.ID, seq, line.ID, id, quantity.Grams(math.Max(0, m.Grams)), m.Material); err != nil {
			return fmt.Errorf("putting more into %s: %w", code, err)
		}
		words += fmt.Sprintf("; %s %s", quantity.FormatMass(m.Grams), product.Name)
	}
	raw, err := json.Marshal(c.house)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE mix SET recipe = ? WHERE id = ?`, string(raw), c.ID); err != nil {
		return fmt.Errorf("putting more into %s: %w", code, err)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: c.piece(), Kind: "mix", Code: code, Act: "more goes in",
		Words: words})
	return err
}
