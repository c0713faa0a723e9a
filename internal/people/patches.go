package people

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// When a patch test may be called clear: not before a day, and two days are
// usual at most. A reaction is a reaction at any time.
const (
	readFrom = 24 * time.Hour
	readTo   = 48 * time.Hour
)

// Patch is one patch test.
type Patch struct {
	ID        uint64     `db:"id" json:"id"`
	Slug      string     `db:"slug" json:"material"`
	Name      string     `db:"name" json:"material_name"`
	LotCode   string     `db:"lot_code" json:"lot"`
	Result    string     `db:"result" json:"result" enum:"open,clear,positive"`
	TestedOn  time.Time  `db:"tested_on" json:"tested_on"`
	PutOnAt   *time.Time `db:"put_on_at" json:"put_on_at,omitempty" doc:"nil where nobody noted the hour"`
	ReadAt    *time.Time `db:"read_at" json:"read_at,omitempty" doc:"nil where nobody noted the hour"`
	ReadOn    *time.Time `db:"read_on" json:"read_on,omitempty" doc:"the day, of a reading that was written down later"`
	ReadBy    *string    `db:"read_by" json:"read_by,omitempty"`
	ExpiresOn time.Time  `db:"expires_on" json:"expires_on"`
	Note      string     `db:"note" json:"note"`
	// Corrects is what a correction stands in the place of, in words, and why.
	Corrects string `db:"corrected" json:"corrected,omitempty"`
	// ReadFrom is when it can be read at the earliest, while it is open.
	ReadFrom *time.Time `db:"-" json:"read_from,omitempty"`
}

// patches are the tests that stand: what was corrected is behind its correction.
func patches(ctx context.Context, db database.Reader, performer uint64) ([]Patch, error) {
	list := []Patch{}
	err := db.SelectContext(ctx, &list, `SELECT t.id, m.slug, m.name, t.lot_code, t.result, t.tested_on, t.put_on_at, t.read_at, t.read_on, r.name AS read_by, t.expires_on, t.note,
		COALESCE((SELECT CONCAT(n.name, IF(o.lot_code = '', '', CONCAT(', ', o.lot_code)), ', ', o.result, ', of ', DATE_FORMAT(o.tested_on, '%e %b'), '; ', t.reason) FROM patch_test o JOIN material n ON n.id = o.material_id WHERE o.id = t.corrects), '') AS corrected
		FROM patch_test t JOIN material m ON m.id = t.material_id LEFT JOIN person r ON r.id = t.read_by
		WHERE t.performer_id = ? AND t.result <> 'void' AND NOT EXISTS (SELECT 1 FROM patch_test x WHERE x.corrects = t.id) ORDER BY t.tested_on DESC, t.id DESC`, performer)
	if err != nil {
		return nil, fmt.Errorf("reading patch tests: %w", err)
	}
	for i, t := range list {
		if t.Result == "open" {
			from := readableFrom(t.PutOnAt, t.TestedOn)
			list[i].ReadFrom = &from
		}
	}
	return list, nil
}

// readableFrom is when a test may be called clear: a day after it was put on; where
// nobody noted the hour, a day after the last minute of that day.
func readableFrom(putOn *time.Time, tested time.Time) time.Time {
	if putOn != nil {
		return putOn.Add(readFrom)
	}
	return tested.AddDate(0, 0, 1).Add(readFrom)
}

// NewPatch is a patch test as it is entered: put on now, or one of before with
// what it showed. Dates are days, 2026-01-09.
type NewPatch struct {
	Material  string `json:"material"`
	Lot       string `json:"lot,omitempty" maxLength:"32"`
	Result    string `json:"result,omitempty" enum:"open,clear,positive" doc:"open, as long as nobody has read it; others only for one that was read before today's entry"`
	TestedOn  string `json:"tested_on" format:"date"`
	ReadOn    string `json:"read_on,omitempty" format:"date" doc:"the day on which it was read, of one that was read before"`
	ExpiresOn string `json:"expires_on" format:"date"`
	Note      string `json:"note,omitempty" maxLength:"300"`
}

