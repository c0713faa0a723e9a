package colour

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/paintwork"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
	"yewmoor/internal/shelf"
)

// PaintKind is what documents of paint schedules are called.
const PaintKind = "paint"

// ScheduleView is a paint schedule as one person sees it, with what it comes to.
type ScheduleView struct {
	Doc      paintwork.Schedule `json:"doc"`
	State    document.State     `json:"state"`
	Begun    bool               `json:"begun" doc:"somebody saved it; else it is a first draft"`
	From     string             `json:"from,omitempty" enum:",trial,section" doc:"where a first draft comes from"`
	Ground   string             `json:"ground" doc:"what it is laid on, to be read"`
	Painted  *paintwork.Painted `json:"painted,omitempty"`
	Aim      *colour.Lab        `json:"aim,omitempty"`
	Allowed  float64            `json:"allowed"`
	AreaCM2  float64            `json:"area_cm2"`
	Lights   []Light            `json:"lights" doc:"the end beside the target, under every light"`
	Wrong    *problem.Problem   `json:"wrong,omitempty" doc:"why it cannot be reckoned"`
	Findings []rules.Finding    `json:"findings" doc:"what the rule book says of it on this section"`
	Tools    []paintwork.Tool   `json:"tools"`
	Scheme   *texture.Scheme    `json:"scheme,omitempty" doc:"the same, to be laid over the relief"`
}

func schedule(p piece.Piece) document.Ref { return document.OfPiece(PaintKind, p.ID) }

// Schedule reads the paint schedule of a piece: the person's draft, else what was agreed,
// else a first draft from the trial scheme of its texture or from its section.
func (s *Service) Schedule(ctx context.Context, code string) (ScheduleView, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return ScheduleView{}, err
	}
	raw, state, err := document.Read(ctx, s.DB, schedule(p))
	if err != nil {
		return ScheduleView{}, err
	}
	v := ScheduleView{State: state, Begun: raw != nil}
	if raw != nil {
		if err := json.Unmarshal(raw, &v.Doc); err != nil {
			return v, fmt.Errorf("reading the paint schedule of %s: %w", code, err)
		}
	} else if v.Doc, v.From, err = firstDraft(ctx, s.DB, p); err != nil {
		return v, err
	}
	if err := s.follow(ctx, s.DB, p, &v); err != nil || v.From != "section" || v.Aim == nil {
		return v, err
	}
	guess(&v.Doc, *v.Aim)
	return v, s.follow(ctx, s.DB, p, &v)
}

// guess gives the colours of a first draft what they may look like, from the target.
func guess(doc *paintwork.Schedule, aim colour.Lab) {
	lighter := map[string]float64{"shadow": -14, "highlight": 10, "line": -20, "veins": -8, "spots": -12}
	for i, l := range doc.Layers {
		if l.Lab != nil || l.Role == "shine" {
			continue
		}
		c := aim
		c.L = min(99, max(1, c.L+lighter[l.Role]))
		if l.Role == "veins" {
			c.B -= 12
		}
		doc.Layers[i].Lab = &c
	}
}

// firstDraft is the trial scheme of the texture where one was planned, else the colours of
// the section.
func firstDraft(ctx context.Context, db database.Reader, p piece.Piece) (paintwork.Schedule, string, error) {
	empty := paintwork.Schedule{Layers: []paintwork.Layer{}}
	recipe, number, err := piece.AgreedTexture(ctx, db, p.ID)
	if err != nil {
		return empty, "", err
	}
	doc, _, at, err := piece.AgreedSection(ctx, db, p)
	if err != nil {
		return empty, "", err
	}
	medium, from := "paint-alcohol", ""
	layers := []paintwork.Layer{}
	if at > 0 {
		roles := map[string]string{"": "base", "base": "base", "wash": "shadow", "spatter": "spots", "shadow": "shadow",
			"highlight": "highlight", "line": "line", "veins": "veins"}
		tools := map[string]string{"spatter": "spatter", "wash": "wash", "line": "brush", "veins": "brush"}
		doc.All(func(_ section.Cut, _ int, l section.Layer) {
			if l.Kind != section.Paint || slices.ContainsFunc(layers, func(o paintwork.Layer) bool { return o.ID == l.ID }) {
				return
			}
			if len(layers) == 0 {
				medium = l.Material
			}
			tool := tools[l.Role]
			if tool == "" {
				tool = "sponge"
			}
			one := paintwork.Layer{ID: l.ID, Role: roles[l.Role], Medium: l.Material, Tool: tool, Passes: max(1, l.Coats)}
			switch one.Role {
			case "veins", "line": // a field of thin lines
				one.LineMM, one.ApartMM = 0.6, 5
			case "shadow":
				one.Dilution = 6
			}
			layers = append(layers, one)
		})
		if len(layers) > 0 {
			from = "section"
		}
	}
	if number > 0 && recipe.Paint != nil && len(recipe.Paint.Layers) > 0 {
		return paintwork.FromScheme(*recipe.Paint, medium), "trial", nil
	}
	empty.Layers = layers
	return empty, from, nil
}

