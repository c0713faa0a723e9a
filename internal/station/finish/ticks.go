package finish

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

// NewTick is a tick as it is set.
type NewTick struct {
	Item    string      `json:"item" minLength:"1" maxLength:"40"`
	Note    string      `json:"note,omitempty" maxLength:"300"`
	Reading *colour.Lab `json:"reading,omitempty" doc:"needed for the colour reading"`
	Minutes *float64    `json:"minutes,omitempty" minimum:"0" maximum:"6000" doc:"hands that it took"`
	Lot     string      `json:"lot,omitempty" maxLength:"32" doc:"of the material that it took"`
	// Skip passes over a step whose instrument is not there; the note says why.
	Skip bool `json:"skip,omitempty"`
}

// needsInstrument are the kinds of work that a shop may lack the instrument for.
var needsInstrument = []work.Kind{work.Read, work.Picture}

// whole refuses a tick that lacks what its kind of work leaves behind.
func (in NewTick) whole(t Todo, pictured bool) error {
	switch {
	case in.Skip && !slices.Contains(needsInstrument, t.Kind):
		return problem.Invalid("unknown_value", "skip", "“%s” needs no instrument: it is done, or it is not.", t.Text)
	case in.Skip && strings.TrimSpace(in.Note) == "":
		return problem.Invalid("missing", "note", "Say in a word why it is passed over.")
	case in.Skip:
		return nil
	case t.Kind == work.Read && in.Reading == nil:
		return problem.Invalid("missing", "reading", "Enter the reading: L, a and b.")
	case t.Kind == work.Picture && !pictured:
		return problem.Invalid("missing", "file", "Take or choose a photograph.")
	}
	return nil
}

// onBench reads a copy inside an act, its row held, and refuses one that cannot be worked.
func onBench(ctx context.Context, tx database.Tx, code string) (Copy, error) {
	if _, err := copies.Lock(ctx, tx, code); err != nil {
		return Copy{}, err
	}
	c, err := Read(ctx, tx, code)
	if err != nil {
		return c, err
	}
	if !c.State.Bench() {
		return c, problem.Conflict("not_here", "%s is %s: only a copy that is made and not yet judged can be worked on. Nothing was recorded.", code, c.State.Text())
	}
	return c, nil
}

