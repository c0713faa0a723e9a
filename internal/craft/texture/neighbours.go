package texture

import (
	"math"
)

// bins find neighbours: places in squares, each square a chain.
type bins struct {
	places []P
	grid   cells
}

func newBins(places []P, side float64) bins {
	s := newShape([]ring{places})
	c := cells{u0: s.x0, v0: s.y0, side: max(side, math.Sqrt((s.x1-s.x0)*(s.y1-s.y0)/maxCandidates), (s.x1-s.x0)/1e6, (s.y1-s.y0)/1e6, 1e-9)}
	c.nu, c.nv = int((s.x1-s.x0)/c.side)+3, int((s.y1-s.y0)/c.side)+3
	c.first = make([]int32, c.nu*c.nv)
	c.next = make([]int32, 0, len(places))
	for i, p := range places {
		c.put(p[0], p[1], int32(i))
	}
	return bins{places, c}
}

type neighbour struct {
	i int
	d float64
}

// nearest puts the nearest others into out, as many as it has room for,
// nearest first, and returns those that were found. Squares are looked at ring
// by ring until no further one can hold a nearer place.
func (b bins) nearest(i int, out []neighbour) []neighbour {
	p := b.places[i]
	ci, cj := b.grid.of(p[0], p[1])
	n := 0
	for ring := 0; ring < max(b.grid.nu, b.grid.nv); ring++ {
		for y := max(0, cj-ring); y <= min(b.grid.nv-1, cj+ring); y++ {
			step := 1
			if ring > 0 && y != cj-ring && y != cj+ring {
				step = 2 * ring // only the ring's two ends
			}
			for x := ci - ring; x <= ci+ring; x += step {
				if x < 0 || x >= b.grid.nu {
					continue
				}
				for o := b.grid.first[y*b.grid.nu+x]; o > 0; o = b.grid.next[o-1] {
					if int(o-1) == i {
						continue
					}
					d := apart(p, b.places[o-1])
					if n == len(out) && !closer(d, int(o-1), out[n-1]) {
						continue
					}
					if n < len(out) {
						n++
					}
					k := n - 1
					for ; k > 0 && closer(d, int(o-1), out[k-1]); k-- {
						out[k] = out[k-1]
					}
					out[k] = neighbour{int(o - 1), d}
				}
			}
		}
		if n == len(out) && out[n-1].d <= float64(ring)*b.grid.side {
			break
		}
	}
	return out[:n]
}

// closer orders by distance, then by number, so that ties fall alike always.
func closer(d float64, i int, than neighbour) bool {
	return d < than.d || d == than.d && i < than.i
}

// spread is about how far places stand apart.
func spread(places []P) float64 {
	s := newShape([]ring{places})
	return math.Sqrt((s.x1 - s.x0) * (s.y1 - s.y0) / float64(len(places)))
}
