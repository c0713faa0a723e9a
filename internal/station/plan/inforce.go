package plan

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"yewmoor/internal/craft/plan"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// The plan that the shop took.

// inForce is the plan that the shop took.
type inForce struct {
	ID     uint64
	At     time.Time
	By     string
	Origin time.Time
	MadeOf string
	Plan   plan.Plan
}

// inForce reads the newest; none where the shop took none yet.
func (s *Service) inForce(ctx context.Context) (*inForce, error) {
	var rows []struct {
		ID     uint64
		At     time.Time
		Name   string
		Origin time.Time
		Doc    string
		MadeOf string `db:"made_of"`
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT r.id, r.at, p.name, r.origin, r.doc, r.made_of FROM run_up_plan r JOIN person p ON p.id = r.person_id ORDER BY r.id DESC LIMIT 1`); err != nil {
		return nil, fmt.Errorf("reading the plan in force: %w", err)
	}
	if len(rows) == 0 {
		return nil, nil
	}
	out := &inForce{ID: rows[0].ID, At: rows[0].At, By: rows[0].Name, Origin: rows[0].Origin, MadeOf: rows[0].MadeOf}
	return out, json.Unmarshal([]byte(rows[0].Doc), &out.Plan)
}

// baseline is the plan in force in the slots of today, for what is still open.
func (p *inForce) baseline(f facts) []plan.Base {
	back := int(f.origin.Sub(p.Origin) / (slotMin * time.Minute))
	var out []plan.Base
	for _, st := range p.Plan.Steps {
		if st.Start-back >= f.shop.Now {
			out = append(out, plan.Base{ID: st.ID, Start: st.Start - back, People: st.People, Resources: st.Resources})
		}
	}
	return out
}

// rebased is the plan in force in the slots of today: where nothing was done and nothing changed it is legal still, and kept.
func (p *inForce) rebased(f facts) *plan.Plan {
	back := int(f.origin.Sub(p.Origin) / (slotMin * time.Minute))
	out := &plan.Plan{Format: plan.Format}
	for _, st := range p.Plan.Steps {
		st.Start, st.End = st.Start-back, st.End-back
		out.Steps = append(out.Steps, st)
	}
	return out
}

// Take puts the plan that is shown in force: what moves from now on is told against it.
func (s *Service) Take(ctx context.Context) (RunUp, error) {
	w, err := s.work(ctx)
	if err != nil {
		return RunUp{}, err
	}
	if w.p == nil {
		return RunUp{}, problem.Conflict("no_plan", "There is no plan to take: %s", cmp.Or(w.view.Bar, "nothing is to be done."))
	}
	err = s.DB.InTx(ctx, func(tx database.Tx) error { return s.putInForce(ctx, tx, w, "") })
	if err != nil {
		return RunUp{}, err
	}
	s.Live.Tell(ctx, "plan", "")
	return s.RunUp(ctx)
}

// putInForce writes a plan down as the one that the shop goes by.
func (s *Service) putInForce(ctx context.Context, tx database.Tx, w worked, words string) error {
	who, _ := accounts.From(ctx)
	doc, err := json.Marshal(w.p)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO run_up_plan (at, person_id, origin, doc, made_of) VALUES (?,?,?,?,?)`, s.Clock.Now(), who.ID, w.f.origin, string(doc), madeOf(w.in)); err != nil {
		return fmt.Errorf("putting the plan in force: %w", err)
	}
	_, err = journal.Add(
		ctx,
		tx,
		journal.Entry{
			At:   s.Clock.Now(),
			Kind: "plan",
			Code: w.f.origin.Format(time.DateOnly),
			Act:  "plan taken",
			Words: strings.TrimSuffix(
				fmt.Sprintf("%d steps; late %d min in all; %s", len(w.p.Steps), w.view.LateMin, words),
				"; ",
			),
		},
	)
	return err
}

// madeOf names what a plan is made of, apart from when it is made and from the plan before it.
func madeOf(in *plan.Instance) string {
	core := *in
	core.Now, core.Baseline, core.SoonWindow = 0, nil, 0
	raw, err := json.Marshal(core)
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:])
}

// unchanged refuses what was worked out from another plan than the one in force: two who carry something out come one after the other,
// and the second looks again. Primary key.
func (s *Service) unchanged(ctx context.Context, tx database.Tx, before worked) error {
	if err := oneAtATime(ctx, tx); err != nil {
		return err
	}
	saw := uint64(0)
	if before.f.force != nil {
		saw = before.f.force.ID
	}
	var now uint64
	if err := tx.GetContext(ctx, &now, `SELECT COALESCE(MAX(id), 0) FROM run_up_plan`); err != nil {
		return fmt.Errorf("reading which plan is in force: %w", err)
	}
	if now != saw {
		return problem.Conflict("changed", "Somebody put another plan in force a moment ago. Look again; nothing was recorded.")
	}
	return nil
}
