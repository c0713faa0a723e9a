package stores

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/quantity"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// List is a stock list, a delivery note or a price list as a file.
type List struct {
	Text []byte `json:"text" maxLength:"1000000" doc:"the file, in base64"`
}

// Row is what one row of a list will do. Nothing is done until it is agreed.
type Row struct {
	Row   int    `json:"row" doc:"of the file, counted from 1"`
	Does  string `json:"does" doc:"in words; empty where it can do nothing"`
	Field string `json:"field,omitempty" doc:"heading at fault"`
	Fault string `json:"fault,omitempty"`
	// Lot is what it takes in, Price what it sets; one of them.
	Lot   *NewLot   `json:"lot,omitempty"`
	Price *NewPrice `json:"price,omitempty"`
}

// NewPrice is a product's price by a list.
type NewPrice struct {
	Material     string `json:"material"`
	PriceMinorKg int64  `json:"price_minor_kg"`
}

// Preview is what a list would do.
type Preview struct {
	Rows     []Row             `json:"rows"`
	Headings map[string]string `json:"headings" doc:"what each heading was taken for; empty where it is not used"`
	Good     int               `json:"good"`
	Bad      int               `json:"bad"`
}

// headings are what columns are called, in small letters.
var headings = map[string][]string{
	"material": {"material", "product", "article", "item", "description", "name", "what"},
	"code":     {"lot", "lot code", "lot no", "lot number", "batch", "batch no", "charge", "code"},
	"amount":   {"amount", "quantity", "qty", "mass", "weight", "net", "size", "pack"},
	"unit":     {"unit", "uom"},
	"expires":  {"expires", "expiry", "expiry date", "use by", "best before", "bbd", "exp"},
	"part":     {"part", "component"},
	"supplier": {"supplier", "from", "vendor"},
	"shelf":    {"shelf", "place", "location", "store"},
	"paid":     {"paid", "price", "cost", "total", "line total"},
	"price_kg": {"price per kg", "price/kg", "per kg", "kg price"},
	"opened":   {"opened", "opened on"},
}

