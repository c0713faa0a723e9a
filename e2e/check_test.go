package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// tickAll ticks whatever on a copy's list is ticked by hand, each with its circle.
func tickAll(s *screen) {
	s.t.Helper()
	s.until("the list", `document.querySelector("[data-tick]")`)
	for range 20 {
		next := shown(s, `document.querySelector("[data-tick][aria-pressed=false][aria-disabled=false]")?.dataset.tick ?? ""`)
		if next == "" {
			if shown(s, `String(window.e2eRests())`) == "true" {
				return
			}
			time.Sleep(60 * time.Millisecond)
			continue
		}
		s.press(`[data-tick="` + next + `"]`)
		s.until(next+" to be ticked", `document.querySelector("[data-tick='`+next+`']")?.getAttribute("aria-pressed") === "true"`)
	}
	s.fail("the list never ends")
}

// readAndPhotograph keeps a colour reading and a photograph of the copy on the bench.
func readAndPhotograph(s *screen, l, a, b string) {
	s.t.Helper()
	if l != "" {
		s.press(`[data-keep=colour_reading]`)
		s.sees("Type L")
		s.fill("L", l)
		s.fill("a", a)
		s.fill("b", b)
		s.press(`[data-keep=colour_reading]`)
		s.until("the reading", `document.querySelector("[data-tick=colour_reading][aria-pressed=true]")`)
	}
	s.upload(picture(s.t))
	s.until("the photograph", `document.querySelector("[data-tick=photograph][aria-pressed=true]")`)
}

// repaired sends the copy that is judged back to the bench, where it is mended, ticked
// and photographed anew, and brings it to the check again.
func repaired(s *screen, copy string) {
	s.t.Helper()
	s.click("Back for repair")
	s.press(`label:has(input[type=checkbox]):nth-of-type(1)`)
	s.fill("and this, once", "fill the hole by the ear")
	s.fill("minutes", "20")
	s.click("Send it back")
	s.sees("Say why")
	s.fill("Why", "a hole by the ear")
	s.click("Send it back")
	s.until("the verdict to be recorded", `document.querySelector("[data-testid=outcome]")`)
	s.goTo("/finish/" + copy)
	s.sees("fill the hole by the ear")
	s.sees("again, after a repair")
	s.clean("the bench of a repair")
	tickAll(s)
	if s.has(`document.querySelector("[data-tick=photograph][aria-pressed=false]")`) {
		readAndPhotograph(s, "", "", "")
	}
	s.click("To the check")
	s.sees("Accept it")
}

// A fault is ranked from the record, answered, its cause said, and what is changed next time
// goes to the recipe, whose agreed version then has it as a step.
func TestAFaultIsTracedIntoTheRecipe(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 4*time.Minute, "Maud Tarn")
	s.goTo("/check/BF-03-c")
	s.sees("A fault is not answered")
	s.click("Trace it")
	s.sees("Why, from its own record")
	s.sees("poured after")
	s.clean("a fault and its causes")
	share := func(cause string) string {
		return shown(s, fmt.Sprintf(`document.querySelector("[data-cause='%s']").innerText.split("\n")[0]`, cause))
	}
	before := share("C-AIRMIX")
	s.sees("Was it degassed, or poured high and thin?")
	s.clickOn("no, it was not degassed", `(() => { const ask = [...document.querySelectorAll("main div")].filter(d => d.innerText.includes("Was it degassed")).at(-1); return [...ask.parentElement.querySelectorAll("button")].find(b => b.innerText === "no") })()`)
	s.until("the answer to count", fmt.Sprintf(`document.querySelector("[data-cause=C-AIRMIX]").innerText.split("\n")[0] !== %s`, quote(before)))
	assert.Greater(t, number(t, share("C-AIRMIX")), number(t, before), "not degassed speaks for air stirred in")
	s.reload() // what was answered is kept
	s.sees("not so")

	s.press(`[data-cause=C-AIRMIX] button`)
	s.sees("Next time")
	s.fill("To be changed", "hold it under vacuum for two minutes after the last stir")
	s.choose("in", "recipe")
	s.click("Propose it")
	s.until("the proposal", `/To the recipe .* proposed/.test(document.body.innerText)`)
	recipe := shown(s, `document.body.innerText.match(/To the recipe (\S+):/)[1]`)

	s.click("Repair it")
	s.click("It is mended")
	s.until("the fault to be settled", `!document.body.innerText.includes(", open")`)

	// In the recipe's own page somebody agrees; it becomes a version with one step more.
	s.goTo("/recipes/" + recipe)
	s.sees("Asked by faults")
	s.clean("a recipe that a fault asks something of")
	s.press(`[data-proposal] button`)
	s.until("the agreement", `/agreed by Maud Tarn/.test(document.querySelector("[data-proposal]").innerText)`)
	s.reload()
	s.until("the new step", `[...document.querySelectorAll("main input, main textarea, main li, main div")].some(e => (e.value ?? e.innerText ?? "").includes("hold it under vacuum for two minutes"))`)
	// Agreeing once is enough: the record has one version more, not two.
	v := s.call("GET", "/api/recipes/"+recipe, nil)
	assert.Contains(t, fmt.Sprint(v), "hold it under vacuum for two minutes after the last stir")
}

