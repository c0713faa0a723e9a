package handover

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"yewmoor/internal/copies"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/paper"
	"yewmoor/internal/people"
	"yewmoor/internal/piece"
	"yewmoor/internal/shelf"
)

// TouchUp is a colour on the sheet.
type TouchUp struct {
	Name   string     `json:"name"`
	Slug   string     `json:"-"` // of its medium
	Medium string     `json:"medium"`
	Place  string     `json:"place"`
	Lab    colour.Lab `json:"-"`
	Hex    string     `json:"hex"`
}

// CopySheet is what the artist must know of one copy.
type CopySheet struct {
	Code     string    `json:"code"`
	Name     string    `json:"name"`
	Where    string    `json:"where"`
	Layers   []string  `json:"layers"`
	Lots     []string  `json:"lots"`
	Adhesive string    `json:"adhesive"`
	Remover  string    `json:"remover"`
	Order    []string  `json:"order"`
	Removal  []string  `json:"removal"`
	TouchUps []TouchUp `json:"touch_ups"`
	Signed   []string  `json:"signed"`
	// Parts are its layers by their ids, so that a report can be about one.
	Parts []SheetPart `json:"parts"`
	// As is the earlier copy that is put on, coloured and taken off in the same way; its steps are not said twice.
	As string `json:"as,omitempty"`
}

// same tells whether another copy of the piece has the same layers, steps and colours.
func (c CopySheet) same(o CopySheet) bool {
	return c.Name == o.Name && slices.Equal(c.Layers, o.Layers) && slices.Equal(c.Order, o.Order) && slices.Equal(c.Removal, o.Removal) && slices.Equal(c.TouchUps, o.TouchUps)
}

// SheetPart is a layer of a copy.
type SheetPart struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// SheetView is a kit's hand-over sheet.
type SheetView struct {
	Copies   []CopySheet `json:"copies"`
	Cautions []string    `json:"cautions"`
}

// Sheet gathers what a kit's sheet says, from the record alone.
func (s *Service) Sheet(ctx context.Context, k Kit) (SheetView, error) {
	out := SheetView{Copies: []CopySheet{}, Cautions: []string{}}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	for _, c := range k.Copies {
		p, err := piece.Find(ctx, s.DB, c.Piece)
		if err != nil {
			return out, err
		}
		sheet, cautions, err := s.copySheet(ctx, k.ID, c, p, materials)
		if err != nil {
			return out, err
		}
		if i := slices.IndexFunc(out.Copies, func(o CopySheet) bool { return o.As == "" && o.same(sheet) }); i >= 0 {
			sheet.As = out.Copies[i].Code
		}
		out.Copies = append(out.Copies, sheet)
		for _, text := range cautions {
			if !slices.Contains(out.Cautions, text) {
				out.Cautions = append(out.Cautions, text)
			}
		}
	}
	return out, nil
}

