// Package document keeps what is drafted, agreed and kept in versions: briefs,
// sections, texture plans, and whatever kind comes next. A document belongs to
// a piece, to a look, or to the shop under a name; what stands in it is its
// owner's business. It knows no piece.
//
// Agreed versions never change. Beside them each person has one draft, kept
// step by step, so that undo is a step back. Who saves or agrees on an older
// state than the one that stands gets a conflict with both documents.
package document

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Ref names a document: its kind and the one owner that it belongs to.
type Ref struct {
	Kind  string
	Piece uint64 // 0 when it is not a piece's
	Look  uint64 // 0 when it is not a look's
	Name  string // of a document of the shop
}

// OfPiece is the document of a kind that belongs to a piece.
func OfPiece(kind string, piece uint64) Ref { return Ref{Kind: kind, Piece: piece} }

// where selects the document's row, d, by an index of its own owner.
func (r Ref) where() (string, []any) {
	switch {
	case r.Piece != 0:
		return `d.piece_id = ? AND d.kind = ?`, []any{r.Piece, r.Kind}
	case r.Look != 0:
		return `d.look_id = ? AND d.kind = ?`, []any{r.Look, r.Kind}
	}
	return `d.name = ? AND d.kind = ?`, []any{r.Name, r.Kind}
}

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

// Signature is a lead's reason to go on in spite of a stop.
type Signature struct {
	ID     string `json:"id" doc:"the finding"`
	At     string `json:"at,omitempty" doc:"where it sits, when a rule speaks more than once"`
	Reason string `json:"reason"`
	By     string `json:"by,omitempty"`
}

// DraftOf is a document as a person saves it: the step it was worked from stands
// beside it.
type DraftOf[T any] struct {
	Doc  T   `json:"doc"`
	Base int `json:"base" minimum:"0" maximum:"1000000"`
	Step int `json:"step" minimum:"0" maximum:"1000000"`
}

// Version is an agreed version.
type Version struct {
	Number   int
	Doc      json.RawMessage
	Signed   []Signature
	AgreedAt time.Time
	By       string
}

// Draft is somebody's draft.
type Draft struct {
	Login, Name string
	Mine        bool
	Base        int
	At          time.Time
	Doc         json.RawMessage
}

// Service keeps documents.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
}

type versionRow struct {
	Number   int
	Doc      string
	Signed   string
	AgreedAt time.Time `db:"agreed_at"`
	By       string    `db:"by_name"`
}

func (r versionRow) version() (Version, error) {
	v := Version{Number: r.Number, Doc: json.RawMessage(r.Doc), Signed: []Signature{}, AgreedAt: r.AgreedAt, By: r.By}
	err := json.Unmarshal([]byte(r.Signed), &v.Signed)
	if v.Signed == nil {
		v.Signed = []Signature{}
	}
	return v, err
}

const versionColumns = `v.number, v.doc, v.signed, v.agreed_at, p.name AS by_name FROM document d JOIN document_version v ON v.document_id = d.id JOIN person p ON p.id = v.agreed_by WHERE `

// At reads one agreed version; number 0 means the newest, which stands at the
// end of index document_version_once. known is false where there is none.
func At(ctx context.Context, db database.Reader, ref Ref, number int) (v Version, known bool, err error) {
	where, args := ref.where()
	var r versionRow
	err = db.GetContext(ctx, &r, `SELECT `+versionColumns+where+` AND (? = 0 OR v.number = ?) ORDER BY v.number DESC LIMIT 1`, append(args, number, number)...)
	if errors.Is(err, sql.ErrNoRows) {
		return Version{Signed: []Signature{}}, false, nil
	}
	if err != nil {
		return Version{Signed: []Signature{}}, false, fmt.Errorf("reading the agreed %s: %w", ref.Kind, err)
	}
	v, err = r.version()
	return v, err == nil, err
}

