package paper

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"strings"
	"testing"

	"github.com/ledongthuc/pdf"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/texture"
)

func plan(t *testing.T, w, h float64) Texture {
	t.Helper()
	r := texture.Recipe{Seed: 4, Region: texture.Region{Preset: "tile", Params: map[string]float64{"w": w, "h": h}}, PitchMM: texture.Ptr(0.5), FeatherMM: 2,
		Guides: [][]texture.P{{{5, 5}, {w - 5, h - 5}}}, Landmarks: []texture.Landmark{{Name: "nose wing", At: texture.P{w / 2, h / 2}}},
		Layers: []texture.Layer{{Kind: "scales", Stamps: []texture.Stamp{{ID: "S1", OD: 8, Squash: 0.8, SquashB: texture.Ptr(0.7)}}, Size: &texture.Span{9, 9}}, {Kind: "cracks", Pitch: texture.Ptr(9.0)}, {Kind: "droplets", Spacing: &texture.Span{4, 4}}}}
	s, err := texture.Make(context.Background(), r)
	require.NoError(t, err)
	j, err := s.Judge(context.Background())
	require.NoError(t, err)
	return Texture{Code: "PK-01", Title: "Neck & jaw <scaled>", Note: "§1 · seed 4", Sheet: s, Work: j.Work, Stretch: "a flat stand-in"}
}

// What is written as heights comes back as heights, and any reader sees what a
// pixel and a count are.
func TestHeightsGoOutAndComeBack(t *testing.T) {
	p := plan(t, 40, 30)
	f := p.Sheet.Field
	var out bytes.Buffer
	require.NoError(t, WriteHeights(&out, f, 4))
	img, err := png.Decode(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	require.IsType(t, &image.Gray16{}, img)
	h, about, err := ReadHeights(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, HeightsAbout{0.5, 0.0001, 32768}, about)
	require.Equal(t, []int{f.NX, f.NY}, []int{h.NX, h.NY})
	for k := range f.Z {
		require.InDelta(t, f.Z[k], h.MM[k], 0.00005+1e-6)
	}
	// The top row of the picture is the highest of the field.
	assert.Equal(t, texture.Count(f.Z[(f.NY-1)*f.NX+f.NX/2], 0.0001), img.(*image.Gray16).Gray16At(f.NX/2, 0).Y)
}

func TestOtherHeightFieldsAreTakenAndOddOnesRefused(t *testing.T) {
	grey := image.NewGray(image.Rect(0, 0, 4, 3))
	grey.SetGray(1, 0, color.Gray{Y: 255})
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, grey))
	h, about, err := ReadHeights(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	assert.Zero(t, about.MMPerPixel, "it does not say")
	assert.InDelta(t, 127./255, h.MM[2*4+1], 1e-6)
	assert.InDelta(t, -128./255, h.MM[0], 1e-6)
	colourful := image.NewRGBA(image.Rect(0, 0, 4, 3))
	out.Reset()
	require.NoError(t, png.Encode(&out, colourful))
	_, _, err = ReadHeights(&out)
	assert.ErrorIs(t, err, ErrNoHeights)
	out.Reset()
	require.NoError(t, jpeg.Encode(&out, grey, nil))
	_, _, err = ReadHeights(&out)
	assert.ErrorIs(t, err, ErrNoHeights)
	_, _, err = ReadHeights(strings.NewReader(""))
	assert.ErrorIs(t, err, ErrNoHeights)
	_, _, err = ReadHeights(strings.NewReader("\x89PNG\r\n\x1a\n\xff\xff\xff\xff"))
	assert.Error(t, err)
}

func FuzzReadHeights(f *testing.F) {
	var out bytes.Buffer
	_ = png.Encode(&out, image.NewGray16(image.Rect(0, 0, 3, 2)))
	f.Add(out.Bytes())
	f.Add([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x04tEXtmm_p"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		h, _, err := ReadHeights(bytes.NewReader(raw))
		if err == nil {
			require.Len(t, h.MM, h.NX*h.NY)
		}
	})
}

// The body is closed, its triangles face outward, and it holds the volume that
// the craft says: summed as a mesh, by the divergence theorem.
func TestTheReliefIsAClosedBody(t *testing.T) {
	solid, err := plan(t, 20, 16).Sheet.Field.Solid(8, 1)
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, WriteSTL(&out, solid, "PK-01"))
	raw := out.Bytes()
	n := int(binary.LittleEndian.Uint32(raw[80:]))
	require.Equal(t, solid.Triangles(), n)
	require.Len(t, raw, 84+50*n)
	edges, volume := map[string]int{}, 0.0
	for i := range n {
		var p [3][3]float64
		for c := range 3 {
			for k := range 3 {
				p[c][k] = float64(math.Float32frombits(binary.LittleEndian.Uint32(raw[84+50*i+12+12*c+4*k:])))
			}
		}
		a, b, c := p[0], p[1], p[2]
		volume += (a[0]*(b[1]*c[2]-b[2]*c[1]) + a[1]*(b[2]*c[0]-b[0]*c[2]) + a[2]*(b[0]*c[1]-b[1]*c[0])) / 6
		for k := range 3 {
			edges[fmt.Sprint(p[k], p[(k+1)%3])]++
			edges[fmt.Sprint(p[(k+1)%3], p[k])]--
		}
	}
	for e, count := range edges {
		require.Zero(t, count, "an edge without its other side: %s", e)
	}
	assert.InDelta(t, solid.Volume(), volume, 1e-3*solid.Volume())
	assert.Positive(t, volume)
}

