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
// written beside the act and falls with it. about names the thing of the act.
func Meet(ctx context.Context, tx database.Tx, about journal.Entry, findings ...rules.Finding) error {
	who, _ := accounts.From(ctx)
	because := web.Because(ctx)
	for _, f := range findings {
		words := strings.TrimSpace(fmt.Sprintf("%s: %s %s", f.ID, f.Reason, f.Remedy))
		var no *problem.Problem
		switch {
		case f.Severity == rules.Never:
			no = problem.New(http.StatusConflict, "rule", "", "%s Nobody can sign this away. Nothing was recorded.", words)
		case f.Severity == rules.Stop && who.Role != accounts.Lead:
			no = problem.New(http.StatusConflict, "rule", "", "%s A lead may go on with a reason. Nothing was recorded.", words)
		case f.Severity != rules.Tip && because == "":
			no = problem.New(http.StatusConflict, SayWhy, "", "%s Nothing was recorded yet.", words)
		}
		if no != nil {
			no.Data = f
			return no
		}
	}
	for _, f := range findings {
		if f.Severity == rules.Tip {
			continue
		}
		entry := about
		entry.Act, entry.Words, entry.Data = "gone on against "+f.ID, because, f
		if rules.Private(f.ID) {
			entry.Data = nil // the record says that, never what of a person's health
		}
		if _, err := journal.Add(ctx, tx, entry); err != nil {
			return err
		}
	}
	return nil
}
