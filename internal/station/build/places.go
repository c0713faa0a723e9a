package build

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/device"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// The kinds of place.
const (
	rack    = "rack"
	cold    = "cold"
	warmBox = "warm_box"
	oven    = "oven"
)

// isHot says whether a kind of place is warmed by a device.
func isHot(kind string) bool { return kind == warmBox || kind == oven }

// How hot and cold a kind of place may be set, °C, and what is reckoned with where nobody
// says. Gypsum is spoilt above 105 °C.
var settable = map[string]struct{ least, most, usual float64 }{
	cold: {1, 15, 5}, warmBox: {25, 60, 45}, oven: {40, 105, 95},
}

// Place is where things wait, with what it shows now.
type Place struct {
	ID    uint64 `db:"id" json:"-"`
	Code  string `db:"code" json:"code"`
	Name  string `db:"name" json:"name"`
	Kind  string `db:"kind" json:"kind" enum:"rack,cold,warm_box,oven"`
	Alone bool   `db:"alone" json:"alone" doc:"a lead allowed it to be warm with nobody beside it"`
	Flame bool   `db:"flame" json:"flame" doc:"a flame burns there"`
	Takes *int   `db:"takes" json:"takes,omitempty" doc:"so many at once: copies on a rack, moulds in an oven; nothing where nobody said"`
	// SetC is what it is set to; nothing where it is off or not warmed.
	SetC   *float64   `db:"set_c" json:"set_c,omitempty"`
	SetAt  *time.Time `db:"set_at" json:"set_at,omitempty"`
	TempC  *float64   `db:"temp_c" json:"temp_c,omitempty" doc:"by its own probe; nothing where it was not read for a day"`
	RH     *float64   `db:"rh" json:"rh,omitempty"`
	ReadAt *time.Time `db:"read_at" json:"read_at,omitempty"`
	Pots   []string   `db:"-" json:"pots" doc:"what stands in it"`
}

const placeColumns = `p.id, p.code, p.name, p.kind, p.alone, p.flame, p.takes,
	(SELECT s.set_c FROM place_setting s WHERE s.place_id = p.id AND s.at <= ? ORDER BY s.at DESC, s.id DESC LIMIT 1) AS set_c,
	(SELECT s.at FROM place_setting s WHERE s.place_id = p.id AND s.at <= ? ORDER BY s.at DESC, s.id DESC LIMIT 1) AS set_at,
	r.temp_c, r.rh, r.at AS read_at
	FROM place p LEFT JOIN place_reading r ON r.place_id = p.id
		AND r.at = (SELECT MAX(n.at) FROM place_reading n WHERE n.place_id = p.id AND n.at <= ? AND n.at >= ?)
	WHERE p.retired_at IS NULL`

// Places are where things wait, with what stands in each.
func (s *Service) Places(ctx context.Context) ([]Place, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return nil, err
	}
	out, err := s.places(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	var in []struct {
		PlaceID uint64 `db:"place_id"`
		Label   string
	}
	// What stands anywhere now: index pot_running, then pot_place_from.
	if err := s.DB.SelectContext(ctx, &in, `SELECT x.place_id, t.label FROM pot t JOIN pot_place x ON x.id = (
		SELECT l.id FROM pot_place l WHERE l.pot_id = t.id ORDER BY l.from_at DESC, l.id DESC LIMIT 1)
		WHERE t.ended_at IS NULL AND x.place_id IS NOT NULL ORDER BY x.from_at, x.id`); err != nil {
		return nil, fmt.Errorf("reading what stands where: %w", err)
	}
	for _, row := range in {
		if at := slices.IndexFunc(out, func(p Place) bool { return p.ID == row.PlaceID }); at >= 0 {
			out[at].Pots = append(out[at].Pots, row.Label)
		}
	}
	return out, nil
}

func (s *Service) places(ctx context.Context, db database.Reader) ([]Place, error) {
	out := []Place{}
	now := s.Clock.Now()
	if err := db.SelectContext(ctx, &out, `SELECT `+placeColumns+` ORDER BY p.id`, now, now, now, now.Add(-holds)); err != nil {
		return nil, fmt.Errorf("reading the places: %w", err)
	}
	for i := range out {
		out[i].Pots = []string{}
	}
	return out, nil
}

func (s *Service) place(ctx context.Context, db database.Reader, code string) (Place, error) {
	var p Place
	now := s.Clock.Now()
	err := db.GetContext(ctx, &p, `SELECT `+placeColumns+` AND p.code = ?`, now, now, now, now.Add(-holds), code)
	if errors.Is(err, sql.ErrNoRows) {
		return p, problem.NotFound("place", code)
	}
	p.Pots = []string{}
	return p, err
}

