package handover_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/outing"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/handover"
)

// packed is a shop with a glued piece whose copies are accepted, in a kit for 23 January with a link.
type packed struct {
	*shoptest.Bench
	piece  string
	copies []string
	kit    string
	page   string // of the artist's link in the API
}

const quayDay = "2026-01-23"

func pack(t *testing.T) packed {
	t.Helper()
	b := shoptest.New(t, nil)
	b.Everything()
	out := packed{Bench: b, piece: b.By("latex_sheet", "GC", "cheek", 1)}
	run := b.Begin(out.piece, 3)
	for _, c := range run.Copies {
		out.copies = append(out.copies, c.Code)
	}
	_, err := b.S.DB.Exec(`UPDATE copy SET state = 'accepted'`)
	require.NoError(t, err)
	day := b.DayOf(out.piece, quayDay)
	out.kit = out.pack(day.ID, out.copies[0])
	var made struct{ Token string }
	b.As["maud"].Yes("POST", "/api/kits/"+out.kit+"/links", m{"days": 20}, &made)
	out.page = "/api/artist/" + made.Token
	return out
}

func (p packed) pack(day uint64, copies ...string) string {
	p.T.Helper()
	var k handover.Kit
	p.As["maud"].Because("a test").Yes("POST", "/api/kits", m{"day_id": day, "artist": "Jun Abbot", "copies": copies}, &k)
	return k.Code
}

func (p packed) contents() (c handover.Contents) {
	p.T.Helper()
	p.As["pip"].Yes("GET", "/api/kits/"+p.kit+"/contents", nil, &c)
	return c
}

func (p packed) item(key string) handover.KitItem {
	p.T.Helper()
	list := p.contents().Items
	i := slices.IndexFunc(list, func(it handover.KitItem) bool { return it.Key == key })
	require.GreaterOrEqual(p.T, i, 0, "%s in %v", key, list)
	return list[i]
}

func (p packed) view() (v handover.ArtistView) {
	p.T.Helper()
	p.As["nobody"].Yes("GET", p.page, nil, &v)
	return v
}

// A kit is worked out from its pieces and its day; what is packed is drawn once from its lot, whoever ticks it.
func TestAKitIsPackedByWhatItsDayTakes(t *testing.T) {
	p := pack(t)
	glue := p.item("adhesive:adhesive-acrylic")
	assert.Positive(t, glue.Need)
	assert.Equal(t, "L-adhesive-acrylic", glue.Lot)
	assert.NotEmpty(t, p.item("remover:remover-ester").Why)
	before := p.OnHand("L-adhesive-acrylic", "")
	shoptest.Together(6, func(i int) (int, shoptest.Refused) {
		return p.Post([]string{"maud", "ivo"}[i%2], "/api/kits/"+p.kit+"/contents", m{"act": "pack", "item": glue.Key, "amount": 4})
	})
	assert.InDelta(t, 4, before-p.OnHand("L-adhesive-acrylic", ""), 1e-6, "drawn once")
	assert.InDelta(t, 4, *p.item(glue.Key).Packed, 1e-9)
	assert.Equal(t, "drawn", p.As["ivo"].No("POST", "/api/kits/"+p.kit+"/contents", m{"act": "unpack", "item": glue.Key}).Code)
	// What lacks is named, with why; what nobody needs is left out, with why.
	assert.Equal(t, "words", p.As["ivo"].No("POST", "/api/kits/"+p.kit+"/contents", m{"act": "missing", "item": "card:first-aid"}).Field)
	p.As["ivo"].Yes("POST", "/api/kits/"+p.kit+"/contents", m{"act": "missing", "item": "card:first-aid", "words": "being printed"}, nil)
	assert.Contains(t, p.contents().Missing, "first aid card")
	_, err := p.S.DB.Exec(`UPDATE lot l JOIN material m ON m.id = l.material_id SET l.status = 'quarantine' WHERE m.slug = 'remover-ester'`)
	require.NoError(t, err)
	assert.Contains(t, p.item("remover:remover-ester").Lacks, "none on the shelf")
	assert.Equal(t, "no_lot", p.As["ivo"].No("POST", "/api/kits/"+p.kit+"/contents", m{"act": "pack", "item": "remover:remover-ester"}).Code)
	assert.False(t, p.contents().Complete)
	assert.Contains(t, p.contents().Why, "none on the shelf")
	for _, it := range p.contents().Items {
		if it.PackedAt == nil {
			p.As["maud"].Yes("POST", "/api/kits/"+p.kit+"/contents", m{"act": "drop", "item": it.Key, "words": "not today"}, nil)
		}
	}
	assert.True(t, p.contents().Complete)
	p.As["maud"].Yes("POST", "/api/kits/"+p.kit+"/contents", m{"act": "add", "name": "a stool", "amount": 1}, nil)
	assert.False(t, p.contents().Complete)
	assert.Equal(t, "name", p.As["maud"].No("POST", "/api/kits/"+p.kit+"/contents", m{"act": "add", "name": "A stool"}).Field)
}

