// Package today answers what a pair of hands does next and why that first, and
// finds anything by code, name or lot.
package today

import (
	"cmp"
	"context"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"yewmoor/internal/journal"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/web"
)

// Pot is what today needs of a pot on the shelf.
type Pot struct {
	Label, Piece, Left, Words string
	Ready                     bool
	Mould                     bool // a mould that sets and dries; its label is its code
	LeftS                     float64
}

// Pots tells what stands on the shelf; wired to the build room.
type Pots interface {
	Pots(ctx context.Context) ([]Pot, error)
}

// Service does the use cases of Today.
type Service struct {
	DB    *database.DB
	Clock clock.Clock
	Live  *live.Hub
	Pots  Pots
}

// Task is one thing to do.
type Task struct {
	Piece string  `json:"piece,omitempty"`
	Title string  `json:"title"`
	Why   string  `json:"why"`
	Link  string  `json:"link" doc:"where in the interface it is done"`
	InS   float64 `json:"in_s" doc:"seconds until it can be done; 0 now"`
	rank  int
	coat  bool // a coat to put on, once the one before is dry
}

// View is the whole of Today.
type View struct {
	Now   *Task         `json:"now,omitempty"`
	Then  []Task        `json:"then"`
	Notes []journal.Row `json:"notes" doc:"what was done last, newest first"`
}

// Ranks: what spoils first comes first.
const (
	rankClock = iota // a mix whose clock runs
	rankReady        // a pot that needs a hand
	rankBench        // a mix half weighed
	rankWeigh        // a drying mould that nobody weighed today
	rankFinish
	rankCheck
	rankPack
	rankRun
	rankDesign
	rankWait // a pot that will need a hand later
)

// View works out what to do, in order. It reads the work in hand only: indexes
// pot_running, mix_state, copy_state, piece_put_away, kit_open, journal_at.
func (s *Service) View(ctx context.Context) (View, error) {
	pots, err := s.Pots.Pots(ctx)
	if err != nil {
		return View{}, fmt.Errorf("reading the pots: %w", err)
	}
	tasks := fromPots(pots)
	for _, gather := range []func(context.Context) ([]Task, error){s.fromMixes, s.fromMoulds, s.fromCopies, s.fromPieces, s.fromKits} {
		more, err := gather(ctx)
		if err != nil {
			return View{}, fmt.Errorf("gathering what to do: %w", err)
		}
		tasks = append(tasks, more...)
	}
	// A piece whose coat still dries has its pot to wait for, not a next coat.
	tasks = slices.DeleteFunc(tasks, func(t Task) bool {
		return t.coat && slices.ContainsFunc(pots, func(p Pot) bool { return p.Piece == t.Piece && !p.Ready })
	})
	slices.SortStableFunc(tasks, func(a, b Task) int {
		return cmp.Or(cmp.Compare(a.rank, b.rank), cmp.Compare(a.InS, b.InS), strings.Compare(a.Title, b.Title))
	})
	v := View{Then: []Task{}}
	if len(tasks) > 0 && tasks[0].rank != rankWait {
		v.Now, tasks = &tasks[0], tasks[1:]
	}
	v.Then = append(v.Then, tasks[:min(len(tasks), 12)]...)
	v.Notes, err = journal.Latest(ctx, s.DB, 8)
	return v, err
}

func fromPots(pots []Pot) []Task {
	var out []Task
	for _, p := range pots {
		t := Task{Piece: p.Piece, Link: "/build", InS: p.LeftS, rank: rankWait}
		if p.Mould {
			t.Link = "/mould?mould=" + url.QueryEscape(p.Label)
		}
		switch {
		case p.Ready && p.Mould:
			t.Title, t.Why, t.InS, t.rank = p.Label+" is dry", "Say so, and it may be baked and poured.", 0, rankReady
		case p.Ready:
			t.Title, t.Why, t.InS, t.rank = "Take out "+p.Label, "It is "+p.Words+". Nothing is gained by waiting, and the mould is free again.", 0, rankReady
		default:
			t.Title, t.Why = p.Label+": "+p.Left, "It is "+p.Words+" now."
		}
		out = append(out, t)
	}
	return out
}

func (s *Service) fromMixes(ctx context.Context) ([]Task, error) {
	var rows []struct {
		Code, Piece, Name, State string
		Contact                  bool
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT x.code, q.code AS piece, q.name, x.state, x.contact_at IS NOT NULL AS contact FROM mix x JOIN piece q ON q.id = x.piece_id WHERE x.state IN ('planned','weighing') ORDER BY x.id`); err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range rows {
		t := Task{Piece: r.Piece, Link: "/mix/" + r.Code, rank: rankBench}
		switch {
		case r.Contact:
			t.Title, t.Why, t.rank = "Pour "+r.Code+" into "+r.Piece, "A has met B: the working time runs.", rankClock
		case r.State == "weighing":
			t.Title, t.Why = "Go on weighing "+r.Code, "Half of it stands in the cup."
		default:
			t.Title, t.Why = "Weigh "+r.Code+" for "+r.Name, "The sheet is written, the lots are chosen."
		}
		out = append(out, t)
	}
	return out, nil
}

// fromMoulds names the drying moulds that nobody weighed today.
func (s *Service) fromMoulds(ctx context.Context) ([]Task, error) {
	var rows []struct {
		Code, Piece string
		Last        *time.Time
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT d.code, q.code AS piece, (SELECT MAX(w.at) FROM mould_weighing w WHERE w.mould_id = d.id) AS last
		FROM pot p JOIN mould d ON d.id = p.mould_id JOIN piece q ON q.id = d.piece_id WHERE p.ended_at IS NULL AND d.state = 'drying' ORDER BY d.code`); err != nil {
		return nil, err
	}
	today := s.Clock.Now().Format(time.DateOnly)
	var out []Task
	for _, r := range rows {
		if r.Last == nil || r.Last.Format(time.DateOnly) < today {
			out = append(out, Task{Piece: r.Piece, Title: "Weigh the mould " + r.Code, Why: "It dries; a weighing every day says when it may be baked.", Link: "/mould?mould=" + url.QueryEscape(r.Code), rank: rankWeigh})
		}
	}
	return out, nil
}

