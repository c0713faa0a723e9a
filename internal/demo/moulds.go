package demo

// Moulds in every state, some of them on the scale day by day, and a life cast
// that is planned.

import (
	"math"

	"github.com/google/uuid"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/station/form"
	"yewmoor/internal/station/mould"
)

// weigh writes a weighing down.
func (t *teller) weigh(code, place string, kg float64) {
	if t.err != nil {
		return
	}
	_, err := t.s.Mould.Weigh(t.who["pip"], mould.NewWeighing{Code: code, KG: math.Round(1000*kg) / 1000, Source: "typed", Place: place, Key: uuid.NewString()})
	t.try(err)
}

// noTexture is why the demo's moulds went past a gate that nobody had planned.
const noTexture = "no texture was planned for this one; looked over at the bench"

// mould registers one and gives its code.
func (t *teller) mould(piece string, in mould.NewMould) string {
	if t.err != nil {
		return ""
	}
	in.MadeOn = t.clock.Now().Format("2006-01-02")
	list, err := t.s.Mould.Add(web.WithBecause(t.who["ivo"], noTexture), piece, in)
	t.try(err)
	if t.err != nil {
		return ""
	}
	return list[len(list)-1].Code
}

// drying are the moulds of the last two weeks: what dries, what was dry, what is
// hot, what was mended, what is over.
func (t *teller) drying() {
	block := func(life int, dry float64) mould.NewMould {
		return mould.NewMould{Kind: mouldmath.Block, Material: mouldmath.HardStone, State: "wet", ReleaseAgent: "wax paste", Separator: "soap, three coats", Parts: 2, Place: "laths by the door", Life: life, DryKG: dry}
	}
	// Dry by the scale since Sunday, and in use for foam: the cheeks' first.
	t.at(12, 29, 10, 0)
	dry := t.mould("AL-02", block(30, 5.9))
	for day := range 14 {
		t.at(12, 29, 11, 0)
		t.clock.Set(t.clock.Now().AddDate(0, 0, day))
		t.weigh(dry, "", 5.86+0.92*math.Exp(-float64(day)/2.1))
	}
	if t.err == nil {
		t.try(t.s.Mould.SetState(t.who["ivo"], dry, "hot"))
	}
	// Half way: poured on Wednesday, weighed every morning.
	t.at(1, 7, 9, 30)
	half := t.mould("AL-03", block(30, 3.35))
	for day, kg := range []float64{3.861, 3.742, 3.651, 3.583, 3.527} {
		t.at(1, 7+day, 16, 0)
		t.weigh(half, "", kg)
	}
	// The first one of the cheeks stood too near the oven and cracked.
	t.at(1, 2, 9, 0)
	gone := t.mould("GC-01", mould.NewMould{Kind: mouldmath.Slush, Material: mouldmath.CastingPlaster, State: "dry", Parts: 2, Place: "bench 2", Life: 15})
	mended := t.mould("PK-01", mould.NewMould{Kind: mouldmath.Liner, Material: mouldmath.SiliconeTin, Core: "F-002", State: "repaired", ReleaseAgent: "silicone release, sprayed", Separator: "petroleum jelly, thin", Parts: 2, Place: "rack 1", Life: 30})
	resting := t.mould("BF-01", mould.NewMould{Kind: mouldmath.Glove, Material: mouldmath.SiliconeTin, Core: "F-001", State: "resting", ReleaseAgent: "silicone release, sprayed", Parts: 1, Place: "rack 2", Life: 30})
	if t.err == nil {
		t.try(t.s.Mould.SetState(t.who["maud"], gone, "retired"))
	}
	_, _ = mended, resting
	for _, m := range []mould.NewMark{
		{Code: "BF-03/M1", Kind: "bubble", Place: "upper rim of the cheek", Words: "two pinheads"}, {Code: "BF-03/M1", Kind: "clean"},
		{Code: "BF-03/M1", Kind: "bubble", Place: "upper rim of the cheek", Words: "the same place"}, {Code: "BF-03/M2", Kind: "tear", Place: "lower edge", Words: "pulled too fast"},
	} {
		if t.err == nil {
			m.Key = uuid.NewString()
			_, err := t.s.Mould.Mark(t.who["ivo"], m)
			t.try(err)
		}
	}
	t.at(1, 9, 16, 30)
	plan := mouldmath.Order{Kind: mouldmath.Block, Stuff: mouldmath.HardStone, Core: true, CoreOf: mouldmath.HardStone, Release: "wax paste", Separate: "soap, three coats", Clay: "oil clay", Cast: "foam_latex", Baked: true, Parts: 1,
		Body: mouldmath.Body{AreaMM2: 9800, VolumeMM3: 62000, SizeMM: [3]float64{142, 74, 46}}}
	if t.err == nil {
		_, err := t.s.Mould.Lay(t.who["ivo"], "AL-01", plan)
		t.try(err)
	}
	if t.err == nil {
		l, err := t.s.Form.PlanLifeCast(t.who["maud"], form.NewLifeCast{Performer: "Nessa Quill", Region: "hand_back", Plan: mouldmath.LifeCast{Way: mouldmath.Alginate, AreaCM2: 420, WaterC: 18, Hair: "release cream on the wrist"}})
		t.try(err)
		for _, item := range []string{"sold-for-skin", "no-plaster", "two-people"} {
			if t.err == nil {
				_, err := t.s.Form.TickLifeCast(t.who["maud"], l.ID, item)
				t.try(err)
			}
		}
	}
	// Poured this morning: it still sets.
	t.at(1, 12, 8, 48)
	t.mould("FT-01", mould.NewMould{Kind: mouldmath.Plate, Material: mouldmath.CastingPlaster, State: "wet", ReleaseAgent: "petroleum jelly, thin", Parts: 1, Place: "bench 1", Life: 15, DryKG: 1.42})
}
