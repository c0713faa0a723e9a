package check

import (
	"context"
	"slices"

	"yewmoor/internal/copies"
	"yewmoor/internal/craft/finish/fault"
	"yewmoor/internal/craft/yield"
	"yewmoor/internal/platform/database"
)

// Yielded is how what was made of one material, or in one mould, came out.
type Yielded struct {
	Of       string  `db:"of" json:"of" doc:"a material's family, or a mould by its code"`
	By       string  `db:"by_what" json:"by" enum:"material,mould"`
	Made     int     `db:"made" json:"made" doc:"copies that were judged"`
	Good     int     `db:"good" json:"good"`
	Repaired int     `db:"repaired" json:"repaired" doc:"of them, that went back on the bench at least once"`
	Less     int     `db:"less" json:"less" doc:"kept for less than they were made for"`
	Scrapped int     `db:"scrapped" json:"scrapped"`
	Mean     float64 `db:"-" json:"mean" doc:"share that is good, as far as so few tell"`
	Low      float64 `db:"-" json:"low" doc:"nine out of ten times it is above"`
	High     float64 `db:"-" json:"high" doc:"and below"`
	Faults   []Often `db:"-" json:"faults" doc:"what was seen most, at most three"`
}

// Often is a fault, how often it was seen, and what it mostly was.
type Often struct {
	Fault string `json:"fault"`
	Name  string `json:"name"`
	Times int    `json:"times"`
	Cause string `json:"cause,omitempty"`
}

// Yields tells how copies came out, by material and by mould, with how far so few can be
// believed.
func (s *Service) Yields(ctx context.Context) ([]Yielded, error) {
	judged := copies.JudgedSQL("c")
	sums := `COUNT(*) AS made, SUM(` + copies.GoodSQL("c") + `) AS good, SUM(EXISTS (SELECT 1 FROM verdict v WHERE v.copy_id = c.id AND v.verdict = 'repair' AND v.back_at IS NULL)) AS repaired,
		SUM(c.use_as <> '') AS less, SUM(` + copies.ScrappedSQL("c") + `) AS scrapped`
	list := []Yielded{}
	if err := s.DB.SelectContext(ctx, &list, `SELECT q.family AS of, 'material' AS by_what, `+sums+` FROM copy c JOIN piece q ON q.id = c.piece_id WHERE q.family <> '' AND `+judged+` GROUP BY q.family
		UNION ALL SELECT u.code, 'mould', `+sums+` FROM copy c JOIN mould u ON u.id = c.mould_id WHERE `+judged+` GROUP BY u.code ORDER BY by_what, made DESC, of LIMIT 200`); err != nil {
		return nil, err
	}
	seen, err := seenOften(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	for i := range list {
		y := &list[i]
		b := yield.Belief{A: float64(y.Good) + 0.5, B: float64(y.Made-y.Good) + 0.5}
		y.Mean, y.Low, y.High = b.Mean(), b.Quantile(0.1), b.Quantile(0.9)
		y.Faults = seen[y.By+" "+y.Of]
		if y.Faults == nil {
			y.Faults = []Often{}
		}
	}
	return list, nil
}

// seenOften are the faults by material and mould, the most frequent three of each.
func seenOften(ctx context.Context, db database.Reader) (map[string][]Often, error) {
	var rows []struct {
		Family, Mould, Fault, Cause string
	}
	if err := db.SelectContext(ctx, &rows, `SELECT q.family, COALESCE(u.code, '') AS mould, f.fault, f.cause FROM fault f JOIN copy c ON c.id = f.copy_id JOIN piece q ON q.id = c.piece_id LEFT JOIN mould u ON u.id = c.mould_id ORDER BY f.id`); err != nil {
		return nil, err
	}
	type count struct {
		n      int
		causes map[string]int
	}
	by := map[string]map[string]*count{}
	for _, r := range rows {
		for _, of := range []string{"material " + r.Family, "mould " + r.Mould} {
			if by[of] == nil {
				by[of] = map[string]*count{}
			}
			if by[of][r.Fault] == nil {
				by[of][r.Fault] = &count{causes: map[string]int{}}
			}
			k := by[of][r.Fault]
			k.n++
			if r.Cause != "" {
				k.causes[r.Cause]++
			}
		}
	}
	out := map[string][]Often{}
	for of, faults := range by {
		for _, id := range sorted(faults) {
			k := faults[id]
			one := Often{Fault: id, Times: k.n}
			if f, known := fault.FaultOf(id); known {
				one.Name = f.Name
			}
			most := 0
			for _, cause := range sorted(k.causes) {
				if n := k.causes[cause]; n > most {
					c, _ := fault.CauseOf(cause)
					most, one.Cause = n, c.Name
				}
			}
			out[of] = append(out[of], one)
		}
		slices.SortStableFunc(out[of], func(a, b Often) int { return b.Times - a.Times })
		out[of] = out[of][:min(3, len(out[of]))]
	}
	return out, nil
}
