package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"yewmoor/e2e/drive"
)

// screen is a person in front of the interface: it finds things by the words
// on them and uses mouse and keys.
type screen struct {
	t    *testing.T
	tab  context.Context
	base string
	n    int
}

func open(t *testing.T, ctx context.Context, base string) *screen {
	t.Helper()
	tab, stop, err := drive.Browser(ctx, 1280)
	require.NoError(t, err)
	t.Cleanup(stop)
	return &screen{t: t, tab: tab, base: base}
}

func (s *screen) do(steps ...chromedp.Action[chromedp.Void]) {
	s.t.Helper()
	if err := chromedp.Do(s.tab, steps...); err != nil {
		s.fail(err.Error())
	}
}

// fail keeps a picture of what the person saw.
func (s *screen) fail(why string) {
	s.t.Helper()
	if png, err := chromedp.Run(s.tab, chromedp.CaptureScreenshot()); err == nil {
		file := filepath.Join(os.TempDir(), "yewmoor-e2e-failed.png")
		_ = os.WriteFile(file, png, 0o600)
		why += "; picture in " + file
	}
	s.t.Fatal(why + "\nseen: " + s.text("body"))
}

func (s *screen) goTo(path string) { s.t.Helper(); s.do(chromedp.Navigate(s.base + path)) }

func (s *screen) reload() { s.t.Helper(); s.do(chromedp.Reload()) }

// text is what can be read of an element now; empty when it is not there.
func (s *screen) text(css string) string {
	out, err := chromedp.Run(s.tab, chromedp.Evaluate[string](fmt.Sprintf(`(document.querySelector(%s)?.innerText ?? "")`, quote(css))))
	if err != nil {
		return ""
	}
	return out
}

func quote(s string) string { raw, _ := json.Marshal(s); return string(raw) }

// until waits for a condition in the page.
func (s *screen) until(what, js string) {
	s.t.Helper()
	deadline := time.Now().Add(20 * time.Second)
	for {
		ok, err := chromedp.Run(s.tab, chromedp.Evaluate[bool]("!!("+js+")"))
		if err == nil && ok {
			return
		}
		if time.Now().After(deadline) {
			s.fail(fmt.Sprintf("waited in vain for %s (%v)", what, err))
		}
		time.Sleep(60 * time.Millisecond)
	}
}

// sees waits until words stand on the screen.
func (s *screen) sees(words string) {
	s.t.Helper()
	s.until("“"+words+"”", "document.body.innerText.includes("+quote(words)+")")
}

// mark finds an element by a script and names it, so that the browser can be
// told to use it with the real mouse and keyboard.
func (s *screen) mark(what, find string) chromedp.CSS {
	s.t.Helper()
	s.n++
	s.until(what, fmt.Sprintf(`(() => { const el = %s; if (!el || el.disabled) return false; el.setAttribute("data-e2e", "%d"); return true })()`, find, s.n))
	return chromedp.CSS(fmt.Sprintf(`[data-e2e="%d"]`, s.n))
}

// click presses the control that bears these words.
func (s *screen) click(words string) {
	s.t.Helper()
	find := fmt.Sprintf(`[...document.querySelectorAll("button, a, [role=button], [role=menuitem], summary, label")].filter(e => e.offsetParent !== null || e.closest("svg")).find(e => (e.innerText ?? e.textContent).replace(/^space\s*/, "").trim().startsWith(%[1]s)) ?? [...document.querySelectorAll("button, a, summary")].find(e => e.innerText.includes(%[1]s))`, quote(words))
	s.clickOn("a control “"+words+"”", find)
}

