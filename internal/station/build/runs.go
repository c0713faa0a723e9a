package build

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Stage is a stage of a run, planned or done.
type Stage struct {
	making.Stage
	ID     uint64     `json:"-"`
	Seq    int        `json:"seq"`
	DoneAt *time.Time `json:"done_at,omitempty"`
	By     string     `json:"by,omitempty"`
	Note   string     `json:"note,omitempty"`
	Place  string     `json:"place,omitempty"`
	Lots   []string   `json:"lots" doc:"what it took without a mix"`
	PotID  *uint64    `json:"pot_id,omitempty" doc:"the pot that still stands after it"`
}

// RunCopy is a copy that a run makes.
type RunCopy struct {
	Code  string       `db:"code" json:"code"`
	State copies.State `db:"state" json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over"`
	Mould string       `db:"mould" json:"mould,omitempty"`
}

// RunMix is a mix that went into a run, by what it was for.
type RunMix struct {
	Code string `db:"code" json:"code"`
	Role string `db:"role" json:"role" doc:"the layer of the section that it became"`
}

// Run is one session that makes copies.
type Run struct {
	ID        uint64     `db:"id" json:"-"`
	Code      string     `db:"code" json:"code"`
	PieceID   uint64     `db:"piece_id" json:"-"`
	Piece     string     `db:"piece" json:"piece"`
	PieceName string     `db:"piece_name" json:"piece_name"`
	Way       making.Way `db:"way" json:"way" enum:"cast,coats,slush,foam,melt,modelled,found"`
	WayText   string     `db:"-" json:"way_text"`
	Section   int        `db:"section_number" json:"section_number" doc:"the version that it is made on"`
	Place     string     `db:"place" json:"place"`
	StartedAt time.Time  `db:"started_at" json:"started_at"`
	EndedAt   *time.Time `db:"ended_at" json:"ended_at,omitempty"`
	By        string     `db:"by_name" json:"by"`
	Copies    []RunCopy  `db:"-" json:"copies"`
	Mixes     []RunMix   `db:"-" json:"mixes"`
	Stages    []Stage    `db:"-" json:"stages"`
	// Next is the number of the stage to do next, 0 when nothing is left but
	// waiting or the run is over.
	Next     int     `db:"-" json:"next"`
	HeldBack string  `db:"-" json:"held_back,omitempty" doc:"why the next stage has to wait; empty when it may be done"`
	LeftS    float64 `db:"-" json:"left_s" doc:"until the next stage may be done"`
}

const runColumns = `r.id, r.code, r.piece_id, q.code AS piece, q.name AS piece_name, r.way, COALESCE(r.section_number, 0) AS section_number, r.place, r.started_at, r.ended_at, w.name AS by_name
	FROM run r JOIN piece q ON q.id = r.piece_id JOIN person w ON w.id = r.person_id`

// Run reads a run with its stages, copies and mixes.
func (s *Service) Run(ctx context.Context, code string) (Run, error) {
	return s.run(ctx, s.DB, code)
}

