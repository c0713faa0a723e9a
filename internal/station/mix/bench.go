package mix

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	craft "yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/device"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// contact notes the moment when what sets each other off meets, once, and the air then. Whoever calls it tells
// the screens when the act is kept.
func (s *Service) contact(ctx context.Context, tx database.Tx, m row, at time.Time) error {
	air, err := s.Build.RoomNow(ctx, tx)
	if err != nil {
		return err
	}
	first, err := database.Changed(tx.ExecContext(ctx, `UPDATE mix SET contact_at = ?, room_c = ?, rh = ? WHERE id = ? AND contact_at IS NULL`, at, air.TempC, air.RH, m.ID))
	if err != nil || !first {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: at, Piece: m.piece(), Kind: "mix", Code: m.Code, Act: "the clock began"})
	return err
}

// lock holds a mix's row, so that those who act on it at the same moment come
// one after the other, and reads it.
func lock(ctx context.Context, tx database.Tx, code string) (row, error) {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM mix WHERE code = ? FOR UPDATE`, code); err != nil {
		return row{}, err
	}
	return readRow(ctx, tx, code)
}

// lockCup holds a mix's row and reads what is in its cup.
func lockCup(ctx context.Context, tx database.Tx, code string) (cup, error) {
	m, err := lock(ctx, tx, code)
	if err != nil {
		return cup{}, err
	}
	return readCup(ctx, tx, m)
}

// lockFinished is lockCup, and refuses what is not all in yet.
func lockFinished(ctx context.Context, tx database.Tx, code string) (cup, error) {
	c, err := lockCup(ctx, tx, code)
	if err != nil {
		return cup{}, err
	}
	return c, c.finished()
}

// confirmation is what somebody confirmed before they began.
type confirmation struct {
	Person uint64    `json:"person"`
	Name   string    `json:"name"`
	At     time.Time `json:"at"`
	Codes  []string  `json:"codes"`
}

func (r row) confirmations() (list []confirmation) {
	if r.Confirmed != nil {
		_ = json.Unmarshal([]byte(*r.Confirmed), &list)
	}
	return list
}

// confirm writes down what somebody confirms, and from when on they breathe what
// comes off it. Whoever goes on with a mix confirms it too.
func (s *Service) confirm(ctx context.Context, tx database.Tx, c cup, confirmed []string) error {
	list, err := shelf.Substances(ctx, tx)
	if err != nil {
		return err
	}
	follows := c.house.Follow(list, c.materials)
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	if len(follows.Confirm) > 0 && !c.confirmedBy(ctx) {
		var codes []string
		for _, n := range follows.Confirm {
			if !slices.Contains(confirmed, n.Code) {
				p := problem.Conflict("confirm", "Confirm first: %s Nothing was begun.", n.Text)
				p.Field, p.Data = "confirmed", follows.Confirm
				return p
			}
			codes = append(codes, n.Code)
		}
		raw, err := json.Marshal(append(c.confirmations(), confirmation{who.ID, who.Name, now, codes}))
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE mix SET confirmed = ? WHERE id = ?`, string(raw), c.ID); err != nil {
			return err
		}
		if _, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.piece(), Kind: "mix", Code: c.Code, Act: "confirmed", Words: strings.Join(codes, ", ")}); err != nil {
			return err
		}
	}
	return s.expose(ctx, tx, c, follows.Exposes)
}