// worked is a patch test with its moments: those of now, and days where nobody noted
// the hour.
type worked struct {
	tested, expires       time.Time
	putOn, readAt, readOn *time.Time
}

func (s *Service) work(in NewPatch) (worked, error) {
	var w worked
	var err error
	if w.tested, err = clock.ParseDay(in.TestedOn, "tested_on"); err != nil {
		return w, err
	}
	if w.expires, err = clock.ParseDay(in.ExpiresOn, "expires_on"); err != nil {
		return w, err
	}
	now := s.Clock.Now()
	switch {
	case w.tested.After(now):
		return w, problem.Invalid("out_of_range", "tested_on", "A test that is still to come cannot be recorded yet.")
	case w.expires.Before(w.tested):
		return w, problem.Invalid("contradiction", "expires_on", "A test cannot run out before it was made.")
	}
	// Put on today is now; of another day nobody says the hour.
	if clock.DayNumber(w.tested) == clock.DayNumber(now) {
		w.putOn = &now
	}
	switch in.Result {
	case "clear", "positive":
		return w, w.read(in, now)
	default:
		if strings.TrimSpace(in.Lot) == "" {
			return w, problem.Invalid("missing", "lot", "Which lot is on the skin? What is cleared is that lot.")
		}
	}
	return w, nil
}

// read puts down when a test was read that somebody enters with what it showed.
func (w *worked) read(in NewPatch, now time.Time) error {
	if in.ReadOn == "" && in.Result == "positive" {
		w.readAt = &now // the skin says so as it is written down
		return nil
	}
	if in.ReadOn == "" {
		return problem.Invalid("missing", "read_on", "On which day was it read? Clear is read a day or two after it was put on.")
	}
	day, err := clock.ParseDay(in.ReadOn, "read_on")
	if err != nil {
		return err
	}
	days := clock.DayNumber(day) - clock.DayNumber(w.tested)
	switch {
	case day.After(now) || days < 0:
		return problem.Invalid("out_of_range", "read_on", "It was read between the day on which it was put on and today.")
	case in.Result == "clear" && days < 1:
		return problem.Invalid("too_early", "read_on", "It can be read clear a day after it was put on, at the earliest. Put it down as put on, and read it then.")
	}
	w.readOn = &day
	if clock.DayNumber(day) == clock.DayNumber(now) {
		w.readAt = &now
	}
	return nil
}

// RecordPatch records a patch test; a later one of the same material stands
// beside the earlier.
func (s *Service) RecordPatch(ctx context.Context, id uint64, in NewPatch) (Performer, error) {
	w, err := s.work(in)
	if err != nil {
		return Performer{}, err
	}
	return s.performerAct(ctx, id, "patch test recorded", func(tx database.Tx) error {
		return s.insertPatch(ctx, tx, id, in, w, nil, "")
	})
}

func (s *Service) insertPatch(ctx context.Context, tx database.Tx, id uint64, in NewPatch, w worked, corrects *uint64, reason string) error {
	who, _ := accounts.From(ctx)
	result := in.Result
	if result == "" {
		result = "open"
	}
	var reader uint64
	if w.readAt != nil { // who read it before is not known: the one who writes it down is in recorded_by
		reader = who.ID
	}
	known, err := database.Changed(tx.ExecContext(ctx, `INSERT INTO patch_test (performer_id, material_id, lot_code, tested_on, put_on_at, result, read_at, read_on, read_by, expires_on, note, recorded_by, corrects, reason) SELECT ?, id, ?, ?, ?, ?, ?, ?, NULLIF(?,0), ?, ?, NULLIF(?,0), ?, ? FROM material WHERE slug = ?`,
		id, strings.TrimSpace(in.Lot), w.tested, w.putOn, result, w.readAt, w.readOn, reader, w.expires, in.Note, who.ID, corrects, reason, in.Material))
	if database.IsDuplicate(err) {
		return problem.Conflict("moved_on", "Somebody else corrected this test meanwhile; look again. Nothing was written over it.")
	}
	if err != nil {
		return fmt.Errorf("recording a patch test: %w", err)
	}
	if !known {
		return problem.Invalid("unknown_value", "material", "Choose what was tested.")
	}
	return nil
}

