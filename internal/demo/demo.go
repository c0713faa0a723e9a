// Package demo writes the demo scenario, "The Tallow Court", through the same
// services that a person uses, on a clock that it moves from December to the
// Monday morning on which the demo begins.
package demo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	craftcolour "yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/work"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/production"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shop"
	"yewmoor/internal/station/build"
	"yewmoor/internal/station/check"
	"yewmoor/internal/station/colour"
	"yewmoor/internal/station/finish"
	"yewmoor/internal/station/form"
	"yewmoor/internal/station/mix"
	"yewmoor/internal/station/mould"
	"yewmoor/internal/station/sculpt"
	"yewmoor/internal/station/stores"
)

// Start is the bench time at which the demo begins: Monday 12 January 2026,
// 09:10 in London, nine working days before the first shooting day.
var Start = time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)

// Production is the invented serial that everything in the demo belongs to.
const Production = "The Tallow Court"

// teller writes the scenario; the first error sticks.
type teller struct {
	s     *shop.Shop
	clock *clock.Fixed
	ctx   context.Context
	who   map[string]context.Context
	err   error
}

// Load writes the scenario into an empty shop, whose clock must be at. It is
// left at Start. A scenario that was told before is left alone; one whose
// telling was broken off is an error, since half a story misleads.
func Load(ctx context.Context, s *shop.Shop, at *clock.Fixed) error {
	people, err := s.Accounts.People(ctx)
	if err != nil {
		return err
	}
	if len(people) > 0 {
		var told int
		if err := s.DB.GetContext(ctx, &told, `SELECT COUNT(*) FROM bench_clock`); err != nil {
			return err
		}
		if told == 0 {
			return errors.New("the demo scenario was broken off while it was being written: remove the demo's folder and start again")
		}
		return nil
	}
	t := &teller{s: s, clock: at, ctx: ctx, who: map[string]context.Context{}}
	for _, chapter := range []func(){t.people, t.stores, t.places, t.delivered, t.pieces, t.sculpted, t.forms, t.history, t.prepared,
		t.drawers, t.measured, t.drying, t.inTheClay, t.thisMorning, t.whipped, t.coloured, t.benched, t.handed, t.worked} {
		if chapter(); t.err != nil {
			return fmt.Errorf("telling the demo scenario: %w", t.err)
		}
	}
	at.Set(Start)
	_, err = s.DB.ExecContext(ctx, `INSERT INTO bench_clock (id, bench_at) VALUES (1, ?)`, Start)
	return err
}

func (t *teller) try(err error) {
	if t.err == nil && err != nil {
		t.err = err
	}
}

func (t *teller) at(month time.Month, day, hour, minute int) {
	year := 2026
	if month > time.June {
		year = 2025
	}
	t.clock.Set(time.Date(year, month, day, hour, minute, 0, 0, time.UTC))
}

func (t *teller) people() {
	t.at(12, 1, 8, 30)
	for _, p := range []struct {
		login, name string
		role        accounts.Role
	}{{"maud", "Maud Tarn", accounts.Lead}, {"ivo", "Ivo Brack", accounts.Fabricator}, {"pip", "Pip Sallow", accounts.Apprentice}} {
		added, err := t.s.Accounts.Add(t.ctx, p.login, p.name, p.role, "", t.clock.Now())
		t.try(err)
		t.who[p.login] = accounts.With(t.ctx, added)
	}
}

