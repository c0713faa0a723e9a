package colour

// Drawdowns of a recipe: read, what to add, and what was put into the cup.

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"time"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Drawdown is a recipe drawn down and read, with what is to be done.
type Drawdown struct {
	ID      uint64     `db:"id" json:"id"`
	X       float64    `db:"thickness_mm" json:"thickness_mm"`
	Backing string     `db:"backing" json:"backing" enum:"skin,black,white"`
	BaseG   float64    `db:"base_g" json:"base_g"`
	Raw     string     `db:"answer" json:"-"`
	Reading *string    `db:"reading" json:"-"`
	AddedAt *time.Time `db:"added_at" json:"added_at,omitempty"`
	At      time.Time  `db:"at" json:"at"`
	By      string     `db:"by_name" json:"by"`
	Read    Reading    `db:"-" json:"read"`
	Answer  Answer     `db:"-" json:"answer"`
}

// Answer is what a drawdown says is to be added.
type Answer struct {
	Verdict string     `json:"verdict" enum:"leave,no_help,corrected,improved,remake"`
	Before  float64    `json:"before" doc:"ΔE00 from the target under daylight, as it is"`
	After   float64    `json:"after" doc:"with what is added"`
	Rounded float64    `json:"rounded" doc:"as it can be weighed"`
	Band    float64    `json:"band" doc:"by how much the reading itself may be off"`
	Add     []Part     `json:"add"`
	BaseG   float64    `json:"add_base_g"`
	Factors []Factor   `json:"factors" doc:"how much of what was weighed seems to be in it"`
	Strange int        `json:"strange_bands" doc:"above 6 the reading and the recipe do not belong together"`
	Now     colour.Lab `json:"as_it_is" doc:"how the piece would look as the batch is"`
	Then    colour.Lab `json:"put_right" doc:"and with what is added"`
	NowR    []float64  `json:"r_as_it_is" doc:"the same as reflectance, 380 to 730 nm"`
	ThenR   []float64  `json:"r_put_right"`
	CostMin int64      `json:"cost_minor"`
}

// Factor is how much of a pigment seems to be in a batch.
type Factor struct {
	Material string  `json:"material"`
	Name     string  `json:"name"`
	Times    float64 `json:"times"`
}

func (s *Service) drawdowns(ctx context.Context, db database.Reader, r *Recipe) error {
	var list []Drawdown
	if err := db.SelectContext(ctx, &list, `SELECT d.id, d.thickness_mm, d.backing, d.base_g, d.answer, d.added_at, d.at, p.name AS by_name,
		(SELECT g.value FROM reading g WHERE g.subject = 'drawdown' AND g.subject_id = d.id AND g.quantity = 'colour' ORDER BY g.id DESC LIMIT 1) AS reading
		FROM drawdown d JOIN person p ON p.id = d.person_id WHERE d.recipe_id = ? ORDER BY d.id`, r.ID); err != nil {
		return fmt.Errorf("reading the drawdowns: %w", err)
	}
	for i := range list {
		if list[i].Reading != nil {
			if err := json.Unmarshal([]byte(*list[i].Reading), &list[i].Read); err != nil {
				return err
			}
		}
		if err := json.Unmarshal([]byte(list[i].Raw), &list[i].Answer); err != nil {
			return err
		}
	}
	r.Drawn = append(r.Drawn, list...)
	return nil
}

// NewDrawdown is a recipe drawn down and read: dry, at a thickness, over something.
type NewDrawdown struct {
	X        float64    `json:"thickness_mm"`
	Backing  string     `json:"backing" enum:"skin,black,white"`
	Dry      bool       `json:"dry" doc:"it has set or dried through"`
	BaseG    float64    `json:"base_g,omitempty" minimum:"0" maximum:"50000" doc:"base that is still in the pot; all that was weighed where it is left out"`
	MayBaseG float64    `json:"may_base_g,omitempty" minimum:"0" maximum:"50000" doc:"base that may be added"`
	Reading  NewReading `json:"reading"`
}