func (s *Service) run(ctx context.Context, db database.Reader, code string) (Run, error) {
	var r Run
	err := db.GetContext(ctx, &r, `SELECT `+runColumns+` WHERE r.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return r, problem.NotFound("run", code)
	}
	if err != nil {
		return r, err
	}
	return r, s.fill(ctx, db, &r)
}

// runsShown is how many runs of a piece that are over are listed.
const runsShown = 40

// Runs lists the open runs, or all the newest of one piece.
func (s *Service) Runs(ctx context.Context, code string) ([]Run, error) {
	list := []Run{}
	where, args := `WHERE r.ended_at IS NULL ORDER BY r.started_at, r.id`, []any{}
	if code != "" {
		where, args = `WHERE q.code = ? ORDER BY r.ended_at IS NOT NULL, r.started_at DESC, r.id DESC LIMIT ?`, []any{code, runsShown}
	}
	if err := s.DB.SelectContext(ctx, &list, `SELECT `+runColumns+` `+where, args...); err != nil {
		return nil, fmt.Errorf("reading the runs: %w", err)
	}
	for i := range list {
		if err := s.fill(ctx, s.DB, &list[i]); err != nil {
			return nil, err
		}
	}
	return list, nil
}

func (s *Service) fill(ctx context.Context, db database.Reader, r *Run) error {
	r.WayText, r.Copies, r.Mixes = r.Way.Text(), []RunCopy{}, []RunMix{}
	if err := db.SelectContext(ctx, &r.Copies, `SELECT c.code, c.state, COALESCE(m.code, '') AS mould FROM copy c LEFT JOIN mould m ON m.id = c.mould_id WHERE c.run_id = ? ORDER BY c.number`, r.ID); err != nil {
		return err
	}
	if err := db.SelectContext(ctx, &r.Mixes, `SELECT x.code, m.role FROM run_mix m JOIN mix x ON x.id = m.mix_id WHERE m.run_id = ? ORDER BY x.id`, r.ID); err != nil {
		return err
	}
	var err error
	if r.Stages, err = s.stages(ctx, db, r.ID); err != nil {
		return err
	}
	return s.ahead(ctx, db, r)
}

// stages reads a run's stages in their order.
func (s *Service) stages(ctx context.Context, db database.Reader, run uint64) ([]Stage, error) {
	var rows []struct {
		ID     uint64
		Seq    int
		Plan   string
		Place  string
		Note   string
		DoneAt *time.Time `db:"done_at"`
		By     *string    `db:"by_name"`
		Lots   *string
		PotID  *uint64 `db:"pot_id"`
	}
	if err := db.SelectContext(ctx, &rows, `SELECT t.id, t.seq, t.plan, t.place, t.note, t.done_at, w.name AS by_name,
		(SELECT GROUP_CONCAT(DISTINCT l.code ORDER BY l.code SEPARATOR '|') FROM movement v STRAIGHT_JOIN lot l ON l.id = v.lot_id WHERE v.stage_id = t.id) AS lots,
		(SELECT MIN(p.id) FROM pot p WHERE p.stage_id = t.id AND p.ended_at IS NULL) AS pot_id
		FROM run_stage t LEFT JOIN person w ON w.id = t.done_by WHERE t.run_id = ? ORDER BY t.seq`, run); err != nil {
		return nil, fmt.Errorf("reading the stages: %w", err)
	}
	list := make([]Stage, len(rows))
	for i, r := range rows {
		st := Stage{ID: r.ID, Seq: r.Seq, DoneAt: r.DoneAt, Note: r.Note, Place: r.Place, Lots: []string{}, PotID: r.PotID}
		if err := json.Unmarshal([]byte(r.Plan), &st.Stage); err != nil {
			return nil, fmt.Errorf("reading a stage: %w", err)
		}
		if r.By != nil {
			st.By = *r.By
		}
		if r.Lots != nil {
			st.Lots = strings.Split(*r.Lots, "|")
		}
		list[i] = st
	}
	return list, nil
}

// ahead says what is next, and whether what stands on the shelf holds it back.
func (s *Service) ahead(ctx context.Context, db database.Reader, r *Run) error {
	if r.EndedAt != nil {
		return nil
	}
	at := slices.IndexFunc(r.Stages, func(t Stage) bool { return t.DoneAt == nil })
	if at < 0 {
		return nil
	}
	next := r.Stages[at]
	r.Next = next.Seq
	if at == 0 || r.Stages[at-1].PotID == nil {
		return nil
	}
	row, err := s.row(ctx, db, *r.Stages[at-1].PotID)
	if err != nil {
		return err
	}
	pot, err := s.work(ctx, db, row)
	if err != nil {
		return err
	}
	r.HeldBack, r.LeftS = pot.holds(next.Stage)
	return nil
}

// holds says why a pot keeps the next stage waiting, and how long. A coat may
// follow as soon as the one below takes it; everything else wants it through.
func (p Pot) holds(next making.Stage) (why string, leftS float64) {
	if next.Coat > 0 && p.Kind == string(making.Dry) {
		if p.RecoatS <= 0 {
			return "", 0
		}
		return fmt.Sprintf("%s is %s; the next coat may go on in about %s.", p.Label, p.Words, duration(p.RecoatS)), p.RecoatS
	}
	return p.HeldBack, p.LeftS
}

// NewRun is a session as it is begun.
type NewRun struct {
	Piece  string   `json:"piece" maxLength:"24"`
	Copies int      `json:"copies" minimum:"1" maximum:"50" doc:"made in one session, all of them stage by stage"`
	Moulds []string `json:"moulds,omitempty" maxItems:"50" doc:"codes of the moulds, one copy each; empty where none is used"`
	Place  string   `json:"place,omitempty" maxLength:"80" doc:"where: a bench, an oven, the chair"`
	Key    string   `json:"key" format:"uuid" doc:"sent again with the same key it counts once"`
}

// plan works out how a piece's agreed section is made now.
func (s *Service) plan(ctx context.Context, db database.Reader, p piece.Piece) (making.Way, []making.Stage, int, error) {
	doc, _, number, err := piece.AgreedSection(ctx, db, p)
	if err != nil {
		return "", nil, 0, err
	}
	if number == 0 {
		return "", nil, 0, problem.Conflict("no_section", "The section of %s is not agreed yet: agree it first, so that what is made is what was meant.", p.Code)
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return "", nil, 0, err
	}
	room, _, err := s.Air.Now(ctx, db)
	if err != nil {
		return "", nil, 0, err
	}
	return making.Of(doc, materials), making.Stages(doc, materials, doc.Work(materials, room)), number, nil
}

// Outlook is how the next session of a piece would go.
type Outlook struct {
	Piece   string         `json:"piece"`
	Way     making.Way     `json:"way" enum:"cast,coats,slush,foam,melt,modelled,found"`
	WayText string         `json:"way_text"`
	FromMix bool           `json:"from_mix" doc:"it begins with the pouring of a mix, in Mix"`
	Section int            `json:"section_number"`
	Stages  []making.Stage `json:"stages"`
	Count   copies.Count   `json:"count"`
}

// Look says how the next session of a piece would go.
func (s *Service) Look(ctx context.Context, code string) (Outlook, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return Outlook{}, err
	}
	out := Outlook{Piece: code}
	if out.Way, out.Stages, out.Section, err = s.plan(ctx, s.DB, p); err != nil {
		return out, err
	}
	out.WayText, out.FromMix = out.Way.Text(), out.Way.FromMix()
	out.Count, err = copies.CountOf(ctx, s.DB, p.ID)
	return out, err
}

// Begin begins a session in any way that does not start with a pour.
func (s *Service) Begin(ctx context.Context, in NewRun) (Run, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return Run{}, err
	}
	var code string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := tx.GetContext(ctx, &code, `SELECT code FROM run WHERE idem_key = ?`, in.Key); err == nil || !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		p, err := piece.Find(ctx, tx, in.Piece)
		if err != nil {
			return err
		}
		way, stages, number, err := s.plan(ctx, tx, p)
		if err != nil {
			return err
		}
		if way.FromMix() {
			return problem.Conflict("from_mix", "%s is cast from a mix: weigh it in Mix and pour it, and its run begins.", p.Code)
		}
		if err := s.Pieces.AskRules(ctx, tx, p, number); err != nil {
			return err
		}
		moulds := in.Moulds
		if n := in.Copies - len(moulds); n < 0 {
			return problem.Invalid("contradiction", "moulds", "%d moulds make %d copies, not %d.", len(moulds), len(moulds), in.Copies)
		} else {
			moulds = append(slices.Clone(moulds), make([]string, n)...)
		}
		run, err := s.begin(ctx, tx, p, begun{way: way, number: number, stages: stages, place: strings.TrimSpace(in.Place), key: &in.Key})
		if err != nil {
			return err
		}
		code = run.code
		made, err := s.beginCopies(ctx, tx, p, run.id, number, moulds, "moulds")
		if err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "run", Code: code, Act: "begun", Words: way.Text() + ": " + strings.Join(codesOf(made), ", ")})
		return err
	})
	if err != nil {
		return Run{}, err
	}
	s.tell(in.Piece)
	return s.Run(ctx, code)
}

type begun struct {
	way    making.Way
	number int
	stages []making.Stage
	place  string
	key    *string
}

type runRef struct {
	id   uint64
	code string
}

// begin writes a run down with its planned stages.
func (s *Service) begin(ctx context.Context, tx database.Tx, p piece.Piece, b begun) (runRef, error) {
	who, _ := accounts.From(ctx)
	number, err := database.NextNumber(ctx, tx, "run")
	if err != nil {
		return runRef{}, err
	}
	code := fmt.Sprintf("R-%04d", number)
	res, err := tx.ExecContext(ctx, `INSERT INTO run (code, piece_id, way, section_number, place, started_at, person_id, idem_key) VALUES (?,?,?,?,?,?,?,?)`, code, p.ID, b.way, b.number, b.place, s.Clock.Now(), who.ID, b.key)
	if err != nil {
		return runRef{}, fmt.Errorf("beginning the run: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return runRef{}, err
	}
	for i, st := range b.stages {
		raw, err := json.Marshal(st)
		if err != nil {
			return runRef{}, err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO run_stage (run_id, seq, plan) VALUES (?,?,?)`, id, i+1, string(raw)); err != nil {
			return runRef{}, fmt.Errorf("planning the run: %w", err)
		}
	}
	return runRef{uint64(id), code}, nil
}

