package demo

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
)

// ground is a picture's height over its pixels.
type ground struct {
	w, h   int
	height []float64
}

// undulating is skin or stone, softly up and down.
func undulating(rng *rand.Rand, w, h int) ground {
	g := ground{w, h, make([]float64, w*h)}
	// It waves slowly: every eighth pixel is worked out, those between lie between.
	const step = 8
	cw, ch := w/step+2, h/step+2
	coarse := make([]float64, cw*ch)
	for range 26 {
		fx, fy, ph := rng.Float64()*0.05, rng.Float64()*0.05, rng.Float64()*6
		for i := range coarse {
			coarse[i] += 0.5 * math.Sin(float64(i%cw*step)*fx+float64(i/cw*step)*fy+ph)
		}
	}
	for i := range g.height {
		x, y := i%w, i/w
		k, u, v := y/step*cw+x/step, float64(x%step)/step, float64(y%step)/step
		g.height[i] = (1-v)*((1-u)*coarse[k]+u*coarse[k+1]) + v*((1-u)*coarse[k+cw]+u*coarse[k+cw+1])
	}
	return g
}

// within calls f for the pixels round a place, with their distance in radii and
// their direction.
func (g ground) within(cx, cy, r float64, f func(at int, d, angle float64)) {
	for y := max(0, int(cy-r)); y <= min(g.h-1, int(cy+r)); y++ {
		for x := max(0, int(cx-r)); x <= min(g.w-1, int(cx+r)); x++ {
			dx, dy := float64(x)-cx, float64(y)-cy
			f(y*g.w+x, math.Hypot(dx, dy)/r, math.Atan2(dy, dx))
		}
	}
}

// shells are barnacles that thin out downwind.
func (g ground) shells(rng *rand.Rand) {
	for range 420 {
		density := rng.Float64()
		cx, cy := density*density*float64(g.w)*0.95, rng.Float64()*float64(g.h)
		r := 5 + 13*rng.Float64()*(1-density*0.6)
		g.within(cx, cy, r, func(at int, d, angle float64) {
			ridges := 0.12 * math.Cos(9*angle)
			switch {
			case d < 0.32:
				g.height[at] = -2
			case d < 1:
				g.height[at] = math.Max(g.height[at], 9*(1-d)*(1+ridges))
			}
		})
	}
}

// scales lie in rows, each over the one before, smaller to the right.
func (g ground) scales(rng *rand.Rand) {
	for cx := float64(g.w); cx > 0; {
		r := float64(g.h) * (0.012 + 0.036*(1-cx/float64(g.w)))
		for cy, row := 0.0, int(cx); cy < float64(g.h)+r; cy += 1.5 * r {
			y := cy + 0.75*r*float64(row%2) + 0.1*r*rng.Float64()
			g.within(cx+0.1*r*rng.Float64(), y, r, func(at int, d, angle float64) {
				if d < 1 && math.Cos(angle) > -0.75 {
					g.height[at] = 1.1*r*(1-d*d)*0.3 + 0.6*r*d*math.Max(0, math.Cos(angle))
				}
			})
		}
		cx -= 0.8 * r
	}
}

// plates are bark: long ridges along the grain with cracks between them.
func (g ground) plates(rng *rand.Rand) {
	a, b := rng.Float64()*6, rng.Float64()*6
	for i := range g.height {
		x, y := float64(i%g.w), float64(i/g.w)
		ridge := math.Sin(x/9+2.4*math.Sin(y/83+x/61+a)+1.1*math.Sin(y/47-x/37+b)+1.6*math.Sin(x/97+a)) + 0.4*math.Sin(x/23+y/57)
		broken := math.Pow(math.Abs(math.Sin(y/71+1.7*math.Sin(x/43+b))), 18)
		g.height[i] += 5*math.Sqrt(math.Abs(ridge))*(1+0.15*math.Sin(y/6+x/17)) - 4*broken
	}
}

// wrinkles are fine cracks across a hand, as salt leaves them.
func (g ground) wrinkles(rng *rand.Rand) {
	a := rng.Float64() * 6
	for i := range g.height {
		x, y := float64(i%g.w), float64(i/g.w)
		g.height[i] -= 3 * math.Pow(math.Abs(math.Sin(y/11+0.9*math.Sin(x/29+a)+0.3*math.Sin(x/7))), 14)
		g.height[i] -= 2 * math.Pow(math.Abs(math.Sin(x/19+1.1*math.Sin(y/31))), 18)
	}
}

// textures are what grows on each character.
var textures = map[string]func(ground, *rand.Rand){"BF": ground.shells, "PK": ground.scales, "FT": ground.scales, "AL": ground.plates, "NM": ground.wrinkles}

// pictured draws an invented picture of what grows on a piece's character, in low
// light, so that the demo needs nobody's photograph.
func pictured(code string, seed uint64, w, h int, base color.RGBA) ([]byte, error) {
	return grown(code, seed, w, h).lit(base)
}

func grown(code string, seed uint64, w, h int) ground {
	rng := rand.New(rand.NewPCG(seed, 11))
	g := undulating(rng, w, h)
	if grow := textures[code[:2]]; grow != nil {
		grow(g, rng)
	}
	return g
}

// lit is the ground under a low lamp, as a PNG.
func (g ground) lit(base color.RGBA) ([]byte, error) { return asPNG(g.shaded(base)) }

// asPNG writes a picture fast: what is noise packs little however long one tries.
func asPNG(img image.Image) ([]byte, error) {
	var buf bytes.Buffer
	err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&buf, img)
	return buf.Bytes(), err
}

// shaded is the ground under a low lamp.
func (g ground) shaded(base color.RGBA) *image.RGBA {
	w, h, height := g.w, g.h, g.height
	img := image.NewRGBA(image.Rect(0, 0, w, h))
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
	return img
}
