package form

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/region"
)

// The second method for areas: a mesh of the form that is twice as fine
// as the net, each of its triangles cut with the outline, and the cut parts
// measured in space.
func meshArea(s *Sheet, points []Point, fine int) float64 {
	outline := Curve(points, true)
	var turn float64
	for i, p := range outline {
		q := outline[(i+1)%len(outline)]
		turn += p.U*q.V - q.U*p.V
	}
	if turn < 0 { // cut parts count with the sign of their turn
		slices.Reverse(outline)
	}
	lou, hiu, lov, hiv := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	for _, p := range outline {
		lou, hiu, lov, hiv = math.Min(lou, p.U), math.Max(hiu, p.U), math.Min(lov, p.V), math.Max(hiv, p.V)
	}
	if !s.wraps {
		lou, hiu = math.Max(lou, s.u0), math.Min(hiu, s.u1)
	}
	lov, hiv = math.Max(lov, s.v0), math.Min(hiv, s.v1)
	du, dv := (s.u1-s.u0)/float64(s.nu-1)/float64(fine), (s.v1-s.v0)/float64(s.nv-1)/float64(fine)
	var sum float64
	for i := math.Floor(lou / du); i*du < hiu; i++ {
		for j := math.Floor((lov - s.v0) / dv); s.v0+j*dv < hiv; j++ {
			a := Point{i * du, math.Max(s.v0, s.v0+j*dv)}
			b := Point{a.U + du, math.Min(s.v1, a.V+dv)}
			if s.skin != nil && !s.isSkin((a.U+b.U)/2, (a.V+b.V)/2) {
				continue
			}
			for _, t := range [2][3]Point{{a, {b.U, a.V}, {a.U, b.V}}, {{b.U, a.V}, b, {a.U, b.V}}} {
				var cut []Point
				switch touched, in := near(outline, t), within(outline, t[0]); {
				case touched:
					cut = clip(outline, t)
				case in:
					cut = t[:]
				}
				for k := 2; k < len(cut); k++ {
					sum += s.At(cut[0]).sub(s.At(cut[k-1])).cross(s.At(cut[k]).sub(s.At(cut[k-1]))).length() / 2 * sign(cut[0], cut[k-1], cut[k])
				}
			}
		}
	}
	return math.Abs(sum)
}

// near tells whether the outline may pass through a triangle.
func near(outline []Point, t [3]Point) bool {
	lou, hiu := math.Min(t[0].U, math.Min(t[1].U, t[2].U)), math.Max(t[0].U, math.Max(t[1].U, t[2].U))
	lov, hiv := math.Min(t[0].V, math.Min(t[1].V, t[2].V)), math.Max(t[0].V, math.Max(t[1].V, t[2].V))
	for i, p := range outline {
		q := outline[(i+1)%len(outline)]
		if math.Max(p.U, q.U) >= lou && math.Min(p.U, q.U) <= hiu && math.Max(p.V, q.V) >= lov && math.Min(p.V, q.V) <= hiv {
			return true
		}
	}
	return false
}

func sign(a, b, c Point) float64 {
	if (b.U-a.U)*(c.V-a.V)-(b.V-a.V)*(c.U-a.U) < 0 {
		return -1
	}
	return 1
}

// clip cuts a polygon with a triangle (Sutherland and Hodgman); what is outside
// the triangle's box is left out first, for speed.
func clip(outline []Point, t [3]Point) []Point {
	out := outline
	for i := range 3 {
		a, b := t[i], t[(i+1)%3]
		inside := func(p Point) bool { return (b.U-a.U)*(p.V-a.V)-(b.V-a.V)*(p.U-a.U) >= 0 }
		var next []Point
		for k, p := range out {
			q := out[(k+1)%len(out)]
			if inside(p) {
				next = append(next, p)
			}
			if inside(p) != inside(q) {
				x := (b.U-a.U)*(p.V-a.V) - (b.V-a.V)*(p.U-a.U)
				y := (b.U-a.U)*(q.V-a.V) - (b.V-a.V)*(q.U-a.U)
				next = append(next, Point{p.U + (q.U-p.U)*x/(x-y), p.V + (q.V-p.V)*x/(x-y)})
			}
		}
		out = next
	}
	return out
}

func someMeasures(t *rapid.T, part string) map[string]float64 {
	given := map[string]float64{}
	size := rapid.Float64Range(0.88, 1.12).Draw(t, "size")
	for _, m := range Measures() {
		if m.Part == part && rapid.Bool().Draw(t, m.Name+" known") {
			given[m.Name] = m.Usual * size * rapid.Float64Range(0.96, 1.04).Draw(t, m.Name)
		}
	}
	return given
}

