package form

import (
	"math"
	"sync"
)

// The template of head, face and neck is a blend of a few dozen rounded
// bodies, described by a signed distance; its surface is found once along a
// family of rays that sweeps from the crown to the collar without crossing
// itself. Sizes are adult means, in mm; they only start the fit to a wearer's
// own measurements.

func ellipsoid(p, c, r Vec) float64 {
	q := p.sub(c)
	a := Vec{q.X / r.X, q.Y / r.Y, q.Z / r.Z}
	k0 := a.length()
	if k0 < 1e-9 {
		return -math.Min(r.X, math.Min(r.Y, r.Z))
	}
	k1 := Vec{a.X / r.X, a.Y / r.Y, a.Z / r.Z}.length()
	return k0 * (k0 - 1) / k1
}

func capsule(p, a, b Vec, ra, rb float64) float64 {
	ab, ap := b.sub(a), p.sub(a)
	t := math.Max(0, math.Min(1, ap.dot(ab)/ab.dot(ab)))
	return p.Distance(a.lerp(b, t)) - (ra + (rb-ra)*t)
}

// join unites two bodies with a fillet about k wide.
func join(a, b, k float64) float64 {
	h := math.Max(k-math.Abs(a-b), 0) / k
	return math.Min(a, b) - h*h*k/4
}

// carve takes b out of a with a rounded rim.
func carve(a, b, k float64) float64 { return -join(-a, b, k) }

// Where the template's features stand; landmarks and outlines use them too.
const (
	browY, eyeY, baseY, mouthY, chinY = 22.0, 4.0, -40.0, -63.0, -106.0
	pupilX                            = 31.5
)

// headDistance is negative inside the template. It is the same for x and −x.
func headDistance(p Vec) float64 {
	p.X = math.Abs(p.X)
	d := ellipsoid(p, Vec{0, 35, -10}, Vec{75, 82, 97})
	d = join(d, ellipsoid(p, Vec{0, -30, 20}, Vec{52, 72, 64}), 34)
	d = join(d, ellipsoid(p, Vec{48, -14, 42}, Vec{17, 14, 27}), 18) // cheekbone
	d = join(d, ellipsoid(p, Vec{29, -46, 58}, Vec{19, 24, 19}), 22) // cheek
	d = join(d, ellipsoid(p, Vec{43, -66, 8}, Vec{9, 17, 19}), 16)   // corner of the jaw
	d = join(d, ellipsoid(p, Vec{0, -52, 70}, Vec{24, 24, 19}), 18)  // over the teeth
	d = join(d, ellipsoid(p, Vec{0, -89, 66}, Vec{23, 17, 20}), 16)  // chin
	d = join(d, capsule(p, Vec{10, browY, 81}, Vec{42, browY + 1, 66}, 8, 6), 12)
	d = carve(d, ellipsoid(p, Vec{pupilX + 1, eyeY - 1, 93}, Vec{19, 12, 20}), 10)
	d = join(d, ellipsoid(p, Vec{pupilX, eyeY, 64}, Vec{14, 11, 14}), 3) // lids over the eye
	d = carve(d, capsule(p, Vec{pupilX - 12, eyeY - 1, 82}, Vec{pupilX + 13, eyeY - 1, 74}, 1.2, 1), 2)
	d = join(d, capsule(p, Vec{0, 12, 83}, Vec{0, -26, 102}, 6, 8.5), 12)
	d = join(d, ellipsoid(p, Vec{0, -30, 101}, Vec{10, 9, 10}), 9)  // tip of the nose
	d = join(d, ellipsoid(p, Vec{11.5, -34, 91}, Vec{7, 7, 11}), 6) // wing
	d = join(d, ellipsoid(p, Vec{0, -58, 87}, Vec{22, 5, 7}), 5)    // upper lip
	d = join(d, ellipsoid(p, Vec{0, -68, 85}, Vec{18, 6, 7}), 5)    // lower lip
	d = carve(d, capsule(p, Vec{0, mouthY, 97}, Vec{25, mouthY, 85}, 2, 1.2), 3)
	d = carve(d, capsule(p, Vec{0, -79, 92}, Vec{12, -79, 88}, 4, 3), 8) // above the chin
	d = join(d, earDistance(p), 9)
	d = join(d, capsule(p, Vec{0, -40, -26}, Vec{0, -215, -38}, 51, 57), 20)
	d = join(d, capsule(p, Vec{0, -110, 18}, Vec{0, -128, 18}, 9, 8), 18) // larynx
	d = join(d, capsule(p, Vec{20, -196, -40}, Vec{84, -226, -42}, 34, 26), 40)
	return d
}

