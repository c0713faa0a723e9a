package mix

import (
	"context"
	"fmt"
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

// meets says whether pouring this ingredient brings two parts together that
// set each other off.
func meets(ingredient string, by map[string]craft.Line) bool {
	if !by[ingredient].IsPart {
		return false
	}
	for id, l := range by {
		if id != ingredient && l.IsPart && l.InCupG > 0 {
			return true
		}
	}
	return false
}

// contact notes the moment when the two parts meet, once. Whoever calls it tells
// the screens when the act is kept.
func (s *Service) contact(ctx context.Context, tx database.Tx, m row, at time.Time) error {
	first, err := database.Changed(tx.ExecContext(ctx, `UPDATE mix SET contact_at = ? WHERE id = ? AND contact_at IS NULL`, at, m.ID))
	if err != nil || !first {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: at, Piece: m.PieceID, Kind: "mix", Code: m.Code, Act: "A met B"})
	return err
}

func currentLine(m row, lines []lineRow) *lineRow {
	_, by, err := balance(m, lines)
	if err != nil {
		return nil
	}
	for i, l := range lines {
		if !l.Done || by[l.Ingredient].AddG > 0 {
			return &lines[i]
		}
	}
	return nil
}

// lock holds a mix's row, so that those who act on it at the same moment come
// one after the other, and reads it.
func lock(ctx context.Context, tx database.Tx, code string) (row, error) {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM mix WHERE code = ? FOR UPDATE`, code); err != nil {
		return row{}, err
	}
	return readRow(ctx, tx, code)
}

// Begin puts a mix on the scale: from now on the readings count for it. One
// that is on it already stays as it is, with what was poured since, unless the
// cup was taken off meanwhile; the one that makes room for it keeps what was
// poured in its line.
func (s *Service) Begin(ctx context.Context, code string) (View, error) {
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
			return problem.Conflict("ended", "%s is %s already.", code, m.State)
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
			_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: m.PieceID, Kind: "mix", Code: code, Act: "weighing begun"})
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
}

// line is the line that a weigh-in is for.
func (in WeighIn) line(m row, lines []lineRow) (*lineRow, error) {
	if in.AgoS > 0 && strings.TrimSpace(in.Typed) != "" {
		for i, l := range lines {
			if l.Seq == in.Seq {
				return &lines[i], nil
			}
		}
	}
	if current := currentLine(m, lines); current != nil && current.Seq == in.Seq {
		return current, nil
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
		if m.State != "weighing" {
			return problem.Conflict("not_weighing", "%s is not being weighed: put it on the scale first.", code)
		}
		lines, err := readLines(ctx, tx, m.ID)
		if err != nil {
			return err
		}
		current, err := in.line(m, lines)
		if err != nil {
			return err
		}
		grams, source, err := s.grams(ctx, tx, m, *current, in, reading)
		if err != nil {
			return err
		}
		if in.AgoS == 0 { // what was done while the line was away is a fact
			if err := s.mayAdd(ctx, tx, m, current.Ingredient); err != nil {
				return err
			}
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
		if err := s.Stores.Draw(ctx, tx, current.LotID, grams, uint64(id), in.AgoS > 0); err != nil {
			return err
		}
		_, by, err := balance(m, lines)
		if err != nil {
			return err
		}
		if meets(current.Ingredient, by) && m.ContactAt == nil {
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

// mayAdd asks whether an ingredient may come into the cup as things stand now.
func (s *Service) mayAdd(ctx context.Context, tx database.Tx, m row, ingredient string) error {
	p, err := piece.Find(ctx, tx, m.Piece)
	if err != nil {
		return err
	}
	if ingredient == "A" || ingredient == "B" {
		ingredient = m.Slug
	}
	return s.Build.AskStuff(ctx, tx, p, m.Section, m.Code, ingredient)
}

// grams decides what was weighed: typed, or what the scale shows above where
// the line began.
func (s *Service) grams(ctx context.Context, db database.Reader, m row, l lineRow, in WeighIn, r device.ScaleReading) (float64, string, error) {
	if strings.TrimSpace(in.Typed) != "" {
		materials, err := shelf.Load(ctx, db)
		if err != nil {
			return 0, "", err
		}
		density := materials[l.Ingredient].Density
		if l.Ingredient == "A" || l.Ingredient == "B" {
			density = materials[m.Slug].Density
		}
		q, err := quantity.Parse(in.Typed, quantity.Mass, density, "typed")
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
		return 0, "", problem.Conflict("let_down", "%s is too little for this scale. Read it off a finer one and type it, or let it down in the softener first. Nothing was recorded.", quantity.FormatMass(l.PlannedG))
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
	lines, err := readLines(ctx, tx, m.ID)
	if err != nil {
		return err
	}
	b, by, err := balance(m, lines)
	if err != nil {
		return err
	}
	now := by[l.Ingredient]
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
	words := fmt.Sprintf("%s: %s, lot %s, %s", l.Ingredient, quantity.FormatMass(grams), l.Lot, source)
	if b.GrewBy == l.Ingredient {
		words += "; over, the sheet moved to " + quantity.FormatMass(b.TotalG)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.PieceID, Kind: "mix", Code: m.Code, Act: "weighed", Words: words})
	return err
}

// Abandon ends a mix that will not be poured. What was weighed stays drawn.
func (s *Service) Abandon(ctx context.Context, code, reason string) (View, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return View{}, problem.Invalid("missing", "reason", "Say why, in a word or two.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		return s.end(ctx, tx, m, "abandoned", reason)
	})
	if err != nil {
		return View{}, err
	}
	s.attach("")
	s.Live.Tell(ctx, "mixes", code)
	return s.View(ctx, code)
}

func (s *Service) end(ctx context.Context, tx database.Tx, m row, state, reason string) error {
	now := s.Clock.Now()
	ended, err := database.Changed(tx.ExecContext(ctx, `UPDATE mix SET state = ?, ended_at = ?, end_reason = ? WHERE id = ? AND state IN ('planned','weighing')`, state, now, reason, m.ID))
	if err != nil {
		return err
	}
	if !ended {
		return problem.Conflict("ended", "%s has ended already; nothing was changed.", m.Code)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: m.PieceID, Kind: "mix", Code: m.Code, Act: state, Words: reason})
	return err
}

// Pour ends the mix by pouring it: the run begins and its pots stand on the
// shelf, all in one act, decided on what stands in the cup then.
func (s *Service) Pour(ctx context.Context, code string, moulds []string, reason string) (run string, copies []string, err error) {
	reason = strings.TrimSpace(reason)
	if len(moulds) == 0 {
		return "", nil, problem.Invalid("missing", "moulds", "Choose what you pour into.")
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		m, err := lock(ctx, tx, code)
		if err != nil {
			return err
		}
		v, err := s.view(ctx, tx, code)
		switch {
		case err != nil:
			return err
		case v.State == "poured":
			return problem.Conflict("ended", "%s has been poured already, as %s.", code, v.Run)
		case v.Current != 0:
			return problem.Conflict("not_all_in", "Not everything is in the cup yet: %s is next.", v.Lines[v.Current-1].Name)
		case len(moulds) > v.Pours:
			return problem.Invalid("out_of_range", "moulds", "The mix was made for %d pours.", v.Pours)
		case v.Working.Over && reason == "":
			return problem.Conflict("too_late", "The working time is over: the mix may be too thick to fill the mould. Say why you pour all the same, or abandon it.")
		}
		p, err := piece.Find(ctx, tx, m.Piece)
		if err != nil {
			return err
		}
		materials, err := shelf.Load(ctx, tx)
		if err != nil {
			return err
		}
		contact := s.Clock.Now()
		if m.ContactAt != nil {
			contact = *m.ContactAt
		}
		if err := s.end(ctx, tx, m, "poured", reason); err != nil {
			return err
		}
		run, copies, err = s.Build.StartRun(ctx, tx, Pour{Piece: p, Section: m.Section, MixID: m.ID, MixCode: code, Material: m.Slug, Sheet: *materials[m.Slug].Cure, Contact: contact, Moulds: moulds})
		return err
	})
	if err != nil {
		return "", nil, err
	}
	s.attach("")
	for _, topic := range []string{"mixes", "pots", "runs", "copies", "pieces"} {
		s.Live.Tell(ctx, topic, "")
	}
	return run, copies, nil
}