// Draw reads a drawdown of a recipe and works out what to add.
func (s *Service) Draw(ctx context.Context, code string, in NewDrawdown) (Room, error) {
	if !(in.X >= 0.05 && in.X <= 50) {
		return Room{}, problem.Invalid("out_of_range", "thickness_mm", "How thick is the drawdown? 0.05 to 50 mm.")
	}
	if !in.Dry {
		return Room{}, problem.Invalid("not_dry", "dry", "Wait until it has set and is dry: wet it reads darker. Nothing was recorded.")
	}
	var of string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		r, p, err := s.recipe(ctx, tx, code)
		if err != nil {
			return err
		}
		of = p.Code
		if !r.Ready {
			return problem.Conflict("not_mixed", "%s is not weighed yet: there is nothing to draw down.", code)
		}
		base := in.BaseG
		if base == 0 {
			base = r.BaseG
		}
		if base > r.BaseG+1e-6 {
			return problem.Invalid("out_of_range", "base_g", "%.1f g of base were weighed into %s.", r.BaseG, *r.Mix)
		}
		q, err := s.batch(ctx, tx, p, r, in, base)
		if err != nil {
			return err
		}
		expected, err := q.expected()
		if err != nil {
			return err
		}
		read, err := s.take(in.Reading, "reading.", &expected)
		if err != nil {
			return err
		}
		answer, err := q.answer(ctx, read, r.Aim.Allowed)
		if err != nil {
			return err
		}
		return s.keepDrawdown(ctx, tx, r, p, in, base, read, answer)
	})
	if err != nil {
		return Room{}, err
	}
	s.Live.Tell(ctx, "colours", of)
	return s.Room(ctx, of)
}

