package check_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/check"
)

// scene is a picture whose every colour is known: a ground that goes over from one colour
// to another, shifted by so much in linear light, with a card of five greys along its foot.
func scene(t *testing.T, w, h int, gain [3]float64) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	lit := func(v float64, k int) uint8 { return uint8(math.Round(encoded(colour.Decode(v) * gain[k]))) }
	for y := range h {
		for x := range w {
			c := [3]float64{120 + 60*float64(x)/float64(w), 110 + 40*float64(y)/float64(h), 90}
			if y > h*9/10 {
				g := greys[min(4, 5*x/w)]
				c = [3]float64{g, g, g}
			}
			img.SetRGBA(x, y, color.RGBA{lit(c[0], 0), lit(c[1], 1), lit(c[2], 2), 255})
		}
	}
	return shoptest.PNG(t, img)
}

// encoded is the sRGB code of linear light, as IEC 61966-2-1 has it.
func encoded(v float64) float64 {
	if v <= 0.0031308 {
		return 255 * 12.92 * v
	}
	return 255 * (1.055*math.Pow(v, 1/2.4) - 0.055)
}

var greys = [5]float64{52, 85, 118, 160, 200}

// card are its fields, as shares of the picture.
func card() (fields []m) {
	for i, g := range greys {
		fields = append(fields, m{"x": (float64(i) + 0.5) / 5, "y": 0.95, "is": []float64{g, g, g}, "seen": []float64{0, 0, 0}})
	}
	return fields
}

func marks(at map[string][2]float64) (list []m) {
	for _, name := range []string{"brow", "chin", "ear", "nose"} {
		if p, there := at[name]; there {
			list = append(list, m{"name": name, "x": p[0], "y": p[1]})
		}
	}
	return list
}

// laid is a copy with a picture of its own and a reference of its brief.
func laid(t *testing.T, gain [3]float64) (b *shoptest.Bench, copyCode, mine, theirs string) {
	t.Helper()
	b, piece, first := finished(t)
	_, ref, _ := b.Pin(piece, string(scene(t, 400, 300, [3]float64{1, 1, 1})), map[string]string{"caption": "the study"})
	status, raw := b.Sent("pip", "/api/copies/"+first+"/pictures", map[string]string{"view": "left"}, scene(t, 400, 296, gain))
	require.Equal(t, 200, status, string(raw))
	var side check.Beside
	require.NoError(t, json.NewDecoder(bytes.NewReader(raw)).Decode(&side))
	for _, s := range side.Shots {
		if s.Of == "copy" && s.View == "left" {
			mine = s.SHA256
		}
	}
	return b, first, mine, ref.SHA256
}

func about(b *shoptest.Bench, sha string, version int, list, fields []m, mm float64) (a check.About) {
	b.T.Helper()
	body := m{"marks": list, "fields": fields, "version": version}
	if fields == nil {
		body["fields"] = []m{}
	}
	if mm > 0 {
		body["mm_across"] = mm
	}
	b.As["pip"].Yes("PUT", "/api/pictures/"+sha+"/about", body, &a)
	return a
}

var corners = map[string][2]float64{"brow": {0.2, 0.2}, "chin": {0.5, 0.8}, "ear": {0.8, 0.3}, "nose": {0.5, 0.4}}

// The same place in another lamp: its shape is the same to a fraction of a mm, its colour
// is off as it was seen, and right again by the card.
func TestACardTakesTheLampOut(t *testing.T) {
	b, first, mine, theirs := laid(t, [3]float64{1, 0.9, 0.7})
	about(b, theirs, 0, marks(corners), card(), 100)
	at := "/api/copies/" + first + "/compare"
	var seen, right check.Measured
	about(b, mine, 0, marks(corners), nil, 0)
	b.As["pip"].Yes("POST", at, m{"picture": mine, "with": theirs, "mode": "reference"}, &seen)
	require.NotNil(t, seen.RMS)
	assert.InDelta(t, 0, *seen.RMS, 0.3, "one is four pixels lower than the other")
	// In the middle the ground is 150, 130, 90: what the lamp makes of that is known.
	is := [3]float64{colour.Decode(150), colour.Decode(130), colour.Decode(90)}
	assert.InDelta(t, colour.DE00(colour.FromLinear(is), colour.FromLinear([3]float64{is[0], 0.9 * is[1], 0.7 * is[2]})), *seen.DEMean, 1, "a yellow lamp")
	assert.Contains(t, fmt.Sprint(seen.Said), "No card is marked in the copy's picture")
	a := about(b, mine, 1, marks(corners), card(), 0)
	assert.InDelta(t, 118, a.Fields[2].Seen[0], 2, "read from the picture itself")
	b.As["pip"].Yes("POST", at, m{"picture": mine, "with": theirs, "mode": "reference"}, &right)
	assert.Less(t, *right.DEMean, 0.7, "the card takes it out")
	assert.Greater(t, right.Cells, 50)

	// What was measured last stands with the copy, and holds the verdict back where it is off.
	var side check.Beside
	b.As["pip"].Yes("GET", "/api/copies/"+first+"/beside", nil, &side)
	require.NotNil(t, side.Newest)
	assert.Equal(t, *right.DEMean, *side.Newest.DEMean)
}

