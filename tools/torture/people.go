package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"os"
	"sync"
	"time"

	"github.com/google/uuid"

	"yewmoor/internal/craft/section"
	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/recipes"
	"yewmoor/internal/shop"
	"yewmoor/internal/station/stores"
)

const password = "a long enough word"

// stockG is what each lot holds at the beginning.
const stockG = 100_000

// furnish makes people, lots and a piece for each person.
func furnish(ctx context.Context, db *database.DB, files string) ([]string, error) {
	s, err := shop.New(ctx, shop.Config{FilesDir: files}, db, clock.System{}, device.NewSimulatedScale(1, time.Now), device.NewSimulatedRoom(1))
	if err != nil {
		return nil, err
	}
	var lead context.Context
	for _, p := range []struct {
		login string
		role  accounts.Role
	}{{"maud", accounts.Lead}, {"ivo", accounts.Fabricator}, {"pip", accounts.Apprentice}} {
		who, err := s.Accounts.Add(ctx, p.login, p.login, p.role, password, time.Now().UTC())
		if err != nil {
			return nil, err
		}
		if p.role == accounts.Lead {
			lead = accounts.With(ctx, who)
		}
	}
	amount := fmt.Sprintf("%d g", stockG)
	day := time.Now().AddDate(1, 0, 0).Format(time.DateOnly)
	for _, l := range []stores.NewLot{
		{Material: "silicone-gel", Code: "K-1", AmountA: amount, AmountB: amount, ExpiresOn: day},
		{Material: "softener", Code: "S-1", Amount: amount, ExpiresOn: day},
	} {
		if _, err := s.Stores.Receive(lead, l); err != nil {
			return nil, err
		}
	}
	body := section.Start(34)
	body.Layers = append(body.Layers, section.Layer{ID: "body", Kind: section.Silicone, Material: "silicone-gel", CentreMM: 6})
	var codes []string
	for _, name := range []string{"Brow", "Cheek", "Chin"} {
		p, err := s.Pieces.Create(lead, piece.NewPiece{Production: "The Tallow Court", CharacterCode: "BF", CharacterName: "the bell-founder", Name: name, Region: "cheek", CopiesWanted: 50})
		if err != nil {
			return nil, err
		}
		if _, err := s.Pieces.SaveSection(lead, p.Code, body, 0, 0); err != nil {
			return nil, err
		}
		if _, err := s.Pieces.AgreeSection(lead, p.Code, nil); err != nil {
			return nil, err
		}
		codes = append(codes, p.Code)
	}
	return codes, nil
}

// answers is what the server said yes to.
type answers struct {
	mu    sync.Mutex
	weigh map[string]float64 // key to grams
	notes map[string]string  // key to words
	pours map[string]int     // mix to copies
	fills map[uint64]float64 // pot to the highest degree that was shown
}

func newAnswers() *answers {
	return &answers{weigh: map[string]float64{}, notes: map[string]string{}, pours: map[string]int{}, fills: map[uint64]float64{}}
}

func (a *answers) String() string {
	a.mu.Lock()
	defer a.mu.Unlock()
	return fmt.Sprintf("%d weigh-ins, %d notes, %d pours answered", len(a.weigh), len(a.notes), len(a.pours))
}

func (a *answers) keep(what func()) { a.mu.Lock(); what(); a.mu.Unlock() }

type client struct {
	http *http.Client
	base string
}

// send returns the status, 0 when no answer came, and decodes it.
func (c client) send(ctx context.Context, method, path string, body, into any) int {
	var raw []byte
	if body != nil {
		raw, _ = json.Marshal(body)
	}
	req, err := http.NewRequestWithContext(ctx, method, c.base+path, bytes.NewReader(raw))
	if err != nil {
		return 0
	}
	req.Header.Set("Content-Type", "application/json")
	res, err := c.http.Do(req)
	if err != nil {
		return 0
	}
	defer res.Body.Close()
	answer, err := io.ReadAll(res.Body)
	if err != nil {
		return 0
	}
	if res.StatusCode >= 400 && res.StatusCode < 500 {
		fmt.Fprintln(os.Stderr, "refused:", path, string(answer))
	}
	if into != nil && json.Unmarshal(answer, into) != nil {
		return 0
	}
	return res.StatusCode
}

type view struct {
	Code    string
	State   string
	Current int
	Lines   []struct {
		Seq  int
		AddG float64 `json:"add_g"`
	}
}

// work is one person at the bench until the server dies: a sheet, its parts,
// a note, the pour; each weight sent twice, as after a lost answer.
func work(ctx context.Context, base, login, pieceCode string, said *answers) {
	jar, _ := cookiejar.New(nil)
	c := client{&http.Client{Jar: jar, Timeout: 5 * time.Second}, base}
	if c.send(ctx, "POST", "/api/sign-in", map[string]string{"login": login, "password": password}, nil) != 200 {
		return
	}
	for ctx.Err() == nil {
		var v view
		order := map[string]any{"piece": pieceCode, "recipe": recipes.SheetOf("silicone-gel"),
			"additions": []map[string]any{{"material": "softener", "percent": 50}},
			"amount": map[string]any{"area": map[string]any{"area_cm2": 34, "mean_mm": 2}, "copies": 1, "spare": 0, "waste": 0.15,
				"density": 0}}
		if c.send(ctx, "POST", "/api/mixes", order, &v) != 200 || c.send(ctx, "POST", "/api/mixes/"+v.Code+"/begin", nil, &v) != 200 {
			return
		}
		for v.Current != 0 {
			key, grams := uuid.NewString(), fmt.Sprintf("%.2f", v.Lines[v.Current-1].AddG)
			in := map[string]any{"seq": v.Current, "key": key, "typed": grams + " g"}
			for range 2 {
				if c.send(ctx, "POST", "/api/mixes/"+v.Code+"/weigh", in, &v) != 200 {
					return
				}
				said.keep(func() { said.weigh[key] = number(grams) })
			}
		}
		key, words := uuid.NewString(), "poured "+v.Code
		if c.send(ctx, "POST", "/api/pieces/"+pieceCode+"/notes", map[string]any{"words": words, "key": key}, nil) != 200 {
			return
		}
		said.keep(func() { said.notes[key] = words })
		if c.send(ctx, "POST", "/api/mixes/"+v.Code+"/pour", map[string]any{"moulds": []string{""}}, nil) != 200 {
			return
		}
		said.keep(func() { said.pours[v.Code] = 1 })
		var shelf struct {
			Pots []struct {
				ID   uint64
				Fill float64
			}
		}
		if c.send(ctx, "GET", "/api/pots", nil, &shelf) != 200 {
			return
		}
		said.keep(func() {
			for _, p := range shelf.Pots {
				said.fills[p.ID] = max(said.fills[p.ID], p.Fill)
			}
		})
	}
}

func number(s string) (f float64) { _, _ = fmt.Sscan(s, &f); return f }
