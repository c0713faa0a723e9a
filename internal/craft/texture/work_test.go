package texture

import (
	"context"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/colour"
)

func tile(w, h float64, layers ...Layer) Recipe {
	return Recipe{Seed: 7, Region: Region{Preset: "tile", Params: map[string]float64{"w": w, "h": h}}, PitchMM: Ptr(0.2), Layers: layers}
}

func judged(t *testing.T, r Recipe) *Judged {
	t.Helper()
	j, err := made(t, r).Judge(context.Background())
	require.NoError(t, err)
	return j
}

func found(j *Judged, id string) *Found {
	for i := range j.Found {
		if j.Found[i].ID == id {
			return &j.Found[i]
		}
	}
	return nil
}

var lines = Layer{Kind: "hatch", ID: "l", Families: []Family{{Angle: 90, Spacing: Span{3, 3}, Depth: 0.5, Width: 1}}}

// The plan's order and its hours, by hand.
func TestWorkGoesFromTheFormToTheNightsRest(t *testing.T) {
	r := tile(30, 20, Layer{Kind: "droplets", Spacing: &Span{2, 2}}, lines, Layer{Kind: "scales", Stamps: []Stamp{{ID: "S1", OD: 8, Squash: 0.8}}, Size: &Span{9, 9}, Soften: Ptr(0.2)})
	r.Layers[1].Buff = 0.2
	r.Layers[1].Rescore = &Rescore{2, 0.4, 0.5}
	r.Passes = []PlannedPass{{"stiff brush", 2}, {"flame", 1}}
	j := judged(t, r)
	var order []string
	for _, s := range j.Work.Steps {
		if len(order) == 0 || order[len(order)-1] != string(s.Action) {
			order = append(order, string(s.Action))
		}
	}
	assert.Equal(t, []string{"form", "film", "press", "stroke", "buff", "rescore", "droplet", "pass", "leave"}, order, "large to small, drops last")
	sum := 0.0
	for _, s := range j.Work.Steps {
		sum += s.HandsS
	}
	assert.InDelta(t, j.Work.Hours, sum/3600, 1e-12)
	n := len(made(t, r).Layers[0].Spots)
	presses := j.Work.Presses
	// By the handbook's table: ten lines of 20 mm, five scored again, 6 cm².
	want := 2.5*float64(presses) + 10*(1.5+20./30) + 5*(2+20./25) + 1.2*float64(n) + 0.3*6 + 0.6*6 + 30*4 + 0.5*6*3
	assert.InDelta(t, want*1.25/3600, j.Work.Hours, 1e-9)
	assert.Less(t, j.Work.LowHours, j.Work.Hours)
	assert.Greater(t, j.Work.TopHours, j.Work.Hours)
	assert.Contains(t, strings.Join(j.Work.Cautions, " "), "no flame within reach", "a flame brings its caution")
	assert.Contains(t, strings.Join(j.Work.Cautions, " "), "respirator")
	for _, s := range j.Work.Steps {
		if s.Action == Leave {
			assert.Positive(t, s.WaitS)
		}
	}
}

