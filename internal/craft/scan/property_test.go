package scan

import (
	"bytes"
	"context"
	"math"
	"math/rand/v2"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// turned moves a surface by a rotation about an axis and a shift, and deals its
// triangles in another order. Coordinates stay float64, so that nothing but the
// arithmetic differs.
func turned(r *Raw, axis Vec, angle float64, by Vec, seed uint64) *Raw {
	axis = axis.unit()
	c, s := math.Cos(angle), math.Sin(angle)
	out := &Raw{Format: r.Format, Points: make([]Vec, len(r.Points))}
	for i, p := range r.Points {
		q := p.times(c).add(axis.cross(p).times(s)).add(axis.times(axis.dot(p) * (1 - c)))
		out.Points[i] = q.add(by)
	}
	order := rand.New(rand.NewPCG(seed, 1)).Perm(r.Triangles())
	out.Faces = make([][3]int32, len(order))
	for i, k := range order {
		if r.Faces == nil {
			out.Faces[i] = [3]int32{int32(3 * k), int32(3*k + 1), int32(3*k + 2)}
		} else {
			out.Faces[i] = r.Faces[k]
		}
	}
	return out
}

func file(t *testing.T, name string) *Raw {
	t.Helper()
	raw, err := os.ReadFile("testdata/meshes/" + name)
	require.NoError(t, err)
	r, err := Read(name, bytes.NewReader(raw), int64(len(raw)), 0)
	require.NoError(t, err)
	return r
}

type motion struct {
	axis  Vec
	angle float64
	by    Vec
	seed  uint64
}

func motions() *rapid.Generator[motion] {
	return rapid.Custom(func(t *rapid.T) motion {
		c := rapid.Float64Range(-1, 1)
		axis := Vec{c.Draw(t, "x"), c.Draw(t, "y"), c.Draw(t, "z")}
		if axis.length() < 0.1 {
			axis = Vec{0, 0, 1}
		}
		far := rapid.Float64Range(-300_000, 300_000)
		return motion{axis, rapid.Float64Range(-math.Pi, math.Pi).Draw(t, "angle"), Vec{far.Draw(t, "dx"), far.Draw(t, "dy"), far.Draw(t, "dz")}, rapid.Uint64().Draw(t, "order")}
	})
}

func (m motion) of(r *Raw) *Raw { return turned(r, m.axis, m.angle, m.by, m.seed) }

// A body stands anywhere, any way round, and its triangles come in any order:
// its measures are the same.
func TestMeasuresStayWhereverItStands(t *testing.T) {
	sphere, dove := file(t, "sphere.ply"), file(t, "dovetail.obj")
	rapid.Check(t, func(t *rapid.T) {
		move := motions().Draw(t, "motion")
		for _, r := range []*Raw{sphere, dove} {
			was, m, err := Inspect(r, "")
			require.NoError(t, err)
			is, n, err := Inspect(move.of(r), "")
			require.NoError(t, err)
			assert.InEpsilon(t, was.MM3, is.MM3, 1e-7)
			assert.InEpsilon(t, was.Area, is.Area, 1e-9)
			assert.Equal(t, [3]int{was.Holes, was.Euler, was.Components}, [3]int{is.Holes, is.Euler, is.Components})
			assert.InDelta(t, m.Bend(), n.Bend(), 1e-5*math.Max(1, m.Bend()))
		}
	})
}

// Core and sculpt moved together keep the appliance between them.
func TestThicknessStaysWhereverItStands(t *testing.T) {
	core, sculpt := file(t, "cap_core.ply"), file(t, "cap_sculpt.stl")
	measure := func(core, sculpt *Raw) (*Thickness, []float64) {
		f, err := Measure(context.Background(), core.Weld(), sculpt.Weld(), Fit{Thick: 5})
		require.NoError(t, err)
		out := f.Work()
		return out, f.Profile(out, 16)
	}
	was, profile := measure(core, sculpt)
	rapid.Check(t, func(t *rapid.T) {
		move := motions().Draw(t, "motion")
		other := move
		other.seed++
		is, now := measure(move.of(core), other.of(sculpt))
		assert.InDeltaSlice(t, profile, now, 5e-3)
		assert.InEpsilon(t, was.CavityMM3, is.CavityMM3, 1e-5)
		assert.InDelta(t, was.Mean, is.Mean, 1e-4)
		assert.InDelta(t, was.P50, is.P50, 1e-3)
		assert.InEpsilon(t, was.EdgeLength, is.EdgeLength, 1e-3)
		assert.InDelta(t, was.InteriorMin, is.InteriorMin, 2e-3)
		assert.Len(t, is.Contacts, len(was.Contacts))
	})
}

// A pull turned with its body locks the same area.
func TestPullsTurnWithTheBody(t *testing.T) {
	channel := file(t, "channel.obj")
	was, err := channel.Weld().Draft(context.Background(), Vec{1, 0, 0}, "two")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		move := motions().Draw(t, "motion")
		move.by = move.by.times(1e-3)
		d := turned(&Raw{Points: []Vec{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}, move.axis, move.angle, Vec{}, 0).Points[0]
		is, err := move.of(channel).Weld().Draft(context.Background(), d, "two")
		require.NoError(t, err)
		assert.InDelta(t, was.Undercut, is.Undercut, 1e-3*was.Undercut)
	})
}

