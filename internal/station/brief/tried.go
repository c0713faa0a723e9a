package brief

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/advise"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Trial is something that was tried, bought or improvised, and how it went.
type Trial struct {
	ID     uint64    `db:"id" json:"id"`
	Method string    `db:"method" json:"method" doc:"slug of the house method; empty when it belongs to none"`
	What   string    `db:"what" json:"what" doc:"the material or product"`
	Of     string    `db:"material" json:"material,omitempty" doc:"the product of the shop that it was"`
	Job    string    `db:"job" json:"job" doc:"what it was meant for"`
	Region string    `db:"region" json:"region"`
	Result string    `db:"result" json:"result" enum:"worked,partly,failed"`
	Reason string    `db:"reason" json:"reason"`
	Drying string    `db:"drying" json:"drying"`
	Skin   string    `db:"skin" json:"skin" doc:"what it did to the skin"`
	Piece  *string   `db:"piece" json:"piece,omitempty"`
	By     string    `db:"by_name" json:"by"`
	At     time.Time `db:"tried_at" json:"at"`
}

// NewTrial is a trial as it is written down.
type NewTrial struct {
	Method string `json:"method,omitempty" maxLength:"40"`
	What   string `json:"what,omitempty" maxLength:"120" doc:"the product's name where it is left out"`
	Of     string `json:"material,omitempty" maxLength:"64" doc:"the product of the shop that was tried; none for what was improvised"`
	Job    string `json:"job" maxLength:"200"`
	Region string `json:"region,omitempty" maxLength:"32"`
	Result string `json:"result" enum:"worked,partly,failed"`
	Reason string `json:"reason" maxLength:"300"`
	Drying string `json:"drying,omitempty" maxLength:"120"`
	Skin   string `json:"skin,omitempty" maxLength:"200"`
	Piece  string `json:"piece,omitempty" maxLength:"24"`
}

// Trials lists what was tried, newest first: for a region those of it and those
// without one; for none all.
func (s *Service) Trials(ctx context.Context, at string) ([]Trial, error) {
	return s.trials(ctx, `? = '' OR t.region = ? OR t.region = ''`, at, at)
}

// TrialsOf lists the trials of products, and of what was called as they are called,
// newest first.
func (s *Service) TrialsOf(ctx context.Context, slugs []string) ([]Trial, error) {
	if len(slugs) == 0 {
		return []Trial{}, nil
	}
	where, args, err := sqlx.In(`m.slug IN (?) OR t.what IN (SELECT n.name FROM material n WHERE n.slug IN (?))`, slugs, slugs)
	if err != nil {
		return nil, err
	}
	return s.trials(ctx, where, args...)
}

func (s *Service) trials(ctx context.Context, where string, args ...any) ([]Trial, error) {
	list := []Trial{}
	err := s.DB.SelectContext(ctx, &list, `SELECT t.id, t.method, t.what, COALESCE(m.slug, '') AS material, t.job, t.region, t.result, t.reason, t.drying, t.skin, q.code AS piece, p.name AS by_name, t.tried_at
		FROM trial t JOIN person p ON p.id = t.tried_by LEFT JOIN material m ON m.id = t.material_id LEFT JOIN piece q ON q.id = t.piece_id WHERE `+where+` ORDER BY t.id DESC LIMIT 200`, args...)
	if err != nil {
		return nil, fmt.Errorf("reading what was tried: %w", err)
	}
	return list, nil
}

