package stores

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"time"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// KitLot is a lot that goes with a kit: glue, what takes it off, colour, powder.
type KitLot struct {
	Lot      string  `db:"lot" json:"lot"`
	Part     string  `db:"part" json:"part"`
	Material string  `db:"material" json:"material"`
	Name     string  `db:"name" json:"name"`
	NeedG    float64 `db:"-" json:"need_g" doc:"what its day takes; 0 where nothing says it"`
	TakenG   float64 `db:"taken_g" json:"taken_g" doc:"taken out of the lot for this kit already"`
	Refused  string  `db:"-" json:"refused,omitempty"`
}

// KitLots are the lots of a kit, each with what its copies take of it.
func (s *Service) KitLots(ctx context.Context, kit string) ([]KitLot, error) {
	list := []KitLot{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT l.code AS lot, l.part, m.slug AS material, m.name, COALESCE(-(SELECT SUM(v.grams) FROM movement v WHERE v.lot_id = l.id AND v.kit_id = k.id), 0) AS taken_g
		FROM kit k JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id JOIN material m ON m.id = l.material_id WHERE k.code = ? ORDER BY m.name`, kit); err != nil {
		return nil, fmt.Errorf("reading what goes with the kit: %w", err)
	}
	need, err := s.Kits.Takes(ctx, kit)
	if err != nil {
		return nil, err
	}
	for i := range list {
		list[i].NeedG = need[list[i].Material]
		l, err := s.one(ctx, s.DB, list[i].Lot, list[i].Part)
		if err != nil {
			return nil, err
		}
		list[i].Refused = l.Refused
	}
	return list, nil
}

// kitWants are what kits that have not left the shop still take of the lots that go
// with them.
func (s *Service) kitWants(ctx context.Context) ([]Want, error) {
	var rows []struct {
		Kit      string
		Day      time.Time
		Material string
		Taken    float64
	}
	// The open ones by index kit_open: a handful.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT k.code AS kit, d.day, m.slug AS material, COALESCE(-SUM(v.grams), 0) AS taken
		FROM kit k JOIN shooting_day d ON d.id = k.day_id JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id JOIN material m ON m.id = l.material_id
		LEFT JOIN movement v ON v.lot_id = l.id AND v.kit_id = k.id WHERE k.handed_at IS NULL AND k.received_at IS NULL GROUP BY k.code, d.day, m.slug ORDER BY k.code, m.slug`); err != nil {
		return nil, fmt.Errorf("reading what open kits take: %w", err)
	}
	var out []Want
	needs := map[string]map[string]float64{}
	for _, r := range rows {
		if needs[r.Kit] == nil {
			need, err := s.Kits.Takes(ctx, r.Kit)
			if err != nil {
				return nil, err
			}
			needs[r.Kit] = need
		}
		if left := needs[r.Kit][r.Material] - r.Taken; left > 0 {
			out = append(out, Want{For: r.Kit, Material: r.Material, Grams: left, On: r.Day})
		}
	}
	return out, nil
}

// KitTaken is what is filled off a lot for a kit.
type KitTaken struct {
	Lot    string `json:"lot" maxLength:"32"`
	Part   string `json:"part,omitempty" enum:",A,B"`
	Amount string `json:"amount" maxLength:"64"`
}

// Kits is the room that packs kits.
type Kits interface {
	// Takes is what a kit takes of each product in g, by its slug.
	Takes(ctx context.Context, kit string) (map[string]float64, error)
	// AskAgain asks the rule book, inside the act, about a product that is filled off for a kit.
	AskAgain(ctx context.Context, tx database.Tx, kit, slug string) error
}

// TakeForKit draws what goes with a kit from its lot. Much can have come to light since
// it was packed: the rule book is asked again, and whether the lot may still be used.
func (s *Service) TakeForKit(ctx context.Context, kit string, in KitTaken) ([]KitLot, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var id uint64
		if err := tx.GetContext(ctx, &id, `SELECT k.id FROM kit k JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id WHERE k.code = ? AND l.code = ? AND l.part = ? FOR UPDATE`, kit, in.Lot, in.Part); errors.Is(err, sql.ErrNoRows) {
			return problem.Invalid("unknown_value", "lot", "Lot %s does not go with kit %s.", in.Lot, kit)
		} else if err != nil {
			return err
		}
		l, err := s.one(ctx, tx, in.Lot, in.Part)
		if err != nil {
			return err
		}
		if l.Refused != "" {
			return problem.Invalid("lot_refused", "lot", "Lot %s may not be used: %s.", in.Lot, l.Refused)
		}
		if err := s.Kits.AskAgain(ctx, tx, kit, l.Material); err != nil {
			return err
		}
		_, onHand, err := s.lock(ctx, tx, l.ID)
		if err != nil {
			return err
		}
		grams, err := amountOf(in.Amount, l, materials[l.Material].DensityOf(in.Amount), onHand, "amount")
		if err != nil {
			return err
		}
		if err := s.take(ctx, tx, l, onHand, moved{lot: l.ID, grams: -grams, reason: "used", note: kit, kit: &id}); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "kit", Code: kit, Act: "filled off", Words: fmt.Sprintf("%s of %s, lot %s", quantity.FormatMass(grams), l.MaterialName, l.Name())})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "lots", in.Lot)
	s.Live.Tell(ctx, "kits", kit)
	return s.KitLots(ctx, kit)
}

