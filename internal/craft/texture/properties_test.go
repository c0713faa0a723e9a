package texture

import (
	"context"
	"math"
	"runtime"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// drawnRegion is any outline a person could draw: a wobbly round, or a tile.
func drawnRegion(t *rapid.T) Region {
	if rapid.Bool().Draw(t, "tile") {
		return Region{Preset: "tile", Params: map[string]float64{"w": rapid.Float64Range(8, 60).Draw(t, "w"), "h": rapid.Float64Range(8, 60).Draw(t, "h")}}
	}
	n := rapid.IntRange(5, 24).Draw(t, "points")
	r := Region{}
	for i := range n {
		a := 2 * math.Pi * float64(i) / float64(n)
		far := rapid.Float64Range(8, 26).Draw(t, "far")
		r.Polygon = append(r.Polygon, P{far * math.Cos(a), far * math.Sin(a)})
	}
	return r
}

func drawnLayer(t *rapid.T, kinds ...string) Layer {
	if len(kinds) == 0 {
		kinds = []string{"hatch", "scales", "pores", "cracks", "droplets", "bark", "barnacles", "rot"}
	}
	f := func(lo, hi float64, name string) float64 { return rapid.Float64Range(lo, hi).Draw(t, name) }
	l := Layer{Kind: rapid.SampledFrom(kinds).Draw(t, "kind")}
	one := f(1.5, 8, "spacing")
	switch l.Kind {
	case "hatch":
		for range rapid.IntRange(1, 3).Draw(t, "families") {
			l.Families = append(l.Families, Family{Angle: f(-90, 90, "angle"), Spacing: Span{f(1, 6, "p0"), f(1, 6, "p1")}, Jitter: f(0, 0.6, "jitter"), Wiggle: &Span{f(0, 1.5, "wiggle"), f(8, 40, "waves")}, Bow: f(-6, 6, "bow"), Depth: f(0.1, 0.8, "depth"), Width: f(0.4, 1.4, "width"), Profile: rapid.SampledFrom([]string{"round", "v"}).Draw(t, "profile")})
		}
		l.Buff = f(0, 0.5, "buff")
		if rapid.Bool().Draw(t, "again") {
			l.Rescore = &Rescore{rapid.IntRange(1, 4).Draw(t, "every"), 0.4, 0.5}
		}
	case "scales":
		l.Stamps = []Stamp{{ID: "S1", OD: f(5, 9, "od"), Squash: 0.8}, {ID: "S2", OD: f(2, 5, "od2"), Squash: 0.8, SquashB: Ptr(0.65)}}
		l.Size, l.RotJitter, l.PosJitter = &Span{f(4, 10, "first"), f(2, 5, "last")}, f(0, 30, "turn"), f(0, 0.3, "out")
		l.Ends = rapid.SampledFrom([]string{"alternate", "random"}).Draw(t, "ends")
		l.Angle, l.Dome = f(-90, 90, "angle"), f(0, 0.4, "dome")
	case "pores":
		l.Spacing, l.Diameter = &Span{one, f(1.5, 8, "s1")}, &Span{0.4, 1}
	case "droplets", "barnacles", "rot":
		l.Spacing, l.Diameter = &Span{one, one}, &Span{0.5 * one, 0.9 * one}
	case "cracks":
		l.Pitch, l.Jitter, l.Skip, l.Stretch = Ptr(f(2.5, 9, "pitch")), Ptr(f(0, 1, "jitter")), Ptr(f(0, 0.5, "skip")), Ptr(f(0.5, 3, "stretch"))
		l.Lattice = rapid.SampledFrom([]string{"hex", "square"}).Draw(t, "lattice")
	}
	if rapid.Bool().Draw(t, "thin") {
		l.Density, l.ThinOutMM = Ptr(f(0.2, 1, "density")), f(0, 8, "thin out")
	}
	return l
}

func drawnRecipe(t *rapid.T, layers ...Layer) Recipe {
	r := Recipe{Seed: rapid.Uint64Range(0, 1<<40).Draw(t, "seed"), Region: drawnRegion(t), PitchMM: Ptr(0.4), FeatherMM: rapid.Float64Range(0, 8).Draw(t, "feather"), Layers: layers}
	if layers == nil {
		for range rapid.IntRange(1, 3).Draw(t, "layers") {
			r.Layers = append(r.Layers, drawnLayer(t))
		}
	}
	return r
}

func made(t require.TestingT, r Recipe) *Sheet {
	s, err := Make(context.Background(), r)
	require.NoError(t, err)
	return s
}

// What is drawn does not hang on the number of processors, nor on when.
func TestTheSameRecipeMakesTheSameOnAnyNumberOfCores(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := drawnRecipe(t)
		before := runtime.GOMAXPROCS(1)
		one := made(t, r)
		a, err := one.Judge(context.Background())
		require.NoError(t, err)
		runtime.GOMAXPROCS(7)
		seven := made(t, r)
		b, err := seven.Judge(context.Background())
		runtime.GOMAXPROCS(before)
		require.NoError(t, err)
		require.True(t, slices.Equal(one.Field.Z, seven.Field.Z), "bit by bit")
		require.Equal(t, a, b)
	})
}

