package mix_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"
	"yewmoor/internal/station/stores"
)

// byRecipe plans a mix of the shop by a recipe, confirms what is asked and puts it
// on the bench.
func byRecipe(b *shoptest.Bench, slug string, more m) mix.View {
	b.T.Helper()
	order := m{"recipe": slug, "additions": []m{}, "lots": []m{}, "split": m{}, "amount": m{"mass": m{"grams": 300}, "copies": 1, "spare": 0, "waste": 0, "density": 0}}
	for k, v := range more {
		order[k] = v
	}
	var v mix.View
	b.As["ivo"].Yes("POST", "/api/mixes", order, &v)
	confirm := []string{}
	for _, n := range v.Follows.Confirm {
		confirm = append(confirm, n.Code)
	}
	if len(confirm) > 0 {
		no := b.As["ivo"].No("POST", "/api/mixes/"+v.Code+"/begin", nil)
		assert.Equal(b.T, "confirm", no.Code, slug)
	}
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/begin", m{"confirmed": confirm}, &v)
	return v
}

// next does whatever is next by hand and clock: weights typed as they are asked for,
// steps after their time. measured answers the steps that measure.
func next(b *shoptest.Bench, v *mix.View, measured func(recipe.Step) string) {
	b.T.Helper()
	for _, l := range v.Lines {
		if l.Seq == v.Current {
			b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": l.Seq, "key": shoptest.Key(), "typed": fmt.Sprintf("%.4f g", l.AddG)}, v)
			return
		}
	}
	for _, st := range v.Steps {
		if st.Seq != v.Current {
			continue
		}
		at := fmt.Sprintf("/api/mixes/%s/steps/%d", v.Code, st.Seq)
		if st.Seconds > 0 {
			b.As["ivo"].Yes("POST", at+"/begin", nil, v)
			no := b.As["ivo"].No("POST", at+"/done", m{})
			assert.Equal(b.T, "too_early", no.Code)
			b.Clock.Set(b.Clock.Now().Add(time.Duration(st.Seconds+1) * time.Second))
		}
		b.As["ivo"].Yes("POST", at+"/done", m{"typed": measured(st.Step)}, v)
		return
	}
	b.T.Fatalf("%s: nothing is at %d", v.Code, v.Current)
}

func usual(v *mix.View) func(recipe.Step) string {
	return func(st recipe.Step) string {
		switch st.Act {
		case recipe.Volume:
			return fmt.Sprintf("%.0f ml", v.MassG/0.957*5)
		case recipe.Back:
			return fmt.Sprintf("%.1f g", v.MassG-4)
		}
		return ""
	}
}

// Every recipe that a shop starts with goes from its sheet to its end, and not a
// gram is lost on the way.
func TestEveryRecipeIsMixedAndEveryGramIsTraced(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	for _, h := range recipe.Library() {
		t.Run(h.Slug, func(t *testing.T) {
			drawn := func() float64 {
				return -b.Float(`SELECT COALESCE(SUM(v.grams), 0) FROM movement v JOIN weigh_in w ON w.id = v.weigh_in_id JOIN mix_line n ON n.id = w.mix_line_id`)
			}
			tap := func() float64 {
				return b.Float(`SELECT COALESCE(SUM(w.grams), 0) FROM weigh_in w JOIN mix_line n ON n.id = w.mix_line_id WHERE n.lot_id IS NULL`)
			}
			before := drawn() + tap()
			v := byRecipe(b, h.Slug, nil)
			for i := 0; v.Current != 0; i++ {
				require.Less(t, i, 40)
				next(b, &v, usual(&v))
			}
			inCup := 0.0
			for _, l := range v.Lines {
				inCup += l.InCupG
				assert.InDelta(t, l.TargetG, l.InCupG, l.TolG+1e-6, l.Name)
			}
			assert.InDelta(t, inCup, drawn()+tap()-before, 1e-3, "what is in the cup came out of lots or the tap")
			if v.KeepH == 0 {
				b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/use", m{"what": "a test pour"}, &v)
				assert.Equal(t, "used", v.State)
				return
			}
			mass := v.MassG
			b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/put-by", m{"shelf": "cold 1"}, &v)
			assert.Equal(t, "put_by", v.State)
			assert.InDelta(t, mass, b.OnHand(v.Code, ""), 1e-3)
			worth := b.Float(`SELECT SUM(value_minor) FROM movement v JOIN lot l ON l.id = v.lot_id WHERE l.code = ?`, v.Code)
			cost := -b.Float(`SELECT COALESCE(SUM(v.value_minor), 0) FROM movement v JOIN weigh_in w ON w.id = v.weigh_in_id JOIN mix_line n ON n.id = w.mix_line_id JOIN mix x ON x.id = n.mix_id WHERE x.code = ?`, v.Code)
			assert.InDelta(t, cost, worth, 0.5, "it is worth what went into it")
		})
	}
	// The moving averages add up to the minor unit over all that was moved.
	assert.InDelta(t, b.Float(`SELECT SUM(value_minor) FROM movement`), b.Float(`SELECT SUM(minor) FROM stock_value`), 1e-9)
	assert.InDelta(t, b.Float(`SELECT SUM(grams) FROM movement`), b.Float(`SELECT SUM(grams) FROM stock_value`), 1e-6)
}

