package colour

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// SetLight is a light that colours are judged under: a standard one, or a set's own.
type SetLight struct {
	Name      string     `db:"name" json:"name"`
	Own       bool       `json:"own" doc:"measured on a set"`
	Origin    string     `db:"origin" json:"origin,omitempty" doc:"who measured it and where"`
	Resampled bool       `db:"resampled" json:"resampled" doc:"its file had other steps than 10 nm"`
	At        *time.Time `db:"at" json:"at,omitempty"`
	Raw       string     `db:"power" json:"-"`
	// Tint is white paper under it to a camera that is balanced for daylight.
	Tint [3]float64 `json:"tint" doc:"linear sRGB of white paper under it, to a camera balanced for daylight; the brightest channel 1"`

	lamp *colour.Lamp
}

// standardLights are those that every recipe is judged under, as the shop calls them.
var standardLights = [...]string{"daylight", "tungsten", "LED", "tubes"}

// called are other words that a call sheet has for the standard lights.
var called = map[string]int{"daylight": 0, "day": 0, "overcast": 0, "sun": 0, "tungsten": 1, "lamp": 1, "candle": 1, "fire": 1,
	"led": 2, "tubes": 3, "fluorescent": 3}

// lightsNow reads all lights: the standard ones, then the shop's own by name.
func lightsNow(ctx context.Context, db database.Reader) ([]SetLight, error) {
	out := make([]SetLight, 0, 8)
	for k, name := range standardLights {
		out = append(out, SetLight{Name: name, lamp: colour.Standard(colour.Light(k))})
	}
	var own []SetLight
	if err := db.SelectContext(ctx, &own, `SELECT name, origin, resampled, at, power FROM set_light ORDER BY name`); err != nil {
		return nil, fmt.Errorf("reading the lights: %w", err)
	}
	for _, l := range own {
		var power colour.Spectrum
		if err := json.Unmarshal([]byte(l.Raw), &power); err != nil {
			return nil, err
		}
		var err error
		if l.lamp, err = colour.LampOf(power); err != nil {
			return nil, err
		}
		l.Own = true
		out = append(out, l)
	}
	for i := range out {
		out[i].Tint = out[i].lamp.Tint()
	}
	return out, nil
}

// lightOf is the light that a day's words mean: one of the shop's own of that name, else a
// standard one by what call sheets call it.
func lightOf(list []SetLight, words string) (SetLight, bool) {
	words = strings.ToLower(strings.TrimSpace(words))
	for _, l := range list {
		if strings.ToLower(l.Name) == words {
			return l, true
		}
	}
	for w, at := range called {
		if w == words {
			return list[at], true
		}
	}
	return SetLight{}, false
}

// NewLight is a set's own light as its file says it.
type NewLight struct {
	Name   string `json:"name" minLength:"1" maxLength:"40"`
	File   string `json:"file" minLength:"1" maxLength:"200000" doc:"text of a file: wavelengths and power, on any scale"`
	Origin string `json:"origin" maxLength:"160" doc:"who measured it, where, with what"`
}

// AddLight keeps a set's own light, or measures one anew.
func (s *Service) AddLight(ctx context.Context, in NewLight) ([]SetLight, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return nil, problem.Invalid("missing", "name", "Call it as the call sheet does: chapel, bakehouse.")
	}
	if _, standard := called[strings.ToLower(in.Name)]; standard {
		return nil, problem.Invalid("taken", "name", "“%s” is a standard light here: call the set's own by its set.", in.Name)
	}
	series, err := colour.ReadSeries(in.File)
	if err != nil {
		return nil, atField(err, "file")
	}
	if len(series) != 1 {
		return nil, problem.Invalid("too_many", "file", "One light a file; this has %d columns of values.", len(series))
	}
	if _, err := colour.LampOf(series[0].Values); err != nil {
		return nil, atField(err, "file")
	}
	raw, err := json.Marshal(series[0].Values)
	if err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO set_light (name, power, resampled, origin, at, person_id) VALUES (?,?,?,?,?,?)
			ON DUPLICATE KEY UPDATE power = VALUES(power), resampled = VALUES(resampled), origin = VALUES(origin), at = VALUES(at), person_id = VALUES(person_id)`,
			in.Name, string(raw), series[0].Resampled, in.Origin, s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping the light: %w", err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "light", Code: in.Name, Act: "light measured",
			Words: in.Origin})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "colours", "")
	return lightsNow(ctx, s.DB)
}

// DayLight is a shooting day of a piece with the light that it is shot under.
type DayLight struct {
	ID    uint64    `db:"id" json:"id"`
	Day   time.Time `db:"day" json:"day"`
	Place string    `db:"place" json:"place"`
	Words string    `db:"light" json:"light" doc:"as the call sheet says"`
	Sun   bool      `db:"sun" json:"sun"`
	Known bool      `json:"known" doc:"its spectrum is known: a standard light or the set's own"`
	Name  string    `json:"name" doc:"the light that it is reckoned as"`
}

// daysOf reads the days on which a piece is worn, with their lights; every day of its
// production where nobody chose days.
func daysOf(ctx context.Context, db database.Reader, p piece.Piece, lights []SetLight) ([]DayLight, error) {
	days := []DayLight{}
	if err := db.SelectContext(ctx, &days, `SELECT d.id, d.day, d.place, d.light, d.sun FROM shooting_day d
		WHERE d.production_id = ? AND (NOT EXISTS (SELECT 1 FROM piece_day x WHERE x.piece_id = ?) OR EXISTS (SELECT 1 FROM piece_day x WHERE x.piece_id = ? AND x.day_id = d.id)) ORDER BY d.day, d.place`,
		p.ProductionID, p.ID, p.ID); err != nil {
		return nil, fmt.Errorf("reading the days: %w", err)
	}
	for i, d := range days {
		l, known := lightOf(lights, d.Words)
		days[i].Known, days[i].Name = known, l.Name
	}
	return days, nil
}
