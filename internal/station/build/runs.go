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
	"yewmoor/internal/piece"
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
	// ExpectedS is what it was told to wait when it was done, WaitedS what it waited, HandS
	// how long hands were at it, s; nothing where nobody knows.
	ExpectedS *float64 `json:"expected_s,omitempty"`
	WaitedS   *float64 `json:"waited_s,omitempty"`
	HandS     *float64 `json:"hand_s,omitempty"`
}

// RunCopy is a copy that a run makes.
type RunCopy struct {
	Code  string       `db:"code" json:"code"`
	State copies.State `db:"state" json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over,spent"`
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
	// OnWearer is true where it is built straight on its wearer, who is asked how it is.
	OnWearer  bool       `db:"-" json:"on_wearer,omitempty"`
	Checks    []Comfort  `db:"-" json:"checks"`
	Unwell    bool       `db:"-" json:"unwell,omitempty" doc:"they said so: let them out"`
	CheckMin  int        `db:"-" json:"check_min,omitempty" doc:"minutes between two askings"`
	AskNextAt *time.Time `db:"-" json:"ask_next_at,omitempty"`
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
	if err := s.asked(ctx, db, r); err != nil {
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

		Expected *float64 `db:"expected_s"`
		Hand     *float64 `db:"hand_s"`
		Waited   *float64 `db:"waited_s"`
	}
	if err := db.SelectContext(ctx, &rows, `SELECT t.id, t.seq, t.plan, t.place, t.note, t.done_at, w.name AS by_name,
		(SELECT GROUP_CONCAT(DISTINCT l.code ORDER BY l.code SEPARATOR '|') FROM movement v STRAIGHT_JOIN lot l ON l.id = v.lot_id WHERE v.stage_id = t.id) AS lots,
		(SELECT MIN(p.id) FROM pot p WHERE p.stage_id = t.id AND p.ended_at IS NULL) AS pot_id, t.expected_s, t.hand_s,
		(SELECT TIMESTAMPDIFF(MICROSECOND, t.done_at, MAX(p.ended_at)) / 1e6 FROM pot p WHERE p.stage_id = t.id AND p.ended_at IS NOT NULL) AS waited_s
		FROM run_stage t LEFT JOIN person w ON w.id = t.done_by WHERE t.run_id = ? ORDER BY t.seq`, run); err != nil {
		return nil, fmt.Errorf("reading the stages: %w", err)
	}
	list := make([]Stage, len(rows))
	for i, r := range rows {
		st := Stage{ID: r.ID, Seq: r.Seq, DoneAt: r.DoneAt, Note: r.Note, Place: r.Place, Lots: []string{}, PotID: r.PotID,
			ExpectedS: r.Expected, WaitedS: r.Waited, HandS: r.Hand}
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
	if p.HeldBack == "" {
		return "", 0 // its clock may run on, as that of a bowl of foam does
	}
	return p.HeldBack, p.LeftS
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
