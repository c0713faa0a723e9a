package wear

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"yewmoor/internal/craft/wearmap"
)

// The second way: the psychrometer's equation, solved by halving.
func psychrometer(tempC, rh float64) float64 {
	es := func(t float64) float64 { return 6.112 * math.Exp(17.62*t/(243.12+t)) }
	lo, hi := -20.0, tempC
	for range 60 {
		mid := (lo + hi) / 2
		if es(mid)-0.000662*1013.25*(tempC-mid) < rh*es(tempC) {
			lo = mid
		} else {
			hi = mid
		}
	}
	return lo
}

func TestWetBulbAgainstThePsychrometer(t *testing.T) {
	assert.InDelta(t, 13.7, WetBulb(20, 0.5), 0.05, "the paper's own example")
	rapid.Check(t, func(t *rapid.T) {
		temp, rh := rapid.Float64Range(2, 42).Draw(t, "temp"), rapid.Float64Range(0.2, 0.98).Draw(t, "rh")
		assert.InDelta(t, psychrometer(temp, rh), WetBulb(temp, rh), 1, "its error is given as −1 to +0.65 K")
	})
}

func TestHeatRisesWithAirAndDamp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := Day{TempC: rapid.Float64Range(15, 40).Draw(t, "t"), RH: rapid.Float64Range(0.1, 0.8).Draw(t, "rh"), Sun: rapid.Bool().Draw(t, "sun")}
		hot, wet := d, d
		hot.TempC++
		wet.RH += 0.1
		assert.Greater(t, Heat(hot), Heat(d))
		assert.Greater(t, Heat(wet), Heat(d))
	})
	// The simplified outdoor form's published table: 30 °C at 50 % gives 29.
	assert.InDelta(t, 29.3, Heat(Day{TempC: 30, RH: 0.5, Sun: true}), 0.5)
	assert.Less(t, Heat(Day{TempC: 30, RH: 0.5}), Heat(Day{TempC: 30, RH: 0.5, Sun: true}))
}

func share(region string, cm2, covered, moving float64) wearmap.Share {
	return wearmap.Share{Region: region, Text: region, CM2: cm2, CoveredCM2: covered, MovingCM2: moving}
}

func free() wearmap.Result {
	return wearmap.Result{Sight: "both", Hearing: "both", Breath: "nose and mouth"}
}

func TestFinishFollowsWhatIsSeen(t *testing.T) {
	shares := []wearmap.Share{share("cheek", 40, 0, 0), share("neck", 100, 100, 0), share("shoulder", 20, 20, 4)}
	grade := func(c Conditions) []string {
		var out []string
		for _, g := range Grades(c, shares) {
			out = append(out, g.Grade)
			assert.NotEmpty(t, g.Why)
			assert.InDelta(t, g.CM2*2.4/60, g.HoursH+g.SavedH, 0.11)
		}
		return out
	}
	assert.Equal(t, []string{"full", "hidden", "full"}, grade(Conditions{Camera: "close"}), "what lies under a moving edge shows now and then")
	assert.Equal(t, []string{"good", "hidden", "good"}, grade(Conditions{Camera: "medium"}))
	assert.Equal(t, []string{"plain", "hidden", "good"}, grade(Conditions{Camera: "medium", Backdrop: "dark"}))
	assert.Equal(t, []string{"plain", "hidden", "plain"}, grade(Conditions{Camera: "far"}))
}

