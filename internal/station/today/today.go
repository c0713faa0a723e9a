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

	"yewmoor/internal/copies"
	"yewmoor/internal/document"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/live"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/work"
)

// Pot is what today needs of a pot on the shelf.
type Pot struct {
	Label, Piece, Left, Words string
	Ready                     bool
	Mould                     bool   // a mould that sets and dries; its label is its code
	Late                      string // what its window is shut for; "" while it is open
	LeftS                     float64
	Run                       string // the session it belongs to
	Goes                      bool   // in the middle of a build: Then follows
	Then                      string
	ID                        uint64
}

// Run is a session that waits for a hand and has no pot to wait for.
type Run struct {
	Code, Piece, Next string
}

// Pots tells what stands on the shelf; wired to the build room.
type Pots interface {
	Pots(ctx context.Context) ([]Pot, error)
	// Idle are the open runs whose next stage waits for nothing.
	Idle(ctx context.Context) ([]Run, error)
	// FromMix says of the pieces in work which are cast from a mix, by code.
	FromMix(ctx context.Context) (map[string]bool, error)
}

// Due is what the stores ask of somebody today: an order, or to tell of a recall.
type Due struct {
	Title, Why, Link string
	Tell             bool
}

// Stores tells what is to be ordered and who is to be told; wired to the stores.
type Stores interface {
	Due(ctx context.Context) ([]Due, error)
}

// Service does the use cases of Today.
type Service struct {
	DB      *database.DB
	Clock   clock.Clock
	Live    *live.Hub
	Pots    Pots
	Stores  Stores
	Planner Planner

	shared web.Shared[[]Task]
}

// Task is one thing to do.
type Task struct {
	Piece string  `json:"piece,omitempty"`
	Title string  `json:"title"`
	About string  `json:"about,omitempty" doc:"the material and the piece that it is about"`
	Why   string  `json:"why"`
	Link  string  `json:"link" doc:"where in the interface it is done"`
	InS   float64 `json:"in_s" doc:"seconds until it can be done; 0 now"`
	// What the plan says of it, where it is the plan's.
	Step    string     `json:"step,omitempty"`
	Act     string     `json:"act,omitempty" doc:"what kind of work, as minutes are learned by it"`
	Code    string     `json:"code,omitempty"`
	Copies  int        `json:"copies,omitempty"`
	At      *time.Time `json:"at,omitempty" doc:"when the plan has it"`
	Minutes int        `json:"minutes,omitempty" doc:"how long hands are at it"`
	With    string     `json:"with,omitempty" doc:"what it takes and what it is done in"`
	Frees   string     `json:"frees,omitempty" doc:"the mould that is free again after it"`
	Follows string     `json:"follows,omitempty"`
	Bar     string     `json:"bar,omitempty" doc:"what forbids it now"`
	Other   uint64     `json:"other,omitempty" doc:"other work, by its id"`
	Binds   bool       `json:"binds,omitempty" doc:"it is on the way to what is late"`
	rank    int
	// copy is what a task about one copy is grouped by: several of a piece are one
	// line.
	copy string
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
	rankTell         // somebody has a recalled lot and does not know, or skin reacted
	rankReady        // a pot that needs a hand
	rankAsked        // an artist wrote, and nobody answered
	rankBench        // a mix half weighed
	rankWeigh        // a drying mould that nobody weighed today
	rankFinish
	rankCheck
	rankPack
	rankOrder
	rankRun
	rankDesign
	rankWait // a pot that will need a hand later
)

// acts are what kind of work the tasks are which minutes are learned of; the others are other work.
var acts = map[int]string{rankWeigh: "weigh a mould", rankFinish: work.Finish, rankCheck: work.Check, rankPack: work.Pack}

// View works out what to do, in order. It reads the work in hand only: indexes
// pot_running, mix_state, copy_state, piece_put_away, kit_open, journal_at.
func (s *Service) View(ctx context.Context) (View, error) {
	tasks, err := s.tasks(ctx)
	if err != nil {
		return View{}, err
	}
	v := View{Then: []Task{}}
	if len(tasks) > 0 && tasks[0].rank != rankWait {
		v.Now, tasks = &tasks[0], tasks[1:]
	}
	tasks = limited(tasks)
	v.Then = append(v.Then, tasks[:min(len(tasks), 12)]...)
	v.Notes, err = journal.Latest(ctx, s.DB, 8)
	return v, err
}

