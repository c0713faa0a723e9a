package making

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
)

func library(t *testing.T) material.Shelf {
	list, err := material.Library()
	require.NoError(t, err)
	shelf := material.Shelf{}
	for _, p := range list {
		shelf[p.Slug] = p
	}
	return shelf
}

// Every house method has a way, and a session of it ends: its stages are in
// order, the last one ends it, and what waits has a time.
func TestEveryHouseMethodIsMadeInSomeWay(t *testing.T) {
	shelf := library(t)
	want := map[string]Way{"build_up_tissue": Coats, "build_up_cotton": Coats, "latex_sheet": Coats, "latex_paste": Modelled, "latex_slush": Slush, "stretch_stipple": Coats, "foam_latex": Foam,
		"silicone_encapsulated": Cast, "silicone_solid": Cast, "silicone_over_foam": Cast, "silicone_direct": Modelled, "gelatin_animal": Melt, "gelatin_plant": Melt, "wax": Modelled, "household_paste": Modelled, "mixed_build": Modelled}
	for _, m := range section.Methods {
		doc, known := section.House(m.Slug, 34, 4, shelf)
		require.True(t, known)
		require.NoError(t, doc.Check(shelf), m.Slug)
		assert.Equal(t, want[m.Slug], Of(doc, shelf), m.Slug)
		stages := Stages(doc, shelf, doc.Work(shelf, section.Room{TempC: 21, RH: 0.5}))
		require.NotEmpty(t, stages, m.Slug)
		for i, s := range stages {
			assert.Equal(t, i == len(stages)-1, s.Ends, "%s, stage %d of %d", m.Slug, i+1, len(stages))
			assert.NotEmpty(t, s.Act, m.Slug)
			assert.NotEmpty(t, s.Text, m.Slug)
			switch s.Waits {
			case Set:
				assert.Positive(t, s.WaitS, "%s: %s", m.Slug, s.Text)
			case Dry:
				require.NotNil(t, s.Wet, "%s: %s", m.Slug, s.Text)
				assert.Positive(t, s.Grams, "%s: %s", m.Slug, s.Text)
			case Cure:
				assert.NotNil(t, shelf[s.Material].Cure, "%s: %s", m.Slug, s.Text)
			}
		}
	}
	assert.Len(t, want, len(section.Methods))
}

func acts(stages []Stage) []string {
	out := make([]string, len(stages))
	for i, s := range stages {
		out[i] = s.Act
	}
	return out
}

// The order of a session is the order of hands: coats one after the other on
// skin, films before the mould is filled, foam whipped, baked and washed.
func TestTheStagesStandInTheOrderOfHands(t *testing.T) {
	shelf := library(t)
	of := func(method string, mm float64) []Stage {
		doc, _ := section.House(method, 34, mm, shelf)
		return Stages(doc, shelf, doc.Work(shelf, section.Room{TempC: 21, RH: 0.5}))
	}
	coats := of("stretch_stipple", 1)
	assert.Equal(t, []string{"film", "coat", "coat", "lift"}, acts(coats))
	assert.Equal(t, []int{1, 2}, []int{coats[1].Coat, coats[2].Coat})
	assert.Contains(t, coats[3].Text, "while the skin is still stretched")
	assert.Equal(t, []string{"film", "film", "pour", "open"}, acts(of("silicone_encapsulated", 4)), "films line mould and core first")
	assert.Equal(t, []string{"whip", "fill", "bake", "wash"}, acts(of("foam_latex", 9)))
	assert.Equal(t, []string{"melt", "chill", "open"}, acts(of("gelatin_animal", 4)))
	slush := of("latex_slush", 1)
	assert.Equal(t, "slush", slush[0].Act)
	assert.Contains(t, slush[len(slush)-1].Text, "lift it out")
	mixed := of("mixed_build", 3)
	assert.Equal(t, []string{"film", "film", "lay on", "coat", "coat", "coat"}, acts(mixed), "wax on its glue, latex over it, all on the wearer")
}

func TestEveryWayHasItsWords(t *testing.T) {
	for _, w := range Ways {
		assert.NotEqual(t, string(w.Way), "")
		assert.NotEmpty(t, w.Way.Text())
	}
}

// One coat's grams are what a square centimetre of that wet height weighs: 60 % of
// rubber and the rest water, by volume.
func TestACoatTakesWhatItWeighsWet(t *testing.T) {
	shelf := library(t)
	doc, _ := section.House("stretch_stipple", 50, 1, shelf)
	s := Stages(doc, shelf, doc.Work(shelf, section.Room{TempC: 21, RH: 0.5}))[1]
	assert.InDelta(t, 50*0.01/(0.6/0.930+0.4/0.998), s.Grams, 0.006)
}

// What is stirred into a silicone comes from lots of its own: the stage takes the
// silicone alone.
func TestAStageTakesTheMaterialWithoutWhatIsStirredIn(t *testing.T) {
	shelf := library(t)
	doc, _ := section.House("silicone_encapsulated", 50, 6, shelf)
	r := doc.Work(shelf, section.Room{TempC: 21, RH: 0.5})
	for _, st := range Stages(doc, shelf, r) {
		if st.Material == "silicone-gel" {
			assert.InDelta(t, r.Of("body").WetG/1.612, st.Grams, 0.006, "60 % softener and 1.2 % pigment on top of its parts")
			return
		}
	}
	assert.Fail(t, "nothing is poured")
}

// Over all its stages a session takes what the section says that its layers take: the
// material, what is stirred in and what is laid in, each to a hundredth of a gram a
// stage.
func TestTheStagesTakeWhatTheSectionSays(t *testing.T) {
	shelf := library(t)
	for _, m := range section.Methods {
		doc, _ := section.House(m.Slug, 34, 4, shelf)
		for i, l := range doc.Layers {
			if l.Kind == section.Latex { // a tinted one
				doc.Layers[i].With = []section.Stir{{Material: "pigment-gelatin-flesh", Percent: 2}}
			}
		}
		result := doc.Work(shelf, section.Room{TempC: 21, RH: 0.5})
		stages := Stages(doc, shelf, result)
		taken := map[string]float64{}
		for _, s := range stages {
			if s.Material == "" {
				continue
			}
			for _, in := range s.Takes() {
				assert.Positive(t, in.Grams, "%s: %s of %s", m.Slug, in.Material, s.Text)
				taken[s.Layer+" "+in.Material] += in.Grams
			}
		}
		made := map[string]bool{}
		for _, s := range stages {
			made[s.Layer] = true
		}
		for _, l := range doc.Layers {
			if !made[l.ID] {
				continue
			}
			for _, in := range section.Mixed(l.Material, l.With, result.Of(l.ID).WetG) {
				assert.InDelta(t, in.Grams, taken[l.ID+" "+in.Material], 0.006*float64(len(stages)), "%s: %s", m.Slug, in.Material)
			}
			if l.Fibre != "" {
				assert.InDelta(t, l.FibreG(doc.Cut, shelf), taken[l.ID+" "+l.Fibre], 0.006*float64(len(stages)), "%s: %s", m.Slug, l.Fibre)
			}
		}
	}
}
