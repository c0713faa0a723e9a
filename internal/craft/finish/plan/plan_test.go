package plan_test

import (
	"context"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/finish/hair"
	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/texture"
)

func zone(way string) plan.Zone {
	return plan.Zone{ID: "h1", Name: "beard", Way: way, Outline: []texture.P{{0, 0}, {40, 0}, {40, 30}, {0, 30}}, FadeEdges: []int{}, Density: 30, Edge: 30, Guides: []hair.Guide{}, Seed: 4,
		Fibre: "human", Colours: []plan.Shade{}, VisibleMM: 30, PitchMM: 20, RootMM: 5, Waste: 0.25, Per: 1, Prepared: []string{}}
}

func inserts() plan.Inserts {
	return plan.Inserts{ID: "i1", Name: "barnacle shells", Sort: "shells", Need: 12, Yield: 0.8, EachMin: 3, Fixing: "hard_glue", Motion: "acting", MassG: 2, ArmMM: 4, BaseMM: 6, AreaMM2: 30, When: "on the stand"}
}

func follow(t *testing.T, p plan.Plan, in plan.Around) plan.Result {
	t.Helper()
	r, err := p.Follow(context.Background(), in)
	require.NoError(t, err)
	return r
}

func says(r plan.Result, id string) (f rules.Finding, said bool) {
	i := slices.IndexFunc(r.Findings, func(x rules.Finding) bool { return x.ID == id })
	if i < 0 {
		return f, false
	}
	return r.Findings[i], true
}

// What cannot be meant is refused at its field; so is everything by every family of things.
func TestWhatCannotBeMeantIsRefused(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*plan.Plan)
		field  string
	}{
		"two zones of one id": {func(p *plan.Plan) { p.Hair = []plan.Zone{zone("punched"), zone("punched")} }, "hair[1].id"},
		"no such fibre":       {func(p *plan.Plan) { p.Hair[0].Fibre = "spider" }, "hair[0].fibre"},
		"no such preparation": {func(p *plan.Plan) { p.Hair[0].Prepared = []string{"blessed"} }, "hair[0].prepared"},
		"colours that are no whole": {func(p *plan.Plan) {
			p.Hair[0].Colours = []plan.Shade{{Name: "white", Share: 0.3}, {Name: "grey", Share: 0.3}}
		}, "hair[0].colours"},
		"no such fixing":     {func(p *plan.Plan) { p.Inserts[0].Fixing = "hope" }, "inserts[0].fixing"},
		"no seat":            {func(p *plan.Plan) { p.Inserts[0].AreaMM2 = 0 }, "inserts[0].area_mm2"},
		"no stitch":          {func(p *plan.Plan) { p.Inserts[0].Fixing = "sewn" }, "inserts[0].points"},
		"two worn of one id": {func(p *plan.Plan) { p.Worn = []plan.Worn{{ID: "w"}, {ID: "w"}} }, "worn[1].id"},
		"no such filler":     {func(p *plan.Plan) { p.Weights = []plan.Bags{{ID: "b", Filler: "feathers"}} }, "weights[0].filler"},
		"joined to nothing":  {func(p *plan.Plan) { p.Parts = []plan.Part{{ID: "a"}, {ID: "b", On: "z"}} }, "parts[1].on"},
		"a ring of parts":    {func(p *plan.Plan) { p.Parts = []plan.Part{{ID: "a", On: "b"}, {ID: "b", On: "a"}} }, "parts[0].on"},
		"a part on itself":   {func(p *plan.Plan) { p.Parts = []plan.Part{{ID: "a", On: "a"}} }, "parts[0].on"},
	} {
		t.Run(name, func(t *testing.T) {
			p := plan.Plan{Hair: []plan.Zone{zone("punched")}, Inserts: []plan.Inserts{inserts()}}
			require.NoError(t, p.Check())
			c.change(&p)
			var no *refusal.Error
			require.ErrorAs(t, p.Check(), &no)
			assert.Equal(t, c.field, no.Field)
		})
	}
}

