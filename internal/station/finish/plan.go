package finish

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

// PlanKind is what documents of finish plans are called.
const PlanKind = "finish"

// PlanView is a finish plan as one person sees it, with what it comes to.
type PlanView struct {
	Doc    plan.Plan        `json:"doc"`
	State  document.State   `json:"state"`
	Of     string           `json:"of" doc:"the piece by its code, or look-N for a look that has no piece"`
	Name   string           `json:"name"`
	Result *plan.Result     `json:"result,omitempty"`
	Shared *plan.Plan       `json:"shared,omitempty" doc:"what comes from the piece that it follows"`
	Wrong  *problem.Problem `json:"wrong,omitempty" doc:"why it cannot be worked out"`
	// Outline is where hair and inserts are drawn: the texture's, else one of the
	// section's size.
	Outline []texture.P `json:"outline"`
	From    string      `json:"from" doc:"where that outline comes from"`
	// Done counts what is set on the copy that was asked about.
	Done    map[string]plan.Set   `json:"done"`
	Batches map[string]plan.Batch `json:"batches"`
	Borders []Met                 `json:"borders"`
	Others  []string              `json:"others" doc:"pieces of the same character"`
}

// owner is whose a finish plan is: a piece, or a look without one.
type owner struct {
	of    string
	piece *piece.Piece
	look  uint64
	name  string
}

func (o owner) ref() document.Ref {
	if o.piece != nil {
		return document.OfPiece(PlanKind, o.piece.ID)
	}
	return document.Ref{Kind: PlanKind, Look: o.look}
}

func (o owner) pieceID() uint64 {
	if o.piece != nil {
		return o.piece.ID
	}
	return 0
}

// find reads whose plan is meant.
func (s *Service) find(ctx context.Context, db database.Reader, of string) (owner, error) {
	if rest, is := strings.CutPrefix(of, "look-"); is {
		id, err := strconv.ParseUint(rest, 10, 53)
		o := owner{of: of, look: id}
		if err != nil || db.GetContext(ctx, &o.name, `SELECT name FROM look WHERE id = ?`, id) != nil {
			return o, problem.NotFound("look", of)
		}
		return o, nil
	}
	p, err := piece.Find(ctx, db, of)
	return owner{of: of, piece: &p, name: p.Name}, err
}

func empty() plan.Plan {
	return plan.Plan{Hair: []plan.Zone{}, Inserts: []plan.Inserts{}, Worn: []plan.Worn{}, Parts: []plan.Part{}, Weights: []plan.Bags{}, Closures: []plan.Closure{}, Borders: []plan.Border{}}
}

// agreedPlan is the newest agreed finish plan of a piece; number 0 where there is none.
func agreedPlan(ctx context.Context, db database.Reader, p piece.Piece) (plan.Plan, int, error) {
	doc := empty()
	v, known, err := document.At(ctx, db, document.OfPiece(PlanKind, p.ID), 0)
	if err != nil || !known {
		return doc, 0, err
	}
	return doc, v.Number, json.Unmarshal(v.Doc, &doc)
}

// Plan reads a finish plan; copyCode may name a copy whose counts are told with it.
func (s *Service) Plan(ctx context.Context, of, copyCode string) (PlanView, error) {
	o, err := s.find(ctx, s.DB, of)
	if err != nil {
		return PlanView{}, err
	}
	raw, state, err := document.Read(ctx, s.DB, o.ref())
	if err != nil {
		return PlanView{}, err
	}
	v := PlanView{Doc: empty(), State: state}
	if raw != nil {
		if err := json.Unmarshal(raw, &v.Doc); err != nil {
			return v, fmt.Errorf("reading the finish plan of %s: %w", of, err)
		}
	}
	return v, s.look(ctx, o, copyCode, &v)
}

