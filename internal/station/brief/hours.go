package brief

import (
	"context"
	"fmt"
	"math"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
	"yewmoor/internal/work"
)

// HoursPart is one part of the hands that a piece takes in all.
type HoursPart struct {
	Part  string `json:"part" enum:"shape,texture,mould,copies,chair,brief" doc:"brief: a step that no room works out"`
	Text  string `json:"text"`
	Where string `json:"where" enum:"workshop,chair"`
	// Hours are the room's own where it works them out, else the brief's.
	Hours    float64 `json:"hours"`
	From     string  `json:"from" enum:"room,brief"`
	BriefH   float64 `json:"brief_hours" doc:"what the brief's steps say of this part"`
	SpentH   float64 `json:"spent_hours" doc:"what was really spent on it, as far as somebody wrote it down"`
	Note     string  `json:"note,omitempty"`
	Disagree bool    `json:"disagree" doc:"room and brief are apart by more than half as much again"`
}

// HoursSum is one sum of all hands of a piece, with its parts.
type HoursSum struct {
	Parts     []HoursPart `json:"parts"`
	WorkshopH float64     `json:"workshop_hours"`
	ChairH    float64     `json:"chair_hours"`
	TotalH    float64     `json:"total_hours"`
}

// apartTimes is how many times one estimate may be another before it is said.
const apartTimes = 1.5

// Hours sums the hands that a piece takes: the texture by its plan, the moulds by
// their build sheets, copies and chair by the section, and what only the brief knows
// of. Each is counted once.
func (s *Service) Hours(ctx context.Context, code string) (HoursSum, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return HoursSum{}, err
	}
	rooms, err := s.roomHours(ctx, p)
	if err != nil {
		return HoursSum{}, err
	}
	parts, err := s.withBrief(ctx, p, append([]HoursPart{shape}, rooms...))
	if err != nil {
		return HoursSum{}, err
	}
	out := HoursSum{Parts: []HoursPart{}}
	for _, part := range parts {
		if part.Hours == 0 && part.SpentH == 0 {
			continue
		}
		part.Disagree = part.From == "room" && part.BriefH > 0 && math.Max(part.Hours/part.BriefH, part.BriefH/part.Hours) > apartTimes
		out.Parts = append(out.Parts, part)
		out.TotalH += part.Hours
		if part.Where == "chair" {
			out.ChairH += part.Hours
		} else {
			out.WorkshopH += part.Hours
		}
	}
	return out, nil
}

// shape is the part that no room works out and that is hands at the clay all the same: the brief says how long.
var shape = HoursPart{Part: "shape", Text: "Shape of the sculpt", Where: "workshop", From: "brief"}

// ShapeHours are those that the brief has for the shape of a piece's sculpt, 0 where it says none, and what was noted of it.
func (s *Service) ShapeHours(ctx context.Context, p piece.Piece) (planned, spent float64, err error) {
	parts, err := s.withBrief(ctx, p, []HoursPart{shape})
	if err != nil {
		return 0, 0, err
	}
	return parts[0].Hours, parts[0].SpentH, nil
}

// withBrief adds to parts what the brief's steps say of them and what was spent, and the steps that are of no part. What no room works
// out takes the brief's hours.
func (s *Service) withBrief(ctx context.Context, p piece.Piece, parts []HoursPart) ([]HoursPart, error) {
	doc, _, err := s.Pieces.ReadBrief(ctx, s.DB, p)
	if err != nil {
		return nil, err
	}
	actuals, err := s.actuals(ctx, p.ID)
	if err != nil {
		return nil, err
	}
	spent := map[string]float64{}
	for _, a := range actuals {
		if a.Kind == "hours" {
			spent[a.Subject] += a.Amount
		}
	}
	for _, st := range doc.Steps {
		if st.Part == "" {
			parts = append(parts, HoursPart{Part: "brief", Text: st.Text, Where: st.Where, Hours: st.Hours, From: "brief", BriefH: st.Hours, SpentH: spent[st.ID]})
			continue
		}
		for i := range parts {
			if parts[i].Part == st.Part {
				parts[i].BriefH += st.Hours
				parts[i].SpentH += spent[st.ID]
			}
		}
	}
	for i := range parts {
		if parts[i].Part != "brief" && parts[i].Hours == 0 {
			parts[i].Hours, parts[i].From = parts[i].BriefH, "brief"
		}
	}
	return parts, s.noted(ctx, p, parts)
}

// noted adds what was noted at work to what was spent on moulds and copies. The texture has a log of its own.
func (s *Service) noted(ctx context.Context, p piece.Piece, parts []HoursPart) error {
	spans, err := work.OfPiece(ctx, s.DB, p.ID)
	if err != nil {
		return err
	}
	for _, w := range spans {
		part := "copies"
		switch w.Act {
		case work.Mould:
			part = "mould"
		case work.Shape:
			part = "shape"
		case work.Other, work.Pack, work.Texture:
			continue
		}
		for i := range parts {
			if parts[i].Part == part {
				parts[i].SpentH += w.Minutes(*w.Ended) / 60
			}
		}
	}
	return nil
}

// roomHours are the parts that rooms work out; 0 hours where they know nothing yet.
func (s *Service) roomHours(ctx context.Context, p piece.Piece) ([]HoursPart, error) {
	texture := HoursPart{Part: "texture", Text: "Texture", Where: "workshop", From: "room", Note: "by its plan, in this hand's own times"}
	mould := HoursPart{Part: "mould", Text: "Moulds", Where: "workshop", From: "room"}
	copies := HoursPart{Part: "copies", Text: "Copies", Where: "workshop", From: "room"}
	chair := HoursPart{Part: "chair", Text: "At the chair", Where: "chair", From: "room"}
	var err error
	if texture.Hours, texture.SpentH, err = s.Clay.PlannedHours(ctx, p); err != nil {
		return nil, err
	}
	doc, _, number, err := piece.AgreedSection(ctx, s.DB, p)
	if err != nil || number == 0 {
		return []HoursPart{texture, mould, copies, chair}, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	r, err := s.Pieces.ResultOf(ctx, s.DB, p, doc, materials)
	if err != nil {
		return nil, err
	}
	tooling, err := s.Pieces.Moulds.Needed(ctx, s.DB, p, doc, r.Body)
	if err != nil {
		return nil, err
	}
	mould.Hours, mould.Note = tooling.HandsS/3600, tooling.Note
	days, err := s.Pieces.DaysOf(ctx, s.DB, p.ID)
	if err != nil {
		return nil, err
	}
	bench, atChair := handsOf(r)
	wears := max(1, len(days))
	copies.Hours, copies.Note = bench*float64(max(1, p.CopiesWanted)), fmt.Sprintf("%.1f h each, %d wanted", bench, max(1, p.CopiesWanted))
	chair.Hours, chair.Note = atChair*float64(wears), fmt.Sprintf("%.1f h a time, times %d by its shooting days", atChair, wears)
	if len(days) == 0 {
		chair.Note = fmt.Sprintf("%.1f h a time; no shooting day is set yet", atChair)
	}
	return []HoursPart{texture, mould, copies, chair}, nil
}

// handsOf are the hands of one copy at the bench and at the chair, in hours. Built on
// the wearer all of it is at the chair, with its waits.
func handsOf(r section.Result) (bench, chair float64) {
	for _, st := range r.Steps {
		if st.Where == "chair" {
			chair += st.HandsS / 3600
			if r.MadeOn == section.OnSkin {
				chair += st.WaitS / 3600
			}
			continue
		}
		bench += st.HandsS / 3600
	}
	return bench, chair
}
