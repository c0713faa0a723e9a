package shoptest

import (
	"net/url"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/mould"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
)

// Stone registers a wet stone mould that comes to a dry mass in theory.
func (b *Bench) Stone(code string, dryKG float64) string {
	b.T.Helper()
	var list []mould.Mould
	b.As["ivo"].Because("no texture on this one").Yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": mouldmath.Block, "material": mouldmath.HardStone, "state": "wet", "release_agent": "wax", "separator": "soap", "parts": 2, "place": "rack 1", "life": 4, "dry_kg": dryKG, "made_on": "2026-01-12"}, &list)
	return list[len(list)-1].Code
}

func (b *Bench) WeighMould(code string, kg float64) mould.Detail {
	b.T.Helper()
	var d mould.Detail
	b.As["ivo"].Yes("POST", "/api/moulds/weighings", m{"code": code, "kg": kg, "source": "typed", "key": uuid.NewString()}, &d)
	return d
}

func (b *Bench) Mould(code string) mould.Detail {
	b.T.Helper()
	var d mould.Detail
	b.As["ivo"].Yes("GET", "/api/moulds/one?code="+url.QueryEscape(code), nil, &d)
	return d
}

func (b *Bench) MouldPot(code string) *build.Pot {
	b.T.Helper()
	pots, err := b.S.Build.Shelf(b.T.Context())
	require.NoError(b.T, err)
	for _, p := range pots {
		if p.Label == code {
			return &p
		}
	}
	return nil
}
