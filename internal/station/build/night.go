package build

import (
	"context"
	"fmt"
	"slices"
	"time"
)

// Rang is what a pot came to while nobody was there.
type Rang struct {
	Pot   uint64    `json:"pot"`
	Label string    `json:"label"`
	Piece string    `json:"piece"`
	At    time.Time `json:"at"`
	Words string    `json:"words"`
	Late  bool      `json:"late" doc:"its window shut meanwhile"`
}

// Night is what happened while nobody was in the shop.
type Night struct {
	// From and To are between which acts nobody did anything; nothing where somebody was
	// always there.
	From *time.Time `json:"from,omitempty"`
	To   *time.Time `json:"to,omitempty"`
	Rang []Rang     `json:"rang"`
	LowC float64    `json:"low_c,omitempty" doc:"the coldest that the room was"`
	TopC float64    `json:"top_c,omitempty"`
	// SilentS is for how long no reading of the room came, s.
	SilentS float64 `json:"silent_s"`
}

// How long nobody has to have done anything for it to count as a night, and how long it is
// told of afterwards.
const (
	nightAtLeast = 5 * time.Hour
	toldFor      = 6 * time.Hour
)

// LastNight tells what the last night did: the latest time of hours in which nobody did
// anything.
func (s *Service) LastNight(ctx context.Context) (Night, error) {
	out := Night{Rang: []Rang{}}
	now := s.Clock.Now()
	var acts []time.Time
	// By index journal_at: the acts of a day, and the last one before it, since nobody works
	// on a Sunday.
	day := now.Add(-24 * time.Hour)
	if err := s.DB.SelectContext(ctx, &acts, `(SELECT at FROM journal WHERE at < ? ORDER BY at DESC LIMIT 1)
		UNION ALL (SELECT at FROM journal WHERE at >= ? AND at <= ?) ORDER BY at`, day, day, now); err != nil {
		return out, fmt.Errorf("looking for the night: %w", err)
	}
	if len(acts) == 0 {
		return out, nil
	}
	acts = append(acts, now)
	for i := 1; i < len(acts); i++ { // the latest one
		if acts[i].Sub(acts[i-1]) >= nightAtLeast {
			out.From, out.To = &acts[i-1], &acts[i]
		}
	}
	if out.To == nil || now.Sub(*out.To) > toldFor {
		out.From, out.To = nil, nil
		return out, nil
	}
	var rows []potRow
	// Index pot_running for those that stand, pot_piece's started_at for the others.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT `+potColumns+` WHERE t.mould_id IS NULL AND t.started_at < ? AND (t.ended_at IS NULL OR t.ended_at >= ?) ORDER BY t.id`,
		*out.To, *out.From); err != nil {
		return out, fmt.Errorf("reading what stood in the night: %w", err)
	}
	for _, row := range rows {
		p, err := s.work(ctx, s.DB, row)
		if err != nil {
			return out, err
		}
		r := Rang{Pot: p.ID, Label: p.Label, Piece: p.Piece}
		inside := func(at *time.Time) bool { return at != nil && at.After(*out.From) && !at.After(*out.To) }
		switch {
		case p.Past && inside(p.TooLateAt):
			r.At, r.Words, r.Late = *p.TooLateAt, "too late: "+p.TooLate, true
		case inside(p.RangAt):
			r.At, r.Words = *p.RangAt, p.Words
			if p.RecoatAt != nil && p.RangAt.Equal(*p.RecoatAt) { // what it came to then, not what it is by now
				r.Words = "ready for the next coat"
			}
		case p.State == "ready" && inside(p.ReadyAt):
			r.At, r.Words = *p.ReadyAt, p.Words
		default:
			continue
		}
		out.Rang = append(out.Rang, r)
	}
	slices.SortStableFunc(out.Rang, func(a, b Rang) int { return a.At.Compare(b.At) })
	log, err := s.Air.between(ctx, s.DB, *out.From)
	if err != nil {
		return out, err
	}
	last := *out.From
	for _, r := range log {
		if r.At.After(*out.To) {
			break
		}
		if out.LowC == 0 || r.TempC < out.LowC {
			out.LowC = r.TempC
		}
		out.TopC = max(out.TopC, r.TempC)
		if gap := r.At.Sub(last); gap > silent {
			out.SilentS += gap.Seconds()
		}
		if r.At.After(last) {
			last = r.At
		}
	}
	if gap := out.To.Sub(last); gap > silent {
		out.SilentS += gap.Seconds()
	}
	return out, nil
}

// silent is from when on a sensor that says nothing is away.
const silent = 15 * time.Minute
