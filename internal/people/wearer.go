package people

import (
	"context"
	"fmt"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// Wearer reads what the rules need of a performer, for something that is worn
// at a region of the body. Nobody means that nothing is known.
func (s *Service) Wearer(ctx context.Context, db database.Reader, performer *uint64, region string) (rules.Wearer, error) {
	w := rules.Wearer{Discreet: Discreet(ctx), Today: clock.DayNumber(s.Clock.Now())}
	if performer == nil {
		return w, nil
	}
	w.Known = true
	var err error
	if w.List, err = shelf.Substances(ctx, db); err != nil {
		return w, err
	}
	if w.Facts, err = FactsOf(ctx, db, Owner{"performer", *performer}); err != nil {
		return w, err
	}
	tests, err := patches(ctx, db, *performer)
	if err != nil {
		return w, err
	}
	for i := len(tests) - 1; i >= 0; i-- { // the oldest first
		t := tests[i]
		w.PatchTests = append(w.PatchTests, rules.PatchTest{Material: t.Slug, Result: t.Result, ExpiresDay: clock.DayNumber(t.ExpiresOn)})
		if t.Result == rules.PatchPositive {
			w.Facts = append(w.Facts, substance.Fact{Code: t.Slug, Status: substance.Reacted})
		}
	}
	if w.Reactions, err = reactions(ctx, db, *performer); err != nil {
		return w, err
	}
	if w.Minor, err = s.Minor(ctx, db, *performer, region); err != nil {
		return w, err
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
		w.Facts = append(w.Facts, substance.Fact{Code: "animal", Status: substance.Excludes})
	}
	w.SkinL, w.LimitG = body.SkinL, body.LimitG
	return w, nil
}

// reactions are the products that lay where a performer's skin reacted, by incidents open and closed. Index incident_wearer.
func reactions(ctx context.Context, db database.Reader, performer uint64) ([]rules.Reaction, error) {
	list := []rules.Reaction{}
	if err := db.SelectContext(ctx, &list, `SELECT m.slug AS material, m.name, DATE_FORMAT(MAX(i.opened_at), '%e %b %Y') AS `+"`on`"+` FROM incident i JOIN incident_material im ON im.incident_id = i.id
		JOIN material m ON m.id = im.material_id WHERE i.performer_id = ? GROUP BY m.slug, m.name ORDER BY m.slug`, performer); err != nil {
		return nil, fmt.Errorf("reading what skin reacted to: %w", err)
	}
	return list, nil
}

// Discreet says whether whoever asks may not know of anybody's health: an
// apprentice, and whoever comes by a link.
func Discreet(ctx context.Context) bool {
	who, known := accounts.From(ctx)
	return !known || who.Role == accounts.Apprentice
}
