package finish

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/finish/work"
	"yewmoor/internal/craft/making"
	"yewmoor/internal/craft/section"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// ListFor is what is to be done to a copy of a piece that is made this way by this version
// of its section: what follows from the section, the brief and the finish plan, with what
// was changed for the piece.
func (s *Service) ListFor(ctx context.Context, db database.Reader, p piece.Piece, number int, way making.Way) ([]work.Item, error) {
	doc, _, _, err := piece.SectionAt(ctx, db, p, number)
	if err != nil {
		return nil, err
	}
	materials, err := shelf.Load(ctx, db)
	if err != nil {
		return nil, err
	}
	around, err := s.Pieces.Around.Around(ctx, db, p)
	if err != nil {
		return nil, err
	}
	in := work.Asked{Way: way, Section: doc, Hands: map[string]float64{}, EdgeCM: edgeCM(around, p, doc)}
	for _, l := range doc.Work(materials, section.Room{TempC: 21, RH: 0.5}).Layers {
		in.Hands[l.ID] += l.HandsS
	}
	in.Vanish = !slices.ContainsFunc(around.Map.Edges, isEdge)
	for _, e := range around.Map.Edges {
		in.Vanish = in.Vanish || isEdge(e) && (e.How == "vanish" || e.How == "")
	}
	planned, number, err := agreedPlan(ctx, db, p)
	if err != nil {
		return nil, err
	}
	if number > 0 {
		r, err := s.followFor(ctx, db, p, planned, "")
		if err != nil {
			return nil, err
		}
		in.Plan = r.Work
	}
	return changed(ctx, db, p.ID, work.List(in))
}

// edgeCM is how long the edge of a piece is: as the map measures it, else round the section.
func edgeCM(around piece.Surroundings, p piece.Piece, doc section.Section) float64 {
	sum := 0.0
	for _, a := range around.Map.Areas {
		if a.Piece == p.Code {
			sum += a.EdgeMM
		}
	}
	if sum == 0 {
		sum = 2 * math.Pi * doc.HalfWidthMM
	}
	return sum / 10
}

// Change is one change of a list.
type Change struct {
	Act string `json:"act" enum:"add,drop,move"`
	// Item is the id of the line; empty for one that is added.
	Item    string    `json:"item,omitempty" maxLength:"40"`
	Kind    work.Kind `json:"kind,omitempty" enum:",trim,wash,seam,patch,edge,mend,seal,prime,paint,colour_reading,insert,hair,closure,weight,age,powder,photograph,dress,other"`
	Text    string    `json:"text,omitempty" maxLength:"160"`
	Minutes float64   `json:"minutes,omitempty" minimum:"0" maximum:"6000"`
	After   string    `json:"after,omitempty" maxLength:"40" doc:"the line that it then stands after; empty for the top"`
	Why     string    `json:"why,omitempty" maxLength:"200"`
}

// fixed are kinds that stay on every list: Check and Colour live by them. Where the
// instrument is not there they are passed over, each time with a word.
var fixed = []work.Kind{work.Read, work.Picture, work.Edge}

// apply changes a list. Refusals at the fields of the change.
func (c Change) apply(list []work.Item) ([]work.Item, error) {
	at := slices.IndexFunc(list, func(i work.Item) bool { return i.ID == c.Item })
	if c.Act != "add" && at < 0 {
		return nil, problem.Invalid("unknown_value", "item", "There is no such line on the list.")
	}
	out := slices.Clone(list)
	switch c.Act {
	case "drop":
		if slices.Contains(fixed, out[at].Kind) {
			return nil, problem.Invalid("contradiction", "item", "“%s” stays on every list; pass it over on the copy, with a word.", out[at].Text)
		}
		if strings.TrimSpace(c.Why) == "" {
			return nil, problem.Invalid("missing", "why", "Say why it is not done.")
		}
		return slices.Delete(out, at, at+1), nil
	case "add":
		item := work.Item{ID: c.Item, Kind: c.Kind, Text: strings.TrimSpace(c.Text), Minutes: c.Minutes, Why: c.Why}
		if item.Kind == "" {
			item.Kind = work.Other
		}
		switch {
		case item.Text == "":
			return nil, problem.Invalid("missing", "text", "Say what is to be done.")
		case at >= 0:
			return nil, problem.Invalid("contradiction", "item", "That line is on the list already.")
		}
		if c.After == "" {
			return slices.Insert(out, len(before(out, item)), item), nil
		}
		return place(out, item, c.After)
	}
	item := out[at]
	return place(slices.Delete(out, at, at+1), item, c.After)
}

