package demo

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
)

// barnacles draws an invented reference: wet stone grown over with barnacles
// that thin out downwind. It is our own picture, so that the demo needs
// nobody's photograph.
func barnacles(seed uint64, w, h int, base color.RGBA) ([]byte, error) {
	rng := rand.New(rand.NewPCG(seed, 11))
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	height := make([]float64, w*h)
	for range 26 {
		fx, fy, ph := rng.Float64()*0.05, rng.Float64()*0.05, rng.Float64()*6
		for i := range height {
			x, y := float64(i%w), float64(i/w)
			height[i] += 0.5 * math.Sin(x*fx+y*fy+ph)
		}
	}
	for range 420 {
		density := rng.Float64()
		cx, cy := density*density*float64(w)*0.95, rng.Float64()*float64(h)
		r := 5 + 13*rng.Float64()*(1-density*0.6)
		for y := int(cy - r); y <= int(cy+r); y++ {
			for x := int(cx - r); x <= int(cx+r); x++ {
				if x < 0 || y < 0 || x >= w || y >= h {
					continue
				}
				d := math.Hypot(float64(x)-cx, float64(y)-cy) / r
				ridges := 0.12 * math.Cos(9*math.Atan2(float64(y)-cy, float64(x)-cx))
				switch {
				case d < 0.32:
					height[y*w+x] = -2
				case d < 1:
					height[y*w+x] = math.Max(height[y*w+x], 9*(1-d)*(1+ridges))
				}
			}
		}
	}
	for y := range h {
		for x := range w {
			dx := height[y*w+min(x+1, w-1)] - height[y*w+max(x-1, 0)]
			dy := height[min(y+1, h-1)*w+x] - height[max(y-1, 0)*w+x]
			light := 0.72 - 0.22*dx - 0.14*dy + 0.02*height[y*w+x]
			light = math.Max(0.08, math.Min(1.25, light))
			shade := func(c uint8) uint8 { return uint8(math.Min(255, float64(c)*light)) }
			img.SetRGBA(x, y, color.RGBA{shade(base.R), shade(base.G), shade(base.B), 255})
		}
	}
	var buf bytes.Buffer
	err := png.Encode(&buf, img)
	return buf.Bytes(), err
}