func (t *teller) stores() {
	t.at(12, 1, 9, 0)
	ctx := t.who["maud"]
	for _, l := range []stores.NewLot{
		{Material: "silicone-gel", Code: "24-117", Supplier: "Harrow Rubber Works", AmountA: "1.9 kg", AmountB: "1.9 kg", ExpiresOn: "2026-01-29", OpenLifeDays: 90, Shelf: "cold 1"},
		{Material: "silicone-gel", Code: "25-031", Supplier: "Harrow Rubber Works", AmountA: "2.5 kg", AmountB: "2.5 kg", ExpiresOn: "2026-08-31", OpenLifeDays: 90, Shelf: "cold 1"},
		{Material: "silicone-gel", Code: "25-002", Supplier: "Harrow Rubber Works", AmountA: "1 kg", ExpiresOn: "2026-05-31", Shelf: "cold 1"},
		{Material: "silicone-gel", Code: "24-098", Supplier: "Harrow Rubber Works", AmountA: "0.8 kg", AmountB: "0.8 kg", ExpiresOn: "2025-12-31", Shelf: "cold 1"},
		{Material: "silicone-firm", Code: "25-044", Supplier: "Harrow Rubber Works", AmountA: "1 kg", AmountB: "1 kg", ExpiresOn: "2026-07-31", Shelf: "cold 1"},
		{Material: "silicone-direct", Code: "25-051", Supplier: "Fenwright & Daughter", AmountA: "250 g", AmountB: "250 g", ExpiresOn: "2026-04-30", Shelf: "cold 2"},
		{Material: "mould-silicone-tin", Code: "25-060", Supplier: "Harrow Rubber Works", AmountA: "5 kg", AmountB: "300 g", ExpiresOn: "2026-06-30", Shelf: "bay 3"},
		{Material: "softener", Code: "24-090", Supplier: "Harrow Rubber Works", Amount: "3 kg", ExpiresOn: "2026-10-31", Shelf: "cold 1"},
		{Material: "latex-balloon", Code: "25-012", Supplier: "Saltmarsh Latex", Amount: "2 kg", ExpiresOn: "2026-02-14", OpenLifeDays: 120, Shelf: "cold 2"},
		{Material: "latex-slush", Code: "25-013", Supplier: "Saltmarsh Latex", Amount: "5 kg", ExpiresOn: "2026-05-14", Shelf: "cold 2"},
		{Material: "latex-paste", Code: "25-014", Supplier: "Saltmarsh Latex", Amount: "1 kg", ExpiresOn: "2026-03-14", Shelf: "cold 2"},
		{Material: "foam-latex", Code: "25-015", Supplier: "Saltmarsh Latex", Amount: "6 kg", ExpiresOn: "2026-03-31", Shelf: "cold 2"},
		{Material: "gelatin-animal", Code: "25-020", Supplier: "Copperbeck Stores", Amount: "2 kg", ExpiresOn: "2027-01-31", Shelf: "dry"},
		{Material: "gelatin-plant", Code: "25-021", Supplier: "Copperbeck Stores", Amount: "1 kg", ExpiresOn: "2027-01-31", Shelf: "dry"},
		{Material: "wax-soft", Code: "25-022", Supplier: "Copperbeck Stores", Amount: "400 g", ExpiresOn: "2028-01-31", Shelf: "dry"},
		{Material: "encapsulator-acetone", Code: "25-071", Supplier: "Fenwright & Daughter", Amount: "1 kg", ExpiresOn: "2026-09-30", Shelf: "flammables"},
		{Material: "encapsulator-alcohol", Code: "25-072", Supplier: "Fenwright & Daughter", Amount: "500 g", ExpiresOn: "2026-09-30", Shelf: "flammables"},
		{Material: "barrier-film", Code: "25-080", Supplier: "Fenwright & Daughter", Amount: "200 g", ExpiresOn: "2026-11-30", Shelf: "kit"},
		{Material: "adhesive-acrylic", Code: "25-081", Supplier: "Fenwright & Daughter", Amount: "500 g", ExpiresOn: "2026-03-31", Shelf: "kit"},
		{Material: "adhesive-silicone", Code: "25-082", Supplier: "Fenwright & Daughter", Amount: "250 g", ExpiresOn: "2026-06-30", Shelf: "flammables"},
		{Material: "adhesive-gum", Code: "25-083", Supplier: "Fenwright & Daughter", Amount: "250 g", ExpiresOn: "2027-06-30", Shelf: "flammables"},
		{Material: "paint-alcohol", Code: "25-090", Supplier: "Fenwright & Daughter", Amount: "300 g", ExpiresOn: "2028-01-31", Shelf: "paint"},
		{Material: "paint-silicone", Code: "25-091", Supplier: "Harrow Rubber Works", Amount: "400 g", ExpiresOn: "2026-12-31", Shelf: "paint"},
		{Material: "powder-translucent", Code: "25-095", Supplier: "Copperbeck Stores", Amount: "300 g", ExpiresOn: "2029-01-31", Shelf: "paint"},
		{Material: "pigment-flesh", Code: "23-551", Supplier: "Harrow Rubber Works", Amount: "60 g", ExpiresOn: "2026-12-31", Shelf: "paint"},
		{Material: "pigment-red", Code: "24-012", Supplier: "Harrow Rubber Works", Amount: "55 g", ExpiresOn: "2026-12-31", Shelf: "paint"},
		{Material: "pigment-umber", Code: "24-013", Supplier: "Harrow Rubber Works", Amount: "50 g", ExpiresOn: "2026-12-31", Shelf: "paint"},
		{Material: "flock-red", Code: "24-018", Supplier: "Harrow Rubber Works", Amount: "40 g", ExpiresOn: "2029-12-31", Shelf: "paint"},
		{Material: "remover-ester", Code: "25-099", Supplier: "Fenwright & Daughter", Amount: "1 l", ExpiresOn: "2027-03-31", Shelf: "kit"},
	} {
		_, err := t.s.Stores.Receive(ctx, l)
		t.try(err)
	}
	_, err := t.s.Stores.SetStatus(ctx, "25-044", "quarantine", "cloudy part B, asked the supplier")
	t.try(err)
}

