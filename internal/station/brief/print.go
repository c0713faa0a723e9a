package brief

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shelf"
)

// Ready is how a wearer is made ready for a character, and what they are told.
type Ready struct {
	Preparations []wear.Preparation `json:"preparations"`
	Card         wear.Card          `json:"card"`
}

// Ready works out preparation and card from the briefs and sections of the
// pieces of a look; all of the character's when none is named.
func (s *Service) Ready(ctx context.Context, character, look string) (Ready, error) {
	out := Ready{Preparations: []wear.Preparation{}}
	c, err := s.Character(ctx, character)
	if err != nil {
		return out, err
	}
	shelf, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	i := slices.IndexFunc(c.Looks, func(l Look) bool { return l.Name == look })
	var all wearmap.Result
	plan := wear.Plan{CheckInMin: 60}
	var conditions wear.Conditions
	var marks []wearmap.Mark
	for _, p := range c.Pieces {
		if i >= 0 && !slices.Contains(c.Looks[i].Pieces, p.Code) {
			continue
		}
		v, err := s.View(ctx, p.Code, look)
		if err != nil {
			return out, err
		}
		doc, _, _, err := piece.AgreedSection(ctx, s.DB, p)
		if err != nil {
			return out, err
		}
		r, _ := region.Find(p.Region)
		out.Preparations = append(out.Preparations, wear.Prepare(p.Code, sided(r.Text, p.Side), doc, shelf, v.Map))
		all = union(all, v.Map)
		plan.CheckInMin, plan.CoolMin = min(plan.CheckInMin, v.Wear.CheckInMin), max(plan.CoolMin, v.Wear.CoolMin)
		if m := v.Wear.MaxHours; m > 0 && (plan.MaxHours == 0 || m < plan.MaxHours) {
			plan.MaxHours = m
		}
		if v.Doc.WayOut.Minutes >= conditions.WayOut.Minutes && v.Doc.WayOut.Closure != "" {
			conditions.WayOut = v.Doc.WayOut // the slowest counts
		}
		marks = v.WearerMarks
	}
	if all.Sight == "" {
		all.Sight, all.Hearing, all.Breath = "both", "both", "nose and mouth"
	}
	out.Card = wear.Tell(all, plan, conditions, marks)
	return out, nil
}

// union adds up what the card asks of the maps of several pieces. Each map
// already knows all pieces of the look, so that the openings are the same.
func union(a, b wearmap.Result) wearmap.Result {
	a.Sight, a.Hearing, a.Breath = b.Sight, b.Hearing, b.Breath
	a.Findings = append(a.Findings, b.Findings...)
	a.Areas = append(a.Areas, b.Areas...)
	return a
}

func sided(text, side string) string {
	return map[string]string{"L": "left ", "R": "right "}[side] + text
}

// servePaper puts drawings and pages to print on the engine.
func (s *Service) servePaper(e *web.Engine) {
	e.Handle(http.MethodGet, "/api/pieces/:code/map.svg", "The wearer's map of a piece at true size, as SVG", web.Makers, func(c *gin.Context) error {
		yaw, _ := strconv.Atoi(c.Query("yaw"))
		pitch, _ := strconv.Atoi(c.Query("pitch"))
		m, err := s.draw(c.Request.Context(), c.Param("code"), c.Query("look"), c.Query("sheet"), yaw, pitch)
		if err != nil {
			return err
		}
		c.Header("Content-Type", "image/svg+xml")
		c.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
		c.Header("Content-Disposition", `inline; filename="`+c.Param("code")+`-map.svg"`)
		return paper.WriteMap(c.Writer, m)
	})
	e.Handle(http.MethodGet, "/api/characters/:code/card.pdf", "The performer's card and the preparation list, to print", web.Makers, func(c *gin.Context) error {
		card, err := s.card(c.Request.Context(), c.Param("code"), c.Query("look"))
		if err != nil {
			return err
		}
		return web.PDF(c, c.Param("code")+"-card.pdf", func(w io.Writer) error { return paper.WriteCard(w, card) })
	})
}

