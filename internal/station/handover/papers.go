package handover

import (
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"

	"yewmoor/internal/craft/outing"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/paper"
)

// The pages that go along with a kit, each worked out from what the screens show.

const sheetsWin = "These are the usual cautions. Safety data sheets, local rules and licensed professionals have the last word; a question of health is theirs."

func (s *Service) leaf(k Kit, title string, d day) paper.Leaf {
	about := fmt.Sprintf("%s · %s · %s, %s · for %s", k.Production, d.wearer(), k.Day.Format("Monday 2 January 2006"), k.Place, k.Artist)
	if k.Scene != "" {
		about += " · " + k.Scene
	}
	return paper.Leaf{Code: k.Code, Title: title, About: about, Printed: s.Clock.Now().Format("2 Jan 2006 15:04"), Foot: sheetsWin}
}

// WritePacking draws the packing list.
func (s *Service) WritePacking(ctx context.Context, w io.Writer, code string) error {
	k, err := s.Kit(ctx, code)
	if err != nil {
		return err
	}
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		return err
	}
	c, err := s.contents(ctx, s.DB, d)
	if err != nil {
		return err
	}
	l := s.leaf(k, "Packing list", d)
	copies := paper.LeafPart{Heading: "Copies", Tick: true}
	for _, kc := range k.Copies {
		copies.Lines = append(copies.Lines, kc.Code+"  "+kc.Name)
	}
	for _, want := range c.Copies {
		copies.Lines = append(copies.Lines, fmt.Sprintf("%s: %d of %d; enough in %.0f of 100", want.Piece, want.In, want.Says.Copies, 100*want.Says.P))
	}
	goes := paper.LeafPart{Heading: "With them", Columns: []float64{0.05, 0.42, 0.14, 0.17, 0.22}}
	for _, it := range c.Items {
		if it.Dropped != "" {
			continue
		}
		state := ""
		switch {
		case it.PackedAt != nil:
			state = "packed " + amountText(*it.Packed, it.Unit)
		case it.Missing != "":
			state = "MISSING: " + it.Missing
		}
		goes.Rows = append(goes.Rows, []string{paper.Box, it.Name, amountText(it.Need, it.Unit), it.Lot, state})
	}
	travel := paper.LeafPart{Heading: "How it travels", Columns: []float64{0.16, 0.84}}
	for _, p := range c.Parcels {
		says := p.Says
		words := fmt.Sprintf("%s; %s; %s; %s; keeps %.0f days more", says.Support, says.Powder, says.Wrap, says.Orientation, says.DaysLeft)
		if len(says.Warnings) > 0 {
			words += ". Mind: " + strings.Join(says.Warnings, ", ")
		}
		travel.Rows = append(travel.Rows, []string{p.Piece, words})
	}
	l.Parts = []paper.LeafPart{copies, goes, travel}
	return paper.WriteLeaf(w, l)
}

func amountText(x float64, unit string) string {
	if x == 0 {
		return ""
	}
	return fmt.Sprintf("%g %s", x, unit)
}

// WriteRun draws the run of the morning.
func (s *Service) WriteRun(ctx context.Context, w io.Writer, code string) error {
	v, d, err := s.chairDay(ctx, code)
	if err != nil {
		return err
	}
	l := s.leaf(d.kit, "Run of the morning", d)
	if v.Bar != "" {
		l.Big = "There is no run: " + v.Bar
		return paper.WriteLeaf(w, l)
	}
	l.Big = fmt.Sprintf("On set %s, begin by %s", outing.Clock(v.Run.Ready), outing.Clock(v.Run.Begin))
	part := paper.LeafPart{Columns: []float64{0.09, 0.15, 0.12, 0.34, 0.30}}
	for _, st := range v.Run.Steps {
		mind := ""
		if st.Window != nil && st.Kind == "place" {
			mind = fmt.Sprintf("%s: from %.0f to %.0f min after the glue is on. Missed: a new coat", st.Window.State, st.Window.FromMin, st.Window.UntilMin)
		}
		if st.Twice != "" {
			mind = st.Twice
		}
		if len(st.Marks) > 0 {
			mind += ". Marks: " + strings.Join(st.Marks, ", ")
		}
		part.Rows = append(part.Rows, []string{outing.Clock(st.Start), strings.Join(st.Who, ", "), fmt.Sprintf("%g min", st.Minutes), st.Text, mind})
	}
	chance := paper.LeafPart{Heading: "In time?", Lines: []string{fmt.Sprintf("Ready in %.0f of 100 mornings like it, by the longest chain alone. The wearer is wanted at %s.", 100*v.Run.Chance, outing.Clock(v.Run.Call))}}
	l.Parts = []paper.LeafPart{part, chance}
	return paper.WriteLeaf(w, l)
}

func (s *Service) chairDay(ctx context.Context, code string) (ChairView, day, error) {
	k, err := s.Kit(ctx, code)
	if err != nil {
		return ChairView{}, day{}, err
	}
	d, err := s.dayOf(ctx, s.DB, k)
	if err != nil {
		return ChairView{}, d, err
	}
	v, err := s.chair(ctx, s.DB, d)
	return v, d, err
}

