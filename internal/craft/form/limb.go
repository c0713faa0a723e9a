package form

import (
	"math"
	"sync"
)

// Hands are two low reliefs, the back and the palm, over the plane in which
// the hand lies flat; forearm and waist are tubes. All in mm.

type finger struct {
	x0, y0, x1, y1, r0, r1 float64
}

var fingers = []finger{
	{30, 30, 62, 86, 13, 9.5}, // thumb
	{24, 96, 30, 162, 9.8, 8}, {6, 101, 7, 181, 9.8, 8}, {-12, 98, -16, 167, 9.2, 7.6}, {-29, 88, -38, 139, 8.2, 6.6},
}

// handHeight is how high the skin stands over the plane; below 0 there is none.
func handHeight(x, y float64) float64 {
	lens := func(q float64) float64 { return 1 - math.Pow(math.Abs(q), 2.6) }
	wide := 29 + 13*ramp(y, 0, 85)
	z := 15 * lens((x+1)/wide) * (1 - ramp(y, 92, 122))
	if y > 112 {
		z = -1
	}
	for _, f := range fingers {
		dx, dy := f.x1-f.x0, f.y1-f.y0
		t := math.Max(0, math.Min(1, ((x-f.x0)*dx+(y-f.y0)*dy)/(dx*dx+dy*dy)))
		r := f.r0 + (f.r1-f.r0)*t
		d := math.Hypot(x-f.x0-t*dx, y-f.y0-t*dy)
		z = -join(-z, -0.9*r*lens(d/r), 3)
	}
	return z
}

const handTop, handFoot = 194.0, -14.0

var handTemplate = sync.OnceValue(func() grid {
	g := grid{nu: 176, nv: 209, u0: -50, u1: 50, v0: 0, v1: 100}
	g.p, g.skin = make([]Vec, g.nu*g.nv), make([]float64, g.nu*g.nv)
	for j := range g.nv {
		for i := range g.nu {
			x, y := g.uAt(i)*1.7, handTop+(handFoot-handTop)*g.vAt(j)/100
			z := handHeight(x, y)
			g.p[j*g.nu+i], g.skin[j*g.nu+i] = Vec{x, y, z}, z
		}
	}
	return g
})

func tube(nv int, height float64, radius func(az, t float64) float64) grid {
	g := grid{nu: 181, nv: nv, u0: -100, u1: 100, v0: 0, v1: 100, wraps: true}
	g.p = make([]Vec, g.nu*g.nv)
	for j := range g.nv {
		for i := range g.nu {
			az, t := math.Pi*g.uAt(i)/100, g.vAt(j)/100
			r := radius(az, t)
			g.p[j*g.nu+i] = Vec{r * math.Sin(az), height * (0.5 - t), r * math.Cos(az)}
		}
	}
	return g
}

// ellipse is the radius of an ellipse with half axes a (sideways) and b.
func ellipse(az, a, b float64) float64 {
	s, c := math.Sincos(az)
	return a * b / math.Hypot(b*s, a*c)
}

// The forearm's u is 0 on the outside (the side of the back of the hand); v
// runs from the elbow to the wrist.
var forearmTemplate = sync.OnceValue(func() grid {
	return tube(121, 245, func(az, t float64) float64 {
		swell := 5 * bell(t-0.22, 0.2)
		return ellipse(az, 41-13*ramp(t, 0.1, 1)+swell, 40-19*ramp(t, 0.1, 1)+swell)
	})
})

// The waist's u is 0 at the navel; v runs from under the ribs to the hip.
var bellyTemplate = sync.OnceValue(func() grid {
	return tube(121, 330, func(az, t float64) float64 {
		front := 16 * bell(az, 0.9) * bell(t-0.55, 0.28)
		return ellipse(az, 150+10*ramp(t, 0.5, 1), 104) + front
	})
})
