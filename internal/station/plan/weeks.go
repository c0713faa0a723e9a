package plan

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/runup"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Week is when somebody is in, week by week, minutes after midnight.
type Week struct {
	Person string   `db:"person" json:"person" maxLength:"120"`
	Days   int      `db:"days" json:"days" minimum:"0" maximum:"127" doc:"bits, Monday is 1"`
	From   int      `db:"from_min" json:"from_min" minimum:"0" maximum:"1439"`
	To     int      `db:"to_min" json:"to_min" minimum:"1" maximum:"1440"`
	Late   int      `db:"late_min" json:"late_min" minimum:"1" maximum:"1440" doc:"until when they may stay on: overtime"`
	Crafts []string `db:"-" json:"crafts" enum:"sculpt,mould,make,finish" maxItems:"4" doc:"what they do; none set is all of it"`
}

// Crafts are what they do, as the database has them: joined by commas.
func (w Week) crafts() string { return strings.Join(w.Crafts, ",") }

// usualWeek is the shop's, until somebody has their own: our own figures.
var usualWeek = Week{Days: 0b0011111, From: weekFrom, To: weekTo, Late: weekLate, Crafts: []string{}}

// in says whether they are in on a day of the week.
func (w Week) in(day time.Time) bool { return w.Days&(1<<((int(day.Weekday())+6)%7)) != 0 }

// weeks are those that somebody set, by name.
type weeks map[string]Week

func (w weeks) of(person string) Week {
	if own, set := w[person]; set {
		return own
	}
	own := usualWeek
	own.Person = person
	return own
}

func (w weeks) list(people []runup.Person) []Week {
	out := []Week{}
	for _, p := range people {
		out = append(out, w.of(p.ID))
	}
	return out
}

func (s *Service) weeks(ctx context.Context) (weeks, error) {
	var rows []struct {
		Week
		Has string `db:"has"`
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT p.name AS person, w.days, w.from_min, w.to_min, w.late_min, w.crafts AS has FROM person_week w JOIN person p ON p.id = w.person_id`); err != nil {
		return nil, fmt.Errorf("reading the weeks: %w", err)
	}
	out := weeks{}
	for _, r := range rows {
		r.Week.Crafts = []string{}
		if r.Has != "" {
			r.Week.Crafts = strings.Split(r.Has, ",")
		}
		out[r.Person] = r.Week
	}
	return out, nil
}

// SetWeek says when somebody is in, week by week: their own, or, for a lead, anybody's.
func (s *Service) SetWeek(ctx context.Context, in Week) (RunUp, error) {
	who, _ := accounts.From(ctx)
	switch {
	case in.To <= in.From:
		return RunUp{}, problem.Invalid("bad_order", "to_min", "It ends before it begins.")
	case in.Late < in.To:
		return RunUp{}, problem.Invalid("bad_order", "late_min", "Who stays on goes later than the day ends.")
	case len(in.Crafts) > 0 && slices.ContainsFunc(in.Crafts, func(c string) bool { return !slices.Contains(runup.Crafts, c) }):
		return RunUp{}, problem.Invalid("unknown_value", "crafts", "Choose among %s.", strings.Join(runup.Crafts, ", "))
	case in.Person != who.Name && who.Role != accounts.Lead:
		return RunUp{}, problem.New(http.StatusForbidden, "not_yours", "person", "Somebody else's week is for a lead to say.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		person, err := personOf(ctx, tx, in.Person)
		if err != nil {
			return err
		}
		if person == nil {
			return problem.Invalid("missing", "person", "Whose week?")
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO person_week (person_id, days, from_min, to_min, late_min, crafts, by_id, at) VALUES (?,?,?,?,?,?,?,?)
			ON DUPLICATE KEY UPDATE days = VALUES(days), from_min = VALUES(from_min), to_min = VALUES(to_min), late_min = VALUES(late_min), crafts = VALUES(crafts), by_id = VALUES(by_id), at = VALUES(at)`, *person, in.Days, in.From, in.To, in.Late, in.crafts(), who.ID, s.Clock.Now()); err != nil {
			return fmt.Errorf("writing the week: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "plan", Code: "week", Act: "week set", Words: in.Person})
		return err
	})
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}
