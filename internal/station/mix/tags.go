package mix

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// TagRead is the tag of a pot that somebody picked up: read by a camera or a hand
// scanner, or typed.
type TagRead struct {
	Seq int    `json:"seq" minimum:"1"`
	Tag string `json:"tag" minLength:"1" maxLength:"300" doc:"what is on the tag: a lot's code, or the address that its label holds"`
	// Take says that this lot is taken instead of the one on the sheet, and why.
	Take bool   `json:"take,omitempty"`
	Why  string `json:"why,omitempty" maxLength:"200"`
}

// codeOf is the lot's code in what a tag says: the last part of an address.
func codeOf(tag string) string {
	tag = strings.TrimSpace(tag)
	if i := strings.LastIndex(tag, "/"); i >= 0 {
		tag = tag[i+1:]
	}
	tag, _, _ = strings.Cut(tag, "?")
	return strings.TrimSpace(tag)
}

// Tag checks a pot that was picked up against the line. Another lot of the same
// product may be taken with a reason, as long as nothing of the line is in.
func (s *Service) Tag(ctx context.Context, code string, in TagRead) (View, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := lockCup(ctx, tx, code)
		if err != nil {
			return err
		}
		m := c.row
		i := slices.IndexFunc(c.lines, func(l lineRow) bool { return l.Seq == in.Seq })
		if i < 0 {
			return problem.NotFound("line", fmt.Sprint(in.Seq))
		}
		l, tag := c.lines[i], codeOf(in.Tag)
		h, _ := c.house.Of(l.Ingredient)
		name := nameOf(h, c.materials[l.Material])
		if l.LotID == nil {
			return problem.Invalid("no_lot", "tag", "%s comes from the tap and has no tag.", name)
		}
		now := s.Clock.Now()
		if strings.EqualFold(tag, *l.Lot) {
			_, err := tx.ExecContext(ctx, `UPDATE mix_line SET seen_at = ? WHERE id = ?`, now, l.ID)
			return err
		}
		lots, err := s.Stores.LotsOf(ctx, tx, l.Material)
		if err != nil {
			return err
		}
		j := slices.IndexFunc(lots, func(o Lot) bool { return strings.EqualFold(o.Code, tag) && o.Part == h.Kit })
		switch {
		case j < 0:
			return problem.Invalid("wrong_lot", "tag", "That is %s, and the sheet says %s of lot %s. Put it back; nothing was recorded.", tag, name, *l.Lot)
		case l.InCupG > 0:
			return problem.Invalid("wrong_lot", "tag", "Lot %s is in the cup already: the line stays with it.", *l.Lot)
		}
		if why := lots[j].Refusal(clock.DayNumber(now)); why != "" {
			return problem.Invalid("lot_refused", "tag", "Lot %s may not be used: %s. Put it back.", tag, why)
		}
		if lots[j].OnHandG < quantity.Grams(c.by[l.Ingredient].AddG) {
			return problem.Invalid("lot_refused", "tag", "Lot %s holds only %s.", tag, quantity.FormatMass(lots[j].OnHandG))
		}
		why := strings.TrimSpace(in.Why)
		if !in.Take || why == "" {
			p := problem.Invalid("other_lot", "tag", "That is lot %s; the sheet says %s. Take it with a reason, or put it back.", tag, *l.Lot)
			p.Data = map[string]string{"lot": lots[j].Code}
			return p
		}
		if h.Kit != "" {
			if err := s.changeKit(ctx, tx, c, l, lots, lots[j].Code, why); err != nil {
				return err
			}
		} else if _, err := tx.ExecContext(ctx, `UPDATE mix_line SET lot_id = ?, why_lot = ?, seen_at = ? WHERE id = ?`, lots[j].ID, why, now, l.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: m.piece(), Kind: "mix", Code: code, Act: "another lot", Words: fmt.Sprintf("%s: lot %s instead of %s: %s", name, lots[j].Code, *l.Lot, why)})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", code)
	return s.View(ctx, code)
}

// changeKit takes both parts from the other pair: parts of different lots are never mixed.
func (s *Service) changeKit(ctx context.Context, tx database.Tx, c cup, of lineRow, lots []Lot, code, why string) error {
	for _, l := range c.lines {
		h, _ := c.house.Of(l.Ingredient)
		if h.Kit == "" || l.Material != of.Material {
			continue
		}
		if l.InCupG > 0 {
			return problem.Invalid("wrong_lot", "tag", "A part of lot %s is in the cup already, and parts of different lots are never mixed.", *l.Lot)
		}
		i := slices.IndexFunc(lots, func(o Lot) bool { return o.Code == code && o.Part == h.Kit })
		if i < 0 {
			return problem.Invalid("wrong_lot", "tag", "Lot %s has no part %s.", code, h.Kit)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE mix_line SET lot_id = ?, why_lot = ?, seen_at = IF(id = ?, ?, NULL) WHERE id = ?`, lots[i].ID, why, of.ID, s.Clock.Now(), l.ID); err != nil {
			return err
		}
	}
	return nil
}
