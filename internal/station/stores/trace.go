package stores

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"

	"yewmoor/internal/craft/trace"
)

// paths are the ways lot → mix, mix → copy → kit, lot → copy where a stage took it
// without a mix, lot → kit where it was packed as it is, and mix → lot where it was
// put by: one row a way, from the thing whose code is asked for. Each
// goes by indexes: lot_once or the code's own, mix_line_trace or mix_line_back,
// run_mix_back or its primary key, copy_run, movement_stage, kit_copy.copy_id or
// its primary key. Only what was weighed went into a mix.
var paths = map[string]map[string][]string{
	trace.Forward: {
		"lot": {`SELECT l.code AS lot, x.code AS mix FROM lot l JOIN mix_line n ON n.lot_id = l.id AND EXISTS (SELECT 1 FROM weigh_in w WHERE w.mix_line_id = n.id) JOIN mix x ON x.id = n.mix_id WHERE l.code IN (?)`,
			`SELECT l.code AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM lot l JOIN movement v ON v.lot_id = l.id JOIN run_stage t ON t.id = v.stage_id JOIN copy c ON c.run_id = t.run_id ` + intoKit + ` WHERE l.code IN (?)`,
			`SELECT l.code AS lot, k.code AS kit FROM lot l JOIN kit_lot kl ON kl.lot_id = l.id JOIN kit k ON k.id = kl.kit_id WHERE l.code IN (?)`,
			`SELECT l.code AS lot, o.code AS next_lot FROM lot l JOIN lot o ON o.from_lot_id = l.id WHERE l.code IN (?)`},
		"mix": {`SELECT NULL AS lot, x.code AS mix, c.code AS copy, k.code AS kit FROM mix x ` + onwards + ` WHERE x.code IN (?)`,
			`SELECT x.code AS mix, l.code AS next_lot FROM mix x JOIN lot l ON l.mix_id = x.id WHERE x.code IN (?)`,
			`SELECT x.code AS mix, y.code AS next_mix FROM mix x JOIN mix y ON y.parent_id = x.id WHERE x.code IN (?)`,
			`SELECT x.code AS mix, d.code AS into_mould FROM mix x JOIN mould d ON d.id = x.mould_id WHERE x.code IN (?)`},
		"mould":  {`SELECT d.code AS into_mould, c.code AS copy, k.code AS kit FROM mould d JOIN copy c ON c.mould_id = d.id ` + intoKit + ` WHERE d.code IN (?)`},
		"copy":   {`SELECT NULL AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM copy c ` + intoKit + ` WHERE c.code IN (?)`},
		"form":   {`SELECT f.code AS form, d.code AS mould, c.code AS copy, k.code AS kit FROM form f JOIN mould d ON d.form_id = f.id LEFT JOIN copy c ON c.mould_id = d.id ` + intoKit + ` WHERE f.code IN (?)`},
		"sculpt": {`SELECT ` + sculptCode + ` AS sculpt, d.code AS mould, c.code AS copy, k.code AS kit FROM mould d JOIN piece q ON q.id = d.piece_id LEFT JOIN copy c ON c.mould_id = d.id ` + intoKit + ` WHERE ` + sculptCode + ` IN (?)`},
	},
	trace.Backward: {
		"lot": {`SELECT y.code AS mix, l.code AS next_lot FROM lot l JOIN mix y ON y.id = l.mix_id WHERE l.code IN (?)`,
			`SELECT o.code AS lot, l.code AS next_lot FROM lot l JOIN lot o ON o.id = l.from_lot_id WHERE l.code IN (?)`},
		"mix": {`SELECT l.code AS lot, x.code AS mix, NULL AS copy, NULL AS kit FROM mix x ` + fromLot + ` WHERE x.code IN (?)`,
			`SELECT y.code AS mix, x.code AS next_mix FROM mix x JOIN mix y ON y.id = x.parent_id WHERE x.code IN (?)`},
		"copy": {`SELECT x.code AS mix, c.code AS copy FROM copy c ` + fromMix + ` WHERE c.code IN (?)`,
			`SELECT l.code AS lot, NULL AS mix, c.code AS copy, NULL AS kit FROM copy c ` + fromStage + ` WHERE c.code IN (?)`,
			moulded(`copy c JOIN mould d ON d.id = c.mould_id`, `, c.code AS copy`,
				`c.code IN (?)`)[0], moulded(`copy c JOIN mould d ON d.id = c.mould_id`, `, c.code AS copy`, `c.code IN (?)`)[1]},
		"kit": {`SELECT x.code AS mix, c.code AS copy, k.code AS kit FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id ` + fromMix + ` WHERE k.code IN (?)`,
			`SELECT l.code AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id ` + fromStage + ` WHERE k.code IN (?)`,
			`SELECT NULL AS lot, NULL AS mix, c.code AS copy, k.code AS kit FROM kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id WHERE k.code IN (?)`,
			`SELECT l.code AS lot, k.code AS kit FROM kit k JOIN kit_lot kl ON kl.kit_id = k.id JOIN lot l ON l.id = kl.lot_id WHERE k.code IN (?)`,
			moulded(kitMould, `, c.code AS copy, k.code AS kit`, `k.code IN (?)`)[0], moulded(kitMould, `, c.code AS copy, k.code AS kit`,
				`k.code IN (?)`)[1]},
	},
}

