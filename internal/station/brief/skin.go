package brief

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/craft/refusal"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/journal"
	"yewmoor/internal/people"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Measured is one measurement of a wearer, the newest of its name.
type Measured struct {
	Name    string     `json:"name"`
	Text    string     `json:"text"`
	How     string     `json:"how" doc:"how it is taken; empty for a shop's own"`
	Part    string     `json:"part" doc:"what of the form follows it; empty for a shop's own"`
	MM      float64    `json:"mm" doc:"0 when it was not taken yet"`
	UsualMM float64    `json:"usual_mm"`
	FormMM  float64    `json:"form_mm" doc:"what the fitted form measures there"`
	At      *time.Time `json:"taken_at,omitempty"`
	By      string     `json:"by"`
}

// SkinReading is one reading.
type SkinReading struct {
	ID     uint64     `db:"id" json:"id"`
	Region string     `db:"region" json:"-"`
	Side   string     `db:"side" json:"-"`
	Source string     `db:"source" json:"source" enum:"reader,lab,srgb,spectrum"`
	Raw    *string    `db:"spectrum" json:"-"`
	Lab    colour.Lab `db:"-" json:"lab"`
	L      float64    `db:"lab_l" json:"-"`
	A      float64    `db:"lab_a" json:"-"`
	B      float64    `db:"lab_b" json:"-"`
	At     time.Time  `db:"taken_at" json:"taken_at"`
	By     string     `db:"by_name" json:"by"`
	Kept   bool       `db:"-" json:"kept" doc:"false: put aside, it lies too far from the others"`
}

// Skin is what the readings of one place say together.
type Skin struct {
	Region   string         `json:"region"`
	Text     string         `json:"text"`
	Side     string         `json:"side"`
	Result   colour.Reading `json:"result"`
	ITA      float64        `json:"ita" doc:"individual typology angle in degrees"`
	Class    string         `json:"ita_class"`
	Hex      string         `json:"hex"`
	Guess    bool           `json:"guess" doc:"some readings come from a camera's or a screen's sRGB"`
	R        []float64      `json:"r,omitempty" doc:"mean reflectance, 380 to 730 nm, where every reading that is kept has one"`
	Readings []SkinReading  `json:"readings"`
}

// Body is what is measured of a wearer.
type Body struct {
	ID       uint64     `json:"id"`
	Measures []Measured `json:"measures"`
	Skin     []Skin     `json:"skin"`
}

