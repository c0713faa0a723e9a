package finish

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/finish/plan"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// counts reads what is set of each zone and insert, on a copy or for a look.
func counts(ctx context.Context, db database.Reader, o owner, copyCode string, into map[string]plan.Set) error {
	var rows []struct {
		OfID    string `db:"of_id"`
		N       int
		Seconds float64
	}
	// Indexes set_count_copy and set_count_look.
	query, of := `SELECT s.of_id, SUM(s.n) AS n, SUM(s.seconds) AS seconds FROM set_count s JOIN copy c ON c.id = s.copy_id WHERE c.code = ? GROUP BY s.of_id`, any(copyCode)
	if o.piece == nil {
		query, of = `SELECT s.of_id, SUM(s.n) AS n, SUM(s.seconds) AS seconds FROM set_count s WHERE s.look_id = ? GROUP BY s.of_id`, o.look
	}
	if o.piece != nil && copyCode == "" {
		return nil
	}
	if err := db.SelectContext(ctx, &rows, query, of); err != nil {
		return err
	}
	for _, r := range rows {
		into[r.OfID] = plan.Set{N: max(0, r.N), Minutes: r.Seconds / 60}
	}
	return nil
}

// NewCount is some that were set. A negative one takes back what was counted too far.
type NewCount struct {
	Of      string  `json:"of" minLength:"1" maxLength:"40" doc:"id of the zone of hair, or of the inserts"`
	N       int     `json:"n" minimum:"-20000" maximum:"20000"`
	Seconds float64 `json:"seconds,omitempty" minimum:"0" maximum:"86400" doc:"hands that it took; 0 for not timed"`
	Copy    string  `json:"copy,omitempty" maxLength:"20" doc:"empty for a look's own"`
	Key     string  `json:"key" format:"uuid" doc:"sent again with the same key it counts once"`
	AgoS    float64 `json:"ago_s,omitempty" minimum:"0" maximum:"86400"`
}

// Count adds to what is set. It may be sent twice.
func (s *Service) Count(ctx context.Context, of string, in NewCount) (PlanView, error) {
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		o, err := s.find(ctx, tx, of)
		if err != nil {
			return err
		}
		var copyID, look any
		code := of
		if o.piece != nil {
			c, err := onBench(ctx, tx, in.Copy)
			if err != nil {
				return err
			}
			if c.PieceID != o.piece.ID {
				return problem.Invalid("contradiction", "copy", "%s is no copy of %s.", in.Copy, of)
			}
			copyID, code = c.ID, in.Copy
		} else {
			look = o.look
		}
		if err := planned(ctx, tx, o, in.Of); err != nil {
			return err
		}
		done := map[string]plan.Set{}
		if err := counts(ctx, tx, o, in.Copy, done); err != nil {
			return err
		}
		if done[in.Of].N+in.N < 0 {
			return problem.Invalid("out_of_range", "n", "Only %d are counted.", done[in.Of].N)
		}
		now := s.Clock.Now()
		added, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO set_count (copy_id, look_id, of_id, n, seconds, at, person_id, idem_key) VALUES (?,?,?,?,?,?,?,?)`, copyID, look, in.Of, in.N, in.Seconds, now, who.ID, in.Key))
		if err != nil || !added {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: o.pieceID(), Kind: "copy", Code: code, Act: "counted", Words: fmt.Sprintf("%+d of %s", in.N, in.Of)})
		return err
	})
	if err != nil {
		return PlanView{}, err
	}
	s.Live.Tell(ctx, "finish", of)
	return s.Plan(ctx, of, in.Copy)
}

// planned refuses to count what stands in no plan: neither the person's own nor the agreed.
func planned(ctx context.Context, db database.Reader, o owner, id string) error {
	raw, _, err := document.Read(ctx, db, o.ref())
	if err != nil {
		return err
	}
	doc := empty()
	if raw != nil {
		if err := json.Unmarshal(raw, &doc); err != nil {
			return err
		}
	}
	if o.piece != nil {
		shared, err := followed(ctx, db, *o.piece, doc)
		if err != nil {
			return err
		}
		doc = doc.With(shared)
	}
	_, insert := doc.Insert(id)
	if insert || slices.ContainsFunc(doc.Hair, func(z plan.Zone) bool { return z.ID == id }) {
		return nil
	}
	return problem.Invalid("unknown_value", "of", "Nothing in the finish plan of %s is called so: it cannot be counted.", o.of)
}

// batches reads what came of each insert's batches.
func batches(ctx context.Context, db database.Reader, pieceID uint64, into map[string]plan.Batch) error {
	var rows []struct {
		OfID       string `db:"of_id"`
		Made, Good int
	}
	// Index insert_batch_of.
	if err := db.SelectContext(ctx, &rows, `SELECT of_id, SUM(made) AS made, SUM(good) AS good FROM insert_batch WHERE piece_id = ? GROUP BY of_id`, pieceID); err != nil {
		return err
	}
	for _, r := range rows {
		into[r.OfID] = plan.Batch{Made: r.Made, Good: r.Good}
	}
	return nil
}

// NewBatch is a batch of inserts that was made.
type NewBatch struct {
	Of      string   `json:"of" minLength:"1" maxLength:"40"`
	Made    int      `json:"made" minimum:"1" maximum:"20000"`
	Good    int      `json:"good" minimum:"0" maximum:"20000"`
	Minutes *float64 `json:"minutes,omitempty" minimum:"0" maximum:"6000"`
	Lot     string   `json:"lot,omitempty" maxLength:"32"`
	Note    string   `json:"note,omitempty" maxLength:"300"`
	Key     string   `json:"key" format:"uuid"`
}

// Made writes a batch down. It may be sent twice.
func (s *Service) Made(ctx context.Context, code string, in NewBatch) (PlanView, error) {
	who, _ := accounts.From(ctx)
	if in.Good > in.Made {
		return PlanView{}, problem.Invalid("contradiction", "good", "%d good ones of %d that were made.", in.Good, in.Made)
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		doc, _, err := agreedPlan(ctx, tx, p)
		if err != nil {
			return err
		}
		n, known := doc.Insert(in.Of)
		if !known {
			return problem.Invalid("unknown_value", "of", "No such inserts stand in the agreed finish plan of %s.", code)
		}
		now := s.Clock.Now()
		lot := uint64(0)
		if in.Lot != "" {
			if n.Material == "" {
				return problem.Invalid("contradiction", "lot", "The plan names no material for %s: a lot of what?", n.Name)
			}
			if lot, err = s.Lots.LotFor(ctx, tx, n.Material, in.Lot); err != nil {
				return err
			}
		}
		added, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO insert_batch (piece_id, of_id, made, good, minutes, lot_id, note, at, person_id, idem_key) VALUES (?,?,?,?,?,NULLIF(?,0),?,?,?,?)`, p.ID, in.Of, in.Made, in.Good, in.Minutes, lot, in.Note, now, who.ID, in.Key))
		if err != nil || !added {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: "batch made", Words: strings.TrimSpace(fmt.Sprintf("%s: %d of %d good. %s", n.Name, in.Good, in.Made, in.Note))})
		return err
	})
	if err != nil {
		return PlanView{}, err
	}
	s.Live.Tell(ctx, "finish", code)
	return s.Plan(ctx, code, "")
}
