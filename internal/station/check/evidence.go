package check

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"net/url"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/finish/fault"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// Known is one thing that speaks on a fault: from the copy's own record with a link to it,
// or as somebody answered.
type Known struct {
	Evidence string `json:"evidence"`
	State    string `json:"state"`
	Words    string `json:"words"`
	Source   string `json:"source" enum:"record,answered"`
	Link     string `json:"link,omitempty"`
}

// record is what is read of a copy to say what speaks for which cause.
type record struct {
	db        database.Reader
	f         Fault
	doc       section.Section
	materials material.Shelf
	findings  []rules.Finding
	run       runRow
	list      []Known
}

type runRow struct {
	ID        uint64
	Code      string
	Way       string
	StartedAt time.Time  `db:"started_at"`
	EndedAt   *time.Time `db:"ended_at"`
	EarlyAt   *float64   `db:"early_at"`
	MadeAt    time.Time  `db:"made_at"`
	Mould     *string
	Life      *int
	Casts     int
	Release   string `db:"release_agent"`
}

// add notes a state of an evidence, with the words and where it stands.
func (r *record) add(id, state, words, link string) {
	e, known := fault.EvidenceOf(id)
	if !known || !e.Knows(state) || slices.ContainsFunc(r.list, func(k Known) bool { return k.Evidence == id }) {
		return
	}
	if r.f.Material != "" && !fault.Fits(e.Materials, r.f.Material) {
		return
	}
	r.list = append(r.list, Known{Evidence: id, State: state, Words: words, Source: "record", Link: link})
}

// number notes a number by its state.
func (r *record) number(id string, x float64, words, link string) {
	if e, known := fault.EvidenceOf(id); known {
		r.add(id, e.Of(x), words, link)
	}
}

func (r *record) truth(id string, is bool, yes, no, words, link string) {
	r.add(id, map[bool]string{true: yes, false: no}[is], words, link)
}

// told is everything that is known of a fault; an answer counts before the record.
func (s *Service) told(ctx context.Context, f Fault) ([]Known, error) {
	p, err := piece.Find(ctx, s.DB, f.Piece)
	if err != nil {
		return nil, err
	}
	r := &record{db: s.DB, f: f}
	answers := map[string]string{}
	if err := json.Unmarshal([]byte(f.RawAnswers), &answers); err != nil {
		return nil, err
	}
	for _, id := range sorted(answers) {
		e, _ := fault.EvidenceOf(id)
		r.list = append(r.list, Known{Evidence: id, State: answers[id], Words: e.Ask, Source: "answered"})
	}
	if r.materials, err = shelf.Load(ctx, s.DB); err != nil {
		return nil, err
	}
	var number int
	if err := s.DB.GetContext(ctx, &number, `SELECT COALESCE(section_number, 0) FROM copy WHERE id = ?`, f.CopyID); err != nil {
		return nil, err
	}
	if r.doc, _, number, err = piece.SectionAt(ctx, s.DB, p, number); err != nil {
		return nil, err
	}
	sectioned := number > 0
	if sectioned {
		c, err := s.Pieces.Work(ctx, s.DB, p, r.doc)
		if err != nil {
			return nil, err
		}
		r.findings = c.Findings
	}
	if err := s.DB.GetContext(ctx, &r.run, `SELECT r.id, r.code, r.way, r.started_at, r.ended_at, c.early_at, c.made_at, u.code AS mould, u.life, COALESCE(u.release_agent, '') AS release_agent,
		(SELECT COUNT(*) FROM copy o WHERE o.mould_id = c.mould_id AND o.id <= c.id) AS casts FROM copy c JOIN run r ON r.id = c.run_id LEFT JOIN mould u ON u.id = c.mould_id WHERE c.id = ?`, f.CopyID); err != nil {
		return nil, err
	}
	for _, read := range []func(context.Context) error{r.mixes, r.lots, r.room, r.coats, r.tried} {
		if err := read(ctx); err != nil {
			return nil, fmt.Errorf("reading what speaks for a cause: %w", err)
		}
	}
	r.out()
	if err := s.mould(ctx, r); err != nil {
		return nil, err
	}
	if sectioned { // without one nothing is said of what it would say
		r.section(p)
	}
	return r.list, s.bench(ctx, r)
}