// Hair that is punched is counted where it is drawn; laid, it is told in tufts, and what is
// cut once the glue is dry is a step of its own.
func TestHairIsCountedByItsWay(t *testing.T) {
	in := plan.Around{Done: map[string]plan.Set{"h1": {N: 100, Minutes: 10}}}
	r := follow(t, plan.Plan{Hair: []plan.Zone{zone("punched")}}, in)
	assert.InDelta(t, 360, r.Hair[0].Counted.Count, 15, "12 cm² at 30")
	assert.InDelta(t, 6, r.Hair[0].Counted.PaceS, 1e-9, "its own pace: 10 min for 100")
	assert.InDelta(t, float64(r.Hair[0].Counted.Count-100)*6/60, r.Hair[0].Counted.LeftMin, 0.1)
	z := zone("laid")
	z.TrimMM, z.TrimWhy = 10, "left long to catch blood"
	r = follow(t, plan.Plan{Hair: []plan.Zone{z}}, plan.Around{})
	require.NotNil(t, r.Hair[0].Rows)
	assert.Nil(t, r.Hair[0].Punched)
	assert.InDelta(t, float64(r.Hair[0].Counted.Count), r.Hair[0].Rows.PerTuft*float64(r.Hair[0].Rows.Total), 1)
	require.Len(t, r.Work, 2)
	assert.Equal(t, "left long to catch blood", r.Work[1].Why)
	for _, kind := range []string{"yak", "goat", "crepe", "synthetic"} {
		z.Fibre = kind
		assert.Positive(t, follow(t, plan.Plan{Hair: []plan.Zone{z}}, plan.Around{}).Hair[0].Counted.OrderG, kind)
	}
}

// The cautions: each said where it must be, and not where it need not.
func TestTheCautionsAreSaid(t *testing.T) {
	n := inserts()
	quiet := follow(t, plan.Plan{Inserts: []plan.Inserts{n}}, plan.Around{Region: "cheek"})
	assert.Empty(t, quiet.Findings)

	n.Loose = true
	f, _ := says(follow(t, plan.Plan{Inserts: []plan.Inserts{n}}, plan.Around{Region: "lip"}), "FIN-1")
	assert.Equal(t, rules.Stop, f.Severity, "beside the mouth")
	f, _ = says(follow(t, plan.Plan{Inserts: []plan.Inserts{n}}, plan.Around{Region: "cheek"}), "FIN-1")
	assert.Equal(t, rules.Warn, f.Severity)
	n.Loose, n.Sharp, n.When = false, true, "on the face"
	_, said := says(follow(t, plan.Plan{Inserts: []plan.Inserts{n}}, plan.Around{}), "SEQ-6")
	assert.True(t, said)
	heavy := inserts()
	heavy.MassG, heavy.ArmMM, heavy.AreaMM2, heavy.Fixing, heavy.Motion = 400, 120, 20, "skin_adhesive", "running"
	_, said = says(follow(t, plan.Plan{Inserts: []plan.Inserts{heavy}}, plan.Around{}), "FIN-2")
	assert.True(t, said, "it tears off")

	lens := plan.Worn{ID: "w1", Sort: "lens", Name: "milk-white lens", For: "Bram Tolliver", MostH: 4}
	r := follow(t, plan.Plan{Worn: []plan.Worn{lens}}, plan.Around{Wearer: "Siv Marrow", WornH: 9})
	f, _ = says(r, "FIN-8")
	assert.Equal(t, rules.Never, f.Severity)
	stops := 0
	for _, x := range r.Findings {
		if x.ID == "FIN-6" {
			stops++
		}
	}
	assert.Equal(t, 2, stops, "nobody fits it, and the day is too long")
	lens.For, lens.FittedBy, lens.MostH = "Siv Marrow", "the optician at the harbour", 10
	r = follow(t, plan.Plan{Worn: []plan.Worn{lens}}, plan.Around{Wearer: "Siv Marrow", WornH: 9})
	require.Len(t, r.Findings, 1)
	assert.Equal(t, rules.Tip, r.Findings[0].Severity, "out before the remover: always")

	steamed := zone("punched")
	steamed.Prepared = []string{"steamed_straight"}
	_, said = says(follow(t, plan.Plan{Hair: []plan.Zone{steamed}}, plan.Around{}), "FIN-7")
	assert.True(t, said)
	_, said = says(follow(t, plan.Plan{Closures: []plan.Closure{{ID: "c", Name: "back", Sort: "lacing", DoffMin: 6}}}, plan.Around{}), "FIN-5")
	assert.True(t, said, "six minutes to get out")
}

// Weights: bags of so many grams, what sweat adds, two sources that disagree, and the most
// that this wearer may carry.
func TestWeightsAreWeighedAgainstTheWearer(t *testing.T) {
	bags := plan.Bags{ID: "b1", Name: "low in the belly", Filler: "pulses", TargetG: 1000, BagML: 60, Fill: 0.7, Sweat: true}
	p := plan.Plan{Weights: []plan.Bags{bags}}
	r := follow(t, p, plan.Around{WornH: 6, LimitG: 3000, WornG: 800, OthersG: 500})
	got := r.Weights[0].Bags
	assert.InDelta(t, 1000, float64(got.Bags)*got.PerBagG, got.PerBagG, "within a bag")
	assert.Positive(t, got.WetGainG)
	_, said := says(r, "WGT-1")
	assert.True(t, said, "pulses rot")
	_, said = says(r, "SAF-6")
	assert.False(t, said)
	_, said = says(follow(t, p, plan.Around{LimitG: 2000, WornG: 800, OthersG: 500}), "SAF-6")
	assert.True(t, said)
	_, said = says(follow(t, p, plan.Around{SectionG: 700}), "FIN-10")
	assert.True(t, said, "the section says otherwise")
	p.Weights[0].Filler, p.Weights[0].Sweat = "steel_shot", false
	_, said = says(follow(t, p, plan.Around{SectionG: 1000}), "FIN-10")
	assert.False(t, said)
}

