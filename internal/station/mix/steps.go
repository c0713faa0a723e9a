package mix

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/foam"
	"yewmoor/internal/craft/gelatin"
	"yewmoor/internal/craft/material"
	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// words says a step in words.
func words(st recipe.Step) string {
	out := string(st.Act)
	for _, a := range recipe.Acts {
		if a.Act == st.Act {
			out = a.Text
		}
	}
	if st.Speed != "" {
		out += ", " + st.Speed
	}
	if st.TempC > 0 {
		out += fmt.Sprintf(" to %g °C", st.TempC)
	}
	if st.Seconds > 0 {
		out += ", " + (time.Duration(st.Seconds) * time.Second).String()
	}
	return out
}

// StepDone is one "it is done" of a step that is no weighing.
type StepDone struct {
	// Typed is what was measured: the volume in the bowl, what the pot weighs without
	// the pot, or how warm it is. Empty for what measures nothing, or takes the scale.
	Typed  string `json:"typed,omitempty" maxLength:"64"`
	Note   string `json:"note,omitempty" maxLength:"300" doc:"what went otherwise"`
	Reason string `json:"reason,omitempty" maxLength:"200" doc:"why it was cut short"`
}

// stepAct does one act on the step that is next.
func (s *Service) stepAct(ctx context.Context, code string, seq int, act func(tx database.Tx, c cup, t stepRow) error) (View, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := lockCup(ctx, tx, code)
		if err != nil {
			return err
		}
		m := c.row
		if after := m.State == "poured" || m.State == "used" || m.State == "put_by"; m.ParentID != nil || m.State != "weighing" && !(after && c.testing()) {
			return problem.Conflict("not_weighing", "%s is not on the bench: begin it first.", code)
		}
		i := slices.IndexFunc(c.steps, func(t stepRow) bool { return t.Seq == seq })
		if i < 0 {
			return problem.NotFound("step", fmt.Sprint(seq))
		}
		if c.steps[i].DoneAt != nil {
			return nil // said twice: the same fact, recorded once
		}
		line, step := c.current()
		if step == nil || step.Seq != seq {
			what := "another step"
			if line != nil {
				what = "weigh " + c.materials[line.Material].Name
			} else if step != nil {
				what = words(step.plan())
			}
			return problem.Conflict("other_step", "First: %s. Nothing was recorded.", what)
		}
		return act(tx, c, c.steps[i])
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", code)
	return s.View(ctx, code)
}

// testing says whether all that is left is a test.
func (c cup) testing() bool {
	line, step := c.current()
	return line == nil && step != nil && step.plan().Act == recipe.Test
}

// BeginStep starts the clock of a timed step; begun again it goes on from where it was.
func (s *Service) BeginStep(ctx context.Context, code string, seq int) (View, error) {
	return s.stepAct(ctx, code, seq, func(tx database.Tx, c cup, t stepRow) error {
		now := s.Clock.Now()
		begun, err := database.Changed(tx.ExecContext(ctx, `UPDATE mix_step SET begun_at = ? WHERE id = ? AND begun_at IS NULL`, now, t.ID))
		if err != nil || !begun {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.piece(), Kind: "mix", Code: c.Code, Act: "step begun", Words: words(t.plan())})
		return err
	})
}

// tooEarly is how much of a step may be missing and still count as done.
const tooEarly = 0.1

