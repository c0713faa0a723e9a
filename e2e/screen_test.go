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

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
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

// signedIn is a browser on a demo of its own, with somebody at the door already.
func signedIn(t *testing.T, d time.Duration, who string) *screen {
	t.Helper()
	srv := demo(t)
	s := open(t, runFor(t, d), srv.base)
	s.goTo("/")
	s.click(who)
	s.sees("Hands now")
	return s
}

func open(t *testing.T, ctx context.Context, base string) *screen {
	t.Helper()
	tab, stop, err := drive.Browser(ctx, 1280)
	require.NoError(t, err)
	t.Cleanup(stop)
	require.NoError(t, chromedp.Do(tab, func(ctx context.Context, at *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, at, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: asking})
		return chromedp.Void{}, err
	}))
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

// asking counts what the page asks of the server, so that a hand can wait until
// it has answered, as a person waits for the screen to come to rest. An answer
// that has just come is still to be read, and often asked on from.
const asking = `(() => {
	const ask = window.fetch
	let open = 0, last = 0
	const counted = (answer) => { open++; return answer.finally(() => { open--; last = performance.now() }) }
	window.fetch = (...a) => counted(ask(...a))
	for (const name of ["json", "text", "blob", "arrayBuffer"]) {
		const read = Response.prototype[name]
		Response.prototype[name] = function () { return counted(read.call(this)) }
	}
	window.e2eRests = () => open === 0 && performance.now() - last > 60
})()`

// whereToPress answers with a point of an element that a press there would hit:
// its middle, or where its middle is beside it, another point of its box. null as
// long as it is not there, may not be pressed, moves, is covered, or (unless
// hurried) as long as the page waits for the server.
const whereToPress = `(async (find, hurried) => {
	const frame = () => new Promise(r => requestAnimationFrame(() => r()))
	const el = find()
	if (!el || el.disabled) return null
	const rests = () => hurried || window.e2eRests()
	if (!rests()) return null
	const box = () => { const b = el.getBoundingClientRect(); return [b.x, b.y, b.width, b.height] }
	const inside = (x, y) => { const hit = document.elementFromPoint(x, y); return hit && (hit === el || el.contains(hit) || hit.closest("label")?.control === el) }
	const free = () => {
		const [x, y, w, h] = box()
		for (const [i, j] of [[2, 2], [1, 2], [3, 2], [2, 1], [2, 3], [1, 1], [3, 3], [0.4, 2], [3.6, 2], [2, 0.4], [2, 3.6]])
			if (inside(x + w * i / 4, y + h * j / 4)) return [x + w * i / 4, y + h * j / 4]
		return null
	}
	if (!free()) el.scrollIntoView({ block: "center", inline: "nearest" })
	const before = box().join()
	await frame(); await frame()
	return rests() && el.isConnected && find() === el && box().join() === before ? free() : null
})`

// clickOn finds an element and presses it once it stands still, nothing lies over
// it and what the page asked has been answered.
func (s *screen) clickOn(what, find string) {
	s.t.Helper()
	began := time.Now()
	for {
		hurried := time.Since(began) > 4*time.Second // a screen that never rests is pressed all the same
		at, err := chromedp.Run(s.tab, chromedp.Evaluate[[]float64](fmt.Sprintf(`%s(() => (%s), %t)`, whereToPress, find, hurried), chromedp.EvalAwaitPromise))
		if err == nil && len(at) == 2 {
			s.do(chromedp.MouseClickXY(at[0], at[1]))
			return
		}
		if time.Since(began) > 20*time.Second {
			s.fail(fmt.Sprintf("could not press %s (%v)", what, err))
		}
		time.Sleep(60 * time.Millisecond)
	}
}

// press uses a selector where no words stand.
func (s *screen) press(css string) {
	s.t.Helper()
	s.clickOn(css, "document.querySelector("+quote(css)+")")
}

func control(label string) string {
	return fmt.Sprintf(`(() => { const l = [...document.querySelectorAll("label")].find(l => l.innerText.trim() === %[1]s); return l ? (document.getElementById(l.htmlFor) ?? l.control) : document.querySelector("[aria-label=" + JSON.stringify(%[1]s) + "]") })()`, quote(label))
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
	// Nobody takes from a list what is not on it yet.
	s.until("“"+value+"” to be offered", fmt.Sprintf(`(el => el && (el.tagName !== "SELECT" || [...el.options].some(o => o.value === %s)))(document.querySelector(%s))`, quote(value), quote(string(field))))
	_, err := chromedp.Run(s.tab, chromedp.Evaluate[any](fmt.Sprintf(`(() => { const el = document.querySelector(%s);
		Object.getOwnPropertyDescriptor(Object.getPrototypeOf(el), "value").set.call(el, %s);
		el.dispatchEvent(new Event("input", {bubbles: true})); el.dispatchEvent(new Event("change", {bubbles: true})) })()`, quote(string(field)), quote(value))))
	require.NoError(s.t, err)
}

// key presses a single key with nothing focused, once the screen rests.
func (s *screen) key(k string) {
	s.t.Helper()
	for began := time.Now(); time.Since(began) < 4*time.Second; time.Sleep(60 * time.Millisecond) {
		if rests, err := chromedp.Run(s.tab, chromedp.Evaluate[bool](`window.e2eRests()`)); err == nil && rests {
			break
		}
	}
	_, err := chromedp.Run(s.tab, chromedp.Evaluate[any](`document.activeElement?.blur()`))
	require.NoError(s.t, err)
	s.do(chromedp.KeyEvent(k), chromedp.Sleep(120*time.Millisecond))
}

// call uses the interface's own session for what a test must arrange outside
// the screen: the stand-in scale and the demo's clock.
func (s *screen) call(method, path string, body any) map[string]any {
	s.t.Helper()
	answer := map[string]any{}
	s.fetch(method, path, body, &answer)
	return answer
}

// fetch is the same for what answers anything else.
func (s *screen) fetch(method, path string, body, into any) {
	s.t.Helper()
	raw, err := json.Marshal(body)
	require.NoError(s.t, err)
	out, err := chromedp.Run(s.tab, chromedp.Evaluate[string](fmt.Sprintf(`fetch(%s,{method:%s,headers:{"Content-Type":"application/json"},body:%s}).then(r=>r.text())`,
		quote(path), quote(method), map[bool]string{true: "undefined", false: quote(string(raw))}[method == "GET"]), chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	require.NoError(s.t, json.Unmarshal([]byte(out), into), out)
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
	// Taken where it stands still: what the last hand did may still be on its way.
	at, err := chromedp.Run(s.tab, chromedp.Evaluate[[]float64](`new Promise(done => {
		let was = "", same = 0;
		const look = () => {
			const b = document.querySelector(`+quote(css)+`)?.getBoundingClientRect();
			const at = b ? [b.x + b.width / 2, b.y + b.height / 2] : [];
			same = b && was === String(at) ? same + 1 : 0;
			was = String(at);
			same < 6 ? requestAnimationFrame(look) : done(at);
		};
		look();
	})`, chromedp.EvalAwaitPromise))
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