// NewReading is what a patch test showed.
type NewReading struct {
	Result string `json:"result" enum:"clear,positive"`
	Note   string `json:"note,omitempty" maxLength:"300" doc:"what was seen"`
}

// ReadPatch reads a test that was put on: clear a day after, at the earliest,
// positive whenever the skin says so.
func (s *Service) ReadPatch(ctx context.Context, id, test uint64, in NewReading) (Performer, error) {
	who, _ := accounts.From(ctx)
	return s.performerAct(ctx, id, "patch test read", func(tx database.Tx) error {
		var row struct {
			Result string
			Tested time.Time  `db:"tested_on"`
			PutOn  *time.Time `db:"put_on_at"`
			Over   bool       `db:"replaced"`
		}
		err := tx.GetContext(ctx, &row, `SELECT result, tested_on, put_on_at, EXISTS (SELECT 1 FROM patch_test x WHERE x.corrects = t.id) AS replaced FROM patch_test t WHERE id = ? AND performer_id = ? FOR UPDATE`, test, id)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("patch test", fmt.Sprint(test))
		}
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		switch {
		case row.Result != "open" || row.Over:
			return problem.Conflict("read", "It is read already; correct it with a reason if it was read wrong.")
		case in.Result == "clear" && row.PutOn != nil && now.Before(readableFrom(row.PutOn, row.Tested)):
			return problem.Invalid("too_early", "result", "It is on for %.0f h; clear is read after 24 to 48 h. A reaction is written down at any time.", now.Sub(*row.PutOn).Hours())
		case in.Result == "clear" && now.Before(readableFrom(row.PutOn, row.Tested)):
			return problem.Invalid("too_early", "result", "Nobody noted the hour at which it was put on: clear is read from the second day after. A reaction is written down at any time.")
		}
		note := in.Note
		if row.PutOn != nil && now.Sub(*row.PutOn) > readTo {
			note = strings.TrimSpace(fmt.Sprintf("read %.0f h after it was put on; usual is 24 to 48 h. %s", now.Sub(*row.PutOn).Hours(), note))
		}
		_, err = tx.ExecContext(ctx, `UPDATE patch_test SET result = ?, read_at = ?, read_by = NULLIF(?,0), note = IF(? = '', note, ?) WHERE id = ?`, in.Result, now, who.ID, note, note, test)
		return err
	})
}

// PatchCorrection puts a test right, or takes it out with the result void. What
// it said before is kept behind it.
type PatchCorrection struct {
	NewPatch
	Void   bool   `json:"void,omitempty" doc:"it was never made, or of somebody else"`
	Reason string `json:"reason" minLength:"1" maxLength:"300"`
}

// CorrectPatch puts a recorded test right.
func (s *Service) CorrectPatch(ctx context.Context, id, test uint64, in PatchCorrection) (Performer, error) {
	reason := strings.TrimSpace(in.Reason)
	if reason == "" {
		return Performer{}, problem.Invalid("missing", "reason", "Say what was wrong.")
	}
	return s.performerAct(ctx, id, "patch test corrected", func(tx database.Tx) error {
		var slug string
		err := tx.GetContext(ctx, &slug, `SELECT m.slug FROM patch_test t JOIN material m ON m.id = t.material_id WHERE t.id = ? AND t.performer_id = ? AND t.result <> 'void'`, test, id)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("patch test", fmt.Sprint(test))
		}
		if err != nil {
			return err
		}
		if in.Void {
			in.NewPatch = NewPatch{Material: slug, Result: "void", TestedOn: "", ExpiresOn: ""}
			w := worked{tested: s.Clock.Now(), expires: s.Clock.Now()}
			return s.insertPatch(ctx, tx, id, in.NewPatch, w, &test, reason)
		}
		w, err := s.work(in.NewPatch)
		if err != nil {
			return err
		}
		return s.insertPatch(ctx, tx, id, in.NewPatch, w, &test, reason)
	})
}