func TestReliefFadesToNothingAtItsEdge(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := drawnRecipe(t)
		r.FeatherMM = rapid.Float64Range(3, 10).Draw(t, "fade")
		f := made(t, r).Field
		deepest := 0.0
		for _, z := range f.Z {
			deepest = math.Max(deepest, math.Abs(z))
		}
		for k, in := range f.In {
			if !in {
				require.Zero(t, f.Z[k], "nothing beside the region")
				continue
			}
			// Whatever the layers come to, near the edge no more than the fade lets.
			d := float64(f.Edge[k])
			if d < f.H {
				require.LessOrEqual(t, math.Abs(f.Z[k]), 12*smooth(d/r.FeatherMM)+1e-12)
			}
		}
	})
}

func TestNoMarkLiesOutsideAndCountsAreWhatIsThere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := drawnRecipe(t)
		hole := P{rapid.Float64Range(-5, 20).Draw(t, "x"), rapid.Float64Range(-5, 20).Draw(t, "y")}
		r.Landmarks = []Landmark{{Name: "rivet", At: hole, RadiusMM: 3}}
		s := made(t, r)
		inside := func(p P) bool { return s.Flat.shape.holds(p) && apart(p, hole) > 3*math.Cos(math.Pi/48)-1e-9 }
		presses, strokes, spots, length := 0, 0, 0, 0.0
		for _, m := range s.Layers {
			for _, p := range m.Impressions {
				require.True(t, inside(p.At))
			}
			for _, p := range append(slices.Clone(m.Spots), m.Lumps...) {
				require.True(t, inside(p.At))
			}
			for _, st := range m.Strokes {
				for i := 0; i+1 < len(st.Line); i++ {
					mid := between(st.Line[i], st.Line[i+1], 0.5)
					require.True(t, s.Flat.shape.distance(mid) < 1e-6 || inside(mid), "%v", mid)
				}
				length += st.Length()
			}
			presses, strokes, spots = presses+len(m.Impressions), strokes+len(m.Strokes)+len(m.Rescored), spots+len(m.Spots)
			for _, st := range m.Rescored {
				length += st.Length()
			}
		}
		j, err := s.Judge(context.Background())
		require.NoError(t, err)
		require.Equal(t, []int{presses, strokes, spots}, []int{j.Work.Presses, j.Work.Strokes, j.Work.Spots})
		require.InDelta(t, length, j.Work.LinesMM, 1e-6*math.Max(1, length))
		rows, keys := 0, map[string]bool{}
		for _, st := range j.Work.Steps {
			require.False(t, keys[st.Key], "every step can be ticked by itself: %s", st.Key)
			keys[st.Key] = true
			if st.Row > 0 {
				rows += st.Count
			}
		}
		require.Equal(t, presses, rows, "row by row it is the same")
		sum := 0
		for _, st := range j.Work.Stamps {
			sum += st.PressA + st.PressB
		}
		require.Equal(t, presses, sum)
	})
}

func TestSpacingIsKeptAlsoOnBothSidesOfAMirror(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := drawnLayer(t, "pores", "droplets", "barnacles", "rot")
		l.Spacing[1] = l.Spacing[0]
		r := drawnRecipe(t, l)
		mirror := rapid.Bool().Draw(t, "mirror")
		if mirror {
			r.Layers[0].Mirror = &Mirror{X: rapid.Float64Range(0, 20).Draw(t, "x"), Difference: rapid.Float64Range(0, 1).Draw(t, "difference")}
		}
		m := made(t, r).Layers[0]
		if !mirror && len(m.Spots) > 1 {
			require.GreaterOrEqual(t, m.MinRatio, 1.0)
		}
		for i := range m.Spots {
			for k := range i {
				require.GreaterOrEqual(t, apart(m.Spots[i].At, m.Spots[k].At), l.Spacing[0]*(1-1e-12))
			}
		}
	})
}

// Exactly alike, the left is the likeness of the right, wherever both sides
// have room.
func TestBothSidesAlike(t *testing.T) {
	for _, l := range []Layer{
		{Kind: "pores", Spacing: &Span{3, 3}},
		{Kind: "scales", Stamps: []Stamp{{ID: "S1", OD: 6, Squash: 0.8}}, Size: &Span{6, 6}},
		{Kind: "hatch", Families: []Family{{Angle: 20, Spacing: Span{4, 4}, Depth: 0.3, Width: 0.8}}},
		{Kind: "cracks", Pitch: Ptr(6.0)},
	} {
		l.Mirror = &Mirror{X: 25}
		f := made(t, Recipe{Seed: 3, Region: Region{Preset: "tile", Params: map[string]float64{"w": 50, "h": 40}}, PitchMM: Ptr(0.5), Layers: []Layer{l}}).Field
		worst := 0.0
		for j := range f.NY {
			for i := range f.NX / 2 {
				worst = math.Max(worst, math.Abs(f.Z[j*f.NX+i]-f.Z[j*f.NX+f.NX-1-i]))
			}
		}
		assert.Less(t, worst, 0.02, l.Kind)
		l.Mirror = &Mirror{X: 25, Difference: 1}
		g := made(t, Recipe{Seed: 3, Region: Region{Preset: "tile", Params: map[string]float64{"w": 50, "h": 40}}, PitchMM: Ptr(0.5), Layers: []Layer{l}}).Field
		assert.False(t, slices.Equal(f.Z, g.Z), "a difference makes one: %s", l.Kind)
	}
}

