package paper

import (
	"bytes"
	"fmt"
	"image/png"
	"io"

	"github.com/boombuler/barcode"
	"github.com/boombuler/barcode/qr"
	"github.com/go-pdf/fpdf"
)

// Letter is what an artist is told of a lot that is called back.
type Letter struct {
	To, Code, Day, Kit, For string
	What, Why               string
	Has                     []string
}

// WriteLetters draws one page for each.
func WriteLetters(w io.Writer, letters []Letter) error {
	pdf := newPDF("P", 210, 297)
	pdf.SetMargins(24, 26, 24)
	pdf.SetTitle("Letters of "+letters[0].Code, true)
	for _, l := range letters {
		pdf.AddPage()
		pdf.SetFont(family, "", 11)
		pdf.CellFormat(0, 6, l.Day, "", 1, "R", false, 0, "")
		pdf.Ln(8)
		pdf.SetFont(family, "B", 12)
		pdf.CellFormat(0, 6, l.To, "", 1, "L", false, 0, "")
		pdf.Ln(10)
		pdf.SetFont(family, "B", 17)
		pdf.MultiCell(0, 8, "Please do not use: "+l.What, "", "L", false)
		pdf.Ln(4)
		pdf.SetFont(family, "", 12)
		say := func(text string) {
			pdf.MultiCell(0, 6.4, text, "", "L", false)
			pdf.Ln(2.5)
		}
		say(fmt.Sprintf("Kit %s, which you have from us for %s, has something of this in it. We have called the lot back: %s", l.Kit, l.For, l.Why))
		for _, h := range l.Has {
			say("– " + h)
		}
		say("Do not put any of it on anybody. If it was worn already, look at the skin under it today and tomorrow; on redness, itching or swelling stop, rinse with water, and have a doctor look at it.")
		say("Keep everything together, and send it back or tell us that it was thrown away. We replace what you need.")
		pdf.Ln(8)
		pdf.SetFont(family, "B", 12)
		say("Please tell us that you have read this:")
		pdf.SetFont(family, "", 12)
		for _, t := range []string{"not used    [  ]", "used on ______________________   on day ______________", "sent back [  ]     thrown away [  ]", "name and day ______________________________________"} {
			pdf.CellFormat(0, 10, t, "", 1, "L", false, 0, "")
		}
		pdf.Ln(6)
		pdf.SetFont(family, "", 9)
		pdf.CellFormat(0, 5, l.Code+" · "+l.Kit, "", 1, "L", false, 0, "")
	}
	return pdf.Output(w)
}

// The sheet of shelf labels: three across and eight down on A4.
const (
	labelsAcross, labelsDown = 3, 8
	labelW, labelH           = 63.5, 33.9
	labelLeft, labelTop      = 9.75, 12.9
)

// WriteShelfLabels draws labels of lots or copies on sheets of 24, each with its QR code.
func WriteShelfLabels(w io.Writer, labels []Label) error {
	pdf := newPDF("P", 210, 297)
	pdf.SetMargins(0, 0, 0)
	pdf.SetAutoPageBreak(false, 0)
	pdf.SetTitle("Labels", true)
	for i, l := range labels {
		place := i % (labelsAcross * labelsDown)
		if place == 0 {
			pdf.AddPage()
		}
		x := labelLeft + float64(place%labelsAcross)*labelW
		y := labelTop + float64(place/labelsAcross)*labelH
		pdf.SetDrawColor(200, 200, 200)
		pdf.Rect(x, y, labelW, labelH, "D")
		if err := qrAt(pdf, fmt.Sprintf("qr%d", i), l.Link, x+labelW-27, y+3.5, 25); err != nil {
			return err
		}
		pdf.SetXY(x+3, y+3)
		pdf.SetFont(family, "B", 12)
		pdf.CellFormat(34, 6, l.Code, "", 2, "L", false, 0, "")
		pdf.SetFont(family, "B", 8.5)
		pdf.SetX(x + 3)
		pdf.MultiCell(34, 3.9, l.Title, "", "L", false)
		pdf.SetFont(family, "", 8)
		for _, t := range append([]string{l.Day}, l.Lines...) {
			pdf.SetX(x + 3)
			pdf.MultiCell(34, 3.7, t, "", "L", false)
		}
	}
	return pdf.Output(w)
}

// qrAt draws a QR code of a side in mm.
func qrAt(pdf *fpdf.Fpdf, name, text string, x, y, side float64) error {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err != nil {
		return fmt.Errorf("drawing the QR code: %w", err)
	}
	if code, err = barcode.Scale(code, 370, 370); err != nil {
		return fmt.Errorf("drawing the QR code: %w", err)
	}
	var img bytes.Buffer
	if err := png.Encode(&img, code); err != nil {
		return err
	}
	pdf.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "PNG"}, &img)
	pdf.ImageOptions(name, x, y, side, side, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
	return nil
}

// CountRow is one line of a count list.
type CountRow struct {
	Shelf, Lot, Name, UseBy string
	Books                   float64
}

// WriteCountList draws the shelf to count by, shelf by shelf.
func WriteCountList(w io.Writer, day string, rows []CountRow) error {
	pdf := newPDF("P", 210, 297)
	pdf.SetMargins(14, 16, 14)
	pdf.SetAutoPageBreak(true, 16)
	pdf.SetTitle("Count list "+day, true)
	pdf.AddPage()
	pdf.SetFont(family, "B", 16)
	pdf.CellFormat(0, 8, "Count list, "+day, "", 1, "L", false, 0, "")
	shelf := "\x00"
	for _, r := range rows {
		if r.Shelf != shelf {
			shelf = r.Shelf
			name := shelf
			if name == "" {
				name = "no shelf noted"
			}
			pdf.Ln(3)
			pdf.SetFont(family, "B", 11)
			pdf.CellFormat(0, 7, name, "B", 1, "L", false, 0, "")
		}
		pdf.SetFont(family, "B", 10)
		pdf.CellFormat(26, 7.4, r.Lot, "B", 0, "L", false, 0, "")
		pdf.SetFont(family, "", 10)
		pdf.CellFormat(72, 7.4, r.Name, "B", 0, "L", false, 0, "")
		pdf.CellFormat(24, 7.4, r.UseBy, "B", 0, "L", false, 0, "")
		pdf.CellFormat(24, 7.4, fmt.Sprintf("%.1f g", r.Books), "B", 0, "R", false, 0, "")
		pdf.CellFormat(36, 7.4, "  found ______", "B", 1, "L", false, 0, "")
	}
	return pdf.Output(w)
}
