package files

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"os"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/problem"
)

// fullDisk takes a file's name and no byte of it: /dev/full answers every
// write as a disk without room does.
type fullDisk struct {
	*os.File
	name string
}

func (f fullDisk) Name() string { return f.name }

func picture(t testing.TB, w, h int) []byte {
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.SetRGBA(x, y, color.RGBA{uint8(x * 255 / w), uint8(y * 255 / h), 128, 255})
		}
	}
	var buf bytes.Buffer
	require.NoError(t, png.Encode(&buf, img))
	return buf.Bytes()
}

func store(t testing.TB) *Store {
	s, err := NewStore(filepath.Join(t.TempDir(), "files"))
	require.NoError(t, err)
	return s
}

func nothingTemporary(t *testing.T, s *Store) {
	for _, dir := range []string{s.dir, s.views()} {
		left, err := filepath.Glob(filepath.Join(dir, "in-*"))
		require.NoError(t, err)
		assert.Empty(t, left, "nothing temporary stays")
	}
}

func TestAFullDiskLeavesNothingHalfWritten(t *testing.T) {
	s := store(t)
	s.make = func(dir string) (temporary, error) {
		f, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
		return fullDisk{f, filepath.Join(dir, "in-1")}, err
	}
	_, err := s.Prepare(context.Background(), bytes.NewReader(picture(t, 40, 30)))
	assert.ErrorIs(t, err, syscall.ENOSPC)
	entries, err := os.ReadDir(s.dir)
	require.NoError(t, err)
	assert.Empty(t, entries)
}

func TestAPictureIsKeptAsItCameAndShownReduced(t *testing.T) {
	s := store(t)
	raw := picture(t, 2000, 1000)
	var p Prepared
	for range 2 {
		var err error
		p, err = s.Prepare(context.Background(), bytes.NewReader(raw))
		require.NoError(t, err)
	}
	assert.Equal(t, []int{2000, 1000}, []int{p.Width, p.Height})
	kept, err := os.ReadFile(s.path(p.name))
	require.NoError(t, err)
	assert.Equal(t, raw, kept)
	nothingTemporary(t, s)
	for _, width := range Widths {
		f, err := s.View(context.Background(), p.name, p.kind, width)
		require.NoError(t, err)
		size, err := jpeg.DecodeConfig(f)
		require.NoError(t, err)
		assert.Equal(t, []int{width, width / 2}, []int{size.Width, size.Height})
		require.NoError(t, f.Close())
	}
	require.NoError(t, os.RemoveAll(s.views()))
	f, err := s.View(context.Background(), p.name, p.kind, 480)
	require.NoError(t, err, "views are made again")
	require.NoError(t, f.Close())
	_, err = s.View(context.Background(), p.name, p.kind, 481)
	assert.Error(t, err)
}

func TestAPatchIsThePixelsThere(t *testing.T) {
	s := store(t)
	p, err := s.Prepare(context.Background(), bytes.NewReader(picture(t, 200, 100)))
	require.NoError(t, err)
	pixels, err := s.Patch(context.Background(), p.name, p.kind, 0.5, 0.25, 0.02)
	require.NoError(t, err)
	require.NotEmpty(t, pixels)
	var mean [3]float64
	for _, v := range pixels {
		for i := range mean {
			mean[i] += v[i] / float64(len(pixels))
		}
	}
	assert.InDelta(t, 127, mean[0], 2)
	assert.InDelta(t, 63, mean[1], 3)
	assert.InDelta(t, 128, mean[2], 0.1)
}

func TestAPhoneHeldUprightStandsUpright(t *testing.T) {
	var buf bytes.Buffer
	require.NoError(t, jpeg.Encode(&buf, image.NewRGBA(image.Rect(0, 0, 80, 40)), nil))
	// The same file with the mark that a camera makes when it was turned by 90°.
	exif := []byte("\xff\xe1\x00\x22Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00")
	turned := append(append(append([]byte{}, buf.Bytes()[:2]...), exif...), buf.Bytes()[2:]...)
	p, err := store(t).Prepare(context.Background(), bytes.NewReader(turned))
	require.NoError(t, err)
	assert.Equal(t, []int{40, 80}, []int{p.Width, p.Height})
}

func TestWrongAndHostileFilesAreRefused(t *testing.T) {
	s := store(t)
	good := picture(t, 300, 200)
	bomb := append([]byte{}, good...)
	copy(bomb[16:], []byte{0, 1, 0x86, 0xa0, 0, 1, 0x86, 0xa0}) // 100 000 by 100 000, says its head
	var jpg bytes.Buffer
	require.NoError(t, jpeg.Encode(&jpg, image.NewRGBA(image.Rect(0, 0, 400, 300)), nil))
	for name, c := range map[string]struct {
		raw  []byte
		code string
	}{
		"empty":                   {nil, "wrong_type"},
		"a page that calls home":  {[]byte("<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>"), "wrong_type"},
		"a program":               {[]byte("MZ\x90\x00 and more of it"), "wrong_type"},
		"a film":                  {append([]byte("GIF89a"), make([]byte, 600)...), "wrong_type"},
		"cut off":                 {good[:len(good)/2], "broken"},
		"a head and nothing":      {good[:60], "broken"},
		"a JPEG cut off":          {jpg.Bytes()[:len(jpg.Bytes())/3], "broken"},
		"more pixels than memory": {bomb, "broken"},
	} {
		_, err := s.Prepare(context.Background(), bytes.NewReader(c.raw))
		var p *problem.Problem
		require.ErrorAs(t, err, &p, name)
		assert.Equal(t, "file", p.Field, name)
		if name != "more pixels than memory" { // its checksum is wrong as well: either no will do
			assert.Equal(t, c.code, p.Code, name)
		}
		assert.Contains(t, p.Detail, "Nothing was stored", name)
	}
	nothingTemporary(t, s)
	entries, err := os.ReadDir(s.dir)
	require.NoError(t, err)
	assert.Empty(t, entries)
}

func BenchmarkFortyMegapixels(b *testing.B) {
	s := store(b)
	img := image.NewYCbCr(image.Rect(0, 0, 7744, 5184), image.YCbCrSubsampleRatio420)
	for i := range img.Y {
		img.Y[i] = uint8(i * 7 / 5)
	}
	var buf bytes.Buffer
	require.NoError(b, jpeg.Encode(&buf, img, nil))
	for b.Loop() {
		if _, err := s.Prepare(context.Background(), bytes.NewReader(buf.Bytes())); err != nil {
			b.Fatal(err)
		}
	}
}
