package piece

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Kinds of document a piece has. All are immutable versions plus one draft a
// person, kept step by step.
const (
	BriefKind   = "brief"
	SectionKind = "section"
	TextureKind = "texture"
)

// State says where a person stands with a document.
type State struct {
	Base    int        `json:"base" doc:"agreed version the draft began from, 0 for none"`
	Step    int        `json:"step" doc:"0 when there is no draft"`
	Last    int        `json:"last" doc:"newest step; above step after an undo"`
	Latest  int        `json:"latest" doc:"newest agreed version, 0 for none"`
	Agreed  *time.Time `json:"agreed_at,omitempty"`
	By      string     `json:"agreed_by,omitempty"`
	Drafted bool       `json:"drafted"`
	Others  []string   `json:"others" doc:"who else has a draft"`
}

// Conflict is what a 409 carries: both documents, so that either can be
// carried over.
type Conflict struct {
	Yours  json.RawMessage `json:"yours"`
	Theirs json.RawMessage `json:"theirs"`
	State  State           `json:"state"`
	Who    string          `json:"who"`
}

type version struct {
	Number   int
	Doc      string
	Signed   string
	AgreedAt time.Time `db:"agreed_at"`
	By       string    `db:"by_name"`
}

// readVersion reads one agreed version; number 0 means the latest, which stands
// at the end of index document_version_once. Nothing agreed yet is
// sql.ErrNoRows.
func readVersion(ctx context.Context, db database.Reader, piece uint64, kind string, number int) (version, error) {
	var v version
	err := db.GetContext(ctx, &v, `SELECT v.number, v.doc, v.signed, v.agreed_at, p.name AS by_name FROM document_version v JOIN person p ON p.id = v.agreed_by
		WHERE v.piece_id = ? AND v.kind = ? AND (? = 0 OR v.number = ?) ORDER BY v.number DESC LIMIT 1`, piece, kind, number, number)
	return v, err
}

type draftRow struct {
	Base int
	Step int `db:"at_step"`
	Last int
	Doc  string
}

func readDraft(ctx context.Context, db database.Reader, piece uint64, kind string, person uint64) (draftRow, error) {
	var d draftRow
	err := db.GetContext(ctx, &d, `SELECT d.base, d.at_step, s.doc, (SELECT MAX(step) FROM draft_step l WHERE l.piece_id = d.piece_id AND l.kind = d.kind AND l.person_id = d.person_id) AS last
		FROM draft d JOIN draft_step s ON s.piece_id = d.piece_id AND s.kind = d.kind AND s.person_id = d.person_id AND s.step = d.at_step
		WHERE d.piece_id = ? AND d.kind = ? AND d.person_id = ?`, piece, kind, person)
	return d, err
}

// document reads what the person should see: their draft, else the latest
// agreed version, else nil.
func document(ctx context.Context, db database.Reader, piece uint64, kind string) (json.RawMessage, State, error) {
	who, _ := accounts.From(ctx)
	st := State{Others: []string{}}
	v, err := readVersion(ctx, db, piece, kind, 0)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, st, fmt.Errorf("reading the agreed %s: %w", kind, err)
	}
	var doc json.RawMessage
	if err == nil {
		doc, st.Latest, st.Base, st.By = json.RawMessage(v.Doc), v.Number, v.Number, v.By
		st.Agreed = &v.AgreedAt
	}
	if err := db.SelectContext(ctx, &st.Others, `SELECT p.name FROM draft d JOIN person p ON p.id = d.person_id WHERE d.piece_id = ? AND d.kind = ? AND d.person_id <> ? ORDER BY p.name`, piece, kind, who.ID); err != nil {
		return nil, st, err
	}
	d, err := readDraft(ctx, db, piece, kind, who.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return doc, st, nil
	}
	if err != nil {
		return nil, st, fmt.Errorf("reading the draft: %w", err)
	}
	st.Base, st.Step, st.Last, st.Drafted = d.Base, d.Step, d.Last, true
	return json.RawMessage(d.Doc), st, nil
}

