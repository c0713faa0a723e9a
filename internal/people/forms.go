package people

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"sync"

	"yewmoor/internal/craft/form"
	"yewmoor/internal/craft/wearmap"
	"yewmoor/internal/platform/database"
)

// Forms keeps the forms that were fitted lately. A form follows from its
// measurements alone, so that nothing is lost when it is let go.
type Forms struct {
	mu    sync.Mutex
	kept  map[string]*fitted
	order []string // oldest first
}

type fitted struct {
	once  sync.Once
	sheet *form.Sheet
	err   error
	mu    sync.Mutex
	views map[[2]int]form.View
}

// maxForms are kept at once; a head takes about 2 MB.
const maxForms = 24

func stampOf(sheet string, measures map[string]float64) string {
	part := form.PartOf(sheet)
	var words []string
	for _, m := range form.Measures() {
		if v, ok := measures[m.Name]; ok && m.Part == part {
			words = append(words, fmt.Sprintf("%s=%.2f", m.Name, v))
		}
	}
	sum := sha256.Sum256([]byte(sheet + "|" + strings.Join(words, "|")))
	return hex.EncodeToString(sum[:8])
}

// Stamps say which form each sheet of a map is drawn from: the same stamp is
// the same form.
func Stamps(measures map[string]float64) map[string]string {
	out := map[string]string{}
	for _, sheet := range form.Sheets {
		out[sheet] = stampOf(sheet, measures)
	}
	return out
}

func (f *Forms) entry(sheet string, measures map[string]float64) *fitted {
	key := stampOf(sheet, measures)
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.kept == nil {
		f.kept = map[string]*fitted{}
	}
	e, ok := f.kept[key]
	if !ok {
		e = &fitted{views: map[[2]int]form.View{}}
		f.kept[key] = e
		if f.order = append(f.order, key); len(f.order) > maxForms {
			delete(f.kept, f.order[0])
			f.order = f.order[1:]
		}
	} else if at := slices.Index(f.order, key); at >= 0 {
		f.order = append(slices.Delete(f.order, at, at+1), key)
	}
	return e
}

// Sheet is a sheet of the wearer's map for these measurements.
func (f *Forms) Sheet(sheet string, measures map[string]float64) (*form.Sheet, error) {
	e := f.entry(sheet, measures)
	e.once.Do(func() { e.sheet, e.err = form.Fit(sheet, measures) })
	return e.sheet, e.err
}

// View is the sheet seen from one side; drawn once.
func (f *Forms) View(sheet string, measures map[string]float64, yaw, pitch int) (form.View, error) {
	s, err := f.Sheet(sheet, measures)
	if err != nil {
		return form.View{}, err
	}
	e := f.entry(sheet, measures)
	e.mu.Lock()
	defer e.mu.Unlock()
	v, ok := e.views[[2]int{yaw, pitch}]
	if !ok {
		v = s.View(yaw, pitch)
		e.views[[2]int{yaw, pitch}] = v
	}
	return v, nil
}

// Measures reads the newest measurements of a performer, in mm by name; none
// for nobody. Index performer_measure_latest.
func Measures(ctx context.Context, db database.Reader, performer *uint64) (map[string]float64, error) {
	out := map[string]float64{}
	if performer == nil || *performer == 0 {
		return out, nil
	}
	var rows []struct {
		Name string
		MM   float64 `db:"mm"`
	}
	if err := db.SelectContext(ctx, &rows, `SELECT name, mm FROM performer_measure WHERE id IN (SELECT MAX(id) FROM performer_measure WHERE performer_id = ? GROUP BY name)`, *performer); err != nil {
		return nil, fmt.Errorf("reading measurements: %w", err)
	}
	for _, r := range rows {
		out[r.Name] = r.MM
	}
	return out, nil
}

// SheetsOf gives the sheets of a performer's map, fitted to what was measured.
func (s *Service) SheetsOf(ctx context.Context, db database.Reader, performer *uint64) (wearmap.Sheets, error) {
	measures, err := Measures(ctx, db, performer)
	if err != nil {
		return nil, err
	}
	return func(name string) (*form.Sheet, error) { return s.Forms.Sheet(name, measures) }, nil
}