// mixes read what was weighed: how far the ratio is off, pigment and softener, the time in
// the pot, and steps that the recipe asked for.
func (r *record) mixes(ctx context.Context) error {
	var lines []struct {
		Mix      string
		Material string
		Planned  float64
		Weighed  float64
		Contact  *time.Time
	}
	if err := r.db.SelectContext(ctx, &lines, `SELECT x.code AS mix, m.slug AS material, n.planned_g AS planned, COALESCE((SELECT SUM(w.grams) FROM weigh_in w WHERE w.mix_line_id = n.id), 0) AS weighed, x.contact_at AS contact
		FROM run_mix rm JOIN mix x ON x.id = rm.mix_id JOIN mix_line n ON n.mix_id = COALESCE(x.parent_id, x.id) JOIN material m ON m.id = n.material_id WHERE rm.run_id = ? ORDER BY x.id, n.seq`, r.run.ID); err != nil {
		return err
	}
	var worst, parts, pigment, softener float64
	at, link := "", ""
	lo, hi := math.Inf(1), 0.0
	for _, l := range lines {
		if l.Mix != at {
			at, lo, hi = l.Mix, math.Inf(1), 0
		}
		link = "/mix?mix=" + url.QueryEscape(l.Mix)
		switch family := r.materials[l.Material].Family; {
		case family == material.Pigment || family == material.Flock:
			pigment += l.Weighed
		case family == material.Softener:
			softener += l.Weighed
		case l.Planned > 0 && l.Weighed > 0:
			share := l.Weighed / l.Planned
			lo, hi, parts = math.Min(lo, share), math.Max(hi, share), parts+l.Weighed
			worst = math.Max(worst, 100*(hi/lo-1))
		}
	}
	if parts == 0 {
		return nil
	}
	if len(lines) > 1 {
		r.number("ratio_error_pct", worst, fmt.Sprintf("weighed ratio %.1f %% off", worst), link)
	}
	r.number("pigment_pct", 100*pigment/parts, fmt.Sprintf("%.1f %% pigment and flock", 100*pigment/parts), link)
	r.number("softener_pct", 100*softener/parts, fmt.Sprintf("%.0f %% softener", 100*softener/parts), link)
	if p := r.materials[lines[0].Material]; p.Cure != nil && p.Cure.PotS > 0 && lines[0].Contact != nil && r.run.StartedAt.After(*lines[0].Contact) {
		share := r.run.StartedAt.Sub(*lines[0].Contact).Seconds() / p.Cure.PotS
		r.number("pour_share", share, fmt.Sprintf("poured after %.0f %% of its pot life", 100*share), link)
	}
	return nil
}

// lots read how old what went in was, whether it was its first use, and what else came of it.
func (r *record) lots(ctx context.Context) error {
	var lots []struct {
		Code               string
		Received, Expires  time.Time
		Used               time.Time
		Before, SameFaults int
	}
	if err := r.db.SelectContext(ctx, &lots, `SELECT l.code, l.received_on AS received, l.expires_on AS expires, x.planned_at AS used,
		(SELECT COUNT(*) FROM mix_line o WHERE o.lot_id = l.id AND o.mix_id < x.id) AS `+"`before`"+`,
		(SELECT COUNT(DISTINCT f.copy_id) FROM mix_line o JOIN run_mix b ON b.mix_id = o.mix_id JOIN copy c ON c.run_id = b.run_id JOIN fault f ON f.copy_id = c.id WHERE o.lot_id = l.id AND f.fault = ? AND f.copy_id <> ?) AS samefaults
		FROM run_mix rm JOIN mix x ON x.id = rm.mix_id JOIN mix_line n ON n.mix_id = COALESCE(x.parent_id, x.id) JOIN lot l ON l.id = n.lot_id WHERE rm.run_id = ?`, r.f.Fault, r.f.CopyID, r.run.ID); err != nil || len(lots) == 0 {
		return err
	}
	oldest, code := -1.0, ""
	fresh, others := "", ""
	for _, l := range lots {
		life := math.Max(1, l.Expires.Sub(l.Received).Hours())
		if age := l.Used.Sub(l.Received).Hours() / life; age > oldest {
			oldest, code = age, l.Code
		}
		if l.Before == 0 {
			fresh = l.Code
		}
		if l.SameFaults > 0 {
			others = l.Code
		}
	}
	link := "/stores?lot=" + url.QueryEscape(code)
	r.number("lot_age", oldest, fmt.Sprintf("lot %s at %.0f %% of its life", code, 100*oldest), link)
	if fresh != "" {
		link = "/stores?lot=" + url.QueryEscape(fresh)
	}
	r.truth("lot_new", fresh != "", "yes", "no", map[bool]string{true: "first use of lot " + fresh, false: "lots that were used before"}[fresh != ""], link)
	r.truth("lot_others", others != "", "some", "none", map[bool]string{true: "other copies from lot " + others + " show the same", false: "no other copy from its lots shows it"}[others != ""], link)
	return nil
}

