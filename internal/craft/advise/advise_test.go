package advise

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
)

func advisor(t require.TestingT) Advisor {
	list, err := material.Library()
	require.NoError(t, err)
	return New(material.NewShelf(list), section.Room{TempC: 20, RH: 0.5})
}

var everything = Equipment[:len(Equipment)-2] // all but the isocyanate room, and forms

// The seven characters of the demo, as their briefs put it.
func characters() map[string]Case {
	base := Case{Camera: "close", HeightMM: 5, AreaCM2: 34, WearHours: 5, HottestC: 20, HottestOn: "the stage", Water: "none", Exertion: "acting", Days: 3, Copies: 3, LeadDays: 11, HasLead: true, Has: slices.Concat(everything, []string{"form", "isocyanate room"}), Skill: 3}
	with := func(f func(*Case)) Case { c := base; f(&c); return c }
	return map[string]Case{
		"BF": with(func(c *Case) {
			c.Region, c.MovesMuch, c.Facts, c.Water = "cheek", true, latexFact(substance.Allergic), "rained on"
		}),
		"AL": with(func(c *Case) {
			c.Region, c.MovesMuch, c.Facts, c.Camera, c.HeightMM, c.AreaCM2, c.WearHours, c.Days, c.HottestC = "forehead", true, latexFact(substance.Clear), "medium", 12, 180, 7, 2, 26
			c.Beyond = 4
		}),
		"FT": with(func(c *Case) {
			c.Region, c.MovesMuch, c.Facts, c.AreaCM2, c.WearHours, c.HeightMM, c.LeadDays = "neck", true, latexFact(substance.Allergic), 60, 3, 3, 6
			c.Has = []string{"hot plate", "cold place", "mould room"}
			c.HottestC, c.Water = 8, "splashed"
		}),
		"GC": with(func(c *Case) {
			c.Region, c.Facts, c.Camera, c.Beyond, c.HeightMM, c.AreaCM2, c.WearHours, c.Copies = "nose", latexFact(substance.Clear), "medium", 4, 30, 32, 6, 3
		}),
		"PK": with(func(c *Case) {
			c.Region, c.MovesMuch, c.Facts, c.Camera, c.HeightMM, c.AreaCM2, c.WearHours, c.Copies, c.Exertion = "belly", true, latexFact(substance.Clear), "far", 70, 900, 3, 1, "walking"
		}),
		"NM": with(func(c *Case) {
			c.Region, c.MovesMuch, c.Facts, c.HeightMM, c.AreaCM2, c.WearHours, c.Copies, c.Days = "back of the hand", true, latexFact(substance.Clear), 0.3, 90, 4, 3, 3
		}),
		"CB": with(func(c *Case) {
			c.Region, c.Facts, c.HeightMM, c.AreaCM2, c.WearHours, c.Copies, c.Days, c.LeadDays = "forearm", latexFact(substance.Clear), 4, 20, 2, 2, 1, 2
		}),
	}
}

func first(t *testing.T, code string) []Advice {
	t.Helper()
	list := advisor(t).Rank(characters()[code])
	require.Len(t, list, len(section.Methods))
	return list
}

// What a practised hand would take for each character of the scenario leads,
// or stands within a point of what leads: so near there is no better.
func TestTheSevenCharactersGetWhatAFabricatorWouldTake(t *testing.T) {
	for code, want := range map[string][]string{
		"BF": {"silicone_encapsulated"}, "AL": {"foam_latex"}, "FT": {"gelatin_animal", "gelatin_plant"}, "GC": {"latex_slush", "foam_latex"},
		"PK": {"silicone_over_foam"}, "NM": {"stretch_stipple"}, "CB": {"wax", "silicone_direct"},
	} {
		list := first(t, code)
		var near []string
		for _, a := range list {
			if len(a.Bars) == 0 && a.Score >= list[0].Score-1 {
				near = append(near, a.Slug)
			}
		}
		assert.Subset(t, near, want[:1], code)
		assert.True(t, code == "AL" || slices.Contains(want, near[0]), "%s: %s leads", code, near[0])
	}
}

// latexFact is one fact about latex.
func latexFact(status string) []substance.Fact {
	return []substance.Fact{{Code: "latex", Status: status}}
}

func TestLatexNeverLeadsForAnAllergicWearer(t *testing.T) {
	for _, a := range first(t, "BF") {
		latex := slices.ContainsFunc(All, func(f Figures) bool { return f.Slug == a.Slug && f.Latex })
		barred := slices.ContainsFunc(a.Bars, func(b Bar) bool { return b.Severity == "never" && b.ID == "SAF-1" })
		assert.Equal(t, latex, barred, a.Slug)
		assert.Greater(t, a.Score, 5.0, "a bar is shown beside the score, not mixed into it")
	}
}

func TestEveryScoreSaysWhyAndFromWhere(t *testing.T) {
	for _, a := range first(t, "FT") {
		seen := map[string]bool{}
		for _, s := range a.Scores {
			assert.NotEmpty(t, s.Text)
			assert.NotEmpty(t, s.Entry)
			assert.False(t, seen[s.Criterion], s.Criterion)
			seen[s.Criterion] = true
		}
		for _, want := range []string{"movement", "translucency", "edge", "weight", "heat and sweat", "water", "days and re-use", "lead time", "equipment", "skill", "allergy", "cost", "take-off"} {
			assert.True(t, seen[want], "%s: %s", a.Slug, want)
		}
	}
}