// A thinned picture keeps the spots: the value furthest from 0 near each place.
func TestAThinnedPictureKeepsTheSpot(t *testing.T) {
	m := file(t, "sphere.ply").Weld()
	layer := make([]float64, len(m.V))
	layer[17] = -4
	full := m.Show(1<<30, layer)
	require.Equal(t, len(m.V)*3, len(full.V))
	few := m.Show(300, layer)
	assert.Less(t, len(few.F), len(full.F)/2)
	assert.Contains(t, few.Layers[0], float32(-4))
	for _, i := range few.F {
		require.Less(t, int(i), len(few.V)/3)
	}
	raw := few.Encode()
	assert.Equal(t, 16+4*(len(few.V)+len(few.F)+len(few.Layers[0])), len(raw))
	back, err := Decode(raw)
	require.NoError(t, err)
	assert.Equal(t, few.F, back.F)
	assert.Equal(t, few.V, back.V)
	_, err = Decode(raw[:len(raw)-4])
	assert.Error(t, err)
}

// Two spheres of one centre differ by their radii, everywhere.
func TestChangeIsTheDistance(t *testing.T) {
	r := file(t, "sphere.ply")
	m := r.Weld()
	bigger := r.Scaled(1.04).Weld() // about its own origin
	c, err := bigger.Change(context.Background(), m)
	require.NoError(t, err)
	assert.InDelta(t, 2, c.MeanAbs, 0.02, "4 %% of 50 mm")
	assert.InDelta(t, 2, c.MeanSigned, 0.02)
	assert.Zero(t, c.Far)
	back, err := m.Change(context.Background(), bigger)
	require.NoError(t, err)
	assert.InDelta(t, -2, back.MeanSigned, 0.02)
	_, err = m.Change(context.Background(), turned(r, Vec{0, 0, 1}, 0, Vec{500, 0, 0}, 1).Weld())
	assert.Error(t, err)
}

func TestWhereToVentAndWhereItLocks(t *testing.T) {
	f, err := Measure(context.Background(), file(t, "cap_core.ply").Weld(), file(t, "cap_sculpt.stl").Weld(), Fit{})
	require.NoError(t, err)
	vents, err := f.Vents(Vec{0, 0, 1}, 15, 6)
	require.NoError(t, err)
	require.Len(t, vents, 1, "a cap has one top")
	assert.InDelta(t, 58, vents[0].Value, 0.1, "50 mm of core and 8 of appliance")
	m := file(t, "channel.obj").Weld()
	p, err := m.Draft(context.Background(), Vec{1, 0, 0}, "two")
	require.NoError(t, err)
	spots := m.Undercuts(p, 5)
	require.NotEmpty(t, spots)
	sum := 0.0
	for _, s := range spots {
		sum += s.Value
	}
	assert.InEpsilon(t, p.Undercut, sum, 1e-9)
	locked := 0
	for _, a := range m.Angles(p) {
		if a == -90 {
			locked++
		}
	}
	assert.Positive(t, locked)
}

// Thin places are told off the edge, with their area.
func TestThinPlaces(t *testing.T) {
	f, err := Measure(context.Background(), file(t, "sphere.ply").Weld(), file(t, "dimple_sculpt.ply").Weld(), Fit{Outside: "none"})
	require.NoError(t, err)
	work := f.Work()
	require.Len(t, work.Contacts, 1)
	thin := f.Thin(work.EdgeLine, 1.0, 5)
	require.NotEmpty(t, thin, "round the contact it is thin")
	for _, s := range thin {
		assert.Less(t, s.DepthMM, 1.0)
		assert.Greater(t, s.DepthMM, f.Fit.Eps)
		assert.Positive(t, s.AreaMM2)
	}
	assert.Empty(t, f.Thin(work.EdgeLine, f.Fit.Eps, 5), "nothing is thinner than what counts as none")
}

// Whatever comes in, a reader gives a surface within its limit or a refusal in
// words; it never takes more memory than the file is worth.
func FuzzRead(f *testing.F) {
	for _, name := range []string{"box.obj", "box_negative.obj", "bad_nan.stl", "octahedron.ply", "bad_header.ply", "bad_truncated_ascii.stl", "box_crlf_upper.stl", "bad_truncated.ply", "warn_trailing.stl"} {
		raw, err := os.ReadFile("testdata/meshes/" + name)
		require.NoError(f, err)
		f.Add(name, raw)
	}
	f.Fuzz(func(t *testing.T, name string, raw []byte) {
		r, err := Read(name, bytes.NewReader(raw), int64(len(raw)), 5000)
		if err != nil {
			require.NotEmpty(t, err.Error())
			return
		}
		require.Positive(t, r.Triangles())
		require.LessOrEqual(t, r.Triangles(), 5000)
		for _, p := range r.Points {
			require.True(t, p.finite())
		}
		m := r.Weld()
		if len(m.F) > 0 {
			m.Volumes(m.Topology())
		}
	})
}
