package build

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/cure"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/rules"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// DoneStage is one "it is done".
type DoneStage struct {
	Note   string `json:"note,omitempty" maxLength:"300"`
	Reason string `json:"reason,omitempty" maxLength:"300" doc:"needed before its time"`
	Place  string `json:"place,omitempty" maxLength:"80"`
	Lot    string `json:"lot,omitempty" maxLength:"32" doc:"what was taken; empty: first expired first out"`
	// Checked says that what the stage holds for was looked at, and is so.
	Checked bool `json:"checked,omitempty"`
	// WetMM is how thick the coat went on by the gauge, UsedG what it took by the scale for
	// one copy; with neither it is as the section plans it.
	WetMM *float64 `json:"wet_mm,omitempty" minimum:"0.02" maximum:"8"`
	UsedG *float64 `json:"used_g,omitempty" minimum:"0.01" maximum:"20000"`
	// HandMin is how long hands were at it, minutes; nothing where nobody says.
	HandMin *float64 `json:"hand_min,omitempty" minimum:"0" maximum:"1440"`
	In      string   `json:"in,omitempty" maxLength:"40" doc:"code of the place that it waits in; empty leaves it where it is"`
	mix     string   // poured from a mix, whose lots were drawn as it was weighed
	from    poured
}

// Done says that a stage of a run is done: what it takes is drawn from its lot,
// the pot before it is over, and what waits now stands on the shelf.
func (s *Service) Done(ctx context.Context, code string, seq int, in DoneStage) (Run, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return Run{}, err
	}
	in.Note, in.Reason = strings.TrimSpace(in.Note), strings.TrimSpace(in.Reason)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		// The run's row orders those who act on it at the same moment.
		if _, err := tx.ExecContext(ctx, `SELECT id FROM run WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		r, err := s.run(ctx, tx, code)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(r.Stages, func(t Stage) bool { return t.Seq == seq })
		switch {
		case at < 0:
			return problem.NotFound("stage", fmt.Sprint(seq))
		case r.Stages[at].DoneAt != nil:
			return nil // said twice, or by two: the same fact, recorded once
		case r.EndedAt != nil:
			return problem.Conflict("ended", "%s is over; nothing was recorded.", code)
		case seq != r.Next:
			return problem.Conflict("other_stage", "Stage %d of %s comes first. Nothing was recorded.", r.Next, code)
		case r.HeldBack != "" && !mayInsist(ctx, in.Reason):
			return heldBack(r.HeldBack)
		case r.Stages[at].Hold != "" && !in.Checked:
			return problem.Invalid("missing", "checked", "Look first, and say that it is so: %s", r.Stages[at].Hold)
		}
		p, err := piece.Find(ctx, tx, r.Piece)
		if err != nil {
			return err
		}
		about := journal.Entry{At: s.Clock.Now(), Piece: p.ID, Kind: "run", Code: r.Code}
		if err := s.Pieces.AskRules(ctx, tx, p, r.Section, about); err != nil {
			return err
		}
		if err := s.Pieces.AskStuff(ctx, tx, p, r.Section, about, r.Stages[at].Products()...); err != nil {
			return err
		}
		if err := piece.Meet(ctx, tx, about, justNow(r, at, s.Clock.Now())...); err != nil {
			return err
		}
		return s.done(ctx, tx, p, r, at, in)
	})
	if err != nil {
		return Run{}, err
	}
	r, err := s.Run(ctx, code)
	if err == nil {
		s.tell(ctx, r.Piece)
		s.Live.Tell(ctx, "lots", "")
	}
	return r, err
}

// quickest is how soon after another a coat can be on, whatever it is: a hand
// needs that long for the smallest piece.
const quickest = 30 * time.Second

// justNow speaks against a coat that is noted right after the one below it: two
// taps of one finger are one coat, and whatever the reason for going on too
// early, no hand is that quick.
func justNow(r Run, at int, now time.Time) []rules.Finding {
	if at == 0 || r.Stages[at].Coat == 0 || r.Stages[at-1].Coat == 0 || r.Stages[at-1].DoneAt == nil {
		return nil
	}
	since := now.Sub(*r.Stages[at-1].DoneAt)
	if since >= quickest {
		return nil
	}
	return []rules.Finding{{ID: "SEQ-1", Severity: rules.Warn, Below: fmt.Sprintf("coat %d", r.Stages[at-1].Coat), Above: r.Stages[at].Layer,
		Reason: fmt.Sprintf("Coat %d was noted %.0f s ago, and this is coat %d.", r.Stages[at-1].Coat, since.Seconds(), r.Stages[at].Coat),
		Remedy: "Wait until the coat below takes it; if both are on already and are only noted late, say so."}}
}

// asItWent changes the plan of a stage to what really went on: a coat's thickness by the
// gauge, or by what it took.
func (s *Service) asItWent(ctx context.Context, tx database.Tx, st *Stage, in DoneStage) error {
	switch {
	case in.WetMM == nil && in.UsedG == nil:
		return nil
	case in.WetMM != nil && st.Wet == nil:
		return problem.Invalid("contradiction", "wet_mm", "This is no coat: its thickness tells nothing.")
	case in.UsedG != nil && st.Grams <= 0:
		return problem.Invalid("contradiction", "used_g", "This stage takes nothing that is weighed.")
	}
	if in.UsedG != nil {
		times := *in.UsedG / st.Grams
		if times > 20 {
			return problem.Invalid("out_of_range", "used_g", "The plan has %.1f g for one copy: twenty times as much is another coat.",
				st.Grams)
		}
		st.Grams = *in.UsedG
		if st.Wet != nil && in.WetMM == nil {
			wet := *st.Wet
			wet.WetM = math.Min(8e-3, math.Max(2e-5, wet.WetM*times))
			st.Wet = &wet
		}
	}
	if in.WetMM != nil {
		wet := *st.Wet
		wet.WetM = *in.WetMM / 1000
		st.Wet = &wet
	}
	raw, err := json.Marshal(st.Stage)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `UPDATE run_stage SET plan = ? WHERE id = ?`, string(raw), st.ID)
	return err
}

func inSeconds(minutes *float64) *float64 {
	if minutes == nil {
		return nil
	}
	s := 60 * *minutes
	return &s
}

func (s *Service) done(ctx context.Context, tx database.Tx, p piece.Piece, r Run, at int, in DoneStage) error {
	who, _ := accounts.From(ctx)
	now := s.Clock.Now()
	if err := s.asItWent(ctx, tx, &r.Stages[at], in); err != nil {
		return err
	}
	st := r.Stages[at]
	if _, err := tx.ExecContext(ctx, `UPDATE run_stage SET done_at = ?, done_by = ?, note = ?, place = ?, hand_s = ? WHERE id = ?`,
		now, who.ID, in.Note, strings.TrimSpace(in.Place), inSeconds(in.HandMin), st.ID); err != nil {
		return fmt.Errorf("noting the stage: %w", err)
	}
	if at > 0 && r.Stages[at-1].PotID != nil {
		if _, err := tx.ExecContext(ctx, `UPDATE pot SET ended_at = ?, ended_by = ?, end_note = ? WHERE stage_id = ? AND ended_at IS NULL`, now, who.ID, in.Reason, r.Stages[at-1].ID); err != nil {
			return err
		}
	}
	words := st.Text
	if in.mix != "" {
		words += " Of " + in.mix + "."
	} else if st.Material != "" && st.Grams > 0 {
		lot, err := s.Stores.Take(ctx, tx, st.Material, in.Lot, st.Grams*float64(r.making()), st.ID)
		if err != nil {
			return err
		}
		if lot == "" && in.Lot == "" && in.Note == "" {
			return problem.Invalid("no_lot", "note", "No lot of it that may be used holds %.0f g. Say in the note where it came from; it is then recorded without a lot.", st.Grams*float64(r.making()))
		}
		if lot != "" {
			words += " Lot " + lot + "."
		}
	}
	more, err := s.takeMore(ctx, tx, st, in.mix != "", r.making())
	if err != nil {
		return err
	}
	words += more
	for _, more := range []string{in.Note, in.Reason} {
		if more != "" {
			words += " " + more
		}
	}
	if st.Hold != "" && in.Checked {
		words += " Looked at: " + st.Hold
	}
	if _, err := journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "run", Code: r.Code, Act: "stage done", Words: words}); err != nil {
		return err
	}
	if st.Waits != making.NoWait {
		if err := s.startStagePot(ctx, tx, p, r, st, in.In, in.from); err != nil {
			return err
		}
		return s.expect(ctx, tx, st.ID, nextCoat(r, at))
	}
	if st.Ends || at == len(r.Stages)-1 {
		return s.made(ctx, tx, r.ID, nil, st.Text, nil)
	}
	return nil
}

// nextCoat says whether what follows a stage is another coat, for which the one below
// need not be dry through.
func nextCoat(r Run, at int) bool { return at+1 < len(r.Stages) && r.Stages[at+1].Coat > 0 }

// expect keeps what the pot of a stage was told to wait as it began, beside which stands
// what it waited.
func (s *Service) expect(ctx context.Context, tx database.Tx, stage uint64, coat bool) error {
	row, err := s.potOfStage(ctx, tx, stage)
	if err != nil || row.ID == 0 {
		return err
	}
	pot, err := s.work(ctx, tx, row)
	if err != nil {
		return err
	}
	waits := pot.LeftS
	if coat && pot.RecoatS > 0 {
		waits = pot.RecoatS
	}
	_, err = tx.ExecContext(ctx, `UPDATE run_stage SET expected_s = ? WHERE id = ?`, waits, stage)
	return err
}

// takeMore draws what a stage takes beside its material: what is stirred in, unless a
// mix has it in it, and what is laid into the coat. What no lot holds is recorded
// without one: the coat is on.
func (s *Service) takeMore(ctx context.Context, tx database.Tx, st Stage, mixed bool, n int) (words string, err error) {
	var list []section.Taken
	if !mixed {
		list = append(list, st.Stirred...)
	}
	if st.Laid != nil {
		list = append(list, *st.Laid)
	}
	if len(list) == 0 {
		return "", nil
	}
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return "", err
	}
	for _, t := range list {
		if t.Grams <= 0 {
			continue
		}
		lot, err := s.Stores.Take(ctx, tx, t.Material, "", t.Grams*float64(n), st.ID)
		if err != nil {
			return "", err
		}
		if lot == "" {
			words += fmt.Sprintf(" %s from no lot.", materials[t.Material].Name)
		} else {
			words += fmt.Sprintf(" %s, lot %s.", materials[t.Material].Name, lot)
		}
	}
	return words, nil
}

// making is how many copies of the run are being made.
func (r Run) making() int {
	n := 0
	for _, c := range r.Copies {
		if c.State == copies.Making {
			n++
		}
	}
	return n
}

// subject is what a run makes, in a few letters: its one copy, or itself.
func (r Run) subject() string {
	if len(r.Copies) == 1 {
		return r.Copies[0].Code
	}
	return r.Code
}

// poured is what a mix says of itself where it is poured: since when its clock runs, and
// when it gels.
type poured struct {
	at  *time.Time
	gel *cure.WorkingTime
}

// onlyOven is the shop's oven where it has just one; "" else.
func (s *Service) onlyOven(ctx context.Context, db database.Reader) (string, error) {
	var codes []string
	if err := db.SelectContext(ctx, &codes, `SELECT code FROM place WHERE kind = 'oven' AND retired_at IS NULL`); err != nil || len(codes) != 1 {
		return "", err
	}
	return codes[0], nil
}

func (s *Service) startStagePot(ctx context.Context, tx database.Tx, p piece.Piece, r Run, st Stage, in string,
	from poured) error {
	materials, err := shelf.Load(ctx, tx)
	if err != nil {
		return err
	}
	product := materials[st.Material]
	start := potStart{piece: p.ID, stage: st.ID, label: r.subject() + " " + st.Act, kind: st.Waits, family: string(product.Family), at: s.Clock.Now()}
	if st.Coat > 0 {
		start.label = fmt.Sprintf("%s coat %d of %d", r.subject(), st.Coat, st.Of)
	}
	if start.family == "" {
		start.family = p.Family
	}
	switch {
	case st.Waits == making.Cure && product.Cure != nil:
		start.model.CureSheet = product.Cure
	case st.Waits == making.Dry && st.Wet != nil:
		at := slices.IndexFunc(r.Stages, func(x Stage) bool { return x.ID == st.ID })
		if start.model.Stack, start.model.Air, err = s.stackOn(ctx, tx, r, at); err != nil {
			return err
		}
	default:
		doc, _, _, err := piece.SectionAt(ctx, tx, p, r.Section)
		if err != nil {
			return err
		}
		start.kind = making.Set
		if start.model, err = s.setModel(ctx, tx, doc, st.Stage, materials, from.gel); err != nil {
			return err
		}
		if st.Act == "whip" && from.at != nil { // the clock runs since the agent went in
			start.at = *from.at
		}
		if st.Act == "fill" {
			if err := s.goesOnGelling(ctx, tx, r, st, &start); err != nil {
				return err
			}
		}
	}
	if st.Act == "bake" && in == "" {
		if in, err = s.onlyOven(ctx, tx); err != nil {
			return err
		}
	}
	start.out = st.Act == "wash" && in == "" // the mould was opened, and what was in it washed
	if in != "" {
		if err := s.mayBegin(ctx, tx, start, r, in); err != nil {
			return err
		}
		start.in = in
	}
	return s.startPot(ctx, tx, start)
}

// goesOnGelling lets a foam that was filled in gel by the clock of its bowl.
func (s *Service) goesOnGelling(ctx context.Context, tx database.Tx, r Run, st Stage, start *potStart) error {
	at := slices.IndexFunc(r.Stages, func(x Stage) bool { return x.ID == st.ID })
	if at < 1 {
		return nil
	}
	bowl, err := s.potOfStage(ctx, tx, r.Stages[at-1].ID)
	if err != nil || bowl.ID == 0 {
		return err
	}
	var model potModel
	if err := json.Unmarshal([]byte(bowl.Model), &model); err != nil || model.Gel == nil {
		return err
	}
	model.Gel.Filled = true
	start.model, start.at = model, bowl.StartedAt
	return nil
}

// follows is the stage after the one that a pot waits for; nil when it is the
// last, or the pot is no run's.
func (s *Service) follows(ctx context.Context, tx database.Tx, row potRow) (*Stage, error) {
	if row.RunID == nil {
		return nil, nil
	}
	stages, err := s.stages(ctx, tx, *row.RunID)
	if err != nil {
		return nil, err
	}
	if at := slices.IndexFunc(stages, func(t Stage) bool { return t.DoneAt == nil }); at >= 0 {
		return &stages[at], nil
	}
	return nil, nil
}

// OneMoreCoat plans another coat after the one that was put on last.
func (s *Service) OneMoreCoat(ctx context.Context, code string) (Run, error) {
	if err := s.Air.CatchUp(ctx); err != nil {
		return Run{}, err
	}
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		if _, err := tx.ExecContext(ctx, `SELECT id FROM run WHERE code = ? FOR UPDATE`, code); err != nil {
			return err
		}
		r, err := s.run(ctx, tx, code)
		if err != nil {
			return err
		}
		at := -1 // the last coat that was put on
		for i, t := range r.Stages {
			if t.DoneAt != nil && t.Coat > 0 {
				at = i
			}
		}
		switch {
		case r.EndedAt != nil:
			return problem.Conflict("ended", "%s is over; nothing was changed.", code)
		case at < 0:
			return problem.Conflict("no_coat", "No coat of %s has been put on yet.", code)
		case len(r.Stages) >= 200:
			return problem.Conflict("too_many", "%s has two hundred stages: that is enough.", code)
		}
		more := r.Stages[at].Stage
		more.Coat, more.Of, more.Ends = more.Coat+1, more.Of+1, false
		_, how, named := strings.Cut(more.Text, ": ")
		if !named || !strings.HasPrefix(more.Text, "Coat ") {
			how = more.Text
		}
		more.Text = fmt.Sprintf("One more, coat %d: %s", more.Coat, how)
		raw, err := json.Marshal(more)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE run_stage SET seq = seq + 1 WHERE run_id = ? AND seq > ? ORDER BY seq DESC`, r.ID, r.Stages[at].Seq); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO run_stage (run_id, seq, plan) VALUES (?,?,?)`, r.ID, r.Stages[at].Seq+1, string(raw)); err != nil {
			return fmt.Errorf("planning another coat: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: r.PieceID, Kind: "run", Code: code, Act: "another coat planned"})
		return err
	})
	if err != nil {
		return Run{}, err
	}
	s.Live.Tell(ctx, "runs", code)
	return s.Run(ctx, code)
}
