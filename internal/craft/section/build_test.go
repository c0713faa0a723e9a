package section

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/refusal"
)

var here = Room{21, 0.5}

func TestZonesTakeTheCoatsTheySay(t *testing.T) {
	lib := shelf(t)
	c := Cut{HalfWidthMM: 30, AreaCM2: 28, Zones: []Zone{{"bridge", 10}, {"slope", 25}, {"rim", 30}}}
	l := Layer{ID: "l", Kind: Latex, Material: "latex-balloon", Coats: 1, CoatMM: 0.2, ZoneCoats: []int{5, 3, 1}}
	centre, edge := l.Thickness(c, lib)
	one := l.CoatBuiltMM(lib)
	assert.InDelta(t, 5*one, centre, 1e-12)
	assert.InDelta(t, one, edge, 1e-12)
	// By hand: rings of 10, 25 and 30 mm of a 30 mm round patch.
	want := (5*100.0 + 3*(625-100) + 1*(900-625)) / 900
	assert.InDelta(t, want, l.cover(c), 1e-12)
	assert.Equal(t, 5, l.MostCoats())
	same := Layer{ID: "l", Kind: Latex, Material: "latex-balloon", Coats: 3, CoatMM: 0.2}
	zoned := same
	zoned.ZoneCoats = []int{3, 3, 3}
	assert.InDelta(t, same.mass(c, lib, 0), zoned.mass(c, lib, 0), 1e-12, "the same everywhere is the same")
}

// The mean of every layer against a sum over ten thousand thin rings.
func TestTheMeanIsTheIntegralOverThePatch(t *testing.T) {
	lib := shelf(t)
	rapid.Check(t, func(t *rapid.T) {
		w := rapid.Float64Range(5, 200).Draw(t, "half width")
		c := Cut{HalfWidthMM: w, AreaCM2: math.Pi * w * w / 100}
		l := Layer{ID: "x", Kind: Silicone, Material: "silicone-gel", CentreMM: rapid.Float64Range(0.1, 40).Draw(t, "centre"), EdgeMM: rapid.Float64Range(0, 3).Draw(t, "edge")}
		if rapid.Bool().Draw(t, "film") {
			l = Layer{ID: "x", Kind: Encapsulator, Material: "encapsulator-acetone", Coats: rapid.IntRange(1, 9).Draw(t, "coats"), CoatMM: 0.02}
		}
		switch rapid.IntRange(0, 2).Draw(t, "extent") {
		case 1:
			l.Extent, l.StopMM = CentreOnly, rapid.Float64Range(0.2*w, w).Draw(t, "stop")
		case 2:
			l.Extent, l.StopMM = PastEdge, rapid.Float64Range(0, 40).Draw(t, "past")
		}
		l.FromMM = rapid.Float64Range(0, 0.5*math.Min(w, l.end(c))).Draw(t, "from")
		const n = 10000
		sum, end := 0.0, l.end(c)
		for i := range n {
			x := (float64(i) + 0.5) * end / n
			if x < l.FromMM {
				continue
			}
			thick := 0.02 * float64(l.Coats)
			if l.Kind == Silicone {
				thick = l.at(c, math.Min(x, w))
			}
			sum += thick * 2 * x / (w * w) * end / n
		}
		assert.InEpsilon(t, sum, l.mean(c, lib), 2e-3)
	})
}

func TestThingsAndHairWeigh(t *testing.T) {
	lib := shelf(t)
	s := Start(100)
	s.Layers = append(s.Layers, Layer{ID: "rivets", Kind: Insert, Material: "found-metal", Count: 2, EachG: 6.5, CentreMM: 4},
		Layer{ID: "beads", Kind: Weight, Material: "filling-beads", Count: 4, EachG: 250},
		Layer{ID: "hair", Kind: Hair, Material: "hair-punched", Method: "punched", HairsCM2: 50, LengthMM: 80, Side: "L"})
	require.NoError(t, s.Check(lib))
	r := s.Work(lib, here)
	assert.InDelta(t, 13, r.Of("rivets").MassG, 1e-9)
	assert.InDelta(t, 1000, r.Of("beads").MassG, 1e-9)
	// 50 hairs a cm² on half of 100 cm², 80 mm of hair 0.07 mm across: a
	// cylinder of keratin, 1.31 g/cm³, weighs 5.04 µg a mm.
	assert.InEpsilon(t, 50*50*80*math.Pi/4*0.07*0.07*1.31e-3, r.Of("hair").MassG, 0.01)
	assert.InDelta(t, 2500.0/220*3600+120, r.Of("hair").HandsS, 1)
	assert.Contains(t, strings.Join(r.Words, " "), "on the wearer's left only")
}

