package database

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"sync/atomic"
	"time"

	"yewmoor/internal/platform/problem"
)

// Key tells one act of one person from every other, so that it counts once
// however often it is sent: whoever got no answer sends it again.
type Key struct {
	ID     string // a UUID
	Person uint64 // 0 for nobody
	What   string // method and address, so that a key opens nothing else
}

type keyKey struct{}

type keyed struct {
	Key
	kept atomic.Bool
}

// WithKey makes the first act of this context that is kept leave the key in
// the same transaction. An act whose key is there already is refused with
// Done, and changes nothing.
func WithKey(ctx context.Context, key Key) context.Context {
	return context.WithValue(ctx, keyKey{}, &keyed{Key: key})
}

// Done is the answer to an act that was recorded when it was sent before.
func Done() *problem.Problem {
	return problem.Conflict("done_already", "This was recorded when it was sent before. It was not done a second time.")
}

// leaveKey leaves the context's key in an act, and says how to note that it was
// kept.
func leaveKey(ctx context.Context, tx Tx) (kept func(), err error) {
	k, ok := ctx.Value(keyKey{}).(*keyed)
	if !ok || k.kept.Load() {
		return func() {}, nil
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO act_key (id, person_id, what, at) VALUES (?,?,?,?)`, k.ID, k.Person, k.What, time.Now().UTC())
	if IsDuplicate(err) {
		return nil, Done()
	}
	if err != nil {
		return nil, fmt.Errorf("leaving the key: %w", err)
	}
	return func() { k.kept.Store(true) }, nil
}

// Answered is what an act with this key was answered with. Found is false for a
// key that nobody used for this; the answer is nil where none was kept.
func (db *DB) Answered(ctx context.Context, key Key) (answer []byte, found bool, err error) {
	// By the primary key.
	err = db.GetContext(ctx, &answer, `SELECT answer FROM act_key WHERE id = ? AND person_id = ? AND what = ?`, key.ID, key.Person, key.What)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, false, nil
	}
	return answer, err == nil, err
}

// KeepAnswer keeps what an act was answered with, for whoever sends it again.
func (db *DB) KeepAnswer(ctx context.Context, key Key, answer []byte) error {
	_, err := db.ExecContext(ctx, `UPDATE act_key SET answer = ? WHERE id = ? AND person_id = ? AND what = ?`, answer, key.ID, key.Person, key.What)
	return err
}

// For how long an answer, and a key, are kept: a phone in a pocket sends again
// after days, and only the first minutes need the answer itself.
const (
	answerLife = time.Hour
	keyLife    = 14 * 24 * time.Hour
)

// ForgetKeys lets go of answers and keys that are over.
func (db *DB) ForgetKeys(ctx context.Context, now time.Time) error {
	// Index act_key_at.
	_, err := db.ExecContext(ctx, `UPDATE act_key SET answer = NULL WHERE at < ? AND answer IS NOT NULL`, now.Add(-answerLife))
	_, gone := db.ExecContext(ctx, `DELETE FROM act_key WHERE at < ?`, now.Add(-keyLife))
	return errors.Join(err, gone)
}

// ForgetAnswers lets go of all kept answers inside an act that erases what may
// stand in one of them.
func ForgetAnswers(ctx context.Context, tx Tx) error {
	_, err := tx.ExecContext(ctx, `UPDATE act_key SET answer = NULL WHERE answer IS NOT NULL`)
	return err
}
