package finish

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/finish/edge"
	"yewmoor/internal/craft/finish/tables"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

func isEdge(e wearmap.Stretch) bool { return e.Kind == "edge" }

// Rim is a stretch of edge or seam of a copy.
type Rim struct {
	ID       uint64        `db:"id" json:"id" doc:"0 while nobody looked at it yet"`
	Kind     string        `db:"kind" json:"kind" enum:"edge,seam"`
	Name     string        `db:"name" json:"name"`
	Mark     string        `db:"mark" json:"mark,omitempty" doc:"the line on the wearer's map that it is"`
	LengthMM float64       `db:"length_mm" json:"length_mm"`
	Intent   string        `db:"intent" json:"intent" enum:"vanish,stay in view,be torn,be hidden"`
	HiddenBy string        `db:"hidden_by" json:"hidden_by,omitempty"`
	NearEye  bool          `db:"near_eye" json:"near_eye" doc:"within 10 mm of the lid margin"`
	Moving   bool          `db:"moving" json:"moving"`
	Looks    []RimLook     `db:"-" json:"looks" doc:"the oldest first"`
	Visible  *edge.Visible `db:"-" json:"visible,omitempty" doc:"as it was last measured, at the day's distance in its plainest light"`
	Light    string        `db:"-" json:"light,omitempty" doc:"that light"`
	Ways     *edge.Ways    `db:"-" json:"ways,omitempty"`
	Stipple  *edge.Coats   `db:"-" json:"stipple,omitempty" doc:"what stippling would take, where it is allowed"`
	Does     bool          `db:"-" json:"does" doc:"it does what it is meant to, as it was last measured"`
}

// RimLook is a stretch as it was measured or felt once, and what was done before that.
type RimLook struct {
	ID      uint64    `db:"id" json:"id"`
	RimID   uint64    `db:"rim_id" json:"-"`
	StepMM  float64   `db:"step_mm" json:"step_mm"`
	RampMM  float64   `db:"ramp_mm" json:"ramp_mm"`
	DE00    float64   `db:"de00" json:"de00"`
	BlendMM float64   `db:"blend_mm" json:"blend_mm"`
	How     string    `db:"how" json:"how" enum:"measured,felt"`
	Way     string    `db:"way" json:"way,omitempty" doc:"what was done to it; empty where it was only looked at"`
	Coats   int       `db:"coats" json:"coats"`
	Minutes *float64  `db:"minutes" json:"minutes,omitempty"`
	Lot     *string   `db:"lot" json:"lot,omitempty"`
	SHA256  *string   `db:"sha256" json:"sha256,omitempty"`
	Note    string    `db:"note" json:"note"`
	At      time.Time `db:"at" json:"at"`
	Who     string    `db:"who" json:"who"`
}

// Edges are the stretches of a copy, with what they are judged by.
type Edges struct {
	Copy      string        `json:"copy"`
	Material  string        `json:"material" doc:"what its edge is made of, as the table of ways calls it"`
	Grade     string        `json:"grade" enum:"full,good,plain,hidden"`
	DistanceM float64       `json:"distance_m"`
	Limit     *float64      `json:"limit" doc:"the most that may be seen at this grade, in thresholds"`
	LatexOK   bool          `json:"latex_ok"`
	Rims      []Rim         `json:"rims"`
	Methods   []edge.Method `json:"methods"`
}

// lights are those of the sets: elevation across the edge and how much of it is soft. Ours.
var lights = []struct {
	Name string
	Deg  float64
	Fill float64
}{{"open daylight", 45, 0.6}, {"lamps", 30, 0.3}, {"raking", 12, 0.1}}

// EdgesOf reads the stretches of a copy: those that were looked at, and those that the map
// names and nobody looked at yet.
func (s *Service) EdgesOf(ctx context.Context, db database.Reader, code string) (Edges, error) {
	c, err := Read(ctx, db, code)
	if err != nil {
		return Edges{}, err
	}
	p, err := piece.Find(ctx, db, c.Piece)
	if err != nil {
		return Edges{}, err
	}
	around, err := s.Pieces.Around.Around(ctx, db, p)
	if err != nil {
		return Edges{}, err
	}
	doc, _, _, err := piece.SectionAt(ctx, db, p, c.Section)
	if err != nil {
		return Edges{}, err
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return Edges{}, err
	}
	wearer, err := s.Pieces.LoadWearer(ctx, db, p)
	if err != nil {
		return Edges{}, err
	}
	out := Edges{Copy: code, Material: edgeOf(doc, materials), Grade: around.Brief.Grade(), LatexOK: true, Methods: edge.Methods()}
	for _, f := range wearer.Facts {
		if f.Code == "latex" && (f.Status == substance.Allergic || f.Status == substance.Sensitive) {
			out.LatexOK = false
		}
	}
	g, _ := tables.GradeOf(out.Grade)
	out.Limit = g.Edge
	if g.DistanceM != nil {
		out.DistanceM = *g.DistanceM
	}
	if m := around.Brief.CameraM; m > 0 {
		out.DistanceM = m
	}
	if out.Rims, err = rims(ctx, db, c.ID); err != nil {
		return out, err
	}
	out.Rims = named(out.Rims, around, p, doc)
	for i := range out.Rims {
		out.judge(&out.Rims[i])
	}
	return out, nil
}

