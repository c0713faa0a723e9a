package colour

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
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
	"yewmoor/internal/shelf"
)

// Mixes write a coloured body down as a mix, tell what was really weighed, and put more
// into a cup; wired to the mixing room.
type Mixes interface {
	Tinted(ctx context.Context, tx database.Tx, t Tint) (code string, err error)
	InCup(ctx context.Context, db database.Reader, code string) (InCup, error)
	PutInto(ctx context.Context, tx database.Tx, code string, more []Weighed, why string) error
}

// Tint is a body with its colour as the mixing room takes it.
type Tint struct {
	Piece, Layer, Material string
	BaseG                  float64
	Pigments               []Weighed // g in 100 g of base
}

// Weighed is so much of a pigment.
type Weighed struct {
	Material string
	Grams    float64
}

// InCup is what was really weighed.
type InCup struct {
	State       string
	Ended, Done bool
	BaseG       float64
	Colour      []Weighed
}

// Recipe is a recipe for the body of a piece that somebody took.
type Recipe struct {
	ID       uint64     `db:"id" json:"-"`
	Code     string     `db:"code" json:"code"`
	Layer    string     `db:"layer" json:"layer"`
	Slug     string     `db:"slug" json:"material"`
	Name     string     `db:"name" json:"material_name"`
	Section  int        `db:"section_number" json:"section"`
	Base     string     `db:"base" json:"base"`
	X        float64    `db:"thickness_mm" json:"thickness_mm"`
	After    *string    `db:"after" json:"after,omitempty" doc:"the recipe that it puts right"`
	Mix      *string    `db:"mix" json:"mix,omitempty"`
	MixState *string    `db:"mix_state" json:"mix_state,omitempty"`
	At       time.Time  `db:"at" json:"at"`
	By       string     `db:"by_name" json:"by"`
	RawParts string     `db:"parts" json:"-"`
	RawAim   string     `db:"target" json:"-"`
	Parts    []Part     `db:"-" json:"parts"`
	Aim      keptAim    `db:"-" json:"aim"`
	Real     []Part     `db:"-" json:"real" doc:"as it was really weighed, g in 100 g of base; empty while it was not"`
	BaseG    float64    `db:"-" json:"base_g" doc:"base in the cup"`
	Ready    bool       `db:"-" json:"ready" doc:"everything is in: a drawdown of it can be read"`
	Open     bool       `db:"-" json:"open" doc:"more can still come into the cup"`
	Drawn    []Drawdown `db:"-" json:"drawdowns"`
}

// keptAim is the target that a recipe was taken for.
type keptAim struct {
	Words   string     `json:"words"`
	Lab     colour.Lab `json:"lab"`
	R       []float64  `json:"r"`
	Under   []float64  `json:"under"`
	Allowed float64    `json:"allowed"`
	Aged    float64    `json:"aged"`
}

const recipeColumns = `SELECT c.id, c.code, c.layer, m.slug, m.name, c.section_number, c.base, c.thickness_mm, (SELECT a.code FROM colour_recipe a WHERE a.id = c.after_id) AS after,
	x.code AS mix, x.state AS mix_state, c.at, p.name AS by_name, c.parts, c.target FROM colour_recipe c JOIN material m ON m.id = c.material_id JOIN person p ON p.id = c.person_id LEFT JOIN mix x ON x.id = c.mix_id `

func (r *Recipe) open() error {
	if err := json.Unmarshal([]byte(r.RawParts), &r.Parts); err != nil {
		return err
	}
	r.Real, r.Drawn = []Part{}, []Drawdown{}
	return json.Unmarshal([]byte(r.RawAim), &r.Aim)
}

