package colour

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A lamp of a standard light's own power is that light, on whatever scale.
func TestALampIsItsLight(t *testing.T) {
	power := columns("illuminants")
	skin := UsualSkin.Reflectance()
	for k, name := range LightNames {
		s := power[name]
		for i := range s {
			s[i] *= 7.3
		}
		l, err := LampOf(s)
		require.NoError(t, err)
		want := skin.Lab(Light(k))
		got := skin.Under(l)
		assert.InDelta(t, 0, DE00(want, got), 1e-9, name)
		assert.Equal(t, want, skin.Under(Standard(Light(k))))
	}
	white := flat(1)
	odd := flat(0)
	odd[20], odd[5] = 3, 1
	l, err := LampOf(odd)
	require.NoError(t, err)
	assert.InDelta(t, 100, white.Under(l).L, 1e-9, "white is white under every lamp")
	assert.InDelta(t, 0, math.Hypot(white.Under(l).A, white.Under(l).B), 1e-9)
	for _, bad := range []Spectrum{flat(0), flat(-1), flat(math.NaN())} {
		_, err := LampOf(bad)
		assert.Error(t, err)
	}
}

// A file is read in every way that instruments write one, and says when it was brought to
// other steps.
func TestFilesOfSpectraAreRead(t *testing.T) {
	line := func(nm int) float64 { return 0.1 + float64(nm-380)/1000 } // straight, so that steps do not matter
	file := func(from, to, step int, sep, decimal string) string {
		out := []string{"nm" + sep + "one" + sep + "two"}
		for nm := from; nm <= to; nm += step {
			v := strings.ReplaceAll(fmt.Sprintf("%.4f", line(nm)), ".", decimal)
			out = append(out, fmt.Sprintf("%d%s%s%s%s", nm, sep, v, sep, v))
		}
		return strings.Join(out, "\n")
	}
	for _, c := range []struct {
		name, text string
		again      bool
	}{
		{"plain", file(380, 730, 10, ",", "."), false}, {"semicolons, commas", file(380, 730, 10, ";", ","), false},
		{"tabs, 5 nm", file(380, 730, 5, "\t", "."), true}, {"short, 20 nm", file(400, 700, 20, ",", "."), true},
		{"remarks", "# a remark\n" + file(380, 730, 10, ",", "."), false},
		{"a mark before it", "\ufeff" + file(380, 730, 10, ",", "."), false},
	} {
		got, err := ReadSeries(c.text)
		require.NoError(t, err, c.name)
		require.Len(t, got, 2, c.name)
		assert.Equal(t, "two", got[1].Name)
		assert.Equal(t, c.again, got[0].Resampled, c.name)
		for i, v := range got[0].Values {
			want := line(nm(i))
			if c.name == "short, 20 nm" {
				want = line(min(700, max(400, nm(i)))) // its ends are held
			}
			assert.InDelta(t, want, v, 1e-4, "%s at %d nm", c.name, nm(i))
		}
	}
	wide := "sample"
	row := "chip"
	for i := range Bands {
		wide += fmt.Sprintf(",%d nm", nm(i))
		row += fmt.Sprintf(",%.3f", line(nm(i)))
	}
	got, err := ReadSeries(wide + "\n" + row)
	require.NoError(t, err)
	assert.Equal(t, "chip", got[0].Name)
	assert.InDelta(t, line(500), got[0].Values[12], 1e-3)

	for name, text := range map[string]string{"empty": "", "words": "hello", "one line": "nm,x\n400,1",
		"uneven": "nm,x\n380,1\n390,1\n405,1\n730,1", "too short": file(420, 700, 10, ",", "."),
		"too coarse": "nm,x\n380,1\n480,1\n580,1\n680,1\n780,1", "a gap": strings.Replace(file(380, 730, 10, ",", "."), "500,",
			"500,?", 1), "a column short": strings.Replace(file(380, 730, 10, ",", "."), "\n500,0.2200", "\n500", 1),
		"not a number": "nm,x\n380,NaN\n730,1"} {
		_, err := ReadSeries(text)
		assert.Error(t, err, name)
	}
}

func FuzzReadSeries(f *testing.F) {
	f.Add("nm,a\n380,1\n390,2\n")
	f.Add("nm;a\n400;0,1\n700;0,2\n")
	f.Fuzz(func(t *testing.T, text string) {
		got, err := ReadSeries(text)
		if err != nil {
			return
		}
		for _, s := range got {
			for _, v := range s.Values {
				if math.IsNaN(v) || math.IsInf(v, 0) {
					t.Fatalf("%q gives %g", text, v)
				}
			}
		}
	})
}

