package journal

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Filter narrows the record of the whole shop; zero values narrow nothing.
type Filter struct {
	Person uint64
	Kind   string
	Words  string
	Day    string // 2026-01-12, in UTC
	Before uint64 // the id of the last entry of the page before
}

// Noted is an entry as the record of the whole shop shows it.
type Noted struct {
	ID     uint64    `db:"id" json:"id"`
	At     time.Time `db:"at" json:"at"`
	Who    string    `db:"who" json:"who"`
	Device string    `db:"device" json:"device"`
	Kind   string    `db:"kind" json:"kind"`
	Code   string    `db:"code" json:"code"`
	Act    string    `db:"act" json:"act"`
	Words  string    `db:"words" json:"words"`
}

// Page is a part of the record, newest first.
type Page struct {
	Entries []Noted `json:"entries"`
	More    bool    `json:"more" doc:"older entries follow"`
}

const pageSize = 60

// Find reads a page of the record in the order in which it was written, newest
// first. Walking back by the primary key, it stops at the first full page;
// index journal_at bounds it when a day is given, journal_person when a person.
func Find(ctx context.Context, db database.Reader, f Filter) (Page, error) {
	where, args := []string{"1=1"}, []any{}
	add := func(condition string, with ...any) {
		where, args = append(where, condition), append(args, with...)
	}
	if f.Person > 0 {
		add("j.person_id = ?", f.Person)
	}
	if f.Kind != "" {
		add("j.kind = ?", f.Kind)
	}
	if f.Day != "" {
		day, err := time.Parse(time.DateOnly, f.Day)
		if err != nil {
			return Page{}, problem.Invalid("wrong_day", "day", "Write the day as 2026-01-12.")
		}
		add("j.at >= ? AND j.at < ?", day, day.AddDate(0, 0, 1))
	}
	if words := strings.TrimSpace(f.Words); words != "" {
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(words) + "%"
		add("(j.code LIKE ? OR j.act LIKE ? OR j.words LIKE ?)", like, like, like)
	}
	if f.Before > 0 {
		add("j.id < ?", f.Before)
	}
	p := Page{Entries: []Noted{}}
	err := db.SelectContext(ctx, &p.Entries, `SELECT j.id, j.at, COALESCE(p.name, j.actor, '') AS who, j.device, j.kind, j.code, j.act, j.words
		FROM journal j LEFT JOIN person p ON p.id = j.person_id WHERE `+strings.Join(where, " AND ")+` ORDER BY j.id DESC LIMIT ?`, append(args, pageSize+1)...)
	if err != nil {
		return p, fmt.Errorf("reading the record: %w", err)
	}
	if p.More = len(p.Entries) > pageSize; p.More {
		p.Entries = p.Entries[:pageSize]
	}
	return p, nil
}
