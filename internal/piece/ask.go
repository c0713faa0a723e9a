package piece

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/shelf"
)

// Mould is a registered mould as the rules see it: what it is made of, as they
// call it, and what parts a cast from it.
type Mould struct{ Of, Release string }

// AskRules asks the rule book inside an act that puts something on a wearer, a
// piece or a mould: the agreed section that it is done by, under what is known
// now. A never stops the act for good; a stop that nobody signed with the
// version wants a lead's reason now (Meet). number 0 is a section from before versions were kept with
// runs: the newest is asked, and there is nothing to ask where none is agreed.
// about is the thing of the act. moulds are those that are really used: what the section says of its mould and
// release is a plan.
func (s *Service) AskRules(ctx context.Context, tx database.Tx, p Piece, number int, about journal.Entry, moulds ...Mould) error {
	doc, signed, number, err := SectionAt(ctx, tx, p, number)
	if err != nil || number == 0 {
		return err
	}
	if len(moulds) == 0 {
		return s.ask(ctx, tx, p, doc, signed, about)
	}
	for _, m := range moulds {
		if err := s.ask(ctx, tx, p, m.in(doc), signed, about); err != nil {
			return err
		}
	}
	return nil
}

// AskLeaving asks once more when a thing leaves the shop: a never holds it here, and so does a stop that neither the
// section's version nor the thing itself was signed for. Warnings were met when it was packed.
func (s *Service) AskLeaving(ctx context.Context, tx database.Tx, p Piece, number int, about journal.Entry) error {
	doc, signed, number, err := SectionAt(ctx, tx, p, number)
	if err != nil || number == 0 {
		return err
	}
	c, err := s.Work(ctx, tx, p, doc)
	if err != nil {
		return err
	}
	var open []rules.Finding
	for _, f := range c.Findings {
		if f.Severity != rules.Never && (f.Severity != rules.Stop || isSigned(f, c.Findings, signed)) {
			continue
		}
		n := 0
		if f.Severity == rules.Stop { // index gone_on_thing
			if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM gone_on WHERE kind = ? AND code = ? AND rule = ? AND place = ? AND piece_id = ?`,
				about.Kind, about.Code, f.ID, f.At(), p.ID); err != nil {
				return err
			}
		}
		if n == 0 {
			open = append(open, f)
		}
	}
	return Meet(ctx, tx, about, open...)
}

// Forbids is the worst that the rule book has against making a piece by its agreed section now: a never, or a stop that nobody signed
// with the version. None where nothing stands against it, or no section is agreed.
func (s *Service) Forbids(ctx context.Context, p Piece) (*rules.Finding, error) {
	doc, signed, number, err := SectionAt(ctx, s.DB, p, 0)
	if err != nil || number == 0 {
		return nil, err
	}
	c, err := s.Work(ctx, s.DB, p, doc)
	if err != nil {
		return nil, err
	}
	var worst *rules.Finding
	for i, f := range c.Findings {
		if f.Severity == rules.Never {
			return &c.Findings[i], nil
		}
		if f.Severity == rules.Stop && !isSigned(f, c.Findings, signed) && worst == nil {
			worst = &c.Findings[i]
		}
	}
	return worst, nil
}

// in is a section as it is when it is made in this mould.
func (m Mould) in(doc section.Section) section.Section {
	used := doc
	if used.Made.Of != m.Of {
		// Of another mould nobody said that it is sealed.
		used.Made.Of, used.Made.Sealed = m.Of, false
	}
	if used.Made.Release == "" && (m.Release != "" || doc.Made.Of == "") {
		// What is written on a mould is free words; the book asks whether there is one.
		// Where neither mould nor section says a word of it, it is not known, and
		// nobody is kept from pouring for it.
		used.Made.Release = "release-wax"
	}
	return used
}

// AskMould asks what a mould that is registered brings up against the agreed
// section that its section's own plan does not: registered it may be with a
// reason, as one that will be sealed; whoever pours into it is asked again.
func (s *Service) AskMould(ctx context.Context, tx database.Tx, p Piece, m Mould) error {
	doc, _, number, err := AgreedSection(ctx, tx, p)
	if err != nil || number == 0 {
		return err
	}
	planned, err := s.Work(ctx, tx, p, doc)
	if err != nil {
		return err
	}
	used, err := s.Work(ctx, tx, p, m.in(doc))
	if err != nil {
		return err
	}
	had := map[string]bool{}
	for _, f := range planned.Findings {
		had[f.Key()] = true
	}
	var open []rules.Finding
	for _, f := range used.Findings {
		if !had[f.Key()] && f.Severity != rules.Tip {
			f.Severity = rules.Warn
			open = append(open, f)
		}
	}
	return Meet(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: p.Code}, open...)
}

// AskStuff asks about products that come into an act beside the section's own
// layers, of which AskRules asks: additions, touch-up colours. The wearer is
// asked about them, and about all of them whoever does it.
func (s *Service) AskStuff(ctx context.Context, tx database.Tx, p Piece, number int, about journal.Entry, slugs ...string) error {
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	doc, _, _, err := SectionAt(ctx, tx, p, number)
	if err != nil {
		return err
	}
	w, err := s.LoadWearer(ctx, tx, p)
	if err != nil {
		return err
	}
	var beside []string
	for _, slug := range slugs {
		in := false
		doc.All(func(_ section.Cut, _ int, l section.Layer) { in = in || slices.Contains(l.Products(), slug) })
		if !in {
			beside = append(beside, slug)
		}
	}
	who, _ := accounts.From(ctx)
	mine, err := s.Hands(ctx, tx, people.Owner{Kind: "person", ID: who.ID}, who.Name, slugs...)
	if err != nil {
		return err
	}
	return Meet(ctx, tx, about, append(rules.Stuff(w, materials, beside...), mine...)...)
}

// AskHands asks about products that somebody handles for no piece: whoever does it.
func (s *Service) AskHands(ctx context.Context, tx database.Tx, about journal.Entry, slugs ...string) error {
	who, _ := accounts.From(ctx)
	mine, err := s.Hands(ctx, tx, people.Owner{Kind: "person", ID: who.ID}, who.Name, slugs...)
	if err != nil {
		return err
	}
	return Meet(ctx, tx, about, mine...)
}

// Hands is what speaks against giving somebody work with these products.
func (s *Service) Hands(ctx context.Context, db database.Reader, of people.Owner, name string, slugs ...string) ([]rules.Finding, error) {
	facts, err := people.FactsOf(ctx, db, of)
	if err != nil || len(facts) == 0 {
		return nil, err
	}
	list, materials, err := shelf.Both(ctx, db)
	if err != nil {
		return nil, err
	}
	return rules.Hands(list, facts, materials, name, slugs...), nil
}

// AskTop asks the rule book about one more thing on top of a piece: a touch-up
// colour, as it lies on the agreed section. Where none is agreed there is no
// ground to ask about, and the wearer alone is asked.
func (s *Service) AskTop(ctx context.Context, tx database.Tx, p Piece, slug string) error {
	doc, _, number, err := AgreedSection(ctx, tx, p)
	if err != nil {
		return err
	}
	if number == 0 {
		doc = section.Start(0)
	}
	c, _, err := s.ruleCase(ctx, tx, p, doc, since{})
	if err != nil {
		return err
	}
	return Meet(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: p.Code}, rules.Top(c, slug)...)
}

func (s *Service) ask(ctx context.Context, tx database.Tx, p Piece, doc section.Section, signed []document.Signature, about journal.Entry) error {
	c, err := s.Work(ctx, tx, p, doc)
	if err != nil {
		return err
	}
	var open []rules.Finding
	for _, f := range c.Findings {
		if f.Severity == rules.Never || f.Severity == rules.Stop && !isSigned(f, c.Findings, signed) {
			open = append(open, f)
		}
	}
	return Meet(ctx, tx, about, open...)
}

// asked is everything that the consequence of a section follows from, so that
// the same question gets the answer that was worked out for it. The record grows
// with every act, by whichever server: what counts is its last act on a piece of
// the same wearer or character, or on none; what the rest of the shop does to
// other pieces changes nothing here. Drafts are not acts, so that the person's
// own stand beside it, by their stamps.
type asked struct {
	Piece   string
	Doc     string // digest
	Record  uint64
	Drafts  string
	Scans   string
	Room    section.Room
	Today   int
	Changed string // of the shelf
	// Discreet answers leave out what the one who asks may not know.
	Discreet bool
}

// room is the air that a section is worked out in: the last reading to half a
// degree and two percent. That is what a room sensor is good for, and moves a
// drying time by a few percent of itself where its band is −30/+50 %; so the
// answer stands until the air has really changed.
func (s *Service) room(ctx context.Context, db database.Reader) (section.Room, error) {
	at, _, err := s.Air.Now(ctx, db)
	return section.Room{TempC: math.Round(at.TempC*2) / 2, RH: math.Round(at.RH*50) / 50}, err
}

func (s *Service) asked(ctx context.Context, db database.Reader, p Piece, doc section.Section) (asked, error) {
	raw, err := json.Marshal(doc)
	if err != nil {
		return asked{}, err
	}
	sum := sha256.Sum256(raw)
	out := asked{Discreet: people.Discreet(ctx), Piece: p.Code, Doc: hex.EncodeToString(sum[:]), Today: clock.DayNumber(s.Clock.Now())}
	if out.Room, err = s.room(ctx, db); err != nil {
		return out, err
	}
	if out.Drafts, err = document.StampOf(ctx, db); err != nil {
		return out, fmt.Errorf("asking whether a draft changed: %w", err)
	}
	at, err := s.since(ctx, db, p)
	if err != nil {
		return out, err
	}
	out.Record, out.Scans, out.Changed = at.Record, at.Scans, at.Changed
	return out, nil
}

// since tells up to which act, which scan and which state of the shelf something of a
// piece is read now.
func (s *Service) since(ctx context.Context, db database.Reader, p Piece) (since, error) {
	var out since
	// A scan is measured by a job, which is no act. Those of the whole character,
	// whose pieces are weighed together; index scan_of_piece.
	if err := db.GetContext(ctx, &out.Scans, `SELECT CONCAT(COALESCE(MAX(s.id), 0), '/', COALESCE(SUM(j.state = 'done'), 0), '/', COALESCE(SUM(s.version), 0)) FROM scan s LEFT JOIN job j ON j.id = s.measure_job WHERE s.piece_id IN (SELECT o.id FROM piece q JOIN piece o ON o.character_id = q.character_id WHERE q.id = ?)`, p.ID); err != nil {
		return out, fmt.Errorf("asking whether a scan was measured: %w", err)
	}
	var row struct {
		Record  uint64
		Changed string
	}
	// The record from its end, index journal_piece of a handful of pieces, and
	// index material_changed.
	if err := db.GetContext(ctx, &row, "SELECT GREATEST(COALESCE((SELECT id FROM journal FORCE INDEX (PRIMARY) WHERE piece_id IS NULL ORDER BY id DESC LIMIT 1), 0), COALESCE((SELECT MAX(j.id) FROM `character` h STRAIGHT_JOIN piece q ON q.character_id = h.id STRAIGHT_JOIN journal j ON j.piece_id = q.id WHERE h.id = (SELECT character_id FROM piece WHERE id = ?) OR h.performer_id = ?), 0)) AS record, COALESCE((SELECT CONCAT(COUNT(*), ' ', MAX(changed_at)) FROM material), '') AS changed", p.ID, p.PerformerID); err != nil {
		return out, fmt.Errorf("asking whether anything changed: %w", err)
	}
	out.Record, out.Changed = row.Record, row.Changed
	return out, nil
}
