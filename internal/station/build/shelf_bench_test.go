package build

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/material"
	"yewmoor/internal/device"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/dbtest"
)

// A shelf as no shop has it: 270 cures and 30 stacks of up to eight coats, each begun at
// another minute of the day before, worked out anew a minute later.
func BenchmarkShelfOf270CuresAnd30Stacks(b *testing.B) {
	db := dbtest.New(b)
	monday := time.Date(2026, 1, 12, 9, 0, 0, 0, time.UTC)
	at := clock.NewFixed(monday)
	s := &Service{DB: db, Clock: at, Air: &Air{DB: db, Clock: at, Sensor: device.NewSimulatedRoom(3)}}
	require.NoError(b, db.InTx(b.Context(), func(tx database.Tx) error {
		exec := func(query string, args ...any) {
			_, err := tx.ExecContext(b.Context(), query, args...)
			require.NoError(b, err)
		}
		exec(`SET FOREIGN_KEY_CHECKS = 0`)
		exec(`INSERT INTO piece (id, character_id, number, code, name, region, created_at) VALUES (1,1,1,'BF-01','brow','brow',?)`,
			monday)
		put := func(i int, kind, family string, model potModel) {
			raw, err := json.Marshal(model)
			require.NoError(b, err)
			exec(`INSERT INTO pot (piece_id, label, kind, family, model, started_at) VALUES (1,?,?,?,?,?)`, fmt.Sprintf("%s %d", kind, i),
				kind, family, string(raw),
				monday.Add(-time.Duration(i*4)*time.Minute))
		}
		for i := range 270 {
			put(i+1, "cure", "silicone_addition", potModel{CureSheet: &material.CureSheet{System: "addition", PotS: 1200,
				DemouldS: 14400 + float64(i)*60, RefC: 23}})
		}
		for i := range 30 {
			var stack []coat
			for c := range 1 + i%8 {
				stack = append(stack, coat{Layer: drying.Layer{WetM: 2e-4 + 1e-5*float64(i), Solids: 0.6}, AtS: float64(c) * 2400,
					Preset: "still", Side: "form"})
			}
			put(i+1, "dry", "latex", potModel{Stack: stack})
		}
		exec(`SET FOREIGN_KEY_CHECKS = 1`)
		return nil
	}))
	pots, err := s.Shelf(b.Context())
	require.NoError(b, err)
	require.Len(b, pots, 300)
	b.ResetTimer()
	for b.Loop() {
		at.Set(at.Now().Add(time.Minute))
		if _, err := s.Shelf(b.Context()); err != nil {
			b.Fatal(err)
		}
	}
}