// Read says what a list would do, row by row, and does nothing.
func (s *Service) Read(ctx context.Context, in List) (Preview, error) {
	out := Preview{Rows: []Row{}, Headings: map[string]string{}}
	records, err := table(in.Text)
	if err != nil {
		return out, err
	}
	materials, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	at := map[string]int{}
	for i, h := range records[0] {
		name := strings.ToLower(strings.TrimSpace(h))
		out.Headings[h] = ""
		for field, words := range headings {
			if _, taken := at[field]; !taken && slices.Contains(words, name) {
				at[field], out.Headings[h] = i, field
			}
		}
	}
	if _, ok := at["material"]; !ok {
		return out, problem.Invalid("missing", "text", "No column says what it is. Call one of them “material” or “product”.")
	}
	_, lots := at["code"]
	_, prices := at["price_kg"]
	if !lots && !prices {
		return out, problem.Invalid("missing", "text", "A list has either a column “lot”, and is a delivery, or “price per kg”, and is a price list.")
	}
	kits := map[string]int{} // row of a pair whose other part came in another row
	for i, rec := range records[1:] {
		cell := func(field string) string {
			if j, ok := at[field]; ok && j < len(rec) {
				return strings.TrimSpace(rec[j])
			}
			return ""
		}
		row := Row{Row: i + 2}
		p, known := find(materials, cell("material"))
		switch {
		case !known:
			row.Field, row.Fault = "material", fmt.Sprintf("“%s” is none of the shop's products. Add it first, or write its name as it stands on the shelf.", cell("material"))
		case lots && cell("code") != "":
			s.lotRow(ctx, &row, p, cell)
		case prices:
			priceRow(&row, p, cell("price_kg"))
		default:
			row.Field, row.Fault = "code", "The lot's code is missing."
		}
		if row.Lot != nil && p.Ratio != nil {
			if j, has := kits[row.Lot.Code]; has && out.Rows[j].Lot != nil && (out.Rows[j].Lot.AmountA == "") != (row.Lot.AmountA == "") {
				other := out.Rows[j].Lot
				if other.AmountA == "" {
					other.AmountA = row.Lot.AmountA
				} else {
					other.AmountB = row.Lot.AmountB
				}
				row.Lot, row.Does = nil, fmt.Sprintf("the other part of %s, with row %d", other.Code, out.Rows[j].Row)
			} else {
				kits[row.Lot.Code] = len(out.Rows)
			}
		}
		if row.Fault == "" {
			out.Good++
		} else {
			out.Bad++
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// mostRows is how long a list may be.
const mostRows = 5000

// table reads a file of comma, semicolon or tab separated values in UTF-8.
func table(raw []byte) ([][]string, error) {
	raw = bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))
	switch {
	case len(bytes.TrimSpace(raw)) == 0:
		return nil, problem.Invalid("missing", "text", "The file is empty.")
	case bytes.HasPrefix(raw, []byte("\xff\xfe")), bytes.HasPrefix(raw, []byte("\xfe\xff")), !utf8.Valid(raw):
		return nil, problem.Invalid("wrong_encoding", "text", "The file is not in UTF-8: letters would come out wrong. Save it as “CSV UTF-8” and take it again. Nothing was read.")
	case bytes.IndexByte(raw, 0) >= 0:
		return nil, problem.Invalid("wrong_encoding", "text", "This is no list of text. Save it as “CSV UTF-8” and take it again.")
	}
	head, _, _ := strings.Cut(string(raw), "\n")
	comma, most := ',', -1
	for _, c := range ";\t," {
		if n := strings.Count(head, string(c)); n > most {
			comma, most = c, n
		}
	}
	r := csv.NewReader(bytes.NewReader(raw))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes, r.TrimLeadingSpace = comma, -1, true, true
	var out [][]string
	for {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, problem.Invalid("not_a_list", "text", "The file cannot be read as a list: %s.", err)
		}
		if len(strings.Join(rec, "")) > 0 {
			out = append(out, rec)
		}
		if len(out) > mostRows {
			return nil, problem.Invalid("out_of_range", "text", "A list has at most %d rows. Take it in two.", mostRows)
		}
	}
	if len(out) < 2 {
		return nil, problem.Invalid("missing", "text", "The file has headings and no rows.")
	}
	return out, nil
}

// find is a product by its short name or its name, as it is written.
func find(materials material.Shelf, name string) (material.Product, bool) {
	want := strings.ToLower(strings.TrimSpace(name))
	if p, ok := materials[want]; ok {
		return p, true
	}
	for _, p := range materials {
		if strings.ToLower(p.Name) == want {
			return p, true
		}
	}
	return material.Product{}, false
}

// number reads a figure with a point or a comma for its decimals.
func number(text string) (float64, bool) {
	text = strings.NewReplacer(" ", "", "\u00a0", "", "'", "").Replace(text)
	switch point, comma := strings.LastIndex(text, "."), strings.LastIndex(text, ","); {
	case comma > point: // 1.234,50
		text = strings.ReplaceAll(strings.ReplaceAll(text, ".", ""), ",", ".")
	default: // 1,234.50
		text = strings.ReplaceAll(text, ",", "")
	}
	x, err := strconv.ParseFloat(text, 64)
	return x, err == nil && !math.IsInf(x, 0) && !math.IsNaN(x)
}

// date reads a day as people and programs write it; days before months.
func date(text string) (string, bool) {
	for _, layout := range []string{time.DateOnly, "02.01.2006", "2.1.2006", "02/01/2006", "2/1/2006", "02-01-2006", "2006/01/02", "2 Jan 2006"} {
		if t, err := time.Parse(layout, text); err == nil {
			return t.Format(time.DateOnly), true
		}
	}
	return "", false
}

