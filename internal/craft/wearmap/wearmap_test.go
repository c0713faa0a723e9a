package wearmap

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/region"
)

var fitted = map[string]*form.Sheet{}

func sheets(name string) (*form.Sheet, error) {
	if s, ok := fitted[name]; ok {
		return s, nil
	}
	s, err := form.Fit(name, nil)
	if err == nil {
		fitted[name] = s
	}
	return s, err
}

func outline(t testing.TB, name, side string) []form.Point {
	s, err := sheets(form.SheetFor(name, side))
	require.NoError(t, err)
	o, ok := s.Region(name, side)
	require.True(t, ok, name)
	return o
}

func on(t testing.TB, name, side string) Mark {
	return Mark{ID: name + side, Kind: "region", Sheet: form.SheetFor(name, side), Points: outline(t, name, side)}
}

// around is an area round a landmark, in mm.
func around(t testing.TB, kind, landmark string, across, up float64) Mark {
	s, err := sheets("head")
	require.NoError(t, err)
	p, ok := s.Landmark(landmark)
	require.True(t, ok, landmark)
	return Mark{ID: kind + landmark, Kind: kind, Sheet: "head", Points: s.Disc(p, across, up, 10)}
}

func work(t testing.TB, scene Scene) Result {
	r, err := Work(scene, sheets)
	require.NoError(t, err)
	return r
}

func piece(code string, marks ...Mark) Drawn { return Drawn{Code: code, Marks: marks} }

func TestNothingDrawnLeavesEverythingFree(t *testing.T) {
	r := work(t, Scene{Pieces: []Drawn{piece("BF-01")}, Free: []string{"mouth", "nose"}})
	assert.Zero(t, r.CM2)
	assert.Empty(t, r.Findings)
	assert.Equal(t, []string{"both", "both", "nose and mouth"}, []string{r.Sight, r.Hearing, r.Breath})
	require.Len(t, r.Openings, 8)
	for _, o := range r.Openings {
		assert.True(t, o.Pass, o.Name)
		assert.Equal(t, 1.0, o.Open)
	}
	mouth := r.Openings[2]
	assert.InDelta(t, 48, mouth.WideMM, 4)
	assert.True(t, mouth.Asked)
}

func TestAPieceIsMeasuredAndSaysWhereItLies(t *testing.T) {
	r := work(t, Scene{Pieces: []Drawn{piece("BF-03", on(t, "cheek", "L"))}})
	s, _ := sheets("head")
	assert.InDelta(t, s.Area(outline(t, "cheek", "L"))/100, r.CM2, 0.02)
	require.Len(t, r.Areas, 1)
	assert.Equal(t, "cheek", r.Areas[0].Shares[0].Region)
	assert.Equal(t, "L", r.Areas[0].Shares[0].Side)
	assert.Greater(t, r.Areas[0].EdgeMM, 150.0)

	holed := work(t, Scene{Pieces: []Drawn{piece("BF-03", on(t, "cheek", "L"), around(t, "hole", "cheekbone_L", 8, 8))}})
	assert.Less(t, holed.CM2, r.CM2-0.5, "a hole is no skin under the piece")
}

func TestCoveredAndMovingEdge(t *testing.T) {
	neck := on(t, "neck", "")
	collar := Mark{ID: "c", Kind: "covered", Sheet: "head", How: "costume", Points: []form.Point{{U: -99, V: 88}, {U: 0, V: 88}, {U: 99, V: 88}, {U: 99, V: 99}, {U: 0, V: 99}, {U: -99, V: 99}}}
	r := work(t, Scene{Pieces: []Drawn{piece("PK-01", neck)}, Look: []Mark{collar}})
	assert.Greater(t, r.Areas[0].CoveredCM2, 20.0)
	assert.Less(t, r.Areas[0].CoveredCM2, r.CM2/2)
	assert.Zero(t, r.Areas[0].MovingCM2)
	collar.Kind = "moving_edge"
	collar.How = "collar"
	again := work(t, Scene{Pieces: []Drawn{piece("PK-01", neck)}, Look: []Mark{collar}})
	assert.Equal(t, r.Areas[0].CoveredCM2, again.Areas[0].MovingCM2)
}

