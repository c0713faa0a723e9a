package people

import (
	"context"
	"fmt"
	"time"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
)

// Wearer reads what the rules need of a performer, for something that is worn
// at a region of the body. Nobody means that nothing is known.
func (s *Service) Wearer(ctx context.Context, db database.Reader, performer *uint64, region string) (rules.Wearer, error) {
	w := rules.Wearer{Discreet: Discreet(ctx), Sensitivities: map[string]string{}, Today: clock.DayNumber(s.Clock.Now())}
	if performer == nil {
		return w, nil
	}
	w.Known = true
	var facts []struct{ Substance, Status string }
	if err := db.SelectContext(ctx, &facts, `SELECT substance, status FROM health_fact WHERE performer_id = ?`, *performer); err != nil {
		return w, fmt.Errorf("reading sensitivities: %w", err)
	}
	for _, f := range facts {
		w.Sensitivities[f.Substance] = f.Status
	}
	var tests []struct {
		Slug, Result string
		Expires      time.Time `db:"expires_on"`
	}
	if err := db.SelectContext(ctx, &tests, `SELECT m.slug, t.result, t.expires_on FROM patch_test t JOIN material m ON m.id = t.material_id WHERE t.performer_id = ? ORDER BY t.id`, *performer); err != nil {
		return w, fmt.Errorf("reading patch tests: %w", err)
	}
	for _, t := range tests {
		w.PatchTests = append(w.PatchTests, rules.PatchTest{Material: t.Slug, Result: t.Result, ExpiresDay: clock.DayNumber(t.Expires)})
	}
	// The lightness of the skin where it goes, and the mass that can be borne;
	// 0 for what is not recorded.
	var body struct {
		Animal bool
		SkinL  float64 `db:"skin_l"`
		LimitG float64 `db:"limit_g"`
	}
	if err := db.GetContext(ctx, &body, `SELECT p.excludes_animal AS animal, COALESCE((SELECT lab_l FROM skin_reading WHERE performer_id = p.id ORDER BY region = ? DESC, id DESC LIMIT 1), 0) AS skin_l,
		COALESCE((SELECT amount FROM performer_limit WHERE performer_id = p.id AND kind = 'mass'), 0) AS limit_g FROM performer p WHERE p.id = ?`, region, *performer); err != nil {
		return w, fmt.Errorf("reading what a wearer can bear: %w", err)
	}
	if body.Animal {
		w.Excludes = append(w.Excludes, "animal")
	}
	w.SkinL, w.LimitG = body.SkinL, body.LimitG
	return w, nil
}

// Discreet says whether whoever asks may not know of anybody's health: an
// apprentice, and whoever comes by a link.
func Discreet(ctx context.Context) bool {
	who, known := accounts.From(ctx)
	return !known || who.Role == accounts.Apprentice
}
