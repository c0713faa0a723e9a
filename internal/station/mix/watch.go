package mix

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"log/slog"
	"slices"
	"time"

	"yewmoor/internal/craft/recipe"
	"yewmoor/internal/device"
	"yewmoor/internal/platform/database"
)

// contactG is how much of the second part must be in the cup before the clock
// starts: above the noise and drift of a bench scale.
const contactG = 0.5

// rate is how often the scale is read and shown.
const rate = 50 * time.Millisecond

// Watch reads the scale until ctx ends, hands the readings to everyone who
// listens, and notes the moment when A meets B.
func (s *Service) Watch(ctx context.Context) {
	tick := time.NewTicker(rate)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			r := s.Scale.Read()
			if err := s.relay(r); err != nil {
				slog.Error("relaying the scale", "error", err)
			}
			if err := s.noticeContact(ctx, r); err != nil && ctx.Err() == nil {
				slog.Error("watching for first contact", "error", err)
			}
		}
	}
}

// Relayed is a reading as screens get it, numbered so that a screen can tell
// when it missed one.
type Relayed struct {
	device.ScaleReading
	Seq uint64 `json:"seq"`
}

// relay hands a reading to everyone who listens, written once for all of them.
// Who does not keep up for two seconds loses readings, never holds up others.
func (s *Service) relay(r device.ScaleReading) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.seq++
	raw, err := json.Marshal(Relayed{r, s.seq})
	if err != nil {
		return err
	}
	for ch := range s.listeners {
		select {
		case ch <- raw:
		default:
		}
	}
	return nil
}

// Listen hands out scale readings, as JSON of Relayed, until stop is called.
func (s *Service) Listen() (<-chan json.RawMessage, func()) {
	ch := make(chan json.RawMessage, int(2*time.Second/rate))
	s.mu.Lock()
	if s.listeners == nil {
		s.listeners = map[chan json.RawMessage]struct{}{}
	}
	s.listeners[ch] = struct{}{}
	s.mu.Unlock()
	return ch, func() {
		s.mu.Lock()
		delete(s.listeners, ch)
		s.mu.Unlock()
	}
}

const nothing = "-"

// attached is the code of the mix on the scale, or nothing: the one that was
// put there last and is still being weighed. After a restart the database
// knows.
func (s *Service) attached(ctx context.Context) (string, error) {
	s.mu.Lock()
	code := s.onScale
	s.mu.Unlock()
	if code != "" {
		return code, nil
	}
	err := s.DB.GetContext(ctx, &code, `SELECT code FROM mix WHERE state = 'weighing' AND on_scale_at IS NOT NULL ORDER BY on_scale_at DESC LIMIT 1`)
	if errors.Is(err, sql.ErrNoRows) {
		code, err = nothing, nil
	}
	if err == nil {
		s.attach(code)
	}
	return code, err
}

func (s *Service) attach(code string) {
	s.mu.Lock()
	s.onScale = code
	s.mu.Unlock()
}

// noticeContact starts the clock when what sets off the rest runs into the cup, whether or not any screen is looking.
func (s *Service) noticeContact(ctx context.Context, r device.ScaleReading) error {
	if !r.Connected || r.Unit != device.Grams {
		return nil
	}
	code, err := s.attached(ctx)
	if err != nil || code == nothing {
		return err
	}
	m, err := readRow(ctx, s.DB, code)
	if err != nil || m.State != "weighing" || m.ContactAt != nil || m.CarriedG+r.Value-m.BaseG < contactG {
		return err
	}
	house, err := m.house()
	if err != nil || !slices.ContainsFunc(house.Lines, func(l recipe.Line) bool { return l.Sets }) {
		return err
	}
	c, err := readCup(ctx, s.DB, m)
	if err != nil {
		return err
	}
	if current, _ := c.current(); current == nil || !c.meets(current.Ingredient) {
		return nil
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error { return s.contact(ctx, tx, m, s.Clock.Now()) })
	if err == nil {
		s.Live.Tell(ctx, "mixes", m.Code)
	}
	return err
}