type madeCopy struct {
	id   uint64
	code string
}

func codesOf(list []madeCopy) []string {
	out := make([]string, len(list))
	for i, c := range list {
		out[i] = c.code
	}
	return out
}

// beginCopies makes one copy for each mould; an empty code is a copy without a
// recorded mould.
func (s *Service) beginCopies(ctx context.Context, tx database.Tx, p piece.Piece, run uint64, number int, moulds []string, field string) ([]madeCopy, error) {
	var out []madeCopy
	for _, mould := range moulds {
		var mouldID *uint64
		if mould != "" {
			id, err := takeMould(ctx, tx, p, mould, field)
			if err != nil {
				return nil, err
			}
			mouldID = &id
		}
		id, code, err := copies.Begin(ctx, tx, copies.Begun{PieceID: p.ID, Piece: p.Code, RunID: run, MouldID: mouldID, SectionNumber: number, At: s.Clock.Now()})
		if err != nil {
			return nil, err
		}
		out = append(out, madeCopy{id, code})
	}
	return out, nil
}

func takeMould(ctx context.Context, tx database.Tx, p piece.Piece, mould, field string) (uint64, error) {
	var m struct {
		ID    uint64
		State string
	}
	err := tx.GetContext(ctx, &m, `SELECT id, state FROM mould WHERE code = ? AND piece_id = ? FOR UPDATE`, mould, p.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, problem.Invalid("unknown_value", field, "There is no mould %s for %s.", mould, p.Code)
	}
	if err != nil {
		return 0, err
	}
	if m.State != "dry" && m.State != "resting" && m.State != "repaired" {
		return 0, problem.Conflict("mould_not_ready", "Mould %s is %s. Nothing was recorded; choose another, or change its state in Mould.", mould, strings.ReplaceAll(m.State, "_", " "))
	}
	_, err = tx.ExecContext(ctx, `UPDATE mould SET state = 'in_use' WHERE id = ?`, m.ID)
	return m.ID, err
}