func TestMeasurementsAreReproduced(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sheet := rapid.SampledFrom([]string{"head", "hand_back_L", "palm_R", "forearm_L", "belly"}).Draw(t, "sheet")
		given := someMeasures(t, PartOf(sheet))
		s, err := Fit(sheet, given)
		require.NoError(t, err)
		for name, want := range given {
			assert.InDelta(t, want, taken(s, name), 1, name)
		}
	})
}

// taken takes a measurement on the fitted surface itself, by another way than
// the fit: lengths from the net's own points, girths by cutting the net with a
// level plane.
func taken(s *Sheet, name string) float64 {
	at := func(n string) Vec { p, _ := s.Landmark(n); return s.At(p) }
	switch name {
	case "head_girth":
		return cutGirth(s, headRings()["head"][0])
	case "neck_girth":
		return cutGirth(s, headRings()["neck"][0])
	case "forearm_girth":
		return cutGirth(s, Point{0, 15})
	case "wrist_girth":
		return cutGirth(s, Point{0, 97})
	case "waist_girth":
		return cutGirth(s, Point{0, 55})
	case "head_height":
		return highest(s) - at("chin").Y
	case "neck_height":
		return at("chin").Y - at("collar").Y
	case "belly_height":
		return at("ribs").Y - at("hip").Y
	}
	ends := map[string][2]string{"head_breadth": {"side_L", "side_R"}, "face_height": {"nose_root", "chin"}, "face_breadth": {"cheekbone_L", "cheekbone_R"}, "jaw_breadth": {"jaw_L", "jaw_R"},
		"eye_distance": {"pupil_L", "pupil_R"}, "nose_height": {"nose_root", "nose_base"}, "nose_breadth": {"wing_L", "wing_R"}, "nose_depth": {"nose_base", "nose_tip"}, "mouth_breadth": {"mouth_L", "mouth_R"},
		"ear_height": {"ear_top_R", "ear_lobe_R"}, "hand_length": {"wrist", "tip_middle"}, "hand_breadth": {"knuckle_little", "knuckle_index"}, "middle_finger": {"knuckle_middle", "tip_middle"}, "forearm_length": {"elbow", "wrist"}}[name]
	return at(ends[0]).Distance(at(ends[1]))
}

func highest(s *Sheet) float64 {
	top := math.Inf(-1)
	for _, p := range s.p {
		top = math.Max(top, p.Y)
	}
	return top
}

func cutGirth(s *Sheet, through Point) float64 {
	level := s.At(through).Y
	var cut [][2]float64
	for j := range s.nv - 1 {
		for i := range s.nu {
			a, b := s.p[j*s.nu+i], s.p[(j+1)*s.nu+i]
			if (a.Y > level) != (b.Y > level) {
				p := a.lerp(b, (level-a.Y)/(b.Y-a.Y))
				cut = append(cut, [2]float64{p.X, p.Z})
			}
		}
	}
	return hullLength(cut)
}

func TestAreaIsThatOfTheFineMesh(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		sheet := rapid.SampledFrom([]string{"head", "head", "head", "hand_back_R", "palm_L", "forearm_R", "belly"}).Draw(t, "sheet")
		s, err := Fit(sheet, someMeasures(t, PartOf(sheet)))
		require.NoError(t, err)
		// A star round some place: a few drawn points, as a hand would set them.
		var middle Point
		if s.skin != nil {
			middle = Point{rapid.Float64Range(-12, 12).Draw(t, "u"), rapid.Float64Range(50, 80).Draw(t, "v")}
		} else {
			middle = Point{rapid.Float64Range(-120, 120).Draw(t, "u"), rapid.Float64Range(15, 90).Draw(t, "v")}
		}
		n := rapid.IntRange(4, 9).Draw(t, "points")
		var outline []Point
		for i := range n {
			r := rapid.Float64Range(4, 11).Draw(t, "reach")
			sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(n))
			outline = append(outline, Point{middle.U + r*cos, middle.V + r*sin})
		}
		want := meshArea(s, outline, 2)
		assert.InEpsilon(t, want, s.Area(outline), 0.01)
	})
}