// rims are the stretches that were looked at. Indexes rim_once and rim_look_of.
func rims(ctx context.Context, db database.Reader, copyID uint64) ([]Rim, error) {
	list := []Rim{}
	if err := db.SelectContext(ctx, &list, `SELECT id, kind, name, mark, length_mm, intent, hidden_by, near_eye, moving FROM rim WHERE copy_id = ? ORDER BY id`, copyID); err != nil {
		return nil, err
	}
	var looks []RimLook
	if err := db.SelectContext(ctx, &looks, `SELECT k.id, k.rim_id, k.step_mm, k.ramp_mm, k.de00, k.blend_mm, k.how, k.way, k.coats, k.minutes, l.code AS lot, f.sha256, k.note, k.at, p.name AS who FROM rim_look k
		JOIN rim r ON r.id = k.rim_id JOIN person p ON p.id = k.person_id LEFT JOIN lot l ON l.id = k.lot_id LEFT JOIN file f ON f.id = k.file_id WHERE r.copy_id = ? ORDER BY k.id`, copyID); err != nil {
		return nil, err
	}
	for i := range list {
		list[i].Looks = []RimLook{}
		for _, k := range looks {
			if k.RimID == list[i].ID {
				list[i].Looks = append(list[i].Looks, k)
			}
		}
	}
	return list, nil
}

// named adds what the map names and nobody looked at: its edges, its seams, else the rim
// all round, and a mould's seam.
func named(list []Rim, around piece.Surroundings, p piece.Piece, doc section.Section) []Rim {
	has := func(kind, name string) bool {
		return slices.ContainsFunc(list, func(r Rim) bool { return r.Kind == kind && r.Name == name })
	}
	texts := map[string]string{}
	for _, m := range around.Brief.Marks {
		texts[m.ID] = m.Text
	}
	near := len(around.Map.KeepOut) > 0
	moving := slices.ContainsFunc(around.Map.Areas, func(a wearmap.Area) bool {
		return a.Piece == p.Code && slices.ContainsFunc(a.Shares, func(s wearmap.Share) bool { return s.Moves })
	})
	n := map[string]int{}
	for _, e := range around.Map.Edges {
		if e.Kind != "edge" && e.Kind != "seam" {
			continue
		}
		n[e.Kind]++
		name := texts[e.Mark]
		if name == "" {
			name = fmt.Sprintf("%s %d of the map", e.Kind, n[e.Kind])
		}
		if !has(e.Kind, name) {
			list = append(list, Rim{Kind: e.Kind, Name: name, Mark: e.Mark, LengthMM: e.MM, Intent: orVanish(e.How), HiddenBy: e.By, NearEye: near, Moving: moving, Looks: []RimLook{}})
		}
	}
	if n["edge"] == 0 && !has("edge", "all round") {
		list = append(list, Rim{Kind: "edge", Name: "all round", LengthMM: 10 * edgeCM(around, p, doc), Intent: "vanish", NearEye: near, Moving: moving, Looks: []RimLook{}})
	}
	if n["seam"] == 0 && doc.MadeOn() == section.InMould && !has("seam", "where the mould parts") {
		list = append(list, Rim{Kind: "seam", Name: "where the mould parts", LengthMM: 10 * edgeCM(around, p, doc), Intent: "vanish", Moving: moving, Looks: []RimLook{}})
	}
	return list
}

func orVanish(how string) string {
	if how == "" {
		return "vanish"
	}
	return how
}

// edgeOf is what an edge is made of, as the table of ways calls it: by the film round a
// silicone and what dissolves it, else by what its body is.
func edgeOf(doc section.Section, materials material.Shelf) string {
	out, solvent := "", ""
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		p := materials[l.Material]
		switch l.Kind {
		case section.Encapsulator:
			solvent = p.Solvent
		case section.Silicone:
			out = "silicone_bare"
		case section.Gelatin:
			out = "gelatin"
			if strings.Contains(string(p.Slug), "plant") {
				out = "plant_gel"
			}
		case section.Foam:
			out = "foam_latex"
		case section.Latex:
			if out == "" {
				out = "slip_latex"
			}
			if l.Fibre != "" {
				out = "latex_fibre"
			}
		case section.Paste:
			if out == "" {
				out = "paste"
			}
		case section.Wax:
			if out == "" {
				out = "wax"
			}
		}
	})
	if out == "silicone_bare" && (solvent == "acetone" || solvent == "alcohol") {
		return "encapsulated_" + solvent
	}
	if out == "" && (solvent == "acetone" || solvent == "alcohol") {
		return "cap_" + solvent
	}
	return out
}

