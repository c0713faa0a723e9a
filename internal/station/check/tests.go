package check

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/region"
	"yewmoor/internal/journal"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

// Test is what was tried, felt or measured on a copy.
type Test struct {
	ID     uint64    `db:"id" json:"id"`
	What   string    `db:"what" json:"what"`
	Result string    `db:"result" json:"result" enum:"good,so-so,bad"`
	Value  *float64  `db:"value" json:"value,omitempty"`
	Place  string    `db:"place" json:"place"`
	Note   string    `db:"note" json:"note"`
	At     time.Time `db:"at" json:"at"`
	Who    string    `db:"who" json:"who"`
}

// Trial is one thing that is to be tried, with what was found the last time.
type Trial struct {
	What string `json:"what"`
	Kind string `json:"kind" enum:"movement,comfort,hand,measure"`
	Ask  string `json:"ask"`
	Unit string `json:"unit,omitempty"`
	// Planned is what a measurement was meant to be.
	Planned *float64 `json:"planned,omitempty"`
	Last    *Test    `json:"last,omitempty"`
	Times   int      `json:"times" doc:"how often it was tried"`
}

// movements are what a place does, and what is asked of it.
var movements = []struct {
	what, ask string
	regions   []string
}{
	{"smile", "Smile wide and let go: does an edge lift or a fold stay?", []string{"cheek", "lip", "mouth_corner", "jaw", "chin", "nose", "face"}},
	{"chew", "Chew and speak: does the corner of the mouth hold?", []string{"lip", "mouth_corner", "jaw", "chin", "cheek", "face", "neck"}},
	{"frown", "Frown and raise the brows: does it wrinkle where it should?", []string{"forehead", "brow", "temple", "eye_hollow", "face"}},
	{"blink", "Blink and look up: is the lid free?", []string{"eye_hollow", "brow", "face"}},
	{"head turned", "Turn and nod the head: does it fold or gape?", []string{"neck", "jaw", "scalp", "shoulder", "ear"}},
	{"arm raised", "Raise the arm: is the hidden side as finished, does the edge hold?", []string{"shoulder", "upper_arm", "forearm", "chest", "back", "belly"}},
	{"walk", "Walk and sit: does it swing like flesh, does it rub?", []string{"belly", "chest", "back", "thigh", "shin", "foot", "shoulder"}},
	{"hand closed", "Make a fist, spread the fingers: do the knuckles crack?", []string{"hand_back", "palm", "knuckle", "finger", "forearm"}},
}

// felt are what a hand and a nose tell.
var felt = []struct{ what, ask string }{
	{"tack", "Press a dry knuckle on it: does it stick?"},
	{"smell", "Smell it: solvent, ammonia, mould?"},
	{"bloom", "Look across it: a white film, powder, sweat of oil?"},
	{"loose parts", "Tug every insert and brush the hair: does anything come off?"},
}

// Trials lists what is to be tried on a copy, by where it goes, and what was found.
func (s *Service) Trials(ctx context.Context, code string) ([]Trial, error) {
	c, err := copies.Find(ctx, s.DB, code)
	if err != nil {
		return nil, err
	}
	p, err := piece.Find(ctx, s.DB, c.Piece)
	if err != nil {
		return nil, err
	}
	found, err := tests(ctx, s.DB, c.ID)
	if err != nil {
		return nil, err
	}
	out := []Trial{}
	for _, m := range movements {
		if slices.Contains(m.regions, p.Region) {
			out = append(out, Trial{What: m.what, Kind: "movement", Ask: m.ask})
		}
	}
	out = append(out, Trial{What: "comfort", Kind: "comfort", Ask: "Worn for ten minutes: does it press, pull or heat?"})
	for _, f := range felt {
		out = append(out, Trial{What: f.what, Kind: "hand", Ask: f.ask})
	}
	doc, _, number, err := piece.SectionAt(ctx, s.DB, p, c.SectionNumber)
	if err != nil {
		return nil, err
	}
	var mass, edge *float64
	if number > 0 {
		w, err := s.Pieces.Work(ctx, s.DB, p, doc)
		if err != nil {
			return nil, err
		}
		mass = &w.Result.WornG
		if cuts := w.Result.Cuts; len(cuts) > 0 {
			edge = &cuts[0].EdgeMM
		}
	}
	out = append(out, Trial{What: "mass", Kind: "measure", Ask: "Weigh it.", Unit: "g", Planned: mass}, Trial{What: "edge", Kind: "measure", Ask: "Thickness of its edge, by the calliper, where it is thickest.", Unit: "mm", Planned: edge},
		Trial{What: "thickness", Kind: "measure", Ask: "Thickness in the middle.", Unit: "mm"}, Trial{What: "flash", Kind: "measure", Ask: "How thick was the flash?", Unit: "mm"},
		Trial{What: "pinholes", Kind: "measure", Ask: "Count them on a square of 10 cm.", Unit: "in 100 cm²"})
	for i := range out {
		for _, t := range found {
			if t.What == out[i].What {
				out[i].Last, out[i].Times = &t, out[i].Times+1
			}
		}
	}
	return out, nil
}

