package sculpt

import (
	"context"
	"encoding/binary"
	"errors"
	"math"
	"net/http"

	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/document"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// judgedPixels is how finely a plan is drawn to be judged: fine enough for
// every figure, quick enough for a screen.
const judgedPixels = 400_000

// View is a texture plan as one person sees it, with what hands have done.
type View struct {
	Doc    texture.Recipe  `json:"doc"`
	State  document.State  `json:"state"`
	Begun  bool            `json:"begun"`
	Judged *texture.Judged `json:"judged,omitempty"`
	// Wrong is why the plan cannot be made, when it cannot.
	Wrong string        `json:"wrong,omitempty"`
	Times texture.Times `json:"times" doc:"this person's own, as far as they were timed"`
	Ticks []Tick        `json:"ticks" doc:"steps that are done"`
	Log   Log           `json:"log"`
	// Thickness is what the section says of the piece, to check lines against.
	Thickness *texture.Thickness `json:"thickness,omitempty"`
	Surface   Surface            `json:"surface"`
}

// Log is what the record says of the time that was needed.
type Log struct {
	DoneSteps int     `json:"done_steps"`
	AllSteps  int     `json:"all_steps"`
	ActualH   float64 `json:"actual_hours" doc:"of the steps that were timed"`
	TimedH    float64 `json:"timed_hours" doc:"planned for the same steps"`
	LeftH     float64 `json:"left_hours"`
}

// Texture reads the texture plan of a piece.
func (s *Service) Texture(ctx context.Context, code string) (View, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return View{}, err
	}
	return s.view(ctx, p)
}

// InClay is a piece with a texture plan, for the list of the room.
type InClay struct {
	Code   string `db:"code" json:"code"`
	Number int    `db:"number" json:"number" doc:"newest agreed plan, 0 for none"`
	Drafts int    `db:"drafts" json:"drafts" doc:"how many people draw on it"`
	Ticks  int    `db:"ticks" json:"ticks" doc:"steps that are done"`
	Ready  int    `db:"ready" json:"ready" doc:"of the things looked at before the mould"`
}

// InHand lists the pieces in work that have a texture plan.
func (s *Service) InHand(ctx context.Context) ([]InClay, error) {
	list := []InClay{}
	// Indexes document_version_once, draft's and texture_tick_once of each piece.
	err := s.DB.SelectContext(ctx, &list, `SELECT q.code, `+document.NewestSQL("q.id", piece.TextureKind)+` AS number,
		(SELECT COUNT(*) FROM document d JOIN draft t ON t.document_id = d.id WHERE d.piece_id = q.id AND d.kind = 'texture') AS drafts,
		(SELECT COUNT(*) FROM texture_tick t WHERE t.piece_id = q.id AND t.back_at IS NULL) AS ticks,
		(SELECT COUNT(*) FROM sculpt_tick g WHERE g.piece_id = q.id AND g.back_at IS NULL) AS ready
		FROM piece q WHERE q.put_away_at IS NULL HAVING number > 0 OR drafts > 0 ORDER BY q.code`)
	return list, err
}

func (s *Service) view(ctx context.Context, p piece.Piece) (View, error) {
	v := View{Ticks: []Tick{}}
	var err error
	if v.Doc, v.State, v.Begun, err = s.Pieces.ReadTexture(ctx, p); err != nil {
		return v, err
	}
	if v.Times, err = s.times(ctx); err != nil {
		return v, err
	}
	if v.Ticks, err = ticks(ctx, s.DB, p.ID); err != nil {
		return v, err
	}
	if v.Thickness, err = s.thickness(ctx, p); err != nil {
		return v, err
	}
	if v.Surface, err = s.surface(ctx, s.DB, p, v.Doc, v.Ticks); err != nil {
		return v, err
	}
	if !v.Begun {
		v.Doc = s.start(ctx, p, v.Thickness)
		return v, nil
	}
	j, err := s.judge(ctx, v.Doc, v.Times)
	var no *refusal.Error
	if errors.As(err, &no) {
		v.Wrong = no.Detail
		return v, nil
	}
	if err != nil {
		return v, err
	}
	v.Judged = j
	v.Log = logOf(j.Work.Steps, v.Ticks)
	return v, nil
}

