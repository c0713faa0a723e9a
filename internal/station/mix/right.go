package mix

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// WeighRight puts a weight right that was read or typed wrong.
type WeighRight struct {
	Seq    int     `json:"seq" minimum:"1"`
	Typed  string  `json:"typed" maxLength:"64" doc:"what is really in the cup of this line, all in all"`
	AgoS   float64 `json:"ago_s,omitempty" minimum:"0" maximum:"86400" doc:"how long ago it went in, when the time was wrong"`
	Reason string  `json:"reason" maxLength:"200"`
}

// PutRight corrects what is in the cup of one line, until the mix is poured. The
// first weight stays; a line of its own puts it right, in the books of the lot
// too.
func (s *Service) PutRight(ctx context.Context, code string, in WeighRight) (View, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	if in.Reason == "" {
		return View{}, problem.Invalid("missing", "reason", "Say what was wrong.")
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		if m.State != "weighing" || m.ParentID != nil {
			return problem.Conflict("depends", "%s is %s: what was in it is in its copies. Note it in the step log.", code, m.State)
		}
		c, err := readCup(ctx, tx, m)
		if err != nil {
			return err
		}
		lines, by := c.lines, c.by
		i := slices.IndexFunc(lines, func(l lineRow) bool { return l.Seq == in.Seq })
		if i < 0 || by[lines[i].Ingredient].InCupG == 0 {
			return problem.Conflict("nothing_in", "Nothing of line %d is in yet.", in.Seq)
		}
		l, was := lines[i], by[lines[i].Ingredient].InCupG
		q, err := quantity.Parse(in.Typed, quantity.Mass, 0, "typed")
		if err != nil {
			return err
		}
		if q.Value < 0 || q.Value > 20*l.PlannedG+50 {
			return problem.Invalid("out_of_range", "typed", "%s was asked for; %s cannot be meant.", quantity.FormatMass(l.PlannedG), quantity.FormatMass(q.Value))
		}
		at := s.Clock.Now()
		if in.AgoS > 0 {
			at = at.Add(-time.Duration(in.AgoS * float64(time.Second)))
		}
		res, err := tx.ExecContext(ctx, `INSERT INTO weigh_in (mix_line_id, grams, source, at, person_id, idem_key, reason) VALUES (?,?,'typed',?,?,UUID(),?)`, l.ID, quantity.Grams(q.Value-was), at, who.ID, in.Reason)
		if err != nil {
			return fmt.Errorf("putting the weight right: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		if l.LotID != nil {
			if err := s.Stores.Draw(ctx, tx, *l.LotID, q.Value-was, uint64(id), true); err != nil {
				return err
			}
		}
		// When the clock began moves with the weight that set it off.
		if h, _ := c.house.Of(l.Ingredient); in.AgoS > 0 && m.ContactAt != nil && h.Sets {
			if _, err := tx.ExecContext(ctx, `UPDATE mix SET contact_at = ? WHERE id = ?`, at, m.ID); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE mix_line SET done = ? WHERE id = ?`, q.Value >= l.PlannedG-craft.Tolerance(l.PlannedG), l.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.piece(), Kind: "mix", Code: code, Act: "weight put right", Words: fmt.Sprintf("%s: %s, was %s: %s", l.Ingredient, quantity.FormatMass(q.Value), quantity.FormatMass(was), in.Reason)})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", code)
	s.Live.Tell(ctx, "lots", "")
	return s.View(ctx, code)
}
