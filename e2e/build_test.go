package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shown reads a figure from the page.
func shown(s *screen, js string) string {
	s.t.Helper()
	v, err := chromedp.Run(s.tab, chromedp.Evaluate[string](`String(`+js+`)`))
	require.NoError(s.t, err)
	return v
}

// pass lets bench time go by.
func pass(s *screen, d time.Duration) {
	s.t.Helper()
	s.call("POST", "/api/clock/forward", map[string]any{"seconds": d.Seconds()})
}

// A glove of six coats: its sheet shows the water of each coat and where it is shut in;
// the fourth goes on too early at the price that was told, the others in their time.
func TestSixCoatsWithOneTooEarly(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 5*time.Minute, "Maud Tarn")
	s.goTo("/build?run=R-0006")
	s.until("six coats on the sheet", `document.querySelectorAll("[data-band]").length === 6`)
	s.sees("1 · mind. Coat 2 still holds")
	s.until("the next coat's price", `/Not before .* put on now, all of it is dry at .* instead of/.test(document.querySelector("[data-testid=held-back]")?.innerText.replaceAll("\n", " "))`)
	s.clean("the work sheet of a session")
	before := shown(s, `document.querySelector("[data-band][data-state=wet]").dataset.water`)
	told := shown(s, `document.querySelector("[data-plan=now] > :last-child").innerText`)
	s.click("Coat it early")
	s.fill("Why before its time", "the light test is at noon")
	s.click("Coat it all the same")
	s.until("the fourth coat, wet", `[...document.querySelectorAll("[data-band]")].filter(b => b.dataset.state === "wet" && Number(b.dataset.water) > 0.9).length === 1`)
	assert.NotEqual(t, before, shown(s, `document.querySelector("[data-band][data-state=wet]").dataset.water`))
	s.sees("% of its water")
	s.until("all dry by waiting no sooner than was told", `document.querySelector("[data-plan=recoat] > :last-child")`)
	assert.Contains(t, told, "Tue 13 Jan")

	s.click("Weigh it")
	s.fill("The piece on what it was weighed on before, g", "412")
	s.click("Keep the weight")
	s.until("the weight to be kept", `!document.querySelector("input[name=grams]")`)
	for range 2 {
		pass(s, 9*time.Hour)
		s.until("the hand to be free", `document.querySelector("[data-testid=next-stage]") && !document.querySelector("[data-testid=held-back]")`)
		next := s.text("[data-testid=next-stage]")
		s.press("main button:has(kbd)")
		s.until("the stage after "+next, `document.querySelector("[data-testid=next-stage]")?.innerText !== `+quote(next))
	}
	pass(s, 40*time.Hour)
	s.until("everything dry", `[...document.querySelectorAll("[data-band]")].every(b => b.dataset.state === "dry")`)
	s.sees("Powder it and peel it off the form.")
	s.press("main button:has(kbd)")
	s.sees("Look first, and say that it is so")
	looked(s)
	s.press("main button:has(kbd)")
	s.sees("AL-04-L-a, made")
	s.sees("waited 9 h")
}

// A foam run from the bowl to the open mould: filled before it gels, pressed, baked by its
// oven's probe, cooled with the oven off, washed and dried.
func TestFoamFromTheBowlToTheDemould(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 5*time.Minute, "Maud Tarn")
	s.goTo("/build?piece=AL-03")
	s.sees("foam batch, 4 stages by §1")
	s.click("Begin it")
	s.click("The gelling agent is in")
	s.sees("fill it before it gels")
	s.sees("it may gel before it is in the mould")
	s.click("It is filled and closed")
	s.until("it to gel", `document.querySelector("[data-testid=pot-left]")?.innerText.startsWith("gels in")`)
	pass(s, 12*time.Minute)
	s.click("It is gelled: it springs back")
	s.until("it to be gelled", `document.querySelector("[data-testid=pot-left]")?.innerText === "into the oven"`)
	looked(s)
	s.click("It is in the oven")
	s.until("it to bake", `document.querySelector("[data-testid=pot-left]")?.innerText.startsWith("cured in")`)
	s.sees("in oven")
	s.clean("a foam in the oven")
	pass(s, 4*time.Hour)
	s.until("it to be cured", `document.querySelector("[data-testid=pot-left]")?.innerText === "switch the oven off"`)
	s.sees("I am on it: stop the bell")
	s.click("I am on it: stop the bell")
	s.sees("Maud Tarn took it in hand")
	s.clickOn("the oven", `document.querySelector("[data-place-row=oven] button")`)
	s.click("It is off")
	s.until("the oven to be off", `/°C, off/.test(document.querySelector("[data-place-row=oven]").innerText)`)
	pass(s, 6*time.Hour)
	s.until("it to be cool", `document.querySelector("[data-testid=pot-left]")?.innerText === "open it now"`)
	looked(s)
	s.click("It is washed")
	s.until("it to dry", `document.querySelector("[data-testid=pot-left]")?.innerText.startsWith("dry in")`)
	pass(s, 40*time.Hour)
	s.click("It is made")
	s.sees("AL-03-a, made")
}

// A night with the room's sensor off the wall: the bands are wider in the morning, and it
// says what the night did and for how long nothing was read.
func TestANightWithTheSensorAway(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 3*time.Minute, "Maud Tarn")
	s.goTo("/build?run=R-0006")
	s.sees("Bark hand")
	s.call("POST", "/api/room/simulated", map[string]any{"away": true})
	pass(s, 22*time.Hour)
	s.goTo("/build?run=R-0006")
	s.until("the night", `/no reading of the room came for 2[12] h/.test(document.querySelector("[data-testid=night]")?.innerText)`)
	s.clickOn("the night", `document.querySelector("[data-testid=night] summary")`)
	s.until("what it did", `/BF-03-d: .*ready/.test(document.querySelector("[data-testid=night]").innerText)`)
	s.clickOn("why", `[...document.querySelectorAll("summary")].find(x => x.innerText.startsWith("Why these figures"))`)
	s.until("the wider band", `/The room was last read 2[12] h.* ago: the band is wider for it/.test(document.body.innerText)`)
	s.call("POST", "/api/room/simulated", map[string]any{"away": false})
	pass(s, 10*time.Minute)
	s.goTo("/build?run=R-0006")
	s.until("the room to be read again", `!document.body.innerText.includes("The room was last read")`)
}
