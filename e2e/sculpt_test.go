package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The pike alderman's scales, planned from empty, printed, and two rows of
// them ticked; then softened, tried in paint, looked over and sent on.
func TestScalesFromEmptyToTheGate(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 9*time.Minute, "Maud Tarn")
	s.goTo("/sculpt")
	s.sees("In the clay now")
	s.clean("the list of sculpts")
	s.goTo("/brief/new")
	s.fill("Character, its code", "PK")
	s.fill("What the piece is called", "Throat, scaled")
	s.choose("Where it is worn", "neck")
	s.click("Begin the piece")
	s.sees("Throat, scaled")
	s.goTo("/sculpt/PK-03")

	// The region: the wearer's own girths, a guide for the flow, a place kept clear.
	s.sees("No texture yet.")
	s.sees("How it ends")
	s.fill("Girth at the top, mm", "150")
	s.fill("Girth at the bottom, mm", "170")
	s.fill("Length, mm", "60")
	s.sees("draft saved")
	s.clean("the region")
	s.leaf("Texture")
	s.click("pressed scales")
	s.until("a relief", `+document.querySelector("[data-testid=relief]").dataset.pixels > 1000`)
	s.leaf("Region")
	s.take("Draw a guide")
	s.clicks("[data-testid=relief]", [2]float64{0.2, 0.5}, [2]float64{0.5, 0.62}, [2]float64{0.8, 0.5})
	s.click("Finished")
	s.until("the guide", `document.querySelector("[aria-label='Name of guide 1']")?.value === "flow"`)
	s.take("Set a landmark")
	s.clicks("[data-testid=relief]", [2]float64{0.5, 0.4})
	s.until("the landmark", `!!document.querySelector("[aria-label='Name of landmark 1']")`)
	s.fill("Clear round place 1, mm", "6")

	// The texture: rows follow the guide, shrink to 2.5 mm, and drops blend the edge.
	s.leaf("Texture")
	s.choose("Flow", "0")
	s.fill("Last row, mm", "2.5")
	s.take("Add a texture")
	s.click("droplets")
	s.until("both textures", `document.querySelectorAll("[aria-pressed]").length >= 2 && document.body.innerText.includes("Thin out over")`)
	s.until("it sharpens", `+document.querySelector("[data-testid=relief]").dataset.pixels > 90000`)
	s.sees("draft saved")
	s.clean("the textures")
	before := s.relief()
	s.fill("Thin out over, mm", "30")
	s.until("more drops are drawn", fmt.Sprintf(`(%s) !== %q`, sum, before))
	s.until("saved", `document.body.innerText.includes("draft saved") && !document.body.innerText.includes("not saved yet")`)
	s.click("Undo")
	s.until("fewer again", `document.querySelector("[aria-label='Thin out over, mm']").value === "8"`)
	// A size that no scale has is refused where it is typed, and nothing is lost.
	s.click("pressed scales")
	s.fill("First row, mm", "0")
	s.sees("must be above 0")
	s.fill("First row, mm", "9")
	s.until("it is right again", `!document.body.innerText.includes("must be above 0")`)
	s.sees("draft saved")

	// Judged as an eye does, the lamp turned, the relief cut.
	s.leaf("Eye")
	s.sees("Does it look made?")
	s.clean("the eye")
	lit := s.relief()
	s.focus("[role=slider][aria-label=Light]")
	s.do(chromedp.KeyEvent(kb.ArrowRight))
	s.key("l")
	s.until("the light has turned", fmt.Sprintf(`(%s) !== %q`, sum, lit))
	cut := s.text("svg[aria-label^='Section of']")
	s.drag("[aria-label^='Start of the cut']", 60, 10)
	s.until("another section", fmt.Sprintf(`document.querySelector("svg[aria-label^='Section of']").textContent !== %q`, cut))
	s.leaf("Relief or paint")
	s.click("add a pair")
	s.sees("is 1.50 times")
	s.clean("relief or paint")

	// Agreed; printed at true scale.
	s.leaf("Work")
	s.sees("Agree the plan; then its steps can be ticked here.")
	s.click("Agree the plan")
	s.sees("§1 agreed by Maud Tarn")
	s.click("Print and files")
	s.sees("PDF on A4")
	s.clean("the work")
	for path, kind := range map[string]string{"texture.pdf?page=A4": "application/pdf", "texture.svg": "image/svg+xml", "texture/plan.csv": "text/csv", "texture/heights.png": "image/png", "texture/relief.stl": "model/stl"} {
		got, err := chromedp.Run(s.tab, chromedp.Evaluate[string](fmt.Sprintf(`fetch("/api/pieces/PK-03/%s").then(async r => r.status + " " + r.headers.get("content-type") + " " + await r.text().then(t => t.length > 2000 ? "true" : "only: " + t))`, path), chromedp.EvalAwaitPromise))
		require.NoError(t, err)
		assert.Contains(t, got, "200 "+kind, path)
		assert.Contains(t, got, " true", "%s of %v", path, s.call("GET", "/api/pieces/PK-03/texture", nil)["doc"])
	}
	s.key("\u001b")

	// Ticked: the form by the one key, then two rows, the second with its time.
	s.leaf("Work")
	s.sees("The form is settled")
	s.key(" ")
	s.sees("1 of ")
	s.until("the film is next", `[...document.querySelectorAll("button")].some(b => b.innerText.includes("Done"))`)
	s.click("Done")
	s.sees("Row 1 pressed")
	s.click("Row 1 pressed")
	s.sees("Row 2 pressed")
	s.fill("How long it took, in minutes", "3")
	s.click("Row 2 pressed")
	s.sees("Rows 1–2")
	s.sees("4 of ")
	s.sees("Needed so far")
	s.reload()
	s.sees("Rows 1–2")
	s.sees("Row 3 pressed")

	paintAndGate(s)
	house(s)
}

