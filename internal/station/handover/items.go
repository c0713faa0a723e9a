package handover

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/outing"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// KitItem is one thing of a kit, with how far it is.
type KitItem struct {
	outing.Item
	Added    bool       `json:"added" doc:"by hand; the rest follows from the pieces and the day"`
	Dropped  string     `json:"dropped" doc:"why it is left out; empty where it goes along"`
	PackedAt *time.Time `json:"packed_at,omitempty"`
	PackedBy string     `json:"packed_by,omitempty"`
	Packed   *float64   `json:"packed,omitempty" doc:"as it was weighed or counted, in its unit"`
	Lot      string     `json:"lot" doc:"that is set aside for it"`
	Missing  string     `json:"missing" doc:"why it is not there; empty where nobody said that it lacks"`
	Lacks    string     `json:"lacks" doc:"the shop has no lot of it that may be used; with when more can be here"`
	Back     *float64   `json:"back,omitempty" doc:"what came back of it"`
}

// CopiesWanted is how many copies of a piece the kit wants, and what there is.
type CopiesWanted struct {
	Piece string     `json:"piece"`
	In    int        `json:"in"`
	Says  fit.Wanted `json:"says"`
	// Free are accepted copies that could still be packed; Coming says when the next can be, where one is made.
	Free   []string `json:"free"`
	Coming string   `json:"coming"`
}

// Contents is what a kit holds and still wants.
type Contents struct {
	Items   []KitItem        `json:"items"`
	Copies  []CopiesWanted   `json:"copies"`
	Parcels []outing.Parcel  `json:"parcels"`
	Holds   []outing.Holding `json:"holds"`
	Open    int              `json:"open" doc:"things that are neither packed nor left out"`
	Missing []string         `json:"missing" doc:"by name"`
	// Complete says that nothing is open; By when it could be, where that is known.
	Complete bool       `json:"complete"`
	By       *time.Time `json:"by,omitempty"`
	Why      string     `json:"why" doc:"what it waits for"`
}

type itemRow struct {
	Item     string
	Kind     string
	Name     string
	Need     float64
	Unit     string
	Why      string
	Added    bool
	Dropped  string     `db:"dropped_why"`
	PackedAt *time.Time `db:"packed_at"`
	PackedBy string     `db:"packed_by"`
	Packed   *float64   `db:"packed_amount"`
	Missing  string
	Back     *float64 `db:"back_amount"`
}

// Contents reads what goes with a kit, worked out from its pieces and its day as they are now.
func (s *Service) Contents(ctx context.Context, code string) (Contents, error) {
	k, err := s.Kit(ctx, code)
	if err != nil {
		return Contents{}, err
	}
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		return Contents{}, err
	}
	return s.contents(ctx, s.DB, d)
}

func (s *Service) contents(ctx context.Context, db database.Reader, d day) (Contents, error) {
	out := Contents{Items: []KitItem{}, Missing: []string{}, Copies: []CopiesWanted{}, Parcels: outing.Parcels(d.pieces, d.ages, d.air, d.shelf), Holds: outing.Holds(d.pieces, d.air, d.shelf)}
	items, err := s.items(ctx, db, d)
	if err != nil {
		return out, err
	}
	out.Items = items
	wait := func(by time.Time, why string) {
		if !by.IsZero() && (out.By == nil || by.After(*out.By)) {
			out.By, out.Why = &by, why
		}
		if out.Why == "" {
			out.Why = why
		}
	}
	for i := range out.Items {
		it := &out.Items[i]
		if it.Dropped != "" || it.PackedAt != nil {
			continue
		}
		out.Open++
		if it.Missing != "" {
			out.Missing = append(out.Missing, it.Name)
		}
		if it.Slug == "" || it.Need == 0 || it.Lot != "" || d.shelf[it.Slug].Tap {
			continue
		}
		by, why, err := s.Lots.OrderedBy(ctx, it.Slug)
		if err != nil {
			return out, err
		}
		if it.Lacks = why; why != "" {
			wait(by, it.Name+": "+why)
		}
	}
	if out.Copies, err = s.copiesWanted(ctx, db, d, wait); err != nil {
		return out, err
	}
	for _, c := range out.Copies {
		if lack := c.Says.Copies - c.In; lack > 0 {
			out.Open++
			out.Missing = append(out.Missing, fmt.Sprintf("%d of %s", lack, c.Piece))
		}
	}
	out.Complete = out.Open == 0
	return out, nil
}

