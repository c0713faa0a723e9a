package colour_test

import (
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	craft "yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/colour"
	"yewmoor/internal/station/mix"
)

// read puts three readings of a wearer's skin down.
func read(b *shoptest.Bench, code, region string, l, a, bb float64) {
	for i := range 3 {
		b.As["ivo"].Yes("POST", fmt.Sprintf("/api/performers/%d/skin", b.Wearer(code)),
			m{"region": region, "side": "", "source": "lab", "lab": m{"l": l + 0.1*float64(i), "a": a, "b": bb}}, nil)
	}
}

// taken takes a proposal, mixes so much base of it, and weighs it in; times says by how
// much each material is off.
func taken(t *testing.T, b *shoptest.Bench, code string, p colour.Proposal, baseG float64,
	times map[string]float64) (colour.Room, mix.View) {
	var parts []m
	for _, x := range p.Parts {
		parts = append(parts, m{"material": x.Material, "per_100_g": x.Per100})
	}
	var room colour.Room
	b.As["ivo"].Yes("POST", "/api/pieces/"+code+"/colour-recipes", m{"parts": parts, "base_g": baseG}, &room)
	require.NotNil(t, room.Recipes[0].Mix)
	var v mix.View
	b.As["ivo"].Yes("GET", "/api/mixes/"+*room.Recipes[0].Mix, nil, &v)
	weigh(t, b, &v, times)
	b.As["ivo"].Yes("GET", "/api/pieces/"+code+"/colour", nil, &room)
	return room, v
}

// weigh weighs everything in that is still open, and does the steps between.
func weigh(t *testing.T, b *shoptest.Bench, v *mix.View, times map[string]float64) {
	var codes []string
	for _, c := range v.Follows.Confirm {
		codes = append(codes, c.Code)
	}
	if v.State == "planned" {
		b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/begin", m{"confirmed": codes}, v)
	}
	for n := 0; v.Current != 0; n++ {
		require.Less(t, n, 60)
		step := false
		for _, st := range v.Steps {
			if st.Seq != v.Current {
				continue
			}
			step = true
			at := fmt.Sprintf("/api/mixes/%s/steps/%d", v.Code, st.Seq)
			if st.Seconds > 0 {
				b.As["ivo"].Yes("POST", at+"/begin", nil, v)
				b.Clock.Set(b.Clock.Now().Add(time.Duration(st.Seconds+1) * time.Second))
			}
			typed := ""
			switch st.Act {
			case recipe.Volume:
				typed = fmt.Sprintf("%.0f ml", v.MassG/0.957*5)
			case recipe.Back:
				typed = fmt.Sprintf("%.1f g", v.MassG)
			}
			b.As["ivo"].Yes("POST", at+"/done", m{"typed": typed}, v)
			break
		}
		if step {
			continue
		}
		for _, l := range v.Lines {
			if l.Seq != v.Current {
				continue
			}
			off, has := times[l.Material]
			if !has {
				off = 1
			}
			b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh",
				m{"seq": v.Current, "key": shoptest.Key(), "typed": fmt.Sprintf("%.4f g", l.AddG*off)}, v)
			break
		}
	}
}

