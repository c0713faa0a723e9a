package mix

import (
	"encoding/json"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The planning chapter's cases for dividing a total into parts.
func TestSplitMatchesTheHandbook(t *testing.T) {
	raw, err := os.ReadFile("testdata/parts.json")
	require.NoError(t, err)
	var file struct {
		Cases []struct {
			ID    string
			Input struct {
				TotalG   float64 `json:"total_g"`
				VolumeML float64 `json:"volume_ml"`
				Parts    []struct {
					ID      string
					Parts   float64
					Density json.Number
				}
			}
			Expect struct {
				TotalG float64            `json:"total_g"`
				PartsG map[string]float64 `json:"parts_g"`
			}
		}
	}
	require.NoError(t, json.Unmarshal(raw, &file))
	require.Len(t, file.Cases, 3)
	for _, c := range file.Cases {
		total, weights, sum := c.Input.TotalG, []float64{}, 0.0
		for _, p := range c.Input.Parts {
			sum += p.Parts
		}
		for _, p := range c.Input.Parts {
			weight := p.Parts
			if c.Input.VolumeML > 0 {
				density, err := p.Density.Float64()
				require.NoError(t, err)
				weight = c.Input.VolumeML * p.Parts * density / sum
				total += weight
			}
			weights = append(weights, weight)
		}
		got := Split(total, weights, UsualResolutionG)
		for i, p := range c.Input.Parts {
			assert.InDelta(t, c.Expect.PartsG[p.ID], got[i], 1e-9, c.ID+" "+p.ID)
		}
	}
}

func silicone(softener, pigment float64, of string) Recipe {
	return Recipe{
		Parts:     []Part{{ID: "A", Parts: 1}, {ID: "B", Parts: 1}},
		Additions: []Addition{{ID: "softener", Percent: softener, Of: of}, {ID: "pigment", Percent: pigment}},
	}
}

func TestSoftenerOfPartsAndOfTotalDiffer(t *testing.T) {
	byParts, err := PourSheet(silicone(60, 0, OfParts), 160, UsualResolutionG)
	require.NoError(t, err)
	assert.Equal(t, []float64{50, 50, 60}, []float64{byParts[0].Grams, byParts[1].Grams, byParts[2].Grams})
	byTotal, err := PourSheet(silicone(60, 0, OfTotal), 100, UsualResolutionG)
	require.NoError(t, err)
	assert.Equal(t, []float64{20, 20, 60}, []float64{byTotal[0].Grams, byTotal[1].Grams, byTotal[2].Grams})
}

func TestASheetScalesWithItsTotal(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := silicone(rapid.Float64Range(0, 200).Draw(t, "softener"), rapid.Float64Range(0, 3).Draw(t, "pigment"), OfParts)
		total, factor := rapid.Float64Range(20, 2000).Draw(t, "total"), rapid.Float64Range(1, 20).Draw(t, "factor")
		small, err := PourSheet(r, total, UsualResolutionG)
		require.NoError(t, err)
		large, err := PourSheet(r, total*factor, UsualResolutionG)
		require.NoError(t, err)
		sum := 0.0
		for i := range small {
			sum += small[i].Grams
			assert.InDelta(t, small[i].Grams*factor, large[i].Grams, 0.11*factor+0.11, small[i].ID)
		}
		assert.InDelta(t, total, sum, 0.2, "the lines add up to the total")
	})
}

func TestTheRatioHoldsAfterAnyOvershoot(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := silicone(rapid.Float64Range(10, 200).Draw(t, "softener"), rapid.Float64Range(0.1, 3).Draw(t, "pigment"), OfParts)
		sheet, err := PourSheet(r, rapid.Float64Range(50, 2000).Draw(t, "total"), UsualResolutionG)
		require.NoError(t, err)
		poured := make([]Poured, len(sheet))
		for i, s := range sheet {
			in := s.Grams * rapid.Float64Range(0, 1.8).Draw(t, s.ID)
			poured[i] = Poured{ID: s.ID, PlannedG: s.Grams, InCupG: in, Done: rapid.Bool().Draw(t, "done")}
		}
		b, err := Rebalance(r, poured)
		require.NoError(t, err)
		shares, err := r.Shares()
		require.NoError(t, err)
		final := 0.0
		for _, l := range b.Lines {
			final += l.InCupG + l.AddG
			assert.GreaterOrEqual(t, l.AddG, 0.0)
		}
		if b.GrewBy == "" {
			return
		}
		for i, l := range b.Lines {
			end := l.InCupG + l.AddG
			assert.InDelta(t, shares[i].Fraction*b.TotalG, end, Tolerance(l.TargetG)+1e-9, l.ID)
			assert.LessOrEqual(t, l.InCupG, l.TargetG+Tolerance(l.TargetG), "nothing has to be taken out")
		}
		assert.InDelta(t, b.TotalG, final, 0.02*b.TotalG+0.3, "what is in and what is added make the total")
	})
}

