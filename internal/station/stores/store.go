package stores

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/craft/stock"
	"yewmoor/internal/craft/trace"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Lot is one delivery, or one part of a kit's, with what is on hand.
type Lot struct {
	ID           uint64     `db:"id" json:"-"`
	Code         string     `db:"code" json:"code"`
	Part         string     `db:"part" json:"part" enum:",A,B"`
	Material     string     `db:"slug" json:"material"`
	MaterialName string     `db:"name" json:"material_name"`
	Family       string     `db:"family" json:"family"`
	Supplier     string     `db:"supplier" json:"supplier"`
	ReceivedOn   time.Time  `db:"received_on" json:"received_on"`
	ExpiresOn    time.Time  `db:"expires_on" json:"expires_on"`
	OpenedOn     *time.Time `db:"opened_on" json:"opened_on,omitempty"`
	OpenLifeDays int        `db:"open_life_days" json:"open_life_days"`
	Status       string     `db:"status" json:"status" enum:"ok,quarantine,recalled"`
	StatusReason string     `db:"status_reason" json:"status_reason"`
	Shelf        string     `db:"shelf" json:"shelf"`
	OnHandG      float64    `db:"on_hand_g" json:"on_hand_g"`
	// Refused says why it may not be used today; empty when it may.
	Refused string `db:"-" json:"refused,omitempty"`
	// UsedUpAt is when nothing was left of it.
	UsedUpAt *time.Time `db:"used_up_at" json:"used_up_at,omitempty"`
}

// Name is the code with its part.
func (l Lot) Name() string {
	if l.Part == "" {
		return l.Code
	}
	return l.Code + " " + l.Part
}

// Stock is the lot as the craft takes it.
func (l Lot) Stock() stock.Lot {
	out := stock.Lot{Code: l.Code, Part: l.Part, Status: l.Status, OnHandG: l.OnHandG,
		Received: clock.DayNumber(l.ReceivedOn), Expiry: clock.DayNumber(l.ExpiresOn), OpenLife: l.OpenLifeDays}
	if l.OpenedOn != nil {
		day := clock.DayNumber(*l.OpenedOn)
		out.Opened = &day
	}
	return out
}

// lots reads lots with what is on hand: a sum over index movement_sum. Those
// with something on hand come by index lot_used_up, one by lot_once.
func (s *Service) lots(ctx context.Context, db database.Reader, where string, args ...any) ([]Lot, error) {
	list := []Lot{}
	err := db.SelectContext(ctx, &list, `SELECT l.id, l.code, l.part, m.slug, m.name, m.family, l.supplier, l.received_on, l.expires_on, l.opened_on, l.open_life_days,
		l.status, l.status_reason, l.shelf, l.used_up_at, COALESCE((SELECT SUM(grams) FROM movement v WHERE v.lot_id = l.id), 0) AS on_hand_g
		FROM lot l JOIN material m ON m.id = l.material_id `+where+` ORDER BY m.family, m.name, l.expires_on, l.code, l.part`, args...)
	if err != nil {
		return nil, fmt.Errorf("reading the lots: %w", err)
	}
	for i := range list {
		list[i].Refused = s.refusal(list[i])
	}
	return list, nil
}

func (s *Service) one(ctx context.Context, db database.Reader, code, part string) (Lot, error) {
	list, err := s.lots(ctx, db, `WHERE l.code = ? AND l.part = ?`, code, part)
	if err != nil {
		return Lot{}, err
	}
	if len(list) == 0 {
		return Lot{}, problem.NotFound("lot", code+part)
	}
	return list[0], nil
}

// lock holds a lot's row until the act ends and reads what is on hand.
func (s *Service) lock(ctx context.Context, tx database.Tx, id uint64) (Lot, float64, error) {
	var l Lot
	err := tx.GetContext(ctx, &l, `SELECT id, code, part, opened_on FROM lot WHERE id = ? FOR UPDATE`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return l, 0, problem.NotFound("lot", fmt.Sprint(id))
	}
	if err != nil {
		return l, 0, err
	}
	var onHand float64
	// A locking read, so that movements committed since this act began count.
	err = tx.GetContext(ctx, &onHand, `SELECT COALESCE(SUM(grams), 0) FROM movement WHERE lot_id = ? LOCK IN SHARE MODE`, id)
	return l, onHand, err
}

