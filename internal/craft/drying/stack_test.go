package drying

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// stackOf is a stack of equal layers of this wet thickness in m, each put on so long
// after the one below, in s, or at its mark.
func stackOf(n int, wetM, after float64, mark string) Stack {
	s := Stack{Segments: []Segment{{Place: StillRoom(21, 0.5)}}, HorizonS: 60 * 86400, WallM: 0.025}
	for i := range n {
		l := Laid{Layer: Layer{WetM: wetM, Solids: 0.6, FibreUptake: 8}, AtS: float64(i) * after}
		if mark != "" && i > 0 {
			l.AtS, l.After = 0, mark
		}
		s.Layers = append(s.Layers, l)
	}
	return s
}

func dryH(t *testing.T, s Stack) float64 {
	t.Helper()
	d, err := s.Simulate()
	require.NoError(t, err)
	require.NotNil(t, d.DryS)
	return *d.DryS / 3600
}

// Section 11 of the chapter: 2, 4, 6 and 8 layers of 0.2 mm, dried in between and put on
// 3 minutes apart; a paste of 2, 4 and 6 mm; section 3.4: eight layers put on at each
// mark.
func TestStacksDryAsTheChapterCalibrated(t *testing.T) {
	for n, want := range map[int][2]float64{2: {1.8, 2.5}, 4: {3.6, 7.6}, 6: {5.4, 15}, 8: {7.2, 25}} {
		assert.InEpsilon(t, want[0], dryH(t, stackOf(n, 2e-4, 0, AfterDry)), 0.03, "%d dried", n)
		assert.InEpsilon(t, want[1], dryH(t, stackOf(n, 2e-4, 180, "")), 0.04, "%d wet on wet", n)
	}
	assert.InEpsilon(t, 19.5, dryH(t, stackOf(8, 2e-4, 0, AfterRecoat)), 0.03)
	assert.InEpsilon(t, 25.8, dryH(t, stackOf(8, 2e-4, 0, AfterTouch)), 0.03)
	paste := func(mm, r float64) float64 {
		s := stackOf(1, mm/1000, 0, "")
		s.Layers[0].FillerRatio = r
		return dryH(t, s)
	}
	assert.InEpsilon(t, 21.7, paste(4, 0.5), 0.03)
	assert.InEpsilon(t, 28.7, paste(4, 0.3), 0.03)
	assert.InEpsilon(t, 19.7, paste(4, 0.8), 0.03)
}

// A single layer: the simulation agrees with the closed form as well as the chapter says
// that they do, over thicknesses, places and rooms.
func TestTheClosedFormAgreesWithTheSimulation(t *testing.T) {
	var sum float64
	var n int
	for _, wet := range []float64{5e-5, 2e-4, 1e-3, 4e-3} {
		for _, preset := range []string{"still", "fan", "cool_dryer", "warm_dryer"} {
			for _, side := range []string{"form", "skin"} {
				for _, room := range [][2]float64{{18, 0.4}, {21, 0.5}, {26, 0.65}} {
					p := PlaceIn(preset, side, room[0], room[1])
					l := Layer{WetM: wet, Solids: 0.6, FibreUptake: 8}
					e, err := p.Latex([]Layer{l}, EachDried)
					require.NoError(t, err)
					d, err := Stack{Layers: []Laid{{Layer: l}}, Segments: []Segment{{Place: p}}, HorizonS: 60 * 86400}.Simulate()
					require.NoError(t, err)
					require.NotNil(t, d.DryS)
					for _, pair := range [][2]float64{{e.TouchS, *d.Layers[0].TouchS}, {e.RecoatS, *d.Layers[0].RecoatS}, {e.DryS, *d.DryS}} {
						off := pair[0]/pair[1] - 1
						assert.Less(t, math.Abs(off), 0.17, "%g m, %s, %s, %v", wet, preset, side, room)
						sum += off * off
						n++
					}
				}
			}
		}
	}
	assert.Less(t, math.Sqrt(sum/float64(n)), 0.075, "rms of %d", n)
}

