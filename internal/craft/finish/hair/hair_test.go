package hair

import (
	"context"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/texture"
)

// What a zone takes is the integral of its density, summed here strip by strip.
func TestAZoneTakesItsDensitysIntegral(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		z := Zone{WidthMM: rapid.Float64Range(5, 300).Draw(t, "w"), DepthMM: rapid.Float64Range(2, 200).Draw(t, "d"), Density: rapid.Float64Range(0, 250).Draw(t, "back"),
			Edge: rapid.Float64Range(0, 250).Draw(t, "front"), FadeMM: rapid.Float64Range(0, 100).Draw(t, "fade"), Power: rapid.Float64Range(0.5, 3).Draw(t, "k")}
		const strips = 20000
		sum := 0.0
		for i := range strips {
			x := z.DepthMM * (float64(i) + 0.5) / strips
			rho := z.Density
			if z.FadeMM > 0 {
				rho = z.Edge + (z.Density-z.Edge)*math.Pow(math.Min(1, x/z.FadeMM), z.Power)
			}
			sum += rho * z.DepthMM / strips * z.WidthMM / 100
		}
		assert.InDelta(t, sum, float64(z.Hairs()), 0.51+1e-4*sum)
	})
}

func TestHoursFollowTheHandOnceThirtyAreSet(t *testing.T) {
	o := Order{Zones: []Zone{{WidthMM: 50, DepthMM: 20, Density: 40, Edge: 40, FadeMM: 5, Power: 1}}, Fibre: "human", DiameterUM: 70, VisibleMM: 40, CurlPitchMM: 20, HairsPerPush: 2, StrokeS: 6}
	c, err := Count(o)
	require.NoError(t, err)
	assert.Equal(t, 400, c.Count)
	assert.InDelta(t, 20, c.Minutes, 1e-9)
	o.Done, o.SpentMin = 29, 10
	c, _ = Count(o)
	assert.InDelta(t, 6, c.PaceS, 1e-9, "too few to tell")
	o.Done, o.SpentMin = 200, 20
	c, _ = Count(o)
	assert.InDelta(t, 12, c.PaceS, 1e-9)
	assert.InDelta(t, 20, c.LeftMin, 1e-9)
	o.Done = 401
	_, err = Count(o)
	assert.ErrorContains(t, err, "401 are set of 400")
	o.Fibre = "straw"
	_, err = Count(o)
	assert.ErrorContains(t, err, "straw")
}

// However a strip is laid: the rows go from the back to the hairline, closer and
// closer, and the tufts that are told are those that are drawn.
func TestRowsGoFromBackToFront(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := UsualRows(rapid.Float64Range(10, 400).Draw(t, "w"), rapid.Float64Range(5, 200).Draw(t, "d"))
		l.Hairs = rapid.IntRange(0, 5000).Draw(t, "hairs")
		r, err := Lay(l)
		require.NoError(t, err)
		require.Len(t, r.Tufts, r.Rows)
		sum := 0
		for i, n := range r.Tufts {
			sum += n
			if i > 0 {
				assert.Less(t, r.Y[i], r.Y[i-1])
			}
		}
		assert.Equal(t, r.Total, sum)
		assert.Zero(t, r.Y[r.Rows-1])
		assert.Len(t, r.Setback, r.Tufts[r.Rows-1])
		assert.InDelta(t, l.Hairs, r.PerTuft*float64(r.Total), 1e-6)
	})
	_, err := Lay(Laid{WidthMM: 50, DepthMM: 20, PitchBackMM: 3, PitchFrontMM: 8, TuftMM: 5, TuftFrontMM: 5})
	assert.ErrorContains(t, err, "closer in front")
}

// What is counted is what is drawn: within the outline, fewer at the fading edge, the
// same for a seed, and as far apart as a search over all pairs says.
func TestWhatIsPunchedIsWhatIsCounted(t *testing.T) {
	f := Field{Seed: 7, Outline: []texture.P{{0, 0}, {60, 0}, {60, 40}, {30, 30}, {0, 40}}, Density: 30, Edge: 5, FadeMM: 15, FadeEdges: []int{0}, JitterDeg: 5,
		Guides: []Guide{{At: texture.P{30, 20}, Deg: 80}}}
	p, err := Punch(t.Context(), f)
	require.NoError(t, err)
	assert.Len(t, p.Points, p.Count)
	assert.Len(t, p.Deg, p.Count)
	flat, err := texture.Region{Polygon: f.Outline}.Lay()
	require.NoError(t, err)
	front, back := 0, 0
	for i, at := range p.Points {
		assert.True(t, flat.Holds(at))
		assert.InDelta(t, 80, p.Deg[i], 5.001)
		if at[1] < 7 {
			front++
		} else if at[1] > 20 && at[1] < 27 {
			back++
		}
	}
	assert.Less(t, front, back)
	again, err := Punch(t.Context(), f)
	require.NoError(t, err)
	assert.Equal(t, p, again)

	g, err := f.ground()
	require.NoError(t, err)
	least, sum := math.Inf(1), 0.0
	for i, a := range p.Points {
		d := math.Inf(1)
		for j, b := range p.Points {
			if i != j {
				d = math.Min(d, math.Hypot(a[0]-b[0], a[1]-b[1])*math.Sqrt((g.density(a)+g.density(b))/200))
			}
		}
		least, sum = math.Min(least, d), sum+d
	}
	assert.InDelta(t, least, *p.GapMin, 1e-12)
	assert.InDelta(t, sum/float64(p.Count), *p.GapMean, 1e-9)
}

func TestPunchingEndsWhenItIsStopped(t *testing.T) {
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err := Punch(ctx, Field{Seed: 1, Outline: []texture.P{{0, 0}, {60, 0}, {60, 40}}, Density: 30, Edge: 30})
	assert.ErrorIs(t, err, context.Canceled)
}

func TestAnOutlineThatCannotBePunched(t *testing.T) {
	square := []texture.P{{0, 0}, {20, 0}, {20, 20}, {0, 20}}
	for text, f := range map[string]Field{
		"twice running": {Outline: []texture.P{{0, 0}, {20, 0}, {20, 0}, {0, 20}}, Density: 10},
		"encloses":      {Outline: []texture.P{{0, 0}, {10, 0}, {20, 0}}, Density: 10},
		"no edge 9":     {Outline: square, Density: 10, FadeEdges: []int{9}},
		"are the most":  {Outline: []texture.P{{0, 0}, {300, 0}, {300, 300}, {0, 300}}, Density: 600},
		"too large":     {Outline: []texture.P{{0, 0}, {2900, 0}, {2900, 2900}, {0, 2900}}, Density: 1},
	} {
		_, err := Punch(t.Context(), f)
		assert.ErrorContains(t, err, text)
	}
}
