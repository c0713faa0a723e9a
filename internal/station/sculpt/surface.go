package sculpt

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

// Surface is what hands did to the clay, and whether it may go to its mould.
type Surface struct {
	Passes   []SoftPass      `json:"passes"`
	Trials   []Trial         `json:"trials"`
	Schemes  []KeptScheme    `json:"schemes" doc:"kept for the real piece, newest first"`
	Gate     []GateTick      `json:"gate"`
	Holds    []string        `json:"holds" doc:"why it may not go to its mould yet"`
	Findings []texture.Found `json:"findings"`
	Residues []string        `json:"residues"`
	Passed   bool            `json:"passed" doc:"it has gone to its mould"`
}

// SoftPass is a softening pass that was made.
type SoftPass struct {
	ID        uint64     `db:"id" json:"id"`
	Tool      string     `db:"tool" json:"tool"`
	Times     int        `db:"times" json:"times"`
	Leaves    string     `db:"leaves" json:"leaves"`
	Note      string     `db:"note" json:"note"`
	At        time.Time  `db:"at" json:"at"`
	Who       string     `db:"who" json:"who"`
	ClearedAt *time.Time `db:"cleared_at" json:"cleared_at,omitempty"`
}

// Trial is a paint job tried on the sculpt.
type Trial struct {
	ID          uint64         `db:"id" json:"id"`
	Number      int            `db:"texture_number" json:"texture_number"`
	Raw         string         `db:"scheme" json:"-"`
	Scheme      texture.Scheme `db:"-" json:"scheme"`
	BeganAt     time.Time      `db:"began_at" json:"began_at"`
	Who         string         `db:"who" json:"who"`
	ReleasedAt  *time.Time     `db:"released_at" json:"released_at,omitempty"`
	FilmedAt    *time.Time     `db:"filmed_at" json:"filmed_at,omitempty"`
	PaintedAt   *time.Time     `db:"painted_at" json:"painted_at,omitempty"`
	PeeledAt    *time.Time     `db:"peeled_at" json:"peeled_at,omitempty"`
	Clean       *bool          `db:"clean" json:"clean,omitempty"`
	Verdict     *string        `db:"verdict" json:"verdict,omitempty" enum:"keep,drop"`
	Corrections string         `db:"corrections" json:"corrections"`
	Reason      string         `db:"reason" json:"reason"`
}

// KeptScheme is the copy of a tried scheme for the real piece.
type KeptScheme struct {
	ID     uint64         `db:"id" json:"id"`
	Raw    string         `db:"scheme" json:"-"`
	Scheme texture.Scheme `db:"-" json:"scheme"`
	KeptAt time.Time      `db:"kept_at" json:"kept_at"`
	Who    string         `db:"who" json:"who"`
}

// GateTick is one thing looked at, by whom and when.
type GateTick struct {
	texture.GateItem
	At   *time.Time `json:"at,omitempty"`
	Who  string     `json:"who,omitempty"`
	Note string     `json:"note,omitempty"`
}