// Body reads it.
func (s *Service) Body(ctx context.Context, performer uint64) (Body, error) {
	out := Body{ID: performer, Measures: []Measured{}, Skin: []Skin{}}
	var rows []struct {
		Name string
		MM   float64   `db:"mm"`
		At   time.Time `db:"taken_at"`
		By   string    `db:"by_name"`
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT m.name, m.mm, m.taken_at, COALESCE(p.name, '') AS by_name FROM performer_measure m LEFT JOIN person p ON p.id = m.taken_by
		WHERE m.id IN (SELECT MAX(id) FROM performer_measure WHERE performer_id = ? GROUP BY name) ORDER BY m.id`, performer); err != nil {
		return out, fmt.Errorf("reading measurements: %w", err)
	}
	given := map[string]float64{}
	for _, r := range rows {
		given[r.Name] = r.MM
	}
	fitted, err := form.Read(given)
	if err != nil {
		return out, err
	}
	for _, m := range form.Measures() {
		e := Measured{Name: m.Name, Text: m.Text, How: m.How, Part: m.Part, UsualMM: m.Usual, FormMM: math.Round(10*fitted[m.Name]) / 10}
		if i := slices.IndexFunc(rows, func(r struct {
			Name string
			MM   float64   `db:"mm"`
			At   time.Time `db:"taken_at"`
			By   string    `db:"by_name"`
		}) bool {
			return r.Name == m.Name
		}); i >= 0 {
			e.MM, e.At, e.By = rows[i].MM, &rows[i].At, rows[i].By
		}
		out.Measures = append(out.Measures, e)
	}
	for _, r := range rows {
		if !slices.ContainsFunc(form.Measures(), func(m form.Measure) bool { return m.Name == r.Name }) {
			out.Measures = append(out.Measures, Measured{Name: r.Name, Text: r.Name, MM: r.MM, At: &r.At, By: r.By})
		}
	}
	out.Skin, err = s.skin(ctx, performer)
	return out, err
}

// Measure writes a measurement down. One that a form follows must be possible
// together with the others; any other name is kept beside them.
func (s *Service) Measure(ctx context.Context, performer uint64, name, typed string) (Body, error) {
	name = strings.ToLower(strings.TrimSpace(name))
	if name == "" {
		return Body{}, problem.Invalid("missing", "name", "What was measured?")
	}
	q, err := quantity.Parse(typed, quantity.Length, 0, "typed")
	if err != nil {
		return Body{}, err
	}
	mm := q.Value
	if mm < 1 || mm > 4000 {
		return Body{}, problem.Invalid("out_of_range", "typed", "%.0f mm cannot be meant.", mm)
	}
	given, err := people.Measures(ctx, s.DB, &performer)
	if err != nil {
		return Body{}, err
	}
	given[name] = mm
	_, err = form.Read(given)
	if err == nil {
		_, err = s.People.Forms.Sheet("head", given)
	}
	if err != nil {
		p := problem.From(err)
		return Body{}, problem.Invalid("contradiction", "typed", "%s Nothing was recorded.", p.Error())
	}
	who, _ := accounts.From(ctx)
	return s.bodyAct(ctx, performer, "measured", name, func(tx database.Tx) error {
		_, err := tx.ExecContext(ctx, `INSERT INTO performer_measure (performer_id, name, mm, taken_at, taken_by) VALUES (?,?,?,?,NULLIF(?,0))`, performer, name, mm, s.Clock.Now(), who.ID)
		return err
	})
}

// Unmeasure takes a measurement back, with all its earlier states: what is
// known of a body can be erased.
func (s *Service) Unmeasure(ctx context.Context, performer uint64, name string) (Body, error) {
	return s.bodyAct(ctx, performer, "measurement erased", name, func(tx database.Tx) error {
		_, err := tx.ExecContext(ctx, `DELETE FROM performer_measure WHERE performer_id = ? AND name = ?`, performer, name)
		return err
	})
}

func (s *Service) bodyAct(ctx context.Context, performer uint64, act, words string, do func(database.Tx) error) (Body, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var known int
		if err := tx.GetContext(ctx, &known, `SELECT COUNT(*) FROM performer WHERE id = ?`, performer); err != nil {
			return err
		}
		if known == 0 {
			return problem.NotFound("performer", fmt.Sprint(performer))
		}
		if err := do(tx); err != nil {
			return fmt.Errorf("%s: %w", act, err)
		}
		_, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "performer", Code: fmt.Sprint(performer), Act: act, Words: words})
		return err
	})
	if err != nil {
		return Body{}, err
	}
	s.Live.Tell(ctx, "brief", "")
	return s.Body(ctx, performer)
}

func (s *Service) skin(ctx context.Context, performer uint64) ([]Skin, error) {
	var rows []SkinReading
	// Index skin_reading_place.
	if err := s.DB.SelectContext(ctx, &rows, `SELECT r.id, r.region, r.side, r.source, r.lab_l, r.lab_a, r.lab_b, r.spectrum, r.taken_at, COALESCE(p.name, '') AS by_name FROM skin_reading r LEFT JOIN person p ON p.id = r.taken_by WHERE r.performer_id = ? ORDER BY r.region, r.side, r.id`, performer); err != nil {
		return nil, fmt.Errorf("reading the skin: %w", err)
	}
	list := []Skin{}
	for from := 0; from < len(rows); {
		to := from
		var labs []colour.Lab
		place := Skin{Region: rows[from].Region, Side: rows[from].Side}
		for ; to < len(rows) && rows[to].Region == place.Region && rows[to].Side == place.Side; to++ {
			rows[to].Lab = colour.Lab{L: rows[to].L, A: rows[to].A, B: rows[to].B}
			labs = append(labs, rows[to].Lab)
			place.Guess = place.Guess || rows[to].Source == "srgb"
		}
		var err error
		if place.Result, err = colour.Readings(labs); err != nil {
			return nil, err
		}
		for i := from; i < to; i++ {
			rows[i].Kept = slices.Contains(place.Result.Kept, i-from)
		}
		if place.R, err = meanOf(rows[from:to]); err != nil {
			return nil, err
		}
		r, _ := region.Find(place.Region)
		place.Text, place.Readings = r.Text, rows[from:to]
		place.ITA, place.Class, _ = place.Result.Mean.ITA()
		rgb, _ := place.Result.Mean.SRGB()
		place.Hex = fmt.Sprintf("#%02x%02x%02x", rgb[0], rgb[1], rgb[2])
		list = append(list, place)
		from = to
	}
	return list, nil
}

// meanOf is the mean spectrum of the readings that are kept; none where one of them has
// none.
func meanOf(rows []SkinReading) ([]float64, error) {
	sum, n := make([]float64, colour.Bands), 0.0
	for _, r := range rows {
		if !r.Kept {
			continue
		}
		if r.Raw == nil {
			return nil, nil
		}
		var one colour.Spectrum
		if err := json.Unmarshal([]byte(*r.Raw), &one); err != nil {
			return nil, fmt.Errorf("reading a spectrum of skin: %w", err)
		}
		for i, v := range one {
			sum[i] += v
		}
		n++
	}
	if n == 0 {
		return nil, nil
	}
	for i := range sum {
		sum[i] /= n
	}
	return sum, nil
}

// NewReading is a reading of skin: typed Lab, typed sRGB code values, a file of spectra of
// which each column is a reading, or taken with the reader, which then needs no figures.
type NewReading struct {
	Region string      `json:"region"`
	Side   string      `json:"side" enum:",L,R"`
	Source string      `json:"source" enum:"reader,lab,srgb,spectrum"`
	Lab    *colour.Lab `json:"lab,omitempty"`
	SRGB   *[3]float64 `json:"srgb,omitempty" doc:"code values 0 to 255"`
	File   string      `json:"file,omitempty" maxLength:"200000" doc:"text of a file: wavelengths and reflectance, a column a reading"`
}

// ReadSkin records a reading.
func (s *Service) ReadSkin(ctx context.Context, performer uint64, in NewReading) (Body, error) {
	r, known := region.Find(in.Region)
	if !known || in.Side != "" && !r.Sided {
		return Body{}, problem.Invalid("unknown_value", "region", "Choose where it was read.")
	}
	var lab colour.Lab
	var read []skinRead
	switch {
	case in.Source == "spectrum":
		var err error
		if read, err = fromFile(in.File); err != nil {
			return Body{}, err
		}
	case in.Source == "lab" && in.Lab != nil:
		lab = *in.Lab
	case in.Source == "srgb" && in.SRGB != nil:
		for i, v := range in.SRGB {
			if !(v >= 0 && v <= 255) {
				return Body{}, problem.Invalid("out_of_range", fmt.Sprintf("srgb[%d]", i), "Values of sRGB lie between 0 and 255.")
			}
		}
		lab = colour.FromSRGB(in.SRGB[0], in.SRGB[1], in.SRGB[2])
	case in.Source == "reader":
		var err error
		lab.L, lab.A, lab.B, err = s.Reader.Read(fmt.Sprint(performer), in.Region)
		if err != nil {
			return Body{}, problem.Invalid("no_device", "source", "No colour reader is connected. Type the three figures, or take them from a picture.")
		}
	default:
		return Body{}, problem.Invalid("missing", in.Source, "Type the three figures.")
	}
	if read == nil {
		read = []skinRead{{lab: lab}}
	}
	for _, x := range read {
		if x.lab.L < 1 || x.lab.L > 99 {
			return Body{}, problem.Invalid("out_of_range", "lab", "No skin reads L* %.1f.", x.lab.L)
		}
	}
	who, _ := accounts.From(ctx)
	return s.bodyAct(ctx, performer, "skin read", r.Text, func(tx database.Tx) error {
		for _, x := range read {
			if _, err := tx.ExecContext(ctx, `INSERT INTO skin_reading (performer_id, region, side, source, lab_l, lab_a, lab_b, spectrum, taken_at, taken_by) VALUES (?,?,?,?,?,?,?,?,?,NULLIF(?,0))`,
				performer, in.Region, in.Side, in.Source, x.lab.L, x.lab.A, x.lab.B, x.spectrum, s.Clock.Now(), who.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// skinRead is one reading as it is kept.
type skinRead struct {
	lab      colour.Lab
	spectrum any // JSON; nil where there is none
}

// fromFile reads a file of which each column is a reading.
func fromFile(text string) ([]skinRead, error) {
	at := func(err error) error {
		var no *refusal.Error
		if errors.As(err, &no) {
			return problem.Invalid(no.Code, "file", "%s", no.Detail)
		}
		return err
	}
	series, err := colour.ReadSeries(text)
	if err != nil {
		return nil, at(err)
	}
	var out []skinRead
	for _, c := range series {
		r, err := colour.Measured(c.Values[:], "file")
		if err != nil {
			return nil, at(err)
		}
		raw, err := json.Marshal(r)
		if err != nil {
			return nil, err
		}
		out = append(out, skinRead{r.Lab(colour.D65), string(raw)})
	}
	return out, nil
}