// expose begins somebody's minutes with fumes or dust, once a mix.
func (s *Service) expose(ctx context.Context, tx database.Tx, c cup, what []string) error {
	who, _ := accounts.From(ctx)
	for _, w := range what {
		if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO exposure (person_id, mix_id, what, began_at) VALUES (?,?,?,?)`, who.ID, c.ID, w, s.Clock.Now()); err != nil {
			return fmt.Errorf("keeping the minutes: %w", err)
		}
	}
	return nil
}

// Begin puts a mix on the scale: from now on the readings count for it. One
// that is on it already stays as it is, with what was poured since, unless the
// cup was taken off meanwhile; the one that makes room for it keeps what was
// poured in its line.
func (s *Service) Begin(ctx context.Context, code string, confirmed ...string) (View, error) {
	base := 0.0
	if r := s.Scale.Read(); r.Connected && r.Unit == device.Grams {
		base = r.Value
	}
	on, err := s.attached(ctx)
	if err != nil {
		return View{}, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		if m.State != "planned" && m.State != "weighing" {
			return problem.Conflict("ended", "%s is %s already.", code, strings.ReplaceAll(m.State, "_", " "))
		}
		if m.ParentID != nil {
			return problem.Conflict("divided", "%s was divided from %s: everything is in it already.", code, *m.Parent)
		}
		c, err := readCup(ctx, tx, m)
		if err != nil {
			return err
		}
		if err := s.confirm(ctx, tx, c, confirmed); err != nil {
			return err
		}
		if m.State == "weighing" && on == code && base >= m.BaseG-contactG {
			return nil // nothing was taken off: what was poured since stays poured
		}
		if on != nothing && on != code {
			// What stands in the other's cup and was not said to be in yet is its own.
			if _, err := tx.ExecContext(ctx, `UPDATE mix SET carried_g = carried_g + GREATEST(0, ? - scale_base_g), scale_base_g = ? WHERE code = ? AND state = 'weighing'`, quantity.Grams(base), quantity.Grams(base), on); err != nil {
				return err
			}
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `UPDATE mix SET on_scale_at = ?, scale_base_g = ?, carried_g = IF(state = 'weighing', carried_g, 0), state = 'weighing' WHERE id = ?`, now, quantity.Grams(base), m.ID); err != nil {
			return err
		}
		if m.State == "planned" {
			_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: m.piece(), Kind: "mix", Code: code, Act: "weighing begun"})
		}
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.attach(code)
	s.Live.Tell(ctx, "mixes", code)
	return s.View(ctx, code)
}

// Tare zeroes the scale without losing what was poured in the current line.
func (s *Service) Tare(ctx context.Context, code string) (View, error) {
	r := s.Scale.Read()
	if !r.Connected {
		return View{}, unplugged()
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := readRow(ctx, tx, code)
		if err != nil {
			return err
		}
		carried := m.CarriedG
		if poured := r.Value - m.BaseG; poured > 0 && r.Unit == device.Grams && len(code) > 0 {
			carried += poured
		}
		lines, err := readLines(ctx, tx, m.ID)
		if err != nil {
			return err
		}
		if !started(lines) {
			carried = 0 // before the first part the scale holds only the cup
		}
		_, err = tx.ExecContext(ctx, `UPDATE mix SET scale_base_g = 0, carried_g = ? WHERE id = ?`, quantity.Grams(carried), m.ID)
		return err
	})
	if err != nil {
		return View{}, err
	}
	if err := s.Scale.Tare(); err != nil {
		return View{}, unplugged()
	}
	s.Live.Tell(ctx, "mixes", code)
	return s.View(ctx, code)
}

func started(lines []lineRow) bool {
	for _, l := range lines {
		if l.InCupG > 0 {
			return true
		}
	}
	return false
}

func unplugged() error {
	return problem.Conflict("scale_unplugged", "The scale does not answer. What was weighed before is kept; plug it in, or type the weight.")
}

// WeighIn is one "it is in".
type WeighIn struct {
	Seq   int    `json:"seq" minimum:"1"`
	Key   string `json:"key" format:"uuid" doc:"sent again with the same key it counts once"`
	Typed string `json:"typed,omitempty" maxLength:"64" doc:"a quantity read off another scale; empty: the bench scale"`
	// AgoS is how long a typed weight waited for the server. It is in the cup
	// whatever the sheet says by now, so any line takes it.
	AgoS float64 `json:"ago_s,omitempty" minimum:"0" maximum:"86400" doc:"seconds since it was entered, when it had to wait"`
	// Confirmed is what somebody who goes on with another's mix confirms.
	Confirmed []string `json:"confirmed,omitempty" maxItems:"10"`
}

// line is the line that a weigh-in is for.
func (in WeighIn) line(c cup) (*lineRow, error) {
	if in.AgoS > 0 && strings.TrimSpace(in.Typed) != "" {
		for i, l := range c.lines {
			if l.Seq == in.Seq {
				return &c.lines[i], nil
			}
		}
	}
	line, step := c.current()
	if line != nil && line.Seq == in.Seq {
		return line, nil
	}
	if step != nil {
		return nil, problem.Conflict("other_step", "First: %s. Nothing was recorded.", words(step.plan()))
	}
	return nil, problem.Conflict("other_line", "The sheet has moved on: look which part is next. Nothing was recorded.")
}

// Weigh records what is now in the cup of one line and draws it from its lot,
// in one act.
func (s *Service) Weigh(ctx context.Context, code string, in WeighIn) (View, error) {
	who, _ := accounts.From(ctx)
	reading := s.Scale.Read()
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		var seen int
		if err := tx.GetContext(ctx, &seen, `SELECT COUNT(*) FROM weigh_in WHERE idem_key = ?`, in.Key); err != nil || seen > 0 {
			return err
		}
		if m.State != "weighing" || m.ParentID != nil {
			return problem.Conflict("not_weighing", "%s is not being weighed: put it on the scale first.", code)
		}
		c, err := readCup(ctx, tx, m)
		if err != nil {
			return err
		}
		current, err := in.line(c)
		if err != nil {
			return err
		}
		grams, source, err := s.grams(c, *current, in, reading)
		if err != nil {
			return err
		}
		if in.AgoS == 0 { // what was done while the line was away is a fact
			if err := s.mayAdd(ctx, tx, m, current.Material); err != nil {
				return err
			}
		}
		if err := s.confirm(ctx, tx, c, in.Confirmed); err != nil {
			return err
		}
		now := s.Clock.Now().Add(-time.Duration(in.AgoS * float64(time.Second)))
		res, err := tx.ExecContext(ctx, `INSERT INTO weigh_in (mix_line_id, grams, source, at, person_id, idem_key) VALUES (?,?,?,?,?,?)`, current.ID, quantity.Grams(grams), source, now, who.ID, in.Key)
		if err != nil {
			return fmt.Errorf("recording the weight: %w", err)
		}
		id, err := res.LastInsertId()
		if err != nil {
			return err
		}
		if current.LotID != nil {
			if err := s.Stores.Draw(ctx, tx, *current.LotID, grams, uint64(id), in.AgoS > 0); err != nil {
				return err
			}
		}
		if m.ContactAt == nil && c.meets(current.Ingredient) {
			if err := s.contact(ctx, tx, m, now); err != nil {
				return err
			}
		}
		return s.settle(ctx, tx, m, *current, grams, source, reading)
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "mixes", code)
	s.Live.Tell(ctx, "lots", "")
	return s.View(ctx, code)
}

// meets says whether the line sets off what is in the cup.
func (c cup) meets(line string) bool {
	return c.house.Meets(line, func(id string) bool { return c.by[id].InCupG > 0 })
}

// mayAdd asks whether an ingredient may come into the cup as things stand now.
func (s *Service) mayAdd(ctx context.Context, tx database.Tx, m row, material string) error {
	if m.PieceID == nil {
		return s.Build.AskStuff(ctx, tx, piece.Piece{}, 0, m.Code, material)
	}
	p, err := piece.Find(ctx, tx, m.Piece)
	if err != nil {
		return err
	}
	return s.Build.AskStuff(ctx, tx, p, m.Section, m.Code, material)
}

// grams decides what was weighed: typed, or what the scale shows above where
// the line began.
func (s *Service) grams(c cup, l lineRow, in WeighIn, r device.ScaleReading) (float64, string, error) {
	m := c.row
	if strings.TrimSpace(in.Typed) != "" {
		p := c.materials[l.Material]
		q, err := quantity.Parse(in.Typed, quantity.Mass, p.DensityOf(in.Typed), "typed")
		if err == nil && (q.Value <= 0 || q.Value > 20*l.PlannedG+50) {
			err = problem.Invalid("out_of_range", "typed", "%s was asked for; %s cannot be meant.", quantity.FormatMass(l.PlannedG), quantity.FormatMass(q.Value))
		}
		return q.Value, "typed", err
	}
	switch {
	case !r.Connected:
		return 0, "", unplugged()
	case r.Unit != device.Grams:
		return 0, "", problem.Conflict("wrong_unit", "The scale shows %s. Switch it to grams; nothing was recorded.", r.Unit)
	case !r.Stable:
		return 0, "", problem.Conflict("not_steady", "The scale has not settled. Wait for steady, then say it again.")
	}
	// What one division of the scale decides is neither in nor over: it is let down,
	// or read off a finer scale.
	if craft.Unreadable(l.PlannedG, s.divisionG()) {
		return 0, "", problem.Conflict("let_down", "%s is too little for this scale. Read it off a finer one and type it, or let it down first. Nothing was recorded.", quantity.FormatMass(l.PlannedG))
	}
	grams := quantity.Grams(m.CarriedG + r.Value - m.BaseG)
	if grams < 0.05 {
		return 0, "", problem.Conflict("nothing_in", "The scale shows nothing more than before. Is the cup on it?")
	}
	return grams, "scale", nil
}

// settle closes the line when its target is reached and notes where the scale
// stands for the next one.
func (s *Service) settle(ctx context.Context, tx database.Tx, m row, l lineRow, grams float64, source string, r device.ScaleReading) error {
	c, err := readCup(ctx, tx, m)
	if err != nil {
		return err
	}
	b, now := c.balance, c.by[l.Ingredient]
	done := now.InCupG >= now.TargetG-craft.Tolerance(now.TargetG)
	if _, err := tx.ExecContext(ctx, `UPDATE mix_line SET done = ? WHERE id = ?`, done, l.ID); err != nil {
		return err
	}
	base := m.BaseG
	if r.Connected && r.Unit == device.Grams {
		base = r.Value
	}
	if _, err := tx.ExecContext(ctx, `UPDATE mix SET scale_base_g = ?, carried_g = 0 WHERE id = ?`, quantity.Grams(base), m.ID); err != nil {
		return err
	}
	lot := "no lot"
	if l.Lot != nil {
		lot = "lot " + *l.Lot
	}
	words := fmt.Sprintf("%s: %s, %s, %s", l.Ingredient, quantity.FormatMass(grams), lot, source)
	if b.GrewBy == l.Ingredient {
		words += "; over, the sheet moved to " + quantity.FormatMass(b.TotalG)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.piece(), Kind: "mix", Code: m.Code, Act: "weighed", Words: words})
	return err
}