// judge says what is seen of a stretch, and how it can be lost.
func (e Edges) judge(r *Rim) {
	step := 0.2
	if len(r.Looks) > 0 {
		last := r.Looks[len(r.Looks)-1]
		step = last.StepMM
		for _, l := range lights {
			look := edge.Look{StepMM: last.StepMM, RampMM: last.RampMM, DistanceM: max(0.1, e.DistanceM), LightDeg: l.Deg, Fill: l.Fill, DE00: last.DE00, BlendMM: last.BlendMM}
			if e.DistanceM == 0 {
				look.DistanceM = 1
			}
			// Raking light is looked at on purpose, not lit for.
			if v := edge.See(look); l.Name != "raking" && (r.Visible == nil || v.Visibility > r.Visible.Visibility) {
				r.Visible, r.Light = &v, l.Name
			}
		}
		r.Does = r.Intent != "vanish" || e.Limit == nil || r.Visible.Visibility <= *e.Limit+1e-9
	}
	if _, known := edge.MaterialOf(e.Material); !known {
		return
	}
	w := edge.WaysOf(edge.Rim{Material: e.Material, StepMM: step, NearEye: r.NearEye, LatexOK: e.LatexOK, Moving: r.Moving})
	r.Ways = &w
	if len(r.Looks) > 0 && slices.ContainsFunc(w.Ways, func(id string) bool { return strings.HasPrefix(id, "stipple") }) {
		coats := edge.Stipple(edge.UsualStipple(step, max(1, r.LengthMM)))
		r.Stipple = &coats
	}
}

// NewLook is a look at a stretch as it comes in.
type NewLook struct {
	Kind     string   `json:"kind" enum:"edge,seam"`
	Name     string   `json:"name" minLength:"1" maxLength:"80"`
	Mark     string   `json:"mark,omitempty" maxLength:"40"`
	LengthMM float64  `json:"length_mm" minimum:"1" maximum:"10000"`
	Intent   string   `json:"intent" enum:"vanish,stay in view,be torn,be hidden"`
	HiddenBy string   `json:"hidden_by,omitempty" maxLength:"120"`
	NearEye  bool     `json:"near_eye,omitempty"`
	Moving   bool     `json:"moving,omitempty"`
	StepMM   float64  `json:"step_mm" minimum:"0" maximum:"20"`
	RampMM   float64  `json:"ramp_mm,omitempty" minimum:"0" maximum:"200"`
	DE00     float64  `json:"de00,omitempty" minimum:"0" maximum:"100"`
	BlendMM  float64  `json:"blend_mm,omitempty" minimum:"0" maximum:"200"`
	How      string   `json:"how" enum:"measured,felt"`
	Way      string   `json:"way,omitempty" maxLength:"24" doc:"what was done to it before it was looked at"`
	Coats    int      `json:"coats,omitempty" minimum:"0" maximum:"100"`
	Minutes  *float64 `json:"minutes,omitempty" minimum:"0" maximum:"6000"`
	Material string   `json:"material,omitempty" maxLength:"64" doc:"slug of what it was done with"`
	Lot      string   `json:"lot,omitempty" maxLength:"32"`
	Note     string   `json:"note,omitempty" maxLength:"300"`
	Key      string   `json:"key" format:"uuid"`
}

