package build

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/cure"
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
	Days    int            `json:"days" doc:"shooting days to come that ask for it; where there is none the run-up knows nothing of it"`
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
	if out.Count, err = copies.CountOf(ctx, s.DB, p.ID); err != nil {
		return out, err
	}
	err = s.DB.GetContext(ctx, &out.Days, `SELECT COUNT(*) FROM piece_day pd JOIN shooting_day d ON d.id = pd.day_id WHERE pd.piece_id = ? AND d.day >= ?`, p.ID, s.Clock.Now().Format(time.DateOnly))
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
	Sheet    *material.CureSheet // nil for what does not cure by a sheet
	Contact  time.Time
	Gel      *cure.WorkingTime // of foam: when it gels, by its own clock; nil of anything else
	Moulds   []string          // codes of the moulds poured, one copy each; empty codes allowed
	Run      string            // a run whose next stage takes it; "" begins one
	// How it stood as it was poured into.
	Place      string
	MouldC     *float64
	ReleaseWet bool
}

// stood is how a mould stood as it was poured into, in words for the record.
func (p Pour) stood() string {
	out := ""
	if p.MouldC != nil {
		out += fmt.Sprintf(". Mould at %.0f °C", *p.MouldC)
	}
	if p.ReleaseWet {
		out += ". The release was still wet"
	}
	if p.Place != "" {
		out += ". " + p.Place
	}
	return out
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
	var taken []string
	used := false
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		name := materials[l.Material].Name
		used = used || slices.Contains(l.Products(), slug)
		if (l.Kind.IsAppliance() || l.Kind == section.Blood) && name != "" && !slices.Contains(taken, name) {
			taken = append(taken, name)
		}
	})
	if !used {
		return problem.Invalid("other_material", "recipe", "The section of %s asks for %s. Mix that, or agree another section first.", p.Code, strings.Join(taken, " or "))
	}
	return nil
}

// AskStuff asks about what comes into the cup of a mix: the wearer about what is
// not the section's own, and about everything whoever weighs it.
func (s *Service) AskStuff(ctx context.Context, tx database.Tx, p piece.Piece, number int, mix string, slugs ...string) error {
	about := journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "mix", Code: mix}
	if p.ID == 0 {
		return s.Pieces.AskHands(ctx, tx, about, slugs...)
	}
	if mix == "" { // a sheet that is not written yet
		about.Kind, about.Code = "piece", p.Code
	}
	return s.Pieces.AskStuff(ctx, tx, p, number, about, slugs...)
}

// afterPour stands up what waits after the stage that a mix was poured in: a cure
// for each copy by the mix's own sheet, or the stage's own wait.
func (s *Service) afterPour(ctx context.Context, tx database.Tx, p Pour, run runRef, made []madeCopy, at int, st making.Stage, materials material.Shelf) error {
	var stage uint64
	if err := tx.GetContext(ctx, &stage, `SELECT id FROM run_stage WHERE run_id = ? AND seq = ?`, run.id, at+1); err != nil {
		return err
	}
	if p.Sheet != nil && st.Waits == making.Cure {
		family := string(materials[p.Material].Family)
		for _, c := range made {
			if err := s.startPot(ctx, tx, potStart{piece: p.Piece.ID, copy: &c.id, stage: stage, label: c.code, kind: making.Cure, family: family, model: potModel{CureSheet: p.Sheet}, at: p.Contact}); err != nil {
				return err
			}
		}
		return nil
	}
	r, err := s.run(ctx, tx, run.code)
	if err != nil {
		return err
	}
	if st.Waits != making.NoWait {
		return s.startStagePot(ctx, tx, p.Piece, r, r.Stages[at], "", poured{&p.Contact, p.Gel})
	}
	if st.Ends || at == len(r.Stages)-1 {
		return s.made(ctx, tx, run.id, nil, st.Text, nil)
	}
	return nil
}