// look puts what follows from a plan beside it.
func (s *Service) look(ctx context.Context, o owner, copyCode string, v *PlanView) error {
	v.Of, v.Name, v.Others, v.Borders = o.of, o.name, []string{}, []Met{}
	var err error
	if v.Outline, v.From, err = s.outline(ctx, s.DB, o); err != nil {
		return err
	}
	around, shared, err := s.around(ctx, s.DB, o, v.Doc, copyCode)
	if err != nil {
		return err
	}
	v.Done, v.Batches, v.Shared = around.Done, around.Batches, shared
	if o.piece != nil {
		others, err := piece.OfCharacter(ctx, s.DB, o.piece.CharacterCode)
		if err != nil {
			return err
		}
		for _, q := range others {
			if q.Code != o.of {
				v.Others = append(v.Others, q.Code)
			}
		}
		if v.Borders, err = s.meets(ctx, s.DB, *o.piece, v.Doc.Borders); err != nil {
			return err
		}
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return err
	}
	defer free()
	r, err := v.Doc.With(shared).Follow(ctx, around)
	var no *problem.Problem
	if err != nil && errors.As(problem.From(err), &no) {
		v.Wrong = no
		return nil
	}
	for _, m := range v.Borders {
		if m.Finding != nil {
			r.Findings = append(r.Findings, *m.Finding)
		}
	}
	v.Result = &r
	return err
}

// around is what a plan of somebody is worked out in, and what the piece that it follows
// has.
func (s *Service) around(ctx context.Context, db database.Reader, o owner, own plan.Plan, copyCode string) (plan.Around, *plan.Plan, error) {
	in := plan.Around{Done: map[string]plan.Set{}, Batches: map[string]plan.Batch{}}
	if err := counts(ctx, db, o, copyCode, in.Done); err != nil {
		return in, nil, err
	}
	if o.piece == nil {
		return in, nil, nil
	}
	p := *o.piece
	if err := batches(ctx, db, p.ID, in.Batches); err != nil {
		return in, nil, err
	}
	in.Region = p.Region
	if p.Performer != nil {
		in.Wearer = *p.Performer
	}
	wearer, err := s.Pieces.LoadWearer(ctx, db, p)
	if err != nil {
		return in, nil, err
	}
	in.LimitG = wearer.LimitG
	brief, _, err := piece.AgreedBrief(ctx, db, p.ID)
	if err != nil {
		return in, nil, err
	}
	in.WornH = brief.WearHours
	doc, _, number, err := piece.AgreedSection(ctx, db, p)
	if err != nil {
		return in, nil, err
	}
	if number > 0 {
		c, err := s.Pieces.Work(ctx, db, p, doc)
		if err != nil {
			return in, nil, err
		}
		in.WornG, in.OthersG = c.Result.WornG, c.Company.TotalG-c.Result.WornG
		weighs := map[string]bool{}
		doc.All(func(_ section.Cut, _ int, l section.Layer) { weighs[l.ID] = weighs[l.ID] || l.Kind == section.Weight })
		for _, l := range c.Result.Layers {
			if weighs[l.ID] {
				in.SectionG += l.MassG
			}
		}
		if len(own.Weights) > 0 { // they are told here, bag by bag
			in.WornG -= in.SectionG
		}
	}
	shared, err := followed(ctx, db, p, own)
	return in, shared, err
}

// followed is what the piece that a plan follows has agreed; nil where it follows none.
func followed(ctx context.Context, db database.Reader, p piece.Piece, own plan.Plan) (*plan.Plan, error) {
	if own.Follows == "" {
		return nil, nil
	}
	q, err := piece.Find(ctx, db, own.Follows)
	if err != nil {
		return nil, problem.Invalid("unknown_value", "follows", "There is no piece %s to share with.", own.Follows)
	}
	if q.CharacterCode != p.CharacterCode || q.ID == p.ID {
		return nil, problem.Invalid("contradiction", "follows", "%s is no other piece of the same character.", own.Follows)
	}
	shared, _, err := agreedPlan(ctx, db, q)
	return &shared, err
}

// followFor works a plan out for the list of a copy.
func (s *Service) followFor(ctx context.Context, db database.Reader, p piece.Piece, doc plan.Plan, copyCode string) (plan.Result, error) {
	in, shared, err := s.around(ctx, db, owner{of: p.Code, piece: &p}, doc, copyCode)
	if err != nil {
		return plan.Result{}, err
	}
	return doc.With(shared).Follow(ctx, in)
}