// items are what follows from pieces and day, with what was noted of each, and what was added by hand.
func (s *Service) items(ctx context.Context, db database.Reader, d day) ([]KitItem, error) {
	var rows []itemRow
	if err := db.SelectContext(ctx, &rows, `SELECT i.item, i.kind, i.name, i.need, i.unit, i.why, i.added, i.dropped_why, i.packed_at, COALESCE(p.name, '') AS packed_by, i.packed_amount, i.missing, i.back_amount
		FROM kit_item i LEFT JOIN person p ON p.id = i.packed_by WHERE i.kit_id = ? ORDER BY i.id`, d.kit.ID); err != nil {
		return nil, fmt.Errorf("reading what was packed: %w", err)
	}
	var lots []struct{ Slug, Lot string }
	if err := db.SelectContext(ctx, &lots, `SELECT m.slug, CONCAT(l.code, IF(l.part = '', '', CONCAT(' ', l.part))) AS lot FROM kit_lot k JOIN lot l ON l.id = k.lot_id JOIN material m ON m.id = l.material_id WHERE k.kit_id = ? AND l.status = 'ok' ORDER BY l.code`, d.kit.ID); err != nil {
		return nil, fmt.Errorf("reading the lots of the kit: %w", err)
	}
	list := outing.Items(d.pieces, d.air, d.choices, d.colours, d.shelf)
	out := make([]KitItem, 0, len(list)+len(rows))
	for _, it := range list {
		out = append(out, KitItem{Item: it})
	}
	for _, r := range rows {
		i := slices.IndexFunc(out, func(k KitItem) bool { return k.Key == r.Item })
		if i < 0 {
			if r.PackedAt == nil && !r.Added {
				continue // of a piece that is no longer in the kit
			}
			out = append(out, KitItem{Item: outing.Item{Key: r.Item, Kind: r.Kind, Name: r.Name, Need: r.Need, Unit: r.Unit, Why: r.Why}})
			i = len(out) - 1
		}
		it := &out[i]
		it.Added, it.Dropped, it.PackedAt, it.PackedBy, it.Packed, it.Missing, it.Back = r.Added, r.Dropped, r.PackedAt, r.PackedBy, r.Packed, r.Missing, r.Back
	}
	for i := range out {
		for _, l := range lots {
			if l.Slug == out[i].Slug {
				out[i].Lot = l.Lot
			}
		}
	}
	return out, nil
}

// copiesWanted says of each piece how many copies the kit's uses take, nine times in ten, and what there is.
func (s *Service) copiesWanted(ctx context.Context, db database.Reader, d day, wait func(time.Time, string)) ([]CopiesWanted, error) {
	wants := outing.Wants(d.pieces, len(d.kit.Days), d.choices.Times, d.shelf)
	out := []CopiesWanted{}
	for _, p := range d.pieces {
		w, glued := wants[p.Code]
		if !glued {
			continue
		}
		c := CopiesWanted{Piece: p.Code, In: p.Copies, Says: w, Free: []string{}}
		if err := db.SelectContext(ctx, &c.Free, `SELECT c.code FROM copy c JOIN piece q ON q.id = c.piece_id WHERE q.code = ? AND c.state = 'accepted' AND c.use_as = '' ORDER BY c.number`, p.Code); err != nil {
			return nil, err
		}
		if w.Copies > c.In+len(c.Free) {
			var by time.Time
			var row struct {
				Making int
				Bench  int
			}
			if err := db.GetContext(ctx, &row, `SELECT COALESCE(SUM(c.state = 'making'), 0) AS making, COALESCE(SUM(c.state IN ('made','repair')), 0) AS bench FROM copy c JOIN piece q ON q.id = c.piece_id WHERE q.code = ?`, p.Code); err != nil {
				return nil, err
			}
			switch {
			case row.Bench > 0:
				c.Coming = fmt.Sprintf("%d on the bench, to be finished and accepted", row.Bench)
			case row.Making > 0:
				c.Coming = fmt.Sprintf("%d being made", row.Making)
				out, err := s.Pots.NextOut(ctx, p.Code)
				if err != nil {
					return nil, err
				}
				if !out.IsZero() { // and a working day to finish, look at and accept it; ours
					by = out.AddDate(0, 0, 1)
					c.Coming += ", the next is out " + out.Format("Mon 2 Jan 15:04") + ", and wants about a day to be finished"
				}
			default:
				c.Coming = "another run is needed"
			}
			wait(by, p.Code+": "+c.Coming)
		}
		out = append(out, c)
	}
	return out, nil
}

