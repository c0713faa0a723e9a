// Package paper is what leaves the shop: PDF sheets and labels. It draws what
// it is given and decides nothing.
package paper

import (
	_ "embed"
	"fmt"
	"io"
	"strings"

	"github.com/go-pdf/fpdf"
)

//go:embed fonts/regular.ttf
var regular []byte

//go:embed fonts/bold.ttf
var bold []byte

const family = "Atkinson"

// Swatch is a touch-up colour on the sheet.
type Swatch struct {
	Name, Medium, Place string
	R, G, B             int
}

// SheetCopy is one copy of a kit as the sheet shows it.
type SheetCopy struct {
	As                string // the copy above whose steps are the same; none are said again
	Code, Name, Where string
	Layers            []string // build-up in words, skin first
	Lots              []string
	Adhesive, Remover string
	Order             []string // steps of putting it on
	Removal           []string
	TouchUps          []Swatch
	Signed            []string // what a lead signed in spite of a rule
}

// Sheet is a kit's hand-over sheet.
type Sheet struct {
	Kit, Production, Artist, Day, Place, Note, Shop, Printed string
	Copies                                                   []SheetCopy
	Cautions                                                 []string
}

func newPDF(size string, w, h float64) *fpdf.Fpdf {
	init := &fpdf.InitType{UnitStr: "mm", SizeStr: size, OrientationStr: "P"}
	if w > 0 {
		init.SizeStr, init.Size = "", fpdf.SizeType{Wd: w, Ht: h}
	}
	pdf := fpdf.NewCustom(init)
	pdf.AddUTF8FontFromBytes(family, "", regular)
	pdf.AddUTF8FontFromBytes(family, "B", bold)
	pdf.SetTextColor(0x29, 0x24, 0x20)
	pdf.SetDrawColor(0x29, 0x24, 0x20)
	return pdf
}

// newA4 is a document of A4 pages, each with foot and its number at its end.
func newA4(title string, margin float64, foot string) *fpdf.Fpdf {
	pdf := newPDF("A4", 0, 0)
	pdf.SetTitle(title, true)
	pdf.SetCreator("Yewmoor", true)
	pdf.SetMargins(margin, margin, margin)
	pdf.SetAutoPageBreak(true, 16)
	pdf.SetFooterFunc(func() {
		pdf.SetY(-11)
		pdf.SetFont(family, "", 8)
		pdf.CellFormat(0, 5, fmt.Sprintf("%s · page %d", foot, pdf.PageNo()), "", 0, "L", false, 0, "")
	})
	return pdf
}

// WriteSheet draws the sheet as PDF.
func WriteSheet(w io.Writer, s Sheet) error {
	pdf := newA4("Hand-over sheet "+s.Kit, 16, s.Shop+" · "+s.Kit+" · printed "+s.Printed)
	pdf.AddPage()
	tag(pdf, 16, 16, s.Kit, 13)
	pdf.SetXY(52, 15)
	pdf.SetFont(family, "B", 17)
	pdf.CellFormat(0, 9, "Hand-over sheet", "", 1, "L", false, 0, "")
	pdf.SetY(29)
	line(pdf, 10.5, "", fmt.Sprintf("%s · for %s · worn %s, %s", s.Production, s.Artist, s.Day, s.Place))
	if s.Note != "" {
		line(pdf, 10.5, "", s.Note)
	}
	if len(s.Cautions) > 0 {
		heading(pdf, "Cautions")
		list(pdf, s.Cautions)
		line(pdf, 8.5, "", "These are the usual cautions. The safety data sheets, local rules and licensed professionals have the last word.")
	}
	for _, c := range s.Copies {
		if pdf.GetY() > 215 {
			pdf.AddPage()
		}
		pdf.Ln(5)
		y := pdf.GetY()
		tag(pdf, 16, y, c.Code, 11)
		pdf.SetXY(56, y)
		pdf.SetFont(family, "B", 13)
		pdf.CellFormat(0, 8, c.Name+", "+c.Where, "", 1, "L", false, 0, "")
		pdf.Ln(2)
		if c.As != "" {
			line(pdf, 10, "", "Made, put on, coloured and taken off as "+c.As+".")
		} else {
			c.steps(pdf)
		}
		heading(pdf, "Lots in it")
		line(pdf, 9.5, "", strings.Join(c.Lots, " · "))
		if len(c.Signed) > 0 {
			heading(pdf, "Signed by a lead in spite of a rule")
			list(pdf, c.Signed)
		}
	}
	return pdf.Output(w)
}

