package main

import (
	"context"
	"fmt"
	"math"
	"time"

	"yewmoor/internal/device"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/shop"
)

// check compares the database with what was answered.
func check(ctx context.Context, w *works, said *answers) error {
	var rows []struct {
		Key   string `db:"idem_key"`
		Grams float64
		N     int
	}
	if err := w.db.SelectContext(ctx, &rows, `SELECT w.idem_key, w.grams, (SELECT COUNT(*) FROM movement m WHERE m.weigh_in_id = w.id AND m.grams = -w.grams) AS n FROM weigh_in w`); err != nil {
		return err
	}
	there := map[string]float64{}
	for _, r := range rows {
		if r.N != 1 {
			return fmt.Errorf("the weigh-in %s of %.2f g was drawn %d times", r.Key, r.Grams, r.N)
		}
		there[r.Key] = r.Grams
	}
	for key, grams := range said.weigh {
		if got, ok := there[key]; !ok || math.Abs(got-grams) > 1e-6 {
			return fmt.Errorf("the answered weigh-in %s of %.2f g is on record as %.2f g (%v)", key, grams, got, ok)
		}
	}
	if err := ledger(ctx, w); err != nil {
		return err
	}
	if err := notesAndPours(ctx, w, said); err != nil {
		return err
	}
	return pots(ctx, w, said)
}

// ledger: what is on hand is what came in less what was weighed.
func ledger(ctx context.Context, w *works) error {
	var lots []struct {
		Code, Part string
		OnHand     float64 `db:"on_hand"`
		Weighed    float64
	}
	if err := w.db.SelectContext(ctx, &lots, `SELECT l.code, l.part, (SELECT SUM(m.grams) FROM movement m WHERE m.lot_id = l.id) AS on_hand,
		COALESCE((SELECT SUM(w.grams) FROM weigh_in w JOIN mix_line n ON n.id = w.mix_line_id WHERE n.lot_id = l.id), 0) AS weighed FROM lot l`); err != nil {
		return err
	}
	for _, l := range lots {
		if math.Abs(l.OnHand+l.Weighed-stockG) > 1e-6 {
			return fmt.Errorf("lot %s %s: %.4f g on hand and %.4f g weighed do not make %d g", l.Code, l.Part, l.OnHand, l.Weighed, stockG)
		}
	}
	return nil
}

func notesAndPours(ctx context.Context, w *works, said *answers) error {
	for key, words := range said.notes {
		var n int
		if err := w.db.GetContext(ctx, &n, `SELECT COUNT(*) FROM journal WHERE idem_key = ? AND words = ?`, key, words); err != nil || n != 1 {
			return fmt.Errorf("the answered note %q is there %d times: %w", words, n, err)
		}
	}
	for code, copies := range said.pours {
		var n int
		if err := w.db.GetContext(ctx, &n, `SELECT COUNT(*) FROM mix x JOIN run_mix r ON r.mix_id = x.id JOIN copy c ON c.run_id = r.run_id JOIN pot p ON p.copy_id = c.id WHERE x.code = ? AND x.state = 'poured'`, code); err != nil || n != copies {
			return fmt.Errorf("the answered pour %s has %d pots, not %d: %w", code, n, copies, err)
		}
	}
	// What was not answered stands or falls whole, too.
	var halves int
	err := w.db.GetContext(ctx, &halves, `SELECT (SELECT COUNT(*) FROM mix x WHERE (x.state = 'poured') <> EXISTS (SELECT 1 FROM run_mix r WHERE r.mix_id = x.id))
		+ (SELECT COUNT(*) FROM run r WHERE NOT EXISTS (SELECT 1 FROM copy c WHERE c.run_id = r.id))
		+ (SELECT COUNT(*) FROM copy c WHERE (SELECT COUNT(*) FROM pot p WHERE p.copy_id = c.id) <> 1)`)
	if err == nil && halves > 0 {
		err = fmt.Errorf("%d acts are there by half", halves)
	}
	return err
}

// pots: a fresh program on the same database shows every pot at least as far
// as before, on a log of the room without a gap.
func pots(ctx context.Context, w *works, said *answers) error {
	s, err := shop.New(ctx, shop.Config{FilesDir: w.dir + "/files"}, w.db, clock.System{}, device.NewSimulatedScale(1, time.Now), device.NewSimulatedRoom(1))
	if err != nil {
		return err
	}
	if err := s.Build.Air.CatchUp(ctx); err != nil {
		return err
	}
	shelf, err := s.Build.Shelf(ctx)
	if err != nil {
		return err
	}
	for _, p := range shelf {
		if p.Fill+1e-9 < said.fills[p.ID] {
			return fmt.Errorf("pot %d went back from %.6f to %.6f", p.ID, said.fills[p.ID], p.Fill)
		}
		said.fills[p.ID] = p.Fill
	}
	var gaps int
	err = w.db.GetContext(ctx, &gaps, `SELECT COUNT(*) FROM (SELECT TIMESTAMPDIFF(SECOND, LAG(at) OVER (ORDER BY at), at) AS s FROM room_reading WHERE at >= (SELECT MIN(started_at) FROM pot)) g WHERE s > 60`)
	if err == nil && gaps > 0 {
		err = fmt.Errorf("the room's log has %d gaps", gaps)
	}
	return err
}
