package cost

import (
	"context"
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"

	"yewmoor/internal/paper"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shelf"
)

// UsedList is what was used for a look, from the record: for whoever builds it again, and for the credits. There is no money in it.
type UsedList struct {
	Character string        `json:"character"`
	Name      string        `json:"name"`
	Products  []UsedProduct `json:"products"`
	Items     []UsedItem    `json:"items" doc:"what the briefs say was bought, in stock, reused or found: wigs, lenses, fittings"`
	Credits   []Credit      `json:"credits" doc:"whose pictures it was made after"`
}

// UsedProduct is a product that was really drawn.
type UsedProduct struct {
	Name     string   `json:"name"`
	Grams    float64  `json:"grams"`
	Supplier string   `json:"supplier"`
	LeadDays int      `json:"lead_days" doc:"how long it takes to come; 0 where nobody wrote it down"`
	Pieces   []string `json:"pieces"`
}

// UsedItem is something of a brief's list.
type UsedItem struct {
	Piece    string `json:"piece"`
	Text     string `json:"text"`
	Origin   string `json:"origin"`
	StandsIn string `json:"stands_in"`
}

// Credit is whom a picture is of.
type Credit struct {
	Caption string `db:"caption" json:"caption"`
	Credit  string `db:"credit" json:"credit"`
}

// UsedFor reads it for a character.
func (s *Service) UsedFor(ctx context.Context, character string) (UsedList, error) {
	out := UsedList{Character: character, Products: []UsedProduct{}, Items: []UsedItem{}, Credits: []Credit{}}
	var names []string
	if err := s.DB.SelectContext(ctx, &names, "SELECT name FROM `character` WHERE code = ?", character); err != nil {
		return out, err
	}
	if len(names) == 0 {
		return out, problem.NotFound("character", character)
	}
	out.Name = names[0]
	var codes []string
	if err := s.DB.SelectContext(ctx, &codes, "SELECT q.code FROM piece q JOIN `character` ch ON ch.id = q.character_id WHERE ch.code = ? ORDER BY q.code", character); err != nil {
		return out, err
	}
	shop, err := shelf.Load(ctx, s.DB)
	if err != nil {
		return out, err
	}
	for _, code := range codes {
		p, err := piece.Find(ctx, s.DB, code)
		if err != nil {
			return out, err
		}
		list, err := s.used(ctx, p.ID)
		if err != nil {
			return out, err
		}
		for _, u := range list {
			if u.Grams <= 0 {
				continue
			}
			i := slices.IndexFunc(out.Products, func(o UsedProduct) bool { return o.Name == u.Name })
			if i < 0 {
				i = len(out.Products)
				row := UsedProduct{Name: u.Name, Supplier: u.Supplier}
				if keep := shop[u.Material].Keep; keep != nil {
					row.LeadDays = keep.LeadDays
				}
				out.Products = append(out.Products, row)
			}
			out.Products[i].Grams += u.Grams
			out.Products[i].Pieces = append(out.Products[i].Pieces, code)
		}
		b, agreed, err := piece.AgreedBrief(ctx, s.DB, p.ID)
		if err != nil {
			return out, err
		}
		if agreed {
			for _, i := range b.Budget {
				out.Items = append(out.Items, UsedItem{code, i.Text, i.Origin, i.StandsIn})
			}
		}
	}
	slices.SortFunc(out.Products, func(a, b UsedProduct) int { return strings.Compare(a.Name, b.Name) })
	err = s.DB.SelectContext(
		ctx,
		&out.Credits,
		"SELECT DISTINCT r.caption, r.credit FROM reference_picture r JOIN piece q ON q.id = r.piece_id JOIN `character` ch ON ch.id = q.character_id WHERE ch.code = ? AND r.credit <> '' ORDER BY r.credit, r.caption",
		character,
	)
	return out, err
}

// WriteUsed writes it as a table.
func (s *Service) WriteUsed(ctx context.Context, w io.Writer, character string) error {
	u, err := s.UsedFor(ctx, character)
	if err != nil {
		return err
	}
	c := csv.NewWriter(w)
	rows := [][]string{{"what", "name", "amount g", "supplier or origin", "days to come", "for"}}
	for _, p := range u.Products {
		days := ""
		if p.LeadDays > 0 {
			days = fmt.Sprint(p.LeadDays)
		}
		rows = append(
			rows,
			[]string{"product", p.Name, fmt.Sprintf("%.1f", p.Grams), p.Supplier, days, strings.Join(p.Pieces, " ")},
		)
	}
	for _, i := range u.Items {
		rows = append(rows, []string{"item", i.Text, "", i.Origin, "", i.Piece})
	}
	for _, k := range u.Credits {
		rows = append(rows, []string{"credit", k.Caption, "", k.Credit, "", ""})
	}
	for _, row := range rows {
		for i := range row {
			row[i] = paper.SafeCell(row[i])
		}
		if err := c.Write(row); err != nil {
			return err
		}
	}
	c.Flush()
	return c.Error()
}
