package sculpt

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/mix"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Amounts are all voices that tell how much one piece takes, and how much skin it
// covers.
type Amounts struct {
	mix.Voices
	Why     *Chosen   `json:"why,omitempty" doc:"of the volume, where somebody chose"`
	Areas   mix.Areas `json:"areas"`
	AreaWhy *Chosen   `json:"area_why,omitempty"`
}

// Chosen is why one voice was chosen over others.
type Chosen struct {
	Reason string    `json:"reason,omitempty"`
	Who    string    `json:"who"`
	At     time.Time `json:"at"`
}

// Told is what was measured and poured of a piece, and what is believed; what its
// section draws and what a scan shows are the piece's own to add.
func (s *Service) Told(ctx context.Context, db database.Reader, p piece.Piece) (piece.Told, error) {
	var told piece.Told
	var out []mix.Route
	var rows []struct {
		Route  string
		Inputs string
	}
	// The newest of each route; index volume_reading's piece key.
	if err := db.SelectContext(ctx, &rows, `SELECT v.route, v.inputs FROM volume_reading v WHERE v.id IN (SELECT MAX(id) FROM volume_reading WHERE piece_id = ? GROUP BY route) ORDER BY v.route`, p.ID); err != nil {
		return told, fmt.Errorf("reading the volumes: %w", err)
	}
	for _, r := range rows {
		var m Measured
		if err := json.Unmarshal([]byte(r.Inputs), &m); err != nil {
			return told, err
		}
		if route, err := m.route(); err == nil {
			out = append(out, route)
		}
	}
	poured, err := s.poured(ctx, db, p)
	if err != nil {
		return told, err
	}
	told.Voices = append(out, poured...)
	var chosen []struct{ What, Route string }
	// The newest of each; index believed_amount_piece.
	if err := db.SelectContext(ctx, &chosen, `SELECT what, route FROM believed_amount WHERE id IN (SELECT MAX(id) FROM believed_amount WHERE piece_id = ? GROUP BY what)`, p.ID); err != nil {
		return told, fmt.Errorf("reading what is believed: %w", err)
	}
	for _, c := range chosen {
		switch c.What {
		case ofVolume:
			told.Chosen = c.Route
		case ofArea:
			told.ChosenArea = c.Route
		}
	}
	return told, nil
}

// poured is what the copies of the newest pour took.
func (s *Service) poured(ctx context.Context, db database.Reader, p piece.Piece) ([]mix.Route, error) {
	var row struct {
		Slug   string
		Grams  float64
		Copies int
	}
	err := db.GetContext(ctx, &row, `SELECT m.slug, (SELECT COALESCE(SUM(w.grams), 0) FROM mix_line n JOIN weigh_in w ON w.mix_line_id = n.id WHERE n.mix_id = x.id) AS grams,
		(SELECT COUNT(*) FROM run_mix rm JOIN copy c ON c.run_id = rm.run_id WHERE rm.mix_id = x.id) AS copies
		FROM mix x JOIN material m ON m.id = x.material_id WHERE x.piece_id = ? AND x.state = 'poured' ORDER BY x.id DESC LIMIT 1`, p.ID)
	if errors.Is(err, sql.ErrNoRows) || row.Grams == 0 {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("reading what was poured: %w", err)
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return nil, err
	}
	density := materials[row.Slug].Density
	if density <= 0 {
		return nil, nil
	}
	return []mix.Route{mix.Took(row.Grams, density, row.Copies, material.UsualWaste)}, nil
}

// Amounts reads everything that tells how much a piece takes.
func (s *Service) Amounts(ctx context.Context, code string) (Amounts, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Amounts{}, err
	}
	var out Amounts
	if out.Voices, out.Areas, err = s.Pieces.VoicesOf(ctx, s.DB, p); err != nil {
		return out, err
	}
	if out.Voices.Chosen {
		if out.Why, err = s.whyBelieved(ctx, p, ofVolume); err != nil {
			return out, err
		}
	}
	if out.Areas.Chosen {
		out.AreaWhy, err = s.whyBelieved(ctx, p, ofArea)
	}
	return out, err
}

// whyBelieved is why a voice of a piece was chosen, by whom and when.
func (s *Service) whyBelieved(ctx context.Context, p piece.Piece, what string) (*Chosen, error) {
	var c Chosen
	err := s.DB.GetContext(ctx, &c, "SELECT b.reason, w.name AS who, b.at FROM believed_amount b JOIN person w ON w.id = b.person_id WHERE b.piece_id = ? AND b.what = ? ORDER BY b.id DESC LIMIT 1", p.ID, what)
	return &c, err
}

// What is told of a piece in several ways.
const ofVolume, ofArea = "volume", "area"

// Believing is the voice that somebody believes.
type Believing struct {
	What   string `json:"what,omitempty" enum:"volume,area" default:"volume" doc:"of the volume of its body, or of the area of skin under it"`
	Route  string `json:"route" enum:"section,scan,clay,water,area,displacement,poured,map"`
	Reason string `json:"reason,omitempty" maxLength:"300"`
}

// BelieveIn says which voice everything goes by from now on. Against others that
// disagree it wants a reason.
func (s *Service) BelieveIn(ctx context.Context, code string, in Believing) (Amounts, error) {
	who, _ := accounts.From(ctx)
	reason := strings.TrimSpace(in.Reason)
	if in.What == "" {
		in.What = ofVolume
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		v, a, err := s.Pieces.VoicesOf(ctx, tx, p)
		if err != nil {
			return err
		}
		then := mix.Believe(v.Voices, in.Route)
		known, against, words := then.Chosen, then.Disagree, then.Words()
		if in.What == ofArea {
			areas := mix.BelieveAreas(a.Areas, in.Route)
			known, against, words = areas.Chosen, areas.Disagree, areas.Words()
		}
		switch {
		case !known:
			return problem.Invalid("unknown_value", "route", "Nothing of %s tells its %s that way.", code, in.What)
		case len(against) > 0 && reason == "":
			return problem.Invalid("missing", "reason", "Others say something else. Why is this one right?")
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO believed_amount (piece_id, what, route, reason, at, person_id) VALUES (?,?,?,?,?,?)`, p.ID, in.What, in.Route, reason, s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping what is believed: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code, Act: "amount believed", Words: strings.TrimSuffix(words+": "+reason, ": ")})
		return err
	})
	if err != nil {
		return Amounts{}, err
	}
	s.Live.Tell(ctx, "volumes", code)
	s.Live.Tell(ctx, "section", code)
	return s.Amounts(ctx, code)
}
