// Package stores is the room where lots are: what came in, what is on hand,
// what may be used, and where a lot went.
package stores

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/stock"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/kept"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of the stores.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Work  Work
	Kits  Kits
	Files *files.Store
	// PublicURL is where the codes on labels lead.
	PublicURL string

	due kept.Answers[[]Due]
}

// Lots reads the lots of a material as the craft's stock package takes them.
func (s *Service) Lots(ctx context.Context, db database.Reader, slug string) ([]Lot, error) {
	// By the material's key and index lot_used_up.
	return s.lots(ctx, db, `WHERE m.slug = ? AND l.used_up_at IS NULL`, slug)
}

// Draw takes what was weighed out of a lot, inside the act that weighed it.
// The ledger never goes below zero: whoever is second gets nothing that is
// not there.
func (s *Service) Draw(ctx context.Context, tx database.Tx, lot uint64, grams float64, weighIn uint64, poured bool) error {
	l, onHand, err := s.lock(ctx, tx, lot)
	if err != nil {
		return err
	}
	now, err := s.lots(ctx, tx, `WHERE l.id = ?`, lot)
	if err != nil {
		return err
	}
	// What may be used is asked when it is used, not when the sheet was written.
	if why := now[0].Refused; why != "" && onHand > 0 && !poured {
		return problem.Conflict("lot_refused", "Lot %s may not be used any more: %s. Nothing was recorded. Abandon this mix, write a new sheet with another lot, and keep what is in the cup away from every piece.", l.Name(), why)
	}
	if quantity.Grams(onHand-grams) < 0 {
		return problem.Conflict("not_enough", "The books say that lot %s holds %s, and %s were weighed. Nothing was recorded: count the lot in Stores, then say again that it is in. The cup is as it is.",
			l.Name(), quantity.FormatMass(onHand), quantity.FormatMass(grams))
	}
	return s.take(ctx, tx, l, onHand, moved{lot: l.ID, grams: -grams, reason: "weighed", weighIn: &weighIn})
}

// Take takes what a stage of a run uses straight from a lot: the one asked for,
// or the first expired first out that covers it. It is "" where no lot does and
// none was asked for.
func (s *Service) Take(ctx context.Context, tx database.Tx, material, lot string, grams float64, stage uint64) (string, error) {
	list, err := s.Lots(ctx, tx, material)
	if err != nil {
		return "", err
	}
	plain := make([]stock.Lot, len(list))
	for i, l := range list {
		plain[i] = s.stock(l)
	}
	choice := stock.Single(plain, grams, clock.DayNumber(s.Clock.Now()))
	if lot != "" {
		if choice, err = insist(choice, lot); err != nil {
			return "", err
		}
	}
	i := slices.IndexFunc(list, func(l Lot) bool { return l.Code == choice.Code })
	if choice.Code == "" || i < 0 {
		return "", nil
	}
	l, onHand, err := s.lock(ctx, tx, list[i].ID)
	if err != nil {
		return "", err
	}
	if quantity.Grams(onHand-grams) < 0 {
		return "", problem.Conflict("not_enough", "The books say that lot %s holds %s, and this takes %s. Nothing was recorded: count the lot in Stores, then say it again.", l.Name(), quantity.FormatMass(onHand), quantity.FormatMass(grams))
	}
	return l.Code, s.take(ctx, tx, l, onHand, moved{lot: l.ID, grams: -grams, reason: "used", stage: &stage})
}

// insist takes the lot that a person asked for, or refuses it with the reason.
func insist(c stock.Choice, wanted string) (stock.Choice, error) {
	i := slices.IndexFunc(c.Options, func(o stock.Option) bool { return o.Code == wanted })
	if i < 0 {
		return c, problem.Invalid("unknown_value", "lot", "There is no lot %s of this material.", wanted)
	}
	if o := c.Options[i]; o.Refused != "" {
		return c, problem.Invalid("lot_refused", "lot", "Lot %s may not be used: %s.", wanted, o.Refused)
	}
	c.Code, c.Short = wanted, ""
	return c, nil
}

// take writes a movement out of a locked lot, and opens a lot that was sealed.
func (s *Service) take(ctx context.Context, tx database.Tx, l Lot, onHand float64, m moved) error {
	if _, err := s.move(ctx, tx, m, onHand+m.grams); err != nil {
		return err
	}
	if l.OpenedOn == nil {
		if _, err := tx.ExecContext(ctx, `UPDATE lot SET opened_on = ? WHERE id = ?`, s.Clock.Now().Format(time.DateOnly), l.ID); err != nil {
			return err
		}
	}
	return nil
}

// emptyG is what a bench scale cannot tell from nothing.
const emptyG = 0.05

// markUsedUp notes that nothing is left of a lot, or that there is some again.
func (s *Service) markUsedUp(ctx context.Context, tx database.Tx, lot uint64, left float64) error {
	var at *time.Time
	if now := s.Clock.Now(); left < emptyG {
		at = &now
	}
	_, err := tx.ExecContext(ctx, `UPDATE lot SET used_up_at = ? WHERE id = ? AND (used_up_at IS NULL) <> (? IS NULL)`, at, lot, at)
	return err
}

// Count sets what is on hand by a count on the scale; the difference goes into
// the ledger.
func (s *Service) Count(ctx context.Context, code, part, amount, note string) ([]Lot, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		l, err := s.one(ctx, tx, code, part)
		if err != nil {
			return err
		}
		q, err := quantity.Parse(amount, quantity.Mass, 0, "amount")
		if err != nil {
			return err
		}
		_, onHand, err := s.lock(ctx, tx, l.ID)
		if err != nil {
			return err
		}
		difference, note := quantity.Grams(q.Value-onHand), strings.TrimSpace(note)
		if math.Abs(difference) > math.Max(1, onHand/100) && note == "" {
			return problem.Invalid("missing", "note", "The books say %s, the scale %s. Say why: spilt, weighed with the can, forgotten to note.", quantity.FormatMass(onHand), quantity.FormatMass(q.Value))
		}
		now := s.Clock.Now()
		if _, err := s.move(ctx, tx, moved{lot: l.ID, grams: difference, reason: "counted", note: note}, q.Value); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "lot", Code: code, Act: "counted", Words: fmt.Sprintf("%s%s: %s, %+.1f g against the books", code, part, quantity.FormatMass(q.Value), difference)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, code)
}

// SetStatus holds a lot back or lets it go, both parts of a kit together.
func (s *Service) SetStatus(ctx context.Context, code, status, reason string) ([]Lot, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return nil, problem.Invalid("missing", "reason", "Say why, so that others know.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		// The rows are looked for first: a status that stands already changes none.
		have, err := s.lots(ctx, tx, `WHERE l.code = ?`, code)
		if err != nil {
			return err
		}
		if len(have) == 0 {
			return problem.NotFound("lot", code)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE lot SET status = ?, status_reason = ? WHERE code = ?`, status, reason, code); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "lot", Code: code, Act: status, Words: reason})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", code)
	return s.lots(ctx, s.DB, `WHERE l.code = ?`, code)
}

func (s *Service) refusal(l Lot) string { return s.stock(l).Refusal(clock.DayNumber(s.Clock.Now())) }

// stock is the lot as the craft takes it now.
func (s *Service) stock(l Lot) stock.Lot {
	out := l.Stock()
	out.Spoiled = l.UseBy != nil && l.UseBy.Before(s.Clock.Now())
	return out
}
