package paper

import (
	"io"
	"math"

	"github.com/go-pdf/fpdf"

	"yewmoor/internal/craft/texture"
)

// Hair is a zone of hair as it is laid under the hand: the piece's outline, the zone, and
// either every hair with the way it leans or the rows that tufts are laid in. mm, y up.
type Hair struct {
	Code, Title, Note string
	Outline, Zone     []texture.P
	Points            []texture.P
	Deg               []float64
	// RowsY are the rows above the front edge of the zone.
	RowsY []float64
	Lines []string // what is told beside it
}

// leanMM is how long the stroke of a hair is drawn.
const leanMM = 1.6

// WriteHair draws a zone at true size over as many pages as it takes, with a bar and
// crosses to lay them together by, and what is told of it on the last.
func WriteHair(w io.Writer, h Hair, page texture.Paper) error {
	lo, hi := h.box()
	tiles := page.Tile(hi[0]-lo[0], hi[1]-lo[1])
	pw, ph := page.W, page.H
	if tiles.Landscape {
		pw, ph = ph, pw
	}
	pdf := newPDF("", pw, ph)
	pdf.SetTitle(h.Code+" "+h.Title, true)
	pdf.SetCreator("Yewmoor", true)
	pdf.SetAutoPageBreak(false, 0)
	free := texture.P{pw - 2*texture.MarginMM, ph - 2*texture.MarginMM}
	for row := range tiles.Down {
		for col := range tiles.Across {
			pdf.AddPage()
			x0 := lo[0] + float64(col)*(free[0]-texture.OverlapMM)
			y1 := hi[1] - float64(row)*(free[1]-texture.OverlapMM)
			p := pdfPage{t: Texture{Code: h.Code, Title: h.Title, Note: h.Note}, left: texture.MarginMM - x0, top: texture.MarginMM + y1}
			pdf.ClipRect(texture.MarginMM, texture.MarginMM, free[0], free[1], false)
			h.draw(pdf, p)
			pdf.ClipEnd()
			p.frame(pdf, page, tiles, row, col, pw, ph)
		}
	}
	pdf.SetFont(family, "", 9)
	y := ph - 12 - 4.2*float64(len(h.Lines))
	if tiles.Across*tiles.Down == 1 && hi[1]-lo[1] > y-2*texture.MarginMM { // no room under it
		pdf.AddPage()
		y = texture.MarginMM
	}
	for _, line := range h.Lines {
		pdf.SetXY(texture.MarginMM+12, y) // beside the cross of the corner
		pdf.CellFormat(0, 4.2, line, "", 0, "L", false, 0, "")
		y += 4.2
	}
	return pdf.Output(w)
}

func (h Hair) box() (lo, hi texture.P) {
	lo, hi = texture.P{math.Inf(1), math.Inf(1)}, texture.P{math.Inf(-1), math.Inf(-1)}
	for _, list := range [][]texture.P{h.Outline, h.Zone} {
		for _, q := range list {
			for i := range 2 {
				lo[i], hi[i] = math.Min(lo[i], q[i]), math.Max(hi[i], q[i])
			}
		}
	}
	return lo, hi
}

func (h Hair) draw(pdf *fpdf.Fpdf, p pdfPage) {
	ring := func(list []texture.P, width float64) {
		pdf.SetLineWidth(width)
		for i, q := range list {
			x, y := p.at(q)
			if i == 0 {
				pdf.MoveTo(x, y)
			} else {
				pdf.LineTo(x, y)
			}
		}
		pdf.ClosePath()
		pdf.DrawPath("D")
	}
	pdf.SetDrawColor(0x80, 0x78, 0x70)
	ring(h.Outline, 0.3)
	pdf.SetDrawColor(0x29, 0x24, 0x20)
	ring(h.Zone, 0.5)
	pdf.SetLineWidth(0.18)
	for i, q := range h.Points {
		sin, cos := math.Sincos(h.Deg[i] * math.Pi / 180)
		x, y := p.at(q)
		pdf.Line(x, y, x+leanMM*cos, y-leanMM*sin)
		pdf.Circle(x, y, 0.22, "F")
	}
	if len(h.RowsY) == 0 {
		return
	}
	lo, hi := h.Zone[0], h.Zone[0]
	for _, q := range h.Zone {
		for i := range 2 {
			lo[i], hi[i] = math.Min(lo[i], q[i]), math.Max(hi[i], q[i])
		}
	}
	for _, r := range h.RowsY {
		x0, y := p.at(texture.P{lo[0], lo[1] + r})
		x1, _ := p.at(texture.P{hi[0], lo[1] + r})
		pdf.Line(x0, y, x1, y)
	}
}
