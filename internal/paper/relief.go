package paper

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/png"
	"io"
	"math"
	"strconv"
	"strings"

	"yewmoor/internal/craft/texture"
)

// WriteHeights writes a height field as a 16-bit grey PNG: 32768 is height 0,
// the size of a pixel stands in pHYs, and what a count means in text chunks.
// Row 0 of the picture is the top.
func WriteHeights(w io.Writer, f *texture.Field, seed uint64) error {
	step, err := f.CountMM()
	if err != nil {
		return err
	}
	img := image.NewGray16(image.Rect(0, 0, f.NX, f.NY))
	for j := range f.NY {
		for i := range f.NX {
			img.SetGray16(i, f.NY-1-j, color.Gray16{Y: texture.Count(f.Z[j*f.NX+i], step)})
		}
	}
	var buf bytes.Buffer
	if err := png.Encode(&buf, img); err != nil {
		return err
	}
	// After the signature and IHDR, whose length is fixed.
	const head = 8 + 25
	raw := buf.Bytes()
	if _, err := w.Write(raw[:head]); err != nil {
		return err
	}
	perM := uint32(math.Round(1000 / f.H))
	phys := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, perM), perM)
	chunks := []struct {
		kind string
		data []byte
	}{{"pHYs", append(phys, 1)}}
	for _, t := range [][2]string{
		{"mm_per_pixel", strconv.FormatFloat(f.H, 'g', -1, 64)}, {"mm_per_count", strconv.FormatFloat(step, 'g', -1, 64)},
		{"zero_count", strconv.Itoa(texture.ZeroCount)}, {"seed", strconv.FormatUint(seed, 10)},
	} {
		chunks = append(chunks, struct {
			kind string
			data []byte
		}{"tEXt", []byte(t[0] + "\x00" + t[1])})
	}
	for _, c := range chunks {
		out := binary.BigEndian.AppendUint32(nil, uint32(len(c.data)))
		out = append(append(out, c.kind...), c.data...)
		out = binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(out[4:]))
		if _, err := w.Write(out); err != nil {
			return err
		}
	}
	_, err = w.Write(raw[head:])
	return err
}

// HeightsAbout is what a height field says of itself; 0 where it says nothing.
type HeightsAbout struct {
	MMPerPixel, MMPerCount float64
	Zero                   float64
}

// ErrNoHeights is a picture that is no height field.
var ErrNoHeights = errors.New("no grey PNG")

// maxHeights is the most pixels of a height field that is brought in.
const maxHeights = 1 << 24

// ReadHeights reads a height field: a grey PNG of 8 or 16 bits. Where it does
// not say what a count means, its whole range is 1 mm about its middle.
func ReadHeights(r io.Reader) (*texture.Heights, HeightsAbout, error) {
	raw, err := io.ReadAll(io.LimitReader(r, 64<<20))
	if err != nil {
		return nil, HeightsAbout{}, err
	}
	about := HeightsAbout{}
	if err := pngChunks(raw, func(kind string, data []byte) {
		switch kind {
		case "pHYs":
			if len(data) == 9 && data[8] == 1 && binary.BigEndian.Uint32(data) > 0 && about.MMPerPixel == 0 {
				about.MMPerPixel = 1000 / float64(binary.BigEndian.Uint32(data))
			}
		case "tEXt":
			key, value, _ := strings.Cut(string(data), "\x00")
			v, err := strconv.ParseFloat(value, 64)
			if err != nil || !(v > 0) || math.IsInf(v, 0) {
				return
			}
			switch key {
			case "mm_per_pixel":
				about.MMPerPixel = v
			case "mm_per_count":
				about.MMPerCount = v
			case "zero_count":
				about.Zero = v
			}
		}
	}); err != nil {
		return nil, about, err
	}
	size, err := png.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return nil, about, err
	}
	if size.ColorModel != color.Gray16Model && size.ColorModel != color.GrayModel || size.Width*size.Height > maxHeights {
		return nil, about, ErrNoHeights
	}
	img, err := png.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil, about, err
	}
	b := img.Bounds()
	h := &texture.Heights{NX: b.Dx(), NY: b.Dy(), MM: make([]float32, b.Dx()*b.Dy())}
	perCount, zero := about.MMPerCount, about.Zero
	most := 65535.0
	if size.ColorModel == color.GrayModel {
		most = 255
	}
	if perCount == 0 {
		perCount = 1 / most
	}
	if zero == 0 {
		zero = math.Ceil(most / 2)
	}
	for y := range h.NY {
		for x := range h.NX {
			var v float64
			switch p := img.(type) {
			case *image.Gray16:
				v = float64(p.Gray16At(b.Min.X+x, b.Min.Y+y).Y)
			case *image.Gray:
				v = float64(p.GrayAt(b.Min.X+x, b.Min.Y+y).Y)
			}
			h.MM[(h.NY-1-y)*h.NX+x] = float32((v - zero) * perCount)
		}
	}
	return h, about, nil
}

