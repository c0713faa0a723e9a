package build

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

const potColumns = `t.id, t.piece_id, t.copy_id, t.label, t.kind, t.family, t.model, t.observed, t.started_at, t.ended_at, t.mould_id, t.stage_id, t.answered_at, (SELECT w.name FROM person w WHERE w.id = t.answered_by) AS answered_name, g.run_id, COALESCE(JSON_UNQUOTE(JSON_EXTRACT(g.plan, '$.material')), '') AS product, r.code AS run_code, COALESCE(r.section_number, 0) AS section_number, q.code AS piece, c.code AS copy_code,
	(SELECT n.plan FROM run_stage n WHERE n.run_id = g.run_id AND n.done_at IS NULL ORDER BY n.seq LIMIT 1) AS next_plan
	FROM pot t JOIN piece q ON q.id = t.piece_id LEFT JOIN copy c ON c.id = t.copy_id LEFT JOIN run_stage g ON g.id = t.stage_id LEFT JOIN run r ON r.id = g.run_id`

func (s *Service) row(ctx context.Context, db database.Reader, id uint64) (potRow, error) {
	var row potRow
	err := db.GetContext(ctx, &row, `SELECT `+potColumns+` WHERE t.id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return row, problem.NotFound("pot", fmt.Sprint(id))
	}
	return row, err
}

// potOfStage is the newest pot of a stage, ended or not; one without an id where none was.
func (s *Service) potOfStage(ctx context.Context, db database.Reader, stage uint64) (potRow, error) {
	var row potRow
	// By the stage's own key.
	err := db.GetContext(ctx, &row, `SELECT `+potColumns+` WHERE t.stage_id = ? ORDER BY t.id DESC LIMIT 1`, stage)
	if errors.Is(err, sql.ErrNoRows) {
		return potRow{}, nil
	}
	return row, err
}

// lock reads a pot and holds its row, and its run's before it, so that those who
// act on it at the same moment come one after the other.
func (s *Service) lock(ctx context.Context, tx database.Tx, id uint64) (potRow, error) {
	if _, err := tx.ExecContext(ctx, `SELECT r.id FROM run r JOIN run_stage g ON g.run_id = r.id JOIN pot t ON t.stage_id = g.id WHERE t.id = ? FOR UPDATE`, id); err != nil {
		return potRow{}, err
	}
	if _, err := tx.ExecContext(ctx, `SELECT id FROM pot WHERE id = ? FOR UPDATE`, id); err != nil {
		return potRow{}, err
	}
	return s.row(ctx, tx, id)
}

// actOn does an act on a pot that still stands, whose row and run are held meanwhile, and
// gives the pot as it is then. An act that finds that there is nothing to do returns nil.
func (s *Service) actOn(ctx context.Context, id uint64, act func(tx database.Tx, row potRow) error) (Pot, error) {
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
			return problem.Conflict("ended", "%s has left the shelf already; nothing was recorded.", row.Label)
		}
		if err := act(tx, row); err != nil {
			return err
		}
		if row, err = s.row(ctx, tx, id); err != nil {
			return err
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

// askOf asks the rule book about a pot, by the section that it is made on, and begins what
// the record says of it.
func (s *Service) askOf(ctx context.Context, tx database.Tx, row potRow) (journal.Entry, error) {
	about := journal.Entry{At: s.Clock.Now(), Piece: row.PieceID, Kind: "pot", Code: row.Label}
	p, err := piece.Find(ctx, tx, row.Piece)
	if err != nil {
		return about, err
	}
	number := row.Section
	if number == 0 {
		number = p.SectionNumber
	}
	return about, s.Pieces.AskRules(ctx, tx, p, number, about)
}

// potStart is a pot as it is set on the shelf.
type potStart struct {
	piece  uint64
	copy   *uint64
	stage  uint64
	label  string
	kind   making.Wait
	family string
	model  potModel
	at     time.Time
	in     string // the place that it is put in; "" leaves it where it is
	out    bool   // it was taken out into the room
}

func (s *Service) startPot(ctx context.Context, tx database.Tx, p potStart) error {
	model, err := json.Marshal(p.model)
	if err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO pot (piece_id, copy_id, stage_id, label, kind, family, model, started_at) VALUES (?,?,?,?,?,?,?,?)`,
		p.piece, p.copy, p.stage, p.label, p.kind, p.family, string(model), p.at)
	if err != nil {
		return fmt.Errorf("setting the pot on the shelf: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return err
	}
	// What is worked on stands where it stood: the pot of the stage before takes its
	// places along.
	if _, err := tx.ExecContext(ctx, `INSERT INTO pot_place (pot_id, place_id, from_at, person_id)
		SELECT ?, x.place_id, x.from_at, x.person_id FROM pot_place x WHERE x.pot_id = (SELECT MAX(b.id) FROM pot b JOIN run_stage g ON g.id = b.stage_id
			JOIN run_stage n ON n.id = ? AND n.run_id = g.run_id AND g.seq = n.seq - 1 WHERE COALESCE(b.copy_id, 0) = COALESCE(?, b.copy_id, 0)) ORDER BY x.from_at, x.id`,
		id, p.stage, p.copy); err != nil {
		return fmt.Errorf("taking the places along: %w", err)
	}
	if p.in == "" && !p.out {
		return nil
	}
	return s.comesTo(ctx, tx, uint64(id), p.in)
}

// comesTo writes down that a pot stands in a place from now on; "" is the room.
func (s *Service) comesTo(ctx context.Context, tx database.Tx, pot uint64, code string) error {
	who, _ := accounts.From(ctx)
	if _, err := tx.ExecContext(ctx, `INSERT INTO pot_place (pot_id, place_id, from_at, person_id) VALUES (?,(SELECT id FROM place WHERE code = ?),?,?)`,
		pot, code, s.Clock.Now(), who.ID); err != nil {
		return fmt.Errorf("moving the pot: %w", err)
	}
	return nil
}

// Pot computes one pot.
func (s *Service) Pot(ctx context.Context, id uint64) (Pot, error) {
	row, err := s.row(ctx, s.DB, id)
	if err != nil {
		return Pot{}, err
	}
	return s.work(ctx, s.DB, row)
}

// Shelf computes every pot that stands on the shelf, soonest first: index
// pot_running, and one reading of the room's log for all of them.
func (s *Service) Shelf(ctx context.Context) ([]Pot, error) {
	var rows []potRow
	if err := s.DB.SelectContext(ctx, &rows, `SELECT `+potColumns+` WHERE t.ended_at IS NULL ORDER BY t.started_at, t.id`); err != nil {
		return nil, fmt.Errorf("reading the pot shelf: %w", err)
	}
	pots := []Pot{}
	if len(rows) == 0 {
		return pots, nil
	}
	log, err := s.Air.between(ctx, s.DB, rows[0].StartedAt)
	if err != nil {
		return nil, err
	}
	ids := make([]uint64, len(rows))
	for i, row := range rows {
		ids[i] = row.ID
	}
	stood, err := s.moves(ctx, s.DB, ids...)
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		p, err := s.workOn(ctx, s.DB, row, since(log, row.StartedAt), stood[row.ID])
		if err != nil {
			return nil, fmt.Errorf("computing pot %s: %w", row.Label, err)
		}
		pots = append(pots, p)
	}
	// What wants a hand first, then what is ready the soonest.
	slices.SortStableFunc(pots, func(a, b Pot) int {
		return cmp.Or(cmp.Compare(a.rank(), b.rank()), cmp.Compare(a.LeftS, b.LeftS))
	})
	return pots, nil
}

