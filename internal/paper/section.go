package paper

import (
	"fmt"
	"html"
	"io"
	"math"
	"strings"

	"github.com/go-pdf/fpdf"

	"yewmoor/internal/craft/section"
)

// SectionCut is one cross-section as it is drawn: outlines in mm.
type SectionCut struct {
	Name        string
	HalfWidthMM float64
	Times       float64 // how much heights are stretched; 1 at true scale
	Bands       []section.Outline
	Words       []string // skin first
}

// Section is the build-up of a piece on paper.
type Section struct {
	Code, Title, Note string
	Cuts              []SectionCut
	Steps             []string
}

// bandFill is the colour of a family of material, as in the interface.
func bandFill(o section.Outline) [3]int {
	f := string(o.Family)
	for _, c := range []struct {
		prefix string
		rgb    [3]int
	}{
		{"silicone", [3]int{230, 196, 177}}, {"foam", [3]int{239, 226, 196}}, {"latex", [3]int{240, 222, 150}}, {"gelatin", [3]int{240, 196, 140}}, {"wax", [3]int{236, 220, 190}}, {"encapsulator", [3]int{190, 214, 208}},
		{"sealer", [3]int{190, 214, 208}}, {"adhesive", [3]int{226, 190, 90}}, {"paint", [3]int{138, 168, 150}}, {"powder", [3]int{247, 244, 238}}, {"hair", [3]int{200, 184, 160}}, {"blood", [3]int{170, 60, 50}},
	} {
		if strings.HasPrefix(f, c.prefix) {
			return c.rgb
		}
	}
	return [3]int{230, 225, 215}
}

const (
	labelMM = 62.0 // room for the names beside the drawing
	skinMM  = 5.0
	rowMM   = 4.6
)

// bounds are the reach of a cut from its centre and its height, in mm as drawn.
func (c SectionCut) bounds() (reach, height float64) {
	reach = c.HalfWidthMM
	for _, b := range c.Bands {
		for _, p := range b.Upper {
			reach, height = math.Max(reach, p[0]), math.Max(height, p[1])
		}
	}
	return reach, height
}

// rows is how high the drawing stands with a name for every band beside it.
func (c SectionCut) rows() float64 {
	_, height := c.bounds()
	return math.Max(height+4, rowMM*float64(len(c.Bands)+1))
}

// labels are where the names stand, up from the skin, so that none covers
// another.
func (c SectionCut) labels() []float64 {
	ys := make([]float64, len(c.Bands))
	for i, b := range c.Bands {
		ys[i] = float64(i) * rowMM
		if len(b.Upper) > 0 {
			ys[i] = math.Max((b.Upper[0][1]+b.Lower[0][1])/2, 0)
		}
		if i > 0 {
			ys[i] = math.Max(ys[i], ys[i-1]+rowMM)
		}
	}
	return ys
}

// scaleWords say how large it is drawn.
func (c SectionCut) scaleWords() string {
	if c.Times == 1 {
		return "true scale: 1 mm is 1 mm, print at 100 %"
	}
	return fmt.Sprintf("heights × %.1f, widths true", c.Times)
}

// WriteSectionSVG draws a section as SVG, a mm of the picture across being a mm
// of the piece.
func WriteSectionSVG(w io.Writer, s Section) error {
	var b strings.Builder
	width, height := 0.0, 22.0
	for _, c := range s.Cuts {
		reach, _ := c.bounds()
		ys := c.labels()
		top := c.rows()
		if len(ys) > 0 {
			top = math.Max(top, ys[len(ys)-1]+rowMM)
		}
		width, height = math.Max(width, labelMM+reach+12), height+top+skinMM+24
	}
	width = math.Max(width, labelMM+80)
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%.1fmm" height="%.1fmm" viewBox="0 0 %.1f %.1f" font-family="sans-serif" font-size="3.2"><title>%s</title>`, width, height, width, height, html.EscapeString(s.Code+" "+s.Title))
	fmt.Fprintf(&b, `<rect width="100%%" height="100%%" fill="#fdfaf3"/><text x="8" y="10" font-size="5" font-weight="bold" fill="#292420">%s</text><text x="8" y="15" fill="#6b6258">%s</text>`, html.EscapeString(s.Code+"  "+s.Title), html.EscapeString(s.Note))
	y := 22.0
	for _, c := range s.Cuts {
		y = svgCut(&b, c, y)
	}
	b.WriteString(`</svg>`)
	_, err := io.WriteString(w, b.String())
	return err
}

