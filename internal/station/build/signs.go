package build

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"yewmoor/internal/craft/drying"
	"yewmoor/internal/craft/learn"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// drySign is what somebody found of a pot of coats: a stage, after so long, and when the
// book would have had it, s.
type drySign struct {
	Stage string  `json:"stage"`
	AtS   float64 `json:"at_s"`
	BookS float64 `json:"book_s"`
}

// How far the book may be off, and a finger, as the spread of a logarithm: the air's own
// transfer is known to ±40 %.
const (
	bookSpread   = 0.35
	fingerSpread = 0.20
)

// Pace is what a shop learned of one air: how long coats take in it, to the book's time.
type Pace struct {
	Place   string  `json:"place"`
	Product string  `json:"product,omitempty"`
	Words   string  `json:"words"`
	N       int     `json:"n" doc:"signs that it was told from"`
	Times   float64 `json:"times" doc:"of the book's time"`
	Low     float64 `json:"times_low"`
	High    float64 `json:"times_high"`
}

// placeOf names an air with what is behind the coats, and the place where they stand in
// one.
func placeOf(preset, side string, in *move) string {
	switch {
	case in == nil || in.Code == nil:
		return preset + "/" + side
	case isHot(*in.Kind):
		return "cabinet/" + side + "/" + *in.Code
	}
	return preset + "/" + side + "/" + *in.Code
}

func placeWords(place string) string {
	parts := strings.SplitN(place, "/", 3)
	words := airWords[parts[0]] + ", on " + map[string]string{"skin": "a wearer", "plaster": "a plaster mould",
		"form": "a form"}[parts[1]]
	if len(parts) == 3 {
		words = strings.TrimPrefix(words, "in the warm box, ") + ", in " + strings.ReplaceAll(parts[2], "-", " ")
	}
	return words
}

// pace is what was learned of a product in a place: its own signs, on the ground of those
// of other products there; times 1 where nobody gave a sign.
func (s *Service) pace(ctx context.Context, db database.Reader, place, product string) (Pace, error) {
	var signs []struct {
		Ratio float64
		Own   bool
	}
	// The newest sixty by index dry_sign_place.
	if err := db.SelectContext(ctx, &signs, `SELECT at_s / book_s AS ratio, product = ? AS own FROM dry_sign WHERE place = ? AND forgotten_at IS NULL ORDER BY id DESC LIMIT 60`,
		product, place); err != nil {
		return Pace{}, fmt.Errorf("reading what was found dry: %w", err)
	}
	out := Pace{Place: place, Words: placeWords(place), Times: 1, Low: 0.7, High: 1.5}
	var own, others []learn.Observed
	for i := len(signs) - 1; i >= 0; i-- {
		if signs[i].Own {
			own = append(own, learn.Observed{Value: signs[i].Ratio})
		} else {
			others = append(others, learn.Observed{Value: signs[i].Ratio})
		}
	}
	before := learn.Before{Median: 1, Sigma: bookSpread}
	for _, list := range [][]learn.Observed{others, own} {
		if len(list) == 0 {
			continue
		}
		g, err := learn.From(before, list)
		if err != nil {
			return out, err
		}
		out.Times, out.Low, out.High = bounded(g.Median), g.P10, g.P90
		out.N += len(list)
		before.Median = g.Median
	}
	if len(own) > 0 {
		out.Product = product
	}
	return out, nil
}

// bounded keeps a correction within what a finger can be trusted with.
func bounded(times float64) float64 { return math.Min(2, math.Max(0.5, times)) }

// ownTimes is a pot's own pace: the shop's of its air, moved towards the sign that was seen.
func ownTimes(shop Pace, sign *drySign) float64 {
	if sign == nil || sign.AtS <= 0 || sign.BookS <= 0 {
		return shop.Times
	}
	spread := fingerSpread
	if sign.Stage == weighed {
		spread = scaleSpread
	}
	weight := bookSpread * bookSpread / (bookSpread*bookSpread + spread*spread)
	return bounded(shop.Times * math.Pow(sign.AtS/sign.BookS/shop.Times, weight))
}

