package piece

import (
	"context"
	"strings"

	"yewmoor/internal/craft/fit"
	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/outing"
	"yewmoor/internal/platform/database"
)

// Outing is a piece as its day sees it, on one version of its section (0: the agreed one): what follows from it, its edge
// and hair on the wearer's map, and the landmarks that it is placed by; with its brief.
func (s *Service) Outing(ctx context.Context, db database.Reader, p Piece, number int, materials material.Shelf) (outing.Piece, Surroundings, error) {
	out := outing.Piece{Code: p.Code, Name: p.Name, Region: p.Region, Side: p.Side, Names: map[string]string{}}
	var err error
	if out.Doc, _, _, err = SectionAt(ctx, db, p, number); err != nil {
		return out, Surroundings{}, err
	}
	if out.Result, err = s.ResultOf(ctx, db, p, out.Doc, materials); err != nil {
		return out, Surroundings{}, err
	}
	at, err := s.since(ctx, db, p)
	if err != nil {
		return out, Surroundings{}, err
	}
	around, err := s.around(ctx, db, p, at)
	if err != nil {
		return out, Surroundings{}, err
	}
	out.AreaCM2, out.EdgeMM = out.Result.Body.AreaCM2, out.Result.EdgeMM
	for _, a := range around.Map.Areas {
		if a.Piece == p.Code {
			out.RimCM += a.EdgeMM / 10
		}
	}
	for _, h := range around.Map.Hair {
		if h.Piece == p.Code {
			out.Hair = append(out.Hair, h)
		}
	}
	out.NearEye = len(around.Map.KeepOut) > 0 || p.Region == "eye_hollow"
	for _, sh := range placeOf(p, around.Map).Shares {
		out.NearEye = out.NearEye || sh.Region == "eye_hollow" && sh.CM2 > 0.1
	}
	return out, around, s.landmarks(ctx, db, p, around.Brief, &out)
}

// nearMM is how far beyond its outline a landmark still places a piece.
const nearMM = 12.0

// landmarks are the named places of the wearer's form that lie under a piece or close by its rim.
func (s *Service) landmarks(ctx context.Context, db database.Reader, p Piece, b Brief, out *outing.Piece) error {
	sheets, err := s.People.SheetsOf(ctx, db, p.PerformerID)
	if err != nil {
		return err
	}
	name := form.SheetFor(p.Region, p.Side)
	sheet, err := sheets(name)
	if err != nil {
		return nil // a region of which there is no map has no landmarks
	}
	for id, at := range sheet.Landmarks() {
		place := sheet.At(at)
		near := false
		for _, m := range b.Marks {
			if m.Kind != "region" || m.Sheet != name {
				continue
			}
			near = near || form.Follow(m.Points).Holds(at)
			for _, q := range m.Points {
				near = near || sheet.At(q).Distance(place) < nearMM
			}
		}
		if !near {
			continue
		}
		kind := "point"
		switch {
		case strings.HasPrefix(id, "nostril") || strings.HasPrefix(id, "mouth"):
			kind = "opening"
		case strings.HasPrefix(id, "pupil") || strings.HasPrefix(id, "eye"):
			kind = "eye"
		}
		out.Marks = append(out.Marks, fit.Mark{ID: id, At: [2]float64{place.X, place.Y}, Kind: kind})
		out.Names[id] = landmarkText(id)
	}
	return nil
}

// landmarkText is a landmark in words: pupil_L is the left pupil, the wearer's.
func landmarkText(id string) string {
	side := ""
	switch {
	case strings.HasSuffix(id, "_L"):
		side, id = "left ", strings.TrimSuffix(id, "_L")
	case strings.HasSuffix(id, "_R"):
		side, id = "right ", strings.TrimSuffix(id, "_R")
	}
	return side + strings.ReplaceAll(id, "_", " ")
}