func svgCut(b *strings.Builder, c SectionCut, y float64) float64 {
	reach, _ := c.bounds()
	ys := c.labels()
	top := c.rows()
	if len(ys) > 0 {
		top = math.Max(top, ys[len(ys)-1]+rowMM)
	}
	ground := y + top
	fmt.Fprintf(b, `<g stroke="#292420" stroke-width="0.15"><rect x="%.2f" y="%.2f" width="%.2f" height="%.2f" fill="#a06a4f"/>`, labelMM, ground, reach, skinMM)
	for _, o := range c.Bands {
		if len(o.Upper) < 2 {
			continue
		}
		rgb := bandFill(o)
		fmt.Fprintf(b, `<path fill="#%02x%02x%02x" d="M`, rgb[0], rgb[1], rgb[2])
		for _, p := range o.Upper {
			fmt.Fprintf(b, "%.3f %.3f ", labelMM+p[0], ground-p[1])
		}
		for i := len(o.Lower) - 1; i >= 0; i-- {
			fmt.Fprintf(b, "%.3f %.3f ", labelMM+o.Lower[i][0], ground-o.Lower[i][1])
		}
		fmt.Fprintf(b, `Z"><title>%s</title></path>`, html.EscapeString(o.Words))
	}
	b.WriteString(`</g>`)
	for i, o := range c.Bands {
		at := [2]float64{0, 0}
		if len(o.Upper) > 0 {
			at = [2]float64{o.Upper[0][0], (o.Upper[0][1] + o.Lower[0][1]) / 2}
		}
		fmt.Fprintf(b, `<text x="%.1f" y="%.2f" text-anchor="end" fill="#292420">%s</text><path d="M%.1f %.2fL%.2f %.2f" stroke="#6b6258" stroke-width="0.12"/>`, labelMM-6, ground-ys[i]+1, html.EscapeString(o.Name), labelMM-5, ground-ys[i], labelMM+at[0], ground-at[1])
	}
	name := c.scaleWords()
	if c.Name != "" {
		name = "at the " + c.Name + ", " + name
	}
	fmt.Fprintf(b, `<text x="%.1f" y="%.2f" fill="#6b6258">centre to edge %.1f mm</text><text x="%.1f" y="%.2f" fill="#6b6258">%s</text>`, labelMM, ground+skinMM+5, c.HalfWidthMM, labelMM, ground+skinMM+9, html.EscapeString(name))
	fmt.Fprintf(b, `<path d="M%.1f %.2fh10m0 -1v2m-10 0v-2" stroke="#292420" stroke-width="0.2" fill="none"/><text x="%.1f" y="%.2f" fill="#292420">10 mm</text>`, labelMM, ground+skinMM+13, labelMM+12, ground+skinMM+14)
	return ground + skinMM + 24
}

// WriteSectionPDF draws a section on A4 at true scale, with its build-up and
// its order of work in words. What is wider than the sheet is drawn smaller, and
// says so.
func WriteSectionPDF(w io.Writer, s Section) error {
	pdf := newA4(s.Code+" "+s.Title, 14, s.Note)
	pdf.AddPage()
	tag(pdf, 14, 14, s.Code, 14)
	pdf.SetXY(60, 15)
	line(pdf, 15, "B", s.Title)
	pdf.SetY(28)
	for _, c := range s.Cuts {
		pdfCut(pdf, c)
		list(pdf, c.Words)
	}
	heading(pdf, "Order of work")
	numbered(pdf, s.Steps)
	return pdf.Output(w)
}

// sheetMM is how wide a drawing may be on the page.
const sheetMM = 178.0

func pdfCut(pdf *fpdf.Fpdf, c SectionCut) {
	reach, height := c.bounds()
	k := 1.0
	for k*reach > sheetMM {
		k /= 2
	}
	name := "The section"
	if c.Name != "" {
		name = "At the " + c.Name
	}
	heading(pdf, name)
	scale := "True scale: check the bar, print at 100 %."
	if k < 1 {
		scale = fmt.Sprintf("Drawn 1 : %.0f, too wide for the sheet.", 1/k)
	}
	line(pdf, 9, "", scale)
	x, ground := 14.0, pdf.GetY()+4+height*k
	if ground > 260 {
		pdf.AddPage()
		ground = 20 + height*k
	}
	pdf.SetLineWidth(0.1)
	pdf.SetFillColor(160, 106, 79)
	pdf.Rect(x, ground, reach*k, 4, "F")
	for _, o := range c.Bands {
		if len(o.Upper) < 2 {
			continue
		}
		rgb := bandFill(o)
		pdf.SetFillColor(rgb[0], rgb[1], rgb[2])
		var points []fpdf.PointType
		for _, p := range o.Upper {
			points = append(points, fpdf.PointType{X: x + p[0]*k, Y: ground - p[1]*k})
		}
		for i := len(o.Lower) - 1; i >= 0; i-- {
			points = append(points, fpdf.PointType{X: x + o.Lower[i][0]*k, Y: ground - o.Lower[i][1]*k})
		}
		pdf.Polygon(points, "F")
	}
	pdf.Line(x, ground+7, x+10*k, ground+7)
	pdf.SetXY(x+12*k, ground+5)
	line(pdf, 8, "", fmt.Sprintf("10 mm; centre on the left, the edge %.1f mm from it", c.HalfWidthMM))
	pdf.SetY(ground + 13)
}