func TestOpeningsAndWhatFollows(t *testing.T) {
	nose, lip := around(t, "region", "nostril_L", 9, 9), around(t, "region", "lips", 32, 14)
	both := around(t, "region", "nose_base", 22, 12)
	for name, c := range map[string]struct {
		marks    []Mark
		free     []string
		id       string
		severity string
		breath   string
	}{
		"one nostril":                                 {[]Mark{nose}, []string{"mouth"}, "SAF-4", "warn", "nose and mouth"},
		"both nostrils, free mouth agreed":            {[]Mark{both}, []string{"mouth"}, "SAF-4", "warn", "mouth"},
		"both nostrils, nothing agreed":               {[]Mark{both}, nil, "SAF-4", "never", "mouth"},
		"mouth and a nostril":                         {[]Mark{lip, nose}, nil, "SAF-4", "never", "nose"},
		"mouth that was asked for":                    {[]Mark{lip}, []string{"mouth"}, "MAP-1", "never", "nose"},
		"both nostrils, and the nose shall stay free": {[]Mark{both}, []string{"mouth", "nose"}, "SAF-4", "never", "mouth"},
		"one nostril, and the nose shall stay free":   {[]Mark{nose}, []string{"mouth", "nose"}, "MAP-1", "stop", "nose and mouth"},
		"one nostril, by the brief's own word":        {[]Mark{nose}, []string{"mouth", "one nostril"}, "SAF-4", "warn", "nose and mouth"},
		"both, and one nostril shall stay free":       {[]Mark{both}, []string{"mouth", "one nostril"}, "SAF-4", "never", "mouth"},
		"the eye that shall stay free":                {[]Mark{around(t, "region", "pupil_R", 16, 10)}, []string{"right eye"}, "MAP-1", "never", "nose and mouth"},
		"one of two eyes that shall stay free":        {[]Mark{around(t, "region", "pupil_R", 16, 10)}, []string{"left eye", "right eye"}, "MAP-1", "stop", "nose and mouth"},
		"an eye":                                      {[]Mark{around(t, "region", "pupil_R", 16, 10)}, nil, "SAF-5", "warn", "nose and mouth"},
		"an ear":                                      {[]Mark{around(t, "region", "ear_canal_L", 12, 12)}, []string{"hearing"}, "MAP-1", "stop", "nose and mouth"},
		"into the keep-out":                           {[]Mark{around(t, "region", "pupil_R", 16, 10)}, nil, "SAF-3", "warn", "nose and mouth"},
	} {
		t.Run(name, func(t *testing.T) {
			r := work(t, Scene{Pieces: []Drawn{piece("GC-01", c.marks...)}, Free: c.free})
			i := slices.IndexFunc(r.Findings, func(f Finding) bool { return f.ID == c.id })
			require.GreaterOrEqual(t, i, 0, "%v", r.Findings)
			assert.Equal(t, c.severity, r.Findings[i].Severity)
			assert.Equal(t, c.breath, r.Breath)
		})
	}
	clear := work(t, Scene{Pieces: []Drawn{piece("GC-01", on(t, "forehead", ""))}, Free: []string{"mouth", "nose", "left eye", "right eye", "hearing"}})
	assert.Empty(t, clear.Findings)
	eye := work(t, Scene{Pieces: []Drawn{piece("GC-01", around(t, "region", "pupil_R", 16, 10))}})
	assert.Equal(t, "left", eye.Sight, "the right one is covered")
}

func TestNeighboursOverlapOrKeepAGap(t *testing.T) {
	brow, cheek := on(t, "forehead", ""), on(t, "cheek", "L")
	r := work(t, Scene{Pieces: []Drawn{piece("AL-01", brow), piece("AL-02", cheek)}})
	assert.Empty(t, r.Overlaps)
	near := work(t, Scene{Pieces: []Drawn{piece("AL-01", on(t, "chin", "")), piece("AL-02", on(t, "lip", ""))}})
	require.Len(t, near.Gaps, 1)
	assert.True(t, near.Gaps[0].Moves)
	assert.Equal(t, near.Gaps[0].MM >= movingGapMM, near.Gaps[0].Pass)
	assert.Equal(t, !near.Gaps[0].Pass, slices.ContainsFunc(near.Findings, func(f Finding) bool { return f.ID == "MAP-2" }))
	same := work(t, Scene{Pieces: []Drawn{piece("AL-01", cheek), piece("AL-02", on(t, "cheek", "L"))}})
	require.Len(t, same.Overlaps, 1)
	assert.InDelta(t, same.CM2, same.Overlaps[0].CM2, 0.02)
	assert.InDelta(t, 2*same.CM2, same.WornCM2, 0.02)
	assert.Equal(t, "SEQ-7", same.Findings[len(same.Findings)-1].ID)
}

