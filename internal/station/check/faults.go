package check

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/finish/fault"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Fault is something that was seen on a copy, and what became of it.
type Fault struct {
	ID          uint64     `db:"id" json:"id"`
	CopyID      uint64     `db:"copy_id" json:"-"`
	PieceID     uint64     `db:"piece_id" json:"-"`
	Copy        string     `db:"copy" json:"copy"`
	Piece       string     `db:"piece" json:"piece"`
	Fault       string     `db:"fault" json:"fault"`
	Name        string     `db:"-" json:"name"`
	Material    string     `db:"material" json:"material,omitempty"`
	Place       string     `db:"place" json:"place"`
	SHA256      *string    `db:"sha256" json:"sha256,omitempty" doc:"the picture that it is marked on"`
	X           *float64   `db:"x" json:"x,omitempty"`
	Y           *float64   `db:"y" json:"y,omitempty"`
	Words       string     `db:"words" json:"words"`
	RawAnswers  string     `db:"answers" json:"-"`
	Cause       string     `db:"cause" json:"cause,omitempty" doc:"what it was, as somebody said"`
	CauseName   string     `db:"-" json:"cause_name,omitempty"`
	Believed    *float64   `db:"believed" json:"believed,omitempty" doc:"how likely that was by the ranking then"`
	AnsweredAt  *time.Time `db:"answered_at" json:"answered_at,omitempty"`
	AnsweredBy  *string    `db:"answered_by" json:"answered_by,omitempty"`
	Remedy      string     `db:"remedy" json:"remedy,omitempty" enum:",repair,reuse,leave,scrap"`
	RemedyWords string     `db:"remedy_words" json:"remedy_words,omitempty"`
	Minutes     *float64   `db:"minutes" json:"minutes,omitempty"`
	MendedAt    *time.Time `db:"mended_at" json:"mended_at,omitempty"`
	Version     int        `db:"version" json:"version"`
	At          time.Time  `db:"at" json:"at"`
	Who         string     `db:"who" json:"who"`
	MouldID     *uint64    `db:"mould_id" json:"-"`
	Settled     bool       `db:"-" json:"settled" doc:"its cause is said, and what was done about it"`
}

const faultColumns = `f.id, f.copy_id, c.piece_id, c.mould_id, c.code AS copy, q.code AS piece, f.fault, f.material, f.place, d.sha256, f.x, f.y, f.words, f.answers, f.cause, f.believed, f.answered_at, b.name AS answered_by,
	f.remedy, f.remedy_words, f.minutes, f.mended_at, f.version, f.at, p.name AS who FROM fault f JOIN copy c ON c.id = f.copy_id JOIN piece q ON q.id = c.piece_id JOIN person p ON p.id = f.person_id
	LEFT JOIN person b ON b.id = f.answered_by LEFT JOIN file d ON d.id = f.file_id`

// name puts the words of the tables to a fault, and says whether it is settled.
func (f *Fault) name() {
	if of, known := fault.FaultOf(f.Fault); known {
		f.Name = of.Name
	}
	if c, known := fault.CauseOf(f.Cause); known {
		f.CauseName = c.Name
	}
	f.Settled = f.Cause != "" && f.Remedy != "" && (f.Remedy != "repair" || f.MendedAt != nil)
}

// FaultsOf lists what was seen on a copy. Index fault_of.
func FaultsOf(ctx context.Context, db database.Reader, copyID uint64) ([]Fault, error) {
	list := []Fault{}
	if err := db.SelectContext(ctx, &list, `SELECT `+faultColumns+` WHERE f.copy_id = ? ORDER BY f.id`, copyID); err != nil {
		return nil, fmt.Errorf("reading the faults of a copy: %w", err)
	}
	for i := range list {
		list[i].name()
	}
	return list, nil
}

func findFault(ctx context.Context, db database.Reader, id uint64) (Fault, error) {
	var f Fault
	err := db.GetContext(ctx, &f, `SELECT `+faultColumns+` WHERE f.id = ?`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return f, problem.NotFound("fault", fmt.Sprint(id))
	}
	f.name()
	return f, err
}

// answered refuses to keep a copy with a fault that nobody answered.
func (s *Service) answered(ctx context.Context, tx database.Tx, c copies.Copy) error {
	list, err := FaultsOf(ctx, tx, c.ID)
	if err != nil {
		return err
	}
	var open []string
	for _, f := range list {
		if f.Settled {
			continue
		}
		words := f.Name
		switch {
		case f.Cause == "":
			words += ": nobody said what it was"
		case f.Remedy == "":
			words += ": nobody said what is done about it"
		default:
			words += ": not mended yet"
		}
		open = append(open, words)
	}
	if len(open) > 0 {
		return problem.Conflict("fault_open", "%s has a fault that is not answered: %s.", c.Code, strings.Join(open, "; "))
	}
	return nil
}

