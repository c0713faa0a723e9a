package copies

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Count is what there is of a piece.
type Count struct {
	Wanted  int `db:"wanted" json:"wanted"`
	Good    int `db:"good" json:"good" doc:"accepted, packed or handed over"`
	Free    int `db:"free" json:"free" doc:"accepted and in no kit yet"`
	Coming  int `db:"coming" json:"coming" doc:"made, and being finished, judged or repaired"`
	Begun   int `db:"begun" json:"begun" doc:"being made"`
	Planned int `db:"planned" json:"planned" doc:"pours of mixes that are written down and not poured"`
}

// Missing is how many are neither there, nor coming, nor begun, nor planned.
func (c Count) Missing() int { return max(0, c.Wanted-c.Good-c.Coming-c.Begun-c.Planned) }

// NeedsRun says whether another session is needed: fewer are good, coming or
// begun than are wanted. What is only planned is that session.
func (c Count) NeedsRun() bool { return c.Good+c.Coming+c.Begun < c.Wanted }

// count sums the copies of a piece q by index copy_piece_state.
var count = `q.id AS piece_id, q.copies_wanted AS wanted,
	COALESCE(SUM(` + GoodSQL("c") + `), 0) AS good, COALESCE(SUM(` + in("c.state", []State{Accepted}) + ` AND c.use_as = ''), 0) AS free,
	COALESCE(SUM(` + in("c.state", coming) + `), 0) AS coming, COALESCE(SUM(` + in("c.state", []State{Making}) + `), 0) AS begun,
	COALESCE((SELECT SUM(x.pours) FROM mix x WHERE x.piece_id = q.id AND x.state IN ('planned','weighing')), 0) AS planned
	FROM piece q LEFT JOIN copy c ON c.piece_id = q.id `

type counted struct {
	PieceID uint64 `db:"piece_id"`
	Count
}

// CountOf counts one piece.
func CountOf(ctx context.Context, db database.Reader, piece uint64) (Count, error) {
	var row counted
	err := db.GetContext(ctx, &row, `SELECT `+count+`WHERE q.id = ? GROUP BY q.id, q.copies_wanted`, piece)
	if errors.Is(err, sql.ErrNoRows) {
		return Count{}, problem.NotFound("piece", fmt.Sprint(piece))
	}
	return row.Count, err
}

// Counts counts every piece in work, by the piece's id.
func Counts(ctx context.Context, db database.Reader) (map[uint64]Count, error) {
	var rows []counted
	if err := db.SelectContext(ctx, &rows, `SELECT `+count+`WHERE q.put_away_at IS NULL GROUP BY q.id, q.copies_wanted`); err != nil {
		return nil, fmt.Errorf("counting the copies: %w", err)
	}
	out := make(map[uint64]Count, len(rows))
	for _, r := range rows {
		out[r.PieceID] = r.Count
	}
	return out, nil
}

// Need is what one shooting day wants of one piece, and what there is for it.
type Need struct {
	DayID   uint64    `db:"day_id"`
	Day     time.Time `db:"day"`
	PieceID uint64    `db:"piece_id"`
	Piece   string    `db:"piece"`
	Name    string    `db:"name"`
	Family  string    `db:"family"`
	Wanted  int       `db:"wanted"`
	Spare   int       `db:"spare"` // of them: wanted beyond what the days want
	There   int       `db:"there"` // in kits for this day
	Good    int       `db:"-"`     // there, or accepted and free for it
	Coming  int       `db:"-"`     // coming, begun or planned
	Again   int       `db:"-"`     // of copies that are worn on an earlier day too
	Missing int       `db:"-"`
}