// No water is made or lost: what is left, what evaporated and what the plaster took up
// is what was put on. The evaporation is added up here from the surface alone.
func TestWaterIsKeptOverEveryStep(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		in := Stack{HorizonS: rapid.Float64Range(600, 40000).Draw(t, "horizon"), WallM: 0.02}
		side := rapid.SampledFrom([]string{"form", "skin", "plaster"}).Draw(t, "side")
		in.Segments = []Segment{{Place: PlaceIn(rapid.SampledFrom([]string{"still", "fan"}).Draw(t, "preset"), side, 21,
			rapid.Float64Range(0.3, 0.6).Draw(t, "rh"))}}
		at := 0.0
		put := 0.0
		for i := range rapid.IntRange(1, 5).Draw(t, "layers") {
			l := Layer{WetM: rapid.Float64Range(1e-4, 1e-3).Draw(t, "wet"), Solids: rapid.Float64Range(0.4, 0.65).Draw(t, "solids"),
				FillerRatio: rapid.SampledFrom([]float64{0, 0, 0.4}).Draw(t, "filler"), FibreUptake: 8}
			if i > 0 {
				at += rapid.Float64Range(30, 3000).Draw(t, "after")
			}
			in.Layers = append(in.Layers, Laid{Layer: l, AtS: at})
		}
		out := Dried{Layers: make([]LayerTimes, len(in.Layers))}
		b, err := in.bench(&out)
		require.NoError(t, err)
		// By the trapezium over each step; what is put on between two steps begins anew.
		gone, before, cells := 0.0, 0.0, 0
		now := func() float64 {
			j, _, _ := b.surface(in.Segments[0].Place, b.u[len(b.u)-1], Arrhenius(energyDiffusion, b.surfaceC, 21))
			return j
		}
		b.stepped = func(h float64) {
			j := now()
			if cells != len(b.u) {
				cells, before = len(b.u), j
			}
			gone += h * (before + j) / 2
			before = j
		}
		b.run(&out)
		taken := 0.0
		if b.plaster {
			taken = b.u[0]
		}
		for i := range out.Layers {
			if out.Layers[i].AtS != nil {
				put += b.strata[i].water
			}
		}
		assert.InEpsilon(t, put, b.water()+gone+taken, 0.01)
	})
}

// Thicker never dries sooner, more layers never sooner, and each mark comes after the one
// before it.
func TestThickerAndMoreNeverDrySooner(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		wet := rapid.Float64Range(5e-5, 1.5e-3).Draw(t, "wet")
		n := rapid.IntRange(1, 4).Draw(t, "n")
		apart := rapid.Float64Range(60, 4000).Draw(t, "apart")
		thin, err := stackOf(n, wet, apart, "").Simulate()
		require.NoError(t, err)
		thick, err := stackOf(n, wet*1.15, apart, "").Simulate()
		require.NoError(t, err)
		more, err := stackOf(n+1, wet, apart, "").Simulate()
		require.NoError(t, err)
		assert.Less(t, *thin.DryS, *thick.DryS*1.002)
		assert.Less(t, *thin.DryS, *more.DryS*1.02, "with other cells")
		for _, l := range thin.Layers {
			assert.Less(t, *l.TouchS, *l.RecoatS)
			assert.Less(t, *l.RecoatS, *l.DryS)
		}
	})
}

// Where the way through the film rules and not the air, twice the thickness takes four
// times as long.
func TestDiffusionGoesByTheSquare(t *testing.T) {
	dry := func(wet float64) float64 {
		s := stackOf(1, wet, 0, "")
		s.Segments[0].Place = PlaceIn("cool_dryer", "form", 21, 0.5)
		s.Segments[0].Km = 0.2
		return dryH(t, s)
	}
	assert.InDelta(t, 4, dry(4e-3)/dry(2e-3), 0.15)
}

// Finer cells and steps change little: the chapter reaches 1.3 % on the trapped stack.
func TestFinerCellsChangeLittle(t *testing.T) {
	trapped := func(scale int) float64 {
		s := stackOf(4, 3e-4, 300, "")
		for i := range s.Layers {
			s.Layers[i].FibreKgM2 = 0.03
		}
		s.finer = scale
		return dryH(t, s)
	}
	assert.InEpsilon(t, trapped(3), trapped(1), 0.02)
}

// What is asked to wait for a mark is put on at that mark and not before, and drying in
// between pays.
func TestALayerWaitsForItsMark(t *testing.T) {
	for mark, of := range map[string]func(LayerTimes) *float64{AfterTouch: func(l LayerTimes) *float64 { return l.TouchS },
		AfterRecoat: func(l LayerTimes) *float64 { return l.RecoatS }, AfterDry: func(l LayerTimes) *float64 { return l.DryS }} {
		s := stackOf(4, 2e-4, 0, mark)
		s.Layers[2].WaitS = 900
		d, err := s.Simulate()
		require.NoError(t, err)
		for i := 1; i < 4; i++ {
			wait := s.Layers[i].WaitS
			assert.InDelta(t, *of(d.Layers[i-1])+wait, *d.Layers[i].AtS, 1e-6, "%s %d", mark, i)
		}
	}
	assert.Less(t, dryH(t, stackOf(6, 2e-4, 0, AfterDry)), dryH(t, stackOf(6, 2e-4, 0, AfterTouch)))
}