// bandOfDrying is the band of a drying time, as shares of it: narrower once the place is
// learned, or somebody felt the pot.
func bandOfDrying(shop Pace, sign *drySign) (low, high float64) {
	if sign != nil || shop.N >= 3 {
		return 0.85, 1.25
	}
	return 0.7, 1.5
}

// km is what the transfer of the air is multiplied by for a pace (handbook, drying and
// cure, 2: “k_m ← k_m · t_predicted/t_observed”, within 0.3 to 3).
func km(times float64) float64 { return math.Min(3, math.Max(0.3, 1/times)) }

// signOf reads what somebody found of a pot; nil for nothing.
func signOf(row potRow) (*drySign, error) {
	if row.Observed == nil {
		return nil, nil
	}
	var sign drySign
	if err := json.Unmarshal([]byte(*row.Observed), &sign); err != nil {
		return nil, fmt.Errorf("reading what was seen: %w", err)
	}
	return &sign, nil
}

// as moves the times of a pot to what was found: what was seen is reached then, and what
// comes after it is as far from it as it was.
func (sign *drySign) as(e drying.Estimate) drying.Estimate {
	switch sign.Stage {
	case "touch":
		late := math.Max(0, sign.AtS-e.TouchS)
		e.TouchS, e.RecoatS, e.DryS = sign.AtS, e.RecoatS+late, e.DryS+late
	case "dry":
		e.TouchS, e.RecoatS, e.DryS = math.Min(e.TouchS, sign.AtS), math.Min(e.RecoatS, sign.AtS), math.Min(e.DryS, sign.AtS)
	}
	return e
}

var signWords = map[string]string{"touch": "no longer tacky", "dry": "clear and no longer cold", weighed: "by its weight so far"}

// observeDry notes that a coat was found touch-dry or dry: its own times follow at once,
// and the shop learns of the air that it stood in.
func (s *Service) observeDry(ctx context.Context, tx database.Tx, row potRow, stage string) error {
	if stage != "touch" && stage != "dry" {
		return problem.Invalid("unknown_value", "stage", "Say whether it is touch-dry or dry through.")
	}
	st, err := s.stand(ctx, tx, row)
	if err != nil {
		return err
	}
	now := s.Clock.Now()
	elapsed := now.Sub(row.StartedAt).Seconds()
	byBook, err := s.dried(course{Coats: st.coats, Air: st.model.Air, Rooms: st.rooms, Times: 1})
	if err != nil {
		return err
	}
	coat := st.coats[len(st.coats)-1]
	book := onPot(byBook, len(st.coats)-1, coat.AtS)
	sign := drySign{Stage: stage, AtS: elapsed, BookS: map[string]float64{"touch": book.TouchS, "dry": book.DryS}[stage]}
	if elapsed < 0.1*sign.BookS {
		return problem.Invalid("out_of_range", "stage", "It has been on for %s, and takes about %s: look at it again later.",
			duration(elapsed), duration(sign.BookS))
	}
	raw, err := json.Marshal(sign)
	if err != nil {
		return err
	}
	kept, err := database.Changed(tx.ExecContext(ctx, `UPDATE pot SET observed = ? WHERE id = ? AND ended_at IS NULL`, string(raw),
		row.ID))
	if err != nil {
		return err
	}
	if !kept {
		return problem.Conflict("ended", "%s has left the shelf already; nothing was recorded.", row.Label)
	}
	if err := s.teach(ctx, tx, row, st, sign); err != nil {
		return err
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: row.PieceID, Kind: "pot", Code: row.Label, Act: "seen",
		Words: signWords[stage], Data: raw})
	return err
}

// teach lets the shop learn of an air and a place from a sign. Of a coat that stood in
// several nobody knows which of them was slow.
func (s *Service) teach(ctx context.Context, tx database.Tx, row potRow, st stand, sign drySign) error {
	coat := st.coats[len(st.coats)-1]
	if st.movedSince || st.air() != coat.Preset || slices.ContainsFunc(st.model.Air,
		func(a airChange) bool { return a.AtS >= coat.AtS }) {
		return nil
	}
	who, _ := accounts.From(ctx)
	if _, err := tx.ExecContext(ctx, `INSERT INTO dry_sign (pot_id, place, product, stage, at_s, book_s, at, person_id) VALUES (?,?,?,?,?,?,?,?)
		ON DUPLICATE KEY UPDATE at_s = VALUES(at_s), book_s = VALUES(book_s), at = VALUES(at), person_id = VALUES(person_id), forgotten_at = NULL`,
		row.ID, st.where(), row.Product, sign.Stage, sign.AtS, sign.BookS, s.Clock.Now(), who.ID); err != nil {
		return fmt.Errorf("writing what was seen: %w", err)
	}
	return nil
}

