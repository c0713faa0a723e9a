package demo

// What the shop mixed for itself, what it keeps, and the lot that was called back.

import (
	"fmt"
	"time"

	"github.com/google/uuid"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/recipe"
	station "yewmoor/internal/station/mix"
	"yewmoor/internal/station/stores"
)

// delivered is the delivery of what recipes start from, and how the shop keeps what it
// always wants to have.
func (t *teller) delivered() {
	t.at(12, 1, 9, 30)
	line := func(slug, code, amount, expires, place string) stores.NewLot {
		return stores.NewLot{Material: slug, Code: code, Amount: amount, ExpiresOn: expires, Shelf: place}
	}
	_, err := t.s.Stores.Deliver(t.who["maud"], stores.Delivery{Supplier: "Copperbeck Stores", Note: "delivery note 118", Key: uuid.NewString(), Lines: []stores.NewLot{
		line("gelatin-powder", "25-101", "2 kg", "2027-11-30", "dry"), line("glycerin", "25-102", "3 kg", "2028-05-31", "dry"), line("sorbitol-70", "25-103", "3 kg", "2027-09-30", "dry"),
		line("foam-base", "25-104", "5 kg", "2026-01-29", "cold 2"), line("foam-agent", "25-105", "1 kg", "2026-06-30", "cold 2"), line("foam-cure", "25-106", "500 g", "2026-06-30", "cold 2"),
		line("foam-gel", "25-107", "500 g", "2026-06-30", "cold 2"), line("flour", "25-108", "2 kg", "2026-08-31", "dry"), line("syrup", "25-109", "3 kg", "2026-12-31", "dry"),
		line("tint-red", "25-110", "250 g", "2027-12-31", "paint"), line("tint-umber", "25-111", "120 g", "2027-12-31", "paint"), line("cocoa", "25-112", "200 g", "2026-12-31", "dry"),
		line("dye-food-red", "25-113", "60 g", "2027-03-31", "dry"), line("thickener-cellulose", "25-114", "250 g", "2028-12-31", "dry"), line("plaster-casting", "25-115", "25 kg", "2026-08-31", "bay 3"),
		line("stone-hard", "25-116", "25 kg", "2026-08-31", "bay 3"), line("alginate", "25-118", "2 kg", "2026-10-31", "dry"), line("acetone", "25-119", "800 g", "2030-12-31", "flammables"),
		line("alcohol-99", "25-120", "1.6 kg", "2030-12-31", "flammables"), line("pigment-gelatin-flesh", "25-121", "80 g",
			"2027-12-31", "paint"), line("fibre-gauze", "25-122", "300 g", "2030-12-31", "dry"), line("fibre-tissue", "25-123", "200 g", "2030-12-31", "dry"), line("powder-translucent", "24-140", "150 g", "2026-12-31", "paint"),
	}})
	t.try(err)
	keep := func(slug string, k material.Keep) {
		if t.err == nil {
			_, err := t.s.Stores.Change(t.who["maud"], slug, stores.Facts{Keep: &k, Source: material.SourceDefault})
			t.try(err)
		}
	}
	keep("silicone-gel", material.Keep{SafetyG: 4000, LeadDays: 10, PackG: 2000, MinOrderG: 2000, OpenLifeDays: 90, Supplier: "Harrow Rubber Works", Place: "cold 1"})
	keep("softener", material.Keep{SafetyG: 1000, LeadDays: 10, PackG: 1000, Supplier: "Harrow Rubber Works", Place: "cold 1"})
	keep("foam-base", material.Keep{SafetyG: 1000, LeadDays: 7, PackG: 5000, OpenLifeDays: 60, Supplier: "Saltmarsh Latex", Place: "cold 2"})
	keep("adhesive-acrylic", material.Keep{SafetyG: 200, LeadDays: 5, PackG: 250, Supplier: "Fenwright & Daughter", Place: "kit"})
}

// prepared are the mixes of Friday: a let-down, gelatin, blood, film for the brush,
// plaster, and a paste that waits to be weighed.
func (t *teller) prepared() {
	t.at(1, 9, 9, 0)
	put := func(who, slug string, grams float64, keepAs func(code string)) string {
		code := t.mixed(who, slug, grams, nil)
		if t.err == nil && keepAs != nil {
			keepAs(code)
		}
		return code
	}
	by := func(who, amount, place string) func(string) {
		return func(code string) {
			_, err := t.s.Mix.PutBy(t.who[who], code, station.Kept{Amount: amount, Shelf: place})
			t.try(err)
		}
	}
	put("ivo", "letdown-flesh", 100, by("ivo", "", "paint"))
	put("pip", "gelatin", 400, by("pip", "260 g", "dry"))
	blood := put("pip", "blood-running", 240, by("pip", "", "cold 2"))
	put("ivo", "encapsulator-acetone-brush", 120, by("ivo", "", "flammables"))
	put("ivo", "plaster-70", 900, func(code string) {
		_, err := t.s.Mix.Use(t.who["ivo"], code, station.Used{What: "a stand for the beak"})
		t.try(err)
	})
	t.plannedMix("pip", "latex-paste", 250)
	if t.err != nil {
		return
	}
	_, err := t.s.Mix.Try(t.who["pip"], "blood-running", station.Trial{Mix: blood, VolumeML: 0.1, WidthMM: 4, TiltDeg: 90, Readings: []station.Reading{{TimeS: 10, DistanceMM: 62}, {TimeS: 30, DistanceMM: 90}, {TimeS: 90, DistanceMM: 131}}, Words: "runs like thin syrup, gathers at the chin"})
	t.try(err)
}

