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
	id, err := s.idByToken(ctx, db, token)
	if err != nil {
		return Kit{}, err
	}
	return s.find(ctx, db, `k.id = ?`, id)
}

// tokenKit is the kit of a link by its number and code alone.
func (s *Service) tokenKit(ctx context.Context, token string) (Kit, error) {
	id, err := s.idByToken(ctx, s.DB, token)
	if err != nil {
		return Kit{}, err
	}
	k := Kit{ID: id}
	return k, s.DB.GetContext(ctx, &k.Code, `SELECT code FROM kit WHERE id = ?`, id)
}

func (s *Service) idByToken(ctx context.Context, db database.Reader, token string) (uint64, error) {
	hash := sha256.Sum256([]byte(token))
	var id uint64
	err := db.GetContext(ctx, &id, `SELECT kit_id FROM artist_link WHERE token_hash = ? AND withdrawn_at IS NULL AND expires_at > ?`, hash[:], s.Real().UTC())
	if errors.Is(err, sql.ErrNoRows) {
		return 0, problem.New(http.StatusNotFound, "link_ended", "", "This link does not work any more. Ask the workshop for a new one.")
	}
	return id, err
}
