package piece

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"

	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Consequence is what follows from a section: figures and findings.
type Consequence struct {
	Result   section.Result  `json:"result"`
	Findings []rules.Finding `json:"findings"`
	Cautions []rules.Finding `json:"cautions" doc:"for those who make it; they hold nothing back"`
	Company  Company         `json:"company" doc:"what is worn together"`
	Room     section.Room    `json:"room" doc:"the air that drying times are worked out for"`
	// LinesMM are the lengths of the cuts' lines on the wearer's map, by cut id.
	LinesMM map[string]float64 `json:"lines_mm"`
}

// SectionView is a piece's section as one person sees it.
type SectionView struct {
	Consequence
	Doc    section.Section `json:"doc"`
	State  State           `json:"state"`
	Signed []Signature     `json:"signed" doc:"reasons signed with the latest version"`
}

// Work computes what follows from a section for this piece without saving it.
// The section must be possible; what the rules say comes back as findings.
func (s *Service) Work(ctx context.Context, db database.Reader, p Piece, doc section.Section) (Consequence, error) {
	k, company, err := s.ruleCase(ctx, db, p, doc)
	if err != nil {
		return Consequence{}, err
	}
	c := Consequence{Result: k.Result, Findings: []rules.Finding{}, Cautions: []rules.Finding{}, Company: company, Room: k.Room, LinesMM: map[string]float64{}}
	for _, f := range rules.Check(k) {
		if strings.HasPrefix(f.ID, "MAK-") {
			c.Cautions = append(c.Cautions, f)
		} else {
			c.Findings = append(c.Findings, f)
		}
	}
	return c, s.lines(ctx, p, doc, c.LinesMM)
}

// Swapped says which findings come up when two neighbouring layers change
// places.
func (s *Service) Swapped(ctx context.Context, code string, doc section.Section, cut, at int) ([]rules.Finding, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	k, _, err := s.ruleCase(ctx, s.DB, p, doc)
	if err != nil {
		return nil, err
	}
	return append([]rules.Finding{}, rules.Swapped(k, cut, at)...), nil
}

// lines measures where the cuts run on the wearer's map.
func (s *Service) lines(ctx context.Context, p Piece, doc section.Section, into map[string]float64) error {
	var sheets wearmap.Sheets
	for i, c := range doc.Cuts() {
		if c.Line == nil {
			continue
		}
		if sheets == nil {
			var err error
			if sheets, err = s.SheetsOf(ctx, p.PerformerID); err != nil {
				return err
			}
		}
		field := "line"
		if i > 0 {
			field = fmt.Sprintf("more[%d].line", i-1)
		}
		sheet, err := sheets(c.Line.Sheet)
		if err != nil {
			return problem.Invalid("unknown_value", field, "“%.20s” is no sheet of the wearer's map.", c.Line.Sheet)
		}
		if err := sheet.CheckPoints(c.Line.Points, false, field); err != nil {
			return err
		}
		into[c.ID] = math.Round(10*sheet.Length(c.Line.Points, false)) / 10
	}
	return nil
}

// Section reads the section as the signed-in person sees it.
func (s *Service) Section(ctx context.Context, code string) (SectionView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionView{}, err
	}
	raw, state, err := document(ctx, s.DB, p.ID, SectionKind)
	if err != nil {
		return SectionView{}, err
	}
	view := SectionView{State: state, Signed: []Signature{}}
	if raw == nil {
		view.Doc = s.startSection(ctx, p)
	} else if err := json.Unmarshal(raw, &view.Doc); err != nil {
		return SectionView{}, fmt.Errorf("reading the section of %s: %w", code, err)
	}
	if state.Latest > 0 {
		v, err := readVersion(ctx, s.DB, p.ID, SectionKind, 0)
		if err != nil {
			return SectionView{}, err
		}
		if err := json.Unmarshal([]byte(v.Signed), &view.Signed); err != nil {
			return SectionView{}, err
		}
	}
	view.Consequence, err = s.Work(ctx, s.DB, p, view.Doc)
	return view, err
}

// startSection is where a section begins: the area that is drawn on the map,
// else what the brief says, else the region's usual one.
func (s *Service) startSection(ctx context.Context, p Piece) section.Section {
	r, _ := region.Find(p.Region)
	area := r.AreaCM2
	if around, err := s.Around.Around(ctx, p); err == nil {
		switch {
		case around.Map.CM2 > 0:
			area = math.Round(10*around.Map.CM2) / 10
		case around.Brief.AreaCM2 > 0:
			area = around.Brief.AreaCM2
		}
	}
	return section.Start(area)
}

// AgreedSection reads the newest agreed section of a piece and its number; 0
// when none is agreed yet.
func AgreedSection(ctx context.Context, db database.Reader, p Piece) (section.Section, []Signature, int, error) {
	if p.SectionNumber == 0 {
		return section.Section{}, nil, 0, nil
	}
	v, err := readVersion(ctx, db, p.ID, SectionKind, 0)
	if err != nil {
		return section.Section{}, nil, 0, err
	}
	var doc section.Section
	var signed []Signature
	err = errors.Join(json.Unmarshal([]byte(v.Doc), &doc), json.Unmarshal([]byte(v.Signed), &signed))
	return doc, signed, v.Number, err
}