func TestFiguresAndMethodsAreTheSameList(t *testing.T) {
	require.Len(t, All, len(section.Methods))
	for i, m := range section.Methods {
		assert.Equal(t, m.Slug, All[i].Slug)
		for _, need := range All[i].Needs {
			assert.Contains(t, Equipment, need)
		}
	}
}

func TestWhatTheShopLacksIsAStop(t *testing.T) {
	c := characters()["AL"]
	c.Has = []string{"mixer", "mould room"}
	for _, a := range advisor(t).Rank(c) {
		if a.Slug == "foam_latex" {
			assert.Contains(t, a.Bars, Bar{"stop", "equipment", "this shop", "This shop has no oven."})
		}
	}
}

func TestWhatWasTriedCounts(t *testing.T) {
	c := characters()["CB"]
	score := func(tried map[string]Tried) float64 {
		c.Tried = tried
		list := advisor(t).Rank(c)
		return list[slices.IndexFunc(list, func(a Advice) bool { return a.Slug == "wax" })].Score
	}
	none, good, bad := score(nil), score(map[string]Tried{"wax": {Worked: 3}}), score(map[string]Tried{"wax": {Failed: 3, Last: "slid off by noon"}})
	assert.Greater(t, good, bad)
	assert.Greater(t, none, bad)
}

func anyCase(t *rapid.T) Case {
	pick := func(label string, list ...string) string { return rapid.SampledFrom(list).Draw(t, label) }
	return Case{Region: "cheek", MovesMuch: rapid.Bool().Draw(t, "moves"), Camera: pick("camera", "close", "medium", "far"), HeightMM: rapid.Float64Range(0.2, 80).Draw(t, "height"), AreaCM2: rapid.Float64Range(1, 1500).Draw(t, "area"),
		WearHours: rapid.Float64Range(0.5, 14).Draw(t, "hours"), HottestC: rapid.Float64Range(-5, 40).Draw(t, "heat"), Water: pick("water", "none", "splashed", "rained on", "under water"), Exertion: pick("exertion", "still", "acting", "walking", "running"),
		Days: rapid.IntRange(0, 30).Draw(t, "days"), Copies: rapid.IntRange(1, 9).Draw(t, "copies"), LeadDays: rapid.Float64Range(0, 40).Draw(t, "lead"), HasLead: rapid.Bool().Draw(t, "has lead"), Facts: latexFact(pick("latex", "", "clear", "sensitive", "allergic")),
		Has: Equipment[:rapid.IntRange(0, len(Equipment)).Draw(t, "has")], Skill: rapid.IntRange(1, 3).Draw(t, "skill"), BudgetMin: rapid.SampledFrom([]int64{0, 5000, 90000}).Draw(t, "budget"), CarryG: rapid.SampledFrom([]float64{0, 40, 900}).Draw(t, "carry")}
}

func TestABarredMethodNeverStandsBeforeAFreeOne(t *testing.T) {
	a := advisor(t)
	rapid.Check(t, func(t *rapid.T) {
		list := a.Rank(anyCase(t))
		for i, x := range list {
			assert.Equal(t, i+1, x.Rank)
			assert.True(t, x.Score >= 0 && x.Score <= 100)
			if i > 0 {
				assert.LessOrEqual(t, list[i-1].class(), x.class())
				if list[i-1].class() == x.class() {
					assert.GreaterOrEqual(t, list[i-1].Score, x.Score)
				}
			}
		}
	})
}

// Every turn is true: with the condition at its value the named method leads,
// and it is another than now.
func TestATurnHoldsWhenItIsTried(t *testing.T) {
	a := advisor(t)
	found := 0
	rapid.Check(t, func(t *rapid.T) {
		c := anyCase(t)
		now := leader(a.Rank(c))
		for _, turn := range a.Turns(c) {
			k := c
			for _, d := range dials {
				if d.name == turn.Condition {
					d.set(&k, turn.Value)
				}
			}
			for _, s := range switches {
				if s.name == turn.Condition {
					s.set(&k, turn.At)
				}
			}
			then := leader(a.Rank(k))
			assert.Equal(t, turn.Becomes, then)
			assert.NotEqual(t, now, then)
			found++
		}
	})
	assert.Positive(t, found)
}

func leader(list []Advice) string {
	if len(list[0].Bars) > 0 {
		return ""
	}
	return list[0].Name
}

func TestHeatTurnsGelatinAway(t *testing.T) {
	turns := advisor(t).Turns(characters()["FT"])
	i := slices.IndexFunc(turns, func(x Turn) bool { return x.Condition == "heat of the hottest day" && x.Value > 8 })
	require.GreaterOrEqual(t, i, 0, "%v", turns)
	assert.Contains(t, turns[i].Was, "elatin")
	assert.Greater(t, turns[i].Value, 15.0)
	assert.Contains(t, turns[i].Text, "or more")
}

// The target is under 20 ms for the advice on a brief.
func BenchmarkAdvice(b *testing.B) {
	a, c := advisor(b), characters()["BF"]
	b.Run("rank", func(b *testing.B) {
		for b.Loop() {
			a.Rank(c)
		}
	})
	b.Run("turns", func(b *testing.B) {
		for b.Loop() {
			a.Turns(c)
		}
	})
}
