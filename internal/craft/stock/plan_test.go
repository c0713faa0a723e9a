package stock

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func drawnLots(t *rapid.T, item string, kit bool) []Held {
	var held []Held
	for i := range rapid.IntRange(0, 8).Draw(t, "lots") {
		h := Held{Lot: fmt.Sprintf("L%d", i), Item: item, Received: rapid.IntRange(-20, 10).Draw(t, "received"), Expiry: rapid.IntRange(-5, 60).Draw(t, "expiry"),
			Status: rapid.SampledFrom([]string{OK, OK, OK, Quarantine, Recalled}).Draw(t, "status")}
		if kit {
			h.A, h.B = rapid.Float64Range(0, 900).Draw(t, "a"), rapid.Float64Range(0, 900).Draw(t, "b")
		} else {
			h.Qty = rapid.Float64Range(0, 900).Draw(t, "qty")
		}
		if rapid.Bool().Draw(t, "open") {
			d := rapid.IntRange(-30, 0).Draw(t, "opened")
			h.Opened = &d
		}
		held = append(held, h)
	}
	return held
}

// Whatever is asked: no lot gives more than it holds, none that may not be used is
// taken, a single-lot demand is whole or nothing, and what is taken and missing is
// what was asked.
func TestAllocationNeverTakesWhatItMayNot(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		it := Item{ID: "X", Kit: rapid.Bool().Draw(t, "kit"), A: 1, B: rapid.Float64Range(0.1, 2).Draw(t, "b"), SingleLot: rapid.Bool().Draw(t, "single"), OpenLife: rapid.SampledFrom([]int{0, 5, 30}).Draw(t, "life")}
		held := drawnLots(t, "X", it.Kit)
		var demands []Demand
		for i := range rapid.IntRange(0, 8).Draw(t, "demands") {
			demands = append(demands, Demand{ID: fmt.Sprintf("d%d", i), Item: "X", Qty: rapid.Float64Range(0.1, 700).Draw(t, "want"), Day: rapid.IntRange(0, 40).Draw(t, "day")})
		}
		look, err := Look([]Item{it}, held, demands, 0, 40, nil)
		if err != nil {
			t.Fatal(err)
		}
		byLot, of := map[string]float64{}, map[string]Held{}
		for _, h := range held {
			of[h.Lot] = h
		}
		asked := map[string]Demand{}
		for _, d := range demands {
			asked[d.ID] = d
		}
		for _, r := range look.Reservations {
			sum := r.Short
			for _, tk := range r.Take {
				h, day := of[tk.Lot], asked[r.Demand].Day
				assert.Equal(t, OK, h.Status)
				assert.LessOrEqual(t, h.Received, day)
				assert.GreaterOrEqual(t, h.Expiry, day, "past its day")
				if h.Opened != nil && it.OpenLife > 0 {
					assert.GreaterOrEqual(t, *h.Opened+it.OpenLife, day, "open too long")
				}
				byLot[tk.Lot] += tk.Qty
				sum += tk.Qty
			}
			assert.InDelta(t, asked[r.Demand].Qty, sum, 1e-4)
			if it.Kit || it.SingleLot {
				assert.LessOrEqual(t, len(r.Take), 1)
				assert.True(t, r.Short < 1e-4 || len(r.Take) == 0, "whole or nothing")
			}
		}
		for lot, g := range byLot {
			h := of[lot]
			holds := h.Qty
			if it.Kit {
				holds = min(h.A/it.A, h.B/it.B) * (it.A + it.B)
			}
			assert.LessOrEqual(t, g, holds+1e-3, lot)
		}
	})
}

// Over any deliveries and issues the issues' values and what is left add up to what
// came in, to the minor unit.
func TestTheMovingAverageLosesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var v Value
		in, out := int64(0), int64(0)
		for range rapid.IntRange(1, 40).Draw(t, "events") {
			if rapid.Bool().Draw(t, "receipt") {
				minor := rapid.Int64Range(0, 1e7).Draw(t, "paid")
				v, in = v.Receive(rapid.Int64Range(1, 1e8).Draw(t, "qty"), minor), in+minor
				continue
			}
			if v.Qty == 0 {
				continue
			}
			before := v
			var worth int64
			var err error
			v, worth, err = v.Issue(rapid.Int64Range(1, v.Qty).Draw(t, "issue"))
			if err != nil {
				t.Fatal(err)
			}
			assert.GreaterOrEqual(t, worth, int64(0))
			assert.LessOrEqual(t, worth, before.Minor)
			out += worth
		}
		assert.Equal(t, in, out+v.Minor)
		_, _, err := v.Issue(v.Qty + 1)
		assert.Error(t, err)
	})
}

func TestWhatCoversIsGoodTheLongest(t *testing.T) {
	lots := []Lot{{Code: "a", Status: OK, OnHandG: 100, Expiry: 10}, {Code: "b", Status: OK, OnHandG: 100, Expiry: 20}, {Code: "c", Status: Recalled, OnHandG: 900, Expiry: 90}, {Code: "d", Status: OK, OnHandG: 40, Expiry: 80}}
	assert.Equal(t, Cover{Lot: "b", Until: 20}, Covers(lots, 0, 0, 100, 0))
	assert.Equal(t, Cover{Lot: "d", Until: 80}, Covers(lots, 0, 0, 30, 0))
	short := Covers(lots, 0, 0, 120, 0)
	assert.Empty(t, short.Lot)
	assert.InDelta(t, 20, short.LacksG, 1e-9)
	kit := []Lot{{Code: "k", Part: "A", Status: OK, OnHandG: 60, Expiry: 9}, {Code: "k", Part: "B", Status: OK, OnHandG: 30, Expiry: 7}, {Code: "half", Part: "A", Status: OK, OnHandG: 900, Expiry: 99}}
	assert.Equal(t, Cover{Lot: "k", Until: 7}, Covers(kit, 2, 1, 90, 0))
	assert.Empty(t, Covers(kit, 1, 1, 90, 0).Lot)
}

// The question what can still be made, over two thousand lots.
func BenchmarkCoversOverTwoThousandLots(b *testing.B) {
	var lots []Lot
	for i := range 2000 {
		lots = append(lots, Lot{Code: fmt.Sprint(i), Status: OK, OnHandG: float64(i % 700), Expiry: i % 365})
	}
	for b.Loop() {
		Covers(lots, 0, 0, 500, 30)
	}
}
