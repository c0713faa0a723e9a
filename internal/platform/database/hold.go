package database

import (
	"context"

	"yewmoor/internal/platform/problem"
)

// Hold keeps back every act that somebody asks for, with what they are told,
// until Release; what the program does by itself goes on.
func (db *DB) Hold(p *problem.Problem) { db.held.Store(p) }

// Release lets acts through again.
func (db *DB) Release() { db.held.Store(nil) }

type throughKey struct{}

// Through lets the acts of this context through a hold: signing in and out, and
// what the hold waits for.
func Through(ctx context.Context) context.Context {
	return context.WithValue(ctx, throughKey{}, true)
}

// heldBack is what an act of this context is refused with; nil for none.
func (db *DB) heldBack(ctx context.Context) error {
	p := db.held.Load()
	if p == nil || ctx.Value(watchKey{}) == nil || ctx.Value(throughKey{}) != nil {
		return nil
	}
	return p
}
