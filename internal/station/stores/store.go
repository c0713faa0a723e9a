package stores

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"yewmoor/internal/craft/stock"
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
	// UseBy is the hour until which prepared stock is good; Mix what it was mixed as.
	UseBy   *time.Time `db:"use_by" json:"use_by,omitempty"`
	Mix     string     `db:"mix" json:"mix,omitempty"`
	Receipt string     `db:"receipt" json:"receipt,omitempty"`
	// FromLot is the lot that this vessel was filled from.
	FromLot string  `db:"from_lot" json:"from_lot,omitempty"`
	Batch   *string `db:"batch" json:"-"`
}

// Batch is the water of a base that was put by and is melted again: its share, and
// kg water per kg solids as it was mixed.
type Batch struct {
	WaterShare float64 `json:"water_share"`
	Start      float64 `json:"start"`
}

// BatchOf is that of this lot, nil for what is no base.
func (l Lot) BatchOf() *Batch {
	var b Batch
	if l.Batch == nil || json.Unmarshal([]byte(*l.Batch), &b) != nil {
		return nil
	}
	return &b
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
		l.status, l.status_reason, l.shelf, l.used_up_at, l.use_by, l.batch, COALESCE(x.code, '') AS mix, COALESCE(r.code, '') AS receipt, COALESCE(f.code, '') AS from_lot,
		COALESCE((SELECT SUM(grams) FROM movement v WHERE v.lot_id = l.id), 0) AS on_hand_g
		FROM lot l JOIN material m ON m.id = l.material_id LEFT JOIN mix x ON x.id = l.mix_id LEFT JOIN receipt r ON r.id = l.receipt_id LEFT JOIN lot f ON f.id = l.from_lot_id `+where+` ORDER BY m.family, m.name, l.expires_on, l.code, l.part`, args...)
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
