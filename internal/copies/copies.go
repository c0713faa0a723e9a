// Package copies is the life of a copy: the states that it goes through, which
// may follow which, the one move that writes a state with the place on the
// round and the record, and the one count of what is there, coming and missing.
// Nobody else writes a copy's state.
package copies

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

// State is where a copy stands in its life.
type State string

// The states. A copy is made (cured, dried, baked) before anything else; what
// it leaves then, mould, form or skin, its run knows.
const (
	Making     State = "making"
	Made       State = "made"
	Repair     State = "repair"
	Accepted   State = "accepted"
	Scrapped   State = "scrapped"
	Packed     State = "packed"
	HandedOver State = "handed_over"
	Spent      State = "spent" // worn, and not to be worn again
)

// States in the order of a life.
var States = []State{Making, Made, Repair, Accepted, Scrapped, Packed, HandedOver, Spent}

// follows says what may come after a state.
var follows = map[State][]State{
	Making:     {Made, Scrapped},
	Made:       {Repair, Accepted, Scrapped},
	Repair:     {Repair, Accepted, Scrapped},
	Accepted:   {Accepted, Packed, Repair, Scrapped},
	Packed:     {HandedOver},
	HandedOver: {Accepted, Spent},
	Spent:      {},
	Scrapped:   {},
}

// MayFollow says whether a copy may go from one state to another.
func (s State) MayFollow(before State) bool { return slices.Contains(follows[before], s) }

// Text is the state in words.
func (s State) Text() string {
	if s == Making {
		return "being made"
	}
	return strings.ReplaceAll(string(s), "_", " ")
}

// What the states mean for counts and lists.
var (
	good    = []State{Accepted, Packed, HandedOver, Spent}
	coming  = []State{Made, Repair}
	onBench = []State{Making, Made, Repair}
	waiting = []State{Making, Made, Repair, Accepted}
)

// Bench says whether a copy can be finished and judged.
func (s State) Bench() bool { return slices.Contains(coming, s) }

// Closed says whether a copy was judged good.
func (s State) Closed() bool { return slices.Contains(good, s) }

func in(column string, states []State) string {
	words := make([]string, len(states))
	for i, s := range states {
		words[i] = "'" + string(s) + "'"
	}
	return column + " IN (" + strings.Join(words, ",") + ")"
}

// GoodSQL is true of copies that are good for what they were made for, in SQL; c names the
// copy's table. One that is kept for less is not counted.
func GoodSQL(c string) string { return in(c+".state", good) + " AND " + c + ".use_as = ''" }

// BenchSQL is true of copies that are on the bench: being made or finished.
func BenchSQL(c string) string { return in(c+".state", onBench) }

// WaitingSQL is true of copies that still need a hand, packing included.
func WaitingSQL(c string) string { return in(c+".state", waiting) }

// ToFinishSQL is true of copies that are finished, judged or packed next.
func ToFinishSQL(c string) string { return in(c+".state", []State{Made, Repair, Accepted}) }

// JudgedSQL is true of copies that were judged for good or bad, and need no hand now.
func JudgedSQL(c string) string { return in(c+".state", append(slices.Clone(good), Scrapped)) }

// ScrappedSQL is true of copies that were scrapped.
func ScrappedSQL(c string) string { return in(c+".state", []State{Scrapped}) }

// Copy is a copy as acts need it.
type Copy struct {
	ID            uint64
	Code          string
	PieceID       uint64 `db:"piece_id"`
	Piece         string
	State         State
	RunID         uint64 `db:"run_id"`
	Run           string
	Way           making.Way
	MouldID       *uint64 `db:"mould_id"`
	SectionNumber int     `db:"section_number"`
	// EarlyAt is how far it was cured or dry when it was taken out before its
	// time.
	EarlyAt *float64 `db:"early_at"`
}

const columns = `c.id, c.code, c.piece_id, q.code AS piece, c.state, c.run_id, r.code AS run, r.way, c.mould_id, COALESCE(c.section_number, 0) AS section_number, c.early_at
	FROM copy c JOIN piece q ON q.id = c.piece_id JOIN run r ON r.id = c.run_id`