// tasks are all that there is to do, the most pressing first: worked out once for everybody. Nobody changes the list.
func (s *Service) tasks(ctx context.Context) ([]Task, error) {
	return s.shared.Get(ctx, s.Live.State(s.Clock.Now()), s.gather)
}

func (s *Service) gather(ctx context.Context) ([]Task, error) {
	pots, err := s.Pots.Pots(ctx)
	if err != nil {
		return nil, fmt.Errorf("reading the pots: %w", err)
	}
	tasks := fromPots(pots)
	for _, gather := range []func(context.Context) ([]Task, error){s.fromMixes, s.fromRuns, s.fromMoulds, s.fromCopies,
		s.fromPieces, s.fromKits, s.fromReports, s.fromStores} {
		more, err := gather(ctx)
		if err != nil {
			return nil, fmt.Errorf("gathering what to do: %w", err)
		}
		tasks = append(tasks, more...)
	}
	if err := s.about(ctx, tasks); err != nil {
		return nil, err
	}
	slices.SortStableFunc(tasks, func(a, b Task) int {
		return cmp.Or(cmp.Compare(a.rank, b.rank), cmp.Compare(a.InS, b.InS), strings.Compare(a.Title, b.Title))
	})
	return grouped(tasks), nil
}

// about puts the material and the piece into words for every task about a piece.
func (s *Service) about(ctx context.Context, tasks []Task) error {
	words, err := s.words(ctx)
	for i, t := range tasks {
		if t.About == "" {
			tasks[i].About = words[t.Piece]
		}
		tasks[i].Act = acts[t.rank]
		if t.copy != "" {
			tasks[i].Copies = 1
		}
	}
	return err
}

// words are the material and the name of every piece in work, by its code.
func (s *Service) words(ctx context.Context) (map[string]string, error) {
	var rows []struct{ Code, Name, Family string }
	if err := s.DB.SelectContext(ctx, &rows, `SELECT code, name, family FROM piece WHERE put_away_at IS NULL`); err != nil {
		return nil, err
	}
	words := map[string]string{}
	for _, r := range rows {
		words[r.Code] = strings.Trim(strings.ReplaceAll(r.Family, "_", " ")+" · "+r.Name, " ·")
	}
	return words, nil
}

// grouped makes one line of what is to be done to several copies of one piece;
// tasks come in their order.
func grouped(tasks []Task) []Task {
	var out []Task
	at := map[string]int{}
	for _, t := range tasks {
		verb, _, _ := strings.Cut(t.Title, " ")
		key := fmt.Sprint(t.rank, verb, t.Piece)
		first, seen := at[key]
		if t.copy == "" || !seen {
			if t.copy != "" {
				at[key] = len(out)
			}
			out = append(out, t)
			continue
		}
		out[first].Copies++
		out[first].Title += ", " + strings.TrimPrefix(t.copy, t.Piece)
		if t.rank == rankPack {
			out[first].Link += "," + url.QueryEscape(t.copy)
		}
	}
	return out
}

func fromPots(pots []Pot) []Task {
	var out []Task
	for _, p := range pots {
		t := Task{Piece: p.Piece, Link: fmt.Sprintf("/build?pot=%d", p.ID), InS: p.LeftS, rank: rankWait}
		if p.Mould {
			t.Link = "/mould?mould=" + url.QueryEscape(p.Label)
		}
		switch {
		case p.Late != "":
			t.Title, t.Why, t.InS, t.rank = p.Label+": "+p.Left, "Its window is shut: "+p.Late+". Look at it, and say what becomes of it.", 0, rankReady
		case p.Ready && p.Mould:
			t.Title, t.Why, t.InS, t.rank = p.Label+" is dry", "Say so, and it may be baked and poured.", 0, rankReady
		case p.Ready && p.Goes:
			t.Title, t.Why, t.InS, t.rank = p.Piece+": "+p.Then, p.Label+" is "+p.Words+".", 0, rankReady
			t.Link = "/build?run=" + url.QueryEscape(p.Run)
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
			out = append(
				out,
				Task{
					Piece: r.Piece,
					Title: "Weigh the mould " + r.Code,
					Why:   "It dries; a weighing every day says when it may be baked.",
					Link:  "/mould?mould=" + url.QueryEscape(r.Code),
					rank:  rankWeigh,
				},
			)
		}
	}
	return out, nil
}

