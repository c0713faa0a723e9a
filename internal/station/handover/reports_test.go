package handover_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/handover"
)

func (p packed) report(more m) m {
	out := m{"key": shoptest.Key(), "kind": "lifted", "copy": p.copies[0], "words": "at the mouth corner"}
	for k, v := range more {
		out[k] = v
	}
	return out
}

func (p packed) send(report m) {
	p.T.Helper()
	p.As["nobody"].Yes("POST", p.page+"/reports", report, nil)
}

// picture adds a picture to a report by its key.
func (p packed) picture(report, key string) int {
	p.T.Helper()
	status, _ := p.Sent("nobody", p.page+"/reports/"+report+"/pictures", map[string]string{"key": key}, []byte(shoptest.Picture(p.T, 60, 40)))
	return status
}

// A report goes to its copy, layer and lot, comes once however often it is sent, and is answered once.
func TestAReportGoesToWhatItIsAbout(t *testing.T) {
	p := pack(t)
	r := p.report(m{"layer": "glue", "hour_h": 3})
	shoptest.Together(5, func(int) (int, shoptest.Refused) { return p.Post("nobody", p.page+"/reports", r) })
	key := r["key"].(string)
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM artist_report`))
	pictures := make([]string, 20)
	for i := range pictures {
		pictures[i] = shoptest.Key()
	}
	for range 2 { // the line broke after the first round
		for _, k := range pictures {
			assert.Equal(t, 200, p.picture(key, k))
		}
	}
	var k handover.Kit
	p.As["pip"].Yes("GET", "/api/kits/"+p.kit, nil, &k)
	got := k.Reports[0]
	assert.Len(t, got.Pictures, 20, "nothing doubled, nothing lost")
	assert.Equal(t, []any{p.copies[0], p.piece, "Acrylic adhesive, medical", "L-adhesive-acrylic", 3.0}, []any{got.Copy, got.Piece, got.Layer, got.Lot, *got.HourH})
	status, body := p.File("nobody", p.page+"/pictures/"+got.Pictures[0].SHA256)
	assert.Equal(t, http.StatusOK, status, string(body))
	status, _ = p.File("nobody", p.page+"/pictures/"+strings.Repeat("a", 64))
	assert.Equal(t, http.StatusNotFound, status)
	assert.Equal(t, http.StatusNotFound, p.picture(shoptest.Key(), shoptest.Key()), "of no report")
	assert.Equal(t, "copy", p.As["nobody"].No("POST", p.page+"/reports", p.report(m{"copy": p.copies[1]})).Field, "of another kit")
	assert.Equal(t, "layer", p.As["nobody"].No("POST", p.page+"/reports", p.report(m{"layer": "nothing"})).Field)
	assert.Contains(t, p.Tasks(), "Answer Jun Abbot")
	answer := fmt.Sprintf("/api/reports/%d/answer", got.ID)
	got4 := shoptest.Together(4, func(i int) (int, shoptest.Refused) {
		return p.Post("ivo", answer, m{"words": fmt.Sprint("glue it twice ", i)})
	})
	assert.Equal(t, 1, got4["yes"], got4)
	assert.Contains(t, p.view().Reports[0].Answer, "glue it twice")
	assert.NotContains(t, p.Tasks(), "Answer Jun Abbot")
	p.send(p.report(m{"kind": "wear", "worn_h": 6, "words": ""}))
	p.As["ivo"].Yes("POST", "/api/kits/"+p.kit+"/hand", nil, nil)
	p.send(p.report(m{"kind": "removal", "worn_h": 7, "words": "came off clean"}))
	assert.Equal(t, 7.0, p.Float(`SELECT worn_h FROM copy_use`))
}

// Skin that reacted is an incident: it stops what holds the same, its words are read by few and can be erased, and closing it
// clears nothing.
func TestSkinThatReactedStopsWhatHoldsTheSame(t *testing.T) {
	p := pack(t)
	p.As["ivo"].Yes("POST", "/api/kits/"+p.kit+"/hand", nil, nil)
	reaction := p.report(m{"kind": "reaction", "redness": 3, "words": "hot and itching under the edge"})
	for range 3 {
		p.send(reaction)
	}
	assert.Equal(t, 200, p.picture(reaction["key"].(string), shoptest.Key()))
	var list []handover.Incident
	p.As["maud"].Yes("GET", "/api/incidents", nil, &list)
	require.Len(t, list, 1)
	i := list[0]
	assert.Equal(t, []any{"Wearer GC", p.copies[0], 3, "hot and itching under the edge"}, []any{i.Performer, i.Copy, i.Redness, i.Words})
	assert.Equal(t, []string{p.piece}, i.Planned)
	assert.Len(t, i.Pictures, 1)
	var lots []string
	for _, s := range i.Stuff {
		lots = append(lots, s.Lot)
	}
	assert.Contains(t, lots, "L-adhesive-acrylic")
	// Of health beyond need nothing: neither in the record, nor in the report that everybody reads, nor for an apprentice.
	assert.Zero(t, p.Count(`SELECT COUNT(*) FROM journal WHERE words LIKE '%itching%'`)+p.Count(`SELECT COUNT(*) FROM artist_report WHERE words LIKE '%itching%'`))
	assert.Equal(t, http.StatusForbidden, p.As["pip"].No("GET", "/api/incidents", nil).Status)
	assert.Positive(t, p.Count(`SELECT COUNT(*) FROM journal WHERE act = 'incidents looked at'`))
	// The same stuff does not go on again: not worn again, not packed anew without a lead's reason.
	day := p.DayOf(p.piece, "2026-01-25")
	assert.Equal(t, "incident", p.As["ivo"].No("POST", "/api/kits/"+p.kit+"/return", m{"copies": []m{{"code": p.copies[0], "back": "again"}}, "items": []m{}}).Code)
	again := m{"day_id": day.ID, "artist": "Jun Abbot", "copies": p.copies[1:2]}
	no := p.As["ivo"].Because("it will do").No("POST", "/api/kits", again)
	assert.Equal(t, "rule", no.Code)
	assert.Contains(t, no.Detail, "SAF-2")
	assert.Equal(t, "say_why", p.As["maud"].No("POST", "/api/kits", again).Code, "a stop: a lead, with a reason")
	assert.Contains(t, p.Tasks(), "Read what a skin reacted to")
	closing := fmt.Sprintf("/api/incidents/%d/close", i.ID)
	assert.Equal(t, http.StatusForbidden, p.As["ivo"].No("POST", closing, m{"words": "asked"}).Status)
	assert.Equal(t, "words", p.As["maud"].No("POST", closing, m{"words": " "}).Field)
	p.As["maud"].Yes("POST", closing, m{"words": "the set's doctor was asked"}, &list)
	assert.Equal(t, "maud", list[0].ClosedBy)
	assert.NotContains(t, p.Tasks(), "Read what a skin reacted to")
	assert.Equal(t, "say_why", p.As["maud"].No("POST", "/api/kits", again).Code, "closing clears nothing")
	p.As["maud"].Yes("DELETE", fmt.Sprintf("/api/incidents/%d", i.ID), nil, &list)
	assert.Empty(t, list)
	assert.Zero(t, p.Count(`SELECT COUNT(*) FROM report_picture`), "its pictures too")
	p.As["maud"].Because("a test").Yes("POST", "/api/kits", again, nil)
}

// A recall reaches a page with its next word; the shop sees who was not reached since, and the first answer stands.
func TestARecallReachesThePage(t *testing.T) {
	p := pack(t)
	p.As["ivo"].Yes("POST", "/api/kits/"+p.kit+"/hand", nil, nil)
	var heard handover.Heard
	p.As["nobody"].Yes("GET", p.page+"/heard", nil, &heard)
	assert.Empty(t, heard.Recalls)
	p.Real = p.Real.AddDate(-1, 0, 0) // a letter is written by the database's own time
	var list []handover.NotReached
	p.As["maud"].Yes("POST", "/api/recalls", m{"lot": "L-adhesive-acrylic", "reason": "the supplier wrote"}, nil)
	_, err := p.S.DB.Exec(`UPDATE artist_link SET asked_at = ?`, p.Real)
	require.NoError(t, err)
	p.As["pip"].Yes("GET", "/api/not-reached", nil, &list)
	require.Len(t, list, 1)
	assert.Equal(t, []any{p.kit, false}, []any{list[0].Kit, list[0].Reached})
	p.As["nobody"].Yes("GET", p.page+"/heard", nil, &heard)
	require.Len(t, heard.Recalls, 1)
	assert.Contains(t, heard.Recalls[0].What, "L-adhesive-acrylic")
	answer := p.page + "/recalls/" + heard.Recalls[0].Recall
	assert.Equal(t, "words", p.As["nobody"].No("POST", answer, m{"words": ""}).Field)
	for _, words := range []string{"not used", "something else"} {
		p.As["nobody"].Yes("POST", answer, m{"words": words}, nil)
	}
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM recall_letter WHERE answer = 'not used'`))
	p.As["pip"].Yes("GET", "/api/not-reached", nil, &list)
	assert.Empty(t, list)
}

// Nothing of other performers, of the shop's people or of why is on the page; what must not be used is.
func TestThePageTellsNoMoreThanItMust(t *testing.T) {
	p := pack(t)
	p.By("latex_paste", "PK", "chin", 4)
	wearer := p.Wearer(p.piece)
	p.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", wearer), m{"substance": "rosin", "status": "allergic", "note": "hives in 2019"}, nil)
	raw, err := json.Marshal(p.view())
	require.NoError(t, err)
	page := strings.ToLower(string(raw))
	for _, words := range []string{"allergic", "hives", "wearer pk", "pk-01", "patch"} {
		assert.NotContains(t, page, words)
	}
	assert.Contains(t, strings.ToLower(strings.Join(p.view().Cautions, " ")), "colophony", "but what must not be used is said")
	assert.Equal(t, "link_ended", p.As["nobody"].No("GET", "/api/artist/"+strings.Repeat("x", 32), nil).Code)
	status, body := p.File("nobody", p.page+"/maps/"+p.piece)
	assert.Equal(t, 200, status)
	assert.Contains(t, string(body), "<svg")
	status, _ = p.File("nobody", p.page+"/maps/PK-01")
	assert.Equal(t, 404, status, "another's map is not its own")
}
