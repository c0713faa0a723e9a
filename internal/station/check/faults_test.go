package check_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/check"
	"yewmoor/internal/station/finish"
)

// finished is a shop with one silicone copy, out of a dry mould of plaster and done.
func finished(t *testing.T) (b *shoptest.Bench, piece, first string) {
	t.Helper()
	b = shoptest.New(t, nil)
	b.Stocked()
	piece = b.Begun()
	b.As["ivo"].Because("no texture on this one").Yes("POST", "/api/pieces/"+piece+"/moulds", m{"kind": "two-part block", "material": "hard stone", "state": "dry", "made_on": "2026-01-02"}, nil)
	first = b.Poured(piece, piece+"/M1")[0]
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.Out(first)
	b.Finished(first)
	return b, piece, first
}

func share(t check.Traced, cause string) float64 {
	for _, c := range t.Causes {
		if c.ID == cause {
			return c.P
		}
	}
	return 0
}

func seen(b *shoptest.Bench, copyCode, kind string) (t check.Traced) {
	b.T.Helper()
	b.As["pip"].Yes("POST", "/api/copies/"+copyCode+"/faults", m{"fault": kind, "place": "by the ear", "key": shoptest.Key()}, &t)
	return t
}

// A fault is seen, ranked, answered, its cause said, mended: until then the copy cannot be
// accepted. Shares always come to one, an answer counts before the record, and what this
// shop said counts the next time.
func TestAFaultFromTheSightToTheVerdict(t *testing.T) {
	b, piece, first := finished(t)
	key := shoptest.Key()
	var tr, again check.Traced
	body := m{"fault": "F-BUBBLE", "place": "by the ear", "words": "two pinheads", "key": key}
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/faults", body, &tr)
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/faults", body, &again)
	assert.Equal(t, tr.ID, again.ID, "sent twice, seen once")
	assert.Equal(t, "fault", b.As["pip"].No("POST", "/api/copies/"+first+"/faults", m{"fault": "F-NOTHING", "key": shoptest.Key()}).Field)
	var kinds []check.Kind
	b.As["pip"].Yes("GET", "/api/copies/"+first+"/fault-kinds", nil, &kinds)
	assert.True(t, slices.ContainsFunc(kinds, func(k check.Kind) bool { return k.ID == "F-BUBBLE" }))

	sum := 0.0
	for _, c := range tr.Causes {
		sum += c.P
	}
	assert.InDelta(t, 1, sum, 1e-9)
	assert.True(t, slices.ContainsFunc(tr.Known, func(k check.Known) bool { return k.Source == "record" && k.Link != "" }), "the record speaks, and leads to itself")
	require.NotEmpty(t, tr.Looks)
	assert.True(t, slices.IsSortedFunc(tr.Looks, func(x, y check.Look) int { return int(1e6*y.Gain) - int(1e6*x.Gain) }), "the most telling first")

	at := fmt.Sprintf("/api/faults/%d", tr.ID)
	before := share(tr, "C-AIRMIX")
	assert.Equal(t, "evidence", b.As["pip"].No("POST", at+"/answers", m{"evidence": "the moon", "state": "yes", "version": 1}).Field)
	assert.Equal(t, 422, b.As["pip"].No("POST", at+"/answers", m{"evidence": "degassed", "state": "perhaps", "version": 1}).Status)
	b.As["pip"].Yes("POST", at+"/answers", m{"evidence": "degassed", "state": "no", "version": tr.Version}, &tr)
	assert.Greater(t, share(tr, "C-AIRMIX"), before)
	stale := b.As["ivo"].No("POST", at+"/answers", m{"evidence": "vents", "state": "no", "version": 1})
	assert.Equal(t, 409, stale.Status, "somebody answered meanwhile")

	verdict := "/api/copies/" + first + "/verdict"
	assert.Equal(t, "fault_open", b.As["ivo"].No("POST", verdict, m{"verdict": "accept"}).Code)
	assert.Equal(t, "fault_open", b.As["ivo"].No("POST", verdict, m{"verdict": "downgrade", "use_as": "distant", "reason": "bubbles"}).Code)
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", at+"/cause", m{"cause": "C-AIRMIX", "version": tr.Version}).Code)
	assert.Equal(t, "cause", b.As["ivo"].No("POST", at+"/cause", m{"cause": "C-SULPHUR", "version": tr.Version}).Field)
	assert.Equal(t, 409, b.As["ivo"].No("POST", at+"/proposals", m{"goes_to": "mould", "text": "vent it", "version": tr.Version}).Status, "a change rests on a cause")
	b.As["ivo"].Yes("POST", at+"/cause", m{"cause": "C-AIRMIX", "version": tr.Version}, &tr)
	assert.Equal(t, "words", b.As["ivo"].No("POST", at+"/remedy", m{"remedy": "leave", "version": tr.Version}).Field)
	b.As["ivo"].Yes("POST", at+"/remedy", m{"remedy": "repair", "minutes": 20, "version": tr.Version}, &tr)
	assert.Contains(t, b.As["ivo"].No("POST", verdict, m{"verdict": "accept"}).Detail, "not mended yet")
	b.As["pip"].Yes("POST", at+"/remedy", m{"remedy": "repair", "mended": true, "version": tr.Version}, &tr)
	assert.True(t, tr.Settled)
	b.As["ivo"].Yes("POST", verdict, m{"verdict": "accept"}, nil)

	// The next one is ranked by what this shop said of the last.
	b.Clock.Set(shoptest.Monday.Add(6 * time.Hour))
	second := b.Poured(piece, piece+"/M1")[0]
	b.Clock.Set(shoptest.Monday.Add(20 * time.Hour))
	b.Out(second)
	next := seen(b, second, "F-BUBBLE")
	for _, c := range next.Causes {
		assert.Equal(t, map[bool]float64{true: 1, false: 0}[c.ID == "C-AIRMIX"], c.Times, c.ID)
	}
	assert.True(t, slices.ContainsFunc(next.Sharers, func(x check.Sharer) bool { return x.Code == first && x.Why == "the same mould" }))
}

