package plan

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"yewmoor/internal/craft/runup"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Further moulds: decided here, built in the mould room.

// FurtherMould is one that the shop decided to build beside those that a piece has.
type FurtherMould struct {
	ID    uint64    `db:"id" json:"id"`
	Piece string    `db:"piece" json:"piece"`
	By    string    `db:"by_name" json:"by"`
	At    time.Time `db:"at" json:"at"`
	Dry   time.Time `db:"-" json:"dry_at" doc:"when it may be filled by the plan"`
}

// further puts one more mould of a piece into a shop: built by the evening after a slot, or by the first on which that goes, and filled
// from when it is dry on; both are given back.
func (f facts) further(shop *runup.Shop, piece string, from int, dries time.Duration) (by, ready int) {
	code := fmt.Sprintf("%s/more", piece)
	for n := 2; slices.ContainsFunc(shop.Moulds, func(m runup.Mould) bool { return m.Code == code }); n++ {
		code = fmt.Sprintf("%s/more %d", piece, n)
	}
	minutes := cmp.Or(f.moulds[piece], float64(usualMouldMin))
	by = (max(from, shop.Now)/daySlots+1)*daySlots + openTo/slotMin
	for !f.fits(shop.People, shop.Now, by, minutes) && by+daySlots < shop.Horizon {
		by += daySlots
	}
	ready = by + int(dries.Minutes())/slotMin
	shop.Moulds = append(shop.Moulds, runup.Mould{Code: code, Ready: ready})
	shop.Besides = append(
		shop.Besides,
		runup.Besides{ID: "build " + code, Text: code, Mould: piece, Minutes: minutes, Deadline: &by},
	)
	for i, x := range shop.Sessions {
		if x.Piece == piece && !x.Open && len(x.Moulds) > 0 {
			shop.Sessions[i].Moulds = append(slices.Clone(x.Moulds), code)
		}
	}
	return by, ready
}

// fits says whether somebody is in long enough until then, with as much again for what they are at.
func (f facts) fits(people []runup.Person, from, by int, minutes float64) bool {
	return slices.ContainsFunc(people, func(p runup.Person) bool {
		if len(p.Crafts) > 0 && !slices.Contains(p.Crafts, runup.Moulding) {
			return false
		}
		slots := 0
		for _, v := range p.Regular {
			slots += max(0, min(v[1], by)-max(v[0], from))
		}
		return float64(slots*slotMin) >= 2*minutes
	})
}

// furtherMoulds puts those that were decided, and those that are ahead, into the shop. Index plan_mould_open.
func (s *Service) furtherMoulds(ctx context.Context, f *facts, a ahead) error {
	f.moulded = []FurtherMould{}
	if err := s.DB.SelectContext(ctx, &f.moulded, `SELECT m.id, q.code AS piece, p.name AS by_name, m.at FROM plan_mould m
		JOIN piece q ON q.id = m.piece_id JOIN person p ON p.id = m.by_id
		WHERE m.back_at IS NULL AND q.put_away_at IS NULL AND (SELECT COUNT(*) FROM mould o WHERE o.piece_id = q.id) <= m.had ORDER BY m.id`); err != nil {
		return fmt.Errorf("reading the moulds that are to be built: %w", err)
	}
	for i, m := range f.moulded {
		_, ready := f.further(&f.shop, m.Piece, f.slot(m.At), s.MouldDries)
		f.moulded[i].Dry = f.at(ready)
	}
	if a.mould != "" {
		f.further(&f.shop, a.mould, f.shop.Now, s.MouldDries)
	}
	return nil
}

// checkFurther refuses a further mould of a piece that is in none.
func (w worked) checkFurther(piece string) error {
	if !slices.ContainsFunc(
		w.f.shop.Sessions,
		func(x runup.Session) bool { return x.Piece == piece && !x.Open && len(x.Moulds) > 0 },
	) {
		return problem.Invalid("unknown_value", "piece", "No session of this piece waits for a mould.")
	}
	return nil
}

// writeFurther writes the decision down.
func (s *Service) writeFurther(ctx context.Context, tx database.Tx, code string) error {
	p, err := piece.Find(ctx, tx, code)
	if err != nil {
		return err
	}
	who, _ := accounts.From(ctx)
	// Those that are decided and not begun count too: each waits for a mould of its own.
	if _, err := tx.ExecContext(ctx, `INSERT INTO plan_mould (piece_id, had, by_id, at)
		SELECT ?, (SELECT COUNT(*) FROM mould WHERE piece_id = ?) + (SELECT COUNT(*) FROM plan_mould o WHERE o.piece_id = ? AND o.back_at IS NULL
			AND (SELECT COUNT(*) FROM mould WHERE piece_id = ?) <= o.had), ?, ?`, p.ID, p.ID, p.ID, p.ID, who.ID, s.Clock.Now()); err != nil {
		return fmt.Errorf("writing the mould down: %w", err)
	}
	_, err = journal.Add(
		ctx,
		tx,
		journal.Entry{
			At:    s.Clock.Now(),
			Piece: p.ID,
			Kind:  "plan",
			Code:  code,
			Act:   "further mould",
			Words: "to be built, by the plan",
		},
	)
	return err
}

// DropFurther takes the decision back; it stays in the record.
func (s *Service) DropFurther(ctx context.Context, id uint64) (RunUp, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		done, err := database.Changed(
			tx.ExecContext(ctx, `UPDATE plan_mould SET back_at = ? WHERE id = ? AND back_at IS NULL`, s.Clock.Now(), id),
		)
		if err != nil {
			return err
		}
		if !done {
			return problem.NotFound("mould to be built", fmt.Sprint(id))
		}
		_, err = journal.Add(
			ctx,
			tx,
			journal.Entry{At: s.Clock.Now(), Kind: "plan", Code: fmt.Sprint(id), Act: "further mould taken back"},
		)
		return err
	})
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}