func TestTwoCutsAddUp(t *testing.T) {
	lib := shelf(t)
	one, two := cheek(), cheek()
	two.AreaCM2 = 20
	second := Cut{ID: "brow", Name: "brow", HalfWidthMM: 48, AreaCM2: 14}
	for _, l := range cheek().Layers {
		l.ID += "2"
		second.Layers = append(second.Layers, l)
	}
	two.More = []Cut{second}
	require.NoError(t, two.Check(lib))
	a, b := one.Work(lib, here), two.Work(lib, here)
	assert.InDelta(t, a.WornG, b.WornG, 1e-9, "20 and 14 cm² of the same are 34")
	assert.InDelta(t, a.HandsS, b.HandsS, 0.3*a.HandsS, "the same steps, made together")
	assert.InDelta(t, a.WaitingS, b.WaitingS, 1e-6, "one mix, one wait")
	assert.Len(t, b.Steps, len(a.Steps))
	assert.Len(t, b.Cuts, 2)
	assert.InDelta(t, a.Minor, b.Minor, 10)
}

func acts(steps []Step) []string {
	var out []string
	for _, s := range steps {
		out = append(out, s.Act)
	}
	return out
}

func TestCastPiecesAreBuiltFromTheOutsideIn(t *testing.T) {
	r := cheek().Work(shelf(t), here)
	assert.Equal(t, []string{"release", "film", "body", "film", "demould", "trim", "barrier", "adhesive", "place", "edge", "colour on the face", "powder"}, acts(r.Steps))
	assert.Equal(t, []string{"e2"}, r.Steps[1].Layers, "the outer film goes in first")
	assert.Contains(t, r.Steps[3].Swap, "tears")
	assert.Contains(t, r.Steps[6].Swap, "bare skin")
	sum := 0.0
	for _, s := range r.Steps {
		sum += s.WaitS
		assert.NotEmpty(t, s.Text)
	}
	assert.InDelta(t, r.WaitingS, sum, 1e-9)
	assert.Equal(t, InMould, r.MadeOn)
}

func TestColourMeantToShowGoesUnderTheStipple(t *testing.T) {
	s := Start(90)
	s.Layers = append(s.Layers, barrier(), Layer{ID: "under", Kind: Paint, Material: "paint-alcohol", Coats: 1, CoatMM: 0.006, ShowsThrough: true},
		Layer{ID: "stipple", Kind: Latex, Material: "latex-balloon", Method: "stippled", Coats: 2, CoatMM: 0.1, Stretched: true}, powder())
	r := s.Work(shelf(t), here)
	assert.Equal(t, []string{"barrier", "colour under", "stretch-stipple", "powder"}, acts(r.Steps))
	assert.Equal(t, OnSkin, r.MadeOn)
}