func TestHairUnderAPiece(t *testing.T) {
	beard := around(t, "hair", "chin", 40, 20)
	beard.Text, beard.How = "the beard", "keep free"
	chin := on(t, "chin", "")
	find := func(r Result, id string) bool {
		return slices.ContainsFunc(r.Findings, func(f Finding) bool { return f.ID == id })
	}
	r := work(t, Scene{Pieces: []Drawn{piece("PK-01", chin)}, Wearer: []Mark{beard}})
	require.Len(t, r.Hair, 1)
	assert.True(t, find(r, "MAP-3"))
	beard.How = "protect"
	r = work(t, Scene{Pieces: []Drawn{piece("PK-01", chin)}, Wearer: []Mark{beard}})
	assert.True(t, find(r, "LAT-4"), "nothing protects it")
	beard.By = "petroleum jelly, surplus wiped off"
	r = work(t, Scene{Pieces: []Drawn{piece("PK-01", chin)}, Wearer: []Mark{beard}})
	assert.False(t, find(r, "LAT-4"))
	assert.Empty(t, work(t, Scene{Pieces: []Drawn{piece("PK-01", on(t, "forehead", ""))}, Wearer: []Mark{beard}}).Hair)
}

func TestEdgesAreMeasured(t *testing.T) {
	edge := Mark{ID: "e", Kind: "edge", Sheet: "belly", How: "vanish", Points: []form.Point{{U: 0, V: 20}, {U: 0, V: 80}}}
	r := work(t, Scene{Pieces: []Drawn{piece("PK-02", edge)}})
	require.Len(t, r.Edges, 1)
	assert.InEpsilon(t, 0.6*330, r.Edges[0].MM, 0.08, "up the front of the waist")
}

func TestMarksThatCannotBeAreRefused(t *testing.T) {
	good := on(t, "cheek", "L")
	assert.NoError(t, Check("piece", []Mark{good}, sheets))
	change := func(f func(*Mark)) []Mark { m := good; f(&m); return []Mark{m} }
	for name, marks := range map[string][]Mark{
		"kind":            change(func(m *Mark) { m.Kind = "blob" }),
		"another's":       change(func(m *Mark) { m.Kind = "hair" }),
		"no id":           change(func(m *Mark) { m.ID = "" }),
		"twice":           {good, good},
		"how":             change(func(m *Mark) { m.Kind = "edge"; m.How = "sing" }),
		"sheet":           change(func(m *Mark) { m.Sheet = "tail" }),
		"too few points":  change(func(m *Mark) { m.Points = m.Points[:2] }),
		"too many of all": slices.Repeat([]Mark{good}, MaxMarks+1),
	} {
		assert.Error(t, Check("piece", marks, sheets), name)
	}
}

func TestTheOtherSideWithADifference(t *testing.T) {
	m := on(t, "cheek", "L")
	s, _ := sheets("head")
	exact := MirrorOf(m, "r", 0)
	assert.InEpsilon(t, s.Area(m.Points), s.Area(exact.Points), 0.002)
	unlike := MirrorOf(m, "r", 0.1)
	assert.NotEqual(t, exact.Points, unlike.Points)
	assert.InEpsilon(t, s.Area(m.Points), s.Area(unlike.Points), 0.1, "the sides agree")
	assert.Equal(t, "hand_back_R", MirrorOf(on(t, "knuckle", "L"), "r", 0).Sheet)
	assert.NoError(t, Check("piece", []Mark{m, unlike}, sheets))
}

func twelve(b testing.TB) Scene {
	scene := Scene{Free: []string{"mouth", "nose"}}
	for _, r := range region.All {
		if form.SheetFor(r.Name, "L") == "head" && len(scene.Pieces) < 12 && r.Name != "shoulder" {
			if s, _ := sheets("head"); s != nil {
				if _, ok := s.Region(r.Name, "L"); ok {
					scene.Pieces = append(scene.Pieces, piece(r.Name, on(b, r.Name, "L")))
				}
			}
		}
	}
	return scene
}

func BenchmarkTwelvePieces(b *testing.B) {
	scene := twelve(b)
	for b.Loop() {
		if _, err := Work(scene, sheets); err != nil {
			b.Fatal(err)
		}
	}
}
