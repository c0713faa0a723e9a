// Package sculpt is the sculpting room: the texture plan with its relief and
// its work, ticked row by row; softening, trial paint and photographs of the
// real clay; the gate to the mould; stamps and house patterns. It also keeps
// what the sculpt tells about the piece to come: the clay that went into it,
// the water its mould takes, or area and thickness, and so the volume that
// everything poured is worked out from.
package sculpt

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/kept"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/turns"
)

// Service does the use cases of the sculpting room.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Pieces *piece.Service
	People *people.Service
	Files  *files.Store
	Scans  Scans
	// Turns are for reliefs, each of which takes a processor.
	Turns  *turns.Turns
	judged kept.Answers[*texture.Judged]
	sheets kept.Answers[*texture.Sheet]
}

// Scans tells what the newest measured scan of a piece shows; wired to the form
// room.
type Scans interface {
	Places(ctx context.Context, db database.Reader, code string) ([]Place, error)
}

// Place is one that a scan shows to be looked at: a hole is where the core comes
// through, else it is thin or an edge is thick.
type Place struct {
	Hole  bool
	Words string
}

// Measured is a way of telling the volume, as people type it.
type Measured struct {
	Route string `json:"route" enum:"clay,water,area,displacement,scan"`
	// Clay: weight before, left over and reclaimed; its density.
	Before    string  `json:"before,omitempty" maxLength:"64"`
	After     string  `json:"after,omitempty" maxLength:"64"`
	Reclaimed string  `json:"reclaimed,omitempty" maxLength:"64"`
	Density   float64 `json:"density,omitempty" doc:"of the clay, g/cm³; 1.6 when left out"`
	// Water: the closed mould full and empty; the core when it was not in.
	Full  string  `json:"full,omitempty" maxLength:"64"`
	Empty string  `json:"empty,omitempty" maxLength:"64"`
	Core  string  `json:"core,omitempty" maxLength:"64"`
	TempC float64 `json:"temp_c,omitempty" doc:"of the water; 20 when left out"`
	// Area and mean thickness.
	Area string `json:"area,omitempty" maxLength:"64"`
	Mean string `json:"mean,omitempty" maxLength:"64"`
	// Displacement: weighed in air and hung in water, or the level before and
	// after.
	InAir    string `json:"in_air,omitempty" maxLength:"64"`
	InWater  string `json:"in_water,omitempty" maxLength:"64"`
	LevelWas string `json:"level_was,omitempty" maxLength:"64"`
	LevelIs  string `json:"level_is,omitempty" maxLength:"64"`
	// Scan: the space between core and sculpt.
	ScanML float64 `json:"scan_ml,omitempty"`
}

// Reading is a volume that was found.
type Reading struct {
	ID       uint64          `db:"id" json:"id"`
	Route    string          `db:"route" json:"route"`
	Inputs   json.RawMessage `db:"inputs" json:"-"`
	Measured Measured        `db:"-" json:"measured"`
	VolumeML float64         `db:"volume_ml" json:"volume_ml"`
	At       time.Time       `db:"at" json:"at"`
	Who      string          `db:"who" json:"who"`
}

// Volumes is every reading of a piece and what the newest of each route say
// together.
type Volumes struct {
	Readings []Reading   `json:"readings"`
	Together *mix.Volume `json:"together,omitempty"`
}

// entries are the fields of the screen for those of the craft.
var entries = map[string]string{"clay.before_g": "before", "clay.after_g": "after", "clay.reclaimed_g": "reclaimed", "clay.density": "density",
	"water.full_g": "full", "water.empty_g": "empty", "water.core_ml": "core", "water.temp_c": "temp_c", "area.area_cm2": "area", "area.mean_mm": "mean",
	"displacement.in_air_g": "in_air", "displacement.after_ml": "level_is", "displacement.temp_c": "temp_c", "scan.volume_ml": "scan_ml"}

func (m Measured) route() (mix.Route, error) {
	r, err := m.work()
	var no *refusal.Error
	if errors.As(err, &no) && entries[no.Field] != "" {
		err = refusal.New(no.Code, entries[no.Field], "%s", no.Error())
	}
	return r, err
}

