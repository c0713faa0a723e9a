// Command shots takes the pictures of docs/screenshots from a running demo, at
// 1280×800. With -path it takes one picture of one address instead.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"yewmoor/e2e/drive"
)

// main views, by file name.
var views = [][2]string{
	{"today", "/"}, {"brief", "/brief/BF-03"}, {"method", "/brief/BF-03?leaf=Method"}, {"section", "/piece/BF-03"}, {"sculpt", "/sculpt/PK-01"}, {"mould", "/mould?mould=AL-02/M1"}, {"mix", "/mix?piece=BF-03"},
	{"bench", "/mix/X-0013"}, {"build", "/build?run=R-0006"}, {"colour", "/colour/GC-01"}, {"finish", "/finish/BF-03-c"}, {"check",
		"/check/PK-01-a"},
	{"hand-over", "/handover/K-001?leaf=Morning"}, {"plan", "/plan"}, {"stock", "/stock"}, {"form", "/form/AL-01"},
}

func main() {
	base := flag.String("base", "http://127.0.0.1:8480", "the running demo")
	dir := flag.String("dir", "docs/screenshots", "where the pictures go")
	one := flag.String("path", "", "take one picture of this address only")
	out := flag.String("out", "shot.png", "its file")
	who := flag.String("who", "ivo", "who signs in; empty for nobody")
	keys := flag.String("keys", "", "keys to press first, comma separated")
	click := flag.String("click", "", "selectors to click first, separated by ;;; text=words clicks what begins with them")
	wait := flag.Duration("wait", 900*time.Millisecond, "how long to wait before the picture")
	width := flag.Int64("width", 1280, "of the window")
	night := flag.Bool("night", false, "the dark theme")
	flag.Parse()
	if err := run(*base, *dir, *one, *out, *who, *keys, *click, *wait, *width, *night); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(base, dir, one, out, who, keys, click string, wait time.Duration, width int64, night bool) error {
	tab, stop, err := drive.Browser(context.Background(), width)
	if err != nil {
		return err
	}
	defer stop()
	if who != "" {
		if err := drive.SignIn(tab, base, who); err != nil {
			return err
		}
	}
	if night {
		if _, err := chromedp.Run(tab, chromedp.Evaluate[any](`localStorage.setItem("yewmoor.light","night")`)); err != nil {
			return err
		}
	}
	take := func(path, file string) error {
		steps := []chromedp.Action[chromedp.Void]{chromedp.Navigate(base + path), chromedp.Sleep(wait)}
		for _, k := range strings.Split(keys, ",") {
			if k != "" {
				steps = append(steps, chromedp.KeyEvent(k), chromedp.Sleep(500*time.Millisecond))
			}
		}
		for _, c := range strings.Split(click, ";;") {
			switch words, byText := strings.CutPrefix(c, "text="); {
			case byText:
				js := fmt.Sprintf(`(() => { const of = [...document.querySelectorAll("button, a, [role=tab], summary")].filter(e => e.innerText.trim().startsWith(%q)); of[0]?.scrollIntoView({ block: "center" }); of[0]?.click(); return of.length })()`, words)
				steps = append(steps, clicked(js, words), chromedp.Sleep(700*time.Millisecond))
			case c != "":
				steps = append(steps, chromedp.Click(chromedp.CSS(c)), chromedp.Sleep(700*time.Millisecond))
			}
		}
		if err := chromedp.Do(tab, steps...); err != nil {
			return fmt.Errorf("%s: %w", path, err)
		}
		png, err := chromedp.Run(tab, chromedp.CaptureScreenshot())
		if err != nil {
			return fmt.Errorf("%s: %w", path, err)
		}
		return os.WriteFile(file, png, 0o644)
	}
	if one != "" {
		return take(one, out)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	for _, v := range views {
		if v[0] == "bench" {
			// Half weighed says more than a written sheet.
			if _, err := post(tab, "/api/mixes/X-0013/begin", map[string]any{}); err != nil {
				return err
			}
			if _, err := post(tab, "/api/mixes/X-0013/weigh", map[string]any{"seq": 1, "key": "5ad0d3f4-0b64-4c6b-9d0c-6f0a4c1f7e21", "typed": "7.6 g"}); err != nil {
				return err
			}
		}
		if err := take(v[1], filepath.Join(dir, v[0]+".png")); err != nil {
			return err
		}
	}
	light := func(name string) error {
		_, err := chromedp.Run(tab, chromedp.Evaluate[any](fmt.Sprintf(`localStorage.setItem("yewmoor.light",%q)`, name)))
		return err
	}
	// The record is a lead's, and so is the money, which is shown by night.
	if err := errors.Join(drive.SignIn(tab, base, "maud"), take("/record", filepath.Join(dir, "record.png")),
		light("night"), take("/plan?leaf=Money&piece=BF-03", filepath.Join(dir, "money.png")), light("day"), drive.SignIn(tab, base, "ivo")); err != nil {
		return err
	}
	// The makeup artist's page, as a phone shows it.
	link, err := post(tab, "/api/kits/K-001/links", map[string]any{"days": 14})
	if err != nil {
		return err
	}
	if err := chromedp.Do(tab, chromedp.EmulateViewport(390, 800)); err != nil {
		return err
	}
	at, _ := link["url"].(string)
	return take(strings.TrimPrefix(at, base), filepath.Join(dir, "artist.png"))
}

// post does one act as the person who is signed in.
func post(tab context.Context, path string, body any) (map[string]any, error) {
	b, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	script := fmt.Sprintf(`fetch(%q,{method:"POST",headers:{"Content-Type":"application/json"},body:%q}).then(async r=>{const t=await r.json();if(!r.ok)throw new Error(JSON.stringify(t));return t})`, path, b)
	return chromedp.Run(tab, chromedp.Evaluate[map[string]any](script, chromedp.EvalAwaitPromise))
}

// clicked runs a script that clicks what begins with words, and fails where there
// was nothing of the kind.
func clicked(js, words string) chromedp.Action[chromedp.Void] {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		n, err := chromedp.Evaluate[int](js)(ctx, t)
		if err == nil && n == 0 {
			err = fmt.Errorf("nothing here begins with %q", words)
		}
		return chromedp.Void{}, err
	}
}
