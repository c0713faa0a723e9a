package brief

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Seen says who saw a feature on the piece, and when.
type Seen struct {
	By string    `json:"by"`
	At time.Time `json:"at"`
	// On is where on a picture of the copy, where somebody pointed at it.
	On *Place `json:"on,omitempty"`
}

func (s *Service) seen(ctx context.Context, db database.Reader, id uint64) (map[string]Seen, error) {
	var rows []struct {
		Feature, By string
		At          time.Time
	}
	if err := db.SelectContext(ctx, &rows, "SELECT f.feature, COALESCE(p.name, '') AS `by`, f.seen_at AS at FROM feature_seen f LEFT JOIN person p ON p.id = f.person_id WHERE f.piece_id = ?", id); err != nil {
		return nil, fmt.Errorf("reading the features: %w", err)
	}
	out := map[string]Seen{}
	for _, r := range rows {
		out[r.Feature] = Seen{By: r.By, At: r.At}
	}
	return out, nil
}

// seenOn says who saw which feature on one copy.
func seenOn(ctx context.Context, db database.Reader, copyID uint64) (map[string]Seen, error) {
	var rows []struct {
		Feature, By string
		At          time.Time
		SHA256      *string `db:"sha256"`
		X, Y        *float64
	}
	if err := db.SelectContext(ctx, &rows, "SELECT f.feature, COALESCE(p.name, '') AS `by`, f.seen_at AS at, d.sha256, f.x, f.y FROM copy_feature f LEFT JOIN person p ON p.id = f.person_id LEFT JOIN file d ON d.id = f.file_id WHERE f.copy_id = ?", copyID); err != nil {
		return nil, fmt.Errorf("reading the features of a copy: %w", err)
	}
	out := map[string]Seen{}
	for _, r := range rows {
		one := Seen{By: r.By, At: r.At}
		if r.SHA256 != nil && r.X != nil && r.Y != nil {
			one.On = &Place{*r.SHA256, *r.X, *r.Y}
		}
		out[r.Feature] = one
	}
	return out, nil
}

// OnCopy is a feature or an agreed wish of the brief as it was looked for on one copy.
type OnCopy struct {
	ID   string `json:"id"`
	Text string `json:"text"`
	Must bool   `json:"must" doc:"a feature, without which the copy is not accepted; a wish is no must"`
	Seen *Seen  `json:"seen,omitempty"`
}

// Place is where something is seen on a picture, as shares of its width and height.
type Place struct {
	SHA256 string  `json:"sha256" minLength:"64" maxLength:"64"`
	X      float64 `json:"x" minimum:"0" maximum:"1"`
	Y      float64 `json:"y" minimum:"0" maximum:"1"`
}

// lookedFor are the features of a brief, and the wishes that were agreed.
func lookedFor(doc piece.Brief) []OnCopy {
	list := []OnCopy{}
	for _, f := range doc.Features {
		list = append(list, OnCopy{ID: f.ID, Text: f.Text, Must: true})
	}
	for _, w := range doc.Wishes {
		if w.State == "agreed" {
			list = append(list, OnCopy{ID: "wish-" + w.ID, Text: w.Text})
		}
	}
	return list
}

// OfCopy lists the features of the agreed brief with who saw each on a copy.
func (s *Service) OfCopy(ctx context.Context, code string) ([]OnCopy, error) {
	c, err := copies.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	list := []OnCopy{}
	doc, agreed, err := piece.AgreedBrief(ctx, s.DB, c.PieceID)
	if err != nil || !agreed {
		return list, err
	}
	seen, err := seenOn(ctx, s.DB, c.ID)
	if err != nil {
		return nil, err
	}
	for _, on := range lookedFor(doc) {
		if by, there := seen[on.ID]; there {
			on.Seen = &by
		}
		list = append(list, on)
	}
	return list, nil
}

// SeeOn says that a feature is on one copy, and where on its picture; or that it is not
// after all.
func (s *Service) SeeOn(ctx context.Context, code, feature string, there bool, at *Place) ([]OnCopy, error) {
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Lock(ctx, tx, code)
		if err != nil {
			return err
		}
		doc, _, err := piece.AgreedBrief(ctx, tx, c.PieceID)
		if err != nil {
			return err
		}
		list := lookedFor(doc)
		i := slices.IndexFunc(list, func(f OnCopy) bool { return f.ID == feature })
		if i < 0 {
			return problem.NotFound("feature", feature)
		}
		now, act := s.Clock.Now(), "feature seen"
		if there {
			_, err = tx.ExecContext(ctx, `INSERT IGNORE INTO copy_feature (copy_id, feature, seen_at, person_id) VALUES (?,?,?,NULLIF(?,0))`, c.ID, feature, now, who.ID)
			if err == nil && at != nil {
				err = placed(ctx, tx, c.ID, feature, *at)
			}
		} else {
			act = "feature not there"
			_, err = tx.ExecContext(ctx, `DELETE FROM copy_feature WHERE copy_id = ? AND feature = ?`, c.ID, feature)
		}
		if err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code, Act: act, Words: list[i].Text})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "copies", code)
	return s.OfCopy(ctx, code)
}

