package build

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Air keeps the room sensor's log: one reading a minute. The sensor keeps its
// own readings, so that a server that was down, or a clock that was moved on,
// catches up.
type Air struct {
	DB     *database.DB
	Clock  clock.Clock
	Sensor device.RoomSensor
	// Probe reads the places; nil where there is none.
	Probe device.PlaceProbe

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
	if err := a.catchUpPlaces(ctx, now); err != nil {
		return err
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

// Thin drops from the old part of the sensors' logs what a cure does not need; what
// somebody typed stays. A pot that
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
		changed, err := database.Changed(a.DB.ExecContext(ctx, `DELETE FROM room_reading WHERE at < ? AND source = 'sensor' AND MINUTE(at) % ? <> 0 LIMIT 2000`, until, thinnedTo))
		if err != nil {
			return fmt.Errorf("thinning the room's log: %w", err)
		}
		if !changed {
			break
		}
	}
	for {
		changed, err := database.Changed(a.DB.ExecContext(ctx,
			`DELETE FROM place_reading WHERE at < ? AND source = 'sensor' AND MINUTE(at) % ? <> 0 LIMIT 2000`, until, thinnedTo))
		if err != nil {
			return fmt.Errorf("thinning the places' logs: %w", err)
		}
		if !changed {
			return nil
		}
	}
}

// reading is one row of the log.
type reading struct {
	At    time.Time `db:"at"`
	TempC float64   `db:"temp_c"`
	RH    float64   `db:"rh"`
	// Source is sensor or typed.
	Source string `db:"source"`
	// InC is how warm the box or oven is that a pot stands in, °C; 0 outside of any.
	InC float64 `db:"-"`
}

// around is the temperature of the air round a pot, °C.
func (r reading) around() float64 {
	if r.InC > 0 {
		return r.InC
	}
	return r.TempC
}

// ready catches up with the sensor before the log is read. Inside an act it is
// read as it is: an act takes no second connection for that.
func (a *Air) ready(ctx context.Context, db database.Reader) error {
	if db != database.Reader(a.DB) {
		return nil
	}
	return a.CatchUp(ctx)
}

// between reads the log up to now from the last reading before from: what was
// typed in the morning holds until somebody looks again.
func (a *Air) between(ctx context.Context, db database.Reader, from time.Time) ([]reading, error) {
	if err := a.ready(ctx, db); err != nil {
		return nil, err
	}
	var rows []reading
	// By the primary key, both ways.
	err := db.SelectContext(ctx, &rows, `(SELECT at, temp_c, rh, source FROM room_reading WHERE at < ? AND at >= ? ORDER BY at DESC LIMIT 1)
		UNION ALL (SELECT at, temp_c, rh, source FROM room_reading WHERE at >= ? AND at <= ?) ORDER BY at`, from, from.Add(-holds), from, a.Clock.Now())
	if err != nil {
		return nil, fmt.Errorf("reading the room's log: %w", err)
	}
	return rows, nil
}

// holds is for how long a reading says anything of the room.
const holds = 24 * time.Hour

// since is the part of a log that a pot started at from needs: from the last
// reading before it.
func since(log []reading, from time.Time) []reading {
	i, _ := slices.BinarySearchFunc(log, from, func(r reading, at time.Time) int { return r.At.Compare(at) })
	return log[max(0, i-1):]
}

// age is how old the newest reading of a log is, beyond the minute between two
// of a sensor.
func age(log []reading, now time.Time) time.Duration {
	if len(log) == 0 {
		return holds
	}
	return max(0, now.Sub(log[len(log)-1].At)-5*time.Minute)
}

// drift is by how many K a room may have moved away from a reading of an age:
// half a degree an hour, four at most, as a workshop between night and noon
// does.
func drift(old time.Duration) float64 { return math.Min(4, 0.5*old.Hours()) }

// Type writes down what the shop's own thermometer shows now.
func (a *Air) Type(ctx context.Context, tempC, rh float64) error {
	if a.Sensor != device.RoomSensor(device.NoRoom{}) {
		return problem.Conflict("sensor", "A sensor reads this room. What it shows is kept by itself.")
	}
	who, _ := accounts.From(ctx)
	return a.DB.InTx(ctx, func(tx database.Tx) error {
		now := a.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO room_reading (at, temp_c, rh, source, typed_by) VALUES (?,?,?,'typed',NULLIF(?,0)) ON DUPLICATE KEY UPDATE temp_c = VALUES(temp_c), rh = VALUES(rh), source = 'typed', typed_by = VALUES(typed_by)`, now.Truncate(time.Second), tempC, rh, who.ID); err != nil {
			return fmt.Errorf("writing the room down: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Kind: "room", Code: "room", Act: "read", Words: fmt.Sprintf("%.1f °C, %.0f %% RH, typed", tempC, 100*rh)})
		return err
	})
}

// Reference is the room that is reckoned with where nothing was measured yet.
var Reference = section.Room{TempC: 21, RH: 0.5}

// Now is the newest reading. measured is false where there is none of the last
// day: the room is then the reference, and whoever shows it says so.
func (a *Air) Now(ctx context.Context, db database.Reader) (room section.Room, measured bool, err error) {
	r, measured, err := a.newest(ctx, db)
	return section.Room{TempC: r.TempC, RH: r.RH}, measured, err
}

func (a *Air) newest(ctx context.Context, db database.Reader) (r reading, measured bool, err error) {
	if err := a.ready(ctx, db); err != nil {
		return r, false, err
	}
	now := a.Clock.Now()
	err = db.GetContext(ctx, &r, `SELECT at, temp_c, rh, source FROM room_reading WHERE at <= ? AND at >= ? ORDER BY at DESC LIMIT 1`, now, now.Add(-holds))
	if errors.Is(err, sql.ErrNoRows) {
		return reading{TempC: Reference.TempC, RH: Reference.RH}, false, nil
	}
	if err != nil {
		return r, false, fmt.Errorf("reading the room: %w", err)
	}
	return r, true, nil
}