// pngChunks walks the chunks before the picture's data.
func pngChunks(raw []byte, f func(kind string, data []byte)) error {
	if len(raw) < 8 || string(raw[1:4]) != "PNG" {
		return ErrNoHeights
	}
	for at := 8; at+12 <= len(raw); {
		n := int(binary.BigEndian.Uint32(raw[at:]))
		kind := string(raw[at+4 : at+8])
		if n < 0 || at+12+n > len(raw) || kind == "IDAT" {
			return nil
		}
		f(kind, raw[at+8:at+8+n])
		at += 12 + n
	}
	return nil
}

// WriteShaded writes a relief in raking light as an 8-bit PNG.
func WriteShaded(w io.Writer, f *texture.Field, l texture.Light) error {
	img := image.NewGray(image.Rect(0, 0, f.NX, f.NY))
	for j := range f.NY {
		for i := range f.NX {
			img.SetGray(i, f.NY-1-j, color.Gray{Y: f.Shade(i, j, l)})
		}
	}
	return png.Encode(w, img)
}

// WriteSTL writes a relief as a closed body, binary STL in mm.
func WriteSTL(w io.Writer, s texture.Solid, name string) error {
	out := bufio.NewWriterSize(w, 1<<16)
	head := make([]byte, 84)
	copy(head, "Yewmoor relief "+name)
	binary.LittleEndian.PutUint32(head[80:], uint32(s.Triangles()))
	if _, err := out.Write(head); err != nil {
		return err
	}
	top := func(i, j int) [3]float32 {
		return [3]float32{float32(float64(i) * s.HMM), float32(float64(j) * s.HMM), float32(s.Base + s.Z[j*s.NX+i])}
	}
	foot := func(i, j int) [3]float32 { p := top(i, j); p[2] = 0; return p }
	var rec [50]byte
	tri := func(a, b, c [3]float32) {
		u, v := [3]float32{b[0] - a[0], b[1] - a[1], b[2] - a[2]}, [3]float32{c[0] - a[0], c[1] - a[1], c[2] - a[2]}
		n := [3]float64{float64(u[1]*v[2] - u[2]*v[1]), float64(u[2]*v[0] - u[0]*v[2]), float64(u[0]*v[1] - u[1]*v[0])}
		l := math.Sqrt(n[0]*n[0] + n[1]*n[1] + n[2]*n[2])
		if l == 0 {
			l = 1
		}
		at := 0
		put := func(x float32) {
			binary.LittleEndian.PutUint32(rec[at:], math.Float32bits(x))
			at += 4
		}
		for _, x := range n {
			put(float32(x / l))
		}
		for _, p := range [][3]float32{a, b, c} {
			for _, x := range p {
				put(x)
			}
		}
		_, _ = out.Write(rec[:]) // Flush tells
	}
	quad := func(a, b, c, d [3]float32) { tri(a, b, c); tri(a, c, d) }
	for j := range s.NY - 1 {
		for i := range s.NX - 1 {
			quad(top(i, j), top(i+1, j), top(i+1, j+1), top(i, j+1))
			quad(foot(i, j), foot(i, j+1), foot(i+1, j+1), foot(i+1, j))
		}
	}
	for i := range s.NX - 1 {
		quad(foot(i, 0), foot(i+1, 0), top(i+1, 0), top(i, 0))
		quad(foot(i+1, s.NY-1), foot(i, s.NY-1), top(i, s.NY-1), top(i+1, s.NY-1))
	}
	for j := range s.NY - 1 {
		quad(foot(0, j+1), foot(0, j), top(0, j), top(0, j+1))
		quad(foot(s.NX-1, j), foot(s.NX-1, j+1), top(s.NX-1, j+1), top(s.NX-1, j))
	}
	if err := out.Flush(); err != nil {
		return fmt.Errorf("writing the relief: %w", err)
	}
	return nil
}