func (s *Service) surface(ctx context.Context, db database.Reader, p piece.Piece, doc texture.Recipe, done []Tick) (Surface, error) {
	out := Surface{Passes: []SoftPass{}, Trials: []Trial{}, Schemes: []KeptScheme{}, Gate: []GateTick{}, Residues: []string{}, Passed: slices.Index(round.Places, p.Place) > slices.Index(round.Places, "sculpt")}
	at := texture.Surface{Ticked: map[string]bool{}}
	// Indexes softening_pass_piece, trial_paint_piece, paint_scheme_piece.
	err := errors.Join(
		db.SelectContext(ctx, &out.Passes, `SELECT f.id, f.tool, f.times, f.leaves, f.note, f.at, p.name AS who, f.cleared_at FROM softening_pass f JOIN person p ON p.id = f.person_id WHERE f.piece_id = ? ORDER BY f.id DESC LIMIT 60`, p.ID),
		db.SelectContext(ctx, &out.Trials, `SELECT t.id, t.texture_number, t.scheme, t.began_at, p.name AS who, t.released_at, t.filmed_at, t.painted_at, t.peeled_at, t.clean, t.verdict, t.corrections, t.reason FROM trial_paint t JOIN person p ON p.id = t.began_by WHERE t.piece_id = ? ORDER BY t.id DESC LIMIT 20`, p.ID),
		db.SelectContext(ctx, &out.Schemes, `SELECT k.id, k.scheme, k.kept_at, p.name AS who FROM paint_scheme k JOIN person p ON p.id = k.kept_by WHERE k.piece_id = ? ORDER BY k.id DESC LIMIT 20`, p.ID),
	)
	if err != nil {
		return out, fmt.Errorf("reading the sculpt's surface: %w", err)
	}
	for i := range out.Trials {
		t := &out.Trials[i]
		if err := json.Unmarshal([]byte(t.Raw), &t.Scheme); err != nil {
			return out, err
		}
		at.Trials = append(at.Trials, texture.Trial{Released: t.ReleasedAt != nil, Filmed: t.FilmedAt != nil, Painted: t.PaintedAt != nil, Peeled: t.PeeledAt != nil, Clean: t.Clean != nil && *t.Clean})
	}
	for i := range out.Schemes {
		if err := json.Unmarshal([]byte(out.Schemes[i].Raw), &out.Schemes[i].Scheme); err != nil {
			return out, err
		}
	}
	for _, f := range out.Passes {
		if f.Leaves != "" && f.ClearedAt == nil && !slices.Contains(out.Residues, f.Leaves) {
			out.Residues = append(out.Residues, f.Leaves)
		}
	}
	at.Residues = out.Residues
	if err := db.SelectContext(ctx, &at.OpenSpots, `SELECT IF(o.words = '', o.kind, CONCAT(o.kind, ' (', o.words, ')')) FROM sculpt_spot o JOIN sculpt_photo f ON f.id = o.photo_id WHERE f.piece_id = ? AND o.settled_at IS NULL AND o.kind <> 'note' ORDER BY o.id LIMIT 20`, p.ID); err != nil {
		return out, err
	}
	var rows []struct {
		Item, Who, Note string
		At              time.Time
	}
	if err := db.SelectContext(ctx, &rows, `SELECT t.item, t.note, t.at, p.name AS who FROM sculpt_tick t JOIN person p ON p.id = t.person_id WHERE t.piece_id = ? AND t.back_at IS NULL`, p.ID); err != nil {
		return out, err
	}
	for _, g := range texture.Gate {
		tick := GateTick{GateItem: g}
		for _, r := range rows {
			if r.Item == g.ID {
				tick.At, tick.Who, tick.Note = &r.At, r.Who, r.Note
				at.Ticked[g.ID] = true
			}
		}
		out.Gate = append(out.Gate, tick)
	}
	for _, t := range done {
		if t.Key == "form" {
			at.FormSettled = true
		} else if t.Key != "leave" {
			at.Textured = true
		}
	}
	if doc.Paint != nil && len(doc.Paint.Layers) > 0 {
		at.Scheme, at.Release, at.FilmCoats = true, strings.TrimSpace(doc.Paint.Release) != "", doc.Paint.Coats
	}
	out.Findings, out.Holds = at.Findings(), at.Holds()
	return out, nil
}

// onPiece does something to a piece in one act and reads it again.
func (s *Service) onPiece(ctx context.Context, code string, act func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error)) (View, error) {
	return s.change(ctx, code, func(p piece.Piece) error {
		who, _ := accounts.From(ctx)
		err := s.DB.InTx(ctx, func(tx database.Tx) error {
			now := s.Clock.Now()
			did, words, err := act(tx, p, who.ID, now)
			if err != nil || did == "" {
				return err
			}
			_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "sculpt", Code: p.Code, Act: did, Words: words})
			return err
		})
		if err == nil {
			s.Live.Tell(ctx, "texture", p.Code)
		}
		return err
	})
}

// residues are what lies on the surface, read inside an act.
func residues(ctx context.Context, db database.Reader, pieceID uint64) ([]string, error) {
	var list []string
	err := db.SelectContext(ctx, &list, `SELECT DISTINCT leaves FROM softening_pass WHERE piece_id = ? AND leaves <> '' AND cleared_at IS NULL ORDER BY leaves`, pieceID)
	return list, err
}