// What is drawn below comes first: on skin from the glue up, on a piece from
// its body up, also where a rule would have it otherwise.
func TestTheOrderOfWorkIsTheOrderOfTheDrawing(t *testing.T) {
	lib := shelf(t)
	burn, _ := House("mixed_build", 14, 3, lib)
	assert.Equal(t, []string{"barrier", "adhesive", "wax", "stipple", "stipple", "powder", "colour on the face", "powder"}, acts(burn.Work(lib, here).Steps))
	slush, _ := House("latex_slush", 30, 1, lib)
	assert.Equal(t, []string{"body", "demould", "trim", "barrier", "adhesive", "place", "edge", "powder", "colour on the face", "powder"}, acts(slush.Work(lib, here).Steps), "no release for latex in plaster")
	s := cheek()
	s.Layers = append(s.Layers[:6], Layer{ID: "h", Kind: Hair, Material: "hair-crepe", HairsCM2: 30, LengthMM: 20}, s.Layers[6])
	got := acts(s.Work(lib, here).Steps)
	assert.Equal(t, []string{"hair on the face", "colour on the face"}, got[len(got)-2:], "SEQ-8 speaks; the list hides nothing")
	direct := Start(20)
	direct.Made.On = OnSkin
	direct.Layers = append(direct.Layers, Layer{ID: "w", Kind: Weight, Material: "filling-beads", Count: 1, EachG: 20})
	assert.Equal(t, []string{"weight"}, acts(direct.Work(lib, here).Steps), "nothing is peeled off a form that is not there")
}

func TestBothSchoolsOfFitting(t *testing.T) {
	s := cheek()
	r := s.Work(shelf(t), here)
	require.Len(t, r.Fits, 1)
	f := r.Fits[0]
	assert.Equal(t, "Ester oil remover", f.Remover)
	require.Len(t, f.Schools, 2)
	assert.True(t, f.Schools[0].Chosen && f.Schools[0].State == "clear")
	// The handbook's film-acrylic: clear after 236 s, grips to 2036 s.
	assert.InDelta(t, 236, f.Schools[0].ReadyS, 2)
	assert.InDelta(t, 2036, f.Schools[0].ClosesS, 2)
	assert.Zero(t, f.Schools[1].ReadyS, "laid wet it goes on at once")
	s.Layers[2].Fit = "wet"
	wet := s.Work(shelf(t), here)
	assert.True(t, wet.Fits[0].Schools[1].Chosen)
	assert.Contains(t, wet.Steps[7].Text, "laid wet", "the order of work says the school that was chosen")
	assert.Contains(t, r.Steps[7].Text, "gone clear")
}

func TestEveryHouseMethodStandsOnItsOwn(t *testing.T) {
	lib := shelf(t)
	assert.GreaterOrEqual(t, len(Methods), 14)
	for _, m := range Methods {
		for _, h := range []float64{0.5, 4, 30} {
			s, ok := House(m.Slug, 40, h, lib)
			require.True(t, ok)
			require.NoError(t, s.Check(lib), "%s at %g mm", m.Slug, h)
			r := s.Work(lib, here)
			assert.Equal(t, m.on, r.MadeOn, m.Slug)
			assert.Positive(t, r.HandsS, m.Slug)
			assert.Positive(t, r.WornG, m.Slug)
			if h == 4 {
				assert.Positive(t, r.Minor, m.Slug)
			}
		}
	}
	_, ok := House("papier", 40, 4, lib)
	assert.False(t, ok)
}

// Thick cotton needs fewer layers than tissue for the same height: materials.md
// gives 0.6-1.0 and 0.10-0.20 mm a layer.
func TestCottonNeedsFewerLayersThanTissue(t *testing.T) {
	lib := shelf(t)
	tissue, _ := House("build_up_tissue", 40, 3, lib)
	cotton, _ := House("build_up_cotton", 40, 3, lib)
	count := func(s Section) int { return s.Layers[2].Coats }
	assert.Greater(t, count(tissue), count(cotton))
}

func TestDifferencesNameWhatChanged(t *testing.T) {
	lib := shelf(t)
	was, is := cheek(), cheek()
	assert.Empty(t, Differences(was, is, lib))
	is.Layers[4].CentreMM = 8
	is.Layers[6].Coats = 2
	is.Layers = append(is.Layers, Layer{ID: "w", Kind: WetLook, Material: "wet-look-gel", Coats: 1, CoatMM: 0.1})
	is.Layers[1], is.Layers[2] = is.Layers[2], is.Layers[1]
	what := map[string]string{}
	for _, d := range Differences(was, is, lib) {
		what[d.Layer+" "+d.What] = d.Act
	}
	assert.Equal(t, map[string]string{"s changed": "body", "p changed": "colour", "w added": "fitting", "g moved": "fitting", "b moved": "fitting"}, what)
	gone := Differences(is, was, lib)
	assert.Contains(t, gone, Difference{Layer: "w", What: "removed", Text: "Wet-look gel", Was: "Wet-look gel, 0.1 mm.", Act: "fitting"})
}

