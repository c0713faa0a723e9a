package stores

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Facts are what the shop changes of a product, each with where it is from. What is
// left out stays.
type Facts struct {
	Name         *string             `json:"name,omitempty" maxLength:"120"`
	Density      *float64            `json:"density,omitempty"`
	WetDensity   *float64            `json:"wet_density,omitempty"`
	Solids       *float64            `json:"solids,omitempty"`
	DropG        *float64            `json:"drop_g,omitempty" doc:"one drop of it: weigh twenty"`
	Ratio        *material.Ratio     `json:"ratio,omitempty"`
	Cure         *material.CureSheet `json:"cure,omitempty"`
	PriceMinorKg *int64              `json:"price_minor_kg,omitempty"`
	Caution      *string             `json:"caution,omitempty" maxLength:"400"`
	ForSkin      *bool               `json:"for_skin,omitempty"`
	MouthSafe    *bool               `json:"mouth_safe,omitempty"`
	Keep         *material.Keep      `json:"keep,omitempty"`
	Source       string              `json:"source" enum:"data sheet,measured here,default" doc:"where the changed figures are from"`
	Which        string              `json:"which,omitempty" maxLength:"160" doc:"which sheet of which date, or how it was measured"`
}

// NewProduct is a product of the shop's own: from another as its pattern.
type NewProduct struct {
	Name string `json:"name" minLength:"1" maxLength:"120"`
	Like string `json:"like" maxLength:"64" doc:"the product that it is most like: its family and usual facts"`
}

// AddProduct puts a product of the shop's own on the shelf.
func (s *Service) AddProduct(ctx context.Context, in NewProduct) (material.Product, error) {
	name := strings.TrimSpace(in.Name)
	slug := strings.Trim(notCode.ReplaceAllString(strings.ToLower(name), "-"), "-")
	var p material.Product
	if slug == "" || len(slug) > 64 {
		return p, problem.Invalid("missing", "name", "Give it a name, in letters.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := readFacts(ctx, tx, in.Like, &p); err != nil {
			if problem.IsNotFound(err) {
				return problem.Invalid("unknown_value", "like", "Choose the product that it is most like.")
			}
			return err
		}
		p.Slug, p.Name, p.Sources, p.FreeOf = slug, name, map[string]string{}, nil
		raw, err := json.Marshal(p)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO material (slug, name, family, facts) VALUES (?,?,?,?)`, slug, name, p.Family, string(raw)); database.IsDuplicate(err) {
			return problem.Invalid("taken", "name", "There is a product of this name.")
		} else if err != nil {
			return fmt.Errorf("adding a product: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "material", Code: slug, Act: "added", Words: name + ", like " + in.Like})
		return err
	})
	if err != nil {
		return p, err
	}
	s.tellMaterials(ctx)
	return p, nil
}

func (s *Service) tellMaterials(ctx context.Context) {
	for _, topic := range []string{"materials", "section", "lots"} {
		s.Live.Tell(ctx, topic, "")
	}
}

func readFacts(ctx context.Context, tx database.Tx, slug string, p *material.Product) error {
	var raw string
	if err := tx.GetContext(ctx, &raw, `SELECT facts FROM material WHERE slug = ? FOR UPDATE`, slug); errors.Is(err, sql.ErrNoRows) {
		return problem.NotFound("material", slug)
	} else if err != nil {
		return err
	}
	if err := json.Unmarshal([]byte(raw), p); err != nil {
		return fmt.Errorf("reading the material: %w", err)
	}
	return nil
}

// Change changes what the shop knows of a product. What follows from it elsewhere
// follows at once; what was made keeps the figures that it was made with.
func (s *Service) Change(ctx context.Context, slug string, in Facts) (material.Product, error) {
	in.Which = strings.TrimSpace(in.Which)
	if in.Source != material.SourceDefault && in.Which == "" {
		return material.Product{}, problem.Invalid("missing", "which", "Which sheet says so, or how was it measured?")
	}
	var p material.Product
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := readFacts(ctx, tx, slug, &p); err != nil {
			return err
		}
		changed, err := in.into(&p)
		if err != nil {
			return err
		}
		if len(changed) == 0 {
			return nil
		}
		if err := p.Check(); err != nil {
			return err
		}
		raw, err := json.Marshal(p)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE material SET facts = ?, name = ? WHERE slug = ?`, string(raw), p.Name, slug); err != nil {
			return fmt.Errorf("writing the material: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "material", Code: slug, Act: "changed", Words: strings.Join(changed, "; ") + ". " + in.Source + " " + in.Which})
		return err
	})
	if err != nil {
		return p, err
	}
	s.tellMaterials(ctx)
	return p, nil
}

