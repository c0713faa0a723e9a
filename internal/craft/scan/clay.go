package scan

import "context"

// Laid is the part of a sculpt that is not bare core: the faces with a place
// further than eps from the core, and those within margin mm of them (the land
// that a mould closes on). It is what a mould goes round and has to leave. A
// sculpt that lies nowhere off its core gives the whole of it.
func Laid(ctx context.Context, core, sculpt *Mesh, eps, margin float64) (*Mesh, error) {
	tree, err := newTree(ctx, core)
	if err != nil {
		return nil, err
	}
	off := make([]bool, len(sculpt.V))
	near := eps * eps
	if err := eachRunCtx(ctx, len(sculpt.V), 1024, func(_, from, to int) {
		stack := make([]int32, 0, 128)
		for i := from; i < to; i++ {
			_, within := tree.nearestPlace(sculpt.V[i], near, stack)
			off[i] = !within
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
