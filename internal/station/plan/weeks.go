package plan

import (
	"cmp"
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/plan"
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
		_, err = journal.Add(
			ctx,
			tx,
			journal.Entry{At: s.Clock.Now(), Kind: "plan", Code: "week", Act: "week set", Words: in.Person},
		)
		return err
	})
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}

// hours reads who is in when.
func (s *Service) hours(ctx context.Context, f *facts, a ahead) error {
	changes, err := s.changes(ctx, s.DB, f.now)
	if err != nil {
		return err
	}
	changes = append(changes, a.hours...)
	weeks, err := s.weeks(ctx)
	if err != nil {
		return err
	}
	f.weeks = weeks
	var people []struct {
		ID         uint64
		Name, Role string
	}
	if err := s.DB.SelectContext(ctx, &people, `SELECT id, name, role FROM person WHERE active ORDER BY id`); err != nil {
		return fmt.Errorf("reading who works here: %w", err)
	}
	days := f.shop.Horizon / daySlots
	somebody := make([]bool, f.shop.Horizon)
	for _, p := range people {
		row := runup.Person{ID: p.Name, Judges: p.Role != "apprentice", Crafts: weeks.of(p.Name).Crafts}
		regular, over := make([]bool, f.shop.Horizon), make([]bool, f.shop.Horizon)
		fill := func(in []bool, d, from, to int, is bool) {
			for t := d*daySlots + from/slotMin; t < d*daySlots+(to+slotMin-1)/slotMin && t < len(in); t++ {
				in[t] = is
			}
		}
		for d := range days {
			date := f.origin.AddDate(0, 0, d)
			if w := weeks.of(p.Name); w.in(date) {
				fill(regular, d, w.From, w.To, true)
				fill(over, d, w.To, w.Late, true)
			}
			for _, c := range changes {
				if !c.Day.Equal(date) || c.Person != "" && c.Person != p.Name {
					continue
				}
				switch c.Kind {
				case "extra":
					fill(over, d, c.From, c.To, true)
				case "away":
					fill(regular, d, c.From, c.To, false)
					fill(over, d, c.From, c.To, false)
				}
			}
		}
		for t := range over {
			over[t] = over[t] && !regular[t]
			somebody[t] = somebody[t] || regular[t] || over[t]
		}
		row.Regular, row.Overtime = runs(regular), runs(over)
		f.shop.People = append(f.shop.People, row)
	}
	for t := range somebody {
		somebody[t] = !somebody[t]
	}
	f.nights = runs(somebody)
	ovens, err := s.Work.Ovens(ctx)
	if err != nil {
		return err
	}
	if len(ovens) == 0 {
		ovens = []OvenAt{{Code: usualOven}}
	}
	for _, o := range ovens {
		one := runup.Oven{Code: o.Code, Takes: cmp.Or(o.Takes, ovenTakes)}
		if !o.Alone {
			one.Down = f.nights
		}
		f.shop.Ovens = append(f.shop.Ovens, one)
	}
	if a.alone {
		f.shop.Ovens = f.shop.Alone()
	}
	f.shop.Racks, err = s.Work.Racks(ctx)
	return err
}

// runs are the stretches of a row of slots.
func runs(in []bool) []plan.Interval {
	out := []plan.Interval{}
	for t := 0; t < len(in); t++ {
		if !in[t] {
			continue
		}
		begin := t
		for t < len(in) && in[t] {
			t++
		}
		out = append(out, plan.Interval{begin, t})
	}
	return out
}

// The week of the shop, minutes after midnight: our own, Monday to Friday, with overtime until weekLate.
const weekFrom, weekTo, weekLate = 9 * 60, 17 * 60, 19 * 60
