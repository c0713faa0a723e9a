package today_test

import (
	"fmt"
	"testing"
	"time"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

// Today follows a piece through the shop: each step done makes the next one
// the thing to do.
func TestTodayNamesWhatComesNext(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	assert.Empty(t, b.Tasks())
	p, err := b.S.Pieces.Create(b.Who["maud"], piece.NewPiece{Production: "The Tallow Court", CharacterCode: "BF", CharacterName: "the bell-founder", Performer: "Oren Thale", Name: "Cheek", Region: "cheek", CopiesWanted: 1})
	require.NoError(t, err)
	code := p.Code
	assert.Equal(t, []string{"Agree the brief of " + code}, b.Tasks())
	err = b.S.Pieces.SaveBrief(b.Who["maud"], code, piece.Brief{Camera: "medium", AreaCM2: 34, KeepFree: []string{}, Features: []piece.Feature{}}, 0, 0)
	require.NoError(t, err)
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/brief/agree", m{}, nil)
	assert.Equal(t, []string{"Draw the section of " + code}, b.Tasks())
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": shoptest.Plain(), "base": 0, "step": 0}, nil)
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/section/agree", m{}, nil)
	assert.Equal(t, []string{"Mix for " + code + ", 1 still missing"}, b.Tasks())

	v := b.Weighed(code)
	assert.Equal(t, []string{"Go on weighing " + v.Code}, b.Tasks())
	for v.Current != 0 {
		b.PourG(v.Lines[v.Current-1].AddG)
		b.IsIn(&v)
	}
	assert.Equal(t, []string{"Pour " + v.Code + " into " + code}, b.Tasks(), "the clock runs: it comes first")
	var poured mix.Poured
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/pour", m{"moulds": []string{""}}, &poured)
	copyCode := poured.Copies[0]
	wait := b.Today()
	assert.Nil(t, wait.Now, "nothing for hands while it cures")
	assert.Contains(t, wait.Then[0].Title, copyCode)
	assert.Positive(t, wait.Then[0].InS)

	b.Clock.Set(shoptest.Monday.Add(5 * time.Hour))
	assert.Equal(t, []string{"Take out " + copyCode}, b.Tasks())
	b.As["pip"].Yes("POST", fmt.Sprintf("/api/pots/%d/out", b.Pot(copyCode).ID), m{}, nil)
	assert.Equal(t, []string{"Finish " + copyCode}, b.Tasks())
	b.Finished(copyCode)
	assert.Equal(t, []string{"Check " + copyCode}, b.Tasks())
	b.As["ivo"].Yes("POST", "/api/copies/"+copyCode+"/verdict", m{"verdict": "repair", "reason": "a pinhole"}, nil)
	assert.Equal(t, []string{"Finish " + copyCode}, b.Tasks())
	b.Finished(copyCode)
	assert.Equal(t, []string{"Check " + copyCode}, b.Tasks(), "it is mended: it waits for a verdict again")
	b.As["ivo"].Yes("POST", "/api/copies/"+copyCode+"/verdict", m{"verdict": "accept"}, nil)
	assert.Equal(t, []string{"Pack " + copyCode}, b.Tasks())
	day := b.DayOf(code, "2026-01-23")
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}}, nil)
	assert.Equal(t, []string{"Hand over K-001"}, b.Tasks())
	b.As["maud"].Yes("POST", "/api/kits/K-001/hand", m{}, nil)
	assert.Empty(t, b.Tasks())
	assert.Equal(t, "handed over", b.Today().Notes[0].Act)
}

func TestSearchGoesByTheBeginningsOfCodesAndWords(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	copyCode := b.Poured(code)[0]
	for words, want := range map[string]string{
		"bf-0": "piece " + code, copyCode: "copy " + copyCode, "x-00": "mix X-0001", "k-old": "lot K-old", "cheek": "piece " + code, "oren": "performer Oren Thale",
		"bell-found": "character BF", "the%20bell": "character BF", "softe": "lot S-1", "stor": "place ",
	} {
		assert.Contains(t, b.Found(words), want, words)
	}
	for _, words := range []string{"%25", "_", "zzz", "'", `"`, "+", "*", "@", "(", "%5C"} {
		assert.Empty(t, b.Found(words), "%s finds nothing and breaks nothing", words)
	}
}

// What fits into a wait is offered, the most pressing first, and nothing of the piece that
// waits; a bowl whose window is shut is said to be too late, not to be filled.
func TestAWaitIsOfferedWhatFitsIntoIt(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := b.Begin(b.By("foam_latex", "NA", "nose", 6), 1)
	b.Done("ivo", r.Code, 1, m{})
	b.Clock.Set(b.Clock.Now().Add(30 * time.Minute))
	titles := b.Tasks()
	assert.Contains(t, titles, r.Copies[0].Code+" whip: too late to fill")
	var fits []struct {
		Title, Piece string
		HandS        float64 `json:"hand_s"`
	}
	b.As["pip"].Yes("GET", "/api/meanwhile?wait_s=3600", nil, &fits)
	require.NotEmpty(t, fits)
	for _, f := range fits {
		assert.LessOrEqual(t, f.HandS, 3600.0)
	}
	b.As["pip"].Yes("GET", "/api/meanwhile?wait_s=3600&piece="+r.Piece, nil, &fits)
	for _, f := range fits {
		assert.NotEqual(t, r.Piece, f.Piece)
	}
	b.As["pip"].Yes("GET", "/api/meanwhile?wait_s=60", nil, &fits)
	assert.Empty(t, fits, "nothing fits into a minute")
}
