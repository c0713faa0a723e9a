package brief

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"sync"

	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/piece"
)

// Around tells the section what brief and map say of where a piece goes.
func (s *Service) Around(ctx context.Context, p piece.Piece) (piece.Surroundings, error) {
	out := piece.Surroundings{}
	v := View{}
	var err error
	if out.Brief, _, err = s.Pieces.ReadBrief(ctx, p); err != nil {
		return out, err
	}
	v.Doc = out.Brief
	if err := s.follow(ctx, p, "", &v); err != nil {
		return out, err
	}
	out.Map = v.Map
	for _, o := range v.Others {
		out.Look = append(out.Look, o.Code)
	}
	out.Days, err = s.daysOf(ctx, p)
	return out, err
}

// mapsKept keeps what followed from the scenes worked out lately. It follows
// from the scene and the forms alone, and a section asks for it with every
// keystroke while the map stays as it is.
type mapsKept struct {
	mu    sync.Mutex
	kept  map[[32]byte]wearmap.Result
	order [][32]byte // oldest first
}

// maxMaps are kept at once; one takes a few kB.
const maxMaps = 128

func (m *mapsKept) work(scene wearmap.Scene, stamps map[string]string, sheets wearmap.Sheets) (wearmap.Result, error) {
	raw, err := json.Marshal(struct {
		Scene  wearmap.Scene
		Stamps map[string]string
	}{scene, stamps})
	if err != nil {
		return wearmap.Result{}, fmt.Errorf("naming the scene: %w", err)
	}
	key := sha256.Sum256(raw)
	m.mu.Lock()
	if r, known := m.kept[key]; known {
		m.mu.Unlock()
		return r, nil
	}
	m.mu.Unlock()
	r, err := wearmap.Work(scene, sheets)
	if err != nil {
		return r, err
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.kept == nil {
		m.kept = map[[32]byte]wearmap.Result{}
	}
	if _, known := m.kept[key]; !known {
		m.order = append(m.order, key)
	}
	m.kept[key] = r
	if len(m.order) > maxMaps {
		delete(m.kept, m.order[0])
		m.order = m.order[1:]
	}
	return r, nil
}
