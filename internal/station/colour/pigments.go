package colour

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// Stores tell what of a material may be taken; wired to the stores.
type Stores interface {
	// Usable is the lot of which most may be taken today, and how much, g.
	Usable(ctx context.Context, db database.Reader, slug string) (lot string, grams float64, err error)
	// LotID is a lot of a material by its code.
	LotID(ctx context.Context, db database.Reader, slug, code string) (uint64, error)
}

// Pigment is a pigment or flock of the shop as colours are reckoned with it.
type Pigment struct {
	Material string   `json:"material"`
	Name     string   `json:"name"`
	Fibre    bool     `json:"fibre" doc:"flocking: its threads stay visible close up"`
	DropG    float64  `json:"drop_g"`
	Into     []string `json:"into" doc:"families that it may be stirred into"`
	Lot      string   `json:"lot,omitempty" doc:"of which most may be taken today"`
	UsableG  float64  `json:"usable_g"`
	PriceKg  int64    `json:"price_minor_kg"`
	Tint     string   `json:"tint,omitempty" doc:"pigment of the library that it is reckoned as"`
	TintName string   `json:"tint_name,omitempty"`
	// Known says whether its colour can be reckoned with at all, and Own that the shop
	// drew it down itself.
	Known bool          `json:"known"`
	Looks *colour.Lab   `json:"looks,omitempty" doc:"a usual tint of it"`
	Own   *Calibration  `json:"own,omitempty"`
	Over  []Calibration `json:"before" doc:"what was drawn down before, the newest first"`

	p *colour.Pigment
}

// Calibration is what drawdowns of one lot said.
type Calibration struct {
	ID      uint64      `db:"id" json:"id"`
	Slug    string      `db:"slug" json:"-"`
	Lot     string      `db:"lot" json:"lot,omitempty"`
	Base    string      `db:"base" json:"base"`
	Way     string      `db:"way" json:"way" enum:"pair,single"`
	Class   string      `db:"class" json:"class,omitempty"`
	Amount  float64     `db:"amount" json:"amount" doc:"g in 100 g of base"`
	X       float64     `db:"thickness_mm" json:"thickness_mm"`
	RawK    string      `db:"k" json:"-"`
	RawS    string      `db:"s" json:"-"`
	RawWeak string      `db:"weak" json:"-"`
	Weak    []int       `db:"-" json:"weak_bands" doc:"in nm"`
	RMS     float64     `db:"rms" json:"rms"`
	Off     float64     `db:"off_de" json:"off" doc:"ΔE00 of the drawdowns as they are predicted from it; above 1 the thickness or the amount was wrong"`
	At      time.Time   `db:"at" json:"at"`
	By      string      `db:"by_name" json:"by"`
	Drift   *float64    `db:"-" json:"drift,omitempty" doc:"ΔE00 of a usual tint against the calibration before it"`
	Tint    *colour.Lab `db:"-" json:"tint,omitempty" doc:"a usual tint of it"`
	k, s    colour.Spectrum
}

// usualTint is what drift is told by: 0.1 g in 100 g of clear silicone beside 0.2 g of
// white, 3 mm over white.
func usualTint(p *colour.Pigment) (colour.Lab, error) {
	base, err := colour.BaseOf("silicone")
	if err != nil {
		return colour.Lab{}, err
	}
	white, err := colour.PigmentOf("TW", "recipe")
	if err != nil {
		return colour.Lab{}, err
	}
	own := *p
	own.ID = "own"
	mixed, err := base.MixedOf(colour.Palette{white, &own}, []colour.Dose{{Pigment: "TW", G: 0.2}, {Pigment: "own", G: 0.1}}, 0)
	if err != nil {
		return colour.Lab{}, err
	}
	r := mixed.Over(3, &colour.White)
	return r.Lab(colour.D65), nil
}

// calibrations reads what was drawn down, by product, the newest first.
func calibrations(ctx context.Context, db database.Reader) (map[string][]Calibration, error) {
	var rows []Calibration
	if err := db.SelectContext(ctx, &rows, `SELECT c.id, m.slug, COALESCE(l.code, '') AS lot, c.base, c.way, c.class, c.amount, c.thickness_mm, c.k, c.s, c.weak, c.rms, c.off_de, c.at, p.name AS by_name
		FROM calibration c JOIN material m ON m.id = c.material_id LEFT JOIN lot l ON l.id = c.lot_id JOIN person p ON p.id = c.person_id ORDER BY c.id`); err != nil {
		return nil, fmt.Errorf("reading the calibrations: %w", err)
	}
	out := map[string][]Calibration{}
	for _, c := range rows {
		for _, f := range []struct {
			raw  string
			into any
		}{{c.RawK, &c.k}, {c.RawS, &c.s}, {c.RawWeak, &c.Weak}} {
			if err := json.Unmarshal([]byte(f.raw), f.into); err != nil {
				return nil, err
			}
		}
		lab, err := usualTint(&colour.Pigment{Coefficients: colour.Coefficients{K: c.k, S: c.s}})
		if err != nil {
			return nil, err
		}
		c.Tint = &lab
		if before := out[c.Slug]; len(before) > 0 {
			off := colour.DE00(*before[0].Tint, lab)
			c.Drift = &off
		}
		out[c.Slug] = append([]Calibration{c}, out[c.Slug]...)
	}
	return out, nil
}