// NewPass is a softening pass as it is logged.
type NewPass struct {
	Tool  string `json:"tool" maxLength:"40"`
	Times int    `json:"times" minimum:"1" maximum:"20"`
	Note  string `json:"note,omitempty" maxLength:"200"`
}

// Soften logs a softening pass. A flame is refused while something that burns
// lies on the surface.
func (s *Service) Soften(ctx context.Context, code string, in NewPass) (View, error) {
	soft := texture.Residue(in.Tool)
	if soft.Words == "" {
		return View{}, problem.Invalid("unknown_value", "tool", "There is no way of softening called “%.40s”.", in.Tool)
	}
	return s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		if in.Tool == "flame" {
			lie, err := residues(ctx, tx, p.ID)
			if err != nil {
				return "", "", err
			}
			if err := texture.Clash(lie, texture.NextFlame); err != nil {
				return "", "", problem.New(422, "held_back", "tool", "%s %s Nothing was logged.", err.Error(), texture.FireCaution)
			}
		}
		// What was looked at before the tool went over it has to be looked at again.
		if _, err := tx.ExecContext(ctx, `UPDATE sculpt_tick SET back_at = ?, back_by = ?, standing = NULL WHERE piece_id = ? AND back_at IS NULL AND item = 'dry'`, now, person, p.ID); err != nil {
			return "", "", err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO softening_pass (piece_id, tool, times, leaves, note, at, person_id) VALUES (?,?,?,?,?,?,?)`, p.ID, in.Tool, in.Times, soft.Leaves, in.Note, now, person)
		return "softened", fmt.Sprintf("%s, %d times", in.Tool, in.Times), err
	})
}

// Clear says that a residue is off the surface.
func (s *Service) Clear(ctx context.Context, code, residue string) (View, error) {
	return s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE softening_pass SET cleared_at = ?, cleared_by = ? WHERE piece_id = ? AND leaves = ? AND cleared_at IS NULL`, now, person, p.ID, residue))
		if err != nil {
			return "", "", err
		}
		if !changed {
			return "", "", problem.Conflict("nothing", "No %s is recorded on the surface.", residue)
		}
		return "surface cleared", residue, nil
	})
}

