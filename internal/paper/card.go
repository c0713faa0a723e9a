package paper

import (
	"fmt"
	"io"
)

// CardPart is a heading with its lines; numbered ones are done in order.
type CardPart struct {
	Heading  string
	Lines    []string
	Numbered bool
}

// Card is what a wearer is told, and how they are made ready: a page for the
// wearer, a page for the chair.
type Card struct {
	Code, Title, For, Printed string
	Wearer, Chair             []CardPart
}

// WriteCard draws both pages as PDF.
func WriteCard(w io.Writer, c Card) error {
	pdf := newA4("Performer's card "+c.Code, 18, "Yewmoor · "+c.Code+" · printed "+c.Printed)
	page := func(title string, size float64, parts []CardPart) {
		pdf.AddPage()
		tag(pdf, 18, 18, c.Code, 13)
		pdf.SetXY(52, 17)
		pdf.SetFont(family, "B", 17)
		pdf.CellFormat(0, 9, title, "", 1, "L", false, 0, "")
		pdf.SetY(30)
		line(pdf, 10.5, "", c.Title+" · "+c.For)
		for _, p := range parts {
			heading(pdf, p.Heading)
			for i, text := range p.Lines {
				mark := "– "
				if p.Numbered {
					mark = fmt.Sprintf("%d  ", i+1)
				}
				line(pdf, size, "", mark+text)
				pdf.Ln(1)
			}
		}
		pdf.Ln(3)
		line(pdf, 8.5, "", "These are the usual cautions. Safety data sheets, local rules and licensed professionals have the last word; a question of health is theirs.")
	}
	page("For the one who wears it", 12, c.Wearer)
	page("Making skin and hair ready", 10, c.Chair)
	return pdf.Output(w)
}