// logOf sums what was done of a plan and what is left.
func logOf(steps []texture.Step, done []Tick) Log {
	by := map[string]Tick{}
	for _, t := range done {
		by[t.Key] = t
	}
	l := Log{AllSteps: len(steps)}
	for _, st := range steps {
		t, is := by[st.Key]
		if !is {
			l.LeftH += st.HandsS / 3600
			continue
		}
		l.DoneSteps++
		if t.ActualS != nil {
			l.ActualH += *t.ActualS / 3600
			l.TimedH += st.HandsS / 3600
		}
	}
	return l
}

// start is where a plan begins: the region of the piece, fading at its rim.
func (s *Service) start(ctx context.Context, p piece.Piece, t *texture.Thickness) texture.Recipe {
	r := texture.Recipe{Seed: 1, Region: texture.Region{Preset: p.Region}, FeatherMM: 6, Layers: []texture.Layer{}, Thickness: t}
	if list, err := s.outlines(ctx, p); err == nil && len(list) > 0 {
		r.Region = list[0].Region
	}
	return r
}

// judge works out everything that follows; what was asked before is not worked
// out again.
func (s *Service) judge(ctx context.Context, doc texture.Recipe, times texture.Times) (*texture.Judged, error) {
	if err := s.bring(ctx, &doc); err != nil {
		return nil, err
	}
	j, err := s.judged.Get(doc, func() (*texture.Judged, error) {
		free, err := s.Turns.Take(ctx)
		if err != nil {
			return nil, err
		}
		defer free()
		sheet, err := texture.MakeWithin(ctx, doc, judgedPixels)
		if err != nil {
			return nil, err
		}
		return sheet.Judge(ctx)
	})
	if err != nil {
		return nil, err
	}
	return j.In(times), nil
}

// Ask is a relief that somebody wants to see.
type Ask struct {
	Doc    texture.Recipe `json:"doc"`
	Pixels int            `json:"pixels" minimum:"1000" maximum:"2000000" doc:"about how many at most"`
	// Judge also works out all figures and the plan; Paint lays the scheme.
	Judge bool `json:"judge,omitempty"`
	Paint bool `json:"paint,omitempty"`
}

// Shown is a relief to look at.
type Shown struct {
	NX      int     `json:"nx"`
	NY      int     `json:"ny"`
	PitchMM float64 `json:"pitch_mm"`
	X0      float64 `json:"x0"`
	Y0      float64 `json:"y0"`
	// StepMM is one count of Heights: 16 bits each, lowest byte first, rows from
	// the lowest up; -32768 lies outside the region.
	StepMM  float64 `json:"step_mm"`
	Heights []byte  `json:"heights"`
	// Colours are three bytes a pixel of what the scheme looks like in flat
	// light.
	Colours []byte           `json:"colours,omitempty"`
	Painted *texture.Painted `json:"painted,omitempty"`
	Outline [][]texture.P    `json:"outline"`
	Guides  [][]texture.P    `json:"guides" doc:"smoothed"`
	Judged  *texture.Judged  `json:"judged,omitempty"`
	// Rims are those that hang lower down: x, y, radius.
	Rims [][3]float64 `json:"rims,omitempty"`
	// Pressed are impressions: layer, row from 1, x, y, half axes, turn.
	Pressed [][7]float64 `json:"pressed,omitempty"`
}

// maxPressed is the most impressions that are sent to be shown one by one.
const maxPressed = 6000

// Outside marks a pixel beside the region.
const outside = -32768

