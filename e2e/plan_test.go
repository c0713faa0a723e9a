package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// A day is late: why, two changes tried beside it, one carried out as one act, a copy scrapped, somebody ill, and what moved for whom.
func TestALatePlanIsMended(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 6*time.Minute, "Maud Tarn")
	s.goTo("/")
	s.until("the day that is late, on Today", `[...document.querySelectorAll("[data-day]")].some(d => /quayside/.test(d.innerText) && /AL-03 \d\/\d .* late/.test(d.innerText))`)
	s.goTo("/plan")
	s.sees("AL-03 is")
	s.sees("late for the quayside")
	s.sees("because ")
	s.sees("What would mend it")
	s.sees("a second mould of AL-03")
	s.clean("the run-up")
	// A step is taken up by keys and moved to the night: the checker says what breaks; a day later it fits, and stays.
	s.until("a step to take up", `document.querySelector("[data-testid=run-up] [role=button]")`)
	s.focus(`[data-testid=run-up] [role=button]`)
	s.do(chromedp.KeyEvent(kb.Enter))
	s.sees("arrow keys move it")
	s.until("the checker's word", `/Nothing breaks|it breaks:/.test(document.querySelector("[data-testid=breaks]")?.innerText ?? "")`)
	s.choose("From", "2026-01-13T02:00")
	s.sees("it breaks:")
	s.sees("There is no plan with it")
	s.choose("From", "2026-01-14T13:00")
	s.sees("The rest makes way")
	s.click("Put it there, to stay")
	s.sees("Stays where it was put")
	s.click("let it go")
	s.until("it to be let go", `!document.querySelector("[data-testid=pins]")`)
	s.click("Take this plan")
	s.sees("the plan in force was taken")

	s.leaf("What if")
	s.until("what would mend it", `document.querySelectorAll("[data-mend]").length > 3`)
	s.sees("kept by Ivo Brack")
	s.choose("What if", "later")
	s.click("Plan it beside")
	s.until("the first change", `[...document.querySelectorAll("[data-mend]")].some(m => m.dataset.mend.includes("a day later"))`)
	s.choose("What if", "made_as")
	s.choose("Of", "AL-03")
	s.choose("As", "silicone_encapsulated")
	s.click("Plan it beside")
	s.until("the second change", `[...document.querySelectorAll("[data-mend]")].some(m => m.dataset.mend.includes("AL-03 made as"))`)
	s.choose("What if", "spares")
	s.choose("Enough good ones in", "0.8")
	s.click("Plan it beside")
	s.until("spares beside the plan", `[...document.querySelectorAll("[data-mend]")].some(m => m.dataset.mend.includes("enough in 80 of 100") && /\+\d/.test(m.innerText))`)
	s.clean("changes beside the plan")
	s.until("the oven at night may be had", `[...document.querySelectorAll("[data-mend]")].some(m => m.dataset.mend.includes("oven runs at night") && m.querySelector("button"))`)
	s.clickOn("Do it", `[...document.querySelectorAll("[data-mend]")].find(m => m.dataset.mend.includes("oven runs at night")).querySelector("button")`)
	s.sees("It is carried out, and the plan with it is in force.")
	s.until("no night to be wanted any more", `![...document.querySelectorAll("[data-mend]")].some(m => m.dataset.mend.includes("oven runs at night"))`)

	// The mould that mends it is decided: every day is met, and the plan counts on it.
	s.until("the mould that mends it", `[...document.querySelectorAll("[data-mend]")].some(m => m.dataset.mend.startsWith("a second mould of AL-03") && m.querySelector("button"))`)
	s.clickOn("Do it", `[...document.querySelectorAll("[data-mend]")].find(m => m.dataset.mend.startsWith("a second mould of AL-03")).querySelector("button")`)
	s.until("the plan with it", `!/late/.test([...document.querySelectorAll("[data-testid=compare] tbody tr")][0]?.innerText ?? "late")`)
	s.goTo("/plan")
	s.sees("every day is met")
	s.sees("To be built beside those that there are")

	// A copy is scrapped: it is missing again, and the plan has another one.
	had := s.call("GET", "/api/plan/run-up", nil)["steps"].(float64)
	s.goTo("/check/PK-01-a")
	s.click("Scrap it")
	s.fill("Why", "torn under the ear")
	s.click("Scrap it")
	s.sees("Another run is needed for 1")
	s.goTo("/plan")
	s.sees("Moved since the plan was taken")
	assert.Greater(t, s.call("GET", "/api/plan/run-up", nil)["steps"].(float64), had, "what is scrapped is made again")
	// Somebody is ill: the plan is mended with what moves for whom, and stays when the page is read anew.
	s.choose("Somebody is away", "Pip Sallow")
	s.choose("On", "2026-01-13")
	s.click("Plan without them")
	s.sees("Pip Sallow away")
	s.goTo("/plan")
	s.sees("Pip Sallow away")
	s.sees("Moved since the plan was taken")
	s.clean("the run-up with what moved")

	s.leaf("Money")
	s.sees("The Tallow Court")
	s.clickOn("the cheek", `document.querySelector("[data-cost='BF-03']")`)
	s.sees("offer no. 1")
	s.click("Keep a new offer, worked out now")
	s.sees("offer no. 2")
	s.sees("What was found, reused or in stock saved")
	s.clean("the money")
}

// A morning on Today: what now, begun and ended with one tap each, a word on it, and a gap of Friday said afterwards.
func TestAMorningOnToday(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 4*time.Minute, "Ivo Brack")
	s.goTo("/")
	s.sees("Then, by the plan")
	s.sees("nothing noted")
	s.clean("Ivo's day")
	s.clickOn("start", `document.querySelector("[data-list='Then, by the plan'] [data-start]")`)
	s.until("its room", `location.pathname !== "/"`)
	s.goTo("/")
	s.sees("At it since")
	s.call("POST", "/api/clock/forward", map[string]any{"seconds": 1800})
	s.reload()
	s.until("half an hour", `/(29|30|31|32) min/.test(document.querySelector("[data-testid=minutes]")?.innerText ?? "")`)
	s.fill("A word on it", "thin at the rim")
	s.click("It is done")
	s.sees("thin at the rim")
	s.until("the day's first entry", `document.querySelector("[data-testid=my-day]").innerText.includes("thin at the rim")`)
	s.until("what nobody noted", `(window.gapsWere = document.querySelectorAll("[data-gap]").length) > 0`)
	s.clickOn("Say what it was", `document.querySelector("[data-gap] button")`)
	s.fill("What it was", "Sorted the armature wire")
	s.click("Note it")
	s.until("one gap less", `document.querySelectorAll("[data-gap]").length < window.gapsWere`)
	s.clean("the day with what was noted")
}
