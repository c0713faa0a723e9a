// Command redraw prints what a frame costs in script, style and layout, on a
// running demo: of the wearer's map with twelve areas on it, while a point is
// dragged and while the form is turned, and of a section of forty layers while
// a body is dragged.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/performance"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yewmoor/e2e/drive"
	"yewmoor/internal/craft/form"
)

func main() {
	base := flag.String("base", "http://127.0.0.1:8480", "the running demo")
	flag.Parse()
	if err := run(*base); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

const frames = 90

func run(base string) error {
	tab, stop, err := drive.Browser(context.Background(), 1280)
	if err != nil {
		return err
	}
	defer stop()
	if err := drive.SignIn(tab, base, "ivo"); err != nil {
		return err
	}
	if err := twelve(tab); err != nil {
		return err
	}
	if err := chromedp.Do(tab, chromedp.Navigate(base+"/brief/CB-01"), chromedp.Sleep(3*time.Second),
		chromedp.Click(chromedp.CSS("[role=tab]:nth-child(2)")), chromedp.Sleep(500*time.Millisecond),
		chromedp.Click(chromedp.CSS("[role=tabpanel] button[aria-expanded]")), chromedp.Sleep(500*time.Millisecond)); err != nil {
		return err
	}
	at, err := chromedp.Run(tab, chromedp.Evaluate[[]float64](`(() => { const b = document.querySelector("[aria-label^='point 1 of']").getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2] })()`))
	if err != nil {
		return err
	}
	mouse := func(kind input.DispatchMouseEventType, x, y float64) error {
		return chromedp.Do(tab, chromedp.MouseEvent(kind, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	}
	if err := mouse(input.DispatchMouseEventTypeMousePressed, at[0], at[1]); err != nil {
		return err
	}
	if err := measure(tab, "a point dragged, 12 areas", func(i int) error {
		return mouse(input.DispatchMouseEventTypeMouseMoved, at[0]+float64(i%30), at[1]-float64(i%20))
	}); err != nil {
		return err
	}
	if err := mouse(input.DispatchMouseEventTypeMouseReleased, at[0], at[1]); err != nil {
		return err
	}
	if err := chromedp.Do(tab, chromedp.Focus(chromedp.CSS("[role=application]"))); err != nil {
		return err
	}
	turn := func(int) error {
		return chromedp.Do(tab, chromedp.KeyEvent(kb.ArrowRight), chromedp.Sleep(60*time.Millisecond))
	}
	for range 24 { // once round, so that every side is there
		if err := turn(0); err != nil {
			return err
		}
	}
	if err := measure(tab, "the form turned, 12 areas", turn); err != nil {
		return err
	}
	return bands(tab, base)
}

// bands drags a body's handle in a section of forty layers.
func bands(tab context.Context, base string) error {
	if _, err := chromedp.Run(tab, chromedp.Evaluate[any](`(async () => {
		const url = "/api/pieces/BF-01/section";
		const v = await (await fetch(url)).json();
		const body = v.doc.layers.find(l => l.kind === "silicone");
		const films = Array.from({length: 38}, (_, i) => ({id: "f" + i, kind: i % 2 ? "encapsulator" : "paint", material: i % 2 ? "encapsulator-acetone" : "paint-cream", coats: 1, coat_mm: 0.02}));
		v.doc.layers = [v.doc.layers[0], body, ...films];
		const r = await fetch(url, {method: "PUT", headers: {"Content-Type": "application/json"}, body: JSON.stringify({doc: v.doc, base: v.state.base, step: v.state.step})});
		if (!r.ok) throw new Error(await r.text());
		return 1;
	})()`, chromedp.EvalAwaitPromise)); err != nil {
		return err
	}
	if err := chromedp.Do(tab, chromedp.Navigate(base+"/piece/BF-01"), chromedp.Sleep(3*time.Second), chromedp.Click(chromedp.CSS("[data-label=body] rect")), chromedp.Sleep(500*time.Millisecond)); err != nil {
		return err
	}
	at, err := chromedp.Run(tab, chromedp.Evaluate[[]float64](`(() => { const b = [...document.querySelectorAll("[data-testid=section] circle")].find(c => c.getAttribute("r") === "22").getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2] })()`))
	if err != nil {
		return err
	}
	mouse := func(kind input.DispatchMouseEventType, y float64) error {
		return chromedp.Do(tab, chromedp.MouseEvent(kind, at[0], y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
	}
	if err := mouse(input.DispatchMouseEventTypeMousePressed, at[1]); err != nil {
		return err
	}
	if err := measure(tab, "a body dragged, 40 layers", func(i int) error {
		if err := mouse(input.DispatchMouseEventTypeMouseMoved, at[1]-float64(i%40)); err != nil {
			return err
		}
		return chromedp.Do(tab, chromedp.Sleep(20*time.Millisecond)) // a frame a move
	}); err != nil {
		return err
	}
	return mouse(input.DispatchMouseEventTypeMouseReleased, at[1])
}

// twelve draws twelve areas on a draft of one brief.
func twelve(tab context.Context) error {
	sheet, err := form.Fit("head", nil)
	if err != nil {
		return err
	}
	var marks []map[string]any
	for _, r := range strings.Fields("forehead browL brow_R templeL cheekL cheek_R nose lip chin jawL earL ear_R") {
		side := map[bool]string{true: "R", false: "L"}[strings.HasSuffix(r, "_R")]
		name := strings.TrimSuffix(strings.TrimSuffix(r, "_R"), "L")
		points, ok := sheet.Region(name, side)
		if !ok {
			return fmt.Errorf("no region %s", name)
		}
		marks = append(marks, map[string]any{"id": r, "kind": "region", "sheet": "head", "points": points})
	}
	raw, err := json.Marshal(marks)
	if err != nil {
		return err
	}
	_, err = chromedp.Run(tab, chromedp.Evaluate[any](fmt.Sprintf(`(async () => {
		const url = "/api/pieces/CB-01/brief";
		const v = await (await fetch(url)).json();
		v.doc.marks = %s;
		const r = await fetch(url, {method: "PUT", headers: {"Content-Type": "application/json"}, body: JSON.stringify({doc: v.doc, base: v.state.base, step: v.state.step})});
		if (!r.ok) throw new Error(await r.text());
		return 1;
	})()`, raw), chromedp.EvalAwaitPromise))
	return err
}

func metrics(tab context.Context) (map[string]float64, error) {
	return chromedp.Run(tab, func(ctx context.Context, t *chromedp.Target) (map[string]float64, error) {
		if _, err := cdp.Call(ctx, t, performance.Enable, performance.EnableParams{}); err != nil {
			return nil, err
		}
		got, err := cdp.Call(ctx, t, performance.GetMetrics, cdp.Empty{})
		out := map[string]float64{}
		for _, m := range got.Metrics {
			out[m.Name] = m.Value
		}
		return out, err
	})
}

func measure(tab context.Context, what string, step func(i int) error) error {
	before, err := metrics(tab)
	if err != nil {
		return err
	}
	for i := range frames {
		if err := step(i); err != nil {
			return err
		}
	}
	if err := chromedp.Do(tab, chromedp.Sleep(100*time.Millisecond)); err != nil {
		return err
	}
	after, err := metrics(tab)
	if err != nil {
		return err
	}
	per := func(name string) float64 { return 1000 * (after[name] - before[name]) / frames }
	fmt.Printf("%s: %.2f ms of script, %.2f style, %.2f layout a frame\n", what, per("ScriptDuration"), per("RecalcStyleDuration"), per("LayoutDuration"))
	return nil
}