// A mm of the drawing is a mm of the piece, every stroke and press is there,
// and words cannot break out of it.
func TestThePlanIsDrawnAtTrueSize(t *testing.T) {
	p := plan(t, 120, 80)
	var out bytes.Buffer
	require.NoError(t, WriteTextureSVG(&out, p, true))
	svg := out.String()
	assert.Contains(t, svg, `width="120.000mm" height="106.000mm" viewBox="0 0 120.000 106.000"`)
	assert.Contains(t, svg, "Neck &amp; jaw &lt;scaled&gt;")
	assert.Contains(t, svg, "h50M2", "a bar of 50 mm")
	assert.Contains(t, svg, "h50.8M2", "and one of 2 in on Letter")
	assert.Equal(t, p.Work.Presses, strings.Count(svg, `class="press"`))
	assert.Equal(t, p.Work.Spots, strings.Count(svg, `class="spot"`))
	assert.Equal(t, p.Work.Strokes, strings.Count(svg, `class="cracks"`))
	assert.Equal(t, 1, strings.Count(svg, `class="guide"`))
	assert.Contains(t, svg, ">S1A<")
	dec := xml.NewDecoder(strings.NewReader(svg))
	for {
		if _, err := dec.Token(); err != nil {
			require.ErrorContains(t, err, "EOF")
			break
		}
	}
	out.Reset()
	require.NoError(t, WriteTextureSVG(&out, p, false))
	assert.NotContains(t, out.String(), "h50.8")
}

func TestThePlanIsTiledOverPages(t *testing.T) {
	for page, c := range map[string]struct {
		w, h   float64
		sheets int
	}{"A4": {250, 300, 2}, "Letter": {400, 300, 4}} {
		size, err := texture.PaperOf(page)
		require.NoError(t, err)
		p := plan(t, c.w, c.h)
		tiles := size.Tile(c.w, c.h)
		require.Equal(t, c.sheets, tiles.Across*tiles.Down)
		var out bytes.Buffer
		require.NoError(t, WriteTexturePDF(&out, p, size))
		r, err := pdf.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
		require.NoError(t, err)
		assert.Greater(t, r.NumPage(), c.sheets, "the work plan follows")
		box := r.Page(1).V.Key("MediaBox")
		if box.Len() == 0 { // as every page of the document
			box = r.Page(1).V.Key("Parent").Key("MediaBox")
		}
		w, h := box.Index(2).Float64()*25.4/72, box.Index(3).Float64()*25.4/72
		if tiles.Landscape {
			w, h = h, w
		}
		assert.InDelta(t, size.W, w, 0.1)
		assert.InDelta(t, size.H, h, 0.1)
		text, err := r.Page(1).GetPlainText(nil)
		require.NoError(t, err)
		assert.Contains(t, text, fmt.Sprintf("sheet 1 of %d", c.sheets))
		assert.Contains(t, text, "check the bar")
		assert.Equal(t, page == "Letter", strings.Contains(text, "2 in"))
		last, err := r.Page(c.sheets + 1).GetPlainText(nil)
		require.NoError(t, err)
		assert.Contains(t, last, "Work, in this order")
		assert.Contains(t, last, "Row 1, 8.9 mm")
	}
}

func TestThePlanAsATable(t *testing.T) {
	p := plan(t, 60, 40)
	p.Work.Steps[0].Text = "=1+1"
	var out bytes.Buffer
	require.NoError(t, WritePlanCSV(&out, p.Work))
	rows, err := csv.NewReader(&out).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 1+len(p.Work.Steps))
	assert.Equal(t, "'=1+1", rows[1][1], "no formula")
	assert.Len(t, rows[0], 9)
}

func TestTheReliefAsAPicture(t *testing.T) {
	p := plan(t, 30, 20)
	var out bytes.Buffer
	require.NoError(t, WriteShaded(&out, p.Sheet.Field, texture.Raking))
	img, err := png.Decode(&out)
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 60, 40), img.Bounds())
	assert.Equal(t, p.Sheet.Field.Shade(10, 0, texture.Raking), img.(*image.Gray).GrayAt(10, 39).Y, "the lowest row is at the foot")
}
