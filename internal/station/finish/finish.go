// Package finish is where a copy is made ready to be judged: its own list of work with
// who, when, minutes, lot and picture; edges and seams stretch by stretch; and the finish
// plan of hair, inserts, weights, closures and what is worn with it.
package finish

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/turns"
)

// Lots finds a lot of a product that may be used; wired to the stores. It refuses what is
// past its date, held or not there, at the field lot.
type Lots interface {
	LotFor(ctx context.Context, db database.Reader, slug, code string) (uint64, error)
}

// Service does the use cases of the finishing bench.
type Service struct {
	DB     *database.DB
	Clock  clock.Clock
	Live   *live.Hub
	Files  *files.Store
	Pieces *piece.Service
	Lots   Lots
	Turns  *turns.Turns
}

// Tick is one thing that was done to a copy.
type Tick struct {
	Item    string      `db:"item" json:"item"`
	Turn    int         `db:"turn" json:"-"`
	Raw     *string     `db:"reading" json:"-"`
	Reading *colour.Lab `db:"-" json:"reading,omitempty"`
	Note    string      `db:"note" json:"note"`
	Skipped bool        `db:"skipped" json:"skipped" doc:"passed over, since the instrument is not there; the note says why"`
	Minutes *float64    `db:"minutes" json:"minutes,omitempty"`
	Lot     *string     `db:"lot" json:"lot,omitempty"`
	SHA256  *string     `db:"sha256" json:"sha256,omitempty"`
	At      time.Time   `db:"at" json:"at"`
	Who     string      `db:"who" json:"who"`
}

// Verdict is what was decided about a copy.
type Verdict struct {
	Verdict string    `db:"verdict" json:"verdict"`
	UseAs   string    `db:"use_as" json:"use_as,omitempty"`
	Reason  string    `db:"reason" json:"reason"`
	Items   string    `db:"items" json:"items,omitempty" doc:"what went back on the bench"`
	Minutes *float64  `db:"minutes" json:"minutes,omitempty"`
	At      time.Time `db:"at" json:"at"`
	Who     string    `db:"who" json:"who"`
	Back    string    `db:"back_reason" json:"back,omitempty" doc:"why it was taken back, where it was"`
}

// Todo is one thing on the list of a copy.
type Todo struct {
	work.Item
	Turn    int    `json:"turn" doc:"how often a repair put it back on the bench"`
	Dropped string `json:"dropped,omitempty" doc:"why it is not done on this copy"`
	Done    *Tick  `json:"done,omitempty"`
}

// Copy is a copy with what was done to it and what was decided.
type Copy struct {
	ID        uint64        `db:"id" json:"-"`
	PieceID   uint64        `db:"piece_id" json:"-"`
	Code      string        `db:"code" json:"code"`
	Piece     string        `db:"piece" json:"piece"`
	PieceName string        `db:"piece_name" json:"piece_name"`
	State     copies.State  `db:"state" json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over,spent"`
	UseAs     string        `db:"use_as" json:"use_as,omitempty" doc:"what it is good enough for, where it was downgraded"`
	Reason    string        `db:"reason" json:"reason"`
	Run       string        `db:"run" json:"run"`
	Way       making.Way    `db:"way" json:"-"`
	Mixes     string        `db:"mixes" json:"mixes" doc:"codes of the mixes that went in; empty where there was none"`
	Section   int           `db:"section_number" json:"section_number" doc:"the version that it was made on"`
	OutG      *float64      `db:"out_g" json:"out_g,omitempty" doc:"as it came out"`
	Work      []Todo        `db:"-" json:"work" doc:"what is to be done to it, in order"`
	Items     []string      `db:"-" json:"items" doc:"ids of what is to be done to it"`
	Mould     string        `db:"mould" json:"mould,omitempty" doc:"that it came out of; none when no mould was written down"`
	Ticks     []Tick        `db:"-" json:"ticks" doc:"all that were ever set, the oldest first"`
	Missing   []string      `db:"-" json:"missing" doc:"ids of what is still to come"`
	Left      []string      `db:"-" json:"left" doc:"the same in words"`
	Verdicts  []Verdict     `db:"-" json:"verdicts"`
	Journal   []journal.Row `db:"-" json:"journal"`
}