// A base loses water as it is melted; what is weighed back tells how much goes in
// again, and a base that was put by and melted again comes back to what it was
// mixed at.
func TestGelatinIsWeighedBackAndToppedUpOverReMelts(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	v := byRecipe(b, "gelatin", nil)
	for v.Current != 0 {
		next(b, &v, usual(&v)) // four grams of water are gone
	}
	top := v.Lines[len(v.Lines)-1]
	assert.True(t, top.TopUp)
	assert.InDelta(t, 4, top.InCupG, 0.05, "all that is missing is water")
	assert.InDelta(t, 300, v.MassG, 0.2)
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/put-by", m{"amount": "250 g"}, &v)
	first := v.Code

	again := byRecipe(b, "gelatin-remelt", m{"amount": m{"mass": m{"grams": 200}, "copies": 1, "spare": 0, "waste": 0, "density": 0}, "lots": []m{{"line": "gelatin-animal", "lot": first, "why": "it is open"}}})
	assert.Equal(t, first, again.Lines[0].Lot)
	for again.Current != 0 {
		next(b, &again, func(st recipe.Step) string {
			if st.Act == recipe.Back {
				return "194 g"
			}
			return ""
		})
	}
	assert.InDelta(t, 6, again.Lines[1].InCupG, 0.05)
	assert.Contains(t, again.Message, "hot water")
	no := b.As["ivo"].No("POST", "/api/mixes/"+again.Code+"/put-by", m{"amount": "900 g"})
	assert.Equal(t, "amount", no.Field)

	// A pot that weighs more than what went into it was weighed with the pot.
	wrong := byRecipe(b, "gelatin", nil)
	for {
		step := mix.StepView{}
		for _, st := range wrong.Steps {
			if st.Seq == wrong.Current {
				step = st
			}
		}
		if step.Act == recipe.Back {
			break
		}
		next(b, &wrong, usual(&wrong))
	}
	no = b.As["ivo"].No("POST", fmt.Sprintf("/api/mixes/%s/steps/%d/done", wrong.Code, wrong.Current), m{"typed": "700 g"})
	assert.Equal(t, "typed", no.Field)
	assert.Contains(t, no.Detail, "pot's own weight")
}

// Foam: its rise is measured, its clock begins with the gelling agent, and the gel
// that was seen tells the next batch.
func TestFoamGoesByItsScheduleAndLearnsItsGel(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	v := byRecipe(b, "foam-latex", nil)
	predicted := v.Working.HighS
	assert.Positive(t, predicted)
	for v.ContactAt == nil {
		next(b, &v, usual(&v))
	}
	last := v.Lines[len(v.Lines)-1]
	assert.Equal(t, "foam-gel", last.Material)
	assert.Positive(t, last.InCupG, "the clock begins with the gelling agent")
	for _, st := range v.Steps {
		if st.Act == recipe.Volume {
			assert.Contains(t, st.Note, "5.0 times")
		}
	}
	for v.Current != 0 {
		b.Clock.Set(v.ContactAt.Add(400 * time.Second))
		next(b, &v, usual(&v))
	}
	for i := range 3 {
		if i > 0 {
			v = byRecipe(b, "foam-latex", nil)
			for v.Current != 0 {
				if v.ContactAt != nil {
					b.Clock.Set(v.ContactAt.Add(400 * time.Second))
				}
				next(b, &v, usual(&v))
			}
		}
		b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/use", m{"what": "a reference pour"}, &v)
	}
	var sheet mix.Sheet
	b.As["ivo"].Yes("POST", "/api/mixes/sheet", m{"recipe": "foam-latex", "additions": []m{}, "lots": []m{}, "split": m{}, "amount": m{"mass": m{"grams": 300}, "copies": 1, "spare": 0, "waste": 0, "density": 0}}, &sheet)
	assert.Less(t, sheet.Working.HighS, predicted-100, "it gelled sooner than anybody thought")
	assert.InDelta(t, 420, sheet.Working.HighS, 60, "three batches of about seven minutes")
}

