package scan

import (
	"context"
	"math"
)

// Laid is the part of a sculpt that is not bare core: the faces with a place
// that stands further than eps out of the core or beside it, and those within
// margin mm of them (the land that a mould closes on). It is what a mould goes
// round and has to leave. What lies sunk in the core is the core, scanned a
// little off. A sculpt that stands nowhere out of its core gives the whole of it.
func Laid(ctx context.Context, core, sculpt *Mesh, eps, margin float64) (*Mesh, error) {
	tree, err := newTree(ctx, core)
	if err != nil {
		return nil, err
	}
	off := make([]bool, len(sculpt.V))
	edge := newRim(core, core.Topology())
	if err := eachRunCtx(ctx, len(sculpt.V), 1024, func(_, from, to int) {
		stack := make([]int32, 0, 128)
		for i := from; i < to; i++ {
			c, _ := tree.nearestPlace(sculpt.V[i], math.Inf(1), stack)
			f := core.F[c.face]
			n := core.V[f[1]].sub(core.V[f[0]]).cross(core.V[f[2]].sub(core.V[f[0]]))
			off[i] = c.d2 > eps*eps && (edge.has(core, c) || sculpt.V[i].sub(c.q).dot(n) > 0)
		}
	}); err != nil {
		return nil, err
	}
	clay := sculpt.part(func(f [3]int32) bool { return off[f[0]] || off[f[1]] || off[f[2]] })
	if len(clay.F) == 0 || len(clay.F) == len(sculpt.F) {
		return sculpt, nil
	}
	if tree, err = newTree(ctx, clay); err != nil {
		return nil, err
	}
	land := make([]bool, len(sculpt.V))
	if err := eachRunCtx(ctx, len(sculpt.V), 1024, func(_, from, to int) {
		stack := make([]int32, 0, 128)
		for i := from; i < to; i++ {
			_, land[i] = tree.nearestPlace(sculpt.V[i], margin*margin, stack)
		}
	}); err != nil {
		return nil, err
	}
	return sculpt.part(func(f [3]int32) bool { return land[f[0]] && land[f[1]] && land[f[2]] }), nil
}

// part is the faces that keep says yes to, with their places.
func (m *Mesh) part(keep func(f [3]int32) bool) *Mesh {
	out := &Mesh{Box: emptyBox()}
	at := make([]int32, len(m.V))
	for i := range at {
		at[i] = -1
	}
	for _, f := range m.F {
		if !keep(f) {
			continue
		}
		var g [3]int32
		for k, v := range f {
			if at[v] < 0 {
				at[v] = int32(len(out.V))
				out.V = append(out.V, m.V[v])
				out.Box.take(m.V[v])
			}
			g[k] = at[v]
		}
		out.F = append(out.F, g)
	}
	return out
}

// Open tells whether a surface has an edge.
func (m *Mesh) Open() bool { return !m.Topology().Watertight }