// outline is where hair and inserts of a piece are drawn.
func (s *Service) outline(ctx context.Context, db database.Reader, o owner) ([]texture.P, string, error) {
	rounded := func(w, h float64) []texture.P { return texture.Region{}.Rounded(w, h).Polygon }
	if o.piece == nil {
		return rounded(140, 60), "a field of 140 by 60 mm, to be drawn as the look needs it", nil
	}
	recipe, number, err := piece.AgreedTexture(ctx, db, o.piece.ID)
	if err != nil {
		return nil, "", err
	}
	if number > 0 {
		if flat, err := recipe.Region.Lay(); err == nil {
			return thinned(flat.Outline()[0], 120), fmt.Sprintf("its texture §%d", number), nil
		}
	}
	doc, _, number, err := piece.AgreedSection(ctx, db, *o.piece)
	if err != nil {
		return nil, "", err
	}
	if number == 0 {
		return rounded(60, 40), "a stand-in of 60 by 40 mm: no section is agreed", nil
	}
	w := 2 * doc.HalfWidthMM
	return rounded(w, 100*doc.AreaCM2/(0.845*w)), fmt.Sprintf("its section §%d, rounded", number), nil
}

// thinned leaves every so manieth point of an outline, at most so many.
func thinned(list []texture.P, most int) []texture.P {
	step := (len(list) + most - 1) / most
	if step <= 1 {
		return list
	}
	var out []texture.P
	for i := 0; i < len(list); i += step {
		out = append(out, list[i])
	}
	return out
}

// Pressed are the marks of a texture layer that can be handed on as inserts.
type Pressed struct {
	Layer  string      `json:"layer"`
	Name   string      `json:"name"`
	Count  int         `json:"count"`
	SizeMM float64     `json:"size_mm" doc:"mean"`
	Spread float64     `json:"spread_mm" doc:"half from the smallest to the largest"`
	Places []plan.Spot `json:"places" doc:"at most 400"`
}

// mostPlaces is how many places an insert may have.
const mostPlaces = 400

// FromTexture counts what the agreed texture of a piece presses, dots and drops, layer by
// layer, to be handed on as inserts.
func (s *Service) FromTexture(ctx context.Context, code string) ([]Pressed, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	recipe, number, err := piece.AgreedTexture(ctx, s.DB, p.ID)
	if err != nil || number == 0 {
		return []Pressed{}, err
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return nil, err
	}
	defer free()
	sheet, err := recipe.Lay(ctx)
	if err != nil {
		return nil, err
	}
	out := []Pressed{}
	for _, m := range sheet.Layers {
		var at []texture.P
		var sizes []float64
		for _, i := range m.Impressions {
			at, sizes = append(at, i.At), append(sizes, i.A+i.B)
		}
		for _, d := range m.Spots {
			at, sizes = append(at, d.At), append(sizes, d.Diameter)
		}
		if len(at) == 0 {
			continue
		}
		layer := recipe.Layers[m.From]
		one := Pressed{Layer: layer.ID, Name: layer.Name, Count: len(at), Places: []plan.Spot{}}
		if one.Name == "" {
			one.Name = m.Kind
		}
		sum := 0.0
		for i, d := range sizes {
			sum += d
			if i < mostPlaces {
				one.Places = append(one.Places, plan.Spot{N: i + 1, At: at[i]})
			}
		}
		one.SizeMM, one.Spread = round2(sum/float64(len(sizes))), round2((slices.Max(sizes)-slices.Min(sizes))/2)
		out = append(out, one)
	}
	return out, nil
}

func round2(x float64) float64 { return float64(int(100*x+0.5)) / 100 }

// planAct does something to a finish plan inside a transaction.
func (s *Service) planAct(ctx context.Context, of string, act func(tx database.Tx, o owner) error) (PlanView, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		o, err := s.find(ctx, tx, of)
		if err != nil {
			return err
		}
		return act(tx, o)
	})
	if err != nil {
		return PlanView{}, err
	}
	s.Live.Tell(ctx, "finish", of)
	return s.Plan(ctx, of, "")
}

// SavePlan writes the person's next step of a plan; what is not finished yet is kept too.
func (s *Service) SavePlan(ctx context.Context, of string, in document.DraftOf[plan.Plan]) (PlanView, error) {
	raw, err := json.Marshal(in.Doc)
	if err != nil {
		return PlanView{}, err
	}
	return s.planAct(ctx, of, func(tx database.Tx, o owner) error {
		return s.Pieces.Documents.Save(ctx, tx, o.ref(), raw, in.Base, in.Step)
	})
}

// WalkPlan goes a step back or forward in the draft.
func (s *Service) WalkPlan(ctx context.Context, of string, by int) (PlanView, error) {
	return s.planAct(ctx, of, func(tx database.Tx, o owner) error { return s.Pieces.Documents.Walk(ctx, tx, o.ref(), by) })
}

