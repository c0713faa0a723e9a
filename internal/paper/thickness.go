package paper

import (
	"bytes"
	"fmt"
	"io"

	"github.com/go-pdf/fpdf"
)

// ThicknessMap is what a scan found of a piece, as it goes on paper: the same
// surface from four sides, and what there is to know of it.
type ThicknessMap struct {
	Code, Title, Note string
	Surface           Surface
	MostMM            float64 // the thickest place
	Figures           [][2]string
	Places            []string // in the order of the surface's marks
}

// WriteThicknessMap draws the map as PDF on one page and as many more as its
// places need.
func WriteThicknessMap(w io.Writer, m ThicknessMap) error {
	pdf := newA4("Thickness "+m.Code, 16, "Yewmoor · "+m.Code+" · thickness over the core, measured")
	pdf.AddPage()
	tag(pdf, 16, 16, m.Code, 13)
	pdf.SetXY(52, 15)
	pdf.SetFont(family, "B", 17)
	pdf.CellFormat(0, 9, m.Title, "", 1, "L", false, 0, "")
	pdf.SetY(28)
	line(pdf, 10, "", m.Note)
	const wide, high = 88.0, 88.0 * flatHigh / flatWide
	top := pdf.GetY() + 2
	for i, view := range []string{"front", "left", "right", "top"} {
		s := m.Surface
		s.View = view
		var png bytes.Buffer
		if err := WriteSurfacePNG(&png, s); err != nil {
			return err
		}
		x, y := 16+float64(i%2)*(wide+2), top+float64(i/2)*(high+7)
		pdf.RegisterImageOptionsReader(view, fpdf.ImageOptions{ImageType: "PNG"}, &png)
		pdf.ImageOptions(view, x, y, wide, high, false, fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
		pdf.SetFont(family, "", 9)
		pdf.SetXY(x, y+high)
		pdf.CellFormat(wide, 5, view, "", 0, "C", false, 0, "")
	}
	pdf.SetXY(16, top+2*(high+7)+1)
	m.legend(pdf)
	heading(pdf, "Measured")
	for _, f := range m.Figures {
		pdf.SetFont(family, "", 10)
		pdf.CellFormat(70, 5, f[0], "", 0, "L", false, 0, "")
		pdf.SetFont(family, "B", 10)
		pdf.CellFormat(0, 5, f[1], "", 1, "L", false, 0, "")
	}
	heading(pdf, "To look at")
	if len(m.Places) == 0 {
		line(pdf, 10, "", "Nothing comes down to the core, and nothing is too thin.")
	}
	numbered(pdf, m.Places)
	return pdf.Output(w)
}

// legend says which colour stands for which thickness.
func (m ThicknessMap) legend(pdf *fpdf.Fpdf) {
	s := m.Surface
	step := (m.MostMM - s.Thin) / 8
	bands := []struct {
		at    float64
		words string
	}{{s.Eps, "core"}, {(s.Eps + s.Thin) / 2, fmt.Sprintf("under %.2g", s.Thin)}}
	for i := range 8 {
		bands = append(bands, struct {
			at    float64
			words string
		}{s.Thin + (float64(i)+0.5)*step, fmt.Sprintf("to %.2g", s.Thin+float64(i+1)*step)})
	}
	x, y := pdf.GetXY()
	pdf.SetFont(family, "", 8)
	for i, b := range bands {
		c := ramp(b.at, s.Eps, s.Thin, m.MostMM)
		pdf.SetFillColor(int(c.R), int(c.G), int(c.B))
		pdf.Rect(x+float64(i)*17, y, 17, 4, "FD")
		pdf.SetXY(x+float64(i)*17, y+4)
		pdf.CellFormat(17, 4.5, b.words, "", 0, "L", false, 0, "")
	}
	pdf.SetXY(x+172, y-0.4)
	pdf.CellFormat(0, 4.5, "mm", "", 0, "L", false, 0, "")
	pdf.SetXY(x, y+9)
}
