package form

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// LifeCast is a life cast from its plan to the form that came of it.
type LifeCast struct {
	ID        uint64             `db:"id" json:"id"`
	Performer string             `db:"performer" json:"performer"`
	Region    string             `db:"region" json:"region"`
	Doc       string             `db:"plan" json:"-"`
	PlannedAt time.Time          `db:"planned_at" json:"planned_at"`
	PlannedBy string             `db:"planned_by" json:"planned_by"`
	BeganAt   *time.Time         `db:"began_at" json:"began_at,omitempty"`
	EndedAt   *time.Time         `db:"ended_at" json:"ended_at,omitempty"`
	Form      *string            `db:"form" json:"form,omitempty"`
	Verdict   string             `db:"verdict" json:"verdict"`
	Plan      mouldmath.LifePlan `db:"-" json:"plan"`
	Ticks     []Ticked           `db:"-" json:"ticks"`
	Events    []Event            `db:"-" json:"events"`
	// Missing is what on the list was not seen yet; the clock waits for it.
	Missing []string `db:"-" json:"missing"`
}

// Ticked is one point of the list that a named person saw.
type Ticked struct {
	Item string    `db:"item" json:"item"`
	At   time.Time `db:"at" json:"at"`
	Who  string    `db:"who" json:"who"`
}

// Event is something that happened while the cast was taken.
type Event struct {
	ID    uint64    `db:"id" json:"id"`
	Kind  string    `db:"kind" json:"kind" enum:"mixed,on the skin,jacket on,sagged,air trapped,stopped,off the skin,cast poured,corrected,note"`
	Words string    `db:"words" json:"words"`
	At    time.Time `db:"at" json:"at"`
	Who   string    `db:"who" json:"who"`
}

const lifeCastColumns = `l.id, w.name AS performer, l.region, l.plan, l.planned_at, p.name AS planned_by, l.began_at, l.ended_at, f.code AS form, l.verdict
	FROM life_cast l JOIN performer w ON w.id = l.performer_id JOIN person p ON p.id = l.planned_by LEFT JOIN form f ON f.id = l.form_id`

func (s *Service) fillLifeCasts(ctx context.Context, db database.Reader, list []LifeCast) error {
	for i := range list {
		l := &list[i]
		if err := json.Unmarshal([]byte(l.Doc), &l.Plan); err != nil {
			return fmt.Errorf("reading the plan of life cast %d: %w", l.ID, err)
		}
		l.Ticks, l.Events, l.Missing = []Ticked{}, []Event{}, []string{}
		if err := db.SelectContext(ctx, &l.Ticks, `SELECT t.item, t.at, p.name AS who FROM life_cast_tick t JOIN person p ON p.id = t.person_id WHERE t.life_cast_id = ? ORDER BY t.at`, l.ID); err != nil {
			return err
		}
		if err := db.SelectContext(ctx, &l.Events, `SELECT e.id, e.kind, e.words, e.at, p.name AS who FROM life_cast_event e JOIN person p ON p.id = e.person_id WHERE e.life_cast_id = ? ORDER BY e.id`, l.ID); err != nil {
			return err
		}
		for _, c := range l.Plan.Checks {
			if !slices.ContainsFunc(l.Ticks, func(t Ticked) bool { return t.Item == c.Key }) {
				l.Missing = append(l.Missing, c.Text)
			}
		}
	}
	return nil
}

// LifeCasts lists those under way and the newest of the rest.
func (s *Service) LifeCasts(ctx context.Context) ([]LifeCast, error) {
	list := []LifeCast{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT `+lifeCastColumns+` ORDER BY l.ended_at IS NOT NULL, l.id DESC LIMIT 30`); err != nil {
		return nil, fmt.Errorf("reading the life casts: %w", err)
	}
	return list, s.fillLifeCasts(ctx, s.DB, list)
}

func (s *Service) lifeCast(ctx context.Context, db database.Reader, id uint64) (LifeCast, error) {
	var l LifeCast
	err := db.GetContext(ctx, &l, `SELECT `+lifeCastColumns+` WHERE l.id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return l, problem.NotFound("life cast", fmt.Sprint(id))
	}
	if err != nil {
		return l, err
	}
	list := []LifeCast{l}
	err = s.fillLifeCasts(ctx, db, list)
	return list[0], err
}

// NewLifeCast is a life cast as it is planned.
type NewLifeCast struct {
	Performer string             `json:"performer"`
	Region    string             `json:"region"`
	Plan      mouldmath.LifeCast `json:"plan"`
}

