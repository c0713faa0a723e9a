package finish_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/finish/hair"
	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/finish"
)

// benched is a shop with one silicone copy just out of its mould.
func benched(t *testing.T) (b *shoptest.Bench, piece, first string) {
	t.Helper()
	b = shoptest.New(t, nil)
	b.Stocked()
	piece = b.Begun()
	first = b.Poured(piece)[0]
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.Out(first)
	return b, piece, first
}

func copyOf(b *shoptest.Bench, code string) (c finish.Copy) {
	b.T.Helper()
	b.As["pip"].Yes("GET", "/api/copies/"+code, nil, &c)
	return c
}

func items(c finish.Copy) (ids []string) {
	for _, t := range c.Work {
		if t.Dropped == "" {
			ids = append(ids, t.ID)
		}
	}
	return ids
}

// A list can be added to, put in another order and shortened on one copy; what would spoil
// the work or what Check lives by is refused, and nothing is changed then.
func TestTheListOfOneCopyIsChanged(t *testing.T) {
	b, _, first := benched(t)
	at := "/api/copies/" + first + "/work"
	was := items(copyOf(b, first))
	require.Equal(t, []string{"trim", "wash", "seam", "edge", "colour_reading", "photograph"}, was)
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", at, m{"act": "drop", "item": "seam", "why": "no seam on it"}).Code)

	var c finish.Copy
	b.As["ivo"].Yes("POST", at, m{"act": "add", "kind": "patch", "text": "fill the pinhole by the nose", "minutes": 12}, &c)
	ids := items(c)
	require.Len(t, ids, 7)
	added := slices.IndexFunc(c.Work, func(x finish.Todo) bool { return x.Kind == work.Patch })
	require.GreaterOrEqual(t, added, 0)
	assert.Less(t, added, slices.Index(ids, "colour_reading"), "a patch goes before its colour is read")
	assert.Equal(t, 12.0, c.Work[added].Minutes)

	id := c.Work[added].ID
	b.As["ivo"].Yes("POST", at, m{"act": "move", "item": id, "after": "wash"}, &c)
	assert.Equal(t, "wash", items(c)[slices.Index(items(c), id)-1])
	before := b.Contents()
	for _, no := range []struct {
		body  m
		field string
	}{
		{m{"act": "drop", "item": "edge", "why": "nobody looks"}, "item"},
		{m{"act": "drop", "item": id}, "why"},
		{m{"act": "drop", "item": "gold-leaf", "why": "no"}, "item"},
		{m{"act": "add", "kind": "hair", "text": "  "}, "text"},
		{m{"act": "move", "item": id, "after": "gold-leaf"}, "after"},
	} {
		assert.Equal(t, no.field, b.As["ivo"].No("POST", at, no.body).Field, "%v", no.body)
	}
	assert.Equal(t, before, b.Contents(), "what is refused changes nothing")

	b.As["ivo"].Yes("POST", at, m{"act": "drop", "item": id, "why": "it was dust"}, &c)
	assert.NotContains(t, items(c), id)
	assert.Len(t, c.Work, 7, "what is left out stays in the record")
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/ticks", m{"item": "trim"}, nil)
	assert.Equal(t, "done", b.As["ivo"].No("POST", at, m{"act": "drop", "item": "trim", "why": "no flash"}).Code)
}

