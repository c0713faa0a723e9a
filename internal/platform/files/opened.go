package files

import (
	"encoding/binary"
	"image"
	"image/color"
	"io"
)

// openedBytes is how much memory decoding a picture takes at most, from what
// its head says; r stands at its beginning.
func openedBytes(r io.Reader, kind string, size image.Config) int64 {
	pixels := int64(size.Width) * int64(size.Height)
	switch kind {
	case "image/jpeg":
		// Turned upright and into sRGB it is held a second time, 4 bytes each.
		return pixels*4 + int64(float64(pixels)*jpegBytes(r))
	case "image/png":
		each := int64(4)
		switch size.ColorModel {
		case color.RGBA64Model, color.NRGBA64Model:
			each = 8
		case color.Gray16Model:
			each = 2
		}
		// An interlaced one is put together from passes, half as much again.
		return pixels*each + pixels*each/2
	default:
		return pixels * 8 // WebP: planes of luma and chroma, alpha, and the picture
	}
}

// jpegBytes is how many bytes a pixel a JPEG takes while it is decoded: its
// samples, and four times that again when it is progressive, since then all
// coefficients are kept until the end.
func jpegBytes(r io.Reader) float64 {
	const most = 4 * 5 // four whole components, progressive
	head := make([]byte, 2)
	if _, err := io.ReadFull(r, head); err != nil {
		return most
	}
	for {
		mark := make([]byte, 4)
		if _, err := io.ReadFull(r, mark); err != nil || mark[0] != 0xFF {
			return most
		}
		length := int64(binary.BigEndian.Uint16(mark[2:])) - 2
		if mark[1] < 0xC0 || mark[1] > 0xC2 { // the three frames that Go reads
			if _, err := io.CopyN(io.Discard, r, length); err != nil {
				return most
			}
			continue
		}
		frame := make([]byte, max(0, length))
		if _, err := io.ReadFull(r, frame); err != nil || len(frame) < 6 || len(frame) < 6+3*int(frame[5]) {
			return most
		}
		whole, widest, tallest := 0, 1, 1
		for i := range int(frame[5]) {
			h, v := int(frame[7+3*i]>>4), int(frame[7+3*i]&15)
			whole, widest, tallest = whole+h*v, max(widest, h), max(tallest, v)
		}
		samples := float64(whole) / float64(widest*tallest)
		if mark[1] == 0xC2 {
			return samples * 5
		}
		return samples
	}
}
