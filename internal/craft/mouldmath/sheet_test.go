package mouldmath

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/rules"
)

// face is a body of about the size of a face appliance.
func face() Body {
	return Body{AreaMM2: 45000, VolumeMM3: 150000, SizeMM: [3]float64{160, 190, 90}}
}

// ball is a closed scan of a ball, so that the offset is exact.
func ball(r float64) Body {
	return Body{AreaMM2: 4 * math.Pi * r * r, VolumeMM3: 4 * math.Pi / 3 * r * r * r, SizeMM: [3]float64{2 * r, 2 * r, 2 * r}, Bend: 4 * math.Pi * r, Euler: 2, Watertight: true, Scanned: true}
}

func need(s Sheet, what string) float64 {
	for _, l := range s.Lines {
		if l.What == what {
			return l.Need
		}
	}
	return math.NaN()
}

func ids(s Sheet) map[string]rules.Severity {
	out := map[string]rules.Severity{}
	for _, f := range s.Findings {
		if rules.Severity(out[f.ID]) != rules.Stop {
			out[f.ID] = f.Severity
		}
	}
	return out
}

// A glove round a ball is a shell between two balls: the handbook's 293.7 ml.
func TestAGloveRoundABallIsAShell(t *testing.T) {
	s, err := Build(Order{Kind: Glove, Stuff: SiliconeTin, WallMM: 8, Body: ball(50), Release: "x"})
	require.NoError(t, err)
	ml := (need(s, SiliconeTin) + need(s, "catalyst")) / 1.15
	assert.InDelta(t, 4*math.Pi/3*(math.Pow(58, 3)-math.Pow(50, 3))/1000, ml, 0.01)
	assert.InDelta(t, need(s, SiliconeTin)*0.05, need(s, "catalyst"), 1e-9)
	assert.Contains(t, s.Lines[0].Rule, "offset of the scan")
	typed := ball(50)
	typed.Scanned = false
	low, err := Build(Order{Kind: Glove, Stuff: SiliconeTin, WallMM: 8, Body: typed, Release: "x"})
	require.NoError(t, err)
	assert.InDelta(t, 0.86, need(low, SiliconeTin)/need(s, SiliconeTin), 0.01, "area × wall is 14 %% low, and says so")
	assert.Contains(t, low.Lines[0].Rule, "low on round forms")
}

// A block of stone: what the handbook's gypsum rule gives for the box's fill.
func TestABlockIsItsBoxLessTheBody(t *testing.T) {
	s, err := Build(Order{Kind: Block, Stuff: HardStone, WallMM: 30, Body: face(), Release: "wax", Separate: "soap"})
	require.NoError(t, err)
	fill := 220.*250*150 - 150000
	p, err := Gypsum(Batch{VolumeMM3: fill, WaterPer100: 30})
	require.NoError(t, err)
	assert.InEpsilon(t, p.PowderG/1.05, need(s, HardStone), 1e-9)
	assert.InEpsilon(t, 0.3*need(s, HardStone), need(s, "water"), 1e-9)
	assert.InEpsilon(t, p.DryDensity*fill/1e6, s.DryKG, 1e-9)
	assert.Greater(t, s.WetKG, s.DryKG)
	assert.Empty(t, s.Findings)
	assert.Equal(t, 30, s.Casts)
	board, err := Build(Order{Kind: Plate, Stuff: HardStone, WallMM: 30, Body: face(), Release: "wax"})
	require.NoError(t, err)
	assert.Less(t, need(board, HardStone), need(s, HardStone))
}

func TestAJacketGoesOverTheOuterFace(t *testing.T) {
	s, err := Build(Order{Kind: Glove, Stuff: SiliconePlat, Jacket: Glass, WallMM: 10, Layers: 3, GSM: 300, Body: ball(60), Release: "x"})
	require.NoError(t, err)
	l, err := Laid(Jacket{AreaMM2: 4 * math.Pi * 70 * 70, Layers: 3, GSM: 300})
	require.NoError(t, err)
	assert.InEpsilon(t, l.ClothG, need(s, "glass mat"), 1e-9)
	assert.InEpsilon(t, l.ResinG, need(s, "laminating resin"), 1e-9)
	assert.Equal(t, need(s, SiliconePlat), need(s, "part B"), "1 : 1")
	joined := ""
	for _, c := range s.Cautions {
		joined += c
	}
	assert.Contains(t, joined, "respirator")
	assert.Contains(t, joined, "never latex ones")
	for _, j := range []string{Bandage, CastingPlaster} {
		o, err := Build(Order{Kind: Liner, Stuff: SiliconeTin, Jacket: j, Body: face(), Release: "x", Separate: "x"})
		require.NoError(t, err, j)
		assert.Positive(t, need(o, j), j)
	}
}

