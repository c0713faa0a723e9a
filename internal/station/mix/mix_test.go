package mix_test

import (
	"fmt"
	"testing"
	"time"
	"yewmoor/internal/shop"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestLotsAreChosenAndRefusedWithTheReason(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	var sheet mix.Sheet
	b.As["pip"].Yes("POST", "/api/mixes/sheet", shoptest.Order(code, nil), &sheet)
	assert.Equal(t, "K-old", sheet.Lines[0].Lot, "first expired first out")
	assert.Equal(t, []string{"A", "softener", "B"}, []string{sheet.Lines[0].Ingredient, sheet.Lines[1].Ingredient, sheet.Lines[2].Ingredient})
	assert.InDelta(t, 34*0.2*1.07*1.15, sheet.Amount.Grams, 1e-9)

	b.As["maud"].Yes("POST", "/api/lots/K-old/status", map[string]string{"status": "quarantine", "reason": "cloudy"}, nil)
	b.As["pip"].Yes("POST", "/api/mixes/sheet", shoptest.Order(code, nil), &sheet)
	assert.Equal(t, "K-new", sheet.Lines[0].Lot)
	no := b.As["pip"].No("POST", "/api/mixes", shoptest.Order(code, map[string]any{"lots": []m{{"line": "A", "lot": "K-old"}}}))
	assert.Equal(t, "lot_refused", no.Code)
	assert.Equal(t, "lots.A", no.Field)
	assert.Contains(t, no.Detail, "in quarantine")
	b.Clock.Set(shoptest.Monday.AddDate(1, 0, 0))
	no = b.As["pip"].No("POST", "/api/mixes", shoptest.Order(code, map[string]any{"lots": []m{{"line": "A", "lot": "K-new"}}}))
	assert.Contains(t, no.Detail, "expired")
}

func TestWhatIsWeighedIsRecordedOnceAndDrawn(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	a := v.Lines[0].TargetG
	weigh := "/api/mixes/" + v.Code + "/weigh"
	assert.Equal(t, "nothing_in", b.As["ivo"].No("POST", weigh, map[string]any{"seq": 1, "key": shoptest.Key()}).Code)
	b.Scale.Put(a)
	assert.Equal(t, "not_steady", b.As["ivo"].No("POST", weigh, map[string]any{"seq": 1, "key": shoptest.Key()}).Code)
	b.Settle()
	b.Scale.Misbehave(true, false, "")
	assert.Equal(t, "scale_unplugged", b.As["ivo"].No("POST", weigh, map[string]any{"seq": 1, "key": shoptest.Key()}).Code)
	b.Scale.Misbehave(false, false, "oz")
	assert.Equal(t, "wrong_unit", b.As["ivo"].No("POST", weigh, map[string]any{"seq": 1, "key": shoptest.Key()}).Code)
	b.Scale.Misbehave(false, false, "g")
	assert.InDelta(t, 400, b.OnHand("K-old", "A"), 1e-9, "nothing was recorded by any of these")

	again := shoptest.Key()
	for range 3 {
		b.As["ivo"].Yes("POST", weigh, map[string]any{"seq": 1, "key": again}, &v)
	}
	assert.InDelta(t, 400-a, b.OnHand("K-old", "A"), 0.051, "sent three times, drawn once")
	assert.True(t, v.Lines[0].Done)
	assert.Nil(t, v.ContactAt)

	// The second part is zeroed in between; nothing is lost by it.
	b.PourG(3)
	b.As["pip"].Yes("POST", "/api/mixes/"+v.Code+"/tare", nil, &v)
	assert.InDelta(t, 3, v.CarriedG, 0.051)
	b.PourG(v.Lines[1].TargetG - 3)
	b.IsIn(&v)
	assert.InDelta(t, v.Lines[1].TargetG, v.Lines[1].InCupG, v.Lines[1].TolG)
	typed := b.As["pip"].No("POST", weigh, map[string]any{"seq": 3, "key": shoptest.Key(), "typed": "3 apples"})
	assert.Equal(t, "typed", typed.Field)
	assert.Equal(t, "other_line", b.As["pip"].No("POST", weigh, map[string]any{"seq": 1, "key": shoptest.Key()}).Code)
}

func TestAnOvershootMovesTheOthersAndSaysWhatToAdd(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	b.PourG(v.Lines[0].TargetG)
	b.IsIn(&v)
	b.PourG(v.Lines[1].TargetG * 1.2)
	b.IsIn(&v)
	assert.InDelta(t, v.PlannedG*1.2, v.TotalG, 0.02*v.TotalG)
	assert.Contains(t, v.Message, "Silicone softener went")
	assert.Contains(t, v.Message, "of Part A.")
	assert.Equal(t, 1, v.Current, "part A is short now and comes first")
	b.PourG(v.Lines[0].AddG)
	b.IsIn(&v)
	b.PourG(v.Lines[2].AddG)
	b.IsIn(&v)
	assert.Zero(t, v.Current)
	ratio := v.Lines[0].InCupG / v.Lines[2].InCupG
	assert.InDelta(t, 1, ratio, 0.02, "A to B holds")
	assert.NotNil(t, v.ContactAt)
}

func TestTheClockStartsWhenAMeetsBWhoeverLooks(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	b.PourG(v.Lines[0].TargetG)
	b.IsIn(&v)
	b.PourG(v.Lines[1].TargetG)
	b.IsIn(&v)
	ctx, stop := t.Context(), func() {}
	defer stop()
	go b.S.Mix.Watch(ctx)
	b.Scale.Put(2)
	require.Eventually(t, func() bool {
		b.As["pip"].Yes("GET", "/api/mixes/"+v.Code, nil, &v)
		return v.ContactAt != nil
	}, 5*time.Second, 50*time.Millisecond, "the server sees it by itself")
	assert.True(t, v.Working.Started)
	assert.InDelta(t, 720, v.Working.LeftS, 1, "12 min at 23 °C, as the sheet says")
	// A new server on the same database knows the mix on its scale and the time.
	b.Clock.Set(shoptest.Monday.Add(5 * time.Minute))
	fresh, err := shop.New(t.Context(), b.S.Config, b.S.DB, b.Clock, b.Scale, shoptest.SteadyRoom(23))
	require.NoError(t, err)
	again, err := fresh.Mix.View(b.Who["pip"], v.Code)
	require.NoError(t, err)
	assert.True(t, again.OnScale)
	assert.InDelta(t, 420, again.Working.LeftS, 1)
	b.Clock.Set(shoptest.Monday.Add(13 * time.Minute))
	again, err = fresh.Mix.View(b.Who["pip"], v.Code)
	require.NoError(t, err)
	assert.True(t, again.Working.Over)
}

func TestAnAbandonedMixKeepsWhatWasDrawn(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	a := v.Lines[0].TargetG
	b.PourG(a)
	b.IsIn(&v)
	b.As["pip"].Yes("POST", "/api/mixes/"+v.Code+"/abandon", m{"reason": "dropped the cup"}, &v)
	assert.Equal(t, []string{"abandoned", "dropped the cup"}, []string{v.State, v.EndReason})
	assert.InDelta(t, 400-a, b.OnHand("K-old", "A"), 0.051, "it left the lot all the same")
	assert.Equal(t, "ended", b.As["pip"].No("POST", "/api/mixes/"+v.Code+"/abandon", m{"reason": "again"}).Code)
	assert.Equal(t, "not_weighing", b.As["pip"].No("POST", "/api/mixes/"+v.Code+"/weigh", m{"seq": 2, "key": shoptest.Key(), "typed": "3 g"}).Code)
	var list []mix.Brief
	b.As["pip"].Yes("GET", "/api/mixes", nil, &list)
	assert.Equal(t, "abandoned", list[0].State)
}

func TestOneMixIsPouredOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	for v.Current != 0 {
		b.PourG(v.Lines[v.Current-1].AddG)
		b.IsIn(&v)
	}
	got := shoptest.Together(12, func(i int) (int, shoptest.Refused) {
		return b.Post(shoptest.Three[i%3], "/api/mixes/"+v.Code+"/pour", m{"moulds": []string{""}})
	})
	assert.Equal(t, map[string]int{"yes": 1, "ended": 11}, got)
	assert.Equal(t, []int{1, 1, 1}, []int{b.Count(`SELECT COUNT(*) FROM run`), b.Count(`SELECT COUNT(*) FROM copy`), b.Count(`SELECT COUNT(*) FROM pot`)})
}

func TestOneWeightSentByManyTabsCountsOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	same := m{"seq": 1, "key": shoptest.Key(), "typed": "2.8 g"}
	got := shoptest.Together(12, func(i int) (int, shoptest.Refused) { return b.Post("ivo", "/api/mixes/"+v.Code+"/weigh", same) })
	assert.Equal(t, 12, got["yes"], "each is told that it is in: %v", got)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM weigh_in`))
	assert.InDelta(t, 397.2, b.OnHand("K-old", "A"), 1e-9)
}

func TestTwoPeopleWeighOneLineAtOnce(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	target := v.Lines[0].TargetG
	got := shoptest.Together(2, func(i int) (int, shoptest.Refused) {
		return b.Post(shoptest.Three[i], "/api/mixes/"+v.Code+"/weigh", m{"seq": 1, "key": shoptest.Key(), "typed": fmt.Sprintf("%.2f g", target)})
	})
	assert.Equal(t, map[string]int{"yes": 1, "other_line": 1}, got, "the second sees that the sheet has moved on")
	assert.InDelta(t, 400-target, b.OnHand("K-old", "A"), 0.01)
}

// A lot that was recalled after its sheet was written was weighed all the same.
func TestALotThatWasRecalledMeanwhileIsNotWeighed(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	v := b.Weighed(b.Begun())
	line := v.Lines[0]
	b.As["maud"].Yes("POST", "/api/lots/"+line.Lot+"/status", map[string]any{"status": "recalled", "reason": "the maker wrote"}, nil)
	weigh := map[string]any{"seq": 1, "key": shoptest.Key(), "typed": fmt.Sprintf("%.1f g", line.AddG)}
	no := b.As["ivo"].No("POST", "/api/mixes/"+v.Code+"/weigh", weigh)
	assert.Equal(t, "lot_refused", no.Code)
	assert.Contains(t, no.Detail, "recalled")
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM weigh_in`), "nothing was recorded")
	// What was poured before anybody knew is recorded as it is: it can be traced then.
	weigh["ago_s"] = 600
	b.As["ivo"].Yes("POST", "/api/mixes/"+v.Code+"/weigh", weigh, nil)
}

// A silicone mix was planned for pieces that no silicone goes into.
func TestAMixIsOnlyForAPieceThatTakesIt(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	b.Everything()
	for i, method := range []string{"latex_slush", "foam_latex", "gelatin_animal", "build_up_tissue", "household_paste"} {
		code := b.By(method, string(rune('P'+i))+"M", "cheek", 2)
		no := b.As["ivo"].No("POST", "/api/mixes", shoptest.Order(code, nil))
		assert.Equal(t, "other_material", no.Code, method)
	}
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM mix`))
}