// Whatever is written out reads back as the same section.
func TestASectionSurvivesItsJSON(t *testing.T) {
	lib := shelf(t)
	for _, m := range Methods {
		s, _ := House(m.Slug, 40, 4, lib)
		raw, err := json.Marshal(s)
		require.NoError(t, err)
		var back Section
		require.NoError(t, json.Unmarshal(raw, &back))
		assert.Equal(t, s, back)
	}
}

func TestWhatNoSectionCanBeIsRefusedAtItsField(t *testing.T) {
	lib := shelf(t)
	nan := math.NaN()
	for field, spoil := range map[string]func(*Section){
		"more[0].id":           func(s *Section) { s.More = []Cut{{HalfWidthMM: 5, AreaCM2: 5}} },
		"more[0].layers":       func(s *Section) { s.More = []Cut{{ID: "b", HalfWidthMM: 5, AreaCM2: 5}} },
		"zones[1].to_mm":       func(s *Section) { s.Zones = []Zone{{"a", 20}, {"b", 30}} },
		"zones[0].to_mm":       func(s *Section) { s.Zones = []Zone{{"a", 90}} },
		"layers[1].zone_coats": func(s *Section) { s.Layers[1].ZoneCoats = []int{1, 2} },
		"layers[1].from_mm":    func(s *Section) { s.Layers[1].FromMM = 60 },
		"layers[1].from_run":   func(s *Section) { s.Layers[1].FromRun = -1 },
		"layers[2].method":     func(s *Section) { s.Layers[2].Method = "thrown" },
		"layers[4].applied_c":  func(s *Section) { s.Layers[4].AppliedC = &nan },
		"layers[4].centre_mm":  func(s *Section) { s.Layers[4].CentreMM = nan },
		"made.release":         func(s *Section) { s.Made.Release = "wax-soft" },
		"line":                 func(s *Section) { s.Line = &Line{Sheet: "head"} },
		"half_width_mm":        func(s *Section) { s.HalfWidthMM = nan },
		"layers[8].count": func(s *Section) {
			s.Layers = append(s.Layers, Layer{ID: "i", Kind: Insert, Material: "found-metal", EachG: 2})
		},
		"layers[8].each_g": func(s *Section) {
			s.Layers = append(s.Layers, Layer{ID: "i", Kind: Weight, Material: "filling-beads", Count: 1})
		},
		"layers[8].hairs_cm2": func(s *Section) {
			s.Layers = append(s.Layers, Layer{ID: "i", Kind: Hair, Material: "hair-crepe", LengthMM: 4})
		},
		"layers[8].length_mm": func(s *Section) {
			s.Layers = append(s.Layers, Layer{ID: "i", Kind: Hair, Material: "hair-crepe", HairsCM2: 4})
		},
	} {
		s := cheek()
		spoil(&s)
		var r *refusal.Error
		require.ErrorAs(t, s.Check(lib), &r, field)
		assert.Equal(t, field, r.Field)
	}
}

// Anything that reads as JSON is either refused or worked out without a fault.
func FuzzSection(f *testing.F) {
	lib := shelf(f)
	for _, m := range Methods {
		s, _ := House(m.Slug, 40, 4, lib)
		raw, _ := json.Marshal(s)
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		var s Section
		if json.Unmarshal(raw, &s) != nil || s.Check(lib) != nil {
			return
		}
		r := s.Work(lib, here)
		for _, x := range []float64{r.WornG, r.HandsS, r.WaitingS, r.CentreMM, r.EdgeMM} {
			assert.False(t, math.IsNaN(x) || math.IsInf(x, 0) || x < 0)
		}
	})
}
