package build

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
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
	Preset string `json:"preset,omitempty" enum:",still,fan,cool_dryer,warm_dryer,microwave" doc:"other air over coats where they stand"`
	// Place is another place to stand in, by its code; with neither, the room.
	Place    string     `json:"place,omitempty"`
	Words    string     `json:"words"`
	Now      bool       `json:"now" doc:"it stands in this"`
	RecoatAt *time.Time `json:"recoat_at,omitempty"`
	ReadyAt  *time.Time `json:"ready_at,omitempty" doc:"dry, cured or set; nothing where that is not within sixty days"`
	SavesS   float64    `json:"saves_s" doc:"sooner than as it stands; below nothing for later"`
	Limit    string     `json:"limit,omitempty"`
	Refused  string     `json:"refused,omitempty" doc:"why not here"`
	// Untold is true of what no model tells: it is felt after each time.
	Untold bool `json:"untold,omitempty"`
	// Others are the other pots that the same air would blow over.
	Others []Beside `json:"others"`
}

// Beside is another pot in the same place.
type Beside struct {
	Label  string  `json:"label"`
	SavesS float64 `json:"saves_s"`
}

var airWords = map[string]string{"still": "left in still air", "fan": "before a fan", "cool_dryer": "under a cool dryer",
	"warm_dryer": "under a warm dryer", "cabinet": "in the warm box"}

// airs are what may be blown over coats where they stand.
var airs = []string{"still", "fan", "cool_dryer", "warm_dryer"}

// airLimit is what an air asks of whoever uses it.
func airLimit(preset, side string) string {
	switch {
	case preset == "still":
		return ""
	case side == "skin":
		return "On a wearer only moving air: at most 45 °C in the air and 40 °C on the skin, never on the lids, a few minutes a pass, and stopped at the performer's sign."
	case preset == "warm_dryer":
		return "By hand, never left alone, and nothing solvent-wet under it."
	}
	return ""
}

// airRefused says why an air may not be used over a pot; "" where it may. wet is what it
// is wet with that burns.
func airRefused(preset, side, region, wet string) string {
	dryer := preset == "warm_dryer" || preset == "cool_dryer"
	switch {
	case dryer && wet != "":
		return wet + " burns: nothing solvent-wet goes under a dryer."
	case dryer && side == "skin" && region == "eye_hollow":
		return "Never a dryer at the lids: a fan from afar, eyes shut."
	}
	return ""
}