// Versions lists agreed versions, newest first, at most most of them.
func Versions(ctx context.Context, db database.Reader, ref Ref, most int) ([]Version, error) {
	where, args := ref.where()
	var rows []versionRow
	if err := db.SelectContext(ctx, &rows, `SELECT `+versionColumns+where+` ORDER BY v.number DESC LIMIT ?`, append(args, most)...); err != nil {
		return nil, fmt.Errorf("reading the versions of a %s: %w", ref.Kind, err)
	}
	list := make([]Version, len(rows))
	for i, r := range rows {
		var err error
		if list[i], err = r.version(); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// Drafts lists everybody's draft as it stands, newest first.
func Drafts(ctx context.Context, db database.Reader, ref Ref) ([]Draft, error) {
	who, _ := accounts.From(ctx)
	where, args := ref.where()
	var rows []struct {
		ID          uint64
		Login, Name string
		Base        int
		At          time.Time
		Doc         string
	}
	if err := db.SelectContext(ctx, &rows, `SELECT p.id, p.login, p.name, t.base, s.at, s.doc FROM document d JOIN draft t ON t.document_id = d.id JOIN person p ON p.id = t.person_id
		JOIN draft_step s ON s.document_id = t.document_id AND s.person_id = t.person_id AND s.step = t.at_step WHERE `+where+` ORDER BY s.at DESC`, args...); err != nil {
		return nil, fmt.Errorf("reading the drafts of a %s: %w", ref.Kind, err)
	}
	list := make([]Draft, len(rows))
	for i, r := range rows {
		list[i] = Draft{Login: r.Login, Name: r.Name, Mine: r.ID == who.ID, Base: r.Base, At: r.At, Doc: json.RawMessage(r.Doc)}
	}
	return list, nil
}

type draftRow struct {
	ID   uint64 // of the document
	Base int
	Step int `db:"at_step"`
	Last int
	Doc  string
}

func readDraft(ctx context.Context, db database.Reader, ref Ref) (d draftRow, drafted bool, err error) {
	who, _ := accounts.From(ctx)
	where, args := ref.where()
	err = db.GetContext(ctx, &d, `SELECT d.id, t.base, t.at_step, s.doc, (SELECT MAX(step) FROM draft_step l WHERE l.document_id = d.id AND l.person_id = t.person_id) AS last
		FROM document d JOIN draft t ON t.document_id = d.id JOIN draft_step s ON s.document_id = d.id AND s.person_id = t.person_id AND s.step = t.at_step
		WHERE `+where+` AND t.person_id = ?`, append(args, who.ID)...)
	if errors.Is(err, sql.ErrNoRows) {
		return d, false, nil
	}
	if err != nil {
		return d, false, fmt.Errorf("reading the draft of a %s: %w", ref.Kind, err)
	}
	return d, true, nil
}

// Read reads what the signed-in person should see: their draft, else the newest
// agreed version, else nil.
func Read(ctx context.Context, db database.Reader, ref Ref) (json.RawMessage, State, error) {
	who, _ := accounts.From(ctx)
	st := State{Others: []string{}}
	v, known, err := At(ctx, db, ref, 0)
	if err != nil {
		return nil, st, err
	}
	var doc json.RawMessage
	if known {
		doc, st.Latest, st.Base, st.By, st.Agreed = v.Doc, v.Number, v.Number, v.By, &v.AgreedAt
	}
	where, args := ref.where()
	if err := db.SelectContext(ctx, &st.Others, `SELECT p.name FROM document d JOIN draft t ON t.document_id = d.id JOIN person p ON p.id = t.person_id WHERE `+where+` AND t.person_id <> ? ORDER BY p.name`, append(args, who.ID)...); err != nil {
		return nil, st, err
	}
	d, drafted, err := readDraft(ctx, db, ref)
	if err != nil || !drafted {
		return doc, st, err
	}
	st.Base, st.Step, st.Last, st.Drafted = d.Base, d.Step, d.Last, true
	return json.RawMessage(d.Doc), st, nil
}

// row finds the document's own row, or makes it.
func row(ctx context.Context, tx database.Tx, ref Ref) (int64, error) {
	null := func(id uint64) any {
		if id == 0 {
			return nil
		}
		return id
	}
	var name any
	if ref.Name != "" {
		name = ref.Name
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO document (kind, piece_id, look_id, name) VALUES (?,?,?,?) ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id)`, ref.Kind, null(ref.Piece), null(ref.Look), name)
	if err != nil {
		return 0, fmt.Errorf("beginning a %s: %w", ref.Kind, err)
	}
	return res.LastInsertId()
}

// stamp marks a state of a draft: another one after every change.
func stamp() uint64 { return rand.Uint64() >> 1 }

// StampOf names the state of all drafts of the signed-in person: it is another
// one after each of their changes. Index draft_person.
func StampOf(ctx context.Context, db database.Reader) (string, error) {
	who, _ := accounts.From(ctx)
	var out string
	err := db.GetContext(ctx, &out, `SELECT CONCAT(COUNT(*), ' ', COALESCE(MAX(stamp), 0), ' ', BIT_XOR(stamp)) FROM draft WHERE person_id = ?`, who.ID)
	return out, err
}

func moved() error {
	return problem.Conflict("draft_moved", "This draft was changed in another window a moment ago. Nothing was overwritten.")
}

// Save writes doc as the person's next step. step is the one the screen worked
// from: another window that was quicker makes a conflict with both.
func (s *Service) Save(ctx context.Context, tx database.Tx, ref Ref, doc json.RawMessage, base, step int) error {
	who, _ := accounts.From(ctx)
	d, drafted, err := readDraft(ctx, tx, ref)
	if err != nil {
		return err
	}
	id := int64(d.ID)
	switch {
	case !drafted:
		step = 0
		if id, err = row(ctx, tx, ref); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO draft (document_id, person_id, base, at_step, stamp) VALUES (?,?,?,1,?)`, id, who.ID, base, stamp()); err != nil {
			if database.IsDuplicate(err) {
				return moved()
			}
			return fmt.Errorf("beginning the draft: %w", err)
		}
	case d.Step != step:
		p := problem.Conflict("draft_moved", "This draft was changed in another window. Both are kept: carry one of them over.")
		_, st, err := Read(ctx, tx, ref)
		if err != nil {
			return err
		}
		p.Data = Conflict{Yours: doc, Theirs: json.RawMessage(d.Doc), State: st, Who: who.Name}
		return p
	default:
		if _, err := tx.ExecContext(ctx, `DELETE FROM draft_step WHERE document_id = ? AND person_id = ? AND step > ?`, id, who.ID, step); err != nil {
			return err
		}
		done, err := database.Changed(tx.ExecContext(ctx, `UPDATE draft SET at_step = ?, stamp = ? WHERE document_id = ? AND person_id = ? AND at_step = ?`, step+1, stamp(), id, who.ID, step))
		if err != nil {
			return err
		}
		if !done {
			return moved()
		}
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO draft_step (document_id, person_id, step, doc, at) VALUES (?,?,?,?,?)`, id, who.ID, step+1, string(doc), s.Clock.Now())
	return err
}

// Walk goes a step back (-1) or forward (+1) in the person's draft.
func (s *Service) Walk(ctx context.Context, tx database.Tx, ref Ref, by int) error {
	who, _ := accounts.From(ctx)
	d, drafted, err := readDraft(ctx, tx, ref)
	if err != nil {
		return err
	}
	if drafted {
		drafted, err = database.Changed(tx.ExecContext(ctx, `UPDATE draft t SET t.at_step = t.at_step + ?, t.stamp = ? WHERE t.document_id = ? AND t.person_id = ?
			AND EXISTS (SELECT 1 FROM draft_step l WHERE l.document_id = t.document_id AND l.person_id = t.person_id AND l.step = t.at_step + ?)`, by, stamp(), d.ID, who.ID, by))
		if err != nil {
			return err
		}
	}
	if !drafted {
		return problem.Conflict("no_step", "There is nothing to go back or forward to.")
	}
	return nil
}

// Carry puts the person's draft on top of the version latest, which somebody
// else agreed meanwhile and the person has now seen.
func (s *Service) Carry(ctx context.Context, tx database.Tx, ref Ref, latest int) error {
	who, _ := accounts.From(ctx)
	v, _, err := At(ctx, tx, ref, 0)
	if err != nil {
		return err
	}
	if v.Number != latest {
		return problem.Conflict("newer_agreed", "Yet another version was agreed meanwhile, by %s. Look at it first; both are kept.", v.By)
	}
	where, args := ref.where()
	_, err = tx.ExecContext(ctx, `UPDATE draft t JOIN document d ON d.id = t.document_id SET t.base = ?, t.stamp = ? WHERE `+where+` AND t.person_id = ?`, append(append([]any{latest, stamp()}, args...), who.ID)...)
	return err
}

// Drop throws the person's draft away; agreed versions stay.
func (s *Service) Drop(ctx context.Context, tx database.Tx, ref Ref) error {
	who, _ := accounts.From(ctx)
	where, args := ref.where()
	_, err := tx.ExecContext(ctx, `DELETE t FROM draft t JOIN document d ON d.id = t.document_id WHERE `+where+` AND t.person_id = ?`, append(args, who.ID)...)
	return err
}

// Judge looks at what is about to be agreed, inside the act that agrees it, and
// gives the signatures that are kept with it. An error holds it back.
type Judge func(doc json.RawMessage, st State) ([]Signature, error)

// Agree makes the person's draft the next version, if judge lets it. A version
// agreed by somebody else since the draft began makes a conflict with both. code
// is what the journal calls the owner.
func (s *Service) Agree(ctx context.Context, tx database.Tx, ref Ref, code string, judge Judge) (int, error) {
	who, _ := accounts.From(ctx)
	// The document's row orders those who agree at the same moment; what is
	// read after it is what will be agreed.
	where, args := ref.where()
	if _, err := tx.ExecContext(ctx, `SELECT d.id FROM document d WHERE `+where+` FOR UPDATE`, args...); err != nil {
		return 0, err
	}
	d, drafted, err := readDraft(ctx, tx, ref)
	if err != nil {
		return 0, err
	}
	if !drafted {
		return 0, problem.Conflict("no_draft", "There is nothing new to agree.")
	}
	v, _, err := At(ctx, tx, ref, 0)
	if err != nil {
		return 0, err
	}
	if v.Number != d.Base {
		c := problem.Conflict("newer_agreed", "%s agreed a newer version meanwhile. Both are kept: carry one of them over.", v.By)
		c.Data = Conflict{Yours: json.RawMessage(d.Doc), Theirs: v.Doc, Who: v.By, State: State{Base: d.Base, Latest: v.Number, Others: []string{}}}
		return 0, c
	}
	signed, err := judge(json.RawMessage(d.Doc), State{Base: d.Base, Step: d.Step, Last: d.Last, Latest: v.Number, Drafted: true, Others: []string{}})
	if err != nil {
		return 0, err
	}
	if signed == nil {
		signed = []Signature{}
	}
	raw, err := json.Marshal(signed)
	if err != nil {
		return 0, err
	}
	number, now := v.Number+1, s.Clock.Now()
	if _, err := tx.ExecContext(ctx, `INSERT INTO document_version (document_id, number, doc, signed, agreed_by, agreed_at) VALUES (?,?,?,?,?,?)`, d.ID, number, d.Doc, string(raw), who.ID, now); err != nil {
		return 0, fmt.Errorf("agreeing: %w", err)
	}
	if err := s.Drop(ctx, tx, ref); err != nil {
		return 0, err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: ref.Piece, Kind: ref.Kind, Code: code, Act: "agreed", Words: fmt.Sprintf("%s §%d agreed", ref.Kind, number), Data: signed})
	return number, err
}

// NewestSQL is the number of a piece's newest agreed version of a kind, 0 for
// none, as a part of a query; piece is the column that holds its id.
func NewestSQL(piece, kind string) string {
	return "COALESCE((SELECT MAX(dv.number) FROM document dd JOIN document_version dv ON dv.document_id = dd.id WHERE dd.piece_id = " + piece + " AND dd.kind = '" + kind + "'), 0)"
}
