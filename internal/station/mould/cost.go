package mould

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// Needed are the moulds of a piece, in material for each copy that is wanted and in
// hands for all of them: those that are there, by the sheets that they were built
// from; else the one that is laid out; else one of the usual kind round the piece, of
// what its section says. A mould that is worn out by the copies wanted is built again.
func (s *Service) Needed(ctx context.Context, db database.Reader, p piece.Piece, doc section.Section, body section.Bulk) (piece.Tooling, error) {
	var out piece.Tooling
	if doc.MadeOn() != section.InMould {
		return out, nil
	}
	var rows []struct {
		Material string
		Life     *int
		Doc      *string
		Built    bool
	}
	// What is registered, and what is laid out and not built; indexes of piece_id.
	if err := db.SelectContext(ctx, &rows, `SELECT m.material, m.life, l.doc, TRUE AS built FROM mould m LEFT JOIN mould_plan l ON l.id = m.plan_id WHERE m.piece_id = ? AND m.state <> 'retired'
		UNION ALL SELECT '', NULL, (SELECT l.doc FROM mould_plan l WHERE l.piece_id = ? AND NOT EXISTS (SELECT 1 FROM mould m WHERE m.plan_id = l.id) ORDER BY l.id DESC LIMIT 1), FALSE`, p.ID, p.ID); err != nil {
		return out, fmt.Errorf("reading what moulds cost: %w", err)
	}
	prices, err := s.prices(ctx, db)
	if err != nil {
		return out, err
	}
	total := 0.0
	count := func(o mouldmath.Order, life, casts int) error {
		o.Prices = prices
		sheet, err := mouldmath.Build(o)
		if err != nil {
			return err
		}
		if life == 0 {
			life = sheet.Casts
		}
		times := math.Ceil(float64(casts) / float64(max(1, life)))
		total += float64(sheet.Minor) * times
		out.HandsS += sheet.HandsS * times
		out.Moulds++
		return nil
	}
	wanted := max(1, p.CopiesWanted)
	registered := len(rows) - 1
	for _, r := range rows {
		if !r.Built && (registered > 0 || r.Doc == nil) || r.Doc == nil && usualStuff(doc, r.Material) == "" {
			continue
		}
		order := usualOrder(doc, body, r.Material)
		if r.Doc != nil {
			if err := json.Unmarshal([]byte(*r.Doc), &order); err != nil {
				return out, fmt.Errorf("reading a build sheet: %w", err)
			}
		}
		life := 0
		if r.Life != nil {
			life = *r.Life
		}
		// Each of several makes its share of the copies.
		if err := count(order, life, (wanted+max(1, registered)-1)/max(1, registered)); err != nil {
			return out, err
		}
	}
	out.Note = fmt.Sprintf("%d built or laid out, over %s", out.Moulds, copiesText(wanted))
	if out.Moulds == 0 && usualStuff(doc, "") == "" {
		return out, nil // of what it says nobody knows a price
	}
	if out.Moulds == 0 {
		if err := count(usualOrder(doc, body, ""), 0, wanted); err != nil {
			return out, err
		}
		out.Note = "none is laid out yet: a usual one over " + copiesText(wanted)
	}
	out.MinorEach, out.Known = int64(math.Round(total/float64(wanted))), true
	return out, nil
}

// prices are what the shop pays, by product.
func (s *Service) prices(ctx context.Context, db database.Reader) (map[string]int, error) {
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return nil, err
	}
	out := map[string]int{}
	for slug, p := range materials {
		out[slug] = int(p.PriceMinorKg)
	}
	return out, nil
}

// build works a sheet out at the shop's prices.
func (s *Service) build(ctx context.Context, o mouldmath.Order) (mouldmath.Sheet, error) {
	var err error
	if o.Prices, err = s.prices(ctx, s.DB); err != nil {
		return mouldmath.Sheet{}, err
	}
	return mouldmath.Build(o)
}

func copiesText(n int) string {
	if n == 1 {
		return "one copy"
	}
	return fmt.Sprintf("%d copies", n)
}

// usualStuff is what a mould is made of: what it is named as, else what the section is
// made in, hard stone where foam is baked and casting plaster where nobody said; empty
// for what no price is known of.
func usualStuff(doc section.Section, named string) string {
	if _, known := mouldmath.StuffOf(named); known {
		return named
	}
	switch of := doc.Made.Of; {
	case doc.Has(section.Foam) && (of == "" || of == "gypsum"):
		return mouldmath.HardStone
	case of == "":
		return mouldmath.CastingPlaster
	case of == "laminate":
		return mouldmath.Glass
	default:
		i := slices.IndexFunc(mouldmath.Stuffs, func(st mouldmath.Stuff) bool { return st.Of == of })
		if i < 0 {
			return ""
		}
		return mouldmath.Stuffs[i].Name
	}
}

// usualOrder is the usual mould round a piece: a block on its core, of the material
// that a mould names, else of what the section is made in.
func usualOrder(doc section.Section, body section.Bulk, named string) mouldmath.Order {
	stuff := usualStuff(doc, named)
	side := math.Sqrt(body.AreaCM2 * 100)
	kind := mouldmath.Block
	switch st, _ := mouldmath.StuffOf(stuff); {
	case st.Gives:
		kind = mouldmath.Glove
	case stuff == mouldmath.Glass, stuff == mouldmath.Bandage:
		kind = mouldmath.Injection
	}
	return mouldmath.Order{Kind: kind, Stuff: stuff, Core: kind == mouldmath.Block, Release: doc.Made.Release, Body: mouldmath.Body{AreaMM2: body.AreaCM2 * 100, VolumeMM3: body.VolumeML * 1000, SizeMM: [3]float64{side, side, side/4 + body.MeanMM}}}
}
