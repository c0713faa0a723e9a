package build

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// airChange is other air over the coats of a pot from a moment on, in s after the first
// of them.
type airChange struct {
	AtS    float64 `json:"at_s"`
	Preset string  `json:"preset"`
}

// Help is one way to help a pot along, or to leave it: what it saves and its limit.
type Help struct {
	Preset   string     `json:"preset" enum:"still,fan,cool_dryer,warm_dryer,cabinet"`
	Words    string     `json:"words"`
	Now      bool       `json:"now" doc:"it stands in this"`
	RecoatAt *time.Time `json:"recoat_at,omitempty"`
	DryAt    *time.Time `json:"dry_at,omitempty"`
	SavesS   float64    `json:"saves_s" doc:"sooner dry than as it stands; below nothing for later"`
	Limit    string     `json:"limit,omitempty"`
	Refused  string     `json:"refused,omitempty" doc:"why not here"`
}

var airWords = map[string]string{"still": "left in still air", "fan": "before a fan", "cool_dryer": "under a cool dryer",
	"warm_dryer": "under a warm dryer", "cabinet": "in the warm box"}

// airLimit is what an air asks of whoever uses it.
func airLimit(preset, side string) string {
	switch {
	case preset == "still":
		return ""
	case side == "skin":
		return "On a wearer only moving air: at most 45 °C in the air and 40 °C on the skin, never on the lids, a few minutes a pass, and stopped at the performer's sign."
	case preset == "warm_dryer":
		return "By hand, never left alone, and nothing solvent-wet under it."
	case preset == "cabinet":
		return "Nothing solvent-wet goes in. It runs alone only where a lead has allowed the box for it."
	}
	return ""
}

// airRefused says why an air may not be used over a pot; "" where it may.
func airRefused(preset, side, region string) string {
	switch {
	case preset == "cabinet" && side == "skin":
		return "A person does not go into the warm box."
	case (preset == "warm_dryer" || preset == "cool_dryer") && side == "skin" && region == "eye_hollow":
		return "Never a dryer at the lids: a fan from afar, eyes shut."
	}
	return ""
}

// stand is a pot of coats as it stands: its coats, the air so far, and when it began.
type stand struct {
	row     potRow
	model   potModel
	coats   []coat
	begun   time.Time // of the first coat
	elapsed float64   // since then, s
	rooms   []spell   // the room since then
	piece   piece.Piece
	in      *move // where it stands; nil for the room
}

func (s *Service) stand(ctx context.Context, db database.Reader, row potRow) (stand, error) {
	st := stand{row: row}
	if err := json.Unmarshal([]byte(row.Model), &st.model); err != nil {
		return st, fmt.Errorf("reading the pot's model: %w", err)
	}
	st.coats = st.model.coats()
	if making.Wait(row.Kind) != making.Dry || len(st.coats) == 0 {
		return st, problem.Conflict("not_drying", "%s does not dry: there is no air to help it.", row.Label)
	}
	st.begun = row.StartedAt.Add(-time.Duration(st.coats[len(st.coats)-1].AtS * float64(time.Second)))
	st.elapsed = math.Max(0, s.Clock.Now().Sub(st.begun).Seconds())
	log, err := s.Air.between(ctx, db, st.begun)
	if err != nil {
		return st, err
	}
	stood, err := s.moves(ctx, db, row.ID)
	if err != nil {
		return st, err
	}
	if log, err = s.along(ctx, db, stood[row.ID], log, st.begun); err != nil {
		return st, err
	}
	st.in = standsIn(stood[row.ID])
	st.rooms = spells(log, st.begun, s.Clock.Now())
	st.piece, err = piece.Find(ctx, db, row.Piece)
	return st, err
}

// minute is how long ago the first coat went on, s, to the minute: what is asked again
// while somebody reads is the same question. It is never before the pot's own coat.
func (st stand) minute() float64 {
	return math.Max(st.coats[len(st.coats)-1].AtS, math.Floor(st.elapsed/60)*60)
}

