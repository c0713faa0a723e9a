package shop_test

import (
	"fmt"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/copies"
	"yewmoor/internal/piece"
	"yewmoor/internal/production"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/handover"
	"yewmoor/internal/station/mix"
)

// What was typed wrong is put right by who may, with the old value in the
// record, until something depends on it; then the answer says what does.

func TestAPieceIsPutRight(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	right := m{"name": "Left cheek, barnacled", "region": "temple", "side": "L", "copies_wanted": 5, "performer": "Oren Thale", "production": "The Salt Road"}
	assert.Equal(t, "not_yours", b.As["pip"].No("PUT", "/api/pieces/"+code, right).Code)
	assert.Equal(t, "region", b.As["ivo"].No("PUT", "/api/pieces/"+code, shoptest.With(right, "region", "wing")).Field)
	var v piece.View
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code, right, &v)
	assert.Equal(t, []any{code + "-L", "temple", 5, "Oren Thale", "The Salt Road"}, []any{v.Code, v.Region, v.CopiesWanted, *v.Performer, v.Production}, "the side stands in its code")
	var words string
	require.NoError(t, b.S.DB.Get(&words, `SELECT words FROM journal WHERE act = 'corrected' AND code = ?`, v.Code))
	assert.Contains(t, words, "name: Left cheek, barnacled, was "+p.Name)
	assert.Contains(t, words, "region: temple, was "+p.Region)
	b.Poured(v.Code)
	no := b.As["ivo"].No("PUT", "/api/pieces/"+v.Code, shoptest.With(right, "region", "nose"))
	assert.Equal(t, []string{"depends", "region"}, []string{no.Code, no.Field})
	assert.Contains(t, no.Detail, "X-0001")
	b.As["ivo"].Yes("PUT", "/api/pieces/"+v.Code, shoptest.With(right, "name", "Cheek"), nil)
}