// clickOn finds an element and clicks it. A screen that draws itself anew
// between the two has another node in its place, or a hand goes down on one and
// up on the other: then it is looked for and clicked once more.
func (s *screen) clickOn(what, find string) {
	s.t.Helper()
	for try := 0; ; try++ {
		at := s.mark(what, find)
		_, err := chromedp.Run(s.tab, chromedp.Evaluate[any](fmt.Sprintf(`window.e2eClicked = 0; document.querySelector(%s)?.addEventListener("click", () => { window.e2eClicked = %d }, { capture: true, once: true }); 0`, quote(string(at)), s.n)))
		require.NoError(s.t, err)
		err = chromedp.Do(s.tab, chromedp.Click(at))
		switch {
		case err == nil:
			// What leads to another document has no answer to give here.
			got, err := chromedp.Run(s.tab, chromedp.Evaluate[bool](fmt.Sprintf(`window.e2eClicked === %d || window.e2eClicked === undefined`, s.n)))
			if err != nil || got || try > 0 {
				return
			}
			s.t.Logf("the click on %s did not arrive; once more", what)
			time.Sleep(200 * time.Millisecond)
			continue
		case try < 3 && strings.Contains(err.Error(), "Could not find node"):
			continue
		}
		s.fail(err.Error())
	}
}

// press uses a selector where no words stand.
func (s *screen) press(css string) {
	s.t.Helper()
	s.clickOn(css, "document.querySelector("+quote(css)+")")
}

func control(label string) string {
	return fmt.Sprintf(`(() => { const l = [...document.querySelectorAll("label")].find(l => l.innerText.trim() === %[1]s); return l ? document.getElementById(l.htmlFor) : document.querySelector("[aria-label=" + JSON.stringify(%[1]s) + "]") })()`, quote(label))
}

// fill types into the entry with this label, in place of what stands there. A
// screen that answers between the selecting and the typing may have dropped the
// selection: then it is typed once more.
func (s *screen) fill(label, value string) {
	s.t.Helper()
	for range 3 {
		field := s.mark("the entry “"+label+"”", control(label))
		s.do(chromedp.Click(field))
		_, err := chromedp.Run(s.tab, chromedp.Evaluate[any](fmt.Sprintf(`document.querySelector(%s).select?.()`, quote(string(field)))))
		require.NoError(s.t, err)
		if value == "" {
			s.do(chromedp.KeyEvent(kb.Backspace))
			return
		}
		s.do(chromedp.KeyEvent(value))
		stands, err := chromedp.Run(s.tab, chromedp.Evaluate[string](fmt.Sprintf(`(e => e === null ? %[2]s : (e.type === "number" || e.type === "text" || e.tagName === "TEXTAREA") ? String(e.value) : %[2]s)(document.querySelector(%[1]s))`, quote(string(field)), quote(value))))
		require.NoError(s.t, err)
		if !strings.HasPrefix(stands, value) && !strings.HasSuffix(stands, value) || len(stands) == len(value) {
			return
		}
	}
}

// choose picks an entry of a list by its value, and day sets a date; both send
// the events that a person's choice sends.
func (s *screen) choose(label, value string) {
	s.t.Helper()
	field := s.mark("the choice “"+label+"”", control(label))
	_, err := chromedp.Run(s.tab, chromedp.Evaluate[any](fmt.Sprintf(`(() => { const el = document.querySelector(%s);
		Object.getOwnPropertyDescriptor(Object.getPrototypeOf(el), "value").set.call(el, %s);
		el.dispatchEvent(new Event("input", {bubbles: true})); el.dispatchEvent(new Event("change", {bubbles: true})) })()`, quote(string(field)), quote(value))))
	require.NoError(s.t, err)
}

// key presses a single key with nothing focused.
func (s *screen) key(k string) {
	s.t.Helper()
	_, err := chromedp.Run(s.tab, chromedp.Evaluate[any](`document.activeElement?.blur()`))
	require.NoError(s.t, err)
	s.do(chromedp.KeyEvent(k), chromedp.Sleep(120*time.Millisecond))
}