// Find reads a copy by its code.
func Find(ctx context.Context, db database.Reader, code string) (Copy, error) {
	var c Copy
	err := db.GetContext(ctx, &c, `SELECT `+columns+` WHERE c.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return c, problem.NotFound("copy", code)
	}
	return c, err
}

// Lock reads a copy and holds its row, so that those who act on it at the same
// moment come one after the other.
func Lock(ctx context.Context, tx database.Tx, code string) (Copy, error) {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM copy WHERE code = ? FOR UPDATE`, code); err != nil {
		return Copy{}, err
	}
	return Find(ctx, tx, code)
}

// OfRun locks and reads the copies of a run that are in a state.
func OfRun(ctx context.Context, tx database.Tx, run uint64, state State) ([]Copy, error) {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM copy WHERE run_id = ? FOR UPDATE`, run); err != nil {
		return nil, err
	}
	var list []Copy
	err := tx.SelectContext(ctx, &list, `SELECT `+columns+` WHERE c.run_id = ? AND c.state = ? ORDER BY c.number`, run, state)
	return list, err
}

// Letters names the n-th copy of a piece: a … z, aa …
func Letters(n int) string {
	out := ""
	for ; n > 0; n = (n - 1) / 26 {
		out = string(rune('a'+(n-1)%26)) + out
	}
	return out
}

// Begun is what a copy begins with.
type Begun struct {
	PieceID       uint64
	Piece         string // code
	RunID         uint64
	MouldID       *uint64
	SectionNumber int
	At            time.Time
}

// Begin makes a copy, in the state of being made, and moves its piece to where
// it is built. The run's own record says that it began.
func Begin(ctx context.Context, tx database.Tx, b Begun) (id uint64, code string, err error) {
	number, err := database.NextNumber(ctx, tx, "copy "+b.Piece)
	if err != nil {
		return 0, "", err
	}
	code = b.Piece + "-" + Letters(int(number))
	res, err := tx.ExecContext(ctx, `INSERT INTO copy (piece_id, number, code, run_id, mould_id, section_number, state, made_at) VALUES (?,?,?,?,?,NULLIF(?,0),?,?)`, b.PieceID, number, code, b.RunID, b.MouldID, b.SectionNumber, Making, b.At)
	if err != nil {
		return 0, "", fmt.Errorf("beginning the copy: %w", err)
	}
	made, err := res.LastInsertId()
	if err != nil {
		return 0, "", err
	}
	return uint64(made), code, round.Forward(ctx, tx, b.PieceID, round.Build)
}

// Step is a move of a copy: to which state, and what the record says of it.
type Step struct {
	To     State
	Act    string // in the record
	Words  string
	Reason string // kept with the copy
	UseAs  string // what an accepted one is good enough for; empty for what it was made for
	// Finish is what is to be done to it once it is made.
	Finish []work.Item
}

// Move takes a copy from its state to the next: state, place on the round and
// record in one act. A state that may not follow is refused and nothing changed.
func Move(ctx context.Context, tx database.Tx, at time.Time, c Copy, s Step) error {
	if !s.To.MayFollow(c.State) {
		return problem.Conflict("not_here", "%s is %s and cannot be %s now. Nothing was changed.", c.Code, c.State.Text(), s.To.Text())
	}
	// What it is kept for goes with it into the kit; only a verdict says otherwise.
	done, err := database.Changed(tx.ExecContext(ctx, `UPDATE copy SET state = ?, reason = ?, use_as = IF(?, use_as, ?) WHERE id = ? AND state = ?`, s.To, s.Reason, s.To == Packed || s.To == HandedOver || c.State == HandedOver, s.UseAs, c.ID, c.State))
	if err != nil {
		return fmt.Errorf("moving %s: %w", c.Code, err)
	}
	if !done {
		return problem.Conflict("not_here", "Somebody changed %s a moment ago: look at it again. Nothing was changed.", c.Code)
	}
	for i, item := range s.Finish {
		if err := Line(ctx, tx, c.PieceID, c.ID, i+1, item); err != nil {
			return err
		}
	}
	if err := place(ctx, tx, c, s.To); err != nil {
		return err
	}
	if s.Act == "" {
		s.Act = s.To.Text()
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: at, Piece: c.PieceID, Kind: "copy", Code: c.Code, Act: s.Act, Words: s.Words})
	return err
}

// Line writes one line of what is to be done to a copy, or moves it to its place in the
// list.
func Line(ctx context.Context, tx database.Tx, pieceID, copyID uint64, seq int, item work.Item) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO work_item (piece_id, copy_id, list, seq, item, kind, text, why, minutes, material) VALUES (?,?,'finish',?,?,?,?,?,?,?)
		ON DUPLICATE KEY UPDATE seq = VALUES(seq), text = VALUES(text), why = VALUES(why), minutes = VALUES(minutes), material = VALUES(material)`, pieceID, copyID, seq, item.ID, item.Kind, cut(item.Text, 160), cut(item.Why, 200), item.Minutes, item.Material)
	if err != nil {
		return fmt.Errorf("writing what is to be done: %w", err)
	}
	return nil
}

