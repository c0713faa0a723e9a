// Package production is the shows that the shop works for: their shooting days.
package production

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of productions.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
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
	Sun          bool      `db:"sun" json:"sun" doc:"stands in the sun"`
	Rain         bool      `db:"rain" json:"rain"`
	Source       string    `db:"source" json:"source" enum:"typed,forecast"`
	Version      int       `db:"version" json:"version"`
}

const dayColumns = `id, production_id, day, place, temp_c, rh, light, sun, rain, source, version`

// Days lists a production's shooting days.
func (s *Service) Days(ctx context.Context, db database.Reader, production uint64) ([]Day, error) {
	list := []Day{}
	err := db.SelectContext(ctx, &list, `SELECT `+dayColumns+` FROM shooting_day WHERE production_id = ? ORDER BY day, place`, production)
	return list, err
}

// NewDay is a shooting day as it is entered.
type NewDay struct {
	Day   string  `json:"day" format:"date"`
	Place string  `json:"place" minLength:"1" maxLength:"120"`
	TempC float64 `json:"temp_c" minimum:"-30" maximum:"60"`
	RH    float64 `json:"rh" minimum:"0" maximum:"1"`
	Light string  `json:"light" maxLength:"40" doc:"daylight, tungsten, LED, or the set's own"`
	Sun   bool    `json:"sun,omitempty"`
	Rain  bool    `json:"rain,omitempty"`
	// Source says whether somebody typed it or took it over from the forecast.
	Source string `json:"source,omitempty" enum:"typed,forecast"`
}

func (d NewDay) source() string {
	if d.Source == "" {
		return "typed"
	}
	return d.Source
}

// AddDay adds a shooting day.
func (s *Service) AddDay(ctx context.Context, production uint64, in NewDay) ([]Day, error) {
	day, err := clock.ParseDay(in.Day, "day")
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var known int
		if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM production WHERE id = ?`, production); err != nil {
			return err
		}
		if known == 0 {
			return problem.NotFound("production", fmt.Sprint(production))
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO shooting_day (production_id, day, place, temp_c, rh, light, sun, rain, source) VALUES (?,?,?,?,?,?,?,?,?)`, production, day, in.Place, in.TempC, in.RH, in.Light, in.Sun, in.Rain, in.source()); err != nil {
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
	s.Live.Tell(ctx, "days", "")
	return s.Days(ctx, s.DB, production)
}

// ChangeDay corrects a shooting day. Somebody who saw an older state of it is
// told so, and nothing is overwritten.
func (s *Service) ChangeDay(ctx context.Context, id uint64, in NewDay, version int) ([]Day, error) {
	day, err := clock.ParseDay(in.Day, "day")
	if err != nil {
		return nil, err
	}
	var production uint64
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var now Day
		if err := tx.GetContext(ctx, &now, `SELECT `+dayColumns+` FROM shooting_day WHERE id = ? FOR UPDATE`, id); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("day", fmt.Sprint(id))
		} else if err != nil {
			return err
		}
		production = now.ProductionID
		if now.Version != version {
			return problem.Conflict("changed", "Somebody changed this day a moment ago: %s, %g °C. Look again; nothing was overwritten.", now.Place, now.TempC)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE shooting_day SET day = ?, place = ?, temp_c = ?, rh = ?, light = ?, sun = ?, rain = ?, source = ?, version = version + 1 WHERE id = ?`,
			day, in.Place, in.TempC, in.RH, in.Light, in.Sun, in.Rain, in.source(), id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "day", Code: in.Day, Act: "day changed", Words: fmt.Sprintf("%s, %g °C, %.0f %% RH, %s; was %s, %s, %g °C, %.0f %% RH", in.Place, in.TempC, 100*in.RH, in.source(), now.Day.Format(time.DateOnly), now.Place, now.TempC, 100*now.RH)})
		return err
	})
	if database.IsDuplicate(err) {
		return nil, problem.Conflict("taken", "This day is already there for that place.")
	}
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "days", "")
	return s.Days(ctx, s.DB, production)
}

// Later puts a shooting day so many days later, inside the act of who decided it: kits and what is worn stay with it.
func (s *Service) Later(ctx context.Context, tx database.Tx, id uint64, days int) error {
	var now Day
	if err := tx.GetContext(ctx, &now, `SELECT `+dayColumns+` FROM shooting_day WHERE id = ? FOR UPDATE`, id); errors.Is(err, sql.ErrNoRows) {
		return problem.NotFound("day", fmt.Sprint(id))
	} else if err != nil {
		return err
	}
	to := now.Day.AddDate(0, 0, days)
	_, err := tx.ExecContext(ctx, `UPDATE shooting_day SET day = ?, version = version + 1 WHERE id = ?`, to, id)
	if database.IsDuplicate(err) {
		return problem.Conflict("taken", "That day is already there for that place. Nothing was recorded.")
	}
	if err != nil {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "day", Code: to.Format(time.DateOnly), Act: "day changed",
		Words: fmt.Sprintf("%s; was %s", now.Place, now.Day.Format(time.DateOnly))})
	return err
}

// RemoveDay takes a shooting day out that was typed wrong, as long as nothing is
// worn or packed for it.
func (s *Service) RemoveDay(ctx context.Context, id uint64) ([]Day, error) {
	var production uint64
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var now Day
		if err := tx.GetContext(ctx, &now, `SELECT `+dayColumns+` FROM shooting_day WHERE id = ? FOR UPDATE`, id); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("day", fmt.Sprint(id))
		} else if err != nil {
			return err
		}
		production = now.ProductionID
		var on struct{ Pieces, Kits string }
		if err := tx.GetContext(ctx, &on, `SELECT COALESCE((SELECT GROUP_CONCAT(q.code ORDER BY q.code SEPARATOR ', ') FROM piece_day d JOIN piece q ON q.id = d.piece_id WHERE d.day_id = ?), '') AS pieces,
			COALESCE((SELECT GROUP_CONCAT(code ORDER BY code SEPARATOR ', ') FROM kit WHERE day_id = ?), '') AS kits`, id, id); err != nil {
			return err
		}
		if on.Kits != "" {
			return problem.Conflict("depends", "Kit %s is packed for this day. Give it another day first.", on.Kits)
		}
		if on.Pieces != "" {
			return problem.Conflict("depends", "%s is worn on this day. Take the day off the piece first.", on.Pieces)
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM shooting_day WHERE id = ?`, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "day", Code: now.Day.Format(time.DateOnly), Act: "day removed", Words: now.Place})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "days", "")
	return s.Days(ctx, s.DB, production)
}
