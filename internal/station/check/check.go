// Package check is where a finished copy is judged: laid beside what was asked, measured,
// tried on; its faults are traced to their causes; and it is accepted, sent back for
// repair, kept for less, or scrapped, always with who and why.
package check

import (
	"context"
	"fmt"
	"strings"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/files"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/turns"
)

// Finish tells what is still to be done to a copy, and takes work back; wired to the
// finishing bench.
type Finish interface {
	Missing(ctx context.Context, db database.Reader, code string) ([]string, error)
	PutBack(ctx context.Context, tx database.Tx, code string, items []string, mend work.Item) ([]string, error)
	// Stand tells of the edges and counts of a copy what a verdict rests on.
	Stand(ctx context.Context, db database.Reader, code string) (Stand, error)
}

// Stand is how a copy stands at the bench: what of its edges does not do what it is meant
// to, how much of its hair is in, and how hard its fixings are loaded.
type Stand struct {
	Edges     []string
	Edge      float64  // the highest visibility that was measured; 0 for none
	SeamMM    *float64 // the highest step of a seam
	EdgeMM    *float64 // and of an edge
	HairShare *float64
	Load      *float64
	Hands     []string // who set ticks
	Organic   bool
	Passes    *float64 // of solvent, over one stretch
}

// Build ends what a scrapped copy leaves on the shelf; wired to the build room.
type Build interface {
	CopyScrapped(ctx context.Context, tx database.Tx, c copies.Copy) error
}

// Brief tells which features of the brief nobody saw on a piece yet; wired to
// the brief.
type Brief interface {
	Missing(ctx context.Context, db database.Reader, pieceID, copyID uint64) ([]string, error)
}

// Moulds tells how a mould stood at a moment; wired to the mould room.
type Moulds interface {
	// StoodAt is what a mould of plaster weighed against its dry mass; known is false where
	// nobody weighed it before.
	StoodAt(ctx context.Context, db database.Reader, mouldID uint64, before string) (share float64, known bool, err error)
	// Carried keeps what somebody agreed to change with a mould.
	Carried(ctx context.Context, tx database.Tx, code, text string) error
}

// Recipes takes what somebody agreed to change into a recipe; wired to the recipes.
type Recipes interface {
	Carried(ctx context.Context, tx database.Tx, slug, text, why string) error
}

// Service does the use cases of the checking bench.
type Service struct {
	DB      *database.DB
	Clock   clock.Clock
	Live    *live.Hub
	Files   *files.Store
	Pieces  *piece.Service
	Finish  Finish
	Brief   Brief
	Build   Build
	Moulds  Moulds
	Recipes Recipes
	Turns   *turns.Turns
}

// Outcome is what follows from a verdict.
type Outcome struct {
	State copies.State `json:"state" enum:"making,made,repair,accepted,scrapped,packed,handed_over,spent"`
	UseAs string       `json:"use_as,omitempty"`
	copies.Count
	// NeedsRun asks for another run: fewer copies are good, coming or begun than
	// are wanted.
	NeedsRun bool   `json:"needs_run"`
	Words    string `json:"words"`
}

// NewVerdict is what somebody decides about a copy.
type NewVerdict struct {
	Verdict string `json:"verdict" enum:"accept,repair,downgrade,scrap"`
	Reason  string `json:"reason,omitempty" maxLength:"300"`
	UseAs   string `json:"use_as,omitempty" enum:",distant,wet,double" doc:"what a copy is kept for that is not good enough for what it was made for"`
	Fault   uint64 `json:"fault,omitempty" maximum:"9007199254740991" doc:"the fault that it rests on"`
	// Items go back on the bench; Mend is one more thing to do there.
	Items   []string `json:"items,omitempty" maxItems:"40"`
	Mend    string   `json:"mend,omitempty" maxLength:"160"`
	Minutes *float64 `json:"minutes,omitempty" minimum:"0" maximum:"6000" doc:"hands that the mending will take"`
	// Seen is how many verdicts stood there as it was decided: where another came
	// meanwhile, nothing is recorded.
	Seen *int `json:"seen,omitempty" minimum:"0" maximum:"10000"`
}