// minor reads money into hundredths.
func minor(text string) (int64, bool) {
	text = strings.TrimFunc(text, func(r rune) bool { return !(r >= '0' && r <= '9') && r != '.' && r != ',' && r != '-' })
	x, ok := number(text)
	if !ok || x < 0 || x > 1e7 {
		return 0, false
	}
	return int64(math.Round(x * 100)), true
}

func (s *Service) lotRow(ctx context.Context, row *Row, p material.Product, cell func(string) string) {
	l := NewLot{Material: p.Slug, Code: cell("code"), Supplier: cell("supplier"), Shelf: cell("shelf")}
	fail := func(field, format string, args ...any) { row.Field, row.Fault = field, fmt.Sprintf(format, args...) }
	amount := strings.TrimSpace(cell("amount") + " " + cell("unit"))
	if x, plain := number(cell("amount")); plain && cell("unit") != "" {
		amount = strconv.FormatFloat(x, 'f', -1, 64) + " " + cell("unit")
	} else if _, unit, spaced := cutNumber(cell("amount")); spaced && cell("unit") == "" {
		x, _ := number(strings.TrimSuffix(cell("amount"), unit))
		amount = strconv.FormatFloat(x, 'f', -1, 64) + " " + unit
	}
	q, err := quantity.Parse(amount, quantity.Mass, p.Mixed(), "amount")
	if err != nil || q.Value <= 0 {
		fail("amount", "“%s” is no amount.", amount)
		return
	}
	day, ok := date(cell("expires"))
	if !ok {
		fail("expires", "“%s” is no day. Write it as 2026-08-31 or 31.8.2026.", cell("expires"))
		return
	}
	if t, _ := time.Parse(time.DateOnly, day); clock.DayNumber(t) < clock.DayNumber(s.Clock.Now()) {
		fail("expires", "It has run out already.")
		return
	}
	l.ExpiresOn = day
	if text := cell("opened"); text != "" {
		if l.OpenedOn, ok = date(text); !ok {
			fail("opened", "“%s” is no day.", text)
			return
		}
	}
	if text := cell("paid"); text != "" {
		paid, ok := minor(text)
		if !ok {
			fail("paid", "“%s” is no price.", text)
			return
		}
		l.PaidMinor = &paid
	}
	grams := strconv.FormatFloat(q.Value, 'f', -1, 64) + " g"
	part := strings.ToUpper(cell("part"))
	switch {
	case p.Ratio == nil:
		l.Amount = grams
	case part == "A":
		l.AmountA = grams
	case part == "B":
		l.AmountB = grams
	default:
		fail("part", "%s comes in two parts: say which of them each row is, A or B.", p.Name)
		return
	}
	if have, err := s.lots(ctx, s.DB, `WHERE l.code = ? AND l.part = ?`, l.Code, part); err == nil && len(have) > 0 {
		fail("code", "Lot %s is already here.", l.Code)
		return
	}
	row.Lot = &l
	row.Does = fmt.Sprintf("lot %s: %s of %s, good until %s", strings.TrimSpace(l.Code+" "+part), quantity.FormatMass(q.Value), p.Name, day)
}

// cutNumber parts a figure from the unit behind it.
func cutNumber(text string) (figure, unit string, both bool) {
	i := strings.IndexFunc(text, func(r rune) bool { return !(r >= '0' && r <= '9') && !strings.ContainsRune("., '\u00a0-", r) })
	if i <= 0 {
		return text, "", false
	}
	figure, unit = text[:i], text[i:]
	_, is := number(figure)
	return figure, unit, is
}

func priceRow(row *Row, p material.Product, text string) {
	price, ok := minor(text)
	if !ok {
		row.Field, row.Fault = "price_kg", fmt.Sprintf("“%s” is no price.", text)
		return
	}
	row.Price = &NewPrice{p.Slug, price}
	row.Does = fmt.Sprintf("%s: %.2f a kilogram, was %.2f", p.Name, float64(price)/100, float64(p.PriceMinorKg)/100)
}