// Pour is what mixing hands over when a mix is poured.
type Pour struct {
	Piece    piece.Piece
	Section  int // the version that the mix was written for
	MixID    uint64
	MixCode  string
	Material string
	Sheet    material.CureSheet
	Contact  time.Time
	Moulds   []string // codes of the moulds poured, one copy each; empty codes allowed
}

// StartRun records a pour inside the act that pours: the run with its stages up
// to the pour done, its copies and their pots. It returns the run's code and
// the copies'.
func (s *Service) StartRun(ctx context.Context, tx database.Tx, p Pour) (string, []string, error) {
	if err := s.Pieces.AskRules(ctx, tx, p.Piece, p.Section); err != nil {
		return "", nil, err
	}
	doc, _, _, err := piece.SectionAt(ctx, tx, p.Piece, p.Section)
	if err != nil {
		return "", nil, err
	}
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return "", nil, err
	}
	room, _, err := s.Air.Now(ctx, tx)
	if err != nil {
		return "", nil, err
	}
	stages := making.Stages(doc, materials, doc.Work(materials, room))
	at := slices.IndexFunc(stages, func(st making.Stage) bool { return st.Material == p.Material && st.Waits == making.Cure })
	if at < 0 { // a mix of something else than the section says: the pour alone
		stages, at = []making.Stage{{Act: "pour", Text: "Poured into the mould.", Waits: making.Cure}, {Act: "open", Text: "Open the mould and lift the piece.", Ends: true}}, 0
	}
	run, err := s.begin(ctx, tx, p.Piece, begun{way: making.Cast, number: p.Section, stages: stages})
	if err != nil {
		return "", nil, err
	}
	role := stages[at].Layer
	if role == "" {
		role = "body"
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO run_mix (run_id, mix_id, role) VALUES (?,?,?)`, run.id, p.MixID, role); err != nil {
		return "", nil, fmt.Errorf("noting the mix: %w", err)
	}
	who, _ := accounts.From(ctx)
	if _, err := tx.ExecContext(ctx, `UPDATE run_stage SET done_at = ?, done_by = ? WHERE run_id = ? AND seq <= ?`, s.Clock.Now(), who.ID, run.id, at+1); err != nil {
		return "", nil, err
	}
	made, err := s.beginCopies(ctx, tx, p.Piece, run.id, p.Section, p.Moulds, "moulds")
	if err != nil {
		return "", nil, err
	}
	var stage uint64
	if err := tx.GetContext(ctx, &stage, `SELECT id FROM run_stage WHERE run_id = ? AND seq = ?`, run.id, at+1); err != nil {
		return "", nil, err
	}
	family := string(materials[p.Material].Family)
	for _, c := range made {
		if err := s.startPot(ctx, tx, potStart{piece: p.Piece.ID, copy: &c.id, stage: stage, label: c.code, kind: making.Cure, family: family, model: potModel{CureSheet: &p.Sheet}, at: p.Contact}); err != nil {
			return "", nil, err
		}
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.Piece.ID, Kind: "run", Code: run.code, Act: "poured", Words: p.MixCode + " into " + strings.Join(codesOf(made), ", ")})
	return run.code, codesOf(made), err
}

// DoneStage is one "it is done".
type DoneStage struct {
	Note   string `json:"note,omitempty" maxLength:"300"`
	Reason string `json:"reason,omitempty" maxLength:"300" doc:"needed before its time"`
	Place  string `json:"place,omitempty" maxLength:"80"`
	Lot    string `json:"lot,omitempty" maxLength:"32" doc:"what was taken; empty: first expired first out"`
}

// Done says that a stage of a run is done: what it takes is drawn from its lot,
// the pot before it is over, and what waits now stands on the shelf.
func (s *Service) Done(ctx context.Context, code string, seq int, in DoneStage) (Run, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return Run{}, err
	}
	in.Note, in.Reason = strings.TrimSpace(in.Note), strings.TrimSpace(in.Reason)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		// The run's row orders those who act on it at the same moment.
		if _, err := tx.ExecContext(ctx, `SELECT id FROM run WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		r, err := s.run(ctx, tx, code)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(r.Stages, func(t Stage) bool { return t.Seq == seq })
		switch {
		case at < 0:
			return problem.NotFound("stage", fmt.Sprint(seq))
		case r.Stages[at].DoneAt != nil:
			return nil // said twice, or by two: the same fact, recorded once
		case r.EndedAt != nil:
			return problem.Conflict("ended", "%s is over; nothing was recorded.", code)
		case seq != r.Next:
			return problem.Conflict("other_stage", "Stage %d of %s comes first. Nothing was recorded.", r.Next, code)
		case r.HeldBack != "" && !mayInsist(ctx, in.Reason):
			return heldBack(r.HeldBack)
		}
		p, err := piece.Find(ctx, tx, r.Piece)
		if err != nil {
			return err
		}
		if r.Section > 0 {
			if err := s.Pieces.AskRules(ctx, tx, p, r.Section); err != nil {
				return err
			}
		}
		return s.done(ctx, tx, p, r, at, in)
	})
	if err != nil {
		return Run{}, err
	}
	r, err := s.Run(ctx, code)
	if err == nil {
		s.tell(r.Piece)
		s.Live.Tell("lots", "")
	}
	return r, err
}