func (s *Service) copySheet(ctx context.Context, kit uint64, c KitCopy, p piece.Piece, shelf material.Shelf) (CopySheet, []string, error) {
	place, _ := region.Find(p.Region)
	out := CopySheet{Code: c.Code, Name: p.Name, Where: sided(place.Text, p.Side), Layers: []string{}, Lots: []string{}, Order: []string{}, Removal: []string{}, TouchUps: []TouchUp{}, Signed: []string{}, Parts: []SheetPart{}}
	doc, signed, _, err := piece.SectionAt(ctx, s.DB, p, c.Section)
	if err != nil {
		return out, nil, err
	}
	wearer, err := s.Pieces.LoadWearer(ctx, s.DB, p)
	if err != nil {
		return out, nil, err
	}
	var cautions []string
	// What must not be used, for the whole kit, and neither on whom nor why: the
	// reason stands in the wearer's brief, for who may know it.
	for _, f := range wearer.Facts {
		if f.Speaks() {
			cautions = append(cautions, keepOff(wearer.List, f, shelf))
		}
	}
	result, err := s.Pieces.ResultOf(ctx, s.DB, p, doc, shelf)
	if err != nil {
		return out, nil, err
	}
	out.Layers = result.Words
	out.Order, out.Removal, out.Adhesive, out.Remover = steps(result)
	mind := func(p material.Product) {
		if p.Caution != "" && !slices.Contains(cautions, p.Name+": "+p.Caution) {
			cautions = append(cautions, p.Name+": "+p.Caution)
		}
	}
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if l.Kind != section.Skin {
			out.Parts = append(out.Parts, SheetPart{l.ID, shelf[l.Material].Name})
		}
		if onTheDay(l.Kind) {
			mind(shelf[l.Material])
		}
		if l.Kind == section.Adhesive {
			mind(shelf[shelf[l.Material].Remover])
		}
	})
	for _, g := range signed {
		words := g.ID + ", " + g.By
		if !people.Discreet(ctx) || !rules.Private(g.ID) {
			words += ": " + g.Reason
		}
		out.Signed = append(out.Signed, words)
	}
	if err := s.goneOn(ctx, c.Code, &out); err != nil {
		return out, nil, err
	}
	judged, err := s.judged(ctx, c.Code)
	if err != nil {
		return out, nil, err
	}
	for _, words := range judged {
		out.Signed = append(out.Signed, words)
		cautions = append(cautions, c.Code+": "+words)
	}
	err = s.DB.SelectContext(ctx, &out.Lots, `SELECT DISTINCT CONCAT(m.name, IF(l.part = '', '', CONCAT(' ', l.part)), ' ', l.code) FROM copy c JOIN run_mix rm ON rm.run_id = c.run_id JOIN mix_line n ON n.mix_id = rm.mix_id JOIN lot l ON l.id = n.lot_id JOIN material m ON m.id = l.material_id WHERE c.code = ?
		UNION SELECT CONCAT(m.name, IF(l.part = '', '', CONCAT(' ', l.part)), ' ', l.code) FROM copy c JOIN run_stage t ON t.run_id = c.run_id STRAIGHT_JOIN movement v ON v.stage_id = t.id STRAIGHT_JOIN lot l ON l.id = v.lot_id JOIN material m ON m.id = l.material_id WHERE c.code = ? ORDER BY 1`, c.Code, c.Code)
	if err != nil {
		return out, nil, err
	}
	if err := s.lotsBeside(ctx, kit, doc, shelf, &out); err != nil {
		return out, nil, err
	}
	out.TouchUps, err = s.Colours.ForTheDay(ctx, s.DB, p.Code)
	for i, t := range out.TouchUps {
		rgb, _ := t.Lab.SRGB()
		out.TouchUps[i].Hex = fmt.Sprintf("#%02x%02x%02x", rgb[0], rgb[1], rgb[2])
	}
	return out, cautions, err
}

// keepOff says what comes nowhere near anybody with this kit.
func keepOff(list substance.List, f substance.Fact, materials material.Shelf) string {
	name := f.Words
	if s, listed := list.Find(f.Code); listed {
		name = s.Name
	} else if p, known := materials[f.Code]; known {
		name = p.Name
	}
	switch {
	case f.Code == "latex":
		return "Must not be used on this wearer: natural rubber in any form, sponges, gloves and lash glue too. Nitrile gloves with this kit."
	case f.Code == "":
		return "Ask the shop before anything else than what is in this kit comes near skin: one thing is not settled."
	}
	return "Nothing with " + name + " near this kit's wearers: gloves, wipes, sponges and your own stock too. Not stated is not free of it."
}

// goneOn adds what was gone on against on the way to a copy: in its run, its
// mixes and its kit. What tells of a person's health is said without its reason.
func (s *Service) goneOn(ctx context.Context, code string, out *CopySheet) error {
	var rows []struct{ Rule, Who, Reason string }
	if err := s.DB.SelectContext(ctx, &rows, `SELECT g.rule, w.name AS who, g.reason FROM copy c JOIN run r ON r.id = c.run_id JOIN gone_on g ON g.piece_id = c.piece_id
		AND (g.kind = 'run' AND g.code = r.code OR g.kind = 'mix' AND g.code IN (SELECT x.code FROM run_mix rm JOIN mix x ON x.id = rm.mix_id WHERE rm.run_id = r.id) OR g.kind = 'kit' AND g.code IN (SELECT k.code FROM kit_copy kc JOIN kit k ON k.id = kc.kit_id WHERE kc.copy_id = c.id))
		JOIN person w ON w.id = g.person_id WHERE c.code = ? ORDER BY g.id`, code); err != nil {
		return fmt.Errorf("reading what was gone on against: %w", err)
	}
	for _, g := range rows {
		words := g.Rule + ", " + g.Who
		if !people.Discreet(ctx) || !rules.Private(g.Rule) {
			words += ": " + g.Reason
		}
		out.Signed = append(out.Signed, words)
	}
	return nil
}