func TestEveryRegionHasAHumanArea(t *testing.T) {
	for _, r := range region.All {
		sheet := SheetFor(r.Name, "L")
		s, err := Fit(sheet, nil)
		require.NoError(t, err)
		outline, ok := s.Region(r.Name, "L")
		if !ok {
			continue
		}
		require.NoError(t, s.CheckPoints(outline, true, r.Name))
		area := s.Area(outline)
		assert.InEpsilon(t, meshArea(s, outline, 2), area, 0.01, r.Name)
		assert.Greater(t, area/100, r.AreaCM2*0.45*map[bool]float64{true: 0.5, false: 1}[r.Name == "finger"], r.Name) // a sheet shows one side of a finger
		assert.Less(t, area/100, r.AreaCM2*1.8, r.Name)
	}
}

func TestAreaOnShapesThatAreKnown(t *testing.T) {
	s, err := Fit("belly", nil)
	require.NoError(t, err)
	// Make the waist a plain cylinder of 100 mm radius: a rectangle on it is
	// developable.
	for i := range s.p {
		az, y := math.Pi*s.uAt(i%s.nu)/100, s.p[i].Y
		s.p[i] = Vec{100 * math.Sin(az), y, 100 * math.Cos(az)}
	}
	s.da = s.weights()
	disc := s.Disc(Point{10, 50}, 30, 30, 16)
	assert.InEpsilon(t, math.Pi*900, s.Area(disc), 0.005, "a disc of 30 mm, bent round a cylinder")
	assert.InEpsilon(t, 2*math.Pi*30, s.Length(disc, true), 0.005)
	over := s.Disc(Point{99, 50}, 30, 30, 16)
	assert.InEpsilon(t, math.Pi*900, s.Area(over), 0.005, "over the seam of the map")
	half := s.AreaOf(Follow(disc), func(p Point) bool { return p.U > 10 })
	assert.InEpsilon(t, math.Pi*450, half, 0.01)
	assert.InDelta(t, 40, s.Gap(Follow(disc), Follow(s.Disc(Point{10, 50 + 100.0/330*100}, 30, 30, 16))), 0.5)
}

func TestAThickNeckMakesNoLargerFace(t *testing.T) {
	usual, err := Fit("head", nil)
	require.NoError(t, err)
	thick, err := Fit("head", map[string]float64{"neck_girth": 420})
	require.NoError(t, err)
	large, err := Fit("head", map[string]float64{"head_girth": 590})
	require.NoError(t, err)
	nose, _ := usual.Region("nose", "")
	assert.InEpsilon(t, usual.Area(nose), thick.Area(nose), 0.001)
	assert.Greater(t, large.Area(nose), 1.1*usual.Area(nose), "the face follows the head")
}

func TestImpossibleMeasurementsAreRefused(t *testing.T) {
	for field, given := range map[string]map[string]float64{
		"head_girth":   {"head_girth": 5400},
		"nose_height":  {"nose_height": math.NaN()},
		"head_breadth": {"head_breadth": 40},
	} {
		_, err := Fit("head", given)
		var no *refusal.Error
		require.ErrorAs(t, err, &no)
		assert.Equal(t, field, no.Field)
	}
	_, err := Fit("tail", nil)
	assert.Error(t, err)
	_, err = Fit("head", map[string]float64{"face_height": 170, "nose_height": 30, "head_height": 150})
	assert.Error(t, err, "a face that is higher than its head")
}

func TestOutlinesThatAreNoneAreRefused(t *testing.T) {
	s, err := Fit("head", nil)
	require.NoError(t, err)
	for name, points := range map[string][]Point{
		"two points":     {{0, 40}, {5, 45}},
		"off the map":    {{0, 40}, {5, 45}, {900, 50}},
		"no number":      {{0, 40}, {math.NaN(), 45}, {2, 50}},
		"crosses itself": {{0, 40}, {10, 50}, {10, 40}, {0, 50}},
	} {
		assert.Error(t, s.CheckPoints(points, true, "points"), name)
	}
	assert.NoError(t, s.CheckPoints([]Point{{0, 40}, {10, 41}, {8, 50}}, true, "points"))
	assert.NoError(t, s.CheckPoints([]Point{{0, 40}, {10, 41}}, false, "points"))
}

func TestLandmarksStandWhereTheFeatureIs(t *testing.T) {
	s, err := Fit("head", nil)
	require.NoError(t, err)
	for name, want := range map[string]string{"pupil_L": "eye_hollow", "nose_tip": "nose", "chin": "chin", "lips": "lip", "ear_R": "ear", "crown": "scalp", "larynx": "neck"} {
		p, ok := s.Landmark(name)
		require.True(t, ok, name)
		got, side := s.RegionAt(p)
		assert.Equal(t, want, got, name)
		if name[len(name)-2:] == "_R" {
			assert.Equal(t, "R", side)
		}
	}
	left, _ := s.Landmark("pupil_L")
	assert.Positive(t, s.At(left).X, "the wearer's left is +X")
}