// follow works out what a schedule comes to on its piece, and what the rule book says.
func (s *Service) follow(ctx context.Context, db database.Reader, p piece.Piece, v *ScheduleView) error {
	if err := s.reckon(ctx, db, p, v); err != nil || v.Wrong != nil {
		return err
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return err
	}
	v.Findings, err = s.says(ctx, db, p, v.Doc, materials)
	return err
}

// reckon works out what a schedule comes to on its piece.
func (s *Service) reckon(ctx context.Context, db database.Reader, p piece.Piece, v *ScheduleView) error {
	v.Tools, v.Wrong, v.Findings, v.Lights = paintwork.Tools, nil, []rules.Finding{}, []Light{}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return err
	}
	known, err := knownPigments(ctx, db)
	if err != nil {
		return err
	}
	m := &matching{}
	skins, err := s.skinsOf(ctx, p)
	if err != nil {
		return err
	}
	var target *colour.Spectrum
	if aim, err := s.aim(ctx, db, p, skins); err == nil {
		m.Aim = aim
		target, v.Aim, v.Allowed = &aim.r, &aim.Lab, aim.Allowed
	} else if !isConflict(err) {
		return err
	}
	ground, words, err := s.ground(ctx, db, p, &m.Aim, target != nil)
	if err != nil {
		return err
	}
	v.Ground = words
	_, areas, err := s.Pieces.VoicesOf(ctx, db, p)
	if err != nil {
		return err
	}
	v.AreaCM2 = areas.CM2
	if err := v.Doc.Check(materials, known); err != nil {
		var no *problem.Problem
		if errors.As(problem.From(err), &no) {
			v.Wrong = no
			return nil
		}
		return err
	}
	wait := s.waits(ctx, db, materials)
	painted, err := v.Doc.On(ground, v.AreaCM2, target, materials, known, wait)
	if err != nil {
		return err
	}
	v.Painted = &painted
	scheme := v.Doc.Scheme(painted.Start, painted.Steps)
	v.Scheme = &scheme
	if target != nil {
		if m.lights, err = lightsNow(ctx, db); err != nil {
			return err
		}
		if m.Days, err = daysOf(ctx, db, p, m.lights); err != nil {
			return err
		}
		end := painted.Spectrum()
		v.Lights = m.under(&end)
	}
	return nil
}

// Proposed is what a layer could be mixed of.
type Proposed struct {
	Mixed []paintwork.Part `json:"mixed"`
	Off   float64          `json:"de00" doc:"how near it comes where it covers wholly"`
	Was   float64          `json:"was" doc:"how far the place is without it"`
}

// mostInLayer is how many pigments are mixed for a layer at most.
const mostInLayer = 3

// Propose finds what one layer could be mixed of, so that it takes what lies under it
// nearest to the target: a wash, a glaze, a colour that cancels another. Paint only absorbs
// and scatters: what cannot be reached is told as that.
func (s *Service) Propose(ctx context.Context, code string, doc paintwork.Schedule, at int) (Proposed, error) {
	out := Proposed{Mixed: []paintwork.Part{}}
	if at < 0 || at >= len(doc.Layers) {
		return out, problem.Invalid("out_of_range", "at", "There is no layer %d.", at+1)
	}
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return out, err
	}
	skins, err := s.skinsOf(ctx, p)
	if err != nil {
		return out, err
	}
	aim, err := s.aim(ctx, s.DB, p, skins)
	if err != nil {
		return out, err
	}
	ground, _, err := s.ground(ctx, s.DB, p, &aim, true)
	if err != nil {
		return out, err
	}
	materials, errM := shelf.Load(ctx, s.DB)
	known, errK := knownPigments(ctx, s.DB)
	if err := cmp.Or(errM, errK); err != nil {
		return out, err
	}
	layer := doc.Layers[at]
	under := paintwork.Schedule{Layers: doc.Layers[:at]}
	if err := under.Check(materials, known); err != nil {
		return out, err
	}
	before, err := under.On(ground, 1, nil, materials, known, nil)
	if err != nil {
		return out, err
	}
	clear, err := colour.BaseOf("clear")
	if err != nil {
		return out, err
	}
	q := colour.Asked{Target: aim.r, Backing: before.Spectrum(), Base: clear, X: min(1, layer.Film()*float64(layer.Times())), Most: mostInLayer, BatchG: 20,
		ResolutionG: 0.01, OpacityMax: 1, Metamerism: 0.25}
	for _, v := range colour.All() {
		if v.Class != "fibre" && v.Class != "extender" {
			q.Pigments = append(q.Pigments, v)
		}
	}
	free, err := s.Turns.Take(ctx)
	if err != nil {
		return out, err
	}
	defer free()
	found, err := q.Match(ctx)
	if err != nil {
		return out, err
	}
	best := found.Alternatives[0]
	out.Off, out.Was = best.DE00[colour.D65], colour.DE00(before.End, aim.Lab)
	for _, d := range best.Recipe {
		out.Mixed = append(out.Mixed, paintwork.Part{Pigment: d.Pigment, Per100G: math.Round(100*d.G) / 100})
	}
	return out, nil
}

