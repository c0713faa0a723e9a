package recipe

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

//go:embed library.json
var libraryJSON []byte

// House is a recipe under its short name.
type House struct {
	Slug string `json:"slug"`
	Recipe
}

var library = func() []House {
	var all map[string]Recipe
	if err := json.Unmarshal(libraryJSON, &all); err != nil {
		panic(fmt.Errorf("reading the built-in recipes: %w", err))
	}
	var list []House
	for slug, r := range all {
		list = append(list, House{slug, r})
	}
	slices.SortFunc(list, func(a, b House) int {
		if a.Group != b.Group {
			return strings.Compare(a.Group, b.Group)
		}
		return strings.Compare(a.Name, b.Name)
	})
	return list
}()

// Library are the recipes that a new shop starts from: common practice, no
// supplier's. Nobody changes what is returned.
func Library() []House { return library }

// BuiltIn is one of them.
func BuiltIn(slug string) (Recipe, bool) {
	i := slices.IndexFunc(library, func(h House) bool { return h.Slug == slug })
	if i < 0 {
		return Recipe{}, false
	}
	return library[i].Recipe, true
}