func earDistance(p Vec) float64 {
	// The ear leans back and out; it is drawn low so that no ray misses its back.
	q := p.sub(Vec{75, -6, -14})
	s, c := math.Sincos(0.22)
	q = Vec{q.X, q.Y*c - q.Z*s, q.Y*s + q.Z*c}
	shell := ellipsoid(q, Vec{0, 0, 0}, Vec{9, 31, 18})
	bowl := ellipsoid(q, Vec{9, -5, 5}, Vec{7, 15, 9})
	return carve(shell, bowl, 5)
}

// Map coordinates of the head: u runs round it from −100 (middle of the back,
// wearer's right) over 0 (front) to 100, v from 0 (crown) to 100 (collar).
// Round the face the rows of u stand closer than at the back.
const ballShare = 0.70 // v up to which rays spread from the head's middle

func azimuth(u float64) float64 {
	s := u / 100
	return math.Pi * s * (0.55 + 0.45*s*s)
}

// uOf is the inverse of azimuth, for rad in −π…π.
func uOf(rad float64) float64 {
	lo, hi := -100.0, 100.0
	for range 60 {
		mid := (lo + hi) / 2
		if azimuth(mid) < rad {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2
}

// headRay is the ray of a place: from within, outward.
func headRay(u, v float64) (origin, direction Vec) {
	az, t := azimuth(u), v/100
	origin = Vec{0, 0, -8}
	var rise float64 // tangent of the elevation; +Inf is straight up
	if t < ballShare {
		elevation := math.Pi/2 - t/ballShare*(math.Pi/2+math.Pi/4)
		s, c := math.Sincos(elevation)
		return origin, Vec{c * math.Sin(az), s, c * math.Cos(az)}
	}
	k := (t - ballShare) / (1 - ballShare)
	origin = Vec{0, -176 * k, -8 - 26*k}
	rise = -1 + 0.88*k
	n := math.Hypot(1, rise)
	return origin, Vec{math.Sin(az) / n, rise / n, math.Cos(az) / n}
}

// surface finds the outermost crossing on a ray.
func surface(distance func(Vec) float64, origin, direction Vec) Vec {
	const far = 260.0
	t, last := far, far
	for t > 0 {
		d := distance(origin.add(direction.scale(t)))
		if d <= 0 {
			break
		}
		last = t
		t -= math.Max(0.25, 0.8*d)
	}
	lo, hi := math.Max(t, 0), last
	for range 30 {
		mid := (lo + hi) / 2
		if distance(origin.add(direction.scale(mid))) <= 0 {
			lo = mid
		} else {
			hi = mid
		}
	}
	return origin.add(direction.scale((lo + hi) / 2))
}

const headColumns, headRows = 241, 241

// headTemplate is worked out once: half of it, and mirrored.
var headTemplate = sync.OnceValue(func() grid {
	g := grid{nu: headColumns, nv: headRows, u0: -100, u1: 100, v0: 0, v1: 100, wraps: true}
	g.p = make([]Vec, g.nu*g.nv)
	middle := g.nu / 2
	var busy sync.WaitGroup
	for lane := range 4 {
		busy.Go(func() {
			for j := lane; j < g.nv; j += 4 {
				for i := middle; i < g.nu; i++ {
					origin, direction := headRay(g.uAt(i), g.vAt(j))
					at := surface(headDistance, origin, direction)
					if i == middle || i == g.nu-1 {
						at.X = 0
					}
					g.p[j*g.nu+i] = at
					g.p[j*g.nu+g.nu-1-i] = Vec{-at.X, at.Y, at.Z}
				}
			}
		})
	}
	busy.Wait()
	return g
})