// Takes is what a kit takes of each product in g, by its slug: what the stores set aside for it.
func (s *Service) Takes(ctx context.Context, code string) (map[string]float64, error) {
	k, err := s.Kit(ctx, code)
	if err != nil {
		return nil, err
	}
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		var no *problem.Problem
		if errors.As(err, &no) && no.Code == "no_section" {
			return map[string]float64{}, nil
		}
		return nil, err
	}
	items, err := s.items(ctx, s.DB, d)
	if err != nil {
		return nil, err
	}
	out := map[string]float64{}
	for _, it := range items {
		if it.Slug != "" && it.Unit == "g" && it.Dropped == "" {
			out[it.Slug] += it.Need
		}
	}
	return out, nil
}

// ItemAct is what somebody does with a thing of a kit.
type ItemAct struct {
	Act    string  `json:"act" enum:"pack,unpack,missing,drop,take,add"`
	Item   string  `json:"item,omitempty" maxLength:"160" doc:"its key; none for one that is added"`
	Amount float64 `json:"amount,omitempty" minimum:"0" maximum:"100000" doc:"weighed or counted, in its unit; 0 for what is needed"`
	Words  string  `json:"words,omitempty" maxLength:"200" doc:"why it is missing or left out"`
	Name   string  `json:"name,omitempty" maxLength:"160"`
	Kind   string  `json:"kind,omitempty" enum:",lens,hair,tool,blood,other"`
	Unit   string  `json:"unit,omitempty" enum:",g,ml,pcs"`
}

