package form

import "math"

// grid is a surface as a net of points over map coordinates u, v. Between its
// points it is bilinear.
type grid struct {
	nu, nv         int
	u0, u1, v0, v1 float64
	// wraps is true when the first and the last column are the same line on
	// the body: u then goes on beyond its ends.
	wraps bool
	p     []Vec
	// skin is above 0 where the net lies on skin and not beside a hand; nil is
	// skin everywhere.
	skin []float64
}

func (g *grid) uAt(i int) float64 { return g.u0 + (g.u1-g.u0)*float64(i)/float64(g.nu-1) }
func (g *grid) vAt(j int) float64 { return g.v0 + (g.v1-g.v0)*float64(j)/float64(g.nv-1) }

// cell finds the cell of a place and where in it the place is. Places outside
// the net are held at its rim.
func (g *grid) cell(u, v float64) (k int, fu, fv float64) {
	x := (u - g.u0) / (g.u1 - g.u0) * float64(g.nu-1)
	if g.wraps {
		x = math.Mod(x, float64(g.nu-1))
		if x < 0 {
			x += float64(g.nu - 1)
		}
	}
	y := (v - g.v0) / (g.v1 - g.v0) * float64(g.nv-1)
	x = math.Max(0, math.Min(float64(g.nu-1), x))
	y = math.Max(0, math.Min(float64(g.nv-1), y))
	i, j := min(int(x), g.nu-2), min(int(y), g.nv-2)
	return j*g.nu + i, x - float64(i), y - float64(j)
}

func (g *grid) at(u, v float64) Vec {
	k, fu, fv := g.cell(u, v)
	return g.p[k].lerp(g.p[k+1], fu).lerp(g.p[k+g.nu].lerp(g.p[k+g.nu+1], fu), fv)
}

// between is the bilinear value of a field that is known at the net's points.
func (g *grid) between(field []float64, u, v float64) float64 {
	k, fu, fv := g.cell(u, v)
	return (field[k]*(1-fu)+field[k+1]*fu)*(1-fv) + (field[k+g.nu]*(1-fu)+field[k+g.nu+1]*fu)*fv
}

func (g *grid) isSkin(u, v float64) bool { return g.skin == nil || g.between(g.skin, u, v) > 0 }

// slopes are the derivatives of the place by u and v, in mm per unit of the
// map, over one step of the net to either side.
func (g *grid) slopes(u, v float64) (byU, byV Vec) {
	du, dv := (g.u1-g.u0)/float64(g.nu-1), (g.v1-g.v0)/float64(g.nv-1)
	lo, hi := u-du, u+du
	if !g.wraps {
		lo, hi = math.Max(lo, g.u0), math.Min(hi, g.u1)
	}
	byU = g.at(hi, v).sub(g.at(lo, v)).scale(1 / (hi - lo))
	lo, hi = math.Max(v-dv, g.v0), math.Min(v+dv, g.v1)
	byV = g.at(u, hi).sub(g.at(u, lo)).scale(1 / (hi - lo))
	return byU, byV
}
