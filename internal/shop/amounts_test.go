package shop_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/piece"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mould"
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
	assert.Equal(t, []any{"clay", false, []string{"section"}}, []any{a.Voices.Believed, a.Voices.Chosen, a.Voices.Disagree})
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
	assert.Equal(t, []any{"section", true, "ivo"}, []any{a.Voices.Believed, a.Voices.Chosen, a.Why.Who})
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

// Map, section and scan tell the area; what contradicts is said, somebody says which is
// believed, and films go by it while the body keeps its volume.
func TestOneArea(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	at := "/api/pieces/" + code + "/amounts"
	finding := func() string {
		for _, f := range b.Section("maud", code).Findings {
			if f.ID == "AMT-2" {
				return string(f.Severity)
			}
		}
		return ""
	}
	drawn := b.Section("maud", code).Result
	assert.Empty(t, finding())
	b.Put("maud", code, func(d *piece.Brief) { d.Marks = []wearmap.Mark{shoptest.Drawn(t, "cheek", "L")} })
	require.NoError(t, b.S.Pieces.AgreeBrief(b.Who["maud"], code, nil))
	var a sculpt.Amounts
	b.As["pip"].Yes("GET", at, nil, &a)
	require.Len(t, a.Areas.Areas, 2)
	assert.Equal(t, []any{"map", []string{"section"}}, []any{a.Areas.Believed, a.Areas.Disagree})
	assert.Equal(t, "warn", finding())
	by := b.Section("maud", code).Result
	k := a.Areas.CM2 / 34
	assert.Greater(t, k, 1.2)
	assert.InDelta(t, drawn.Of("in").MassG*k, by.Of("in").MassG, 1e-9, "film goes by the area")
	assert.InDelta(t, drawn.Of("body").MassG, by.Of("body").MassG, 1e-9, "and the body by its volume")
	assert.Equal(t, "reason", b.As["ivo"].No("PUT", at, m{"what": "area", "route": "section"}).Field)
	assert.Equal(t, "route", b.As["ivo"].No("PUT", at, m{"what": "area", "route": "clay", "reason": "x"}).Field)
	b.As["ivo"].Yes("PUT", at, m{"what": "area", "route": "section", "reason": "the outline still has the old jaw"}, &a)
	assert.Equal(t, "tip", finding())
	assert.Equal(t, "ivo", a.AreaWhy.Who)
	assert.Nil(t, a.Why, "of the volume nobody said anything")
	assert.InDelta(t, drawn.Of("in").MassG, b.Section("maud", code).Result.Of("in").MassG, 1e-9)
}

// A copy costs its share of the mould: a usual one while none is laid out, and its own
// build sheet's once one is.
func TestACopyPaysForItsMould(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	mouldOf := func() (part section.CostPart) {
		for _, c := range b.Section("maud", code).Result.Cost {
			if c.Part == section.CostMould {
				part = c
			}
		}
		return part
	}
	usual := mouldOf()
	assert.Positive(t, usual.Minor)
	assert.Contains(t, usual.Note, "none is laid out yet")
	order := m{"kind": "block", "stuff": "hard stone", "core": true, "release": "wax", "separator": "soap", "body": m{"area_mm2": 3400, "volume_mm3": 6000, "size_mm": []float64{60, 60, 20}}}
	var plan mould.Plan
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/mould-plan", order, &plan)
	laid := mouldOf()
	assert.Equal(t, int64(math.Round(float64(plan.Sheet.Minor)/2)), laid.Minor, "two copies are wanted, and one mould stands both")
	sum := int64(0)
	for _, c := range b.Section("maud", code).Result.Cost {
		sum += c.Minor
	}
	assert.Equal(t, sum, b.Section("maud", code).Result.Minor)
}