// room reads the air while it set.
func (r *record) room(ctx context.Context) error {
	until := r.f.At
	if r.run.EndedAt != nil {
		until = *r.run.EndedAt
	}
	var air struct {
		N        int
		Temp, RH float64
	}
	if err := r.db.GetContext(ctx, &air, `SELECT COUNT(*) AS n, COALESCE(AVG(temp_c), 0) AS temp, COALESCE(AVG(rh), 0) AS rh FROM room_reading WHERE at BETWEEN ? AND ?`, r.run.StartedAt, until); err != nil || air.N == 0 {
		return err
	}
	link := "/build?run=" + url.QueryEscape(r.run.Code)
	r.number("room_c", air.Temp, fmt.Sprintf("room at %.1f °C while it set", air.Temp), link)
	r.number("rh", air.RH, fmt.Sprintf("%.0f %% RH while it set", 100*air.RH), link)
	return nil
}

// coats read whether somebody went on before the layer below was ready.
func (r *record) coats(ctx context.Context) error {
	if r.run.Way != "coats" && r.run.Way != "slush" {
		return nil
	}
	var early int
	if err := r.db.GetContext(ctx, &early, `SELECT COUNT(*) FROM gone_on WHERE kind = 'run' AND code = ? AND rule IN ('SEQ-1','SEQ-2')`, r.run.Code); err != nil {
		return err
	}
	if err := r.db.GetContext(ctx, &early, `SELECT ? + COUNT(*) FROM run_stage g WHERE g.run_id = ? AND g.expected_s > 0 AND EXISTS (SELECT 1 FROM run_stage n WHERE n.run_id = g.run_id AND n.seq = g.seq + 1
		AND n.done_at IS NOT NULL AND g.done_at IS NOT NULL AND TIMESTAMPDIFF(SECOND, g.done_at, n.done_at) < 0.8 * g.expected_s)`, early, r.run.ID); err != nil {
		return err
	}
	link := "/build?run=" + url.QueryEscape(r.run.Code)
	r.truth("recoat_f", early > 0, "early", "dry", map[bool]string{true: "a coat went on before the one below was ready", false: "every coat waited its time"}[early > 0], link)
	return nil
}

// out reads how far it was when it came out.
func (r *record) out() {
	link := "/build?run=" + url.QueryEscape(r.run.Code)
	share, words := 1.0, "had its time when it was taken out"
	if r.run.EarlyAt != nil {
		share, words = *r.run.EarlyAt, fmt.Sprintf("taken out at %.0f %% of its time", 100**r.run.EarlyAt)
	}
	switch r.f.Material {
	case "foam_latex":
		r.number("bake_index", share, words, link)
	case "latex", "paste":
		r.number("dry_f", 1-share, words, link)
	default:
		r.number("cure_index", share, words, link)
	}
	days := r.f.At.Sub(r.run.MadeAt).Hours() / 24
	r.number("store_days", days, fmt.Sprintf("lain for %.0f days", days), "")
	r.number("age_months", days/30, fmt.Sprintf("%.0f days old", days), "")
}

// mould reads what it was cast in: dry or not, how worn, its seal and release.
func (s *Service) mould(ctx context.Context, r *record) error {
	if r.run.Mould == nil {
		return nil
	}
	code, link := *r.run.Mould, "/mould?mould="+url.QueryEscape(*r.run.Mould)
	if r.f.MouldID != nil {
		share, known, err := s.Moulds.StoodAt(ctx, s.DB, *r.f.MouldID, r.run.StartedAt.UTC().Format("2006-01-02 15:04:05.999999"))
		if err != nil {
			return err
		}
		if known {
			state := "dry"
			switch {
			case share > 1.05:
				state = "wet"
			case share > 1.01:
				state = "damp"
			}
			r.add("mould_wet", state, fmt.Sprintf("%s weighed %.1f %% over its dry mass", code, 100*math.Max(0, share-1)), link)
		}
	}
	if r.run.Life != nil && *r.run.Life > 0 {
		r.number("mould_turns", float64(r.run.Casts)/float64(*r.run.Life), fmt.Sprintf("cast %d of %d from %s", r.run.Casts, *r.run.Life, code), link)
	}
	// What nobody wrote down was not looked at: it speaks for nothing.
	if words := strings.TrimSpace(r.run.Release + " " + r.materials[r.doc.Made.Release].Name); words != "" {
		r.add("release", "right", "release: "+words, link)
	}
	if r.doc.Made.Sealed {
		r.add("mould_sealed", "yes", "the section says that it is sealed", link)
	}
	return nil
}

