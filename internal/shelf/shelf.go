// Package shelf is the shop's shelf of materials: what is known of every product
// that pieces are made from.
package shelf

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/platform/database"
)

// shelfState tells whether a shelf that was read before is still the shop's.
type shelfState struct {
	Name    string
	N       int
	Changed *time.Time
}

var lastShelf struct {
	sync.Mutex
	state shelfState
	shelf material.Shelf
}

// Load reads every material of the shop. It is asked for with every
// keystroke on a section and changes a few times a year, so it is read anew
// only when index material_changed says so. The shelf is shared: nobody may
// write to it.
func Load(ctx context.Context, db database.Reader) (material.Shelf, error) {
	var state shelfState
	if err := db.GetContext(ctx, &state, `SELECT DATABASE() AS name, COUNT(*) AS n, MAX(changed_at) AS changed FROM material`); err != nil {
		return nil, fmt.Errorf("asking whether the materials changed: %w", err)
	}
	lastShelf.Lock()
	defer lastShelf.Unlock()
	if last := lastShelf.state; last.Name == state.Name && last.N == state.N && last.Changed != nil && state.Changed != nil && last.Changed.Equal(*state.Changed) {
		return lastShelf.shelf, nil
	}
	var rows []string
	if err := db.SelectContext(ctx, &rows, `SELECT facts FROM material`); err != nil {
		return nil, fmt.Errorf("reading the materials: %w", err)
	}
	shelf := material.Shelf{}
	for _, raw := range rows {
		var p material.Product
		if err := json.Unmarshal([]byte(raw), &p); err != nil {
			return nil, fmt.Errorf("reading a material: %w", err)
		}
		shelf[p.Slug] = p
	}
	lastShelf.state, lastShelf.shelf = state, shelf
	return shelf, nil
}
