package wearmap

import (
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/region"
)

const (
	// An opening passes when this share of it is free. Our own default: a rim of
	// a piece may touch a nostril, it may not narrow it.
	passShare = 0.85
	// Skin under two pieces from which the order of fitting matters, in cm².
	overlapCM2 = 0.3
	// Pieces nearer than this that move against each other rub or tear, in mm.
	// Our own default.
	movingGapMM = 3.0
	// Beyond this two pieces are no neighbours, in mm.
	neighbourMM = 25.0
	touchesCM2  = 0.05
)

// body is a piece's area on one sheet, followed.
type body struct {
	piece int
	mark  Mark
	patch form.Patch
	holes []form.Patch
}

type worker struct {
	scene  Scene
	sheets Sheets
	bodies []body
	look   []body // what covers, and edges that move
	out    Result
}

// Work measures a scene. Marks must have passed Check.
func Work(scene Scene, sheets Sheets) (Result, error) {
	w := &worker{scene: scene, sheets: sheets}
	w.out = Result{Areas: []Area{}, Openings: []Opening{}, Overlaps: []Overlap{}, Gaps: []Gap{}, Hair: []Hair{}, Edges: []Stretch{}, KeepOut: []Reach{}, Findings: []Finding{}}
	w.gather()
	for _, step := range []func() error{w.areas, w.openings, w.neighbours, w.hair, w.edges} {
		if err := step(); err != nil {
			return Result{}, err
		}
	}
	w.judge()
	return w.out, nil
}

// gather follows every area once.
func (w *worker) gather() {
	for i, p := range w.scene.Pieces {
		for _, m := range p.Marks {
			if m.Kind != "region" {
				continue
			}
			b := body{piece: i, mark: m, patch: form.Follow(m.Points)}
			for _, h := range p.Marks {
				if h.Kind == "hole" && h.Sheet == m.Sheet {
					b.holes = append(b.holes, form.Follow(h.Points))
				}
			}
			w.bodies = append(w.bodies, b)
		}
	}
	for _, m := range w.scene.Look {
		if k, _ := KindOf(m.Kind); k.Closed {
			w.look = append(w.look, body{mark: m, patch: form.Follow(m.Points)})
		}
	}
}

// covers tells whether a piece lies on a place.
func (b *body) covers(p form.Point) bool { return b.patch.Holds(p) && b.whole(p) }

// whole tells whether a place within a piece's area is in none of its holes.
func (b *body) whole(p form.Point) bool {
	return !slices.ContainsFunc(b.holes, func(h form.Patch) bool { return h.Holds(p) })
}

func cm2(mm2 float64) float64 { return math.Round(mm2) / 100 }

func (w *worker) areas() error {
	for i := range w.bodies {
		b := &w.bodies[i]
		s, err := w.sheets(b.mark.Sheet)
		if err != nil {
			return err
		}
		a := Area{Piece: w.scene.Pieces[b.piece].Code, Mark: b.mark.ID, Text: b.mark.Text, Shares: []Share{}}
		a.CM2 = cm2(s.AreaOf(b.patch, b.whole))
		a.EdgeMM = math.Round(s.Length(b.mark.Points, true)*10) / 10
		w.out.WornCM2 += a.CM2
		if b.piece == 0 {
			w.out.CM2 += a.CM2
			a.Shares = w.shares(s, b)
			a.CoveredCM2 = w.under(s, b, "covered", nil)
			a.MovingCM2 = w.under(s, b, "moving_edge", nil)
		}
		w.out.Areas = append(w.out.Areas, a)
	}
	return nil
}

// under is how much of a piece lies under something of the look, in cm²; of the
// part of it that within tells, if it is given.
func (w *worker) under(s *form.Sheet, b *body, kind string, within func(form.Point) bool) float64 {
	over := slices.DeleteFunc(slices.Clone(w.look), func(l body) bool {
		return l.mark.Kind != kind || l.mark.Sheet != s.Name || l.patch.Apart(b.patch)
	})
	if len(over) == 0 {
		return 0
	}
	return cm2(s.AreaOf(b.patch, func(p form.Point) bool {
		return slices.ContainsFunc(over, func(l body) bool { return l.patch.Holds(p) }) && b.whole(p) && (within == nil || within(p))
	}))
}

func (w *worker) shares(s *form.Sheet, b *body) []Share {
	list := []Share{}
	for _, r := range region.All {
		if r.Name == "face" { // it only holds the others
			continue
		}
		sides := []string{""}
		if r.Sided {
			sides = []string{"L", "R"}
		}
		for _, side := range sides {
			outline, ok := s.Region(r.Name, side)
			if !ok {
				continue
			}
			place := form.Follow(outline)
			if place.Apart(b.patch) {
				continue
			}
			if a := cm2(s.AreaOf(b.patch, func(p form.Point) bool { return place.Holds(p) && b.whole(p) })); a >= 0.2 {
				list = append(list, Share{r.Name, r.Text, side, a, r.MovesMuch, w.under(s, b, "covered", place.Holds), w.under(s, b, "moving_edge", place.Holds)})
			}
		}
	}
	slices.SortStableFunc(list, func(a, b Share) int { return int(math.Copysign(1, b.CM2-a.CM2)) })
	return list
}