func (t *teller) agree(code string, doc section.Section, base int) {
	if t.err != nil {
		return
	}
	_, err := t.s.Pieces.SaveSection(t.who["maud"], code, doc, base, 0)
	t.try(err)
	_, err = t.s.Pieces.AgreeSection(t.who["maud"], code, nil)
	t.try(err)
}

func (t *teller) days() {
	pieces, err := piece.All(t.ctx, t.s.DB)
	t.try(err)
	if t.err != nil {
		return
	}
	ctx := t.who["maud"]
	show := pieces[0].ProductionID
	for _, d := range []struct {
		day, place string
		temp, rh   float64
		light      string
	}{
		{"2026-01-23", "quayside", 4, 0.85, "daylight"}, {"2026-01-24", "quayside", 5, 0.85, "daylight"}, {"2026-01-26", "bakehouse set", 31, 0.40, "tungsten"},
		{"2026-01-27", "bakehouse set", 31, 0.40, "tungsten"}, {"2026-01-28", "chapel set", 18, 0.50, "chapel"},
		{"2026-01-30", "chapel set", 18, 0.50, "chapel"},
		{"2026-02-02", "quayside", 2, 0.85, "daylight"}, {"2026-02-03", "quayside", 3, 0.85, "daylight"},
		{"2026-02-04", "chapel set", 18, 0.50, "chapel"},
		{"2026-02-06", "stage", 22, 0.45, "LED"}, {"2026-02-07", "stage", 22, 0.45, "LED"}, {"2026-02-10", "quayside", 7, 0.80, "daylight"},
		{"2026-02-11", "bakehouse set", 31, 0.40, "tungsten"}, {"2026-02-13", "quayside", 6, 0.85, "daylight"},
	} {
		_, err := t.s.Productions.AddDay(ctx, show, production.NewDay{Day: d.day, Place: d.place, TempC: d.temp, RH: d.rh, Light: d.light, Rain: d.place == "quayside"})
		t.try(err)
	}
	days, err := t.s.Productions.Days(ctx, t.s.DB, show)
	t.try(err)
	wanted := map[string][]int{"BF": {0, 3, 6}, "PK": {0, 4, 9}, "AL": {1, 7}, "NM": {1, 2, 11}, "FT": {2, 8, 13}, "GC": {3, 5, 10}, "CB": {12}}
	for _, p := range pieces {
		var list []uint64
		for _, i := range wanted[p.CharacterCode] {
			if i < len(days) {
				list = append(list, days[i].ID)
			}
		}
		t.try(t.s.Pieces.SetDays(ctx, p.Code, list))
	}
}