// Try writes a trial down.
func (s *Service) Try(ctx context.Context, in NewTrial) ([]Trial, error) {
	of, err := s.product(ctx, &in)
	if err != nil {
		return nil, err
	}
	for field, v := range map[string]*string{"what": &in.What, "job": &in.Job, "reason": &in.Reason} {
		if *v = strings.TrimSpace(*v); *v == "" {
			return nil, problem.Invalid("missing", field, "Say %s.", map[string]string{"what": "what was tried", "job": "what it was meant for", "reason": "why it went as it did"}[field])
		}
	}
	if _, known := region.Find(in.Region); in.Region != "" && !known {
		return nil, problem.Invalid("unknown_value", "region", "“%.30s” is no region of the body.", in.Region)
	}
	if in.Method != "" && !slices.ContainsFunc(section.Methods, func(m section.Method) bool { return m.Slug == in.Method }) {
		return nil, problem.Invalid("unknown_value", "method", "There is no house method “%.40s”.", in.Method)
	}
	who := accountsOf(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		var id *uint64
		e := journal.Entry{At: s.Clock.Now(), Kind: "trial", Code: in.What, Act: in.Result, Words: in.Job + ": " + in.Reason}
		if len(e.Code) > 60 {
			e.Code = e.Code[:60]
		}
		if in.Piece != "" {
			p, err := piece.Find(ctx, tx, in.Piece)
			if err != nil {
				return problem.Invalid("unknown_value", "piece", "There is no piece %.24s.", in.Piece)
			}
			id, e.Piece = &p.ID, p.ID
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO trial (method, what, material_id, job, region, result, reason, drying, skin, piece_id, tried_at, tried_by) VALUES (?,?,?,?,?,?,?,?,?,?,?,?)`,
			in.Method, in.What, of, in.Job, in.Region, in.Result, in.Reason, in.Drying, in.Skin, id, e.At, who.ID); err != nil {
			return fmt.Errorf("writing the trial: %w", err)
		}
		_, err := journal.Add(ctx, tx, e)
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "brief", in.Piece)
	s.Live.Tell(ctx, "tried", in.Of)
	return s.Trials(ctx, "")
}

// product is the id of the product that was tried, nil for none. A trial without a
// name gets the product's.
func (s *Service) product(ctx context.Context, in *NewTrial) (*uint64, error) {
	if in.Of == "" {
		return nil, nil
	}
	var row struct {
		ID   uint64
		Name string
	}
	err := s.DB.GetContext(ctx, &row, `SELECT id, name FROM material WHERE slug = ?`, in.Of)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, problem.Invalid("unknown_value", "material", "There is no product %.40s.", in.Of)
	}
	if strings.TrimSpace(in.What) == "" {
		in.What = row.Name
	}
	return &row.ID, err
}

// triedFor counts how methods went before: trials for this region, and the
// copies of other pieces whose chosen method it was.
func (s *Service) triedFor(ctx context.Context, p piece.Piece) (map[string]advise.Tried, error) {
	out := map[string]advise.Tried{}
	var rows []struct{ Method, Result, Reason string }
	if err := s.DB.SelectContext(ctx, &rows, `SELECT method, result, reason FROM trial WHERE method <> '' AND (region = ? OR region = '') ORDER BY id`, p.Region); err != nil {
		return nil, err
	}
	for _, r := range rows {
		t := out[r.Method]
		switch r.Result {
		case "worked":
			t.Worked++
		case "partly":
			t.Partly++
		default:
			t.Failed++
		}
		t.Last = r.Reason
		out[r.Method] = t
	}
	var made []struct {
		Method string
		Good   int
		Bad    int
	}
	if err := s.DB.SelectContext(ctx, &made, `SELECT h.method, COALESCE(SUM(`+copies.GoodSQL("c")+`), 0) AS good, COALESCE(SUM(`+copies.ScrappedSQL("c")+`), 0) AS bad
		FROM method_choice h JOIN piece q ON q.id = h.piece_id JOIN copy c ON c.piece_id = q.id WHERE q.region = ? AND h.id = (SELECT MAX(x.id) FROM method_choice x WHERE x.piece_id = h.piece_id) GROUP BY h.method`, p.Region); err != nil {
		return nil, err
	}
	for _, c := range made {
		t := out[c.Method]
		t.Worked += c.Good
		t.Failed += c.Bad
		out[c.Method] = t
	}
	return out, nil
}

// Machine is something that a shop may have.
type Machine struct {
	Name    string `db:"name" json:"name"`
	Has     bool   `db:"has" json:"has"`
	Note    string `db:"note" json:"note"`
	Version int    `db:"version" json:"version" doc:"0 as long as nobody said"`
}

// Equipment lists what the shop has. What nobody said yet is not there: an oven
// or a vacuum that was only supposed holds no plan.
func (s *Service) Equipment(ctx context.Context) ([]Machine, error) {
	var rows []Machine
	if err := s.DB.SelectContext(ctx, &rows, `SELECT name, has, note, version FROM equipment`); err != nil {
		return nil, fmt.Errorf("reading the equipment: %w", err)
	}
	list := make([]Machine, 0, len(advise.Equipment))
	for _, name := range advise.Equipment {
		m := Machine{Name: name}
		if i := slices.IndexFunc(rows, func(r Machine) bool { return r.Name == name }); i >= 0 {
			m = rows[i]
		}
		list = append(list, m)
	}
	return list, nil
}

// SetEquipment says whether the shop has something, unless somebody else said
// so meanwhile.
func (s *Service) SetEquipment(ctx context.Context, in Machine) ([]Machine, error) {
	if !slices.Contains(advise.Equipment, in.Name) {
		return nil, problem.Invalid("unknown_value", "name", "“%.40s” is none of %s.", in.Name, strings.Join(advise.Equipment, ", "))
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		var version int
		err := tx.GetContext(ctx, &version, `SELECT version FROM equipment WHERE name = ? FOR UPDATE`, in.Name)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if version != in.Version {
			return problem.Conflict("changed", "Somebody changed it a moment ago. Nothing was overwritten.")
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO equipment (name, has, note, version) VALUES (?,?,?,1) ON DUPLICATE KEY UPDATE has = VALUES(has), note = VALUES(note), version = version + 1`, in.Name, in.Has, in.Note); err != nil {
			if database.IsDuplicate(err) {
				return problem.Conflict("changed", "Somebody changed it a moment ago. Nothing was overwritten.")
			}
			return fmt.Errorf("keeping the equipment: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "equipment", Code: in.Name, Act: map[bool]string{true: "here", false: "not here"}[in.Has], Words: in.Note})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "brief", "")
	return s.Equipment(ctx)
}
