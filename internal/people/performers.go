// Package people is who the work is for and who takes it over: performers with
// what is known of their skin and what they can bear, the forms fitted to them,
// and the shop's address book. It knows no piece.
package people

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of people.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Forms *Forms
	Worn  Worn
}

// Wearing is one day on which materials lay on a wearer's skin.
type Wearing struct {
	Day       time.Time
	Materials []string // slugs
}

// Worn tells what lay on a performer's skin so far; wired to the pieces.
type Worn interface {
	OnSkin(ctx context.Context, performer uint64) ([]Wearing, error)
}

// Performer is the wearer as the shop knows them.
type Performer struct {
	ID             uint64       `db:"id" json:"id"`
	Name           string       `db:"name" json:"name"`
	ExcludesAnimal bool         `db:"excludes_animal" json:"excludes_animal"`
	Keeps          string       `db:"keeps" json:"keeps" doc:"beard or hair that stays"`
	Health         []HealthFact `db:"-" json:"health"`
	Patches        []Patch      `db:"-" json:"patch_tests"`
	Limits         []Limit      `db:"-" json:"limits"`
	Consents       []Consent    `db:"-" json:"consents"`
	Exposures      []Exposure   `db:"-" json:"exposures"`
}

// Limit is what a wearer can bear; it can be erased.
type Limit struct {
	Kind string `db:"kind" json:"kind" enum:"sight,hearing,breathing,mouth,hours,mass,heat"`
	// Amount is in hours, grams, or °C of wet-bulb globe temperature; none
	// where nothing at all may be taken.
	Amount *float64 `db:"amount" json:"amount,omitempty"`
	Note   string   `db:"note" json:"note"`
}

// Consent is what a wearer agreed to. Withdrawn, it stays in the list as such.
type Consent struct {
	ID          uint64     `db:"id" json:"id"`
	What        string     `db:"what" json:"what" enum:"touch and glue,life cast,photographs,showing pictures,health record"`
	GivenOn     time.Time  `db:"given_on" json:"given_on"`
	UntilOn     *time.Time `db:"until_on" json:"until_on,omitempty"`
	WithdrawnOn *time.Time `db:"withdrawn_on" json:"withdrawn_on,omitempty"`
	Note        string     `db:"note" json:"note"`
}

// Exposure counts on how many days a material lay on this wearer's skin, from
// the kits that were handed over and the patch tests.
type Exposure struct {
	Material string    `json:"material"`
	Name     string    `json:"material_name"`
	Days     int       `json:"days"`
	Tests    int       `json:"patch_tests"`
	Last     time.Time `json:"last"`
}

// HealthFact is one recorded sensitivity; it can be erased.
type HealthFact struct {
	ID        uint64 `db:"id" json:"id"`
	Substance string `db:"substance" json:"substance"`
	Status    string `db:"status" json:"status" enum:"allergic,sensitive,clear"`
	Note      string `db:"note" json:"note"`
}

// Patch is one patch test.
type Patch struct {
	ID        uint64    `db:"id" json:"id"`
	Slug      string    `db:"slug" json:"material"`
	Name      string    `db:"name" json:"material_name"`
	LotCode   string    `db:"lot_code" json:"lot"`
	Result    string    `db:"result" json:"result" enum:"open,clear,positive"`
	TestedOn  time.Time `db:"tested_on" json:"tested_on"`
	ExpiresOn time.Time `db:"expires_on" json:"expires_on"`
}

// Performer reads one performer with what is known of their skin.
func (s *Service) Performer(ctx context.Context, id uint64) (Performer, error) {
	p := Performer{Health: []HealthFact{}, Patches: []Patch{}, Limits: []Limit{}, Consents: []Consent{}, Exposures: []Exposure{}}
	err := s.DB.GetContext(ctx, &p, `SELECT id, name, excludes_animal, keeps FROM performer WHERE id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return p, problem.NotFound("performer", fmt.Sprint(id))
	}
	if err != nil {
		return p, err
	}
	if err := s.DB.SelectContext(ctx, &p.Health, `SELECT id, substance, status, note FROM health_fact WHERE performer_id = ? ORDER BY substance`, id); err != nil {
		return p, err
	}
	err = s.DB.SelectContext(ctx, &p.Patches, `SELECT t.id, m.slug, m.name, t.lot_code, t.result, t.tested_on, t.expires_on FROM patch_test t JOIN material m ON m.id = t.material_id WHERE t.performer_id = ? ORDER BY t.tested_on DESC, t.id DESC`, id)
	if err != nil {
		return p, err
	}
	if p.Limits, err = Limits(ctx, s.DB, id); err != nil {
		return p, err
	}
	if err := s.DB.SelectContext(ctx, &p.Consents, `SELECT id, what, given_on, until_on, withdrawn_on, note FROM performer_consent WHERE performer_id = ? ORDER BY given_on DESC, id DESC`, id); err != nil {
		return p, err
	}
	p.Exposures, err = s.exposures(ctx, id, p.Patches)
	return p, err
}

// Limits reads what a wearer can bear.
func Limits(ctx context.Context, db database.Reader, id uint64) ([]Limit, error) {
	list := []Limit{}
	err := db.SelectContext(ctx, &list, `SELECT kind, amount, note FROM performer_limit WHERE performer_id = ? ORDER BY kind`, id)
	return list, err
}

// oneLook is how long readings of the same facts on the same sign-in count as
// one look: a screen that is open reads again whenever something changes.
const oneLook = 10 * time.Minute

// SeePerformer reads one performer and records who saw the facts of their
// health, and on which device.
func (s *Service) SeePerformer(ctx context.Context, id uint64) (Performer, error) {
	p, err := s.Performer(ctx, id)
	if err != nil || len(p.Health)+len(p.Patches)+len(p.Limits) == 0 {
		return p, err
	}
	who, _ := accounts.From(ctx)
	return p, s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		var seen int
		// Index journal_person.
		if err := tx.GetContext(ctx, &seen, `SELECT COUNT(*) FROM journal WHERE person_id = ? AND at > ? AND kind = 'performer' AND code = ? AND act = 'health facts seen' AND device = ?`,
			who.ID, now.Add(-oneLook), fmt.Sprint(id), accounts.VisitOf(ctx).Device); err != nil || seen > 0 {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Kind: "performer", Code: fmt.Sprint(id), Act: "health facts seen"})
		return err
	})
}

// SetPerformer changes what is not health: exclusions and what stays.
func (s *Service) SetPerformer(ctx context.Context, id uint64, excludesAnimal bool, keeps string) (Performer, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE performer SET excludes_animal = ?, keeps = ? WHERE id = ?`, excludesAnimal, keeps, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(id), Act: "limits changed"})
		return err
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell(ctx, "section", "")
	return s.Performer(ctx, id)
}