func TestAPupilKeepsItsPlaceOnTheMap(t *testing.T) {
	wide, err := Fit("head", map[string]float64{"eye_distance": 70})
	require.NoError(t, err)
	usual, err := Fit("head", nil)
	require.NoError(t, err)
	a, _ := wide.Landmark("pupil_L")
	b, _ := usual.Landmark("pupil_L")
	assert.Equal(t, a, b)
	assert.InDelta(t, 35, wide.At(a).X, 0.5)
}

func TestWhatIsDrawnFromARegionChangesNoRegion(t *testing.T) {
	for _, name := range []string{"head", "belly", "hand_back_L"} {
		s, err := Fit(name, nil)
		require.NoError(t, err)
		region := map[string]string{"head": "forehead", "belly": "belly", "hand_back_L": "hand_back"}[name]
		before, _ := s.Region(region, "L")
		before[0].V += 30
		after, _ := s.Region(region, "L")
		assert.NotEqual(t, before[0], after[0])
	}
}

func TestHandsMirrorEachOther(t *testing.T) {
	left, err := Fit("hand_back_L", nil)
	require.NoError(t, err)
	right, err := Fit("hand_back_R", nil)
	require.NoError(t, err)
	thumb, _ := left.Landmark("tip_thumb")
	assert.Positive(t, thumb.U, "on the back of a left hand the thumb is to the right")
	other, _ := right.Landmark("tip_thumb")
	assert.InDelta(t, -thumb.U, other.U, 1e-9)
	a, _ := left.Region("hand_back", "L")
	b, _ := right.Region("hand_back", "R")
	assert.InEpsilon(t, left.Area(a), right.Area(b), 1e-3)
}

func TestTheViewIsTheForm(t *testing.T) {
	s, err := Fit("head", nil)
	require.NoError(t, err)
	front := s.View(0, 0)
	assert.InDelta(t, 220, front.Height, 130)
	assert.NotEmpty(t, front.Contours)
	assert.NotEmpty(t, front.Heavy)
	assert.Equal(t, front, s.View(0, 0), "drawn alike every time")
	// Face to face, the wearer's left is on the right; from their left side
	// the nose points to the left.
	p, _ := s.Landmark("pupil_L")
	x, _, _ := Look(0, 0).See(s.At(p))
	assert.Positive(t, x)
	nose, _ := s.Landmark("nose_tip")
	x, y, near := Look(90, 0).See(s.At(nose))
	assert.Negative(t, x)
	_, top, _ := Look(90, 0).See(s.At(Point{0, 0}))
	assert.Less(t, top, y, "the crown is up")
	_, _, chest := Look(0, 0).See(s.At(nose))
	assert.Greater(t, chest, near)
}

func BenchmarkFitHead(b *testing.B) {
	_, _ = Fit("head", nil)
	given := map[string]float64{"head_girth": 560, "face_breadth": 138, "nose_height": 53, "eye_distance": 66, "mouth_breadth": 52, "face_height": 120}
	for b.Loop() {
		if _, err := Fit("head", given); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkViewHead(b *testing.B) {
	s, _ := Fit("head", nil)
	for b.Loop() {
		s.View(30, 0)
	}
}

func BenchmarkAreaOfACheek(b *testing.B) {
	s, _ := Fit("head", nil)
	outline, _ := s.Region("cheek", "L")
	for b.Loop() {
		s.Area(outline)
	}
}

func TestWhatTurnsAwayIsHeldAtTheRim(t *testing.T) {
	s, err := Fit("head", nil)
	require.NoError(t, err)
	cheek, _ := s.Region("cheek", "L")
	front := s.Sight(0, 0)
	line, seen := front.See(Curve(cheek, true))
	require.True(t, seen)
	for i, p := range Curve(cheek, true) {
		x, y, _ := Look(0, 0).See(s.At(p))
		if math.Abs(p.U) < 35 {
			assert.InDelta(t, x, line[i][0], 0.5)
			assert.InDelta(t, y, line[i][1], 0.5)
		}
		assert.Less(t, math.Abs(line[i][0]), 90.0)
	}
	lip, _ := s.Region("lip", "")
	_, seen = s.Sight(180, 0).See(Curve(lip, true))
	assert.False(t, seen, "from behind there is no mouth")
	_, seen = s.Sight(-90, 0).See(Curve(cheek, true))
	assert.False(t, seen, "nor from the wearer's right")
	_, seen = s.Sight(90, 0).See(Curve(cheek, true))
	assert.True(t, seen)
}