// Relief makes a relief to look at. It is let go when the person who asked has
// gone on.
func (s *Service) Relief(ctx context.Context, in Ask) (Shown, error) {
	times := texture.Hands()
	if in.Judge {
		var err error
		if times, err = s.times(ctx); err != nil {
			return Shown{}, err
		}
	}
	if err := s.bring(ctx, &in.Doc); err != nil {
		return Shown{}, err
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return Shown{}, err
	}
	defer free()
	sheet, err := s.sheet(ctx, in)
	if err != nil {
		return Shown{}, err
	}
	f := sheet.Field
	out := Shown{NX: f.NX, NY: f.NY, PitchMM: f.H, X0: f.X0, Y0: f.Y0, Outline: sheet.Flat.Outline(), Guides: sheet.Guides(), Heights: make([]byte, 2*len(f.Z))}
	if out.StepMM, err = f.CountMM(); err != nil {
		return Shown{}, err
	}
	for k, z := range f.Z {
		n := int16(outside)
		if f.In[k] {
			n = int16(math.Max(-32767, math.Min(32767, math.Floor(z/out.StepMM+0.5))))
		}
		binary.LittleEndian.PutUint16(out.Heights[2*k:], uint16(n))
	}
	for _, m := range sheet.Layers {
		if g := in.Doc.Gravity; g != nil && g.Sag > 0 && (m.Kind == "rot" || m.Kind == "barnacles") {
			for _, p := range m.Spots {
				out.Rims = append(out.Rims, [3]float64{p.At[0], p.At[1], p.Diameter / 2})
			}
		}
		for _, i := range m.Impressions {
			if len(out.Pressed) < maxPressed {
				out.Pressed = append(out.Pressed, [7]float64{float64(m.From), float64(i.Row + 1), i.At[0], i.At[1], i.A, i.B, i.Turn})
			}
		}
	}
	if in.Judge {
		j, err := sheet.Judge(ctx)
		if err != nil {
			return Shown{}, err
		}
		out.Judged = j.In(times)
	}
	if in.Paint && in.Doc.Paint != nil {
		if out.Painted, err = sheet.Paint(ctx, *in.Doc.Paint); err != nil {
			return Shown{}, err
		}
		out.Colours = out.Painted.RGB
	}
	return out, nil
}

// paintedPixels is up to how many pixels a relief is kept for those who only change its
// paint: a slider is followed by laying the paint anew, not by making the relief again.
const paintedPixels = 60_000

// Remember says how many small reliefs are kept.
func (s *Service) Remember(sheets int) { s.sheets.Most = sheets }

// sheet makes the relief of a plan; a small one that is only painted is kept.
func (s *Service) sheet(ctx context.Context, in Ask) (*texture.Sheet, error) {
	made := func() (*texture.Sheet, error) { return texture.MakeWithin(ctx, in.Doc, in.Pixels) }
	if !in.Paint || in.Judge || in.Pixels > paintedPixels {
		return made()
	}
	bare := in.Doc
	bare.Paint = nil
	return s.sheets.Get(struct {
		Doc    texture.Recipe
		Pixels int
	}{bare, in.Pixels}, made)
}

// Save writes the person's next draft step. A plan that cannot be made is
// refused at its field; one without a texture yet is a beginning.
func (s *Service) Save(ctx context.Context, code string, doc texture.Recipe, base, step int) (View, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return View{}, err
	}
	if err := s.check(ctx, doc); err != nil {
		return View{}, err
	}
	if err := s.Pieces.SaveTexture(ctx, p, doc, base, step); err != nil {
		return View{}, err
	}
	return s.view(ctx, p)
}

func (s *Service) check(ctx context.Context, doc texture.Recipe) error {
	whole := doc
	if len(doc.Layers) == 0 {
		// The region, guides and areas are checked all the same.
		whole.Layers = []texture.Layer{{Kind: "pores", Spacing: &texture.Span{40, 40}}}
	}
	if err := s.bring(ctx, &whole); err != nil {
		return err
	}
	if err := whole.Check(ctx); err != nil {
		return err
	}
	return nil
}

// Walk goes a step back or forward in the draft.
func (s *Service) Walk(ctx context.Context, code string, by int) (View, error) {
	return s.change(ctx, code, func(p piece.Piece) error { return s.Pieces.WalkTexture(ctx, p, by) })
}

// Drop throws the draft away.
func (s *Service) Drop(ctx context.Context, code string) (View, error) {
	return s.change(ctx, code, func(p piece.Piece) error { return s.Pieces.DropTexture(ctx, p) })
}

// Carry keeps the draft over a version agreed meanwhile.
func (s *Service) Carry(ctx context.Context, code string, latest int) (View, error) {
	return s.change(ctx, code, func(p piece.Piece) error { return s.Pieces.CarryTexture(ctx, p, latest) })
}