// Movement is one line of the ledger.
type Movement struct {
	Grams  float64   `db:"grams" json:"grams"`
	Reason string    `db:"reason" json:"reason"`
	Note   string    `db:"note" json:"note"`
	At     time.Time `db:"at" json:"at"`
	Who    string    `db:"who" json:"who"`
	Part   string    `db:"part" json:"part"`
	Mix    *string   `db:"mix" json:"mix,omitempty"`
}

func (s *Service) movements(ctx context.Context, code string) ([]Movement, error) {
	list := []Movement{}
	err := s.DB.SelectContext(ctx, &list, `SELECT v.grams, v.reason, v.note, v.at, p.name AS who, l.part, x.code AS mix
		FROM movement v JOIN lot l ON l.id = v.lot_id JOIN person p ON p.id = v.person_id
		LEFT JOIN weigh_in w ON w.id = v.weigh_in_id LEFT JOIN mix_line n ON n.id = w.mix_line_id LEFT JOIN mix x ON x.id = n.mix_id
		WHERE l.code = ? ORDER BY v.at DESC, v.id DESC LIMIT 500`, code)
	return list, err
}

// paths are the ways lot → mix → copy → kit, and lot → copy where a stage took it
// without a mix: one row a way, from the thing whose code is asked for. Each
// goes by indexes: lot_once or the code's own, mix_line_trace or mix_line_back,
// run_mix_back or its primary key, copy_run, movement_stage, kit_copy.copy_id or
// its primary key. Only what was weighed went into a mix.
var paths = map[string]map[string][]string{
	trace.Forward: {
		"lot": {`SELECT l.code AS lot, x.code AS mix, c.code AS copy, k.code AS kit FROM lot l JOIN mix_line n ON n.lot_id = l.id AND EXISTS (SELECT 1 FROM weigh_in w WHERE w.mix_line_id = n.id) JOIN mix x ON x.id = n.mix_id ` + onwards + ` WHERE l.code = ?`,
			`SELECT l.code AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM lot l JOIN movement v ON v.lot_id = l.id JOIN run_stage t ON t.id = v.stage_id JOIN copy c ON c.run_id = t.run_id ` + intoKit + ` WHERE l.code = ?`},
		"mix":    {`SELECT NULL AS lot, x.code AS mix, c.code AS copy, k.code AS kit FROM mix x ` + onwards + ` WHERE x.code = ?`},
		"copy":   {`SELECT NULL AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM copy c ` + intoKit + ` WHERE c.code = ?`},
		"form":   {`SELECT f.code AS form, d.code AS mould, c.code AS copy, k.code AS kit FROM form f JOIN mould d ON d.form_id = f.id LEFT JOIN copy c ON c.mould_id = d.id ` + intoKit + ` WHERE f.code = ?`},
		"sculpt": {`SELECT ` + sculptCode + ` AS sculpt, d.code AS mould, c.code AS copy, k.code AS kit FROM mould d JOIN piece q ON q.id = d.piece_id LEFT JOIN copy c ON c.mould_id = d.id ` + intoKit + ` WHERE ` + sculptCode + ` = ?`},
	},
	trace.Backward: {
		"mix": {`SELECT l.code AS lot, x.code AS mix, NULL AS copy, NULL AS kit FROM mix x ` + fromLot + ` WHERE x.code = ?`},
		"copy": {`SELECT l.code AS lot, x.code AS mix, c.code AS copy, NULL AS kit FROM copy c ` + fromMix + fromLot + ` WHERE c.code = ?`,
			`SELECT l.code AS lot, NULL AS mix, c.code AS copy, NULL AS kit FROM copy c ` + fromStage + ` WHERE c.code = ?`,
			moulded(`copy c JOIN mould d ON d.id = c.mould_id`, `, c.code AS copy`, `c.code = ?`)[0], moulded(`copy c JOIN mould d ON d.id = c.mould_id`, `, c.code AS copy`, `c.code = ?`)[1]},
		"kit": {`SELECT l.code AS lot, x.code AS mix, c.code AS copy, k.code AS kit FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id ` + fromMix + fromLot + ` WHERE k.code = ?`,
			`SELECT l.code AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id ` + fromStage + ` WHERE k.code = ?`,
			`SELECT NULL AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id WHERE k.code = ?`,
			moulded(kitMould, `, c.code AS copy, k.code AS kit`, `k.code = ?`)[0], moulded(kitMould, `, c.code AS copy, k.code AS kit`, `k.code = ?`)[1]},
	},
}