// drawers are the brushes and towels of the shop, and what became of some on Friday.
func (t *teller) drawers() {
	t.at(1, 9, 16, 30)
	ids := map[string]uint64{}
	for _, n := range []station.NewTools{
		{Name: "Chip brush, 20 mm", Kind: "brush", N: 14, Place: "drawer 2", CostMinor: 80}, {Name: "Soft brush for film, 10 mm",
			Kind: "brush", N: 3, Place: "drawer 1", CostMinor: 920},
		{Name: "Stipple sponge, coarse", Kind: "sponge", N: 9, Place: "drawer 3", CostMinor: 60}, {Name: "White towel", Kind: "towel",
			N: 6, Place: "hook by the sink", CostMinor: 450},
		{Name: "Metal spatula", Kind: "spatula", N: 4, Place: "bench 1", CostMinor: 700}, {Name: "Whisk of the foam machine",
			Kind: "whisk", N: 1, Place: "bench 3"},
		{Name: "Bowl of the foam machine", Kind: "bowl", N: 1, Place: "bench 3", HoldsML: 5000}, {Name: "Mixing bowl, small", Kind: "bowl", N: 4, Place: "bench 1", HoldsML: 600},
	} {
		v, err := t.s.Mix.ToolsCame(t.who["pip"], n)
		t.try(err)
		for _, x := range v.List {
			ids[x.Name] = x.ID
		}
	}
	done := func(name string, a station.ToolAct) {
		if t.err == nil {
			_, err := t.s.Mix.ToolDone(t.who["pip"], ids[name], a)
			t.try(err)
		}
	}
	done("Chip brush, 20 mm", station.ToolAct{Act: "thrown", N: 2, Medium: "latex, wet", Why: "dried over lunch"})
	done("White towel", station.ToolAct{Act: "messy", N: 2, Why: "blood stays in them"})
	done("White towel", station.ToolAct{Act: "thrown", N: 1, Medium: "blood and dye", Why: "red through and through"})
	done("Metal spatula", station.ToolAct{Act: "used", Medium: "wax"})
	done("Soft brush for film, 10 mm", station.ToolAct{Act: "used", Medium: "film plastic"})
}

// whipped is the foam that stands in the bowl at ten past nine, and the powder that was
// called back before.
func (t *teller) whipped() {
	t.at(1, 12, 8, 45)
	_, err := t.s.Stores.CallBack(t.who["maud"], "24-140", "the supplier wrote on Sunday: damp got into the drum, lumps and a smell")
	t.try(err)
	t.at(1, 12, 9, 6)
	if t.err == nil {
		t.mixed("pip", "foam-latex", 420, func(st recipe.Step) bool { return st.Speed == "high" })
	}
}

func (t *teller) plannedMix(who, slug string, grams float64) station.View {
	if t.err != nil {
		return station.View{}
	}
	o := station.Order{Recipe: slug, Amount: mix.Question{Copies: 1}}
	o.Amount.Mass = &struct {
		Grams float64 `json:"grams"`
	}{grams}
	v, err := t.s.Mix.Plan(t.who[who], o)
	t.try(err)
	return v
}

// mixed carries a mix by a house recipe to its end, or up to the step that stop names,
// whose clock is then running.
func (t *teller) mixed(who, slug string, grams float64, stop func(recipe.Step) bool) string {
	v := t.plannedMix(who, slug, grams)
	if t.err != nil {
		return ""
	}
	ctx := t.who[who]
	var confirm []string
	for _, n := range v.Follows.Confirm {
		confirm = append(confirm, n.Code)
	}
	v, err := t.s.Mix.Begin(ctx, v.Code, confirm...)
	t.try(err)
	later := func(d time.Duration) { t.clock.Set(t.clock.Now().Add(d)) }
	for i := 0; t.err == nil && v.Current != 0 && i < 60; i++ {
		for _, l := range v.Lines {
			if l.Seq == v.Current {
				later(35 * time.Second)
				v, err = t.s.Mix.Weigh(ctx, v.Code, station.WeighIn{Seq: l.Seq, Key: uuid.NewString(), Typed: fmt.Sprintf("%.2f g", l.AddG)})
				t.try(err)
				break
			}
		}
		for _, st := range v.Steps {
			if t.err != nil || st.Seq != v.Current {
				continue
			}
			if st.Seconds > 0 {
				v, err = t.s.Mix.BeginStep(ctx, v.Code, st.Seq)
				t.try(err)
			}
			if stop != nil && stop(st.Step) {
				return v.Code
			}
			later(time.Duration(st.Seconds+5) * time.Second)
			typed := ""
			switch st.Act {
			case recipe.Back:
				typed = fmt.Sprintf("%.1f g", v.MassG*0.985)
			case recipe.Volume:
				typed = fmt.Sprintf("%.0f ml", v.MassG/0.957*4.5)
			}
			v, err = t.s.Mix.DoneStep(ctx, v.Code, st.Seq, station.StepDone{Typed: typed})
			t.try(err)
			break
		}
	}
	return v.Code
}