// steps says how a copy is made, put on, coloured and taken off.
func (c SheetCopy) steps(pdf *fpdf.Fpdf) {
	heading(pdf, "What it is, from the skin outwards")
	list(pdf, c.Layers)
	heading(pdf, "Sticks with, comes off with")
	line(pdf, 10, "", "Adhesive: "+or(c.Adhesive, "none in the section")+". Remover: "+or(c.Remover, "ask the workshop")+".")
	heading(pdf, "Putting it on")
	numbered(pdf, c.Order)
	heading(pdf, "Taking it off")
	numbered(pdf, c.Removal)
	if len(c.TouchUps) > 0 {
		heading(pdf, "Touch-up colours")
		swatches(pdf, c.TouchUps)
	}
}

func or(s, fallback string) string {
	if s == "" {
		return fallback
	}
	return s
}

// tag draws the tied tag with its punched hole.
func tag(pdf *fpdf.Fpdf, x, y float64, code string, size float64) {
	pdf.SetFont(family, "B", size)
	w := pdf.GetStringWidth(code) + 11
	pdf.SetLineWidth(0.35)
	pdf.RoundedRect(x, y, w, 8, 2.5, "23", "D")
	pdf.Circle(x+4, y+4, 1, "D")
	pdf.SetXY(x+7, y)
	pdf.CellFormat(w-8, 8, code, "", 0, "L", false, 0, "")
}

func heading(pdf *fpdf.Fpdf, text string) {
	pdf.Ln(1.5)
	pdf.SetFont(family, "B", 10)
	pdf.CellFormat(0, 6, text, "B", 1, "L", false, 0, "")
	pdf.Ln(1)
}

func line(pdf *fpdf.Fpdf, size float64, style, text string) {
	pdf.SetFont(family, style, size)
	pdf.MultiCell(0, size*0.48, text, "", "L", false)
}

func list(pdf *fpdf.Fpdf, items []string) {
	for _, item := range items {
		line(pdf, 10, "", "– "+item)
	}
}

func numbered(pdf *fpdf.Fpdf, items []string) {
	for i, item := range items {
		line(pdf, 10, "", fmt.Sprintf("%d  %s", i+1, item))
	}
}

func swatches(pdf *fpdf.Fpdf, list []Swatch) {
	for _, s := range list {
		x, y := pdf.GetXY()
		pdf.SetFillColor(s.R, s.G, s.B)
		pdf.Rect(x, y+0.6, 12, 5, "FD")
		pdf.SetXY(x+15, y)
		pdf.SetFont(family, "", 10)
		text := s.Name + ", " + s.Medium
		if s.Place != "" {
			text += ": " + s.Place
		}
		pdf.CellFormat(0, 6.4, text, "", 1, "L", false, 0, "")
	}
}

// Label is what is stuck on a box, or tied to a mould or form.
type Label struct {
	Code, Title, Day string
	Lines            []string
	Link             string // what the QR code leads to
}

// WriteLabel draws a 89 × 51 mm label with a QR code as PDF.
func WriteLabel(w io.Writer, l Label) error {
	pdf := newPDF("", 89, 51)
	pdf.SetMargins(4, 4, 4)
	pdf.SetAutoPageBreak(false, 0)
	pdf.SetTitle("Label "+l.Code, true)
	pdf.AddPage()
	tag(pdf, 4, 4, l.Code, 13)
	pdf.SetXY(4, 14)
	pdf.SetFont(family, "B", 10.5)
	pdf.MultiCell(48, 4.6, l.Title, "", "L", false)
	pdf.SetFont(family, "", 9)
	pdf.MultiCell(48, 4.2, l.Day, "", "L", false)
	for _, t := range l.Lines {
		pdf.MultiCell(48, 4.2, t, "", "L", false)
	}
	if err := qrAt(pdf, "qr", l.Link, 54, 9, 32); err != nil {
		return err
	}
	return pdf.Output(w)
}
