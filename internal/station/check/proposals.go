package check

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/finish/fault"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Proposal is what a fault asks to be changed next time.
type Proposal struct {
	ID        uint64     `db:"id" json:"id"`
	FaultID   uint64     `db:"fault_id" json:"fault"`
	Copy      string     `db:"copy" json:"copy"`
	Fault     string     `db:"fault_code" json:"-"`
	Name      string     `db:"-" json:"name" doc:"of the fault"`
	GoesTo    string     `db:"goes_to" json:"goes_to" enum:"recipe,section,mould,plan,stores,hand"`
	Code      string     `db:"code" json:"code" doc:"of the recipe, the piece or the mould"`
	Text      string     `db:"text" json:"text"`
	State     string     `db:"state" json:"state" enum:"proposed,agreed,declined"`
	Reason    string     `db:"reason" json:"reason"`
	At        time.Time  `db:"at" json:"at"`
	Who       string     `db:"who" json:"who"`
	SettledAt *time.Time `db:"settled_at" json:"settled_at,omitempty"`
	SettledBy *string    `db:"settled_by" json:"settled_by,omitempty"`
	PieceID   uint64     `db:"piece_id" json:"-"`
}

func (s *Service) proposals(ctx context.Context, db database.Reader, where string, args ...any) ([]Proposal, error) {
	list := []Proposal{}
	if err := db.SelectContext(ctx, &list, `SELECT p.id, p.fault_id, c.code AS copy, c.piece_id, f.fault AS fault_code, p.goes_to, p.code, p.text, p.state, p.reason, p.at, w.name AS who, p.settled_at, b.name AS settled_by FROM fault_proposal p
		JOIN fault f ON f.id = p.fault_id JOIN copy c ON c.id = f.copy_id JOIN person w ON w.id = p.person_id LEFT JOIN person b ON b.id = p.settled_by WHERE `+where+` ORDER BY p.id DESC LIMIT 60`, args...); err != nil {
		return nil, fmt.Errorf("reading what is proposed: %w", err)
	}
	for i := range list {
		if of, known := fault.FaultOf(list[i].Fault); known {
			list[i].Name = of.Name
		}
	}
	return list, nil
}

// Proposals lists what is proposed to a recipe or a mould, or of a piece whatever else faults
// ask about it: its section, its plan, the stores, whoever does it.
func (s *Service) Proposals(ctx context.Context, to, code string) ([]Proposal, error) {
	if to == "" {
		return s.proposals(ctx, s.DB, `p.goes_to NOT IN ('recipe','mould') AND p.code = ?`, code)
	}
	return s.proposals(ctx, s.DB, `p.goes_to = ? AND p.code = ?`, to, code)
}

// NewProposal is one as it is made.
type NewProposal struct {
	GoesTo  string `json:"goes_to" enum:"recipe,section,mould,plan,stores,hand"`
	Text    string `json:"text" minLength:"3" maxLength:"300"`
	Version int    `json:"version" minimum:"1"`
}

// target is what a proposal of a fault goes to: the recipe of the mix that went in, the
// piece whose section it is, the mould that it came out of.
func (s *Service) target(ctx context.Context, db database.Reader, f Fault, to string) (string, error) {
	var code string
	var err error
	switch to {
	case "recipe":
		err = db.GetContext(ctx, &code, `SELECT x.recipe_slug FROM copy c JOIN run_mix rm ON rm.run_id = c.run_id JOIN mix x ON x.id = rm.mix_id WHERE c.id = ? AND x.recipe_slug <> '' ORDER BY x.planned_g DESC LIMIT 1`, f.CopyID)
	case "mould":
		err = db.GetContext(ctx, &code, `SELECT u.code FROM copy c JOIN mould u ON u.id = c.mould_id WHERE c.id = ?`, f.CopyID)
	default:
		return f.Piece, nil
	}
	if errors.Is(err, sql.ErrNoRows) {
		return "", problem.Invalid("unknown_value", "goes_to", "No %s is written down for %s.", to, f.Copy)
	}
	return code, err
}

// Propose carries what to change next time to where it is changed, until somebody agrees.
func (s *Service) Propose(ctx context.Context, id uint64, in NewProposal) (Traced, error) {
	who, _ := accounts.From(ctx)
	return s.change(ctx, id, in.Version, func(tx database.Tx, f Fault) (string, string, error) {
		if f.Cause == "" {
			return "", "", problem.Conflict("no_cause", "Say first what it was: a change rests on a cause.")
		}
		code, err := s.target(ctx, tx, f, in.GoesTo)
		if err != nil {
			return "", "", err
		}
		added, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO fault_proposal (fault_id, goes_to, code, text, at, person_id) VALUES (?,?,?,?,?,?)`, f.ID, in.GoesTo, code, strings.TrimSpace(in.Text), s.Clock.Now(), who.ID))
		if err != nil {
			return "", "", err
		}
		if !added {
			return "", "", problem.Conflict("proposed", "That is proposed already from this fault.")
		}
		return "change proposed", fmt.Sprintf("to %s %s: %s", in.GoesTo, code, in.Text), nil
	})
}

// Settled is what somebody decides about a proposal.
type Settled struct {
	Agree  bool   `json:"agree"`
	Reason string `json:"reason,omitempty" maxLength:"300"`
}

// Settle agrees or declines a proposal. What is agreed to a recipe becomes its next
// version; to a mould, its note; what is agreed to a section stands on its piece until it
// is drawn.
func (s *Service) Settle(ctx context.Context, id uint64, in Settled) ([]Proposal, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	if !in.Agree && in.Reason == "" {
		return nil, problem.Invalid("missing", "reason", "Say why not: whoever proposed it reads it.")
	}
	who, _ := accounts.From(ctx)
	var p Proposal
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM fault_proposal WHERE id = ? FOR UPDATE`, id); err != nil {
			return err
		}
		list, err := s.proposals(ctx, tx, `p.id = ?`, id)
		if err != nil {
			return err
		}
		if len(list) == 0 {
			return problem.NotFound("proposal", fmt.Sprint(id))
		}
		p = list[0]
		if p.State != "proposed" {
			return problem.Conflict("settled", "It is %s already, by %s.", p.State, *p.SettledBy)
		}
		state := "declined"
		if in.Agree {
			state = "agreed"
			why := fmt.Sprintf("%s on %s: %s", p.Name, p.Copy, p.Text)
			switch p.GoesTo {
			case "recipe":
				err = s.Recipes.Carried(ctx, tx, p.Code, p.Text, why)
			case "mould":
				err = s.Moulds.Carried(ctx, tx, p.Code, p.Text)
			}
			if err != nil {
				return err
			}
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `UPDATE fault_proposal SET state = ?, reason = ?, settled_at = ?, settled_by = ? WHERE id = ?`, state, in.Reason, now, who.ID, id); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.PieceID, Kind: "copy", Code: p.Copy, Act: "change " + state, Words: strings.TrimSpace(fmt.Sprintf("to %s %s: %s %s", p.GoesTo, p.Code, p.Text, in.Reason))})
		return err
	})
	if err != nil {
		return nil, err
	}
	for _, topic := range []string{"copies", "recipes", "moulds", "pieces"} {
		s.Live.Tell(ctx, topic, p.Code)
	}
	return s.Proposals(ctx, p.GoesTo, p.Code)
}
