package mould

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/gypsum"
	"yewmoor/internal/craft/mouldmath"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Weighing is a mould on the scale.
type Weighing struct {
	ID       uint64    `db:"id" json:"id"`
	KG       float64   `db:"kg" json:"kg"`
	At       time.Time `db:"at" json:"at"`
	Place    string    `db:"place" json:"place"`
	Source   string    `db:"source" json:"source" enum:"typed,scale"`
	Corrects *uint64   `db:"corrects" json:"corrects,omitempty"`
	Who      string    `db:"who" json:"who"`
	// Wrong: a later weighing stands in for it. Counts: it is on the curve.
	Wrong  bool `db:"wrong" json:"wrong"`
	Counts bool `db:"-" json:"counts"`
}

// Drying is what the scale says of a mould.
type Drying struct {
	Weighings []Weighing    `json:"weighings"`
	Curve     *gypsum.Curve `json:"curve,omitempty"`
	From      *time.Time    `json:"from,omitempty" doc:"when the curve's clock begins"`
	DryAt     *time.Time    `json:"dry_at,omitempty"`
	DryLow    *time.Time    `json:"dry_low,omitempty"`
	DryHigh   *time.Time    `json:"dry_high,omitempty"`
	// Line is the fitted curve: hours since From and kg.
	Line [][2]float64 `json:"line"`
	Says string       `json:"says" doc:"what the weighings say, or why they say nothing yet"`
	Oven Oven         `json:"oven"`
	Open string       `json:"open" doc:"how hot it may be opened"`
}

// Oven is the answer to whether a mould may be baked.
type Oven struct {
	May    string `json:"may" enum:"yes,no,gently"`
	Reason string `json:"reason"`
}

// weighings of a mould, oldest first. Index mould_weighing_of.
func weighings(ctx context.Context, db database.Reader, id uint64) ([]Weighing, error) {
	list := []Weighing{}
	err := db.SelectContext(ctx, &list, `SELECT w.id, w.kg, w.at, w.place, w.source, w.corrects, p.name AS who, EXISTS (SELECT 1 FROM mould_weighing x WHERE x.corrects = w.id) AS wrong
		FROM mould_weighing w JOIN person p ON p.id = w.person_id WHERE w.mould_id = ? ORDER BY w.at, w.id`, id)
	return list, err
}

// scaleKG is what a shop's scale can tell of a mould, kg.
const scaleKG = 0.002

// drying works out what the scale says of a mould now.
func drying(m Mould, list []Weighing, now time.Time) Drying {
	d := Drying{Weighings: list, Line: [][2]float64{}}
	var w []gypsum.Weighing
	var from time.Time
	place := ""
	for i := range list {
		x := &list[i]
		if x.Wrong {
			continue
		}
		// A change of place begins a new curve; so does a mould that got heavier:
		// it was wetted again.
		if len(w) > 0 && (x.Place != place || x.KG > w[len(w)-1][1]*1.004) {
			for k := range list[:i] {
				list[k].Counts = false
			}
			w = nil
		}
		if len(w) == 0 {
			from, place = x.At, x.Place
		}
		at := x.At.Sub(from).Seconds()
		if n := len(w); n > 0 && at <= w[n-1][0] {
			continue
		}
		w = append(w, gypsum.Weighing{at, x.KG})
		x.Counts = true
	}
	if len(w) > 0 {
		d.From = &from
	}
	dry := 0.0
	if m.DryKG != nil {
		dry = *m.DryKG
	}
	curve, err := gypsum.Dry(w, dry, scaleKG)
	var r *refusal.Error
	switch {
	case !m.Gypsum():
		d.Says = fmt.Sprintf("%s does not dry; it cures.", m.Material)
	case len(w) == 0:
		d.Says = "Not weighed yet. Weigh it as soon as it is out of its box, with all its parts, and again every day."
	case errors.As(err, &r) && len(list) > len(w) && len(w) < 3:
		d.Says = "It was moved or wetted, so a new curve begins. " + r.Detail
	case errors.As(err, &r):
		d.Says = r.Detail
	default:
		d.Curve = &curve
		at, low, high := when(from, curve.DryAtS), when(from, curve.LowAtS), when(from, curve.HighAtS)
		d.DryAt, d.DryLow, d.DryHigh = &at, &low, &high
		end := max(w[len(w)-1][0], curve.DryAtS)
		for i := range 60 {
			t := end * float64(i) / 59
			d.Line = append(d.Line, [2]float64{t / 3600, curve.At(t)})
		}
		if curve.State == "dry" {
			d.Says = fmt.Sprintf("Dry: within 1 %% of %.3f kg, and it loses under 0.1 %% a day.", curve.InfKG)
		} else {
			d.Says = fmt.Sprintf("Drying towards %.3f kg, loses %.1f %% a day. Dry in about %s.", curve.InfKG, 100*curve.Rate, quantity.FormatDuration(max(0, at.Sub(now).Seconds())))
		}
		if len(curve.Warnings) > 0 {
			d.Says += " It comes to less than its mix can: was it calcined, is it chipped, or is the mix entry wrong?"
		}
	}
	d.Oven, d.Open = oven(m, d), opening(m)
	return d
}

