package sculpt

import (
	"context"
	"fmt"
	"math"
	"strings"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/texture"
	"yewmoor/internal/piece"
)

// Outline is a region that a plan can be begun on.
type Outline struct {
	Text   string         `json:"text"`
	From   string         `json:"from" enum:"brief,section,preset"`
	Note   string         `json:"note"`
	CM2    float64        `json:"cm2"`
	Region texture.Region `json:"region"`
}

// Outlines are the regions that fit a piece: what its brief draws on the map,
// what its section measures, then the usual outline of every region.
func (s *Service) Outlines(ctx context.Context, code string) ([]Outline, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	return s.outlines(ctx, p)
}

func (s *Service) outlines(ctx context.Context, p piece.Piece) ([]Outline, error) {
	list := []Outline{}
	add := func(o Outline) {
		flat, err := o.Region.Lay()
		if err != nil {
			return // an outline that folds over itself when unrolled is not offered
		}
		o.CM2 = rounded(flat.Area()/100, 1)
		list = append(list, o)
	}
	brief, _, err := s.Pieces.ReadBrief(ctx, s.DB, p)
	if err != nil {
		return nil, err
	}
	sheets, err := s.People.SheetsOf(ctx, s.DB, p.PerformerID)
	if err != nil {
		return nil, err
	}
	for _, m := range brief.Marks {
		if m.Kind != "region" {
			continue
		}
		sheet, err := sheets(m.Sheet)
		if err != nil {
			return nil, err
		}
		flat, scale := sheet.Flatten(m.Points)
		o := Outline{Text: m.Text, From: "brief", Note: fmt.Sprintf("unrolled row by row from the wearer's map; stretch about %.0f %%", 100*math.Abs(scale-1))}
		if o.Text == "" {
			o.Text = p.Name
		}
		o.Region = texture.Region{From: "brief: " + o.Text}
		for _, q := range flat {
			o.Region.Polygon = append(o.Region.Polygon, q)
		}
		add(o)
	}
	if doc, _, number, err := piece.AgreedSection(ctx, s.DB, p); err == nil && number > 0 {
		for _, c := range doc.Cuts() {
			w := 2 * c.HalfWidthMM
			// A superellipse of exponent 2.4 fills 0.845 of its box.
			h := 100 * c.AreaCM2 / (0.845 * w)
			if !(w > 1 && h > 1) {
				continue
			}
			text := "the section"
			if c.Name != "" {
				text += ", " + c.Name
			}
			add(Outline{Text: text, From: "section", Note: fmt.Sprintf("§%d: %.0f mm across, %.1f cm², rounded", number, w, c.AreaCM2),
				Region: texture.Region{From: fmt.Sprintf("section §%d", number)}.Rounded(w, h)})
		}
	}
	// The piece's own region first, then every other.
	for i, r := range append(ownRegion(p), region.All...) {
		if i > 0 && r.Name == p.Region {
			continue
		}
		note := "a flat stand-in of usual size, ± 10 % stretch; type the wearer's own"
		if r.Outline().Exact() {
			note = "unrolled, no stretch; type the wearer's own girths"
		}
		add(Outline{Text: r.Text, From: "preset", Note: note, Region: texture.Region{Preset: r.Name}})
	}
	add(Outline{Text: "test tile", From: "preset", Note: "a square to try a texture on", Region: texture.Region{Preset: "tile", Params: map[string]float64{"w": 60, "h": 60}}})
	return list, nil
}

func ownRegion(p piece.Piece) []region.Region {
	if r, ok := region.Find(p.Region); ok {
		return []region.Region{r}
	}
	return nil
}

// Drawing reads an outline from an SVG drawing.
func (s *Service) Drawing(_ context.Context, svg string) (texture.Region, error) {
	return texture.OutlineFromSVG(strings.NewReader(svg))
}