// Each rule of a mould has a case in which it fires and one in which it is
// silent.
func TestWhatTheRulesSayOfAMould(t *testing.T) {
	good := func() Order {
		return Order{Kind: Block, Stuff: HardStone, Body: face(), Release: "wax", Separate: "soap", Cast: "foam_latex"}
	}
	for _, c := range []struct {
		id       string
		severity rules.Severity
		fires    func(*Order)
	}{
		{"REL-1", rules.Stop, func(o *Order) { o.Release = "" }},
		{"REL-1", rules.Stop, func(o *Order) { o.Separate = "" }},
		{"MLD-1", rules.Tip, func(o *Order) { o.Baked = true }},
		{"MLD-2", rules.Warn, func(o *Order) { o.WallMM = 15 }},
		{"MLD-4", rules.Stop, func(o *Order) { o.Locks, o.Cast = 200, "" }},
		{"MLD-4", rules.Stop, func(o *Order) { o.Locks, o.Core = 200, true }},
		{"MLD-4", rules.Warn, func(o *Order) { o.Locks = 200 }},
		{"INH-2", rules.Warn, func(o *Order) { o.Kind, o.Stuff, o.Cast = Glove, SiliconeTin, "silicone_addition" }},
		{"INH-1", rules.Stop, func(o *Order) { o.Kind, o.Stuff, o.Clay = Glove, SiliconePlat, "sulphur clay" }},
		{"LAT-3", rules.Warn, func(o *Order) { o.Kind, o.Stuff, o.Cast = Slush, SiliconeTin, "latex" }},
	} {
		o := good()
		c.fires(&o)
		s, err := Build(o)
		require.NoError(t, err, c.id)
		assert.Equal(t, c.severity, ids(s)[c.id], c.id)
	}
	s, err := Build(good())
	require.NoError(t, err)
	assert.Empty(t, s.Findings)
}

func TestAMouldThatCannotBe(t *testing.T) {
	for field, change := range map[string]func(*Order){
		"kind":            func(o *Order) { o.Kind = "bucket" },
		"stuff":           func(o *Order) { o.Stuff = "cheese" },
		"wall_mm":         func(o *Order) { o.WallMM = -1 },
		"parts":           func(o *Order) { o.Parts = 13 },
		"water_c":         func(o *Order) { o.WaterC = 95 },
		"body.area_mm2":   func(o *Order) { o.Body.AreaMM2 = 0 },
		"body.size_mm":    func(o *Order) { o.Body.SizeMM[1] = 0 },
		"body.volume_mm3": func(o *Order) { o.Body.VolumeMM3 = 1e9 },
		"water_per_100":   func(o *Order) { o.WaterPer = 3 },
		"jacket":          func(o *Order) { o.Kind, o.Stuff, o.Jacket = Glove, SiliconeTin, SiliconePlat },
		"catalyst":        func(o *Order) { o.Kind, o.Stuff, o.Catalyst = Glove, SiliconeTin, 200 },
	} {
		o := Order{Kind: Block, Stuff: HardStone, Body: face()}
		change(&o)
		_, err := Build(o)
		var r *refusal.Error
		require.ErrorAs(t, err, &r, field)
		assert.Equal(t, field, r.Field)
	}
	_, err := Build(Order{Kind: Glove, Stuff: HardStone, Body: face()})
	assert.ErrorContains(t, err, "made of silicone")
}

// A thicker wall never takes less, whatever the kind; every line says its rule,
// every sheet its steps.
func TestAThickerWallTakesMore(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom(Kinds).Draw(t, "kind")
		o := Order{Kind: kind, Stuff: HardStone, Body: face(), Release: "x", Separate: "y", Core: rapid.Bool().Draw(t, "core"), CoreOf: HardStone}
		if kind == Glove || kind == Liner {
			o.Stuff, o.Jacket = SiliconeTin, rapid.SampledFrom([]string{Glass, Bandage, CastingPlaster}).Draw(t, "jacket")
		}
		if rapid.Bool().Draw(t, "ball") {
			o.Body = ball(rapid.Float64Range(20, 150).Draw(t, "r"))
		}
		o.WallMM = rapid.Float64Range(6, 40).Draw(t, "wall")
		s, err := Build(o)
		require.NoError(t, err)
		o.WallMM *= 1.2
		more, err := Build(o)
		require.NoError(t, err)
		for i, l := range s.Lines {
			assert.NotEmpty(t, l.Rule)
			assert.GreaterOrEqual(t, l.Order, l.Need)
			assert.GreaterOrEqual(t, more.Lines[i].Need, l.Need*(1-1e-12), l.What)
		}
		assert.NotEmpty(t, s.Steps)
		keys := map[string]bool{}
		for _, st := range s.Steps {
			assert.False(t, keys[st.Key])
			keys[st.Key] = true
		}
		assert.Positive(t, s.Minor)
	})
}

