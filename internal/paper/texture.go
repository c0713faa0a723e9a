package paper

import (
	"encoding/csv"
	"fmt"
	"html"
	"io"
	"math"
	"strconv"
	"strings"

	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/texture"
)

// Texture is a texture plan on paper.
type Texture struct {
	Code, Title, Note string
	Sheet             *texture.Sheet
	Work              texture.Work
	// Stretch is said on the sheet where the outline is a flat stand-in.
	Stretch string
}

// stroke styles by kind of line: width and grey.
var lineStyle = map[string][2]string{
	"outline": {"0.5", "#292420"}, "hole": {"0.4", "#292420"}, "clear": {"0.4", "#9c3b2c"}, "guide": {"0.35", "#6d5b7b"}, "area": {"0.3", "#2e5d4f"},
	"hatch": {"0.2", "#292420"}, "rescore": {"0.4", "#292420"}, "cracks": {"0.25", "#292420"}, "wrinkles": {"0.35", "#5b4a3a"}, "lines": {"0.35", "#5b4a3a"},
}

// printMark is one mark of the print, in mm with y up.
type printMark struct {
	kind   string
	line   []texture.P // or an ellipse
	closed bool
	at     texture.P
	a, b   float64
	turn   float64
	label  string
	size   float64 // of the label
}

func (d printMark) box() (x0, y0, x1, y1 float64) {
	if d.line == nil {
		r := math.Max(math.Max(d.a, d.b), d.size*float64(max(1, len(d.label))))
		return d.at[0] - r, d.at[1] - r, d.at[0] + r, d.at[1] + r
	}
	x0, y0, x1, y1 = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, p := range d.line {
		x0, y0, x1, y1 = math.Min(x0, p[0]), math.Min(y0, p[1]), math.Max(x1, p[0]), math.Max(y1, p[1])
	}
	return x0, y0, x1, y1
}

// marks are everything that is printed of a plan.
func (t Texture) marks() []printMark {
	var out []printMark
	r := t.Sheet.Recipe
	for i, ring := range t.Sheet.Flat.Outline() {
		kind := "outline"
		if i > 0 {
			kind = "hole"
		}
		out = append(out, printMark{kind: kind, line: ring, closed: true})
	}
	for _, c := range r.Clear {
		out = append(out, printMark{kind: "clear", line: c.Polygon, closed: true, label: c.Name})
	}
	for _, a := range r.Areas {
		out = append(out, printMark{kind: "area", line: a.Polygon, closed: true})
		if len(a.Polygon) > 0 {
			words := a.Name
			if a.By != "" {
				words += ": " + a.By
			}
			out = append(out, printMark{at: a.Polygon[0], label: words, size: 2.4})
		}
	}
	for _, g := range t.Sheet.Guides() {
		out = append(out, printMark{kind: "guide", line: g})
	}
	for _, m := range t.Sheet.Layers {
		for _, s := range m.Strokes {
			out = append(out, printMark{kind: m.Kind, line: s.Line})
		}
		for _, s := range m.Rescored {
			out = append(out, printMark{kind: "rescore", line: s.Line})
		}
		row := -1
		for _, p := range m.Impressions {
			label := m.Stamps[p.Stamp].ID
			if m.Stamps[p.Stamp].EndsDiffer() {
				label += string(p.End)
			}
			out = append(out, printMark{at: p.At, a: p.A, b: p.B, turn: p.Turn, label: label, size: math.Min(2.2, p.B*0.7)})
			if p.Row != row {
				row = p.Row
				out = append(out, printMark{at: texture.P{p.At[0] - p.A - 5, p.At[1]}, label: strconv.Itoa(row + 1), size: 2})
			}
		}
		for _, s := range append(m.Spots, m.Lumps...) {
			out = append(out, printMark{at: s.At, a: s.Diameter / 2, b: s.Diameter / 2})
		}
	}
	for _, l := range r.Landmarks {
		out = append(out, printMark{kind: "outline", line: []texture.P{{l.At[0] - 2, l.At[1]}, {l.At[0] + 2, l.At[1]}}}, printMark{kind: "outline", line: []texture.P{{l.At[0], l.At[1] - 2}, {l.At[0], l.At[1] + 2}}},
			printMark{at: texture.P{l.At[0] + 3, l.At[1] + 1}, label: l.Name, size: 2.4})
	}
	return out
}

const checkWords = "print at 100 %, check the bar"