var becomes = map[string]copies.State{"accept": copies.Accepted, "repair": copies.Repair, "downgrade": copies.Accepted, "scrap": copies.Scrapped}

// whole refuses a verdict that does not say what it must.
func (v *NewVerdict) whole() error {
	v.Reason = strings.TrimSpace(v.Reason)
	switch {
	case v.Verdict != "accept" && v.Reason == "":
		return problem.Invalid("missing", "reason", "Say why: the next run learns from it.")
	case v.Verdict == "downgrade" && v.UseAs == "":
		return problem.Invalid("missing", "use_as", "Say what it is still good for: far from the camera, wet, or a double.")
	case v.Verdict != "downgrade" && v.UseAs != "":
		return problem.Invalid("contradiction", "use_as", "Only what is kept for less says what for.")
	case v.Verdict != "repair" && (len(v.Items) > 0 || v.Mend != ""):
		return problem.Invalid("contradiction", "items", "Only a repair puts work back on the bench.")
	}
	return nil
}

// Judge records a verdict. Two at once: the second finds that one stands already.
func (s *Service) Judge(ctx context.Context, code string, in NewVerdict) (Outcome, error) {
	if err := in.whole(); err != nil {
		return Outcome{}, err
	}
	var out Outcome
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Lock(ctx, tx, code)
		if err != nil {
			return err
		}
		if err := s.nobodyElse(ctx, tx, c, in.Seen); err != nil {
			return err
		}
		to := becomes[in.Verdict]
		if !to.MayFollow(c.State) {
			return problem.Conflict("not_here", "%s is %s and cannot be judged so now. Nothing was changed.", code, c.State.Text())
		}
		now := s.Clock.Now()
		about := journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code}
		switch in.Verdict {
		case "accept":
			if err := s.accept(ctx, tx, c, in, about); err != nil {
				return err
			}
		case "downgrade":
			if err := s.answered(ctx, tx, c); err != nil {
				return err
			}
			if err := hadItsTime(ctx, c, in.Reason); err != nil {
				return err
			}
			if err := s.safe(ctx, tx, c, about); err != nil {
				return err
			}
		}
		if err := s.ofCopy(ctx, tx, c, in.Fault); err != nil {
			return err
		}
		var back []string
		if in.Verdict == "repair" {
			mend := work.Item{Text: strings.TrimSpace(in.Mend), Why: in.Reason}
			if mend.Text == "" && len(in.Items) == 0 {
				mend.Text = in.Reason // something is to be done, or it would be good
			}
			if in.Minutes != nil {
				mend.Minutes = *in.Minutes
			}
			if back, err = s.Finish.PutBack(ctx, tx, code, in.Items, mend); err != nil {
				return err
			}
		}
		if err := copies.Verdict(ctx, tx, now, c, copies.Judgement{Verdict: in.Verdict, Reason: in.Reason, UseAs: in.UseAs, FaultID: in.Fault, Items: strings.Join(back, "; "), Minutes: in.Minutes}); err != nil {
			return err
		}
		words := in.Reason
		if len(back) > 0 {
			words = strings.TrimSpace(words + ". Back on the bench: " + strings.Join(back, "; "))
		}
		step := copies.Step{To: to, Reason: in.Reason, UseAs: in.UseAs, Words: words}
		if in.UseAs != "" {
			step.Act = copies.UseText(in.UseAs)
		}
		if err := copies.Move(ctx, tx, now, c, step); err != nil {
			return err
		}
		if to == copies.Scrapped {
			if err := s.Build.CopyScrapped(ctx, tx, c); err != nil {
				return err
			}
		}
		out, err = outcome(ctx, tx, c.PieceID, to)
		out.UseAs = in.UseAs
		return err
	})
	if err != nil {
		return Outcome{}, err
	}
	for _, topic := range []string{"copies", "runs", "pieces", "pots"} {
		s.Live.Tell(ctx, topic, code)
	}
	return out, nil
}