// saveDraft writes doc as the person's next step. step is the one the screen
// worked from: another tab that was quicker makes a conflict with both.
func (s *Service) saveDraft(ctx context.Context, tx database.Tx, piece uint64, kind string, doc json.RawMessage, base, step int) error {
	who, _ := accounts.From(ctx)
	d, err := readDraft(ctx, tx, piece, kind, who.ID)
	now := s.Clock.Now()
	switch {
	case errors.Is(err, sql.ErrNoRows):
		if step != 0 {
			step = 0
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO draft (piece_id, kind, person_id, base, at_step) VALUES (?,?,?,?,1)`, piece, kind, who.ID, base); err != nil {
			if database.IsDuplicate(err) {
				return problem.Conflict("draft_moved", "This draft was changed in another window a moment ago. Nothing was overwritten.")
			}
			return fmt.Errorf("beginning the draft: %w", err)
		}
	case err != nil:
		return fmt.Errorf("reading the draft: %w", err)
	case d.Step != step:
		p := problem.Conflict("draft_moved", "This draft was changed in another window. Both are kept: carry one of them over.")
		_, st, err := document(ctx, tx, piece, kind)
		if err != nil {
			return err
		}
		p.Data = Conflict{Yours: doc, Theirs: json.RawMessage(d.Doc), State: st, Who: who.Name}
		return p
	default:
		if _, err := tx.ExecContext(ctx, `DELETE FROM draft_step WHERE piece_id = ? AND kind = ? AND person_id = ? AND step > ?`, piece, kind, who.ID, step); err != nil {
			return err
		}
		res, err := tx.ExecContext(ctx, `UPDATE draft SET at_step = ? WHERE piece_id = ? AND kind = ? AND person_id = ? AND at_step = ?`, step+1, piece, kind, who.ID, step)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return problem.Conflict("draft_moved", "This draft was changed in another window a moment ago. Nothing was overwritten.")
		}
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO draft_step (piece_id, kind, person_id, step, doc, at) VALUES (?,?,?,?,?,?)`, piece, kind, who.ID, step+1, string(doc), now)
	return err
}

// walk goes a step back (-1) or forward (+1) in the person's draft.
func (s *Service) walk(ctx context.Context, piece uint64, kind string, by int) error {
	who, _ := accounts.From(ctx)
	return s.DB.InTx(ctx, func(tx database.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE draft d SET at_step = at_step + ? WHERE piece_id = ? AND kind = ? AND person_id = ?
			AND EXISTS (SELECT 1 FROM draft_step s WHERE s.piece_id = d.piece_id AND s.kind = d.kind AND s.person_id = d.person_id AND s.step = d.at_step + ?)`,
			by, piece, kind, who.ID, by)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return problem.Conflict("no_step", "There is nothing to go back or forward to.")
		}
		return nil
	})
}

// carry puts the person's draft on top of the version latest, which somebody
// else agreed meanwhile and the person has now seen.
func (s *Service) carry(ctx context.Context, tx database.Tx, piece uint64, kind string, latest int) error {
	who, _ := accounts.From(ctx)
	v, err := readVersion(ctx, tx, piece, kind, 0)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	if v.Number != latest {
		return problem.Conflict("newer_agreed", "Yet another version was agreed meanwhile, by %s. Look at it first; both are kept.", v.By)
	}
	_, err = tx.ExecContext(ctx, `UPDATE draft SET base = ? WHERE piece_id = ? AND kind = ? AND person_id = ?`, latest, piece, kind, who.ID)
	return err
}

// drop throws the person's draft away; agreed versions stay.
func (s *Service) drop(ctx context.Context, tx database.Tx, piece uint64, kind string) error {
	who, _ := accounts.From(ctx)
	_, err := tx.ExecContext(ctx, `DELETE FROM draft WHERE piece_id = ? AND kind = ? AND person_id = ?`, piece, kind, who.ID)
	return err
}

// Signature is a lead's reason to go on in spite of a stop.
type Signature struct {
	ID     string `json:"id" doc:"the finding"`
	At     string `json:"at,omitempty" doc:"where it sits, when a rule speaks more than once"`
	Reason string `json:"reason"`
	By     string `json:"by,omitempty"`
}

// agree makes the person's draft the next version. A version agreed by
// somebody else since the draft began makes a conflict with both.
func (s *Service) agree(ctx context.Context, tx database.Tx, p Piece, kind string, signed []Signature) (int, error) {
	who, _ := accounts.From(ctx)
	d, err := readDraft(ctx, tx, p.ID, kind, who.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, problem.Conflict("no_draft", "There is nothing new to agree.")
	}
	if err != nil {
		return 0, err
	}
	// The piece row orders those who agree at the same moment.
	if _, err := tx.ExecContext(ctx, `SELECT id FROM piece WHERE id = ? FOR UPDATE`, p.ID); err != nil {
		return 0, err
	}
	v, err := readVersion(ctx, tx, p.ID, kind, 0)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return 0, err
	}
	if v.Number != d.Base {
		c := problem.Conflict("newer_agreed", "%s agreed a newer version meanwhile. Both are kept: carry one of them over.", v.By)
		c.Data = Conflict{Yours: json.RawMessage(d.Doc), Theirs: json.RawMessage(v.Doc), Who: v.By, State: State{Base: d.Base, Latest: v.Number, Others: []string{}}}
		return 0, c
	}
	if signed == nil {
		signed = []Signature{}
	}
	raw, err := json.Marshal(signed)
	if err != nil {
		return 0, err
	}
	number, now := v.Number+1, s.Clock.Now()
	if _, err := tx.ExecContext(ctx, `INSERT INTO document_version (piece_id, kind, number, doc, signed, agreed_by, agreed_at) VALUES (?,?,?,?,?,?,?)`, p.ID, kind, number, d.Doc, string(raw), who.ID, now); err != nil {
		return 0, fmt.Errorf("agreeing: %w", err)
	}
	if err := s.drop(ctx, tx, p.ID, kind); err != nil {
		return 0, err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: kind, Code: p.Code, Act: "agreed", Words: fmt.Sprintf("%s §%d agreed", kind, number), Data: signed})
	return number, err
}
