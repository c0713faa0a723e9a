package check

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"testing"

	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/finish/compare"
)

// BenchmarkTwoPicturesOf1600Compared is what "Measure" does: both pictures read as they are
// shown, laid over each other by five landmarks, and their colours compared every 4 mm of a
// face. Asked: 3 s.
func BenchmarkTwoPicturesOf1600Compared(b *testing.B) {
	img := image.NewRGBA(image.Rect(0, 0, 1600, 1200))
	for y := range 1200 {
		for x := range 1600 {
			img.SetRGBA(x, y, color.RGBA{uint8(x / 8), uint8(y / 6), uint8((x ^ y) & 0x7f), 255})
		}
	}
	var raw bytes.Buffer
	require.NoError(b, jpeg.Encode(&raw, img, nil))
	mm := 160.0
	shot := Shot{Width: 1600, Height: 1200, About: About{MMAcross: &mm}}
	for name, p := range map[string][2]float64{"brow": {0.05, 0.05}, "chin": {0.5, 0.95}, "ear": {0.95, 0.4}, "nose": {0.5, 0.5}, "jaw": {0.1, 0.9}} {
		shot.About.Marks = append(shot.About.Marks, Landmark{Name: name, X: p[0], Y: p[1]})
	}
	for _, g := range []float64{52, 85, 118, 160, 200} {
		shot.About.Fields = append(shot.About.Fields, CardField{Is: [3]float64{g, g, g}, Seen: [3]float64{g * 0.95, g, g * 0.9}})
	}
	for b.Loop() {
		one, err := jpeg.Decode(bytes.NewReader(raw.Bytes()))
		require.NoError(b, err)
		two, err := jpeg.Decode(bytes.NewReader(raw.Bytes()))
		require.NoError(b, err)
		m := Measured{Mode: compare.Reference}
		asked := compare.Asked{Grade: "full", Mode: compare.Reference, MMPerUnit: 1}
		require.NoError(b, m.lay(shot, shot, &asked))
		back, ok := m.Move.Back()
		require.True(b, ok)
		asked.Tones, err = m.cells(b.Context(), one, two, shot, shot, back)
		require.NoError(b, err)
		if _, err := compare.Compare(asked); err != nil {
			b.Fatal(err)
		}
	}
}