// nobodyElse refuses a verdict that was decided before another came in.
func (s *Service) nobodyElse(ctx context.Context, tx database.Tx, c copies.Copy, seen *int) error {
	if seen == nil {
		return nil
	}
	var n int
	if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM verdict WHERE copy_id = ?`, c.ID); err != nil {
		return err
	}
	if n != *seen {
		return problem.Conflict("judged", "Somebody judged %s a moment ago: it is %s. Look at it again; nothing was changed.", c.Code, c.State.Text())
	}
	return nil
}

// accept asks everything that a copy must stand before it is good.
func (s *Service) accept(ctx context.Context, tx database.Tx, c copies.Copy, in NewVerdict, about journal.Entry) error {
	if err := s.whole(ctx, tx, c); err != nil {
		return err
	}
	if err := s.answered(ctx, tx, c); err != nil {
		return err
	}
	if err := hadItsTime(ctx, c, in.Reason); err != nil {
		return err
	}
	if err := s.safe(ctx, tx, c, about); err != nil {
		return err
	}
	found, err := s.found(ctx, tx, c)
	if err != nil {
		return err
	}
	return piece.Meet(ctx, tx, about, found...)
}

// safe asks the rule book about what the copy is made of: an open stop holds it back.
func (s *Service) safe(ctx context.Context, tx database.Tx, c copies.Copy, about journal.Entry) error {
	p, err := piece.Find(ctx, tx, c.Piece)
	if err != nil {
		return err
	}
	return s.Pieces.AskRules(ctx, tx, p, c.SectionNumber, about)
}

// found is what was measured of a copy and is worse than its finish grade, and who may not
// be the only one who says that it is good.
func (s *Service) found(ctx context.Context, db database.Reader, c copies.Copy) ([]rules.Finding, error) {
	var out []rules.Finding
	stand, err := s.Finish.Stand(ctx, db, c.Code)
	if err != nil {
		return nil, err
	}
	if len(stand.Edges) > 0 {
		out = append(out, rules.Finding{ID: "CHK-1", Severity: rules.Stop, Above: "edges", Reason: fmt.Sprintf("Still to be seen at the camera's distance: %s.", strings.Join(stand.Edges, ", ")),
			Remedy: "Repair the stretch, say that it may stay in view, or keep the copy for farther away."})
	}
	last, known, err := newest(ctx, db, c.ID)
	if err != nil {
		return nil, err
	}
	if known && len(last.Fails) > 0 {
		out = append(out, rules.Finding{ID: "CHK-1", Severity: rules.Stop, Above: "compared", Reason: fmt.Sprintf("Beside what was asked it is off: %s; it passes as %s.", failWords(last.Fails), last.PassesAs),
			Remedy: "Repair it, exempt what is meant to differ, or keep it for less."})
	}
	who, _ := accounts.From(ctx)
	brief, _, err := piece.AgreedBrief(ctx, db, c.PieceID)
	if err != nil {
		return nil, err
	}
	if brief.Camera == "close" && who.Role != accounts.Lead && len(stand.Hands) == 1 && stand.Hands[0] == who.Name {
		out = append(out, rules.Finding{ID: "CHK-2", Severity: rules.Warn, Reason: "You finished it alone, and the camera comes close.", Remedy: "Let somebody else look at it, or say why not."})
	}
	return out, nil
}

// TakeBack takes a verdict back that was given to the wrong copy, or wrongly: it
// may, as long as the copy is in no kit. A scrapped one that was never out of its
// mould stays scrapped.
func (s *Service) TakeBack(ctx context.Context, code, reason string) (Outcome, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" {
		return Outcome{}, problem.Invalid("missing", "reason", "Say what was wrong with the verdict.")
	}
	var out Outcome
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Lock(ctx, tx, code)
		if err != nil {
			return err
		}
		var last struct {
			ID   uint64
			Kits string
			Was  bool
		}
		if err := tx.GetContext(ctx, &last, `SELECT COALESCE((SELECT MAX(id) FROM verdict WHERE copy_id = c.id AND back_at IS NULL), 0) AS id,
			COALESCE((SELECT GROUP_CONCAT(k.code) FROM kit_copy kc JOIN kit k ON k.id = kc.kit_id WHERE kc.copy_id = c.id), '') AS kits,
			EXISTS (SELECT 1 FROM work_item w WHERE w.copy_id = c.id) AS was FROM copy c WHERE c.id = ?`, c.ID); err != nil {
			return err
		}
		switch {
		case last.Kits != "":
			return problem.Conflict("depends", "%s is in kit %s: unpack it there first, while the kit has not left.", code, last.Kits)
		case last.ID == 0:
			return problem.Conflict("no_verdict", "Nobody has judged %s.", code)
		case c.State == copies.Scrapped && !last.Was:
			return problem.Conflict("depends", "%s was scrapped while it was being made: its pot is over and its mould is free. Begin another.", code)
		}
		now := s.Clock.Now()
		who, _ := accounts.From(ctx)
		if _, err := tx.ExecContext(ctx, `UPDATE verdict SET back_at = ?, back_by = ?, back_reason = ? WHERE id = ?`, now, who.ID, reason, last.ID); err != nil {
			return err
		}
		if err := copies.Back(ctx, tx, now, c, copies.Made, reason); err != nil {
			return err
		}
		out, err = outcome(ctx, tx, c.PieceID, copies.Made)
		return err
	})
	if err != nil {
		return Outcome{}, err
	}
	for _, topic := range []string{"copies", "runs", "pieces"} {
		s.Live.Tell(ctx, topic, code)
	}
	return out, nil
}

// whole says what keeps a copy from being accepted.
func (s *Service) whole(ctx context.Context, tx database.Tx, c copies.Copy) error {
	missing, err := s.Finish.Missing(ctx, tx, c.Code)
	if err != nil {
		return err
	}
	if len(missing) > 0 {
		return problem.Conflict("not_finished", "Still to do before it can be accepted: %s.", strings.Join(missing, "; "))
	}
	if missing, err = s.Brief.Missing(ctx, tx, c.PieceID, c.ID); err != nil {
		return err
	}
	if len(missing) > 0 {
		return problem.Conflict("features_missing", "The brief asks for more than was seen on it yet: %s. Tick them here, or change the brief.", strings.Join(missing, ", "))
	}
	return nil
}

// hadItsTime stops a copy that was taken out before it was cured or dry: a lead
// may sign for it with a reason, which goes onto its sheet.
func hadItsTime(ctx context.Context, c copies.Copy, reason string) error {
	if c.EarlyAt == nil {
		return nil
	}
	words := fmt.Sprintf("%s was taken out at %.0f %% of its cure or drying: it may be soft inside, sweat, and stick.", c.Code, 100**c.EarlyAt)
	if who, _ := accounts.From(ctx); who.Role != accounts.Lead {
		return problem.Conflict("too_early", "%s Repair or scrap it, or let a lead accept it.", words)
	}
	if reason == "" {
		return problem.Invalid("missing", "reason", "%s Say why it is good all the same; that goes onto its sheet.", words)
	}
	return nil
}

func outcome(ctx context.Context, tx database.Tx, pieceID uint64, state copies.State) (Outcome, error) {
	n, err := copies.CountOf(ctx, tx, pieceID)
	out := Outcome{State: state, Count: n, NeedsRun: n.NeedsRun()}
	out.Words = fmt.Sprintf("%d of %d copies good, %d coming.", n.Good, n.Wanted, n.Coming+n.Begun)
	if out.NeedsRun {
		out.Words += fmt.Sprintf(" Another run is needed for %d.", n.Wanted-n.Good-n.Coming-n.Begun)
	}
	return out, err
}
