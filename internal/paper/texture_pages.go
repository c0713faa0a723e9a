package paper

import (
	"fmt"

	"github.com/go-pdf/fpdf"

	"yewmoor/internal/craft/texture"
)

// pdfPage is one page of a plan that is tiled: where the plane of the region
// lies on it.
type pdfPage struct {
	t         Texture
	left, top float64
}

func (p pdfPage) at(q texture.P) (x, y float64) { return p.left + q[0], p.top - q[1] }

// draw draws what reaches into the page.
func (p pdfPage) draw(pdf *fpdf.Fpdf, marks []printMark, x0, y0, x1, y1 float64) {
	for _, d := range marks {
		a, b, c, e := d.box()
		if c < x0 || a > x1 || e < y0 || b > y1 {
			continue
		}
		style, known := lineStyle[d.kind]
		if !known {
			style = [2]string{"0.2", "#292420"}
		}
		var width float64
		_, _ = fmt.Sscan(style[0], &width)
		var r, g, bl int
		_, _ = fmt.Sscanf(style[1], "#%02x%02x%02x", &r, &g, &bl)
		pdf.SetLineWidth(width)
		pdf.SetDrawColor(r, g, bl)
		switch {
		case d.line != nil:
			for i, q := range d.line {
				x, y := p.at(q)
				if i == 0 {
					pdf.MoveTo(x, y)
				} else {
					pdf.LineTo(x, y)
				}
			}
			if d.closed {
				pdf.ClosePath()
			}
			pdf.DrawPath("D")
		case d.a > 0:
			x, y := p.at(d.at)
			pdf.Ellipse(x, y, d.a, d.b, d.turn, "D")
		}
		if d.label != "" && d.line == nil {
			x, y := p.at(d.at)
			pdf.SetFont(family, "", d.size*72/25.4)
			if d.a > 0 {
				x -= pdf.GetStringWidth(d.label) / 2
			}
			pdf.Text(x, y+d.size*0.35, d.label)
		}
	}
	pdf.SetDrawColor(0x29, 0x24, 0x20)
}

// frame draws the crosses where pages overlap, the bar, and what it is.
func (p pdfPage) frame(pdf *fpdf.Fpdf, page texture.Paper, tiles texture.Tiling, row, col int, pw, ph float64) {
	pdf.SetLineWidth(0.2)
	const m, o = texture.MarginMM, texture.OverlapMM
	cross := func(x, y float64) {
		pdf.Line(x-3, y, x+3, y)
		pdf.Line(x, y-3, x, y+3)
		pdf.Circle(x, y, 1.5, "D")
	}
	for _, x := range []float64{m + o/2, pw - m - o/2} {
		for _, y := range []float64{m + o/2, ph - m - o/2} {
			cross(x, y)
		}
	}
	y := ph - 4.0
	pdf.Line(m, y, m+50, y)
	pdf.Line(m, y-1.5, m, y+1.5)
	pdf.Line(m+50, y-1.5, m+50, y+1.5)
	pdf.SetFont(family, "", 7)
	words := "50 mm · " + checkWords
	x := m + 52.0
	if page.Name == "Letter" {
		pdf.Line(m, y-3, m+50.8, y-3)
		pdf.Line(m, y-4, m, y-2)
		pdf.Line(m+50.8, y-4, m+50.8, y-2)
		words = "50 mm, above 2 in · " + checkWords
		x = m + 53
	}
	pdf.Text(x, y+1, words)
	pdf.SetFont(family, "B", 8)
	place := ""
	if tiles.Across*tiles.Down > 1 {
		place = fmt.Sprintf(" · sheet %d of %d: row %d, column %d", row*tiles.Across+col+1, tiles.Across*tiles.Down, row+1, col+1)
	}
	pdf.Text(m, 6.5, p.t.Code+"  "+p.t.Title+place)
	pdf.SetFont(family, "", 7)
	note := p.t.Note
	if p.t.Stretch != "" {
		note += " · " + p.t.Stretch
	}
	pdf.Text(m, 9.3, note)
}

// writeWork lists the steps with boxes to tick, stamps to make and cautions.
func writeWork(pdf *fpdf.Fpdf, t Texture, page texture.Paper) {
	pdf.SetAutoPageBreak(true, 14)
	pdf.SetMargins(16, 16, 16)
	pdf.AddPageFormat("P", fpdf.SizeType{Wd: page.W, Ht: page.H})
	pdf.SetFont(family, "B", 14)
	pdf.CellFormat(0, 8, t.Code+"  "+t.Title, "", 1, "L", false, 0, "")
	pdf.SetFont(family, "", 9)
	pdf.MultiCell(0, 4.6, fmt.Sprintf("%s. %d presses, %d strokes, %.1f m of line, %d spots. %.1f h of texture (%.1f to %.1f), %.1f h to make stamps. Clay: %.0f g to add, %.0f g taken away.",
		t.Note, t.Work.Presses, t.Work.Strokes, t.Work.LinesMM/1000, t.Work.Spots, t.Work.Hours, t.Work.LowHours, t.Work.TopHours, t.Work.MakeH, t.Work.AddG, t.Work.TakeG), "", "L", false)
	if len(t.Work.Stamps) > 0 {
		pdf.Ln(2)
		pdf.SetFont(family, "B", 10)
		pdf.CellFormat(0, 6, "Stamps", "", 1, "L", false, 0, "")
		pdf.SetFont(family, "", 9)
		for _, s := range t.Work.Stamps {
			text := fmt.Sprintf("%s: tube %.1f mm outside, end A squashed to %.1f × %.1f mm", s.ID, s.OD, s.AWidth, s.AHeight)
			if s.Ends == 2 {
				text += fmt.Sprintf(", end B to %.1f × %.1f mm", s.BWidth, s.BHeight)
			}
			text += fmt.Sprintf("; filled and hollowed %.1f mm; %d presses", s.HollowMM, s.PressA+s.PressB)
			pdf.MultiCell(0, 4.6, text, "", "L", false)
		}
	}
	pdf.Ln(2)
	pdf.SetFont(family, "B", 10)
	pdf.CellFormat(0, 6, "Work, in this order", "", 1, "L", false, 0, "")
	pdf.SetFont(family, "", 9)
	for i, s := range t.Work.Steps {
		if pdf.GetY() > page.H-22 {
			pdf.AddPageFormat("P", fpdf.SizeType{Wd: page.W, Ht: page.H})
		}
		x, y := pdf.GetX(), pdf.GetY()
		pdf.Rect(x, y+0.6, 3.2, 3.2, "D")
		pdf.SetX(x + 5)
		text := fmt.Sprintf("%d  %s", i+1, s.Text)
		if s.Count > 0 {
			text += fmt.Sprintf(" · %d %s", s.Count, s.Unit)
		}
		if when := minutes(s); when != "" {
			text += " · " + when
		}
		if s.Detail != "" {
			text += " · " + s.Detail
		}
		pdf.MultiCell(page.W-16-16-5, 4.6, text, "", "L", false)
	}
	if len(t.Work.Cautions) > 0 {
		pdf.Ln(2)
		pdf.SetFont(family, "B", 10)
		pdf.CellFormat(0, 6, "Cautions", "", 1, "L", false, 0, "")
		pdf.SetFont(family, "", 9)
		for _, c := range t.Work.Cautions {
			pdf.MultiCell(0, 4.6, c, "", "L", false)
		}
	}
}
