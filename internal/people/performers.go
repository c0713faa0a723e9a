// Package people is who the work is for and who takes it over: performers with
// what is known of their skin and what they can bear, the forms fitted to them,
// and the shop's address book. It knows no piece.
package people

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of people.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Forms *Forms
	Worn  Worn
}

// Wearing is one day on which materials lay on a wearer's skin.
type Wearing struct {
	Day       time.Time
	Materials []string // slugs
}

// Worn tells what lay on a performer's skin so far; wired to the pieces.
type Worn interface {
	OnSkin(ctx context.Context, performer uint64) ([]Wearing, error)
}

// Performer is the wearer as the shop knows them.
type Performer struct {
	ID             uint64 `db:"id" json:"id"`
	Name           string `db:"name" json:"name"`
	ExcludesAnimal bool   `db:"excludes_animal" json:"excludes_animal"`
	Keeps          string `db:"keeps" json:"keeps" doc:"beard or hair that stays"`
	Minority
	Health    []HealthFact `db:"-" json:"health"`
	Patches   []Patch      `db:"-" json:"patch_tests"`
	Limits    []Limit      `db:"-" json:"limits"`
	Consents  []Consent    `db:"-" json:"consents"`
	Exposures []Exposure   `db:"-" json:"exposures"`
	// Reactions are what lay where their skin reacted.
	Reactions []rules.Reaction `db:"-" json:"reactions"`
}

// Limit is what a wearer can bear; it can be erased.
type Limit struct {
	Kind string `db:"kind" json:"kind" enum:"sight,hearing,breathing,mouth,hours,mass,heat"`
	// Amount is in hours, grams, or °C of wet-bulb globe temperature; none
	// where nothing at all may be taken.
	Amount *float64 `db:"amount" json:"amount,omitempty"`
	Note   string   `db:"note" json:"note"`
}

// Minority is what is kept of a performer under age; all empty for others.
type Minority struct {
	OfAgeOn   *time.Time `db:"of_age_on" json:"of_age_on,omitempty" doc:"the day on which they come of age by the local law; until then they are under age"`
	Guardian  string     `db:"guardian" json:"guardian"`
	Chaperone string     `db:"chaperone" json:"chaperone"`
	LawHours  *float64   `db:"law_hours" json:"law_hours,omitempty" doc:"of work that the local law allows on a day"`
}

// under says whether somebody is under age on a day.
func (m Minority) under(now time.Time) bool { return m.OfAgeOn != nil && m.OfAgeOn.After(now) }

// Consent is what a wearer agreed to. Withdrawn, it stays in the list as such.
type Consent struct {
	ID          uint64     `db:"id" json:"id"`
	What        string     `db:"what" json:"what" enum:"touch and glue,life cast,photographs,showing pictures,health record"`
	GivenOn     time.Time  `db:"given_on" json:"given_on"`
	UntilOn     *time.Time `db:"until_on" json:"until_on,omitempty"`
	WithdrawnOn *time.Time `db:"withdrawn_on" json:"withdrawn_on,omitempty"`
	Note        string     `db:"note" json:"note"`
	GivenBy     string     `db:"given_by" json:"given_by" doc:"the guardian, of a performer under age"`
}

// Exposure counts on how many days a material lay on this wearer's skin, from
// the kits that were handed over and the patch tests.
type Exposure struct {
	Material string    `json:"material"`
	Name     string    `json:"material_name"`
	Days     int       `json:"days"`
	Tests    int       `json:"patch_tests"`
	Last     time.Time `json:"last"`
}

// Performer reads one performer with what is known of their skin.
func (s *Service) Performer(ctx context.Context, id uint64) (Performer, error) {
	p := Performer{Health: []HealthFact{}, Patches: []Patch{}, Limits: []Limit{}, Consents: []Consent{}, Exposures: []Exposure{}}
	err := s.DB.GetContext(ctx, &p, `SELECT id, name, excludes_animal, keeps, of_age_on, guardian, chaperone, law_hours FROM performer WHERE id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return p, problem.NotFound("performer", fmt.Sprint(id))
	}
	if err != nil {
		return p, err
	}
	if p.Health, err = s.Sensitivities(ctx, Owner{"performer", id}); err != nil {
		return p, err
	}
	if p.Patches, err = patches(ctx, s.DB, id); err != nil {
		return p, err
	}
	if p.Limits, err = Limits(ctx, s.DB, id); err != nil {
		return p, err
	}
	if err := s.DB.SelectContext(ctx, &p.Consents, `SELECT id, what, given_on, until_on, withdrawn_on, note, given_by FROM performer_consent WHERE performer_id = ? ORDER BY given_on DESC, id DESC`, id); err != nil {
		return p, err
	}
	if p.Reactions, err = reactions(ctx, s.DB, id); err != nil {
		return p, err
	}
	p.Exposures, err = s.exposures(ctx, id, p.Patches)
	return p, err
}

// Limits reads what a wearer can bear.
func Limits(ctx context.Context, db database.Reader, id uint64) ([]Limit, error) {
	list := []Limit{}
	err := db.SelectContext(ctx, &list, `SELECT kind, amount, note FROM performer_limit WHERE performer_id = ? ORDER BY kind`, id)
	return list, err
}

// oneLook is how long readings of the same facts on the same sign-in count as
// one look: a screen that is open reads again whenever something changes.
const oneLook = 10 * time.Minute

// SeePerformer reads one performer and records who saw the facts of their
// health, and on which device.
func (s *Service) SeePerformer(ctx context.Context, id uint64) (Performer, error) {
	p, err := s.Performer(ctx, id)
	if err != nil || len(p.Health)+len(p.Patches)+len(p.Limits) == 0 {
		return p, err
	}
	who, _ := accounts.From(ctx)
	return p, s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		var seen int
		// Index journal_person.
		if err := tx.GetContext(ctx, &seen, `SELECT COUNT(*) FROM journal WHERE person_id = ? AND at > ? AND kind = 'performer' AND code = ? AND act = 'health facts seen' AND device = ?`,
			who.ID, now.Add(-oneLook), fmt.Sprint(id), accounts.VisitOf(ctx).Device); err != nil || seen > 0 {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Kind: "performer", Code: fmt.Sprint(id), Act: "health facts seen"})
		return err
	})
}

// SetPerformer changes what is not health: exclusions and what stays.
func (s *Service) SetPerformer(ctx context.Context, id uint64, excludesAnimal bool, keeps string) (Performer, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE performer SET excludes_animal = ?, keeps = ? WHERE id = ?`, excludesAnimal, keeps, id); err != nil {
			return err
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(id), Act: "limits changed"})
		return err
	})
	if err != nil {
		return Performer{}, err
	}
	s.Live.Tell(ctx, "section", "")
	return s.Performer(ctx, id)
}
