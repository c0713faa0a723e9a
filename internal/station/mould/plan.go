package mould

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"time"

	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Plan is the build sheet of a piece's next mould.
type Plan struct {
	ID        uint64            `json:"id,omitempty" doc:"0: nothing is planned yet"`
	Sheet     *mouldmath.Sheet  `json:"sheet,omitempty"`
	PlannedAt *time.Time        `json:"planned_at,omitempty"`
	PlannedBy string            `json:"planned_by,omitempty"`
	Ticks     []Ticked          `json:"ticks"`
	Scanned   Scanned           `json:"scanned"`
	Usual     mouldmath.Body    `json:"usual" doc:"a body to begin with where nothing was scanned: by what is believed of the piece, else from the usual area of its region"`
	Kinds     []string          `json:"kinds"`
	Stuffs    []mouldmath.Stuff `json:"stuffs"`
	// Release is what the agreed section says goes on mould and core.
	Release string `json:"release,omitempty"`
	Family  string `json:"family" doc:"what the piece is cast in"`
	Held    string `json:"held" doc:"why the sculpt may not be moulded yet"`
}

// Ticked is one point of the sheet that a named person did.
type Ticked struct {
	Item string    `db:"item" json:"item"`
	At   time.Time `db:"at" json:"at"`
	Who  string    `db:"who" json:"who"`
}

// usual is a body to begin with where nothing was scanned: the area and volume that
// are believed of the piece, bent by a quarter of its width; else its region's usual
// area, 5 mm thick. A guess to be typed over.
func usual(name string, volumeML, areaCM2 float64) mouldmath.Body {
	r, _ := region.Find(name)
	if areaCM2 == 0 {
		areaCM2 = r.AreaCM2
	}
	area := areaCM2 * 100
	side := math.Round(math.Sqrt(area))
	thick := 5.0
	if volumeML > 0 {
		thick = volumeML * 1000 / area
	}
	return mouldmath.Body{AreaMM2: area, VolumeMM3: area * thick, SizeMM: [3]float64{side, side, math.Round(side/4 + thick)}}
}

// sectionRelease is the name of the release that a piece's agreed section names.
func (s *Service) sectionRelease(ctx context.Context, p piece.Piece) (string, error) {
	doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil || number == 0 || doc.Made.Release == "" {
		return "", err
	}
	materials, err := shelf.Load(ctx, s.DB)
	return materials[doc.Made.Release].Name, err
}

// PlanOf reads what is planned for a piece's next mould.
func (s *Service) PlanOf(ctx context.Context, code string) (Plan, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Plan{}, err
	}
	voices, areas, err := s.Pieces.VoicesOf(ctx, s.DB, p)
	if err != nil {
		return Plan{}, err
	}
	out := Plan{Ticks: []Ticked{}, Usual: usual(p.Region, voices.VolumeML, areas.CM2), Kinds: mouldmath.Kinds, Stuffs: mouldmath.Stuffs, Family: p.Family}
	if out.Scanned, err = s.Scans.Body(ctx, code); err != nil {
		return out, err
	}
	if voices.VolumeML > 0 {
		out.Scanned.CavityMM3 = voices.VolumeML * 1000 // what is believed, whoever told it
	}
	if out.Release, err = s.sectionRelease(ctx, p); err != nil {
		return out, err
	}
	open, err := s.Sculpt.Gate(ctx, s.DB, p)
	if err != nil {
		return out, err
	}
	if at := slices.IndexFunc(open, func(f rules.Finding) bool { return f.Severity == rules.Stop }); at >= 0 {
		out.Held = open[at].Reason
	}
	var rows []struct {
		ID  uint64    `db:"id"`
		Doc string    `db:"doc"`
		At  time.Time `db:"planned_at"`
		Who string    `db:"who"`
	}
	// Index mould_plan_piece. A plan by which a mould was built is done with.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT l.id, l.doc, l.planned_at, p.name AS who FROM mould_plan l JOIN person p ON p.id = l.planned_by WHERE l.piece_id = ? AND NOT EXISTS (SELECT 1 FROM mould m WHERE m.plan_id = l.id) ORDER BY l.id DESC LIMIT 1`, p.ID); err != nil {
		return out, fmt.Errorf("reading the build sheet: %w", err)
	}
	if len(rows) == 0 {
		return out, nil
	}
	return out, s.fillPlan(ctx, &out, rows[0].ID, rows[0].Doc, rows[0].At, rows[0].Who)
}

func (s *Service) fillPlan(ctx context.Context, out *Plan, id uint64, doc string, at time.Time, who string) error {
	var order mouldmath.Order
	if err := json.Unmarshal([]byte(doc), &order); err != nil {
		return fmt.Errorf("reading build sheet %d: %w", id, err)
	}
	sheet, err := s.build(ctx, order)
	if err != nil {
		return err
	}
	out.ID, out.Sheet, out.PlannedAt, out.PlannedBy = id, &sheet, &at, who
	return s.DB.SelectContext(ctx, &out.Ticks, `SELECT t.item, t.at, p.name AS who FROM mould_plan_tick t JOIN person p ON p.id = t.person_id WHERE t.plan_id = ? ORDER BY t.at`, id)
}

// Lay keeps a build sheet as the piece's next mould's.
func (s *Service) Lay(ctx context.Context, code string, order mouldmath.Order) (Plan, error) {
	if _, err := mouldmath.Build(order); err != nil {
		return Plan{}, err
	}
	doc, err := json.Marshal(order)
	if err != nil {
		return Plan{}, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		who, _ := accounts.From(ctx)
		if _, err := tx.ExecContext(ctx, `INSERT INTO mould_plan (piece_id, doc, planned_at, planned_by) VALUES (?,?,?,?)`, p.ID, string(doc), s.Clock.Now(), who.ID); err != nil {
			return fmt.Errorf("keeping the build sheet: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "mould", Code: code, Act: "planned", Words: order.Kind + ", " + order.Stuff})
		return err
	})
	if err != nil {
		return Plan{}, err
	}
	s.Live.Tell(ctx, "moulds", code)
	return s.PlanOf(ctx, code)
}

// Tick says that a point of the sheet was done, or takes that back.
func (s *Service) Tick(ctx context.Context, code string, plan uint64, item string, done bool) (Plan, error) {
	now, err := s.PlanOf(ctx, code)
	if err != nil {
		return now, err
	}
	if now.ID != plan || now.Sheet == nil {
		return now, problem.Conflict("moved_on", "Another build sheet was laid out meanwhile; look again.")
	}
	known := slices.ContainsFunc(now.Sheet.Items, func(i mouldmath.Item) bool { return i.Key == item }) || slices.ContainsFunc(now.Sheet.Steps, func(i mouldmath.Step) bool { return i.Key == item })
	if !known {
		return now, problem.Invalid("unknown_value", "item", "This is not on the sheet.")
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		who, _ := accounts.From(ctx)
		act := "done"
		if done {
			_, err = tx.ExecContext(ctx, `INSERT IGNORE INTO mould_plan_tick (plan_id, item, at, person_id) VALUES (?,?,?,?)`, plan, item, s.Clock.Now(), who.ID)
		} else {
			act = "not done after all"
			_, err = tx.ExecContext(ctx, `DELETE FROM mould_plan_tick WHERE plan_id = ? AND item = ?`, plan, item)
		}
		if err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "mould", Code: code, Act: act, Words: item})
		return err
	})
	if err != nil {
		return Plan{}, err
	}
	s.Live.Tell(ctx, "moulds", code)
	return s.PlanOf(ctx, code)
}
