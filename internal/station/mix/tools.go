package mix

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/craft/hands"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Tool is so many tools or cloths of one kind and state.
type Tool struct {
	ID        uint64          `db:"id" json:"id"`
	Name      string          `db:"name" json:"name"`
	Kind      string          `db:"kind" json:"kind"`
	State     string          `db:"state" json:"state" enum:"good,worn,messy" doc:"messy: kept for messy work"`
	Held      int             `db:"held" json:"held"`
	Place     string          `db:"place" json:"place"`
	CostMinor int64           `db:"cost_minor" json:"cost_minor" doc:"one of it"`
	HoldsML   *int            `db:"holds_ml" json:"holds_ml,omitempty" doc:"of a bowl, to the brim"`
	Dirty     string          `db:"dirty" json:"dirty,omitempty" doc:"what it was used with and not cleaned of"`
	Clean     *hands.Cleaning `db:"-" json:"clean,omitempty" doc:"how that comes off"`
}

// Thrown is what was thrown away.
type Thrown struct {
	Name      string    `db:"name" json:"name"`
	N         int       `db:"n" json:"n"`
	Medium    string    `db:"medium" json:"medium,omitempty"`
	Why       string    `db:"why" json:"why"`
	CostMinor int64     `db:"cost_minor" json:"cost_minor" doc:"all of them"`
	At        time.Time `db:"at" json:"at"`
	By        string    `db:"by_name" json:"by"`
}

// Tools are the shop's tools and cloth, and what of them was thrown away.
type Tools struct {
	List        []Tool   `json:"list"`
	Thrown      []Thrown `json:"thrown" doc:"of the last ninety days, newest first"`
	ThrownMinor int64    `json:"thrown_minor" doc:"what that cost"`
	Mediums     []string `json:"mediums" doc:"what they are cleaned of"`
}

// thrownDays is how long the throw-away list looks back.
const thrownDays = 90

// Tools reads them: what has to be cleaned first.
func (s *Service) Tools(ctx context.Context) (Tools, error) {
	out := Tools{List: []Tool{}, Thrown: []Thrown{}, Mediums: []string{}}
	// A shop has some dozens.
	if err := s.DB.SelectContext(ctx, &out.List, `SELECT id, name, kind, state, held, place, cost_minor, dirty, holds_ml FROM tool WHERE held > 0 ORDER BY dirty = '', kind, name, state`); err != nil {
		return out, fmt.Errorf("reading the tools: %w", err)
	}
	// By index tool_event_thrown.
	if err := s.DB.SelectContext(ctx, &out.Thrown, `SELECT t.name, e.n, e.medium, e.why, e.cost_minor, e.at, p.name AS by_name FROM tool_event e JOIN tool t ON t.id = e.tool_id
		JOIN person p ON p.id = e.person_id WHERE e.act = 'thrown' AND e.at >= ? ORDER BY e.at DESC, e.id DESC`, s.Clock.Now().AddDate(0, 0, -thrownDays)); err != nil {
		return out, fmt.Errorf("reading what was thrown away: %w", err)
	}
	for _, t := range out.Thrown {
		out.ThrownMinor += t.CostMinor
	}
	cleaning := hands.Usual().Cleaning
	for _, c := range cleaning {
		out.Mediums = append(out.Mediums, c.Medium)
	}
	for i, t := range out.List {
		if at := slices.IndexFunc(cleaning, func(c hands.Cleaning) bool { return c.Medium == t.Dirty }); at >= 0 {
			out.List[i].Clean = &cleaning[at]
		}
	}
	return out, nil
}

// NewTools are tools that came.
type NewTools struct {
	Name      string `json:"name" maxLength:"120"`
	Kind      string `json:"kind" enum:"brush,sponge,spatula,whisk,bowl,airbrush,towel,cloth,clothes,other"`
	N         int    `json:"n" minimum:"1" maximum:"1000"`
	Place     string `json:"place,omitempty" maxLength:"80"`
	CostMinor int64  `json:"cost_minor,omitempty" minimum:"0" maximum:"10000000" doc:"one of it"`
	HoldsML   int    `json:"holds_ml,omitempty" minimum:"0" maximum:"1000000" doc:"of a bowl, to the brim"`
}

// ToolsCame notes tools that came; more of a kind that is there are added to it.
func (s *Service) ToolsCame(ctx context.Context, in NewTools) (Tools, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return Tools{}, problem.Invalid("missing", "name", "Say what it is, so that the next one knows which is meant.")
	}
	return s.withTools(ctx, func(tx database.Tx) (uint64, toolEvent, error) {
		if in.HoldsML > 0 && in.Kind != "bowl" {
			return 0, toolEvent{}, problem.Invalid("contradiction", "holds_ml", "Only of a bowl is it said how much it holds.")
		}
		var holds *int
		if in.HoldsML > 0 {
			holds = &in.HoldsML
		}
		id, err := put(ctx, tx, Tool{HoldsML: holds, Name: in.Name, Kind: in.Kind, State: "good", Place: strings.TrimSpace(in.Place),
			CostMinor: in.CostMinor}, in.N)
		return id, toolEvent{act: "came", n: in.N, words: fmt.Sprintf("%d × %s came", in.N, in.Name)}, err
	})
}