func (s *Service) done(ctx context.Context, tx database.Tx, p piece.Piece, r Run, at int, in DoneStage) error {
	who, _ := accounts.From(ctx)
	st, now := r.Stages[at], s.Clock.Now()
	if _, err := tx.ExecContext(ctx, `UPDATE run_stage SET done_at = ?, done_by = ?, note = ?, place = ? WHERE id = ?`, now, who.ID, in.Note, strings.TrimSpace(in.Place), st.ID); err != nil {
		return fmt.Errorf("noting the stage: %w", err)
	}
	if at > 0 && r.Stages[at-1].PotID != nil {
		if _, err := tx.ExecContext(ctx, `UPDATE pot SET ended_at = ?, ended_by = ?, end_note = ? WHERE stage_id = ? AND ended_at IS NULL`, now, who.ID, in.Reason, r.Stages[at-1].ID); err != nil {
			return err
		}
	}
	words := st.Text
	if st.Material != "" && st.Grams > 0 {
		lot, err := s.Stores.Take(ctx, tx, st.Material, in.Lot, st.Grams*float64(r.making()), st.ID)
		if err != nil {
			return err
		}
		if lot == "" && in.Lot == "" && in.Note == "" {
			return problem.Invalid("no_lot", "note", "No lot of it that may be used holds %.0f g. Say in the note where it came from; it is then recorded without a lot.", st.Grams*float64(r.making()))
		}
		if lot != "" {
			words += " Lot " + lot + "."
		}
	}
	for _, more := range []string{in.Note, in.Reason} {
		if more != "" {
			words += " " + more
		}
	}
	if _, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "run", Code: r.Code, Act: "stage done", Words: words}); err != nil {
		return err
	}
	if st.Waits != making.NoWait {
		return s.startStagePot(ctx, tx, p, r, st)
	}
	if st.Ends || at == len(r.Stages)-1 {
		return s.made(ctx, tx, r.ID, nil, st.Text, nil)
	}
	return nil
}