// pigments are the shop's pigments and flocks, in the order of the library's pigments, then
// by name; what nobody knows the colour of comes last.
func pigments(ctx context.Context, db database.Reader, materials material.Shelf) ([]Pigment, error) {
	own, err := calibrations(ctx, db)
	if err != nil {
		return nil, err
	}
	out := []Pigment{}
	for _, p := range materials {
		if p.Family != material.Pigment && p.Family != material.Flock {
			continue
		}
		v := Pigment{Material: p.Slug, Name: p.Name, Fibre: p.Family == material.Flock, DropG: p.DropG, PriceKg: p.PriceMinorKg,
			Tint: p.Tint, Into: []string{}, Over: []Calibration{}}
		for _, f := range bases {
			for _, family := range f.families {
				if p.StirLimit(family) > 0 {
					v.Into = append(v.Into, string(family))
				}
			}
		}
		if lib, err := colour.PigmentOf(p.Tint, "tint"); err == nil {
			one := *lib
			v.TintName, v.p = lib.Name, &one
		}
		if had := own[p.Slug]; len(had) > 0 {
			v.Own, v.Over = &had[0], had[1:]
			if v.p == nil {
				v.p = &colour.Pigment{Class: cmp.Or(had[0].Class, "inorganic"), Most: 3}
			}
			v.p.Coefficients = colour.Coefficients{K: had[0].k, S: had[0].s}
		}
		if v.p != nil {
			v.Known = true
			v.p.ID, v.p.Name, v.p.DropG = p.Slug, p.Name, p.DropG
			looks, err := usualTint(v.p)
			if err != nil {
				return nil, err
			}
			v.Looks = &looks
		}
		out = append(out, v)
	}
	rank := func(p Pigment) int {
		i := slices.IndexFunc(colour.Pigments, func(l colour.Pigment) bool { return l.ID == p.Tint })
		switch {
		case !p.Known:
			return 1000
		case i < 0:
			return 500
		}
		return i
	}
	slices.SortFunc(out, func(a, b Pigment) int {
		return cmp.Or(cmp.Compare(rank(a), rank(b)), strings.Compare(a.Material, b.Material))
	})
	return out, nil
}

// stocked says of each what may be taken today.
func (s *Service) stocked(ctx context.Context, db database.Reader, list []Pigment) (err error) {
	for i := range list {
		if list[i].Lot, list[i].UsableG, err = s.Stores.Usable(ctx, db, list[i].Material); err != nil {
			return err
		}
	}
	return nil
}

// into are the pigments that may be stirred into a product, each held to what that takes
// of it. soft is what else is in its base, in shares of its parts: limits are counted of
// the parts, amounts of the base as it is weighed.
func into(list []Pigment, product material.Product, materials material.Shelf, base *colour.Base, soft float64) []Pigment {
	var out []Pigment
	for _, v := range list {
		limit := materials[v.Material].StirLimit(product.Family)
		if !v.Known || limit == 0 {
			continue
		}
		one := *v.p
		one.Most = math.Min(one.Most, limit/(1+soft)/base.CapTimes)
		v.p = &one
		out = append(out, v)
	}
	return out
}

func palette(list []Pigment) colour.Palette {
	out := colour.Palette{}
	for _, v := range list {
		if v.Known {
			out = append(out, v.p)
		}
	}
	return out
}

// NewCalibration is a pigment drawn down: over white and black, or once.
type NewCalibration struct {
	Material string      `json:"material" maxLength:"64"`
	Lot      string      `json:"lot,omitempty" maxLength:"40"`
	Base     string      `json:"base" enum:"silicone,gelatin,latex,foam,wax,clear"`
	Amount   float64     `json:"amount" doc:"g of it in 100 g of base"`
	WhiteG   float64     `json:"white_g" minimum:"0" maximum:"10" doc:"g of titanium white beside it: a tint"`
	X        float64     `json:"thickness_mm"`
	OverW    NewReading  `json:"over_white"`
	OverB    *NewReading `json:"over_black,omitempty" doc:"without it one reading has to do"`
	White    *NewReading `json:"white,omitempty" doc:"the white of the card itself; flat 80 % where nobody read it"`
	Black    *NewReading `json:"black,omitempty"`
	Class    string      `json:"class,omitempty" enum:",white,inorganic,organic,black,blend,fibre,extender" doc:"asked for where it was read once"`
}