// ofCopy refuses a verdict that rests on a fault of another copy.
func (s *Service) ofCopy(ctx context.Context, tx database.Tx, c copies.Copy, id uint64) error {
	if id == 0 {
		return nil
	}
	f, err := findFault(ctx, tx, id)
	if err == nil && f.CopyID != c.ID {
		err = problem.Invalid("contradiction", "fault", "That fault was seen on %s.", f.Copy)
	}
	return err
}

// materialOf is what a section's body is, as faults are told by it; empty for what has none
// of them.
func materialOf(doc section.Section) string {
	out := ""
	doc.All(func(_ section.Cut, _ int, l section.Layer) {
		m := map[section.Kind]string{section.Silicone: "silicone", section.Gelatin: "gelatin", section.Foam: "foam_latex", section.Latex: "latex", section.Paste: "paste", section.Wax: "wax"}[l.Kind]
		if m != "" && (out == "" || l.Kind.Is() == section.Body) {
			out = m
		}
	})
	return out
}

// Kind is a fault that can be seen, for the list to choose from.
type Kind struct {
	ID     string     `json:"id"`
	Name   string     `json:"name"`
	Room   string     `json:"room"`
	Moment string     `json:"moment"`
	Mend   fault.Mend `json:"mend"`
}

// KindsFor lists the faults that this copy's material can show; the checking bench's own
// and the rooms before it.
func (s *Service) KindsFor(ctx context.Context, code string) ([]Kind, error) {
	c, err := copies.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	material, err := s.material(ctx, s.DB, c)
	if err != nil {
		return nil, err
	}
	out := []Kind{}
	for _, f := range fault.Faults() {
		if material == "" || fault.Fits(f.Materials, material) {
			out = append(out, Kind{f.ID, f.Name, f.Room, f.Moment, f.Mend})
		}
	}
	return out, nil
}

func (s *Service) material(ctx context.Context, db database.Reader, c copies.Copy) (string, error) {
	p, err := piece.Find(ctx, db, c.Piece)
	if err != nil {
		return "", err
	}
	doc, _, _, err := piece.SectionAt(ctx, db, p, c.SectionNumber)
	return materialOf(doc), err
}

// NewFault is what somebody sees.
type NewFault struct {
	Fault string   `json:"fault" minLength:"3" maxLength:"24"`
	Place string   `json:"place,omitempty" maxLength:"80"`
	Words string   `json:"words,omitempty" maxLength:"300"`
	SHA   string   `json:"sha256,omitempty" maxLength:"64" doc:"the picture that it is marked on"`
	X     *float64 `json:"x,omitempty" minimum:"0" maximum:"1"`
	Y     *float64 `json:"y,omitempty" minimum:"0" maximum:"1"`
	Key   string   `json:"key" format:"uuid"`
}

