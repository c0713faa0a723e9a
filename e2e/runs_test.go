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

// Latex coats on skin, from the section to the signed kit: another way of making
// than a mix goes all the way through the real interface.
func TestLatexCoatsFromTheSectionToTheSignedKit(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 6*time.Minute, "Maud Tarn")

	// The section is thinned to two coats, and agreed as a new version.
	s.goTo("/piece/NM-01-R")
	layer(s, "Liquid latex, thin")
	s.click("How, where and what for")
	s.fill("knuckles", "2")
	s.until("the draft to be saved", `document.body.innerText.includes("draft on §1, saved")`)
	s.click("Agree the section")
	s.sees("NM-01-R §2, agreed by Maud Tarn")

	// Today leads there; a session is begun for the wearer's chair.
	s.goTo("/build?piece=NM-01-R")
	s.sees("coats, 5 stages by §2")
	s.fill("Where", "chair 1")
	s.click("Begin it")
	s.sees("by section §2, chair 1")
	s.clean("a session close up")
	stages(s)

	// What is built on skin has no flash and no seam to be ticked.
	s.until("the copy to be made", `document.body.innerText.includes("NM-01-R-a, made")`)
	s.click("NM-01-R-a, made")
	s.until("the bench", `location.pathname === "/finish/NM-01-R-a" && document.querySelector("[data-tick=edge]")`)
	assert.NotContains(t, s.text("[aria-label='What is to be done, in order']"), "Seam")
	tickAll(s)
	readAndPhotograph(s, "58.2", "12.4", "17.9")
	s.click("To the check")
	s.leaf("Story")
	s.sees("Made by section §2")
	s.click("1 cracks run across the knuckles")
	s.until("it to be seen", `document.querySelector("main input[type=checkbox]:checked")`)
	s.click("Accept it")
	s.sees("copies good")

	s.click("Pack it into a kit")
	s.press(`[data-copy="NM-01-R-a"]`)
	s.fill("Makeup artist", "Jun Abbot")
	s.click("Pack the kit")
	s.sees("K-004")
	s.leaf("Papers and page")
	s.sees("25-012") // the lot of latex stands on the sheet
	s.click("Make a link for Jun")
	s.until("the link", `document.querySelector("[data-testid=artist-link]")`)
	link := s.text("[data-testid=artist-link]")
	phone := open(t, runFor(t, 2*time.Minute), "")
	phone.goTo(link)
	phone.sees("NM-01-R-a")
	phone.fill("Your name", "Jun Abbot")
	phone.click("Received")
	phone.until("the receipt", `document.querySelector("[data-testid=received]")?.innerText.includes("Jun Abbot")`)
	s.until("the receipt in the shop", `document.body.innerText.includes("signed by Jun Abbot")`)

	// And where the latex went is found from its lot.
	s.goTo("/stores/25-012")
	s.sees("NM-01-R-a")
	s.sees("K-004")
}

// stages says every stage of the session done, letting as much time pass as each
// needs; the first coat is tried too early.
func stages(s *screen) {
	early := false
	for range 12 {
		s.until("the next stage, or the end", `document.querySelector("[data-testid=next-stage]") || document.body.innerText.includes("This session is over")`)
		next := s.text("[data-testid=next-stage]")
		if next == "" {
			break
		}
		if held := s.text("[data-testid=held-back]"); held != "" {
			if strings.HasPrefix(next, "Coat 2") { // the one below is wet: what going on costs stands there
				s.until("the price of going on early", `/Not before .*(instead of|no later)/.test(document.querySelector("[data-testid=held-back]")?.innerText.replaceAll("\n", " "))`)
				s.click("Help it along, or put it somewhere else")
				s.until("what the air saves", `document.querySelectorAll("[data-air]").length === 4`)
			}
			if !early {
				early = true
				for _, words := range []string{" early", " all the same"} {
					s.clickOn("“…"+words+"”", `[...document.querySelectorAll("main button")].find(b => b.innerText.endsWith(`+quote(words)+`))`)
				}
				s.sees("A lead or fabricator may go on with a reason")
			}
			s.call("POST", "/api/clock/forward", map[string]any{"seconds": 3600})
			s.until("the hand to be free", `!document.querySelector("[data-testid=held-back]")`)
		}
		looked(s)
		s.press("main button:has(kbd)")
		s.until("the stage after "+next, fmt.Sprintf(`document.querySelector("[data-testid=next-stage]")?.innerText !== %s`, quote(next)))
	}
	s.sees("This session is over")
	assert.True(s.t, early, "something was held back")
}

// looked ticks what the next stage holds for, where it holds for anything.
func looked(s *screen) {
	s.t.Helper()
	holds, err := chromedp.Run(s.tab, chromedp.Evaluate[bool](`!!document.querySelector("[data-testid=hold] input:not(:checked)")`))
	require.NoError(s.t, err)
	if holds {
		s.press("[data-testid=hold] input")
	}
}