// recipesOf reads what was taken for a piece, the newest first; index colour_recipe_piece.
func (s *Service) recipesOf(ctx context.Context, db database.Reader, p piece.Piece) ([]Recipe, error) {
	list := []Recipe{}
	if err := db.SelectContext(ctx, &list, recipeColumns+`WHERE c.piece_id = ? ORDER BY c.id DESC LIMIT 30`, p.ID); err != nil {
		return nil, fmt.Errorf("reading the colour recipes: %w", err)
	}
	for i := range list {
		if err := s.fill(ctx, db, &list[i]); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// fill reads what became of a recipe.
func (s *Service) fill(ctx context.Context, db database.Reader, r *Recipe) error {
	if err := r.open(); err != nil {
		return err
	}
	if err := s.drawdowns(ctx, db, r); err != nil {
		return err
	}
	if r.Mix == nil {
		return nil
	}
	cup, err := s.Mixes.InCup(ctx, db, *r.Mix)
	if err != nil {
		return err
	}
	r.BaseG, r.Ready, r.Open = cup.BaseG, cup.Done && cup.BaseG > 0, !cup.Ended
	if cup.BaseG <= 0 {
		return nil
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return err
	}
	for _, w := range cup.Colour {
		r.Real = append(r.Real, Part{Material: w.Material, Name: materials[w.Material].Name, Per100: 100 * w.Grams / cup.BaseG,
			Grams: w.Grams})
	}
	return nil
}

// lastRecipe is what was mixed last for a piece, else for its wearer.
func lastRecipe(ctx context.Context, db database.Reader, p piece.Piece) (Recipe, error) {
	var r Recipe
	err := db.GetContext(ctx, &r, recipeColumns+"JOIN piece q ON q.id = c.piece_id JOIN `character` h ON h.id = q.character_id WHERE c.piece_id = ? OR h.performer_id = ? ORDER BY c.piece_id = ? DESC, c.id DESC LIMIT 1", p.ID, p.PerformerID, p.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return r, problem.Conflict("no_last", "Nothing was mixed before for %s or its wearer.", p.Code)
	}
	if err != nil {
		return r, fmt.Errorf("reading the last recipe: %w", err)
	}
	return r, r.open()
}

func (s *Service) recipe(ctx context.Context, db database.Reader, code string) (Recipe, piece.Piece, error) {
	var r Recipe
	var owner struct{ Piece string }
	err := db.GetContext(ctx, &r, recipeColumns+`WHERE c.code = ?`, code)
	if errors.Is(err, sql.ErrNoRows) {
		return r, piece.Piece{}, problem.NotFound("colour recipe", code)
	}
	if err != nil {
		return r, piece.Piece{}, fmt.Errorf("reading the recipe: %w", err)
	}
	if err := db.GetContext(ctx, &owner, `SELECT q.code AS piece FROM colour_recipe c JOIN piece q ON q.id = c.piece_id WHERE c.id = ?`, r.ID); err != nil {
		return r, piece.Piece{}, err
	}
	p, err := piece.Find(ctx, db, owner.Piece)
	if err != nil {
		return r, p, err
	}
	return r, p, s.fill(ctx, db, &r)
}

// Taken is a recipe that somebody takes, and how much of it is mixed.
type Taken struct {
	Parts []TakenPart `json:"parts" minItems:"1" maxItems:"5"`
	BaseG float64     `json:"base_g" doc:"g of base: a trial, or the batch"`
	After string      `json:"after,omitempty" maxLength:"16" doc:"the recipe that it puts right"`
}

// TakenPart is one pigment of it.
type TakenPart struct {
	Material string  `json:"material" maxLength:"64"`
	Per100   float64 `json:"per_100_g" minimum:"0" maximum:"40"`
}

// Take makes a recipe the piece's own and writes the mix down that tries it. What it does
// is worked out anew; limits, lots and the rule book are asked inside the act.
func (s *Service) Take(ctx context.Context, code string, in Taken) (Room, error) {
	if !(in.BaseG >= 1 && in.BaseG <= 50_000) {
		return Room{}, problem.Invalid("out_of_range", "base_g", "How much base? 1 g to 50 kg.")
	}
	var mix string
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		m, err := s.matching(ctx, tx, p, Question{BatchG: in.BaseG})
		if err != nil {
			return err
		}
		parts, err := m.taken(in)
		if err != nil {
			return err
		}
		t := Tint{Piece: code, Layer: m.Layer, Material: m.product.Slug, BaseG: in.BaseG}
		for _, x := range append(slices.Clone(m.Fixed), parts...) {
			t.Pigments = append(t.Pigments, Weighed{x.Material, x.Per100})
		}
		if mix, err = s.Mixes.Tinted(ctx, tx, t); err != nil {
			return err
		}
		return s.writeRecipe(ctx, tx, p, m, parts, mix, in.After)
	})
	if err != nil {
		return Room{}, err
	}
	s.Live.Tell(ctx, "mixes", mix)
	s.Live.Tell(ctx, "pieces", code)
	s.Live.Tell(ctx, "colours", code)
	return s.Room(ctx, code)
}