// What a fault asks to be changed goes to the recipe or the mould, is agreed once by who
// may, and then stands there; what is declined wants a word.
func TestAProposalGoesWhereItIsChanged(t *testing.T) {
	b, piece, first := finished(t)
	tr := seen(b, first, "F-BUBBLE")
	at := fmt.Sprintf("/api/faults/%d", tr.ID)
	b.As["ivo"].Yes("POST", at+"/cause", m{"cause": "C-TRAPAIR", "version": tr.Version}, &tr)
	text := "two vents at the high point of the cheek"
	b.As["pip"].Yes("POST", at+"/proposals", m{"goes_to": "mould", "text": text, "version": tr.Version}, &tr)
	assert.Equal(t, "proposed", b.As["pip"].No("POST", at+"/proposals", m{"goes_to": "mould", "text": text, "version": tr.Version}).Code)
	b.As["pip"].Yes("POST", at+"/proposals", m{"goes_to": "plan", "text": "two pairs of hands at the pour", "version": tr.Version}, &tr)
	require.Len(t, tr.Proposals, 2)

	var list []check.Proposal
	b.As["ivo"].Yes("GET", "/api/fault-proposals?code="+piece, nil, &list)
	require.Len(t, list, 1, "what is for the plan stands on the piece")
	plan := fmt.Sprintf("/api/fault-proposals/%d/settle", list[0].ID)
	assert.Equal(t, "reason", b.As["ivo"].No("POST", plan, m{"agree": false}).Field)
	b.As["ivo"].Yes("POST", plan, m{"agree": false, "reason": "one is enough with less in the cup"}, nil)
	assert.Equal(t, "settled", b.As["maud"].No("POST", plan, m{"agree": true}).Code)

	b.As["ivo"].Yes("GET", "/api/fault-proposals?to=mould&code="+piece+"/M1", nil, &list)
	require.Len(t, list, 1)
	settle := fmt.Sprintf("/api/fault-proposals/%d/settle", list[0].ID)
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", settle, m{"agree": true}).Code)
	b.As["ivo"].Yes("POST", settle, m{"agree": true}, nil)
	assert.Equal(t, "settled", b.As["maud"].No("POST", settle, m{"agree": true}).Code, "the mould is noted once")
	d := b.Mould(piece + "/M1")
	assert.Contains(t, fmt.Sprintf("%+v", d), text)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'change agreed'`))
}

// Two people judge at once: one verdict stands, the other is told; what was seen before
// another judged is not recorded.
func TestTwoCheckersLeaveOneVerdict(t *testing.T) {
	b, _, first := finished(t)
	verdict := "/api/copies/" + first + "/verdict"
	said := shoptest.Together(2, func(i int) (int, shoptest.Refused) {
		return b.Post([]string{"ivo", "maud"}[i], verdict, m{"verdict": "scrap", "reason": "torn", "seen": 0})
	})
	assert.Equal(t, 1, said["yes"], "%v", said)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM verdict`))
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'scrapped'`))
	assert.NotEmpty(t, b.As["ivo"].No("POST", verdict, m{"verdict": "accept", "seen": 0}).Code)
}

// A repair puts lines back on the bench and one more, which are done anew; the ticks of
// before stay in the record.
func TestARepairIsDoneAnew(t *testing.T) {
	b, piece, first := finished(t)
	verdict := "/api/copies/" + first + "/verdict"
	assert.Equal(t, "reason", b.As["ivo"].No("POST", verdict, m{"verdict": "repair"}).Field)
	assert.Equal(t, "items", b.As["ivo"].No("POST", verdict, m{"verdict": "scrap", "reason": "torn", "items": []string{"edge"}}).Field)
	assert.Equal(t, "items", b.As["ivo"].No("POST", verdict, m{"verdict": "repair", "reason": "torn", "items": []string{"gold-leaf"}}).Field)
	b.As["ivo"].Yes("POST", verdict, m{"verdict": "repair", "reason": "a hole by the ear", "items": []string{"edge", "photograph"}, "mend": "fill the hole", "minutes": 15}, nil)
	assert.Equal(t, "finish", b.Place(piece))
	var c finish.Copy
	b.As["pip"].Yes("GET", "/api/copies/"+first, nil, &c)
	assert.Len(t, c.Missing, 3)
	for _, w := range c.Work {
		assert.Equal(t, map[bool]int{true: 1, false: 0}[w.ID == "edge" || w.ID == "photograph"], w.Turn, w.ID)
	}
	assert.Equal(t, "not_finished", b.As["ivo"].No("POST", verdict, m{"verdict": "accept"}).Code)
	b.Finished(first)
	b.As["ivo"].Yes("POST", verdict, m{"verdict": "accept"}, nil)
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM finish_tick WHERE item = 'edge'`), "both turns stay")
}