// making is how many copies of the run are being made.
func (r Run) making() int {
	n := 0
	for _, c := range r.Copies {
		if c.State == copies.Making {
			n++
		}
	}
	return n
}

// subject is what a run makes, in a few letters: its one copy, or itself.
func (r Run) subject() string {
	if len(r.Copies) == 1 {
		return r.Copies[0].Code
	}
	return r.Code
}

func (s *Service) startStagePot(ctx context.Context, tx database.Tx, p piece.Piece, r Run, st Stage) error {
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	product := materials[st.Material]
	start := potStart{piece: p.ID, stage: st.ID, label: r.subject() + " " + st.Act, kind: st.Waits, family: string(product.Family), at: s.Clock.Now()}
	if st.Coat > 0 {
		start.label = fmt.Sprintf("%s coat %d of %d", r.subject(), st.Coat, st.Of)
	}
	if start.family == "" {
		start.family = p.Family
	}
	switch {
	case st.Waits == making.Cure && product.Cure != nil:
		start.model.CureSheet = product.Cure
	case st.Waits == making.Dry && st.Wet != nil:
		start.model.Layers = append(start.model.Layers, *st.Wet)
	default:
		start.kind, start.model.WaitS = making.Set, st.WaitS
	}
	return s.startPot(ctx, tx, start)
}

