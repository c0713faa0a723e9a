package piece

import (
	"context"
	"fmt"
	"net/http"
	"strings"

	"yewmoor/internal/craft/rules"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// SayWhy is the code of an act that goes on as soon as somebody says why.
const SayWhy = "say_why"

// Meet lets an act go on in spite of what speaks against it, or says why it may
// not: a never stops it for good, a stop until a lead gives a reason, a warn
// until anybody does, and a tip never. It is called inside the act, whose
// reason comes with the request; what was gone on against, by whom and why is
// kept with the act and falls with it. about names the thing of the act.
func Meet(ctx context.Context, tx database.Tx, about journal.Entry, findings ...rules.Finding) error {
	who, _ := accounts.From(ctx)
	because := web.Because(ctx)
	open, err := unmet(ctx, tx, about, findings)
	if err != nil {
		return err
	}
	for _, f := range open {
		words := strings.TrimSpace(fmt.Sprintf("%s: %s %s", f.ID, f.Reason, f.Remedy))
		var no *problem.Problem
		switch {
		case f.Severity == rules.Never:
			no = problem.New(http.StatusConflict, "rule", "", "%s Nobody can sign this away. Nothing was recorded.", words)
		case f.Severity == rules.Stop && who.Role != accounts.Lead:
			no = problem.New(http.StatusConflict, "rule", "", "%s A lead may go on with a reason. Nothing was recorded.", words)
		case because == "":
			no = problem.New(http.StatusConflict, SayWhy, "", "%s Nothing was recorded yet.", words)
		}
		if no != nil {
			no.Data = f
			return no
		}
	}
	for _, f := range open {
		if _, err := tx.ExecContext(ctx, `INSERT INTO gone_on (at, person_id, piece_id, kind, code, rule, place, reason) VALUES (?,?,NULLIF(?,0),?,?,?,?,?)`, about.At, who.ID, about.Piece, about.Kind, about.Code, f.ID, f.At(), because); err != nil {
			return fmt.Errorf("noting what was gone on against: %w", err)
		}
		entry := about
		entry.Act, entry.Words = "gone on with a reason", f.ID+": "+because
		if rules.Private(f.ID) {
			entry.Words = "" // that it was, never what of a person's health
		}
		if _, err := journal.Add(ctx, tx, entry); err != nil {
			return err
		}
	}
	return nil
}

// unmet are the findings that nobody has answered for this thing yet: what a run
// or a mix went on against once is not asked at its every stage.
func unmet(ctx context.Context, tx database.Tx, about journal.Entry, findings []rules.Finding) ([]rules.Finding, error) {
	var open []rules.Finding
	for _, f := range findings {
		if f.Severity == rules.Tip {
			continue
		}
		n := 0
		if f.Severity != rules.Never && about.Code != "" && (about.Kind == "run" || about.Kind == "mix") {
			// Index gone_on_thing.
			if err := tx.GetContext(ctx, &n, `SELECT COUNT(*) FROM gone_on WHERE kind = ? AND code = ? AND rule = ? AND place = ?`, about.Kind, about.Code, f.ID, f.At()); err != nil {
				return nil, err
			}
		}
		if n == 0 {
			open = append(open, f)
		}
	}
	return open, nil
}
