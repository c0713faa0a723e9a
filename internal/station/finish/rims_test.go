package finish_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/finish/edge"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/check"
	"yewmoor/internal/station/finish"
)

func edges(b *shoptest.Bench, code string) (e finish.Edges) {
	b.T.Helper()
	b.As["pip"].Yes("GET", "/api/copies/"+code+"/edges", nil, &e)
	return e
}

// looked is a look at the rim all round as it is sent.
func looked(step float64, more m) m {
	body := m{"kind": "edge", "name": "all round", "length_mm": 160, "intent": "vanish", "step_mm": step, "how": "measured", "key": shoptest.Key()}
	for k, v := range more {
		body[k] = v
	}
	return body
}

// A stretch is found, repaired and found again; each look stays, one that is sent twice
// counts once, and what is still seen keeps the copy from being accepted.
func TestAStretchIsMeasuredRepairedAndMeasuredAgain(t *testing.T) {
	b, _, first := benched(t)
	at := "/api/copies/" + first + "/edges"
	e := edges(b, first)
	require.NotEmpty(t, e.Rims)
	assert.Equal(t, "all round", e.Rims[0].Name)
	assert.Zero(t, e.Rims[0].ID, "nobody looked yet")
	assert.True(t, slices.ContainsFunc(e.Rims, func(r finish.Rim) bool { return r.Kind == "seam" }), "it came out of a mould")

	twice := looked(1.2, nil)
	b.As["pip"].Yes("POST", at, twice, &e)
	b.As["pip"].Yes("POST", at, twice, &e)
	require.Len(t, e.Rims[0].Looks, 1)
	assert.False(t, e.Rims[0].Does, "1.2 mm are seen")
	worse := e.Rims[0].Visible.Visibility
	b.Finished(first)
	no := b.As["ivo"].No("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"})
	assert.Contains(t, no.Detail, "all round")

	assert.Equal(t, "way", b.As["pip"].No("POST", at, looked(0.1, m{"way": "varnish"})).Field)
	assert.Equal(t, "hidden_by", b.As["pip"].No("POST", at, looked(0.1, m{"intent": "be hidden"})).Field)
	assert.Equal(t, 422, b.As["pip"].No("POST", at, looked(-1, nil)).Status)
	require.NotNil(t, e.Rims[0].Ways)
	way := e.Rims[0].Ways.Ways[0]
	b.As["pip"].Yes("POST", at, looked(0.02, m{"way": way, "coats": 3, "minutes": 12}), &e)
	require.Len(t, e.Rims[0].Looks, 2)
	assert.Less(t, e.Rims[0].Visible.Visibility, worse)
	assert.True(t, e.Rims[0].Does)
	var out check.Outcome
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"}, &out)
	assert.Equal(t, 1, out.Good)
	assert.Equal(t, "not_here", b.As["pip"].No("POST", at, looked(0.02, nil)).Code, "it is judged")
}

// What holds latex is refused where the wearer takes none, before anything is recorded.
func TestNoLatexOnAnEdgeOfWhoTakesNone(t *testing.T) {
	b, piece, first := benched(t)
	at := "/api/copies/" + first + "/edges"
	b.As["pip"].Yes("POST", at, looked(0.4, nil), nil)
	free := edges(b, first)
	latex := slices.IndexFunc(free.Methods, func(x edge.Method) bool { return x.Latex })
	require.GreaterOrEqual(t, latex, 0)
	b.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", b.Wearer(piece)), m{"substance": "latex", "status": "allergic"}, nil)
	e := edges(b, first)
	assert.False(t, e.LatexOK)
	id := free.Methods[latex].ID
	before := b.Count(`SELECT COUNT(*) FROM rim_look`)
	no := b.As["pip"].No("POST", at, looked(0.1, m{"way": id}))
	assert.Equal(t, "way", no.Field)
	assert.Equal(t, before, b.Count(`SELECT COUNT(*) FROM rim_look`))
}