// More buffing never makes any slope steeper than the steepest before.
func TestBuffingNeverSteepens(t *testing.T) {
	steepest := func(f *Field) float64 {
		worst := 0.0
		for j := range f.NY {
			for i := range f.NX - 1 {
				k := j*f.NX + i
				if f.In[k] && f.In[k+1] {
					worst = math.Max(worst, math.Abs(f.Z[k+1]-f.Z[k]))
				}
			}
		}
		for j := range f.NY - 1 {
			for i := range f.NX {
				k := j*f.NX + i
				if f.In[k] && f.In[k+f.NX] {
					worst = math.Max(worst, math.Abs(f.Z[k+f.NX]-f.Z[k]))
				}
			}
		}
		return worst
	}
	rapid.Check(t, func(t *rapid.T) {
		l := drawnLayer(t, "hatch")
		l.Rescore = nil
		// On a tile every pixel is in: a blur sees all that a slope sees.
		r := Recipe{Seed: 2, Region: Region{Preset: "tile", Params: map[string]float64{"w": 24, "h": 18}}, PitchMM: Ptr(0.2), Layers: []Layer{l}}
		before := math.Inf(1)
		for _, buff := range []float64{0, 0.1, 0.2, 0.35, 0.6} {
			r.Layers[0].Buff = buff
			now := steepest(made(t, r).Field)
			require.LessOrEqual(t, now, before*(1+1e-9), "buff %g", buff)
			before = now
		}
	})
}

// A layer that is on an area leaves the rest alone, and outside of it the
// other way round; together they are the whole.
func TestAreasPartALayer(t *testing.T) {
	area := Area{ID: "a", Name: "jaw", Polygon: []P{{10, 10}, {30, 12}, {28, 30}, {12, 28}}}
	l := Layer{Kind: "hatch", Families: []Family{{Angle: 30, Spacing: Span{3, 3}, Depth: 0.4, Width: 1}}}
	at := func(on []string, outside bool) *Field {
		l.On, l.Outside = on, outside
		return made(t, Recipe{Seed: 1, Region: Region{Preset: "tile", Params: map[string]float64{"w": 40, "h": 40}}, PitchMM: Ptr(0.4), Areas: []Area{area}, Layers: []Layer{l}}).Field
	}
	all, in, out := at(nil, false), at([]string{"a"}, false), at([]string{"a"}, true)
	shape := newShape([]ring{area.Polygon})
	for j := range all.NY {
		for i := range all.NX {
			k := j*all.NX + i
			if shape.holds(P{all.x(i), all.y(j)}) {
				require.Zero(t, out.Z[k])
			} else {
				require.Zero(t, in.Z[k])
			}
			if shape.distance(P{all.x(i), all.y(j)}) > 1 {
				require.InDelta(t, all.Z[k], in.Z[k]+out.Z[k], 1e-12)
			}
		}
	}
}

// Rows that follow a guide stand at their own distance from it all along.
func TestRowsFollowTheirGuide(t *testing.T) {
	r := Recipe{Seed: 1, Region: Region{Preset: "tile", Params: map[string]float64{"w": 80, "h": 50}}, PitchMM: Ptr(0.5), Guides: [][]P{{{0, 20}, {20, 28}, {40, 31}, {60, 28}, {80, 20}}},
		Layers: []Layer{{Kind: "scales", Flow: Ptr(0), Stamps: []Stamp{{ID: "S1", OD: 6, Squash: 0.8}}, Size: &Span{6, 6}, RowPitch: Ptr(1.0)}}}
	s := made(t, r)
	m, g := s.Layers[0], s.ground.guides[0]
	by := map[int][]float64{}
	for _, p := range m.Impressions {
		// Only where a straight way from the guide leads: not beyond its ends.
		if p.At[0] > 8 && p.At[0] < 72 {
			by[p.Row] = append(by[p.Row], g.distance(p.At))
		}
	}
	require.Greater(t, len(by), 5)
	for row, ds := range by {
		for _, d := range ds {
			assert.InDelta(t, ds[0], d, 0.06, "row %d", row)
		}
	}
	turns := map[bool]int{}
	for _, p := range m.Impressions {
		turns[p.Turn > 0]++
	}
	assert.Greater(t, min(turns[true], turns[false]), 20, "they turn with it, up on one side and down on the other")
}

func TestALongRenderIsStopped(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err := Make(ctx, Recipe{Region: Region{Preset: "neck"}, Layers: []Layer{{Kind: "pores"}}})
	assert.ErrorIs(t, err, context.Canceled)
	s, err := Recipe{Region: Region{Preset: "nose"}, Layers: []Layer{{Kind: "pores"}}}.Lay(context.Background())
	require.NoError(t, err)
	assert.ErrorIs(t, s.Draw(ctx), context.Canceled)
}