// DoneStep says that a step is done, with what was measured. A timed one that was
// cut short wants a reason.
func (s *Service) DoneStep(ctx context.Context, code string, seq int, in StepDone) (View, error) {
	reading := s.Scale.Read()
	return s.stepAct(ctx, code, seq, func(tx database.Tx, c cup, t stepRow) error {
		who, _ := accounts.From(ctx)
		st, now := t.plan(), s.Clock.Now()
		in.Note, in.Reason = strings.TrimSpace(in.Note), strings.TrimSpace(in.Reason)
		if st.Seconds > 0 && in.Reason == "" {
			gone := 0.0
			if t.BegunAt != nil {
				gone = now.Sub(*t.BegunAt).Seconds()
			}
			if left := st.Seconds - gone; left > tooEarly*st.Seconds {
				return problem.Conflict("too_early", "%s of %s are missing. Say why it is cut short, or wait. Nothing was recorded.",
					(time.Duration(math.Round(left)) * time.Second).String(), words(st))
			}
		}
		value, said, err := s.measured(ctx, tx, c, t, st, in, reading.Value, reading.Connected && reading.Stable)
		if err != nil {
			return err
		}
		note := strings.TrimSpace(strings.Join(nonEmpty(said, in.Note, in.Reason), " "))
		if _, err := tx.ExecContext(ctx, `UPDATE mix_step SET begun_at = COALESCE(begun_at, ?), done_at = ?, done_by = ?, value = ?, note = ? WHERE id = ?`, now, now, who.ID, value, note, t.ID); err != nil {
			return fmt.Errorf("noting the step: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.piece(), Kind: "mix", Code: c.Code, Act: "step done", Words: strings.TrimSpace(words(st) + ". " + note)})
		return err
	})
}

func nonEmpty(list ...string) []string {
	return slices.DeleteFunc(list, func(s string) bool { return s == "" })
}

// measured is what a step measured, and what follows from it in words.
func (s *Service) measured(ctx context.Context, tx database.Tx, c cup, t stepRow, st recipe.Step, in StepDone, scaleG float64, steady bool) (*float64, string, error) {
	switch st.Act {
	case recipe.Volume:
		q, err := quantity.Parse(in.Typed, quantity.Volume, 0, "typed")
		if err != nil {
			return nil, "", err
		}
		mix := foam.Of(foam.Rise{VolumeRise: 1, MixKg: c.inCup() / 1000, Solids: solids(c.materials[c.Slug]), Overfill: 1, Shrink: foam.UsualShrink})
		rise := q.Value * 1e-6 / mix.FoamM3
		if rise < 1 || rise > 14 {
			return nil, "", problem.Invalid("out_of_range", "typed", "%.0f ml would be %.1f times its volume: foam stands at 1.5 to 14. Look at the bowl again.", q.Value, rise)
		}
		return &q.Value, fmt.Sprintf("It stands at %.1f times its volume.", rise), nil
	case recipe.Back:
		return s.weighedBack(ctx, tx, c, t, in, scaleG, steady)
	case recipe.Warm:
		if strings.TrimSpace(in.Typed) == "" {
			return nil, "", nil
		}
		q, err := quantity.Parse(in.Typed, quantity.Temperature, 0, "typed")
		if err != nil {
			return nil, "", err
		}
		if st.MaxC > 0 && q.Value > st.MaxC {
			return &q.Value, fmt.Sprintf("It was warmer than %g °C: it is weaker for it, and may set softly.", st.MaxC), nil
		}
		return &q.Value, "", nil
	case recipe.Test:
		if c.ContactAt != nil && c.house.Clock == recipe.GelTime {
			gel := s.Clock.Now().Sub(*c.ContactAt).Seconds()
			return &gel, fmt.Sprintf("It gelled after %s.", (time.Duration(math.Round(gel)) * time.Second).String()), nil
		}
	}
	return nil, "", nil
}

// weighedBack is a pot that was weighed after a melt: what is missing is water, and
// the line that tops it up is told how much.
func (s *Service) weighedBack(ctx context.Context, tx database.Tx, c cup, t stepRow, in StepDone, scaleG float64, steady bool) (*float64, string, error) {
	grams := scaleG
	if strings.TrimSpace(in.Typed) != "" {
		q, err := quantity.Parse(in.Typed, quantity.Mass, 0, "typed")
		if err != nil {
			return nil, "", err
		}
		grams = q.Value
	} else if !steady {
		return nil, "", problem.Invalid("missing", "typed", "Put the pot on the scale and wait for steady, or type what is in it without the pot.")
	}
	b, err := s.batch(ctx, tx, c, t.Seq)
	if err != nil {
		return nil, "", err
	}
	if b, err = b.Weighed(grams/1000, "typed"); err != nil {
		return nil, "", err
	}
	top := craft.Rounded(b.TopUp()*1000, s.divisionG())
	for _, l := range c.lines {
		if h, _ := c.house.Of(l.Ingredient); h.TopUp && l.Seq > t.Seq {
			if _, err := tx.ExecContext(ctx, `UPDATE mix_line SET planned_g = ?, done = ? WHERE id = ?`, quantity.Grams(top), top < 0.5, l.ID); err != nil {
				return nil, "", err
			}
		}
	}
	return &grams, b.Say(), nil
}

// batch is the base in the pot as it was poured together up to a place in the order.
// What comes from a lot that was put by brings its water and the ratio that it was
// mixed at.
func (s *Service) batch(ctx context.Context, db database.Reader, c cup, upTo int) (gelatin.Batch, error) {
	water, all, keptWater, keptSolids := 0.0, 0.0, 0.0, 0.0
	for _, l := range c.lines {
		if l.Seq > upTo {
			continue
		}
		share := waterOf(c.materials[l.Material])
		if l.LotID != nil {
			lots, err := s.Stores.LotsOf(ctx, db, l.Material)
			if err != nil {
				return gelatin.Batch{}, err
			}
			for _, lot := range lots {
				if lot.ID == *l.LotID && lot.Batch != nil {
					share = lot.Batch.WaterShare
					keptSolids += l.InCupG * (1 - share)
					keptWater += l.InCupG * (1 - share) * lot.Batch.Start
				}
			}
		}
		water += l.InCupG * share
		all += l.InCupG
	}
	solids := all - water
	if solids <= 0 {
		return gelatin.Batch{}, problem.Invalid("contradiction", "typed", "Nothing but water is in it yet.")
	}
	// As it was mixed: what was put by at its own ratio, the rest as it went in.
	start := water
	if keptSolids > 0 {
		start = keptWater + water*(solids-keptSolids)/solids
	}
	return gelatin.Again(solids/1000, water/1000, start/solids), nil
}

// waterOf is the share of water in what goes into a base.
func waterOf(p material.Product) float64 {
	switch {
	case p.Slug == "water":
		return 1
	case p.Base != nil:
		return p.Base.Water / (p.Base.Gelatin + p.Base.Glycerin + p.Base.Sorbitol + p.Base.Water)
	case p.Family == material.Ingredient && p.Solids > 0:
		return 1 - p.Solids
	}
	return 0
}

// gelled are the foam batches of before, whose gel was seen.
func (s *Service) gelled(ctx context.Context, db database.Reader) ([]foam.Gelled, error) {
	var codes []string
	// The newest thirty by the primary key; a test of a mix with a room and a value.
	err := db.SelectContext(ctx, &codes, `SELECT x.code FROM mix x JOIN mix_step t ON t.mix_id = x.id WHERE x.contact_at IS NOT NULL AND x.room_c IS NOT NULL AND t.value IS NOT NULL
		AND JSON_UNQUOTE(JSON_EXTRACT(t.plan, '$.act')) = 'test' AND JSON_UNQUOTE(JSON_EXTRACT(x.recipe, '$.clock')) = 'gel' ORDER BY x.id DESC LIMIT 30`)
	if err != nil {
		return nil, fmt.Errorf("reading the gel times: %w", err)
	}
	var out []foam.Gelled
	for _, code := range codes {
		r, err := readRow(ctx, db, code)
		if err != nil {
			return nil, err
		}
		c, err := readCup(ctx, db, r)
		if err != nil {
			return nil, err
		}
		for _, t := range c.steps {
			if t.Value != nil && t.plan().Act == recipe.Test && *t.Value >= 60 && *t.Value <= 7200 {
				out = append(out, foam.Gelled{RoomC: *r.RoomC, RH: *r.RH, Dose: min(3, max(0.3, dose(c.house, c.materials, c.lines))), GelS: *t.Value})
			}
		}
	}
	return out, nil
}

// NoteIt writes down with one tap what went otherwise.
func (s *Service) NoteIt(ctx context.Context, code, note string) (View, error) {
	note = strings.TrimSpace(note)
	if note == "" {
		return View{}, problem.Invalid("missing", "note", "What went otherwise?")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE mix SET note = LEFT(CONCAT_WS('; ', NULLIF(note, ''), ?), 300) WHERE id = ?`, note, m.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.piece(), Kind: "mix", Code: code, Act: "noted", Words: note})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", code)
	return s.View(ctx, code)
}