// placed keeps where on a picture a feature is seen.
func placed(ctx context.Context, tx database.Tx, copyID uint64, feature string, at Place) error {
	var file []uint64
	if err := tx.SelectContext(ctx, &file, `SELECT x.file_id FROM copy_picture x JOIN file f ON f.id = x.file_id WHERE x.copy_id = ? AND f.sha256 = ? LIMIT 1`, copyID, at.SHA256); err != nil {
		return err
	}
	if len(file) == 0 {
		return problem.Invalid("unknown_value", "at", "That picture does not show this copy.")
	}
	_, err := tx.ExecContext(ctx, `UPDATE copy_feature SET file_id = ?, x = ?, y = ? WHERE copy_id = ? AND feature = ?`, file[0], at.X, at.Y, copyID, feature)
	return err
}

// Missing names the features of the agreed brief that nobody saw on a copy yet.
// Check asks for them before it accepts it.
func (s *Service) Missing(ctx context.Context, db database.Reader, pieceID, copyID uint64) ([]string, error) {
	doc, agreed, err := piece.AgreedBrief(ctx, db, pieceID)
	if err != nil || !agreed {
		return nil, err
	}
	seen, err := seenOn(ctx, db, copyID)
	if err != nil {
		return nil, err
	}
	var missing []string
	for _, f := range doc.Features {
		if _, ok := seen[f.ID]; !ok {
			missing = append(missing, f.Text)
		}
	}
	return missing, nil
}

// See says that a feature is on the piece, or that it is not after all.
func (s *Service) See(ctx context.Context, code, feature string, there bool) (View, error) {
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		doc, _, err := s.Pieces.ReadBrief(ctx, s.DB, p)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(doc.Features, func(f piece.Feature) bool { return f.ID == feature })
		if i < 0 {
			return problem.NotFound("feature", feature)
		}
		now := s.Clock.Now()
		act := "feature seen"
		if there {
			_, err = tx.ExecContext(ctx, `INSERT IGNORE INTO feature_seen (piece_id, feature, seen_at, person_id) VALUES (?,?,?,NULLIF(?,0))`, p.ID, feature, now, who.ID)
		} else {
			act = "feature not there"
			_, err = tx.ExecContext(ctx, `DELETE FROM feature_seen WHERE piece_id = ? AND feature = ?`, p.ID, feature)
		}
		if err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: act, Words: doc.Features[i].Text})
		return err
	})
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "brief", code)
	return s.View(ctx, code, "")
}

// Actual is what a step really took, or what was really paid.
type Actual struct {
	ID      uint64    `db:"id" json:"id"`
	Kind    string    `db:"kind" json:"kind" enum:"hours,money"`
	Subject string    `db:"subject" json:"subject" doc:"the step or the item of the brief, by its id"`
	Amount  float64   `db:"amount" json:"amount" doc:"hours, or hundredths of the shop's money"`
	Note    string    `db:"note" json:"note"`
	By      string    `db:"by_name" json:"by"`
	At      time.Time `db:"at" json:"at"`
}

func (s *Service) actuals(ctx context.Context, id uint64) ([]Actual, error) {
	list := []Actual{}
	err := s.DB.SelectContext(ctx, &list, `SELECT a.id, a.kind, a.subject, a.amount, a.note, COALESCE(p.name, '') AS by_name, a.at FROM piece_actual a LEFT JOIN person p ON p.id = a.person_id WHERE a.piece_id = ? ORDER BY a.id`, id)
	return list, err
}

// NewActual is one as it is written down.
type NewActual struct {
	Kind    string  `json:"kind" enum:"hours,money"`
	Subject string  `json:"subject" maxLength:"40"`
	Amount  float64 `json:"amount" minimum:"-100000000" maximum:"100000000" doc:"hours, or hundredths of money; a negative one takes an earlier back"`
	Note    string  `json:"note" maxLength:"200"`
	Key     string  `json:"key" format:"uuid" doc:"sent again with the same key it counts once"`
}

// Spend writes down hours or money that were really spent.
func (s *Service) Spend(ctx context.Context, code string, in NewActual) (View, error) {
	who, _ := accounts.From(ctx)
	if in.Amount == 0 {
		return View{}, problem.Invalid("missing", "amount", "How much was it?")
	}
	if in.Kind == "hours" && (in.Amount > 500 || in.Amount < -500) {
		return View{}, problem.Invalid("out_of_range", "amount", "%g hours at once cannot be meant.", in.Amount)
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		doc, _, err := s.Pieces.ReadBrief(ctx, s.DB, p)
		if err != nil {
			return err
		}
		name := ""
		for _, st := range doc.Steps {
			if in.Kind == "hours" && st.ID == in.Subject {
				name = st.Text
			}
		}
		for _, it := range doc.Budget {
			if in.Kind == "money" && it.ID == in.Subject {
				name = it.Text
			}
		}
		if name == "" {
			return problem.Invalid("unknown_value", "subject", "The brief has no such step or item.")
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO piece_actual (piece_id, kind, subject, amount, note, at, person_id, key_once) VALUES (?,?,?,?,?,?,NULLIF(?,0),?)`,
			p.ID, in.Kind, in.Subject, in.Amount, strings.TrimSpace(in.Note), now, who.ID, in.Key); err != nil {
			return err
		}
		words := fmt.Sprintf("%s: %g h", name, in.Amount)
		if in.Kind == "money" {
			words = fmt.Sprintf("%s: %.2f", name, in.Amount/100)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: in.Kind + " spent", Words: words})
		return err
	})
	if database.IsDuplicate(err) {
		err = nil // the same word sent again after a lost answer
	}
	if err != nil {
		return View{}, err
	}
	s.Live.Tell(ctx, "brief", code)
	return s.View(ctx, code, "")
}
