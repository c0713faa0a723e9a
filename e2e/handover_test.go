package e2e

import (
	"bytes"
	"compress/gzip"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/cutline"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/ui"
)

// A kit is packed and leaves; its artist signs, works without a connection, tells of skin that reacted with a picture, which goes out
// once the line is back; the shop sees what it stops, and counts what comes back.
func TestAKitGoesOutAndComesBack(t *testing.T) {
	t.Parallel()
	srv := demo(t)
	s := open(t, runFor(t, 8*time.Minute), srv.base)
	s.goTo("/")
	s.click("Maud Tarn")
	s.sees("Hands now")
	s.goTo("/handover/K-002")
	s.until("what is open", `document.querySelector("[data-testid=complete]")?.innerText.includes("things are open")`)
	s.clean("packing")
	s.clickOn("Packed", `[...document.querySelector('[data-item="tool:brushes"]')?.querySelectorAll("button") ?? []].find(b => b.innerText === "Packed")`)
	s.until("the brushes to be in", `document.querySelector('[data-item="tool:brushes"]').innerText.includes("packed 2 pcs")`)
	s.click("It left the shop")
	s.sees("Handed over")
	s.leaf("Papers and page")
	s.click("Make a link for Jun")
	s.until("the link", `document.querySelector("[data-testid=artist-link]")`)
	page := strings.TrimPrefix(s.text("[data-testid=artist-link]"), srv.base)

	line, err := cutline.To(strings.TrimPrefix(srv.base, "http://"))
	require.NoError(t, err)
	t.Cleanup(line.Close)
	phone := open(t, runFor(t, 6*time.Minute), "http://"+line.Addr())
	phone.do(chromedp.EmulateViewport(320, 640, chromedp.EmulateMobile))
	phone.goTo(page)
	phone.sees("Is it all there? Sign for it")
	phone.clean("the artist's page before it is signed")
	assert.Less(t, width(phone), 321, "nothing runs off a small phone")
	phone.fill("Your name", "Jun Abbot")
	phone.click("Received")
	phone.until("the receipt", `document.querySelector("[data-testid=received]")?.innerText.includes("Jun Abbot")`)
	phone.until("the page to be kept", `document.querySelector("[data-testid=keeps]")?.innerText.includes("opens without a connection") && navigator.serviceWorker.controller`)
	// What it shows is kept at once, not only when it is first looked at.
	for began := time.Now(); ; time.Sleep(100 * time.Millisecond) {
		kept, err := chromedp.Run(phone.tab, chromedp.Evaluate[int](`caches.open("yewmoor-shown").then(c => c.keys()).then(k => k.length)`, chromedp.EvalAwaitPromise))
		require.NoError(t, err)
		if kept > 0 {
			break
		}
		require.Less(t, time.Since(began), 20*time.Second, "no picture is kept")
	}
	for _, leaf := range []string{"Morning", "On set", "Take off", "Tell us"} {
		phone.click(leaf)
		phone.clean("the artist's leaf " + leaf)
		assert.Less(t, width(phone), 321, leaf)
	}

	// No connection any more: the page opens all the same, and what is written waits.
	line.Cut()
	phone.reload()
	phone.click("Kit")
	phone.until("the kit without a connection", `document.querySelector("[data-testid=received]") && document.querySelector("[data-testid=line]")?.innerText.includes("No connection")`)
	phone.do(chromedp.ScrollIntoView(phone.mark("a picture of the target", `document.querySelector(".shots img")`)))
	phone.until("its picture without a connection", `document.querySelector(".shots img").naturalWidth > 0`)
	phone.click("Tell us")
	phone.click("Skin reacted")
	phone.fill("In your words", "red and hot under the web")
	file := filepath.Join(t.TempDir(), "skin.png")
	require.NoError(t, os.WriteFile(file, []byte(shoptest.Picture(t, 640, 480)), 0o600))
	phone.upload(file)
	phone.click("Send it to the workshop")
	phone.until("NOT SENT, and whom to ring", `document.querySelector("[data-testid=not-sent]")?.innerText.includes("01632 960117")`)
	phone.reload()
	phone.until("it to wait still", `document.querySelector("[data-testid=not-sent]")`)
	line.Mend()
	phone.until("it to have gone out", `!document.querySelector("[data-testid=not-sent]") && !document.querySelector("[data-testid=waiting-reports]")`)

	s.leaf("Came back")
	s.until("the report in the shop", `document.querySelector("[data-report=reaction]")`)
	assert.NotContains(t, s.text("main"), "red and hot", "its words are of somebody's health")
	s.click("what lay there, and what it stops")
	s.sees("red and hot under the web")
	s.until("its picture", `document.querySelector("[data-incident] img")?.naturalWidth > 0`)
	s.clean("what skin reacted to")
	incidents := []any{}
	s.fetch("GET", "/api/incidents", nil, &incidents)
	assert.Len(t, incidents, 1, "sent once")
	s.fill("Who was asked, and what follows", "the set's doctor was asked")
	s.click("Close it")
	s.sees("That clears nothing")

	s.goTo("/handover/K-002?leaf=Came back")
	s.choose("How FT-02-R-d came back", "again")
	s.click("Count it")
	s.sees("It is not worn again without licensed advice")
	s.choose("How FT-02-R-d came back", "spent")
	s.click("Count it")
	s.sees("FT-02-R-d: spent")
	s.goTo("/check/FT-02-R-d")
	s.sees("spent")
}