// placeLimit is what a place asks of whoever puts something there.
func placeLimit(p Place) string {
	switch {
	case isHot(p.Kind) && p.Alone:
		return "Nothing solvent-wet goes in. A lead has allowed it to run alone."
	case isHot(p.Kind):
		return "Nothing solvent-wet goes in. Somebody stays beside it while it is warm."
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
	// movedSince: it was moved after its own coat went on.
	movedSince bool
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
	st.movedSince = slices.ContainsFunc(stood[row.ID], func(m move) bool { return m.FromAt.After(row.StartedAt) })
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

// where names the air and the place that they stand in, as the shop learns of it.
func (st stand) where() string { return placeOf(st.air(), st.side(), st.in) }

// air is what blows over them now.
func (st stand) air() string { return st.model.air() }

// HelpFor says what each air and each place would save a pot from now on. Uncertain as
// its model is.
func (s *Service) HelpFor(ctx context.Context, id uint64) ([]Help, error) {
	out := []Help{}
	row, err := s.row(ctx, s.DB, id)
	if err != nil {
		return out, err
	}
	if row.MouldID != nil {
		return out, nil
	}
	if making.Wait(row.Kind) == making.Dry {
		if out, err = s.airsFor(ctx, row); err != nil {
			return out, err
		}
	}
	places, err := s.placesFor(ctx, row)
	return append(out, places...), err
}

// airsFor is what may be blown over a pot of coats where it stands.
func (s *Service) airsFor(ctx context.Context, row potRow) ([]Help, error) {
	var out []Help
	st, err := s.stand(ctx, s.DB, row)
	if err != nil || st.in != nil && isHot(*st.in.Kind) { // its own air moves in there
		return out, err
	}
	as, err := s.helped(ctx, row, st, "")
	if err != nil {
		return out, err
	}
	beside, err := s.beside(ctx, row, st)
	if err != nil {
		return out, err
	}
	list, _, err := s.holdsOf(ctx, s.DB, row)
	if err != nil {
		return out, err
	}
	for _, preset := range airs {
		h := Help{Preset: preset, Words: airWords[preset], Now: preset == st.air(), Limit: airLimit(preset, st.side()),
			Refused: airRefused(preset, st.side(), st.piece.Region, burns(list)), Others: []Beside{}}
		if h.Refused == "" {
			d := as
			if !h.Now {
				if d, err = s.helped(ctx, row, st, preset); err != nil {
					return out, err
				}
				for _, other := range beside {
					o, err := s.savedBeside(ctx, other, preset)
					if err != nil {
						return out, err
					}
					h.Others = append(h.Others, o...)
				}
			}
			h.RecoatAt, h.ReadyAt = st.at(d.Layers[len(st.coats)-1].RecoatS), st.at(d.DryS)
			if as.DryS != nil && d.DryS != nil {
				h.SavesS = *as.DryS - *d.DryS
			}
		}
		out = append(out, h)
	}
	if bursts(list) && st.side() != "skin" && st.in == nil {
		out = append(out, Help{Preset: microwave, Words: "in short bursts in the microwave", Untold: true, Others: []Beside{},
			Limit: "Ten seconds at a time, the door open between, never sealed, never with metal, and never left. Nobody can tell what it saves: feel it after each burst, and say so here."})
	}
	return out, nil
}

// microwave is the heat that no model follows: some set a paste by it in moments, others
// let it rest (school D17).
const microwave = "microwave"

// bursts says whether what a pot holds may be warmed in bursts: latex paste.
func bursts(list []material.Product) bool {
	return slices.ContainsFunc(list, func(p material.Product) bool { return p.Family == material.LatexPaste })
}

// Burst notes a burst in the microwave.
func (s *Service) Burst(ctx context.Context, id uint64, seconds float64) (Pot, error) {
	return s.actOn(ctx, id, func(tx database.Tx, row potRow) error {
		list, st, err := s.holdsOf(ctx, tx, row)
		if err != nil {
			return err
		}
		if !bursts(list) || st == nil || st.Side == "skin" {
			return problem.Invalid("not_here", "seconds", "%s is not warmed in a microwave: only latex paste off the wearer is.",
				row.Label)
		}
		about, err := s.askOf(ctx, tx, row)
		if err != nil {
			return err
		}
		about.Act, about.Words = "warmed", fmt.Sprintf("%.0f s in the microwave.", seconds)
		_, err = journal.Add(ctx, tx, about)
		return err
	})
}

// helped is how the coats of a pot dry under other air from now on; "" leaves it.
func (s *Service) helped(ctx context.Context, row potRow, st stand, preset string) (drying.Dried, error) {
	times, err := s.times(ctx, s.DB, row, st)
	if err != nil {
		return drying.Dried{}, err
	}
	c := course{Coats: st.coats, Air: st.model.Air, Rooms: st.rooms, Times: times}
	if preset != "" {
		c.Air = append(slices.Clone(st.model.Air), airChange{st.minute(), preset})
	}
	return s.dried(c)
}

// beside are the other pots of coats that stand where a pot stands, and not on a wearer.
func (s *Service) beside(ctx context.Context, row potRow, st stand) ([]potRow, error) {
	if st.in == nil || st.in.Place == nil || st.side() == "skin" {
		return nil, nil
	}
	rows, err := s.potsIn(ctx, s.DB, *st.in.Place)
	return slices.DeleteFunc(rows, func(r potRow) bool { return r.ID == row.ID || making.Wait(r.Kind) != making.Dry }), err
}

// savedBeside is what an air saves a pot that stands beside.
func (s *Service) savedBeside(ctx context.Context, row potRow, preset string) ([]Beside, error) {
	st, err := s.stand(ctx, s.DB, row)
	if err != nil || st.air() == preset {
		return nil, err
	}
	as, err := s.helped(ctx, row, st, "")
	if err != nil {
		return nil, err
	}
	d, err := s.helped(ctx, row, st, preset)
	if err != nil || as.DryS == nil || d.DryS == nil {
		return nil, err
	}
	return []Beside{{row.Label, *as.DryS - *d.DryS}}, nil
}

// placesFor is what every other place would save a pot, and the room.
func (s *Service) placesFor(ctx context.Context, row potRow) ([]Help, error) {
	out := []Help{}
	list, err := s.places(ctx, s.DB)
	if err != nil || len(list) == 0 {
		return out, err
	}
	if s.onWearer(ctx, s.DB, row) {
		return out, nil
	}
	room, err := s.Air.between(ctx, s.DB, row.StartedAt)
	if err != nil {
		return out, err
	}
	stood, err := s.moves(ctx, s.DB, row.ID)
	if err != nil {
		return out, err
	}
	as, err := s.workOn(ctx, s.DB, row, room, stood[row.ID])
	if err != nil {
		return out, err
	}
	now := s.Clock.Now()
	for _, p := range append([]Place{{Name: "the room"}}, list...) {
		h := Help{Place: p.Code, Words: "in the room", Now: p.Code == as.Place, Limit: placeLimit(p), Others: []Beside{}}
		if p.Code != "" {
			h.Words = "in " + p.Name
			if !h.Now {
				if err := s.mayStand(ctx, s.DB, row, p, ""); err != nil {
					h.Refused = refusedWords(err)
				}
			}
		}
		then := as
		if !h.Now && h.Refused == "" {
			to := move{PotID: row.ID, FromAt: now}
			if p.Code != "" {
				to.Place, to.Code, to.Name, to.Kind = &p.ID, &p.Code, &p.Name, &p.Kind
			}
			if then, err = s.workOn(ctx, s.DB, row, room, append(slices.Clone(stood[row.ID]), to)); err != nil {
				return out, err
			}
		}
		if h.Refused == "" && then.LeftS < horizonS {
			h.ReadyAt = then.ReadyAt
			if then.RecoatS > 0 {
				at := now.Add(time.Duration(then.RecoatS * float64(time.Second)))
				h.RecoatAt = &at
			}
			if as.LeftS < horizonS { // of one that never gets there nobody can say how much
				h.SavesS = as.LeftS - then.LeftS
			}
		}
		out = append(out, h)
	}
	return out, nil
}

// refusedWords is what a refusal says, without what it adds for whoever asked to act.
func refusedWords(err error) string {
	var no *problem.Problem
	if errors.As(err, &no) {
		return strings.TrimSuffix(no.Detail, " A lead or fabricator may go on with a reason.")
	}
	return err.Error()
}

func (st stand) at(t *float64) *time.Time {
	if t == nil {
		return nil
	}
	when := st.begun.Add(time.Duration(*t * float64(time.Second)))
	return &when
}

// MoveAir puts a pot of coats into other air from now on; what it had before stays in its
// course.
func (s *Service) MoveAir(ctx context.Context, id uint64, preset string) (Pot, error) {
	return s.actOn(ctx, id, func(tx database.Tx, row potRow) error {
		st, err := s.stand(ctx, tx, row)
		if err != nil {
			return err
		}
		list, _, err := s.holdsOf(ctx, tx, row)
		if err != nil {
			return err
		}
		if why := airRefused(preset, st.side(), st.piece.Region, burns(list)); why != "" {
			return problem.Invalid("not_here", "preset", "%s", why)
		}
		if st.in != nil && isHot(*st.in.Kind) {
			return problem.Conflict("not_here", "%s stands in %s, whose own air moves. Take it out first.", row.Label, *st.in.Name)
		}
		if strings.HasSuffix(preset, "_dryer") && st.in != nil && st.in.Place != nil {
			wet, err := s.wetIn(ctx, tx, *st.in.Place)
			if err != nil {
				return err
			}
			if wet != "" {
				return problem.Conflict("flammable", "%s stands beside it and is wet with what burns: no dryer there.", wet)
			}
		}
		about, err := s.askOf(ctx, tx, row)
		if err != nil {
			return err
		}
		if preset == st.air() {
			return nil // said twice, or by two
		}
		st.model.Air = append(st.model.Air, airChange{st.elapsed, preset})
		raw, err := json.Marshal(st.model)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE pot SET model = ? WHERE id = ?`, string(raw), id); err != nil {
			return fmt.Errorf("noting the air: %w", err)
		}
		about.Act, about.Words = "other air", strings.TrimSpace("Now "+airWords[preset]+". "+airLimit(preset, st.side()))
		_, err = journal.Add(ctx, tx, about)
		return err
	})
}
