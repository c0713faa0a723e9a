package people

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// exposures count the days on which a material touched a wearer's skin, and the
// patch tests.
func (s *Service) exposures(ctx context.Context, performer uint64, tests []Patch) ([]Exposure, error) {
	worn, err := s.Worn.OnSkin(ctx, performer)
	if err != nil {
		return nil, fmt.Errorf("reading what was worn: %w", err)
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	by := map[string]*Exposure{}
	days := map[string]bool{}
	count := func(slug string, at time.Time) *Exposure {
		e := by[slug]
		if e == nil {
			e = &Exposure{Material: slug, Name: materials[slug].Name}
			by[slug] = e
		}
		if at.After(e.Last) {
			e.Last = at
		}
		return e
	}
	for _, w := range worn {
		for _, slug := range w.Materials {
			// Two pieces on one day are one day.
			if e, once := count(slug, w.Day), slug+w.Day.Format(time.DateOnly); !days[once] {
				days[once] = true
				e.Days++
			}
		}
	}
	for _, t := range tests {
		count(t.Slug, t.TestedOn).Tests++
	}
	list := []Exposure{}
	for _, e := range by {
		list = append(list, *e)
	}
	slices.SortFunc(list, func(a, b Exposure) int {
		return cmp.Or(cmp.Compare(b.Days, a.Days), cmp.Compare(b.Tests, a.Tests), strings.Compare(a.Name, b.Name))
	})
	return list, nil
}

// inLimits are what amounts can be meant, by kind.
var inLimits = map[string][2]float64{"hours": {0.1, 24}, "mass": {1, 20000}, "heat": {5, 40}}

// SetLimit records what a wearer can bear, or changes it. The journal keeps
// that it was recorded, never what it says.
func (s *Service) SetLimit(ctx context.Context, id uint64, l Limit) (Performer, error) {
	if b, counted := inLimits[l.Kind]; counted && (l.Amount == nil || *l.Amount < b[0] || *l.Amount > b[1]) {
		return Performer{}, problem.Invalid("out_of_range", "amount", "Say how much: between %g and %g.", b[0], b[1])
	} else if !counted && l.Amount != nil {
		return Performer{}, problem.Invalid("contradiction", "amount", "A limit of %s has no amount: it says that nothing may be taken.", l.Kind)
	}
	who, _ := accounts.From(ctx)
	return s.performerAct(ctx, id, "limit recorded", func(tx database.Tx) error {
		_, err := tx.ExecContext(ctx, `INSERT INTO performer_limit (performer_id, kind, amount, note, recorded_at, recorded_by) VALUES (?,?,?,?,?,NULLIF(?,0))
			ON DUPLICATE KEY UPDATE amount = VALUES(amount), note = VALUES(note), recorded_at = VALUES(recorded_at), recorded_by = VALUES(recorded_by)`, id, l.Kind, l.Amount, l.Note, s.Clock.Now(), who.ID)
		return err
	})
}

// EraseLimit removes a limit for good.
func (s *Service) EraseLimit(ctx context.Context, id uint64, kind string) (Performer, error) {
	return s.performerAct(ctx, id, "limit erased", func(tx database.Tx) error {
		_, err := tx.ExecContext(ctx, `DELETE FROM performer_limit WHERE performer_id = ? AND kind = ?`, id, kind)
		return errors.Join(err, database.ForgetAnswers(ctx, tx))
	})
}

// NewConsent is a consent as it is written down. Dates are days.
type NewConsent struct {
	What    string `json:"what" enum:"touch and glue,life cast,photographs,showing pictures,health record"`
	GivenOn string `json:"given_on" format:"date"`
	UntilOn string `json:"until_on,omitempty" maxLength:"10" doc:"empty for as long as the work lasts"`
	Note    string `json:"note" maxLength:"300"`
	GivenBy string `json:"given_by,omitempty" maxLength:"120" doc:"the guardian, for a performer under age"`
}

// GiveConsent writes down what a wearer agreed to.
func (s *Service) GiveConsent(ctx context.Context, id uint64, in NewConsent) (Performer, error) {
	given, err := clock.ParseDay(in.GivenOn, "given_on")
	if err != nil {
		return Performer{}, err
	}
	if given.After(s.Clock.Now()) {
		return Performer{}, problem.Invalid("out_of_range", "given_on", "A consent that is still to come cannot be recorded yet.")
	}
	var until *time.Time
	if in.UntilOn != "" {
		day, err := clock.ParseDay(in.UntilOn, "until_on")
		if err != nil {
			return Performer{}, err
		}
		if day.Before(given) {
			return Performer{}, problem.Invalid("contradiction", "until_on", "It cannot end before it was given.")
		}
		until = &day
	}
	who, _ := accounts.From(ctx)
	by := strings.TrimSpace(in.GivenBy)
	return s.performerAct(ctx, id, "consent given", func(tx database.Tx) error {
		m, err := minority(ctx, tx, id)
		if err != nil {
			return err
		}
		if m.under(s.Clock.Now()) && by == "" {
			return problem.Invalid("guardian", "given_by", "The performer is under age: a guardian gives consent. Who?")
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO performer_consent (performer_id, what, given_on, until_on, note, given_by, recorded_by) VALUES (?,?,?,?,?,?,NULLIF(?,0))`, id, in.What, given, until, in.Note, by, who.ID)
		return err
	})
}

// WithdrawConsent ends a consent today.
func (s *Service) WithdrawConsent(ctx context.Context, id, consent uint64) (Performer, error) {
	return s.performerAct(ctx, id, "consent withdrawn", func(tx database.Tx) error {
		done, err := database.Changed(tx.ExecContext(ctx, `UPDATE performer_consent SET withdrawn_on = ? WHERE id = ? AND performer_id = ? AND withdrawn_on IS NULL`, s.Clock.Now(), consent, id))
		if err != nil {
			return err
		}
		if !done {
			return problem.NotFound("consent", fmt.Sprint(consent))
		}
		return nil
	})
}

// performerAct does one act on a performer and writes that it was done.
func (s *Service) performerAct(ctx context.Context, id uint64, act string, do func(database.Tx) error) (Performer, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var known int
		if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM performer WHERE id = ?`, id); err != nil {
			return err
		}
		if known == 0 {
			return problem.NotFound("performer", fmt.Sprint(id))
		}
		if err := do(tx); err != nil {
			return fmt.Errorf("%s: %w", act, err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(id), Act: act})
		return err
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell(ctx, "section", "")
	s.Live.Tell(ctx, "brief", "")
	return s.Performer(ctx, id)
}