func TestAHandLearnsFromItsLog(t *testing.T) {
	slow := Learn([]Timed{{Press, 90, 90 * 2.5, 90 * 2.5 * 1.25 * 2}})
	// Ninety of its own weigh against ten of the handbook's: 1.9 times as slow.
	assert.InDelta(t, 2.5*1.9, slow[Press].Each, 1e-9)
	assert.Equal(t, 90, slow[Press].Learned)
	assert.Equal(t, Hands()[Droplet], slow[Droplet], "what was not timed stays")
	assert.Equal(t, Hands(), Learn([]Timed{{Press, 0, 1, 1}, {Press, 5, 0, 1}, {Press, 5, 10, -1}, {Press, 5, 10, 1e9}, {"juggling", 5, 1, 1}}), "what cannot be meant is left out")
	line := Learn([]Timed{{LineStroke, 10, 100, 100 * 1.25 * 2}})[LineStroke]
	assert.InDelta(t, 1.5*1.5, line.Each, 1e-9)
	assert.InDelta(t, 20, line.MMPerS, 1e-9, "and draws as much slower")
	asPlanned := judged(t, tile(30, 20, lines))
	j := asPlanned.In(Learn([]Timed{{LineStroke, 1e6, 1e6, 1.25 * 2e6}}))
	assert.Equal(t, judged(t, tile(30, 20, lines)), asPlanned, "what was judged stays")
	assert.InDelta(t, 2*10*(1.5+20./30)*1.25, j.Work.Steps[1].HandsS-30*1.25, 0.01, "the plan is in that hand's time")
	assert.InDelta(t, 10*(1.5+20./30), j.Work.Steps[1].PlainS, 1e-9, "and keeps the handbook's to learn from")
}

func TestStampsAreWorthMakingFromTheirBreakEvenOn(t *testing.T) {
	few := judged(t, tile(30, 20, Layer{Kind: "scales", Stamps: []Stamp{{ID: "S1", OD: 8, Squash: 0.8, SquashB: Ptr(0.65)}}, Size: &Span{9, 9}})).Work.Stamps[0]
	many := judged(t, tile(90, 60, Layer{Kind: "scales", Stamps: []Stamp{{ID: "S1", OD: 8, Squash: 0.8, SquashB: Ptr(0.65)}}, Size: &Span{9, 9}})).Work.Stamps[0]
	assert.Equal(t, 27, BreakEven(Hands()), "600 s over 25 less 2.5 s")
	assert.False(t, few.Worth)
	assert.True(t, many.Worth)
	assert.Equal(t, 2, many.Ends)
	assert.InDelta(t, 600+many.PressS, many.CarveS, 60*600, "sane")
	a, b := HalfAxes(8, 0.65)
	assert.InDelta(t, 2*a, many.BWidth, 1e-9)
	assert.InDelta(t, 2*b, many.BHeight, 1e-9)
}

func TestDropsAreCountedByNeedle(t *testing.T) {
	r := tile(60, 60, Layer{Kind: "droplets", Spacing: &Span{2, 2}, Diameter: &Span{0.6, 2}, Falloff: Ptr(100.0)})
	s := made(t, r)
	j := judged(t, r)
	sum := 0
	for _, n := range j.Work.Needles {
		sum += n.Count
	}
	assert.Equal(t, len(s.Layers[0].Spots), sum)
	assert.Greater(t, len(j.Work.Needles), 3)
}

