package plan

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// HourChange is a day that is not as the week has it.
type HourChange struct {
	ID     uint64    `db:"id" json:"id"`
	Kind   string    `db:"kind" json:"kind" enum:"away,extra,night"`
	Person string    `db:"person" json:"person" doc:"empty for everybody"`
	Day    time.Time `db:"day" json:"day"`
	From   int       `db:"from_min" json:"from_min"`
	To     int       `db:"to_min" json:"to_min"`
	Words  string    `db:"words" json:"words"`
	By     string    `db:"by_name" json:"by"`
}

// NewHourChange is one as it is written down.
type NewHourChange struct {
	Kind   string    `json:"kind" enum:"away,extra,night"`
	Person string    `json:"person,omitempty" maxLength:"120"`
	Day    time.Time `json:"day"`
	From   int       `json:"from_min" minimum:"0" maximum:"1440"`
	To     int       `json:"to_min" minimum:"0" maximum:"1440"`
	Words  string    `json:"words,omitempty" maxLength:"200"`
}

// changes are those from today on. Index hours_change_day.
func (s *Service) changes(ctx context.Context, db database.Reader, now time.Time) ([]HourChange, error) {
	list := []HourChange{}
	err := db.SelectContext(
		ctx,
		&list,
		`SELECT c.id, c.kind, COALESCE(p.name, '') AS person, c.day, c.from_min, c.to_min, c.words, b.name AS by_name FROM hours_change c
		LEFT JOIN person p ON p.id = c.person_id JOIN person b ON b.id = c.by_id WHERE c.day >= ? AND c.back_at IS NULL ORDER BY c.day, c.id`,
		now.Format(time.DateOnly),
	)
	if err != nil {
		return nil, fmt.Errorf("reading who is away: %w", err)
	}
	return list, nil
}

// checkHours refuses a change of the hours that cannot be.
func (s *Service) checkHours(ctx context.Context, in *NewHourChange) error {
	if in.From == 0 && in.To == 0 {
		in.To = 24 * 60
	}
	today := s.Clock.Now().Truncate(24 * time.Hour)
	switch {
	case in.Kind == "away" && strings.TrimSpace(in.Person) == "":
		return problem.Invalid("missing", "person", "Who is away?")
	case in.Day.IsZero() || in.Day.Before(today):
		return problem.Invalid("out_of_range", "day", "A day from today on.")
	case in.To <= in.From:
		return problem.Invalid("bad_order", "to_min", "It ends before it begins.")
	}
	if who, _ := accounts.From(ctx); in.Kind == "night" && who.Role != accounts.Lead {
		return problem.New(http.StatusForbidden, "lead", "kind", "What is hot runs alone only when a lead has allowed it.")
	}
	return nil
}

// writeHours writes a change that was checked.
func (s *Service) writeHours(ctx context.Context, tx database.Tx, in NewHourChange) error {
	if in.Kind == "night" {
		return s.Work.LetAlone(ctx, tx)
	}
	person, err := personOf(ctx, tx, in.Person)
	if err != nil {
		return err
	}
	who, _ := accounts.From(ctx)
	day := in.Day.Truncate(24 * time.Hour)
	if _, err := tx.ExecContext(ctx, `INSERT INTO hours_change (kind, person_id, day, from_min, to_min, words, by_id, at) VALUES (?,?,?,?,?,?,?,?)`, in.Kind, person, day, in.From, in.To, strings.TrimSpace(in.Words), who.ID, s.Clock.Now()); err != nil {
		return fmt.Errorf("writing the hours down: %w", err)
	}
	act := map[string]string{"away": "away", "extra": "open beside the hours"}[in.Kind]
	_, err = journal.Add(
		ctx,
		tx,
		journal.Entry{
			At:    s.Clock.Now(),
			Kind:  "plan",
			Code:  day.Format(time.DateOnly),
			Act:   act,
			Words: strings.TrimSpace(in.Person + " " + in.Words),
		},
	)
	return err
}

// ChangeHours writes down that somebody is away, or that the shop is open beside its hours; the plan follows.
func (s *Service) ChangeHours(ctx context.Context, in NewHourChange) (RunUp, error) {
	if err := s.checkHours(ctx, &in); err != nil {
		return RunUp{}, err
	}
	if err := s.DB.InTx(ctx, func(tx database.Tx) error { return s.writeHours(ctx, tx, in) }); err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}

// TakeBackHours takes a change back; it stays in the record.
func (s *Service) TakeBackHours(ctx context.Context, id uint64) (RunUp, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		done, err := database.Changed(
			tx.ExecContext(ctx, `UPDATE hours_change SET back_at = ? WHERE id = ? AND back_at IS NULL`, s.Clock.Now(), id),
		)
		if err != nil {
			return err
		}
		if !done {
			return problem.NotFound("change of hours", fmt.Sprint(id))
		}
		_, err = journal.Add(
			ctx,
			tx,
			journal.Entry{At: s.Clock.Now(), Kind: "plan", Code: fmt.Sprint(id), Act: "change of hours taken back"},
		)
		return err
	})
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}

// InOn are the hours in which somebody was or is in on a day: the week, less what they were away. Index hours_change_day.
func (s *Service) InOn(ctx context.Context, person string, day time.Time) ([][2]time.Time, error) {
	day = day.Truncate(24 * time.Hour)
	weeks, err := s.weeks(ctx)
	if err != nil {
		return nil, err
	}
	week := weeks.of(person)
	if !week.in(day) {
		return nil, nil
	}
	var away []HourChange
	if err := s.DB.SelectContext(ctx, &away, `SELECT c.from_min, c.to_min FROM hours_change c JOIN person p ON p.id = c.person_id WHERE c.day = ? AND c.kind = 'away' AND c.back_at IS NULL AND p.name = ?`, day, person); err != nil {
		return nil, fmt.Errorf("reading who was away: %w", err)
	}
	in := make([]bool, 24*60)
	for m := week.From; m < week.To; m++ {
		in[m] = true
	}
	for _, a := range away {
		for m := a.From; m < a.To; m++ {
			in[m] = false
		}
	}
	var out [][2]time.Time
	for _, v := range runs(in) {
		out = append(out, [2]time.Time{day.Add(time.Duration(v[0]) * time.Minute), day.Add(time.Duration(v[1]) * time.Minute)})
	}
	return out, nil
}
