package accounts

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net"
	"net/http"
	"time"

	"yewmoor/internal/platform/problem"
)

// Failures that are free, and how long the wait may get.
const (
	freePerLogin, freePerAddress = 5, 20
	failureWindow                = 15 * time.Minute
	longestWait                  = 5 * time.Minute
)

// try is one attempt at a password, counted as a failure before it is looked
// at: three hundred that come at once are three hundred failures, whichever is
// looked at first.
type try struct {
	id             int64
	login, address string
	device         sql.NullInt64 // a browser that this login signed in from before
}

// beginTry reserves a try, or says how long to wait. A known device has a count of
// its own, so strangers who guess at a name never shut its owner out; an
// address is counted unless it is this machine's own, which says nothing about
// who calls.
func (s *Service) beginTry(ctx context.Context, login string) (try, error) {
	visit := VisitOf(ctx)
	t := try{login: cut(login, 64), address: visit.Address}
	var known uint64
	// By known_device_once.
	err := s.db.GetContext(ctx, &known, `SELECT k.id FROM known_device k JOIN person p ON p.id = k.person_id WHERE k.token_hash = ? AND p.login = ?`, visit.token[:], t.login)
	switch {
	case err == nil:
		t.device = sql.NullInt64{Int64: int64(known), Valid: true}
	case !errors.Is(err, sql.ErrNoRows):
		return t, fmt.Errorf("looking for the device: %w", err)
	}
	// One after the other, so that each counts those before it and no two count
	// past each other.
	s.trying.Lock()
	defer s.trying.Unlock()
	now := s.Real().UTC()
	res, err := s.db.ExecContext(ctx, `INSERT INTO sign_in_failure (login, address, device, at) VALUES (?,?,?,?)`, t.login, t.address, t.device, now)
	if err != nil {
		return t, fmt.Errorf("counting the try: %w", err)
	}
	if t.id, err = res.LastInsertId(); err != nil {
		return t, err
	}
	wait, err := s.mustWait(ctx, t, now)
	if err == nil && wait <= 0 {
		return t, nil
	}
	// A try that was not looked at counts as none.
	if _, gone := s.db.ExecContext(ctx, `DELETE FROM sign_in_failure WHERE id = ?`, t.id); err == nil {
		err = gone
	}
	if err == nil {
		err = problem.New(http.StatusTooManyRequests, "slow_down", "password", "Too many wrong tries. Wait %s, then try again.", seconds(wait))
	}
	return t, err
}

// mustWait is how long a try still has to wait: it doubles with each failure
// before it, of the last quarter of an hour, past the free ones.
func (s *Service) mustWait(ctx context.Context, t try, now time.Time) (time.Duration, error) {
	type count struct {
		where string
		value any
		free  int
	}
	// Indexes sign_in_failure_login, sign_in_failure_address, sign_in_failure_device.
	counts := []count{{"login = ? AND device IS NULL", t.login, freePerLogin}}
	if ip := net.ParseIP(t.address); t.address != "" && (ip == nil || !ip.IsLoopback()) {
		counts = append(counts, count{"address = ? AND device IS NULL", t.address, freePerAddress})
	}
	if t.device.Valid {
		counts = []count{{"device = ?", t.device.Int64, freePerLogin}}
	}
	var longest time.Duration
	for _, c := range counts {
		var row struct {
			N    int
			Last *time.Time
		}
		if err := s.db.GetContext(ctx, &row, `SELECT COUNT(*) AS n, MAX(at) AS last FROM sign_in_failure WHERE `+c.where+` AND at > ? AND id < ?`, c.value, now.Add(-failureWindow), t.id); err != nil {
			return 0, fmt.Errorf("counting failed tries: %w", err)
		}
		if over := row.N - c.free; over >= 0 && row.Last != nil {
			wait := min(longestWait, 5*time.Second<<min(over, 10))
			longest = max(longest, row.Last.Add(wait).Sub(now))
		}
	}
	return longest, nil
}

// forgiven are the failures that a right password wipes out: those of the same
// device, or of the same name from the same place. What others tried stays
// counted.
const forgiven = `DELETE FROM sign_in_failure WHERE id = ? OR at < ? OR (device IS NOT NULL AND device = ?) OR (device IS NULL AND login = ? AND address = ?)`

func (t try) forgiven(now time.Time) []any {
	return []any{t.id, now.Add(-24 * time.Hour), t.device, t.login, t.address}
}