// Each rule that is decided on the sculpt has a case in which it speaks and
// one in which it does not.
func TestFindingsOfATexture(t *testing.T) {
	flat := tile(40, 40, lines)
	flat.FeatherMM = 6
	grown := tile(40, 40, Layer{Kind: "pores", Spacing: &Span{1.5, 3}})
	vein := func(deep float64, raise bool) Recipe {
		r := tile(40, 40, Layer{Kind: "lines", Along: []int{0}, Depth: &Span{deep, deep}, Raise: raise})
		r.Guides = [][]P{{{5, 5}, {20, 22}, {35, 30}}}
		return r
	}
	thick := func(edge, centre float64) Recipe {
		r := flat
		r.FeatherMM = 1
		r.Thickness = &Thickness{EdgeMM: edge, CentreMM: centre, OverMM: 15}
		return r
	}
	step := flat
	step.FeatherMM = 0
	split := func(by string, most float64) Recipe {
		r := flat
		r.Areas = []Area{{ID: "a", Name: "jaw", By: by, DepthMM: most, Polygon: []P{{10, 10}, {30, 10}, {30, 30}, {10, 30}}}}
		return r
	}
	pair := func(a float64) Recipe {
		r := flat
		r.Pairs = []Pair{{Name: "lips", A: Measure{Name: "upper lip", MM: a}, B: Measure{Name: "lower lip", MM: 10}, Least: 0.8, Most: 1.2, FollowOn: "a lower lip of its own", Minutes: 40}}
		return r
	}
	lost, kept := flat, flat
	lost.Materials, kept.Materials = &Materials{Mould: "plaster mould", Cast: "foam latex cast"}, &Materials{Mould: "silicone mould", Cast: "silicone cast"}
	lost.Layers = []Layer{{Kind: "pores", Diameter: &Span{0.2, 0.4}}}
	drowned, thinly := flat, flat
	drowned.Materials, thinly.Materials = &Materials{Paint: "latex-based paint", Coats: 10}, &Materials{Paint: "silicone wash", Coats: 2}
	for id, c := range map[string]struct {
		speaks, silent Recipe
		grave          string
	}{
		"EYE-2": {flat, grown, "warn"}, "EYE-7": {vein(0.8, true), vein(0.3, true), "tip"}, "THIN": {thick(0.3, 2), thick(3, 4), "stop"}, "EDGE": {step, flat, "warn"}, "PAIR": {pair(14), pair(11), "warn"},
		"SPLIT": {split("paint", 0), split("relief", 0), "tip"}, DetailLost: {lost, kept, "warn"}, PaintFills: {drowned, thinly, "warn"}, FeaturesMerge: {tile(30, 30, Layer{Kind: "pores", Spacing: &Span{0.5, 0.5}, Diameter: &Span{0.6, 0.6}}), flat, "warn"},
	} {
		f := found(judged(t, c.speaks), id)
		if assert.NotNil(t, f, "%s speaks", id) {
			assert.Equal(t, c.grave, f.Grave, "%s: %s", id, f.Words)
			assert.NotEmpty(t, f.Remedy, id)
		}
		assert.Nil(t, found(judged(t, c.silent), id), "%s is silent", id)
	}
	assert.Nil(t, found(judged(t, vein(0.8, false)), "EYE-7"), "a scored line is no vein")
	assert.NotNil(t, found(judged(t, split("relief", 0.2)), "SPLIT"), "over its limit")
	f := found(judged(t, thick(0.3, 2)), "THIN")
	require.NotNil(t, f.At)
	assert.Less(t, math.Min(math.Min(f.At[0], 40-f.At[0]), math.Min(f.At[1], 40-f.At[1])), 6.0, "near the edge")
	res := judged(t, pair(14)).Pairs[0]
	assert.InDelta(t, 14/1.2, res.WantMM, 1e-9)
	assert.Contains(t, res.Words, "a lower lip of its own")
}

func TestPairsMeasureLandmarks(t *testing.T) {
	r := tile(40, 40, lines)
	r.Landmarks = []Landmark{{Name: "a", At: P{10, 10}}, {Name: "b", At: P{10, 30}}}
	r.Pairs = []Pair{{Name: "p", A: Measure{From: "a", To: "b"}, B: Measure{MM: 10}, Least: 1, Most: 3}}
	assert.InDelta(t, 2, judged(t, r).Pairs[0].Ratio, 1e-9)
	for _, bad := range []Pair{{A: Measure{From: "a", To: "c"}, B: Measure{MM: 1}, Least: 1, Most: 2}, {A: Measure{From: "a", To: "a"}, B: Measure{MM: 1}, Least: 1, Most: 2}, {A: Measure{}, B: Measure{MM: 1}, Least: 1, Most: 2}, {A: Measure{MM: 1}, B: Measure{MM: 1}, Least: 2, Most: 1}} {
		r.Pairs = []Pair{bad}
		assert.Error(t, r.Check(context.Background()))
	}
}

