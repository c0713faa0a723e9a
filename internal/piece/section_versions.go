package piece

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// SectionVersion is one state of a section that can be compared: an agreed
// version, somebody's draft, or what was built.
type SectionVersion struct {
	Key    string               `json:"key" doc:"a number for an agreed version, draft, draft:LOGIN, or built:COPY"`
	What   string               `json:"what" enum:"planned,agreed,built"`
	Text   string               `json:"text"`
	Number int                  `json:"number" doc:"of an agreed version, or the one that it rests on"`
	At     time.Time            `json:"at"`
	By     string               `json:"by"`
	Reason string               `json:"reason" doc:"why what was built differs"`
	Signed []document.Signature `json:"signed"`
}

// SectionVersions lists every state of a section: drafts first, then agreed
// versions newest first, then what was built.
func (s *Service) SectionVersions(ctx context.Context, code string) ([]SectionVersion, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	list := []SectionVersion{}
	drafts, err := document.Drafts(ctx, s.DB, p.section())
	if err != nil {
		return nil, err
	}
	for _, d := range drafts {
		v := SectionVersion{Key: "draft:" + d.Login, What: "planned", Text: d.Name + "'s draft", Number: d.Base, At: d.At, By: d.Name, Signed: []document.Signature{}}
		if d.Mine {
			v.Key, v.Text = "draft", "your draft"
		}
		list = append(list, v)
	}
	versions, err := document.Versions(ctx, s.DB, p.section(), 60)
	if err != nil {
		return nil, err
	}
	for _, r := range versions {
		list = append(list, SectionVersion{Key: strconv.Itoa(r.Number), What: "agreed", Text: fmt.Sprintf("§%d", r.Number), Number: r.Number, At: r.AgreedAt, By: r.By, Signed: r.Signed})
	}
	made, err := s.builtCopies(ctx, s.DB, p.ID)
	if err != nil {
		return nil, err
	}
	for _, c := range made {
		v := SectionVersion{Key: "built:" + c.Code, What: "built", Text: c.Code + " as built", Number: c.Number, At: c.MadeAt, By: c.By, Signed: []document.Signature{}}
		if c.Reason != nil {
			v.Reason = *c.Reason
		} else {
			v.Text = fmt.Sprintf("%s, built to §%d", c.Code, c.Number)
		}
		list = append(list, v)
	}
	return list, nil
}

// builtCopy is a copy with the version it was made from.
type builtCopy struct {
	ID     uint64
	Code   string
	State  copies.State
	Number int
	MadeAt time.Time `db:"made_at"`
	By     string    `db:"by_name"`
	Doc    *string
	Reason *string
}

// builtCopies reads the newest copies of a piece, what was built counted before
// what was planned. Index copy_once.
func (s *Service) builtCopies(ctx context.Context, db database.Reader, piece uint64) ([]builtCopy, error) {
	var list []builtCopy
	err := db.SelectContext(ctx, &list, `SELECT c.id, c.code, c.state, COALESCE(c.section_number, 0) AS number, c.made_at, COALESCE(pb.name, pr.name) AS by_name, b.doc, b.reason
		FROM copy c JOIN run r ON r.id = c.run_id JOIN person pr ON pr.id = r.person_id
		LEFT JOIN built_section b ON b.id = (SELECT MAX(x.id) FROM built_section x WHERE x.copy_id = c.id) LEFT JOIN person pb ON pb.id = b.noted_by
		WHERE c.piece_id = ? ORDER BY c.number DESC LIMIT 60`, piece)
	if err != nil {
		return nil, fmt.Errorf("reading what was built: %w", err)
	}
	return list, nil
}

// sectionAt reads a state of a section by its key.
func (s *Service) sectionAt(ctx context.Context, p Piece, key string) (section.Section, error) {
	var doc section.Section
	var raw json.RawMessage
	login, drafted := strings.CutPrefix(key, "draft:")
	code, built := strings.CutPrefix(key, "built:")
	number, agreed := 0, false
	if n, err := strconv.Atoi(key); err == nil && n > 0 {
		number, agreed = n, true
	}
	switch {
	case key == "draft":
		d, _, err := document.Read(ctx, s.DB, p.section())
		if err != nil {
			return doc, err
		}
		raw = d
	case drafted:
		drafts, err := document.Drafts(ctx, s.DB, p.section())
		if err != nil {
			return doc, err
		}
		if i := slices.IndexFunc(drafts, func(d document.Draft) bool { return d.Login == login }); i >= 0 {
			raw = drafts[i].Doc
		}
	case built:
		made, err := s.builtCopies(ctx, s.DB, p.ID)
		if err != nil {
			return doc, err
		}
		for _, c := range made {
			if c.Code == code && c.Doc != nil {
				raw = json.RawMessage(*c.Doc)
			} else if c.Code == code {
				number, agreed = c.Number, true
			}
		}
	}
	if agreed {
		v, _, err := document.At(ctx, s.DB, p.section(), number)
		if err != nil {
			return doc, err
		}
		raw = v.Doc
	}
	if raw == nil {
		return doc, problem.NotFound("section", p.Code+" "+key)
	}
	return doc, json.Unmarshal(raw, &doc)
}