// See writes down a fault. It may be sent twice.
func (s *Service) See(ctx context.Context, code string, in NewFault) (Traced, error) {
	of, known := fault.FaultOf(in.Fault)
	if !known {
		return Traced{}, problem.Invalid("unknown_value", "fault", "That is no fault of the book.")
	}
	who, _ := accounts.From(ctx)
	var id uint64
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Lock(ctx, tx, code)
		if err != nil {
			return err
		}
		if c.State == copies.Making {
			return problem.Conflict("not_here", "%s is still being made: say at its pot how it comes out.", code)
		}
		material, err := s.material(ctx, tx, c)
		if err != nil {
			return err
		}
		if material != "" && !fault.Fits(of.Materials, material) {
			return problem.Invalid("contradiction", "fault", "“%s” does not come up in %s.", of.Name, strings.ReplaceAll(material, "_", " "))
		}
		var file any
		if in.SHA != "" {
			f, err := fileOf(ctx, tx, in.SHA)
			if err != nil {
				return problem.Invalid("unknown_value", "sha256", "There is no such picture.")
			}
			file = f.ID
		}
		now := s.Clock.Now()
		added, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO fault (copy_id, fault, material, place, file_id, x, y, words, answers, at, person_id, idem_key) VALUES (?,?,?,?,?,?,?,?,'{}',?,?,?)`,
			c.ID, in.Fault, material, strings.TrimSpace(in.Place), file, in.X, in.Y, in.Words, now, who.ID, in.Key))
		if err != nil {
			return fmt.Errorf("writing the fault: %w", err)
		}
		if err := tx.GetContext(ctx, &id, `SELECT id FROM fault WHERE idem_key = ?`, in.Key); err != nil || !added {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code, Act: "fault seen", Words: strings.TrimSpace(of.Name + " " + in.Place + " " + in.Words)})
		return err
	})
	if err != nil {
		return Traced{}, err
	}
	s.Live.Tell(ctx, "copies", code)
	return s.Trace(ctx, id)
}

// Look is a look that would tell much.
type Look struct {
	Evidence string   `json:"evidence"`
	Ask      string   `json:"ask"`
	Gain     float64  `json:"gain_bits"`
	Minutes  float64  `json:"minutes"`
	Kind     string   `json:"kind" enum:"number,word"`
	Unit     string   `json:"unit,omitempty"`
	States   []string `json:"states"`
	Where    string   `json:"where"`
}

// Cause is one cause as the room ranks it.
type Cause struct {
	fault.Ranked
	Name     string  `json:"name"`
	ChangeIn string  `json:"change_in"`
	Prevent  string  `json:"prevent"`
	Times    float64 `json:"times" doc:"how often this shop said that it was it"`
}

// Sharer is another copy that has the same behind it.
type Sharer struct {
	Code  string `db:"code" json:"code"`
	State string `db:"state" json:"state"`
	Where string `db:"place" json:"where" doc:"kit that it is in, or the room"`
	Why   string `db:"why" json:"why"`
}

// Traced is a fault with its causes ranked from the record.
type Traced struct {
	Fault
	Mend      fault.Mend `json:"mend"`
	Known     []Known    `json:"known" doc:"what the record and people say of it"`
	Causes    []Cause    `json:"causes"`
	Decided   bool       `json:"decided"`
	Entropy   float64    `json:"entropy_bits"`
	Looks     []Look     `json:"looks" doc:"at most three, the most telling first"`
	Sharers   []Sharer   `json:"sharers"`
	Proposals []Proposal `json:"proposals"`
	Caution   string     `json:"caution,omitempty"`
}

// leastGain is how much a look must tell to be asked for, bit.
const leastGain = 0.02

// history is how often this shop said what each cause was. Index fault_cause.
func history(ctx context.Context, db database.Reader, of fault.Fault, but uint64) (map[string]float64, error) {
	var rows []struct {
		Cause string
		N     float64
	}
	if err := db.SelectContext(ctx, &rows, `SELECT cause, COUNT(*) AS n FROM fault WHERE fault = ? AND cause <> '' AND id <> ? GROUP BY cause`, of.ID, but); err != nil {
		return nil, err
	}
	out := map[string]float64{}
	for _, r := range rows {
		if _, known := of.Causes[r.Cause]; known {
			out[r.Cause] = r.N
		}
	}
	return out, nil
}

// Trace ranks the causes of a fault from the copy's own record, what people answered, and
// what this shop said before.
func (s *Service) Trace(ctx context.Context, id uint64) (Traced, error) {
	f, err := findFault(ctx, s.DB, id)
	if err != nil {
		return Traced{}, err
	}
	out := Traced{Fault: f, Known: []Known{}, Causes: []Cause{}, Looks: []Look{}, Sharers: []Sharer{}}
	of, _ := fault.FaultOf(f.Fault)
	out.Mend = of.Mend
	if f.Fault == "F-REACT" {
		out.Caution = "Stop, take it off, and let a doctor look: this ranks what to change next time, and clears nobody."
	}
	told, err := s.told(ctx, f)
	if err != nil {
		return out, err
	}
	c := fault.Case{Fault: f.Fault, Material: f.Material, Evidence: map[string]string{}}
	for _, k := range told {
		c.Evidence[k.Evidence] = k.State
	}
	if c.History, err = history(ctx, s.DB, of, f.ID); err != nil {
		return out, err
	}
	for cause := range c.History {
		if k, _ := fault.CauseOf(cause); f.Material != "" && !fault.Fits(k.Materials, f.Material) {
			delete(c.History, cause)
		}
	}
	r, err := fault.Rank(c)
	if err != nil {
		return out, err
	}
	next, err := fault.Next(c, 3)
	if err != nil {
		return out, err
	}
	out.rank(r, next, c.History, told)
	if out.Sharers, err = s.sharers(ctx, f); err != nil {
		return out, err
	}
	out.Proposals, err = s.proposals(ctx, s.DB, `p.fault_id = ?`, f.ID)
	return out, err
}

func (t *Traced) rank(r fault.Ranking, next fault.Looks, history map[string]float64, told []Known) {
	t.Decided, t.Entropy = r.Decided, r.Entropy
	used := map[string]bool{}
	for _, k := range r.Causes {
		c, _ := fault.CauseOf(k.ID)
		t.Causes = append(t.Causes, Cause{Ranked: k, Name: c.Name, ChangeIn: c.ChangeIn, Prevent: c.Prevent, Times: history[k.ID]})
		for _, w := range slices.Concat(k.For, k.Against) {
			used[w.Evidence] = true
		}
	}
	for _, k := range told {
		if used[k.Evidence] || k.Source == "answered" {
			t.Known = append(t.Known, k)
		}
	}
	for _, id := range next.Order {
		if next.Gain[id] < leastGain {
			continue
		}
		e, _ := fault.EvidenceOf(id)
		l := Look{Evidence: id, Ask: e.Ask, Gain: next.Gain[id], Minutes: e.Minutes, Kind: e.Kind, Unit: e.Unit, Where: e.Where, States: []string{}}
		for _, st := range e.States {
			l.States = append(l.States, st.State)
		}
		t.Looks = append(t.Looks, l)
	}
}

// sharers are the other copies of the same run, mix, mould or lot, the nearest first, and
// where they are.
func (s *Service) sharers(ctx context.Context, f Fault) ([]Sharer, error) {
	var rows []Sharer
	if err := s.DB.SelectContext(ctx, &rows, `SELECT o.code, o.state, COALESCE((SELECT MAX(k.code) FROM kit_copy kc JOIN kit k ON k.id = kc.kit_id WHERE kc.copy_id = o.id), '') AS place, w.why FROM (
			SELECT o.id, 'the same pour' AS why, 1 AS near FROM copy c JOIN copy o ON o.run_id = c.run_id WHERE c.id = ?
			UNION ALL SELECT o.id, 'the same mix', 2 FROM copy c JOIN run_mix a ON a.run_id = c.run_id JOIN run_mix b ON b.mix_id = a.mix_id JOIN copy o ON o.run_id = b.run_id WHERE c.id = ?
			UNION ALL SELECT o.id, 'the same mould', 3 FROM copy c JOIN copy o ON o.mould_id = c.mould_id WHERE c.id = ?
			UNION ALL SELECT o.id, CONCAT('the same lot ', l.code), 4 FROM copy c JOIN run_mix a ON a.run_id = c.run_id JOIN mix_line n ON n.mix_id = a.mix_id JOIN lot l ON l.id = n.lot_id JOIN mix_line n2 ON n2.lot_id = n.lot_id JOIN run_mix b ON b.mix_id = n2.mix_id JOIN copy o ON o.run_id = b.run_id WHERE c.id = ?
		) w JOIN copy o ON o.id = w.id WHERE o.id <> ? ORDER BY w.near, o.id DESC, w.why LIMIT 200`, f.CopyID, f.CopyID, f.CopyID, f.CopyID, f.CopyID); err != nil {
		return nil, fmt.Errorf("reading who shares it: %w", err)
	}
	out := []Sharer{}
	seen := map[string]bool{}
	for _, r := range rows {
		if seen[r.Code] || len(out) == 12 {
			continue
		}
		seen[r.Code] = true
		if r.Where == "" {
			r.Where = map[string]string{"making": "still being made", "made": "on the bench", "repair": "on the bench", "accepted": "on its shelf", "scrapped": "scrapped"}[r.State]
		} else {
			r.Where = "in kit " + r.Where
		}
		out = append(out, r)
	}
	return out, nil
}

// change locks a fault, and does something to it that somebody decided on what they saw.
func (s *Service) change(ctx context.Context, id uint64, version int, act func(tx database.Tx, f Fault) (string, string, error)) (Traced, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM fault WHERE id = ? FOR UPDATE`, id); err != nil {
			return err
		}
		f, err := findFault(ctx, tx, id)
		if err != nil {
			return err
		}
		if version != f.Version {
			return problem.Conflict("changed", "Somebody changed this fault meanwhile: look at it again. Nothing was recorded.")
		}
		what, words, err := act(tx, f)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE fault SET version = version + 1 WHERE id = ?`, id); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: f.PieceID, Kind: "copy", Code: f.Copy, Act: what, Words: words})
		return err
	})
	if err != nil {
		return Traced{}, err
	}
	t, err := s.Trace(ctx, id)
	s.Live.Tell(ctx, "copies", t.Copy)
	return t, err
}

// Answer writes down what a look showed: a number or one of its states; empty takes it back.
type Answer struct {
	Evidence string   `json:"evidence" minLength:"1" maxLength:"40"`
	State    string   `json:"state,omitempty" maxLength:"24"`
	Number   *float64 `json:"number,omitempty"`
	Version  int      `json:"version" minimum:"1"`
}

// Answer keeps an answer, which counts before what the record says.
func (s *Service) Answer(ctx context.Context, id uint64, in Answer) (Traced, error) {
	e, known := fault.EvidenceOf(in.Evidence)
	if !known {
		return Traced{}, problem.Invalid("unknown_value", "evidence", "That is nothing that is looked at.")
	}
	switch {
	case in.Number != nil && e.Kind != "number":
		return Traced{}, problem.Invalid("unknown_value", "number", "This is told by a word.")
	case in.Number != nil:
		in.State = e.Of(*in.Number)
	case in.State != "" && !e.Knows(in.State):
		return Traced{}, problem.Invalid("unknown_value", "state", "“%.24s” is not one of its answers.", in.State)
	}
	return s.change(ctx, id, in.Version, func(tx database.Tx, f Fault) (string, string, error) {
		answers := map[string]string{}
		if err := json.Unmarshal([]byte(f.RawAnswers), &answers); err != nil {
			return "", "", err
		}
		answers[in.Evidence] = in.State
		if in.State == "" {
			delete(answers, in.Evidence)
		}
		raw, err := json.Marshal(answers)
		if err != nil {
			return "", "", err
		}
		_, err = tx.ExecContext(ctx, `UPDATE fault SET answers = ? WHERE id = ?`, string(raw), f.ID)
		return "looked at", strings.TrimSpace(f.Name + ": " + e.Ask + " " + in.State), err
	})
}

// Said is what somebody says that it was.
type Said struct {
	Cause   string `json:"cause" minLength:"3" maxLength:"24"`
	Version int    `json:"version" minimum:"1"`
}

// Say keeps what the person says that it was: the shop's prior learns from it.
func (s *Service) Say(ctx context.Context, id uint64, in Said) (Traced, error) {
	now, err := s.Trace(ctx, id)
	if err != nil {
		return Traced{}, err
	}
	i := slices.IndexFunc(now.Causes, func(c Cause) bool { return c.ID == in.Cause })
	if i < 0 {
		return Traced{}, problem.Invalid("unknown_value", "cause", "That is no cause of “%s” in this material.", now.Name)
	}
	who, _ := accounts.From(ctx)
	return s.change(ctx, id, in.Version, func(tx database.Tx, f Fault) (string, string, error) {
		_, err := tx.ExecContext(ctx, `UPDATE fault SET cause = ?, believed = ?, answered_at = ?, answered_by = ? WHERE id = ?`, in.Cause, now.Causes[i].P, s.Clock.Now(), who.ID, id)
		return "fault answered", fmt.Sprintf("%s: %s", f.Name, now.Causes[i].Name), err
	})
}

// Remedied is what is done about it on this copy.
type Remedied struct {
	Remedy  string   `json:"remedy" enum:"repair,reuse,leave,scrap"`
	Words   string   `json:"words,omitempty" maxLength:"300"`
	Minutes *float64 `json:"minutes,omitempty" minimum:"0" maximum:"6000"`
	Mended  bool     `json:"mended,omitempty" doc:"it is done"`
	Version int      `json:"version" minimum:"1"`
}

// Remedy keeps what is done about it. Leaving it wants a word.
func (s *Service) Remedy(ctx context.Context, id uint64, in Remedied) (Traced, error) {
	if in.Remedy == "leave" && strings.TrimSpace(in.Words) == "" {
		return Traced{}, problem.Invalid("missing", "words", "Say why it may stay.")
	}
	return s.change(ctx, id, in.Version, func(tx database.Tx, f Fault) (string, string, error) {
		if f.Cause == "" {
			return "", "", problem.Conflict("no_cause", "Say first what it was: the next run learns from it.")
		}
		var mended any
		if in.Mended {
			mended = s.Clock.Now()
		}
		_, err := tx.ExecContext(ctx, `UPDATE fault SET remedy = ?, remedy_words = ?, minutes = COALESCE(?, minutes), mended_at = ? WHERE id = ?`, in.Remedy, in.Words, in.Minutes, mended, id)
		what := "remedy chosen"
		if in.Mended {
			what = "mended"
		}
		return what, strings.TrimSpace(f.Name + ": " + in.Remedy + " " + in.Words), err
	})
}

// sorted are the keys of a map in order.
func sorted[K cmp.Ordered, V any](m map[K]V) []K { return slices.Sorted(maps.Keys(m)) }

// Faults lists what was seen on a copy.
func (s *Service) Faults(ctx context.Context, code string) ([]Fault, error) {
	c, err := copies.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	return FaultsOf(ctx, s.DB, c.ID)
}
