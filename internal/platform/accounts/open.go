package accounts

import (
	"context"
	"maps"
	"slices"
	"sync"

	"github.com/jmoiron/sqlx"
)

// open are the streams that go on as long as their sign-in does.
type open struct {
	mu      sync.Mutex
	next    int
	streams map[int]stream
}

type stream struct {
	signIn uint64
	end    context.CancelFunc
}

// UntilEnded is a context that ends with the sign-in of ctx too: for answers
// that go on after the question was let through. Stop gives it up.
func UntilEnded(ctx context.Context) (_ context.Context, stop func()) {
	visit := VisitOf(ctx)
	ctx, end := context.WithCancel(ctx)
	if visit.SignIn == 0 || visit.streams == nil {
		return ctx, end
	}
	o := visit.streams
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.streams == nil {
		o.streams = map[int]stream{}
	}
	o.next++
	number := o.next
	o.streams[number] = stream{visit.SignIn, end}
	return ctx, func() {
		end()
		o.mu.Lock()
		defer o.mu.Unlock()
		delete(o.streams, number)
	}
}

// EndStreams ends the streams whose sign-in has ended or run out. Whatever ends
// a sign-in calls it, and the shop does every few seconds.
func (s *Service) EndStreams(ctx context.Context) error {
	s.open.mu.Lock()
	all := maps.Clone(s.open.streams)
	s.open.mu.Unlock()
	if len(all) == 0 {
		return nil
	}
	ids := map[uint64]bool{}
	for _, one := range all {
		ids[one.signIn] = true
	}
	query, args, err := sqlx.In(`SELECT i.id FROM sign_in i JOIN person p ON p.id = i.person_id WHERE i.id IN (?) AND i.ended_at IS NULL AND i.seen_at > ? AND p.active`, slices.Collect(maps.Keys(ids)), s.Real().UTC().Add(-idle))
	if err != nil {
		return err
	}
	var living []uint64
	if err := s.db.SelectContext(ctx, &living, query, args...); err != nil {
		return err
	}
	for _, one := range all {
		if !slices.Contains(living, one.signIn) {
			one.end()
		}
	}
	return nil
}
