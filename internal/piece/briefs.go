package piece

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

func (s *Service) readBrief(ctx context.Context, db database.Reader, p Piece) (Brief, State, error) {
	raw, state, err := document(ctx, db, p.ID, BriefKind)
	if err != nil {
		return Brief{}, state, err
	}
	b := Brief{KeepFree: slices.Clone(Free)}
	if raw == nil {
		if r, ok := region.Find(p.Region); ok {
			b.AreaCM2 = r.AreaCM2
		}
		return b.whole(), state, nil
	}
	err = json.Unmarshal(raw, &b)
	return b.whole(), state, err
}

// ReadBrief reads the brief as the signed-in person sees it: their draft, else
// what was agreed, else where a brief begins.
func (s *Service) ReadBrief(ctx context.Context, p Piece) (Brief, State, error) {
	return s.readBrief(ctx, s.DB, p)
}

// BriefVersion is an agreed brief.
type BriefVersion struct {
	Number   int         `json:"number"`
	AgreedAt time.Time   `json:"agreed_at"`
	By       string      `json:"agreed_by"`
	Signed   []Signature `json:"signed"`
	Doc      Brief       `json:"doc"`
}

// BriefVersions lists the agreed versions of a brief, newest first.
func (s *Service) BriefVersions(ctx context.Context, code string) ([]BriefVersion, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	var rows []version
	// Index document_version_once.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT v.number, v.doc, v.signed, v.agreed_at, p.name AS by_name FROM document_version v JOIN person p ON p.id = v.agreed_by
		WHERE v.piece_id = ? AND v.kind = ? ORDER BY v.number DESC LIMIT 50`, p.ID, BriefKind); err != nil {
		return nil, err
	}
	list := make([]BriefVersion, len(rows))
	for i, r := range rows {
		list[i] = BriefVersion{Number: r.Number, AgreedAt: r.AgreedAt, By: r.By}
		if err := json.Unmarshal([]byte(r.Doc), &list[i].Doc); err != nil {
			return nil, err
		}
		list[i].Doc = list[i].Doc.whole()
		if err := json.Unmarshal([]byte(r.Signed), &list[i].Signed); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// AgreedBrief reads the newest agreed brief of a piece; false when there is
// none yet.
func AgreedBrief(ctx context.Context, db database.Reader, pieceID uint64) (Brief, bool, error) {
	v, err := readVersion(ctx, db, pieceID, BriefKind, 0)
	if errors.Is(err, sql.ErrNoRows) {
		return Brief{}, false, nil
	}
	if err != nil {
		return Brief{}, false, err
	}
	var b Brief
	err = json.Unmarshal([]byte(v.Doc), &b)
	return b.whole(), true, err
}

// SaveBrief writes the person's next draft step.
func (s *Service) SaveBrief(ctx context.Context, code string, doc Brief, base, step int) error {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return err
	}
	sheets, err := s.SheetsOf(ctx, p.PerformerID)
	if err != nil {
		return err
	}
	doc = doc.whole()
	if err := doc.check(sheets); err != nil {
		return err
	}
	if drawn, err := s.drawnCM2(doc, sheets); err != nil || drawn > 0 {
		if err != nil {
			return err
		}
		doc.AreaCM2 = drawn
	}
	raw, err := json.Marshal(doc)
	if err != nil {
		return err
	}
	if err := s.DB.InTx(ctx, func(tx database.Tx) error { return s.saveDraft(ctx, tx, p.ID, BriefKind, raw, base, step) }); err != nil {
		return err
	}
	s.Live.Tell("brief", code)
	return nil
}

// WalkBrief goes a step back or forward in the draft.
func (s *Service) WalkBrief(ctx context.Context, code string, by int) error {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return err
	}
	if err := s.walk(ctx, p.ID, BriefKind, by); err != nil {
		return err
	}
	s.Live.Tell("brief", code)
	return nil
}

// CarryBrief keeps the person's draft over a version agreed meanwhile.
func (s *Service) CarryBrief(ctx context.Context, code string, latest int) error {
	return s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		return s.carry(ctx, tx, p.ID, BriefKind, latest)
	})
}

// DropBrief throws the person's draft away.
func (s *Service) DropBrief(ctx context.Context, code string) error {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return err
	}
	return s.DB.InTx(ctx, func(tx database.Tx) error { return s.drop(ctx, tx, p.ID, BriefKind) })
}

// AgreeBrief makes the draft a version and sends the piece on to its form. A
// wish that is still open holds it back: it is to be decided first.
func (s *Service) AgreeBrief(ctx context.Context, code string, signed []Signature) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		doc, _, err := s.readBrief(ctx, tx, p)
		if err != nil {
			return err
		}
		if i := slices.IndexFunc(doc.Wishes, func(w Wish) bool { return w.State == "open" }); i >= 0 {
			return problem.Invalid("missing", "wishes", "Decide about “%.60s” first: agreed or declined, and by whom.", doc.Wishes[i].Text)
		}
		if i := slices.IndexFunc(doc.Wishes, func(w Wish) bool { return strings.TrimSpace(w.DecidedBy) == "" }); i >= 0 {
			return problem.Invalid("missing", "wishes", "Who decided about “%.60s”?", doc.Wishes[i].Text)
		}
		if _, err := s.agree(ctx, tx, p, BriefKind, signed); err != nil {
			return err
		}
		return Move(ctx, tx, p.ID, "form", true)
	})
	if err != nil {
		return err
	}
	s.Live.Tell("brief", code)
	s.Live.Tell("pieces", "")
	return nil
}
