package heat

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// series is the temperature in a slab that is insulated at 0 and meets air at its other
// face, by the classical series: roots of β tan β = Bi, x and time as shares of thickness
// and of thickness squared over diffusivity.
func series(biot, x, fourier float64) float64 {
	sum := 0.0
	for n := range 200 {
		lo, hi := float64(n)*math.Pi+1e-12, float64(n)*math.Pi+math.Pi/2-1e-12
		for range 100 {
			mid := (lo + hi) / 2
			if mid*math.Tan(mid) < biot {
				lo = mid
			} else {
				hi = mid
			}
		}
		b := (lo + hi) / 2
		c := 4 * math.Sin(b) / (2*b + math.Sin(2*b))
		sum += c * math.Exp(-b*b*fourier) * math.Cos(b*x)
	}
	return sum
}

// The chapter's validation: a heated slab by the series, Biot 0.3, 3 and 30, within
// 0.008 K of 70 K; here its coldest and its hottest cell.
func TestAHeatedSlabGoesByTheSeries(t *testing.T) {
	s := Stuffs["plaster"]
	const thick = 0.03
	for _, biot := range []float64{0.3, 3, 30} {
		for _, fourier := range []float64{0.05, 0.2, 0.8} {
			run := New([]Slab{{s, thick, 20}}, Steady(0, 0), Steady(biot*s.K/thick, 90))
			at := fourier * thick * thick * s.Rho * s.C / s.K
			got := run.Follow(0, nil, []float64{at}, nil, 7*86400)
			centre := thick - 0.25*(1-math.Cos(math.Pi/cells))*thick // of the first cell, from the far face
			x := 1 - centre/thick
			assert.InDelta(t, 90-70*series(biot, x, fourier), got.Report[0].MinC, 0.03, "Biot %g, Fourier %g, cold", biot, fourier)
			assert.InDelta(t, 90-70*series(biot, 1-x, fourier), got.Report[0].MaxC, 0.03, "Biot %g, Fourier %g, hot", biot, fourier)
		}
	}
}

// Something thin and well conducting cools by Newton's law.
func TestNewtonsCooling(t *testing.T) {
	s := Stuff{K: 50, Rho: 2000, C: 900}
	run := New([]Slab{{s, 0.002, 80}}, Steady(10, 20), Steady(10, 20))
	tau := s.Rho * s.C * 0.002 / 20
	for _, r := range []float64{0.2, 1, 3} {
		got := New([]Slab{{s, 0.002, 80}}, run.Left, run.Right).Follow(0, nil, []float64{r * tau}, nil, 86400)
		assert.InDelta(t, 20+60*math.Exp(-r), got.Report[0].MeanC, 0.02, "%g τ", r)
	}
	got := run.Follow(0, []Target{{TempC: 50}}, nil, nil, 86400)
	assert.InEpsilon(t, tau*math.Log(2), *got.TargetS[0], 0.002)
}

// Two bodies that touch meet at the temperature of their effusivities.
func TestTwoBodiesMeetAtTheirContactTemperature(t *testing.T) {
	a, b := Stuffs["stone"], Stuffs["silicone"]
	run := New([]Slab{{a, 0.2, 20}, {b, 0.2, 60}}, Steady(0, 0), Steady(0, 0))
	for run.T < 120 {
		run.Advance(120)
	}
	e := func(s Stuff) float64 { return math.Sqrt(s.K * s.Rho * s.C) }
	_, max0, _ := run.Slab(0)
	min1, _, _ := run.Slab(1)
	want := (e(a)*20 + e(b)*60) / (e(a) + e(b))
	assert.InDelta(t, want, (max0+min1)/2, 0.5, "between the cells at the contact")
}

// What is stored more is what came in through the faces; nothing is made inside. A stack
// that is closed at both ends keeps its heat and comes to its mean.
func TestHeatIsKept(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		names := []string{"plaster", "stone", "silicone", "resin", "wet_foam"}
		var slabs []Slab
		for range rapid.IntRange(1, 4).Draw(t, "slabs") {
			slabs = append(slabs, Slab{Stuffs[rapid.SampledFrom(names).Draw(t, "of")], rapid.Float64Range(0.002, 0.05).Draw(t, "thick"),
				rapid.Float64Range(-20, 95).Draw(t, "init")})
		}
		closed := New(slabs, Steady(0, 0), Steady(0, 0))
		before := closed.Heat()
		for closed.T < 3*86400 {
			closed.Advance(3 * 86400)
		}
		assert.InDelta(t, before, closed.Heat(), 1e-6*math.Abs(before)+1)
		for i := range slabs {
			lo, hi, _ := closed.Slab(i)
			assert.InDelta(t, lo, hi, 1.5)
		}
		h, air := rapid.Float64Range(3, 50).Draw(t, "h"), rapid.Float64Range(0, 100).Draw(t, "air")
		open := New(slabs, Steady(h, air), Steady(0, 0))
		start, came := open.Heat(), 0.0
		flow := func(c []float64) float64 { return conducts(open.Left, open.skinL) * (air - c[0]) }
		for open.T < 7200 {
			s := open.Advance(7200)
			came += (s.ToS - s.FromS) * (flow(s.Before) + flow(s.After)) / 2
		}
		assert.InDelta(t, start+came, open.Heat(), 0.01*math.Abs(came)+200)
	})
}

// Where conduction alone rules, twice the thickness takes four times as long; warmer air
// is never slower.
func TestConductionGoesByTheSquare(t *testing.T) {
	heats := func(thick, air float64) float64 {
		run := New([]Slab{{Stuffs["stone"], thick, 20}}, Steady(0, 0), Steady(1e5, air))
		return *run.Follow(0, []Target{{Above: true, TempC: 60}}, nil, nil, 7*86400).TargetS[0]
	}
	assert.InEpsilon(t, 4, heats(0.06, 90)/heats(0.03, 90), 0.005)
	assert.Less(t, heats(0.03, 110), heats(0.03, 90))
}

// Air along a table is met at its points; a target that is never met is nil and says so.
func TestAirAlongATable(t *testing.T) {
	f := Along(12, [][2]float64{{0, 20}, {600, 80}, {1200, 80}})
	assert.InDelta(t, 50, f.Air(300), 1e-12)
	assert.InDelta(t, 20, f.Air(-5), 1e-12)
	assert.InDelta(t, 80, f.Air(9000), 1e-12)
	s := Stuff{K: 50, Rho: 1000, C: 1000}
	got := New([]Slab{{s, 1e-3, 20}}, f, Steady(0, 0)).Follow(0, []Target{{Above: true, TempC: 90}}, []float64{600},
		[]float64{600, 1200}, 86400)
	assert.Nil(t, got.TargetS[0])
	assert.Equal(t, []string{"not_reached_within_horizon"}, got.Warnings)
	// A ramp of 0.1 K/s met with τ = 1e6·1e-3/12: air − rate·τ·(1 − e^(−t/τ)) at its end.
	tau := 1e3 / 12
	require.Len(t, got.Report, 1)
	assert.InDelta(t, 80-0.1*tau*(1-math.Exp(-600/tau)), got.Report[0].MeanC, 0.05)
}

func BenchmarkThreeSlabs(b *testing.B) {
	wall, foam := Stuffs["plaster"], Stuffs["wet_foam"]
	for b.Loop() {
		run := New([]Slab{{wall, 0.03, 21}, {foam, 0.008, 21}, {wall, 0.03, 21}}, Steady(12, 95), Steady(12, 95))
		run.Follow(1, []Target{{Above: true, TempC: 90}}, nil, nil, 86400)
	}
}
