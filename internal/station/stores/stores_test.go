package stores_test

import (
	"sync"
	"testing"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
	"yewmoor/internal/shop/shoptest"
	"yewmoor/internal/station/mix"
	"yewmoor/internal/station/stores"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// m is a JSON object as it is sent.
type m = map[string]any

func TestFiftyPeopleTakeFromOneLotAndTheLedgerAddsUp(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	var lot, line uint64
	require.NoError(t, b.S.DB.Get(&lot, `SELECT id FROM lot WHERE code = 'S-1'`))
	b.As["ivo"].Yes("POST", "/api/mixes", shoptest.Order(code, nil), nil)
	require.NoError(t, b.S.DB.Get(&line, `SELECT id FROM mix_line WHERE ingredient = 'softener' LIMIT 1`))
	var wg sync.WaitGroup
	var mu sync.Mutex
	got := 0
	for range 50 {
		wg.Add(1)
		go func() {
			defer wg.Done()
			err := b.S.DB.InTx(t.Context(), func(tx database.Tx) error {
				res, err := tx.Exec(`INSERT INTO weigh_in (mix_line_id, grams, source, at, person_id, idem_key) VALUES (?, 30, 'typed', ?, 1, ?)`, line, shoptest.Monday, shoptest.Key())
				if err != nil {
					return err
				}
				id, err := res.LastInsertId()
				if err != nil {
					return err
				}
				return b.S.Stores.Draw(b.Who["ivo"], tx, lot, 30, uint64(id), false)
			})
			if err == nil {
				mu.Lock()
				got++
				mu.Unlock()
			}
		}()
	}
	wg.Wait()
	assert.Equal(t, 33, got, "a kilogram holds thirty-three times 30 g")
	assert.InDelta(t, 1000-33*30, b.OnHand("S-1", ""), 1e-9)
}

func TestLotsKeepTheirBooks(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.Poured(code)
	var lot stores.LotView
	b.As["pip"].Yes("GET", "/api/lots/K-old", nil, &lot)
	require.Len(t, lot.Parts, 2)
	assert.Equal(t, []string{"X-0001"}, lot.WentInto["mix"])
	var sum float64
	for _, v := range lot.Movements {
		if v.Part == "A" {
			sum += v.Grams
		}
	}
	assert.InDelta(t, lot.Parts[0].OnHandG, sum, 1e-9, "what is on hand is the sum of the movements")
	b.As["maud"].Yes("POST", "/api/lots/K-old/count", m{"part": "A", "amount": "380 g", "note": "spilt some"}, nil)
	b.As["pip"].Yes("GET", "/api/lots/K-old", nil, &lot)
	assert.InDelta(t, 380, lot.Parts[0].OnHandG, 1e-9)
	b.As["maud"].Yes("POST", "/api/lots/K-old/status", m{"status": "recalled", "reason": "the maker asked"}, nil)
	var sheet mix.Sheet
	b.As["pip"].Yes("POST", "/api/mixes/sheet", shoptest.Order(code, nil), &sheet)
	assert.Equal(t, "K-new", sheet.Lines[0].Lot, "a recalled lot is not chosen")
	assert.Equal(t, "not_found", b.As["pip"].No("GET", "/api/lots/nothing", nil).Code)
}

func TestALotThatIsUsedUpLeavesTheShelf(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	lots := func(query string) (codes []string) {
		var list []struct{ Code string }
		b.As["pip"].Yes("GET", "/api/lots"+query, nil, &list)
		for _, l := range list {
			codes = append(codes, l.Code)
		}
		return codes
	}
	b.As["maud"].Yes("POST", "/api/lots/S-1/count", map[string]any{"part": "", "amount": "0 g", "note": "dregs"}, nil)
	assert.NotContains(t, lots(""), "S-1")
	assert.Equal(t, []string{"S-1"}, lots("?used_up=true"))
	b.As["maud"].Yes("POST", "/api/lots/S-1/count", map[string]any{"part": "", "amount": "20 g", "note": "found behind the can"}, nil)
	assert.Contains(t, lots(""), "S-1")
}
