package piece

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/wear"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/document"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// Surroundings are what the brief and the wearer's map say around a section.
type Surroundings struct {
	Brief Brief
	Map   wearmap.Result
	Days  []wear.Day
	// Look are the codes of the pieces that are worn with this one.
	Look []string
	// AskMin is how often the wearer is asked how it is, in minutes.
	AskMin int
}

// Around tells the surroundings of a piece; wired to the brief, which draws the
// wearer's map.
type Around interface {
	Around(ctx context.Context, db database.Reader, p Piece) (Surroundings, error)
}

// around reads what brief and map say around a piece; for a section that is dragged
// it is read once. Inside an act it is read as the act has it: see docs/caches.md.
func (s *Service) around(ctx context.Context, db database.Reader, p Piece, at since) (Surroundings, error) {
	read := func() (Surroundings, error) { return s.Around.Around(ctx, db, p) }
	if _, acting := db.(database.Tx); acting || at.Record == 0 {
		return read()
	}
	drafts := at.drafts
	if drafts == "" {
		var err error
		if drafts, err = document.StampOf(ctx, db); err != nil {
			return Surroundings{}, fmt.Errorf("asking whether a draft changed: %w", err)
		}
	}
	return s.seen.Get(struct {
		Piece  uint64
		At     since
		Drafts string
		Today  int
	}{p.ID, at, drafts, clock.DayNumber(s.Clock.Now())}, read)
}

// ruleCase puts together what the rules look at for a section of a piece.
func (s *Service) ruleCase(ctx context.Context, db database.Reader, p Piece, doc section.Section, at since) (rules.Case, Company, error) {
	c := rules.Case{Code: p.Code, Section: doc}
	var around Surroundings
	var err error
	if c.Shelf, err = shelf.Load(ctx, db); err != nil {
		return c, Company{}, err
	}
	if err := doc.Check(c.Shelf); err != nil {
		return c, Company{}, err
	}
	if c.Wearer, err = s.LoadWearer(ctx, db, p); err != nil {
		return c, Company{}, err
	}
	if around, err = s.around(ctx, db, p, at); err != nil {
		return c, Company{}, err
	}
	if c.Room, err = s.room(ctx, db); err != nil {
		return c, Company{}, err
	}
	doc.Region = p.Region
	c.Section.Region = p.Region
	if c.Voices, c.Areas, err = s.voices(ctx, db, p, doc, c.Shelf, outlined(around.Map, p.Code), at); err != nil {
		return c, Company{}, err
	}
	c.Result = doc.WorkBy(c.Shelf, c.Room, c.Believed())
	if err := s.spendMoulds(ctx, db, p, doc, &c.Result); err != nil {
		return c, Company{}, err
	}
	if c.Scanned, err = s.scanned(ctx, p, at); err != nil {
		return c, Company{}, err
	}
	brief := around.Brief
	c.CloseCamera, c.WearHours, c.Exertion, c.Water = brief.Camera == "close", brief.WearHours, brief.Exertion, brief.Water
	c.Water = wear.Wetter(c.Water, around.Days)
	for _, d := range around.Days {
		c.Days = append(c.Days, rules.Day{Name: d.Name, TempC: d.TempC, RH: d.RH, Sun: d.Sun, Rain: d.Rain, Lamps: d.Lamps})
	}
	c.Place = placeOf(p, around.Map)
	here, _ := region.Find(p.Region)
	c.MovesMuch = here.MovesMuch
	company, err := s.company(ctx, db, p, doc, c.Shelf, c.Room, around, at)
	if err != nil {
		return c, Company{}, err
	}
	company.LimitG = c.Wearer.LimitG
	for _, m := range company.Pieces {
		if m.Code == p.Code {
			continue
		}
		c.OthersG += m.MassG
		n := rules.Neighbour{Code: m.Code, LiesOver: m.LiesOver, Glued: m.glued}
		for _, o := range around.Map.Overlaps {
			if o.A == p.Code && o.B == m.Code || o.A == m.Code && o.B == p.Code {
				n.OverlapCM2 = o.CM2
			}
		}
		c.Neighbours = append(c.Neighbours, n)
	}
	company.TotalG = c.OthersG + c.Result.WornG
	return c, company, nil
}

