package people

import (
	"context"
	"errors"
	"fmt"
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

// Owner is whose sensitivities they are: a performer's, a maker's or an artist's.
type Owner struct {
	Kind string // performer, person or contact
	ID   uint64
}

// column is where the owner stands in health_fact.
func (o Owner) column() string { return o.Kind + "_id" }

// HealthFact is one recorded sensitivity; it can be erased.
type HealthFact struct {
	ID        uint64 `db:"id" json:"id"`
	Substance string `db:"substance" json:"substance" doc:"code of a substance of the list or slug of a material; else what was typed"`
	Words     string `db:"words" json:"words" doc:"what was typed, where it was not chosen from the list"`
	Status    string `db:"status" json:"status" enum:"allergic,sensitive,clear"`
	Note      string `db:"note" json:"note"`
	// Name is what it is called; Asked is true while words stand for nothing of the
	// list, so that somebody has to say what is meant.
	Name  string `db:"-" json:"name"`
	Asked bool   `db:"-" json:"asked"`
}

// known resolves what a fact is about: codes of the list or a material's slug;
// none for words that name nothing. A record of before the list was there, or of
// words that name several things, is taken for each of them.
func (f HealthFact) known(list substance.List, materials material.Shelf) []string {
	if _, listed := list.Find(f.Substance); listed {
		return []string{f.Substance}
	}
	if _, here := materials[f.Substance]; here {
		return []string{f.Substance}
	}
	return list.Named(f.Substance + " " + f.Words)
}

func healthFacts(ctx context.Context, db database.Reader, of Owner) ([]HealthFact, error) {
	list := []HealthFact{}
	// Indexes health_fact_once, health_fact_person, health_fact_contact.
	if err := db.SelectContext(ctx, &list, `SELECT id, substance, words, status, note FROM health_fact WHERE `+of.column()+` = ? ORDER BY substance`, of.ID); err != nil {
		return nil, fmt.Errorf("reading sensitivities: %w", err)
	}
	return list, nil
}

// listed are somebody's facts with their names, for those who may read them.
func listed(ctx context.Context, db database.Reader, of Owner) ([]HealthFact, error) {
	facts, err := healthFacts(ctx, db, of)
	if err != nil || len(facts) == 0 {
		return facts, err
	}
	list, materials, err := shelf.Both(ctx, db)
	if err != nil {
		return nil, err
	}
	for i, f := range facts {
		codes := f.known(list, materials)
		var names []string
		for _, code := range codes {
			if s, listed := list.Find(code); listed {
				names = append(names, s.Name)
			} else {
				names = append(names, materials[code].Name)
			}
		}
		facts[i].Asked = len(codes) == 0
		facts[i].Name = strings.Join(names, ", ")
		if facts[i].Asked {
			facts[i].Name = f.Substance
		}
	}
	return facts, nil
}

// FactsOf are somebody's sensitivities as the craft compares them.
func FactsOf(ctx context.Context, db database.Reader, of Owner) ([]substance.Fact, error) {
	rows, err := healthFacts(ctx, db, of)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	list, materials, err := shelf.Both(ctx, db)
	if err != nil {
		return nil, err
	}
	var out []substance.Fact
	for _, f := range rows {
		codes := f.known(list, materials)
		for _, code := range codes {
			out = append(out, substance.Fact{Code: code, Words: f.Words, Status: f.Status})
		}
		if len(codes) == 0 {
			out = append(out, substance.Fact{Words: f.Substance, Status: f.Status})
		}
	}
	return out, nil
}

// NewFact is a sensitivity as it is recorded: chosen from the list, or in words
// of one's own.
type NewFact struct {
	Substance string `json:"substance" maxLength:"64" doc:"code of a substance of the list, slug of a material, or words"`
	Status    string `json:"status" enum:"allergic,sensitive,clear"`
	Note      string `json:"note,omitempty" maxLength:"500"`
	// Means says of a fact in words what of the list it is.
	Means string `json:"means,omitempty" maxLength:"64" doc:"what of the list the words mean; the words are kept"`
}

// RecordFact records a sensitivity of anybody. The journal keeps that it was
// recorded, never what it says.
func (s *Service) RecordFact(ctx context.Context, of Owner, in NewFact) ([]HealthFact, error) {
	typed := strings.TrimSpace(in.Substance)
	if typed == "" {
		return nil, problem.Invalid("missing", "substance", "Sensitive to what? Choose it from the list, or write it in words.")
	}
	who, _ := accounts.From(ctx)
	var list []HealthFact
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		substances, materials, err := shelf.Both(ctx, tx)
		if err != nil {
			return err
		}
		var here bool
		if err := tx.GetContext(ctx, &here, `SELECT COUNT(*) > 0 FROM `+of.Kind+` WHERE id = ?`, of.ID); err != nil {
			return err
		}
		if !here {
			return problem.NotFound(of.Kind, fmt.Sprint(of.ID))
		}
		about, words := strings.ToLower(typed), ""
		if in.Means != "" {
			about, words = in.Means, typed
		}
		known := HealthFact{Substance: about}.known(substances, materials)
		if in.Means != "" && !slices.Contains(known, in.Means) {
			return problem.Invalid("unknown_value", "means", "Choose what it is from the list.")
		}
		if len(known) == 1 && known[0] != about {
			about, words = known[0], typed // what the words name, and the words beside it
		}
		if in.Means != "" { // the words are placed: their own row goes
			if _, err := tx.ExecContext(ctx, `DELETE FROM health_fact WHERE `+of.column()+` = ? AND substance = ?`, of.ID, strings.ToLower(typed)); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO health_fact (`+of.column()+`, substance, words, status, note, recorded_at, recorded_by) VALUES (?,?,?,?,?,?,NULLIF(?,0))
			ON DUPLICATE KEY UPDATE words = IF(VALUES(words) = '', words, VALUES(words)), status = VALUES(status), note = VALUES(note), recorded_at = VALUES(recorded_at), recorded_by = VALUES(recorded_by)`,
			of.ID, about, words, in.Status, in.Note, s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("recording a sensitivity: %w", err)
		}
		if list, err = listed(ctx, tx, of); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: of.Kind, Code: fmt.Sprint(of.ID), Act: "health fact recorded"})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.tellOf(ctx, of)
	return list, nil
}

// EraseFact removes one recorded sensitivity for good.
func (s *Service) EraseFact(ctx context.Context, of Owner, fact uint64) ([]HealthFact, error) {
	var list []HealthFact
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		erased, err := database.Changed(tx.ExecContext(ctx, `DELETE FROM health_fact WHERE id = ? AND `+of.column()+` = ?`, fact, of.ID))
		if err != nil {
			return err
		}
		if !erased {
			return problem.NotFound("recorded sensitivity", fmt.Sprint(fact))
		}
		if list, err = listed(ctx, tx, of); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: of.Kind, Code: fmt.Sprint(of.ID), Act: "health fact erased"})
		return errors.Join(err, database.ForgetAnswers(ctx, tx))
	})
	if err != nil {
		return nil, err
	}
	s.tellOf(ctx, of)
	return list, nil
}

// tellOf tells who works with somebody's sensitivities that they changed.
func (s *Service) tellOf(ctx context.Context, of Owner) {
	if of.Kind == "performer" {
		s.Live.Tell(ctx, "section", "")
		s.Live.Tell(ctx, "brief", "")
		return
	}
	s.Live.Tell(ctx, "people", "")
}

// Own are the sensitivities of whoever asks, which only they and a lead read.
func (s *Service) Own(ctx context.Context) ([]HealthFact, error) {
	who, _ := accounts.From(ctx)
	return s.Sensitivities(ctx, Owner{"person", who.ID})
}

// Sensitivities are somebody's, with their names.
func (s *Service) Sensitivities(ctx context.Context, of Owner) ([]HealthFact, error) {
	return listed(ctx, s.DB, of)
}

// RecordHealth records a sensitivity of a performer.
func (s *Service) RecordHealth(ctx context.Context, id uint64, in NewFact) (Performer, error) {
	if _, err := s.RecordFact(ctx, Owner{"performer", id}, in); err != nil {
		return Performer{}, err
	}
	return s.Performer(ctx, id)
}

// EraseHealth removes a sensitivity of a performer for good.
func (s *Service) EraseHealth(ctx context.Context, id, fact uint64) (Performer, error) {
	if _, err := s.EraseFact(ctx, Owner{"performer", id}, fact); err != nil {
		return Performer{}, err
	}
	return s.Performer(ctx, id)
}