func when(from time.Time, s float64) time.Time {
	return from.Add(time.Duration(s * float64(time.Second)))
}

// oven answers whether it may be baked (MLD-1).
func oven(m Mould, d Drying) Oven {
	st, known := mouldmath.StuffOf(m.Material)
	switch {
	case m.State == "retired":
		return Oven{"no", "It is retired."}
	case known && !st.Gypsum && st.OvenC == 0:
		return Oven{"no", fmt.Sprintf("A mould of %s is not baked.", m.Material)}
	case !m.Gypsum():
		at := "what its data sheet allows"
		if known {
			at = fmt.Sprintf("%.0f °C, or what its data sheet allows", st.OvenC)
		}
		return Oven{"yes", "It holds no water. Not above " + at + "."}
	case d.Curve != nil && d.Curve.State == "dry":
		return Oven{"yes", fmt.Sprintf("Dry by the scale at %.3f kg. Never above 105 °C: gypsum loses its water of crystal and crumbles.", d.Curve.InfKG)}
	case d.Curve != nil:
		return Oven{"gently", fmt.Sprintf("Not to bake (MLD-1): it still holds about %.0f g of free water, and steam would crack it or spoil the foam. 50 to 60 °C in moving air dries it; weigh it again after.", 1000*max(0, lastKG(d)-d.Curve.InfKG))}
	}
	return Oven{"gently", "Not to bake (MLD-1): the scale does not say that it is dry. " + d.Says}
}

func lastKG(d Drying) float64 {
	for i := len(d.Weighings) - 1; i >= 0; i-- {
		if d.Weighings[i].Counts {
			return d.Weighings[i].KG
		}
	}
	return 0
}

// opening says how hot it may be opened in still air (MLD-2).
func opening(m Mould) string {
	if !m.Gypsum() {
		return ""
	}
	wall := 30.0
	if m.WallMM != nil {
		wall = *m.WallMM
	}
	kind := "plaster"
	if strings.Contains(m.Material, "stone") {
		kind = "stone"
	}
	o := gypsum.Open(kind, wall/1000, 21, 10, 3.5)
	return fmt.Sprintf("Open it below %.0f °C in a room of 21 °C (MLD-2): a wall of %g mm stands a drop of %.0f K in still air.", o.BelowC, wall, o.Allowed)
}

// NewWeighing is a weighing as it is entered.
type NewWeighing struct {
	Code     string  `json:"code"`
	KG       float64 `json:"kg"`
	Source   string  `json:"source" enum:"typed,scale"`
	Place    string  `json:"place,omitempty" maxLength:"80" doc:"where it dries; empty for where it stands"`
	Corrects uint64  `json:"corrects,omitempty" doc:"the weighing that was wrong"`
	Key      string  `json:"key" minLength:"36" maxLength:"36" doc:"a new one for each; sent again it is written once"`
}