// A wash darkens hollows and a dry brush lightens ridges, more the deeper.
func TestPaintFollowsTheRelief(t *testing.T) {
	white, black := colour.Lab{L: 90}, colour.Lab{L: 10}
	at := func(depth float64, p Paint) (hollow, flat float64) {
		l := lines
		l.Families = []Family{{Angle: 90, Spacing: Span{6, 6}, Depth: depth, Width: 1.6}}
		s := made(t, tile(30, 20, l))
		out, err := s.Paint(context.Background(), Scheme{Clay: colour.Lab{L: 50}, Layers: []Paint{p}})
		require.NoError(t, err)
		f := s.Field
		low, high, dark, light := math.Inf(1), math.Inf(-1), 0, 0
		for i := 20; i < f.NX-20; i++ {
			k := f.NY/2*f.NX + i
			if f.Z[k] < low {
				low, dark = f.Z[k], k
			}
			if f.Z[k] > high {
				high, light = f.Z[k], k
			}
		}
		return float64(out.RGB[3*dark]), float64(out.RGB[3*light])
	}
	wash := Paint{Kind: "wash", Colour: black, Strength: 1}
	hollow, flat := at(0.6, wash)
	shallow, _ := at(0.08, wash)
	assert.Less(t, hollow, flat-40)
	assert.Less(t, hollow, shallow-20, "a shallow line takes less of it")
	hollow, ridge := at(0.6, Paint{Kind: "dry brush", Colour: white, Strength: 1})
	assert.Greater(t, ridge, hollow+10)
	_, none := at(0.6, Paint{Kind: "glaze", Colour: white, Strength: 0})
	assert.InDelta(t, 119, none, 2, "L* 50 as it was")
	for _, p := range []Paint{{Kind: "emulsion"}, {Kind: "base", Strength: 2}, {Kind: "wash", Strength: 1, ReachMM: -1}, {Kind: "base", Colour: colour.Lab{L: 130}}, {Kind: "spatter", Strength: 1, SizeMM: 0.001, Share: 1}, {Kind: "base", On: []string{"nowhere"}}} {
		_, err := made(t, tile(30, 20, lines)).Paint(context.Background(), Scheme{Layers: []Paint{p}})
		assert.Error(t, err, p.Kind)
	}
	assert.InDelta(t, 0.06, Scheme{Coats: 3}.FilmMM(), 1e-12)
	assert.InDelta(t, 0.15, Scheme{Coats: 3, CoatMM: 0.05}.FilmMM(), 1e-12)
}

// How much of the look comes from paint, and how much from relief.
func TestPaintAndReliefShareTheLook(t *testing.T) {
	r := tile(30, 20, lines)
	r.Areas = []Area{{ID: "a", Name: "left", Polygon: []P{{1, 1}, {14, 1}, {14, 19}, {1, 19}}}}
	s := made(t, r)
	bare, err := s.Paint(context.Background(), Scheme{Clay: colour.Lab{L: 50}})
	require.NoError(t, err)
	assert.Zero(t, bare.Reads)
	assert.Greater(t, bare.Relief, 3.0)
	spattered, err := s.Paint(context.Background(), Scheme{Clay: colour.Lab{L: 50}, Layers: []Paint{{Kind: "spatter", Colour: colour.Lab{L: 5}, Strength: 1, Share: 0.3, On: []string{"a"}}}})
	require.NoError(t, err)
	assert.Greater(t, spattered.Areas[0].Paint, spattered.Reads, "all of it on the left")
	assert.Equal(t, bare.Relief, spattered.Relief)
}

// The rules of the surface: REL-2, SEQ-10 and SEQ-11, each both ways.
func TestFindingsOfTheSurface(t *testing.T) {
	ids := func(s Surface) (out []string) {
		for _, f := range s.Findings() {
			assert.NotEmpty(t, f.Remedy)
			out = append(out, f.ID)
		}
		return out
	}
	assert.Empty(t, ids(Surface{FormSettled: true, Textured: true, Scheme: true, Release: true, FilmCoats: 2, Trials: []Trial{{Released: true, Filmed: true, Painted: true}}}))
	assert.Equal(t, []string{"SEQ-11"}, ids(Surface{Textured: true}))
	assert.Equal(t, []string{"REL-2"}, ids(Surface{Scheme: true, Release: true}))
	assert.Equal(t, []string{"SEQ-10"}, ids(Surface{Trials: []Trial{{Painted: true, Released: true}, {Painted: true}}}), "said once")
}