// What is changed for a piece stands on every copy that is made from then on, and on none
// that is there already.
func TestTheListOfAPieceIsForItsNextCopies(t *testing.T) {
	b, piece, first := benched(t)
	var list []work.Item
	b.As["ivo"].Yes("POST", "/api/pieces/"+piece+"/work", m{"act": "add", "kind": "mend", "text": "tie the warning label on"}, &list)
	assert.True(t, slices.ContainsFunc(list, func(i work.Item) bool { return i.Text == "tie the warning label on" }))
	b.As["ivo"].Yes("POST", "/api/pieces/"+piece+"/work", m{"act": "drop", "item": "wash", "why": "no release is used"}, &list)
	assert.Equal(t, "item", b.As["ivo"].No("POST", "/api/pieces/"+piece+"/work", m{"act": "drop", "item": "wash", "why": "again"}).Field, "it is gone already")
	assert.Contains(t, items(copyOf(b, first)), "wash")
	second := b.Poured(piece)[0]
	b.Clock.Set(shoptest.Monday.Add(12 * time.Hour))
	b.Out(second)
	c := copyOf(b, second)
	assert.NotContains(t, items(c), "wash")
	assert.True(t, slices.ContainsFunc(c.Work, func(x finish.Todo) bool { return x.Text == "tie the warning label on" }))
}

