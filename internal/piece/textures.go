package piece

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"yewmoor/internal/craft/texture"
	"yewmoor/internal/platform/database"
)

// ReadTexture reads the texture plan as the signed-in person sees it: their
// draft, else what was agreed. ok is false where nobody has begun one.
func (s *Service) ReadTexture(ctx context.Context, p Piece) (doc texture.Recipe, state State, ok bool, err error) {
	raw, state, err := document(ctx, s.DB, p.ID, TextureKind)
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
	v, err := readVersion(ctx, db, pieceID, TextureKind, 0)
	if errors.Is(err, sql.ErrNoRows) {
		return doc, 0, nil
	}
	if err != nil {
		return doc, 0, err
	}
	return doc, v.Number, json.Unmarshal([]byte(v.Doc), &doc)
}

// TextureVersion reads an agreed texture plan by its number.
func (s *Service) TextureVersion(ctx context.Context, p Piece, number int) (texture.Recipe, error) {
	var doc texture.Recipe
	v, err := readVersion(ctx, s.DB, p.ID, TextureKind, number)
	if err != nil {
		return doc, err
	}
	return doc, json.Unmarshal([]byte(v.Doc), &doc)
}

// SaveTexture writes the person's next draft step; the caller has checked that
// the recipe can be made.
func (s *Service) SaveTexture(ctx context.Context, p Piece, doc texture.Recipe, base, step int) error {
	raw, err := json.Marshal(doc)
	if err != nil {
		return err
	}
	if err := s.DB.InTx(ctx, func(tx database.Tx) error { return s.saveDraft(ctx, tx, p.ID, TextureKind, raw, base, step) }); err != nil {
		return err
	}
	s.Live.Tell("texture", p.Code)
	return nil
}

// WalkTexture goes a step back or forward in the draft.
func (s *Service) WalkTexture(ctx context.Context, p Piece, by int) error {
	if err := s.walk(ctx, p.ID, TextureKind, by); err != nil {
		return err
	}
	s.Live.Tell("texture", p.Code)
	return nil
}

// CarryTexture keeps the person's draft over a version agreed meanwhile.
func (s *Service) CarryTexture(ctx context.Context, p Piece, latest int) error {
	return s.DB.InTx(ctx, func(tx database.Tx) error { return s.carry(ctx, tx, p.ID, TextureKind, latest) })
}

// DropTexture throws the person's draft away.
func (s *Service) DropTexture(ctx context.Context, p Piece) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error { return s.drop(ctx, tx, p.ID, TextureKind) })
	if err == nil {
		s.Live.Tell("texture", p.Code)
	}
	return err
}

// AgreeTexture makes the draft the version that hands work by.
func (s *Service) AgreeTexture(ctx context.Context, p Piece) error {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := s.agree(ctx, tx, p, TextureKind, nil); err != nil {
			return err
		}
		return Move(ctx, tx, p.ID, "sculpt", true)
	})
	if err == nil {
		s.Live.Tell("texture", p.Code)
		s.Live.Tell("pieces", "")
	}
	return err
}