// A copy goes out as often as it comes back whole; it is never in two kits at once.
func TestACopyComesBackAndGoesOutAgain(t *testing.T) {
	p := pack(t)
	day := p.DayOf(p.piece, "2026-01-24")
	assert.Equal(t, "copies[0]", p.As["maud"].No("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun Abbot", "copies": p.copies[:1]}).Field)
	assert.Equal(t, "not_here", p.As["maud"].No("POST", "/api/kits/"+p.kit+"/return", m{"copies": []m{}, "items": []m{}}).Code)
	p.As["ivo"].Yes("POST", "/api/kits/"+p.kit+"/hand", nil, nil)
	back := m{"copies": []m{{"code": p.copies[0], "back": "again", "worn_h": 5}}, "items": []m{}}
	shoptest.Together(4, func(int) (int, shoptest.Refused) { return p.Post("ivo", "/api/kits/"+p.kit+"/return", back) })
	var k, half handover.Kit
	p.As["pip"].Yes("GET", "/api/kits/"+p.kit, nil, &k)
	assert.Equal(t, []any{"again", "accepted"}, []any{k.Copies[0].Back, string(k.Copies[0].State)})
	assert.NotNil(t, k.BackAt)
	second := p.pack(day.ID, p.copies[0], p.copies[1])
	p.As["pip"].Yes("GET", "/api/kits/"+second, nil, &k)
	assert.Equal(t, 1, k.Copies[0].Wears)
	p.As["ivo"].Yes("POST", "/api/kits/"+second+"/hand", nil, nil)
	p.As["ivo"].Yes("POST", "/api/kits/"+second+"/return", m{"copies": []m{{"code": p.copies[0], "back": "spent", "words": "the edge is gone"}}, "items": []m{}}, &half)
	assert.Nil(t, half.BackAt, "one is still out")
	assert.Equal(t, "copies[0]", p.As["maud"].No("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun Abbot", "copies": p.copies[:1]}).Field)
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM journal WHERE code = ? AND act = 'came back' AND words LIKE '%spent%'`, p.copies[0]))
}

// A kit is one performer's, for one day or more; another's copy does not go into it.
func TestAKitIsOnePerformersForItsDays(t *testing.T) {
	p := pack(t)
	other := p.By("latex_paste", "PK", "chin", 4)
	r := p.Begin(other, 1)
	_, err := p.S.DB.Exec(`UPDATE copy SET state = 'accepted' WHERE code = ?`, r.Copies[0].Code)
	require.NoError(t, err)
	assert.Equal(t, "contradiction", p.As["maud"].Because("a test").No("POST", "/api/kits/"+p.kit+"/copies", m{"copies": []string{r.Copies[0].Code}}).Code)
	day, more := p.DayOf(p.piece, "2026-01-26"), p.DayOf(p.piece, "2026-01-27")
	var k handover.Kit
	p.As["maud"].Yes("POST", "/api/kits", m{"day_id": day.ID, "more_days": []uint64{more.ID}, "artist": "Jun Abbot", "performer": "Wearer GC", "scene": "the steps", "copies": []string{}}, &k)
	assert.Equal(t, []any{"Wearer GC", "the steps", 2}, []any{k.Performer, k.Scene, len(k.Days)})
	p.As["maud"].Because("a test").Yes("POST", "/api/kits/"+k.Code+"/copies", m{"copies": p.copies[1:2]}, nil)
	p.kit = k.Code
	c := p.contents()
	assert.Equal(t, 2, c.Copies[0].Says.Uses)
	assert.Equal(t, 2, c.Copies[0].Says.Copies, "latex is worn once")
	assert.InDelta(t, 0.95*0.95, c.Copies[0].Says.P, 1e-9)
	assert.Equal(t, "performer", p.As["maud"].No("POST", "/api/kits", m{"day_id": day.ID, "artist": "Jun Abbot", "performer": "Nobody Known", "copies": []string{}}).Field)
}

// What came to light after packing holds a kit here: a recalled lot, a never, a stop that nobody signed.
func TestWhatCameToLightHoldsAKitBack(t *testing.T) {
	p := pack(t)
	p.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", p.Wearer(p.piece)), m{"substance": "latex", "status": "allergic"}, nil)
	no := p.As["maud"].Because("never mind").No("POST", "/api/kits/"+p.kit+"/hand", nil)
	assert.Equal(t, "rule", no.Code)
	assert.Equal(t, "rule", p.As["nobody"].No("POST", p.page+"/receipt", m{"name": "Jun Abbot"}).Code)
	assert.Zero(t, p.Count(`SELECT COUNT(*) FROM kit WHERE handed_at IS NOT NULL OR received_at IS NOT NULL`))
}

// The morning is counted back; choosing is one person's act at a time, and another order has its price.
func TestAMorningIsChosenWithItsPrice(t *testing.T) {
	p := pack(t)
	path := "/api/kits/" + p.kit + "/chair"
	var v, tried handover.ChairView
	p.As["pip"].Yes("GET", path, nil, &v)
	require.Empty(t, v.Bar)
	assert.Equal(t, 480.0, v.Run.Ready)
	assert.Less(t, v.Run.Begin, 480.0)
	doc := v.Doc
	doc.Lenses, doc.Artists = "end", []string{"Jun Abbot", "Sel Quarry"}
	p.As["pip"].Yes("POST", path+"/try", m{"doc": doc}, &tried)
	require.NotNil(t, tried.Price)
	assert.InDelta(t, 4, *tried.Price, 0.01, "lenses at the end are on the chain")
	assert.NotNil(t, tried.Alone)
	p.As["ivo"].Yes("PUT", path, m{"doc": doc, "version": 0}, &v)
	assert.Equal(t, "changed", p.As["maud"].No("PUT", path, m{"doc": doc, "version": 0}).Code)
	// An order that would break a window is refused, and nothing changed.
	broken := v.Doc
	broken.Order = []outing.Before{{First: "place " + p.piece, Next: "glue " + p.piece}}
	assert.Equal(t, "doc", p.As["ivo"].No("PUT", path, m{"doc": broken, "version": v.Version}).Field)
	// Hiding hair with latex asks the rule book about the wearer.
	p.As["maud"].Yes("POST", fmt.Sprintf("/api/performers/%d/health", p.Wearer(p.piece)), m{"substance": "latex", "status": "allergic"}, nil)
	latex := v.Doc
	latex.Brow = "latex"
	assert.Equal(t, "rule", p.As["maud"].Because("still").No("PUT", path, m{"doc": latex, "version": v.Version}).Code)
	assert.Equal(t, "doc.brow", p.As["ivo"].No("POST", path+"/try", m{"doc": m{"ready_min": 480, "artists": []string{"Jun"}, "brow": "by magic"}}).Field)
}

// Ticks move the rest; a piece is not pressed before its glue grips nor after it let go: then a new coat is laid.
func TestAWindowIsKeptOrMissed(t *testing.T) {
	p := pack(t)
	path := "/api/kits/" + p.kit + "/chair"
	tick := func(step, act string) m { return m{"key": shoptest.Key(), "step": step, "act": act} }
	assert.Equal(t, "not_today", p.As["ivo"].No("POST", path+"/ticks", tick("skin", "done")).Code)
	day, err := time.Parse(time.DateOnly, quayDay)
	require.NoError(t, err)
	at := func(minute float64) { p.Clock.Set(day.Add(time.Duration(minute * float64(time.Minute)))) }
	var v handover.ChairView
	at(400)
	p.As["pip"].Yes("GET", path, nil, &v)
	var glue string
	for _, s := range v.Run.Steps {
		if s.Kind == "glue" {
			glue = s.ID
			break
		}
		p.As["ivo"].Yes("POST", path+"/ticks", tick(s.ID, "begin"), nil)
		at(402)
		p.As["ivo"].Yes("POST", path+"/ticks", tick(s.ID, "done"), nil)
	}
	place := "place " + p.piece
	at(410)
	once := tick(glue, "done")
	for range 3 { // from the phone, sent again and again
		p.As["nobody"].Yes("POST", p.page+"/ticks", once, nil)
	}
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM chair_tick WHERE step = ? AND act = 'done'`, glue))
	assert.Equal(t, "too_early", p.As["ivo"].No("POST", path+"/ticks", tick(place, "done")).Code)
	at(470)
	assert.Equal(t, "missed", p.As["nobody"].No("POST", p.page+"/ticks", tick(place, "done")).Code)
	p.As["pip"].Yes("GET", path, nil, &v)
	assert.Equal(t, "missed", stands(v, place))
	p.As["nobody"].Yes("POST", p.page+"/ticks", tick(place, "missed"), nil)
	p.As["pip"].Yes("GET", path, nil, &v)
	assert.Equal(t, []string{"next", "waits"}, []string{stands(v, glue), stands(v, place)}, "the glue is to be laid anew")
	p.As["nobody"].Yes("POST", p.page+"/ticks", tick(glue, "done"), nil)
	at(480)
	p.As["nobody"].Yes("POST", p.page+"/ticks", tick(place, "done"), nil)
	p.As["pip"].Yes("GET", path, nil, &v)
	assert.Equal(t, "done", stands(v, place))
	assert.Positive(t, v.Live.Late)
	assert.Less(t, v.Live.Chance, 0.5)
	// What waited on a phone counts from when it was ticked there.
	at(500)
	late := tick("edge "+p.piece, "done")
	late["ago_s"] = 600.0
	p.As["nobody"].Yes("POST", p.page+"/ticks", late, nil)
	assert.Equal(t, 1, p.Count(`SELECT COUNT(*) FROM chair_tick WHERE step = ? AND at = ?`, "edge "+p.piece, day.Add(490*time.Minute)))
	// Timed steps teach the next morning; comfort is kept with its hour.
	p.As["pip"].Yes("GET", path, nil, &v)
	assert.NotEmpty(t, v.Learned)
	assert.Equal(t, "score", p.As["ivo"].No("POST", path+"/ticks", m{"key": shoptest.Key(), "act": "comfort"}).Field)
	p.As["ivo"].Yes("POST", path+"/ticks", m{"key": shoptest.Key(), "act": "comfort", "score": 3, "words": "hot"}, &v)
	assert.Equal(t, 3, v.Comfort[0].Score)
}