// A headpiece is a tree: what hangs on a joint is everything below it, and it is dry when
// all of that is.
func TestWhatHangsOnAJoint(t *testing.T) {
	p := plan.Plan{Parts: []plan.Part{{ID: "band", Name: "band", MassG: 200, DryH: 1}, {ID: "horn", Name: "horn", On: "band", Joint: "pegged", MassG: 150, DryH: 4}, {ID: "tip", Name: "tip", On: "horn", Joint: "glued", MassG: 50, DryH: 2},
		{ID: "feather", Name: "feather", On: "band", Joint: "sewn", MassG: 10, PullN: 5}}}
	r := follow(t, p, plan.Around{})
	at := map[string]plan.Joined{}
	for _, j := range r.Joints {
		at[j.ID] = j
	}
	assert.Equal(t, 410.0, at["band"].Hangs)
	assert.Equal(t, 200.0, at["horn"].Hangs)
	assert.Equal(t, 2, at["tip"].Depth)
	assert.Equal(t, 6.0, at["horn"].DryH, "its own four after the tip's two")
	assert.Equal(t, 7.0, at["band"].DryH)
	assert.Equal(t, 5.0, at["feather"].PullN, "as somebody said")
	assert.InDelta(t, 4*at["tip"].PullN, at["horn"].PullN, 0.2, "four times the mass")
	assert.InDelta(t, 0.050*9.80665, at["tip"].PullN/math.Round(at["tip"].PullN/(0.050*9.80665)), 0.05, "a whole number of times its weight")
	joins := 0
	for _, w := range r.Work {
		if w.Kind == work.Insert {
			joins++
		}
	}
	assert.Equal(t, 3, joins)
}

// Batches that this shop made count before what was guessed.
func TestBatchesAreLearntFrom(t *testing.T) {
	p := plan.Plan{Inserts: []plan.Inserts{inserts()}}
	guess := follow(t, p, plan.Around{}).Inserts[0]
	assert.Equal(t, []float64{30, 6}, []float64{guess.PaceS, guess.LeftMin}, "twelve at half a minute")
	timed := follow(t, p, plan.Around{Done: map[string]plan.Set{"i1": {N: 4, Minutes: 6}}}).Inserts[0]
	assert.Equal(t, []float64{90, 12}, []float64{timed.PaceS, timed.LeftMin}, "its own pace: eight more at a minute and a half")
	few := follow(t, p, plan.Around{Batches: map[string]plan.Batch{"i1": {Made: 6, Good: 1}}}).Inserts[0]
	assert.False(t, few.Learnt, "six are too few to unlearn a figure")
	assert.Equal(t, guess.Batch.Make, few.Batch.Make)
	bad := follow(t, p, plan.Around{Batches: map[string]plan.Batch{"i1": {Made: 40, Good: 16}}}).Inserts[0]
	assert.True(t, bad.Learnt)
	assert.Greater(t, bad.Batch.Make, guess.Batch.Make)
	assert.Equal(t, 16, bad.Have)
}

// What is shared says whose it is, so that both may name theirs h1; what is worn is each
// piece's own.
func TestWhatIsSharedSaysWhoseItIs(t *testing.T) {
	shared := plan.Plan{Hair: []plan.Zone{zone("punched")}, Inserts: []plan.Inserts{inserts()}, Parts: []plan.Part{{ID: "a"}, {ID: "b", On: "a"}}}
	own := plan.Plan{Follows: "AL-01", Hair: []plan.Zone{zone("knotted")}}
	both := own.With(&shared)
	require.Len(t, both.Hair, 2)
	assert.Equal(t, []string{"AL-01/h1", "h1"}, []string{both.Hair[0].ID, both.Hair[1].ID})
	require.NoError(t, both.Check(), "what hangs on what is named anew too")
	assert.Len(t, own.Hair, 1, "its own stays as it is")
	n, there := both.Insert("AL-01/i1")
	assert.True(t, there)
	assert.Equal(t, 12, n.Needed())
	assert.Len(t, own.With(nil).Hair, 1)
}

// A plan that nobody waits for any more is left.
func TestAPlanIsLeftWhenItIsStopped(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	stop()
	big := zone("punched")
	big.Outline, big.Density = []texture.P{{0, 0}, {300, 0}, {300, 300}, {0, 300}}, 300
	_, err := plan.Plan{Hair: []plan.Zone{big}}.Follow(ctx, plan.Around{})
	assert.Error(t, err)
}
