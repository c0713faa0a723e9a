package handover

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// NewLinkAnswer is a fresh link: the only time its token is seen.
type NewLinkAnswer struct {
	URL       string    `json:"url"`
	Token     string    `json:"token"`
	ExpiresAt time.Time `json:"expires_at"`
}

// MakeLink makes a link to a kit's page that works for some days. Only the
// token's hash is stored.
func (s *Service) MakeLink(ctx context.Context, code string, days int) (NewLinkAnswer, error) {
	raw := make([]byte, 24)
	if _, err := rand.Read(raw); err != nil {
		return NewLinkAnswer{}, err
	}
	token := base64.RawURLEncoding.EncodeToString(raw)
	who, _ := accounts.From(ctx)
	expires := s.Real().UTC().Add(time.Duration(days) * 24 * time.Hour)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.find(ctx, tx, `k.code = ?`, code)
		if err != nil {
			return err
		}
		hash := sha256.Sum256([]byte(token))
		if _, err := tx.ExecContext(ctx, `INSERT INTO artist_link (kit_id, token_hash, created_at, created_by, expires_at) VALUES (?,?,?,?,?)`, k.ID, hash[:], s.Real().UTC(), who.ID, expires); err != nil {
			return fmt.Errorf("making the link: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: code, Act: "link made", Words: fmt.Sprintf("for %s, %d days", k.Artist, days)})
		return err
	})
	if err != nil {
		return NewLinkAnswer{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return NewLinkAnswer{s.artistURL(token), token, expires}, nil
}

func (s *Service) artistURL(token string) string {
	return strings.TrimRight(s.PublicURL, "/") + "/artist/" + token
}

// Withdraw ends a link before its time.
func (s *Service) Withdraw(ctx context.Context, code string, id uint64) (Kit, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		done, err := database.Changed(tx.ExecContext(ctx, `UPDATE artist_link l JOIN kit k ON k.id = l.kit_id SET l.withdrawn_at = ? WHERE l.id = ? AND k.code = ? AND l.withdrawn_at IS NULL`, s.Real().UTC(), id, code))
		if err != nil {
			return err
		}
		if !done {
			return problem.Conflict("ended", "This link has ended already.")
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: code, Act: "link withdrawn"})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return s.Kit(ctx, code)
}

// byToken finds the kit that a link leads to. A link that ran out, was
// withdrawn or never was all get the same answer.
func (s *Service) byToken(ctx context.Context, db database.Reader, token string) (Kit, error) {
	hash := sha256.Sum256([]byte(token))
	var id uint64
	err := db.GetContext(ctx, &id, `SELECT kit_id FROM artist_link WHERE token_hash = ? AND withdrawn_at IS NULL AND expires_at > ?`, hash[:], s.Real().UTC())
	if errors.Is(err, sql.ErrNoRows) {
		return Kit{}, problem.New(http.StatusNotFound, "link_ended", "", "This link does not work any more. Ask the workshop for a new one.")
	}
	if err != nil {
		return Kit{}, err
	}
	return s.find(ctx, db, `k.id = ?`, id)
}

// ArtistView is all that an artist's link shows: one kit, no more.
type ArtistView struct {
	Kit        string      `json:"kit"`
	Production string      `json:"production"`
	Artist     string      `json:"artist"`
	Day        time.Time   `json:"day"`
	Place      string      `json:"place"`
	Note       string      `json:"note"`
	Copies     []CopySheet `json:"copies"`
	Cautions   []string    `json:"cautions"`
	ReceivedAt *time.Time  `json:"received_at,omitempty"`
	SignedName string      `json:"signed_name"`
	Reports    []Report    `json:"reports"`
}

// Artist reads the page behind a link.
func (s *Service) Artist(ctx context.Context, token string) (ArtistView, error) {
	k, err := s.byToken(ctx, s.DB, token)
	if err != nil {
		return ArtistView{}, err
	}
	sheet, err := s.Sheet(ctx, k)
	return ArtistView{Kit: k.Code, Production: k.Production, Artist: k.Artist, Day: k.Day, Place: k.Place, Note: k.Note, Copies: sheet.Copies, Cautions: sheet.Cautions,
		ReceivedAt: k.ReceivedAt, SignedName: k.SignedName, Reports: k.Reports}, err
}

// Sign records the artist's receipt; the first signature stands.
func (s *Service) Sign(ctx context.Context, token, name string) (ArtistView, error) {
	name = strings.TrimSpace(name)
	if name == "" {
		return ArtistView{}, problem.Invalid("missing", "name", "Sign with your name.")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.byToken(ctx, tx, token)
		if err != nil {
			return err
		}
		if err := s.leave(ctx, tx, k); err != nil {
			return err
		}
		now := s.Clock.Now()
		first, err := database.Changed(tx.ExecContext(ctx, `UPDATE kit SET received_at = ?, signed_name = ? WHERE id = ? AND received_at IS NULL`, now, name, k.ID))
		if err != nil || !first {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: k.Code, Act: "received", Words: "signed by " + name, Actor: name})
		return err
	})
	if err != nil {
		return ArtistView{}, err
	}
	s.Live.Tell(ctx, "kits", "")
	s.Live.Tell(ctx, "copies", "")
	return s.Artist(ctx, token)
}

// reportsAnHour is how many reports a link takes in an hour: a kit has a handful
// of copies, and whoever holds the link is not known.
const reportsAnHour = 12

// ReportBack keeps what the artist writes about the day. One above the bound is
// told to wait; the page keeps it and sends it again.
func (s *Service) ReportBack(ctx context.Context, token, key string, r Report) (ArtistView, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.byToken(ctx, tx, token)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		var lately, sent int
		if err := tx.GetContext(ctx, &sent, `SELECT COUNT(*) FROM artist_report WHERE idem_key = ?`, key); err != nil || sent > 0 {
			return err
		}
		if err := tx.GetContext(ctx, &lately, `SELECT COUNT(*) FROM artist_report WHERE kit_id = ? AND at > ?`, k.ID, now.Add(-time.Hour)); err != nil {
			return err
		}
		if lately >= reportsAnHour {
			return problem.New(http.StatusTooManyRequests, "slow_down", "", "%d reports came in the last hour. This one waits here and is sent by itself.", lately)
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO artist_report (kit_id, edge, colour, hold, worn_h, words, at, idem_key) VALUES (?,?,?,?,?,?,?,?)`, k.ID, r.Edge, r.Colour, r.Hold, r.WornH, r.Words, now, key); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE copy_use SET worn_h = GREATEST(COALESCE(worn_h, 0), ?) WHERE kit_id = ?`, r.WornH, k.ID); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: k.Code, Act: "reported back", Actor: k.Artist, Words: fmt.Sprintf("edge %d, colour %d, hold %d of 5, worn %.1f h. %s", r.Edge, r.Colour, r.Hold, r.WornH, r.Words)})
		return err
	})
	if err != nil && !database.IsDuplicate(err) {
		return ArtistView{}, err
	}
	s.Live.Tell(ctx, "kits", "")
	return s.Artist(ctx, token)
}
