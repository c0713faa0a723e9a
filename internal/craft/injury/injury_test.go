package injury_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/injury"
)

// skins from very light to very dark.
func skins(t *testing.T) map[float64]colour.Spectrum {
	out := map[float64]colour.Spectrum{}
	for _, ita := range []float64{60, 35, 10, -30, -60} {
		s, err := colour.UsualSkin.AtITA(ita)
		require.NoError(t, err)
		out[ita] = s.Reflectance()
	}
	return out
}

func of(t *testing.T, kind string, hours, depth float64, skin colour.Spectrum) []injury.Coloured {
	z, err := injury.Of(kind, hours, depth, skin)
	require.NoError(t, err)
	return z
}

// Whatever happened, on every skin: a zone reflects no more than falls on it, nothing is
// left of it at the end, and one of no depth cannot be seen.
func TestEveryInjuryOnEverySkin(t *testing.T) {
	for ita, skin := range skins(t) {
		for _, k := range injury.Kinds {
			require.Len(t, k.Words, len(k.StageH), k.ID)
			for _, h := range []float64{0, 0.3, 2, 9, 30, 80, 200, 500, 1000, 2000, 8760} {
				for _, z := range of(t, k.ID, h, 0.5, skin) {
					for _, v := range z.R {
						require.True(t, v > 0 && v < 1, "%s %g h", k.ID, h)
					}
					require.False(t, math.IsNaN(z.Off))
				}
				for _, z := range of(t, k.ID, h, 0, skin) {
					assert.Less(t, z.Off, 0.3, "%s at ITA %g after %g h, no depth", k.ID, ita, h)
				}
			}
			end := of(t, k.ID, k.LastH*1.01, 0.5, skin)
			if k.ID == "bruise" || k.ID == "scab" {
				for _, z := range end {
					assert.Less(t, z.Off, 0.3, "%s leaves nothing", k.ID)
				}
			}
			fresh := of(t, k.ID, k.StageH[0], 0.5, skin)
			assert.Greater(t, fresh[0].Off, 0.5, "%s is seen when it is fresh, ITA %g", k.ID, ita)
			if ita > 0 {
				assert.Greater(t, fresh[0].Off, fresh[len(fresh)-1].Off, "%s is strongest in the middle", k.ID)
			}
		}
	}
}

// A skin as an instrument reads it, redder than the model's own, shows an injury as well.
func TestAReddishReadingShowsABruise(t *testing.T) {
	for _, lab := range []colour.Lab{{L: 36, A: 13.6, B: 14.4}, {L: 62, A: 16, B: 20}, {L: 48, A: 14, B: 24}} {
		skin, err := colour.Rebuild(lab, "auto")
		require.NoError(t, err)
		for _, h := range []float64{1, 36, 130} {
			assert.Greater(t, of(t, "bruise", h, 0.5, skin.R)[0].Off, 1.5, "%+v %g h", lab, h)
		}
	}
}

// A bruise goes from red over blue to yellow, and a deeper one shows more and stays longer.
func TestABruiseChangesColour(t *testing.T) {
	for _, ita := range []float64{60, 35, 10} {
		skin := skins(t)[ita]
		around := skin.Lab(colour.D65)
		hue := func(h float64) (a, b float64) {
			z := of(t, "bruise", h, 0.5, skin)[0]
			return z.Lab.A - around.A, z.Lab.B - around.B
		}
		a1, _ := hue(1)
		assert.Greater(t, a1, 2.0, "fresh: red")
		_, b40 := hue(40)
		assert.Less(t, b40, -2.0, "after two days: blue")
		_, b180 := hue(180)
		assert.Greater(t, b180, 1.0, "after a week: yellow")
		for _, h := range []float64{1, 40, 180} {
			little, much := of(t, "bruise", h, 0.3, skin)[0], of(t, "bruise", h, 0.8, skin)[0]
			assert.Greater(t, much.Off, little.Off, "%g h", h)
		}
		assert.Greater(t, of(t, "bruise", 380, 1, skin)[0].Off, of(t, "bruise", 380, 0.5, skin)[0].Off, "the deep one is still there")
	}
}

// Nothing jumps: an hour more changes little, at any age.
func TestAnInjuryAgesSmoothly(t *testing.T) {
	skin := skins(t)[35]
	for _, k := range injury.Kinds {
		before := of(t, k.ID, 0.5, 0.5, skin)
		for h := 0.55; h < 2500; h *= 1.03 {
			now := of(t, k.ID, h, 0.5, skin)
			for i := range now {
				if now[i].Blood == before[i].Blood {
					assert.Less(t, colour.DE00(now[i].Lab, before[i].Lab), 3.5, "%s %s at %.1f h", k.ID, now[i].Name, h)
				}
			}
			before = now
		}
	}
}

func TestWhatIsNoInjuryIsRefused(t *testing.T) {
	skin := skins(t)[35]
	for _, c := range []struct {
		kind         string
		hours, depth float64
	}{{"itch", 1, 0.5}, {"cut", -1, 0.5}, {"cut", math.NaN(), 0.5}, {"cut", 1e6, 0.5}, {"cut", 1, 2}, {"cut", 1, math.NaN()}} {
		_, err := injury.Of(c.kind, c.hours, c.depth, skin)
		assert.Error(t, err, "%+v", c)
	}
}