// Weigh records a mould on the scale. It may be sent twice.
func (s *Service) Weigh(ctx context.Context, in NewWeighing) (Detail, error) {
	if !(in.KG > 0.001 && in.KG < 5000) {
		return Detail{}, problem.Invalid("out_of_range", "kg", "A mould weighs between 1 g and 5000 kg.")
	}
	now := s.Clock.Now()
	err := s.change(ctx, in.Code, 0, func(tx database.Tx, m Mould) error {
		list, err := weighings(ctx, tx, m.ID)
		if err != nil {
			return err
		}
		at, known := now, in.Corrects == 0
		for _, w := range list {
			if w.ID == in.Corrects {
				known = true
				if w.Wrong {
					return problem.Conflict("corrected", "This weighing was put right already.")
				}
				at = w.At
				in.Place = w.Place
			}
		}
		if !known {
			return problem.Invalid("unknown_value", "corrects", "There is no such weighing of %s.", in.Code)
		}
		if last := len(list) - 1; in.Corrects == 0 && last >= 0 && !list[last].Wrong && (in.KG > 2*list[last].KG || in.KG < list[last].KG/2) {
			return problem.Invalid("contradiction", "kg", "It weighed %.3f kg on %s and would weigh %.3f kg now. With all its parts? Put the earlier one right if that was wrong.", list[last].KG, list[last].At.Format("2 Jan"), in.KG)
		}
		if in.Place == "" {
			in.Place = m.Place
		}
		who, _ := accounts.From(ctx)
		changed, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO mould_weighing (mould_id, kg, at, place, source, corrects, person_id, idem_key) VALUES (?,?,?,?,?,NULLIF(?,0),?,?)`, m.ID, in.KG, at, in.Place, in.Source, in.Corrects, who.ID, in.Key))
		if err != nil {
			return fmt.Errorf("writing the weighing: %w", err)
		}
		if !changed {
			return err
		}
		if m.State == "wet" && m.Gypsum() {
			if _, err := tx.ExecContext(ctx, `UPDATE mould SET state = 'drying', version = version + 1 WHERE id = ?`, m.ID); err != nil {
				return err
			}
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: m.PieceID, Kind: "mould", Code: m.Code, Act: "weighed", Words: fmt.Sprintf("%.3f kg", in.KG)})
		return err
	})
	if err != nil {
		return Detail{}, err
	}
	return s.One(ctx, in.Code)
}

// Pot is how a mould stands on the pot shelf.
type Pot struct {
	Fill        float64
	Set, Dry    float64 // heights of the marks
	IsSet, Done bool
	Words, Left string
	LeftS       float64
	LowS, HighS float64
	HeldBack    string
	Why         []string
}

// setShare is how high on the glass a mould that has set stands: the rest is
// water that leaves.
const setShare = 0.25

// PotOf computes how far a mould is that sets or dries.
func (s *Service) PotOf(ctx context.Context, id uint64) (Pot, error) {
	var code string
	if err := s.DB.GetContext(ctx, &code, `SELECT code FROM mould WHERE id = ?`, id); err != nil {
		return Pot{}, err
	}
	m, err := find(ctx, s.DB, code)
	if err != nil {
		return Pot{}, err
	}
	list, err := weighings(ctx, s.DB, m.ID)
	if err != nil {
		return Pot{}, err
	}
	return potOf(m, drying(m, list, s.Clock.Now()), s.Clock.Now()), nil
}

// UsualDry is how long a mould of gypsum dries before its own weighings tell, in the open: our own figure.
const UsualDry = 7 * 24 * time.Hour

func potOf(m Mould, d Drying, now time.Time) Pot {
	p := Pot{Set: setShare, Dry: 0.95, Words: "wet", Left: "weigh it", Why: []string{d.Says, d.Oven.Reason}}
	set := 1680.0
	if st, known := mouldmath.StuffOf(m.Material); known && !st.Gypsum {
		set = st.DemouldH * 3600
		p.Set, p.Dry = 0.95, 1
	}
	if m.SetAt != nil {
		passed := now.Sub(*m.SetAt).Seconds()
		if passed < set {
			p.LeftS, p.LowS, p.HighS = set-passed, 0.8*set-passed, 1.3*set-passed
			p.Fill, p.Words, p.Left = p.Set*passed/set, "setting", "set in "+quantity.FormatDuration(p.LeftS)
			p.HeldBack = "It has not set yet."
			return p
		}
	}
	p.IsSet, p.Fill = true, p.Set
	if !m.Gypsum() {
		p.Done, p.Fill, p.Words, p.Left = true, 1, "cured", "open it now"
		return p
	}
	p.HeldBack = d.Oven.Reason
	if d.Curve == nil {
		p.LeftS, p.HighS = UsualDry.Seconds(), 30*86400
		if len(d.Weighings) > 0 {
			p.Left, p.Words = "weigh it again", "drying"
		}
		return p
	}
	c := d.Curve
	first := d.Line[0][1]
	gone := (first - lastKG(d)) / max(1e-9, first-c.InfKG)
	p.Fill = p.Set + (p.Dry-p.Set)*min(1, max(0, gone))
	p.LeftS, p.LowS, p.HighS = max(0, d.DryAt.Sub(now).Seconds()), max(0, d.DryLow.Sub(now).Seconds()), max(0, d.DryHigh.Sub(now).Seconds())
	p.Words, p.Left = "drying", "dry "+d.DryAt.Format("2 Jan")
	switch {
	case c.State == "dry":
		p.Done, p.Fill, p.Words, p.Left, p.HeldBack, p.LeftS = true, 0.97, "dry by the scale", "dry, take it", "", 0
	case p.LeftS == 0:
		p.Left = "weigh it now"
	}
	return p
}

// StoodAt is what a mould of plaster weighed before a moment, against its dry mass: as its
// curve tells that mass, else as its mix comes to in theory. known is false where nobody
// weighed it, or where it does not dry.
func (s *Service) StoodAt(ctx context.Context, db database.Reader, mouldID uint64, before string) (share float64, known bool, err error) {
	var code string
	if err := db.GetContext(ctx, &code, `SELECT code FROM mould WHERE id = ?`, mouldID); err != nil {
		return 0, false, err
	}
	m, err := find(ctx, db, code)
	if err != nil || !m.Gypsum() {
		return 0, false, err
	}
	list, err := weighings(ctx, db, mouldID)
	if err != nil {
		return 0, false, err
	}
	until, err := time.Parse("2006-01-02 15:04:05.999999", before)
	if err != nil {
		return 0, false, err
	}
	list = slices.DeleteFunc(list, func(w Weighing) bool { return w.At.After(until) })
	d := drying(m, list, until)
	last := lastKG(d)
	switch {
	case last == 0:
		return 0, false, nil
	case d.Curve != nil && d.Curve.InfKG > 0:
		return last / d.Curve.InfKG, true, nil
	case m.DryKG != nil && *m.DryKG > 0:
		return last / *m.DryKG, true, nil
	}
	return 0, false, nil
}

// Carried keeps what somebody agreed to change with a mould, in its note.
func (s *Service) Carried(ctx context.Context, tx database.Tx, code, text string) error {
	m, err := find(ctx, tx, code)
	if err != nil {
		return err
	}
	note := strings.TrimSpace(m.Note + " " + text)
	if len(note) > 300 {
		return problem.Conflict("too_long", "The note of %s is full: shorten it first, then agree. Nothing was changed.", code)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE mould SET note = ?, version = version + 1 WHERE id = ?`, note, m.ID); err != nil {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: m.PieceID, Kind: "mould", Code: code, Act: "changed after a fault", Words: text})
	return err
}