// BeginTrial begins a trial paint with the scheme of the plan.
func (s *Service) BeginTrial(ctx context.Context, code string) (View, error) {
	return s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		var open int
		if err := tx.GetContext(ctx, &open, `SELECT COUNT(*) FROM trial_paint WHERE piece_id = ? AND peeled_at IS NULL AND (filmed_at IS NOT NULL OR painted_at IS NOT NULL OR verdict IS NULL)`, p.ID); err != nil {
			return "", "", err
		}
		if open > 0 {
			return "", "", problem.Conflict("trial_open", "A trial is under way on this sculpt. Peel it, or drop it, before another.")
		}
		doc, state, _, err := s.Pieces.ReadTexture(ctx, p)
		if err != nil {
			return "", "", err
		}
		if doc.Paint == nil || len(doc.Paint.Layers) == 0 {
			return "", "", problem.Conflict("no_scheme", "Plan the colour layers first: a trial keeps a copy of them.")
		}
		raw, err := json.Marshal(doc.Paint)
		if err != nil {
			return "", "", err
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO trial_paint (piece_id, texture_number, scheme, began_at, began_by) VALUES (?,?,?,?,?)`, p.ID, state.Latest, string(raw), now, person)
		return "trial paint begun", fmt.Sprintf("%d layers of colour", len(doc.Paint.Layers)), err
	})
}

// TrialStep is what was done in a trial.
type TrialStep struct {
	Did string `json:"did" enum:"released,filmed,painted,peeled,kept,dropped"`
	// Clean says, when it was peeled, that the surface is clean.
	Clean       bool   `json:"clean,omitempty"`
	Corrections string `json:"corrections,omitempty" maxLength:"500" doc:"what the trial made one change on the sculpt"`
	Reason      string `json:"reason,omitempty" maxLength:"300"`
}

// Try writes down a step of a trial. The film goes on nothing that it does not
// hold on; paint without film is written down as it is and found out.
func (s *Service) Try(ctx context.Context, code string, id uint64, in TrialStep) (View, error) {
	return s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		var t Trial
		err := tx.GetContext(ctx, &t, `SELECT id, texture_number, scheme, began_at, '' AS who, released_at, filmed_at, painted_at, peeled_at, clean, verdict, corrections, reason FROM trial_paint WHERE id = ? AND piece_id = ? FOR UPDATE`, id, p.ID)
		if errors.Is(err, sql.ErrNoRows) {
			return "", "", problem.NotFound("trial", fmt.Sprint(id))
		}
		if err != nil {
			return "", "", err
		}
		set := func(query string, args ...any) error {
			_, err := tx.ExecContext(ctx, `UPDATE trial_paint SET `+query+` WHERE id = ?`, append(args, id)...)
			return err
		}
		if t.PeeledAt != nil && (in.Did == "released" || in.Did == "filmed" || in.Did == "painted") {
			return "", "", problem.Conflict("peeled", "This trial was peeled. Begin another.")
		}
		switch in.Did {
		case "released":
			err = set(`released_at = ?`, now)
		case "filmed":
			if t.ReleasedAt == nil {
				return "", "", problem.Conflict("no_release", "Release goes on before the film, or it does not peel. Nothing was written down.")
			}
			lie, err := residues(ctx, tx, p.ID)
			if err != nil {
				return "", "", err
			}
			if err := texture.Clash(lie, texture.NextPaint); err != nil {
				return "", "", problem.New(422, "held_back", "did", "%s Nothing was written down.", err.Error())
			}
			if err := set(`filmed_at = ?`, now); err != nil {
				return "", "", err
			}
		case "painted":
			err = set(`painted_at = ?`, now)
		case "peeled":
			if t.FilmedAt == nil && t.PaintedAt == nil {
				return "", "", problem.Conflict("nothing", "Nothing lies on the sculpt that could be peeled.")
			}
			err = set(`peeled_at = ?, peeled_by = ?, clean = ?, corrections = ?`, now, person, in.Clean, in.Corrections)
		case "kept":
			if err := set(`verdict = 'keep', reason = ?, corrections = IF(? = '', corrections, ?)`, in.Reason, in.Corrections, in.Corrections); err != nil {
				return "", "", err
			}
			_, err = tx.ExecContext(ctx, `INSERT INTO paint_scheme (piece_id, trial_id, scheme, kept_at, kept_by) SELECT piece_id, id, scheme, ?, ? FROM trial_paint WHERE id = ?`, now, person, id)
		case "dropped":
			err = set(`verdict = 'drop', reason = ?, corrections = IF(? = '', corrections, ?)`, in.Reason, in.Corrections, in.Corrections)
		}
		return "trial paint " + in.Did, strings.TrimSpace(in.Corrections + " " + in.Reason), err
	})
}

// Look ticks one thing that was looked at before the mould.
func (s *Service) Look(ctx context.Context, code, item, note string) (View, error) {
	i := slices.IndexFunc(texture.Gate, func(g texture.GateItem) bool { return g.ID == item })
	if i < 0 {
		return View{}, problem.Invalid("unknown_value", "item", "There is nothing of this name to look at.")
	}
	return s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		if item == "film" {
			v, err := s.surface(ctx, tx, p, texture.Recipe{}, nil)
			if err != nil {
				return "", "", err
			}
			if why := v.asCraft().FilmHolds(); why != "" {
				return "", "", problem.Conflict("held_back", "%s Nothing was ticked.", why)
			}
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO sculpt_tick (piece_id, item, note, at, person_id) VALUES (?,?,?,?,?)`, p.ID, item, note, now, person)
		if database.IsDuplicate(err) {
			return "", "", nil // somebody was quicker
		}
		return "looked at", texture.Gate[i].Text, err
	})
}