// taken checks a recipe by the limits of its base and writes it out as it is weighed.
func (m *matching) taken(in Taken) ([]Part, error) {
	load := 0.0
	for _, f := range m.Fixed {
		load += f.Per100
	}
	var parts []Part
	for i, x := range in.Parts {
		at := fmt.Sprintf("parts[%d].", i)
		j := slices.IndexFunc(m.list, func(v Pigment) bool { return v.Material == x.Material })
		if j < 0 {
			return nil, problem.Invalid("unknown_value", at+"material", "%s does not go into %s.", x.Material, m.Material)
		}
		if slices.ContainsFunc(parts, func(p Part) bool { return p.Material == x.Material }) {
			return nil, problem.Invalid("contradiction", at+"material", "%s stands in it twice.", m.list[j].Name)
		}
		most := m.q.Base.Cap(m.list[j].p)
		if !(x.Per100 > 0 && x.Per100 <= most+1e-6) {
			return nil, problem.Invalid("out_of_range", at+"per_100_g", "%s: above 0 and at most %.2f g in 100 g of this base.",
				m.list[j].Name, most)
		}
		load += x.Per100
		part, err := m.part(colour.Dose{Pigment: x.Material, G: x.Per100}, math.Round(x.Per100*in.BaseG)/100)
		if err != nil {
			return nil, err
		}
		parts = append(parts, part)
	}
	if load > m.MaxLoad+1e-6 {
		return nil, problem.Invalid("out_of_range", "parts", "%s takes at most %.1f g of pigment in 100; this has %.2f.", m.Material,
			m.MaxLoad, load)
	}
	return parts, nil
}

func (s *Service) writeRecipe(ctx context.Context, tx database.Tx, p piece.Piece, m *matching, parts []Part, mix,
	after string) error {
	number, err := database.NextNumber(ctx, tx, "colour_recipe")
	if err != nil {
		return err
	}
	rawParts, errP := json.Marshal(append(slices.Clone(m.Fixed), parts...))
	aim, errA := json.Marshal(keptAim{m.Aim.Words, m.Aim.Lab, m.Aim.r[:], m.Aim.under[:], m.Aim.Allowed, m.Aged})
	if err := cmp.Or(errP, errA); err != nil {
		return err
	}
	who, _ := accounts.From(ctx)
	code := fmt.Sprintf("CR-%03d", number)
	var before any
	if after != "" {
		before = after
	}
	done, err := database.Changed(tx.ExecContext(ctx, `INSERT INTO colour_recipe (code, piece_id, section_number, layer, material_id, after_id, mix_id, base, thickness_mm, target, parts, at, person_id)
		SELECT ?,?,?,?,m.id,(SELECT a.id FROM colour_recipe a WHERE a.code = ? AND a.piece_id = ?),x.id,?,?,?,?,?,? FROM material m JOIN mix x ON x.code = ? WHERE m.slug = ?`,
		code, p.ID, m.Section, m.Layer, before, p.ID, m.Base, math.Max(0.05,
			m.CentreMM), string(aim), string(rawParts), s.Clock.Now(), who.ID, mix, m.product.Slug))
	if err != nil {
		return fmt.Errorf("keeping the recipe: %w", err)
	}
	if !done {
		return fmt.Errorf("keeping the recipe %s: its mix %s is not there", code, mix)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "piece", Code: p.Code,
		Act: "colour recipe taken", Words: code + ", mixed as " + mix})
	return err
}