const (
	intoKit   = `LEFT JOIN kit_copy kc ON kc.copy_id = c.id LEFT JOIN kit k ON k.id = kc.kit_id`
	onwards   = `LEFT JOIN run_mix rm ON rm.mix_id = x.id LEFT JOIN copy c ON c.run_id = rm.run_id ` + intoKit
	fromMix   = `JOIN run_mix rm ON rm.run_id = c.run_id JOIN mix x ON x.id = rm.mix_id `
	fromLot   = `LEFT JOIN mix_line n ON n.mix_id = x.id AND EXISTS (SELECT 1 FROM weigh_in w WHERE w.mix_line_id = n.id) LEFT JOIN lot l ON l.id = n.lot_id`
	fromStage = `JOIN run_stage t ON t.run_id = c.run_id JOIN movement v ON v.stage_id = t.id STRAIGHT_JOIN lot l ON l.id = v.lot_id`
)

// kitMould are the moulds of a kit's copies.
const kitMould = `kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id JOIN mould d ON d.id = c.mould_id`

// sculptCode names the version of a sculpt that a mould was taken of: the piece
// and its texture.
const sculptCode = `IF(d.texture_number IS NULL, NULL, CONCAT(q.code, ' T', d.texture_number))`

// moulded are the ways back from a mould d: to its form, and to its sculpt.
func moulded(from, then, where string) []string {
	return []string{
		`SELECT f.code AS form, d.code AS mould` + then + ` FROM ` + from + ` LEFT JOIN form f ON f.id = d.form_id WHERE ` + where,
		`SELECT ` + sculptCode + ` AS sculpt, d.code AS mould` + then + ` FROM ` + from + ` JOIN piece q ON q.id = d.piece_id WHERE ` + where,
	}
}

// way is one row of a path, in the order in which things go into each other.
type way struct{ Form, Sculpt, Mould, Lot, Mix, Copy, Kit *string }

// edges reads the part of the graph of lots, mixes, forms, sculpts, moulds, copies
// and kits that can be reached
// from start in one direction. A kit goes nowhere; lots, forms and sculpts come from nowhere.
func (s *Service) edges(ctx context.Context, start trace.Node, direction string) ([]trace.Edge, error) {
	var ways []way
	for _, query := range paths[direction][start.Kind] {
		var more []way
		if err := s.DB.SelectContext(ctx, &more, query, start.Code); err != nil {
			return nil, fmt.Errorf("reading what went into what: %w", err)
		}
		ways = append(ways, more...)
	}
	var edges []trace.Edge
	known := map[trace.Edge]bool{}
	for _, w := range ways {
		var from *trace.Node
		for _, stop := range []struct {
			kind string
			code *string
		}{{"form", w.Form}, {"sculpt", w.Sculpt}, {"mould", w.Mould}, {"lot", w.Lot}, {"mix", w.Mix}, {"copy", w.Copy}, {"kit", w.Kit}} {
			if stop.code == nil {
				continue
			}
			to := trace.Node{Kind: stop.kind, Code: *stop.code}
			if from != nil {
				if e := (trace.Edge{From: *from, To: to}); !known[e] {
					known[e] = true
					edges = append(edges, e)
				}
			}
			from = &to
		}
	}
	return edges, nil
}