// rank is how much a pot wants a hand: 0 where its window is shut, 1 where it is ready.
func (p Pot) rank() int {
	switch {
	case p.Past:
		return 0
	case p.State == "ready":
		return 1
	}
	return 2
}

// Copy is one copy of a piece in a list.
type Copy struct {
	ID     uint64       `db:"id" json:"-"`
	Code   string       `db:"code" json:"code"`
	Piece  string       `db:"piece" json:"piece"`
	Run    string       `db:"run" json:"run"`
	Way    making.Way   `db:"way" json:"way" enum:"cast,coats,slush,foam,melt,modelled,found"`
	Mixes  string       `db:"mixes" json:"mixes" doc:"codes of the mixes that went in, by commas; empty where there was none"`
	Mould  *string      `db:"mould" json:"mould,omitempty"`
	State  copies.State `db:"state" json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over,spent"`
	UseAs  string       `db:"use_as" json:"use_as,omitempty" doc:"what it is kept for, where it is good for less than it was made for"`
	Reason string       `db:"reason" json:"reason"`
	// Section is the version that it was made on; 0 for one from before this was kept.
	Section int       `db:"section_number" json:"section_number"`
	MadeAt  time.Time `db:"made_at" json:"made_at"`
	PotID   *uint64   `db:"pot_id" json:"pot_id,omitempty"`
	Left    int       `db:"left_to_do" json:"left_to_do" doc:"of its finishing list; judged when none is left"`
}

// judged is how many copies that need no hand any more are listed with those
// that do.
const judged = 40

// Copies lists the copies of a piece; for an empty code those that need a hand
// and the newest of the rest. Indexes copy_piece_state, copy_state, copy_made.
func (s *Service) Copies(ctx context.Context, code string) ([]Copy, error) {
	list := []Copy{}
	where, args := `WHERE q.code = ?`, []any{code}
	if code == "" {
		where, args = `WHERE c.id IN (SELECT w.id FROM copy w WHERE `+copies.WaitingSQL("w")+`)
			OR c.id IN (SELECT id FROM (SELECT id FROM copy ORDER BY made_at DESC LIMIT ?) newest)`, []any{judged}
	}
	err := s.DB.SelectContext(ctx, &list, `SELECT c.id, c.code, q.code AS piece, r.code AS run, r.way, m.code AS mould, c.state, c.use_as, c.reason, COALESCE(c.section_number, 0) AS section_number, c.made_at,
		COALESCE((SELECT GROUP_CONCAT(x.code ORDER BY x.id SEPARATOR ', ') FROM run_mix rm JOIN mix x ON x.id = rm.mix_id WHERE rm.run_id = r.id), '') AS mixes,
		(SELECT MIN(t.id) FROM pot t WHERE t.copy_id = c.id AND t.ended_at IS NULL) AS pot_id,
		(SELECT COUNT(*) FROM work_item w LEFT JOIN finish_tick k ON k.copy_id = w.copy_id AND k.item = w.item AND k.turn = w.turn WHERE w.copy_id = c.id AND w.list = 'finish' AND w.dropped_at IS NULL AND k.item IS NULL) AS left_to_do
		FROM copy c JOIN piece q ON q.id = c.piece_id JOIN run r ON r.id = c.run_id LEFT JOIN mould m ON m.id = c.mould_id
		`+where+` ORDER BY c.made_at DESC, c.number DESC`, args...)
	return list, err
}