// atTheEnd are kinds of work for which a copy must be as it will be.
var atTheEnd = []work.Kind{work.Read, work.Picture, work.Dress}

// before are the lines that come before a new one that nobody placed: the last place that
// the order of work allows, ahead of what is for the end.
func before(list []work.Item, item work.Item) []work.Item {
	last := len(list)
	for last > 0 && slices.Contains(atTheEnd, list[last-1].Kind) && !slices.Contains(atTheEnd, item.Kind) {
		last--
	}
	for n := last; n > 0; n-- {
		if work.Order(slices.Insert(slices.Clone(list), n, item)) == nil {
			return list[:n]
		}
	}
	return nil
}

func place(list []work.Item, item work.Item, after string) ([]work.Item, error) {
	at := 0
	if after != "" {
		i := slices.IndexFunc(list, func(o work.Item) bool { return o.ID == after })
		if i < 0 {
			return nil, problem.Invalid("unknown_value", "after", "There is no such line to stand after.")
		}
		at = i + 1
	}
	out := slices.Insert(list, at, item)
	return out, work.Order(out)
}

// changed is a list with what was changed for its piece. What a newer section made
// impossible is left out: a line that is gone cannot be moved. Index work_change_piece.
func changed(ctx context.Context, db database.Reader, pieceID uint64, list []work.Item) ([]work.Item, error) {
	var rows []struct{ Doc string }
	if err := db.SelectContext(ctx, &rows, `SELECT doc FROM work_change WHERE piece_id = ? ORDER BY id`, pieceID); err != nil {
		return nil, err
	}
	for _, r := range rows {
		var c Change
		if err := json.Unmarshal([]byte(r.Doc), &c); err != nil {
			return nil, fmt.Errorf("reading a change of the list: %w", err)
		}
		if next, err := c.apply(list); err == nil {
			list = next
		}
	}
	return list, nil
}

// OfPiece is the list that the next copy of a piece gets.
func (s *Service) OfPiece(ctx context.Context, code string) ([]work.Item, error) {
	p, err := piece.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	var way string
	if err := s.DB.GetContext(ctx, &way, `SELECT COALESCE((SELECT way FROM run WHERE piece_id = ? ORDER BY id DESC LIMIT 1), '')`, p.ID); err != nil {
		return nil, err
	}
	return s.ListFor(ctx, s.DB, p, p.SectionNumber, making.Way(way))
}

// ChangePiece changes the list of a piece: every copy that is made from now on gets it so.
func (s *Service) ChangePiece(ctx context.Context, code string, in Change) ([]work.Item, error) {
	who, _ := accounts.From(ctx)
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		p, err := piece.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `SELECT id FROM piece WHERE id = ? FOR UPDATE`, p.ID); err != nil {
			return err
		}
		list, err := s.ListFor(ctx, tx, p, p.SectionNumber, "")
		if err != nil {
			return err
		}
		if in.Act == "add" {
			n, err := database.NextNumber(ctx, tx, "work "+code)
			if err != nil {
				return err
			}
			in.Item = fmt.Sprintf("own-%d", n)
		}
		if _, err := in.apply(list); err != nil {
			return err
		}
		raw, err := json.Marshal(in)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		if _, err := tx.ExecContext(ctx, `INSERT INTO work_change (piece_id, act, item, doc, after_item, why, at, person_id) VALUES (?,?,?,?,?,?,?,?)`, p.ID, in.Act, in.Item, string(raw), in.After, in.Why, now, who.ID); err != nil {
			return fmt.Errorf("changing the list: %w", err)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: p.ID, Kind: "piece", Code: code, Act: "finish list changed", Words: strings.TrimSpace(in.Act + " " + in.said(list) + " " + in.Why)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "copies", code)
	return s.OfPiece(ctx, code)
}