func TestFumesAndDustAreConfirmedAndTheirMinutesKept(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	v := byRecipe(b, "foam-pu", nil)
	codes := []string{}
	for _, n := range v.Follows.Confirm {
		codes = append(codes, n.Code)
	}
	assert.Subset(t, codes, []string{"trained", "respirator", "extraction"})
	b.Clock.Set(b.Clock.Now().Add(6 * time.Minute))
	// Whoever goes on with it confirms it too.
	line := v.Lines[0]
	no := b.As["maud"].No("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": line.Seq, "key": shoptest.Key(), "typed": fmt.Sprintf("%.1f g", line.AddG)})
	assert.Equal(t, "confirm", no.Code)
	b.As["maud"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": line.Seq, "key": shoptest.Key(), "typed": fmt.Sprintf("%.1f g", line.AddG), "confirmed": codes}, &v)
	b.Clock.Set(b.Clock.Now().Add(4 * time.Minute))
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/abandon", m{"reason": "the bowl tipped over"}, nil)
	var mine, all []mix.Exposed
	b.As["ivo"].Yes("GET", "/api/exposures", nil, &mine)
	require.NotEmpty(t, mine)
	for _, e := range mine {
		assert.Equal(t, "ivo", e.Person)
		assert.InDelta(t, 10, e.Minutes, 0.1, e.What)
	}
	b.As["maud"].Yes("GET", "/api/exposures", nil, &all)
	assert.Greater(t, len(all), len(mine), "a lead sees everybody's")
}

func TestTheTagOfAPotIsChecked(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	tag := "/api/mixes/" + v.Code + "/tag"
	b.As["ivo"].Yes("POST", tag, m{"seq": 1, "tag": "https://shop.test/stores/K-old"}, &v)
	assert.True(t, v.Lines[0].LotSeen)
	assert.Equal(t, "wrong_lot", b.As["ivo"].No("POST", tag, m{"seq": 1, "tag": "S-1"}).Code, "another product")
	no := b.As["ivo"].No("POST", tag, m{"seq": 1, "tag": "K-new"})
	assert.Equal(t, "other_lot", no.Code)
	b.As["ivo"].Yes("POST", tag, m{"seq": 1, "tag": "K-new", "take": true, "why": "the old can is gummed up"}, &v)
	assert.Equal(t, "K-new", v.Lines[0].Lot)
	assert.Equal(t, "K-new", v.Lines[2].Lot, "parts of different lots are never mixed")
	b.PourG(v.Lines[0].AddG)
	b.IsIn(&v)
	no = b.As["ivo"].No("POST", tag, m{"seq": 3, "tag": "K-old", "take": true, "why": "x"})
	assert.Equal(t, "wrong_lot", no.Code)
	assert.Contains(t, no.Detail, "never mixed")
}

func TestAMixIsDividedInTwoCupsWithOneHistory(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	v := byRecipe(b, "blood-running", nil)
	assert.Equal(t, "not_all_in", b.As["ivo"].No("POST", "/api/mixes/"+v.Code+"/divide", m{"amount": "10 g"}).Code)
	for v.Current != 0 {
		next(b, &v, usual(&v))
	}
	var second mix.View
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/divide", m{"amount": "100 g"}, &second)
	assert.Equal(t, v.Code, second.Parent)
	assert.InDelta(t, 100, second.MassG, 0.1)
	b.As["ivo"].Yes("GET", "/api/mixes/"+v.Code, nil, &v)
	assert.InDelta(t, 200, v.MassG, 0.2)
	b.As["ivo"].Yes("POST", "/api/mixes/"+second.Code+"/put-by", m{}, &second)
	var into map[string][]string
	lot := second.Lines[0].Lot
	b.As["ivo"].Yes("GET", "/api/trace/lot/"+lot, nil, &into)
	assert.Subset(t, into["mix"], []string{v.Code, second.Code})
	assert.Contains(t, into["lot"], second.PutBy, "what was put by is traced on")
	b.As["ivo"].Yes("GET", "/api/trace/lot/"+second.PutBy+"?direction=backward", nil, &into)
	assert.Contains(t, into["lot"], lot)
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/abandon", m{"reason": "too thin"}, &v)
	assert.Equal(t, "abandoned", v.State)
}