func placeOf(p Piece, m wearmap.Result) rules.Place {
	out := rules.Place{Region: p.Region, VisibleEdge: true}
	for _, a := range m.Areas {
		if a.Piece != p.Code {
			continue
		}
		for _, sh := range a.Shares {
			out.Shares = append(out.Shares, rules.Share{Region: sh.Region, Text: sh.Text, CM2: sh.CM2, CoveredCM2: sh.CoveredCM2})
		}
	}
	for _, k := range m.KeepOut {
		out.KeepOut = append(out.KeepOut, rules.Reach{Zone: k.Zone, CM2: k.CM2})
	}
	for _, h := range m.Hair {
		out.Hair = append(out.Hair, rules.Hair{Text: h.Text, How: h.How, By: h.By, CM2: h.CM2})
	}
	if edges := slices.DeleteFunc(slices.Clone(m.Edges), func(e wearmap.Stretch) bool { return e.Kind != "edge" }); len(edges) > 0 {
		out.VisibleEdge = slices.ContainsFunc(edges, func(e wearmap.Stretch) bool { return e.How == "vanish" || e.How == "" })
	}
	return out
}

// Companion is one of the pieces that are worn together.
type Companion struct {
	section.Fitting
	Name     string   `json:"name"`
	MassG    float64  `json:"mass_g" doc:"0 as long as it has no section"`
	Known    bool     `json:"known" doc:"it has a section"`
	LiesOver []string `json:"lies_over"`
	glued    bool
}

// Company is everything that is worn together: the order of fitting, and what
// it weighs.
type Company struct {
	Pieces []Companion `json:"pieces" doc:"in the order in which they go on"`
	TotalG float64     `json:"total_g"`
	LimitG float64     `json:"limit_g" doc:"the wearer's; 0 when none is recorded"`
}

// company reads the newest section of every piece that is worn with this one.
func (s *Service) company(ctx context.Context, db database.Reader, p Piece, doc section.Section, shelf material.Shelf, room section.Room, around Surroundings, at since) (Company, error) {
	pieces, err := OfCharacter(ctx, db, p.CharacterCode)
	if err != nil {
		return Company{}, err
	}
	var rows []struct {
		Code string
		Doc  string
	}
	// The newest version of each: index document_version_once.
	if err := db.SelectContext(ctx, &rows, "SELECT q.code, v.doc FROM `character` ch JOIN piece q ON q.character_id = ch.id JOIN document d ON d.piece_id = q.id AND d.kind = 'section' JOIN document_version v ON v.document_id = d.id WHERE ch.code = ? AND v.number = (SELECT MAX(w.number) FROM document_version w WHERE w.document_id = d.id)", p.CharacterCode); err != nil {
		return Company{}, fmt.Errorf("reading what is worn with it: %w", err)
	}
	docs := map[string]section.Section{p.Code: doc}
	for _, r := range rows {
		if r.Code == p.Code {
			continue
		}
		var other section.Section
		if err := json.Unmarshal([]byte(r.Doc), &other); err != nil {
			return Company{}, err
		}
		docs[r.Code] = other
	}
	var worn []section.Worn
	by := map[string]Companion{}
	for _, q := range pieces {
		if q.Code != p.Code && !slices.Contains(around.Look, q.Code) {
			continue
		}
		d, known := docs[q.Code]
		m := Companion{Name: q.Name, Known: known, LiesOver: d.LiesOver}
		if m.LiesOver == nil {
			m.LiesOver = []string{}
		}
		w := section.Worn{Code: q.Code, Region: q.Region, LiesOver: d.LiesOver}
		if known {
			v, a, err := s.voices(ctx, db, q, d, shelf, outlined(around.Map, q.Code), at)
			if err != nil {
				return Company{}, err
			}
			m.MassG = d.WorkBy(shelf, room, section.Believed{VolumeML: v.VolumeML, AreaCM2: a.CM2}).WornG
			d.All(func(_ section.Cut, _ int, l section.Layer) {
				w.Stretch = w.Stretch || l.Stretched
				m.glued = m.glued || l.Kind == section.Adhesive
			})
		}
		by[q.Code] = m
		worn = append(worn, w)
	}
	out := Company{Pieces: []Companion{}}
	for _, f := range section.Order(worn) {
		m := by[f.Code]
		m.Fitting = f
		out.Pieces = append(out.Pieces, m)
	}
	return out, nil
}
