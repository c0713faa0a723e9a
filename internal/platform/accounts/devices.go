package accounts

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"net/http"
	"time"

	"yewmoor/internal/platform/database"
)

const (
	deviceCookie    = "yewmoor_device"
	tlsDeviceCookie = "__Host-yewmoor_device"
	// deviceLife is how long a browser stays known without signing in.
	deviceLife = 400 * 24 * time.Hour
)

// device names the cookie that a browser is known by.
func (s *Service) device() string {
	if s.sessions.Cookie.Secure {
		return tlsDeviceCookie
	}
	return deviceCookie
}

// remember makes the browser of ctx known for a person who has just signed in,
// and hands out its cookie where it has none. The cookie opens nothing: it only
// has a count of wrong tries of its own.
func (s *Service) remember(ctx context.Context, tx database.Tx, person uint64, now time.Time) (*http.Cookie, error) {
	hash := VisitOf(ctx).token
	var cookie *http.Cookie
	if hash == nothing {
		raw := make([]byte, 24)
		if _, err := rand.Read(raw); err != nil {
			return nil, err
		}
		token := base64.RawURLEncoding.EncodeToString(raw)
		hash = sha256.Sum256([]byte(token))
		c := s.sessions.Cookie
		cookie = &http.Cookie{Name: s.device(), Value: token, Path: c.Path, HttpOnly: true, Secure: c.Secure, SameSite: c.SameSite, Expires: now.Add(deviceLife)}
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO known_device (person_id, token_hash, seen_at) VALUES (?,?,?) ON DUPLICATE KEY UPDATE seen_at = VALUES(seen_at)`, person, hash[:], now); err != nil {
		return nil, err
	}
	_, err := tx.ExecContext(ctx, `DELETE FROM known_device WHERE seen_at < ?`, now.Add(-deviceLife))
	return cookie, err
}

// nothing is the hash of no cookie.
var nothing [sha256.Size]byte

// tokenOf is the hash of a request's device cookie.
func (s *Service) tokenOf(r *http.Request) [sha256.Size]byte {
	c, err := r.Cookie(s.device())
	if err != nil || c.Value == "" {
		return nothing
	}
	return sha256.Sum256([]byte(c.Value))
}
