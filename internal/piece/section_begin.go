package piece

import (
	"context"
	"encoding/json"
	"fmt"
	"math"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// SectionFile is a section as a file: docs/manual/section-file.md says what
// stands in it.
type SectionFile struct {
	Format    string            `json:"format" doc:"always yewmoor-section"`
	Version   int               `json:"version" doc:"of the format: 1"`
	Piece     string            `json:"piece" doc:"code of the piece that it was written from"`
	Name      string            `json:"name"`
	Section   section.Section   `json:"section"`
	Materials map[string]string `json:"materials" doc:"names of the materials by slug, for whoever reads it elsewhere"`
}

// fileFormat is what a section's file calls itself.
const fileFormat = "yewmoor-section"

// WriteSectionFile makes the file of a state of a section.
func (s *Service) WriteSectionFile(ctx context.Context, code, key string) (SectionFile, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionFile{}, err
	}
	out := SectionFile{Format: fileFormat, Version: 1, Piece: code, Name: p.Name, Materials: map[string]string{}}
	if key == "" {
		key = "draft"
	}
	if out.Section, err = s.sectionAt(ctx, p, key); err != nil {
		return out, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	out.Section.All(func(_ section.Cut, _ int, l section.Layer) {
		for _, slug := range l.Products() {
			out.Materials[slug] = materials[slug].Name
		}
	})
	return out, nil
}

// Beginning is what a section is begun from: a house method, another piece, or
// a file.
type Beginning struct {
	Method   string       `json:"method,omitempty" maxLength:"40"`
	HeightMM float64      `json:"height_mm,omitempty" minimum:"0" maximum:"300" doc:"at the centre, for a house method; 4 when left out"`
	Piece    string       `json:"piece,omitempty" maxLength:"24" doc:"code of the piece to copy"`
	Key      string       `json:"key,omitempty" maxLength:"40" doc:"which state of it; its newest agreed one when left out"`
	File     *SectionFile `json:"file,omitempty"`
	Base     int          `json:"base" minimum:"0" maximum:"1000000"`
	Step     int          `json:"step" minimum:"0" maximum:"1000000"`
}

// BeginSection makes the next step of the person's draft from a house method,
// another piece or a file. The size of this piece stays.
func (s *Service) BeginSection(ctx context.Context, code string, from Beginning) (SectionView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionView{}, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return SectionView{}, err
	}
	size := s.startSection(ctx, p)
	var doc section.Section
	switch {
	case from.Method != "":
		height := from.HeightMM
		if height == 0 {
			height = 4
		}
		var known bool
		if doc, known = section.House(from.Method, size.AreaCM2, height, materials); !known {
			return SectionView{}, problem.Invalid("unknown_value", "method", "There is no house method “%.40s”.", from.Method)
		}
	case from.Piece != "":
		other, err := Find(ctx, s.DB, from.Piece)
		if err != nil {
			return SectionView{}, problem.Invalid("unknown_value", "piece", "There is no piece %.24s.", from.Piece)
		}
		if from.Key != "" {
			doc, err = s.sectionAt(ctx, other, from.Key)
		} else {
			var number int
			if doc, _, number, err = AgreedSection(ctx, s.DB, other); err == nil && number == 0 {
				return SectionView{}, problem.Invalid("missing", "piece", "%s has no agreed section yet.", from.Piece)
			}
		}
		if err != nil {
			return SectionView{}, err
		}
		if other.ID != p.ID { // another state of this piece keeps its size and its lines
			resize(&doc, size)
		}
	case from.File != nil:
		if from.File.Format != fileFormat || from.File.Version != 1 {
			return SectionView{}, problem.Invalid("invalid", "file", "This is no section's file of this product. Nothing was changed.")
		}
		doc = from.File.Section
	default:
		return SectionView{}, problem.Invalid("missing", "method", "Say what it is begun from.")
	}
	return s.SaveSection(ctx, code, doc, from.Base, from.Step)
}

// resize puts a copied section on this piece: its cuts keep their shares of the
// area, and every stretch keeps its share of the way to the edge. Where lines
// ran on another wearer's map is not kept.
func resize(doc *section.Section, size section.Section) {
	sum := 0.0
	for _, c := range doc.Cuts() {
		sum += c.AreaCM2
	}
	turn := func(c *section.Cut) {
		k := size.AreaCM2 / sum
		c.AreaCM2 = math.Round(c.AreaCM2*k*10) / 10
		way := section.HalfWidth(c.AreaCM2) / c.HalfWidthMM
		c.HalfWidthMM, c.Line = section.HalfWidth(c.AreaCM2), nil
		for i := range c.Zones {
			c.Zones[i].ToMM = math.Round(c.Zones[i].ToMM*way*10) / 10
		}
		if n := len(c.Zones); n > 0 {
			c.Zones[n-1].ToMM = c.HalfWidthMM
		}
		for i := range c.Layers {
			l := &c.Layers[i]
			l.FromMM = math.Round(l.FromMM*way*10) / 10
			if l.Extent == section.CentreOnly {
				l.StopMM = math.Min(c.HalfWidthMM, math.Round(l.StopMM*way*10)/10)
			}
		}
	}
	turn(&doc.Cut)
	for i := range doc.More {
		turn(&doc.More[i])
	}
	doc.LiesOver = nil
}

// Overridden is a rule that somebody signed away on an agreed section.
type Overridden struct {
	Rule   string `json:"rule"`
	Piece  string `json:"piece"`
	Number int    `json:"number"`
	At     string `json:"at"`
	By     string `json:"by"`
	Reason string `json:"reason"`
}

// Overrides lists which rules are overridden on the newest agreed sections and
// briefs, by rule and piece.
func (s *Service) Overrides(ctx context.Context) ([]Overridden, error) {
	var rows []struct {
		Code   string
		Number int
		Signed string
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT q.code, v.number, v.signed FROM document d JOIN document_version v ON v.document_id = d.id JOIN piece q ON q.id = d.piece_id
		WHERE q.put_away_at IS NULL AND v.signed <> '[]' AND v.signed <> 'null' AND v.number = (SELECT MAX(w.number) FROM document_version w WHERE w.document_id = d.id) ORDER BY q.code`); err != nil {
		return nil, fmt.Errorf("reading what was signed: %w", err)
	}
	list := []Overridden{}
	for _, r := range rows {
		var signed []document.Signature
		if err := json.Unmarshal([]byte(r.Signed), &signed); err != nil {
			return nil, err
		}
		for _, g := range signed {
			list = append(list, Overridden{Rule: g.ID, Piece: r.Code, Number: r.Number, At: g.At, By: g.By, Reason: g.Reason})
		}
	}
	return list, nil
}
