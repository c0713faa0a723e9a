package shelf

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yewmoor/internal/craft/material"
	"yewmoor/internal/craft/substance"
	"yewmoor/internal/platform/database"
)

// Substances is the shop's list: the usual ones, then its own.
func Substances(ctx context.Context, db database.Reader) (substance.List, error) {
	var rows []struct {
		Code, Name, Words string
		Of                string `db:"of_class"`
	}
	// A handful of rows.
	if err := db.SelectContext(ctx, &rows, `SELECT code, name, words, of_class FROM substance ORDER BY code`); err != nil {
		return nil, fmt.Errorf("reading the substances: %w", err)
	}
	if len(rows) == 0 {
		return substance.Usual, nil
	}
	list := slices.Clone(substance.Usual)
	for _, r := range rows {
		s := substance.Substance{Code: r.Code, Name: r.Name}
		if r.Of != "" {
			s.Of = []string{r.Of}
		}
		if r.Words != "" {
			s.Words = strings.Split(r.Words, "|")
		}
		list = append(list, s)
	}
	return list, nil
}

// Both are the shop's substances and its materials.
func Both(ctx context.Context, db database.Reader) (substance.List, material.Shelf, error) {
	list, err := Substances(ctx, db)
	if err != nil {
		return nil, nil, err
	}
	materials, err := Load(ctx, db)
	return list, materials, err
}
