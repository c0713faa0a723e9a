package device

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestTheScaleSettlesTaresAndDrifts(t *testing.T) {
	at := time.Date(2026, 1, 12, 9, 10, 0, 0, time.UTC)
	s := NewSimulatedScale(7, func() time.Time { return at })
	s.Put(31)
	assert.False(t, s.Read().Stable)
	at = at.Add(2 * time.Second)
	r := s.Read()
	assert.True(t, r.Stable)
	assert.InDelta(t, 31, r.Value, 0.15)
	assert.NoError(t, s.Tare())
	assert.InDelta(t, 0, s.Read().Value, 0.15)
	s.Pour(8)
	at = at.Add(5 * time.Second)
	assert.False(t, s.Read().Stable)
	s.Pour(0)
	at = at.Add(2 * time.Second)
	assert.InDelta(t, 40, s.Read().Value, 0.2)
	at = at.Add(10 * time.Hour)
	assert.InDelta(t, 41.5, s.Read().Value, 0.2, "a slow drift")
}

func TestTheScaleCanMisbehave(t *testing.T) {
	at := time.Now()
	s := NewSimulatedScale(7, func() time.Time { return at })
	s.Put(50)
	at = at.Add(time.Minute)
	s.Misbehave(false, true, "")
	s.Put(50)
	at = at.Add(time.Minute)
	assert.InDelta(t, 50, s.Read().Value, 0.2, "stuck")
	s.Misbehave(true, false, "")
	assert.False(t, s.Read().Connected)
	assert.ErrorIs(t, s.Tare(), ErrUnplugged)
	s.Misbehave(false, false, Ounces)
	assert.InDelta(t, 100/28.35, s.Read().Value, 0.05)
	assert.Equal(t, Ounces, s.Read().Unit)
}

func TestOneSeedOneRoom(t *testing.T) {
	from := time.Date(2026, 1, 12, 0, 0, 0, 0, time.UTC)
	a, b := NewSimulatedRoom(3).Between(from, from.Add(24*time.Hour)), NewSimulatedRoom(3).Between(from, from.Add(24*time.Hour))
	assert.Equal(t, a, b)
	assert.Len(t, a, 24*60+1)
	for i, r := range a {
		assert.True(t, r.TempC > 14 && r.TempC < 25 && r.RH > 0.2 && r.RH < 0.95)
		if i > 0 {
			assert.Less(t, math.Abs(r.TempC-a[i-1].TempC), 0.25, "air does not jump")
		}
	}
	assert.NotEqual(t, a, NewSimulatedRoom(4).Between(from, from.Add(24*time.Hour)))
}

func TestTheForecastIsASeason(t *testing.T) {
	f := SimulatedForecast{Seed: 3}
	mean := func(month time.Month) (temp float64, rain int) {
		for day := 1; day <= 28; day++ {
			w, err := f.Of("quayside", time.Date(2026, month, day, 0, 0, 0, 0, time.UTC))
			assert.NoError(t, err)
			again, err := f.Of("Quayside", time.Date(2026, month, day, 0, 0, 0, 0, time.UTC))
			assert.NoError(t, err)
			assert.Equal(t, w, again)
			assert.False(t, w.Sun && w.Rain)
			assert.InDelta(t, 0.7, w.RH, 0.31)
			temp += w.TempC / 28
			if w.Rain {
				rain++
			}
		}
		return temp, rain
	}
	winter, wet := mean(time.January)
	summer, _ := mean(time.July)
	assert.Less(t, winter+8, summer)
	assert.Positive(t, wet)
	set, err := f.Of("bakehouse set", time.Now())
	assert.NoError(t, err)
	assert.True(t, set.Indoors)
	assert.Equal(t, 31.0, set.TempC, "the set makes its own air")
}

func TestTheReaderReadsASkinAndSlipsNowAndThen(t *testing.T) {
	r := &SimulatedReader{Seed: 1}
	slips := 0
	l0, a0, _, _ := r.Read("somebody", "forehead")
	for range 30 {
		l, _, _, _ := r.Read("somebody", "forehead")
		if math.Abs(l-l0) > 2 {
			slips++
		}
	}
	assert.InDelta(t, 3, slips, 1)
	reddest := 0.0
	for range 3 {
		_, a, _, _ := r.Read("somebody", "lip")
		reddest = math.Max(reddest, a)
	}
	assert.Greater(t, reddest, a0+5, "lips are redder")
}

func TestWhatIsNotThereReadsNothing(t *testing.T) {
	assert.Equal(t, ScaleReading{}, NoScale{}.Read())
	assert.ErrorIs(t, NoScale{}.Tare(), ErrUnplugged)
	assert.Empty(t, NoRoom{}.Between(time.Time{}, time.Now()))
	_, _, _, err := NoReader{}.Read("somebody", "cheek")
	assert.ErrorIs(t, err, ErrNone)
	_, err = NoForecast{}.Of("quayside", time.Now())
	assert.ErrorIs(t, err, ErrNone)
}

// A room sensor that is taken off the wall has no readings of that time; a probe follows
// what its place is set to, and never jumps.
func TestASensorThatIsAwaySaysNothing(t *testing.T) {
	r := NewSimulatedRoom(3)
	from := time.Date(2026, 1, 12, 9, 0, 0, 0, time.UTC)
	r.Unplug(from.Add(time.Hour), true)
	r.Unplug(from.Add(time.Hour+time.Minute), true)
	r.Unplug(from.Add(3*time.Hour), false)
	all := r.Between(from, from.Add(4*time.Hour))
	assert.Len(t, all, 4*60+1-120)
	for _, x := range all {
		assert.False(t, !x.At.Before(from.Add(time.Hour)) && x.At.Before(from.Add(3*time.Hour)), x.At)
	}
}

func TestAProbeFollowsWhatItsPlaceIsSetTo(t *testing.T) {
	room, from := NewSimulatedRoom(3), time.Date(2026, 1, 12, 9, 0, 0, 0, time.UTC)
	hot := 95.0
	ask := Ask{Kind: "oven", From: from, To: from.Add(6 * time.Hour), StartC: 20, Room: room,
		Sets: []Setting{{At: from.Add(time.Hour), C: &hot}, {At: from.Add(4 * time.Hour)}}}
	log := SimulatedProbe{}.Between(ask)
	at := func(h float64) float64 { return log[int(60*h)].TempC }
	assert.InDelta(t, 20, at(0.9), 2)
	assert.InDelta(t, 95, at(3.9), 1)
	assert.Greater(t, at(1.5), 60.0)
	assert.Less(t, at(5.9), 45.0)
	for i := 1; i < len(log); i++ {
		assert.Less(t, math.Abs(log[i].TempC-log[i-1].TempC), 6.0)
	}
	// Asked in two parts it says the same.
	first, second := ask, ask
	first.To = from.Add(2 * time.Hour)
	a := SimulatedProbe{}.Between(first)
	second.From, second.StartC = first.To.Add(time.Minute), a[len(a)-1].TempC
	b := SimulatedProbe{}.Between(second)
	assert.InDelta(t, log[len(log)-1].TempC, b[len(b)-1].TempC, 0.05)
	ask.Kind = "cold"
	assert.InDelta(t, 5, SimulatedProbe{}.Between(Ask{Kind: "cold", From: from, To: from, Room: room})[0].TempC, 0.5)
	assert.Empty(t, NoProbe{}.Between(ask))
}
