package piece

import (
	"context"
	"encoding/json"
	"fmt"

	"yewmoor/internal/craft/texture"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

func (p Piece) texture() document.Ref { return document.OfPiece(TextureKind, p.ID) }

// ReadTexture reads the texture plan as the signed-in person sees it: their
// draft, else what was agreed. ok is false where nobody has begun one.
func (s *Service) ReadTexture(ctx context.Context, p Piece) (doc texture.Recipe, state document.State, ok bool, err error) {
	raw, state, err := document.Read(ctx, s.DB, p.texture())
	if err != nil || raw == nil {
		return doc, state, false, err
	}
	if err := json.Unmarshal(raw, &doc); err != nil {
		return doc, state, false, fmt.Errorf("reading the texture plan of %s: %w", p.Code, err)
	}
	return doc, state, true, nil
}

// AgreedTexture reads the newest agreed texture plan and its number; 0 when
// none is agreed.
func AgreedTexture(ctx context.Context, db database.Reader, pieceID uint64) (texture.Recipe, int, error) {
	var doc texture.Recipe
	v, known, err := document.At(ctx, db, document.OfPiece(TextureKind, pieceID), 0)
	if err != nil || !known {
		return doc, 0, err
	}
	return doc, v.Number, json.Unmarshal(v.Doc, &doc)
}

// TextureVersion reads an agreed texture plan by its number.
func (s *Service) TextureVersion(ctx context.Context, p Piece, number int) (texture.Recipe, error) {
	var doc texture.Recipe
	v, known, err := document.At(ctx, s.DB, p.texture(), number)
	if err != nil {
		return doc, err
	}
	if !known {
		return doc, problem.NotFound("texture plan", fmt.Sprintf("%s §%d", p.Code, number))
	}
	return doc, json.Unmarshal(v.Doc, &doc)
}

// textureAct does one act on the person's draft of a texture plan.
func (s *Service) textureAct(ctx context.Context, p Piece, act func(database.Tx) error) error {
	err := s.DB.InTx(ctx, act)
	if err == nil {
		s.Live.Tell(ctx, "texture", p.Code)
	}
	return err
}

// SaveTexture writes the person's next draft step; the caller has checked that
// the recipe can be made.
func (s *Service) SaveTexture(ctx context.Context, p Piece, doc texture.Recipe, base, step int) error {
	raw, err := json.Marshal(doc)
	if err != nil {
		return err
	}
	return s.textureAct(ctx, p, func(tx database.Tx) error { return s.Documents.Save(ctx, tx, p.texture(), raw, base, step) })
}

// WalkTexture goes a step back or forward in the draft.
func (s *Service) WalkTexture(ctx context.Context, p Piece, by int) error {
	return s.textureAct(ctx, p, func(tx database.Tx) error { return s.Documents.Walk(ctx, tx, p.texture(), by) })
}

// CarryTexture keeps the person's draft over a version agreed meanwhile.
func (s *Service) CarryTexture(ctx context.Context, p Piece, latest int) error {
	return s.textureAct(ctx, p, func(tx database.Tx) error { return s.Documents.Carry(ctx, tx, p.texture(), latest) })
}

// DropTexture throws the person's draft away.
func (s *Service) DropTexture(ctx context.Context, p Piece) error {
	return s.textureAct(ctx, p, func(tx database.Tx) error { return s.Documents.Drop(ctx, tx, p.texture()) })
}

// AgreeTexture makes the draft the version that hands work by. judge looks at it
// inside the act.
func (s *Service) AgreeTexture(ctx context.Context, p Piece, judge func(texture.Recipe) error) error {
	err := s.textureAct(ctx, p, func(tx database.Tx) error {
		_, err := s.Documents.Agree(ctx, tx, p.texture(), p.Code, func(raw json.RawMessage, _ document.State) ([]document.Signature, error) {
			var doc texture.Recipe
			if err := json.Unmarshal(raw, &doc); err != nil {
				return nil, err
			}
			return nil, judge(doc)
		})
		if err != nil {
			return err
		}
		return round.Forward(ctx, tx, p.ID, round.Sculpt)
	})
	if err == nil {
		s.Live.Tell(ctx, "pieces", "")
	}
	return err
}