// What is kept for less is good for that, counts as none of the wanted, and says so.
func TestWhatIsKeptForLessIsNoneOfTheWanted(t *testing.T) {
	b, _, first := finished(t)
	verdict := "/api/copies/" + first + "/verdict"
	assert.Equal(t, "use_as", b.As["ivo"].No("POST", verdict, m{"verdict": "downgrade", "reason": "a seam"}).Field)
	assert.Equal(t, "use_as", b.As["ivo"].No("POST", verdict, m{"verdict": "accept", "use_as": "wet"}).Field)
	var out check.Outcome
	b.As["ivo"].Yes("POST", verdict, m{"verdict": "downgrade", "reason": "a seam from the side", "use_as": "distant"}, &out)
	assert.Equal(t, "distant", out.UseAs)
	assert.Zero(t, out.Good)
	assert.True(t, out.NeedsRun)
	day := b.DayOf(first[:len(first)-2], "2026-01-23")
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{first}}, nil)
	var sheet struct{ Cautions []string }
	b.As["maud"].Yes("GET", "/api/kits/K-001/sheet", nil, &sheet)
	assert.Contains(t, sheet.Cautions, first+": kept for far from the camera by ivo: a seam from the side", "the artist reads it")
	b.As["maud"].Yes("POST", "/api/kits/K-001/unpack", m{"reason": "packed by mistake"}, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM copy WHERE use_as = 'distant' AND state = 'accepted'`), "in a kit and out of it again")
	var all []check.Yielded
	b.As["pip"].Yes("GET", "/api/yields", nil, &all)
	require.NotEmpty(t, all)
	for _, y := range all {
		assert.Equal(t, []int{1, 0, 1}, []int{y.Made, y.Good, y.Less}, y.Of)
		assert.True(t, 0 < y.Low && y.Low < y.Mean && y.Mean < y.High && y.High < 1)
		assert.InDelta(t, 0.25, y.Mean, 1e-9, "a half good and a half bad were believed beforehand")
	}
}

// What is tried is kept with who and when; what is not on the list is refused.
func TestWhatIsTriedIsKept(t *testing.T) {
	b, _, first := finished(t)
	at := "/api/copies/" + first + "/trials"
	var list []check.Trial
	b.As["pip"].Yes("GET", at, nil, &list)
	mass := slices.IndexFunc(list, func(x check.Trial) bool { return x.What == "mass" })
	require.NotNil(t, list[mass].Planned)
	key := shoptest.Key()
	for range 2 {
		b.As["pip"].Yes("POST", at, m{"what": "mass", "result": "good", "value": 41.5, "key": key}, &list)
	}
	assert.Equal(t, 1, list[mass].Times)
	assert.Equal(t, 41.5, *list[mass].Last.Value)
	assert.Equal(t, "what", b.As["pip"].No("POST", at, m{"what": "song", "result": "good", "key": shoptest.Key()}).Field)
	assert.Equal(t, "value", b.As["pip"].No("POST", at, m{"what": "mass", "result": "good", "key": shoptest.Key()}).Field, "a measurement is a figure")
}