// Tick sets a tick; a second one replaces the first, and the journal keeps both. What puts
// stuff on the copy is asked of the rule book.
func (s *Service) Tick(ctx context.Context, code string, in NewTick, photograph io.Reader) (Copy, error) {
	who, _ := accounts.From(ctx)
	first, err := Read(ctx, s.DB, code) // before a picture is taken apart for nothing
	if err != nil {
		return Copy{}, err
	}
	if t, listed := first.todo(in.Item); listed {
		if err := in.whole(t, photograph != nil); err != nil {
			return Copy{}, err
		}
	}
	var taken files.Prepared
	if photograph != nil {
		if taken, err = s.Files.Prepare(ctx, photograph); err != nil {
			return Copy{}, err
		}
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := onBench(ctx, tx, code)
		if err != nil {
			return err
		}
		t, listed := c.todo(in.Item)
		if !listed {
			return problem.Invalid("unknown_value", "item", "%s is not to be done to %s: it is not on its list.", in.Item, code)
		}
		if err := in.whole(t, photograph != nil); err != nil {
			return err
		}
		now := s.Clock.Now()
		about := journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code}
		lot, err := s.stuff(ctx, tx, c, t.Material, in.Lot, about)
		if err != nil {
			return err
		}
		var reading, file any
		if in.Reading != nil && !in.Skip {
			if reading, err = s.read(ctx, tx, c.ID, *in.Reading, now); err != nil {
				return err
			}
		}
		if photograph != nil {
			f, err := s.Files.Record(ctx, tx, taken, now, who.ID)
			if err != nil {
				return err
			}
			file = f.ID
			if err := s.pictured(ctx, tx, c, t, f.ID, taken, now); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO finish_tick (copy_id, item, turn, reading_id, note, file_id, minutes, lot_id, at, person_id, skipped) VALUES (?,?,?,?,?,?,?,NULLIF(?,0),?,?,?)
			ON DUPLICATE KEY UPDATE reading_id = VALUES(reading_id), note = VALUES(note), file_id = COALESCE(VALUES(file_id), file_id), minutes = VALUES(minutes), lot_id = VALUES(lot_id), at = VALUES(at), person_id = VALUES(person_id), skipped = VALUES(skipped)`,
			c.ID, in.Item, t.Turn, reading, in.Note, file, in.Minutes, lot, now, who.ID, in.Skip); err != nil {
			return fmt.Errorf("ticking: %w", err)
		}
		about.Act, about.Words = strings.ToLower(t.Kind.Text()), strings.TrimSpace(t.Text+" "+in.Note)
		if slices.Contains(needsInstrument, t.Kind) {
			about.Words = in.Note
		}
		if in.Skip {
			about.Act += " passed over"
		}
		if _, err := journal.Add(ctx, tx, about); err != nil {
			return err
		}
		if len(c.Missing) == 1 && c.Missing[0] == in.Item {
			return round.Forward(ctx, tx, c.PieceID, round.Check)
		}
		return nil
	})
	return s.after(ctx, code, err)
}

// stuff asks the rule book about what is put on a copy, and finds its lot; 0 for none.
func (s *Service) stuff(ctx context.Context, tx database.Tx, c Copy, slug, lot string, about journal.Entry) (uint64, error) {
	if slug == "" {
		if lot != "" {
			return 0, problem.Invalid("contradiction", "lot", "This takes no material: it has no lot.")
		}
		return 0, nil
	}
	p, err := piece.Find(ctx, tx, c.Piece)
	if err != nil {
		return 0, err
	}
	if err := s.Pieces.AskStuff(ctx, tx, p, c.Section, about, slug); err != nil {
		return 0, err
	}
	if lot == "" {
		return 0, nil
	}
	return s.Lots.LotFor(ctx, tx, slug, lot)
}

// pictured keeps the picture that the list asks for as the copy's front view too.
func (s *Service) pictured(ctx context.Context, tx database.Tx, c Copy, t Todo, file uint64, taken files.Prepared, now time.Time) error {
	if t.Kind != work.Picture {
		return nil
	}
	who, _ := accounts.From(ctx)
	_, err := tx.ExecContext(ctx, `INSERT INTO copy_picture (copy_id, file_id, view, width, height, at, person_id) VALUES (?,?,'front',?,?,?,?)`, c.ID, file, taken.Width, taken.Height, now, who.ID)
	return err
}

// after tells who looks on, and reads the copy again.
func (s *Service) after(ctx context.Context, code string, err error) (Copy, error) {
	if err != nil {
		return Copy{}, err
	}
	s.Live.Tell(ctx, "copies", code)
	s.Live.Tell(ctx, "pieces", "")
	return Read(ctx, s.DB, code)
}

// Untick takes a tick back that was set on the wrong line. A reading is no tick: it is put
// right by a second one.
func (s *Service) Untick(ctx context.Context, code, item string) (Copy, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := onBench(ctx, tx, code)
		if err != nil {
			return err
		}
		t, listed := c.todo(item)
		switch {
		case !listed || t.Done == nil:
			return problem.Conflict("not_done", "Nobody has ticked that. Nothing was changed.")
		case t.Done.Reading != nil:
			return problem.Conflict("measured", "A reading stays in the record: read it again, and the newer one counts.")
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM finish_tick WHERE copy_id = ? AND item = ? AND turn = ?`, c.ID, item, t.Turn); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: c.PieceID, Kind: "copy", Code: code, Act: "tick taken back", Words: t.Text})
		return err
	})
	return s.after(ctx, code, err)
}

// read keeps a colour reading of a copy; earlier ones stay beside it.
func (s *Service) read(ctx context.Context, tx database.Tx, copyID uint64, lab colour.Lab, at time.Time) (uint64, error) {
	who, _ := accounts.From(ctx)
	raw, err := json.Marshal(lab)
	if err != nil {
		return 0, err
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO reading (subject, subject_id, quantity, value, at, person_id) VALUES ('copy',?,'colour',?,?,?)`, copyID, string(raw), at, who.ID)
	if err != nil {
		return 0, fmt.Errorf("keeping the reading: %w", err)
	}
	id, err := res.LastInsertId()
	return uint64(id), err
}
