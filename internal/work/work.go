// Package work is what hands were at, from when to when: begun and ended by one tap, or noted later. What was not interrupted becomes
// the next guess of how long such work takes, for the plan, for Today and for what a piece costs.
package work

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Span is a stretch of somebody's work.
type Span struct {
	ID          uint64     `db:"id" json:"id"`
	Person      string     `db:"person" json:"person"`
	Act         string     `db:"act" json:"act" doc:"what kind of work; minutes are learned by it and by the material"`
	Code        string     `db:"code" json:"code" doc:"the run, copy, mould, kit or piece"`
	Title       string     `db:"title" json:"title"`
	Step        string     `db:"step" json:"step" doc:"of the plan; empty for what was not planned"`
	Piece       string     `db:"piece" json:"piece"`
	Units       int        `db:"units" json:"units" doc:"copies"`
	PlannedMin  *int       `db:"planned_min" json:"planned_min,omitempty"`
	Began       time.Time  `db:"began_at" json:"began_at"`
	Ended       *time.Time `db:"ended_at" json:"ended_at,omitempty"`
	Interrupted bool       `db:"interrupted" json:"interrupted" doc:"its minutes are not learned from"`
	Later       bool       `db:"later" json:"later" doc:"it was noted afterwards"`
	Note        string     `db:"note" json:"note"`
}

// Minutes is how long it took; until now while it is open.
func (s Span) Minutes(now time.Time) float64 {
	end := now
	if s.Ended != nil {
		end = *s.Ended
	}
	return end.Sub(s.Began).Minutes()
}

const columns = `w.id, p.name AS person, w.act, w.code, w.title, w.step, COALESCE(q.code, '') AS piece, w.units, w.planned_min, w.began_at, w.ended_at, w.interrupted, w.later, w.note
	FROM work_span w JOIN person p ON p.id = w.person_id LEFT JOIN piece q ON q.id = w.piece_id `

// Service does the use cases.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
}

// NewSpan is work as it is begun, or noted later when it has an end.
type NewSpan struct {
	Act        string     `json:"act" minLength:"1" maxLength:"60"`
	Code       string     `json:"code,omitempty" maxLength:"60"`
	Title      string     `json:"title" minLength:"1" maxLength:"200"`
	Step       string     `json:"step,omitempty" maxLength:"160"`
	Piece      string     `json:"piece,omitempty" maxLength:"24"`
	Units      int        `json:"units,omitempty" minimum:"0" maximum:"500"`
	PlannedMin *int       `json:"planned_min,omitempty" minimum:"0" maximum:"60000"`
	Began      *time.Time `json:"began_at,omitempty" doc:"only of what is noted later"`
	Ended      *time.Time `json:"ended_at,omitempty"`
	Note       string     `json:"note,omitempty" maxLength:"400"`
	Key        string     `json:"key" format:"uuid" doc:"sent again with the same key it counts once"`
}

