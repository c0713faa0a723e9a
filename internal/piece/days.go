package piece

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

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
func (s *Service) Days(ctx context.Context, production uint64) ([]Day, error) {
	list := []Day{}
	err := s.DB.SelectContext(ctx, &list, `SELECT `+dayColumns+` FROM shooting_day WHERE production_id = ? ORDER BY day, place`, production)
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
	day, err := ParseDay(in.Day, "day")
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
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
	s.Live.Tell("days", "")
	return s.Days(ctx, production)
}

// ChangeDay corrects a shooting day. Somebody who saw an older state of it is
// told so, and nothing is overwritten.
func (s *Service) ChangeDay(ctx context.Context, id uint64, in NewDay, version int) ([]Day, error) {
	day, err := ParseDay(in.Day, "day")
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
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "day", Code: in.Day, Act: "day changed", Words: fmt.Sprintf("%s, %g °C, %.0f %% RH, %s", in.Place, in.TempC, 100*in.RH, in.source())})
		return err
	})
	if database.IsDuplicate(err) {
		return nil, problem.Conflict("taken", "This day is already there for that place.")
	}
	if err != nil {
		return nil, err
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
