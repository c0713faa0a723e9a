package main

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/chromedp/chromedp"

	"yewmoor/e2e/drive"
	"yewmoor/tools/pace"
)

// weighings weighs the first part of ten mixes in a browser, and times from the tap
// that says it is in, at a scale that rests, to the screen that asks for the next.
func weighings(p *pace.Person) error {
	tab, stop, err := drive.Browser(context.Background(), 1280)
	if err != nil {
		return err
	}
	defer stop()
	if err := drive.SignIn(tab, p.Base, "ivo"); err != nil {
		return err
	}
	var all []float64
	for range 10 {
		raw, err := p.Ask("POST", "/api/mixes", map[string]any{"recipe": "sheet-silicone-gel",
			"amount": map[string]any{"mass": map[string]any{"grams": 20}, "copies": 1, "spare": 0, "waste": 0, "density": 0}})
		if err != nil {
			return err
		}
		var mix struct {
			Code  string
			Lines []struct {
				AddG float64 `json:"add_g"`
			}
		}
		if err := json.Unmarshal(raw, &mix); err != nil {
			return err
		}
		if _, err := p.Ask("POST", "/api/scale/simulated", map[string]any{"clear": true}); err != nil {
			return err
		}
		if _, err := p.Ask("POST", "/api/mixes/"+mix.Code+"/begin", nil); err != nil {
			return err
		}
		if err := chromedp.Do(tab, chromedp.Navigate(p.Base+"/mix/"+mix.Code),
			chromedp.WaitVisible(chromedp.CSS("[data-testid=big-number]")), chromedp.Sleep(time.Second)); err != nil {
			return err
		}
		if _, err := p.Ask("POST", "/api/mixes/"+mix.Code+"/tare", nil); err != nil {
			return err
		}
		if _, err := p.Ask("POST", "/api/scale/simulated", map[string]any{"put_g": mix.Lines[0].AddG}); err != nil {
			return err
		}
		const rests = `document.querySelector("[data-testid=scale-steady]")?.innerText === "steady" && parseFloat(document.querySelector("[data-testid=scale-value]").innerText) > 1`
		for began := time.Now(); ; time.Sleep(50 * time.Millisecond) {
			still, err := chromedp.Run(tab, chromedp.Evaluate[bool](rests))
			if err != nil {
				return err
			}
			if still {
				break
			}
			if time.Since(began) > 15*time.Second {
				return fmt.Errorf("the scale does not come to rest under %s", mix.Code)
			}
		}
		ms, err := chromedp.Run(tab, chromedp.Evaluate[float64](`new Promise((done) => {
			const head = document.querySelector("h1"), was = head.innerText;
			const seen = new MutationObserver(() => { if (document.querySelector("h1").innerText !== was) { seen.disconnect(); requestAnimationFrame(() => done(performance.now() - begun)); } });
			seen.observe(document.body, { subtree: true, childList: true, characterData: true });
			const begun = performance.now();
			[...document.querySelectorAll("button")].find((b) => b.innerText.includes("A is in")).click();
		})`, chromedp.EvalAwaitPromise))
		if err != nil {
			return err
		}
		all = append(all, ms)
	}
	slices.Sort(all)
	fmt.Printf("%-44s %8.1f ms median, %.1f ms worst of %d\n", "a weigh-in, from the tap to the next number", all[len(all)/2],
		all[len(all)-1], len(all))
	return nil
}
