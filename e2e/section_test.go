package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A method is chosen and a section built from it, a finding provoked and
// settled, a stop signed, the section agreed, compared and printed.
func TestASectionFromTheChoiceToTheAgreement(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 8*time.Minute, "Maud Tarn")
	s.goTo("/brief/new")
	s.fill("Character, its code", "NM")
	s.fill("What the piece is called", "Wrist, cracked by brine")
	s.choose("Where it is worn", "hand_back")
	s.choose("One of a pair?", "L")
	s.click("Begin the piece")
	s.sees("Wrist, cracked by brine")

	// The advice: why, what would turn it round, and what if.
	s.leaf("Method")
	s.sees("No method is chosen yet")
	s.sees("What would turn it round")
	s.fill("height, mm", "0.3")
	s.sees("as tried, not as the brief says")
	s.until("stipple first", `document.querySelector("[data-method='stretch_stipple']").dataset.rank === "1"`)
	s.click("as the brief says")
	s.sees("for this brief, this wearer, this shop")
	s.press(`[data-method=stretch_stipple] button`)
	s.sees("heat and sweat")
	s.clean("the choice of method")
	s.click("Choose stretch-stipple")
	s.until("a reason asked for, or the choice kept", `/Say why it is to be|was chosen by Maud/.test(document.body.innerText)`)
	if !strings.Contains(s.text("[data-testid=chosen-method]"), "was chosen by") {
		s.do(chromedp.Focus(s.mark("the reason", `document.querySelector("[data-method=stretch_stipple] input[name=reason]")`)))
		s.do(chromedp.KeyEvent("it moves with the skin"))
		s.click("Choose stretch-stipple")
	}
	s.until("the choice", `document.querySelector("[data-testid=chosen-method]").innerText.startsWith("Stretch-stipple was chosen by Maud Tarn")`)

	// The section: begun from the house method that was chosen.
	s.click("To its section")
	s.click("Begin the section")
	s.until("the chosen method marked", `document.querySelector("[role=dialog] [data-method=stretch_stipple]").innerText.includes("chosen")`)
	s.clean("where a section is begun from")
	s.press(`[role=dialog] [data-method=stretch_stipple]`)
	s.sees("draft on §0, saved")
	s.until("the build-up as text", `document.querySelector("[data-testid=section]").getAttribute("aria-label").includes("Liquid latex, thin, 2 coats")`)
	s.clean("the section with its bands")

	// Provoke a stop: the stipple is not powdered while it is stretched.
	layer(s, "Liquid latex")
	s.click("How, where and what for")
	s.click("powdered while stretched")
	s.until("SEQ-2", `!!document.querySelector("[data-finding='SEQ-2'], [data-knot='SEQ-2']")`)
	s.click("Agree the section")
	s.sees("The draft is kept")
	s.click("powdered while stretched")
	s.until("SEQ-2 gone", `!document.querySelector("[data-finding='SEQ-2']")`)

	// With the keys alone: a layer on top, moved down, taken back.
	layer(s, "Setting powder")
	s.until("no entry in hand", `(() => { document.activeElement?.blur(); return true })()`)
	s.key("a")
	s.until("the list in hand", `document.querySelector("[data-pick]") && document.activeElement?.tagName === "INPUT"`)
	s.do(chromedp.KeyEvent("wet-look"))
	s.until("narrowed", `document.querySelectorAll("[data-pick]").length === 1`)
	s.do(chromedp.KeyEvent("\r"))
	s.until("wet look on top", `document.querySelector("[data-testid=section]").textContent.includes("Wet-look gel")`)
	s.click("Move down")
	s.until("a knot of order", `!!document.querySelector("[data-finding='SEQ-8']")`)
	s.click("Undo")
	s.until("the order back", `!document.querySelector("[data-finding='SEQ-8']")`)

	// What follows: order of work, fitting, the whole.
	s.leaf("Order of work")
	s.sees("stretch the skin, stipple, dry fully, powder while still stretched, let go")
	s.sees("The other way round")
	s.clean("the order of work")
	s.leaf("Fitting")
	s.sees("What is worn together")
	s.sees("stretching comes before anything is glued")
	s.clean("the fitting")
	s.leaf("Whole")
	s.click("divide it")
	s.until("two zones", `document.querySelectorAll("input[name^=zone_]").length === 2`)
	s.clean("the whole")
	s.leaf("Bands")
	layer(s, "Liquid latex")
	s.click("How, where and what for")
	s.click("coats differ by zone")
	s.until("coats by zone", `document.querySelectorAll("input[name=zone_coats]").length === 2`)

	// A stop that a lead signs: an adhesive that is not patch-tested.
	layer(s, "Skin barrier")
	add(s, "adhesive-silicone")
	s.until("SAF-2", `!!document.querySelector("[data-finding='SAF-2']")`)
	s.do(chromedp.Focus(s.mark("the reason", `document.querySelector("[aria-label='Reason to go on in spite of SAF-2']")`)))
	s.do(chromedp.KeyEvent("tested at the chair this morning, clear after an hour"))
	s.until("nothing else holds it back", `![...document.querySelectorAll("[data-finding]")].some(e => e.dataset.finding !== "SAF-2" && e.innerText.includes("stop"))`)
	s.click("Agree the section")
	s.sees("§1, agreed by Maud Tarn")

	// Kept: the signature on the rules page, the versions, the papers.
	s.leaf("Versions")
	s.sees("Signed in spite of a stop")
	s.clean("the versions")
	s.goTo("/rules")
	s.sees("tested at the chair this morning")
	s.sees("Decided in the mould room")
	s.clean("the rules")
	s.fill("Narrow the rules", "powder")
	s.until("fewer rules", `document.querySelectorAll("[data-rule]").length < 20`)

	// Two people on one section see each other.
	s.goTo("/piece/BF-03")
	s.sees("Ivo Brack has a draft too")
	s.click("Ivo Brack has a draft too")
	s.sees("thinner, for the smile")
	s.click("Go on from Ivo Brack's draft")
	s.sees("draft on §2, saved")
	s.click("Drop the draft")
	s.sees("§2, agreed by Maud Tarn")

	// Several cuts, and a file taken in.
	s.goTo("/piece/CB-01")
	s.leaf("run")
	s.until("the second cut", `document.querySelector("[data-testid=section]").getAttribute("aria-label").length > 20 && document.querySelector("[data-label=run-body]")`)
	s.leaf("Whole")
	s.click("Show it on the map")
	s.until("the map", `!!document.querySelector("[role=application]")`)
	s.click("Lay the line")
	s.sees("mm on the skin")
	s.goTo("/piece/FT-01")
	file := s.call("GET", "/api/pieces/BF-02/section/file", nil)
	require.Equal(t, "yewmoor-section", file["format"])
	raw := filepath.Join(t.TempDir(), "strange.json")
	require.NoError(t, os.WriteFile(raw, []byte("not a section"), 0o600))
	s.leaf("Whole")
	s.upload(raw)
	s.sees("is no JSON. The section is as it was.")
}