// CarryPlan keeps the draft over a version that was agreed meanwhile.
func (s *Service) CarryPlan(ctx context.Context, of string, latest int) (PlanView, error) {
	return s.planAct(ctx, of, func(tx database.Tx, o owner) error { return s.Pieces.Documents.Carry(ctx, tx, o.ref(), latest) })
}

// DropPlan throws the draft away.
func (s *Service) DropPlan(ctx context.Context, of string) (PlanView, error) {
	return s.planAct(ctx, of, func(tx database.Tx, o owner) error { return s.Pieces.Documents.Drop(ctx, tx, o.ref()) })
}

// AgreePlan makes the draft what hands work by. What it puts on the wearer is asked of the
// rule book; a never holds it back for good, a stop until a lead says why.
func (s *Service) AgreePlan(ctx context.Context, of string) (PlanView, error) {
	v, err := s.planAct(ctx, of, func(tx database.Tx, o owner) error {
		_, err := s.Pieces.Documents.Agree(ctx, tx, o.ref(), of, func(raw json.RawMessage, _ document.State) ([]document.Signature, error) {
			doc := empty()
			if err := json.Unmarshal(raw, &doc); err != nil {
				return nil, err
			}
			return nil, s.meetPlan(ctx, tx, o, doc)
		})
		if err != nil || o.piece == nil {
			return err
		}
		if err := s.bring(ctx, tx, *o.piece); err != nil {
			return err
		}
		return round.Forward(ctx, tx, o.piece.ID, round.Finish)
	})
	if err == nil {
		s.Live.Tell(ctx, "pieces", "")
		s.Live.Tell(ctx, "copies", "")
	}
	return v, err
}

// bring puts what a newly agreed plan asks for on the lists of the copies that are on the
// bench, each line in its place; what is ticked stays as it was.
func (s *Service) bring(ctx context.Context, tx database.Tx, p piece.Piece) error {
	var rows []struct {
		Code    string
		Way     making.Way
		Section int `db:"section_number"`
	}
	// Index copy_piece_state.
	if err := tx.SelectContext(ctx, &rows, `SELECT c.code, r.way, COALESCE(c.section_number, 0) AS section_number FROM copy c JOIN run r ON r.id = c.run_id WHERE c.piece_id = ? AND c.state IN ('made','repair') ORDER BY c.id`, p.ID); err != nil {
		return err
	}
	for _, r := range rows {
		c, err := onBench(ctx, tx, r.Code)
		if err != nil {
			return err
		}
		want, err := s.ListFor(ctx, tx, p, r.Section, r.Way)
		if err != nil {
			return err
		}
		var list []work.Item
		for _, t := range c.Work {
			if t.Dropped == "" {
				list = append(list, t.Item)
			}
		}
		for _, item := range want {
			if t, listed := c.todo(item.ID); listed {
				// What nobody ticked yet is told as the plan tells it now.
				if i := slices.IndexFunc(list, func(o work.Item) bool { return o.ID == item.ID }); i >= 0 && t.Done == nil {
					list[i] = item
				}
				continue
			}
			list = slices.Insert(list, len(before(list, item)), item)
		}
		for i, item := range list {
			if err := copies.Line(ctx, tx, c.PieceID, c.ID, i+1, item); err != nil {
				return err
			}
		}
	}
	return nil
}

func (s *Service) meetPlan(ctx context.Context, tx database.Tx, o owner, doc plan.Plan) error {
	in, shared, err := s.around(ctx, tx, o, doc, "")
	if err != nil {
		return err
	}
	whole := doc.With(shared)
	r, err := whole.Follow(ctx, in)
	if err != nil {
		return err
	}
	about := journal.Entry{At: s.Clock.Now(), Piece: o.pieceID(), Kind: "piece", Code: o.of}
	if o.piece != nil {
		if err := s.Pieces.AskStuff(ctx, tx, *o.piece, 0, about, whole.Materials()...); err != nil {
			return err
		}
		met, err := s.meets(ctx, tx, *o.piece, doc.Borders)
		if err != nil {
			return err
		}
		for _, m := range met {
			if m.Finding != nil {
				r.Findings = append(r.Findings, *m.Finding)
			}
		}
	}
	var open []rules.Finding
	for _, f := range r.Findings {
		if f.Severity == rules.Never || f.Severity == rules.Stop {
			open = append(open, f)
		}
	}
	return piece.Meet(ctx, tx, about, open...)
}
