package check_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"yewmoor/internal/copies"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/check"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

// A verdict says what becomes of the copy, whether another run is needed, and
// where the piece stands then; what cannot be judged so is refused whole.
func TestAVerdictMovesTheCopyAndItsPiece(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun() // two copies wanted
	first := b.Poured(code)[0]
	verdict := "/api/copies/" + first + "/verdict"
	assert.Equal(t, "not_here", b.As["ivo"].No("POST", verdict, m{"verdict": "accept"}).Code, "it is still being made")
	assert.Equal(t, "not_here", b.As["ivo"].No("POST", verdict, m{"verdict": "repair", "reason": "why not"}).Code)
	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	b.Out(first)
	assert.Equal(t, "not_yours", b.As["pip"].No("POST", verdict, m{"verdict": "scrap", "reason": "torn"}).Code, "an apprentice does not judge")
	var out check.Outcome
	b.As["ivo"].Yes("POST", verdict, m{"verdict": "repair", "reason": "a pinhole"}, &out)
	assert.Equal(t, copies.Repair, out.State)
	assert.Equal(t, "finish", b.Place(code))
	b.Finished(first)
	b.As["ivo"].Yes("POST", verdict, m{"verdict": "accept"}, &out)
	assert.Equal(t, []int{1, 2, 0}, []int{out.Good, out.Wanted, out.Coming})
	assert.True(t, out.NeedsRun, "one of two")
	assert.Contains(t, out.Words, "Another run is needed for 1")
	b.As["maud"].Yes("POST", verdict, m{"verdict": "scrap", "reason": "fell on the floor"}, &out)
	assert.Equal(t, copies.Scrapped, out.State)
	assert.Equal(t, "mix", b.Place(code), "nothing is coming: it is mixed again")
	for _, v := range []string{"accept", "repair", "scrap"} {
		assert.Equal(t, "not_here", b.As["maud"].No("POST", verdict, m{"verdict": v, "reason": "once more"}).Code, "a scrapped copy stays scrapped")
	}
	assert.Equal(t, 3, b.Count(`SELECT COUNT(*) FROM verdict`), "what was refused left nothing")
}

// A copy that is scrapped while it is being made leaves no pot and frees its mould.
func TestWhatIsScrappedLeavesTheShelf(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.As["ivo"].Because("no texture on this one").Yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": "two-part block", "material": "hard stone", "state": "dry", "made_on": "2026-01-02"}, nil)
	first := b.Poured(code, code+"/M1")[0]
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM mould WHERE state = 'in_use'`))
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "scrap", "reason": "the mould leaked"}, nil)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM pot WHERE ended_at IS NULL`))
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM run WHERE ended_at IS NULL`))
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM mould WHERE state = 'resting'`))
}

// A copy that was taken out at two percent of its cure could be accepted like
// any other, and its sheet said nothing of it.
func TestWhatWasTakenOutTooEarlyIsStopped(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	copyCode := b.Poured(b.Begun())[0]
	b.Clock.Set(shoptest.Monday.Add(12 * time.Minute))
	var shelf build.Shelf
	b.As["ivo"].Yes("GET", "/api/pots", nil, &shelf)
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/pots/%d/out", shelf.Pots[0].ID), m{"reason": "the mould is needed"}, nil)
	b.Finished(copyCode)
	verdict := "/api/copies/" + copyCode + "/verdict"
	no := b.As["ivo"].No("POST", verdict, m{"verdict": "accept", "reason": "feels fine"})
	assert.Equal(t, "too_early", no.Code)
	assert.Regexp(t, `taken out at \d+ % of its cure`, no.Detail)
	assert.Equal(t, "reason", b.As["maud"].No("POST", verdict, m{"verdict": "accept"}).Field)
	b.As["maud"].Yes("POST", verdict, m{"verdict": "accept", "reason": "cut one open: through"}, nil)

	day := b.DayOf(copyCode[:len(copyCode)-2], "2026-01-23")
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}}, nil)
	var sheet struct{ Cautions []string }
	b.As["maud"].Yes("GET", "/api/kits/K-001/sheet", nil, &sheet)
	assert.Regexp(t, `taken out at \d+ % of its cure or drying; accepted by maud: cut one open: through`, strings.Join(sheet.Cautions, "\n"))
}
