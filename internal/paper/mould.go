package paper

import "io"

// Mould is a build sheet as it goes on paper.
type Mould struct {
	Code, Title, Kind, Note, Weights string
	Lines                            [][4]string // what, need, order, rule
	Items, Steps, Cautions, Findings []string
}

// WriteMould draws a build sheet as PDF, with boxes to tick.
func WriteMould(w io.Writer, m Mould) error {
	pdf := newA4("Build sheet "+m.Code, 16, "Yewmoor · "+m.Code+" · build sheet of its mould")
	pdf.AddPage()
	tag(pdf, 16, 16, m.Code, 13)
	pdf.SetXY(52, 15)
	pdf.SetFont(family, "B", 17)
	pdf.CellFormat(0, 9, "Mould: "+m.Title, "", 1, "L", false, 0, "")
	pdf.SetY(29)
	line(pdf, 11, "B", m.Kind)
	line(pdf, 10, "", m.Note)
	if len(m.Findings) > 0 {
		heading(pdf, "What the rules say")
		list(pdf, m.Findings)
	}
	heading(pdf, "What it takes")
	for _, l := range m.Lines {
		if pdf.GetY() > 262 {
			pdf.AddPage()
		}
		pdf.SetFont(family, "B", 10)
		pdf.CellFormat(74, 5.4, l[0], "", 0, "L", false, 0, "")
		pdf.CellFormat(30, 5.4, l[1], "", 0, "R", false, 0, "")
		pdf.SetFont(family, "", 10)
		pdf.CellFormat(0, 5.4, "have ready "+l[2], "", 1, "R", false, 0, "")
		line(pdf, 8.5, "", l[3])
	}
	if m.Weights != "" {
		line(pdf, 10, "", m.Weights)
	}
	boxes := func(head string, list []string) {
		heading(pdf, head)
		for _, text := range list {
			if pdf.GetY() > 268 {
				pdf.AddPage()
			}
			y := pdf.GetY()
			pdf.Rect(16.5, y+0.8, 3.4, 3.4, "D")
			pdf.SetX(23)
			pdf.SetFont(family, "", 10)
			pdf.MultiCell(170, 5, text, "", "L", false)
			pdf.Ln(0.6)
		}
	}
	boxes("To place before the first pour", m.Items)
	boxes("In this order", m.Steps)
	heading(pdf, "Cautions")
	list(pdf, m.Cautions)
	line(pdf, 8.5, "", "These are the usual cautions. Safety data sheets, local codes and licensed professionals have the last word.")
	return pdf.Output(w)
}