// RecordHealth records a sensitivity. The journal keeps that it was recorded,
// never what it says.
func (s *Service) RecordHealth(ctx context.Context, id uint64, substance, status, note string) (Performer, error) {
	substance = strings.ToLower(strings.TrimSpace(substance))
	if substance == "" {
		return Performer{}, problem.Invalid("missing", "substance", "Sensitive to what? For example latex.")
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		if err := exists(ctx, tx, id); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO health_fact (performer_id, substance, status, note, recorded_at, recorded_by) VALUES (?,?,?,?,?,NULLIF(?,0))
			ON DUPLICATE KEY UPDATE status = VALUES(status), note = VALUES(note), recorded_at = VALUES(recorded_at), recorded_by = VALUES(recorded_by)`, id, substance, status, note, now, who.ID); err != nil {
			return fmt.Errorf("recording a sensitivity: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Kind: "performer", Code: fmt.Sprint(id), Act: "health fact recorded"})
		return err
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell(ctx, "section", "")
	return s.Performer(ctx, id)
}

// exists refuses a performer who is not there.
func exists(ctx context.Context, tx database.Tx, id uint64) error {
	var n int
	if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM performer WHERE id = ?`, id); err != nil {
		return err
	}
	if n == 0 {
		return problem.NotFound("performer", fmt.Sprint(id))
	}
	return nil
}

// EraseHealth removes one recorded sensitivity for good.
func (s *Service) EraseHealth(ctx context.Context, id, fact uint64) (Performer, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		erased, err := database.Changed(tx.ExecContext(ctx, `DELETE FROM health_fact WHERE id = ? AND performer_id = ?`, fact, id))
		if err != nil {
			return err
		}
		if !erased {
			return problem.NotFound("recorded sensitivity", fmt.Sprint(fact))
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(id), Act: "health fact erased"})
		return errors.Join(err, database.ForgetAnswers(ctx, tx))
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell(ctx, "section", "")
	return s.Performer(ctx, id)
}

// NewPatch is a patch test as it is entered. Dates are days, 2026-01-09.
type NewPatch struct {
	Material  string `json:"material"`
	Lot       string `json:"lot,omitempty" maxLength:"32"`
	Result    string `json:"result" enum:"open,clear,positive"`
	TestedOn  string `json:"tested_on" format:"date"`
	ExpiresOn string `json:"expires_on" format:"date"`
}

// RecordPatch records a patch test; a later one of the same material stands
// beside the earlier.
func (s *Service) RecordPatch(ctx context.Context, id uint64, in NewPatch) (Performer, error) {
	tested, err := clock.ParseDay(in.TestedOn, "tested_on")
	if err != nil {
		return Performer{}, err
	}
	expires, err := clock.ParseDay(in.ExpiresOn, "expires_on")
	if err != nil {
		return Performer{}, err
	}
	if tested.After(s.Clock.Now()) {
		return Performer{}, problem.Invalid("out_of_range", "tested_on", "A test that is still to come cannot be recorded yet.")
	}
	if expires.Before(tested) {
		return Performer{}, problem.Invalid("contradiction", "expires_on", "A test cannot run out before it was made.")
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		known, err := database.Changed(tx.ExecContext(ctx, `INSERT INTO patch_test (performer_id, material_id, lot_code, tested_on, result, expires_on, recorded_by) SELECT ?, id, ?, ?, ?, ?, NULLIF(?,0) FROM material WHERE slug = ?`,
			id, in.Lot, tested, in.Result, expires, who.ID, in.Material))
		if err != nil {
			return fmt.Errorf("recording a patch test: %w", err)
		}
		if !known {
			return problem.Invalid("unknown_value", "material", "Choose what was tested.")
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(id), Act: "patch test recorded"})
		return err
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell(ctx, "section", "")
	return s.Performer(ctx, id)
}