// From reading to recipe to mix to drawdown to correction, in every family that the library
// has a base for: a slip at the scale is found in the reading, and what is added puts the
// colour right. What is weighed is the truth, not what was planned.
func TestARecipeIsMixedReadAndPutRight(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	for i, c := range []struct{ method, region string }{{"silicone_encapsulated", "cheek"}, {"foam_latex", "cheek"},
		{"gelatin_animal", "nose"}, {"latex_slush", "nose"}, {"wax", "chin"}} {
		t.Run(c.method, func(t *testing.T) {
			code := b.By(c.method, fmt.Sprintf("M%c", 'A'+i), c.region, 5)
			read(b, code, c.region, 58, 11, 18)
			var v colour.Matched
			b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match?batch_g=300", nil, &v)
			best := v.Proposals[0]
			// Half of the strongest pigment is forgotten.
			slip := best.Parts[0]
			for _, x := range best.Parts {
				if x.Grams > slip.Grams {
					slip = x
				}
			}
			room, cup := taken(t, b, code, best, 300, nil)
			r := room.Recipes[0]
			require.True(t, r.Ready, "%+v", cup.State)
			assert.InDelta(t, 300, r.BaseG, 4, "base as it is weighed")
			for _, x := range r.Real {
				for _, p := range best.Parts {
					if p.Material == x.Material {
						assert.InDelta(t, p.Per100, x.Per100, 0.03*p.Per100+0.006, "%s g in 100 g of base", x.Name)
					}
				}
			}

			// The chip reads as if there were less of one pigment in it.
			base, err := craft.BaseOf(r.Base)
			require.NoError(t, err)
			var doses []craft.Dose
			var known craft.Palette
			var pigments []colour.Pigment
			b.As["pip"].Yes("GET", "/api/pigments", nil, &pigments)
			for _, p := range pigments {
				if lib, err := craft.PigmentOf(p.Tint, ""); err == nil {
					one := *lib
					one.ID = p.Material
					known = append(known, &one)
				}
			}
			for _, x := range r.Real {
				d := craft.Dose{Pigment: x.Material, G: x.Per100}
				if x.Material == slip.Material {
					d.G *= 0.6
				}
				doses = append(doses, d)
			}
			weak, err := base.MixedOf(known, doses, r.Aim.Aged)
			require.NoError(t, err)
			under, err := craft.Measured(r.Aim.Under, "")
			require.NoError(t, err)
			chip := weak.Over(3, &under)
			lab := chip.Lab(craft.D65)
			at := "/api/colour-recipes/" + r.Code + "/drawdowns"
			body := m{"thickness_mm": 3, "backing": "skin", "dry": true, "reading": m{"source": "lab", "l": lab.L, "a": lab.A, "b": lab.B}}
			assert.Equal(t, "dry", b.As["ivo"].No("POST", at, shoptest.With(body, "dry", false)).Field)
			assert.Equal(t, "reading.l", b.As["ivo"].No("POST", at,
				shoptest.With(body, "reading", m{"source": "lab", "a": 3, "b": 4})).Field, "a blank is no zero")
			room = colour.Room{}
			b.As["ivo"].Yes("POST", at, body, &room)
			answer := room.Recipes[0].Drawn[0].Answer
			assert.LessOrEqual(t, answer.Strange, 6)
			for _, f := range answer.Factors {
				if f.Material == slip.Material {
					assert.Less(t, f.Times, 0.85, "%s is weak", f.Name)
				}
			}
			if answer.Verdict == "leave" {
				assert.LessOrEqual(t, answer.Before, 1.0)
				return
			}
			assert.Greater(t, answer.Before, answer.After)
			require.NotEmpty(t, answer.Add, answer.Verdict)

			// One tap, and it waits at the bench; it comes off a lot like everything.
			path := fmt.Sprintf("%s/%d/add", at, room.Recipes[0].Drawn[0].ID)
			lot := answer.Add[0].Lot
			before := b.OnHand(lot, "")
			room = colour.Room{}
			b.As["ivo"].Yes("POST", path, nil, &room)
			assert.False(t, room.Recipes[0].Ready, "more is to come into the cup")
			assert.Equal(t, "added", b.As["ivo"].No("POST", path, nil).Code)
			var again mix.View
			b.As["ivo"].Yes("GET", "/api/mixes/"+cup.Code, nil, &again)
			require.NotZero(t, again.Current)
			weigh(t, b, &again, nil)
			assert.InDelta(t, before-answer.Add[0].Grams, b.OnHand(lot, ""), 0.011)
			was := 0.0
			for _, x := range r.Real {
				was += x.Grams
			}
			room = colour.Room{}
			b.As["ivo"].Yes("GET", "/api/pieces/"+code+"/colour", nil, &room)
			assert.True(t, room.Recipes[0].Ready)
			total := 0.0
			for _, x := range room.Recipes[0].Real {
				total += x.Grams
			}
			added := 0.0
			for _, x := range answer.Add {
				added += x.Grams
			}
			assert.InDelta(t, was+added, total, 0.02, "nothing is lost between the cup and the recipe")
		})
	}
}

