package plan

import (
	"context"
	"fmt"
	"math"
	"time"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
)

// AirAhead is the air in which what is not begun yet waits.
type AirAhead struct {
	TempC    float64 `json:"temp_c"`
	RH       float64 `json:"rh"`
	Forecast bool    `json:"forecast" doc:"by the weather of the days to come; else as the room's air is now"`
}

// yard is where the shop's air comes from, as the forecast knows it; aheadDays is how many days of it are looked at.
const (
	yard      = "the workshop's yard"
	aheadDays = 7
)

// air is the room as it will usually be: heated as it is now, with the vapour of the air outside over the days to come and what the room
// adds to that now. Where nobody tells the weather it is the air of now.
func (s *Service) air(ctx context.Context) (section.Room, AirAhead, error) {
	room, measured, err := s.Pieces.Air.Now(ctx, s.DB)
	if err != nil {
		return room, AirAhead{}, fmt.Errorf("reading the room's air: %w", err)
	}
	round := func(r section.Room) section.Room { // as the sections are worked out: no reading makes them anew
		return section.Room{TempC: math.Round(r.TempC*2) / 2, RH: math.Round(r.RH*50) / 50}
	}
	out := round(room)
	if s.Weather == nil {
		return out, AirAhead{out.TempC, out.RH, false}, nil
	}
	noon := s.Clock.Now().Truncate(24 * time.Hour).Add(12 * time.Hour)
	outside := func(day time.Time) (w device.Weather, known bool) {
		w, err := s.Weather.Of(yard, day)
		return w, err == nil && !w.Indoors
	}
	more := 0.0
	if w, known := outside(noon); known && measured {
		more = max(0, room.RH*drying.SaturationPressure(room.TempC)-w.RH*drying.SaturationPressure(w.TempC))
	}
	sum, n := 0.0, 0
	for d := 1; d <= aheadDays; d++ {
		if w, known := outside(noon.AddDate(0, 0, d)); known {
			sum += drying.Indoors(w.TempC, w.RH, room.TempC, more)
			n++
		}
	}
	if n == 0 {
		return out, AirAhead{out.TempC, out.RH, false}, nil
	}
	out = round(section.Room{TempC: room.TempC, RH: sum / float64(n)})
	return out, AirAhead{out.TempC, out.RH, true}, nil
}
