package shop

import (
	"context"
	"database/sql"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/platform/web"
)

// Restored is what a shop that came back from a backup is still asked.
type Restored struct {
	Asked      bool       `json:"asked" doc:"true until a lead has answered: no act is let through before"`
	MadeAt     *time.Time `json:"made_at,omitempty" doc:"when the backup was made"`
	RestoredAt *time.Time `json:"restored_at,omitempty"`
	Missing    int        `json:"missing" doc:"pictures that were not in the backup"`
}

// AfterBackup is what a lead says of the time after the backup: in words, and
// “none” where there was nothing.
type AfterBackup struct {
	Allergies string `json:"allergies" maxLength:"1000"`
	Recalls   string `json:"recalls" maxLength:"1000"`
	Erasures  string `json:"erasures" maxLength:"1000"`
}

func (s *Shop) restored(ctx context.Context) (Restored, error) {
	var row struct {
		MadeAt     time.Time `db:"made_at"`
		RestoredAt time.Time `db:"restored_at"`
		Missing    string
	}
	err := s.DB.GetContext(ctx, &row, `SELECT made_at, restored_at, missing FROM restored WHERE answered_at IS NULL ORDER BY id DESC LIMIT 1`)
	if errors.Is(err, sql.ErrNoRows) {
		return Restored{}, nil
	}
	return Restored{true, &row.MadeAt, &row.RestoredAt, len(strings.Fields(row.Missing))}, err
}

// hold keeps acts back while the shop is still asked what came after a backup.
func (s *Shop) hold(ctx context.Context) error {
	r, err := s.restored(ctx)
	if err == nil && r.Asked {
		s.DB.Hold(problem.New(http.StatusConflict, "restored", "", "This shop came back from a backup of %s. Before anything is recorded, a lead says which allergies, recalls and erasures came after it. Nothing of this was recorded.", r.MadeAt.Format("2 Jan 2006, 15:04")))
	}
	return err
}

// answer records what came after the backup, and lets acts through again.
func (s *Shop) answer(ctx context.Context, in AfterBackup) (Restored, error) {
	for _, one := range []struct{ field, words, what string }{
		{"allergies", in.Allergies, "which allergies and limits were recorded since"},
		{"recalls", in.Recalls, "which lots were recalled or put aside since"},
		{"erasures", in.Erasures, "whose facts were erased since, to erase them again"},
	} {
		if strings.TrimSpace(one.words) == "" {
			return Restored{}, problem.Invalid("missing", one.field, "Say %s; write none if there were none.", one.what)
		}
	}
	who, _ := accounts.From(ctx)
	ctx = database.Through(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		answered, err := database.Changed(tx.ExecContext(ctx, `UPDATE restored SET answered_at = ?, answered_by = ? WHERE answered_at IS NULL`, time.Now().UTC(), who.ID))
		if err != nil || !answered {
			return err
		}
		// Erasures are only counted in the record: whose they were is what was erased.
		for _, one := range [][2]string{{"allergies after the backup", in.Allergies}, {"recalls after the backup", in.Recalls}, {"erasures after the backup", "looked through"}} {
			words := one[1]
			if one[0] == "allergies after the backup" && !strings.EqualFold(strings.TrimSpace(words), "none") {
				words = "some; they are entered with their wearers"
			}
			if _, err := journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Kind: "shop", Code: "restored", Act: one[0], Words: words}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return Restored{}, err
	}
	s.DB.Release()
	s.Live.Tell(ctx, "restored", "")
	return s.restored(ctx)
}

func (s *Shop) registerRestored(api huma.API) {
	web.Get(api, "/api/restored", "Whether the shop is still asked what came after a backup", web.Makers, func(ctx context.Context, _ *struct{}) (Restored, error) { return s.restored(ctx) })
	web.Post(api, "/api/restored", "Say what came after the backup, so that work goes on", web.Leads, func(ctx context.Context, in *struct{ Body AfterBackup }) (Restored, error) {
		return s.answer(ctx, in.Body)
	})
}