// into writes the changes into a product and says in words what they are.
func (in Facts) into(p *material.Product) ([]string, error) {
	source := in.Source
	if in.Which != "" {
		source += ": " + in.Which
	}
	if p.Sources == nil {
		p.Sources = map[string]string{}
	}
	var changed []string
	note := func(field string, was, is any) {
		a, _ := json.Marshal(was)
		b, _ := json.Marshal(is)
		if string(a) != string(b) {
			changed = append(changed, fmt.Sprintf("%s %s → %s", field, a, b))
			p.Sources[field] = source
		}
	}
	set := func(field string, to *float64, at *float64) {
		if to != nil {
			note(field, *at, *to)
			*at = *to
		}
	}
	set("density", in.Density, &p.Density)
	set("wet_density", in.WetDensity, &p.WetDensity)
	set("solids", in.Solids, &p.Solids)
	set("drop_g", in.DropG, &p.DropG)
	if in.Name != nil {
		if strings.TrimSpace(*in.Name) == "" {
			return nil, problem.Invalid("missing", "name", "The material needs a name.")
		}
		note("name", p.Name, *in.Name)
		p.Name = strings.TrimSpace(*in.Name)
	}
	if in.Ratio != nil {
		if p.Ratio == nil {
			return nil, problem.Invalid("contradiction", "ratio", "%s does not come in two parts.", p.Name)
		}
		note("ratio", p.Ratio, in.Ratio)
		p.Ratio = in.Ratio
	}
	if in.Cure != nil {
		if p.Cure == nil {
			return nil, problem.Invalid("contradiction", "cure", "%s does not cure.", p.Name)
		}
		if !slices.Contains([]string{"addition", "condensation"}, in.Cure.System) {
			in.Cure.System = p.Cure.System
		}
		note("cure", p.Cure, in.Cure)
		p.Cure = in.Cure
	}
	if in.PriceMinorKg != nil {
		note("price_minor_kg", p.PriceMinorKg, *in.PriceMinorKg)
		p.PriceMinorKg = *in.PriceMinorKg
	}
	if in.Caution != nil {
		note("caution", p.Caution, *in.Caution)
		p.Caution = *in.Caution
	}
	if in.ForSkin != nil {
		note("for_skin", p.ForSkin, *in.ForSkin)
		p.ForSkin = *in.ForSkin
	}
	if in.MouthSafe != nil {
		note("mouth_safe", p.MouthSafe, *in.MouthSafe)
		p.MouthSafe = *in.MouthSafe
	}
	if in.Keep != nil {
		note("keep", p.Keep, in.Keep)
		p.Keep = in.Keep
	}
	return changed, nil
}

// SetPrices takes a price list in that was read and agreed.
func (s *Service) SetPrices(ctx context.Context, list []NewPrice, which string) (int, error) {
	for i, l := range list {
		if _, err := s.Change(ctx, l.Material, Facts{PriceMinorKg: &l.PriceMinorKg, Source: material.SourceSheet, Which: which}); err != nil {
			var p *problem.Problem
			if errors.As(err, &p) {
				return i, problem.Invalid(p.Code, fmt.Sprintf("prices[%d].%s", i, p.Field), "%s %d before it stand.", p.Detail, i)
			}
			return i, err
		}
	}
	return len(list), nil
}