// cut shortens text to n letters.
func cut(text string, n int) string {
	if r := []rune(text); len(r) > n {
		return string(r[:n-1]) + "…"
	}
	return text
}

// place moves the piece along the round as its copies go.
func place(ctx context.Context, tx database.Tx, c Copy, to State) error {
	switch to {
	case Made:
		return round.Forward(ctx, tx, c.PieceID, round.Finish)
	case Repair:
		return round.Move(ctx, tx, c.PieceID, round.Finish)
	case Accepted, Scrapped:
		n, err := CountOf(ctx, tx, c.PieceID)
		switch {
		case err != nil:
			return err
		case to == Accepted && n.Good >= n.Wanted:
			return round.Move(ctx, tx, c.PieceID, round.HandOver)
		case to == Scrapped && n.NeedsRun() && n.Coming+n.Begun == 0:
			again := round.Build
			if c.Way.FromMix() {
				again = round.Mix
			}
			return round.Move(ctx, tx, c.PieceID, again)
		}
	}
	return nil
}

// Judgement is what was decided about a copy: why, what it is good enough for, the fault
// that it rests on, and what goes back on the bench.
type Judgement struct {
	Verdict, Reason string
	UseAs           string
	FaultID         uint64
	Items           string
	Minutes         *float64
}

// Verdict keeps a judgement with who gave it.
func Verdict(ctx context.Context, tx database.Tx, at time.Time, c Copy, j Judgement) error {
	who, _ := accounts.From(ctx)
	_, err := tx.ExecContext(ctx, `INSERT INTO verdict (copy_id, verdict, reason, use_as, fault_id, items, minutes, at, person_id) VALUES (?,?,?,?,NULLIF(?,0),?,?,?,?)`,
		c.ID, j.Verdict, j.Reason, j.UseAs, j.FaultID, cut(j.Items, 600), j.Minutes, at, who.ID)
	if err != nil {
		return fmt.Errorf("recording the verdict: %w", err)
	}
	return nil
}

// backs says which states may be taken back to which: a verdict that was a
// mistake, a kit that was packed wrong. Nothing comes back once it left.
var backs = map[State][]State{Accepted: {Made}, Repair: {Made}, Scrapped: {Made}, Packed: {Accepted}}

// Back takes a copy back to where it stood before a mistake, with the reason; the
// record keeps what it was.
func Back(ctx context.Context, tx database.Tx, at time.Time, c Copy, to State, reason string) error {
	if !slices.Contains(backs[c.State], to) {
		return problem.Conflict("not_here", "%s is %s; that is not taken back. Nothing was changed.", c.Code, c.State.Text())
	}
	done, err := database.Changed(tx.ExecContext(ctx, `UPDATE copy SET state = ?, reason = '', use_as = IF(?, '', use_as) WHERE id = ? AND state = ?`, to, to == Made, c.ID, c.State))
	if err != nil {
		return fmt.Errorf("taking %s back: %w", c.Code, err)
	}
	if !done {
		return problem.Conflict("not_here", "Somebody changed %s a moment ago: look at it again. Nothing was changed.", c.Code)
	}
	if to == Made {
		if err := round.Move(ctx, tx, c.PieceID, round.Check); err != nil {
			return err
		}
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: at, Piece: c.PieceID, Kind: "copy", Code: c.Code, Act: "taken back", Words: "was " + c.State.Text() + ": " + reason})
	return err
}

// UseText is what a copy is kept for that is good for less than it was made for, in words;
// empty for one that is kept for all of it.
func UseText(use string) string {
	return map[string]string{"distant": "kept for far from the camera", "wet": "kept for wet scenes", "double": "kept for a double"}[use]
}
