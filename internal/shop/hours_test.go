package shop_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/piece"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/brief"
)

// Brief, section, texture and moulds say one sum of hours with its parts; what a room
// works out is not counted again from the brief, and where both are far apart it says so.
func TestOneSumOfHours(t *testing.T) {
	b := shoptest.New(t, nil)
	code := b.Begun()
	read := func() (h brief.HoursSum, by map[string]brief.HoursPart) {
		b.As["pip"].Yes("GET", "/api/pieces/"+code+"/hours", nil, &h)
		by = map[string]brief.HoursPart{}
		sum := 0.0
		for _, p := range h.Parts {
			by[p.Part] = p
			sum += p.Hours
		}
		assert.InDelta(t, h.TotalH, sum, 1e-9)
		assert.InDelta(t, h.TotalH, h.WorkshopH+h.ChairH, 1e-9)
		return h, by
	}
	_, by := read()
	r := b.Section("maud", code).Result
	bench, chair := 0.0, 0.0
	for _, st := range r.Steps {
		if st.Where == "chair" {
			chair += st.HandsS / 3600
		} else {
			bench += st.HandsS / 3600
		}
	}
	assert.InDelta(t, 2*bench, by["copies"].Hours, 1e-9, "two copies are wanted")
	assert.InDelta(t, chair, by["chair"].Hours, 1e-9)
	assert.Positive(t, by["mould"].Hours)
	assert.NotContains(t, by, "texture", "there is none, and nobody estimated one")

	// The brief's own estimate of a part is beside it, not on top; of what no room
	// knows it is the only one.
	b.Put("maud", code, func(d *piece.Brief) {
		d.Steps = []piece.StepHours{
			{ID: "a", Text: "casts", Where: "workshop", Skill: "fabricator", Hours: 40, Part: "copies"},
			{ID: "b", Text: "texture", Where: "workshop", Skill: "fabricator", Hours: 6, Part: "texture"},
			{ID: "c", Text: "a test on the skin", Where: "chair", Skill: "artist", Hours: 1}}
	})
	require.NoError(t, b.S.Pieces.AgreeBrief(b.Who["maud"], code, nil))
	before := by["copies"].Hours
	h, by := read()
	assert.InDelta(t, before, by["copies"].Hours, 1e-9)
	assert.InDelta(t, 40, by["copies"].BriefH, 1e-9)
	assert.True(t, by["copies"].Disagree)
	assert.Equal(t, []any{6.0, "brief", false}, []any{by["texture"].Hours, by["texture"].From, by["texture"].Disagree})
	assert.InDelta(t, 1+chair, h.ChairH, 1e-9)
}
