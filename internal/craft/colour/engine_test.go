package colour

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func every() (out []*Pigment) {
	for i := range Pigments {
		out = append(out, &Pigments[i])
	}
	return out
}

func baseNamed(t testing.TB, id string) *Base {
	b, err := BaseOf(id)
	require.NoError(t, err)
	return b
}

func skinAt(t testing.TB, ita float64) Spectrum {
	s, err := UsualSkin.AtITA(ita)
	require.NoError(t, err)
	return s.Reflectance()
}

// The whites of the lights are those that the chapter prints.
func TestTheWhitesAreThePublishedOnes(t *testing.T) {
	for k, want := range [lights][3]float64{{95.01184, 100, 108.81606}, {109.81452, 100, 35.54919}, {96.39706, 100, 45.59294},
		{100.75728, 100, 63.88100}} {
		for c := range 3 {
			assert.InDelta(t, want[c], whites[k][c], 1e-5, LightNames[k])
		}
		one := flat(1)
		lab := one.Lab(Light(k))
		assert.InDelta(t, 100, lab.L, 1e-12)
		assert.InDelta(t, 0, lab.A, 1e-12)
		assert.InDelta(t, 0, lab.B, 1e-12)
	}
}

// A film gives back no more than falls on it; its limits are the known ones, two equal
// films are one twice as thick, and its slopes are what differences say.
func TestAFilmKeepsItsLimits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		pow := func(name string, lo, hi float64) float64 {
			return math.Pow(10, rapid.Float64Range(lo, hi).Draw(t, name))
		}
		k, s, x := pow("k", -9, 2), pow("s", -9, 2), pow("x", -5, 1.5)
		rg := rapid.Float64Range(0, 1).Draw(t, "rg")
		r, dk, ds := film(k, s, x, rg)
		assert.True(t, r >= -1e-12 && r <= 1+1e-12, r)
		assert.False(t, math.IsNaN(dk) || math.IsNaN(ds))
		assert.LessOrEqual(t, dk, 1e-9, "more absorption is never brighter")
		half, _, _ := film(k, s, x/2, rg)
		whole, _, _ := film(k, s, x/2, half)
		assert.InDelta(t, r, whole, 1e-9)
		thin, _, _ := film(k, s, 0, rg)
		assert.Equal(t, rg, thin)
		clear, _, _ := film(k, 0, x, rg)
		assert.InDelta(t, rg*math.Exp(-2*k*x), clear, 1e-9)
		milk, _, _ := film(0, s, x, rg)
		assert.InDelta(t, (rg+(1-rg)*s*x)/(1+(1-rg)*s*x), milk, 1e-9)
		for _, of := range []struct {
			at   float64
			f    func(v float64) float64
			want float64
		}{{k, func(v float64) float64 { r, _, _ := film(v, s, x, rg); return r }, dk},
			{s, func(v float64) float64 { r, _, _ := film(k, v, x, rg); return r }, ds}} {
			h := 1e-5 * of.at
			if by := (of.f(of.at+h) - of.f(of.at-h)) / (2 * h); math.Abs(by*of.at) > 1e-4 {
				assert.InEpsilon(t, by, of.want, 2e-3)
			}
		}
	})
	deep, _, _ := film(0.2, 1.5, 1e4, 0.3)
	assert.InDelta(t, 0.6, deep, 1e-9)
	assert.InDelta(t, deep, endless(0.2, 1.5), 1e-9)
}

// The order of equal layers does not matter, a layer that covers nothing is none, and
// coverage adds up over passes.
func TestLayersAddUp(t *testing.T) {
	clear := baseNamed(t, "clear")
	wash, err := clear.Mixed([]Dose{{"QR", 6}}, 0)
	require.NoError(t, err)
	skin := skinAt(t, 34)
	coat := Coat{wash, 0.02, 0.35, 1}
	three, steps := Stack(skin, []Coat{{wash, 0.02, 0.35, 3}}, nil)
	single, _ := Stack(skin, []Coat{coat, coat, coat}, nil)
	for i := range three {
		assert.InDelta(t, three[i], single[i], 1e-12)
	}
	assert.InDelta(t, 1-0.65*0.65*0.65, steps[0].Covered, 1e-12)
	none, _ := Stack(skin, []Coat{{wash, 0.02, 0, 5}}, nil)
	assert.Equal(t, skin, none)
	surface := &Surface{K1: 0.04, K2: 0.4}
	back := surface.in(skin)
	for i := range back {
		assert.InDelta(t, skin[i], surface.Seen(back[i]), 1e-9, "in and out again")
	}
}

