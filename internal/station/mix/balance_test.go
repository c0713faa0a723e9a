package mix_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"
)

// Whatever hands do at the bench – too much, too little, a part poured twice, a weight
// put right, somebody else going on – the books hold what the cup holds, and in the
// end the ratio is the recipe's.
func TestTheBooksHoldWhatTheCupHoldsWhateverHandsDo(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	recipes := []string{"silicone-soft", "blood-aged", "latex-paste", "wax-soft", "foam-latex", "gelatin"}
	for seed, slug := range recipes {
		t.Run(slug, func(t *testing.T) {
			chance := rand.New(rand.NewPCG(uint64(seed), 7))
			v := byRecipe(b, slug, nil)
			path := "/api/mixes/" + v.Code
			for i := 0; v.Current != 0; i++ {
				require.Less(t, i, 200, "it comes to an end")
				line := lineAt(v)
				if line == nil {
					next(b, &v, usual(&v))
					continue
				}
				who := []string{"ivo", "maud"}[chance.IntN(2)]
				confirm := []string{}
				for _, n := range v.Follows.Confirm {
					confirm = append(confirm, n.Code)
				}
				grams := line.AddG * []float64{1, 1, 0.5, 1.04, 1.15, 0.9}[chance.IntN(6)]
				if grams < 0.01 {
					grams = line.AddG
				}
				b.As[who].Yes("POST", path+"/weigh", m{"seq": line.Seq, "key": shoptest.Key(), "typed": fmt.Sprintf("%.4f g", grams), "confirmed": confirm}, &v)
				if chance.IntN(8) == 0 && v.State == "weighing" {
					in := v.Lines[chance.IntN(len(v.Lines))]
					if in.InCupG > 1 && !in.TopUp {
						b.As[who].Yes("POST", path+"/put-right", m{"seq": in.Seq, "typed": fmt.Sprintf("%.4f g", in.InCupG*0.98), "reason": "read wrong"}, &v)
					}
				}
			}
			parts, inCup := map[string]float64{}, 0.0
			for _, l := range v.Lines {
				inCup += l.InCupG
				parts[l.Ingredient] = l.InCupG
				if !l.TopUp {
					assert.InDelta(t, l.TargetG, l.InCupG, l.TolG+1e-6, "%s is in its ratio", l.Name)
				}
			}
			booked := b.Float(`SELECT COALESCE(SUM(-v.grams), 0) FROM movement v JOIN weigh_in w ON w.id = v.weigh_in_id JOIN mix_line n ON n.id = w.mix_line_id JOIN mix x ON x.id = n.mix_id WHERE x.code = ?`, v.Code)
			tap := b.Float(`SELECT COALESCE(SUM(w.grams), 0) FROM weigh_in w JOIN mix_line n ON n.id = w.mix_line_id JOIN mix x ON x.id = n.mix_id WHERE x.code = ? AND n.lot_id IS NULL`, v.Code)
			assert.InDelta(t, inCup, booked+tap, 1e-3)
		})
	}
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM (SELECT SUM(grams) AS g FROM movement GROUP BY lot_id) s WHERE g < -0.00005`), "no lot below nothing")
	assert.InDelta(t, b.Float(`SELECT SUM(value_minor) FROM movement`), b.Float(`SELECT SUM(minor) FROM stock_value`), 1e-9)
}

func lineAt(v mix.View) *mix.Line {
	for i := range v.Lines {
		if v.Lines[i].Seq == v.Current {
			return &v.Lines[i]
		}
	}
	return nil
}
