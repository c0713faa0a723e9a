package e2e

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// A brief from empty to agreed, as a person makes it: with the mouse, and the
// map with the keys alone.
func TestABriefFromEmptyToAgreed(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 8*time.Minute, "Maud Tarn")
	s.goTo("/brief/new")
	s.fill("Character, its code", "FT")
	s.fill("What the piece is called", "Webs between the fingers")
	s.choose("Where it is worn", "cheek")
	s.choose("One of a pair?", "L")
	s.click("Begin the piece")
	s.sees("Webs between the fingers")
	s.sees("nothing agreed yet")

	// What was asked, and an open wish that holds it back.
	s.fill("Asked, in their words", "as thin as a wet leaf")
	s.click("Write a wish down")
	s.fill("Wish", "to the first knuckle")
	s.fill("Who asked", "the director")
	s.sees("draft saved")
	s.click("Agree the brief")
	s.sees("Decide about “to the first knuckle” first")
	s.choose("It is", "agreed")
	s.fill("Who decided", "Maud Tarn")
	s.click("Add a feature")
	s.fill("What the reference shows, 1", "veins in the web")

	// The map: an area from a region, moved by keys, mirrored, taken back.
	s.leaf("On the map")
	s.choose("Beginning with", "cheekL")
	s.click("Draw it")
	s.sees("left cheek")
	before := s.area()
	require.Greater(t, before, 20.0)
	s.focus(`[aria-label^="point 1 of"]`)
	for range 6 {
		s.do(chromedp.KeyEvent(kb.ArrowUp))
	}
	s.until("a larger area", fmt.Sprintf("(%s) > %f", areaJS, before+0.3))
	// Keys that came slowly are more than one step.
	for range 4 {
		s.until("the keys to be kept", `!document.body.innerText.includes("saving")`)
		s.click("Undo")
		time.Sleep(400 * time.Millisecond)
		if math.Abs(s.area()-before) < 0.3 {
			break
		}
	}
	s.until("the area as it was", fmt.Sprintf("Math.abs((%s) - %f) < 0.3", areaJS, before))
	s.sees("What follows")

	// Turned by keys, and by finger.
	s.focus(`[role=application]`)
	s.do(chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.ArrowRight))
	s.until("the form turned", `document.querySelector("[role=application]").getAttribute("aria-label").includes("30 degrees")`)
	s.click("left")
	s.until("from the left", `document.querySelector("[role=application]").getAttribute("aria-label").includes("from left")`)
	s.click("front")
	s.until("from the front", `document.querySelector("[role=application]").getAttribute("aria-label").includes("from front")`)
	s.do(chromedp.Sleep(300 * time.Millisecond)) // its drawing is read
	s.drag(`[aria-label^="point 1 of"]`, 0, 30)
	s.sees("The outline crosses itself")
	s.drag(`[aria-label^="point 1 of"]`, -8, -42)
	s.until("a point dragged", fmt.Sprintf("Math.abs((%s) - %f) > 0.3", areaJS, before))
	s.clean("the brief with its map")

	// Worn: the finish follows the camera; cover the mouth and be held back.
	s.leaf("Worn")
	s.sees("full finish")
	s.choose("Camera", "far")
	s.sees("plain, ")
	s.clean("worn")
	s.leaf("On the map")
	s.choose("Beginning with", "lip")
	s.click("Draw it")
	s.sees("MAP-1 never")
	s.click("Agree the brief")
	s.sees("The draft is kept")
	s.click("Undo")
	s.until("no stop", `!document.body.innerText.includes("MAP-1")`)

	// A reference: a wrong file is refused, a picture pinned, a note and a colour set.
	s.leaf("Pictures")
	bad := filepath.Join(t.TempDir(), "a.png")
	require.NoError(t, os.WriteFile(bad, []byte("<svg onload=alert(1)>"), 0o600))
	s.upload(bad)
	s.fill("What it shows", "a leaf in the water")
	s.click("Pin it")
	s.sees("This is not a PNG, JPEG or WebP picture. Nothing was stored.")
	s.upload(picture(t))
	s.click("Pin it")
	s.sees("say more")
	s.click("Pick a colour")
	s.fill("Label", "the vein")
	s.fill("Place, % across and down", "80 50")
	s.click("Pick it")
	s.sees("spread")
	s.click("rename")
	s.fill("The right word for it", "midrib")
	s.click("Rename")
	s.sees("midrib, L*")
	s.click("must be there")
	s.leaf("Asked")
	s.until("the note in the list", `[...document.querySelectorAll("[role=tabpanel] input")].some(i => i.value === "midrib")`)
	s.leaf("Pictures")
	s.clean("pictures")

	s.leaf("Wearer")
	s.sees("Dunstan Vey")
	s.sees("Skin read")
	s.clean("the wearer")
	s.leaf("Hours and cost")
	s.click("Add a step")
	s.fill("Step, 1", "cast the webs")
	s.fill("Hours, 1", "3.5")
	s.sees("workshop 3.5 h")
	s.clean("hours and cost")
	s.click("Agree the brief")
	s.sees("Nothing in the rule book speaks against this build-up")

	// The drawer with the pictures, in any room.
	s.key("3")
	s.key("r")
	s.sees("a leaf in the water")
	s.sees("Where it sits")
	s.click("to the other side")
	s.key("r")
	s.until("the drawer put away", `!document.querySelector("aside[aria-label=Reference]")`)
	s.goTo("/brief/AL")
	s.sees("AL·turning")
	s.sees("The performer's card")
	s.clean("a character")
}

// areaJS reads the figure of the piece's area from the list of marks.
const areaJS = `parseFloat([...document.querySelectorAll("[role=tabpanel] button[aria-expanded]")].map(e => e.innerText).find(t => t.includes("cm²"))?.match(/([\d.]+) cm²/)?.[1] ?? "0")`

func (s *screen) area() float64 {
	s.t.Helper()
	s.until("a measured area", "("+areaJS+") > 0")
	v, err := chromedp.Run(s.tab, chromedp.Evaluate[float64](areaJS))
	require.NoError(s.t, err)
	return v
}