// SectionDifference is what changed between two states of a section.
type SectionDifference struct {
	From        string               `json:"from"`
	To          string               `json:"to"`
	Differences []section.Difference `json:"differences"`
	Was         Figures              `json:"was"`
	Is          Figures              `json:"is"`
	Effects     []Effect             `json:"effects" doc:"what the newer one means for what is already made"`
	Doc         section.Section      `json:"doc" doc:"the newer state"`
}

// Figures are what a state of a section comes to.
type Figures struct {
	CentreMM float64 `json:"centre_mm"`
	EdgeMM   float64 `json:"edge_mm"`
	WornG    float64 `json:"worn_g"`
	HandsS   float64 `json:"hands_s"`
	WaitingS float64 `json:"waiting_s"`
	Minor    int64   `json:"cost_minor"`
}

// Effect is what a change means for one copy.
type Effect struct {
	Copy  string       `json:"copy"`
	State copies.State `json:"state"`
	Built int          `json:"built" doc:"the version that it was made from"`
	What  string       `json:"what" enum:"as it is,sheet only,can be done,open again,another piece"`
	Text  string       `json:"text"`
}

// Differences compares two states of a section.
func (s *Service) Differences(ctx context.Context, code, from, to string) (SectionDifference, error) {
	p, err := Find(ctx, s.DB, code)
	if err != nil {
		return SectionDifference{}, err
	}
	out := SectionDifference{From: from, To: to, Effects: []Effect{}}
	was, err := s.sectionAt(ctx, p, from)
	if err != nil {
		return out, err
	}
	if out.Doc, err = s.sectionAt(ctx, p, to); err != nil {
		return out, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	figures := func(d section.Section) (Figures, error) {
		r, err := s.ResultOf(ctx, s.DB, p, d, materials)
		return Figures{r.CentreMM, r.EdgeMM, r.WornG, r.HandsS, r.WaitingS, r.Minor}, err
	}
	out.Differences = section.Differences(was, out.Doc, materials)
	if out.Was, err = figures(was); err != nil {
		return out, err
	}
	if out.Is, err = figures(out.Doc); err != nil {
		return out, err
	}
	made, err := s.builtCopies(ctx, s.DB, p.ID)
	if err != nil {
		return out, err
	}
	for _, c := range made {
		if c.State == copies.Scrapped || c.Number == 0 {
			continue
		}
		was, err := s.sectionAt(ctx, p, "built:"+c.Code)
		if err != nil {
			return out, err
		}
		out.Effects = append(out.Effects, effectOf(c, section.Differences(was, out.Doc, materials)))
	}
	return out, nil
}

// effectOf says what a change means for a copy that was made before it.
func effectOf(c builtCopy, differ []section.Difference) Effect {
	e := Effect{Copy: c.Code, State: c.State, Built: c.Number}
	acts := map[string]bool{}
	for _, d := range differ {
		acts[d.Act] = true
	}
	closed := c.State.Closed()
	switch {
	case len(differ) == 0:
		e.What, e.Text = "as it is", "It is as the newer one says."
	case acts["body"]:
		e.What, e.Text = "another piece", "Its body was made otherwise and stays so: keep it as it was built, or cast anew."
	case acts["colour"] && closed:
		e.What, e.Text = "open again", "Its colour, hair or seal changes: take it back to finishing and look it over again."
	case acts["colour"]:
		e.What, e.Text = "can be done", "Colour, hair or seal can still be made as the newer one says."
	default:
		e.What, e.Text = "sheet only", "Only how it is put on changes: the hand-over sheet says it anew."
	}
	return e
}

// RecordBuilt writes down what a copy was really built as, from the person's
// draft, with why. What was agreed stays as it is.
func (s *Service) RecordBuilt(ctx context.Context, code, copyCode, reason string) ([]SectionVersion, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return nil, problem.Invalid("missing", "reason", "Say in a few words why it was built otherwise.")
	}
	view, err := s.Section(ctx, code)
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(view.Doc)
	if err != nil {
		return nil, err
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := Find(ctx, tx, code)
		if err != nil {
			return err
		}
		var id uint64
		err = tx.GetContext(ctx, &id, `SELECT id FROM copy WHERE code = ? AND piece_id = ?`, copyCode, p.ID)
		if errors.Is(err, sql.ErrNoRows) {
			return problem.Invalid("unknown_value", "copy", "%s is no copy of %s.", copyCode, code)
		}
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO built_section (copy_id, doc, reason, noted_by, noted_at) VALUES (?,?,?,?,?)`, id, string(raw), reason, who.ID, now); err != nil {
			return fmt.Errorf("writing down what was built: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "copy", Code: copyCode, Act: "built otherwise", Words: reason})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "section", code)
	return s.SectionVersions(ctx, code)
}