// stands is how a step stands.
func stands(v handover.ChairView, id string) string {
	for _, s := range v.Live.Steps {
		if s.ID == id {
			return s.State
		}
	}
	return "not there"
}

// Papers, calendar and document say what the screens say.
func TestAKitsPapersAreReadable(t *testing.T) {
	p := pack(t)
	p.As["maud"].Because("a test").Yes("POST", "/api/kits/"+p.kit+"/copies", m{"copies": p.copies[1:2]}, nil)
	for _, file := range []string{"sheet", "packing", "run", "performer", "removal", "label", "labels"} {
		status, body := p.File("pip", "/api/kits/"+p.kit+"/"+file+".pdf")
		assert.Equal(t, 200, status, file)
		assert.True(t, strings.HasPrefix(string(body), "%PDF-"), file)
	}
	for _, file := range []string{"run", "performer", "removal"} { // one page each where it fits
		_, body := p.File("pip", "/api/kits/"+p.kit+"/"+file+".pdf")
		assert.Equal(t, 1, strings.Count(string(body), "/Type /Page\n"), file)
	}
	var sheet handover.SheetView
	p.As["pip"].Yes("GET", "/api/kits/"+p.kit+"/sheet", nil, &sheet)
	require.Len(t, sheet.Copies, 2)
	assert.Equal(t, []string{"", p.copies[0]}, []string{sheet.Copies[0].As, sheet.Copies[1].As}, "put on the same way: said once")
	_, raw := p.File("pip", "/api/kits/"+p.kit+"/day.ics")
	cal, err := ics.ParseCalendar(strings.NewReader(string(raw)))
	require.NoError(t, err)
	assert.GreaterOrEqual(t, len(cal.Events()), 3)
	var doc handover.File
	p.As["pip"].Yes("GET", "/api/kits/"+p.kit+"/kit.json", nil, &doc)
	assert.Equal(t, []any{"yewmoor-kit-1", p.kit}, []any{doc.Format, doc.Kit.Code})
}