func (s *Service) keepDrawdown(ctx context.Context, tx database.Tx, r Recipe, p piece.Piece, in NewDrawdown, base float64,
	read Reading, answer Answer) error {
	who, _ := accounts.From(ctx)
	raw, err := json.Marshal(answer)
	if err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO drawdown (recipe_id, thickness_mm, backing, base_g, answer, at, person_id) VALUES (?,?,?,?,?,?,?)`, r.ID, in.X, in.Backing, base, string(raw), s.Clock.Now(), who.ID)
	if err != nil {
		return fmt.Errorf("keeping the drawdown: %w", err)
	}
	id, err := res.LastInsertId()
	if err != nil {
		return err
	}
	if err := s.keep(ctx, tx, "drawdown", uint64(id), read); err != nil {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: p.Code, Act: "drawdown read",
		Words: fmt.Sprintf("%s, %.1f off: %s", r.Code, answer.Before, answer.Verdict)})
	return err
}

// drawn is a batch that was drawn down.
type drawn struct {
	colour.Batched
	list []Pigment
}

// batch puts together what a correction follows from: what was really weighed, the target
// that it was taken for, and where it was read.
func (s *Service) batch(ctx context.Context, tx database.Tx, p piece.Piece, r Recipe, in NewDrawdown, base float64) (*drawn,
	error) {
	m, err := s.matching(ctx, tx, p, Question{BatchG: base})
	if err != nil {
		return nil, err
	}
	target, errT := colour.Measured(r.Aim.R, "target")
	under, errU := colour.Measured(r.Aim.Under, "under")
	if err := cmp.Or(errT, errU); err != nil {
		return nil, err
	}
	q := m.q
	q.Target, q.Backing, q.X, q.Age = target, under, r.X, r.Aim.Aged
	q.Fixed, q.Most, q.Pigments = nil, 3, nil
	// What is at hand: flocking only where some is in already, since its threads show.
	for _, v := range m.list {
		in := slices.ContainsFunc(r.Real, func(p Part) bool { return p.Material == v.Material })
		if v.UsableG > 0 && (in || !v.Fibre) && len(q.Pigments) < mostSearched {
			q.Pigments = append(q.Pigments, v.p)
		}
	}
	if len(q.Pigments) == 0 {
		return nil, problem.Conflict("no_pigment", "No pigment that goes into %s may be taken from the shelf today.", m.Material)
	}
	d := &drawn{Batched: colour.Batched{Asked: q, ReadX: in.X, MostBaseG: in.MayBaseG}, list: m.list}
	for _, w := range r.Real {
		d.Recipe = append(d.Recipe, colour.Dose{Pigment: w.Material, G: w.Per100})
	}
	switch in.Backing {
	case "black":
		d.ReadOver = colour.Black
	case "white":
		d.ReadOver = colour.White
	default:
		d.ReadOver = under
	}
	return d, nil
}

// expected is what the batch should read where it was drawn down.
func (d *drawn) expected() (colour.Lab, error) {
	mixed, err := d.Base.MixedOf(d.Palette, d.Recipe, d.Age)
	if err != nil {
		return colour.Lab{}, err
	}
	r := mixed.Over(d.ReadX, &d.ReadOver)
	return r.Lab(colour.D65), nil
}

// answer is what to add. allowed is how far off it may be.
func (d *drawn) answer(ctx context.Context, read Reading, allowed float64) (Answer, error) {
	if len(read.R) == colour.Bands {
		r, err := colour.Measured(read.R, "reading.file")
		if err != nil {
			return Answer{}, err
		}
		d.Read = &r
	}
	d.ReadLab = read.Lab
	found, err := d.Correct(ctx)
	if err != nil {
		return Answer{}, err
	}
	out := Answer{Verdict: found.Verdict, Before: found.Before.DE00[colour.D65], After: found.After.DE00[colour.D65],
		Rounded: found.RoundedD65, Band: read.Off,
		BaseG: found.AddBaseG, Strange: len(found.Clamped), Now: found.Before.R.Lab(colour.D65), Then: found.After.R.Lab(colour.D65), NowR: found.Before.R[:], ThenR: found.After.R[:], Add: []Part{}, Factors: []Factor{}}
	if out.Before <= math.Min(1, allowed) {
		// Nearer than it has to be: what could still be gained is less than the reading tells.
		out.Verdict, out.After, out.Rounded, out.BaseG, out.Then, out.ThenR = "leave", out.Before, out.Before, 0, out.Now, out.NowR
		found.Add = nil
	}
	for i, a := range found.Add {
		grams := a.G
		if i < len(found.Rounded) {
			grams = found.Rounded[i].G
		}
		j := slices.IndexFunc(d.list, func(v Pigment) bool { return v.Material == a.Pigment })
		v := d.list[j]
		part := Part{Material: v.Material, Name: v.Name, Per100: 100 * a.G / (d.BatchG + found.AddBaseG), Grams: grams}
		if v.DropG > 0 {
			part.Drops = int(math.Round(grams / v.DropG))
		}
		if v.UsableG >= grams {
			part.Lot = v.Lot
		}
		out.CostMin += int64(math.Round(grams / 1000 * float64(v.PriceKg)))
		out.Add = append(out.Add, part)
	}
	for _, f := range found.Factors {
		name := f.Pigment
		for _, v := range d.list {
			if v.Material == f.Pigment {
				name = v.Name
			}
		}
		out.Factors = append(out.Factors, Factor{f.Pigment, name, f.G})
	}
	return out, nil
}

// PutIn puts what the last drawdown asks for into the cup that was drawn from.
func (s *Service) PutIn(ctx context.Context, code string, id uint64) (Room, error) {
	var of, mix string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		r, p, err := s.recipe(ctx, tx, code)
		if err != nil {
			return err
		}
		of = p.Code
		n := len(r.Drawn)
		switch {
		case n == 0 || r.Drawn[n-1].ID != id:
			return problem.Conflict("changed", "It was drawn down again since: go by the newest drawdown.")
		case r.Drawn[n-1].AddedAt != nil:
			return problem.Conflict("added", "This is in the cup already. Draw it down again.")
		case len(r.Drawn[n-1].Answer.Add) == 0:
			return problem.Conflict("nothing", "There is nothing to add.")
		case !r.Open:
			return problem.Conflict("ended", "%s is no longer in its cup: take a recipe again, and draw down the pigment that was weaker.", *r.Mix)
		case r.Drawn[n-1].Answer.BaseG > 0:
			return problem.Conflict("base", "This wants more base as well: mix that by its sheet first.")
		}
		mix = *r.Mix
		var more []Weighed
		for _, a := range r.Drawn[n-1].Answer.Add {
			more = append(more, Weighed{a.Material, a.Grams})
		}
		if err := s.Mixes.PutInto(ctx, tx, mix, more, "colour put right, "+code); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE drawdown SET added_at = ? WHERE id = ?`, s.Clock.Now(), id)
		return err
	})
	if err != nil {
		return Room{}, err
	}
	s.Live.Tell(ctx, "mixes", mix)
	s.Live.Tell(ctx, "colours", of)
	return s.Room(ctx, of)
}