// draw gathers what stands on one view of a piece's map.
func (s *Service) draw(ctx context.Context, code, look, sheet string, yaw, pitch int) (paper.Map, error) {
	v, err := s.View(ctx, code, look)
	if err != nil {
		return paper.Map{}, err
	}
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return paper.Map{}, err
	}
	if form.PartOf(sheet) == "" {
		sheet = form.SheetFor(p.Region, p.Side)
	}
	sheets, err := s.People.SheetsOf(ctx, s.DB, p.PerformerID)
	if err != nil {
		return paper.Map{}, err
	}
	f, err := sheets(sheet)
	if err != nil {
		return paper.Map{}, err
	}
	var performer uint64
	if p.PerformerID != nil {
		performer = *p.PerformerID
	}
	yaw, pitch = nearest(yaws(sheet), yaw), nearest(pitches(sheet), pitch)
	view, err := s.Drawing(ctx, performer, sheet, yaw, pitch)
	if err != nil {
		return paper.Map{}, err
	}
	m := paper.Map{Title: code + " " + p.Name, Left: view.Left, Top: view.Top, Width: view.Width, Height: view.Height, Outline: view.Outline, Ridges: view.Ridges, Contours: view.Contours, Heavy: view.Heavy, Sides: yaw == 0 && sheet == "head"}
	m.Note = fmt.Sprintf("%s, seen from %d°; %.1f cm² of skin in all; lines every %g mm of depth", strings.ReplaceAll(sheet, "_", " "), yaw, v.Map.CM2, view.StepMM)
	sight := f.Sight(yaw, pitch)
	put := func(kind, label string, points []form.Point, closed bool) {
		if line, seen := sight.See(form.Curve(points, closed)); seen {
			m.Areas = append(m.Areas, paper.MapArea{Line: line, Closed: closed, Kind: kind, Label: label})
		}
	}
	marks := func(list []wearmap.Mark, label string) {
		for _, mark := range list {
			if k, _ := wearmap.KindOf(mark.Kind); mark.Sheet == sheet {
				text := mark.Text
				if mark.Kind == "region" && label != "" {
					text = label
				}
				put(mark.Kind, text, mark.Points, k.Closed)
			}
		}
	}
	marks(v.LookMarks, "")
	marks(v.WearerMarks, "")
	for _, o := range v.Others {
		marks(o.Marks, o.Code)
	}
	marks(v.Doc.Marks, code)
	for _, z := range f.KeepOut() {
		put("keep_out", "", z.Outline, true)
	}
	for _, z := range f.Openings() {
		if !strings.HasSuffix(z.Name, "eye") {
			put("opening", "", z.Outline, true)
		}
	}
	return m, nil
}

// WritePlaced draws the map of a piece with its landmarks numbered in the order given; those that this view does not
// show are left out, and keep their number.
func (s *Service) WritePlaced(ctx context.Context, w io.Writer, code string, landmarks []string) error {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return err
	}
	yaw := map[string]int{"L": 60, "R": -60}[p.Side]
	if p.Region == "nose" || p.Region == "chin" || p.Region == "forehead" {
		yaw = 0
	}
	sheet := form.SheetFor(p.Region, p.Side)
	yaw = nearest(yaws(sheet), yaw)
	m, err := s.draw(ctx, code, "", sheet, yaw, 0)
	if err != nil {
		return err
	}
	sheets, err := s.People.SheetsOf(ctx, s.DB, p.PerformerID)
	if err != nil {
		return err
	}
	f, err := sheets(sheet)
	if err != nil {
		return err
	}
	eye := form.Look(yaw, nearest(pitches(sheet), 0))
	for _, id := range landmarks {
		if at, known := f.Landmark(id); known {
			x, y, _ := eye.See(f.At(at))
			m.Places = append(m.Places, paper.MapPlace{X: x, Y: y, Name: id})
		}
	}
	return paper.WriteMap(w, m)
}

func (s *Service) card(ctx context.Context, character, look string) (paper.Card, error) {
	c, err := s.Character(ctx, character)
	ready, err2 := s.Ready(ctx, character, look)
	if err := errors.Join(err, err2); err != nil {
		return paper.Card{}, err
	}
	out := paper.Card{Code: c.Code, Title: c.Name, For: "nobody named yet", Printed: s.Clock.Now().Format("2 Jan 2006 15:04")}
	if c.Performer != nil {
		out.For = *c.Performer
	}
	out.Wearer = []paper.CardPart{{Heading: "How to say stop", Lines: ready.Card.Stop}, {Heading: "What to do", Lines: ready.Card.Do}, {Heading: "What to keep still", Lines: ready.Card.Still}, {Heading: "While you wear it", Lines: ready.Card.Worn}}
	for _, p := range ready.Preparations {
		part := paper.CardPart{Heading: p.Piece + " · " + p.Where + " · " + or(p.Adhesive, "no adhesive in its section yet"), Numbered: true}
		for _, step := range p.Steps {
			part.Lines = append(part.Lines, step.Text+" ("+step.Why+")")
		}
		out.Chair = append(out.Chair, part)
	}
	return out, nil
}

func or(s, fallback string) string {
	if s == "" {
		return fallback
	}
	return s
}