// Skin: never more light than falls on it, always darker with more melanin, and found again
// from its colour and from its spectrum.
func TestSkinsAreFoundAgain(t *testing.T) {
	last := math.Inf(1)
	for i := range 31 {
		s := UsualSkin
		s.Melanin = 0.02 * float64(i)
		assert.Less(t, s.ita(), last)
		last = s.ita()
	}
	assert.InDelta(t, -79.7, last, 0.1)
	rapid.Check(t, func(t *rapid.T) {
		s := Skin{rapid.Float64Range(0.02, 0.4).Draw(t, "m"), rapid.Float64Range(0.004, 0.06).Draw(t, "b"), UsualSkin.Oxygenation,
			rapid.Float64Range(0.1, 6).Draw(t, "y"), 1}
		r := s.Reflectance()
		for _, v := range r {
			assert.True(t, v > 0 && v < 1)
		}
		found, left := SkinFromLab(r.Lab(D65))
		assert.Less(t, left, 1e-3)
		assert.InDelta(t, s.Melanin, found.Melanin, 2e-3)
	})
	_, err := UsualSkin.AtITA(89)
	assert.Error(t, err)
	dark, clamped := UsualSkin.Tanned(400)
	assert.True(t, clamped)
	assert.Equal(t, 0.6, dark.Melanin)
}

// A colour that was rebuilt has that colour, and stays a reflectance.
func TestARebuiltColourIsThatColour(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		want := Lab{rapid.Float64Range(20, 85).Draw(t, "l"), rapid.Float64Range(-15, 20).Draw(t, "a"),
			rapid.Float64Range(-15, 25).Draw(t, "b")}
		got, err := Rebuild(want, "smooth")
		require.NoError(t, err)
		assert.Less(t, DE00(want, got.R.Lab(D65)), 1e-6)
		for _, v := range got.R {
			assert.True(t, v > 0 && v < 1)
		}
	})
}

// A recipe twice as large weighs twice as much, and its mass adds up.
func TestABatchAddsUp(t *testing.T) {
	recipe := []Dose{{"TW", 0.12}, {"YO", 0.2}}
	base, grams, total := Batch(recipe, 0, 500)
	sum := base
	for _, d := range grams {
		sum += d.G
	}
	assert.InDelta(t, 500, sum, 1e-9)
	assert.InDelta(t, total, sum, 1e-9)
	_, twice, _ := Batch(recipe, 2*base, 0)
	assert.InDelta(t, 2*grams[0].G, twice[0].G, 1e-9)
}

func asked(t testing.TB, ita float64) Asked {
	target := skinAt(t, ita)
	return Asked{Target: target, Backing: target, Base: baseNamed(t, "silicone"), X: 3, Pigments: every(), Most: 4, BatchG: 500,
		ResolutionG: 0.01,
		OpacityMin:  0.7, OpacityMax: 1, Metamerism: 0.25}
}

// A recipe that was mixed is found again as well as it can be, the same question has the
// same answer, and it ends when nobody waits for it.
func TestARecipeIsFound(t *testing.T) {
	for _, ita := range []float64{45, 20, -10, -40} {
		q := asked(t, ita)
		a, err := q.Match(t.Context())
		require.NoError(t, err)
		assert.True(t, a.Reached, "%g", ita)
		assert.Less(t, a.Alternatives[0].DE00[D65], 0.1, "%g", ita)
		b, err := q.Match(t.Context())
		require.NoError(t, err)
		assert.Equal(t, a, b)
		for i, alt := range a.Alternatives {
			assert.LessOrEqual(t, alt.Load, q.Base.MaxLoad+1e-6)
			assert.GreaterOrEqual(t, alt.Contrast, 0.7-crSlack)
			assert.GreaterOrEqual(t, alt.RoundingCost, -0.05)
			for j := range i {
				assert.NotEqual(t, a.Alternatives[j].Recipe, alt.Recipe)
			}
		}
	}
	ctx, end := context.WithCancel(t.Context())
	end()
	_, err := asked(t, 10).Match(ctx)
	assert.ErrorIs(t, err, context.Canceled)
	q := asked(t, 10)
	q.OpacityMin, q.X = 0.999, 0.05
	_, err = q.Match(t.Context())
	assert.ErrorContains(t, err, "opaque")
}