// sum is a number that tells one picture of the relief from another.
const sum = `(() => { const c = document.querySelector("[data-testid=relief]"); const d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data; let n = 0; for (let i = 0; i < d.length; i += 97) n = (n * 31 + d[i]) % 1000003; return c.width + " " + n })()`

func (s *screen) relief() string {
	s.t.Helper()
	out, err := chromedp.Run(s.tab, chromedp.Evaluate[string](sum))
	require.NoError(s.t, err)
	return out
}

// take presses a tool and sees that it is in hand or open; on a slow machine the
// row of tools may still move while a hand goes down on it.
func (s *screen) take(words string) {
	s.t.Helper()
	pressed := fmt.Sprintf(`[...document.querySelectorAll("[aria-pressed=true], [aria-expanded=true]")].some(b => b.innerText.trim() === %q)`, words)
	for range 3 {
		s.click(words)
		for range 20 {
			if is, err := chromedp.Run(s.tab, chromedp.Evaluate[bool](pressed)); err == nil && is {
				return
			}
			s.do(chromedp.Sleep(100 * time.Millisecond))
		}
	}
	s.fail(words + " is not in hand")
}

// clicks sets points on a drawing, given as shares of its box.
func (s *screen) clicks(css string, shares ...[2]float64) {
	s.t.Helper()
	box, err := chromedp.Run(s.tab, chromedp.Evaluate[[]float64](`(() => { const b = document.querySelector(`+quote(css)+`).getBoundingClientRect(); return [b.x, b.y, b.width, b.height] })()`))
	require.NoError(s.t, err)
	for _, p := range shares {
		x, y := box[0]+p[0]*box[2], box[1]+p[1]*box[3]
		s.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMousePressed, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)),
			chromedp.MouseEvent(input.DispatchMouseEventTypeMouseReleased, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)), chromedp.Sleep(80*time.Millisecond))
	}
}

// paintAndGate tries a paint job over release and film, softens, photographs,
// and passes the gate when all is seen.
func paintAndGate(s *screen) {
	s.t.Helper()
	s.leaf("Paint")
	s.click("Plan a paint job")
	s.sees("What makes the look")
	s.clean("the trial paint")
	s.leaf("Gate")
	s.choose("Softened with", "soft brush with alcohol")
	s.sees("no flame within reach")
	s.click("Write it down")
	s.sees("on the surface: alcohol")
	s.choose("Softened with", "flame")
	s.click("Write it down")
	s.sees("Alcohol on the surface burns.")
	s.click("The alcohol is off")
	s.sees("nothing lies on the surface")
	s.click("Begin a trial with the scheme")
	s.click("Release is on")
	s.click("Film is on and dry")
	s.click("It is painted")
	s.sees("released, filmed, painted")
	s.press("#gate-film")
	s.sees("A trial paint still lies on the sculpt: peel it first.")
	s.click("Peeled, surface clean")
	s.click("Keep the scheme")
	s.sees("1 kept for the real piece")
	s.clean("the gate")

	s.leaf("Pictures")
	s.fill("What it shows", "under the low lamp")
	s.upload(picture(s.t))
	s.click("Keep it")
	s.until("the photograph", `document.querySelector("img[alt='under the low lamp']")?.naturalWidth > 0`)
	s.fill("Words to the spot", "over the wing")
	s.press("svg[aria-label^='Spots on the photograph']")
	s.sees("thin spot: over the wing")
	s.clean("the pictures")

	s.leaf("Gate")
	for _, item := range []string{"gaps", "thin", "lines", "dry", "proportions", "angles", "film"} {
		s.press("#gate-" + item)
		s.until(item+" ticked", fmt.Sprintf(`document.querySelector("#gate-%s").checked && !document.querySelector("#gate-%[1]s").disabled`, item))
	}
	s.sees("Seen on a photograph and not settled: thin (over the wing).")
	s.leaf("Pictures")
	s.click("put right")
	s.until("it is settled", `!document.body.innerText.includes("not settled") && [...document.querySelectorAll("button")].every(b => b.innerText !== "put right")`)
	s.leaf("Gate")
	s.click("Send it to the mould")
	s.sees("gone to its mould")
}

// house keeps the texture as a pattern, compares it, and registers a stamp.
func house(s *screen) {
	s.t.Helper()
	s.leaf("House")
	s.sees("gravel tide")
	s.fill("Keep this plan as", "pike's throat")
	s.click("Keep it")
	s.until("kept", `[...document.querySelectorAll("b")].some(b => b.innerText === "pike's throat")`)
	s.until("two side by side", `[...document.querySelectorAll("[data-testid=relief]")].filter(c => +c.dataset.pixels > 1000).length === 3`)
	s.click("register one")
	s.fill("On its handle", "S9")
	s.click("Register")
	s.until("the stamp", `!!document.querySelector("[aria-label='Where S9 is']")`)
	s.clean("the house")
}