func (t *teller) forms() {
	t.at(12, 3, 9, 0)
	ctx := t.who["ivo"]
	for _, f := range []form.NewForm{
		{Performer: "Oren Thale", Region: "face", Material: "hard stone", Place: "rack 2", State: "sound", TakenHow: "skin silicone, bandage jacket", MadeOn: "2025-11-20"},
		{Performer: "Hob Carrow", Region: "neck", Material: "hard stone", Place: "rack 2", State: "chip at the collar, filled", MadeOn: "2025-11-21"},
		{Performer: "Isolde Pym", Region: "nose", Material: "casting plaster", Place: "rack 1", State: "sound", MadeOn: "2025-11-24"},
		{Kind: "stand", Region: "face", Material: "plastic stand", Place: "bench 4", State: "general", MadeOn: "2024-05-02"},
	} {
		_, err := t.s.Form.Add(ctx, f)
		t.try(err)
	}
	for _, m := range []struct {
		piece string
		mould mould.NewMould
	}{
		{"BF-01", mould.NewMould{Kind: "two-part block", Material: "hard stone", Core: "F-001", State: "dry", ReleaseAgent: "wax paste", MadeOn: "2025-12-08"}},
		{"BF-03", mould.NewMould{Kind: "two-part block", Material: "hard stone", Core: "F-001", State: "dry", ReleaseAgent: "wax paste", MadeOn: "2025-12-09"}},
		{"BF-03", mould.NewMould{Kind: "two-part block", Material: "hard stone", Core: "F-001", State: "dry", ReleaseAgent: "wax paste", MadeOn: "2025-12-15"}},
		{"PK-01", mould.NewMould{Kind: "jacket with liner", Material: "silicone in a laminate shell", Core: "F-002", State: "dry", ReleaseAgent: "wax paste", MadeOn: "2025-12-12"}},
		{"GC-01", mould.NewMould{Kind: "slush mould", Material: "casting plaster", Core: "F-003", State: "dry", MadeOn: "2025-12-10"}},
	} {
		_, err := t.s.Mould.Add(web.WithBecause(ctx, noTexture), m.piece, m.mould)
		t.try(err)
	}
	for code, m := range map[string]sculpt.Measured{
		"BF-01": {Route: "clay", Before: "400 g", After: "392.75 g"}, "BF-03": {Route: "clay", Before: "500 g", After: "472 g"}, "PK-01": {Route: "water", Full: "3180 g", Empty: "3140 g"},
	} {
		_, err := t.s.Sculpt.Record(ctx, code, m)
		t.try(err)
	}
	for _, c := range []struct {
		piece string
		t     colour.TouchUp
	}{
		{"BF-03", colour.TouchUp{Name: "cheek red", Material: "paint-alcohol", Place: "hollows and rims", Lab: craftcolour.Lab{L: 42, A: 24, B: 19}}},
		{"BF-03", colour.TouchUp{Name: "quay grey", Material: "paint-alcohol", Place: "barnacle tips", Lab: craftcolour.Lab{L: 66, A: 1, B: 9}}},
		{"BF-03", colour.TouchUp{Name: "skin, his own", Material: "paint-alcohol", Place: "past the edge", Lab: craftcolour.Lab{L: 44, A: 15, B: 21}}},
		{"BF-01", colour.TouchUp{Name: "quay grey", Material: "paint-alcohol", Place: "barnacle tips", Lab: craftcolour.Lab{L: 66, A: 1, B: 9}}},
	} {
		_, err := t.s.Colour.Set(ctx, c.piece, c.t)
		t.try(err)
	}
}