// What was mixed too weak is put right by what was left out.
func TestABatchIsPutRight(t *testing.T) {
	base := baseNamed(t, "silicone")
	meant := []Dose{{"TW", 0.12}, {"YO", 0.28}, {"RO", 0.09}, {"UB", 0.05}}
	really := []Dose{{"TW", 0.12}, {"YO", 0.20}, {"RO", 0.09}, {"UB", 0.05}}
	want, err := base.Mixed(meant, 0)
	require.NoError(t, err)
	got, err := base.Mixed(really, 0)
	require.NoError(t, err)
	read := got.Over(3, &Black)
	q := asked(t, 20)
	q.Target, q.Backing, q.BatchG, q.OpacityMin, q.Most = want.Over(3, &Black), Black, 400, 0, 3
	b := Batched{Asked: q, Recipe: meant, Read: &read, ReadX: 3, ReadOver: Black}
	out, err := b.Correct(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "corrected", out.Verdict)
	require.Len(t, out.Add, 1)
	assert.Equal(t, "YO", out.Add[0].Pigment)
	assert.InDelta(t, 0.32, out.Add[0].G, 0.01)
	assert.InDelta(t, 0.20/0.28, out.Factors[1].G, 0.01, "yellow oxide behaves as 71 % of what was written down")
	// One that is right is left alone.
	read = want.Over(3, &Black)
	b.Read = &read
	out, err = b.Correct(t.Context())
	require.NoError(t, err)
	assert.Equal(t, "leave", out.Verdict)
	assert.Empty(t, out.Add)
}

// A pigment is found again from its own drawdowns.
func TestAPigmentIsFoundAgain(t *testing.T) {
	base := baseNamed(t, "silicone")
	p, err := PigmentOf("BU", "")
	require.NoError(t, err)
	var drawn []Drawdown
	for _, g := range []float64{0.4, 1.2} {
		mixed, err := base.Mixed([]Dose{{"BU", g}}, 0)
		require.NoError(t, err)
		drawn = append(drawn, Drawdown{Amount: g, X: 0.5, Over: []Over{{White, mixed.Over(0.5, &White)},
			{Black, mixed.Over(0.5, &Black)}}})
	}
	c, err := Calibrate(base, drawn)
	require.NoError(t, err)
	for i := range Bands {
		assert.InEpsilon(t, p.K[i], c.K[i], 1e-3)
		assert.InEpsilon(t, p.S[i], c.S[i], 1e-3)
	}
	assert.Less(t, c.RMS, 1e-6)
	_, err = Calibrate(base, nil)
	assert.Error(t, err)
}

func BenchmarkMatchOf16Pigments(b *testing.B) {
	q := asked(b, 5)
	for b.Loop() {
		if _, err := q.Match(b.Context()); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkStackOf12LayersUnder4Lights(b *testing.B) {
	clear := baseNamed(b, "clear")
	wash, err := clear.Mixed([]Dose{{"QR", 6}, {"UB", 1}}, 0)
	require.NoError(b, err)
	skin := skinAt(b, 30)
	coats := make([]Coat, 12)
	for i := range coats {
		coats[i] = Coat{wash, 0.02, 0.3, 1}
	}
	for b.Loop() {
		r, _ := Stack(skin, coats, nil)
		for k := range lights {
			r.Lab(k)
		}
	}
}

func BenchmarkCorrection(b *testing.B) {
	q := asked(b, 20)
	mixed, err := q.Base.Mixed([]Dose{{"TW", 0.1}, {"YO", 0.2}}, 0)
	require.NoError(b, err)
	read := mixed.Over(3, &Black)
	q.Backing, q.OpacityMin, q.Most = Black, 0, 3
	c := Batched{Asked: q, Recipe: []Dose{{"TW", 0.1}, {"YO", 0.3}}, Read: &read, ReadX: 3, ReadOver: Black}
	for b.Loop() {
		if _, err := c.Correct(b.Context()); err != nil {
			b.Fatal(err)
		}
	}
}