// SaveSection writes the person's next draft step. A choice that brings in a
// finding which nobody can sign away is refused, with what to take instead.
func (s *Service) SaveSection(ctx context.Context, code string, doc section.Section, base, step int) (SectionView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionView{}, err
	}
	c, err := s.Work(ctx, s.DB, p, doc)
	if err != nil {
		return SectionView{}, err
	}
	if err := s.refuseNewNever(ctx, p, doc, c); err != nil {
		return SectionView{}, err
	}
	raw, err := json.Marshal(doc)
	if err != nil {
		return SectionView{}, err
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		if err := s.saveDraft(ctx, tx, p.ID, SectionKind, raw, base, step); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE piece SET family = ? WHERE id = ? AND family <> ?`, c.Result.Family, p.ID, c.Result.Family)
		return err
	})
	if err != nil {
		return SectionView{}, err
	}
	s.Live.Tell("section", code)
	return s.Section(ctx, code)
}

// refuseNewNever lets a draft that already stands in a never (because the
// facts changed) be mended step by step, but lets no new one in.
func (s *Service) refuseNewNever(ctx context.Context, p Piece, doc section.Section, c Consequence) error {
	before := map[string]bool{}
	if raw, _, err := document(ctx, s.DB, p.ID, SectionKind); err == nil && raw != nil {
		var old section.Section
		if json.Unmarshal(raw, &old) == nil {
			if was, err := s.Work(ctx, s.DB, p, old); err == nil {
				for _, f := range was.Findings {
					before[f.Key()] = true
				}
			}
		}
	}
	for _, f := range c.Findings {
		if f.Severity != rules.Never || before[f.Key()] {
			continue
		}
		refused := problem.Invalid("never", fieldOf(doc, f.Above), "%s %s The section is as it was.", f.Reason, f.Remedy)
		refused.Data = f
		return refused
	}
	return nil
}

// fieldOf is the path of a layer's material in a section.
func fieldOf(doc section.Section, layer string) string {
	for n, c := range doc.Cuts() {
		for i, l := range c.Layers {
			if l.ID == layer && l.Kind != section.Skin {
				if n == 0 {
					return fmt.Sprintf("layers[%d].material", i)
				}
				return fmt.Sprintf("more[%d].layers[%d].material", n-1, i)
			}
		}
	}
	return "layers"
}

// WalkSection goes a step back or forward.
func (s *Service) WalkSection(ctx context.Context, code string, by int) (SectionView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionView{}, err
	}
	if err := s.walk(ctx, p.ID, SectionKind, by); err != nil {
		return SectionView{}, err
	}
	s.Live.Tell("section", code)
	return s.Section(ctx, code)
}

// CarrySection keeps the person's draft over a version agreed meanwhile.
func (s *Service) CarrySection(ctx context.Context, code string, latest int) (SectionView, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		return s.carry(ctx, tx, p.ID, SectionKind, latest)
	})
	if err != nil {
		return SectionView{}, err
	}
	return s.Section(ctx, code)
}

// DropSection throws the person's draft away.
func (s *Service) DropSection(ctx context.Context, code string) (SectionView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionView{}, err
	}
	if err := s.DB.InTx(ctx, func(tx database.Tx) error { return s.drop(ctx, tx, p.ID, SectionKind) }); err != nil {
		return SectionView{}, err
	}
	return s.Section(ctx, code)
}

// isSigned says whether a reason was given for this finding, at its place. A
// reason without a place is enough where the rule speaks only once.
func isSigned(f rules.Finding, all []rules.Finding, signed []Signature) bool {
	times := 0
	for _, o := range all {
		if o.ID == f.ID {
			times++
		}
	}
	return slices.ContainsFunc(signed, func(g Signature) bool {
		return g.ID == f.ID && strings.TrimSpace(g.Reason) != "" && (g.At == f.At() || g.At == "" && times == 1)
	})
}

// AgreeSection makes the draft a version. A never holds it back for good; a
// stop wants a lead's signed reason, which travels to the hand-over sheet.
func (s *Service) AgreeSection(ctx context.Context, code string, signed []Signature) (SectionView, error) {
	who, _ := accounts.From(ctx)
	view, err := s.Section(ctx, code)
	if err != nil {
		return SectionView{}, err
	}
	for i := range signed {
		signed[i].By = who.Name
	}
	var open []rules.Finding
	for _, f := range view.Findings {
		if f.Severity == rules.Never || f.Severity == rules.Stop && (who.Role != accounts.Lead || !isSigned(f, view.Findings, signed)) {
			open = append(open, f)
		}
	}
	if len(open) > 0 {
		words := open[0].ID + ": " + open[0].Reason
		if open[0].Severity == rules.Stop {
			words += " A lead may go on with a signed reason."
		}
		held := problem.New(http.StatusUnprocessableEntity, "held_back", "signed", "%s The draft is kept.", words)
		held.Data = open
		return SectionView{}, held
	}
	if len(view.Doc.Layers) < 2 {
		return SectionView{}, problem.Invalid("missing", "layers", "Add at least one layer before the section is agreed.")
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := s.agree(ctx, tx, p, SectionKind, signed); err != nil {
			return err
		}
		return Move(ctx, tx, p.ID, "sculpt", true)
	})
	if err != nil {
		return SectionView{}, err
	}
	s.Live.Tell("section", code)
	s.Live.Tell("pieces", "")
	return s.Section(ctx, code)
}
