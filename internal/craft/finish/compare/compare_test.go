package compare

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/colour"
)

func points(t *rapid.T, n int) []P {
	out := make([]P, n)
	for i := range out {
		out[i] = P{rapid.Float64Range(0, 1000).Draw(t, "x"), rapid.Float64Range(0, 800).Draw(t, "y")}
	}
	return out
}

// Whatever was done to a picture is undone: turned, scaled, shifted, and for the wider
// model sheared, and there and back is where one was.
func TestRegistrationUndoesWhatWasDone(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		from := append(points(t, 4), P{0, 0}, P{1000, 0}, P{0, 800}) // never on a line
		turn, scale := rapid.Float64Range(-3, 3).Draw(t, "turn"), rapid.Float64Range(0.2, 4).Draw(t, "scale")
		m := Move{{scale * math.Cos(turn), -scale * math.Sin(turn), 40}, {scale * math.Sin(turn), scale * math.Cos(turn), -70}}
		model := Similarity
		if rapid.Bool().Draw(t, "sheared") {
			model = Affine
			m[0][1] += 0.3 * scale
		}
		to := make([]P, len(from))
		for i, p := range from {
			to[i] = m.Of(p)
		}
		r, err := Register(from, to, model, from)
		require.NoError(t, err)
		assert.InDelta(t, 0, r.RMS, 1e-6)
		assert.Nil(t, r.Suspect)
		back, ok := r.Matrix.Back()
		require.True(t, ok)
		for i, p := range r.Points {
			assert.InDelta(t, to[i][0], p[0], 1e-6)
			assert.InDelta(t, from[i][1], back.Of(p)[1], 1e-6)
		}
	})
}

func TestALandmarkSetWrongIsSuspected(t *testing.T) {
	from := []P{{0, 0}, {100, 0}, {100, 80}, {0, 80}, {50, 40}, {20, 60}}
	to := append([]P{}, from...)
	to[3] = P{12, 70}
	r, err := Register(from, to, Similarity, nil)
	require.NoError(t, err)
	require.NotNil(t, r.Suspect)
	assert.Equal(t, 3, *r.Suspect)
	assert.Equal(t, []string{"suspect_point"}, r.Warnings)
}

func TestLandmarksThatSayNothing(t *testing.T) {
	for text, c := range map[string]struct {
		from, to []P
		model    string
	}{
		"on one picture":  {[]P{{0, 0}}, nil, Similarity},
		"At least 2":      {[]P{{0, 0}}, []P{{0, 0}}, Similarity},
		"one point or":    {[]P{{3, 3}, {3, 3}}, []P{{0, 0}, {1, 1}}, Similarity},
		"one line: set":   {[]P{{0, 0}, {1, 1}, {2, 2}}, []P{{0, 0}, {1, 1}, {2, 2}}, Affine},
		"At least 3 land": {[]P{{0, 0}, {1, 0}}, []P{{0, 0}, {1, 0}}, Affine},
	} {
		_, err := Register(c.from, c.to, c.model, nil)
		assert.ErrorContains(t, err, text)
	}
	up := []P{{0, 0}, {100, 0}, {50, 90}}
	down := []P{{100, 90}, {0, 90}, {50, 0}}
	r, err := Register(up, down, Similarity, nil)
	require.NoError(t, err)
	assert.Contains(t, r.Warnings, "turned", "a picture upside down is said")
}

// A face that is even about any line differs by nothing, wherever the line runs.
func TestAnEvenFaceDiffersByNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		angle := rapid.Float64Range(0, math.Pi).Draw(t, "line")
		n := P{-math.Sin(angle), math.Cos(angle)}
		off := rapid.Float64Range(-50, 50).Draw(t, "off")
		// Landmarks off the line on one side; a line is only named by ones that differ.
		a := Asked{Grade: "full", Mode: Mirror, MMPerUnit: 1}
		along := P{math.Cos(angle), math.Sin(angle)}
		for i := range 5 {
			u := float64(i)*20 - 40
			v := rapid.Float64Range(5, 30).Draw(t, "v")
			p := P{off*n[0] + u*along[0] + v*n[0], off*n[1] + u*along[1] + v*n[1]}
			q := P{off*n[0] + u*along[0] - v*n[0], off*n[1] + u*along[1] - v*n[1]}
			a.Marks = append(a.Marks, Mark{ID: fmt.Sprint(i), A: p, B: q})
		}
		c, err := Compare(a)
		require.NoError(t, err)
		assert.InDelta(t, 0, *c.Max, 1e-7)
		assert.Equal(t, Accept, c.Verdict)
	})
}

// A laxer grade never fails more, and what fails decides the verdict.
func TestALaxerGradeNeverFailsMore(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		seam, edge := rapid.Float64Range(0, 1).Draw(t, "seam"), rapid.Float64Range(0, 5).Draw(t, "edge")
		a := Asked{SeamMM: &seam, Edge: &edge, MMPerUnit: 1, Tones: []Tone{{ID: "cheek", A: colour.Lab{L: 60, A: 10, B: 15}, B: colour.Lab{L: rapid.Float64Range(50, 70).Draw(t, "l"), A: 10, B: 15}}}}
		last := 99
		for _, g := range []string{"full", "good", "plain", "hidden"} {
			a.Grade = g
			c, err := Compare(a)
			require.NoError(t, err)
			assert.LessOrEqual(t, len(c.Fails), last)
			assert.Equal(t, c.Verdict == Accept, len(c.Fails) == 0)
			last = len(c.Fails)
		}
		assert.Zero(t, last, "hidden has no limit for these")
	})
}

func TestAnExemptMarkIsShownAndNotCounted(t *testing.T) {
	a := Asked{Grade: "full", Mode: Reference, MMPerUnit: 0.5, Marks: []Mark{{ID: "a", A: P{0, 0}, B: P{0, 0}}, {ID: "b", A: P{10, 0}, B: P{10, 0}}, {ID: "c", A: P{0, 10}, B: P{0, 10}},
		{ID: "scar", A: P{5, 5}, B: P{15, 5}, Exempt: true}}}
	c, err := Compare(a)
	require.NoError(t, err)
	assert.InDelta(t, 5, c.Diffs["scar"], 1e-9)
	assert.InDelta(t, 0, *c.Max, 1e-9)
	a.Marks = a.Marks[2:]
	_, err = Compare(a)
	assert.ErrorContains(t, err, "three landmarks that count")
	_, err = Compare(Asked{Grade: "full"})
	assert.ErrorContains(t, err, "nothing to compare")
	_, err = Compare(Asked{Grade: "fine"})
	assert.ErrorContains(t, err, "fine")
}

// How many to look at: one fewer would miss more often than allowed, by counting every
// way to choose.
func TestHowManyToLookAt(t *testing.T) {
	choose := func(n, k int) float64 {
		if k < 0 || k > n {
			return 0
		}
		out := 1.0
		for i := range k {
			out = out * float64(n-i) / float64(i+1)
		}
		return out
	}
	for _, n := range []int{1, 5, 12, 40} {
		s := Sample(n, 0.1, 0.95)
		find := func(k int) float64 { return 1 - choose(n-s.Bad, k)/choose(n, k) }
		assert.InDelta(t, find(s.Check), s.PFind, 1e-9)
		assert.GreaterOrEqual(t, s.PFind, 0.95-1e-9)
		if s.Check > 0 {
			assert.Less(t, find(s.Check-1), 0.95)
		}
	}
}
