package sculpt

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
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

// Amounts are all voices that tell how much one piece takes.
type Amounts struct {
	mix.Voices
	Reason string     `json:"reason,omitempty" doc:"why the believed one was chosen"`
	By     string     `json:"by,omitempty"`
	At     *time.Time `json:"at,omitempty"`
}

// Voices are what was measured, scanned and poured of a piece; what its section
// draws is the piece's own to add.
func (s *Service) Voices(ctx context.Context, db database.Reader, p piece.Piece) ([]mix.Route, string, error) {
	var out []mix.Route
	var rows []struct {
		Route  string
		Inputs string
	}
	// The newest of each route; index volume_reading's piece key.
	if err := db.SelectContext(ctx, &rows, `SELECT v.route, v.inputs FROM volume_reading v WHERE v.id IN (SELECT MAX(id) FROM volume_reading WHERE piece_id = ? GROUP BY route) ORDER BY v.route`, p.ID); err != nil {
		return nil, "", fmt.Errorf("reading the volumes: %w", err)
	}
	for _, r := range rows {
		var m Measured
		if err := json.Unmarshal([]byte(r.Inputs), &m); err != nil {
			return nil, "", err
		}
		if route, err := m.route(); err == nil {
			out = append(out, route)
		}
	}
	// What a scan measured itself wins over a figure that was typed from one.
	if ml, known, err := s.Scans.Volume(ctx, db, p.Code); err != nil {
		return nil, "", err
	} else if known {
		scanned, err := mix.Scanned(ml)
		if err == nil {
			out = append(slices.DeleteFunc(out, func(r mix.Route) bool { return r.Name == mix.RouteScan }), scanned)
		}
	}
	poured, err := s.poured(ctx, db, p)
	if err != nil {
		return nil, "", err
	}
	out = append(out, poured...)
	chosen := ""
	if err := db.GetContext(ctx, &chosen, `SELECT route FROM believed_amount WHERE piece_id = ? ORDER BY id DESC LIMIT 1`, p.ID); err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, "", err
	}
	return out, chosen, nil
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
	voices, err := s.Pieces.VoicesOf(ctx, s.DB, p)
	if err != nil {
		return Amounts{}, err
	}
	out := Amounts{Voices: voices}
	if !voices.Chosen {
		return out, nil
	}
	var row struct {
		Reason, By string
		At         time.Time
	}
	if err := s.DB.GetContext(ctx, &row, "SELECT b.reason, w.name AS `by`, b.at FROM believed_amount b JOIN person w ON w.id = b.person_id WHERE b.piece_id = ? ORDER BY b.id DESC LIMIT 1", p.ID); err != nil {
		return out, err
	}
	out.Reason, out.By, out.At = row.Reason, row.By, &row.At
	return out, nil
}

// Believing is the voice that somebody believes.
type Believing struct {
	Route  string `json:"route" enum:"section,scan,clay,water,area,displacement,poured"`
	Reason string `json:"reason,omitempty" maxLength:"300"`
}

// BelieveIn says which voice everything goes by from now on. Against others that
// disagree it wants a reason.
func (s *Service) BelieveIn(ctx context.Context, code string, in Believing) (Amounts, error) {
	who, _ := accounts.From(ctx)
	reason := strings.TrimSpace(in.Reason)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		v, err := s.Pieces.VoicesOf(ctx, tx, p)
		if err != nil {
			return err
		}
		then := mix.Believe(v.Voices, in.Route)
		switch {
		case !then.Chosen:
			return problem.Invalid("unknown_value", "route", "Nothing of %s tells its volume that way.", code)
		case len(then.Disagree) > 0 && reason == "":
			return problem.Invalid("missing", "reason", "Others say something else. Why is this one right?")
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO believed_amount (piece_id, route, reason, at, person_id) VALUES (?,?,?,?,?)`, p.ID, in.Route, reason, s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping what is believed: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: code, Act: "amount believed", Words: strings.TrimSuffix(then.Words()+": "+reason, ": ")})
		return err
	})
	if err != nil {
		return Amounts{}, err
	}
	s.Live.Tell(ctx, "volumes", code)
	s.Live.Tell(ctx, "section", code)
	return s.Amounts(ctx, code)
}
