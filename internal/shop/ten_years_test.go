package shop

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/piece"
	"yewmoor/internal/production"
)

func (b *bench) inWork() (codes []string) {
	var list []struct{ Code string }
	b.as["pip"].yes("GET", "/api/pieces", nil, &list)
	for _, p := range list {
		codes = append(codes, p.Code)
	}
	return codes
}

func (b *bench) found(words string) (codes []string) {
	var hits []struct{ Kind, Code string }
	b.as["pip"].yes("GET", "/api/search?words="+words, nil, &hits)
	for _, h := range hits {
		codes = append(codes, h.Kind+" "+h.Code)
	}
	return codes
}

func TestWhatIsOverIsPutAwayAndFoundAgain(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.as["maud"].yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), map[string]any{"day": "2026-01-23", "place": "quayside", "temp_c": 4, "rh": 0.85, "light": "daylight"}, &days)
	b.as["maud"].yes("PUT", "/api/pieces/"+code+"/days", map[string]any{"day_ids": []uint64{days[0].ID}}, nil)
	copyCode := b.poured(code)[0]
	assert.Equal(t, "on_the_bench", b.as["ivo"].no("POST", "/api/pieces/"+code+"/away", map[string]any{"away": true}).Code)

	b.clock.Set(monday.AddDate(0, 0, 90))
	require.NoError(t, b.s.Pieces.PutAwayWhatIsOver(t.Context()))
	assert.Equal(t, []string{code}, b.inWork(), "a copy is still curing")
	b.as["ivo"].yes("POST", fmt.Sprintf("/api/pots/%d/out", b.pot(copyCode).ID), map[string]any{}, nil)
	b.as["ivo"].yes("POST", "/api/copies/"+copyCode+"/verdict", map[string]any{"verdict": "scrap", "reason": "bubbles"}, nil)
	require.NoError(t, b.s.Pieces.PutAwayWhatIsOver(t.Context()))
	assert.Empty(t, b.inWork())
	assert.Equal(t, "piece "+code, b.found(code)[0], "search finds it all the same")
	assert.Contains(t, b.found("che"), "piece "+code, "by the beginning of a word")
	b.as["ivo"].yes("POST", "/api/pieces/"+code+"/away", map[string]any{"away": false}, nil)
	assert.Equal(t, []string{code}, b.inWork())
}

func TestSearchGoesByTheBeginningsOfCodesAndWords(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	copyCode := b.poured(code)[0]
	for words, want := range map[string]string{
		"bf-0": "piece " + code, copyCode: "copy " + copyCode, "x-00": "mix X-0001", "k-old": "lot K-old", "cheek": "piece " + code, "oren": "performer Oren Thale",
		"bell-found": "character BF", "the%20bell": "character BF", "softe": "lot S-1", "stor": "place ",
	} {
		assert.Contains(t, b.found(words), want, words)
	}
	for _, words := range []string{"%25", "_", "zzz", "'", `"`, "+", "*", "@", "(", "%5C"} {
		assert.Empty(t, b.found(words), "%s finds nothing and breaks nothing", words)
	}
}

func TestALotThatIsUsedUpLeavesTheShelf(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	lots := func(query string) (codes []string) {
		var list []struct{ Code string }
		b.as["pip"].yes("GET", "/api/lots"+query, nil, &list)
		for _, l := range list {
			codes = append(codes, l.Code)
		}
		return codes
	}
	b.as["maud"].yes("POST", "/api/lots/S-1/count", map[string]any{"part": "", "amount": "0 g", "note": "dregs"}, nil)
	assert.NotContains(t, lots(""), "S-1")
	assert.Equal(t, []string{"S-1"}, lots("?used_up=true"))
	b.as["maud"].yes("POST", "/api/lots/S-1/count", map[string]any{"part": "", "amount": "20 g", "note": "found behind the can"}, nil)
	assert.Contains(t, lots(""), "S-1")
}

func TestTheRoomsOldLogIsThinnedButNotUnderAStandingPot(t *testing.T) {
	b := newBench(t, nil)
	count := func(day time.Time) (n int) {
		require.NoError(t, b.s.DB.Get(&n, `SELECT COUNT(*) FROM room_reading WHERE at >= ? AND at < ?`, day, day.Add(time.Hour)))
		return n
	}
	for m := range 60 {
		for _, day := range []time.Time{monday.AddDate(0, 0, -100), monday.AddDate(0, 0, -5)} {
			_, err := b.s.DB.Exec(`INSERT IGNORE INTO room_reading (at, temp_c, rh) VALUES (?, 20, 0.5)`, day.Add(time.Duration(m)*time.Minute))
			require.NoError(t, err)
		}
	}
	code := b.begun()
	p, err := piece.Find(t.Context(), b.s.DB, code)
	require.NoError(t, err)
	_, err = b.s.DB.Exec(`INSERT INTO pot (piece_id, label, kind, family, model, started_at) VALUES (?, 'old', 'cure', 'silicone_addition', '{}', ?)`, p.ID, monday.AddDate(0, 0, -101))
	require.NoError(t, err)
	require.NoError(t, b.s.Build.Air.Thin(t.Context()))
	assert.Equal(t, 60, count(monday.AddDate(0, 0, -100)), "a pot still stands on it")
	_, err = b.s.DB.Exec(`UPDATE pot SET ended_at = ?`, monday)
	require.NoError(t, err)
	require.NoError(t, b.s.Build.Air.Thin(t.Context()))
	assert.Equal(t, 6, count(monday.AddDate(0, 0, -100)))
	assert.Equal(t, 60, count(monday.AddDate(0, 0, -5)))
}