func (s *Service) fromCopies(ctx context.Context) ([]Task, error) {
	var rows []struct {
		Code, Piece, State string
		Ticks              int
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT c.code, q.code AS piece, c.state, (SELECT COUNT(*) FROM finish_tick t WHERE t.copy_id = c.id) AS ticks FROM copy c JOIN piece q ON q.id = c.piece_id WHERE c.state IN ('demoulded','repair','accepted') ORDER BY c.made_at`); err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range rows {
		switch {
		case r.State == "accepted":
			out = append(out, Task{Piece: r.Piece, Title: "Pack " + r.Code, Why: "It is accepted and in no kit yet.", Link: "/handover", rank: rankPack})
		case r.Ticks >= 5 && r.State == "demoulded":
			out = append(out, Task{Piece: r.Piece, Title: "Check " + r.Code, Why: "Everything is ticked; it waits for a verdict.", Link: "/check/" + r.Code, rank: rankCheck})
		default:
			why := fmt.Sprintf("%d of 5 things are ticked.", r.Ticks)
			if r.State == "repair" {
				why = "It was sent back for repair."
			}
			out = append(out, Task{Piece: r.Piece, Title: "Finish " + r.Code, Why: why, Link: "/finish/" + r.Code, rank: rankFinish})
		}
	}
	return out, nil
}

func (s *Service) fromPieces(ctx context.Context) ([]Task, error) {
	var rows []struct {
		Code, Name, Family          string
		Wanted, Good, Coming, Mixes int
		Brief, Section              int
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT q.code, q.name, q.family, q.copies_wanted AS wanted,
		(SELECT COUNT(*) FROM copy c WHERE c.piece_id = q.id AND c.state IN ('accepted','packed','handed_over')) AS good,
		(SELECT COUNT(*) FROM copy c WHERE c.piece_id = q.id AND c.state IN ('curing','demoulded','repair')) AS coming,
		(SELECT COALESCE(SUM(x.pours),0) FROM mix x WHERE x.piece_id = q.id AND x.state IN ('planned','weighing')) AS mixes,
		(SELECT COUNT(*) FROM document_version v WHERE v.piece_id = q.id AND v.kind = 'brief') AS brief,
		(SELECT COUNT(*) FROM document_version v WHERE v.piece_id = q.id AND v.kind = 'section') AS section
		FROM piece q WHERE q.put_away_at IS NULL ORDER BY q.code`); err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range rows {
		missing := r.Wanted - r.Good - r.Coming - r.Mixes
		switch {
		case r.Brief == 0:
			out = append(out, Task{Piece: r.Code, Title: "Agree the brief of " + r.Code, Why: r.Name + ": nothing can be chosen before it is.", Link: "/brief/" + r.Code, rank: rankDesign})
		case r.Section == 0:
			out = append(out, Task{Piece: r.Code, Title: "Draw the section of " + r.Code, Why: r.Name + ": the brief is agreed.", Link: "/piece/" + r.Code, rank: rankDesign})
		case missing > 0 && strings.HasPrefix(r.Family, "latex"):
			out = append(out, Task{Piece: r.Code, Title: fmt.Sprintf("Next coat of %s", r.Code), Why: fmt.Sprintf("%s: %d of %d are good.", r.Name, r.Good, r.Wanted), Link: "/build?piece=" + r.Code, rank: rankRun, coat: true})
		case missing > 0:
			out = append(out, Task{Piece: r.Code, Title: fmt.Sprintf("Mix for %s, %d still missing", r.Code, missing), Why: fmt.Sprintf("%d of %d copies are good, %d coming.", r.Good, r.Wanted, r.Coming), Link: "/mix?piece=" + r.Code, rank: rankRun})
		}
	}
	return out, nil
}

func (s *Service) fromKits(ctx context.Context) ([]Task, error) {
	var rows []struct{ Code, Artist string }
	if err := s.DB.SelectContext(ctx, &rows, `SELECT code, artist_name AS artist FROM kit WHERE received_at IS NULL AND handed_at IS NULL ORDER BY id`); err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range rows {
		out = append(out, Task{Title: "Hand over " + r.Code, Why: "It is packed for " + r.Artist + ".", Link: "/handover/" + r.Code, rank: rankPack})
	}
	return out, nil
}

// Register puts Today's operations on the API.
func Register(api huma.API, s *Service) {
	var shared web.Shared[View]
	web.Get(api, "/api/today", "What hands do next, and why that first", web.Makers, func(ctx context.Context, _ *struct{}) (View, error) {
		return shared.Get(ctx, s.Live.State(s.Clock.Now()), s.View)
	})
	web.Get(api, "/api/search", "Find anything", web.Makers, func(ctx context.Context, in *struct {
		Words string `query:"words" maxLength:"80"`
	}) ([]Hit, error) {
		return s.Find(ctx, in.Words)
	})
}
