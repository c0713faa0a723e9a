package mix

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Abandon ends a mix that will not be poured. What was weighed stays drawn.
func (s *Service) Abandon(ctx context.Context, code, reason string) (View, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return View{}, problem.Invalid("missing", "reason", "Say why, in a word or two.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		return s.end(ctx, tx, m, "abandoned", reason)
	})
	return s.ended(ctx, code, err)
}

// ended takes a mix that was ended off the scale and shows it.
func (s *Service) ended(ctx context.Context, code string, err error) (View, error) {
	if err != nil {
		return View{}, err
	}
	if on, err := s.attached(ctx); err == nil && on == code {
		s.attach("")
	}
	s.Live.Tell(ctx, "mixes", code)
	s.Live.Tell(ctx, "lots", "")
	return s.View(ctx, code)
}

func (s *Service) end(ctx context.Context, tx database.Tx, m row, state, reason string) error {
	now := s.Clock.Now()
	ended, err := database.Changed(tx.ExecContext(ctx, `UPDATE mix SET state = ?, ended_at = ?, end_reason = ? WHERE id = ? AND state IN ('planned','weighing')`, state, now, reason, m.ID))
	if err != nil {
		return err
	}
	if !ended {
		return problem.Conflict("ended", "%s has ended already; nothing was changed.", m.Code)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE exposure SET ended_at = ? WHERE mix_id = ? AND ended_at IS NULL`, now, m.ID); err != nil {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: m.piece(), Kind: "mix", Code: m.Code, Act: strings.ReplaceAll(state, "_", " "), Words: reason})
	return err
}

// finished refuses what is not all in yet. A test goes on while it is poured: a
// spoonful stands aside and is looked at later.
func (c cup) finished() error {
	if c.State != "weighing" {
		return problem.Conflict("ended", "%s is %s.", c.Code, strings.ReplaceAll(c.State, "_", " "))
	}
	if c.ParentID != nil {
		return nil
	}
	line, step := c.current()
	switch {
	case line != nil:
		h, _ := c.house.Of(line.Ingredient)
		return problem.Conflict("not_all_in", "Not everything is in the cup yet: %s is next.", nameOf(h, c.materials[line.Material]))
	case step != nil && step.plan().Act != recipe.Test:
		return problem.Conflict("not_all_in", "It is not ready yet: %s is next.", words(step.plan()))
	}
	return nil
}

// PourInto is what a mix is poured into: moulds, one copy each, where an empty code
// is a copy without a recorded mould; or a run that waits for it.
type PourInto struct {
	Moulds []string `json:"moulds,omitempty" maxItems:"50" doc:"one copy for each; an empty code pours without a recorded mould"`
	Run    string   `json:"run,omitempty" maxLength:"16"`
	Reason string   `json:"reason,omitempty" maxLength:"200"`
	// How it stood as it was poured into.
	Place      string   `json:"place,omitempty" maxLength:"80" doc:"where it is poured and waits"`
	MouldC     *float64 `json:"mould_c,omitempty" minimum:"-5" maximum:"95" doc:"how warm the mould is"`
	ReleaseWet bool     `json:"release_wet,omitempty" doc:"the release is not dry yet"`
}

// Pour ends the mix by pouring it: a run begins or goes on and its pots stand on
// the shelf, all in one act, decided on what stands in the cup then.
func (s *Service) Pour(ctx context.Context, code string, in PourInto) (run string, copies []string, err error) {
	in.Reason = strings.TrimSpace(in.Reason)
	if len(in.Moulds) == 0 && in.Run == "" {
		return "", nil, problem.Invalid("missing", "moulds", "Choose what you pour into.")
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		if m.State == "poured" && m.Run != nil {
			return problem.Conflict("ended", "%s has been poured already, as %s.", code, *m.Run)
		}
		c, err := readCup(ctx, tx, m)
		if err != nil {
			return err
		}
		if err := c.finished(); err != nil {
			return err
		}
		w, err := s.working(ctx, tx, c.house, c.materials, m, c.lines)
		switch {
		case err != nil:
			return err
		case m.PieceID == nil:
			return problem.Conflict("no_piece", "%s was mixed for the shop: put it by, or say what it was used for.", code)
		case len(in.Moulds) > m.Pours:
			return problem.Invalid("out_of_range", "moulds", "The mix was made for %d pours.", m.Pours)
		case w.Over && in.Reason == "":
			return problem.Conflict("too_late", "The working time is over: the mix may be too thick to fill the mould. Say why you pour all the same, or abandon it.")
		}
		if in.ReleaseWet && in.Reason == "" {
			return problem.Invalid("release_wet", "release_wet",
				"A release that is still wet keeps what is poured on it from setting, and the piece sticks. Let it dry, or say why you pour all the same.")
		}
		p, err := piece.Find(ctx, tx, m.Piece)
		if err != nil {
			return err
		}
		// What was weighed is what cures, be it more than is known of.
		sheet, _ := cureSheet(c.house, c.materials, c.lines)
		contact := s.Clock.Now()
		if m.ContactAt != nil {
			contact = *m.ContactAt
		}
		if err := s.end(ctx, tx, m, "poured", in.Reason); err != nil {
			return err
		}
		gel, err := s.gelFrom(ctx, tx, c, m)
		if err != nil {
			return err
		}
		run, copies, err = s.Build.StartRun(ctx, tx, Pour{Piece: p, Section: m.Section, MixID: m.ID, MixCode: code, Material: m.Slug,
			Sheet: sheet, Contact: contact, Gel: gel, Moulds: in.Moulds, Run: in.Run, Place: strings.TrimSpace(in.Place), MouldC: in.MouldC, ReleaseWet: in.ReleaseWet})
		return err
	})
	if err != nil {
		return "", nil, err
	}
	s.attach("")
	for _, topic := range []string{"mixes", "pots", "runs", "copies", "pieces"} {
		s.Live.Tell(ctx, topic, "")
	}
	return run, copies, nil
}

// Kept is what is put by.
type Kept struct {
	Amount string `json:"amount,omitempty" maxLength:"64" doc:"what is left; empty: all that is in the cup"`
	Shelf  string `json:"shelf,omitempty" maxLength:"40"`
}

// PutBy keeps a mix as a lot of its own, with its use-by: prepared stock, a let-down,
// a base that is melted again.
func (s *Service) PutBy(ctx context.Context, code string, in Kept) (View, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := lockFinished(ctx, tx, code)
		if err != nil {
			return err
		}
		m := c.row
		if c.house.KeepH == 0 {
			return problem.Conflict("does_not_keep", "%s does not keep: pour it, or say what it was used for.", c.house.Name)
		}
		grams := c.mass()
		if strings.TrimSpace(in.Amount) != "" {
			q, err := quantity.Parse(in.Amount, quantity.Mass, c.materials[m.Slug].Mixed(), "amount")
			if err != nil {
				return err
			}
			if q.Value <= 0 || q.Value > grams*1.02+1 {
				return problem.Invalid("out_of_range", "amount", "There is %s of it in the cup.", quantity.FormatMass(grams))
			}
			grams = q.Value
		}
		put := PutBy{MixID: m.ID, Code: m.Code, Material: m.Slug, Grams: grams, UseBy: s.Clock.Now().Add(time.Duration(c.house.KeepH * float64(time.Hour))), Shelf: strings.TrimSpace(in.Shelf)}
		if seq, back, done := c.back(); done {
			b, err := s.batch(ctx, tx, c, seq)
			if err != nil {
				return err
			}
			put.Batch = batchOf(b, back/1000, (c.mass()/c.Share-back)/1000)
		}
		if err := s.Stores.PutBy(ctx, tx, put); err != nil {
			return err
		}
		return s.end(ctx, tx, m, "put_by", fmt.Sprintf("%s, use by %s", quantity.FormatMass(grams), put.UseBy.Format("2006-01-02 15:04")))
	})
	return s.ended(ctx, code, err)
}

// batchOf is the base after its last weigh-back and the water that was added then.
func batchOf(b gelatin.Batch, backKg, addedKg float64) *Batch {
	weighed, err := b.Weighed(backKg, "")
	if err != nil {
		weighed = b
	}
	weighed = weighed.WithWater(addedKg)
	return &Batch{WaterShare: weighed.Water / weighed.Mass(), Start: b.Start()}
}

// Used is what a mix went into that is no copy: a mould, which then touches what is
// cast in it, a form, a test.
type Used struct {
	What  string `json:"what" maxLength:"200"`
	Mould string `json:"mould,omitempty" maxLength:"24" doc:"code of the mould that it was made into, or laid in"`
}

// Use ends a mix that went into something that is no copy.
func (s *Service) Use(ctx context.Context, code string, in Used) (View, error) {
	what, mould := strings.TrimSpace(in.What), strings.TrimSpace(in.Mould)
	if what == "" && mould != "" {
		what = "mould " + mould
	}
	if what == "" {
		return View{}, problem.Invalid("missing", "what", "What was it used for?")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := lockFinished(ctx, tx, code)
		if err != nil {
			return err
		}
		m := c.row
		if mould != "" {
			known, err := database.Changed(tx.ExecContext(ctx, `UPDATE mix SET mould_id = (SELECT id FROM mould WHERE code = ?) WHERE id = ? AND EXISTS (SELECT 1 FROM mould WHERE code = ?)`, mould, m.ID, mould))
			if err != nil {
				return err
			}
			if !known {
				return problem.Invalid("unknown_value", "mould", "There is no mould %s.", mould)
			}
		}
		return s.end(ctx, tx, m, "used", what)
	})
	return s.ended(ctx, code, err)
}

// Divide pours a part of a finished mix into a second cup: both have the same
// history from then on, and end for themselves.
func (s *Service) Divide(ctx context.Context, code, amount string) (View, error) {
	var second string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := lockFinished(ctx, tx, code)
		if err != nil {
			return err
		}
		m := c.row
		q, err := quantity.Parse(amount, quantity.Mass, c.materials[m.Slug].Mixed(), "amount")
		if err != nil {
			return err
		}
		have := c.mass()
		if q.Value <= 0 || q.Value >= have {
			return problem.Invalid("out_of_range", "amount", "There is %s in the cup: take less than that.", quantity.FormatMass(have))
		}
		number, err := database.NextNumber(ctx, tx, "mix")
		if err != nil {
			return err
		}
		second = fmt.Sprintf("X-%04d", number)
		share := m.Share * q.Value / have
		if _, err := tx.ExecContext(ctx, `INSERT INTO mix (code, piece_id, section_number, material_id, recipe, recipe_slug, recipe_number, amount, planned_g, pours, state, parent_id, share, water_c, room_c, rh, contact_at, confirmed, planned_at, planned_by)
			SELECT ?, piece_id, section_number, material_id, recipe, recipe_slug, recipe_number, amount, ?, pours, 'weighing', ?, ?, water_c, room_c, rh, contact_at, confirmed, ?, planned_by FROM mix WHERE id = ?`,
			second, quantity.Grams(q.Value), m.source(), share, s.Clock.Now(), m.ID); err != nil {
			return fmt.Errorf("dividing the mix: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE mix SET share = ? WHERE id = ?`, m.Share-share, m.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.piece(), Kind: "mix", Code: code, Act: "divided", Words: fmt.Sprintf("%s into %s", quantity.FormatMass(q.Value), second)})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", code)
	return s.View(ctx, second)
}

// gelFrom is when a foam gels, s from its gelling agent on; nil of anything else.
func (s *Service) gelFrom(ctx context.Context, tx database.Tx, c cup, m row) (*cure.WorkingTime, error) {
	if c.house.Clock != recipe.GelTime {
		return nil, nil
	}
	for _, t := range c.steps {
		if t.Value != nil && t.plan().Act == recipe.Test { // somebody saw it
			return &cure.WorkingTime{SheetS: *t.Value, LeftS: *t.Value, LowS: *t.Value, HighS: *t.Value}, nil
		}
	}
	whole := m
	whole.ContactAt = nil
	w, err := s.working(ctx, tx, c.house, c.materials, whole, c.lines)
	if err != nil || w.SheetS <= 0 {
		return nil, err
	}
	return &w, nil
}