// Calibrate keeps what drawdowns say of a pigment.
func (s *Service) Calibrate(ctx context.Context, in NewCalibration) ([]Pigment, error) {
	if !(in.Amount > 0 && in.Amount <= 40) {
		return nil, problem.Invalid("out_of_range", "amount", "How much of it is in 100 g of base? Above 0, at most 40 g.")
	}
	if !(in.X >= 0.005 && in.X <= 50) {
		return nil, problem.Invalid("out_of_range", "thickness_mm", "How thick is the drawdown? 0.005 to 50 mm.")
	}
	base, err := colour.BaseOf(in.Base)
	if err != nil {
		return nil, err
	}
	var known []colour.Dose
	if in.WhiteG > 0 {
		known = []colour.Dose{{Pigment: "TW", G: in.WhiteG}}
	}
	read := func(r *NewReading, field string, usual colour.Spectrum) (colour.Spectrum, error) {
		if r == nil {
			return usual, nil
		}
		got, err := s.take(*r, field+".", nil)
		if err != nil {
			return usual, err
		}
		return got.Spectrum(false)
	}
	white, errW := read(in.White, "white", colour.White)
	black, errB := read(in.Black, "black", colour.Black)
	over, errO := read(&in.OverW, "over_white", colour.White)
	if err := cmp.Or(errW, errB, errO); err != nil {
		return nil, err
	}
	c := Calibration{Way: "single", Class: in.Class, Weak: []int{}}
	drawn := colour.Drawdown{Amount: in.Amount, Known: known, X: in.X, Over: []colour.Over{{Backing: white, R: over}}}
	if in.OverB != nil {
		dark, err := read(in.OverB, "over_black", colour.Black)
		if err != nil {
			return nil, err
		}
		c.Way = "pair"
		drawn.Over = append(drawn.Over, colour.Over{Backing: black, R: dark})
		found, err := colour.Calibrate(base, []colour.Drawdown{drawn})
		if err != nil {
			return nil, atField(err, "over_white.l")
		}
		c.k, c.s, c.RMS = found.K, found.S, found.RMS
		for _, b := range found.Weak {
			c.Weak = append(c.Weak, 380+10*b)
		}
	} else {
		if in.Class == "" {
			return nil, problem.Invalid("missing", "class", "What sort of pigment is it? One reading does not tell.")
		}
		found, clamped, err := colour.Single(base, in.Class, drawn)
		if err != nil {
			return nil, atField(err, "over_white.l")
		}
		c.k, c.s = found.K, found.S
		for _, b := range clamped {
			c.Weak = append(c.Weak, 380+10*b)
		}
	}
	// What it says of its own drawdowns.
	mixed, err := base.MixedOf(append(colour.Palette{{ID: "own", Coefficients: colour.Coefficients{K: c.k, S: c.s}}},
		colour.All()...), append(known, colour.Dose{Pigment: "own", G: in.Amount}), 0)
	if err != nil {
		return nil, err
	}
	for _, o := range drawn.Over {
		again := mixed.Over(in.X, &o.Backing)
		c.Off = math.Max(c.Off, colour.DE00(again.Lab(colour.D65), o.R.Lab(colour.D65)))
	}
	if err := s.keepCalibration(ctx, in, c); err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "colours", "")
	return s.Pigments(ctx)
}

func (s *Service) keepCalibration(ctx context.Context, in NewCalibration, c Calibration) error {
	who, _ := accounts.From(ctx)
	k, errK := json.Marshal(c.k)
	sc, errS := json.Marshal(c.s)
	weak, errW := json.Marshal(c.Weak)
	if err := cmp.Or(errK, errS, errW); err != nil {
		return err
	}
	return s.DB.InTx(ctx, func(tx database.Tx) error {
		var lot any
		if in.Lot != "" {
			id, err := s.Stores.LotID(ctx, tx, in.Material, in.Lot)
			if err != nil {
				return problem.Invalid("unknown_value", "lot", "There is no lot %s of it.", in.Lot)
			}
			lot = id
		}
		done, err := database.Changed(tx.ExecContext(ctx, `INSERT INTO calibration (material_id, lot_id, base, way, class, amount, thickness_mm, k, s, weak, rms, off_de, at, person_id)
			SELECT id, ?,?,?,?,?,?,?,?,?,?,?,?,? FROM material WHERE slug = ? AND family IN ('pigment','flock')`, lot, in.Base, c.Way, c.Class, in.Amount, in.X, string(k), string(sc), string(weak), c.RMS, math.Min(999, c.Off), s.Clock.Now(), who.ID, in.Material))
		if err != nil {
			return fmt.Errorf("keeping the calibration: %w", err)
		}
		if !done {
			return problem.Invalid("unknown_value", "material", "Choose the pigment that was drawn down.")
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "material", Code: in.Material, Act: "calibrated",
			Words: fmt.Sprintf("%s, %g g in 100 g of %s, %g mm", c.Way, in.Amount, in.Base, in.X)})
		return err
	})
}

// Pigments are the shop's pigments with what is known of their colour.
func (s *Service) Pigments(ctx context.Context) ([]Pigment, error) {
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	list, err := pigments(ctx, s.DB, materials)
	if err != nil {
		return nil, err
	}
	return list, s.stocked(ctx, s.DB, list)
}