// A large order is divided by what limits it, and every part is a mix of its own.
func TestAnOrderIsSplitByBowlAndHands(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	order := shoptest.Order(code, m{"split": m{"bowl_ml": 40}, "amount": m{"each": m{"grams": 10}, "copies": 7, "spare": 0, "waste": 0.1, "density": 0}})
	var sheet mix.Sheet
	b.As["ivo"].Yes("POST", "/api/mixes/sheet", order, &sheet)
	assert.Equal(t, "bowl", sheet.Mixes.Limit)
	assert.Equal(t, []int{3, 2, 2}, sheet.Mixes.Sizes)
	b.As["ivo"].Yes("POST", "/api/mixes", order, nil)
	var list []mix.Brief
	b.As["ivo"].Yes("GET", "/api/mixes", nil, &list)
	require.Len(t, list, 3)
	sum := 0.0
	for _, x := range list {
		sum += x.PlannedG
	}
	assert.InDelta(t, 77, sum, 0.3)
}

// What is tried of a blood is remembered with its recipe.
func TestARunThatWasWatchedIsRememberedWithTheRecipe(t *testing.T) {
	b := shoptest.New(t, nil)
	var tried []mix.Tried
	run := m{"volume_ml": 0.1, "width_mm": 4, "tilt_deg": 90, "readings": []m{{"time_s": 20, "distance_mm": 70}}, "words": "runs like syrup"}
	b.As["pip"].Yes("POST", "/api/recipes/blood-running/trials", run, &tried)
	require.Len(t, tried, 1)
	assert.InDelta(t, 1.0, *tried[0].Fit.Viscosity, 0.1)
	assert.Equal(t, "runs like syrup", tried[0].Words)
	run["readings"] = []m{{"time_s": 20, "distance_mm": 70}, {"time_s": 10, "distance_mm": 80}}
	assert.Equal(t, "readings[1]", b.As["pip"].No("POST", "/api/recipes/blood-running/trials", run).Field)
}

// What hastens a silicone hastens its clock, on the sheet, on the bench and on the
// shelf where it cures.
func TestAnAcceleratorMovesTheClock(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	_, err := b.S.Stores.Receive(b.Who["maud"], stores.NewLot{Material: "silicone-fast", Code: "F-1", Amount: "50 g",
		ExpiresOn: "2026-09-01"})
	require.NoError(t, err)
	code := b.Begun()
	order := func(percent float64) m {
		return shoptest.Order(code, m{"additions": []m{{"material": "softener", "percent": 50},
			{"material": "silicone-fast", "percent": percent}}})
	}
	const hundredth = 100 * 1.5 / 99 // of the parts, beside half as much softener
	var plain, quick mix.Sheet
	b.As["ivo"].Yes("POST", "/api/mixes/sheet", shoptest.Order(code, nil), &plain)
	b.As["ivo"].Yes("POST", "/api/mixes/sheet", order(hundredth), &quick)
	require.Positive(t, plain.Working.LeftS)
	assert.InEpsilon(t, plain.Working.LeftS*0.5, quick.Working.LeftS, 0.01)
	no := b.As["ivo"].No("POST", "/api/mixes/sheet", order(4))
	assert.Equal(t, "out_of_range", no.Code)

	slow := b.Pot(b.Poured(code)[0])
	var v mix.View
	b.As["ivo"].Yes("POST", "/api/mixes", order(hundredth), &v)
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/begin", nil, &v)
	for v.Current != 0 {
		next(b, &v, usual(&v))
	}
	assert.InEpsilon(t, plain.Working.LeftS*0.5, v.Working.LeftS, 0.05, "as it was weighed, to the tenth of a gram")
	var out mix.Poured
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/pour", m{"moulds": []string{""}}, &out)
	assert.InEpsilon(t, slow.LeftS*0.5, b.Pot(out.Copies[0]).LeftS, 0.05, "and in the mould")
}
