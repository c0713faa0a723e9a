package mouldmath

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
)

// What a build sheet has to say of its gypsum, its oven and its clay.
func TestASheetSaysWhatSpoilsMouldOrCast(t *testing.T) {
	order := func(change func(*Order)) []string {
		o := Order{Kind: Block, Stuff: HardStone, Body: Body{AreaMM2: 4000, VolumeMM3: 18000, SizeMM: [3]float64{70, 60, 20}, Watertight: true}, WallMM: 25, Parts: 2, Core: true, Release: "wax paste", Separate: "soap", Cast: string(material.SiliconeAddition), Clay: "oil clay"}
		change(&o)
		s, err := Build(o)
		require.NoError(t, err)
		var ids []string
		for _, f := range s.Findings {
			ids = append(ids, f.ID)
		}
		return ids
	}
	stone, known := StuffOf(HardStone)
	require.True(t, known)
	for id, c := range map[string][2]func(*Order){
		"MLD-6": {func(o *Order) { o.WaterPer = 70 }, func(o *Order) { o.WaterPer = stone.WaterPer100 }},
		"MLD-7": {func(o *Order) { o.Stuff, o.Baked, o.Cast = CastingPlaster, true, string(material.FoamLatex) }, func(o *Order) { o.Baked, o.Cast = true, string(material.FoamLatex) }},
		"INH-1": {func(o *Order) { o.Clay = "sulphur clay" }, func(o *Order) { o.Clay, o.Cast = "sulphur clay", string(material.Gelatin) }},
		"REL-1": {func(o *Order) { o.Release = "" }, func(o *Order) { o.Kind, o.Stuff, o.Release, o.Cast = Slush, CastingPlaster, "", string(material.Latex) }},
	} {
		assert.Contains(t, order(c[0]), id)
		assert.NotContains(t, order(c[1]), id)
	}
	// A core that is there closes the block: less is poured than round the whole.
	there, err := Build(Order{Kind: Block, Stuff: HardStone, Body: Body{AreaMM2: 4000, VolumeMM3: 18000, SizeMM: [3]float64{70, 60, 20}}, WallMM: 25, Parts: 2, Core: true, Release: "wax", Separate: "soap"})
	require.NoError(t, err)
	none, err := Build(Order{Kind: Block, Stuff: HardStone, Body: Body{AreaMM2: 4000, VolumeMM3: 18000, SizeMM: [3]float64{70, 60, 20}}, WallMM: 25, Parts: 2, Release: "wax", Separate: "soap"})
	require.NoError(t, err)
	assert.Less(t, there.WetKG, none.WetKG)
	assert.True(t, slices.ContainsFunc(there.Lines, func(l Line) bool { return l.What == stone.Name }))
}
