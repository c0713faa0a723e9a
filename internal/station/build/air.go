package build

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
)

// Air keeps the room sensor's log: one reading a minute. The sensor keeps its
// own readings, so that a server that was down, or a clock that was moved on,
// catches up.
type Air struct {
	DB     *database.DB
	Clock  clock.Clock
	Sensor device.RoomSensor

	mu   sync.Mutex
	last time.Time // newest minute known to be recorded
}

// longest is how far back a new installation reads the sensor.
const longest = 72 * time.Hour

// CatchUp records every reading up to now.
func (a *Air) CatchUp(ctx context.Context) error {
	a.mu.Lock()
	defer a.mu.Unlock()
	now := a.Clock.Now()
	if a.last.IsZero() {
		var newest sql.NullTime
		if err := a.DB.GetContext(ctx, &newest, `SELECT MAX(at) FROM room_reading WHERE at <= ?`, now); err != nil {
			return fmt.Errorf("reading the room's log: %w", err)
		}
		a.last = newest.Time
	}
	from := a.last.Add(time.Minute)
	if from.Before(now.Add(-longest)) {
		from = now.Add(-longest)
	}
	if from.After(now) {
		return nil
	}
	readings := a.Sensor.Between(from, now)
	for len(readings) > 0 {
		n := min(500, len(readings))
		marks, args := make([]string, 0, n), make([]any, 0, 3*n)
		for _, r := range readings[:n] {
			marks = append(marks, "(?,?,?)")
			args = append(args, r.At, r.TempC, r.RH)
		}
		if _, err := a.DB.ExecContext(ctx, `INSERT IGNORE INTO room_reading (at, temp_c, rh) VALUES `+strings.Join(marks, ","), args...); err != nil {
			return fmt.Errorf("recording the room: %w", err)
		}
		a.last = readings[n-1].At
		readings = readings[n:]
	}
	return nil
}

// The room's log is kept by the minute for a while, then every tenth minute:
// a cure over hours needs no more.
const (
	byTheMinute = 60 * 24 * time.Hour
	thinnedTo   = 10
)

// Thin drops from the old part of the log what a cure does not need. A pot that
// still stands keeps its minutes.
func (a *Air) Thin(ctx context.Context) error {
	until := a.Clock.Now().Add(-byTheMinute)
	var oldest sql.NullTime
	if err := a.DB.GetContext(ctx, &oldest, `SELECT MIN(started_at) FROM pot WHERE ended_at IS NULL`); err != nil {
		return fmt.Errorf("looking for the oldest pot: %w", err)
	}
	if oldest.Valid && oldest.Time.Add(-time.Hour).Before(until) {
		until = oldest.Time.Add(-time.Hour)
	}
	for {
		// In small parts by the primary key, so that nobody waits for it.
		changed, err := database.Changed(a.DB.ExecContext(ctx, `DELETE FROM room_reading WHERE at < ? AND MINUTE(at) % ? <> 0 LIMIT 2000`, until, thinnedTo))
		if err != nil {
			return fmt.Errorf("thinning the room's log: %w", err)
		}
		if !changed {
			return err
		}
	}
}

// reading is one row of the log.
type reading struct {
	At    time.Time `db:"at"`
	TempC float64   `db:"temp_c"`
	RH    float64   `db:"rh"`
}

// ready catches up with the sensor before the log is read. Inside an act it is
// read as it is: an act takes no second connection for that.
func (a *Air) ready(ctx context.Context, db database.Reader) error {
	if db != database.Reader(a.DB) {
		return nil
	}
	return a.CatchUp(ctx)
}

// between reads the log from shortly before from up to now.
func (a *Air) between(ctx context.Context, db database.Reader, from time.Time) ([]reading, error) {
	if err := a.ready(ctx, db); err != nil {
		return nil, err
	}
	var rows []reading
	if err := db.SelectContext(ctx, &rows, `SELECT at, temp_c, rh FROM room_reading WHERE at >= ? AND at <= ? ORDER BY at`, from.Add(-time.Minute), a.Clock.Now()); err != nil {
		return nil, fmt.Errorf("reading the room's log: %w", err)
	}
	return rows, nil
}

// since is the part of a log that a pot started at from needs.
func since(log []reading, from time.Time) []reading {
	i, _ := slices.BinarySearchFunc(log, from.Add(-time.Minute), func(r reading, at time.Time) int { return r.At.Compare(at) })
	return log[i:]
}

// Reference is the room that is reckoned with where nothing was measured yet.
var Reference = section.Room{TempC: 21, RH: 0.5}

// Now is the newest reading. measured is false where there is none: the room is
// then the reference, and whoever shows it says so.
func (a *Air) Now(ctx context.Context, db database.Reader) (room section.Room, measured bool, err error) {
	if err := a.ready(ctx, db); err != nil {
		return section.Room{}, false, err
	}
	var r reading
	err = db.GetContext(ctx, &r, `SELECT at, temp_c, rh FROM room_reading WHERE at <= ? ORDER BY at DESC LIMIT 1`, a.Clock.Now())
	if errors.Is(err, sql.ErrNoRows) {
		return Reference, false, nil
	}
	if err != nil {
		return section.Room{}, false, fmt.Errorf("reading the room: %w", err)
	}
	return section.Room{TempC: r.TempC, RH: r.RH}, true, nil
}