// Each recipe is best at one thing that no other is best at; where all are alike nobody is.
func TestWhatRecipesAreBestAt(t *testing.T) {
	one := func(n int, d ...float64) Alternative {
		a := Alternative{}
		for i := range n {
			a.Recipe = append(a.Recipe, Dose{fmt.Sprint(i), 1})
		}
		copy(a.DE00[:], d)
		a.Load = float64(n)
		return a
	}
	list := []Alternative{one(4, 0, 2, 1, 1), one(2, 0.9, 1.4, 1.2, 1.3), one(3, 0.4, 0.3, 2, 1.2), one(3, 0.5, 1, 0.2, 1.6)}
	got := BestAt(list, func(string) bool { return false })
	assert.Equal(t, []Merit{{"daylight", 1}, {"fewest", 1}, {"lamp", 1}, {"led", 1}}, got)
	seen := map[string]bool{}
	for _, m := range got {
		assert.False(t, seen[m.At])
		seen[m.At] = true
	}
	alike := BestAt([]Alternative{one(2, 1, 1, 1, 1), one(2, 1, 1, 1, 1)}, func(string) bool { return false })
	for _, m := range alike {
		assert.NotEqual(t, "no_fibre", m.At)
	}
	assert.Empty(t, BestAt(nil, nil))
}

// What is let down to the least that can be weighed well enough costs no more than asked.
func TestTheLeastThatCanBeWeighed(t *testing.T) {
	skin, err := UsualSkin.AtITA(48)
	require.NoError(t, err)
	target := skin.Reflectance()
	base, err := BaseOf("silicone")
	require.NoError(t, err)
	q := Asked{Target: target, Backing: target, Base: base, X: 3, Pigments: All(), Most: 4, BatchG: 500, ResolutionG: 0.01,
		OpacityMin: 0.7, OpacityMax: 1, Metamerism: 0.25}
	m, err := q.Match(t.Context())
	require.NoError(t, err)
	for _, a := range m.Alternatives {
		g, err := q.LeastWeighable(a.Recipe, 0.3)
		require.NoError(t, err)
		q.BatchG = g
		w, err := q.Weighed(a.Recipe)
		require.NoError(t, err)
		if g < 1000 {
			assert.LessOrEqual(t, w.RoundingCost, 0.3+1e-9)
		}
		q.BatchG = 500
	}
	_, err = q.LeastWeighable([]Dose{{"XX", 1}}, 0.3)
	assert.Error(t, err)
}

// A shop's own pigment that is the library's under another name gives the same answer.
func TestOwnPigmentsAreReckonedLikeTheLibrarys(t *testing.T) {
	own := Palette{}
	for _, p := range All() {
		one := *p
		one.ID = "own-" + p.ID
		own = append(own, &one)
	}
	base, err := BaseOf("gelatin")
	require.NoError(t, err)
	a, err := base.Mixed([]Dose{{"YO", 0.3}, {"RO", 0.1}}, 0.2)
	require.NoError(t, err)
	b, err := base.MixedOf(own, []Dose{{"own-YO", 0.3}, {"own-RO", 0.1}}, 0.2)
	require.NoError(t, err)
	assert.Equal(t, a, b)
	_, err = base.MixedOf(own, []Dose{{"YO", 0.3}}, 0)
	assert.Error(t, err, "what the shop does not have is not taken from the library")
	_, err = base.MixedOf(Palette{}, []Dose{{"YO", 0.3}}, 0)
	assert.Error(t, err)
}

// Paper under daylight is white to a camera that is balanced for it; under tungsten it is
// warm, and under no lamp is a channel brighter than 1.
func TestWhatALampTintsPaper(t *testing.T) {
	day := Standard(D65).Tint()
	for c := range 3 {
		assert.InDelta(t, 1, day[c], 0.01)
	}
	for k := range 4 {
		tint := Standard(Light(k)).Tint()
		assert.InDelta(t, 1, max(tint[0], tint[1], tint[2]), 1e-12)
	}
	warm := Standard(A).Tint()
	assert.Greater(t, warm[0], warm[1])
	assert.Greater(t, warm[1], warm[2])
}