func TestTheGateHoldsUntilAllIsSeen(t *testing.T) {
	s := Surface{Ticked: map[string]bool{}}
	assert.Len(t, s.Holds(), len(Gate))
	for _, g := range Gate {
		s.Ticked[g.ID] = true
	}
	assert.Empty(t, s.Holds())
	s.OpenSpots = []string{"thin (over the wing of the nose)"}
	assert.Contains(t, s.Holds()[0], "over the wing of the nose")
	s.OpenSpots, s.Residues = nil, []string{"oil"}
	assert.Contains(t, s.Holds()[0], "oily trace")
	s.Residues = nil
	for _, c := range []struct {
		trial Trial
		holds int
	}{{Trial{Released: true}, 0}, {Trial{Released: true, Filmed: true}, 1}, {Trial{Painted: true}, 1}, {Trial{Filmed: true, Peeled: true}, 1}, {Trial{Filmed: true, Peeled: true, Clean: true}, 0}} {
		s.Trials = []Trial{c.trial}
		assert.Len(t, s.Holds(), c.holds, "%+v", c.trial)
	}
}

func TestWhatLiesOnTheSurfaceSpoilsTheNextStep(t *testing.T) {
	assert.NoError(t, Clash(nil, NextFlame))
	assert.NoError(t, Clash([]string{"crumbs"}, NextFlame))
	err := Clash([]string{"crumbs", "alcohol"}, NextFlame)
	require.Error(t, err)
	assert.Contains(t, err.Error(), "burns")
	assert.Contains(t, err.Error(), "leave it open until it is dry")
	for _, r := range []string{"oil", "water", "powder", "crumbs", "alcohol"} {
		assert.Error(t, Clash([]string{r}, NextPaint), r)
		assert.Error(t, Clash([]string{r}, NextMould), r)
	}
	for _, s := range Softenings {
		assert.NotEmpty(t, s.Words)
		assert.Equal(t, s.Leaves != "", s.Clears != "", "%s: what is left can be got rid of", s.Tool)
	}
	assert.Equal(t, Softening{Tool: "teeth"}, Residue("teeth"))
}

// At twice the scale a pattern takes a quarter of the marks on the same ground,
// and what hangs on its first place stays behind.
func TestAPatternIsLaidAtAnotherScale(t *testing.T) {
	layers := []Layer{{Kind: "pores", Spacing: &Span{2, 2}, Diameter: &Span{0.5, 1}, Depth: &Span{0.1, 0.2}}, {Kind: "wrinkles"}, {Kind: "droplets", From: Ptr(From(2)), Falloff: Ptr(5.0), On: []string{"a"}},
		{Kind: "hatch", Flow: Ptr(0), Families: []Family{{Spacing: Span{2, 3}, Depth: 0.2, Width: 0.5, Wiggle: &Span{1, 10}, Bow: 2}, {Angle: 60, Spacing: Span{2, 3}, Depth: 0.2, Width: 0.5}}, Rescore: &Rescore{3, 0.2, 0.4}, Lumps: &Lumps{Height: 0.3, Share: 1}}, {Kind: "scales", Stamps: []Stamp{{ID: "S1", OD: 5, Squash: 0.8}}, Size: &Span{5, 3}}}
	twice := Scaled(layers, 2)
	require.Len(t, twice, 4)
	assert.Equal(t, &Span{4, 4}, twice[0].Spacing)
	assert.Equal(t, &Span{0.2, 0.4}, twice[0].Depth)
	assert.Equal(t, Boundary, *twice[1].From)
	assert.Empty(t, twice[1].On)
	assert.Nil(t, twice[2].Flow)
	assert.Equal(t, Family{Spacing: Span{4, 6}, Depth: 0.4, Width: 1, Wiggle: &Span{2, 20}, Bow: 4}, twice[2].Families[0])
	assert.Equal(t, []float64{0.4, 0.8, 0.6}, []float64{twice[2].Rescore.Depth, twice[2].Rescore.Width, twice[2].Lumps.Height})
	assert.Equal(t, 10.0, twice[3].Stamps[0].OD)
	assert.Equal(t, &Span{2, 2}, layers[0].Spacing, "the pattern itself stays")
	few, many := len(made(t, tile(60, 60, Scaled(layers, 2)[0])).Layers[0].Spots), len(made(t, tile(60, 60, layers[0])).Layers[0].Spots)
	assert.InDelta(t, 0.25, float64(few)/float64(many), 0.04)
	require.NoError(t, tile(60, 60, twice...).Check(context.Background()))
}

