package e2e

import (
	"fmt"
	"math"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A form is registered and scanned, a sculpt measured over it; the core contact
// is seen, a measured thickness goes into a section, a mould is laid out,
// printed and weighed dry.
func TestFromAScanToADryMould(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 9*time.Minute, "Maud Tarn")
	form := registerForm(s)
	scanOver(s, form)
	intoTheSection(s)
	buildSheet(s)
	weighDry(s)
}

func meshes(t *testing.T, name string) string {
	path, err := filepath.Abs(filepath.Join("../internal/craft/scan/testdata/meshes", name))
	require.NoError(t, err)
	return path
}

// registerForm puts a form on the rack with a scan of it, and gives its code.
func registerForm(s *screen) string {
	s.goTo("/form")
	s.sees("Register a form")
	s.clean("the list of forms")
	s.choose("It is a", "core")
	s.choose("Shows", "face")
	s.fill("Made of", "hard stone")
	s.fill("Stands", "rack 9")
	s.click("Register it")
	s.sees("rack 9")
	code, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`[...document.querySelectorAll("main a")].map(a => a.getAttribute("href")).filter(h => h?.startsWith("/form/F-")).at(-1).slice(6)`))
	require.NoError(s.t, err)
	s.goTo("/form/" + code)
	s.sees("No scan yet.")
	s.upload(meshes(s.t, "bad_truncated.stl"))
	s.sees("The file is kept as it came.")
	s.upload(meshes(s.t, "sphere.ply"))
	s.sees("triangles · closed")
	return code
}

// scanOver measures a sculpt with a dimple over the form, and looks at what is
// found from all sides, by mouse and by keys.
func scanOver(s *screen, form string) {
	s.goTo("/form/AL-03")
	s.sees("Chin of bark")
	s.leaf("Scans")
	s.choose("Form", form)
	s.until("the form is kept", fmt.Sprintf(`document.querySelector("[aria-label=Form]")?.value === %s`, quote(form)))
	s.upload(meshes(s.t, "dimple_sculpt.ply"))
	s.choose("Unit of dimple_sculpt.ply", "mm")
	s.until("the unit is kept", `(e => e?.value === "mm" && !e.disabled)(document.querySelector("[aria-label='Unit of dimple_sculpt.ply']"))`)
	s.until("the core's scan to choose", `[...document.querySelectorAll("[aria-label='Core under dimple_sculpt.ply'] option")].some(o => o.innerText.includes("sphere.ply"))`)
	core, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`[...document.querySelectorAll("[aria-label='Core under dimple_sculpt.ply'] option")].find(o => o.innerText.includes("sphere.ply")).value`))
	require.NoError(s.t, err)
	s.choose("Core under dimple_sculpt.ply", core)
	s.until("the core is kept", fmt.Sprintf(`(e => e?.value === %s && !e.disabled)(document.querySelector("[aria-label='Core under dimple_sculpt.ply']"))`, quote(core)))
	s.leaf("Thickness")
	s.sees("core contact, 5.4 cm²")
	s.sees("would cast as holes")
	s.clean("the thickness")

	// It turns by keys, and says what is where it is clicked.
	s.until("the surface", `document.querySelector("canvas")?.dataset.drawn === "yes" || !!document.querySelector("[data-testid=surface] img")`)
	if s.has(`document.querySelector("canvas")`) {
		place := func() string {
			at, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`document.querySelector("[aria-label^='Place 1']").style.transform`))
			require.NoError(s.t, err)
			return at
		}
		before := place()
		s.focus("canvas")
		s.do(chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowRight))
		s.until("it turned", fmt.Sprintf(`document.querySelector("[aria-label^='Place 1']").style.transform !== %s`, quote(before)))
		s.press("canvas")
		s.until("the figure there", `/mm thick|over the core here/.test(document.querySelector("[data-testid=surface]").innerText)`)
	}
	for _, leaf := range []string{"Pull", "Left and right", "Weight", "Two stages"} {
		s.leaf(leaf)
	}
	s.leaf("Pull")
	s.sees("Parting line")
	s.clean("the pull")
}

// has says whether a script finds something.
func (s *screen) has(js string) bool {
	there, err := chromedp.Run(s.tab, chromedp.Evaluate[bool]("!!("+js+")"))
	return err == nil && there
}

// intoTheSection takes the measured thickness of the brow into its section; a
// check of a scanned piece says what was measured.
func intoTheSection(s *screen) {
	s.goTo("/piece/AL-01")
	s.sees("knots")
	s.press("[data-label=body] text")
	s.sees("Measured on the sculpt")
	s.click("Take the measured thickness")
	s.sees("Another centre or edge plans it again.")
	s.until("the measured label", `document.querySelector("[data-label=body]").textContent.includes("measured")`)
	s.sees("draft on §1, saved")
	s.fill("At the centre", "6 mm")
	s.until("planned again", `!document.body.innerText.includes("Another centre or edge plans it again.")`)
	s.click("Undo")
	s.sees("Another centre or edge plans it again.")
	s.goTo("/check/PK-01-a")
	s.sees("Nothing to look at: no core contact, nothing too thin.")
	s.clean("the check")
}

// buildSheet lays a mould out from the scan and prints its sheet.
func buildSheet(s *screen) {
	s.goTo("/mould")
	s.sees("Register one that is there")
	s.clean("the moulds")
	s.goTo("/mould/AL-02")
	s.sees("by the scan AL-02-finished.ply")
	s.choose("Kind", "glove in a jacket")
	s.choose("Made of", "mould silicone, condensation")
	s.sees("catalyst")
	s.fill("Wall, mm", "400")
	s.sees("under 300 mm")
	s.fill("Wall, mm", "12")
	s.fill("Release", "silicone release")
	s.clean("the build sheet")
	s.click("Keep this build sheet")
	s.sees("Print the build sheet")
	s.sees("To place before the first pour")
	head, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`fetch([...document.querySelectorAll("a")].find(a => a.innerText === "Print the build sheet").href).then(r => r.text()).then(t => t.slice(0, 5))`, chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	assert.Equal(s.t, "%PDF-", head)
}

// weighDry puts a mould on the scale every morning until it is dry.
func weighDry(s *screen) {
	s.goTo("/mould?mould=AL-03/M1")
	s.sees("Not into the oven; dry it gently")
	s.clean("a mould on the scale")
	// The five weighings of the demo follow 3.35 kg and about three days.
	for day := 5; day < 22 && !s.has(`document.querySelector("[data-testid=oven]").innerText.includes("It may go into the oven")`); day++ {
		s.call("POST", "/api/clock/forward", map[string]any{"seconds": 24 * 3600})
		kg := fmt.Sprintf("%.3f", 3.35+0.511*math.Exp(-float64(day)/3.74))
		s.fill("Weight, kg", kg)
		s.click("Write it down")
		s.until("the weighing", fmt.Sprintf(`document.querySelector("[aria-label=Weighings]")?.innerText.startsWith(%s)`, quote(kg+" kg")))
	}
	s.sees("It may go into the oven")
	s.leaf("About it")
	s.clean("about a mould")
	s.goTo("/mould")
	s.choose("State of AL-03/M1", "dry")
	s.until("no pot of it", `!document.querySelector("footer").innerText.includes("AL-03/M1")`)
}
