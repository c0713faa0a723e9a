package build

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"time"

	"yewmoor/internal/craft/making"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// weighed is the sign of a scale, the best there is: what a piece lost is its water.
const weighed = "weight"

// scaleSpread is how far a scale may be off as a sign, as the spread of a logarithm: what
// ran off or was wiped is no water.
const scaleSpread = 0.08

// apartS is how far apart two weighings have to be to tell a rate, s.
const apartS = 60

// Weigh notes what a piece weighs while its coat dries. From the second weighing on the
// pot's own times follow: what it lost against what the model says it would have.
func (s *Service) Weigh(ctx context.Context, id uint64, grams float64) (Pot, error) {
	return s.actOn(ctx, id, func(tx database.Tx, row potRow) error {
		if making.Wait(row.Kind) != making.Dry {
			return problem.Invalid("contradiction", "grams", "%s does not dry by its weight.", row.Label)
		}
		st, err := s.stand(ctx, tx, row)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		var before []struct {
			At    time.Time
			Grams float64
		}
		// By index pot_weight_at.
		if err := tx.SelectContext(ctx, &before, `SELECT at, grams FROM pot_weight WHERE pot_id = ? ORDER BY at, id LIMIT 200`,
			id); err != nil {
			return err
		}
		who, _ := accounts.From(ctx)
		words := fmt.Sprintf("Weighs %.2f g.", grams)
		if len(before) > 0 {
			first := before[0]
			since := now.Sub(first.At).Seconds()
			if last := before[len(before)-1]; now.Sub(last.At).Seconds() < apartS {
				return problem.Invalid("too_soon", "grams", "It was weighed %.0f s ago: two weighings within a minute give no rate.",
					now.Sub(last.At).Seconds())
			}
			area, water, err := s.wetArea(ctx, tx, row, st)
			if err != nil {
				return err
			}
			lost := first.Grams - grams
			switch {
			case lost < -0.02*first.Grams:
				return problem.Invalid("contradiction", "grams",
					"It weighed %.2f g before: drying, nothing gets heavier. Is it the same piece, with nothing on it?", first.Grams)
			case lost > 1.1*water:
				return problem.Invalid("out_of_range", "grams", "It would have lost %.2f g, and no more than %.2f g of water went on. Is it the same piece, with nothing under it?", lost, water)
			}
			sign, err := s.signOfWeight(st, first.At, since, lost/area/1000)
			if err != nil {
				return err
			}
			raw, err := json.Marshal(sign)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `UPDATE pot SET observed = ? WHERE id = ?`, string(raw), id); err != nil {
				return err
			}
			words += fmt.Sprintf(" It lost %.2f g in %s.", lost, duration(since))
			if err := s.teach(ctx, tx, row, st, sign); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO pot_weight (pot_id, at, grams, person_id) VALUES (?,?,?,?)`, id, now, grams,
			who.ID); err != nil {
			return fmt.Errorf("noting the weight: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: row.PieceID, Kind: "pot", Code: row.Label, Act: "weighed",
			Words: words})
		return err
	})
}

// wetArea is the area of one copy that its coat covers, m², by what it took, and the water
// that all its coats held as they went on, g.
func (s *Service) wetArea(ctx context.Context, db database.Reader, row potRow, st stand) (area, water float64, err error) {
	_, stage, err := s.holdsOf(ctx, db, row)
	if err != nil {
		return 0, 0, err
	}
	own := st.coats[len(st.coats)-1]
	if stage == nil || stage.Grams <= 0 || own.WetKgM2() <= 0 {
		return 0, 0, problem.Invalid("missing", "grams", "Nobody knows how much of it went on: its weight tells nothing.")
	}
	area = stage.Grams / 1000 / own.WetKgM2()
	d, err := s.dried(course{Coats: st.coats, Rooms: st.rooms, Times: 1})
	return area, 1000 * d.Water * area, err
}

// signOfWeight is what a loss of water, kg/m², since a first weighing says of a pot: how
// long it takes to the book's time. Slower drying loses less, so the answer is found by
// halving.
func (s *Service) signOfWeight(st stand, first time.Time, since, lost float64) (drySign, error) {
	from := math.Max(0, first.Sub(st.begun).Seconds())
	loses := func(times float64) (float64, error) {
		d, err := s.dried(course{Coats: st.coats, Air: st.model.Air, Rooms: st.rooms, Times: times,
			Report: []float64{from, from + since}})
		if err != nil {
			return 0, err
		}
		// What plaster took up is on the scale still.
		return d.Left[0] + d.Taken[0] - d.Left[1] - d.Taken[1], nil
	}
	low, high := 0.33, 3.3
	for range 12 {
		mid := math.Sqrt(low * high)
		would, err := loses(mid)
		if err != nil {
			return drySign{}, err
		}
		if would > lost {
			low = mid
		} else {
			high = mid
		}
	}
	at := from + since - st.coats[len(st.coats)-1].AtS
	return drySign{Stage: weighed, AtS: at, BookS: at / math.Sqrt(low*high)}, nil
}
