// Command load starts a demo of its own and measures it: a cold start that
// tells the scenario, a second start, the operations that screens wait for,
// and how long a scale reading takes to the screen.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"

	"yewmoor/tools/pace"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run() error {
	dir, err := os.MkdirTemp("", "yewmoor-load-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	for _, which := range []string{"first start, with the scenario", "second start"} {
		s, err := pace.Start(nil, "demo", "--dir", dir)
		if err != nil {
			return err
		}
		fmt.Printf("%-44s %8.2f s\n", which, s.Ready.Seconds())
		if which == "second start" {
			err = measure(s.Base)
		}
		s.Stop()
		if err != nil {
			return err
		}
	}
	return nil
}

func measure(base string) error {
	p, err := pace.SignIn(base, "ivo", "")
	if err != nil {
		return err
	}
	raw, err := p.Ask("GET", "/api/pieces/BF-03/section", nil)
	if err != nil {
		return err
	}
	var view struct{ Doc json.RawMessage }
	if err := json.Unmarshal(raw, &view); err != nil {
		return err
	}
	get := func(path string) func(*pace.Person, int) ([]byte, error) {
		return func(p *pace.Person, _ int) ([]byte, error) { return p.Ask("GET", path, nil) }
	}
	pace.Head("four people asking without a pause")
	for _, q := range []pace.Question{
		{Name: "a keystroke on a section, worked out", Do: func(p *pace.Person, _ int) ([]byte, error) {
			return p.Ask("POST", "/api/pieces/BF-03/section/work", view.Doc)
		}},
		{Name: "the pot shelf", Do: get("/api/pots")},
		{Name: "Today", Do: get("/api/today")},
		{Name: "search", Do: get("/api/search?words=BF-03")},
		{Name: "a lot with where it went", Do: get("/api/lots/24-117")},
		{Name: "a piece's scans with all that is measured", Do: get("/api/scans?piece=AL-01")},
		{Name: "a mould with its drying course", Do: get("/api/moulds/one?code=AL-02/M1")},
		{Name: "the room of a build sheet", Do: get("/api/pieces/AL-02/mould-plan")},
	} {
		if err := q.Under([]*pace.Person{p, p, p, p}, 75); err != nil {
			return err
		}
	}
	if err := reliefs(p); err != nil {
		return err
	}
	if err := weighings(p); err != nil {
		return err
	}
	return readings(p)
}

// reliefs asks for a texture as a screen does: coarse while a dial turns, fine
// with all its figures when the hand rests. Each question differs, so that no
// answer is kept from before.
func reliefs(p *pace.Person) error {
	pace.Head("one person turning a dial")
	for _, code := range []string{"PK-01", "BF-03", "AL-01"} {
		raw, err := p.Ask("GET", "/api/pieces/"+code+"/texture", nil)
		if err != nil {
			return err
		}
		var view struct{ Doc map[string]any }
		if err := json.Unmarshal(raw, &view); err != nil {
			return err
		}
		for _, q := range []struct {
			name   string
			pixels int
			judge  bool
		}{{"coarse", 26_000, false}, {"fine, with its figures", 360_000, true}} {
			seed := 1000
			ask := pace.Question{Name: code + ", " + q.name, Do: func(p *pace.Person, _ int) ([]byte, error) {
				seed++
				view.Doc["seed"] = seed
				return p.Ask("POST", "/api/textures/relief", map[string]any{"doc": view.Doc, "pixels": q.pixels, "judge": q.judge})
			}}
			if err := ask.Under([]*pace.Person{p}, 25); err != nil {
				return err
			}
		}
	}
	return nil
}

// readings lays a weight on the scale and waits for the stream to show it.
func readings(p *pace.Person) error {
	res, err := p.Client.Get(p.Base + "/api/scale/stream")
	if err != nil {
		return err
	}
	defer res.Body.Close()
	shown := make(chan float64, 100)
	go func() {
		lines := bufio.NewScanner(res.Body)
		for lines.Scan() {
			if text, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				var r struct{ Value float64 }
				if json.Unmarshal([]byte(text), &r) == nil {
					shown <- r.Value
				}
			}
		}
	}()
	var all []time.Duration
	for i := range 20 {
		if _, err := p.Ask("POST", "/api/scale/simulated", map[string]any{"clear": true, "put_g": float64(100 * (i + 1))}); err != nil {
			return err
		}
		begun := time.Now()
		for v := range shown {
			if v > float64(100*(i+1))-5 && v < float64(100*(i+1))+5 {
				break
			}
		}
		all = append(all, time.Since(begun))
	}
	slices.Sort(all)
	fmt.Printf("%-44s %8.1f ms median, %.1f ms worst of %d\n", "a weight on the scale to the screen's line", pace.MS(all[len(all)/2]), pace.MS(all[len(all)-1]), len(all))
	return nil
}