// NewPlace is a place as it is written down.
type NewPlace struct {
	Name string `json:"name" minLength:"1" maxLength:"60"`
	Kind string `json:"kind" enum:"rack,cold,warm_box,oven"`
}

// AddPlace writes a place down; its code is its name in small letters.
func (s *Service) AddPlace(ctx context.Context, in NewPlace) ([]Place, error) {
	in.Name = strings.Join(strings.Fields(in.Name), " ")
	code := strings.ToLower(strings.Map(func(r rune) rune {
		if r == ' ' || r == '/' {
			return '-'
		}
		return r
	}, in.Name))
	if code == "" || len(code) > 40 {
		return nil, problem.Invalid("missing", "name", "A place needs a name of forty letters at most.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var there bool
		if err := tx.GetContext(ctx, &there, `SELECT COUNT(*) > 0 FROM place WHERE code = ?`, code); err != nil {
			return err
		}
		if there {
			return problem.Invalid("taken", "name", "There is a place of that name already.")
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO place (code, name, kind) VALUES (?,?,?)`, code, in.Name, in.Kind); err != nil {
			return fmt.Errorf("writing the place down: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "place", Code: code, Act: "added", Words: in.Name})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "pots", "")
	return s.Places(ctx)
}

// PlaceRules are what may be done at a place.
type PlaceRules struct {
	Alone *bool `json:"alone,omitempty" doc:"it may be warm with nobody beside it; for a lead to say"`
	Flame *bool `json:"flame,omitempty" doc:"a flame burns there"`
	Takes *int  `json:"takes,omitempty" minimum:"1" maximum:"500" doc:"so many at once: copies on a rack, moulds in an oven"`
}

// Rule says whether a place may run alone, whether a flame burns there, and how much it takes.
func (s *Service) Rule(ctx context.Context, code string, in PlaceRules) ([]Place, error) {
	who, _ := accounts.From(ctx)
	err := s.onPlace(ctx, code, func(tx database.Tx, p Place) error {
		words := []string{}
		if in.Alone != nil && *in.Alone != p.Alone {
			if who.Role != accounts.Lead {
				return problem.Invalid("not_yours", "alone", "Whether a device may be warm with nobody beside it is for a lead to say.")
			}
			if !isHot(p.Kind) {
				return problem.Invalid("contradiction", "alone", "%s is not warmed: it needs no leave.", p.Name)
			}
			p.Alone = *in.Alone
			words = append(words, map[bool]string{true: "May be warm with nobody beside it.",
				false: "Somebody stays beside it while it is warm."}[p.Alone])
		}
		if in.Flame != nil && *in.Flame != p.Flame {
			if *in.Flame {
				wet, err := s.wetIn(ctx, tx, p.ID)
				if err != nil {
					return err
				}
				if wet != "" {
					return problem.Conflict("flammable", "%s stands there and is wet with what burns. No flame.", wet)
				}
			}
			p.Flame = *in.Flame
			words = append(words, map[bool]string{true: "A flame burns there.", false: "The flame is out."}[p.Flame])
		}
		if in.Takes != nil && (p.Takes == nil || *in.Takes != *p.Takes) {
			p.Takes = in.Takes
			words = append(words, fmt.Sprintf("Takes %d at once.", *in.Takes))
		}
		if len(words) == 0 {
			return nil
		}
		if _, err := tx.ExecContext(ctx, `UPDATE place SET alone = ?, flame = ?, takes = ? WHERE id = ?`, p.Alone, p.Flame, p.Takes, p.ID); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "place", Code: p.Code, Act: "ruled",
			Words: strings.Join(words, " ")})
		return err
	})
	if err != nil {
		return nil, err
	}
	return s.Places(ctx)
}

// Set is what a place is set to; without a temperature it is switched off.
type Set struct {
	SetC *float64 `json:"set_c,omitempty" doc:"°C; nothing switches it off"`
	// Leaving says that nobody stays beside it.
	Leaving bool `json:"leaving,omitempty"`
}

// SetPlace sets a cold room, a box or an oven, or switches it off.
func (s *Service) SetPlace(ctx context.Context, code string, in Set) ([]Place, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err := s.onPlace(ctx, code, func(tx database.Tx, p Place) error {
		limits, can := settable[p.Kind]
		words := "Off."
		switch {
		case !can:
			return problem.Invalid("contradiction", "set_c", "%s stands in the room: it is set to nothing.", p.Name)
		case in.SetC == nil && p.SetC == nil:
			return nil
		case in.SetC != nil && (*in.SetC < limits.least || *in.SetC > limits.most || math.IsNaN(*in.SetC)):
			return problem.Invalid("out_of_range", "set_c", "%s is set to %g to %g °C.", p.Name, limits.least, limits.most)
		case in.SetC != nil && in.Leaving && isHot(p.Kind) && !p.Alone:
			return problem.Conflict("alone", "Somebody stays beside %s while it is warm: no lead has allowed it to run alone. Nothing was changed.", p.Name)
		case in.SetC != nil && p.Flame:
			return problem.Conflict("flame", "A flame burns at %s. Nothing was changed.", p.Name)
		}
		if in.SetC != nil {
			words = fmt.Sprintf("Set to %g °C.", *in.SetC)
			if in.Leaving {
				words += " Left to run alone."
			}
			melts, err := s.meltsIn(ctx, tx, p.ID, *in.SetC)
			if err != nil {
				return err
			}
			if melts != "" {
				return problem.Invalid("melts", "set_c", "%s Take it out first.", melts)
			}
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO place_setting (place_id, at, set_c, person_id) VALUES (?,?,?,?)`, p.ID,
			s.Clock.Now(), in.SetC, who.ID); err != nil {
			return fmt.Errorf("setting the place: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "place", Code: p.Code, Act: "set", Words: words})
		return err
	})
	if err != nil {
		return nil, err
	}
	return s.Places(ctx)
}

// ReadPlace writes down what a place's own thermometer shows, where no probe reads it.
func (s *Service) ReadPlace(ctx context.Context, code string, tempC float64, rh *float64) ([]Place, error) {
	who, _ := accounts.From(ctx)
	err := s.onPlace(ctx, code, func(tx database.Tx, p Place) error {
		if s.Air.Probe != device.PlaceProbe(device.NoProbe{}) {
			return problem.Conflict("sensor", "A probe reads %s. What it shows is kept by itself.", p.Name)
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO place_reading (place_id, at, temp_c, rh, source, typed_by) VALUES (?,?,?,?,'typed',?)
			ON DUPLICATE KEY UPDATE temp_c = VALUES(temp_c), rh = VALUES(rh), source = 'typed', typed_by = VALUES(typed_by)`,
			p.ID, now.Truncate(time.Second), tempC, rh, who.ID); err != nil {
			return fmt.Errorf("writing the place's reading: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Kind: "place", Code: p.Code, Act: "read",
			Words: fmt.Sprintf("%.1f °C, typed", tempC)})
		return err
	})
	if err != nil {
		return nil, err
	}
	return s.Places(ctx)
}

// onPlace does an act on a place, whose row is held meanwhile.
func (s *Service) onPlace(ctx context.Context, code string, act func(tx database.Tx, p Place) error) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM place WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		p, err := s.place(ctx, tx, code)
		if err != nil {
			return err
		}
		return act(tx, p)
	})
	if err == nil {
		for _, topic := range []string{"pots", "runs"} {
			s.Live.Tell(ctx, topic, "")
		}
	}
	return err
}

// catchUpPlaces records what the probes of the places showed up to now, as CatchUp does of
// the room.
func (a *Air) catchUpPlaces(ctx context.Context, now time.Time) error {
	if a.Probe == nil || a.Probe == device.PlaceProbe(device.NoProbe{}) {
		return nil
	}
	var list []struct {
		ID   uint64
		Code string
		Kind string
		Last *time.Time
		Temp *float64
	}
	if err := a.DB.SelectContext(ctx, &list, `SELECT p.id, p.code, p.kind, r.at AS last, r.temp_c AS temp FROM place p
		LEFT JOIN place_reading r ON r.place_id = p.id AND r.at = (SELECT MAX(n.at) FROM place_reading n WHERE n.place_id = p.id)
		WHERE p.retired_at IS NULL`); err != nil {
		return fmt.Errorf("reading the places' logs: %w", err)
	}
	for _, p := range list {
		ask := device.Ask{Place: p.Code, Kind: p.Kind, From: now.Add(-placeLongest), To: now, Room: a.Sensor, StartC: Reference.TempC}
		if p.Last != nil {
			if next := p.Last.Add(time.Minute); next.After(ask.From) {
				ask.From = next
			}
			ask.StartC = *p.Temp
		}
		if ask.From.After(now) {
			continue
		}
		var sets []struct {
			At   time.Time
			SetC *float64 `db:"set_c"`
		}
		// By index place_setting_at.
		if err := a.DB.SelectContext(ctx, &sets, `SELECT at, set_c FROM place_setting WHERE place_id = ? AND at <= ? ORDER BY at, id`,
			p.ID, now); err != nil {
			return fmt.Errorf("reading what %s was set to: %w", p.Code, err)
		}
		for _, set := range sets {
			ask.Sets = append(ask.Sets, device.Setting{At: set.At, C: set.SetC})
		}
		readings := a.Probe.Between(ask)
		for part := range slices.Chunk(readings, 500) {
			marks, args := make([]string, 0, len(part)), make([]any, 0, 4*len(part))
			for _, r := range part {
				marks = append(marks, "(?,?,?,NULLIF(?,0),'sensor')")
				args = append(args, p.ID, r.At, r.TempC, r.RH)
			}
			if _, err := a.DB.ExecContext(ctx, `INSERT IGNORE INTO place_reading (place_id, at, temp_c, rh, source) VALUES `+strings.Join(marks, ","), args...); err != nil {
				return fmt.Errorf("recording %s: %w", p.Code, err)
			}
		}
	}
	return nil
}

// placeLongest is how far back a place's probe is read the first time.
const placeLongest = 24 * time.Hour

// move is a pot's coming to a place.
type move struct {
	PotID  uint64    `db:"pot_id"`
	Place  *uint64   `db:"place_id"`
	Code   *string   `db:"code"`
	Name   *string   `db:"name"`
	Kind   *string   `db:"kind"`
	FromAt time.Time `db:"from_at"`
}

// moves are where pots stood, oldest first.
func (s *Service) moves(ctx context.Context, db database.Reader, pots ...uint64) (map[uint64][]move, error) {
	out := map[uint64][]move{}
	if len(pots) == 0 {
		return out, nil
	}
	query, args, err := sqlx.In(`SELECT x.pot_id, x.place_id, p.code, p.name, p.kind, x.from_at FROM pot_place x LEFT JOIN place p ON p.id = x.place_id
		WHERE x.pot_id IN (?) ORDER BY x.from_at, x.id`, pots)
	if err != nil {
		return nil, err
	}
	var rows []move
	if err := db.SelectContext(ctx, &rows, query, args...); err != nil {
		return nil, fmt.Errorf("reading where pots stood: %w", err)
	}
	for _, r := range rows {
		out[r.PotID] = append(out[r.PotID], r)
	}
	return out, nil
}

// standsIn is the place that a pot stands in now; nil for the room.
func standsIn(moves []move) *move {
	if n := len(moves); n > 0 && moves[n-1].Place != nil {
		return &moves[n-1]
	}
	return nil
}

// along is the log of what a pot stood in since a time: the room's, and from each of its
// moves on that of its place.
func (s *Service) along(ctx context.Context, db database.Reader, moves []move, room []reading, from time.Time) ([]reading,
	error) {
	if len(moves) == 0 {
		return room, nil
	}
	now := s.Clock.Now()
	var out []reading
	leg := func(m *move, start, end time.Time) error {
		if !end.After(start) {
			return nil
		}
		part, err := s.placeLog(ctx, db, m, room, start, end)
		if n := len(part); n > 0 && !end.After(now) { // it held until it was carried away
			last := part[n-1]
			last.At = end.Add(-time.Second)
			part = append(part, last)
		}
		out = append(out, part...)
		return err
	}
	start := from
	var at *move
	for i := range moves {
		if moves[i].FromAt.After(start) {
			if err := leg(at, start, moves[i].FromAt); err != nil {
				return nil, err
			}
			start = moves[i].FromAt
		}
		at = &moves[i]
		if at.Place == nil {
			at = nil
		}
	}
	return out, leg(at, start, now.Add(time.Second))
}

// placeLog is what a pot stood in from start until end: the room where m is nil. It
// begins with what held at start.
func (s *Service) placeLog(ctx context.Context, db database.Reader, m *move, room []reading, start, end time.Time) ([]reading,
	error) {
	first := since(room, start)
	inside := func(list []reading) (out []reading) {
		for i, r := range list {
			if i == 0 && r.At.Before(start) {
				r.At = start
			}
			if !r.At.Before(start) && r.At.Before(end) {
				out = append(out, r)
			}
		}
		return out
	}
	if m == nil {
		return inside(first), nil
	}
	var rows []struct {
		At    time.Time
		TempC float64  `db:"temp_c"`
		RH    *float64 `db:"rh"`
	}
	// By the primary key, both ways.
	if err := db.SelectContext(ctx, &rows, `(SELECT at, temp_c, rh FROM place_reading WHERE place_id = ? AND at < ? AND at >= ? ORDER BY at DESC LIMIT 1)
		UNION ALL (SELECT at, temp_c, rh FROM place_reading WHERE place_id = ? AND at >= ? AND at < ?) ORDER BY at`,
		*m.Place, start, start.Add(-holds), *m.Place, start, end); err != nil {
		return nil, fmt.Errorf("reading the log of %s: %w", *m.Code, err)
	}
	if len(rows) == 0 { // nobody read it: what it is set to, and the room's air
		c, err := s.believed(ctx, db, m, start)
		if err != nil || c == nil {
			return inside(first), err
		}
		rows = append(rows, struct {
			At    time.Time
			TempC float64  `db:"temp_c"`
			RH    *float64 `db:"rh"`
		}{start, *c, nil})
	}
	var out []reading
	for _, row := range rows {
		r := reading{At: row.At, TempC: Reference.TempC, RH: Reference.RH, Source: "sensor"}
		if i, _ := slices.BinarySearchFunc(room, row.At, func(x reading, at time.Time) int { return x.At.Compare(at) }); len(room) > 0 {
			near := room[min(max(0, i-1), len(room)-1)]
			r.TempC, r.RH = near.TempC, near.RH
		}
		if isHot(*m.Kind) {
			r.InC = row.TempC
		} else {
			vapour := r.RH * drying.SaturationPressure(r.TempC)
			r.TempC = row.TempC
			if row.RH != nil {
				r.RH = *row.RH
			} else {
				r.RH = math.Min(0.95, vapour/drying.SaturationPressure(row.TempC))
			}
		}
		out = append(out, r)
	}
	return inside(out), nil
}

// believed is what a place without a reading is reckoned with, °C: what it was set to,
// for a cold room what one usually is; nil where it is as the room is.
func (s *Service) believed(ctx context.Context, db database.Reader, m *move, at time.Time) (*float64, error) {
	limits, can := settable[*m.Kind]
	if !can {
		return nil, nil
	}
	var set []*float64
	// By index place_setting_at.
	if err := db.SelectContext(ctx, &set, `SELECT set_c FROM place_setting WHERE place_id = ? AND at <= ? ORDER BY at DESC, id DESC LIMIT 1`, *m.Place, at); err != nil {
		return nil, err
	}
	switch {
	case len(set) > 0 && set[0] != nil:
		return set[0], nil
	case *m.Kind == cold:
		return &limits.usual, nil
	}
	return nil, nil
}

// Ovens are the ovens that are not retired.
func (s *Service) Ovens(ctx context.Context) ([]Place, error) {
	var list []Place
	if err := s.DB.SelectContext(ctx, &list, `SELECT id, code, name, kind, alone, flame, takes FROM place WHERE kind = 'oven' AND retired_at IS NULL ORDER BY code`); err != nil {
		return nil, fmt.Errorf("reading the ovens: %w", err)
	}
	return list, nil
}

// RacksTake is how many copies stand on the racks at once, 0 where nobody said.
func (s *Service) RacksTake(ctx context.Context) (int, error) {
	var n int
	err := s.DB.GetContext(ctx, &n, `SELECT COALESCE(SUM(takes), 0) FROM place WHERE kind = 'rack' AND retired_at IS NULL`)
	return n, err
}

// LetOvensAlone lets every oven be hot with nobody beside it, inside the act of a lead who said so.
func (s *Service) LetOvensAlone(ctx context.Context, tx database.Tx) error {
	var codes []string
	if err := tx.SelectContext(ctx, &codes, `SELECT code FROM place WHERE kind = 'oven' AND retired_at IS NULL AND alone = FALSE FOR UPDATE`); err != nil {
		return err
	}
	if len(codes) == 0 {
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM place WHERE kind = 'oven' AND retired_at IS NULL`); err != nil {
			return err
		}
		if n == 0 {
			return problem.Conflict("no_oven", "No oven is written down: add it to the places in Build first. Nothing was recorded.")
		}
		return nil // they may already
	}
	for _, code := range codes {
		if _, err := tx.ExecContext(ctx, `UPDATE place SET alone = TRUE WHERE code = ?`, code); err != nil {
			return err
		}
		if _, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "place", Code: code, Act: "ruled", Words: "May be warm with nobody beside it."}); err != nil {
			return err
		}
	}
	return nil
}
