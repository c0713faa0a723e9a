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
	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

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
	result, err := s.Pieces.ResultOf(ctx, db, p, doc, materials)
	return making.Of(doc, materials), making.Stages(doc, materials, result), number, err
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
		used, err := mouldsUsed(ctx, tx, in.Moulds)
		if err != nil {
			return err
		}
		if err := s.Pieces.AskRules(ctx, tx, p, number, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: p.Code}, used...); err != nil {
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
	s.tell(ctx, in.Piece)
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

// beforeThePour is what the record says of stages that came before a pour.
const beforeThePour = "taken as done when the mix was poured; no lot was named"

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

// mouldsUsed is what registered moulds are made of, as the rules call it; of one
// whose material is none of the usual nothing is known.
func mouldsUsed(ctx context.Context, tx database.Tx, codes []string) ([]piece.Mould, error) {
	var out []piece.Mould
	for _, code := range codes {
		if code == "" {
			continue
		}
		var row struct {
			Material string
			Release  string `db:"release_agent"`
		}
		if err := tx.GetContext(ctx, &row, `SELECT material, release_agent FROM mould WHERE code = ?`, code); errors.Is(err, sql.ErrNoRows) {
			continue // refused at its field where the copies are begun
		} else if err != nil {
			return nil, fmt.Errorf("reading the mould: %w", err)
		}
		stuff, known := mouldmath.StuffOf(row.Material)
		if m := (piece.Mould{Of: stuff.Of, Release: row.Release}); known && !slices.Contains(out, m) {
			out = append(out, m)
		}
	}
	return out, nil
}

// MayMix says inside the act that plans a mix whether the section that it is for
// has any use for it, and whether the rule book lets it be made.
func (s *Service) MayMix(ctx context.Context, tx database.Tx, p piece.Piece, number int, slug string) error {
	if err := s.Pieces.AskRules(ctx, tx, p, number, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: p.Code}); err != nil {
		return err
	}
	doc, _, _, err := piece.SectionAt(ctx, tx, p, number)
	if err != nil {
		return err
	}
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	var mixed []string
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if m := materials[l.Material]; m.Ratio != nil && m.Cure != nil && !slices.Contains(mixed, m.Name) {
			mixed = append(mixed, m.Name)
		}
	})
	switch {
	case len(mixed) == 0:
		return problem.Conflict("other_way", "Nothing in the section of %s is mixed of two parts: it is %s. Begin its session in Build.", p.Code, making.Of(doc, materials).Text())
	case !slices.Contains(mixed, materials[slug].Name):
		no := problem.Invalid("other_material", "material", "The section of %s asks for %s. Mix that, or agree another section first.", p.Code, strings.Join(mixed, " or "))
		return no
	}
	return nil
}

// AskStuff asks about what comes into the cup of a mix: the wearer about what is
// not the section's own, and about everything whoever weighs it.
func (s *Service) AskStuff(ctx context.Context, tx database.Tx, p piece.Piece, number int, mix string, slugs ...string) error {
	about := journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "mix", Code: mix}
	if mix == "" { // a sheet that is not written yet
		about.Kind, about.Code = "piece", p.Code
	}
	return s.Pieces.AskStuff(ctx, tx, p, number, about, slugs...)
}

// StartRun records a pour inside the act that pours: the run with its stages up
// to the pour done, its copies and their pots. It returns the run's code and
// the copies'.
func (s *Service) StartRun(ctx context.Context, tx database.Tx, p Pour) (string, []string, error) {
	used, err := mouldsUsed(ctx, tx, p.Moulds)
	if err != nil {
		return "", nil, err
	}
	if err := s.Pieces.AskRules(ctx, tx, p.Piece, p.Section, journal.Entry{At: s.Clock.Now(), Piece: p.Piece.ID, Kind: "mix", Code: p.MixCode}, used...); err != nil {
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
	result, err := s.Pieces.ResultOf(ctx, tx, p.Piece, doc, materials)
	if err != nil {
		return "", nil, err
	}
	stages := making.Stages(doc, materials, result)
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
	// What lines the mould was not said to be done: a mould that is filled has it,
	// but nobody named its lot, and the record does not make one up.
	if _, err := tx.ExecContext(ctx, `UPDATE run_stage SET done_at = ?, done_by = ?, note = IF(seq <= ?, ?, '') WHERE run_id = ? AND seq <= ?`,
		s.Clock.Now(), who.ID, at, beforeThePour, run.id, at+1); err != nil {
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
