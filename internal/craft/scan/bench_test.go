package scan

import (
	"bytes"
	"context"
	"encoding/binary"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// grid is a sphere-like surface r(θ, φ), poles as single places, outward.
func grid(rows, columns int, r func(theta, phi float64) float64) *Raw {
	out := &Raw{Format: "made"}
	at := func(i, k int) int32 {
		if i == 0 {
			return 0
		}
		if i == rows {
			return 1
		}
		return int32(2 + (i-1)*columns + k%columns)
	}
	place := func(i, k int) Vec {
		theta, phi := math.Pi*float64(i)/float64(rows), 2*math.Pi*float64(k)/float64(columns)
		d := r(theta, phi)
		return Vec{d * math.Sin(theta) * math.Cos(phi), d * math.Sin(theta) * math.Sin(phi), d * math.Cos(theta)}
	}
	out.Points = append(out.Points, place(0, 0), place(rows, 0))
	for i := 1; i < rows; i++ {
		for k := range columns {
			out.Points = append(out.Points, place(i, k))
		}
	}
	for i := range rows {
		for k := range columns {
			a, b, c, d := at(i, k), at(i+1, k), at(i+1, k+1), at(i, k+1)
			if i < rows-1 {
				out.Faces = append(out.Faces, [3]int32{a, b, c})
			}
			if i > 0 {
				out.Faces = append(out.Faces, [3]int32{a, c, d})
			}
		}
	}
	return out
}

func binarySTL(r *Raw) []byte {
	out := make([]byte, 84, 84+50*r.Triangles())
	binary.LittleEndian.PutUint32(out[80:], uint32(r.Triangles()))
	for i := range r.Triangles() {
		var rec [50]byte
		a, b, c := r.corners(i)
		for k, p := range []Vec{a, b, c} {
			for x := range 3 {
				binary.LittleEndian.PutUint32(rec[12+12*k+4*x:], math.Float32bits(float32(p[x])))
			}
		}
		out = append(out, rec[:]...)
	}
	return out
}

func million() *Raw {
	return grid(500, 1000, func(t, p float64) float64 { return 100 + 5*math.Sin(7*t)*math.Cos(9*p) })
}

// The handbook's performance entries, for their values; the benchmarks below
// print their times.
func TestTheLargeSurfacesMeasureRight(t *testing.T) {
	raw := binarySTL(million())
	r, err := Read("big.stl", bytes.NewReader(raw), int64(len(raw)), 0)
	require.NoError(t, err)
	assert.Equal(t, 998_000, r.Triangles())
	assert.InDelta(t, 4196684.57090994, r.Measure().VolumeMM3, 0.0002*4196684.57)
	core := grid(224, 448, func(float64, float64) float64 { return 100 }).Weld()
	sculpt := grid(500, 500, func(t, p float64) float64 {
		return 100 + 4*(1+math.Cos(6*t))*(1+math.Sin(5*p)*math.Sin(t))/2
	}).Weld()
	assert.Equal(t, 499_000, len(sculpt.F))
	f, err := Measure(context.Background(), core, sculpt, Fit{})
	require.NoError(t, err)
	sum, weight := 0.0, 0.0
	for i, x := range f.T {
		sum, weight = sum+x*f.areas[i], weight+f.areas[i]
	}
	assert.InDelta(t, 1.9428571957301228, sum/weight, 0.005*1.94)
}

func BenchmarkMillionTriangles(b *testing.B) {
	raw := binarySTL(million())
	b.SetBytes(int64(len(raw)))
	for b.Loop() {
		r, err := Read("big.stl", bytes.NewReader(raw), int64(len(raw)), 0)
		require.NoError(b, err)
		r.Measure()
	}
}

func BenchmarkTopologyOfAMillion(b *testing.B) {
	r := million()
	for b.Loop() {
		m := r.Weld()
		m.Volumes(m.Topology())
	}
}

// A scan as it is looked at: read, connected and measured.
func BenchmarkLookAt870kTriangles(b *testing.B) {
	raw := binarySTL(grid(467, 933, func(t, p float64) float64 { return 100 + 5*math.Sin(7*t)*math.Cos(9*p) }))
	b.ReportAllocs()
	for b.Loop() {
		r, err := Read("big.stl", bytes.NewReader(raw), int64(len(raw)), 0)
		require.NoError(b, err)
		r.Measure()
		m := r.Weld()
		m.Volumes(m.Topology())
	}
}

func BenchmarkThickness(b *testing.B) {
	core := grid(224, 448, func(float64, float64) float64 { return 100 }).Weld()
	sculpt := grid(500, 500, func(t, p float64) float64 {
		return 100 + 4*(1+math.Cos(6*t))*(1+math.Sin(5*p)*math.Sin(t))/2
	}).Weld()
	coreTop, top := core.Topology(), sculpt.Topology()
	for b.Loop() {
		_, err := measure(context.Background(), core, coreTop, sculpt, top, Fit{Eps: 0.15, Back: 5, Max: 60, EdgeBand: 8, EdgeLimit: 0.1})
		require.NoError(b, err)
	}
}

func BenchmarkBestPull(b *testing.B) {
	sculpt := grid(500, 500, func(t, p float64) float64 {
		return 100 + 4*(1+math.Cos(6*t))*(1+math.Sin(5*p)*math.Sin(t))/2
	}).Weld()
	for _, mode := range []string{"one", "two"} {
		b.Run(mode, func(b *testing.B) {
			for b.Loop() {
				_, err := sculpt.Best(context.Background(), mode, 0)
				require.NoError(b, err)
			}
		})
	}
}

func readBytes(t *testing.T, raw []byte) *Raw {
	t.Helper()
	r, err := Read("made.stl", bytes.NewReader(raw), int64(len(raw)), 0)
	require.NoError(t, err)
	return r
}