func (s *Service) scheduleAct(ctx context.Context, code string, act func(tx database.Tx, p piece.Piece) error) (ScheduleView,
	error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		return act(tx, p)
	})
	if err != nil {
		return ScheduleView{}, err
	}
	s.Live.Tell(ctx, "colours", code)
	return s.Schedule(ctx, code)
}

// Try works a schedule out without saving it: what a slider follows. The rule book is asked
// when it is saved.
func (s *Service) Try(ctx context.Context, code string, doc paintwork.Schedule) (ScheduleView, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return ScheduleView{}, err
	}
	v := ScheduleView{Doc: doc, State: document.State{Others: []string{}}, Begun: true}
	return v, s.reckon(ctx, s.DB, p, &v)
}

// Save writes the person's next step of a schedule; what is not finished yet is kept too.
func (s *Service) Save(ctx context.Context, code string, in document.DraftOf[paintwork.Schedule]) (ScheduleView, error) {
	raw, err := json.Marshal(in.Doc)
	if err != nil {
		return ScheduleView{}, err
	}
	return s.scheduleAct(ctx, code, func(tx database.Tx, p piece.Piece) error {
		return s.Pieces.Documents.Save(ctx, tx, schedule(p), raw, in.Base, in.Step)
	})
}

// Walk goes a step back or forward in the draft.
func (s *Service) Walk(ctx context.Context, code string, by int) (ScheduleView, error) {
	return s.scheduleAct(ctx, code, func(tx database.Tx, p piece.Piece) error {
		return s.Pieces.Documents.Walk(ctx, tx, schedule(p), by)
	})
}

// Carry keeps the draft over a version that was agreed meanwhile.
func (s *Service) Carry(ctx context.Context, code string, latest int) (ScheduleView, error) {
	return s.scheduleAct(ctx, code, func(tx database.Tx, p piece.Piece) error {
		return s.Pieces.Documents.Carry(ctx, tx, schedule(p), latest)
	})
}

// DropDraft throws the draft away.
func (s *Service) DropDraft(ctx context.Context, code string) (ScheduleView, error) {
	return s.scheduleAct(ctx, code, func(tx database.Tx, p piece.Piece) error {
		return s.Pieces.Documents.Drop(ctx, tx, schedule(p))
	})
}

// Agree makes the draft what hands work by. A schedule that cannot be meant is refused; a
// never of the rule book holds it back for good, a stop until a lead says why.
func (s *Service) Agree(ctx context.Context, code string) (ScheduleView, error) {
	v, err := s.scheduleAct(ctx, code, func(tx database.Tx, p piece.Piece) error {
		_, err := s.Pieces.Documents.Agree(ctx, tx, schedule(p), p.Code,
			func(raw json.RawMessage, _ document.State) ([]document.Signature, error) {
				var doc paintwork.Schedule
				if err := json.Unmarshal(raw, &doc); err != nil {
					return nil, err
				}
				if len(doc.Layers) == 0 {
					return nil, problem.Invalid("missing", "layers", "There is no colour in it yet.")
				}
				materials, err := shelf.Load(ctx, tx)
				if err != nil {
					return nil, err
				}
				known, err := knownPigments(ctx, tx)
				if err != nil {
					return nil, err
				}
				if err := doc.Check(materials, known); err != nil {
					return nil, err
				}
				findings, err := s.says(ctx, tx, p, doc, materials)
				if err != nil {
					return nil, err
				}
				var media []string
				for _, l := range doc.Layers {
					media = append(media, l.Medium)
				}
				about := journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: p.Code}
				if err := s.Pieces.AskStuff(ctx, tx, p, 0, about, media...); err != nil {
					return nil, err
				}
				var open []rules.Finding
				for _, f := range findings {
					if f.Severity == rules.Never || f.Severity == rules.Stop {
						open = append(open, f)
					}
				}
				return nil, piece.Meet(ctx, tx, about, open...)
			})
		if err != nil {
			return err
		}
		return round.Forward(ctx, tx, p.ID, round.Colour)
	})
	if err == nil {
		s.Live.Tell(ctx, "pieces", "")
	}
	return v, err
}

func knownPigments(ctx context.Context, db database.Reader) (colour.Palette, error) {
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return nil, err
	}
	list, err := pigments(ctx, db, materials)
	if err != nil {
		return nil, err
	}
	// A paint may also be mixed of the library's pigments, by their own names.
	return append(palette(list), colour.All()...), nil
}