// Agree makes the draft the version that hands work by. What cuts through the
// piece holds it back.
func (s *Service) Agree(ctx context.Context, code string) (View, error) {
	return s.change(ctx, code, func(p piece.Piece) error {
		doc, _, begun, err := s.Pieces.ReadTexture(ctx, p)
		if err != nil {
			return err
		}
		if !begun {
			return problem.Conflict("no_draft", "There is nothing new to agree.")
		}
		// Judged ahead, so that inside the act the answer is known already.
		if err := s.held(ctx, doc); err != nil {
			return err
		}
		return s.Pieces.AgreeTexture(ctx, p, func(doc texture.Recipe) error { return s.held(ctx, doc) })
	})
}

// held says what of a texture plan holds it back from being agreed.
func (s *Service) held(ctx context.Context, doc texture.Recipe) error {
	j, err := s.judge(ctx, doc, texture.Hands())
	if err != nil {
		return err
	}
	for _, f := range j.Found {
		if f.Grave == "stop" {
			held := problem.New(http.StatusUnprocessableEntity, "held_back", "layers", "%s %s The draft is kept.", f.Words, f.Remedy)
			held.Data = f
			return held
		}
	}
	return nil
}

func (s *Service) change(ctx context.Context, code string, act func(piece.Piece) error) (View, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return View{}, err
	}
	if err := act(p); err != nil {
		return View{}, err
	}
	return s.Texture(ctx, code)
}

// thickness is what the agreed section says: thin at the edge, thick in the
// centre.
func (s *Service) thickness(ctx context.Context, p piece.Piece) (*texture.Thickness, error) {
	doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil || number == 0 {
		return nil, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	r, err := s.Pieces.ResultOf(ctx, s.DB, p, doc, materials)
	if err != nil {
		return nil, err
	}
	if len(r.Cuts) == 0 || r.CentreMM <= 0 {
		return nil, nil
	}
	return &texture.Thickness{EdgeMM: rounded(r.EdgeMM, 3), CentreMM: rounded(r.CentreMM*r.Body.Times, 3), OverMM: rounded(doc.Cuts()[0].HalfWidthMM, 1)}, nil
}

// coursePlaces are the places at which a texture's height is taken over into a
// section; coursePixels how finely it is looked at for that.
const coursePlaces, coursePixels = 9, 60_000

// Course is how a body stands under the newest agreed texture, or what is drafted.
type Course struct {
	ProfileMM []float64 `json:"profile_mm" doc:"from the centre to the edge in even places; empty where no texture adds anything"`
}

// Course is a body of this centre and edge with the mean height of the piece's
// texture on it.
func (s *Service) Course(ctx context.Context, code string, centreMM, edgeMM float64) (Course, error) {
	out := Course{ProfileMM: []float64{}}
	v, err := s.Texture(ctx, code)
	if err != nil || len(v.Doc.Layers) == 0 {
		return out, err
	}
	doc := v.Doc
	if err := s.bring(ctx, &doc); err != nil {
		return out, err
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return out, err
	}
	defer free()
	sheet, err := texture.MakeWithin(ctx, doc, coursePixels)
	if err != nil {
		return out, err
	}
	heights, err := sheet.Course(ctx, coursePlaces)
	if err != nil {
		return out, err
	}
	out.ProfileMM = section.Layer{CentreMM: centreMM, EdgeMM: edgeMM}.Over(heights)
	return out, nil
}

func rounded(x float64, digits int) float64 {
	p := math.Pow(10, float64(digits))
	return math.Round(x*p) / p
}

// times are the person's own, learned from what they timed.
func (s *Service) times(ctx context.Context) (texture.Times, error) {
	who, _ := accounts.From(ctx)
	var rows []struct {
		Action  string
		Count   int
		PlainS  float64 `db:"plain_s"`
		ActualS float64 `db:"actual_s"`
	}
	// Index texture_tick_hand; the newest say how the hand is now.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT action, count, plain_s, actual_s FROM texture_tick WHERE person_id = ? AND back_at IS NULL AND actual_s IS NOT NULL ORDER BY id DESC LIMIT 400`, who.ID); err != nil {
		return nil, err
	}
	log := make([]texture.Timed, len(rows))
	for i, r := range rows {
		log[i] = texture.Timed{Action: texture.Action(r.Action), Count: r.Count, PlannedS: r.PlainS, ActualS: r.ActualS}
	}
	return texture.Learn(log), nil
}