func TestALifeCast(t *testing.T) {
	p, err := PlanLifeCast(LifeCast{Way: Alginate, Face: true, AreaCM2: 600})
	require.NoError(t, err)
	powder, water := p.Lines[0].Need, p.Lines[1].Need
	assert.InEpsilon(t, 4.5, water/powder, 1e-9)
	assert.InEpsilon(t, 600*1.08, powder+water, 1e-9, "600 cm² of 10 mm")
	assert.InDelta(t, 270, p.WorkingS, 1e-9)
	cold, err := PlanLifeCast(LifeCast{Way: Alginate, Face: true, AreaCM2: 600, WaterC: 12})
	require.NoError(t, err)
	assert.Greater(t, cold.SetS, p.SetS, "colder water is slower")
	has := func(p LifePlan, key string) bool {
		for _, c := range p.Checks {
			if c.Key == key {
				return true
			}
		}
		return false
	}
	assert.True(t, has(p, "nostrils"))
	hand, err := PlanLifeCast(LifeCast{Way: TwoSilicones, AreaCM2: 400})
	require.NoError(t, err)
	assert.False(t, has(hand, "nostrils"))
	assert.True(t, has(hand, "no-plaster"))
	assert.True(t, has(hand, "two-people"))
	assert.Len(t, hand.Layers, 5)
	for field, in := range map[string]LifeCast{"way": {Way: "toffee", AreaCM2: 100}, "area_cm2": {Way: Alginate}, "water_c": {Way: Alginate, AreaCM2: 100, WaterC: 60}, "water_ratio": {Way: Alginate, AreaCM2: 100, WaterRatio: 1}, "bandage_layers": {Way: SkinSilicone, AreaCM2: 100, Bandage: 20}} {
		_, err := PlanLifeCast(in)
		var r *refusal.Error
		require.ErrorAs(t, err, &r, field)
		assert.Equal(t, field, r.Field)
	}
}

func TestLimitsAndMasses(t *testing.T) {
	assert.Equal(t, Limit{0.1, 15, 0.5}, LimitOf("silicone_addition"))
	assert.Equal(t, 0.25, LimitOf("foam_latex").EdgeMM)
	assert.Equal(t, LimitOf("silicone_addition"), LimitOf("unheard of"))
	for _, w := range InEach(100_000) {
		assert.LessOrEqual(t, w.Range[0], w.Grams)
		assert.GreaterOrEqual(t, w.Range[1], w.Grams)
		assert.InEpsilon(t, w.Grams*1.15, w.OrderG, 1e-9)
		if w.Name == "foam latex, cured" {
			assert.InDelta(t, 17, w.Grams, 1e-9)
			assert.InDelta(t, 100*(1/0.96-1), w.EnlargePC, 1e-9)
		}
	}
}

// What the shop pays for a product is what a mould of it costs, in the block, in the
// jacket and in the core; what the shop has no price for costs the usual one.
func TestAMouldCostsWhatTheShopPays(t *testing.T) {
	order := Order{Kind: "block", Stuff: HardStone, Core: true, CoreOf: CastingPlaster,
		Body: Body{AreaMM2: 34000, VolumeMM3: 90000, SizeMM: [3]float64{120, 90, 40}}}
	cost := func(prices map[string]int) (stone, plaster int) {
		order.Prices = prices
		s, err := Build(order)
		require.NoError(t, err)
		sum := 0
		for _, l := range s.Lines {
			sum += l.Price
			switch l.What {
			case HardStone:
				stone += l.Price
			case CastingPlaster:
				plaster += l.Price
			}
		}
		assert.Equal(t, sum, s.Minor)
		return stone, plaster
	}
	stone, plaster := cost(nil)
	require.Positive(t, stone)
	require.Positive(t, plaster)
	dear, same := cost(map[string]int{"stone-hard": 2600})
	assert.InDelta(t, 10*stone, dear, 5)
	assert.Equal(t, plaster, same)
	_, cheap := cost(map[string]int{"plaster-casting": 12})
	assert.InDelta(t, float64(plaster)/10, cheap, 1)
}