// observeGel notes that a foam gelled: it may go into the oven.
func (s *Service) observeGel(ctx context.Context, tx database.Tx, row potRow) error {
	var model potModel
	if err := json.Unmarshal([]byte(row.Model), &model); err != nil {
		return err
	}
	now := s.Clock.Now()
	after := now.Sub(row.StartedAt).Seconds()
	switch {
	case model.Gel == nil:
		return problem.Invalid("unknown_value", "stage", "This pot has no such stage.")
	case after < 0.2*model.Gel.LowS:
		return problem.Invalid("out_of_range", "stage", "The gelling agent went in %s ago; it gels after about %s. Press it again later.", duration(after), duration(model.Gel.GelS))
	}
	raw, err := json.Marshal(drySign{Stage: gelled, AtS: after, BookS: model.Gel.GelS})
	if err != nil {
		return err
	}
	kept, err := database.Changed(tx.ExecContext(ctx, `UPDATE pot SET observed = ? WHERE id = ? AND ended_at IS NULL`, string(raw),
		row.ID))
	if err != nil {
		return err
	}
	if !kept {
		return problem.Conflict("ended", "%s has left the shelf already; nothing was recorded.", row.Label)
	}
	_, err = journal.Add(ctx, tx, journal.Entry{At: now, Piece: row.PieceID, Kind: "pot", Code: row.Label, Act: "seen",
		Words: "Gelled after " + duration(after) + ".", Data: raw})
	return err
}

// onPot are the times of the coat i of a course on its own pot's clock, which began at
// atS; what is not dry by the horizon is told as that.
func onPot(d drying.Dried, i int, atS float64) drying.Estimate {
	at := func(t *float64) float64 {
		if t == nil {
			return horizonS
		}
		return math.Max(1, *t-atS)
	}
	top := d.Layers[i]
	return drying.Estimate{TouchS: at(top.TouchS), RecoatS: at(top.RecoatS), DryS: at(d.DryS)}
}

// Paces are what the shop learned of every air that somebody gave a sign of.
func (s *Service) Paces(ctx context.Context) ([]Pace, error) {
	out := []Pace{}
	var list []struct{ Place, Product string }
	if err := s.DB.SelectContext(ctx, &list, `SELECT DISTINCT place, product FROM dry_sign WHERE forgotten_at IS NULL ORDER BY place, product`); err != nil {
		return nil, fmt.Errorf("reading what was found dry: %w", err)
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return nil, err
	}
	for _, l := range list {
		p, err := s.pace(ctx, s.DB, l.Place, l.Product)
		if err != nil {
			return nil, err
		}
		if name := materials[l.Product].Name; name != "" {
			p.Words = name + ", " + p.Words
		}
		out = append(out, p)
	}
	return out, nil
}

// Forget starts the learning of a place anew: a fan was moved, a radiator was mended. The
// signs stay in the record.
func (s *Service) Forget(ctx context.Context, place string) ([]Pace, error) {
	err := s.DB.InTx(ctx, func(tx database.Tx) error {
		now := s.Clock.Now()
		there, err := database.Changed(tx.ExecContext(ctx,
			`UPDATE dry_sign SET forgotten_at = ? WHERE place = ? AND forgotten_at IS NULL`, now, place))
		if err != nil {
			return err
		}
		if !there {
			return problem.NotFound("place", place)
		}
		_, err = journal.Add(ctx, tx, journal.Entry{At: now, Kind: "air", Code: place, Act: "forgotten",
			Words: "What was learned of it is not reckoned with any more."})
		return err
	})
	if err != nil {
		return nil, err
	}
	s.Live.Tell(ctx, "pots", "")
	return s.Paces(ctx)
}
