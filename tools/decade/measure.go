package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/recipes"
	"yewmoor/tools/pace"
)

// inWork pieces are asked for again and again; further ones are each opened
// once, so that nothing is kept of them.
const inWork = 200

const sectionAgain = "piece page: its section, worked out"

func questions(ctx context.Context, db *database.DB) ([]pace.Question, error) {
	var codes []string
	if err := db.SelectContext(ctx, &codes, `SELECT code FROM piece ORDER BY put_away_at IS NOT NULL, id DESC LIMIT 4000`); err != nil {
		return nil, err
	}
	var deep string
	if err := db.GetContext(ctx, &deep, `SELECT l.code FROM lot l JOIN mix_line n ON n.lot_id = l.id GROUP BY l.id, l.code ORDER BY COUNT(*) DESC LIMIT 1`); err != nil {
		return nil, err
	}
	if len(codes) <= inWork {
		return nil, fmt.Errorf("only %d pieces: make the ten years again", len(codes))
	}
	fresh := codes[inWork:]
	var opened atomic.Int64
	code := func(i int) string { return codes[i%inWork] }
	get := func(path string) func(*pace.Person, int) ([]byte, error) {
		return func(p *pace.Person, _ int) ([]byte, error) { return p.Ask("GET", path, nil) }
	}
	words := []string{"X-0451", "scaled%20brow%201", "AAC", "tinker%20771", "pigment", "K-01", "jun%20abb", "R-02"}
	return []pace.Question{
		{Name: "the empty route, as the floor", Do: get("/healthz")},
		{Name: "who am I: a session and nothing else", Do: get("/api/me")},
		{Name: "Today", Do: get("/api/today")},
		{Name: "the round", Do: get("/api/pieces")},
		{Name: "the pot shelf", Do: get("/api/pots")},
		{Name: "piece page: the piece and its log", Do: func(p *pace.Person, i int) ([]byte, error) { return p.Ask("GET", "/api/pieces/"+code(i), nil) }},
		{Name: sectionAgain, Do: func(p *pace.Person, i int) ([]byte, error) {
			return p.Ask("GET", "/api/pieces/"+code(i)+"/section", nil)
		}},
		{Name: "stores", Do: get("/api/lots")},
		{Name: "trace of the deepest lot", Do: get("/api/trace/lot/" + deep)},
		{Name: "search", Do: func(p *pace.Person, i int) ([]byte, error) {
			return p.Ask("GET", "/api/search?words="+words[i%len(words)], nil)
		}},
		{Name: "start of a mix: the sheet with its lots", Do: func(p *pace.Person, i int) ([]byte, error) {
			return p.Ask("POST", "/api/mixes/sheet", map[string]any{"piece": code(i), "recipe": recipes.SheetOf("silicone-gel"),
				"additions": []map[string]any{{"material": "softener", "percent": 50}},
				"amount": map[string]any{"area": map[string]any{"area_cm2": 34, "mean_mm": 2}, "copies": 1, "spare": 0, "waste": 0.15,
					"density": 0}})
		}},
		{Name: "a section opened for the first time", Do: func(p *pace.Person, _ int) ([]byte, error) {
			return p.Ask("GET", "/api/pieces/"+fresh[int(opened.Add(1))%len(fresh)]+"/section", nil)
		}},
	}, nil
}

func measure(ctx context.Context, db *database.DB, dsn, files string, asks int) error {
	s, err := pace.Start([]string{"YEWMOOR_DSN=" + dsn}, "serve", "--files", files)
	if err != nil {
		return err
	}
	defer s.Stop()
	fmt.Printf("%-44s %8.2f s\n", "start of the server", s.Ready.Seconds())
	all, err := questions(ctx, db)
	if err != nil {
		return err
	}
	crowd := make([]*pace.Person, people)
	for i := range crowd {
		if crowd[i], err = pace.SignIn(s.Base, fmt.Sprintf("p%d", i+1), password); err != nil {
			return err
		}
	}
	// The pieces in work have been looked at before.
	for i := range inWork {
		for _, q := range all {
			if q.Name == sectionAgain {
				if _, err := q.Do(crowd[0], i); err != nil {
					return err
				}
			}
		}
	}
	for _, way := range []struct {
		name string
		do   func(q pace.Question) error
	}{
		{"one person", func(q pace.Question) error { return q.Under(crowd[:1], 5*asks) }},
		{"20 people, each asking once a second", func(q pace.Question) error { return q.Paced(crowd, 6) }},
		{"20 people asking without a pause", func(q pace.Question) error { return q.Under(crowd, asks) }},
	} {
		pace.Head(way.name)
		for _, q := range all {
			if err := way.do(q); err != nil {
				return err
			}
		}
	}
	if err := readings(crowd[0]); err != nil {
		return err
	}
	now, most := s.Memory()
	fmt.Printf("%-44s %8.0f MB, at most %.0f MB\n", "memory of the server", now, most)
	return nil
}

// readings opens fifty screens on the scale and counts what they get.
func readings(p *pace.Person) error {
	const screens, seconds = 50, 10
	var mu sync.Mutex
	var late []time.Duration
	least, gaps := 1<<30, 0
	var failed error
	var wg sync.WaitGroup
	until := time.Now().Add(seconds*time.Second + time.Second)
	for range screens {
		wg.Add(1)
		go func() {
			defer wg.Done()
			n, missing, lateness, err := watch(p, until)
			mu.Lock()
			defer mu.Unlock()
			least, gaps, late = min(least, n), gaps+missing, append(late, lateness...)
			if err != nil {
				failed = err
			}
		}()
	}
	wg.Wait()
	if failed != nil {
		return failed
	}
	slices.Sort(late)
	fmt.Printf("%-44s %8.1f a second on the slowest of %d screens, %d missing; %.1f ms late at p50, %.1f at p99, %.1f at most\n", "live readings of the scale",
		float64(least)/seconds, screens, gaps, pace.MS(late[len(late)/2]), pace.MS(late[len(late)*99/100]), pace.MS(late[len(late)-1]))
	return nil
}

// watch reads one screen's stream: how many readings, how many numbers were
// left out, and how old each was.
func watch(p *pace.Person, until time.Time) (n, missing int, late []time.Duration, err error) {
	ctx, stop := context.WithDeadline(context.Background(), until)
	defer stop()
	req, err := http.NewRequestWithContext(ctx, "GET", p.Base+"/api/scale/stream", nil)
	if err != nil {
		return 0, 0, nil, err
	}
	res, err := p.Client.Do(req)
	if err != nil {
		return 0, 0, nil, err
	}
	defer res.Body.Close()
	from, last := until.Add(-10*time.Second), uint64(0)
	for lines := bufio.NewScanner(res.Body); lines.Scan(); {
		text, ok := strings.CutPrefix(lines.Text(), "data: ")
		var r struct {
			At  time.Time
			Seq uint64
		}
		if !ok || json.Unmarshal([]byte(text), &r) != nil || time.Now().Before(from) {
			continue
		}
		if last > 0 && r.Seq > last+1 {
			missing += int(r.Seq - last - 1)
		}
		last = r.Seq
		n++
		late = append(late, time.Since(r.At))
	}
	return n, missing, late, nil
}
