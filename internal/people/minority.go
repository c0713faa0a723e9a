package people

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

func minority(ctx context.Context, db database.Reader, performer uint64) (Minority, error) {
	var m Minority
	err := db.GetContext(ctx, &m, `SELECT of_age_on, guardian, chaperone, law_hours FROM performer WHERE id = ?`, performer)
	return m, err
}

// NewMinority says that a performer is under age, or no longer is.
type NewMinority struct {
	OfAgeOn   string  `json:"of_age_on,omitempty" maxLength:"10" doc:"day on which they come of age; empty for a grown person"`
	Guardian  string  `json:"guardian,omitempty" maxLength:"120"`
	Chaperone string  `json:"chaperone,omitempty" maxLength:"120"`
	LawHours  float64 `json:"law_hours,omitempty" minimum:"0" maximum:"24"`
}

// SetMinority keeps what is needed of a performer under age.
func (s *Service) SetMinority(ctx context.Context, id uint64, in NewMinority) (Performer, error) {
	var day *time.Time
	if in.OfAgeOn != "" {
		d, err := clock.ParseDay(in.OfAgeOn, "of_age_on")
		if err != nil {
			return Performer{}, err
		}
		if d.After(s.Clock.Now().AddDate(30, 0, 0)) {
			return Performer{}, problem.Invalid("out_of_range", "of_age_on", "Nobody is under age for thirty years more.")
		}
		day = &d
	}
	return s.performerAct(ctx, id, "age recorded", func(tx database.Tx) error {
		_, err := tx.ExecContext(ctx, `UPDATE performer SET of_age_on = ?, guardian = ?, chaperone = ?, law_hours = NULLIF(?, 0) WHERE id = ?`, day, strings.TrimSpace(in.Guardian), strings.TrimSpace(in.Chaperone), in.LawHours, id)
		return err
	})
}

// Minor is what the rules need of a performer under age; nil for others.
func (s *Service) Minor(ctx context.Context, db database.Reader, performer uint64, region string) (*rules.Minor, error) {
	m, err := minority(ctx, db, performer)
	if err != nil || !m.under(s.Clock.Now()) {
		return nil, err
	}
	out := &rules.Minor{Chaperone: m.Chaperone != ""}
	if m.LawHours != nil {
		out.LawHours = *m.LawHours
	}
	today := s.Clock.Now()
	if err := db.GetContext(ctx, &out.Consent, `SELECT COUNT(*) > 0 FROM performer_consent WHERE performer_id = ? AND what = 'touch and glue' AND given_by <> '' AND withdrawn_on IS NULL AND (until_on IS NULL OR until_on >= DATE(?))`, performer, today); err != nil {
		return nil, fmt.Errorf("reading consents: %w", err)
	}
	measures, err := Measures(ctx, db, &performer)
	if err != nil {
		return nil, err
	}
	part := form.PartOf(form.SheetFor(region, "L"))
	cast, err := ownCast(ctx, db, performer, part)
	if err != nil || cast {
		return out, err
	}
	for _, f := range form.Measures() {
		if _, here := measures[f.Name]; !here && f.Part == part {
			out.Unmeasured = append(out.Unmeasured, f.Text)
		}
	}
	return out, nil
}

// ownCast says whether a cast of this part of a performer stands in the shop: what is
// built on it is measured by it.
func ownCast(ctx context.Context, db database.Reader, performer uint64, part string) (bool, error) {
	var regions []string
	if err := db.SelectContext(ctx, &regions, `SELECT region FROM form WHERE performer_id = ?`, performer); err != nil {
		return false, fmt.Errorf("reading whose casts there are: %w", err)
	}
	return slices.ContainsFunc(regions, func(r string) bool { return form.PartOf(form.SheetFor(r, "L")) == part }), nil
}