func order(code string, clayBefore, clayAfter float64, copies int) mix.Order {
	o := mix.Order{Piece: code, Recipe: recipes.SheetOf("silicone-gel"), Additions: []mix.Addition{{Material: "softener", Percent: 60, Of: "parts"}, {Material: "pigment-flesh", Percent: 1.2}, {Material: "pigment-red", Percent: 0.3}}}
	o.Amount = craft.Question{Copies: copies, Waste: 0.15, Density: 1.05}
	o.Amount.Clay = &struct {
		BeforeG    float64 `json:"before_g"`
		AfterG     float64 `json:"after_g"`
		ReclaimedG float64 `json:"reclaimed_g,omitempty"`
		Density    float64 `json:"density,omitempty" doc:"g/cm³; 1.6 when left out"`
	}{BeforeG: clayBefore, AfterG: clayAfter}
	return o
}

// cast carries one mix from the sheet to the moulds and returns the copies.
func (t *teller) cast(who string, o mix.Order, moulds ...string) []string {
	none := make([]string, len(moulds)) // after an error the story only runs on to its end
	if t.err != nil {
		return none
	}
	ctx := t.who[who]
	v, err := t.s.Mix.Plan(ctx, o)
	t.try(err)
	if t.err != nil {
		return none
	}
	_, err = t.s.Mix.Begin(ctx, v.Code)
	t.try(err)
	for i := 0; t.err == nil && v.Current != 0 && i < 20; i++ {
		l := v.Lines[v.Current-1]
		add := l.AddG
		if l.Seq == 2 {
			add *= 1.006 // a hand is never exact
		}
		t.clock.Set(t.clock.Now().Add(70 * time.Second))
		v, err = t.s.Mix.Weigh(ctx, v.Code, mix.WeighIn{Seq: l.Seq, Key: uuid.NewString(), Typed: fmt.Sprintf("%.2f g", add)})
		t.try(err)
	}
	t.clock.Set(t.clock.Now().Add(4 * time.Minute))
	_, copies, err := t.s.Mix.Pour(ctx, v.Code, mix.PourInto{Moulds: moulds})
	t.try(err)
	if t.err != nil {
		return none
	}
	return copies
}

func (t *teller) demould(who, copyCode, reason string) {
	if t.err != nil {
		return
	}
	shelf, err := t.s.Build.Shelf(t.ctx)
	t.try(err)
	for _, p := range shelf {
		if p.Copy == copyCode {
			_, err := t.s.Build.TakeOut(t.who[who], p.ID, build.Out{Reason: reason})
			t.try(err)
			return
		}
	}
	t.try(fmt.Errorf("no pot for %s", copyCode))
}

// finish ticks what is left on the list of a copy: all of it, or what is of these kinds.
func (t *teller) finish(who, copyCode string, kinds ...work.Kind) {
	if t.err != nil {
		return
	}
	c, err := finish.Read(t.ctx, t.s.DB, copyCode)
	t.try(err)
	for _, item := range c.Work {
		if t.err != nil || item.Done != nil || item.Dropped != "" || len(kinds) > 0 && !slices.Contains(kinds, item.Kind) {
			continue
		}
		t.clock.Set(t.clock.Now().Add(4 * time.Minute))
		tick := finish.NewTick{Item: item.ID}
		var err error
		switch item.Kind {
		case work.Read:
			tick.Reading = &craftcolour.Lab{L: 44.6, A: 15.3, B: 20.4}
			_, err = t.s.Finish.Tick(t.who[who], copyCode, tick, nil)
		case work.Picture:
			raw, drawn := copyPicture(c.Piece, copyCode)
			t.try(drawn)
			_, err = t.s.Finish.Tick(t.who[who], copyCode, tick, bytes.NewReader(raw))
		default:
			_, err = t.s.Finish.Tick(t.who[who], copyCode, tick, nil)
		}
		t.try(err)
	}
}

func (t *teller) judge(copyCode, verdict, reason string) {
	if t.err != nil {
		return
	}
	if verdict == "accept" { // looked over against the brief first
		asked, err := t.s.Brief.OfCopy(t.who["maud"], copyCode)
		t.try(err)
		for _, f := range asked {
			_, err := t.s.Brief.SeeOn(t.who["maud"], copyCode, f.ID, true, nil)
			t.try(err)
		}
	}
	_, err := t.s.Check.Judge(t.who["maud"], copyCode, check.NewVerdict{Verdict: verdict, Reason: reason})
	t.try(err)
}