// WriteTextureSVG draws a plan at true size: a mm of the picture is a mm of the
// piece.
func WriteTextureSVG(w io.Writer, t Texture, letter bool) error {
	f := t.Sheet.Flat
	wide, tall := f.Size()
	const foot = 26.0
	width, height := math.Max(wide, 90), tall+foot
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%.3fmm" height="%.3fmm" viewBox="0 0 %.3f %.3f" fill="none" font-family="sans-serif"><title>%s</title><desc>%s</desc>`,
		width, height, width, height, html.EscapeString(t.Code+" "+t.Title), html.EscapeString(t.Note))
	b.WriteString(`<style>`)
	for _, k := range []string{"outline", "hole", "clear", "guide", "area", "hatch", "rescore", "cracks", "wrinkles", "lines"} {
		fmt.Fprintf(&b, `.%s{stroke:%s;stroke-width:%s}`, k, lineStyle[k][1], lineStyle[k][0])
	}
	b.WriteString(`.press,.spot{stroke:#292420;stroke-width:.2}text{fill:#292420;stroke:none}</style>`)
	at := func(p texture.P) (float64, float64) { return p[0] - f.X0, f.Y1 - p[1] }
	for _, d := range t.marks() {
		switch {
		case d.line != nil:
			tag := "polyline"
			if d.closed {
				tag = "polygon"
			}
			fmt.Fprintf(&b, `<%s class="%s" points="`, tag, d.kind)
			for i, p := range d.line {
				if i > 0 {
					b.WriteByte(' ')
				}
				x, y := at(p)
				fmt.Fprintf(&b, "%.3f,%.3f", x, y)
			}
			b.WriteString(`"/>`)
		case d.a > 0:
			x, y := at(d.at)
			class := "spot"
			if d.label != "" {
				class = "press"
			}
			fmt.Fprintf(&b, `<ellipse class="%s" cx="%.3f" cy="%.3f" rx="%.3f" ry="%.3f"`, class, x, y, d.a, d.b)
			if d.turn != 0 {
				fmt.Fprintf(&b, ` transform="rotate(%.2f %.3f %.3f)"`, -d.turn, x, y)
			}
			b.WriteString(`/>`)
		}
		if d.label != "" && d.line == nil {
			x, y := at(d.at)
			anchor := ""
			if d.a > 0 {
				anchor = ` text-anchor="middle"`
			}
			fmt.Fprintf(&b, `<text x="%.3f" y="%.3f" font-size="%.2f"%s>%s</text>`, x, y+d.size*0.35, d.size, anchor, html.EscapeString(d.label))
		}
	}
	y := tall + 6
	fmt.Fprintf(&b, `<path class="outline" d="M2 %.3fh50M2 %.3fv4M52 %.3fv4"/><text x="54" y="%.3f" font-size="3">50 mm · %s</text>`, y, y-2, y-2, y+1, checkWords)
	if letter {
		fmt.Fprintf(&b, `<path class="outline" d="M2 %.3fh50.8M2 %.3fv4M52.8 %.3fv4"/><text x="54" y="%.3f" font-size="3">2 in</text>`, y+7, y+5, y+5, y+8)
	}
	fmt.Fprintf(&b, `<text x="2" y="%.3f" font-size="3.4" font-weight="bold">%s</text><text x="2" y="%.3f" font-size="2.6">%s</text></svg>`, y+14, html.EscapeString(t.Code+"  "+t.Title), y+18, html.EscapeString(strings.TrimSpace(t.Note+" "+t.Stretch)))
	_, err := io.WriteString(w, b.String())
	return err
}

// WriteTexturePDF draws a plan at true size over as many pages as it takes,
// with a bar and crosses to lay them together by, and the work plan after it.
func WriteTexturePDF(w io.Writer, t Texture, page texture.Paper) error {
	f := t.Sheet.Flat
	wide, tall := f.Size()
	tiles := page.Tile(wide, tall)
	pw, ph := page.W, page.H
	if tiles.Landscape {
		pw, ph = ph, pw
	}
	pdf := newPDF("", pw, ph)
	pdf.SetTitle(t.Code+" "+t.Title, true)
	pdf.SetCreator("Yewmoor", true)
	pdf.SetAutoPageBreak(false, 0)
	marks := t.marks()
	free := texture.P{pw - 2*texture.MarginMM, ph - 2*texture.MarginMM}
	for row := range tiles.Down {
		for col := range tiles.Across {
			pdf.AddPage()
			x0 := f.X0 + float64(col)*(free[0]-texture.OverlapMM)
			y1 := f.Y1 - float64(row)*(free[1]-texture.OverlapMM)
			p := pdfPage{t: t, left: texture.MarginMM - x0, top: texture.MarginMM + y1}
			pdf.ClipRect(texture.MarginMM, texture.MarginMM, free[0], free[1], false)
			p.draw(pdf, marks, x0, y1-free[1], x0+free[0], y1)
			pdf.ClipEnd()
			p.frame(pdf, page, tiles, row, col, pw, ph)
		}
	}
	writeWork(pdf, t, page)
	return pdf.Output(w)
}

// WritePlanCSV writes the work plan as a table.
func WritePlanCSV(w io.Writer, work texture.Work) error {
	out := csv.NewWriter(w)
	_ = out.Write([]string{"step", "what", "detail", "tool", "count", "unit", "length_mm", "hands_min", "wait_min"})
	num := func(x float64, digits int) string { return strconv.FormatFloat(x, 'f', digits, 64) }
	for i, s := range work.Steps {
		_ = out.Write([]string{strconv.Itoa(i + 1), SafeCell(s.Text), SafeCell(s.Detail), SafeCell(s.Tool), strconv.Itoa(s.Count), s.Unit, num(s.MM, 1), num(s.HandsS/60, 1), num(s.WaitS/60, 0)})
	}
	out.Flush()
	return out.Error()
}

// SafeCell keeps a spreadsheet from taking words for a formula.
func SafeCell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

func minutes(s texture.Step) string {
	if s.WaitS > 0 {
		return "wait " + quantity.FormatDuration(s.WaitS)
	}
	if s.HandsS == 0 {
		return ""
	}
	return quantity.FormatDuration(s.HandsS)
}
