package shop

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/piece"
)

// together lets n people do the same at the same moment and counts the answers
// by their codes; "yes" is done.
func together(n int, do func(i int) (status int, r refused)) map[string]int {
	var mu sync.Mutex
	var all sync.WaitGroup
	counts, start := map[string]int{}, make(chan struct{})
	for i := range n {
		all.Add(1)
		go func() {
			defer all.Done()
			<-start
			status, r := do(i)
			mu.Lock()
			defer mu.Unlock()
			if status == 200 {
				r.Code = "yes"
			}
			counts[r.Code]++
		}()
	}
	close(start)
	all.Wait()
	return counts
}

func (b *bench) post(login, path string, body any) (int, refused) {
	var r refused
	status := b.as[login].send("POST", path, body, &r)
	return status, r
}

func (b *bench) count(query string, args ...any) (n int) {
	require.NoError(b.t, b.s.DB.Get(&n, query, args...))
	return n
}

var three = []string{"maud", "ivo", "pip"}

func TestOnePotIsTakenOutOnce(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	pot := b.pot(b.poured(b.begun())[0])
	b.clock.Set(monday.Add(5 * time.Hour))
	got := together(12, func(i int) (int, refused) {
		return b.post(three[i%3], fmt.Sprintf("/api/pots/%d/out", pot.ID), m{})
	})
	assert.Equal(t, 12, got["yes"], "each sees it taken out: %v", got)
	assert.Equal(t, 1, b.count(`SELECT COUNT(*) FROM journal WHERE act = 'demoulded'`))
}

func TestOneMixIsPouredOnce(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	for v.Current != 0 {
		b.pourG(v.Lines[v.Current-1].AddG)
		b.isIn(&v)
	}
	got := together(12, func(i int) (int, refused) {
		return b.post(three[i%3], "/api/mixes/"+v.Code+"/pour", m{"moulds": []string{""}})
	})
	assert.Equal(t, map[string]int{"yes": 1, "ended": 11}, got)
	assert.Equal(t, []int{1, 1, 1}, []int{b.count(`SELECT COUNT(*) FROM run`), b.count(`SELECT COUNT(*) FROM copy`), b.count(`SELECT COUNT(*) FROM pot`)})
}

func TestOneWeightSentByManyTabsCountsOnce(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	same := m{"seq": 1, "key": key(), "typed": "2.8 g"}
	got := together(12, func(i int) (int, refused) { return b.post("ivo", "/api/mixes/"+v.Code+"/weigh", same) })
	assert.Equal(t, 12, got["yes"], "each is told that it is in: %v", got)
	assert.Equal(t, 1, b.count(`SELECT COUNT(*) FROM weigh_in`))
	assert.InDelta(t, 397.2, b.onHand("K-old", "A"), 1e-9)
}

func TestTwoPeopleWeighOneLineAtOnce(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	v := b.weighed(b.begun())
	target := v.Lines[0].TargetG
	got := together(2, func(i int) (int, refused) {
		return b.post(three[i], "/api/mixes/"+v.Code+"/weigh", m{"seq": 1, "key": key(), "typed": fmt.Sprintf("%.2f g", target)})
	})
	assert.Equal(t, map[string]int{"yes": 1, "other_line": 1}, got, "the second sees that the sheet has moved on")
	assert.InDelta(t, 400-target, b.onHand("K-old", "A"), 0.01)
}

func TestOneCopyIsPackedIntoOneKit(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	copyCode := b.poured(code)[0]
	_, err := b.s.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.dayOf(code, "2026-01-23")
	got := together(8, func(i int) (int, refused) {
		return b.post(three[i%2], "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}})
	})
	assert.Equal(t, 1, got["yes"], got)
	assert.Equal(t, []int{1, 1}, []int{b.count(`SELECT COUNT(*) FROM kit`), b.count(`SELECT COUNT(*) FROM kit_copy`)}, "and no empty kit is left")
}

func TestOneSectionIsAgreedInOrder(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	for i, login := range []string{"maud", "ivo"} {
		d := plain()
		d.Layers[2].CentreMM = float64(4 + i)
		b.as[login].yes("PUT", "/api/pieces/"+code+"/section", m{"doc": d, "base": 1, "step": 0}, nil)
	}
	got := together(2, func(i int) (int, refused) {
		return b.post([]string{"maud", "ivo"}[i], "/api/pieces/"+code+"/section/agree", m{})
	})
	assert.Equal(t, map[string]int{"yes": 1, "newer_agreed": 1}, got)
	assert.Equal(t, 2, b.count(`SELECT COUNT(*) FROM document d JOIN document_version v ON v.document_id = d.id WHERE d.kind = 'section'`))
	assert.Equal(t, 1, b.count(`SELECT COUNT(*) FROM draft`), "the other's draft is kept")
}

func TestCodesAreHandedOutOnce(t *testing.T) {
	b := newBench(t, nil)
	got := together(15, func(i int) (int, refused) {
		return b.post(three[i%2], "/api/pieces", m{"production": "The Tallow Court", "character_code": "GC", "character_name": "the glover", "performer": "", "name": fmt.Sprintf("Piece %d", i), "region": "nose", "side": "", "copies_wanted": 1})
	})
	assert.Equal(t, map[string]int{"yes": 15}, got)
	assert.Equal(t, 15, b.count(`SELECT COUNT(DISTINCT code) FROM piece`))
	assert.Equal(t, 15, b.count(`SELECT MAX(number) FROM piece`), "and none is left out")
	assert.Equal(t, 1, b.count("SELECT COUNT(*) FROM `character`"), "one character, not fifteen")
}

func TestOneKitIsSignedForByTheFirst(t *testing.T) {
	b := newBench(t, nil)
	b.stocked()
	code := b.begun()
	copyCode := b.poured(code)[0]
	_, err := b.s.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.dayOf(code, "2026-01-23")
	b.as["maud"].yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{copyCode}}, nil)
	var made struct{ Token string }
	b.as["maud"].yes("POST", "/api/kits/K-001/links", m{"days": 2}, &made)
	together(6, func(i int) (int, refused) {
		return b.post("nobody", "/api/artist/"+made.Token+"/receipt", m{"name": fmt.Sprintf("Hand %d", i)})
	})
	assert.Equal(t, 1, b.count(`SELECT COUNT(*) FROM journal WHERE kind = 'kit' AND act = 'received'`))
}

// Undo by one hand in two windows never leaves the draft between two steps.
func TestUndoFromTwoWindowsStaysOnAStep(t *testing.T) {
	b := newBench(t, nil)
	code := b.begun()
	path := "/api/pieces/" + code + "/section"
	for i := range 6 {
		d := plain()
		d.Layers[2].CentreMM = float64(1 + i)
		b.as["ivo"].yes("PUT", path, m{"doc": d, "base": 1, "step": i}, nil)
	}
	together(10, func(i int) (int, refused) { return b.post("ivo", path+[]string{"/undo", "/redo"}[i%2], m{}) })
	var view piece.SectionView
	b.as["ivo"].yes("GET", path, nil, &view)
	assert.InDelta(t, float64(view.State.Step), view.Doc.Layers[2].CentreMM, 1e-9, "step and drawing belong together")
	assert.Equal(t, 6, view.State.Last)
}
