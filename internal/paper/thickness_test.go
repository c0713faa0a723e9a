package paper

import (
	"bytes"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/scan"
)

// slab is a square of 20 mm seen from the front, 3 mm thick on its right half.
func slab() Surface {
	s := scan.Shown{Layers: [][]float32{{}}}
	nan := float32(math.NaN())
	for y := range 3 {
		for x := range 3 {
			s.V = append(s.V, float32(10*x), float32(10*y), 0)
			s.Layers[0] = append(s.Layers[0], map[bool]float32{true: nan, false: 3}[x == 0])
		}
	}
	for y := range uint32(2) {
		for x := range uint32(2) {
			a := y*3 + x
			s.F = append(s.F, a, a+1, a+4, a, a+4, a+3)
		}
	}
	return Surface{Shown: s, View: "front", Eps: 0.15, Thin: 0.8}
}

func TestMarksAreNumberedWhereTheyCanBeSeen(t *testing.T) {
	bare := slab().Render()
	marked := slab()
	marked.Marks = []SurfaceMark{{At: scan.Vec{10, 10, 0}, Core: true}}
	img := marked.Render()
	assert.Equal(t, [4]uint8{122, 70, 128, 255}, [4]uint8(img.Pix[img.PixOffset(flatWide/2-12, flatHigh/2-6):][:4]), "heather for the core")
	hidden := slab()
	hidden.Marks = []SurfaceMark{{At: scan.Vec{10, 10, -40}}}
	assert.Equal(t, bare.Pix, hidden.Render().Pix, "it lies behind")
	face, err := numerals()
	require.NoError(t, err)
	assert.NotNil(t, face)
}

func TestTheThicknessMapSaysWhatToLookAt(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, WriteThicknessMap(&out, ThicknessMap{
		Code: "AL-01", Title: "Thickness over the core", Note: "AL-01-finished.ply", Surface: slab(), MostMM: 3,
		Figures: [][2]string{{"Mean, median, most", "2.5 mm"}}, Places: []string{"core contact, 0.5 cm²"},
	}))
	r := open(t, out.Bytes())
	text := words(t, r)
	assert.Contains(t, text, "AL-01")
	assert.Contains(t, text, "1 core contact, 0.5 cm²")
	assert.Contains(t, text, "under 0.8")
	assert.Equal(t, 1, r.NumPage())
}