// fromRuns names the sessions that were begun and wait for a hand.
func (s *Service) fromRuns(ctx context.Context) ([]Task, error) {
	runs, err := s.Pots.Idle(ctx)
	if err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range runs {
		out = append(
			out,
			Task{
				Piece: r.Piece,
				Title: r.Piece + ": " + r.Next,
				Why:   r.Code + " was begun; nothing holds it back.",
				Link:  "/build?run=" + url.QueryEscape(r.Code),
				rank:  rankBench,
			},
		)
	}
	return out, nil
}

func (s *Service) fromCopies(ctx context.Context) ([]Task, error) {
	rows, err := copies.InHandOf(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range rows {
		switch {
		case r.State == copies.Accepted:
			out = append(
				out,
				Task{
					Piece: r.Piece,
					Title: "Pack " + r.Code,
					Why:   "It is accepted and in no kit yet.",
					Link:  "/handover?copies=" + url.QueryEscape(r.Code),
					rank:  rankPack,
					copy:  r.Code,
				},
			)
		case r.Ticks >= r.Items:
			out = append(
				out,
				Task{
					Piece: r.Piece,
					Title: "Check " + r.Code,
					Why:   "Everything is ticked; it waits for a verdict.",
					Link:  "/check/" + r.Code,
					rank:  rankCheck,
					copy:  r.Code,
				},
			)
		default:
			why := fmt.Sprintf("%d of %d things are ticked.", r.Ticks, r.Items)
			if r.State == copies.Repair {
				why = fmt.Sprintf("It was sent back for repair: %d of %d things are ticked.", r.Ticks, r.Items)
			}
			out = append(
				out,
				Task{
					Piece: r.Piece,
					Title: "Finish " + r.Code,
					Why:   why,
					Link:  "/finish/" + r.Code,
					rank:  rankFinish,
					copy:  r.Code,
				},
			)
		}
	}
	return out, nil
}

func (s *Service) fromPieces(ctx context.Context) ([]Task, error) {
	var rows []struct {
		ID             uint64
		Code, Name     string
		Brief, Section int
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT q.id, q.code, q.name, `+document.NewestSQL("q.id", "brief")+` AS brief, `+document.NewestSQL("q.id", "section")+` AS section FROM piece q WHERE q.put_away_at IS NULL ORDER BY q.code`); err != nil {
		return nil, err
	}
	counts, err := copies.Counts(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	fromMix, err := s.Pots.FromMix(ctx)
	if err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range rows {
		n := counts[r.ID]
		why := fmt.Sprintf("%d of %d copies are good, %d coming.", n.Good, n.Wanted, n.Coming+n.Begun)
		switch {
		case r.Brief == 0:
			out = append(
				out,
				Task{
					Piece: r.Code,
					Title: "Agree the brief of " + r.Code,
					Why:   r.Name + ": nothing can be chosen before it is.",
					Link:  "/brief/" + r.Code,
					rank:  rankDesign,
				},
			)
		case r.Section == 0:
			out = append(
				out,
				Task{
					Piece: r.Code,
					Title: "Draw the section of " + r.Code,
					Why:   r.Name + ": the brief is agreed.",
					Link:  "/piece/" + r.Code,
					rank:  rankDesign,
				},
			)
		case n.Missing() > 0 && fromMix[r.Code]:
			out = append(
				out,
				Task{
					Piece: r.Code,
					Title: fmt.Sprintf("Mix for %s, %d still missing", r.Code, n.Missing()),
					Why:   why,
					Link:  "/mix?piece=" + r.Code,
					rank:  rankRun,
				},
			)
		case n.Missing() > 0:
			out = append(
				out,
				Task{
					Piece: r.Code,
					Title: fmt.Sprintf("Begin %s, %d still missing", r.Code, n.Missing()),
					Why:   why,
					Link:  "/build?piece=" + r.Code,
					rank:  rankRun,
				},
			)
		}
	}
	return out, nil
}

func (s *Service) fromKits(ctx context.Context) ([]Task, error) {
	var rows []struct{ Code, Artist string }
	if err := s.DB.SelectContext(ctx, &rows, `SELECT k.code, a.name AS artist FROM kit k JOIN contact a ON a.id = k.artist_id WHERE k.received_at IS NULL AND k.handed_at IS NULL ORDER BY k.id`); err != nil {
		return nil, err
	}
	var out []Task
	for _, r := range rows {
		out = append(
			out,
			Task{
				Title: "Hand over " + r.Code,
				Why:   "It goes to " + r.Artist + "; its list says what is still to pack.",
				Link:  "/handover/" + r.Code,
				rank:  rankPack,
			},
		)
	}
	return out, nil
}

// fromReports names the kits whose artist asks something that nobody answered, and the incidents that nobody closed. What skin
// it was, and of whom, is for who may know it. Indexes artist_report_asked and
// incident_open.
func (s *Service) fromReports(ctx context.Context) ([]Task, error) {
	var rows []struct {
		Code, Artist string
		N            int
	}
	if err := s.DB.SelectContext(ctx, &rows, `SELECT k.code, a.name AS artist, COUNT(*) AS n FROM artist_report r JOIN kit k ON k.id = r.kit_id JOIN contact a ON a.id = k.artist_id
		WHERE r.answered_at IS NULL AND k.back_at IS NULL AND r.kind IN ('lifted','itch','reaction','colour','better','other') GROUP BY k.id, k.code, a.name ORDER BY k.id`); err != nil {
		return nil, fmt.Errorf("reading what artists ask: %w", err)
	}
	var out []Task
	for _, r := range rows {
		out = append(
			out,
			Task{
				Title: "Answer " + r.Artist,
				Why:   fmt.Sprintf("%d of what came in about %s waits for an answer.", r.N, r.Code),
				Link:  "/handover/" + r.Code + "?leaf=Came+back",
				rank:  rankAsked,
			},
		)
	}
	var open int
	if err := s.DB.GetContext(ctx, &open, `SELECT COUNT(*) FROM incident WHERE closed_at IS NULL`); err != nil {
		return nil, fmt.Errorf("reading the incidents: %w", err)
	}
	if open > 0 {
		out = append(
			out,
			Task{
				Title: "Read what a skin reacted to",
				Why:   fmt.Sprintf("%d open; a lead closes it once licensed advice was asked.", open),
				Link:  "/handover?leaf=Skin",
				rank:  rankTell,
			},
		)
	}
	return out, nil
}

func (s *Service) fromStores(ctx context.Context) ([]Task, error) {
	list, err := s.Stores.Due(ctx)
	var out []Task
	for _, d := range list {
		t := Task{Title: d.Title, Why: d.Why, Link: d.Link, rank: rankOrder}
		if d.Tell {
			t.rank = rankTell
		}
		out = append(out, t)
	}
	return out, err
}

// Register puts Today's operations on the API.
func Register(api huma.API, s *Service) {
	web.Get(api, "/api/meanwhile", "What there is to do with one's hands that fits into a wait", web.Makers,
		func(ctx context.Context, in *struct {
			WaitS float64 `query:"wait_s" minimum:"0" maximum:"604800"`
			Piece string  `query:"piece" maxLength:"24" doc:"the piece that waits; its own tasks are not offered"`
		}) ([]Meanwhile, error) {
			return s.Fits(ctx, in.WaitS, in.Piece)
		})
	web.Get(
		api,
		"/api/today/mine",
		"The day of whoever asks by the plan, the pots and the record; a lead may ask for anybody's",
		web.Makers,
		func(ctx context.Context, in *struct {
			Person string `query:"person" maxLength:"120"`
		}) (Mine, error) {
			return s.MineOf(ctx, in.Person)
		},
	)
	var shared web.Shared[View]
	web.Get(
		api,
		"/api/today",
		"What hands do next, and why that first",
		web.Makers,
		func(ctx context.Context, _ *struct{}) (View, error) {
			return shared.Get(ctx, s.Live.State(s.Clock.Now()), s.View)
		},
	)
	web.Get(api, "/api/search", "Find anything", web.Makers, func(ctx context.Context, in *struct {
		Words string `query:"words" maxLength:"80"`
	}) ([]Hit, error) {
		return s.Find(ctx, in.Words)
	})
}
