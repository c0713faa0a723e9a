package outing

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
)

// Lasting is how long pieces hold on their day.
type Lasting struct {
	fit.Lasting
	Hours float64    `json:"hours"`
	Parts []RimLasts `json:"lasts"`
	// Media are what lies on the pieces, to the first place that has to be mended.
	Media []MediumLasts `json:"media"`
}

// MediumLasts is how long a colour, a gloss or a soft body holds on a day: half of such surfaces have a
// place to mend by then. Ours (docs/decisions/0022).
type MediumLasts struct {
	Name    string   `json:"name"`
	MedianH float64  `json:"median_h"`
	Pieces  []string `json:"pieces"`
}

func media(pieces []Piece, d Day, shelf material.Shelf) []MediumLasts {
	out := []MediumLasts{}
	for _, p := range pieces {
		p.Doc.All(func(_ section.Cut, _ int, l section.Layer) {
			product := shelf[l.Material]
			median, known := rules.SurfaceHours(product.Family, d.AirC, d.Exertion)
			if !known {
				return
			}
			i := slices.IndexFunc(out, func(m MediumLasts) bool { return m.Name == product.Name })
			if i < 0 {
				out = append(out, MediumLasts{product.Name, median, nil})
				i = len(out) - 1
			}
			if !slices.Contains(out[i].Pieces, p.Code) {
				out[i].Pieces = append(out[i].Pieces, p.Code)
			}
		})
	}
	slices.SortStableFunc(out, func(a, b MediumLasts) int { return cmp.Compare(a.MedianH, b.MedianH) })
	return out
}

// RimLasts is one piece's edge over the day.
type RimLasts struct {
	Piece    string       `json:"piece"`
	Name     string       `json:"name"`
	Adhesive string       `json:"adhesive"`
	MedianH  float64      `json:"median_h" doc:"half of such edges have lifted somewhere by then; within a factor 1.5"`
	PLast    float64      `json:"p_last"`
	PTouched float64      `json:"p_touched"`
	TouchH   []float64    `json:"touch_h" doc:"hours after it went on"`
	Words    string       `json:"words"`
	Kit      fit.TouchKit `json:"kit"`
}

// sweat is how the wearer sweats: ours, by the air and what they do.
func (d Day) sweat() string {
	switch {
	case d.AirC >= 28 || d.Exertion == "running" && d.AirC >= 15:
		return "heavy"
	case d.AirC <= 10 && (d.Exertion == "still" || d.Exertion == "acting" || d.Exertion == ""):
		return "none"
	}
	return "light"
}

func (d Day) segment() fit.Segment {
	out := fit.Segment{Hours: math.Max(0.01, d.Hours), AirC: d.AirC, Sweat: d.sweat(), Exertion: d.Exertion}
	if !slices.Contains(fit.Exertions, out.Exertion) {
		out.Exertion = "acting"
	}
	return out
}

// part is the rim of a piece, glued at a good moment on prepared skin.
func (p Piece) part(kind string, d Day) fit.Part {
	rim := p.RimCM
	if rim == 0 {
		rim = 2 * math.Sqrt(math.Pi*p.AreaCM2)
	}
	return fit.Part{ID: p.Code, Adhesive: kind, EdgeMM: p.EdgeMM, Strain: p.strain(), Prep: true, InWindow: true, Double: p.mouth(), Mouth: p.mouth(), Rub: d.Rain, LengthCM: rim}
}

// Wear is how long pieces hold on a day. What is built on skin of latex holds as latex does; what nothing glues is
// left out.
func Wear(pieces []Piece, d Day, shelf material.Shelf) Lasting {
	var parts []fit.Part
	out := Lasting{Hours: d.Hours, Parts: []RimLasts{}, Media: media(pieces, d, shelf)}
	names := map[string]string{}
	for _, p := range pieces {
		kind := ""
		if g := p.Glues(shelf); len(g) > 0 {
			kind, names[p.Code] = g[0].Kind.ID, g[0].Product.Name
		} else if p.onSkin() && slices.Contains([]string{"latex", "paste"}, p.Family(shelf)) {
			kind, names[p.Code] = "adhesive_latex", "the latex itself"
		}
		if kind != "" {
			parts = append(parts, p.part(kind, d))
		}
	}
	if len(parts) == 0 {
		out.Lasting = fit.Lasting{LookP: 1, LookPTouched: 1, Parts: map[string]fit.PartLasts{}, TouchH: map[string][]float64{}, Warnings: []string{}}
		return out
	}
	segments := []fit.Segment{d.segment()}
	out.Lasting = fit.Last(segments, parts, fit.UsualTouching)
	for _, p := range pieces {
		one, worn := out.Lasting.Parts[p.Code]
		if !worn {
			continue
		}
		i := slices.IndexFunc(parts, func(x fit.Part) bool { return x.ID == p.Code })
		h := RimLasts{Piece: p.Code, Name: p.Name, Adhesive: names[p.Code], MedianH: one.MedianH, PLast: one.PLast, PTouched: one.PTouched, TouchH: out.TouchH[p.Code],
			Kit: fit.Last(segments, parts[i:i+1], fit.UsualTouching).Kit}
		h.Words = fmt.Sprintf("%s holds about %s at %.0f °C", p.place(), hoursText(one.MedianH), d.AirC)
		if n := one.Touches; n > 0 && float64(n) > d.Hours {
			h.Words += ", and wants more than a touch-up an hour: another adhesive, a double coat or a second copy"
		}
		h.Words += "."
		out.Parts = append(out.Parts, h)
	}
	return out
}

func (l Lasting) touchG(piece string) fit.TouchKit {
	for _, p := range l.Parts {
		if p.Piece == piece {
			return p.Kit
		}
	}
	return fit.TouchKit{}
}

func (p Piece) place() string {
	return "The edge of " + p.Code + ", " + strings.ReplaceAll(p.seat(), "_", " ") + ","
}

// hoursText is a length of time as people say it.
func hoursText(h float64) string {
	if h < 1 {
		return fmt.Sprintf("%.0f min", h*60)
	}
	return fmt.Sprintf("%.1f h", h)
}
