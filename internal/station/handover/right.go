package handover

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Unpack takes copies out of a kit that has not left yet, or all of them; an
// empty kit is undone. The copies are accepted ones again.
func (s *Service) Unpack(ctx context.Context, code string, only []string, reason string) (Kit, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return Kit{}, problem.Invalid("missing", "reason", "Say why it is taken out.")
	}
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.onTheShelf(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		left := 0
		for _, kc := range k.Copies {
			if len(only) > 0 && !slices.Contains(only, kc.Code) {
				left++
				continue
			}
			c, err := copies.Lock(ctx, tx, kc.Code)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `DELETE FROM kit_copy WHERE kit_id = ? AND copy_id = ?`, k.ID, c.ID); err != nil {
				return err
			}
			if err := copies.Back(ctx, tx, now, c, copies.Accepted, "out of "+code+", "+reason); err != nil {
				return err
			}
		}
		for i, want := range only {
			if !slices.ContainsFunc(k.Copies, func(kc KitCopy) bool { return kc.Code == want }) {
				return problem.Invalid("unknown_value", fmt.Sprintf("copies[%d]", i), "%s is not in %s.", want, code)
			}
		}
		if left == 0 {
			if _, err := tx.ExecContext(ctx, `UPDATE kit SET undone_at = ?, undone_by = ? WHERE id = ?`, now, who.ID, k.ID); err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `UPDATE artist_link SET withdrawn_at = ? WHERE kit_id = ? AND withdrawn_at IS NULL`, s.Real().UTC(), k.ID); err != nil {
				return err
			}
		}
		words := reason
		if len(only) > 0 {
			words = strings.Join(only, ", ") + ": " + reason
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: code, Act: "unpacked", Words: words})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	s.Live.Tell(ctx, "copies", "")
	return s.Kit(ctx, code)
}

// onTheShelf reads a kit that can still be changed.
func (s *Service) onTheShelf(ctx context.Context, tx database.Tx, code string) (Kit, error) {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM kit WHERE code = ? FOR UPDATE`, code); err != nil {
		return Kit{}, err
	}
	k, err := s.find(ctx, tx, `k.code = ?`, code)
	if err != nil {
		return k, err
	}
	if k.HandedAt != nil {
		return k, problem.Conflict("depends", "%s has left the shop: what is in it is with %s. Nothing was changed.", code, k.Artist)
	}
	return k, nil
}

// KitChange puts a kit's day, artist and note right.
type KitChange struct {
	DayID    uint64   `json:"day_id"`
	MoreDays []uint64 `json:"more_days,omitempty" maxItems:"30"`
	Artist   string   `json:"artist" maxLength:"120"`
	Scene    string   `json:"scene,omitempty" maxLength:"120"`
	Note     string   `json:"note,omitempty" maxLength:"500"`
}

// Change puts a kit right that has not left yet.
func (s *Service) Change(ctx context.Context, code string, in KitChange) (Kit, error) {
	in.Artist = strings.TrimSpace(in.Artist)
	if in.Artist == "" {
		return Kit{}, problem.Invalid("missing", "artist", "Who gets it?")
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.onTheShelf(ctx, tx, code)
		if err != nil {
			return err
		}
		artist, err := people.FindContact(ctx, tx, in.Artist, people.MakeupArtist)
		if err != nil {
			return err
		}
		var known int
		if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM shooting_day WHERE id = ?`, in.DayID); err != nil || known == 0 {
			return errors.Join(err, problem.Invalid("unknown_value", "day_id", "Choose the shooting day."))
		}
		if _, err := tx.ExecContext(ctx, `UPDATE kit SET day_id = ?, artist_id = ?, note = ?, scene = ? WHERE id = ?`, in.DayID, artist, in.Note, in.Scene, k.ID); err != nil {
			return err
		}
		if err := s.days(ctx, tx, k.ID, append([]uint64{in.DayID}, in.MoreDays...)); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: code, Act: "changed", Words: "was for " + k.Artist + ", " + k.Day.Format(time.DateOnly) + "; now for " + in.Artist})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return s.Kit(ctx, code)
}
