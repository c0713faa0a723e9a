package paper

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	"image/draw"
	"image/png"
	"io"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/ledongthuc/pdf"
	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func open(t *testing.T, raw []byte) *pdf.Reader {
	r, err := pdf.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	return r
}

// words is what stands on all pages, without the gaps between letters.
func words(t *testing.T, r *pdf.Reader) string {
	text, err := r.GetPlainText()
	require.NoError(t, err)
	raw, err := io.ReadAll(text)
	require.NoError(t, err)
	return strings.Join(strings.Fields(string(raw)), " ")
}

func sheet(copies int) Sheet {
	s := Sheet{Kit: "K-001", Production: "The Tallow Court", Artist: "Jun Abbot", Day: "Fri 23 Jan", Place: "quayside", Cautions: []string{"No latex of any kind."}}
	for i := range copies {
		s.Copies = append(s.Copies, SheetCopy{Code: fmt.Sprintf("BF-03-%c", 'a'+i), Name: "Left cheek", Where: "cheek", Layers: []string{"Skin barrier film", "Silicone gel, 5 mm"},
			Lots: []string{"Silicone gel A 24-117"}, Adhesive: "Acrylic adhesive", Remover: "Ester oil remover", Order: []string{"Degrease the skin.", "Centre first, then outwards."},
			Removal: []string{"Never peel it dry."}, TouchUps: []Swatch{{Name: "cheek red", Medium: "alcohol colour", Place: "rims", R: 140, G: 70, B: 60}}, Signed: []string{"EDG-1: far from the camera"}})
	}
	return s
}

func TestTheSheetSaysAllThatTheArtistNeeds(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, WriteSheet(&out, sheet(1)))
	text := words(t, open(t, out.Bytes()))
	for _, want := range []string{"K-001", "The Tallow Court", "Jun Abbot", "quayside", "No latex of any kind.", "BF-03-a", "Silicone gel, 5 mm", "24-117", "Acrylic adhesive", "Ester oil remover",
		"Degrease the skin.", "Centre first, then outwards.", "Never peel it dry.", "cheek red", "EDG-1: far from the camera"} {
		assert.Contains(t, text, want)
	}
}

func TestALongKitGoesOnOverPages(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, WriteSheet(&out, sheet(9)))
	r := open(t, out.Bytes())
	assert.Greater(t, r.NumPage(), 2)
	text := words(t, r)
	for i := range 9 {
		assert.Contains(t, text, fmt.Sprintf("BF-03-%c", 'a'+i))
	}
}

// The label's code is read as a phone reads it: from the dots in the file.
func TestTheLabelsCodeLeadsToTheKitsPage(t *testing.T) {
	for _, link := range []string{"https://yewmoor.test/artist/k2J9sd-0_AbCdEfGhIjKlMnOpQrStUv", "http://127.0.0.1:8480/artist/x"} {
		var out bytes.Buffer
		require.NoError(t, WriteLabel(&out, Label{Code: "K-001", Title: "The Tallow Court", Day: "Fri 23 Jan", Lines: []string{"For Jun Abbot"}, Link: link}))
		r := open(t, out.Bytes())
		require.Equal(t, 1, r.NumPage())
		assert.Contains(t, words(t, r), "For Jun Abbot")
		dots, err := gozxing.NewBinaryBitmapFromImage(embedded(t, out.Bytes()))
		require.NoError(t, err)
		read, err := qrcode.NewQRCodeReader().Decode(dots, nil)
		require.NoError(t, err)
		assert.Equal(t, link, read.GetText())
	}
}

var picture = regexp.MustCompile(`(?s)/Subtype /Image\s*/Width (\d+)\s*/Height (\d+)\s*/ColorSpace /(\w+).*?/BitsPerComponent (\d+).*?/Length (\d+)>>\s*stream\n`)

// embedded is the one picture of a PDF. Its data are a PNG's as they were, so
// they are made a PNG again, with a quiet zone round it.
func embedded(t *testing.T, raw []byte) image.Image {
	t.Helper()
	at := picture.FindSubmatchIndex(raw)
	require.NotNil(t, at, "a picture in the label")
	number := func(i int) int {
		n, err := strconv.Atoi(string(raw[at[2*i]:at[2*i+1]]))
		require.NoError(t, err)
		return n
	}
	kinds := map[string]byte{"DeviceGray": 0, "DeviceRGB": 2}
	head := binary.BigEndian.AppendUint32(nil, uint32(number(1)))
	head = append(binary.BigEndian.AppendUint32(head, uint32(number(2))), byte(number(4)), kinds[string(raw[at[6]:at[7]])], 0, 0, 0)
	file := []byte("\x89PNG\r\n\x1a\n")
	for _, chunk := range []struct {
		name string
		data []byte
	}{{"IHDR", head}, {"IDAT", raw[at[1] : at[1]+number(5)]}, {"IEND", nil}} {
		body := append([]byte(chunk.name), chunk.data...)
		file = binary.BigEndian.AppendUint32(file, uint32(len(chunk.data)))
		file = binary.BigEndian.AppendUint32(append(file, body...), crc32.ChecksumIEEE(body))
	}
	dots, err := png.Decode(bytes.NewReader(file))
	require.NoError(t, err)
	const quiet = 40
	paper := image.NewGray(dots.Bounds().Inset(-quiet))
	draw.Draw(paper, paper.Bounds(), image.White, image.Point{}, draw.Src)
	draw.Draw(paper, dots.Bounds(), dots, dots.Bounds().Min, draw.Src)
	return paper
}
