package shop_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/handover"
	"yewmoor/internal/station/sculpt"
)

// put saves a change of a section as the next step of Maud's draft.
func put(b *shoptest.Bench, code string, change func(*section.Section)) piece.SectionView {
	v := b.Section("maud", code)
	change(&v.Doc)
	var out piece.SectionView
	b.As["maud"].Yes("PUT", "/api/pieces/"+code+"/section", m{"doc": v.Doc, "base": v.State.Base, "step": v.State.Step}, &out)
	return out
}

// What is drawn by hand, stirred in and said to touch the wearer is kept, compared,
// written to a file and read again from it.
func TestAHandDrawnShapeAndWhatIsStirredInAreTheSections(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	v := put(b, code, func(s *section.Section) {
		s.Layers[2].CentreMM, s.Layers[2].EdgeMM = 6, 0
		s.Layers[2].Shape = &section.Shape{From: section.ByHand, ProfileMM: []float64{6, 6, 5, 3, 0}}
		s.Layers[2].With = []section.Stir{{Material: "softener", Percent: 40}}
		s.Touching = []string{"glove-nitrile"}
	})
	assert.Greater(t, v.Result.Body.VolumeML, 34*0.18+0.1, "fuller than bodies usually fall")
	grams := map[string]float64{}
	for _, n := range v.Result.Materials {
		grams[n.Slug] = n.Grams
	}
	assert.InEpsilon(t, 0.4, grams["softener"]/grams["silicone-gel"], 1e-9)
	assert.Contains(t, strings.Join(v.Result.Words, " "), "with 40 % of silicone softener")
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/section/agree", m{}, nil)
	var file piece.SectionFile
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/section/file", nil, &file)
	raw, err := json.Marshal(file.Section)
	require.NoError(t, err)
	for _, want := range []string{`"shape":{"from":"hand","profile_mm":[6,6,5,3,0]}`, `"with":[{"material":"softener","percent":40}]`, `"touching":["glove-nitrile"]`} {
		assert.Contains(t, string(raw), want)
	}
	assert.Equal(t, "Silicone softener", file.Materials["softener"])
	// Another shape with the same ends is another section.
	put(b, code, func(s *section.Section) { s.Layers[2].Shape.ProfileMM[2] = 4 })
	var diff piece.SectionDifference
	b.As["maud"].Yes("GET", "/api/pieces/"+code+"/section/differences?from=2&to=draft", nil, &diff)
	require.Len(t, diff.Differences, 1)
	assert.Less(t, diff.Is.WornG, diff.Was.WornG)
	bad := b.Section("maud", code)
	bad.Doc.Layers[2].With = []section.Stir{{Material: "latex-balloon", Percent: 4}}
	assert.Equal(t, "layers[2].with[0].material", b.As["maud"].No("PUT", "/api/pieces/"+code+"/section", m{"doc": bad.Doc, "base": bad.State.Base, "step": bad.State.Step}).Field)
}

// The height of a texture is taken over into the body; a piece without one says so.
func TestABodyStandsAsItsTextureDoes(t *testing.T) {
	b := shoptest.New(t, nil)
	bare := b.Begun()
	var none sculpt.Course
	b.As["pip"].Yes("GET", "/api/pieces/"+bare+"/texture/course?centre_mm=5&edge_mm=0.1", nil, &none)
	assert.Empty(t, none.ProfileMM)
	b = shoptest.New(t, nil)
	code, v := b.Planned()
	var on sculpt.Course
	b.As["pip"].Yes("GET", "/api/pieces/"+code+"/texture/course?centre_mm=5&edge_mm=0.1", nil, &on)
	require.Len(t, on.ProfileMM, 9)
	plain := section.Layer{CentreMM: 5, EdgeMM: 0.1}.Over(make([]float64, 9))
	sum := 0.0
	for i := range plain {
		sum += on.ProfileMM[i] - plain[i]
	}
	// The relief as a whole is mostly taken away or mostly added: the body follows it.
	assert.Equal(t, v.Judged.Relief.MeanMM > 0, sum > 0, "mean relief %.3f mm, course %v over %v", v.Judged.Relief.MeanMM, on.ProfileMM, plain)
	put(b, code, func(s *section.Section) {
		s.Layers[2].CentreMM, s.Layers[2].EdgeMM = on.ProfileMM[0], on.ProfileMM[8]
		s.Layers[2].Shape = &section.Shape{From: section.FromRelief, ProfileMM: on.ProfileMM}
	})
}

// What touches the wearer goes into the kit by its lot, and meets whoever packs and
// lays it on.
func TestGlovesGoIntoTheKitByTheirLot(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("wax", "NZ", "forearm", 3)
	put(b, code, func(s *section.Section) { s.Touching = []string{"glove-nitrile", "sponge-latex"} })
	var signed []m
	for _, f := range b.Section("maud", code).Findings {
		if f.Severity == "stop" {
			signed = append(signed, m{"id": f.ID, "at": f.At(), "reason": "only a test"})
		}
	}
	b.As["maud"].Yes("POST", "/api/pieces/"+code+"/section/agree", m{"signed": signed}, nil)
	b.Through(b.Begin(code, 1))
	b.Finished(code + "-a")
	b.As["ivo"].Yes("POST", "/api/copies/"+code+"-a/verdict", m{"verdict": "accept"}, nil)
	kit := m{"day_id": b.DayOf(code, "2026-01-23").ID, "artist": "Jun", "copies": []string{code + "-a"}}
	b.As["ivo"].Yes("POST", "/api/me/sensitivities", m{"substance": "latex", "status": "sensitive"}, nil)
	var k handover.Kit
	b.As["maud"].Yes("POST", "/api/kits", kit, &k)
	var sheet handover.SheetView
	b.As["maud"].Yes("GET", "/api/kits/"+k.Code+"/sheet", nil, &sheet)
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM kit_lot k JOIN lot l ON l.id = k.lot_id JOIN material m ON m.id = l.material_id WHERE m.slug IN ('glove-nitrile', 'sponge-latex')`))
	lots := strings.Join(sheet.Copies[0].Lots, "; ")
	assert.Contains(t, lots, "Gloves, nitrile L-glove-nitrile")
	assert.Contains(t, lots, "Stipple sponge, latex foam L-sponge-latex")
}

// Latex, film and foam are taken from their lots wet, as the stages book them.
func TestStagesBookWhatIsWet(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	code := b.By("foam_latex", "AL", "forehead", 8)
	r := b.Section("maud", code).Result
	run := b.Through(b.Begin(code, 1))
	booked := 0.0
	require.NoError(t, b.S.DB.Get(&booked, `SELECT COALESCE(-SUM(v.grams), 0) FROM movement v JOIN lot l ON l.id = v.lot_id JOIN material m ON m.id = l.material_id WHERE m.slug = 'foam-latex' AND v.grams < 0`))
	assert.InDelta(t, r.Of("body").WetG, booked, 0.011, "foam is booked as the liquid that is whipped")
	assert.InEpsilon(t, r.Of("body").MassG/0.6*0.95*0.95*0.95, booked, 0.01)
	acts := []string{}
	for _, st := range run.Stages {
		acts = append(acts, st.Act)
		if st.Act == "wash" {
			assert.Greater(t, st.WaitS, 3600.0, "and dries after it was washed")
		}
	}
	assert.Contains(t, acts, "wash")
}