// A tick set on the wrong line is taken back; a reading is not, and what nobody ticked is
// not either.
func TestATickIsTakenBack(t *testing.T) {
	b, _, first := benched(t)
	ticks := "/api/copies/" + first + "/ticks"
	assert.Equal(t, "not_done", b.As["pip"].No("POST", ticks+"/back", m{"item": "seam"}).Code)
	b.As["pip"].Yes("POST", ticks, m{"item": "seam", "minutes": 14}, nil)
	var c finish.Copy
	b.As["pip"].Yes("POST", ticks+"/back", m{"item": "seam"}, &c)
	assert.Contains(t, c.Missing, "seam")
	b.As["pip"].Yes("POST", ticks, m{"item": "colour_reading", "reading": m{"l": 44, "a": 15, "b": 20}}, nil)
	assert.Equal(t, "measured", b.As["pip"].No("POST", ticks+"/back", m{"item": "colour_reading"}).Code)
	assert.Equal(t, "lot", b.As["pip"].No("POST", ticks, m{"item": "seam", "lot": "24-117"}).Field, "it takes no material")
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'tick taken back'`))
}

// square is a zone whose number of hairs is known beforehand: 6 cm² at so many a cm².
func square(density float64) plan.Zone {
	return plan.Zone{ID: "h1", Name: "bristle", Way: "punched", Outline: []texture.P{{0, 0}, {30, 0}, {30, 20}, {0, 20}}, FadeEdges: []int{}, Density: density, Edge: density, Guides: []hair.Guide{}, Seed: 1, Fibre: "yak",
		Colours: []plan.Shade{}, VisibleMM: 20, PitchMM: 20, RootMM: 5, Waste: 0.25, Per: 1, Prepared: []string{}}
}

// drafted saves a step of a plan on top of what stands.
func drafted(b *shoptest.Bench, who, of string, change func(*plan.Plan)) (v finish.PlanView) {
	b.T.Helper()
	b.As[who].Yes("GET", "/api/finish-plans/"+of, nil, &v)
	change(&v.Doc)
	b.As[who].Yes("PUT", "/api/finish-plans/"+of, m{"doc": v.Doc, "base": v.State.Base, "step": v.State.Step}, &v)
	return v
}

// A plan is worked out as it is drafted, agreed by who may, put onto the list of the copy
// that stands on the bench, and counted there once for each key.
func TestAPlanOfHairFromTheDraftToTheCount(t *testing.T) {
	b, piece, first := benched(t)
	v := drafted(b, "pip", piece, func(p *plan.Plan) { p.Hair = append(p.Hair, square(25)) })
	require.NotNil(t, v.Result)
	came := v.Result.Hair[0]
	assert.InDelta(t, 150, came.Counted.Count, 8, "6 cm² at 25")
	assert.Len(t, came.Punched.Points, came.Counted.Count)
	at := "/api/finish-plans/" + piece
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", at+"/agree", nil).Code, "an apprentice drafts")
	assert.Equal(t, "of", b.As["maud"].No("POST", at+"/counts", m{"of": "h1", "n": 10, "copy": first, "key": shoptest.Key()}).Field, "nothing is agreed yet, and she has no draft")

	drafted(b, "ivo", piece, func(p *plan.Plan) { p.Hair = []plan.Zone{square(25)} })
	b.As["ivo"].Yes("POST", at+"/agree", nil, &v)
	assert.Equal(t, 1, v.State.Latest)
	c := copyOf(b, first)
	assert.Contains(t, items(c), "hair-h1", "the copy on the bench is brought up to it")

	key := shoptest.Key()
	for range 2 {
		b.As["pip"].Yes("POST", at+"/counts", m{"of": "h1", "n": 40, "seconds": 240, "copy": first, "key": key}, &v)
	}
	assert.Equal(t, plan.Set{N: 40, Minutes: 4}, v.Done["h1"], "sent twice, counted once")
	assert.InDelta(t, 6, v.Result.Hair[0].Counted.PaceS, 0.01, "240 s for 40 strokes")
	b.As["pip"].Yes("POST", at+"/counts", m{"of": "h1", "n": -15, "copy": first, "key": shoptest.Key()}, &v)
	assert.Equal(t, 25, v.Done["h1"].N)
	assert.Equal(t, "n", b.As["pip"].No("POST", at+"/counts", m{"of": "h1", "n": -26, "copy": first, "key": shoptest.Key()}).Field)
	assert.Equal(t, "of", b.As["pip"].No("POST", at+"/counts", m{"of": "h9", "n": 1, "copy": first, "key": shoptest.Key()}).Field)

	// What is printed is a document, and only of a zone that is there.
	status, raw := b.File("pip", at+"/hair.pdf?zone=h1")
	assert.Equal(t, 200, status)
	assert.Equal(t, "%PDF", string(raw[:4]))
	status, _ = b.File("pip", at+"/hair.pdf?zone=h9")
	assert.Equal(t, 404, status)
}

// Two people at one plan: the second is told who was first and what both want.
func TestTwoPeopleAgreeAPlan(t *testing.T) {
	b, piece, _ := benched(t)
	at := "/api/finish-plans/" + piece
	drafted(b, "maud", piece, func(p *plan.Plan) { p.Hair = []plan.Zone{square(30)} })
	drafted(b, "ivo", piece, func(p *plan.Plan) { p.Hair = []plan.Zone{square(60)} })
	b.As["ivo"].Yes("POST", at+"/agree", nil, nil)
	no := b.As["maud"].No("POST", at+"/agree", nil)
	assert.Equal(t, 409, no.Status)
	var v finish.PlanView
	b.As["maud"].Yes("GET", at, nil, &v)
	assert.Equal(t, 30.0, v.Doc.Hair[0].Density, "hers is kept")
	b.As["maud"].Yes("POST", at+"/carry", m{"latest": 1}, nil)
	b.As["maud"].Yes("POST", at+"/agree", nil, &v)
	assert.Equal(t, 2, v.State.Latest)
}

// A lens of somebody else is never agreed, a sharp thing set on the face only with a
// lead's word; the rule book is asked inside the act.
func TestWhatAPlanPutsOnTheWearerIsAsked(t *testing.T) {
	b, piece, _ := benched(t)
	at := "/api/finish-plans/" + piece + "/agree"
	lens := plan.Worn{ID: "w1", Sort: "lens", Name: "milk-white lens", For: "Somebody Else", FittedBy: "the optician", Slot: "first", Count: 1}
	v := drafted(b, "maud", piece, func(p *plan.Plan) { p.Worn = []plan.Worn{lens} })
	require.NotNil(t, v.Result)
	assert.Contains(t, ruleIDs(v), "FIN-8")
	assert.Equal(t, 409, b.As["maud"].Because("it is only for a day").No("POST", at, nil).Status, "never, whatever is said")
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM document_version v JOIN document d ON d.id = v.document_id WHERE d.kind = 'finish'`))

	pins := plan.Inserts{ID: "i1", Name: "pins", Sort: "pins", Need: 6, Yield: 0.9, Places: []plan.Spot{}, Fixing: "pushed_in", Motion: "still", BaseMM: 3, Sharp: true, When: "on the face"}
	drafted(b, "maud", piece, func(p *plan.Plan) { p.Worn, p.Inserts = []plan.Worn{}, []plan.Inserts{pins} })
	assert.NotEmpty(t, b.As["maud"].No("POST", at, nil).Code, "a stop wants a word")
	b.As["maud"].Because("rubber points, tried on my own arm").Yes("POST", at, nil, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM gone_on WHERE reason LIKE '%rubber points%'`))
}

func ruleIDs(v finish.PlanView) (ids []string) {
	for _, f := range v.Result.Findings {
		ids = append(ids, f.ID)
	}
	return ids
}

// Batches of inserts teach how many to make; a second sending counts once, and what cannot
// be is refused at its field.
func TestBatchesOfInsertsTeachTheYield(t *testing.T) {
	b, piece, first := benched(t)
	teeth := plan.Inserts{ID: "i1", Name: "milk teeth", Sort: "teeth", Need: 24, Yield: 0.9, EachMin: 2, Places: []plan.Spot{}, Fixing: "hard_glue", Motion: "acting", MassG: 1, ArmMM: 3, BaseMM: 4, AreaMM2: 16, When: "on the stand"}
	drafted(b, "ivo", piece, func(p *plan.Plan) { p.Inserts = []plan.Inserts{teeth} })
	var v finish.PlanView
	b.As["ivo"].Yes("POST", "/api/finish-plans/"+piece+"/agree", nil, &v)
	guess := v.Result.Inserts[0]
	assert.False(t, guess.Learnt)
	assert.True(t, guess.Hold.Holds, "a gram on 16 mm² of hard glue")
	at := "/api/pieces/" + piece + "/insert-batches"
	assert.Equal(t, "good", b.As["pip"].No("POST", at, m{"of": "i1", "made": 10, "good": 11, "key": shoptest.Key()}).Field)
	assert.Equal(t, "of", b.As["pip"].No("POST", at, m{"of": "i7", "made": 10, "good": 1, "key": shoptest.Key()}).Field)
	assert.Equal(t, "lot", b.As["pip"].No("POST", at, m{"of": "i1", "made": 10, "good": 1, "lot": "24-117", "key": shoptest.Key()}).Field)
	key := shoptest.Key()
	for range 2 {
		b.As["pip"].Yes("POST", at, m{"of": "i1", "made": 20, "good": 10, "minutes": 50, "key": key}, &v)
	}
	one := v.Result.Inserts[0]
	assert.True(t, one.Learnt)
	assert.Equal(t, 10, one.Have)
	assert.Greater(t, one.Batch.Make, guess.Batch.Make, "half of them were bad: more are to be made")
	assert.Contains(t, items(copyOf(b, first)), "insert-i1")
}

// Two pieces of one character share a plan: what the first has agreed stands in the second.
func TestAPieceSharesThePlanOfAnother(t *testing.T) {
	b, _, _ := benched(t)
	one, two := b.NewPiece("Bark beard", "chin", ""), b.NewPiece("Bark brow", "brow", "L")
	drafted(b, "maud", one, func(p *plan.Plan) { p.Hair = []plan.Zone{square(25)} })
	b.As["maud"].Yes("POST", "/api/finish-plans/"+one+"/agree", nil, nil)
	v := drafted(b, "maud", two, func(p *plan.Plan) { p.Follows = one })
	require.NotNil(t, v.Result)
	require.Len(t, v.Result.Hair, 1)
	assert.Contains(t, v.Others, one)
	bad := drafted(b, "maud", one, func(p *plan.Plan) { p.Hair[0].Colours = []plan.Shade{{Name: "white", Share: 0.4}} })
	require.NotNil(t, bad.Wrong)
	assert.Equal(t, "hair[0].colours", bad.Wrong.Field)
	assert.Equal(t, 422, b.As["maud"].No("POST", "/api/finish-plans/"+one+"/agree", nil).Status)
}