// No recipe passes a limit of its base, a lot on hold, or somebody who was quicker.
func TestARecipeIsHeldToItsLimits(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("silicone_encapsulated", "LA", "cheek", 5)
	read(b, code, "cheek", 58, 11, 18)
	at := "/api/pieces/" + code + "/colour-recipes"
	one := func(slug string, g float64) []m { return []m{{"material": slug, "per_100_g": g}} }
	assert.Equal(t, "parts[0].per_100_g", b.As["ivo"].No("POST", at, m{"parts": one("pigment-red", 9), "base_g": 100}).Field)
	assert.Equal(t, "parts[0].material", b.As["ivo"].No("POST", at, m{"parts": one("pigment-water-red", 0.1), "base_g": 100}).Field,
		"that is for latex")
	assert.Equal(t, "base_g", b.As["ivo"].No("POST", at, m{"parts": one("pigment-red", 0.1), "base_g": 0}).Field)
	two := []m{{"material": "pigment-red", "per_100_g": 1.8}, {"material": "pigment-white", "per_100_g": 1.8}}
	assert.Equal(t, "parts", b.As["ivo"].No("POST", at, m{"parts": two, "base_g": 100}).Field, "more than the base takes")

	var v colour.Matched
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match?search=shelf", nil, &v)
	first := v.Proposals[0].Parts[0]
	require.NotEmpty(t, first.Lot)
	b.As["maud"].Yes("POST", "/api/lots/"+first.Lot+"/status", m{"status": "quarantine", "reason": "clotted"}, nil)
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match?search=shelf", nil, &v)
	for _, p := range v.Proposals {
		for _, x := range p.Parts {
			assert.NotEqual(t, first.Material, x.Material, "nothing is proposed of a lot on hold")
			assert.NotEmpty(t, x.Lot)
		}
	}
	no := b.As["ivo"].No("POST", at, m{"parts": one(first.Material, 0.2), "base_g": 100})
	assert.Equal(t, "short", no.Code)

	// Two at once on one target: the second is told.
	aim := m{"kind": "skin", "region": "cheek", "tan_steps": 1, "version": 0}
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/colour-target", aim, nil)
	assert.Equal(t, "changed", b.As["maud"].No("PUT", "/api/pieces/"+code+"/colour-target", aim).Code)
}

// The cheapest that comes near is no dearer than the best; what was mixed last is found
// again by its own pigments; a tan asks for another recipe.
func TestOtherSearches(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("silicone_encapsulated", "OA", "cheek", 5)
	read(b, code, "cheek", 58, 11, 18)
	get := func(q string) (v colour.Matched) {
		b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match?batch_g=500"+q, nil, &v)
		return v
	}
	best, cheap := get(""), get("&search=cheapest")
	for i, p := range cheap.Proposals {
		assert.LessOrEqual(t, p.Lights[0].DE00, cheap.Aim.Allowed)
		if i > 0 {
			assert.GreaterOrEqual(t, p.CostMin, cheap.Proposals[i-1].CostMin)
		}
	}
	assert.LessOrEqual(t, cheap.Proposals[0].CostMin, best.Proposals[0].CostMin)
	assert.Equal(t, "no_last", b.As["pip"].No("GET", "/api/pieces/"+code+"/match?search=last", nil).Code)
	taken(t, b, code, best.Proposals[1], 200, nil)
	again := get("&search=last")
	mine := map[string]bool{}
	for _, x := range best.Proposals[1].Parts {
		mine[x.Material] = true
	}
	for _, x := range again.Proposals[0].Parts {
		assert.True(t, mine[x.Material])
	}
	assert.InDelta(t, best.Proposals[1].Score, again.Proposals[0].Score, 0.05)

	var room colour.Room
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/colour-target", m{"kind": "skin", "region": "cheek", "tan_steps": 3, "version": 0},
		&room)
	assert.Less(t, room.Aim.Lab.L, room.Aim.Read.L-2)
	assert.True(t, hasWarning(room, "moved_target"), "the recipe was for a paler skin: %+v", room.Warnings)
	darker := get("")
	assert.Less(t, darker.Proposals[0].Centre.L, best.Proposals[0].Centre.L-2)
	assert.Less(t, darker.Proposals[0].Lights[0].DE00, 1.0)
	opaque := get("&opacity=0.95")
	for _, p := range opaque.Proposals {
		assert.GreaterOrEqual(t, p.Opacity, 0.947)
	}
	drops := get("&drops=true")
	for _, p := range drops.Proposals {
		for _, x := range p.Parts {
			if x.Drops > 0 {
				assert.InDelta(t, math.Round(x.Grams/0.002), x.Grams/0.002, 1e-6, "in whole drops")
			}
		}
	}
}