// Begin begins work of the person who is signed in, or notes what was done before. Who begins something is done with what they were at.
func (s *Service) Begin(ctx context.Context, in NewSpan) (Span, error) {
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	later := in.Began != nil
	began := now
	if later {
		began = *in.Began
		switch {
		case in.Ended == nil:
			return Span{}, problem.Invalid("missing", "ended_at", "When did it end?")
		case !in.Ended.After(began):
			return Span{}, problem.Invalid("bad_order", "ended_at", "It ends before it begins.")
		case in.Ended.After(now):
			return Span{}, problem.Invalid("out_of_range", "ended_at", "That is still to come.")
		case in.Ended.Sub(began) > longest:
			return Span{}, problem.Invalid("out_of_range", "ended_at", "One stretch is a day at most.")
		}
	} else if in.Ended != nil {
		return Span{}, problem.Invalid("missing", "began_at", "When did it begin?")
	}
	if strings.TrimSpace(in.Title) == "" {
		return Span{}, problem.Invalid("missing", "title", "What was it?")
	}
	var id uint64
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		// Two taps at once come one after the other: what nobody has opened yet cannot be locked itself.
		if _, err := tx.ExecContext(ctx, `SELECT id FROM person WHERE id = ? FOR UPDATE`, who.ID); err != nil {
			return err
		}
		err := tx.GetContext(ctx, &id, `SELECT id FROM work_span WHERE idem_key = ?`, in.Key)
		if err == nil || !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		var piece *uint64
		if in.Piece != "" {
			piece = new(uint64)
			if err := tx.GetContext(ctx, piece, `SELECT id FROM piece WHERE code = ?`, in.Piece); errors.Is(err, sql.ErrNoRows) {
				return problem.NotFound("piece", in.Piece)
			} else if err != nil {
				return err
			}
		}
		open := &who.ID
		if later {
			open = nil
			var over []Span // half open: what ends when the other begins does not overlap
			if err := tx.SelectContext(ctx, &over, `SELECT `+columns+`WHERE w.person_id = ? AND w.back_at IS NULL AND w.began_at < ? AND (w.ended_at IS NULL OR w.ended_at > ?) LIMIT 1`, who.ID, *in.Ended, began); err != nil {
				return err
			}
			if len(over) > 0 {
				return problem.Conflict(
					"overlaps",
					"You noted %s for some of that time, from %s on. Nothing was recorded.",
					over[0].Title,
					over[0].Began.Format("15:04"),
				)
			}
		} else if err := s.endOpen(ctx, tx, who.ID, now); err != nil {
			return err
		}
		res, err := tx.ExecContext(
			ctx,
			`INSERT INTO work_span (person_id, act, code, title, step, piece_id, units, planned_min, began_at, ended_at, later, note, by_id, idem_key, open_of) VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)`,
			who.ID,
			in.Act,
			in.Code,
			strings.TrimSpace(in.Title),
			in.Step,
			piece,
			max(1, in.Units),
			in.PlannedMin,
			began,
			in.Ended,
			later,
			strings.TrimSpace(in.Note),
			who.ID,
			in.Key,
			open,
		)
		if err != nil {
			return fmt.Errorf("noting the work: %w", err)
		}
		n, err := res.LastInsertId()
		id = uint64(n)
		return err
	})
	if err != nil {
		return Span{}, err
	}
	s.Live.Tell(ctx, "work", in.Piece)
	return s.byID(ctx, id)
}

// shortest is what counts as work at all: who taps by mistake has nothing to take back.
const shortest = 20 * time.Second

// endOpen ends what a person is at; what was hardly begun is taken back.
func (s *Service) endOpen(ctx context.Context, tx database.Tx, person uint64, now time.Time) error {
	var open []struct {
		ID    uint64
		Began time.Time `db:"began_at"`
	}
	if err := tx.SelectContext(ctx, &open, `SELECT id, began_at FROM work_span WHERE open_of = ? FOR UPDATE`, person); err != nil {
		return err
	}
	for _, o := range open {
		sql, args := `UPDATE work_span SET ended_at = ?, open_of = NULL WHERE id = ?`, []any{now, o.ID}
		if now.Sub(o.Began) < shortest {
			sql = `UPDATE work_span SET back_at = ?, open_of = NULL WHERE id = ?`
		}
		if _, err := tx.ExecContext(ctx, sql, args...); err != nil {
			return fmt.Errorf("ending what was begun: %w", err)
		}
	}
	return nil
}

// End is how work ended.
type End struct {
	Ended       *time.Time `json:"ended_at,omitempty" doc:"now where it is left out"`
	Interrupted bool       `json:"interrupted,omitempty"`
	Units       int        `json:"units,omitempty" minimum:"0" maximum:"500"`
	Note        string     `json:"note,omitempty" maxLength:"400"`
}

// Stop ends work, or says afterwards how it ended.
func (s *Service) Stop(ctx context.Context, id uint64, in End) (Span, error) {
	now := s.Clock.Now()
	err := s.own(ctx, id, func(tx database.Tx, w Span, person uint64) error {
		end := now
		if in.Ended != nil {
			end = *in.Ended
		} else if w.Ended != nil {
			end = *w.Ended // a note that is added later does not move its end
		}
		switch {
		case end.After(now):
			return problem.Invalid("out_of_range", "ended_at", "That is still to come.")
		case in.Ended != nil && end.Sub(w.Began) > longest:
			return problem.Invalid("out_of_range", "ended_at", "One stretch is a day at most.")
		case !end.After(w.Began):
			return problem.Invalid("bad_order", "ended_at", "It ends before it begins, at %s.", w.Began.Format("15:04"))
		}
		units := w.Units
		if in.Units > 0 {
			units = in.Units
		}
		_, err := tx.ExecContext(
			ctx,
			`UPDATE work_span SET ended_at = ?, open_of = NULL, interrupted = ?, units = ?, note = ? WHERE id = ?`,
			end,
			in.Interrupted,
			units,
			strings.TrimSpace(in.Note),
			id,
		)
		return err
	})
	if err != nil {
		return Span{}, err
	}
	w, err := s.byID(ctx, id)
	s.Live.Tell(ctx, "work", w.Piece)
	return w, err
}