// tests reads what was tried on a copy, the oldest first. Index copy_test_of.
func tests(ctx context.Context, db database.Reader, copyID uint64) ([]Test, error) {
	list := []Test{}
	err := db.SelectContext(ctx, &list, `SELECT t.id, t.what, t.result, t.value, t.place, t.note, t.at, p.name AS who FROM copy_test t JOIN person p ON p.id = t.person_id WHERE t.copy_id = ? ORDER BY t.id`, copyID)
	return list, err
}

// NewTest is one as it is written down.
type NewTest struct {
	What   string   `json:"what" minLength:"1" maxLength:"40"`
	Result string   `json:"result" enum:"good,so-so,bad"`
	Value  *float64 `json:"value,omitempty" minimum:"0" maximum:"100000"`
	Place  string   `json:"place,omitempty" maxLength:"80"`
	Note   string   `json:"note,omitempty" maxLength:"300"`
	Key    string   `json:"key" format:"uuid"`
}

// Try writes down what was tried. It may be sent twice.
func (s *Service) Try(ctx context.Context, code string, in NewTest) ([]Trial, error) {
	list, err := s.Trials(ctx, code)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(list, func(t Trial) bool { return t.What == in.What })
	switch {
	case i < 0:
		return nil, problem.Invalid("unknown_value", "what", "“%s” is nothing that is tried on a piece of this place.", in.What)
	case list[i].Kind == "measure" && in.Value == nil:
		return nil, problem.Invalid("missing", "value", "Type the figure: a blank is no zero.")
	case in.Result != "good" && strings.TrimSpace(in.Note) == "" && list[i].Kind != "measure":
		return nil, problem.Invalid("missing", "note", "Say in a word what was seen.")
	}
	who, _ := accounts.From(ctx)
	err = s.DB.InTx(ctx, func(tx database.Tx) error {
		c, err := copies.Find(ctx, tx, code)
		if err != nil {
			return err
		}
		now := s.Clock.Now()
		added, err := database.Changed(tx.ExecContext(ctx, `INSERT IGNORE INTO copy_test (copy_id, what, result, value, place, note, at, person_id, idem_key) VALUES (?,?,?,?,?,?,?,?,?)`, c.ID, in.What, in.Result, in.Value, in.Place, in.Note, now, who.ID, in.Key))
		if err != nil || !added {
			return err
		}
		words := in.What + ": " + in.Result
		if in.Value != nil {
			words = fmt.Sprintf("%s: %.4g %s", in.What, *in.Value, list[i].Unit)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: c.PieceID, Kind: "copy", Code: code, Act: "tried", Words: strings.TrimSpace(words + " " + in.Place + " " + in.Note)})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "copies", code)
	return s.Trials(ctx, code)
}

// movesMuch says whether a place moves or stretches.
func movesMuch(name string) bool {
	r, known := region.Find(name)
	return known && r.MovesMuch
}