// FillForKit draws so much of a product into a kit: from the lot that is set aside for it, or else from the one that runs out
// first of those that may be used, which is then set aside. 0 g only sets it aside.
func (s *Service) FillForKit(ctx context.Context, tx database.Tx, kit, slug string, grams float64) (string, error) {
	var id uint64
	if err := tx.GetContext(ctx, &id, `SELECT id FROM kit WHERE code = ?`, kit); err != nil {
		return "", err
	}
	list, err := s.Lots(ctx, tx, slug)
	if err != nil {
		return "", err
	}
	var mine []uint64
	if err := tx.SelectContext(ctx, &mine, `SELECT kl.lot_id FROM kit_lot kl WHERE kl.kit_id = ?`, id); err != nil {
		return "", err
	}
	pick := slices.IndexFunc(list, func(l Lot) bool { return l.Refused == "" && slices.Contains(mine, l.ID) })
	if pick < 0 {
		pick = slices.IndexFunc(list, func(l Lot) bool { return l.Refused == "" })
	}
	if pick < 0 {
		return "", problem.Conflict("no_lot", "There is no lot of it on the shelf that may be used. Nothing was recorded.")
	}
	l := list[pick]
	if err := s.Kits.AskAgain(ctx, tx, kit, l.Material); err != nil {
		return "", err
	}
	if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO kit_lot (kit_id, lot_id) VALUES (?,?)`, id, l.ID); err != nil {
		return "", fmt.Errorf("setting the lot aside: %w", err)
	}
	if grams <= 0 {
		return l.Name(), nil
	}
	_, onHand, err := s.lock(ctx, tx, l.ID)
	if err != nil {
		return "", err
	}
	if onHand < grams-1e-9 {
		return "", problem.Invalid("too_little", "amount", "Lot %s holds %s. Nothing was recorded.", l.Name(), quantity.FormatMass(onHand))
	}
	return l.Name(), s.take(ctx, tx, l, onHand, moved{lot: l.ID, grams: -grams, reason: "used", note: kit, kit: &id})
}

// OrderedBy is when more of a product can be here: within its lead time from now, by what the shop keeps of it. The
// words say what there is; both are empty where a lot stands on the shelf that may be used.
func (s *Service) OrderedBy(ctx context.Context, slug string) (time.Time, string, error) {
	list, err := s.Lots(ctx, s.DB, slug)
	if err != nil {
		return time.Time{}, "", err
	}
	if slices.ContainsFunc(list, func(l Lot) bool { return l.Refused == "" }) {
		return time.Time{}, "", nil
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return time.Time{}, "", err
	}
	why := "none on the shelf"
	if len(list) > 0 {
		why = "none on the shelf that may be used"
	}
	keep := materials[slug].Keep
	if keep == nil || keep.LeadDays == 0 {
		return time.Time{}, why + ", and nobody wrote down how long it takes to come", nil
	}
	by := s.Clock.Now().AddDate(0, 0, keep.LeadDays)
	return by, fmt.Sprintf("%s; ordered today it is here on %s", why, by.Format("Mon 2 Jan")), nil
}

// Arrives is when more of a product can be here, ordered now, by what the shop keeps of it; none where nobody wrote down how long it
// takes.
func (s *Service) Arrives(ctx context.Context, slug string) (*time.Time, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	keep := materials[slug].Keep
	if keep == nil || keep.LeadDays == 0 {
		return nil, nil
	}
	by := s.Clock.Now().Truncate(24*time.Hour).AddDate(0, 0, keep.LeadDays).Add(openAt)
	return &by, nil
}

// openAt is when a delivery is taken in, after midnight.
const openAt = 9 * time.Hour