// lotsBeside adds the lots that go with a kit for its day, and names what of the
// section nobody named a lot of.
func (s *Service) lotsBeside(ctx context.Context, kit uint64, doc section.Section, materials material.Shelf, out *CopySheet) error {
	var rows []struct{ Slug, Words string }
	if err := s.DB.SelectContext(ctx, &rows, `SELECT m.slug, CONCAT(m.name, ' ', l.code) AS words FROM kit_lot k JOIN lot l ON l.id = k.lot_id JOIN material m ON m.id = l.material_id WHERE k.kit_id = ? ORDER BY m.name`, kit); err != nil {
		return fmt.Errorf("reading the lots of the kit: %w", err)
	}
	with := map[string]string{}
	for _, r := range rows {
		with[r.Slug] = r.Words
	}
	had := func(name string) bool {
		return slices.ContainsFunc(out.Lots, func(l string) bool { return strings.HasPrefix(l, name+" ") })
	}
	say := func(slug string) {
		p, known := materials[slug]
		if !known || had(p.Name) {
			return
		}
		words := with[slug]
		if words == "" {
			words = p.Name + " (lot not named)"
		}
		out.Lots = append(out.Lots, words)
	}
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		if l.Kind == section.Skin {
			return
		}
		for _, slug := range l.Products() {
			say(slug)
		}
		if l.Kind == section.Adhesive {
			say(materials[l.Material].Remover)
		}
	})
	for _, slug := range doc.Touching {
		say(slug)
	}
	return nil
}

// judged says of a copy what its verdict lets go: that it was taken out before its time and
// how far it was, that it is kept for less than it was made for; by whom and why. Nothing
// of others.
func (s *Service) judged(ctx context.Context, code string) ([]string, error) {
	var row struct {
		At          *float64 `db:"early_at"`
		Use         string   `db:"use_as"`
		Who, Reason string
	}
	err := s.DB.GetContext(ctx, &row, `SELECT c.early_at, c.use_as, COALESCE(p.name, '') AS who, COALESCE(v.reason, '') AS reason FROM copy c
		LEFT JOIN verdict v ON v.id = (SELECT MAX(x.id) FROM verdict x WHERE x.copy_id = c.id AND x.verdict IN ('accept','downgrade') AND x.back_at IS NULL) LEFT JOIN person p ON p.id = v.person_id WHERE c.code = ?`, code)
	if err != nil {
		return nil, err
	}
	var out []string
	if row.At != nil {
		out = append(out, fmt.Sprintf("taken out at %.0f %% of its cure or drying; accepted by %s: %s", 100**row.At, row.Who, row.Reason))
	}
	if use := copies.UseText(row.Use); use != "" {
		out = append(out, fmt.Sprintf("%s by %s: %s", use, row.Who, row.Reason))
	}
	return out, nil
}

func sided(where, side string) string {
	switch side {
	case "L":
		return where + ", wearer's left"
	case "R":
		return where + ", wearer's right"
	}
	return where
}

// onTheDay are the layers that the artist handles.
func onTheDay(k section.Kind) bool {
	switch k {
	case section.Preparation, section.Barrier, section.Adhesive, section.Paint, section.Powder, section.Seal, section.WetLook, section.Blood:
		return true
	}
	return false
}

