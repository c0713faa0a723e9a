package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/require"
)

// weighIn weighs everything in that a mix still wants, as its bench asks for it.
func weighIn(s *screen, mix string) {
	s.t.Helper()
	v := s.call("GET", "/api/mixes/"+mix, nil)
	confirm := []any{}
	for _, c := range v["follows"].(map[string]any)["confirm"].([]any) {
		confirm = append(confirm, c.(map[string]any)["code"])
	}
	if v["state"] == "planned" {
		v = s.call("POST", "/api/mixes/"+mix+"/begin", map[string]any{"confirmed": confirm})
	}
	for range 20 {
		now := v["current"].(float64)
		if now == 0 {
			return
		}
		for _, l := range v["lines"].([]any) {
			line := l.(map[string]any)
			if line["seq"] == now {
				v = s.call("POST", "/api/mixes/"+mix+"/weigh", map[string]any{"seq": now, "key": uuid.NewString(),
					"typed": fmt.Sprintf("%.3f g", line["add_g"]), "confirmed": confirm})
			}
		}
	}
	require.Fail(s.t, "the mix "+mix+" never ends")
}

// From what was read of a wearer to a recipe, its mix, a drawdown that is off, what is put
// into the cup, and the drawdown that is right; then the light of a day changes, and the
// room says so by itself.
func TestAColourFromTheReadingToTheCorrection(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 5*time.Minute, "Maud Tarn")
	s.goTo("/colour/PK-01")
	s.until("recipes beside the skin", `document.querySelectorAll("[data-proposal]").length >= 3`)
	s.sees("Keys D T L F change the lamp")
	s.clean("the colour room")
	s.key("t")
	s.until("tungsten to be on", `document.querySelector("[role=radio][aria-checked=true] b")?.innerText === "tungsten" || [...document.querySelectorAll("[aria-label=Lamp] [aria-checked=true] b")].some(b => b.innerText === "tungsten")`)
	s.choose("Look for", "shelf")
	s.until("only what is on the shelf", `document.querySelectorAll("[data-pigment]").length > 0 && !document.querySelector("[data-testid=match]").innerText.includes("not enough on the shelf")`)
	s.fill("Trial, g of base", "80")
	s.click("Mix a 80 g trial")
	s.sees("not weighed yet")
	mix := shown(s, `document.querySelector("[data-recipe] a[href^='/mix/']").getAttribute("href").slice(5)`)
	weighIn(s, mix)
	s.sees("80.0 g of base and its colour are in")
	s.clean("what was mixed and read")

	lab := s.call("GET", "/api/pieces/PK-01/colour", nil)["aim"].(map[string]any)["lab"].(map[string]any)
	s.choose("How it is read", "lab")
	s.click("Say what to add")
	s.sees("Wait until it has set and is dry")
	s.click("it has set and is dry")
	s.click("Say what to add")
	s.sees("Type L: a blank is no zero")
	s.fill("L", fmt.Sprintf("%.1f", lab["l"].(float64)+3))
	s.fill("a", fmt.Sprintf("%.1f", lab["a"].(float64)))
	s.fill("b", fmt.Sprintf("%.1f", lab["b"].(float64)))
	s.click("Say what to add")
	s.until("what to add", `/add .*, lot /.test(document.querySelector("[data-drawdown]")?.innerText)`)
	s.click("Put it into the cup")
	s.sees("Put into the cup")
	weighIn(s, mix)
	s.sees("Read another drawdown")

	// A day's light changes in the office; this screen hears of it.
	days := s.call("GET", "/api/pieces/PK-01/colour", nil)["days"].([]any)
	id := days[0].(map[string]any)["id"].(float64)
	var whole map[string]any
	var all []map[string]any
	s.fetch("GET", "/api/productions/1/days", nil, &all)
	for _, d := range all {
		if d["id"] == id {
			whole = d
		}
	}
	require.NotNil(t, whole)
	var changed any
	s.fetch("PUT", fmt.Sprintf("/api/days/%.0f", id), map[string]any{"day": whole["day"].(string)[:10], "place": whole["place"],
		"temp_c": whole["temp_c"], "rh": whole["rh"],
		"light": "lamp oil", "rain": whole["rain"], "version": whole["version"]}, &changed)
	s.sees("nobody measured the light “lamp oil”")
}

// A paint schedule from its first draft to the agreement: a colour is added, what its order
// asks for is heeded, and it goes with the piece on the day.
func TestAPaintScheduleIsAgreed(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 5*time.Minute, "Maud Tarn")
	s.goTo("/colour/PK-01?leaf=Paint")
	s.sees("A first draft, from")
	s.until("its layers", `document.querySelectorAll("[data-layer]").length > 0`)
	s.sees("No layer goes on hidden faces")
	s.click("Add a colour")
	s.fill("What it is called", "gill shade")
	s.click("hidden faces and hollows too")
	s.until("hollows to be heeded", `!document.body.innerText.includes("No layer goes on hidden faces")`)
	s.clean("the paint schedule")
	s.click("Agree the schedule")
	s.sees("§1 agreed")
	s.goTo("/colour/PK-01?leaf=For the day")
	s.sees("gill shade")
	s.clean("the colours for the day")
	for _, leaf := range []string{"Injuries", "Palette", "Swatches", "Cards", "Pigments", "Lights"} {
		s.leaf(leaf)
		s.clean("the leaf " + leaf)
	}
}