// What does not dry in its time says so and is no number; what follows is not put on.
func TestWhatIsNotDryByTheHorizonSaysSo(t *testing.T) {
	s := stackOf(3, 4e-3, 0, AfterDry)
	s.HorizonS = 6 * 3600
	d, err := s.Simulate()
	require.NoError(t, err)
	assert.Nil(t, d.DryS)
	assert.Nil(t, d.Layers[1].AtS)
	assert.Contains(t, d.Warnings, "not_dry_within_horizon")
	s.Segments[0].Place = StillRoom(21, 0.85)
	d, err = s.Simulate()
	require.NoError(t, err)
	assert.Contains(t, d.Warnings, "humid_room")
}

func BenchmarkStack(b *testing.B) {
	for _, n := range []int{1, 8, 40} {
		b.Run(fmt.Sprintf("%d layers", n), func(b *testing.B) {
			s := stackOf(n, 2e-4, 180, "")
			for b.Loop() {
				if _, err := s.Simulate(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// A room that gets warm and dry later dries later than one that was so from the start and
// sooner than one that stays cold; a room that changes to what it is already changes nothing.
func TestTheRoomMayChange(t *testing.T) {
	cold, warm := StillRoom(15, 0.65), StillRoom(26, 0.35)
	in := func(segments ...Segment) float64 {
		s := stackOf(3, 3e-4, 1200, "")
		s.Segments = segments
		return dryH(t, s)
	}
	allCold, allWarm := in(Segment{Place: cold}), in(Segment{Place: warm})
	soon, late := in(Segment{Place: cold}, Segment{FromS: 1800, Place: warm}), in(Segment{Place: cold},
		Segment{FromS: 7200, Place: warm})
	assert.Less(t, allWarm, soon)
	assert.Less(t, soon, late)
	assert.Less(t, late, allCold)
	assert.InEpsilon(t, allCold, in(Segment{Place: cold}, Segment{FromS: 5000, Place: cold}), 0.02)
	// From dry to damp air: what was through before stays through, at its own time.
	damp, err := Stack{Layers: []Laid{{Layer: Layer{WetM: 1e-4, Solids: 0.6, FibreUptake: 8}}},
		Segments: []Segment{{Place: warm}, {FromS: 6000, Place: StillRoom(21, 0.78)}}, HorizonS: 86400}.Simulate()
	require.NoError(t, err)
	require.NotNil(t, damp.DryS)
	assert.Less(t, *damp.DryS, 6000.0)
}

// What is reported of each layer is all of the water, and nothing of a layer that is not
// on yet; what plaster took up only grows.
func TestAReportIsAllOfTheWater(t *testing.T) {
	place := PlaceIn("still", "plaster", 21, 0.5)
	in := Stack{Layers: []Laid{{Layer: Layer{WetM: 3e-4, Solids: 0.6}}, {Layer: Layer{WetM: 3e-4, Solids: 0.6}, AtS: 1800}},
		Segments: []Segment{{Place: place}}, WallM: 0.025, HorizonS: 86400, ReportS: []float64{0, 600, 1799, 1800, 7200, 40000}}
	out, err := in.Simulate()
	require.NoError(t, err)
	require.Len(t, out.Shares, 6)
	assert.InDelta(t, 1, out.Shares[0][0], 1e-9)
	for i := range 3 {
		assert.Zero(t, out.Shares[i][1], "not on yet")
	}
	assert.InDelta(t, 1, out.Shares[3][1], 1e-9)
	assert.InDelta(t, out.Water/2, out.Left[0], 1e-12)
	for i := 1; i < 6; i++ {
		assert.GreaterOrEqual(t, out.Taken[i], out.Taken[i-1])
		if i != 3 {
			assert.LessOrEqual(t, out.Left[i], out.Left[i-1])
		}
	}
	assert.InDelta(t, out.Absorbed, out.Taken[5], 1e-3)
	assert.Less(t, out.Shares[5][0]+out.Shares[5][1], 0.03)
}