// intoRun pours a mix into a run whose next stage takes it.
func (s *Service) intoRun(ctx context.Context, tx database.Tx, p Pour) (string, []string, error) {
	if _, err := tx.ExecContext(ctx, `SELECT id FROM run WHERE code = ? FOR UPDATE`, p.Run); err != nil {
		return "", nil, err
	}
	r, err := s.run(ctx, tx, p.Run)
	if err != nil {
		return "", nil, err
	}
	at := slices.IndexFunc(r.Stages, func(t Stage) bool { return t.Seq == r.Next })
	switch {
	case r.Piece != p.Piece.Code || at < 0 || r.EndedAt != nil:
		return "", nil, problem.Invalid("unknown_value", "run", "%s is not a run of %s that waits for anything.", p.Run, p.Piece.Code)
	case r.Stages[at].Material != p.Material:
		return "", nil, problem.Invalid("other_stage", "run", "%s comes next in %s, and it takes something else.", r.Stages[at].Text, p.Run)
	case r.HeldBack != "":
		return "", nil, heldBack(r.HeldBack)
	}
	about := journal.Entry{At: s.Clock.Now(), Piece: p.Piece.ID, Kind: "run", Code: r.Code}
	if err := s.Pieces.AskRules(ctx, tx, p.Piece, r.Section, about); err != nil {
		return "", nil, err
	}
	role := r.Stages[at].Layer
	if role == "" {
		role = "body"
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO run_mix (run_id, mix_id, role) VALUES (?,?,?)`, r.ID, p.MixID, role); err != nil {
		return "", nil, fmt.Errorf("noting the mix: %w", err)
	}
	if err := s.done(ctx, tx, p.Piece, r, at, DoneStage{mix: p.MixCode, from: poured{&p.Contact, p.Gel}}); err != nil {
		return "", nil, err
	}
	codes := []string{}
	for _, c := range r.Copies {
		codes = append(codes, c.Code)
	}
	return r.Code, codes, nil
}

// Wanted is one material that the agreed section of a piece takes.
type Wanted struct {
	Layer, Material, Name string
	EachG                 float64
	With                  []section.Stir
	Body                  bool
	Runs                  []string
}

// Wanted are the materials of a piece's agreed section with what one copy takes of
// each, and the runs whose next stage takes it: those of the piece itself first.
func (s *Service) Wanted(ctx context.Context, p piece.Piece) ([]Wanted, error) {
	doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil || number == 0 {
		return nil, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	result, err := s.Pieces.ResultOf(ctx, s.DB, p, doc, materials)
	if err != nil {
		return nil, err
	}
	runs, err := s.Runs(ctx, p.Code)
	if err != nil {
		return nil, err
	}
	var out []Wanted
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if l.Material == "" {
			return
		}
		w := Wanted{Layer: l.ID, Material: l.Material, Name: materials[l.Material].Name, EachG: result.Of(l.ID).WetG, With: l.With, Body: l.Kind.IsAppliance(), Runs: []string{}}
		for _, r := range runs {
			i := slices.IndexFunc(r.Stages, func(t Stage) bool { return t.Seq == r.Next })
			if r.EndedAt == nil && i >= 0 && r.Stages[i].Material == l.Material {
				w.Runs = append(w.Runs, r.Code)
			}
		}
		out = append(out, w)
	})
	slices.SortStableFunc(out, func(a, b Wanted) int {
		rank := func(w Wanted) float64 {
			if w.Body {
				return -1e6 - w.EachG
			}
			return -w.EachG
		}
		return cmp.Compare(rank(a), rank(b))
	})
	return out, nil
}

// RoomNow is the air of the shop as a clock takes it.
func (s *Service) RoomNow(ctx context.Context, db database.Reader) (tempC, rh float64, measured bool, err error) {
	at, measured, err := s.Air.Now(ctx, db)
	return at.TempC, at.RH, measured, err
}

// StartRun records a pour inside the act that pours: the run with its stages up
// to the pour done, its copies and their pots. It returns the run's code and
// the copies'.
func (s *Service) StartRun(ctx context.Context, tx database.Tx, p Pour) (string, []string, error) {
	if p.Run != "" {
		return s.intoRun(ctx, tx, p)
	}
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
	at := slices.IndexFunc(stages, func(st making.Stage) bool { return st.Material == p.Material })
	if at < 0 { // a mix of something else than the section says: the pour alone
		stages, at = []making.Stage{{Act: "pour", Text: "Poured into the mould.", Waits: making.Cure}, {Act: "open", Text: "Open the mould and lift the piece.", Ends: true}}, 0
	}
	run, err := s.begin(ctx, tx, p.Piece, begun{way: making.Of(doc, materials), number: p.Section, stages: stages, place: p.Place})
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
	if err := s.afterPour(ctx, tx, p, run, made, at, stages[at], materials); err != nil {
		return "", nil, err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.Piece.ID, Kind: "run", Code: run.code, Act: "poured",
		Words: p.MixCode + " into " + strings.Join(codesOf(made), ", ") + p.stood()})
	return run.code, codesOf(made), err
}
