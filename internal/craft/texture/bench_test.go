package texture

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"testing"

	"github.com/stretchr/testify/require"
)

func benchRecipe(b testing.TB) Recipe {
	raw, err := os.ReadFile("testdata/texture.json")
	require.NoError(b, err)
	var file struct {
		Performance []struct{ Recipe Recipe }
	}
	require.NoError(b, json.Unmarshal(raw, &file))
	return file.Performance[0].Recipe
}

// BenchmarkRecipeToNumbers is the handbook's performance case (section 8:
// recipe to height field and all numbers, 1024², within 250 ms on two cores)
// and how it grows with the grid.
func BenchmarkRecipeToNumbers(b *testing.B) {
	for _, side := range []int{256, 512, 1024, 2048, 4096} {
		b.Run(fmt.Sprintf("%d²", side), func(b *testing.B) {
			r := benchRecipe(b)
			pitch := 102.4 / float64(side)
			r.PitchMM = &pitch
			for b.Loop() {
				s, err := Make(context.Background(), r)
				require.NoError(b, err)
				_, err = s.Judge(context.Background())
				require.NoError(b, err)
			}
		})
	}
}
