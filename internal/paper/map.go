package paper

import (
	"fmt"
	"html"
	"io"
	"strings"
)

// MapArea is one thing drawn on the wearer's map, as places of the picture in
// mm.
type MapArea struct {
	Line   [][2]float64
	Closed bool
	Kind   string // region, hole, keep_out, opening, edge …: how it is drawn
	Label  string // empty for none
}

// Map is a view of the wearer's map to be drawn.
type Map struct {
	Title, Note              string
	Left, Top, Width, Height float64 // of the view, mm
	Outline, Ridges          string  // SVG paths in mm
	Contours, Heavy          string
	Areas                    []MapArea
	// Sides writes L and R beside the form, the wearer's own.
	Sides bool
	// Places are numbered in the order in which they are brought together.
	Places []MapPlace
}

// MapPlace is a landmark on the map, in mm of the picture.
type MapPlace struct {
	X, Y float64
	Name string
}

// How each kind of mark is drawn: its stroke, its fill, and dashes in mm.
var mapStyle = map[string][3]string{
	"region": {"#292420", "#d9a98a", ""}, "hole": {"#292420", "#fdfaf3", ""}, "keep_out": {"#9c3b2c", "none", "2 1.4"}, "opening": {"#2e5d4f", "none", ""},
	"divide": {"#292420", "none", "4 1.5 1 1.5"}, "edge": {"#2e5d4f", "none", ""}, "seam": {"#292420", "none", "1 1"}, "covered": {"#8a8378", "#c9c2b4", ""},
	"moving_edge": {"#8a8378", "#ddd6c8", "3 2"}, "border": {"#6d5b7b", "none", "6 2"}, "hair": {"#5b4a3a", "#b9aa98", "0.6 1.2"}, "fold": {"#6f4e37", "none", ""}, "pull": {"#6d5b7b", "none", ""},
}

// WriteMap draws a view of the wearer's map as SVG at true size: a mm of the
// picture is a mm of the form, seen from this side. Print it at 100 % and check
// the bar.
func WriteMap(w io.Writer, m Map) error {
	const margin, foot = 14.0, 20.0
	width, height := m.Width+2*margin, m.Height+margin+foot
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%.1fmm" height="%.1fmm" viewBox="%.1f %.1f %.1f %.1f" font-family="sans-serif" fill="none">`,
		width, height, m.Left-margin, m.Top-margin, width, height)
	fmt.Fprintf(&b, `<title>%s</title>`, html.EscapeString(m.Title))
	fmt.Fprintf(&b, `<path d="%s" fill="#fdfaf3" stroke="#292420" stroke-width="0.7"/><path d="%s" stroke="#b3a68f" stroke-width="0.18"/><path d="%s" stroke="#8a7a60" stroke-width="0.3"/><path d="%s" stroke="#292420" stroke-width="0.5"/>`,
		m.Outline, m.Contours, m.Heavy, m.Ridges)
	for _, a := range m.Areas {
		style := mapStyle[a.Kind]
		fmt.Fprintf(&b, `<path d="%s" stroke="%s" fill="%s" fill-opacity="0.6" stroke-width="0.6"`, linePath(a.Line, a.Closed), style[0], style[1])
		if style[2] != "" {
			fmt.Fprintf(&b, ` stroke-dasharray="%s"`, style[2])
		}
		b.WriteString(`/>`)
	}
	for _, a := range m.Areas {
		if a.Label == "" || len(a.Line) == 0 {
			continue
		}
		x, y := middle(a.Line)
		fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" font-size="4" text-anchor="middle" fill="#292420" stroke="#fdfaf3" stroke-width="0.8" paint-order="stroke">%s</text>`, x, y, html.EscapeString(a.Label))
	}
	for i, p := range m.Places {
		fmt.Fprintf(&b, `<circle cx="%.1f" cy="%.1f" r="3.6" fill="#6d4a74"/><text x="%.1f" y="%.1f" font-size="4.4" font-weight="bold" text-anchor="middle" fill="#fdfaf3">%d</text>`, p.X, p.Y, p.X, p.Y+1.6, i+1)
	}
	if m.Sides {
		fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" font-size="6" fill="#8a7a60">R</text><text x="%.1f" y="%.1f" font-size="6" text-anchor="end" fill="#8a7a60">L</text>`,
			m.Left-margin+2, m.Top+m.Height/2, m.Left+m.Width+margin-2, m.Top+m.Height/2)
	}
	base := m.Top + m.Height + 8
	fmt.Fprintf(&b, `<path d="M%.1f %.1fv-2v4v-2h50v-2v4" stroke="#292420" stroke-width="0.4"/><text x="%.1f" y="%.1f" font-size="3.4" fill="#292420">50 mm: print at 100 %%, check the bar</text>`, m.Left, base, m.Left, base+5.5)
	fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" font-size="4.6" font-weight="bold" fill="#292420">%s</text><text x="%.1f" y="%.1f" font-size="3.4" fill="#292420">%s</text></svg>`,
		m.Left-margin+3, m.Top-margin+6, html.EscapeString(m.Title), m.Left-margin+3, m.Top-margin+10.5, html.EscapeString(m.Note))
	_, err := io.WriteString(w, b.String())
	return err
}

func linePath(line [][2]float64, closed bool) string {
	var b strings.Builder
	for i, p := range line {
		fmt.Fprintf(&b, "%c%.1f %.1f", "ML"[min(i, 1)], p[0], p[1])
	}
	if closed {
		b.WriteByte('Z')
	}
	return b.String()
}

func middle(line [][2]float64) (x, y float64) {
	for _, p := range line {
		x, y = x+p[0]/float64(len(line)), y+p[1]/float64(len(line))
	}
	return x, y
}
