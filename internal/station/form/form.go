// Package form is the room of life casts, cores and stands: which form a piece
// is built on, whose it is and where it stands; how it was taken; and the scans
// of forms and sculpts, with what is computed of them.
package form

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/journal"
	"yewmoor/internal/paper"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/jobs"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
)

// Service does the use cases of the form room.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Files *files.Store
	// People knows whose body a life cast is taken of.
	People *people.Service
	// Uploads take scans in pieces; Jobs compute what follows from them.
	Uploads *files.Uploads
	Jobs    *jobs.Service
	// PublicURL is where the codes on tags lead.
	PublicURL string
}

// Kinds of forms.
var Kinds = []string{"life cast", "general form", "core", "stand"}

// Fits are how near a form has to be to a piece: a nose must line up with its
// nostrils, a chin fits nearly anyone.
var Fits = []string{"own cast", "general form", "anything of that shape"}

// Form is one life cast, core or stand.
type Form struct {
	Code      string    `db:"code" json:"code"`
	Performer *string   `db:"performer" json:"performer,omitempty"`
	Kind      string    `db:"kind" json:"kind" enum:"life cast,general form,core,stand"`
	Region    string    `db:"region" json:"region"`
	Material  string    `db:"material" json:"material"`
	Place     string    `db:"place" json:"place"`
	State     string    `db:"state" json:"state"`
	MadeOn    time.Time `db:"made_on" json:"made_on"`
	TakenHow  string    `db:"taken_how" json:"taken_how"`
	Moulds    *string   `db:"moulds" json:"moulds,omitempty" doc:"codes of the moulds that it is the core of"`
	Pieces    *string   `db:"pieces" json:"pieces,omitempty" doc:"codes of the pieces that are built on it"`
	Scans     int       `db:"scans" json:"scans"`
	Version   int       `db:"version" json:"version"`
}

// NewForm is a form as it is entered.
type NewForm struct {
	Performer string `json:"performer,omitempty" maxLength:"120" doc:"empty for a general form or stand"`
	Kind      string `json:"kind,omitempty" enum:",life cast,general form,core,stand" doc:"a life cast when left out"`
	TakenHow  string `json:"taken_how,omitempty" maxLength:"300" doc:"how it was taken or made"`
	Region    string `json:"region"`
	Material  string `json:"material" maxLength:"80"`
	Place     string `json:"place" maxLength:"80"`
	State     string `json:"state,omitempty" maxLength:"120"`
	MadeOn    string `json:"made_on" format:"date"`
}

// List reads every form.
func (s *Service) List(ctx context.Context) ([]Form, error) {
	list := []Form{}
	err := s.DB.SelectContext(ctx, &list, `SELECT f.code, p.name AS performer, f.kind, f.region, f.material, f.place, f.state, f.made_on, f.taken_how, f.version,
		(SELECT GROUP_CONCAT(m.code ORDER BY m.code SEPARATOR ', ') FROM mould m WHERE m.form_id = f.id) AS moulds,
		(SELECT GROUP_CONCAT(q.code ORDER BY q.code SEPARATOR ', ') FROM piece_form b JOIN piece q ON q.id = b.piece_id WHERE b.form_id = f.id) AS pieces,
		(SELECT COUNT(*) FROM scan c WHERE c.form_id = f.id AND c.aside_at IS NULL) AS scans
		FROM form f LEFT JOIN performer p ON p.id = f.performer_id ORDER BY f.code`)
	return list, err
}

// Add registers a form and gives it its code.
func (s *Service) Add(ctx context.Context, in NewForm) (Form, error) {
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) (err error) {
		code, err = s.add(ctx, tx, in)
		return err
	})
	if err != nil {
		return Form{}, err
	}
	s.Live.Tell(ctx, "forms", code)
	return s.Find(ctx, code)
}

// add registers a form within an act and gives its code.
func (s *Service) add(ctx context.Context, tx database.Tx, in NewForm) (string, error) {
	if _, known := region.Find(in.Region); !known {
		return "", problem.Invalid("unknown_value", "region", "Choose what the form shows.")
	}
	if strings.TrimSpace(in.Material) == "" {
		return "", problem.Invalid("missing", "material", "What is it made of? For example hard stone.")
	}
	made, err := clock.ParseDay(in.MadeOn, "made_on")
	if err != nil {
		return "", err
	}
	if in.Kind == "" {
		in.Kind = Kinds[0]
	}
	number, err := database.NextNumber(ctx, tx, "form")
	if err != nil {
		return "", err
	}
	code := fmt.Sprintf("F-%03d", number)
	if in.Performer != "" {
		var known int
		if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM performer WHERE name = ?`, in.Performer); err != nil {
			return "", err
		}
		if known == 0 {
			return "", problem.Invalid("unknown_value", "performer", "Nobody of this name is known.")
		}
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO form (code, performer_id, kind, region, material, place, state, made_on, taken_how) VALUES (?, (SELECT id FROM performer WHERE name = ?), ?, ?, ?, ?, ?, ?, ?)`,
		code, in.Performer, in.Kind, in.Region, in.Material, in.Place, in.State, made, in.TakenHow); err != nil {
		return "", fmt.Errorf("registering the form: %w", err)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "form", Code: code, Act: "registered", Words: in.Material + ", " + in.Region})
	return code, err
}

