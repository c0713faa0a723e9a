package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/cutline"
)

// The line to the server breaks while somebody stands at the bench. The work
// goes on, what is entered waits and is marked, and is recorded once.
func TestTheBenchGoesOnWhileTheServerIsAway(t *testing.T) {
	t.Parallel()
	srv := demo(t)
	line, err := cutline.To(strings.TrimPrefix(srv.base, "http://"))
	require.NoError(t, err)
	t.Cleanup(line.Close)
	s := open(t, runFor(t, 6*time.Minute), "http://"+line.Addr())
	s.goTo("/")
	s.click("Ivo Brack")
	s.sees("Hands now")
	s.goTo("/mix/X-0013")
	s.click("Begin weighing")
	s.until("the big number", `document.querySelector("[data-testid=big-number]")`)
	take := func(grams string) {
		s.fill("Weight read off another scale", grams)
		s.click("Take it")
	}
	inCup := func(ingredient string) float64 {
		for _, l := range s.call("GET", "/api/mixes/X-0013", nil)["lines"].([]any) {
			if m := l.(map[string]any); m["ingredient"] == ingredient {
				return m["in_cup_g"].(float64)
			}
		}
		return -1
	}

	// The scale first: unplugged, and in ounces.
	s.call("POST", "/api/scale/simulated", map[string]any{"unit": "oz", "put_g": 3})
	s.sees("wrong unit, switch to grams")
	s.call("POST", "/api/scale/simulated", map[string]any{"unplugged": true})
	s.sees("the scale does not answer")
	s.sees("What was weighed is kept")
	s.call("POST", "/api/scale/simulated", map[string]any{"clear": true})

	take("lots")
	s.sees("is not an amount")
	take("6.8 g")
	s.sees("Pour silicone softener")
	s.until("part A to be in", `document.querySelector("[data-line=A]").innerText.endsWith("in")`)

	line.Cut()
	take("8.1 g")
	s.sees("The server cannot answer since")
	s.sees("8.1 g of Silicone softener into X-0013")
	s.until("softener to be marked as waiting", `document.querySelector("[data-line=softener]").innerText.includes("waits")`)
	s.sees("Pour silicone pigment, flesh base")
	take("0.16 g")
	s.sees("0.16 g of Silicone pigment, flesh base into X-0013")
	s.key("n")
	s.click("cleaned up")
	s.sees("“cleaned up” on BF-01")

	line.Mend()
	s.until("everything to be sent", `!document.querySelector("[data-testid=line]")`)
	s.until("softener to be in", `document.querySelector("[data-line=softener]").innerText.includes("8.1 g")`)
	assert.InDelta(t, 8.1, inCup("softener"), 1e-6)
	assert.InDelta(t, 0.16, inCup("pigment-flesh"), 1e-6)
	s.goTo("/piece/BF-01")
	s.sees("What follows from it")
	s.key("l")
	s.sees("cleaned up")
}

// Two tabs and two people on one section: both versions are shown, and either
// can be carried over.
func TestTwoTabsAndTwoPeopleOnOneSection(t *testing.T) {
	t.Parallel()
	srv := demo(t)
	ctx := runFor(t, 6*time.Minute)
	ivo, maud := open(t, ctx, srv.base), open(t, ctx, srv.base)
	for s, who := range map[*screen]string{ivo: "Ivo Brack", maud: "Maud Tarn"} {
		s.goTo("/")
		s.click(who)
		s.sees("Hands now")
		s.goTo("/piece/BF-03")
		s.sees("What follows from it")
	}
	set := func(s *screen, mm string) {
		layer(s, "Silicone gel")
		s.fill("At the centre", mm)
		s.until("the draft to be saved", `document.body.innerText.includes(", saved")`)
	}
	set(ivo, "5 mm")
	set(maud, "7 mm")
	maud.sees("has a draft too")
	maud.click("Agree the section")
	maud.sees("agreed by Maud Tarn")
	ivo.click("Agree the section")
	ivo.sees("Take the other")
	ivo.until("both versions", `(t => t.includes("5 mm at the centre") && t.includes("7 mm at the centre"))(document.querySelector("[data-testid=two-versions]")?.innerText ?? "")`)
	ivo.sees("Maud Tarn")
	ivo.click("Take the other")
	ivo.until("hers to be carried over", `document.body.innerText.includes("7.1 mm") || document.body.innerText.includes("7 mm")`)
	ivo.until("the offer to be gone", `!document.body.innerText.includes("Take the other")`)

	// The record says who did what, from which device; a sign-in is ended.
	maud.goTo("/record")
	maud.sees("section §")
	maud.fill("About", "agreed")
	maud.until("Maud's own act first", `[...document.querySelectorAll("main div")].some(d => d.innerText.startsWith("BF-03") && d.parentElement.innerText.includes("Maud Tarn") && d.parentElement.innerText.includes("Linux"))`)
	maud.press(`[aria-label^="End Ivo Brack"]`)
	maud.until("one sign-in to be left", `![...document.querySelectorAll("[aria-label]")].some(e => e.getAttribute("aria-label").startsWith("End Ivo"))`)
	ivo.goTo("/")
	ivo.sees("Who are you today?")
}
