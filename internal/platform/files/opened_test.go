package files

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/problem"
)

// blank is a PNG that claims a size, with as many rows of nothing as it claims.
func blank(t *testing.T, w, h int, bits, kind byte, rows int64) []byte {
	t.Helper()
	var out bytes.Buffer
	out.WriteString("\x89PNG\r\n\x1a\n")
	chunk := func(name string, data []byte) {
		require.NoError(t, binary.Write(&out, binary.BigEndian, uint32(len(data))))
		body := append([]byte(name), data...)
		out.Write(body)
		require.NoError(t, binary.Write(&out, binary.BigEndian, crc32.ChecksumIEEE(body)))
	}
	head := make([]byte, 13)
	binary.BigEndian.PutUint32(head, uint32(w))
	binary.BigEndian.PutUint32(head[4:], uint32(h))
	head[8], head[9] = bits, kind
	chunk("IHDR", head)
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	_, err := io.CopyN(z, zeros{}, rows)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	chunk("IDAT", packed.Bytes())
	chunk("IEND", nil)
	return out.Bytes()
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

// A file of 62 kB took gigabytes.
func TestAPictureThatClaimsTooMuchIsNotOpened(t *testing.T) {
	s := store(t)
	for name, raw := range map[string][]byte{
		"64 million in a row":  blank(t, 64_000_000, 1, 8, 0, 64_000_001),
		"8000 by 8000, 16 bit": blank(t, 8000, 8000, 16, 6, 1<<20),
		"7000 by 7000, 16 bit": blank(t, 7000, 7000, 16, 6, 1<<20),
	} {
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		_, err := s.Prepare(t.Context(), bytes.NewReader(raw))
		runtime.ReadMemStats(&after)
		var p *problem.Problem
		if assert.ErrorAs(t, err, &p, name) {
			assert.Equal(t, "too_large", p.Code, name)
		}
		assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(8<<20), "%s: nothing of it was opened", name)
	}
}

func TestWhatAPictureTakesIsKnownFromItsHead(t *testing.T) {
	var buf bytes.Buffer
	require.NoError(t, jpeg.Encode(&buf, image.NewYCbCr(image.Rect(0, 0, 64, 48), image.YCbCrSubsampleRatio420), nil))
	size := image.Config{Width: 64, Height: 48}
	// Luma, a quarter of either chroma, and the upright copy of four bytes.
	assert.InDelta(t, 64*48*5.5, openedBytes(bytes.NewReader(buf.Bytes()), "image/jpeg", size), 1)
	assert.InDelta(t, 64*48*(4+20), openedBytes(bytes.NewReader(buf.Bytes()[:3]), "image/jpeg", size), 1, "of a broken head the worst is reckoned with")
	size.ColorModel = color.NRGBA64Model
	assert.Equal(t, int64(64*48*12), openedBytes(nil, "image/png", size))
}