// call uses the interface's own session for what a test must arrange outside
// the screen: the stand-in scale and the demo's clock.
func (s *screen) call(method, path string, body any) map[string]any {
	s.t.Helper()
	raw, err := json.Marshal(body)
	require.NoError(s.t, err)
	out, err := chromedp.Run(s.tab, chromedp.Evaluate[string](fmt.Sprintf(`fetch(%s,{method:%s,headers:{"Content-Type":"application/json"},body:%s}).then(r=>r.text())`,
		quote(path), quote(method), map[bool]string{true: "undefined", false: quote(string(raw))}[method == "GET"]), chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	answer := map[string]any{}
	require.NoError(s.t, json.Unmarshal([]byte(out), &answer), out)
	return answer
}

// leaf opens a leaf. What is read meanwhile may move it from under the hand:
// it is clicked until it is open.
func (s *screen) leaf(name string) {
	s.t.Helper()
	find := `[...document.querySelectorAll("[role=tab]")].find(e => e.innerText.trim() === ` + quote(name) + `)`
	for try := 0; ; try++ {
		s.clickOn("the leaf "+name, find)
		for range 20 {
			open, err := chromedp.Run(s.tab, chromedp.Evaluate[bool]("("+find+`)?.getAttribute("aria-selected") === "true"`))
			if err == nil && open {
				return
			}
			time.Sleep(60 * time.Millisecond)
		}
		if try == 3 {
			s.fail("the leaf " + name + " does not open")
		}
	}
}

// focus puts the keys on an element, as Tab does.
func (s *screen) focus(css string) {
	s.t.Helper()
	s.do(chromedp.Focus(s.mark(css, "document.querySelector("+quote(css)+")")))
}

// drag takes hold of an element and lets it go some pixels away.
func (s *screen) drag(css string, dx, dy float64) {
	s.t.Helper()
	s.until(css, "document.querySelector("+quote(css)+")")
	at, err := chromedp.Run(s.tab, chromedp.Evaluate[[]float64](`(() => { const b = document.querySelector(`+quote(css)+`).getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2] })()`))
	require.NoError(s.t, err)
	s.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMousePressed, at[0], at[1], chromedp.ButtonLeft, chromedp.ClickCount(1)))
	for i := range 6 {
		k := float64(i+1) / 6
		s.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at[0]+k*dx, at[1]+k*dy, chromedp.ButtonLeft), chromedp.Sleep(20*time.Millisecond))
	}
	s.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseReleased, at[0]+dx, at[1]+dy, chromedp.ButtonLeft, chromedp.ClickCount(1)))
}

// upload chooses a file for the first upload on the screen.
func (s *screen) upload(file string) {
	s.t.Helper()
	s.do(chromedp.SetUploadFiles(s.mark("the upload", `document.querySelector("input[type=file]")`), []string{file}))
}

// clean asks axe-core whether what is on the screen can be used by everybody.
func (s *screen) clean(what string) {
	s.t.Helper()
	axe, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	require.NoError(s.t, err)
	_, err = chromedp.Run(s.tab, chromedp.Evaluate[any](string(axe)+";0"))
	require.NoError(s.t, err)
	// A colour that is still on its way is not the one that is read: nothing
	// moves while axe looks.
	moves, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`(() => { const still = new CSSStyleSheet(); still.replaceSync("*, *::before, *::after { transition: none !important; animation: none !important }"); document.adoptedStyleSheets = [still] })(), new Promise(r => requestAnimationFrame(() => requestAnimationFrame(() => r(getComputedStyle(document.querySelector("button, a")).transitionDuration))))`, chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	require.Equal(s.t, "0s", moves, "nothing moves")
	found, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`axe.run(document, {resultTypes: ["violations"]}).then(r => JSON.stringify(r.violations.map(v => v.id + ": " + v.help + " — " + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160)).join(" | ")))).finally(() => { document.adoptedStyleSheets = [] })`, chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	if found != "[]" {
		s.fail(what + ": " + found)
	}
}
