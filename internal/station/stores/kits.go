package stores

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// KitLot is a lot that goes with a kit: glue, what takes it off, colour, powder.
type KitLot struct {
	Lot      string  `db:"lot" json:"lot"`
	Part     string  `db:"part" json:"part"`
	Material string  `db:"material" json:"material"`
	Name     string  `db:"name" json:"name"`
	NeedG    float64 `db:"-" json:"need_g" doc:"what the sections of its copies say they take; 0 where they say nothing"`
	TakenG   float64 `db:"taken_g" json:"taken_g" doc:"taken out of the lot for this kit already"`
	Refused  string  `db:"-" json:"refused,omitempty"`
}

// KitLots are the lots of a kit, each with what its copies take of it.
func (s *Service) KitLots(ctx context.Context, kit string) ([]KitLot, error) {
	list := []KitLot{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT l.code AS lot, l.part, m.slug AS material, m.name, COALESCE(-(SELECT SUM(v.grams) FROM movement v WHERE v.lot_id = l.id AND v.kit_id = k.id), 0) AS taken_g
		FROM kit k JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id JOIN material m ON m.id = l.material_id WHERE k.code = ? ORDER BY m.name`, kit); err != nil {
		return nil, fmt.Errorf("reading what goes with the kit: %w", err)
	}
	need, err := s.kitNeeds(ctx, kit)
	if err != nil {
		return nil, err
	}
	for i := range list {
		list[i].NeedG = need[list[i].Material]
		l, err := s.one(ctx, s.DB, list[i].Lot, list[i].Part)
		if err != nil {
			return nil, err
		}
		list[i].Refused = l.Refused
	}
	return list, nil
}

// kitNeeds is what the copies of a kit take of each material, by their sections, g.
func (s *Service) kitNeeds(ctx context.Context, kit string) (map[string]float64, error) {
	var pieces []struct {
		Piece  string
		Copies int
	}
	if err := s.DB.SelectContext(ctx, &pieces, `SELECT q.code AS piece, COUNT(*) AS copies FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id
		JOIN piece q ON q.id = c.piece_id WHERE k.code = ? GROUP BY q.code`, kit); err != nil {
		return nil, fmt.Errorf("reading the copies of the kit: %w", err)
	}
	need := map[string]float64{}
	for _, p := range pieces {
		wants, err := s.Work.PieceWants(ctx, p.Piece, p.Copies)
		var no *problem.Problem
		if errors.As(err, &no) && no.Code == "no_section" {
			continue // what was bought or found takes nothing that is known
		}
		if err != nil {
			return nil, err
		}
		for _, w := range wants {
			need[w.Material] += w.Grams
		}
	}
	return need, nil
}

// kitWants are what kits that have not left the shop still take of the lots that go
// with them.
func (s *Service) kitWants(ctx context.Context) ([]Want, error) {
	var rows []struct {
		Kit      string
		Day      time.Time
		Material string
		Taken    float64
	}
	// The open ones by index kit_open: a handful.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT k.code AS kit, d.day, m.slug AS material, COALESCE(-SUM(v.grams), 0) AS taken
		FROM kit k JOIN shooting_day d ON d.id = k.day_id JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id JOIN material m ON m.id = l.material_id
		LEFT JOIN movement v ON v.lot_id = l.id AND v.kit_id = k.id WHERE k.handed_at IS NULL AND k.received_at IS NULL GROUP BY k.code, d.day, m.slug ORDER BY k.code, m.slug`); err != nil {
		return nil, fmt.Errorf("reading what open kits take: %w", err)
	}
	var out []Want
	needs := map[string]map[string]float64{}
	for _, r := range rows {
		if needs[r.Kit] == nil {
			need, err := s.kitNeeds(ctx, r.Kit)
			if err != nil {
				return nil, err
			}
			needs[r.Kit] = need
		}
		if left := needs[r.Kit][r.Material] - r.Taken; left > 0 {
			out = append(out, Want{For: r.Kit, Material: r.Material, Grams: left, On: r.Day})
		}
	}
	return out, nil
}

// KitTaken is what is filled off a lot for a kit.
type KitTaken struct {
	Lot    string `json:"lot" maxLength:"32"`
	Part   string `json:"part,omitempty" enum:",A,B"`
	Amount string `json:"amount" maxLength:"64"`
}

// Kits is the room that packs kits.
type Kits interface {
	// AskAgain asks the rule book, inside the act, about a product that is filled off for a kit.
	AskAgain(ctx context.Context, tx database.Tx, kit, slug string) error
}

// TakeForKit draws what goes with a kit from its lot. Much can have come to light since
// it was packed: the rule book is asked again, and whether the lot may still be used.
func (s *Service) TakeForKit(ctx context.Context, kit string, in KitTaken) ([]KitLot, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var id uint64
		if err := tx.GetContext(ctx, &id, `SELECT k.id FROM kit k JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id WHERE k.code = ? AND l.code = ? AND l.part = ? FOR UPDATE`, kit, in.Lot, in.Part); errors.Is(err, sql.ErrNoRows) {
			return problem.Invalid("unknown_value", "lot", "Lot %s does not go with kit %s.", in.Lot, kit)
		} else if err != nil {
			return err
		}
		l, err := s.one(ctx, tx, in.Lot, in.Part)
		if err != nil {
			return err
		}
		if l.Refused != "" {
			return problem.Invalid("lot_refused", "lot", "Lot %s may not be used: %s.", in.Lot, l.Refused)
		}
		if err := s.Kits.AskAgain(ctx, tx, kit, l.Material); err != nil {
			return err
		}
		_, onHand, err := s.lock(ctx, tx, l.ID)
		if err != nil {
			return err
		}
		grams, err := amountOf(in.Amount, l, materials[l.Material].DensityOf(in.Amount), onHand, "amount")
		if err != nil {
			return err
		}
		if err := s.take(ctx, tx, l, onHand, moved{lot: l.ID, grams: -grams, reason: "used", note: kit, kit: &id}); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: kit, Act: "filled off", Words: fmt.Sprintf("%s of %s, lot %s", quantity.FormatMass(grams), l.MaterialName, l.Name())})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", in.Lot)
	s.Live.Tell(ctx, "kits", kit)
	return s.KitLots(ctx, kit)
}
