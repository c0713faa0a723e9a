package texture

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// One digest of every kind of layer, to a millionth of a mm: a plan is the same
// on every amd64 machine, whether its processor fuses products with sums or not
// (GOAMD64=v1 and v3 give these digests; only last bits of heights differ), and
// stays so from one version of the program to the next. When a rule is changed
// on purpose, the digests are changed with it, and plans that hands work by are
// agreed anew.
func TestPlansAreTheSameEverywhere(t *testing.T) {
	want := map[string]string{
		"hatch": "3b1cf0904a3ad1f8", "scales": "3c3c641c36ad82aa", "pores": "a4bdd6cbe892604e", "wrinkles": "bf11d0af1efe1232", "cracks": "a7479ef349095a75", "droplets": "6b8eb5f300de2d73", "bark": "c3ce79ec30c765ec", "barnacles": "86988689bf25d623", "rot": "e4fe46f0d30dba7c", "lines": "e5561f0095976c84",
	}
	for kind, digest := range want {
		l := Layer{Kind: kind}
		switch kind {
		case "hatch":
			l.Families = []Family{{Angle: 31, Spacing: Span{2, 3}, Jitter: 0.3, Wiggle: &Span{0.6, 20}, Bow: 4, Depth: 0.3, Width: 0.8}}
			l.Buff, l.Rescore = 0.2, &Rescore{3, 0.4, 0.5}
		case "scales":
			l.Stamps, l.Size = []Stamp{{ID: "S1", OD: 8, Squash: 0.8}, {ID: "S2", OD: 4, Squash: 0.8, SquashB: Ptr(0.6)}}, &Span{9, 4}
			l.RotJitter, l.PosJitter, l.Ends, l.Dome, l.Soften, l.Flow = 12, 0.1, "random", 0.2, Ptr(0.2), Ptr(0)
		case "lines":
			l.Along, l.Raise = []int{0, 1}, true
		}
		r := Recipe{Seed: 41, Region: Region{Preset: "cheek"}, PitchMM: Ptr(0.25), FeatherMM: 5, Layers: []Layer{l}, Guides: [][]P{{{-30, -20}, {0, -10}, {30, -22}}, {{-30, 20}, {0, 32}, {30, 18}}}}
		s, err := Make(context.Background(), r)
		require.NoError(t, err)
		sum := sha256.New()
		write := func(list ...float64) {
			for _, x := range list {
				_ = binary.Write(sum, binary.LittleEndian, int64(math.Round(1e6*x)))
			}
		}
		write(s.Field.Z...)
		for _, m := range s.Layers {
			for _, p := range m.Strokes {
				write(p.Length(), float64(p.Number))
			}
			for _, p := range m.Impressions {
				write(p.At[0], p.At[1], p.Turn, float64(p.Stamp), float64(p.End))
			}
			for _, p := range m.Spots {
				write(p.At[0], p.At[1], p.Diameter, p.Depth)
			}
		}
		assert.Equal(t, digest, fmt.Sprintf("%x", sum.Sum(nil))[:16], kind)
	}
}
