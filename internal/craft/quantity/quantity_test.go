package quantity

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/refusal"
)

func TestWhatPeopleTypeIsUnderstood(t *testing.T) {
	for _, c := range []struct {
		text    string
		kind    Kind
		density float64
		want    float64
	}{
		{"350g", Mass, 0, 350},
		{"350", Mass, 0, 350},
		{"1.5 kg", Mass, 0, 1500},
		{"1,5 kg", Mass, 0, 1500},
		{"2 oz", Mass, 0, 56.69904625},
		{"1 lb", Mass, 0, 453.59237},
		{"1/4 tsp", Volume, 0, 1.25},
		{"¼ tsp", Volume, 0, 1.25},
		{"1½ tbsp", Volume, 0, 22.5},
		{"1 1/2 cups", Volume, 0, 360},
		{"12 drops", Volume, 0, 0.6},
		{"12 drops", Mass, 1.1, 0.66},
		{"2 tbsp", Mass, 0.96, 28.8},
		{"108 g", Volume, 1.08, 100},
		{"1/4 in", Length, 0, 6.35},
		{"0.2 mm", Length, 0, 0.2},
		{"34 cm²", Area, 0, 34},
		{"212 °F", Temperature, 0, 100},
		{"-5 C", Temperature, 0, -5},
		{"20 min", Duration, 0, 1200},
		{"1.5 h", Duration, 0, 5400},
	} {
		t.Run(c.text, func(t *testing.T) {
			q, err := Parse(c.text, c.kind, c.density, "amount")
			require.NoError(t, err)
			assert.InDelta(t, c.want, q.Value, 1e-9)
			assert.Equal(t, c.text, q.Text)
		})
	}
}

func TestNonsenseIsRefusedAtTheField(t *testing.T) {
	for text, code := range map[string]string{
		"": refusal.Missing, "generous": refusal.NotAQuantity, "12 blobs": refusal.NotAQuantity,
		"1/0 g": refusal.NotAQuantity, "1,500 g": refusal.Ambiguous, "-3 g": refusal.OutOfRange,
		"3 mm": refusal.WrongUnit, "2 tbsp": refusal.WrongUnit, "1e99 g": refusal.NotAQuantity,
		"99999999999 kg": refusal.OutOfRange, "3 4 g": refusal.NotAQuantity, "1.2.3 g": refusal.NotAQuantity, "NaN g": refusal.NotAQuantity,
	} {
		_, err := Parse(text, Mass, 0, "amount")
		var r *refusal.Error
		require.ErrorAs(t, err, &r, text)
		assert.Equal(t, code, r.Code, text)
		assert.Equal(t, "amount", r.Field)
		assert.NotEmpty(t, r.Detail)
	}
}

func TestMassAndVolumeAreInverse(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		grams := rapid.Float64Range(0.001, 1e6).Draw(t, "grams")
		density := rapid.Float64Range(0.1, 3).Draw(t, "density")
		v, err := Parse(fmt.Sprintf("%f g", grams), Volume, density, "v")
		require.NoError(t, err)
		back, err := Parse(fmt.Sprintf("%.12f ml", v.Value), Mass, density, "m")
		require.NoError(t, err)
		assert.InDelta(t, grams, back.Value, 1e-6*math.Max(1, grams))
	})
}

func TestAmountsAreShownAsPeopleReadThem(t *testing.T) {
	assert.Equal(t, "0.35 g", FormatMass(0.351))
	assert.Equal(t, "58.4 g", FormatMass(58.42))
	assert.Equal(t, "1.25 kg", FormatMass(1250))
	assert.Equal(t, "45 s", FormatDuration(45))
	assert.Equal(t, "3 h 50", FormatDuration(3*3600+50*60))
	assert.Equal(t, "4 h", FormatDuration(4*3600))
	assert.Equal(t, "2 d 4 h", FormatDuration(52*3600))
	assert.InDelta(t, 37.8, Tenth(37.75), 1e-12)
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"350g", "1/4 tsp", "12 drops", "2 oz", "1.5 kg", "½", "1½ in", "1,5", "1,500", "-2 c", "..", "//", "g", "\xff"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, k := range []Kind{Mass, Volume, Length, Area, Temperature, Duration} {
			q, err := Parse(s, k, 1.05, "x")
			if err != nil {
				var r *refusal.Error
				if !assert.ErrorAs(t, err, &r) || r.Field != "x" || r.Code == "" {
					t.Fatalf("a refusal without field or code: %v", err)
				}
				continue
			}
			if math.IsNaN(q.Value) || math.IsInf(q.Value, 0) || (k != Temperature && q.Value < 0) {
				t.Fatalf("%q gave %v", s, q.Value)
			}
		}
	})
}