// todo finds an item of the list that was not dropped.
func (c Copy) todo(item string) (Todo, bool) {
	for _, t := range c.Work {
		if t.ID == item && t.Dropped == "" {
			return t, true
		}
	}
	return Todo{}, false
}

// Read reads one copy.
func Read(ctx context.Context, db database.Reader, code string) (Copy, error) {
	c := Copy{Ticks: []Tick{}, Items: []string{}, Work: []Todo{}, Missing: []string{}, Left: []string{}, Verdicts: []Verdict{}}
	err := db.GetContext(ctx, &c, `SELECT c.id, c.piece_id, c.code, q.code AS piece, q.name AS piece_name, c.state, c.use_as, c.reason, r.code AS run, r.way, c.out_g,
		COALESCE(u.code, '') AS mould, COALESCE(c.section_number, 0) AS section_number,
		COALESCE((SELECT GROUP_CONCAT(x.code ORDER BY x.id SEPARATOR ', ') FROM run_mix rm JOIN mix x ON x.id = rm.mix_id WHERE rm.run_id = r.id), '') AS mixes
		FROM copy c JOIN piece q ON q.id = c.piece_id JOIN run r ON r.id = c.run_id LEFT JOIN mould u ON u.id = c.mould_id WHERE c.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return c, problem.NotFound("copy", code)
	}
	if err != nil {
		return c, err
	}
	if err := db.SelectContext(ctx, &c.Ticks, `SELECT t.item, t.turn, g.value AS reading, t.note, t.skipped, t.minutes, l.code AS lot, f.sha256, t.at, p.name AS who FROM finish_tick t
		JOIN person p ON p.id = t.person_id LEFT JOIN lot l ON l.id = t.lot_id LEFT JOIN file f ON f.id = t.file_id LEFT JOIN reading g ON g.id = t.reading_id WHERE t.copy_id = ? ORDER BY t.at`, c.ID); err != nil {
		return c, err
	}
	for i := range c.Ticks {
		if raw := c.Ticks[i].Raw; raw != nil {
			if err := json.Unmarshal([]byte(*raw), &c.Ticks[i].Reading); err != nil {
				return c, err
			}
		}
	}
	if c.Work, err = todo(ctx, db, c.ID, c.Ticks); err != nil {
		return c, err
	}
	for _, t := range c.Work {
		if t.Dropped != "" {
			continue
		}
		c.Items = append(c.Items, t.ID)
		if t.Done == nil {
			c.Missing, c.Left = append(c.Missing, t.ID), append(c.Left, t.Text)
		}
	}
	if err := db.SelectContext(ctx, &c.Verdicts, `SELECT v.verdict, v.use_as, v.reason, v.items, v.minutes, v.at, p.name AS who, COALESCE(v.back_reason, '') AS back_reason
		FROM verdict v JOIN person p ON p.id = v.person_id WHERE v.copy_id = ? ORDER BY v.id`, c.ID); err != nil {
		return c, err
	}
	c.Journal, err = journal.Of(ctx, db, "copy", code)
	return c, err
}

// todo is the list of a copy as it was written down when it was made and changed since.
// Index work_item_once.
func todo(ctx context.Context, db database.Reader, copyID uint64, ticks []Tick) ([]Todo, error) {
	var rows []struct {
		Item, Kind, Text, Why, Material string
		Minutes                         float64
		Turn                            int
		DroppedAt                       *time.Time `db:"dropped_at"`
		DroppedWhy                      string     `db:"dropped_why"`
	}
	if err := db.SelectContext(ctx, &rows, `SELECT item, kind, text, why, minutes, material, turn, dropped_at, dropped_why FROM work_item WHERE copy_id = ? AND list = 'finish' ORDER BY seq, id`, copyID); err != nil {
		return nil, err
	}
	out := []Todo{}
	for _, r := range rows {
		t := Todo{Item: work.Item{ID: r.Item, Kind: work.Kind(r.Kind), Text: r.Text, Why: r.Why, Minutes: r.Minutes, Material: r.Material}, Turn: r.Turn}
		if r.DroppedAt != nil {
			t.Dropped = r.DroppedWhy
		}
		for _, k := range ticks {
			if k.Item == r.Item && k.Turn == r.Turn {
				t.Done = &k
			}
		}
		out = append(out, t)
	}
	return out, nil
}