// The artist's page is an entry of its own: its scripts, its worker among them, are small and nothing of the shop's is in them.
func TestTheArtistsPageIsSmall(t *testing.T) {
	t.Parallel()
	page, err := fs.ReadFile(ui.Dist(), "artist.html")
	require.NoError(t, err)
	scripts := regexp.MustCompile(`/(assets/[^"]+\.js)`).FindAllStringSubmatch(string(page), -1)
	require.NotEmpty(t, scripts)
	var packed bytes.Buffer
	for _, name := range append(scripts, []string{"", "sw.js"}) {
		raw, err := fs.ReadFile(ui.Dist(), name[1])
		require.NoError(t, err)
		w := gzip.NewWriter(&packed)
		_, err = w.Write(raw)
		require.NoError(t, err)
		require.NoError(t, w.Close())
		assert.NotContains(t, string(raw), "chakra", name[1])
	}
	assert.Less(t, packed.Len(), 100_000, "bytes of script, gzipped")
	worker, err := fs.ReadFile(ui.Dist(), "sw.js")
	require.NoError(t, err)
	for _, name := range regexp.MustCompile(`/(assets/[^"]+)"`).FindAllStringSubmatch(string(page), -1) {
		assert.Contains(t, string(worker), name[1], "kept for when there is no connection")
	}
}

// A morning for two artists: counted back, another order has its price, and a window that is missed asks for a new coat.
func TestAMorningWithAMissedWindow(t *testing.T) {
	t.Parallel()
	s := signedIn(t, 6*time.Minute, "Ivo Brack")
	s.goTo("/handover/K-001?leaf=Morning")
	s.until("when to begin", `document.querySelector("[data-testid=begin-by]")?.innerText.startsWith("On set at 08:00, so begin by 0")`)
	s.clean("the morning")
	begin := s.text("[data-testid=begin-by]")
	s.choose("Lenses", "start")
	s.until("its price", `/Tried, not chosen yet:.*(as long|dearer|cheaper)/s.test(document.querySelector("[data-testid=price]")?.innerText)`)
	s.click("As it was")
	s.until("what stood", `!document.querySelector("[data-testid=price]") && document.querySelector("[data-testid=begin-by]").innerText === `+quote(begin))
	s.choose("Lenses", "")
	s.until("its price", `document.querySelector("[data-testid=price]")`)
	s.click("Choose this morning")
	s.until("it to be chosen", `!document.querySelector("[data-testid=price]") && ![...document.querySelectorAll("main svg text")].some(t => t.textContent.startsWith("Lenses in"))`)

	// On the day itself, the steps up to the glue are ticked as they go.
	on := time.Date(2026, 1, 23, 6, 40, 0, 0, time.UTC)
	now, err := time.Parse(time.RFC3339, s.call("GET", "/api/clock", nil)["now"].(string))
	require.NoError(t, err)
	forward := func(d time.Duration) {
		s.call("POST", "/api/clock/forward", map[string]any{"seconds": d.Seconds()})
		s.reload()
	}
	for left := on.Sub(now); left > 0; left -= 24 * time.Hour {
		s.call("POST", "/api/clock/forward", map[string]any{"seconds": min(left, 24*time.Hour).Seconds()})
	}
	s.reload()
	s.until("today", `document.querySelector("[data-testid=step-now]") && [...document.querySelectorAll("main h2, main h3, main div")].some(e => e.innerText?.startsWith("Now · 06:4"))`)
	for range 12 {
		step := s.text("[data-testid=step-now]")
		if strings.Contains(step, "Place BF-01") {
			break
		}
		s.click("Done")
		s.until("the next step", `document.querySelector("[data-testid=step-now]").innerText !== `+quote(step))
	}
	require.Contains(t, s.text("[data-testid=step-now]"), "grips from")
	s.click("It is on")
	s.sees("Nothing was recorded") // it does not grip yet
	forward(50 * time.Minute)
	s.until("the window to be missed", `document.querySelector("[data-testid=step-now]")?.innerText.includes("a second pressing does not hold")`)
	s.click("New coat")
	s.until("the glue to be laid anew", `document.querySelector("[data-testid=step-now]")?.innerText.includes("Acrylic adhesive")`)
	s.click("Done")
	s.until("the piece to wait for its glue", `document.querySelector("[data-testid=step-now]")?.innerText.includes("Place BF-01")`)
	forward(5 * time.Minute)
	s.until("the piece", `document.querySelector("[data-testid=step-now]")?.innerText.includes("Place BF-01")`)
	s.click("It is on")
	s.until("the edge", `document.querySelector("[data-testid=step-now]")?.innerText.includes("Run out the edge")`)
	s.sees("late as it stands")
}