func TestCheckInsAndCooling(t *testing.T) {
	cold := []Day{{Name: "quay", TempC: 4, RH: 0.85, Rain: true}}
	oven := []Day{{Name: "bakehouse", TempC: 31, RH: 0.4}}
	base := Conditions{Hours: 4, Camera: "close", Exertion: "acting", Days: oven}
	p := Work(base, free())
	assert.Equal(t, 60, p.CheckInMin)
	assert.Zero(t, p.CoolMin)
	assert.Equal(t, "bakehouse", p.WorstDay)
	assert.Empty(t, p.Findings)

	base.Exertion = "running"
	big := free()
	big.WornCM2 = 4000
	p = Work(base, big)
	assert.Equal(t, 20, p.CheckInMin)
	assert.Positive(t, p.CoolMin)
	assert.InDelta(t, Heat(oven[0])+3, p.HeatC, 0.06)
	ids := func() (list []string) {
		for _, f := range p.Findings {
			list = append(list, f.ID+" "+f.Severity)
		}
		return list
	}
	assert.Contains(t, ids(), "SAF-6 stop")
	assert.Contains(t, ids(), "MAP-4 stop")
	base.WayOut = WayOut{Closure: "zip at the back", Minutes: 1, Helpers: 1}
	p = Work(base, big)
	assert.NotContains(t, ids(), "MAP-4 stop")
	base.WayOut.Minutes = 10
	p = Work(base, big)
	assert.Contains(t, ids(), "MAP-4 warn")

	base = Conditions{Hours: 4, Camera: "close", Exertion: "still", Days: cold, Limits: map[string]float64{"hours": 3}}
	p = Work(base, free())
	assert.Equal(t, 30, p.CheckInMin)
	assert.Equal(t, 3.0, p.MaxHours)
	assert.Equal(t, []string{"SAF-6 warn"}, ids())

	for what, m := range map[string]func(*wearmap.Result){
		"30 one eye": func(r *wearmap.Result) { r.Sight = "left" }, "15 no eye": func(r *wearmap.Result) { r.Sight = "none" },
		"30 one ear": func(r *wearmap.Result) { r.Hearing = "right" }, "20 mouth only": func(r *wearmap.Result) { r.Breath = "mouth" },
	} {
		r := free()
		m(&r)
		p := Work(Conditions{Hours: 1, Exertion: "still", Camera: "far"}, r)
		assert.Equal(t, what[:2], map[int]string{15: "15", 20: "20", 30: "30"}[p.CheckInMin], what)
		assert.NotEmpty(t, p.Why)
		assert.Equal(t, what == "15 no eye", p.MaxHours == 0.5)
		assert.Equal(t, what == "15 no eye" || what == "20 mouth only", slices.ContainsFunc(p.Findings, func(f wearmap.Finding) bool { return f.ID == "MAP-4" }))
	}
}

func TestTheWearersOwnLimits(t *testing.T) {
	r := free()
	r.Sight, r.Breath = "left", "nose"
	p := Work(Conditions{Hours: 1, Exertion: "still", Camera: "far", WayOut: WayOut{Closure: "peeled off", Minutes: 1}, Limits: map[string]float64{"sight": 0, "breathing": 0, "mouth": 0, "hearing": 0}}, r)
	var ids []string
	for _, f := range p.Findings {
		assert.Equal(t, "stop", f.Severity)
		ids = append(ids, f.ID)
	}
	assert.Equal(t, []string{"SAF-4", "SAF-4", "SAF-5"}, ids, "hearing is whole")
	warm := []Day{{Name: "set", TempC: 26, RH: 0.5}}
	assert.Zero(t, Work(Conditions{Exertion: "still", Days: warm}, free()).CoolMin)
	assert.Positive(t, Work(Conditions{Exertion: "still", Days: warm, Limits: map[string]float64{"heat": 18}}, free()).CoolMin)
}

func TestHoursAddUp(t *testing.T) {
	m := free()
	m.Areas = []wearmap.Area{{Shares: []wearmap.Share{share("cheek", 40, 0, 0), share("neck", 100, 100, 0)}}}
	p := Work(Conditions{Camera: "medium", Exertion: "still"}, m)
	require.Len(t, p.Grades, 2)
	assert.InDelta(t, p.Grades[0].HoursH+p.Grades[1].HoursH, p.HoursH, 1e-9)
	assert.InDelta(t, 140*2.4/60, p.HoursH+p.SavedH, 0.11)
}
