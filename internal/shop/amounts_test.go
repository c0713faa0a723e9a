package shop_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/sculpt"
)

// What is drawn, measured and poured of one piece stands in one place; where it
// contradicts itself somebody says which is believed, and everything goes by it.
func TestOneAmount(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	at := "/api/pieces/" + code + "/amounts"
	finding := func() string {
		for _, f := range b.Section("maud", code).Findings {
			if f.ID == "AMT-1" {
				return string(f.Severity)
			}
		}
		return ""
	}
	drawn := b.Section("maud", code).Result
	var a sculpt.Amounts
	b.As["pip"].Yes("GET", at, nil, &a)
	require.Len(t, a.Voices.Voices, 1)
	assert.InDelta(t, drawn.Body.VolumeML, a.VolumeML, 1e-9)
	assert.Empty(t, finding())

	// Three times as much clay as the section draws.
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/volumes", m{"route": "clay", "before": "500 g", "after": "400 g"}, nil)
	b.As["pip"].Yes("GET", at, nil, &a)
	assert.Equal(t, []any{"clay", false, []string{"section"}}, []any{a.Believed, a.Chosen, a.Disagree})
	assert.Equal(t, "warn", finding())
	by := b.Section("maud", code).Result
	k := a.VolumeML / drawn.Body.VolumeML
	assert.InDelta(t, a.VolumeML, by.Body.VolumeML, 1e-9)
	assert.InDelta(t, drawn.Of("body").MassG*k, by.Of("body").MassG, 1e-6, "mass goes by what is believed")
	assert.InDelta(t, drawn.WornG+drawn.Of("body").MassG*(k-1), by.WornG, 1e-6)
	assert.Greater(t, by.Minor, drawn.Minor, "and money")
	assert.Equal(t, drawn.Of("in").MassG, by.Of("in").MassG, "the films are no body")

	assert.Equal(t, "reason", b.As["ivo"].No("PUT", at, m{"route": "section"}).Field)
	assert.Equal(t, "route", b.As["ivo"].No("PUT", at, m{"route": "water", "reason": "x"}).Field)
	assert.Equal(t, "not_yours", b.As["pip"].No("PUT", at, m{"route": "section", "reason": "x"}).Code)
	b.As["ivo"].Yes("PUT", at, m{"route": "section", "reason": "the clay lay on a stand that was not weighed"}, &a)
	assert.Equal(t, []any{"section", true, "ivo"}, []any{a.Believed, a.Chosen, a.By})
	assert.Equal(t, "tip", finding(), "it is said still, and held back by nobody")
	assert.InDelta(t, drawn.WornG, b.Section("maud", code).Result.WornG, 1e-9)

	// What a pour really took is a voice of its own.
	b.Poured(code)
	b.As["pip"].Yes("GET", at, nil, &a)
	names := []string{}
	for _, v := range a.Voices.Voices {
		names = append(names, v.Name)
	}
	assert.ElementsMatch(t, []string{"section", "clay", "poured"}, names)
}
