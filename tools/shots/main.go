// Command shots takes the pictures of docs/screenshots from a running demo, at
// 1280×800. With -path it takes one picture of one address instead.
package main

import (
	"context"
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
	{"today", "/"}, {"brief", "/brief/BF-03"}, {"section", "/piece/BF-03"}, {"sculpt", "/sculpt/BF-03"}, {"mould", "/mould"}, {"mix", "/mix?piece=BF-03"},
	{"bench", "/mix/X-0007"}, {"build", "/build?pot=7"}, {"colour", "/colour/BF-03"}, {"finish", "/finish/BF-03-c"}, {"check", "/check/PK-01-a"},
	{"hand-over", "/handover/K-001"}, {"plan", "/plan"}, {"stores", "/stores"}, {"lot", "/stores/24-117"}, {"form", "/form"},
}

func main() {
	base := flag.String("base", "http://127.0.0.1:8480", "the running demo")
	dir := flag.String("dir", "docs/screenshots", "where the pictures go")
	one := flag.String("path", "", "take one picture of this address only")
	out := flag.String("out", "shot.png", "its file")
	who := flag.String("who", "ivo", "who signs in; empty for nobody")
	keys := flag.String("keys", "", "keys to press first, comma separated")
	click := flag.String("click", "", "selectors to click first, separated by ;;")
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
			if c != "" {
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
	for _, v := range views {
		if err := take(v[1], filepath.Join(dir, v[0]+".png")); err != nil {
			return err
		}
	}
	return nil
}
