package form

import (
	"math"
	"sync"
)

// landmarks are the named places of a part, found once on its template: the
// point of the surface that is nearest to where the feature was modelled.
func landmarks(part string) map[string]Point {
	switch part {
	case "hand":
		return handPlaces()
	case "forearm":
		return map[string]Point{"elbow": {0, 0}, "wrist": {0, 100}}
	case "belly":
		return map[string]Point{"ribs": {0, 0}, "hip": {0, 100}, "navel": {0, 55}}
	default:
		return headPlaces()
	}
}

func nearest(g *grid, to Vec) Point {
	best, at := math.Inf(1), Point{}
	for j := range g.nv {
		for i := range g.nu {
			if d := g.p[j*g.nu+i].Distance(to); d < best && (g.skin == nil || g.skin[j*g.nu+i] > 0) {
				best, at = d, Point{g.uAt(i), g.vAt(j)}
			}
		}
	}
	return at
}

var headPlaces = sync.OnceValue(func() map[string]Point {
	g := headTemplate()
	out := map[string]Point{"crown": {0, 0}, "collar": {0, 100}}
	for name, at := range map[string]Vec{"nose_root": {0, 10, 92}, "nose_tip": {0, -29, 112}, "nose_base": {0, baseY - 3, 95}, "chin": {0, chinY, 76}, "lips": {0, mouthY, 92}, "larynx": {0, -122, 34}, "back": {0, 20, -108}} {
		p := nearest(&g, at)
		p.U = 0
		if name == "back" {
			p.U = 100
		}
		out[name] = p
	}
	for name, at := range map[string]Vec{
		"pupil": {pupilX, eyeY, 80}, "inner_eye": {17, eyeY - 1, 78}, "outer_eye": {46, eyeY, 70}, "brow_in": {12, browY, 90}, "brow_out": {46, browY + 3, 72},
		"wing": {19, -35, 90}, "nostril": {6.5, -41, 98}, "mouth": {25, mouthY, 82}, "cheekbone": {67, -12, 38}, "jaw": {54, -66, 10},
		"side": {75, 40, -12}, "temple": {62, 22, 48}, "ear": {82, -8, -8}, "ear_canal": {76, -10, 2}, "ear_top": {78, 25, -20}, "ear_lobe": {76, -37, -8},
	} {
		p := nearest(&g, at)
		out[name+"_L"], out[name+"_R"] = p, Point{-p.U, p.V}
	}
	return out
})

var handPlaces = sync.OnceValue(func() map[string]Point {
	g := handTemplate()
	out := map[string]Point{}
	for name, at := range map[string]Vec{
		"wrist": {0, 0, 15}, "tip_middle": {7, 188.5, 0}, "tip_index": {30, 169, 0}, "tip_ring": {-16, 174, 0}, "tip_little": {-38, 145, 0}, "tip_thumb": {66, 94, 0},
		"knuckle_index": {24, 97, 9}, "knuckle_middle": {6, 101, 9}, "knuckle_ring": {-12, 98, 9}, "knuckle_little": {-29, 88, 8}, "middle": {0, 55, 15},
	} {
		out[name] = nearest(&g, at)
	}
	return out
})

// rings are the closed lines along which a tape lies: the places of the
// template at one height.
func rings(part string) map[string][]Point {
	switch part {
	case "head":
		return headRings()
	case "forearm":
		return map[string][]Point{"forearm": ringAt(15), "wrist": ringAt(97)}
	case "belly":
		return map[string][]Point{"waist": ringAt(55)}
	}
	return nil
}

func ringAt(v float64) []Point {
	ring := make([]Point, 180)
	for i := range ring {
		ring[i] = Point{-100 + 200*float64(i)/180, v}
	}
	return ring
}

var headRings = sync.OnceValue(func() map[string][]Point {
	g := headTemplate()
	level := func(y, from, to float64) []Point {
		ring := make([]Point, 0, g.nu-1)
		for i := range g.nu - 1 {
			u, lo, hi := g.uAt(i), from, to // y falls as v grows
			for range 40 {
				mid := (lo + hi) / 2
				if g.at(u, mid).Y > y {
					lo = mid
				} else {
					hi = mid
				}
			}
			ring = append(ring, Point{u, (lo + hi) / 2})
		}
		return ring
	}
	return map[string][]Point{"head": level(38, 5, 60), "neck": level(-145, 72, 100)}
})
