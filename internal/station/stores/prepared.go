package stores

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// PutBy is a mix that is kept: prepared stock with its own use-by.
type PutBy struct {
	MixID    uint64
	Code     string // of the mix; the lot is called the same
	Material string
	Grams    float64
	UseBy    time.Time
	Shelf    string
	Batch    *Batch
}

// PutBy makes a lot of a mix, inside the act that ends the mix. It is worth what
// went into it.
func (s *Service) PutBy(ctx context.Context, tx database.Tx, p PutBy) error {
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	if materials[p.Material].Ratio != nil {
		return problem.Conflict("does_not_keep", "%s comes in two parts; mixed it does not keep.", materials[p.Material].Name)
	}
	var batch any
	if p.Batch != nil {
		raw, err := json.Marshal(p.Batch)
		if err != nil {
			return err
		}
		batch = string(raw)
	}
	now := s.Clock.Now()
	res, err := tx.ExecContext(ctx, `INSERT INTO lot (code, part, material_id, supplier, received_on, expires_on, opened_on, shelf, mix_id, use_by, batch) SELECT ?,'',id,'mixed here',?,?,?,?,?,?,? FROM material WHERE slug = ?`,
		p.Code, now.Format(time.DateOnly), p.UseBy.Format(time.DateOnly), now.Format(time.DateOnly), p.Shelf, p.MixID, p.UseBy, batch, p.Material)
	if database.IsDuplicate(err) {
		return problem.Conflict("taken", "%s was put by already.", p.Code)
	}
	if err != nil {
		return fmt.Errorf("putting the mix by: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return err
	}
	worth, err := s.worthOfMix(ctx, tx, p.MixID)
	if err != nil {
		return err
	}
	if _, err := s.move(ctx, tx, moved{lot: uint64(id), grams: p.Grams, reason: "put_by", minor: &worth}, p.Grams); err != nil {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "lot", Code: p.Code, Act: "put by", Words: fmt.Sprintf("%s of %s, use by %s", quantity.FormatMass(p.Grams), materials[p.Material].Name, p.UseBy.Format("2006-01-02 15:04"))})
	return err
}