func hasWarning(r colour.Room, kind string) bool {
	for _, w := range r.Warnings {
		if w.Kind == kind {
			return true
		}
	}
	return false
}

// The light of a day: a set's own is read from its file, a day that changes its light
// changes what is warned of, and a light that nobody measured is said to be unknown.
func TestTheLightOfADayIsFollowed(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("silicone_encapsulated", "DA", "cheek", 5)
	read(b, code, "cheek", 58, 11, 18)
	var v colour.Matched
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match", nil, &v)
	// One that is bad under tungsten: of the five the worst there.
	worst := v.Proposals[0]
	for _, p := range v.Proposals {
		if p.Lights[1].DE00 > worst.Lights[1].DE00 {
			worst = p
		}
	}
	taken(t, b, code, worst, 200, nil)
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/colour-target",
		m{"kind": "skin", "region": "cheek", "tan_steps": 0, "allowed": math.Max(0.3, worst.Lights[0].DE00+0.6), "version": 0}, nil)

	day := m{"day": "2026-01-23", "place": "bakehouse", "temp_c": 20, "rh": 0.5, "light": "daylight"}
	var days []struct {
		ID      uint64
		Version int
	}
	var pieces []struct {
		Code         string
		ProductionID uint64 `json:"production_id"`
	}
	b.As["pip"].Yes("GET", "/api/pieces", nil, &pieces)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/productions/%d/days", pieces[0].ProductionID), day, &days)
	var room colour.Room
	warned := func(light string) bool {
		b.As["pip"].Yes("GET", "/api/pieces/"+code+"/colour", nil, &room)
		for _, w := range room.Warnings {
			if w.Kind == "fails" && w.Light == light || w.Kind == "unknown_light" && w.Light == light {
				return true
			}
		}
		return false
	}
	assert.False(t, warned("daylight"), "%+v", room.Warnings)
	change := func(light string) {
		day["light"], day["version"] = light, days[0].Version
		b.As["maud"].Yes("PUT", fmt.Sprintf("/api/days/%d", days[0].ID), day, &days)
	}
	change("chapel")
	assert.True(t, warned("chapel"), "nobody measured it")

	// A green lamp, as a file of other steps.
	file := "nm;power\n"
	for nm := 400; nm <= 700; nm += 5 {
		file += fmt.Sprintf("%d;%.3f\n", nm, 0.05+math.Exp(-math.Pow(float64(nm-545)/12, 2)))
	}
	var lights []colour.SetLight
	b.As["ivo"].Yes("POST", "/api/lights", m{"name": "chapel", "file": file, "origin": "read on the set"}, &lights)
	require.Len(t, lights, 5)
	assert.True(t, lights[4].Own)
	assert.True(t, lights[4].Resampled)
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/colour", nil, &room)
	assert.False(t, hasWarning(room, "unknown_light"))
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/match", nil, &v)
	require.Len(t, v.Proposals[0].Lights, 5)
	assert.Equal(t, []string{"23 Jan, bakehouse"}, v.Proposals[0].Lights[4].Days)

	for _, bad := range []string{"", "nm,power\n400,1\n410,1\n", "nm,power\n380,1\n400,x\n420,1\n",
		"nm,power\n" + lines(func(int) string { return "-1" }), "nm,power\n" + lines(func(int) string { return "0" })} {
		assert.Equal(t, "file", b.As["ivo"].No("POST", "/api/lights", m{"name": "attic", "file": bad, "origin": ""}).Field, bad)
	}
	assert.Equal(t, "name", b.As["ivo"].No("POST", "/api/lights", m{"name": "Tungsten", "file": file, "origin": ""}).Field)
}

func lines(value func(nm int) string) (out string) {
	for nm := 380; nm <= 730; nm += 10 {
		out += fmt.Sprintf("%d,%s\n", nm, value(nm))
	}
	return out
}