// A landmark that lies elsewhere is told in mm; one that is meant to differ is not counted.
func TestALandmarkThatIsOffIsToldInMM(t *testing.T) {
	b, first, mine, theirs := laid(t, [3]float64{1, 1, 1})
	about(b, theirs, 0, marks(corners), nil, 100)
	off := map[string][2]float64{"brow": {0.2, 0.2}, "chin": {0.5, 0.8}, "ear": {0.8, 0.3}, "nose": {0.58, 0.4}}
	about(b, mine, 0, marks(off), nil, 0)
	at := "/api/copies/" + first + "/compare"
	var got check.Measured
	b.As["pip"].Yes("POST", at, m{"picture": mine, "with": theirs, "mode": "reference"}, &got)
	assert.Equal(t, "nose", *got.Worst)
	assert.InDelta(t, 8, got.Diffs["nose"], 4, "eight of a hundred mm, of which the fit takes a part on itself")
	assert.Contains(t, got.Fails, "max_mm")
	no := b.As["ivo"].No("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"})
	assert.Contains(t, no.Detail, "shape", "it is off beside what was asked")

	list := marks(off)
	list[3]["differs"] = true
	about(b, mine, 1, list, nil, 0)
	b.As["pip"].Yes("POST", at, m{"picture": mine, "with": theirs, "mode": "reference"}, &got)
	assert.InDelta(t, 0, *got.RMS, 0.3)
	b.As["ivo"].Yes("POST", "/api/copies/"+first+"/verdict", m{"verdict": "accept"}, nil)
}

// What cannot be measured is said, and nothing is made up: too few landmarks, all on one
// line, nobody knows the scale, a picture held upside down.
func TestWhatCannotBeMeasuredIsSaid(t *testing.T) {
	b, first, mine, theirs := laid(t, [3]float64{1, 1, 1})
	at := "/api/copies/" + first + "/compare"
	ask := m{"picture": mine, "with": theirs, "mode": "reference"}
	assert.Equal(t, "marks", b.As["pip"].No("POST", at, ask).Field, "no landmark at all")
	line := map[string][2]float64{"brow": {0.2, 0.4}, "ear": {0.5, 0.4}, "nose": {0.8, 0.4}}
	about(b, theirs, 0, marks(line), nil, 0)
	about(b, mine, 0, marks(line), nil, 0)
	var got check.Measured
	b.As["pip"].Yes("POST", at, ask, &got)
	assert.Nil(t, got.RMS, "nobody said how wide either is")
	assert.Contains(t, fmt.Sprint(got.Said), "one line")
	assert.Contains(t, fmt.Sprint(got.Said), "how wide")

	over := map[string][2]float64{}
	for k, p := range corners {
		over[k] = [2]float64{1 - p[0], 1 - p[1]}
	}
	about(b, theirs, 1, marks(corners), nil, 100)
	about(b, mine, 1, marks(over), nil, 0)
	b.As["pip"].Yes("POST", at, ask, &got)
	assert.Contains(t, fmt.Sprint(got.Said), "upside down")
	assert.InDelta(t, 180, math.Abs(got.Lies.Rotation), 0.5)

	assert.Equal(t, "marks", b.As["pip"].No("POST", at, m{"picture": mine, "mode": "mirror"}).Field, "no pairs L and R")
	assert.Equal(t, "picture", b.As["pip"].No("POST", at, m{"picture": theirs, "with": mine, "mode": "reference"}).Field, "that is no picture of the copy")
	assert.Equal(t, 404, b.As["pip"].No("POST", "/api/copies/ZZ-01-a/compare", ask).Status)
}

// Left and right of one picture: the axis is found, and what is off is told at its pair.
func TestLeftAgainstRight(t *testing.T) {
	b, first, mine, _ := laid(t, [3]float64{1, 1, 1})
	pair := func(name string, y, left, right float64) []m {
		return []m{{"name": name + " L", "x": 0.5 + left, "y": y}, {"name": name + " R", "x": 0.5 - right, "y": y}}
	}
	var list []m
	list = append(list, pair("brow", 0.2, 0.2, 0.2)...)
	list = append(list, pair("ear", 0.5, 0.35, 0.35)...)
	list = append(list, pair("jaw", 0.8, 0.25, 0.25)...)
	about(b, mine, 0, list, nil, 120)
	var got check.Measured
	b.As["pip"].Yes("POST", "/api/copies/"+first+"/compare", m{"picture": mine, "mode": "mirror"}, &got)
	require.NotNil(t, got.RMS)
	assert.InDelta(t, 0, *got.RMS, 0.01)
	require.NotNil(t, got.Axis)
	assert.InDelta(t, 90, math.Mod(*got.Axis+360, 180), 0.5, "it stands upright")
}

// Two people set landmarks on one picture: the second is told, and nothing of the first is
// lost; what is no picture's is refused at its field.
func TestTwoPeopleSetLandmarks(t *testing.T) {
	b, _, mine, _ := laid(t, [3]float64{1, 1, 1})
	about(b, mine, 0, marks(corners), nil, 0)
	path := "/api/pictures/" + mine + "/about"
	assert.Equal(t, "changed", b.As["ivo"].No("PUT", path, m{"marks": []m{}, "fields": []m{}, "version": 0}).Code)
	twice := []m{{"name": "brow", "x": 0.1, "y": 0.1}, {"name": "brow", "x": 0.2, "y": 0.1}}
	assert.Equal(t, "marks[1].name", b.As["ivo"].No("PUT", path, m{"marks": twice, "fields": []m{}, "version": 1}).Field)
	assert.Equal(t, "fields[0].is", b.As["ivo"].No("PUT", path, m{"marks": []m{}, "fields": []m{{"x": 0.1, "y": 0.1, "is": []float64{300, 0, 0}, "seen": []float64{0, 0, 0}}}, "version": 1}).Field)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM picture_about WHERE marks LIKE '%chin%'`))
}
