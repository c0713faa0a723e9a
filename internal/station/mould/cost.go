package mould

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
)

// CostOf is what the moulds of a piece cost in material for each copy that is
// wanted, in hundredths of the shop's money: those that are there, by the sheets
// that they were built from; else the one that is laid out; else one of the usual kind
// round the piece, of what its section says. A mould that is worn out by the copies
// wanted is built again. known is false where nothing is cast in a mould.
func (s *Service) CostOf(ctx context.Context, db database.Reader, p piece.Piece, doc section.Section, body section.Bulk) (minor int64, note string, known bool, err error) {
	if doc.MadeOn() != section.InMould {
		return 0, "", false, nil
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
		return 0, "", false, fmt.Errorf("reading what moulds cost: %w", err)
	}
	total, built := 0.0, 0
	for _, r := range rows {
		if !r.Built && (built > 0 || r.Doc == nil) {
			continue
		}
		order := usualOrder(doc, body, r.Material)
		if r.Doc != nil {
			if err := json.Unmarshal([]byte(*r.Doc), &order); err != nil {
				return 0, "", false, fmt.Errorf("reading a build sheet: %w", err)
			}
		}
		cost, life, err := oneMould(order)
		if err != nil {
			return 0, "", false, err
		}
		if r.Life != nil && *r.Life > 0 {
			life = *r.Life
		}
		total, built = total+again(cost, life, share(p, len(rows)-1)), built+1
	}
	note = fmt.Sprintf("%d built or laid out, over %d copies", built, max(1, p.CopiesWanted))
	if built == 0 {
		cost, life, err := oneMould(usualOrder(doc, body, ""))
		if err != nil {
			return 0, "", false, err
		}
		total, note = again(cost, life, max(1, p.CopiesWanted)), fmt.Sprintf("none is laid out yet: a usual one over %d copies", max(1, p.CopiesWanted))
	}
	return int64(math.Round(total / float64(max(1, p.CopiesWanted)))), note, true, nil
}

// share is how many of the copies wanted come out of one of n moulds.
func share(p piece.Piece, n int) int {
	n = max(1, n)
	return (max(1, p.CopiesWanted) + n - 1) / n
}

// again is a mould's cost as often as its life wants it built for so many casts.
func again(cost float64, life, casts int) float64 {
	return cost * math.Ceil(float64(casts)/float64(max(1, life)))
}

func oneMould(o mouldmath.Order) (cost float64, life int, err error) {
	sheet, err := mouldmath.Build(o)
	if err != nil {
		return 0, 0, err
	}
	return float64(sheet.Minor), sheet.Casts, nil
}

// usualOrder is the usual mould round a piece: a block on its core, of the material
// that a mould names, else of what the section is made in.
func usualOrder(doc section.Section, body section.Bulk, named string) mouldmath.Order {
	stuff := mouldmath.CastingPlaster
	for _, st := range mouldmath.Stuffs {
		if st.Of == doc.Made.Of {
			stuff = st.Name
			break
		}
	}
	if doc.Has(section.Foam) {
		stuff = mouldmath.HardStone // it is baked
	}
	if _, ok := mouldmath.StuffOf(named); ok {
		stuff = named
	}
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
