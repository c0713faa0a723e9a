package shoptest

import (
	"fmt"

	"github.com/stretchr/testify/require"

	"yewmoor/internal/station/finish"
)

// Out takes a copy that is ready out of its mould.
func (b *Bench) Out(copyCode string) {
	b.T.Helper()
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/pots/%d/out", b.Pot(copyCode).ID), m{}, nil)
}

// Finished does everything to a copy that stands on its list.
func (b *Bench) Finished(copyCode string) {
	b.T.Helper()
	var c finish.Copy
	b.As["pip"].Yes("GET", "/api/copies/"+copyCode, nil, &c)
	for _, item := range c.Missing {
		switch item {
		case "photograph":
			b.Photograph(copyCode)
		case "colour_reading":
			b.As["pip"].Yes("POST", "/api/copies/"+copyCode+"/ticks", m{"item": item, "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
		default:
			b.As["pip"].Yes("POST", "/api/copies/"+copyCode+"/ticks", m{"item": item}, nil)
		}
	}
}

// Place is where a piece stands on the round.
func (b *Bench) Place(code string) (place string) {
	b.T.Helper()
	require.NoError(b.T, b.S.DB.Get(&place, `SELECT place FROM piece WHERE code = ?`, code))
	return place
}
