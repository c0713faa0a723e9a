package e2e

import (
	"testing"
	"time"
)

// A day is late: why, what would mend it, one change carried out, somebody ill, and what moved for whom.
func TestALatePlanIsMended(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 4*time.Minute, "Maud Tarn")
	s.goTo("/plan")
	s.sees("AL-03 is")
	s.sees("late for the quayside")
	s.sees("because ")
	s.until("what would mend it", `document.querySelectorAll("[data-mend]").length > 2`)
	s.sees("a second mould of AL-03")
	s.sees("on time")
	s.clean("the run-up")
	s.click("Take this plan")
	s.sees("the plan in force was taken")
	s.until("the oven at night may be had", `[...document.querySelectorAll("[data-mend]")].some(m => m.dataset.mend.includes("oven runs at night") && m.querySelector("button"))`)
	s.clickOn("Do it", `[...document.querySelectorAll("[data-mend]")].find(m => m.dataset.mend.includes("oven runs at night")).querySelector("button")`)
	s.sees("the oven may run while nobody is in")
	s.sees("Moved since the plan was taken")
	// Somebody is ill: the plan is mended with what moves for whom, and stays when the page is read anew.
	s.choose("Somebody is away", "Pip Sallow")
	s.choose("On", "2026-01-13")
	s.click("Plan without them")
	s.sees("Pip Sallow away")
	s.goTo("/plan")
	s.sees("Pip Sallow away")
	s.sees("Moved since the plan was taken")
	s.clean("the run-up with what moved")
}
