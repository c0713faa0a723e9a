package paper

import (
	"fmt"
	"io"
)

// BookSwatch is a colour of the book as it is printed.
type BookSwatch struct {
	Name   string
	Lines  []string
	RGB    [3]int
	Beyond bool // of a screen, and so of this print as well
}

// The frame of a swatch on paper, mm: what a drawdown card of the usual size fills.
const (
	swatchW, swatchH = 58.0, 34.0
	swatchesAPage    = 6
)

// WriteSwatches draws the book at true size: each colour as it can be printed, marked as
// not for judging, and beside it an empty frame of the same size for the drawdown itself.
func WriteSwatches(w io.Writer, day string, list []BookSwatch) error {
	pdf := newPDF("P", 210, 297)
	pdf.SetMargins(16, 14, 16)
	pdf.SetAutoPageBreak(false, 0)
	pdf.SetTitle("Book of swatches", true)
	for i, s := range list {
		row := i % swatchesAPage
		if row == 0 {
			pdf.AddPage()
			pdf.SetFont(family, "B", 13)
			pdf.CellFormat(110, 7, "Book of swatches", "", 0, "L", false, 0, "")
			pdf.SetFont(family, "", 9)
			pdf.CellFormat(0, 7, fmt.Sprintf("%s, page %d of %d; printed at true size, not for judging", day, i/swatchesAPage+1,
				(len(list)+swatchesAPage-1)/swatchesAPage), "", 1, "R", false, 0, "")
		}
		y := 24 + float64(row)*44
		pdf.SetFillColor(s.RGB[0], s.RGB[1], s.RGB[2])
		pdf.Rect(16, y, swatchW, swatchH, "F")
		pdf.SetDrawColor(60, 60, 60)
		pdf.Rect(16+swatchW+4, y, swatchW, swatchH, "D")
		pdf.SetFont(family, "", 7.5)
		pdf.SetXY(16, y+swatchH+0.6)
		pdf.CellFormat(swatchW, 3.6, "print, not for judging", "", 0, "L", false, 0, "")
		pdf.SetXY(16+swatchW+4, y+swatchH+0.6)
		pdf.CellFormat(swatchW, 3.6, fmt.Sprintf("the drawdown itself, %.0f × %.0f mm", swatchW, swatchH), "", 0, "L", false, 0, "")
		x := 16 + 2*swatchW + 10
		pdf.SetXY(x, y)
		pdf.SetFont(family, "B", 10.5)
		pdf.MultiCell(194-x, 4.6, s.Name, "", "L", false)
		pdf.SetFont(family, "", 8.5)
		for _, line := range s.Lines {
			pdf.SetX(x)
			pdf.MultiCell(194-x, 3.9, line, "", "L", false)
		}
		if s.Beyond {
			pdf.SetX(x)
			pdf.MultiCell(194-x, 3.9, "beyond what a screen shows: printed paler", "", "L", false)
		}
	}
	if len(list) == 0 {
		pdf.AddPage()
		pdf.SetFont(family, "", 12)
		pdf.MultiCell(0, 7, "The book is empty.", "", "L", false)
	}
	return pdf.Output(w)
}