func number(t *testing.T, text string) int {
	var n int
	_, err := fmt.Sscan(strings.TrimSuffix(strings.TrimSpace(text), "%"), &n)
	require.NoError(t, err, text)
	return n
}

// Hair is drawn as a zone, made denser, agreed, brought to the copies on the bench, and
// counted with the space bar while it is set; what is counted outlives a reload.
func TestHairIsPlannedAndCounted(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 4*time.Minute, "Maud Tarn")
	s.goTo("/finish/FT-02-R-c?leaf=Hair")
	s.sees("No hair yet")
	s.click("Draw a zone")
	const drawing = `svg[aria-label^="Hair of"]`
	s.clicks(drawing, [2]float64{0.42, 0.3}, [2]float64{0.6, 0.3}, [2]float64{0.6, 0.7}, [2]float64{0.42, 0.7})
	s.sees("corners, 4 so far")
	s.click("That is the zone")
	s.sees("hairs on")
	count := func() int { return number(t, s.text("[data-testid=hair-came] b")) }
	few := count()
	s.fill("a cm², within", "60")
	s.fill("to be seen, mm", "12")
	s.until("more hairs", fmt.Sprintf(`Number(document.querySelector("[data-testid=hair-came] b")?.innerText) > %d`, few*3/2))
	s.until("every hair on the drawing", fmt.Sprintf(`(document.querySelectorAll("%s path").length > 2)`, `svg[aria-label^='Hair of']`))
	all := count()
	s.clean("hair that is planned")
	s.click("Agree the finish plan")
	s.sees("§1 agreed")

	// The copy that stood on the bench before is brought up to it.
	s.leaf("Work")
	s.sees(fmt.Sprintf("%d hairs punched", all))
	s.leaf("Hair")
	s.until("the counter", `document.querySelector("[data-testid=counter]")`)
	s.fill("How many a tap counts", "20")
	s.key(" ")
	s.until("twenty to be counted", `/^20\s*of/.test(document.querySelector("[data-testid=counter] [aria-live]").innerText)`)
	s.key(" ")
	s.until("forty to be counted", `/^40\s*of/.test(document.querySelector("[data-testid=counter] [aria-live]").innerText)`)
	s.click("20 fewer")
	s.until("twenty again", `/^20\s*of/.test(document.querySelector("[data-testid=counter] [aria-live]").innerText)`)
	s.reload()
	s.until("what was counted to be kept", `/^20\s*of/.test(document.querySelector("[data-testid=counter] [aria-live]")?.innerText ?? "")`)
	pdf, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`fetch(document.querySelector("a[href*='hair.pdf']").href).then(r => r.text()).then(t => t.slice(0, 5))`, chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	assert.Equal(t, "%PDF-", pdf)
}