// LookAt writes down how a stretch was found, or what was done to it and how it is then.
// It may be sent twice.
func (s *Service) LookAt(ctx context.Context, code string, in NewLook) (Edges, error) {
	if in.Intent == "be hidden" && strings.TrimSpace(in.HiddenBy) == "" {
		return Edges{}, problem.Invalid("missing", "hidden_by", "Hidden by what, and whose is it?")
	}
	if in.Way != "" {
		if _, known := edge.MethodOf(in.Way); !known {
			return Edges{}, problem.Invalid("unknown_value", "way", "“%.24s” is no way to lose an edge.", in.Way)
		}
	}
	who, _ := accounts.From(ctx)
	var out Edges
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := onBench(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		about := journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code}
		if in.Way != "" {
			e, err := s.EdgesOf(ctx, tx, code)
			if err != nil {
				return err
			}
			if err := e.allows(in); err != nil {
				return err
			}
		}
		lot, err := s.stuff(ctx, tx, c, in.Material, in.Lot, about)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO rim (copy_id, kind, name, mark, length_mm, intent, hidden_by, near_eye, moving, at, person_id) VALUES (?,?,?,?,?,?,?,?,?,?,?)
			ON DUPLICATE KEY UPDATE length_mm = VALUES(length_mm), intent = VALUES(intent), hidden_by = VALUES(hidden_by), near_eye = VALUES(near_eye), moving = VALUES(moving)`,
			c.ID, in.Kind, in.Name, in.Mark, in.LengthMM, in.Intent, in.HiddenBy, in.NearEye, in.Moving, now, who.ID); err != nil {
			return fmt.Errorf("writing the stretch: %w", err)
		}
		added, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO rim_look (rim_id, step_mm, ramp_mm, de00, blend_mm, how, way, coats, minutes, lot_id, note, at, person_id, idem_key)
			SELECT r.id, ?,?,?,?,?,?,?,?,NULLIF(?,0),?,?,?,? FROM rim r WHERE r.copy_id = ? AND r.kind = ? AND r.name = ?`,
			in.StepMM, in.RampMM, in.DE00, in.BlendMM, in.How, in.Way, in.Coats, in.Minutes, lot, in.Note, now, who.ID, in.Key, c.ID, in.Kind, in.Name))
		if err != nil || !added {
			return err
		}
		about.Act = in.Kind + " looked at"
		about.Words = fmt.Sprintf("%s, %s: step %.2f mm %s. %s", in.Kind, in.Name, in.StepMM, in.How, in.Note)
		if in.Way != "" {
			about.Act = in.Kind + " repaired"
			about.Words = fmt.Sprintf("%s, %s: %s, then %.2f mm %s. %s", in.Kind, in.Name, strings.ReplaceAll(in.Way, "_", " "), in.StepMM, in.How, in.Note)
		}
		about.Words = strings.TrimSpace(about.Words)
		_, err = journal.Add(ctx, tx, about)
		return err
	})
	if err != nil {
		return out, err
	}
	s.Live.Tell(ctx, "copies", code)
	return s.EdgesOf(ctx, s.DB, code)
}

// refusedWhy is why a way is refused, in words.
var refusedWhy = map[string]string{"latex": "it holds latex, which this wearer does not take", "eye": "it is too near the eye", "moving": "it does not hold where skin moves", "step": "the step is more than it hides"}

// allows refuses a way that this stretch does not take. The step is that before the repair.
func (e Edges) allows(in NewLook) error {
	step := in.StepMM
	for _, r := range e.Rims {
		if r.Kind == in.Kind && r.Name == in.Name && len(r.Looks) > 0 {
			step = r.Looks[len(r.Looks)-1].StepMM
		}
	}
	if _, known := edge.MaterialOf(e.Material); !known {
		return nil
	}
	w := edge.WaysOf(edge.Rim{Material: e.Material, StepMM: step, NearEye: in.NearEye, LatexOK: e.LatexOK, Moving: in.Moving})
	if why, refused := w.Refused[in.Way]; refused {
		return problem.Invalid("contradiction", "way", "Not here: %s. Nothing was recorded.", refusedWhy[why])
	}
	if !slices.Contains(w.Ways, in.Way) {
		return problem.Invalid("contradiction", "way", "That way does not go with this material. Nothing was recorded.")
	}
	return nil
}

// PictureRim puts a picture to the newest look at a stretch, or to the one named.
func (s *Service) PictureRim(ctx context.Context, look uint64, from io.Reader) (Edges, error) {
	var at struct {
		Code    string
		PieceID uint64 `db:"piece_id"`
		Name    string
	}
	read := func(db database.Reader) error {
		err := db.GetContext(ctx, &at, `SELECT c.code, c.piece_id, r.name FROM rim_look k JOIN rim r ON r.id = k.rim_id JOIN copy c ON c.id = r.copy_id WHERE k.id = ?`, look)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.NotFound("look", fmt.Sprint(look))
		}
		return err
	}
	if err := read(s.DB); err != nil {
		return Edges{}, err
	}
	taken, err := s.Files.Prepare(ctx, from)
	if err != nil {
		return Edges{}, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var f files.File
		if f, err = s.Files.Record(ctx, tx, taken, s.Clock.Now(), who.ID); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE rim_look SET file_id = ? WHERE id = ?`, f.ID, look); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: at.PieceID, Kind: "copy", Code: at.Code, Act: "edge photographed", Words: at.Name})
		return err
	})
	if err != nil {
		return Edges{}, err
	}
	s.Live.Tell(ctx, "copies", at.Code)
	return s.EdgesOf(ctx, s.DB, at.Code)
}