const (
	intoKit   = `LEFT JOIN kit_copy kc ON kc.copy_id = c.id LEFT JOIN kit k ON k.id = kc.kit_id`
	onwards   = `LEFT JOIN run_mix rm ON rm.mix_id = x.id LEFT JOIN copy c ON c.run_id = rm.run_id ` + intoKit
	fromMix   = `JOIN run_mix rm ON rm.run_id = c.run_id JOIN mix x ON x.id = rm.mix_id `
	fromLot   = `LEFT JOIN mix_line n ON n.mix_id = x.id AND EXISTS (SELECT 1 FROM weigh_in w WHERE w.mix_line_id = n.id) LEFT JOIN lot l ON l.id = n.lot_id`
	fromStage = `JOIN run_stage t ON t.run_id = c.run_id JOIN movement v ON v.stage_id = t.id STRAIGHT_JOIN lot l ON l.id = v.lot_id`
)

// kitMould are the moulds of a kit's copies.
const kitMould = `kit k JOIN kit_copy kc ON kc.kit_id = k.id JOIN copy c ON c.id = kc.copy_id JOIN mould d ON d.id = c.mould_id`

// sculptCode names the version of a sculpt that a mould was taken of: the piece
// and its texture.
const sculptCode = `IF(d.texture_number IS NULL, NULL, CONCAT(q.code, ' T', d.texture_number))`

// moulded are the ways back from a mould d: to its form, and to its sculpt.
func moulded(from, then, where string) []string {
	return []string{
		`SELECT f.code AS form, d.code AS mould` + then + ` FROM ` + from + ` LEFT JOIN form f ON f.id = d.form_id WHERE ` + where,
		`SELECT ` + sculptCode + ` AS sculpt, d.code AS mould` + then + ` FROM ` + from + ` JOIN piece q ON q.id = d.piece_id WHERE ` + where,
	}
}

// way is one row of a path, in the order in which things go into each other.
// Next is a lot or a mix that another became.
type way struct {
	Form, Sculpt, Mould, Lot, Mix *string
	NextLot                       *string `db:"next_lot"`
	NextMix                       *string `db:"next_mix"`
	IntoMould                     *string `db:"into_mould"`
	Copy, Kit                     *string
}

// edges reads the part of the graph of lots, mixes, forms, sculpts, moulds, copies
// and kits that can be reached from start in one direction: what was put by, decanted
// or divided is followed on, hop by hop. A kit goes nowhere; deliveries, forms and
// sculpts come from nowhere.
func (s *Service) edges(ctx context.Context, start trace.Node, direction string) ([]trace.Edge, error) {
	var edges []trace.Edge
	known, asked := map[trace.Edge]bool{}, map[trace.Node]bool{start: true}
	// A lot can be in a thousand mixes: what is as far away and of one kind is asked about at once.
	for frontier := []trace.Node{start}; len(frontier) > 0; {
		found, err := s.hop(ctx, frontier, direction)
		if err != nil {
			return nil, err
		}
		frontier = nil
		for _, e := range found {
			if known[e] {
				continue
			}
			known[e] = true
			edges = append(edges, e)
			next := e.To
			if direction == trace.Backward {
				next = e.From
			}
			follows := next.Kind == "lot" || next.Kind == "mix" || e.Contact && next.Kind == "mould"
			if follows && !asked[next] {
				asked[next] = true
				frontier = append(frontier, next)
			}
		}
	}
	return edges, nil
}

// hop reads the ways from things, kind by kind in the order in which they come.
func (s *Service) hop(ctx context.Context, from []trace.Node, direction string) ([]trace.Edge, error) {
	var kinds []string
	codes := map[string][]string{}
	for _, n := range from {
		if codes[n.Kind] == nil {
			kinds = append(kinds, n.Kind)
		}
		codes[n.Kind] = append(codes[n.Kind], n.Code)
	}
	var edges []trace.Edge
	for _, kind := range kinds {
		for _, path := range paths[direction][kind] {
			query, args, err := sqlx.In(path, codes[kind])
			if err != nil {
				return nil, fmt.Errorf("asking what went into what: %w", err)
			}
			var ways []way
			if err := s.DB.SelectContext(ctx, &ways, query, args...); err != nil {
				return nil, fmt.Errorf("reading what went into what: %w", err)
			}
			for _, w := range ways {
				edges = append(edges, w.edges()...)
			}
		}
	}
	return edges, nil
}

// edges are the steps of one way.
func (w way) edges() []trace.Edge {
	var edges []trace.Edge
	var from *trace.Node
	for _, stop := range []struct {
		kind string
		code *string
	}{{"form", w.Form}, {"sculpt", w.Sculpt}, {"mould", w.Mould}, {"lot", w.Lot}, {"mix", w.Mix}, {"lot", w.NextLot}, {"mix", w.NextMix}, {"mould", w.IntoMould}, {"copy", w.Copy}, {"kit", w.Kit}} {
		if stop.code == nil {
			continue
		}
		to := trace.Node{Kind: stop.kind, Code: *stop.code}
		if from != nil {
			// What a mould is made of touches what is cast in it, and is not in it.
			edges = append(edges, trace.Edge{From: *from, To: to, Contact: w.IntoMould != nil && (stop.kind == "mould" || from.Kind == "mould")})
		}
		from = &to
	}
	return edges
}