func (w *worker) openings() error {
	s, err := w.sheets("head")
	if err != nil {
		return err
	}
	for _, z := range s.Openings() {
		o := Opening{Name: z.Name, Text: z.Text, Asked: w.asked(z.Name), Covered: []string{}}
		o.WideMM = math.Round(s.At(z.Outline[0]).Distance(s.At(z.Outline[len(z.Outline)/2]))*10) / 10
		o.HighMM = math.Round(s.At(z.Outline[len(z.Outline)/4]).Distance(s.At(z.Outline[len(z.Outline)*3/4]))*10) / 10
		way := form.Follow(z.Outline)
		shut := s.AreaOf(way, func(p form.Point) bool {
			return slices.ContainsFunc(w.bodies, func(b body) bool { return b.mark.Sheet == "head" && b.covers(p) })
		})
		o.Open = math.Round(100*(1-shut/s.AreaOf(way, nil))) / 100
		o.Pass = o.Open >= passShare
		for i := range w.bodies {
			b := &w.bodies[i]
			code := w.scene.Pieces[b.piece].Code
			if b.mark.Sheet == "head" && !o.Pass && !way.Apart(b.patch) && !slices.Contains(o.Covered, code) && s.AreaOf(way, b.covers) > 0 {
				o.Covered = append(o.Covered, code)
			}
		}
		w.out.Openings = append(w.out.Openings, o)
	}
	pass := map[string]bool{}
	for _, o := range w.out.Openings {
		pass[o.Name] = o.Pass
	}
	w.out.Sight = sides(pass["left eye"], pass["right eye"])
	w.out.Hearing = sides(pass["left ear"], pass["right ear"])
	nose := pass["left nostril"] || pass["right nostril"]
	w.out.Breath = map[[2]bool]string{{true, true}: "nose and mouth", {true, false}: "nose", {false, true}: "mouth", {false, false}: "none"}[[2]bool{nose, pass["mouth"]}]
	return nil
}

func (w *worker) asked(opening string) bool {
	for _, f := range w.scene.Free {
		if f == opening || f == "nose" && strings.HasSuffix(opening, "nostril") || f == "hearing" && strings.HasSuffix(opening, "ear") || f == "mouth" && opening == "straw" {
			return true
		}
	}
	return false
}

func sides(left, right bool) string {
	switch {
	case left && right:
		return "both"
	case left:
		return "left"
	case right:
		return "right"
	default:
		return "none"
	}
}

// neighbours are overlap and gaps, of the piece in hand with every other.
func (w *worker) neighbours() error {
	for i := range w.bodies {
		a := &w.bodies[i]
		if a.piece != 0 {
			continue
		}
		s, err := w.sheets(a.mark.Sheet)
		if err != nil {
			return err
		}
		for k := range w.bodies {
			b := &w.bodies[k]
			if b.piece == 0 || b.mark.Sheet != a.mark.Sheet {
				continue
			}
			codes := [2]string{w.scene.Pieces[a.piece].Code, w.scene.Pieces[b.piece].Code}
			var shared float64
			if !a.patch.Apart(b.patch) {
				shared = cm2(s.AreaOf(a.patch, func(p form.Point) bool { return b.covers(p) && a.whole(p) }))
			}
			if shared >= touchesCM2 {
				w.out.Overlaps = append(w.out.Overlaps, Overlap{codes[0], codes[1], shared})
				continue
			}
			if gap := s.Gap(a.patch, b.patch); gap <= neighbourMM {
				g := Gap{A: codes[0], B: codes[1], MM: math.Round(gap*10) / 10, Moves: moves(w.shares(s, a)) || moves(w.shares(s, b))}
				g.Pass = !g.Moves || g.MM >= movingGapMM
				w.out.Gaps = append(w.out.Gaps, g)
			}
		}
	}
	return nil
}

func moves(list []Share) bool {
	return slices.ContainsFunc(list, func(s Share) bool { return s.Moves })
}

func (w *worker) hair() error {
	for _, m := range w.scene.Wearer {
		if m.Kind != "hair" {
			continue
		}
		s, err := w.sheets(m.Sheet)
		if err != nil {
			return err
		}
		hair := form.Follow(m.Points)
		for i := range w.bodies {
			b := &w.bodies[i]
			if b.piece != 0 || b.mark.Sheet != m.Sheet || hair.Apart(b.patch) {
				continue
			}
			if a := cm2(s.AreaOf(hair, b.covers)); a >= touchesCM2 {
				w.out.Hair = append(w.out.Hair, Hair{m.ID, m.Text, w.scene.Pieces[0].Code, a, m.How, m.By})
			}
		}
	}
	return nil
}

func (w *worker) edges() error {
	if len(w.scene.Pieces) == 0 {
		return nil
	}
	for _, m := range w.scene.Pieces[0].Marks {
		if m.Kind != "edge" && m.Kind != "seam" {
			continue
		}
		s, err := w.sheets(m.Sheet)
		if err != nil {
			return err
		}
		w.out.Edges = append(w.out.Edges, Stretch{m.ID, m.Kind, m.How, m.By, math.Round(s.Length(m.Points, false)*10) / 10})
	}
	return nil
}

// Measure is the skin under the areas of one piece, holes left out, in cm².
func Measure(marks []Mark, sheets Sheets) (float64, error) {
	w := &worker{scene: Scene{Pieces: []Drawn{{Marks: marks}}}, sheets: sheets}
	w.gather()
	var sum float64
	for i := range w.bodies {
		s, err := sheets(w.bodies[i].mark.Sheet)
		if err != nil {
			return 0, err
		}
		sum += s.AreaOf(w.bodies[i].patch, w.bodies[i].whole)
	}
	return cm2(sum), nil
}