func TestLumpsStandInTheCells(t *testing.T) {
	l := Layer{Kind: "hatch", Families: []Family{{Angle: 0, Spacing: Span{5, 5}, Depth: 0.4, Width: 0.8}, {Angle: 90, Spacing: Span{5, 5}, Depth: 0.4, Width: 0.8}}, Lumps: &Lumps{Height: 0.5, Share: 1}}
	m := made(t, tile(40, 40, l)).Layers[0]
	// Eight lines each way leave seven cells between them.
	assert.Len(t, m.Lumps, 49)
	for _, p := range m.Lumps {
		assert.InDelta(t, 0, math.Mod(p.At[0], 5), 1e-9, "half-way between lines at 2.5, 7.5 …")
	}
	l.Lumps.Share = 0.3
	assert.InDelta(t, 15, len(made(t, tile(40, 40, l)).Layers[0].Lumps), 8)
	l.Families[1].Angle = 1
	_, err := Make(context.Background(), tile(40, 40, l))
	assert.Error(t, err, "no cells between lines that run alike")
}

func TestAHeightFieldIsLaidIn(t *testing.T) {
	h := &Heights{NX: 21, NY: 11}
	for k := range 21 * 11 {
		h.MM = append(h.MM, float32(k%21)*0.1)
	}
	r := tile(20, 10, Layer{Kind: "field", Field: &Brought{MMPP: 1, At: P{-0.5, -0.5}, Times: 2, Heights: h}})
	f := made(t, r).Field
	z, ok := f.At(P{8, 5})
	require.True(t, ok)
	assert.InDelta(t, 2*0.8, z, 0.01, "a slope of 0.1 a mm, twice as high")
	r.Layers[0].Field.Heights = nil
	_, err := Make(context.Background(), r)
	assert.Error(t, err)
}

func TestSagThickensWhatHangsBelow(t *testing.T) {
	r := tile(30, 30, Layer{Kind: "rot", Spacing: &Span{28, 28}, Diameter: &Span{8, 8}, Fray: Ptr(0.0), Lip: 0.4})
	// A hole with room above and below it.
	for ; math.Abs(made(t, r).Layers[0].Spots[0].At[1]-15) > 5; r.Seed++ {
	}
	rims := func() (up, down float64) {
		s := made(t, r)
		p := s.Layers[0].Spots[0]
		up, _ = s.Field.At(P{p.At[0], p.At[1] + 4.3})
		down, _ = s.Field.At(P{p.At[0], p.At[1] - 4.3})
		return up, down
	}
	above, below := rims()
	assert.InDelta(t, above, below, 0.05)
	r.Gravity = &Gravity{Down: 270, Sag: 0.6}
	up, down := rims()
	assert.InDelta(t, above, up, 1e-9)
	assert.InDelta(t, 1.6*below, down, 1e-4)
	assert.Equal(t, SagRims, judged(t, r).Work.Steps[2].Action)
}
