package cost

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Terms are what the shop's money is, and what its time is charged at.
type Terms struct {
	Currency  string  `json:"currency" maxLength:"8" doc:"as it stands before an amount; empty for none"`
	RateMinor int64   `json:"rate_minor" minimum:"0" maximum:"10000000" doc:"an hour of anybody who has no rate of their own, and of what is only planned"`
	Rates     []Rate  `json:"rates"`
	Factor    float64 `json:"overtime_factor" minimum:"1" maximum:"5"`
	Overhead  float64 `json:"overhead_pct" minimum:"0" maximum:"500" doc:"on labour and machines"`
	Margin    float64 `json:"margin_pct" minimum:"0" maximum:"99" doc:"of the price"`
	OvenMinor int64   `json:"oven_minor" minimum:"0" maximum:"10000000" doc:"an hour of a whole oven"`
}

// Rate is what an hour of somebody costs.
type Rate struct {
	Person string `json:"person" maxLength:"120"`
	Minor  int64  `json:"minor" minimum:"0" maximum:"10000000"`
}

// TermsView are the terms in force with who set them.
type TermsView struct {
	Terms
	Default bool       `json:"default" doc:"nobody set any yet: these are the program's own figures"`
	At      *time.Time `json:"at,omitempty"`
	By      string     `json:"by"`
	People  []string   `json:"people"`
}

// usual are our own figures until a lead sets the shop's.
var usual = Terms{RateMinor: 3000, Rates: []Rate{}, Factor: 1.5, Overhead: 20, Margin: 25, OvenMinor: 150}

// of is what an hour of somebody costs.
func (t Terms) of(person string) int64 {
	if i := slices.IndexFunc(t.Rates, func(r Rate) bool { return r.Person == person }); i >= 0 {
		return t.Rates[i].Minor
	}
	return t.RateMinor
}

// Terms reads those in force.
func (s *Service) Terms(ctx context.Context) (TermsView, error) {
	var rows []struct {
		Doc  string
		At   time.Time
		Name string
	}
	out := TermsView{Terms: usual, Default: true, People: []string{}}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT t.doc, t.at, p.name FROM money_terms t JOIN person p ON p.id = t.by_id ORDER BY t.id DESC LIMIT 1`); err != nil {
		return out, fmt.Errorf("reading the terms: %w", err)
	}
	if len(rows) == 1 {
		out.Default, out.At, out.By = false, &rows[0].At, rows[0].Name
		out.Terms = Terms{}
		if err := json.Unmarshal([]byte(rows[0].Doc), &out.Terms); err != nil {
			return out, err
		}
	}
	return out, s.DB.SelectContext(ctx, &out.People, `SELECT name FROM person WHERE active ORDER BY id`)
}

// SetTerms puts others in force; what was offered before keeps its own.
func (s *Service) SetTerms(ctx context.Context, in Terms) (TermsView, error) {
	seen := map[string]bool{}
	for i, r := range in.Rates {
		if seen[r.Person] {
			return TermsView{}, problem.Invalid("duplicate", fmt.Sprintf("rates[%d].person", i), "%s has two rates.", r.Person)
		}
		seen[r.Person] = true
	}
	if in.Rates == nil {
		in.Rates = []Rate{}
	}
	doc, err := json.Marshal(in)
	if err != nil {
		return TermsView{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO money_terms (doc, by_id, at) VALUES (?,?,?)`, string(doc), who.ID, s.Clock.Now()); err != nil {
			return fmt.Errorf("writing the terms: %w", err)
		}
		// What they are stands with them: the record is read by people who may not see rates.
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "cost", Code: "terms", Act: "set"})
		return err
	})
	if err != nil {
		return TermsView{}, err
	}
	s.Live.Tell(ctx, "cost", "")
	return s.Terms(ctx)
}
