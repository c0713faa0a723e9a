package paper

import (
	"bytes"
	"fmt"
	"io"
	"math"

	"github.com/go-pdf/fpdf"
)

// Leaf is a page that is carried along: a run of the morning, a list, a card. It is set as large as fits one page, and goes on
// to a second rather than become too small to read.
type Leaf struct {
	Code, Title, About, Printed string
	Big                         string // one thing that is read from afar; empty for none
	Parts                       []LeafPart
	Foot                        string
}

// LeafPart is one part of it: lines, or a table with the shares of its columns.
type LeafPart struct {
	Heading  string
	Lines    []string
	Numbered bool
	Tick     bool // a box before each line
	Columns  []float64
	Rows     [][]string
}

// Box in a cell is an empty box to tick.
const Box = "[]"

// The largest and the smallest letters of a leaf, pt.
const leafLarge, leafSmall = 12.0, 8.5

// WriteLeaf draws a leaf as PDF.
func WriteLeaf(w io.Writer, l Leaf) error {
	for size := leafLarge; ; size -= 0.5 {
		pdf := l.draw(size)
		if pdf.PageNo() > 1 && size > leafSmall {
			continue
		}
		var b bytes.Buffer
		if err := pdf.Output(&b); err != nil {
			return err
		}
		_, err := w.Write(b.Bytes())
		return err
	}
}

func (l Leaf) draw(size float64) *fpdf.Fpdf {
	pdf := newA4(l.Title+" "+l.Code, 16, "Yewmoor · "+l.Code+" · printed "+l.Printed)
	pdf.AddPage()
	tag(pdf, 16, 16, l.Code, 13)
	pdf.SetXY(52, 15)
	pdf.SetFont(family, "B", 17)
	pdf.CellFormat(0, 9, l.Title, "", 1, "L", false, 0, "")
	pdf.SetY(28)
	line(pdf, size, "", l.About)
	if l.Big != "" {
		pdf.Ln(2)
		pdf.SetFont(family, "B", 22)
		pdf.MultiCell(0, 10, l.Big, "", "L", false)
	}
	for _, p := range l.Parts {
		if p.Heading != "" {
			heading(pdf, p.Heading)
		}
		for i, text := range p.Lines {
			p.line(pdf, size, i, text)
		}
		p.table(pdf, size)
	}
	if l.Foot != "" {
		pdf.Ln(2)
		line(pdf, 8.5, "", l.Foot)
	}
	return pdf
}

func (p LeafPart) line(pdf *fpdf.Fpdf, size float64, i int, text string) {
	switch {
	case p.Tick:
		x, y := pdf.GetXY()
		side := size * 0.3
		pdf.Rect(x+0.5, y+size*0.07, side, side, "D")
		pdf.SetX(x + side + 3)
		line(pdf, size, "", text)
	case p.Numbered:
		line(pdf, size, "", fmt.Sprintf("%d  %s", i+1, text))
	default:
		line(pdf, size, "", text)
	}
	pdf.Ln(size * 0.06)
}

// table sets rows whose cells break in their columns; a row stays on one page.
func (p LeafPart) table(pdf *fpdf.Fpdf, size float64) {
	left, _, right, bottom := pdf.GetMargins()
	width, height := pdf.GetPageSize()
	width -= left + right
	step := size * 0.48
	pdf.SetFont(family, "", size)
	for _, row := range p.Rows {
		most := 1
		for i, cell := range row {
			most = max(most, len(pdf.SplitText(cell, width*p.Columns[i]-1.5)))
		}
		if pdf.GetY()+float64(most)*step > height-math.Max(bottom, 16) {
			pdf.AddPage()
		}
		x, y := left, pdf.GetY()
		for i, cell := range row {
			pdf.SetXY(x, y)
			style := ""
			if i == 0 {
				style = "B"
			}
			pdf.SetFont(family, style, size)
			if cell == Box {
				pdf.Rect(x+0.5, y+size*0.07, size*0.3, size*0.3, "D")
			} else {
				pdf.MultiCell(width*p.Columns[i]-1.5, step, cell, "", "L", false)
			}
			x += width * p.Columns[i]
		}
		pdf.SetXY(left, y+float64(most)*step+0.8)
	}
}