// Back takes a stretch back that was noted by mistake; it stays in the record.
func (s *Service) Back(ctx context.Context, id uint64) error {
	err := s.own(ctx, id, func(tx database.Tx, w Span, _ uint64) error {
		if _, err := tx.ExecContext(ctx, `UPDATE work_span SET back_at = ?, open_of = NULL WHERE id = ?`, s.Clock.Now(), id); err != nil {
			return err
		}
		_, err := journal.Add(
			ctx,
			tx,
			journal.Entry{At: s.Clock.Now(), Kind: "work", Code: fmt.Sprint(id), Act: "taken back", Words: w.Title},
		)
		return err
	})
	if err == nil {
		s.Live.Tell(ctx, "work", "")
	}
	return err
}

// own lets whoever did the work, or a lead, change what stands of it.
func (s *Service) own(ctx context.Context, id uint64, act func(tx database.Tx, w Span, person uint64) error) error {
	who, _ := accounts.From(ctx)
	return s.DB.InTx(ctx, func(tx database.Tx) error {
		var person uint64
		err := tx.GetContext(ctx, &person, `SELECT person_id FROM work_span WHERE id = ? AND back_at IS NULL FOR UPDATE`, id)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("stretch of work", fmt.Sprint(id))
		}
		if err != nil {
			return err
		}
		if person != who.ID && who.Role != accounts.Lead {
			return problem.New(http.StatusForbidden, "not_yours", "", "This is somebody else's work. Nothing was changed.")
		}
		var w Span
		if err := tx.GetContext(ctx, &w, `SELECT `+columns+`WHERE w.id = ?`, id); err != nil {
			return err
		}
		return act(tx, w, person)
	})
}

func (s *Service) byID(ctx context.Context, id uint64) (Span, error) {
	var w Span
	err := s.DB.GetContext(ctx, &w, `SELECT `+columns+`WHERE w.id = ?`, id)
	return w, err
}

// longest is how long one stretch lasts that has an end; what was forgotten is open for longer.
const longest = 24 * time.Hour

// Of is what somebody was at in a stretch of time, the first first, and before it what they are at since earlier. Indexes
// work_span_person and open_of.
func Of(ctx context.Context, db database.Reader, person string, from, to time.Time) ([]Span, error) {
	list := []Span{}
	if err := db.SelectContext(ctx, &list, `SELECT `+columns+`WHERE p.name = ? AND w.back_at IS NULL AND w.began_at >= ? AND w.began_at < ? AND (w.ended_at IS NULL OR w.ended_at > ?) ORDER BY w.began_at, w.id`, person, from.Add(-longest), to, from); err != nil {
		return nil, fmt.Errorf("reading the day's work: %w", err)
	}
	var open []Span
	if err := db.SelectContext(ctx, &open, `SELECT `+columns+`WHERE w.open_of = (SELECT id FROM person WHERE name = ?) AND w.began_at < ?`, person, from.Add(-longest)); err != nil {
		return nil, fmt.Errorf("reading what they are at: %w", err)
	}
	return append(open, list...), nil
}

// OfPiece is all that was worked on a piece, the first first. Index work_span_piece.
func OfPiece(ctx context.Context, db database.Reader, piece uint64) ([]Span, error) {
	list := []Span{}
	if err := db.SelectContext(ctx, &list, `SELECT `+columns+`WHERE w.piece_id = ? AND w.back_at IS NULL AND w.ended_at IS NOT NULL ORDER BY w.began_at, w.id`, piece); err != nil {
		return nil, fmt.Errorf("reading the work on a piece: %w", err)
	}
	return list, nil
}