// WritePerformer draws the wearer's card of the morning.
func (s *Service) WritePerformer(ctx context.Context, w io.Writer, code string) error {
	v, d, err := s.chairDay(ctx, code)
	if err != nil {
		return err
	}
	l := s.leaf(d.kit, "For the one who wears it", d)
	if v.Bar == "" {
		l.Big = "In the chair at " + outing.Clock(v.Run.Call)
	}
	morning := paper.LeafPart{Heading: "This morning", Columns: []float64{0.22, 0.78}}
	for _, t := range v.Told {
		morning.Rows = append(morning.Rows, []string{outing.Clock(t.From) + " to " + outing.Clock(t.Until), t.Text})
	}
	l.Parts = []paper.LeafPart{{Heading: "How to say stop", Lines: wear.Signals}, {Heading: "Before", Lines: []string{"Come with clean skin: no cream, no make-up. Eat, drink and go to the toilet before."}}, morning,
		{Heading: "While you wear it", Lines: []string{fmt.Sprintf("We ask you every %d minutes how it is, 0 to 10. Say the true figure.", v.AskMin), "Do not pull or pick at an edge. Tell us; we have the glue.",
			fmt.Sprintf("Taking it off takes about %.0f minutes. Stay for it.", v.Off.TotalMin)}}}
	return paper.WriteLeaf(w, l)
}

// WriteRemoval draws how the look comes off.
func (s *Service) WriteRemoval(ctx context.Context, w io.Writer, code string) error {
	v, d, err := s.chairDay(ctx, code)
	if err != nil {
		return err
	}
	l := s.leaf(d.kit, "Taking it off", d)
	l.Big = v.Off.Never
	steps := paper.LeafPart{Heading: fmt.Sprintf("In this order, %.0f minutes in all", v.Off.TotalMin), Columns: []float64{0.12, 0.13, 0.13, 0.62}}
	for _, st := range v.Off.Steps {
		steps.Rows = append(steps.Rows, []string{st.Piece, fmt.Sprintf("%.1f ml", st.ML), fmt.Sprintf("soak %.0f min", st.SoakMin), st.Words})
	}
	rest := paper.LeafPart{Heading: "Before glue goes there again", Lines: []string{"Redness that stays: stop, ring the workshop, and ask a licensed professional."}}
	if v.Off.RestH != nil {
		rest.Lines = append([]string{fmt.Sprintf("At least %.0f hours.", *v.Off.RestH)}, rest.Lines...)
	}
	l.Parts = []paper.LeafPart{steps, {Heading: "Then", Lines: v.Off.After}, rest, {Heading: "What becomes of it", Lines: v.Off.Again}}
	return paper.WriteLeaf(w, l)
}

// WriteCalendar writes the kit's day as iCalendar: the call, being wanted on set, each look at an edge, taking off.
func (s *Service) WriteCalendar(ctx context.Context, w io.Writer, code string) error {
	v, d, err := s.chairDay(ctx, code)
	if err != nil {
		return err
	}
	k := d.kit
	cal := ics.NewCalendar()
	cal.SetProductId("-//Yewmoor//hand over//EN")
	cal.SetMethod(ics.MethodPublish)
	put := func(id string, from, minutes float64, title, words string) {
		e := cal.AddEvent(fmt.Sprintf("%s-%s@yewmoor", strings.ToLower(k.Code), id))
		at := k.Day.Add(time.Duration(from * float64(time.Minute)))
		e.SetDtStampTime(s.Clock.Now())
		e.SetStartAt(at)
		e.SetEndAt(at.Add(time.Duration(minutes * float64(time.Minute))))
		e.SetSummary(k.Code + " " + title)
		e.SetLocation(k.Place)
		e.SetDescription(words)
	}
	if v.Bar == "" {
		put("chair", v.Run.Begin, v.Run.Ready-v.Run.Begin, "in the chair, "+v.Wearer, strings.Join(v.Doc.Artists, ", "))
		put("set", v.Run.Ready, 15, "on set", k.Scene)
		for _, p := range v.Wear.Parts {
			for i, h := range p.TouchH {
				put(fmt.Sprintf("touch-%s-%d", strings.ToLower(p.Piece), i), v.Run.Ready+60*h, 10, "look at the edge of "+p.Piece, p.Words)
			}
		}
		put("off", v.Run.Ready+60*v.Wear.Hours, v.Off.TotalMin, "taking it off", v.Off.Never)
	}
	return cal.SerializeTo(w)
}

// File is a kit as it is carried to another program.
type File struct {
	Format   string    `json:"format"`
	Kit      Kit       `json:"kit"`
	Contents Contents  `json:"contents"`
	Chair    ChairView `json:"chair"`
	Sheet    SheetView `json:"sheet"`
}

// FileOf gathers a kit as one document.
func (s *Service) FileOf(ctx context.Context, code string) (File, error) {
	v, d, err := s.chairDay(ctx, code)
	if err != nil {
		return File{}, err
	}
	out := File{Format: "yewmoor-kit-1", Kit: d.kit, Chair: v}
	if out.Contents, err = s.contents(ctx, s.DB, d); err != nil {
		return out, err
	}
	out.Sheet, err = s.Sheet(ctx, d.kit)
	return out, err
}