// put adds so many to the row of a kind and state. What is known of place and price
// newly stands.
func put(ctx context.Context, tx database.Tx, t Tool, n int) (uint64, error) {
	res, err := tx.ExecContext(ctx, `INSERT INTO tool (name, kind, state, held, place, cost_minor, dirty, holds_ml) VALUES (?,?,?,?,?,?,?,?) ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id), held = held + VALUES(held),
		place = IF(VALUES(place) = '', place, VALUES(place)), cost_minor = IF(VALUES(cost_minor) = 0, cost_minor, VALUES(cost_minor)),
		holds_ml = COALESCE(VALUES(holds_ml), holds_ml)`, t.Name, t.Kind, t.State, n, t.Place, t.CostMinor, t.Dirty, t.HoldsML)
	if err != nil {
		return 0, fmt.Errorf("writing the tool: %w", err)
	}
	id, err := res.LastInsertId()
	return uint64(id), err
}

// ToolAct is what became of a tool.
type ToolAct struct {
	Act    string `json:"act" enum:"used,cleaned,worn,messy,thrown"`
	N      int    `json:"n,omitempty" minimum:"0" maximum:"1000" doc:"of how many; of being worn, kept for messy work or thrown away"`
	Medium string `json:"medium,omitempty" maxLength:"80" doc:"what it was used with"`
	Why    string `json:"why,omitempty" maxLength:"200"`
}

type toolEvent struct {
	act, medium, why, words string
	n                       int
	costMinor               int64
}

// ToolDone notes what became of a tool: used with something, cleaned of it, worn, kept
// for messy work, or thrown away.
func (s *Service) ToolDone(ctx context.Context, id uint64, in ToolAct) (Tools, error) {
	in.Why = strings.TrimSpace(in.Why)
	return s.withTools(ctx, func(tx database.Tx) (uint64, toolEvent, error) {
		var t Tool
		err := tx.GetContext(ctx, &t, `SELECT id, name, kind, state, held, place, cost_minor, dirty, holds_ml FROM tool WHERE id = ? FOR UPDATE`,
			id)
		if errors.Is(err, sql.ErrNoRows) {
			return 0, toolEvent{}, problem.NotFound("tool", fmt.Sprint(id))
		} else if err != nil {
			return 0, toolEvent{}, fmt.Errorf("reading the tool: %w", err)
		}
		e := toolEvent{act: in.Act, medium: in.Medium, why: in.Why, n: t.Held}
		switch in.Act {
		case "used":
			if !slices.ContainsFunc(hands.Usual().Cleaning, func(c hands.Cleaning) bool { return c.Medium == in.Medium }) {
				return 0, e, problem.Invalid("unknown_value", "medium", "With what? Choose it: by that it is cleaned.")
			}
			e.words = t.Name + " used with " + in.Medium
			_, err = tx.ExecContext(ctx, `UPDATE tool SET dirty = ? WHERE id = ?`, in.Medium, id)
		case "cleaned":
			if t.Dirty == "" {
				return 0, e, problem.Conflict("clean", "%s is clean by the record already.", t.Name)
			}
			e.medium, e.words = t.Dirty, t.Name+" cleaned of "+t.Dirty
			_, err = tx.ExecContext(ctx, `UPDATE tool SET dirty = '' WHERE id = ?`, id)
		default:
			err = away(ctx, tx, t, in, &e)
		}
		return id, e, err
	})
}

// away takes some of a row: into another state, or out of the shop.
func away(ctx context.Context, tx database.Tx, t Tool, in ToolAct, e *toolEvent) error {
	if in.N < 1 || in.N > t.Held {
		return problem.Invalid("out_of_range", "n", "Of how many? There are %d.", t.Held)
	}
	e.n = in.N
	if e.medium == "" {
		e.medium = t.Dirty
	}
	if _, err := tx.ExecContext(ctx, `UPDATE tool SET held = held - ? WHERE id = ?`, in.N, t.ID); err != nil {
		return fmt.Errorf("taking the tool away: %w", err)
	}
	if in.Act == "thrown" {
		if in.Why == "" {
			return problem.Invalid("missing", "why", "Say what spoiled it: that is what the next one is spared.")
		}
		e.costMinor = int64(in.N) * t.CostMinor
		e.words = fmt.Sprintf("%d × %s thrown away: %s", in.N, t.Name, in.Why)
		return nil
	}
	if in.Act == t.State {
		return problem.Conflict("same", "%s stands as that already.", t.Name)
	}
	t.State = in.Act
	e.words = fmt.Sprintf("%d × %s %s", in.N, t.Name, map[string]string{"worn": "worn", "messy": "kept for messy work"}[in.Act])
	_, err := put(ctx, tx, t, in.N)
	return err
}

// withTools does an act on tools and writes it down.
func (s *Service) withTools(ctx context.Context, do func(database.Tx) (uint64, toolEvent, error)) (Tools, error) {
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		id, e, err := do(tx)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO tool_event (tool_id, act, n, medium, why, cost_minor, at, person_id) VALUES (?,?,?,?,?,?,?,?)`, id, e.act, e.n, e.medium, e.why, e.costMinor, now, who.ID); err != nil {
			return fmt.Errorf("writing what became of the tool: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "tool", Code: fmt.Sprint(id), Act: e.act, Words: e.words})
		return err
	})
	if err != nil {
		return Tools{}, err
	}
	s.Live.Tell(ctx, "tools", "")
	return s.Tools(ctx)
}