// steps turns the build-up into the order of putting the piece on and taking
// it off: what of its order of work is done at the chair.
func steps(r section.Result) (on, off []string, adhesive, remover string) {
	on = append(on, "Degrease the skin and let it dry; hair and lashes out of the way.")
	for _, step := range r.Steps {
		if step.Where == "chair" {
			on = append(on, step.Text)
		}
	}
	var glues, removers []string
	for _, f := range r.Fits {
		if !slices.Contains(glues, f.Adhesive) {
			glues = append(glues, f.Adhesive)
		}
		if f.Remover != "" && !slices.Contains(removers, f.Remover) {
			removers = append(removers, f.Remover)
			off = append(off, f.Off)
		}
	}
	if len(off) == 0 {
		off = append(off, "Ease it off with the remover that the workshop gave you. Never peel it dry.")
	}
	off = append(off, "Lift when it comes by itself, then clean and calm the skin.", "Redness that stays: stop, note it here and ask a licensed professional.")
	return on, off, strings.Join(glues, ", "), strings.Join(removers, ", ")
}

// WriteSheet draws a kit's sheet as PDF.
func (s *Service) WriteSheet(ctx context.Context, w io.Writer, k Kit) error {
	view, err := s.Sheet(ctx, k)
	if err != nil {
		return err
	}
	out := paper.Sheet{Kit: k.Code, Production: k.Production, Artist: k.Artist, Day: k.Day.Format("Monday 2 January 2006"), Place: k.Place, Note: k.Note,
		Shop: "Yewmoor", Printed: s.Clock.Now().Format("2 Jan 2006 15:04"), Cautions: view.Cautions}
	for _, c := range view.Copies {
		sc := paper.SheetCopy{Code: c.Code, Name: c.Name, Where: c.Where, Layers: c.Layers, Lots: c.Lots, Adhesive: c.Adhesive, Remover: c.Remover, Order: c.Order, Removal: c.Removal, Signed: c.Signed, As: c.As}
		for _, t := range c.TouchUps {
			rgb, _ := t.Lab.SRGB()
			sc.TouchUps = append(sc.TouchUps, paper.Swatch{Name: t.Name, Medium: t.Medium, Place: t.Place, R: rgb[0], G: rgb[1], B: rgb[2]})
		}
		out.Copies = append(out.Copies, sc)
	}
	return paper.WriteSheet(w, out)
}

// WriteLabels draws a label for every copy of a kit, to be tied to its box: what it is, where it goes and on which day. Its
// QR code leads where the kit's own does.
func (s *Service) WriteLabels(ctx context.Context, w io.Writer, k Kit, token string) error {
	view, err := s.Sheet(ctx, k)
	if err != nil {
		return err
	}
	link, err := s.linkOn(ctx, k, token)
	if err != nil {
		return err
	}
	list := []paper.Label{}
	for _, c := range view.Copies {
		list = append(list, paper.Label{Code: c.Code, Title: c.Name, Day: c.Where, Lines: []string{k.Code + ", " + k.Day.Format("2 Jan"), "on: " + cmp.Or(c.Adhesive, "as the sheet says"), "off: " + cmp.Or(c.Remover, "as the sheet says")}, Link: link})
	}
	return paper.WriteShelfLabels(w, list)
}

// WriteLabel draws a kit's label. Its QR code leads to the artist's page when
// a token is given that belongs to this kit, else to the kit in the shop.
func (s *Service) WriteLabel(ctx context.Context, w io.Writer, k Kit, token string) error {
	link, err := s.linkOn(ctx, k, token)
	if err != nil {
		return err
	}
	label := paper.Label{Code: k.Code, Title: k.Production, Day: k.Day.Format("Mon 2 Jan") + ", " + k.Place, Link: link}
	for _, c := range k.Copies {
		label.Lines = append(label.Lines, c.Code+"  "+c.Name)
	}
	return paper.WriteLabel(w, label)
}

func (s *Service) linkOn(ctx context.Context, k Kit, token string) (string, error) {
	if token != "" {
		mine, err := s.byToken(ctx, s.DB, token)
		if err != nil {
			return "", err
		}
		if mine.Code == k.Code {
			return s.artistURL(token), nil
		}
	}
	return strings.TrimRight(s.PublicURL, "/") + "/handover/" + k.Code, nil
}
