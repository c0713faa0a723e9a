package piece

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"

	"yewmoor/internal/craft/mix"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/round"
)

// Consequence is what follows from a section: figures and findings.
type Consequence struct {
	Result   section.Result  `json:"result"`
	Findings []rules.Finding `json:"findings"`
	Cautions []rules.Finding `json:"cautions" doc:"for those who make it; they hold nothing back"`
	Amounts  mix.Voices      `json:"amounts" doc:"what tells the volume of its body; mass and cost go by the believed one"`
	Areas    mix.Areas       `json:"areas" doc:"what tells the area of skin under it; films, glue and colour go by the believed one"`
	Company  Company         `json:"company" doc:"what is worn together"`
	Room     section.Room    `json:"room" doc:"the air that drying times are worked out for: the last reading to half a degree and two percent"`
	// LinesMM are the lengths of the cuts' lines on the wearer's map, by cut id.
	LinesMM map[string]float64 `json:"lines_mm"`
}

// SectionView is a piece's section as one person sees it.
type SectionView struct {
	Consequence
	Doc    section.Section      `json:"doc"`
	State  document.State       `json:"state"`
	Signed []document.Signature `json:"signed" doc:"reasons signed with the latest version"`
}

// Work computes what follows from a section for this piece without saving it.
// The section must be possible; what the rules say comes back as findings. What
// was worked out lately is kept: see docs/caches.md.
func (s *Service) Work(ctx context.Context, db database.Reader, p Piece, doc section.Section) (Consequence, error) {
	asked, err := s.asked(ctx, db, p, doc)
	if err != nil {
		return Consequence{}, err
	}
	return s.Worked.Get(asked, func() (Consequence, error) {
		return s.workOut(ctx, db, p, doc, since{asked.Drafts, asked.Record, asked.Scans, asked.Changed})
	})
}

func (s *Service) workOut(ctx context.Context, db database.Reader, p Piece, doc section.Section, at since) (Consequence, error) {
	k, company, err := s.ruleCase(ctx, db, p, doc, at)
	if err != nil {
		return Consequence{}, err
	}
	c := Consequence{Result: k.Result, Findings: []rules.Finding{}, Cautions: []rules.Finding{}, Amounts: k.Voices, Areas: k.Areas, Company: company, Room: k.Room, LinesMM: map[string]float64{}}
	for _, f := range rules.Check(k) {
		if strings.HasPrefix(f.ID, "MAK-") {
			c.Cautions = append(c.Cautions, f)
		} else {
			c.Findings = append(c.Findings, f)
		}
	}
	return c, s.lines(ctx, db, p, doc, c.LinesMM)
}

// Swapped says which findings come up when two neighbouring layers change
// places.
func (s *Service) Swapped(ctx context.Context, code string, doc section.Section, cut, at int) ([]rules.Finding, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	k, _, err := s.ruleCase(ctx, s.DB, p, doc, since{})
	if err != nil {
		return nil, err
	}
	return append([]rules.Finding{}, rules.Swapped(k, cut, at)...), nil
}