// Needs works out what the days from a day on want. Copies that are wanted beyond
// what the days want are spares: the first day asks for them too. Copies that are in no kit
// serve the earliest days first; what is packed or handed over serves its own
// day only. Where all the copies that are wanted exist or are coming, later days
// wear them again.
func Needs(ctx context.Context, db database.Reader, from time.Time) ([]Need, error) {
	list := []Need{}
	if err := db.SelectContext(ctx, &list, `SELECT d.id AS day_id, d.day, q.id AS piece_id, q.code AS piece, q.name, q.family, pd.wanted,
		GREATEST(0, CAST(q.copies_wanted AS SIGNED) - (SELECT SUM(a.wanted) FROM piece_day a WHERE a.piece_id = q.id)) AS spare,
		(SELECT COUNT(*) FROM kit_day kd JOIN kit_copy kc ON kc.kit_id = kd.kit_id AND kc.back = '' JOIN copy c ON c.id = kc.copy_id WHERE kd.day_id = d.id AND c.piece_id = q.id) AS there
		FROM shooting_day d JOIN piece_day pd ON pd.day_id = d.id JOIN piece q ON q.id = pd.piece_id WHERE d.day >= ? ORDER BY d.day, d.place, q.code`, from.Format(time.DateOnly)); err != nil {
		return nil, fmt.Errorf("reading what the days want: %w", err)
	}
	counts, err := countsOf(ctx, db, list)
	if err != nil {
		return nil, err
	}
	serve(list, counts)
	return list, nil
}

// countsOf counts the pieces that stand in a list of needs.
func countsOf(ctx context.Context, db database.Reader, list []Need) (map[uint64]Count, error) {
	out := map[uint64]Count{}
	var ids []any
	for _, n := range list {
		if _, known := out[n.PieceID]; !known {
			out[n.PieceID] = Count{}
			ids = append(ids, n.PieceID)
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	var rows []counted
	if err := db.SelectContext(ctx, &rows, `SELECT `+count+`WHERE q.id IN (?`+strings.Repeat(",?", len(ids)-1)+`) GROUP BY q.id, q.copies_wanted`, ids...); err != nil {
		return nil, fmt.Errorf("counting the copies: %w", err)
	}
	for _, r := range rows {
		out[r.PieceID] = r.Count
	}
	return out, nil
}

// serve hands copies out to the days, in their order.
func serve(list []Need, counts map[uint64]Count) {
	type pool struct{ free, coming, lack int }
	pools := map[uint64]*pool{}
	for id, c := range counts {
		pools[id] = &pool{c.Free, c.Coming + c.Begun + c.Planned, c.Missing()}
	}
	spared := map[uint64]bool{}
	for i := range list {
		n, p := &list[i], pools[list[i].PieceID]
		if spared[n.PieceID] {
			n.Spare = 0
		}
		spared[n.PieceID] = true
		n.Wanted += n.Spare
		open := max(0, n.Wanted-n.There)
		take := func(from *int) int {
			k := min(open, *from)
			*from -= k
			open -= k
			return k
		}
		n.Good = n.There + take(&p.free)
		n.Coming = take(&p.coming)
		n.Missing = take(&p.lack)
		n.Again = open
	}
}

// InHand is a copy that waits for hands: to be finished, judged or packed.
type InHand struct {
	Code, Piece  string
	State        State
	Items, Ticks int // lines of its list, and those that are ticked
}

// InHandOf lists them, the first made first. Index copy_state.
func InHandOf(ctx context.Context, db database.Reader) ([]InHand, error) {
	list := []InHand{}
	if err := db.SelectContext(ctx, &list, `SELECT c.code, q.code AS piece, c.state, (SELECT COUNT(*) FROM work_item w WHERE w.copy_id = c.id AND w.list = 'finish' AND w.dropped_at IS NULL) AS items,
		(SELECT COUNT(*) FROM finish_tick t JOIN work_item w ON w.copy_id = t.copy_id AND w.list = 'finish' AND w.item = t.item AND w.turn = t.turn AND w.dropped_at IS NULL WHERE t.copy_id = c.id) AS ticks
		FROM copy c JOIN piece q ON q.id = c.piece_id WHERE `+ToFinishSQL("c")+` ORDER BY c.made_at`); err != nil {
		return nil, fmt.Errorf("reading the copies in hand: %w", err)
	}
	return list, nil
}