// DoItem packs a thing, takes it out again, says that it is missing or left out, or adds one. What is packed of a product is drawn from
// its lot in the same act, which asks the rule book.
func (s *Service) DoItem(ctx context.Context, code string, in ItemAct) (Contents, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		k, err := s.onTheShelf(ctx, tx, code)
		if err != nil {
			return err
		}
		d, err := s.dayOf(ctx, tx, k)
		if err != nil {
			return err
		}
		if in.Act == "add" {
			return s.addItem(ctx, tx, k, in)
		}
		items, err := s.items(ctx, tx, d)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(items, func(it KitItem) bool { return it.Key == in.Item })
		if i < 0 {
			return problem.Invalid("unknown_value", "item", "Nothing of that name goes with %s.", code)
		}
		return s.doItem(ctx, tx, k, items[i], in)
	})
	if err != nil {
		return Contents{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	return s.Contents(ctx, code)
}

func (s *Service) addItem(ctx context.Context, tx database.Tx, k Kit, in ItemAct) error {
	name := strings.TrimSpace(in.Name)
	if name == "" {
		return problem.Invalid("missing", "name", "What goes along?")
	}
	kind, unit := in.Kind, in.Unit
	if kind == "" {
		kind = "other"
	}
	if unit == "" {
		unit = "pcs"
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO kit_item (kit_id, item, kind, name, need, unit, why, added) VALUES (?,?,?,?,?,?,?,TRUE)`, k.ID, "own:"+strings.ToLower(name), kind, name, in.Amount, unit, in.Words)
	if database.IsDuplicate(err) {
		return problem.Invalid("taken", "name", "%s goes along already.", name)
	}
	return err
}

func (s *Service) doItem(ctx context.Context, tx database.Tx, k Kit, it KitItem, in ItemAct) error {
	now := s.Clock.Now()
	who, _ := accounts.From(ctx)
	set := func(clause string, args ...any) error {
		if _, err := tx.ExecContext(ctx, `INSERT IGNORE INTO kit_item (kit_id, item, kind, name, need, unit, why) VALUES (?,?,?,?,?,?,?)`, k.ID, it.Key, it.Kind, it.Name, it.Need, it.Unit, it.Why); err != nil {
			return fmt.Errorf("noting what goes along: %w", err)
		}
		_, err := tx.ExecContext(ctx, `UPDATE kit_item SET `+clause+` WHERE kit_id = ? AND item = ?`, append(args, k.ID, it.Key)...)
		return err
	}
	say := func(act, words string) error {
		_, err := journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: k.Code, Act: act, Words: words})
		return err
	}
	words := strings.TrimSpace(in.Words)
	switch in.Act {
	case "pack":
		if it.PackedAt != nil {
			return nil // two people tick at once: the first stands
		}
		amount := in.Amount
		if amount == 0 {
			amount = it.Need
		}
		if it.Slug != "" && it.Unit == "g" && it.Need > 0 {
			if _, err := s.Lots.FillForKit(ctx, tx, k.Code, it.Slug, amount); err != nil {
				return err
			}
		}
		if err := set(`packed_at = ?, packed_by = ?, packed_amount = ?, need = ?, missing = '', dropped_why = ''`, now, who.ID, amount, it.Need); err != nil {
			return err
		}
		return say("item packed", fmt.Sprintf("%s, %g %s", it.Name, amount, it.Unit))
	case "unpack":
		if it.PackedAt == nil {
			return nil
		}
		if it.Slug != "" && it.Packed != nil && *it.Packed > 0 && it.Unit == "g" {
			return problem.Conflict("drawn", "%s was filled off its lot and stays drawn; count what comes back when the kit does.", it.Name)
		}
		if err := set(`packed_at = NULL, packed_by = NULL, packed_amount = NULL`); err != nil {
			return err
		}
		return say("item taken out", it.Name)
	case "missing", "drop":
		if words == "" {
			return problem.Invalid("missing", "words", "Say why.")
		}
		if it.PackedAt != nil {
			return problem.Conflict("packed", "%s is packed already.", it.Name)
		}
		if in.Act == "missing" {
			if err := set(`missing = ?`, words); err != nil {
				return err
			}
			return say("item missing", it.Name+": "+words)
		}
		if err := set(`dropped_why = ?`, words); err != nil {
			return err
		}
		return say("item left out", it.Name+": "+words)
	}
	// take: it goes along after all
	return set(`dropped_why = '', missing = ''`)
}

// Returned is what comes back of a kit.
type Returned struct {
	Copies []ReturnedCopy `json:"copies" maxItems:"60"`
	Items  []ReturnedItem `json:"items" maxItems:"200"`
	Words  string         `json:"words,omitempty" maxLength:"500"`
}

// ReturnedCopy is one copy as it comes back.
type ReturnedCopy struct {
	Code  string  `json:"code" maxLength:"24"`
	Back  string  `json:"back" enum:"again,spent,lost" doc:"may be worn again, not to be worn again, or not there"`
	WornH float64 `json:"worn_h,omitempty" minimum:"0" maximum:"48" doc:"0 keeps what the artist said"`
	Words string  `json:"words,omitempty" maxLength:"300"`
}

// ReturnedItem is what is left of a thing, in its unit.
type ReturnedItem struct {
	Item   string  `json:"item" maxLength:"160"`
	Amount float64 `json:"amount" minimum:"0" maximum:"100000"`
}

// Return counts what comes back of a kit that left. A copy that may be worn again is an accepted one again; the rule book
// is asked about it when it is packed anew.
func (s *Service) Return(ctx context.Context, code string, in Returned) (Kit, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM kit WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		k, err := s.find(ctx, tx, `k.code = ?`, code)
		if err != nil {
			return err
		}
		if k.HandedAt == nil {
			return problem.Conflict("not_here", "%s has not left the shop; take it apart instead.", code)
		}
		now := s.Clock.Now()
		for i, c := range in.Copies {
			if err := s.returnCopy(ctx, tx, k, c, fmt.Sprintf("copies[%d]", i), now); err != nil {
				return err
			}
		}
		for i, it := range in.Items {
			done, err := database.Changed(tx.ExecContext(ctx, `UPDATE kit_item SET back_amount = ?, back_at = ? WHERE kit_id = ? AND item = ? AND packed_at IS NOT NULL`, it.Amount, now, k.ID, it.Item))
			if err != nil {
				return err
			}
			if !done {
				return problem.Invalid("unknown_value", fmt.Sprintf("items[%d].item", i), "That was not packed with %s.", code)
			}
		}
		var out int
		if err := tx.GetContext(ctx, &out, `SELECT COUNT(*) FROM kit_copy WHERE kit_id = ? AND back = ''`, k.ID); err != nil {
			return err
		}
		who, _ := accounts.From(ctx)
		if out == 0 {
			if _, err := tx.ExecContext(ctx, `UPDATE kit SET back_at = COALESCE(back_at, ?), back_by = COALESCE(back_by, NULLIF(?, 0)) WHERE id = ?`, now, who.ID, k.ID); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "kit", Code: code, Act: "came back", Words: in.Words})
		return err
	})
	if err != nil {
		return Kit{}, err
	}
	s.Live.Tell(ctx, "kits", code)
	s.Live.Tell(ctx, "copies", "")
	return s.Kit(ctx, code)
}

func (s *Service) returnCopy(ctx context.Context, tx database.Tx, k Kit, in ReturnedCopy, field string, now time.Time) error {
	i := slices.IndexFunc(k.Copies, func(kc KitCopy) bool { return kc.Code == in.Code })
	if i < 0 {
		return problem.Invalid("unknown_value", field+".code", "%s is not in %s.", in.Code, k.Code)
	}
	if k.Copies[i].Back != "" {
		return nil // counted already: the first count stands
	}
	c, err := copies.Lock(ctx, tx, in.Code)
	if err != nil {
		return err
	}
	if in.Back == "again" {
		if err := s.mayBeWornAgain(ctx, tx, c.Piece, k); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE kit_copy SET back = ?, back_at = ?, back_words = ? WHERE kit_id = ? AND copy_id = ?`, in.Back, now, in.Words, k.ID, c.ID); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE copy_use SET returned_at = ?, worn_h = IF(? > 0, ?, COALESCE(worn_h, 0)) WHERE kit_id = ? AND copy_id = ?`, now, in.WornH, in.WornH, k.ID, c.ID); err != nil {
		return err
	}
	return comesBack(ctx, tx, now, c, in, k.Code)
}

// mayBeWornAgain holds back a copy under which skin reacted: that is no copy to be worn again.
func (s *Service) mayBeWornAgain(ctx context.Context, tx database.Tx, code string, k Kit) error {
	p, err := piece.Find(ctx, tx, code)
	if err != nil {
		return err
	}
	var open int
	if err := tx.GetContext(ctx, &open, `SELECT COUNT(*) FROM incident WHERE kit_id = ? AND piece_id = ?`, k.ID, p.ID); err != nil {
		return err
	}
	if open > 0 {
		return problem.Conflict("incident", "Skin reacted under %s. It is not worn again without licensed advice: count it as spent. Nothing was recorded.", code)
	}
	return nil
}

// comesBack moves a copy to what it is after its day.
func comesBack(ctx context.Context, tx database.Tx, now time.Time, c copies.Copy, in ReturnedCopy, kit string) error {
	step := copies.Step{To: copies.Spent, Act: "came back", Words: "out of " + kit + ", spent"}
	switch in.Back {
	case "again":
		step = copies.Step{To: copies.Accepted, Act: "came back", Words: "out of " + kit + ", may be worn again"}
	case "lost":
		step.Words = "out of " + kit + ", not there"
	}
	if in.Words != "" {
		step.Words += ": " + in.Words
	}
	return copies.Move(ctx, tx, now, c, step)
}