// lines measures where the cuts run on the wearer's map.
func (s *Service) lines(ctx context.Context, db database.Reader, p Piece, doc section.Section, into map[string]float64) error {
	var sheets wearmap.Sheets
	for i, c := range doc.Cuts() {
		if c.Line == nil {
			continue
		}
		if sheets == nil {
			var err error
			if sheets, err = s.People.SheetsOf(ctx, db, p.PerformerID); err != nil {
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

func (p Piece) section() document.Ref { return document.OfPiece(SectionKind, p.ID) }

// Section reads the section as the signed-in person sees it.
func (s *Service) Section(ctx context.Context, code string) (SectionView, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionView{}, err
	}
	raw, state, err := document.Read(ctx, s.DB, p.section())
	if err != nil {
		return SectionView{}, err
	}
	view := SectionView{State: state, Signed: []document.Signature{}}
	if raw == nil {
		view.Doc = s.startSection(ctx, p)
	} else if err := json.Unmarshal(raw, &view.Doc); err != nil {
		return SectionView{}, fmt.Errorf("reading the section of %s: %w", code, err)
	}
	if state.Latest > 0 {
		v, _, err := document.At(ctx, s.DB, p.section(), state.Latest)
		if err != nil {
			return SectionView{}, err
		}
		view.Signed = v.Signed
	}
	view.Consequence, err = s.Work(ctx, s.DB, p, view.Doc)
	return view, err
}

// startSection is where a section begins: the area that is drawn on the map,
// else what the brief says, else the region's usual one.
func (s *Service) startSection(ctx context.Context, p Piece) section.Section {
	r, _ := region.Find(p.Region)
	area := r.AreaCM2
	if around, err := s.Around.Around(ctx, s.DB, p); err == nil {
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
func AgreedSection(ctx context.Context, db database.Reader, p Piece) (section.Section, []document.Signature, int, error) {
	return SectionAt(ctx, db, p, 0)
}

// SectionAt reads an agreed section by its number, with the reasons that were
// signed with it: the version that a copy was made on. Number 0 is the newest.
// The number that comes back is 0 where there is none.
func SectionAt(ctx context.Context, db database.Reader, p Piece, number int) (section.Section, []document.Signature, int, error) {
	var doc section.Section
	v, known, err := document.At(ctx, db, p.section(), number)
	if err != nil || !known {
		return doc, nil, 0, err
	}
	return doc, v.Signed, v.Number, json.Unmarshal(v.Doc, &doc)
}

// AgreedSections reads the newest agreed section of every piece in work that has
// one, by the piece's code. Indexes piece_put_away and document_version_once.
func AgreedSections(ctx context.Context, db database.Reader) (map[string]section.Section, error) {
	var rows []struct{ Code, Doc string }
	if err := db.SelectContext(ctx, &rows, `SELECT q.code, v.doc FROM piece q JOIN document d ON d.piece_id = q.id AND d.kind = 'section' JOIN document_version v ON v.document_id = d.id
		WHERE q.put_away_at IS NULL AND v.number = (SELECT MAX(w.number) FROM document_version w WHERE w.document_id = d.id)`); err != nil {
		return nil, fmt.Errorf("reading the agreed sections: %w", err)
	}
	out := make(map[string]section.Section, len(rows))
	for _, r := range rows {
		var doc section.Section
		if err := json.Unmarshal([]byte(r.Doc), &doc); err != nil {
			return nil, fmt.Errorf("reading the section of %s: %w", r.Code, err)
		}
		out[r.Code] = doc
	}
	return out, nil
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
	return s.sectionAct(ctx, code, func(tx database.Tx, p Piece) error {
		if err := s.Documents.Save(ctx, tx, p.section(), raw, base, step); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `UPDATE piece SET family = ? WHERE id = ? AND family <> ?`, c.Result.Family, p.ID, c.Result.Family)
		return err
	})
}

// sectionAct does one act on the person's draft of a section and reads it again.
func (s *Service) sectionAct(ctx context.Context, code string, act func(database.Tx, Piece) error) (SectionView, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		return act(tx, p)
	})
	if err != nil {
		return SectionView{}, err
	}
	s.Live.Tell(ctx, "section", code)
	return s.Section(ctx, code)
}

// refuseNewNever lets a draft that already stands in a never (because the
// facts changed) be mended step by step, but lets no new one in.
func (s *Service) refuseNewNever(ctx context.Context, p Piece, doc section.Section, c Consequence) error {
	before := map[string]bool{}
	if raw, _, err := document.Read(ctx, s.DB, p.section()); err == nil && raw != nil {
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
	return s.sectionAct(ctx, code, func(tx database.Tx, p Piece) error { return s.Documents.Walk(ctx, tx, p.section(), by) })
}

// CarrySection keeps the person's draft over a version agreed meanwhile.
func (s *Service) CarrySection(ctx context.Context, code string, latest int) (SectionView, error) {
	return s.sectionAct(ctx, code, func(tx database.Tx, p Piece) error { return s.Documents.Carry(ctx, tx, p.section(), latest) })
}

// DropSection throws the person's draft away.
func (s *Service) DropSection(ctx context.Context, code string) (SectionView, error) {
	return s.sectionAct(ctx, code, func(tx database.Tx, p Piece) error { return s.Documents.Drop(ctx, tx, p.section()) })
}

// isSigned says whether a reason was given for this finding, at its place. A
// reason without a place is enough where the rule speaks only once.
func isSigned(f rules.Finding, all []rules.Finding, signed []document.Signature) bool {
	times := 0
	for _, o := range all {
		if o.ID == f.ID {
			times++
		}
	}
	return slices.ContainsFunc(signed, func(g document.Signature) bool {
		return g.ID == f.ID && strings.TrimSpace(g.Reason) != "" && (g.At == f.At() || g.At == "" && times == 1)
	})
}

// AgreeSection makes the draft a version. A never holds it back for good; a
// stop wants a lead's signed reason, which travels to the hand-over sheet. Both
// are judged inside the act, on what is then agreed.
func (s *Service) AgreeSection(ctx context.Context, code string, signed []document.Signature) (SectionView, error) {
	who, _ := accounts.From(ctx)
	for i := range signed {
		signed[i].By = who.Name
	}
	view, err := s.sectionAct(ctx, code, func(tx database.Tx, p Piece) error {
		_, err := s.Documents.Agree(ctx, tx, p.section(), p.Code, func(raw json.RawMessage, _ document.State) ([]document.Signature, error) {
			var doc section.Section
			if err := json.Unmarshal(raw, &doc); err != nil {
				return nil, err
			}
			c, err := s.Work(ctx, tx, p, doc)
			if err != nil {
				return nil, err
			}
			if err := held(c.Findings, signed, who.Role == accounts.Lead); err != nil {
				return nil, err
			}
			if len(doc.Layers) < 2 {
				return nil, problem.Invalid("missing", "layers", "Add at least one layer before the section is agreed.")
			}
			return signed, nil
		})
		if err != nil {
			return err
		}
		return round.Forward(ctx, tx, p.ID, round.Sculpt)
	})
	if err == nil {
		s.Live.Tell(ctx, "pieces", "")
	}
	return view, err
}

// held says which findings hold a section back from being agreed.
func held(findings []rules.Finding, signed []document.Signature, lead bool) error {
	var open []rules.Finding
	for _, f := range findings {
		if f.Severity == rules.Never || f.Severity == rules.Stop && (!lead || !isSigned(f, findings, signed)) {
			open = append(open, f)
		}
	}
	if len(open) == 0 {
		return nil
	}
	words := open[0].ID + ": " + open[0].Reason
	if open[0].Severity == rules.Stop {
		words += " A lead may go on with a signed reason."
	}
	held := problem.New(http.StatusUnprocessableEntity, "held_back", "signed", "%s The draft is kept.", words)
	held.Data = open
	return held
}