// label is the tag that is tied to a form; its code leads to its page.
func (s *Service) label(f Form) paper.Label {
	l := paper.Label{Code: f.Code, Title: f.Kind + ", " + f.Region, Day: f.Material + ", made " + f.MadeOn.Format("2 Jan 2006"), Link: strings.TrimRight(s.PublicURL, "/") + "/form/" + f.Code}
	if f.Performer != nil {
		l.Title = *f.Performer + ", " + f.Region
	}
	for _, t := range []string{f.TakenHow, f.Place} {
		if t != "" {
			l.Lines = append(l.Lines, t)
		}
	}
	return l
}

// Find reads one form.
func (s *Service) Find(ctx context.Context, code string) (Form, error) {
	list, err := s.List(ctx)
	if err != nil {
		return Form{}, err
	}
	for _, f := range list {
		if f.Code == code {
			return f, nil
		}
	}
	return Form{}, problem.NotFound("form", code)
}

// Condition is how a form is now.
type Condition struct {
	Place    string `json:"place" maxLength:"80"`
	State    string `json:"state" maxLength:"120" doc:"its condition"`
	TakenHow string `json:"taken_how" maxLength:"300"`
	Version  int    `json:"version"`
}

// SetCondition writes down where a form stands and how it is.
func (s *Service) SetCondition(ctx context.Context, code string, in Condition) (Form, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE form SET place = ?, state = ?, taken_how = ?, version = version + 1 WHERE code = ? AND version = ?`, in.Place, in.State, in.TakenHow, code, in.Version))
		if err != nil {
			return err
		}
		if !changed {
			if _, err := s.Find(ctx, code); err != nil {
				return err
			}
			return problem.Conflict("moved_on", "Somebody else wrote about %s meanwhile; look again. Nothing of yours was written over it.", code)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "form", Code: code, Act: "condition", Words: strings.Trim(in.Place+", "+in.State, ", ")})
		return err
	})
	if err != nil {
		return Form{}, err
	}
	s.Live.Tell(ctx, "forms", code)
	return s.Find(ctx, code)
}

// BuiltOn is which form a piece is built on.
type BuiltOn struct {
	Piece string  `db:"piece" json:"piece"`
	Form  *string `db:"form" json:"form,omitempty"`
	Fit   string  `db:"fit" json:"fit" enum:"own cast,general form,anything of that shape"`
	Note  string  `db:"note" json:"note" maxLength:"300" doc:"after it was tried on"`
	// Fits says what is wrong with the choice; empty when it fits.
	Wrong string `db:"-" json:"wrong"`
}

// On says which form a piece is built on; the usual need when nobody chose.
func (s *Service) On(ctx context.Context, code string) (BuiltOn, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return BuiltOn{}, err
	}
	out := BuiltOn{Piece: code, Fit: usualFit(p.Region)}
	var rows []struct {
		BuiltOn
		Whose   *uint64 `db:"performer_id"`
		OfParts string  `db:"region"`
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT q.code AS piece, f.code AS form, b.fit, b.note, f.performer_id, COALESCE(f.region, '') AS region FROM piece_form b JOIN piece q ON q.id = b.piece_id LEFT JOIN form f ON f.id = b.form_id WHERE b.piece_id = ?`, p.ID); err != nil {
		return out, err
	}
	if len(rows) == 0 {
		out.Wrong = "No form is chosen yet."
		return out, nil
	}
	out = rows[0].BuiltOn
	switch {
	case out.Form == nil:
		out.Wrong = "No form is chosen yet."
	case out.Fit == "own cast" && (rows[0].Whose == nil || p.PerformerID == nil || *rows[0].Whose != *p.PerformerID):
		out.Wrong = fmt.Sprintf("%s is not the wearer's own cast, and this piece needs that.", *out.Form)
	}
	return out, nil
}

// usualFit is how near a form of a region has to be when nobody said: what must
// line up with openings needs the wearer's own.
func usualFit(name string) string {
	switch name {
	case "nose", "lip", "mouth_corner", "eye_hollow", "brow", "face", "ear", "finger":
		return "own cast"
	case "chin", "jaw", "cheek", "forehead", "temple":
		return "general form"
	}
	return "anything of that shape"
}

// Choose says which form a piece is built on.
func (s *Service) Choose(ctx context.Context, code string, in BuiltOn) (BuiltOn, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		var form *uint64
		if in.Form != nil && *in.Form != "" {
			form = new(uint64)
			if err := tx.GetContext(ctx, form, `SELECT id FROM form WHERE code = ?`, *in.Form); err != nil {
				return problem.Invalid("unknown_value", "form", "There is no form %s.", *in.Form)
			}
		}
		who, _ := accounts.From(ctx)
		if _, err := tx.ExecContext(ctx, `INSERT INTO piece_form (piece_id, form_id, fit, note, chosen_at, chosen_by) VALUES (?,?,?,?,?,?) ON DUPLICATE KEY UPDATE form_id = VALUES(form_id), fit = VALUES(fit), note = VALUES(note), chosen_at = VALUES(chosen_at), chosen_by = VALUES(chosen_by)`,
			p.ID, form, in.Fit, strings.TrimSpace(in.Note), s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("choosing the form: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "form", Code: deref(in.Form), Act: "built on", Words: in.Fit + strings.TrimRight(": "+in.Note, ": ")})
		return err
	})
	if err != nil {
		return BuiltOn{}, err
	}
	s.Live.Tell(ctx, "forms", code)
	return s.On(ctx, code)
}
