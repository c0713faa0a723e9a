package shoptest

import (
	"fmt"
	"yewmoor/internal/piece"
	"yewmoor/internal/production"
	"yewmoor/internal/station/today"

	"github.com/stretchr/testify/require"
)

// DayOf adds a shooting day and says that the piece is worn on it.
func (b *Bench) DayOf(code, day string) production.Day {
	p, err := piece.Find(b.T.Context(), b.S.DB, code)
	require.NoError(b.T, err)
	var days []production.Day
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), m{"day": day, "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/days", m{"day_ids": []uint64{days[len(days)-1].ID}}, nil)
	return days[len(days)-1]
}

func (b *Bench) Today() today.View {
	var v today.View
	b.As["pip"].Yes("GET", "/api/today", nil, &v)
	return v
}

func (b *Bench) Tasks() (titles []string) {
	v := b.Today()
	if v.Now != nil {
		titles = append(titles, v.Now.Title)
	}
	for _, t := range v.Then {
		titles = append(titles, t.Title)
	}
	return titles
}