func TestWhatAnOvershootSays(t *testing.T) {
	r := silicone(60, 0, OfParts)
	b, err := Rebalance(r, []Poured{{"A", 50, 51.6, true}, {"B", 50, 0, false}, {"softener", 60, 60, true}, {"pigment", 0, 0, false}})
	require.NoError(t, err)
	assert.Equal(t, "A", b.GrewBy)
	assert.InDelta(t, 51.6, b.Lines[1].AddG, 1e-9)
	assert.InDelta(t, 61.92, b.Lines[2].TargetG, 1e-9)
	assert.InDelta(t, 165.12, b.TotalG, 1e-9)
	said := b.Say(func(id string) string { return "the " + id })
	assert.Contains(t, said, "the A went 1.6 g over")
	assert.Contains(t, said, "Add 1.9 g of the softener.")
	assert.NotContains(t, said, "of the B", "B was not in yet, so nothing is added to it")
}

func TestASecondOvershootWithinToleranceMovesNothingAgain(t *testing.T) {
	// A went over and moved the sheet; B then ends a hair above its new target.
	b, err := Rebalance(silicone(60, 0, OfParts), []Poured{{"A", 50, 55, true}, {"B", 50, 55.4, true}, {"softener", 60, 66, true}, {"pigment", 0, 0, true}})
	require.NoError(t, err)
	assert.Equal(t, "A", b.GrewBy)
	assert.InDelta(t, 176, b.TotalG, 1e-9)
	for _, l := range b.Lines {
		assert.Zero(t, l.AddG, l.ID)
	}
}

func TestWithinToleranceNothingMoves(t *testing.T) {
	b, err := Rebalance(silicone(60, 0, OfParts), []Poured{{"A", 50, 50.4, true}, {"B", 50, 49.7, true}, {"softener", 60, 0, false}, {"pigment", 0, 0, false}})
	require.NoError(t, err)
	assert.Empty(t, b.GrewBy)
	assert.Zero(t, b.Lines[1].AddG)
	assert.InDelta(t, 60, b.Lines[2].AddG, 1e-9)
}

func TestWaterIsDensestAtFourDegrees(t *testing.T) {
	assert.InDelta(t, 0.99820, WaterDensity(20), 2e-5)
	assert.InDelta(t, 0.99222, WaterDensity(40), 3e-5)
	assert.Greater(t, WaterDensity(4), WaterDensity(0))
}

func TestAmountScalesWithCopies(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := Need{VolumeML: rapid.Float64Range(0.1, 5000).Draw(t, "ml"), Copies: rapid.IntRange(1, 20).Draw(t, "copies"), Waste: 0.15, Density: 1.07}
		one, err := HowMuch(n)
		require.NoError(t, err)
		n.Copies *= 2
		two, err := HowMuch(n)
		require.NoError(t, err)
		assert.InDelta(t, 2*one.Grams, two.Grams, 1e-6*two.Grams)
		assert.False(t, math.IsNaN(two.Grams))
	})
}

// A body weighed in air and under water, or by the level it raises, has the
// volume that it displaces (Archimedes).
func TestDisplacement(t *testing.T) {
	r, err := Displacement(84, 6, 4)
	require.NoError(t, err)
	assert.InDelta(t, 78.0, r.VolumeML, 0.01)
	assert.InDelta(t, 0.03*r.VolumeML, r.SdML, 1e-9)
	level, err := Raised(400, 478)
	require.NoError(t, err)
	assert.Equal(t, 78.0, level.VolumeML)
	both, err := Combine([]Route{r, level})
	require.NoError(t, err)
	assert.Empty(t, both.Disagree)
	for _, f := range []func() (Route, error){func() (Route, error) { return Displacement(5, 6, 20) }, func() (Route, error) { return Displacement(50, 6, 80) }, func() (Route, error) { return Raised(5, 5) }, func() (Route, error) { return Scanned(-1) }} {
		_, err := f()
		assert.Error(t, err)
	}
}