// follows is the stage after the one that a pot waits for; nil when it is the
// last, or the pot is no run's.
func (s *Service) follows(ctx context.Context, tx database.Tx, row potRow) (*Stage, error) {
	if row.RunID == nil {
		return nil, nil
	}
	stages, err := s.stages(ctx, tx, *row.RunID)
	if err != nil {
		return nil, err
	}
	if at := slices.IndexFunc(stages, func(t Stage) bool { return t.DoneAt == nil }); at >= 0 {
		return &stages[at], nil
	}
	return nil, nil
}

// OneMoreCoat plans another coat after the one that was put on last.
func (s *Service) OneMoreCoat(ctx context.Context, code string) (Run, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return Run{}, err
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM run WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		r, err := s.run(ctx, tx, code)
		if err != nil {
			return err
		}
		at := -1 // the last coat that was put on
		for i, t := range r.Stages {
			if t.DoneAt != nil && t.Coat > 0 {
				at = i
			}
		}
		switch {
		case r.EndedAt != nil:
			return problem.Conflict("ended", "%s is over; nothing was changed.", code)
		case at < 0:
			return problem.Conflict("no_coat", "No coat of %s has been put on yet.", code)
		case len(r.Stages) >= 200:
			return problem.Conflict("too_many", "%s has two hundred stages: that is enough.", code)
		}
		more := r.Stages[at].Stage
		more.Coat, more.Of, more.Ends = more.Coat+1, more.Of+1, false
		_, how, named := strings.Cut(more.Text, ": ")
		if !named || !strings.HasPrefix(more.Text, "Coat ") {
			how = more.Text
		}
		more.Text = fmt.Sprintf("One more, coat %d: %s", more.Coat, how)
		raw, err := json.Marshal(more)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE run_stage SET seq = seq + 1 WHERE run_id = ? AND seq > ? ORDER BY seq DESC`, r.ID, r.Stages[at].Seq); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO run_stage (run_id, seq, plan) VALUES (?,?,?)`, r.ID, r.Stages[at].Seq+1, string(raw)); err != nil {
			return fmt.Errorf("planning another coat: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: r.PieceID, Kind: "run", Code: code, Act: "another coat planned"})
		return err
	})
	if err != nil {
		return Run{}, err
	}
	s.Live.Tell("runs", code)
	return s.Run(ctx, code)
}

// FromMix says of the pieces in work, by code, which are cast from a mix: their
// newest agreed section decides. It is worked out anew when a version was agreed
// or a piece came or went.
func (s *Service) FromMix(ctx context.Context) (map[string]bool, error) {
	var state struct{ Versions, Pieces uint64 }
	if err := s.DB.GetContext(ctx, &state, `SELECT COALESCE((SELECT MAX(id) FROM document_version), 0) AS versions, (SELECT COUNT(*) FROM piece WHERE put_away_at IS NULL) AS pieces`); err != nil {
		return nil, err
	}
	return s.fromMix.Get(state, func() (map[string]bool, error) {
		docs, err := piece.AgreedSections(ctx, s.DB)
		if err != nil {
			return nil, err
		}
		materials, err := shelf.Load(ctx, s.DB)
		if err != nil {
			return nil, err
		}
		out := map[string]bool{}
		for code, doc := range docs {
			out[code] = making.Of(doc, materials).FromMix()
		}
		return out, nil
	})
}