// side is what stands behind the coats.
func (st stand) side() string { return st.coats[0].Side }

// air is what blows over them now.
func (st stand) air() string { return st.model.air() }

// HelpFor says what each air would save a pot of coats from now on. Uncertain as the
// model is.
func (s *Service) HelpFor(ctx context.Context, id uint64) ([]Help, error) {
	out := []Help{}
	row, err := s.row(ctx, s.DB, id)
	if err != nil {
		return out, err
	}
	st, err := s.stand(ctx, s.DB, row)
	if err != nil {
		return out, err
	}
	times, err := s.times(ctx, s.DB, row, st.model)
	if err != nil {
		return out, err
	}
	now := course{Coats: st.coats, Air: st.model.Air, Rooms: st.rooms, Times: times}
	as, err := s.dried(now)
	if err != nil {
		return out, err
	}
	for _, preset := range drying.Presets {
		h := Help{Preset: preset, Words: airWords[preset], Now: preset == st.air(), Limit: airLimit(preset, st.side()),
			Refused: airRefused(preset, st.side(), st.piece.Region)}
		if h.Refused == "" {
			d := as
			if !h.Now {
				then := now
				then.Air = append(slices.Clone(st.model.Air), airChange{st.minute(), preset})
				if d, err = s.dried(then); err != nil {
					return out, err
				}
			}
			h.RecoatAt, h.DryAt = st.at(d.Layers[len(st.coats)-1].RecoatS), st.at(d.DryS)
			if as.DryS != nil && d.DryS != nil {
				h.SavesS = *as.DryS - *d.DryS
			}
		}
		out = append(out, h)
	}
	return out, nil
}

func (st stand) at(t *float64) *time.Time {
	if t == nil {
		return nil
	}
	when := st.begun.Add(time.Duration(*t * float64(time.Second)))
	return &when
}

// MoveAir puts a pot of coats into other air from now on; what it had before stays in its
// course. Heat that runs alone is for a lead or fabricator to begin.
func (s *Service) MoveAir(ctx context.Context, id uint64, preset string) (Pot, error) {
	who, _ := accounts.From(ctx)
	if err := s.Air.CatchUp(ctx); err != nil {
		return Pot{}, err
	}
	var pot Pot
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		row, err := s.lock(ctx, tx, id)
		if err != nil {
			return err
		}
		if row.EndedAt != nil {
			return problem.Conflict("ended", "%s has left the shelf; nothing was recorded.", row.Label)
		}
		st, err := s.stand(ctx, tx, row)
		if err != nil {
			return err
		}
		if why := airRefused(preset, st.side(), st.piece.Region); why != "" {
			return problem.Invalid("not_here", "preset", "%s", why)
		}
		if preset == "cabinet" && who.Role == accounts.Apprentice {
			return problem.Conflict("held_back", "The warm box is switched on by a lead or fabricator. Nothing was recorded.")
		}
		about := journal.Entry{At: s.Clock.Now(), Piece: st.piece.ID, Kind: "pot", Code: row.Label}
		if err := s.Pieces.AskRules(ctx, tx, st.piece, st.piece.SectionNumber, about); err != nil {
			return err
		}
		if preset != st.air() {
			st.model.Air = append(st.model.Air, airChange{st.elapsed, preset})
			raw, err := json.Marshal(st.model)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `UPDATE pot SET model = ? WHERE id = ?`, string(raw), id); err != nil {
				return fmt.Errorf("noting the air: %w", err)
			}
			about.Act, about.Words = "other air", strings.TrimSpace("Now "+airWords[preset]+". "+airLimit(preset, st.side()))
			if _, err := journal.Add(ctx, tx, about); err != nil {
				return err
			}
			row.Model = string(raw)
		}
		pot, err = s.work(ctx, tx, row)
		return err
	})
	if err != nil {
		return Pot{}, err
	}
	s.tell(ctx, pot.Piece)
	return pot, nil
}