// facesUnder are the regions whose cast covers mouth or nose.
var facesUnder = []string{"face", "nose", "lip", "scalp", "mouth_corner"}

// PlanLifeCast plans one; the area is the region's usual one when none is given.
func (s *Service) PlanLifeCast(ctx context.Context, in NewLifeCast) (LifeCast, error) {
	r, known := region.Find(in.Region)
	if !known {
		return LifeCast{}, problem.Invalid("unknown_value", "region", "Choose what is cast.")
	}
	if in.Plan.AreaCM2 == 0 {
		in.Plan.AreaCM2 = r.AreaCM2
	}
	in.Plan.Face = slices.Contains(facesUnder, in.Region)
	plan, err := mouldmath.PlanLifeCast(in.Plan)
	if err != nil {
		return LifeCast{}, err
	}
	doc, err := json.Marshal(plan)
	if err != nil {
		return LifeCast{}, err
	}
	var id int64
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var performer uint64
		if err := tx.GetContext(ctx, &performer, `SELECT id FROM performer WHERE name = ?`, in.Performer); err != nil {
			if errors.Is(err, sql.ErrNoRows) {
				return problem.Invalid("unknown_value", "performer", "Choose whose cast it is.")
			}
			return err
		}
		who, _ := accounts.From(ctx)
		res, err := tx.ExecContext(ctx, `INSERT INTO life_cast (performer_id, region, plan, planned_at, planned_by) VALUES (?,?,?,?,?)`, performer, in.Region, string(doc), s.Clock.Now(), who.ID)
		if err != nil {
			return fmt.Errorf("planning the life cast: %w", err)
		}
		if id, err = res.LastInsertId(); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "life cast", Code: fmt.Sprint(id), Act: "planned", Words: in.Performer + ", " + r.Text + ", " + in.Plan.Way})
		return err
	})
	if err != nil {
		return LifeCast{}, err
	}
	s.Live.Tell(ctx, "forms", "")
	return s.lifeCast(ctx, s.DB, uint64(id))
}

// change does something to a life cast that has not ended, in one act.
func (s *Service) changeLifeCast(ctx context.Context, id uint64, do func(tx database.Tx, l LifeCast, who accounts.Person) error) (LifeCast, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		// The row orders what several people do to it.
		if _, err := tx.ExecContext(ctx, `UPDATE life_cast SET id = id WHERE id = ?`, id); err != nil {
			return err
		}
		l, err := s.lifeCast(ctx, tx, id)
		if err != nil {
			return err
		}
		if l.EndedAt != nil {
			return problem.Conflict("over", "This life cast is over; what is known later is noted on the form.")
		}
		who, _ := accounts.From(ctx)
		return do(tx, l, who)
	})
	if err != nil {
		return LifeCast{}, err
	}
	s.Live.Tell(ctx, "forms", "")
	return s.lifeCast(ctx, s.DB, id)
}

// TickLifeCast says that a point of the list was seen.
func (s *Service) TickLifeCast(ctx context.Context, id uint64, item string) (LifeCast, error) {
	return s.changeLifeCast(ctx, id, func(tx database.Tx, l LifeCast, who accounts.Person) error {
		if !slices.ContainsFunc(l.Plan.Checks, func(c mouldmath.Item) bool { return c.Key == item }) {
			return problem.Invalid("unknown_value", "item", "This point is not on the list.")
		}
		if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO life_cast_tick (life_cast_id, item, at, person_id) VALUES (?,?,?,?)`, id, item, s.Clock.Now(), who.ID); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "life cast", Code: fmt.Sprint(id), Act: "seen", Words: item})
		return err
	})
}

// UntickLifeCast takes a point back that was not seen after all, as long as the
// clock does not run.
func (s *Service) UntickLifeCast(ctx context.Context, id uint64, item string) (LifeCast, error) {
	return s.changeLifeCast(ctx, id, func(tx database.Tx, l LifeCast, _ accounts.Person) error {
		if l.BeganAt != nil {
			return problem.Conflict("depends", "The clock runs: it was begun on what was ticked. Note what is different.")
		}
		at := slices.IndexFunc(l.Ticks, func(t Ticked) bool { return t.Item == item })
		if at < 0 {
			return problem.Conflict("not_ticked", "This is not ticked.")
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM life_cast_tick WHERE life_cast_id = ? AND item = ?`, id, item); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "life cast", Code: fmt.Sprint(id), Act: "not seen after all", Words: item + ", ticked by " + l.Ticks[at].Who})
		return err
	})
}