// asCraft are the trials as the craft judges them.
func (s Surface) asCraft() texture.Surface {
	var out texture.Surface
	for _, t := range s.Trials {
		out.Trials = append(out.Trials, texture.Trial{Released: t.ReleasedAt != nil, Filmed: t.FilmedAt != nil, Painted: t.PaintedAt != nil, Peeled: t.PeeledAt != nil, Clean: t.Clean != nil && *t.Clean})
	}
	return out
}

// Unlook takes a tick at the gate back.
func (s *Service) Unlook(ctx context.Context, code, item string) (View, error) {
	return s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		changed, err := database.Changed(tx.ExecContext(ctx, `UPDATE sculpt_tick SET back_at = ?, back_by = ?, standing = NULL WHERE piece_id = ? AND item = ? AND back_at IS NULL`, now, person, p.ID, item))
		if err != nil {
			return "", "", err
		}
		if !changed {
			return "", "", problem.Conflict("not_ticked", "This is not ticked.")
		}
		return "look taken back", item, nil
	})
}

// Pass sends a sculpt to its mould when nothing holds it back.
func (s *Service) Pass(ctx context.Context, code string) (View, error) {
	v, err := s.onPiece(ctx, code, func(tx database.Tx, p piece.Piece, person uint64, now time.Time) (string, string, error) {
		v, err := s.surface(ctx, tx, p, texture.Recipe{}, nil)
		if err != nil {
			return "", "", err
		}
		if len(v.Holds) > 0 {
			held := problem.New(422, "held_back", "gate", "%s Nothing was sent on.", v.Holds[0])
			held.Data = v.Holds
			return "", "", held
		}
		seen, err := s.scanned(ctx, tx, p)
		if err != nil {
			return "", "", err
		}
		if err := piece.Meet(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "sculpt", Code: p.Code}, seen...); err != nil {
			return "", "", err
		}
		return "gate to the mould passed", "", round.Forward(ctx, tx, p.ID, round.Mould)
	})
	if err == nil {
		s.Live.Tell(ctx, "pieces", code)
	}
	return v, err
}

// scanned is what the newest measured scan of a sculpt speaks against moulding
// it: where the core shows through the cast has a hole, and where the clay is
// thin it tears.
func (s *Service) scanned(ctx context.Context, db database.Reader, p piece.Piece) ([]rules.Finding, error) {
	places, err := s.Scans.Places(ctx, db, p.Code)
	if err != nil {
		return nil, fmt.Errorf("asking the scans: %w", err)
	}
	var out []rules.Finding
	for _, at := range places {
		f := rules.Finding{ID: "MLD-5", Severity: rules.Stop, Reason: "The scan shows " + at.Words + ".", Remedy: "Add clay there and scan again, or say why the cast may have it.", Settles: "A newer scan."}
		if !at.Hole {
			f.Severity, f.Remedy = rules.Warn, "Add clay there, or say why it may stay."
		}
		out = append(out, f)
	}
	return out, nil
}

// Gate is what speaks against moulding a sculpt now: what is open at its gate,
// what a scan shows, and that nobody planned a texture, which is right for what
// has none. It is asked by the mould room.
func (s *Service) Gate(ctx context.Context, db database.Reader, p piece.Piece) ([]rules.Finding, error) {
	if slices.Index(round.Places, p.Place) > slices.Index(round.Places, "sculpt") {
		return nil, nil
	}
	out, err := s.scanned(ctx, db, p)
	if err != nil {
		return nil, err
	}
	_, number, err := piece.AgreedTexture(ctx, db, p.ID)
	if err != nil {
		return nil, err
	}
	if number == 0 {
		return append(out, rules.Finding{ID: "SEQ-12", Severity: rules.Warn, Reason: "No texture is agreed for " + p.Code + ", and nobody has looked at its sculpt.", Remedy: "Agree the texture and go through the gate in Sculpt; or say why it needs none."}), nil
	}
	v, err := s.surface(ctx, db, p, texture.Recipe{}, nil)
	if err != nil {
		return nil, err
	}
	for _, why := range v.Holds {
		out = append(out, rules.Finding{ID: "SEQ-12", Severity: rules.Stop, Reason: "The sculpt of " + p.Code + " is not through its gate: " + why, Remedy: "Settle it in Sculpt first."})
	}
	return out, nil
}