// section reads what the agreed section and the rule book say of it.
func (r *record) section(p piece.Piece) {
	link := "/piece/" + url.PathEscape(p.Code)
	said := func(ids ...string) string {
		for _, f := range r.findings {
			if slices.Contains(ids, f.ID) {
				return f.Reason
			}
		}
		return ""
	}
	for _, c := range []struct {
		evidence, bad, good, words string
		rules                      []string
	}{
		{"inhibitor_near", "yes", "no", "nothing near it that stops the cure", []string{"INH-1", "INH-2", "INH-3"}},
		{"medium_fits", "no", "yes", "its colours suit their ground", []string{"MED-1", "MED-3", "MED-4", "MED-6", "MED-8"}},
		{"adhesive_fits", "no", "yes", "the adhesive holds it", []string{"ADH-1"}},
		{"set_below", "no", "yes", "layers are set before the next", []string{"MED-5", "SEQ-2"}},
		{"margin_k", "tight", "good", "well below softening when worn", []string{"GEL-2", "WAX-3"}},
		{"metal", "yes", "no", "no copper or brass by the record", []string{"LAT-1"}},
	} {
		if why := said(c.rules...); why != "" {
			r.add(c.evidence, c.bad, why, link)
		} else {
			r.add(c.evidence, c.good, c.words, link)
		}
	}
	r.truth("moving", movesMuch(p.Region), "yes", "no", map[bool]string{true: "the place moves much", false: "the place moves little"}[movesMuch(p.Region)], "/brief/"+url.PathEscape(p.Code))
	coats, sealed, barrier, glue, last := 0, false, false, false, section.Kind("")
	r.doc.All(func(_ section.Cut, _ int, l section.Layer) {
		switch l.Kind {
		case section.Paint:
			coats += max(1, l.MostCoats())
		case section.Seal, section.Encapsulator:
			sealed = true
		case section.Barrier:
			barrier = true
		case section.Adhesive:
			glue = true
		}
		last = l.Kind
	})
	r.number("paint_coats", float64(coats), fmt.Sprintf("%d coats of colour in its section", coats), link)
	r.truth("sealed", sealed, "yes", "no", map[bool]string{true: "a seal lies in its section", false: "no seal in its section"}[sealed], link)
	r.truth("barrier", barrier, "yes", "no", map[bool]string{true: "a barrier lies under it", false: "no barrier under it"}[barrier], link)
	r.truth("glued_below", glue, "yes", "no", map[bool]string{true: "glue lies under it", false: "no glue under it"}[glue], link)
	r.truth("last_powder", last == section.Powder, "yes", "no", map[bool]string{true: "powder comes last", false: "powder does not come last"}[last == section.Powder], link)
}

// tried reads what was measured on the copy itself.
func (r *record) tried(ctx context.Context) error {
	list, err := tests(ctx, r.db, r.f.CopyID)
	if err != nil {
		return err
	}
	link := "/check/" + url.PathEscape(r.f.Copy)
	for _, t := range slices.Backward(list) {
		switch {
		case t.Value == nil:
		case t.What == "edge":
			r.number("edge_mm", *t.Value, fmt.Sprintf("edge %.2f mm by the calliper", *t.Value), link)
		case t.What == "flash":
			r.number("flash_mm", *t.Value, fmt.Sprintf("flash %.2f mm", *t.Value), link)
		case t.What == "thickness":
			r.number("wall_mm", *t.Value, fmt.Sprintf("%.2f mm thick in the middle", *t.Value), link)
		}
	}
	return nil
}

// bench reads what the finishing bench counted and measured.
func (s *Service) bench(ctx context.Context, r *record) error {
	stand, err := s.Finish.Stand(ctx, s.DB, r.f.Copy)
	if err != nil {
		return err
	}
	link := "/finish/" + url.PathEscape(r.f.Copy)
	if stand.EdgeMM != nil {
		r.number("edge_mm", *stand.EdgeMM, fmt.Sprintf("a step of %.2f mm at the edge", *stand.EdgeMM), link)
	}
	if stand.HairShare != nil {
		r.number("hair_share", *stand.HairShare, fmt.Sprintf("%.0f %% of its hair is in", 100**stand.HairShare), link)
	}
	if stand.Load != nil {
		r.number("ins_load", *stand.Load, fmt.Sprintf("its fixings bear %.0f %% of what they can", 100**stand.Load), link)
	}
	if stand.Passes != nil {
		r.number("solvent_passes", *stand.Passes, fmt.Sprintf("%.0f passes of solvent at one stretch", *stand.Passes), link)
	}
	r.truth("organic", stand.Organic, "yes", "no", map[bool]string{true: "plant or food in its finish plan", false: "nothing of plant or food in its finish plan"}[stand.Organic], link)
	return nil
}