// BeginLifeCast starts the clock: only when everything on the list was seen.
func (s *Service) BeginLifeCast(ctx context.Context, id uint64) (LifeCast, error) {
	return s.changeLifeCast(ctx, id, func(tx database.Tx, l LifeCast, who accounts.Person) error {
		if l.BeganAt != nil {
			return problem.Conflict("began", "The clock runs already.")
		}
		if len(l.Missing) > 0 {
			return problem.Conflict("held_back", "The clock does not start yet: not seen is “%s” (%d of %d left).", l.Missing[0], len(l.Missing), len(l.Plan.Checks))
		}
		if err := s.mayTouch(ctx, tx, l); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE life_cast SET began_at = ?, began_by = ? WHERE id = ?`, s.Clock.Now(), who.ID, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "life cast", Code: fmt.Sprint(id), Act: "began", Words: l.Performer})
		return err
	})
}

// mayTouch asks whether what a life cast is taken with may come onto its wearer,
// and whether whoever takes it may handle it.
func (s *Service) mayTouch(ctx context.Context, tx database.Tx, l LifeCast) error {
	var performer uint64
	if err := tx.GetContext(ctx, &performer, `SELECT performer_id FROM life_cast WHERE id = ?`, l.ID); err != nil {
		return err
	}
	w, err := s.People.Wearer(ctx, tx, &performer, l.Region)
	if err != nil {
		return err
	}
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	if w.Minor != nil {
		w.Minor.Unmeasured = nil // it is what this measures
	}
	who, _ := accounts.From(ctx)
	facts, err := people.FactsOf(ctx, tx, people.Owner{Kind: "person", ID: who.ID})
	if err != nil {
		return err
	}
	open := append(rules.Stuff(w, materials, l.Plan.Touching()...), rules.Hands(w.List, facts, materials, who.Name, l.Plan.Touching()...)...)
	return piece.Meet(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "life cast", Code: fmt.Sprint(l.ID)}, append(open, rules.Minority(w, 0)...)...)
}

// NewEvent is something that happened, as it is written down.
type NewEvent struct {
	Kind  string `json:"kind" enum:"mixed,on the skin,jacket on,sagged,air trapped,stopped,off the skin,cast poured,corrected,note"`
	Words string `json:"words,omitempty" maxLength:"300"`
	Key   string `json:"key" minLength:"36" maxLength:"36" doc:"a new one for each; sent again it is written once"`
}

// NoteLifeCast writes down what happened; it may be sent twice.
func (s *Service) NoteLifeCast(ctx context.Context, id uint64, in NewEvent) (LifeCast, error) {
	return s.changeLifeCast(ctx, id, func(tx database.Tx, l LifeCast, who accounts.Person) error {
		if l.BeganAt == nil && in.Kind != "note" {
			return problem.Conflict("not_begun", "Start the clock first; before it only notes are written.")
		}
		changed, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO life_cast_event (life_cast_id, kind, words, at, person_id, idem_key) VALUES (?,?,?,?,?,?)`, id, in.Kind, strings.TrimSpace(in.Words), s.Clock.Now(), who.ID, in.Key))
		if err != nil {
			return err
		}
		if !changed {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "life cast", Code: fmt.Sprint(id), Act: in.Kind, Words: in.Words})
		return err
	})
}

// Taken is how a life cast ended.
type Taken struct {
	Verdict  string `json:"verdict" maxLength:"300"`
	Register bool   `json:"register" doc:"a form came of it"`
	Material string `json:"material,omitempty" maxLength:"80" doc:"what the form is made of"`
	Place    string `json:"place,omitempty" maxLength:"80"`
}

// EndLifeCast ends it, and registers the form that came of it.
func (s *Service) EndLifeCast(ctx context.Context, id uint64, in Taken) (LifeCast, error) {
	return s.changeLifeCast(ctx, id, func(tx database.Tx, l LifeCast, who accounts.Person) error {
		if l.BeganAt == nil {
			return problem.Conflict("not_begun", "It has not begun; there is nothing to end.")
		}
		code := ""
		if in.Register {
			var err error
			if code, err = s.add(ctx, tx, NewForm{Performer: l.Performer, Kind: "life cast", Region: l.Region, Material: in.Material, Place: in.Place, TakenHow: l.Plan.Way + ", " + in.Verdict, MadeOn: s.Clock.Now().Format(time.DateOnly)}); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE life_cast SET ended_at = ?, verdict = ?, form_id = (SELECT id FROM form WHERE code = ?) WHERE id = ?`, s.Clock.Now(), strings.TrimSpace(in.Verdict), code, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "life cast", Code: fmt.Sprint(id), Act: "ended", Words: strings.Trim(in.Verdict+" "+code, " ")})
		return err
	})
}
