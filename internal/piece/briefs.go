package piece

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

func (p Piece) brief() document.Ref { return document.OfPiece(BriefKind, p.ID) }

// ReadBrief reads the brief as the signed-in person sees it: their draft, else
// what was agreed, else where a brief begins.
func (s *Service) ReadBrief(ctx context.Context, db database.Reader, p Piece) (Brief, document.State, error) {
	raw, state, err := document.Read(ctx, db, p.brief())
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

// BriefVersion is an agreed brief.
type BriefVersion struct {
	Number   int                  `json:"number"`
	AgreedAt time.Time            `json:"agreed_at"`
	By       string               `json:"agreed_by"`
	Signed   []document.Signature `json:"signed"`
	Doc      Brief                `json:"doc"`
}

// BriefVersions lists the agreed versions of a brief, newest first.
func (s *Service) BriefVersions(ctx context.Context, code string) ([]BriefVersion, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	rows, err := document.Versions(ctx, s.DB, p.brief(), 50)
	if err != nil {
		return nil, err
	}
	list := make([]BriefVersion, len(rows))
	for i, r := range rows {
		list[i] = BriefVersion{Number: r.Number, AgreedAt: r.AgreedAt, By: r.By, Signed: r.Signed}
		if err := json.Unmarshal(r.Doc, &list[i].Doc); err != nil {
			return nil, err
		}
		list[i].Doc = list[i].Doc.whole()
	}
	return list, nil
}

// AgreedBrief reads the newest agreed brief of a piece; false when there is
// none yet.
func AgreedBrief(ctx context.Context, db database.Reader, pieceID uint64) (Brief, bool, error) {
	v, known, err := document.At(ctx, db, document.OfPiece(BriefKind, pieceID), 0)
	if err != nil || !known {
		return Brief{}, false, err
	}
	var b Brief
	err = json.Unmarshal(v.Doc, &b)
	return b.whole(), true, err
}

// SaveBrief writes the person's next draft step.
func (s *Service) SaveBrief(ctx context.Context, code string, doc Brief, base, step int) error {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return err
	}
	sheets, err := s.People.SheetsOf(ctx, s.DB, p.PerformerID)
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
	return s.briefAct(ctx, code, func(tx database.Tx, p Piece) error { return s.Documents.Save(ctx, tx, p.brief(), raw, base, step) })
}

// briefAct does one act on the person's draft of a brief.
func (s *Service) briefAct(ctx context.Context, code string, act func(database.Tx, Piece) error) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		return act(tx, p)
	})
	if err == nil {
		s.Live.Tell(ctx, "brief", code)
	}
	return err
}

// WalkBrief goes a step back or forward in the draft.
func (s *Service) WalkBrief(ctx context.Context, code string, by int) error {
	return s.briefAct(ctx, code, func(tx database.Tx, p Piece) error { return s.Documents.Walk(ctx, tx, p.brief(), by) })
}

// CarryBrief keeps the person's draft over a version agreed meanwhile.
func (s *Service) CarryBrief(ctx context.Context, code string, latest int) error {
	return s.briefAct(ctx, code, func(tx database.Tx, p Piece) error { return s.Documents.Carry(ctx, tx, p.brief(), latest) })
}

// DropBrief throws the person's draft away.
func (s *Service) DropBrief(ctx context.Context, code string) error {
	return s.briefAct(ctx, code, func(tx database.Tx, p Piece) error { return s.Documents.Drop(ctx, tx, p.brief()) })
}

// AgreeBrief makes the draft a version and sends the piece on to its form. A
// wish that is still open holds it back: it is to be decided first. judge looks
// at what is agreed inside the act, and gives the signatures that stay with it.
func (s *Service) AgreeBrief(ctx context.Context, code string, judge func(tx database.Tx, p Piece, doc Brief) ([]document.Signature, error)) error {
	err := s.briefAct(ctx, code, func(tx database.Tx, p Piece) error {
		_, err := s.Documents.Agree(ctx, tx, p.brief(), p.Code, func(raw json.RawMessage, _ document.State) ([]document.Signature, error) {
			var doc Brief
			if err := json.Unmarshal(raw, &doc); err != nil {
				return nil, err
			}
			doc = doc.whole()
			if i := slices.IndexFunc(doc.Wishes, func(w Wish) bool { return w.State == "open" }); i >= 0 {
				return nil, problem.Invalid("missing", "wishes", "Decide about “%.60s” first: agreed or declined, and by whom.", doc.Wishes[i].Text)
			}
			if i := slices.IndexFunc(doc.Wishes, func(w Wish) bool { return strings.TrimSpace(w.DecidedBy) == "" }); i >= 0 {
				return nil, problem.Invalid("missing", "wishes", "Who decided about “%.60s”?", doc.Wishes[i].Text)
			}
			if judge == nil {
				return nil, nil
			}
			return judge(tx, p, doc)
		})
		if err != nil {
			return err
		}
		return round.Forward(ctx, tx, p.ID, round.Form)
	})
	if err != nil {
		return err
	}
	s.Live.Tell(ctx, "pieces", "")
	return nil
}

// drawnCM2 is the skin under the areas that a brief draws; 0 when it draws none.
func (s *Service) drawnCM2(b Brief, sheets wearmap.Sheets) (float64, error) {
	if !slices.ContainsFunc(b.Marks, func(m wearmap.Mark) bool { return m.Kind == "region" }) {
		return 0, nil
	}
	return wearmap.Measure(b.Marks, sheets)
}