func (m Measured) work() (mix.Route, error) {
	var failed error
	read := func(text, field string, kind quantity.Kind, optional bool) float64 {
		if failed != nil || (optional && text == "") {
			return 0
		}
		q, err := quantity.Parse(text, kind, 0, field)
		if err != nil {
			failed = err
		}
		return q.Value
	}
	switch m.Route {
	case mix.RouteClay:
		before, after, reclaimed := read(m.Before, "before", quantity.Mass, false), read(m.After, "after", quantity.Mass, false), read(m.Reclaimed, "reclaimed", quantity.Mass, true)
		density := m.Density
		if density == 0 {
			density = mix.ClayDensity
		}
		if failed != nil {
			return mix.Route{}, failed
		}
		return mix.Clay(before, after, reclaimed, density)
	case mix.RouteWater:
		full, empty, core := read(m.Full, "full", quantity.Mass, false), read(m.Empty, "empty", quantity.Mass, false), read(m.Core, "core", quantity.Volume, true)
		temp := m.TempC
		if temp == 0 {
			temp = 20
		}
		if failed != nil {
			return mix.Route{}, failed
		}
		return mix.WaterFill(full, empty, core, temp)
	}
	if m.Route == mix.RouteScan {
		return mix.Scanned(m.ScanML)
	}
	if m.Route == mix.RouteDisplacement {
		return m.displaced(read, func() error { return failed })
	}
	area, mean := read(m.Area, "area", quantity.Area, false), read(m.Mean, "mean", quantity.Length, false)
	if failed != nil {
		return mix.Route{}, failed
	}
	return mix.AreaThickness(area, mean)
}

// displaced is the volume by what it displaces: weights when there is one in
// air, else levels.
func (m Measured) displaced(read func(text, field string, kind quantity.Kind, optional bool) float64, failed func() error) (mix.Route, error) {
	if m.InAir == "" && m.LevelIs != "" {
		was, is := read(m.LevelWas, "level_was", quantity.Volume, false), read(m.LevelIs, "level_is", quantity.Volume, false)
		if err := failed(); err != nil {
			return mix.Route{}, err
		}
		return mix.Raised(was, is)
	}
	air, water := read(m.InAir, "in_air", quantity.Mass, false), read(m.InWater, "in_water", quantity.Mass, false)
	if err := failed(); err != nil {
		return mix.Route{}, err
	}
	temp := m.TempC
	if temp == 0 {
		temp = 20
	}
	return mix.Displacement(air, water, temp)
}

// Record keeps a reading.
func (s *Service) Record(ctx context.Context, code string, in Measured) (Volumes, error) {
	r, err := in.route()
	if err != nil {
		return Volumes{}, err
	}
	raw, err := json.Marshal(in)
	if err != nil {
		return Volumes{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO volume_reading (piece_id, route, inputs, volume_ml, at, person_id) VALUES (?,?,?,?,?,?)`, p.ID, in.Route, string(raw), quantity.Grams(r.VolumeML), now, who.ID); err != nil {
			return fmt.Errorf("recording the volume: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: "volume", Words: fmt.Sprintf("%.1f ml by %s", r.VolumeML, in.Route)})
		return err
	})
	if err != nil {
		return Volumes{}, err
	}
	s.Live.Tell(ctx, "volumes", code)
	return s.Volumes(ctx, code)
}

// Volumes reads what is known of a piece's volume.
func (s *Service) Volumes(ctx context.Context, code string) (Volumes, error) {
	out := Volumes{Readings: []Reading{}}
	err := s.DB.SelectContext(ctx, &out.Readings, `SELECT v.id, v.route, v.inputs, v.volume_ml, v.at, p.name AS who FROM volume_reading v JOIN piece q ON q.id = v.piece_id JOIN person p ON p.id = v.person_id WHERE q.code = ? ORDER BY v.at DESC, v.id DESC`, code)
	if err != nil {
		return out, err
	}
	newest := map[string]bool{}
	var routes []mix.Route
	for i := range out.Readings {
		r := &out.Readings[i]
		if err := json.Unmarshal(r.Inputs, &r.Measured); err != nil {
			return out, err
		}
		if newest[r.Route] {
			continue
		}
		newest[r.Route] = true
		if route, err := r.Measured.route(); err == nil {
			routes = append(routes, route)
		}
	}
	if len(routes) > 0 {
		v, err := mix.Combine(routes)
		if err != nil {
			return out, err
		}
		out.Together = &v
	}
	return out, nil
}
