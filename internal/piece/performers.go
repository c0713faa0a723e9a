package piece

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Performer is the wearer as the shop knows them.
type Performer struct {
	ID             uint64       `db:"id" json:"id"`
	Name           string       `db:"name" json:"name"`
	ExcludesAnimal bool         `db:"excludes_animal" json:"excludes_animal"`
	Keeps          string       `db:"keeps" json:"keeps" doc:"beard or hair that stays"`
	Health         []HealthFact `db:"-" json:"health"`
	Patches        []Patch      `db:"-" json:"patch_tests"`
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
	p := Performer{Health: []HealthFact{}, Patches: []Patch{}}
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
	return p, err
}

// oneLook is how long readings of the same facts on the same sign-in count as
// one look: a screen that is open reads again whenever something changes.
const oneLook = 10 * time.Minute

// SeePerformer reads one performer and records who saw the facts of their
// health, and on which device.
func (s *Service) SeePerformer(ctx context.Context, id uint64) (Performer, error) {
	p, err := s.Performer(ctx, id)
	if err != nil || len(p.Health)+len(p.Patches) == 0 {
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
	s.Live.Tell("section", "")
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
	s.Live.Tell("section", "")
	return s.Performer(ctx, id)
}

// EraseHealth removes one recorded sensitivity for good.
func (s *Service) EraseHealth(ctx context.Context, id, fact uint64) (Performer, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM health_fact WHERE id = ? AND performer_id = ?`, fact, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(id), Act: "health fact erased"})
		return err
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell("section", "")
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
	tested, err := ParseDay(in.TestedOn, "tested_on")
	if err != nil {
		return Performer{}, err
	}
	expires, err := ParseDay(in.ExpiresOn, "expires_on")
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
		res, err := tx.ExecContext(ctx, `INSERT INTO patch_test (performer_id, material_id, lot_code, tested_on, result, expires_on, recorded_by) SELECT ?, id, ?, ?, ?, ?, NULLIF(?,0) FROM material WHERE slug = ?`,
			id, in.Lot, tested, in.Result, expires, who.ID, in.Material)
		if err != nil {
			return fmt.Errorf("recording a patch test: %w", err)
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return problem.Invalid("unknown_value", "material", "Choose what was tested.")
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(id), Act: "patch test recorded"})
		return err
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell("section", "")
	return s.Performer(ctx, id)
}

// ParseDay reads a calendar day.
func ParseDay(text, field string) (time.Time, error) {
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return time.Time{}, problem.Invalid("not_a_date", field, "“%.20s” is not a day. Write it as 2026-01-23.", text)
	}
	return t, nil
}

// Day is one shooting day.
type Day struct {
	ID           uint64    `db:"id" json:"id"`
	ProductionID uint64    `db:"production_id" json:"production_id"`
	Day          time.Time `db:"day" json:"day"`
	Place        string    `db:"place" json:"place"`
	TempC        float64   `db:"temp_c" json:"temp_c"`
	RH           float64   `db:"rh" json:"rh"`
	Light        string    `db:"light" json:"light"`
}

// Days lists a production's shooting days.
func (s *Service) Days(ctx context.Context, production uint64) ([]Day, error) {
	list := []Day{}
	err := s.DB.SelectContext(ctx, &list, `SELECT id, production_id, day, place, temp_c, rh, light FROM shooting_day WHERE production_id = ? ORDER BY day, place`, production)
	return list, err
}

// NewDay is a shooting day as it is entered.
type NewDay struct {
	Day   string  `json:"day" format:"date"`
	Place string  `json:"place" minLength:"1" maxLength:"120"`
	TempC float64 `json:"temp_c" minimum:"-30" maximum:"60"`
	RH    float64 `json:"rh" minimum:"0" maximum:"1"`
	Light string  `json:"light" maxLength:"40"`
}

// AddDay adds a shooting day.
func (s *Service) AddDay(ctx context.Context, production uint64, in NewDay) ([]Day, error) {
	day, err := ParseDay(in.Day, "day")
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO shooting_day (production_id, day, place, temp_c, rh, light) VALUES (?,?,?,?,?,?)`, production, day, in.Place, in.TempC, in.RH, in.Light); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "day", Code: in.Day, Act: "day added", Words: in.Place})
		return err
	})
	if database.IsDuplicate(err) {
		return nil, problem.Conflict("taken", "This day is already there for that place.")
	}
	if err != nil {
		return nil, fmt.Errorf("adding a shooting day: %w", err)
	}
	s.Live.Tell("days", "")
	return s.Days(ctx, production)
}

// DaysOf lists the ids of the days on which a piece is worn.
func (s *Service) DaysOf(ctx context.Context, piece uint64) ([]uint64, error) {
	ids := []uint64{}
	err := s.DB.SelectContext(ctx, &ids, `SELECT pd.day_id FROM piece_day pd JOIN shooting_day d ON d.id = pd.day_id WHERE pd.piece_id = ? ORDER BY d.day`, piece)
	return ids, err
}

// SetDays says on which days a piece is worn.
func (s *Service) SetDays(ctx context.Context, code string, ids []uint64) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM piece_day WHERE piece_id = ?`, p.ID); err != nil {
			return err
		}
		for _, id := range ids {
			res, err := tx.ExecContext(ctx, `INSERT INTO piece_day (piece_id, day_id) SELECT ?, id FROM shooting_day WHERE id = ? AND production_id = ?`, p.ID, id, p.ProductionID)
			if err != nil {
				return err
			}
			if n, _ := res.RowsAffected(); n == 0 {
				return problem.Invalid("unknown_value", "day_ids", "One of these days does not belong to %s.", p.Production)
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code, Act: "days chosen", Words: fmt.Sprint(len(ids))})
		return err
	})
	if err == nil {
		s.Live.Tell("pieces", code)
	}
	return err
}
