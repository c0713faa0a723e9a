package stores

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Stated is what a material's data sheet says of one substance.
type Stated struct {
	Substance string `json:"substance" maxLength:"40" doc:"code of the list"`
	Says      string `json:"says" enum:"contains,free of,not stated"`
	Source    string `json:"source" minLength:"1" maxLength:"200" doc:"which sheet, of which date, or who was asked"`
}

// State writes down what a data sheet says of a substance. It settles what was
// not stated, for every piece at once.
func (s *Service) State(ctx context.Context, slug string, in Stated) (material.Product, error) {
	in.Source = strings.TrimSpace(in.Source)
	if in.Source == "" {
		return material.Product{}, problem.Invalid("missing", "source", "Where does it say so? The sheet and its date, or who was asked.")
	}
	var p material.Product
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		list, err := shelf.Substances(ctx, tx)
		if err != nil {
			return err
		}
		if _, known := list.Find(in.Substance); !known {
			return problem.Invalid("unknown_value", "substance", "Choose a substance from the list.")
		}
		var raw string
		if err := tx.GetContext(ctx, &raw, `SELECT facts FROM material WHERE slug = ? FOR UPDATE`, slug); errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("material", slug)
		} else if err != nil {
			return err
		}
		if err := json.Unmarshal([]byte(raw), &p); err != nil {
			return fmt.Errorf("reading the material: %w", err)
		}
		if in.Says == "free of" && p.Holds().Of(list, in.Substance) == substance.Held {
			return problem.Invalid("contradiction", "says", "%s is known to hold it: the shop's facts and this sheet contradict each other. Say that it is not stated first, if the sheet is to be believed.", p.Name)
		}
		without := func(codes []string) []string {
			return slices.DeleteFunc(slices.Clone(codes), func(c string) bool { return c == in.Substance })
		}
		p.Contains, p.FreeOf = without(p.Contains), without(p.FreeOf)
		switch in.Says {
		case "contains":
			p.Contains = append(p.Contains, in.Substance)
		case "free of":
			p.FreeOf = append(p.FreeOf, in.Substance)
		}
		if p.Sources == nil {
			p.Sources = map[string]string{}
		}
		p.Sources["substance "+in.Substance] = material.SourceSheet + ": " + in.Source
		facts, err := json.Marshal(p)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE material SET facts = ? WHERE slug = ?`, string(facts), slug); err != nil {
			return fmt.Errorf("writing the material: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "material", Code: slug, Act: "data sheet read", Words: in.Says + " " + in.Substance + ": " + in.Source})
		return err
	})
	if err != nil {
		return p, err
	}
	s.Live.Tell(ctx, "materials", "")
	s.Live.Tell(ctx, "section", "")
	return p, nil
}

// NewSubstance is a substance that a shop adds to the list.
type NewSubstance struct {
	Name  string `json:"name" minLength:"1" maxLength:"80"`
	Of    string `json:"of,omitempty" maxLength:"40" doc:"class of the list that it belongs to"`
	Words string `json:"words,omitempty" maxLength:"300" doc:"other names, with commas between"`
}

var notCode = regexp.MustCompile(`[^a-z0-9]+`)

// AddSubstance puts a substance on the shop's list.
func (s *Service) AddSubstance(ctx context.Context, in NewSubstance) (substance.List, error) {
	name := strings.TrimSpace(in.Name)
	code := strings.Trim(notCode.ReplaceAllString(strings.ToLower(name), "_"), "_")
	if code == "" || len(code) > 40 {
		return nil, problem.Invalid("missing", "name", "Give it a name, in letters.")
	}
	var words []string
	for _, w := range strings.Split(in.Words, ",") {
		if w = strings.ToLower(strings.TrimSpace(w)); w != "" {
			words = append(words, strings.ReplaceAll(w, "|", " "))
		}
	}
	who, _ := accounts.From(ctx)
	var list substance.List
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		had, err := shelf.Substances(ctx, tx)
		if err != nil {
			return err
		}
		if is := had.Named(name); len(is) > 0 {
			old, _ := had.Find(is[0])
			if strings.EqualFold(old.Name, name) || old.Code == code {
				return problem.Invalid("taken", "name", "It stands on the list already, as %s.", old.Name)
			}
		}
		if _, known := had.Find(in.Of); in.Of != "" && !known {
			return problem.Invalid("unknown_value", "of", "Choose a class from the list, or none.")
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO substance (code, name, of_class, words, added_at, added_by) VALUES (?,?,?,?,?,NULLIF(?,0))`, code, name, in.Of, strings.Join(words, "|"), s.Clock.Now(), who.ID)
		if database.IsDuplicate(err) {
			return problem.Invalid("taken", "name", "It stands on the list already.")
		}
		if err != nil {
			return fmt.Errorf("adding a substance: %w", err)
		}
		if list, err = shelf.Substances(ctx, tx); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "material", Code: code, Act: "substance added", Words: name})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "materials", "")
	s.Live.Tell(ctx, "section", "")
	return list, nil
}
