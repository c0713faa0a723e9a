package build_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/shop/shoptest"
)

// While a piece is built on somebody they are asked how it is; what they say is theirs and
// stands in no record.
func TestAWearerIsAskedWhileSomethingIsBuiltOnThem(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := latexRun(b, "NA")
	require.True(t, r.OnWearer)
	require.NotNil(t, r.AskNextAt)
	assert.WithinDuration(t, r.StartedAt.Add(20*time.Minute), *r.AskNextAt, time.Second)
	at := "/api/runs/" + r.Code + "/comfort"
	assert.NotEmpty(t, b.As["pip"].No("POST", at, m{"comfort": 11}).Field)
	b.As["pip"].Yes("POST", at, m{"comfort": 8, "words": "tickles"}, &r)
	assert.False(t, r.Unwell)
	assert.WithinDuration(t, b.Clock.Now().Add(20*time.Minute), *r.AskNextAt, time.Second)
	after(b, 5*time.Minute)
	b.As["ivo"].Yes("POST", at, m{"comfort": 2, "words": "faint"}, &r)
	assert.True(t, r.Unwell)
	require.Len(t, r.Checks, 2)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM journal WHERE words LIKE '%faint%'`))
	assert.Equal(t, 2, b.Count(`SELECT COUNT(*) FROM journal WHERE act = 'wearer asked'`))

	assert.Equal(t, 403, b.As["pip"].No("DELETE", at, nil).Status)
	b.As["maud"].Yes("DELETE", at, nil, &r)
	assert.Empty(t, r.Checks)
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM comfort_check`))

	slush := b.Begin(b.By("latex_slush", "NB", "nose", 3), 1)
	assert.False(t, slush.OnWearer)
	assert.Equal(t, "comfort", b.As["pip"].No("POST", "/api/runs/"+slush.Code+"/comfort", m{"comfort": 5}).Field)
}

// What a stage was told to wait stands beside what it waited, with the minutes of hands.
func TestAWaitStandsBesideItsPlan(t *testing.T) {
	b := shoptest.New(t, shoptest.SteadyRoom(20))
	b.Everything()
	r := b.Begin(b.By("latex_slush", "NA", "nose", 3), 1)
	r = b.Done("ivo", r.Code, 1, m{"hand_min": 12.5})
	require.NotNil(t, r.Stages[0].ExpectedS)
	assert.InDelta(t, potOf(b, r.Code).RecoatS, *r.Stages[0].ExpectedS, 1)
	assert.InDelta(t, 750, *r.Stages[0].HandS, 1e-9)
	assert.Nil(t, r.Stages[0].WaitedS)
	after(b, 3*time.Hour)
	r = b.Done("ivo", r.Code, 2, m{})
	require.NotNil(t, r.Stages[0].WaitedS)
	assert.InDelta(t, 3*3600, *r.Stages[0].WaitedS, 1)
	assert.Nil(t, r.Stages[1].HandS)
}

// A build holds at its points: nobody goes on before somebody has looked and said so.
func TestABuildHoldsUntilSomebodyLooked(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Everything()
	r := b.Begin(b.By("foam_latex", "NA", "nose", 6), 1)
	b.Done("ivo", r.Code, 1, m{})
	b.Done("ivo", r.Code, 2, m{})
	after(b, 40*time.Minute)
	no := b.As["maud"].No("POST", "/api/runs/"+r.Code+"/stages/3", m{"reason": "now"})
	assert.Equal(t, "checked", no.Field)
	assert.Contains(t, no.Detail, "springs back")
	assert.Zero(t, b.Count(`SELECT COUNT(*) FROM run_stage WHERE seq = 3 AND done_at IS NOT NULL`))
	b.As["maud"].Yes("POST", "/api/runs/"+r.Code+"/stages/3", m{"checked": true}, nil)
	assert.Equal(t, 1, b.Count(`SELECT COUNT(*) FROM journal WHERE words LIKE '%Looked at: It is gelled%'`))
}