// said is what a change is about, in words.
func (c Change) said(list []work.Item) string {
	if c.Text != "" {
		return c.Text
	}
	for _, i := range list {
		if i.ID == c.Item {
			return i.Text
		}
	}
	return c.Item
}

// ChangeCopy changes the list of one copy.
func (s *Service) ChangeCopy(ctx context.Context, code string, in Change) (Copy, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := onBench(ctx, tx, code)
		if err != nil {
			return err
		}
		var list []work.Item
		for _, t := range c.Work {
			if t.Dropped == "" {
				list = append(list, t.Item)
			}
		}
		if in.Act == "add" {
			n, err := database.NextNumber(ctx, tx, "work "+code)
			if err != nil {
				return err
			}
			in.Item = fmt.Sprintf("here-%d", n)
		}
		if t, listed := c.todo(in.Item); listed && in.Act == "drop" && t.Done != nil {
			return problem.Conflict("done", "It is ticked: take the tick back first.")
		}
		next, err := in.apply(list)
		if err != nil {
			return err
		}
		if err := s.rewrite(ctx, tx, c, next, in); err != nil {
			return err
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: s.Clock.Now(), Piece: c.PieceID, Kind: "copy", Code: code, Act: "list changed", Words: strings.TrimSpace(in.Act + " " + in.said(list) + " " + in.Why)})
		return err
	})
	return s.after(ctx, code, err)
}

// rewrite writes a copy's list in its new order.
func (s *Service) rewrite(ctx context.Context, tx database.Tx, c Copy, list []work.Item, in Change) error {
	who, _ := accounts.From(ctx)
	if in.Act == "drop" {
		if _, err := tx.ExecContext(ctx, `UPDATE work_item SET dropped_at = ?, dropped_by = ?, dropped_why = ? WHERE copy_id = ? AND list = 'finish' AND item = ?`, s.Clock.Now(), who.ID, in.Why, c.ID, in.Item); err != nil {
			return err
		}
	}
	for i, item := range list {
		if err := copies.Line(ctx, tx, c.PieceID, c.ID, i+1, item); err != nil {
			return err
		}
	}
	return nil
}

// Missing names what is still to be done to a copy, in words. Check asks for it.
func (s *Service) Missing(ctx context.Context, db database.Reader, code string) ([]string, error) {
	c, err := Read(ctx, db, code)
	return c.Left, err
}

// PutBack puts work back on the bench, and adds what a repair asks for, inside the
// verdict that sends a copy back. It gives the texts of what is to be done.
func (s *Service) PutBack(ctx context.Context, tx database.Tx, code string, items []string, mend work.Item) ([]string, error) {
	c, err := Read(ctx, tx, code)
	if err != nil {
		return nil, err
	}
	var texts []string
	for _, id := range items {
		t, listed := c.todo(id)
		if !listed {
			return nil, problem.Invalid("unknown_value", "items", "%s is not on the list of %s.", id, code)
		}
		texts = append(texts, t.Text)
		if t.Done == nil {
			continue
		}
		if _, err := tx.ExecContext(ctx, `UPDATE work_item SET turn = turn + 1 WHERE copy_id = ? AND list = 'finish' AND item = ?`, c.ID, id); err != nil {
			return nil, err
		}
	}
	if mend.Text == "" {
		return texts, nil
	}
	n, err := database.NextNumber(ctx, tx, "work "+code)
	if err != nil {
		return nil, err
	}
	mend.ID, mend.Kind = fmt.Sprintf("mend-%d", n), work.Mend
	var list []work.Item
	for _, t := range c.Work {
		if t.Dropped == "" {
			list = append(list, t.Item)
		}
	}
	list = slices.Insert(list, len(list)-open(c), mend)
	for i, item := range list {
		if err := copies.Line(ctx, tx, c.PieceID, c.ID, i+1, item); err != nil {
			return nil, err
		}
	}
	return append(texts, mend.Text), nil
}

// open is how many lines at the foot of a list are for the end: reading, picture, dress.
func open(c Copy) int {
	n := 0
	for i := len(c.Work) - 1; i >= 0 && slices.Contains(atTheEnd, c.Work[i].Kind); i-- {
		if c.Work[i].Dropped == "" {
			n++
		}
	}
	return n
}
