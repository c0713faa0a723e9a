package build

import (
	"context"
	"encoding/json"
	"math"
	"time"

	"yewmoor/internal/platform/problem"
)

// Curve is how a mould in the oven warms through and cools, as far as it is known and on
// from there.
type Curve struct {
	Points []CurvePoint `json:"points"`
	// ReachC is where the foam is warm enough to cure well, OpenC below what its mould may be
	// opened, °C.
	ReachC float64    `json:"reach_c"`
	OpenC  float64    `json:"open_c"`
	CureAt *time.Time `json:"cure_at,omitempty"`
	OpenAt *time.Time `json:"open_at,omitempty"`
}

// CurvePoint is one moment of a curve.
type CurvePoint struct {
	At      time.Time `json:"at"`
	AirC    float64   `json:"air_c"`
	Coldest float64   `json:"coldest_c"`
	WallC   float64   `json:"wall_c"`
}

// curvePoints is about how many a curve has.
const curvePoints = 90

// CurveOf is the curve of a pot that bakes.
func (s *Service) CurveOf(ctx context.Context, id uint64) (Curve, error) {
	out := Curve{Points: []CurvePoint{}}
	row, err := s.row(ctx, s.DB, id)
	if err != nil {
		return out, err
	}
	var model potModel
	if row.MouldID != nil || json.Unmarshal([]byte(row.Model), &model) != nil || model.Bake == nil {
		return out, problem.Conflict("no_curve", "%s does not bake.", row.Label)
	}
	room, err := s.Air.between(ctx, s.DB, row.StartedAt)
	if err != nil {
		return out, err
	}
	stood, err := s.moves(ctx, s.DB, row.ID)
	if err != nil {
		return out, err
	}
	log, err := s.along(ctx, s.DB, stood[row.ID], room, row.StartedAt)
	if err != nil {
		return out, err
	}
	when := func(t float64) time.Time { return row.StartedAt.Add(time.Duration(t * float64(time.Second))) }
	var all []CurvePoint
	b := *model.Bake
	b.Seen = func(at, airC, coldestC, wallC float64) {
		tenth := func(v float64) float64 { return math.Round(10*v) / 10 }
		all = append(all, CurvePoint{when(at), tenth(airC), tenth(coldestC), tenth(wallC)})
	}
	temps := temperatures(log, row.StartedAt, math.Max(60, s.Clock.Now().Sub(row.StartedAt).Seconds()))
	done, _, err := b.Along(temps, offSince(temps))
	if err != nil {
		return out, err
	}
	out.ReachC, out.OpenC = b.ReachC, done.OpenBelow
	for _, m := range []struct {
		s  *float64
		at **time.Time
	}{{done.CureS, &out.CureAt}, {done.OpenS, &out.OpenAt}} {
		if m.s != nil {
			at := when(*m.s)
			*m.at = &at
		}
	}
	// Even in time: the steps of a run are short where much happens.
	if n := len(all); n > 0 {
		gap := all[n-1].At.Sub(row.StartedAt) / curvePoints
		last := row.StartedAt.Add(-gap)
		for i, p := range all {
			if p.At.Sub(last) >= gap || i == n-1 {
				out.Points = append(out.Points, p)
				last = p.At
			}
		}
	}
	return out, nil
}