func TestADayAndALotArePutRight(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	p, err := piece.Find(t.Context(), b.S.DB, code)
	require.NoError(t, err)
	var days []production.Day
	b.As["ivo"].Yes("POST", fmt.Sprintf("/api/productions/%d/days", p.ProductionID), m{"day": "2026-02-03", "place": "quay", "temp_c": 8, "rh": 0.8, "light": "day"}, &days)
	id := days[len(days)-1].ID
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/days", m{"day_ids": []uint64{id}}, nil)
	no := b.As["ivo"].No("DELETE", fmt.Sprintf("/api/days/%d", id), nil)
	assert.Contains(t, no.Detail, code)
	b.As["ivo"].Yes("PUT", "/api/pieces/"+code+"/days", m{"day_ids": []uint64{}}, nil)
	b.As["ivo"].Yes("DELETE", fmt.Sprintf("/api/days/%d", id), nil, nil)
	assert.Equal(t, 404, b.As["ivo"].No("DELETE", fmt.Sprintf("/api/days/%d", id), nil).Status)

	b.As["maud"].Yes("POST", "/api/lots", m{"material": "remover-ester", "code": "R-1", "amount": "500 g", "expires_on": "2026-09-01"}, nil)
	right := m{"code": "R-7", "material": "remover-silicone", "expires_on": "2026-10-01", "reason": "read off the wrong tin"}
	assert.Equal(t, "reason", b.As["ivo"].No("PUT", "/api/lots/R-1", shoptest.With(right, "reason", " ")).Field)
	b.As["ivo"].Yes("PUT", "/api/lots/R-1", right, nil)
	assert.Equal(t, 404, b.As["ivo"].No("GET", "/api/lots/R-1", nil).Status)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE kind = 'lot' AND code = 'R-7' AND act = 'corrected' AND words LIKE 'was R-1, %wrong tin'`))
	b.Poured(code)
	var used string
	require.NoError(t, b.S.DB.Get(&used, `SELECT l.code FROM movement v JOIN lot l ON l.id = v.lot_id WHERE v.reason = 'weighed' LIMIT 1`))
	no = b.As["ivo"].No("PUT", "/api/lots/"+used, shoptest.With(right, "code", "Z-9"))
	assert.Equal(t, "depends", no.Code)
	assert.Contains(t, no.Detail, "X-0001")
}

func TestAVerdictAndAKitAreTakenBack(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("latex_slush", "NZ", "forearm", 3)
	b.Through(b.Begin(code, 1))
	c := code + "-a"
	b.Finished(c)
	b.As["ivo"].Yes("POST", "/api/copies/"+c+"/verdict", m{"verdict": "accept"}, nil)
	back := "/api/copies/" + c + "/verdict/back"
	state := func() copies.State {
		var list []build.Copy
		b.As["pip"].Yes("GET", "/api/copies?piece="+code, nil, &list)
		return list[0].State
	}
	require.Equal(t, copies.Accepted, state())
	assert.Equal(t, "reason", b.As["ivo"].No("POST", back, m{"reason": ""}).Field)
	b.As["ivo"].Yes("POST", back, m{"reason": "it was the other one"}, nil)
	assert.Equal(t, copies.Made, state())
	assert.Equal(t, "no_verdict", b.As["ivo"].No("POST", back, m{"reason": "again"}).Code)
	b.As["ivo"].Yes("POST", "/api/copies/"+c+"/verdict", m{"verdict": "accept"}, nil)
	day := b.DayOf(code, "2026-01-23")
	var kit handover.Kit
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{c}}, &kit)
	assert.Contains(t, b.As["ivo"].No("POST", back, m{"reason": "wrong"}).Detail, kit.Code)
	b.As["ivo"].Yes("PUT", "/api/kits/"+kit.Code, m{"day_id": day.ID, "artist": "Fen", "note": "cold hands"}, &kit)
	assert.Equal(t, "Fen", kit.Artist)
	assert.Equal(t, "copies[0]", b.As["ivo"].No("POST", "/api/kits/"+kit.Code+"/unpack", m{"reason": "x", "copies": []string{"ZZ-1"}}).Field)
	b.As["ivo"].Yes("POST", "/api/kits/"+kit.Code+"/unpack", m{"reason": "the wrong day"}, &kit)
	assert.Empty(t, kit.Copies)
	assert.Equal(t, copies.Accepted, state())
	var list []handover.Kit
	b.As["pip"].Yes("GET", "/api/kits", nil, &list)
	assert.Empty(t, list, "an empty kit is no kit")
	b.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun", "copies": []string{c}}, &kit)
	b.As["maud"].Yes("POST", "/api/kits/"+kit.Code+"/hand", nil, nil)
	assert.Equal(t, "depends", b.As["ivo"].No("POST", "/api/kits/"+kit.Code+"/unpack", m{"reason": "too late"}).Code)
}

func TestAWeightIsPutRightUntilItIsPoured(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	var v mix.View
	b.As["ivo"].Yes("POST", "/api/mixes", shoptest.Order(code, nil), &v)
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/begin", nil, &v)
	lot := v.Lines[0].Lot
	before := b.OnHand(lot, "A")
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": 1, "key": shoptest.Key(), "typed": "3.1 g"}, &v)
	assert.Equal(t, "reason", b.As["pip"].No("POST", "/api/mixes/"+v.Code+"/put-right", m{"seq": 1, "typed": "2.5 g", "reason": ""}).Field)
	b.As["pip"].Yes("POST", "/api/mixes/"+v.Code+"/put-right", m{"seq": 1, "typed": "2.5 g", "reason": "read upside down"}, &v)
	assert.InDelta(t, 2.5, v.Lines[0].InCupG, 1e-9)
	assert.InDelta(t, before-2.5, b.OnHand(lot, "A"), 1e-9, "the books of the lot follow")
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM weigh_in`), "the first weight stands")
	assert.Equal(t, "nothing_in", b.As["pip"].No("POST", "/api/mixes/"+v.Code+"/put-right", m{"seq": 2, "typed": "1 g", "reason": "x"}).Code)
}

// A trace goes from the form and the version of the sculpt over the mould to the
// copies and kits, and back.
func TestATraceReachesFormSculptAndMould(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.As["ivo"].Yes("POST", "/api/forms", m{"kind": "core", "region": "cheek", "material": "resin", "made_on": "2026-01-05", "taken_how": "cast", "place": "rack"}, nil)
	var form string
	require.NoError(t, b.S.DB.Get(&form, `SELECT code FROM form LIMIT 1`))
	b.As["ivo"].Because("no texture").Yes("POST", "/api/pieces/"+code+"/moulds", m{"kind": "two-part block", "material": "hard stone", "core": form, "state": "dry", "made_on": "2026-01-05", "release_agent": "wax"}, nil)
	mould := code + "/M1"
	_, err := b.S.DB.Exec(`UPDATE mould SET texture_number = 3 WHERE code = ?`, mould)
	require.NoError(t, err)
	made := b.Poured(code, mould)[0]
	trace := func(kind, of, direction string) map[string][]string {
		var got map[string][]string
		b.As["pip"].Yes("GET", "/api/trace/"+kind+"/"+url.PathEscape(of)+"?direction="+direction, nil, &got)
		return got
	}
	assert.Equal(t, []string{made}, trace("form", form, "forward")["copy"])
	assert.Equal(t, []string{made}, trace("sculpt", code+" T3", "forward")["copy"])
	back := trace("copy", made, "backward")
	assert.Equal(t, []string{mould}, back["mould"])
	assert.Equal(t, []string{form}, back["form"])
	assert.Equal(t, []string{code + " T3"}, back["sculpt"])
	assert.NotEmpty(t, back["lot"])
}
